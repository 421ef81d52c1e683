"""A few rows that are balanced and far apart: each level of an axis as often as any other, pairs of levels as even as can be, no two
rows alike."""

from collections.abc import Sequence
from math import exp
from random import Random

import numpy as np

from syntagma.core.designs.level_rows import Space

STEPS = 14_000  # the most exchanges that a search of effort 1 tries
EACH = 110  # exchanges for each place of the design
NEAR = 5.0  # how much worse two rows are for each place in which they agree
BROKEN = 500.0  # what a forbidden row weighs


def spread(space: Space, count: int, random: Random, effort: float = 1.0, fixed: Sequence[Sequence[int]] = ()) -> np.ndarray:
    """`count` rows; those in `fixed` are among them, first and unchanged. No level is more than one apart from any other of its axis
    where rules and `fixed` allow it.

    Each axis is a balanced column; two places of a column are exchanged where that makes pairs more even, rows farther apart or
    forbidden rows fewer (simulated annealing, by counted steps).
    """
    cells = count * len(space.levels)
    return _Spread(space, count, random, fixed).found(int(effort * min(EACH * cells, STEPS * min(1.0, 400 / max(count, 1)))) + 200)


class _Spread:
    def __init__(self, space: Space, count: int, random: Random, fixed: Sequence[Sequence[int]]):
        self.space, self.count, self.random = space, count, random
        self.first = min(len(fixed), count)
        self.rows = np.array([self._column(axis, fixed) for axis in range(len(space.levels))]).T.reshape(count, len(space.levels))
        self.forbidding = space.index() if space.nogoods else None

    def _column(self, axis: int, fixed: Sequence[Sequence[int]]) -> list[int]:
        """A balanced column: the levels that are left over chosen by chance."""
        forbidding = self.space.index()
        free = [v for v in range(self.space.levels[axis]) if not self.space.nogoods or forbidding.possible([(axis, v)])]
        levels = len(free)
        done = [row[axis] for row in fixed[: self.first]]
        wanted = {v: self.count // levels for v in free}
        for v in self.random.sample(free, self.count % levels):
            wanted[v] += 1
        for v in done:
            wanted[v] = wanted.get(v, 0) - 1
        rest = [v for v, n in wanted.items() for _ in range(max(0, n))]
        self.random.shuffle(rest)
        rest = rest[: self.count - len(done)]
        while len(rest) < self.count - len(done):
            rest.append(self.random.choice(free))
        return done + rest

    def found(self, steps: int) -> np.ndarray:
        self.pairs = self._pairs()
        self.alike = (self.rows[:, None, :] == self.rows[None, :, :]).sum(axis=2)
        self.broken = np.array([self._is_broken(row) for row in self.rows])
        if self.count - self.first < 2:
            return self.rows
        heat = 3.0
        for step in range(steps):
            axis = self.random.randrange(self.rows.shape[1])
            i, j = (self.random.randrange(self.first, self.count) for _ in range(2))
            if self.rows[i, axis] == self.rows[j, axis]:
                continue
            worse = self._worse(axis, i, j)
            now = heat * (1 - step / steps) + 1e-9
            if worse <= 0 or (worse < 20 * now and self.random.random() < exp(-worse / now)):
                self._exchange(axis, i, j)
        self._repair()
        return self.rows

    def _pairs(self) -> dict[tuple[int, int], np.ndarray]:
        k, found = self.rows.shape[1], {}
        for a in range(k):
            for b in range(a + 1, k):
                table = np.zeros((self.space.levels[a], self.space.levels[b]), dtype=np.int64)
                np.add.at(table, (self.rows[:, a], self.rows[:, b]), 1)
                found[a, b] = table
        return found

    def _is_broken(self, row: np.ndarray) -> bool:
        return bool(self.forbidding) and not self.space.allows(row)

    def _worse(self, axis: int, i: int, j: int) -> float:
        """What an exchange would cost."""
        rows, x, y = self.rows, self.rows[i, axis], self.rows[j, axis]
        worse = 0.0
        for other in range(rows.shape[1]):
            if other == axis:
                continue
            table = self.pairs[axis, other] if axis < other else self.pairs[other, axis].T
            p, q = rows[i, other], rows[j, other]
            if p != q:  # (x,p) and (y,q) go, (y,p) and (x,q) come: sums of squares
                worse += 2.0 * (table[y, p] + table[x, q] - table[x, p] - table[y, q] + 2)
        before, after = self._near(i, j, axis, x, y)
        worse += after - before
        if self.forbidding:
            a, b = rows[i].copy(), rows[j].copy()
            a[axis], b[axis] = y, x
            worse += BROKEN * (int(self._is_broken(a)) + int(self._is_broken(b)) - int(self.broken[i]) - int(self.broken[j]))
        return worse

    def _near(self, i: int, j: int, axis: int, x: int, y: int) -> tuple[float, float]:
        """How near the two rows are to all others, now and after the exchange."""
        column = self.rows[:, axis]
        others = np.ones(self.count, dtype=bool)
        others[[i, j]] = False
        power = NEAR ** (np.stack([self.alike[i], self.alike[j]])[:, others] - self.rows.shape[1] + 1.0)
        here = np.stack([column == x, column == y])[:, others]
        there = here[::-1]
        change = NEAR ** (there.astype(float) - here)
        return float(power.sum()) * 10, float((power * change).sum()) * 10

    def _exchange(self, axis: int, i: int, j: int) -> None:
        rows, column = self.rows, self.rows[:, axis]
        x, y = int(column[i]), int(column[j])
        for other in range(rows.shape[1]):
            if other == axis:
                continue
            table = self.pairs[axis, other] if axis < other else self.pairs[other, axis].T
            for row, old, new in ((i, x, y), (j, y, x)):
                table[old, rows[row, other]] -= 1
                table[new, rows[row, other]] += 1
        for row, old, new in ((i, x, y), (j, y, x)):
            self.alike[row] += (column == new).astype(np.int64) - (column == old)
        rows[i, axis], rows[j, axis] = y, x
        for row in (i, j):
            self.alike[row] = (rows == rows[row]).sum(axis=1)
            self.alike[:, row] = self.alike[row]
            if self.forbidding:
                self.broken[row] = self._is_broken(rows[row])

    def _repair(self) -> None:
        """Rows that are still forbidden give way to the nearest that are allowed, whatever that does to the balance."""
        if not self.forbidding:
            return
        for i in np.flatnonzero(self.broken):
            if i < self.first:
                continue
            order = self.random.sample(range(self.rows.shape[1]), self.rows.shape[1])
            kept: dict[int, int] = {}
            for axis in order:
                if self.forbidding.completes({**kept, axis: int(self.rows[i, axis])}):
                    kept[axis] = int(self.rows[i, axis])
            whole = self.forbidding.completes(kept)
            if whole:
                self.rows[i] = whole


def evenness(rows: np.ndarray, levels: Sequence[int]) -> float:
    """How even the pairs of levels are: 1 where every pair of every two axes comes up as often as it can, less where some come up
    again and others not at all (1 less the excess of the sum of squares over the least there can be, as a share of the most)."""
    n, k = rows.shape
    excess, room = 0.0, 0.0
    for a in range(k):
        for b in range(a + 1, k):
            cells = levels[a] * levels[b]
            counts = np.bincount(rows[:, a] * levels[b] + rows[:, b], minlength=cells)
            low, more = divmod(n, cells)
            least = more * (low + 1) ** 2 + (cells - more) * low**2
            excess += float((counts**2).sum() - least)
            room += float(n**2 - least)
    return 1 - excess / room if room else 1.0


def smallest_distance(rows: np.ndarray) -> int:
    """In how many places the two nearest rows differ."""
    if len(rows) < 2:
        return rows.shape[1]
    differ = (rows[:, None, :] != rows[None, :, :]).sum(axis=2)
    return int(differ[~np.eye(len(rows), dtype=bool)].min())
