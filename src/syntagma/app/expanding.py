"""Families: from one prompt to many, each different from all others, on one model or several."""

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from itertools import compress, islice
from typing import NamedTuple

from syntagma.app.asking import Taste
from syntagma.app.choosing import TRIES, Chooser
from syntagma.app.composing import troubles
from syntagma.app.records import Recorder, given
from syntagma.app.world import World
from syntagma.core import checks
from syntagma.core.designs import DESIGNS, Axis, Clashes, Seen, full, full_size, sampled, single, single_size
from syntagma.core.fills import Fill, Given, fill_of, fill_of_term
from syntagma.core.findings import Finding
from syntagma.core.models.prices import Bill, bill, cost, money, sums
from syntagma.core.near import perhaps
from syntagma.core.prompt import PLAINLY, Manner, Prompt
from syntagma.core.run import Run
from syntagma.core.vocabulary import Term
from syntagma.core.writer import Writer
from syntagma.storage.trouble import Trouble

LARGE = 10_000  # a full design above this many asks first
BLOCK = 256  # members written at a time
SHOWN = 5  # failures that are told in full


class Vary(NamedTuple):
    """An axis as asked for: a slot with its values as text, or a number of picks, or neither for all its terms."""

    slot: str
    values: tuple[str, ...] = ()
    picks: int = 0


class Wish(NamedTuple):
    """What a family is to be."""

    formula: str
    given: Mapping[str, Given] = {}
    vary: Sequence[Vary] = ()
    design: str = "single"
    count: int | None = None
    models: Sequence[str | None] = (None,)
    taste: Taste = Taste()
    everything: bool = False
    mounts: Sequence[str] = ()
    manner: Manner = PLAINLY


class Member(NamedTuple):
    """One member of a family: its number (0 is the baseline), its fills on the axes, its prompt on each model."""

    number: int
    combination: tuple[Fill | None, ...]
    prompts: Sequence[Prompt]


class Block(NamedTuple):
    """Members that follow one another: their combinations, and for each model their prompts."""

    combinations: list[tuple[Fill | None, ...]]
    prompts: list[list[Prompt]]


