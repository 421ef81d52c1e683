"""A film to look at before it is paid for: a strip to scale, scene by scene: each shot with its drawing, what is said and heard below, what is
to be fixed in its place. Data for a page and for a terminal."""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.diagnostics.findings import Finding
from syntagma.core.film.cutting.drawing import Drawing, drawing
from syntagma.core.film.cutting.film_cut import Cut
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.planning.film_plan import Plan
from syntagma.core.film.shots.shot_list import Shot, ShotList


class Box(NamedTuple):
    """A shot on the strip: from when to when in its scene, its drawing, the findings on it, in which clip it is (and whether it begins
    one), and what of the clip is a still."""

    shot: Shot
    start: float
    stop: float
    drawing: Drawing
    findings: tuple[Finding, ...]
    clip: str
    begins: bool
    stills: tuple[str, ...]

    @property
    def seconds(self) -> float:
        return round(self.stop - self.start, 3)


class Bar(NamedTuple):
    """Something heard, on its track: from when to when in its scene."""

    track: str
    start: float
    stop: float
    text: str
    who: str = ""


class SceneStrip(NamedTuple):
    """A scene: its number, where and when it plays, when it begins in the film, how long it is, its shots and what is heard."""

    number: str
    place: str
    start: float
    seconds: float
    boxes: tuple[Box, ...]
    bars: tuple[Bar, ...]


def strip(shots: ShotList, plan: Plan, made: Cut, findings: Sequence[Finding], knowledge: FilmKnowledge, people: Sequence[str]) -> list[SceneStrip]:
    """The strip of a film."""
    known = frozenset(name.lower() for name in people)
    by_shot: dict[str, list[Finding]] = {}
    for finding in findings:
        by_shot.setdefault(_shot_of(finding.place), []).append(finding)
    scenes: list[list] = []
    for stretch in made.stretches:
        if not scenes or scenes[-1][0].shot.scene != stretch.shot.scene:
            scenes.append([])
        scenes[-1].append(stretch)
    found = []
    told: set[str] = set()
    seen: set[int] = set()
    for stretches in scenes:
        first = stretches[0].shot
        start, stop = stretches[0].start, stretches[-1].stop
        boxes = []
        for one in stretches:
            planned = plan.clips[one.clip]
            begins = one.clip not in seen
            seen.add(one.clip)
            stills = tuple(what for what, shot in (("first", planned.first), ("last", planned.last)) if shot and shot.name == one.shot.name)
            said = () if one.shot.name in told else tuple(by_shot.get(one.shot.name, ()))
            told.add(one.shot.name)
            boxes.append(Box(one.shot, round(one.start - start, 3), round(one.stop - start, 3), drawing(one.shot, knowledge, known), said, planned.name, begins, stills))
        bars = [Bar("voice", cue.start - start, cue.stop - start, cue.text, cue.speaker) for cue in made.cues if start <= cue.start < stop]
        bars += [Bar("sfx", box.start, box.stop, box.shot.cells["sfx"]) for box in boxes if box.shot.cells.get("sfx")]
        bars += [Bar(one.kind, one.start - start, one.stop - start, one.text) for one in made.sounds if start <= one.start < stop]
        place = ", ".join(part for part in (first.cells.get("setting", ""), first.cells.get("hour", ""), first.cells.get("weather", "")) if part)
        found.append(SceneStrip(first.scene, place, start, stop - start, tuple(boxes), tuple(bars)))
    return found


def _shot_of(place: str) -> str:
    """The shot of a finding's place: 1/2 of 1/2 and of 1/2/1, the second line."""
    return "/".join(place.split("/")[:2])
