"""models: list them, or show one in full."""

from syntagma.cli import args, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one model")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma models", "syntagma models dunlin-still")


def run(call) -> int:
    from syntagma.app.shelf import model_card
    from syntagma.app.world import World

    world = World.load()
    names = [call.name] if call.name else list(world.models())
    cards = [model_card(world, name) for name in names]
    if call.json:
        look.json(cards[0] if call.name else cards)
        return 0
    if call.name:
        card = cards[0]
        look.say((card["model"], look.NAME), f"  {card.get('about', '')}", error=False)
        print()
        look.table(("habit", "what it is"), [(k, v) for k, v in card["habits"].items()], "what it is")
        return 0
    columns = ("model", "makes", "takes", "text", "negative")
    rows = [(c["model"], c["makes"], c["register"], c["text"], c["negative"]) for c in cards]
    look.table(columns, rows, "negative")
    return 0
