"""models: list them, show one in full, or rank them for a piece of work."""

from syntagma.cli import args, options, terminal
from syntagma.storage.trouble import Trouble


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one model; with --for, a slot=text")
    parser.add_argument("fills", metavar="slot=text", nargs="*", help="with --for: what stands in the slots")
    parser.add_argument("--for", metavar="FORMULA", dest="formula", help="rank them by what each would lose of it, and cost")
    parser.add_argument("--mount", metavar="A,B", help="with --for: looks put round it")
    parser.add_argument("--budget", metavar="N", type=args.within("budget"), help="with --for: only those that cost no more a prompt")
    options.manner_arguments(parser)
    parser.add_argument("--schema", action="store_true", help="print the JSON Schema of profiles, for an editor")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma models dunlin-still", "syntagma models --for dialogue-shot --parameter seconds=8")


def run(call) -> int:
    from syntagma.app.models.cards import model_card, model_rows
    from syntagma.app.workspace.workspace import Workspace

    if call.schema:
        from syntagma.core.models.schema import profile_schema

        terminal.json(profile_schema())
        return 0
    workspace = Workspace.load(tell=terminal.left_out)
    if call.formula:
        return _rank(workspace, call)
    if call.name:
        card = model_card(workspace, call.name)
        if call.json:
            terminal.json(card)
        else:
            terminal.model_card(card)
        return 0
    rows = model_rows(workspace)
    if call.json:
        terminal.json(rows)
        return 0
    columns = ("model", "makes", "takes", "limit", "price")
    terminal.table(columns, [[row.get(c, row.get("about", "") if c == "limit" else "") for c in columns] for row in rows], "price")
    if terminal.on_terminal():
        terminal.say(("\n`syntagma models NAME` shows one in full; `syntagma models --for FORMULA` ranks them", terminal.QUIET))
    return 0


def _rank(workspace, call) -> int:
    from syntagma.app.models.cards import rank
    from syntagma.core.models.prices import priced

    words = [*([call.name] if call.name else []), *call.fills]
    if words and "=" not in words[0]:
        raise Trouble(f"“{words[0]}” is no slot=text", "with --for, what follows fills the formula's slots", 2)
    ranked = rank(workspace, call.formula, args.fills(words), options.manner(call), args.listed(call.mount), call.budget)
    if call.json:
        terminal.json([one.record() for one in ranked])
        return 0
    rows = []
    for number, one in enumerate(ranked, 1):
        price = priced(one.cost, one.currency) if one.cost is not None else "no price"
        rows.append((number, one.model, price, "; ".join(one.losses) or "nothing"))
    terminal.table(("#", "model", "costs", "loses"), rows, "loses")
    return 0
