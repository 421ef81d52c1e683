"""Other picks in the place of a row's: what was picked for it is picked again, everything else
stays.
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
    """Rows of records, each with an id that none of `taken` has; what stays of a film that was sent
    (kept) is not a row. Raises Trouble.
    """
    wanted = [record for record in records if not (record.film and record.film.pinned)]
    rows = [row_of(workspace, record) for record in wanted]
    return [
        row._replace(id=name)
        for row, name in zip(rows, row_ids(map(content_of, rows), taken), strict=True)
    ]


def row_of(workspace: Workspace, record: Record, name: str = "", fresh: bool = False) -> SheetRow:
    """A row of a record; its request and price are made of its text, for the current profile of the
    model; `fresh`: its findings too, since its words are not those of the record any more. Raises
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
    """The findings on a request that a record brings along, and that is not the one that its text
    makes: the text is what is approved and sent.
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
    """The row with as many takes as its family asks results of a prompt."""
    takes = record.design.takes if record.design else None
    return row._replace(takes=takes) if takes is not None and 1 <= takes <= MOST_TAKES else row


def quoted(profile: Profile, parameters: Mapping[str, object], text: str) -> float | None:
    """What one take costs, tax and all; None if the profile has no price."""
    amount = cost(profile, settle(profile, {}, parameters).values, text)
    return None if amount is None else amount * (1 + (profile.price.tax if profile.price else 0.0))


def worst_price(workspace: Workspace, row: SheetRow) -> float | None:
    """The most that one take of a row can cost as profiles stand now, tax and all; None if its
    model says no price. A profile of the workspace may have come from anybody: where it speaks to
    the service of a profile that it builds on, the dearer of the two prices counts.
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
    """What a row depends on, in short."""
    return content_hash(row.model, row.text, row.negative, row.parameters, row.references)


def hash_of(profile: Profile) -> str:
    """A model's profile as it is, in short: what an approval binds to."""
    made = plain(profile)
    made.pop("counters")
    return profile_hash(made)


def one_change_at_a_time(records: Sequence[Record]) -> bool:
    """Are these the prompts of a family of several axes, each of which changes one thing only?"""
    changes = [record.design.changes for record in records if record.design]
    return (
        len(changes) == len(records)
        and all(len(own) < 2 for own in changes)
        and len({axis for own in changes for axis in own}) > 1
    )


def _further(record: Record, film: FilmPlace) -> dict[str, str]:
    """The further columns: what a table of rows had besides, the clip of a film, what differs in a
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
