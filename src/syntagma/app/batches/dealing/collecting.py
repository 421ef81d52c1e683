"""What was sent is asked for, fetched before its address expires, written, and put into the ledger: each take by itself, held for one call at a time."""

import re
import time
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any, NamedTuple
from zlib import crc32

from syntagma.app.batches.dealing.doubts import Doubts
from syntagma.app.batches.dealing.settling import BAD, STUCK, Settler, TaskOutcome, charged_of, said_of, take_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import CANCELLED, DONE, EXPIRED, FAILED, REFUSED, SENDING, SENT, TAKE_STATES, UNCLEAR
from syntagma.storage.files import held
from syntagma.storage.ledger import Ledger
from syntagma.storage.trouble import Trouble

LOCKS = 256


class Collected(NamedTuple):
    """What collecting came to: takes done, refused or failed, still under way, not clear, of those under way or not clear how many may be settled by looking
    again soon, and the messages."""

    done: int = 0
    ended: int = 0
    under_way: int = 0
    unclear: int = 0
    hopeful: int = 0
    told: tuple[str, ...] = ()


class Collector(Settler):
    """Collects the takes of a sheet."""

    def __init__(self, workspace: Workspace, ledger: Ledger, at: str = "", clock: Callable[[], float] = time.time):
        super().__init__(workspace, ledger, at, clock)
        self.doubts = Doubts(self)

    # What is under way

    def look(self, sheet: str = "") -> Collected:
        """Look once at everything that is under way: what is not clear first, then tasks, those whose address expires soonest first. Services are asked
        by several threads at once; the ledger is written by this one."""
        self.doubts.clear_up(sheet)
        due = [one for one in self.ledger.in_state((SENT, UNCLEAR), sheet) if one["task"] and one["next_at"] <= self.clock() and self._reachable(one)]
        takes = sorted(due, key=lambda one: (one["expires"] or 9e18, one["next_at"]))
        at_once = max([self.client(model).service.at_once for model in {one["model"] for one in takes}], default=1)
        for one in takes:
            self.row(one)  # the ledger is asked before threads begin
        with ThreadPoolExecutor(at_once) as pool:
            for one, seen in zip(takes, pool.map(self._seen, takes), strict=True):
                self._apply(one, seen)
        left = self.ledger.in_state((SENT, UNCLEAR), sheet)
        unclear = [one for one in left if one["state"] == UNCLEAR]
        ended = self.ledger.in_state((REFUSED, FAILED, EXPIRED, CANCELLED), sheet)
        moving = sum(one["state"] == SENT and one["tries"] < STUCK for one in left) + sum(self.doubts.hopeful(one) for one in unclear)
        if stuck := [one for one in left if one["state"] == SENT and one["tries"] >= STUCK]:
            self.say(f"{len(stuck)} can't be fetched now ({stuck[0]['why'] or 'no answer'}); run the same command again later")
        return Collected(len(self.ledger.in_state((DONE,), sheet)), len(ended), len(left) - len(unclear), len(unclear), moving, self.said)

    def _reachable(self, one: Mapping[str, Any]) -> bool:
        """Can the service of a take be spoken to? The reason is reported once."""
        try:
            return self.client(one["model"]).service.state is not None
        except Trouble as trouble:
            self.say(f"{one['model']}: {trouble}")
            return False

    def _seen(self, one: Mapping[str, Any]) -> TaskOutcome:
        """Ask for one task, and fetch what is there, while no other call does. No word of the ledger."""
        client = self.client(one["model"])
        try:
            with self._alone(one):
                told = client.ask(one["task"])
                if told is None:
                    return TaskOutcome(forgotten=True)
                if told.state == "done" or (told.results and not told.state):
                    return self.fetched(client, one, told)
                return TaskOutcome(told)
        except Trouble:
            return TaskOutcome(busy=True)
        except BAD as error:
            return TaskOutcome(error=error)

    @contextmanager
    def _alone(self, one: Mapping[str, Any]) -> Iterator[None]:
        """Hold a take. Raises Trouble if another call has it. Takes share a few hundred locks, so as many files are left behind, and not one per take;
        one whose lock another take has is looked at the next time."""
        number = crc32(f"{one['sheet']}:{take_of(one)}".encode()) % LOCKS
        with held(f"{self.ledger.path}:take-{number}", patience=0):
            yield

    def _apply(self, one: Mapping[str, Any], seen: TaskOutcome) -> None:
        """Put what was seen of a task into the ledger, unless another call did meanwhile."""
        told, service = seen.told, self.client(one["model"]).service
        if seen.busy:
            self.change(one, next_at=self.clock() + service.every)
        elif seen.forgotten or (told is None and seen.error is not None):
            self.again(one, "the service does not know this task" if seen.forgotten else said_of(seen.error))
        elif told is not None and told.state in ("failed", "refused", "cancelled"):
            why = told.why or f"the service says: {told.word}"
            state = {"failed": FAILED, "refused": REFUSED, "cancelled": CANCELLED}[told.state]
            if told.charged is None and one["charged"] is None and one["reserved"]:
                why += "; the service does not say whether it charged, so the amount set aside counts as spent"
            self.charge(one, told.charged)
            self.change(one, f"{told.state}: {why}", state=state, why=why, tries=0, **charged_of(told))
        elif told is not None and (told.state == "done" or (told.results and not told.state)):
            self.put(one, seen)
        else:
            assert told is not None
            self.charge(one, told.charged)
            self.change(one, progress=told.progress, state=SENT, next_at=self.clock() + service.every, tries=0, since=0.0, **charged_of(told))

    def ask_again(self, sheet: str, take: str) -> bool:
        """Ask for a take again at a person's wish, whatever happened to it; False if it has no task number."""
        row, _, number = take.rpartition(".")
        one = next((one for one in self.ledger.in_state(TAKE_STATES, sheet) if one["row"] == row and str(one["number"]) == number), None)
        if one is None or not (one["task"] or one["state"] in (SENDING, UNCLEAR)):
            return False
        state = SENT if one["task"] else UNCLEAR
        self.ledger.set_take(sheet, take, "retried by hand", state=state, next_at=0.0, tries=0, since=0.0, digest="", why="")
        return True

    # A statement

    def statement(self, rows: list[dict[str, str]]) -> list[str]:
        """Compare the ledger with a statement of the service: its tasks, and what each was charged. Differences are corrected and reported."""
        said: list[str] = []
        by_task: dict[str, list[dict[str, Any]]] = {}
        for one in self.ledger.in_state(TAKE_STATES):
            if one["task"]:
                by_task.setdefault(one["task"], []).append(one)
        for cells in rows:
            task, amount = cells.get("task", "").strip(), cells.get("charged", "").strip()
            charged = float(amount) if re.fullmatch(r"[0-9]{1,12}(\.[0-9]{0,9})?", amount) else None
            takes = by_task.get(task, [])
            if charged is None:
                said.append(f"{task or 'a line'}: “{amount}” is not an amount, so this line is skipped: write the charge as 4 or 4.50")
            elif not takes:
                said.append(f"{task}: {charged:g} was charged, but the ledger has no such task")
            elif len(takes) > 1:
                said.append(f"{task}: {len(takes)} takes share this task ({', '.join(take_of(one) for one in takes)}), so nothing was changed")
            elif takes[0]["charged"] is None or abs(takes[0]["charged"] - charged) > 1e-9:
                one = takes[0]
                before = "nothing" if one["charged"] is None else f"{one['charged']:g}"
                self.ledger.set_take(one["sheet"], take_of(one), f"charged {charged:g} by the statement", charged=charged)
                said.append(f"{take_of(one)}: {charged:g} was charged; the ledger had {before}")
        return said
