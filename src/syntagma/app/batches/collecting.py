"""Collecting: asks for each take that was sent, downloads and records it; unclear takes are looked
up, sent again or compared with a service's list.
"""

import re
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import datetime
from typing import Any, NamedTuple
from zlib import crc32

import httpx

from syntagma.app.batches.requests import request_body, short_of
from syntagma.app.batches.services import halt, halted
from syntagma.app.batches.settling import (
    BAD,
    STUCK,
    Settler,
    TaskOutcome,
    charged_of,
    said_of,
    take_of,
)
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.sheets import (
    CANCELLED,
    DONE,
    EXPIRED,
    FAILED,
    REFUSED,
    SENDING,
    SENT,
    TAKE_STATES,
    UNCLEAR,
    RequestReference,
    TakeId,
)
from syntagma.service.answers import Told
from syntagma.service.client import Client, Listing, Outcome, Unreadable
from syntagma.storage.files import held
from syntagma.storage.ledger import Differs, Ledger, Meanwhile

# ──── What may have been charged and is not known: looked up by our reference, asked for again
# under its own key, or compared with a service's whole list.
#
# That a service finds nothing proves nothing. A take is taken for never sent only where the
# service's list is whole and shows what went out just before it
# and just after it; all else stays unclear, for a person to settle.


_BAD = (httpx.HTTPError, httpx.InvalidURL, Unreadable, ValueError)


