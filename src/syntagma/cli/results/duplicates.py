"""duplicates: find near-duplicate prompts or pictures."""

import textwrap
from argparse import Namespace
from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "files",
        metavar="FILE",
        nargs="+",
        help="files of prompts (.txt .csv .xlsx .json .jsonl), or pictures, or a folder of them",
    )
    parser.add_argument(
        "--likeness",
        metavar="N",
        type=args.within("likeness"),
        help=(
            "the least likeness that counts, 0 to 1 (default: 0.82 for prompts, 0.86 for pictures)"
        ),
    )
    parser.add_argument("--column", default="")
    parser.json("duplicates")
    parser.examples("syntagma duplicates crossings.jsonl", "syntagma duplicates results/crossings")


def run(call: Namespace) -> int:
    from syntagma.app.results.adding import PICTURES
    from syntagma.app.results.picture_read import near_pictures, near_prompts
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    paths = [Path(file) for file in call.files]
    pictures = [path.is_dir() or path.suffix.lower() in PICTURES for path in paths]
    if any(pictures) and not all(pictures):
        raise Trouble(
            "prompts can't be compared with pictures", "name either files of prompts or pictures", 2
        )
    least = {} if call.likeness is None else {"least": call.likeness}
    found = (
        near_pictures(paths, **least)
        if all(pictures)
        else near_prompts(
            Workspace.load(tell=terminal.left_out), call.files, column=call.column, **least
        )
    )
    for one in found.wrong:
        terminal.mistake(one)
    alike = [name for names, _ in found.groups for name in names[1:]]
    if call.json:
        groups = (
            {"keep": names[0], "remove": list(names[1:]), "likeness": round(likeness, 3)}
            for names, likeness in found.groups
        )
        terminal.items(groups, found.wrong, read=found.whole)
        return 1 if found.wrong else 0
    for names, likeness in found.groups:
        terminal.say(
            (f"{names[0]}", terminal.NAME),
            f"  keep; {len(names) - 1} like it"
            f" ({likeness:.0%}{' and more' if likeness < 0.995 else ''}):"
            f" {', '.join(names[1:12])}{' …' if len(names) > 12 else ''}",
            error=False,
        )
        for name in names[:3]:
            if said := found.said.get(name):
                terminal.hanging(
                    (f"{name}  ", terminal.QUIET),
                    textwrap.shorten(said, 150, placeholder=" …"),
                    error=False,
                )
    what = "pictures" if all(pictures) else "prompts"
    terminal.say(
        (
            f"{found.whole} {what}: {len(found.groups)} group{'s' if len(found.groups) > 1 else ''}"
            f" of near-duplicates, {len(alike)} to leave out"
            if found.groups
            else f"{found.whole} {what}, no near-duplicates"
        ),
        error=False,
    )
    if alike and not all(pictures) and len(paths) == 1:
        terminal.say((f"of a family: --without {','.join(alike)}", terminal.QUIET), error=False)
    return 1 if found.wrong else 0
