"""A person's own terms: by one, or from a table whose headings are anybody's."""

import csv
import io
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.app.workspace.html_pages import read_table
from syntagma.app.workspace.workspace import FACETS, Workspace
from syntagma.core.diagnostics import Mistake, Refused, Trouble, perhaps
from syntagma.core.notation.toml import key, table
from syntagma.core.picking.scene import likest
from syntagma.core.vocabulary.facets import read_facets
from syntagma.core.vocabulary.terms import COLUMNS, BadRow, Facet, Term, normal, term_of_row
from syntagma.formats.table_in import HarmlessCells, as_it_was, harmless, read_terms
from syntagma.storage.files import held, make_folder, read_text, whole_file, write_text
from syntagma.storage.folders import TermMark, marks_held, own_folder, read_marks, write_marks

# ──── Reads the headings of a person's own list of words as columns of a vocabulary: those named on
# the call first, then the usual names.


# What else people write over a column of theirs, small and without hyphens.
CALLED = {
    "term": (
        "terms; name; names; word; words; keyword; label; title; entry; item; value; english; tag"
        " name"
    ),
    "aka": (
        "also; also called; also known as; alias; aliases; synonym; synonyms; other names; other"
        " spellings; alternative; alternatives; variants"
    ),
    "gloss": (
        "description; meaning; definition; about; what it does; what it does to the picture;"
        " effect; explanation; notes; note; comment; comments; remark; remarks; use; when to use"
    ),
    "tags": "tag; keywords; labels; mood; themes",
    "facet": "category; kind; type; group; section; class; list; field",
    "broader": "parent; under; parent term; broader term; belongs to; subcategory of",
    "phrase": "in a sentence; in sentence; wording; full; long form; prompt; text",
    "place": "where; location",
    "clashes": "not with; conflicts; excludes; never with; conflicts with",
    "needs": "requires; only with",
    "media": "medium; for; image or video",
}
_OURS = {normal(name): ours for ours, names in CALLED.items() for name in names.split(";")}
KNOWN = (*COLUMNS, "facet")


def headings(columns: Sequence[str], given: Mapping[str, str], source: str) -> dict[str, str]:
    """Which of a table's headings is which column of ours: {theirs: ours}. `given` says it for
    some, by our names: {"term": "Word"}. Raises Trouble if nothing can be the term, or what is
    given can't be.
    """
    theirs = {normal(name): name for name in columns if name}
    found: dict[str, str] = {}
    for ours, name in given.items():
        if ours not in KNOWN:
            raise Trouble(
                f"“{ours}” is not a vocabulary column",
                perhaps(ours, KNOWN, f"columns are {', '.join(KNOWN)}"),
                2,
            )
        if normal(name) not in theirs:
            raise Trouble(
                f"{source} has no column “{name}”",
                perhaps(name, columns, f"its columns are {', '.join(filter(None, columns))}"),
                2,
            )
        found[theirs[normal(name)]] = ours
    for name in columns:  # a heading of ours, in any writing
        ours = normal(name).replace(" ", "-")
        if name not in found and ours in KNOWN and ours not in found.values():
            found[name] = ours
    for name in columns:
        if (
            name not in found
            and (ours := _OURS.get(normal(name), ""))
            and ours not in found.values()
        ):
            found[name] = ours
    if "term" not in found.values() and len(theirs) == 1:
        raise Trouble(
            f"{source} has one column, and its first line “{columns[0]}” may be a heading or a"
            " term",
            f'write “term” as a line above it; if it is a heading: --column "term={columns[0]}"',
            2,
        )
    if "term" not in found.values():
        raise Trouble(
            f"none of the columns of {source} is clearly the term",
            f"say which: --column term=…; its columns are {', '.join(filter(None, columns))}",
            2,
        )
    return found


# ──── Work on a person's own vocabulary: add terms, take them from a table, star them, note
# something on them.


TABLES = (".csv", ".xlsx")


class TermsTaken(NamedTuple):
    """What came of a table: how many terms were taken by facet, into which files, what was left and
    why, and which of them replaces terms of ours.
    """

    taken: dict[str, int]
    files: list[Path]
    left: list[Mistake]
    hides: list[Term]
    read_as: dict[
        str, str
    ] = {}  # their heading → the column of ours as which it was read, where the two differ


def facet_file(workspace: Workspace, facet: str, own: bool = False) -> Path:
    """Where a person's terms of a facet are written: the workspace, or their own folder."""
    if facet != facet.strip().lower() or not facet.replace("-", "").isalnum():
        raise Trouble(
            f"“{facet}” is not a name for a facet", "small letters and hyphens: shot-size", 2
        )
    room = own_folder() if own or not workspace.folder else workspace.folder
    return room / "vocabulary" / f"{facet}.csv"


