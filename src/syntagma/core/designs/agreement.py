"""What levels may not go together for what they take for granted: the smallest sets of them that disagree, of any size."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import product

from syntagma.core.designs.level_rows import Literal
from syntagma.core.drafting.fills import Fill
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.vocabulary.world import Seat, Thing

MOST = 4  # levels of one set; a larger one would need five axes that speak of one dimension


class Agreement:
    """What is in every member, by seat, and what each level adds to it."""

    def __init__(
        self,
        vocabulary: Vocabulary,
        seats: Mapping[str, Seat],
        granted: Sequence[Thing] = (),
        fixed: Mapping[str, Fill | None] | None = None,
    ):
        self._vocabulary, self._seats = vocabulary, seats
        self.fixed = [*granted, *(thing for slot, fill in (fixed or {}).items() for thing in self._of_fill(slot, fill))]

    def things(self, slots: Sequence[str], level: object) -> list[Thing]:
        """What a level of the axis of some slots puts into the picture."""
        fills = getattr(level, "fills", (level,))
        return [thing for slot, fill in zip(slots, fills, strict=False) for thing in self._of_fill(slot, fill)]

    def _of_fill(self, slot: str, fill: object) -> list[Thing]:
        seat = self._seats.get(slot)
        return [self._vocabulary.thing(seat, term) for term in fill.terms] if seat and isinstance(fill, Fill) else []

    def why(self, things: Sequence[Thing]) -> str:
        """Why things disagree with each other or with what is fixed, in words; "" if they don't."""
        found = self._vocabulary.dimensions.disagreements([*self.fixed, *things])
        varied = [disagreement for disagreement in found if not set(disagreement.things) <= set(self.fixed)]
        return varied[0].why if varied else ""

    def nogoods(self, levels: Sequence[Sequence[Sequence[Thing]]]) -> Iterator[frozenset[Literal]]:
        """The smallest sets of levels that disagree, beside what is fixed. `levels` are, axis by axis, what each level puts in."""
        dimensions = self._vocabulary.dimensions
        every = [*self.fixed, *(thing for axis in levels for things in axis for thing in things)]
        if not any(thing.world.masks for thing in every):
            return
        for i in range(len(dimensions.all)):
            for whose in dimensions.contexts(i, every):

                def common(things: Sequence[Thing], i=i, whose=whose) -> int:
                    mask = -1
                    for thing in things:
                        for at, values in thing.world.masks if whose(thing.seat) else ():
                            mask &= values if at == i else -1
                    return mask

                start = common(self.fixed) or -1  # what is fixed may disagree with itself: that leaves nothing out
                grouped = [_by_mask(common, axis, start) for axis in levels]
                speaking = [a for a, masks in enumerate(grouped) if any(mask != start for mask in masks)]
                for chosen in _smallest(grouped, speaking, start):
                    yield from (
                        frozenset(zip((a for a, _ in chosen), numbers, strict=True))
                        for numbers in product(*(grouped[a][m] for a, m in chosen))
                    )


def _by_mask(common, axis: Sequence[Sequence[Thing]], start: int) -> dict[int, list[int]]:
    """The levels of an axis by what they leave of what is common."""
    found: dict[int, list[int]] = {}
    for number, things in enumerate(axis):
        found.setdefault(common(things) & start, []).append(number)
    return found


def _smallest(grouped: Sequence[Mapping[int, object]], axes: Sequence[int], start: int) -> Iterator[tuple[tuple[int, int], ...]]:
    """Sets of (axis, mask) that leave nothing in common, no part of which does."""

    def empty(chosen: Sequence[tuple[int, int]]) -> bool:
        left = start
        for _, mask in chosen:
            left &= mask
        return not left

    def grow(chosen: tuple[tuple[int, int], ...], rest: Sequence[int]) -> Iterator[tuple[tuple[int, int], ...]]:
        for k, axis in enumerate(rest):
            for mask in grouped[axis]:
                more = (*chosen, (axis, mask))
                if mask == start:
                    continue
                if empty(more):
                    if not any(empty(more[:j] + more[j + 1 :]) for j in range(len(more))):
                        yield more
                elif len(more) < MOST:
                    yield from grow(more, rest[k + 1 :])

    yield from grow((), axes)
