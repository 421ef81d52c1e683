"""Edits on a text: each puts other words, or none, in the place of a stretch; everything else stays
as it is.
"""

import re
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex

_QUOTED = regex(
    r"\"[^\"\n]*\"|“[^”\n]*”|(?<![\w’'])'(?=\S)[^\n]{1,300}?(?<=\S)'(?![\w’'])|(?<![\w’'])‘[^‘’\n]{1,300}(?:’\w[^‘’\n]{0,300}){0,8}’(?!\w)"
)
SEAM, _SEAMS = (
    "\0",
    regex(r"(?<![\s,;.!?…\0])[\s,;.!?…]*+\0[\s,;.!?…\0]*"),
)  # marks if something was removed
_CLOSING = {"(": ")", "[": "]", "{": "}"}


class Edit(NamedTuple):
    """A stretch of a text and what comes in its place; `why` says what for."""

    start: int
    stop: int
    new: str = ""
    why: str = ""


def edited(text: str, edits: Iterable[Edit]) -> str:
    """The text with its edits. Raises ValueError if two touch the same character."""
    found = sorted(edits)
    if any(one.stop > other.start for one, other in pairwise(found)):
        raise ValueError("two edits change the same words")
    out, at = [], 0
    for one in found:
        out += [text[at : one.start], one.new]
        at = one.stop
    return "".join([*out, text[at:]])


def sewn(text: str) -> str:
    """The text with one mark at each seam: what ends the sentence before it, else what ends the
    sentence after it, else the comma or semicolon.
    """

    def mark(match: re.Match) -> str:
        before, after = match[0].split(SEAM)[0], match[0].split(SEAM)[-1]
        if not match.start():
            return ""
        if match.end() == len(text):
            return (re.search(r"[.!?…]+", match[0]) or [""])[0]
        for marks in (before, after):
            if found := re.search(r"[.!?…]+", marks):
                return found[0] + " "
        return "; " if ";" in after else ", "

    return _SEAMS.sub(mark, text)


def quotations(text: str) -> list[tuple[int, int]]:
    """Where quotations stand, with their marks; an apostrophe is none."""
    return [match.span() for match in _QUOTED.finditer(text)]


def within(spans: Sequence[tuple[int, int]], at: int) -> bool:
    """Is a place inside one of some stretches?"""
    return any(start <= at < stop for start, stop in spans)


class TextItem(NamedTuple):
    """A stretch of a text between commas, semicolons or the ends of sentences, without the mark
    that ends it; `mark` is that mark.
    """

    start: int
    stop: int
    text: str
    mark: str


def items(text: str) -> list[TextItem]:
    """The items of a text: nothing within quotation marks or brackets is parted, nor a number
    (1,000) or an abbreviation.
    """
    quoted = quotations(text)
    found, start, depth = [], 0, []
    at = 0
    while at < len(text):
        sign = text[at]
        if quote := next((span for span in quoted if span[0] == at), None):
            at = quote[1]
            continue
        if sign in _CLOSING:
            depth.append(_CLOSING[sign])
        elif depth and sign == depth[-1]:
            depth.pop()
        after = text[at + 1 : at + 2]
        ends = (
            sign in ".!?…"
            and (not after or after.isspace() or after in '"”’)')
            and not _abbreviated(text, at)
        )
        if not depth and (
            (
                sign in ",;\n"
                and not (sign == "," and after.isdigit() and text[at - 1 : at].isdigit())
            )
            or ends
        ):
            stop = at
            while at + 1 < len(text) and text[at + 1] in ".!?…":
                at += 1
            _add(found, text, start, stop, text[stop : at + 1])
            start = at + 1
        at += 1
    _add(found, text, start, len(text), "")
    return found


def _add(found: list[TextItem], text: str, start: int, stop: int, mark: str) -> None:
    words = text[start:stop]
    if words.strip():
        lead = len(words) - len(words.lstrip())
        found.append(TextItem(start + lead, start + lead + len(words.strip()), words.strip(), mark))


def _abbreviated(text: str, at: int) -> bool:
    """Does a full stop belong to a word or a number: f/1.4, Mr., e.g.?"""
    before = text[:at].rpartition(" ")[2].lower()
    return text[at] == "." and (
        before in ("mr", "mrs", "ms", "dr", "st", "e.g", "i.e", "vs", "no", "approx")
        or text[at + 1 : at + 2].isdigit()
    )
