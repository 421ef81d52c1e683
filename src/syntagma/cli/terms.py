"""terms: browse and search the vocabulary."""

from syntagma.cli import args, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("facet", metavar="FACET", nargs="?", help="one facet; without it, all of them")
    parser.add_argument("--find", metavar="TEXT", help="only what answers TEXT, best first; typing errors are forgiven")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma terms lighting", 'syntagma terms --find "soft side light"')


def run(call) -> int:
    from syntagma.app.world import World
    from syntagma.core.near import perhaps
    from syntagma.core.vocabulary import search
    from syntagma.storage.trouble import Trouble

    world = World.load()
    vocabulary = world.vocabulary
    if call.facet and call.facet not in vocabulary:
        raise Trouble(f"there is no facet “{call.facet}”", perhaps(call.facet, vocabulary.names, "`syntagma facets` lists them"), 2)
    if not call.facet and not call.find:
        raise Trouble("which terms?", "name a facet (`syntagma facets` lists them), or search: --find TEXT", 2)
    facets = [vocabulary[call.facet]] if call.facet else list(vocabulary)
    terms = search(facets, call.find) if call.find else list(facets[0])
    for mistake in world.mistakes:
        look.say(mistake.shown())
    if call.json:
        look.json([t.record() for t in terms])
        return 0
    if not terms:
        look.say(f"no term answers “{call.find}”")
        look.say("  try one word of it, or another facet")
        return 0
    several = len({t.facet for t in terms}) > 1
    rows = [(t.term, *((t.facet,) if several else ()), t.gloss) for t in terms]
    look.table(("term", *(("facet",) if several else ()), "what it does"), rows, "what it does")
    return 0
