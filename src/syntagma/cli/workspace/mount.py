"""mount: make one of your own."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared


def arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser, ("new",))
    parser.add_argument("--opening", metavar="TEXT", default="", help="words before the content; [slots] are allowed")
    parser.add_argument("--closing", metavar="TEXT", default="", help="words behind it")
    parser.add_argument("--negative", metavar="TEXT", default="", help="what to keep out, between commas")
    parser.add_argument(
        "--parameter", metavar="NAME=VALUE", action="append", default=[], help="a parameter that goes with the look"
    )
    parser.add_argument(
        "--settles", metavar="FACET,…", default="", help="facets that these words settle, so that picks leave them blank"
    )
    parser.add_argument("--media", choices=("image", "video"), default="", help="what it is for (default: both)")
    parser.examples(
        'syntagma mount new winter-line --closing "cream and dark green, lamplight on wet paint" --negative "summer sky"',
        "syntagma mount new our-inks --like two-inks",
    )


def run(call) -> int:
    from syntagma.app.workspace.own_files import make_mount
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    path, remarks = make_mount(
        workspace, call.name, call.opening, call.closing, call.negative, args.pairs(call.parameter, "--parameter", "ratio=2:3"),
        call.like, call.about, call.when, call.media, args.listed(call.settles), call.own,
    )  # fmt: skip
    return shared.made(workspace, path, remarks, f"syntagma compose photograph --pick --mount {call.name}")
