"""Sending approved rows: money is set aside first, and each attempt is recorded before it is sent
and when its reply arrives.
"""

import random
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from contextlib import ExitStack, contextmanager
from datetime import UTC, datetime
from typing import Any, NamedTuple
from uuid import uuid4

from syntagma.app.batches.collecting import Collector
from syntagma.app.batches.requests import request_body, short_of
from syntagma.app.batches.rows_made import worst_price
from syntagma.app.batches.services import halt, halted
from syntagma.app.batches.settling import BAD, NoMoney, Purse, take_of
from syntagma.app.batches.sheets import Sheet
from syntagma.core.diagnostics import Trouble
from syntagma.core.models.profile import Service
from syntagma.core.sheets import DONE, QUEUED, REFUSED, SENDING, SENT, UNCLEAR, WAITING, SheetRow
from syntagma.service.client import Outcome
from syntagma.storage.folders import own_folder
from syntagma.storage.ledger import Differs, Meanwhile

PATIENCE = 5  # times in a row that a service can't be reached before the run ends
BUSY = 12  # times in a row that it turns everything away, without saying for how long
LONGEST_WAIT = 60.0  # seconds between two tries
# seconds that a run waits because a service asks it to; what is asked for longer is left for
# another run
LONGEST_STAY = 300.0


class Order(NamedTuple):
    """Options of one `send`: limits for this run and for the whole project (None: no limit), the
    most takes, free requests only, don't wait for choices, a cost code.
    """

    budget: float | None = None
    project: float | None = None
    first: int = 0
    free: bool = False
    ungated: bool = False
    code: str = ""


class TakeToSend(NamedTuple):
    """A take to send: its row, its number, the most that it can cost (None: nobody knows), and the
    approval that covers it.
    """

    row: SheetRow
    number: int
    most: float | None
    approval: str


class ModelShare(NamedTuple):
    """What would be sent to one model: the host, rows and takes, their cost with tax at most (None:
    the profile has no price), today's free requests, the files included.
    """

    model: str
    host: str
    rows: int
    takes: int
    amount: float | None
    currency: str
    tax: float
    free: int = 0
    files: tuple[str, ...] = ()


class Went(NamedTuple):
    """The outcome of a run: takes sent and accepted, takes refused; of the whole sheet, those
    waiting and unclear; the run's cost at most by currency, why it stopped early ("" if it didn't),
    and the messages.
    """

    sent: int
    refused: int
    waiting: int
    unclear: int
    spent: dict[str, float]
    ended: str
    told: tuple[str, ...]


