"""The options that ask for picks, themes, mounts and detail: the same on every command that writes prompts."""

from syntagma.cli import args


def arguments(parser: args.Parser) -> None:
    parser.add_argument("--theme", metavar="A,B", help="lean picks towards a theme, or several (open slots are picked)")
    parser.add_argument("--mount", metavar="A,B", help="looks put round it, the first inmost")
    parser.add_argument(
        "--detail", metavar="HOW", help="how much is filled: bare, usual or rich (open slots are picked; default: usual)"
    )
    parser.add_argument("--draw", metavar="N", type=int, default=1, help="the number that fixes what is picked (default: 1)")


def taste(call):
    """How picks are made, as the call says."""
    from syntagma.app.asking import Taste

    return Taste(args.listed(call.theme), call.detail or "usual", call.draw)
