"""A family compiled: the writers of its models, its axes and their levels, its rules."""

from collections.abc import Mapping, Sequence
from itertools import chain
from random import Random
from typing import NamedTuple, cast

from syntagma.app.asked import check, to_pick
from syntagma.app.composing.records import given as as_given
from syntagma.app.families.spec import Design, FamilySpec, Vary
from syntagma.app.picking import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.designs import Axis, Clashes, Setting, full_size, single_size
from syntagma.core.designs.axes import KINDS, Agreement, Combination, Level, Together, terms_of
from syntagma.core.designs.constraints import Named, Rule, read_rules
from syntagma.core.designs.level_rows import Literal
from syntagma.core.diagnostics import Finding, Refused, Trouble, perhaps
from syntagma.core.drafting.fills import Fill, Given, fill_of, fill_of_term
from syntagma.core.formula import Formula
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.ranges import number as in_range
from syntagma.core.picking.scene import PLACE
from syntagma.core.picking.situated import DETAILS
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.core.writing.prompt import Manner, slot_named
from syntagma.core.writing.prompt_writer import Writer

# ──── Axes as a person asks for them: from a word on the call to levels.


_RANGE = regex(r"^(-?\d+(?:\.\d+)?)\.\.(-?\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?$")
MOST_STEPS = 1000


