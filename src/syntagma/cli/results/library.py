"""library: results with the prompts that made them; added, found, rated, shown on a page, gone on
from.
"""

from __future__ import annotations

import sys
from argparse import Namespace
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from syntagma.cli import args, terminal

if TYPE_CHECKING:
    from syntagma.app.results.adding import Keeper, Remarks
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.library import Kept, Library

# ──── library add: a result with the prompt that made it, all of a sheet that is done, or files
# that were downloaded by hand.


def add_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "what",
        metavar="FILE or SHEET",
        nargs="+",
        help=(
            "pictures, clips, sounds; a sheet (all its finished results); or a folder, with --match"
        ),
    )
    parser.add_argument(
        "--prompt",
        metavar="PROMPT",
        help=(
            "the prompt that made the file: the id of a row or a record, a file with one prompt, or"
            " the words (default: what the picture carries)"
        ),
    )
    parser.add_argument("--model", default="")
    parser.add_argument(
        "--match",
        metavar="SHEET",
        default="",
        help="match files that you downloaded by hand to the rows that they belong to",
    )
    parser.add_argument("--yes", action="store_true")
    parser.add_argument("--guesses", action="store_true", help="with --match: add the guesses too")
    parser.add_argument("--rating", type=args.within("rating"))
    parser.add_argument("--label", action="append", default=[])
    parser.add_argument("--note", default="")
    parser.add_argument("--source", metavar="TEXT", default="", help="its source")
    parser.add_argument(
        "--sign",
        metavar="FOLDER",
        default="",
        help=(
            "write copies to this folder that carry the prompt, the model, and the note that a"
            " generator made them (IPTC, in PNG, JPEG, WebP)"
        ),
    )
    parser.add_argument(
        "--bare",
        metavar="FOLDER",
        default="",
        help="write copies to this folder with every prompt removed, whoever wrote it",
    )
    parser.add_argument("--credit", default="")
    parser.add_argument(
        "--writer", metavar="NAME", default="", help="with --sign: the author of the prompt"
    )
    parser.json("added")
    parser.examples(
        'syntagma library add lights.png --prompt "A car ferry on a wet quay" --rating 4 --label'
        " night",
        "syntagma library add crossings",
        "syntagma library add results/crossings --match crossings --yes",
    )


def add(call: Namespace) -> int:
    from syntagma.app.results.adding import Keeper, Remarks, copied, library_of
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    remarks = Remarks(call.rating, tuple(call.label), call.note, call.source)
    with library_of(workspace, read_only=False) as library:
        keeper = Keeper(workspace, library)
        done, status = _kept(keeper, call, remarks)
        if not call.json:
            _told(done, library, call)
        for option, folder in (("sign", call.sign), ("bare", call.bare)):
            if folder:
                made = [
                    copied(
                        library,
                        library.get(one.number),
                        Path(folder),
                        call.credit,
                        call.writer,
                        option == "bare",
                    )
                    for one in done
                ]
                terminal.say(
                    f"{len(made)} cop{'y' if len(made) == 1 else 'ies'} in {folder},"
                    f" {'without prompts' if option == 'bare' else 'with their prompts'}; no pixel"
                    " is changed"
                )
                if broken := sum(signed for _, signed in made):
                    terminal.note(
                        f"{broken} had a signed provenance, which a copy can't keep; the originals"
                        " still have it"
                    )
        if call.json:
            terminal.items(
                {
                    "id": one.number,
                    "new": one.new,
                    "file": library.get(one.number).path,
                    "source": str(one.path),
                }
                for one in done
            )
    return status


def _kept(keeper: Keeper, call: Namespace, remarks: Remarks) -> tuple[list, int]:
    """What is kept, and the exit status. Raises Trouble."""
    from syntagma.app.results.adding import ENDINGS
    from syntagma.core.diagnostics import NoFile, Trouble

    if call.match:
        return _matched(keeper, call, remarks)
    done, status = [], 0
    for word in call.what:
        path = Path(word)
        sheet = keeper.has_sheet(word)
        if path.is_dir() and not sheet:
            raise Trouble(
                f"{word} is a folder",
                f"say which sheet its files belong to: syntagma library add {word} --match SHEET",
                2,
            )
        if not sheet and (path.is_file() or path.suffix.lower() in ENDINGS):
            done.append(_file(keeper, path, call, remarks))
            continue
        if call.prompt and not sheet:
            raise NoFile(word)
        found, gone = keeper.keep_sheet(word, remarks)
        done += found
        for file in gone:
            status = 1
            terminal.say(
                (f"{file} is missing", terminal.WRONG),
                ", so it was not added and its row stays as it is",
            )
        if not found and not gone:
            terminal.say(f"no result of {word} is finished yet: syntagma collect {word}")
            status = 1
    return done, status


