"""What stays when a prompt is made shorter: the frame of nested values and timed segments, and the fields in it.

Prose, tags and labelled lines are one field without a frame.
"""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.outer_form import NESTED, TIMED, outside, segments
from syntagma.core.reading.prompt_pieces import Reading

_GONE = "\0"
_VALUE = r'"(?:[^"\\]|\\.)*"\s*:\s*'
# A member whose value has gone, with the comma that belongs to it.
_MEMBERS = (
    regex(rf',\s*(?:{_VALUE})?"{_GONE}"'),
    regex(rf'(?:{_VALUE})?"{_GONE}"\s*,\s*'),
    regex(rf'(?:{_VALUE})?"{_GONE}"'),
)
_EMPTY = regex(r"(?<!^)(?:\{\s*\}|\[\s*\])")


class FrameField(NamedTuple):
    """A stretch of a prompt that is shortened by itself: where it begins, the number of its first piece, and what was read of it."""

    start: int
    first: int
    reading: Reading


class Frame(NamedTuple):
    """A prompt as fields with text between them that stays."""

    text: str
    form: str
    fields: list[FrameField]

    def written(self, texts: Sequence[str]) -> str:
        """The prompt with other texts in its fields; a nested value that is blank goes with its key."""
        out, at = "", 0
        for field, text in zip(self.fields, texts, strict=True):
            gone = _GONE if self.form == NESTED and not text.strip() else text
            out += self.text[at : field.start] + gone
            at = field.start + len(field.reading.text)
        out += self.text[at:]
        return _pruned(out) if self.form == NESTED else out


def framed(reading: Reading) -> Frame:
    """The fields of a reading that hold something which can go."""
    text = reading.text
    if reading.form == NESTED:
        spans = [(r.start, r.stop) for r in outside(text).regions if r.kind == "text"]
    elif reading.form == TIMED:
        spans = segments(text)
    else:
        return Frame(text, reading.form, [FrameField(0, 0, reading)])
    fields = []
    for start, stop in spans:
        inside = [(i, p) for i, p in enumerate(reading.pieces) if p.start < stop and p.stop > start]
        pieces = []
        for _, piece in inside:
            a, b = max(piece.start, start), min(piece.stop, stop)
            pieces.append(piece._replace(start=a - start, stop=b - start, text=text[a:b]))
        if any(p.kind == "part" for p in pieces):
            fields.append(FrameField(start, inside[0][0], Reading(text[start:stop], "prose", tuple(pieces))))
    return Frame(text, reading.form, fields)


def _pruned(text: str) -> str:
    """JSON without the members whose value has gone, and without what that leaves empty, level by level."""
    while _GONE in text:
        for pattern in _MEMBERS:
            text = pattern.sub("", text)
        text = _EMPTY.sub(f'"{_GONE}"', text)
    return text
