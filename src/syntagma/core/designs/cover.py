"""Every pair of choices (or triple, …) at least once, in as few rows as can be found.

The method goes by the shape of the axes. Algebra if it has an answer: polynomials over a field,
subsets that share a point, a starter under a group (cover_algebra.py). For pairs then tabu
search on fewer and fewer rows, on bases under every cyclic group that fits the levels
(cover_search.py); for triples and more tabu search likewise (cover_search.py). With rules of
more than two choices, and with any for higher strengths, rows one after the other (level_rows.py).
Work is bounded by counted steps: the same call gives the same rows on any machine.
"""

from collections.abc import Iterator, Sequence
from itertools import combinations
from math import prod
from random import Random

import numpy as np

from syntagma.core.designs import cover_algebra
from syntagma.core.designs.cover_search import Base, Search, searched
from syntagma.core.designs.level_rows import Space, greedy, impossible

WORK = 1_500_000_000  # counts looked at by a search of effort 1: some 15 to 20 seconds
FIRST = 150  # steps of a first, short try, and two more for each row
TUPLES = 6_000  # tuples that are grown over once more for each so many less
STEPS = 1_500  # of a search for triples or more, for each number of rows, at effort 1
HIGHER = 40_000_000  # sets times steps that such a search may take
# rounds, each longer than the one before, that may bring nothing before a search of effort 1 ends
ROUNDS = 2
LONGER = 4  # how much longer each next round tries


def cover(
    space: Space,
    strength: int = 2,
    effort: float = 1.0,
    random: Random | None = None,
    more: Sequence[tuple[int, ...]] = (),
) -> np.ndarray:
    """Rows × axes of level numbers that hold every possible choice of levels of every `strength`
    axes, and of the groups of axes in `more`.
    """
    random = random or Random(1)
    levels = space.levels
    strength = min(strength, len(levels))
    if more:
        base = cover(space, strength, effort, random)
        ways = [greedy(space, strength, random, start, more) for start in ([], base.tolist())]
        return np.array(min(ways, key=len))
    if strength < 1:
        return np.zeros((1, len(levels)), dtype=np.int64)
    order = sorted(
        range(len(levels)), key=lambda a: -levels[a]
    )  # the methods want the most levels first
    at = {axis: i for i, axis in enumerate(order)}
    nogoods = tuple(frozenset((at[a], v) for a, v in nogood) for nogood in space.nogoods)
    found = _cover(Space(tuple(levels[a] for a in order), nogoods), strength, effort, random)
    array = np.empty_like(found)
    array[:, order] = found
    return array


def bound(levels: Sequence[int], strength: int = 2, nogoods: Sequence[frozenset] = ()) -> int:
    """No cover has fewer rows: the levels of the largest axes multiplied; under rules, the most
    tuples that are possible on any axes.
    """
    if not nogoods:
        return prod(sorted(levels, reverse=True)[:strength])
    counts = {
        axes: prod(levels[a] for a in axes) for axes in combinations(range(len(levels)), strength)
    }
    for axes, _ in impossible(Space(tuple(levels), tuple(nogoods)), strength):
        counts[axes] -= 1
    return max(counts.values(), default=0)


def _cover(space: Space, strength: int, effort: float, random: Random) -> np.ndarray:
    levels, least = space.levels, bound(space.levels, strength, space.nogoods)
    if (
        strength == 1
        or any(len(nogood) > 2 for nogood in space.nogoods)
        or (strength > 2 and space.nogoods)
    ):
        return min(_grown(space, strength, effort, random), key=len)
    best: np.ndarray | None = None
    if not space.nogoods:
        for array in _by_algebra(levels, strength, random):
            if best is None or len(array) < len(best):
                best = array
            if (
                len(best) == least or max(levels) == 2 == strength
            ):  # of two levels, no cover is smaller
                return best
    if strength > 2:
        best = min(
            [*([best] if best is not None else []), *_grown(space, strength, effort, random)],
            key=len,
        )
        return _fewer(levels, strength, best, least, effort, random)
    return _searched(space, best, least, effort, random)


def _grown(space: Space, strength: int, effort: float, random: Random) -> Iterator[np.ndarray]:
    """Covers grown row by row, several by chance where the shape is small."""
    size = sum(
        prod(space.levels[a] for a in axes)
        for axes in combinations(range(len(space.levels)), strength)
    )
    for _ in range(max(1, min(12, int(effort * TUPLES / size)))):
        yield np.array(greedy(space, strength, random))


def _fewer(
    levels: Sequence[int],
    strength: int,
    best: np.ndarray,
    least: int,
    effort: float,
    random: Random,
) -> np.ndarray:
    """A cover of triples or more in fewer and fewer rows, until a search finds none: in families of
    rows where all axes have as many levels, then row by row.
    """
    sets = sum(prod(levels[a] for a in axes) for axes in combinations(range(len(levels)), strength))
    steps = min(int(effort * STEPS), int(effort * HIGHER / max(1, sets)))
    for group in sorted({levels[0] if len(set(levels)) == 1 else 1, 1}, reverse=True):
        while len(best) > least and steps:
            rows = (len(best) - 1) // group * group
            found = (
                searched(levels, strength, rows, group, steps, random) if rows >= least else None
            )
            if found is None:
                break
            best = found
    return best


