"""The outcome of a request: its files written, its price paid, and the ledger's record of it."""

import hashlib
import os
import re
import time
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, NamedTuple, Self
from uuid import uuid4

import httpx

from syntagma.app.batches.services import client_of, halt
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import SyntagmaError
from syntagma.core.models.parameters import own_name, settle
from syntagma.core.models.prices import priced
from syntagma.core.models.profile import Profile
from syntagma.core.sheets import (
    DONE,
    EXPIRED,
    FAILED,
    QUEUED,
    REFUSED,
    SENDING,
    SENT,
    UNCLEAR,
    SheetRow,
    TakeId,
)
from syntagma.formats.media_files import CLIPS, JPEG, PICTURES, PNG, Media, NotWhole, media_of
from syntagma.service.answers import Result, Told
from syntagma.service.client import Client, Gone, Mistaken, Outcome, Unreadable, decoded
from syntagma.storage.files import make_folder
from syntagma.storage.folders import own_folder
from syntagma.storage.ledger import Attempt, Ledger, OverBudget

# ──── The purse: money is set aside before a request goes out, by the most that it can cost, and
# settled by what was charged.
#
# What nobody knows is not free: a take whose charge is not said keeps what was set aside for it. A
# service that charges more than that is sent nothing more,
# from any workspace, until a person has looked (`syntagma service resume HOST`).


ROUNDING = 1e-6  # by how much a charge may be over what was set aside: rounding


class NoMoney(SyntagmaError):
    """One more take can't be paid for; the message says why."""


class Purse:
    """What one run may spend (`budget`; None: no limit) and what all sheets may spend together
    (`project`), by currency. `halt` is called for a service that charges too much.
    """

    def __init__(
        self,
        ledger: Ledger,
        budget: float | None = None,
        project: float | None = None,
        halt: Callable[[str, str], None] = lambda host, why: None,
    ):
        self.ledger, self.budget, self.project, self.halt = ledger, budget, project, halt
        self._run: dict[
            tuple[str, str], tuple[str, float]
        ] = {}  # the takes of this run: their currency, and what they have cost or may cost
        self._sum: dict[str, float] = {}
        self.over: dict[
            str, str
        ] = {}  # services that charged too much, each with what is to be said of it

    @property
    def capped(self) -> bool:
        return self.budget is not None or self.project is not None

    @property
    def spent(self) -> dict[str, float]:
        """What this run has cost, or may have, by currency."""
        return {
            currency: round(amount, 6)
            for currency, amount in self._sum.items()
            if amount > ROUNDING
        }

    def begin(
        self,
        one: Mapping[str, Any],
        body: str,
        most: float | None,
        currency: str,
        run: str = "",
        code: str = "",
        doubt: bool = False,
    ) -> Attempt:
        """Set money aside for a take and record its attempt, in one transaction. `most`: what it
        can cost, None if nobody knows. Raises NoMoney, Differs, Meanwhile.
        """
        name = f"{one['row']}.{one['number']}"
        if most is None and self.capped:
            raise NoMoney(
                f"{one['model']} has no price, so a take's cost is unknown: give it in the profile"
                " ([price] amount = …, or 0 if it is free)"
            )
        amount = most or 0.0
        key = (one["sheet"], name)
        before = self._run.get(key, (currency, 0.0))[1]
        if (
            self.budget is not None
            and self._sum.get(currency, 0.0) - before + amount > self.budget + ROUNDING
        ):
            raise NoMoney(
                f"one more take ({priced(amount, currency)}) would be over the budget of"
                f" {self.budget:g}"
            )
        try:
            attempt = self.ledger.begin(
                one["sheet"], name, body, amount, currency, run, code, self.project, doubt
            )
        except OverBudget as over:
            raise NoMoney(
                f"one more take ({priced(amount, currency)}) would be over the project's budget of"
                f" {self.project:g}, of which {over.spent:g} has been spent"
            ) from None
        self._put(key, currency, max(amount, before))
        return attempt

    def settle(
        self, one: Mapping[str, Any], host: str, charged: float | None, priced_by: bool = True
    ) -> None:
        """Record what a take was charged (None: unknown, so the amount set aside stays).
        `priced_by`: the model that gives its price.
        """
        key, currency = (one["sheet"], f"{one['row']}.{one['number']}"), one["currency"]
        if charged is None:
            return
        if key in self._run:
            self._put(key, currency, charged)
        if charged > one["reserved"] + ROUNDING and priced_by:
            why = (
                f"it charged {priced(charged, currency)} for {key[1]} of the sheet {key[0]}, but at"
                f" most {priced(one['reserved'], currency)} had been set aside"
            )
            self.over.setdefault(host, why)
            self.halt(host, why)

    def _put(self, key: tuple[str, str], currency: str, amount: float) -> None:
        before = self._run.get(key, (currency, 0.0))[1]
        self._sum[currency] = self._sum.get(currency, 0.0) + amount - before
        self._run[key] = (currency, amount)


