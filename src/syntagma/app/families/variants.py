"""Variants of a family: where something else than slots varies (a parameter, weight, the model, a mount), each combination of those has
writers of its own."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from syntagma.app.composing.picks import Chooser
from syntagma.core.designs import Setting
from syntagma.core.designs.axes import Combination, Together
from syntagma.core.drafting.fills import Fill
from syntagma.core.models import Profile
from syntagma.core.writing.prompt import Prompt
from syntagma.core.writing.prompt_writer import Writer

if TYPE_CHECKING:
    from syntagma.app.families.family import Family


class Variant:
    """Writers with their runs, for one setting of everything that is no slot."""

    def __init__(self, family: "Family", settings: Sequence[Setting]):
        wish, workspace = family.wish, family.workspace
        models, mounts, manner = list(wish.models), list(wish.mounts), workspace.manner(wish.manner._replace(controlled=True))
        parameters, stress, taste, order = dict(manner.parameters), dict(manner.stress), wish.taste, None
        picked = any(one.kind in ("theme", "detail") for one in settings)
        for one in settings:
            if one.kind == "model":
                models = [one.value]
            elif one.kind == "mount":
                mounts += [] if one.value == "none" else one.value.split("+")
            elif one.kind == "parameter":
                parameters[one.name] = one.value
            elif one.kind == "theme":
                taste = taste._replace(themes=[] if one.value == "none" else one.value.split("+"))
            elif one.kind == "detail":
                taste = taste._replace(detail=one.value)
            elif one.kind == "order":
                order = [] if one.value == "formula" else one.value.split("+")
            else:
                stress[one.name] = float(one.value)
        manner = manner._replace(parameters=parameters, stress=stress)
        if settings:
            formula, _ = workspace.put_round(family.formula, mounts[len(wish.mounts) :])
            self.writers = [Writer(formula, _ordered(workspace.model(m), order), workspace.vocabulary, manner) for m in models]
        else:
            self.writers = family.writers
        first = self.writers[0]
        self.fills = family.fills if not settings else first.fills({s: "" if s in family.picked else t for s, t in wish.given.items()})
        for slot in family.picked if settings else ():
            self.fills[first.position[slot]] = family.fills[family.writer.position[slot]]
        self.positions = [first.position[slot] for slot in family.slots]
        for position, slot in zip(self.positions, family.slots, strict=True):
            self.fills[position] = family.fills[family.writer.position[slot]]
        if picked:
            chooser = Chooser(workspace, first, taste)
            self.fills = chooser.pick(self.fills, chooser.open(self.fills, wish.given), chooser.random())
        self.writers = [writer.for_reach(self.fills) for writer in self.writers]
        self.runs = [writer.family(self.fills, self.positions) for writer in self.writers]


def _ordered(profile: Profile, order: Sequence[str] | None) -> Profile:
    """A model that wants its phrases in this order; as it is where none is asked for."""
    if order is None:
        return profile
    return replace(profile, text=replace(profile.text, order=list(order)))


class Variants:
    """All variants of a family, each made when it is first needed."""

    def __init__(self, family: "Family", slots: Sequence[int], settings: Sequence[int]):
        self._family, self._slots, self._at = family, slots, settings
        self._several = any(isinstance(level, Together) for axis in family.axes for level in axis.levels)
        self._made: dict[tuple[int, ...], Variant] = {}

    def of(self, combination: Combination) -> Variant:
        """The variant that a combination belongs to."""
        key = tuple(id(combination[i]) for i in self._at)
        if key not in self._made:
            self._made[key] = Variant(self._family, [combination[i] for i in self._at])
        return self._made[key]

    def slots_of(self, combination: Combination) -> tuple[Fill | None, ...]:
        """The fills of a combination, without what is no slot."""
        if not self._at and not self._several:
            return combination
        return tuple(
            fill
            for i in self._slots
            for fill in (combination[i].fills if isinstance(combination[i], Together) else (combination[i],))
        )

    def write_all(self, combinations: Sequence[Combination]) -> tuple[list[list[Prompt | None]], list[dict[int, Exception]]]:
        """Write combinations: for each model their prompts in order, and by place why there is none."""
        if not self._at:
            own = [self.slots_of(c) for c in combinations] if self._several else combinations
            written, bad = zip(*[run.write_all(own) for run in self.of(combinations[0]).runs], strict=True)
            return list(written), list(bad)
        groups: dict[int, tuple[Variant, list[int]]] = {}
        for i, combination in enumerate(combinations):
            variant = self.of(combination)
            groups.setdefault(id(variant), (variant, []))[1].append(i)
        models = len(self.of(combinations[0]).writers)
        written = [[None] * len(combinations) for _ in range(models)]
        bad: list[dict[int, Exception]] = [{} for _ in range(models)]
        for variant, at in groups.values():
            own = [self.slots_of(combinations[i]) for i in at]
            for m, run in enumerate(variant.runs):
                prompts, failures = run.write_all(own)
                for i, prompt in zip(at, prompts, strict=True):
                    written[m][i] = prompt
                bad[m] |= {at[i]: error for i, error in failures.items()}
        return written, bad
