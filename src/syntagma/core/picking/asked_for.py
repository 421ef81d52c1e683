"""What a pick asks of situations: of whom, where, doing what, and which slots of a formula they may fill."""

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import SlotRule
from syntagma.core.picking.kinds import at_home, kind_of, names, own_deed, own_place
from syntagma.core.picking.scene import PLACE
from syntagma.core.picking.situations import DETAIL, FRAMING, OF_SITUATIONS, Moment
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.vocabulary.world import LEAD, Seat

LEADS = {"subject": ("subject", "animal")}  # a slot's facet → the facets of situations that it takes, if they are not its own alone
CORE = ("setting", "action", "material", "background", "composition", DETAIL, FRAMING)  # what a situation that was written for no formula has to give


class Asked(NamedTuple):
    """A formula in one call: its rules that have a seat, the `slots` that are picked, what is `given` for others, and the rule of the one that the picture is of; None if no situation is usable."""

    name: str
    rules: Sequence[SlotRule]
    seats: Mapping[str, Seat]
    slots: Collection[str]
    given: Mapping[str, Fill]
    lead: SlotRule | None

    @property
    def open(self) -> set[str]:
        """The slots that a situation may fill beside its lead."""
        return {rule.name for rule in self.rules if rule is not self.lead and rule.name in self.slots}

    def said_in(self, slots: Collection[str]) -> frozenset[str]:
        """The columns of a moment that fill any of some slots."""
        found: set[str] = set()
        for rule in self.rules:
            if rule.name in slots:
                column = column_of(rule)
                found |= {column} if column else {"action"} if rule.facet == "action" else {rule.name, rule.facet}
        return frozenset(found)

    @property
    def columns(self) -> tuple[frozenset[str], frozenset[str]]:
        """The columns that fill anything that is open; and of those what makes a situation."""
        every = self.open
        core = {rule.name for rule in self.rules if rule.facet in CORE or rule.name in CORE}
        return self.said_in(every), self.said_in(core & every)


class Whoever(NamedTuple):
    """Who is asked for: the kind of anybody that it may be, all that somebody given is called (None if nobody is), the place or the deed that is `held`, by facet with its names; and
    whether what may be anywhere goes."""

    kind: str
    called: frozenset[str] | None
    held: Sequence[tuple[str, frozenset[str]]]
    anywhere: bool


class Deeds(NamedTuple):
    """The slots of a formula that take deeds, and how many are skipped before them."""

    slots: tuple[str, ...]
    seats: tuple[Seat, ...]
    skipped: int

    def of(self, moment: Moment) -> tuple[str, ...] | None:
        """The deeds of a moment for them, in their order; None if it has too few."""
        if not self.slots:
            return ()
        said = [text for text in (moment.words.get("action", ""), moment.alone if self.skipped else moment.then) if text]
        wanted = said[self.skipped : self.skipped + len(self.slots)]
        return tuple(wanted) if len(wanted) == len(self.slots) or (len(self.slots) == 1 and not self.skipped) else None


def column_of(rule: SlotRule) -> str:
    """The column of several texts, any of which will do, that fills a slot; "" for others."""
    return FRAMING if rule.facet == "composition" else rule.name if rule.name in OF_SITUATIONS else ""


def asked_of(name: str, rules: Sequence[SlotRule], seats: Mapping[str, Seat], fills: Sequence[Fill | None], slots: Collection[str], vocabulary: Vocabulary) -> Asked:
    """What a formula asks, where `slots` are picked and `fills` stand."""
    seated = [rule for rule in rules if rule.name in seats]
    given = {rule.name: fill for rule, fill in zip(rules, fills, strict=True) if fill and rule.name not in slots and rule.name in seats}
    needed = [rule for rule in seated if rule.need and not rule.number]
    said = [rule for rule in seated if rule.name in slots or rule.name in given]
    leads = (*(rule for rule in needed if seats[rule.name].role == LEAD), *(rule for rule in needed if rule.facet in vocabulary), *(rule for rule in said if seats[rule.name].role == LEAD))
    asked = Asked(name, seated, seats, slots, given, next(iter(leads), None))
    return asked if asked.open else asked._replace(lead=None)


def whoever(asked: Asked, vocabulary: Vocabulary, varied: Mapping[str, Sequence[Fill]]) -> Whoever:
    """Who is asked for, if anybody is given; of a lead that is `varied`, a baker and a diver, only anybody's situations go."""
    given = asked.given.get(asked.lead.name)
    held = [rule for rule in asked.rules if rule.name in asked.given and rule.name != asked.lead.name and rule.facet in (PLACE, "action")]
    named = [(rule.facet, frozenset[str]() if rule.name in varied else names(asked.given[rule.name], rule.facet, vocabulary)) for rule in held]
    if given and own_place(given, vocabulary):
        named.append((PLACE, frozenset()))
    if given and own_deed(given):
        named.append(("action", frozenset()))
    anywhere = any(facet == PLACE for facet, _ in named) or all(rule.facet != PLACE for rule in asked.rules)
    if several := varied.get(asked.lead.name):
        kinds = {kind_of(fill, vocabulary) for fill in several}
        return Whoever(kinds.pop() if len(kinds) == 1 else "", frozenset(), named, anywhere)
    if not given:
        return Whoever("", None, named, anywhere)
    places = frozenset[str]().union(*(name for facet, name in named if facet == PLACE))
    kind = "" if at_home(given, asked.lead.facet, vocabulary, places) else kind_of(given, vocabulary)
    return Whoever(kind, names(given, asked.lead.facet, vocabulary), named, anywhere)


def deeds_of(asked: Asked) -> Deeds:
    """The deeds that a formula takes."""
    rules = [rule for rule in asked.rules if rule.facet == "action" and (rule.name in asked.slots or rule.name in asked.given)]
    return Deeds(tuple(rule.name for rule in rules), tuple(Seat(rule.name, "action") for rule in rules), sum(rule.skip for rule in rules))