# ──── Results written: each whole, under a name of its own, never over another; and what of it is
# not what was asked for.


PATTERN = (  # where results lie, unless the workspace's settings say otherwise
    "results/{sheet}/{take}"
)
RESCUED = (  # where in the person's own folder a result lies that can't be written where it should
    "rescued"
)
RATIO_TOLERANCE = 0.02  # by how much a ratio may differ
_TYPES = {
    "png": PNG,
    "jpg": JPEG,
    "jpeg": JPEG,
    "webp": ".webp",
    "gif": ".gif",
    "mp4": ".mp4",
    "webm": ".webm",
}


class Strange(SyntagmaError):
    """A file that is not a whole picture, clip or sound."""


class Came(NamedTuple):
    """A file that arrived: its path from the workspace's folder, the hash of its content, and its
    kind.
    """

    path: str
    digest: str
    media: Media


class ResultFiles:
    """Writes results into a workspace's folder, named as its settings say."""

    def __init__(self, workspace: Workspace):
        self.workspace = workspace
        self.root = workspace.folder or Path.cwd()

    def written(
        self,
        client: Client,
        result: Result,
        one: Mapping[str, Any],
        name: str,
        row: SheetRow | None,
    ) -> Came:
        """Write one result. If a result that came inside the reply can't be written, it goes into
        the person's own folder, because it can't be downloaded again. Raises Unreadable, Strange,
        httpx.HTTPError, OSError.
        """
        parts = self._path(one, name, row)
        if not result.data:
            return self._placed(parts, lambda beside: client.fetch(result.address, beside)[1])
        data = decoded(result.data)
        try:
            return self._placed(parts, lambda beside: _put(beside, data))
        except OSError as error:
            rescued = (
                own_folder()
                / RESCUED
                / f"{one['sheet']}-{name}-{uuid4().hex[:8]}".replace("/", "-")
            )
            try:
                rescued.parent.mkdir(parents=True, exist_ok=True)
                rescued.write_bytes(data)
            except OSError:
                raise error from None
            raise Strange(
                f"it can't be written where it belongs ({error.strerror or error}); it was saved as"
                f" {rescued}"
            ) from None

    def _placed(self, parts: list[str], fill: Any) -> Came:
        folder = self.root.joinpath(*parts[:-1])
        _no_link(self.root, folder)
        make_folder(folder)
        beside = folder / f".{parts[-1][:80]}.{uuid4().hex[:8]}.part"
        try:
            kind = fill(beside)
            try:
                media = media_of(beside)
            except NotWhole as wrong:
                raise Strange(
                    f"{wrong}{f', though it is called {kind[:40]}' if kind else ''}"
                ) from None
            with open(beside, "rb+") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()[:32]
                os.fsync(file.fileno())
            target = _free(folder, parts[-1], media.ending, digest)
            os.replace(beside, target)
        finally:
            beside.unlink(missing_ok=True)
        return Came(target.relative_to(self.root).as_posix(), digest, media)

    def _path(self, one: Mapping[str, Any], name: str, row: SheetRow | None) -> list[str]:
        """Where to write a result: the parts of a path within the workspace, each a name that every
        system accepts; the last includes the take's own name.
        """
        values = {
            "sheet": one["sheet"],
            "take": name,
            "row": one["row"],
            "model": row.model if row else "",
            "clip": row.further.get("clip", "") if row else "",
        }
        pattern = str(self.workspace.settings.get("results") or PATTERN)
        said = re.sub(
            r"\{(\w+)\}",
            lambda match: _plain(values.get(match[1]) or "" if match[1] in values else match[1]),
            pattern,
        )
        parts = [
            _plain(part) for part in said.replace("\\", "/").split("/") if part.strip(". ")
        ] or [_plain(name)]
        return parts if "{take}" in pattern else [*parts[:-1], f"{parts[-1]}-{_plain(name)}"]


