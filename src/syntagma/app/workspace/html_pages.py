"""Pages from templates, and tables that come back: CSV or XLSX."""

import base64
import json
from pathlib import Path
from typing import Any

from syntagma.formats.table_in import Table, read_rows
from syntagma.storage.files import read_bytes, read_text
from syntagma.storage.folders import SHIPPED

# ──── Our pages of HTML laid out: one file each, no request to anywhere, no framework.


def page(template: str, **known: Any) -> str:
    """A page of ours laid out."""
    from jinja2 import Environment, FileSystemLoader  # heavy: only a page pays for it

    shelf = Environment(
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        loader=FileSystemLoader(SHIPPED / "pages"),
    )
    return shelf.get_template(template).render(**known)


def as_data(value: object) -> Any:
    """A value as it is within a page's script."""
    from markupsafe import Markup

    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return Markup(
        text.replace("<", "\\u003c").replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")
    )


def data_uri(path: Path) -> str:
    """A picture as it is within a page."""
    kind = {".png": "image/png", ".webp": "image/webp", ".gif": "image/gif"}.get(
        path.suffix.lower(), "image/jpeg"
    )
    return f"data:{kind};base64,{base64.b64encode(path.read_bytes()).decode()}"


# ──── A person's table, CSV or XLSX, as columns and rows.


def read_table(source: str) -> Table:
    """Read a table by its ending, .xlsx or else CSV; return (columns, rows, mistakes). Raises
    Trouble.
    """
    if Path(source).suffix.lower() != ".xlsx":
        return read_rows(read_text(source, "a table"), source)
    from syntagma.formats.xlsx import read_sheet

    return read_sheet(read_bytes(source, "a workbook"), source)
