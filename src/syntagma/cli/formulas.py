"""formulas: list them, or show one in full."""

from syntagma.cli import args, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("name", metavar="NAME", nargs="?", help="one formula, by name or by file")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma formulas", "syntagma formulas poster")


def run(call) -> int:
    from syntagma.app.shelf import formula_card, formula_rows
    from syntagma.app.world import World

    world = World.load()
    if not call.name:
        rows = formula_rows(world)
        if call.json:
            look.json(rows)
            return 0
        look.table(
            ("formula", "medium", "slots", "what it is for"),
            [(r["formula"], r.get("media", "both"), len(r["slots"]), r.get("about", "")) for r in rows],
            "what it is for",
        )
        if look.on_terminal():
            look.say("\n`syntagma formulas NAME` shows one; `syntagma compose NAME slot=text` writes with it")
        return 0
    card = formula_card(world, call.name)
    if call.json:
        look.json(card)
        return 0
    look.say((card["formula"], look.NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        look.say((f"{card['when']}", look.QUIET), error=False)
    print()
    look.table(("phrase", "mark", "words"), [(p["label"], p["mark"], p["words"]) for p in card["phrases"]], "words")
    if card["slots"]:
        print()
        rows = [(s["slot"], s["facet"], s["note"]) for s in card["slots"]]
        look.table(("slot", "takes", "note"), rows, "note")
    if card.get("example"):
        print()
        look.say(("for instance", look.QUIET), error=False)
        look.say(card["example"]["text"], error=False)
        print()
        look.say((card["example"]["call"], look.QUIET), error=False)
    return 0
