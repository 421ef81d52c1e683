"""kept: the library of results; looked through, changed, and gone on from."""

import argparse
from pathlib import Path

from syntagma.cli import args, terminal

DEEDS = ("drop", "restore", "mark", "label", "unlabel", "note", "money", "backup")


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "what", metavar="WHAT", nargs="*",
        help="nothing: the list · 12: one of them · drop 12 · restore 12 · mark 12 4 · label 12 night · unlabel 12 night · note 12 TEXT · money month|model|label · backup FILE.zip",
    )  # fmt: skip
    parser.add_argument("--find", metavar="WORDS", default="", help="prompts, notes and labels that have these words")
    parser.add_argument("--term", metavar="FACET=TERM", action="append", default=[], help='those with this choice: lighting="sodium quay lamps"; may be given again')
    parser.add_argument("--mark", metavar="N", type=args.within("mark"), help="those with at least this mark")
    parser.add_argument("--model", metavar="NAME", default="", help="those of this generator")
    parser.add_argument("--label", metavar="NAME", default="", help="those with this label")
    parser.add_argument("--sheet", metavar="NAME", default="", help="those of this sheet")
    parser.add_argument("--formula", metavar="NAME", default="", help="those of this formula")
    parser.add_argument("--dropped", action="store_true", help="what was dropped, instead")
    parser.add_argument("--all", action="store_true", help="all of them, however many (else the newest that fit the screen)")
    parser.add_argument("--compose", metavar="…", nargs=argparse.REMAINDER, help='behind a number: the same prompt with other fills: kept 12 --compose light="full moonlight"')
    parser.add_argument("--expand", metavar="…", nargs=argparse.REMAINDER, help="behind a number: a family out of it: kept 12 --expand --vary light:4")
    parser.add_argument("--fill", metavar="…", nargs=argparse.REMAINDER, help="behind a number: slot by slot, with what it has")
    parser.add_argument("--json", action="store_true", help="print records")
    parser.examples('syntagma kept --find "fog quay" --mark 4', 'syntagma kept 12 --compose light="full moonlight"', "syntagma kept money month")


def run(call) -> int:
    from syntagma.app.results.keeping import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.trouble import Trouble

    workspace = Workspace.load(tell=terminal.left_out)
    with library_of(workspace) as library:
        if call.what and call.what[0] in DEEDS:
            return globals()[f"_{call.what[0]}"](library, call.what[1:], call)
        going_on = [name for name in ("compose", "expand", "fill") if getattr(call, name) is not None]
        if going_on:
            if len(call.what) != 1 or len(going_on) > 1:
                raise Trouble("one prompt is gone on from at a time", f"write syntagma kept 12 --{going_on[0]} …", 2)
            kept = library.get(numbers_of(call.what)[0])
            return _gone_on(kept, going_on[0], getattr(call, going_on[0]))
        found = [library.get(number) for number in numbers_of(call.what)] if call.what else library.find(_wanted(workspace, call))
        if call.json:
            terminal.json([_record(one) for one in found])
            return 0 if found else 1
        if call.what:
            for one in found:
                _shown(one, library)
            return 0
        return table_of(found, library, call.all)


def _wanted(workspace, call):
    from syntagma.app.results.keeping import terms_asked
    from syntagma.storage.library import Found

    return Found(call.find, terms_asked(workspace, call.term), call.mark, call.model, call.label, call.sheet, call.formula, call.dropped)


def _record(one) -> dict:
    found = {"id": one.id, "file": one.path, "text": one.text, "negative": one.negative, "model": one.model, "formula": one.formula, "sheet": one.sheet, "take": one.take, "cost": one.cost, "currency": one.currency, "mark": one.mark, "judged": one.judged}
    found |= {"labels": list(one.labels), "note": one.note, "source": one.source, "at": one.at, "made": one.made, "use": one.use, "dropped": one.dropped, "record": dict(one.record)}
    return {key: value for key, value in found.items() if value not in ("", None, [], {})}


