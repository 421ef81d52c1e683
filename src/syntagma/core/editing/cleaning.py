"""A wish without its frame: greetings, requests, settings and negative text taken off, typing
errors corrected.

What is taken off is kept beside the text (`Cleaned`); of the words that are left none is changed
but those that were mistyped.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core.editing.edits import (
    SEAM,
    Edit,
    TextItem,
    edited,
    items,
    quotations,
    sewn,
    within,
)
from syntagma.core.editing.frame_words import Frames
from syntagma.core.editing.settings import COUNT, COUNTED, LONG, RATIO, bare, number, ratio, seconds
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex

# ──── What surrounds a wish: who greets, asks and thanks; and what that says (draw me: a drawing; a
# ten second clip of: it moves, ten seconds).


_WOULD = regex(
    r"^(?:would|could|can|will|might) ((?:an?|the|some|two|three) [^,?]+?) (?:work|be possible|be"
    r" ok|fit|do)(?=[,?]|$)",
    re.I,
)
_LOOKS = regex(
    r"^(?:(?:can|could) (?:you|we) )?(?:show(?: me)? |see |imagine )?(?:what (.+?) would look like"
    r" if (?:it|they|he|she) (?:was|were|had been) (.+)"
    r"|what would (.+?) look like if (?:it|they|he|she) (?:was|were|had been) ([^?]+)\??"
    r"|how (?:would|might|could) ((?:an?|the|my|our|some)? ?[\w-]+(?: [\w-]+)?) look(?: like)?"
    r" ((?:in|under|on|at|as|with|inside|from|under\w+|with\w*|made of|made from|made out of|built"
    r" of|built from|carved from|carved out of|cast in|knitted from|drawn in|painted in|covered"
    r" in|dressed as) ?[^?]*)\??"
    r"|(?:what|how) ((?:an?|the|my|our|two|three|some) [^,?]+?)"
    r" (?:could|would|might|may|does|should) look(?: like)?)(?=$|\s|[?.,])",
    re.I,
)
_MADE_OF = r"(?:clip|video|loop|film|animation|movie|picture|image|photo|photograph|shot|wallpaper|poster|drawing|illustration|painting)\b"  # noqa: E501
_EARLY = regex(
    r"((?:(?:a|an|the|some|one) )?)((?:[\w:.×-]{1,30},? ){1,5}?)(?=(?:[\w-]{1,30}"
    rf" ){{0,2}}?{_MADE_OF})",
    re.I,
)
_SETTING = regex(r"([\w:.× ]{2,20}?)(?:, ?|: ?(?=[^\d\s]))(?=\S)")  # "8 sec, vertical: …"
_SENTENCE = "\1"  # marks where a frame began a sentence
_SHAPES = ("vertical", "square", "widescreen", "horizontal")


class Framed(NamedTuple):
    """A wish without its frame, and what the frame said: how it is `made`, whether it moves,
    settings, how many pictures, what else it told.
    """

    text: str
    made: str = ""
    moving: bool = False
    parameters: Mapping[str, Any] = {}
    pictures: int = 0
    told: tuple[str, ...] = ()


def one_of(words: Iterable[str]) -> str:
    """A pattern for one of some words, the longest first."""
    return "|".join(map(re.escape, sorted(words, key=len, reverse=True)))


class Framing:
    """Takes frames off: what `frames` finds, and by the tables of own-words.toml what names a
    picture and says nothing of its kind.
    """

    def __init__(self, words: Mapping[str, Any], frames: Frames):
        self.words, self.frames = words, frames
        articles, of = (
            r"(?:(?:a|an|the|some|one|this|short|quick|nice|cool|beautiful|good|great|new|little|vertical|square|horizontal)"
            r" ){0,4}",
            one_of(words["of"]),
        )
        self._plain = re.compile(
            rf"{articles}(?:{one_of(words['plain'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I
        )
        self._moving = re.compile(
            rf"{articles}({one_of(words['moving'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I
        )
        self._purpose = re.compile(
            rf"(?:(?:a|an|the|some|one) )?(?:{one_of(words['plain'])}|({one_of(words['moving'])}))"
            r" for (?:my|our|the|a|an|this|his|her|their)\b[^,.;:]+[,;:]\s*",
            re.I,
        )
        self._makes = re.compile(rf"\b(?:{one_of(words['makes'])})\b", re.I)
        self._films = re.compile(rf"\b(?:{one_of([*words['films'], *words['moving']])})\b", re.I)

    def off(self, wish: str) -> Framed:
        """The wish without its frame; as it is where nothing else would be left."""
        text, found = _LOOKS.sub(_looked, wish), Framed("")
        parameters: dict[str, Any] = {}
        if match := _WOULD.match(text):
            text = match[1] + text[match.end() :]
        text, stretches = self._unframed(text)
        framed = " ".join(stretches)
        found = found._replace(
            told=tuple(
                said.rstrip(".")
                for one in stretches
                for said in re.split(r"(?<=[.!?]) ", one)
                if self.frames.tells(said)
            )
        )
        if made := self._makes.findall(framed):
            found = found._replace(made=self.words["makes"][made[-1].lower()])
        found = found._replace(moving=bool(self._films.search(framed)))
        while True:
            before = text
            text = self._early_settings(text, parameters)
            if match := COUNTED.match(text):
                text, found = text[match.end() :], found._replace(pictures=int(number(match[1])))
            if match := self._purpose.match(text):
                text, found = (
                    text[match.end() :],
                    found._replace(moving=found.moving or bool(match[1])),
                )
            if match := self._moving.match(text):
                text, found = text[match.end() :], found._replace(moving=True)
            elif (match := self._plain.match(text)) and match.end() < len(text):
                text = text[match.end() :]
            if found.made and re.match(r"of (?=\w)", text):
                text = text[3:]
            if text == before:
                break
        if not text:
            return Framed(wish)
        return found._replace(
            text=text[:1].upper() + text[1:] if text != wish and wish[:1].isupper() else text,
            parameters=parameters,
        )

    def _unframed(self, text: str) -> tuple[str, list[str]]:
        """A text without what surrounds it, and that."""
        stretches = self.frames.found(text)
        if not stretches:
            return text, []
        framed = [text[start:stop].strip(" ,:;-") for start, stop in stretches]
        edits = [
            Edit(
                start,
                stop,
                (
                    SEAM
                    if stop == len(text)
                    else (
                        _SENTENCE
                        if not text[:start].strip() or text[:start].rstrip()[-1] in ".!?…"
                        else ""
                    )
                ),
            )
            for start, stop in stretches
        ]
        left = re.sub(
            rf" *{_SENTENCE}[ ,:;.!-]*(\w?)",
            lambda m: (" " if m.start() else "") + (m[1].upper() if m.start() else m[1]),
            edited(text, edits),
        )
        left = re.sub(r" {2,}", " ", sewn(left)).strip(" ,;?")
        quoted = quotations(left)
        return (
            re.sub(r"\?(?= \w)", lambda mark: "?" if within(quoted, mark.start()) else ",", left),
            framed,
        )

    def _early_settings(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings that come before the name of the picture: "a 16:9 picture of", "a vertical clip
        of", "a five second loop".
        """
        for words, said in self.words["ratios"].items():
            if words.startswith("for ") and (
                found := re.match(rf"(.{{0,30}}?) {words}(?=[:,])", text, re.I)
            ):
                parameters["ratio"] = said
                text = found[1] + text[found.end() :]
        while match := _SETTING.match(text):
            said = match[1].lower()
            found = RATIO.fullmatch(said)
            if named := self.words["ratios"].get(said) or (found and ratio(found)):
                parameters["ratio"] = named
            elif long := seconds(said):
                parameters["seconds"] = long
            else:
                break
            text = text[match.end() :]
        head = _EARLY.match(text)
        if not head:
            return text
        words = new = head[2]
        if (match := RATIO.search(words)) and (said := ratio(match)):
            parameters["ratio"] = said
            new = new.replace(match[0], "", 1)
        if (match := LONG.search(text)) and match.start() <= head.end():
            parameters["seconds"] = number(match[1])
            return text[: match.start()] + text[match.end() :]
        for word in _SHAPES:
            if re.match(rf"{word} +$", new, re.I) and re.match(_MADE_OF, text[head.end() :], re.I):
                parameters.setdefault("ratio", self.words["ratios"][word])
                new = ""
        return text if new == words else head[1] + new.lstrip(" ,-") + text[head.end() :]


