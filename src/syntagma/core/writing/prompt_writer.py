"""The one path from fills to a prompt: what was given becomes fills, a compiled formula writes
them, and what is to be said is found.

compose, expand and every other command write through it. family_writer.py says what follows from
one prompt to the next.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from typing import TypeVar

from syntagma.core.checking import draft_checks as checks
from syntagma.core.diagnostics import ERROR, Finding, perhaps
from syntagma.core.drafting.fills import BadFills, Fill, Given, fill_of, known_fill
from syntagma.core.drafting.phrase_order import FREE_ORDER
from syntagma.core.formula.tree import Formula, SlotRule
from syntagma.core.models.measure import words
from syntagma.core.models.profile import Profile
from syntagma.core.realising import TextPiece
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.writing.compiled import Compiled, compiled
from syntagma.core.writing.family_writer import FamilyWriter
from syntagma.core.writing.phrase_writer import PhraseWriter
from syntagma.core.writing.prompt import PLAINLY, Manner, Prompt, slot_named
from syntagma.core.writing.prompt_findings import PromptFindings

Said = TypeVar("Said")


class Writer:
    """Writes prompts of one formula for one model."""

    def __init__(
        self, formula: Formula, profile: Profile, vocabulary: Vocabulary, manner: Manner = PLAINLY
    ):
        self._open(compiled(formula, profile, vocabulary, manner))

    def _open(self, made: Compiled) -> "Writer":
        self.compiled = made
        self.phrases = PhraseWriter(made)
        self._findings = PromptFindings(made, self.phrases)
        self.shown = made.shown
        return self

    @property
    def formula(self) -> Formula:
        """The formula that is written."""
        return self.compiled.formula

    @property
    def profile(self) -> Profile:
        """The model that it is written for."""
        return self.compiled.profile

    @property
    def rules(self) -> tuple[SlotRule, ...]:
        """The rules of the slots, in the order in which the formula has them."""
        return self.compiled.rules

    @property
    def position(self) -> Mapping[str, int]:
        """Slot → its place among the rules."""
        return self.compiled.position

    def named(self, given: Mapping[str, Said]) -> dict[str, Said]:
        """What was given, by the slots' own names: a slot can be called by its facet's name too,
        and to either spelling. Raises BadFills if one slot is given twice.
        """
        found: dict[str, Said] = {}
        for name, value in given.items():
            slot = slot_named(name, self.compiled.rules)
            if slot in found:
                raise BadFills(
                    [
                        Finding(
                            ERROR,
                            f"the slot “{slot}” is filled twice",
                            f"leave {name}= out",
                            name,
                            code="filled-twice",
                        )
                    ]
                )
            found[slot] = value
        return found

    def fills(self, given: Mapping[str, Given]) -> list[Fill | None]:
        """Resolve what was given, slot by slot in the formula's order; blank text leaves a slot
        blank, whatever its default; @name calls someone known. Raises BadFills with everything that
        is wrong.
        """
        made = self.compiled
        wrong = [
            Finding(
                ERROR,
                f"the formula has no slot “{name}”",
                perhaps(name, [*made.position, *made.vocabulary.names], made.slots_said),
                name,
                code="no-such-slot",
            )
            for name in given
            if name not in made.position
        ]
        fills: list[Fill | None] = []
        for rule in made.rules:
            value = given.get(rule.name)
            if value is None:
                value = rule.default if len(rule.default) != 1 else rule.default[0]
            try:
                if made.manner.known and isinstance(value, str) and value.startswith("@"):
                    fills.append(known_fill(rule, value, made.manner.known, made.profile))
                else:
                    fills.append(fill_of(rule, value, made.vocabulary) if value else None)
            except BadFills as bad:
                wrong += bad.findings
                fills.append(None)
        if wrong:
            raise BadFills(wrong)
        return fills

    def for_reach(self, fills: Sequence[Fill | None]) -> "Writer":
        """The writer that brings what must stay to the front, where with these fills it would fall
        beyond the words that the model heeds and the formula allows it; else this one.
        """
        if not self.profile.limits.reach or self.forward is self or not self.beyond_reach(fills):
            return self
        return self.forward

    @cached_property
    def forward(self) -> "Writer":
        """The writer that brings what must stay to the front; this one where that may not be."""
        allowed = self.profile.register in FREE_ORDER or self.formula.head.forward
        if not allowed or not self.profile.limits.reach:
            return self
        made = self.compiled
        other = Writer.__new__(Writer)._open(
            compiled(made.formula, made.profile, made.vocabulary, made.manner, forward=True)
        )
        other.__dict__["forward"] = other
        return other

    def beyond_reach(self, fills: Sequence[Fill | None]) -> list[str]:
        """The labels of what must stay (!) and begins after the words that the model really listens
        to.
        """
        made, reach = self.compiled, self.profile.limits.reach
        if not reach or not made.register.plain_seams:
            return []
        at, found = words(made.surroundings.around(made.named(fills), ()).before), []
        for phrase, line in zip(made.phrases, self.phrases.lines(fills), strict=True):
            if line is None:
                continue
            if phrase.plan.mark == "!" and at >= reach:
                found.append(phrase.plan.label)
            at += words(line.text)
        return found

    def family(self, fills: Sequence[Fill | None], positions: Sequence[int]) -> FamilyWriter:
        """What writes prompts that differ in the slots at `positions` only."""
        return FamilyWriter(self.phrases, fills, positions)

    def write(self, fills: Sequence[Fill | None]) -> Prompt:
        """Write one prompt. Raises BadFills if something needed is blank, TooLong if what must stay
        is too long.
        """
        return self.for_reach(fills).family(fills, ()).write(())

    def pieces(self, fills: Sequence[Fill | None]) -> list[TextPiece]:
        """The text that `write` gives, in pieces that know their phrase, slot and term."""
        return self.for_reach(fills).family(fills, ()).pieces()

    def sketch(self, fills: Sequence[Fill | None]) -> str:
        """The text as far as it is filled, whatever is still needed and however long it is."""
        lines = self.phrases.lines(fills)
        return (
            "".join(self.compiled.register.write(lines, self.compiled.plans).parts)
            if any(lines)
            else ""
        )

    def findings_along(
        self, fills: Sequence[Fill | None], positions: Sequence[int]
    ) -> Callable[[Sequence[Fill | None], Prompt], list[Finding]]:
        """What gives the findings of prompts one after the other that differ in the slots at
        `positions` only: of the fills at these, and the prompt written with them.
        """
        along = self._findings.along(fills, positions)
        return lambda own, prompt: self.findings(along.fills, prompt, along.all(own))

    def findings(
        self,
        fills: Sequence[Fill | None],
        prompt: Prompt,
        notes: Iterable[list[Finding]] | None = None,
    ) -> list[Finding]:
        """The findings on a prompt written with these fills, the clashes of its terms apart."""
        found = self._findings.of(fills, prompt, notes)
        reach = self.profile.limits.reach
        if reach and not prompt.fitted and prompt.text.count(" ") >= reach:
            found += checks.reach_findings(self.profile, self.for_reach(fills).beyond_reach(fills))
        return found + self._findings.always

    def clashes(self, fills: Sequence[Fill | None]) -> list[Finding]:
        """The terms among these fills that contradict each other; what is kept out of the picture
        contradicts nothing.
        """
        return self._findings.clashes(fills)
