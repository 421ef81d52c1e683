"""Where each shot is in the finished film, and its subtitles."""

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

from syntagma.core.diagnostics import REMARK, WARNING, Finding
from syntagma.core.film.columns import Col
from syntagma.core.film.film_plan import Plan, takes_frame
from syntagma.core.film.shot_list import Shot
from syntagma.core.film.spoken import plain, sentences
from syntagma.core.vocabulary.terms import normal

# ──── The cut of a film: which stretch of which clip goes where, when each line is spoken, what is
# heard all through. From estimates before there are clips, from what the chosen takes really last
# afterwards.


HANDLE = 0.5  # seconds that are kept behind a stretch where its clip has them
DISSOLVE = 1.0  # seconds of a dissolve
LENGTH = 0.5  # seconds that a film may be longer or shorter than it is to be
SILENCE = 0.3  # seconds before a line begins, if there is room


class ClipTake(NamedTuple):
    """A result of a clip: its file, how long it really is, where speech ends in it (0 if nobody
    looked), and whether it was chosen.
    """

    file: str
    seconds: float = 0.0
    speech_end: float = 0.0
    chosen: bool = False


class Cue(NamedTuple):
    """A line in the film: when it is spoken, by whom, its words as they are written."""

    start: float
    stop: float
    speaker: str
    text: str
    voice: str
    shot: str


class CutShot(NamedTuple):
    """A shot in the film: of which clip (its place in the plan), from when to when in the film, and
    where in its clip it begins; the handles that its clip has before and behind, in seconds; what
    it is called (3/12A.2 for the second part of a divided shot).
    """

    shot: Shot
    clip: int
    start: float
    stop: float
    source: float
    head: float = 0.0
    tail: float = 0.0
    name: str = ""

    @property
    def seconds(self) -> float:
        return self.stop - self.start


class Sounding(NamedTuple):
    """What is heard all through: ambience or music, from when to when."""

    kind: str
    text: str
    start: float
    stop: float


class Cut(NamedTuple):
    """A film cut: its stretches in order, its cues, what sounds, and how long it is."""

    stretches: tuple[CutShot, ...]
    cues: tuple[Cue, ...]
    sounds: tuple[Sounding, ...]
    seconds: float


def cut(
    plan: Plan, shots: tuple[Shot, ...], rate: float, takes: Mapping[str, ClipTake] = {}
) -> Cut:
    """Cut a film. `takes` are the chosen results by the name of their clip; the frame that a
    continuation has in common with the clip before is dropped, and half a second of what nothing
    fills is kept as a handle. A shot whose seconds the list says has exactly those, where its clips
    last so long; what is over stays as a handle.
    """
    where = {shot.name: i for i, shot in enumerate(shots)}
    stretches: list[CutShot] = []
    cues: list[Cue] = []
    at = 0.0
    left = {shot.name: shot.seconds for shot in shots if shot.seconds}  # of what the list asks for
    counts = Counter(view.shot.name for planned in plan.clips for view in planned.views)
    parts: Counter[str] = Counter()
    for number, planned in enumerate(plan.clips):
        take = takes.get(planned.name)
        whole = planned.clip.seconds
        real = take.seconds if take and take.seconds else whole
        scale = real / whole
        source = (
            1 / rate
            if planned.follows is not None and takes_frame(plan.profile, "first-frame")
            else 0.0
        )
        used = real - HANDLE if planned.clip.dead * scale >= HANDLE else real
        if take and take.speech_end and take.speech_end + HANDLE < used:
            used = take.speech_end + HANDLE
        inside = 0.0
        for view, part in zip(planned.views, planned.clip.parts, strict=True):
            begin = max(inside * scale, source)
            end = min((inside + part.seconds) * scale, used)
            if view is planned.views[-1]:
                end = max(used, min(real, begin + left.get(view.shot.name, 0.0)))
            begin, end = round(begin * rate) / rate, round(end * rate) / rate
            length = max(end - begin, 1 / rate)
            if view.shot.name in left:
                wanted = max(min(length, left[view.shot.name]), 1 / rate)
                if dissolves(view.shot) and view.first and view is planned.views[0]:
                    spare = min(length - wanted, DISSOLVE / 2)
                    begin += round(spare * rate) / rate  # so that it can come out of the one before
                length = wanted
                left[view.shot.name] -= length
            parts[view.shot.name] += 1
            part_name = f"{view.shot.name}.{parts[view.shot.name]}"
            stretches.append(
                CutShot(
                    view.shot,
                    number,
                    at,
                    at + length,
                    begin,
                    begin - source if view is planned.views[0] else 0.0,
                    max(real - begin - length, 0.0) if view is planned.views[-1] else 0.0,
                    part_name if counts[view.shot.name] > 1 else view.shot.name,
                )
            )
            time = plan.timings[where[view.shot.name]]
            said = [one for one in time.said if any(one.text in line.text for line in view.lines)]
            cues += _cues(
                view.shot,
                view.lines,
                [one.seconds for one in said],
                [one.text for one in said],
                at,
                length,
            )
            at += length
            inside += part.seconds
    return Cut(tuple(stretches), tuple(cues), tuple(_sounds(stretches)), at)