def _looked(match: re.Match) -> str:
    """ "What a station would look like if it was built by octopuses" as "a station built by
    octopuses".
    """
    more = match.end() < len(match.string) and match[0].endswith("?")
    return " ".join(filter(None, match.groups())) + ("," if more else "")


# ──── A wish without what surrounds it and beside it: who asks and thanks, what is to be kept out,
# the ratio, how long, how many, weights; typing errors put right.
#
# What is taken off is kept beside the text (`Cleaned`); of the words that are left none is changed
# but those that were mistyped.


_ONLY = regex(r"^(.+?)(?: |, )(only .+)$", re.I)
_TAIL = regex(
    r"^(.*\w)(?:,? (?:and|but|with)) no ([\w'’ -]+)$|^(.*?\w),?(?: and| but)? without (?:any"
    r" )?([\w'’-]+(?: [\w'’-]+)?)$",
    re.I,
)
_NOT_DOING = regex(r"^(.*\w),? (?:who|that|which)(?: is|'s|’s| are) not (\w+ing)$", re.I)
_GOES_ON = regex(
    r"\b(?:until|till|unless|but|except|than|any(?:one|body) \w{1,20}ing)\b", re.I
)  # "no color anywhere but the cigarette": what is kept out is not a thing by itself
_SETTINGS = regex(  # what follows a denial without a comma
    r" (?:\||--? [a-z]|(?<=[a-z] )[A-Z][a-z]+(?: [a-z]+)?: |(?:landscape |portrait"
    r" )?\d{1,2}:\d{1,2}\b|(?:steps|cfg|seed|guidance|duration)(?: scale)?:? ?\d|\d{1,3}"
    r" ?(?:s|sec|seconds)\b).*$"
)
_DASH = regex(
    r"(?<=[^\s,.;])\s+[–—-]{1,2}\s+(?=(?:no|without|not|please|pls|thanks|\d{1,2}:\d{1,2})\b)", re.I
)  # "natural light — no people"
_PIPES = regex(r"(?<!\s)\s+\|{1,2}\s+")
_SHOUTS = regex(r"(?<=[\w\"”’')])!{1,20}(?=\s|$)|(?<=[\w\"”’')])[!?]{2,20}")
_CAPITALS = regex(
    r"(?<=\b)((?:that"
    r" (?:reads|says)|(?:called|named)|reading|saying|sign|title|text|words?|headline|lettering|label|banner|slogan|name)[:"  # noqa: E501
    r" ]+)([A-Z][A-Z0-9'’&!-]+(?: [A-Z0-9][A-Z0-9'’&!-]*)*)(?=$|[\s,.;])"
)


