"""The columns of a shot list: what each is called, what a blank cell of it means, what may be in it."""

import re
from typing import NamedTuple

SCENE, SHOT = "scene", "shot"


class ShotColumn(NamedTuple):
    """One column. `aka` are other names of it; `scene`: within a scene a blank cell goes on from the shot before; `facet` has the terms
    of its open list, `values` are all that it takes."""

    name: str
    about: str
    scene: bool = False
    facet: str = ""
    values: tuple[str, ...] = ()
    aka: tuple[str, ...] = ()


COLUMNS = {
    column.name: column
    for column in (
        ShotColumn(SCENE, "the scene number; blank: as above", aka=("scene no", "scene number", "sc", "scn")),
        ShotColumn(SHOT, "the shot number, kept as you write it (12A)", aka=("shot no", "shot number", "no", "nr", "shot #", "#", "setup", "set-up")),
        ShotColumn("seconds", "its shortest length", aka=("duration", "length", "secs", "sec", "dur", "time (s)", "seconds (least)", "runtime")),
        ShotColumn("size", "how near", facet="shot-size", aka=("shot size", "shot type", "type", "framing", "frame size")),
        ShotColumn("angle", "from where", facet="camera-angle", aka=("camera angle",)),
        ShotColumn("move", "how the camera moves", facet="camera-move", aka=("camera move", "movement", "camera movement", "camera", "motion")),
        ShotColumn("rig", "what the camera is mounted on", facet="camera-rig", aka=("camera rig", "support")),
        ShotColumn("facing", "the compass direction of the camera, which gives the side of the light", aka=("camera facing",)),
        ShotColumn("who", "the people in the frame, the most important first: purser; pilot", aka=("cast", "people", "characters", "character", "subject", "talent", "actors")),
        ShotColumn("action", "what happens", aka=("deed", "description", "what happens", "beat")),
        ShotColumn("setting", "where", True, "setting", aka=("place", "location", "set")),
        ShotColumn("light from", "where the light comes from: north, window left", True, aka=("light side",)),
        ShotColumn("story day", "the day of the story", True, aka=("day",)),
        ShotColumn("hour", "the hour: night, 23:40", True, "hour", aka=("time of day", "time")),
        ShotColumn("weather", "the weather", True, "weather"),
        ShotColumn("light", "the light", True, "lighting", aka=("lighting",)),
        ShotColumn("look", "the look of the film", True, "film-look"),
        ShotColumn("wardrobe", "what somebody wears: PURSER: a borrowed duffel coat", aka=("costume", "clothes", "costumes")),
        ShotColumn("props", "what somebody holds: PURSER: ticket punch", aka=("prop", "props in hand")),
        ShotColumn("background", "what is behind them", aka=("behind",)),
        ShotColumn("screen side", "where in the frame: left, right; or PURSER left, PILOT right", aka=("side", "frame side", "screen position", "position")),
        ShotColumn("eyeline", "where they look: left, right, to camera", aka=("looks", "eyelines", "eye line", "look direction")),
        ShotColumn("voice", "whether the speaker is seen", values=("on screen", "O.S.", "V.O.")),
        ShotColumn("speaker", "who says the line", aka=("who speaks",)),
        ShotColumn("line", "the line; for several speakers, PURSER (dry): Mind the step. | PILOT: I know.", aka=("dialogue", "speech", "lines", "dialog")),
        ShotColumn("manner", "how it is said", facet="voice", aka=("delivery", "parenthetical")),
        ShotColumn("sfx", "a sound of something in the picture", facet="sound-effect", aka=("sound effect", "effect", "sound effects", "sound", "fx")),
        ShotColumn("ambience", "the background sound", True, "ambience", aka=("atmosphere sound", "atmosphere", "atmos", "room tone")),
        ShotColumn("music", "the music", True, "music", aka=("score",)),
        ShotColumn("first frame", "what the first frame shows; Syntagma makes it as a still before the clip", aka=("start frame",)),
        ShotColumn("last frame", "what its last picture shows", aka=("end frame",)),
        ShotColumn("continuous", "yes: it continues from the shot before without a cut", values=("yes", "no")),
        ShotColumn("transition", "the transition from the shot before: cut, dissolve", facet="transition", aka=("transition in", "cut")),
        ShotColumn("reverse of", "the shot that it is the reverse of", aka=("reverse", "reverse shot of")),
        ShotColumn("takes", "how many results you want", aka=("take",)),
        ShotColumn("formula", "the formula to write it with"),
        ShotColumn("note", "a note, not sent to the generator", aka=("notes", "remark", "remarks", "comment", "comments")),
    )
}
_NAMES = {name: column.name for column in COLUMNS.values() for name in (column.name, *column.aka)}
SCENE_COLUMNS = tuple(name for name, column in COLUMNS.items() if column.scene)
NONE, PICK = "-", "pick"


def column_of(header: str) -> str:
    """The column that a heading means, in any case, with hyphens or underlines too; "" if it is none."""
    plain = re.sub(r"[\s_-]+", " ", header.strip().lower())
    return _NAMES.get(plain) or _NAMES.get(plain.rstrip(".:*"), "")
