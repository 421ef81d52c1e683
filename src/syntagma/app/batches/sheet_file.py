"""A sheet as a file that people edit: CSV, or XLSX with open lists, wrapped text, findings in colour; and the copy that comes back."""

import csv
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from syntagma.app.batches.sheets import Sheet
from syntagma.app.workspace.tables import read_table
from syntagma.core.batches.rows import PERSONS
from syntagma.core.diagnostics.places import Refused
from syntagma.core.models.parameters import shown
from syntagma.formats.cells import HarmlessCells
from syntagma.storage.files import whole_file
from syntagma.storage.trouble import Trouble

ENDINGS = (".csv", ".xlsx")


def write_sheet_file(sheet: Sheet, path: str, note: Callable[[str], None], rows: Sequence[Mapping[str, str]] | None = None) -> int:
    """Give a sheet out; return how many rows. Raises Trouble."""
    ending = Path(path).suffix.lower()
    if ending not in ENDINGS:
        raise Trouble(f"can't write a sheet as {ending or path}", "name it .xlsx or .csv", 2)
    cells = list(rows if rows is not None else sheet.table())
    columns = sheet.columns
    if ending == ".xlsx":
        from syntagma.formats.xlsx import write_looked_over

        with whole_file(path) as file:
            try:
                write_looked_over(file.buffer, sheet.name, columns, [[one[name] for name in columns] for one in cells], _lists(sheet), "findings")
            except ValueError as wrong:
                raise Trouble(f"{path} can't be written: {wrong}", "write .csv") from None
        return len(cells)
    safe = HarmlessCells()
    with whole_file(path) as file:
        out = csv.writer(file)
        out.writerow(safe.row(list(columns)))
        for one in cells:
            out.writerow(safe.row([one[name] for name in columns]))
    if safe.note:
        note(safe.note)
    return len(cells)


def _lists(sheet: Sheet) -> dict[str, list[str]]:
    """The open lists: statuses, models, the values of closed parameters."""
    models = list(dict.fromkeys(row.model for row in sheet.rows.values()))
    found = {"status": list(PERSONS), "model": list(sheet.workspace.models())}
    for name in sheet.parameters:
        values = [shown(value) for model in models if model in sheet.workspace.models() and (rule := sheet.workspace.model(model).parameter.get(name)) for value in rule.values]
        if values:
            found[name] = list(dict.fromkeys(values))
    return found


def read_sheet_file(path: str) -> list[dict[str, str]]:
    """The rows of a copy. Raises Refused if rows can't be read, Trouble if it is not a sheet."""
    columns, rows, mistakes = read_table(path)
    if mistakes:
        raise Refused(list(mistakes))
    names = {column: column.strip().lower() for column in columns}
    if "id" not in names.values():
        raise Trouble(f"{path} has no column “id”, which identifies its rows", "use the file that sheet show --out wrote", 1)
    known = {"id", "status", "takes", "text", "negative", "note", "model", "seen"}
    return [{(names[column] if names[column] in known else column): cell for column, cell in row.cells.items()} for row in rows]
