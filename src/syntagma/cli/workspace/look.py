"""look: the looks, what is put round any content; one in full; one of your own."""

from argparse import Namespace

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared

HINT = "`syntagma compose FORMULA --look NAME` puts one around a prompt; A,B puts B around A"


def arguments(parser: args.Parser) -> None:
    shared.shelf_arguments(parser, "look")
    parser.examples("syntagma look", "syntagma look two-inks")


def run(call: Namespace) -> int:
    from syntagma.app.composing.catalogue import look_card, look_rows

    return shared.shelf(
        call,
        look_card,
        terminal.formula_card,
        look_rows,
        lambda rows: shared.blocks(rows, "look"),
        HINT,
    )


def _new_arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser)
    parser.add_argument(
        "--opening",
        metavar="TEXT",
        default="",
        help="words before the content; [slots] are allowed",
    )
    parser.add_argument("--closing", metavar="TEXT", default="", help="words after the content")
    parser.add_argument("--negative", default="")
    parser.add_argument("--parameter", action="append", default=[])
    parser.add_argument(
        "--settles",
        metavar="FACET,…",
        default="",
        help="facets that these words decide, so picks leave them blank",
    )
    parser.add_argument("--media", choices=("image", "video"), default="")
    parser.examples(
        'syntagma look new winter-line --closing "cream and dark green, lamplight on wet paint"'
        ' --negative "summer sky"',
        "syntagma look new our-inks --copy-of two-inks",
    )


def _new(call: Namespace) -> int:
    from syntagma.app.workspace.own_files import make_look
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    path, remarks = make_look(
        workspace,
        call.name,
        call.opening,
        call.closing,
        call.negative,
        args.pairs(call.parameter, "--parameter", "ratio=2:3"),
        call.like,
        call.about,
        call.when,
        call.media,
        args.listed(call.settles),
        call.own,
    )
    return shared.made(
        workspace, path, remarks, f"syntagma compose photograph --pick --look {call.name}"
    )


VERBS = {"new": args.Verb("make a look of your own", _new_arguments, _new)}
