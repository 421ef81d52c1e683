"""Formulas made by a program, and printed as a person would write them."""

import re
from collections.abc import Iterable, Mapping

from syntagma.core.diagnostics import Span
from syntagma.core.formula.phrase_body import BodyReader
from syntagma.core.formula.tree import (
    Aside,
    FixedText,
    Formula,
    Group,
    Head,
    Node,
    Option,
    Phrase,
    SlotRule,
    Word,
)

# ──── Formulas built as trees, by a program: fixed words, noun groups, phrases, and the whole with
# its text.


NOWHERE = Span(0, 0)  # what was built is in no file


def escaped(words: str) -> str:
    """Words as a formula's fixed text: the signs of the notation made plain."""
    return re.sub(r"([\\\[\]{}])", r"\\\1", words)


def fixed(words: str) -> FixedText:
    """Fixed words, as they read."""
    return FixedText(escaped(words), NOWHERE)


def nodes(body: str) -> tuple[Node, ...]:
    """The nodes of a body in the formula's notation: lit by [a light]."""
    return BodyReader("", body).read(0, len(body))


def group(slot: str, article: str = "", form: str = "") -> Group:
    """A noun group of one slot: [a SLOT as FORM]."""
    words = [("article", article), ("space", " "), ("slot", slot)] if article else [("slot", slot)]
    words += [("space", " "), ("as", "as"), ("space", " "), ("form", form)] if form else []
    return Group(
        tuple(
            Word(kind, raw, raw.lower() if kind == "article" else raw, NOWHERE)
            for kind, raw in words
        ),
        NOWHERE,
    )


def phrase(label: str, body: Iterable[Node], mark: str = "", joined: bool = False) -> Phrase:
    """A line with a label; blank fixed words are left out."""
    kept = tuple(node for node in body if not isinstance(node, FixedText) or node.raw)
    return Phrase(
        label, mark, kept, NOWHERE, "", label + mark, "  ", "~" if joined else "", "", "\n"
    )


def formula(
    name: str,
    phrases: Iterable[Phrase],
    slots: Mapping[str, SlotRule] = {},
    stress: Mapping[str, float] = {},
) -> Formula:
    """A formula of these phrases, with its text."""
    made = Formula(name, Head(slots=dict(slots), stress=dict(stress)), tuple(phrases))
    return made._replace(text=write_formula(made))


# ──── Tree to text: the same file again, byte for byte.


def write_formula(formula: Formula) -> str:
    """The text of `formula`, exactly as it was read."""
    return formula.start + formula.head.raw + "".join(_line(line) for line in formula.lines)


def write_body(phrase: Phrase) -> str:
    """The words of one phrase, without its label."""
    return "".join(_node(node) for node in phrase.body)


def _line(line: Phrase | Aside) -> str:
    if isinstance(line, Aside):
        return line.raw
    return (
        line.indent
        + line.label_raw
        + line.gap
        + line.join_raw
        + write_body(line)
        + line.tail
        + line.ending
    )


def _node(node: Node) -> str:
    match node:
        case FixedText():
            return node.raw
        case Group():
            return f"[{''.join(word.raw for word in node.words)}]"
        case Option():
            return "{" + "".join(_node(child) for child in node.children) + "}"
