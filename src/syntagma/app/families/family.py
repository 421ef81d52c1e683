"""Families: from one prompt to many, each different from all others, on one model or several."""

from collections.abc import Iterator, Sequence
from itertools import compress, islice
from typing import NamedTuple

from syntagma.app.composing.composer import troubles
from syntagma.app.families.compiled import CompiledFamily, compile_family
from syntagma.app.families.forecast import foreseen
from syntagma.app.families.spec import FamilySpec
from syntagma.app.families.variants import Variants, contradiction, found, rule_against
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking import draft_checks as checks
from syntagma.core.designs import DESIGNS, KeySet
from syntagma.core.designs.axes import Combination, Level
from syntagma.core.diagnostics import Finding, Trouble, perhaps
from syntagma.core.drafting.fills import Fill
from syntagma.core.models.prices import Bill, bill, cost, money, priced, sums
from syntagma.core.writing.prompt import Prompt, Prompts
from syntagma.core.writing.prompt_writer import Writer

LARGE = 10_000  # a full design above this many asks first
BLOCK = 512  # members written at a time
SHOWN = 5  # failures that are reported in full


class Member(NamedTuple):
    """One member of a family: its number (0 is the baseline), its fills on the axes, its prompt on
    each model.
    """

    number: int
    combination: tuple[Fill | None, ...]
    prompts: Sequence[Prompt]


class Window(NamedTuple):
    """The members of a family that are written, by number, from and to. `straight`: it is known
    that each combination that contradicts nothing is a member, so the writing can begin at the
    first of them.
    """

    low: float = 0
    high: float = float("inf")
    straight: bool = False


class Block(NamedTuple):
    """Members that follow one another: their combinations, and for each model their prompts."""

    combinations: list[Combination]
    prompts: list[Prompts]
    first: int = 0  # the number of the first of them

    def part(self, start: int, stop: int) -> "Block":
        """The members from one number up to another, counted within the block."""
        return Block(
            self.combinations[start:stop],
            [prompts[start:stop] for prompts in self.prompts],
            self.first + start,
        )

    def only(self, which: Sequence[bool]) -> "Block":
        """Those members for which `which` says yes."""
        if all(which):
            return self
        return Block(
            list(compress(self.combinations, which)),
            [prompts.only(which) for prompts in self.prompts],
            self.first,
        )


class Tally:
    """What has become of a family so far: how many were `found` (those that are left out among
    them), `written`, handed out, and what they cost on each model; how many fell out, and why the
    first of them did.
    """

    def __init__(self, models: int):
        self.found = self.written = self.handed = 0
        self.amounts = [0.0] * models
        self.twins = self.near = self.contradictions = self.failed = 0
        self.contradiction = ""
        self.failures: list[Finding] = []

    @property
    def fell_out(self) -> bool:
        """Was anything left out for what it says, and not for what it contradicts?"""
        return bool(self.twins or self.near or self.failed)

    def note_failures(self, bad: Sequence[dict[int, Exception]]) -> None:
        """Note why some could not be written for one model or another."""
        for failures in bad:
            self.failed += len(failures)
            errors = list(failures.values())[: max(0, SHOWN - len(self.failures))]
            self.failures += [finding for error in errors for finding in troubles(error)]


class _Sieve:
    """Lets through what differs from all before it on every model: in its text, or where a slot of
    the negative text is varied, in either; and by as much as was asked for.
    """

    def __init__(self, family: CompiledFamily, expected: int):
        settings = {axis.kind for axis in family.axes}
        self._more = settings != {""} and bool(family.axes)
        self._with_negative = any(not axis.shown and not axis.kind for axis in family.axes)
        self._seen = [
            KeySet(expected) for _ in range(1 if "model" in settings else len(family.writers))
        ]
        self._apart = _Apart(family.wish.design.different) if family.wish.design.different else None

    def fresh(self, written: Sequence[Prompts], tally: Tally) -> list[bool]:
        """Which of these may pass; those that may not are counted."""
        told = [
            seen.new(self._keys(prompts)) for prompts, seen in zip(written, self._seen, strict=True)
        ]
        fresh = told[0] if len(told) == 1 else [all(each) for each in zip(*told, strict=True)]
        tally.twins += fresh.count(False)
        if self._apart:
            fresh = [
                new and text is not None and self._apart.new(text)
                for new, text in zip(fresh, written[0].texts, strict=True)
            ]
            tally.near = self._apart.near
        return fresh

    def _keys(self, prompts: Prompts) -> list[int]:
        if self._more:
            return [
                hash((p.text, p.negative, tuple(sorted(map(str, p.around.values.items())))))
                for p in prompts
                if p
            ]
        if self._with_negative:
            return [hash((p.text, p.negative)) for p in prompts if p]
        return list(map(hash, prompts.texts))