class Sender:
    """Sends the approved rows of a sheet."""

    def __init__(
        self,
        sheet: Sheet,
        collector: Collector,
        order: Order,
        clock: Callable[[], float] = time.time,
        sleep: Callable[[float], None] = time.sleep,
    ):
        self.sheet, self.collector, self.order = sheet, collector, order
        self.clock, self.sleep = clock, sleep
        self.ledger = sheet.ledger
        self.told: list[str] = []
        self.stopped = False
        self._foretold: set[tuple[str, int, str]] | None = (
            None  # what a person was shown: nothing else goes out
        )
        self.purse = collector.purse = Purse(self.ledger, order.budget, order.project, halt)
        if why := self.ledger.is_copy():
            raise Trouble(
                f"this may be a copy of the ledger: {why}",
                "first compare it with the services: syntagma collect --reconcile",
            )

    # In advance

    def wanted(self) -> list[TakeToSend]:
        """The takes to send for the rows as they are approved now: the first of each row before any
        second, including those queued before. A row that changed since its approval (request,
        files, model or price) is reopened and reported.
        """
        found: list[TakeToSend] = []
        for row in list(self.sheet.rows.values()):
            there = {take.number: take for take in self.sheet.takes.get(row.id, ())}
            left = [
                number
                for number in range(1, row.takes + 1)
                if number not in there or there[number].state in (QUEUED, WAITING)
            ]
            if row.status != "approved" or not left:
                continue
            if row.held:
                self.say(f"{row.id} was not sent: {row.held}")
            elif not self.sheet.still_approved(row):
                self.sheet.reopen(row, "it changed after it was approved")
                self.say(
                    f"{row.id} changed after you approved it (its request, files, model or price),"
                    " so it is open again"
                )
            else:
                most = worst_price(self.sheet.workspace, row)
                found += [TakeToSend(row, number, most, row.approval) for number in left]
        found.sort(key=lambda one: one.number)  # a stable sort: rows keep their order
        return found[: self.order.first] if self.order.first else found

    def say(self, line: str) -> None:
        if line not in self.told:
            self.told.append(line)

    def parts(self) -> list[ModelShare]:
        """What would be sent, by model; nothing else will be sent. Raises Trouble if a service is
        not allowed, or charged too much before.
        """
        wanted = self.wanted()
        self._foretold = {(one.row.id, one.number, one.approval) for one in wanted}
        found = []
        stopped = halted()
        for model in dict.fromkeys(one.row.model for one in wanted):
            client, price = self.collector.client(model), self.sheet.workspace.model(model).price
            if client.host in stopped:
                raise Trouble(
                    f"nothing was sent to {client.host}: {stopped[client.host]}",
                    "check what it charged, correct [price] in the profile, then: syntagma service"
                    f" resume {client.host}",
                )
            takes = [one for one in wanted if one.row.model == model]
            amount = (
                None
                if any(one.most is None for one in takes)
                else sum(one.most or 0.0 for one in takes)
            )
            files = dict.fromkeys(
                file.name for one in takes for file in self.sheet.leaving(one.row)
            )
            rows = len({one.row.id for one in takes})
            found.append(
                ModelShare(
                    model,
                    client.host,
                    rows,
                    len(takes),
                    amount,
                    price.currency if price else "",
                    price.tax if price else 0.0,
                    self.free_left(model),
                    tuple(files),
                )
            )
        return found

    def free_left(self, model: str) -> int:
        """How many free requests to a model are left today, counting those of every sheet."""
        price = self.sheet.workspace.model(model).price
        return max(
            0,
            (price.free if price else 0)
            - self.ledger.sent_on(datetime.now(UTC).date().isoformat(), model),
        )

    def dry(self) -> list[dict[str, Any]]:
        """The requests that would be sent, without secrets."""
        found = []
        takes: dict[str, int] = {}
        rows: dict[str, TakeToSend] = {}
        for one in self.wanted():
            takes[one.row.id] = takes.get(one.row.id, 0) + 1
            rows[one.row.id] = one
        for name, one in rows.items():
            body, why = request_body(
                self.sheet.workspace, self.ledger, self.sheet.name, one.row, self.order.ungated
            )
            client = self.collector.client(one.row.model)
            made: dict[str, Any] = {
                "row": name,
                "takes": takes[name],
                "host": client.host,
                "method": client.service.submit.method,
                "path": client.service.submit.path,
            }
            found.append(
                {
                    **made,
                    **({"request": body} if body is not None else {"waits": why}),
                    **(
                        {}
                        if one.most is None
                        else {"cost": {"amount": one.most, "currency": one.row.currency}}
                    ),
                }
            )
        return found

    # The run

    def run(
        self, tell: Callable[[str, int, int, dict[str, float]], None] = lambda *_: None
    ) -> Went:
        """Send what `parts` listed, if it is still approved as it was. `tell` is called for each
        take sent: its model, how many of how many, and the money possibly spent. Raises Trouble if
        another sender is using a service.
        """
        run = uuid4().hex[:8]
        with self.ledger.alone():
            self.sheet.load()
            queue = self._queued()
        counts: dict[str, int] = {}
        ended = ""
        with ExitStack() as stack:
            doubts = {
                one["model"] for one in self.ledger.in_state((SENDING, UNCLEAR), self.sheet.name)
            }
            models = list(dict.fromkeys([one["model"] for one in queue] + sorted(doubts)))
            for host in sorted({self.collector.client(model).host for model in models}):
                stack.enter_context(_alone(host))
            there = {
                (one["row"], one["number"])
                for one in self.ledger.in_state((QUEUED, WAITING), self.sheet.name)
            }
            queue = [
                one for one in queue if (one["row"], one["number"]) in there
            ]  # while this run waited for its turn, another may have sent some
            self.collector.doubts.clear_up(self.sheet.name, alone=True)
            for model in models:
                why = _ModelRun(
                    self, model, [one for one in queue if one["model"] == model], run, counts, tell
                ).run()
                ended = ended or why
                if self.stopped:
                    break
        self.sheet.load()
        waiting = sum(
            take.state == WAITING for takes in self.sheet.takes.values() for take in takes
        )
        unclear = len(self.ledger.in_state((UNCLEAR,), self.sheet.name))
        return Went(
            counts.get(SENT, 0),
            counts.get("refused", 0),
            waiting,
            unclear,
            self.purse.spent,
            ended,
            (*self.told, *self.collector.said),
        )

    def _queued(self) -> list[dict[str, Any]]:
        """Queue the takes to send: what was shown and is still approved as shown."""
        wanted = [
            one
            for one in self.wanted()
            if self._foretold is None or (one.row.id, one.number, one.approval) in self._foretold
        ]
        if self._foretold is not None and (gone := len(self._foretold) - len(wanted)):
            self.say(
                f"{gone} of the rows shown {'was' if gone == 1 else 'were'} not sent: removed,"
                " reopened or changed in the meantime"
            )
        for one in wanted:
            self.ledger.queue(
                self.sheet.name,
                one.row.id,
                (one.number,),
                one.most or 0.0,
                one.row.currency,
                one.row.model,
            )
        names = {(one.row.id, one.number) for one in wanted}
        self.sheet.load()
        return [
            one
            for one in self.ledger.in_state((QUEUED, WAITING), self.sheet.name)
            if (one["row"], one["number"]) in names
        ]

    def stop(self) -> None:
        """Stop after the requests that are under way."""
        self.stopped = True


