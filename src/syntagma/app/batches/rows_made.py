"""Records made into the rows of a sheet: each with its request, its price with tax, its findings,
its id.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from syntagma.app.existing.checks import finished_of, not_sent, request_for
from syntagma.app.prompt_files import Source
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.prompt_lint import findings
from syntagma.core.diagnostics import WARNING
from syntagma.core.models.parameters import settle
from syntagma.core.models.prices import cost
from syntagma.core.models.profile import Profile
from syntagma.core.notation.structure import plain
from syntagma.core.records import FilmPlace, Record, joined
from syntagma.core.sheets import MOST_TAKES, SheetRow, content_hash, profile_hash, row_ids

# ──── Records made into the rows of a sheet: each with its request, its price with tax, its
# findings, its id.


def rows_of(
    workspace: Workspace, records: Sequence[Record], taken: Sequence[str] = ()
) -> list[SheetRow]:
    """Rows made from records, each with an id that is not in `taken`; clips of a film that were
    sent and kept make no row. Raises Trouble.
    """
    wanted = [record for record in records if not (record.film and record.film.pinned)]
    rows = [row_of(workspace, record) for record in wanted]
    return [
        row._replace(id=name)
        for row, name in zip(rows, row_ids(map(content_of, rows), taken), strict=True)
    ]


def row_of(workspace: Workspace, record: Record, name: str = "", fresh: bool = False) -> SheetRow:
    """A row made from a record. Its request and price come from its text and the model's current
    profile; `fresh`: its findings too, because its text is not the record's any more. Raises
    Trouble.
    """
    model = record.model or str(workspace.settings.get("model", ""))
    prompt = finished_of(record)
    profile = workspace.model(model) if model in workspace.models() else None
    film = record.film or FilmPlace()
    row = SheetRow(
        name,
        model,
        prompt.text,
        prompt.negative,
        dict(prompt.parameters),
        record.references,
        findings=record.findings,
        needs=film.needs,
        further=_further(record, film),
        record=record,
        held=film.held,
        currency=profile.price.currency if profile and profile.price else "",
    )
    if profile is None:
        return _drawn(row, record)
    source = Source(1, prompt.text, "", record)
    request = request_for(workspace, source, model)
    row = _drawn(row, record)._replace(request=request)
    amount = worst_price(workspace, row)
    found = (
        [one.record() for one in findings(profile, prompt, workspace.known)]
        if fresh
        else list(row.findings)
    )
    lost = not_sent(workspace, source, model)
    found += (
        [lost.record()] if lost and not any(one.get("code") == lost.code for one in found) else []
    )
    found += _other_request(record.request, request) if not fresh else []
    return row._replace(cost=None if amount is None else round(amount, 6), findings=found)


def _other_request(
    brought: Mapping[str, Any] | None, made: Mapping[str, Any]
) -> list[dict[str, str]]:
    """Findings on a request that a record includes and that differs from the one made from its
    text: the text is what is approved and sent.
    """
    if brought is None or brought == made:
        return []
    what = "the record has a request that differs from its text; the text will be sent"
    return [
        {
            "kind": WARNING,
            "code": "other-request",
            "message": what,
            "remedy": "if you meant the request, write the record again",
            "at": "request",
        }
    ]


def _drawn(row: SheetRow, record: Record) -> SheetRow:
    """The row with as many takes as its family wants of a prompt."""
    takes = record.design.takes if record.design else None
    return row._replace(takes=takes) if takes is not None and 1 <= takes <= MOST_TAKES else row


def quoted(profile: Profile, parameters: Mapping[str, object], text: str) -> float | None:
    """What one take costs with tax; None if the profile has no price."""
    amount = cost(profile, settle(profile, {}, parameters).values, text)
    return None if amount is None else amount * (1 + (profile.price.tax if profile.price else 0.0))


def worst_price(workspace: Workspace, row: SheetRow) -> float | None:
    """The most that one take of a row can cost with today's profiles and tax; None if its model has
    no price. A workspace's profile may come from anybody, so if it uses the service of the profile
    that it builds on, the higher of the two prices counts.
    """
    profile = workspace.model(row.model)
    amount = quoted(profile, row.parameters, row.text)
    layers = [layer for layer, _ in workspace.models().get(row.model, ())]
    if amount is None or layers[-1:] != ["workspace"] or profile.service is None:
        return amount
    below, seen = profile, {row.model}
    while below.base and below.base not in seen and below.base in workspace.models():
        seen.add(below.base)
        below = workspace.model(below.base)
        if below.service and below.service.address == profile.service.address:
            amount = max(amount, quoted(below, row.parameters, row.text) or 0.0)
    return amount


def content_of(row: SheetRow) -> str:
    """The hash of everything that a row depends on."""
    return content_hash(row.model, row.text, row.negative, row.parameters, row.references)


def hash_of(profile: Profile) -> str:
    """The hash of a model's profile, which an approval includes."""
    made = plain(profile)
    made.pop("counters")
    return profile_hash(made)


def one_change_at_a_time(records: Sequence[Record]) -> bool:
    """Whether these prompts are a family of several axes in which each prompt changes one thing
    only.
    """
    changes = [record.design.changes for record in records if record.design]
    return (
        len(changes) == len(records)
        and all(len(own) < 2 for own in changes)
        and len({axis for own in changes for axis in own}) > 1
    )


def _further(record: Record, film: FilmPlace) -> dict[str, str]:
    """The further columns: other columns of the rows' table, the clip of a film, what differs in a
    family.
    """
    found = record.row
    if record.design and "changes" in (record["design"] or {}):
        found.setdefault(
            "changes",
            "; ".join(
                f"{slot}: {joined(here)}" for slot, (_, here) in record.design.changes.items()
            ),
        )
    return {"clip": film.name, **found} if film.name else found
