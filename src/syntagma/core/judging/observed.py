"""What was judged: takes of prompts whose choices are known, what each prompt came to, and what is
known of the judges' levels.

Judges of one picture are not so many samples, and draws of one prompt are not so many prompts:
judges are averaged first, then draws, and what is left is one number per prompt. A judge may be
stricter than another and have seen other pictures. What pictures that several judges saw, and draws
of one prompt that different judges saw, say of their levels is kept beside it (recovery of
inter-block information: F. Yates, The recovery of inter-block information in balanced incomplete
block designs, Annals of Eugenics 10, 1940).
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np

RATINGS = (0, 1, 2, 3, 4, 5)


class JudgedTake(NamedTuple):
    """One result of a prompt: who gave it which value (a rating 0 to 5; kept 1 or 0; a strength). A
    result that was refused is one of its own: `values` is empty, and it counts as the worst. `cost`
    is what it cost, None if that is not known.
    """

    prompt: str
    values: Mapping[str, float] = {}
    refused: bool = False
    cost: float | None = None


class FamilyPrompt(NamedTuple):
    """A prompt of a family: the choice on each axis, by the axes' names."""

    name: str
    choices: Mapping[str, str]


class Factors(NamedTuple):
    """The axes with their choices in the order in which they came, and of each prompt the number of
    its choice: `rows` is prompts × axes.
    """

    names: tuple[str, ...]
    levels: tuple[tuple[str, ...], ...]
    rows: np.ndarray

    def part(self, which: Sequence[int] | np.ndarray) -> "Factors":
        """Some of the prompts."""
        return self._replace(rows=self.rows[np.asarray(which, dtype=int)])


class Stratum(NamedTuple):
    """What comparisons of one kind (ratings within a picture, draws within a prompt) say of the
    judges' levels, as normal equations: `information` @ levels = `toward`; `squares` is the sum of
    squares of what was compared, `freedom` how many comparisons there were.
    """

    information: np.ndarray
    toward: np.ndarray
    squares: float
    freedom: int

    @property
    def left(self) -> int:
        """Degrees of freedom that are left when the levels are found."""
        return self.freedom - (
            int(np.linalg.matrix_rank(self.information, tol=1e-8)) if self.information.size else 0
        )

    @property
    def residual(self) -> float:
        """The sum of squares that the levels do not explain."""
        return (
            max(
                0.0,
                self.squares - float(self.toward @ np.linalg.pinv(self.information) @ self.toward),
            )
            if self.information.size
            else self.squares
        )


class Table(NamedTuple):
    """One number per prompt: `factors` of the prompts that were judged, their `outcome`, `draws`
    and `refused` of each (prompts long); `inner` is how far draws of one prompt scatter (standard
    deviation, nan if no prompt has two), with its degrees of freedom. `shares` says which judges
    each outcome is made of (prompts × judges − 1, coded to sum to 0: all zero if everybody saw
    everything), `strata` what else is known of the judges' levels.
    """

    factors: Factors
    outcome: np.ndarray
    draws: np.ndarray
    refused: np.ndarray
    prompts: tuple[str, ...]
    inner: float = float("nan")
    inner_freedom: int = 0
    judges: tuple[str, ...] = ()
    shares: np.ndarray = np.zeros((0, 0))
    strata: tuple[Stratum, ...] = ()


def factors_of(prompts: Sequence[FamilyPrompt]) -> Factors:
    """The axes of prompts; an axis on which all choose the same is none."""
    names = list(dict.fromkeys(name for prompt in prompts for name in prompt.choices))
    levels = {
        name: list(dict.fromkeys(prompt.choices.get(name, "") for prompt in prompts))
        for name in names
    }
    names = [name for name in names if len(levels[name]) > 1]
    rows = np.array(
        [
            [levels[name].index(prompt.choices.get(name, "")) for name in names]
            for prompt in prompts
        ],
        dtype=int,
    ).reshape(len(prompts), len(names))
    return Factors(tuple(names), tuple(tuple(levels[name]) for name in names), rows)


class _Result(NamedTuple):
    """One take: its value, averaged over judges, and how much of it each judge is."""

    value: float
    share: np.ndarray
    refused: bool


def table(
    prompts: Sequence[FamilyPrompt],
    takes: Iterable[JudgedTake],
    worst: float = 0.0,
    judges: Sequence[str] | None = None,
) -> Table:
    """What each prompt came to: judges averaged within a take (those in `judges`, None: all), then
    takes. A take that nobody judged and nobody refused is not there; a refused one has the `worst`
    value, whoever judges.
    """
    takes = list(takes)
    names = sorted(
        {
            judge
            for take in takes
            if not take.refused
            for judge in take.values
            if judges is None or judge in judges
        }
    )
    codes = sum_to_zero(len(names)) if names else np.zeros((0, 0))
    place = {name: i for i, name in enumerate(names)}
    within = _Compared(codes.shape[1])
    results: dict[str, list[_Result]] = {}
    for take in takes:
        given = [
            (value, codes[place[judge]]) for judge, value in take.values.items() if judge in place
        ]
        if take.refused:
            results.setdefault(take.prompt, []).append(
                _Result(worst, np.zeros(codes.shape[1]), True)
            )
        elif given:
            values, rows = (
                np.array([value for value, _ in given]),
                np.array([row for _, row in given]),
            )
            within.add(values, rows)
            results.setdefault(take.prompt, []).append(
                _Result(float(values.mean()), rows.mean(axis=0), False)
            )
    draws = _Compared(codes.shape[1])
    for own in results.values():
        there = [one for one in own if not one.refused]
        if len(there) > 1:
            draws.add(
                np.array([one.value for one in there]), np.array([one.share for one in there])
            )
    seen = [i for i, prompt in enumerate(prompts) if prompt.name in results]
    order = [results[prompts[i].name] for i in seen]
    between = draws.stratum()
    return Table(
        factors_of([prompts[i] for i in seen]),
        np.array([float(np.mean([one.value for one in own])) for own in order]),
        np.array([len(own) for own in order], dtype=int),
        np.array([sum(one.refused for one in own) for own in order], dtype=int),
        tuple(prompts[i].name for i in seen),
        float(np.sqrt(between.residual / between.left)) if between.left > 0 else float("nan"),
        max(0, between.left),
        tuple(names),
        np.array([np.mean([one.share for one in own], axis=0) for own in order]).reshape(
            len(order), codes.shape[1]
        ),
        (within.stratum(), between),
    )


def sum_to_zero(count: int) -> np.ndarray:
    """Codes of so many things in one column less: effects that sum to 0 over all of them."""
    return np.vstack([np.eye(count - 1), -np.ones((1, count - 1))])


class _Compared:
    """Comparisons of one kind, gathered."""

    def __init__(self, width: int):
        self.information, self.toward, self.squares, self.freedom = (
            np.zeros((width, width)),
            np.zeros(width),
            0.0,
            0,
        )

    def add(self, values: np.ndarray, rows: np.ndarray) -> None:
        """Things of one group, with the judges after each."""
        values, rows = values - values.mean(), rows - rows.mean(axis=0)
        self.information += rows.T @ rows
        self.toward += rows.T @ values
        self.squares += float(values @ values)
        self.freedom += len(values) - 1

    def stratum(self) -> Stratum:
        return Stratum(self.information, self.toward, self.squares, self.freedom)
