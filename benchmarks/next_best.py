"""Which prompts to send next in order to find the best combination, by simulation: python -m
benchmarks.next_best [RUNS].

Sixteen of forty-eight combinations are judged, twelve more are sent, and the one that is then
expected to be the best is taken: told is by how many ratings it falls short of the one that is
truly the best. Three ways of choosing the twelve: by chance, `--next` (what tells most of each
choice), `--next --best` (what comes nearest to the best); RUNS (200) families each, without and
with joint effects of choices. Truths and ratings are made here; the program is asked as `effects`
asks it.
"""

import sys
from itertools import combinations, product

import numpy as np

from syntagma.core.judging.effects import fit
from syntagma.core.judging.observed import FamilyPrompt, JudgedTake, table
from syntagma.core.judging.planning import next_rows
from syntagma.core.judging.promising import best_rows, promising_rows

SIZES = (4, 4, 3)
FIRST, MORE = 16, 12
EVERY = list(product(*map(range, SIZES)))


def centred(m: np.ndarray) -> np.ndarray:
    return m - m.mean(axis=0) - m.mean(axis=1)[:, None] + m.mean()


def truth(random: np.random.Generator, joint: float) -> dict[tuple[int, ...], float]:
    own = [random.normal(0, 0.5, size) for size in SIZES]
    pairs = {
        (a, b): centred(random.normal(0, joint, (SIZES[a], SIZES[b])))
        for a, b in combinations(range(3), 2)
    }
    return {
        row: (
            2.6
            + sum(own[a][v] for a, v in enumerate(row))
            + sum(m[row[a], row[b]] for (a, b), m in pairs.items())
            + random.normal(0, 0.15)
        )
        for row in EVERY
    }


def judged(rows, ratings) -> object:
    prompts = {
        str(row): FamilyPrompt(str(row), {str(a): str(v) for a, v in enumerate(row)})
        for row in rows
    }
    return table(
        list(prompts.values()),
        [JudgedTake(str(row), {"one": rating}) for row, rating in zip(rows, ratings, strict=True)],
    )


def told(made, row) -> tuple[int, ...]:
    """A row of the program's levels as one of ours."""
    return tuple(int(levels[v]) for levels, v in zip(made.factors.levels, row, strict=True))


def run(way: str, joint: float, seed: int) -> float:
    random = np.random.default_rng(seed)
    true = truth(random, joint)
    rating = lambda row: float(np.clip(round(true[row] + random.normal(0, 0.6)), 0, 5))  # noqa: E731
    rows = [EVERY[i] for i in random.permutation(len(EVERY))[:FIRST]]
    ratings = [rating(row) for row in rows]
    made = judged(rows, ratings)
    if way == "by chance":
        more = [EVERY[i] for i in random.permutation(len(EVERY)) if EVERY[i] not in rows][:MORE]
    elif way == "--next":
        weights = [1.0 if not e.told else 0.25 for e in fit(made, permuted=200).effects]
        more = [told(made, row) for row in next_rows(made.factors, MORE, weights=weights)]
    else:
        more = [told(made, row) for row in promising_rows(made, MORE)]
    made = judged([*rows, *more], [*ratings, *(rating(row) for row in more)])
    return max(true.values()) - true[told(made, best_rows(made, 1)[0].row)]


def main() -> None:
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    print(
        f"{'ratings short of the best':28} {'without joint effects':>24} {'with joint effects':>24}"
    )
    for way in ("by chance", "--next", "--next --best"):
        found = [np.array([run(way, joint, seed) for seed in range(runs)]) for joint in (0.0, 0.5)]
        print(
            f"{way:28} "
            + " ".join(f"{one.mean():16.2f} ± {one.std() / np.sqrt(runs):.2f}" for one in found),
            flush=True,
        )


if __name__ == "__main__":
    main()
