"""What varies in a family: axes and their levels, and which levels disagree."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import combinations, product
from typing import Any, NamedTuple

from syntagma.core.designs.level_rows import Literal, Space
from syntagma.core.drafting.fills import Fill
from syntagma.core.vocabulary.terms import Term, Vocabulary, clash, why_clash
from syntagma.core.vocabulary.world import Seat, Thing

# ──── What levels may not go together for what they take for granted: the smallest sets of them
# that disagree, of any size.


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
        self.fixed = [
            *granted,
            *(thing for slot, fill in (fixed or {}).items() for thing in self._of_fill(slot, fill)),
        ]

    def things(self, slots: Sequence[str], level: object) -> list[Thing]:
        """What a level of the axis of some slots puts into the picture."""
        fills = getattr(level, "fills", (level,))
        return [
            thing
            for slot, fill in zip(slots, fills, strict=False)
            for thing in self._of_fill(slot, fill)
        ]

    def _of_fill(self, slot: str, fill: object) -> list[Thing]:
        seat = self._seats.get(slot)
        return (
            [self._vocabulary.thing(seat, term) for term in fill.terms]
            if seat and isinstance(fill, Fill)
            else []
        )

    def why(self, things: Sequence[Thing]) -> str:
        """Why things disagree with each other or with what is fixed, in words; "" if they don't."""
        found = self._vocabulary.dimensions.disagreements([*self.fixed, *things])
        varied = [
            disagreement
            for disagreement in found
            if not set(disagreement.things) <= set(self.fixed)
        ]
        return varied[0].why if varied else ""

    def nogoods(self, levels: Sequence[Sequence[Sequence[Thing]]]) -> Iterator[frozenset[Literal]]:
        """The smallest sets of levels that disagree, beside what is fixed. `levels` are, axis by
        axis, what each level puts in.
        """
        dimensions = self._vocabulary.dimensions
        every = [*self.fixed, *(thing for axis in levels for things in axis for thing in things)]
        if not any(thing.world.masks for thing in every):
            return
        for i in range(len(dimensions.all)):
            for whose in dimensions.contexts(i, every):

                def common(things: Sequence[Thing], i: int = i, whose: Any = whose) -> int:
                    mask = -1
                    for thing in things:
                        for at, values in thing.world.masks if whose(thing.seat) else ():
                            mask &= values if at == i else -1
                    return mask

                start = (
                    common(self.fixed) or -1
                )  # what is fixed may disagree with itself: that leaves nothing out
                grouped = [_by_mask(common, axis, start) for axis in levels]
                speaking = [
                    a for a, masks in enumerate(grouped) if any(mask != start for mask in masks)
                ]
                for chosen in _smallest(grouped, speaking, start):
                    yield from (
                        frozenset(zip((a for a, _ in chosen), numbers, strict=True))
                        for numbers in product(*(grouped[a][m] for a, m in chosen))
                    )


def _by_mask(
    common: Callable[[Sequence[Thing]], int], axis: Sequence[Sequence[Thing]], start: int
) -> dict[int, list[int]]:
    """The levels of an axis by what they leave of what is common."""
    found: dict[int, list[int]] = {}
    for number, things in enumerate(axis):
        found.setdefault(common(things) & start, []).append(number)
    return found


def _smallest(
    grouped: Sequence[Mapping[int, object]], axes: Sequence[int], start: int
) -> Iterator[tuple[tuple[int, int], ...]]:
    """Sets of (axis, mask) that leave nothing in common, no part of which does."""

    def empty(chosen: Sequence[tuple[int, int]]) -> bool:
        left = start
        for _, mask in chosen:
            left &= mask
        return not left

    def grow(
        chosen: tuple[tuple[int, int], ...], rest: Sequence[int]
    ) -> Iterator[tuple[tuple[int, int], ...]]:
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


# ──── Axes: what varies, each with its levels; and which levels may not go together.


KINDS = (
    "parameter",
    "stress",
    "model",
    "look",
    "theme",
    "detail",
    "order",
)  # what else than slots can vary


class Setting(NamedTuple):
    """A level of an axis that is not a slot: what is set (a parameter, a weight, the model, looks)
    and to what, as typed.
    """

    kind: str
    name: str
    value: str

    __eq__, __hash__ = object.__eq__, object.__hash__  # levels are distinguished by identity

    @property
    def shown(self) -> str:
        return self.value


class Together(NamedTuple):
    """A level of an axis of several slots that move together: what is in each."""

    fills: tuple[Fill | None, ...]

    __eq__, __hash__ = object.__eq__, object.__hash__  # levels are distinguished by identity

    @property
    def shown(self) -> str:
        return " / ".join(fill.shown if fill else "(blank)" for fill in self.fills)

    @property
    def terms(self) -> tuple[Term, ...]:
        return tuple(term for fill in self.fills if fill for term in fill.terms)


Level = Fill | Setting | Together | None
Combination = tuple[Level, ...]


