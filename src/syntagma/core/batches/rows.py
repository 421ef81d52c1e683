"""The rows of a sheet: what a row depends on, its id, what approval binds to, and what its takes come to.

A row is one prompt; a take is a result that is wanted of it; an attempt is a request that went out for a take. Ids begin with a letter, since a
spreadsheet makes a number of 00e12.
"""

from collections.abc import Iterable, Mapping, Sequence
from hashlib import blake2b
from typing import Any, NamedTuple

from syntagma.core.models.request_shape import as_json

OPEN, APPROVED, REMOVED = "open", "approved", "removed"
PERSONS = (OPEN, APPROVED, REMOVED)  # what a person sets
QUEUED, SENDING, SENT, WAITING, DONE = "queued", "sending", "sent", "waiting", "done"
REFUSED, FAILED, UNCLEAR, CANCELLED, EXPIRED = "refused", "failed", "unclear", "cancelled", "expired"
TAKE_STATES = (QUEUED, SENDING, SENT, WAITING, DONE, REFUSED, FAILED, UNCLEAR, CANCELLED, EXPIRED)
ENDED = (DONE, REFUSED, FAILED, CANCELLED, EXPIRED)
MOST_TAKES = 50


class SheetRow(NamedTuple):
    """One row. `record` is what it was made of, whole; `request` what its service is sent; `cost` what one take of it is quoted at, tax and
    all; `needs` are the rows whose chosen result it waits for, by the names that its references stand for."""

    id: str
    model: str
    text: str
    negative: str = ""
    parameters: Mapping[str, Any] = {}
    references: Sequence[Mapping[str, Any]] = ()
    request: Mapping[str, Any] = {}
    cost: float | None = None
    currency: str = ""
    takes: int = 1
    status: str = OPEN
    note: str = ""
    findings: Sequence[Mapping[str, str]] = ()
    needs: Sequence[Mapping[str, str]] = ()
    further: Mapping[str, str] = {}
    record: Mapping[str, Any] = {}
    held: str = ""
    approval: str = ""
    approved_by: str = ""
    approved_at: str = ""


def content_hash(model: str, text: str, negative: str, parameters: Mapping[str, Any], references: Iterable[Mapping[str, Any]]) -> str:
    """What a row depends on, in 12 hexadecimal digits: model, words, parameters, references."""
    return _hash(model, text, negative, dict(sorted(parameters.items())), list(references))


def row_ids(hashes: Iterable[str], taken: Iterable[str] = ()) -> list[str]:
    """An id for each row: the same content gives the same letters, and each row of it one of its own."""
    seen, found = set(taken), []
    for one in hashes:
        name, number = f"r{one[:9]}", 1
        while (name if number == 1 else f"{name}-{number}") in seen:
            number += 1
        found.append(name if number == 1 else f"{name}-{number}")
        seen.add(found[-1])
    return found


def approval_hash(row: SheetRow, profile: str, files: Sequence[tuple[str, str]] = ()) -> str:
    """What an approval binds to: the request as it was seen, its references and what is in the `files` that go along, the model's profile, the quoted price, how
    many takes."""
    bound = (row.model, row.text, row.negative, row.request, [dict(r) for r in row.references], profile, row.cost, row.currency, row.takes)
    return _hash(*bound, *([list(files)] if files else []))


def profile_hash(values: object) -> str:
    """A model's profile in 12 hexadecimal digits."""
    return _hash(values)


def _hash(*parts: object) -> str:
    return blake2b(as_json({"parts": parts}).encode("utf-8", "surrogatepass"), digest_size=6).hexdigest()


class TakeState(NamedTuple):
    """A take as the ledger knows it."""

    row: str
    number: int
    state: str = QUEUED
    task: str = ""
    charged: float | None = None
    reserved: float = 0.0
    file: str = ""
    why: str = ""
    chosen: bool = False
    progress: float | None = None

    @property
    def id(self) -> str:
        """The take as it is called: r1a2b3c4d5.2."""
        return f"{self.row}.{self.number}"

    @property
    def spent(self) -> float:
        """What it has cost, or may have: what was charged, else, once it may have gone out, what was set aside."""
        return self.charged if self.charged is not None else 0.0 if self.state in (QUEUED, WAITING) else self.reserved


def status_of(row: SheetRow, takes: Sequence[TakeState]) -> str:
    """What is in the column status: what a person set, until it is sent; then what its takes come to, the least finished first."""
    if not takes:
        return row.status
    states = [take.state for take in takes]
    for state in (UNCLEAR, SENDING, SENT, WAITING, QUEUED):
        if state in states:
            return state
    return DONE if DONE in states else states[0]
