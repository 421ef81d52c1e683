"""What stands round a wish: who greets, asks and thanks; and what that says (draw me: a drawing; a ten second clip of: it moves, ten seconds)."""

import re
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from syntagma.core.editing.settings import COUNTED, LONG, RATIO, number, ratio
from syntagma.core.notation.late_regex import regex

_WOULD = regex(r"^(?:would|could|can|will|might) ((?:an?|the|some|two|three) [^,?]+?) (?:work|be possible|be ok|fit|do)(?=[,?]|$)", re.I)
_LOOKS = regex(
    r"^(?:(?:can|could) (?:you|we) )?(?:show(?: me)? |see |imagine )?(?:what (.+?) would look like if (?:it|they|he|she) (?:was|were|had been) (.+)"
    r"|what would (.+?) look like if (?:it|they|he|she) (?:was|were|had been) ([^?]+)\??"
    r"|how (?:would|might|could) ((?:an?|the|my|our|some)? ?[\w-]+(?: [\w-]+)?) look(?: like)? ((?:in|under|on|at|as|with|inside|from|under\w+|with\w*|made of|made from|made out of|built of|built from|carved from|carved out of|cast in|knitted from|drawn in|painted in|covered in|dressed as) ?[^?]*)\??"
    r"|(?:what|how) ((?:an?|the|my|our|two|three|some) [^,?]+?) (?:could|would|might|may|does|should) look(?: like)?)(?=$|\s|[?.,])", re.I,
)  # fmt: skip
_MADE_OF = r"(?:clip|video|loop|film|animation|movie|picture|image|photo|photograph|shot|wallpaper|poster|drawing|illustration|painting)\b"
_EARLY = regex(rf"((?:(?:a|an|the|some|one) )?)((?:[\w:.×-]{{1,30}},? ){{1,5}}?)(?=(?:[\w-]{{1,30}} ){{0,2}}?{_MADE_OF})", re.I)
_WANTED = regex(r"(?:me|us|please|it|up(?= (?:an?|the|some|my|our)\b)|a|an|the|some|one|two|three|four|five|\d+|my|our|this)\b(?!-)", re.I)
_FOR = regex(r"^(?:(?:i )?(?:need|want)(?: to have)? )?(?:something|smth|sth|sthg|a picture|an image|a pic) for [^:,.;]{2,60}: ?(?=\S)", re.I)  # "need smth for my group: a bard"
_BECAUSE = regex(r"^(?:i|we)(?:'|’| a)?(?:m|re) (?:writing|making|doing|building|planning|working on|designing|starting|opening|running) [^,.;:]{2,60}? (?:and|so) (?:i |we )?(?=(?:want|need|would|'d|am looking|are looking)\b)", re.I)  # "I'm writing a cookbook and want a picture of"
_SHAPES = ("vertical", "square", "widescreen", "horizontal")


class Framed(NamedTuple):
    """A wish without its frame, and what the frame said: how it is `made`, whether it moves, settings, how many pictures."""

    text: str
    made: str = ""
    moving: bool = False
    parameters: Mapping[str, Any] = {}
    pictures: int = 0


def one_of(words: Iterable[str]) -> str:
    """A pattern for one of some words, the longest first."""
    return "|".join(map(re.escape, sorted(words, key=len, reverse=True)))


