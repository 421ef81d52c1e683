"""A plain wish heard slot by slot: the parts that a reader finds go into the slots of a formula, each where its facet belongs.

"a tired harbour pilot checking a tide board on a wet quay, at dusk, no people behind" gives subject, action and setting, "tired" to the
free slot before the subject, and says what found no place: that is kept beside it, or told.
"""

from collections.abc import Collection, Mapping
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics.places import Span
from syntagma.core.english.clauses import is_clause
from syntagma.core.english.verbs import base_of
from syntagma.core.formula.tree import FixedText, Formula, Group, Option, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.picker import FIRST
from syntagma.core.reading.formulas.rewriting import doing, fill_text, lowered, slot_for, slots_as
from syntagma.core.reading.prompt_pieces import (
    DEED,
    NAMED,
    NEGATIVE,
    NOUN,
    PARAMETER,
    PART,
    QUALITY,
    REFERENCE,
    PromptPiece,
    Reading,
)
from syntagma.core.reading.reader import Reader
from syntagma.core.vocabulary.terms import Vocabulary, normal

_GENERIC = frozenset("picture photo image shot video clip".split())  # which say nothing of what kind it is
_PHOTOGRAPHIC = frozenset("photograph photo photography picture image shot still snapshot film negative print tintype".split())
_FINDING = frozenset("find reveal discover show meet reach uncover see".split())
KINDS = frozenset("genre medium".split())  # what says which kind of picture it is to be
_MAKING = regex(r"\bmaking: ([\w -]+)")
_JOINED = regex(r"\s+(?:(?:with|of|and|that|which|who)\s+)?")


class WishPiece(NamedTuple):
    """A stretch of the wish and the slot that it went to."""

    span: Span
    slot: str
    text: str


class Heard(NamedTuple):
    """What a `wish` said: fills by slot, the stretches that gave them in order, the parts that found no place, and what it keeps out."""

    wish: str
    fills: dict[str, str]
    pieces: tuple[WishPiece, ...]
    rest: tuple[PromptPiece, ...]
    negative: tuple[str, ...] = ()


def hear(wish: str, formula: Formula, vocabulary: Vocabulary, reader: Reader, taken: Collection[str] = ()) -> Heard:
    """Put what `wish` says into the slots of `formula`; those in `taken` are filled already."""
    return heard(reader.read(" ".join(wish.split())), formula, vocabulary, taken)


def heard(reading: Reading, formula: Formula, vocabulary: Vocabulary, taken: Collection[str] = ()) -> Heard:
    """Put what was read of a wish into the slots of `formula`; those in `taken` are filled already."""
    hearing = _Hearing(reading, formula, vocabulary, taken)
    rest = []
    for piece in reading.pieces:
        if piece.kind in (PARAMETER, REFERENCE) or (piece.kind == PART and not hearing.place(piece)):
            rest.append(piece)
    negative = tuple(piece.words.strip(" .") for piece in reading.of(NEGATIVE))
    return Heard(reading.text, hearing.fills(), tuple(sorted(hearing.pieces)), tuple(p for p in rest if not hearing.says(p)), negative)


