"""Data sets of instruction and prompt: made by the formulas' own rules, balanced, split without
leaks; from kept results too; and what they cost.
"""

import hashlib
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import combinations
from random import Random
from typing import Any, NamedTuple

from syntagma.app.asked import Ask, Taste
from syntagma.app.composing.composer import Composer
from syntagma.app.composing.table_rows import columns_of
from syntagma.app.handing_on.brief import brief
from syntagma.app.picking import Chooser
from syntagma.app.results.adding import library_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.asking import HOW_MUCH, Asker, Instruction, read_asking
from syntagma.core.diagnostics import Trouble
from syntagma.core.drafting.fills import BadFills, Fill
from syntagma.core.fitting import TooLong
from syntagma.core.formula.tree import SlotRule
from syntagma.core.models.measure import estimated_tokens
from syntagma.core.picking.picker import Picker
from syntagma.core.records import joined
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.table_in import Table
from syntagma.storage.files import read_text
from syntagma.storage.folders import SHIPPED
from syntagma.storage.library import LibraryQuery

# ──── Kept results as examples for a data set: those that were good, and whose terms of use allow
# training.


def kept_fills(
    workspace: Workspace, formula: str, rating: float
) -> tuple[list[dict[str, str]], int]:
    """The fills of kept results of a formula with at least this rating, and how many stay out since
    their terms forbid training or say nothing of it.
    """
    found, out = [], 0
    with library_of(workspace) as library:
        for kept in library.find(LibraryQuery(rating=rating, formula=formula)):
            fills = kept.record.fills
            said = re.search(r"training: (\w+)", kept.use)
            if fills is None:
                continue
            if not said or said[1] != "yes":
                out += 1
                continue
            found.append({slot: joined(given) for slot, given in fills.items()})
    return found, out


# ──── Data sets of instruction and prompt: made by the formulas' own rules, balanced, none near
# another, split so that training and test share nothing that would give an answer away.


TRAIN, TEST = "train", "test"
SHARE = 0.1  # of the pairs that are kept for the test
_PLACES = facets.FacetGroup(
    "kept-apart"
)  # facets that are kept apart, beside those who take part in a picture
_DETAILS = (
    "usual",
    "usual",
    "usual",
    "rich",
    "bare",
)  # how much the prompts themselves say, in turn
_MUCH = ("some", "all", "one", "some", "all", "some", "none", "one")
TRIES = 60  # picks for one pair before the formula has no more to give
FAR = 5  # choices in a prompt from which two have to differ in three; with fewer, in two


class DatasetPair(NamedTuple):
    """One pair: what is asked, the prompt for it, and what it was made of."""

    instruction: Instruction
    prompt: str
    negative: str
    formula: str
    fills: Mapping[str, str]
    split: str

    def record(self, form: str, system: str = "") -> dict[str, Any]:
        """The pair as a line has it: pairs, or chat messages."""
        if form == "chat":
            said = [{"role": "system", "content": system}] if system else []
            return {
                "messages": [
                    *said,
                    {"role": "user", "content": self.instruction.text},
                    {"role": "assistant", "content": self.prompt},
                ]
            }
        found: dict[str, Any] = {"instruction": self.instruction.text, "prompt": self.prompt}
        if self.negative:
            found["negative"] = self.negative
        return {
            **found,
            "formula": self.formula,
            "way": self.instruction.way,
            "said": list(self.instruction.slots),
            "fills": dict(self.fills),
            "split": self.split,
        }


