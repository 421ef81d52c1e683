"""PNG (ISO/IEC 15948): its chunks, the texts in them, and a copy with other texts; what is drawn
stays byte for byte.
"""

import struct
import zlib
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from syntagma.core.diagnostics import SyntagmaError

SIGNATURE = b"\x89PNG\r\n\x1a\n"
_XMP = b"XML:com.adobe.xmp"  # the keyword that ISO 16684-3 gives
_TEXTS = (b"tEXt", b"zTXt", b"iTXt")
_SIGNED = b"caBX"  # a signed provenance, which no copy can keep
MOST = 4 << 20  # bytes of a text that was packed


class BadPicture(SyntagmaError, ValueError):
    """A file that is not what its beginning says."""


class Chunk(NamedTuple):
    """A chunk: its kind of four letters, and what is in it."""

    kind: bytes
    data: bytes


def chunks(data: bytes) -> Iterator[Chunk]:
    """The chunks in order. Raises BadPicture if the file is cut short or damaged."""
    at = len(SIGNATURE)
    while at < len(data):
        if at + 12 > len(data):
            raise BadPicture("the picture is cut short")
        (length,) = struct.unpack_from(">I", data, at)
        if at + 12 + length > len(data):
            raise BadPicture("the picture is cut short")
        yield Chunk(data[at + 4 : at + 8], data[at + 8 : at + 8 + length])
        at += 12 + length
        if data[at - 8 - length : at - 4 - length] == b"IEND":
            return


def _written(parts: Iterable[Chunk]) -> bytes:
    return SIGNATURE + b"".join(
        struct.pack(">I", len(c.data))
        + c.kind
        + c.data
        + struct.pack(">I", zlib.crc32(c.kind + c.data))
        for c in parts
    )


def texts(data: bytes) -> dict[str, str]:
    """The texts of a PNG by their keywords, the XMP packet apart."""
    return {name: text for name, text in _texts(data) if name.encode("latin-1", "replace") != _XMP}


def xmp(data: bytes) -> bytes:
    """Its XMP packet; b"" if it has none."""
    return next(
        (
            text.encode("utf-8", "replace")
            for name, text in _texts(data)
            if name.encode("latin-1", "replace") == _XMP
        ),
        b"",
    )


def _texts(data: bytes) -> Iterator[tuple[str, str]]:
    for chunk in chunks(data):
        if chunk.kind in _TEXTS:
            name, _, rest = chunk.data.partition(b"\0")
            try:
                yield name.decode("latin-1"), _text(chunk.kind, rest)
            except (zlib.error, IndexError, ValueError):
                continue


def _text(kind: bytes, rest: bytes) -> str:
    if kind == b"tEXt":
        try:
            return rest.decode("utf-8")  # many write UTF-8 where the standard has Latin-1
        except UnicodeDecodeError:
            return rest.decode("latin-1")
    if kind == b"zTXt":
        return _unpacked(rest[1:]).decode("latin-1")
    packed, _, after = rest[0], rest[1], rest[2:]
    _, _, after = after.partition(b"\0")
    _, _, after = after.partition(b"\0")
    return (_unpacked(after) if packed else after).decode("utf-8", "replace")


def _unpacked(data: bytes) -> bytes:
    unpacker = zlib.decompressobj()
    return unpacker.decompress(data, MOST)


def with_xmp(data: bytes, packet: bytes, keep_texts: bool = True) -> bytes:
    """A copy with this packet in place of the one that is there; other texts stay or go. A signed
    provenance goes: it would be broken.
    """
    found = []
    for chunk in chunks(data):
        ours = chunk.kind in _TEXTS and chunk.data.startswith(_XMP + b"\0")
        if ours or chunk.kind == _SIGNED or (chunk.kind in (*_TEXTS, b"eXIf") and not keep_texts):
            continue
        found.append(chunk)
        if chunk.kind == b"IHDR":
            found.append(Chunk(b"iTXt", _XMP + b"\0\0\0\0\0" + packet))
    return _written(found)


def is_signed(data: bytes) -> bool:
    return any(chunk.kind == _SIGNED for chunk in chunks(data))
