"""Sheets: given out, taken back from people, approved, removed, redrawn, with the ledger as the
truth; and the files that people edit.
"""

import csv
import getpass
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from syntagma.app.asked import Taste
from syntagma.app.batches.requests import Leaving, leaving
from syntagma.app.batches.rows_made import content_of, hash_of, row_of
from syntagma.app.composing.records import Recorder
from syntagma.app.picking import Chooser
from syntagma.app.workspace.html_pages import read_table
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import ERROR, Refused, Trouble, perhaps
from syntagma.core.models.parameters import (
    own_name,
    settle,
    shown,
    spelled,
    value_of,
    without_parameters,
)
from syntagma.core.models.prices import priced
from syntagma.core.picking.situations import number_of
from syntagma.core.records import Record
from syntagma.core.sheets import (
    APPROVED,
    DONE,
    EDITABLE,
    EXPIRED,
    FAILED,
    MOST_TAKES,
    OPEN,
    PERSONS,
    QUEUED,
    SENT,
    UNCLEAR,
    WAITING,
    Conflict,
    Merge,
    SheetRow,
    TakeId,
    TakeState,
    approval_hash,
    condition,
    merged,
    row_ids,
    status_given,
    status_of,
)
from syntagma.core.vocabulary.terms import normal
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.table_in import HarmlessCells
from syntagma.storage.files import whole_file
from syntagma.storage.ledger import Ledger, now

# ──── Sheets: shown, taken back from people, approved and removed, with the ledger as the truth.


# ──── A sheet as a file that people edit: CSV, or XLSX with open lists, wrapped text, findings in
# colour; and the copy that comes back.


ENDINGS = (".csv", ".xlsx")


def write_sheet_file(
    sheet: "Sheet",
    path: str,
    note: Callable[[str], None],
    rows: Sequence[Mapping[str, str]] | None = None,
) -> int:
    """Write a sheet to a file; return the number of rows. Raises Trouble."""
    ending = Path(path).suffix.lower()
    if ending not in ENDINGS:
        raise Trouble(f"can't write a sheet as {ending or path}", "name it .xlsx or .csv", 2)
    cells = list(rows if rows is not None else sheet.table())
    columns = sheet.columns
    if ending == ".xlsx":
        from syntagma.formats.xlsx import write_looked_over

        with whole_file(path) as file:
            try:
                write_looked_over(
                    file.buffer,
                    sheet.name,
                    columns,
                    [[one[name] for name in columns] for one in cells],
                    _lists(sheet),
                    "findings",
                )
            except ValueError as wrong:
                raise Trouble(f"{path} can't be written: {wrong}", "write .csv") from None
        return len(cells)
    safe = HarmlessCells()
    with whole_file(path) as file:
        out = csv.writer(file)
        out.writerow(safe.row(list(columns)))
        for one in cells:
            out.writerow(safe.row([one[name] for name in columns]))
    if safe.note:
        note(safe.note)
    return len(cells)


def _lists(sheet: "Sheet") -> dict[str, list[str]]:
    """The drop-down lists: statuses, models, the values of parameters."""
    models = list(dict.fromkeys(row.model for row in sheet.rows.values()))
    found = {"status": list(PERSONS), "model": list(sheet.workspace.models())}
    for name in sheet.parameters:
        values = [
            shown(value)
            for model in models
            if model in sheet.workspace.models()
            and (rule := sheet.workspace.model(model).parameter.get(name))
            for value in rule.values
        ]
        if values:
            found[name] = list(dict.fromkeys(values))
    return found


def read_sheet_file(path: str) -> list[dict[str, str]]:
    """The rows of an edited copy. Raises Refused if rows can't be read, Trouble if it is not a
    sheet.
    """
    columns, rows, mistakes = read_table(path)
    if mistakes:
        raise Refused(list(mistakes))
    names = {column: column.strip().lower() for column in columns}
    if "id" not in names.values():
        raise Trouble(
            f"{path} has no column “id”, which identifies its rows",
            "use the file that sheet show --out wrote",
            1,
        )
    known = {"id", "status", "takes", "text", "negative", "note", "model", "seen"}
    return [
        {
            (names[column] if names[column] in known else column): cell
            for column, cell in row.cells.items()
        }
        for row in rows
    ]


