"""Covers side by side with a general-purpose package (allpairspy), and spreads against random
draws, in one run.

`python benchmarks/designs.py` prints both tables. Rows of a cover, fewer being better; seconds of
processor time, once each.
"""

import time
from itertools import combinations
from random import Random

import numpy as np

from syntagma.core.designs.cover import bound, cover
from syntagma.core.designs.level_rows import Space, impossible
from syntagma.core.designs.spread import evenness, smallest_distance, spread

COVERS = [  # name, levels, strength, clashes, best published as far as known
    ("3^4", [3] * 4, 2, 0, "9"),
    ("3^13", [3] * 13, 2, 0, "15"),
    ("4^15 3^17 2^29", [4] * 15 + [3] * 17 + [2] * 29, 2, 0, "29"),
    ("4^1 3^39 2^35", [4] + [3] * 39 + [2] * 35, 2, 0, "21"),
    ("2^100", [2] * 100, 2, 0, "10"),
    ("10^20", [10] * 20, 2, 0, "about 180"),
    ("12 12 8 6 6 4", [12, 12, 8, 6, 6, 4], 2, 0, "144, the bound"),
    ("8 6 6 5 4, 20 clashes", [8, 6, 6, 5, 4], 2, 20, "48, the bound without"),
    ("5^6, every triple", [5] * 6, 3, 0, "125, the bound"),
    ("3^6, every triple", [3] * 6, 3, 0, "33"),
]
SPREADS = ([5, 6, 7, 8, 9, 5], 24, 50)  # levels, members, draws


def clashes(levels: list[int], number: int) -> tuple[frozenset, ...]:
    """So many forbidden pairs by chance, each on two axes."""
    random, found = Random(5), {}
    while len(found) < number:
        i, j = sorted(random.sample(range(len(levels)), 2))
        found[frozenset({(i, random.randrange(levels[i])), (j, random.randrange(levels[j]))})] = (
            None
        )
    return tuple(found)


def theirs(levels: list[int], strength: int, nogoods: tuple[frozenset, ...]) -> tuple[int, int]:
    """The rows that the package needs, and how many of the tuples that are possible they
    leave out.
    """
    from allpairspy import AllPairs

    def allowed(row: list[int]) -> bool:
        return not any(
            all(axis < len(row) and row[axis] == level for axis, level in nogood)
            for nogood in nogoods
        )

    rows = [
        tuple(row)
        for row in AllPairs([list(range(v)) for v in levels], filter_func=allowed, n=strength)
    ]
    return len(rows), missing(rows, Space(tuple(levels), nogoods), strength)


def missing(rows, space: Space, strength: int) -> int:
    """How many of the tuples that are possible no row holds."""
    groups = list(combinations(range(len(space.levels)), strength))
    held = {(axes, tuple(int(row[a]) for a in axes)) for row in rows for axes in groups}
    every = sum(np.prod([space.levels[a] for a in axes]) for axes in groups)
    never = impossible(space, strength)
    return int(every) - len(never) - len(held - set(never))


def main() -> None:
    print(f"{'axes':<24} {'package':>8} {'s':>6} {'ours':>6} {'s':>6} {'bound':>6}  best published")
    for name, levels, strength, number, best in COVERS:
        nogoods = clashes(levels, number)
        begun = time.process_time()
        package, left = theirs(levels, strength, nogoods) if strength == 2 else ("–", 0)
        middle = time.process_time()
        rows = cover(Space(tuple(levels), nogoods), strength)
        end = time.process_time()
        lost = missing(rows, Space(tuple(levels), nogoods), strength)
        note = f"; the package leaves out {left}" if left else ""
        note += f"; ours leaves out {lost}" if lost else ""
        print(
            f"{name:<24} {package:>8} {middle - begun:>6.1f} {len(rows):>6} {end - middle:>6.1f}"
            f" {bound(levels, strength, nogoods):>6}  {best}{note}",
            flush=True,
        )
    levels, count, draws = SPREADS
    ours, chance = [], []
    for draw in range(1, draws + 1):
        random = Random(draw)
        ours.append(spread(Space(tuple(levels)), count, random))
        chance.append(np.array([[random.randrange(v) for v in levels] for _ in range(count)]))
    print(f"\n{count} members over axes of {', '.join(map(str, levels))} levels, {draws} draws")
    for what, rows in (("spread", ours), ("random", chance)):
        apart = [
            max(
                np.bincount(r[:, i], minlength=v).max() - np.bincount(r[:, i], minlength=v).min()
                for i, v in enumerate(levels)
            )
            for r in rows
        ]
        even, near = [evenness(r, levels) for r in rows], [smallest_distance(r) for r in rows]
        print(
            f"{what}: levels at most {max(apart)} apart, evenness of pairs {np.mean(even):.4f}"
            f" (least {min(even):.4f}), smallest distance {np.mean(near):.2f} (least {min(near)})"
        )


if __name__ == "__main__":
    main()
