"""Continuity faults planted one at a time in clean lists (tests/film/planted/faults.csv), and what the program says of them. `python -m tests.film_faults` prints which are found, and the false alarms on the clean lists."""

import csv
import sys
import tomllib
from pathlib import Path

from syntagma.app.film.film_prompts import film_knowledge
from syntagma.core.diagnostics import ERROR, WARNING, Finding
from syntagma.core.film.continuity import continuity
from syntagma.core.film.shot_list import read_shots
from syntagma.core.film.wording import Cast
from syntagma.core.models.references import KnownReference
from syntagma.formats.table_in import read_rows

PLANTED = Path(__file__).parent / "film" / "planted"


def cast_of(folder: Path) -> Cast:
    """The people of the lists of a folder."""
    known = tomllib.loads((folder / "known.toml").read_text("utf-8"))
    return Cast({name: KnownReference(name=name, **values) for name, values in known.items()})


def findings(folder: Path, name: str, changes=()):
    """What is wrong with a list (warnings and errors), some cells of it changed: shot → column →
    cell."""
    cast = cast_of(folder)
    headings, rows, _ = read_rows((folder / f"{name}.csv").read_text("utf-8"), name)
    columns = {heading.lower(): heading for heading in headings}
    for shot, column, cell in changes:
        scene, number = shot.split("/")
        if column.lower() not in columns:
            headings = [*headings, column]
            columns[column.lower()] = column
        row = next(
            cells
            for _, cells in rows
            if (cells[columns["scene"]], cells[columns["shot"]]) == (scene, number)
        )
        row[columns[column.lower()]] = cell
    shots = read_shots(headings, rows, name, list(cast.names))
    by_row = {shot.row: shot.name for shot in shots.shots}
    wrong = [Finding(ERROR, m.message, m.remedy, by_row.get(m.line, "")) for m in shots.mistakes]
    seen = continuity(shots, film_knowledge(), cast)
    return wrong + [f for f in seen if f.kind in (WARNING, ERROR)]


def planted(folder: Path):
    """Each fault: its list, its number, what kind, where it is to be seen, the cells."""
    found: dict = {}
    with open(folder / "faults.csv", newline="", encoding="utf-8") as file:
        for row in csv.DictReader(file):
            one = found.setdefault(
                (row["list"], int(row["fault"])), (row["kind"], row["where"], [])
            )
            one[2].append((row["shot"], row["column"], row["cell"]))
    return found


def names(finding, shot: str) -> bool:
    """Is a finding about a shot: in its place or in its words?"""
    return finding.place == shot or f"{shot}:" in finding.message or f"{shot} " in finding.message


def looked_for(folder: Path):
    """(The faults found, those missed, the false alarms on the clean lists); each fault as list,
    number, kind and what is said of it."""
    clean = {name: findings(folder, name) for name in sorted({n for n, _ in planted(folder)})}
    found, missed = [], []
    for (name, number), (kind, where, changes) in planted(folder).items():
        said = [
            f
            for f in findings(folder, name, changes)
            if names(f, where) and f.message not in {one.message for one in clean[name]}
        ]
        (found if said else missed).append((name, number, kind, [f.message for f in said]))
    return found, missed, [(name, one) for name, all_ in clean.items() for one in all_]


if __name__ == "__main__":
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else PLANTED
    found, missed, false = looked_for(folder)
    for name, number, kind, said in found:
        print("found ", name, number, kind, "|", "; ".join(said))
    for name, number, kind, _ in missed:
        print("missed", name, number, kind)
    for name, one in false:
        print("false alarm:", name, one.place, one.message)
    print(f"{len(found)} of {len(found) + len(missed)} found, {len(false)} false alarms")
