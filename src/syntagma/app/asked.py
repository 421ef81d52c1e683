"""What a call asks for: formula, model, looks, taste, manner; and the call that makes a prompt
again.
"""

import re
import shlex
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.diagnostics import Trouble
from syntagma.core.drafting.fills import Fill, Given
from syntagma.core.formula import SlotRule
from syntagma.core.models.references import reference_of
from syntagma.core.notation import ranges
from syntagma.core.vocabulary.terms import Vocabulary, normal
from syntagma.core.writing.prompt import PLAINLY, Manner
from syntagma.core.writing.prompt_writer import Writer

# ──── What a person asks for besides fills: looks, themes, how much is filled, what is picked, and
# in which manner it is written.


def check(
    manner: Manner,
    models: Sequence[str | None] = (),
    looks: Sequence[str] = (),
    themes: Sequence[str] = (),
) -> None:
    """See that what is asked for makes sense, wherever it was said. Raises Trouble."""
    for name, value in manner.parameters.items():
        ranges.parameter(name, value)
    for weight in manner.stress.values():
        ranges.number("weight", weight)
    for reference in manner.references:
        if reference.strength is not None:
            ranges.number("reference", reference.strength)
    for names, what in ((models, "model"), (looks, "look"), (themes, "theme")):
        ranges.unlike([name for name in names if name], what)


def manner_of(
    parameters: Mapping[str, str], references: Iterable[str] = (), stress: Mapping[str, str] = {}
) -> Manner:
    """Parameters, references (role=what) and weights as a person writes them. Raises Trouble."""
    found = []
    for word in references:
        reference = reference_of(word)
        if reference is None:
            raise Trouble(
                f"“{word}” is not a complete reference",
                "write the role before it: style=print.png",
                2,
            )
        found.append(reference)
    weights: dict[str, float] = {}
    for slot, weight in stress.items():
        weights[slot] = ranges.number("weight", weight, f"{slot}=1.3")
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
    """How picks are made: the themes that they lean to, how much of a formula is filled, the draw,
    and whether they keep to terms of the person's own (`mine`) where a slot has any.
    """

    themes: Sequence[str] = ()
    detail: str = "usual"
    draw: int = 1
    mine: bool = False


USUAL = Taste()


class Ask(NamedTuple):
    """A formula with all that is asked for round it. `pick`: every open slot is picked; `again`:
    the slots to pick again (one that is named twice takes the second other choice).
    """

    formula: str
    model: str | None = None
    looks: Sequence[str] = ()
    taste: Taste = USUAL
    pick: bool = False
    again: Sequence[str] = ()
    manner: Manner = PLAINLY


# ──── The call that makes a prompt again: formula, fills, looks and model as a person would type
# them.


def typed(fill: Fill | None) -> str:
    """A fill as it is typed after slot=: the members of a list with ";" between them, their own
    semicolons escaped.
    """
    if fill is None:
        return ""
    if isinstance(fill.given, str):
        return fill.given
    return "; ".join(re.sub(r"(?<!\\);", r"\\;", part) for part in fill.given)


def words_of(fills: Mapping[str, str]) -> list[str]:
    """slot=text words, quoted for a shell where they need it."""
    return [f"{slot}={shlex.quote(text) if text else ''}" for slot, text in fills.items()]


def call_of(
    ask: Ask,
    rules: Sequence[SlotRule],
    fills: Sequence[Fill | None],
    wish: str = "",
    heard: Collection[str] = (),
) -> str:
    """The compose call that gives these fills; what a slot has by default is left unsaid, and so
    are those `heard` in a `wish`.
    """
    said: dict[str, str] = {}
    for rule, fill in zip(rules, fills, strict=True):
        text, default = typed(fill), "; ".join(rule.default)
        if text != default and rule.name not in heard:
            said[rule.name] = text
    words = ["syntagma compose", shlex.quote(ask.formula), *words_of(said)]
    words += ["--from", shlex.quote(wish)] if wish else []
    words += ["--look", ",".join(ask.looks)] if ask.looks else []
    words += ["--model", ask.model] if ask.model else []
    words += [
        f"--parameter {name}={shlex.quote(str(value))}"
        for name, value in ask.manner.parameters.items()
    ]
    words += [f"--reference {shlex.quote(reference.typed)}" for reference in ask.manner.references]
    words += [f"--stress {name}={weight:g}" for name, weight in ask.manner.stress.items()]
    return " ".join(words)
