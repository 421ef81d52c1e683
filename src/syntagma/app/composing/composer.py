"""One prompt of a formula, or one for each row of a table of fills; what is open can be picked;
ideas, different subjects that suit a formula, numbered.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import date
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

from syntagma.app.asked import Ask, call_of, check, to_pick, typed
from syntagma.app.composing.records import Recorder
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking import draft_checks as checks
from syntagma.core.checking.rights import rights
from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, Trouble, perhaps
from syntagma.core.drafting.fills import BadFills, Fill, Given
from syntagma.core.fitting import TooLong
from syntagma.core.realising import TextPiece
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.world import LEAD
from syntagma.core.writing.prompt import Prompt
from syntagma.core.writing.prompt_writer import Writer

if TYPE_CHECKING:
    from syntagma.app.composing.heard import Heard
    from syntagma.app.picking import Chooser
    from syntagma.core.editing.placing import Placed, WishPiece
    from syntagma.core.formula.tree import Formula


# ──── One prompt of a formula, or one for each row of a table of fills; what is open can be picked.


class Composed(NamedTuple):
    """A prompt with the findings on it. `picked` are the slots that were chosen; `kept` the cells
    of a table's row that fill no slot; `heard` what a wish gave.
    """

    ask: Ask
    writer: Writer
    fills: list[Fill | None]
    prompt: Prompt
    findings: list[Finding]
    picked: Sequence[str] = ()
    kept: Mapping[str, str] = {}
    heard: Placed | None = None
    kind: str = ""  # the kind of picture that a wish asks for

    @property
    def request(self) -> dict[str, object]:
        """What the model is sent."""
        from syntagma.core.realising.request import (
            request_of,
        )  # imported late: most prompts are pasted

        return request_of(
            self.writer.profile, self.prompt.around, self.prompt.text, self.prompt.words
        )

    @property
    def record(self) -> dict[str, object]:
        draw = self.ask.taste.draw if self.picked else None
        record = Recorder(self.writer, self.fills, draw=draw).record(
            self.prompt, findings=self.findings
        )
        if self.kind:
            record["kind"] = self.kind
        return record | {"row": dict(self.kept)} if self.kept else record

    @property
    def pieces(self) -> list[TextPiece]:
        """The text in pieces that know their phrase, slot and term."""
        return self.writer.pieces(self.fills)

    def wish_of(self, piece: WishPiece) -> str:
        """The words of the wish that gave a piece of it."""
        assert self.heard is not None
        return self.heard.wish[piece.span.start : piece.span.stop]

    def away(self, slot: str) -> str:
        """Who is away from home in the place that was picked for a slot; "" for one that is at
        home, and for any other slot.
        """
        from syntagma.core.picking.scene import (
            PLACE,
            strays,
        )  # imported late: most prompts pick nothing

        seats, named, vocabulary = (
            self.writer.compiled.seats,
            self.writer.compiled.named(self.fills),
            self.writer.compiled.vocabulary,
        )
        if slot not in seats or seats[slot].facet != PLACE:
            return ""
        leads = [
            term
            for name, seat in seats.items()
            if seat.role == LEAD and (fill := named[name])
            for term in fill.terms
        ]
        places = fill.terms if (fill := named[slot]) else ()
        return next(
            (lead.term for lead in leads for place in places if strays(lead, place, vocabulary)), ""
        )

    @property
    def call(self) -> str:
        """The call that gives the same prompt, with nothing left to the draw."""
        if self.heard and (
            self.heard.guests
            or self.heard.negative
            or self.heard.said
            or any(one.code == "slot-open" for one in self.findings)
        ):  # what found no slot can be said by the wish alone
            return call_of(
                self.ask,
                self.writer.rules,
                self.fills,
                self.heard.typed,
                {*self.heard.fills, *self.heard.said},
            )
        return call_of(self.ask, self.writer.rules, self.fills)


class Composer:
    """Composes prompts of one formula for one model. Raises Trouble or Refused."""

    def __init__(
        self, workspace: Workspace, ask: Ask, remarks: bool = True, formula: Formula | None = None
    ):
        check(ask.manner, looks=ask.looks, themes=ask.taste.themes)
        self.workspace, self.ask = workspace, ask
        self.with_remarks, self.formula = (
            remarks,
            formula,
        )  # remarks cost a search for the nearest terms
        read, self.remarks = (
            workspace.put_round(formula, ask.looks)
            if formula
            else workspace.formula(ask.formula, ask.looks)
        )
        self.writer = Writer(
            read, workspace.model(ask.model), workspace.vocabulary, workspace.manner(ask.manner)
        )
        known = {*self.writer.position, *(phrase.label for phrase in read.phrases)}
        if unknown := next((name for name in ask.manner.stress if name not in known), ""):
            raise Trouble(
                f"no slot and no phrase is called “{unknown}”, so it can't be stressed",
                perhaps(unknown, known, f"the slots are {', '.join(self.writer.position)}"),
                2,
            )

    @cached_property
    def chooser(self) -> Chooser:
        """What picks terms for this formula."""
        from syntagma.app.picking import Chooser  # imported late: most prompts have nothing to pick

        return Chooser(self.workspace, self.writer, self.ask.taste)

    def hear(self, wish: str, given: Mapping[str, Given], told: bool = False) -> Heard:
        """What a wish says of the slots that are not given. Raises Trouble."""

        from syntagma.app.composing.heard import hear  # only a wish pays for it

        return hear(self.workspace, self.base, wish, tuple(given), self.ask.model, told)

    @cached_property
    def base(self) -> Formula:
        """The formula without its looks."""
        return self.formula or self.workspace.formula(self.ask.formula)[0]

    def compose(
        self,
        given: Mapping[str, Given],
        wish: str = "",
        kept: Mapping[str, str] = {},
        number: int = 0,
        told: bool = False,
    ) -> Composed:
        """Compose one prompt; what `given` leaves open comes from `wish`, then from picks if they
        are asked for. `number` tells the rows of a table apart; `told`: the wish is a scene of a
        story. Raises BadFills, TooLong or Trouble.
        """
        given = self._led_by_kind(given)
        guests = self._guests(given)
        if not wish and not guests:
            return self._composed(given, None, kept, number)
        return self._with_guests(
            guests, given, self.hear(wish, given, told) if wish else None, kept, number
        )

    def _guests(self, given: Mapping[str, Given]) -> dict[str, str]:
        """What was given for facets that the formula has no slot for."""
        names = self.workspace.vocabulary.names
        return {
            name: text
            for name, text in given.items()
            if name not in self.writer.position
            and name in names
            and isinstance(text, str)
            and text.strip()
        }

    def _led_by_kind(self, given: Mapping[str, Given]) -> Mapping[str, Given]:
        """What was given, with a kind of picture that is a thing ("travel poster") in the slot for
        kinds if that is free: it leads.
        """
        guests = [name for name in self._guests(given) if self._of_kind(name)]
        slot = (
            next(
                (
                    rule.name
                    for rule in self.writer.rules
                    if (rule.name == "kind" or self._of_kind(rule.facet)) and rule.name not in given
                ),
                "",
            )
            if guests
            else ""
        )
        if not slot:
            return given

        from syntagma.app.reading import tables

        thing = next(
            (
                name
                for name in guests
                if (join := tables().joins.of(str(given[name]))) and join.say.startswith("as ")
            ),
            "",
        )
        return {slot if name == thing else name: text for name, text in given.items()}

    def _of_kind(self, facet: str) -> bool:
        traits = self.workspace.vocabulary.traits.get(facet)
        return bool(traits and traits.home == "kind")

    def _with_guests(
        self,
        guests: Mapping[str, str],
        given: Mapping[str, Given],
        heard: Heard | None,
        kept: Mapping[str, str],
        number: int,
    ) -> Composed:
        """Compose with what the formula has no slot for, and with what a wish gave."""
        from syntagma.app.composing.beside import beside, no_weights, own_settings
        from syntagma.app.composing.heard import hosting
        from syntagma.core.reading.formula_rewriting import without_needs

        found, base = heard.placed if heard else None, self.base
        fills = {**found.fills, **given} if found else dict(given)
        missing: list[str] = []
        if found and not self.ask.pick:
            base, missing = without_needs(base, {**fills, **dict.fromkeys(found.said, "")})
        values, left = own_settings(self.writer.profile, heard.settings if heard else ())
        weights = found.weights if found else {}
        made = hosting(
            self.workspace,
            base,
            guests,
            found.guests if found else (),
            found.negative if found else (),
            weights,
            None if self.ask.pick else fills.keys(),
        )
        slots = {name: weight for name, weight in weights.items() if name in self.writer.position}
        made = made._replace(
            head=made.head._replace(
                parameters={**made.head.parameters, **values}, stress={**made.head.stress, **slots}
            )
        )
        said = {slot: "" for slot in (found.said if found else ()) if slot not in fills}
        composed = Composer(self.workspace, self.ask, self.with_remarks, made)._composed(
            {**fills, **said}, found, kept, number
        )
        tell = composed.findings
        tell.extend(
            Finding(
                REMARK,
                f"{base.name} has no slot for {facet}, so “{text.strip()}” stays where it was",
                "",
                facet,
                code="guest",
            )
            for facet, text in guests.items()
        )
        tell.extend(
            Finding(
                WARNING,
                f"nothing in the wish fills {slot}, so {base.name} leaves it out",
                f"say it, or give {slot}=…",
                slot,
                code="slot-open",
            )
            for slot in missing
        )
        if heard and found:
            if found.guests:
                tell.append(
                    Finding(
                        REMARK,
                        f"{base.name} has no slot for these, so they come before its closing words:"
                        f" {'; '.join(one.text for one in found.guests)}",
                        "",
                        "wish",
                        code="wish-without-place",
                    )
                )
            tell.extend([*left, *heard.findings, *no_weights(self.writer.profile, heard.weights)])
            tell.extend(
                beside(self.writer.profile, composed.prompt, heard.settings, found.negative, tell)
            )
        return composed

    def _composed(
        self, given: Mapping[str, Given], heard: Placed | None, kept: Mapping[str, str], number: int
    ) -> Composed:
        asked = to_pick(self.writer, given, self.workspace.vocabulary)
        fills = self.writer.fills(
            {slot: "" if slot in asked else text for slot, text in given.items()}
        )
        picked: list[str] = []
        told: list[Finding] = []
        if asked or self.ask.pick:
            picked = [
                *asked,
                *(s for s in self.chooser.open(fills, given) if self.ask.pick and s not in asked),
            ]
            random = self.chooser.random(*((number,) if number else ()))
            fills = self.chooser.pick(fills, picked, random, turn=number)
            fills, told = self.chooser.insisted(fills, list(asked), random)
            fills = self._again(fills, picked, number)
            picked = [slot for slot in picked if fills[self.writer.position[slot]]]
        prompt = self.writer.write(fills)
        findings = self.remarks + told + self._findings(fills, prompt, picked)
        return Composed(self.ask, self.writer, fills, prompt, findings, picked, kept, heard)

    def _again(
        self, fills: list[Fill | None], picked: Sequence[str], number: int
    ) -> list[Fill | None]:
        """Other choices for the slots named, everything else as it was."""
        passed: dict[str, list] = {}
        for turn, slot in enumerate(self.ask.again):
            if slot not in picked:
                known = perhaps(slot, picked, f"the picked slots are {', '.join(picked) or 'none'}")
                raise Trouble(
                    f"“{slot}” was not picked, so there is nothing to pick again", known, 2
                )
            position = self.writer.position[slot]
            passed.setdefault(slot, []).extend(fill.terms if (fill := fills[position]) else ())
            fills = self.chooser.another(
                fills, slot, self.chooser.random(number, "again", slot, turn), passed
            )
        return fills

    def _findings(
        self, fills: Sequence[Fill | None], prompt: Prompt, picked: Collection[str] = ()
    ) -> list[Finding]:
        writer = self.writer
        found = (
            writer.findings(fills, prompt)
            + writer.clashes(fills)
            + self._consents(fills)
            + rights(prompt.words, frozenset(map(str.lower, self.workspace.known)))
        )
        if prompt.negative:
            found = found + checks.against_findings(
                prompt.words, prompt.negative.split(writer.profile.negative.separator)
            )
        if not self.with_remarks:
            return found
        typed = [
            rule for rule in writer.rules if rule.name not in picked
        ]  # what a situation says is nobody's slip
        return found + checks.vocabulary_remarks(
            typed, writer.compiled.named(fills), self.workspace.vocabulary
        )

    def _consents(self, fills: Sequence[Fill | None]) -> list[Finding]:
        """Whoever real is called by @name, and has not agreed to a picture on the model, today."""
        known, today = self.workspace.known, date.today().isoformat()
        called = {
            fill.given[1:]
            for fill in fills
            if fill and isinstance(fill.given, str) and fill.given.startswith("@")
        }
        refused = (
            known[name].refused(["picture"], self.writer.profile.name, today)
            for name in sorted(called & known.keys())
        )
        return [
            Finding(
                WARNING,
                why,
                "get their consent before you send it, and name the document in known.toml",
                "references",
                code="no-consent",
            )
            for why in refused
            if why
        ]


def troubles(bad: Exception) -> list[Finding]:
    """The reasons for having no prompt, as findings."""
    if isinstance(bad, BadFills):
        return bad.findings
    assert isinstance(bad, TooLong)
    remedy = (
        "shorten what fills it, remove the ! from a phrase, or choose a model with more than"
        f" {bad.limit.most} {bad.limit.unit}"
    )
    return [Finding(ERROR, str(bad), remedy, "text", code="too-long")]


# ──── Ideas: different subjects that suit a formula and its themes, numbered, to go on with one.


BESIDE = facets.FacetGroup("makes-idea")  # what makes a subject an idea: what it does, and where
TRIES = 60  # draws for one idea before there are no more


class Idea(NamedTuple):
    """One idea: fills by slot, the subject first."""

    number: int
    fills: dict[str, str]


def ideas(composer: Composer, given: Mapping[str, Given], count: int) -> list[Idea]:
    """At most `count` ideas, each of another subject. The first n of a longer list are those of a
    shorter one. Raises Trouble where the formula leaves nothing open to have ideas about.
    """
    from syntagma.core.picking.picker import FIRST  # only ideas pay for it

    chooser, writer = composer.chooser, composer.writer
    fills = writer.fills(given)
    blank = [
        r
        for r, fill in zip(writer.rules, fills, strict=True)
        if fill is None and r.name not in given
    ]
    open_rules = [
        r
        for r in blank
        if r.facet in FIRST and r.facet in composer.workspace.vocabulary and r.name in writer.shown
    ]
    if not open_rules:
        message = "no open slot is left for ideas to fill"
        raise Trouble(message, f"leave one of {', '.join(writer.position)} blank", 2)
    main = min(open_rules, key=lambda r: (not r.need, FIRST.index(r.facet)))
    slots = [main.name, *(r.name for r in open_rules if r.facet in BESIDE and r.name != main.name)]
    found = _situations(chooser, fills, slots, main.name, count)
    picker = chooser.picker(slots, chooser.random("ideas"))
    scene, told = chooser.ground.standing(fills, slots)
    seen: list = [
        term for one in found if (term := chooser.facet(main.name).get(one.fills[main.name]))
    ]
    for _ in range(TRIES * count):
        if len(found) == count:
            break
        picked = picker.pick(scene, told, {main.name: seen})
        if subject := picked[main.name]:
            seen += subject.terms
            found.append(Idea(len(found) + 1, _typed(picked, slots)))
        else:
            break
    return found


def _situations(
    chooser: Chooser, fills: Sequence[Fill | None], slots: list[str], main: str, count: int
) -> list[Idea]:
    """Ideas that situations are: as many as there are of different subjects."""
    found: dict[str, dict[str, str]] = {}
    order, situating = chooser.in_order(fills, slots)
    for one, moments in order:
        texts = situating.begun(one, moments, 0).texts
        if main in texts and len(found) < count:
            found.setdefault(texts[main], {slot: texts[slot] for slot in slots if slot in texts})
    return [Idea(number, said) for number, said in enumerate(found.values(), 1)]


def _typed(picked: Mapping[str, Fill | None], slots: list[str]) -> dict[str, str]:
    return {slot: typed(fill) for slot in slots if (fill := picked[slot])}


def idea(composer: Composer, given: Mapping[str, Given], number: int) -> Idea:
    """One idea by its number. Raises Trouble if there are not as many."""
    found = ideas(composer, given, number)
    if len(found) < number:
        raise Trouble(
            f"the list has no idea {number}",
            f"there are {len(found)}: --ideas {len(found)} shows them",
            2,
        )
    return found[number - 1]
