"""fit: prompts into a model's limits, with the least loss."""

import sys

from syntagma.cli import args, look
from syntagma.core.findings import ERROR


def arguments(parser: args.Parser) -> None:
    parser.add_argument("file", metavar="FILE", help="prompts (.txt .csv .jsonl .json), or - for standard input")
    parser.add_argument("--model", metavar="NAME", help="the generator to fit, whatever the records say")
    parser.add_argument("--marked", action="store_true", help="print the whole text, with what was lost between ‹- and -›")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples(
        "syntagma compose photograph --detail rich --draw 3 | syntagma fit - --model dunlin-still",
        "syntagma expand photograph --count 3 --json | syntagma fit - --model dunlin-still --marked",
    )


def run(call) -> int:
    from syntagma.app.fitwork import fit_prompts
    from syntagma.app.world import World
    from syntagma.storage.files import read_text

    source = "standard input" if call.file == "-" else call.file
    text = sys.stdin.read() if call.file == "-" else read_text(call.file, "a file of prompts")
    every = fit_prompts(World.load(), text, source, call.model)
    errors = 0
    if call.json:
        done = list(every)
        look.json([fit.record() for fit in done])
        return 1 if any(f.kind == ERROR for fit in done for f in fit.findings) else 0
    for fit in every:
        errors += any(f.kind == ERROR for f in fit.findings)
        if call.marked or (look.on_terminal() and fit.changed):
            look.lost(fit.bits, coloured=not call.marked)
        if not call.marked and fit.text:
            print(fit.text)
        sys.stdout.flush()
        if look.remarks_seen() and fit.limit:
            look.say((f"{source}:{fit.line} · {fit.used} of {fit.limit} {fit.unit}", look.QUIET))
        look.findings(fit.findings)
    return 1 if errors else 0
