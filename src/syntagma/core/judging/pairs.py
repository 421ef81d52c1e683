"""Pairs: which two are shown next, the order of judging, and strengths from the answers
(Bradley–Terry).

Sources: R. A. Bradley and M. E. Terry, Rank analysis of incomplete block designs I, Biometrika 39
(1952), with a normal prior on strengths; a tie is half a win for each. The next pair is one whose
order is not yet certain and whose answer says much: the chance that the order found is wrong, times
how much the answer lowers the uncertainty of the two. It is enough when the strengths tell the
results apart well: the reliability of B. D. Wright and G. N. Masters, Rating scale analysis (1982),
is ENOUGH or more.
"""

from collections import Counter
from collections.abc import Sequence
from random import Random
from typing import NamedTuple

import numpy as np

# ──── In which order results are judged: a different one for each judge, and some of them twice, so
# it can be determined how steady a judge is.


AGAIN_AFTER = 10  # after so many one that was judged before comes again
APART = 4  # but none of the last so many
MOST_PAIRS = 400  # that one judge is asked for, but if there are more things than that


def next_one(ids: Sequence[int], said: Sequence[int], seed: str) -> int | None:
    """The next result to judge, by a judge who has judged `said` in that order; None when all have
    been, and one in ten twice.
    """
    order = list(ids)
    Random(seed).shuffle(order)
    count = len(said)
    if count and count % (AGAIN_AFTER + 1) == AGAIN_AFTER:
        once = [number for number in dict.fromkeys(said[:-APART]) if said.count(number) == 1]
        if once:
            return Random(f"{seed} {count}").choice(once)
    done = set(said)
    return next((number for number in order if number not in done), None)


def wanted(ids: Sequence[int]) -> int:
    """How many judgements that comes to."""
    return len(ids) + len(ids) // AGAIN_AFTER


