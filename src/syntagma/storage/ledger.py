"""The ledger of what was approved, sent and charged: a SQLite file of the workspace. Every step is one durable transaction, before a request goes
out and again when its answer is there, so that being killed loses nothing and sends nothing twice.

A ledger knows the machine that it was made on and its last number, which stands in the person's own folder too: one that is a copy (restored,
synced to another machine) refuses to send until it has been compared with the service's own list.
"""

import json
import os
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

from syntagma.core.batches.rows import SheetRow, TakeState
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.storage.files import make_folder
from syntagma.storage.folders import own_folder
from syntagma.storage.trouble import Trouble

LEDGER = "ledger.sqlite"
VERSION = 1
_SCHEMA = """
create table meta (name text primary key, value text not null);
create table sheets (name text primary key, made text not null);
create table rows (
    sheet text not null, id text not null, place integer not null, status text not null, model text not null, text text not null, negative text not null,
    takes integer not null, cost real, currency text not null, note text not null, held text not null, body text not null,
    approval text not null default '', approved_by text not null default '', approved_at text not null default '', primary key (sheet, id)
);
create table takes (
    sheet text not null, row text not null, number integer not null, state text not null, task text not null default '', charged real, reserved real not null default 0,
    file text not null default '', why text not null default '', chosen integer not null default 0, progress real, next_at real not null default 0, expires real not null default 0,
    address text not null default '', currency text not null default '', model text not null default '', primary key (sheet, row, number)
);
create index takes_by_state on takes (sheet, state);
create table attempts (
    id text primary key, sheet text not null, row text not null, number integer not null, key text not null, state text not null, task text not null default '',
    began text not null, ended text not null default '', status integer, why text not null default '', run text not null default '', code text not null default ''
);
create index attempts_of on attempts (sheet, row, number);
create table given (sheet text not null, row text not null, seen text not null, at text not null, cells text not null, primary key (sheet, row, seen));
create table events (at text not null, sheet text not null, row text not null, what text not null, detail text not null);
"""
_MIGRATIONS: dict[int, str] = {}  # a version → what makes the next of it


