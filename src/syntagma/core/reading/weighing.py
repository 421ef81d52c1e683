"""What of a prompt can go, and how much it carries: an estimate from the text alone.

What kind of part it is, its mark in a formula, its place against the reach of a model, how rare its
words are in English, whether it was said before, its stress.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.verbs import ADJECTIVES, COLOURS, DESCRIBING
from syntagma.core.english.word_lists import IN_WEIGHING, PREPOSITIONS
from syntagma.core.models.measure import words as count_words
from syntagma.core.reading.lexicon import WORD, bare
from syntagma.core.reading.prompt_pieces import LEFT, PART, PromptPiece, Reading
from syntagma.core.vocabulary import facets

UNPLACED = 0.14  # what words carry that say nothing that can be placed
BEHIND_REACH, TWICE, LESS, RARE = 0.15, 0.3, 0.25, 0.06
USUAL = 4.6  # the mean Zipf frequency of the content words of prompts: rarer ones carry more
# Nouns that say too little without what describes them.
_BARE = frozenset(
    """
        mood atmosphere feeling light lighting detail details palette colours colors tones style
        background backdrop lens shot hour composition grain focus view angle look finish quality
        resolution exposure shutter film sky weather light-level field
    """.split()
)
_DESCRIBED = facets.FacetGroup("described")
_TAILED = facets.FacetGroup("tailed")
_NOUNS = frozenset(
    """
        railway ferry factory library city county country army navy pastry bakery pottery lady fairy
        cherry strawberry honey money chimney monkey donkey turkey valley alley jersey galaxy rugby
        party story century spray subway tramway gallery ivory ebony pony story laundry canary jury
        kitchen garden oven linen golden-hour citizen chicken children lantern seed feed reed metal
        coral crystal animal signal pedal cathedral canal hospital material festival carnival
        terminal fabric music picnic elephant restaurant merchant tenant student president mosquito
        velvet
    """.split()
)
_ADJECTIVAL = (
    "y",
    "ed",
    "en",
    "ous",
    "ful",
    "al",
    "ish",
    "ic",
    "less",
    "ive",
    "ant",
    "ent",
    "ese",
    "ique",
    "some",
    "lit",
    "ated",
)


class Unit(NamedTuple):
    """What can go by itself: a part, or words within one. `part` is its piece's number; `order`
    when it goes, from 1 (0: it stays).
    """

    start: int
    stop: int
    text: str
    part: int
    carries: float
    reasons: tuple[str, ...]
    order: int = 0


class Weigher:
    """Weighs the parts of one text, and the words in them."""

    def __init__(
        self,
        reading: Reading,
        zipf: Callable[[str], float],
        reach: int,
        keep: Sequence[str],
        marks: Mapping[int, str],
    ):
        self.reading, self.zipf, self.reach, self.keep, self.marks = (
            reading,
            zipf,
            reach,
            keep,
            marks,
        )
        self.parts = [(i, piece) for i, piece in enumerate(reading.pieces) if piece.kind == PART]

    def units(self, seen: list[frozenset[str]], before: int = 0) -> list[Unit]:
        """All that can go, in order. `seen`: the words of the parts before, to which those of these
        are added; `before`: how many words come before the text.
        """
        units: list[Unit] = []
        for i, piece in self.parts:
            carries, reasons, words = self._weight(i, piece, seen, before)
            seen.append(words)
            units.append(Unit(piece.start, piece.stop, piece.text, i, carries, reasons))
            if piece.facet != "speech" and not piece.plain and not self.pinned(piece.text, i):
                units += self._within(i, piece, carries)
        return units

    def _weight(
        self, i: int, piece: PromptPiece, seen: list[frozenset[str]], before: int
    ) -> tuple[float, tuple[str, ...], frozenset[str]]:
        carries = facets.traits_of(piece.facet).weight if piece.facet != LEFT else UNPLACED
        reasons = [piece.facet if piece.facet != LEFT else "says nothing that can be placed"]
        words = frozenset(
            bare(w) for w in WORD.findall(piece.words.lower()) if w not in IN_WEIGHING
        )
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
        if self.reach and before + count_words(self.reading.text[: piece.start]) >= self.reach:
            carries -= BEHIND_REACH
            reasons.append("beyond the words that the model heeds")
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

    def _within(self, i: int, piece: PromptPiece, carries: float) -> list[Unit]:
        """Words of a part that can go: what describes its noun, and what hangs after it."""
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
                not lead.group().split()[:-1]
                or lead.group().split()[-2].lower() in PREPOSITIONS
                or len(lead.group().split()) == 1
            )
            else 0
        )
        if not start:
            place = re.match(
                r"(?:lit by|shot on|" + "|".join(sorted(PREPOSITIONS)) + r")\s+", text, re.I
            )
            start = place.end() if place else 0
        deed = piece.facet in ("action", "pose", "camera-move") or bool(re.match(r"\w+ing\b", text))
        end = start + head_end(text[start:]) if text[start:] else start
        weight = 0.8 if piece.term else 0.55
        head = WORD.findall(text[start:end].lower())[-1:]
        if (
            not deed
            and head
            and head[0] not in _BARE
            and (piece.facet in _DESCRIBED or piece.facet == LEFT)
        ):
            words = list(WORD.finditer(text, start, end))
            for word in words[:-1]:
                if self._describes(word.group(), text[start:end]) and not re.search(
                    r"[-'’]$", text[: word.start()]
                ):
                    if self.pinned(word.group(), i):
                        continue
                    own = carries * weight + max(
                        -0.05, min(0.08, 0.04 * (USUAL - self.zipf(word.group().lower())))
                    )
                    stop = (
                        word.end() + len(text[word.end() :]) - len(text[word.end() :].lstrip(" ,"))
                    )
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
            r"(?<!\s)\s+(?:with|in|on|at|from|under|behind|along|over|after|beside|near)\s+(?!one\b|it\b|which\b|the"
            r" way)\S.*$",
            text[max(end, start + 3) - (0 if not deed else end - start) :] if deed else text[end:],
        )
        if tail and piece.facet in _TAILED:
            base = len(text) - len(tail.group())
            led = re.search(r"(?<!\s)\s+\w+ed$", text[:base])  # "covered in pollen" goes together
            base = led.start() if led else base
            if base > start + 2 and not self.pinned(text[base:], i):
                found.append(
                    Unit(
                        piece.start + base,
                        piece.stop,
                        text[base:].strip(),
                        i,
                        round(carries * (weight - 0.05), 3),
                        ("depends on the part before it",),
                    )
                )
        return found

    def _describes(self, word: str, group: str) -> bool:
        """Is it an adjective that can go from before a noun? What makes one idea with the noun
        (lighthouse keeper) stays.
        """
        if (
            not word.isalpha()
            or not word.islower()
            or word in IN_WEIGHING
            or " and " in group
            or " or " in group
        ):
            return False
        known = word in ADJECTIVES or word in COLOURS or word in DESCRIBING
        return known or (len(word) > 4 and word.endswith(_ADJECTIVAL) and word not in _NOUNS)

    def pinned(self, text: str, i: int) -> bool:
        """Does it stay: marked so, or words of it to be kept?"""
        small = text.lower()
        return self.marks.get(i) == "!" or any(
            re.search(rf"(?<!\w){re.escape(k)}(?!\w)", small)
            or re.search(rf"(?<!\w){re.escape(small)}(?!\w)", k)
            for k in self.keep
        )

    def holds_kept(self, unit: Unit) -> bool:
        """Do words that are to be kept are in it?"""
        return any(re.search(rf"(?<!\w){re.escape(k)}(?!\w)", unit.text.lower()) for k in self.keep)
