"""The request of a row as its service gets it, with the results that it waits for filled in, and
pictures as addresses or data. `leaving` lists every file that would be sent, so a person sees it
first. A file must be in the workspace's folder, not behind a link, and a picture, clip or sound;
nothing else is ever sent.
"""

import base64
import hashlib
import mimetypes
from functools import lru_cache
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import NoFile, Trouble
from syntagma.core.models.references import kind_of
from syntagma.core.models.request_shape import as_json
from syntagma.core.sheets import DONE, SheetRow
from syntagma.formats.media_files import NotWhole, media_of
from syntagma.storage.files import within
from syntagma.storage.ledger import Ledger

MOST = 32 << 20  # bytes of a picture that is sent


class Leaving(NamedTuple):
    """A file that a request includes: its name in the row, the hash of its content ("" if it can't
    be sent), and the reason.
    """

    name: str
    digest: str
    why: str = ""


def leaving(workspace: Workspace, row: SheetRow) -> list[Leaving]:
    """The files that a row's request includes, except those that it waits for."""
    waited = {str(need.get("file", "")) for need in row.needs}
    service = workspace.model(row.model).service if row.model in workspace.models() else None
    found = []
    for reference in row.references:
        name = str(reference.get("value", ""))
        if not name or kind_of(name) != "path" or name in waited:
            continue
        try:
            path = _file(workspace, name)
            if service and service.pictures != "data":
                raise Trouble(
                    f"{name} is a file on this machine, but the service of {row.model} takes"
                    " pictures by web address"
                )
            stat = path.stat()
            found.append(Leaving(name, _digest(path, stat.st_mtime_ns, stat.st_size)))
        except Trouble as trouble:
            found.append(Leaving(name, "", str(trouble)))
    return found


@lru_cache(maxsize=4096)
def _digest(path: Path, changed: int, size: int) -> str:
    """The hash of a file, remembered while the file is unchanged."""
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "blake2b").hexdigest()[:16]


def _file(workspace: Workspace, name: str) -> Path:
    """A file that may be sent. Raises Trouble."""
    path = within(workspace.folder or Path.cwd(), name)
    if not path.is_file():
        raise NoFile(name)
    if path.stat().st_size > MOST:
        raise Trouble(f"{name} is too large to be sent")
    try:
        media_of(path)
    except (NotWhole, OSError) as wrong:
        raise Trouble(f"{name} is not sent: {str(wrong).replace('the result', 'it')}") from None
    return path


def request_body(
    workspace: Workspace, ledger: Ledger, sheet: str, row: SheetRow, ungated: bool = False
) -> tuple[dict[str, Any] | None, str]:
    """(The request, "") or (None, what it waits for)."""
    files: dict[str, str] = {}
    for need in row.needs:
        found, why = _chosen(workspace, ledger, sheet, need, ungated)
        if not found:
            return None, why
        files[str(need.get("file", ""))] = found
    service = workspace.model(row.model).service
    values: dict[str, str] = {}
    for reference in row.references:
        value = str(reference.get("value", ""))
        path = files.get(value, value)
        if kind_of(path) != "path" or not value:
            continue
        try:
            whole = _file(workspace, path)
        except Trouble as trouble:
            return None, str(trouble)
        if not service or service.pictures != "data":
            return (
                None,
                (
                    f"{path} is a file on this machine, but the service of {row.model} takes"
                    " pictures by web address"
                ),
            )
        kind = mimetypes.guess_type(whole.name)[0] or "application/octet-stream"
        values[value] = f"data:{kind};base64,{base64.b64encode(whole.read_bytes()).decode('ascii')}"
    return _with(dict(row.request), values), ""


def short_of(body: Any) -> str:
    """The hash of a request; equal requests have equal hashes."""
    return hashlib.blake2b(
        as_json(body).encode("utf-8", "surrogatepass"), digest_size=12
    ).hexdigest()


def _with(value: Any, values: dict[str, str]) -> Any:
    """A request with some of its texts replaced."""
    if isinstance(value, dict):
        return {key: _with(one, values) for key, one in value.items()}
    if isinstance(value, list):
        return [_with(one, values) for one in value]
    return values.get(value, value) if isinstance(value, str) else value


def _chosen(
    workspace: Workspace, ledger: Ledger, sheet: str, need: Any, ungated: bool
) -> tuple[str, str]:
    """(The file that a row waits for, "") or ("", why it is not there)."""
    name, file = str(need.get("of", "")), str(need.get("file", ""))
    source = next((row for row in ledger.rows(sheet) if row.further.get("clip") == name), None)
    if need.get("what") == "last picture":
        return (
            (file, "")
            if _there(workspace, file)
            else ("", f"it waits for the last picture of {name}, as {file}")
        )
    if source is None:
        return (
            (file, "")
            if _there(workspace, file)
            else ("", f"it waits for {name}, but no row of this sheet has that name")
        )
    takes = [take for take in ledger.takes(sheet, source.id) if take.state == DONE and take.file]
    picked = next((take for take in takes if take.chosen), takes[0] if ungated and takes else None)
    if picked:
        return picked.file.split("; ")[0], ""
    return (
        "",
        (
            f"it waits for a take of {name} ({source.id})"
            f" {'to be chosen: syntagma sheet choose' if takes else 'to arrive'}"
        ),
    )


def _there(workspace: Workspace, file: str) -> bool:
    try:
        return within(workspace.folder or Path.cwd(), file).is_file()
    except Trouble:
        return False
