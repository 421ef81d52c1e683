"""Patterns of a person's own: text with {places}. A place may carry what leads to it: {, how} is nothing where `how` is blank."""

import re
from collections.abc import Mapping

PLACE = re.compile(r"\{([^\w{}]*)([A-Za-z_]\w*(?:[.-]\w+)*)([^\w{}]*)\}")


def written(pattern: str, values: Mapping[str, object]) -> str:
    """The pattern with its places filled; one that is blank, or that nobody knows, goes with what it carries."""

    def place(match: re.Match) -> str:
        value = values.get(match[2])
        return "" if value in (None, "") else f"{match[1]}{value}{match[3]}"

    return PLACE.sub(place, pattern)


def places(pattern: str) -> list[str]:
    """The names of a pattern's places, in order."""
    return [match[2] for match in PLACE.finditer(pattern)]


def recognised(pattern: str, shapes: Mapping[str, str]) -> str:
    """A regular expression for what the pattern writes: a group for each place, in the shape given for it. What a place
    carries is optional with it; a place that stands twice has to say the same."""
    out, at, seen = [], 0, set()
    for match in PLACE.finditer(pattern):
        out.append(_spaced(pattern[at : match.start()]))
        name = re.sub(r"[.-]", "_", match[2])
        group = rf"(?P={name})" if name in seen else rf"(?P<{name}>{shapes.get(match[2], '.+?')})"
        seen.add(name)
        carried = match[1] or match[3]
        out.append(rf"(?:{_spaced(match[1])}{group}{_spaced(match[3])})?" if carried else group)
        at = match.end()
    return "".join([*out, _spaced(pattern[at:])])


def _spaced(text: str) -> str:
    """Fixed text as a regular expression, any run of spaces being one."""
    return r"\s+".join(re.escape(part) for part in re.split(r"\s+", text)) if text else ""
