"""situation: what picks begin with, somebody with something to do in a place; a search; situations
of your own.
"""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.core.picking.situations import Moment


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "facet",
        metavar="FACET",
        nargs="?",
        default="",
        help="those of one facet: subject, animal, object, setting …",
    )
    _common(parser)
    parser.examples("syntagma situation", "syntagma situation animal")


def _common(parser: args.Parser) -> None:
    parser.add_argument("--all", action="store_true")
    parser.json("situations")


def _find_arguments(parser: args.Parser) -> None:
    parser.add_argument("text", metavar="TEXT", help="words to search for")
    parser.add_argument("--facet", default="")
    _common(parser)
    parser.examples('syntagma situation find "ferry rope"')


def _new_arguments(parser: args.Parser) -> None:
    from syntagma.app.workspace.own_situations import CELLS

    parser.add_argument(
        "facet", metavar="FACET", help="the kind of lead: subject, animal, object, setting …"
    )
    parser.add_argument(
        "who", metavar="WHO", help="who or what, without an article: lamp-room keeper"
    )
    for cell, what in CELLS.items():
        parser.add_argument(f"--{cell}", dest=cell, metavar="TEXT", default="", help=what)
    parser.add_argument("--own", action="store_true")
    parser.examples(
        'syntagma situation new subject "lamp-room keeper" --setting "in a lamp room" --action'
        ' "trimming a wick by the window" --lighting "low sun through salt-stained glass"'
        ' --telling-detail "a kettle on the lens"'
    )


def _import_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "table",
        metavar="FILE",
        help="a table, one row per moment (.csv, .xlsx); its first column is the facet of the lead",
    )
    parser.add_argument("--facet", default="")
    parser.add_argument("--own", action="store_true")
    parser.examples("syntagma situation import quay-situations.csv")


def run(call: Namespace) -> int:
    return _listed(call, call.facet, "")


def _find(call: Namespace) -> int:
    return _listed(call, call.facet, call.text)


def _workspace():
    from syntagma.app.workspace.workspace import Workspace

    return Workspace.load(tell=terminal.left_out)


def _listed(call: Namespace, facet: str, text: str) -> int:
    from syntagma.app.workspace.own_situations import found
    from syntagma.core.diagnostics import Trouble, perhaps

    workspace = _workspace()
    situations = found(workspace, text, facet)
    for mistake in workspace.mistakes:
        terminal.say(mistake.shown())
    if facet and not text and not situations:
        facets = sorted({one.facet for one in found(workspace)})
        raise Trouble(
            f"no situation has a lead from “{facet}”",
            perhaps(facet, facets, f"the facets are {', '.join(facets)}"),
            2,
        )
    if call.json:
        terminal.items((one.record() for one in situations), workspace.mistakes)
        return 0 if situations else 1
    if not situations:
        terminal.say(f"No situation matches “{text}”. Try a single word.")
        return 1
    rows = [
        (_who(one.lead), one.facet, _told(one.moments[0]), len(one.moments)) for one in situations
    ]
    shown = rows if call.all or not terminal.on_terminal() else rows[: terminal.room()]
    terminal.table(("who or what", "of", "what happens", "moments"), shown, "what happens")
    if len(shown) < len(rows):
        terminal.say((f"{len(rows) - len(shown)} more: --all", terminal.QUIET))
    return 0


def _who(lead: str) -> str:
    """“#person” as “any person”."""
    return f"any {lead[1:]}" if lead.startswith("#") else lead


def _told(moment: Moment) -> str:
    """A moment in a line: what is done, where, in which light."""
    return ", ".join(
        filter(
            None,
            (
                moment.words.get(name, "")
                for name in (
                    "action",
                    "setting",
                    "wardrobe",
                    "expression",
                    "background",
                    "lighting",
                    "technique",
                )
            ),
        )
    )


def _new(call: Namespace) -> int:
    from syntagma.app.workspace.own_situations import CELLS, add

    workspace = _workspace()
    path = add(
        workspace,
        call.facet,
        call.who,
        {cell: text for cell in CELLS if (text := getattr(call, cell))},
        call.own,
    )
    terminal.say(f"“{call.who}” is in {workspace.shown(path)}", error=False)
    return 0


def _import(call: Namespace) -> int:
    from syntagma.app.workspace.own_situations import take

    workspace = _workspace()
    taken = take(workspace, Path(call.table), call.facet, call.own)
    terminal.say(
        f"{taken.taken} situation{'' if taken.taken == 1 else 's'} added to"
        f" {workspace.shown(taken.file)}",
        error=False,
    )
    for mistake in taken.left:
        terminal.say(f"left: {mistake.shown()}", error=False)
    return 0 if taken.taken else 1


VERBS = {
    "find": args.Verb("search all situations", _find_arguments, _find),
    "new": args.Verb("add a situation of your own", _new_arguments, _new),
    "import": args.Verb("add the situations of a table", _import_arguments, _import),
}
