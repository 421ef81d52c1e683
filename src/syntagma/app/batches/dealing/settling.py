"""What came of requests and tasks put into the ledger: what sending, collecting and settling doubts have in common.

Nothing that may have been paid for is given up: what can't be obtained now is asked for again, at any later time. A take is done only when its file is there,
whole, and its own.
"""

import time
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple, Self

import httpx

from syntagma.app.batches.dealing.purse import Purse
from syntagma.app.batches.dealing.results_written import Came, ResultFiles, Strange, remarks
from syntagma.app.batches.dealing.services import client_of, halt
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import DONE, EXPIRED, FAILED, QUEUED, REFUSED, SENDING, SENT, UNCLEAR, SheetRow
from syntagma.core.models.profile import Profile
from syntagma.service.answers import Told
from syntagma.service.client import Client, Gone, Mistaken, Outcome, Unreadable
from syntagma.storage.ledger import Ledger

STUCK = 8  # looks without an answer after which a take is said to be stuck; it is asked for all the same
SLOWEST = 60.0  # seconds between two looks at one that is stuck
FORGOTTEN = 86_400.0  # seconds without an answer after which nobody knows any more whether there will be one
BAD = (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, Unreadable, Strange, OSError, ValueError)
_WHEN = (SENT, UNCLEAR, SENDING)
_SECOND = "; last try: "  # between why a take is unclear and what the last try gave


class TaskOutcome(NamedTuple):
    """What one look at a task gave: what is reported, the files that were written, why they were not; `busy`: another call is at it."""

    told: Told | None = None
    files: tuple[Came, ...] = ()
    error: Exception | None = None
    forgotten: bool = False
    busy: bool = False


