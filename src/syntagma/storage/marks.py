"""A person's marks on terms, stars and notes, in one CSV file of their own folder: marks.csv."""

import csv
import io
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from syntagma.core.vocabulary.terms import normal
from syntagma.storage.files import held, make_folder, read_text, write_text
from syntagma.storage.folders import own_folder
from syntagma.storage.trouble import Trouble

FILE = "marks.csv"


class TermMark(NamedTuple):
    """What a person has set on one term."""

    star: bool = False
    note: str = ""


Marks = dict[tuple[str, str], TermMark]  # (facet, term) → mark


def marks_file() -> Path:
    return own_folder() / FILE


@contextmanager
def marks_held() -> Iterator[None]:
    """Hold the marks for this call, from reading to writing them. Raises Trouble."""
    make_folder(marks_file().parent)
    with held(marks_file()):
        yield


def read_marks() -> Marks:
    """All marks; none without a file. Raises Trouble if it can't be read."""
    path = marks_file()
    if not path.exists():
        return {}
    rows = csv.DictReader(io.StringIO(read_text(path), newline=""))
    try:
        return {
            (row.get("facet") or "", row.get("term") or ""): TermMark((row.get("star") or "") == "yes", row.get("note") or "")
            for row in rows
        }
    except csv.Error as error:
        raise Trouble(f"{path} can't be read: {error}", "correct it, or move it: it holds your stars and notes") from None


def write_marks(marks: Marks) -> None:
    """Write all marks, those that say nothing left out. Raises Trouble."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["facet", "term", "star", "note"])
    for (facet, term), mark in sorted(marks.items()):
        if mark.star or mark.note:
            writer.writerow([facet, term, "yes" if mark.star else "", mark.note])
    make_folder(marks_file().parent)
    write_text(marks_file(), out.getvalue())


def by_name(marks: Marks) -> Marks:
    """The same by the normal form of the term's name."""
    return {(facet, normal(term)): mark for (facet, term), mark in marks.items()}