class _Hearing:
    """The slots that are open, and what has gone into them."""

    def __init__(self, reading: Reading, formula: Formula, vocabulary: Vocabulary, taken: Collection[str]):
        self.reading, self.formula, self.vocabulary = reading, formula, vocabulary
        shown = {name for phrase in formula.phrases for name in phrase.slots}
        self.rules = {r.name: r for r in formula.slots if r.name in shown and not r.number}
        self.taken = taken
        self.several: dict[str, list[str]] = {}
        self.pieces: list[WishPiece] = []
        self.last: tuple[int, str] = (-1, "")  # where the part before ended, and the slot that it went to
        self.apposing = False  # the part before is a name, which may be described

    def place(self, piece: PromptPiece) -> bool:
        """Put a part where it belongs; whether there is such a place."""
        if self._shown(piece):
            return True
        slot = None if self._contradicted(piece) else self._slot(piece)
        if piece.facet in KINDS and self.says(piece) and (slot is None or self.rules[slot].default):
            return True  # the formula says so itself
        if slot is None:
            return self._beside(piece)
        if slot in self.taken:
            return True  # something else is given for it
        look, words = self._described(piece, slot)
        if look:
            free, said = look
            start = piece.start + max(0, piece.words.find(said))
            self._take(free, start, start + len(said), said)
        self._take(slot, piece.start, piece.stop, words)
        self.last, self.apposing = (piece.stop, slot), piece.build == NAMED
        return True

    def _contradicted(self, piece: PromptPiece) -> bool:
        """Is a part made in another way than the formula says: a watercolour, where it writes of a photograph?"""
        term = piece.term or piece.near
        ours = {way for of, world in self.formula.head.worlds if not of for way in _made(world)}
        if piece.facet in KINDS and ours and term and (theirs := _made(term.world)):
            return ours.isdisjoint(theirs)
        said = {word.removesuffix("s") for word in normal(piece.words).split()}  # no term says how it is made: "oil on canvas"
        return piece.facet == "medium" and ours == {"photograph"} and said.isdisjoint(_PHOTOGRAPHIC)

    def _shown(self, piece: PromptPiece) -> bool:
        """Is a part what the camera does with what it comes upon ("and finds an old castle")? The picture shows that."""
        before = [p.facet for p in self.reading.parts() if p.start < piece.start]
        verb = base_of(piece.words.lower().split()[0])
        return piece.facet in ("action", "camera-move") and len(piece.words.split()) == 1 and verb in _FINDING and "camera-move" in before and "subject" not in before

    def _slot(self, piece: PromptPiece) -> str | None:
        main = self._main()
        if look := self._look(piece, main):
            return look
        clauses = slots_as(self.formula, "clause")
        takes: Mapping[str, SlotRule] = self.rules
        if is_clause(piece.words) and piece.facet != "action":
            takes = {name: rule for name, rule in takes.items() if name in clauses}
        if piece.facet == "lettering" and self._quoted(piece):
            piece = piece._replace(facet="speech")
        return self._as_place(piece) or slot_for(piece, takes, self.several, quoted_slots(self.formula), self.vocabulary)

    def _as_place(self, piece: PromptPiece) -> str | None:
        """The place that a picture is of, in a formula of nothing else: "a lighthouse" for a landscape."""
        if not self.vocabulary.participant(piece.facet) or any(r.need and self.vocabulary.participant(r.facet) for r in self.rules.values()):
            return None
        return next((name for name, rule in self.rules.items() if rule.facet == "setting" and rule.need and name not in self.several), None)

    def _quoted(self, piece: PromptPiece) -> bool:
        return self.reading.text[piece.start - 1 : piece.start] in ('"', "“")

    def _main(self) -> SlotRule | None:
        """The slot of what the picture is of: needed, and of a facet that says so."""
        of = [rule for rule in self.rules.values() if rule.facet in FIRST and rule.facet in self.vocabulary]
        return min(of, key=lambda rule: (not rule.need, FIRST.index(rule.facet)), default=None)

    def _look(self, piece: PromptPiece, main: SlotRule | None) -> str:
        """The free slot before the subject, for a word that stands right before it, whatever else it might name: "a tired pilot"."""
        behind = next((p for p in self.reading.parts() if p.start > piece.start), None)
        before = not main or not behind or self.reading.text[piece.stop : behind.start] != " " or behind.facet not in self.vocabulary.kin(main.facet)
        plain = piece.build in (QUALITY, NOUN, "") and len(piece.words.split()) <= 2 and piece.facet not in KINDS
        return self._modifier(main.name) if plain and not before else ""

    def _described(self, piece: PromptPiece, slot: str) -> tuple[tuple[str, str] | None, str]:
        """What goes into a slot; words before a name of the vocabulary go into the free slot before it, where there is one."""
        rule = self.rules[slot]
        words = fill_text(piece, rule.facet, self.vocabulary, slot in slots_as(self.formula, "place"))
        if piece.term and english.is_plural(piece.words.split()[-1]) and piece.term.number == "one":
            words = lowered(english.split_determiner(piece.words)[1])  # more than the term names
        free = self._modifier(slot)
        if piece.term or not free:
            return None, words
        group = english.split_determiner(piece.words)[1].split(" ")
        for k in range(1, len(group)):
            tail = normal(" ".join(group[k:]))
            term = next((t for f in self.vocabulary.kin(rule.facet) if f in self.vocabulary for t in (self.vocabulary[f].get(tail),) if t), None)
            if term and k <= 2:
                return (free, " ".join(group[:k])), term.term if normal(term.term) == tail or tail in map(normal, term.aka) else tail
        return None, words

    def _modifier(self, head: str) -> str:
        """The free slot that stands before `head` in its noun group, and is open."""
        free = {name for name, rule in self.rules.items() if rule.facet not in self.vocabulary and name not in self.several and name not in self.taken}
        groups = [g for phrase in self.formula.phrases for g in phrase.groups() if g.head == head]
        return next((name for g in groups for name in g.slots[:-1] if name in free), "")

    def _beside(self, piece: PromptPiece) -> bool:
        """Keep a part that has no slot with the words that it follows: "a woman in a red coat"."""
        at, slot = self.last
        between = self.reading.text[at : piece.start]
        apposed = self.apposing and between.strip() == "," and self.vocabulary.participant(piece.facet)  # "Ada, a baker in her sixties"
        if at < 0 or slot not in self.several or piece.facet in KINDS or is_clause(piece.words) or not (apposed or _JOINED.fullmatch(between)):
            return False
        led = between.strip() not in ("", ",")  # "who looks up"
        self.several[slot][-1] += between + (doing(piece.words) if piece.build == DEED and not led else piece.words)
        self.pieces.append(WishPiece(Span(piece.start, piece.stop), slot, piece.words))
        self.last = (piece.stop, slot)
        return True

    def _take(self, slot: str, start: int, stop: int, text: str) -> None:
        self.several.setdefault(slot, []).append(text)
        self.pieces.append(WishPiece(Span(start, stop), slot, text))

    def says(self, piece: PromptPiece) -> bool:
        """Does the formula itself say a part: its kind of picture in its name or its words?"""
        words = set(normal(english.split_determiner(piece.words)[1]).split())
        name = self.formula.name
        if words <= _GENERIC or words <= set(name.split("-")) or piece.words.replace("-", "").lower() == name.replace("-", ""):
            return True
        return piece.facet in KINDS and words <= _own_words(self.formula)

    def fills(self) -> dict[str, str]:
        return {slot: "; ".join(texts) for slot, texts in self.several.items()}


def _made(world: str) -> set[str]:
    """How something is made, by its world: "making: paint"."""
    return {way for match in _MAKING.finditer(world) for way in match[1].split()}


def _own_words(formula: Formula) -> set[str]:
    """The words of a formula's name, of what it is for, and of its defaults."""
    said = [formula.name.replace("-", " "), *(text for rule in formula.slots for text in rule.default)]
    said += [part.raw for phrase in formula.phrases for part in phrase.body if isinstance(part, FixedText)]
    words = set(normal(" ".join(said)).split())
    return words | ({"photo", "picture", "shot", "image"} if words & {"photograph", "still"} else set()) | ({"clip", "shot"} if "clip" in words else set())


def quoted_slots(formula: Formula) -> list[str]:
    """The slots that stand in quotation marks, in order."""
    found = []
    for phrase in formula.phrases:
        before = ""
        for node in phrase.body:
            for part in node.children if isinstance(node, Option) else (node,):
                if isinstance(part, FixedText):
                    before += part.raw
                elif isinstance(part, Group) and before.count('"') % 2:
                    found.append(part.head)
    return list(dict.fromkeys(found))
