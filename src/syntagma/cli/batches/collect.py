"""collect: what was sent is asked for and fetched; what is not clear is looked up."""

from __future__ import annotations

import time
from argparse import Namespace
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.app.batches.collecting import Collector
    from syntagma.app.batches.sheets import Sheet
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.ledger import Ledger


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "name", metavar="NAME", nargs="?", default="", help="a sheet (default: every sheet)"
    )
    parser.add_argument("--wait", action="store_true", help="wait until everything has arrived")
    parser.add_argument(
        "--reconcile",
        action="store_true",
        help="compare the ledger with the services' own lists first",
    )
    parser.add_argument(
        "--statement",
        metavar="FILE",
        default="",
        help="compare it with a statement of the service (.csv, .xlsx: task, charged)",
    )
    parser.add_argument("--anyway", action="store_true")
    parser.add_argument(
        "--retry",
        dest="again",
        metavar="ID",
        action="append",
        default=[],
        help="send a take again, whatever happened to it; may be repeated",
    )
    parser.add_argument(
        "--cancel",
        metavar="ID",
        action="append",
        default=[],
        help="ask the service to stop a take (r1a2b3c4d5.2); may be repeated",
    )
    parser.add_argument("--at", default="")
    parser.json("collected")
    parser.examples("syntagma collect crossings --wait")


def run(call: Namespace) -> int:
    from syntagma.app.batches.collecting import Collector
    from syntagma.app.batches.sheets import Sheet, opened
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.cli.batches.sheet import money_shown
    from syntagma.core.diagnostics import Trouble

    if call.anyway and not call.reconcile:
        raise Trouble("--anyway goes with --reconcile", "syntagma collect --reconcile --anyway", 2)
    workspace = Workspace.load(tell=terminal.left_out)
    with (
        opened(workspace, read_only=True) as ledger,
        Collector(workspace, ledger, call.at) as collector,
    ):
        sheets = [
            Sheet(workspace, ledger, name)
            for name in ([call.name] if call.name else ledger.sheets())
        ]
        if call.reconcile:
            _reconciled(workspace, ledger, collector, sheets, call)
        if call.statement:
            for line in collector.statement(_statement(call.statement)):
                terminal.say(line)
        for name in call.cancel:
            _cancel(collector, sheets, name)
        for name in call.again:
            _again(collector, sheets, name)
        came = collector.look(call.name)
        try:
            with terminal.Counting(
                came.done + came.ended + came.under_way + came.unclear, "collecting"
            ) as tell:
                while call.wait and came.hopeful:
                    time.sleep(0.2)
                    before, came = came, collector.look(call.name)
                    for _ in range(max(0, came.done + came.ended - before.done - before.ended)):
                        tell(f"{came.under_way} under way", money_shown(ledger.spent(call.name)))
        except KeyboardInterrupt:
            terminal.say("stopped; run the same command to continue")
        for line in dict.fromkeys(came.told):
            terminal.say(line)
        return _shown(sheets, came, call)


def _reconciled(
    workspace: Workspace,
    ledger: Ledger,
    collector: Collector,
    sheets: Sequence[Sheet],
    call: Namespace,
) -> None:
    """The ledger compared with the services' lists; one that is a copy is the true one from here on
    only where every list was whole, or a person says so.
    """
    models = list(
        dict.fromkeys(
            row.model
            for sheet in sheets
            for row in sheet.rows.values()
            if row.model in workspace.models()
        )
    )
    said, whole = collector.doubts.reconcile(models, call.name)
    for line in dict.fromkeys(said):
        terminal.say(line)
    if not ledger.is_copy():
        return
    every = not call.name or ledger.sheets() == [call.name]
    if (whole and every) or call.anyway:
        ledger.is_true()
    else:
        why = "only one sheet was compared" if not every else "some lists are incomplete"
        terminal.say(
            f"this ledger is a copy, and {why}: nothing will be sent until syntagma collect"
            " --reconcile has compared it with every service, or you confirm with --anyway that"
            " nothing else was sent"
        )


