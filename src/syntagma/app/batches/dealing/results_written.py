"""Results written: each whole, under a name of its own, never over another; and what of it is not what was asked for."""

import hashlib
import os
import re
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any, NamedTuple
from uuid import uuid4

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import SheetRow
from syntagma.core.models.parameters import own_name, settle
from syntagma.core.models.profile import Profile
from syntagma.formats.media_files import CLIPS, JPEG, PICTURES, PNG, Media, NotWhole, media_of
from syntagma.service.answers import Result
from syntagma.service.client import Client, decoded
from syntagma.storage.files import make_folder
from syntagma.storage.folders import own_folder

PATTERN = "results/{sheet}/{take}"  # where results lie, unless the workspace's settings say otherwise
RESCUED = "rescued"  # where in the person's own folder a result lies that can't be written where it should
RATIO_TOLERANCE = 0.02  # by how much a ratio may differ
_TYPES = {"png": PNG, "jpg": JPEG, "jpeg": JPEG, "webp": ".webp", "gif": ".gif", "mp4": ".mp4", "webm": ".webm"}


class Strange(Exception):
    """A file that is not a whole picture, clip or sound."""


class Came(NamedTuple):
    """A file that came: its path from the workspace's folder, what is in it in short, and what it is."""

    path: str
    digest: str
    media: Media


class ResultFiles:
    """Writes results into a workspace's folder, under the names that its settings say."""

    def __init__(self, workspace: Workspace):
        self.workspace = workspace
        self.root = workspace.folder or Path.cwd()

    def written(self, client: Client, result: Result, one: Mapping[str, Any], name: str, row: SheetRow | None) -> Came:
        """Write one result. What came within the answer, and can't be written, is put into the person's own folder, since it can't be obtained again. Raises
        Unreadable, Strange, httpx.HTTPError, OSError."""
        parts = self._path(one, name, row)
        if not result.data:
            return self._placed(parts, lambda beside: client.fetch(result.address, beside)[1])
        data = decoded(result.data)
        try:
            return self._placed(parts, lambda beside: _put(beside, data))
        except OSError as error:
            rescued = own_folder() / RESCUED / f"{one['sheet']}-{name}-{uuid4().hex[:8]}".replace("/", "-")
            try:
                rescued.parent.mkdir(parents=True, exist_ok=True)
                rescued.write_bytes(data)
            except OSError:
                raise error from None
            raise Strange(f"it can't be written where it belongs ({error.strerror or error}); it was saved as {rescued}") from None

    def _placed(self, parts: list[str], fill: Any) -> Came:
        folder = self.root.joinpath(*parts[:-1])
        _no_link(self.root, folder)
        make_folder(folder)
        beside = folder / f".{parts[-1][:80]}.{uuid4().hex[:8]}.part"
        try:
            kind = fill(beside)
            try:
                media = media_of(beside)
            except NotWhole as wrong:
                raise Strange(f"{wrong}{f', though it is called {kind[:40]}' if kind else ''}") from None
            with open(beside, "rb+") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()[:32]
                os.fsync(file.fileno())
            target = _free(folder, parts[-1], media.ending, digest)
            os.replace(beside, target)
        finally:
            beside.unlink(missing_ok=True)
        return Came(target.relative_to(self.root).as_posix(), digest, media)

    def _path(self, one: Mapping[str, Any], name: str, row: SheetRow | None) -> list[str]:
        """Where a result is to lie: the parts of a path within the workspace, each a name that any system takes; the take's own is in the last."""
        values = {"sheet": one["sheet"], "take": name, "row": one["row"], "model": row.model if row else "", "clip": row.further.get("clip", "") if row else ""}
        pattern = str(self.workspace.settings.get("results") or PATTERN)
        said = re.sub(r"\{(\w+)\}", lambda match: _plain(values.get(match[1], match[1])), pattern)
        parts = [_plain(part) for part in said.replace("\\", "/").split("/") if part.strip(". ")] or [_plain(name)]
        return parts if "{take}" in pattern else [*parts[:-1], f"{parts[-1]}-{_plain(name)}"]


def _put(path: Path, data: bytes) -> str:
    path.write_bytes(data)
    return ""


def _free(folder: Path, stem: str, ending: str, digest: str) -> Path:
    """A name in a folder that no other file has; the same file keeps the one that it has."""
    number = 1
    while True:
        target = folder / f"{stem}{f'-{number}' if number > 1 else ''}{ending}"
        if not os.path.lexists(target):
            return target
        if target.is_file() and not target.is_symlink():
            with open(target, "rb") as file:
                if hashlib.file_digest(file, "sha256").hexdigest()[:32] == digest:
                    return target
        number += 1


def _no_link(root: Path, folder: Path) -> None:
    """Raises Strange if the way to a folder leads over a link, out of the workspace."""
    at = root
    for part in folder.relative_to(root).parts:
        at = at / part
        if at.is_symlink():
            raise Strange(f"{at} is a link, and Syntagma does not write through links")


def _plain(name: str) -> str:
    """A name that any system takes as one of a file."""
    return "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in name).strip(".")[:120] or "result"


def asked_size(profile: Profile, row: SheetRow) -> tuple[tuple[int, int] | None, float | None]:
    """(The size in pixels, the ratio) that was asked for; None if nothing says it."""
    asked = {own_name(profile, name) for name in row.parameters}
    values = {name: value for name, value in settle(profile, {}, row.parameters).values.items() if name in asked}
    number = {name: int(value) for name in ("width", "height") if isinstance(value := values.get(name), int | float) and not isinstance(value, bool)}
    size = (number["width"], number["height"]) if len(number) == 2 else None
    ratio = str(values.get("ratio", ""))
    size = size or profile.sizes.get(ratio)
    sides = [float(side) for side in ratio.split(":") if re.fullmatch(r"\d+(\.\d+)?", side)] if ratio.count(":") == 1 else []
    return size, (sides[0] / sides[1] if len(sides) == 2 and all(sides) else size[0] / size[1] if size else None)


def remarks(profile: Profile, row: SheetRow, files: Iterable[Came]) -> str:
    """What of the files that came is not what was asked for: a clip in place of a picture, another size, ratio or type; "" if all is."""
    found: list[str] = []
    size, ratio = asked_size(profile, row)
    wanted = next((_TYPES[text] for name in ("format", "type", "kind") if (text := str(row.parameters.get(name, "")).lower()) in _TYPES), "")
    for _, _, media in files:
        if profile.makes == "image" and media.ending in CLIPS:
            found.append("the service sent a clip instead of a picture")
        elif profile.makes == "video" and media.ending in PICTURES and not (media.moving or media.ending in (".gif", ".webp")):
            found.append("the service sent a picture instead of a clip")
        if wanted and media.ending != wanted:
            found.append(f"{media.ending[1:].upper()} came instead of {wanted[1:].upper()}")
        if media.size and ratio and abs(media.size[0] / max(1, media.size[1]) / ratio - 1) > RATIO_TOLERANCE:
            found.append(f"it is {media.size[0]} × {media.size[1]}, and {row.parameters.get('ratio') or f'{size[0]} × {size[1]}' if size else row.parameters.get('ratio')} was asked for")
        elif media.size and size and media.size != size and {"width", "height"} <= row.parameters.keys():
            found.append(f"it is {media.size[0]} × {media.size[1]}, but {size[0]} × {size[1]} was asked for")
    return "; ".join(dict.fromkeys(found))
