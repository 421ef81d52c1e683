"""term: the words to pick from: the facets, the terms of one, a search, and terms of your own."""

from __future__ import annotations

from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, options, terminal

if TYPE_CHECKING:
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.vocabulary.terms import Facet, Term

CELLS = {
    "number": "one (default), many, mass or name",
    "phrase": "how it reads in a sentence, without an article",
    "place": "with its preposition and article: at a ticket window",
    "clause": "a whole clause: the camera pushes in slowly",
    "gloss": "what it does to the picture",
    "tags": "separated by ;",
    "aka": "other spellings, separated by ;",
    "clashes": "terms or #tags that contradict it, separated by ;",
    "media": "image or video; blank for both",
    "world": "what it assumes, such as hour: night dusk; where: outdoors",
    "at": "settings where it belongs, separated by ;",
    "does": "what it does there, separated by ;",
    "sounds": "what you hear there: ambience, separated by ;",
    "broader": "the broader term in the same facet",
    "picked": "no: never pick it, only use it when typed",
}
GROUPS = {
    "kind": "what kind of picture",
    "shot": "from where",
    "subject": "who or what",
    "action": "what happens",
    "setting": "where and when",
    "weather": "what weather",
    "light": "what light",
    "colour": "which colours",
    "camera": "which camera",
    "composition": "how laid out",
    "mood": "which mood",
    "making": "how made",
    "lettering": "which lettering",
    "effect": "which effects",
    "sound": "what is heard",
    "": "the rest",
}


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "facet", metavar="FACET", nargs="?", help="one facet; without it, a list of facets"
    )
    _conditions(parser)
    parser.examples(
        "syntagma term", "syntagma term lighting", 'syntagma term find "soft side light"'
    )


def _conditions(parser: args.Parser) -> None:
    parser.add_argument(
        "--tag",
        metavar="TAG",
        action="append",
        default=[],
        help="only terms with this tag; can be repeated",
    )
    parser.add_argument("--media", choices=("image", "video"))
    parser.add_argument("--starred", action="store_true", help="only your favourites")
    parser.add_argument("--out")
    parser.add_argument("--page")
    options.plain_argument(parser)
    parser.add_argument("--all", action="store_true")
    parser.json("facets", "terms")


def _find_arguments(parser: args.Parser) -> None:
    parser.add_argument("text", metavar="TEXT", help="what to look for; typing errors are fine")
    parser.add_argument("--facet")
    _conditions(parser)
    parser.examples(
        'syntagma term find "soft side light"', "syntagma term find fog --facet weather"
    )


def _new_arguments(parser: args.Parser) -> None:
    parser.add_argument("facet", metavar="FACET", help="the facet that it belongs to")
    parser.add_argument("term", metavar="TERM", help="the term")
    parser.add_argument(
        "--new-facet",
        action="store_true",
        help="make a new facet, even if its name resembles another",
    )
    for cell, what in CELLS.items():
        if cell == "media":
            parser.add_argument("--media", choices=("image", "video"))
        else:
            parser.add_argument(
                "--settings" if cell == "at" else f"--{cell}", dest=cell, metavar="TEXT", help=what
            )
    _own(parser)
    parser.examples(
        'syntagma term new subject "lamp-room keeper" --phrase "lamp-room keeper with a brass key"'
        ' --tags "person; alone; sea"'
    )


def _import_arguments(parser: args.Parser) -> None:
    parser.add_argument("table", metavar="FILE", help="a table of terms (.csv, .xlsx)")
    parser.add_argument("--facet")
    parser.add_argument(
        "--column",
        metavar="COLUMN=HEADING",
        action="append",
        default=[],
        help=(
            "which heading stands for which column: term=Word, gloss=Notes; can be repeated. Usual"
            " headings are recognised"
        ),
    )
    _own(parser)
    parser.examples("syntagma term import quay-words.csv")


