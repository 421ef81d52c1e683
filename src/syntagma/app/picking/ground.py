"""What a pick has to suit: who and what is in a prompt, in terms and in words of a person's own, and what the formula says and keeps out."""

import re
from collections.abc import Callable, Collection, Mapping, Sequence
from functools import cache, cached_property
from itertools import groupby

from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.designs.agreement import Agreement
from syntagma.core.drafting.draft import Glue
from syntagma.core.drafting.fills import Fill
from syntagma.core.formula import FixedText
from syntagma.core.notation.toml_in import read_toml
from syntagma.core.picking.kinds import being_of, kind_of, own_deed, own_place, stranger
from syntagma.core.picking.nearest_terms import stands_for
from syntagma.core.picking.scene import PLACE, Scene
from syntagma.core.picking.themes import Leaning
from syntagma.core.vocabulary.stated import ideas
from syntagma.core.vocabulary.terms import Term, Vocabulary
from syntagma.core.vocabulary.world import LEAD, BadWorld, Seat, Thing
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage import folders
from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble

Levels = Sequence[Mapping[str, Fill | None]]  # the choices of a family that varies, each as what fills its slots
UNKNOWN = "being: thing land building vehicle vessel; extent: figure place land"  # what one of whom nothing is known takes for granted: it is shown like no person, and whole


@cache
def said_rules() -> list[tuple[re.Pattern[str], str]]:
    """What plain words take for granted: patterns and worlds (data/said.toml)."""
    rules = read_toml(read_text(folders.SHIPPED / "said.toml", "what words assume"))["said"]
    return [(re.compile(rf"\b(?:{rule['pattern']})\b", re.I), rule["world"]) for rule in rules]


class Ground:
    """What is in the prompts of one formula. `base` is what the situation of the last pick takes for granted."""

    def __init__(self, workspace: Workspace, writer: Writer, leaning: Leaning):
        self.workspace, self.writer, self.leaning = workspace, writer, leaning
        self.base: Sequence[Thing] = ()

    @property
    def _seats(self) -> Mapping[str, Seat]:
        return self.writer.compiled.seats

    def standing(self, fills: Sequence[Fill | None], but: Collection[str] = (), levels: Levels = (), guess: bool = True) -> tuple[Scene, set[str]]:
        """What a pick has to suit: the scene of what is filled already in the text (for free text, the terms that it is like: what they
        take for granted is a guess, made where `guess` says so), with each of the `levels` of a family, and the ideas that are said, the formula's fixed words among them."""
        vocabulary = self.workspace.vocabulary
        own_words = [item.words for rule, fill in zip(self.writer.rules, fills, strict=True) if fill and rule.name not in but for item in fill.items if item.term is None]
        scene, told = Scene(vocabulary, [*self.writer.compiled.granted, *self.themed, *self.base, *self.said(own_words)]), set(self._fixed)
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
            scene.unknown_place |= self._seats[rule.name].role == LEAD and (own_deed(fill) or bool(own_place(fill, vocabulary)))
            if rule.world and not all(item.term for item in fill.items):
                scene.grant([Thing(self._seats[rule.name], rule.name, vocabulary.world(rule.world))])
            scene.unknown_place |= rule.facet == PLACE and any(item.term is None for item in fill.items)
            if own:
                scene.add(self._seats[rule.name], own, guessed=any(item.term is None for item in fill.items))
            if self._seats[rule.name].role == LEAD and not all(item.term for item in fill.items) and (world := self._being(rule.facet, fill)):
                scene.grant([Thing(self._seats[rule.name], fill.shown, vocabulary.world(world))])  # "a fox" buttons no coat
        if guess and (place := self.own_place(fills)) and (like := self.place_like(place)):
            scene.add(Seat("", PLACE), [like], guessed=True)
        for slots, varied in groupby(levels, key=tuple):
            common = self.standing(fills, {*but, *slots})[0]
            scene.vary(common, [things for things in map(self._things, varied) if all(common.takes(thing.seat, thing.world) for thing in things)])
        scene.beside += [[term] for level in levels for fill in level.values() if fill for term in fill.terms]
        return scene, told

    def _being(self, facet: str, fill: Fill) -> str:
        """What somebody of a person's own takes for granted by the kind that they are."""
        kind = kind_of(fill, self.workspace.vocabulary)
        return being_of(kind) if kind else UNKNOWN if stranger(fill, facet, self.workspace.vocabulary) else ""

    def _things(self, level: Mapping[str, Fill | None]) -> list[Thing]:
        """What a choice of a family takes for granted, or the terms that it is like."""
        vocabulary, found = self.workspace.vocabulary, []
        for slot, fill in level.items():
            facet = self.writer.rules[self.writer.position[slot]].facet
            for item in fill.items if fill and slot in self.writer.shown else ():
                term = item.term or (stands_for(item.words, vocabulary[facet]) if facet in vocabulary else None)
                found += [vocabulary.thing(self._seats[slot], term)] if term else self.said([item.words])
        return found

    def said(self, texts: Sequence[str]) -> list[Thing]:
        """What words of a person's own take for granted, if that is plain: at night, in a kitchen."""
        read = self.workspace.vocabulary.dimensions.world
        return [Thing(Seat("", "", None, LEAD), found[0], read(world)) for text in texts for pattern, world in said_rules() if (found := pattern.search(text))]

    def against(self, slot: str, fills: Sequence[Fill | None]) -> Callable[[Term], str]:
        """What says why a term in a slot takes for granted what the other fills rule out, in words; "" if it does not."""
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
            return [Thing(Seat("", ""), theme.name, read(theme.world)) for theme in self.leaning.themes]
        except BadWorld as bad:
            raise Trouble(f"the world of a theme can't be read: {bad}", bad.remedy, 2) from None

    def own_place(self, fills: Sequence[Fill | None]) -> str:
        """Where the words of the one that the picture is of say that they are."""
        leads = (fill for rule, fill in zip(self.writer.rules, fills, strict=True) if fill and (seat := self._seats.get(rule.name)) and seat.role == LEAD)
        return next((place for fill in leads if (place := own_place(fill, self.workspace.vocabulary))), "")

    def place_like(self, words: str) -> Term | None:
        """The place of the vocabulary that a place in words is like."""
        vocabulary = self.workspace.vocabulary
        return stands_for(english.split_place(words)[1], vocabulary[PLACE]) if PLACE in vocabulary else None

    def lead_is(self, what: Callable[[Fill, str, Vocabulary], bool], fills: Sequence[Fill | None]) -> bool:
        """Is this true of the one that the picture is of?"""
        leads = ((rule, fill) for rule, fill in zip(self.writer.rules, fills, strict=True) if fill and (seat := self._seats.get(rule.name)) and seat.role == LEAD)
        return any(what(fill, rule.facet, self.workspace.vocabulary) for rule, fill in leads)

    @cached_property
    def _fixed(self) -> frozenset[str]:
        """The ideas that the formula's fixed phrases say, whatever is filled."""
        fixed = [token.text for plan in self.writer.compiled.plans for token in plan.tokens if isinstance(token, Glue)]
        quoted = [word for phrase in self.writer.formula.phrases for g in phrase.groups() for word in g.of("quote")]
        return ideas(" ".join([*fixed, *quoted])) | self.kept_out

    @cached_property
    def kept_out(self) -> frozenset[str]:
        """The ideas of which the formula's negative text says that they are kept out, those that one word says."""
        parts = [part.strip() for phrase in self.writer.formula.negatives for node in phrase.body if isinstance(node, FixedText) for part in node.raw.split(",")]
        return frozenset[str]().union(*(ideas(part) for part in parts if part and " " not in part))
