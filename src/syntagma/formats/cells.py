"""Cells that a spreadsheet would run: made harmless on the way out, by one ' before them, and themselves again on the way in."""

from syntagma.core.notation.late_regex import regex

_RUNS = regex(r"'*[=+\-@\t\r]")
_NUMBER = regex(r"[+-]?(?:\d+(?:[.,]\d+)*|\.\d+)(?:[eE][+-]?\d+)?%?")


def harmless(cell: str) -> str:
    """A cell as it may be in a CSV file: with ' before it where a spreadsheet would take it for a formula. Numbers stay."""
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
        cells = f"{self.count} cells that a spreadsheet would run begin" if self.count > 1 else "a cell that a spreadsheet would run begins"
        return f"{cells} with ' (Syntagma removes it when it reads the file; --plain-csv leaves it out)"

    def row(self, cells: "list[object]") -> list[object]:
        """A row as it is written."""
        if self.plain:
            return cells
        safe = [harmless(cell) if isinstance(cell, str) else cell for cell in cells]
        self.count += sum(one is not other for one, other in zip(cells, safe, strict=True))
        return safe
