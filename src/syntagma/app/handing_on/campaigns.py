"""A campaign's plan: what serves a business, with reasons and costs, as a table that its owner
approves, changes, removes; kept when the plan is made again.
"""

import csv
import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.batches.rows_made import quoted
from syntagma.app.workspace.html_pages import read_table
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.campaign import (
    Business,
    Piece,
    PieceKind,
    Placement,
    planned,
    read_business,
    read_kinds,
)
from syntagma.core.diagnostics import NoFile, Refused, Trouble, perhaps
from syntagma.core.models.prices import priced
from syntagma.core.models.profile import Profile
from syntagma.core.notation.toml import pair
from syntagma.formats.table_in import HarmlessCells
from syntagma.storage.files import read_text, whole_file, within, write_new
from syntagma.storage.folders import SHIPPED

BUSINESS, PLAN, KINDS = ".campaign.toml", ".plan.csv", "campaign.toml"
OPEN, APPROVED, REMOVED, LATER = "open", "approved", "removed", "later"
STATUSES = (OPEN, APPROVED, REMOVED, LATER)
COLUMNS = (
    "piece",
    "status",
    "priority",
    "what",
    "place",
    "pictures",
    "cost",
    "why",
    "formula",
    "model",
    "ratio",
    "size",
    "seconds",
    "note",
)
PERSONS = ("status", "pictures", "note")  # columns that stay as a person left them


class PieceRow(NamedTuple):
    """One piece of the plan with what it costs: its model, shape and size, and what a person said
    of it.
    """

    piece: Piece
    place: Placement
    model: str
    others: tuple[str, ...]
    ratio: str
    pictures: int
    cost: float | None
    currency: str
    status: str
    note: str

    def cells(self) -> dict[str, str]:
        """The row as the table has it."""
        money = "" if self.cost is None else priced(round(self.cost, 2), self.currency)
        return {
            "piece": self.piece.id,
            "status": self.status,
            "priority": str(self.piece.priority),
            "what": self.piece.title,
            "place": self.place.name,
            "pictures": str(self.pictures),
            "cost": money,
            "why": self.piece.why,
            "formula": self.piece.formula,
            "model": self.model,
            "ratio": self.ratio,
            "size": self.place.size,
            "seconds": str(self.place.seconds or ""),
            "note": self.note,
        }

    def record(self) -> dict[str, Any]:
        """The row as JSON has it."""
        found: dict[str, Any] = {
            "piece": self.piece.id,
            "status": self.status,
            "priority": self.piece.priority,
            "what": self.piece.title,
            "place": self.place.name,
            "pictures": self.pictures,
            "why": self.piece.why,
            "formula": self.piece.formula,
            "model": self.model,
            "ratio": self.ratio,
            "size": self.place.size,
            "seconds": self.place.seconds,
            "note": self.note,
        }
        cost = (
            {}
            if self.cost is None
            else {"cost": {"amount": round(self.cost, 6), "currency": self.currency}}
        )
        return {key: value for key, value in found.items() if value} | cost


class Campaign(NamedTuple):
    """A business with its plan: the rows, and the kinds of piece that were not planned, each with
    what is missing.
    """

    name: str
    folder: Path
    business: Business
    kinds: Mapping[str, PieceKind]
    rows: list[PieceRow]
    missing: Mapping[str, str]

    @property
    def plan(self) -> Path:
        return self.folder / f"{self.name}{PLAN}"


def new_campaign(name: str, answers: Mapping[str, str]) -> Path:
    """Write the file that describes a business, to be filled in; with what was answered already.
    Raises Trouble.
    """
    try:
        path = within(Path(), name if name.endswith(BUSINESS) else f"{name}{BUSINESS}")
    except Trouble:
        raise Trouble(
            f"“{name}” is not a name for a campaign: its file would be outside this folder",
            "write a plain name: syntagma campaign new ferries",
            2,
        ) from None
    if path.exists():
        raise Trouble(
            f"{path} exists already",
            f"edit it in any editor, then: syntagma campaign plan {name}",
            2,
        )
    text = read_text(SHIPPED / "briefs" / "campaign.toml", "what a business is asked")
    for key, said in answers.items():
        line = pair(key, said)
        text = re.sub(
            rf'^(?:# )?{key} = ".*"', lambda m, line=line: line, text, count=1, flags=re.M
        )
    write_new(path, text)
    return path


def kinds_of(workspace: Workspace) -> dict[str, PieceKind]:
    """The kinds of piece: those that ship, the person's own and the workspace's over them. Raises
    Trouble.
    """
    found = {}
    for layer in workspace.layers:
        path = layer.path / KINDS
        if path.is_file():
            try:
                found |= read_kinds(read_text(path, "kinds of piece"))
            except (ValueError, KeyError, TypeError, AttributeError) as wrong:
                raise Trouble(
                    f"{workspace.shown(path)} can't be read ({wrong})",
                    "a kind has the keys per, at, formula, fills and why (syntagma help campaigns)",
                    1,
                ) from None
    return found