class _Apart:
    """Keeps texts that are far enough from all before them: the share of words that only one of two
    has (Jaccard's distance). A text that is near another shares with it one of its rarest words, so
    only those are compared that do (prefix filtering: Chaudhuri, Ganti and Kaushik, A primitive
    operator for similarity joins in data cleaning, ICDE 2006).
    """

    def __init__(self, least: float):
        self._least, self.near = least, 0
        self._with: dict[str, list[frozenset[str]]] = {}  # by word: the texts that are kept

    def new(self, text: str) -> bool:
        """Is a text far enough? Then it is kept."""
        words = frozenset(text.lower().split())
        rarest = sorted(words, key=lambda word: len(self._with.get(word, ())))
        shared = (
            int((1 - self._least) * len(words)) + 1
        )  # a text that is too near shares at least so many words with this one
        tried: set[int] = set()
        for word in rarest[: max(1, len(words) - shared + 2)]:
            for other in self._with.get(word, ()):
                if (
                    id(other) not in tried
                    and 1 - len(words & other) / len(words | other) < self._least
                ):
                    self.near += 1
                    return False
                tried.add(id(other))
        for word in words:
            self._with.setdefault(word, []).append(words)
        return True


class Family:
    """A family ready to be written. Running through it counts what was left out; `statement` says
    so afterwards.
    """

    def __init__(self, workspace: Workspace, wish: FamilySpec):
        self.asked = wish
        self.compiled, self.remarks = compile_family(workspace, wish)
        _check_design(self.compiled)
        if why := contradiction(self.compiled):
            raise why
        self.foreseen = foreseen(self.compiled)
        self.compiled = _kept_to(self.compiled, self.foreseen.most)
        self.variants = Variants(self.compiled)
        self.window = Window()
        self.tally = Tally(len(self.compiled.writers))
        self.baseline: Combination = self.compiled.baseline
        self.efficiency: float | None = None

    def members(self) -> Iterator[Member]:
        """Write the family, member by member: the baseline first, each different on every model
        from all before it.
        """
        for block in self.blocks():
            for number, (combination, *prompts) in enumerate(
                zip(block.combinations, *block.prompts, strict=True), block.first
            ):
                yield Member(number, combination, prompts)

    def blocks(self) -> Iterator[Block]:
        """The same, many members at a time, which is faster for a family of many thousands. Raises
        BadFills or TooLong where the baseline can't be written.
        """
        design, tally = self.compiled.wish.design, Tally(len(self.compiled.writers))
        self.tally = tally
        wanted, dropped = design.count, frozenset(design.without)
        if wanted and design.refill:
            wanted += len(dropped)
        size = self.compiled.size
        sieve = _Sieve(self.compiled, min(wanted or size or BLOCK, size or wanted or BLOCK))
        source = self._source()
        combinations = list(islice(source, 1))
        if not self.compiled.axes:
            self.baseline = combinations[0] if combinations else ()
        while combinations:
            block = self._written(combinations, sieve)
            if wanted:
                block = block.part(0, wanted - tally.found)
            first = tally.found + 1
            tally.found += len(block.combinations)
            if dropped:
                block = block.only(
                    [first + i not in dropped for i in range(len(block.combinations))]
                )
            block = block._replace(first=tally.written)
            tally.written += len(block.combinations)
            if (within := self._in_window(block)).combinations:
                self._count(within)
                yield within
            if tally.found == wanted or tally.written >= self.window.high:
                return
            combinations = list(
                islice(source, BLOCK if wanted is None else min(BLOCK, wanted - tally.found))
            )

    def _source(self) -> Iterator[Combination]:
        """The combinations of the design that contradict nothing, from where the window begins."""
        made = found(self.compiled, self.foreseen.most)
        self.efficiency = made.efficiency
        allowed = self._allowed(made.combinations) if self.compiled.clashes else made.combinations
        if not self.window.straight:
            return allowed
        self.tally.found = self.tally.written = int(self.window.low)
        return islice(allowed, self.tally.found, None)

    def _written(self, combinations: list[Combination], sieve: _Sieve) -> Block:
        """Combinations in words: those that could be written and that are new."""
        written, bad = self.variants.write_all(combinations)
        block = Block(combinations, written)
        if any(bad):
            if not self.tally.found:
                raise next(iter(failures[0] for failures in bad if failures))
            self.tally.note_failures(bad)
            block = block.only(
                [not any(i in failures for failures in bad) for i in range(len(combinations))]
            )
        return block.only(sieve.fresh(block.prompts, self.tally))

    def _allowed(self, source: Iterator[Combination]) -> Iterator[Combination]:
        """The combinations that contradict nothing; of a single design also the baseline, which
        stays whatever words it holds.
        """
        clashes, tally, single = self.compiled.clashes, self.tally, self.compiled.design == "single"
        for number, combination in enumerate(source):
            if not clashes.has(combination) or (single and not number):
                yield combination
                continue
            if not tally.contradictions:
                tally.contradiction = clashes.why(combination) or rule_against(
                    self.compiled, combination
                )
            tally.contradictions += 1

    def _in_window(self, block: Block) -> Block:
        """The members of a block that are to be written: all, or those of a part."""
        low, high = (
            int(min(max(at - block.first, 0), len(block.combinations))) for at in self.window[:2]
        )
        return block if (low, high) == (0, len(block.combinations)) else block.part(low, high)

    def _count(self, block: Block) -> None:
        """What a block costs on each model."""
        self.tally.handed += len(block.combinations)
        if not any(axis.kind for axis in self.compiled.axes):
            priced = [
                (i, w, prompts)
                for i, (w, prompts) in enumerate(
                    zip(self.compiled.writers, block.prompts, strict=True)
                )
            ]
        else:
            each = [(self.variants.of(c).writers, i) for i, c in enumerate(block.combinations)]
            priced = [
                (m, writers[m], [prompts[i]])
                for m, prompts in enumerate(block.prompts)
                for writers, i in each
            ]
        for i, writer, prompts in priced:
            self.tally.amounts[i] += _cost(writer, prompts)

    def bills(self) -> list[Bill]:
        """What the members handed out so far cost on each model."""
        priced = zip(self.compiled.writers, self.tally.amounts, strict=True)
        return [
            bill(w.profile, self.tally.handed, amount if w.profile.price else None)
            for w, amount in priced
        ]

    def writers_of(self, member: Member) -> list[Writer]:
        """The writers of a member, one for each model."""
        return self.variants.of(member.combination).writers

    def fills_of(self, member: Member) -> list[Fill | None]:
        """Every slot's fill in a member."""
        variant = self.variants.of(member.combination)
        fills = list(variant.fills)
        for position, fill in zip(
            variant.positions, self.variants.slots_of(member.combination), strict=True
        ):
            fills[position] = fill
        return fills

    def changes(self, member: Member) -> dict[str, tuple[Level, Level]]:
        """What differs from the baseline: axis → (there, here)."""
        names = [axis.slot for axis in self.compiled.axes] or self.compiled.slots
        pairs = zip(names, self.baseline, member.combination, strict=True)
        return {name: (there, here) for name, there, here in pairs if there is not here}

    def vocabulary_remarks(self) -> list[Finding]:
        """Fills of the baseline that no facet has."""
        writer, vocabulary = self.compiled.writer, self.compiled.workspace.vocabulary
        return checks.vocabulary_remarks(
            writer.rules, writer.compiled.named(self.compiled.fills), vocabulary
        )

    def statement(self) -> list[str]:
        """What a person has to know of the family as it came out: how many of how many, and why not
        more.
        """
        lines, tally, design = [], self.tally, self.compiled.wish.design
        whole = (
            design.count is not None and tally.written >= design.count
        )  # others came in place of what fell out
        if tally.contradictions and not whole:
            more = ", and the like" if tally.contradictions > 1 else ""
            lines.append(f"{tally.contradictions:,} left out: {tally.contradiction}{more}")
        if tally.near:
            lines.append(
                f"{tally.near:,} {'drawn again' if whole else 'left out'}: closer than"
                f" {design.different:g} to an earlier one"
            )
        if tally.twins and not whole:
            lines.append(f"{tally.twins:,} left out: the same text as an earlier one")
        wanted, size = design.count, self.compiled.size
        if wanted and not design.refill:
            wanted -= sum(number <= wanted for number in frozenset(design.without))
        if wanted and tally.written < wanted and self.window.high == Window().high:
            more = (
                "the open slots have no more combinations"
                if not self.compiled.axes
                else "the axes have no more combinations"
            )
            lines.append(
                f"{wanted:,} were asked for, but there are only {tally.written:,}:"
                f" {f'the design has no more ({size:,})' if size else more}"
            )
        return lines