def _file(keeper: Keeper, path: Path, call: Namespace, remarks: Remarks):
    from syntagma.app.results.adding import prompt_named, said_in
    from syntagma.core.diagnostics import NoFile, Trouble
    from syntagma.core.records import Record

    if not path.exists():
        raise NoFile(path)
    if call.prompt is not None:
        record = prompt_named(keeper.workspace, call.prompt)
    elif said := (said_in(path) if path.is_file() else ""):
        record = Record({"text": said})
        terminal.note(f"{path} carries the prompt “{terminal.shortened(said, 80)}”")
    elif path.is_file() and (number := keeper.library.of_file(path)):
        record = keeper.library.get(number).record
    else:
        raise Trouble(
            f"which prompt made {path}?", 'write --prompt "…", --prompt ID, or --prompt FILE', 2
        )
    if call.model:
        record = record.changed(model=call.model)
    known = {"cost": record.cost.amount, "currency": record.cost.currency} if record.cost else {}
    return keeper.keep(path, record, remarks, **known)


def _matched(keeper: Keeper, call: Namespace, remarks: Remarks) -> tuple[list, int]:
    from syntagma.app.results.downloads import keep_matched, looked_at
    from syntagma.core.diagnostics import Trouble

    if len(call.what) != 1 or not Path(call.what[0]).is_dir():
        raise Trouble(
            "--match looks through one folder",
            f"write syntagma library add FOLDER --match {call.match}",
            2,
        )
    matches = looked_at(keeper.workspace, Path(call.what[0]), call.match)
    sure, guessed = (
        [m for m in matches if m.take and m.sure],
        [m for m in matches if m.take and not m.sure],
    )
    rows = [
        (
            m.path.name,
            m.take.take if m.take else "",
            "sure" if m.sure else "a guess" if m.take else "",
            m.why,
        )
        for m in sorted(matches, key=lambda m: (not m.sure, m.take is None))
    ]
    if call.json:
        wanted = [*sure, *(guessed if call.guesses else [])] if call.yes or call.guesses else []
        return (keep_matched(keeper, call.match, wanted, remarks), 0) if wanted else ([], 1)
    terminal.table(("file", "take", "how sure", "why"), rows, "why")
    terminal.say(
        f"{len(sure)} sure, {len(guessed)} guessed, {len(matches) - len(sure) - len(guessed)}"
        " without a match",
        error=False,
    )
    wanted = (
        sure
        if call.yes or call.guesses
        else (
            sure
            if sys.stdin.isatty() and sure and _agreed(f"add the {len(sure)} sure ones?")
            else []
        )
    )
    if guessed and (
        call.guesses
        or (not call.yes and sys.stdin.isatty() and _agreed(f"add the {len(guessed)} guesses too?"))
    ):
        wanted = [*wanted, *guessed]
    if not wanted:
        terminal.say("nothing was added: --yes adds the sure ones, --guesses the rest too")
        return [], 1
    return keep_matched(keeper, call.match, wanted, remarks), 0


def _agreed(question: str) -> bool:
    sys.stderr.write(f"{question} [y/N] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() in ("y", "yes")


def _told(done: list, library: Library, call: Namespace) -> None:
    new = [one for one in done if one.new]
    if len(done) == 1:
        one = done[0]
        terminal.say(
            (f"{one.number}", terminal.NAME),
            f"  {one.path}" + ("" if one.new else ": already in the library"),
            error=False,
        )
    elif done:
        numbers = [one.number for one in new]
        terminal.say(
            f"{len(new)} added{f' ({numbers[0]} to {numbers[-1]})' if len(numbers) > 1 else ''},"
            f" {len(done) - len(new)} already there; {library.count()} in the library",
            error=False,
        )


# ──── library: results with the prompts that made them; added, found, rated, shown on a page, gone
# on from.


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "ids",
        metavar="ID",
        nargs="*",
        help="results to show in full (12, 14-17); default: the list",
    )
    _conditions(parser)
    _listing(parser)
    parser.examples(
        "syntagma library",
        "syntagma library 12",
        'syntagma library --rating 4 --term lighting="sodium quay lamps"',
    )


