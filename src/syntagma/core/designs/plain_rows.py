"""The plain designs: every combination (full), one setting at a time (single), and rows drawn at
random.
"""

from collections.abc import Iterator, Sequence
from itertools import product
from math import prod
from random import Random
from typing import TYPE_CHECKING

from syntagma.core.designs.axes import Axis, Combination
from syntagma.core.designs.level_rows import Space

# ──── Every combination, or a sample of them.


if TYPE_CHECKING:
    from random import Random


def full(axes: Sequence[Axis]) -> Iterator[Combination]:
    """Every combination of levels, the last axis changing fastest; the baseline comes first."""
    return product(*(axis.levels for axis in axes))


def full_size(axes: Sequence[Axis]) -> int:
    """How many members `full` has."""
    return prod(len(axis.levels) for axis in axes)


def sampled(axes: Sequence[Axis], random: "Random") -> Iterator[Combination]:
    """The baseline, then the other combinations in random order, each once, with no list of them
    all.
    """
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


# ──── One change at a time against the baseline.


def single(axes: Sequence[Axis]) -> Iterator[Combination]:
    """The baseline, then each other level of each axis with everything else as in the baseline."""
    baseline = tuple(axis.levels[0] for axis in axes)
    yield baseline
    for i, axis in enumerate(axes):
        for level in axis.levels[1:]:
            yield (*baseline[:i], level, *baseline[i + 1 :])


def single_size(axes: Sequence[Axis]) -> int:
    """How many members `single` has."""
    return 1 + sum(len(axis.levels) - 1 for axis in axes)


# ──── Rows drawn one by one, with no more kept than what was drawn: independent draws, weighted;
# and one ordered axis in even steps.


TRIES = 200  # draws for one row before it is completed by search


def drawn(
    space: Space, weights: Sequence[Sequence[float]], random: Random
) -> Iterator[tuple[int, ...]]:
    """Rows without end, each level by its weight, each row allowed by the rules; nothing if no row
    is.
    """
    forbidding = space.index()
    if space.nogoods and forbidding.completes({}) is None:
        return
    choices = [range(v) for v in space.levels]
    while True:
        for _ in range(TRIES):
            row = tuple(
                random.choices(levels, w)[0] for levels, w in zip(choices, weights, strict=True)
            )
            if not space.nogoods or forbidding.allows(row):
                yield row
                break
        else:
            axis = random.randrange(len(space.levels))
            level = random.choices(choices[axis], weights[axis])[0]
            whole = forbidding.completes({axis: level}) or forbidding.completes({})
            assert whole is not None, "the space was found to have rows"
            yield tuple(whole)


def ladder(levels: int, count: int | None) -> list[int]:
    """The levels of one ordered axis in even steps, first and last among them."""
    if count is None or count >= levels:
        return list(range(levels))
    if count == 1:
        return [0]
    return [round(i * (levels - 1) / (count - 1)) for i in range(count)]
