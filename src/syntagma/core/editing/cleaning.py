"""A wish without what stands round it and beside it: who asks and thanks, what is to be kept out, the ratio, how long, how many, weights; typing errors put right.

What is taken off is kept beside the text (`Cleaned`); of the words that are left none is changed but those that were mistyped.
"""

import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core.editing.edits import Edit, Item, edited, items, quotations, within
from syntagma.core.notation.late_regex import regex

NUMBERS = {word: n for n, word in enumerate("zero one two three four five six seven eight nine ten eleven twelve".split())} | {"fifteen": 15, "twenty": 20, "thirty": 30, "forty": 40, "sixty": 60}
_NUMBER = rf"(?:\d+(?:\.\d+)?|{'|'.join(NUMBERS)})"
_RATIO = regex(r"(?<![\w:./])(\d{1,2}(?:\.\d{1,2})?)\s?(?::|x|×|by)\s?(\d{1,2}(?:\.\d{1,2})?)(?![\w:.]*\w)(?! ?(?:grid|layout|cm|m\b|in\b|inch|feet|foot|metres?|meters?|tiles?|cubes?))")
RATIOS = frozenset("1:1 2:3 3:2 3:4 4:3 4:5 5:4 5:7 7:5 9:16 16:9 16:10 10:16 21:9 9:21 2:1 1:2 3:1 1:3 2.39:1 2.35:1 1.85:1 1.66:1 2.76:1 1.91:1 9:19.5 18:9 9:18".split())
_SECONDS = regex(rf"^(?:about |around |for |in |lasting |of |duration:? )?({_NUMBER})(?:[ -]?(?:sec|secs|seconds?)|(?<![2-9]0) ?s)(?: long| in length| please| total)?$", re.I)
_MINUTE = regex(r"^(?:about |around |for )?(half a|a|one) minute(?: long)?$", re.I)
_CLOCK = regex(r"^0?:(\d\d)$")
_LONG = regex(rf"(?<![\w-])({_NUMBER})(?:[- ]?(?:sec|seconds?)|(?<![2-9]0)s)[- ](?:long )?(?=(?:[\w-]+ ){{0,2}}(?:clip|video|loop|shot|film|animation|movie|take|scene|footage)\b)", re.I)
_COUNT = regex(rf"^(?:in |with |give me |make )?({_NUMBER}) (?:different )?(?:versions?|variations?|variants?|options?|alternatives?|proposals?)(?: please)?$", re.I)
_COUNTED = regex(rf"^({_NUMBER}) (?:different )?(?:versions?|variations?|variants?|options?|alternatives?|takes?|images|pictures|photos) of (?=\w)", re.I)
_WEIGHTS = (  # how weights are written in other hands: the words, and the weight where one is said
    regex(r"\(\s*([^():]+?)\s*:\s*(\d*\.?\d+)\s*\)"), regex(r"\(\(+\s*([^()]+?)\s*\)\)+()"), regex(r"\{\{+\s*([^{}]+?)\s*\}\}+()"), regex(r"\[\[+\s*([^\[\]]+?)\s*\]\]+()"),
    regex(r"(?<![\w.])([A-Za-z][\w’' -]*?)::(-?\d*\.?\d+)"), regex(r"(?<![\w+])([A-Za-z][\w’'-]*)\+\++()"),
)  # fmt: skip
_BREAK = regex(r"[,\s]*\bBREAK\b[,\s]*")
_WOULD = regex(r"^(?:would|could|can|will|might) ((?:an?|the|some|two|three) [^,?]+?) (?:work|be possible|be ok|fit|do)(?=[,?]|$)", re.I)
_LOOKS = regex(r"^(?:(?:can|could) (?:you|we) )?(?:show(?: me)? |see |imagine )?(?:what (.+?) would look like if (?:it|they|he|she) (?:was|were|had been) (.+)|how (?:would|might|could) ((?:an?|the|my|our|some)? ?[\w-]+(?: [\w-]+)?) look(?: like)? ((?:in|under|on|at|as|with|inside|from|under\w+|with\w*) ?[^?]*)\??)(?=$|\s|[?.])", re.I)
_ONLY = regex(r"^(.+?)(?: |, )(only .+)$", re.I)
_TAIL = regex(r"^(.*\w)(?:,? (?:and|but|with)) no ([\w'’ -]+)$|^(.*?\w),?(?: and| but)? without (?:any )?([\w'’-]+(?: [\w'’-]+)?)$", re.I)
_NOT_DOING = regex(r"^(.*\w),? (?:who|that|which)(?: is|'s|’s| are) not (\w+ing)$", re.I)
_SHOUTS = regex(r"(?<=[\w\"”’')])!+(?=\s|$)|(?<=[\w\"”’')])[!?]{2,}")
_CAPITALS = regex(r"(?<=\b)((?:that (?:reads|says)|reading|saying|sign|title|text|words?|headline|lettering|label|banner|slogan|name)[: ]+)([A-Z][A-Z0-9'’&!-]+(?: [A-Z0-9][A-Z0-9'’&!-]*)*)(?=$|[\s,.;])")


