"""The lexicon of senses: what kinds of thing, act or quality an English word names (compiled by training/senses.py)."""

from collections.abc import Mapping
from functools import lru_cache
from itertools import takewhile

# Endings that a word loses, with what stands for them, as WordNet's own morphology does (morphy(7WN)).
ENDINGS = (
    ("ies", "y"), ("ves", "f"), ("ches", "ch"), ("shes", "sh"), ("xes", "x"), ("sses", "ss"), ("zes", "z"), ("men", "man"),
    ("ying", "y"), ("ying", "ie"), ("ing", ""), ("ing", "e"), ("ied", "y"), ("ed", ""), ("ed", "e"), ("es", "e"), ("es", ""), ("s", ""),
    ("er", ""), ("er", "e"), ("ier", "y"), ("est", ""), ("est", "e"), ("ly", ""),
)  # fmt: skip
NOTHING: frozenset[str] = frozenset()


class Senses:
    """What words name, by their classes: `noun.person`, `n.clothing`, `v.move`; `N` a word that is mostly a noun, `n` one that can be."""

    def __init__(self, table: Mapping[str, tuple[str, ...]], above: Mapping[str, tuple[str, ...]]):
        self._table, self._above = table, above
        self.of = lru_cache(maxsize=8192)(self._of)
        self._with_above = lru_cache(maxsize=8192)(self._closed)

    @classmethod
    def parse(cls, text: str) -> "Senses":
        """Read the table. A line of its first part is a class with those above it; of the second a word, by how many letters it shares with
        the word before, the rest of it, and its classes by their numbers."""
        lines = iter(line for line in text.split("\n") if not line.startswith("#"))
        classes = list(takewhile(bool, lines))
        names = [line.split(" ", 1)[0] for line in classes]
        above = {line.split(" ", 1)[0]: tuple(names[int(n)] for n in line.split(" ")[1:]) for line in classes}
        table: dict[str, tuple[str, ...]] = {}
        last = ""
        for line in lines:
            if line:
                word, codes = line.split(" ", 1)
                last = last[: ord(word[0]) - 48] + word[1:]
                table[last] = (codes, *names[:0])
        return cls(_Lazy(table, names), above)

    def _closed(self, codes: tuple[str, ...]) -> frozenset[str]:
        found, wait = set(), list(codes)
        while wait:
            code = wait.pop()
            if code not in found:
                found.add(code)
                wait += self._above.get(code, ())
        return frozenset(found)

    def known(self, word: str) -> str:
        """The form of a word that the lexicon has: itself, or without its ending; "" where it has none."""
        if word in self._table:
            return word
        for ending, instead in ENDINGS:
            if word.endswith(ending) and len(word) - len(ending) > 1:
                stem = word[: len(word) - len(ending)] + instead
                if stem in self._table:
                    return stem
                if not instead and len(stem) > 3 and stem[-1] == stem[-2] and stem[:-1] in self._table:
                    return stem[:-1]
        return ""

    def _of(self, word: str) -> frozenset[str]:
        """All classes of a word, or of its last part where it is joined by a hyphen."""
        found = self.known(word) or (self.known(word.rsplit("-", 1)[1]) if "-" in word else "")
        return self._with_above(self._table[found]) if found else NOTHING


class _Lazy(dict):
    """Words with their classes, which are looked up when a word is."""

    def __init__(self, table: dict, names: list[str]):
        super().__init__(table)
        self._names = names

    def __getitem__(self, word: str) -> tuple[str, ...]:
        (codes,) = super().__getitem__(word)
        return tuple(self._names[int(n)] for n in codes.split(","))
