"""The cut of a film: which stretch of which clip goes where, when each line is spoken, what is heard all through. From estimates before there
are clips, from what the chosen takes really last afterwards."""

from collections.abc import Mapping
from typing import NamedTuple

from syntagma.core.film.planning.film_plan import Plan, takes_frame
from syntagma.core.film.shots.shot_list import Shot
from syntagma.core.vocabulary.terms import normal

HANDLE = 0.5  # seconds that are kept behind a stretch where its clip has them
DISSOLVE = 1.0  # seconds of a dissolve
SILENCE = 0.3  # seconds before a line begins, if there is room


class ClipTake(NamedTuple):
    """A result of a clip: its file, how long it really is, where speech ends in it (0 if nobody looked), and whether it was chosen."""

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
    """A shot in the film: of which clip (its place in the plan), from when to when in the film, and where in its clip it begins."""

    shot: Shot
    clip: int
    start: float
    stop: float
    source: float

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


def cut(plan: Plan, shots: tuple[Shot, ...], rate: float, takes: Mapping[str, ClipTake] = {}) -> Cut:
    """Cut a film. `takes` are the chosen results by the name of their clip; the frame that a continuation has in common with the clip before
    is dropped, and half a second of what nothing fills is kept as a handle."""
    where = {shot.name: i for i, shot in enumerate(shots)}
    stretches: list[CutShot] = []
    cues: list[Cue] = []
    at = 0.0
    for number, planned in enumerate(plan.clips):
        take = takes.get(planned.name)
        whole = planned.clip.seconds
        real = take.seconds if take and take.seconds else whole
        scale = real / whole
        source = 1 / rate if planned.follows is not None and takes_frame(plan.profile, "first-frame") else 0.0
        used = real - HANDLE if planned.clip.dead * scale >= HANDLE else real
        if take and take.speech_end and take.speech_end + HANDLE < used:
            used = take.speech_end + HANDLE
        inside = 0.0
        for view, part in zip(planned.views, planned.clip.parts, strict=True):
            begin = max(inside * scale, source)
            end = min((inside + part.seconds) * scale, used)
            if view is planned.views[-1]:
                end = used
            begin, end = round(begin * rate) / rate, round(end * rate) / rate
            length = max(end - begin, 1 / rate)
            stretches.append(CutShot(view.shot, number, at, at + length, begin))
            time = plan.timings[where[view.shot.name]]
            said = [one for one in time.said if any(one.text in line.text for line in view.lines)]
            cues += _cues(view.shot, view.lines, [one.seconds for one in said], [one.text for one in said], at, length)
            at += length
            inside += part.seconds
    return Cut(tuple(stretches), tuple(cues), tuple(_sounds(stretches)), at)


def _cues(shot: Shot, lines, seconds: list[float], texts: list[str], start: float, length: float) -> list[Cue]:
    """When the lines of a stretch are spoken: one after the other, those at once together, pressed together if they would run over."""
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
        found.append(Cue(round(begin, 3), round(stop, 3), line.speaker, line.text, line.voice, shot.name))
        if not line.dual:
            before, at = begin, stop
    return found


def _sounds(stretches: list[CutShot]) -> list[Sounding]:
    """Ambience and music: neighbours of the same scene with the same words are one."""
    found: list[Sounding] = []
    for kind in ("ambience", "music"):
        before: CutShot | None = None
        for stretch in stretches:
            text = stretch.shot.cells.get(kind, "")
            same = found and before is not None and found[-1].kind == kind and found[-1].text == text and before.shot.scene == stretch.shot.scene and found[-1].stop == stretch.start
            if text and same:
                found[-1] = found[-1]._replace(stop=stretch.stop)
            elif text:
                found.append(Sounding(kind, text, stretch.start, stretch.stop))
            before = stretch
    return found


def dissolves(shot: Shot) -> bool:
    """Does a shot come out of the one before in a dissolve or a fade?"""
    return any(word in normal(shot.cells.get("transition", "")) for word in ("dissolve", "fade", "morph"))
