"""The columns of a shot list and the words in which a prompt says what they hold, as data
(data/shot-list.toml): what each is called, what a blank cell means, what may be in it.
"""

import re
from collections.abc import Mapping
from importlib.resources import files
from typing import NamedTuple

from syntagma.core.notation.toml import read_toml


class Col:
    """The names of the columns that the program itself looks into."""

    SCENE = "scene"
    SHOT = "shot"
    SECONDS = "seconds"
    IN = "in"
    OUT = "out"
    ON = "on"
    SIZE = "size"
    ANGLE = "angle"
    MOVE = "move"
    RIG = "rig"
    FACING = "facing"
    WHO = "who"
    ACTION = "action"
    SETTING = "setting"
    INSIDE = "int/ext"
    LIGHT_FROM = "light from"
    STORY_DAY = "story day"
    HOUR = "hour"
    WEATHER = "weather"
    LIGHT = "light"
    LOOK = "look"
    WARDROBE = "wardrobe"
    PROPS = "props"
    BACKGROUND = "background"
    SCREEN_SIDE = "screen side"
    EYELINE = "eyeline"
    VOICE = "voice"
    SPEAKER = "speaker"
    LINE = "line"
    MANNER = "manner"
    SFX = "sfx"
    AMBIENCE = "ambience"
    MUSIC = "music"
    FIRST = "first frame"
    LAST = "last frame"
    CONTINUOUS = "continuous"
    TRANSITION = "transition"
    REVERSE_OF = "reverse of"
    TAKES = "takes"
    FORMULA = "formula"
    NOTE = "note"


# What a prompt says of a shot that is no column by itself.
PLACEMENT, TOLD = "placement", "told"


SHORT_CELL = 3  # words of a cell that may be abbreviations


class ShotColumn(NamedTuple):
    """One column. `also` are other names of it; `scene`: within a scene a blank cell goes on from
    the shot before; `values` are all that it takes; `facets` and `slots` the slots of a formula
    that it fills, by facet and by name; `reversed`: a reverse takes it from its shot; `short`
    has abbreviations of the trade.
    """

    about: str
    also: tuple[str, ...] = ()
    scene: bool = False
    values: tuple[str, ...] = ()
    facets: tuple[str, ...] = ()
    slots: tuple[str, ...] = ()
    reversed: bool = False
    short: Mapping[str, str] = {}

    def long(self, cell: str) -> str:
        """A cell with the trade's abbreviations written out: 2S → two-shot."""
        small = cell.strip().lower()
        if small in self.short:
            return self.short[small]
        words = cell.split()
        if not self.short or len(words) > SHORT_CELL:
            return cell
        said = [self.short.get(word.lower(), word) for word in words]
        return " ".join(said) if said != words else cell

    @property
    def facet(self) -> str:
        """The facet whose terms its open list has; "" for none."""
        return self.facets[0] if self.facets else ""


class ColumnPhrase(NamedTuple):
    """What a prompt says of a column where its formula has no slot for it: the `words`, their
    `facet`, and how they stand; see data/shot-list.toml.
    """

    words: str
    facet: str = ""
    joined: bool = False
    sentence: bool = False
    behind: tuple[str, ...] = ()
    early: bool = False
    once: bool = False
    shown: bool = False


def _read() -> tuple[dict[str, ShotColumn], dict[str, ColumnPhrase]]:
    tables = read_toml(files("syntagma.data").joinpath("shot-list.toml").read_text("utf-8"))
    columns = {name: ShotColumn(**_frozen(values)) for name, values in tables["column"].items()}
    phrases = {name: ColumnPhrase(**_frozen(values)) for name, values in tables["phrase"].items()}
    return columns, {
        name: one._replace(facet=one.facet or (columns[name].facet if name in columns else ""))
        for name, one in phrases.items()
    }


def _frozen(values: Mapping[str, object]) -> dict:
    return {key: tuple(v) if isinstance(v, list) else v for key, v in values.items()}


COLUMNS, PHRASES = _read()
BY_FACET = {facet: name for name, column in COLUMNS.items() for facet in column.facets}
BY_SLOT = {slot: name for name, column in COLUMNS.items() for slot in column.slots}
SCENE_COLUMNS = tuple(name for name, column in COLUMNS.items() if column.scene)
REVERSED = tuple(name for name, column in COLUMNS.items() if column.reversed)
NONE, PICK = "-", "pick"
_NAMES = {name: own for own, column in COLUMNS.items() for name in (own, *column.also)}


def column_of(header: str) -> str:
    """The column that a heading means, in any case, with hyphens or underlines too; "" if it is
    none.
    """
    plain = re.sub(r"[\s_-]+", " ", header.strip().lower())
    bare = plain.partition("(")[0] if plain.endswith(")") else plain  # seconds (least)
    for said in (plain, plain.rstrip(".:*"), re.sub(r"[.:*]", "", bare).strip()):
        if said in _NAMES:
            return _NAMES[said]
    return ""
