"""Families: from one prompt to many, each different from all others, on one model or several."""

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from itertools import compress, islice
from typing import NamedTuple

from syntagma.app.composing.asked import Taste, check, to_pick
from syntagma.app.composing.composer import troubles
from syntagma.app.composing.picks import TRIES, Chooser
from syntagma.app.families.axis_reader import AxisReader, Vary
from syntagma.app.families.design_rows import Apart, contradiction, rows_of, rule_against, rules_of
from syntagma.app.families.forecast import foreseen
from syntagma.app.families.variants import Variants
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking import draft_checks as checks
from syntagma.core.designs import DESIGNS, Axis, Clashes, Seen, full, full_size, sampled, single, single_size
from syntagma.core.designs.axes import Combination, Level, Together, terms_of
from syntagma.core.designs.level_rows import Literal
from syntagma.core.diagnostics.findings import Finding
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.drafting.fills import Fill, Given
from syntagma.core.models.prices import Bill, bill, cost
from syntagma.core.vocabulary.terms import normal
from syntagma.core.writing.prompt import PLAINLY, Manner, Prompt
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.trouble import Trouble

LARGE = 10_000  # a full design above this many asks first
BLOCK = 256  # members written at a time
SHOWN = 5  # failures that are told in full


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
    rules: Sequence[str] = ()
    strength: int = 2
    effort: float = 1.0
    interest: Sequence[str] = ()
    different: float = 0.0
    without: tuple[int, ...] = ()
    refill: bool = False
    text: str = ""
    groups: Sequence[str] = ()
    anyway: Sequence[str] = ()
    pick: bool = False  # is what is open, and not varied, picked for all members alike?


class Member(NamedTuple):
    """One member of a family: its number (0 is the baseline), its fills on the axes, its prompt on each model."""

    number: int
    combination: tuple[Fill | None, ...]
    prompts: Sequence[Prompt]


class Window(NamedTuple):
    """The members of a family that are written, by number, from and to. `straight`: it is known that each combination that contradicts
    nothing is a member, so that the writing can begin at the first of them."""

    low: float = 0
    high: float = float("inf")
    straight: bool = False


class Block(NamedTuple):
    """Members that follow one another: their combinations, and for each model their prompts."""

    combinations: list[Combination]
    prompts: list[list[Prompt]]
    first: int = 0  # the number of the first of them


