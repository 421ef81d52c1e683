"""What was judged: takes of prompts whose choices are known, and what each prompt came to.

Judges of one picture are not so many samples, and draws of one prompt are not so many prompts: judges are averaged first, then draws, and what is left is
one number a prompt.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np

MARKS = (0, 1, 2, 3, 4, 5)


class Take(NamedTuple):
    """One result of a prompt: who gave it which value (a mark 0 to 5; kept 1 or 0; a strength). A result that was refused is one of its own: `values` is
    empty, and it counts as the worst. `cost` is what it cost, None where that is not known."""

    prompt: str
    values: Mapping[str, float] = {}
    refused: bool = False
    cost: float | None = None


class Prompt(NamedTuple):
    """A prompt of a family: the choice on each axis, by the axes' names."""

    name: str
    choices: Mapping[str, str]


class Factors(NamedTuple):
    """The axes with their choices in the order in which they came, and of each prompt the number of its choice: `rows` is prompts × axes."""

    names: tuple[str, ...]
    levels: tuple[tuple[str, ...], ...]
    rows: np.ndarray

    def part(self, which: Sequence[int] | np.ndarray) -> "Factors":
        """Some of the prompts."""
        return self._replace(rows=self.rows[np.asarray(which, dtype=int)])


class Table(NamedTuple):
    """One number a prompt: `factors` of the prompts that were judged, their `outcome`, `draws` and `refused` of each (prompts long); `inner` is how far draws of one
    prompt scatter (standard deviation, nan where no prompt has two), with its degrees of freedom."""

    factors: Factors
    outcome: np.ndarray
    draws: np.ndarray
    refused: np.ndarray
    prompts: tuple[str, ...]
    inner: float = float("nan")
    inner_freedom: int = 0


def factors_of(prompts: Sequence[Prompt]) -> Factors:
    """The axes of prompts; an axis on which all choose the same is none."""
    names = list(dict.fromkeys(name for prompt in prompts for name in prompt.choices))
    levels = {name: list(dict.fromkeys(prompt.choices.get(name, "") for prompt in prompts)) for name in names}
    names = [name for name in names if len(levels[name]) > 1]
    rows = np.array([[levels[name].index(prompt.choices.get(name, "")) for name in names] for prompt in prompts], dtype=int).reshape(len(prompts), len(names))
    return Factors(tuple(names), tuple(tuple(levels[name]) for name in names), rows)


def table(prompts: Sequence[Prompt], takes: Iterable[Take], worst: float = 0.0, judges: Sequence[str] | None = None) -> Table:
    """What each prompt came to: judges averaged within a take (those in `judges`, None: all), then takes. A take that nobody judged and nobody refused is
    not there; a refused one has the `worst` value."""
    values: dict[str, list[float]] = {}
    refused: dict[str, int] = {}
    for take in takes:
        given = [value for judge, value in take.values.items() if judges is None or judge in judges]
        if take.refused:
            values.setdefault(take.prompt, []).append(worst)
            refused[take.prompt] = refused.get(take.prompt, 0) + 1
        elif given:
            values.setdefault(take.prompt, []).append(sum(given) / len(given))
    seen = [i for i, prompt in enumerate(prompts) if prompt.name in values]
    names = tuple(prompts[i].name for i in seen)
    squares = sum(float(np.var(values[name])) * len(values[name]) for name in names)
    freedom = sum(len(values[name]) - 1 for name in names)
    return Table(
        factors_of([prompts[i] for i in seen]), np.array([float(np.mean(values[name])) for name in names]), np.array([len(values[name]) for name in names], dtype=int),
        np.array([refused.get(name, 0) for name in names], dtype=int), names, float(np.sqrt(squares / freedom)) if freedom else float("nan"), freedom,
    )  # fmt: skip
