"""One facet's vocabulary file into terms."""

from syntagma.core.diagnostics.places import Mistake
from syntagma.core.diagnostics.suggestions import nearest
from syntagma.core.picking.situations import Situation, situations_of
from syntagma.core.vocabulary.terms import BadRow, RowReader, Term
from syntagma.formats.table_in import read_cells


def read_terms(facet: str, text: str, source: str, layer: str) -> tuple[list[Term], list[Mistake]]:
    """Read a vocabulary file. Rows that make no term are reported and passed over."""
    columns, rows, mistakes = read_cells(text, source)
    if columns and "term" not in columns:
        near = nearest("term", columns)
        remedy = f"rename the column “{near}” to term" if near else "name the first column term"
        return [], [Mistake("no column is called “term”", remedy, source, 1, 1, ",".join(columns), len(",".join(columns)))]
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
    return found, [*mistakes, *(Mistake(str(bad), bad.remedy, source, line, 1, ",".join(cells[line]), 1) for line, bad in wrong)]
