"""Every combination, or a sample of them."""

from collections.abc import Iterator, Sequence
from itertools import product
from math import prod
from typing import TYPE_CHECKING

from syntagma.core.designs.axes import Axis, Combination

if TYPE_CHECKING:
    from random import Random


def full(axes: Sequence[Axis]) -> Iterator[Combination]:
    """Every combination of levels, the last axis changing fastest; the baseline comes first."""
    return product(*(axis.levels for axis in axes))


def full_size(axes: Sequence[Axis]) -> int:
    """How many members `full` has."""
    return prod(len(axis.levels) for axis in axes)


def sampled(axes: Sequence[Axis], random: "Random") -> Iterator[Combination]:
    """The baseline, then the other combinations in random order, each once, with no list of them all."""
    size = full_size(axes)
    yield _nth(axes, 0)
    drawn = {0}
    while len(drawn) < size:
        if 2 * len(drawn) >= size:  # the rest is cheaper to list than to hit
            rest = [n for n in range(size) if n not in drawn]
            random.shuffle(rest)
            yield from (_nth(axes, n) for n in rest)
            return
        n = random.randrange(size)
        if n not in drawn:
            drawn.add(n)
            yield _nth(axes, n)


def _nth(axes: Sequence[Axis], n: int) -> Combination:
    levels = []
    for axis in reversed(axes):
        n, at = divmod(n, len(axis.levels))
        levels.append(axis.levels[at])
    return tuple(reversed(levels))
