"""What each judge is like: how strict, how steady, whether the marks go with those of the others, whether a side is preferred, whether the measure changed on the way.

Sources: the interval of a correlation as in R. A. Fisher, On the probable error of a coefficient of correlation (1921); sides by the exact binomial test.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import Level
from syntagma.core.judging.pairs import Answer, strengths

CONTRARY, BY_CHANCE, ALL_ALIKE = "contrary", "by chance", "all alike"
LEAST_SHARED = 12  # results that a judge has in common with others before marks are said to go by chance
LEAST_PAIRS = 12  # pairs that were decided before anything is said of sides
SIDED = 0.01  # chance below which a judge is said to prefer a side
NAN = float("nan")


class Portrait(NamedTuple):
    """One judge: how many results and pairs; the level against the mean of all (nan where that can't be told) and its standard error; of what was judged twice how much
    came to the same; how closely marks go with the others' (correlation, with bounds) on so many results; by how much marks moved from the first result to the
    last, and the standard error of that; of pairs that were decided how many went to the left, and how many as the other judges would have it; what is to be said
    of the judge (contrary, by chance, all alike, or nothing)."""

    judge: str
    results: int
    pairs: int
    level: float = NAN
    level_error: float = NAN
    twice: int = 0
    same: int = 0
    agreement: float = NAN
    low: float = NAN
    high: float = NAN
    shared: int = 0
    drift: float = NAN
    drift_error: float = NAN
    decided: int = 0
    left: int = 0
    sided: bool = False
    as_others: int = 0
    of_others: int = 0
    stance: str = ""


def portraits(
    marks: Mapping[int, Mapping[str, float]], levels: Sequence[Level], said: Mapping[str, Sequence[tuple[int, float]]], twice: Sequence[tuple[str, float, float]],
    answers: Sequence[Answer], things: int,
) -> tuple[Portrait, ...]:  # fmt: skip
    """Every judge. `marks`: of each result what each judge gave; `said`: of each judge the results in the order in which they were marked; `twice`: judge, and the two
    values of what was judged twice; `answers` are pairs among so many `things`."""
    known = {one.judge: one for one in levels}
    names = sorted({judge for own in marks.values() for judge in own} | {a.judge for a in answers})
    of = {name: _alone(name, marks, known, said.get(name, ()), twice, answers) for name in names}
    left, done = list(names), {}
    while left:  # who stands out most is set aside, so that the others are not measured against them
        seen = [_beside(of[name], marks, known, answers, things, left) for name in left]
        odd = [one for one in seen if one.stance in (CONTRARY, BY_CHANCE)]
        if not odd:
            done |= {one.judge: one for one in seen}
            break
        worst = min(odd, key=lambda one: (one.agreement if one.agreement == one.agreement else 2 * one.as_others / max(1, one.of_others) - 1))
        done[worst.judge] = worst
        left.remove(worst.judge)
    return tuple(done[name] for name in names)


def _alone(
    name: str, marks: Mapping[int, Mapping[str, float]], levels: Mapping[str, Level], said: Sequence[tuple[int, float]], twice: Sequence[tuple[str, float, float]], answers: Sequence[Answer]
) -> Portrait:
    """What can be said of a judge without asking whether the others agree."""
    own = [given[name] for given in marks.values() if name in given]
    level, again = levels.get(name), [(a, b) for judge, a, b in twice if judge == name]
    decided = [a for a in answers if a.judge == name and a.won != 0.5]
    left = sum(a.won == 1.0 for a in decided)
    drift, drift_error = _drift(name, said, marks, levels)
    same = sum(a == b for a, b in again)
    stance = ALL_ALIKE if len(own) >= LEAST_SHARED and len(set(own)) == 1 else BY_CHANCE if len(again) >= 6 and not own and same <= len(again) / 2 else ""
    return Portrait(
        name, len(own), sum(a.judge == name for a in answers), level.size if level else NAN, level.error if level else NAN, len(again), same, drift=drift, drift_error=drift_error,
        decided=len(decided), left=left, sided=len(decided) >= LEAST_PAIRS and _chance(left, len(decided)) <= SIDED, stance=stance,
    )  # fmt: skip


def _beside(one: Portrait, marks: Mapping[int, Mapping[str, float]], levels: Mapping[str, Level], answers: Sequence[Answer], things: int, names: Sequence[str]) -> Portrait:
    """A judge beside the others in `names`. With only one other nobody can say which of the two is the odd one."""
    among = {number: {judge: value for judge, value in given.items() if judge in names} for number, given in marks.items()}
    agreement, low, high, shared = _with_others(among, levels, one.judge)
    as_others, of_others = _as_others(one.judge, [a for a in answers if a.judge in names], things)
    stance, others = one.stance, len(names) - 1
    if not stance and others > 1:
        clear = sum(_with_others({n: {j: v for j, v in given.items() if j != one.judge} for n, given in among.items()}, levels, name)[1] > 0 for name in names if name != one.judge)
        against = _chance(as_others, of_others) <= 0.05 and as_others < of_others / 2
        if high < 0 or (of_others >= LEAST_PAIRS and against):
            stance = CONTRARY
        elif (shared >= LEAST_SHARED and low <= 0 and clear > 1) or (of_others >= LEAST_PAIRS and _chance(as_others, of_others) > 0.1):
            stance = BY_CHANCE
    return one._replace(agreement=agreement, low=low, high=high, shared=shared, as_others=as_others, of_others=of_others, stance=stance)


def _with_others(marks: Mapping[int, Mapping[str, float]], levels: Mapping[str, Level], name: str) -> tuple[float, float, float, int]:
    """How marks go with the mean of the others', their levels taken off: correlation, 95 % bounds, results in common."""
    both = [
        (given[name], float(np.mean([value - (levels[judge].size if judge in levels else 0.0) for judge, value in given.items() if judge != name])))
        for given in marks.values()
        if name in given and len(given) > 1
    ]
    if len(both) < 5:
        return NAN, NAN, NAN, len(both)
    own, others = np.array(both).T
    spread = float(own.std() * others.std())
    if spread <= 0:
        return NAN, NAN, NAN, len(both)
    r = float(((own - own.mean()) * (others - others.mean())).mean() / spread)
    z, error = np.arctanh(np.clip(r, -0.9999, 0.9999)), 1.96 / np.sqrt(len(both) - 3)
    return r, float(np.tanh(z - error)), float(np.tanh(z + error)), len(both)


def _drift(name: str, said: Sequence[tuple[int, float]], marks: Mapping[int, Mapping[str, float]], levels: Mapping[str, Level]) -> tuple[float, float]:
    """By how much a judge's marks moved from the first result to the last, what the others gave the results taken off where they saw them all."""
    if len(said) < 8:
        return NAN, NAN
    others = [[value - (levels[judge].size if judge in levels else 0.0) for judge, value in marks.get(number, {}).items() if judge != name] for number, _ in said]
    values = np.array([value for _, value in said])
    if all(others):
        values = values - np.array([np.mean(own) for own in others])
    when = np.linspace(-0.5, 0.5, len(values))
    slope = float(when @ values / (when @ when))
    left = values - values.mean() - slope * when
    return slope, float(np.sqrt(left @ left / (len(values) - 2) / (when @ when)))


def _as_others(name: str, answers: Sequence[Answer], things: int) -> tuple[int, int]:
    """Of a judge's decided pairs how many are decided as by the strengths out of the others' pairs."""
    others, decided = [a for a in answers if a.judge != name], [a for a in answers if a.judge == name and a.won != 0.5]
    if not decided or len(others) < LEAST_PAIRS:
        return 0, 0
    values = strengths(things, others).values
    seen = {number for a in others for number in (a.first, a.second)}
    both = [a for a in decided if a.first in seen and a.second in seen and values[a.first] != values[a.second]]
    return sum(bool(values[a.first] > values[a.second]) == (a.won > 0.5) for a in both), len(both)


def _chance(count: int, of: int) -> float:
    from scipy.stats import binomtest

    return float(binomtest(count, of).pvalue) if of else 1.0
