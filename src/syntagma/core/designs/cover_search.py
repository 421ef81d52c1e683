"""Covering arrays by tabu search: of pairs, of triples and more.

Source: K. J. Nurmela, Upper bounds for covering arrays by tabu search, Discrete Applied Mathematics
138 (2004). A set of choices that no row holds is taken at random, and the one change of a row that
would bring it and loses least is made. Where all axes have as many levels, rows may come in
families that arise by adding the same number to every level: then only one of each family is
searched for (M. A. Chateauneuf, C. J. Colbourn and D. L. Kreher, Covering arrays of strength three,
Designs, Codes and Cryptography 16, 1999).
"""

from collections.abc import Sequence
from itertools import combinations, product
from random import Random
from typing import NamedTuple

import numpy as np

# ──── Covering arrays by search on a fixed number of rows: tabu search, plain or on a base that a
# cyclic group develops.
#
# Of a base under Z_g, each row stands for g: a level counts through the group (its axis has g
# levels, or g + 1 with one that stays), or
# stays as it is. What has to be covered are orbits of pairs, far fewer than pairs. The plain search
# is the same under the group of one.
#
# Sources: K. J. Nurmela, Upper bounds for covering arrays by tabu search, Discrete Appl. Math. 138
# (2004); C. J. Colbourn and others,
# Mixed covering arrays by group developments (the base under a group).


BARRED = 1_000_000  # what a change weighs that may not be made
TABU = 4  # steps for which a cell that was changed is left alone, and up to as many more


class Base(NamedTuple):
    """A search to make: levels by axis, the order of the group, rows that it develops, and rows
    that stand for themselves.
    """

    levels: tuple[int, ...]
    group: int
    rows: int
    alone: int = 0

    @property
    def size(self) -> int:
        """The rows of the array that comes of it."""
        return self.rows * self.group + self.alone


def moving(levels: int, group: int) -> int:
    """How many levels of an axis the group moves: all but one that stays, or none if it does not
    fit.
    """
    return group if group > 1 and levels in (group, group + 1) else 0


class Orbits(NamedTuple):
    """Pairs of levels that the group takes for one. `ids`: k × k × most × most, the orbit of a
    pair; `moves`: how many levels of each axis the group moves.
    """

    levels: np.ndarray
    moves: np.ndarray
    ids: np.ndarray

    @property
    def width(self) -> int:
        """How many orbits two axes have at most."""
        return int(self.ids.max()) + 1


def orbits(base: Base) -> Orbits:
    """The orbits of pairs under the group of a base."""
    levels, k, g = np.asarray(base.levels), len(base.levels), base.group
    moves, most = np.array([moving(v, g) for v in base.levels]), int(levels.max())
    ids = np.full((k, k, most, most), 0, dtype=np.int64)
    a, b = np.meshgrid(np.arange(most), np.arange(most), indexing="ij")
    kinds: dict[tuple, np.ndarray] = {}
    for i in range(k):
        for j in range(k):
            kind = (levels[i], moves[i], levels[j], moves[j])
            if kind not in kinds:
                both = (a < moves[i]) & (b < moves[j])
                code = np.where(a < moves[i], 0, a - moves[i] + (moves[i] > 0)) * (
                    levels[j] - moves[j] + 1
                ) + np.where(b < moves[j], 0, b - moves[j] + (moves[j] > 0))
                kinds[kind] = np.where(
                    both, (b - a) % max(g, 1), (g if moves[i] and moves[j] else 0) + code
                )
            ids[i, j] = kinds[kind]
    return Orbits(levels, moves, ids)


