"""The combinations of a design in their order, and the variants of a family that write them."""

from collections.abc import Iterator, Sequence
from itertools import chain, combinations, islice
from typing import Any, NamedTuple, cast

from syntagma.app.families.compiled import CompiledFamily
from syntagma.app.picking import TRIES, Chooser
from syntagma.core.designs import Setting, full, sampled, single
from syntagma.core.designs.axes import Combination, Level, Together, terms_of
from syntagma.core.designs.constraints import Rule, cause
from syntagma.core.designs.level_rows import Space
from syntagma.core.diagnostics import Trouble, perhaps
from syntagma.core.drafting.fills import Fill
from syntagma.core.models import Profile
from syntagma.core.notation.structure import changed
from syntagma.core.writing.prompt import Manner, Prompt, Prompts
from syntagma.core.writing.prompt_writer import Writer

# ──── What a family's design comes down to: its combinations in their order, and why nothing is
# left if nothing is.


def contradiction(family: CompiledFamily) -> Trouble | None:
    """Why no combination at all may be, by the smallest set of rules and contradictions that causes
    it.
    """
    if not family.axes or not family.clashes:
        return None
    if family.design == "single":
        return _broken_baseline(family)
    words = [Rule(said(family, nogood), (nogood,)) for nogood in family.clashes.by_words]
    found = cause([len(a.levels) for a in family.axes], [*family.rules, *words])
    if not found:
        return None
    return Trouble(
        "no combination remains: " + "; ".join(rule.text for rule in found),
        "drop one of these rules, or add a level",
        1,
    )


def rule_against(family: CompiledFamily, combination: Sequence[Level]) -> str:
    """The rule of the person's that a combination breaks, as they wrote it."""
    at = [axis.levels.index(level) for axis, level in zip(family.axes, combination, strict=True)]
    broken = (
        r.text
        for r in family.rules
        if any(all(at[axis] == v for axis, v in nogood) for nogood in r.nogoods)
    )
    return next(broken, "a rule forbids it")


def _broken_baseline(family: CompiledFamily) -> Trouble | None:
    """Why the baseline of a single design may not stand, where a rule of the person's
    forbids it.
    """
    for rule in family.rules:
        if any(all(level == 0 for _, level in nogood) for nogood in rule.nogoods):
            remedy = "put another choice first in its --vary, or drop the rule"
            return Trouble(f"the baseline breaks a rule: {rule.text}", remedy, 2)
    return None


def said(family: CompiledFamily, nogood: Any) -> str:
    return " does not go with ".join(f"“{family.axes[a].label(v)}”" for a, v in sorted(nogood)) + (
        " what is fixed" if len(nogood) == 1 else ""
    )


class DesignRows(NamedTuple):
    """The combinations of a design in their order, the baseline first if it has one; of a mixed
    design how efficient it is.
    """

    combinations: Iterator[Combination]
    efficiency: float | None = None


def found(family: CompiledFamily, most: int | None) -> DesignRows:
    """The combinations of a family, more of them than it needs where some may fall out. `most`: how
    many there can be at all.
    """
    design, axes = family.wish.design, family.axes
    if not axes:
        return DesignRows(_picks(family))
    if family.design == "full":
        return DesignRows(
            full(axes)
            if design.count is None or (family.size is not None and design.count >= family.size)
            else sampled(axes, family.random)
        )
    if family.design == "single":
        return DesignRows(
            single(axes)
            if design.count is None or (family.size is not None and design.count >= family.size)
            else _shuffled(family)
        )
    if family.design in ("spread", "random", "mixed", "effects") and design.count == most:
        return DesignRows(full(axes))  # all that there are
    rows, efficiency = _rows(family)
    return DesignRows(
        (tuple(axis.levels[v] for axis, v in zip(axes, row, strict=True)) for row in rows),
        efficiency,
    )


def _shuffled(family: CompiledFamily) -> Iterator[Combination]:
    baseline, *others = single(family.axes)
    family.random.shuffle(others)
    return iter([baseline, *others])


