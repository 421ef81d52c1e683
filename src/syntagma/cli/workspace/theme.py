"""theme: the themes, which picks lean towards; one in full; one of your own."""

from argparse import Namespace

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared

HINT = "`syntagma compose FORMULA --theme NAME` picks with one; A,B leans on both"


def arguments(parser: args.Parser) -> None:
    shared.shelf_arguments(parser, "theme")
    parser.examples("syntagma theme", "syntagma theme night")


def run(call: Namespace) -> int:
    from syntagma.app.composing.catalogue import theme_card, theme_rows

    return shared.shelf(
        call, theme_card, _show, theme_rows, lambda rows: shared.blocks(rows, "theme", ""), HINT
    )


def _show(card: dict) -> None:
    terminal.say((card["theme"], terminal.NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        terminal.say((card["when"], terminal.QUIET), error=False)
    if card.get("world"):
        terminal.say((f"assumes: {card['world']}", terminal.QUIET), error=False)
    terminal.line()
    tags = [(tag, f"+{weight:g}") for tag, weight in card.get("lean", {}).items()]
    tags += [(tag, f"-{weight:g}") for tag, weight in card.get("avoid", {}).items()]
    terminal.table(("tag", "weight"), tags)
    if facets := card.get("facets"):
        terminal.line()
        rows = [
            (facet, key, "; ".join(v) if isinstance(v, list) else str(v))
            for facet, said in facets.items()
            for key, v in said.items()
        ]
        terminal.table(("facet", "says", "what"), rows, "what")
    terminal.example(card)
    for one in card.get("findings", ()):
        terminal.say((f"{one['kind']} ", terminal.QUIET), f"{one['message']}; {one['remedy']}")


def _new_arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser)
    parser.add_argument(
        "--lean",
        metavar="TAG:N,…",
        default="",
        help="tags to lean on, each with a weight (1 when left out)",
    )
    parser.add_argument("--avoid", metavar="TAG:N,…", default="", help="tags to keep away from")
    parser.add_argument(
        "--prefer",
        metavar="FACET=A;B",
        action="append",
        default=[],
        help="terms to prefer in a facet",
    )
    parser.add_argument(
        "--exclude", metavar="FACET=A;B", action="append", default=[], help="terms never to take"
    )
    parser.add_argument(
        "--only",
        metavar="FACET=TAG;TAG",
        action="append",
        default=[],
        help="tags that a facet's picks stay within",
    )
    parser.add_argument(
        "--fill",
        metavar="FACET=TERM",
        action="append",
        default=[],
        help="what fills a facet's open slots",
    )
    parser.add_argument(
        "--leave",
        metavar="FACET",
        action="append",
        default=[],
        help="a facet whose slots stay open",
    )
    parser.examples(
        'syntagma theme new crossing --lean sea:2,night --avoid day:3 --prefer "lighting=sodium'
        ' quay lamps; low moon behind scud"',
        "syntagma theme new our-winter --copy-of winter",
    )


def _new(call: Namespace) -> int:
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
        workspace,
        call.name,
        _weights(call.lean, "--lean"),
        _weights(call.avoid, "--avoid"),
        facets,
        call.like,
        call.about,
        call.when,
        call.own,
    )
    return shared.made(workspace, path, remarks, f"syntagma compose photograph --theme {call.name}")


def _weights(text: str, option: str) -> dict[str, float]:
    """Read night:3,sea. Raises Trouble."""
    weights: dict[str, float] = {}
    for word in args.listed(text):
        tag, colon, number = word.partition(":")
        weights[tag.strip()] = args.checked("weight", number, f"{option} {tag}:2") if colon else 1.0
    return weights


VERBS = {"new": args.Verb("make a theme of your own", _new_arguments, _new)}
