"""The prompts that would tell most next: chosen by what the design still lacks, written with the family's own formula."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.app.composing.asked import Ask, Taste
from syntagma.app.composing.composer import Composer
from syntagma.app.results.judged import Judged
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Refused
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting.limits import TooLong
from syntagma.core.judging.layout import contrasts
from syntagma.core.judging.observed import Factors, factors_of
from syntagma.core.judging.planning import next_rows
from syntagma.core.writing.prompt import PLAINLY
from syntagma.storage.trouble import Trouble

DECIDED = 0.25  # how much less an effect counts that is told already
ROUNDS = 8
CONTRADICTION = "contradiction"


class Next(NamedTuple):
    """One prompt to send next: its choices, and its record (None where it can't be written from here, with why)."""

    choices: Mapping[str, str]
    record: Mapping[str, Any] | None
    why: str = ""


def next_prompts(workspace: Workspace, family: Judged, count: int, open_choices: Sequence[tuple[str, str]], seed: int = 1) -> list[Next]:
    """The `count` prompts that would tell most; `open_choices` (axis, choice) are those of which nothing can be told yet. Combinations whose words contradict each
    other are passed over. Raises Trouble where the family's records do not say what it was made of."""
    factors = factors_of(family.prompts)
    weights = [1.0 if not open_choices or (factors.names[c.axis], factors.levels[c.axis][c.level]) in open_choices else DECIDED for c in contrasts(factors)]
    writer = _Written(workspace, family, factors)
    passed: set[tuple[int, ...]] = set()
    found: list[Next] = []
    for _ in range(ROUNDS):
        rows = next_rows(factors, count, lambda row: tuple(row) not in passed, weights, seed)
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
        self.workspace, self.factors = workspace, factors
        self.record = next((dict(one.record) for one in family.kept if isinstance(one.record.get("fills"), dict)), {})
        self._composers: dict[tuple[str, str], Composer] = {}
        self._made: dict[tuple[int, ...], Next | None] = {}

    def of(self, row: tuple[int, ...], number: int) -> Next | None:
        """A combination as a prompt; None where its words contradict each other."""
        choices = {name: self.factors.levels[axis][row[axis]] for axis, name in enumerate(self.factors.names)}
        formula = str(self.record.get("formula", ""))
        if not formula or not self.record:
            return Next(choices, None, "its results say nothing of a formula")
        if row not in self._made:
            self._made[row] = self._compose(choices, formula)
        made = self._made[row]
        if made is None or made.record is None:
            return made
        base = {name: levels[0] for name, levels in zip(self.factors.names, self.factors.levels, strict=True)}
        changes = {name: [base[name], choice] for name, choice in choices.items() if choice != base[name]}
        return made._replace(record={**made.record, "design": {"name": "effects", "index": number, "changes": changes}})

    def _compose(self, choices: Mapping[str, str], formula: str) -> Next | None:
        fills = {slot: ("; ".join(fill) if isinstance(fill, list) else str(fill)) for slot, fill in self.record["fills"].items()}
        model, parameters = str(self.record.get("model", "")), {}
        for axis, choice in choices.items():
            said = "" if choice == "(blank)" else choice
            if axis == "model":
                model = choice
            elif axis.startswith("parameter."):
                parameters[axis.partition(".")[2]] = choice
            elif "+" in axis:
                parts = choice.split(" / ")
                slots = axis.split("+")
                if len(parts) != len(slots):
                    return Next(choices, None, f"“{choice}” can't be taken apart into {axis}")
                fills |= {slot: "" if part == "(blank)" else part for slot, part in zip(slots, parts, strict=True)}
            elif "." in axis or axis in ("mount", "theme", "detail", "order"):
                return Next(choices, None, f"the axis {axis} is made by expand alone")
            else:
                fills[axis] = said
        try:
            key = (model, repr(sorted(parameters.items())))
            if key not in self._composers:
                mounts = self.record.get("mounts") or ()
                ask = Ask(formula, model or None, tuple(mounts), Taste(), manner=PLAINLY._replace(parameters={**(self.record.get("parameters") or {}), **parameters}))
                self._composers[key] = Composer(self.workspace, ask, remarks=False)
            composed = self._composers[key].compose({slot: fill for slot, fill in fills.items() if fill})
        except (Trouble, Refused, BadFills, TooLong) as wrong:
            return Next(choices, None, str(wrong) or type(wrong).__name__)
        if any("contradiction" in one.message for one in composed.findings):
            return None
        return Next(choices, composed.record)
