"""Effects on how often a choice wins, from pairs; and chances as odds.

The choices' effects are not drawn towards nothing, the strengths round them are (normal, of a
spread that is not known); all that is not known is integrated over: the spread on a grid, the rest
by Laplace's approximation, as in H. Rue, S. Martino and N. Chopin, Approximate Bayesian inference
for latent Gaussian models by using integrated nested Laplace approximations, Journal of the Royal
Statistical Society B 71 (2009). The chance that so much comes about by chance, on any choice, is
that of the largest of several correlated t (T. Hothorn, F. Bretz and P. Westfall, Simultaneous
inference in general parametric models, 2008).
"""

from collections.abc import Sequence

import numpy as np

from syntagma.core.judging.effects import EffectsFit, budget, claimed, effect_of, reach
from syntagma.core.judging.layout import coded, contrasts, sum_of, told_apart
from syntagma.core.judging.observed import Factors, Table
from syntagma.core.judging.pairs import PairAnswer

# ──── Marks as an order and no numbers: a proportional-odds fit, as a check of what the means say.
#
# Source: P. McCullagh, Regression models for ordinal data, Journal of the Royal Statistical Society
# B 42 (1980).


RIDGE = 0.05  # a weak prior, so a choice with only the best ratings has an end


def odds(
    factors: Factors,
    prompts: Sequence[int],
    ratings: Sequence[float],
    beside: np.ndarray | None = None,
) -> np.ndarray:
    """For each contrast of `contrasts(factors)` its size in logits: `ratings` of the prompts (by
    their row in `factors`); `beside` are further columns, ratings × columns (who judged). Raises
    ValueError if fewer than two different ratings were given.
    """
    from scipy.optimize import minimize

    matrix = coded(factors)[:, 1:][np.asarray(prompts, dtype=int)]
    own = matrix.shape[1]
    if beside is not None:
        matrix = np.hstack([matrix, beside])
    values = np.unique(np.asarray(ratings))
    if len(values) < 2:
        raise ValueError("every rating is the same")
    at = np.searchsorted(values, np.asarray(ratings))
    cuts = len(values) - 1

    def loss(parameters: np.ndarray) -> float:
        bounds = np.cumsum(np.concatenate([parameters[:1], np.exp(parameters[1:cuts])]))
        shift = matrix @ parameters[cuts:]
        upper = np.where(at < cuts, bounds[np.minimum(at, cuts - 1)], np.inf) - shift
        lower = np.where(at > 0, bounds[np.maximum(at - 1, 0)], -np.inf) - shift
        share = 1 / (1 + np.exp(-np.clip(upper, -40, 40))) - 1 / (
            1 + np.exp(-np.clip(lower, -40, 40))
        )
        return float(
            -np.log(np.maximum(share, 1e-12)).sum() + RIDGE * (parameters[cuts:] ** 2).sum()
        )

    start = np.concatenate([[-1.0], np.zeros(cuts - 1), np.zeros(matrix.shape[1])])
    beta = minimize(loss, start, method="BFGS").x[cuts : cuts + own]
    return np.array([contrast.weights[1:] @ beta for contrast in contrasts(factors)])


# ──── What each choice did, by pairs: a logistic model of who wins, with the choices' effects, the
# results' own strengths round them, and each judge's lean to a side.
#
# The choices' effects are not drawn towards nothing, the strengths round them are (normal, of a
# spread that is not known); all that is not known is integrated over:
# the spread on a grid, the rest by Laplace's approximation, as in H. Rue, S. Martino and N. Chopin,
# Approximate Bayesian inference for latent Gaussian models by using
# integrated nested Laplace approximations, Journal of the Royal Statistical Society B 71 (2009).
# The chance that so much comes about by chance, on any choice, is
# that of the largest of several correlated t (T. Hothorn, F. Bretz and P. Westfall, Simultaneous
# inference in general parametric models, 2008).


SPREADS = (
    0.15,
    0.4,
    0.8,
    1.3,
    1.9,
    2.7,
    3.8,
    5.2,
)  # of strengths round what choices make, in logits
LIKELY = 2.5  # the spread is taken to lie within some of this
LEAN = 0.5  # how far judges lean to a side, in logits
WIDE = 8.0  # how large effects may be, in logits: as good as unbounded
ALIKE = 0.5  # how much of that spread draws of one prompt share
DRAWN = 40_000  # draws for the largest of several t


