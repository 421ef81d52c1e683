"""What a person asks for besides fills: mounts, themes, how much is filled, what is picked, and in which manner it is written."""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.prompt import PLAINLY, Manner


class Taste(NamedTuple):
    """How picks are made: the themes that they lean to, how much of a formula is filled, and the draw."""

    themes: Sequence[str] = ()
    detail: str = "usual"
    draw: int = 1


USUAL = Taste()


class Ask(NamedTuple):
    """A formula with all that is asked for round it. `pick`: every open slot is picked; `again`: the slots to pick anew (one
    that is named twice takes the second other choice)."""

    formula: str
    model: str | None = None
    mounts: Sequence[str] = ()
    taste: Taste = USUAL
    pick: bool = False
    again: Sequence[str] = ()
    manner: Manner = PLAINLY
