"""A shot turned round: the same place, light and people from the other side."""

import re
from collections.abc import Mapping, Sequence

# What a reverse takes from the shot that it turns round, where its own cell is blank.
REVERSED = ("who", "size", "angle", "setting", "story day", "hour", "weather", "light", "look", "wardrobe", "props", "eyeline", "screen side", "facing", "light from", "ambience", "music")
_MIRROR = {"left": "right", "right": "left", "low": "high", "high": "low", "below": "above", "above": "below"}
_OPPOSITE = {"left": "right", "right": "left"}
_TURNED = {**_OPPOSITE, "behind": "front", "front": "behind"}
COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


def mirrored(words: str, pairs: Mapping[str, str] = _MIRROR) -> str:
    """Words with left and right (low and high) changed one for the other."""
    return re.sub(r"[A-Za-z]+", lambda m: _in_case(pairs[m[0].lower()], m[0]) if m[0].lower() in pairs else m[0], words)


def _in_case(word: str, like: str) -> str:
    return word.upper() if like.isupper() and len(like) > 1 else word.capitalize() if like[0].isupper() else word


def turned(cells: Mapping[str, str], who: Sequence[str]) -> dict[str, str]:
    """What a reverse of a shot has: the other in front, the angle mirrored. People keep their sides of the frame and where they look,
    since the camera stays on its side of the line between them: what is said of the foremost alone is the other way round for whoever
    is so now. A lamp that stood at the left is at the right; a compass side stays, and the camera looks the other way."""
    found = dict(cells)
    if len(who) > 1:
        found["who"] = "; ".join((*who[1:], who[0]))
    found["angle"] = mirrored(cells.get("angle", ""))
    for column in ("eyeline", "screen side"):
        cell = cells.get(column, "")
        alone = cell.strip().lower() in _OPPOSITE
        found[column] = _OPPOSITE[cell.strip().lower()] if alone and (len(who) > 1 or column == "eyeline") else cell
    if facing := compass(cells.get("facing", "")):
        found["facing"] = COMPASS[(COMPASS.index(facing) + 4) % 8]
    light = cells.get("light from", "")
    found["light from"] = light if compass(light) else mirrored(light, _TURNED)
    found["light"] = mirrored(cells.get("light", ""), _OPPOSITE)
    return found


def compass(words: str) -> str:
    """The compass side that words name: "window north-east" → "north-east"; "" if they name none."""
    said = re.sub(r"\b(north|south)[ -]?(east|west)\b", r"\1-\2", words.lower())
    found = [side for side in COMPASS if re.search(rf"(?<![\w-]){side}(?:ern|erly)?(?![\w-])", said)]
    return max(found, key=len) if found else ""


def frame_side(light_from: str, facing: str) -> str:
    """Where in the frame the light comes from: left, right, behind (against the camera), front (from beside the camera); "" if that
    can't be determined."""
    source = compass(light_from)
    if source:
        towards = compass(facing)
        if not towards:
            return ""
        turn = (COMPASS.index(source) - COMPASS.index(towards)) % 8
        return ("behind", "right", "right", "right", "front", "left", "left", "left")[turn]
    words = re.findall(r"[a-z]+", light_from.lower())
    return next((side for side in ("left", "right", "behind", "front") if side in words), "")