def campaigns_in(folder: Path) -> list[str]:
    """The names of the campaigns whose businesses are described in a folder."""
    return [path.name.removesuffix(BUSINESS) for path in sorted(folder.glob(f"*{BUSINESS}"))]


def campaign(workspace: Workspace, name: str) -> Campaign:
    """The campaign of a business by its name or file, planned; what a person said of its pieces
    stays. Raises Trouble or Refused.
    """
    path = Path(name) if name.endswith(".toml") else Path(f"{name}{BUSINESS}")
    if not path.is_file():
        raise Trouble(
            f"no campaign is called “{name}” here",
            perhaps(
                name,
                campaigns_in(Path()),
                f"start it: syntagma campaign new {Path(name).name.removesuffix(BUSINESS)}",
            ),
            2,
        )
    business = read_business(read_text(path, "a business"), str(path))
    kinds = kinds_of(workspace)
    plan = planned(business, kinds)
    own = path.name.removesuffix(".toml").removesuffix(".campaign")
    before = _said(path.parent / f"{own}{PLAN}")
    rows = _within(
        [_row(workspace, business, piece, before.get(piece.id, {})) for piece in plan.pieces],
        business.budget,
        before,
    )
    return Campaign(own, path.parent, business, kinds, rows, plan.missing)


def _said(path: Path) -> dict[str, dict[str, str]]:
    """What a person said of pieces, by their ids. Raises Trouble or Refused."""
    if not path.is_file():
        return {}
    columns, rows, mistakes = read_table(str(path))
    if mistakes:
        raise Refused(mistakes)
    if "piece" not in columns or "status" not in columns:
        raise Trouble(
            f"{path} has no columns piece and status",
            "put them back, or delete the file to make the plan again",
            1,
        )
    found = {}
    for row in rows:
        status = row.cells.get("status", "").strip().lower() or OPEN
        if status not in STATUSES:
            raise Trouble(
                f"{path}:{row.line}: “{status}” is not a status",
                perhaps(status, STATUSES, f"write {', '.join(STATUSES)}"),
                1,
            )
        found[row.cells["piece"]] = {**row.cells, "status": status}
    return found


def _row(
    workspace: Workspace, business: Business, piece: Piece, said: Mapping[str, str]
) -> PieceRow:
    place = next(one for one in business.place if one.name == piece.place)
    media = workspace.formula(piece.formula)[0].head.media or "image"
    models = models_for(workspace, business, media)
    profile = workspace.model(models[0]) if models else None
    ratio = shape_of(place)
    made = nearest_ratio(profile, ratio) if profile else ratio
    number = said.get("pictures", "").strip()
    count = int(number) if re.fullmatch(r"[1-9]\d{0,3}", number) else piece.pictures
    each = quoted(profile, parameters_of(profile, place, made), "") if profile else None
    return PieceRow(
        piece,
        place,
        models[0] if models else "",
        tuple(models[1:]),
        made,
        count,
        None if each is None else each * count,
        profile.price.currency if profile and profile.price else "",
        said.get("status", ""),
        said.get("note", ""),
    )


def models_for(workspace: Workspace, business: Business, media: str) -> list[str]:
    """The generators for stills or clips: those of the business, else the workspace's if it makes
    such, else the first that does. Raises Trouble.
    """
    own = business.models.clip if media == "video" else business.models.still
    named = [name.strip() for name in own.split(",") if name.strip()]
    for name in named:
        makes = workspace.model(name).makes
        if makes and makes != media:
            raise Trouble(
                f"{name} makes no {'clips' if media == 'video' else 'stills'}",
                "correct [models] in the business file",
                2,
            )
    settled = workspace.settings.get("model", "")
    for name in [settled] if settled and not named else []:
        if workspace.model(name).makes in ("", media):
            named = [name]
    return (
        named or [name for name in workspace.models() if workspace.model(name).makes == media][:1]
    )


def shape_of(place: Placement) -> str:
    """The shape of a place: as it is said, else by its size; "" if nothing is."""
    if place.ratio:
        return place.ratio
    match = re.match(r"^\s*(\d+(?:\.\d+)?)\s*[x×]\s*(\d+(?:\.\d+)?)", place.size)
    return f"{match[1]}:{match[2]}" if match else ""


def nearest_ratio(profile: Profile, ratio: str) -> str:
    """The shape of a model's that comes nearest to one; the one itself where the model
    names none.
    """
    values = (
        [str(value) for value in profile.parameter["ratio"].values]
        if "ratio" in profile.parameter
        else []
    )
    wanted = _number(ratio)
    if not values or not wanted or ratio in values:
        return ratio
    shaped = [value for value in values if _number(value)]
    return min(shaped, key=lambda value: abs(_number(value) / wanted - 1)) if shaped else ratio


def _number(ratio: str) -> float:
    wide, sign, high = ratio.partition(":")
    try:
        return float(wide) / float(high) if sign else 0.0
    except (ValueError, ZeroDivisionError):
        return 0.0


def parameters_of(profile: Profile, place: Placement, ratio: str) -> dict[str, str]:
    """The parameters that the model has, of those that the placement asks for."""
    found = {}
    if ratio and "ratio" in profile.parameter:
        found["ratio"] = ratio
    if place.seconds and "seconds" in profile.parameter:
        found["seconds"] = str(place.seconds)
    return found


