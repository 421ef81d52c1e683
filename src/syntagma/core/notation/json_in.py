"""JSON into values: the one door."""

import json
from typing import Any

from syntagma.core.diagnostics import SyntagmaError
from syntagma.core.notation.structure import MANY_DIGITS, senseless, useful_number

_DIGITS = 40


class NoJson(SyntagmaError, ValueError):
    """Text that is not usable JSON. `line` and `column` count from 1."""

    def __init__(self, message: str, line: int = 1, column: int = 1):
        super().__init__(message)
        self.line, self.column = line, column


def read_json(text: str) -> Any:
    """The value of a JSON text (RFC 8259). Raises NoJson."""
    text = text.removeprefix("\ufeff")
    try:
        value = json.loads(
            text, parse_int=_whole, parse_float=useful_number, parse_constant=_no_number
        )
    except json.JSONDecodeError as error:
        raise NoJson(f"{error.msg[:1].lower()}{error.msg[1:]}", error.lineno, error.colno) from None
    except RecursionError:
        raise NoJson("it is nested too deeply") from None
    except ValueError as error:
        raise NoJson(str(error)) from None
    if wrong := senseless(value):
        raise NoJson(wrong)
    return value


def _whole(text: str) -> int:
    if len(text) > _DIGITS:
        raise ValueError(MANY_DIGITS)
    return int(text)


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is not a number")
