"""Prose: phrases into sentences. Seams are decided last, between what survived."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.draft import DraftPhrase, Glue, PairMark, PhrasePlan
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.models.profile import Profile
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.noun_phrases import in_prose
from syntagma.core.realising.text_pieces import Reach, TextPiece, joined

SOFT = (",", ";", ":", "–", "—")


class ProseLine(NamedTuple):
    """A phrase in words, ready to be joined: as it is in mid-sentence and at the start of one."""

    text: str
    opening: str  # the text as a sentence begins with it
    mark: str  # the end mark still to be written after it
    ends: bool  # it ends a sentence
    stopped: bool  # its text ends in a stop of some kind, so no other may follow
    soft: bool  # what follows takes a space and no comma
    closed: bool  # its last slot was filled
    joined: bool
    hanging: bool
    first_word: str
    last_word: str
    pieces: tuple[TextPiece, ...]

    __eq__, __hash__ = object.__eq__, object.__hash__  # caches go by identity


class Prose:
    """The register in which a prompt is sentences. `plain_seams`: little comes between its lines;
    `sums_hold`: together they are no shorter than the sum of them.
    """

    plain_seams = sums_hold = True

    def __init__(self, profile: Profile, style: HouseStyle):
        self.final_stop = profile.text.final_stop
        self.style = style

    def line(self, phrase: DraftPhrase) -> ProseLine:
        """A phrase in words, its seams still open."""
        plan = phrase.plan
        raw = prose_pieces(phrase)
        pieces = self.style.pieces(raw, plan.label)
        text = joined(pieces)
        first = next((p for p in raw if p.text), None)
        small_name = (
            first
            and first.item
            and first.item.term
            and first.item.number == "name"
            and first.text.split()[0].lower() not in PREPOSITIONS
        )
        stopped = english.has_stop(joined(raw))
        sentence = plan.end[-1:] in tuple(".!?…") and plan.end != ""
        return ProseLine(
            text,
            opening=text if small_name else self.style.opening(raw, plan.label),
            mark="" if stopped else plan.end,
            ends=sentence or english.ends_sentence(joined(raw)),
            stopped=stopped,
            soft=plan.end in (";", ":", ",") or text.endswith(SOFT) or plan.hanging,
            closed=phrase.closed,
            joined=plan.joined,
            hanging=plan.hanging,
            first_word=text.partition(" ")[0].lower(),
            last_word=text.rpartition(" ")[2].lower(),
            pieces=tuple(p._replace(label=plan.label) for p in pieces),
        )

    def write(self, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]) -> "Chain":
        """Join the lines that survive."""
        return Chain(self, lines, plans)

    def tail(self, last: ProseLine, stop: bool) -> str:
        """What comes after the last line: its own end mark, as far as the model wants a
        final stop.
        """
        if last.stopped:
            return ""
        mark = last.mark if last.ends else "." if stop else ""
        if self.final_stop:
            return mark or "."
        return "" if self.final_stop is False and mark == "." else mark


class Chain:
    """Lines joined: `parts` is a text for every phrase (blank if it has gone) and one more for the
    final stop.

    When a line is changed for another, only its own part, the next one and the final stop are
    written again.
    """

    def __init__(
        self, register: Prose, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]
    ):
        self.register = register
        self.lines = _without_hanging_lines(lines)
        self.parts = [""] * (len(plans) + 1)
        self.links: list[
            tuple[int, bool, bool]
        ] = []  # the line before (-1: none), a stop passed back to it, no gap
        self.following = [-1] * len(plans)
        before, stop = -1, False
        for i, plan in enumerate(plans):
            self.links.append((before, stop and before >= 0, before == i - 1))
            if self.lines[i] is not None:
                if before >= 0:
                    self.following[before] = i
                before, stop = i, False
            elif lines[i] is None:
                stop = stop or (plan.end != "" and plan.end[-1] in ".!?…")
        self.last, self.last_stop = before, stop
        for i, line in enumerate(self.lines):
            if line is not None:
                self.parts[i] = "".join(self.seam(i))
        self._close()

    def change(self, i: int, line: ProseLine | None) -> bool:
        """Put another line in the place of line `i`; False if too much hangs on it, and all must be
        written again.
        """
        old = self.lines[i]
        if line is None or old is None:
            return False
        self.lines[i] = line
        self.parts[i] = "".join(self.seam(i))
        following = self.following[i]
        if following >= 0:
            self.parts[following] = "".join(self.seam(following))
        else:
            self._close()
        return True

    def reach(self, i: int) -> Reach | None:
        """What another line in the place of line `i` would change; None if the line has gone."""
        line, following = self.lines[i], self.following[i]
        if line is None:
            return None
        before_at, *passed = self.links[i]
        before = self.lines[before_at] if before_at >= 0 else None
        seam = (
            (before.ends, before.mark, before.stopped, before.soft, before.closed) if before else ()
        )
        twice = (before.last_word, line.first_word) if before else ("", "")
        beside = (self.lines[following], *self.links[following][1:]) if following >= 0 else ()
        return Reach(
            i,
            following + 1 if beside else len(self.parts),
            (seam, beside, *passed, self.last_stop),
            *twice,
        )

    def seam(self, i: int) -> tuple[str, str]:
        """What comes before line `i`, and the line as it reads there."""
        before_at, stop, no_gap = self.links[i]
        line = self.lines[i]
        assert line is not None
        if before_at < 0:
            return "", line.opening
        before = self.lines[before_at]
        assert before is not None
        if before.ends:
            return before.mark + " ", line.opening
        if stop:
            return (" " if before.stopped else ". "), line.opening
        if before.soft:
            return before.mark + " ", line.text
        if (
            line.joined and no_gap and before.closed and before.last_word != line.first_word
        ):  # no word twice: "with its headlamps on on a bench"
            return " ", line.text
        return ", ", line.text

    def pieces(self) -> list[TextPiece]:
        """The whole text as pieces that know their phrase, slot and term."""
        out: list[TextPiece] = []
        for i, line in enumerate(self.lines):
            if line is None:
                continue
            between, text = self.seam(i)
            out.append(TextPiece(between))
            at = 0
            for piece in line.pieces:  # the opening form differs in case only
                out.append(piece._replace(text=text[at : at + len(piece.text)]))
                at += len(piece.text)
        return [p for p in (*out, TextPiece(self.parts[-1])) if p.text]

    def _close(self) -> None:
        last = self.lines[self.last] if self.last >= 0 else None
        self.parts[-1] = self.register.tail(last, self.last_stop) if last else ""


def _without_hanging_lines(lines: Sequence[ProseLine | None]) -> list[ProseLine | None]:
    """`lines` without the fixed words that lean on a line which has gone."""
    kept = list(lines)
    for i in range(len(kept) - 1, -1, -1):
        line = kept[i]
        if line and line.hanging and (i + 1 == len(kept) or kept[i + 1] is None):
            kept[i] = None
    return kept


def prose_pieces(phrase: DraftPhrase) -> list[TextPiece]:
    """The words of a phrase, with no doubled space or comma and no comma after a stop."""
    out: list[TextPiece] = []
    after_opening = False
    for part in phrase.parts:
        match part:
            case PairMark(opening=True):
                out.append(TextPiece(part.text))
                after_opening = True
            case PairMark():
                _trim_end(out, " ")
                out.append(TextPiece(part.text))
            case Glue():
                text = part.text.lstrip() if after_opening else part.text
                _add_glue(out, re.sub(r" {2,}", " ", text))
                after_opening = after_opening and not text
            case _:
                out += in_prose(part)
                after_opening = False
    _trim_end(out, " ")
    if out:
        out[0] = out[0]._replace(text=out[0].text.lstrip(" "))
    return [p for p in out if p.text]


def _add_glue(out: list[TextPiece], text: str) -> None:
    if not text:
        return
    said = joined(out)
    if said:
        if text.strip(" ") and out[-1].item and not text.startswith(tuple(".!?")):
            out[-1] = out[-1]._replace(text=english.without_stop(out[-1].text))
            said = joined(out)
        bare = text.lstrip(" ")
        if bare[:1] in (".", "!", "?") and english.has_stop(said):
            text = re.sub(r"^[ .!?]+", "", text)
            bare = text.lstrip(" ")
        if bare.startswith(",") and (english.ends_sentence(said) or said.rstrip().endswith(SOFT)):
            text = " " + bare[1:].lstrip(" ")
        if text[:1] in ",;:.!?":
            _trim_end(out, " ")
        elif text.startswith(" ") and said.endswith(" "):
            text = text[1:]
    out.append(TextPiece(text))


def _trim_end(out: list[TextPiece], signs: str) -> None:
    if out:
        out[-1] = out[-1]._replace(text=out[-1].text.rstrip(signs))
