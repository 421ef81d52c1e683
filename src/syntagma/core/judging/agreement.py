"""How far judges agree, with each other and with themselves.

Source: K. Krippendorff, Content analysis (2004): alpha with the interval metric, for any number of judges and marks that are missing.
"""

from collections.abc import Mapping, Sequence

import numpy as np


def alpha(marks: Sequence[Mapping[str, float]]) -> float:
    """Krippendorff's alpha of marks, a table of judges for each picture: 1 where all agree, 0 where it is as by chance; nan where nothing was judged by two."""
    shared = [list(one.values()) for one in marks if len(one) > 1]
    values = np.array([value for one in shared for value in one])
    if len(values) < 2:
        return float("nan")
    observed = sum(float(((np.array(one)[:, None] - np.array(one)[None, :]) ** 2).sum()) / (len(one) - 1) for one in shared) / len(values)
    expected = float(2 * len(values) * values.var() * len(values)) / (len(values) * (len(values) - 1))
    return 1.0 - observed / expected if expected > 0 else float("nan")


def steadiness(pairs: Sequence[tuple[float, float]], near: float = 0.0) -> float:
    """Of things that somebody judged twice: the share in which both are the same (or within `near`); nan where there are none."""
    return sum(abs(a - b) <= near for a, b in pairs) / len(pairs) if pairs else float("nan")


def between(marks: Sequence[Mapping[str, float]]) -> dict[tuple[str, str], float]:
    """For each two judges with at least three pictures in common how their ranks go together (Spearman)."""
    judges = sorted({judge for one in marks for judge in one})
    found = {}
    for i, a in enumerate(judges):
        for b in judges[i + 1 :]:
            both = [(one[a], one[b]) for one in marks if a in one and b in one]
            if len(both) >= 3:
                x, y = _ranks([p[0] for p in both]), _ranks([p[1] for p in both])
                spread = float(x.std() * y.std())
                found[a, b] = float(((x - x.mean()) * (y - y.mean())).mean() / spread) if spread > 0 else float("nan")
    return found


def _ranks(values: Sequence[float]) -> np.ndarray:
    found = np.array(values, dtype=float)
    return np.array([(found < value).sum() + ((found == value).sum() + 1) / 2 for value in found])
