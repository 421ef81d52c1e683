"""The rows of a sheet: their numbers and ids, conditions on their columns, and a copy merged three
ways.
"""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from hashlib import blake2b
from typing import Any, NamedTuple

from syntagma.core.diagnostics import WrongValue, perhaps
from syntagma.core.models.request_shape import as_json
from syntagma.core.notation.late_regex import regex
from syntagma.core.records import Record

# ──── The rows of a sheet: what a row depends on, its id, what approval binds to, and what its
# takes come to.
#
# A row is one prompt; a take is a result that is wanted of it; an attempt is a request that went
# out for a take. Ids begin with a letter, since a
# spreadsheet makes a number of 00e12.


OPEN, APPROVED, REMOVED = "open", "approved", "removed"
PERSONS = (OPEN, APPROVED, REMOVED)  # what a person sets
QUEUED, SENDING, SENT, WAITING, DONE = "queued", "sending", "sent", "waiting", "done"
REFUSED, FAILED, UNCLEAR, CANCELLED, EXPIRED = (
    "refused",
    "failed",
    "unclear",
    "cancelled",
    "expired",
)
TAKE_STATES = (QUEUED, SENDING, SENT, WAITING, DONE, REFUSED, FAILED, UNCLEAR, CANCELLED, EXPIRED)
ENDED = (DONE, REFUSED, FAILED, CANCELLED, EXPIRED)
MOST_TAKES = 50


class SheetRow(NamedTuple):
    """One row. `record` is what it was made of, whole; `request` what its service is sent; `cost`
    what one take of it is quoted at, tax and all; `needs` are the rows whose chosen result it waits
    for, by the names that its references stand for.
    """

    id: str
    model: str
    text: str
    negative: str = ""
    parameters: Mapping[str, Any] = {}
    references: Sequence[Mapping[str, Any]] = ()
    request: Mapping[str, Any] = {}
    cost: float | None = None
    currency: str = ""
    takes: int = 1
    status: str = OPEN
    note: str = ""
    findings: Sequence[Mapping[str, str]] = ()
    needs: Sequence[Mapping[str, str]] = ()
    further: Mapping[str, str] = {}
    record: Record = Record({})
    held: str = ""
    approval: str = ""
    approved_by: str = ""
    approved_at: str = ""


def content_hash(
    model: str,
    text: str,
    negative: str,
    parameters: Mapping[str, Any],
    references: Iterable[Mapping[str, Any]],
) -> str:
    """What a row depends on, in 12 hexadecimal digits: model, words, parameters, references."""
    return _hash(model, text, negative, dict(sorted(parameters.items())), list(references))


def row_ids(hashes: Iterable[str], taken: Iterable[str] = ()) -> list[str]:
    """An id for each row: the same content gives the same letters, and each row of it one of its
    own.
    """
    seen, found = set(taken), []
    for one in hashes:
        name, number = f"r{one[:9]}", 1
        while (name if number == 1 else f"{name}-{number}") in seen:
            number += 1
        found.append(name if number == 1 else f"{name}-{number}")
        seen.add(found[-1])
    return found


def approval_hash(row: SheetRow, profile: str, files: Sequence[tuple[str, str]] = ()) -> str:
    """What an approval binds to: the request as it was seen, its references and what is in the
    `files` that go along, the model's profile, the quoted price, how many takes.
    """
    bound = (
        row.model,
        row.text,
        row.negative,
        row.request,
        [dict(r) for r in row.references],
        profile,
        row.cost,
        row.currency,
        row.takes,
    )
    return _hash(*bound, *([list(files)] if files else []))


def profile_hash(values: object) -> str:
    """A model's profile in 12 hexadecimal digits."""
    return _hash(values)


def _hash(*parts: object) -> str:
    return blake2b(
        as_json({"parts": parts}).encode("utf-8", "surrogatepass"), digest_size=6
    ).hexdigest()


