"""model: the generators, one in full, ranked for a piece of work; one of your own described and
tried.
"""

from __future__ import annotations

import sys
from argparse import Namespace
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, options, terminal
from syntagma.cli.workspace import shared

if TYPE_CHECKING:
    from syntagma.app.workspace.workspace import Workspace


def arguments(parser: args.Parser) -> None:
    shared.shelf_arguments(parser, "model")
    parser.examples("syntagma model", "syntagma model dunlin-still")


def run(call: Namespace) -> int:
    from syntagma.app.models.cards import model_card, model_rows

    return shared.shelf(call, model_card, terminal.model_card, model_rows, _table, HINT)


WRITTEN = {
    "negative": "negative-place",
    "stress": "weight",
}  # options whose word means something else elsewhere
LONG = 200  # letters of a finding that are shown of a sample
HINT = "`syntagma model NAME` shows one in full; `syntagma model rank FORMULA` ranks them"


def _table(rows: list[dict]) -> None:
    columns = ("model", "media", "limit", "price", "about")
    terminal.table(columns, [[row.get(column, "") for column in columns] for row in rows], "about")


def _rank_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "formula",
        metavar="FORMULA",
        help="a formula, to rank them by what each would lose of it and cost",
    )
    parser.add_argument("fills", metavar="slot=text", nargs="*", help="what fills the slots")
    parser.add_argument("--look")
    parser.add_argument(
        "--at-most",
        dest="budget",
        metavar="N",
        type=args.within("budget"),
        help="only models that cost at most this per prompt",
    )
    options.manner_arguments(parser)
    parser.json("ranked")
    parser.examples("syntagma model rank dialogue-shot --parameter seconds=8")


def _rank(call: Namespace) -> int:
    from syntagma.app.models.cards import rank
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.models.prices import priced

    workspace = Workspace.load(tell=terminal.left_out)
    ranked = rank(
        workspace,
        call.formula,
        args.fills(call.fills),
        options.manner(call),
        args.listed(call.look),
        call.budget,
    )
    if call.json:
        terminal.items(one.record() for one in ranked)
        return 0
    rows = []
    for number, one in enumerate(ranked, 1):
        price = priced(one.cost, one.currency) if one.cost is not None else "no price"
        rows.append((number, one.model, price, "; ".join(one.losses) or "nothing"))
    terminal.table(("#", "model", "costs", "loses"), rows, "loses")
    return 0


def _schema_arguments(parser: args.Parser) -> None:
    parser.examples("syntagma model schema")


def _schema(call: Namespace) -> int:
    from syntagma.core.models.profile_file import profile_schema

    terminal.json(profile_schema())
    return 0


def _new_arguments(parser: args.Parser) -> None:
    from syntagma.app.models.new_profile import QUESTIONS

    parser.add_argument("name", metavar="NAME", help="its name: small letters and hyphens")
    for question in QUESTIONS:
        if question.key == "media":
            parser.add_argument("--media", choices=("image", "video", "both"))
            continue
        parser.add_argument(
            f"--{WRITTEN.get(question.key, question.key)}",
            dest=question.key.replace("-", "_"),
            metavar="TEXT",
            help=f"{question.words} {question.takes}".replace("%", "%%"),
        )
    parser.add_argument(
        "--accepts",
        dest="parameter",
        metavar="NAME=VALUES",
        action="append",
        default=[],
        help=(
            "a parameter and its values: seconds=4..12, rate=24,30, sound=flag, title=text; can be"
            " repeated"
        ),
    )
    parser.add_argument(
        "--base",
        metavar="OTHER",
        default="",
        help="a profile to build on; the new one holds only the differences",
    )
    parser.add_argument("--own", action="store_true")
    parser.examples(
        'syntagma model new night-press --register tags --limit "75 tokens" --ratios 1:1,2:3'
    )


