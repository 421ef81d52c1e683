"""campaign: the pictures of a whole business: planned, approved, made, with a page for each."""

import sys
from pathlib import Path

from syntagma.cli import args, terminal

QUESTIONS = (
    ("name", "What is the business called?"), ("does", "What does it do, in a few words?"), ("site", "What does one see of the place where it is?"), ("things", "Four or more small things of its work, with ; between"),
    ("sign", "What could stand for it in a small mark?"), ("changes", "What changes there day by day, as a sentence?"),
)  # fmt: skip


def arguments(parser: args.Parser) -> None:
    parser.add_argument("what", metavar="WHAT", choices=("new", "plan", "make"), help="new: describe a business; plan: what would serve it; make: all that is approved")
    parser.add_argument("name", metavar="NAME", help="the campaign; its business is described in NAME.campaign.toml")
    parser.add_argument("--approve", metavar="WHICH", action="append", default=[], help="with plan: pieces by id, kind or place, or all that are open; may be given again")
    parser.add_argument("--strike", metavar="WHICH", action="append", default=[], help="with plan: pieces that are not wanted")
    parser.add_argument("--import", dest="take", default="")
    parser.add_argument("--out", default="")
    parser.add_argument("--anew", action="store_true", help="with make: everything anew, also pages that somebody wrote into")
    parser.add_argument("--all", action="store_true")
    parser.add_argument("--json", action="store_true")
    parser.examples("syntagma campaign plan ferries", "syntagma campaign plan ferries --approve launch --approve hero", "syntagma campaign make ferries")


def run(call) -> int:
    return {"new": _new, "plan": _plan, "make": _make}[call.what](call)


def _new(call) -> int:
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
    terminal.say(f"{path}: fill in offers, people and places there; then syntagma campaign plan {path.name.removesuffix('.campaign.toml')}", error=False)
    return 0


def _plan(call) -> int:
    from syntagma.app.handing_on.campaigns import (
        APPROVED,
        LATER,
        OPEN,
        STRUCK,
        campaign,
        over_budget,
        save_plan,
        set_status,
        take_plan,
        total,
    )
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = campaign(workspace, call.name)
    if call.take:
        found = take_plan(found, Path(call.take))
    for words, status in ((call.approve, APPROVED), (call.strike, STRUCK)):
        if words:
            found, number = set_status(found, words, status)
            terminal.say(f"{number} {status}")
    path = save_plan(found)
    if call.out:
        save_plan(found, Path(call.out))
    if call.json:
        terminal.json({"campaign": found.name, "pieces": [row.cells() for row in found.rows], "not_planned": dict(found.missing)})
        return 0
    shown = [row for row in found.rows if call.all or row.status not in (STRUCK, LATER)]
    for place in dict.fromkeys(row.place.name for row in shown):
        terminal.say((f"\n{place[:1].upper()}{place[1:]}", terminal.NAME), error=False)
        for cells in (row.cells() for row in shown if row.place.name == place):
            terminal.say(f"  {cells['piece'][:6]}  {cells['status']:<9}", (cells["what"], "bold"), (f"  {cells['pictures']} × {cells['formula']}, {cells['cost'] or 'no price'}", terminal.QUIET), error=False)
            terminal.hanging(("                   ", ""), cells["why"], error=False)
    counts = {status: [row for row in found.rows if row.status == status] for status in (OPEN, APPROVED, LATER, STRUCK)}
    terminal.say()
    for status, rows in counts.items():
        if rows:
            budget = f" (the budget is {found.business.budget:g})" if status == LATER else ""
            terminal.say((f"{status:<9}", terminal.NAME), f"{len(rows)} pieces, {sum(row.pictures for row in rows)} pictures and clips, {total(rows)}{budget}")
    if found.missing and call.all:
        terminal.say()
        for kind, why in found.missing.items():
            terminal.say((f"{kind:<18}", terminal.QUIET), f"not planned: {why}")
    elif found.missing:
        terminal.note(f"{len(found.missing)} kinds of piece were not planned: {', '.join(list(found.missing)[:6])} …; --all says what each wants to know")
    if not found.rows:
        terminal.say(f"nothing could be planned yet: say in {found.name}.campaign.toml what is offered ([[offer]]) and where pictures are shown ([[place]])")
        return 1
    over = over_budget(found)
    if over:
        terminal.say((over, terminal.WRONG), ": strike some (--strike WHICH), or mend budget in the business file")
    terminal.say(f"the plan is {path}: change its status, pictures and note there, or --approve WHICH; then syntagma campaign make {found.name}")
    return 1 if over else 0


def _make(call) -> int:
    from syntagma.app.handing_on.campaign_made import make
    from syntagma.app.handing_on.campaigns import campaign, over_budget
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    found = campaign(workspace, call.name)
    if over := over_budget(found):
        terminal.say((over, terminal.WRONG))
    made = make(workspace, found, Path(call.out or found.name), call.anew)
    if call.json:
        terminal.json({"folder": str(made.folder), "pieces": [{"piece": p.row.piece.id, "page": p.path, "new": p.fresh, "records": p.records} for p in made.pieces], "own": made.own, "gone": made.gone})
        return 0
    terminal.say(f"{made.folder}: {len(made.pieces)} pieces, {made.fresh} made anew, {len(made.pieces) - made.fresh} as they were", error=False)
    for piece in made.pieces:
        for said in piece.said:
            terminal.say((f"{piece.path}  ", terminal.NAME), said)
    for path in made.own:
        terminal.say((f"{path}  ", terminal.NAME), "somebody wrote into it: it stays as it is (--anew writes it anew)")
    for path in made.gone:
        terminal.say((f"{path}  ", terminal.NAME), "is in the plan no more; the page stays until you delete it")
    sheet = f"{made.folder.name}-new" if made.fresh < len(made.pieces) else made.folder.name
    if made.fresh:
        terminal.say((f"look at {made.folder}/index.html; to send: syntagma sheet new {sheet} {made.folder}/{'new' if made.fresh < len(made.pieces) else 'prompts'}.jsonl", terminal.QUIET))
    return 0
