"""What was downloaded by hand, and the rows of a sheet that it may answer."""

from pathlib import Path

from syntagma.app.batches.sheets import Sheet, opened
from syntagma.app.results.adding import Keeper, One, Remarks, record_of_row
from syntagma.app.results.matching import OpenTake, TakeMatch, files_in, matched, seconds
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import REMOVED
from syntagma.storage.trouble import Trouble


def looked_at(workspace: Workspace, folder: Path, name: str) -> list[TakeMatch]:
    """The files of a folder, each with the take of a sheet that it belongs to. Raises Trouble."""
    files = files_in(folder)
    if not files:
        raise Trouble(f"{folder} has no pictures, clips or sounds", "name the folder that they were downloaded to", 2)
    with opened(workspace, read_only=True) as ledger:
        sheet = Sheet(workspace, ledger, name)
        attempts: dict[str, list[dict]] = {}
        for one in ledger.attempts(name):
            attempts.setdefault(f"{one['row']}.{one['number']}", []).append(one)
        takes = []
        for row in sheet.rows.values():
            if row.status == REMOVED and not sheet.takes.get(row.id):
                continue
            names = [take.id for take in sheet.takes.get(row.id, ())] or [f"{row.id}.{number}" for number in range(1, row.takes + 1)]
            for take in names:
                own = attempts.get(take, [])
                takes.append(OpenTake(row.id, take, row.text, row.model, tuple(one["task"] for one in own if one["task"]), _size(row.parameters), max((seconds(one["began"]) for one in own), default=0.0)))
    return matched(files, takes)


def _size(parameters) -> tuple[int, int] | None:
    """The size that parameters ask for: width and height, 1024x768, or a ratio 3x2, 16:9."""
    values = {str(key).lower(): str(value) for key, value in parameters.items()}
    if values.get("width", "").isdigit() and values.get("height", "").isdigit():
        return int(values["width"]), int(values["height"])
    for value in values.values():
        wide, sign, high = value.replace(":", "x").partition("x")
        if sign and wide.isdigit() and high.isdigit() and int(high):
            return int(wide), int(high)
    return None


def keep_matched(keeper: Keeper, name: str, matches: list[TakeMatch], remarks: Remarks) -> list[One]:
    """Keep the files with the rows that they answer."""
    kept = []
    with opened(keeper.workspace, read_only=True) as ledger:
        for match in matches:
            if match.take is None:
                continue
            row = ledger.row(name, match.take.row)
            if row is not None:
                source = {} if remarks.source else {"source": f"downloaded by hand ({'sure' if match.sure else 'a guess'}: {match.why})"}
                kept.append(keeper.keep(match.path, record_of_row(row), remarks, sheet=name, take=match.take.take, cost=row.cost, currency=row.currency, use=keeper.use_of(row.model), **source))
    return kept