def _cues(
    shot: Shot,
    lines: Sequence[Any],
    seconds: list[float],
    texts: list[str],
    start: float,
    length: float,
) -> list[Cue]:
    """When the lines of a stretch are spoken: one after the other, those at once together, pressed
    together if they would run over.
    """
    found: list[Cue] = []
    spans = []
    for line in lines:
        takes = sum(s for s, text in zip(seconds, texts, strict=True) if text in line.text) or 1.0
        spans.append((line, takes))
    total = sum(takes for line, takes in spans if not line.dual) or 1.0
    lead = min(SILENCE, max(0.0, length - total))
    scale = min(1.0, (length - lead) / total)
    at = start + lead
    before = at
    for line, takes in spans:
        begin = before if line.dual else at
        stop = min(begin + takes * scale, start + length)
        found.append(
            Cue(round(begin, 3), round(stop, 3), line.speaker, line.text, line.voice, shot.name)
        )
        if not line.dual:
            before, at = begin, stop
    return found


def _sounds(stretches: list[CutShot]) -> list[Sounding]:
    """Ambience and music: neighbours of the same scene with the same words are one."""
    found: list[Sounding] = []
    for kind in (Col.AMBIENCE, Col.MUSIC):
        before: CutShot | None = None
        for stretch in stretches:
            text = stretch.shot.cells.get(kind, "")
            same = (
                found
                and before is not None
                and found[-1].kind == kind
                and found[-1].text == text
                and before.shot.scene == stretch.shot.scene
                and found[-1].stop == stretch.start
            )
            if text and same:
                found[-1] = found[-1]._replace(stop=stretch.stop)
            elif text:
                found.append(Sounding(kind, text, stretch.start, stretch.stop))
            before = stretch
    return found


def no_handles(stretches: Sequence[CutShot]) -> list[Finding]:
    """The findings on dissolves for which the clips have no frames beyond the cut."""
    found = []
    for before, shot in pairwise(stretches):
        if dissolves(shot.shot) and min(before.tail, shot.head) < DISSOLVE / 4:
            which = before if before.tail <= shot.head else shot
            found.append(
                Finding(
                    REMARK,
                    f"the {normal(shot.shot.cells[Col.TRANSITION])} into {shot.name} needs frames"
                    f" beyond the cut, and the clip of {which.name} has none",
                    f"ask for half a second less of {which.name}, or a longer clip",
                    shot.shot.name,
                    code="no-handle",
                )
            )
    return found


def length_finding(cut: Cut, shots: Sequence[Shot], wanted: float, model: str) -> Finding | None:
    """The finding on a film that does not last as long as it is to (within half a second)."""
    more = wanted - cut.seconds
    if not wanted or abs(more) <= LENGTH:
        return None
    free = [shot for shot in shots if not shot.seconds]
    given = sum(shot.seconds for shot in shots)
    if not free:
        remedy = (
            f"the seconds of the list add up to {given:g}: {'add' if more > 0 else 'take away'}"
            f" {abs(more):.1f}"
        )
    elif wanted - given >= len(free) * 0.5:
        names = ", ".join(shot.name for shot in free[:6]) + (" …" if len(free) > 6 else "")
        each = (wanted - given) / len(free)
        remedy = f"give {names} seconds: {each:.1f} each would make {wanted:g}"
    else:
        remedy = f"the list alone asks for {given:g}: give its shots less, or leave one out"
    return Finding(
        WARNING,
        f"on {model or 'no model'} the film lasts {cut.seconds:.1f} s, not {wanted:g}",
        remedy,
        shots[-1].name if shots else "",
        code="film-length",
    )


def dissolves(shot: Shot) -> bool:
    """Does a shot come out of the one before in a dissolve or a fade?"""
    return any(
        word in normal(shot.cells.get(Col.TRANSITION, "")) for word in ("dissolve", "fade", "morph")
    )


# ──── Subtitles of what is spoken: lines of 42 characters, two at most, each long enough to be
# read.


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
    """(The subtitles of a film, the findings on them). A line that is too long for one is divided
    at its sentences, else where its lines break; each stays for a second at least where the next
    leaves room.
    """
    found: list[Subtitle] = []
    told: list[Finding] = []
    for cue in cues:
        texts = _divided(plain(cue.text))
        letters = sum(len(text) for text in texts) or 1
        at = cue.start
        for text in texts:
            takes = (cue.stop - cue.start) * len(text) / letters
            found.append(
                Subtitle(round(at, 3), round(at + takes, 3), cue.speaker, tuple(_wrapped(text)))
            )
            at += takes
        speed = letters / max(cue.stop - cue.start, 0.001)
        if speed > FASTEST:
            message = (
                f"“{_short(cue.text)}” runs at {speed:.0f} characters a second, too fast to read"
            )
            told.append(
                Finding(
                    WARNING,
                    message,
                    f"give the shot {letters / FASTEST:.1f} seconds for it, or say less",
                    cue.shot,
                    code="reads-fast",
                )
            )
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
    breaks = [
        i
        for i, letter in enumerate(text)
        if letter == " " and i <= WIDTH and len(text) - i - 1 <= WIDTH
    ]
    if breaks:
        at = min(breaks, key=lambda i: abs(2 * i + 1 - len(text)))
        return [text[:at].strip(), text[at:].strip()]
    from textwrap import wrap

    return wrap(text, WIDTH, break_long_words=True, break_on_hyphens=False)


def _short(text: str) -> str:
    return text if len(text) <= 40 else text[:39].rsplit(" ", 1)[0] + " …"
