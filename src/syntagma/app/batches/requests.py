"""The request of a row as its service gets it: what it waits for put in, pictures as addresses or as data."""

import base64
import mimetypes
from pathlib import Path
from typing import Any

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import DONE, SheetRow
from syntagma.core.models.references import kind_of
from syntagma.storage.ledger import Ledger

MOST = 32 << 20  # bytes of a picture that is sent


def request_body(workspace: Workspace, ledger: Ledger, sheet: str, row: SheetRow, ungated: bool = False) -> tuple[dict[str, Any] | None, str]:
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
        whole = (workspace.folder or Path.cwd()) / path
        if not whole.is_file():
            return None, f"{path} is not there"
        if service and service.pictures == "data":
            if whole.stat().st_size > MOST:
                return None, f"{path} is too large to be sent"
            kind = mimetypes.guess_type(whole.name)[0] or "application/octet-stream"
            values[value] = f"data:{kind};base64,{base64.b64encode(whole.read_bytes()).decode('ascii')}"
        else:
            return None, f"{path} is a file here, and the service of {row.model} takes pictures by address"
    return _with(dict(row.request), values), ""


def _with(value: Any, values: dict[str, str]) -> Any:
    """A request with some of its texts put in place of others."""
    if isinstance(value, dict):
        return {key: _with(one, values) for key, one in value.items()}
    if isinstance(value, list):
        return [_with(one, values) for one in value]
    return values.get(value, value) if isinstance(value, str) else value


def _chosen(workspace: Workspace, ledger: Ledger, sheet: str, need: Any, ungated: bool) -> tuple[str, str]:
    """(The file that a row waits for, "") or ("", why it is not there)."""
    name, file = str(need.get("of", "")), str(need.get("file", ""))
    source = next((row for row in ledger.rows(sheet) if row.further.get("clip") == name), None)
    if need.get("what") == "last picture":
        there = ((workspace.folder or Path.cwd()) / file).is_file()
        return (file, "") if there else ("", f"it waits for the last picture of {name}, as {file}")
    if source is None:
        there = ((workspace.folder or Path.cwd()) / file).is_file()
        return (file, "") if there else ("", f"it waits for {name}, which is in no row of this sheet")
    takes = [take for take in ledger.takes(sheet, source.id) if take.state == DONE and take.file]
    picked = next((take for take in takes if take.chosen), takes[0] if ungated and takes else None)
    if picked:
        return picked.file.split("; ")[0], ""
    return "", f"it waits until a take of {name} ({source.id}) is {'chosen: syntagma sheet choose' if takes else 'there'}"