def table_of(found: list, library, every: bool) -> int:
    """What was found as a table, as much as fits the screen."""
    if not found:
        terminal.say("nothing that is kept answers that" if library.count() else "nothing is kept")
        terminal.say(("  try one word of it, or leave a condition out", terminal.QUIET))
        return 1
    rows = [(one.id, _stars(one), one.model, ", ".join(one.labels), " ".join(one.text.split())[:110]) for one in found]
    shown = rows if every or not terminal.on_terminal() else rows[: terminal.room()]
    terminal.table(("id", "mark", "model", "labels", "prompt"), shown, "prompt")
    if len(shown) < len(rows):
        terminal.say((f"{len(rows) - len(shown):,} more: --all", terminal.QUIET), error=False)
    return 0


def _stars(one) -> str:
    """Its mark: one's own, else the mean of those who judged it."""
    if one.mark is not None:
        return f"{one.mark:g} of 5"
    return "" if one.judged is None else f"({one.judged:.1f})"


def _shown(one, library) -> None:
    """One of them, whole."""
    there = library.file_of(one).is_file()
    terminal.say((f"{one.id}", terminal.NAME), f"  {one.path}", ("" if there else "  the file is gone", terminal.WRONG), error=False)
    terminal.line(one.text)
    cost = f"{one.cost:g} {one.currency}".strip() if one.cost is not None else ""
    pairs: tuple[tuple[str, str], ...] = (("negative", one.negative), ("model", one.model), ("formula", one.formula), ("cost", cost), ("mark", _stars(one)), ("labels", ", ".join(one.labels)), ("note", one.note))
    pairs += (("made", one.made[:19].replace("T", " ")), ("kept", one.at[:19].replace("T", " ")), ("from", one.source or (f"the sheet {one.sheet}, take {one.take}" if one.sheet else "")), ("use", one.use), ("dropped", one.dropped[:19]))
    for name, value in pairs:
        if value:
            terminal.say((f"{name:<10}", terminal.QUIET), value, error=False)
    for slot, fill in (one.record.get("fills") or {}).items() if isinstance(one.record.get("fills"), dict) else ():
        terminal.say((f"{slot:<10}", terminal.NAME), "; ".join(fill) if isinstance(fill, list) else str(fill), error=False)


def _gone_on(kept, command: str, words: list[str]) -> int:
    """The next command, begun with what the kept prompt has; the call is shown."""
    from itertools import pairwise
    from shlex import quote

    from syntagma.cli import hand_over
    from syntagma.storage.trouble import Trouble

    fills = kept.record.get("fills")
    given = {slot: "; ".join(fill) if isinstance(fill, list) else str(fill) for slot, fill in fills.items()} if isinstance(fills, dict) else {}
    own = {word.partition("=")[0] for word in words if "=" in word and not word.startswith("-")}
    varied = {part for flag, word in pairwise(words) if flag == "--vary" for part in word.partition("=")[0].partition(":")[0].split("+")}
    model = ["--model", kept.model] if kept.model and "--model" not in words and not any(word.startswith("--model=") for word in words) else []
    if kept.record.get("edited"):
        terminal.note("its words were changed by hand: what was changed is in no fill, and not in what comes")
    if kept.formula and given:
        mounts = ["--mount", ",".join(kept.record["mounts"])] if isinstance(kept.record.get("mounts"), list) and "--mount" not in words else []
        taken = varied if command == "expand" else set()
        argv = [kept.formula, *(f"{slot}={fill}" for slot, fill in given.items() if slot not in own | taken), *words, *mounts, *model]
    elif command == "expand":
        argv = ["--text", kept.text, *words, *model]
    elif command == "compose":
        argv = [*words, "--from", kept.text, *model]
    else:
        raise Trouble(f"{kept.id} was not written with a formula", f"syntagma fill FORMULA --from \"…\" asks slot by slot with what it says; syntagma kept {kept.id} shows it", 2)
    terminal.note(f"syntagma {command} {' '.join(map(quote, argv))}")
    return hand_over(command, argv)


