"""pack: what a workspace has of its own, for another; one looked at, one taken in."""

import difflib
from argparse import Namespace
from pathlib import Path
from typing import Any

from syntagma.cli import args, terminal

SHOWN = 12  # lines of a clash


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a name for the pack")
    parser.add_argument("--out", default="")
    parser.add_argument(
        "--include",
        dest="only",
        metavar="NAME",
        action="append",
        default=[],
        help=(
            "only this: crossing-poster, looks:lantern-line, lighting; can be repeated (default:"
            " everything that the workspace has of its own)"
        ),
    )
    parser.add_argument(
        "--plan",
        metavar="FILE",
        action="append",
        default=[],
        help="include a plan of a family; can be repeated",
    )
    _people(parser)
    parser.add_argument("--about", default="")
    parser.add_argument("--whose", metavar="TEXT", default="", help="its author")
    parser.add_argument("--licence", metavar="TEXT", default="", help="its licence")
    parser.add_argument(
        "--edition", metavar="TEXT", default="1", help="which version it is (default: 1)"
    )
    parser.examples(
        'syntagma pack lantern-reach --out lantern-reach.syntagma.zip --whose "Lantern Reach'
        ' Ferries"',
        "syntagma pack show lantern-reach.syntagma.zip",
        "syntagma pack import lantern-reach.syntagma.zip",
    )


def _people(parser: args.Parser) -> None:
    parser.add_argument(
        "--people",
        action="store_true",
        help="include real people too (invented ones are always included)",
    )


def _show_arguments(parser: args.Parser) -> None:
    parser.add_argument("file", metavar="FILE", help="a pack")
    _people(parser)
    parser.json("pack")
    parser.examples("syntagma pack show lantern-reach.syntagma.zip")


def _import_arguments(parser: args.Parser) -> None:
    parser.add_argument("file", metavar="FILE", help="a pack")
    _people(parser)
    parser.add_argument(
        "--replace",
        metavar="NAME",
        action="append",
        default=[],
        help="overwrite this (a name from `pack show`, or all); can be repeated",
    )
    parser.add_argument("--dry-run", action="store_true")
    parser.json("pack")
    parser.examples("syntagma pack import lantern-reach.syntagma.zip")


def run(call: Namespace) -> int:
    from syntagma.app.handing_on.pack_file import ENDING
    from syntagma.app.handing_on.packs import make_pack, save_pack
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    said = {
        "name": call.name,
        "about": call.about,
        "whose": call.whose,
        "licence": call.licence,
        "version": call.edition,
    }
    pack, left = make_pack(
        workspace, said, call.only, [Path(plan) for plan in call.plan], call.people
    )
    target = Path(call.out or f"{call.name}{ENDING}")
    save_pack(pack, target)
    terminal.say(f"{target}: {_counted(pack)}", error=False)
    for what in left:
        terminal.say((f"left out: {what}", terminal.QUIET))
    if not call.licence:
        terminal.note("without --licence nobody knows what they may do with it")
    return 0


def _counted(pack: Any) -> str:
    """What is in a pack, in numbers."""
    names = {
        "formulas": "formula",
        "looks": "look",
        "themes": "theme",
        "models": "model",
        "vocabulary": "vocabulary",
        "situations": "file of situations",
        "plans": "plan",
        "pictures": "picture",
    }
    counts: dict[str, int] = {}
    for path in pack.files:
        room = path.partition("/")[0]
        name = names.get(
            room, {"known.toml": "cast", "facets.toml": "description of facets"}.get(path, room)
        )
        counts[name] = counts.get(name, 0) + 1
    many = {
        "vocabulary": "vocabularies",
        "cast": "cast",
        "file of situations": "files of situations",
    }
    return ", ".join(
        f"{n} {name if n == 1 else many.get(name, name + 's')}" for name, n in counts.items()
    )


def _show(call: Namespace) -> int:
    return _taken(call, [], will=True)


def _import(call: Namespace) -> int:
    return _taken(call, call.replace, will=call.dry_run)


def _taken(call: Namespace, replace: list[str], will: bool) -> int:
    """A pack taken in, or what `will` happen if it is."""
    from syntagma.app.handing_on.packs import CLASH, LEFT, NEW, REPLACED, SAME, Taker, open_pack
    from syntagma.app.workspace.workspace import Workspace

    pack = open_pack(Path(call.file))
    changes = Taker(
        Workspace.load(tell=terminal.left_out), pack, replace, call.people, write=not will
    ).take()
    clashes = [one for one in changes if one.outcome == CLASH]
    left = [one for one in changes if one.outcome == LEFT]
    if call.json:
        terminal.items((one._asdict() for one in changes), pack=dict(pack.said))
        return 1 if not will and (clashes or left) else 0
    said = pack.said
    terminal.say(
        (pack.name or call.file, terminal.NAME),
        "".join(
            f"  {part}"
            for part in (
                said.get("about"),
                f"version {said['version']}" if said.get("version") else "",
            )
            if part
        ),
        error=False,
    )
    terminal.say(
        (
            f"{said.get('whose') or 'no author'}; {said.get('licence') or 'no licence'}",
            terminal.QUIET,
        ),
        error=False,
    )
    terminal.say(_counted(pack), error=False)
    words = {
        NEW: "would be added" if will else "added",
        SAME: "the same",
        CLASH: "clashes",
        REPLACED: "would be replaced" if will else "replaced",
        LEFT: "would be left out" if will else "left out",
    }
    terminal.table(
        ("what", "name", "taking it", "note"),
        [(one.kind, one.name, words[one.outcome], one.note) for one in changes],
        "note",
    )
    for one in clashes:
        terminal.say()
        terminal.say((one.called, terminal.NAME), "  here (-) and as it comes (+)")
        lines = [
            line
            for line in difflib.unified_diff(
                one.here.splitlines(), one.comes.splitlines(), lineterm="", n=1
            )
            if not line.startswith(("---", "+++"))
        ]
        for line in lines[:SHOWN]:
            terminal.say(
                (
                    line,
                    (
                        terminal.WRONG
                        if line.startswith("-")
                        else terminal.CHANGED
                        if line.startswith("+")
                        else terminal.QUIET
                    ),
                )
            )
        if len(lines) > SHOWN:
            terminal.say((f"… {len(lines) - SHOWN} lines more", terminal.QUIET))
    if clashes:
        names = " ".join(f'--replace "{one.called}"' for one in clashes[:3])
        terminal.say(
            f"\n{len(clashes)} clash{'es' if len(clashes) != 1 else ''}: yours were kept; to"
            f" overwrite them: syntagma pack import {call.file} {names}"
        )
    return 1 if not will and (clashes or left) else 0


VERBS = {
    "show": args.Verb(
        "show what is in a pack, and what it would change here", _show_arguments, _show
    ),
    "import": args.Verb("import a pack into the workspace", _import_arguments, _import),
}
