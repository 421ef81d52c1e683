"""Rows of level numbers: the space of combinations, what may not go together, and keys that were
seen.
"""

from array import array
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import combinations, product
from random import Random
from typing import NamedTuple

# ──── Rows of level numbers, and what may not are in one row: the form in which designs are found,
# before they are fills again.


Literal = tuple[int, int]  # (axis, level)


class Space(NamedTuple):
    """The axes of a design as numbers of levels, and the sets of (axis, level) that no row may hold
    together.
    """

    levels: tuple[int, ...]
    nogoods: tuple[frozenset[Literal], ...] = ()

    def index(self) -> "Forbidding":
        """The nogoods made ready for looking up."""
        return Forbidding(self)


class Forbidding:
    """What is forbidden, by (axis, level): asked for every place of every row. Most nogoods are of
    one literal or two, which are looked up; the few of more are gone through.
    """

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
        """A whole row that holds these levels, or None if there is none: axes with the fewest
        levels left first.
        """
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
        choices = {
            a: [v for v in range(self.space.levels[a]) if self.fits(row, a, v)] for a in open_
        }
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


def tuples(
    levels: Sequence[int], strength: int
) -> Iterator[tuple[tuple[int, ...], tuple[int, ...]]]:
    """Every choice of `strength` axes with every choice of levels on them."""
    for axes in combinations(range(len(levels)), strength):
        for at in product(*(range(levels[a]) for a in axes)):
            yield axes, at


def impossible(space: Space, strength: int) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    """The tuples of levels that no allowed row holds."""
    if not space.nogoods:
        return []
    forbidding = space.index()
    return [
        (axes, at)
        for axes, at in tuples(space.levels, strength)
        if not forbidding.possible(zip(axes, at, strict=True))
    ]


def greedy(
    space: Space,
    strength: int,
    random: Random,
    start: Sequence[Sequence[int]] = (),
    more: Sequence[tuple[int, ...]] = (),
    tries: int = 12,
) -> list[list[int]]:
    """Rows that cover every possible tuple, and those of the groups of axes in `more`, beginning
    with the rows in `start`; found one after the other: of several candidates, each grown place by
    place from a tuple that is not covered yet, the one that covers most. It takes any shape, any
    strength, any rules.

    Source: D. M. Cohen and others, The combinatorial design approach to automatic test generation,
    IEEE Software 13 (1996).
    """
    forbidding = space.index()
    lost = {(axes, at) for axes, at in tuples(space.levels, strength)}
    lost -= set(impossible(space, strength))
    rows = [list(row) for row in start]
    groups = [*combinations(range(len(space.levels)), strength), *more]
    for axes in more:
        every = product(*(range(space.levels[a]) for a in axes))
        lost |= {
            (axes, at)
            for at in every
            if not space.nogoods or forbidding.possible(zip(axes, at, strict=True))
        }
    for row in rows:
        lost -= _held(row, groups)
    while lost:
        pool = sorted(lost)
        best: list[int] | None = None
        won = -1
        for _ in range(tries):
            axes, at = pool[random.randrange(len(pool))]
            grown = _grown(
                space, forbidding, dict(zip(axes, at, strict=True)), lost, strength, more, random
            )
            if grown is None:
                continue
            here = len(_held(grown, groups) & lost)
            if here > won:
                best, won = grown, here
        if best is None:
            axes, at = pool[0]
            best = forbidding.completes(dict(zip(axes, at, strict=True)))
        assert best is not None, "what is lost here was found possible"
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
    """A row grown from some levels, each next one chosen for what it covers beside those
    before it.
    """
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
            if not space.nogoods or forbidding.completes(
                {a: v for a, v in enumerate(row) if v >= 0}
            ):
                break
            row[axis] = -1
        if row[axis] < 0:
            return None
        done.append(axis)
    return row


# ──── Telling twins: which texts have been seen; of many, in 8 bytes a text and room to spare.


FEW = 150_000  # keys that are kept in a set: quicker, and several times as large


class KeySet:
    """A set of 64-bit keys; of more than `FEW` by open addressing in one array, at most 16 bytes a
    key where the number is known.

    Two different texts are taken for twins with a chance of about n² / 2⁶⁵: 3 in 100 million for a
    million texts.
    """

    def __init__(self, expected: int = 1024):
        self._few: set[int] | None = set()
        if expected > FEW:
            self._open(expected)

    def _open(self, expected: int) -> None:
        """From now on in an array."""
        self._few = None
        self._slots = max(64, expected * 8 // 5) | 1
        self._table = array("q", bytes(8 * self._slots))
        self._room = self._slots * 3 // 4

    def new(self, keys: Iterable[int]) -> list[bool]:
        """Add keys in order; for each, whether it was new."""
        keys = list(keys)
        if (few := self._few) is None:
            return self._new([key or 1 for key in keys])  # 0 marks a free place
        found, each = [True] * len(keys), set(keys)
        if len(each) == len(keys) and few.isdisjoint(each):
            few |= each
        else:
            for i, key in enumerate(keys):
                found[i] = key not in few
                few.add(key)
        if len(few) > FEW:
            self._open(2 * len(few))
            self._new([key or 1 for key in few])
        return found

    def _new(self, keys: Iterable[int]) -> list[bool]:
        found: list[bool] = []
        note = found.append
        table, slots, room = self._table, self._slots, self._room
        for key in keys:
            i = key % slots
            while at := table[i]:
                if at == key:
                    note(False)
                    break
                i = i + 1 if i + 1 < slots else 0
            else:
                table[i] = key
                note(True)
                room -= 1
                if not room:
                    table, slots, room = self._grow()
        self._room = room
        return found

    def _grow(self) -> tuple[array, int, int]:
        """Twice the room; return the new table, its slots, and how many keys it still takes."""
        old = self._table
        self._slots = self._slots * 2 + 1
        self._table = array("q", bytes(8 * self._slots))
        self._room = self._slots * 3 // 4
        self._new(key for key in old if key)
        return self._table, self._slots, self._room
