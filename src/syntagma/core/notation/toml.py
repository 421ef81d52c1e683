"""TOML: read with the place of each key, and written so that a person's comments and order stay."""

import re
import tomllib
from collections.abc import Mapping, Sequence
from typing import Any

from syntagma.core.diagnostics import Mistake, Refused, Span, SyntagmaError, mistake_at, perhaps
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.structure import (
    DEEP,
    MANY_DIGITS,
    UselessNumber,
    senseless,
    useful_number,
)

# ──── TOML into values: the one door.


_PART = r"""(?:[\w-]++|"[^"\n]*+"|'[^'\n]*+')[ \t]*+"""
_DEEP_KEY = regex(rf"^[ \t]*+\[{{0,2}}+[ \t]*+(?:{_PART}\.[ \t]*+){{{DEEP}}}", re.M)


class NoToml(SyntagmaError, ValueError):
    """Text that is not usable TOML. `at` counts its characters from 0 up to the fault; None where
    the fault has no place.
    """

    def __init__(self, message: str, at: int | None = None):
        super().__init__(message)
        self.at = at


def read_toml(text: str) -> dict[str, Any]:
    """The values of a TOML text (v1.0). A key of more parts than any value may have levels is
    refused before it is read, since some readers take memory for each part of it. Raises NoToml.
    """
    if "." in text and _DEEP_KEY.search(text):
        raise NoToml("it is nested too deeply")
    try:
        values = tomllib.loads(
            text.removeprefix("\ufeff").replace("\r\n", "\n"), parse_float=useful_number
        )
    except tomllib.TOMLDecodeError:
        raise _fault_of(text) from None
    except RecursionError:
        raise NoToml("it is nested too deeply") from None
    except UselessNumber as error:
        raise NoToml(str(error)) from None
    except (
        ValueError
    ):  # of a whole number, which tomllib reads itself: more digits than Python takes
        raise NoToml(MANY_DIGITS) from None
    if wrong := senseless(values):
        raise NoToml(wrong)
    return values


_FAULTS = {  # by what tomlkit, which knows the place of a fault, calls it
    "EmptyKeyError": "a key is empty",
    "EmptyTableNameError": "a table has no name",
    "InvalidCharInStringError": "a character that can't be in a text",
    "InvalidControlChar": "a text without its closing quotation mark, or a control character",
    "InvalidDateError": "an invalid date",
    "InvalidDateTimeError": "an invalid date",
    "InvalidNumberError": "an invalid number",
    "InvalidNumberOrDateError": "an invalid value: text is in quotes",
    "InvalidTimeError": "an invalid time",
    "InvalidUnicodeValueError": "an invalid escape in a text",
    "MixedArrayTypesError": "a list of values of several kinds",
    "UnexpectedCharError": "an unexpected character",
    "UnexpectedEofError": "the text ends too early",
}


def _fault_of(text: str) -> NoToml:
    """What is wrong with a text that is not TOML, and where."""
    import tomlkit  # imported late: only a mistake, or writing, pays for it
    from tomlkit.exceptions import KeyAlreadyPresent, ParseError, TOMLKitError

    try:
        tomlkit.parse(text)
    except ParseError as error:
        lines = [*text.splitlines(keepends=True)[: error.line], ""]
        within = min(error.col, max(0, len(lines[error.line - 1].rstrip()) - 1))
        at = sum(map(len, lines[: error.line - 1])) + within
        return NoToml(_FAULTS.get(type(error).__name__, "this is not TOML"), at)
    except KeyAlreadyPresent:
        return NoToml("a key is given twice")
    except (TOMLKitError, ValueError, RecursionError):
        pass
    return NoToml("this is not TOML")


# ──── Where a key of a TOML file is: from its path (["limits", "text", "most"]) to characters of
# the text.


_HEADER = regex(r"^[ \t]*(\[\[?)\s*(.+?)\s*\]\]?\s*(?:#.*)?$")
_KEY = regex(r"""^[ \t]*((?:[\w-]+|"[^"]*"|'[^']*')(?:\s*\.\s*(?:[\w-]+|"[^"]*"|'[^']*'))*)\s*=""")
_NAME = regex(r"""[\w-]+|"([^"]*)"|'([^']*)'""")


def place_in_toml(text: str, path: Sequence[str | int]) -> Span:
    """The place of the key at `path`, or of the nearest thing above it that is in the text; numbers
    count from 0 in arrays.
    """
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


def _inside(
    line: str, at: int, start: int, path: Sequence[str | int], depth: int, found: Span
) -> tuple[Span, int]:
    """Deeper into a value on the same line: an inline table's keys, one after the other."""
    for name in path[depth:]:
        spot = re.compile(rf"(?<![\w-])[\"']?({re.escape(str(name))})[\"']?\s*=").search(
            line, start
        )
        if not spot:
            break
        found, start, depth = Span(at + spot.start(1), at + spot.end(1)), spot.end(), depth + 1
    return found, depth


