"""JSON and TOML into values: the one door for both. What is valid by the letter and of no use (numbers that are none, or of more
digits than a machine's, values nested beyond all sense, halves of characters) is refused with a reason, as a slip of spelling is."""

import json
import tomllib
from collections.abc import Callable
from typing import Any

DEEP = 60  # levels that a value may be nested
_LEAST, _LARGEST = -(2**63), 2**64 - 1  # whole numbers that every reader takes
_DIGITS = 40


class NoJson(ValueError):
    """Text that is no JSON of use. `line` and `column` count from 1."""

    def __init__(self, message: str, line: int = 1, column: int = 1):
        super().__init__(message)
        self.line, self.column = line, column


def read_json(text: str) -> Any:
    """The value of a JSON text (RFC 8259). Raises NoJson."""
    text = text.removeprefix("\ufeff")
    try:
        value = json.loads(text, parse_int=_whole, parse_float=_number, parse_constant=_no_number)
    except json.JSONDecodeError as error:
        raise NoJson(f"{error.msg[:1].lower()}{error.msg[1:]}", error.lineno, error.colno) from None
    except RecursionError:
        raise NoJson("it is nested too deep") from None
    except ValueError as error:
        raise NoJson(str(error)) from None
    if wrong := _senseless(value):
        raise NoJson(wrong)
    return value


def read_toml(text: str) -> dict[str, Any]:
    """The values of a TOML text (v1.0). Raises tomllib.TOMLDecodeError."""
    try:
        values = tomllib.loads(text.removeprefix("\ufeff").replace("\r\n", "\n"), parse_float=_number)
    except tomllib.TOMLDecodeError:
        raise
    except RecursionError:
        raise tomllib.TOMLDecodeError("it is nested too deep") from None
    except ValueError as error:
        raise tomllib.TOMLDecodeError(_plain(str(error))) from None
    if wrong := _senseless(values):
        raise tomllib.TOMLDecodeError(wrong)
    return values


def no_number(number: int | float) -> str:
    """Why a number is of no use; "" where it is."""
    if isinstance(number, float):
        return "" if float("-inf") < number < float("inf") else f"{number} is no number"
    return "" if _LEAST <= number <= _LARGEST else "a whole number has more digits than a machine's"


def _whole(text: str) -> int:
    if len(text) > _DIGITS:
        raise ValueError("a whole number has more digits than a machine's")
    return int(text)


def _number(text: str) -> float:
    if len(text) > 400:
        raise ValueError("a number has too many digits")
    number = float(text.replace("_", ""))
    if wrong := no_number(number):
        raise ValueError(wrong)
    return number


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _plain(message: str) -> str:
    return "a whole number has more digits than a machine's" if "digits" in message else message


def _senseless(value: Any) -> str:
    """What makes a value of no use, wherever it stands in it; "" where nothing does."""
    checks: dict[type, Callable[[Any], str]] = {int: no_number, float: no_number, str: half_character}
    level = [value]
    for _ in range(DEEP):
        below: list[Any] = []
        for one in level:
            if isinstance(one, dict):
                below += one.keys()
                below += one.values()
            elif isinstance(one, list):
                below += one
            elif (check := checks.get(type(one))) and (wrong := check(one)):
                return wrong
        if not below:
            return ""
        level = below
    return "it is nested too deep"


def half_character(text: str) -> str:
    """Why a text can't be written: it holds half of a character (a surrogate by itself); "" where it can."""
    try:
        text.encode("utf-8")
    except UnicodeEncodeError as error:
        return f"the text holds half of a character (\\u{ord(text[error.start]):04x})"
    return ""
