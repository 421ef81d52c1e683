"""What each judge is like: how strict, how steady, whether the ratings go with those of the others,
whether a side is preferred, whether the measure changed on the way.

Sources: K. Krippendorff, Content analysis (2004): alpha with the interval metric, for any number of
judges and ratings that are missing; the interval of a correlation as in R. A. Fisher, On the
probable error of a coefficient of correlation (1921); sides by the exact binomial test.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from syntagma.core.judging.effects import Level
from syntagma.core.judging.pairs import PairAnswer, strengths

CONTRARY, BY_CHANCE, ALL_ALIKE = "contrary", "by chance", "all alike"
LEAST_SHARED = (
    12  # results that a judge has in common with others before ratings are said to go by chance
)
LEAST_PAIRS = 12  # pairs that were decided before anything is said of sides
SIDED = 0.01  # chance below which a judge is said to prefer a side
NAN = float("nan")


def alpha(ratings: Sequence[Mapping[str, float]]) -> float:
    """Krippendorff's alpha of ratings, a table of judges for each picture: 1 where all agree, 0 if
    it is as by chance; nan if nothing was judged by two.
    """
    shared = [list(one.values()) for one in ratings if len(one) > 1]
    values = np.array([value for one in shared for value in one])
    if len(values) < 2:
        return float("nan")
    observed = sum(
        float(((np.array(one)[:, None] - np.array(one)[None, :]) ** 2).sum()) / (len(one) - 1)
        for one in shared
    ) / len(values)
    expected = float(2 * len(values) * values.var() * len(values)) / (
        len(values) * (len(values) - 1)
    )
    return 1.0 - observed / expected if expected > 0 else float("nan")


def steadiness(pairs: Sequence[tuple[float, float]], near: float = 0.0) -> float:
    """Of things that somebody judged twice: the share in which both are the same (or within
    `near`); nan if there are none.
    """
    return sum(abs(a - b) <= near for a, b in pairs) / len(pairs) if pairs else float("nan")


class RaterAgreement(NamedTuple):
    """How closely ratings go with the mean of the others' (a correlation, with 95 % bounds; nan if
    that can't be said) on so many results.
    """

    size: float = NAN
    low: float = NAN
    high: float = NAN
    results: int = 0


class Drift(NamedTuple):
    """By how much ratings moved from the first result to the last, and the standard error of that;
    nan if there are too few.
    """

    size: float = NAN
    error: float = NAN


class Share(NamedTuple):
    """So many of so many."""

    part: int = 0
    of: int = 0

    @property
    def chance(self) -> float:
        """How often a coin would be as far from the middle."""
        from scipy.stats import binomtest

        return float(binomtest(self.part, self.of).pvalue) if self.of else 1.0


class Portrait(NamedTuple):
    """One judge: how many results and pairs; the level against the mean of all; of what was judged
    twice how much came to the same; how ratings go with the others'; how they moved; of pairs that
    were decided how many went to the left, and how many as the other judges would have it; what is
    to be said of the judge (contrary, by chance, all alike, or nothing).
    """

    judge: str
    results: int
    pairs: int
    level: Level | None = None
    twice: Share = Share()
    agreement: RaterAgreement = RaterAgreement()
    drift: Drift = Drift()
    left: Share = Share()
    as_others: Share = Share()
    stance: str = ""

    @property
    def sided(self) -> bool:
        """Does the judge prefer a side?"""
        return self.left.of >= LEAST_PAIRS and self.left.chance <= SIDED


def portraits(
    ratings: Mapping[int, Mapping[str, float]],
    levels: Sequence[Level],
    said: Mapping[str, Sequence[tuple[int, float]]],
    twice: Sequence[tuple[str, float, float]],
    answers: Sequence[PairAnswer],
    things: int,
) -> tuple[Portrait, ...]:
    """Every judge. `ratings`: of each result what each judge gave; `said`: of each judge the
    results in the order in which they were rated; `twice`: judge, and the two values of what was
    judged twice; `answers` are pairs among so many `things`.
    """
    known = {one.judge: one for one in levels}
    names = sorted(
        {judge for own in ratings.values() for judge in own} | {a.judge for a in answers}
    )
    of = {name: _alone(name, ratings, known, said.get(name, ()), twice, answers) for name in names}
    left, done = list(names), {}
    while left:  # who stands out most is set aside, so the others are not measured against them
        seen = [_beside(of[name], ratings, known, answers, things, left) for name in left]
        odd = [one for one in seen if one.stance in (CONTRARY, BY_CHANCE)]
        if not odd:
            done |= {one.judge: one for one in seen}
            break
        worst = min(
            odd,
            key=lambda one: (
                one.agreement.size
                if one.agreement.size == one.agreement.size
                else 2 * one.as_others.part / max(1, one.as_others.of) - 1
            ),
        )
        done[worst.judge] = worst
        left.remove(worst.judge)
    return tuple(done[name] for name in names)


def _alone(
    name: str,
    ratings: Mapping[int, Mapping[str, float]],
    levels: Mapping[str, Level],
    said: Sequence[tuple[int, float]],
    twice: Sequence[tuple[str, float, float]],
    answers: Sequence[PairAnswer],
) -> Portrait:
    """The findings on a judge without asking whether the others agree."""
    own = [given[name] for given in ratings.values() if name in given]
    again = [(a, b) for judge, a, b in twice if judge == name]
    decided = [a for a in answers if a.judge == name and a.won != 0.5]
    same = Share(sum(a == b for a, b in again), len(again))
    stance = (
        ALL_ALIKE
        if len(own) >= LEAST_SHARED and len(set(own)) == 1
        else BY_CHANCE
        if same.of >= 6 and not own and same.part <= same.of / 2
        else ""
    )
    left = Share(sum(a.won == 1.0 for a in decided), len(decided))
    return Portrait(
        name,
        len(own),
        sum(a.judge == name for a in answers),
        levels.get(name),
        same,
        drift=_drift(name, said, ratings, levels),
        left=left,
        stance=stance,
    )


def _beside(
    one: Portrait,
    ratings: Mapping[int, Mapping[str, float]],
    levels: Mapping[str, Level],
    answers: Sequence[PairAnswer],
    things: int,
    names: Sequence[str],
) -> Portrait:
    """A judge beside the others in `names`. With only one other nobody can say which of the two is
    the odd one.
    """
    among = {
        number: {judge: value for judge, value in given.items() if judge in names}
        for number, given in ratings.items()
    }
    agreement = _with_others(among, levels, one.judge)
    as_others = _as_others(one.judge, [a for a in answers if a.judge in names], things)
    stance, others = one.stance, len(names) - 1
    if not stance and others > 1:
        clear = sum(
            _with_others(
                {
                    n: {j: v for j, v in given.items() if j != one.judge}
                    for n, given in among.items()
                },
                levels,
                name,
            ).low
            > 0
            for name in names
            if name != one.judge
        )
        many = as_others.of >= LEAST_PAIRS
        if agreement.high < 0 or (
            many and as_others.chance <= 0.05 and as_others.part < as_others.of / 2
        ):
            stance = CONTRARY
        elif (agreement.results >= LEAST_SHARED and agreement.low <= 0 and clear > 1) or (
            many and as_others.chance > 0.1
        ):
            stance = BY_CHANCE
    return one._replace(agreement=agreement, as_others=as_others, stance=stance)


def _with_others(
    ratings: Mapping[int, Mapping[str, float]], levels: Mapping[str, Level], name: str
) -> RaterAgreement:
    """How ratings go with the mean of the others', their levels taken off."""
    both = [
        (
            given[name],
            float(
                np.mean(
                    [
                        value - (levels[judge].size if judge in levels else 0.0)
                        for judge, value in given.items()
                        if judge != name
                    ]
                )
            ),
        )
        for given in ratings.values()
        if name in given and len(given) > 1
    ]
    if len(both) < 5:
        return RaterAgreement(results=len(both))
    own, others = np.array(both).T
    spread = float(own.std() * others.std())
    if spread <= 0:
        return RaterAgreement(results=len(both))
    r = float(((own - own.mean()) * (others - others.mean())).mean() / spread)
    z, error = np.arctanh(np.clip(r, -0.9999, 0.9999)), 1.96 / np.sqrt(len(both) - 3)
    return RaterAgreement(r, float(np.tanh(z - error)), float(np.tanh(z + error)), len(both))


