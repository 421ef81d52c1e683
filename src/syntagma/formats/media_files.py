"""What a picture, clip or sound that came really is: its kind by what it begins with, whether it is
there to its end, and its size in pixels.
"""

import struct
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, NamedTuple

from syntagma.core.diagnostics import SyntagmaError

PNG, JPEG, GIF, WEBP, MP4, WEBM, PDF, MP3, OGG, WAV = (
    ".png",
    ".jpg",
    ".gif",
    ".webp",
    ".mp4",
    ".webm",
    ".pdf",
    ".mp3",
    ".ogg",
    ".wav",
)
PICTURES, CLIPS, SOUNDS = (PNG, JPEG, GIF, WEBP), (MP4, WEBM), (MP3, OGG, WAV)
_BEGINNINGS = {
    b"\x89PNG\r\n\x1a\n": PNG,
    b"\xff\xd8\xff": JPEG,
    b"GIF8": GIF,
    b"\x1aE\xdf\xa3": WEBM,
    b"%PDF": PDF,
    b"ID3": MP3,
    b"\xff\xfb": MP3,
    b"OggS": OGG,
}
_FRAMES = {*range(0xC0, 0xD0)} - {0xC4, 0xC8, 0xCC}  # the markers of a JPEG that say its size


class NotWhole(SyntagmaError, ValueError):
    """A file that is not a picture, clip or sound, or not there to its end."""


class Media(NamedTuple):
    """A file: its ending, and its width and height in pixels (None if its kind does not say)."""

    ending: str
    size: tuple[int, int] | None = None
    moving: bool = False


def media_of(path: Path) -> Media:
    """What a file is. PNG (ISO/IEC 15948), JPEG (ISO/IEC 10918-1), GIF89a, WebP and WAVE (RIFF),
    MP4 (ISO/IEC 14496-12), PDF and Ogg are followed to their ends. Raises NotWhole, OSError.
    """
    with open(path, "rb") as file:
        head = file.read(32)
        if not head:
            raise NotWhole("the result is empty")
        size = file.seek(0, 2)
        ending = _ending(head)
        try:
            return _READERS.get(ending, _as_it_is)(file, size, ending)
        except struct.error:
            raise NotWhole("it is cut short") from None


def _ending(head: bytes) -> str:
    if head[4:8] == b"ftyp":
        return MP4
    if head.startswith(b"RIFF"):
        found = {b"WEBP": WEBP, b"WAVE": WAV}.get(head[8:12], "")
    else:
        found = next(
            (ending for magic, ending in _BEGINNINGS.items() if head.startswith(magic)), ""
        )
    if not found:
        raise NotWhole("it is neither a picture nor a clip")
    return found


def _as_it_is(file: BinaryIO, size: int, ending: str) -> Media:
    return Media(ending, None, ending in CLIPS)


def _png(file: BinaryIO, size: int, ending: str) -> Media:
    at, pixels, moving = 8, None, False
    while True:
        file.seek(at)
        length, kind = struct.unpack(">I4s", file.read(8))
        if kind == b"IHDR":
            pixels = struct.unpack(">II", file.read(8))
        moving = moving or kind == b"acTL"
        at += 12 + length
        if at > size:
            raise NotWhole("it is cut short")
        if kind == b"IEND":
            return Media(ending, pixels, moving)


def _jpeg(file: BinaryIO, size: int, ending: str) -> Media:
    file.seek(max(0, size - 64))
    if b"\xff\xd9" not in file.read():
        raise NotWhole("it is cut short")
    at = 2
    while at < size:
        file.seek(at)
        sign, marker, length = struct.unpack(">BBH", file.read(4))
        if sign != 0xFF:
            raise NotWhole("it is damaged")
        if marker == 0xFF:
            at += 1
            continue
        if marker in _FRAMES:
            _, height, width = struct.unpack(">BHH", file.read(5))
            return Media(ending, (width, height))
        at += 2 + length
    raise NotWhole("it is cut short")


def _gif(file: BinaryIO, size: int, ending: str) -> Media:
    file.seek(6)
    pixels = struct.unpack("<HH", file.read(4))
    file.seek(max(0, size - 16))
    if not file.read().rstrip(b"\0").endswith(b";"):
        raise NotWhole("it is cut short")
    return Media(ending, pixels)


def _riff(file: BinaryIO, size: int, ending: str) -> Media:
    file.seek(4)
    (length,) = struct.unpack("<I", file.read(4))
    if length + 8 > size:
        raise NotWhole("it is cut short")
    file.seek(12)
    head = file.read(18)
    pixels = None
    if head.startswith(b"VP8X"):
        pixels = (
            1 + int.from_bytes(head[12:15], "little"),
            1 + int.from_bytes(head[15:18], "little"),
        )
    elif head.startswith(b"VP8L"):
        bits = int.from_bytes(head[9:13], "little")
        pixels = (1 + (bits & 0x3FFF), 1 + (bits >> 14 & 0x3FFF))
    elif head.startswith(b"VP8 "):
        file.seek(26)
        pixels = tuple(side & 0x3FFF for side in struct.unpack("<HH", file.read(4)))
    return Media(ending, pixels)


def _mp4(file: BinaryIO, size: int, ending: str) -> Media:
    at, kinds = 0, set()
    while at < size:
        file.seek(at)
        length, kind = struct.unpack(">I4s", file.read(8))
        kinds.add(kind)
        length = (
            struct.unpack(">Q", file.read(8))[0] if length == 1 else length or size - at
        )  # 0: to the end of the file
        if length < 8 or at + length > size:
            raise NotWhole("it is cut short")
        at += length
    if b"moov" not in kinds:  # what says how it is to be played
        raise NotWhole("it is cut short")
    return Media(ending, None, True)


def _pdf(file: BinaryIO, size: int, ending: str) -> Media:
    file.seek(max(0, size - 1024))
    if b"%%EOF" not in file.read():
        raise NotWhole("it is cut short")
    return Media(ending)


_READERS: dict[str, Callable[[BinaryIO, int, str], Media]] = {
    PNG: _png,
    JPEG: _jpeg,
    GIF: _gif,
    WEBP: _riff,
    WAV: _riff,
    MP4: _mp4,
    PDF: _pdf,
}