def _picks(family: CompiledFamily) -> Iterator[Combination]:
    chooser, kept = family.chooser, {}
    for turn in range(TRIES * (family.wish.design.count or 1)):
        try:
            picked = chooser.pick(
                family.fills, family.open_slots, family.random, turn=turn, kept=kept
            )
        except Trouble:  # what was picked before left nothing that goes with it
            continue
        yield tuple(picked[chooser.writer.position[slot]] for slot in family.open_slots)


def _rows(family: CompiledFamily) -> tuple[Iterator[Sequence[int]], float | None]:
    """The rows of a design that is found or drawn, as level numbers; and how efficient it is, if
    that can be said.
    """
    from syntagma.core.designs.plain_rows import drawn, ladder

    design, space = family.wish.design, family.clashes.space()
    if design.name == "ladder":
        return iter([(v,) for v in ladder(len(family.axes[0].levels), design.count)]), None
    count = design.count or len(family.axes[0].levels)
    if design.name == "random":
        weights = [
            [2.0 ** sum(t.star for t in terms_of(level)) for level in a.levels] for a in family.axes
        ]
        return islice(drawn(space, weights, family.random), TRIES * count), None
    rows, efficiency = _searched(family, space, ())
    if design.refill and design.without:
        rows, efficiency = _whole_again(family, space, rows)
    if design.name == "cover":
        return iter(rows), None
    weights = [[1.0] * levels for levels in space.levels]
    more = islice(
        drawn(space, weights, family.random), TRIES * count
    )  # in place of members that are twins or too near
    return chain(rows, _fresh(more, rows)), efficiency


def _fresh(
    rows: Iterator[tuple[int, ...]], before: Sequence[Sequence[int]]
) -> Iterator[tuple[int, ...]]:
    """Those rows that were not there before."""
    seen = set(map(tuple, before))
    for row in rows:
        if row not in seen:
            seen.add(row)
            yield row


def _whole_again(
    family: CompiledFamily, space: Space, rows: list[list[int]]
) -> tuple[list[list[int]], float | None]:
    """The rows of a design that was searched for; behind them others, in place of members that are
    left out.
    """
    without = family.wish.design.without
    left = [row for number, row in enumerate(rows, 1) if number not in without]
    dropped = tuple(
        frozenset(enumerate(row)) for number, row in enumerate(rows, 1) if number in without
    )
    again = space._replace(
        nogoods=(*space.nogoods, *dropped)
    )  # what is left out does not come back
    more, efficiency = _searched(family, again, left)
    return rows + more[len(left) :], efficiency


def _searched(
    family: CompiledFamily, space: Space, fixed: Sequence[Sequence[int]]
) -> tuple[list[list[int]], float | None]:
    """The rows of a design that is searched for: those in `fixed`, and others behind them that make
    it whole again.
    """
    design, random = family.wish.design, family.random
    if design.name == "spread":
        from syntagma.core.designs.spread import spread

        return spread(space, design.count or 1, random, design.effort, fixed).tolist(), None
    if design.name in ("mixed", "effects"):
        from syntagma.core.designs.mixed import mixed

        made = mixed(space, design.count or 1, interest(family), random, design.effort, fixed)
        return made.rows.tolist(), made.efficiency
    from syntagma.core.designs.cover import cover
    from syntagma.core.designs.level_rows import greedy

    groups = groups_of(family)
    if fixed:
        return greedy(space, min(design.strength, len(family.axes)), random, fixed, groups), None
    return cover(space, design.strength, design.effort, random, groups).tolist(), None


def groups_of(family: CompiledFamily) -> list[tuple[int, ...]]:
    """The groups of axes that a cover holds at a strength of their own, written
    3:light+medium+lens. Raises Trouble.
    """
    at = {axis.slot: i for i, axis in enumerate(family.axes)}
    found: list[tuple[int, ...]] = []
    for word in family.wish.design.groups:
        number, _, names = word.partition(":")
        axes = names.split("+")
        for name in axes:
            if name not in at:
                raise Trouble(
                    f"“{name}” is not an axis",
                    perhaps(name, at, f"the axes are {', '.join(at)}"),
                    2,
                )
        if not number.isdigit() or not 2 <= int(number) <= len(axes):
            raise Trouble(f"“{word}” is not a strength of a group", "write 3:light+medium+lens", 2)
        found += combinations(sorted(at[name] for name in axes), int(number))
    return list(dict.fromkeys(found))


