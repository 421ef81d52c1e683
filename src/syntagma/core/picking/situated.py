"""The situation with which a pick begins: whom it is for, which goes with what is given, and what
it fills.
"""

from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import Formula, Option, Phrase, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.kinds import (
    ANYBODY,
    at_home,
    being_of,
    kind_of,
    names,
    own_deed,
    own_place,
)
from syntagma.core.picking.scene import PLACE, SHIPPED, Scene
from syntagma.core.picking.situations import (
    DETAIL,
    FRAMING,
    OF_SITUATIONS,
    Moment,
    Situation,
    nth,
    turn_of,
)
from syntagma.core.picking.themes import Leaning
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal
from syntagma.core.vocabulary.world import LEAD, Seat, Thing

# ──── What a pick asks of situations: of whom, where, doing what, and which slots of a formula they
# may fill.


# ──── How much of a formula is filled: bare, usual or rich.


DETAILS = ("bare", "usual", "rich")


def slots_at(detail: str, formula: Formula) -> list[str]:
    """The slots that a pick fills, in their order. bare: those needed, and those of the phrases
    marked `!` (of the first, if none is), outside braces; usual: those of all phrases but the ones
    marked `?`, outside braces, and of the negative text; rich: every slot.
    """
    if detail == "rich":
        return [rule.name for rule in formula.slots]
    if detail == "bare":
        kept = [p for p in formula.phrases if p.mark == "!" and p.slots]
        phrases = kept or [p for p in formula.phrases if p.slots][:1]
    else:
        phrases = [p for p in formula.phrases if p.mark != "?"] + list(formula.negatives)
    chosen = {name for phrase in phrases for name in _outside_braces(phrase)}
    return [rule.name for rule in formula.slots if rule.need or rule.name in chosen]


def take_at(detail: str, take: tuple[int, int]) -> tuple[int, int]:
    """How many terms a slot takes: the least for bare, the most for rich, any number between
    otherwise.
    """
    least, most = take
    return {"bare": (least, least), "rich": (most, most)}.get(detail, take)


def _outside_braces(phrase: Phrase) -> Iterator[str]:
    for node in phrase.body:
        if not isinstance(node, Option):
            yield from getattr(node, "slots", ())


# ──── What a pick asks of situations: of whom, where, doing what, and which slots of a formula they
# may fill.


LEADS = {
    "subject": ("subject", "animal")
}  # a slot's facet → the facets of situations that it takes, if they are not its own alone
CORE = facets.FacetGroup(
    "of-situations"
)  # what a situation that was written for no formula has to give


class Asked(NamedTuple):
    """A formula in one call: its rules that have a seat, the `slots` that are picked, what is
    `given` for others, and the rule of the one that the picture is of; None if no situation is
    usable.
    """

    name: str
    rules: Sequence[SlotRule]
    seats: Mapping[str, Seat]
    slots: Collection[str]
    given: Mapping[str, Fill]
    lead: SlotRule | None

    @property
    def open(self) -> set[str]:
        """The slots that a situation may fill beside its lead."""
        return {
            rule.name for rule in self.rules if rule is not self.lead and rule.name in self.slots
        }

    def said_in(self, slots: Collection[str]) -> frozenset[str]:
        """The columns of a moment that fill any of some slots."""
        found: set[str] = set()
        for rule in self.rules:
            if rule.name in slots:
                column = column_of(rule)
                found |= (
                    {column}
                    if column
                    else {"action"}
                    if rule.facet == "action"
                    else {rule.name, rule.facet}
                )
        return frozenset(found)

    @property
    def columns(self) -> tuple[frozenset[str], frozenset[str]]:
        """The columns that fill anything that is open; and of those what makes a situation."""
        every = self.open
        core = {
            rule.name
            for rule in self.rules
            if {rule.facet, rule.name} & {DETAIL, FRAMING}
            or rule.facet in CORE
            or rule.name in CORE
        }
        return self.said_in(every), self.said_in(core & every)