class TakeId(NamedTuple):
    """A take by its row and its number, written r1a2b3c4d5.2."""

    row: str
    number: int

    @classmethod
    def read(cls, text: str) -> "TakeId":
        """Of a take, or of an attempt of one (r1a2b3c4d5.2/1); the row is blank, and the number 0,
        where the text names none.
        """
        row, _, number = text.partition("/")[0].rpartition(".")
        return cls(row, int(number) if number.isascii() and number.isdigit() else 0)

    def __str__(self) -> str:
        return f"{self.row}.{self.number}"


class RequestReference(NamedTuple):
    """What a service is told that a request is called: the ledger, the sheet, the attempt, with
    colons between them.
    """

    ledger: str
    sheet: str
    attempt: str

    @classmethod
    def read(cls, text: str) -> "RequestReference":
        """As a service gives it back."""
        ledger, _, rest = text.partition(":")
        sheet, _, attempt = rest.rpartition(":")
        return cls(ledger, sheet, attempt)

    @property
    def key(self) -> str:
        """The attempt as its ledger calls it."""
        return f"{self.sheet}:{self.attempt}"


class TakeState(NamedTuple):
    """A take as the ledger knows it."""

    row: str
    number: int
    state: str = QUEUED
    task: str = ""
    charged: float | None = None
    reserved: float = 0.0
    file: str = ""
    why: str = ""
    chosen: bool = False
    progress: float | None = None

    @property
    def id(self) -> str:
        """The take as it is called: r1a2b3c4d5.2."""
        return str(TakeId(self.row, self.number))

    @property
    def spent(self) -> float:
        """What it has cost, or may have: what was charged, else, once it may have gone out, what
        was set aside.
        """
        return (
            self.charged
            if self.charged is not None
            else 0.0
            if self.state in (QUEUED, WAITING)
            else self.reserved
        )


def status_of(row: SheetRow, takes: Sequence[TakeState]) -> str:
    """What is in the column status: what a person set, until it is sent; then what its takes come
    to, the least finished first.
    """
    if not takes:
        return row.status
    states = [take.state for take in takes]
    for state in (UNCLEAR, SENDING, SENT, WAITING, QUEUED):
        if state in states:
            return state
    return DONE if DONE in states else states[0]


# ──── Conditions on the columns of a sheet: model=curlew-still, cost>4, text~ferry, status=open and
# seconds<=6.


_ONE = regex(r"\s*(?P<column>[^=<>!~]+?)\s*(?P<sign><=|>=|!=|=|<|>|~)\s*(?P<value>.*?)\s*", re.S)
_NUMBER = regex(r"-?\d+(?:[.,]\d+)?")
_MEASURED = regex(r"(-?\d+(?:[.,]\d+)?)(?:\s+[^\W\d]+)?")


class BadCondition(WrongValue):
    """A condition that says nothing. `remedy`: what to write instead."""


def condition(text: str, columns: list[str]) -> Callable[[Mapping[str, str]], bool]:
    """What tells whether a row, by its columns, meets a condition; parts between "and" must all
    hold. Raises BadCondition.
    """
    tests = [_test(part, columns) for part in _parts(text)]
    return lambda row: all(test(row) for test in tests)


def _parts(text: str) -> list[str]:
    """The parts between the “and”s of a condition; one within quotation marks, or that leads to no
    other condition, is a word like any other.
    """
    parts: list[str] = []
    for piece in re.split(r"\band\b", text):
        whole = not parts or (
            _ONE.fullmatch(piece) is not None
            and parts[-1].count('"') % 2 == 0
            and parts[-1].count("“") == parts[-1].count("”")
        )
        if whole:
            parts.append(piece)
        else:
            parts[-1] += f"and{piece}"
    return parts