def fit_wins(
    table: Table,
    prompt_of: Sequence[int],
    answers: Sequence[PairAnswer],
    look: int = 1,
    seed: int = 1,
) -> EffectsFit:
    """Effects in logits out of pairs. `table` has the prompts that were compared, `prompt_of` the
    row in it of each result, `answers` pairs of results by number. `scatter` is the spread of
    strengths round what the choices make.
    """
    matrix, wanted = coded(table.factors)[:, 1:], contrasts(table.factors)
    weights = np.array([c.weights[1:] for c in wanted]).reshape(len(wanted), matrix.shape[1])
    of = np.asarray(prompt_of, dtype=int)
    first, second = (
        np.array([getattr(a, side) for a in answers], dtype=int) for side in ("first", "second")
    )
    judges = sorted({a.judge for a in answers})
    who = np.zeros((len(answers), len(judges)))
    who[np.arange(len(answers)), [judges.index(a.judge) for a in answers]] = 1.0
    fixed = np.hstack([matrix[of[first]] - matrix[of[second]], who])
    won = np.array([a.won for a in answers])
    kernel = (
        np.where(of[:, None] == of[None, :], ALIKE, 0.0)
        if len(set(prompt_of)) < len(of)
        else np.zeros((len(of), len(of)))
    )
    np.fill_diagonal(kernel, 1.0)
    root = np.linalg.cholesky(kernel)
    own = root[first] - root[second]
    mean, covariance, spread = _integrated(fixed, own, won, matrix.shape[1])
    information = fixed[:, : matrix.shape[1]].T @ fixed[:, : matrix.shape[1]]
    told = told_apart(information, np.linalg.pinv(information, hermitian=True), weights)
    variance = np.where(told, sum_of(weights, covariance), np.inf)
    rank = int(np.linalg.matrix_rank(np.hstack([np.ones((len(matrix), 1)), matrix]), tol=1e-8))
    freedom = float(len(matrix) - rank)
    sizes = weights @ mean
    half = np.where(told & (freedom > 0), reach(freedom) * np.sqrt(variance), np.inf)
    chances = largest_t(sizes, weights @ covariance @ weights.T, told, freedom, seed)
    effects = tuple(
        effect_of(table, c, size, up_to, chance, 0.0)
        for c, size, up_to, chance in zip(wanted, sizes, half, chances, strict=True)
    )
    return claimed(EffectsFit(effects, spread, freedom, 0.0, len(matrix), spends=budget(look)))


def _integrated(
    fixed: np.ndarray, own: np.ndarray, won: np.ndarray, mains: int
) -> tuple[np.ndarray, np.ndarray, float]:
    """The mean and the covariance of the choices' numbers over all spreads, and the mean spread."""
    wide = np.hstack([fixed, own])
    prior = np.concatenate(
        [
            np.full(mains, WIDE**-2),
            np.full(fixed.shape[1] - mains, LEAN**-2),
            np.zeros(own.shape[1]),
        ]
    )
    at = np.zeros(wide.shape[1])
    logs, means, covariances = [], [], []
    for spread in SPREADS:
        precision = prior + np.concatenate(
            [np.zeros(fixed.shape[1]), np.full(own.shape[1], spread**-2)]
        )
        at, information = _mode(wide, won, precision, at)
        chance = wide @ at
        likely = float((won * chance - np.logaddexp(0.0, chance)).sum())
        log = (
            likely
            - 0.5 * float(precision @ at**2)
            - 0.5 * float(np.linalg.slogdet(information)[1])
            - own.shape[1] * np.log(spread)
        )
        logs.append(log - 0.5 * (spread / LIKELY) ** 2)
        means.append(at[:mains].copy())
        covariances.append(np.linalg.inv(information)[:mains, :mains])
    weight = np.exp(np.array(logs) - max(logs))
    weight /= weight.sum()
    mean = np.einsum("s,si->i", weight, np.array(means))
    apart = np.array(means) - mean
    covariance = np.einsum("s,sij->ij", weight, np.array(covariances)) + np.einsum(
        "s,si,sj->ij", weight, apart, apart
    )
    return mean, covariance, float(weight @ np.array(SPREADS))


def _mode(
    wide: np.ndarray, won: np.ndarray, precision: np.ndarray, at: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """The most probable numbers under a precision of each, and the information round them (Newton's
    method, with half steps where one leads uphill).
    """

    def loss(x: np.ndarray) -> float:
        chance = wide @ x
        return float((np.logaddexp(0.0, chance) - won * chance).sum() + 0.5 * (precision @ x**2))

    here, information = loss(at), np.diag(precision)
    for _ in range(60):
        p = 1.0 / (1.0 + np.exp(-np.clip(wide @ at, -35, 35)))
        information = (wide * (p * (1 - p))[:, None]).T @ wide + np.diag(precision)
        step = np.linalg.solve(information, wide.T @ (won - p) - precision * at)
        share = 1.0
        while share > 1e-3 and loss(at + share * step) > here + 1e-12:
            share /= 2
        at = at + share * step
        here = loss(at)
        if np.abs(step).max(initial=0.0) < 1e-7:
            break
    return at, information


def largest_t(
    sizes: np.ndarray, covariance: np.ndarray, told: np.ndarray, freedom: float, seed: int
) -> np.ndarray:
    """For each size how often the largest |t| of all of them would be as large by chance; far out,
    where draws are few, by C. E. Bonferroni's inequality.
    """
    from scipy.stats import t

    found = np.ones(len(sizes))
    told = told & (np.diag(covariance) > 0)
    if not told.any() or not freedom > 0:
        return found
    part = covariance[np.ix_(told, told)]
    error = np.sqrt(np.diag(part))
    values, vectors = np.linalg.eigh(part / np.outer(error, error))
    random = np.random.default_rng(seed)
    normal = random.normal(size=(DRAWN, len(values))) * np.sqrt(np.maximum(values, 0.0)) @ vectors.T
    largest = np.sort(
        np.abs(normal / np.sqrt(random.chisquare(freedom, DRAWN) / freedom)[:, None]).max(axis=1)
    )
    own = np.abs(sizes[told]) / error
    beyond = DRAWN - np.searchsorted(largest, own)
    each = 2 * t.sf(own, freedom) * len(own)
    found[told] = np.where(beyond >= 100, beyond / DRAWN, np.minimum(each, 1.0))
    return found