class Family:
    """A family ready to be written. Running through it counts what was left out; `statement` says so afterwards."""

    def __init__(self, workspace: Workspace, wish: Wish):
        self.workspace, self.wish, self.asked = workspace, wish, wish
        check(wish.manner, wish.models, wish.mounts, wish.taste.themes)
        vary = list(wish.vary)
        if wish.text:
            from syntagma.app.existing.reading import reader_of
            from syntagma.app.families.text_base import formula_of_text

            read = lambda text: reader_of(workspace).read(text)  # noqa: E731
            formula, vary, found = formula_of_text(wish.text, wish.vary, workspace.vocabulary.names, read)
            formula, self.remarks = workspace.put_round(formula, wish.mounts)
            wish = self.wish = wish._replace(vary=vary, given={**found, **wish.given})
        else:
            formula, self.remarks = workspace.formula(wish.formula, wish.mounts)
        self.formula = formula
        manner = workspace.manner(wish.manner._replace(controlled=True))
        self.writers = [Writer(formula, workspace.model(m), workspace.vocabulary, manner) for m in wish.models]
        self.amounts = [0.0] * len(self.writers)  # what the members handed out so far cost, a sum for each model
        self.writer = self.writers[0]
        self.chooser = Chooser(workspace, self.writer, wish.taste)
        self.twins = self.contradictions = self.written = self.handed = self.failed = 0
        self.contradiction = ""  # the first one, in words
        self.failures: list[Finding] = []  # why the first few could not be written
        self.fills = self._filled(wish.given)
        self._open = () if wish.vary else self._open_slots()
        self.axes: list[Axis] = []
        reader = AxisReader(workspace, self.writer, self.chooser, wish.given, self.random if any(v.picks for v in wish.vary) else None)
        self.axes = [reader.axis(v, self.fills, [v.slot for v in wish.vary]) for v in wish.vary]
        self._by_slot = [i for i, a in enumerate(self.axes) if not a.kind]  # the axes that are slots
        self._settings = [i for i, a in enumerate(self.axes) if a.kind]
        names = [slot for axis in self.axes for slot in axis.slots] if wish.vary else list(self._open)
        names += [axis.slot for axis in self.axes if axis.kind]
        if twice := [name for i, name in enumerate(names) if name in names[:i]]:
            raise Trouble(f"“{twice[0]}” is varied twice", "give all its values in one --vary", 2)
        self.positions = [self.writer.position[name] for name in names if name in self.writer.position]
        self.slots = [self.writer.rules[p].name for p in self.positions]
        for axis in self.axes:
            for slot, fill in zip(axis.slots, _fills(axis.levels[0]), strict=False):
                self.fills[self.writer.position[slot]] = fill
        if wish.vary and wish.pick:
            self._pick_the_rest(names)
        self.writers = [writer.for_reach(self.fills) for writer in self.writers]
        self.writer = self.writers[0]
        self.variants = Variants(self, self._by_slot, self._settings)
        self.rules = rules_of(self)
        self.clashes = Clashes(
            self.axes, self._shown_fills(), [n for rule in self.rules for n in rule.nogoods], self._kept_anyway()
        )
        self._check_size()
        sampled_some = self.size is not None and wish.count is not None and wish.count < self.size
        by_chance = self.design in ("cover", "spread", "random", "mixed")
        self.drawn = not self.axes or sampled_some or by_chance or any(v.picks for v in wish.vary)  # did our own choices enter?
        self.baseline: Combination = tuple(axis.levels[0] for axis in self.axes)
        self.efficiency: float | None = None
        self.window = Window()

    def _filled(self, given: Mapping[str, Given]) -> list[Fill | None]:
        """What is the same in all members: as it was given, and picked where that was said."""
        asked = to_pick(self.writer, given, self.workspace.vocabulary)
        fills = self.writer.fills({slot: "" if slot in asked else text for slot, text in given.items()})
        self.picked = list(asked)
        return self.chooser.pick(fills, asked, self.chooser.random()) if asked else fills

    def _pick_the_rest(self, varied: Sequence[str]) -> None:
        """Pick what is open and not varied, the same for all members: what goes with every choice on the axes, where there is such, else
        with the baseline's."""
        given = {**self.wish.given, **dict.fromkeys(varied, "")}
        open_ = self.chooser.open(self.fills, given)
        levels = [[term] for axis in self.axes if axis.shown and not axis.kind for level in axis.levels for term in terms_of(level)]
        self.fills = self.chooser.pick(self.fills, open_, self.chooser.random(), beside=levels)
        self.picked += open_

    @cached_property
    def random(self):
        """The one generator of the family's choices."""
        return self.chooser.random()

    def _open_slots(self) -> tuple[str, ...]:
        """The slots that nothing fills and that have a facet to pick from. Raises Trouble where there are none."""
        if self.wish.text:
            raise Trouble("nothing varies", 'write --vary "words of the text=others,others"', 2)
        if self.wish.count is None:
            remedy = f"write --vary SLOT=one,two, or --count 12 to vary the open slots ({', '.join(self.writer.position)})"
            raise Trouble("nothing varies", remedy, 2)
        found = self.chooser.open(self.fills, self.wish.given)
        if not found:
            raise Trouble("every slot is filled: nothing is open to vary", "leave one blank, or write --vary SLOT", 2)
        return tuple(found)

    def _shown_fills(self, but: int = -1) -> list[Fill]:
        """What stands in the text of every member, apart from the axes and the slot at `but`."""
        varied = {self.writer.position[slot] for axis in self.axes for slot in axis.slots} | {but}
        named = enumerate(zip(self.writer.rules, self.fills, strict=True))
        return [fill for i, (rule, fill) in named if fill and i not in varied and rule.name in self.writer.shown]

    def _kept_anyway(self) -> frozenset[Literal]:
        """The levels that are to come in spite of what they contradict. Raises Trouble for one that there is not."""
        found: set[Literal] = set()
        for name in self.wish.anyway:
            here = {(a, v) for a, axis in enumerate(self.axes) for v in range(len(axis.levels)) if normal(axis.label(v)) == normal(name)}
            if not here:
                labels = [axis.label(v) for axis in self.axes for v in range(len(axis.levels))]
                raise Trouble(f"no axis has “{name}”, to come anyway", perhaps(name, labels, "name a choice of a --vary"), 2)
            found |= here
        return frozenset(found)

    @property
    def design(self) -> str:
        """The name of the design; a family of picks in the open slots is called picked."""
        return self.wish.design if self.axes else "picked"

    @property
    def size(self) -> int | None:
        """How many members the whole design has, where that can be said beforehand; None where it is drawn or found."""
        if not self.axes or self.design in ("cover", "spread", "random", "mixed"):
            return None
        if self.design == "ladder":
            return len(self.axes[0].levels)
        return full_size(self.axes) if self.design == "full" else single_size(self.axes)

    def _check_size(self) -> None:
        design, count = self.wish.design, self.wish.count
        if design not in DESIGNS:
            remedy = perhaps(design, DESIGNS, f"the designs are {', '.join(DESIGNS[:-1])} and {DESIGNS[-1]}")
            raise Trouble(f"there is no design “{design}”", remedy, 2)
        if self.design == "full" and self.size > LARGE and count is None and not self.wish.everything:
            shape = " × ".join(str(len(a.levels)) for a in self.axes)
            remedy = "--count N writes N of them, --all writes every one, --design cover covers every pair"
            raise Trouble(f"the full design has {self.size:,} prompts ({shape})", remedy, 2)
        if self.axes and design in ("spread", "random", "mixed") and count is None:
            raise Trouble(f"a {design} design needs a number", "write --count 12", 2)
        if self.axes and design == "cover" and count is not None:
            raise Trouble("a cover has as many members as it needs", "leave --count out, or take --design spread", 2)
        if self.wish.refill and not self.wish.without:
            raise Trouble("--refill draws others in place of those that are struck, and none is", "name them: --without 3,7", 2)
        if self.axes and design == "ladder" and len(self.axes) > 1:
            raise Trouble("a ladder has one axis", "name one --vary, or choose another design", 2)
        if why := contradiction(self):
            raise why
        self.foreseen = foreseen(self)
        last = self.size if self.size is not None and count is None else count or self.foreseen.most
        if last is not None and (beyond := [n for n in self.wish.without if n > last]):
            raise Trouble(f"there is no member {beyond[0]:,} to leave out: there are at most {last:,}", "number them from 1", 2)
        if self.axes and count and self.foreseen.most is not None and design not in ("single", "ladder"):
            self.wish = self.wish._replace(count=max(1, min(count, self.foreseen.most)))

    def fixed_fills(self) -> list[Fill]:
        """What stands in the text of every member."""
        return self._shown_fills()

    def clashes_allow(self, row: Mapping[int, int]) -> bool:
        """May the levels of a row (axis → level) stand together?"""
        return not any(all(row.get(a) == v for a, v in nogood) for nogood in self.clashes.nogoods)

    def _combinations(self) -> Iterator[Combination]:
        if not self.axes:
            return self._picks()
        if self.design in ("single", "full"):
            if self.wish.count is None or self.wish.count >= self.size:
                return full(self.axes) if self.design == "full" else single(self.axes)
            if self.design == "full":
                return sampled(self.axes, self.random)
            rest = list(single(self.axes))
            baseline, others = rest[0], rest[1:]
            self.random.shuffle(others)
            return iter([baseline, *others])
        if self.design in ("spread", "random", "mixed") and self.wish.count == self.foreseen.most:
            return full(self.axes)  # all that there are
        return (tuple(axis.levels[v] for axis, v in zip(self.axes, row, strict=True)) for row in rows_of(self))

    def _picks(self) -> Iterator[tuple[Fill | None, ...]]:
        picker = self.chooser.picker(self._open, self.random)
        terms, told = self.chooser.standing(self.fills)
        needed = [slot for slot in self._open if self.chooser.rule(slot).need]
        for _ in range(TRIES * self.wish.count):
            picked = picker.pick(terms, told)
            if any(picked[slot] is None for slot in needed):
                continue  # what was picked before it left nothing that goes with it
            yield tuple(picked[slot] for slot in self._open)

    def first(self, number: int) -> list[Combination]:
        """A few combinations of the design, as they are and not those that will come, to see what one costs."""
        return list(islice(full(self.axes), number)) if self.axes else list(islice(self._picks(), number))

    def members(self) -> Iterator[Member]:
        """Write the family, member by member: the baseline first, each different on every model from all before it."""
        for block in self.blocks():
            for number, (combination, *prompts) in enumerate(zip(block.combinations, *block.prompts, strict=True), block.first):
                yield Member(number, combination, prompts)

    def blocks(self) -> Iterator["Block"]:
        """The same, many members at a time, which is faster for a family of many thousands. Raises BadFills or TooLong
        where the baseline can't be written."""
        wanted, self.struck = self.wish.count, frozenset(self.wish.without)
        if wanted and self.wish.refill:
            wanted += len(self.struck)
        self.found = 0  # members so far, those that are struck among them
        models = len(self.writers) if "model" not in (a.kind for a in self.axes) else 1
        seen = [Seen(min(wanted or self.size or BLOCK, self.size or wanted or BLOCK)) for _ in range(models)]
        apart = Apart(self.wish.different) if self.wish.different else None
        self.twins = self.contradictions = self.written = self.failed = 0
        self.failures = []
        self.amounts, self.handed = [0.0] * len(self.writers), 0
        source = self._allowed(self._combinations())
        if self.window.straight:
            self.found = self.written = int(self.window.low)
            source = islice(source, self.found, None)
        combinations = list(islice(source, 1))
        if not self.axes:
            self.baseline = combinations[0] if combinations else ()
        self.near = 0
        while combinations:
            written, bad = self.variants.write_all(combinations)
            if any(bad):
                if not self.found:
                    raise next(iter(failures[0] for failures in bad if failures))
                combinations, written = self._without_failures(combinations, written, bad)
            fresh = self._fresh(written, seen)
            if apart:
                fresh = [new and apart.new(prompt.text) for new, prompt in zip(fresh, written[0], strict=True)]
                self.near = apart.near
            if not all(fresh):
                combinations = list(compress(combinations, fresh))
                written = [list(compress(prompts, fresh)) for prompts in written]
            left = wanted - self.found if wanted else len(combinations)
            kept = [i for i in range(min(left, len(combinations))) if self.found + i + 1 not in self.struck]
            self.found += min(left, len(combinations))
            self.written += len(kept)
            before = self.written - len(kept)
            block = Block([combinations[i] for i in kept], [[prompts[i] for i in kept] for prompts in written], before)
            if within := self._in_window(block):
                self._count(within)
                yield within
            if self.found == wanted or self.written >= self.window.high:
                return
            combinations = list(islice(source, BLOCK if wanted is None else min(BLOCK, wanted - self.found)))

    def _allowed(self, source: Iterator[Combination]) -> Iterator[Combination]:
        """The combinations that contradict nothing; of a single design also the baseline, which stays whatever words it holds."""
        if not self.clashes:
            return source
        return (c for number, c in enumerate(source) if not self._left_out(c, number))

    def _left_out(self, combination: Combination, number: int) -> bool:
        if not self.clashes.has(combination) or (self.design == "single" and number == 0):
            return False
        if not self.contradictions:
            self.contradiction = self.clashes.why(combination) or rule_against(self, combination)
        self.contradictions += 1
        return True

    def _in_window(self, block: "Block") -> "Block | None":
        """The members of a block that are to be written: all, or those of a part."""
        low, high = (min(max(at - block.first, 0), len(block.combinations)) for at in self.window[:2])
        if low >= high:
            return None
        return Block(block.combinations[low:high], [prompts[low:high] for prompts in block.prompts], block.first + low)

    def _count(self, block: "Block") -> None:
        """What a block costs on each model."""
        self.handed += len(block.combinations)
        for i, prompts in enumerate(block.prompts):
            if not self._settings:
                self.amounts[i] += _cost(self.writers[i], prompts)
                continue
            for combination, prompt in zip(block.combinations, prompts, strict=True):
                self.amounts[i] += _cost(self.variants.of(combination).writers[i], [prompt])

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
        with_negative = any(not axis.shown and not axis.kind for axis in self.axes)
        with_more = bool(self._settings)
        for prompts, known in zip(written, seen, strict=True):
            if with_more:
                keys = [hash((p.text, p.negative, tuple(sorted(map(str, p.around.values.items()))))) for p in prompts]
            else:
                keys = [hash((p.text, p.negative) if with_negative else p.text) for p in prompts]
            told.append(known.new(keys))
        fresh = told[0] if len(told) == 1 else [all(each) for each in zip(*told, strict=True)]
        self.twins += fresh.count(False)
        return fresh

    def bills(self) -> list[Bill]:
        """What the members handed out so far cost on each model."""
        priced = zip(self.writers, self.amounts, strict=True)
        return [bill(w.profile, self.handed, amount if w.profile.price else None) for w, amount in priced]

    def writers_of(self, member: Member) -> list[Writer]:
        """The writers of a member, one for each model."""
        return self.variants.of(member.combination).writers

    def fills_of(self, member: Member) -> list[Fill | None]:
        """Every slot's fill in a member."""
        variant = self.variants.of(member.combination)
        fills = list(variant.fills)
        for position, fill in zip(variant.positions, self.variants.slots_of(member.combination), strict=True):
            fills[position] = fill
        return fills

    def changes(self, member: Member) -> dict[str, tuple[Level, Level]]:
        """What differs from the baseline: axis → (there, here)."""
        names = [axis.slot for axis in self.axes] if self.axes else self.slots
        pairs = zip(names, self.baseline, member.combination, strict=True)
        return {name: (there, here) for name, there, here in pairs if there is not here}

    def vocabulary_remarks(self) -> list[Finding]:
        """Fills of the baseline that no facet has."""
        return checks.vocabulary_remarks(self.writer.rules, self.writer.compiled.named(self.fills), self.workspace.vocabulary)

    def statement(self) -> list[str]:
        """What a person has to know of the family as it came out: how many of how many, and why not more."""
        lines = []
        if self.contradictions:
            more = ", and the like" if self.contradictions > 1 else ""
            lines.append(f"{self.contradictions:,} left out: {self.contradiction}{more}")
        if self.near:
            lines.append(f"{self.near:,} left out: nearer than {self.wish.different:g} to one before")
        if self.twins:
            lines.append(f"{self.twins:,} left out: the same text as one before")
        wanted = self.wish.count
        if wanted and not self.wish.refill:
            wanted -= sum(number <= wanted for number in self.struck)
        if wanted and self.written < wanted and self.window.high == Window().high:
            more = "the open slots give no more" if not self.axes else "the axes give no more"
            size = f"the design has no more ({self.size:,})" if self.size else more
            lines.append(f"{wanted:,} were asked for, and there are {self.written:,}: {size}")
        return lines


def _fills(level: Level) -> tuple[Fill | None, ...]:
    return level.fills if isinstance(level, Together) else (level,)


def _cost(writer: Writer, prompts: Sequence[Prompt]) -> float:
    """What some prompts cost together; of prompts that wear the same, each costs what the first does."""
    price = writer.profile.price
    if price is None or not prompts:
        return 0.0
    if price.per != "thousand-tokens" and not writer.compiled.surroundings.menus:
        return cost(writer.profile, prompts[0].around.values, prompts[0].words) * len(prompts)
    return sum(cost(writer.profile, p.around.values, p.words) for p in prompts)
