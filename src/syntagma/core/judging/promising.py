"""Which combination of choices is the best, how sure that is, and which to try next to come nearer
to it.

What a combination is worth is a mean, what each choice brings, what each two choices bring
together, and the rest: all normal, of spreads that are found by the most probable ones on a grid (a
Gaussian process with an analysis-of-variance kernel: C. E. Rasmussen and C. K. I. Williams,
Gaussian processes for machine learning, 2006). The next is the one that may be the best by the
upper bound of what it may come to (N. Srinivas, A. Krause, S. M. Kakade and M. Seeger, Gaussian
process optimization in the bandit setting, 2010); those that are chosen already are taken to come
out as expected (T. Desautels, A. Krause and J. W. Burdick, Parallelizing exploration-exploitation
tradeoffs in Gaussian process bandit optimization, Journal of Machine Learning Research 15, 2014).
"""

from collections.abc import Callable, Sequence
from itertools import product as every
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import reach
from syntagma.core.judging.observed import Table
from syntagma.core.judging.planning import candidates

DRAWN = 2000  # draws for the chance to be the best
SHARES = (0.05, 0.3, 0.7, 0.95)  # of what scatters: how much is not noise
TOGETHER = (0.1, 0.35, 0.7)  # of that: how much is what choices do together
MOST = 1200  # combinations that are looked at
REACH = 1.5  # standard deviations of the upper bound
REST = 0.15  # of that: what is neither of one choice nor of two


class Best(NamedTuple):
    """A combination (a level number for each axis): what it is expected to come to, with a 95 %
    interval, the chance that it is the best, and results it has.
    """

    row: tuple[int, ...]
    mean: float
    low: float
    high: float
    chance: float
    tried: int


