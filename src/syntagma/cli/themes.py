"""themes: list them, or show one in full."""

from syntagma.cli import args, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one theme, by name or by file")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma themes", "syntagma themes night")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import theme_card, theme_rows
    from syntagma.app.workspace.workspace import World

    world = World.load(tell=look.left_out)
    if call.name:
        card = theme_card(world, call.name)
        look.json(card) if call.json else _show(card)
        return 0
    rows = theme_rows(world)
    if call.json:
        look.json(rows)
        return 0
    for row in rows:
        look.block(row["theme"], "", [row.get("about", ""), row.get("when", "")])
    if look.on_terminal():
        look.say("`syntagma compose FORMULA --theme NAME` picks with one; A,B leans on both")
    return 0


def _show(card: dict) -> None:
    look.say((card["theme"], look.NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        look.say((card["when"], look.QUIET), error=False)
    look.line()
    tags = [(tag, f"+{weight:g}") for tag, weight in card.get("lean", {}).items()]
    tags += [(tag, f"-{weight:g}") for tag, weight in card.get("avoid", {}).items()]
    look.table(("tag", "weight"), tags)
    if facets := card.get("facets"):
        look.line()
        rows = [
            (facet, key, "; ".join(v) if isinstance(v, list) else str(v))
            for facet, said in facets.items()
            for key, v in said.items()
        ]
        look.table(("facet", "says", "what"), rows, "what")
    look.example(card)
    for remark in card.get("remarks", ()):
        look.say(("remark ", look.QUIET), remark)
