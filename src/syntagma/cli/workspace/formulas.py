"""formulas: when to use each, its parts in order and an example prompt; or one in full."""

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one formula, by name or by file")
    parser.add_argument("--media", choices=("image", "video"), help="only those for pictures, or for clips")
    parser.add_argument("--find", metavar="WORDS", default="", help="only those that say these words of themselves")
    parser.add_argument("--short", action="store_true", help="a line each")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma formulas --media video", "syntagma formulas poster")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import formula_card, formula_rows
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.name:
        card = formula_card(workspace, call.name)
        terminal.json(card) if call.json else terminal.formula_card(card)
        return 0
    rows = formula_rows(workspace, call.media or "", call.find)
    if call.json:
        terminal.json(rows)
    elif call.short:
        columns = ("formula", "medium", "slots", "what it makes")
        terminal.table(
            columns, [(r["formula"], r.get("media", "both"), len(r["slots"]), r.get("about", "")) for r in rows], columns[-1]
        )
    else:
        for row in rows:
            lines = [row.get("when") or row.get("about", ""), " › ".join(row["parts"]), row.get("example", {}).get("text", "")]
            terminal.block(row["formula"], row.get("media", "both"), lines)
    if terminal.on_terminal():
        terminal.say("`syntagma formulas NAME` shows one in full; `syntagma compose NAME --pick` writes with it")
    return 0