class Whoever(NamedTuple):
    """Who is asked for: the kind of anybody that it may be, all that somebody given is called (None
    if nobody is), the place or the deed that is `held`, by facet with its names; and whether what
    may be anywhere goes.
    """

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
        said = [
            text
            for text in (
                moment.words.get("action", ""),
                moment.alone if self.skipped else moment.then,
            )
            if text
        ]
        wanted = said[self.skipped : self.skipped + len(self.slots)]
        return (
            tuple(wanted)
            if len(wanted) == len(self.slots) or (len(self.slots) == 1 and not self.skipped)
            else None
        )


def column_of(rule: SlotRule) -> str:
    """The column of several texts, any of which will do, that fills a slot; "" for others."""
    return (
        FRAMING if rule.facet == "composition" else rule.name if rule.name in OF_SITUATIONS else ""
    )


def asked_of(
    name: str,
    rules: Sequence[SlotRule],
    seats: Mapping[str, Seat],
    fills: Sequence[Fill | None],
    slots: Collection[str],
    vocabulary: Vocabulary,
) -> Asked:
    """What a formula asks, where `slots` are picked and `fills` stand."""
    seated = [rule for rule in rules if rule.name in seats]
    given = {
        rule.name: fill
        for rule, fill in zip(rules, fills, strict=True)
        if fill and rule.name not in slots and rule.name in seats
    }
    needed = [rule for rule in seated if rule.need and not rule.number]
    said = [rule for rule in seated if rule.name in slots or rule.name in given]
    leads = (
        *(rule for rule in needed if seats[rule.name].role == LEAD),
        *(rule for rule in needed if rule.facet in vocabulary),
        *(rule for rule in said if seats[rule.name].role == LEAD),
    )
    asked = Asked(name, seated, seats, slots, given, next(iter(leads), None))
    return asked if asked.open else asked._replace(lead=None)


def whoever(asked: Asked, vocabulary: Vocabulary, varied: Mapping[str, Sequence[Fill]]) -> Whoever:
    """Who is asked for, if anybody is given; of a lead that is `varied`, a baker and a diver, only
    anybody's situations go.
    """
    lead = asked.lead
    assert lead is not None, "only somebody who may have a situation is asked for"
    given = asked.given.get(lead.name)
    held = [
        rule
        for rule in asked.rules
        if rule.name in asked.given and rule.name != lead.name and rule.facet in (PLACE, "action")
    ]
    named = [
        (
            rule.facet,
            (
                frozenset[str]()
                if rule.name in varied
                else names(asked.given[rule.name], rule.facet, vocabulary)
            ),
        )
        for rule in held
    ]
    if given and own_place(given, vocabulary):
        named.append((PLACE, frozenset()))
    if given and own_deed(given):
        named.append(("action", frozenset()))
    anywhere = any(facet == PLACE for facet, _ in named) or all(
        rule.facet != PLACE for rule in asked.rules
    )
    if several := varied.get(lead.name):
        kinds = {kind_of(fill, vocabulary) for fill in several}
        return Whoever(kinds.pop() if len(kinds) == 1 else "", frozenset(), named, anywhere)
    if not given:
        return Whoever("", None, named, anywhere)
    places = frozenset[str]().union(*(name for facet, name in named if facet == PLACE))
    kind = "" if at_home(given, lead.facet, vocabulary, places) else kind_of(given, vocabulary)
    return Whoever(kind, names(given, lead.facet, vocabulary), named, anywhere)


def deeds_of(asked: Asked) -> Deeds:
    """The deeds that a formula takes."""
    rules = [
        rule
        for rule in asked.rules
        if rule.facet == "action" and (rule.name in asked.slots or rule.name in asked.given)
    ]
    return Deeds(
        tuple(rule.name for rule in rules),
        tuple(Seat(rule.name, "action") for rule in rules),
        sum(rule.skip for rule in rules),
    )


# ──── The situation with which a pick begins: the next one of the formula's own order that goes
# with what is given, and what of it fills which slot.


