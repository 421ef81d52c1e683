"""form: a formula as a form for people who don't have the program; what comes back is a table of
fills.
"""

from argparse import Namespace
from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("formula", metavar="FORMULA", help="the formula to fill in")
    parser.add_argument("--out", required=True)
    parser.add_argument(
        "--blank-rows",
        dest="count",
        metavar="N",
        type=args.within("form-rows"),
        default=200,
        help="rows in a workbook (default: 200)",
    )
    parser.add_argument("--title", default="")
    parser.add_argument(
        "--message",
        dest="note",
        metavar="TEXT",
        default="",
        help="a sentence to the people who fill it in",
    )
    parser.examples(
        "syntagma form poster --out poster.xlsx",
        'syntagma form photograph --out photograph.html --title "Your picture of the harbour"',
    )


def run(call: Namespace) -> int:
    from syntagma.app.handing_on.forms import write_form
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    table = write_form(workspace, call.formula, Path(call.out), call.count, call.title, call.note)
    needed = [field.slot for field in table.fields if field.need]
    rows = f" and {call.count} rows" if call.out.lower().endswith(".xlsx") else ""
    terminal.say(
        f"{call.out}: a form with {len(table.fields)} fields{rows}"
        + (f"; needed: {', '.join(needed)}" if needed else ""),
        error=False,
    )
    unasked = [
        field.slot
        for field in table.fields
        if field.ask.replace(" ", "-").lower() == field.slot.lower()
    ]
    if unasked:
        terminal.note(
            f"{', '.join(unasked)} is asked by its slot name; to put it in other words, write in"
            ' [slots] ask = "…" in the words of those who fill it in'
        )
    terminal.say(
        ("what comes back: ", terminal.QUIET),
        f"syntagma compose {call.formula} --rows"
        f" {call.out if rows else Path(call.out).stem + '-filled.csv'}",
    )
    return 0
