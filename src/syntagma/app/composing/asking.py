"""Filling a formula slot by slot: what is asked, which terms suit it, what an answer does, how the
prompt grows.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.app.asked import PICK, call_of
from syntagma.app.composing.composer import Composed, Composer
from syntagma.core.drafting.fills import BadFills, Fill, Given, cleaned, fill_of
from syntagma.core.formula import SlotRule
from syntagma.core.vocabulary.terms import Term, normal, why_clash

BACK = "<"


class Suggestion(NamedTuple):
    """A term for the slot that is asked for. `against` says what it would contradict, if it
    would.
    """

    term: Term
    against: str = ""


class Filling:
    """A formula while it is filled. `asked` is the slot whose turn it is; None when all have had
    theirs.
    """

    def __init__(self, composer: Composer, given: Mapping[str, Given]):
        self.composer, self.writer = composer, composer.writer
        self.given = dict(given)
        self.fills: list[Fill | None] = self.writer.fills(given)
        self.turns = [i for i, rule in enumerate(self.writer.rules) if rule.name not in given]
        self.turn = 0
        self.draws = 0

    def hear(self, prompt: str) -> list[str]:
        """Let what a prompt says are in the slots that are open; return what has no slot. Raises
        Trouble.
        """
        found = self.composer.hear(prompt, self.given).placed
        self.fills = self.writer.fills({**found.fills, **self.given})
        self.turns = [i for i in self.turns if self.writer.rules[i].name not in found.said]
        return [one.text for one in found.guests]

    @property
    def asked(self) -> SlotRule | None:
        return self.writer.rules[self.turns[self.turn]] if self.turn < len(self.turns) else None

    @property
    def question(self) -> str:
        """What is asked for the slot, as a form asks it."""
        rule = self.asked
        traits = self.composer.workspace.vocabulary.traits.get(rule.facet) if rule else None
        return (rule.ask or (traits.ask if traits else "") or rule.about) if rule else ""

    def help(self, most: int = 8) -> list[tuple[str, str]]:
        """What may be in the slot: what it is for, then terms that suit the rest, each with what it
        does.
        """
        rule = self.asked
        told = [(rule.name, rule.about)] if rule and rule.about else []
        return [
            *told,
            *((s.term.term, s.against or s.term.gloss) for s in self.suggestions()[:most]),
        ]

    @property
    def place(self) -> tuple[int, int]:
        """(which slot it is, counted from 1, and of how many)."""
        return self.turn + 1, len(self.turns)

    def standing(self) -> Fill | None:
        """What is in the slot already: its default, or what was answered before a step back."""
        return self.fills[self.turns[self.turn]]

    def suggestions(self) -> list[Suggestion]:
        """Terms for the slot: favourites first, then those that a pick may take, then the others of
        its facet; what contradicts the fills so far last, with the reason.
        """
        rule = self.asked
        if rule is None or rule.number or rule.facet not in self.composer.workspace.vocabulary:
            return []
        chooser = self.composer.chooser
        allowed = set(chooser.terms(rule.name))
        beside = [
            t
            for terms in chooser.ground.standing(self.fills, (rule.name,))[0].beside
            for t in terms
        ]
        if rule.name not in self.writer.shown:
            beside = []
        against = chooser.ground.against(rule.name, self.fills)
        found = [
            Suggestion(t, next((why for o in beside if (why := why_clash(o, t))), "") or against(t))
            for t in chooser.facet(rule.name)
        ]
        return sorted(
            found, key=lambda s: (bool(s.against), not s.term.star, s.term not in allowed)
        )

    def matching(self, text: str) -> list[Suggestion]:
        """The suggestions that answer what has been typed so far, those that begin with it before
        those that hold it.
        """
        wanted = normal(text)
        found = [
            s
            for s in self.suggestions()
            if any(wanted in normal(name) for name in (s.term.term, *s.term.aka))
        ]
        return sorted(
            found, key=lambda s: bool(wanted) and not normal(s.term.term).startswith(wanted)
        )

    def answer(self, text: str) -> str:
        """Take an answer: text fills the slot, nothing leaves it as it is, "-" blanks it, "pick"
        picks a term that suits the rest, "<" steps back. Return what is wrong with it, or "".
        """
        rule, position = self.asked, self.turns[self.turn]
        said = normal(text)
        if said == BACK:
            if not self.turn:
                return "this is the first slot"
            self.turn -= 1
            return ""
        if rule is None:
            return "every slot has been asked for"
        if said == PICK and rule.facet in self.composer.workspace.vocabulary and not rule.number:
            return self._pick(rule)
        if text.strip() == "-":
            self.fills[position] = None
        elif text.strip():
            try:
                fill = fill_of(rule, text.strip(), self.composer.workspace.vocabulary)
            except BadFills as bad:
                return f"{bad.findings[0].message}: {bad.findings[0].remedy}"
            if fill is None:
                return f"“{cleaned(text) or text.strip()}” has no words in it"
            self.fills[position] = fill
        if rule.need and self.fills[position] is None:
            return f"{rule.name} is needed: type one, or pick"
        self.turn += 1
        return ""

    def _pick(self, rule: SlotRule) -> str:
        """Pick for the slot whose turn it is, and stay there: the next answer takes it, or picks
        another.
        """
        chooser = self.composer.chooser
        position = self.turns[self.turn]
        old = self.fills[position]
        passed = {rule.name: old.terms} if old else {}
        self.draws += 1
        picked = chooser.pick(
            self.fills, [rule.name], chooser.random("fill", rule.name, self.draws), passed
        )
        if picked[position] is None:
            return "no other term fits the rest"
        self.fills = picked
        return ""

    def text(self) -> str:
        """The prompt as far as it has grown."""
        return self.writer.sketch(self.fills)

    def size(self) -> str:
        """How long it is, against the model's limit."""
        text, limit = self.text(), self.writer.profile.text_limit
        return (
            f"{limit.used([text])} of {limit.most} {limit.unit}"
            if limit
            else f"{len(text)} characters"
        )

    def composed(self) -> Composed:
        """The prompt. Raises BadFills or TooLong."""
        given = {
            rule.name: _given(fill)
            for rule, fill in zip(self.writer.rules, self.fills, strict=True)
        }
        return self.composer.compose(given)

    def call(self) -> str:
        """The call that makes the same prompt."""
        return call_of(self.composer.ask, self.writer.rules, self.fills)


def _given(fill: Fill | None) -> str | Sequence[str]:
    return "" if fill is None else fill.given
