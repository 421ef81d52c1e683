"""Finished text into a model's limits, with no formula to say what matters: what is in front is kept, thoughts go from the
end, then words; what comes after the text as parameters stays."""

import re
from bisect import bisect_left
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.surroundings import Around
from syntagma.core.fitting.limits import TooLong
from syntagma.core.fitting.shorter_forms import may_end
from syntagma.core.models.parameters import found_in
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.realising.request import text_in_request

_THOUGHT = regex(r"[^\n]*?(?:[,;.!?]+[\"”’)\]]*(?=\s|$)|\n|$)")


class Bit(NamedTuple):
    """A stretch of the text, and whether it is lost."""

    text: str
    lost: bool


class PlainFit(NamedTuple):
    """Text that was made to fit: what is left, and the whole in bits that are kept or lost."""

    text: str
    bits: tuple[Bit, ...]
    used: int

    @property
    def lost(self) -> list[str]:
        """What was lost, each in its words."""
        return [words for bit in self.bits if bit.lost and (words := bit.text.strip(" ,;.\n"))]


def thoughts(text: str) -> list[str]:
    """A text cut behind its commas, stops and line ends; joined they are the text."""
    return [match.group() for match in _THOUGHT.finditer(text) if match.group()] or [text]


def fit_text(text: str, profile: Profile) -> PlainFit:
    """The best of a text that fits a profile's limits of the text, of all the pasted text and of the request. Raises TooLong if not even the
    first words fit."""
    found = found_in(profile, text)
    tail = text[found[0].start :] if found and _ends(text, found) else ""
    body = text[: len(text) - len(tail)]
    gap = body[len(body.rstrip()) :]
    body = body.rstrip()
    limits = [(limit, "" if name == "text" else gap + tail) for name in ("text", "whole") if (limit := profile.limit(name))]
    sent, request = text_in_request(profile, Around(), "", gap + tail), profile.limit("request")

    def fits(one: str) -> bool:
        return all(limit.count(one + after) <= limit.room for limit, after in limits) and (
            not request or request.count(sent(one)) <= request.room
        )

    if fits(body):
        return PlainFit(text, (Bit(text, False),), _used(limits, body))
    kept: list[tuple[str, str]] = []  # (what is kept of a thought, what is lost of it)
    full = 0  # thoughts since the last one of which anything was kept
    for thought in thoughts(body):
        before = [k for k, _ in kept if k]
        if full > MISSES:
            kept.append(("", thought))
        elif fits(_joined([*before, thought])):
            kept.append((thought, ""))
            full = 0
        else:
            part = _part(thought, lambda p, before=before: fits(_joined([*before, p])))
            kept.append((part, thought[len(part) :]))
            full = 0 if part else full + 1
    left = _joined([k for k, _ in kept])
    if not left.strip():
        if not limits:
            raise TooLong("the first thought", request.count(sent(thoughts(body)[0])), request)
        limit, after = next((one for one in limits if one[0].count(thoughts(body)[0] + one[1]) > one[0].room), limits[0])
        raise TooLong("the first thought", limit.count(thoughts(body)[0] + after), limit)
    bits = [Bit(part, bool(lost)) for k, gone in kept for part, lost in ((k, False), (gone, True)) if part]
    return PlainFit(left + gap + tail, (*bits, *([Bit(gap + tail, False)] if tail else [])), _used(limits, left))


def _ends(text: str, found: Sequence) -> bool:
    """Do the parameters stand at the end, with nothing but them after the first?"""
    at = found[0].start
    for one in found:
        if text[at : one.start].strip():
            return False
        at = one.stop
    return not text[at:].strip()


def _used(limits: Sequence, text: str) -> int:
    return limits[0][0].count(text) if limits else len(text)


MISSES = 40  # thoughts without any room, behind which nothing more is tried


def _part(thought: str, fits) -> str:
    """The first words of a thought, as many as fit, to where it may end; "" if none."""
    lead = thought[: len(thought) - len(thought.lstrip())]
    words, ends = thought.split(), [match.end() for match in re.finditer(r"\S+", thought.lstrip())]

    def first(number: int) -> str:
        return lead + thought.lstrip()[: ends[number - 1]].rstrip(",;")

    most = bisect_left(range(2, len(words)), True, key=lambda number: not fits(first(number))) + 2
    for number in range(min(most + 3, len(words) - 1), 1, -1):
        if may_end(words, number) and fits(part := first(number)):
            return part
    return ""


def _joined(parts: Sequence[str]) -> str:
    """Kept thoughts one after the other: a sentence that lost its end is closed before the next begins, and no comma ends."""
    out = ""
    for part in parts:
        if not part:
            continue
        begins = part.lstrip()[:1]
        if out and begins.isupper() and not english.ends_sentence(out.rstrip()) and out.rstrip().endswith((",", ";")):
            out = out.rstrip().rstrip(",;") + "."
        out += part if out else part.lstrip()
    out = out.rstrip()
    return out.rstrip(",;") if out.endswith((",", ";")) else out
