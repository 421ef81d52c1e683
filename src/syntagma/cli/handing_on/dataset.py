"""dataset: pairs of an instruction and the prompt for it; and a check of such a file."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import WARNING, Finding

if TYPE_CHECKING:
    from syntagma.app.workspace.workspace import Workspace

SHOWN = 3  # instances of a finding


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "formulas", metavar="FORMULA", nargs="+", help="the formulas to write prompts with"
    )
    parser.add_argument("--count", dest="pairs", type=args.within("count"), default=300)
    parser.add_argument("--out", default="")
    parser.add_argument(
        "--layout",
        choices=("pairs", "chat"),
        default="pairs",
        help="instruction and prompt, or chat messages (default: pairs)",
    )
    parser.add_argument(
        "--system",
        metavar="TEXT",
        default="",
        help="with --form chat: the system message of each conversation",
    )
    parser.add_argument(
        "--test",
        metavar="SHARE",
        type=args.within("share"),
        default=0.1,
        help="the share for the test set (default: 0.1)",
    )
    parser.add_argument("--model")
    parser.add_argument("--draw", type=args.within("draw"), default=1)
    parser.add_argument("--rows", default="")
    parser.add_argument(
        "--agreed",
        dest="mine",
        action="store_true",
        help="with --rows: the people who filled them in agreed to this",
    )
    parser.add_argument("--rating", dest="kept", type=args.within("rating"))
    parser.add_argument(
        "--price-training", metavar="N", type=args.within("budget"), help="for a million tokens"
    )
    parser.add_argument(
        "--price-use",
        metavar="N",
        type=args.within("budget"),
        help="for a million tokens, of the trained model",
    )
    parser.add_argument(
        "--price-general",
        metavar="N",
        type=args.within("budget"),
        help="for a million tokens, of a general model that gets the brief",
    )
    parser.add_argument(
        "--epochs",
        metavar="N",
        type=args.within("epochs"),
        default=3,
        help="how often training goes through it (default: 3)",
    )
    parser.add_argument(
        "--uses",
        metavar="N",
        type=args.within("count"),
        default=1000,
        help="how many prompts to estimate the use for (default: 1000)",
    )
    parser.json("pairs")
    parser.examples(
        "syntagma dataset poster photograph --count 300 --out asked.jsonl",
        "syntagma dataset check asked-train.jsonl asked-test.jsonl",
    )


def _check_arguments(parser: args.Parser) -> None:
    parser.add_argument("files", metavar="FILE", nargs="+", help="a data set (.jsonl)")
    parser.add_argument("--formula", default="")
    parser.json("dataset")
    parser.examples("syntagma dataset check asked-train.jsonl asked-test.jsonl")


def run(call: Namespace) -> int:
    import json
    from contextlib import ExitStack

    from syntagma.app.handing_on.dataset import Maker, Tokens
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.files import whole_file

    workspace = Workspace.load(tell=terminal.left_out)
    maker = Maker(workspace, call.formulas, call.model, int(call.draw), call.test)
    own = _own(workspace, call)
    stem = Path(call.out).with_suffix("") if call.out else None
    counted, ways, splits, shown, records = Tokens(), {}, {}, [], []
    with ExitStack() as stack:
        files = (
            {
                split: stack.enter_context(whole_file(f"{stem}-{split}.jsonl"))
                for split in (("train", "test") if call.test else ("train",))
            }
            if stem
            else {}
        )
        seen = stack.enter_context(terminal.Counting(call.pairs, "making pairs"))
        for pair in maker.pairs(call.pairs, own):
            record = pair.record(call.layout, call.system)
            counted = counted.and_one(pair.instruction.text, pair.prompt)
            ways[pair.instruction.way] = ways.get(pair.instruction.way, 0) + 1
            splits[pair.split] = splits.get(pair.split, 0) + 1
            if files:
                files[pair.split].write(json.dumps(record, ensure_ascii=False) + "\n")
            elif call.json:
                records.append(record)
            elif len(shown) < 8:
                shown.append(pair)
            seen(pair.formula)
    if call.json:
        terminal.items(
            records,
            [
                Finding(WARNING, why, place=what, code="not-done")
                for what, why in maker.left.items()
            ],
        )
        return 1 if maker.left else 0
    for pair in shown:
        terminal.say((pair.instruction.text, terminal.NAME), error=False)
        terminal.line(f"  {pair.prompt}\n")
    where = " and ".join(
        f"{number:,} in {stem}-{split}.jsonl" if stem else f"{number:,} for {split}"
        for split, number in sorted(splits.items(), reverse=True)
    )
    terminal.say(
        f"{counted.pairs:,} pairs: {where}; {len(ways)} ways of asking,"
        f" {min(ways.values(), default=0):,} to {max(ways.values(), default=0):,} of each"
    )
    for what, why in maker.left.items():
        terminal.say((f"{what}: ", terminal.WRONG), why)
    _costs(workspace, call, counted)
    return 1 if maker.left else 0


def _own(workspace: Workspace, call: Namespace) -> list[dict[str, str]]:
    """Fills of the person's own, and what of them stays out. Raises Trouble."""
    found: list[dict[str, str]] = []
    if call.rows:
        from syntagma.app.handing_on.dataset import own_rows
        from syntagma.app.workspace.html_pages import read_table

        rows, left = own_rows(
            workspace, read_table(call.rows), call.formulas[0], call.rows, call.mine
        )
        found += rows
        if left:
            terminal.say(
                f"{left} row{'s' if left != 1 else ''} of {call.rows}"
                f" stay{'' if left != 1 else 's'} out: somebody else filled them in (--mine, if"
                " they agreed)"
            )
    if call.kept is not None:
        from syntagma.app.handing_on.dataset import kept_fills

        fills, forbidden = kept_fills(workspace, call.formulas[0], call.kept)
        found += fills
        if forbidden:
            terminal.say(
                f"{forbidden} result{'s' if forbidden != 1 else ''} of the library"
                f" stay{'' if forbidden != 1 else 's'} out: their terms of use forbid training, or"
                " are not known"
            )
    return found


