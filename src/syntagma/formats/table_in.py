"""Tables in: CSV of any separator and encoding, cells made harmless for spreadsheets, vocabulary
files.
"""

import csv
import io
from collections.abc import Sequence
from itertools import islice
from typing import NamedTuple

from syntagma.core.diagnostics import Mistake, nearest
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.situations import Situation, situations_of
from syntagma.core.vocabulary.terms import BadRow, RowReader, Term

# ──── Cells that a spreadsheet would run: made harmless on the way out, by one ' before them, and
# themselves again on the way in.


_RUNS = regex(r"'*[=+\-@\t\r]")
_NUMBER = regex(r"[+-]?(?:\d+(?:[.,]\d+)*|\.\d+)(?:[eE][+-]?\d+)?%?")


def harmless(cell: str) -> str:
    """A cell as it may be in a CSV file: with ' before it where a spreadsheet would take it for a
    formula. Numbers stay.
    """
    return f"'{cell}" if _RUNS.match(cell) and not _NUMBER.fullmatch(cell) else cell


def as_it_was(cell: str) -> str:
    """A cell of a CSV file without the ' that made it harmless."""
    return cell[1:] if cell[:1] == "'" and _RUNS.match(cell) else cell


class HarmlessCells:
    """Makes cells harmless and counts them; with `plain` it leaves them as they are."""

    def __init__(self, plain: bool = False):
        self.plain, self.count = plain, 0

    @property
    def note(self) -> str:
        """What is to be reported of it; "" if nothing was done."""
        if not self.count:
            return ""
        cells = (
            f"{self.count} cells that a spreadsheet would run begin"
            if self.count > 1
            else "a cell that a spreadsheet would run begins"
        )
        return (
            f"{cells} with ' (Syntagma removes it when it reads the file; --plain-csv leaves it"
            " out)"
        )

    def row(self, cells: "list[object]") -> list[object]:
        """A row as it is written."""
        if self.plain:
            return cells
        safe = [harmless(cell) if isinstance(cell, str) else cell for cell in cells]
        self.count += sum(one is not other for one, other in zip(cells, safe, strict=True))
        return safe


# ──── CSV in (RFC 4180, UTF-8): rows with the line each begins on; a broken row is reported, and
# the rest still comes.


MOST_COLUMNS = 1_000
MOST_BROKEN = 300  # rows that can't be read, behind which the rest is not tried


class TableRow(NamedTuple):
    """One row: its cells by column, and the line of the file on which it begins."""

    line: int
    cells: dict[str, str]


Table = tuple[list[str], list[TableRow], list[Mistake]]  # columns, rows, and what could not be read


def read_rows(text: str, source: str) -> Table:
    """Return (columns, rows, mistakes). Rows that are blank are passed over."""
    columns, rows, mistakes = read_cells(text, source)
    if all(columns):
        return (
            columns,
            [TableRow(line, dict(zip(columns, cells, strict=False))) for line, cells in rows],
            mistakes,
        )
    return (
        columns,
        [
            TableRow(line, {name: cell for name, cell in zip(columns, cells, strict=False) if name})
            for line, cells in rows
        ],
        mistakes,
    )


def read_cells(
    text: str, source: str
) -> tuple[list[str], list[tuple[int, list[str]]], list[Mistake]]:
    """The same with the cells of each row in the order of the columns; those at its end may be
    missing, or be blank ones too many.
    """
    text = text.removeprefix("\ufeff")
    records, mistakes = _records(text, source)
    if not records:
        return (
            [],
            [],
            [Mistake("the file is empty", "its first row names the columns", source), *mistakes],
        )
    if is_note(records[0][1]):
        del records[0]
    line, header = records[0] if records else (1, [])
    columns = [name.strip() for name in header]
    if len(columns) > MOST_COLUMNS:
        return [], [], [Mistake(*too_wide(len(columns)), source, line)]
    mistakes += twice(columns, source, line, ",".join(header))
    rows = []
    for line, cells in records[1:]:
        if len(cells) > len(columns) and any(cell.strip() for cell in cells[len(columns) :]):
            message = f"the row has {len(cells)} cells, but the table has {len(columns)} columns"
            mistakes.append(
                Mistake(
                    message,
                    'put a cell with a comma in quotes: "rope, wet"',
                    source,
                    line,
                    1,
                    ",".join(cells),
                )
            )
        elif cells[0].strip() or any(cell.strip() for cell in cells):
            rows.append((line, cells))
    return columns, rows, mistakes