def _test(text: str, columns: list[str]) -> Callable[[Mapping[str, str]], bool]:
    match = _ONE.fullmatch(text)
    if not match:
        raise BadCondition(
            f"“{text.strip()}” is not a condition", "write model=curlew-still, cost>4 or text~ferry"
        )
    column = next((name for name in columns if name.lower() == match["column"].lower()), None)
    if column is None:
        raise BadCondition(
            f"no column is called “{match['column']}”",
            perhaps(match["column"], columns, f"there are {', '.join(columns)}"),
        )
    sign, value = match["sign"], match["value"].strip("\"“”'")
    if sign in ("<", ">", "<=", ">=") and not _NUMBER.fullmatch(value):
        raise BadCondition(f"“{value}” is not a number", f"write {column}{sign}4")
    return lambda row: _holds(row.get(column, ""), sign, value)


def _holds(cell: str, sign: str, value: str) -> bool:
    if sign == "~":
        return value.lower() in cell.lower()
    a, b = _number(cell), _number(value)
    if sign in ("=", "!="):
        same = cell.strip().lower() == value.lower() or (a is not None and a == b)
        return same == (sign == "=")
    if a is None or b is None:
        return False
    return {"<": a < b, ">": a > b, "<=": a <= b, ">=": a >= b}[sign]


def _number(text: str) -> float | None:
    """A cell as a number, its currency left out: "4 credits" is 4; "1/5" is none."""
    match = _MEASURED.fullmatch(text.strip())
    return float(match[1].replace(",", ".")) if match else None


# ──── A person's copy of a sheet brought in, three ways: the last export, the current state, the
# edited copy. What only one side changed is taken; what two changed in the same cell is shown side
# by side, and neither wins unasked. What a spreadsheet breaks on the way is fixed or reported.


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
    """What came of a copy: changes to make, conflicts, rows that are new (their cells), ids that
    stand twice, that are gone, that are cut or unknown, and what broke on the way (row, column,
    what).
    """

    changes: tuple[CellChange, ...] = ()
    conflicts: tuple[Conflict, ...] = ()
    new: tuple[Mapping[str, str], ...] = ()
    twice: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    unknown: tuple[str, ...] = ()
    broken: tuple[tuple[str, str, str], ...] = ()


def merged(
    given: Mapping[str, Mapping[str, str]],
    now: Mapping[str, Mapping[str, str]],
    copy: Sequence[Mapping[str, str]],
    columns: Sequence[str],
) -> Merge:
    """Merge a copy: its rows by column, `id` among them. `given` and `now` are rows by id, `given`
    all that the copy held when it was given out; `columns` are those that a person may edit.
    """
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
            near = (
                [one for one in now if one.startswith(name) or name.startswith(one)]
                if len(name) > 4
                else []
            )
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
    return Merge(
        tuple(changes),
        tuple(conflicts),
        tuple(new),
        tuple(twice),
        gone,
        tuple(unknown),
        tuple(broken),
    )


def _same(one: str, other: str) -> bool:
    return one.replace("\r\n", "\n").rstrip() == other.replace("\r\n", "\n").rstrip()


def _mended(theirs: str, was: str) -> tuple[str, str]:
    """A cell as it was meant, where a spreadsheet changed only its signs; and what it had
    changed.
    """
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
    if re.fullmatch(r"\d{1,4}[-/.]\d{1,2}([-/.]\d{1,4})?( 00:00:00)?", theirs) and re.fullmatch(
        r"\d{1,2}[/:-]\d{1,2}", was
    ):
        return was, f"it had become a date ({theirs}), so it was restored"
    return theirs, ""


def status_given(text: str, before: str, unsent: bool) -> tuple[str, str]:
    """(The status that a person's word sets, why it does not): only open, approved and removed are
    theirs, and only on what is not sent.
    """
    word = text.strip().lower()
    if word == before:
        return before, ""
    if word not in PERSONS:
        return (
            before,
            f"“{text}” can't be set by hand: write {', '.join(PERSONS[:-1])} or {PERSONS[-1]}",
        )
    if not unsent:
        return before, "it has been sent, so an edit makes a new row"
    return word, ""
