"""What each choice did: the difference of the mean outcome between a choice and the others of its
axis, over prompts, with an interval.

The estimand is that difference for these judges, averaged over the prompts of the design: judges
are averaged, then draws, and a linear model of main effects and of the judges' levels is fitted to
one number per prompt; what several judges said of one picture tells their levels as well
(`observed.Stratum`). Its 95 % interval is Student's t over prompts, and speaks of one choice at one
look.

A claim takes more. Which choices did anything is decided by a permutation test of the largest |t|
of all choices (P. H. Westfall and S. S. Young, Resampling-based multiple testing, 1993; residuals
of the model without choices are dealt, as in D. Freedman and D. Lane, A nonstochastic
interpretation of reported significance levels, Journal of Business & Economic Statistics 1, 1983).
All looks at a family share one error budget: the k-th may spend LEVEL / (k (k + 1)), which sums to
LEVEL over all of them.
"""

from collections.abc import Sequence
from itertools import combinations
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.layout import Contrast, coded, columns, contrasts, sum_of, told_apart
from syntagma.core.judging.observed import Stratum, Table, sum_to_zero

LEVEL = 0.05
PERMUTED = 4000
SHARE_OF_JOINT = (
    0.2  # of a look's budget, for what two axes do together, where the design can tell that
)
LEAST_FREEDOM = 4  # that must be left beside a joint effect for it to be tested
PRIOR_FREEDOM = (
    3  # by which the scatter of few comparisons of judges is drawn towards that of prompts
)
LEAST_PROMPTS = 6  # below which nothing is claimed
LEAST_LEFT = 2  # degrees of freedom below which nothing is claimed
FLAT = 1e-10


class Effect(NamedTuple):
    """What a choice did against the others of its axis. `low` and `high` bound it (infinite if it
    can't be determined); `chance` is how often so much would come about by chance, on any of the
    axes; `mean` is the adjusted mean of its prompts, `prompts` and `refused` how many it had;
    `told`: the data carries the claim, all axes and all looks considered.
    """

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
    told: bool = False

    @property
    def clear(self) -> bool:
        """Does the interval lie clear of zero?"""
        return bool(self.low > 0 or self.high < 0)


class Joint(NamedTuple):
    """What two axes do together, beyond what each does: how often so much would come about by
    chance (on any pair of axes), and whether that is a claim.
    """

    first: str
    second: str
    chance: float
    told: bool


class Level(NamedTuple):
    """How far above or below the mean of all judges one judge rates, and the standard error of
    that.
    """

    judge: str
    size: float
    error: float


class EffectsFit(NamedTuple):
    """A fit: the effects, the scatter of prompts round it (standard deviation), its degrees of
    freedom, the mean of all, the judges' levels, what axes do together. `alone`: there are as many
    effects to estimate as prompts, so nothing can be said of other prompts: `own` bounds each
    effect for these very prompts, over draws. `spends` is the chance up to which this look makes a
    claim of one choice.
    """

    effects: tuple[Effect, ...]
    scatter: float
    freedom: float
    mean: float
    prompts: int
    alone: bool = False
    levels: tuple[Level, ...] = ()
    joints: tuple[Joint, ...] = ()
    spends: float = LEVEL
    own: tuple[tuple[float, float], ...] = ()

    @property
    def few(self) -> bool:
        """Are there too few prompts to claim anything?"""
        return self.prompts < LEAST_PROMPTS or self.freedom < LEAST_LEFT

    @property
    def flat(self) -> bool:
        """Does nothing scatter at all: is every outcome just what the choices make it?"""
        return bool(self.freedom > 0 and self.scatter < FLAT)


def budget(look: int) -> float:
    """What the how-manieth look may spend of the error budget."""
    return LEVEL / (look * (look + 1))


