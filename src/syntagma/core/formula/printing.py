"""Tree to text: the same file again, byte for byte."""

from syntagma.core.formula.tree import Aside, FixedText, Formula, Group, Node, Option, Phrase


def write_formula(formula: Formula) -> str:
    """The text of `formula`, exactly as it was read."""
    return formula.start + formula.head.raw + "".join(_line(line) for line in formula.lines)


def write_body(phrase: Phrase) -> str:
    """The words of one phrase, without its label."""
    return "".join(_node(node) for node in phrase.body)


def _line(line: Phrase | Aside) -> str:
    if isinstance(line, Aside):
        return line.raw
    return line.indent + line.label_raw + line.gap + line.join_raw + write_body(line) + line.tail + line.ending


def _node(node: Node) -> str:
    match node:
        case FixedText():
            return node.raw
        case Group():
            return f"[{''.join(word.raw for word in node.words)}]"
        case Option():
            return "{" + "".join(_node(child) for child in node.children) + "}"
