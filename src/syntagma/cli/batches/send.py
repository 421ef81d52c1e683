"""send: the approved rows of a sheet to the services of their models."""

from __future__ import annotations

import signal
import sys
from argparse import Namespace
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.app.batches.sending import ModelShare, Sender


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="the sheet")
    parser.add_argument("--budget", type=args.within("budget"))
    parser.add_argument("--yes", action="store_true")
    parser.add_argument(
        "--first",
        metavar="N",
        type=args.within("count"),
        default=0,
        help="send at most this many takes, each of a different row, as proofs",
    )
    parser.add_argument("--free", action="store_true", help="stop at what would be charged")
    parser.add_argument(
        "--ungated",
        action="store_true",
        help="don't wait until stills are chosen: use the first result (needs a budget)",
    )
    parser.add_argument("--dry-run", dest="dry", action="store_true")
    parser.add_argument(
        "--code", metavar="TEXT", default="", help="a cost code of your own, to be recorded"
    )
    parser.add_argument("--at", default="")
    parser.json("requests", "sent")
    parser.examples(
        "syntagma send crossings --budget 40", "syntagma send crossings --first 3 --dry-run"
    )


def run(call: Namespace) -> int:
    from syntagma.app.batches.collecting import Collector
    from syntagma.app.batches.sending import Order, Sender, caps
    from syntagma.app.batches.sheets import Sheet, opened
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if (call.yes or call.ungated) and call.budget is None:
        raise Trouble(f"{'--yes' if call.yes else '--ungated'} needs a budget", "add --budget N", 2)
    workspace = Workspace.load(tell=terminal.left_out)
    with (
        opened(workspace, read_only=True) as ledger,
        Collector(workspace, ledger, call.at) as collector,
    ):
        order = Order(
            call.budget, caps(workspace.settings), call.first, call.free, call.ungated, call.code
        )
        sender = Sender(Sheet(workspace, ledger, call.name), collector, order)
        if call.dry:
            return _dry(sender, call)
        parts = sender.parts()
        for line in sender.told:
            terminal.say(line)
        sender.told.clear()
        if not parts:
            unclear = len(ledger.in_state(("unclear", "sending"), call.name))
            more = (
                f"; {unclear} {'is' if unclear == 1 else 'are'} unclear: syntagma collect"
                f" {call.name}"
                if unclear
                else ""
            )
            terminal.say(
                f"every approved row has been sent: syntagma sheet approve {call.name} …{more}"
            )
            return 1
        if not call.json:
            _foretold(parts, call)
        if not call.yes and not _agreed():
            terminal.say("nothing was sent")
            return 2
        return _sent(sender, parts, call.json)


def _dry(sender: Sender, call: Namespace) -> int:
    """What would go out, without any secret: as a table, with --json each request whole."""
    from syntagma.cli.batches.sheet import money_shown

    found = sender.dry()
    if call.json:
        terminal.items(found)
        return 0 if found else 1
    if not found:
        terminal.say(f"Nothing to send. To approve rows: syntagma sheet approve {call.name} …")
        return 1

    def cost(one: Mapping[str, Any]) -> str:
        return (
            money_shown({one["cost"]["currency"]: one["cost"]["amount"]})
            if "cost" in one
            else "no price"
        )

    rows = [
        (
            one["row"],
            one["takes"],
            f"{one['method']} {one['host']}{one['path']}",
            cost(one),
            one.get("waits", ""),
        )
        for one in found
    ]
    waiting = any(row[-1] for row in rows)
    terminal.table(
        ("row", "takes", "to", "at most", "waits for")[: 5 if waiting else 4],
        rows if waiting else [row[:4] for row in rows],
        "to",
        cut=True,
    )
    terminal.say(("--json shows each request whole", terminal.QUIET))
    return 0


def _foretold(parts: Sequence[ModelShare], call: Namespace) -> None:
    """What would be sent, to whom, what goes along, and what it costs at most."""
    from syntagma.cli.batches.sheet import money_shown

    def most(part: ModelShare) -> str:
        said = "nobody knows" if part.amount is None else money_shown({part.currency: part.amount})
        return (
            said
            + (f", including {part.tax:.0%} tax" if part.tax else "")
            + (f", {part.free} free today" if part.free else "")
        )

    terminal.table(
        ("model", "to", "rows", "takes", "at most"),
        [(p.model, p.host, p.rows, p.takes, most(p)) for p in parts],
        "at most",
    )
    sums: dict[str, float] = {}
    for part in parts:
        sums[part.currency] = sums.get(part.currency, 0.0) + (part.amount or 0.0)
        if part.files:
            terminal.hanging(("go along: ", terminal.QUIET), ", ".join(part.files), error=False)
    unpriced = [part.model for part in parts if part.amount is None]
    cap = f"; this run stops at {call.budget:g}" if call.budget is not None else ""
    more = f", plus the unknown cost of {' and '.join(unpriced)}" if unpriced else ""
    terminal.say(
        "in total"
        f" {money_shown({name: amount for name, amount in sums.items() if amount or not unpriced})}"
        f" at most{more}{cap}",
        error=False,
    )


def _agreed() -> bool:
    """Does the person want it sent? Raises Trouble if nobody can be asked."""
    from syntagma.core.diagnostics import Trouble

    if not sys.stdin.isatty():
        raise Trouble("nobody can be asked here", "say --yes --budget N", 2)
    sys.stderr.write("send? [y/N] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() in ("y", "yes")


def _sent(sender: Sender, parts: Sequence[ModelShare], as_json: bool) -> int:
    from syntagma.cli.batches.sheet import costs, money_shown

    before = signal.getsignal(signal.SIGINT)
    try:
        signal.signal(signal.SIGINT, lambda *_: sender.stop())
    except ValueError:  # not the main thread: nobody presses a key there
        before = None
    whole = sum(part.takes for part in parts)
    try:
        with terminal.Counting(whole, "sending") as tell:
            went = sender.run(
                lambda model, gone, of, spent: tell(f"{model} {gone} of {of}", money_shown(spent))
            )
    finally:
        if before is not None:
            signal.signal(signal.SIGINT, before)
    for line in went.told:
        terminal.say(line)
    if as_json:
        terminal.json(
            {
                "sent": went.sent,
                "refused": went.refused,
                "waiting": went.waiting,
                "unclear": went.unclear,
                "stopped": bool(sender.stopped),
                "spent": costs(went.spent),
            }
        )
    rest = [
        f"{count} {what}"
        for count, what in (
            (went.refused, "refused"),
            (went.waiting, "waiting"),
            (went.unclear, "unclear"),
        )
        if count
    ]
    stopped = ", stopped" if sender.stopped else ""
    what_next = (
        f"syntagma collect {sender.sheet.name} downloads the results"
        if went.sent or went.unclear
        else (
            f"run the same command to continue; syntagma sheet show {sender.sheet.name} shows the"
            " state"
        )
    )
    terminal.say(
        f"{went.sent} sent{stopped}{'; ' + ', '.join(rest) if rest else ''};"
        f" {money_shown(went.spent)} at most; {what_next}"
    )
    return 1 if went.ended or went.refused or went.unclear or sender.stopped else 0
