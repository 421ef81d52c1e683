"""Pairs, judged by simulation: python -m benchmarks.pairs [RUNS].

Twenty-four things with strengths drawn at a spread (standard deviation) of 1, 2, 3 and 5 logits; a
third of all pairs is asked, RUNS (120) times each. Our way of choosing pairs goes with three known
ones: by chance, in rounds against the neighbour in the ranking, and the pair whose outcome is least
certain. All are fitted in the same way. Told are Kendall's tau with the truth, and the regret of
the top three (the mean strength of the true three best less that of the three found).
"""

import sys
from random import Random

import numpy as np

from syntagma.core.judging.pairs import PairAnswer, next_pair, strengths

THINGS = 24
SPREADS = (1.0, 2.0, 3.0, 5.0)


def by_chance(answers, random, state):
    return random.sample(range(THINGS), 2)


def in_rounds(answers, random, state):
    """Each round: everything against its neighbour in the ranking so far, neighbours that met
    already passed over.
    """
    if not state:
        values = strengths(THINGS, answers).values + np.array(
            [random.random() * 1e-3 for _ in range(THINGS)]
        )
        order, met = list(np.argsort(-values)), {frozenset((a.first, a.second)) for a in answers}
        while len(order) > 1:
            one = order.pop(0)
            other = next((o for o in order if frozenset((one, o)) not in met), order[0])
            order.remove(other)
            state.append((one, other))
    return state.pop(0)


def least_certain(answers, random, state):
    if len(answers) < THINGS:
        return len(answers), (len(answers) + 1) % THINGS
    values = strengths(THINGS, answers).values
    met: dict[frozenset, int] = {}
    for a in answers:
        key = frozenset((a.first, a.second))
        met[key] = met.get(key, 0) + 1
    pairs = [
        (met.get(frozenset((i, j)), 0), abs(values[i] - values[j]), i, j)
        for i in range(THINGS)
        for j in range(i)
    ]
    return (
        min(pairs)[2:]
        if random.random() < 0.02
        else min(pairs, key=lambda p: p[1] + 0.6 * p[0])[2:]
    )


def ours(answers, random, state):
    return next_pair(THINGS, answers, seed=state[0] if state else 1)


def tau(a: np.ndarray, b: np.ndarray) -> float:
    i, j = np.triu_indices(len(a), 1)
    return float(np.mean(np.sign(a[i] - a[j]) * np.sign(b[i] - b[j])))


def run(way, spread: float, seed: int) -> tuple[float, float]:
    random, noise = Random(seed), np.random.default_rng(seed)
    true = noise.normal(0, spread, THINGS)
    answers: list[PairAnswer] = []
    state: list = [seed] if way is ours else []
    for _ in range(THINGS * (THINGS - 1) // 2 // 3):
        i, j = (int(one) for one in way(answers, random, state))
        won = float(noise.random() < 1 / (1 + np.exp(true[j] - true[i])))
        answers.append(PairAnswer(i, j, won))
    found = strengths(THINGS, answers).values
    best = np.sort(true)[-3:].mean() - true[np.argsort(found)[-3:]].mean()
    return tau(true, found), float(best)


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 120
    ways = (
        ("ours", ours),
        ("by chance", by_chance),
        ("in rounds", in_rounds),
        ("least certain", least_certain),
    )
    print(f"{'spread':8} {'':14} {'tau':>16} {'regret of the top three':>26}")
    for spread in SPREADS:
        for name, way in ways:
            found = np.array([run(way, spread, 1000 + seed) for seed in range(runs)])
            mean, error = found.mean(axis=0), found.std(axis=0) / np.sqrt(runs)
            print(
                f"{spread:<8g} {name:14} {mean[0]:8.3f} ± {error[0]:.3f} {mean[1]:18.3f} ±"
                f" {error[1]:.3f}",
                flush=True,
            )


if __name__ == "__main__":
    main()
