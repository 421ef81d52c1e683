"""Spreadsheets (XLSX), in and out: the first sheet, its first row naming the columns. What a
stranger's workbook may cost is bounded before it is opened.
"""

import re
import textwrap
from collections.abc import Iterator, Mapping, Sequence
from io import BytesIO
from typing import IO, Any

from syntagma.core.diagnostics import Mistake, Refused, SyntagmaError
from syntagma.formats.table_in import MOST_COLUMNS, Table, TableRow, is_note, too_wide, twice

MOST_BYTES = 128 << 20  # of all that is packed in a workbook
MOST_CELLS = 4_000_000
MOST_ROWS = 200_000
LONGEST_CELL = 32_767
AREA = (  # the defined name that says where a form's cells stand: its first row names their columns
    "syntagma_form"
)
_XML = (".xml", ".rels", ".vml")


def sheet_lines(data: bytes, source: str) -> tuple[list[list[str]], list[tuple[int, int]]]:
    """The cells of the first sheet as text, and where (row from 1, column from 0) a formula has no
    result. Raises Refused for what is not a workbook, damaged, or larger than sense.
    """
    if wrong := _unsafe(data):
        raise Refused([Mistake(*wrong, source)])
    try:
        lines, blank = _lines(data)
    except _Unread as bad:
        remedy = "keep only the rows that you need, or export them as CSV UTF-8"
        raise Refused([Mistake(str(bad), remedy, source)]) from None
    except (
        Exception
        # a damaged workbook raises whatever its damage comes to: the package raises nothing
        # narrower
    ) as error:
        if isinstance(error, MemoryError):
            raise
        message = "this can't be read as a workbook"
        remedy = "save it as .xlsx again, or export it as CSV UTF-8"
        raise Refused([Mistake(message, remedy, source)]) from None
    if not lines:
        message, remedy = "the first sheet is empty", "its first row names the columns"
        raise Refused([Mistake(message, remedy, source)])
    return lines, blank


def without_result(
    blank: Sequence[tuple[int, int]], columns: Sequence[str], source: str
) -> list[Mistake]:
    """The mistakes of formulas that have no result, each with the heading of its column."""
    remedy = "open the workbook in a spreadsheet and save it, or write the text itself"
    found = []
    for number, column in blank:
        known = column < len(columns) and columns[column]
        name = columns[column] if known else f"number {column + 1}"
        message = f"the cell of column {name} is a formula without a result"
        found.append(Mistake(message, remedy, source, number, 1))
    return found


def read_sheet(data: bytes, source: str) -> Table:
    """Return (columns, rows, mistakes) as read_rows does for CSV. What is not a workbook, damaged,
    or larger than sense is a mistake.
    """
    try:
        lines, blank = sheet_lines(data, source)
    except Refused as bad:
        return [], [], list(bad.mistakes)
    if area := _area(data):
        return _filled_in(lines, *area)
    noted = is_note(lines[0])
    lines = lines[noted:] or [[]]
    columns = [name.strip() for name in lines[0]]
    if len(columns) > MOST_COLUMNS:
        return [], [], [Mistake(*too_wide(len(columns)), source)]
    mistakes = twice(columns, source, 1)
    mistakes += without_result(blank, columns, source)
    rows = []
    for number, cells in enumerate(lines[1:], 2 + noted):
        if not any(cell.strip() for cell in cells):
            continue
        if any(cell.strip() for cell in cells[len(columns) :]):
            message = f"the row has {len(cells)} cells, but the table has {len(columns)} columns"
            mistakes.append(
                Mistake(message, "name every column in the first row", source, number, 1)
            )
            continue
        rows.append(
            TableRow(
                number, {name: cell for name, cell in zip(columns, cells, strict=False) if name}
            )
        )
    return columns, rows, mistakes


