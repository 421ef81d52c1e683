"""Maximum entropy: weights of features by label, with a normal prior, found by L-BFGS
(scipy.optimize).
"""

from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np
from scipy.optimize import minimize
from scipy.sparse import csr_matrix

Row = Sequence[str]


def fit(
    rows: Sequence[Row],
    targets: Sequence[Mapping[str, float]],
    labels: Sequence[str],
    least: int = 2,
    prior: float = 1.0,
    rounds: int = 80,
) -> dict[str, np.ndarray]:
    """Weights (feature → a vector over `labels`) that make the targets most likely. `rows`:
    features of each case; `targets`: how much of a case each label has; features met fewer than
    `least` times are left out; `prior`: how strongly weights are held to nothing.
    """
    counts = Counter(feature for row in rows for feature in set(row))
    names = [feature for feature, number in counts.items() if number >= least]
    number = {feature: i for i, feature in enumerate(names)}
    cells = [sorted(number[f] for f in row if f in number) for row in rows]
    lengths = np.fromiter((len(c) for c in cells), dtype=np.int64, count=len(cells))
    starts = np.concatenate([[0], np.cumsum(lengths)])
    x = csr_matrix(
        (
            np.ones(starts[-1], dtype=np.float32),
            np.fromiter((i for c in cells for i in c), dtype=np.int32, count=starts[-1]),
            starts,
        ),
        shape=(len(rows), len(names)),
    )
    x.sum_duplicates()
    xt = x.T.tocsr()
    y = np.zeros((len(rows), len(labels)), dtype=np.float32)
    at = {label: i for i, label in enumerate(labels)}
    for i, target in enumerate(targets):
        for label, share in target.items():
            y[i, at[label]] = share
    mass = y.sum(1, keepdims=True)

    def loss(flat: np.ndarray) -> tuple[float, np.ndarray]:
        w = flat.reshape(len(names), len(labels)).astype(np.float32)
        z = x @ w
        z -= z.max(1, keepdims=True)
        e = np.exp(z)
        total = e.sum(1, keepdims=True)
        value = float(
            (mass[:, 0] * np.log(total[:, 0])).sum() - (y * z).sum()
        ) + 0.5 * prior * float((w * w).sum())
        gradient = xt @ (e * (mass / total) - y) + prior * w
        return value, gradient.ravel().astype(np.float64)

    found = minimize(
        loss,
        np.zeros(len(names) * len(labels)),
        jac=True,
        method="L-BFGS-B",
        options={"maxiter": rounds, "maxcor": 6},
    )
    w = found.x.reshape(len(names), len(labels)).astype(np.float32)
    return {feature: w[i] for i, feature in enumerate(names)}


def fit_choices(
    groups: Sequence[Sequence[Row]],
    right: Sequence[int],
    least: int = 2,
    prior: float = 1.0,
    rounds: int = 120,
) -> dict[str, list[float]]:
    """Weights (feature → one number) that make the right choice of each group the likeliest of it
    (a conditional logit: McFadden 1974). `groups`: the features of each choice; `right`: which one
    is right, by group; features met in fewer than `least` choices are left out.
    """
    counts = Counter(feature for group in groups for row in group for feature in set(row))
    number = {
        feature: i
        for i, feature in enumerate(feature for feature, many in counts.items() if many >= least)
    }
    rows = [sorted({number[f] for f in row if f in number}) for group in groups for row in group]
    sizes = np.array([len(group) for group in groups])
    begins = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    x = csr_matrix(
        (
            np.ones(sum(map(len, rows)), dtype=np.float32),
            np.concatenate([np.array(row, dtype=np.int32) for row in rows]),
            np.concatenate([[0], np.cumsum([len(row) for row in rows])]),
        ),
        shape=(len(rows), len(number)),
    )
    xt = x.T.tocsr()
    chosen = begins + np.array(right)
    target = np.zeros(len(rows), dtype=np.float32)
    target[chosen] = 1

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = (x @ w.astype(np.float32)).astype(np.float64)
        top = np.repeat(np.maximum.reduceat(z, begins), sizes)
        e = np.exp(z - top)
        total = np.add.reduceat(e, begins)
        value = float(np.log(total).sum() + (top[chosen] - z[chosen]).sum()) + 0.5 * prior * float(
            w @ w
        )
        return value, xt @ (e / np.repeat(total, sizes) - target) + prior * w

    found = minimize(
        loss,
        np.zeros(len(number)),
        jac=True,
        method="L-BFGS-B",
        options={"maxiter": rounds, "maxcor": 6},
    )
    return {feature: [float(found.x[i])] for feature, i in number.items()}
