"""formula: make one of your own, or check one."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared
from syntagma.storage.trouble import Trouble


def arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser, ("new", "check"))
    parser.add_argument("line", metavar="LINE", nargs="?", default="", help="the formula on one line, with its slots in [brackets]")
    parser.add_argument("--media", choices=("image", "video"), default="", help="what it is for (default: both)")
    parser.examples(
        'syntagma formula new crossing "[a medium] of [a subject], [setting as place]. [lighting]"',
        "syntagma formula new night-poster --like poster",
    )


def run(call) -> int:
    from syntagma.app.workspace.own_files import make_formula
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.deed == "check":
        return _check(workspace, call.name)
    path, remarks = make_formula(workspace, call.name, call.line, call.like, call.about, call.when, call.media, call.own)
    return shared.made(workspace, path, remarks, f"syntagma compose {call.name} --pick")


def _check(workspace, name: str) -> int:
    from pathlib import Path

    from syntagma.app.existing.checks import check_formula_file
    from syntagma.core.diagnostics.suggestions import perhaps

    known = workspace.formulas() | workspace.mounts()
    if name not in known and not Path(name).is_file():
        raise Trouble(f"there is no formula “{name}”", perhaps(name, known, "`syntagma formulas` lists them"), 2)
    mistakes, remarks = check_formula_file(workspace, known[name][-1][1] if name in known else Path(name))
    for mistake in mistakes:
        terminal.say(mistake.shown(), error=False)
    terminal.findings(remarks)
    terminal.say(
        f"{name}: {len(mistakes)} mistake{'' if len(mistakes) == 1 else 's'}" if mistakes else f"{name}: no mistakes", error=False
    )
    return 3 if mistakes else 0
