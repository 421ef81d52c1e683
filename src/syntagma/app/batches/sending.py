"""Approved rows are sent: money first, then each attempt into the ledger before it goes out, and again when its answer is there."""

import random
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime
from typing import Any, NamedTuple
from uuid import uuid4

from syntagma.app.batches.collecting import Collector
from syntagma.app.batches.requests import request_body
from syntagma.app.batches.sheets import Sheet
from syntagma.core.batches.rows import OPEN, QUEUED, SENDING, UNCLEAR, WAITING, SheetRow
from syntagma.service.client import Outcome
from syntagma.storage.folders import own_folder
from syntagma.storage.trouble import Trouble

PATIENCE = 5  # times that a service that can't be reached is tried before the run ends
LONGEST_WAIT = 60.0
SYNCED = 50  # takes after which what may have been spent is read from the ledger again


class Order(NamedTuple):
    """What a call of send asks for: the most that this run may cost, and the whole project (None: no cap); how many rows at most; only what is free; wait
    for no choice; a cost code of one's own."""

    budget: float | None = None
    project: float | None = None
    first: int = 0
    free: bool = False
    ungated: bool = False
    code: str = ""


class Part(NamedTuple):
    """What would be sent to one model: its host, rows and takes, what they cost at most with tax, what is free today."""

    model: str
    host: str
    rows: int
    takes: int
    amount: float
    currency: str
    tax: float
    free: int = 0


class Went(NamedTuple):
    """What a run came to: takes that went out, what they may cost by currency, why it ended early ("" where it did not), and what there is to say."""

    sent: int
    refused: int
    waiting: int
    unclear: int
    spent: dict[str, float]
    ended: str
    told: tuple[str, ...]


