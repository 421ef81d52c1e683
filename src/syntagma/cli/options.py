"""The options that ask for more than fills: picks, themes, looks, detail, parameters, references, weight. They are the same on
every command that writes prompts."""

from syntagma.cli import args


def arguments(parser: args.Parser) -> None:
    parser.add_argument("--theme", metavar="A,B", help="lean picks towards a theme, or several (open slots are picked)")
    parser.add_argument("--look", metavar="A,B", help="looks put round it, the first inmost")
    parser.add_argument(
        "--detail", metavar="HOW", help="how much is filled: bare, usual or rich (open slots are picked; default: usual)"
    )
    parser.add_argument("--mine", action="store_true", help="picks keep to terms of your own, in the slots that have any")
    parser.add_argument("--draw", metavar="N", type=args.within("draw"), help="the number that fixes what is picked (default: 1)")
    manner_arguments(parser)


def plain_argument(parser: args.Parser) -> None:
    parser.add_argument(
        "--plain-csv", action="store_true", help="leave cells of .csv as they are, for programs (else ' stands before what a spreadsheet would run)"
    )


def manner_arguments(parser: args.Parser) -> None:
    """Parameters, references and weights."""
    parser.add_argument(
        "--parameter", metavar="NAME=VALUE", action="append", default=[], help="a parameter of the generator: ratio=2:3"
    )
    parser.add_argument(
        "--reference", metavar="ROLE=WHAT", action="append", default=[],
        help="a picture, an address or a handle: style=print.png, with its strength style=print.png*0.6",
    )  # fmt: skip
    parser.add_argument("--stress", metavar="SLOT=N", action="append", default=[], help="weight on a slot or a phrase: light=1.3")


def manner(call):
    """Parameters, references and weights, as the call says. Raises Trouble."""
    from syntagma.app.composing.asked import manner_of

    stress = args.pairs(call.stress, "--stress", "light=1.3")
    return manner_of(args.pairs(call.parameter, "--parameter", "ratio=2:3"), call.reference, stress)


def taste(call):
    """How picks are made, as the call says."""
    from syntagma.app.composing.asked import Taste

    return Taste(args.listed(call.theme), call.detail or "usual", 1 if call.draw is None else call.draw, call.mine)