# ──── Sheets: shown, taken back from people, approved and removed, with the ledger as the truth.


FIRST = ("id", "status", "takes", "text", "negative", "model")
LAST = ("cost", "findings", "note", "charged", "file", "why", "seen")
BY_HAND = "settled by hand"
SENDS = "sends"  # the column that names the files which go along with a request
SHORT = 60


class NoTake(Trouble):
    """No take has the id that was given."""

    def __init__(self, name: str):
        super().__init__(
            f"no take is called “{name}”",
            "a take is named like r1a2b3c4d5.2: syntagma sheet show NAME lists them",
            2,
        )


class Sheet:
    """One sheet of a workspace's ledger. Raises Trouble if there is none."""

    def __init__(self, workspace: Workspace, ledger: Ledger, name: str):
        self.workspace, self.ledger, self.name = workspace, ledger, name
        self._profiles: dict[str, str] = {}
        self.load()

    def load(self) -> None:
        """Read the sheet from the ledger."""
        self.rows = {row.id: row for row in self.ledger.rows(self.name)}
        self.takes: dict[str, list[TakeState]] = {}
        for take in self.ledger.takes(self.name):
            self.takes.setdefault(take.row, []).append(take)
        self.parameters = list(
            dict.fromkeys(name for row in self.rows.values() for name in row.parameters)
        )
        self.further = list(
            dict.fromkeys(name for row in self.rows.values() for name in row.further)
        )

    @property
    def columns(self) -> list[str]:
        """The columns that are written to a file."""
        sends = [SENDS] if any(self.leaving(row) for row in self.rows.values()) else []
        own = [*FIRST, *self.parameters, *sends, *LAST]
        return [*own, *(name for name in self.further if name not in own)]

    @property
    def editable(self) -> list[str]:
        """The columns that a person may change."""
        return [*EDITABLE, "model", *self.parameters]

    def status(self, row: SheetRow) -> str:
        """The text of a row's status column."""
        return status_of(row, self.takes.get(row.id, ()))

    def sent(self, row: str) -> bool:
        """Whether any take of a row was sent."""
        return any(take.state not in (QUEUED, WAITING) for take in self.takes.get(row, ()))

    def cells(self, row: SheetRow) -> dict[str, str]:
        """A row's cells as they are written to a file."""
        takes = self.takes.get(row.id, [])
        charged = [take.charged for take in takes if take.charged is not None]
        found = {
            "id": row.id,
            "status": self.status(row),
            "takes": str(row.takes),
            "text": row.text,
            "negative": row.negative,
            "model": row.model,
        }
        found |= {
            name: shown(row.parameters[name]) if name in row.parameters else ""
            for name in self.parameters
        }
        found |= {
            "cost": "" if row.cost is None else priced(row.cost, row.currency),
            "findings": "; ".join(
                f"{f.get('kind', '')}: {f.get('message', '')}" for f in row.findings
            ),
            "note": row.note,
            "charged": priced(sum(charged), row.currency) if charged else "",
            "file": "; ".join(take.file for take in takes if take.file),
            SENDS: "; ".join(
                file.name + ("" if file.digest else " (is not sent)") for file in self.leaving(row)
            ),
            "why": row.held or "; ".join(f"{take.id}: {take.why}" for take in takes if take.why),
            "seen": self.seen(row),
        }
        return {name: found.get(name, row.further.get(name, "")) for name in self.columns}

    def record(self, row: SheetRow) -> dict[str, Any]:
        """A row as JSON has it: numbers are numbers, money is an amount in a currency, blank parts
        are left out.
        """
        takes = self.takes.get(row.id, [])
        charged = [take.charged for take in takes if take.charged is not None]
        money = {"cost": row.cost, "charged": sum(charged) if charged else None}
        found: dict[str, Any] = {
            "id": row.id,
            "status": self.status(row),
            "takes": row.takes,
            "text": row.text,
            "negative": row.negative,
            "model": row.model,
            "parameters": dict(row.parameters),
        }
        found |= {
            name: {"amount": round(amount, 6), "currency": row.currency}
            for name, amount in money.items()
            if amount is not None
        }
        found |= {
            "note": row.note,
            "files": [take.file for take in takes if take.file],
            "sends": [file.name for file in self.leaving(row)],
            "further": dict(row.further),
        }
        found |= {
            "why": row.held or "; ".join(f"{take.id}: {take.why}" for take in takes if take.why),
            "seen": self.seen(row),
            "findings": [dict(one) for one in row.findings],
        }
        return {name: value for name, value in found.items() if value not in ("", [], {})}

    def seen(self, row: SheetRow) -> str:
        """The hash of what a person sees of a row, which an approval includes."""
        if row.model not in self._profiles:
            self._profiles[row.model] = (
                hash_of(self.workspace.model(row.model))
                if row.model in self.workspace.models()
                else ""
            )
        files = [(file.name, file.digest) for file in self.leaving(row)]
        return approval_hash(row, self._profiles[row.model], files)

    def leaving(self, row: SheetRow) -> list[Leaving]:
        """The files that a row's request takes along."""
        return leaving(self.workspace, row)

    def reopen(self, row: SheetRow, why: str) -> None:
        """Reopen a row that differs from what was approved; its queued takes that were never sent
        are withdrawn.
        """
        self.ledger.withdraw(self.name, row.id)
        self.takes[row.id] = [
            take for take in self.takes.get(row.id, []) if take.state not in (QUEUED, WAITING)
        ]
        self.put(row._replace(status=OPEN, approval=""), "open again", why)

    def table(self) -> list[dict[str, str]]:
        """All rows as they are written to a file; the ledger remembers them."""
        cells = {row.id: self.cells(row) for row in self.rows.values()}
        self.ledger.give(self.name, cells, {name: one["seen"] for name, one in cells.items()})
        return list(cells.values())

    # What a person sets

    def chosen(self, names: Sequence[str], where: str, every: bool = False) -> list[SheetRow]:
        """The rows that are named: by id (or the start of one), by a condition on columns, or all.
        Raises Trouble.
        """
        if where:
            holds = condition(where, self.columns)
            return [row for row in self.rows.values() if holds(self.cells(row))]
        if every:
            return list(self.rows.values())
        if not names:
            raise Trouble(
                "no rows were named",
                "name rows by id, by a condition (--where cost>4), or --all",
                2,
            )
        return [self.named(name) for name in names]

    def named(self, name: str) -> SheetRow:
        """A row by its id or the start of one. Raises Trouble."""
        if name in self.rows:
            return self.rows[name]
        near = [row for row in self.rows if row.startswith(name)] if name else []
        if len(near) != 1:
            what = "several rows begin with" if near else "no row is called"
            raise Trouble(
                f"{what} “{name}”",
                perhaps(name, near or self.rows, "syntagma sheet show lists them"),
                2,
            )
        return self.rows[near[0]]

    def set_status(
        self, rows: Sequence[SheetRow], status: str, anyway: bool = False
    ) -> list[tuple[SheetRow, str]]:
        """Approve, remove or reopen rows; return those that can't be, each with the reason. An
        approval covers exactly what the row is now.
        """
        refused = []
        for row in rows:
            if why := self._why_not(row, status, anyway):
                refused.append((row, why))
                continue
            if self.takes.get(row.id) and not self.sent(row.id):
                self.ledger.withdraw(self.name, row.id)
                self.takes.pop(row.id)
            if status == APPROVED:
                self.put(
                    row._replace(
                        status=APPROVED,
                        approval=self.seen(row),
                        approved_by=person(),
                        approved_at=now(),
                    ),
                    APPROVED,
                    self.seen(row),
                )
            else:
                self.put(
                    row._replace(status=status, approval="", approved_by="", approved_at=""), status
                )
        return refused

    def _why_not(self, row: SheetRow, status: str, anyway: bool) -> str:
        """Why a status can't be set; "" if it can."""
        if self.sent(row.id) or (
            self.takes.get(row.id) and status == APPROVED and self.still_approved(row)
        ):
            return f"it is {self.status(row)} already"
        if status != APPROVED:
            return ""
        if stays := next((file.why for file in self.leaving(row) if file.why), ""):
            return stays
        if row.held:
            return row.held
        if row.model not in self.workspace.models():
            return f"no model is called “{row.model}”"
        wrong = next((f for f in row.findings if f.get("kind") == ERROR), None)
        return (
            f"{wrong['message']} (--anyway approves it in spite of that)"
            if wrong and not anyway
            else ""
        )

    def still_approved(self, row: SheetRow) -> bool:
        """Whether a row is still exactly what was approved: request, references, profile, price,
        takes.
        """
        return row.status == APPROVED and row.approval == self.seen(row)

    def put(self, row: SheetRow, what: str, detail: str = "") -> None:
        """Replace the row that has the same id."""
        self.ledger.set_row(self.name, row, what, detail)
        self.rows[row.id] = row

    def add(self, rows: Sequence[SheetRow]) -> None:
        """Put rows at the end."""
        self.ledger.add_rows(self.name, rows)
        self.rows |= {row.id: row for row in rows}

    # A copy that comes back

    def take(self, copy: Sequence[Mapping[str, str]], source: str) -> tuple[Merge, list[str]]:
        """Import a person's copy; return the changes, and the messages about single rows."""
        given = self.ledger.given(self.name)
        base: dict[str, dict[str, str]] = {}
        for cells in copy:
            name = cells.get("id", "").strip()
            if name in self.rows and (
                found := given.get((name, cells.get("seen", "").strip())) or given.get((name, ""))
            ):
                base.setdefault(name, found)
        current = {row.id: self.cells(row) for row in self.rows.values()}
        for name in self.ledger.given_until(
            self.name,
            [(cells.get("id", "").strip(), cells.get("seen", "").strip()) for cells in copy],
        ):
            if name in self.rows:
                base.setdefault(name, given[(name, "")])
        came = merged(base, current, copy, self.editable)
        told: list[str] = []
        conflicts = list(came.conflicts)
        changes: dict[str, dict[str, str]] = {}
        for change in came.changes:
            changes.setdefault(change.row, {})[change.column] = change.after
        taken = {
            name: self._taken(
                self.rows[name], new, base.get(name, current[name]), current[name], told, conflicts
            )
            for name, new in changes.items()
        }
        for cells in came.new:
            self._added(cells, told, source)
        return (
            came._replace(
                changes=tuple(
                    change for change in came.changes if change.column in taken[change.row]
                ),
                conflicts=tuple(conflicts),
            ),
            told,
        )

    def _taken(
        self,
        row: SheetRow,
        new: dict[str, str],
        base: Mapping[str, str],
        current: Mapping[str, str],
        told: list[str],
        conflicts: list[Conflict],
    ) -> set[str]:
        """Apply the changes of one row; return the columns that changed."""
        status, taken = new.pop("status", ""), set()
        content = {column: cell for column, cell in new.items() if column != "note"}
        if content:
            made = self._changed(row, content, told)
            taken |= set(content) if made is not None else set()
            row = made if made is not None and made.id == row.id else row
        if "note" in new:
            row = row._replace(note=new["note"])
            self.put(row, "note")
            taken.add("note")
        if not status:
            return taken
        word, why = status_given(status, row.status, not self.sent(row.id))
        bound = [
            column
            for column in ("text", "negative", "model", "takes", "cost", *self.parameters)
            if current.get(column, "") != base.get(column, "") and column not in content
        ]
        if why:
            told.append(f"{row.id}: {why}")
        elif word == APPROVED and bound:
            what = (
                f"{status} an earlier version: its {' and '.join(bound)} changed since, so it stays"
                f" {row.status}"
            )
            conflicts.append(Conflict(row.id, "status", base.get("status", ""), row.status, what))
        elif word != row.status:
            refused = self.set_status([row], word)
            told += [f"{one.id} stays {self.status(one)}: {reason}" for one, reason in refused]
            taken |= set() if refused else {"status"}
        return taken

    def _changed(
        self, row: SheetRow, content: Mapping[str, str], told: list[str]
    ) -> SheetRow | None:
        """A row with its changes applied; a row that was sent gets a new row instead. None if it
        can't be changed like that.
        """
        made = self._edited(row, content, told)
        if made is None:
            return None
        if self.sent(row.id):
            fresh = made._replace(
                id=row_ids([content_of(made)], self.rows)[0],
                status=OPEN,
                approval="",
                further={**row.further, "parent": row.id},
            )
            self.add([fresh])
            told.append(f"{row.id} has been sent, so your changes are in a new row, {fresh.id}")
            return fresh
        if row.status == APPROVED:
            self.ledger.withdraw(self.name, row.id)
            self.takes.pop(row.id, None)
            told.append(f"{row.id} was approved; it has changed, so it is open again")
            made = made._replace(status=OPEN, approval="", approved_by="", approved_at="")
        self.put(made, "edited", ", ".join(content))
        told += [
            f"{row.id}: {f['message']}; {f.get('remedy', '')}".rstrip("; ")
            for f in made.findings
            if f.get("kind") == ERROR
        ]
        return made

    def _edited(
        self, row: SheetRow, content: Mapping[str, str], told: list[str]
    ) -> SheetRow | None:
        """A row with other words, model, parameters or takes; None if they can't be."""
        model = content.get("model", row.model).strip()
        if model not in self.workspace.models():
            told.append(
                f"{row.id}: no model is called “{model}”:"
                f" {perhaps(model, self.workspace.models(), 'syntagma model lists them')}"
            )
            return None
        rules = self.workspace.model(model).parameter
        parameters = dict(row.parameters)
        for name in (name for name in self.parameters if name in content):
            if not content[name].strip():
                parameters.pop(name, None)
                continue
            value, wrong = (
                value_of(rules[name], content[name]) if name in rules else (content[name], "")
            )
            if wrong or value is None:
                told.append(f"{row.id}: {name} “{content[name]}” {wrong}")
                return None
            parameters[name] = value
        takes = content.get("takes", str(row.takes)).strip()
        text = content.get("text", row.text)
        if not takes.isdigit() or not 1 <= int(takes) <= MOST_TAKES:
            told.append(f"{row.id}: “{takes}” is not a number of takes: write 1 to {MOST_TAKES}")
            return None
        if not text.strip():
            told.append(
                f"{row.id}: its text is blank, so the old text stays; to drop the row, remove it"
            )
            return None
        if not set(content) - {"takes"}:
            return row._replace(takes=int(takes))
        if set(content) & {"model", *self.parameters}:
            text, parameters = self._spelled(row, text, model, parameters, told)
        record = row.record.changed(
            text=text,
            negative=content.get("negative", row.negative),
            model=model,
            parameters=parameters,
            references=list(row.references),
        )
        made = row_of(self.workspace, record, row.id, fresh=True)
        return made._replace(
            takes=int(takes),
            note=row.note,
            status=row.status,
            further=row.further,
            needs=row.needs,
            held=row.held,
            approval=row.approval,
        )

    def _spelled(
        self, row: SheetRow, text: str, model: str, parameters: Mapping[str, Any], told: list[str]
    ) -> tuple[str, dict[str, Any]]:
        """A text with its parameters rewritten for another model or other values, and the
        parameters that the model knows. The words before them stay as they are.
        """
        before, after = (
            self.workspace.model(name) if name in self.workspace.models() else None
            for name in (row.model, model)
        )
        assert after is not None
        bare = without_parameters(before, text) if before else text
        known = {
            name: value
            for name, value in parameters.items()
            if own_name(after, name) or not after.parameter
        }
        if gone := [name for name in parameters if name not in known]:
            told.append(f"{row.id}: {model} has no {' and no '.join(gone)}: left out")
        if before is after and bare == text:
            return text, known
        return bare + spelled(after, settle(after, {}, known).values), known

    def _added(self, cells: Mapping[str, str], told: list[str], source: str) -> None:
        """A row that a person added: checked, and sent as it is."""
        text, model = (
            cells.get("text", "").strip(),
            cells.get("model", "").strip() or self.workspace.settings.get("model", ""),
        )
        if not text or model not in self.workspace.models():
            told.append(
                f"a new row of {source} is left out: "
                + (f"no model is called “{model}”" if text else "it has no text")
            )
            return
        parameters = {
            name: cells[name].strip() for name in self.parameters if cells.get(name, "").strip()
        }
        row = row_of(
            self.workspace,
            Record(
                {
                    "text": text,
                    "negative": cells.get("negative", ""),
                    "model": model,
                    "parameters": parameters,
                }
            ),
            fresh=True,
        )
        takes = cells.get("takes", "").strip()
        row = row._replace(
            id=row_ids([content_of(row)], self.rows)[0],
            note=cells.get("note", ""),
            takes=int(takes) if takes.isdigit() and 1 <= int(takes) <= MOST_TAKES else 1,
        )
        self.add([row])
        status = cells.get("status", "").strip().lower()
        stays = (
            f"; it is open, not {status}, because nobody has seen its price and findings (syntagma"
            f" sheet approve {self.name} {row.id})"
            if status not in ("", OPEN)
            else ""
        )
        told.append(f"a new row: {row.id}, {row.text[:SHORT]}{stays}")

    # Takes

    def take_state(self, name: str) -> TakeState:
        """A take by its id. Raises Trouble."""
        row, number = TakeId.read(name)
        found = (
            next(
                (take for take in self.takes.get(self.named(row).id, []) if take.number == number),
                None,
            )
            if row
            else None
        )
        if found is None:
            raise NoTake(name)
        return found

    def settle(self, name: str, task: str = "", lost: bool = False, accept: bool = False) -> str:
        """Record a person's decision on a take: the service never received it (`lost`), its task is
        this one, or its result is accepted as it is (`accept`). The decision can be changed later.
        Return the take. Raises Trouble.
        """
        take = self.take_state(name)
        by_hand = take.state in (FAILED, DONE) and take.why.startswith(BY_HAND)
        if take.state not in (UNCLEAR, SENT, EXPIRED) and not by_hand:
            raise Trouble(
                f"{take.id} is {take.state}, so there is nothing to settle",
                "only takes that are unclear or were settled by hand can be settled",
                2,
            )
        if take.state == SENT and not take.why and lost:
            raise Trouble(
                f"{take.id} is still at the service, as task {take.task}",
                "syntagma collect fetches it; --cancel asks the service to stop",
                2,
            )
        if accept:
            if not take.file:
                raise Trouble(f"{take.id} has no result to accept", "write --lost, or --task N", 2)
            self.ledger.set_take(
                self.name,
                take.id,
                "settled: the result is accepted",
                state=DONE,
                why=f"{BY_HAND}: accepted as it came",
                next_at=0.0,
            )
            return DONE
        if lost:
            self.ledger.set_take(
                self.name,
                take.id,
                "settled: never arrived",
                state=FAILED,
                task="",
                why=f"{BY_HAND}: the service never received it",
                charged=0.0,
            )
            return FAILED
        self.ledger.set_take(
            self.name,
            take.id,
            f"settled: task {task}",
            state=SENT,
            task=task,
            why="",
            next_at=0.0,
            charged=None,
            tries=0,
            since=0.0,
        )
        return SENT

    def choose(self, name: str) -> None:
        """Choose a take. Raises Trouble."""
        take = self.take_state(name)
        if take.state != DONE:
            raise Trouble(
                f"{take.id} is {take.state}, so it can't be chosen", "choose one that is done", 2
            )
        self.ledger.choose(self.name, take.id)

    def summary(self) -> dict[str, int]:
        """How many rows are in each state."""
        counts: dict[str, int] = {}
        for row in self.rows.values():
            counts[self.status(row)] = counts.get(self.status(row), 0) + 1
        return counts