def _costs(workspace: Workspace, call: Namespace, counted: Any) -> None:
    from syntagma.app.handing_on.dataset import Prices, cost_lines, pays_after

    prices = Prices(
        call.price_training, call.price_use, call.price_general, int(call.epochs), int(call.uses)
    )
    lines = cost_lines(workspace, call.formulas, call.model, counted, prices)
    terminal.say()
    columns = ("cost", "tokens, estimated", "money")
    priced = any(line[2] for line in lines)
    terminal.table(
        columns if priced else columns[:2],
        [line if priced else line[:2] for line in lines],
        columns[0],
    )
    if not priced:
        terminal.note(
            "give prices per million tokens (--price-training, --price-use, --price-general) to see"
            " this in money"
        )
    elif (after := pays_after(counted, lines, prices)) is not None:
        terminal.say(f"training pays for itself after {after:,} prompts")


def _check(call: Namespace) -> int:
    from syntagma.app.handing_on.dataset_checks import check, read_examples
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Refused, Trouble

    workspace = Workspace.load(tell=terminal.left_out)
    examples, broken = read_examples(call.files)
    formulas = {}
    for name in (
        [call.formula] if call.formula else sorted({e.formula for e in examples if e.formula})
    ):
        try:
            formulas["" if call.formula else name] = workspace.formula(name)[0]
        except (Trouble, Refused):
            if call.formula:
                raise
            terminal.note(f"the formula {name} is not here, so its fixed words were not checked")
    found = check(examples, broken, formulas)
    worst = bool(found.broken) or any(kind == "error" for kind, *_ in found.findings)
    if call.json:
        wrong = [m.record() for m in found.broken] + [
            Finding(kind, f"{number:,} × {what}", place="; ".join(where), code="dataset").record()
            for kind, number, what, where in found.findings
        ]
        lengths = {
            what: {"least": least, "middle": middle, "most": most}
            for what, least, middle, most in found.lengths
        }
        fixed = [{"words": words, "kept": count, "of": of} for words, count, of in found.kept]
        terminal.json(
            {
                "examples": found.examples,
                "splits": dict(found.splits),
                "formulas": dict(found.formulas),
                "lengths": lengths,
                "kept": fixed,
                "findings": wrong,
            }
        )
        return 1 if worst else 0
    splits = (
        f" ({', '.join(f'{n:,} {name}' for name, n in found.splits.items())})"
        if found.splits
        else ""
    )
    terminal.say(
        f"{found.examples:,} examples{splits}"
        + (f", {len(found.broken)} broken lines" if found.broken else ""),
        error=False,
    )
    for mistake in found.broken[:SHOWN]:
        terminal.say(mistake.shown(), error=False)
    for kind, number, what, where in found.findings:
        terminal.say(
            (kind, terminal.WRONG if kind == "error" else terminal.CHANGED),
            f" {number:,} × {what}",
            error=False,
        )
        for instance in where[:SHOWN]:
            terminal.say((f"    {instance}", terminal.QUIET), error=False)
        if len(where) > SHOWN:
            terminal.say((f"    … and {len(where) - SHOWN:,} more", terminal.QUIET), error=False)
    if not found.findings and not found.broken:
        terminal.say("no duplicates, near-duplicates, leaks or broken lines", error=False)
    if found.examples:
        terminal.table(
            ("length", "least", "middle", "most"),
            [(what, f"{a:,}", f"{b:,}", f"{c:,}") for what, a, b, c in found.lengths],
            "length",
        )
    for words, kept, of in found.kept:
        terminal.say(
            (f"{kept / max(1, of):.0%}", terminal.WRONG if kept < of else terminal.NAME),
            f" of {of:,} keep “{words}”",
            error=False,
        )
    return 1 if worst else 0


VERBS = {
    "check": args.Verb("check a data set, your own or someone else's", _check_arguments, _check)
}