class AxisReader:
    """Makes the axes of one family. `random` fixes its picks."""

    def __init__(
        self,
        workspace: Workspace,
        writer: Writer,
        chooser: Chooser,
        given: Mapping[str, Given],
        random: Random,
    ):
        self.workspace, self.writer, self.chooser, self.given, self.random = (
            workspace,
            writer,
            chooser,
            given,
            random,
        )

    def axis(
        self, vary: Vary, fills: Sequence[Fill | None], varied: Sequence[str], of_base: bool = False
    ) -> Axis:
        """One axis; `varied` are the names of all; `of_base`: what the base has in its slot is its
        first choice. Raises Trouble, or BadFills for a value that is none.
        """
        kind, _, name = vary.slot.partition(".")
        if vary.slot not in self.writer.position:
            if vary.slot in ("model", "look", "theme", "detail", "order", "seed"):
                return self._setting(
                    "parameter" if vary.slot == "seed" else vary.slot, vary.slot, vary
                )
            if kind in KINDS and name:
                return self._setting(kind, name, vary)
            if "+" in vary.slot:
                return self._together(vary, fills)
        return self._slot(vary, fills, varied, of_base)

    def _setting(self, kind: str, name: str, vary: Vary) -> Axis:
        values = _numbers(vary) or list(dict.fromkeys(vary.values)) or self._some(kind, vary)
        if kind == "stress":
            if name not in self.writer.position and name not in {
                p.label for p in self.writer.formula.phrases
            }:
                raise Trouble(
                    f"no slot and no phrase is called “{name}”, so it can't be stressed",
                    perhaps(
                        name,
                        self.writer.position,
                        f"the slots are {', '.join(self.writer.position)}",
                    ),
                    2,
                )
            for value in values:
                in_range("weight", value, f"--vary stress.{name}=0.8..1.4/0.2")
        for value in values:
            self._check(kind, name, value)
        return Axis(
            vary.slot, -1, tuple(Setting(kind, name, value) for value in values), False, kind
        )

    def _some(self, kind: str, vary: Vary) -> list[str]:
        """As many themes or looks as were asked for, drawn. Raises Trouble."""
        named = {"theme": self.workspace.themes, "look": self.workspace.looks}.get(kind)
        if not named or not vary.picks:
            raise Trouble(
                f"“{vary.slot}” has no terms to vary", f"write --vary {vary.slot}=one,two", 2
            )
        known = sorted(named())
        if vary.picks > len(known):
            raise Trouble(
                f"there are {len(known)} {kind}s, too few for “{vary.typed}”",
                f"did you mean “{kind}:{len(known)}”?",
                2,
            )
        return self.random.sample(known, vary.picks)

    def _together(self, vary: Vary, fills: Sequence[Fill | None]) -> Axis:
        """Several slots that move together: light+palette=candlelight/plum,full
        moonlight/ink blue.
        """
        slots = vary.slot.split("+")
        for slot in slots:
            if slot not in self.writer.position:
                raise Trouble(
                    f"the formula has no slot “{slot}”",
                    perhaps(
                        slot,
                        self.writer.position,
                        f"its slots are {', '.join(self.writer.position)}",
                    ),
                    2,
                )
        levels: list[Level] = []
        for value in vary.values:
            parts = [part.strip() for part in value.split("/")]
            if len(parts) != len(slots):
                remedy = (
                    f"write {len(slots)} with a / between: --vary"
                    f" {vary.slot}={'/'.join(['…'] * len(slots))},…"
                )
                raise Trouble(
                    f"“{value}” gives {len(parts)} values for {len(slots)} slots", remedy, 2
                )
            rules = [self.writer.rules[self.writer.position[slot]] for slot in slots]
            levels.append(
                Together(
                    tuple(
                        fill_of(rule, part, self.workspace.vocabulary) if part else None
                        for rule, part in zip(rules, parts, strict=True)
                    )
                )
            )
        if not levels:
            raise Trouble(
                f"“{vary.slot}” gives no values to vary",
                f"write --vary {vary.slot}=one/two,three/four",
                2,
            )
        own = [fills[self.writer.position[slot]] for slot in slots]
        if all(own) and all(slot in self.given for slot in slots):
            levels.insert(0, Together(tuple(own)))
        return Axis(
            vary.slot,
            self.writer.position[slots[0]],
            tuple(levels),
            all(slot in self.writer.shown for slot in slots),
        )

    def _check(self, kind: str, name: str, value: str) -> None:
        """Raises Trouble or Refused for a model, look, theme, detail or order that there is not."""
        if kind == "parameter":
            check(Manner(parameters={name: value}))
        elif kind == "model":
            self.workspace.model(value)
        elif kind in ("look", "theme"):
            for name in [] if value == "none" else value.split("+"):
                (self.workspace.look if kind == "look" else self.workspace.theme)(name)
        elif kind == "detail" and value not in DETAILS:
            raise Trouble(
                f"“{value}” is not a detail",
                perhaps(value, DETAILS, f"write {', '.join(DETAILS)}"),
                2,
            )
        elif kind == "order" and value != "formula":
            known = {p.label for p in self.writer.formula.phrases} | {
                rule.facet for rule in self.writer.rules if rule.facet
            }
            for name in value.split("+"):
                if name not in known:
                    raise Trouble(
                        f"no phrase is called “{name}”",
                        perhaps(name, known, "name phrases, + between them, or formula"),
                        2,
                    )

    def _parted(self, vary: Vary, facet: str) -> None:
        """Raises Trouble if commas part what may be one value: words that the facet does
        not have.
        """
        known = self.workspace.vocabulary[facet] if facet in self.workspace.vocabulary else ()
        if any(
            value
            and value != "*"
            and not value.startswith("#")
            and not (known and known.get(value))
            for value in vary.values
        ):
            raise Trouble(
                f"a comma may belong to a value: “{vary.slot}={', '.join(vary.values)}”",
                f"did you mean “{vary.slot}={'; '.join(vary.values)}”?",
                2,
            )

    def _slot(
        self, vary: Vary, fills: Sequence[Fill | None], varied: Sequence[str], of_base: bool
    ) -> Axis:
        position = self.writer.position.get(vary.slot)
        if position is None:
            more = "; or stress.SLOT, parameter.NAME, seed, model, look, theme, detail, order"
            remedy = perhaps(
                vary.slot,
                self.writer.position,
                f"its slots are {', '.join(self.writer.position)}{more}",
            )
            raise Trouble(f"the formula has no slot “{vary.slot}”", remedy, 2)
        rule = self.writer.rules[position]
        levels: list[Level] = []
        if vary.doubtful:
            self._parted(vary, rule.facet)
        if len(vary.values) == 1 and vary.values[0].isdigit() and rule.facet:
            raise Trouble(
                f"“{vary.slot}={vary.values[0]}” is a single value, so nothing varies",
                f"did you mean “{vary.slot}:{vary.values[0]}”?",
                2,
            )
        for value in vary.values:
            levels += (
                self._named(vary.slot, value)
                if value in ("*",) or value.startswith("#")
                else [fill_of(rule, value, self.workspace.vocabulary) if value else None]
            )
        first = fills[position] if of_base else None
        if vary.picks:
            levels = [
                *([first] if first else ()),
                *self._picked(vary.slot, vary.picks, fills, varied),
            ][: vary.picks]
        elif not vary.values:
            levels = [fill_of_term(t) for t in self.chooser.terms(vary.slot)]
        own = fills[position]
        if own is not None and vary.slot in self.given:
            levels = [own, *levels]
        unlike: dict[str, Level] = {}
        for level in levels:
            unlike.setdefault(str(as_given(level)), level)
        return Axis(vary.slot, position, tuple(unlike.values()), vary.slot in self.writer.shown)

    def _named(self, slot: str, value: str) -> list[Level]:
        """The favourites of a slot's facet (*), or its terms with a tag (#night)."""
        terms = [
            t for t in self.chooser.facet(slot) if (t.star if value == "*" else value[1:] in t.tags)
        ]
        if not terms:
            what = "no favourites" if value == "*" else f"no term tagged {value[1:]}"
            raise Trouble(f"{slot} has {what}", "`syntagma term` lists the facets", 2)
        return [fill_of_term(t) for t in terms]

    def _picked(
        self, slot: str, number: int, fills: Sequence[Fill | None], varied: Sequence[str]
    ) -> list[Level]:
        """`number` different terms that go with what is fixed."""
        terms = self.chooser.terms(slot)
        if number > len(terms):
            raise Trouble(
                f"{slot} has {len(terms)} terms to pick from, too few for “{slot}:{number}”",
                f"did you mean “{slot}:{len(terms)}”?",
                2,
            )
        scene = self.chooser.ground.standing(
            fills, {slot, *varied} if slot in self.writer.shown else self.writer.position
        )[0]
        deck = self.chooser.deck(slot, self.random)
        chosen: list[Term] = []
        while len(chosen) < number and (term := deck.draw(scene, but=chosen)):
            chosen.append(term)
        return [fill_of_term(t) for t in chosen]


