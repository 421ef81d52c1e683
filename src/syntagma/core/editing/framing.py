"""What surrounds a wish: who greets, asks and thanks; and what that says (draw me: a drawing; a ten second clip of: it moves, ten seconds)."""

import re
from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from syntagma.core.editing.edits import SEAM, Edit, edited, quotations, sewn, within
from syntagma.core.editing.frame_words import Frames
from syntagma.core.editing.settings import COUNTED, LONG, RATIO, number, ratio, seconds
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
_SETTING = regex(r"([\w:.× ]{2,20}?)(?:, ?|: ?(?=[^\d\s]))(?=\S)")  # "8 sec, vertical: …"
_SENTENCE = "\1"  # marks where a frame began a sentence
_SHAPES = ("vertical", "square", "widescreen", "horizontal")


class Framed(NamedTuple):
    """A wish without its frame, and what the frame said: how it is `made`, whether it moves, settings, how many pictures, what else it told."""

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
    """Takes frames off: what `frames` finds, and by the tables of own-words.toml what names a picture and says nothing of its kind."""

    def __init__(self, words: Mapping[str, Any], frames: Frames):
        self.words, self.frames = words, frames
        articles, of = r"(?:(?:a|an|the|some|one|this|short|quick|nice|cool|beautiful|good|great|new|little|vertical|square|horizontal) ){0,4}", one_of(words["of"])
        self._plain = re.compile(rf"{articles}(?:{one_of(words['plain'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I)
        self._moving = re.compile(rf"{articles}({one_of(words['moving'])})(?: (?:{of})(?=\W|$)| ?[:,])\s*", re.I)
        self._purpose = re.compile(rf"(?:(?:a|an|the|some|one) )?(?:{one_of(words['plain'])}|({one_of(words['moving'])})) for (?:my|our|the|a|an|this|his|her|their)\b[^,.;:]+[,;:]\s*", re.I)
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
        found = found._replace(told=tuple(said.rstrip(".") for one in stretches for said in re.split(r"(?<=[.!?]) ", one) if self.frames.tells(said)))
        if made := self._makes.findall(framed):
            found = found._replace(made=self.words["makes"][made[-1].lower()])
        found = found._replace(moving=bool(self._films.search(framed)))
        while True:
            before = text
            text = self._early_settings(text, parameters)
            if match := COUNTED.match(text):
                text, found = text[match.end() :], found._replace(pictures=int(number(match[1])))
            if match := self._purpose.match(text):
                text, found = text[match.end() :], found._replace(moving=found.moving or bool(match[1]))
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
        return found._replace(text=text[:1].upper() + text[1:] if text != wish and wish[:1].isupper() else text, parameters=parameters)

    def _unframed(self, text: str) -> tuple[str, list[str]]:
        """A text without what surrounds it, and that."""
        stretches = self.frames.found(text)
        if not stretches:
            return text, []
        framed = [text[start:stop].strip(" ,:;-") for start, stop in stretches]
        edits = [Edit(start, stop, SEAM if stop == len(text) else _SENTENCE if not text[:start].strip() or text[:start].rstrip()[-1] in ".!?…" else "") for start, stop in stretches]
        left = re.sub(rf" *{_SENTENCE}[ ,:;.!-]*(\w?)", lambda m: (" " if m.start() else "") + (m[1].upper() if m.start() else m[1]), edited(text, edits))
        left = re.sub(r" {2,}", " ", sewn(left)).strip(" ,;?")
        quoted = quotations(left)
        return re.sub(r"\?(?= \w)", lambda mark: "?" if within(quoted, mark.start()) else ",", left), framed

    def _early_settings(self, text: str, parameters: dict[str, Any]) -> str:
        """Settings that come before the name of the picture: "a 16:9 picture of", "a vertical clip of", "a five second loop"."""
        for words, said in self.words["ratios"].items():
            if words.startswith("for ") and (found := re.match(rf"(.{{0,30}}?) {words}(?=[:,])", text, re.I)):
                parameters["ratio"] = said
                text = found[1] + text[found.end() :]
        while match := _SETTING.match(text):
            said = match[1].lower()
            if said in self.words["ratios"] or (found := RATIO.fullmatch(said)):
                parameters["ratio"] = self.words["ratios"].get(said) or ratio(found)
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
    """ "What a station would look like if it was built by octopuses" as "a station built by octopuses"."""
    more = match.end() < len(match.string) and match[0].endswith("?")
    return " ".join(filter(None, match.groups())) + ("," if more else "")
