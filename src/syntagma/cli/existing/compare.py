"""compare: two prompts part by part."""

import sys
from argparse import Namespace

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "first", metavar="A", help="a prompt in quotes, a file with one, or - for standard input"
    )
    parser.add_argument("second", metavar="B", help="the other")
    parser.json("comparison")
    parser.examples(
        'syntagma compare "A red ferry on a wet quay, full moonlight" "A red ferry in a harbour,'
        ' hard noon sun, 85mm lens"'
    )


def run(call: Namespace) -> int:
    from syntagma.app.reading import in_few_parts, manageable, one_of, reader_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.cli.existing import read
    from syntagma.core.reading.prompt_pieces import compare

    reader = reader_of(Workspace.load(tell=terminal.left_out))
    texts = [
        manageable(one_of(what, piped=sys.stdin.buffer), "to be compared")
        for what in (call.first, call.second)
    ]
    found = compare(*(in_few_parts(reader.read(text), "to be compared") for text in texts))
    if call.json:
        pairs = [
            {
                "how": p.how,
                "facet": p.facet,
                "first": p.first.text if p.first else None,
                "second": p.second.text if p.second else None,
            }
            for p in found.pairs
        ]
        terminal.json({"distance": found.distance, "parts": pairs})
    else:
        read.comparison(found)
    return 0