# ──── TOML out: the one writer of keys and values, for files that are made with comments round
# them. The quoting is tomlkit's.


_BARE = regex(r"[A-Za-z0-9_-]+")
WIDE = 90  # characters of a list that stand on one line


def value(said: object) -> str:
    """A value as TOML has it: text, a number, true or false, a list of them, a table on one
    line.
    """
    if isinstance(said, Mapping):
        return (
            "{ " + ", ".join(pair(name, one) for name, one in said.items()) + " }" if said else "{}"
        )
    if isinstance(said, Sequence) and not isinstance(said, str):
        parts = [value(one) for one in said]
        return (
            f"[{', '.join(parts)}]"
            if len(", ".join(parts)) < WIDE
            else "[\n" + "".join(f"  {part},\n" for part in parts) + "]"
        )
    if isinstance(said, float) and said == int(said) and abs(said) < 1e15:
        return f"{said:.1f}"
    if isinstance(said, str) and said.isprintable() and '"' not in said and "\\" not in said:
        return f'"{said}"'  # nothing to quote in it
    if type(said) is int:
        return str(said)
    from tomlkit import item

    return item(said).as_string()


def key(name: str) -> str:
    """A key, in quotation marks if it needs them."""
    return name if _BARE.fullmatch(name) else value(name)


def pair(name: str, said: object) -> str:
    """A line: key = value."""
    return f"{key(name)} = {value(said)}"


def table(name: str, said: Mapping[str, object]) -> list[str]:
    """The lines of a table with a blank one before it; none if nothing is in it. `name` may be
    several keys with dots between, as TOML has them.
    """
    return ["", f"[{name}]", *(pair(one, of) for one, of in said.items())] if said else []


def scalar(text: str) -> object:
    """A number or true or false as itself, everything else as text: what a person types for a
    parameter.
    """
    if re.fullmatch(r"-?\d{1,15}", text):
        return int(text)
    if re.fullmatch(r"-?\d{1,15}\.\d{1,15}", text):
        return float(text)
    return {"true": True, "false": False}.get(text, text)


# ──── A small TOML file of a person's: its values, and mistakes that name the line of a key.


SAYS = {
    str: "text in quotes",
    bool: "true or false",
    dict: "a table",
    list: "a list in square brackets",
    int: "a whole number",
    float: "a number",
}


def toml_mistake(source: str, text: str, start: int, stop: int, error: NoToml) -> Mistake:
    """The mistake of the TOML in the characters `start` to `stop` of `text`."""
    toml = text[start:stop]
    at = max(0, len(toml.rstrip()) - 1) if error.at is None else error.at
    remedy = 'it is TOML: name = "text", one per line, text in quotes, tables in [brackets]'
    return mistake_at(
        source, text, Span(start + at, start + at + 1), f"this can't be read: {error}", remedy
    )


class TomlFile:
    """The text of a TOML file while it is read. `mistakes` are what was found wrong so far."""

    def __init__(self, text: str, source: str):
        self.text, self.source = text.removeprefix("\ufeff"), source
        self.mistakes: list[Mistake] = []

    def values(self) -> dict:
        """Everything in it. Raises Refused if it is not TOML."""
        try:
            return read_toml(self.text)
        except NoToml as error:
            raise Refused(
                [toml_mistake(self.source, self.text, 0, len(self.text), error)]
            ) from None

    def good(self, values: Mapping, kinds: Mapping[str, type], what: str, table: str = "") -> dict:
        """The values that are of the kind they should be; the others are mistakes, and so are keys
        that nobody knows.
        """
        good = {}
        for key, value in values.items():
            if key not in kinds:
                self.wrong(
                    key,
                    f"{what} has no key “{key}”",
                    perhaps(key, kinds, f"the keys are {', '.join(kinds)}"),
                    table,
                )
            elif not isinstance(value, (int, float) if kinds[key] is float else kinds[key]):
                says = SAYS[kinds[key]]
                self.wrong(key, f"“{key}” takes {says}", f"write {says} after {key} =", table)
            else:
                good[key] = value
        return good

    def wrong(self, key: str, message: str, remedy: str, table: str = "") -> None:
        """A mistake at the line where `key` is given, in [table] if one is named."""
        section = (
            re.search(rf"^[ \t]*\[\s*{re.escape(table)}\s*\]", self.text, re.M) if table else None
        )
        spot = re.compile(rf"^[ \t]*\[?[\"']?({re.escape(key)})\b", re.M).search(
            self.text, section.end() if section else 0
        )
        at = spot.start(1) if spot else section.start() if section else 0
        self.mistakes.append(
            mistake_at(self.source, self.text, Span(at, at + len(key)), message, remedy)
        )