def _put(path: Path, data: bytes) -> str:
    path.write_bytes(data)
    return ""


def _free(folder: Path, stem: str, ending: str, digest: str) -> Path:
    """A name that no other file in the folder has; the same file keeps its name."""
    number = 1
    while True:
        target = folder / f"{stem}{f'-{number}' if number > 1 else ''}{ending}"
        if not os.path.lexists(target):
            return target
        if target.is_file() and not target.is_symlink():
            with open(target, "rb") as file:
                if hashlib.file_digest(file, "sha256").hexdigest()[:32] == digest:
                    return target
        number += 1


def _no_link(root: Path, folder: Path) -> None:
    """Raises Strange if the path of a folder follows a link out of the workspace."""
    at = root
    for part in folder.relative_to(root).parts:
        at = at / part
        if at.is_symlink():
            raise Strange(f"{at} is a link, and Syntagma does not write through links")


def _plain(name: str) -> str:
    """A name that every system accepts as one file's name."""
    return (
        "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in name).strip(
            "."
        )[:120]
        or "result"
    )


def asked_size(profile: Profile, row: SheetRow) -> tuple[tuple[int, int] | None, float | None]:
    """(Size in pixels, ratio) as asked for; None for what the prompt does not say."""
    asked = {own_name(profile, name) for name in row.parameters}
    values = {
        name: value
        for name, value in settle(profile, {}, row.parameters).values.items()
        if name in asked
    }
    number = {
        name: int(value)
        for name in ("width", "height")
        if isinstance(value := values.get(name), int | float) and not isinstance(value, bool)
    }
    size = (number["width"], number["height"]) if len(number) == 2 else None
    ratio = str(values.get("ratio", ""))
    size = size or profile.sizes.get(ratio)
    sides = (
        [float(side) for side in ratio.split(":") if re.fullmatch(r"\d+(\.\d+)?", side)]
        if ratio.count(":") == 1
        else []
    )
    return size, (
        sides[0] / sides[1]
        if len(sides) == 2 and all(sides)
        else size[0] / size[1]
        if size
        else None
    )


def remarks(profile: Profile, row: SheetRow, files: Iterable[Came]) -> str:
    """How the files differ from what was asked for: a clip instead of a picture, another size,
    ratio or type; "" if they don't.
    """
    found: list[str] = []
    size, ratio = asked_size(profile, row)
    wanted = next(
        (
            _TYPES[text]
            for name in ("format", "type", "kind")
            if (text := str(row.parameters.get(name, "")).lower()) in _TYPES
        ),
        "",
    )
    for _, _, media in files:
        if profile.makes == "image" and media.ending in CLIPS:
            found.append("the service sent a clip instead of a picture")
        elif (
            profile.makes == "video"
            and media.ending in PICTURES
            and not (media.moving or media.ending in (".gif", ".webp"))
        ):
            found.append("the service sent a picture instead of a clip")
        if wanted and media.ending != wanted:
            found.append(f"{media.ending[1:].upper()} came instead of {wanted[1:].upper()}")
        if (
            media.size
            and ratio
            and abs(media.size[0] / max(1, media.size[1]) / ratio - 1) > RATIO_TOLERANCE
        ):
            found.append(
                f"it is {media.size[0]} × {media.size[1]}, and"
                f" {row.parameters.get('ratio') or f'{size[0]} × {size[1]}' if size else row.parameters.get('ratio')}"  # noqa: E501
                " was asked for"
            )
        elif (
            media.size
            and size
            and media.size != size
            and {"width", "height"} <= row.parameters.keys()
        ):
            found.append(
                f"it is {media.size[0]} × {media.size[1]}, but {size[0]} × {size[1]} was asked for"
            )
    return "; ".join(dict.fromkeys(found))