def _numbers(vary: Vary) -> list[str]:
    """The numbers of a range, 0.8..1.4/0.2; nothing if it is none. Raises Trouble."""
    match = _RANGE.match(vary.values[0]) if len(vary.values) == 1 else None
    if not match:
        return []
    low, high, step = float(match[1]), float(match[2]), float(match[3] or 1)
    if high < low or not step or (high - low) / step > MOST_STEPS:
        raise Trouble(
            f"“{vary.values[0]}” is not a range",
            f"write --vary {vary.slot}=1..4, or 0.8..1.4/0.2",
            2,
        )
    return [f"{round(low + i * step, 9):g}" for i in range(int((high - low) / step + 1e-9) + 1)]


# ──── A family made ready: its writers, its axes, what may not go together. Made once; what
# enumerates, foresees and writes reads from it.


MORE_THAN_NUMBERS = 6  # prompts of a design for effects beyond the numbers that there are to find
BY_CHANCE = (
    "cover",
    "spread",
    "random",
    "mixed",
    "effects",
)  # designs that are drawn or searched for


class CompiledFamily(NamedTuple):
    """What stays while a family is written. `fills` are the baseline's; `open_slots` vary if no
    axis does; `random` is the one generator of the family's choices, and the only thing here that
    moves on.
    """

    wish: FamilySpec
    writers: tuple[Writer, ...]
    chooser: Chooser
    random: Random
    fills: tuple[Fill | None, ...]
    picked: tuple[str, ...]
    open_slots: tuple[str, ...]
    axes: tuple[Axis, ...]
    rules: tuple[Rule, ...]
    clashes: Clashes

    @property
    def workspace(self) -> Workspace:
        return self.chooser.workspace

    @property
    def writer(self) -> Writer:
        """The writer for the first model."""
        return self.writers[0]

    @property
    def formula(self) -> Formula:
        return self.writer.formula

    @property
    def slots(self) -> list[str]:
        """The slots that vary."""
        named = (
            [slot for axis in self.axes for slot in axis.slots]
            if self.axes
            else list(self.open_slots)
        )
        return [slot for slot in named if slot in self.writer.position]

    @property
    def baseline(self) -> Combination:
        """The first level of every axis."""
        return tuple(axis.levels[0] for axis in self.axes)

    @property
    def design(self) -> str:
        """The name of the design; a family of picks in the open slots is called picked."""
        return self.wish.design.name if self.axes else "picked"

    @property
    def size(self) -> int | None:
        """How many members the whole design has, if that can be said in advance; None if it is
        drawn or found.
        """
        if not self.axes or self.design in BY_CHANCE:
            return None
        if self.design == "ladder":
            return len(self.axes[0].levels)
        return full_size(self.axes) if self.design == "full" else single_size(self.axes)

    @property
    def drawn(self) -> bool:
        """Did choices of the program's own enter?"""
        count, size = self.wish.design.count, self.size
        some = size is not None and count is not None and count < size
        return (
            not self.axes
            or some
            or self.design in BY_CHANCE
            or any(v.picks for v in self.wish.vary)
        )

    @property
    def shown_fills(self) -> list[Fill]:
        """What is in the text of every member, apart from the axes."""
        return list(_shown(self.writer, self.fills, self.axes).values())