def _conditions(parser: args.Parser) -> None:
    parser.add_argument(
        "--term",
        metavar="FACET=TERM",
        action="append",
        default=[],
        help='only results with this choice: lighting="sodium quay lamps"; can be repeated',
    )
    parser.add_argument("--rating", type=args.within("rating"))
    parser.add_argument("--model", default="")
    parser.add_argument("--label", default="")
    parser.add_argument("--sheet", default="")
    parser.add_argument("--formula", default="")
    parser.add_argument("--removed", action="store_true", help="what was removed, instead")


def _listing(parser: args.Parser) -> None:
    parser.add_argument("--all", action="store_true")
    parser.json("results")


def _find_arguments(parser: args.Parser) -> None:
    parser.add_argument("find", metavar="WORDS", help="words of prompts, notes and labels")
    _conditions(parser)
    _listing(parser)
    parser.examples('syntagma library find "ferry harbour"')


def _show_arguments(parser: args.Parser) -> None:
    parser.add_argument("ids", metavar="ID", nargs="+", help="which (12, 14-17)")
    parser.json("results")
    parser.examples("syntagma library show 12", 'syntagma compose --kept 12 light="full moonlight"')


def _ids_arguments(verb: str):
    def arguments(parser: args.Parser) -> None:
        parser.add_argument("ids", metavar="ID", nargs="+", help="which (12, 14-17)")
        parser.examples(f"syntagma library {verb} 12")

    return arguments


def _rate_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "ids", metavar="ID", nargs="+", help="results (12, 14-17) and a rating, 0 to 5"
    )
    parser.examples("syntagma library rate 12 4")


def _label_arguments(verb: str):
    def arguments(parser: args.Parser) -> None:
        parser.add_argument("id", metavar="ID", help="which (12, 14-17)")
        parser.add_argument("labels", metavar="LABEL", nargs="+", help="labels of your own")
        parser.examples(f"syntagma library {verb} 12 night")

    return arguments


def _note_arguments(parser: args.Parser) -> None:
    parser.add_argument("id", metavar="ID", help="which")
    parser.add_argument(
        "words", metavar="TEXT", nargs="*", help="the note; leave it out to remove the note"
    )
    parser.examples('syntagma library note 12 "too dark"')


def _money_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "by",
        metavar="BY",
        nargs="?",
        default="month",
        choices=("month", "model", "label"),
        help="month, model or label (default: month)",
    )
    parser.json("money-spent")
    parser.examples("syntagma library money model")


def _backup_arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "file", metavar="FILE", help="a zip file; unpack it into a workspace to restore the library"
    )
    parser.examples("syntagma library backup all.zip")


def _page_arguments(parser: args.Parser) -> None:
    parser.add_argument("file", metavar="FILE", help="the page (.html)")
    parser.add_argument(
        "ids", metavar="ID", nargs="*", help="only these (12, 14-17); default: all that match"
    )
    parser.add_argument("--find", default="")
    _conditions(parser)
    parser.add_argument("--title", default="")
    parser.examples(
        'syntagma library page best.html --sheet crossings --rating 3 --title "Crossings"'
    )


def run(call: Namespace) -> int:

    from syntagma.core.diagnostics import Trouble, nearest

    if call.ids and not call.ids[0][:1].isdigit():
        if not nearest(call.ids[0], VERBS) and len(call.ids) == 1:
            raise Trouble(
                f"“{call.ids[0]}” is not a number of the library",
                "the first column of `syntagma library` shows them",
                2,
            )
        args.no_verb("library", call.ids, VERBS)
    return _listed(call, "")


def _find(call: Namespace) -> int:
    call.ids = []
    return _listed(call, call.find)


def _listed(call: Namespace, words: str) -> int:
    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    with library_of(workspace) as library:
        found = (
            [library.get(number) for number in numbers_of(call.ids)]
            if call.ids
            else library.find(_wanted(workspace, call, words))
        )
        if call.json:
            terminal.items(_record(one) for one in found)
            return 0 if found else 1
        if call.ids:
            for one in found:
                _shown(one, library)
            return 0
        return table_of(found, library, call.all)


def _show(call: Namespace) -> int:
    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace

    with library_of(Workspace.load(tell=terminal.left_out)) as library:
        found = [library.get(number) for number in numbers_of(call.ids)]
        if call.json:
            terminal.items(_record(one) for one in found)
            return 0
        for one in found:
            _shown(one, library)
    return 0