class Family:
    """A family ready to be written. Running through it counts what was left out; `statement` says so afterwards."""

    def __init__(self, world: World, wish: Wish):
        self.world, self.wish = world, wish
        formula, self.remarks = world.formula(wish.formula, wish.mounts)
        manner = world.manner(wish.manner._replace(controlled=True))
        self.writers = [Writer(formula, world.model(m), world.vocabulary, manner) for m in wish.models]
        self.amounts = [0.0] * len(self.writers)  # what the members written so far cost, a sum for each model
        self.writer = self.writers[0]
        self.chooser = Chooser(world, self.writer, wish.taste)
        self.twins = self.contradictions = self.written = self.failed = 0
        self.contradiction = ""  # the first one, in words
        self.failures: list[Finding] = []  # why the first few could not be written
        self.fills = self.writer.fills(wish.given)
        self._open = () if wish.vary else self._open_slots()
        self.axes: list[Axis] = []
        self.axes = [self._axis(v) for v in wish.vary]
        twice = [a.slot for i, a in enumerate(self.axes) if a.slot in {b.slot for b in self.axes[:i]}]
        if twice:
            raise Trouble(f"“{twice[0]}” is varied twice", "give all its values in one --vary", 2)
        self.positions = [a.position for a in self.axes] if wish.vary else [self.writer.position[s] for s in self._open]
        self.slots = [self.writer.rules[p].name for p in self.positions]
        for axis in self.axes:
            self.fills[axis.position] = axis.levels[0]
        self.writers = [writer.for_reach(self.fills) for writer in self.writers]
        self.writer = self.writers[0]
        self._check_size()
        sampled_some = self.size is not None and wish.count is not None and wish.count < self.size
        self.drawn = not self.axes or sampled_some or any(v.picks for v in wish.vary)  # did our own choices enter?
        self.baseline: tuple[Fill | None, ...] = ()

    @cached_property
    def _random(self):
        """The one generator of the family's choices."""
        return self.chooser.random()

    def _open_slots(self) -> tuple[str, ...]:
        """The slots that nothing fills and that have a facet to pick from. Raises Trouble where there are none."""
        if self.wish.count is None:
            remedy = f"write --vary SLOT=one,two, or --count 12 to vary the open slots ({', '.join(self.writer.position)})"
            raise Trouble("nothing varies", remedy, 2)
        found = self.chooser.open(self.fills, self.wish.given)
        if not found:
            raise Trouble("every slot is filled: nothing is open to vary", "leave one blank, or write --vary SLOT", 2)
        return tuple(found)

    def _axis(self, vary: Vary) -> Axis:
        position = self.writer.position.get(vary.slot)
        if position is None:
            remedy = perhaps(vary.slot, self.writer.position, f"its slots are {', '.join(self.writer.position)}")
            raise Trouble(f"the formula has no slot “{vary.slot}”", remedy, 2)
        rule = self.writer.rules[position]
        if vary.values:
            levels = [fill_of(rule, v, self.world.vocabulary) if v else None for v in vary.values]
        elif vary.picks:
            levels = self._picked(vary.slot, vary.picks)
        else:
            levels = [fill_of_term(t) for t in self.chooser.terms(vary.slot)]
        own = self.fills[position]
        if own is not None and vary.slot in self.wish.given:
            levels = [own, *levels]
        unlike: dict[str, Fill | None] = {}
        for level in levels:
            unlike.setdefault(str(given(level)), level)
        return Axis(vary.slot, position, tuple(unlike.values()), vary.slot in self.writer.shown)

    def _picked(self, slot: str, number: int) -> list[Fill | None]:
        """`number` different terms that go with what is fixed."""
        terms = self.chooser.terms(slot)
        if number > len(terms):
            remedy = f"ask for {slot}:{len(terms)}, or add terms of your own"
            raise Trouble(f"{slot} has {len(terms)} terms to pick from, not {number}", remedy, 2)
        beside = self.chooser.standing(self.fills, {slot, *(a.slot for a in self.axes)})[0] if slot in self.writer.shown else []
        deck = self.chooser.deck(slot, self._random)
        chosen: list[Term] = []
        while len(chosen) < number and (term := deck.draw(beside, but=chosen)):
            chosen.append(term)
        return [fill_of_term(t) for t in chosen]

    def _shown_fills(self, but: int = -1) -> list[Fill]:
        """What stands in the text of every member, apart from the axes and the slot at `but`."""
        varied = {axis.position for axis in self.axes} | {but}
        named = enumerate(zip(self.writer.rules, self.fills, strict=True))
        return [fill for i, (rule, fill) in named if fill and i not in varied and rule.name in self.writer.shown]

    @property
    def design(self) -> str:
        """The name of the design; a family of picks in the open slots is called picked."""
        return self.wish.design if self.axes else "picked"

    @property
    def size(self) -> int | None:
        """How many members the whole design has; None where it is drawn from more than anyone would count."""
        if not self.axes:
            return None
        return full_size(self.axes) if self.design == "full" else single_size(self.axes)

    def _check_size(self) -> None:
        if self.wish.design not in DESIGNS:
            remedy = perhaps(self.wish.design, DESIGNS, f"the designs are {' and '.join(DESIGNS)}")
            raise Trouble(f"there is no design “{self.wish.design}”", remedy, 2)
        if self.design == "full" and self.size > LARGE and self.wish.count is None and not self.wish.everything:
            shape = " × ".join(str(len(a.levels)) for a in self.axes)
            remedy = "--count N writes N of them, --all writes every one"
            raise Trouble(f"the full design has {self.size:,} prompts ({shape})", remedy, 2)

    def _combinations(self) -> Iterator[tuple[Fill | None, ...]]:
        if not self.axes:
            return self._picks()
        if self.wish.count is not None and self.wish.count < self.size:
            if self.design == "full":
                return sampled(self.axes, self._random)
            rest = list(single(self.axes))
            baseline, others = rest[0], rest[1:]
            self._random.shuffle(others)
            return iter([baseline, *others])
        return full(self.axes) if self.design == "full" else single(self.axes)

    def _picks(self) -> Iterator[tuple[Fill | None, ...]]:
        picker = self.chooser.picker(self._open, self._random)
        terms, told = self.chooser.standing(self.fills)
        needed = [slot for slot in self._open if self.chooser.rule(slot).need]
        for _ in range(TRIES * self.wish.count):
            picked = picker.pick(terms, told)
            if any(picked[slot] is None for slot in needed):
                continue  # what was picked before it left nothing that goes with it
            yield tuple(picked[slot] for slot in self._open)

    def members(self) -> Iterator[Member]:
        """Write the family, member by member: the baseline first, each different on every model from all before it."""
        number = 0
        for block in self.blocks():
            for combination, *prompts in zip(block.combinations, *block.prompts, strict=True):
                yield Member(number, combination, prompts)
                number += 1

    def blocks(self) -> Iterator["Block"]:
        """The same, many members at a time, which is faster for a family of many thousands. Raises BadFills or TooLong
        where the baseline can't be written."""
        clashes = Clashes(self.axes, self._shown_fills())
        runs = [Run(writer, self.fills, self.positions) for writer in self.writers]
        wanted = self.wish.count
        seen = [Seen(min(wanted or self.size, self.size or wanted)) for _ in runs]
        self.twins = self.contradictions = self.written = self.failed = 0
        self.failures = []
        self.amounts = [0.0] * len(self.writers)
        source = self._combinations()
        combinations = list(islice(source, 1))  # the baseline, which stays a member whatever it contradicts
        self.baseline = combinations[0] if combinations else ()
        while combinations:
            written, bad = zip(*[run.write_all(combinations) for run in runs], strict=True)
            if any(bad):
                if not self.written:
                    raise next(iter(failures[0] for failures in bad if failures))
                combinations, written = self._without_failures(combinations, written, bad)
            fresh = self._fresh(written, seen)
            if not all(fresh):
                combinations = list(compress(combinations, fresh))
                written = [list(compress(prompts, fresh)) for prompts in written]
            left = wanted - self.written if wanted else len(combinations)
            self.written += min(left, len(combinations))
            block = Block(combinations[:left], [prompts[:left] for prompts in written])
            for i, (writer, prompts) in enumerate(zip(self.writers, block.prompts, strict=True)):
                self.amounts[i] += _cost(writer, prompts)
            yield block
            if self.written == wanted:
                return
            combinations = list(islice(source, BLOCK if wanted is None else min(BLOCK, wanted - self.written)))
            while combinations and clashes:
                kept = [c for c in combinations if not clashes.has(c)]
                if len(kept) < len(combinations) and not self.contradictions:
                    self.contradiction = clashes.why(next(c for c in combinations if clashes.has(c)))
                self.contradictions += len(combinations) - len(kept)
                if kept:
                    combinations = kept
                    break
                combinations = list(islice(source, BLOCK))

    def _without_failures(self, combinations: list, written: Sequence[list], bad: Sequence[dict]) -> tuple[list, list[list]]:
        """Leave out what could not be written for one model or another, and note why."""
        for failures in bad:
            self.failed += len(failures)
            errors = list(failures.values())[: max(0, SHOWN - len(self.failures))]
            self.failures += [finding for error in errors for finding in troubles(error)]
        good = [not any(i in failures for failures in bad) for i in range(len(combinations))]
        return list(compress(combinations, good)), [list(compress(prompts, good)) for prompts in written]

    def _fresh(self, written: Sequence[list[Prompt]], seen: list[Seen]) -> list[bool]:
        """Which members differ from all before them on every model: in their text, or where a slot of the negative text
        is varied, in either."""
        told = []
        with_negative = any(not axis.shown for axis in self.axes)
        for prompts, known in zip(written, seen, strict=True):
            keys = [hash((p.text, p.negative) if with_negative else p.text) for p in prompts]
            told.append(known.new(keys))
        fresh = told[0] if len(told) == 1 else [all(each) for each in zip(*told, strict=True)]
        self.twins += fresh.count(False)
        return fresh

    def bills(self) -> list[Bill]:
        """What the members written so far cost on each model."""
        priced = zip(self.writers, self.amounts, strict=True)
        return [bill(w.profile, self.written, amount if w.profile.price else None) for w, amount in priced]

    def fills_of(self, member: Member) -> list[Fill | None]:
        """Every slot's fill in a member."""
        fills = list(self.fills)
        for position, fill in zip(self.positions, member.combination, strict=True):
            fills[position] = fill
        return fills

    def changes(self, member: Member) -> dict[str, tuple[Fill | None, Fill | None]]:
        """What differs from the baseline: slot → (there, here)."""
        pairs = zip(self.slots, self.baseline, member.combination, strict=True)
        return {slot: (there, here) for slot, there, here in pairs if there is not here}

    def vocabulary_remarks(self) -> list[Finding]:
        """Fills of the baseline that no facet has."""
        return checks.vocabulary_remarks(self.writer.rules, self.writer.named(self.fills), self.world.vocabulary)

    def statement(self) -> list[str]:
        """What a person has to know of the family as it came out: how many of how many, and why not more."""
        lines = []
        if self.contradictions:
            more = ", and the like" if self.contradictions > 1 else ""
            lines.append(f"{self.contradictions:,} left out: {self.contradiction}{more}")
        if self.twins:
            lines.append(f"{self.twins:,} left out: the same text as one before")
        wanted = self.wish.count
        if wanted and self.written < wanted:
            size = f"the design has no more ({self.size:,})" if self.size else "the open slots give no more"
            lines.append(f"{wanted:,} were asked for, and there are {self.written:,}: {size}")
        return lines


