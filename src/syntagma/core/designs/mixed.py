"""A given number of rows that tell most about what is marked as interesting: main effects of some
axes, and of pairs of axes.

Sources: R. K. Meyer and C. J. Nachtsheim, The coordinate-exchange algorithm for constructing exact
optimal experimental designs, Technometrics 37 (1995); D-efficiency as in A. C. Atkinson, A. N.
Donev and R. D. Tobias, Optimum experimental designs (2007).
"""

from collections.abc import Sequence
from random import Random
from typing import NamedTuple

import numpy as np

from syntagma.core.designs.level_rows import Forbidding, Space

STARTS = 4  # designs begun by chance, of which the best is kept
ROUNDS = 12  # passes over all places of a design
RIDGE = 1e-6


class DesignModel(NamedTuple):
    """What is interesting: axes by themselves, and pairs of axes."""

    mains: tuple[int, ...]
    pairs: tuple[tuple[int, int], ...] = ()


class Mixed(NamedTuple):
    """The rows, and their D-efficiency: 1 for a design in which all effects are estimated as well
    as n rows can.
    """

    rows: np.ndarray
    efficiency: float


def mixed(
    space: Space,
    count: int,
    model: DesignModel,
    random: Random,
    effort: float = 1.0,
    fixed: Sequence[Sequence[int]] = (),
) -> Mixed:
    """`count` rows that make the determinant of the information matrix of the model as large as can
    be found, by exchanging one place after another; those in `fixed` are among them, first and
    unchanged. Axes that are in no effect are balanced by chance.
    """
    forbidding = space.index()
    best: Mixed | None = None
    for _ in range(max(1, int(STARTS * effort))):
        rows = np.array(
            [*fixed, *(_row(space, forbidding, random) for _ in range(count - len(fixed)))]
        )
        coded = _Coded(space, model)
        for _ in range(ROUNDS):
            if not _improve(rows, coded, forbidding, len(fixed)):
                break
        found = Mixed(rows, coded.efficiency(rows))
        if best is None or found.efficiency > best.efficiency:
            best = found
    assert best is not None
    return best


def _row(space: Space, forbidding: Forbidding, random: Random) -> list[int]:
    while True:
        row = [random.randrange(v) for v in space.levels]
        if forbidding.allows(row):
            return row
        start = random.randrange(len(row))
        whole = forbidding.completes({start: row[start]})
        if whole:
            return whole


class _Coded:
    """Rows as rows of the model's matrix: an intercept, orthonormal contrasts of each axis,
    products for pairs.
    """

    def __init__(self, space: Space, model: DesignModel):
        self.model = model
        self.contrasts = [_contrasts(v) for v in space.levels]

    def matrix(self, rows: np.ndarray) -> np.ndarray:
        parts = [np.ones((len(rows), 1))]
        parts += [self.contrasts[a][rows[:, a]] for a in self.model.mains]
        for a, b in self.model.pairs:
            first, second = self.contrasts[a][rows[:, a]], self.contrasts[b][rows[:, b]]
            parts.append((first[:, :, None] * second[:, None, :]).reshape(len(rows), -1))
        return np.concatenate(parts, axis=1)

    def efficiency(self, rows: np.ndarray) -> float:
        matrix = self.matrix(rows)
        if len(rows) < matrix.shape[1]:
            return 0.0
        sign, log = np.linalg.slogdet(matrix.T @ matrix / len(rows))
        return float(np.exp(log / matrix.shape[1])) if sign > 0 else 0.0


def _contrasts(levels: int) -> np.ndarray:
    """Levels × (levels − 1): orthogonal, each of mean 0 and mean square 1 over the levels."""
    if levels == 1:
        return np.zeros((1, 0))
    base = np.eye(levels) - 1.0 / levels
    u, _, _ = np.linalg.svd(base)
    return u[:, : levels - 1] * np.sqrt(levels)


def _improve(rows: np.ndarray, coded: _Coded, forbidding: Forbidding, first: int) -> bool:
    """One pass: every place of every row from `first` on gets the level that serves best. True if
    anything changed.
    """
    axes = sorted({*coded.model.mains, *(a for pair in coded.model.pairs for a in pair)})
    changed = False
    for i in range(first, len(rows)):
        matrix = coded.matrix(rows)
        inverse = np.linalg.inv(matrix.T @ matrix + RIDGE * np.eye(matrix.shape[1]))
        for axis in axes:
            old = rows[i, axis]
            row = rows[i].tolist()
            levels = [
                v
                for v in range(forbidding.space.levels[axis])
                if v == old or forbidding.fits(row, axis, v)
            ]
            tried = np.repeat(rows[i][None, :], len(levels), axis=0)
            tried[:, axis] = levels
            new, here = coded.matrix(tried), coded.matrix(rows[i][None, :])[0]
            dx = inverse @ here
            dy = new @ inverse
            ratio = (1 + (dy * new).sum(axis=1)) * (1 - here @ dx) + (new @ dx) ** 2
            at = int(np.argmax(ratio))
            if ratio[at] > 1 + 1e-9 and levels[at] != old:
                rows[i, axis] = levels[at]
                changed = True
                matrix = coded.matrix(rows)
                inverse = np.linalg.inv(matrix.T @ matrix + RIDGE * np.eye(matrix.shape[1]))
    return changed
