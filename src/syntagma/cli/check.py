"""check: findings on prompts in a file, on a formula, or on the workspace."""

import sys
from pathlib import Path

from syntagma.cli import args, look
from syntagma.core.findings import ERROR


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "file",
        metavar="FILE",
        nargs="?",
        help="prompts (.txt .csv .jsonl .json, - for standard input) or a .formula; without it, all that is in force",
    )
    parser.add_argument("--model", metavar="NAME", help="the generator to check against, whatever the records say")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples(
        "syntagma check", "syntagma compose poster medium=linocut subject=ferry | syntagma check - --model dunlin-still"
    )


def run(call) -> int:
    from syntagma.app.world import World

    world = World.load()
    if not call.file:
        return _world(world, call)
    if call.file.endswith(".formula"):
        return _formula(world, call)
    return _prompts(world, call)


def _world(world, call) -> int:
    from syntagma.app.checking import check_world

    mistakes, remarks = check_world(world)
    if call.json:
        look.json([_mistake(m) for m in mistakes] + [{"in": name, **f.record()} for name, f in remarks])
        return 1 if mistakes else 0
    for mistake in mistakes:
        print(mistake.shown() + "\n")
    for name, finding in remarks:
        print(f"{name}: {finding.message}\n  {finding.remedy}")
    facets = len(world.vocabulary.names)
    said = f"{facets} facets, {len(world.formulas())} formulas, {len(world.models())} models"
    print(f"{said}: {_number(len(mistakes), 'mistake')}")
    return 1 if mistakes else 0


def _formula(world, call) -> int:
    from syntagma.app.checking import check_formula_file

    mistakes, remarks = check_formula_file(world, Path(call.file))
    if call.json:
        look.json([_mistake(m) for m in mistakes] + [f.record() for f in remarks])
        return 1 if mistakes else 0
    for mistake in mistakes:
        print(mistake.shown() + "\n")
    for finding in remarks:
        print(f"{finding.place}: {finding.message}\n  {finding.remedy}")
    print(f"{call.file}: {_number(len(mistakes), 'mistake')}")
    return 1 if mistakes else 0


def _prompts(world, call) -> int:
    from syntagma.app.checking import check_prompts
    from syntagma.storage.files import read_text

    source = "standard input" if call.file == "-" else call.file
    text = sys.stdin.read() if call.file == "-" else read_text(call.file, "a file of prompts")
    checked = check_prompts(world, text, source, call.model)
    errors = sum(f.kind == ERROR for c in checked for f in c.findings)
    others = sum(len(c.findings) for c in checked) - errors
    if call.json:
        look.json([c.record() for c in checked])
        return 1 if errors else 0
    for one in checked:
        if not one.findings:
            continue
        start = one.text if len(one.text) <= 60 else one.text[:59] + "…"
        look.say((f"{source}:{one.line}", look.NAME), f"  {start}", error=False)
        for finding in one.findings:
            style = look.WRONG if finding.kind == ERROR else look.CHANGED
            look.say("  ", (finding.kind, style), f" {finding.message}", (f"; {finding.remedy}", look.QUIET), error=False)
    print(f"{_number(len(checked), 'prompt')}: {_number(errors, 'error')}, {_number(others, 'warning')}")
    return 1 if errors else 0


def _mistake(mistake) -> dict:
    return {
        "kind": ERROR,
        "file": mistake.source,
        "line": mistake.line,
        "column": mistake.column,
        "message": mistake.message,
        "remedy": mistake.remedy,
    }


def _number(n: int, what: str) -> str:
    return f"{n or 'no'} {what}{'' if n == 1 else 's'}"