def keep_to(budget: float, world: World, wish: Wish) -> None:
    """Write a whole family without keeping it, to see what it costs. Raises Trouble where that is more than `budget` in any
    currency."""
    family = Family(world, wish)
    for _ in family.blocks():
        pass
    for currency, amount in sums(family.bills()).items():
        if amount > budget + 1e-9:
            message = f"the family costs {money(amount)} {currency}, more than the {money(budget)} allowed"
            remedy = "ask for fewer (--count), a cheaper model (`syntagma models --for FORMULA`), or a larger --budget"
            raise Trouble(message, remedy, 1)


def _cost(writer: Writer, prompts: Sequence[Prompt]) -> float:
    """What some prompts cost together; of prompts that wear the same, each costs what the first does."""
    price = writer.profile.price
    if price is None or not prompts:
        return 0.0
    if price.per != "thousand-tokens" and not writer.dress.menus:
        return cost(writer.profile, prompts[0].wear.values, prompts[0].words) * len(prompts)
    return sum(cost(writer.profile, p.wear.values, p.words) for p in prompts)


class FamilyRecords:
    """The records of a family's members, one for each model."""

    def __init__(self, family: Family):
        self.family = family
        draw = family.wish.taste.draw if family.drawn else None
        self._recorders = [Recorder(w, family.fills, family.slots, draw) for w in family.writers]

    def of(self, member: Member) -> list[dict[str, object]]:
        """The records of one member."""
        family = self.family
        changed = dict(zip(family.slots, member.combination, strict=True))
        design: dict[str, object] = {"name": family.design, "index": member.number}
        if changes := family.changes(member):
            design["changes"] = {slot: [given(there), given(here)] for slot, (there, here) in changes.items()}
        fills = family.fills_of(member)
        records = []
        for writer, recorder, prompt in zip(family.writers, self._recorders, member.prompts, strict=True):
            findings = writer.findings(fills, prompt)
            if member.number == 0:
                findings = findings + writer.clashes(fills)
            records.append(recorder.record(prompt, changed, findings, design))
        return records