def add(workspace: Workspace, facet: str, row: Mapping[str, str], own: bool = False) -> Path:
    """Add one term; return the file. Raises Trouble if it can't be a term, or is there already."""
    path = facet_file(workspace, facet, own)
    if wrong := _refusal(workspace, row, Facet(facet, ()), ""):
        raise Trouble(*wrong, 2)
    known = workspace.vocabulary[facet] if facet in workspace.vocabulary else Facet(facet, ())
    if (broader := row.get("broader", "")) and known.get(broader) is None:
        raise Trouble(
            f"{facet} has no term “{broader}” that “{row['term']}” could be a kind of",
            perhaps(broader, [term.term for term in known], "name a term of the same facet"),
            2,
        )
    make_folder(path.parent)
    with held(path):
        if wrong := _refusal(
            workspace, row, _own_terms(workspace, facet, path), workspace.shown(path)
        ):
            raise Trouble(*wrong, 2)
        append_rows(path, [row])
    return path


def _own_terms(workspace: Workspace, facet: str, path: Path) -> Facet:
    """The terms of a facet in a file of the person's own."""
    return Facet(
        facet,
        read_terms(facet, read_text(path), workspace.shown(path), "")[0] if path.exists() else (),
    )


def _refusal(
    workspace: Workspace, row: Mapping[str, str], there: Facet, file: str
) -> tuple[str, str] | None:
    """Why a row can't be a term beside those that are `there`, in a file: (what is wrong, what to
    do); None if it can.
    """
    try:
        term = term_of_row(there.name, row)
    except BadRow as bad:
        return str(bad), bad.remedy
    if wrong := workspace.wrong_world(term):
        return wrong
    first, _, rest = term.term.partition(" ")
    if first.lower() in ("a", "an", "the") and rest and term.number != "name":
        return (
            f"“{term.term}” begins with an article; Syntagma writes articles itself",
            f"write “{rest}”, or --number name where it belongs to a name",
        )
    if term.term[-1:] in ".,;:!?":
        return (
            f"“{term.term}” ends with a mark that would land inside a sentence",
            f"write “{term.term.rstrip('.,;:!? ')}”",
        )
    if known := there.get(term.term):
        return f"“{known.term}” is in {file} already", "change its row there, in any spreadsheet"
    return None


def hidden_by(workspace: Workspace, facet: str, name: str) -> Term | None:
    """The built-in term that a term of this name replaces, or None."""
    shipped = Workspace(layers=workspace.layers[:1]).vocabulary
    return shipped[facet].get(name) if facet in shipped else None


def remove(
    workspace: Workspace, name: str, facet: str | None = None, own: bool = False
) -> tuple[Term, Path]:
    """Take a term of the person's own out again; everything else in its file stays byte for byte.
    Return it and the file. Raises Trouble.
    """
    rooms = [own_folder()] if own or not workspace.folder else [workspace.folder, own_folder()]
    for room in rooms:
        for path in (
            sorted((room / "vocabulary").glob("*.csv"))
            if not facet
            else [room / "vocabulary" / f"{facet}.csv"]
        ):
            if not path.is_file():
                continue
            with held(path):
                text = read_text(path)
                term = _own_terms(workspace, path.stem, path).get(name)
                if term:
                    write_text(path, _without_row(text, term.term))
                    return term, path
    known = find(workspace, name, facet)
    raise Trouble(
        f"“{known.term}” ships with Syntagma, so it can't be removed",
        f'to replace it with your own: syntagma term new {known.facet} "{known.term}" …',
        2,
    )


def _without_row(text: str, name: str) -> str:
    """The text of a CSV file without the row of a term."""
    lines = text.splitlines(keepends=True)
    reader = csv.reader(lines)
    columns = [cell.strip().lstrip("\ufeff") for cell in next(reader, [])]
    at, before = columns.index("term"), reader.line_num
    for row in reader:
        if len(row) > at and normal(as_it_was(row[at])) == normal(name):
            return "".join(lines[:before] + lines[reader.line_num :])
        before = reader.line_num
    return text


def add_rows(
    workspace: Workspace, facet: str, rows: Sequence[Mapping[str, str]], own: bool = False
) -> Path:
    """Add rows to a person's own terms of a facet; return the file. Raises Trouble."""
    path = facet_file(workspace, facet, own)
    make_folder(path.parent)
    with held(path):
        append_rows(path, rows)
    return path