def _on_library(work: Callable[..., int]):
    """Runs a verb on the library."""

    def run(call: Namespace) -> int:
        from syntagma.app.results.adding import library_of
        from syntagma.app.workspace.workspace import Workspace

        with library_of(Workspace.load(tell=terminal.left_out)) as library:
            return work(library, call)

    return run


def _page(call: Namespace) -> int:
    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.results.pages import write_library_page
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    with library_of(workspace, read_only=False) as library:
        found = (
            [library.get(number) for number in numbers_of(call.ids)]
            if call.ids
            else library.find(_wanted(workspace, call, call.find))
        )
        gone = write_library_page(
            library, found, Path(call.file), call.title or call.sheet or call.label or "The library"
        )
        terminal.say(
            f"{len(found)} results in {call.file}"
            + (f"; the files of {gone} are missing" if gone else ""),
            error=False,
        )
        if not found:
            terminal.note(
                "Nothing in the library matches: syntagma library add SHEET, or syntagma library"
                " add FILE --prompt …"
            )
    return 0


def _wanted(workspace: Workspace, call: Namespace, words: str):
    from syntagma.app.results.adding import terms_asked
    from syntagma.storage.library import LibraryQuery

    return LibraryQuery(
        words,
        terms_asked(workspace, call.term),
        call.rating,
        call.model,
        call.label,
        call.sheet,
        call.formula,
        call.removed,
    )


def _record(one: Kept) -> dict:
    cost = {} if one.cost is None else {"amount": one.cost, "currency": one.currency}
    found = {
        "id": one.id,
        "file": one.path,
        "text": one.text,
        "negative": one.negative,
        "model": one.model,
        "formula": one.formula,
        "sheet": one.sheet,
        "take": one.take,
        "cost": cost,
        "rating": one.rating,
        "judged": one.judged,
    }
    found |= {
        "labels": list(one.labels),
        "note": one.note,
        "source": one.source,
        "added": one.at,
        "made": one.made,
        "use": one.use,
        "removed": one.dropped,
        "record": dict(one.record),
    }
    return {key: value for key, value in found.items() if value not in ("", None, [], {})}


def table_of(found: list, library: Library, every: bool) -> int:
    """What was found as a table, as much as fits the screen."""
    if not found:
        terminal.say("No result matches." if library.count() else "The library is empty.")
        terminal.say(("  try a single word, or drop a condition", terminal.QUIET))
        return 1
    rows = [
        (one.id, _stars(one), one.model, ", ".join(one.labels), terminal.shortened(one.text))
        for one in found
    ]
    shown = rows if every or not terminal.on_terminal() else rows[: terminal.room()]
    terminal.table(("id", "rating", "model", "labels", "prompt"), shown, "prompt")
    if len(shown) < len(rows):
        terminal.say((f"{len(rows) - len(shown):,} more: --all", terminal.QUIET), error=False)
    return 0


def _stars(one: Kept) -> str:
    """Its rating: one's own, else the mean of those who judged it."""
    if one.rating is not None:
        return f"{one.rating:g} of 5"
    return "" if one.judged is None else f"({one.judged:.1f})"


def _shown(one: Kept, library: Library) -> None:
    """One of them, whole."""
    from syntagma.core.models.prices import priced
    from syntagma.core.records import joined

    there = library.file_of(one).is_file()
    terminal.say(
        (f"{one.id}", terminal.NAME),
        f"  {one.path}",
        ("" if there else "  the file is missing", terminal.WRONG),
        error=False,
    )
    terminal.line(one.text)
    cost = priced(one.cost, one.currency) if one.cost is not None else ""
    pairs: tuple[tuple[str, str], ...] = (
        ("negative", one.negative),
        ("model", one.model),
        ("formula", one.formula),
        ("cost", cost),
        ("rating", _stars(one)),
        ("labels", ", ".join(one.labels)),
        ("note", one.note),
    )
    pairs += (
        ("made", one.made[:19].replace("T", " ")),
        ("kept", one.at[:19].replace("T", " ")),
        ("from", one.source or (f"the sheet {one.sheet}, take {one.take}" if one.sheet else "")),
        ("use", one.use),
        ("dropped", one.dropped[:19]),
    )
    for name, value in pairs:
        if value:
            terminal.say((f"{name:<10}", terminal.QUIET), value, error=False)
    for slot, fill in (one.record.fills or {}).items():
        terminal.say((f"{slot:<10}", terminal.NAME), joined(fill), error=False)