def compile_family(workspace: Workspace, wish: FamilySpec) -> tuple[CompiledFamily, list[Finding]]:
    """Make a family ready; return it, and what there is to remark of its formula. Raises Trouble,
    Refused or BadFills.
    """
    check(wish.manner, wish.models, wish.looks, wish.taste.themes)
    formula, remarks, wish = _formula(workspace, wish)
    manner = workspace.manner(wish.manner._replace(controlled=True))
    writers = [
        Writer(formula, workspace.model(m), workspace.vocabulary, manner) for m in wish.models
    ]
    writer = writers[0]
    wish = _by_slot(writer, wish)
    chooser = Chooser(workspace, writer, wish.taste)
    fills, picked = _filled(writer, chooser, wish)
    open_slots = () if wish.vary else _open_slots(writer, chooser, wish, fills)
    random = chooser.random()
    reader = AxisReader(workspace, writer, chooser, wish.given, random)
    varied = [v.slot for v in wish.vary]
    resting = (
        wish.pick and bool(wish.vary) and set(varied).isdisjoint(("theme", "detail"))
    )  # those pick for themselves, level by level
    after = {v.slot for v in wish.vary if resting and v.picks and _after(chooser, v.slot)}
    early = {v.slot: reader.axis(v, fills, varied) for v in wish.vary if v.slot not in after}
    names = _each_once(
        [
            *(slot for axis in early.values() for slot in axis.slots or (axis.slot,)),
            *(slot for slot in varied if slot in after),
        ]
    )
    for axis in early.values():
        for slot, fill in zip(axis.slots, _fills(axis.levels[0]), strict=False):
            fills[writer.position[slot]] = fill
    if resting:
        fills, more = _rest_picked(
            chooser,
            wish,
            fills,
            list(early.values()),
            [slot for slot in names if slot not in after],
        )
        picked += [slot for slot in more if slot not in after]
    axes = tuple(
        early[v.slot] if v.slot in early else reader.axis(v, fills, varied, of_base=True)
        for v in wish.vary
    )
    for axis in axes:
        for slot, fill in zip(axis.slots, _fills(axis.levels[0]), strict=False):
            fills[writer.position[slot]] = fill
    wish = wish._replace(design=designed(wish.design, axes))
    rules = tuple(_rules(writer, wish, fills, axes))
    fixed = _shown(writer, fills, axes)
    agreement = Agreement(
        workspace.vocabulary, writer.compiled.seats, writer.compiled.granted, fixed
    )
    clashes = Clashes(
        axes,
        list(fixed.values()),
        [n for rule in rules for n in rule.nogoods],
        _allowed(wish, axes),
        agreement,
    )
    reaching = tuple(w.for_reach(fills) for w in writers)
    return (
        CompiledFamily(
            wish,
            reaching,
            chooser,
            random,
            tuple(fills),
            tuple(picked),
            open_slots,
            axes,
            rules,
            clashes,
        ),
        remarks,
    )