def fit(table: Table, look: int = 1, seed: int = 1, permuted: int = PERMUTED) -> EffectsFit:
    """Estimate all effects of a table; `look`: the how-manieth look at the family this is."""
    wanted = contrasts(table.factors)
    matrix = coded(table.factors)
    solved = _Solved(matrix, table.outcome, table.shares, table.strata)
    if solved.freedom < 0.5 and solved.rank > 1 and table.inner_freedom > 0:
        return _of_draws(table, wanted, matrix)
    weights = np.array([c.weights for c in wanted]).reshape(len(wanted), matrix.shape[1])
    sizes = weights @ solved.beta[: matrix.shape[1]]
    variance = solved.variances(weights)
    flat = not solved.freedom > 0 or solved.scatter < FLAT
    half = np.full(len(wanted), np.inf)
    told = np.isfinite(variance)
    joints = [] if flat else _joints(table, solved)
    spends = budget(look) * (1 - SHARE_OF_JOINT if joints else 1)
    chances = np.ones(len(wanted))
    if not flat:
        half[told] = reach(solved.freedom) * np.sqrt(variance[told])
        chances = _chances(solved, weights, variance, seed, max(permuted, int(4 / spends)))
    mean = float(solved.beta[0]) if len(table.outcome) else float("nan")
    effects = tuple(
        effect_of(table, c, size, up_to, chance, mean)
        for c, size, up_to, chance in zip(wanted, sizes, half, chances, strict=True)
    )
    pairs = tuple(
        Joint(a, b, chance, chance <= budget(look) * SHARE_OF_JOINT) for a, b, chance in joints
    )
    return claimed(
        EffectsFit(
            effects,
            solved.scatter,
            solved.freedom,
            mean,
            len(table.outcome),
            False,
            _levels(table, solved, matrix.shape[1]),
            pairs,
            spends,
        )
    )


def too_few(table: Table) -> bool:
    """Are there too few prompts to claim anything, whatever they came to?"""
    matrix = coded(table.factors)
    return (
        len(matrix) < LEAST_PROMPTS
        or len(matrix) - int(np.linalg.matrix_rank(matrix, tol=1e-8)) < LEAST_LEFT
    )


def claimed(found: EffectsFit) -> EffectsFit:
    """The fit with what it claims: what comes about by chance seldom enough, with an interval clear
    of zero, out of prompts enough.
    """
    if found.few:
        return found._replace(joints=tuple(one._replace(told=False) for one in found.joints))
    return found._replace(
        effects=tuple(e._replace(told=e.chance <= found.spends and e.clear) for e in found.effects)
    )


def reach(freedom: float) -> float:
    """By how many standard errors an interval reaches on each side (Student's t)."""
    if not freedom > 0:
        return float("inf")
    from scipy.stats import t

    return float(t.ppf(1 - LEVEL / 2, freedom))


class _Solved:
    """The least squares of prompts, choices and judges' levels. What the strata say of the levels
    is weighed by how far they scatter, next to prompts.
    """

    def __init__(
        self, matrix: np.ndarray, outcome: np.ndarray, shares: np.ndarray, strata: Sequence[Stratum]
    ):
        self.mains, self.outcome = matrix.shape[1], outcome
        if shares.size and not np.abs(shares).max() > 1e-12 and len(outcome):
            strata = ()  # everybody saw everything: levels have no part in the effects
        self.matrix = (
            np.hstack([matrix, shares.reshape(len(outcome), -1)]) if len(outcome) else matrix
        )
        self.strata = [
            one for one in strata if one.information.size and np.abs(one.information).max() > 1e-12
        ]
        self.rank = int(np.linalg.matrix_rank(matrix, tol=1e-8)) if len(outcome) else 0
        self.square = float(outcome.var()) if len(outcome) else 0.0
        for _ in range(30 if self.strata else 1):
            before = self.square
            self._once()
            if abs(self.square - before) <= 1e-9 * max(before, FLAT):
                break
        self.scatter = float(np.sqrt(self.square)) if self.freedom > 0 else float("nan")

    def _once(self) -> None:
        """Solve with the scatter as it is known, and find it again. Everything is in units of the
        variance of a prompt.
        """
        z = self.matrix
        moment, toward = z.T @ z, z.T @ self.outcome
        for stratum in self.strata:
            own = (stratum.residual + PRIOR_FREEDOM * self.square) / (
                max(0, stratum.left) + PRIOR_FREEDOM
            )
            times = self.square / own if own > FLAT and self.square > FLAT else 1.0
            moment[self.mains :, self.mains :] += times * stratum.information
            toward[self.mains :] += times * stratum.toward
        self.moment = moment
        self.inverse = np.linalg.pinv(moment, hermitian=True)
        self.beta = self.inverse @ toward
        self.of_prompts = self.inverse @ z.T  # what outcomes alone bring to the numbers
        residual = self.outcome - z @ self.beta
        free = (
            len(self.outcome) - float(np.einsum("ij,ji->", z, self.of_prompts))
            if len(self.outcome)
            else 0.0
        )
        self.freedom = free if free > 1e-6 else 0.0
        self.square = float(residual @ residual) / self.freedom if self.freedom else 0.0

    def variances(self, weights: np.ndarray) -> np.ndarray:
        """The variance of each contrast; infinite if it can't be determined."""
        wide = np.hstack([weights, np.zeros((len(weights), self.matrix.shape[1] - self.mains))])
        return np.where(
            told_apart(self.moment, self.inverse, wide),
            sum_of(wide, self.inverse) * self.square,
            np.inf,
        )


