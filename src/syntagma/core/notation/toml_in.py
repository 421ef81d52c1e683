"""TOML into values: the one door."""

import tomllib
from typing import Any

from syntagma.core.notation.sense import MANY_DIGITS, senseless, useful_number


def read_toml(text: str) -> dict[str, Any]:
    """The values of a TOML text (v1.0). Raises tomllib.TOMLDecodeError."""
    try:
        values = tomllib.loads(text.removeprefix("\ufeff").replace("\r\n", "\n"), parse_float=useful_number)
    except tomllib.TOMLDecodeError:
        raise
    except RecursionError:
        raise tomllib.TOMLDecodeError("it is nested too deep") from None
    except ValueError as error:
        raise tomllib.TOMLDecodeError(MANY_DIGITS if "digits" in str(error) else str(error)) from None
    if wrong := senseless(values):
        raise tomllib.TOMLDecodeError(wrong)
    return values