def person() -> str:
    """The name of the person at work."""
    try:
        return getpass.getuser()
    except (OSError, KeyError):
        return "somebody"


@contextmanager
def opened(workspace: Workspace, read_only: bool = False) -> Iterator[Ledger]:
    """The workspace's ledger, open while it is used. Raises Trouble if this is not a workspace."""
    if workspace.folder is None:
        raise Trouble(
            "sheets belong to a workspace, and this folder is not one",
            "make one: syntagma start DIR, and work there",
            2,
        )
    ledger = Ledger(workspace.folder, read_only)
    with ledger.whole():
        yield ledger


# ──── Other picks in the place of a row's: what was picked for it is picked again, everything else
# stays.


TRIES = 30


def redraw(sheet: Sheet, row: SheetRow, draw: int) -> SheetRow:
    """Replace a row by one with other picks. Raises Trouble if it was sent, or nothing in it was
    picked.
    """
    if sheet.sent(row.id):
        raise Trouble(
            f"{row.id} has been sent already", "write new prompts, and make a sheet of those", 2
        )
    record = row.record
    fills, formula = record.fills, record.formula
    if fills is None or not formula or row.text != record.text:
        raise Trouble(
            f"{row.id} was not picked by a formula, or has been edited since",
            "edit its text in the sheet",
            2,
        )
    if record.says_more:
        raise Trouble(
            f"{row.id} has words from a wish that fit no slot of its formula",
            "edit its text in the sheet",
            2,
        )
    workspace = sheet.workspace
    looks = record.looks
    parameters = {name: value for name, value in row.parameters.items()}
    writer = Writer(
        workspace.formula(formula, looks)[0],
        workspace.model(row.model),
        workspace.vocabulary,
        workspace.manner(Manner(parameters=parameters)),
    )
    slots = _picked(record, writer)
    if not slots:
        raise Trouble(f"nothing in {row.id} was picked", "edit its text in the sheet", 2)
    given = {slot: fill for slot, fill in fills.items() if slot in writer.position}
    chooser = Chooser(workspace, writer, Taste(draw=draw))
    texts = {one.text for one in sheet.rows.values()}
    for turn in range(TRIES):
        made = chooser.pick(
            writer.fills({**given, **dict.fromkeys(slots, "")}),
            slots,
            chooser.random(row.id, turn),
            turn=number_of(row.id) + turn,
        )
        prompt = writer.write(made)
        if prompt.text not in texts:
            fresh = Recorder(writer, made, draw=draw).record(
                prompt, findings=writer.findings(made, prompt)
            )
            new = row_of(workspace, record.changed(**fresh), row.id)._replace(
                takes=row.takes, note=row.note, further=row.further, needs=row.needs, held=row.held
            )
            sheet.put(new, "redrawn", f"{', '.join(slots)} by {draw}")
            return new
    raise Trouble(
        f"{row.id}: no picks are left that the sheet does not have already", "try another --draw", 2
    )


