"""What each choice did: the difference of the mean outcome between a choice and the others of its axis, over prompts, with an interval.

The estimand is that difference for these judges, averaged over the prompts of the design: judges are averaged, then draws, and a linear model of main effects
is fitted to one number a prompt; its interval is Student's t over prompts. Which axes did anything is decided by a permutation test of the largest |t|
(P. H. Westfall and S. S. Young, Resampling-based multiple testing, 1993). Whoever looks again and again has intervals that hold at all looks together: the
confidence sequence of M. Lindon, D. W. Ham, M. Tingley and I. Bojinov, Anytime-valid linear models and regression adjusted causal inference (2022).
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.layout import Contrast, coded, contrasts, variances
from syntagma.core.judging.observed import Table

LEVEL = 0.05
PERMUTED = 4000
MIXTURE = 1.0  # the precision over which the confidence sequence is mixed; tightest at some 25 to 60 prompts
LEAST_JUDGES = 5  # below which nothing is said of judges at large


class Effect(NamedTuple):
    """What a choice did against the others of its axis. `low` and `high` bound it (infinite where it can't be told); `chance` is how often so much would
    come about by chance, on any of the axes; `mean` is the adjusted mean of its prompts, `prompts` and `refused` how many it had."""

    axis: str
    choice: str
    against: str
    size: float
    low: float
    high: float
    chance: float
    mean: float
    prompts: int
    refused: int

    @property
    def told(self) -> bool:
        """Does the data carry a claim: is it decided on which side of nothing it lies, all axes and all looks considered?"""
        return self.chance <= LEVEL and (self.low > 0 or self.high < 0)


class Fit(NamedTuple):
    """A fit: the effects, the scatter of prompts round it (standard deviation), its degrees of freedom, the mean of all. `alone`: there are as many numbers to find as
    prompts, so that intervals are over draws, and speak of these very prompts alone."""

    effects: tuple[Effect, ...]
    scatter: float
    freedom: int
    mean: float
    alone: bool = False


def fit(table: Table, looks: int = 1, seed: int = 1, permuted: int = PERMUTED) -> Fit:
    """Estimate all effects of a table; `looks`: the how-manieth time this data is looked at."""
    wanted = contrasts(table.factors)
    matrix, outcome = coded(table.factors), table.outcome
    rank = int(np.linalg.matrix_rank(matrix, tol=1e-8)) if len(outcome) else 0
    freedom = len(outcome) - rank
    if freedom == 0 and rank > 1 and table.inner_freedom > 0:
        return _of_draws(table, wanted, matrix, looks)
    inverse = np.linalg.pinv(matrix)
    beta = inverse @ outcome
    residual = outcome - matrix @ beta
    scatter = float(np.sqrt(residual @ residual / freedom)) if freedom > 0 else float("nan")
    unit = variances(matrix, wanted) if wanted else np.array([])
    sizes = np.array([contrast.weights @ beta for contrast in wanted])
    factor = half_width(freedom, unit, looks)
    flat = not freedom > 0 or scatter < 1e-12
    told = np.isfinite(unit) & np.isfinite(factor)
    half = np.full(len(wanted), np.inf)
    if not flat:
        half[told] = factor[told] * scatter * np.sqrt(unit[told])
    chances = np.ones(len(wanted)) if flat else _chances(matrix, outcome, wanted, unit, freedom, seed, permuted)
    mean = float(beta[0]) if len(outcome) else float("nan")
    effects = tuple(_effect(table, contrast, size, reach, chance, mean) for contrast, size, reach, chance in zip(wanted, sizes, half, chances, strict=True))
    return Fit(effects, scatter, freedom, mean)


def _of_draws(table: Table, wanted: Sequence[Contrast], matrix: np.ndarray, looks: int) -> Fit:
    """Where nothing is left for the scatter of prompts: intervals over draws, for these very prompts; chances are corrected for the number of choices
    (C. E. Bonferroni)."""
    from scipy.stats import t

    inverse = np.linalg.pinv(matrix)
    beta = inverse @ table.outcome
    told = np.isfinite(variances(matrix, list(wanted)))
    weights = np.array([contrast.weights for contrast in wanted])
    sizes = weights @ beta
    unit = ((weights @ inverse) ** 2 / table.draws[None, :]).sum(axis=1)
    error = table.inner * np.sqrt(unit)
    half = np.where(told & (error > 0), half_width(table.inner_freedom, unit, looks) * error, np.inf)
    with np.errstate(divide="ignore", invalid="ignore"):
        chances = np.where(told & (error > 0), np.minimum(1.0, 2 * t.sf(np.abs(sizes) / error, table.inner_freedom) * max(1, len(wanted))), 1.0)
    mean = float(beta[0])
    effects = tuple(_effect(table, c, size, reach, chance, mean) for c, size, reach, chance in zip(wanted, sizes, half, chances, strict=True))
    return Fit(effects, table.inner, 0, mean, True)


def half_width(freedom: int, unit: np.ndarray, looks: int) -> np.ndarray:
    """By how many standard errors an interval reaches on each side, for each contrast: Student's t at the first look, the confidence sequence afterwards."""
    if freedom <= 0:
        return np.full(len(unit), np.inf)
    if looks <= 1:
        from scipy.stats import t

        return np.full(len(unit), float(t.ppf(1 - LEVEL / 2, freedom)))
    information = 1.0 / np.where(np.isfinite(unit), unit, np.inf)
    share = MIXTURE / (MIXTURE + information)
    reach = (1.0 / (LEVEL * np.sqrt(share))) ** (2.0 / (freedom + 1))
    with np.errstate(divide="ignore", invalid="ignore"):
        square = freedom * (reach - 1.0) / (1.0 - reach * share)
    return np.where(reach * share < 1.0, np.sqrt(np.maximum(square, 0.0)), np.inf)


def _chances(matrix: np.ndarray, outcome: np.ndarray, wanted: Sequence[Contrast], unit: np.ndarray, freedom: int, seed: int, permuted: int) -> np.ndarray:
    """For each contrast how often the largest |t| of all of them is as large when outcomes are dealt to the prompts by chance."""
    random = np.random.default_rng(seed)
    dealt = np.column_stack([outcome, *(random.permutation(outcome) for _ in range(permuted))])
    beta = np.linalg.pinv(matrix) @ dealt
    scatter = np.sqrt(np.maximum(((dealt - matrix @ beta) ** 2).sum(axis=0) / freedom, 1e-24))
    weights = np.array([contrast.weights for contrast in wanted])
    told = np.isfinite(unit)
    if not told.any():
        return np.ones(len(wanted))
    t = np.abs(weights[told] @ beta) / (np.sqrt(unit[told])[:, None] * scatter)
    largest = t[:, 1:].max(axis=0)
    found = np.ones(len(wanted))
    found[told] = ((largest[None, :] >= t[:, :1] - 1e-9).sum(axis=1) + 1) / (permuted + 1)
    return found


def _effect(table: Table, contrast: Contrast, size: float, half: float, chance: float, mean: float) -> Effect:
    factors = table.factors
    levels = factors.levels[contrast.axis]
    own = factors.rows[:, contrast.axis] == contrast.level
    against = levels[0] if len(levels) == 2 else ""
    share = (len(levels) - 1) / len(levels)
    return Effect(
        factors.names[contrast.axis], levels[contrast.level], against, float(size), float(size - half), float(size + half), float(chance), mean + float(size) * share,
        int(own.sum()), int(table.refused[own].sum()),
    )  # fmt: skip


class AtLarge(NamedTuple):
    """An effect for judges at large: its mean over judges, and an interval over them."""

    axis: str
    choice: str
    size: float
    low: float
    high: float


def at_large(tables: Sequence[Table]) -> list[AtLarge]:
    """Effects over judges, from the table of each: nothing below five of them, or where they did not judge the same prompts."""
    if len(tables) < LEAST_JUDGES or len({t.prompts for t in tables}) > 1:
        return []
    from scipy.stats import t

    wanted = contrasts(tables[0].factors)
    unit = variances(coded(tables[0].factors), wanted)
    inverse = np.linalg.pinv(coded(tables[0].factors))
    found = []
    for contrast, variance in zip(wanted, unit, strict=True):
        if np.isfinite(variance):
            sizes = np.array([contrast.weights @ (inverse @ one.outcome) for one in tables])
            half = float(t.ppf(1 - LEVEL / 2, len(sizes) - 1) * sizes.std(ddof=1) / np.sqrt(len(sizes)))
            factors = tables[0].factors
            found.append(AtLarge(factors.names[contrast.axis], factors.levels[contrast.axis][contrast.level], float(sizes.mean()), float(sizes.mean()) - half, float(sizes.mean()) + half))
    return found


class Price(NamedTuple):
    """Money for one that is kept: of all takes with a choice. `most` is infinite where it can't be bounded; where none was kept, `size` is "at least"."""

    axis: str
    choice: str
    size: float
    low: float
    most: float
    kept: int
    takes: int


def prices(table: Table, costs: np.ndarray, level: float = LEVEL) -> list[Price]:
    """Money for one kept, for each choice: `table` has the share kept of each prompt, `costs` the mean cost of its takes. The interval is that of the share
    kept over prompts, turned round."""
    from scipy.stats import beta

    found = []
    for axis, levels in enumerate(table.factors.levels):
        for number, choice in enumerate(levels):
            own = table.factors.rows[:, axis] == number
            takes = int(table.draws[own].sum())
            kept = float((table.outcome[own] * table.draws[own]).sum())
            cost = float((costs[own] * table.draws[own]).sum() / takes)
            high = float(beta.ppf(1 - level / 2, kept + 1, max(takes - kept, 1e-9))) if kept < takes else 1.0
            low = float(beta.ppf(level / 2, kept, takes - kept + 1)) if kept > 0 else 0.0
            found.append(Price(table.factors.names[axis], choice, cost * takes / kept if kept else cost / high, cost / high, cost / low if low > 0 else float("inf"), round(kept), takes))
    return found


class Pairing(NamedTuple):
    """Two choices of one axis on prompts that are otherwise the same: the mean difference (second less first) with its interval, over so many prompts."""

    first: str
    second: str
    size: float
    low: float
    high: float
    prompts: int


def paired(table: Table, axis: str) -> list[Pairing]:
    """Each two choices of an axis, on the prompts that both share; an interval takes two of them at least."""
    from itertools import combinations

    from scipy.stats import t

    if axis not in table.factors.names:
        return []
    at = table.factors.names.index(axis)
    by_rest: dict[tuple[int, ...], dict[int, float]] = {}
    for row, value in zip(table.factors.rows.tolist(), table.outcome, strict=True):
        by_rest.setdefault((*row[:at], *row[at + 1 :]), {})[row[at]] = float(value)
    found = []
    for a, b in combinations(range(len(table.factors.levels[at])), 2):
        apart = np.array([one[b] - one[a] for one in by_rest.values() if a in one and b in one])
        if len(apart) > 1:
            half = float(t.ppf(1 - LEVEL / 2, len(apart) - 1) * apart.std(ddof=1) / np.sqrt(len(apart)))
            found.append(Pairing(table.factors.levels[at][a], table.factors.levels[at][b], float(apart.mean()), float(apart.mean()) - half, float(apart.mean()) + half, len(apart)))
    return found
