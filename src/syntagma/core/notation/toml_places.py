"""Where a key of a TOML file is: from its path (["limits", "text", "most"]) to characters of the text."""

import re
from collections.abc import Sequence

from syntagma.core.diagnostics.places import Span
from syntagma.core.notation.late_regex import regex

_HEADER = regex(r"^[ \t]*(\[\[?)\s*(.+?)\s*\]\]?\s*(?:#.*)?$")
_KEY = regex(r"""^[ \t]*((?:[\w-]+|"[^"]*"|'[^']*')(?:\s*\.\s*(?:[\w-]+|"[^"]*"|'[^']*'))*)\s*=""")
_NAME = regex(r"""[\w-]+|"([^"]*)"|'([^']*)'""")


def place_in_toml(text: str, path: Sequence[str | int]) -> Span:
    """The place of the key at `path`, or of the nearest thing above it that is in the text; numbers count from 0 in
    arrays."""
    best, found = 0, Span(0, 1)
    table: list[str | int] = []
    arrays: dict[tuple, int] = {}
    at = 0
    for line in text.splitlines(keepends=True):
        header, key = _HEADER.match(line), _KEY.match(line)
        if header:
            table = list(_names(header[2]))
            if header[1] == "[[":
                number = arrays[tuple(table)] = arrays.get(tuple(table), -1) + 1
                table.append(number)
            if (depth := _common(table, path)) > best and depth == len(table):
                best, found = depth, Span(at + header.start(2), at + header.end(2))
        elif key:
            whole = [*table, *_names(key[1])]
            if (depth := _common(whole, path)) > best and depth == len(whole):
                best, found = depth, Span(at + key.start(1), at + key.end(1))
                found, best = _inside(line, at, key.end(), path, depth, found)
        at += len(line)
    return found


def _names(words: str) -> list[str]:
    return [m[1] or m[2] or m[0].strip("\"'") for m in _NAME.finditer(words)]


def _common(whole: Sequence[str | int], path: Sequence[str | int]) -> int:
    depth = 0
    for one, other in zip(whole, path, strict=False):
        if one != other:
            break
        depth += 1
    return depth


def _inside(line: str, at: int, start: int, path: Sequence[str | int], depth: int, found: Span) -> tuple[Span, int]:
    """Deeper into a value on the same line: an inline table's keys, one after the other."""
    for name in path[depth:]:
        spot = re.compile(rf"(?<![\w-])[\"']?({re.escape(str(name))})[\"']?\s*=").search(line, start)
        if not spot:
            break
        found, start, depth = Span(at + spot.start(1), at + spot.end(1)), spot.end(), depth + 1
    return found, depth
