"""Plan files: a whole family as TOML, so it can be made again, changed by a line, and kept in version control."""

from collections.abc import Mapping
from typing import Any

from syntagma.app.composing.asked import Taste
from syntagma.app.families.wish import Design, FamilySpec, read_vary
from syntagma.core.diagnostics.places import Mistake, Refused, mistake_at
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.models.references import reference_of
from syntagma.core.notation.ranges import OutOfRange, number
from syntagma.core.notation.structure import Structure
from syntagma.core.notation.toml_file import TomlFile
from syntagma.core.notation.toml_places import place_in_toml
from syntagma.core.notation.toml_writer import pair, table
from syntagma.core.notation.validation import UNKNOWN, Fault, converted, wanted
from syntagma.core.writing.prompt import Manner
from syntagma.storage.trouble import Trouble


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


_RANGED = {key: key for key in ("count", "strength", "effort", "draw", "different", "without", "takes")} | {"stress": "weight"}


def read_plan(text: str, source: str) -> FamilySpec:
    """Read a plan file. Raises Refused if a key or a value is none, Trouble where something in it says too little."""
    file = TomlFile(text, source)
    plan, faults = converted(file.values(), _Plan)
    if faults:
        raise Refused([_mistake(file, source, fault) for fault in faults])
    mistakes = []
    for key in _RANGED:
        values = getattr(plan, key)
        for value in values.values() if isinstance(values, dict) else values if isinstance(values, list) else [values]:
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
            f"{source} says {'both a formula and a text' if plan.text else 'no formula'}", 'write formula = "poster", or text = "…"', 1
        )
    references = [found for word in plan.references if (found := reference_of(word))]
    design = Design(
        plan.design, plan.count, plan.all, plan.rules, plan.strength, plan.groups, plan.effort, plan.interest, plan.different,
        tuple(plan.without), plan.refill, plan.allow, plan.takes,
    )  # fmt: skip
    vary, taste = [read_vary(word) for word in plan.vary], Taste(plan.themes, plan.detail, plan.draw, plan.mine)
    manner = Manner(plan.stress, plan.parameters, references)
    return FamilySpec(plan.formula, plan.fills, vary, design, plan.models or [None], taste, plan.looks, manner, plan.text, plan.pick)


def _mistake(file: TomlFile, source: str, fault: Fault) -> Mistake:
    key = next((step for step in fault.path if isinstance(step, str)), "")
    known = _Plan.FIELDS
    if fault.what == UNKNOWN:
        message, remedy = f"a plan has no key “{key}”", perhaps(key, known, f"the keys of a plan are {', '.join(known)}")
    else:
        message, remedy = f"{'each value of ' if '…' in fault.path else ''}“{key}” takes {wanted(fault.what)}", f"correct the value of {key}"
    return mistake_at(source, file.text, place_in_toml(file.text, (key,)), message, remedy)


def plan_text(wish: FamilySpec) -> str:
    """A wish as a plan file, without values that are the default."""
    plain, design = _Plan(), wish.design
    said: dict[str, Any] = {
        "formula": wish.formula, "text": wish.text, "design": design.name, "count": design.count, "strength": design.strength,
        "effort": design.effort, "draw": wish.taste.draw, "detail": wish.taste.detail, "mine": wish.taste.mine, "all": design.everything, "different": design.different,
        "models": [m for m in wish.models if m], "looks": list(wish.looks), "themes": list(wish.taste.themes), "vary": [v.typed for v in wish.vary],
        "rules": list(design.rules), "interest": list(design.interest), "groups": list(design.groups), "allow": list(design.allow), "pick": wish.pick,
        "without": list(design.without), "refill": design.refill, "takes": design.takes, "references": [r.typed for r in wish.manner.references],
    }  # fmt: skip
    lines = ["# A plan of Syntagma: `syntagma expand THIS.toml` makes the family."]
    for key, value in said.items():
        if value not in (None, "", [], getattr(plain, key)) or key == "draw":
            lines.append(pair(key, value))
    tables: dict[str, Mapping] = {"fills": wish.given, "parameters": wish.manner.parameters, "stress": wish.manner.stress}
    for name, said_of in tables.items():
        lines += table(name, said_of)
    return "\n".join([*lines, ""])