class Settler:
    """Speaks to the services of a ledger's models, and puts what comes into it. `clock` gives seconds since 1970; `at` is where the stand-in is."""

    def __init__(self, workspace: Workspace, ledger: Ledger, at: str = "", clock: Callable[[], float] = time.time):
        self.workspace, self.ledger, self.at, self.clock = workspace, ledger, at, clock
        self._clients: dict[str, Client] = {}
        self.told: list[str] = []
        self.remarked: dict[str, list[str]] = {}  # what is said of results, each with the takes of which it is
        self._rows: dict[tuple[str, str], SheetRow | None] = {}
        self.purse = Purse(ledger, halt=halt)
        self.files = ResultFiles(workspace)

    def client(self, model: str) -> Client:
        """The client of a model's service. Raises Trouble."""
        if model not in self._clients:
            self._clients[model] = client_of(self.workspace, self.workspace.model(model), self.at)
        return self._clients[model]

    def close(self) -> None:
        for client in self._clients.values():
            client.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *error: object) -> None:
        self.close()

    def say(self, line: str) -> None:
        """Each message once."""
        if line not in self.told:
            self.told.append(line)

    def reference(self, attempt: str) -> str:
        """Our own number of an attempt, as a service has it: this ledger's, the sheet's, the take's and the attempt's."""
        return f"{self.ledger.name}:{attempt}"

    def row(self, one: Mapping[str, Any]) -> SheetRow | None:
        """The row of a take."""
        key = (one["sheet"], one["row"])
        if key not in self._rows:
            self._rows[key] = self.ledger.row(*key)
        return self._rows[key]

    @property
    def said(self) -> tuple[str, ...]:
        """All messages; one that applies to many takes comes once."""
        each = [f"{', '.join(takes[:4])}{f' and {len(takes) - 4} more' if len(takes) > 4 else ''}: {what}" for what, takes in self.remarked.items()]
        return (*self.told, *each)

    # What came of a task

    def fetched(self, client: Client, one: Mapping[str, Any], told: Told) -> TaskOutcome:
        """Fetch what a task made, and write it."""
        files: list[Came] = []
        for number, result in enumerate(told.results, 1):
            name = take_of(one) if len(told.results) == 1 else f"{take_of(one)}-{number}"
            try:
                files.append(self.files.written(client, result, one, name, self._rows.get((one["sheet"], one["row"]))))
            except BAD as error:
                return TaskOutcome(told, (), error)
        return TaskOutcome(told, tuple(files))

    def change(self, one: Mapping[str, Any], happened: str = "", /, **values: Any) -> bool:
        return self.ledger.set_take(one["sheet"], take_of(one), happened, _WHEN, **values)

    def charge(self, one: Mapping[str, Any], charged: float | None) -> None:
        """What a service says that it charged: too much, and nothing more is sent to it."""
        client = self.client(one["model"])
        self.purse.settle(one, client.host, charged, self.profile(one).price is not None)
        if why := self.purse.over.get(client.host):
            self.say(f"{client.host} is halted: {why}; nothing more will be sent there until you check it (then: syntagma service resume {client.host})")

    def profile(self, one: Mapping[str, Any]) -> Profile:
        return self.workspace.model(one["model"])

    def again(self, one: Mapping[str, Any], why: str, /, **values: Any) -> None:
        """Something that can't be obtained now is asked for again: soon, then later and later, and for good after a day only if a person says so."""
        tries, since = one["tries"] + 1, one["since"] or self.clock()
        wait = min(SLOWEST, self.client(one["model"]).service.every * 1.5 ** min(tries, 20))
        values = {"tries": tries, "since": since, "next_at": self.clock() + wait, "why": why, **values}
        if one["state"] == SENT and self.clock() - since > FORGOTTEN:
            self.change(one, f"unclear: {why}", state=UNCLEAR, **values)
            return
        self.change(one, f"{why}: it is asked for again" if tries in (1, STUCK) else "", **values)

    def put(self, one: Mapping[str, Any], seen: TaskOutcome) -> None:
        """A task that is done: its files, or why they did not come."""
        told = seen.told or Told()
        sheet, take = one["sheet"], take_of(one)
        expires = min((result.expires for result in told.results if result.expires), default=0.0)
        self.charge(one, told.charged)
        if not told.results:
            self.again(one, "the service reports it as done but gives no result", **charged_of(told))
        elif seen.error is not None:
            self._not_fetched(one, seen.error, expires, told)
        elif other := self._anothers(one, seen.files):
            why = f"the result is identical, byte for byte, to that of {other}, a different prompt: {seen.files[0].path}"
            self.change(one, f"unclear: {why}", state=UNCLEAR, why=why, file="; ".join(came.path for came in seen.files), next_at=self.clock() + FORGOTTEN, expires=expires, **charged_of(told))
            self.say(f"{take}: {why}; accept it (syntagma sheet settle {sheet} {take} --accept), or give it up (--lost)")
        else:
            terms = self.profile(one).terms
            read = f"; results: commercial {terms.commercial}, training {terms.training}{f', read {terms.read}' if terms.read else ''}"
            row, files = self.row(one), "; ".join(came.path for came in seen.files)
            noted = remarks(self.profile(one), row, seen.files) if row else ""
            if noted:
                self.remarked.setdefault(noted, []).append(take)
            self.change(
                one, f"done: {files}{f'; {noted}' if noted else ''}{read}", state=DONE, file=files, why=noted, expires=expires, digest=seen.files[0].digest, tries=0, since=0.0, **charged_of(told)
            )  # fmt: skip

    def _anothers(self, one: Mapping[str, Any], files: Iterable[Came]) -> str:
        """The take of another request, to the same service, that the same file came for; "" if there is none."""
        row = self.row(one)
        for came in files:
            for sheet, take, model in self.ledger.bearing("digest", came.digest):
                other = self.ledger.row(sheet, take.rpartition(".")[0])
                if row and other and (sheet, take) != (one["sheet"], take_of(one)) and model == one["model"] and other.request != row.request:
                    return take if sheet == one["sheet"] else f"{take} of the sheet {sheet}"
        return ""

    def _not_fetched(self, one: Mapping[str, Any], error: Exception, expires: float, told: Told) -> None:
        """A result that did not come: again, by an address that is asked for again, or under the key that it was sent with."""
        why = said_of(error)
        charged = {"expires": expires, **charged_of(told)}
        if one["task"]:
            if isinstance(error, Gone) and expires and self.clock() - expires > FORGOTTEN:
                self.change(one, f"expired: {why}", state=EXPIRED, why=f"{why}; syntagma collect {one['sheet']} --retry {take_of(one)} asks once more", **charged)
            else:
                self.again(one, f"it can't be downloaded: {why}", **charged)
            return
        why = f"it was made, but the result can't be saved: {why}"  # without a task number only its key, or a person, can settle it
        self.change(one, f"unclear: {why}", state=UNCLEAR, why=why, next_at=self.clock() + self.client(one["model"]).service.every, **charged)
        self.say(f"{take_of(one)}: {why}")

    def finish(self, one: Mapping[str, Any], told: Told) -> None:
        """Fetch what a task made that is done at once, write it, and say so in the ledger."""
        self.row(one)
        self.put(one, self.fetched(self.client(one["model"]), one, told))

    # What came of a request

    def settle(self, one: Mapping[str, Any], attempt: str, outcome: Outcome, doubt: bool = False) -> str:
        """Put what came of an attempt into the ledger; return the state of its take. `doubt`: it was asked for before, and may have been charged then: only that the
        service has it settles that, whatever else is answered."""
        sheet = one["sheet"]
        outcome = self._own(one, outcome)
        charged = outcome.told.charged
        if outcome.kind == "done":
            self.ledger.end(sheet, attempt, "sent", SENT, outcome.task, outcome.status, charged=charged)
            self.finish({**one, "state": SENT, "task": outcome.task}, outcome.told)
            return DONE
        if outcome.kind == "sent":
            self.charge(one, charged)
            self.ledger.end(sheet, attempt, "sent", SENT, outcome.task, outcome.status, charged=charged)
            return SENT
        next_at = self.clock() + outcome.later if outcome.later else 0.0
        if outcome.kind in ("failed", "refused") and not outcome.sure:  # a task that ended at once: it was taken
            self.charge(one, charged)
            state = FAILED if outcome.kind == "failed" else REFUSED
            self.ledger.end(sheet, attempt, outcome.kind, state, outcome.task, outcome.status, outcome.why or f"the service says: {outcome.told.word}", 0.0, charged)
        elif doubt or not outcome.sure:
            state, why = UNCLEAR, outcome.why
            if doubt:
                first = one["why"].partition(_SECOND)[0]
                why = f"{first}{_SECOND}{outcome.why}" if first else outcome.why
            self.charge(one, charged)
            self.ledger.end(sheet, attempt, "unclear", UNCLEAR, outcome.task, outcome.status, why, next_at or self.clock() + self.client(one["model"]).service.every, charged)
        elif outcome.kind == "refused":
            state = REFUSED
            self.ledger.end(sheet, attempt, "refused", REFUSED, "", outcome.status, outcome.why, 0.0, charged or 0.0)
        else:
            state = QUEUED
            self.ledger.end(sheet, attempt, outcome.kind, QUEUED, "", outcome.status, outcome.why, next_at)
        return state

    def _own(self, one: Mapping[str, Any], outcome: Outcome) -> Outcome:
        """An outcome, unless it names a task that another take has: then nobody knows what it is of."""
        if outcome.task:
            host = self.client(one["model"]).host
            for sheet, take, model in self.ledger.bearing("task", outcome.task):
                if (sheet, take) != (one["sheet"], take_of(one)) and self.client(model).host == host:
                    return Outcome("unclear", f"the service gave it the task {outcome.task}, which belongs to {take}", "", Told(charged=outcome.told.charged), outcome.status)
        return outcome


def take_of(one: Mapping[str, Any]) -> str:
    """A take as it is called: r1a2b3c4d5.2."""
    return f"{one['row']}.{one['number']}"


def charged_of(told: Told) -> dict[str, float]:
    """What is to be written of a charge: nothing if it is not said."""
    return {} if told.charged is None else {"charged": told.charged}


def said_of(error: Exception | None) -> str:
    """What went wrong, without an address in it."""
    if isinstance(error, Mistaken):
        return f"{error}, so the reply is ignored"
    if isinstance(error, Unreadable | Strange):
        return str(error)
    if isinstance(error, httpx.HTTPError):
        return "the connection broke"
    return f"it can't be written ({error.strerror or error})" if isinstance(error, OSError) else "its reply can't be read"