SETTLED = facets.FacetGroup(
    "told-by-light"
    # what a situation with a light of its own leaves open if it says nothing: the light tells hour,
    # sky
    # and mood, and no sound is better than another place's
)
SILENT = regex(
    r"\b(?:asleep|sleeping|dozing|yawning|holding a breath|before a dive|in the"
    r" teeth|mouthful|whistling|singing|eating|drinking|brushing teeth)\b"
)  # who does that says no line
COLOURED = facets.FacetGroup("coloured")  # what stays open where a situation names a colour
COLOUR = regex(
    r"\b(?:red|green|blue|white|black|grey|gold|golden|yellow|orange|pink|violet|brown|silver|copper|rust|rose|cream|colou?r\w*)\b"
)
LEANT = 2 / 3  # the share of what a theme leans to most that a situation has to have
ALIKE = {
    "last-frame": "first-frame"
}  # formulas of one clip: of one draw they show one moment of one situation
PAIRED = frozenset((*ALIKE, *ALIKE.values()))
_SOMEWHERE, _FRAMES = Seat("", PLACE), (Seat("start", "action"), Seat("end", "action"))


class Begun(NamedTuple):
    """What a situation gives a formula: texts by slot, what it takes for granted, and slots that
    stay open.
    """

    situation: Situation
    texts: Mapping[str, str]
    things: Sequence[Thing]
    left: frozenset[str] = frozenset()


