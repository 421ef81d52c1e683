"""The texts in an Exif block (TIFF 6.0, CIPA DC-008): read, and blanked in place, so what else it
says (which way is up) stays.
"""

import struct
from collections.abc import Iterator
from typing import NamedTuple

_TEXTS = {
    0x010E: "ImageDescription",
    0x013B: "Artist",
    0x8298: "Copyright",
    0x9286: "UserComment",
    0x9C9B: "XPTitle",
    0x9C9C: "XPComment",
    0x9C9E: "XPKeywords",
    0x9C9F: "XPSubject",
}
_SUB = 0x8769
PROMPTS = ("ImageDescription", "UserComment", "XPTitle", "XPComment", "XPKeywords", "XPSubject")


class Entry(NamedTuple):
    """A text in a block: its name, where it begins, its bytes."""

    name: str
    at: int
    data: bytes


def entries(block: bytes) -> list[Entry]:
    """The texts of a block that begins with its byte order; what is damaged is left out."""
    try:
        return list(_entries(block))
    except (struct.error, IndexError):
        return []


def _entries(block: bytes) -> Iterator[Entry]:
    order = {b"II": "<", b"MM": ">"}.get(block[:2])
    if not order:
        return
    todo, seen = [struct.unpack_from(order + "I", block, 4)[0]], set()
    while todo:
        start = todo.pop()
        if start in seen or start == 0 or len(seen) > 16:
            continue
        seen.add(start)
        (count,) = struct.unpack_from(order + "H", block, start)
        for number in range(min(count, 500)):
            at = start + 2 + 12 * number
            tag, kind, length = struct.unpack_from(order + "HHI", block, at)
            if tag == _SUB:
                todo.append(struct.unpack_from(order + "I", block, at + 8)[0])
            elif tag in _TEXTS and kind in (1, 2, 7):
                place = at + 8 if length <= 4 else struct.unpack_from(order + "I", block, at + 8)[0]
                if place + length <= len(block):
                    yield Entry(_TEXTS[tag], place, block[place : place + length])


def texts(block: bytes) -> dict[str, str]:
    """The texts by name."""
    little = block[:2] == b"II"
    return {one.name: text for one in entries(block) if (text := _text(one, little))}


def _text(one: Entry, little: bool) -> str:
    data = one.data
    if one.name.startswith("XP"):
        return data.decode("utf-16-le", "replace").rstrip("\0")
    if one.name == "UserComment":
        code, data = data[:8], data[8:]
        if code.startswith(b"UNICODE"):
            return data.decode(
                "utf-16-le" if little and data[1:2] == b"\0" else "utf-16-be", "replace"
            ).rstrip("\0 ")
    return data.decode("utf-8", "replace").rstrip("\0 ")


def blanked(block: bytes) -> bytes:
    """The block with every text that may be a prompt blanked, all else as it was."""
    made = bytearray(block)
    for one in entries(block):
        if one.name in PROMPTS:
            made[one.at : one.at + len(one.data)] = b"\0" * len(one.data)
    return bytes(made)
