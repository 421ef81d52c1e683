"""The folders of a person and a workspace, what is compiled in the cache, and stars and notes."""

import csv
import io
import marshal
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

from syntagma import __version__
from syntagma.core.diagnostics import Trouble
from syntagma.core.vocabulary.terms import normal
from syntagma.storage.files import held, make_folder, read_text, write_text

# ──── The three layers, later over earlier: what ships with Syntagma, the person's own folder, the
# workspace.


SETTINGS = "syntagma.toml"
SHIPPED = Path(__file__).resolve().parent.parent / "data"


class Layer(NamedTuple):
    """One folder with vocabulary/, formulas/ and models/ in it. `name`: shipped, own or
    workspace.
    """

    name: str
    path: Path

    def files(self, room: str, ending: str) -> dict[str, Path]:
        """The files of one room by name: room "vocabulary", ending ".csv" → {"lighting": …}."""
        try:
            entries = sorted(os.scandir(self.path / room), key=lambda e: e.name)
        except OSError:
            return {}
        return {
            e.name[: -len(ending)]: Path(e.path)
            for e in entries
            if e.name.endswith(ending) and not e.name.startswith(".")
        }


def own_folder() -> Path:
    """The person's own folder: $SYNTAGMA_HOME, or where this system keeps a program's data."""
    home = os.environ.get("SYNTAGMA_HOME")
    if home:
        return Path(home)
    if (
        sys.platform == "linux" and not {"ANDROID_DATA", "ANDROID_ROOT"} & os.environ.keys()
    ):  # the usual case, without waiting for a package
        data = os.environ.get("XDG_DATA_HOME", "")  # XDG Base Directory Specification 0.8
        return (Path(data) if os.path.isabs(data) else Path.home() / ".local/share") / "syntagma"
    from platformdirs import user_data_path  # all other systems

    return user_data_path("syntagma", appauthor=False)


def cache_folder() -> Path:
    """Where this system keeps a program's caches; all in it may be deleted."""
    if sys.platform == "linux" and not {"ANDROID_DATA", "ANDROID_ROOT"} & os.environ.keys():
        kept = os.environ.get("XDG_CACHE_HOME", "")
        return (Path(kept) if os.path.isabs(kept) else Path.home() / ".cache") / "syntagma"
    from platformdirs import user_cache_path  # all other systems

    return user_cache_path("syntagma", appauthor=False)


def find_workspace(start: Path) -> Path | None:
    """The nearest folder from `start` upwards that holds syntagma.toml."""
    for folder in (start, *start.parents):
        if (folder / SETTINGS).is_file():
            return folder
    return None


def looks_like_one(folder: Path) -> bool:
    """Has a folder the rooms of a workspace, with files in them, though it is none?"""
    layer = Layer("", folder)
    return any(layer.files(room, ending) for room, ending in ROOMS.items())


ROOMS = {
    "vocabulary": ".csv",
    "formulas": ".formula",
    "looks": ".formula",
    "themes": ".toml",
    "models": ".toml",
}


def layers(workspace: Path | None) -> list[Layer]:
    """The layers that apply, earliest first."""
    found = [Layer("shipped", SHIPPED), Layer("own", own_folder())]
    return found + ([Layer("workspace", workspace)] if workspace else [])


# ──── What files say, compiled into the person's cache folder, so the next call reads it in a
# fraction of the time: made again when a file changes, done without if it can't be kept.


FORMAT = 1  # of what is kept: a step up for each change to what is compiled


def compiled(path: Path, what: str, make: Callable[[], Any]) -> Any:
    """What `make` makes of a file, from the cache if it is there and the file has not changed
    since. `what` names what is made of it; it is made of tuples, lists, dicts, strings and numbers.
    Whatever `make` raises is raised.
    """
    try:
        state = path.stat()
    except OSError:
        return make()
    name = sha256(f"{path}\0{what}".encode()).hexdigest()[:24]
    kept = cache_folder() / f"{name}.bin"
    sign = (
        FORMAT,
        __version__,
        sys.version_info[:2],
        marshal.version,
        str(path),
        what,
        state.st_mtime_ns,
        state.st_size,
    )
    with suppress(OSError, ValueError, EOFError, TypeError):
        signed, made = marshal.loads(kept.read_bytes())
        if signed == sign:
            return made
    made = make()
    with suppress(OSError, ValueError):
        kept.parent.mkdir(parents=True, exist_ok=True)
        beside = kept.with_suffix(
            f".{os.getpid()}"
        )  # put in place whole: two calls may write at a time
        beside.write_bytes(marshal.dumps((sign, made)))
        beside.replace(kept)
    return made


# ──── A person's marks on terms, stars and notes, in one CSV file of their own folder: marks.csv.


FILE = "marks.csv"


class TermMark(NamedTuple):
    """What a person has set on one term."""

    star: bool = False
    note: str = ""


Marks = dict[tuple[str, str], TermMark]  # (facet, term) → mark


def marks_file() -> Path:
    return own_folder() / FILE


@contextmanager
def marks_held() -> Iterator[None]:
    """Hold the marks for this call, from reading to writing them. Raises Trouble."""
    make_folder(marks_file().parent)
    with held(marks_file()):
        yield


def read_marks() -> Marks:
    """All marks; none without a file. Raises Trouble if it can't be read."""
    path = marks_file()
    if not path.exists():
        return {}
    rows = csv.DictReader(io.StringIO(read_text(path), newline=""))
    try:
        return {
            (row.get("facet") or "", row.get("term") or ""): TermMark(
                (row.get("star") or "") == "yes", row.get("note") or ""
            )
            for row in rows
        }
    except csv.Error as error:
        raise Trouble(
            f"{path} can't be read: {error}",
            "correct it, or move it: it holds your stars and notes",
        ) from None


def write_marks(marks: Marks) -> None:
    """Write all marks, those that say nothing left out. Raises Trouble."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["facet", "term", "star", "note"])
    for (facet, term), mark in sorted(marks.items()):
        if mark.star or mark.note:
            writer.writerow([facet, term, "yes" if mark.star else "", mark.note])
    make_folder(marks_file().parent)
    write_text(marks_file(), out.getvalue())


def by_name(marks: Marks) -> Marks:
    """The same by the normal form of the term's name."""
    return {(facet, normal(term)): mark for (facet, term), mark in marks.items()}
