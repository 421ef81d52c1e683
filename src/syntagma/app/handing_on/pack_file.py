"""The file of a pack: a zip with a manifest (pack.toml) and texts in the rooms of a workspace. One
from a stranger is read without harm: every name, size and count is bounded before anything is
looked at, and nothing is unpacked to a disk.
"""

import hashlib
import io
import re
import stat
import unicodedata
from collections.abc import Iterable, Mapping
from typing import IO, Any, NamedTuple
from zipfile import BadZipFile, ZipFile, ZipInfo

from syntagma.core.diagnostics import Trouble
from syntagma.core.notation.toml import pair, read_toml
from syntagma.formats.archive import safe_name, write_archive

MANIFEST = "pack.toml"
ENDING = ".syntagma.zip"
MOST_FILES, MOST_BYTES, MOST_PICTURE, MOST_TABLE, MOST_TEXT = (
    2_000,
    64 << 20,
    8 << 20,
    2 << 20,
    96 << 10,
)
ROOMS = {
    "formulas": ".formula",
    "looks": ".formula",
    "themes": ".toml",
    "models": ".toml",
    "vocabulary": ".csv",
    "situations": ".csv",
    "plans": ".toml",
}
ALONE = ("known.toml", "facets.toml")
PICTURES = (".png", ".jpg", ".jpeg", ".webp")
_PICTURE = re.compile(r"pictures/([^\W_][\w-]{0,60})/([^\W_][\w-]{0,80})(\.[a-z]{3,4})")
ABOUT = ("name", "about", "whose", "licence", "version")


class Pack(NamedTuple):
    """A pack in memory: what its manifest says of it, its files by path, and the terms that its
    pictures are of (path → facet, term).
    """

    said: Mapping[str, str]
    files: Mapping[str, bytes]
    pictures: Mapping[str, tuple[str, str]] = {}

    @property
    def name(self) -> str:
        return self.said.get("name", "")


def write_pack(file: IO[bytes], pack: Pack) -> None:
    """Write a pack; the same pack gives the same bytes. Raises OSError."""
    folder = safe_name(pack.name, "pack")
    lines = [
        "# A pack of Syntagma: syntagma pack show FILE lists what is in it.",
        "",
        *(pair(key, pack.said[key]) for key in ABOUT if pack.said.get(key)),
    ]
    for path, data in sorted(pack.files.items()):
        lines += [
            "",
            "[[file]]",
            pair("path", path),
            pair("bytes", len(data)),
            pair("sha256", hashlib.sha256(data).hexdigest()),
        ]
        if path in pack.pictures:
            lines += [pair("facet", pack.pictures[path][0]), pair("term", pack.pictures[path][1])]
    entries = [(MANIFEST, ("\n".join(lines) + "\n").encode()), *sorted(pack.files.items())]
    write_archive(file, ((f"{folder}/{path}", data) for path, data in entries))


def read_pack(data: bytes, source: str) -> Pack:
    """Read a pack. Raises Trouble if it is none, or holds what a pack can't hold: then nothing of
    it is taken.
    """
    try:
        with ZipFile(io.BytesIO(data)) as archive:
            files = _files(archive, source)
    except (
        BadZipFile,
        NotImplementedError,
        RuntimeError,
        OSError,
        EOFError,
        ValueError,
        OverflowError,
    ) as error:
        raise Trouble(
            f"{source} can't be read as a pack ({type(error).__name__})",
            "ask the sender for it again: syntagma pack NAME --out FILE makes one",
            1,
        ) from None
    except Exception as error:  # zlib.error, lzma errors, struct errors: what is packed is damaged
        if isinstance(error, Trouble | MemoryError):
            raise
        raise Trouble(f"{source} is damaged", "ask the sender for it again", 1) from None
    if MANIFEST not in files:
        raise Trouble(
            f"{source} has no {MANIFEST}, so it is not a pack",
            "syntagma pack NAME --out FILE makes one",
            1,
        )
    return _checked(files.pop(MANIFEST), files, source)