class Cleaned(NamedTuple):
    """A wish on its own: its text; what it keeps out; parameters (ratio, seconds) by name; how many pictures it asks for (0: it says nothing); weights by the words that have them;
    how it says that it is made ("drawing" of "draw me"); whether it asks for something that moves; and the remarks there are: what was mended, what was taken for a setting."""

    text: str
    negative: tuple[str, ...] = ()
    parameters: Mapping[str, Any] = {}
    count: int = 0
    weights: Mapping[str, float] = {}
    made: str = ""
    moving: bool = False
    remarks: tuple[str, ...] = ()


class Cleaner:
    """Cleans wishes by what people write round them (`words`: the tables of own-words.toml) and the pairs of mistyped words."""

    def __init__(self, words: Mapping[str, Any], spelling: Mapping[str, str]):
        self.words, self.spelling = words, spelling
        choice = lambda name: "|".join(map(re.escape, sorted(words[name], key=len, reverse=True)))  # noqa: E731
        self._greets = re.compile(rf"(?:{choice('greets')})\b[\s,.!:-]*(?=\w|[\"“'(])", re.I)
        self._asks = re.compile(rf"({choice('asks')})(?:\b|(?<=:))[\s,:]*", re.I)
        self._then = re.compile(rf"({choice('then')})\b[\s,]*", re.I)
        self._plain = re.compile(rf"(?:(?:a|an|the|some|one|this|short|quick|nice|cool|beautiful|good|great|new|little) )*(?:{choice('plain')})(?: (?:{choice('of')})(?=\W|$)| ?[:,])\s*", re.I)
        self._moving = re.compile(rf"(?:(?:a|an|the|some|one|short|quick|nice|cool|little|vertical|square|horizontal) )*({choice('moving')})(?: (?:{choice('of')})(?=\W|$)| ?[:,])\s*", re.I)
        self._kinds = re.compile(rf"(?:{'|'.join(map(re.escape, [*words['plain'], *words['moving'], *words['leads']['counted']]))})\b(?! (?:bridge|book|frame|board|room|box|paper)\b)", re.I)
        self._thanks = re.compile(rf"(?:^|[\s,.;!?-]+)(?:{choice('thanks')})[\s.!?]*$", re.I)
        self._purpose = re.compile(rf"(?:(?:a|an|the|some|one) )?(?:{choice('plain')}) for [^,.;]+[,;]\s*", re.I)
        self._wanted = re.compile(rf"^(?:and )?(?:{choice('wanted')})\b\s*(?=(?:a|an|the|some|one|two|three|more|his|her|its|their|my)\b)", re.I)
        self._denies = re.compile(rf"^(?:and |but |also |with )?({choice('denies')})\b\s*:?\s*(?=\S)", re.I)
        self._denied = re.compile(rf"^(.+?)(?:,)? (?:{choice('denied_after')})$", re.I)
        self._undenied = re.compile(rf"^(?:{choice('no_denial')})\b", re.I)

    def clean(self, wish: str) -> Cleaned:
        """The wish on its own. A blank one comes back as it is."""
        text, remarks = " ".join(wish.split()), []
        text, weights = _weighed(text)
        text, made, moving, parameters, count = self._unframed(self._mended(text, remarks))
        edits: list[Edit] = []
        negative: list[str] = []
        for item in items(text):
            self._item(text, item, edits, negative, parameters)
            if match := _COUNT.match(item.text):
                count = int(_number(match[1]))
                edits.append(_off(text, item))
        text = _tidied(edited(text, _apart(edits)))
        text = _tidied(self._within(text, parameters))
        text = _tidied(_CAPITALS.sub(lambda m: m[1] + (f'"{m[2]}"' if not re.search(r'["“]$', m[1]) else m[2]), text))
        return Cleaned(text or " ".join(wish.split()), tuple(dict.fromkeys(negative)), parameters, count, weights, made, moving, tuple(remarks))

    def _mended(self, text: str, remarks: list[str]) -> str:
        """The text with words of the list of mistyped ones put right; never within quotation marks, nor a name."""
        quoted = quotations(text)

        def right(match: re.Match) -> str:
            word = match[0]
            meant = self.spelling.get(word.lower().replace("’", "'"))
            if meant is None or within(quoted, match.start()) or (word != word.lower() and (match.start() or word.isupper())):
                return word
            remarks.append(f"“{word}” is read as “{meant}”")
            return meant[:1].upper() + meant[1:] if word[:1].isupper() else meant

        return re.sub(r"[A-Za-z][A-Za-z’']*", right, text)

    def _unframed(self, text: str) -> tuple[str, str, bool, dict[str, Any], int]:
        """The text without who asks and thanks, and what that says: how it is made, whether it moves, settings, how many."""
        made, moving, count, start = "", False, 0, text
        parameters: dict[str, Any] = {}
        asked = False
        text = _LOOKS.sub(lambda m: f"{m[1] or m[3]} {m[2] or m[4]}" + ("," if m[0].endswith("?") and m.end() < len(text) else ""), text)
        if match := _WOULD.match(text):
            text, asked = match[1] + text[match.end() :], True
        while True:
            before = text
            text = self._greets.sub("", text, count=1) if self._greets.match(text) else text
            if (match := self._asks.match(text)) and self._is_frame(text, match):
                made = self.words["makes"].get(match[1].lower(), made)
                moving |= match[1].lower() in ("film", "animate", "shoot")
                text, asked = text[match.end() :], True
            while asked and (match := self._then.match(text)) and match.end() < len(text):
                made = self.words["makes"].get(match[1].lower(), made)
                moving |= match[1].lower() in ("film", "animate")
                text = text[match.end() :]
            text = self._early_settings(text, parameters)
            if match := _COUNTED.match(text):
                count, text = int(_number(match[1])), text[match.end() :]
            if match := self._purpose.match(text):
                text = text[match.end() :]
            if match := self._moving.match(text):
                moving, text = True, text[match.end() :]
            elif (match := self._plain.match(text)) and match.end() < len(text):
                text = text[match.end() :]
            if asked and made and re.match(r"of (?=\w)", text):
                text = text[3:]
            if text == before:
                break
        while match := self._thanks.search(text):
            if not match.start():
                break
            text = text[: match.start()]
        text = text.strip()
        if asked:
            text = re.sub(r"\?(?= \w)", ",", text.rstrip("?"))
        if asked and not text:
            return start, "", False, {}, 0
        return (text[:1].upper() + text[1:] if text != start and start[:1].isupper() else text), made, moving, parameters, count

    def _is_frame(self, text: str, match: re.Match) -> bool:
        """Does a verb at the beginning ask for something, and is no word of the picture: "show jumping", "draw bridge", "paint splashes"? What is asked for has an article, a number or a name of a picture."""
        if " " in match[1] or match[1].lower() in ("i'd", "imagine", "want", "need", "give", "create", "generate", "produce"):
            return True
        if self._kinds.match(text[match.end() :]):
            return True
        return bool(re.match(r"(?:(?:me|us|please|it|up)\b|a\b|an\b|the\b|some\b|one\b|two\b|three\b|four\b|five\b|\d|my\b|our\b|this\b)", text[match.end() :], re.I))

    def _early_settings(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings that stand before the name of the picture: "a 16:9 picture of", "a vertical clip of", "a five second loop"."""
        for words, ratio in self.words["ratios"].items():
            if words.startswith("for ") and (found := re.match(rf"(.{{0,30}}?) {words}(?=[:,])", text, re.I)):
                parameters["ratio"] = ratio
                text = found[1] + text[found.end() :]
        head = re.match(r"((?:(?:a|an|the|some|one)\s+)?)((?:[\w:.×-]+[\s,]+){1,5}?)(?=(?:[\w-]+\s+){0,2}?(?:clip|video|loop|film|animation|movie|picture|image|photo|photograph|shot|wallpaper|poster|drawing|illustration|painting)\b)", text, re.I)
        if not head:
            return text
        words = head[2]
        new = words
        if (match := _RATIO.search(words)) and (ratio := _ratio(match)):
            parameters["ratio"] = ratio
            new = new.replace(match[0], "", 1)
        if (match := _LONG.search(text)) and match.start() <= head.end():
            parameters["seconds"] = _number(match[1])
            return text[: match.start()] + text[match.end() :]
        for word in ("vertical", "square", "widescreen", "horizontal"):
            if re.match(rf"{word}\s+$", new, re.I) and re.match(r"(?:clip|video|loop|film|animation|movie|picture|image|photo|photograph|format)\b", text[head.end() :], re.I):
                parameters.setdefault("ratio", self.words["ratios"][word])
                new = re.sub(rf"{word}\s+", "", new, flags=re.I)
        new = new if new == words else new.lstrip(" ,-")
        return text if new == words else head[1] + new + text[head.end() :]

    def _item(self, text: str, item: Item, edits: list[Edit], negative: list[str], parameters: dict[str, Any]) -> None:
        """One item: all of it a setting or a denial, or with one at its end."""
        if item.text[:1] in "\"“":
            return
        plain = re.sub(r"^(?:in|and|with|at|format|aspect ratio|ratio|ar)[:\s]+|\s+(?:please|format|aspect ratio|ratio|aspect)$", "", item.text, flags=re.I).strip()
        ratios: Mapping[str, str] = self.words["ratios"]
        found = _RATIO.search(plain)
        rest = (plain[: found.start()] + plain[found.end() :]).strip(" ,()") if found else plain
        if found and (ratio := _ratio(found)) and (not rest or rest.lower() in ratios or rest.lower() in ("landscape", "portrait", "format", "wide", "tall", "aspect", "ar")):
            parameters["ratio"] = ratio
        elif (ratio := ratios.get(item.text.lower().strip("()"), ratios.get(plain.lower(), ""))) and item.start:
            parameters.setdefault("ratio", ratio)
        elif match := _SECONDS.match(plain):
            parameters["seconds"] = _number(match[1])
        elif match := _MINUTE.match(plain):
            parameters["seconds"] = 30 if match[1].lower() == "half a" else 60
        elif match := _CLOCK.match(plain):
            parameters["seconds"] = int(match[1])
        elif said := self._denial(item.text):
            only = _ONLY.match(said)
            negative += _several(only[1] if only else said)
            if only:
                edits.append(Edit(item.start, item.stop, only[2]))
                return
        elif match := self._wanted.match(item.text) if item.start else None:
            edits.append(Edit(item.start, item.start + match.end()))
            return
        else:
            self._end(item, edits, negative)
            return
        edits.append(_off(text, item))

    def _denial(self, words: str) -> str:
        """What an item as a whole keeps out; "" where it keeps out nothing."""
        if match := self._denied.match(words):
            return re.sub(r"^(?:the|any) ", "", match[1], flags=re.I)
        match = self._denies.match(words)
        rest = words[match.end() :] if match else ""
        if not match or self._undenied.match(rest) or (match[1].lower() == "without" and re.match(r"(?:a|an|the|its|his|her|their)\b", rest)) or len(rest.split()) > 7:
            return ""
        return re.sub(r"\s+(?:at all|please|in it|in the (?:picture|image|photo|frame|shot|scene)|anywhere|visible)$", "", rest, flags=re.I)

    def _end(self, item: Item, edits: list[Edit], negative: list[str]) -> None:
        """A denial at the end of an item: "with tiny ships and no sea monsters", "a woman who is not smiling"."""
        match = _NOT_DOING.match(item.text) or _TAIL.match(item.text)
        if not match:
            return
        kept, said = (text for text in match.groups() if text is not None)
        if self._undenied.match(said) or len(said.split()) > 4 or re.search(r"\b(?:a|an|the|his|her|its|their)\b", said):
            return
        negative += _several(said)
        edits.append(Edit(item.start + len(kept), item.stop))

    def _within(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings within what is left: a ratio that stands among words, how long a clip is to be."""
        if (match := _LONG.search(text)) and "seconds" not in parameters:
            parameters["seconds"] = _number(match[1])
            text = text[: match.start()] + text[match.end() :]
        quoted = quotations(text)
        for match in _RATIO.finditer(text):
            if not within(quoted, match.start()) and (ratio := _ratio(match)) and match[0].replace(" ", "") == ratio and "ratio" not in parameters:
                parameters["ratio"] = ratio
                return re.sub(r"\s*\(\s*\)", "", text[: match.start()] + text[match.end() :])
        return text


def _weighed(text: str) -> tuple[str, dict[str, float]]:
    """The text without the marks of weights of other hands, and the weights by their words."""
    weights: dict[str, float] = {}
    for pattern in _WEIGHTS:

        def plain(match: re.Match) -> str:
            words = match[1].strip()
            weights[words] = float(match[2]) if match[2] else 1.2
            return words

        text = pattern.sub(plain, text)
    return _BREAK.sub(", ", text), weights


def _number(word: str) -> float:
    found = NUMBERS.get(word.lower())
    value = float(word) if found is None else float(found)
    return int(value) if value == int(value) else value


def _ratio(match: re.Match) -> str:
    ratio = f"{match[1]}:{match[2]}"
    return ratio if ratio in RATIOS else ""


def _several(words: str) -> list[str]:
    """The things that a denial names, one by one."""
    parts = re.split(r",\s*|\s+(?:or|and|nor)\s+(?:no\s+)?", words)
    return [part.strip(" .!?") for part in parts if part.strip(" .!?")]


def _off(text: str, item: Item) -> Edit:
    """An item taken out with the mark before it; the first with the mark behind it."""
    before = re.search(r"[,;]?\s*$", text[: item.start])
    start = before.start() if before else item.start
    stop = item.stop
    if not text[:start].strip():
        start, stop = 0, item.stop + len(re.match(r"[,;.!?]*\s*", text[item.stop :])[0])
    return Edit(start, stop)


def _apart(edits: Sequence[Edit]) -> list[Edit]:
    """The edits without those that lie in another."""
    found: list[Edit] = []
    for one in sorted(edits, key=lambda e: (e.start, -e.stop)):
        if not found or one.start >= found[-1].stop:
            found.append(one)
    return found


def _tidied(text: str) -> str:
    """The text with seams that a removal left put right: no blank before a mark, no mark twice, one mark of exclamation at most as a full stop."""
    text = _SHOUTS.sub(lambda m: "" if m.end() == len(text) else "!" if re.match(r"\s+[A-Z]", text[m.end() :]) else ",", text)
    text = re.sub(r"\s+([,;.:!?])(?=\s|$)", r"\1", text)
    text = re.sub(r"([,;])(?:\s*[,;])+", r"\1", text)
    text = re.sub(r"[,;]\s*([.!?])", r"\1", text)
    return re.sub(r"^[\s,;.]+|[\s,;]+$", "", re.sub(r"\s{2,}", " ", text))
