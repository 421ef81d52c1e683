"""A few rows that are balanced and far apart: each level of an axis as often as any other, pairs of
levels as even as can be, no two rows alike.
"""

from collections.abc import Sequence
from math import exp
from random import Random

import numpy as np

from syntagma.core.designs.level_rows import Space

STEPS = 14_000  # the most exchanges that a search of effort 1 tries
EACH = 110  # exchanges for each place of the design
NEAR = 5  # how much worse two rows are for each place in which they agree
BROKEN = 500.0  # what a forbidden row weighs


def spread(
    space: Space,
    count: int,
    random: Random,
    effort: float = 1.0,
    fixed: Sequence[Sequence[int]] = (),
) -> np.ndarray:
    """`count` rows; those in `fixed` are among them, first and unchanged. No level is more than one
    apart from any other of its axis where rules and `fixed` allow it.

    Each axis is a balanced column; two places of a column are exchanged if that makes pairs more
    even, rows farther apart or forbidden rows fewer (simulated annealing, by counted steps).
    """
    cells = count * len(space.levels)
    return _Spread(space, count, random, fixed).found(
        int(effort * min(EACH * cells, STEPS * min(1.0, 400 / max(count, 1)))) + 200
    )


class _Spread:
    def __init__(self, space: Space, count: int, random: Random, fixed: Sequence[Sequence[int]]):
        self.space, self.count, self.random = space, count, random
        self.first = min(len(fixed), count)
        self.forbidding = space.index() if space.nogoods else None
        self.rows = np.array(
            [self._column(axis, fixed) for axis in range(len(space.levels))]
        ).T.reshape(count, len(space.levels))

    def _column(self, axis: int, fixed: Sequence[Sequence[int]]) -> list[int]:
        """A balanced column: the levels that are left over chosen by chance."""
        free = [
            v
            for v in range(self.space.levels[axis])
            if not self.forbidding or self.forbidding.possible([(axis, v)])
        ]
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
        self.powers = float(NEAR) ** np.arange(
            self.rows.shape[1] + 1
        )  # by the number of places that agree: whole numbers, so sums are exact
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

    def _pairs(self) -> dict[tuple[int, int], list[list[int]]]:
        """How often each two levels of two axes come together, for the axes in either order."""
        k, found = self.rows.shape[1], {}
        for a in range(k):
            for b in range(a + 1, k):
                table = np.zeros((self.space.levels[a], self.space.levels[b]), dtype=np.int64)
                np.add.at(table, (self.rows[:, a], self.rows[:, b]), 1)
                found[a, b], found[b, a] = table.tolist(), table.T.tolist()
        return found

    def _is_broken(self, row: np.ndarray) -> bool:
        return self.forbidding is not None and not self.forbidding.allows(row.tolist())

    def _worse(self, axis: int, i: int, j: int) -> float:
        """What an exchange would cost."""
        one, other = self.rows[i].tolist(), self.rows[j].tolist()
        x, y = one[axis], other[axis]
        worse = 0.0
        for b, (p, q) in enumerate(zip(one, other, strict=True)):
            if b != axis and p != q:  # (x,p) and (y,q) go, (y,p) and (x,q) come: sums of squares
                table = self.pairs[axis, b]
                worse += 2.0 * (table[y][p] + table[x][q] - table[x][p] - table[y][q] + 2)
        worse += self._nearer(axis, i, j, x, y)
        if self.forbidding:
            one[axis], other[axis] = y, x
            worse += BROKEN * (
                self._breaks(i, axis, one)
                + self._breaks(j, axis, other)
                - int(self.broken[i])
                - int(self.broken[j])
            )
        return worse

    def _breaks(self, i: int, axis: int, row: list[int]) -> bool:
        """Would row `i` be forbidden with another level on this axis?"""
        assert self.forbidding is not None
        if self.broken[i]:
            return not self.forbidding.allows(row)
        return not self.forbidding.fits(row, axis, row[axis])

    def _nearer(self, axis: int, i: int, j: int, x: int, y: int) -> float:
        """How much nearer two rows come to all others by an exchange: each place in which two rows
        agree counts NEAR times as much.
        """
        column = self.rows[:, axis]
        of_i, of_j = self.powers[self.alike[i]], self.powers[self.alike[j]]
        of_i[[i, j]] = of_j[[i, j]] = 0.0
        like_x, like_y = column == x, column == y
        come, gone = of_i @ like_y + of_j @ like_x, of_i @ like_x + of_j @ like_y
        return 10 * (NEAR - 1) * float(NEAR * come - gone) / float(NEAR) ** self.rows.shape[1]

    def _exchange(self, axis: int, i: int, j: int) -> None:
        rows = self.rows
        x, y = int(rows[i, axis]), int(rows[j, axis])
        for row, old, new in ((i, x, y), (j, y, x)):
            for b, level in enumerate(rows[row].tolist()):
                if b != axis:
                    for one, change in ((old, -1), (new, 1)):
                        self.pairs[axis, b][one][level] += change
                        self.pairs[b, axis][level][one] += change
        rows[i, axis], rows[j, axis] = y, x
        for row in (i, j):
            self.alike[row] = (rows == rows[row]).sum(axis=1)
            self.alike[:, row] = self.alike[row]
            if self.forbidding:
                self.broken[row] = self._is_broken(rows[row])

    def _repair(self) -> None:
        """Rows that are still forbidden give way to the nearest that are allowed, whatever that
        does to the balance.
        """
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
    """How even the pairs of levels are: 1 where every pair of every two axes comes up as often as
    it can, less where some come up again and others not at all (1 less the excess of the sum of
    squares over the least there can be, as a share of the most).
    """
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
