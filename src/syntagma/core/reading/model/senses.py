"""The lexicon of senses: what kinds of thing, act or quality an English word names (compiled by training/senses.py)."""

from functools import lru_cache

# Endings that a word loses, with what represents them, as WordNet's own morphology does (morphy(7WN)).
ENDINGS = (
    ("ies", "y"), ("ves", "f"), ("ches", "ch"), ("shes", "sh"), ("xes", "x"), ("sses", "ss"), ("zes", "z"), ("men", "man"), ("children", "child"),
    ("ying", "y"), ("ying", "ie"), ("ing", ""), ("ing", "e"), ("ied", "y"), ("ed", ""), ("ed", "e"), ("es", "e"), ("es", ""), ("s", ""),
    ("er", ""), ("er", "e"), ("ier", "y"), ("est", ""), ("est", "e"), ("ly", ""),
)  # fmt: skip
NOTHING: frozenset[str] = frozenset()


class Senses:
    """What words name, by their classes: `noun.person`, `n.clothing`, `v.move`; `N` a word that is mostly a noun, `n` one that can be."""

    def __init__(self, table: bytes):
        """`table`: lines of classes, each with the numbers of those right above it; an empty line; then the words in the order of their
        letters, each with its classes. Nothing is taken apart before it is asked for."""
        head = table.index(b"\n\n")
        lines = [line.split(" ") for line in table[:head].decode().split("\n") if not line.startswith("#")]
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
        """The form of a word that the lexicon has: itself, or without its ending; "" if it has none."""
        if self._codes(word):
            return word
        for ending, instead in ENDINGS:
            if word.endswith(ending) and len(word) - len(ending) > 1:
                stem = word[: len(word) - len(ending)] + instead
                if self._codes(stem):
                    return stem
                if not instead and len(stem) > 3 and stem[-1] == stem[-2] and self._codes(stem[:-1]):
                    return stem[:-1]
        return ""

    def _of(self, word: str) -> frozenset[str]:
        """All classes of a word, or of its last part if it is joined by a hyphen."""
        found = self.known(word) or (self.known(word.rsplit("-", 1)[1]) if "-" in word else "")
        return self._with_above(self._codes(found)) if found else NOTHING
