"""term: add a term of one's own or take it out again, star terms, note something on one."""

from pathlib import Path

from syntagma.cli import args, terminal

DEEDS = ("add", "remove", "star", "unstar", "note", "picture")
CELLS = {
    "number": "one (when blank), many, mass or name",
    "phrase": "how it reads in a sentence, without an article",
    "place": "with its preposition and article: at a ticket window",
    "clause": "a whole clause: the camera pushes in slowly",
    "gloss": "what it does to the picture",
    "tags": "with ; between them",
    "aka": "other spellings, with ; between them",
    "clashes": "terms or #tags that contradict it, with ; between them",
    "media": "image or video; blank for both",
    "world": "what it takes for granted: hour: night dusk; where: outdoors",
    "at": "where it is at home: settings, with ; between them",
    "does": "what it does there, with ; between them",
    "sounds": "what is heard there: ambience, with ; between them",
}


def arguments(parser: args.Parser) -> None:
    parser.add_argument("deed", choices=DEEDS, help="add FACET TERM; remove TERM; star TERM …; unstar TERM …; note TERM TEXT; picture FACET TERM FILE")
    parser.add_argument("words", metavar="WORD", nargs="*", help="facet and term, or term, or term and text")
    for cell, what in CELLS.items():
        parser.add_argument(f"--{cell}", metavar="TEXT", help=f"add: {what}")
    parser.add_argument("--from", metavar="FILE", dest="table", help="add: take the terms of a CSV or XLSX table")
    parser.add_argument("--own", action="store_true", help="add: to your own folder, also inside a workspace")
    parser.add_argument("--facet", metavar="FACET", help="remove, star, unstar, note: where two facets have the term")
    parser.examples(
        'syntagma term add subject "lamp-room keeper" --phrase "lamp-room keeper with a brass key" --tags "person; alone; sea"',
        'syntagma term star "sodium quay lamps"',
    )


def run(call) -> int:
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.deed == "picture":
        return _picture(workspace, call)
    if call.deed == "remove":
        return _remove(workspace, call)
    if call.deed != "add":
        return _mark(workspace, call)
    return _take(workspace, call) if call.table else _add(workspace, call)


def _words(call, *names: str) -> list[str]:
    from syntagma.storage.trouble import Trouble

    if len(call.words) != len(names):
        given = {0: "nothing", 1: "one word"}.get(len(call.words), f"{len(call.words)} words")
        raise Trouble(
            f"term {call.deed} takes {' and '.join(names)}, and {given} came", f"syntagma term {call.deed} {' '.join(names)}", 2
        )
    return call.words


def _add(workspace, call) -> int:
    from syntagma.app.workspace.own_terms import add, guessed, hidden_by

    facet, term = _words(call, "FACET", "TERM")
    row = {"term": term} | {cell: getattr(call, cell) for cell in CELLS if getattr(call, cell)}
    path = add(workspace, facet, row, call.own)
    terminal.say(f"“{term}” is in {workspace.shown(path)}", error=False)
    if ours := hidden_by(workspace, facet, term):
        terminal.say(_hides(ours))
    if guess := guessed(workspace, facet, row):
        terminal.say((f"picks guess what it takes for granted from “{guess.term}” ({guess.world}); --world says it, --at and --does where it is at home", terminal.QUIET), error=False)
    return 0


def _take(workspace, call) -> int:
    from syntagma.app.workspace.own_terms import take

    facet = call.words[0] if call.words else None
    taken = take(workspace, Path(call.table), facet, call.own)
    for name, number in taken.taken.items():
        terminal.say((name, terminal.NAME), f"  {number} term{'' if number == 1 else 's'} taken", error=False)
    for ours in taken.hides:
        terminal.say(_hides(ours))
    for mistake in taken.left:
        terminal.say(f"left: {mistake.shown()}", error=False)
    number = sum(taken.taken.values())
    terminal.say(f"{number} taken, {len(taken.left)} left", error=False)
    return 0 if number or not taken.left else 1


def _hides(ours) -> str:
    return f"“{ours.term}” stands in place of the term of ours by this name ({ours.facet}: {ours.gloss or ours.phrase or 'no gloss'}); syntagma term remove takes it out again"


def _remove(workspace, call) -> int:
    from syntagma.app.workspace.own_terms import remove

    (name,) = _words(call, "TERM")
    term, path = remove(workspace, name, call.facet, call.own)
    terminal.say(f"“{term.term}” is taken out of {workspace.shown(path)}", error=False)
    return 0


def _picture(workspace, call) -> int:
    """Make a file the picture of a term, on the page of its facet."""
    from syntagma.app.results.keeping import library_of
    from syntagma.app.results.term_pictures import set_picture
    from syntagma.app.workspace.own_terms import find

    facet, name, file = _words(call, "FACET", "TERM", "FILE")
    term = find(workspace, name, facet)
    with library_of(workspace, read_only=False) as library:
        set_picture(workspace, library, term, Path(file))
    terminal.say((term.term, terminal.NAME), f"  {term.facet}: {file} is its picture (syntagma terms {term.facet} --page {term.facet}.html)", error=False)
    return 0


def _mark(workspace, call) -> int:
    from syntagma.app.workspace.own_terms import find, mark

    if call.deed == "note":
        name, text = _words(call, "TERM", "TEXT")
        names: list[str] = [name]
    else:
        text, names = None, call.words or _words(call, "TERM")
    star = {"star": True, "unstar": False}.get(call.deed)
    for term in [find(workspace, name, call.facet) for name in names]:  # all of them are there, or none is marked
        made = mark(term, star=star, note=text)
        said = ", ".join(
            part for part in ("starred" if made.star else "not starred", f"noted: {made.note}" if made.note else "") if part
        )
        terminal.say((term.term, terminal.NAME), f"  {term.facet}, {said}", error=False)
    return 0
