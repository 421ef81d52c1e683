"""The options that ask for more than fills: picks, themes, looks, detail, parameters, references,
weight. They are the same on every command that writes prompts.
"""

from argparse import Namespace

from syntagma.cli import args


def arguments(parser: args.Parser) -> None:
    parser.add_argument("--theme")
    parser.add_argument("--look")
    parser.add_argument(
        "--detail",
        metavar="HOW",
        help="how much is filled: bare, usual or rich (open slots are picked; default: usual)",
    )
    parser.add_argument("--mine", action="store_true")
    parser.add_argument("--draw", type=args.within("draw"))
    manner_arguments(parser)


def plain_argument(parser: args.Parser) -> None:
    parser.add_argument(
        "--plain-csv",
        action="store_true",
        help=(
            "write .csv cells unchanged, for programs (by default a ' protects cells that a"
            " spreadsheet would run)"
        ),
    )


def manner_arguments(parser: args.Parser) -> None:
    """Parameters, references and weights."""
    parser.add_argument("--parameter", action="append", default=[])
    parser.add_argument(
        "--reference",
        metavar="ROLE=WHAT",
        action="append",
        default=[],
        help=(
            "a picture, an address or a handle: style=print.png, with its strength"
            " style=print.png*0.6"
        ),
    )
    parser.add_argument("--stress", action="append", default=[])


def form_argument(parser: args.Parser) -> None:
    """In which way it is written if no model is named."""
    parser.add_argument("--form", choices=("prose", "tags"), default="")


def as_form(call: Namespace) -> None:
    """Write in the form that is asked for, as for a model of that name. Raises Trouble if a model
    is named, too.
    """
    from syntagma.core.diagnostics import Trouble

    if call.form and call.model:
        raise Trouble(f"{call.model} has a form of its own", "leave --form or --model out", 2)
    call.model = call.form or call.model


def manner(call: Namespace):
    """Parameters, references and weights, as the call says. Raises Trouble."""
    from syntagma.app.asked import manner_of

    stress = args.pairs(call.stress, "--stress", "light=1.3")
    return manner_of(args.pairs(call.parameter, "--parameter", "ratio=2:3"), call.reference, stress)


def taste(call: Namespace):
    """How picks are made, as the call says."""
    from syntagma.app.asked import Taste

    return Taste(
        args.listed(call.theme),
        call.detail or "usual",
        1 if call.draw is None else call.draw,
        call.mine,
    )
