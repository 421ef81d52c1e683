"""Picks from the vocabulary: nearly as even as a deck of cards, away from clashes and from saying a word twice, and
leaning towards what suits (shared tags: sea with sea, night with night)."""

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

from syntagma.core.fills import Fill, fill_of_term, item_of_term
from syntagma.core.vocabulary import Term, clash, normal

if TYPE_CHECKING:
    from random import Random

STAR = 2  # a favourite weighs as much as two shared tags
WINDOW = 12  # cards looked at for the one that suits best

_IDLE = frozenset(
    "the and for off out one two its not but with from into over under against behind along across through that this their".split()
)


class Deck:
    """The terms of one facet, shuffled: with nothing to suit, each is drawn once before any is drawn again."""

    def __init__(self, terms: Sequence[Term], random: "Random"):
        self.terms = tuple(terms)
        self._random = random
        self._left: list[Term] = []

    def draw(self, beside: Sequence[Term], words: frozenset[str] = frozenset()) -> Term | None:
        """A term from the top of the deck that clashes with none of `beside` and says none of `words` (failing that,
        one that clashes with none): of the first WINDOW such terms the one that shares most tags with `beside`.
        None where every term clashes."""
        if len(self._left) < WINDOW:
            self._left += self._shuffled()
        fitting = [i for i, term in enumerate(self._left) if not any(clash(term, other) for other in beside)]
        if not fitting:
            self._left = self._left[-2 * len(self.terms) :] + self._shuffled()  # what never fits does not pile up
            fitting = [i for i, term in enumerate(self._left) if not any(clash(term, other) for other in beside)]
        fresh = [i for i in fitting if words.isdisjoint(_said(self._left[i]))]
        choice = (fresh or fitting)[:WINDOW]
        if not choice:
            return None
        told = Counter(tag for other in beside for tag in other.tags)
        best = max(choice, key=lambda i: (sum(told[t] for t in self._left[i].tags) + STAR * self._left[i].star, -i))
        return self._left.pop(best)

    def _shuffled(self) -> list[Term]:
        fresh = list(self.terms)
        self._random.shuffle(fresh)
        return fresh


class Picker:
    """Picks fills for several slots at once so that they suit each other; those in `apart` (of negative text) need not."""

    def __init__(self, terms_of: dict[str, Sequence[Term]], takes: dict[str, tuple[int, int]], apart: set[str], random: "Random"):
        self._decks = {slot: Deck(terms, random) for slot, terms in terms_of.items()}
        self._takes, self._apart = takes, apart
        self._random = random

    def pick(self, beside: Iterable[Fill | None]) -> dict[str, Fill | None]:
        """A fill for every slot, none of which clashes with another or with `beside`."""
        fixed = [fill for fill in beside if fill]
        terms = [t for fill in fixed for t in fill.terms]
        words = set().union(*(content_words(item.words) for fill in fixed for item in fill.items))
        picked: dict[str, Fill | None] = {}
        for slot, deck in self._decks.items():
            least, most = self._takes[slot]
            chosen: list[Term] = []
            for _ in range(self._random.randint(least, most) if most > 1 else 1):
                beside = chosen if slot in self._apart else terms + chosen
                term = deck.draw(beside, frozenset(words))
                if term is None or term in chosen:
                    break
                chosen.append(term)
                words |= _said(term)
            terms += chosen if slot not in self._apart else []
            picked[slot] = _fill(chosen)
        return picked


def _said(term: Term) -> frozenset[str]:
    """The words that a term brings into a prompt, in whichever form."""
    return content_words(f"{term.term} {term.phrase} {term.place}")


def _fill(terms: Sequence[Term]) -> Fill | None:
    if len(terms) == 1:
        return fill_of_term(terms[0])
    return Fill(tuple(t.term for t in terms), tuple(map(item_of_term, terms))) if terms else None


@lru_cache(maxsize=8192)
def content_words(text: str) -> frozenset[str]:
    """The words of `text` that say something, without their endings: "wet quays" → {"quay"}."""
    words = re.findall(r"[^\W\d_]{3,}", normal(text))
    return frozenset(re.sub(r"(?:ies|es|s|ing|ed|ly)$", "", w) or w for w in words if w not in _IDLE)