class Counted(NamedTuple):
    """How many members a family has, and whether every combination that contradicts nothing is one;
    the family itself, run through.
    """

    members: int
    straight: bool
    family: Family

    def part(self, number: int, parts: int) -> Window:
        """The members of one part, parts counted from 1: the parts joined are the whole."""
        return Window(
            self.members * (number - 1) // parts, self.members * number // parts, self.straight
        )


def counted(workspace: Workspace, wish: FamilySpec) -> Counted:
    """Count a family, which only writing it can tell: members that would be twins, or that a limit
    allows no text, fall out.
    """
    family = _run_through(workspace, wish)
    straight = bool(family.compiled.axes) and not family.tally.fell_out and not wish.design.without
    return Counted(family.tally.written, straight, family)


def keep_to(budget: float, workspace: Workspace, wish: FamilySpec) -> None:
    """See what a whole family costs. Raises Trouble if that is more than `budget` in any
    currency.
    """
    for currency, amount in sums(_run_through(workspace, wish).bills()).items():
        if amount > budget + 1e-9:
            message = (
                f"the family costs {priced(amount, currency)}, more than the {money(budget)}"
                " allowed"
            )
            remedy = (
                "ask for fewer (--count), a cheaper model (`syntagma model rank FORMULA`), or a"
                " larger --budget"
            )
            raise Trouble(message, remedy, 1)