def add_facets(
    workspace: Workspace, facets: Mapping[str, Mapping[str, object]], own: bool = False
) -> Path:
    """Say of facets of a person's own what they are like, below what their facets.toml says; return
    the file. One that it tells of already stays as it is. Raises Trouble.
    """
    path = facet_file(workspace, next(iter(facets)), own).parents[1] / FACETS
    with held(path):
        text = read_text(path) if path.exists() else ""
        try:
            there = read_facets(text, workspace.shown(path))
        except Refused as wrong:
            raise Trouble(
                f"{workspace.shown(path)} can't be read: {wrong.mistakes[0].message}",
                "correct it, and save the formula again",
                1,
            ) from None
        lines = [
            line
            for facet, said in facets.items()
            if facet not in there
            for line in table(key(facet), said)
        ]
        text = text if not text or text.endswith("\n") else text + "\n"
        write_text(path, text + "\n".join(lines if text else lines[1:]) + ("\n" if lines else ""))
    return path


def append_rows(
    path: Path, rows: Sequence[Mapping[str, str]], order: Sequence[str] = COLUMNS
) -> None:
    """Add rows below what is there, which stays as it is; columns that are missing are added to the
    first row, in an order.
    """
    text = read_text(path) if path.exists() else ""
    wanted = [c for c in order if any(row.get(c) for row in rows)]
    wanted += [c for row in rows for c in row if c not in order and row[c] and c not in wanted]
    try:
        columns = (
            next(csv.reader(io.StringIO(text.removeprefix("\ufeff"), newline="")), [])
            if text
            else []
        )
    except csv.Error as error:
        raise Trouble(
            f"{path} can't be read: {error}", "correct its first row, which names the columns", 1
        ) from None
    missing = [c for c in dict.fromkeys(wanted) if c not in [name.strip() for name in columns]]
    ending = "\r\n" if "\r\n" in text else "\n"
    if missing:
        first, _, rest = text.partition("\n")
        head = io.StringIO(newline="")
        csv.writer(head, lineterminator="").writerow(map(harmless, missing))
        text = (
            (f"{first.rstrip()},{head.getvalue()}" if columns else head.getvalue()) + ending + rest
        )
        columns = [*columns, *missing]
    if text and not text.endswith("\n"):
        text += ending
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator=ending).writerows(
        [harmless(row.get(name.strip(), "")) for name in columns] for row in rows
    )
    write_text(path, text + out.getvalue())


def take(
    workspace: Workspace,
    source: Path,
    facet: str | None = None,
    own: bool = False,
    given: Mapping[str, str] = {},
) -> TermsTaken:
    """Take the terms of a CSV or XLSX table: into `facet`, else into the facet that each row's
    column `facet` names. Its headings may be a person's own; `given` says which is which column of
    ours.

    What can't be taken is left, with its line and the reason. Raises Trouble if the whole table is
    unusable.
    """
    columns, rows, left = read_table(str(source))
    if not columns:
        raise Refused(left)
    ours = headings(columns, given, str(source))
    if not facet and "facet" not in ours.values():
        raise Trouble(
            f"which facet are the terms of {source} of?",
            f"write term import {source} --facet FACET, or give the table a column facet",
            2,
        )
    new: dict[str, list[dict[str, str]]] = {}
    seen: set[tuple[str, str]] = set()
    hides: list[Term] = []
    there: dict[str, Facet] = {}
    called: dict[str, str] = {}
    for row in rows:
        cells = {ours.get(k, k): v.strip() for k, v in row.cells.items()}
        said = cells.pop("facet", "")
        name = facet or called.setdefault(said, workspace.facet_called(said) if said else "")
        reason = _left_because(workspace, name, cells, seen, own, there)
        if reason:
            left.append(Mistake(*reason, str(source), row.line, 1, ",".join(row.cells.values())))
        else:
            seen.add((name, normal(cells["term"])))
            new.setdefault(name, []).append(cells)
            if hidden := hidden_by(workspace, name, cells["term"]):
                hides.append(hidden)
    files = []
    for name, added in new.items():
        files.append(add_rows(workspace, name, added, own))
    return TermsTaken(
        {name: len(cells) for name, cells in new.items()},
        files,
        left,
        hides,
        {theirs: column for theirs, column in ours.items() if theirs != column},
    )