# ──── What came of requests and tasks put into the ledger: what sending, collecting and settling
# doubts have in common.
#
# Nothing that may have been paid for is given up: what can't be obtained now is asked for again, at
# any later time. A take is done only when its file is there,
# whole, and its own.


# looks without an answer after which a take is said to be stuck; it is asked for all the same
STUCK = 8
SLOWEST = 60.0  # seconds between two looks at one that is stuck
# seconds without an answer after which nobody knows any more whether there will be one
FORGOTTEN = 86_400.0
BAD = (
    httpx.HTTPError,
    httpx.InvalidURL,
    httpx.StreamError,
    Unreadable,
    Strange,
    OSError,
    ValueError,
)
_WHEN = (SENT, UNCLEAR, SENDING)
_SECOND = "; last try: "  # between why a take is unclear and what the last try gave


class TaskOutcome(NamedTuple):
    """What one look at a task found: the service's report, the files written, the error if there
    was one; `busy`: another call is working on it.
    """

    told: Told | None = None
    files: tuple[Came, ...] = ()
    error: Exception | None = None
    forgotten: bool = False
    busy: bool = False


class Settler:
    """Talks to the services of a ledger's models and records the outcome. `clock` gives seconds
    since 1970; `at` is the address of the stand-in.
    """

    def __init__(
        self,
        workspace: Workspace,
        ledger: Ledger,
        at: str = "",
        clock: Callable[[], float] = time.time,
    ):
        self.workspace, self.ledger, self.at, self.clock = workspace, ledger, at, clock
        self._clients: dict[str, Client] = {}
        self.told: list[str] = []
        self.remarked: dict[
            str, list[str]
        ] = {}  # what is said of results, each with the takes of which it is
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
        """Report a message once."""
        if line not in self.told:
            self.told.append(line)

    def reference(self, attempt: str) -> str:
        """Our own name for an attempt, as the service gets it: ledger, sheet, take and attempt."""
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
        each = [
            f"{', '.join(takes[:4])}{f' and {len(takes) - 4} more' if len(takes) > 4 else ''}:"
            f" {what}"
            for what, takes in self.remarked.items()
        ]
        return (*self.told, *each)

    # What came of a task

    def fetched(self, client: Client, one: Mapping[str, Any], told: Told) -> TaskOutcome:
        """Download what a task made, and write it."""
        files: list[Came] = []
        for number, result in enumerate(told.results, 1):
            name = take_of(one) if len(told.results) == 1 else f"{take_of(one)}-{number}"
            try:
                files.append(
                    self.files.written(
                        client, result, one, name, self._rows.get((one["sheet"], one["row"]))
                    )
                )
            except BAD as error:
                return TaskOutcome(told, (), error)
        return TaskOutcome(told, tuple(files))

    def change(self, one: Mapping[str, Any], happened: str = "", /, **values: Any) -> bool:
        return self.ledger.set_take(one["sheet"], take_of(one), happened, _WHEN, **values)

    def charge(self, one: Mapping[str, Any], charged: float | None) -> None:
        """Record what a service charged; if that is too much, it gets no more requests."""
        client = self.client(one["model"])
        self.purse.settle(one, client.host, charged, self.profile(one).price is not None)
        if why := self.purse.over.get(client.host):
            self.say(
                f"{client.host} is halted: {why}; nothing more will be sent there until you check"
                f" it (then: syntagma service resume {client.host})"
            )

    def profile(self, one: Mapping[str, Any]) -> Profile:
        return self.workspace.model(one["model"])

    def again(self, one: Mapping[str, Any], why: str, /, **values: Any) -> None:
        """Ask again for something that can't be downloaded now: soon, then less often; after a day
        only if a person wants it.
        """
        tries, since = one["tries"] + 1, one["since"] or self.clock()
        wait = min(SLOWEST, self.client(one["model"]).service.every * 1.5 ** min(tries, 20))
        values = {
            "tries": tries,
            "since": since,
            "next_at": self.clock() + wait,
            "why": why,
            **values,
        }
        if one["state"] == SENT and self.clock() - since > FORGOTTEN:
            self.change(one, f"unclear: {why}", state=UNCLEAR, **values)
            return
        self.change(one, f"{why}: it is asked for again" if tries in (1, STUCK) else "", **values)

    def put(self, one: Mapping[str, Any], seen: TaskOutcome) -> None:
        """Record a finished task: its files, or why they can't be written."""
        told = seen.told or Told()
        sheet, take = one["sheet"], take_of(one)
        expires = min((result.expires for result in told.results if result.expires), default=0.0)
        self.charge(one, told.charged)
        if not told.results:
            self.again(
                one, "the service reports it as done but gives no result", **charged_of(told)
            )
        elif seen.error is not None:
            self._not_fetched(one, seen.error, expires, told)
        elif other := self._anothers(one, seen.files):
            why = (
                f"the result is identical, byte for byte, to that of {other}, a different prompt:"
                f" {seen.files[0].path}"
            )
            self.change(
                one,
                f"unclear: {why}",
                state=UNCLEAR,
                why=why,
                file="; ".join(came.path for came in seen.files),
                next_at=self.clock() + FORGOTTEN,
                expires=expires,
                **charged_of(told),
            )
            self.say(
                f"{take}: {why}; accept it (syntagma sheet settle {sheet} {take} --accept), or give"
                " it up (--lost)"
            )
        else:
            terms = self.profile(one).terms
            read = (
                f"; results: commercial {terms.commercial}, training"
                f" {terms.training}{f', read {terms.read}' if terms.read else ''}"
            )
            row, files = self.row(one), "; ".join(came.path for came in seen.files)
            noted = remarks(self.profile(one), row, seen.files) if row else ""
            if noted:
                self.remarked.setdefault(noted, []).append(take)
            self.change(
                one,
                f"done: {files}{f'; {noted}' if noted else ''}{read}",
                state=DONE,
                file=files,
                why=noted,
                expires=expires,
                digest=seen.files[0].digest,
                tries=0,
                since=0.0,
                **charged_of(told),
            )

    def _anothers(self, one: Mapping[str, Any], files: Iterable[Came]) -> str:
        """The take of another request to the same service that got the same file; "" if there is
        none.
        """
        row = self.row(one)
        for came in files:
            for sheet, take, model in self.ledger.bearing("digest", came.digest):
                other = self.ledger.row(sheet, TakeId.read(take).row)
                if (
                    row
                    and other
                    and (sheet, take) != (one["sheet"], take_of(one))
                    and model == one["model"]
                    and other.request != row.request
                ):
                    return take if sheet == one["sheet"] else f"{take} of the sheet {sheet}"
        return ""

    def _not_fetched(
        self, one: Mapping[str, Any], error: Exception, expires: float, told: Told
    ) -> None:
        """Handle a result that can't be downloaded: ask for its address again, or send the request
        again under its key.
        """
        why = said_of(error)
        charged = {"expires": expires, **charged_of(told)}
        if one["task"]:
            if isinstance(error, Gone) and expires and self.clock() - expires > FORGOTTEN:
                self.change(
                    one,
                    f"expired: {why}",
                    state=EXPIRED,
                    why=(
                        f"{why}; syntagma collect {one['sheet']} --retry {take_of(one)} asks once"
                        " more"
                    ),
                    **charged,
                )
            else:
                self.again(one, f"it can't be downloaded: {why}", **charged)
            return
        why = (  # without a task number only its key, or a person, can settle it
            f"it was made, but the result can't be saved: {why}"
        )
        self.change(
            one,
            f"unclear: {why}",
            state=UNCLEAR,
            why=why,
            next_at=self.clock() + self.client(one["model"]).service.every,
            **charged,
        )
        self.say(f"{take_of(one)}: {why}")

    def finish(self, one: Mapping[str, Any], told: Told) -> None:
        """Download and write the result of a task that is done at once, and record it."""
        self.row(one)
        self.put(one, self.fetched(self.client(one["model"]), one, told))

    # What came of a request

    def settle(
        self, one: Mapping[str, Any], attempt: str, outcome: Outcome, doubt: bool = False
    ) -> str:
        """Record the outcome of an attempt in the ledger; return the take's state. `doubt`: it was
        sent before and may have been charged, so only the service's word that it has it settles the
        take.
        """
        sheet = one["sheet"]
        outcome = self._own(one, outcome)
        charged = outcome.told.charged
        if outcome.kind == "done":
            self.ledger.end(
                sheet, attempt, "sent", SENT, outcome.task, outcome.status, charged=charged
            )
            self.finish({**one, "state": SENT, "task": outcome.task}, outcome.told)
            return DONE
        if outcome.kind == "sent":
            self.charge(one, charged)
            self.ledger.end(
                sheet, attempt, "sent", SENT, outcome.task, outcome.status, charged=charged
            )
            return SENT
        next_at = self.clock() + outcome.later if outcome.later else 0.0
        if (
            outcome.kind in ("failed", "refused") and not outcome.sure
        ):  # a task that ended at once: it was taken
            self.charge(one, charged)
            state = FAILED if outcome.kind == "failed" else REFUSED
            self.ledger.end(
                sheet,
                attempt,
                outcome.kind,
                state,
                outcome.task,
                outcome.status,
                outcome.why or f"the service says: {outcome.told.word}",
                0.0,
                charged,
            )
        elif doubt or not outcome.sure:
            state, why = UNCLEAR, outcome.why
            if doubt:
                first = one["why"].partition(_SECOND)[0]
                why = f"{first}{_SECOND}{outcome.why}" if first else outcome.why
            self.charge(one, charged)
            self.ledger.end(
                sheet,
                attempt,
                "unclear",
                UNCLEAR,
                outcome.task,
                outcome.status,
                why,
                next_at or self.clock() + self.client(one["model"]).service.every,
                charged,
            )
        elif outcome.kind == "refused":
            state = REFUSED
            self.ledger.end(
                sheet,
                attempt,
                "refused",
                REFUSED,
                "",
                outcome.status,
                outcome.why,
                0.0,
                charged or 0.0,
            )
        else:
            state = QUEUED
            self.ledger.end(
                sheet, attempt, outcome.kind, QUEUED, "", outcome.status, outcome.why, next_at
            )
        return state

    def _own(self, one: Mapping[str, Any], outcome: Outcome) -> Outcome:
        """The outcome, unless it names a task that belongs to another take: then it is unclear
        whose it is.
        """
        if outcome.task:
            host = self.client(one["model"]).host
            for sheet, take, model in self.ledger.bearing("task", outcome.task):
                if (sheet, take) != (one["sheet"], take_of(one)) and self.client(
                    model
                ).host == host:
                    return Outcome(
                        "unclear",
                        f"the service gave it the task {outcome.task}, which belongs to {take}",
                        "",
                        Told(charged=outcome.told.charged),
                        outcome.status,
                    )
        return outcome


def take_of(one: Mapping[str, Any]) -> str:
    """A take's name: r1a2b3c4d5.2."""
    return f"{one['row']}.{one['number']}"


def charged_of(told: Told) -> dict[str, float]:
    """The change to the ledger for a charge; empty if the charge is unknown."""
    return {} if told.charged is None else {"charged": told.charged}


def said_of(error: Exception | None) -> str:
    """What went wrong, with addresses left out."""
    if isinstance(error, Mistaken):
        return f"{error}, so the reply is ignored"
    if isinstance(error, Unreadable | Strange):
        return str(error)
    if isinstance(error, httpx.HTTPError):
        return "the connection broke"
    return (
        f"it can't be written ({error.strerror or error})"
        if isinstance(error, OSError)
        else "its reply can't be read"
    )
