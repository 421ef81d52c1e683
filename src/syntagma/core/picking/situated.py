"""The situation with which a pick begins: the next one of the formula's own order that goes with what is given, and what of it fills which slot."""

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.kinds import ANYBODY, at_home, kind_of
from syntagma.core.picking.scene import PLACE, SHIPPED, Scene
from syntagma.core.picking.situations import DETAIL, FRAMING, Moment, Situation, in_order, nth
from syntagma.core.picking.themes import Leaning
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal
from syntagma.core.vocabulary.world import LEAD, Seat, Thing

LEADS = {"subject": ("subject", "animal")}  # a slot's facet → the facets of situations that it takes, where they are not its own alone
CORE = ("setting", "action", "material", "background", "composition", DETAIL, FRAMING)  # what a situation that was written for no formula has to give
SETTLED = ("hour", "weather", "ambience", "sound-effect")  # what a situation with a light of its own leaves open where it says nothing: the light tells hour and sky, and no sound is better than another place's
SILENT = regex(r"\b(?:asleep|sleeping|dozing|yawning|holding a breath|before a dive|in the teeth|mouthful|whistling|singing|eating|drinking|brushing teeth)\b")  # who does that says no line
COLOURED = ("palette", "colour-grade")  # what stays open where a situation names a colour
COLOUR = regex(r"\b(?:red|green|blue|white|black|grey|gold|golden|yellow|orange|pink|violet|brown|silver|copper|rust|rose|cream|colou?r\w*)\b")
ALIKE = {"last-frame": "first-frame"}  # formulas of one clip: of one draw they show one moment of one situation
PAIRED = frozenset((*ALIKE, *ALIKE.values()))


class Begun(NamedTuple):
    """What a situation gives a formula: texts by slot, what it takes for granted, and slots that stay open."""

    situation: Situation
    texts: Mapping[str, str]
    things: Sequence[Thing]
    left: frozenset[str] = frozenset()


