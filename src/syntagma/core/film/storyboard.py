"""The storyboard: frames to scale by scene, with a drawing where there is no picture."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.diagnostics import Finding
from syntagma.core.film.columns import Col
from syntagma.core.film.cut import Cut
from syntagma.core.film.film_plan import Plan
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import Shot, ShotList, frame_side

# ──── The plain drawing of a shot's frame, as shapes: how near its people are, on which side, from
# how high, where they look, how the camera moves, where the light comes from. A page, or whatever
# else draws, lays them out.


WIDE, HIGH = 160.0, 90.0  # units of a frame
_HEIGHTS = (
    (0, 0.16),
    (1, 0.42),
    (2, 0.82),
    (3, 1.1),
    (4, 1.3),
    (5, 1.6),
    (6, 1.9),
    (7, 2.6),
    (9, 4.2),
    (10, 5.0),
    (11, 7.0),
)  # of a figure, in frames
_MOVES = (
    ("in", r"push|zoom in|dive|creep"),
    ("out", r"pull|zoom out"),
    ("left", r"\bleft\b"),
    ("right", r"\bright\b"),
    ("up", r"\bup\b|rise|rising|crane up"),
    ("down", r"\bdown\b|descent|sink"),
    ("round", r"orbit|circle|spiral|arc"),
    ("along", r"follow|track|lead|walk|glide|skim|drift|sweep|slide|run"),
)


class Figure(NamedTuple):
    """Somebody: the middle of the head, its radius, the height of the shoulders' line, and which
    way they look (-1, 0, 1).
    """

    x: float
    y: float
    head: float
    looks: int
    name: str


class Drawing(NamedTuple):
    """A frame: its figures, the height of the horizon, how far it tilts (degrees), what is seen in
    close ("" for none), the move of the camera (in, out, left, right, up, down, round, along, or
    ""), the side of the light (left, right, behind, front, or "").
    """

    figures: tuple[Figure, ...]
    horizon: float
    tilt: float
    detail: str
    move: str
    light: str


def drawing(shot: Shot, knowledge: FilmKnowledge, known: frozenset[str]) -> Drawing:
    """The drawing of a shot. `known` are the names of people, in small letters: what else is in the
    picture is drawn as a thing.
    """
    near = knowledge.size(shot.cells.get(Col.SIZE, ""))
    size = 5 if near is None else near
    sides, looks = shot.sides(Col.SCREEN_SIDE), shot.sides(Col.EYELINE)
    people = [name for name in shot.who if name.lower() in known or name[:1].isupper()]
    detail = "" if people or not shot.who else shot.who[0]
    if size >= 12:
        detail, people = detail or shot.cells.get(Col.SIZE, "detail"), []
    figures = []
    for number, name in enumerate(people[:5]):
        tall = _height(size) * HIGH * (0.94 if number else 1.0)
        head = tall * 0.075
        place = {"left": 0.3, "right": 0.7, "centre": 0.5}.get(
            sides.get(name.lower(), ""), (number + 1) / (len(people[:5]) + 1)
        )
        top = max(HIGH * 0.1, HIGH * 0.88 - tall) if tall < HIGH * 0.95 else HIGH * 0.12
        look = {"left": -1, "right": 1}.get(looks.get(name.lower(), ""), 0)
        figures.append(
            Figure(round(place * WIDE, 1), round(top + head, 1), round(head, 1), look, name)
        )
    angle = shot.cells.get(Col.ANGLE, "").lower()
    horizon = (
        0.72
        if re.search(r"\blow\b|ground|knee|below", angle)
        else 0.28
        if re.search(r"high|above|overhead|roof|air|height$", angle)
        else 0.5
    )
    move = next(
        (
            name
            for name, pattern in _MOVES
            if re.search(pattern, shot.cells.get(Col.MOVE, "").lower())
        ),
        "",
    )
    light = frame_side(shot.cells.get(Col.LIGHT_FROM, ""), shot.cells.get(Col.FACING, ""))
    return Drawing(
        tuple(figures),
        round(horizon * HIGH, 1),
        7.0 if "tilt" in angle else 0.0,
        detail,
        move,
        light,
    )


def _height(size: int) -> float:
    """How tall a figure is, in frames, by how near the size is."""
    return next((tall for near, tall in _HEIGHTS if size <= near), _HEIGHTS[-1][1])


# ──── A film to look at before it is paid for: a strip to scale, scene by scene: each shot with its
# drawing, what is said and heard below, what is to be fixed in its place. Data for a page and for a
# terminal.


class Box(NamedTuple):
    """A shot on the strip: from when to when in its scene, its drawing, the findings on it, in
    which clip it is (and whether it begins one), and what of the clip is a still.
    """

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
    """A scene: its number, where and when it plays, when it begins in the film, how long it is, its
    shots and what is heard.
    """

    number: str
    place: str
    start: float
    seconds: float
    boxes: tuple[Box, ...]
    bars: tuple[Bar, ...]


def strip(
    shots: ShotList,
    plan: Plan,
    made: Cut,
    findings: Sequence[Finding],
    knowledge: FilmKnowledge,
    people: Sequence[str],
) -> list[SceneStrip]:
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
            stills = tuple(
                what
                for what, shot in (("first", planned.first), ("last", planned.last))
                if shot and shot.name == one.shot.name
            )
            said = () if one.shot.name in told else tuple(by_shot.get(one.shot.name, ()))
            told.add(one.shot.name)
            boxes.append(
                Box(
                    one.shot,
                    round(one.start - start, 3),
                    round(one.stop - start, 3),
                    drawing(one.shot, knowledge, known),
                    said,
                    planned.name,
                    begins,
                    stills,
                )
            )
        bars = [
            Bar("voice", cue.start - start, cue.stop - start, cue.text, cue.speaker)
            for cue in made.cues
            if start <= cue.start < stop
        ]
        bars += [
            Bar(Col.SFX, box.start, box.stop, box.shot.cells[Col.SFX])
            for box in boxes
            if box.shot.cells.get(Col.SFX)
        ]
        bars += [
            Bar(one.kind, one.start - start, one.stop - start, one.text)
            for one in made.sounds
            if start <= one.start < stop
        ]
        place = ", ".join(
            part
            for part in (
                first.cells.get(Col.SETTING, ""),
                first.cells.get(Col.HOUR, ""),
                first.cells.get(Col.WEATHER, ""),
            )
            if part
        )
        found.append(SceneStrip(first.scene, place, start, stop - start, tuple(boxes), tuple(bars)))
    return found


def _shot_of(place: str) -> str:
    """The shot of a finding's place: 1/2 of 1/2 and of 1/2/1, the second line."""
    return "/".join(place.split("/")[:2])