class _Pace:
    """How fast a service is sent requests: as many at once and per minute as it accepts; the first
    one alone, because its reply shows whether the charge is as expected; slower each time the
    service turns requests away.
    """

    def __init__(self, service: Service, clock: Callable[[], float]):
        self.service, self.clock = service, clock
        self.known = False  # has the service answered once in this run?
        self.unreached = self.busy = 0
        self.next_slot = 0.0

    @property
    def at_once(self) -> int:
        return self.service.at_once if self.known else 1

    def sent(self) -> None:
        """Count a request that is sent now."""
        self.next_slot = self.clock() + 60.0 / self.service.a_minute

    def answered(self, outcome: Outcome) -> Outcome:
        """Handle a reply: the same outcome, and how long to wait before another try: as the service
        says, or longer each time, with some spread.
        """
        self.unreached = self.unreached + 1 if outcome.kind == "unsent" else 0
        self.busy = self.busy + 1 if outcome.kind == "away" and not outcome.later else 0
        self.known = self.known or outcome.kind in ("sent", "done", "refused", "failed", "unclear")
        if outcome.kind not in ("unsent", "away") or outcome.later:
            return outcome
        times = max(1, self.unreached, self.busy)
        return outcome._replace(later=min(LONGEST_WAIT, 0.25 * 2**times) * random.uniform(0.6, 1.4))

    def why_not(self, host: str, outcome: Outcome) -> str:
        """Why nothing more is sent; "" to continue."""
        if self.unreached >= PATIENCE:
            return f"{host} can't be reached: {outcome.why}"
        return f"{host} refuses every request: {outcome.why}" if self.busy >= BUSY else ""


