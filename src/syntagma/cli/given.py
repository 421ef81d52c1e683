"""What read, recast and condense begin with: the prompts that are given, on the call, in a file or on a pipe."""

import sys
from collections.abc import Iterator

from syntagma.cli import args


def arguments(parser: args.Parser) -> None:
    """The prompts, and what is said of them: which column holds them, and how they are printed."""
    parser.add_argument(
        "prompt",
        metavar="PROMPT",
        help="a prompt in quotes, a file of prompts (.txt .csv .xlsx .json .jsonl), or - for standard input",
    )
    parser.add_argument(
        "--column", metavar="NAME", default="", help="the column of a table, or the key of records, that holds the prompts"
    )
    parser.add_argument("--json", action="store_true", help="print JSON")


def prompts(call) -> Iterator:
    """The prompts of a call, as they come. Raises Trouble where there is none."""
    from syntagma.app.readwork import sources_of
    from syntagma.storage.trouble import Trouble

    empty = True
    for source in sources_of(call.prompt, call.column, sys.stdin.buffer):
        empty = False
        yield source
    if empty:
        what = "standard input" if call.prompt == "-" else call.prompt
        raise Trouble(f"{what} holds no prompt", "name a file with a prompt in it", 2)
