"""The plain drawing of a shot's frame, as shapes: how near its people are, on which side, from how high, where they look, how the camera moves,
where the light comes from. A page, or whatever else draws, lays them out."""

import re
from typing import NamedTuple

from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shots.reversing import frame_side
from syntagma.core.film.shots.shot_list import Shot

WIDE, HIGH = 160.0, 90.0  # units of a frame
_HEIGHTS = ((0, 0.16), (1, 0.42), (2, 0.82), (3, 1.1), (4, 1.3), (5, 1.6), (6, 1.9), (7, 2.6), (9, 4.2), (10, 5.0), (11, 7.0))  # of a figure, in frames
_MOVES = (
    ("in", r"push|zoom in|dive|creep"), ("out", r"pull|zoom out"), ("left", r"\bleft\b"), ("right", r"\bright\b"), ("up", r"\bup\b|rise|rising|crane up"),
    ("down", r"\bdown\b|descent|sink"), ("round", r"orbit|circle|spiral|arc"), ("along", r"follow|track|lead|walk|glide|skim|drift|sweep|slide|run"),
)  # fmt: skip


class Figure(NamedTuple):
    """Somebody: the middle of the head, its radius, the height of the shoulders' line, and which way they look (-1, 0, 1)."""

    x: float
    y: float
    head: float
    looks: int
    name: str


class Drawing(NamedTuple):
    """A frame: its figures, the height of the horizon, how far it tilts (degrees), what is seen in close ("" for none), the move of the camera
    (in, out, left, right, up, down, round, along, or ""), the side of the light (left, right, behind, front, or "")."""

    figures: tuple[Figure, ...]
    horizon: float
    tilt: float
    detail: str
    move: str
    light: str


def drawing(shot: Shot, knowledge: FilmKnowledge, known: frozenset[str]) -> Drawing:
    """The drawing of a shot. `known` are the names of people, in small letters: what else is in the picture is drawn as a thing."""
    near = knowledge.size(shot.cells.get("size", ""))
    size = 5 if near is None else near
    sides, looks = shot.sides("screen side"), shot.sides("eyeline")
    people = [name for name in shot.who if name.lower() in known or name[:1].isupper()]
    detail = "" if people or not shot.who else shot.who[0]
    if size >= 12:
        detail, people = detail or shot.cells.get("size", "detail"), []
    figures = []
    for number, name in enumerate(people[:5]):
        tall = _height(size) * HIGH * (0.94 if number else 1.0)
        head = tall * 0.075
        place = {"left": 0.3, "right": 0.7, "centre": 0.5}.get(sides.get(name.lower(), ""), (number + 1) / (len(people[:5]) + 1))
        top = max(HIGH * 0.1, HIGH * 0.88 - tall) if tall < HIGH * 0.95 else HIGH * 0.12
        look = {"left": -1, "right": 1}.get(looks.get(name.lower(), ""), 0)
        figures.append(Figure(round(place * WIDE, 1), round(top + head, 1), round(head, 1), look, name))
    angle = shot.cells.get("angle", "").lower()
    horizon = 0.72 if re.search(r"\blow\b|ground|knee|below", angle) else 0.28 if re.search(r"high|above|overhead|roof|air|height$", angle) else 0.5
    move = next((name for name, pattern in _MOVES if re.search(pattern, shot.cells.get("move", "").lower())), "")
    light = frame_side(shot.cells.get("light from", ""), shot.cells.get("facing", ""))
    return Drawing(tuple(figures), round(horizon * HIGH, 1), 7.0 if "tilt" in angle else 0.0, detail, move, light)


def _height(size: int) -> float:
    """How tall a figure is, in frames, by how near the size is."""
    return next((tall for near, tall in _HEIGHTS if size <= near), _HEIGHTS[-1][1])
