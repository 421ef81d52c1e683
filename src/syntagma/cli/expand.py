"""expand: a family of prompts out of one."""

import sys

from syntagma.cli import args, asked, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("formula", metavar="FORMULA", help="a formula's name, a .formula file, or a formula on one line in quotes")
    parser.add_argument("fills", metavar="slot=text", nargs="*", help="what is the same in all of them")
    parser.add_argument(
        "--vary", metavar="AXIS", action="append", default=[],
        help="what varies: SLOT (all its terms), SLOT=a,b,c (these; \\, is a comma), SLOT:4 (four picks); may be given again",
    )  # fmt: skip
    parser.add_argument(
        "--design", default="single", help="single: one change at a time against the baseline (default); full: every combination"
    )
    parser.add_argument("--count", metavar="N", type=args.count, help="how many; with no --vary, the open slots are picked")
    parser.add_argument("--all", action="store_true", help="write a full design however large it is")
    parser.add_argument("--model", metavar="A,B", help="the generators; each prompt is written for each")
    asked.arguments(parser)
    parser.add_argument("--budget", metavar="N", type=args.amount, help="refuse a family that costs more, in the model's currency")
    parser.add_argument("--json", action="store_true", help="print records instead of text")
    parser.add_argument("--out", metavar="FILE", help="write to .txt .csv .jsonl .json or .md instead")
    parser.examples(
        'syntagma expand poster medium=linocut subject="car ferry" --vary light="sodium quay lamps,low moon behind scud"',
        "syntagma expand poster --count 12 --model curlew-still,dunlin-still --out crossings.csv",
    )


def run(call) -> int:
    from syntagma.app.expanding import Family, Wish, keep_to
    from syntagma.app.world import World

    wish = Wish(
        call.formula, args.fills(call.fills), [args.vary(word) for word in call.vary], call.design, call.count,
        args.names(call.model), asked.taste(call), call.all,
        args.listed(call.mount), asked.manner(call),
    )  # fmt: skip
    world = World.load()
    if call.budget is not None:
        keep_to(call.budget, world, wish)
    family = Family(world, wish)
    if look.remarks_seen():
        look.findings(family.remarks + family.vocabulary_remarks())
    if call.out:
        _to_file(family, call.out)
    elif call.json:
        _stream(family, "json")
    elif look.on_terminal():
        _show(family)
    else:
        _stream(family, "text")
    return _close(family)


def _to_file(family, path: str) -> None:
    from syntagma.app.writing import write_family

    total = family.wish.count or family.size
    with look.Progress(total, "writing") as tell:
        names = write_family(family, path, tell)
    each = f", each for {len(family.writers)} models" if len(family.writers) > 1 else ""
    look.say(f"{family.written:,} prompts{each} in {' and '.join(names)}")


def _stream(family, how: str) -> None:
    from syntagma.app.writing import stream_family
    from syntagma.formats.prompts_out import JsonOut, TextOut

    kind = JsonOut if how == "json" else TextOut
    stream_family(family, [kind(sys.stdout, list(family.writer.position))])
    sys.stdout.flush()


def _show(family) -> None:
    from syntagma.app.expanding import FamilyRecords
    from syntagma.formats.prompts_out import changes

    records = FamilyRecords(family)
    for member in family.members():
        fills = family.fills_of(member)
        every = records.of(member)
        if family.axes:
            what, differs = ", ".join(changes(every[0])) or "baseline", list(family.changes(member))
        else:  # everything differs: say what was picked first, and mark nothing
            what, differs = ", ".join(f.shown for f in member.combination[:3] if f), []
        written = [
            (
                look.marked(writer.pieces(fills), differs),
                " · ".join(filter(None, (writer.profile.name, look.size(record), look.price(writer.profile, record)))),
            )
            for writer, record in zip(family.writers, every, strict=True)
        ]
        look.member(member.number + 1, what, written)


def _close(family) -> int:
    """What is said at the end, and the exit status."""
    from syntagma.core.models.prices import in_all

    for line in family.statement():
        look.say(line)
    if look.remarks_seen():
        bills = [bill for bill in family.bills() if bill.amount is not None]
        for bill in bills:
            look.say((bill.shown(), look.QUIET))
        if len(bills) > 1:
            look.say((f"in all: {in_all(bills)}", look.QUIET))
    look.findings(family.failures)
    if family.failed:
        look.say((f"{family.failed:,} prompt{'' if family.failed == 1 else 's'} could not be written", look.WRONG))
    return 1 if family.failed else 0