class Doubts:
    """Settles the doubts of a ledger."""

    def __init__(self, settler: Settler):
        self.settler, self.ledger, self.clock = settler, settler.ledger, settler.clock

    def hopeful(self, one: Mapping[str, Any]) -> bool:
        """Whether another look soon may settle this take."""
        try:
            service = self.settler.client(one["model"]).service
        except Trouble:
            return False
        return bool(one["tries"] < STUCK and (one["task"] or service.find or service.key))

    def clear_up(self, sheet: str = "", alone: bool = False) -> None:
        """Look up unclear takes. `alone`: no other sender is running, so nobody else is waiting for
        requests on their way.
        """
        lists: dict[str, Listing | None] = {}
        for one in self.ledger.in_state((SENDING, UNCLEAR), sheet):
            attempts = self.ledger.attempts(one["sheet"], take_of(one))
            if one["task"] or not attempts or one["next_at"] > self.clock():
                continue
            try:
                client = self.settler.client(one["model"])
            except Trouble as trouble:
                self.settler.say(f"{one['model']}: {trouble}")
                continue
            if one["state"] == SENDING:
                if (
                    not alone
                    and age(attempts[-1]["began"], self.clock()) < 2 * client.service.patience
                ):
                    continue
                why = "it was being sent when the program ended"
                self.ledger.set_take(
                    one["sheet"],
                    take_of(one),
                    f"unclear: {why}",
                    (SENDING,),
                    state=UNCLEAR,
                    why=why,
                )
                one = {**one, "state": UNCLEAR, "why": why}
            self._settle(one, attempts[-1], client, lists)

    def _settle(
        self,
        one: Mapping[str, Any],
        attempt: Mapping[str, Any],
        client: Client,
        lists: dict[str, Listing | None],
    ) -> None:
        name = attempt["name"]
        try:
            found = self._found(one, attempt, client)
        except _BAD:  # what could not be looked up now is not asked for again: it may be there
            self._later(one)
            return
        if found:
            self.settler.settle(one, name, found, doubt=True)
        elif outcome := self._asked_again(one, attempt, client):
            if self.settler.settle(one, name, outcome, doubt=True) == UNCLEAR:
                self._later(one)
        elif (
            client.service.listed
            and age(attempt["began"], self.clock()) > 2 * client.service.patience
        ):
            if client.host not in lists:
                lists[client.host] = _listing(client)
            listing = lists[client.host]
            if listing and not self._why_unproved(attempt, listing, client):
                self.settler.settle(one, name, _NEVER)
            else:
                self._later(one)
        else:
            self._later(one)

    def _later(self, one: Mapping[str, Any]) -> None:
        wait = self.settler.client(one["model"]).service.every * 1.5 ** min(one["tries"], 12)
        self.ledger.set_take(
            one["sheet"],
            take_of(one),
            "",
            (UNCLEAR, SENDING),
            next_at=self.clock() + wait,
            tries=one["tries"] + 1,
        )

    def _found(
        self, one: Mapping[str, Any], attempt: Mapping[str, Any], client: Client
    ) -> Outcome | None:
        """What the service has under our reference; None if it shows nothing, which proves nothing.
        Raises what the client raises.
        """
        return (
            self._one_of(one, client, client.find(self.settler.reference(attempt["id"])))
            if client.service.find
            else None
        )

    def _one_of(
        self, one: Mapping[str, Any], client: Client, found: Sequence[Told]
    ) -> Outcome | None:
        """The task of a take. If the service has several, all of them count and a person has to
        decide.
        """
        tasks = {told.task: told for told in found}
        if not tasks:
            return None
        first = next(iter(tasks.values()))
        if len(tasks) > 1:
            others = [
                task
                for task in tasks
                if task != first.task and not self.ledger.bearing("task", task)
            ]
            named = [self.ledger.extra(one["sheet"], one["row"], task) for task in others]
            why = (
                f"it has {len(tasks)} tasks for {take_of(one)} of the sheet {one['sheet']}, which"
                " was sent once"
            )
            halt(client.host, why)
            more = f"; the others are added as {', '.join(named)}" if named else ""
            self.settler.say(
                f"{client.host} is halted: {why} ({', '.join(tasks)}){more}; nothing more will be"
                f" sent there until you check it (then: syntagma service resume {client.host})"
            )
        return Outcome("sent", "", first.task, first)

    def _asked_again(
        self, one: Mapping[str, Any], attempt: Mapping[str, Any], client: Client
    ) -> Outcome | None:
        """Send the same request again under the same key, while the service remembers it; None if
        that is not possible.
        """
        key = client.service.key
        if (
            not key
            or not attempt["key"]
            or age(attempt["began"], self.clock()) > key.hours * 3600
            or client.host in halted()
        ):
            return None
        row = self.settler.row(one)
        body = (
            request_body(self.settler.workspace, self.ledger, one["sheet"], row, ungated=True)[0]
            if row
            else None
        )
        if body is None:
            return None
        try:
            again = self.ledger.begin(
                one["sheet"],
                take_of(one),
                short_of(body),
                one["reserved"],
                one["currency"],
                doubt=True,
            )
        except Meanwhile:
            return None
        except Differs:
            self.settler.say(
                f"{take_of(one)} can't be sent again: its request has changed since it was sent"
                " (did a picture change?)"
            )
            return None
        return client.submit(
            body, again.key, self.settler.reference(f"{one['sheet']}:{again.name}")
        )

    # The whole list

    def reconcile(self, models: Sequence[str], sheet: str = "") -> tuple[list[str], bool]:
        """Compare the ledger with the services' own lists: tasks that only they know are added, and
        unclear takes that are certainly not there are marked as never arrived. Return what was
        found, and whether every list was complete. Raises Trouble.
        """
        said: list[str] = []
        whole, copy = True, bool(self.ledger.is_copy())
        lists: dict[str, Listing | None] = {}
        for model in models:
            client = self.settler.client(model)
            if client.service.listed is None:
                said.append(
                    f"{model}: its service has no list of tasks; settle unclear takes by hand"
                    " (sheet settle)"
                )
                whole = False
                continue
            if client.host not in lists:
                try:
                    lists[client.host] = client.listing()
                except _BAD as error:
                    raise Trouble(
                        f"the list of tasks at {client.host} can't be read ({error})",
                        "try again later: nothing was changed",
                    ) from None
            listing = lists[client.host]
            assert listing is not None
            if listing.flaw:
                said.append(
                    f"{model}: tasks missing from the list of {client.host} may exist all the same:"
                    f" {listing.flaw}"
                )
                whole = False
            tasks: dict[str, list[Told]] = {}
            for reference, told in listing.tasks:
                tasks.setdefault(reference, []).append(told)
            for one in self.ledger.in_state((SENDING, UNCLEAR), sheet):
                attempts = self.ledger.attempts(one["sheet"], take_of(one))
                if one["model"] != model or one["task"] or not attempts:
                    continue
                said.append(self._compared(one, attempts[-1], client, listing, tasks))
            said += self._unknown(model, tasks, copy)
        return said, whole

    def _compared(
        self,
        one: Mapping[str, Any],
        attempt: Mapping[str, Any],
        client: Client,
        listing: Listing,
        tasks: Mapping[str, Sequence[Told]],
    ) -> str:
        """Record what the list shows about an unclear take, and report it."""
        name = attempt["name"]
        if found := self._one_of(one, client, tasks.get(self.settler.reference(attempt["id"]), ())):
            state = self.settler.settle(one, name, found, doubt=True)
            return (
                f"{take_of(one)}: found, {found.task}"
                if state != UNCLEAR
                else f"{take_of(one)}: still unclear"
            )
        if why := self._why_unproved(attempt, listing, client):
            return (
                f"{take_of(one)}: still unclear: it is not on the list, and {why}; settle it by"
                " hand (sheet settle)"
            )
        self.settler.settle(one, name, _NEVER)
        return f"{take_of(one)}: never arrived"

    def _why_unproved(self, attempt: Mapping[str, Any], listing: Listing, client: Client) -> str:
        """Why a list does not prove that an attempt never arrived; "" if it does, because it is
        complete and shows our requests just before and just after.
        """
        if listing.flaw:
            return listing.flaw
        shown = {reference for reference, _ in listing.tasks}
        if self.settler.reference(attempt["id"]) in shown:
            return "it is on the list"
        ours = [
            (began, name)
            for name, began, model in self.ledger.acknowledged()
            if self._host(model) == client.host and name != attempt["id"]
        ]
        sides = {
            "before": max((one for one in ours if one[0] < attempt["began"]), default=None),
            "after": min((one for one in ours if one[0] > attempt["began"]), default=None),
        }
        for side, nearest in sides.items():
            if nearest is None:
                return f"nothing else was sent {side} it that would show that the list is complete"
            if self.settler.reference(nearest[1]) not in shown:
                return f"the list does not show what was sent {side} it either"
        return ""

    def _host(self, model: str) -> str:
        try:
            return self.settler.client(model).host
        except Trouble:
            return ""

    def _unknown(self, model: str, tasks: Mapping[str, Sequence[Told]], copy: bool) -> list[str]:
        """The service's tasks that belong to this ledger but are not in it. They are added if the
        ledger is a copy, because another copy may be ahead.
        """
        known = {
            attempt["id"]
            for sheet in self.ledger.sheets()
            for attempt in self.ledger.attempts(sheet)
        }
        strange = [
            (reference, told)
            for name, found in tasks.items()
            for told in found[:1]
            if (reference := RequestReference.read(name)).ledger == self.ledger.name
            and reference.key not in known
        ]
        said, left = [], 0
        for (_, sheet, attempt), told in strange:
            if (
                copy
                and self.ledger.has(sheet)
                and self.ledger.adopt(sheet, attempt, told.task, model)
            ):
                said.append(f"{attempt}: sent by another copy of this ledger, and added here")
            else:
                left += 1
        if left and not copy:
            host = self.settler.client(model).host
            said.append(
                f"{host}: its list has {left} task{'s' if left > 1 else ''} under this ledger's"
                " name that it never sent; none of them was added"
            )
        return said