class _Source:
    """What makes prompts of one formula, for one side of the split."""

    def __init__(
        self,
        workspace: Workspace,
        writer: Writer,
        asker: Asker,
        draw: int,
        split: str,
        tests: set[str],
        lines: Mapping[str, Sequence[str]],
    ):
        self.writer, self.asker, self.split, self.lines = writer, asker, split, lines
        self.keyed = {rule.name for rule in writer.rules if is_kept_apart(workspace, rule)}
        self.pickers = {}
        for detail in dict.fromkeys(_DETAILS):
            chooser = Chooser(workspace, writer, Taste((), detail, draw))
            given = self._free(0)
            fills = writer.fills(given)
            slots = [slot for slot in chooser.open(fills, given) if slot in writer.shown]
            passed = self._passed(chooser, slots, tests)
            wants = [
                want._replace(
                    terms=[term for term in want.terms if term not in passed.get(want.slot, ())]
                )
                for want in chooser.wants(slots)
            ]
            self.pickers[detail] = (
                chooser,
                slots,
                Picker(wants, chooser.random("dataset", split, detail)),
                passed,
            )

    def _passed(
        self, chooser: Chooser, slots: Sequence[str], tests: set[str]
    ) -> dict[str, frozenset[Term]]:
        """The terms of the other side, which are not picked."""
        other = self.split == TRAIN
        return {
            slot: frozenset(
                term for term in chooser.facet(slot) if (normal(term.term) in tests) == other
            )
            for slot in slots
            if slot in self.keyed
        }

    def _free(self, number: int) -> dict[str, str]:
        """Words for the slots without a facet that have to be filled: what is said aloud, else the
        formula's example.
        """
        given = {}
        for rule in self.writer.rules:
            if rule.facet or rule.default or not rule.need:
                continue
            of = self.lines["answer" if "answer" in rule.name else "say"]
            half = [line for i, line in enumerate(of) if (i % 5 == 0) == (self.split == TEST)]
            example = self.writer.formula.head.example.get(rule.name, "")
            given[rule.name] = (
                half[(number * 7 + len(rule.name)) % len(half)]
                if "line" in rule.name or "answer" in rule.name
                else str(example)
            )
        return given

    def prompt(self, number: int) -> dict[str, Fill] | None:
        """Fills by slot for another prompt; None if no picks go together."""
        chooser, slots, picker, passed = self.pickers[_DETAILS[number % len(_DETAILS)]]
        given = self._free(number)
        fills = self.writer.fills(given)
        scene, told = chooser.ground.standing(fills, slots)
        picked = picker.pick(scene, told)
        if any(not picked[slot] for slot in slots if chooser.rule(slot).need):
            return None
        named = {
            rule.name: picked.get(rule.name, fill)
            for rule, fill in zip(self.writer.rules, fills, strict=True)
        }
        if any(fill and self._of_other(slot, fill, passed) for slot, fill in named.items()):
            return None
        return {slot: fill for slot, fill in named.items() if fill and slot in self.writer.shown}

    @staticmethod
    def _of_other(slot: str, fill: Fill, passed: Mapping[str, frozenset[Term]]) -> bool:
        """Has a pick brought along a term of the other side?"""
        names = {normal(term.term) for term in passed.get(slot, ())}
        return any(normal(item.tag) in names for item in fill.items)


