"""What is asked of a family: as a call gives it, and as a plan file keeps it."""

import re
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.app.asked import USUAL, Taste
from syntagma.core.diagnostics import Mistake, Refused, Trouble, mistake_at, perhaps
from syntagma.core.drafting.fills import Given
from syntagma.core.models.references import reference_of
from syntagma.core.notation.ranges import OutOfRange, number
from syntagma.core.notation.structure import Structure
from syntagma.core.notation.toml import TomlFile, pair, place_in_toml, table
from syntagma.core.notation.validation import UNKNOWN, Fault, converted
from syntagma.core.writing.prompt import PLAINLY, Manner

# ──── What a family is to be, as a person asks for it: what is fixed, what varies, and the design.


class Vary(NamedTuple):
    """An axis as asked for: a name with its values as text, or a number of picks, or neither for
    all its terms. `doubtful`: a comma with a blank after it parts the values, as it may within one
    value too.
    """

    slot: str
    values: tuple[str, ...] = ()
    picks: int = 0
    doubtful: bool = False

    @property
    def typed(self) -> str:
        """The axis as it is typed after --vary."""
        if self.values:
            mark = "; " if any(set(",;") & set(value) for value in self.values) else ","
            return f"{self.slot}={mark.join(value.replace(';', chr(92) + ';') for value in self.values)}"  # noqa: E501
        return f"{self.slot}:{self.picks}" if self.picks else self.slot


class Design(NamedTuple):
    """How members are chosen out of what varies; without a name, as what is asked for makes it
    best. `groups` are strengths of groups of axes, 3:light+medium+lens; `without` the numbers of
    members that are left out; `allow` levels that come in spite of what they contradict; `takes`
    how many results each is to have.
    """

    name: str = ""
    count: int | None = None  # type: ignore[assignment]  # hides tuple.count, which nobody asks a design for
    everything: bool = False
    rules: Sequence[str] = ()
    strength: int = 2
    groups: Sequence[str] = ()
    effort: float = 1.0
    interest: Sequence[str] = ()
    different: float = 0.0
    without: tuple[int, ...] = ()
    refill: bool = False
    allow: Sequence[str] = ()
    takes: int = 1


class FamilySpec(NamedTuple):
    """What a family is to be. `text`: a finished prompt in place of a formula; `pick`: what is
    open, and not varied, is picked for all members alike.
    """

    formula: str
    given: Mapping[str, Given] = {}
    vary: Sequence[Vary] = ()
    design: Design = Design()
    models: Sequence[str | None] = (None,)
    taste: Taste = USUAL
    looks: Sequence[str] = ()
    manner: Manner = PLAINLY
    text: str = ""
    pick: bool = False


def read_vary(word: str) -> Vary:
    """Read one axis: SLOT, SLOT=a; b; c (a value that is a list of its own has \\; in it) or, where
    no ; is in it, SLOT=a,b,c; SLOT:4, stress.SLOT=0.8..1.4/0.2, parameter.NAME=1,2, seed=1..4,
    model=A,B, look=none,A. Raises Trouble.
    """
    slot, equals, rest = word.partition("=")
    if equals:
        mark = ";" if re.search(r"(?<!\\);", rest) else ","
        parts = re.split(rf"(?<!\\){mark}", rest)
        values = tuple(re.sub(r"\\([,;])", r"\1", part).strip() for part in parts)
        if not any(values):
            raise Trouble(
                f"--vary {word} names no value",
                f"write --vary {slot}=one,two or --vary {slot}:4",
                2,
            )
        return Vary(
            slot,
            values[:-1] if mark == ";" and len(values) > 1 and not values[-1] else values,
            doubtful=mark == "," and bool(re.search(r"(?<!\\), ", rest)),
        )
    slot, colon, picks = word.partition(":")
    if not colon:
        return Vary(slot)
    return Vary(slot, picks=int(number("picks", picks, f"--vary {slot}:4")))


# ──── Plan files: a whole family as TOML, so it can be made again, changed by a line, and kept in
# version control.


class _Plan(Structure):
    """The keys of a plan file."""

    formula: str = ""
    text: str = ""
    design: str = ""
    count: int | None = None
    strength: int = 2
    effort: float = 1.0
    draw: int = 1
    detail: str = "usual"
    mine: bool = False
    all: bool = False
    different: float = 0.0
    models: list[str] = []
    looks: list[str] = []
    themes: list[str] = []
    vary: list[str] = []
    rules: list[str] = []
    interest: list[str] = []
    groups: list[str] = []
    allow: list[str] = []
    pick: bool = False
    without: list[int] = []
    refill: bool = False
    takes: int = 1
    fills: dict[str, str | list[str]] = {}
    parameters: dict[str, str | int | float | bool] = {}
    references: list[str] = []
    stress: dict[str, float] = {}


