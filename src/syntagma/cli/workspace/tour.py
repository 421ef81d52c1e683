"""tour: the whole job on the demo data, step by step."""

import os
from contextlib import chdir
from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "dir", metavar="DIR", nargs="?", default="lantern-reach", help="where to leave the workspace (default: lantern-reach)"
    )
    parser.examples("syntagma tour", "syntagma tour my-look-round")


def run(call) -> int:
    from syntagma.app.workspace.tour import edited, prepare, service, steps, summary
    from syntagma.cli import main

    folder = prepare(Path(call.dir))
    here = Path.cwd()
    worst = 0
    try:
        os.chdir(folder)
        with service(Path.cwd()) as at:
            for number, step in enumerate(steps(at), 1):
                terminal.say(error=False)
                terminal.say((f"{number}. {step['say']}", "bold"), error=False)
                if "edit" in step:
                    for line in edited(step["edit"]):
                        terminal.say(line, error=False)
                    continue
                where = f"({step['in']}) " if "in" in step else ""
                terminal.say((f"{where}$ syntagma {step['run']}", terminal.NAME), error=False)
                with chdir(step.get("in", ".")):
                    status = main(step["words"])
                if status not in (step.get("statuses") or [step.get("status", 0)]):
                    worst = max(worst, status or 1)
                    terminal.say((f"this step ended with status {status}", terminal.WRONG))
    finally:
        os.chdir(here)
    terminal.say(error=False)
    for line in summary(folder, call.dir):
        terminal.say(line, error=False)
    return worst
