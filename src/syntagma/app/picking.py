"""Choosing for a person: which slots of a formula are open, which terms each may take, and picks
that suit the rest.
"""

import re
from collections.abc import Callable, Collection, Mapping, Sequence
from contextlib import suppress
from functools import cache, cached_property
from itertools import groupby
from random import Random

from syntagma.app.asked import USUAL, Taste
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.designs.axes import Agreement
from syntagma.core.diagnostics import WARNING, Finding, Trouble, perhaps
from syntagma.core.drafting.draft import Glue
from syntagma.core.drafting.fills import Fill, Given
from syntagma.core.english.noun_groups import head_end
from syntagma.core.formula import FixedText, SlotRule
from syntagma.core.models.patterns import refusals
from syntagma.core.notation.toml import read_toml
from syntagma.core.picking.kinds import ANYBODY, being_of, kind_of, own_deed, own_place, stranger
from syntagma.core.picking.picker import Deck, Picker, Want
from syntagma.core.picking.scene import HEARD, PLACE, SHIPPED, Scene, stands_for
from syntagma.core.picking.situated import (
    DETAILS,
    PAIRED,
    Begun,
    Situating,
    asked_of,
    slots_at,
    take_at,
)
from syntagma.core.picking.situations import OF_SITUATIONS, Moment, Situation
from syntagma.core.picking.themes import Leaning
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Facet, Term, Vocabulary, ideas
from syntagma.core.vocabulary.world import LEAD, BadWorld, Seat, Thing
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage import folders
from syntagma.storage.files import read_text

# ──── What a pick has to suit: who and what is in a prompt, in terms and in words of a person's
# own, and what the formula says and keeps out.


Levels = Sequence[
    Mapping[str, Fill | None]
]  # the choices of a family that varies, each as what fills its slots
# what one of whom nothing is known takes for granted: it is shown like no person, and whole
UNKNOWN = "being: thing land building vehicle vessel; extent: figure place land"


@cache
def said_rules() -> list[tuple[re.Pattern[str], str]]:
    """What plain words take for granted: patterns and worlds (data/said.toml)."""
    rules = read_toml(read_text(folders.SHIPPED / "said.toml", "what words assume"))["said"]
    return [(re.compile(rf"\b(?:{rule['pattern']})\b", re.I), rule["world"]) for rule in rules]