def now() -> str:
    """The time, as it stands in the ledger (ISO 8601, UTC)."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class Ledger:
    """A ledger that is open."""

    def __init__(self, folder: Path, read_only: bool = False):
        self.path = folder / LEDGER
        if read_only and not self.path.is_file():
            raise Trouble("nothing was put into a sheet here yet", "begin with syntagma sheet new NAME FILE", 2)
        try:
            self.base = sqlite3.connect(self.path, timeout=30, isolation_level=None)
            self.base.execute("pragma journal_mode=wal")
            self.base.execute("pragma synchronous=full")
            self._ready()
        except (sqlite3.Error, ValueError, OSError) as error:
            raise Trouble(f"{self.path} is no ledger that can be read ({error})", "put back the file of yesterday, then syntagma collect --reconcile") from None

    def _ready(self) -> None:
        if not self.base.execute("select 1 from sqlite_master where name = 'meta'").fetchone():
            with self.step():
                for statement in filter(str.strip, _SCHEMA.split(";")):
                    self.base.execute(statement)
                self._set(version=str(VERSION), id=uuid4().hex, number="0", machine=machine())
        version = int(self._get("version"))
        while version in _MIGRATIONS:
            with self.step():
                for statement in filter(str.strip, _MIGRATIONS[version].split(";")):
                    self.base.execute(statement)
                version += 1
                self._set(version=str(version))
        if version > VERSION:
            raise Trouble(f"{self.path} was written by a newer version of Syntagma", "update this one")

    def close(self) -> None:
        self.base.close()

    @contextmanager
    def whole(self) -> Iterator[None]:
        """The ledger while it is used, closed afterwards. Raises Trouble where it turns out to be damaged."""
        try:
            yield
        except (sqlite3.Error, _Damaged) as error:
            remedy = "put back the file of yesterday, then syntagma collect --reconcile"
            raise Trouble(f"{self.path} can't be used: {error}", "wait until the other call is done" if "locked" in str(error) else remedy) from None
        finally:
            self.base.close()

    @contextmanager
    def step(self) -> Iterator[None]:
        """One durable transaction."""
        self.base.execute("begin immediate")
        try:
            yield
        except BaseException:
            self.base.execute("rollback")
            raise
        self.base.execute("commit")

    def _get(self, name: str) -> str:
        found = self.base.execute("select value from meta where name = ?", (name,)).fetchone()
        return found[0] if found else ""

    def _set(self, **values: str) -> None:
        self.base.executemany("insert or replace into meta values (?, ?)", values.items())

    # Is it the one that was written here last?

    def is_copy(self) -> str:
        """Why this ledger may not be the true one; "" where it is: its machine and its last number are those that this person's folder has."""
        if not self.base.execute("select 1 from attempts limit 1").fetchone():
            return ""
        if self._get("machine") != machine():
            return "it was written on another machine"
        known = _witness(self._get("id"))
        if known is None:
            return "this person's folder knows nothing of it"
        return "something was sent that it does not know of" if int(self._get("number")) < known else ""

    def is_true(self) -> None:
        """Take this ledger for the true one, from here on: it was compared with the service."""
        with self.step():
            self._set(machine=machine())
            self._advance()
        self._witnessed()

    def _advance(self) -> None:
        """One request more: the number goes up, here first, and in the person's folder before the request goes out (`_witnessed`). Whoever is killed
        between the two has sent nothing; a copy of yesterday is behind."""
        self._set(number=str(max(int(self._get("number")), _witness(self._get("id")) or 0) + 1))

    def _witnessed(self) -> None:
        _bear_witness(self._get("id"), int(self._get("number")))

    @property
    def name(self) -> str:
        """This ledger as services know it."""
        return self._get("id")[:10]

    # Sheets and rows

    def sheets(self) -> list[str]:
        return [name for (name,) in self.base.execute("select name from sheets order by made")]

    def has(self, sheet: str) -> bool:
        return self.base.execute("select 1 from sheets where name = ?", (sheet,)).fetchone() is not None

    def add_rows(self, sheet: str, rows: Iterable[SheetRow]) -> None:
        """Put rows at the end of a sheet, which is made where there is none."""
        with self.step():
            self.base.execute("insert or ignore into sheets values (?, ?)", (sheet, now()))
            place = self.base.execute("select coalesce(max(place), 0) from rows where sheet = ?", (sheet,)).fetchone()[0]
            for number, row in enumerate(rows, place + 1):
                self.base.execute(
                    "insert into rows (sheet, id, place, status, model, text, negative, takes, cost, currency, note, held, body) values (?,?,?,?,?,?,?,?,?,?,?,?,?)",
                    (sheet, row.id, number, row.status, row.model, row.text, row.negative, row.takes, row.cost, row.currency, row.note, row.held, _body(row)),
                )
                self._event(sheet, row.id, "added", "")

    def rows(self, sheet: str) -> list[SheetRow]:
        """The rows of a sheet in their order. Raises Trouble where there is no such sheet."""
        if not self.has(sheet):
            known = self.sheets()
            raise Trouble(f"there is no sheet “{sheet}”", perhaps(sheet, known, f"there are {', '.join(known) or 'none'}: syntagma sheet new NAME FILE makes one"), 2)
        return [_row(found) for found in self.base.execute(f"select {_COLUMNS} from rows where sheet = ? order by place", (sheet,))]

    def row(self, sheet: str, name: str) -> SheetRow | None:
        found = self.base.execute(f"select {_COLUMNS} from rows where sheet = ? and id = ?", (sheet, name)).fetchone()
        return _row(found) if found else None

    def set_row(self, sheet: str, row: SheetRow, what: str, detail: str = "") -> None:
        """Put a row in place of the one of its id, and say why."""
        with self.step():
            self.base.execute(
                "update rows set status=?, model=?, text=?, negative=?, takes=?, cost=?, currency=?, note=?, held=?, body=?, approval=?, approved_by=?, approved_at=? where sheet=? and id=?",
                (row.status, row.model, row.text, row.negative, row.takes, row.cost, row.currency, row.note, row.held, _body(row), row.approval, row.approved_by, row.approved_at, sheet, row.id),
            )
            self._event(sheet, row.id, what, detail)

    def _event(self, sheet: str, row: str, what: str, detail: str) -> None:
        self.base.execute("insert into events values (?, ?, ?, ?, ?)", (now(), sheet, row, what, detail))

    def events(self, sheet: str, row: str) -> list[tuple[str, str, str]]:
        """(When, what, detail) of everything that led to a row."""
        return list(self.base.execute("select at, what, detail from events where sheet = ? and row = ? order by rowid", (sheet, row)))

    def given(self, sheet: str) -> dict[tuple[str, str], dict[str, str]]:
        """What was given out: (row, what was seen of it) → its cells; under "" what was given out last."""
        found: dict[tuple[str, str], dict[str, str]] = {}
        for row, seen, cells in self.base.execute("select row, seen, cells from given where sheet = ? order by at, rowid", (sheet,)):
            found[row, seen] = found[row, ""] = json.loads(cells)
        return found

    def give(self, sheet: str, cells: Mapping[str, Mapping[str, str]], seen: Mapping[str, str]) -> None:
        """Remember what was given out of each row."""
        with self.step():
            self.base.executemany(
                "insert or replace into given values (?, ?, ?, ?, ?)", [(sheet, row, seen[row], now(), json.dumps(one, ensure_ascii=False)) for row, one in cells.items()]
            )

    # Takes and attempts

    def takes(self, sheet: str, row: str = "") -> list[TakeState]:
        """The takes of a sheet, or of one row."""
        where, values = ("sheet = ? and row = ?", (sheet, row)) if row else ("sheet = ?", (sheet,))
        return [_take(found) for found in self.base.execute(f"select {_TAKE} from takes where {where} order by row, number", values)]

    def queue(self, sheet: str, row: str, numbers: Sequence[int], reserved: float, currency: str, model: str) -> None:
        """Begin the takes of a row."""
        with self.step():
            self.base.executemany(
                "insert or ignore into takes (sheet, row, number, state, reserved, currency, model) values (?, ?, ?, 'queued', ?, ?, ?)",
                [(sheet, row, number, reserved, currency, model) for number in numbers],
            )
            self._event(sheet, row, "queued", f"{len(numbers)}")

    def set_take(self, sheet: str, take: str, event: str = "", **values: Any) -> None:
        """Change a take, r1a2b3.2, and say why."""
        row, _, number = take.rpartition(".")
        assignments = ", ".join(f"{name} = ?" for name in values)
        with self.step():
            self.base.execute(f"update takes set {assignments} where sheet = ? and row = ? and number = ?", (*values.values(), sheet, row, int(number)))
            if event:
                self._event(sheet, row, event, take)

    def choose(self, sheet: str, take: str) -> None:
        """Choose a take of a row; the others are not chosen."""
        row, _, number = take.rpartition(".")
        with self.step():
            self.base.execute("update takes set chosen = (number = ?) where sheet = ? and row = ?", (int(number), sheet, row))
            self._event(sheet, row, "chosen", take)

    def begin(self, sheet: str, take: str, key: str, run: str, code: str) -> str:
        """Before a request goes out: an attempt, with its key. Return its id."""
        row, _, number = take.rpartition(".")
        with self.step():
            self._advance()
            count = self.base.execute("select count(*) from attempts where sheet = ? and row = ? and number = ?", (sheet, row, int(number))).fetchone()[0]
            name = f"{take}/{count + 1}"
            self.base.execute(
                "insert into attempts (id, sheet, row, number, key, state, began, run, code) values (?, ?, ?, ?, ?, 'sending', ?, ?, ?)",
                (f"{sheet}:{name}", sheet, row, int(number), key, now(), run, code),
            )
            self.base.execute("update takes set state = 'sending' where sheet = ? and row = ? and number = ?", (sheet, row, int(number)))
        self._witnessed()
        return name

    def end(self, sheet: str, attempt: str, state: str, take_state: str, task: str = "", status: int | None = None, why: str = "", next_at: float = 0.0, charged: float | None = None) -> None:
        """When the answer is there, or can't come: what became of an attempt, and of its take."""
        take = attempt.partition("/")[0]
        row, _, number = take.rpartition(".")
        with self.step():
            self.base.execute("update attempts set state = ?, task = ?, status = ?, why = ?, ended = ? where id = ?", (state, task, status, why, now(), f"{sheet}:{attempt}"))
            self.base.execute(
                "update takes set state = ?, task = case when ? != '' then ? else task end, why = ?, next_at = ?, charged = coalesce(?, charged) where sheet = ? and row = ? and number = ?",
                (take_state, task, task, why, next_at, charged, sheet, row, int(number)),
            )
            if take_state not in ("sent",):
                self._event(sheet, row, take_state, f"{take}{f': {why}' if why else ''}")

    def adopt(self, sheet: str, attempt: str, task: str, model: str) -> bool:
        """Take in an attempt that another copy of this ledger made; is its row here?"""
        take = attempt.partition("/")[0]
        row, _, number = take.rpartition(".")
        found = self.row(sheet, row)
        if found is None or not number.isdigit():
            return False
        with self.step():
            self._advance()
            self.base.execute(
                "insert or ignore into attempts (id, sheet, row, number, key, state, task, began) values (?, ?, ?, ?, '', 'sent', ?, ?)", (f"{sheet}:{attempt}", sheet, row, int(number), task, now())
            )
            self.base.execute(
                "insert into takes (sheet, row, number, state, task, reserved, currency, model) values (?, ?, ?, 'sent', ?, ?, ?, ?) on conflict (sheet, row, number) do update set state = 'sent', task = excluded.task",
                (sheet, row, int(number), task, found.cost or 0.0, found.currency, model),
            )
            self._event(sheet, row, "taken in", attempt)
        self._witnessed()
        return True

    def attempts(self, sheet: str, take: str = "") -> list[dict[str, Any]]:
        """The attempts of a sheet, or of one take, as the ledger has them; keys of theirs are told to nobody."""
        row, _, number = take.rpartition(".")
        where, values = ("sheet = ? and row = ? and number = ?", (sheet, row, int(number))) if take else ("sheet = ?", (sheet,))
        names = ("id", "row", "number", "key", "state", "task", "began", "ended", "status", "why", "run", "code")
        return [dict(zip(names, found, strict=True)) for found in self.base.execute(f"select {', '.join(names)} from attempts where {where} order by rowid", values)]

    def in_state(self, states: Sequence[str], sheet: str = "") -> list[dict[str, Any]]:
        """The takes in some states, with what is known of each."""
        marks = ", ".join("?" * len(states))
        names = ("sheet", "row", "number", "state", "task", "reserved", "charged", "next_at", "expires", "address", "model", "currency", "why", "file")
        query = f"select {', '.join(names)} from takes where state in ({marks}){' and sheet = ?' if sheet else ''} order by rowid"
        return [dict(zip(names, found, strict=True)) for found in self.base.execute(query, (*states, sheet) if sheet else tuple(states))]

    def spent(self, sheet: str = "") -> dict[str, float]:
        """What was charged, or may be, by currency: of everything, or of one sheet."""
        query = (
            "select currency, sum(coalesce(charged, case when state in ('sending', 'sent', 'unclear') then reserved else 0 end)) from takes"
            + (" where sheet = ?" if sheet else "") + " group by currency"
        )  # fmt: skip
        return {currency: amount for currency, amount in self.base.execute(query, (sheet,) if sheet else ()) if amount}


