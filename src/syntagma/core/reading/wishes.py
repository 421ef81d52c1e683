"""A plain wish in a sentence, heard slot by slot: terms of the vocabulary first, then what cue words tell.

"a tired harbour pilot checking a tide board on a wet quay, at dusk, no people behind" gives subject, action and setting by
their terms, "tired" to the free slot before the subject, and says what found no place.
"""

import re
from collections.abc import Collection, Iterator
from functools import lru_cache
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics.places import Span
from syntagma.core.english.idle_words import IN_WISHES
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import AFTER_NOUNS, DETERMINERS, ING_NOUNS, PREPOSITIONS
from syntagma.core.formula.tree import FixedText, Formula, Group, Option, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.picker import FIRST
from syntagma.core.reading.formulas.recasting import fill_text, slot_for, slots_as
from syntagma.core.reading.lexicon import LEADS, LONGEST, bare, key_of
from syntagma.core.reading.prose.deeds import is_clause
from syntagma.core.reading.reader import Reader
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal

_WORD = regex(r"(?<![\w/'’.])[\w/'’.]*\w")
_QUOTED = regex(r"[\"“”]([^\"“”]+)[\"“”]")
_FILMED = regex(r"\b(?:camera|shot|lens)\b", re.I)
_OPENING = regex(
    r"^\W*(?:(?:please|i|we|(?:would|'d) like|want(?:ed)?|need|make|give|show|create|draw|me|us|to see|to have|now|just)\b\W*)*"
    r"(?:(?:a|an|the|some|one)\s+)?(?:(?:picture|image|photo|photograph|video|clip|film|illustration|drawing|scene)\s+(?:of|with|showing|where)\s+)?",
    re.I,
)
_NO_DEEDS = frozenset("something nothing anything everything during morning evening".split())
_LIGHT = regex(r"\b(?:lit by|by the light of|under the light of|in the light of)\s+(?P<what>[^,.;]+)", re.I)
_LENS = regex(r"\b(?:shot (?:on|with)|on|with|through) (?:an? )?(?P<what>\d+\s?mm[^,.;]*)", re.I)
_DEED = regex(rf"\s*(?:and\s+|is\s+|who\s+is\s+|are\s+)?(?P<deed>(?:\w+ing|{'|'.join(sorted(AFTER_NOUNS))})\b.*)")
_PLACE = regex(
    r"\b(?P<place>(?:in|on|at|under|beside|inside|outside|near|by|behind|above|below|across|along|among|between|over|aboard"
    r"|against|beneath)\b\s+\w.*)",
    re.I,
)


@lru_cache(maxsize=16)
def _names(rules: tuple[SlotRule, ...], vocabulary: Vocabulary, filmed: bool) -> dict[tuple[str, ...], list[tuple[int, SlotRule, Term]]]:
    """The names of all terms that the slots take, made once for many wishes; `filmed`: a camera is spoken of."""
    names: dict[tuple[str, ...], list[tuple[int, SlotRule, Term]]] = {}
    for order, rule in enumerate(rules):
        for term in vocabulary[rule.facet] if rule.facet in vocabulary else ():
            for name in (term.term, *term.aka, term.phrase, english.split_place(term.place)[1], term.place, term.clause):
                key = key_of(name)
                if not key or (len(key) == 1 and "film" in term.tags and not filmed):
                    continue  # "roll", "single", "dive" name a shot only where a camera is spoken of
                entry = (order, rule, term)
                if entry not in names.setdefault(key, []):
                    names[key].append(entry)
    return names


class WishPiece(NamedTuple):
    """A stretch of the wish and the slot that it went to."""

    span: Span
    slot: str
    text: str


class Heard(NamedTuple):
    """What a `wish` said: fills by slot, the stretches that gave them in order, and the words that found no place."""

    wish: str
    fills: dict[str, str]
    pieces: tuple[WishPiece, ...]
    rest: tuple[str, ...]


def hear(wish: str, formula: Formula, vocabulary: Vocabulary, taken: Collection[str] = (), reader: Reader | None = None) -> Heard:
    """Put what `wish` says into the slots of `formula`; those in `taken` are filled already. What names and cue words leave over is
    placed by a `reader`, where one is given."""
    hearing = _Hearing(wish, formula, vocabulary, taken)
    hearing.quotes()
    hearing.terms()
    hearing.displaced()
    hearing.adjectives()
    hearing.cues()
    if reader:
        hearing.parts(reader)
    hearing.subject()
    return hearing.heard()


class _Token(NamedTuple):
    word: str  # in its normal form, without the ending of a plural
    start: int
    stop: int