def _remove(library: Library, call: Namespace) -> int:
    return _dropped(library, call.ids, True)


def _restore(library: Library, call: Namespace) -> int:
    return _dropped(library, call.ids, False)


def _dropped(library: Library, words: list[str], gone: bool) -> int:
    from syntagma.app.results.adding import numbers_of
    from syntagma.storage.ledger import now

    numbers = [library.get(number).id for number in numbers_of(words)]
    for number in numbers:
        library.change(number, dropped=now() if gone else "")
    what = "removed; to restore it: syntagma library restore" if gone else "there again"
    terminal.say(
        f"{', '.join(map(str, numbers))} {'is' if len(numbers) == 1 else 'are'} {what}", error=False
    )
    return 0


def _rate(library: Library, call: Namespace) -> int:
    from syntagma.app.results.adding import numbers_of
    from syntagma.core.diagnostics import Trouble

    words = call.ids
    if len(words) < 2:
        raise Trouble(
            "give numbers of the library and a rating", "write syntagma library rate 12 4", 2
        )
    rating = args.checked("rating", words[-1], "syntagma library rate 12 4")
    for number in numbers_of(words[:-1]):
        library.change(library.get(number).id, rating=rating)
    terminal.say(f"{', '.join(words[:-1])}: {rating:g} of 5", error=False)
    return 0


def _unlabel(library: Library, call: Namespace) -> int:
    return _labelled(library, call, off=True)


def _label(library: Library, call: Namespace) -> int:
    return _labelled(library, call)


def _labelled(library: Library, call: Namespace, off: bool = False) -> int:
    from syntagma.app.results.adding import numbers_of

    for number in numbers_of([call.id]):
        own = [label for label in library.get(number).labels if label not in call.labels] + (
            [] if off else call.labels
        )
        library.change(number, labels=own)
        terminal.say((f"{number}", terminal.NAME), f"  {', '.join(own) or 'no label'}", error=False)
    return 0


def _note(library: Library, call: Namespace) -> int:
    from syntagma.app.results.adding import numbers_of

    number = numbers_of([call.id])[0]
    library.change(library.get(number).id, note=" ".join(call.words))
    terminal.say(
        (f"{number}", terminal.NAME), f"  {' '.join(call.words) or 'no note'}", error=False
    )
    return 0


def _money(library: Library, call: Namespace) -> int:
    from syntagma.core.models.prices import priced

    by = call.by
    rows = [
        (what or "none", count, priced(amount, currency), f"{amount / count:,.3g}")
        for what, currency, count, amount in library.money(by)
    ]
    if call.json:
        terminal.items(
            {
                by: what,
                "results": count,
                "spent": {"amount": round(amount, 6), "currency": currency},
            }
            for what, currency, count, amount in library.money(by)
        )
    else:
        terminal.table((by, "kept", "money", "each"), rows)
    return 0


def _backup(library: Library, call: Namespace) -> int:
    from syntagma.core.diagnostics import Trouble

    if not call.file.lower().endswith(".zip"):
        raise Trouble("a backup is a zip file", "write syntagma library backup FILE.zip", 2)
    count = library.backup(Path(call.file))
    terminal.say(
        f"{count} files and their records in {call.file}; unpack it into a workspace to restore the"
        " library"
    )
    return 0


VERBS = {
    "add": args.Verb(
        "add a result with its prompt, or all finished results of a sheet", add_arguments, add
    ),
    "show": args.Verb("show results in full, or continue from one", _show_arguments, _show),
    "find": args.Verb("search prompts, notes and labels", _find_arguments, _find),
    "rate": args.Verb("rate results from 0 to 5", _rate_arguments, _on_library(_rate)),
    "label": args.Verb("label results", _label_arguments("label"), _on_library(_label)),
    "unlabel": args.Verb("take labels away", _label_arguments("unlabel"), _on_library(_unlabel)),
    "note": args.Verb("add a note to a result", _note_arguments, _on_library(_note)),
    "remove": args.Verb(
        "remove results; they can be restored", _ids_arguments("remove"), _on_library(_remove)
    ),
    "restore": args.Verb(
        "bring removed results back", _ids_arguments("restore"), _on_library(_restore)
    ),
    "page": args.Verb("write results as a page, to filter and compare", _page_arguments, _page),
    "money": args.Verb(
        "show spending by month, model or label", _money_arguments, _on_library(_money)
    ),
    "backup": args.Verb(
        "write the whole library to a zip file", _backup_arguments, _on_library(_backup)
    ),
}
