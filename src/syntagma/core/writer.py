"""The one path from fills to a prompt: a formula and a model compiled once, phrases cached by their fills.

compose, expand and every other command write through it. A Run writes a family: between two of its prompts only the
phrases whose slots changed are made again, and only their seams.
"""

from collections.abc import Iterable, Mapping, Sequence
from operator import itemgetter
from typing import NamedTuple

from syntagma.core import checks
from syntagma.core.drafting import lay_out, plan_phrase
from syntagma.core.fills import BadFills, Fill, Given, fill_of
from syntagma.core.findings import ERROR, REMARK, WARNING, Finding
from syntagma.core.fitting import TooLong, fit_items, fit_lines
from syntagma.core.formula.tree import Formula, SlotRule
from syntagma.core.models.profile import Profile
from syntagma.core.near import perhaps
from syntagma.core.negative import NegativeWriter
from syntagma.core.realising import REGISTERS, Piece
from syntagma.core.vocabulary import Vocabulary

_NO_LIMIT = 1 << 62
_UNKNOWN = object()
_CACHE = 4096  # phrases kept for each line of a formula


class Prompt(NamedTuple):
    """A draft written for one model. `dropped` are the labels of phrases left out to fit, `negative_dropped` the items."""

    text: str
    negative: str
    used: int
    negative_used: int
    dropped: tuple[str, ...]
    negative_dropped: tuple[str, ...]


class Writer:
    """Writes prompts of one formula for one model."""

    def __init__(self, formula: Formula, profile: Profile, vocabulary: Vocabulary):
        self.formula, self.profile, self.vocabulary = formula, profile, vocabulary
        self.rules: tuple[SlotRule, ...] = formula.slots
        self.position = {rule.name: i for i, rule in enumerate(self.rules)}
        self.plans = [plan_phrase(p) for p in formula.phrases]
        self.shown = {name for plan in self.plans for name in plan.slots}  # the slots of the text, not of the negative text
        self.register = REGISTERS[profile.register](profile.final_stop, profile.separator)
        self.negative = NegativeWriter(formula.negatives, profile)
        self._positions = [tuple(self.position[name] for name in plan.slots) for plan in self.plans]
        self._keys = [itemgetter(*p) if p else None for p in self._positions]
        self._cache: list[dict] = [{} for _ in self.plans]
        self._phrases = formula.phrases
        self._followed = [p if p and p.joined else None for p in (*self._phrases[1:], None)][: len(self.plans)]
        notes = [own + (self._positions[i + 1] if self._followed[i] else ()) for i, own in enumerate(self._positions)]
        self._note_keys = [itemgetter(*p) if p else None for p in notes]
        self._note_cache: list[dict] = [{} for _ in self.plans]
        self._unwanted: list[Finding] = []
        if formula.negatives and not self.negative.wanted:
            message = f"{profile.name} takes no negative prompt: the formula's negative text is left out"
            self._unwanted = [Finding(REMARK, message, "say what you want to see in its place", "negative")]
        if formula.head.media and profile.media and formula.head.media != profile.media:
            message = f"the formula is for {formula.head.media}, and {profile.name} makes {profile.media}"
            self._unwanted.append(Finding(WARNING, message, "choose another model, or another formula", "media"))

    def fills(self, given: Mapping[str, Given]) -> list[Fill | None]:
        """Resolve what was given, slot by slot in the formula's order; blank text leaves a slot blank, whatever its
        default. Raises BadFills with everything that is wrong."""
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
                fills.append(fill_of(rule, value, self.vocabulary) if value else None)
            except BadFills as bad:
                wrong += bad.findings
                fills.append(None)
        if wrong:
            raise BadFills(wrong)
        return fills

    def _slots_said(self) -> str:
        return f"its slots are {', '.join(self.position)}" if self.position else "it has no slots"

    def write(self, fills: Sequence[Fill | None]) -> Prompt:
        """Write one prompt. Raises BadFills where something needed is blank, TooLong where what must stay is too long."""
        return Run(self, fills, ()).write(())

    def pieces(self, fills: Sequence[Fill | None]) -> list[Piece]:
        """The text that `write` gives, in pieces that know their phrase, slot and term."""
        return Run(self, fills, ()).pieces()

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
        plan = self.plans[i]
        named = {self.rules[p].name: fills[p] for p in self._positions[i]}
        laid = lay_out(plan, named)
        if len(cache) >= _CACHE:
            cache.clear()
        line = cache[key] = self.register.line(laid) if laid else None
        return line

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
        for plan, line in zip(self.plans, lines, strict=True):
            if plan.mark == "!" and line is None and plan.slots and told.isdisjoint(plan.slots):
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
        if prompt.dropped or prompt.negative_dropped:
            found += checks.fitting_findings(self.profile, prompt.dropped, prompt.negative_dropped)
        return found + self._unwanted if self._unwanted else found

    def clashes(self, fills: Sequence[Fill | None]) -> list[Finding]:
        """The terms among these fills that contradict each other; what is kept out of the picture contradicts nothing."""
        named = self.named(fills)
        return checks.clash_findings({name: fill for name, fill in named.items() if name in self.shown})

    def _notes(self, i: int, fills: Sequence[Fill | None]) -> list[Finding]:
        """The findings of phrase `i`, cached by what they depend on."""
        key_of, cache = self._note_keys[i], self._note_cache[i]
        key = key_of(fills) if key_of else None
        if key not in cache:
            if len(cache) >= _CACHE:
                cache.clear()
            line = self.line(i, fills)
            cache[key] = checks.phrase_findings(self._phrases[i], self._followed[i], self.named(fills), line.text if line else "")
        return cache[key]


