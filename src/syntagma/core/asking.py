"""Instructions as people give them: the choices of a prompt said in passing, in one of many
manners, more or less of them, now and then with a slip of typing.
"""

import re
from collections.abc import Mapping, Sequence
from random import Random
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.fills import Fill, Item
from syntagma.core.formula.tree import SlotRule
from syntagma.core.notation.toml import read_toml
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.facets import Traits

SLIPS = 0.1  # the share of instructions with a slip of typing
SYNONYM = 0.25  # how often a choice is called by another name of its own
HOW_MUCH = ("none", "one", "some", "all")  # details that are said
NOUNS = facets.FacetGroup("called-by-nouns")  # whose other names are nouns that take an article too
SMALL = 0.12  # the share that is typed without capitals


class Asking(NamedTuple):
    """The knowledge of asking.toml."""

    ways: Mapping[str, Sequence[str]]
    purposes: Sequence[str]
    lines: Mapping[str, Sequence[str]]
    formulas: Mapping[str, Sequence[str]]
    main: Mapping[str, str]
    facets: Mapping[str, Sequence[str]]
    slots: Mapping[str, Mapping[str, Sequence[str]]]


class Instruction(NamedTuple):
    """What somebody asks: its text, its manner, how much is said (none, one, some, all of the
    details), and which slots it names.
    """

    text: str
    way: str
    much: str
    slots: tuple[str, ...]


def read_asking(text: str) -> Asking:
    """Read asking.toml."""
    values = read_toml(text)
    return Asking(
        values["ways"],
        values["purposes"]["any"],
        values["lines"],
        values["formulas"],
        values["main"],
        values["facets"],
        values["slots"],
    )


