"""A film's list in and out: CSV, XLSX or Fountain; and an empty one to begin with."""

import csv
from collections.abc import Sequence
from pathlib import Path

from syntagma.app.asked import USUAL, Taste
from syntagma.app.film.film_prompts import Film, film_file, with_change
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Mistake, Refused, Trouble
from syntagma.core.film.columns import COLUMNS, NONE, SCENE_COLUMNS, Col, column_of
from syntagma.core.film.script import KEPT, shot_rows
from syntagma.core.film.shot_list import ShotList, read_shots
from syntagma.core.film.spoken import plain
from syntagma.formats.fountain import read_fountain
from syntagma.formats.office_tables import office_cells, office_table, office_text
from syntagma.formats.table_in import Table, TableRow, harmless, read_rows
from syntagma.formats.xlsx import sheet_lines, without_result
from syntagma.storage.files import read_bytes, read_text, whole_file

# ──── An empty shot list to begin with: as XLSX with open lists, or as CSV. Its first row says what
# a blank cell means.


NOTE = (
    "# One row a shot. A blank cell: within a scene "
    + ", ".join(SCENE_COLUMNS)
    + " carry on from the shot above; other blanks are left out. - means none, pick lets Syntagma"
    " choose. You may delete this row."
)


def new_list(workspace: Workspace, name: str, shots: int, formula: str) -> Path:
    """Write an empty list of so many shots, with a column for each slot of the formula that is not
    a column already. Raises Trouble.
    """
    path = Path(name if Path(name).suffix else f"{name}.xlsx")
    ending = path.suffix.lower()
    if ending not in (".xlsx", ".csv"):
        raise Trouble(f"can't write a shot list as {ending}", "name it .xlsx or .csv", 2)
    if path.exists():
        raise Trouble(f"{path} exists already", "give it another name", 2)
    slots = [rule.name for rule in workspace.formula(formula)[0].slots] if formula else []
    headings = [
        *COLUMNS,
        *(
            slot
            for slot in slots
            if not column_of(slot) and slot not in ("subject", "shot", "effect", "mood", "flaw")
        ),
    ]
    rows = [
        [
            "1" if heading == Col.SCENE else str(number) if heading == Col.SHOT else ""
            for heading in headings
        ]
        for number in range(1, shots + 1)
    ]
    if ending == ".xlsx":
        from syntagma.formats.xlsx import write_form

        lists = {heading: _choices(workspace, heading) for heading in headings}
        about = {name: column.about for name, column in COLUMNS.items()}
        with whole_file(path) as file:
            write_form(
                file.buffer,
                "shot list",
                NOTE,
                headings,
                rows,
                {name: found for name, found in lists.items() if found},
                about,
                max(shots, 200),
            )
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
        return [
            term.term for term in workspace.vocabulary[column.facet] if term.media in ("", media)
        ]
    return {
        Col.SCREEN_SIDE: ["left", "right", "centre"],
        Col.EYELINE: ["left", "right", "to camera"],
        Col.FACING: ["north", "east", "south", "west"],
    }.get(heading, [])


# ──── A film's list in and out: CSV, XLSX or Fountain, with the note that a template begins with.


LISTS = (".csv", ".xlsx", ".fountain")


