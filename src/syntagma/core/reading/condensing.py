"""A prompt made shorter step by step: what carries least goes first, and every step is a sentence.

How much a part carries is an estimate from the text alone: what kind of part it is, its mark in a formula, its place against the reach of
a model, how rare its words are in English, whether it was said before, its stress. It is no look into a generator.
"""

import re
from collections.abc import Callable, Collection, Mapping
from itertools import pairwise
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.groups import head_end
from syntagma.core.english.words import PREPOSITIONS
from syntagma.core.models.measure import words as count_words
from syntagma.core.reading.cues import COLOURS
from syntagma.core.reading.lexicon import WORD, bare
from syntagma.core.reading.reader import NEGATIVE, PART, Piece, Reading
from syntagma.core.reading.verbs import ADJECTIVES, DESCRIBING

# What kinds of part carry, 0 to 1: what a picture is of and what is said most, praise least.
KINDS: Mapping[str, float] = {
    "speech": 1.0, "subject": 0.95, "action": 0.78, "setting": 0.68, "medium": 0.66, "shot-size": 0.6, "camera-move": 0.62, "lighting": 0.56, "hour": 0.5,
    "weather": 0.5, "wardrobe": 0.48, "palette": 0.46, "design-style": 0.46, "technique": 0.42, "composition": 0.42, "camera-angle": 0.44, "era": 0.5,
    "lettering": 0.5, "background": 0.42, "mood": 0.34, "lens": 0.3, "film-look": 0.34, "colour-grade": 0.32, "focus": 0.32, "exposure": 0.28, "detail": 0.14,
}  # fmt: skip
OTHER = 0.36
BEHIND_REACH, TWICE, LESS, RARE = 0.15, 0.3, 0.25, 0.06
USUAL = 4.6  # the mean Zipf frequency of the content words of prompts: rarer ones carry more
_IDLE = frozenset("a an the of and or in on at with by to for from its his her their this that is are as into under over".split())
# Nouns that say too little without what describes them.
_BARE = frozenset(
    """mood atmosphere feeling light lighting detail details palette colours colors tones style background backdrop lens shot hour composition
    grain focus view angle look finish quality resolution exposure shutter film sky weather light-level field""".split()
)
_DESCRIBED = frozenset("subject setting wardrobe lighting medium background weather detail".split())
_TAILED = frozenset("subject action setting wardrobe".split())
_NOUNS = frozenset(
    """railway ferry factory library city county country army navy pastry bakery pottery lady fairy cherry strawberry honey money chimney monkey
    donkey turkey valley alley jersey galaxy rugby party story century spray subway tramway gallery ivory ebony pony story laundry canary jury kitchen
    garden oven linen golden-hour citizen chicken children lantern seed feed reed metal coral crystal animal signal pedal cathedral canal hospital
    material festival carnival terminal fabric music picnic elephant restaurant merchant tenant student president mosquito velvet""".split()
)
_ADJECTIVAL = ("y", "ed", "en", "ous", "ful", "al", "ish", "ic", "less", "ive", "ant", "ent", "ese", "ique", "some", "lit", "ated")
_CLOSING = re.compile(r"^\s*@?[\d.]*[>*!?+^_\])}]+")  # what closes a mark of stress
_LINK = re.compile(r"^(?:and|of|with|for|showing|then|but)\b\s*", re.I)


class Unit(NamedTuple):
    """What can go by itself: a part, or words within one. `part` is its piece's number; `order` when it goes, from 1 (0: it stays)."""

    start: int
    stop: int
    text: str
    part: int
    carries: float
    reasons: tuple[str, ...]
    order: int = 0


class Step(NamedTuple):
    """The prompt with some units gone."""

    text: str
    gone: int  # how many units have gone so far


class Condensed(NamedTuple):
    """Every unit with when it goes, and all steps from the whole text to the shortest."""

    units: list[Unit]
    steps: list[Step]

    def to(self, fits: Callable[[str], bool]) -> Step | None:
        """The longest step that fits."""
        return next((step for step in self.steps if fits(step.text)), None)

    def some(self, number: int) -> list[Step]:
        """So many steps, even in length between the first and the last, the whole text apart."""
        rest = self.steps[1:]
        if len(rest) <= number:
            return rest
        longest, shortest = len(self.steps[0].text), len(rest[-1].text)
        found: list[Step] = []
        for k in range(1, number + 1):
            wanted = longest - (longest - shortest) * k / number
            best = min(rest, key=lambda step: abs(len(step.text) - wanted))
            if best not in found:
                found.append(best)
        return found


