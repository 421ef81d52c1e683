"""library add: a result with the prompt that made it, all of a sheet that is done, or files that were downloaded by hand."""

import sys
from pathlib import Path

from syntagma.cli import args, terminal


def add_arguments(parser: args.Parser) -> None:
    parser.add_argument("what", metavar="FILE or SHEET", nargs="+", help="pictures, clips, sounds; a sheet (all its finished results); or a folder, with --match")
    parser.add_argument("--prompt", metavar="PROMPT", help="the prompt that made the file: the id of a row or a record, a file with one prompt, or the words (default: what the picture carries)")
    parser.add_argument("--model", default="")
    parser.add_argument("--match", metavar="SHEET", default="", help="match files that you downloaded by hand to the rows that they belong to")
    parser.add_argument("--yes", action="store_true")
    parser.add_argument("--guesses", action="store_true", help="with --match: add the guesses too")
    parser.add_argument("--rating", type=args.within("rating"))
    parser.add_argument("--label", action="append", default=[])
    parser.add_argument("--note", default="")
    parser.add_argument("--source", metavar="TEXT", default="", help="its source")
    parser.add_argument("--sign", metavar="FOLDER", default="", help="write copies to this folder that carry the prompt, the model, and the note that a generator made them (IPTC, in PNG, JPEG, WebP)")
    parser.add_argument("--bare", metavar="FOLDER", default="", help="write copies to this folder with every prompt removed, whoever wrote it")
    parser.add_argument("--credit", default="")
    parser.add_argument("--writer", metavar="NAME", default="", help="with --sign: the author of the prompt")
    parser.json("added")
    parser.examples('syntagma library add lights.png --prompt "A car ferry on a wet quay" --rating 4 --label night', "syntagma library add crossings", "syntagma library add results/crossings --match crossings --yes")


def add(call) -> int:
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
                made = [copied(library, library.get(one.number), Path(folder), call.credit, call.writer, option == "bare") for one in done]
                terminal.say(f"{len(made)} cop{'y' if len(made) == 1 else 'ies'} in {folder}, {'without prompts' if option == 'bare' else 'with their prompts'}; no pixel is changed")
                if broken := sum(signed for _, signed in made):
                    terminal.note(f"{broken} had a signed provenance, which a copy can't keep; the originals still have it")
        if call.json:
            terminal.items({"id": one.number, "new": one.new, "file": library.get(one.number).path, "source": str(one.path)} for one in done)
    return status


def _kept(keeper, call, remarks) -> tuple[list, int]:
    """What is kept, and the exit status. Raises Trouble."""
    from syntagma.app.results.adding import ENDINGS
    from syntagma.storage.trouble import NoFile, Trouble

    if call.match:
        return _matched(keeper, call, remarks)
    done, status = [], 0
    for word in call.what:
        path = Path(word)
        sheet = keeper.has_sheet(word)
        if path.is_dir() and not sheet:
            raise Trouble(f"{word} is a folder", f"say which sheet its files belong to: syntagma library add {word} --match SHEET", 2)
        if not sheet and (path.is_file() or path.suffix.lower() in ENDINGS):
            done.append(_file(keeper, path, call, remarks))
            continue
        if call.prompt and not sheet:
            raise NoFile(word)
        found, gone = keeper.keep_sheet(word, remarks)
        done += found
        for file in gone:
            status = 1
            terminal.say((f"{file} is missing", terminal.WRONG), ", so it was not added and its row stays as it is")
        if not found and not gone:
            terminal.say(f"no result of {word} is finished yet: syntagma collect {word}")
            status = 1
    return done, status


def _file(keeper, path: Path, call, remarks):
    from syntagma.app.results.adding import prompt_named, said_in
    from syntagma.storage.trouble import Trouble

    if call.prompt is not None:
        record = prompt_named(keeper.workspace, call.prompt)
    elif said := (said_in(path) if path.is_file() else ""):
        record = {"text": said}
        terminal.note(f"{path} carries the prompt “{terminal.shortened(said, 80)}”")
    elif path.is_file() and (number := keeper.library.of_file(path)):
        record = dict(keeper.library.get(number).record)
    else:
        raise Trouble(f"which prompt made {path}?", 'write --prompt "…", --prompt ID, or --prompt FILE', 2)
    if call.model:
        record = {**record, "model": call.model}
    cost = record.get("cost")
    known = {"cost": cost["amount"], "currency": str(cost.get("currency", ""))} if isinstance(cost, dict) and isinstance(cost.get("amount"), int | float) else {}
    return keeper.keep(path, record, remarks, **known)


def _matched(keeper, call, remarks) -> tuple[list, int]:
    from syntagma.app.results.downloads import keep_matched, looked_at
    from syntagma.storage.trouble import Trouble

    if len(call.what) != 1 or not Path(call.what[0]).is_dir():
        raise Trouble("--match looks through one folder", f"write syntagma library add FOLDER --match {call.match}", 2)
    matches = looked_at(keeper.workspace, Path(call.what[0]), call.match)
    sure, guessed = [m for m in matches if m.take and m.sure], [m for m in matches if m.take and not m.sure]
    rows = [(m.path.name, m.take.take if m.take else "", "sure" if m.sure else "a guess" if m.take else "", m.why) for m in sorted(matches, key=lambda m: (not m.sure, m.take is None))]
    if call.json:
        wanted = [*sure, *(guessed if call.guesses else [])] if call.yes or call.guesses else []
        return (keep_matched(keeper, call.match, wanted, remarks), 0) if wanted else ([], 1)
    terminal.table(("file", "take", "how sure", "why"), rows, "why")
    terminal.say(f"{len(sure)} sure, {len(guessed)} guessed, {len(matches) - len(sure) - len(guessed)} without a match", error=False)
    wanted = sure if call.yes or call.guesses else sure if sys.stdin.isatty() and sure and _agreed(f"add the {len(sure)} sure ones?") else []
    if guessed and (call.guesses or (not call.yes and sys.stdin.isatty() and _agreed(f"add the {len(guessed)} guesses too?"))):
        wanted = [*wanted, *guessed]
    if not wanted:
        terminal.say("nothing was added: --yes adds the sure ones, --guesses the rest too")
        return [], 1
    return keep_matched(keeper, call.match, wanted, remarks), 0


def _agreed(question: str) -> bool:
    sys.stderr.write(f"{question} [y/N] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() in ("y", "yes")


def _told(done: list, library, call) -> None:
    new = [one for one in done if one.new]
    if len(done) == 1:
        one = done[0]
        terminal.say((f"{one.number}", terminal.NAME), f"  {one.path}" + ("" if one.new else ": already in the library"), error=False)
    elif done:
        numbers = [one.number for one in new]
        terminal.say(f"{len(new)} added{f' ({numbers[0]} to {numbers[-1]})' if len(numbers) > 1 else ''}, {len(done) - len(new)} already there; {library.count()} in the library", error=False)
