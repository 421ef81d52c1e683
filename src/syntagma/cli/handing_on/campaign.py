"""campaign: the pictures of a whole business: planned, approved, made, with a page for each."""

import sys
from argparse import Namespace
from pathlib import Path
from typing import Any

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import REMARK, Finding

QUESTIONS = (
    ("name", "What is the business called?"),
    ("does", "What does it do, in a few words?"),
    ("site", "What do you see at the place where it is?"),
    ("things", "Four or more small things from its work, separated by ;"),
    ("sign", "What could represent it in a small emblem?"),
    ("changes", "What changes there day by day, as a sentence?"),
)


def arguments(parser: args.Parser) -> None:
    parser.json("campaigns")
    parser.examples(
        "syntagma campaign",
        "syntagma campaign plan ferries",
        "syntagma campaign approve ferries launch hero",
        "syntagma campaign make ferries",
    )


def _name(parser: args.Parser) -> None:
    parser.add_argument(
        "name", metavar="NAME", help="the campaign; its business is described in NAME.campaign.toml"
    )


def _new_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.examples("syntagma campaign new bakery")


def _plan_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument("--out", default="")
    parser.add_argument("--all", action="store_true")
    parser.json("pieces")
    parser.examples("syntagma campaign plan ferries")


def _import_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument("file", metavar="FILE", help="an edited copy of the plan (.csv, .xlsx)")
    parser.examples("syntagma campaign import ferries COPY.xlsx")


def _pieces_arguments(verb: str):
    def arguments(parser: args.Parser) -> None:
        _name(parser)
        parser.add_argument(
            "pieces",
            metavar="PIECE",
            nargs="+",
            help="pieces by id, kind or place, or all that are open",
        )
        parser.examples(f"syntagma campaign {verb} ferries launch hero")

    return arguments


def _make_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument("--out", default="")
    parser.add_argument(
        "--anew",
        action="store_true",
        help="make everything again, including pages that somebody edited",
    )
    parser.json("pages")
    parser.examples("syntagma campaign make ferries")


def run(call: Namespace) -> int:
    """The campaigns of this folder."""
    from syntagma.app.handing_on.campaigns import campaign, campaigns_in, total
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = [campaign(workspace, name) for name in campaigns_in(Path())]
    if call.json:
        terminal.items(
            {"campaign": one.name, "pieces": len(one.rows), "states": states(one)} for one in found
        )
        return 0
    if not found:
        terminal.say("This folder has no campaign. To start one: syntagma campaign new NAME")
        return 0
    rows = [
        (
            one.name,
            len(one.rows),
            ", ".join(f"{number} {status}" for status, number in states(one).items()),
            total(one.rows),
        )
        for one in found
    ]
    terminal.table(("campaign", "pieces", "states", "cost"), rows, "states")
    return 0


def states(found: Any) -> dict[str, int]:
    """How many pieces of a campaign are in each state."""
    counts: dict[str, int] = {}
    for row in found.rows:
        counts[row.status] = counts.get(row.status, 0) + 1
    return counts


def _new(call: Namespace) -> int:
    from syntagma.app.handing_on.campaigns import new_campaign

    answers: dict[str, str] = {}
    if sys.stdin.isatty() and sys.stderr.isatty():
        from prompt_toolkit import PromptSession
        from prompt_toolkit.output import create_output

        output = create_output(stdout=sys.stderr)
        output.enable_cpr = False  # type: ignore[attr-defined]
        session = PromptSession(output=output)
        for key, words in QUESTIONS:
            terminal.say((words, terminal.NAME))
            if said := session.prompt("› ").strip():
                answers[key] = said
    path = new_campaign(call.name, answers)
    terminal.say(
        f"{path}: fill in offers, people and places; then syntagma campaign plan"
        f" {path.name.removesuffix('.campaign.toml')}",
        error=False,
    )
    return 0