def condense(
    reading: Reading,
    zipf: Callable[[str], float],
    reach: int = 0,
    keep: Collection[str] = (),
    marks: Mapping[int, str] | None = None,
) -> Condensed:
    """Order what a prompt can lose. `zipf` gives how common a word is (0 never, 8 the commonest); `keep` are words that stay; `marks`
    the marks (! or ?) of pieces by number, where a formula wrote them."""
    shortening = _Shortening(reading, zipf, reach, [k.lower() for k in keep], marks or {})
    return shortening.condensed()


class _Shortening:
    def __init__(self, reading: Reading, zipf, reach: int, keep: list[str], marks: Mapping[int, str]):
        self.reading, self.zipf, self.reach, self.keep, self.marks = reading, zipf, reach, keep, marks
        self.parts = [(i, piece) for i, piece in enumerate(reading.pieces) if piece.kind == PART]
        self.upper = reading.text.lstrip()[:1].isupper()

    def condensed(self) -> Condensed:
        units = self._units()
        order = self._order(units)
        steps = [Step(self.reading.text, 0)]
        gone: set[int] = set()
        numbers: dict[int, int] = {}
        for at in order:
            gone.add(at)
            text = self._written([units[k] for k in gone])
            numbers[at] = len(gone)
            if len(text) < len(steps[-1].text) and count_words(text):
                steps.append(Step(text, len(gone)))
        return Condensed([unit._replace(order=numbers.get(k, 0)) for k, unit in enumerate(units)], steps)

    # What can go.

    def _units(self) -> list[Unit]:
        units: list[Unit] = []
        seen: list[frozenset[str]] = []
        for i, piece in self.parts:
            carries, reasons, words = self._weight(i, piece, seen)
            seen.append(words)
            units.append(Unit(piece.start, piece.stop, piece.text, i, carries, reasons))
            if piece.facet != "speech" and not piece.plain and not self._pinned(piece.text, i):
                units += self._within(i, piece, carries)
        return units

    def _weight(self, i: int, piece: Piece, seen: list[frozenset[str]]) -> tuple[float, tuple[str, ...], frozenset[str]]:
        carries = KINDS.get(piece.facet, OTHER)
        reasons = [piece.facet if piece.facet != "detail" else "says nothing that can be placed"]
        words = frozenset(bare(w) for w in WORD.findall(piece.words.lower()) if w not in _IDLE)
        if words:
            rarity = USUAL - sum(map(self.zipf, words)) / len(words)
            carries += max(-0.12, min(0.15, RARE * rarity))
            if rarity > 0.8:
                reasons.append("rare words")
            elif rarity < -0.6:
                reasons.append("common words")
        if any(words and len(words & other) * 2 > len(words) for other in seen):
            carries -= TWICE
            reasons.append("said before")
        if self.reach and count_words(self.reading.text[: piece.start]) >= self.reach:
            carries -= BEHIND_REACH
            reasons.append("behind the model's reach")
        if piece.stress != 1:
            carries += 0.3 * (piece.stress - 1)
            reasons.append(f"stress {piece.stress:g}")
        mark = self.marks.get(i, "")
        if mark == "?":
            carries -= LESS
            reasons.append("marked ? in the formula")
        if mark == "!":
            reasons.append("marked ! in the formula")
        return round(max(0.02, carries), 3), tuple(reasons), words

    def _within(self, i: int, piece: Piece, carries: float) -> list[Unit]:
        """Words of a part that can go: what describes its noun, and what hangs behind it."""
        text, found = piece.text, []
        lead = re.match(
            r"(?:(?:lit|shot|taken|seen|set|dressed)\s+)?(?:(?:[a-z]+)\s+)?(?:an?|the|one|two|three|four|his|her|their|its)\s+",
            text,
            re.I,
        )
        start = (
            lead.end()
            if lead
            and (
                not lead.group().split()[:-1] or lead.group().split()[-2].lower() in PREPOSITIONS or len(lead.group().split()) == 1
            )
            else 0
        )
        if not start:
            place = re.match(r"(?:lit by|shot on|" + "|".join(sorted(PREPOSITIONS)) + r")\s+", text, re.I)
            start = place.end() if place else 0
        deed = piece.facet in ("action", "pose", "camera-move") or bool(re.match(r"\w+ing\b", text))
        end = start + head_end(text[start:]) if text[start:] else start
        weight = 0.8 if piece.term else 0.55
        head = WORD.findall(text[start:end].lower())[-1:]
        if not deed and head and head[0] not in _BARE and piece.facet in _DESCRIBED:
            words = list(WORD.finditer(text, start, end))
            for word in words[:-1]:
                if self._describes(word.group(), text[start:end]) and not re.search(r"[-'’]$", text[: word.start()]):
                    if self._pinned(word.group(), i):
                        continue
                    own = carries * weight + max(-0.05, min(0.08, 0.04 * (USUAL - self.zipf(word.group().lower()))))
                    stop = word.end() + len(text[word.end() :]) - len(text[word.end() :].lstrip(" ,"))
                    found.append(
                        Unit(
                            piece.start + word.start(),
                            piece.start + stop,
                            word.group(),
                            i,
                            round(min(own, carries - 0.01), 3),
                            ("describes",),
                        )
                    )
        tail = re.search(
            r"\s+(?:with|in|on|at|from|under|behind|along|over|after|beside|near)\s+(?!one\b|it\b|which\b|the way)\S.*$",
            text[max(end, start + 3) - (0 if not deed else end - start) :] if deed else text[end:],
        )
        if tail and piece.facet in _TAILED:
            base = len(text) - len(tail.group())
            if base > start + 2 and not self._pinned(tail.group(), i):
                found.append(
                    Unit(
                        piece.start + base,
                        piece.stop,
                        tail.group().strip(),
                        i,
                        round(carries * (weight - 0.05), 3),
                        ("hangs on what stands before it",),
                    )
                )
        return found

    def _describes(self, word: str, group: str) -> bool:
        """Is it an adjective that can go from before a noun? What makes one idea with the noun (lighthouse keeper) stays."""
        if not word.isalpha() or not word.islower() or word in _IDLE or " and " in group or " or " in group:
            return False
        known = word in ADJECTIVES or word in COLOURS or word in DESCRIBING
        return known or (len(word) > 4 and word.endswith(_ADJECTIVAL) and word not in _NOUNS)

    def _pinned(self, text: str, i: int) -> bool:
        small = text.lower()
        return self.marks.get(i) == "!" or any(
            re.search(rf"(?<!\w){re.escape(k)}(?!\w)", small) or re.search(rf"(?<!\w){re.escape(small)}(?!\w)", k)
            for k in self.keep
        )

    # In which order.

    def _order(self, units: list[Unit]) -> list[int]:
        """What goes when: never what other words lean on before they have gone, and never the last part."""
        carries = [unit.carries for unit in units]
        whole = {unit.part: k for k, unit in enumerate(units) if unit.stop - unit.start == len(self.reading.pieces[unit.part].text)}
        leans: dict[int, list[int]] = {}
        numbers = [i for i, _ in self.parts]
        for a, b in pairwise(numbers):
            if self.reading.pieces[a].facet == "era":
                leans.setdefault(whole[b], []).append(whole[a])
                continue
            between = "".join(self.reading.pieces[k].text for k in range(a + 1, b))
            if not re.search(r"[,;.:!?\n|]", between) and not re.fullmatch(r"\s*(?:of|for|and|showing)\s*", between, re.I):
                leans.setdefault(whole[a], []).append(whole[b])
        for k, unit in enumerate(units):
            if k not in whole.values():
                leans.setdefault(whole[unit.part], []).append(k)
        for k in sorted(leans, reverse=True):
            carries[k] = max([carries[k], *(carries[c] + 0.001 for c in leans[k])])
        stays = {k for k in range(len(units)) if self._pinned(units[k].text, units[k].part) or self._holds_kept(units[k])}
        for k in [*stays]:  # what a word that stays leans on stays, too
            stays |= {parent for parent, children in leans.items() if k in children}
        order = sorted((k for k in range(len(units)) if k not in stays), key=lambda k: (carries[k], -units[k].start))
        whole_units = set(whole.values())
        main = max(whole_units, key=lambda k: carries[k])  # what carries most stays, whatever else is kept
        return [k for k in order if k != main]

    def _holds_kept(self, unit: Unit) -> bool:
        return any(re.search(rf"(?<!\w){re.escape(k)}(?!\w)", unit.text.lower()) for k in self.keep)

    # The text without them.

    def _written(self, gone: list[Unit]) -> str:
        out, skipped, begun = "", "", False
        cut: Piece | None = None  # the part that has gone right before
        kept: Piece | None = None  # the part that was written right before
        pieces = self.reading.pieces
        holes = sorted((u.start, u.stop) for u in gone)
        for piece in pieces:
            if piece.kind != PART:
                if piece.kind == "glue":
                    own = _CLOSING.match(piece.text) if kept and kept.stress != 1 and not skipped else None
                    out += own.group() if own else ""
                    skipped += self._behind(piece.text[own.end() if own else 0 :], cut)
                    cut = kept = None
                else:
                    out, skipped = (
                        out + (self._seam(skipped, begun, bool(out), piece.kind) if "\0" in skipped else skipped) + piece.text,
                        "",
                    )
                continue
            text = self._reduced(piece, holes)
            if not text:
                skipped = self._loosened(skipped, piece)
                cut = piece
                continue
            out += self._seam(skipped, begun, bool(out), piece.facet) + text
            skipped, begun, cut, kept = "", True, None, piece
        return self._tidy(out + self._end(skipped))

    def _reduced(self, piece: Piece, holes: list[tuple[int, int]]) -> str:
        text, at = "", piece.start
        for start, stop in holes:
            if start < piece.start or stop > piece.stop:
                continue
            text += self.reading.text[at : max(at, start)]
            at = max(at, stop)
        text += self.reading.text[at : piece.stop]
        text = re.sub(r"\s{2,}", " ", text).strip() if holes else text

        def mended(match: re.Match) -> str:
            wanted = english.article(match[3])
            return (wanted.capitalize() if match[1][0].isupper() else wanted) + match[2] + match[3]

        return re.sub(r"\b([Aa]n?)(\s+)(\w[^\n]*)", mended, text, count=1) if text != piece.text else text

    @staticmethod
    def _loosened(glue: str, piece: Piece) -> str:
        """What stood before a part that has gone: marks and line ends stay to be chosen from, joining words go, and what belonged to
        the part itself (its quotation marks, its marks of stress)."""
        if piece.stress != 1:
            glue = re.sub(r"[^\s,;.]+$", "", glue)
        if piece.facet == "speech":
            glue = re.sub(r"[\"“]\s*$", "", glue)
        return re.sub(r"[A-Za-z]+", " ", re.sub(r"(?m)^[ \t]*[A-Za-z][\w .-]{0,28}\s*[|:]\s", "", glue)) + "\0"

    @staticmethod
    def _behind(glue: str, gone: Piece | None) -> str:
        """What stands behind a part, without what belonged to it where it has gone."""
        if gone is None:
            return glue
        if gone.facet == "speech":
            return re.sub(r"^\s*[\"”]", "", glue)
        return _CLOSING.sub("", glue, count=1) if gone.stress != 1 else glue

    def _seam(self, glue: str, begun: bool, any_text: bool, beside: str = "") -> str:
        if "\0" not in glue:
            return glue
        if "\n" in glue:
            label = re.search(r"[A-Za-z][\w .-]{0,28}\s*[|:]\s*$", glue)
            return ("\n" if begun else "") + (label.group() if label else "")
        after = glue.rpartition("\0")[2]
        if not begun:
            return "" if not any_text else " "
        stop = re.search(r"[.!?;]", glue)
        if beside == "speech":  # who says it stays with what is said
            return (stop.group() + " " if stop else ", ") + after.lstrip(" ,.;")
        if beside in (NEGATIVE, "parameter", "reference"):
            return stop.group() + " " if stop else ", " if beside == NEGATIVE else " "
        if stop:
            return stop.group() + " "
        word = _LINK.match(after.strip(" ,"))
        return ", " + (word.group() if word and word.group().strip().lower() in ("with", "and") else "")

    def _end(self, glue: str) -> str:
        return re.sub(r"[\0]", "", glue[glue.rfind("\0") + 1 :] if "\0" in glue else glue) if glue.strip("\0 ,;") else ""

    def _tidy(self, text: str) -> str:
        text = re.sub(r"\s+([,.;!?])", r"\1", text.replace("\0", ""))
        text = re.sub(r"([,;])\s*(?=[.!?])", "", text).strip(" ,;")
        if self.upper:
            text = re.sub(r"(^|[.!?]\s+)([a-z])(?![\w-]*=)", lambda m: m[1] + m[2].upper(), text)
        if self.reading.text.rstrip().endswith(".") and text[-1:] not in ".!?":
            text += "."
        return text
