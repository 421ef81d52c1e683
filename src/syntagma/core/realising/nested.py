"""Nested values: phrases by label in a JSON object (RFC 8259), dots nesting, lists as arrays."""

import json
from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from syntagma.core.drafting.draft import DraftPhrase, Glue, Noun, PairMark, PhrasePlan
from syntagma.core.models.profile import Profile
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.noun_phrases import in_prose, in_tags
from syntagma.core.realising.prose import prose_pieces
from syntagma.core.realising.text_pieces import TextPiece, Whole, joined

OWN = "text"  # the key of what a label says by itself, where labels nest below it

Leaf = tuple[TextPiece, ...]
Tree = "Leaf | list | dict"


class NestedLine(NamedTuple):
    """A phrase as a value: text, a list, or a table by slot. `text` is what it says, for checks of
    the words.
    """

    text: str
    value: object

    __eq__, __hash__ = object.__eq__, object.__hash__  # caches go by identity


class Nested:
    """The register in which a prompt is one JSON object."""

    plain_seams = sums_hold = False

    def __init__(self, profile: Profile, style: HouseStyle):
        self.rule = profile.nested
        self.style = style

    def line(self, phrase: DraftPhrase) -> NestedLine | None:
        """A phrase as a value; None if it is glue only that leads to another line."""
        plan = phrase.plan
        if plan.hanging:
            return None
        prose = self._leaf(prose_pieces(phrase), plan.label)
        nouns = [part for part in phrase.parts if isinstance(part, Noun)]
        if not nouns or phrase.whole or self.rule.values == "prose":
            return NestedLine(joined(prose), prose)
        quoted = _quoted(phrase)
        values = {noun.group.head: self._value(noun, noun in quoted, plan.label) for noun in nouns}
        return NestedLine(
            joined(prose), next(iter(values.values())) if len(values) == 1 else values
        )

    def _value(self, noun: Noun, spoken: bool, label: str) -> object:
        if spoken:
            return self._leaf(in_prose(noun), label)
        leaves = [self._leaf(tag, label, whole=True) for tag in in_tags(noun)]
        return leaves[0] if len(leaves) == 1 else leaves

    def _leaf(self, pieces: Sequence[TextPiece], label: str, whole: bool = False) -> Leaf:
        return tuple(p._replace(label=label) for p in self.style.pieces(pieces, label, whole))

    def write(self, lines: Sequence[NestedLine | None], plans: Sequence[PhrasePlan]) -> "Object":
        """The lines that survive as one object."""
        tree: dict = {}
        for line, plan in zip(lines, plans, strict=True):
            if line is not None and line.text:
                _hang(tree, self.rule.names.get(plan.label, plan.label).split("."), line.value)
        return Object(tree, self.rule.indent)


def _quoted(phrase: DraftPhrase) -> list[Noun]:
    """The nouns that are in quotation marks."""
    inside, found = False, []
    for part in phrase.parts:
        if isinstance(part, PairMark) and part.text not in "()":
            inside = part.opening
        elif inside and not isinstance(part, Glue | PairMark):
            found.append(part)
    return found


def _hang(tree: dict, path: Sequence[str], value: object) -> None:
    value = _copied(value)  # the tree is one prompt's, and lines serve many
    *above, last = path
    for step in above:
        below = tree.get(step)
        if not isinstance(below, dict):
            below = tree[step] = {} if below is None else {OWN: below}
        tree = below
    there = tree.get(last)
    if there is None:
        tree[last] = value
    elif isinstance(there, dict):
        there[OWN] = value if OWN not in there else _both(there[OWN], value)
    else:
        tree[last] = _both(there, value)


def _copied(value: object) -> object:
    return {key: _copied(one) for key, one in value.items()} if isinstance(value, dict) else value


def _both(one: object, other: object) -> list:
    return [
        *(one if isinstance(one, list) else [one]),
        *(other if isinstance(other, list) else [other]),
    ]


class Object(Whole):
    """The object as text."""

    def __init__(self, tree: dict, indent: int):
        super().__init__([list(_pieces(tree, indent, 0))])


def _pieces(value: Any, indent: int, depth: int) -> Iterator[TextPiece]:
    """A tree as JSON, in pieces."""
    gap = "\n" + " " * indent * (depth + 1) if indent else ""
    end = "\n" + " " * indent * depth if indent else ""
    between = "," if indent else ", "
    if isinstance(value, dict):
        yield TextPiece("{")
        for i, (key, one) in enumerate(value.items()):
            yield TextPiece((between if i else "") + gap + _string(key) + ": ")
            yield from _pieces(one, indent, depth + 1)
        yield TextPiece(end + "}")
    elif isinstance(value, list):
        yield TextPiece("[")
        for i, one in enumerate(value):
            yield TextPiece((between if i else "") + gap)
            yield from _pieces(one, indent, depth + 1)
        yield TextPiece(end + "]")
    else:
        yield TextPiece('"')
        yield from (p._replace(text=_string(p.text)[1:-1]) for p in value)
        yield TextPiece('"')


def _string(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)
