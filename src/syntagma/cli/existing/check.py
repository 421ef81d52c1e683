"""check: findings on prompts in a file, on a formula, or on the workspace."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING

from syntagma.cli import args, prompt_input, terminal
from syntagma.core.diagnostics import ERROR, WARNING

if TYPE_CHECKING:
    from syntagma.app.prompt_files import Source
    from syntagma.app.workspace.workspace import Workspace


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "file",
        metavar="FILE",
        nargs="?",
        help=(
            "prompts (.txt .csv .jsonl .json, - for standard input), a .formula file, or a formula"
            " by name (default: the whole workspace)"
        ),
    )
    parser.add_argument("--model")
    parser.add_argument(
        "--mend",
        action="store_true",
        help="fix what is certain, show the difference, and rewrite the file",
    )
    parser.add_argument("--out")
    parser.add_argument(
        "--request",
        action="store_true",
        help="print the request for each prompt, with its text unchanged",
    )
    parser.add_argument(
        "--paper",
        dest="print",
        metavar="SIZE",
        help="check whether the model's size is enough for a print of 50x70cm, or a3",
    )
    parser.add_argument("--ppi", dest="dpi", type=args.within("dpi"), default=300)
    parser.json("checked", "enlargings")
    parser.examples(
        "syntagma check",
        "syntagma compose poster medium=linocut subject=ferry | syntagma check - --model"
        " dunlin-still",
    )


def run(call: Namespace) -> int:
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if (
        call.file
        and not Path(call.file).exists()
        and call.file in workspace.formulas() | workspace.looks()
    ):
        call.file = str(
            (workspace.formulas() | workspace.looks())[call.file][-1][1]
        )  # a formula by its name
    if call.print:
        return _paper(workspace, call)
    if (call.mend or call.request) and (not call.file or call.file.endswith(".formula")):
        from syntagma.core.diagnostics import Trouble

        raise Trouble(
            f"{'--mend' if call.mend else '--request'} needs a file of prompts",
            "name one, or - for standard input",
            2,
        )
    if not call.file:
        return _workspace(workspace, call)
    if call.file.endswith(".formula"):
        return _formula(workspace, call)
    return _prompts(workspace, call)


def _workspace(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.existing.checks import check_world

    mistakes, remarks = check_world(workspace)
    if call.json:
        terminal.items([], [*mistakes, *(f._replace(place=name) for name, f in remarks)])
        return 1 if mistakes else 0
    if mistakes:
        terminal.mistakes(mistakes, error=False)
        terminal.line()
    for name, finding in remarks:
        terminal.say(f"{name}: {finding.message}\n  {finding.remedy}", error=False)
    facets = len(workspace.vocabulary.names)
    said = (
        f"{facets} facets, {len(workspace.formulas())} formulas, {len(workspace.models())} models"
    )
    terminal.say(f"{said}: {_number(len(mistakes), 'mistake')}", error=False)
    return 1 if mistakes else 0


def _formula(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.existing.checks import check_formula_file

    mistakes, remarks = check_formula_file(workspace, Path(call.file))
    if call.json:
        terminal.items([], [*mistakes, *remarks])
        return 1 if mistakes else 0
    if mistakes:
        terminal.mistakes(mistakes, error=False)
        terminal.line()
    for finding in remarks:
        terminal.say(f"{finding.place}: {finding.message}\n  {finding.remedy}", error=False)
    terminal.say(f"{call.file}: {_number(len(mistakes), 'mistake')}", error=False)
    return 1 if mistakes else 0


def _prompts(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.existing.checks import Checks, request_for

    if call.mend:
        _mend(workspace, call)
        if (call.out or call.file) == "-":
            return 0
    prompts = prompt_input.CallPrompts.in_file(call.out if call.mend and call.out else call.file)
    checks, out = Checks(workspace, call.model), terminal.Items()
    errors = warnings = 0

    def one(source: Source) -> None:
        nonlocal errors, warnings
        if call.request:
            terminal.json(request_for(workspace, source, call.model), one_line=True)
            return
        found = checks.check(source)
        errors += sum(f.kind == ERROR for f in found.findings)
        warnings += sum(f.kind == WARNING for f in found.findings)
        if call.json:
            out.add({**prompts.place(source), **found.record()})
        elif found.findings:
            start = terminal.shortened(found.text, 60)
            terminal.say((f"{prompts.name}:{found.line}", terminal.NAME), f"  {start}", error=False)
            terminal.told(found.findings)

    prompts.each(one)
    if call.json:
        out.close(prompts.findings)
    elif not call.request:
        terminal.say(
            f"{_number(prompts.good, 'prompt')}: {_number(errors, 'error')},"
            f" {_number(warnings, 'warning')}",
            error=False,
        )
    return prompts.close() or (1 if errors else 0)


def _mend(workspace: Workspace, call: Namespace) -> None:
    """Fix, show what differs, and write, all while the file is held, so nobody else writes it
    meanwhile. Raises Trouble.
    """
    from contextlib import nullcontext

    from syntagma.app.existing.checks import mend_prompts
    from syntagma.core.diagnostics import Trouble
    from syntagma.storage.files import held, write_text

    target = call.out or call.file
    if call.file.lower().endswith((".xlsx", ".parquet")) or target.lower().endswith(".xlsx"):
        raise Trouble(
            "--mend does not change workbooks", "export it as CSV UTF-8, and run --mend on that", 2
        )
    source = "standard input" if call.file == "-" else call.file
    with nullcontext() if target == "-" else held(target):
        text = prompt_input.text_of(call.file, "a file of prompts")
        new, changed, left = mend_prompts(workspace, text, source, call.model)
        for one in changed:
            terminal.say((f"{source}:{one.line}", terminal.NAME))
            terminal.difference(one.before, one.after)
        for one in left:
            terminal.say(
                (f"{source}:{one.line}", terminal.NAME),
                " could be fixed but was left: its place in the file is not clear",
            )
        if target == "-":
            terminal.line(new, end="")
        elif changed or call.out:
            write_text(target, new)
    terminal.say(
        f"{len(changed)} mended"
        + (f", written to {target}" if target != "-" and (changed or call.out) else "")
    )


def _paper(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.existing.checks import enlargings
    from syntagma.core.diagnostics import Trouble
    from syntagma.core.models.measure import read_print

    wanted = read_print(call.print, call.dpi)
    if wanted is None:
        raise Trouble(f"“{call.print}” is not a size of a print", "write 50x70cm, 20x30in or a3", 2)
    if not call.model:
        raise Trouble(
            "no model was named, so the size in pixels is unknown", "write --model curlew-still", 2
        )
    found = enlargings(workspace, call.model, wanted)
    if call.json:
        terminal.items(one._asdict() for one in found)
        return 0
    need = wanted.pixels
    terminal.say(
        f"{call.print} at {call.dpi} dots to an inch needs {need[0]} × {need[1]} pixels",
        error=False,
    )
    rows = []
    for one in found:
        enough = "enough" if one.times <= 1 else f"enlarge {one.times:.1f} times"
        cut = f"{one.cut:.0%} cut off" if one.cut >= 0.01 else ""
        rows.append(
            (
                one.ratio,
                f"{one.pixels[0]} × {one.pixels[1]}",
                enough,
                cut,
                f"{one.prints[0]:.0f} × {one.prints[1]:.0f} cm",
            )
        )
    terminal.table(
        ("ratio", "pixels", "for this print", "to fill it", "prints without enlarging"), rows
    )
    return 0


def _number(n: int, what: str) -> str:
    return f"{n or 'no'} {what}{'' if n == 1 else 's'}"
