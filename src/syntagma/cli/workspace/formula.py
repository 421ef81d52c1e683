"""formula: the formulas, one in full, and formulas of your own: made, checked, learned from examples."""

from syntagma.cli import args, terminal
from syntagma.cli.existing import learning
from syntagma.cli.workspace import shared
from syntagma.storage.trouble import Trouble

HINT = "`syntagma formula NAME` shows one in full; `syntagma compose NAME --pick` writes with it"


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one formula, by name or by file")
    parser.add_argument("--media", choices=("image", "video"))
    parser.add_argument("--find", default="")
    parser.add_argument("--short", action="store_true", help="a line each")
    parser.json("formulas", "formula")
    parser.examples("syntagma formula --media video", "syntagma formula poster")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import formula_card, formula_rows

    rows = lambda workspace: formula_rows(workspace, call.media or "", call.find)  # noqa: E731
    return shared.shelf(call, formula_card, terminal.formula_card, rows, _short if call.short else _long, HINT)


def _short(rows: list[dict]) -> None:
    columns = ("formula", "medium", "slots", "what it makes")
    terminal.table(columns, [(r["formula"], r.get("media", "both"), len(r["slots"]), r.get("about", "")) for r in rows], columns[-1])


def _long(rows: list[dict]) -> None:
    for row in rows:
        lines = [row.get("when") or row.get("about", ""), " › ".join(row["parts"]), row.get("example", {}).get("text", "")]
        terminal.block(row["formula"], row.get("media", "both"), lines)


def _new_arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser)
    parser.add_argument("line", metavar="LINE", nargs="?", default="", help="the formula on one line, with its slots in [brackets]")
    parser.add_argument("--media", choices=("image", "video"), default="")
    parser.examples(
        'syntagma formula new crossing "[a medium] of [a subject], [setting as place]. [lighting]"',
        "syntagma formula new night-poster --copy-of poster",
    )


def _new(call) -> int:
    from syntagma.app.workspace.own_files import make_formula
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    path, remarks = make_formula(workspace, call.name, call.line, call.like, call.about, call.when, call.media, call.own)
    return shared.made(workspace, path, remarks, f"syntagma compose {call.name} --pick")


def _check_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a formula, by name or by file")
    parser.examples("syntagma formula check poster")


def _check(call) -> int:
    from pathlib import Path

    from syntagma.app.existing.checks import check_formula_file
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics.suggestions import perhaps

    workspace, name = Workspace.load(tell=terminal.left_out), call.name
    known = workspace.formulas() | workspace.looks()
    if name not in known and not Path(name).is_file():
        raise Trouble(f"no formula is called “{name}”", perhaps(name, known, "`syntagma formula` lists them"), 2)
    mistakes, remarks = check_formula_file(workspace, known[name][-1][1] if name in known else Path(name))
    for mistake in mistakes:
        terminal.say(mistake.shown(), error=False)
    terminal.findings(remarks)
    terminal.say(
        f"{name}: {len(mistakes)} mistake{'' if len(mistakes) == 1 else 's'}" if mistakes else f"{name}: no mistakes", error=False
    )
    return 1 if mistakes else 0


VERBS = {
    "new": args.Verb("make a formula of your own", _new_arguments, _new),
    "check": args.Verb("check one", _check_arguments, _check),
    "learn": args.Verb("learn one from four or more examples, or from one prompt", learning.learn_arguments, learning.learn),
}
