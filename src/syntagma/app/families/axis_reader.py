"""Axes as a person asks for them: from a word on the call to levels."""

from collections.abc import Mapping, Sequence

from syntagma.app.composing.asked import check
from syntagma.app.composing.records import given as as_given
from syntagma.app.families.wish import Vary
from syntagma.app.picking.chooser import Chooser
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.designs import Axis, Setting
from syntagma.core.designs.axes import KINDS, Level, Together
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.drafting.fills import Fill, Given, fill_of, fill_of_term
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.ranges import OutOfRange
from syntagma.core.notation.ranges import number as in_range
from syntagma.core.picking.detail import DETAILS
from syntagma.core.vocabulary.terms import Term
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.trouble import Trouble

_RANGE = regex(r"^(-?\d+(?:\.\d+)?)\.\.(-?\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?$")
MOST_STEPS = 1000


class AxisReader:
    """Makes the axes of one family. `random` fixes its picks."""

    def __init__(self, workspace: Workspace, writer: Writer, chooser: Chooser, given: Mapping[str, Given], random):
        self.workspace, self.writer, self.chooser, self.given, self.random = workspace, writer, chooser, given, random

    def axis(self, vary: Vary, fills: Sequence[Fill | None], varied: Sequence[str], of_base: bool = False) -> Axis:
        """One axis; `varied` are the names of all; `of_base`: what the base has in its slot is its first choice. Raises Trouble, or BadFills for a value that is none."""
        kind, _, name = vary.slot.partition(".")
        if vary.slot not in self.writer.position:
            if vary.slot in ("model", "look", "theme", "detail", "order", "seed"):
                return self._setting("parameter" if vary.slot == "seed" else vary.slot, vary.slot, vary)
            if kind in KINDS and name:
                return self._setting(kind, name, vary)
            if "+" in vary.slot:
                return self._together(vary, fills)
        return self._slot(vary, fills, varied, of_base)

    def _setting(self, kind: str, name: str, vary: Vary) -> Axis:
        values = _numbers(vary) or list(dict.fromkeys(vary.values)) or self._some(kind, vary)
        if kind == "stress":
            if name not in self.writer.position and name not in {p.label for p in self.writer.formula.phrases}:
                raise Trouble(
                    f"no slot and no phrase is called “{name}”, so it can't be stressed",
                    perhaps(name, self.writer.position, f"the slots are {', '.join(self.writer.position)}"),
                    2,
                )
            for value in values:
                try:
                    in_range("weight", value)
                except OutOfRange as wrong:
                    raise Trouble(str(wrong), f"{wrong.remedy}: --vary stress.{name}=0.8..1.4/0.2", 2) from None
        for value in values:
            self._check(kind, name, value)
        return Axis(vary.slot, -1, tuple(Setting(kind, name, value) for value in values), False, kind)

    def _some(self, kind: str, vary: Vary) -> list[str]:
        """As many themes or looks as were asked for, drawn. Raises Trouble."""
        named = {"theme": self.workspace.themes, "look": self.workspace.looks}.get(kind)
        if not named or not vary.picks:
            raise Trouble(f"“{vary.slot}” has no terms to vary", f"write --vary {vary.slot}=one,two", 2)
        known = sorted(named())
        if vary.picks > len(known):
            raise Trouble(f"there are {len(known)} {kind}s, too few for “{vary.typed}”", f"did you mean “{kind}:{len(known)}”?", 2)
        return self.random.sample(known, vary.picks)

    def _together(self, vary: Vary, fills: Sequence[Fill | None]) -> Axis:
        """Several slots that move together: light+palette=candlelight/plum,full moonlight/ink blue."""
        slots = vary.slot.split("+")
        for slot in slots:
            if slot not in self.writer.position:
                raise Trouble(
                    f"the formula has no slot “{slot}”",
                    perhaps(slot, self.writer.position, f"its slots are {', '.join(self.writer.position)}"),
                    2,
                )
        levels: list[Level] = []
        for value in vary.values:
            parts = [part.strip() for part in value.split("/")]
            if len(parts) != len(slots):
                remedy = f"write {len(slots)} with a / between: --vary {vary.slot}={'/'.join(['…'] * len(slots))},…"
                raise Trouble(f"“{value}” gives {len(parts)} values for {len(slots)} slots", remedy, 2)
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
            raise Trouble(f"“{vary.slot}” gives no values to vary", f"write --vary {vary.slot}=one/two,three/four", 2)
        own = [fills[self.writer.position[slot]] for slot in slots]
        if all(own) and all(slot in self.given for slot in slots):
            levels.insert(0, Together(tuple(own)))
        return Axis(vary.slot, self.writer.position[slots[0]], tuple(levels), all(slot in self.writer.shown for slot in slots))

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
            raise Trouble(f"“{value}” is not a detail", perhaps(value, DETAILS, f"write {', '.join(DETAILS)}"), 2)
        elif kind == "order" and value != "formula":
            known = {p.label for p in self.writer.formula.phrases} | {rule.facet for rule in self.writer.rules if rule.facet}
            for name in value.split("+"):
                if name not in known:
                    raise Trouble(
                        f"no phrase is called “{name}”", perhaps(name, known, "name phrases, + between them, or formula"), 2
                    )

    def _parted(self, vary: Vary, facet: str) -> None:
        """Raises Trouble if commas part what may be one value: words that the facet does not have."""
        known = self.workspace.vocabulary[facet] if facet in self.workspace.vocabulary else ()
        if any(value and value != "*" and not value.startswith("#") and not (known and known.get(value)) for value in vary.values):
            raise Trouble(f"a comma may belong to a value: “{vary.slot}={', '.join(vary.values)}”", f"did you mean “{vary.slot}={'; '.join(vary.values)}”?", 2)

    def _slot(self, vary: Vary, fills: Sequence[Fill | None], varied: Sequence[str], of_base: bool) -> Axis:
        position = self.writer.position.get(vary.slot)
        if position is None:
            more = "; or stress.SLOT, parameter.NAME, seed, model, look, theme, detail, order"
            remedy = perhaps(vary.slot, self.writer.position, f"its slots are {', '.join(self.writer.position)}{more}")
            raise Trouble(f"the formula has no slot “{vary.slot}”", remedy, 2)
        rule = self.writer.rules[position]
        levels: list[Level] = []
        if vary.doubtful:
            self._parted(vary, rule.facet)
        if len(vary.values) == 1 and vary.values[0].isdigit() and rule.facet:
            raise Trouble(f"“{vary.slot}={vary.values[0]}” is a single value, so nothing varies", f"did you mean “{vary.slot}:{vary.values[0]}”?", 2)
        for value in vary.values:
            levels += (
                self._named(vary.slot, value)
                if value in ("*",) or value.startswith("#")
                else [fill_of(rule, value, self.workspace.vocabulary) if value else None]
            )
        first = fills[position] if of_base else None
        if vary.picks:
            levels = [*([first] if first else ()), *self._picked(vary.slot, vary.picks, fills, varied)][: vary.picks]
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
        terms = [t for t in self.chooser.facet(slot) if (t.star if value == "*" else value[1:] in t.tags)]
        if not terms:
            what = "no favourites" if value == "*" else f"no term tagged {value[1:]}"
            raise Trouble(f"{slot} has {what}", "`syntagma term` lists the facets", 2)
        return [fill_of_term(t) for t in terms]

    def _picked(self, slot: str, number: int, fills: Sequence[Fill | None], varied: Sequence[str]) -> list[Level]:
        """`number` different terms that go with what is fixed."""
        terms = self.chooser.terms(slot)
        if number > len(terms):
            raise Trouble(f"{slot} has {len(terms)} terms to pick from, too few for “{slot}:{number}”", f"did you mean “{slot}:{len(terms)}”?", 2)
        scene = self.chooser.ground.standing(fills, {slot, *varied} if slot in self.writer.shown else self.writer.position)[0]
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
        raise Trouble(f"“{vary.values[0]}” is not a range", f"write --vary {vary.slot}=1..4, or 0.8..1.4/0.2", 2)
    return [f"{round(low + i * step, 9):g}" for i in range(int((high - low) / step + 1e-9) + 1)]