class Search:
    """One search; `run` goes on with it by a number of steps."""

    def __init__(
        self,
        base: Base,
        random: Random,
        forbidden: np.ndarray | None = None,
        start: np.ndarray | None = None,
    ):
        self.base, self.random, self.forbidden = base, random, forbidden
        self.orbits = orbits(base)
        levels, moves, ids = self.orbits
        k, total = len(levels), base.rows + base.alone
        self.columns = np.arange(k)
        self.array = (
            start.copy() if start is not None else np.array([self._row() for _ in range(total)])
        )
        for row in range(base.rows, total):  # rows alone hold what stays, if there is such a level
            self.array[row] = np.where((moves > 0) & (levels > moves), levels - 1, self.array[row])
        self.single = np.arange(total) >= base.rows
        self.counts = np.zeros((k, k, self.orbits.width), dtype=np.int32)
        self.needed = np.zeros((k, k, self.orbits.width), dtype=bool)
        for i in range(k):
            for j in range(k):
                if i != j:
                    self.needed[i, j, np.unique(ids[i, j, : levels[i], : levels[j]])] = True
        if forbidden is not None:
            self._lift_forbidden()
        self.tabu = np.zeros((total, k), dtype=np.int64)
        self.now = 0
        self._count_all()

    def _row(self) -> list[int]:
        """A row by chance that holds no forbidden pair."""
        levels, forbidden, k = self.base.levels, self.forbidden, len(self.base.levels)
        if forbidden is None:
            return [self.random.randrange(v) for v in levels]
        while True:
            row = [-1] * k
            for axis in self.random.sample(range(k), k):
                free = [
                    v
                    for v in range(levels[axis])
                    if not any(row[o] >= 0 and forbidden[axis, o, v, row[o]] for o in range(k))
                ]
                if not free:
                    break
                row[axis] = self.random.choice(free)
            if -1 not in row:
                return row

    def _lift_forbidden(self) -> None:
        """Pairs that no row may hold are not asked for; `forbidden` is k × k × most × most."""
        levels = self.orbits.levels
        for i in self.columns:
            for j in self.columns:
                if i != j:
                    assert self.forbidden is not None
                    for a, b in zip(
                        *np.nonzero(self.forbidden[i, j, : levels[i], : levels[j]]), strict=True
                    ):
                        self.needed[i, j, self.orbits.ids[i, j, a, b]] = False

    def _count_all(self) -> None:
        self.counts[:] = 0
        for row, values in enumerate(self.array):
            ids = self.orbits.ids[
                self.columns[:, None], self.columns[None, :], values[:, None], values[None, :]
            ]
            counted = (
                np.ones((len(self.columns),) * 2, dtype=bool)
                if not self.single[row]
                else self._counted_alone(values)
            )
            i, j = np.nonzero(counted & ~np.eye(len(self.columns), dtype=bool))
            np.add.at(self.counts, (i, j, ids[i, j]), 1)

    def _counted_alone(self, values: np.ndarray) -> np.ndarray:
        """Which pairs a row that stays covers whole: those of levels that stay."""
        stays = (self.orbits.moves == 0) | (values >= self.orbits.moves)
        return stays[:, None] & stays[None, :]

    @property
    def missing(self) -> int:
        """How many orbits are not covered yet."""
        return int((self.needed & (self.counts == 0)).sum()) // 2

    def run(self, steps: int) -> bool:
        """Go on for at most so many steps; True when everything is covered."""
        lost = np.flatnonzero(self.needed & (self.counts == 0))
        for _ in range(steps):
            if not len(lost):
                return True
            self.now += 1
            i, j, orbit = np.unravel_index(
                lost[self.random.randrange(len(lost))], self.counts.shape
            )
            if not self._mend(int(i), int(j), int(orbit)):
                self._shake(int(i), int(j))
            lost = np.flatnonzero(self.needed & (self.counts == 0))
        return not len(lost)

    def _mend(self, i: int, j: int, orbit: int) -> bool:
        """The best change of one cell that covers an orbit of axes i and j."""
        best = None
        for column, other in ((i, j), (j, i)):
            beside = self.array[:, other]
            wanted = (
                self.orbits.ids[i, j] == orbit
                if column == i
                else (self.orbits.ids[i, j] == orbit).T
            )
            fits = wanted[: self.orbits.levels[column]][:, beside]  # levels × rows
            fits[:, self.single] &= False
            levels, rows = np.nonzero(fits)
            if not len(rows):
                continue
            change = self._changes(rows, column, levels)
            change = np.where(self.tabu[rows, column] > self.now, change + BARRED, change)
            least = change.min()
            if best is None or least < best[0]:
                ties = np.flatnonzero(change == least)
                at = int(ties[self.random.randrange(len(ties))])
                best = (least, int(rows[at]), column, int(levels[at]))
        if best is None or best[0] >= BARRED / 2:
            return False
        self._set(best[1], best[2], best[3])
        return True

    def _changes(self, rows: np.ndarray, column: int, levels: np.ndarray) -> np.ndarray:
        """What each change would add to the orbits that are not covered."""
        beside = self.array[rows]  # changes × k
        old = self.array[rows, column]
        gone = self.orbits.ids[column, self.columns[None, :], old[:, None], beside]
        come = self.orbits.ids[column, self.columns[None, :], levels[:, None], beside]
        needed, counts = self.needed[column], self.counts[column]
        at = self.columns[None, :]
        different = gone != come
        lost = (counts[at, gone] == 1) & needed[at, gone] & different
        won = (counts[at, come] == 0) & needed[at, come] & different
        change = lost.sum(axis=1) - won.sum(axis=1)
        if self.forbidden is not None:
            bad = self.forbidden[column, self.columns[None, :], levels[:, None], beside]
            bad[:, column] = False
            change = change + BARRED * bad.any(axis=1)
        return change

    def _set(self, row: int, column: int, level: int) -> None:
        old = self.array[row, column]
        if old == level:
            return
        for value, sign in ((old, -1), (level, 1)):
            ids = self.orbits.ids[column, self.columns, value, self.array[row]]
            for axis in self.columns:
                if axis != column:
                    self.counts[column, axis, ids[axis]] += sign
                    back = self.orbits.ids[axis, column, self.array[row, axis], value]
                    self.counts[axis, column, back] += sign
        self.array[row, column] = level
        self.tabu[row, column] = self.now + TABU + self.random.randrange(TABU)

    def _shake(self, i: int, j: int) -> None:
        """Where nothing covers it: another level in a cell of one of the two axes, if it is allowed
        there.
        """
        for _ in range(20):
            row, column = self.random.randrange(self.base.rows), self.random.choice((i, j))
            level = self.random.randrange(int(self.orbits.levels[column]))
            if self._changes(np.array([row]), column, np.array([level]))[0] < BARRED / 2:
                self._set(row, column, level)
                return

    def developed(self) -> np.ndarray:
        """The array that the base represents."""
        rows = []
        for row, values in enumerate(self.array):
            if self.single[row]:
                rows.append(values)
                continue
            for g in range(self.base.group):
                turned = np.where(
                    values < self.orbits.moves, (values + g) % max(self.base.group, 1), values
                )
                rows.append(turned)
        return np.array(rows)