class Maker:
    """Makes the pairs of a data set. `left` says what could not be made and why, once it
    has run.
    """

    def __init__(
        self,
        workspace: Workspace,
        formulas: Sequence[str],
        model: str | None,
        draw: int,
        share: float = SHARE,
    ):
        self.workspace, self.draw, self.share = workspace, draw, share
        self.asking = read_asking(read_text(SHIPPED / "asking.toml", "how people ask"))
        self.writers = {
            name: Writer(workspace.formula(name)[0], workspace.model(model), workspace.vocabulary)
            for name in dict.fromkeys(formulas)
        }
        self.tests = self._tests()
        self.left: dict[str, str] = {}
        self._near = _Seen()
        self._asked: set[int] = set()
        self._rest: dict[str, set[int]] = {TRAIN: set(), TEST: set()}

    def _tests(self) -> set[str]:
        """The terms that only test pairs hold, of every facet that is kept apart: places by a hash
        of their words, then who is at home there, then what those do; so that a term is on the same
        side wherever it stands, and the terms of the test go together. Each slot keeps some.
        """
        found: set[str] = set()
        if not self.share:
            return found
        slots = [
            (Chooser(self.workspace, writer, Taste((), "rich", self.draw)), rule)
            for writer in self.writers.values()
            for rule in writer.rules
            if rule.name in writer.shown and is_kept_apart(self.workspace, rule)
        ]
        for wanted in (("setting",), (), ("action",)):
            for chooser, rule in slots:
                if rule.facet in wanted or (not wanted and rule.facet not in ("setting", "action")):
                    self._share_out(chooser.terms(rule.name), found)
        return found

    def _share_out(self, terms: Sequence[Term], found: set[str]) -> None:
        """Move some terms of one slot to the test: those that go with what is there already
        first.
        """
        deeds = {
            normal(deed.partition("@")[0])
            for facet in self.workspace.vocabulary
            for term in facet
            if normal(term.term) in found
            for deed in term.does
        }
        belongs = {
            normal(term.term): (
                any(normal(place) in found for place in term.at) or normal(term.term) in deeds
            )
            for term in terms
        }
        names = sorted(
            belongs,
            key=lambda name: (
                not belongs[name],
                hashlib.sha256(f"{self.draw} {name}".encode()).digest(),
            ),
        )
        wanted = max(3, round(len(names) * max(self.share, 0.12))) - sum(
            name in found for name in names
        )
        found |= set([name for name in names if name not in found][: max(0, wanted)])

    def pairs(self, number: int, own: Sequence[Mapping[str, str]] = ()) -> Iterator[DatasetPair]:
        """So many pairs, those of the test first; `own` are fills of a person's own, which go to
        the training.
        """
        tests = round(number * self.share)
        for split, count in ((TEST, tests), (TRAIN, number - tests)):
            if count:
                yield from self._side(split, count, own if split == TRAIN else ())

    def _side(
        self, split: str, count: int, own: Sequence[Mapping[str, str]]
    ) -> Iterator[DatasetPair]:
        sources = {}
        for name, writer in self.writers.items():
            asker = Asker(self.asking, name, writer.rules, self.workspace.vocabulary.traits, ())
            sources[name] = _Source(
                self.workspace, writer, asker, self.draw, split, self.tests, self.asking.lines
            )
        dice = Random(f"syntagma dataset {self.draw} {split}")
        ways = list(self.asking.ways)
        made, turn, numbers = 0, 0, dict.fromkeys(sources, 0)
        for fills in own:
            if made < count and (
                pair := self._of_own(
                    sources[next(iter(sources))], fills, ways[made % len(ways)], dice, split
                )
            ):
                made += 1
                yield pair
        while made < count and sources:
            name = list(sources)[turn % len(sources)]
            turn += 1
            pair = None
            for _ in range(TRIES):
                numbers[name] += 1
                if pair := self._pair(
                    sources[name],
                    name,
                    numbers[name],
                    ways[made % len(ways)],
                    _MUCH[(made // len(ways)) % len(_MUCH)],
                    dice,
                    split,
                ):
                    break
            if pair is None:
                self.left[f"{name}, {split}"] = (
                    f"no more pairs that differ enough after {numbers[name] - TRIES:,} picks"
                )
                del sources[name]
                continue
            made += 1
            yield pair
        if made < count:
            self.left[split] = f"{made:,} of {count:,} pairs"

    def _pair(
        self, source: _Source, name: str, number: int, way: str, much: str, dice: Random, split: str
    ) -> DatasetPair | None:
        try:
            fills = source.prompt(number)
            if (
                not fills
                or self._is_near(source.writer, fills)
                or self._shares(source, fills, split)
            ):
                return None
            prompt = source.writer.write([fills.get(rule.name) for rule in source.writer.rules])
        except (BadFills, TooLong, Trouble):
            return None
        for more in HOW_MUCH[
            HOW_MUCH.index(much) :
        ]:  # the same question twice has two answers: then more is said
            asked = source.asker.instruction(fills, way, more, dice)
            key = hash((name, frozenset((slot, fills[slot].shown) for slot in asked.slots)))
            words = hash(" ".join(asked.text.lower().split()))
            if key not in self._asked and words not in self._asked:
                self._asked |= {key, words}
                break
        else:
            return None
        self._near.add(_keys(source.writer.rules, fills))
        self._rest[split].add(_rest(source, fills))
        return DatasetPair(
            asked,
            prompt.text,
            prompt.negative,
            name,
            {slot: fill.shown for slot, fill in fills.items()},
            split,
        )

    def _of_own(
        self, source: _Source, given: Mapping[str, str], way: str, dice: Random, split: str
    ) -> DatasetPair | None:
        """A pair out of fills of a person's own, where nothing in them belongs to the test."""
        try:
            filled = source.writer.fills(given)
            prompt = source.writer.write(filled)
        except (BadFills, TooLong):
            return None
        fills = {
            rule.name: fill
            for rule, fill in zip(source.writer.rules, filled, strict=True)
            if fill and rule.name in source.writer.shown
        }
        if any(
            normal(item.tag) in self.tests
            for slot in source.keyed & set(fills)
            for item in fills[slot].items
        ) or self._is_near(source.writer, fills):
            return None
        self._near.add(_keys(source.writer.rules, fills))
        asked = source.asker.instruction(fills, way, "some", dice)
        return DatasetPair(
            asked,
            prompt.text,
            prompt.negative,
            source.writer.formula.name,
            {slot: fill.shown for slot, fill in fills.items()},
            split,
        )

    def _is_near(self, writer: Writer, fills: Mapping[str, Fill]) -> bool:
        """Does it differ in too few choices from one before?"""
        return self._near.any(_keys(writer.rules, fills))

    def _shares(self, source: _Source, fills: Mapping[str, Fill], split: str) -> bool:
        """Has the other side the same combination of what is not kept apart?"""
        return _rest(source, fills) in self._rest[TEST if split == TRAIN else TRAIN]


def is_kept_apart(workspace: Workspace, rule: SlotRule) -> bool:
    """Are the terms of a slot either in training or in the test?"""
    traits = workspace.vocabulary.traits.get(rule.facet)
    return rule.facet in workspace.vocabulary and (
        rule.facet in _PLACES or bool(traits and traits.participant)
    )


def _rest(source: _Source, fills: Mapping[str, Fill]) -> int:
    return (
        hash(
            (
                source.writer.formula.name,
                frozenset(
                    (slot, fill.shown) for slot, fill in fills.items() if slot not in source.keyed
                ),
            )
        )
        if set(fills) - source.keyed
        else 0
    )


def _keys(rules: Sequence[SlotRule], fills: Mapping[str, Fill]) -> Iterator[int]:
    """A prompt's choices with up to two of them left out, each as a number of 64 bits: two prompts
    that share one are near each other.
    """
    choices = sorted(
        f"{rule.facet or rule.name}={fills[rule.name].shown}"
        for rule in rules
        if rule.name in fills and not rule.default
    )
    least = max(1, len(choices) - (2 if len(choices) >= FAR else 1))
    some = (
        one
        for kept in range(least, len(choices) + (len(choices) < 2))
        for one in combinations(choices, kept)
    )  # of two lengths, so a longer one meets a shorter
    return (
        int.from_bytes(hashlib.blake2b("\0".join(one).encode(), digest_size=8).digest())
        for one in some
    )


class _Seen:
    """Numbers that were seen, in a room that does not grow: now and then one is taken for seen that
    was not, and a prompt is picked once more.

    Source: B. H. Bloom, Space/time trade-offs in hash coding with allowable errors (1970); two
    signs a number.
    """

    BITS = 28

    def __init__(self):
        self._signs = bytearray(1 << (self.BITS - 3))

    def add(self, numbers: Iterable[int]) -> None:
        for number in numbers:
            for at in self._places(number):
                self._signs[at >> 3] |= 1 << (at & 7)

    def any(self, numbers: Iterable[int]) -> bool:
        """Was one of them seen?"""
        return any(
            all(self._signs[at >> 3] >> (at & 7) & 1 for at in self._places(number))
            for number in numbers
        )

    def _places(self, number: int) -> tuple[int, int]:
        return number & ((1 << self.BITS) - 1), number >> 32 & ((1 << self.BITS) - 1)


def own_rows(
    workspace: Workspace, table: Table, formula: str, source: str, mine: bool
) -> tuple[list[dict[str, str]], int]:
    """The fills of a table, and how many rows were left out since somebody else filled them in (a
    form's column by). Raises Trouble.
    """
    composer = Composer(workspace, Ask(formula, None), False)
    columns = columns_of(composer, table, source)
    found, left = [], 0
    for _, cells in table[1]:
        if cells.get("by", "").strip() and not mine:
            left += 1
            continue
        fills = {
            slot: cells[column]
            for column, slot in columns.slots.items()
            if cells.get(column, "").strip() and slot in composer.writer.position
        }
        if fills:
            found.append(fills)
    return found, left


# ──── What a data set costs to train on and to use, in tokens and money, beside asking a general
# model with the formula's brief.


MILLION = 1_000_000


class Prices(NamedTuple):
    """Prices for a million tokens: of training, of using what was trained, of a general model; how
    often the set is gone through, and how many prompts are asked for.
    """

    training: float | None = None
    use: float | None = None
    general: float | None = None
    epochs: int = 3
    uses: int = 1000


class Tokens(NamedTuple):
    """Counts so far: pairs, tokens of instructions and of prompts."""

    pairs: int = 0
    asked: int = 0
    answered: int = 0

    def and_one(self, asked: str, answered: str) -> "Tokens":
        return Tokens(
            self.pairs + 1,
            self.asked + estimated_tokens(asked),
            self.answered + estimated_tokens(answered),
        )


def cost_lines(
    workspace: Workspace, formulas: list[str], model: str | None, counted: Tokens, prices: Prices
) -> list[tuple[str, str, str]]:
    """(What, tokens, money) of training once, of so many prompts from the trained model, and by a
    general model with the brief.
    """
    each = (counted.asked + counted.answered) / max(1, counted.pairs)
    page = sum(
        estimated_tokens(brief(workspace, name, model, 7, "", 0, "", Taste((), "usual", 1)))
        for name in formulas
    ) / max(1, len(formulas))
    training = (counted.asked + counted.answered) * prices.epochs
    use, general = each * prices.uses, (each + page) * prices.uses
    return [
        (
            f"training, {prices.epochs} times through",
            f"{training:,.0f}",
            _money(training, prices.training),
        ),
        (f"{prices.uses:,} prompts from the trained model", f"{use:,.0f}", _money(use, prices.use)),
        (
            f"{prices.uses:,} prompts from a general model, with the brief each time",
            f"{general:,.0f}",
            _money(general, prices.general),
        ),
    ]


def pays_after(counted: Tokens, lines: list[tuple[str, str, str]], prices: Prices) -> int | None:
    """After how many prompts training has paid, where all three prices are known; None if it never
    does, or nothing is known.
    """
    if None in (prices.training, prices.use, prices.general):
        return None
    training, use, general = (float(line[2]) for line in lines)
    saved = (general - use) / prices.uses
    return -int(-training // saved) if saved > 0 else None


def _money(tokens: float, price: float | None) -> str:
    return "" if price is None else f"{tokens * price / MILLION:.2f}"
