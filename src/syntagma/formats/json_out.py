"""JSON out. What writes it is heavy, so that only a call that writes some waits for it."""

from collections.abc import Callable
from typing import Any


def encoder() -> Callable[[Any], bytes]:
    """What writes a value in one line, without spaces, in UTF-8."""
    from msgspec import json

    return json.Encoder().encode


def indented(line: bytes) -> bytes:
    """The same value over several lines."""
    from msgspec import json

    return json.format(line)