def _area(data: bytes) -> tuple[int, int, int] | None:
    """Where the cells of a form stand, its row and first and last column from 1; None if the
    workbook is not a form.
    """
    from zipfile import ZipFile

    from openpyxl.utils import range_boundaries

    with ZipFile(BytesIO(data)) as archive:
        if "xl/workbook.xml" not in archive.namelist():
            return None
        found = re.search(
            rb'<definedName\b[^>]*\bname="'
            + AREA.encode()
            + rb'"[^>]*>[^<]*!([$A-Z0-9]+:[$A-Z0-9]+)<',
            archive.read("xl/workbook.xml"),
        )
    if not found:
        return None
    left, top, right, _ = range_boundaries(found[1].decode())
    return top, left, right


def _filled_in(lines: Sequence[Sequence[str]], top: int, left: int, right: int) -> Table:
    """The rows of a form, however many were added; what is in several columns of one name is a
    list.
    """
    columns = (
        [name.strip() for name in (*lines[top - 1], *[""] * right)[left - 1 : right]]
        if top <= len(lines)
        else []
    )
    rows = []
    for number, cells in enumerate(lines[top:], top + 1):
        held: dict[str, str] = {}
        for name, cell in zip(columns, (*cells, *[""] * right)[left - 1 : right], strict=False):
            if name and (said := cell.strip()):
                held[name] = f"{held[name]}; {said}" if held.get(name) else said
        if held:
            rows.append(TableRow(number, {name: held.get(name, "") for name in columns if name}))
    return list(dict.fromkeys(filter(None, columns))), rows, []


class _Unread(SyntagmaError):
    """A sheet that is too large."""


