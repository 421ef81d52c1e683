"""themes: list them, or show one in full."""

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one theme, by name or by file")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma themes", "syntagma themes night")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import theme_card, theme_rows
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.name:
        card = theme_card(workspace, call.name)
        terminal.json(card) if call.json else _show(card)
        return 0
    rows = theme_rows(workspace)
    if call.json:
        terminal.json(rows)
        return 0
    for row in rows:
        terminal.block(row["theme"], "", [row.get("about", ""), row.get("when", "")])
    if terminal.on_terminal():
        terminal.say("`syntagma compose FORMULA --theme NAME` picks with one; A,B leans on both")
    return 0


def _show(card: dict) -> None:
    terminal.say((card["theme"], terminal.NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        terminal.say((card["when"], terminal.QUIET), error=False)
    terminal.line()
    tags = [(tag, f"+{weight:g}") for tag, weight in card.get("lean", {}).items()]
    tags += [(tag, f"-{weight:g}") for tag, weight in card.get("avoid", {}).items()]
    terminal.table(("tag", "weight"), tags)
    if facets := card.get("facets"):
        terminal.line()
        rows = [
            (facet, key, "; ".join(v) if isinstance(v, list) else str(v))
            for facet, said in facets.items()
            for key, v in said.items()
        ]
        terminal.table(("facet", "says", "what"), rows, "what")
    terminal.example(card)
    for remark in card.get("remarks", ()):
        terminal.say(("remark ", terminal.QUIET), remark)
