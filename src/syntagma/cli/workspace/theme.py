"""theme: make one of your own."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared


def arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser, ("new",))
    parser.add_argument("--lean", metavar="TAG:N,…", default="", help="tags to lean on, each with a weight (1 when left out)")
    parser.add_argument("--avoid", metavar="TAG:N,…", default="", help="tags to keep away from")
    parser.add_argument("--prefer", metavar="FACET=A;B", action="append", default=[], help="terms to prefer in a facet")
    parser.add_argument("--exclude", metavar="FACET=A;B", action="append", default=[], help="terms never to take")
    parser.add_argument("--only", metavar="FACET=TAG;TAG", action="append", default=[], help="tags that a facet's picks keep to")
    parser.add_argument(
        "--fill", metavar="FACET=TERM", action="append", default=[], help="what stands in the open slots of a facet"
    )
    parser.add_argument("--leave", metavar="FACET", action="append", default=[], help="a facet whose slots stay open")
    parser.examples(
        'syntagma theme new crossing --lean sea:2,night --avoid day:3 --prefer "lighting=sodium quay lamps; low moon behind scud"',
        "syntagma theme new our-winter --like winter",
    )


def run(call) -> int:
    from syntagma.app.workspace.own_files import make_theme
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    facets: dict[str, dict[str, object]] = {}
    for key in ("prefer", "exclude", "only", "fill"):
        for facet, text in args.pairs(getattr(call, key), f"--{key}", "lighting=…").items():
            listed = [part.strip() for part in text.split(";") if part.strip()]
            facets.setdefault(facet, {})[key] = listed if key in ("prefer", "exclude") else text
    for facet in call.leave:
        facets.setdefault(facet, {})["leave"] = True
    path, remarks = make_theme(
        workspace, call.name, _weights(call.lean, "--lean"), _weights(call.avoid, "--avoid"), facets, call.like, call.about,
        call.when, call.own,
    )  # fmt: skip
    return shared.made(workspace, path, remarks, f"syntagma compose photograph --theme {call.name}")


def _weights(text: str, option: str) -> dict[str, float]:
    """Read night:3,sea. Raises Trouble."""
    weights: dict[str, float] = {}
    for word in args.listed(text):
        tag, colon, number = word.partition(":")
        weights[tag.strip()] = args.checked("weight", number, f"{option} {tag}:2") if colon else 1.0
    return weights
