"""Words as the reader sees them: their senses in the vocabulary and the lexicons."""

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import Lexicon, bare

# ──── The lexicon of senses: what kinds of thing, act or quality an English word names (compiled by
# training/senses.py).


# Endings that a word loses, with what represents them, as WordNet's own morphology does
# (morphy(7WN)).
ENDINGS = (
    ("ies", "y"),
    ("ves", "f"),
    ("ches", "ch"),
    ("shes", "sh"),
    ("xes", "x"),
    ("sses", "ss"),
    ("zes", "z"),
    ("men", "man"),
    ("children", "child"),
    ("ying", "y"),
    ("ying", "ie"),
    ("ing", ""),
    ("ing", "e"),
    ("ied", "y"),
    ("ed", ""),
    ("ed", "e"),
    ("es", "e"),
    ("es", ""),
    ("s", ""),
    ("er", ""),
    ("er", "e"),
    ("ier", "y"),
    ("est", ""),
    ("est", "e"),
    ("ly", ""),
)
NOTHING: frozenset[str] = frozenset()


class Senses:
    """What words name, by their classes: `noun.person`, `n.clothing`, `v.move`; `N` a word that is
    mostly a noun, `n` one that can be.
    """

    def __init__(self, table: bytes):
        """`table`: lines of classes, each with the numbers of those right above it; an empty line;
        then the words in the order of their letters, each with its classes. Nothing is taken apart
        before it is asked for.
        """
        head = table.index(b"\n\n")
        lines = [
            line.split(" ")
            for line in table[:head].decode().split("\n")
            if not line.startswith("#")
        ]
        self._names = [line[0] for line in lines]
        self._above = {line[0]: tuple(self._names[int(n)] for n in line[1:]) for line in lines}
        self._table, self._start = table, head + 2
        self.of = lru_cache(maxsize=8192)(self._of)
        self._codes = lru_cache(maxsize=8192)(self._codes_of)
        self._with_above = lru_cache(maxsize=8192)(self._closed)

    def _codes_of(self, word: str) -> str:
        """What the table has after a word; "" if it has it not (a search by halves)."""
        table, said = self._table, word.encode()
        low, high = self._start, len(table)
        while low < high:
            at = table.rfind(b"\n", 0, (low + high) // 2) + 1
            if at < low:
                at = low
            stop = table.index(b"\n", at)
            here, _, codes = table[at:stop].partition(b" ")
            if here == said:
                return codes.decode()
            if here < said:
                low = stop + 1
            else:
                high = at
        return ""

    def _closed(self, numbers: str) -> frozenset[str]:
        found, wait = set(), [self._names[int(n)] for n in numbers.split(",")]
        while wait:
            code = wait.pop()
            if code not in found:
                found.add(code)
                wait += self._above.get(code, ())
        return frozenset(found)

    def known(self, word: str) -> str:
        """The form of a word that the lexicon has: itself, or without its ending; "" if it has
        none.
        """
        if self._codes(word):
            return word
        for ending, instead in ENDINGS:
            if word.endswith(ending) and len(word) - len(ending) > 1:
                stem = word[: len(word) - len(ending)] + instead
                if self._codes(stem):
                    return stem
                if (
                    not instead
                    and len(stem) > 3
                    and stem[-1] == stem[-2]
                    and self._codes(stem[:-1])
                ):
                    return stem[:-1]
        return ""

    def _of(self, word: str) -> frozenset[str]:
        """All classes of a word, or of its last part if it is joined by a hyphen."""
        found = self.known(word) or (self.known(word.rsplit("-", 1)[1]) if "-" in word else "")
        return self._with_above(self._codes(found)) if found else NOTHING


# ──── The words of a stretch of text, each with what is known of it: its senses, the facets that
# the vocabulary has it in, its place.


WORD = regex(r"[^\W_]+(?:[./'’&+-]+[^\W_]+)*[%°]?|\n+|[^\w\s]|_")
ENDS = frozenset(".!?;\n")  # a part does not go on behind one of these
STOPS = frozenset(
    "who which that whose while as when where and or but so if because than then is are was were be"
    " been being has have had".split()
)
SHORTEST, LIKELY = 3, 0.2


class ReadWord(NamedTuple):
    """A word or a sign: its place in the text, as it is written in small letters, its senses,
    whether it is a word, and has a capital.
    """

    start: int
    stop: int
    low: str
    senses: frozenset[str]
    is_word: bool
    capital: bool = False


class WordKnowledge:
    """What the vocabulary and the lexicon of senses say of words. Made once for many readings."""

    def __init__(self, lexicon: Lexicon, senses: Senses, trade: str):
        """`trade`: lines of a facet and the words that speak for it (`lens: long lens; fisheye`);
        behind the facet of places, the preposition that these take (`setting at: station`).
        """
        self.lexicon, self.senses = lexicon, senses
        self._trade: dict[tuple[str, ...], list[str]] = {}
        self._places: dict[str, str] = {}
        for line in trade.split("\n"):
            name, colon, said = line.partition(": ")
            if colon and not line.startswith("#"):
                facet, _, preposition = name.partition(" ")
                for text in said.split("; "):
                    key = tuple(map(bare, text.split(" ")))
                    self._trade.setdefault(key, []).append(facet)
                    if facet == "setting" and (preposition or key[-1] not in self._places):
                        self._places[key[-1]] = preposition or "in"
        self._first = frozenset(key[0] for key in self._trade)
        self.facets = lru_cache(maxsize=8192)(self._facets)

    def _facets(self, word: str) -> tuple[tuple[str, str], ...]:
        """The facets that a bare word is often met in, each with how much of it: "most", "much"."""
        found = self.lexicon.facets(word) if len(word) >= SHORTEST else {}
        whole = sum(found.values())
        return tuple(
            (facet, "most" if n > 0.6 * whole else "much")
            for facet, n in sorted(found.items())
            if n >= LIKELY * whole
        )

    def preposition(self, noun: str) -> str:
        """How a place is led to by its noun: "on" for a quay; "" for what is not a place."""
        return self.lexicon.places.get(noun) or self._places.get(noun, "")

    def words(self, text: str, start: int, stop: int) -> list[ReadWord]:
        """The words and signs of a stretch."""
        found = []
        for match in WORD.finditer(text, start, stop):
            said = match.group()
            low = said.lower().replace("’", "'")
            is_word = low[0].isalnum()
            senses = self.senses.of(low) if is_word else NOTHING
            found.append(
                ReadWord(
                    match.start(),
                    match.end(),
                    low,
                    senses,
                    is_word,
                    said[0].isupper() and not said.isupper(),
                )
            )
        return found

    def names(self, words: Sequence[ReadWord]) -> list[tuple[int, int, Sequence[str]]]:
        """Where names of the vocabulary stand: from which word to which, and of which facets."""
        said = [
            (bare(piece), i)
            for i, w in enumerate(words)
            for piece in (w.low.split("-") if w.is_word else (w.low,))
        ]
        found: list[tuple[int, int, Sequence[str]]] = []
        for a, b, names in self.lexicon.within([word for word, _ in said]):
            first, last = said[a][1], said[b - 1][1]
            if (a == 0 or said[a - 1][1] < first) and (
                b == len(said) or said[b][1] > last
            ):  # whole words
                found.append((first, last + 1, sorted({name.term.facet for name in names})))
        return found

    def trade(self, words: Sequence[ReadWord]) -> list[tuple[int, int, Sequence[str]]]:
        """Where words of the trade stand, the longest first: from which word to which, and of which
        facets.
        """
        said = [bare(w.low) for w in words]
        found: list[tuple[int, int, Sequence[str]]] = []
        at = 0
        while at < len(said):
            length = 1
            if said[at] in self._first:
                for length in range(min(4, len(said) - at), 0, -1):
                    if facets := self._trade.get(tuple(said[at : at + length])):
                        found.append((at, at + length, facets))
                        break
            at += length
        return found


def is_lead(word: str) -> bool:
    """Does a word lead to a noun group, and is not part of it?"""
    return word in PREPOSITIONS or word in STOPS


def is_determiner(word: str) -> bool:
    return word in DETERMINERS