class Ground:
    """What is in the prompts of one formula. `base` is what the situation of the last pick takes
    for granted.
    """

    def __init__(self, workspace: Workspace, writer: Writer, leaning: Leaning):
        self.workspace, self.writer, self.leaning = workspace, writer, leaning
        self.base: Sequence[Thing] = ()

    @property
    def _seats(self) -> Mapping[str, Seat]:
        return self.writer.compiled.seats

    def standing(
        self,
        fills: Sequence[Fill | None],
        but: Collection[str] = (),
        levels: Levels = (),
        guess: bool = True,
    ) -> tuple[Scene, set[str]]:
        """What a pick has to suit: the scene of what is filled already in the text (for free text,
        the terms that it is like: what they take for granted is a guess, made where `guess` says
        so), with each of the `levels` of a family, and the ideas that are said, the formula's fixed
        words among them.
        """
        vocabulary = self.workspace.vocabulary
        own_words = [
            item.words
            for rule, fill in zip(self.writer.rules, fills, strict=True)
            if fill and rule.name not in but
            for item in fill.items
            if item.term is None
        ]
        scene, told = (
            Scene(
                vocabulary,
                [*self.writer.compiled.granted, *self.themed, *self.base, *self.said(own_words)],
            ),
            set(self._fixed),
        )
        for rule, fill in zip(self.writer.rules, fills, strict=True):
            if not fill or rule.name in but or rule.name not in self.writer.shown:
                continue
            own: list[Term] = []
            for item in fill.items:
                told |= ideas(f"{item.words} {item.place}")
                term = item.term
                if term is None and guess and rule.facet in vocabulary:
                    term = stands_for(item.words, vocabulary[rule.facet])
                own += [term] if term else []
            scene.unknown_place |= self._seats[rule.name].role == LEAD and (
                own_deed(fill) or bool(own_place(fill, vocabulary))
            )
            if rule.world and not all(item.term for item in fill.items):
                scene.grant(
                    [Thing(self._seats[rule.name], rule.name, vocabulary.world(rule.world))]
                )
            scene.unknown_place |= rule.facet == PLACE and any(
                item.term is None for item in fill.items
            )
            if own:
                scene.add(
                    self._seats[rule.name],
                    own,
                    guessed=any(item.term is None for item in fill.items),
                )
            if (
                self._seats[rule.name].role == LEAD
                and not all(item.term for item in fill.items)
                and (world := self._being(rule.facet, fill))
            ):
                scene.grant(
                    [Thing(self._seats[rule.name], fill.shown, vocabulary.world(world))]
                )  # "a fox" buttons no coat
        if guess and (place := self.own_place(fills)) and (like := self.place_like(place)):
            scene.add(Seat("", PLACE), [like], guessed=True)
        for slots, varied in groupby(levels, key=tuple):
            common = self.standing(fills, {*but, *slots})[0]
            scene.vary(
                common,
                [
                    things
                    for things in map(self._things, varied)
                    if all(common.takes(thing.seat, thing.world) for thing in things)
                ],
            )
        scene.beside += [
            [term] for level in levels for fill in level.values() if fill for term in fill.terms
        ]
        return scene, told

    def _being(self, facet: str, fill: Fill) -> str:
        """What somebody of a person's own takes for granted by the kind that they are."""
        kind = kind_of(fill, self.workspace.vocabulary)
        return (
            being_of(kind)
            if kind
            else UNKNOWN
            if stranger(fill, facet, self.workspace.vocabulary)
            else ""
        )

    def _things(self, level: Mapping[str, Fill | None]) -> list[Thing]:
        """What a choice of a family takes for granted, or the terms that it is like."""
        vocabulary, found = self.workspace.vocabulary, []
        for slot, fill in level.items():
            facet = self.writer.rules[self.writer.position[slot]].facet
            for item in fill.items if fill and slot in self.writer.shown else ():
                term = item.term or (
                    stands_for(item.words, vocabulary[facet]) if facet in vocabulary else None
                )
                found += (
                    [vocabulary.thing(self._seats[slot], term)] if term else self.said([item.words])
                )
        return found

    def said(self, texts: Sequence[str]) -> list[Thing]:
        """What words of a person's own take for granted, if that is plain: at night, in a
        kitchen.
        """
        read = self.workspace.vocabulary.dimensions.world
        return [
            Thing(Seat("", "", None, LEAD), found[0], read(world))
            for text in texts
            for pattern, world in said_rules()
            if (found := pattern.search(text))
        ]

    def against(self, slot: str, fills: Sequence[Fill | None]) -> Callable[[Term], str]:
        """What says why a term in a slot takes for granted what the other fills rule out, in words;
        "" if it does not.
        """
        vocabulary, compiled = self.workspace.vocabulary, self.writer.compiled
        if slot not in self._seats:
            return lambda term: ""
        others = {name: fill for name, fill in compiled.named(fills).items() if name != slot}
        agreement = Agreement(vocabulary, self._seats, compiled.granted, others)
        return lambda term: agreement.why([vocabulary.thing(self._seats[slot], term)])

    @cached_property
    def themed(self) -> list[Thing]:
        """What the themes take for granted."""
        read = self.workspace.vocabulary.dimensions.world
        try:
            return [
                Thing(Seat("", ""), theme.name, read(theme.world)) for theme in self.leaning.themes
            ]
        except BadWorld as bad:
            raise Trouble(f"the world of a theme can't be read: {bad}", bad.remedy, 2) from None

    def own_place(self, fills: Sequence[Fill | None]) -> str:
        """Where the words of the one that the picture is of say that they are."""
        leads = (
            fill
            for rule, fill in zip(self.writer.rules, fills, strict=True)
            if fill and (seat := self._seats.get(rule.name)) and seat.role == LEAD
        )
        return next(
            (place for fill in leads if (place := own_place(fill, self.workspace.vocabulary))), ""
        )

    def place_like(self, words: str) -> Term | None:
        """The place of the vocabulary that a place in words is like."""
        vocabulary = self.workspace.vocabulary
        return (
            stands_for(english.split_place(words)[1], vocabulary[PLACE])
            if PLACE in vocabulary
            else None
        )

    def lead_is(
        self, what: Callable[[Fill, str, Vocabulary], bool], fills: Sequence[Fill | None]
    ) -> bool:
        """Is this true of the one that the picture is of?"""
        leads = (
            (rule, fill)
            for rule, fill in zip(self.writer.rules, fills, strict=True)
            if fill and (seat := self._seats.get(rule.name)) and seat.role == LEAD
        )
        return any(what(fill, rule.facet, self.workspace.vocabulary) for rule, fill in leads)

    @cached_property
    def _fixed(self) -> frozenset[str]:
        """The ideas that the formula's fixed phrases say, whatever is filled."""
        fixed = [
            token.text
            for plan in self.writer.compiled.plans
            for token in plan.tokens
            if isinstance(token, Glue)
        ]
        quoted = [
            word
            for phrase in self.writer.formula.phrases
            for g in phrase.groups()
            for word in g.of("quote")
        ]
        return ideas(" ".join([*fixed, *quoted])) | self.kept_out

    @cached_property
    def kept_out(self) -> frozenset[str]:
        """The ideas of which the formula's negative text says that they are kept out, those that
        one word says.
        """
        parts = [
            part.strip()
            for phrase in self.writer.formula.negatives
            for node in phrase.body
            if isinstance(node, FixedText)
            for part in node.raw.split(",")
        ]
        return frozenset[str]().union(*(ideas(part) for part in parts if part and " " not in part))