def _chances(
    solved: _Solved, weights: np.ndarray, variance: np.ndarray, seed: int, permuted: int
) -> np.ndarray:
    """For each contrast how often the largest |t| of all of them is as large when what the judges'
    levels do not explain is dealt to the prompts by chance.
    """
    told = np.isfinite(variance)
    found = np.ones(len(weights))
    if not told.any():
        return found
    alone = _Solved(
        solved.matrix[:, :1], solved.outcome, solved.matrix[:, solved.mains :], solved.strata
    )
    left = solved.outcome - alone.matrix @ alone.beta
    random, share = np.random.default_rng(seed), solved.matrix @ solved.of_prompts
    aims = weights[told] @ solved.of_prompts[: solved.mains]
    unit = np.sqrt(variance[told] / solved.square)
    own = np.abs(weights[told] @ solved.beta[: solved.mains]) / np.sqrt(variance[told])
    as_large = np.zeros(len(own))
    for begin in range(0, permuted, PERMUTED):
        count = min(PERMUTED, permuted - begin)
        dealt = random.permuted(np.tile(left, (count, 1)), axis=1).T
        scatter = np.sqrt(
            np.maximum(((dealt - share @ dealt) ** 2).sum(axis=0) / solved.freedom, FLAT**2)
        )
        largest = (np.abs(aims @ dealt) / (unit[:, None] * scatter)).max(axis=0)
        as_large += (largest[None, :] >= own[:, None] - 1e-9).sum(axis=1)
    found[told] = (as_large + 1) / (permuted + 1)
    return found


def _joints(table: Table, solved: _Solved) -> list[tuple[str, str, float]]:
    """For each pair of axes whose joint effect the design can tell: how often so much would come
    about by chance on any of them (F test, corrected for their number by C. E. Bonferroni's
    inequality).
    """
    from scipy.stats import f

    matrix, own, names = (
        solved.matrix[:, : solved.mains],
        columns(table.factors),
        table.factors.names,
    )
    found: list[tuple[str, str, float]] = []
    for a, b in combinations(range(len(names)), 2):
        product = (matrix[:, own[a]][:, :, None] * matrix[:, own[b]][:, None, :]).reshape(
            len(matrix), -1
        )
        wide = _Solved(np.hstack([matrix, product]), table.outcome, table.shares, table.strata)
        gained = wide.rank - solved.rank
        if gained == product.shape[1] and wide.freedom >= LEAST_FREEDOM and wide.square > FLAT:
            explained = solved.square * solved.freedom - wide.square * wide.freedom
            found.append(
                (
                    names[a],
                    names[b],
                    float(f.sf(max(0.0, explained) / gained / wide.square, gained, wide.freedom)),
                )
            )
    return [(a, b, min(1.0, chance * len(found))) for a, b, chance in found]