class _Hearing:
    def __init__(self, wish: str, formula: Formula, vocabulary: Vocabulary, taken: Collection[str]):
        self.wish = " ".join(wish.split())
        self.formula, self.vocabulary = formula, vocabulary
        shown = {name for phrase in formula.phrases for name in phrase.slots}
        self.rules = [rule for rule in formula.slots if rule.name in shown and rule.name not in taken and not rule.number]
        self.tokens = [_Token(bare(normal(m.group())), m.start(), m.end()) for m in _WORD.finditer(self.wish)]
        self.pieces: list[WishPiece] = []

    def _free(self, start: int, stop: int) -> bool:
        return all(stop <= p.span.start or start >= p.span.stop for p in self.pieces)

    def _open(self, slot: str) -> bool:
        return all(p.slot != slot for p in self.pieces) and any(rule.name == slot for rule in self.rules)

    def _take(self, slot: str, start: int, stop: int, text: str) -> None:
        self.pieces.append(WishPiece(Span(start, stop), slot, text))

    def quotes(self) -> None:
        """What stands in quotation marks is spoken or lettered: it goes where the formula has a slot in such marks."""
        spoken = [slot for slot in quoted_slots(self.formula) if self._open(slot)]
        for match, slot in zip(_QUOTED.finditer(self.wish), spoken, strict=False):
            self._take(slot, match.start(), match.end(), match.group(1))

    def terms(self) -> None:
        """Names of the vocabulary, the longest first; one that several facets have goes to the first slot that is open."""
        names = _names(tuple(self.rules), self.vocabulary, bool(_FILMED.search(self.wish)))
        found: list[tuple[int, int, int, SlotRule, Term]] = []
        for at in range(len(self.tokens)):
            for length in range(min(LONGEST, len(self.tokens) - at), 0, -1):
                key = tuple(t.word for t in self.tokens[at : at + length])
                found += [(-length, order, at, rule, term) for order, rule, term in names.get(key, ())]
        for length, _, at, rule, term in sorted(found, key=lambda f: f[:3]):
            first, last = self.tokens[at], self.tokens[at - length - 1]
            several = rule.take[1] > sum(p.slot == rule.name for p in self.pieces) > 0
            if self._free(first.start, last.stop) and (self._open(rule.name) or several):
                said = self.wish[first.start : last.stop]
                self._take(rule.name, first.start, last.stop, said if self._more_than_one(said, term) else term.term)

    def _more_than_one(self, said: str, term: Term) -> bool:
        """Does the wish name several of what the term names once?"""
        return term.number == "one" and english.is_plural(said.split()[-1]) and not english.is_plural(term.term.split()[-1])

    def parts(self, reader: Reader) -> None:
        """What is still open, by the parts that a reader sees."""
        rules, clauses = {rule.name: rule for rule in self.rules}, slots_as(self.formula, "clause")
        places = slots_as(self.formula, "place")
        for piece in reader.read(self.wish).parts():
            clause = is_clause(piece.words) and piece.facet != "action"
            takes = {name: rule for name, rule in rules.items() if self._open(name) and (name in clauses or not clause)}
            if self._free(piece.start, piece.stop) and piece.sure >= 0.6 and (slot := slot_for(piece, takes, {}, ())):
                own = piece.term is not None and piece.term.facet == rules[slot].facet
                text = fill_text(
                    piece if own else piece._replace(term=None), rules[slot].facet, slot in places
                )  # else in the person's own words
                self._take(slot, piece.start, piece.stop, text)

    def displaced(self) -> None:
        """A name that only says where is no subject when something else comes first: "two children at the rail of the
        Morrow" are children, and the name is given back to the words round it."""
        main = self._main()
        opening = _OPENING.match(self.wish).end()
        piece = min((p for p in self.pieces if main and p.slot == main.name), default=None)
        if not piece or piece.span.start <= opening:
            return
        words = self.wish[opening : piece.span.start].lower().split()
        leads = [w for w in words[-2:] if w not in DETERMINERS]
        others = [p for p in self.pieces if p is not piece]
        before = [
            t
            for t in self.tokens
            if opening <= t.start < piece.span.start and all(not (p.span.start <= t.start < p.span.stop) for p in others)
        ]
        kind = set(normal(self.formula.name).split())
        says = [t.word for t in before if t.word not in IN_WISHES | LEADS | kind and t.word not in PREPOSITIONS]
        if says and leads and leads[-1] in PREPOSITIONS:
            self.pieces.remove(piece)

    def adjectives(self) -> None:
        """One word that stands right before the subject describes it, whatever else it might name: "a tired pilot"."""
        main = self._main()
        look = self._modifier_of(main.name) if main else ""
        if not look or not self._open(look):
            return
        starts = {p.span.start for p in self.pieces if p.slot == main.name}
        for i, piece in enumerate(self.pieces):
            if piece.span.stop + 1 in starts and " " not in self.wish[piece.span.start : piece.span.stop]:
                self.pieces[i] = WishPiece(piece.span, look, self.wish[piece.span.start : piece.span.stop])
                return

    def cues(self) -> None:
        """What words such as "lit by" announce, in the words of the wish."""
        for facet, cue in (("lighting", _LIGHT), ("lens", _LENS)):
            slot = self._slot_of(facet)
            match = cue.search(self.wish) if slot else None
            if match and self._free(match.start(), match.end()):
                self._take(slot, match.start(), match.end(), match["what"].strip())

    def _slot_of(self, facet: str) -> str:
        return next((rule.name for rule in self.rules if rule.facet == facet and self._open(rule.name)), "")

    def subject(self) -> None:
        """The first words that no name took: what the picture is of, what it does, and where."""
        main = self._main()
        opening = _OPENING.match(self.wish).end()
        for start, stop in self._gaps(opening):
            if main and self._open(main.name):
                start = self._noun(main.name, start, stop)
            elif (
                main
                and (look := self._modifier_of(main.name))
                and any(p.slot == main.name and p.span.start >= stop for p in self.pieces)
            ):
                text = _without_idle(self.wish[start:stop])
                if text and self._open(look) and PREPOSITIONS.isdisjoint(self.wish[start:stop].lower().split()):
                    self._take(look, start, stop, text)
                    continue
            start = self._deed(start, stop)
            self._place(start, stop)

    def _main(self) -> SlotRule | None:
        """The slot of what the picture is of: needed, and of a facet that says so."""
        of = [rule for rule in self.rules if rule.facet in FIRST and rule.facet in self.vocabulary]
        return min(of, key=lambda rule: (not rule.need, FIRST.index(rule.facet)), default=None)

    def _gaps(self, at: int) -> Iterator[tuple[int, int]]:
        """The stretches between what has been taken, cut at commas and stops."""
        edges = sorted((p.span.start, p.span.stop) for p in self.pieces)
        for start, stop in [*edges, (len(self.wish), len(self.wish))]:
            for part in re.finditer(r"[^,.;:!?]+", self.wish[at:start] if start > at else ""):
                yield at + part.start(), at + part.end()
            at = max(at, stop)

    def _noun(self, slot: str, start: int, stop: int) -> int:
        """The noun group at the beginning of a stretch into `slot`; return where it ends."""
        text = self.wish[start:stop]
        lead = len(text) - len(text.lstrip())
        group = text[lead:]
        first = group.split(" ", 1)[0].lower()
        if not group or first in PREPOSITIONS or first in ("and", "with", "or"):
            return start
        determiner, rest = english.split_determiner(group)
        head = head_end(rest)
        while more := re.match(r"\s+(?:of|with)\s+(?=\w)", rest[head:]):  # a bowl of chowder, a woman with freckles
            head += more.end() + head_end(rest[head + more.end() :])
        end = len(group) - len(rest) + head
        said = group[:end].strip()
        if normal(said) in IN_WISHES or not re.search(r"\w{2}", said):
            return start
        kept = rest[:head] if determiner.lower() in ("a", "an", "some") else said
        self._take(slot, start + lead, start + lead + end, kept.strip())
        return start + lead + end

    def _deed(self, start: int, stop: int) -> int:
        """A participle and what follows it, up to a place, into the slot of an action; return where it ends."""
        slot = self._slot_of("action")
        text = self.wish[start:stop]
        match = _DEED.match(text)
        words = match["deed"].lower().split() if slot and match else []
        if not words or words[0] in _NO_DEEDS or (words[0] in ING_NOUNS and not (len(words) > 1 and words[1] in DETERMINERS)):
            return start
        deed = match["deed"]
        setting = self._slot_of("setting")
        cut = (
            re.search(r"\s(?:in|on|at|under|beside|inside|outside|near|behind|aboard|among|against)\s(?:an?|the|some)\s", deed)
            if setting
            else None
        )
        deed = deed[: cut.start()] if cut else deed
        self._take(slot, start + match.start("deed"), start + match.start("deed") + len(deed), deed.strip())
        return start + match.start("deed") + len(deed)

    def _place(self, start: int, stop: int) -> None:
        slot = self._slot_of("setting")
        text = self.wish[start:stop]
        match = _PLACE.search(text) if slot else None
        if match and _without_idle(match["place"]) and not re.match(r"\w+\s+(?:it|them|him|her|that|this)\b", match["place"]):
            self._take(slot, start + match.start("place"), start + match.end("place"), match["place"].strip())

    def _modifier_of(self, head: str) -> str:
        """The free slot that stands before `head` in its noun group."""
        free = {rule.name for rule in self.rules if rule.facet not in self.vocabulary}
        groups = [g for phrase in self.formula.phrases for g in phrase.groups() if g.head == head]
        return next((name for g in groups for name in g.slots[:-1] if name in free), "")

    def heard(self) -> Heard:
        pieces = sorted(self.pieces)
        fills: dict[str, str] = {}
        for piece in pieces:
            fills[piece.slot] = f"{fills[piece.slot]}; {piece.text}" if piece.slot in fills else piece.text
        kind = set(normal(self.formula.name).split())
        gaps = [_without_idle(self.wish[a:b]) for a, b in self._gaps(_OPENING.match(self.wish).end())]
        rest = [words for words in gaps if words and not set(normal(words).split()) <= kind]
        return Heard(self.wish, fills, tuple(pieces), tuple(rest))


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


def _without_idle(text: str) -> str:
    words = text.strip(" ,").split(" ")
    while words and (words[0].lower() in IN_WISHES or words[0].lower() in LEADS):
        words.pop(0)
    while words and words[-1].lower() in IN_WISHES | LEADS:
        words.pop()
    return " ".join(words)
