"""Picks from the vocabulary: what suits best most often, everything now and then, nothing that contradicts.

Each open slot has a deck: its terms with a weight each. A term's weight is two to the power of its score: how well it
suits what stands beside it (suiting.py), what themes lean to, whether it is a favourite, less what it was picked before.
One that contradicts, that needs beside it what is not there, or that says again what is said already, is not picked.
"""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

from syntagma.core.drafting.fills import Fill, fill_of_terms
from syntagma.core.vocabulary.affinity import NEVER, suits
from syntagma.core.vocabulary.stated import said
from syntagma.core.vocabulary.terms import Term, explains

if TYPE_CHECKING:
    from random import Random

STAR = 2.0  # a favourite weighs as much as four shared tempers
SLACK = 3.0  # how far below the best a term may be to be picked at all
FLOOR = -3.0  # below this a slot that needs nothing stays open: a poor fit is worse than a blank
USED = 1.0  # what each time that a term was picked takes off, up to MOST_USED times more than the least
MOST_USED = 3
AGAIN = -8.0  # what saying a word twice costs a slot that must be filled

# Facets that say what the picture is of: picked first, so that the rest goes with them.
FIRST = ("subject", "animal", "food", "object", "architecture", "setting", "background", "action", "hour", "weather", "lighting")


class Want(NamedTuple):
    """A slot to pick for: its terms, the least and the most that it takes, whether it has to be filled, and whether it
    stands `apart`, in the negative text, where it contradicts nothing and doubles nothing."""

    slot: str
    facet: str
    terms: Sequence[Term]
    take: tuple[int, int] = (1, 1)
    need: bool = False
    apart: bool = False


class Deck:
    """The terms of one slot, with what they weigh and how often each was picked."""

    def __init__(self, want: Want, random: "Random", lean: Callable[[Term], float] | None = None):
        self.want = want
        self.terms = tuple(want.terms)
        self._random = random
        self._weights = [(lean(term) if lean else 0.0) + STAR * term.star for term in self.terms]
        self._used = [0] * len(self.terms)
        self._suits: dict[Term, list[float]] = {}
        self._said = [said(term) for term in self.terms]
        self._needing = [(i, term) for i, term in enumerate(self.terms) if term.needs]

    def draw(
        self, beside: Iterable[Sequence[Term]], words: Collection[str] = (), but: Collection[Term] = (), need: bool = True
    ) -> Term | None:
        """A term that goes with `beside` (the terms of each filled slot: a list weighs as much as a single one), says none of
        `words` and is none of `but`. None where there is none, and unless there is a `need`, where none suits."""
        beside = list(beside)
        scores = list(map(sum, zip(self._weights, *map(self._beside, beside), strict=True)))
        for i, term in self._needing:
            if not any(explains(other, term) for others in beside for other in others):
                scores[i] = NEVER
        there = {*but, *(term for others in beside for term in others)}
        for i, own in enumerate(self._said):
            if self.terms[i] in there:
                scores[i] = NEVER
            elif not own.isdisjoint(words):
                scores[i] += AGAIN if need else NEVER
        best = max(scores, default=NEVER)
        if best == NEVER or (best < FLOOR and not need):
            return None
        least = min(self._used)
        scores = [s - USED * min(used - least, MOST_USED) for s, used in zip(scores, self._used, strict=True)]
        best = max(scores)
        near = [i for i, score in enumerate(scores) if score >= best - SLACK]
        (found,) = self._random.choices(near, [2.0 ** (scores[i] - best) for i in near])
        self._used[found] += 1
        return self.terms[found]

    def _beside(self, others: Sequence[Term]) -> list[float]:
        """How well each term goes with those of another slot, on an average."""
        if len(others) == 1:
            return self._with(others[0])
        return [sum(scores) / len(others) for scores in zip(*map(self._with, others), strict=True)]

    def _with(self, other: Term) -> list[float]:
        """How well each term goes with `other`, looked up after the first time. What is kept out of a picture contradicts
        nothing in it."""
        known = self._suits.get(other)
        if known is None:
            known = [suits(term, other) for term in self.terms]
            if self.want.apart:
                known = [0.0 if score == NEVER else score for score in known]
            self._suits[other] = known
        return known


class Picker:
    """Picks fills for several slots at once, so that they suit each other and say nothing twice."""

    def __init__(self, wants: Iterable[Want], random: "Random", lean: Callable[[Term], float] | None = None):
        order = sorted(wants, key=lambda w: (w.apart, not w.need, FIRST.index(w.facet) if w.facet in FIRST else len(FIRST)))
        self._decks = [Deck(want, random, lean) for want in order]
        self._random = random

    def pick(
        self, terms: Iterable[Sequence[Term]], words: Iterable[str] = (), but: Mapping[str, Collection[Term]] = MappingProxyType({})
    ) -> dict[str, Fill | None]:
        """A fill for every slot that suits `terms` (those of each slot filled already), says none of the ideas `words`, and takes none of `but` (slot → terms);
        None for a slot that is left open."""
        beside, told, told_apart = list(terms), set(words), set()
        picked: dict[str, Fill | None] = {}
        for deck in self._decks:
            want = deck.want
            heard = told_apart if want.apart else told
            chosen: list[Term] = []
            for number in range(self._random.randint(*want.take)):
                passed = (*but.get(want.slot, ()), *chosen)
                term = deck.draw([*beside, chosen] if chosen else beside, heard, passed, want.need and not number)
                if term is None:
                    break
                chosen.append(term)
                heard |= said(term)
            if chosen and not want.apart:
                beside.append(chosen)
            picked[want.slot] = fill_of_terms(chosen)
        return picked
