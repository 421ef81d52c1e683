"""model: describe a generator of one's own, or try a profile."""

import sys

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared


def arguments(parser: args.Parser) -> None:
    from syntagma.app.models.new_profile import QUESTIONS

    parser.add_argument("deed", choices=("new", "try"), help="what to do")
    parser.add_argument("name", metavar="NAME", help="its name: small letters and hyphens")
    for question in QUESTIONS:
        parser.add_argument(f"--{question.key}", metavar="TEXT", help=f"{question.words} {question.takes}".replace("%", "%%"))
    parser.add_argument(
        "--parameter", metavar="NAME=VALUES", action="append", default=[],
        help="new: a parameter with what it takes: seconds=4..12, rate=24,30, sound=flag, title=text; may be given again",
    )  # fmt: skip
    parser.add_argument("--base", metavar="OTHER", default="", help="a profile to build on: only what differs is written")
    parser.add_argument("--own", action="store_true", help="into your own folder, not the workspace")
    parser.add_argument("--ask", action="store_true", help="with try: ask its service what costs nothing (its list, a look-up), and say what the profile has wrong of it")
    parser.add_argument("--at", metavar="URL", default="", help="with --ask: where the stand-in is (for models whose service is on this machine)")
    parser.add_argument("--json", action="store_true", help="with try: print JSON")
    parser.examples(
        'syntagma model new night-press --register tags --limit "75 tokens" --ratios 1:1,2:3', "syntagma model try dunlin-still"
    )


def run(call) -> int:
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.trouble import Trouble

    if call.ask and call.deed != "try":
        raise Trouble("--ask belongs to model try", f"syntagma model try {call.name} --ask", 2)
    workspace = Workspace.load(tell=terminal.left_out)
    return _try(workspace, call) if call.deed == "try" else _new(workspace, call)


def _new(workspace, call) -> int:
    from syntagma.app.models.new_profile import QUESTIONS, make_model

    answers = {q.key: value for q in QUESTIONS if (value := getattr(call, q.key.replace("-", "_"))) is not None}
    if not answers and not call.base and not call.parameter and sys.stdin.isatty():
        answers = _asked(QUESTIONS)
    parameters = args.pairs(call.parameter, "--parameter", "seconds=4..12")
    path, remarks = make_model(workspace, call.name, answers, call.base, call.own, parameters)
    return shared.made(workspace, path, remarks, f"syntagma model try {call.name}")


def _asked(questions) -> dict[str, str]:
    """The answers of a person at the terminal; nothing takes what stands."""
    from prompt_toolkit import PromptSession
    from prompt_toolkit.output import create_output

    output = create_output(stdout=sys.stderr)
    output.enable_cpr = False
    session = PromptSession(output=output)
    answers: dict[str, str] = {}
    for question in questions:
        if question.key == "ratio-written" and not answers.get("ratios"):
            continue
        terminal.say((question.words, terminal.NAME), (f"  {question.takes}", terminal.QUIET))
        answers[question.key] = session.prompt(f"[{question.default}] › " if question.default else "› ").strip() or question.default
    return answers


def _try(workspace, call) -> int:
    from syntagma.app.models.trial import try_model
    from syntagma.core.diagnostics.findings import ERROR

    if call.ask:
        return _ask(workspace, call)
    tried = try_model(workspace, call.name)
    errors = sum(f.kind == ERROR for one in tried for f in one.findings)
    if call.json:
        terminal.json([one.record() for one in tried])
        return 1 if errors else 0
    for one in tried:
        terminal.say((one.sample, terminal.NAME), error=False)
        if one.prompt:
            terminal.say(f"  {one.prompt.text}".replace("\n", "\n  "), error=False)
            if one.prompt.negative:
                terminal.say(("  negative  ", terminal.QUIET), one.prompt.negative, error=False)
        terminal.told(one.findings)
    warned = sum(bool(one.findings) for one in tried)
    terminal.say(f"{len(tried)} samples: {errors or 'no'} error{'' if errors == 1 else 's'}, something to say of {warned}")
    return 1 if errors else 0


def _ask(workspace, call) -> int:
    """The service of a model asked what costs nothing."""
    from syntagma.app.batches.dealing.service_trial import slips
    from syntagma.app.batches.dealing.services import client_of

    client = client_of(workspace, workspace.model(call.name), call.at)
    try:
        found = slips(client)
    finally:
        client.close()
    if call.json:
        terminal.json({"model": call.name, "host": client.host, "slips": found})
        return 1 if found else 0
    for line in found:
        terminal.say(line, error=False)
    terminal.say(f"{client.host}: {len(found) or 'nothing'} {'slips' if len(found) > 1 else 'slip' if found else 'amiss'}; nothing was sent that costs")
    return 1 if found else 0