def _drift(
    name: str,
    said: Sequence[tuple[int, float]],
    ratings: Mapping[int, Mapping[str, float]],
    levels: Mapping[str, Level],
) -> Drift:
    """By how much a judge's ratings moved from the first result to the last, what the others gave
    the results taken off where they saw them all.
    """
    if len(said) < 8:
        return Drift()
    others = [
        [
            value - (levels[judge].size if judge in levels else 0.0)
            for judge, value in ratings.get(number, {}).items()
            if judge != name
        ]
        for number, _ in said
    ]
    values = np.array([value for _, value in said])
    if all(others):
        values = values - np.array([np.mean(own) for own in others])
    when = np.linspace(-0.5, 0.5, len(values))
    slope = float(when @ values / (when @ when))
    left = values - values.mean() - slope * when
    return Drift(slope, float(np.sqrt(left @ left / (len(values) - 2) / (when @ when))))


def _as_others(name: str, answers: Sequence[PairAnswer], things: int) -> Share:
    """Of a judge's decided pairs how many are decided as by the strengths out of the
    others' pairs.
    """
    others, decided = (
        [a for a in answers if a.judge != name],
        [a for a in answers if a.judge == name and a.won != 0.5],
    )
    if not decided or len(others) < LEAST_PAIRS:
        return Share()
    values = strengths(things, others).values
    seen = {number for a in others for number in (a.first, a.second)}
    both = [
        a
        for a in decided
        if a.first in seen and a.second in seen and values[a.first] != values[a.second]
    ]
    return Share(
        sum(bool(values[a.first] > values[a.second]) == (a.won > 0.5) for a in both), len(both)
    )
