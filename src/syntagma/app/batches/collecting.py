"""What was sent is asked for, fetched before its address expires, written, and put into the ledger; what is not clear is looked up."""

import os
import random
import re
import time
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import Any, NamedTuple

import httpx

from syntagma.app.batches.requests import request_body
from syntagma.app.batches.services import client_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import CANCELLED, DONE, EXPIRED, FAILED, QUEUED, REFUSED, SENDING, SENT, TAKE_STATES, UNCLEAR
from syntagma.service.answers import Result, Told
from syntagma.service.client import Client, Gone, Outcome, Unreadable, decoded
from syntagma.storage.files import make_folder
from syntagma.storage.ledger import Ledger
from syntagma.storage.trouble import Trouble

PATTERN = "results/{sheet}/{take}"  # where results lie, unless the workspace's settings say otherwise
TRIES = 8  # of fetching a result that does not come whole, or of asking for a task that is not known
_KINDS = {
    b"\x89PNG\r\n\x1a\n": ".png", b"\xff\xd8\xff": ".jpg", b"GIF8": ".gif", b"RIFF": ".webp", b"\x1aE\xdf\xa3": ".webm", b"%PDF": ".pdf", b"ID3": ".mp3", b"OggS": ".ogg",
}  # fmt: skip


class Came(NamedTuple):
    """What collecting came to: takes done, refused or failed, still under way, not clear, of those how many a look-up may yet tell, and what there is
    to say."""

    done: int = 0
    ended: int = 0
    under_way: int = 0
    unclear: int = 0
    hopeful: int = 0
    told: tuple[str, ...] = ()


class Seen(NamedTuple):
    """What one look at a task gave: what is told, the files that were written, why they were not; or that nothing can be told now, or is known."""

    told: Told | None = None
    files: tuple[str, ...] = ()
    error: Exception | None = None
    later: bool = False
    forgotten: bool = False