def twice(columns: Sequence[str], source: str, line: int, shown: str = "") -> list[Mistake]:
    """The mistake of headings that a table has twice, if there are any."""
    names = sorted({name for name in columns if name and columns.count(name) > 1})
    if not names:
        return []
    message = f"the column “{', '.join(names)}” appears twice"
    return [Mistake(message, "give one another name", source, line, 1, shown)]


def too_wide(columns: int) -> tuple[str, str]:
    """What is wrong with a table of so many columns, and what to do."""
    return (
        f"the first row names {columns:,} columns, but a table has at most {MOST_COLUMNS:,}",
        "keep only the columns that you need",
    )


def is_note(cells: Sequence[str]) -> bool:
    """Is the first row of a table a note to its reader, and no header: a sentence behind # in the
    first cell, and nothing else?
    """
    return (
        bool(cells)
        and cells[0].startswith("# ")
        and cells[0].count(" ") > 3
        and not any(cell.strip() for cell in cells[1:])
    )


def _records(text: str, source: str) -> tuple[list[tuple[int, list[str]]], list[Mistake]]:
    """Every record with its first line, blank ones left out."""
    lines = io.StringIO(text, newline="").readlines()
    records = _a_record_a_line(lines)
    records, mistakes = (records, []) if records is not None else _one_by_one(lines, source)
    if any(before + "'" in text for before in (",", '"', "\n", "\r")) or text[:1] == "'":
        records = [(number, list(map(as_it_was, cells))) for number, cells in records]
    return records, mistakes


def _a_record_a_line(lines: list[str]) -> list[tuple[int, list[str]]] | None:
    """The records where each is a line and none is broken, as in most files; else nothing."""
    try:
        records = list(csv.reader(lines, strict=True))
    except csv.Error:
        return None
    return (
        [(number, cells) for number, cells in enumerate(records, 1) if any(cells)]
        if len(records) == len(lines)
        else None
    )


def _one_by_one(lines: list[str], source: str) -> tuple[list[tuple[int, list[str]]], list[Mistake]]:
    """Each record by itself. One that can't be read costs its first line only; reading goes on
    below it, but not for ever: behind many of them the file is not a table, and the rest is
    reported as one.
    """
    records: list[tuple[int, list[str]]] = []
    mistakes: list[Mistake] = []
    at = 0
    while at < len(lines):
        reader = csv.reader(islice(lines, at, None), strict=True)
        begun = 0
        try:
            for cells in reader:
                if any(cells):
                    records.append((at + begun + 1, cells))
                begun = reader.line_num
            break
        except csv.Error as error:
            number = at + begun + 1
            remedy = 'double a quotation mark inside a quoted cell: "a ""wet"" quay"'
            shown = lines[number - 1].rstrip("\r\n")
            if len(mistakes) == MOST_BROKEN:
                what = (
                    f"{len(mistakes):,} rows before this one can't be read, so lines {number:,} to"
                    f" {len(lines):,} were not tried"
                )
                mistakes.append(
                    Mistake(
                        what,
                        "correct those, or export the table again as CSV UTF-8",
                        source,
                        number,
                        1,
                        shown,
                        len(shown),
                    )
                )
                break
            mistakes.append(
                Mistake(
                    f"the row can't be read ({error})", remedy, source, number, 1, shown, len(shown)
                )
            )
            at = number
    return records, mistakes


# ──── One facet's vocabulary file into terms.


def read_terms(facet: str, text: str, source: str, layer: str) -> tuple[list[Term], list[Mistake]]:
    """Read a vocabulary file. Rows that make no term are reported and passed over."""
    columns, rows, mistakes = read_cells(text, source)
    if columns and "term" not in columns:
        near = nearest("term", columns)
        remedy = f"rename the column “{near}” to term" if near else "name the first column term"
        return [], [
            Mistake(
                "no column is called “term”",
                remedy,
                source,
                1,
                1,
                ",".join(columns),
                len(",".join(columns)),
            )
        ]
    terms, reader = [], RowReader(facet, columns, layer)
    for line, cells in rows:
        try:
            terms.append(reader.term(cells))
        except BadRow as bad:
            shown = ",".join(cells)
            mistakes.append(Mistake(str(bad), bad.remedy, source, line, 1, shown, len(shown)))
    return terms, mistakes


def read_situations(text: str, source: str, layer: str) -> tuple[list[Situation], list[Mistake]]:
    """Read a file of situations. Rows that make none are reported and passed over."""
    columns, rows, mistakes = read_cells(text, source)
    if not columns or not columns[0]:
        return [], mistakes
    found, wrong = situations_of(columns, rows, layer)
    cells = dict(rows)
    return found, [
        *mistakes,
        *(
            Mistake(str(bad), bad.remedy, source, line, 1, ",".join(cells[line]), 1)
            for line, bad in wrong
        ),
    ]