def _drop(library, words: list[str], call) -> int:
    return _dropped(library, words, True)


def _restore(library, words: list[str], call) -> int:
    return _dropped(library, words, False)


def _dropped(library, words: list[str], gone: bool) -> int:
    from syntagma.app.results.keeping import numbers_of
    from syntagma.storage.ledger import now

    numbers = [library.get(number).id for number in _some(numbers_of(words), "drop 12" if gone else "restore 12")]
    for number in numbers:
        library.change(number, dropped=now() if gone else "")
    what = "dropped; syntagma kept restore brings it back" if gone else "there again"
    terminal.say(f"{', '.join(map(str, numbers))} {'is' if len(numbers) == 1 else 'are'} {what}", error=False)
    return 0


def _some(words: list, like: str) -> list:
    from syntagma.storage.trouble import Trouble

    if not words:
        raise Trouble("nothing is named", f"write syntagma kept {like}", 2)
    return words


def _mark(library, words: list[str], call) -> int:
    from syntagma.app.results.keeping import numbers_of
    from syntagma.storage.trouble import Trouble

    if len(words) < 2:
        raise Trouble("a mark needs a number and what it gets", "write syntagma kept mark 12 4", 2)
    mark = args.checked("mark", words[-1], "syntagma kept mark 12 4")
    for number in numbers_of(words[:-1]):
        library.change(library.get(number).id, mark=mark)
    terminal.say(f"{', '.join(words[:-1])}: {mark:g} of 5", error=False)
    return 0


def _unlabel(library, words: list[str], call) -> int:
    return _label(library, words, call, off=True)


def _label(library, words: list[str], call, off: bool = False) -> int:
    from syntagma.app.results.keeping import numbers_of

    numbers = numbers_of(_some(words, "unlabel 12 night" if off else "label 12 night")[:1])
    for number in numbers:
        own = [label for label in library.get(number).labels if label not in words[1:]] + ([] if off else words[1:])
        library.change(number, labels=own)
        terminal.say((f"{number}", terminal.NAME), f"  {', '.join(own) or 'no label'}", error=False)
    return 0


def _note(library, words: list[str], call) -> int:
    from syntagma.app.results.keeping import numbers_of

    number = numbers_of(_some(words, 'note 12 "…"')[:1])[0]
    library.change(library.get(number).id, note=" ".join(words[1:]))
    terminal.say((f"{number}", terminal.NAME), f"  {' '.join(words[1:]) or 'no note'}", error=False)
    return 0


def _money(library, words: list[str], call) -> int:
    from syntagma.storage.trouble import Trouble

    by = words[0] if words else "month"
    if by not in ("month", "model", "label") or len(words) > 1:
        raise Trouble(f"money is not counted by “{' '.join(words)}”", "write syntagma kept money month, model or label", 2)
    rows = [(what or "none", count, f"{amount:,.6g} {currency}".strip(), f"{amount / count:,.3g}") for what, currency, count, amount in library.money(by)]
    if call.json:
        terminal.json([{by: what, "currency": currency, "kept": count, "money": round(amount, 6)} for what, currency, count, amount in library.money(by)])
    else:
        terminal.table((by, "kept", "money", "each"), rows)
    return 0


def _backup(library, words: list[str], call) -> int:
    from syntagma.storage.trouble import Trouble

    if len(words) != 1 or not words[0].lower().endswith(".zip"):
        raise Trouble("a backup is a zip file", "write syntagma kept backup FILE.zip", 2)
    count = library.backup(Path(words[0]))
    terminal.say(f"{count} files and all that is known of them in {words[0]}; unpacked into a workspace it is the library again")
    return 0
