"""JPEG (ISO/IEC 10918-1): its segments, the texts in them, and a copy with other texts; what is
drawn stays byte for byte.
"""

import struct
from collections.abc import Iterator
from typing import NamedTuple

from syntagma.formats.metadata import exif
from syntagma.formats.metadata.png import BadPicture

SIGNATURE = b"\xff\xd8\xff"
_XMP = b"http://ns.adobe.com/xap/1.0/\0"  # the identifier that ISO 16684-3 gives
_EXIF = b"Exif\0\0"
MOST = 65_533 - len(_XMP)  # bytes of a packet
_JFIF, _APP1, _SIGNED, _APP13, _COMMENT, _SCAN = 0xE0, 0xE1, 0xEB, 0xED, 0xFE, 0xDA


class Segment(NamedTuple):
    """A segment: its marker, and what is in it; the last one, from the scan on, is the picture
    itself.
    """

    marker: int
    data: bytes


def segments(data: bytes) -> Iterator[Segment]:
    """The segments before the picture, then all that is left as one. Raises BadPicture."""
    at = 2
    while at + 4 <= len(data):
        if data[at] != 0xFF:
            raise BadPicture("the picture is damaged")
        marker = data[at + 1]
        if marker == 0xFF:
            at += 1
            continue
        if marker == _SCAN:
            yield Segment(marker, data[at:])
            return
        (length,) = struct.unpack_from(">H", data, at + 2)
        if length < 2 or at + 2 + length > len(data):
            raise BadPicture("the picture is cut short")
        yield Segment(marker, data[at + 4 : at + 2 + length])
        at += 2 + length
    raise BadPicture("the picture is cut short")


def xmp(data: bytes) -> bytes:
    """Its XMP packet; b"" if it has none."""
    return next(
        (
            s.data[len(_XMP) :]
            for s in segments(data)
            if s.marker == _APP1 and s.data.startswith(_XMP)
        ),
        b"",
    )


def texts(data: bytes) -> dict[str, str]:
    """Its comments, and the texts of its Exif block."""
    found: dict[str, str] = {}
    for one in segments(data):
        if one.marker == _COMMENT:
            found["comment"] = one.data.decode("utf-8", "replace").rstrip("\0")
        elif one.marker == _APP1 and one.data.startswith(_EXIF):
            found |= exif.texts(one.data[len(_EXIF) :])
    return {name: text for name, text in found.items() if text.strip()}


def with_xmp(data: bytes, packet: bytes, keep_texts: bool = True) -> bytes:
    """A copy with this packet in place of the one that is there; comments and other texts stay or
    go. Raises BadPicture if the packet is longer than a segment takes. A signed provenance goes: it
    would be broken.
    """
    if len(packet) > MOST:
        raise BadPicture(f"a JPEG holds {MOST:,} bytes of text, but this is {len(packet):,}")
    found = [bytes(SIGNATURE[:2])]
    own = _written(Segment(_APP1, _XMP + packet))
    put = False
    for one in segments(data):
        first = one.marker == _JFIF or (one.marker == _APP1 and one.data.startswith(_EXIF))
        if not put and not first:
            found.append(own)
            put = True
        if one.marker == _SCAN:
            found.append(one.data)
        elif (
            (one.marker == _APP1 and one.data.startswith(_XMP))
            or one.marker == _SIGNED
            or (not keep_texts and one.marker in (_COMMENT, _APP13))
        ):
            continue
        elif not keep_texts and one.marker == _APP1 and one.data.startswith(_EXIF):
            found.append(_written(Segment(_APP1, _EXIF + exif.blanked(one.data[len(_EXIF) :]))))
        else:
            found.append(_written(one))
    return b"".join(found)


def _written(one: Segment) -> bytes:
    if 0xD0 <= one.marker <= 0xD7 or one.marker == 0x01:
        return bytes([0xFF, one.marker])
    return bytes([0xFF, one.marker]) + struct.pack(">H", len(one.data) + 2) + one.data


def is_signed(data: bytes) -> bool:
    return any(one.marker == _SIGNED for one in segments(data))
