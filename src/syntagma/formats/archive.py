"""Zip archives out: the same entries give the same bytes, whenever and wherever they are
written.
"""

import re
import unicodedata
from collections.abc import Iterable
from typing import IO

PLAIN = (
    ".png",
    ".jpg",
    ".jpeg",
    ".webp",
    ".gif",
    ".mp4",
    ".webm",
    ".mov",
    ".mkv",
    ".mp3",
    ".ogg",
    ".m4a",
    ".zip",
    ".xlsx",
)  # packed already
_DAY = (1980, 1, 1, 0, 0, 0)  # the first that the format knows
_DEVICES = {
    "con",
    "prn",
    "aux",
    "nul",
    *(f"{name}{n}" for name in ("com", "lpt") for n in range(1, 10)),
}
LONGEST = 80  # characters of a name


def write_archive(file: IO[bytes], entries: Iterable[tuple[str, bytes]]) -> int:
    """Write entries (path within the archive, bytes) in the order in which they come; return how
    many. Raises OSError, ValueError for a name that appears twice.
    """
    from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

    seen: set[str] = set()
    with ZipFile(file, "w") as archive:
        for name, data in entries:
            if name.casefold() in seen:
                raise ValueError(f"two entries are called {name}")
            seen.add(name.casefold())
            entry = ZipInfo(name, _DAY)
            entry.create_system, entry.external_attr = 3, 0o644 << 16
            archive.writestr(
                entry, data, ZIP_STORED if name.lower().endswith(PLAIN) else ZIP_DEFLATED, 9
            )
    return len(seen)


def safe_name(text: str, instead: str = "picture") -> str:
    """A name for a file that every system takes: letters, digits and hyphens, no name of a
    device.
    """
    plain = unicodedata.normalize("NFKC", text).strip()
    name = re.sub(r"[^\w.]+", "-", plain.replace("_", "-")).strip("-.")
    name = re.sub(r"[-.]*\.[-.]*", ".", name)[:LONGEST].rstrip("-.")
    return f"{name}-{instead}" if name.partition(".")[0].lower() in _DEVICES else name or instead


def apart(name: str, taken: set[str]) -> str:
    """The name, with a number after it if it is taken (in any case); it is taken from now on."""
    stem, dot, ending = name.rpartition(".")
    stem, ending = (stem, dot + ending) if stem else (name, "")
    found, number = name, 1
    while found.casefold() in taken:
        number += 1
        found = f"{stem}-{number}{ending}"
    taken.add(found.casefold())
    return found
