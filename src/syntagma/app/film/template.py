"""An empty shot list to begin with: as XLSX with open lists, or as CSV. Its first row says what a blank cell means."""

import csv
from pathlib import Path

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.film.shots.columns import COLUMNS, SCENE, SCENE_COLUMNS, SHOT, column_of
from syntagma.formats.cells import harmless
from syntagma.storage.files import whole_file
from syntagma.storage.trouble import Trouble

NOTE = (
    "# One row a shot. A blank cell: within a scene "
    + ", ".join(SCENE_COLUMNS)
    + " carry on from the shot above; other blanks are left out. - means none, pick lets Syntagma choose. You may delete this row."
)


def new_list(workspace: Workspace, name: str, shots: int, formula: str) -> Path:
    """Write an empty list of so many shots, with a column for each slot of the formula that is not a column already. Raises Trouble."""
    path = Path(name if Path(name).suffix else f"{name}.xlsx")
    ending = path.suffix.lower()
    if ending not in (".xlsx", ".csv"):
        raise Trouble(f"can't write a shot list as {ending}", "name it .xlsx or .csv", 2)
    if path.exists():
        raise Trouble(f"{path} exists already", "give it another name", 2)
    slots = [rule.name for rule in workspace.formula(formula)[0].slots] if formula else []
    headings = [*COLUMNS, *(slot for slot in slots if not column_of(slot) and slot not in ("subject", "shot", "effect", "mood", "flaw"))]
    rows = [["1" if heading == SCENE else str(number) if heading == SHOT else "" for heading in headings] for number in range(1, shots + 1)]
    if ending == ".xlsx":
        from syntagma.formats.xlsx import write_form

        lists = {heading: _choices(workspace, heading) for heading in headings}
        about = {name: column.about for name, column in COLUMNS.items()}
        with whole_file(path) as file:
            write_form(file.buffer, "shot list", NOTE, headings, rows, {name: found for name, found in lists.items() if found}, about, max(shots, 200))
        return path
    with whole_file(path) as file:
        out = csv.writer(file)
        out.writerow([NOTE])
        out.writerow(map(harmless, headings))
        out.writerows([harmless(str(cell)) for cell in row] for row in rows)
    return path


def _choices(workspace: Workspace, heading: str) -> list[str]:
    """What the open list of a column offers."""
    column = COLUMNS.get(heading)
    if column is None:
        return []
    if column.values:
        return list(column.values)
    media = "video"
    if column.facet and column.facet in workspace.vocabulary:
        return [term.term for term in workspace.vocabulary[column.facet] if term.media in ("", media)]
    return {"screen side": ["left", "right", "centre"], "eyeline": ["left", "right", "to camera"], "facing": ["north", "east", "south", "west"]}.get(heading, [])