# ──── Who speaks the line of a picture: the one whom it is of, if that is somebody who can.


SPEAKER = (  # the slot of who says a line: with nobody given, the one that the picture is of
    "speaker"
)


def with_speaker(fills: list[Fill | None], writer: Writer) -> list[Fill | None]:
    """The fills with the one whom the picture is of as the speaker of its line, if that is somebody
    who can.
    """
    seats = writer.compiled.seats
    lead = next(
        (
            rule.name
            for rule, fill in zip(writer.rules, fills, strict=True)
            if fill and rule.facet == "subject" and seats[rule.name].role == LEAD
        ),
        "",
    )
    fill = fills[writer.position[lead]] if lead else None
    item = fill.items[0] if fill else None
    if item is None or not _speaks(seats[lead], item.term, item.words, writer.compiled.vocabulary):
        return fills
    words = english.split_determiner(item.term.term if item.term else item.words)[1]
    said = writer.fills({SPEAKER: f"the {words[: head_end(words)]}"})
    return [mine or theirs for mine, theirs in zip(said, fills, strict=True)]


def _speaks(seat: Seat, term: Term | None, words: str, vocabulary: Vocabulary) -> bool:
    if term is None:
        return vocabulary["animal"].get(words) is None
    return not vocabulary.dimensions.disagreements(
        [
            vocabulary.thing(seat, term),
            Thing(seat, SPEAKER, vocabulary.world("being: person child group")),
        ]
    )


# ──── Choosing for a person: which slots of a formula are open, which terms each may take, and
# picks that suit the rest.


