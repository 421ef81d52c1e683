"""The prompts to send next: those that would tell most, or that come nearest to the best; written
with the family's own formula, under its own rules.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.app.asked import Ask, Taste
from syntagma.app.composing.composer import Composer
from syntagma.app.families.compiled import names_of
from syntagma.app.results.effects import EffectsReport
from syntagma.app.results.judged import BLANK, Judged
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.designs.constraints import Named, read_rules
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting import TooLong
from syntagma.core.judging.effects import level_out
from syntagma.core.judging.layout import contrasts
from syntagma.core.judging.observed import Factors
from syntagma.core.judging.planning import next_rows
from syntagma.core.judging.promising import promising_rows
from syntagma.core.vocabulary.terms import normal
from syntagma.core.writing.prompt import PLAINLY

DECIDED = 0.25  # how much less an effect counts that is known already
ROUNDS = 8
CONTRADICTION = "contradiction"


class Next(NamedTuple):
    """One prompt to send next: its choices, and its record (None if it can't be written from here,
    with why).
    """

    choices: Mapping[str, str]
    record: Mapping[str, Any] | None
    why: str = ""


class FamilyRules:
    """The rules that made a family, on the choices of what was judged. `unread` are those that say
    nothing of these choices, or that can't be read here.
    """

    def __init__(self, workspace: Workspace, family: Judged, factors: Factors):
        self.unread: tuple[str, ...] = ()
        self._nogoods: tuple[frozenset[tuple[int, int]], ...] = ()
        if family.rules:
            named = _Written(workspace, family, factors).named()
            rules = [(text, *read_rules([text], named, "--rule")) for text in family.rules]
            self._nogoods = tuple(
                nogood for _, read, _ in rules for rule in read for nogood in rule.nogoods
            )
            self.unread = tuple(text for text, _, mistakes in rules if mistakes)

    def allow(self, row: Sequence[int]) -> bool:
        """May these choices (a level number for each axis) go together?"""
        return not any(
            all(row[axis] == level for axis, level in nogood) for nogood in self._nogoods
        )


def next_prompts(
    workspace: Workspace,
    family: Judged,
    count: int,
    report: EffectsReport,
    allowed: Callable[[Sequence[int]], bool],
    best: bool = False,
    seed: int = 1,
) -> list[Next]:
    """The `count` prompts that would show most of what is unknown, or (`best`) that come nearest to
    the best combination. What the rules of the family forbid, and combinations whose words
    contradict each other, are passed over.
    """
    factors = report.table.factors
    judged_table = report.table._replace(outcome=level_out(report.table, report.fit.levels))
    open_choices = [(e.axis, e.choice) for e in report.fit.effects if not e.told]
    weights = [
        (
            1.0
            if not open_choices
            or (factors.names[c.axis], factors.levels[c.axis][c.level]) in open_choices
            else DECIDED
        )
        for c in contrasts(factors)
    ]
    writer = _Written(workspace, family, factors)
    passed: set[tuple[int, ...]] = set()
    found: list[Next] = []
    for _ in range(ROUNDS):
        fits = lambda row: tuple(row) not in passed and allowed(row)  # noqa: E731
        rows = (
            promising_rows(judged_table, count, fits, seed)
            if best
            else next_rows(factors, count, fits, weights, seed)
        )
        found = []
        for row in rows:
            made = writer.of(row, len(family.prompts) + len(found) + 1)
            if made is None:
                passed.add(row)
            else:
                found.append(made)
        if len(found) == len(rows):
            break
    return found


class _Written:
    """Writes combinations with the formula that the family was made by."""

    def __init__(self, workspace: Workspace, family: Judged, factors: Factors):
        self.workspace, self.factors, self.rules = workspace, factors, family.rules
        self.record = next(
            (dict(one.record) for one in family.kept if one.record.fills is not None), {}
        )
        self._composers: dict[tuple[str, str], Composer] = {}
        self._made: dict[tuple[int, ...], Next | None] = {}

    def of(self, row: tuple[int, ...], number: int) -> Next | None:
        """A combination as a prompt; None if its words contradict each other."""
        choices = {
            name: self.factors.levels[axis][row[axis]]
            for axis, name in enumerate(self.factors.names)
        }
        formula = str(self.record.get("formula", ""))
        if not formula or not self.record:
            return Next(choices, None, "its results don't say which formula made them")
        if row not in self._made:
            self._made[row] = self._compose(choices, formula)
        made = self._made[row]
        if made is None or made.record is None:
            return made
        base = {
            name: levels[0]
            for name, levels in zip(self.factors.names, self.factors.levels, strict=True)
        }
        changes = {
            name: [base[name], choice] for name, choice in choices.items() if choice != base[name]
        }
        return made._replace(
            record={
                **made.record,
                "design": {
                    "name": "effects",
                    **({"rules": list(self.rules)} if self.rules else {}),
                    "index": number,
                    "changes": changes,
                },
            }
        )

    def named(self) -> Named:
        """What rules can speak of: every choice by its names, and what is the same in all
        prompts.
        """
        try:
            ask = Ask(
                str(self.record.get("formula", "")),
                str(self.record.get("model", "")) or None,
                tuple(self.record.get("looks") or ()),
                Taste(),
                manner=PLAINLY,
            )
            writer = Composer(self.workspace, ask, remarks=False).writer
        except (Trouble, Refused):
            return Named(
                self.factors.names,
                [
                    [frozenset({normal(level)}) for level in levels]
                    for levels in self.factors.levels
                ],
            )

        def names(slot: str, words: str) -> frozenset[str]:
            try:
                fill = writer.fills({slot: words})[writer.position[slot]]
            except (KeyError, BadFills, Refused, Trouble):
                return frozenset({normal(words)})
            return names_of(fill) | {normal(words)}

        levels = []
        for axis, own in zip(self.factors.names, self.factors.levels, strict=True):
            slots = axis.split("+")
            levels.append(
                [
                    frozenset({normal(level)}).union(
                        *(
                            names(slot, "" if part == BLANK else part)
                            for slot, part in zip(slots, level.split(" / "), strict=False)
                        )
                    )
                    for level in own
                ]
            )
        varied = {slot for axis in self.factors.names for slot in axis.split("+")}
        fixed = {
            slot: names(slot, "; ".join(fill) if isinstance(fill, list) else str(fill))
            for slot, fill in self.record.get("fills", {}).items()
            if slot not in varied and fill
        }
        return Named(self.factors.names, levels, fixed)

    def _compose(self, choices: Mapping[str, str], formula: str) -> Next | None:
        fills = {
            slot: "; ".join(fill) if isinstance(fill, list) else str(fill)
            for slot, fill in self.record["fills"].items()
        }
        model, parameters = str(self.record.get("model", "")), {}
        for axis, choice in choices.items():
            said = "" if choice == BLANK else choice
            if axis == "model":
                model = choice
            elif axis.startswith("parameter."):
                parameters[axis.partition(".")[2]] = choice
            elif "+" in axis:
                parts = choice.split(" / ")
                slots = axis.split("+")
                if len(parts) != len(slots):
                    return Next(choices, None, f"“{choice}” can't be split into {axis}")
                fills |= {
                    slot: "" if part == BLANK else part
                    for slot, part in zip(slots, parts, strict=True)
                }
            elif "." in axis or axis in ("look", "theme", "detail", "order"):
                return Next(choices, None, f"only expand can vary {axis}")
            else:
                fills[axis] = said
        try:
            key = (model, repr(sorted(parameters.items())))
            if key not in self._composers:
                looks = self.record.get("looks") or ()
                ask = Ask(
                    formula,
                    model or None,
                    tuple(looks),
                    Taste(),
                    manner=PLAINLY._replace(
                        parameters={**(self.record.get("parameters") or {}), **parameters}
                    ),
                )
                self._composers[key] = Composer(self.workspace, ask, remarks=False)
            composed = self._composers[key].compose(
                {slot: fill for slot, fill in fills.items() if fill}
            )
        except (Trouble, Refused, BadFills, TooLong) as wrong:
            return Next(choices, None, str(wrong) or type(wrong).__name__)
        if any(CONTRADICTION in one.message for one in composed.findings):
            return None
        return Next(choices, composed.record)
