"""Covers of triples and more in fewer rows than growing finds: tabu search on a number of rows that is fixed.

Source: K. J. Nurmela, Upper bounds for covering arrays by tabu search, Discrete Applied Mathematics 138 (2004). A set of choices that no row holds is taken at
random, and the one change of a row that would bring it and loses least is made. Where all axes have as many levels, rows may come in families that arise by adding
the same number to every level: then only one of each family is searched for (M. A. Chateauneuf, C. J. Colbourn and D. L. Kreher, Covering arrays of strength
three, Designs, Codes and Cryptography 16, 1999).
"""

from collections.abc import Sequence
from itertools import combinations, product
from random import Random

import numpy as np

TABU = 10  # steps for which a place that was changed stays as it is


class _Orbits:
    """Rows, of which each may be for a family, and how often each set of choices is held."""

    def __init__(self, levels: Sequence[int], strength: int, rows: int, group: int, random: Random):
        self.levels, self.group, self.random = levels, group, random
        self.groups = list(combinations(range(len(levels)), strength))
        self.of_axis = [[g for g, axes in enumerate(self.groups) if a in axes] for a in range(len(levels))]
        self.rows = [[random.randrange(v) for v in levels] for _ in range(rows)]
        sets = [list(product(*(range(levels[a]) for a in (axes[1:] if group > 1 else axes)))) for axes in self.groups]
        self.held = [dict.fromkeys(own, 0) for own in sets]
        for row in self.rows:
            for g in range(len(self.groups)):
                self.held[g][self._key(row, g)] += 1
        self.missing = {(g, key) for g, own in enumerate(self.held) for key, count in own.items() if not count}

    def _key(self, row: Sequence[int], g: int) -> tuple[int, ...]:
        """The choices of a row on the axes of a group; in a family, by how far they are from the first of them."""
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
            wrong = [(a, (first + d) % self.group) for a, d in zip(axes[1:], key, strict=True) if (row[a] - first) % self.group != d]
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
        return np.array([[(v + shift) % self.group if self.group > 1 else v for v in row] for row in self.rows for shift in range(self.group)])


def searched(levels: Sequence[int], strength: int, rows: int, group: int, steps: int, random: Random) -> np.ndarray | None:
    """`rows` rows (as many families of `group` rows) that hold every set of `strength` choices; None if so many steps found none."""
    state = _Orbits(levels, strength, rows // group, group, random)
    free = [[0] * len(levels) for _ in state.rows]
    for step in range(steps):
        if not state.missing:
            return state.whole()
        g, key = random.choice(sorted(state.missing)) if len(state.missing) < 40 else min(state.missing)
        changes = [(n, a, v) for n, a, v in state.changes(g, key) if free[n][a] <= step]
        if not changes:  # nothing is one step away: a row is bent towards it
            n, a = random.randrange(len(state.rows)), random.choice(state.groups[g])
            changes = [(n, a, random.randrange(levels[a]))]
        gains = [state.gain(*one) for one in changes]
        least = min(gains)
        n, a, v = random.choice([one for one, gain in zip(changes, gains, strict=True) if gain == least])
        state.change(n, a, v)
        free[n][a] = step + 1 + random.randrange(TABU)
    return state.whole() if not state.missing else None
