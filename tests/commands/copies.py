"""Copies of a sheet as a colleague edits them."""

import csv

from tests.commands.program import good


def edited(folder, name, edit):
    """A copy of a sheet as a colleague edits it."""
    good(folder, "sheet", "show", "s", "--out", name)
    return again(folder, name, edit)


def again(folder, name, edit):
    with open(folder / name, newline="", encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    rows = edit(rows) or rows
    with open(folder / name, "w", newline="", encoding="utf-8") as file:
        out = csv.DictWriter(file, list(rows[0]))
        out.writeheader()
        out.writerows(rows)
    return rows
