"""The tree of a formula: small frozen nodes, each with its span and with the exact text that it was
read from.
"""

from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import NamedTuple

from syntagma.core.diagnostics import Span
from syntagma.core.notation.late_regex import regex

ARTICLES = ("a", "an", "the")
FORMS = ("place", "clause", "plural", "short")
NOT_SLOTS = (*ARTICLES, "as")
MEDIA_WORDS = ("", "image", "video", "both")
_NUMBERED = regex(r"^[^.]*?(\d+)(?:\.|$)")
CONTENT = "content"  # the label that, alone on its line, makes a formula a look


class FixedText(NamedTuple):
    """Glue: `raw` as it is in the file, escapes and all."""

    raw: str
    span: Span


class Word(NamedTuple):
    """One part of a noun group. `kind`: article, slot, quote, as, form or space; `value`: what it
    says.
    """

    kind: str
    raw: str
    value: str
    span: Span


class Group(NamedTuple):
    """A noun group in brackets. The last slot is its head."""

    words: tuple[Word, ...]
    span: Span

    def of(self, kind: str) -> tuple[str, ...]:
        """The values of its words of one kind."""
        return tuple(word.value for word in self.words if word.kind == kind)

    @property
    def slots(self) -> tuple[str, ...]:
        return self.of("slot")

    @property
    def head(self) -> str:
        return self.slots[-1]

    @property
    def article(self) -> str:
        """ "a", "the" or ""."""
        return (self.of("article") or ("",))[0]

    @property
    def form(self) -> str:
        """ "place", "clause", "plural", "short" or ""."""
        return (self.of("form") or ("",))[0]


class Option(NamedTuple):
    """What is in braces: it goes when a slot inside it is blank."""

    children: tuple["FixedText | Group", ...]
    span: Span


Node = FixedText | Group | Option


class Phrase(NamedTuple):
    """One line with a label, or one part of a formula given on one line.

    The parts of the line, written one after the other, are the line: `indent`, `label_raw` (label
    and mark), `gap`, `join_raw` ("~" or nothing), the body, `tail` (spaces at its end) and
    `ending`.
    """

    label: str
    mark: str
    body: tuple[Node, ...]
    span: Span
    indent: str = ""
    label_raw: str = ""
    gap: str = ""
    join_raw: str = ""
    tail: str = ""
    ending: str = ""

    @property
    def negative(self) -> bool:
        return self.label == "-"

    @property
    def joined(self) -> bool:
        """Does the line follow the one before with a space instead of a comma?"""
        return bool(self.join_raw)

    @property
    def holds_content(self) -> bool:
        """Is it the line of a look where the other formula's phrases go?"""
        return self.label == CONTENT and not self.body and not self.mark

    def groups(self) -> Iterator[Group]:
        """Every noun group of the phrase, those in braces too, in order."""
        for node in self.body:
            yield from (
                n
                for n in (node.children if isinstance(node, Option) else (node,))
                if isinstance(n, Group)
            )

    @property
    def slots(self) -> tuple[str, ...]:
        """The names of its slots in order, each once."""
        return tuple(dict.fromkeys(name for group in self.groups() for name in group.slots))


class Aside(NamedTuple):
    """A line that writes nothing: blank, a comment, or one that could not be read."""

    raw: str
    span: Span


class SlotRule(NamedTuple):
    """What a slot takes. `facet` is "" for a free slot; `only` the tags that a pick keeps to,
    `never` those that it passes over; `take` the least and the most that it may choose.
    """

    name: str
    facet: str
    declared: bool = False
    need: bool = False
    default: tuple[str, ...] = ()
    take: tuple[int, int] = (1, 1)
    number: bool = False
    only: tuple[str, ...] = ()
    never: tuple[str, ...] = ()
    about: str = ""
    skip: int = 0  # how many terms a pick draws and lays aside before it takes one
    world: str = ""  # what the words round the slot take for granted, if it is filled
    ask: str = ""  # what a form asks of somebody who fills it in
    tag: str = ""  # the noun that completes a bare term in tags: "oiled oak surface"


class Condition(NamedTuple):
    """When a phrase applies: where `slot` is filled with one of `words` (terms, or #tags), or with
    `negated` with none of them.
    """

    slot: str
    words: tuple[str, ...]
    negated: bool = False


class Head(NamedTuple):
    """The TOML between two lines of +++, as text and as values. `settles` are the facets whose
    slots picks leave blank, since a look's own words have settled them; `forward` the labels of
    phrases that read as well further to the front; `stress` weights by slot or label; `references`
    each as role=value; `worlds` what the fixed words of the formula ("") and of its looks (by name)
    take for granted; `only_if` when a phrase (by label) stands.
    """

    raw: str = ""
    about: str = ""
    when: str = ""
    media: str = ""
    slots: Mapping[str, SlotRule] = MappingProxyType({})
    parameters: Mapping[str, object] = MappingProxyType({})
    example: Mapping[str, str | tuple[str, ...]] = MappingProxyType({})
    settles: tuple[str, ...] = ()
    forward: tuple[str, ...] = ()
    stress: Mapping[str, float] = MappingProxyType({})
    references: tuple[str, ...] = ()
    worlds: tuple[tuple[str, str], ...] = ()
    only_if: Mapping[str, Condition] = MappingProxyType({})


class Formula(NamedTuple):
    """A whole formula: its head, and its lines in order. `looks` are the names of those put round
    it, inmost first.
    """

    name: str
    head: Head
    lines: tuple[Phrase | Aside, ...]
    source: str = ""
    text: str = ""
    start: str = ""  # a byte order mark, where the file has one
    looks: tuple[str, ...] = ()

    @property
    def phrases(self) -> tuple[Phrase, ...]:
        """The phrases that make the text, without the negative ones."""
        return tuple(
            x
            for x in self.lines
            if isinstance(x, Phrase) and not x.negative and not x.holds_content
        )

    @property
    def negatives(self) -> tuple[Phrase, ...]:
        return tuple(line for line in self.lines if isinstance(line, Phrase) and line.negative)

    @property
    def is_look(self) -> bool:
        """Does it hold a place for another formula's phrases?"""
        return any(isinstance(line, Phrase) and line.holds_content for line in self.lines)

    @property
    def slots(self) -> tuple[SlotRule, ...]:
        """The rules of the slots, in the order in which the slots appear."""
        names = dict.fromkeys(name for p in (*self.phrases, *self.negatives) for name in p.slots)
        return tuple(self.head.slots.get(n) or SlotRule(n, n, number=n == "count") for n in names)


def part_of(label: str) -> int | None:
    """The number of the part that a phrase belongs to, by its label."""
    match = _NUMBERED.match(label)
    return int(match[1]) if match else None
