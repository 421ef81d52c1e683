"""A formula given on one line: its phrases are what stands between commas and stops."""

import re

from syntagma.core.diagnostics.places import Refused, Span
from syntagma.core.english import ends_sentence
from syntagma.core.formula.phrase_body import BodyReader
from syntagma.core.formula.tree import Formula, Head, Phrase

_OPEN, _CLOSE = "[{(“«", "]})”»"


def is_oneline(text: str) -> bool:
    """Is `text`, given where a formula's name is expected, a formula itself?"""
    return "[" in text


def read_oneline(text: str) -> Formula:
    """Read a formula given on one line; its name is the line. Raises Refused with all its mistakes."""
    reader = BodyReader("the formula", text)
    phrases: list[Phrase] = []
    labels: dict[str, int] = {}
    for start, stop, ending in _parts(text):
        begun = start + len(text[start:stop]) - len(text[start:stop].lstrip())
        join_raw = re.match(r"(~[ \t]*)?", text[begun:stop]).group()
        body_at = begun + len(join_raw)
        end = max(body_at, start + len(text[start:stop].rstrip()))
        body = reader.read(body_at, end)
        phrase = Phrase(
            "", "", body, Span(begun, end), gap=text[start:begun], join_raw=join_raw, tail=text[end:stop], ending=ending
        )
        label = phrase.slots[0] if phrase.slots else "part"
        labels[label] = labels.get(label, 0) + 1
        label += f"-{labels[label]}" if labels[label] > 1 else ""
        phrases.append(Phrase(label, "", body, phrase.span, "", "", phrase.gap, join_raw, phrase.tail, ending))
    if not any(p.body for p in phrases):
        reader.wrong(0, len(text), "it has no phrases", 'write one: "[a medium] of [a vessel], [light]"')
    if reader.mistakes:
        raise Refused(reader.mistakes)
    return Formula(text, Head(), tuple(p for p in phrases if p.body or p.ending or p.gap), "the formula", text)


def _parts(text: str) -> list[tuple[int, int, str]]:
    """(start, stop, ending) of each phrase: the comma is the ending; a stop stays with its phrase."""
    parts: list[tuple[int, int, str]] = []
    depth, quoted, begun, at = 0, False, 0, 0
    while at < len(text):
        char = text[at]
        if char == "\\":
            at += 1
        elif char == '"':
            quoted = not quoted
        elif char in _OPEN:
            depth += 1
        elif char in _CLOSE:
            depth = max(0, depth - 1)
        elif depth == 0 and not quoted:
            follows = text[at + 1 : at + 2]
            if char == "," and not follows.isdigit():
                parts.append((begun, at, ","))
                begun = at + 1
            elif char in ".!?;" and not follows.strip() and (char == ";" or ends_sentence(text[begun : at + 1])):
                parts.append((begun, at + 1, ""))
                begun = at + 1
        at += 1
    if begun < len(text):
        parts.append((begun, len(text), ""))
    return parts