class Situating:
    """The slots of a formula as situations see them: those in `slots` are picked, what fills the others is given."""

    def __init__(self, name: str, rules: Sequence[SlotRule], seats: Mapping[str, Seat], fills: Sequence[Fill | None], slots: Collection[str], vocabulary: Vocabulary, leaning: Leaning):
        self.name, self.slots, self.vocabulary, self.leaning, self.seats = name, slots, vocabulary, leaning, seats
        self.rules = [rule for rule in rules if rule.name in seats]
        self.given = {rule.name: fill for rule, fill in zip(rules, fills, strict=True) if fill and rule.name not in slots and rule.name in seats}
        needed = [rule for rule in self.rules if rule.need and not rule.number]
        lead = next((rule for rule in needed if seats[rule.name].role == LEAD), None) or next((rule for rule in needed if rule.facet in vocabulary), None)
        self.open = {rule.name for rule in self.rules if rule is not lead and rule.name in slots}
        self.core = {rule.name for rule in self.rules if rule.facet in CORE or rule.name in CORE} & self.open
        self.lead = lead if self.open else None
        self.kind = "" if not lead or lead.name not in self.given or at_home(self.given[lead.name], lead.facet, vocabulary) else kind_of(self.given[lead.name], vocabulary)
        self.deeds = [rule for rule in self.rules if rule.facet == "action"]

    @property
    def facets(self) -> tuple[str, ...]:
        """The facets of the situations that the formula takes; none where it has no use for one."""
        if not self.lead:
            return ()
        facets = LEADS.get(self.lead.facet, (self.lead.facet,))
        return tuple(dict.fromkeys((*facets, *LEADS["subject"]))) if self.kind else facets  # a girl may be the hero of a page for animals

    def begun(self, one: Situation, moments: Sequence[Moment], turn: int, again: int = 0) -> Begun:
        """What a situation gives: one of its moments, another each time that it comes `again`."""
        moment = nth(moments, again, ALIKE.get(self.name, self.name), one.name, "moment")
        texts = self._texts(one, moment, turn)
        leaves = {*moment.leaves, *(SETTLED if "lighting" in moment.words else ()), *(COLOURED if any(map(COLOUR.search, texts.values())) else ())} - moment.words.keys()
        left = frozenset(rule.name for rule in self.rules if rule.facet in leaves and not rule.need)
        return Begun(one, texts, self._things(one, moment), left)

    def in_order(self, situations: Sequence[Situation], scene: Scene, asked: str = "", mine: bool = False) -> list[tuple[Situation, list[Moment]]]:
        """The situations that go with a scene, each with its moments that do, in the order in which the formula takes them."""
        situations = [one for one in situations if self.name in one.formulas] or [one for one in situations if not one.formulas]  # what was written for it comes alone
        fitting = {id(one): (one, moments) for one in situations if (one.layer not in SHIPPED or not mine) and (moments := self._moments(one, scene))}
        if own := {key: pair for key, pair in fitting.items() if not pair[0].lead.startswith(ANYBODY)}:
            fitting = own  # anybody's come where somebody has none
        if self.leaning.themes:
            fitting = {key: pair for key, pair in fitting.items() if self._leant_to(pair[0])}
        starred = [one for one, _ in fitting.values() if any(term.star for term in self._terms(one))]
        asked = " ".join((ALIKE.get(self.name, self.name), asked, *(f"{slot}={fill.given}" for slot, fill in self.given.items())))
        return [fitting[id(one)] for one in in_order([one for one, _ in fitting.values()], asked, starred)]

    def _moments(self, one: Situation, scene: Scene) -> list[Moment]:
        """The moments of a situation that go with the formula, with what is given, and with what stands."""
        given = self.given.get(self.lead.name)
        if (one.lead.startswith(ANYBODY) and one.lead != self.kind) or (given and not one.lead.startswith(ANYBODY) and not _is(given, one.lead)):
            return []
        if not all(map(self.leaning.allows, self._terms(one))) or not self._apt(one):
            return []
        return [moment for moment in one.moments if self._fits(one, moment, scene)]

    def _apt(self, one: Situation) -> bool:
        """Is it one for the formula, and one that the slot keeps to, by its tags and those of its term?"""
        if one.formulas:
            return True
        if self.lead.take != (1, 1):
            return False
        term = self._term(one.facet, one.lead)
        tags, only, never = one.tags | set(term.tags if term else ()), set(self.lead.only), set(self.lead.never)
        return never.isdisjoint(tags) and (not only or not term or not only.isdisjoint(tags))

    def _fits(self, one: Situation, moment: Moment, scene: Scene) -> bool:
        if self.name in PAIRED and not moment.then:
            return False
        if ("line" in self.given and ((one.facet == "animal" and self.lead.name not in self.given) or SILENT.search(moment.words.get("action", "")))) or self._deeds_of(moment) is None or self._texts(one, moment, 0).keys().isdisjoint(self.open if one.formulas else self.core):
            return False
        for slot, fill in self.given.items():
            facet = next(rule.facet for rule in self.rules if rule.name == slot)
            if facet in (PLACE, "action") and slot != self.lead.name and not _is(fill, moment.words.get(facet, "")):
                return False
        return all(scene.takes(thing.seat, thing.world) for thing in self._things(one, moment))

    def _deeds_of(self, moment: Moment) -> tuple[str, ...] | None:
        """The deeds for the formula's slots of deeds, in their order; None where the moment has too few."""
        said = [text for text in (moment.words.get("action", ""), moment.then) if text]
        skipped = sum(rule.skip for rule in self.deeds)
        wanted = said[skipped : skipped + len(self.deeds)]
        return tuple(wanted) if len(wanted) == len(self.deeds) or (len(self.deeds) == 1 and not skipped) else None

    def _term(self, facet: str, words: str) -> Term | None:
        return self.vocabulary[facet].get(words) if facet in self.vocabulary else None

    def _terms(self, one: Situation) -> list[Term]:
        """The terms of the vocabulary that a situation names."""
        named = dict.fromkeys([(one.facet, one.lead), *(pair for moment in one.moments for pair in moment.words.items())])
        return [term for facet, words in named if (term := self._term(facet, words))]

    def _leant_to(self, one: Situation) -> bool:
        """Do the themes lean towards it, by its tags and its terms?"""
        return self.leaning.of_tags(one.tags) + sum(map(self.leaning.of, self._terms(one))) > 0

    def _things(self, one: Situation, moment: Moment) -> list[Thing]:
        """What it takes for granted: by its terms, and as it says itself."""
        lead = self.seats[self.lead.name]
        found = [self.vocabulary.thing(lead, term)] if (term := self._term(one.facet, one.lead)) else []
        if one.lead.startswith(ANYBODY) and not any(item.term for item in self.given[self.lead.name].items):
            found.append(Thing(lead, one.lead, self.vocabulary.world(f"being: {one.lead[1:]}")))
        if place := self._term(PLACE, moment.words.get(PLACE, "")):
            found.append(self.vocabulary.thing(Seat("", PLACE), place))
        if self.name in PAIRED:  # both frames are of one moment
            found += [Thing(Seat(name, "action"), deed, self.vocabulary.dimensions.of_deed(deed)) for name, deed in (("start", moment.words.get("action", "")), ("end", moment.then)) if deed]
        else:
            found += [Thing(Seat(rule.name, "action"), deed, self.vocabulary.dimensions.of_deed(deed)) for rule, deed in zip(self.deeds, self._deeds_of(moment) or (), strict=False)]
        round_about = [Thing(self.seats[rule.name], rule.name, self.vocabulary.world(rule.world)) for rule in self.rules if rule.world and rule.name in self.open and moment.words.get(rule.name, moment.words.get(rule.facet))]
        return [*found, *round_about, Thing(lead._replace(slot=""), one.lead, self.vocabulary.world(moment.world))]

    def _texts(self, one: Situation, moment: Moment, turn: int) -> dict[str, str]:
        """What it says in each slot that is open."""
        deeds = dict(zip((rule.name for rule in self.deeds), self._deeds_of(moment) or (), strict=False))
        said: dict[str, Callable[[], str]] = {
            self.lead.name: lambda: one.lead,
            DETAIL: lambda: nth(moment.details, turn, one.name, DETAIL) or "",
            FRAMING: lambda: nth(moment.framings, turn, one.name, FRAMING) or "",
        }
        texts = {}
        for rule in self.rules:
            way = said.get(FRAMING if rule.facet == "composition" else rule.name)
            text = way() if way else deeds.get(rule.name) or moment.words.get(rule.name) or ("" if rule in self.deeds else moment.words.get(rule.facet, ""))
            if text and rule.name in self.slots:
                texts[rule.name] = text
        return texts


def _is(fill: Fill, words: str) -> bool:
    """Does a fill say these words, and no others?"""
    if len(fill.items) != 1:
        return False
    item = fill.items[0]
    return normal(words) in {normal(text) for text in (item.words, item.place, item.term.term if item.term else "") if text}