def _within(
    rows: list[PieceRow], budget: float | None, before: Mapping[str, Mapping[str, str]]
) -> list[PieceRow]:
    """Rows with a status each: what a person said; else open while the budget lasts, and later
    after it. What was put off is looked at again.
    """
    spent = sum(row.cost or 0.0 for row in rows if row.status == APPROVED)
    found = []
    for row in rows:
        if row.status in (APPROVED, REMOVED):
            found.append(row)
            continue
        fits = budget is None or spent + (row.cost or 0.0) <= budget
        spent += (row.cost or 0.0) if fits else 0.0
        found.append(row._replace(status=OPEN if fits else LATER))
    return found


def over_budget(found: Campaign) -> str:
    """The messages where the pieces that are approved cost more than the budget of the business, or
    nobody knows what they cost; "" if all is well.
    """
    approved = [row for row in found.rows if row.status == APPROVED]
    budget, said = found.business.budget, []
    sums: dict[str, float] = {}
    for row in approved:
        sums[row.currency] = sums.get(row.currency, 0.0) + (row.cost or 0.0)
    if budget is None:
        return ""
    if over := {currency: amount for currency, amount in sums.items() if amount > budget + 1e-9}:
        said.append(
            "the approved pieces cost"
            f" {', '.join(priced(round(amount, 2), currency) for currency, amount in over.items())},"  # noqa: E501
            f" more than the budget of {budget:g}"
        )
    if unknown := sum(row.cost is None for row in approved):
        said.append(
            f"{unknown} of the approved pieces {'has' if unknown == 1 else 'have'} no price, so the"
            f" total may exceed the budget of {budget:g}"
        )
    return "; ".join(said)


def set_status(found: Campaign, words: Sequence[str], status: str) -> tuple[Campaign, int]:
    """Approve or remove pieces: by id (or its beginning), kind, place, or all that are open. Raises
    Trouble.
    """
    meant: set[str] = set()
    for word in words:
        some = {
            row.piece.id
            for row in found.rows
            if (word == "all" and row.status == OPEN)
            or word in (row.piece.kind, row.place.name)
            or (len(word) > 3 and row.piece.id.startswith(word))
        }
        if not some:
            names = sorted(
                {row.piece.kind for row in found.rows} | {row.place.name for row in found.rows}
            )
            raise Trouble(
                f"“{word}” is not a piece of this plan",
                perhaps(word, names, f"name an id, all, or {', '.join(names[:6])} …"),
                2,
            )
        meant |= some
    return found._replace(
        rows=[row._replace(status=status) if row.piece.id in meant else row for row in found.rows]
    ), len(meant)


def save_plan(found: Campaign, target: Path | None = None) -> Path:
    """Write the plan as a table (.csv; a copy as .xlsx too). Raises Trouble."""
    path = target or found.plan
    rows = [row.cells() for row in found.rows]
    if path.suffix.lower() == ".xlsx":
        from syntagma.formats.xlsx import write_looked_over

        with whole_file(path) as file:
            write_looked_over(
                file.buffer,
                found.name,
                COLUMNS,
                [[row[name] for name in COLUMNS] for row in rows],
                {"status": STATUSES},
                "",
            )
        return path
    if path.suffix.lower() != ".csv":
        raise Trouble(f"can't write a plan as {path}", "name it .csv or .xlsx", 2)
    cells = HarmlessCells()
    with whole_file(path) as file:
        out = csv.writer(file)
        out.writerow(COLUMNS)
        out.writerows(cells.row([row[name] for name in COLUMNS]) for row in rows)
    return path


def take_plan(found: Campaign, source: Path) -> Campaign:
    """A copy of the plan that somebody changed: its status, numbers and notes. Raises Trouble or
    Refused.
    """
    if not source.is_file():
        raise NoFile(source)
    said = _said(source)
    unknown = [name for name in said if name not in {row.piece.id for row in found.rows}]
    if unknown and len(unknown) == len(said):
        raise Trouble(
            f"{source} is not a copy of this plan", "use a copy of this campaign's plan", 1
        )
    rows = []
    for row in found.rows:
        of = said.get(row.piece.id)
        if of is None:
            rows.append(row)
            continue
        number = of.get("pictures", "").strip()
        count = int(number) if re.fullmatch(r"[1-9]\d{0,3}", number) else row.pictures
        note = (
            of.get("note", "") if of.get("note") or "what" in of else row.note
        )  # the owner's page sends back only notes of its own
        rows.append(
            row._replace(
                status=of["status"],
                note=note,
                pictures=count,
                cost=None if row.cost is None else row.cost / row.pictures * count,
            )
        )
    return found._replace(rows=rows)


def total(rows: Sequence[PieceRow]) -> str:
    """What rows cost together, a currency each."""
    sums: dict[str, float] = {}
    for row in rows:
        if row.cost is not None:
            sums[row.currency] = sums.get(row.currency, 0.0) + row.cost
    return (
        ", ".join(priced(round(amount, 2), currency) for currency, amount in sums.items())
        or "no price known"
    )
