"""gallery: what is kept as one page."""

from pathlib import Path

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("ids", metavar="ID", nargs="*", help="these only (12, 14-17); left out: all that answers")
    parser.add_argument("--find", metavar="WORDS", default="", help="prompts, notes and labels that have these words")
    parser.add_argument("--term", metavar="FACET=TERM", action="append", default=[], help="those with this choice; may be given again")
    parser.add_argument("--mark", metavar="N", type=args.within("mark"), help="those with at least this mark")
    parser.add_argument("--model", metavar="NAME", default="", help="those of this generator")
    parser.add_argument("--label", metavar="NAME", default="", help="those with this label")
    parser.add_argument("--sheet", metavar="NAME", default="", help="those of this sheet")
    parser.add_argument("--title", metavar="TEXT", default="", help="what stands above it")
    parser.add_argument("--out", metavar="FILE", default="", help="write the page (.html); without it a table here")
    parser.examples("syntagma gallery --out gallery.html", 'syntagma gallery --sheet crossings --mark 3 --out best.html --title "Crossings"')


def run(call) -> int:
    from syntagma.app.results.keeping import library_of, numbers_of, terms_asked
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.library import Found

    workspace = Workspace.load(tell=terminal.left_out)
    with library_of(workspace, read_only=not call.out) as library:
        wanted = Found(call.find, terms_asked(workspace, call.term), call.mark, call.model, call.label, call.sheet)
        found = [library.get(number) for number in numbers_of(call.ids)] if call.ids else library.find(wanted)
        if not call.out:
            from syntagma.cli.results.kept import table_of

            return table_of(found, library, False)
        from syntagma.app.results.pages import write_gallery

        gone = write_gallery(library, found, Path(call.out), call.title or call.sheet or call.label or "What is kept")
        terminal.say(f"{len(found)} results in {call.out}" + (f"; of {gone} the file is gone" if gone else ""), error=False)
        if not found:
            terminal.note("nothing is kept that answers: syntagma keep SHEET, or syntagma keep FILE --prompt …")
    return 0
