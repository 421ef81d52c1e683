"""Situations of a person's own: written one at a time, or taken from a table; and a search over all
of them.
"""

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from syntagma.app.workspace.html_pages import read_table
from syntagma.app.workspace.own_terms import append_rows
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Mistake, Refused, Trouble, perhaps
from syntagma.core.picking.situations import (
    DETAIL,
    FRAMING,
    NOT_FACETS,
    BadSituation,
    Situation,
    situations_of,
)
from syntagma.core.vocabulary.terms import folded, split_list
from syntagma.core.vocabulary.world import BadWorld
from syntagma.storage.files import held, make_folder
from syntagma.storage.folders import own_folder

CELLS = {
    "setting": "where, with a preposition: in a lamp room",
    "action": "what they do there: trimming a wick by the window",
    "then": "what happens a moment later, for films and last frames",
    "lighting": "the light that this place has: low sun through salt-stained glass",
    DETAIL: "telling details of the place, with ; between them",
    FRAMING: (
        "how the place lays the picture out, with ; between them: the stair winding down to the"
        " door"
    ),
    "ambience": "what is heard",
    "seen": "what has to be visible: hands, face, figure, place or detail",
    "world": "what it assumes, such as hour: night dusk; where: outdoors",
    "tags": "separated by ;",
    "formulas": "the formulas that it suits; blank for any",
}


class SituationsTaken(NamedTuple):
    """What came of a table: how many situations were taken, into which file, and what was left and
    why.
    """

    taken: int
    file: Path
    left: list[Mistake]


def found(workspace: Workspace, text: str = "", facet: str = "") -> list[Situation]:
    """The situations that apply, of a facet or of all, that say every word of a text; those of
    whoever is called so come first.
    """
    every = workspace.every_situation()
    wanted = set(folded(text))
    return sorted(
        (one for one in every if (not facet or one.facet == facet) and wanted <= _words(one)),
        key=lambda one: not wanted <= set(folded(one.lead)),
    )


def _words(one: Situation) -> set[str]:
    said = [one.lead, *one.tags, *one.formulas]
    for moment in one.moments:
        said += [*moment.words.values(), moment.then, *moment.details, *moment.framings]
    return set(folded(" ".join(said)))


def file_of(workspace: Workspace, facet: str, own: bool = False) -> Path:
    """Where a person's situations of a facet are written. Raises Trouble if no such facet
    exists.
    """
    if facet not in workspace.vocabulary:
        raise Trouble(
            f"no facet is called “{facet}”",
            perhaps(facet, workspace.vocabulary.names, "`syntagma term` lists them"),
            2,
        )
    room = own_folder() if own or not workspace.folder else workspace.folder
    return room / "situations" / f"{facet}.csv"


def add(
    workspace: Workspace, facet: str, lead: str, row: Mapping[str, str], own: bool = False
) -> Path:
    """Add one situation; return its file. Raises Trouble."""
    path = file_of(workspace, facet, own)
    if wrong := _refusal(workspace, facet, {facet: lead, **row}):
        raise Trouble(*wrong, 2)
    _append(path, facet, [{facet: lead, **row}])
    return path


def take(workspace: Workspace, source: Path, facet: str = "", own: bool = False) -> SituationsTaken:
    """Take the situations of a CSV or XLSX table, a row a moment; its first column is the facet of
    the one that they are of, or what `facet` says. Raises Trouble or Refused.
    """
    columns, rows, left = read_table(str(source))
    if not columns:
        raise Refused(left)
    first = facet or workspace.facet_called(columns[0])
    path = file_of(workspace, first, own)
    good: list[Mapping[str, str]] = []
    begun = False
    for row in rows:
        cells = {
            (first if name == columns[0] else name.strip()): text.strip()
            for name, text in row.cells.items()
        }
        wrong = _refusal(workspace, first, cells, begun)
        if wrong:
            left.append(Mistake(*wrong, str(source), row.line, 1, ",".join(row.cells.values())))
            begun = begun and not cells.get(first)
        else:
            begun = True
            good.append(cells)
    if good:
        _append(path, first, good)
    return SituationsTaken(sum(bool(row.get(first)) for row in good), path, left)


def _refusal(
    workspace: Workspace, facet: str, row: Mapping[str, str], begun: bool = False
) -> tuple[str, str] | None:
    """Why a row makes no situation, nor a moment of one that has `begun`: (what is wrong, what to
    do); None if it does.
    """
    if begun and not row.get(facet):
        row = {**row, facet: "one above"}
    columns = [facet, *(name for name in row if name != facet)]
    known = {*workspace.vocabulary.names, *NOT_FACETS, DETAIL, FRAMING, "listener", "answer-voice"}
    if strange := next((name for name in columns[1:] if name not in known and row[name]), ""):
        return f"“{strange}” is not a column of a situation", perhaps(
            strange, known, f"write {', '.join(CELLS)}, or the name of a facet"
        )
    _, wrong = situations_of(columns, [(1, [row.get(name, "") for name in columns])])
    if wrong:
        bad: BadSituation = wrong[0][1]
        return str(bad), bad.remedy
    if not any(row.get(name) for name in columns[1:] if name not in ("tags", "world", "formulas")):
        return (
            f"it names a lead and nothing else: {row.get(facet, '')}",
            "say what happens: --setting, --action, --lighting",
        )
    named = split_list(row.get("formulas", ""))
    if strange := next((name for name in named if name not in workspace.formulas()), ""):
        return f"no formula is called “{strange}”", perhaps(
            strange, list(workspace.formulas()), "`syntagma formula` lists them"
        )
    try:
        workspace.vocabulary.dimensions.world(row.get("world", ""))
    except BadWorld as bad_world:
        return str(bad_world), bad_world.remedy
    return None


def _append(path: Path, facet: str, rows: list[Mapping[str, str]]) -> None:
    make_folder(path.parent)
    with held(path):
        append_rows(path, rows, (facet, *CELLS))