def pairs_wanted(things: int) -> int:
    """How many pairs one judge is asked at most: a third of all of few things, of many as many as
    tell them apart in an evening.
    """
    if things < 2:
        return 0
    return max(
        min(things, things * (things - 1)),
        min(things * (things - 1) // 6, 2 * things + 44, max(things, MOST_PAIRS)),
    )


def pair_list(things: int, seed: int) -> list[tuple[int, int]]:
    """Pairs for a page, which gets no answers in between: a ring in a random order, then pairs by
    chance, each once, sides balanced, one in twenty again with its sides changed.
    """
    random = Random(seed)
    order = list(range(things))
    random.shuffle(order)
    ring = (
        [(order[i], order[(i + 1) % things]) for i in range(things)]
        if things > 2
        else [(0, 1)]
        if things == 2
        else []
    )
    seen, whole = {frozenset(pair) for pair in ring}, pairs_wanted(things)
    rest: list[tuple[int, int]] = []
    while len(ring) + len(rest) < min(whole, things * (things - 1) // 2):
        i, j = random.sample(range(things), 2)
        if frozenset((i, j)) not in seen:
            seen.add(frozenset((i, j)))
            rest.append((i, j))
    found, left = [], [0] * things
    for i, j in [*ring, *rest]:
        pair = (i, j) if left[i] <= left[j] else (j, i)
        left[pair[0]] += 1
        left[pair[1]] -= 1
        found.append(pair)
        if len(found) % 20 == 19:
            there = set(found)
            a, b = random.choice([pair for pair in found[:-1] if pair[::-1] not in there])
            found.append((b, a))
    return found


# ──── Two side by side, which is better: strengths out of pairs, the pair that would tell most, and
# when it is enough.
#
# Sources: R. A. Bradley and M. E. Terry, Rank analysis of incomplete block designs I, Biometrika 39
# (1952), with a normal prior on strengths; a tie is half a win
# for each. The next pair is one whose order is not yet certain and whose answer says much: the
# chance that the order found is wrong, times how much the answer
# lowers the uncertainty of the two. It is enough when the strengths tell the results apart well:
# the reliability of B. D. Wright and G. N. Masters, Rating scale
# analysis (1982), is ENOUGH or more.


PRIOR = 2.0  # standard deviation of strengths, in logits
AT_RANDOM = 7  # every so many pairs one is drawn by chance
REPEATED = 20  # every so many pairs one is asked again, sides changed
ENOUGH = 0.7  # reliability at which a judge may stop
LEAST = 3  # times that each result has been seen by then
# things above which uncertainties are estimated one by one, and pairs are looked for among so many
LARGE = 300


class PairAnswer(NamedTuple):
    """One comparison: two things by number (the first stood left), how much of the win the first
    has (1, 0, or 0.5 for a tie), and who says so.
    """

    first: int
    second: int
    won: float
    judge: str = ""


class Strengths(NamedTuple):
    """Strengths in logits (they sum to 0) and their covariance; of many things only its diagonal is
    known.
    """

    values: np.ndarray
    covariance: np.ndarray

    @property
    def errors(self) -> np.ndarray:
        """The standard deviation of each."""
        return np.sqrt(np.diag(self.covariance))


def strengths(things: int, answers: Sequence[PairAnswer], prior: float = PRIOR) -> Strengths:
    """The most probable strengths of `things` under the answers and the prior (Newton's method),
    with the covariance round them.
    """
    values = np.zeros(things)
    first = np.array([a.first for a in answers], dtype=int)
    second = np.array([a.second for a in answers], dtype=int)
    won = np.array([a.won for a in answers], dtype=float)
    for _ in range(50):
        p = 1.0 / (1.0 + np.exp(np.clip(values[second] - values[first], -30, 30)))
        gradient = (
            -values / prior**2
            + np.bincount(first, won - p, things)
            - np.bincount(second, won - p, things)
        )
        step = _solve(things, first, second, p * (1 - p), prior, gradient)
        values = values + step
        if np.abs(step).max(initial=0.0) < 1e-9:
            break
    p = 1.0 / (1.0 + np.exp(np.clip(values[second] - values[first], -30, 30)))
    if things > LARGE:
        own = (
            1 / prior**2
            + np.bincount(first, p * (1 - p), things)
            + np.bincount(second, p * (1 - p), things)
        )
        return Strengths(values - values.mean(), np.diag(1 / own))
    return Strengths(
        values - values.mean(),
        np.linalg.inv(_information(things, first, second, p * (1 - p), prior)),
    )


def _information(
    things: int, first: np.ndarray, second: np.ndarray, weight: np.ndarray, prior: float
) -> np.ndarray:
    found = np.eye(things) / prior**2
    np.add.at(found, (first, first), weight)
    np.add.at(found, (second, second), weight)
    np.add.at(found, (first, second), -weight)
    np.add.at(found, (second, first), -weight)
    return found


def _solve(
    things: int,
    first: np.ndarray,
    second: np.ndarray,
    weight: np.ndarray,
    prior: float,
    gradient: np.ndarray,
) -> np.ndarray:
    """A step of Newton's method; of many things by a sparse matrix, since each was compared with
    few.
    """
    if things <= LARGE:
        return np.linalg.solve(_information(things, first, second, weight, prior), gradient)
    from scipy.sparse import coo_array, eye_array
    from scipy.sparse.linalg import spsolve

    rows, cols = (
        np.concatenate([first, second, first, second]),
        np.concatenate([first, second, second, first]),
    )
    sparse = (
        coo_array(
            (np.concatenate([weight, weight, -weight, -weight]), (rows, cols)),
            shape=(things, things),
        )
        + eye_array(things) / prior**2
    )
    return spsolve(sparse.tocsc(), gradient)


def reliability(found: Strengths) -> float:
    """How well the strengths tell the things apart: 0 (not at all) to 1."""
    between, error = float(found.values.var()), float(np.diag(found.covariance).mean())
    return between / (between + error) if between + error > 0 else 0.0


def enough(things: int, answers: Sequence[PairAnswer], prior: float = PRIOR) -> bool:
    """May a judge stop: has everything been seen often enough, and are they distinguished well?"""
    seen = Counter(number for a in answers for number in (a.first, a.second))
    return (
        len(seen) == things > 2
        and min(seen.values()) >= LEAST
        and reliability(strengths(things, answers, prior)) >= ENOUGH
    )


def _start(things: int, random: Random) -> list[tuple[int, int]]:
    """Pairs that connect everything: a ring in a random order."""
    order = list(range(things))
    random.shuffle(order)
    return (
        [(order[i], order[(i + 1) % things]) for i in range(things)]
        if things > 2
        else [(order[0], order[1])]
    )


def next_pair(
    things: int, answers: Sequence[PairAnswer], seed: int = 1, prior: float = PRIOR
) -> tuple[int, int] | None:
    """The two things to lay side by side next, left and right; None if there are no two that were
    not asked for both ways round. First a ring in a random order, then the pair that tells most,
    now and then one by chance or one asked again; whoever was on the left more often goes right.
    """
    if things < 2:
        return None
    asked = len(answers)
    said = {(a.first, a.second) for a in answers}
    ring = [
        pair for pair in _start(things, Random(seed)) if pair not in said and pair[::-1] not in said
    ]
    random = Random(f"{seed} {asked}")
    if ring:
        return _sided(ring[0], answers, said)
    if asked % REPEATED == REPEATED - 1:
        once = [(a.second, a.first) for a in answers if (a.second, a.first) not in said]
        if once:
            return random.choice(once)
    if asked % AT_RANDOM == AT_RANDOM - 1:
        for _ in range(20):
            first, second = random.sample(range(things), 2)
            if not {(first, second), (second, first)} & said:
                return _sided((first, second), answers, said)
    pair = _telling(strengths(things, answers, prior), answers, said, random)
    return _sided(pair, answers, said) if pair else None


def _telling(
    found: Strengths, answers: Sequence[PairAnswer], said: set[tuple[int, int]], random: Random
) -> tuple[int, int] | None:
    """The pair whose order is least certain and whose answer would say most, of those that were not
    asked for both ways round.
    """
    from scipy.special import ndtr

    things = np.arange(len(found.values))
    if len(things) > LARGE:
        things = np.array(sorted(random.sample(range(len(things)), LARGE)))
    values, covariance = found.values[things], found.covariance[np.ix_(things, things)]
    apart = values[:, None] - values[None, :]
    p = 1.0 / (1.0 + np.exp(np.clip(-apart, -30, 30)))
    own = np.diag(covariance)
    variance = own[:, None] + own[None, :] - 2 * covariance + 1e-9
    gain = ndtr(-np.abs(apart) / np.sqrt(variance)) * p * (1 - p) * variance
    gain[np.tril_indices(len(values))] = -1.0
    place = {number: i for i, number in enumerate(things.tolist())}
    for first, second in said:
        if first in place and second in place and (second, first) in said:
            gain[min(place[first], place[second]), max(place[first], place[second])] = -1.0
    for last in answers[-1:]:  # not the two that were just seen
        if last.first in place and last.second in place:
            i, j = sorted((place[last.first], place[last.second]))
            gain[i, j] = min(gain[i, j], -0.5)
    at = int(np.argmax(gain))
    i, j = divmod(at, len(values))
    return (int(things[i]), int(things[j])) if gain[i, j] > -1.0 else None


def _sided(
    pair: tuple[int, int], answers: Sequence[PairAnswer], said: set[tuple[int, int]]
) -> tuple[int, int]:
    """Which of the two goes left: the side not asked for yet, else whoever was on the right more
    often.
    """
    for way in (pair, pair[::-1]):
        if way in said:
            return way[1], way[0]
    left = [
        sum(a.first == one for a in answers) - sum(a.second == one for a in answers) for one in pair
    ]
    return pair if left[0] <= left[1] else (pair[1], pair[0])


def hang_together(things: int, answers: Sequence[PairAnswer]) -> bool:
    """Is everything compared with everything else, through others?"""
    above = list(range(things))

    def top(one: int) -> int:
        while above[one] != one:
            above[one] = one = above[above[one]]
        return one

    for answer in answers:
        above[top(answer.first)] = top(answer.second)
    return len({top(one) for one in range(things)}) <= 1