def _after(chooser: Chooser, slot: str) -> bool:
    """Are the choices of a slot picked for the base? Not where they make it another situation: who
    is there, where, and what they do come first.
    """
    vocabulary = chooser.workspace.vocabulary
    return (
        slot in chooser.writer.position
        and not vocabulary.participant(facet := chooser.rule(slot).facet)
        and facet not in (PLACE, "action")
    )


def _by_slot(writer: Writer, wish: FamilySpec) -> FamilySpec:
    """The wish by the slots' own names, where a slot was called by its facet or in another
    spelling.
    """

    def own(axis: str) -> str:
        kind, dot, name = axis.partition(".")
        if dot:
            return f"{kind}.{slot_named(name, writer.rules)}" if kind == "stress" else axis
        return "+".join(slot_named(part, writer.rules) for part in axis.split("+"))

    return wish._replace(
        given=writer.named(wish.given), vary=[one._replace(slot=own(one.slot)) for one in wish.vary]
    )


def designed(design: Design, axes: Sequence[Axis]) -> Design:
    """The design with its name and its number. Nothing said of it, one change at a time shows each
    choice; where several axes are to be judged (several results are asked for, or more prompts than
    that has), the prompts are those that tell best what each choice does.
    """
    numbers = 1 + sum(len(axis.levels) - 1 for axis in axes)
    enough = (
        design.count is not None and single_size(axes) < design.count < full_size(axes)
        if axes
        else False
    )
    name = design.name or (
        "effects" if len(axes) > 1 and (design.takes > 1 or enough) else "single"
    )
    count = design.count
    if name == "effects" and count is None:
        count = min(numbers + MORE_THAN_NUMBERS, full_size(axes))
    return design._replace(name=name, count=count)


def _formula(workspace: Workspace, wish: FamilySpec) -> tuple[Formula, list[Finding], FamilySpec]:
    """The formula with its looks, or the one that a finished text becomes: then the wish names its
    slots.
    """
    if not wish.text:
        return (*workspace.formula(wish.formula, wish.looks), wish)
    from syntagma.app.existing.text_base import (
        formula_of_text,
    )  # imported late: reading is heavy, and few families need it

    formula, slots, found = formula_of_text(workspace, wish.text, [v.slot for v in wish.vary])
    vary = [v._replace(slot=slot) for v, slot in zip(wish.vary, slots, strict=True)]
    return (
        *workspace.put_round(formula, wish.looks),
        wish._replace(vary=vary, given={**found, **wish.given}),
    )


def _filled(
    writer: Writer, chooser: Chooser, wish: FamilySpec
) -> tuple[list[Fill | None], list[str]]:
    """What is the same in all members: as it was given, and picked if that was said."""
    asked = to_pick(writer, wish.given, chooser.workspace.vocabulary)
    fills = writer.fills({slot: "" if slot in asked else text for slot, text in wish.given.items()})
    return (chooser.pick(fills, asked, chooser.random()) if asked else fills), list(asked)