def _unsafe(data: bytes) -> tuple[str, str] | None:
    """Why a workbook is not opened at all: no archive, more in it than sense, or XML that declares
    entities.
    """
    from zipfile import BadZipFile, ZipFile

    try:
        with ZipFile(BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > 10_000 or sum(entry.file_size for entry in entries) > MOST_BYTES:
                return (
                    "its contents are too large for a workbook of prompts",
                    "keep only the rows that you need, or export them as CSV",
                )
            for entry in entries:
                if entry.filename.lower().endswith(_XML):
                    with archive.open(entry) as part:
                        head = part.read(1 << 16).replace(
                            b"\0", b""
                        )  # without the zero bytes of UTF-16
                    if b"<!DOCTYPE" in head or b"<!ENTITY" in head:
                        return (
                            "it declares XML entities, which no spreadsheet program writes",
                            "save it as .xlsx again",
                        )
    except (BadZipFile, OSError, ValueError, EOFError, NotImplementedError, RuntimeError, KeyError):
        return "this is not a workbook", "save it as .xlsx, or export it as CSV UTF-8"
    except Exception as error:  # zlib.error, lzma errors: what is packed is damaged
        if isinstance(error, MemoryError):
            raise
        return "this is a damaged workbook", "save it as .xlsx again, or export it as CSV UTF-8"
    return None


def _lines(data: bytes) -> tuple[list[list[str]], list[tuple[int, int]]]:
    """The cells of the first sheet as text, and where (row from 1, column from 0) a formula without
    a value is.
    """
    lines, formulas = [], _has_formulas(data)
    blanks: list[tuple[int, int]] = []
    for number, row in enumerate(_rows(data, True), 1):
        if formulas:
            blanks += [(number, column) for column, value in enumerate(row) if value is None]
        lines.append(["" if value is None else _text(value) for value in row])
    while lines and not any(lines[-1]):
        lines.pop()
    if not blanks:
        return lines, []
    missing = set(blanks)
    found = [
        (number, column)
        for number, row in enumerate(_rows(data, False), 1)
        for column, value in enumerate(row)
        if (number, column) in missing and value is not None
    ]
    return lines, found


def _has_formulas(data: bytes) -> bool:
    from zipfile import ZipFile

    with ZipFile(BytesIO(data)) as archive:
        return any(
            b"<f>" in (part := archive.read(e)) or b"<f " in part
            for e in archive.infolist()
            if "worksheets/" in e.filename
        )


def _rows(data: bytes, values: bool) -> Iterator[Sequence[object]]:
    """The rows of the first sheet, one after the other. Raises _Unread if they are too many."""
    from openpyxl import load_workbook  # heavy: only a spreadsheet pays for it

    book = load_workbook(BytesIO(data), read_only=True, data_only=values)
    try:
        if not book.worksheets:
            return
        sheet = book.worksheets[0]
        sheet.reset_dimensions()  # what it says of its own size is not a promise
        cells = 0
        for number, row in enumerate(sheet.iter_rows(values_only=True), 1):
            cells += len(row) + 1
            if cells > MOST_CELLS or number > MOST_ROWS:
                raise _Unread(
                    f"the first sheet has more than {number - 1:,} rows, or is far too wide"
                )
            yield row
    finally:
        book.close()


def _text(value: object) -> str:
    """A cell as text: 3.0 as 3, nothing as blank."""
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    return re.sub(
        r"_x00([01][0-9A-Fa-f])_", lambda m: chr(int(m[1], 16)), str(value)
    )  # how the format writes control characters


def write_sheet(
    file: IO[bytes], name: str, columns: Sequence[str], rows: Sequence[Sequence[str]]
) -> None:
    """Write one sheet, its header bold and standing still. Raises OSError, ValueError if a cell is
    too long for the format.
    """
    from openpyxl import Workbook
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
    from openpyxl.styles import Font

    def held(cell: Any) -> Any:
        if isinstance(cell, str) and len(cell) > LONGEST_CELL:
            raise ValueError(
                f"a cell has {len(cell):,} characters, but a spreadsheet takes {LONGEST_CELL:,}"
            )
        return (
            ILLEGAL_CHARACTERS_RE.sub(lambda m: f"_x{ord(m[0]):04X}_", cell)
            if isinstance(cell, str)
            else cell
        )

    book = Workbook()
    sheet = book.active
    sheet.title = "".join("-" if c in "[]:*?/\\" else c for c in name)[:31]
    sheet.append([held(name) for name in columns])
    for cell in sheet[1]:
        cell.font, cell.data_type = Font(bold=True), "s"
    sheet.freeze_panes = "A2"
    for row in rows:
        sheet.append([held(cell) for cell in row])
        for cell in sheet[sheet.max_row]:
            cell.data_type = "s"  # text stays text: =, + and 1/2 are no formulas and no dates
    for i, column in enumerate(columns):
        widest = max([len(column), *(len(row[i]) for row in rows)])
        sheet.column_dimensions[sheet.cell(1, i + 1).column_letter].width = min(60, widest + 2)
    book.save(file)


LINE, TALLEST = (
    15.0,
    409.0,
)  # points: a line of a workbook's usual type, and the highest row that it takes


def _lines_of(text: str, width: int) -> int:
    """How many lines a cell's text takes in a column that is so many characters wide."""
    return sum(len(textwrap.wrap(line, width - 2)) or 1 for line in text.split("\n"))


def as_text(*cells: Any) -> None:
    """Cells whose text stays text: what begins with =, + or @ is not a formula. A cell that is none
    of text stays what it is.
    """
    for cell in cells:
        if isinstance(cell.value, str):
            cell.data_type = "s"


def write_form(
    file: IO[bytes],
    name: str,
    note: str,
    columns: Sequence[str],
    rows: Sequence[Sequence[str]],
    lists: Mapping[str, Sequence[str]],
    about: Mapping[str, str],
    room: int,
) -> None:
    """Write a sheet to be filled in: a note above the header, open lists (from a second sheet) on
    `room` rows of some columns, what a column is for as a comment on its heading. Other text than
    that of a list may be written all the same. Raises OSError.
    """
    from openpyxl import Workbook
    from openpyxl.comments import Comment
    from openpyxl.styles import Alignment, Font, PatternFill
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.datavalidation import DataValidation

    book = Workbook()
    sheet = book.active
    sheet.title = name[:31]
    sheet.append([note])
    as_text(*sheet[1])
    sheet.merge_cells(start_row=1, start_column=1, end_row=1, end_column=min(14, len(columns)))
    sheet["A1"].alignment = Alignment(wrap_text=True, vertical="top")
    sheet["A1"].font = Font(italic=True, color="666666")
    sheet.row_dimensions[1].height = 46
    sheet.append(list(columns))
    as_text(*sheet[2])
    choices = book.create_sheet("choices")
    for i, column in enumerate(columns, 1):
        letter = get_column_letter(i)
        head = sheet.cell(2, i)
        head.font, head.fill = Font(bold=True), PatternFill("solid", fgColor="E8E4D8")
        sheet.column_dimensions[letter].width = {"action": 34, "line": 34, "note": 26}.get(
            column, max(9, min(20, len(column) + 4))
        )
        if column in about:
            head.comment = Comment(about[column], "")
        if found := lists.get(column):
            as_text(
                choices.cell(1, i, column),
                *(choices.cell(row, i, text) for row, text in enumerate(found, 2)),
            )
            rule = DataValidation(
                "list",
                f"choices!${letter}$2:${letter}${len(found) + 1}",
                allow_blank=True,
                showErrorMessage=False,
            )
            rule.add(f"{letter}3:{letter}{room + 2}")
            sheet.add_data_validation(rule)
    for cells in rows:
        sheet.append(list(cells))
        for cell in sheet[sheet.max_row]:
            as_text(cell)
            cell.number_format = "@"  # shot numbers are text: 12A, 007
    sheet.freeze_panes = "C3"
    book.save(file)


def write_looked_over(
    file: IO[bytes],
    name: str,
    columns: Sequence[str],
    rows: Sequence[Sequence[str]],
    lists: Mapping[str, Sequence[str]],
    findings: str,
) -> None:
    """Write a sheet for review: drop-down lists, long text wrapped with rows as high as it, the
    first row in view, rows with findings coloured (their words are there too). Raises OSError,
    ValueError if a cell is too long.
    """
    from openpyxl import Workbook
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
    from openpyxl.styles import Alignment, Font, PatternFill
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.datavalidation import DataValidation

    wide = {"text": 70, "negative": 30, "findings": 40, "note": 30, "why": 30}
    book = Workbook()
    sheet = book.active
    sheet.title = "".join("-" if c in "[]:*?/\\" else c for c in name)[:31] or "sheet"
    sheet.append(list(columns))
    as_text(*sheet[1])
    choices = book.create_sheet("choices")
    for i, column in enumerate(columns, 1):
        letter = get_column_letter(i)
        sheet.cell(1, i).font = Font(bold=True)
        sheet.column_dimensions[letter].width = wide.get(column, 14)
        if found := lists.get(column):
            as_text(
                choices.cell(1, i, column),
                *(choices.cell(row, i, text) for row, text in enumerate(found, 2)),
            )
            rule = DataValidation(
                "list",
                f"choices!${letter}$2:${letter}${len(found) + 1}",
                allow_blank=True,
                showErrorMessage=False,
            )
            rule.add(f"{letter}2:{letter}{len(rows) + 200}")
            sheet.add_data_validation(rule)
    inks = {
        "error": PatternFill("solid", fgColor="F6D5CC"),
        "warning": PatternFill("solid", fgColor="FBEBC8"),
    }
    at = list(columns).index(findings) if findings in columns else -1
    for cells in rows:
        if any(len(cell) > LONGEST_CELL for cell in cells):
            raise ValueError(f"a cell has more than {LONGEST_CELL:,} characters")
        sheet.append(
            [ILLEGAL_CHARACTERS_RE.sub(lambda m: f"_x{ord(m[0]):04X}_", cell) for cell in cells]
        )
        said = cells[at] if at >= 0 else ""
        ink = (
            inks["error"] if "error: " in said else inks["warning"] if "warning: " in said else None
        )
        for i, cell in enumerate(sheet[sheet.max_row]):
            cell.data_type, cell.number_format = "s", "@"
            cell.alignment = Alignment(wrap_text=columns[i] in wide, vertical="top")
            if ink and i == at:
                cell.fill = ink
        lines = max(
            (
                _lines_of(cell, wide[column])
                for column, cell in zip(columns, cells, strict=True)
                if column in wide
            ),
            default=1,
        )
        sheet.row_dimensions[sheet.max_row].height = min(TALLEST, lines * LINE + 3)
    sheet.freeze_panes = "B2"
    book.save(file)
