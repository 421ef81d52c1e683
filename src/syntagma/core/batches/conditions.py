"""Conditions on the columns of a sheet: model=curlew-still, cost>4, text~ferry, status=open and seconds<=6."""

import re
from collections.abc import Callable, Mapping

from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.notation.late_regex import regex

_ONE = regex(r"\s*(?P<column>[^=<>!~]+?)\s*(?P<sign><=|>=|!=|=|<|>|~)\s*(?P<value>.*?)\s*", re.S)
_NUMBER = regex(r"-?\d+(?:[.,]\d+)?")
_MEASURED = regex(r"(-?\d+(?:[.,]\d+)?)(?:\s+[^\W\d]+)?")


class BadCondition(ValueError):
    """A condition that says nothing. `remedy`: what to write instead."""

    def __init__(self, message: str, remedy: str):
        super().__init__(message)
        self.remedy = remedy


def condition(text: str, columns: list[str]) -> Callable[[Mapping[str, str]], bool]:
    """What tells whether a row, by its columns, meets a condition; parts between "and" must all hold. Raises BadCondition."""
    tests = [_test(part, columns) for part in _parts(text)]
    return lambda row: all(test(row) for test in tests)


def _parts(text: str) -> list[str]:
    """The parts between the “and”s of a condition; one within quotation marks, or that leads to no other condition, is a word like any other."""
    parts: list[str] = []
    for piece in re.split(r"\band\b", text):
        whole = not parts or (_ONE.fullmatch(piece) is not None and parts[-1].count('"') % 2 == 0 and parts[-1].count("“") == parts[-1].count("”"))
        if whole:
            parts.append(piece)
        else:
            parts[-1] += f"and{piece}"
    return parts


def _test(text: str, columns: list[str]) -> Callable[[Mapping[str, str]], bool]:
    match = _ONE.fullmatch(text)
    if not match:
        raise BadCondition(f"“{text.strip()}” is not a condition", "write model=curlew-still, cost>4 or text~ferry")
    column = next((name for name in columns if name.lower() == match["column"].lower()), None)
    if column is None:
        raise BadCondition(f"no column is called “{match['column']}”", perhaps(match["column"], columns, f"there are {', '.join(columns)}"))
    sign, value = match["sign"], match["value"].strip("\"“”'")
    if sign in ("<", ">", "<=", ">=") and not _NUMBER.fullmatch(value):
        raise BadCondition(f"“{value}” is not a number", f"write {column}{sign}4")
    return lambda row: _holds(row.get(column, ""), sign, value)


def _holds(cell: str, sign: str, value: str) -> bool:
    if sign == "~":
        return value.lower() in cell.lower()
    numbers = _number(cell), _number(value)
    if sign in ("=", "!="):
        same = cell.strip().lower() == value.lower() or (None not in numbers and numbers[0] == numbers[1])
        return same == (sign == "=")
    if None in numbers:
        return False
    a, b = numbers
    return {"<": a < b, ">": a > b, "<=": a <= b, ">=": a >= b}[sign]


def _number(text: str) -> float | None:
    """A cell as a number, its currency left out: "4 credits" is 4; "1/5" is none."""
    match = _MEASURED.fullmatch(text.strip())
    return float(match[1].replace(",", ".")) if match else None