_NEVER = Outcome("unsent", "the service's own list does not have it: it never arrived", sure=True)


def _listing(client: Client) -> Listing | None:
    try:
        return client.listing()
    except _BAD:
        return None


def age(began: str, clock: float) -> float:
    """Seconds since a time in the ledger; a time that can't be read counts as long ago."""
    try:
        return clock - datetime.fromisoformat(began).timestamp()
    except ValueError:
        return float("inf")


# ──── What was sent is asked for, fetched before its address expires, written, and put into the
# ledger: each take by itself, held for one call at a time.


LOCKS = 256


class Collected(NamedTuple):
    """What collecting found: takes done, refused or failed, still under way, and unclear; how many
    of the last two another look may settle soon; and the messages.
    """

    done: int = 0
    ended: int = 0
    under_way: int = 0
    unclear: int = 0
    hopeful: int = 0
    told: tuple[str, ...] = ()


class Collector(Settler):
    """Collects the takes of a sheet."""

    def __init__(
        self,
        workspace: Workspace,
        ledger: Ledger,
        at: str = "",
        clock: Callable[[], float] = time.time,
    ):
        super().__init__(workspace, ledger, at, clock)
        self.doubts = Doubts(self)

    # What is under way

    def look(self, sheet: str = "") -> Collected:
        """Look once at everything under way: unclear takes first, then tasks by how soon their
        address expires. Several threads ask the services; only this one writes the ledger.
        """
        self.doubts.clear_up(sheet)
        due = [
            one
            for one in self.ledger.in_state((SENT, UNCLEAR), sheet)
            if one["task"] and one["next_at"] <= self.clock() and self._reachable(one)
        ]
        takes = sorted(due, key=lambda one: (one["expires"] or 9e18, one["next_at"]))
        at_once = max(
            [self.client(model).service.at_once for model in {one["model"] for one in takes}],
            default=1,
        )
        for one in takes:
            self.row(one)  # the ledger is asked before threads begin
        with ThreadPoolExecutor(at_once) as pool:
            for one, seen in zip(takes, pool.map(self._seen, takes), strict=True):
                self._apply(one, seen)
        left = self.ledger.in_state((SENT, UNCLEAR), sheet)
        unclear = [one for one in left if one["state"] == UNCLEAR]
        ended = self.ledger.in_state((REFUSED, FAILED, EXPIRED, CANCELLED), sheet)
        moving = sum(one["state"] == SENT and one["tries"] < STUCK for one in left) + sum(
            self.doubts.hopeful(one) for one in unclear
        )
        if stuck := [one for one in left if one["state"] == SENT and one["tries"] >= STUCK]:
            self.say(
                f"{len(stuck)} can't be fetched now ({stuck[0]['why'] or 'no answer'}); run the"
                " same command again later"
            )
        return Collected(
            len(self.ledger.in_state((DONE,), sheet)),
            len(ended),
            len(left) - len(unclear),
            len(unclear),
            moving,
            self.said,
        )

    def _reachable(self, one: Mapping[str, Any]) -> bool:
        """Whether the service of a take may be used. The reason why not is reported once."""
        try:
            return self.client(one["model"]).service.state is not None
        except Trouble as trouble:
            self.say(f"{one['model']}: {trouble}")
            return False

    def _seen(self, one: Mapping[str, Any]) -> TaskOutcome:
        """Ask for one task and download what is there, unless another call is doing so. Does not
        touch the ledger.
        """
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
        """Hold a take. Raises Trouble if another call holds it. A few hundred lock files serve all
        takes; a take whose lock is in use waits for the next look.
        """
        number = crc32(f"{one['sheet']}:{take_of(one)}".encode()) % LOCKS
        with held(f"{self.ledger.path}:take-{number}", patience=0):
            yield

    def _apply(self, one: Mapping[str, Any], seen: TaskOutcome) -> None:
        """Record what was seen of a task in the ledger, unless another call has done so."""
        told, service = seen.told, self.client(one["model"]).service
        if seen.busy:
            self.change(one, next_at=self.clock() + service.every)
        elif seen.forgotten or (told is None and seen.error is not None):
            self.again(
                one,
                "the service does not know this task" if seen.forgotten else said_of(seen.error),
            )
        elif told is not None and told.state in ("failed", "refused", "cancelled"):
            why = told.why or f"the service says: {told.word}"
            state = {"failed": FAILED, "refused": REFUSED, "cancelled": CANCELLED}[told.state]
            if told.charged is None and one["charged"] is None and one["reserved"]:
                why += (
                    "; the service does not say whether it charged, so the amount set aside counts"
                    " as spent"
                )
            self.charge(one, told.charged)
            self.change(
                one, f"{told.state}: {why}", state=state, why=why, tries=0, **charged_of(told)
            )
        elif told is not None and (told.state == "done" or (told.results and not told.state)):
            self.put(one, seen)
        else:
            assert told is not None
            self.charge(one, told.charged)
            self.change(
                one,
                progress=told.progress,
                state=SENT,
                next_at=self.clock() + service.every,
                tries=0,
                since=0.0,
                **charged_of(told),
            )

    def ask_again(self, sheet: str, take: str) -> bool:
        """Ask for a take again because a person wants it, whatever its state; False if it has no
        task number.
        """
        row, number = TakeId.read(take)
        one = next(
            (
                one
                for one in self.ledger.in_state(TAKE_STATES, sheet)
                if one["row"] == row and one["number"] == number
            ),
            None,
        )
        if one is None or not (one["task"] or one["state"] in (SENDING, UNCLEAR)):
            return False
        state = SENT if one["task"] else UNCLEAR
        self.ledger.set_take(
            sheet,
            take,
            "retried by hand",
            state=state,
            next_at=0.0,
            tries=0,
            since=0.0,
            digest="",
            why="",
        )
        return True

    # A statement

    def statement(self, rows: list[dict[str, str]]) -> list[str]:
        """Compare the ledger with a service's statement of its tasks and charges; correct and
        report the differences.
        """
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
                said.append(
                    f"{task or 'a line'}: “{amount}” is not an amount, so this line is skipped:"
                    " write the charge as 4 or 4.50"
                )
            elif not takes:
                said.append(f"{task}: {charged:g} was charged, but the ledger has no such task")
            elif len(takes) > 1:
                said.append(
                    f"{task}: {len(takes)} takes share this task"
                    f" ({', '.join(take_of(one) for one in takes)}), so nothing was changed"
                )
            elif takes[0]["charged"] is None or abs(takes[0]["charged"] - charged) > 1e-9:
                one = takes[0]
                before = "nothing" if one["charged"] is None else f"{one['charged']:g}"
                self.ledger.set_take(
                    one["sheet"],
                    take_of(one),
                    f"charged {charged:g} by the statement",
                    charged=charged,
                )
                said.append(f"{take_of(one)}: {charged:g} was charged; the ledger had {before}")
        return said