class Asker:
    """Makes instructions for the prompts of one formula. `called` are names for the kind of picture
    where asking.toml has none.
    """

    def __init__(
        self,
        asking: Asking,
        formula: str,
        rules: Sequence[SlotRule],
        traits: Mapping[str, Traits],
        called: Sequence[str] = (),
    ):
        self.asking, self.formula = asking, formula
        self.rules = {rule.name: rule for rule in rules}
        self.traits = traits
        self.called = asking.formulas.get(formula) or called or [formula.replace("-", " ")]

    def main(self, fills: Mapping[str, Fill]) -> str:
        """The slot that says what the picture is of: who or what is in it, else the first that is
        needed, else the first that is filled.
        """
        filled = [name for name in self.rules if name in fills and self.rules[name].facet]
        wanted = [
            lambda name: self._of(name).participant and self.rules[name].need,
            lambda name: self._of(name).participant,
            lambda name: self.rules[name].need,
            lambda name: True,
        ]
        return next(name for asks in wanted for name in filled if asks(name))

    def _of(self, slot: str) -> Traits:
        return self.traits.get(self.rules[slot].facet, Traits())

    def instruction(
        self, fills: Mapping[str, Fill], way: str, much: str, dice: Random
    ) -> Instruction:
        """An instruction for the prompt of these fills: in a manner (a key of `ways`), with so much
        of its details.
        """
        main = self.main(fills)
        slots = [
            name
            for name in self.rules
            if name in fills and name != main and (self.rules[name].facet or self._pattern(name))
        ]
        slots.sort(
            key=lambda name: self.rules[name].facet != "action"
        )  # what somebody does is said first
        said = self._said(slots, much, dice)
        parts = {name: self._words(name, fills[name], dice) for name in said}
        what = dice.choice(list(self.called))
        subject = self._subject(main, fills[main], dice)
        list_of = [
            self._plain(main, fills[main], dice),
            *(self._plain(name, fills[name], dice) for name in said),
        ]
        known = {
            "what": f"{english.article(what)} {what}",
            "bare": what,
            "subject": subject,
            "details": self._joined(said, parts),
            "list": ", ".join(list_of),
            "purpose": dice.choice(list(self.asking.purposes)),
            "sentences": " ".join(f"{_big(parts[name])}." for name in said),
            "lines": "\n".join(_big(parts[name]) for name in said),
        }
        pattern = dice.choice(
            [one for one in self.asking.ways[way] if said or "{sentences}" not in one]
        )
        text = re.sub(
            r"\{(\w+)\}",
            lambda m: _big(known[m[1].lower()]) if m[1][0].isupper() else known[m[1]],
            pattern,
        )
        text = re.sub(
            r"([.!?])\.(?=\s|$)", r"\1", re.sub(r"([.!?]\")\.(?=\s|$)", r"\1", text)
        ).strip()
        if (way in ("casual", "list") and dice.random() < 0.5) or dice.random() < SMALL:
            text = _small(text)
        if dice.random() < SLIPS:
            text = slipped(text, dice)
        return Instruction(text, way, much, (main, *said))

    @staticmethod
    def _said(slots: Sequence[str], much: str, dice: Random) -> list[str]:
        """The slots whose choices are said, in their order."""
        number = {"none": 0, "one": 1, "some": max(2, round(len(slots) * 0.5)), "all": len(slots)}[
            much
        ]
        chosen = set(dice.sample(list(slots), min(number, len(slots))))
        return [name for name in slots if name in chosen]

    def _pattern(self, slot: str) -> Sequence[str]:
        own = self.asking.slots.get(self.formula, {})
        return (
            own.get(slot)
            or self.asking.facets.get(self.rules[slot].facet, ())
            or (["{term}"] if self.rules[slot].facet else [])
        )

    def _words(self, slot: str, fill: Fill, dice: Random) -> str:
        """A choice as it is said in passing."""
        pattern = dice.choice(list(self._pattern(slot)))
        return re.sub(r"\{(\w+)\}", lambda m: self._form(m[1], fill, dice), pattern)

    def _form(self, form: str, fill: Fill, dice: Random) -> str:
        parts = []
        for item in fill.items:
            words = (
                _called(item, dice)
                if form != "a" or (item.term and item.term.facet in NOUNS)
                else item.words
            )
            if form == "a":
                parts.append(_with_article(words, item))
            elif form == "place":
                parts.append(
                    item.place
                    or (
                        words
                        if english.starts_with_preposition(words)
                        else f"in {_with_article(words, item)}"
                    )
                )
            elif form == "clause":
                parts.append(item.clause or words)
            else:
                parts.append(words)
        return "".join(join + part for join, part in zip(english.listed(parts), parts, strict=True))

    def _subject(self, slot: str, fill: Fill, dice: Random) -> str:
        pattern = self.asking.main.get(self.rules[slot].facet, "{a}")
        return re.sub(r"\{(\w+)\}", lambda m: self._form(m[1], fill, dice), pattern)

    def _plain(self, slot: str, fill: Fill, dice: Random) -> str:
        """A choice as a list has it: bare."""
        if not self.rules[slot].facet:
            return f'"{fill.shown}"'
        return ", ".join(_called(item, dice) for item in fill.items)

    def _joined(self, slots: Sequence[str], parts: Mapping[str, str]) -> str:
        """The details after the main thing: a deed follows with a space, all else with a comma."""
        out = ""
        for i, slot in enumerate(slots):
            out += (
                " "
                if i == 0
                and self.rules[slot].facet == "action"
                and parts[slot].split()[0].endswith("ing")
                else ", "
            ) + parts[slot]
        return out


def _called(item: Item, dice: Random) -> str:
    """The words for a thing: its own, or now and then another name that people have for it."""
    if item.term and item.term.aka and dice.random() < SYNONYM:
        return dice.choice(item.term.aka)
    return item.words


def _with_article(words: str, item: Item) -> str:
    determiner, _ = english.split_determiner(words)
    if determiner:
        return words
    number = (
        item.number
        if words == item.words and english.countability(words) != "many"
        else english.countability(words)
    )
    return f"{english.article(words)} {words}" if number == "one" else words


def _big(text: str) -> str:
    return english.capitalised(text)


def _small(text: str) -> str:
    """Typed without capitals, but for words with several and what is spoken."""
    if '"' in text:
        return text
    return " ".join(
        word.lower() if not re.search(r"[A-Z].*[A-Z]|^[B-HJ-Z]\W*$", word) else word
        for word in text.split(" ")
    ).rstrip(".")


def slipped(text: str, dice: Random) -> str:
    """One slip of typing in a longer word: two letters the wrong way round, one left out, one
    twice. Names and what is spoken stay.
    """
    words = [m for m in re.finditer(r"(?<![\w\"])[a-z]{5,}(?![\w\"])", text)]
    if not words:
        return text
    word = dice.choice(words)
    at = word.start() + dice.randrange(1, len(word[0]) - 2)
    a, b = text[at], text[at + 1]
    kind = dice.randrange(3)
    return (
        text[:at]
        + (b + a if kind == 0 and a != b else b if kind == 1 else a + a + b)
        + text[at + 2 :]
    )
