"""What the commands on the workspace share: those that make something of a person's own, and those
that show what is on a shelf.
"""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import Finding

if TYPE_CHECKING:
    from syntagma.app.workspace.workspace import Workspace


def making_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="its name: small letters and hyphens")
    parser.add_argument("--copy-of", dest="like", default="")
    parser.add_argument("--about", default="")
    parser.add_argument("--when", metavar="TEXT", default="", help="when to use it")
    parser.add_argument("--own", action="store_true")


def made(workspace: Workspace, path: Path, remarks: Sequence[Finding], then: str) -> int:
    """Say what was made, what there is to remark, and how to go on."""
    terminal.say(
        (workspace.shown(path), terminal.NAME), "  is made; edit it in any editor", error=False
    )
    others = [
        layer
        for layer, other in getattr(workspace, path.parent.name)().get(path.stem, ())
        if other != path
    ]
    if others:
        terminal.say(
            f"From now on “{path.stem}” means this one, not the {path.parent.name[:-1]} that"
            f" {'ships with Syntagma' if others[-1] == 'shipped' else 'you have elsewhere'}."
        )
    terminal.findings(remarks)
    terminal.say((then, terminal.QUIET))
    return 0


def shelf_arguments(parser: args.Parser, what: str) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help=f"one {what}, by name or by file")
    parser.json(f"{what}s", what)


def shelf(
    call: Namespace,
    card: Callable,
    view: Callable[[dict], None],
    rows: Callable[[Any], list[dict]],
    listed: Callable[[list[dict]], None],
    hint: str,
) -> int:
    """Show one that is named by its card, in its view; or all of them, listed, with a hint how to
    go on.
    """
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.name:
        found = card(workspace, call.name)
        terminal.json(found) if call.json else view(found)
        return 0
    every = rows(workspace)
    if call.json:
        terminal.items(every)
        return 0
    listed(every)
    if terminal.on_terminal():
        terminal.say(hint)
    return 0


def blocks(rows: list[dict], name: str, note: str = "media") -> None:
    """A block each: its name, what it is for, when to use it."""
    for row in rows:
        terminal.block(
            row[name],
            row.get(note, "both") if note else "",
            [row.get("about", ""), row.get("when", "")],
        )
