"""Subtitles of what is spoken: lines of 42 characters, two at most, each long enough to be read."""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.diagnostics.findings import WARNING, Finding
from syntagma.core.film.cutting.film_cut import Cue
from syntagma.core.film.shots.spoken import plain, sentences

WIDTH, LINES = 42, 2
FASTEST = 17.0  # characters a second that can be read (a usual limit for grown-ups)
SHORTEST = 1.0  # seconds


class Subtitle(NamedTuple):
    """One subtitle: from when to when, in seconds, who speaks, its lines."""

    start: float
    stop: float
    speaker: str
    lines: tuple[str, ...]

    @property
    def speed(self) -> float:
        """Characters that have to be read in a second."""
        return len(" ".join(self.lines)) / max(self.stop - self.start, 0.001)


def subtitles(cues: Sequence[Cue], end: float) -> tuple[list[Subtitle], list[Finding]]:
    """(The subtitles of a film, the findings on them). A line that is too long for one is divided at its sentences, else where its
    lines break; each stays for a second at least where the next leaves room."""
    found: list[Subtitle] = []
    told: list[Finding] = []
    for cue in cues:
        texts = _divided(plain(cue.text))
        letters = sum(len(text) for text in texts) or 1
        at = cue.start
        for text in texts:
            takes = (cue.stop - cue.start) * len(text) / letters
            found.append(Subtitle(round(at, 3), round(at + takes, 3), cue.speaker, tuple(_wrapped(text))))
            at += takes
        speed = letters / max(cue.stop - cue.start, 0.001)
        if speed > FASTEST:
            message = f"“{_short(cue.text)}” runs at {speed:.0f} characters a second, too fast to read"
            told.append(Finding(WARNING, message, f"give the shot {letters / FASTEST:.1f} seconds for it, or say less", cue.shot, code="reads-fast"))
    for i, one in enumerate(found):
        limit = found[i + 1].start if i + 1 < len(found) and found[i + 1].start > one.start else end
        if one.stop - one.start < SHORTEST:
            found[i] = one._replace(stop=round(max(one.stop, min(one.start + SHORTEST, limit)), 3))
    return found, told


def _divided(text: str) -> list[str]:
    """A line in texts that each fit a subtitle."""
    found: list[str] = []
    for sentence in sentences(text):
        if found and len(_wrapped(f"{found[-1]} {sentence}")) <= LINES:
            found[-1] += f" {sentence}"
            continue
        lines = _wrapped(sentence)
        for i in range(0, len(lines), LINES):
            found.append(" ".join(lines[i : i + LINES]))
    return found


def _wrapped(text: str) -> list[str]:
    """A text in lines of at most WIDTH characters, the two of a pair as even as can be."""
    if len(text) <= WIDTH:
        return [text] if text else []
    breaks = [i for i, letter in enumerate(text) if letter == " " and i <= WIDTH and len(text) - i - 1 <= WIDTH]
    if breaks:
        at = min(breaks, key=lambda i: abs(2 * i + 1 - len(text)))
        return [text[:at].strip(), text[at:].strip()]
    from textwrap import wrap

    return wrap(text, WIDTH, break_long_words=True, break_on_hyphens=False)


def _short(text: str) -> str:
    return text if len(text) <= 40 else text[:39].rsplit(" ", 1)[0] + " …"
