"""bundle: chosen results, named, brought to size and zipped, with a contact sheet and a list."""

import re
from argparse import Namespace
from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "what",
        metavar="SHEET or ID",
        nargs="*",
        help=(
            "a sheet (all its finished results), or results by number (12, 14-17); default: all"
            " that match"
        ),
    )
    parser.add_argument("--out", required=True)
    parser.add_argument("--rating", type=args.within("rating"))
    parser.add_argument("--label", default="")
    parser.add_argument("--find", default="")
    parser.add_argument(
        "--name",
        metavar="PATTERN",
        default="",
        help=(
            "how to name files: {number} {subject} {ratio} {id} {model} …, or a slot's name"
            " (default: {number}-{subject}-{ratio})"
        ),
    )
    parser.add_argument(
        "--size",
        metavar="WxH",
        action="append",
        default=[],
        help="resize to this many pixels (Lanczos); repeat it for several, one folder each",
    )
    parser.add_argument(
        "--fit",
        choices=("inside", "cover"),
        default="inside",
        help=(
            "inside: keep the whole picture; cover: fill the size and crop the rest (default:"
            " inside)"
        ),
    )
    parser.add_argument("--ppi", type=args.within("ppi"), default=0)
    parser.add_argument(
        "--ground",
        metavar="WHICH",
        default="",
        help=(
            "transparent, white, black or #rrggbb: the colour behind transparent parts and around"
            " pictures that don't fill the size"
        ),
    )
    parser.add_argument(
        "--cut-out",
        action="store_true",
        help="cut out plain backgrounds; reports those that are not plain",
    )
    parser.add_argument(
        "--tolerance",
        metavar="N",
        type=args.within("tolerance"),
        default=0.0,
        help="how far a colour may differ from the background's (default: 0.06)",
    )
    parser.add_argument(
        "--as",
        metavar="FORMAT",
        dest="format",
        choices=("png", "jpeg", "webp"),
        default="",
        help="png, jpeg or webp (default: as they are)",
    )
    parser.add_argument(
        "--prompts",
        action="store_true",
        help="include prompts, in the list and in the pictures (default: none)",
    )
    parser.add_argument(
        "--licence-file",
        dest="licence",
        metavar="FILE",
        default="",
        help="a text to include as licence.txt",
    )
    parser.add_argument(
        "--use",
        metavar="TEXT",
        default="",
        help=(
            "what you know about the terms of use, where they are unknown or forbid it; included in"
            " the bundle"
        ),
    )
    parser.add_argument("--credit", default="")
    parser.add_argument("--title", default="")
    parser.examples(
        "syntagma bundle crossings --out crossings.zip --size 600x600 --ground white",
        "syntagma bundle 3 4 7-9 --out labels.zip --cut-out --ground transparent --name"
        ' "{number}-{subject}"',
    )


def run(call: Namespace) -> int:
    from syntagma.app.handing_on.bundles import (
        NAME,
        BundleSpec,
        kept_of_sheet,
        subjects_of,
        write_bundle,
    )
    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble
    from syntagma.storage.files import read_text
    from syntagma.storage.library import LibraryQuery

    workspace = Workspace.load(tell=terminal.left_out)
    how = BundleSpec(
        _wanted(call),
        call.name or NAME,
        call.prompts,
        read_text(call.licence, "a licence") if call.licence else "",
        call.use,
        call.title
        or (
            call.what[0]
            if call.what and not call.what[0][:1].isdigit()
            else "Results in this bundle"
        ),
        call.credit,
    )
    sheet = call.what[0] if call.what and not re.match(r"\d", call.what[0]) else ""
    if sheet and len(call.what) > 1:
        raise Trouble(
            "a bundle holds one sheet, or results by number",
            f"write syntagma bundle {sheet}, or the numbers alone",
            2,
        )
    with library_of(workspace, read_only=not sheet) as library:
        if sheet:
            new, gone = kept_of_sheet(workspace, library, sheet)
            if new:
                terminal.note(
                    f"{new} results of {sheet} were added to the library, as syntagma library add"
                    f" {sheet} does"
                )
            for file in gone:
                terminal.say((f"{file} is missing", terminal.WRONG), ", so it is not in the bundle")
        wanted = LibraryQuery(call.find, (), call.rating, "", call.label, sheet)
        chosen = (
            [library.get(number) for number in numbers_of(call.what)]
            if call.what and not sheet
            else library.find(wanted)[::-1]
        )
        if not chosen:
            raise Trouble(
                "nothing in the library matches",
                (
                    f"syntagma library --sheet {sheet} lists its results"
                    if sheet
                    else "`syntagma library` lists the results"
                ),
                1,
            )
        with terminal.Counting(len(chosen), "bundling") as seen:
            done = write_bundle(library, chosen, Path(call.out), how, subjects_of(workspace), seen)
    terminal.say(
        f"{call.out}: {done.results} result{'s' if done.results != 1 else ''} in {done.files}"
        f" file{'s' if done.files != 1 else ''},"
        f" {'with prompts' if call.prompts else 'without prompts'}",
        error=False,
    )
    if done.enlarged:
        terminal.note(
            f"{done.enlarged} had to be enlarged up to {done.times:.1f} times, which adds no detail"
        )
    for file, what in done.said:
        terminal.say((f"{file}  ", terminal.NAME), what)
    return 0


def _wanted(call: Namespace) -> list:
    """What pictures are brought to. Raises Trouble."""
    from syntagma.app.handing_on.bundles import Delivery
    from syntagma.core.diagnostics import Trouble

    ground = {"white": "#ffffff", "black": "#000000"}.get(call.ground, call.ground)
    if ground and ground != "transparent" and not re.fullmatch(r"#[0-9a-fA-F]{6}", ground):
        raise Trouble(
            f"“{call.ground}” is not a ground",
            "write transparent, white, black, or a colour as #f4efe2",
            2,
        )
    sizes = []
    for word in call.size or [""]:
        match = re.fullmatch(r"(\d{1,6})[x×](\d{1,6})", word)
        if word and not match:
            raise Trouble(f"“{word}” is not a size", "write 3000x3000: pixels wide, pixels high", 2)
        size = (
            (
                int(args.checked("pixels", match[1], "3000")),
                int(args.checked("pixels", match[2], "3000")),
            )
            if match
            else None
        )
        sizes.append(
            Delivery(
                size, int(call.ppi), call.fit, ground, call.cut_out, call.tolerance, call.format
            )
        )
    return sizes