def _files(archive: ZipFile, source: str) -> dict[str, bytes]:
    """The bytes of every entry by its path, the folder round all of them taken off. Raises
    Trouble.
    """
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    if len(archive.infolist()) > MOST_FILES:
        raise _refused(
            source,
            f"it holds {len(archive.infolist()):,} files, and a pack has at most {MOST_FILES:,}",
        )
    paths = {entry.filename: _path(entry, source) for entry in entries}
    tops = {path.partition("/")[0] for path in paths.values()}
    wrapped = (
        len(tops) == 1
        and all("/" in path for path in paths.values())
        and not tops & {*ROOMS, "pictures"}
    )
    found: dict[str, bytes] = {}
    seen: set[str] = set()
    left = MOST_BYTES
    for entry in entries:
        path = paths[entry.filename].partition("/")[2] if wrapped else paths[entry.filename]
        _belongs(path, source)
        folded = unicodedata.normalize("NFKC", path).casefold()
        if folded in seen:
            raise _refused(
                source, f"two of its files have the name “{path}”, as some systems see it"
            )
        seen.add(folded)
        most = min(
            left,
            (
                MOST_PICTURE
                if path.startswith("pictures/")
                else (
                    MOST_TABLE
                    if path.startswith(("vocabulary/", "situations/")) or path == MANIFEST
                    else MOST_TEXT
                )
            ),
        )
        with archive.open(entry) as part:
            held = part.read(most + 1)  # what it says of its own size is not a promise
        if len(held) > most:
            raise _refused(source, f"“{path}” is too large for its kind of file")
        left -= len(held)
        found[path] = held
    return found


def _path(entry: ZipInfo, source: str) -> str:
    """The path of an entry, if it is one that can do no harm. Raises Trouble."""
    name = entry.filename
    mode = entry.external_attr >> 16
    if stat.S_ISLNK(mode) or (stat.S_IFMT(mode) not in (0, stat.S_IFREG)):
        raise _refused(source, f"“{name[:80]}” is a link or a device")
    if entry.flag_bits & 1:
        raise _refused(source, f"“{name[:80]}” is locked with a password")
    parts = name.split("/")
    if (
        "\\" in name
        or ":" in name
        or name.startswith("/")
        or any(part in ("", ".", "..") for part in parts)
        or not name.isprintable()
        or len(name) > 300
    ):
        raise _refused(source, f"“{name[:80]}” is a path that a pack can't have")
    for part in parts:
        stem, dot, _ = part.rpartition(".")
        if part != part.rstrip(". ") or safe_name(stem if dot else part, "") != (
            stem if dot else part
        ).replace("_", "-"):
            raise _refused(source, f"“{name[:80]}” is a name that some systems refuse")
    return name


def _belongs(path: str, source: str) -> None:
    """Is it a file that a pack can hold? Raises Trouble."""
    room, _, name = path.partition("/")
    if (
        path == MANIFEST
        or path in ALONE
        or (
            room in ROOMS
            and "/" not in name
            and name.endswith(ROOMS[room])
            and len(name) > len(ROOMS[room])
        )
    ):
        return
    match = _PICTURE.fullmatch(path)
    if not match or match[3] not in PICTURES:
        raise _refused(source, f"a pack can't contain “{path[:80]}”")


def _checked(manifest: bytes, files: dict[str, bytes], source: str) -> Pack:
    """The pack, where its manifest names each file with what it is. Raises Trouble."""
    try:
        said = read_toml(manifest.decode("utf-8"))
    except (ValueError, RecursionError) as error:
        raise _refused(
            source, f"its {MANIFEST} can't be read ({str(error).splitlines()[0][:80]})"
        ) from None
    listed: Any = said.get("file", [])
    rows = [row for row in listed if isinstance(row, dict)] if isinstance(listed, list) else []
    named = {str(row.get("path", "")): row for row in rows}
    for path, data in files.items():
        if not path.startswith("pictures/") and not _is_text(data):
            raise _refused(source, f"“{path}” is not text (UTF-8)")
        row = named.get(path)
        if row is None:
            raise _refused(source, f"“{path}” is not in its manifest")
        if row.get("sha256") != hashlib.sha256(data).hexdigest():
            raise _refused(source, f"“{path}” differs from its manifest")
    if missing := [path for path in named if path not in files]:
        raise _refused(source, f"“{missing[0][:80]}” is in its manifest, but not in the file")
    about = {
        key: " ".join(str(said[key]).split())[:300]
        for key in ABOUT
        if isinstance(said.get(key), str | int | float)
    }
    pictures = {
        path: (str(row.get("facet", "")), str(row.get("term", "")))
        for path, row in named.items()
        if path.startswith("pictures/")
    }
    return Pack(about, files, pictures)


def _is_text(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def _refused(source: str, why: str) -> Trouble:
    return Trouble(
        f"Syntagma refuses {source}: {why}",
        "nothing was imported; ask whoever made it for another copy",
        1,
    )


def texts(files: Mapping[str, bytes], room: str) -> Iterable[tuple[str, str, str]]:
    """(Path, name, text) of the files of a room."""
    for path, data in sorted(files.items()):
        if path.startswith(f"{room}/"):
            yield path, path.partition("/")[2][: -len(ROOMS[room])], data.decode("utf-8")
