"""Records made into the rows of a sheet: each with its request, its price with tax, its findings, its id."""

from collections.abc import Mapping, Sequence
from typing import Any

from syntagma.app.existing.checks import finished_of, request_for
from syntagma.app.existing.prompt_files import Source
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.batches.rows import MOST_TAKES, SheetRow, content_hash, profile_hash, row_ids
from syntagma.core.checking.prompt_lint import findings
from syntagma.core.models.parameters import settle
from syntagma.core.models.prices import cost
from syntagma.core.models.profile import Profile
from syntagma.core.notation.structure import plain


def rows_of(workspace: Workspace, records: Sequence[Mapping[str, Any]], taken: Sequence[str] = ()) -> list[SheetRow]:
    """Rows of records, each with an id that none of `taken` has; what stays of a film that was sent (kept) is no row. Raises Trouble."""
    wanted = [record for record in records if not (isinstance(record.get("film"), dict) and record["film"].get("kept"))]
    rows = [row_of(workspace, record) for record in wanted]
    return [row._replace(id=name) for row, name in zip(rows, row_ids(map(content_of, rows), taken), strict=True)]


def row_of(workspace: Workspace, record: Mapping[str, Any], name: str = "", fresh: bool = False) -> SheetRow:
    """A row of a record; `fresh`: its request, price and findings are made anew, since its words are not those of the record any more. Raises
    Trouble."""
    model = str(record.get("model") or workspace.settings.get("model", ""))
    prompt = finished_of(record)
    profile = workspace.model(model) if model in workspace.models() else None
    film = record["film"] if isinstance(record.get("film"), dict) else {}
    row = SheetRow(
        name, model, prompt.text, prompt.negative, dict(prompt.parameters), _tables(record.get("references")), findings=_tables(record.get("findings")), needs=_tables(film.get("needs")),
        further=_further(record, film), record=dict(record), held=str(film.get("held", "")), currency=profile.price.currency if profile and profile.price else "",
    )  # fmt: skip
    if profile is None:
        return _drawn(row, record)
    request, price = record.get("request"), record.get("cost")
    if fresh or not isinstance(request, dict):
        request = request_for(workspace, Source(1, prompt.text, "", record), model)
    known = not fresh and isinstance(price, int | float) and not isinstance(price, bool)
    amount = float(price) * (1 + profile.price.tax) if known and profile.price else quoted(profile, prompt.parameters, prompt.text)
    found = [one.record() for one in findings(profile, prompt, workspace.known)] if fresh else row.findings
    return _drawn(row, record)._replace(request=request, cost=None if amount is None else round(amount, 6), findings=found)


def _drawn(row: SheetRow, record: Mapping[str, Any]) -> SheetRow:
    """The row with as many takes as its family asks results of a prompt."""
    design = record.get("design")
    draws = design.get("draws") if isinstance(design, dict) else None
    return row._replace(takes=draws) if isinstance(draws, int) and 1 <= draws <= MOST_TAKES else row


def quoted(profile: Profile, parameters: Mapping[str, object], text: str) -> float | None:
    """What one take costs, tax and all; None where the profile has no price."""
    amount = cost(profile, settle(profile, {}, parameters).values, text)
    return None if amount is None else amount * (1 + (profile.price.tax if profile.price else 0.0))


def content_of(row: SheetRow) -> str:
    """What a row depends on, in short."""
    return content_hash(row.model, row.text, row.negative, row.parameters, row.references)


def hash_of(profile: Profile) -> str:
    """A model's profile as it stands, in short: what an approval binds to."""
    made = plain(profile)
    made.pop("counters")
    return profile_hash(made)


def _tables(value: object) -> list[dict[str, Any]]:
    return [dict(one) for one in value if isinstance(one, dict)] if isinstance(value, list) else []


def _further(record: Mapping[str, Any], film: Mapping[str, Any]) -> dict[str, str]:
    """The further columns: what a table of rows had besides, the clip of a film, what differs in a family."""
    found = {str(key): str(cell) for key, cell in record["row"].items()} if isinstance(record.get("row"), dict) else {}
    design = record.get("design")
    changes = design.get("changes") if isinstance(design, dict) else None
    if isinstance(changes, dict):
        found.setdefault("changes", "; ".join(f"{slot}: {pair[1]}" for slot, pair in changes.items() if isinstance(pair, list) and len(pair) == 2))
    return {"clip": str(film["name"]), **found} if film.get("name") else found
