"""WebP (RFC 9649): its chunks, the texts in them, and a copy with other texts; what is drawn stays
byte for byte.
"""

import struct
from collections.abc import Iterator

from syntagma.formats.metadata import exif
from syntagma.formats.metadata.png import BadPicture, Chunk

_HAS_XMP, _HAS_EXIF, _HAS_ALPHA = 0x04, 0x08, 0x10
_SIGNED = b"C2PA"


def chunks(data: bytes) -> Iterator[Chunk]:
    """The chunks in order. Raises BadPicture if the file is cut short."""
    end = 8 + struct.unpack_from("<I", data, 4)[0]
    if end > len(data):
        raise BadPicture("the picture is cut short")
    at = 12
    while at + 8 <= end:
        (length,) = struct.unpack_from("<I", data, at + 4)
        if at + 8 + length > end:
            raise BadPicture("the picture is cut short")
        yield Chunk(data[at : at + 4], data[at + 8 : at + 8 + length])
        at += 8 + length + length % 2


def xmp(data: bytes) -> bytes:
    """Its XMP packet; b"" if it has none."""
    return next((one.data for one in chunks(data) if one.kind == b"XMP "), b"")


def texts(data: bytes) -> dict[str, str]:
    """The texts of its Exif block."""
    block = next((one.data for one in chunks(data) if one.kind == b"EXIF"), b"")
    return exif.texts(block.removeprefix(b"Exif\0\0"))


def with_xmp(data: bytes, packet: bytes, keep_texts: bool = True) -> bytes:
    """A copy with this packet in place of the one that is there; a simple file becomes an extended
    one, as a packet needs it. A signed provenance goes: it would be broken.
    """
    found = [one for one in chunks(data) if one.kind not in (b"XMP ", _SIGNED)]
    if not keep_texts:
        found = [
            one._replace(data=exif.blanked(one.data)) if one.kind == b"EXIF" else one
            for one in found
        ]
    if not found or found[0].kind != b"VP8X":
        found.insert(0, _extended(found))
    head = found[0]
    found[0] = head._replace(data=bytes([head.data[0] | _HAS_XMP]) + head.data[1:])
    found.append(Chunk(b"XMP ", packet))
    body = b"WEBP" + b"".join(
        one.kind + struct.pack("<I", len(one.data)) + one.data + b"\0" * (len(one.data) % 2)
        for one in found
    )
    return b"RIFF" + struct.pack("<I", len(body)) + body


def _extended(found: list[Chunk]) -> Chunk:
    """The head that an extended file needs, from what a simple one says of itself."""
    picture = next((one for one in found if one.kind in (b"VP8 ", b"VP8L")), None)
    if picture is None or len(picture.data) < 10:
        raise BadPicture("the picture is damaged")
    flags = _HAS_EXIF if any(one.kind == b"EXIF" for one in found) else 0
    if picture.kind == b"VP8 ":
        wide, high = (size & 0x3FFF for size in struct.unpack_from("<HH", picture.data, 6))
    else:
        (bits,) = struct.unpack_from("<I", picture.data, 1)
        wide, high = (bits & 0x3FFF) + 1, ((bits >> 14) & 0x3FFF) + 1
        flags |= _HAS_ALPHA if bits >> 28 & 1 else 0
    return Chunk(
        b"VP8X",
        bytes([flags, 0, 0, 0])
        + (wide - 1).to_bytes(3, "little")
        + (high - 1).to_bytes(3, "little"),
    )


def is_signed(data: bytes) -> bool:
    return any(one.kind == _SIGNED for one in chunks(data))