def _own(parser: args.Parser) -> None:
    parser.add_argument("--own", action="store_true")


def _marking_arguments(parser: args.Parser) -> None:
    parser.add_argument("terms", metavar="TERM", nargs="+", help="the terms")
    parser.add_argument("--facet")
    parser.examples('syntagma term star "sodium quay lamps"')


def _note_arguments(parser: args.Parser) -> None:
    parser.add_argument("term", metavar="TERM", help="the term")
    parser.add_argument("text", metavar="TEXT", help='the note; "" removes it')
    parser.add_argument("--facet")
    parser.examples('syntagma term note "sodium quay lamps" "works best with wet ground"')


def _remove_arguments(parser: args.Parser) -> None:
    parser.add_argument("term", metavar="TERM", help="a term of your own")
    parser.add_argument("--facet")
    _own(parser)
    parser.examples('syntagma term remove "lamp-room keeper\'s dog"')


def _picture_arguments(parser: args.Parser) -> None:
    parser.add_argument("facet", metavar="FACET", help="the facet of the term")
    parser.add_argument("term", metavar="TERM", help="the term")
    parser.add_argument("file", metavar="FILE", help="a picture (.png .jpg .webp)")
    parser.examples('syntagma term picture lighting "sodium quay lamps" lights.png')


def run(call: Namespace) -> int:
    if not (call.facet or call.tag or call.starred or call.media):
        return _facets(call)
    return _listed(call, call.facet, "")


def _find(call: Namespace) -> int:
    return _listed(call, call.facet, call.text)


def _facets(call: Namespace) -> int:
    """The facets in groups by what they say of a picture, and how many terms each has."""
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.vocabulary.facets import HOMES
    from syntagma.core.vocabulary.terms import widest

    workspace = Workspace.load(tell=terminal.left_out)
    if call.out or call.page:
        return _listed(call, None, "")
    facets = list(workspace.vocabulary)
    for mistake in workspace.mistakes:
        terminal.say(mistake.shown())
    if call.json:
        terminal.items(
            (
                {
                    "facet": f.name,
                    "terms": len(f),
                    "layers": _layers(f),
                    "home": _home(workspace, f),
                }
                for f in facets
            ),
            workspace.mistakes,
        )
        return 0
    groups = [(home, [f for f in facets if _home(workspace, f) == home]) for home in (*HOMES, "")]
    rows = [
        (("" if n else GROUPS[home]), f.name, len(f), ", ".join(t.term for t in widest(f)[:8]))
        for home, some in groups
        for n, f in enumerate(some)
    ]
    terminal.table(("it says", "facet", "terms", "for instance"), rows, "for instance", cut=True)
    if terminal.on_terminal():
        terminal.say(
            f"\n{sum(len(f) for f in facets):,} terms in {len(facets)} facets; `syntagma term"
            " FACET` lists one"
        )
    return 0


def _home(workspace: Workspace, facet: Facet) -> str:
    traits = workspace.vocabulary.traits.get(facet.name)
    return traits.home if traits else ""


def _layers(facet: Facet) -> list[str]:
    return list(dict.fromkeys(t.layer for t in facet))