_COLUMNS = "id, status, model, text, negative, takes, cost, currency, note, held, body, approval, approved_by, approved_at"
_TAKE = "row, number, state, task, charged, reserved, file, why, chosen, progress"
_BODY = ("parameters", "references", "request", "findings", "needs", "further", "record")


def _body(row: SheetRow) -> str:
    return json.dumps({name: getattr(row, name) for name in _BODY}, ensure_ascii=False)


class _Damaged(Exception):
    """What stands in a ledger and can't."""


def _row(found: Sequence[Any]) -> SheetRow:
    try:
        return _read_row(found)
    except (ValueError, TypeError) as error:
        raise _Damaged(f"a row of it can't be read ({type(error).__name__})") from None


def _read_row(found: Sequence[Any]) -> SheetRow:
    name, status, model, text, negative, takes, cost, currency, note, held, body, approval, by, at = found
    return SheetRow(
        name, model, text, negative, takes=takes, cost=cost, currency=currency, status=status, note=note, held=held, approval=approval, approved_by=by, approved_at=at, **json.loads(body)
    )


def _take(found: Sequence[Any]) -> TakeState:
    row, number, state, task, charged, reserved, file, why, chosen, progress = found
    return TakeState(row, number, state, task, charged, reserved, file, why, bool(chosen), progress)


def machine() -> str:
    """This machine and this person's folder on it, as a ledger knows them."""
    folder = own_folder() / "machine"
    if not folder.is_file():
        make_folder(folder.parent)
        folder.write_text(uuid4().hex, "utf-8")
    return folder.read_text("utf-8").strip()


def _witness(ledger: str) -> int | None:
    """The last number that this person's folder knows of a ledger."""
    try:
        return int((own_folder() / "ledgers" / ledger).read_text("utf-8"))
    except (OSError, ValueError):
        return None


def _bear_witness(ledger: str, number: int) -> None:
    path = own_folder() / "ledgers" / ledger
    make_folder(path.parent)
    beside = path.with_suffix(".new")
    with open(beside, "w", encoding="utf-8") as file:
        file.write(str(number))
    os.replace(beside, path)  # whole or not at all