def interest(family: CompiledFamily):
    """What a mixed design is to tell about: axes, and pairs of them written light*lens; all axes if
    nothing is said.
    """
    from syntagma.core.designs.mixed import DesignModel

    at = {axis.slot: i for i, axis in enumerate(family.axes)}
    mains, pairs = set(), []
    for word in family.wish.design.interest or at:
        names = [part.strip() for part in word.split("*")]
        for name in names:
            if name not in at:
                raise Trouble(
                    f"“{name}” is not an axis",
                    perhaps(name, at, f"the axes are {', '.join(at)}"),
                    2,
                )
        mains |= {at[name] for name in names}
        if len(names) == 2:
            pairs.append((at[names[0]], at[names[1]]))
    return DesignModel(tuple(sorted(mains)), tuple(dict.fromkeys(pairs)))


# ──── Variants of a family: where something else than slots varies (a parameter, weight, the model,
# a look), each combination of those has writers of its own.


MOST = 200  # variants that are at hand at a time: each is a compiled formula


class _Set:
    """Everything that is not a slot, as a combination of settings has it."""

    def __init__(self, family: CompiledFamily, settings: Sequence[Setting]):
        wish, manner = (
            family.wish,
            family.workspace.manner(family.wish.manner._replace(controlled=True)),
        )
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
        self.writers, self.fills = (
            (list(family.writers), list(family.fills)) if not settings else _made(family, settings)
        )
        first = self.writers[0]
        self.positions = [first.position[slot] for slot in family.slots]
        for position, slot in zip(self.positions, family.slots, strict=True):
            self.fills[position] = family.fills[family.writer.position[slot]]
        self.families = [writer.family(self.fills, self.positions) for writer in self.writers]


def _made(
    family: CompiledFamily, settings: Sequence[Setting]
) -> tuple[list[Writer], list[Fill | None]]:
    wish, workspace, asked = family.wish, family.workspace, _Set(family, settings)
    formula, _ = workspace.put_round(family.formula, asked.looks)
    writers = [
        Writer(
            formula, _ordered(workspace.model(m), asked.order), workspace.vocabulary, asked.manner
        )
        for m in asked.models
    ]
    first = writers[0]
    fills = first.fills(
        {slot: "" if slot in family.picked else text for slot, text in wish.given.items()}
    )
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
    """All variants of a family, each made when it is needed; those that were needed longest
    ago go.
    """

    def __init__(self, family: CompiledFamily):
        self._family = family
        self._slots = [i for i, axis in enumerate(family.axes) if not axis.kind]
        self._at = [i for i, axis in enumerate(family.axes) if axis.kind]
        self._several = any(
            isinstance(level, Together) for axis in family.axes for level in axis.levels
        )
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
            return cast("tuple[Fill | None, ...]", combination)
        levels = (combination[i] for i in self._slots)
        fills = (
            fill
            for level in levels
            for fill in (level.fills if isinstance(level, Together) else (level,))
        )
        return tuple(cast("Iterator[Fill | None]", fills))

    def write_all(
        self, combinations: Sequence[Combination]
    ) -> tuple[list[Prompts], list[dict[int, Exception]]]:
        """Write combinations: for each model their prompts in order, and by place why there is
        none.
        """
        if not self._at:
            own = (
                [self.slots_of(c) for c in combinations]
                if self._several
                else cast("Sequence[tuple[Fill | None, ...]]", combinations)
            )
            every = [one.write_all(own) for one in self.of(combinations[0]).families]
            return [prompts for prompts, _ in every], [failures for _, failures in every]
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
