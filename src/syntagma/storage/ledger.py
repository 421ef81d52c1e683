"""The ledger of what was approved, sent and charged: a SQLite file of the workspace. Every step is
one durable transaction, before a request goes out and again when its answer is there, so being
killed loses nothing and sends nothing twice.

A ledger knows the machine that it was made on and its last number, which is in the person's own
folder too: one that is a copy (restored, synced to another machine) refuses to send until it has
been compared with the service's own list.
"""

import json
import os
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, NamedTuple
from uuid import uuid4

from syntagma.core.diagnostics import SyntagmaError, Trouble, perhaps
from syntagma.core.records import Record
from syntagma.core.sheets import SheetRow, TakeId, TakeState
from syntagma.storage.files import held, is_locked, make_folder
from syntagma.storage.folders import own_folder

LEDGER = "ledger.sqlite"
VERSION = 3
_SCHEMA = """
create table meta (name text primary key, value text not null);
create table sheets (name text primary key, made text not null);
create table rows (
    sheet text not null, id text not null, place integer not null, status text not null,
        model text not null, text text not null, negative text not null,
    takes integer not null, cost real, currency text not null, note text not null,
        held text not null, body text not null,
    approval text not null default '', approved_by text not null default '',
        approved_at text not null default '', primary key (sheet, id)
);
create table takes (
    sheet text not null, row text not null, number integer not null, state text not null,
        task text not null default '', charged real, reserved real not null default 0,
    file text not null default '', why text not null default '',
        chosen integer not null default 0, progress real, next_at real not null default 0,
        expires real not null default 0,
    address text not null default '', currency text not null default '',
        model text not null default '', primary key (sheet, row, number)
);
create index takes_by_state on takes (sheet, state);
create table attempts (
    id text primary key, sheet text not null, row text not null, number integer not null,
        key text not null, state text not null, task text not null default '',
    began text not null, ended text not null default '', status integer,
        why text not null default '', run text not null default '', code text not null default ''
);
create index attempts_of on attempts (sheet, row, number);
create table given (sheet text not null, row text not null, seen text not null,
    at text not null, cells text not null, primary key (sheet, row, seen));
create table events (at text not null, sheet text not null, row text not null,
    what text not null, detail text not null);
"""
# a version → what makes the next of it. A new ledger is made as version 1 and brought up like an
# old one.
_MIGRATIONS: dict[int, str] = {
    1: (
        """
    alter table attempts add column body text not null default '';
    alter table takes add column tries integer not null default 0;
    alter table takes add column since real not null default 0;
    alter table takes add column digest text not null default '';
    create index takes_by_task on takes (task);
    create index takes_by_digest on takes (digest);
    """
    ),
    2: "update rows set status = 'removed' where status = 'struck'",
}
OUT_OF_HAND = "('queued', 'waiting')"  # the states in which a take has certainly cost nothing
_SPENT = f"coalesce(charged, case when state in {OUT_OF_HAND} then 0 else reserved end)"


def now() -> str:
    """The time, as it is in the ledger (ISO 8601, UTC)."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class _Damaged(SyntagmaError):
    """What is in a ledger and can't."""


class Attempt(NamedTuple):
    """An attempt that is about to go out: its name within its sheet, and its key."""

    name: str
    key: str


class OverBudget(SyntagmaError):
    """More than all sheets together may cost. `spent` is what they have cost, or may have."""

    def __init__(self, spent: float):
        super().__init__(spent)
        self.spent = spent


class Meanwhile(SyntagmaError):
    """Another call did something with a take meanwhile."""


class Differs(SyntagmaError):
    """What may have been charged, and would go out as another request."""


