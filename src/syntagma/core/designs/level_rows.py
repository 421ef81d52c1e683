"""Rows of level numbers, and what may not are in one row: the form in which designs are found, before they are fills again."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import combinations, product
from random import Random
from typing import NamedTuple

Literal = tuple[int, int]  # (axis, level)


class Space(NamedTuple):
    """The axes of a design as numbers of levels, and the sets of (axis, level) that no row may hold together."""

    levels: tuple[int, ...]
    nogoods: tuple[frozenset[Literal], ...] = ()

    def index(self) -> "Forbidding":
        """The nogoods made ready for looking up."""
        return Forbidding(self)


class Forbidding:
    """What is forbidden, by (axis, level): asked for every place of every row. Most nogoods are of one literal or two, which are looked up;
    the few of more are gone through."""

    def __init__(self, space: Space):
        self.space = space
        self._never: set[Literal] = set()
        self._beside: dict[Literal, set[Literal]] = {}  # what may not stand beside a literal
        self._more: dict[Literal, list[frozenset[Literal]]] = {}
        for nogood in space.nogoods:
            for literal in nogood:
                rest = nogood - {literal}
                if not rest:
                    self._never.add(literal)
                elif len(rest) == 1:
                    self._beside.setdefault(literal, set()).update(rest)
                else:
                    self._more.setdefault(literal, []).append(rest)
        self._possible: dict[frozenset[Literal], bool] = {}

    def fits(self, row: Sequence[int], axis: int, level: int) -> bool:
        """May the level are in this place of a row, other places below 0 being open?"""
        literal = (axis, level)
        if literal in self._never:
            return False
        beside = self._beside.get(literal)
        if beside and not beside.isdisjoint(enumerate(row)):
            return False
        return not any(all(row[a] == v for a, v in rest) for rest in self._more.get(literal, ()))

    def allows(self, row: Sequence[int]) -> bool:
        """Is this row allowed? A level below 0 is not chosen yet."""
        return all(self.fits(row, axis, level) for axis, level in enumerate(row) if level >= 0)

    def completes(self, fixed: Mapping[int, int]) -> list[int] | None:
        """A whole row that holds these levels, or None if there is none: axes with the fewest levels left first."""
        row = [-1] * len(self.space.levels)
        for axis, level in fixed.items():
            if not self.fits(row, axis, level):
                return None
            row[axis] = level
        return self._filled(row)

    def _filled(self, row: list[int]) -> list[int] | None:
        open_ = [a for a, level in enumerate(row) if level < 0]
        if not open_:
            return row
        choices = {a: [v for v in range(self.space.levels[a]) if self.fits(row, a, v)] for a in open_}
        axis = min(open_, key=lambda a: len(choices[a]))
        for level in choices[axis]:
            row[axis] = level
            if self._filled(row):
                return row
            row[axis] = -1
        return None

    def possible(self, literals: Iterable[Literal]) -> bool:
        """Can these levels go together in any row?"""
        key = frozenset(literals)
        if key not in self._possible:
            axes = dict(key)
            self._possible[key] = len(axes) == len(key) and self.completes(axes) is not None
        return self._possible[key]


def tuples(levels: Sequence[int], strength: int) -> Iterator[tuple[tuple[int, ...], tuple[int, ...]]]:
    """Every choice of `strength` axes with every choice of levels on them."""
    for axes in combinations(range(len(levels)), strength):
        for at in product(*(range(levels[a]) for a in axes)):
            yield axes, at


def impossible(space: Space, strength: int) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    """The tuples of levels that no allowed row holds."""
    if not space.nogoods:
        return []
    forbidding = space.index()
    return [(axes, at) for axes, at in tuples(space.levels, strength) if not forbidding.possible(zip(axes, at, strict=True))]


def greedy(
    space: Space,
    strength: int,
    random: Random,
    start: Sequence[Sequence[int]] = (),
    more: Sequence[tuple[int, ...]] = (),
    tries: int = 12,
) -> list[list[int]]:
    """Rows that cover every possible tuple, and those of the groups of axes in `more`, beginning with the rows in `start`; found one after the other: of several candidates, each grown place by place from a tuple
    that is not covered yet, the one that covers most. It takes any shape, any strength, any rules.

    Source: D. M. Cohen and others, The combinatorial design approach to automatic test generation, IEEE Software 13 (1996).
    """
    forbidding = space.index()
    lost = {(axes, at) for axes, at in tuples(space.levels, strength)}
    lost -= set(impossible(space, strength))
    rows = [list(row) for row in start]
    groups = [*combinations(range(len(space.levels)), strength), *more]
    for axes in more:
        every = product(*(range(space.levels[a]) for a in axes))
        lost |= {(axes, at) for at in every if not space.nogoods or forbidding.possible(zip(axes, at, strict=True))}
    for row in rows:
        lost -= _held(row, groups)
    while lost:
        pool = sorted(lost)
        best, won = None, -1
        for _ in range(tries):
            axes, at = pool[random.randrange(len(pool))]
            row = _grown(space, forbidding, dict(zip(axes, at, strict=True)), lost, strength, more, random)
            if row is None:
                continue
            here = len(_held(row, groups) & lost)
            if here > won:
                best, won = row, here
        if best is None:
            axes, at = pool[0]
            best = forbidding.completes(dict(zip(axes, at, strict=True)))
        rows.append(best)
        lost -= _held(best, groups)
    return rows


def _held(row: Sequence[int], groups: Sequence[tuple[int, ...]]) -> set:
    return {(axes, tuple(row[a] for a in axes)) for axes in groups}


def _grown(
    space: Space,
    forbidding: Forbidding,
    fixed: dict[int, int],
    lost: set,
    strength: int,
    more: Sequence[tuple[int, ...]],
    random: Random,
) -> list[int] | None:
    """A row grown from some levels, each next one chosen for what it covers beside those before it."""
    row = forbidding.completes(fixed)
    if row is None:
        return None
    row = [row[a] if a in fixed else -1 for a in range(len(row))]
    order = [a for a in range(len(row)) if row[a] < 0]
    random.shuffle(order)
    done = [a for a in range(len(row)) if row[a] >= 0]
    for axis in order:
        scores = []
        for level in range(space.levels[axis]):
            if not forbidding.fits(row, axis, level):
                continue
            won = 0
            for others in combinations(done, strength - 1):
                axes = tuple(sorted((*others, axis)))
                won += (axes, tuple(level if a == axis else row[a] for a in axes)) in lost
            for axes in more:
                if axis in axes and all(a == axis or row[a] >= 0 for a in axes):
                    won += (axes, tuple(level if a == axis else row[a] for a in axes)) in lost
            scores.append((won, random.random(), level))
        for _, _, level in sorted(scores, reverse=True):
            row[axis] = level
            if not space.nogoods or forbidding.completes({a: v for a, v in enumerate(row) if v >= 0}):
                break
            row[axis] = -1
        if row[axis] < 0:
            return None
        done.append(axis)
    return row
