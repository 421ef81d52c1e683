"""What values of files are usable: numbers that are none, or of more digits than a machine's, values nested beyond all sense, halves of
characters are valid by the letter, and are refused with a reason as a slip of spelling is."""

from collections.abc import Callable
from typing import Any

DEEP = 60  # levels that a value may be nested
MANY_DIGITS = "a whole number has too many digits"
_LEAST, _LARGEST = -(2**63), 2**64 - 1  # whole numbers that every reader takes


def no_number(number: int | float) -> str:
    """Why a number is unusable; "" if it is."""
    if isinstance(number, float):
        return "" if float("-inf") < number < float("inf") else f"{number} is not a number"
    return "" if _LEAST <= number <= _LARGEST else MANY_DIGITS


def useful_number(text: str) -> float:
    """A number as it is written. Raises ValueError if it is not a usable number."""
    if len(text) > 400:
        raise ValueError("a number has too many digits")
    number = float(text.replace("_", ""))
    if wrong := no_number(number):
        raise ValueError(wrong)
    return number


def senseless(value: Any) -> str:
    """What makes a value unusable, wherever it is in it; "" if nothing does."""
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
    return "it is nested too deeply"


def half_character(text: str) -> str:
    """Why a text can't be written: it holds half of a character (a surrogate by itself); "" if it can."""
    try:
        text.encode("utf-8")
    except UnicodeEncodeError as error:
        return f"the text holds half of a character (\\u{ord(text[error.start]):04x})"
    return ""