class Ledger:
    """A ledger that is open."""

    def __init__(self, folder: Path, read_only: bool = False):
        self.path = folder / LEDGER
        if read_only and not self.path.is_file():
            raise Trouble(
                "this workspace has no sheets yet", "start with syntagma sheet new NAME FILE", 2
            )
        try:
            self.base = sqlite3.connect(self.path, timeout=30, isolation_level=None)
            self.base.execute("pragma journal_mode=wal")
            self.base.execute("pragma synchronous=full")
            self._ready()
        except (sqlite3.Error, ValueError, OSError) as error:
            raise Trouble(
                f"{self.path} can't be read as a ledger ({error})",
                "restore a backup of it, then syntagma collect --reconcile",
            ) from None

    def _ready(self) -> None:
        if not self.base.execute("select 1 from sqlite_master where name = 'meta'").fetchone():
            with self.step():
                for statement in filter(str.strip, _SCHEMA.split(";")):
                    self.base.execute(statement)
                self._set(version="1", id=uuid4().hex, number="0", machine=machine())
        version = int(self._get("version"))
        while version in _MIGRATIONS:
            with self.step():
                for statement in filter(str.strip, _MIGRATIONS[version].split(";")):
                    self.base.execute(statement)
                version += 1
                self._set(version=str(version))
        if version > VERSION:
            raise Trouble(
                f"{self.path} was written by a newer version of Syntagma", "update this one"
            )

    def close(self) -> None:
        self.base.close()

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Hold the rows of all sheets for this call, from reading them to writing them: of two
        calls that edit, one waits. Raises Trouble.
        """
        with held(self.path):
            yield

    @contextmanager
    def whole(self) -> Iterator[None]:
        """The ledger while it is used, closed afterwards. Raises Trouble if it turns out to be
        damaged.
        """
        try:
            yield
        except (sqlite3.Error, _Damaged) as error:
            remedy = "restore a backup of it, then syntagma collect --reconcile"
            raise Trouble(
                f"{self.path} can't be used: {error}",
                "wait until the other command finishes" if is_locked(error) else remedy,
            ) from None
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
        """Why this may be a copy of the ledger; "" if it is: its machine and its last number are
        those that this person's folder has.
        """
        if not self.base.execute("select 1 from attempts limit 1").fetchone():
            return ""
        if self._get("machine") != machine():
            return "it was written on another machine"
        known = _witness(self._get("id"))
        if known is None:
            return "it is not registered in your own folder"
        return "something was sent that it does not record" if self._number() < known else ""

    def is_true(self) -> None:
        """Take this ledger for the true one, from here on: it was compared with the service."""
        with self.step():
            self._set(machine=machine())
            self._advance()
        self._witnessed()

    def _advance(self) -> None:
        """One request more: the number goes up, here first, and in the person's folder before the
        request goes out (`_witnessed`). Whoever is killed between the two has sent nothing; a copy
        of yesterday is behind.
        """
        self._set(number=str(max(self._number(), _witness(self._get("id")) or 0) + 1))

    def _number(self) -> int:
        """How many requests this ledger knows of. Raises _Damaged if it says no number."""
        said = str(self._get("number"))
        if not said.isascii() or not said.isdigit():
            raise _Damaged("its count of requests can't be read")
        return int(said)

    def _witnessed(self) -> None:
        _bear_witness(self._get("id"), self._number())

    @property
    def name(self) -> str:
        """This ledger as services know it."""
        return self._get("id")[:10]

    # Sheets and rows

    def sheets(self) -> list[str]:
        names = [name for (name,) in self.base.execute("select name from sheets order by made")]
        if not all(isinstance(name, str) for name in names):
            raise _Damaged("the name of a sheet can't be read")
        return names

    def has(self, sheet: str) -> bool:
        return (
            self.base.execute("select 1 from sheets where name = ?", (sheet,)).fetchone()
            is not None
        )

    def add_rows(self, sheet: str, rows: Iterable[SheetRow]) -> None:
        """Put rows at the end of a sheet, which is made if there is none."""
        with self.step():
            self.base.execute("insert or ignore into sheets values (?, ?)", (sheet, now()))
            place = self.base.execute(
                "select coalesce(max(place), 0) from rows where sheet = ?", (sheet,)
            ).fetchone()[0]
            for number, row in enumerate(rows, place + 1):
                self.base.execute(
                    "insert into rows (sheet, id, place, status, model, text, negative, takes,"
                    " cost, currency, note, held, body) values (?,?,?,?,?,?,?,?,?,?,?,?,?)",
                    (
                        sheet,
                        row.id,
                        number,
                        row.status,
                        row.model,
                        row.text,
                        row.negative,
                        row.takes,
                        row.cost,
                        row.currency,
                        row.note,
                        row.held,
                        _body(row),
                    ),
                )
                self._event(sheet, row.id, "added", "")

    def rows(self, sheet: str) -> list[SheetRow]:
        """The rows of a sheet in their order. Raises Trouble if no such sheet exists."""
        if not self.has(sheet):
            known = self.sheets()
            raise Trouble(
                f"no sheet is called “{sheet}”",
                perhaps(
                    sheet,
                    known,
                    f"there are {', '.join(known) or 'none'}: syntagma sheet new NAME FILE"
                    " makes one",
                ),
                2,
            )
        return [
            _row(found)
            for found in self.base.execute(
                f"select {_COLUMNS} from rows where sheet = ? order by place", (sheet,)
            )
        ]

    def row(self, sheet: str, name: str) -> SheetRow | None:
        found = self.base.execute(
            f"select {_COLUMNS} from rows where sheet = ? and id = ?", (sheet, name)
        ).fetchone()
        return _row(found) if found else None

    def set_row(self, sheet: str, row: SheetRow, what: str, detail: str = "") -> None:
        """Put a row in place of the one of its id, and say why."""
        with self.step():
            self.base.execute(
                "update rows set status=?, model=?, text=?, negative=?, takes=?, cost=?,"
                " currency=?, note=?, held=?, body=?, approval=?, approved_by=?, approved_at=?"
                " where sheet=? and id=?",
                (
                    row.status,
                    row.model,
                    row.text,
                    row.negative,
                    row.takes,
                    row.cost,
                    row.currency,
                    row.note,
                    row.held,
                    _body(row),
                    row.approval,
                    row.approved_by,
                    row.approved_at,
                    sheet,
                    row.id,
                ),
            )
            self._event(sheet, row.id, what, detail)

    def _event(self, sheet: str, row: str, what: str, detail: str) -> None:
        self.base.execute(
            "insert into events values (?, ?, ?, ?, ?)", (now(), sheet, row, what, detail)
        )

    def events(self, sheet: str, row: str) -> list[tuple[str, str, str]]:
        """(When, what, detail) of everything that led to a row."""
        return list(
            self.base.execute(
                "select at, what, detail from events where sheet = ? and row = ? order by rowid",
                (sheet, row),
            )
        )

    def given(self, sheet: str) -> dict[tuple[str, str], dict[str, str]]:
        """What was given out: (row, what was seen of it) → its cells; under "" what was given out
        last.
        """
        found: dict[tuple[str, str], dict[str, str]] = {}
        for row, seen, cells in self.base.execute(
            "select row, seen, cells from given where sheet = ? order by at, rowid", (sheet,)
        ):
            try:
                found[row, seen] = found[row, ""] = {
                    str(name): str(cell) for name, cell in json.loads(cells).items()
                }
            except (ValueError, TypeError, AttributeError, RecursionError):
                raise _Damaged("the exported state of a row can't be read") from None
        return found

    def given_until(self, sheet: str, seen: Iterable[tuple[str, str]]) -> set[str]:
        """The rows that had been given out when a copy was that holds these rows as they
        were seen.
        """
        times = dict(
            ((row, what), at)
            for row, what, at in self.base.execute(
                "select row, seen, at from given where sheet = ?", (sheet,)
            )
        )
        last = max((times[one] for one in seen if one in times), default="")
        return {row for (row, _), at in times.items() if at <= last}

    def give(
        self, sheet: str, cells: Mapping[str, Mapping[str, str]], seen: Mapping[str, str]
    ) -> None:
        """Remember what was given out of each row."""
        with self.step():
            at = now()
            self.base.executemany(
                "insert or replace into given values (?, ?, ?, ?, ?)",
                [
                    (sheet, row, seen[row], at, json.dumps(one, ensure_ascii=False))
                    for row, one in cells.items()
                ],
            )

    # Takes and attempts

    def takes(self, sheet: str, row: str = "") -> list[TakeState]:
        """The takes of a sheet, or of one row."""
        where, values = ("sheet = ? and row = ?", (sheet, row)) if row else ("sheet = ?", (sheet,))
        return [
            _take(found)
            for found in self.base.execute(
                f"select {_TAKE} from takes where {where} order by row, number", values
            )
        ]

    def queue(
        self,
        sheet: str,
        row: str,
        numbers: Sequence[int],
        reserved: float,
        currency: str,
        model: str,
    ) -> None:
        """Begin the takes of a row."""
        with self.step():
            self.base.executemany(
                "insert or ignore into takes (sheet, row, number, state, reserved, currency, model)"
                " values (?, ?, ?, 'queued', ?, ?, ?)",
                [(sheet, row, number, reserved, currency, model) for number in numbers],
            )
            self._event(sheet, row, "queued", f"{len(numbers)}")

    def withdraw(self, sheet: str, row: str) -> bool:
        """Take the takes of a row back, as if it had never been queued; False if one of them may
        have gone out.
        """
        with self.step():
            states = [
                state
                for (state,) in self.base.execute(
                    "select state from takes where sheet = ? and row = ?", (sheet, row)
                )
            ]
            if any(state not in ("queued", "waiting") for state in states):
                return False
            self.base.execute("delete from takes where sheet = ? and row = ?", (sheet, row))
            if states:
                self._event(sheet, row, "withdrawn", "before it was sent")
        return True

    def set_take(
        self, sheet: str, take: str, event: str = "", when: Sequence[str] = (), **values: Any
    ) -> bool:
        """Change a take, r1a2b3.2, and say why. `when`: only while it is in one of these states, so
        of two calls that collect the later one does not undo what the earlier one found. Was it
        changed?
        """
        row, number = TakeId.read(take)
        assignments = ", ".join(f"{name} = ?" for name in values)
        still = f" and state in ({', '.join('?' * len(when))})" if when else ""
        with self.step():
            changed = self.base.execute(
                f"update takes set {assignments} where sheet = ? and row = ? and number = ?{still}",
                (*values.values(), sheet, row, number, *when),
            ).rowcount
            if event and changed:
                self._event(sheet, row, event, take)
        return bool(changed)

    def choose(self, sheet: str, take: str) -> None:
        """Choose a take of a row; the others are not chosen."""
        row, number = TakeId.read(take)
        with self.step():
            self.base.execute(
                "update takes set chosen = (number = ?) where sheet = ? and row = ?",
                (number, sheet, row),
            )
            self._event(sheet, row, "chosen", take)

    def begin(
        self,
        sheet: str,
        take: str,
        body: str,
        reserved: float,
        currency: str,
        run: str = "",
        code: str = "",
        most: float | None = None,
        doubt: bool = False,
    ) -> Attempt:
        """Before a request goes out: an attempt, and the money that it may cost set aside, in one
        step.

        A request that goes out again goes out as it did before, under the same key and the same
        name, whatever was answered: the key of a take is changed only where its request is another
        (`body`, in short) than the one that went out. `doubt`: it may have been charged before.
        `most` is what all sheets together may cost. Raises OverBudget if that would be passed,
        Differs where what may have been charged can't be asked for again, since its request is
        another now, Meanwhile where the take is not, or no more, what the caller takes it for.
        """
        row, number = TakeId.read(take)
        at = (sheet, row, number)
        with self.step():
            state = self.base.execute(
                "select state from takes where sheet = ? and row = ? and number = ?", at
            ).fetchone()
            if state is None or state[0] not in (
                ("sending", "unclear") if doubt else ("queued", "waiting")
            ):
                raise Meanwhile
            if most is not None:
                others = self.base.execute(
                    f"select sum({_SPENT}) from takes where currency = ? and not (sheet = ? and row"
                    " = ? and number = ?)",
                    (currency, *at),
                ).fetchone()[0]
                if (others or 0.0) + reserved > most + 1e-9:
                    raise OverBudget(others or 0.0)
            last = self.base.execute(
                "select id, key, body, began from attempts where sheet = ? and row = ? and number ="
                " ? order by rowid desc limit 1",
                at,
            ).fetchone()
            if last and doubt and last[2] not in ("", body):
                raise Differs
            self._advance()
            if last and last[1] and last[2] in ("", body):
                name, key, began = last[0].partition(":")[2], last[1], last[3] if doubt else now()
                self.base.execute(
                    "update attempts set state = 'sending', began = ?, ended = '', run = ?, body ="
                    " ? where id = ?",
                    (began, run, body, last[0]),
                )
            else:
                count = self.base.execute(
                    "select count(*) from attempts where sheet = ? and row = ? and number = ?", at
                ).fetchone()[0]
                name, key = f"{take}/{count + 1}", uuid4().hex
                self.base.execute(
                    "insert into attempts (id, sheet, row, number, key, state, began, run, code,"
                    " body) values (?, ?, ?, ?, ?, 'sending', ?, ?, ?, ?)",
                    (f"{sheet}:{name}", *at, key, now(), run, code, body),
                )
            self.base.execute(
                "update takes set state = case when state = 'unclear' then state else 'sending'"
                " end, reserved = max(?, case when ? then reserved else 0 end), currency = ? where"
                " sheet = ? and row = ? and number = ?",
                (reserved, doubt, currency, *at),
            )
        self._witnessed()
        return Attempt(name, key)

    def end(
        self,
        sheet: str,
        attempt: str,
        state: str,
        take_state: str,
        task: str = "",
        status: int | None = None,
        why: str = "",
        next_at: float = 0.0,
        charged: float | None = None,
    ) -> None:
        """When the answer is there, or can't come: what became of an attempt, and of its take.
        `charged`: what it cost, if that is known.
        """
        row, number = take = TakeId.read(attempt)
        with self.step():
            self.base.execute(
                "update attempts set state = ?, task = ?, status = ?, why = ?, ended = ? where"
                " id = ?",
                (state, task, status, why, now(), f"{sheet}:{attempt}"),
            )
            self.base.execute(
                "update takes set state = ?, task = case when ? != '' then ? else task end, why ="
                " ?, next_at = ?, charged = coalesce(?, charged) where sheet = ? and row = ? and"
                " number = ?",
                (take_state, task, task, why, next_at, charged, sheet, row, number),
            )
            if take_state not in ("sent",):
                self._event(sheet, row, take_state, f"{take}{f': {why}' if why else ''}")

    def adopt(self, sheet: str, attempt: str, task: str, model: str) -> bool:
        """Take in an attempt that another copy of this ledger made, where its row is here, wants
        that take, and has sent nothing for it; was it?
        """
        row, number = TakeId.read(attempt)
        found = self.row(sheet, row)
        if found is None or found.model != model or not 1 <= number <= found.takes:
            return False
        at = (sheet, row, number)
        with self.step():
            known = self.base.execute(
                "select state from takes where sheet = ? and row = ? and number = ?", at
            ).fetchone()
            if known and known[0] not in ("queued", "waiting"):
                return False
            self.base.execute(
                "insert or ignore into attempts (id, sheet, row, number, key, state, task, began)"
                " values (?, ?, ?, ?, '', 'sent', ?, ?)",
                (f"{sheet}:{attempt}", *at, task, now()),
            )
            self.base.execute(
                "insert into takes (sheet, row, number, state, task, reserved, currency, model)"
                " values (?, ?, ?, 'sent', ?, ?, ?, ?) on conflict (sheet, row, number) do update"
                " set state = 'sent', task = excluded.task, reserved = excluded.reserved",
                (*at, task, found.cost or 0.0, found.currency, model),
            )
            self._event(sheet, row, "taken in", attempt)
        return True

    def extra(self, sheet: str, row: str, task: str) -> str:
        """Take in a task that a service made without being asked, as one more take of a row; return
        what it is called.
        """
        with self.step():
            number = self.base.execute(
                "select max(number) + 1 from takes where sheet = ? and row = ?", (sheet, row)
            ).fetchone()[0]
            self.base.execute(
                "insert into takes (sheet, row, number, state, task, reserved, currency, model)"
                " select sheet, row, ?, 'sent', ?, reserved, currency, model from takes where sheet"
                " = ? and row = ? limit 1",
                (number, task, sheet, row),
            )
            self._event(sheet, row, "made unasked", f"{TakeId(row, number)}: {task}")
        return str(TakeId(row, number))

    def acknowledged(self) -> list[tuple[str, str, str]]:
        """(Attempt with its sheet, when it began, model) of every attempt that a service said it
        has.
        """
        query = (
            "select a.id, a.began, t.model from attempts a join takes t on t.sheet = a.sheet and"
            " t.row = a.row and t.number = a.number where a.state = 'sent' and a.key != ''"
        )
        return list(self.base.execute(query))

    def bearing(self, column: str, value: str) -> list[tuple[str, str, str]]:
        """(Sheet, take, model) of the takes that have a task, or the digest of a file."""
        assert column in ("task", "digest")
        found = self.base.execute(
            f"select sheet, row, number, model from takes where {column} = ?", (value,)
        )
        return [(sheet, str(TakeId(row, number)), model) for sheet, row, number, model in found]

    def attempts(self, sheet: str, take: str = "") -> list[dict[str, Any]]:
        """The attempts of a sheet, or of one take, as the ledger has them; keys of theirs are
        reported to nobody.
        """
        row, number = TakeId.read(take)
        where, values = (
            ("sheet = ? and row = ? and number = ?", (sheet, row, number))
            if take
            else ("sheet = ?", (sheet,))
        )
        names = (
            "id",
            "row",
            "number",
            "key",
            "state",
            "task",
            "began",
            "ended",
            "status",
            "why",
            "run",
            "code",
        )
        made = [
            dict(zip(names, found, strict=True))
            for found in self.base.execute(
                f"select {', '.join(names)} from attempts where {where} order by rowid", values
            )
        ]
        if not all(
            isinstance(one[name], str)
            for one in made
            for name in ("id", "row", "key", "state", "task", "began", "why")
        ):
            raise _Damaged("an attempt can't be read")
        for one in made:
            one["name"] = one["id"].removeprefix(f"{sheet}:")
        return made

    def in_state(self, states: Sequence[str], sheet: str = "") -> list[dict[str, Any]]:
        """The takes in some states, with what is known of each."""
        marks = ", ".join("?" * len(states))
        query = (
            f"select {', '.join(_STATE)} from takes where state in"
            f" ({marks}){' and sheet = ?' if sheet else ''} order by rowid"
        )
        return [
            _typed(dict(zip(_STATE, found, strict=True)))
            for found in self.base.execute(query, (*states, sheet) if sheet else tuple(states))
        ]

    def spent(self, sheet: str = "", run: str = "") -> dict[str, float]:
        """What was charged, or may be, by currency: of everything, of one sheet, of one run. Where
        nobody said what was charged, it is what was set aside.
        """
        where = [
            text
            for text, on in (
                ("sheet = ?", sheet),
                (
                    (
                        "exists (select 1 from attempts a where a.sheet = takes.sheet and a.row ="
                        " takes.row and a.number = takes.number and a.run = ?)"
                    ),
                    run,
                ),
            )
            if on
        ]
        query = (
            f"select currency, sum({_SPENT}) from"
            f" takes{' where ' + ' and '.join(where) if where else ''} group by currency"
        )
        if self.base.execute(
            "select 1 from takes where typeof(reserved) not in ('real', 'integer') or"
            " typeof(charged) not in ('real', 'integer', 'null') limit 1"
        ).fetchone():
            raise _Damaged("what was spent is not a number")  # SQLite would take it for nothing
        return {
            currency: amount
            for currency, amount in self.base.execute(query, tuple(filter(None, (sheet, run))))
            if amount
        }

    def sent_on(self, day: str, model: str) -> int:
        """How many requests went to a model on a day (2026-11-30), whatever the sheet."""
        query = (
            "select count(*) from attempts a join takes t on t.sheet = a.sheet and t.row = a.row"
            " and t.number = a.number where a.began like ? || '%' and t.model = ? and a.state !="
            " 'unsent'"
        )
        return int(self.base.execute(query, (day, model)).fetchone()[0])


_COLUMNS = (
    "id, status, model, text, negative, takes, cost, currency, note, held, body, approval,"
    " approved_by, approved_at"
)
_TAKE = "row, number, state, task, charged, reserved, file, why, chosen, progress"
_STATE = (
    "sheet",
    "row",
    "number",
    "state",
    "task",
    "reserved",
    "charged",
    "next_at",
    "expires",
    "address",
    "model",
    "currency",
    "why",
    "file",
    "tries",
    "since",
)
_TEXTS = ("sheet", "row", "state", "task", "address", "model", "currency", "why", "file")
_BODY = ("parameters", "references", "request", "findings", "needs", "further", "record")


def _body(row: SheetRow) -> str:
    return json.dumps(
        {name: getattr(row, name) for name in _BODY} | {"record": dict(row.record)},
        ensure_ascii=False,
    )


def _row(found: Sequence[Any]) -> SheetRow:
    try:
        return _read_row(found)
    except (ValueError, TypeError, RecursionError) as error:
        raise _Damaged(f"a row of it can't be read ({type(error).__name__})") from None


def _read_row(found: Sequence[Any]) -> SheetRow:
    (
        name,
        status,
        model,
        text,
        negative,
        takes,
        cost,
        currency,
        note,
        held,
        body,
        approval,
        by,
        at,
    ) = found
    rest = json.loads(body)
    if not isinstance(rest, dict):
        raise TypeError(body)
    rest["record"] = Record(rest.get("record", {}))
    return SheetRow(
        name,
        model,
        text,
        negative,
        takes=takes,
        cost=cost,
        currency=currency,
        status=status,
        note=note,
        held=held,
        approval=approval,
        approved_by=by,
        approved_at=at,
        **rest,
    )


def _take(found: Sequence[Any]) -> TakeState:
    row, number, state, task, charged, reserved, file, why, chosen, progress = found
    _typed(
        {
            "row": row,
            "number": number,
            "state": state,
            "task": task,
            "charged": charged,
            "reserved": reserved,
            "file": file,
            "why": why,
            "progress": progress,
        }
    )
    return TakeState(row, number, state, task, charged, reserved, file, why, bool(chosen), progress)


def _typed(take: dict[str, Any]) -> dict[str, Any]:
    """What is recorded of a take, if each of it is text or a number as it should be."""
    for name, value in take.items():
        right = (
            isinstance(value, str)
            if name in _TEXTS
            else (
                isinstance(value, int)
                if name == "number"
                else value is None or isinstance(value, int | float)
            )
        )
        if not right:
            raise _Damaged(f"the “{name}” of a take can't be read")
    return take


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
