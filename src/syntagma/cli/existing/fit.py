"""fit: prompts into a model's limits, with the least loss."""

from syntagma.cli import args, prompt_input, terminal
from syntagma.core.diagnostics.findings import ERROR


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
    from syntagma.app.existing.fitting import fit_prompt
    from syntagma.app.workspace.workspace import Workspace

    workspace, prompts, records = Workspace.load(tell=terminal.left_out), prompt_input.Prompts.in_file(call.file), []
    errors = 0

    def one(source) -> None:
        nonlocal errors
        fit = fit_prompt(workspace, source, call.model)
        if call.json:
            errors += any(f.kind == ERROR for f in fit.findings)
            records.append(fit.record())
            return
        errors += any(f.kind == ERROR for f in fit.findings)
        if call.marked or (terminal.on_terminal() and fit.changed):
            terminal.lost(fit.bits, coloured=not call.marked)
        if not call.marked and fit.text:
            terminal.line(fit.text)
        if terminal.remarks_seen() and fit.limit:
            terminal.say((f"{prompts.name}:{fit.line} · {fit.used} of {fit.limit} {fit.unit}", terminal.QUIET))
        terminal.findings(fit.findings)

    prompts.each(one)
    if call.json:
        terminal.json(records)
    return prompts.close() or (1 if errors else 0)
