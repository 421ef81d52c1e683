"""The one path from fills to a prompt: a formula and a model compiled once, phrases cached by their fills.

compose, expand and every other command write through it. run.py writes families: what follows from one prompt to the next.
"""

from collections.abc import Mapping, Sequence
from functools import cached_property
from operator import itemgetter

from syntagma.core.checking import draft_checks as checks
from syntagma.core.diagnostics.findings import ERROR, REMARK, WARNING, Finding
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.drafting.draft import DraftPhrase, lay_out, plan_phrase
from syntagma.core.drafting.fills import BadFills, Fill, Given, fill_of, known_fill
from syntagma.core.drafting.phrase_order import FREE_ORDER, arranged
from syntagma.core.drafting.sound import SPEECH, pace_findings, resounded, sound_of, spoken_words
from syntagma.core.drafting.surroundings import Dress
from syntagma.core.fitting.limits import Forms
from syntagma.core.fitting.shorter_forms import forms_of
from syntagma.core.formula.tree import Formula, SlotRule
from syntagma.core.models.measure import words
from syntagma.core.models.profile import Profile
from syntagma.core.realising import Hand, Piece, register_for
from syntagma.core.realising.negative import NegativeWriter
from syntagma.core.vocabulary.facets import PLAIN, Traits
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.writing.family_writer import Run
from syntagma.core.writing.prompt import CACHE, PLAINLY, Manner, Prompt


