"""tour: the whole job on the demo data, step by step."""

import os
from pathlib import Path

from syntagma.cli import args, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "dir", metavar="DIR", nargs="?", default="lantern-reach", help="where to leave the workspace (default: lantern-reach)"
    )
    parser.examples("syntagma tour", "syntagma tour my-look-round")


def run(call) -> int:
    from syntagma.app.workspace.tour import prepare, steps, summary
    from syntagma.cli import main

    folder = prepare(Path(call.dir))
    here = Path.cwd()
    worst = 0
    try:
        os.chdir(folder)
        for number, step in enumerate(steps(), 1):
            look.say(error=False)
            look.say((f"{number}. {step['say']}", "bold"), error=False)
            look.say((f"$ syntagma {step['run']}", look.NAME), error=False)
            status = main(step["words"])
            if status != step.get("status", 0):
                worst = max(worst, status or 1)
                look.say((f"this step ended with status {status}", look.WRONG))
    finally:
        os.chdir(here)
    look.say(error=False)
    for line in summary(folder, call.dir):
        look.say(line, error=False)
    return worst
