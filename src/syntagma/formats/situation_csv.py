"""Files of situations: CSV, a row a moment, the first column the facet of the one that they are of."""

from syntagma.core.diagnostics.places import Mistake
from syntagma.core.picking.situations import Situation, situations_of
from syntagma.formats.table_in import read_cells


def read_situations(text: str, source: str, layer: str) -> tuple[list[Situation], list[Mistake]]:
    """Read a file of situations. Rows that make none are told and passed over."""
    columns, rows, mistakes = read_cells(text, source)
    if not columns or not columns[0]:
        return [], mistakes
    found, wrong = situations_of(columns, rows, layer)
    cells = dict(rows)
    return found, [*mistakes, *(Mistake(str(bad), bad.remedy, source, line, 1, ",".join(cells[line]), 1) for line, bad in wrong)]