def _run_through(workspace: Workspace, wish: FamilySpec) -> Family:
    family = Family(workspace, wish)
    for _ in family.blocks():
        pass
    return family


def _check_design(family: CompiledFamily) -> None:
    """Raises Trouble for a design that there is not, or whose number makes no sense."""
    design, axes, count = family.wish.design, family.axes, family.wish.design.count
    if design.name not in DESIGNS:
        remedy = perhaps(
            design.name, DESIGNS, f"the designs are {', '.join(DESIGNS[:-1])} and {DESIGNS[-1]}"
        )
        raise Trouble(f"no design is called “{design.name}”", remedy, 2)
    if (
        family.design == "full"
        and family.size is not None
        and family.size > LARGE
        and count is None
        and not design.everything
    ):
        shape = " × ".join(str(len(a.levels)) for a in axes)
        remedy = (
            "--count N writes N of them, --all writes every one, --design cover covers every pair"
        )
        raise Trouble(f"the full design has {family.size:,} prompts ({shape})", remedy, 2)
    if axes and design.name in ("spread", "random", "mixed") and count is None:
        raise Trouble(f"a {design.name} design needs a number", "write --count 12", 2)
    if axes and design.name == "cover" and count is not None:
        raise Trouble(
            "a cover design sets its own number of members",
            "leave --count out, or take --design spread",
            2,
        )
    if design.refill and not design.without:
        raise Trouble(
            "--refill replaces members that are left out, and none is",
            "name them: --without 3,7",
            2,
        )
    if axes and design.name == "ladder" and len(axes) > 1:
        raise Trouble(
            "a ladder design has one axis", "name one --vary, or choose another design", 2
        )


def _kept_to(family: CompiledFamily, most: int | None) -> CompiledFamily:
    """The family with no more members asked for than there can be. Raises Trouble if one is dropped
    that there is not.
    """
    design, count = family.wish.design, family.wish.design.count
    last = family.size if family.size is not None and count is None else count or most
    if last is not None and (beyond := [n for n in design.without if n > last]):
        raise Trouble(
            f"can't leave out member {beyond[0]:,}; the family has at most {last:,}",
            "number them from 1",
            2,
        )
    if not family.axes or not count or most is None or design.name in ("single", "ladder"):
        return family
    return family._replace(
        wish=family.wish._replace(design=design._replace(count=max(1, min(count, most))))
    )


def _cost(writer: Writer, prompts: Sequence[Prompt | None]) -> float:
    """What some prompts cost together; of prompts with the same round them, each costs what the
    first does.
    """
    price, first = writer.profile.price, prompts[0] if prompts else None
    if price is None or first is None:
        return 0.0
    if price.per != "thousand-tokens" and not writer.compiled.surroundings.menus:
        return (cost(writer.profile, first.around.values, first.words) or 0.0) * len(prompts)
    return sum(cost(writer.profile, p.around.values, p.words) or 0.0 for p in prompts if p)
