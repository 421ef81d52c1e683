"""The three layers, later over earlier: what ships with Syntagma, the person's own folder, the workspace."""

import os
import sys
from pathlib import Path
from typing import NamedTuple

SETTINGS = "syntagma.toml"
SHIPPED = Path(__file__).resolve().parent.parent / "data"


class Layer(NamedTuple):
    """One folder with vocabulary/, formulas/ and models/ in it. `name`: shipped, own or workspace."""

    name: str
    path: Path

    def files(self, room: str, ending: str) -> dict[str, Path]:
        """The files of one room by name: room "vocabulary", ending ".csv" → {"lighting": …}."""
        try:
            entries = sorted(os.scandir(self.path / room), key=lambda e: e.name)
        except OSError:
            return {}
        return {e.name[: -len(ending)]: Path(e.path) for e in entries if e.name.endswith(ending) and not e.name.startswith(".")}


def own_folder() -> Path:
    """The person's own folder: $SYNTAGMA_HOME, or where this system keeps a program's data."""
    home = os.environ.get("SYNTAGMA_HOME")
    if home:
        return Path(home)
    if sys.platform == "linux" and not {"ANDROID_DATA", "ANDROID_ROOT"} & os.environ.keys():  # the usual case, without waiting for a package
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


ROOMS = {"vocabulary": ".csv", "formulas": ".formula", "looks": ".formula", "themes": ".toml", "models": ".toml"}


def layers(workspace: Path | None) -> list[Layer]:
    """The layers that apply, earliest first."""
    found = [Layer("shipped", SHIPPED), Layer("own", own_folder())]
    return found + ([Layer("workspace", workspace)] if workspace else [])