class Collector:
    """Collects the takes of a sheet. `clock` gives seconds since 1970; `at` is where the stand-in is."""

    def __init__(self, workspace: Workspace, ledger: Ledger, at: str = "", clock: Callable[[], float] = time.time):
        self.workspace, self.ledger, self.at, self.clock = workspace, ledger, at, clock
        self._clients: dict[str, Client] = {}
        self._tries: dict[str, int] = {}
        self.told: list[str] = []
        self._known: dict[str, tuple[str, str]] = {}  # of rows whose results are fetched: the model, and the clip of a film

    def client(self, model: str) -> Client:
        """The client of a model's service. Raises Trouble."""
        if model not in self._clients:
            self._clients[model] = client_of(self.workspace, self.workspace.model(model), self.at)
        return self._clients[model]

    def close(self) -> None:
        for client in self._clients.values():
            client.close()

    def __enter__(self) -> "Collector":
        return self

    def __exit__(self, *error: object) -> None:
        self.close()

    # What is under way

    def look(self, sheet: str = "") -> Came:
        """Look once at everything that is under way: what is not clear first, then tasks, those whose address expires soonest first. Services are asked
        by several threads at once; the ledger is written by this one."""
        self.clear_up(sheet)
        takes = sorted((one for one in self.ledger.in_state((SENT,), sheet) if one["next_at"] <= self.clock()), key=lambda one: (one["expires"] or 9e18, one["next_at"]))
        for one in takes:
            self._know(one["sheet"], one["row"])
        at_once = max([self.client(model).service.at_once for model in {one["model"] for one in takes}], default=1)
        with ThreadPoolExecutor(at_once) as pool:
            for one, seen in zip(takes, pool.map(self._seen, takes), strict=True):
                self._apply(one, seen)
        left = self.ledger.in_state((SENT, UNCLEAR), sheet)
        ended = self.ledger.in_state((REFUSED, FAILED, EXPIRED, CANCELLED), sheet)
        unclear = [one for one in left if one["state"] == UNCLEAR]
        hopeful = sum(bool(self.client(one["model"]).service.find or self.client(one["model"]).service.key) for one in unclear)
        return Came(len(self.ledger.in_state((DONE,), sheet)), len(ended), len(left) - len(unclear), len(unclear), hopeful, tuple(self.told))

    def _seen(self, one: Mapping[str, Any]) -> "Seen":
        """Ask for one task, and fetch what is there. No word of the ledger."""
        client = self.client(one["model"])
        try:
            told = client.ask(one["task"])
        except (httpx.HTTPError, Unreadable):
            return Seen(later=True)
        if told is None:
            return Seen(forgotten=True)
        if told.state == "done" or (told.results and not told.state):
            return self._fetched(client, one["sheet"], _take(one), told)
        return Seen(told)

    def _fetched(self, client: Client, sheet: str, take: str, told: Told) -> "Seen":
        """Fetch what a task made, and write it."""
        files = []
        for number, result in enumerate(told.results, 1):
            name = take if len(told.results) == 1 else f"{take}-{number}"
            try:
                files.append(self._written(client, result, sheet, name))
            except (Gone, Unreadable, httpx.HTTPError, OSError) as error:
                return Seen(told, (), error)
        return Seen(told, tuple(files))

    def _apply(self, one: Mapping[str, Any], seen: "Seen") -> None:
        """Put what was seen of a task into the ledger."""
        name, told = _take(one), seen.told
        later = self.client(one["model"]).service.every
        if seen.forgotten:
            self._forgotten(one)
        elif seen.later or told is None:
            self._later(one, later)
        elif told.state in ("failed", "refused", "cancelled"):
            why = told.why or f"the service says: {told.word}"
            state = {"failed": FAILED, "refused": REFUSED, "cancelled": CANCELLED}[told.state]
            self.ledger.set_take(one["sheet"], name, f"{told.state}: {why}", state=state, why=why, charged=told.charged if told.charged is not None else 0.0)
        elif told.state == "done" or (told.results and not told.state):
            self._put(one["sheet"], name, seen)
        else:
            self.ledger.set_take(one["sheet"], name, progress=told.progress, next_at=self.clock() + later)

    def _forgotten(self, one: Mapping[str, Any]) -> None:
        """The service knows nothing of a task that it had taken: asked some times more, then that is what stands in the ledger."""
        name = _take(one)
        key = f"{one['sheet']}:{name}"
        self._tries[key] = self._tries.get(key, 0) + 1
        if self._tries[key] < TRIES:
            self._later(one, self.client(one["model"]).service.every)
            return
        why = "the service knows nothing of it any more: charged, perhaps, and lost by its own fault"
        self.ledger.set_take(one["sheet"], name, why, state=FAILED, why=why, charged=one["reserved"] if one["charged"] is None else one["charged"])
        self.told.append(f"{name}: {why}")

    def _later(self, one: Mapping[str, Any], seconds: float) -> None:
        self.ledger.set_take(one["sheet"], _take(one), next_at=self.clock() + seconds * random.uniform(0.8, 1.3))

    def finish(self, sheet: str, take: str, model: str, told: Told) -> None:
        """Fetch what a task made that is done at once, write it, and say so in the ledger."""
        self._know(sheet, take.rpartition(".")[0])
        self._put(sheet, take, self._fetched(self.client(model), sheet, take, told))

    def _know(self, sheet: str, row: str) -> None:
        """Look up what the name of a result may be made of, before threads fetch it."""
        if row not in self._known and (found := self.ledger.row(sheet, row)):
            self._known[row] = (found.model, found.further.get("clip", ""))

    def _put(self, sheet: str, take: str, seen: "Seen") -> None:
        """A task that is done: its files, or why they did not come."""
        told = seen.told or Told()
        charged = {} if told.charged is None else {"charged": told.charged}
        expires = min((result.expires for result in told.results if result.expires), default=0.0)
        if not told.results:
            why = "the service says that it is done, and gives no result"
            self.ledger.set_take(sheet, take, why, state=FAILED, why=why, charged=charged.get("charged", self._quoted(sheet, take)))
        elif seen.error is not None:
            if charged:
                self.ledger.set_take(sheet, take, "", expires=expires, charged=charged["charged"])
            self._not_fetched(sheet, take, seen.error, expires)
        else:
            amount = charged.get("charged", self._quoted(sheet, take))
            terms = self.workspace.model(self._model_of(sheet, take)).terms
            read = f"; results: commercial {terms.commercial}, training {terms.training}{f', read {terms.read}' if terms.read else ''}"
            self.ledger.set_take(sheet, take, f"done: {', '.join(seen.files)}{read}", state=DONE, file="; ".join(seen.files), why="", expires=expires, charged=amount)

    def _model_of(self, sheet: str, take: str) -> str:
        row = self.ledger.row(sheet, take.rpartition(".")[0])
        return row.model if row else ""

    def _quoted(self, sheet: str, take: str) -> float:
        """What a take was quoted at, where the service does not say what it charged."""
        row, _, number = take.rpartition(".")
        return next((one.reserved for one in self.ledger.takes(sheet, row) if str(one.number) == number), 0.0)

    def _not_fetched(self, sheet: str, take: str, error: Exception, expires: float) -> None:
        """A result that did not come: again, by an address that is asked for anew, until it can't be had."""
        key = f"{sheet}:{take}"
        self._tries[key] = self._tries.get(key, 0) + 1
        why = str(error) if isinstance(error, Unreadable) else "the connection broke while it was fetched" if isinstance(error, httpx.HTTPError) else str(error)
        if self._tries[key] >= TRIES and isinstance(error, Gone):
            self.ledger.set_take(sheet, take, f"expired: {why}", state=EXPIRED, why=f"{why}: it can't be had", charged=self._charge(sheet, take))
        elif self._tries[key] >= TRIES:
            self.ledger.set_take(sheet, take, f"failed: {why}", state=FAILED, why=f"its result can't be fetched: {why}", charged=self._charge(sheet, take))
        else:
            self.ledger.set_take(sheet, take, state=SENT, why=f"{why}: it is fetched again", next_at=self.clock() + min(30.0, 0.2 * 2 ** self._tries[key]))

    def _charge(self, sheet: str, take: str) -> float:
        """What a take that ends is taken to have cost, where the service did not say."""
        row, _, number = take.rpartition(".")
        known = next((one.charged for one in self.ledger.takes(sheet, row) if str(one.number) == number), None)
        return known if known is not None else self._quoted(sheet, take)

    def _written(self, client: Client, result: Result, sheet: str, name: str) -> str:
        """Write one result into the workspace's folder, under the name that its settings say; return its path from there."""
        root = self.workspace.folder or Path.cwd()
        parts = self._path(sheet, name)
        folder = root.joinpath(*parts[:-1])
        make_folder(folder)
        beside = folder / f"{parts[-1]}.part"
        try:
            if result.data:
                beside.write_bytes(decoded(result.data))
                kind = ""
            else:
                _, kind = client.fetch(result.address, beside)
            target = folder / f"{parts[-1]}{_ending(beside, kind)}"
            os.replace(beside, target)
        finally:
            with suppress(OSError):
                beside.unlink()
        return target.relative_to(root).as_posix()

    def _path(self, sheet: str, name: str) -> list[str]:
        """Where a result is to lie: the parts of a path within the workspace, each a name that any system takes; the take's own stands in the last."""
        row = self._known.get(name.rpartition(".")[0], ("", ""))
        values = {"sheet": sheet, "take": name, "row": name.rpartition(".")[0], "model": row[0], "clip": row[1]}
        pattern = str(self.workspace.settings.get("results") or PATTERN)
        said = re.sub(r"\{(\w+)\}", lambda match: _plain(values.get(match[1], match[1])), pattern)
        parts = [_plain(part) for part in said.replace("\\", "/").split("/") if part.strip(". ")] or [_plain(name)]
        return parts if "{take}" in pattern else [*parts[:-1], f"{parts[-1]}-{_plain(name)}"]

    # What is not clear

    def clear_up(self, sheet: str = "", alone: bool = False) -> None:
        """Look up what may have been charged and is not known: by our reference, else by asking once more with the same key. What neither tells stays
        unclear, for a person to settle. `alone`: no other sender is at work, so that nothing that is on its way has anybody who waits for it."""
        for one in self.ledger.in_state((SENDING, UNCLEAR), sheet):
            name = _take(one)
            attempts = self.ledger.attempts(one["sheet"], name)
            if not attempts or one["next_at"] > self.clock():
                continue
            try:
                if one["state"] == SENDING and not alone and _age(attempts[-1]["began"], self.clock()) < 2 * self.client(one["model"]).service.patience:
                    continue
                outcome = self._looked_up(one, attempts[-1])
            except Trouble:
                outcome = None
            if outcome is None:
                if one["state"] == SENDING:
                    self.ledger.set_take(one["sheet"], name, "unclear: it was on its way when the program ended", state=UNCLEAR, why="it was on its way when the program ended")
                continue
            self.settle(one, attempts[-1]["id"].partition(":")[2], outcome)

    def settle(self, one: Mapping[str, Any], attempt: str, outcome: Outcome) -> None:
        """Put what came of an attempt into the ledger."""
        sheet, name = one["sheet"], attempt.partition("/")[0]
        kinds = {"sent": SENT, "refused": REFUSED, "failed": FAILED, "unclear": UNCLEAR, "unsent": QUEUED, "away": QUEUED, "stop": QUEUED}
        if outcome.kind == "done":
            self.ledger.end(sheet, attempt, "sent", SENT, outcome.task, outcome.status)
            self.finish(sheet, name, one["model"], outcome.told)
            return
        charged = (outcome.told.charged or 0.0) if outcome.kind in ("refused", "failed") else None
        self.ledger.end(sheet, attempt, outcome.kind, kinds[outcome.kind], outcome.task, outcome.status, outcome.why, self.clock() + outcome.later if outcome.later else 0.0, charged)

    def _looked_up(self, one: Mapping[str, Any], attempt: Mapping[str, Any]) -> Outcome | None:
        """What a service says of an attempt that is not clear; None where that can't be told. Raises Trouble."""
        client = self.client(one["model"])
        service = client.service
        if service.find:
            try:
                found = client.find(self.reference(attempt["id"]))
            except (httpx.HTTPError, Unreadable):
                self._later(one, service.every)
                return None
            if found:
                return Outcome("sent", "", found[0].task, found[0])
        if service.key and _age(attempt["began"], self.clock()) < service.key.hours * 3600:
            body = self.body(one["sheet"], one["row"])
            if body is not None:
                return client.submit(body, attempt["key"], self.reference(attempt["id"]))
        if service.find and _age(attempt["began"], self.clock()) > 2 * service.patience:
            return Outcome("unsent", "the service was asked, and never had it")
        return None

    def body(self, sheet: str, row: str) -> dict[str, Any] | None:
        """The request of a row that went out, its pictures as the service takes them; None where it can't be made any more (a picture is gone)."""
        found = self.ledger.row(sheet, row)
        return request_body(self.workspace, self.ledger, sheet, found, ungated=True)[0] if found else None

    def reference(self, attempt: str) -> str:
        """Our own number of an attempt, as a service has it: this ledger's, the sheet's, the take's and the attempt's."""
        return f"{self.ledger.name}:{attempt}"

    # The whole list

    def reconcile(self, models: list[str], sheet: str = "") -> list[str]:
        """Compare the ledger with the services' own lists: what is there and not here comes in, what is not clear and not there never arrived. Return what
        was found. Raises Trouble."""
        said: list[str] = []
        for model in models:
            client = self.client(model)
            if client.service.listed is None:
                said.append(f"{model}: its service gives no list; settle what is unclear by hand (sheet settle)")
                continue
            try:
                listed = client.listing()
            except (httpx.HTTPError, Unreadable) as error:
                raise Trouble(f"the list of {client.host} can't be had ({error})", "try again later: nothing was changed") from None
            tasks = {reference: told for reference, told in listed if reference}
            for one in self.ledger.in_state((SENDING, UNCLEAR), sheet):
                if one["model"] != model:
                    continue
                attempt = self.ledger.attempts(one["sheet"], _take(one))[-1]["id"]
                told = tasks.get(self.reference(attempt))
                outcome = Outcome("sent", "", told.task, told) if told else Outcome("unsent", "the service's own list does not have it: it never arrived")
                self.settle(one, attempt.partition(":")[2], outcome)
                said.append(f"{_take(one)}: {'found, ' + told.task if told else 'never arrived'}")
            said += self._unknown(model, tasks)
        return said

    def statement(self, rows: list[dict[str, str]]) -> list[str]:
        """Compare the ledger with a statement of the service: its tasks, and what each was charged. What differs is put right, and told."""
        said: list[str] = []
        by_task = {one["task"]: one for one in self.ledger.in_state(TAKE_STATES) if one["task"]}
        for cells in rows:
            task, amount = cells.get("task", "").strip(), cells.get("charged", "").strip()
            one = by_task.get(task)
            try:
                charged = float(amount)
            except ValueError:
                said.append(f"{task or 'a line'}: “{amount}” is no amount, and is passed over")
                continue
            if one is None:
                said.append(f"{task}: {charged:g} was charged, and the ledger knows no such task")
            elif one["charged"] is None or abs(one["charged"] - charged) > 1e-9:
                before = "nothing" if one["charged"] is None else f"{one['charged']:g}"
                self.ledger.set_take(one["sheet"], _take(one), f"charged {charged:g} by the statement", charged=charged)
                said.append(f"{_take(one)}: {charged:g} was charged, where the ledger had {before}")
        return said

    def _unknown(self, model: str, tasks: Mapping[str, Told]) -> list[str]:
        """Tasks that the service has of this ledger, and this copy of it does not know: they come in."""
        said = []
        known = {attempt["id"] for sheet in self.ledger.sheets() for attempt in self.ledger.attempts(sheet)}
        for reference, told in tasks.items():
            ledger, _, name = reference.partition(":")
            sheet, _, attempt = name.partition(":")
            if ledger != self.ledger.name or name in known or not self.ledger.has(sheet):
                continue
            if self.ledger.adopt(sheet, attempt, told.task, model):
                said.append(f"{attempt}: sent by another copy of this ledger, and taken in")
        return said


def _take(one: Mapping[str, Any]) -> str:
    return f"{one['row']}.{one['number']}"


def _age(began: str, clock: float) -> float:
    from datetime import datetime

    return clock - datetime.fromisoformat(began).timestamp()


def _plain(name: str) -> str:
    """A name that any system takes as one of a file."""
    return "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in name).strip(".") or "result"


def _ending(path: Path, kind: str) -> str:
    """The ending of a result by what it begins with. Raises Unreadable where it is none: an error page, a piece of text."""
    with open(path, "rb") as file:
        head = file.read(32)
    if not head:
        raise Unreadable("the result is empty")
    if head[4:8] == b"ftyp":
        return ".mp4"
    found = next((ending for magic, ending in _KINDS.items() if head.startswith(magic)), "")
    if found == ".webp" and head[8:12] != b"WEBP":
        found = ".wav" if head[8:12] == b"WAVE" else ""
    if not found:
        raise Unreadable(f"the result is no picture and no film{f', though it is called {kind}' if kind else ''}")
    return found
