"""themes: list them, or show one in full."""

from syntagma.cli import args, terminal
from syntagma.cli.workspace import shared

HINT = "`syntagma compose FORMULA --theme NAME` picks with one; A,B leans on both"


def arguments(parser: args.Parser) -> None:
    shared.shelf_arguments(parser, "theme")
    parser.examples("syntagma themes", "syntagma themes night")


def run(call) -> int:
    from syntagma.app.workspace.catalogue import theme_card, theme_rows

    return shared.shelf(call, theme_card, _show, theme_rows, lambda rows: shared.blocks(rows, "theme", ""), HINT)


def _show(card: dict) -> None:
    terminal.say((card["theme"], terminal.NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        terminal.say((card["when"], terminal.QUIET), error=False)
    if card.get("world"):
        terminal.say((f"takes for granted: {card['world']}", terminal.QUIET), error=False)
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
