"""One facet's vocabulary file into terms."""

from syntagma.core.diagnostics.places import Mistake
from syntagma.core.diagnostics.suggestions import nearest
from syntagma.core.vocabulary.terms import BadRow, Term, term_of_row
from syntagma.formats.table_in import read_rows


def read_terms(facet: str, text: str, source: str, layer: str) -> tuple[list[Term], list[Mistake]]:
    """Read a vocabulary file. Rows that make no term are told and passed over."""
    columns, rows, mistakes = read_rows(text, source)
    if columns and "term" not in columns:
        near = nearest("term", columns)
        remedy = f"rename the column “{near}” to term" if near else "name the first column term"
        return [], [Mistake("there is no column “term”", remedy, source, 1, 1, ",".join(columns), len(",".join(columns)))]
    terms = []
    for row in rows:
        try:
            terms.append(term_of_row(facet, row.cells, layer))
        except BadRow as bad:
            shown = ",".join(row.cells.values())
            mistakes.append(Mistake(str(bad), bad.remedy, source, row.line, 1, shown, len(shown)))
    return terms, mistakes