def _plan(call: Namespace) -> int:
    from syntagma.app.handing_on.campaigns import (
        APPROVED,
        LATER,
        OPEN,
        REMOVED,
        campaign,
        over_budget,
        save_plan,
        total,
    )
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = campaign(workspace, call.name)
    path = save_plan(found)
    if call.out:
        save_plan(found, Path(call.out))
    if call.json:
        left = [
            Finding(REMARK, f"not planned: {why}", place=kind, code="not-planned")
            for kind, why in found.missing.items()
        ]
        terminal.items((row.record() for row in found.rows), left, campaign=found.name)
        return 1 if over_budget(found) else 0
    shown = [row for row in found.rows if call.all or row.status not in (REMOVED, LATER)]
    for place in dict.fromkeys(row.place.name for row in shown):
        terminal.say((f"\n{place[:1].upper()}{place[1:]}", terminal.NAME), error=False)
        for cells in (row.cells() for row in shown if row.place.name == place):
            terminal.say(
                f"  {cells['piece'][:6]}  {cells['status']:<9}",
                (cells["what"], "bold"),
                (
                    f"  {cells['pictures']} × {cells['formula']}, {cells['cost'] or 'no price'}",
                    terminal.QUIET,
                ),
                error=False,
            )
            terminal.hanging(("                   ", ""), cells["why"], error=False)
    counts = {
        status: [row for row in found.rows if row.status == status]
        for status in (OPEN, APPROVED, LATER, REMOVED)
    }
    terminal.say()
    for status, rows in counts.items():
        if rows:
            budget = f" (the budget is {found.business.budget:g})" if status == LATER else ""
            terminal.say(
                (f"{status:<9}", terminal.NAME),
                f"{len(rows)} pieces, {sum(row.pictures for row in rows)} pictures and clips,"
                f" {total(rows)}{budget}",
            )
    if found.missing and call.all:
        terminal.say()
        for kind, why in found.missing.items():
            terminal.say((f"{kind:<18}", terminal.QUIET), f"not planned: {why}")
    elif found.missing:
        terminal.note(
            f"{len(found.missing)} kinds of piece were not planned:"
            f" {', '.join(list(found.missing)[:6])} …; --all lists what each needs to know"
        )
    if not found.rows:
        terminal.say(
            "nothing could be planned yet: list offers ([[offer]]) and places ([[place]]) in"
            f" {found.name}.campaign.toml"
        )
        return 1
    over = over_budget(found)
    if over:
        terminal.say(
            (over, terminal.WRONG),
            f": remove some (syntagma campaign remove {found.name} PIECE …), or raise budget in the"
            " business file",
        )
    terminal.say(
        f"the plan is {path}: change status, pictures and notes there, or use syntagma campaign"
        f" approve {found.name} PIECE …; then syntagma campaign make {found.name}"
    )
    return 1 if over else 0


def _set(status: str):
    """Gives pieces of a plan a status."""

    def run(call: Namespace) -> int:
        from syntagma.app.handing_on.campaigns import campaign, save_plan, set_status
        from syntagma.app.workspace.workspace import Workspace

        found, number = set_status(
            campaign(Workspace.load(tell=terminal.left_out), call.name), call.pieces, status
        )
        path = save_plan(found)
        terminal.say(f"{number} piece{'' if number == 1 else 's'} of {path}: {status}")
        return 0

    return run


def _import(call: Namespace) -> int:
    from syntagma.app.handing_on.campaigns import campaign, save_plan, take_plan
    from syntagma.app.workspace.workspace import Workspace

    found = take_plan(campaign(Workspace.load(tell=terminal.left_out), call.name), Path(call.file))
    terminal.say(
        f"{save_plan(found)} has the status, numbers and notes of {call.file}:"
        f" {', '.join(f'{number} {status}' for status, number in states(found).items())}"
    )
    return 0


def _make(call: Namespace) -> int:
    from syntagma.app.handing_on.campaign_made import make
    from syntagma.app.handing_on.campaigns import campaign, over_budget
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = campaign(workspace, call.name)
    if over := over_budget(found):
        terminal.say((over, terminal.WRONG))
    made = make(workspace, found, Path(call.out or found.name), call.anew)
    if call.json:
        pages = (
            {"piece": p.row.piece.id, "page": p.path, "new": bool(p.fresh), "prompts": p.records}
            for p in made.pieces
        )
        terminal.items(pages, folder=str(made.folder), own=list(made.own), gone=list(made.gone))
        return 0
    terminal.say(
        f"{made.folder}: {len(made.pieces)} pieces, {made.fresh} written,"
        f" {len(made.pieces) - made.fresh} unchanged",
        error=False,
    )
    for piece in made.pieces:
        for said in piece.said:
            terminal.say((f"{piece.path}  ", terminal.NAME), said)
    for path in made.own:
        terminal.say(
            (f"{path}  ", terminal.NAME),
            "somebody edited it, so it was not replaced (--anew replaces it)",
        )
    for path in made.gone:
        terminal.say(
            (f"{path}  ", terminal.NAME),
            "is no longer in the plan; delete the page if you don't need it",
        )
    sheet = f"{made.folder.name}-new" if made.fresh < len(made.pieces) else made.folder.name
    if made.fresh:
        terminal.say(
            (
                (
                    f"look at {made.folder}/index.html; to send it: syntagma sheet new {sheet}"
                    f" {made.folder}/{'new' if made.fresh < len(made.pieces) else 'prompts'}.jsonl"
                ),
                terminal.QUIET,
            )
        )
    return 0


VERBS = {
    "new": args.Verb("describe a business", _new_arguments, _new),
    "plan": args.Verb(
        "plan the pictures that would serve it, with reasons and costs", _plan_arguments, _plan
    ),
    "approve": args.Verb(
        "approve pieces of the plan", _pieces_arguments("approve"), _set("approved")
    ),
    "remove": args.Verb(
        "remove pieces, so they are not made", _pieces_arguments("remove"), _set("removed")
    ),
    "restore": args.Verb("open pieces again", _pieces_arguments("restore"), _set("open")),
    "import": args.Verb("import an edited copy of the plan", _import_arguments, _import),
    "make": args.Verb("make every approved piece, with a page for each", _make_arguments, _make),
}