class _ModelRun:
    """The takes of one model sent to its service."""

    def __init__(
        self,
        sender: Sender,
        model: str,
        queue: list[dict[str, Any]],
        run: str,
        counts: dict[str, int],
        tell: Callable[[str, int, int, dict[str, float]], None],
    ):
        self.sender, self.model, self.queue, self.name, self.counts, self.tell = (
            sender,
            model,
            queue,
            run,
            counts,
            tell,
        )
        self.client = sender.collector.client(model)
        self.pace = _Pace(self.client.service, sender.clock)
        self.running: dict[Future[Outcome], tuple[dict[str, Any], str, bool]] = {}
        self.why = ""
        self.went, self.whole = 0, len(queue)

    def run(self) -> str:
        """Send; return why it ended early, "" if it did not."""
        host = self.client.host
        if self.queue and (before := halted().get(host)):
            self.why = (
                f"nothing was sent to {host}: {before}; once you have checked: syntagma service"
                f" resume {host}"
            )
        with ThreadPoolExecutor(self.client.service.at_once) as pool:
            while self.running or (self.queue and self._goes_on()):
                self._fill(pool)
                if not self.running:
                    if not self.queue or not self._goes_on():
                        break
                    self._rest()
                    continue
                spare = self.queue and len(self.running) < self.pace.at_once
                pause = (
                    max(0.005, min(1.0, self.pace.next_slot - self.sender.clock()))
                    if spare
                    else None
                )
                done, _ = wait(self.running, timeout=pause, return_when=FIRST_COMPLETED)
                for future in done:
                    self._answered(*self.running.pop(future), future.result())
        if self.why:
            self.sender.say(f"{self.model}: {self.why}")
        return self.why

    def _goes_on(self) -> bool:
        return not self.why and not self.sender.stopped

    def _fill(self, pool: ThreadPoolExecutor) -> None:
        """Send as many as may be under way at once."""
        while self.queue and self._goes_on() and len(self.running) < self.pace.at_once:
            now = self.sender.clock()
            at = next((i for i, one in enumerate(self.queue) if one["next_at"] <= now), None)
            if at is None or self.pace.next_slot > now:
                return
            if self.sender.order.free and self.sender.free_left(self.model) <= 0:
                self.why = "today's free prompts are used up"
                return
            one = self.queue.pop(at)
            if why := self._begin(one, pool):
                if not self.running:
                    self.why = why
                    return
                self.queue.insert(
                    0, one
                )  # what is under way may come cheaper than what was set aside for it
                return

    def _begin(self, one: dict[str, Any], pool: ThreadPoolExecutor) -> str:
        """Set money aside for a take, record its attempt and send it; return why it can't be paid
        for.
        """
        sender, workspace = self.sender, self.sender.sheet.workspace
        row = sender.sheet.rows[one["row"]]
        body, waits = request_body(
            workspace, sender.ledger, one["sheet"], row, sender.order.ungated
        )
        if body is None:
            sender.ledger.set_take(one["sheet"], take_of(one), state=WAITING, why=waits)
            self.whole -= 1
            return ""
        doubt = one["state"] == UNCLEAR
        most = worst_price(workspace, row)
        one = {**one, "reserved": max(most or 0.0, one["reserved"] if doubt else 0.0)}
        try:
            attempt = sender.purse.begin(
                one, short_of(body), most, one["currency"], self.name, sender.order.code, doubt
            )
        except Meanwhile:
            self.whole -= 1  # another call has it
        except NoMoney as empty:
            return str(empty)
        except Differs:
            sender.say(
                f"{take_of(one)} can't be sent again: its request has changed since it was sent"
            )
        else:
            reference = sender.collector.reference(f"{one['sheet']}:{attempt.name}")
            self.running[pool.submit(self._go, body, attempt.key, reference, doubt)] = (
                one,
                attempt.name,
                doubt,
            )
            self.pace.sent()
        return ""

    def _go(self, body: dict[str, Any], key: str, reference: str, doubt: bool) -> Outcome:
        """Send one request; one that may have been charged is looked up first if the service allows
        it. Does not touch the ledger.
        """
        if doubt and self.client.service.find:
            try:
                if found := self.client.find(reference):
                    return Outcome("sent", "", found[0].task, found[0])
            except BAD:
                return Outcome("away", "it can't be looked up now")
        return self.client.submit(body, key, reference)

    def _answered(self, one: dict[str, Any], attempt: str, doubt: bool, outcome: Outcome) -> None:
        """Record the outcome of a request, and decide whether to continue."""
        sender, host = self.sender, self.client.host
        outcome = self.pace.answered(outcome)
        state = sender.collector.settle(one, attempt, outcome, doubt)
        if state in (QUEUED, REFUSED) and outcome.sure and not doubt:
            sender.purse.settle(one, host, outcome.told.charged or 0.0)  # it certainly cost nothing
        again = outcome.kind in ("unsent", "away") and (
            state == QUEUED or bool(self.client.service.key)
        )
        if again and outcome.later <= LONGEST_STAY:
            self.queue.append(
                {
                    **one,
                    "state": state,
                    "why": one["why"] or outcome.why,
                    "next_at": sender.clock() + outcome.later,
                }
            )
        elif outcome.kind == "stop":
            self.why = outcome.why
        else:
            self.went += 1
            what = SENT if state in (SENT, DONE) else state
            self.counts[what] = self.counts.get(what, 0) + 1
            self.tell(self.model, self.went, self.whole, sender.purse.spent)
        if over := sender.purse.over.get(host):
            self.why = (
                f"{host} is halted: {over}; nothing more will be sent there until you check it"
                f" (then: syntagma service resume {host})"
            )
        self.why = self.why or self.pace.why_not(host, outcome)

    def _rest(self) -> None:
        """Wait until the next request may be sent."""
        clock = self.sender.clock
        soonest = max(self.pace.next_slot, min(one["next_at"] for one in self.queue))
        if soonest - clock() > LONGEST_STAY:
            self.why = (
                f"{self.client.host} accepts nothing for another {(soonest - clock()) / 60:.0f}"
                " minutes; run the same command then"
            )
            return
        self.sender.sleep(min(max(soonest - clock(), 0.005), 1.0))


@contextmanager
def _alone(host: str) -> Iterator[None]:
    """The operating system's lock, which lets one sender at a time use a service. Raises Trouble if
    another holds it.
    """
    from filelock import FileLock, Timeout

    folder = own_folder() / "senders"
    folder.mkdir(parents=True, exist_ok=True)
    lock = FileLock(
        folder / "".join(letter if letter.isalnum() else "-" for letter in host), timeout=5
    )
    try:
        lock.acquire()
    except Timeout:
        raise Trouble(
            f"another sender is using {host} now", "wait until it finishes, or stop it"
        ) from None
    try:
        yield
    finally:
        lock.release()


def caps(settings: dict[str, Any]) -> float | None:
    """The project's budget from the workspace's settings. 0 means a budget of nothing."""
    value = settings.get("budget")
    return None if value is None else float(value)