_RANGED = {
    key: key for key in ("count", "strength", "effort", "draw", "different", "without", "takes")
} | {"stress": "weight"}


def read_plan(text: str, source: str) -> FamilySpec:
    """Read a plan file. Raises Refused if a key or a value is none, Trouble where something in it
    says too little.
    """
    file = TomlFile(text, source)
    plan, faults = converted(file.values(), _Plan)
    if faults or plan is None:
        raise Refused([_mistake(file, source, fault) for fault in faults])
    mistakes = []
    for key in _RANGED:
        values = getattr(plan, key)
        for value in (
            values.values() if key == "stress" else values if key == "without" else [values]
        ):
            try:
                if value is not None:
                    number(_RANGED[key], value)
            except OutOfRange as wrong:
                span = place_in_toml(file.text, (key,))
                mistakes.append(mistake_at(source, file.text, span, str(wrong), wrong.remedy))
    if mistakes:
        raise Refused(mistakes)
    if bool(plan.formula) == bool(plan.text):
        raise Trouble(
            f"{source} says {'both a formula and a text' if plan.text else 'no formula'}",
            'write formula = "poster", or text = "…"',
            1,
        )
    references = [found for word in plan.references if (found := reference_of(word))]
    design = Design(
        plan.design,
        plan.count,
        plan.all,
        plan.rules,
        plan.strength,
        plan.groups,
        plan.effort,
        plan.interest,
        plan.different,
        tuple(plan.without),
        plan.refill,
        plan.allow,
        plan.takes,
    )
    vary, taste = (
        [read_vary(word) for word in plan.vary],
        Taste(plan.themes, plan.detail, plan.draw, plan.mine),
    )
    manner = Manner(plan.stress, plan.parameters, references)
    return FamilySpec(
        plan.formula,
        plan.fills,
        vary,
        design,
        plan.models or [None],
        taste,
        plan.looks,
        manner,
        plan.text,
        plan.pick,
    )


def _mistake(file: TomlFile, source: str, fault: Fault) -> Mistake:
    key = next((step for step in fault.path if isinstance(step, str)), "")
    known = _Plan.FIELDS
    if fault.code == UNKNOWN:
        message, remedy = (
            f"a plan has no key “{key}”",
            perhaps(key, known, f"the keys of a plan are {', '.join(known)}"),
        )
    else:
        message, remedy = (
            f"{'each value of ' if len(fault.path) > 1 else ''}“{key}” takes {fault.expected}",
            f"correct the value of {key}",
        )
    return mistake_at(source, file.text, place_in_toml(file.text, (key,)), message, remedy)


def plan_text(wish: FamilySpec) -> str:
    """A wish as a plan file, without values that are the default."""
    plain, design = _Plan(), wish.design
    said: dict[str, Any] = {
        "formula": wish.formula,
        "text": wish.text,
        "design": design.name,
        "count": design.count,
        "strength": design.strength,
        "effort": design.effort,
        "draw": wish.taste.draw,
        "detail": wish.taste.detail,
        "mine": wish.taste.mine,
        "all": design.everything,
        "different": design.different,
        "models": [m for m in wish.models if m],
        "looks": list(wish.looks),
        "themes": list(wish.taste.themes),
        "vary": [v.typed for v in wish.vary],
        "rules": list(design.rules),
        "interest": list(design.interest),
        "groups": list(design.groups),
        "allow": list(design.allow),
        "pick": wish.pick,
        "without": list(design.without),
        "refill": design.refill,
        "takes": design.takes,
        "references": [r.typed for r in wish.manner.references],
    }
    lines = ["# A plan of Syntagma: `syntagma expand THIS.toml` makes the family."]
    for key, value in said.items():
        if value not in (None, "", [], getattr(plain, key)) or key == "draw":
            lines.append(pair(key, value))
    tables: dict[str, Mapping] = {
        "fills": wish.given,
        "parameters": wish.manner.parameters,
        "stress": wish.manner.stress,
    }
    for name, said_of in tables.items():
        lines += table(name, said_of)
    return "\n".join([*lines, ""])
