"""A person's table, CSV or XLSX, as columns and rows."""

from pathlib import Path

from syntagma.formats.table_in import Table, read_rows
from syntagma.storage.files import read_bytes, read_text


def read_table(source: str) -> Table:
    """Read a table by its ending, .xlsx or else CSV; return (columns, rows, mistakes). Raises Trouble."""
    if Path(source).suffix.lower() != ".xlsx":
        return read_rows(read_text(source, "a table"), source)
    from syntagma.formats.xlsx import read_sheet

    return read_sheet(read_bytes(source, "a workbook"), source)
