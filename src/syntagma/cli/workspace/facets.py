"""facets: the kinds of choice that there are."""

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma facets", "syntagma facets --json")


def run(call) -> int:
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    facets = list(workspace.vocabulary)
    for mistake in workspace.mistakes:
        terminal.say(mistake.shown())
    if call.json:
        terminal.json([{"facet": f.name, "terms": len(f), "layers": _layers(f)} for f in facets])
        return 0
    rows = [(f.name, len(f), ", ".join(t.term for t in f.terms[:8])) for f in facets]
    terminal.table(("facet", "terms", "for instance"), rows, "for instance", cut=True)
    if terminal.on_terminal():
        terminal.say(f"\n{sum(len(f) for f in facets):,} terms in {len(facets)} facets; `syntagma terms FACET` lists one")
    return 0


def _layers(facet) -> list[str]:
    return list(dict.fromkeys(t.layer for t in facet))
