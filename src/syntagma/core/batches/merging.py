"""A person's copy of a sheet brought in, three ways: the last export, the current state, the edited copy. What only one side changed is
taken; what two changed in the same cell is shown side by side, and neither wins unasked. What a spreadsheet breaks on the way is fixed or reported.
"""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core.batches.rows import PERSONS
from syntagma.core.notation.late_regex import regex

EDITABLE = ("status", "takes", "text", "negative", "note")
_AS_NUMBER = regex(r"[+-]?\d{1,15}(?:\.\d{1,10})?")
_CURLY = str.maketrans("“”‘’", "\"\"''")


class CellChange(NamedTuple):
    """A cell that a person changed: the row's id, the column, what it was, what it is."""

    row: str
    column: str
    before: str
    after: str


class Conflict(NamedTuple):
    """A cell that was changed on both sides since it was given out."""

    row: str
    column: str
    given: str
    now: str
    theirs: str


class Merge(NamedTuple):
    """What came of a copy: changes to make, conflicts, rows that are new (their cells), ids that stand twice, that are gone, that are cut or
    unknown, and what broke on the way (row, column, what)."""

    changes: tuple[CellChange, ...] = ()
    conflicts: tuple[Conflict, ...] = ()
    new: tuple[Mapping[str, str], ...] = ()
    twice: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()
    broken: tuple[tuple[str, str, str], ...] = ()


def merged(
    given: Mapping[str, Mapping[str, str]], now: Mapping[str, Mapping[str, str]], copy: Sequence[Mapping[str, str]], columns: Sequence[str]
) -> Merge:
    """Merge a copy: its rows by column, `id` among them. `given` and `now` are rows by id, `given` all that the copy held when it was given out; `columns` are
    those that a person may edit."""
    changes: list[CellChange] = []
    conflicts: list[Conflict] = []
    new: list[Mapping[str, str]] = []
    broken: list[tuple[str, str, str]] = []
    seen: dict[str, int] = {}
    twice, unknown = [], []
    for cells in copy:
        name = cells.get("id", "").strip()
        if not name:
            if any(cell.strip() for column, cell in cells.items() if column != "status"):
                new.append(cells)
            continue
        if name not in now:
            near = [one for one in now if one.startswith(name) or name.startswith(one)] if len(name) > 4 else []
            unknown.append(f"{name} (cut? {near[0]})" if len(near) == 1 else name)
            continue
        seen[name] = seen.get(name, 0) + 1
        if seen[name] == 2:
            twice.append(name)
        if seen[name] > 1:
            continue
        before, current = given.get(name, now[name]), now[name]
        for column in columns:
            if column not in cells:
                continue
            theirs, was, what = cells[column], before.get(column, ""), ""
            if column == "status":
                theirs = theirs.strip().lower()
            theirs, what = _mended(theirs, was)
            if what:
                broken.append((name, column, what))
            if _same(theirs, was):
                continue  # nobody touched it
            if _same(current.get(column, ""), was) or _same(current.get(column, ""), theirs):
                if not _same(current.get(column, ""), theirs):
                    changes.append(CellChange(name, column, current.get(column, ""), theirs))
            else:
                conflicts.append(Conflict(name, column, was, current.get(column, ""), theirs))
    gone = tuple(name for name in given if name in now and name not in seen)
    return Merge(tuple(changes), tuple(conflicts), tuple(new), tuple(twice), gone, tuple(unknown), tuple(broken))


def _same(one: str, other: str) -> bool:
    return one.replace("\r\n", "\n").rstrip() == other.replace("\r\n", "\n").rstrip()


def _mended(theirs: str, was: str) -> tuple[str, str]:
    """A cell as it was meant, where a spreadsheet changed only its signs; and what it had changed."""
    if theirs == was or not was:
        return theirs, ""
    if theirs.replace("\r\n", "\n").replace("_x000D_", "") == was.replace("\r\n", "\n"):
        return was, "" if theirs.replace("\r\n", "\n") == was else "line ends"
    if theirs.translate(_CURLY) == was.translate(_CURLY):
        return was, "changed quotation marks were restored"
    if theirs in ("#NAME?", "#VALUE!", "#REF!", "Err:508", "Err:509", "#DIV/0!"):
        return was, f"a spreadsheet ran the cell as a formula ({theirs}), so it was restored"
    if re.fullmatch(r"'?[=+@-].*", was) and theirs == was.lstrip("=+@-'"):
        return was, "a lost leading sign was restored"
    if _AS_NUMBER.fullmatch(was) and _AS_NUMBER.fullmatch(theirs) and float(was) == float(theirs):
        return was, f"it had become a number ({theirs}), so it was restored"
    if re.fullmatch(r"\d{1,4}[-/.]\d{1,2}([-/.]\d{1,4})?( 00:00:00)?", theirs) and re.fullmatch(r"\d{1,2}[/:-]\d{1,2}", was):
        return was, f"it had become a date ({theirs}), so it was restored"
    return theirs, ""


def status_given(text: str, before: str, unsent: bool) -> tuple[str, str]:
    """(The status that a person's word sets, why it does not): only open, approved and removed are theirs, and only on what is not sent."""
    word = text.strip().lower()
    if word == before:
        return before, ""
    if word not in PERSONS:
        return before, f"“{text}” can't be set by hand: write {', '.join(PERSONS[:-1])} or {PERSONS[-1]}"
    if not unsent:
        return before, "it has been sent, so an edit makes a new row"
    return word, ""