class Run:
    """One family: some slots fixed by `fills`, those at `positions` different from prompt to prompt.

    Where only the last of them changes, and in one phrase only, the text round that phrase (the frame) is kept, and so
    is what each fill makes of the phrase between these neighbours: such a prompt costs a look-up and a concatenation.
    """

    def __init__(self, writer: Writer, fills: Sequence[Fill | None], positions: Sequence[int]):
        self.writer = writer
        self.values = list(fills)
        self.positions = tuple(positions)
        self.lines = [writer.line(i, self.values) for i in range(len(writer.plans))]
        self.written = None  # made by the first prompt: the first fills of a family may be blank
        self._touched = [(writer.phrases_of(p), writer.negative.has(writer.rules[p].name)) for p in self.positions]
        self._last: tuple = tuple(self.values[p] for p in self.positions)
        self._limit = writer.profile.text_limit
        self._most = self._limit.most if self._limit else _NO_LIMIT
        self._count = self._limit.count if self._limit else len
        phrases, in_negative = self._touched[-1] if self._touched else ((), True)
        self._inner = phrases[0] if len(phrases) == 1 and not in_negative else -1
        inner_slots = writer.positions_of(self._inner) if self._inner >= 0 else ()
        self._beside = [p for p in inner_slots if p != self.positions[-1]]  # what else the changing phrase depends on
        self._outer: tuple | None = None  # the fills of all but the last position that the frame is for
        self._head = self._tail = ""
        self._round = 0  # how much of the limit head and tail use
        self._middles: dict = {}
        self._frames: dict = {}
        self._negative()

    def _negative(self) -> None:
        items = self.writer.negative.items(self.writer.named(self.values))
        limit = self.writer.profile.negative_limit
        self.negative_dropped: tuple[str, ...] = ()
        self.negative_used = 0
        if limit and items:
            items, self.negative_dropped, self.negative_used = fit_items(items, ", ", limit)
        self.negative = ", ".join(items)

    def write(self, combination: Sequence[Fill | None]) -> Prompt:
        """Write the prompt with these fills in the slots at `positions`. Raises as Writer.write does."""
        prompts, bad = self.write_all([combination])
        if bad:
            raise bad[0]
        return prompts[0]

    def write_all(self, combinations: Iterable[Sequence[Fill | None]]) -> tuple[list[Prompt | None], dict[int, Exception]]:
        """Write a prompt for each combination, in order. Return them, None where there is none, and for those (by their
        place) the BadFills or TooLong that says why."""
        prompts: list[Prompt | None] = []
        bad: dict[int, Exception] = {}
        add, new = prompts.append, tuple.__new__  # a third of the time of calling Prompt
        outer, most, middles = None, self._most, {}
        head = tail = negative = ""
        around = negative_used = 0
        negative_dropped: tuple[str, ...] = ()
        for combination in combinations:
            if outer is not None and combination[:-1] == outer and (middle := middles.get(combination[-1])):
                text, size = middle
                if around + size <= most:
                    add(new(Prompt, (head + text + tail, negative, around + size, negative_used, (), negative_dropped)))
                    continue
            try:
                add(self._write(combination))
            except (BadFills, TooLong) as error:
                bad[len(prompts)] = error
                add(None)
                self.written = self._outer = None
                self._last = (_UNKNOWN,) * len(self.positions)  # whatever was left half done is done again
            outer = self._outer
            if outer is not None:
                head, tail, around, middles = self._head, self._tail, self._round, self._middles
                negative, negative_used, negative_dropped = self.negative, self.negative_used, self.negative_dropped
        return prompts, bad

    def _write(self, combination: Sequence[Fill | None]) -> Prompt:
        self._change(combination)
        parts = self.written.parts
        used = sum(map(self._count, parts))
        if used > self._most:
            fitted, lost, used = fit_lines(self.writer.register, self.lines, self.writer.plans, self._limit)
            dropped = tuple(self.writer.plans[i].label for i in lost)
            return Prompt("".join(fitted.parts), self.negative, used, self.negative_used, dropped, self.negative_dropped)
        if self._inner >= 0:
            self._frame(combination, parts)
        return Prompt("".join(parts), self.negative, used, self.negative_used, (), self.negative_dropped)

    def _change(self, combination: Sequence[Fill | None]) -> None:
        """Bring lines and seams to this combination."""
        negative_changed = False
        for k, (fill, last) in enumerate(zip(combination, self._last, strict=True)):
            if fill is last:
                continue
            self.values[self.positions[k]] = fill
            if fill is None:
                self.written = None  # is it needed? asked when all is written again
            phrases, in_negative = self._touched[k]
            negative_changed = negative_changed or in_negative
            for i in phrases:
                line = self.lines[i] = self.writer.line(i, self.values)
                if self.written is not None and not self.written.change(i, line):
                    self.written = None
        self._last = combination
        if negative_changed:
            self._negative()
        if self.written is None:
            self.writer.need(self.values, self.lines)
            self.written = self.writer.register.write(self.lines, self.writer.plans)

    def _frame(self, combination: Sequence[Fill | None], parts: Sequence[str]) -> None:
        """Keep what the changing phrase and its follower are here, and the text round them."""
        span = self.written.reach(self._inner)
        if span is None:
            self._outer = None
            return
        start, stop, neighbours = span
        if combination[:-1] != self._outer:
            self._outer = combination[:-1]
            self._head, self._tail = "".join(parts[:start]), "".join(parts[stop:])
            self._round = sum(map(self._count, parts[:start])) + sum(map(self._count, parts[stop:]))
            if len(self._frames) >= _CACHE:
                self._frames.clear()
            beside = tuple(self.values[p] for p in self._beside)
            self._middles = self._frames.setdefault((neighbours, beside), {})
        if len(self._middles) < _CACHE:
            middle = parts[start:stop]
            self._middles[combination[-1]] = "".join(middle), sum(map(self._count, middle))

    def pieces(self) -> list[Piece]:
        """The last prompt's text in pieces."""
        prompt = self.write(self._last)
        if not prompt.dropped:
            return self.written.pieces()
        lines = [None if p.label in prompt.dropped else line for p, line in zip(self.writer.plans, self.lines, strict=True)]
        return self.writer.register.write(lines, self.writer.plans).pieces()
