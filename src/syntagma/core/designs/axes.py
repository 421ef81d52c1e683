"""Axes: slots that vary, each with its levels; and which levels contradict each other."""

from collections.abc import Sequence
from itertools import combinations
from typing import NamedTuple

from syntagma.core.fills import Fill
from syntagma.core.vocabulary import clash, why_clash

Combination = tuple[Fill | None, ...]


class Axis(NamedTuple):
    """One slot that varies. The first level is the baseline's; None is a blank. `shown`: it stands in the text, so that
    its terms may contradict others; not so in negative text."""

    slot: str
    position: int
    levels: tuple[Fill | None, ...]
    shown: bool = True


def contradict(a: Fill | None, b: Fill | None) -> bool:
    """Does any term of one fill clash with one of the other?"""
    return bool(a and b) and any(clash(s, t) for s in a.terms for t in b.terms)


class Clashes:
    """Which combinations contradict themselves: found once for each pair of levels, then looked up."""

    def __init__(self, axes: Sequence[Axis], fixed: Sequence[Fill | None]):
        self._fixed = [fill for fill in fixed if fill]
        shown = [(i, axis.levels) for i, axis in enumerate(axes) if axis.shown]
        alone = [(i, {id(x) for x in levels if any(contradict(x, other) for other in fixed)}) for i, levels in shown]
        self._singles = [(i, bad) for i, bad in alone if bad]
        self._pairs: list[tuple[int, int, set[tuple[int, int]]]] = []
        for (a, first), (b, second) in combinations(shown, 2):
            bad = {(id(x), id(y)) for x in first for y in second if contradict(x, y)}
            if bad:
                self._pairs.append((a, b, bad))

    def __bool__(self) -> bool:
        return bool(self._singles or self._pairs)

    def has(self, combination: Combination) -> bool:
        """Does the combination contradict itself, or what is fixed?"""
        return any(id(combination[a]) in bad for a, bad in self._singles) or any(
            (id(combination[a]), id(combination[b])) in bad for a, b, bad in self._pairs
        )

    def why(self, combination: Combination) -> str:
        """The first two fills of a combination that contradict each other, in words."""
        fills = [*self._fixed, *(fill for fill in combination if fill)]
        pairs = ((s, t) for a, b in combinations(fills, 2) for s in a.terms for t in b.terms)
        return next((why for s, t in pairs if (why := why_clash(s, t))), "")