def _by_algebra(levels: Sequence[int], strength: int, random: Random) -> Iterator[np.ndarray]:
    """The arrays that algebra has for this shape, the cheap ones first."""
    if strength == 2 and max(levels) == 2:
        yield cover_algebra.subsets(len(levels))
        return
    if cover_algebra.polynomial_rows(levels, strength) <= 20 * bound(levels, strength):
        yield trimmed(cover_algebra.polynomials(levels, strength), levels, strength, random)
    most = max(levels)
    if strength == 2 and most > 3 and len(levels) > most:
        vector = cover_algebra.starter(len(levels), most, 4000, random)
        if vector:
            array = cover_algebra.developed(vector, most)
            yield trimmed(
                np.where(array < np.asarray(levels), array, cover_algebra.ANY),
                levels,
                strength,
                random,
            )


def trimmed(array: np.ndarray, levels: Sequence[int], strength: int, random: Random) -> np.ndarray:
    """The array without rows that the others cover, its open places filled."""
    if (array >= 0).all() and len(array) == bound(levels, strength):
        return array
    groups = list(combinations(range(len(levels)), strength))
    rows = [list(map(int, row)) for row in array]
    holds = [
        {(g, tuple(row[a] for a in g)) for g in groups if all(row[a] >= 0 for a in g)}
        for row in rows
    ]
    counts: dict = {}
    for held in holds:
        for one in held:
            counts[one] = counts.get(one, 0) + 1
    kept = []
    for row, held in sorted(zip(rows, holds, strict=True), key=lambda pair: len(pair[1])):
        if all(counts[one] > 1 for one in held):
            for one in held:
                counts[one] -= 1
        else:
            kept.append(row)
    filled = [
        [v if v >= 0 else random.randrange(levels[a]) for a, v in enumerate(row)] for row in kept
    ]
    return np.array(filled)


def _searched(
    space: Space, best: np.ndarray | None, least: int, effort: float, random: Random
) -> np.ndarray:
    """Fewer and fewer rows by tabu search: on every base in turn, and longer in every round."""
    levels = space.levels
    forbidden = _forbidden(space)
    groups = (
        [1]
        if space.nogoods
        else sorted({g for v in set(levels) for g in (v - 1, v) if 1 < g <= max(levels)} | {1})
    )
    work = effort * WORK
    if best is None:
        best, spent = _first(space, groups, least, forbidden, random)
        work -= spent
    steps, fewer, rounds = FIRST, max(1, (len(best) - least) // 2), 0
    while work > 0 and len(best) > least:
        won = None
        for base in _bases(levels, groups, len(best) - fewer, least):
            search = Search(base, Random(random.random()), forbidden)
            cost = _cost(search)
            done = search.run(min(steps + 2 * base.rows, max(20, int(work / cost))))
            work -= search.now * cost
            if done:
                won = search.developed()
                break
            if work <= 0:
                break
        if won is not None:
            best, steps, rounds = won, min(steps, FIRST * LONGER), 0
            fewer = max(1, min(fewer, (len(best) - least) // 2))
        elif fewer > 1:
            fewer //= 2
        else:
            steps *= LONGER
            rounds += 1
            if rounds > ROUNDS * max(1.0, effort):
                break
    return best


def _bases(levels: Sequence[int], groups: Sequence[int], size: int, least: int) -> Iterator[Base]:
    """The searches that would give an array of at most so many rows, under each group with and
    without a row alone.
    """
    for group in groups:
        for alone in (0, 1) if group > 1 else (0,):
            base = Base(tuple(levels), group, (size - alone) // group, alone)
            if base.rows >= 1 and base.size >= least:
                yield base


def _cost(search: Search) -> int:
    """The work of one step: what it looks at, and what any step takes."""
    k = len(search.columns)
    return 16_000 + k * k * search.orbits.width + 40 * search.base.rows * k


def _first(
    space: Space, groups: Sequence[int], least: int, forbidden: np.ndarray | None, random: Random
) -> tuple[np.ndarray, float]:
    """A cover to begin with, from the bound upwards in short tries."""
    size, spent = float(least), 0.0
    while True:
        for group in groups:
            base = Base(space.levels, group, max(1, int(size) // group), 1 if group > 1 else 0)
            search = Search(base, Random(random.random()), forbidden)
            done = search.run(FIRST + 2 * base.rows)
            spent += search.now * _cost(search)
            if done:
                return search.developed(), spent
        size = max(size + 1, size * 1.15)


def _forbidden(space: Space) -> np.ndarray | None:
    """Pairs that no row may hold, as the search wants them: those that the rules forbid, and those
    that no row can hold.
    """
    if not space.nogoods:
        return None
    k, most = len(space.levels), max(space.levels)
    table = np.zeros((k, k, most, most), dtype=bool)
    for axes, at in impossible(space, 2):
        (i, j), (a, b) = axes, at
        table[i, j, a, b] = table[j, i, b, a] = True
    return table