def _left_because(
    workspace: Workspace,
    facet: str,
    cells: Mapping[str, str],
    seen: set[tuple[str, str]],
    own: bool,
    there: dict[str, Facet],
) -> tuple[str, str] | None:
    """Why a row is left: (what is wrong, what to do); None if it is taken. `there`: the person's
    own terms by facet, as they are read.
    """
    try:
        path = facet_file(workspace, facet, own)
    except Trouble as trouble:
        return str(trouble), trouble.remedy
    if facet not in there:
        there[facet] = _own_terms(workspace, facet, path)
    if wrong := _refusal(workspace, cells, there[facet], workspace.shown(path)):
        return wrong
    term = term_of_row(facet, cells)
    if (facet, normal(term.term)) in seen:
        return f"“{term.term}” is in the table twice", "delete one of the rows"
    known = workspace.vocabulary[facet].get(term.term) if facet in workspace.vocabulary else None
    if known and all(
        getattr(known, c) == getattr(term, c) or not getattr(term, c)
        for c in COLUMNS[1:]
        if c != "number"
    ):
        return f"“{known.term}” exists already, and the row adds nothing new", "nothing to do"
    return None


def guessed(workspace: Workspace, facet: str, row: Mapping[str, str]) -> Term | None:
    """The term from which picks guess what a term of this row takes for granted; None if it says
    it, a broader term does, or none is like it.
    """
    if row.get("broader"):
        return None
    like = likest(term_of_row(facet, row, "own"), workspace.vocabulary)
    return like if like and like.world else None


def find(workspace: Workspace, name: str, facet: str | None = None) -> Term:
    """The one term called `name`. Raises Trouble if there is none, or more than one facet
    has it.
    """
    if facet and facet not in workspace.vocabulary:
        raise Trouble(
            f"no facet is called “{facet}”",
            perhaps(facet, workspace.vocabulary.names, "`syntagma term` lists them"),
            2,
        )
    facets: list[Facet] = [workspace.vocabulary[facet]] if facet else list(workspace.vocabulary)
    found = [term for f in facets if (term := f.get(name))]
    if not found:
        names = [term.term for f in facets for term in f]
        raise Trouble(
            f"no term is called “{name}”", perhaps(name, names, "`syntagma term find` searches"), 2
        )
    if len(found) > 1:
        where = ", ".join(term.facet for term in found)
        raise Trouble(f"“{name}” is in {where}", f"say which: --facet {found[0].facet}", 2)
    return found[0]


def mark(term: Term, star: bool | None = None, note: str | None = None) -> TermMark:
    """Set a star or a note on a term; return its mark. Raises Trouble."""
    with marks_held():
        return _marked_anew(term, star, note)


def _marked_anew(term: Term, star: bool | None, note: str | None) -> TermMark:
    marks = read_marks()
    key = next(
        (k for k in marks if k[0] == term.facet and normal(k[1]) == normal(term.term)),
        (term.facet, term.term),
    )
    old = marks.get(key, TermMark())
    marks[key] = TermMark(old.star if star is None else star, old.note if note is None else note)
    write_marks(marks)
    return marks[key]


def write_terms(path: Path, terms: Sequence[Term], plain: bool = False) -> str:
    """Write terms as CSV or XLSX, every column, own columns behind; return a message about cells
    that a spreadsheet would run (`plain` leaves them as they are). Raises Trouble.
    """
    if path.suffix.lower() not in TABLES:
        raise Trouble(
            f"can't write terms as {path.suffix or 'a file without an ending'}",
            "name it .csv or .xlsx",
            2,
        )
    several = len({term.facet for term in terms}) > 1
    extra = list(dict.fromkeys(name for term in terms for name in term.extra))
    columns = [*(("facet",) if several else ()), *COLUMNS, *extra]
    rows = [[_cell(term, column) for column in columns] for term in terms]
    if path.suffix.lower() == ".csv":
        safe = HarmlessCells(plain)
        with whole_file(path) as file:
            csv.writer(file, lineterminator="\n").writerows(map(safe.row, [columns, *rows]))
        return safe.note
    from syntagma.formats.xlsx import write_sheet

    try:
        with whole_file(path) as file:
            write_sheet(
                file.buffer, terms[0].facet if terms and not several else "terms", columns, rows
            )
    except ValueError as error:
        raise Trouble(f"{path} can't be written: {error}", "write .csv") from None
    return ""


def _cell(term: Term, column: str) -> str:
    value = (
        getattr(term, column)
        if column in COLUMNS or column == "facet"
        else term.extra.get(column, "")
    )
    if column == "number" and value == "one":
        return ""
    return "; ".join(value) if isinstance(value, tuple) else value
