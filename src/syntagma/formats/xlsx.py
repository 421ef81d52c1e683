"""Spreadsheets (XLSX), in and out: the first sheet, its first row naming the columns."""

from collections.abc import Sequence
from pathlib import Path

from syntagma.core.places import Mistake
from syntagma.formats.table_in import Row


def read_sheet(path: Path, source: str) -> tuple[list[str], list[Row], list[Mistake]]:
    """Return (columns, rows, mistakes) as read_rows does for CSV. Raises OSError; a file that is no workbook is a mistake."""
    from zipfile import BadZipFile

    from openpyxl import load_workbook  # heavy: only a spreadsheet pays for it
    from openpyxl.utils.exceptions import InvalidFileException

    try:
        book = load_workbook(path, read_only=True, data_only=True)
    except (BadZipFile, InvalidFileException, KeyError, ValueError):
        return [], [], [Mistake("this is no workbook", "save it as .xlsx, or export it as CSV UTF-8", source)]
    lines = [[_text(cell) for cell in row] for row in book.worksheets[0].iter_rows(values_only=True)]
    book.close()
    if not lines:
        return [], [], [Mistake("the first sheet is empty", "its first row names the columns", source)]
    columns = [name.strip() for name in lines[0]]
    rows = [
        Row(number, {name: cell for name, cell in zip(columns, cells, strict=False) if name})
        for number, cells in enumerate(lines[1:], 2)
        if any(cell.strip() for cell in cells)
    ]
    return columns, rows, []


def _text(value: object) -> str:
    """A cell as text: 3.0 as 3, nothing as blank."""
    if value is None:
        return ""
    return str(int(value)) if isinstance(value, float) and value.is_integer() else str(value)


def write_sheet(path: Path, name: str, columns: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
    """Write one sheet, its header bold and standing still. Raises OSError."""
    from openpyxl import Workbook
    from openpyxl.styles import Font

    book = Workbook()
    sheet = book.active
    sheet.title = name[:31]
    sheet.append(list(columns))
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    sheet.freeze_panes = "A2"
    for row in rows:
        sheet.append(list(row))
        for cell in sheet[sheet.max_row]:
            cell.data_type = "s"  # text stays text: =, + and 1/2 are no formulas and no dates
    for i, column in enumerate(columns):
        widest = max([len(column), *(len(row[i]) for row in rows)])
        sheet.column_dimensions[sheet.cell(1, i + 1).column_letter].width = min(60, widest + 2)
    book.save(path)
