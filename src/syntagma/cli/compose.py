"""compose: one prompt, or one for each row of a table."""

import sys

from syntagma.cli import args, look
from syntagma.core.findings import ERROR


def arguments(parser: args.Parser) -> None:
    parser.add_argument("formula", metavar="FORMULA", help="a formula's name, a .formula file, or a formula on one line in quotes")
    parser.add_argument(
        "fills", metavar="slot=text", nargs="*", help='what stands in a slot; "a; b" is a list, slot= leaves it blank'
    )
    parser.add_argument("--model", metavar="NAME", help="the generator that the prompt is for")
    parser.add_argument("--rows", metavar="FILE", help="a CSV table of fills, one prompt a row; - reads standard input")
    parser.add_argument("--print", choices=("text", "negative"), default="text", help="what to print (default: text)")
    parser.add_argument("--json", action="store_true", help="print records instead of text")
    parser.add_argument("--out", metavar="FILE", help="write to .txt .csv .jsonl .json or .md instead")
    parser.examples(
        'syntagma compose poster medium=linocut subject="car ferry" setting="slack-water harbour"',
        'syntagma compose "[a medium] of [a subject], [lighting]" medium=linocut subject="tea urn" --model dunlin-still',
    )


def run(call) -> int:
    from syntagma.app.composing import Composer
    from syntagma.app.world import World

    recorded = call.json or call.out
    composer = Composer(World.load(), call.formula, call.model, remarks=bool(recorded) or look.remarks_seen())
    given = args.fills(call.fills)
    if call.rows:
        return _rows(composer, given, call)
    composed = composer.compose(given)
    _write([composed], call, composer)
    look.findings(composed.findings)
    return 1 if any(f.kind == ERROR for f in composed.findings) else 0


def _write(every: list, call, composer) -> None:
    """Prompts to where the call wants them."""
    if call.out:
        from syntagma.app.writing import write_records

        number = write_records(call.out, (c.record for c in every), list(composer.writer.position))
        look.say(f"{number} prompt{'s' if number != 1 else ''} in {call.out}")
        return
    if call.json:
        look.json([c.record for c in every])
        return
    if call.print == "negative" and not any(c.prompt.negative for c in every):
        from syntagma.storage.trouble import Trouble

        raise Trouble("this prompt has no negative text", "a formula's lines that begin with - make it, for a model that takes it")
    for composed in every:
        print(getattr(composed.prompt, call.print))
    sys.stdout.flush()
    if look.on_terminal() and sys.stderr.isatty() and call.print == "text" and len(every) == 1:
        _below(every[0])


def _below(composed) -> None:
    """What a person sees below a prompt: model and length, negative text."""
    record = composed.record
    name = composed.writer.profile.name or "no model"
    look.say()
    look.say((f"{name} · {look.size(record)}", look.QUIET))
    if composed.prompt.negative:
        look.say(("negative  ", look.QUIET), composed.prompt.negative)
    blank = [rule.name for rule, fill in zip(composed.writer.rules, composed.fills, strict=True) if fill is None]
    if blank:
        look.say((f"open      {', '.join(blank)}", look.QUIET))


def _rows(composer, given: dict[str, str], call) -> int:
    from syntagma.storage.files import read_text

    source = "standard input" if call.rows == "-" else call.rows
    text = sys.stdin.read() if call.rows == "-" else read_text(call.rows, "a table")
    rows = composer.rows(text, source, given)
    done = list(rows)
    if done:
        _write([c for _, c in done], call, composer)
    for line, composed in done:
        worth = [f for f in composed.findings if f not in composer.remarks]
        if any(f.kind != "remark" for f in worth):
            look.say((f"{source}:{line}", look.NAME))
        look.findings(worth, remarks=False)
    look.findings(composer.remarks + rows.remarks)
    for mistake in rows.mistakes:
        look.say(mistake.shown())
    if rows.mistakes:
        look.say(f"{len(done)} of {len(done) + len(rows.mistakes)} rows made a prompt")
    errors = rows.mistakes or any(f.kind == ERROR for _, c in done for f in c.findings)
    return 1 if errors else 0
