"""TOML into values: the one door."""

import re
import tomllib
from typing import Any

from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.sense import DEEP, MANY_DIGITS, senseless, useful_number

_PART = r"""(?:[\w-]++|"[^"\n]*+"|'[^'\n]*+')[ \t]*+"""
_DEEP_KEY = regex(rf"^[ \t]*+\[{{0,2}}+[ \t]*+(?:{_PART}\.[ \t]*+){{{DEEP}}}", re.M)


def read_toml(text: str) -> dict[str, Any]:
    """The values of a TOML text (v1.0). A key of more parts than any value may have levels is refused before it is read, since some readers take memory for each
    part of it. Raises tomllib.TOMLDecodeError."""
    if "." in text and _DEEP_KEY.search(text):
        raise tomllib.TOMLDecodeError("it is nested too deeply")
    try:
        values = tomllib.loads(text.removeprefix("\ufeff").replace("\r\n", "\n"), parse_float=useful_number)
    except tomllib.TOMLDecodeError:
        raise
    except RecursionError:
        raise tomllib.TOMLDecodeError("it is nested too deeply") from None
    except ValueError as error:
        raise tomllib.TOMLDecodeError(MANY_DIGITS if "digits" in str(error) else str(error)) from None
    if wrong := senseless(values):
        raise tomllib.TOMLDecodeError(wrong)
    return values
