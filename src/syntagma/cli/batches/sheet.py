"""sheet: tables that are looked over before anything is paid for."""

from __future__ import annotations

from argparse import Namespace
from collections.abc import Callable, Iterable
from contextlib import nullcontext
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.app.batches.sheets import Sheet
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.sheets import SheetRow
    from syntagma.storage.ledger import Ledger


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "name",
        metavar="NAME",
        nargs="?",
        default="",
        help="the sheet to show (default: a list of all)",
    )
    _rows(parser)
    _out(parser)
    parser.json("sheets", "rows")
    parser.examples(
        "syntagma sheet",
        "syntagma sheet crossings",
        "syntagma sheet new posters crossings.jsonl --out posters.xlsx",
    )


def _name(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", help="the sheet")


def _rows(parser: args.Parser) -> None:
    parser.add_argument("more", metavar="ID", nargs="*", help="ids of rows")
    parser.add_argument(
        "--where",
        metavar="CONDITION",
        default="",
        help='rows by their columns: "cost>4", "text~ferry", "status=open and model=curlew-still"',
    )


def _out(parser: args.Parser) -> None:
    parser.add_argument("--out", default="")


def _new_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument(
        "more", metavar="FILE", nargs="*", help="files of prompts (.jsonl .json .csv .xlsx .txt)"
    )
    _out(parser)
    parser.examples("syntagma sheet new posters crossings.jsonl --out posters.xlsx")


def _show_arguments(parser: args.Parser) -> None:
    _name(parser)
    _rows(parser)
    _out(parser)
    parser.json("rows")
    parser.examples('syntagma sheet show crossings --where "cost>3"')


def _import_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument(
        "more", metavar="FILE", nargs="*", help="edited copies of the sheet (.xlsx, .csv)"
    )
    parser.examples("syntagma sheet import crossings COPY.xlsx")


def _status_arguments(verb: str):
    def arguments(parser: args.Parser) -> None:
        _name(parser)
        _rows(parser)
        parser.add_argument("--all", action="store_true")
        if verb == "approve":
            parser.add_argument("--anyway", action="store_true")
        else:
            parser.set_defaults(anyway=False)
        parser.examples(f'syntagma sheet {verb} crossings --where "status=removed"')

    return arguments


def _redraw_arguments(parser: args.Parser) -> None:
    _name(parser)
    _rows(parser)
    parser.add_argument("--draw", type=args.within("draw"), default=2)
    parser.examples("syntagma sheet redraw crossings ROW --draw 3")


def _choose_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument("more", metavar="TAKE", nargs="+", help="ids of takes (r1a2b3c4d5.2)")
    parser.examples("syntagma sheet choose crossings TAKE")


def _settle_arguments(parser: args.Parser) -> None:
    _name(parser)
    parser.add_argument("more", metavar="TAKE", nargs="+", help="the id of a take (r1a2b3c4d5.2)")
    parser.add_argument("--task", metavar="N", default="", help="its task number at the service")
    parser.add_argument("--lost", action="store_true", help="the service never received it")
    parser.add_argument("--accept", action="store_true", help="accept the result as it is")
    parser.examples("syntagma sheet settle crossings TAKE --lost")


def _log_arguments(parser: args.Parser) -> None:
    _name(parser)
    _rows(parser)
    parser.json("log")
    parser.examples('syntagma sheet log crossings --where "status=removed"')


def run(call: Namespace) -> int:
    if call.name:
        return _named(call)
    from syntagma.app.batches.sheets import opened
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    with opened(workspace, read_only=True) as ledger:
        return _list(workspace, ledger, call)


def _named(call: Namespace) -> int:
    """Show the sheet of that name; a verb that is mistyped comes as one, too."""
    from syntagma.core.diagnostics import Trouble

    try:
        return _on_sheet(_show, False)(call)
    except Trouble:
        if call.more:
            args.no_verb("sheet", [call.name, *call.more], VERBS)
        raise


def _on_sheet(work: Callable[..., int], edits: bool):
    """Runs a verb on the sheet that the call names. Two that edit never go on at once."""

    def run(call: Namespace) -> int:
        from syntagma.app.batches.sheets import Sheet, opened
        from syntagma.app.workspace.workspace import Workspace

        workspace = Workspace.load(tell=terminal.left_out)
        with (
            opened(workspace, read_only=True) as ledger,
            ledger.alone() if edits else nullcontext(),
        ):
            return work(Sheet(workspace, ledger, call.name), call)

    return run


def _begin(call: Namespace) -> int:
    from syntagma.app.batches.sheets import opened
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    with opened(workspace, read_only=False) as ledger, ledger.alone():
        return _new(workspace, ledger, call)


def _list(workspace: Workspace, ledger: Ledger, call: Namespace) -> int:
    from syntagma.app.batches.sheets import Sheet

    found = []
    for name in ledger.sheets():
        sheet = Sheet(workspace, ledger, name)
        found.append((name, len(sheet.rows), sheet.summary(), ledger.spent(name)))
    if call.json:
        terminal.items(
            {"sheet": name, "rows": rows, "states": dict(states), "spent": costs(spent)}
            for name, rows, states, spent in found
        )
    else:
        table = [
            (
                name,
                rows,
                ", ".join(f"{count} {state}" for state, count in states.items()),
                money_shown(spent),
            )
            for name, rows, states, spent in found
        ]
        terminal.table(("sheet", "rows", "states", "spent"), table, "states")
    return 0


def _new(workspace: Workspace, ledger: Ledger, call: Namespace) -> int:
    from syntagma.app.batches.rows_made import one_change_at_a_time, rows_of
    from syntagma.app.batches.sheets import Sheet
    from syntagma.app.prompt_files import prompts_of_file
    from syntagma.core.diagnostics import Refused, Trouble

    if not call.more:
        raise Trouble(
            "no file of prompts was named",
            f"write syntagma sheet new {call.name} FILE (.jsonl .json .csv .xlsx .txt)",
            2,
        )
    if ledger.has(call.name):
        raise Trouble(
            f"a sheet called “{call.name}” exists already",
            "choose another name; to add rows, use sheet import",
            2,
        )
    read = [one for path in call.more for one in prompts_of_file(path, records=True)]
    if wrong := [one.mistake for one in read if one.mistake]:
        raise Refused(wrong)
    records = [one.record.changed(text=one.text) for one in read]
    rows = rows_of(workspace, records)
    if not rows:
        raise Trouble("it has no prompts to send", "prompts that a film keeps are not rows", 1)
    ledger.add_rows(call.name, rows)
    sheet = Sheet(workspace, ledger, call.name)
    takes = sum(row.takes for row in sheet.rows.values())
    each = "for one take each, as they are" if takes == len(rows) else f"for {takes} takes"
    terminal.say(
        f"{_so_many(len(rows), 'row')} in the sheet {call.name},"
        f" {money_shown(_quoted(sheet.rows.values()))} {each}"
    )
    if one_change_at_a_time(records):
        terminal.note(
            "with one change at a time each choice is in one prompt only; to learn which makes a"
            " difference: syntagma expand … --design effects"
        )
    return _given_out(sheet, call) if call.out else 0


def _given_out(sheet: Sheet, call: Namespace) -> int:
    from syntagma.app.batches.sheets import write_sheet_file

    count = write_sheet_file(sheet, call.out, terminal.note)
    terminal.say(
        f"{count} rows in {call.out}; to import an edited copy: syntagma sheet import {sheet.name}"
        " FILE"
    )
    return 0


def _show(sheet: Sheet, call: Namespace) -> int:
    if call.out:
        return _given_out(sheet, call)
    chosen = (
        sheet.chosen(call.more, call.where)
        if call.more or call.where
        else list(sheet.rows.values())
    )
    if call.json:
        terminal.items(sheet.record(row) for row in chosen)
        return 0 if chosen else 1
    if not chosen and sheet.rows:
        terminal.say(f"No row matches {call.where}." if call.where else "No row matches.")
        return 1
    rows = [sheet.cells(row) for row in chosen]
    table = [
        [
            c["id"],
            c["status"] + (f" ×{c['takes']}" if c["takes"] != "1" else ""),
            c["model"],
            c["cost"],
            terminal.shortened(c["text"]),
        ]
        for c in rows
    ]
    terminal.table(("id", "status", "model", "cost", "text"), table, "text")
    told = [
        (c["id"], c["why"] or c["findings"]) for c in rows if c["why"] or "error:" in c["findings"]
    ]
    for name, why in told:
        terminal.hanging((name, terminal.NAME), f" {why}", error=False)
    states = ", ".join(f"{count} {state}" for state, count in sheet.summary().items())
    terminal.say(
        (
            (
                f"{states}; {money_shown(_quoted(sheet.rows.values()))} quoted,"
                f" {money_shown(sheet.ledger.spent(sheet.name))} spent"
            ),
            terminal.QUIET,
        ),
        error=False,
    )
    return 0


def _quoted(rows: Iterable[SheetRow]) -> dict[str, float]:
    found: dict[str, float] = {}
    for row in rows:
        if row.status != "removed" and row.cost is not None:
            found[row.currency] = found.get(row.currency, 0.0) + row.cost * row.takes
    return found


def costs(sums: dict[str, float]) -> list[dict[str, object]]:
    """Sums of money as JSON has them, one for each currency."""
    return [{"amount": round(amount, 6), "currency": currency} for currency, amount in sums.items()]


def money_shown(sums: dict[str, float]) -> str:
    from syntagma.core.models.prices import priced

    return (
        " and ".join(
            priced(round(amount, 4), currency or "units") for currency, amount in sums.items()
        )
        or "nothing"
    )


def _import(sheet: Sheet, call: Namespace) -> int:
    """A person's copy: what was changed of each row, word by word, and what broke on the way."""
    from syntagma.app.batches.sheets import read_sheet_file
    from syntagma.core.diagnostics import Trouble

    if not call.more:
        raise Trouble("no copy was named", f"write syntagma sheet import {call.name} FILE", 2)
    worst = 0
    for path in call.more:
        came, told = sheet.take(read_sheet_file(path), path)
        _changes(came.changes)
        for name, column, what in came.broken:
            terminal.note(f"{name} {column}: {what}")
        for line in told:
            terminal.say(line)
        for one in came.conflicts:
            worst = 1
            terminal.say(
                (one.row, terminal.NAME),
                (
                    f" {one.column} was changed on both sides, so neither change was taken:",
                    terminal.WRONG,
                ),
            )
            for who, text in (("given out", one.given), ("now", one.now), (path, one.theirs)):
                terminal.hanging((f"{who}: ", terminal.QUIET), text or "blank")
        for what, names in (
            ("in it twice; the first counts", came.twice),
            ("missing from it, so unchanged", came.gone),
            ("no row of this sheet", came.unknown),
        ):
            if names:
                worst = 1 if what.startswith("no row") else worst
                terminal.say(
                    f"{what}:"
                    f" {', '.join(names[:12])}{f' and {len(names) - 12} more' if len(names) > 12 else ''}"  # noqa: E501
                )
        terminal.say(
            f"{path}: {_so_many(len(came.changes), 'cell')} changed,"
            f" {_so_many(len(came.new), 'new row')}, {_so_many(len(came.conflicts), 'conflict')}"
        )
    return worst


def _changes(changes: Any) -> None:
    """Print what was changed: texts word by word; a change that many rows share takes one line."""
    alike: dict[tuple[str, str, str], list[str]] = {}
    for change in changes:
        if change.column in ("text", "negative", "note"):
            terminal.say((change.row, terminal.NAME), f" {change.column}:")
            terminal.difference(change.before, change.after)
        else:
            alike.setdefault(
                (change.column, change.before or "blank", change.after or "blank"), []
            ).append(change.row)
    for (column, before, after), rows in alike.items():
        who = (
            rows[0] if len(rows) == 1 else f"{len(rows)} rows" if len(rows) > 4 else ", ".join(rows)
        )
        terminal.say((who, terminal.NAME), f" {column}: {before} → {after}")


def _set(sheet: Sheet, call: Namespace, status: str) -> int:
    rows = sheet.chosen(call.more, call.where, call.all)
    if status == "approved" and not call.more:  # what was removed is approved by its own id only
        removed = [row for row in rows if row.status == "removed"]
        rows = [row for row in rows if row.status != "removed" and not sheet.sent(row.id)]
        if removed:
            terminal.note(
                f"{len(removed)} removed row{'s' if len(removed) > 1 else ''} skipped: name them by"
                " id, or restore them first"
            )
    refused = sheet.set_status(rows, status, call.anyway)
    done = [row for row in rows if row.id not in {one.id for one, _ in refused}]
    for row, why in refused:
        terminal.say((row.id, terminal.NAME), f" stays {sheet.status(row)}: {why}")
    money = (
        f", {money_shown(_quoted([sheet.rows[row.id] for row in done]))} at most"
        if status == "approved" and done
        else ""
    )
    terminal.say(f"{len(done)} row{'s' if len(done) != 1 else ''} {status}{money}")
    return 1 if refused else 0


def _approve(sheet: Sheet, call: Namespace) -> int:
    return _set(sheet, call, "approved")


def _remove(sheet: Sheet, call: Namespace) -> int:
    return _set(sheet, call, "removed")


def _restore(sheet: Sheet, call: Namespace) -> int:
    return _set(sheet, call, "open")


def _redraw(sheet: Sheet, call: Namespace) -> int:
    from syntagma.app.batches.sheets import redraw

    names = [name for word in call.more for name in args.listed(word)]
    for row in sheet.chosen(names, call.where):
        before = row.text
        made = redraw(sheet, row, call.draw)
        terminal.say((made.id, terminal.NAME), " other picks:")
        terminal.difference(before, made.text)
    return 0


def _choose(sheet: Sheet, call: Namespace) -> int:
    for name in call.more:
        sheet.choose(name)
        terminal.say(f"chose {name}")
    return 0


def _settle(sheet: Sheet, call: Namespace) -> int:
    from syntagma.core.diagnostics import Trouble

    if sum((bool(call.task), call.lost, call.accept)) != 1 or len(call.more) != 1:
        raise Trouble(
            "say what happened to one take",
            "write syntagma sheet settle NAME r1a2b3c4d5.1 --lost, --task N, or --accept",
            2,
        )
    terminal.say(
        f"{call.more[0]} is {sheet.settle(call.more[0], call.task, call.lost, call.accept)}"
    )
    return 0


def _log(sheet: Sheet, call: Namespace) -> int:
    """Everything that led to a row."""
    logs = []
    for row in sheet.chosen(call.more, call.where, not call.more and not call.where):
        events = sheet.ledger.events(sheet.name, row.id)
        attempts = [
            {
                k: v
                for k, v in one.items()
                if k not in ("key", "name", "body") and v not in ("", None)
            }
            for one in sheet.ledger.attempts(sheet.name)
            if one["row"] == row.id
        ]
        if call.json:
            logs.append(
                {
                    "row": row.id,
                    "record": dict(row.record),
                    "events": [
                        dict(zip(("time", "what", "detail"), e, strict=True)) for e in events
                    ],
                    "attempts": attempts,
                }
            )
            continue
        terminal.say((row.id, terminal.NAME), f"  {terminal.shortened(row.text)}", error=False)
        for at, what, detail in events:
            terminal.hanging(
                (f"{at[:19].replace('T', ' ')}  ", terminal.QUIET),
                f"{what} {detail}".strip(),
                error=False,
            )
        for one in attempts:
            told = ", ".join(
                f"{name} {one[name]}"
                for name in ("state", "task", "status", "why", "code")
                if name in one
            )
            terminal.hanging(
                (f"{one['began'][:19].replace('T', ' ')}  ", terminal.QUIET),
                f"attempt {one['id'].removeprefix(sheet.name + ':')}: {told}",
                error=False,
            )
    if call.json:
        terminal.items(logs)
    return 0


def _so_many(count: int, noun: str) -> str:
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"


VERBS = {
    "new": args.Verb("make a sheet from files of prompts", _new_arguments, _begin),
    "show": args.Verb(
        "show a sheet, or write it as a table", _show_arguments, _on_sheet(_show, False)
    ),
    "import": args.Verb("import an edited copy", _import_arguments, _on_sheet(_import, True)),
    "approve": args.Verb(
        "approve rows as shown", _status_arguments("approve"), _on_sheet(_approve, True)
    ),
    "remove": args.Verb(
        "remove rows, so they are not sent", _status_arguments("remove"), _on_sheet(_remove, True)
    ),
    "restore": args.Verb(
        "open rows again", _status_arguments("restore"), _on_sheet(_restore, True)
    ),
    "redraw": args.Verb(
        "pick again what was picked in rows", _redraw_arguments, _on_sheet(_redraw, True)
    ),
    "choose": args.Verb("choose takes", _choose_arguments, _on_sheet(_choose, True)),
    "settle": args.Verb("settle an unclear take", _settle_arguments, _on_sheet(_settle, True)),
    "log": args.Verb("show the whole history of rows", _log_arguments, _on_sheet(_log, False)),
}