def _listed(call: Namespace, name: str | None, text: str) -> int:
    """The terms of a facet, or of all of them; those that a text asks for, best first."""
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble, near, perhaps
    from syntagma.core.vocabulary.terms import in_order, normal, search, with_below

    workspace = Workspace.load(tell=terminal.left_out)
    vocabulary = workspace.vocabulary
    if name and name not in vocabulary:
        name = workspace.facet_called(name)
    if name and name not in vocabulary:
        if near(name, vocabulary.names, 1) or not any(
            normal(name) in map(normal, (term.term, *term.aka))
            for term in search(list(vocabulary), name)
        ):
            raise Trouble(
                f"no facet is called “{name}”",
                perhaps(
                    name,
                    vocabulary.names,
                    f'`syntagma term` lists them; `syntagma term find "{name}"` searches the terms',
                ),
                2,
            )
        terminal.note(
            f"“{name}” is a term, not a facet, so here is what `syntagma term find` finds"
        )
        text, name = name, ""
    facets = [vocabulary[name]] if name else list(vocabulary)
    tags = {tag for facet in vocabulary for term in facet for tag in term.tags} if call.tag else ()
    for tag in call.tag:
        if tag not in tags:
            raise Trouble(
                f"no term has the tag “{tag}”",
                perhaps(tag, tags, "`syntagma help vocabulary` lists the tags"),
                2,
            )
    terms = (
        with_below(facets, search(facets, text), text)
        if text
        else [term for facet in facets for term in in_order(facet)]
    )
    terms = [
        t
        for t in terms
        if set(call.tag) <= set(t.tags)
        and (t.star or not call.starred)
        and call.media in (None, t.media or call.media)
    ]
    for mistake in workspace.mistakes:
        terminal.say(mistake.shown())
    if call.page:
        from syntagma.app.results.pages import write_terms_page

        pictured = write_terms_page(
            workspace, list(dict.fromkeys(t.facet for t in terms)), terms, Path(call.page)
        )
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
        terminal.items((t.record() for t in terms), workspace.mistakes)
        return 0 if terms else 1
    if not terms:
        terminal.say(f"No term matches “{text}”." if text else "No such term.")
        like = near(text, (term.term for facet in facets for term in facet), 3, 50) if text else []
        terminal.say(
            f"  The nearest: {', '.join(like)}"
            if like
            else "  Try a single word, or another facet."
        )
        return 1
    several = len({t.facet for t in terms}) > 1
    marked = any(t.star for t in terms)
    depth = (
        {id(t): len(vocabulary[t.facet].above(t)) for t in terms}
        if name and not (text or call.tag or call.starred)
        else {}
    )
    rows = [
        (
            "  " * depth.get(id(t), 0) + _name(t, marked),
            *((t.facet,) if several else ()),
            t.gloss + (f" [{t.note}]" if t.note else ""),
        )
        for t in terms
    ]
    shown = rows if call.all or not terminal.on_terminal() else rows[: terminal.room()]
    terminal.table(
        ("term", *(("facet",) if several else ()), "what it does"), shown, "what it does"
    )
    if len(shown) < len(rows):
        terminal.say((f"{len(rows) - len(shown)} more: --all", terminal.QUIET))
    return 0


def _name(term: Term, marked: bool) -> str:
    """The term, a star before a favourite, and room for one before the others."""
    return ("★ " if term.star else "  ") + term.term if marked else term.term


def _workspace():
    from syntagma.app.workspace.workspace import Workspace

    return Workspace.load(tell=terminal.left_out)


def _new(call: Namespace) -> int:
    from syntagma.app.workspace.own_terms import add, guessed, hidden_by
    from syntagma.core.diagnostics import Trouble, nearest

    workspace, facet, term = _workspace(), call.facet, call.term
    row = {"term": term} | {cell: getattr(call, cell) for cell in CELLS if getattr(call, cell)}
    known = workspace.vocabulary.names
    if facet not in known and (near := nearest(facet, known)) and not call.new_facet:
        raise Trouble(
            f"no facet is called “{facet}”",
            f"did you mean “{near}”? (--new-facet makes another)",
            2,
        )
    path = add(workspace, facet, row, call.own)
    terminal.say(f"“{term}” is in {workspace.shown(path)}", error=False)
    if facet not in known:
        terminal.say(f"“{facet}” is a new facet")
    if ours := hidden_by(workspace, facet, term):
        terminal.say(_hides(ours))
    if guess := guessed(workspace, facet, row):
        terminal.say(
            (
                (
                    f"picks assume the same of it as of “{guess.term}” ({guess.world}); --world"
                    " sets this, --settings and --does where it belongs"
                ),
                terminal.QUIET,
            ),
            error=False,
        )
    return 0


