"""Tables as offices make them: any separator and encoding, a title block above the headings,
dividers and totals among the rows. What is left out is said.
"""

import csv
import re
from collections.abc import Callable, Sequence
from typing import NamedTuple

from syntagma.core.diagnostics import Mistake
from syntagma.formats.table_in import MOST_COLUMNS, TableRow, as_it_was, is_note, too_wide, twice

SEPARATORS = (",", ";", "\t", "|")
ABOVE = 40  # rows in which the headings are looked for
_TOTAL = re.compile(r"\s*(?:grand |sub-?)?totals?\b|\s*(?:page|end of) ?\b", re.I)
_DIVIDER = re.compile(
    r"\s*(?:scene|sc\.?|seq(?:uence)?\.?)\s*#?\s*(?P<scene>\d+[A-Za-z]?)\b.*", re.I
)


class OfficeTable(NamedTuple):
    """A table: its columns, its rows, what could not be read, and what is to be said of it."""

    columns: list[str]
    rows: list[TableRow]
    mistakes: list[Mistake]
    notes: list[str]


def office_text(data: bytes) -> tuple[str, str]:
    """(The text of a file, the encoding if it is not UTF-8): UTF-16 by its mark or its zeros, else
    Windows-1252, which takes any byte that it has.
    """
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace"), "UTF-16"
    half = data[:400]
    if half.count(0) > len(half) // 3:
        odd = half[1::2].count(0) > half[::2].count(0)
        return data.decode("utf-16-le" if odd else "utf-16-be", "replace"), "UTF-16"
    try:
        return data.decode("utf-8-sig"), ""
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace"), "Windows-1252"


def office_cells(text: str, means: Callable[[str], str]) -> list[tuple[int, list[str]]]:
    """The records of a text with the line each begins on, by the separator with which most headings
    mean something.
    """
    best: list[tuple[int, list[str]]] = []
    most = -1
    for separator in SEPARATORS:
        found = _records(text, separator)
        known = max((_known(cells, means) for _, cells in found[:ABOVE]), default=0)
        if known > most:
            best, most = found, known
    return best


def _records(text: str, separator: str) -> list[tuple[int, list[str]]]:
    lines = text.splitlines(keepends=True)
    reader = csv.reader(lines, delimiter=separator)
    found: list[tuple[int, list[str]]] = []
    at = 1
    try:
        for cells in reader:
            found.append((at, [as_it_was(cell) for cell in cells]))
            at = reader.line_num + 1
    except csv.Error:
        pass
    return found


def _known(cells: Sequence[str], means: Callable[[str], str]) -> int:
    """How many headings of a row mean something, each column once."""
    return len({means(cell) for cell in cells if cell.strip()} - {""})


def office_table(
    records: Sequence[tuple[int, list[str]]],
    source: str,
    means: Callable[[str], str],
    scene: str,
    number: str,
) -> OfficeTable:
    """A table out of its records. `means` says which column a heading means ("" for none); `scene`
    and `number` are the columns that a divider fills and that a row must have to be one.
    """
    first = next((i for i, (_, cells) in enumerate(records[:ABOVE]) if is_note(cells)), -1)
    scored = [
        (_known(cells, means), -i) for i, (_, cells) in enumerate(records[:ABOVE]) if i != first
    ]
    known, at = max(scored, default=(0, 0))
    at = -at if known > 1 else first + 1
    if at >= len(records):
        return OfficeTable(
            [], [], [Mistake("the file is empty", "its first row names the columns", source)], []
        )
    line, header = records[at]
    columns = [" ".join(name.split()) for name in header]
    if len(columns) > MOST_COLUMNS:
        return OfficeTable([], [], [Mistake(*too_wide(len(columns)), source, line)], [])
    mistakes = twice(columns, source, line)
    above = [
        cells
        for i, (_, cells) in enumerate(records[:at])
        if i != first and any(map(str.strip, cells))
    ]
    notes = []
    if above:
        said = "; ".join(" ".join(filter(None, map(str.strip, cells))) for cells in above)
        rows_ = f"{len(above)} row{'s' if len(above) > 1 else ''}"
        notes.append(f"{rows_} above the headings left out: {said}")
    numbered = {i for i, name in enumerate(columns) if means(name) == number}
    scened = next((i for i, name in enumerate(columns) if means(name) == scene), None)
    rows: list[TableRow] = []
    current, left = "", []
    for line, cells in records[at + 1 :]:
        filled = [cell.strip() for cell in cells if cell.strip()]
        if not filled or [cell.strip() for cell in cells] == [name.strip() for name in header]:
            continue  # blank, or the headings again on a new page
        first_cell = cells[0].strip()
        alone = bool(numbered) and not any(i < len(cells) and cells[i].strip() for i in numbered)
        heads = means(columns[0]) in ("", scene, number)
        only = len(filled) == 1 < len(columns) - 1 and bool(first_cell) and heads
        if (divider := _DIVIDER.fullmatch(first_cell)) and (only or (alone and len(filled) < 3)):
            current = divider["scene"]
            left.append(" ".join(filled))
            continue
        if (heads and _TOTAL.match(first_cell)) or (alone and (_TOTAL.match(filled[0]) or only)):
            left.append(" ".join(filled))
            continue
        if any(cell.strip() for cell in cells[len(columns) :]):
            mistakes.append(
                Mistake(
                    f"the row has {len(cells)} cells, but the table has {len(columns)} columns",
                    'put a cell with a separator in quotes: "rope, wet"',
                    source,
                    line,
                )
            )
            continue
        row = {name: cell for name, cell in zip(columns, cells, strict=False) if name}
        if current and scened is None:
            row[scene] = current
        elif current and scened is not None and not row.get(columns[scened], "").strip():
            row[columns[scened]] = current
        rows.append(TableRow(line, row))
    if current and scened is None:
        columns = [*columns, scene]
    if left:
        shown = "; ".join(left[:4]) + (" …" if len(left) > 4 else "")
        notes.append(
            f"{len(left)} row{'s' if len(left) > 1 else ''} without a shot left out: {shown}"
        )
    return OfficeTable(columns, rows, mistakes, notes)