class Axis(NamedTuple):
    """One thing that varies: a slot, several that move together (their names joined by +), or with
    `kind` something else. The first level is the baseline's; None is a blank. `shown`: it is in the
    text, so its terms may contradict others; not so in negative text. `weights`: how likely a draw
    takes each.
    """

    slot: str
    position: int
    levels: tuple[Level, ...]
    shown: bool = True
    kind: str = ""

    @property
    def slots(self) -> tuple[str, ...]:
        """The slots that vary; none for an axis that is not a slot."""
        return () if self.kind else tuple(self.slot.split("+"))

    def label(self, level: int) -> str:
        """A level as a person reads it."""
        found = self.levels[level]
        return found.shown if found else "(blank)"


def terms_of(level: Level) -> tuple[Term, ...]:
    """The terms of a level; none of a blank or a setting."""
    return level.terms if isinstance(level, Fill | Together) else ()


def contradict(a: Level, b: Level) -> bool:
    """Does any term of one level clash with one of the other?"""
    return any(clash(s, t) for s in terms_of(a) for t in terms_of(b))


class Clashes:
    """Which combinations may not stand: their terms contradict each other or what is fixed, or a
    rule forbids them. Found once for each pair of levels, then looked up. `anyway` are levels that
    are in spite of what their words contradict.
    """

    def __init__(
        self,
        axes: Sequence[Axis],
        fixed: Sequence[Fill | None],
        rules: Sequence[frozenset[Literal]] = (),
        anyway: frozenset[Literal] = frozenset(),
        agreement: Agreement | None = None,
    ):
        self._axes, self._fixed, self.agreement = axes, [fill for fill in fixed if fill], agreement
        self.by_words = tuple(
            dict.fromkeys(nogood for nogood in self._contradictions() if not nogood & anyway)
        )
        self.nogoods = tuple(dict.fromkeys((*self.by_words, *rules)))
        self.every = frozenset(self.nogoods)
        self._never = frozenset() in self.nogoods  # what is fixed breaks a rule by itself
        self._singles: dict[int, set[int]] = {}
        self._pairs: dict[tuple[int, int], set[tuple[int, int]]] = {}
        self._more: list[tuple[tuple[int, int], ...]] = []
        for nogood in self.nogoods:
            literals = sorted((axis, id(axes[axis].levels[level])) for axis, level in nogood)
            if len(literals) == 1:
                self._singles.setdefault(literals[0][0], set()).add(literals[0][1])
            elif len(literals) == 2:
                (a, x), (b, y) = literals
                self._pairs.setdefault((a, b), set()).add((x, y))
            else:
                self._more.append(tuple(literals))

    def _contradictions(self) -> Iterator[frozenset[Literal]]:
        named = [  # words that are no terms contradict nothing
            (i, [(v, level) for v, level in enumerate(axis.levels) if terms_of(level)])
            for i, axis in enumerate(self._axes)
            if axis.shown and not axis.kind
        ]
        for i, levels in named:
            for v, x in levels:
                if any(contradict(x, other) for other in self._fixed) or (
                    isinstance(x, Together) and contradict(x, x)
                ):
                    yield frozenset({(i, v)})
        for (a, first), (b, second) in combinations(named, 2):
            yield from (
                frozenset({(a, v), (b, w)}) for v, x in first for w, y in second if contradict(x, y)
            )
        if self.agreement:
            yield from self.agreement.nogoods(
                [[self._things(axis, level) for level in axis.levels] for axis in self._axes]
            )

    def space(self) -> Space:
        """The axes as numbers of levels, with what may not go together."""
        return Space(tuple(len(axis.levels) for axis in self._axes), self.nogoods)

    def __bool__(self) -> bool:
        return bool(self.nogoods)

    def has(self, combination: Combination) -> bool:
        """Does the combination contradict itself or what is fixed, or does a rule forbid it?"""
        at = [id(level) for level in combination]
        for (
            a,
            bad,
        ) in self._singles.items():  # plain loops: a full design asks this of every combination
            if at[a] in bad:
                return True
        for (a, b), pairs in self._pairs.items():
            if (at[a], at[b]) in pairs:
                return True
        return self._never or any(all(at[a] == x for a, x in literals) for literals in self._more)

    def why(self, combination: Combination) -> str:
        """The first two fills of a combination that contradict each other or what is fixed, in
        words; "" if none do. What is fixed may contradict itself: that leaves nothing out.
        """
        fixed = [term for level in self._fixed for term in terms_of(level)]
        varied = [term for level in combination for term in terms_of(level)]
        pairs = (*combinations(varied, 2), *product(fixed, varied))
        said = next((why for s, t in pairs if (why := why_clash(s, t))), "")
        if said or not self.agreement:
            return said
        return self.agreement.why(
            [
                thing
                for axis, level in zip(self._axes, combination, strict=True)
                for thing in self._things(axis, level)
            ]
        )

    def _things(self, axis: Axis, level: Level) -> list[Thing]:
        return (
            self.agreement.things(axis.slots, level)
            if self.agreement and axis.shown and not axis.kind
            else []
        )
