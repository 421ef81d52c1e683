"""Rows drawn one by one, with no more kept than what was drawn: independent draws, weighted; and one ordered axis in even steps."""

from collections.abc import Iterator, Sequence
from random import Random

from syntagma.core.designs.level_rows import Space

TRIES = 200  # draws for one row before it is completed by search


def drawn(space: Space, weights: Sequence[Sequence[float]], random: Random) -> Iterator[tuple[int, ...]]:
    """Rows without end, each level by its weight, each row allowed by the rules; nothing if no row is."""
    forbidding = space.index()
    if space.nogoods and forbidding.completes({}) is None:
        return
    choices = [range(v) for v in space.levels]
    while True:
        for _ in range(TRIES):
            row = tuple(random.choices(levels, w)[0] for levels, w in zip(choices, weights, strict=True))
            if not space.nogoods or forbidding.allows(row):
                yield row
                break
        else:
            axis = random.randrange(len(space.levels))
            level = random.choices(choices[axis], weights[axis])[0]
            whole = forbidding.completes({axis: level}) or forbidding.completes({})
            yield tuple(whole)


def ladder(levels: int, count: int | None) -> list[int]:
    """The levels of one ordered axis in even steps, first and last among them."""
    if count is None or count >= levels:
        return list(range(levels))
    if count == 1:
        return [0]
    return [round(i * (levels - 1) / (count - 1)) for i in range(count)]