def _picked(record: Record, writer: Writer) -> list[str]:
    """The picked slots: those that differ in the family or, if a draw made the row, those with a
    term or an action.
    """
    changes = record.design.changes if record.design else {}
    if changes:
        return [
            slot
            for slot in changes
            if slot in writer.position
            and writer.rules[writer.position[slot]].facet in writer.compiled.vocabulary
        ]
    if "draw" not in record:
        return []
    vocabulary = writer.compiled.vocabulary
    said = {
        rule.name: fill
        for rule in writer.rules
        if rule.facet in vocabulary and isinstance(fill := (record.fills or {}).get(rule.name), str)
    }
    terms = {
        slot: term
        for slot, fill in said.items()
        if (term := vocabulary[writer.rules[writer.position[slot]].facet].get(fill)) is not None
    }
    deeds = {
        normal(deed.partition("@")[0]) for term in terms.values() for deed in term.does
    }  # what a picked subject does goes with it
    return [slot for slot, fill in said.items() if slot in terms or normal(fill) in deeds]


def take_among(sheets: Iterable[Sheet], name: str) -> tuple[Sheet, TakeState]:
    """The take with an id, and the sheet that it belongs to. Raises Trouble."""
    row = TakeId.read(name).row
    for sheet in sheets:
        if row and any(one.startswith(row) for one in sheet.rows):
            return sheet, sheet.take_state(name)
    raise NoTake(name)