def _again(collector: Collector, sheets: Sequence[Sheet], name: str) -> None:
    """A take that a person wants to be asked for once more."""
    from syntagma.app.batches.sheets import take_among
    from syntagma.core.diagnostics import Trouble

    sheet, take = take_among(sheets, name)
    if not collector.ask_again(sheet.name, take.id):
        raise Trouble(
            f"{take.id} is {take.state}, and the service never gave it a task number",
            "only takes that a service has can be fetched",
            2,
        )


def _statement(path: str) -> list[dict[str, str]]:
    """The lines of a statement. Raises Refused, Trouble."""
    from syntagma.app.workspace.html_pages import read_table
    from syntagma.core.diagnostics import Refused, Trouble

    columns, rows, mistakes = read_table(path)
    if mistakes:
        raise Refused(list(mistakes))
    names = {column: column.strip().lower() for column in columns}
    if not {"task", "charged"} <= set(names.values()):
        raise Trouble(
            f"{path} has no columns “task” and “charged”", "name them so in its first row", 1
        )
    return [{names[column]: cell for column, cell in row.cells.items()} for row in rows]


def _cancel(collector: Collector, sheets: Sequence[Sheet], name: str) -> None:
    import httpx

    from syntagma.app.batches.sheets import take_among
    from syntagma.core.diagnostics import Trouble
    from syntagma.service.client import Unreadable

    sheet, take = take_among(sheets, name)
    if take.state == "queued":
        why = "cancelled before it was sent"
        collector.ledger.set_take(sheet.name, take.id, why, state="cancelled", why=why, charged=0.0)
    elif take.state == "sent":
        try:
            told = collector.client(sheet.rows[take.row].model).cancel(take.task)
        except (httpx.HTTPError, Unreadable) as error:
            raise Trouble(f"{take.id} can't be cancelled: {error}", "it stays as it is") from None
        if told and told.state == "cancelled":
            why, charged = "cancelled", told.charged or 0.0
            collector.ledger.set_take(
                sheet.name, take.id, why, state="cancelled", why=why, charged=charged
            )
            terminal.say(f"{take.id} is cancelled")
        else:
            said = told.word if told else "nothing"
            terminal.say(f"{take.id} continues: the service says {said}")
    else:
        raise Trouble(
            f"{take.id} is {take.state}, and can't be cancelled",
            "only queued or sent takes can",
            2,
        )


def _shown(sheets: Sequence[Sheet], came: Any, call: Namespace) -> int:
    """The table at the end: what is in which state, by model, with money."""
    from syntagma.cli.batches.sheet import costs, money_shown

    rows: dict[str, dict[str, float]] = {}
    spent: dict[str, dict[str, float]] = {}
    for sheet in sheets:
        sheet.load()
        for name, takes in sheet.takes.items():
            row = sheet.rows[name]
            for take in takes:
                rows.setdefault(row.model, {})[take.state] = (
                    rows.setdefault(row.model, {}).get(take.state, 0) + 1
                )
                spent.setdefault(row.model, {})[row.currency] = (
                    spent.setdefault(row.model, {}).get(row.currency, 0.0) + take.spent
                )
    if call.json:
        terminal.json(
            {
                "done": came.done,
                "ended": came.ended,
                "under_way": came.under_way,
                "unclear": came.unclear,
                "models": [{"model": m, "takes": rows[m], "spent": costs(spent[m])} for m in rows],
            }
        )
    else:
        table = [
            (
                model,
                ", ".join(f"{int(count)} {state}" for state, count in states.items()),
                money_shown(spent[model]),
            )
            for model, states in rows.items()
        ]
        terminal.table(("model", "takes", "money"), table, "takes")
        if came.unclear:
            terminal.say(
                f"{came.unclear} unclear: it may or may not have been charged; syntagma collect"
                " --reconcile, or sheet settle NAME ID --lost or --task N"
            )
    return (
        1
        if came.unclear
        or any(
            state in ("refused", "failed", "expired")
            for states in rows.values()
            for state in states
        )
        else 0
    )