class Sender:
    """Sends the approved rows of a sheet."""

    def __init__(self, sheet: Sheet, collector: Collector, order: Order, clock: Callable[[], float] = time.time, sleep: Callable[[float], None] = time.sleep):
        self.sheet, self.collector, self.order = sheet, collector, order
        self.clock, self.sleep = clock, sleep
        self.ledger = sheet.ledger
        self.told: list[str] = []
        self.stopped = False
        self._spent: dict[str, float] = {}  # what was charged, or may be: kept beside the ledger, which is asked now and then
        if why := self.ledger.is_copy():
            raise Trouble(f"this ledger may not be the true one: {why}", "compare it with the services first: syntagma collect --reconcile")

    # Beforehand

    def ready(self) -> list[SheetRow]:
        """The rows that are approved as they stand; those that are not what was approved any more are open again, and told."""
        found = []
        for row in list(self.sheet.rows.values()):
            if row.status != "approved" or self.sheet.takes.get(row.id):
                continue
            if row.held:
                self.told.append(f"{row.id} is not sent: {row.held}")
            elif self.sheet.still_approved(row):
                found.append(row)
            else:
                self.sheet.put(row._replace(status=OPEN, approval=""), "open again", "it is not what was approved")
                self.told.append(f"{row.id} is not what was approved any more (its request, model or price changed): it is open again")
        return found[: self.order.first] if self.order.first else found

    def parts(self) -> list[Part]:
        """What would be sent, by model: rows that are ready, and takes that were queued before. Raises Trouble where a service is not bound."""
        rows: dict[str, list[tuple[str, int, float]]] = {}
        for row in self.ready():
            rows.setdefault(row.model, []).append((row.id, row.takes, (row.cost or 0.0) * row.takes))
        for one in self.ledger.in_state((QUEUED, WAITING), self.sheet.name):
            rows.setdefault(one["model"], []).append((one["row"], 1, one["reserved"]))
        found = []
        for model, parts in rows.items():
            client, profile = self.collector.client(model), self.sheet.workspace.model(model)
            price = profile.price
            found.append(
                Part(
                    model, client.host, len({name for name, _, _ in parts}), sum(takes for _, takes, _ in parts), sum(amount for _, _, amount in parts), price.currency if price else "",
                    price.tax if price else 0.0, max(0, price.free - self._today(model)) if price and price.free else 0,
                )
            )  # fmt: skip
        return found

    def _today(self, model: str) -> int:
        """How many requests went to a model today."""
        day = datetime.now(UTC).date().isoformat()
        rows = {row.id for row in self.sheet.rows.values() if row.model == model}
        return sum(attempt["began"].startswith(day) and attempt["row"] in rows and attempt["state"] != "unsent" for attempt in self.ledger.attempts(self.sheet.name))

    def dry(self) -> list[dict[str, Any]]:
        """The requests that would go out, without any secret."""
        found = []
        for row in self.ready():
            body, why = request_body(self.sheet.workspace, self.ledger, self.sheet.name, row, self.order.ungated)
            client = self.collector.client(row.model)
            one: dict[str, Any] = {"row": row.id, "takes": row.takes, "to": client.host, "method": client.service.submit.method, "path": client.service.submit.path}
            found.append({**one, **({"request": body} if body is not None else {"waits": why}), "cost": row.cost})
        return found

    # The run

    def run(self, tell: Callable[[str, int, int, dict[str, float]], None] = lambda *_: None) -> Went:
        """Send. `tell` hears of each take that went out: its model, how many have gone and how many there are, and what may have been spent. Raises Trouble
        where a service is in use by another sender."""
        for row in self.ready():
            self.ledger.queue(self.sheet.name, row.id, range(1, row.takes + 1), row.cost or 0.0, row.currency, row.model)
        went, ended = 0, ""
        with ExitStack() as stack:
            models = list(dict.fromkeys(one["model"] for one in self.ledger.in_state((QUEUED, WAITING, SENDING, UNCLEAR), self.sheet.name)))
            for host in sorted({self.collector.client(model).host for model in models}):
                stack.enter_context(_alone(host))
            self.collector.clear_up(self.sheet.name, alone=True)
            before = self.ledger.spent()
            self._spent = dict(before)
            for model in models:
                sent, why = self._model(model, before, tell)
                went += sent
                ended = ended or why
                if self.stopped:
                    break
        self.sheet.load()
        after = self.ledger.spent()
        spent = {currency: round(after.get(currency, 0.0) - before.get(currency, 0.0), 6) for currency in after if after[currency] != before.get(currency)}
        states = [one["state"] for one in self.ledger.in_state(("waiting", "refused", "unclear"), self.sheet.name)]
        return Went(went, states.count("refused"), states.count("waiting"), states.count("unclear"), spent, ended, tuple([*self.told, *self.collector.told]))

    def stop(self) -> None:
        """End after what is under way."""
        self.stopped = True

    def _model(self, model: str, before: dict[str, float], tell: Callable[[str, int, int, dict[str, float]], None]) -> tuple[int, str]:
        """Send the takes of one model; return how many went out, and why that ended early."""
        client = self.collector.client(model)
        service, run = client.service, uuid4().hex[:8]
        queue = [one for one in self.ledger.in_state((QUEUED, WAITING), self.sheet.name) if one["model"] == model]
        whole, gone, unreached, next_slot, why = len(queue), 0, 0, 0.0, ""
        free = next((part.free for part in self.parts() if part.model == model), 0) if self.order.free else 0
        running: dict[Future[Outcome], tuple[dict[str, Any], str]] = {}
        with ThreadPoolExecutor(service.at_once) as pool:
            while (queue and not why and not self.stopped) or running:
                while queue and not why and not self.stopped and len(running) < service.at_once:
                    now = self.clock()
                    at = next((i for i, one in enumerate(queue) if one["next_at"] <= now), None)
                    if at is None or next_slot > now:
                        break
                    one = queue.pop(at)
                    if why := self._no_money(one, before, running, gone, free):
                        break
                    body, waits = self._body(one)
                    if body is None:
                        self.ledger.set_take(self.sheet.name, _name(one), state=WAITING, why=waits)
                        whole -= 1
                        continue
                    key = uuid4().hex
                    self._spent[one["currency"]] = self._spent.get(one["currency"], 0.0) + one["reserved"]
                    attempt = self.ledger.begin(self.sheet.name, _name(one), key, run, self.order.code)
                    reference = self.collector.reference(f"{self.sheet.name}:{attempt}")
                    running[pool.submit(client.submit, body, key, reference)] = (one, attempt)
                    next_slot = now + 60.0 / service.a_minute
                if not running:
                    if not queue or why or self.stopped:
                        break
                    soonest = max(next_slot, min(one["next_at"] for one in queue))
                    self.sleep(min(max(soonest - self.clock(), 0.005), 1.0))
                    continue
                done, _ = wait(running, timeout=max(0.005, min(1.0, next_slot - self.clock())) if queue and len(running) < service.at_once else None, return_when=FIRST_COMPLETED)
                for future in done:
                    one, attempt = running.pop(future)
                    outcome = future.result()
                    unreached = unreached + 1 if outcome.kind == "unsent" else 0
                    outcome = self._delayed(outcome, unreached)
                    self.collector.settle(one, attempt, outcome)
                    if outcome.kind in ("unsent", "away", "stop", "refused", "failed"):
                        self._spent[one["currency"]] -= one["reserved"] - (outcome.told.charged or 0.0)
                    if outcome.kind in ("unsent", "away"):
                        queue.append({**one, "next_at": self.clock() + outcome.later})
                    elif outcome.kind == "stop":
                        why = outcome.why
                    else:
                        gone += 1
                        if not gone % SYNCED:
                            self._spent = self.ledger.spent()
                        tell(model, gone, whole, self._spent)
                    if unreached >= PATIENCE:
                        why = f"{client.host} can't be reached: {outcome.why}"
        if why:
            self.told.append(f"{model}: {why}")
        return gone, why

    def _body(self, one: dict[str, Any]) -> tuple[dict[str, Any] | None, str]:
        row = self.sheet.rows[one["row"]]
        return request_body(self.sheet.workspace, self.ledger, self.sheet.name, row, self.order.ungated)

    def _delayed(self, outcome: Outcome, times: int) -> Outcome:
        """An outcome that has to be tried again, with how long to wait: as the service says, else longer and longer, not all at once."""
        if outcome.kind not in ("unsent", "away") or outcome.later:
            return outcome
        return outcome._replace(later=min(LONGEST_WAIT, 0.25 * 2 ** max(1, times)) * random.uniform(0.6, 1.4))

    def _no_money(self, one: dict[str, Any], before: dict[str, float], running: dict[Any, Any], gone: int, free: int) -> str:
        """Why one more take can't be paid; "" where it can. What is under way counts at its most."""
        currency, amount = one["currency"], one["reserved"]
        if self.order.free and gone + len(running) >= free:
            return "what is free today is used up"
        spent = self._spent
        if self.order.budget is not None and spent.get(currency, 0.0) - before.get(currency, 0.0) + amount > self.order.budget + 1e-9:
            return f"one more take ({amount:g} {currency}) would be over the budget of {self.order.budget:g}"
        if self.order.project is not None and spent.get(currency, 0.0) + amount > self.order.project + 1e-9:
            return f"one more take ({amount:g} {currency}) would be over the project's budget of {self.order.project:g}"
        return ""


def _name(one: dict[str, Any]) -> str:
    return f"{one['row']}.{one['number']}"


@contextmanager
def _alone(host: str) -> Iterator[None]:
    """The lock of the operating system by which one sender at a time speaks to a service. Raises Trouble where another does."""
    from filelock import FileLock, Timeout

    folder = own_folder() / "senders"
    folder.mkdir(parents=True, exist_ok=True)
    lock = FileLock(folder / "".join(letter if letter.isalnum() else "-" for letter in host), timeout=5)
    try:
        lock.acquire()
    except Timeout:
        raise Trouble(f"another sender speaks to {host} now", "wait until it is done, or stop it") from None
    try:
        yield
    finally:
        lock.release()


def caps(settings: dict[str, Any]) -> float | None:
    """The project's budget, as the workspace's settings have it."""
    value = settings.get("budget")
    return float(value) if value else None