class Writer:
    """Writes prompts of one formula for one model."""

    def __init__(self, formula: Formula, profile: Profile, vocabulary: Vocabulary, manner: Manner = PLAINLY, moved: bool = False):
        self.formula, self.profile, self.vocabulary, self.manner = formula, profile, vocabulary, manner
        self.rules: tuple[SlotRule, ...] = formula.slots
        self.position = {rule.name: i for i, rule in enumerate(self.rules)}
        self._phrases, silent = arranged(formula, profile, moved)
        self.plans = [plan_phrase(p) for p in self._phrases]
        self.shown = {name for plan in self.plans for name in plan.slots}  # the slots of the text, not of the negative text
        self._rules = {rule.name: rule for rule in self.rules}
        self._sounds = [sound_of(p, self._rules) for p in self._phrases]
        stresses = {**formula.head.stress, **manner.stress}
        self.hand = Hand(profile, stresses)
        self.register = register_for(profile, self.hand)
        self.dress = Dress(formula, profile, manner.parameters, manner.references, manner.known, manner.controlled)
        if profile.register == "tags":
            traits = vocabulary.traits
            own = {rule.name: Traits(rule.tag, stuff=True) if rule.tag else traits.get(rule.facet, PLAIN) for rule in formula.slots}
            self.register.traits = {slot: one for slot, one in own.items() if one.noun}
        if profile.register == "timed":
            self.register.seconds, self.register.lengths = self._number("seconds"), manner.lengths
        self.negative = NegativeWriter(formula.negatives, profile)
        self._positions = [tuple(self.position[name] for name in plan.slots) for plan in self.plans]
        self._keys = [itemgetter(*p) if p else None for p in self._positions]
        self._cache: list[dict] = [{} for _ in self.plans]
        self._forms: list[dict] = [{} for _ in self.plans]
        self._followed = [p if p and p.joined else None for p in (*self._phrases[1:], None)][: len(self.plans)]
        notes = [own + (self._positions[i + 1] if self._followed[i] else ()) for i, own in enumerate(self._positions)]
        self._note_keys = [itemgetter(*p) if p else None for p in notes]
        self._note_cache: list[dict] = [{} for _ in self.plans]
        self._silent = [plan_phrase(p) for p in silent]
        self._said = self._always(stresses)

    def _always(self, stresses: Mapping[str, float]) -> list[Finding]:
        """What there is to say of every prompt of this formula on this model."""
        formula, profile, found = self.formula, self.profile, list(self.hand.findings)
        if formula.negatives and not self.negative.wanted:
            message = f"{profile.name} takes no negative prompt: the formula's negative text is left out"
            found.append(Finding(REMARK, message, "say what you want to see in its place", "negative"))
        if formula.head.media and profile.makes and formula.head.media != profile.makes:
            message = f"the formula is for {formula.head.media}, and {profile.name} makes {profile.makes}"
            found.append(Finding(WARNING, message, "choose another model, or another formula", "media"))
        known = {*self.position, *(p.label for p in formula.phrases)}
        for name in stresses:
            if name not in known:
                remedy = perhaps(name, known, f"the slots are {', '.join(self.position)}")
                found.append(Finding(WARNING, f"there is no slot and no phrase “{name}” to stress", remedy, name))
        return found

    def _number(self, name: str) -> float | None:
        """A parameter's value where it is a number, as the model will have it."""
        value = self.dress.put_on({}, ()).values.get(name, self.manner.parameters.get(name, self.formula.head.parameters.get(name)))
        try:
            return float(value)
        except (TypeError, ValueError):
            return None

    def fills(self, given: Mapping[str, Given]) -> list[Fill | None]:
        """Resolve what was given, slot by slot in the formula's order; blank text leaves a slot blank, whatever its
        default; @name calls someone known. Raises BadFills with everything that is wrong."""
        wrong = [
            Finding(ERROR, f"the formula has no slot “{name}”", perhaps(name, self.position, self._slots_said()), name)
            for name in given
            if name not in self.position
        ]
        fills: list[Fill | None] = []
        for rule in self.rules:
            value = given.get(rule.name)
            if value is None:
                value = rule.default if len(rule.default) != 1 else rule.default[0]
            try:
                if self.manner.known and isinstance(value, str) and value.startswith("@"):
                    fills.append(known_fill(rule, value, self.manner.known, self.profile))
                else:
                    fills.append(fill_of(rule, value, self.vocabulary) if value else None)
            except BadFills as bad:
                wrong += bad.findings
                fills.append(None)
        if wrong:
            raise BadFills(wrong)
        return fills

    def _slots_said(self) -> str:
        return f"its slots are {', '.join(self.position)}" if self.position else "it has no slots"

    def for_reach(self, fills: Sequence[Fill | None]) -> "Writer":
        """The writer that brings what must stay to the front, where with these fills it would fall behind the model's reach
        and the formula allows it; else this one."""
        if not self.profile.limits.reach or self.forward is self or not self.beyond_reach(fills):
            return self
        return self.forward

    @cached_property
    def forward(self) -> "Writer":
        allowed = self.profile.register in FREE_ORDER or self.formula.head.forward
        if not allowed or not self.profile.limits.reach:
            return self
        other = Writer(self.formula, self.profile, self.vocabulary, self.manner, moved=True)
        other.__dict__["forward"] = other
        return other

    def beyond_reach(self, fills: Sequence[Fill | None]) -> list[str]:
        """The labels of what must stay (!) and begins behind the words that the model really listens to."""
        reach = self.profile.limits.reach
        if not reach or not self.register.plain_seams:
            return []
        lines = [self.line(i, fills) for i in range(len(self.plans))]
        at, found = words(self.dress.put_on(self.named(fills), ()).before), []
        for plan, line in zip(self.plans, lines, strict=True):
            if line is None:
                continue
            if plan.mark == "!" and at >= reach:
                found.append(plan.label)
            at += words(line.text)
        return found

    def write(self, fills: Sequence[Fill | None]) -> Prompt:
        """Write one prompt. Raises BadFills where something needed is blank, TooLong where what must stay is too long."""
        return Run(self.for_reach(fills), fills, ()).write(())

    def pieces(self, fills: Sequence[Fill | None]) -> list[Piece]:
        """The text that `write` gives, in pieces that know their phrase, slot and term."""
        return Run(self.for_reach(fills), fills, ()).pieces()

    def sketch(self, fills: Sequence[Fill | None]) -> str:
        """The text as far as it is filled, whatever is still needed and however long it is."""
        lines = [self.line(i, fills) for i in range(len(self.plans))]
        return "".join(self.register.write(lines, self.plans).parts) if any(lines) else ""

    def line(self, i: int, fills: Sequence[Fill | None]):
        """Phrase `i` in words with these fills, or None where it is blank."""
        key_of, cache = self._keys[i], self._cache[i]
        key = key_of(fills) if key_of else None
        if key in cache:
            return cache[key]
        laid = lay_out(self.plans[i], self._own(i, fills))
        if len(cache) >= CACHE:
            cache.clear()
        line = cache[key] = self.register.line(self._finished(i, laid)) if laid else None
        return line

    def _own(self, i: int, fills: Sequence[Fill | None]) -> dict[str, Fill | None]:
        """The fills of phrase `i` by slot, without those that the model takes as a setting instead."""
        named = {self.rules[p].name: fills[p] for p in self._positions[i]}
        menus = self.dress.menus
        return {slot: None if slot in menus and self.dress.hidden(slot, f) else f for slot, f in named.items()} if menus else named

    def _finished(self, i: int, laid: DraftPhrase) -> DraftPhrase:
        sound = self.profile.sound
        return resounded(laid, self._sounds[i], sound, self._rules) if sound and self._sounds[i] else laid

    def forms(self, i: int, fills: Sequence[Fill | None]) -> Forms | None:
        """The forms of phrase `i` with these fills, from the fullest to the shortest."""
        key_of, cache = self._keys[i], self._forms[i]
        key = key_of(fills) if key_of else None
        if key not in cache:
            if len(cache) >= CACHE:
                cache.clear()
            bare = self.register.sums_hold and not self._sounds[i] and not self._followed[i]
            cache[key] = forms_of(self.register, self.plans[i], self._own(i, fills), lambda laid: self._finished(i, laid), bare)
        return cache[key]

    def positions_of(self, i: int) -> tuple[int, ...]:
        """The positions of the slots of phrase `i`."""
        return self._positions[i]

    def phrases_of(self, position: int) -> tuple[int, ...]:
        """The phrases in which the slot at `position` stands."""
        return tuple(i for i, p in enumerate(self._positions) if position in p)

    def need(self, fills: Sequence[Fill | None], lines: Sequence) -> None:
        """Raise BadFills where a needed slot or a `!` phrase is blank, or everything is."""
        wrong = [
            Finding(ERROR, "the slot is needed, and nothing fills it", f"give {rule.name}=…", rule.name)
            for rule, fill in zip(self.rules, fills, strict=True)
            if rule.need and fill is None
        ]
        told = {f.place for f in wrong}
        for i, (plan, line) in enumerate(zip(self.plans, lines, strict=True)):
            if plan.mark != "!" or line is not None or not plan.slots or not told.isdisjoint(plan.slots):
                continue
            if any(fills[p] is not None for p in self._positions[i]) and self.dress.menus:
                continue  # a setting of the model's says it
            remedy = f"give {' or '.join(f'{name}=…' for name in plan.slots)}, or take the ! off its label"
            wrong.append(Finding(ERROR, f"the phrase “{plan.label}” must stay (!), and it is blank", remedy, plan.label))
        if not wrong and all(line is None for line in lines):
            wrong.append(Finding(ERROR, "nothing is filled, so there is no prompt", self._slots_said()))
        if wrong:
            raise BadFills(wrong)

    def named(self, fills: Sequence[Fill | None]) -> dict[str, Fill | None]:
        """Fills by the name of their slot."""
        return {rule.name: fill for rule, fill in zip(self.rules, fills, strict=True)}

    def findings(self, fills: Sequence[Fill | None], prompt: Prompt) -> list[Finding]:
        """What there is to say of a prompt written with these fills, the clashes of its terms apart."""
        found = [f for i in range(len(self.plans)) for f in self._notes(i, fills)]
        if self.formula.head.settles:
            found += checks.settled_findings(self.formula.head.settles, self.rules, fills)
        if prompt.fitted or prompt.negative_dropped:
            found += checks.fitting_findings(self.profile, prompt.fitted, prompt.negative_dropped)
        if self._silent and (unheard := [p.label for p in self._silent if lay_out(p, self.named(fills))]):
            message = f"{self.profile.name} makes no sound: left out {', '.join(unheard)}"
            found.append(Finding(WARNING, message, "choose a model with sound, or add it afterwards", "sound"))
        found += prompt.wear.findings
        if self.profile.sound and (seconds := self._seconds(prompt)) and self._speaks:
            spoken = [line.text for i, kind in enumerate(self._sounds) if kind == SPEECH and (line := self.line(i, fills))]
            found += pace_findings(spoken_words(" ".join(spoken)), seconds, self.profile.sound.pace)
        reach = self.profile.limits.reach
        if reach and not prompt.fitted and prompt.text.count(" ") >= reach:
            found += checks.reach_findings(self.profile, self.for_reach(fills).beyond_reach(fills))
        return found + self._said if self._said else found

    @cached_property
    def _speaks(self) -> bool:
        return SPEECH in self._sounds

    def _seconds(self, prompt: Prompt) -> float | None:
        value = prompt.wear.values.get("seconds", self.formula.head.parameters.get("seconds"))
        return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else None

    def clashes(self, fills: Sequence[Fill | None]) -> list[Finding]:
        """The terms among these fills that contradict each other; what is kept out of the picture contradicts nothing."""
        named = self.named(fills)
        return checks.clash_findings({name: fill for name, fill in named.items() if name in self.shown})

    def _notes(self, i: int, fills: Sequence[Fill | None]) -> list[Finding]:
        """The findings of phrase `i`, cached by what they depend on."""
        key_of, cache = self._note_keys[i], self._note_cache[i]
        key = key_of(fills) if key_of else None
        if key not in cache:
            if len(cache) >= CACHE:
                cache.clear()
            line = self.line(i, fills)
            text = line.text if line else ""
            found = checks.phrase_findings(self._phrases[i], self._followed[i], self.named(fills), text)
            if self.profile.refused:
                said = [item.words for name in self.plans[i].slots if (fill := self.named(fills)[name]) for item in fill.items]
                found = found + checks.refused_findings(self.profile, text) + checks.gentler_findings(self.profile, said)
            cache[key] = found
        return cache[key]