class FilmList:
    """A shot list as a file has it: headings and rows, which can be changed, and the shots that
    they make.
    """

    def __init__(
        self, workspace: Workspace, source: str, formula: str = "", looks: Sequence[str] = ()
    ):
        self.workspace, self.source = workspace, source
        path = Path(source)
        if path.suffix.lower() not in LISTS:
            raise Trouble(
                f"{source} is not a shot list",
                f"give one that ends in {', '.join(LISTS[:-1])} or {LISTS[-1]}; `syntagma film new"
                " NAME` makes an empty one",
                2,
            )
        self.settings = film_file(path)
        self.settings = self.settings._replace(
            formula=formula or self.settings.formula, looks=tuple(looks) or self.settings.looks
        )
        self.lost: list[str] = []
        self.notes: list[str] = []
        headings, rows, mistakes = self._table(path)
        if mistakes and not rows:
            raise Refused(list(mistakes))
        self.headings = [h for h in headings if h]
        self.rows = [(row.line, dict(row.cells)) for row in rows]
        self.mistakes = list(mistakes)
        self.shots = self._read()

    def _table(self, path: Path) -> Table:
        """The table of a file; of a script the shots in it, and what a list can't hold."""
        if path.suffix.lower() != ".fountain":
            return self._office_table(path)
        script = read_fountain(read_text(path, "a script"))
        if title := next(
            (text for key, text in script.title.items() if key.lower() == "title"), ""
        ):
            self.settings = self.settings._replace(title=" ".join(plain(title).split()))
        self.lost = script.lost
        headings, rows = shot_rows(script, [one.name for one in self.workspace.known.values()])
        found = [TableRow(line, cells) for line, cells in rows]
        return (
            headings,
            found,
            (
                []
                if found
                else [
                    Mistake(
                        "it has no scenes",
                        "a scene begins with INT. or EXT., on a line of its own",
                        str(path),
                    )
                ]
            ),
        )

    def _office_table(self, path: Path) -> Table:
        """A table as offices make them; what is left out of it goes into the notes."""
        data = read_bytes(path, "a shot list")
        blank: list[tuple[int, int]] = []  # cells of a workbook that have no result
        if path.suffix.lower() == ".xlsx":
            lines, blank = sheet_lines(data, str(path))
            records = list(enumerate(lines, 1))
        else:
            text, encoding = office_text(data)
            if encoding:
                self.notes.append(f"{path} is not UTF-8; it was read as {encoding}")
            headings, rows, mistakes = read_rows(text, str(path))
            if mistakes and len({column_of(one) for one in headings} - {""}) > 1:
                return headings, rows, mistakes
            records = office_cells(text, column_of)
        found = office_table(records, str(path), column_of, Col.SCENE, Col.SHOT)
        self.notes += found.notes
        wrong = without_result(blank, found.columns, str(path)) if blank else []
        return found.columns, found.rows, [*wrong, *found.mistakes]

    def _read(self) -> ShotList:
        names = [one.name for one in self.workspace.known.values()]
        return read_shots(
            self.headings,
            self.rows,
            self.source,
            names,
            [slot for slot in self._slots() if not column_of(slot)],
            self.settings.clock.rate,
            self.settings.clock.tempo,
        )

    def _slots(self) -> list[str]:
        """The slots of every formula that the list is written by."""
        heading = next((h for h in self.headings if column_of(h) == Col.FORMULA), "")
        named = {cells.get(heading, "").strip() for _, cells in self.rows} if heading else set()
        formulas = [
            self.workspace.formula(name)[0]
            for name in dict.fromkeys((self.settings.formula, *sorted(named - {"", NONE})))
        ]
        return list(dict.fromkeys(rule.name for formula in formulas for rule in formula.slots))

    def change(self, place: str, text: str) -> str:
        """Change one cell or one line; return what it was. Raises Trouble if no such place
        exists.
        """
        try:
            old = with_change(self.rows, self.shots, place, text, self.headings)
        except LookupError as wrong:
            raise Trouble(
                str(wrong), '--set 3/12A/2="…" for a line, --set 3/12A/light="…" for a column', 2
            ) from None
        self.shots = self._read()
        return old

    @property
    def further(self) -> list[str]:
        """The headings that no prompt hears of: no column of a shot list, no slot of the formula,
        nothing that a script keeps.
        """
        slots = set(self._slots())
        return [
            h
            for h in self.headings
            if not column_of(h)
            and h.strip().lower() not in slots
            and h not in (*KEPT, "heading words")
        ]

    @property
    def wrong(self) -> list[Mistake]:
        """Everything that is wrong with the list, by row."""
        return sorted((*self.mistakes, *self.shots.mistakes), key=lambda m: (m.line, m.column))

    def film(self, taste: Taste = USUAL) -> Film:
        """The film of the list; picks are made to a taste."""
        return Film(self.workspace, self.shots, self.settings, taste)


def films_in(workspace: Workspace, folder: Path) -> list[tuple[Path, int]]:
    """The shot lists and scripts in a folder, each with how many shots it has: scripts, and tables
    that have a film's settings beside them.
    """
    found: list[tuple[Path, int]] = []
    for path in sorted(folder.iterdir()):
        if (
            path.suffix.lower() in LISTS
            and path.is_file()
            and (path.suffix.lower() == ".fountain" or path.with_suffix(".toml").is_file())
        ):
            try:
                found.append((path, len(FilmList(workspace, str(path)).shots.shots)))
            except (Trouble, Refused):
                continue
    return found


def table_of(shots: ShotList, filled: bool = False) -> tuple[list[str], list[list[str]]]:
    """A shot list as a table: as it was given, or with what each shot really has in the cells that
    were blank.
    """
    headings = list(shots.headings)
    names = {heading: column_of(heading) for heading in headings}
    if filled:
        for column in _all_columns(shots):
            if column not in names.values():
                headings.append(column)
                names[column] = column
    rows = []
    for shot in shots.shots:
        cells = []
        for heading in headings:
            column = names.get(heading) or ""
            if not column:
                cells.append(shot.further.get(heading, ""))
            else:
                given = shot.given.get(column, "")
                cells.append(shot.cells.get(column, "") if filled and given != NONE else given)
        rows.append(cells)
    return headings, rows


def _all_columns(shots: ShotList) -> Sequence[str]:
    found: dict[str, None] = {}
    for shot in shots.shots:
        found |= dict.fromkeys(shot.cells)
    return list(found)
