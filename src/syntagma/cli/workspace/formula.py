"""formula: the formulas, one in full, and formulas of your own: made, checked, learned from
examples.
"""

import sys
from argparse import Namespace

from syntagma.cli import args, prompt_input, terminal
from syntagma.cli.workspace import shared
from syntagma.core.diagnostics import Trouble

# ──── formula learn: a formula of your own out of examples.


def learn_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a name for the formula")
    parser.add_argument(
        "examples",
        metavar="FILE",
        nargs="*",
        help=(
            "files with four or more examples (any format that read takes), or - for standard input"
        ),
    )
    parser.add_argument("--text")
    parser.add_argument(
        "--fixed",
        metavar="WORDS",
        action="append",
        default=[],
        help="words that are fixed everywhere; can be repeated",
    )
    parser.add_argument(
        "--open",
        metavar="WORDS",
        action="append",
        default=[],
        help="words that vary although all examples have them",
    )
    parser.add_argument("--column", default="")
    parser.add_argument(
        "--save",
        action="store_true",
        help=(
            "save to the workspace: the formula, new terms, and a look for parameters and negative"
            " text"
        ),
    )
    parser.add_argument("--own", action="store_true")
    parser.json("learned")
    parser.examples(
        "syntagma expand poster --count 6 --draw 4 | syntagma formula learn my-poster -",
        'syntagma formula learn night-shift --text "a night-shift baker shaping rye loaves on a'
        ' floured bench, one bare bulb, 35mm" --save',
    )


def learn(call: Namespace) -> int:
    from syntagma.app.existing.learning import learned, learned_from_one, save
    from syntagma.app.reading import sources_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if bool(call.examples) == (call.text is not None):
        raise Trouble(
            "formula learn takes files of examples, or one prompt",
            'name a file, or write --text "…"',
            2,
        )
    workspace = Workspace.load(tell=terminal.left_out)
    texts: list[str] = []
    unread = 0
    for what in call.examples:
        prompts = prompt_input.CallPrompts(
            iter(sources_of(what, call.column, sys.stdin.buffer)), what
        )
        texts += [source.text for source in prompts]
        unread += prompts.unread
    if call.text is not None:
        texts = [call.text]
        found = learned_from_one(workspace, call.text, call.name)
    else:
        found = learned(workspace, texts, call.name, call.fixed, call.open)
    missed = found.missed()
    if call.json:
        terminal.json(
            {
                "formula": found.learned.formula,
                "examples": len(texts),
                "exact": found.exact,
                "facets": found.learned.facets,
                "terms": found.learned.terms,
                "parameters": found.learned.parameters,
                "negative": found.learned.negative,
                "foreign": found.learned.foreign,
                "missed": [{"example": one, "again": other} for one, other in missed],
            }
        )
    else:
        terminal.line(found.learned.formula, end="")
    terminal.say(f"\nit reproduces {found.exact} of {len(texts)} examples exactly")
    for one, other in missed[:5]:
        terminal.say(("  example  ", terminal.QUIET), one)
        terminal.say(("  again    ", terminal.QUIET), other or "(it can't)")
    if len(missed) > 5:
        terminal.say((f"  and {len(missed) - 5} more", terminal.QUIET))
    for foreign in found.learned.foreign:
        terminal.say(("remark", terminal.QUIET), f" left out: {foreign}")
    for slot, column in found.learned.slots():
        if column.apart:
            terminal.say(
                ("remark", terminal.QUIET),
                f" {slot}: the vocabulary has few of its choices, so they become a new facet,"
                f" {column.apart}",
            )
    if call.save or call.own:
        for path in save(workspace, found, call.name, call.own):
            terminal.say(path)
        for _, column in found.learned.slots():
            if column.apart:
                terminal.say((f'to add more: syntagma term new {column.apart} "…"', terminal.QUIET))
        terminal.say(f"try it: syntagma compose {call.name} --pick")
    elif not call.json:
        terminal.say(("--save saves it; --fixed and --open correct it", terminal.QUIET))
    if unread:
        terminal.say(f"{unread} example{'' if unread == 1 else 's'} could not be read")
    return 1 if unread else 0


# ──── formula: the formulas, one in full, and formulas of your own: made, checked, learned from
# examples.


HINT = "`syntagma formula NAME` shows one in full; `syntagma compose NAME --pick` writes with it"


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one formula, by name or by file")
    parser.add_argument("--media", choices=("image", "video"))
    parser.add_argument("--find", default="")
    parser.add_argument("--short", action="store_true", help="a line each")
    parser.json("formulas", "formula")
    parser.examples("syntagma formula --media video", "syntagma formula poster")


def run(call: Namespace) -> int:
    from syntagma.app.composing.catalogue import formula_card, formula_rows

    rows = lambda workspace: formula_rows(workspace, call.media or "", call.find)  # noqa: E731
    return shared.shelf(
        call, formula_card, terminal.formula_card, rows, _short if call.short else _long, HINT
    )


def _short(rows: list[dict]) -> None:
    columns = ("formula", "medium", "slots", "what it makes")
    terminal.table(
        columns,
        [(r["formula"], r.get("media", "both"), len(r["slots"]), r.get("about", "")) for r in rows],
        columns[-1],
    )


def _long(rows: list[dict]) -> None:
    for row in rows:
        lines = [
            row.get("when") or row.get("about", ""),
            " › ".join(row["parts"]),
            row.get("example", {}).get("text", ""),
        ]
        terminal.block(row["formula"], row.get("media", "both"), lines)


def _new_arguments(parser: args.Parser) -> None:
    shared.making_arguments(parser)
    parser.add_argument(
        "line",
        metavar="LINE",
        nargs="?",
        default="",
        help="the formula on one line, with its slots in [brackets]",
    )
    parser.add_argument("--media", choices=("image", "video"), default="")
    parser.examples(
        'syntagma formula new crossing "[a medium] of [a subject], [setting as place]. [lighting]"',
        "syntagma formula new night-poster --copy-of poster",
    )


def _new(call: Namespace) -> int:
    from syntagma.app.workspace.own_files import make_formula
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    path, remarks = make_formula(
        workspace, call.name, call.line, call.like, call.about, call.when, call.media, call.own
    )
    return shared.made(workspace, path, remarks, f"syntagma compose {call.name} --pick")


def _check_arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="a formula, by name or by file")
    parser.examples("syntagma formula check poster")


def _check(call: Namespace) -> int:
    from pathlib import Path

    from syntagma.app.existing.checks import check_formula_file
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import perhaps

    workspace, name = Workspace.load(tell=terminal.left_out), call.name
    known = workspace.formulas() | workspace.looks()
    if name not in known and not Path(name).is_file():
        raise Trouble(
            f"no formula is called “{name}”",
            perhaps(name, known, "`syntagma formula` lists them"),
            2,
        )
    mistakes, remarks = check_formula_file(
        workspace, known[name][-1][1] if name in known else Path(name)
    )
    for mistake in mistakes:
        terminal.say(mistake.shown(), error=False)
    terminal.findings(remarks)
    terminal.say(
        (
            f"{name}: {len(mistakes)} mistake{'' if len(mistakes) == 1 else 's'}"
            if mistakes
            else f"{name}: no mistakes"
        ),
        error=False,
    )
    return 1 if mistakes else 0


VERBS = {
    "new": args.Verb("make a formula of your own", _new_arguments, _new),
    "check": args.Verb("check one", _check_arguments, _check),
    "learn": args.Verb(
        "learn one from four or more examples, or from one prompt", learn_arguments, learn
    ),
}