def _open_slots(
    writer: Writer, chooser: Chooser, wish: FamilySpec, fills: Sequence[Fill | None]
) -> tuple[str, ...]:
    """The slots that nothing fills and that have a facet to pick from. Raises Trouble if there are
    none.
    """
    if wish.text:
        raise Trouble("nothing varies", 'write --vary "words of the text=others,others"', 2)
    if wish.design.count is None:
        remedy = (
            "write --vary SLOT=one,two, or --count 12 to vary the open slots"
            f" ({', '.join(writer.position)})"
        )
        raise Trouble("nothing varies", remedy, 2)
    found = chooser.open(fills, wish.given)
    if not found:
        raise Trouble(
            "every slot is filled, so nothing is left to vary",
            "leave one blank, or write --vary SLOT",
            2,
        )
    return tuple(found)


def _each_once(names: list[str]) -> list[str]:
    if twice := [name for i, name in enumerate(names) if name in names[:i]]:
        raise Trouble(f"“{twice[0]}” is varied twice", "give all its values in one --vary", 2)
    return names


def _rest_picked(
    chooser: Chooser,
    wish: FamilySpec,
    fills: Sequence[Fill | None],
    axes: Sequence[Axis],
    varied: Sequence[str],
) -> tuple[list[Fill | None], list[str]]:
    """Pick what is open and not varied, the same for all members: what goes with every choice on
    the axes, if there is such, else with the baseline's.
    """
    open_ = chooser.open(fills, {**wish.given, **dict.fromkeys(varied, "")})
    levels = [
        dict(zip(axis.slots, _fills(level), strict=True))
        for axis in axes
        if axis.shown and not axis.kind
        for level in axis.levels
    ]
    return chooser.pick(fills, open_, chooser.random(), levels=levels), open_


def _rules(
    writer: Writer, wish: FamilySpec, fills: Sequence[Fill | None], axes: Sequence[Axis]
) -> list[Rule]:
    """The person's rules, on the levels of the axes and on what is fixed. Raises Refused."""
    if not wish.design.rules:
        return []
    varied = {slot for axis in axes for slot in axis.slots}
    fixed: Mapping = {
        r.name: names_of(fill)
        for r, fill in zip(writer.rules, fills, strict=True)
        if fill and r.name not in varied
    }
    named = Named(
        [a.slot for a in axes], [[names_of(level) for level in a.levels] for a in axes], fixed
    )
    rules, mistakes = read_rules(wish.design.rules, named, "--rule")
    if mistakes:
        raise Refused(mistakes)
    return rules


def names_of(level: Level) -> frozenset[str]:
    """The names of a level in rules: as it is shown, its terms, what they are cases of, their
    #tags; a blank is called blank.
    """
    if level is None:
        return frozenset({"blank"})
    names = {normal(level.shown)}
    if isinstance(level, Together):
        names |= {normal(fill.shown) for fill in level.fills if fill}
    for term in terms_of(level):
        names |= {
            normal(term.term),
            *term.wider,
            *(normal(name) for name in term.aka),
            *(f"#{tag}" for tag in term.tags),
        }
    return frozenset(names)


def _allowed(wish: FamilySpec, axes: Sequence[Axis]) -> frozenset[Literal]:
    """The levels that are to come in spite of what they contradict. Raises Trouble for one that
    there is not.
    """
    labels = {(a, v): axis.label(v) for a, axis in enumerate(axes) for v in range(len(axis.levels))}
    found = [
        [at for at, label in labels.items() if normal(label) == normal(name)]
        for name in wish.design.allow
    ]
    for name, here in zip(wish.design.allow, found, strict=True):
        if not here:
            raise Trouble(
                f"no axis has the choice “{name}”",
                perhaps(name, labels.values(), "name a choice of a --vary"),
                2,
            )
    return frozenset(chain.from_iterable(found))


def _shown(writer: Writer, fills: Sequence[Fill | None], axes: Sequence[Axis]) -> dict[str, Fill]:
    """What is in the text of every member, by slot."""
    varied = {slot for axis in axes for slot in axis.slots}
    named = zip(writer.rules, fills, strict=True)
    return {
        rule.name: fill
        for rule, fill in named
        if fill and rule.name not in varied and rule.name in writer.shown
    }


def _fills(level: Level) -> tuple[Fill | None, ...]:
    return level.fills if isinstance(level, Together) else (cast("Fill | None", level),)
