"""Before anything is paid: how wide the intervals of a design will be, how many more would narrow them, and which prompts would tell most."""

from collections.abc import Callable, Sequence
from itertools import product
from math import prod
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import EffectsFit, reach
from syntagma.core.judging.layout import coded, contrasts, variances
from syntagma.core.judging.observed import Factors

SCATTER = 1.0  # how far prompts of one choice are taken to scatter, in ratings, if nothing is known
DRAWN = 0.7  # and draws of one prompt
CANDIDATES = 6000  # combinations that are looked at for the next prompts
RIDGE = 1e-6


class Width(NamedTuple):
    """How far an interval will reach to each side, for an axis: the widest of its choices; infinite where the design can't tell it."""

    axis: str
    half: float


def widths(factors: Factors, draws: int, scatter: float = SCATTER, drawn: float = DRAWN) -> list[Width]:
    """What intervals to expect of a design with `draws` results per prompt."""
    wanted = contrasts(factors)
    matrix = coded(factors)
    freedom = len(matrix) - int(np.linalg.matrix_rank(matrix, tol=1e-8))
    unit = variances(matrix, wanted)
    sigma = float(np.sqrt(scatter**2 + drawn**2 / max(1, draws)))
    half = reach(freedom) * sigma * np.sqrt(unit)
    return [Width(name, max((float(half[i]) for i, c in enumerate(wanted) if c.axis == axis), default=float("inf"))) for axis, name in enumerate(factors.names)]


def narrowed(factors: Factors, found: EffectsFit, rows: Sequence[Sequence[int]]) -> float:
    """To how much on each side these prompts more would narrow the widest interval, if they scatter as those that are there do."""
    if not found.scatter > 0 or found.alone or not rows:
        return float("inf")
    matrix = coded(factors._replace(rows=np.vstack([factors.rows, np.array(rows, dtype=int)])))
    unit = variances(matrix, contrasts(factors))
    told = np.isfinite(unit)
    if not told.any():
        return float("inf")
    return float(reach(found.freedom + len(rows)) * found.scatter * np.sqrt(unit[told].max()))


def next_rows(
    factors: Factors, count: int, allowed: Callable[[Sequence[int]], bool] = lambda _: True, weights: Sequence[float] | None = None, seed: int = 1
) -> list[tuple[int, ...]]:
    """The `count` combinations (a level number for each axis) that, beside the prompts that are there, tell most about the effects: each in turn the one that
    lowers the weighted sum of their variances most. `weights`: one for each contrast, in the order of `contrasts`. What is there comes again only when
    nothing else is left."""
    sizes = [len(levels) for levels in factors.levels]
    possible = candidates(sizes, allowed, seed)
    if not possible:
        return []
    there = {tuple(row) for row in factors.rows.tolist()}
    wanted = contrasts(factors)
    share = np.ones(len(wanted)) if weights is None else np.asarray(weights, dtype=float)
    aims = np.array([contrast.weights for contrast in wanted])
    matrix = coded(factors)
    rows = coded(factors._replace(rows=np.array(possible, dtype=int)))
    inverse = np.linalg.inv(matrix.T @ matrix + RIDGE * np.eye(matrix.shape[1]))
    fresh = np.array([row not in there for row in possible])
    found: list[tuple[int, ...]] = []
    for _ in range(count):
        spread = rows @ inverse
        gain = (share[:, None] * (aims @ spread.T) ** 2).sum(axis=0) / (1.0 + (spread * rows).sum(axis=1))
        gain = np.where(fresh, gain, -1.0) if fresh.any() else gain
        at = int(np.argmax(gain))
        x = rows[at]
        step = inverse @ x
        inverse = inverse - np.outer(step, step) / (1.0 + float(x @ step))
        fresh[at] = False
        found.append(possible[at])
    return found


def candidates(sizes: Sequence[int], allowed: Callable[[Sequence[int]], bool], seed: int, most: int = CANDIDATES) -> list[tuple[int, ...]]:
    """The combinations that are allowed: all of them, or `most` by chance if there are more."""
    if prod(sizes) <= most:
        return [row for row in product(*(range(size) for size in sizes)) if allowed(row)]
    random = np.random.default_rng(seed)
    drawn = random.integers(0, np.array(sizes), size=(most * 2, len(sizes)))
    return list(dict.fromkeys(row for row in map(tuple, drawn.tolist()) if allowed(row)))[:most]