class Chooser:
    """Chooses terms for the slots of one formula. Raises Trouble for a theme or a detail that there
    is not.
    """

    def __init__(self, workspace: Workspace, writer: Writer, taste: Taste = USUAL):
        if taste.detail not in DETAILS:
            remedy = perhaps(
                taste.detail, DETAILS, f"write {', '.join(DETAILS[:-1])} or {DETAILS[-1]}"
            )
            raise Trouble(f"“{taste.detail}” is not a detail", remedy, 2)
        self.workspace, self.writer, self.taste = workspace, writer, taste
        self.leaning = Leaning([workspace.theme(name) for name in taste.themes])
        self.ground = Ground(workspace, writer, self.leaning)

    def random(self, *more: object):
        """The one generator of a call's choices, fixed by the draw."""
        from random import Random  # imported late: a prompt with nothing to pick draws nothing

        return Random(" ".join(map(str, ("syntagma", self.taste.draw, *more))))

    def rule(self, slot: str) -> SlotRule:
        return self.writer.rules[self.writer.position[slot]]

    def facet(self, slot: str) -> Facet:
        """The facet of a slot. Raises Trouble if it is free."""
        rule = self.rule(slot)
        if rule.facet not in self.workspace.vocabulary:
            raise Trouble(
                f"the slot “{slot}” takes free text, so it has no terms",
                f"give it a text: {slot}=…",
                2,
            )
        return self.workspace.vocabulary[rule.facet]

    def terms(self, slot: str) -> list[Term]:
        """The terms that a pick may take for a slot: of the formula's medium, with a tag that the
        slot keeps to and none that it passes over, none that a theme excludes and none that the
        model refuses.
        """
        rule, media = self.rule(slot), self.writer.formula.head.media
        only, never = set(rule.only), set(rule.never)
        refused = [r for r in self.writer.profile.refused if r.instead is None]
        found = [
            term
            for term in self.facet(slot)
            if not (media and term.media and term.media != media)
            and (not only or not only.isdisjoint(term.tags))
            and never.isdisjoint(term.tags)
            and self.leaning.allows(term)
            and term.meant_for(self.writer.formula.name)
            and not (
                refused
                and refusals(refused, " ; ".join((term.term, term.phrase, term.place, term.clause)))
            )
        ]
        own = [term for term in found if term.layer not in SHIPPED] if self.taste.mine else []
        return own or found

    def open(self, fills: Sequence[Fill | None], given: Mapping[str, Given]) -> list[str]:
        """The slots that a pick fills: nothing was given for them, they have a facet, the detail
        wants them, no theme leaves them open, no look has settled them, and their phrase does not
        wait for what only a person can say.
        """
        wanted = set(slots_at(self.taste.detail, self.writer.formula)) - self._waiting(fills)
        settled = self.writer.formula.head.settles
        return [
            rule.name
            for rule, fill in zip(self.writer.rules, fills, strict=True)
            if fill is None
            and rule.name not in given
            and rule.name in wanted
            and (rule.facet in self.workspace.vocabulary or rule.name in (*OF_SITUATIONS, SPEAKER))
            and not rule.number
            and (rule.need or not (rule.facet in settled or self.leaning.leaves(rule.facet)))
        ]

    def _waiting(self, fills: Sequence[Fill | None]) -> set[str]:
        """The slots of phrases whose free text is blank: no voice is picked for a line that nobody
        speaks.
        """
        blank, spoken = set(), set()
        for phrase in (*self.writer.formula.phrases, *self.writer.formula.negatives):
            heads = {
                group.head
                for group in phrase.groups()
                if self.rule(group.head).facet not in self.workspace.vocabulary
                and group.head not in (*OF_SITUATIONS, SPEAKER)
            }
            silent = (
                bool(heads)
                and not any(self.rule(slot).need for slot in phrase.slots)
                and all(fills[self.writer.position[head]] is None for head in heads)
            )
            (blank if silent else spoken).update(phrase.slots)
        return blank - spoken

    def wants(self, slots: Collection[str]) -> list[Want]:
        """What a picker has to know of slots."""
        wants = []
        for slot in slots:
            rule = self.rule(slot)
            if rule.facet not in self.workspace.vocabulary and slot in (*OF_SITUATIONS, SPEAKER):
                continue
            terms, take = self.terms(slot), take_at(self.taste.detail, rule.take)
            fill = self.leaning.fill(rule.facet)
            terms = [t for t in terms if fill and t is self.facet(slot).get(fill)] or terms
            seat = self._seats.get(slot, Seat(slot, rule.facet))
            wants.append(
                Want(
                    slot,
                    rule.facet,
                    terms,
                    take,
                    rule.need,
                    slot not in self.writer.shown,
                    seat,
                    rule.skip,
                )
            )
        return wants

    @cached_property
    def _seats(self) -> dict[str, Seat]:
        return self.writer.compiled.seats

    def picker(self, slots: Collection[str], random: Random) -> Picker:
        return Picker(self.wants(slots), random, self._lean)

    def deck(self, slot: str, random: Random) -> Deck:
        return Deck(self.wants([slot])[0], random, self._lean)

    @property
    def _lean(self) -> Callable[[Term], float] | None:
        return self.leaning.of if self.leaning.themes else None

    def begun(
        self,
        fills: Sequence[Fill | None],
        slots: Collection[str],
        turn: int,
        levels: Levels = (),
        done: Collection[str] = (),
    ) -> Begun | None:
        """The situation with which a pick of `slots` begins, the `turn`th; None if none fits the
        rest, or where few do, since somebody or a place is given, and all have come (what goes on,
        with deeds `done`, stays with those).
        """
        order, situating = self.in_order(fills, slots, levels, done)
        if not order:
            return None
        few = (
            situating.few
            and not (situating.one or done)
            and not order[-1][0].lead.startswith(ANYBODY)
        )
        number = (self.taste.draw - 1) * (1 if situating.few else APART) + turn
        turns = max(len(order), FEW) if few else len(order)
        anew = turn >= turns  # all have come in this call
        for at in range(
            number, number + min(turns, FEW)
        ):  # one that says what the formula keeps out is passed over
            found = (
                situating.begun(*order[at % turns], number, number // turns, anew)
                if at % turns < len(order)
                else None
            )
            if found is None or self.ground.kept_out.isdisjoint(
                ideas(" ".join(found.texts.values()))
            ):
                return found
        return None

    def in_order(
        self,
        fills: Sequence[Fill | None],
        slots: Collection[str],
        levels: Levels = (),
        done: Collection[str] = (),
    ) -> tuple[list[tuple[Situation, list[Moment]]], Situating]:
        """The situations that fit the rest, in the formula's own order, each with its moments; and
        what makes texts of them.
        """
        varied: dict[str, list[Fill]] = {}
        for level in levels:
            for slot, fill in level.items():
                varied.setdefault(slot, []).extend([fill] if fill else [])
        asked = asked_of(
            self.writer.formula.name,
            self.writer.rules,
            self._seats,
            fills,
            slots,
            self.workspace.vocabulary,
        )
        situating = Situating(asked, self.workspace.vocabulary, self.leaning, varied, done)
        situations = self.workspace.situations(situating.facets) if situating.facets else []
        if not situations:
            return [], situating
        stars = [named for named, mark in self.workspace.marks.items() if mark.star]
        return (
            situating.in_order(
                situations,
                self.ground.standing(fills, slots, levels)[0],
                " ".join(self.taste.themes),
                self.taste.mine,
                stars,
            ),
            situating,
        )

    def pick(
        self,
        fills: Sequence[Fill | None],
        slots: Collection[str],
        random: Random,
        but: Mapping[str, Collection[Term]] = {},
        levels: Levels = (),
        turn: int = 0,
        kept: dict[tuple[str, ...], Picker] | None = None,
        done: Collection[str] = (),
        guess: bool = True,
    ) -> list[Fill | None]:
        """Every slot's fill, those in `slots` picked, to go with the other fills and, if it is the
        base of a family, with each of its `levels`: of a situation, the `turn`th, and then what
        goes with that; pickers that are `kept` know what they have picked before; deeds that are
        `done` come no more. Raises Trouble if a slot that is needed found nothing that goes with
        the rest.
        """
        if not but:  # who asks for another stays with the situation that there is
            self.ground.base = ()
        begun = None if but else self.begun(fills, slots, turn, levels, done)
        if begun:
            said = self.writer.fills(begun.texts)
            fills = [mine or theirs for mine, theirs in zip(said, fills, strict=True)]
            slots = [slot for slot in slots if slot not in begun.texts and slot not in begun.left]
            self.ground.base = begun.things
        if not but:
            slots = self._told_by_nobody(fills, slots, begun is not None)
        asked_to_speak = SPEAKER in slots
        slots = [slot for slot in slots if slot not in (*OF_SITUATIONS, SPEAKER)]
        pickers = {} if kept is None else kept
        if (picker := pickers.get(tuple(slots))) is None:
            wants = [
                want._replace(
                    terms=[
                        term
                        for term in want.terms
                        if want.facet != "action" or term.term not in done
                    ]
                )
                for want in self.wants(slots)
            ]
            picker = pickers[tuple(slots)] = Picker(
                [want._replace(need=True) for want in wants] if but else wants, random, self._lean
            )  # who asks for another does not mean none
        paired = [
            rule.name
            for rule in self.writer.rules
            if begun and rule.facet == "action" and self.writer.formula.name in PAIRED
        ]  # both frames of a clip are as the whole of it
        scene, told = self.ground.standing(fills, [*slots, *paired], levels, guess)
        scene.lenient = not guess and not but
        needed = [slot for slot in slots if self.rule(slot).need]
        for _ in range(TRIES):
            picked = picker.pick(scene, told, but)
            if all(picked[slot] for slot in needed):
                filled = list(fills)
                for slot, fill in picked.items():
                    filled[self.writer.position[slot]] = fill
                return with_speaker(filled, self.writer) if asked_to_speak else filled
        nothing = self._nothing_for(next(slot for slot in needed if not picked[slot]))
        if not (levels or guess):
            raise nothing
        # what goes with the first of the levels, and with what is known, not guessed, of a person's
        # own words
        try:
            found = self.pick(fills, slots, random, but, turn=turn, guess=False)
        except Trouble:
            raise nothing from None
        return with_speaker(found, self.writer) if asked_to_speak else found

    def _told_by_nobody(
        self, fills: Sequence[Fill | None], slots: Collection[str], begun: bool
    ) -> Collection[str]:
        """The slots of which neither the words of the one whom the picture is of tell, nor that
        nothing is known of them; and those that are needed.
        """
        told: set[str] = set()
        if not begun and len(slots) > 1 and self.ground.lead_is(stranger, fills):
            told |= set(ROUND_ABOUT)  # "a stone bridge" pours no tea
        if len(slots) > 1 and self.ground.lead_is(
            lambda fill, facet, vocabulary: own_deed(fill), fills
        ):
            told |= {PLACE, "action", *HEARD}  # who rows out to sea is on no wall
        if place := self.ground.own_place(
            fills
        ):  # "a castle on a hill" is nowhere else, and under no lamp of a street
            told |= (
                {PLACE}
                if self.ground.place_like(place) or self.ground.said([place])
                else {PLACE, "lighting"}
            )
        return [slot for slot in slots if self.rule(slot).facet not in told or self.rule(slot).need]

    def _nothing_for(self, slot: str) -> Trouble:
        """Why nothing goes into a slot that is needed."""
        facet, themes = self.rule(slot).facet, self.leaning.themes
        if not themes:
            return Trouble(
                f"no term of {facet} fits the rest",
                f"give one: {slot}=…, or give less of the rest",
                1,
            )
        named, what = (
            " and ".join(f"“{theme.name}”" for theme in themes),
            f"the theme{'s' * (len(themes) > 1)}",
        )
        why = self.workspace.vocabulary.dimensions.disagreements(
            [*self.writer.compiled.granted, *self.ground.themed]
        )
        message, another = (
            f"no term of {facet} fits {self.writer.formula.name} and {what} {named}",
            "take another theme (`syntagma theme` lists them)",
        )
        return (
            Trouble(f"{message}: {why[0].why}", another, 1)
            if why
            else Trouble(message, f"{another}, or give one: {slot}=…", 1)
        )

    def another(
        self,
        fills: Sequence[Fill | None],
        slot: str,
        random: Random,
        but: Mapping[str, Collection[Term]],
    ) -> list[Fill | None]:
        """The fills with something else in one slot: what goes with the situation, and then what
        goes with its place, at another hour. Raises Trouble if nothing is left.
        """
        found = self.pick(fills, [slot], random, but)
        if not found[self.writer.position[slot]]:
            self.ground.base = [
                thing._replace(world=self.workspace.vocabulary.dimensions.only(thing.world, PLACES))
                for thing in self.ground.base
            ]
            found = self.pick(fills, [slot], random, but)
        if found[self.writer.position[slot]]:
            return found
        raise Trouble(
            f"no other term of {self.rule(slot).facet} fits the rest", f"give one: {slot}=…", 1
        )

    def insisted(
        self, fills: Sequence[Fill | None], slots: Collection[str], random: Random
    ) -> tuple[list[Fill | None], list[Finding]]:
        """The fills with something in each of the `slots` that were asked for one by one, though a
        pick would leave them open; and the findings on those in which nothing goes.
        """
        told = []
        for slot in slots:
            if (
                fills[self.writer.position[slot]] is None
                and self.rule(slot).facet in self.workspace.vocabulary
            ):
                with suppress(Trouble):
                    fills = self.pick(fills, [slot], random, {slot: ()})
                if fills[self.writer.position[slot]] is None:
                    told.append(
                        Finding(
                            WARNING,
                            f"no term of {self.rule(slot).facet} fits the rest, so {slot} stays"
                            " blank",
                            f"give one: {slot}=…",
                            slot,
                            code="nothing-goes",
                        )
                    )
        return list(fills), told


# how far the draws of a call are apart in the order of situations, so families of two draws share
# little; a prime, so all come
APART = 997
FEW = 8  # where fewer situations go with what is given, picks without one fill up the number
PLACES = ("where", "site")  # dimensions of a place, whatever the hour
ROUND_ABOUT = facets.FacetGroup(
    "unknown-lead"
)  # what nobody picks for one of whom nothing is known
TRIES = 40  # rounds of picks before they are given up
