"""The trained model: what each feature says for each label, and the search for the reading that has most for it."""

from collections.abc import Iterable, Mapping, Sequence
from math import exp, log
from typing import NamedTuple

from syntagma.core.reading.model.features import ENDS, LONGEST, Stretch

OUT, NONE = "-", "no part"
BEGIN, INSIDE = "begin", "inside"
FACETS = 5  # so many facets are tried for a part
UNLIKELY = -3.6  # an edge of which the logarithm of its chance is less is not tried


class Scorer:
    """One classifier: labels, and the weights of features for them."""

    def __init__(self, labels: Sequence[str], weights: Mapping[str, Sequence[float]]):
        self.labels, self.weights = list(labels), weights
        self._pairs: dict[str, tuple[tuple[int, float], ...]] = {}

    def logs(self, features: Iterable[str]) -> list[float]:
        """The logarithm of each label's chance."""
        sums = [0.0] * len(self.labels)
        pairs = self._pairs
        for feature in features:
            found = pairs.get(feature)
            if found is None:
                row = self.weights.get(feature)
                found = pairs[feature] = tuple((i, float(w)) for i, w in enumerate(row) if abs(w) > 0.01) if row is not None else ()
            for i, weight in found:
                sums[i] += weight
        top = max(sums)
        total = top + log(sum(exp(s - top) for s in sums))
        return [s - total for s in sums]


class Found(NamedTuple):
    """A part that was found: its words, from which to before which, its facet, and how sure that is."""

    first: int
    stop: int
    facet: str
    sure: float


class Model:
    """Three classifiers (the facet of a word, where parts begin, what a row of words is as a part) and the search over them."""

    def __init__(self, facets: Scorer, edges: Scorer, parts: Scorer, by_words: float = 1.0, by_edges: float = 1.0, by_part: float = 1.0, bonus: float = 0.0):
        self.facets, self.edges, self.parts = facets, edges, parts
        self.by_words, self.by_edges, self.by_part, self.bonus = by_words, by_edges, by_part, bonus
        self._place = {label: i for i, label in enumerate(facets.labels)}

    def read(self, stretch: Stretch) -> list[Found]:
        """The parts of a stretch that together have most for them (a semi-Markov search: every row of words that may be a part)."""
        words = stretch.words
        n = len(words)
        rows = [stretch.of_word(i) for i in range(n)]
        facets = [self.facets.logs(row) for row in rows]
        edges = [self.edges.logs(row) for row in rows]  # begin, inside, out
        out = self._place[OUT]
        best = [0.0] + [float("-inf")] * n
        came: list[tuple[int, str, float]] = [(0, OUT, 0.0)] * (n + 1)
        for i in range(n):
            begin, _, outside = edges[i]
            here = best[i] + self.by_words * facets[i][out] + self.by_edges * outside
            if here > best[i + 1]:
                best[i + 1], came[i + 1] = here, (i, OUT, 0.0)
            if not words[i].is_word or begin < UNLIKELY:
                continue
            sums = facets[i][:]
            along = begin
            for j in range(i + 1, min(n, i + LONGEST) + 1):
                if j > i + 1:
                    if edges[j - 1][1] < UNLIKELY or (words[j - 1].low in ENDS and not stretch.quoted[j - 1]):
                        break
                    along += edges[j - 1][1]
                    row = facets[j - 1]
                    sums = [a + b for a, b in zip(sums, row, strict=True)]
                if not words[j - 1].is_word or (j < n and edges[j][1] > -0.02):
                    continue
                logs = self.parts.logs(stretch.of_part(i, j))
                none = logs[0]
                order = sorted(range(1, len(logs)), key=lambda k: -logs[k])[:FACETS]
                for k in order:
                    label = self.parts.labels[k]
                    score = best[i] + self.by_edges * along + self.by_words * sums[self._place[label]] + self.by_part * (logs[k] - none) + self.bonus
                    if score > best[j]:
                        best[j], came[j] = score, (i, label, logs[k])
        found = []
        at = n
        while at:
            start, label, sure = came[at]
            if label != OUT:
                found.append(Found(start, at, label, exp(sure)))
            at = start
        return found[::-1]
