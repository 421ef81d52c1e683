"""JSON out. What writes it is heavy, so only a call that writes some waits for it."""

from collections.abc import Callable, Iterable
from typing import Any


def encoder() -> Callable[[Any], bytes]:
    """What writes a value in one line, without spaces, in UTF-8."""
    from msgspec import json

    return json.Encoder().encode


def indented(line: bytes) -> bytes:
    """The same value over several lines."""
    from msgspec import json

    return json.format(line)


class ItemsOut:
    """One object of what may be many, as it comes: `items`, and at the end the findings of the
    whole call and what is said of all of them. `write` takes bytes.
    """

    def __init__(self, write: Callable[[bytes], Any]):
        self._write, self._encode = write, encoder()
        self._lead = b'{\n"items": [\n'

    def add(self, item: object) -> None:
        self._write(self._lead + indented(self._encode(item)))
        self._lead = b",\n"

    def close(self, findings: Iterable[object], **beside: object) -> None:
        self._write(b"\n]" if self._lead == b",\n" else b'{"items": []')
        for key, value in {"findings": list(findings), **beside}.items():
            self._write(b",\n" + self._encode(key) + b": " + indented(self._encode(value)))
        self._write(b"\n}\n")