def _try_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a model, by name or by file")
    parser.add_argument(
        "--probe",
        dest="ask",
        action="store_true",
        help=(
            "test its service with calls that cost nothing (list, look-up), and report what the"
            " profile has wrong"
        ),
    )
    parser.add_argument("--at", default="")
    parser.json("tried", "slips")
    parser.examples("syntagma model try dunlin-still")


def _new(call: Namespace) -> int:
    from syntagma.app.models.new_profile import QUESTIONS, make_model
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    answers = {
        q.key: value
        for q in QUESTIONS
        if (value := getattr(call, q.key.replace("-", "_"))) is not None
    }
    if not answers and not call.base and not call.parameter and sys.stdin.isatty():
        answers = _asked(QUESTIONS)
    parameters = args.pairs(call.parameter, "--accepts", "seconds=4..12")
    path, remarks = make_model(workspace, call.name, answers, call.base, call.own, parameters)
    return shared.made(workspace, path, remarks, f"syntagma model try {call.name}")


def _asked(questions: Any) -> dict[str, str]:
    """The answers of a person at the terminal; a blank answer keeps the default."""
    from prompt_toolkit import PromptSession
    from prompt_toolkit.output import create_output

    output = create_output(stdout=sys.stderr)
    output.enable_cpr = False  # type: ignore[attr-defined]  # of the terminals that have it
    session = PromptSession(output=output)
    answers: dict[str, str] = {}
    for question in questions:
        if question.key == "ratio-written" and not answers.get("ratios"):
            continue
        terminal.say((question.words, terminal.NAME), (f"  {question.takes}", terminal.QUIET))
        answers[question.key] = (
            session.prompt(f"[{question.default}] › " if question.default else "› ").strip()
            or question.default
        )
    return answers


def _try(call: Namespace) -> int:
    from syntagma.app.models.new_profile import try_model
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import ERROR

    workspace = Workspace.load(tell=terminal.left_out)
    if call.ask:
        return _ask(workspace, call)
    tried = try_model(workspace, call.name)
    errors = sum(f.kind == ERROR for one in tried for f in one.findings)
    if call.json:
        terminal.items(one.record() for one in tried)
        return 1 if errors else 0
    for one in tried:
        terminal.say((one.sample, terminal.NAME), error=False)
        if one.prompt:
            terminal.say(f"  {one.prompt.text}".replace("\n", "\n  "), error=False)
            if one.prompt.negative:
                terminal.say(("  negative  ", terminal.QUIET), one.prompt.negative, error=False)
        terminal.told(
            [
                found._replace(message=terminal.shortened(found.message, LONG))
                for found in one.findings
            ]
        )
    warned = sum(bool(one.findings) for one in tried)
    terminal.say(
        f"{len(tried)} samples: {errors or 'no'} error{'' if errors == 1 else 's'}, {warned} with"
        " remarks"
    )
    return 1 if errors else 0


def _ask(workspace: Workspace, call: Namespace) -> int:
    """The service of a model asked what costs nothing."""
    from syntagma.app.batches.services import client_of, slips
    from syntagma.core.diagnostics import ERROR, Finding

    client = client_of(workspace, workspace.model(call.name), call.at)
    try:
        found = slips(client)
    finally:
        client.close()
    if call.json:
        terminal.items(
            [],
            [Finding(ERROR, line, place=client.host, code="slip") for line in found],
            model=call.name,
            host=client.host,
        )
        return 1 if found else 0
    for line in found:
        terminal.say(line, error=False)
    terminal.say(
        f"{client.host}: {len(found) or 'nothing'}"
        f" {'slips' if len(found) > 1 else 'slip' if found else 'wrong'}; nothing was sent that"
        " costs money"
    )
    return 1 if found else 0


VERBS = {
    "rank": args.Verb("rank them for a piece of work", _rank_arguments, _rank),
    "new": args.Verb("describe a generator of your own", _new_arguments, _new),
    "try": args.Verb("try a profile on sample prompts", _try_arguments, _try),
    "schema": args.Verb(
        "print the JSON Schema of profiles, for an editor", _schema_arguments, _schema
    ),
}
