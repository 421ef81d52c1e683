"""One change at a time against the baseline."""

from collections.abc import Iterator, Sequence

from syntagma.core.designs.axes import Axis, Combination


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
