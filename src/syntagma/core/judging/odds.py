"""Marks as an order and no numbers: a proportional-odds fit, as a check of what the means say.

Source: P. McCullagh, Regression models for ordinal data, Journal of the Royal Statistical Society B 42 (1980).
"""

from collections.abc import Sequence

import numpy as np

from syntagma.core.judging.layout import coded, contrasts
from syntagma.core.judging.observed import Factors

RIDGE = 0.05  # a weak prior, so a choice with only the best ratings has an end


def odds(factors: Factors, prompts: Sequence[int], ratings: Sequence[float], beside: np.ndarray | None = None) -> np.ndarray:
    """For each contrast of `contrasts(factors)` its size in logits: `ratings` of the prompts (by their row in `factors`); `beside` are further columns, ratings × columns
    (who judged). Raises ValueError if fewer than two different ratings were given."""
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
        share = 1 / (1 + np.exp(-np.clip(upper, -40, 40))) - 1 / (1 + np.exp(-np.clip(lower, -40, 40)))
        return float(-np.log(np.maximum(share, 1e-12)).sum() + RIDGE * (parameters[cuts:] ** 2).sum())

    start = np.concatenate([[-1.0], np.zeros(cuts - 1), np.zeros(matrix.shape[1])])
    beta = minimize(loss, start, method="BFGS").x[cuts : cuts + own]
    return np.array([contrast.weights[1:] @ beta for contrast in contrasts(factors)])
