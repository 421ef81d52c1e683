"""start: a new workspace."""

from argparse import Namespace
from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("dir", metavar="DIR", help="the folder; it is made if it does not exist")
    parser.add_argument("--model")
    parser.examples(
        "syntagma start night-crossings", "syntagma start night-crossings --model curlew-still"
    )


def run(call: Namespace) -> int:
    from syntagma.app.workspace.tour import start

    made = start(Path(call.dir), call.model)
    for path in made:
        terminal.line(str(path))
    here = Path(call.dir).resolve() == Path.cwd()
    terminal.say(
        "\na workspace: write `syntagma formula`"
        if here
        else f"\na workspace: go there (cd {call.dir}) and try `syntagma formula`"
    )
    return 0
