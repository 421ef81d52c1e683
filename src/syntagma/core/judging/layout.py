"""What a design can tell at all: its model matrix of main effects, its rank, and which effects
can't be determined from each other.

Sources: A. C. Atkinson, A. N. Donev and R. D. Tobias, Optimum experimental designs (2007); the
alias matrix as in G. E. P. Box and K. B. Wilson, On the experimental attainment of optimum
conditions, Journal of the Royal Statistical Society B 13 (1951).
"""

from itertools import combinations
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.observed import Factors

SMALL = 1e-8


class Contrast(NamedTuple):
    """A choice against the mean of the others of its axis: `weights` says it in the columns of
    that.
    """

    axis: int
    level: int
    weights: np.ndarray


def coded(factors: Factors) -> np.ndarray:
    """Prompts × columns: a constant, then for each axis its choices but the last, the last being −1
    in all of them, so effects sum to 0.
    """
    parts = [np.ones((len(factors.rows), 1))]
    for axis, levels in enumerate(factors.levels):
        base = np.vstack([np.eye(len(levels) - 1), -np.ones((1, len(levels) - 1))])
        parts.append(base[factors.rows[:, axis]])
    return np.concatenate(parts, axis=1)


def columns(factors: Factors) -> list[slice]:
    """Which columns are of which axis."""
    found, at = [], 1
    for levels in factors.levels:
        found.append(slice(at, at + len(levels) - 1))
        at += len(levels) - 1
    return found


def contrasts(factors: Factors) -> list[Contrast]:
    """Every choice against the mean of the others of its axis; of an axis of two, the second
    against the first.
    """
    width = 1 + sum(len(levels) - 1 for levels in factors.levels)
    found = []
    for axis, (levels, own) in enumerate(zip(factors.levels, columns(factors), strict=True)):
        for level in range(len(levels)):
            if len(levels) == 2 and level == 0:
                continue
            weights = np.zeros(width)
            weights[own] = -1.0 if level == len(levels) - 1 else np.eye(len(levels) - 1)[level]
            found.append(Contrast(axis, level, weights * len(levels) / (len(levels) - 1)))
    return found


def variances(matrix: np.ndarray, wanted: list[Contrast]) -> np.ndarray:
    """How uncertain each contrast is, in units of the variance of one prompt; infinite where the
    design can't tell it.
    """
    moment = matrix.T @ matrix
    inverse = np.linalg.pinv(moment, hermitian=True)
    weights = np.array([contrast.weights for contrast in wanted]).reshape(
        len(wanted), matrix.shape[1]
    )
    return np.where(told_apart(moment, inverse, weights), sum_of(weights, inverse), np.inf)


def told_apart(moment: np.ndarray, inverse: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Which combinations of numbers (rows of `weights`) can be found at all, by the normal
    equations and their inverse.
    """
    kernel = np.eye(len(moment)) - inverse @ moment
    return np.abs(weights @ kernel).max(axis=1, initial=0.0) < 1e-6


def sum_of(weights: np.ndarray, inverse: np.ndarray) -> np.ndarray:
    """The diagonal of weights @ inverse @ weights', one number per row."""
    return np.einsum("ij,jk,ik->i", weights, inverse, weights)


class Alias(NamedTuple):
    """Two axes, and how much of what one does would be taken for the other's doing (0 to 1; 1: they
    can't be distinguished).
    """

    first: str
    second: str
    share: float


class Layout(NamedTuple):
    """What a design can tell: prompts, columns of main effects, their rank, what is left for the
    scatter; axes that can't be determined at all; pairs of axes that go together; and for each axis
    the pair of other axes whose joint effect would most be taken for it (axis, first, second,
    share).
    """

    prompts: int
    effects: int
    rank: int
    untold: tuple[str, ...]
    aliases: tuple[Alias, ...]
    mistaken: tuple[tuple[str, str, str, float], ...]

    @property
    def freedom(self) -> int:
        """Degrees of freedom that are left for the scatter of prompts."""
        return self.prompts - self.rank


def layout(factors: Factors) -> Layout:
    """Look a design over."""
    matrix = coded(factors)
    rank = int(np.linalg.matrix_rank(matrix, tol=1e-8)) if matrix.size else 0
    own = columns(factors)
    untold = []
    for axis, where in enumerate(own):
        others = np.delete(matrix, np.r_[where], axis=1)
        gained = rank - int(np.linalg.matrix_rank(others, tol=1e-8))
        if gained < len(factors.levels[axis]) - 1:
            untold.append(factors.names[axis])
    aliases = []
    for a, b in combinations(range(len(own)), 2):
        share = _overlap(matrix[:, own[a]], matrix[:, own[b]])
        if share > 0.05:
            aliases.append(Alias(factors.names[a], factors.names[b], share))
    aliases.sort(key=lambda one: -one.share)
    return Layout(
        len(matrix),
        matrix.shape[1],
        rank,
        tuple(untold),
        tuple(aliases),
        tuple(_mistaken(factors, matrix, own)),
    )


def _overlap(a: np.ndarray, b: np.ndarray) -> float:
    """The largest canonical correlation of two sets of columns, squared, the constant taken out."""
    a, b = _basis(a), _basis(b)
    if not a.size or not b.size:
        return 0.0
    return float(min(1.0, np.linalg.svd(a.T @ b, compute_uv=False).max(initial=0.0) ** 2))


def _basis(part: np.ndarray) -> np.ndarray:
    u, s, _ = np.linalg.svd(part - part.mean(axis=0), full_matrices=False)
    return u[:, s > SMALL]


def _mistaken(
    factors: Factors, matrix: np.ndarray, own: list[slice]
) -> list[tuple[str, str, str, float]]:
    """For each axis the pair of others whose joint effect lies most in its columns; where the share
    is small, nothing.
    """
    found = []
    for axis, where in enumerate(own):
        others = [other for other in range(len(own)) if other != axis]
        worst = ("", "", 0.0)
        for a, b in combinations(others, 2):
            product = (matrix[:, own[a]][:, :, None] * matrix[:, own[b]][:, None, :]).reshape(
                len(matrix), -1
            )
            share = _overlap(matrix[:, where], product)
            if share > worst[2] + SMALL:
                worst = (factors.names[a], factors.names[b], share)
        if worst[2] > 0.3:
            found.append((factors.names[axis], *worst))
    return found