def _import(call: Namespace) -> int:
    from syntagma.app.workspace.own_terms import take
    from syntagma.core.diagnostics import Trouble

    given = dict(one.partition("=")[::2] for one in call.column)
    if wrong := next((one for one in call.column if "=" not in one), ""):
        raise Trouble(f"“{wrong}” does not name a column", f"write --column term={wrong}", 2)
    taken = take(_workspace(), Path(call.table), call.facet, call.own, given)
    if taken.read_as:
        terminal.say(
            "read " + ", ".join(f"“{theirs}” as {ours}" for theirs, ours in taken.read_as.items()),
            error=False,
        )
    for name, number in taken.taken.items():
        terminal.say(
            (name, terminal.NAME),
            f"  {number} term{'' if number == 1 else 's'} imported",
            error=False,
        )
    for ours in taken.hides:
        terminal.say(_hides(ours))
    for mistake in taken.left:
        terminal.say(f"left: {mistake.shown()}", error=False)
    number = sum(taken.taken.values())
    terminal.say(f"{number} imported, {len(taken.left)} left out", error=False)
    return 0 if number or not taken.left else 1


def _hides(ours: Any) -> str:
    return (
        f"“{ours.term}” replaces the built-in term of this name ({ours.facet}:"
        f" {ours.gloss or ours.phrase or 'no gloss'}); to undo this: syntagma term remove"
    )


def _remove(call: Namespace) -> int:
    from syntagma.app.workspace.own_terms import remove

    workspace = _workspace()
    term, path = remove(workspace, call.term, call.facet, call.own)
    terminal.say(f"“{term.term}” was removed from {workspace.shown(path)}", error=False)
    return 0


def _picture(call: Namespace) -> int:
    """Make a file the picture of a term, on the page of its facet."""
    from syntagma.app.results.adding import library_of
    from syntagma.app.results.pages import set_picture
    from syntagma.app.workspace.own_terms import find

    workspace = _workspace()
    term = find(workspace, call.term, call.facet)
    with library_of(workspace, read_only=False) as library:
        set_picture(workspace, library, term, Path(call.file))
    terminal.say(
        (term.term, terminal.NAME),
        f"  {term.facet}: {call.file} is its picture (syntagma term {term.facet} --page"
        f" {term.facet}.html)",
        error=False,
    )
    return 0


def _star(call: Namespace) -> int:
    return _marked(call.terms, call.facet, star=True)


def _unstar(call: Namespace) -> int:
    return _marked(call.terms, call.facet, star=False)


def _note(call: Namespace) -> int:
    return _marked([call.term], call.facet, text=call.text)


def _marked(
    names: list[str], facet: str | None, star: bool | None = None, text: str | None = None
) -> int:
    from syntagma.app.workspace.own_terms import find, mark

    workspace = _workspace()
    for term in [
        find(workspace, name, facet) for name in names
    ]:  # all of them are there, or none is marked
        made = mark(term, star=star, note=text)
        said = ", ".join(
            part
            for part in (
                "starred" if made.star else "not starred",
                f"noted: {made.note}" if made.note else "",
            )
            if part
        )
        terminal.say((term.term, terminal.NAME), f"  {term.facet}, {said}", error=False)
    return 0


VERBS = {
    "find": args.Verb("search all terms", _find_arguments, _find),
    "new": args.Verb("add a term of your own", _new_arguments, _new),
    "import": args.Verb("add the terms of a table", _import_arguments, _import),
    "remove": args.Verb("remove a term of your own", _remove_arguments, _remove),
    "star": args.Verb("make terms your favourites", _marking_arguments, _star),
    "unstar": args.Verb("remove terms from the favourites", _marking_arguments, _unstar),
    "note": args.Verb("add a note to a term", _note_arguments, _note),
    "picture": args.Verb("show a term with a picture", _picture_arguments, _picture),
}
