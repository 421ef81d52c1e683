"""brief: the page that teaches an assistant to write in a formula; and its answer taken."""

from __future__ import annotations

from argparse import Namespace
from typing import TYPE_CHECKING

from syntagma.cli import args, options, prompt_input, terminal

if TYPE_CHECKING:
    from syntagma.app.workspace.workspace import Workspace


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "formula", metavar="FORMULA", help="the formula for the assistant to write in"
    )
    parser.add_argument("--count", type=args.within("prompts"), default=7)
    parser.add_argument(
        "--purpose",
        metavar="TEXT",
        dest="wish",
        default="",
        help="what the prompts are for, in a sentence",
    )
    parser.add_argument("--model")
    parser.add_argument("--theme")
    parser.add_argument("--draw", type=args.within("draw"), default=1)
    parser.add_argument(
        "--staged", action="store_true", help="three messages, with the reply to expect after each"
    )
    parser.add_argument(
        "--template", metavar="FILE", default="", help="your own layout (a Jinja template)"
    )
    parser.add_argument("--import", dest="take")
    parser.add_argument("--out")
    options.plain_argument(parser)
    parser.json("brief", "messages", "answer")
    parser.examples(
        'syntagma brief poster --count 7 --purpose "six night crossings" --model curlew-still',
        "syntagma brief poster --staged",
    )


def run(call: Namespace) -> int:
    from syntagma.app.asked import Taste
    from syntagma.app.handing_on.brief import STAGES, brief
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    workspace = Workspace.load(tell=terminal.left_out)
    if call.take:
        return _take(workspace, call)
    if call.out:
        raise Trouble("--out belongs to --import", "name the answer too: --import answer.txt", 2)
    taste = Taste(args.listed(call.theme), "usual", call.draw)
    if not call.staged:
        page = brief(
            workspace, call.formula, call.model, call.count, call.template, 0, call.wish, taste
        )
        terminal.json({"page": page}) if call.json else terminal.line(page, end="")
        return 0
    stages = [
        brief(workspace, call.formula, call.model, call.count, call.template, n, call.wish, taste)
        for n in (1, 2, 3)
    ]
    if call.json:
        terminal.items(
            {"message": text, "expect": expect} for text, expect in zip(stages, STAGES, strict=True)
        )
        return 0
    for number, (text, expect) in enumerate(zip(stages, STAGES, strict=True), 1):
        terminal.say((f"message {number}", "bold"), error=False)
        terminal.line(f"\n{text}")
        terminal.say((f"expect {expect}", terminal.QUIET), error=False)
        terminal.line()
    return 0


def _take(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.families.files import write_records
    from syntagma.app.handing_on.brief import records_of, take

    answer = prompt_input.text_of(call.take, "an answer")
    model = call.model or workspace.settings.get("model") or None
    found = take(workspace, answer, call.formula, model, call.count)
    records = records_of(workspace, found, call.formula, model)
    good = len(records)
    if call.json:
        wrong = [
            finding._replace(place=f"prompt {one.number}")
            for one in found.prompts
            if not one.good
            for finding in one.findings
        ]
        terminal.items(
            records, wrong, asked=found.asked, came=len(found.prompts), good=good, reply=found.reply
        )
    else:
        short = f"{found.asked} asked, {len(found.prompts)} came" + (
            "" if good == len(found.prompts) else f", {good} usable"
        )
        terminal.say((short, terminal.WRONG if good < found.asked else ""))
        if not call.out:
            for record in records:
                terminal.line(record["text"])
        for one in found.prompts:
            if one.text != one.came:
                terminal.say(
                    (f"{one.number} mended", terminal.QUIET), f"  {one.came}" if one.good else ""
                )
            if any(f.kind != "remark" for f in one.findings):
                terminal.say((f"{one.number}", "bold"), f"  {one.came}" if not one.good else "")
                terminal.findings(one.findings)
        if found.reply:
            terminal.say("\nsend back:")
            terminal.say(found.reply)
    if call.out and records:
        slots = list(dict.fromkeys(slot for record in records for slot in record.get("fills", {})))
        write_records(call.out, records, slots, (), call.plain_csv, terminal.note)
        terminal.say(f"{good} prompts in {call.out}")
    return 1 if good < max(found.asked, 1) else 0
