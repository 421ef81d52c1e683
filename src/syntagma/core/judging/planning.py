"""What judging is worth: money for one that is kept, the value of more data, and the prompts that
would show most next.
"""

from collections.abc import Callable, Sequence
from itertools import product
from math import prod
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import LEVEL, EffectsFit, reach
from syntagma.core.judging.layout import coded, contrasts, variances
from syntagma.core.judging.observed import Factors, Table

# ──── Money for one that is kept, for each choice, with an interval over prompts.
#
# Source: E. L. Korn and B. I. Graubard, Confidence intervals for proportions with small expected
# number of positive counts estimated from survey data, Survey
# Methodology 24 (1998): the exact interval of C. J. Clopper and E. S. Pearson, with as many takes
# as they are worth when those of one prompt are alike.


class PricePerKept(NamedTuple):
    """Money for one that is kept: of all takes with a choice, `prompts` of them. `most` is infinite
    if it can't be bounded; if none was kept, `size` is "at least".
    """

    axis: str
    choice: str
    size: float
    low: float
    most: float
    kept: float
    takes: int
    prompts: int


def prices(table: Table, costs: np.ndarray) -> list[PricePerKept]:
    """Money for one kept, for each choice: `table` has the share kept of each prompt, `costs`
    (prompts long) the mean cost of its takes.
    """
    found = []
    for axis, levels in enumerate(table.factors.levels):
        for number, choice in enumerate(levels):
            own = table.factors.rows[:, axis] == number
            takes, shares = table.draws[own], table.outcome[own]
            cost, kept = (
                float((costs[own] * takes).sum() / takes.sum()),
                float((shares * takes).sum()),
            )
            low, high = share_between(shares, takes)
            size = cost * float(takes.sum()) / kept if kept else cost / high
            found.append(
                PricePerKept(
                    table.factors.names[axis],
                    choice,
                    size,
                    cost / high,
                    cost / low if low > 0 else float("inf"),
                    kept,
                    int(takes.sum()),
                    int(own.sum()),
                )
            )
    return found


def share_between(shares: np.ndarray, takes: np.ndarray) -> tuple[float, float]:
    """Bounds of a share (95 %) that was found as `shares` of so many `takes`, one number per
    prompt: prompts are the sample.
    """
    from scipy.stats import beta, t

    prompts, total = len(shares), float(takes.sum())
    share = float((shares * takes).sum() / total)
    worth = float(prompts)  # if all are alike: each prompt is one
    if prompts > 1 and 0 < share < 1:
        spread = prompts / (prompts - 1) * float(((takes * (shares - share)) ** 2).sum()) / total**2
        worth = min(total, share * (1 - share) / spread) if spread > 0 else total
        if total > prompts:
            worth = max(
                1.0,
                worth
                * float(t.ppf(1 - LEVEL / 2, total - 1) / t.ppf(1 - LEVEL / 2, prompts - 1)) ** 2,
            )
    kept = share * worth
    low = float(beta.ppf(LEVEL / 2, kept, worth - kept + 1)) if kept > 0 else 0.0
    high = float(beta.ppf(1 - LEVEL / 2, kept + 1, worth - kept)) if worth - kept > 1e-9 else 1.0
    return low, high


# ──── Before anything is paid: how wide the intervals of a design will be, how many more would
# narrow them, and which prompts would tell most.


SCATTER = 1.0  # how far prompts of one choice are taken to scatter, in ratings, if nothing is known
DRAWN = 0.7  # and draws of one prompt
CANDIDATES = 6000  # combinations that are looked at for the next prompts
RIDGE = 1e-6


class Width(NamedTuple):
    """How far an interval will reach to each side, for an axis: the widest of its choices; infinite
    where the design can't tell it.
    """

    axis: str
    half: float


def widths(
    factors: Factors, draws: int, scatter: float = SCATTER, drawn: float = DRAWN
) -> list[Width]:
    """What intervals to expect of a design with `draws` results per prompt."""
    wanted = contrasts(factors)
    matrix = coded(factors)
    freedom = len(matrix) - int(np.linalg.matrix_rank(matrix, tol=1e-8))
    unit = variances(matrix, wanted)
    sigma = float(np.sqrt(scatter**2 + drawn**2 / max(1, draws)))
    half = reach(freedom) * sigma * np.sqrt(unit)
    return [
        Width(
            name,
            max(
                (float(half[i]) for i, c in enumerate(wanted) if c.axis == axis),
                default=float("inf"),
            ),
        )
        for axis, name in enumerate(factors.names)
    ]


def narrowed(factors: Factors, found: EffectsFit, rows: Sequence[Sequence[int]]) -> float:
    """To how much on each side these prompts more would narrow the widest interval, if they scatter
    as those that are there do.
    """
    if not found.scatter > 0 or found.alone or not rows:
        return float("inf")
    matrix = coded(factors._replace(rows=np.vstack([factors.rows, np.array(rows, dtype=int)])))
    unit = variances(matrix, contrasts(factors))
    told = np.isfinite(unit)
    if not told.any():
        return float("inf")
    return float(reach(found.freedom + len(rows)) * found.scatter * np.sqrt(unit[told].max()))


def next_rows(
    factors: Factors,
    count: int,
    allowed: Callable[[Sequence[int]], bool] = lambda _: True,
    weights: Sequence[float] | None = None,
    seed: int = 1,
) -> list[tuple[int, ...]]:
    """The `count` combinations (a level number for each axis) that, beside the prompts that are
    there, tell most about the effects: each in turn the one that lowers the weighted sum of their
    variances most. `weights`: one for each contrast, in the order of `contrasts`. What is there
    comes again only when nothing else is left.
    """
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
        gain = (share[:, None] * (aims @ spread.T) ** 2).sum(axis=0) / (
            1.0 + (spread * rows).sum(axis=1)
        )
        gain = np.where(fresh, gain, -1.0) if fresh.any() else gain
        at = int(np.argmax(gain))
        x = rows[at]
        step = inverse @ x
        inverse = inverse - np.outer(step, step) / (1.0 + float(x @ step))
        fresh[at] = False
        found.append(possible[at])
    return found


def candidates(
    sizes: Sequence[int],
    allowed: Callable[[Sequence[int]], bool],
    seed: int,
    most: int = CANDIDATES,
) -> list[tuple[int, ...]]:
    """The combinations that are allowed: all of them, or `most` by chance if there are more."""
    if prod(sizes) <= most:
        return [row for row in product(*(range(size) for size in sizes)) if allowed(row)]
    random = np.random.default_rng(seed)
    drawn = random.integers(0, np.array(sizes), size=(most * 2, len(sizes)))
    return list(dict.fromkeys(row for row in map(tuple, drawn.tolist()) if allowed(row)))[:most]
