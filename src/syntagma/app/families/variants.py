"""Variants of a family: where something else than slots varies (a parameter, weight, the model, a look), each combination of those has
writers of its own."""

from collections.abc import Sequence

from syntagma.app.families.compiled import CompiledFamily
from syntagma.app.picking.chooser import Chooser
from syntagma.core.designs import Setting
from syntagma.core.designs.axes import Combination, Together
from syntagma.core.drafting.fills import Fill
from syntagma.core.models import Profile
from syntagma.core.notation.structure import changed
from syntagma.core.writing.prompt import Manner, Prompt
from syntagma.core.writing.prompt_writer import Writer
from syntagma.core.writing.prompts import Prompts

MOST = 200  # variants that are at hand at a time: each is a compiled formula


class _Set:
    """Everything that is not a slot, as a combination of settings has it."""

    def __init__(self, family: CompiledFamily, settings: Sequence[Setting]):
        wish, manner = family.wish, family.workspace.manner(family.wish.manner._replace(controlled=True))
        self.models, self.looks, self.taste = list(wish.models), [], wish.taste
        self.order: list[str] | None = None
        self.picks = False  # does a setting change what is picked?
        parameters, stress = dict(manner.parameters), dict(manner.stress)
        for one in settings:
            named = [] if one.value in ("none", "formula") else one.value.split("+")
            if one.kind == "model":
                self.models = [one.value]
            elif one.kind == "look":
                self.looks += named
            elif one.kind == "parameter":
                parameters[one.name] = one.value
            elif one.kind == "theme":
                self.taste, self.picks = self.taste._replace(themes=named), True
            elif one.kind == "detail":
                self.taste, self.picks = self.taste._replace(detail=one.value), True
            elif one.kind == "order":
                self.order = named
            else:
                stress[one.name] = float(one.value)
        self.manner: Manner = manner._replace(parameters=parameters, stress=stress)


class Variant:
    """Writers with their fills, for one setting of everything that is not a slot."""

    def __init__(self, family: CompiledFamily, settings: Sequence[Setting]):
        self.writers, self.fills = (list(family.writers), list(family.fills)) if not settings else _made(family, settings)
        first = self.writers[0]
        self.positions = [first.position[slot] for slot in family.slots]
        for position, slot in zip(self.positions, family.slots, strict=True):
            self.fills[position] = family.fills[family.writer.position[slot]]
        self.families = [writer.family(self.fills, self.positions) for writer in self.writers]


def _made(family: CompiledFamily, settings: Sequence[Setting]) -> tuple[list[Writer], list[Fill | None]]:
    wish, workspace, asked = family.wish, family.workspace, _Set(family, settings)
    formula, _ = workspace.put_round(family.formula, asked.looks)
    writers = [Writer(formula, _ordered(workspace.model(m), asked.order), workspace.vocabulary, asked.manner) for m in asked.models]
    first = writers[0]
    fills = first.fills({slot: "" if slot in family.picked else text for slot, text in wish.given.items()})
    for slot in (*family.picked, *family.slots):
        fills[first.position[slot]] = family.fills[family.writer.position[slot]]
    if asked.picks:
        chooser = Chooser(workspace, first, asked.taste)
        fills = chooser.pick(fills, chooser.open(fills, wish.given), chooser.random())
    return [writer.for_reach(fills) for writer in writers], fills


def _ordered(profile: Profile, order: Sequence[str] | None) -> Profile:
    """A model that wants its phrases in this order; as it is if none is asked for."""
    if order is None:
        return profile
    return changed(profile, text=changed(profile.text, order=list(order)))


class Variants:
    """All variants of a family, each made when it is needed; those that were needed longest ago go."""

    def __init__(self, family: CompiledFamily):
        self._family = family
        self._slots = [i for i, axis in enumerate(family.axes) if not axis.kind]
        self._at = [i for i, axis in enumerate(family.axes) if axis.kind]
        self._several = any(isinstance(level, Together) for axis in family.axes for level in axis.levels)
        self._made: dict[tuple[int, ...], Variant] = {}

    def of(self, combination: Combination) -> Variant:
        """The variant that a combination belongs to."""
        key = tuple([id(combination[i]) for i in self._at]) if self._at else ()
        if key not in self._made:
            if len(self._made) >= MOST:
                del self._made[next(iter(self._made))]
            self._made[key] = Variant(self._family, [combination[i] for i in self._at])
        return self._made[key]

    def slots_of(self, combination: Combination) -> tuple[Fill | None, ...]:
        """The fills of a combination, without what is not a slot."""
        if not self._at and not self._several:
            return combination
        return tuple(
            fill
            for i in self._slots
            for fill in (combination[i].fills if isinstance(combination[i], Together) else (combination[i],))
        )

    def write_all(self, combinations: Sequence[Combination]) -> tuple[list[Prompts], list[dict[int, Exception]]]:
        """Write combinations: for each model their prompts in order, and by place why there is none."""
        if not self._at:
            own = [self.slots_of(c) for c in combinations] if self._several else combinations
            written, bad = zip(*[one.write_all(own) for one in self.of(combinations[0]).families], strict=True)
            return list(written), list(bad)
        groups: dict[int, tuple[Variant, list[int]]] = {}
        for i, combination in enumerate(combinations):
            variant = self.of(combination)
            groups.setdefault(id(variant), (variant, []))[1].append(i)
        models = len(self.of(combinations[0]).writers)
        written: list[list[Prompt | None]] = [[None] * len(combinations) for _ in range(models)]
        bad: list[dict[int, Exception]] = [{} for _ in range(models)]
        for variant, at in groups.values():
            own = [self.slots_of(combinations[i]) for i in at]
            for m, one in enumerate(variant.families):
                prompts, failures = one.write_all(own)
                for i, prompt in zip(at, prompts, strict=True):
                    written[m][i] = prompt
                bad[m] |= {at[i]: error for i, error in failures.items()}
        return list(map(Prompts.of, written)), bad