class Situating:
    """The slots of a formula as situations see them: those in `varied` have one of several fills.
    What is `done` has been shown: what comes of it follows.
    """

    def __init__(
        self,
        asked: Asked,
        vocabulary: Vocabulary,
        leaning: Leaning,
        varied: Mapping[str, Sequence[Fill]] = {},
        done: Collection[str] = (),
    ):
        self.asked, self.vocabulary, self.leaning, self._done = asked, vocabulary, leaning, done
        if not asked.lead:
            return
        self.who, self._deeds = whoever(asked, vocabulary, varied), deeds_of(asked)
        self._all, self._core = asked.columns
        self._seat, slots = asked.seats[asked.lead.name], asked.open
        self._round = [
            (rule, Thing(asked.seats[rule.name], rule.name, vocabulary.world(rule.world)))
            for rule in asked.rules
            if rule.world and rule.name in slots
        ]

    @property
    def few(self) -> bool:
        """Is somebody or a place given, so few situations go?"""
        return bool(self.asked.lead and (self.who.held or self.who.called))

    @property
    def one(self) -> bool:
        """Is a deed given, so the situation whose deed it is goes, and no other?"""
        return bool(self.asked.lead) and any(facet == "action" for facet, _ in self.who.held)

    @property
    def facets(self) -> tuple[str, ...]:
        """The facets of the situations that the formula takes; none if it has no use for one."""
        if not self.asked.lead:
            return ()
        facets = LEADS.get(self.asked.lead.facet, (self.asked.lead.facet,))
        return (
            tuple(dict.fromkeys((*facets, *LEADS["subject"]))) if self.who.kind else facets
        )  # a girl may be the hero of a page for animals

    def begun(
        self,
        one: Situation,
        moments: Sequence[Moment],
        turn: int,
        again: int = 0,
        anew: bool = False,
    ) -> Begun:
        """What a situation gives: one of its moments, another each time that it comes `again`;
        `again`, without its colours, so it comes in others (but a place keeps its own).
        """
        moment = nth(
            moments, again, ALIKE.get(self.asked.name, self.asked.name), one.name, "moment"
        )
        if anew and one.facet != PLACE:
            moment = moment._replace(
                words={name: text for name, text in moment.words.items() if name != "palette"}
            )
        texts = self._texts(one, moment, turn)
        leaves = {
            *moment.leaves,
            *(SETTLED if "lighting" in moment.words else ()),
            *(COLOURED if any(map(COLOUR.search, texts.values())) else ()),
        } - moment.words.keys()
        left = frozenset(
            rule.name for rule in self.asked.rules if rule.facet in leaves and not rule.need
        )
        things = [
            *self._of_lead(one),
            *self._of_moment(moment),
            Thing(self._seat._replace(slot=""), one.lead, self.vocabulary.world(moment.world)),
        ]
        return Begun(one, texts, things, left)

    def in_order(
        self,
        situations: Sequence[Situation],
        scene: Scene,
        asked: str = "",
        mine: bool = False,
        stars: Collection[tuple[str, str]] = (),
    ) -> list[tuple[Situation, list[Moment]]]:
        """The situations that go with a scene, each with its moments that do, in the order in which
        the formula takes them: those that name a favourite, of `stars` (facet, name in normal
        form), in its first half.
        """
        situations = [one for one in situations if self.asked.name in one.formulas] or [
            one for one in situations if not one.formulas
        ]  # what was written for it comes alone
        situations = [
            one for one in situations if self._apt(one) and (not mine or one.layer not in SHIPPED)
        ]
        fitting = [(one, moments) for one in situations if (moments := self._moments(one, scene))]
        if self.leaning.themes:
            fitting = [
                (one, leant)
                for one, moments in fitting
                if (leant := [moment for moment in moments if self._leant_to(one, moment)])
            ]
        starred = (
            {id(one) for one, _ in fitting if any(term.star for term in self._terms(one))}
            if stars
            else ()
        )
        asked = " ".join(
            (
                ALIKE.get(self.asked.name, self.asked.name),
                asked,
                *(f"{slot}={fill.given}" for slot, fill in self.asked.given.items()),
            )
        )
        order = sorted(fitting, key=lambda pair: turn_of(pair[0], asked, id(pair[0]) in starred))
        own, anybody = (
            [pair for pair in order if pair[0].lead.startswith(ANYBODY) == any_]
            for any_ in (False, True)
        )
        if self.few and own:
            own = [(one, [moment]) for one, moments in own for moment in moments]
        return (
            [*own, *anybody] if self.who.called else own or anybody
        )  # anybody's come if somebody has none, or no more

    def _apt(self, one: Situation) -> bool:
        """Is it of the one who is given, if anybody is, and one for the formula, which the slot
        keeps to by its tags and those of its term, and no theme excludes?
        """
        if one.lead.startswith(ANYBODY):
            if one.lead != self.who.kind:
                return False
        elif self.who.called is not None and normal(one.lead) not in self.who.called:
            return False
        if self.leaning.themes and not all(map(self.leaning.allows, self._terms(one))):
            return False
        if one.formulas:
            return True
        lead = self.asked.lead
        if lead is None or lead.take != (1, 1):
            return False
        never, only = lead.never, lead.only
        if not never and not only:
            return True
        term = self._term(one.facet, one.lead)
        tags = one.tags.union(term.tags if term else ())
        return tags.isdisjoint(never) and (not only or not term or not tags.isdisjoint(only))

    def _moments(self, one: Situation, scene: Scene) -> list[Moment]:
        """The moments of a situation that go with the formula, with what is given, and with the
        rest.
        """
        wanted = self._all if one.formulas else self._core
        moments = [
            moment
            for moment in map(self._next, one.moments)
            if moment and moment.says(wanted) and self._fits(one, moment)
        ]
        if not moments or not all(
            scene.takes(thing.seat, thing.world) for thing in self._of_lead(one)
        ):
            return []
        world, beside = (
            self.vocabulary.world,
            self._seat._replace(slot=""),
        )  # what a moment takes for granted, whoever it is of
        return [
            moment
            for moment in moments
            if scene.takes(beside, world(moment.world))
            and all(scene.takes(thing.seat, thing.world) for thing in self._of_moment(moment))
        ]

    def _next(self, moment: Moment) -> Moment | None:
        """A moment, or if it is done what comes of it; None if that is done, too."""
        if moment.words.get("action") not in self._done:
            return moment
        return (
            moment._replace(words={**moment.words, "action": moment.alone}, then="")
            if moment.then and moment.alone not in self._done
            else None
        )

    def _fits(self, one: Situation, moment: Moment) -> bool:
        """Does a moment have what the formula asks for, and says nothing else than what is
        given?
        """
        if self._deeds.of(moment) is None or (self.asked.name in PAIRED and not moment.then):
            return False
        if "line" in self.asked.given and (
            (one.facet == "animal" and self.who.called is None)
            or SILENT.search(moment.words.get("action", ""))
        ):
            return False
        anybody = one.lead.startswith(ANYBODY)
        if anybody and not self.who.anywhere and PLACE not in moment.words:
            return False  # what may be anywhere is somewhere
        return all(
            normal(moment.words.get(facet, "")) in names
            or (anybody and facet == PLACE and PLACE not in moment.words)
            for facet, names in self.who.held
        )

    def _term(self, facet: str, words: str) -> Term | None:
        return self.vocabulary[facet].get(words) if facet in self.vocabulary else None

    def _terms(self, one: Situation, moments: Sequence[Moment] = ()) -> list[Term]:
        """The terms of the vocabulary that a situation names, in any of its moments or in these."""
        named = dict.fromkeys(
            [
                (one.facet, one.lead),
                *(pair for moment in moments or one.moments for pair in moment.words.items()),
            ]
        )
        return [term for facet, words in named if (term := self._term(facet, words))]

    def _leant_to(self, one: Situation, moment: Moment) -> bool:
        """Do the themes lean towards a moment, by its tags, its terms and what it takes for
        granted: by more than LEANT of what they lean to most?
        """
        terms = self._terms(one, [moment])
        tags = (
            one.tags
            | self.vocabulary.dimensions.tags(self.vocabulary.world(moment.world))
            | {tag for term in terms for tag in term.tags}
        )
        return (
            self.leaning.of_tags(tags) + sum(map(self.leaning.preferred, terms))
            > self.leaning.most * LEANT
        )

    def _of_lead(self, one: Situation) -> Iterator[Thing]:
        """What the one whom it is of takes for granted."""
        if term := self._term(one.facet, one.lead):
            yield self.vocabulary.thing(self._seat, term)
        if (
            self.asked.lead
            and one.lead.startswith(ANYBODY)
            and not any(item.term for item in self.asked.given[self.asked.lead.name].items)
        ):
            yield Thing(self._seat, one.lead, self.vocabulary.world(being_of(one.lead)))

    def _of_moment(self, moment: Moment) -> Iterator[Thing]:
        """What a moment's place, deeds and words take for granted."""
        if (words := moment.words.get(PLACE)) and (place := self._term(PLACE, words)):
            yield self.vocabulary.thing(_SOMEWHERE, place)
        of_deed = self.vocabulary.dimensions.of_deed
        if self.asked.name in PAIRED:  # both frames are of one moment
            yield from (
                Thing(seat, deed, of_deed(deed))
                for seat, deed in zip(
                    _FRAMES, (moment.words.get("action", ""), moment.then), strict=True
                )
                if deed
            )
        else:
            yield from (
                Thing(seat, deed, of_deed(deed))
                for seat, deed in zip(self._deeds.seats, self._deeds.of(moment) or (), strict=False)
            )
        for rule, thing in self._round:
            if moment.words.get(rule.name) or moment.words.get(rule.facet):
                yield thing

    def _texts(self, one: Situation, moment: Moment, turn: int) -> dict[str, str]:
        """What it says in each slot that is open."""
        deeds = dict(zip(self._deeds.slots, self._deeds.of(moment) or (), strict=False))
        several = {DETAIL: moment.details, FRAMING: moment.framings}
        texts = {}
        for rule in self.asked.rules:
            if rule.name not in self.asked.slots:
                continue
            if column := column_of(rule):
                text = nth(several[column], turn, one.name, column) or ""
            elif rule is self.asked.lead:
                text = one.lead
            else:
                text = (
                    deeds.get(rule.name)
                    or moment.words.get(rule.name)
                    or ("" if rule.facet == "action" else moment.words.get(rule.facet, ""))
                )
            if text:
                texts[rule.name] = text
        return texts