class _Process:
    """What is believed of all combinations after the prompts of a table."""

    def __init__(self, table: Table, rows: Sequence[tuple[int, ...]]):
        self.sizes = [len(levels) for levels in table.factors.levels]
        self.rows = np.array(rows, dtype=int)
        self.seen = table.factors.rows
        self.outcome, self.noise = table.outcome, 1.0 / np.sqrt(table.draws)
        own = self._alike(self.seen, self.seen)
        best: tuple[float, np.ndarray, float, float, float] | None = None
        ones = np.ones(len(self.seen))
        for share, together in every(SHARES, TOGETHER):
            matrix = share * self._kernel(own, together) + (1 - share) * np.diag(self.noise**2)
            root = np.linalg.cholesky(matrix + 1e-9 * np.eye(len(matrix)))
            solved = np.linalg.solve(root, np.column_stack([self.outcome, ones]))
            mean = float(solved[:, 1] @ solved[:, 0] / (solved[:, 1] @ solved[:, 1]))
            left = solved[:, 0] - mean * solved[:, 1]
            scale = float(left @ left) / max(1, len(ones) - 1)
            log = (
                -0.5 * (len(ones) - 1) * np.log(max(scale, 1e-12))
                - float(np.log(np.diag(root)).sum())
                - 0.5 * np.log(float(solved[:, 1] @ solved[:, 1]))
            )
            if best is None or log > best[0]:
                best = (log, root, mean, share, together)
            self.scale = scale if best[1] is root else self.scale
        assert best is not None
        _, self.root, self.centre, self.share, self.together = best
        cross = self.share * self._kernel(self._alike(self.rows, self.seen), self.together)
        half = np.linalg.solve(self.root, cross.T)
        residual = np.linalg.solve(self.root, self.outcome - self.centre)
        own_mean = np.linalg.solve(self.root, ones)
        gap = 1.0 - half.T @ own_mean  # the mean is not known, either
        self.mean = self.centre + half.T @ residual
        prior = self.share * self._kernel(self._alike(self.rows, self.rows), self.together)
        self.covariance = self.scale * (
            prior - half.T @ half + np.outer(gap, gap) / float(own_mean @ own_mean)
        )

    def _alike(self, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        """Axes × combinations × combinations: 1 where both choose the same, else what makes a
        choice's effects sum to 0.
        """
        return np.stack(
            [
                np.where(a[:, None, i] == b[None, :, i], 1.0, -1.0 / (size - 1))
                for i, size in enumerate(self.sizes)
            ]
        )

    def _kernel(self, alike: np.ndarray, together: float) -> np.ndarray:
        """The covariance of what combinations are worth, 1 for each by itself."""
        alone = alike.mean(axis=0)
        axes = len(alike)
        pairs = (
            (alike.sum(axis=0) ** 2 - (alike**2).sum(axis=0)) / max(1, axes * (axes - 1))
            if axes > 1
            else np.zeros_like(alone)
        )
        same = (alike > 1 - 1e-12).all(axis=0)
        return (1 - together) * alone + together * ((1 - REST) * pairs + REST * same)


def _possible(
    table: Table, allowed: Callable[[Sequence[int]], bool], seed: int
) -> list[tuple[int, ...]]:
    """The combinations that are looked at: all that are allowed, or what is there and many others
    by chance.
    """
    there = [tuple(row) for row in table.factors.rows.tolist()]
    drawn = candidates([len(levels) for levels in table.factors.levels], allowed, seed, MOST)
    return (
        list(dict.fromkeys([*(row for row in there if allowed(row)), *drawn]))
        if len(drawn) == MOST
        else drawn
    )


def best_rows(
    table: Table,
    count: int,
    allowed: Callable[[Sequence[int]], bool] = lambda _: True,
    seed: int = 1,
    ends: tuple[float, float] = (-np.inf, np.inf),
) -> list[Best]:
    """The `count` combinations that are expected to come to most, of all that are allowed; `ends`
    bound what an outcome can be.
    """
    rows = _possible(table, allowed, seed)
    if not rows or len(table.outcome) < 2:
        return []
    found = _Process(table, rows)
    spread = np.sqrt(np.maximum(np.diag(found.covariance), 0.0))
    half = reach(len(table.outcome) - 1) * spread
    values, vectors = np.linalg.eigh(found.covariance)
    normal = np.random.default_rng(seed).normal(size=(DRAWN, len(values))) * np.sqrt(
        np.maximum(values, 0.0)
    )
    tops = (
        np.bincount(np.argmax(found.mean + normal @ vectors.T, axis=1), minlength=len(rows)) / DRAWN
    )
    tried: dict[tuple[int, ...], int] = {}
    for row, draws in zip(table.factors.rows.tolist(), table.draws.tolist(), strict=True):
        tried[tuple(row)] = tried.get(tuple(row), 0) + draws
    order = np.argsort(-found.mean, kind="stable")[:count]
    within = np.clip(
        np.stack([found.mean, found.mean - half, found.mean + half], axis=1)[order], *ends
    ).tolist()
    return [
        Best(rows[i], mean, low, high, float(tops[i]), tried.get(rows[i], 0))
        for i, (mean, low, high) in zip(order.tolist(), within, strict=True)
    ]


def promising_rows(
    table: Table,
    count: int,
    allowed: Callable[[Sequence[int]], bool] = lambda _: True,
    seed: int = 1,
) -> list[tuple[int, ...]]:
    """The `count` combinations to try next in order to find the best: each in turn the one that may
    come to most.
    """
    rows = _possible(table, allowed, seed)
    if not rows or len(table.outcome) < 2:
        return []
    found = _Process(table, rows)
    covariance = found.covariance.copy()
    noise = found.scale * (1 - found.share) + 1e-12
    chosen: list[int] = []
    for _ in range(count):
        up_to = found.mean + REACH * np.sqrt(np.maximum(np.diag(covariance), 0.0))
        if len(set(chosen)) < len(rows):
            up_to[chosen] = -np.inf
        at = int(np.argmax(up_to))
        chosen.append(at)
        step = covariance[:, at] / np.sqrt(covariance[at, at] + noise)
        covariance = covariance - np.outer(step, step)
    return [rows[i] for i in chosen]