def _levels(table: Table, solved: _Solved, mains: int) -> tuple[Level, ...]:
    """Each judge's level, out of all that is known of it."""
    if len(table.judges) < 2:
        return ()
    codes = sum_to_zero(len(table.judges))
    level, inverse, square = solved.beta[mains:], solved.inverse[mains:, mains:], solved.square
    if (
        not solved.strata and table.strata
    ):  # everybody saw everything: levels are what the comparisons within pictures say
        stratum = next((one for one in table.strata if one.freedom), table.strata[0])
        inverse = np.linalg.pinv(stratum.information)
        level, square = (
            inverse @ stratum.toward,
            (stratum.residual / stratum.left if stratum.left > 0 else float("nan")),
        )
    errors = np.sqrt(np.maximum(sum_of(codes, inverse) * square, 0.0))
    return tuple(
        Level(name, float(size), float(error))
        for name, size, error in zip(table.judges, codes @ level, errors, strict=True)
    )


def level_out(table: Table, levels: Sequence[Level]) -> np.ndarray:
    """The outcome of each prompt as it would be if all judges had seen all of it."""
    return (
        table.outcome - table.shares @ np.array([one.size for one in levels[:-1]])
        if levels
        else table.outcome
    )


def _of_draws(table: Table, wanted: Sequence[Contrast], matrix: np.ndarray) -> EffectsFit:
    """Where nothing is left for the scatter of prompts: there is no interval, since nobody knows
    what another prompt with the same choice would do; how these very prompts differ is bounded over
    draws.
    """
    inverse = np.linalg.pinv(matrix)
    beta = inverse @ table.outcome
    weights = np.array([c.weights for c in wanted])
    told = told_apart(matrix.T @ matrix, np.linalg.pinv(matrix.T @ matrix), weights)
    error = table.inner * np.sqrt(((weights @ inverse) ** 2 / table.draws[None, :]).sum(axis=1))
    half = np.where(told & (error > 0), reach(table.inner_freedom) * error, np.inf)
    mean = float(beta[0])
    sizes = weights @ beta
    effects = tuple(
        effect_of(table, c, size, float("inf"), 1.0, mean)
        for c, size in zip(wanted, sizes, strict=True)
    )
    return EffectsFit(
        effects,
        table.inner,
        0,
        mean,
        len(table.outcome),
        True,
        own=tuple(zip((sizes - half).tolist(), (sizes + half).tolist(), strict=True)),
    )


def effect_of(
    table: Table, contrast: Contrast, size: float, half: float, chance: float, mean: float
) -> Effect:
    """A contrast as an effect, with what the table says of its choice."""
    factors = table.factors
    levels = factors.levels[contrast.axis]
    own = factors.rows[:, contrast.axis] == contrast.level
    against = levels[0] if len(levels) == 2 else ""
    share = (len(levels) - 1) / len(levels)
    return Effect(
        factors.names[contrast.axis],
        levels[contrast.level],
        against,
        float(size),
        float(size - half),
        float(size + half),
        float(chance),
        mean + float(size) * share,
        int(own.sum()),
        int(table.refused[own].sum()),
    )


class Pairing(NamedTuple):
    """Two choices of one axis on prompts that are otherwise the same: the mean difference (second
    less first) with its interval, over so many prompts.
    """

    first: str
    second: str
    size: float
    low: float
    high: float
    prompts: int


def paired(table: Table, axis: str) -> list[Pairing]:
    """Each two choices of an axis, on the prompts that both share; an interval takes two of them at
    least.
    """
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
            half = reach(len(apart) - 1) * float(apart.std(ddof=1)) / np.sqrt(len(apart))
            found.append(
                Pairing(
                    table.factors.levels[at][a],
                    table.factors.levels[at][b],
                    float(apart.mean()),
                    float(apart.mean()) - half,
                    float(apart.mean()) + half,
                    len(apart),
                )
            )
    return found
