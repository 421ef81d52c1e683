"""Money for one that is kept, for each choice, with an interval over prompts.

Source: E. L. Korn and B. I. Graubard, Confidence intervals for proportions with small expected number of positive counts estimated from survey data, Survey
Methodology 24 (1998): the exact interval of C. J. Clopper and E. S. Pearson, with as many takes as they are worth when those of one prompt are alike.
"""

from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import LEVEL
from syntagma.core.judging.observed import Table


class PricePerKept(NamedTuple):
    """Money for one that is kept: of all takes with a choice, `prompts` of them. `most` is infinite if it can't be bounded; if none was kept, `size` is
    "at least"."""

    axis: str
    choice: str
    size: float
    low: float
    most: float
    kept: float
    takes: int
    prompts: int


def prices(table: Table, costs: np.ndarray) -> list[PricePerKept]:
    """Money for one kept, for each choice: `table` has the share kept of each prompt, `costs` (prompts long) the mean cost of its takes."""
    found = []
    for axis, levels in enumerate(table.factors.levels):
        for number, choice in enumerate(levels):
            own = table.factors.rows[:, axis] == number
            takes, shares = table.draws[own], table.outcome[own]
            cost, kept = float((costs[own] * takes).sum() / takes.sum()), float((shares * takes).sum())
            low, high = share_between(shares, takes)
            size = cost * float(takes.sum()) / kept if kept else cost / high
            found.append(PricePerKept(table.factors.names[axis], choice, size, cost / high, cost / low if low > 0 else float("inf"), kept, int(takes.sum()), int(own.sum())))
    return found


def share_between(shares: np.ndarray, takes: np.ndarray) -> tuple[float, float]:
    """Bounds of a share (95 %) that was found as `shares` of so many `takes`, one number per prompt: prompts are the sample."""
    from scipy.stats import beta, t

    prompts, total = len(shares), float(takes.sum())
    share = float((shares * takes).sum() / total)
    worth = float(prompts)  # if all are alike: each prompt is one
    if prompts > 1 and 0 < share < 1:
        spread = prompts / (prompts - 1) * float(((takes * (shares - share)) ** 2).sum()) / total**2
        worth = min(total, share * (1 - share) / spread) if spread > 0 else total
        if total > prompts:
            worth = max(1.0, worth * float(t.ppf(1 - LEVEL / 2, total - 1) / t.ppf(1 - LEVEL / 2, prompts - 1)) ** 2)
    kept = share * worth
    low = float(beta.ppf(LEVEL / 2, kept, worth - kept + 1)) if kept > 0 else 0.0
    high = float(beta.ppf(1 - LEVEL / 2, kept + 1, worth - kept)) if worth - kept > 1e-9 else 1.0
    return low, high