class Cleaned(NamedTuple):
    """A wish on its own: its text; what it keeps out; parameters (ratio, seconds) by name; how many
    `pictures` it asks for (0: it says nothing); weights by the words that have them; how it says
    that it is made ("drawing" of "draw me"); whether it asks for something that moves; the remarks
    there are: what was fixed; and what it `told` beside the picture, which is left out.
    """

    text: str
    negative: tuple[str, ...] = ()
    parameters: Mapping[str, Any] = {}
    pictures: int = 0
    weights: Mapping[str, float] = {}
    made: str = ""
    moving: bool = False
    remarks: tuple[str, ...] = ()
    told: tuple[str, ...] = ()


class Cleaner:
    """Cleans wishes by what people write round them and beside them (`words`: the tables of
    own-words.toml), the pairs of mistyped words and what finds frames.
    """

    def __init__(self, words: Mapping[str, Any], spelling: Mapping[str, str], frames: Frames):
        self.words, self.spelling, self.framing = words, spelling, Framing(words, frames)
        verbs = (
            rf"(?:please )?(?:do not|don['’]?t) (?:{one_of(words['doing'])})(?: any| the| in any)?"
        )
        self._denies = re.compile(
            r"^(?:and |but |also |with )?(?:please"
            rf" )?({verbs}|{one_of(words['denies'])})\b\s*:?\s*(?=\S)",
            re.I,
        )
        self._nothing = re.compile(r"^nothing (?!\w+s$)(\w+)(?: please)?$", re.I)
        self._nobody = re.compile(
            rf"^(?:with )?(?:{one_of(words['nobody'])}) (?:{one_of(words['nobody_in'])})$", re.I
        )
        self._doing = re.compile(rf"(?!(?:{one_of(words['things'])})\b)\w+ing\b", re.I)
        self._denied = re.compile(rf"^(.+?)(?:,)? (?:{one_of(words['denied_after'])})$", re.I)
        self._undenied = re.compile(rf"^(?:{one_of(words['no_denial'])})\b", re.I)

    def clean(self, wish: str, profiles: Iterable[Profile] = ()) -> Cleaned:
        """The wish on its own; what is in the notation of `profiles` is taken off, too. A blank one
        comes back as it is.
        """
        text, given, weights, negative = bare(wish, profiles)
        remarks: list[str] = []
        framed = self.framing.off(self._mended(_one_line(sewn(text)), remarks))
        text, parameters, pictures = framed.text, {**given, **framed.parameters}, framed.pictures
        edits: list[Edit] = []
        text = self._parted(_PIPES.sub(", ", _DASH.sub(", ", text)))
        for item in items(text):
            self._item(text, item, edits, negative, parameters)
            if match := COUNT.match(item.text):
                pictures = int(number(match[1]))
                edits.append(_off(text, item))
        text = _tidied(sewn(edited(text, _apart(edits))))
        text = _tidied(self._within(text, parameters))
        text = _tidied(
            _CAPITALS.sub(
                lambda m: m[1] + (f'"{m[2]}"' if not re.search(r'["“]$', m[1]) else m[2]), text
            )
        )
        return Cleaned(
            text or " ".join(wish.split()),
            tuple(dict.fromkeys(negative)),
            parameters,
            pictures,
            weights,
            framed.made,
            framed.moving,
            tuple(remarks),
            framed.told,
        )

    def _mended(self, text: str, remarks: list[str]) -> str:
        """The text with words of the list of mistyped ones put right; never within quotation marks,
        nor a name.
        """
        quoted = quotations(text)

        def right(match: re.Match) -> str:
            word = match[0]
            meant = self.spelling.get(word.lower().replace("’", "'"))
            if (
                meant is None
                or within(quoted, match.start())
                or (word != word.lower() and (match.start() or word.isupper()))
            ):
                return word
            remarks.append(f"“{word}” is read as “{meant}”")
            return meant[:1].upper() + meant[1:] if word[:1].isupper() else meant

        return re.sub(r"(?<!\S)w/o?(?!\S)|[A-Za-z][A-Za-z’']*", right, text)

    def _parted(self, text: str) -> str:
        """The text with a comma between a denial and the settings that follow it: "no text | 3:4",
        "no voices Length: 12 seconds".
        """
        parts = (
            (item, match)
            for item in items(text)
            if (match := _SETTINGS.search(item.text)) and self._denial(item.text[: match.start()])
        )
        return edited(
            text,
            [
                Edit(
                    at := item.start + match.start(),
                    at + len(match[0]) - len(match[0].lstrip(" |-")),
                    ", ",
                )
                for item, match in parts
            ],
        )

    def _item(
        self,
        text: str,
        item: TextItem,
        edits: list[Edit],
        negative: list[str],
        parameters: dict[str, Any],
    ) -> None:
        """One item: all of it a setting or a denial, or with one at its end."""
        if item.text[:1] in '"“':
            return
        plain = re.sub(
            r"^(?:in|and|with|at|format|aspect ratio|ratio|ar)(?:: ?| )| (?:please|format|aspect"
            r" ratio|ratio|aspect)$",
            "",
            item.text,
            flags=re.I,
        ).strip()
        ratios: Mapping[str, str] = self.words["ratios"]
        found = RATIO.search(plain)
        rest = (plain[: found.start()] + plain[found.end() :]).strip(" ,()") if found else plain
        if (
            found
            and (said := ratio(found))
            and (
                not rest
                or rest.lower() in ratios
                or rest.lower()
                in ("landscape", "portrait", "format", "wide", "tall", "aspect", "ar")
            )
        ):
            parameters["ratio"] = said
        elif (
            said := ratios.get(item.text.lower().strip("()"), ratios.get(plain.lower(), ""))
        ) and (item.start or (item.mark == "," and plain.lower().endswith(" wallpaper"))):
            parameters.setdefault("ratio", said)
        elif long := seconds(plain):
            parameters["seconds"] = long
        elif denied := self._denial(item.text):
            only = _ONLY.match(denied)
            negative += _several(only[1] if only else denied)
            if only:
                edits.append(Edit(item.start, item.stop, only[2]))
                return
        else:
            self._end(item, edits, negative)
            return
        edits.append(_off(text, item))

    def _denial(self, words: str) -> str:
        """What an item as a whole keeps out; "" if it keeps out nothing."""
        if match := self._denied.match(words):
            return re.sub(r"^(?:the|any) ", "", match[1], flags=re.I)
        if self._nobody.match(words):
            return "people"
        if (match := self._nothing.match(words)) and not self._undenied.match(match[1]):
            return match[1]
        match = self._denies.match(words)
        rest = words[match.end() :] if match else ""
        if (
            not match
            or self._undenied.match(rest)
            or _GOES_ON.search(rest)
            or len(rest.split()) > 7
        ):
            return ""
        if (
            match[1].lower().endswith("without")
            and (re.match(r"(?:a|an|the|its|his|her|their)\b", rest) or self._doing.match(rest))
        ) or (match[1].lower() == "never" and self._doing.match(rest)):
            return ""
        return re.sub(
            r" (?:at all|please|in it|in the"
            r" (?:picture|image|photo|frame|shot|scene)|anywhere|visible)$",
            "",
            rest,
            flags=re.I,
        )

    def _end(self, item: TextItem, edits: list[Edit], negative: list[str]) -> None:
        """The denials at the end of an item: "with tiny ships and no sea monsters", "a woman who is
        not smiling", "a street with no cars and no people".
        """
        words, denied = item.text, []
        while match := _NOT_DOING.match(words) or _TAIL.match(words):
            kept, said = (text for text in match.groups() if text is not None)
            manner = " without " in words[len(kept) :] and self._doing.match(said)
            if (
                manner
                or self._undenied.match(said)
                or _GOES_ON.search(said)
                or len(said.split()) > 4
                or re.search(r"\b(?:a|an|the|his|her|its|their)\b", said)
            ):
                break
            words, denied = kept, [*_several(said), *denied]
        if denied:
            negative += denied
            edits.append(Edit(item.start + len(words), item.stop))

    def _within(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings within what is left: a ratio among words, how long a clip is to be."""
        if (match := LONG.search(text)) and "seconds" not in parameters:
            parameters["seconds"] = number(match[1])
            text = text[: match.start()] + text[match.end() :]
        quoted = quotations(text)
        for match in RATIO.finditer(text):
            if (
                not within(quoted, match.start())
                and (said := ratio(match))
                and match[0].replace(" ", "") == said
                and "ratio" not in parameters
            ):
                parameters["ratio"] = said
                return re.sub(r" ?\( ?\)", "", text[: match.start()] + text[match.end() :])
        return text


def _several(words: str) -> list[str]:
    """The things that a denial names, one by one."""
    parts = re.split(r", ?| (?:or|and|nor) (?:no )?| no (?=\w)", words)
    return [part.strip(" .!?") for part in parts if part.strip(" .!?")]


def _one_line(wish: str) -> str:
    """The wish on one line; a new line ends an item as a comma does."""
    lines = [
        _heading(" ".join(line.split())) for line in wish.replace('\\"', '"').splitlines()
    ]  # \" is a quotation mark of JSON or of a shell
    return re.sub(r"(?<![,;.:!?…])\n", ", ", "\n".join(line for line in lines if line)).replace(
        "\n", " "
    )


def _heading(line: str) -> str:
    """A line in capitals is a sentence of its own: INT. DINER - NIGHT; one that only counts ("SCENE
    2") says nothing that is seen.
    """
    if re.fullmatch(r"(?:scene|shot|panel|page|take) ?\d+[a-z]?[.:]?", line, re.I):
        return ""
    return (
        f"{line}."
        if len(line.split()) > 1 and line.isupper() and not re.search(r"[,;.:!?…\"”]$", line)
        else line
    )


def _off(text: str, item: TextItem) -> Edit:
    """An item taken out; a seam stays, and `sewn` puts the marks round it right."""
    return Edit(item.start, item.stop, SEAM)


def _apart(edits: Sequence[Edit]) -> list[Edit]:
    """The edits without those that lie in another."""
    found: list[Edit] = []
    for one in sorted(edits, key=lambda e: (e.start, -e.stop)):
        if not found or one.start >= found[-1].stop:
            found.append(one)
    return found


def _tidied(text: str) -> str:
    """The text with seams that a removal left put right: no blank before a mark, no mark twice, one
    mark of exclamation at most as a full stop.
    """
    text = _SHOUTS.sub(
        lambda m: (
            "" if m.end() == len(text) else "!" if re.match(r" [A-Z]", text[m.end() :]) else ","
        ),
        " ".join(text.split()),
    )
    text = re.sub(r" ([,;.:!?])(?= |$)", r"\1", text)
    for twice in (",,", ",;", ";,", ";;", ", ,"):
        while twice in text:
            text = text.replace(twice, twice[0])
    text = re.sub(r"[,;] ?([.!?])", r"\1", text)
    return text.lstrip(" ,;.").rstrip(" ,;")