# ──── Covers of triples and more in fewer rows than growing finds: tabu search on a number of rows
# that is fixed.
#
# Source: K. J. Nurmela, Upper bounds for covering arrays by tabu search, Discrete Applied
# Mathematics 138 (2004). A set of choices that no row holds is taken at
# random, and the one change of a row that would bring it and loses least is made. Where all axes
# have as many levels, rows may come in families that arise by adding
# the same number to every level: then only one of each family is searched for (M. A. Chateauneuf,
# C. J. Colbourn and D. L. Kreher, Covering arrays of strength
# three, Designs, Codes and Cryptography 16, 1999).


TABU_STEPS = 10  # steps for which a place that was changed stays as it is


class _Orbits:
    """Rows, of which each may be for a family, and how often each set of choices is held."""

    def __init__(self, levels: Sequence[int], strength: int, rows: int, group: int, random: Random):
        self.levels, self.group, self.random = levels, group, random
        self.groups = list(combinations(range(len(levels)), strength))
        self.of_axis = [
            [g for g, axes in enumerate(self.groups) if a in axes] for a in range(len(levels))
        ]
        self.rows = [[random.randrange(v) for v in levels] for _ in range(rows)]
        sets = [
            list(product(*(range(levels[a]) for a in (axes[1:] if group > 1 else axes))))
            for axes in self.groups
        ]
        self.held = [dict.fromkeys(own, 0) for own in sets]
        for row in self.rows:
            for g in range(len(self.groups)):
                self.held[g][self._key(row, g)] += 1
        self.missing = {
            (g, key) for g, own in enumerate(self.held) for key, count in own.items() if not count
        }

    def _key(self, row: Sequence[int], g: int) -> tuple[int, ...]:
        """The choices of a row on the axes of a group; in a family, by how far they are from the
        first of them.
        """
        axes = self.groups[g]
        if self.group == 1:
            return tuple(row[a] for a in axes)
        first = row[axes[0]]
        return tuple((row[a] - first) % self.group for a in axes[1:])

    def changes(self, g: int, key: tuple[int, ...]) -> list[tuple[int, int, int]]:
        """Every change of one place (row, axis, level) that would give a row a set."""
        axes = self.groups[g]
        found = []
        for number, row in enumerate(self.rows):
            if self.group == 1:
                wanted = dict(zip(axes, key, strict=True))
                wrong = [a for a in axes if row[a] != wanted[a]]
                if len(wrong) == 1:
                    found.append((number, wrong[0], wanted[wrong[0]]))
                continue
            first = row[axes[0]]
            wrong = [
                (a, (first + d) % self.group)
                for a, d in zip(axes[1:], key, strict=True)
                if (row[a] - first) % self.group != d
            ]
            if len(wrong) == 1:
                found.append((number, *wrong[0]))
            shifts = {(row[a] - d) % self.group for a, d in zip(axes[1:], key, strict=True)}
            if len(shifts) == 1:
                found.append((number, axes[0], shifts.pop()))
        return found

    def gain(self, number: int, axis: int, level: int) -> int:
        """How many sets more would be missing after a change."""
        row = self.rows[number]
        old, more = row[axis], 0
        for g in self.of_axis[axis]:
            before = self._key(row, g)
            row[axis] = level
            after = self._key(row, g)
            row[axis] = old
            if before != after:
                more += (self.held[g][before] == 1) - (self.held[g][after] == 0)
        return more

    def change(self, number: int, axis: int, level: int) -> None:
        row = self.rows[number]
        for g in self.of_axis[axis]:
            key = self._key(row, g)
            self.held[g][key] -= 1
            if not self.held[g][key]:
                self.missing.add((g, key))
        row[axis] = level
        for g in self.of_axis[axis]:
            key = self._key(row, g)
            self.held[g][key] += 1
            self.missing.discard((g, key))

    def whole(self) -> np.ndarray:
        """All rows, families written out."""
        return np.array(
            [
                [(v + shift) % self.group if self.group > 1 else v for v in row]
                for row in self.rows
                for shift in range(self.group)
            ]
        )


def searched(
    levels: Sequence[int], strength: int, rows: int, group: int, steps: int, random: Random
) -> np.ndarray | None:
    """`rows` rows (as many families of `group` rows) that hold every set of `strength` choices;
    None if so many steps found none.
    """
    state = _Orbits(levels, strength, rows // group, group, random)
    free = [[0] * len(levels) for _ in state.rows]
    for step in range(steps):
        if not state.missing:
            return state.whole()
        g, key = (
            random.choice(sorted(state.missing)) if len(state.missing) < 40 else min(state.missing)
        )
        changes = [(n, a, v) for n, a, v in state.changes(g, key) if free[n][a] <= step]
        if not changes:  # nothing is one step away: a row is bent towards it
            n, a = random.randrange(len(state.rows)), random.choice(state.groups[g])
            changes = [(n, a, random.randrange(levels[a]))]
        gains = [state.gain(*one) for one in changes]
        least = min(gains)
        n, a, v = random.choice(
            [one for one, gain in zip(changes, gains, strict=True) if gain == least]
        )
        state.change(n, a, v)
        free[n][a] = step + 1 + random.randrange(TABU_STEPS)
    return state.whole() if not state.missing else None
