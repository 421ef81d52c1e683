"""A person's table, CSV or XLSX, as columns and rows."""

from pathlib import Path

from syntagma.core.places import Mistake
from syntagma.formats.table_in import Row, read_rows
from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble


def read_table(source: str) -> tuple[list[str], list[Row], list[Mistake]]:
    """Read a table by its ending, .xlsx or else CSV; return (columns, rows, mistakes). Raises Trouble."""
    if Path(source).suffix.lower() != ".xlsx":
        return read_rows(read_text(source, "a table"), source)
    from syntagma.formats.xlsx import read_sheet

    try:
        return read_sheet(Path(source), source)
    except OSError as error:
        why = (error.strerror or str(error)).lower()
        raise Trouble(f"{source} can't be read: {why}", "check the name, and the folder you are in") from None