class Framing:
    """Takes frames off, by the tables of own-words.toml."""

    def __init__(self, words: Mapping[str, Any]):
        self.words = words
        articles, of = r"(?:(?:a|an|the|some|one|this|short|quick|nice|cool|beautiful|good|great|new|little|vertical|square|horizontal) ){0,4}", one_of(words["of"])
        exclaims, begins = one_of(words["exclaims"]), one_of([*words["greets"], *words["softens"], *(ask for ask in words["asks"] if " " in ask or ask.endswith(":")), "imagine"])
        verbs = one_of(ask for ask in words["asks"] if " " not in ask)
        self._greets = re.compile(
            rf"(?:(?:{one_of(words['greets'])})\b(?!-)[\s,.!:-]*|(?:{exclaims})(?:\s?[,.!:…]+\s*|\s+[-–—]\s+)|(?:{exclaims})\s+(?=(?:{begins})(?:\b(?!-)|(?<=:))|(?:{verbs}) (?:me|us|a|an|the|some|my|our)\b)"
            rf"|(?:{one_of(words['softens'])})\s+(?=(?:a|an|the|my|our|one|two|three|some)\b))(?=\w|[\"“'(])", re.I,
        )  # fmt: skip
        self._asks = re.compile(rf"({one_of(words['asks'])})(?:\b(?!-)|(?<=:))[\s,:]*", re.I)
        self._then = re.compile(rf"({one_of(words['then'])})\b(?!-)[\s,]*", re.I)
        self._calls = re.compile(rf"(?:^|.* )(?:{one_of(words['calls'])})$", re.I)
        self._plain = re.compile(rf"{articles}(?:{one_of(words['plain'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I)
        self._moving = re.compile(rf"{articles}({one_of(words['moving'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I)
        self._purpose = re.compile(rf"(?:(?:a|an|the|some|one) )?(?:{one_of(words['plain'])}) for [^,.;]+[,;]\s*", re.I)
        self._kinds = re.compile(rf"(?:{one_of([*words['plain'], *words['moving'], *words['leads']['counted']])})\b(?! (?:bridge|book|frame|board|room|box|paper)\b)", re.I)
        self._thanks = re.compile(rf"(?<!says)(?<!say)(?<!saying)(?<!reads)(?<!reading)(?<!words)(?<!written)(?:(?:^|[\s,.;!?-]+)(?:{one_of(words['thanks'])})(?:,? (?:{one_of(words['called'])})){{0,2}}|[,.;!?…-]\s*(?:{one_of(words['ends'])}))[\s.!?]*$", re.I)

    def off(self, wish: str) -> Framed:
        """The wish without its frame; as it is where nothing else would be left."""
        text, found = _LOOKS.sub(_looked, wish), Framed("")
        parameters: dict[str, Any] = {}
        asked, last = False, ""
        if match := _FOR.match(text) or _BECAUSE.match(text):
            text, asked = text[match.end() :], True
        if match := _WOULD.match(text):
            text, asked = match[1] + text[match.end() :], True
        while True:
            before = text
            if match := self._greets.match(text):
                text = text[match.end() :]
                if self._calls.match(match[0].rstrip()):
                    asked, last = True, match[0].rstrip()
            if (match := self._asks.match(text)) and self._is_frame(text, match):
                text, asked, found, last = text[match.end() :], True, self._said(found, match[1]), match[1]
            while asked and (match := self._then.match(text)) and match.end() < len(text) and self._goes_on(text, match, last):
                text, found, last = text[match.end() :], self._said(found, match[1]), match[1]
            text = self._early_settings(text, parameters)
            if match := COUNTED.match(text):
                text, found = text[match.end() :], found._replace(pictures=int(number(match[1])))
            if match := self._purpose.match(text):
                text = text[match.end() :]
            if match := self._moving.match(text):
                text, found = text[match.end() :], found._replace(moving=True)
            elif (match := self._plain.match(text)) and match.end() < len(text):
                text = text[match.end() :]
            if asked and found.made and re.match(r"of (?=\w)", text):
                text = text[3:]
            if text == before:
                break
        while (match := self._thanks.search(text)) and match.start():
            text = text[: match.start()]
        text = text.strip()
        if asked:
            text = re.sub(r"\?(?= \w)", ",", text.rstrip("?"))
        if not text:
            return Framed(wish)
        return found._replace(text=text[:1].upper() + text[1:] if text != wish and wish[:1].isupper() else text, parameters=parameters)

    def _said(self, found: Framed, verb: str) -> Framed:
        """What a verb says of the picture: draw, film."""
        verb = verb.lower()
        return found._replace(made=self.words["makes"].get(verb, found.made), moving=found.moving or verb in ("film", "animate", "shoot"))

    def _is_frame(self, text: str, match: re.Match) -> bool:
        """Does a verb at the beginning ask for something, and is no word of the picture: "show jumping", "draw bridge"? What is asked for has an article, a number or the name of a picture."""
        if " " in match[1] or match[1].endswith(":") or match[1].lower() in ("i'd", "imagine", "want", "need", "create", "generate"):
            return True
        return self._asks_for(text[match.end() :])

    def _goes_on(self, text: str, match: re.Match, last: str) -> bool:
        """Does what follows an ask still ask: "can you draw horses", "make me up a fox", but not "I'd like film noir", "show me paint pots"?"""
        word = match[1].lower()
        if word == "really":
            return self._then.match(text[match.end() :]) is not None
        return word not in self.words["verbs"] or (bool(self._calls.match(last)) and not re.match(r"up\b", text[match.end() :])) or self._asks_for(text[match.end() :])

    def _asks_for(self, text: str) -> bool:
        """Does a text begin with a thing that can be asked for: an article, a number, the name of a kind of picture?"""
        return bool(_WANTED.match(text) or self._kinds.match(text))

    def _early_settings(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings that stand before the name of the picture: "a 16:9 picture of", "a vertical clip of", "a five second loop"."""
        for words, said in self.words["ratios"].items():
            if words.startswith("for ") and (found := re.match(rf"(.{{0,30}}?) {words}(?=[:,])", text, re.I)):
                parameters["ratio"] = said
                text = found[1] + text[found.end() :]
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
    """ "What a station would look like if it was built by octopuses" as "a station built by octopuses"."""
    more = match.end() < len(match.string) and match[0].endswith("?")
    return " ".join(filter(None, match.groups())) + ("," if more else "")
