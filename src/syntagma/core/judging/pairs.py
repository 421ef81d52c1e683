"""Two side by side, which is better: strengths out of pairs, and the pair that would tell most.

Sources: R. A. Bradley and M. E. Terry, Rank analysis of incomplete block designs I, Biometrika 39 (1952), with a normal prior on strengths; a tie is half a win
for each. The next pair is one whose
order is not yet certain and whose answer says much: the chance that the order found is wrong, times how much the answer lowers the uncertainty of the two.
"""

from collections.abc import Sequence
from random import Random
from typing import NamedTuple

import numpy as np

PRIOR = 2.0  # standard deviation of strengths, in logits
AT_RANDOM = 7  # every so many pairs one is drawn by chance
REPEATED = 20  # every so many pairs one is asked again, sides changed


class Answer(NamedTuple):
    """One comparison: two things by number, and how much of the win the first has (1, 0, or 0.5 for a tie)."""

    first: int
    second: int
    won: float


class Strengths(NamedTuple):
    """Strengths in logits (they sum to 0) and their covariance."""

    values: np.ndarray
    covariance: np.ndarray

    @property
    def errors(self) -> np.ndarray:
        """The standard deviation of each."""
        return np.sqrt(np.diag(self.covariance))


def strengths(things: int, answers: Sequence[Answer], prior: float = PRIOR) -> Strengths:
    """The most probable strengths of `things` under the answers and the prior (Newton's method), with the covariance round them."""
    values = np.zeros(things)
    first = np.array([a.first for a in answers], dtype=int)
    second = np.array([a.second for a in answers], dtype=int)
    won = np.array([a.won for a in answers])
    hessian = np.eye(things) / prior**2
    for _ in range(50):
        p = 1.0 / (1.0 + np.exp(np.clip(values[second] - values[first], -30, 30)))
        gradient = -values / prior**2
        np.add.at(gradient, first, won - p)
        np.add.at(gradient, second, p - won)
        hessian = np.eye(things) / prior**2
        weight = p * (1 - p)
        for i, j, w in zip(first, second, weight, strict=True):
            hessian[i, i] += w
            hessian[j, j] += w
            hessian[i, j] -= w
            hessian[j, i] -= w
        step = np.linalg.solve(hessian, gradient)
        values = values + step
        if np.abs(step).max() < 1e-9:
            break
    return Strengths(values - values.mean(), np.linalg.inv(hessian))


def _start(things: int, random: Random) -> list[tuple[int, int]]:
    """Pairs by which everything hangs together: a ring in a random order."""
    order = list(range(things))
    random.shuffle(order)
    return [(order[i], order[(i + 1) % things]) for i in range(things)] if things > 2 else [(order[0], order[1])]


def next_pair(things: int, answers: Sequence[Answer], seed: int = 1, prior: float = PRIOR) -> tuple[int, int] | None:
    """The two things to lay side by side next, left and right; None where there are no two. First a ring in a random order, then the pair that tells most,
    now and then one by chance or one asked again; whoever stood left more often stands right."""
    if things < 2:
        return None
    asked = len(answers)
    ring = _start(things, Random(seed))
    if asked < len(ring):
        pair = ring[asked]
    elif asked % REPEATED == REPEATED - 1:
        again = answers[Random(f"{seed} {asked}").randrange(asked)]
        return again.second, again.first
    elif asked % AT_RANDOM == AT_RANDOM - 1:
        first, second = Random(f"{seed} {asked}").sample(range(things), 2)
        pair = first, second
    else:
        pair = _telling(strengths(things, answers, prior), answers)
    return _sided(pair, answers)


def _telling(found: Strengths, answers: Sequence[Answer]) -> tuple[int, int]:
    """The pair whose order is least certain and whose answer would say most."""
    from scipy.special import ndtr

    values, covariance = found
    apart = values[:, None] - values[None, :]
    p = 1.0 / (1.0 + np.exp(np.clip(-apart, -30, 30)))
    own = np.diag(covariance)
    variance = own[:, None] + own[None, :] - 2 * covariance + 1e-9
    gain = ndtr(-np.abs(apart) / np.sqrt(variance)) * p * (1 - p) * variance
    gain[np.tril_indices(len(values))] = -1.0
    for last in answers[-1:]:  # not the two that were just seen
        gain[min(last.first, last.second), max(last.first, last.second)] = -0.5
    at = int(np.argmax(gain))
    return divmod(at, len(values))


def _sided(pair: tuple[int, int], answers: Sequence[Answer]) -> tuple[int, int]:
    left = [sum(a.first == one for a in answers) - sum(a.second == one for a in answers) for one in pair]
    return pair if left[0] <= left[1] else (pair[1], pair[0])


def hang_together(things: int, answers: Sequence[Answer]) -> bool:
    """Is everything compared with everything else, through others?"""
    group = list(range(things))
    for answer in answers:
        a, b = group[answer.first], group[answer.second]
        if a != b:
            group = [a if one == b else one for one in group]
    return len(set(group)) <= 1
