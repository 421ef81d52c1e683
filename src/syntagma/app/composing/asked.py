"""What a person asks for besides fills: looks, themes, how much is filled, what is picked, and in which manner it is written."""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.fills import Given
from syntagma.core.models.references import reference_of
from syntagma.core.notation import ranges
from syntagma.core.vocabulary.terms import Vocabulary, normal
from syntagma.core.writing.prompt import PLAINLY, Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.trouble import Trouble


def check(manner: Manner, models: Sequence[str | None] = (), looks: Sequence[str] = (), themes: Sequence[str] = ()) -> None:
    """See that what is asked for makes sense, wherever it was said. Raises Trouble."""
    try:
        for name, value in manner.parameters.items():
            ranges.parameter(name, value)
        for weight in manner.stress.values():
            ranges.number("weight", weight)
        for reference in manner.references:
            if reference.strength is not None:
                ranges.number("reference", reference.strength)
        for names, what in ((models, "model"), (looks, "look"), (themes, "theme")):
            ranges.unlike([name for name in names if name], what)
    except ranges.OutOfRange as wrong:
        raise Trouble(str(wrong), wrong.remedy, 2) from None


def manner_of(parameters: Mapping[str, str], references: Iterable[str] = (), stress: Mapping[str, str] = {}) -> Manner:
    """Parameters, references (role=what) and weights as a person writes them. Raises Trouble."""
    found = []
    for word in references:
        reference = reference_of(word)
        if reference is None:
            raise Trouble(f"“{word}” is not a complete reference", "write the role before it: style=print.png", 2)
        found.append(reference)
    weights: dict[str, float] = {}
    for slot, weight in stress.items():
        try:
            weights[slot] = ranges.number("weight", weight)
        except ranges.OutOfRange as wrong:
            raise Trouble(str(wrong), f"{wrong.remedy}: {slot}=1.3", 2) from None
    manner = Manner(weights, parameters, found)
    check(manner)
    return manner


PICK = "pick"  # in a slot, on the call or in a cell: choose for me


def to_pick(writer: Writer, given: Mapping[str, Given], vocabulary: Vocabulary) -> list[str]:
    """The slots for which a person says pick, and that have terms to pick from."""
    at = writer.position
    said = [slot for slot, text in given.items() if isinstance(text, str) and normal(text) == PICK]
    return [slot for slot in said if slot in at and writer.rules[at[slot]].facet in vocabulary]


class Taste(NamedTuple):
    """How picks are made: the themes that they lean to, how much of a formula is filled, the draw, and whether they keep to terms of the
    person's own (`mine`) where a slot has any."""

    themes: Sequence[str] = ()
    detail: str = "usual"
    draw: int = 1
    mine: bool = False


USUAL = Taste()


class Ask(NamedTuple):
    """A formula with all that is asked for round it. `pick`: every open slot is picked; `again`: the slots to pick again (one
    that is named twice takes the second other choice)."""

    formula: str
    model: str | None = None
    looks: Sequence[str] = ()
    taste: Taste = USUAL
    pick: bool = False
    again: Sequence[str] = ()
    manner: Manner = PLAINLY
