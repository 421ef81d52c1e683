"""terms: browse and search the vocabulary."""

from pathlib import Path

from syntagma.cli import args, options, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("facet", metavar="FACET", nargs="?", help="one facet; without it, all of them")
    parser.add_argument("--find", metavar="TEXT", help="only what answers TEXT, best first; typing errors are forgiven")
    parser.add_argument("--tag", metavar="TAG", action="append", default=[], help="only what has this tag; may be given again")
    parser.add_argument("--media", choices=("image", "video"), help="only what serves this medium")
    parser.add_argument("--starred", action="store_true", help="only your favourites")
    parser.add_argument("--out", metavar="FILE", help="write them to .csv or .xlsx instead")
    parser.add_argument("--page", metavar="FILE", help="write them as a page (.html), with a picture for each that has one")
    options.plain_argument(parser)
    parser.add_argument("--all", action="store_true", help="all of them, however many (else a screenful of the best)")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.examples("syntagma terms lighting", 'syntagma terms --find "soft side light"')


def run(call) -> int:
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics.suggestions import perhaps
    from syntagma.core.vocabulary.terms import search
    from syntagma.storage.trouble import Trouble

    workspace = Workspace.load(tell=terminal.left_out)
    vocabulary = workspace.vocabulary
    if call.facet and call.facet not in vocabulary:
        raise Trouble(f"there is no facet “{call.facet}”", perhaps(call.facet, vocabulary.names, "`syntagma facets` lists them"), 2)
    if not (call.facet or call.find or call.tag or call.starred):
        remedy = "name a facet (`syntagma facets` lists them), or search: --find TEXT, --tag TAG, --starred"
        raise Trouble("which terms?", remedy, 2)
    facets = [vocabulary[call.facet]] if call.facet else list(vocabulary)
    tags = {tag for facet in vocabulary for term in facet for tag in term.tags} if call.tag else ()
    for tag in call.tag:
        if tag not in tags:
            raise Trouble(f"no term has the tag “{tag}”", perhaps(tag, tags, "docs/vocabulary.md lists the tags"), 2)
    terms = search(facets, call.find) if call.find else [term for facet in facets for term in facet]
    terms = [
        t
        for t in terms
        if set(call.tag) <= set(t.tags) and (t.star or not call.starred) and call.media in (None, t.media or call.media)
    ]
    for mistake in workspace.mistakes:
        terminal.say(mistake.shown())
    if call.page:
        from syntagma.app.results.term_pictures import write_terms_page

        pictured = write_terms_page(workspace, list(dict.fromkeys(t.facet for t in terms)), terms, Path(call.page))
        terminal.say(f"{len(terms)} terms in {call.page}, {pictured} with a picture", error=False)
        return 0
    if call.out:
        from syntagma.app.workspace.own_terms import write_terms

        note = write_terms(Path(call.out), terms, call.plain_csv)
        terminal.say(f"{len(terms)} term{'' if len(terms) == 1 else 's'} in {call.out}")
        if note:
            terminal.note(note)
        return 0
    if call.json:
        terminal.json([t.record() for t in terms])
        return 0
    if not terms:
        terminal.say(f"no term answers “{call.find}”" if call.find else "there is no such term")
        terminal.say("  try one word of it, or another facet")
        return 0
    several = len({t.facet for t in terms}) > 1
    marked = any(t.star for t in terms)
    rows = [(_name(t, marked), *((t.facet,) if several else ()), t.gloss + (f" [{t.note}]" if t.note else "")) for t in terms]
    shown = rows if call.all or not terminal.on_terminal() else rows[: terminal.room()]
    terminal.table(("term", *(("facet",) if several else ()), "what it does"), shown, "what it does")
    if len(shown) < len(rows):
        terminal.say((f"{len(rows) - len(shown)} more: --all", terminal.QUIET))
    return 0


def _name(term, marked: bool) -> str:
    """The term, a star before a favourite, and room for one before the others."""
    return ("★ " if term.star else "  ") + term.term if marked else term.term
