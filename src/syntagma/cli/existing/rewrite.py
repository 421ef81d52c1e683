"""rewrite: a prompt into another formula, another model's form, another order; or some of its words
changed.
"""

from __future__ import annotations

from argparse import Namespace
from typing import TYPE_CHECKING

from syntagma.cli import args, options, prompt_input, terminal
from syntagma.core.diagnostics import ERROR, REMARK

if TYPE_CHECKING:
    from syntagma.app.existing.rewriting import RewrittenPrompt
    from syntagma.app.prompt_files import Source


def arguments(parser: args.Parser) -> None:
    prompt_input.arguments(parser, "rewritten")
    parser.add_argument("--formula")
    parser.add_argument("--written-with", dest="source", default="")
    parser.add_argument("--model")
    options.form_argument(parser)
    parser.add_argument(
        "--order",
        metavar="A,B",
        help="the parts that come first: facets, or camera, light, look, sound",
    )
    parser.add_argument("--set", action="append", default=[])
    parser.add_argument(
        "--swap",
        metavar="OLD=NEW",
        action="append",
        default=[],
        help="replace some words; articles and number around them follow",
    )
    parser.add_argument("--pick", action="store_true")
    options.arguments(parser)
    parser.examples(
        'syntagma rewrite "A harbour pilot checking a tide board, on a wet quay, lit by sodium quay'
        ' lamps" --formula poster --model dunlin-still',
        'syntagma rewrite "A signal lamp on a wet quay, low moon" --swap "signal lamp=oil lantern"'
        ' --set "lighting=hard noon sun"',
        'syntagma rewrite "A night purser counting tickets, medium shot, slow push-in" --order'
        " camera",
    )


def run(call: Namespace) -> int:
    from syntagma.app.asked import Ask
    from syntagma.app.existing.rewriting import RewriteRequest, rewrite
    from syntagma.app.reading import reader_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    options.as_form(call)
    workspace = Workspace.load(tell=terminal.left_out)
    pick = call.pick or bool(call.theme or call.detail)
    if pick and not call.formula:
        raise Trouble("--pick needs a formula", "name one: --formula photograph", 2)
    wanted = RewriteRequest(
        call.formula or "",
        args.listed(call.order),
        args.pairs(call.set, "--set", "lighting=full moonlight"),
        call.swap,
        call.source,
    )
    if not any((call.formula, call.model, call.order, call.set, call.swap, call.look, pick)):
        raise Trouble(
            "no change was asked for",
            "write --formula, --model, --form, --order, --set or --swap",
            2,
        )
    ask = Ask(
        call.formula or "",
        call.model,
        args.listed(call.look),
        options.taste(call),
        pick,
        (),
        options.manner(call),
    )
    if call.order and call.formula:
        raise Trouble("a formula has its own order", "leave --order or --formula out", 2)
    reader = reader_of(workspace, call.model)
    out = terminal.Items()
    prompts = prompt_input.CallPrompts.of(call)

    errors = 0

    def one(source: Source) -> None:
        nonlocal errors
        done = rewrite(workspace, source.text.strip(), ask, wanted, reader)
        errors += any(f.kind == ERROR for f in done.made.findings) if done.made else 0
        if call.json:
            out.add({**prompts.place(source), **_record(done)})
            if prompts.several and done.reading.broken:
                terminal.say(
                    (f"{prompts.name}:{source.line}", terminal.NAME),
                    f" this is not complete JSON: {done.reading.broken}",
                )
        else:
            if prompts.several and done.made and any(f.kind != REMARK for f in done.made.findings):
                terminal.say((f"{prompts.name}:{source.line}", terminal.NAME))
            _print(done)

    prompts.each(one)
    if call.json:
        out.close(prompts.findings)
    return prompts.close() or (1 if errors else 0)


def _record(done: RewrittenPrompt) -> dict[str, object]:
    from syntagma.app.reading import record_of

    record = done.made.record if done.made else {"text": done.text}
    unplaced = [one.text for one in done.made.heard.guests] if done.made and done.made.heard else []
    return (
        record | {"before": record_of(done.reading)} | ({"unplaced": unplaced} if unplaced else {})
    )


def _print(done: RewrittenPrompt) -> None:
    terminal.line(done.text)
    if done.made:
        terminal.findings(done.made.findings)
