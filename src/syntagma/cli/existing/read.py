"""read: a finished prompt taken apart; or a picture: what it says of itself, and what it looks like."""

import sys
from pathlib import Path

from syntagma.cli import args, prompt_input, terminal


def arguments(parser: args.Parser) -> None:
    prompt_input.arguments(parser, "readings")
    parser.add_argument("--written-with", dest="formula")
    parser.add_argument("--model")
    parser.examples(
        'syntagma read "A linocut of a tired harbour pilot on a wet quay, lit by sodium quay lamps /shape 2x3" --model curlew-still',
        "syntagma expand photograph --count 3 | syntagma read - --json",
    )


PICTURES = (".png", ".jpg", ".jpeg", ".webp")


def run(call) -> int:
    from syntagma.app.existing.reading import reader_of, record_of
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.prompt and call.prompt.lower().endswith(PICTURES):
        return _picture(workspace, call)
    if call.formula:
        return _by_formula(workspace, call)
    reader = reader_of(workspace, call.model)
    prompts = prompt_input.CallPrompts.of(call)
    broken, out = 0, terminal.Items()

    def one(source) -> None:
        nonlocal broken
        reading = reader.read(source.text)
        broken += bool(reading.broken)
        if call.json:
            out.add({**prompts.place(source), **record_of(reading)})
        else:
            _view(reading, source.line if prompts.several else 0)

    prompts.each(one)
    if call.json:
        out.close(prompts.findings)
    return prompts.close() or (1 if broken else 0)


def _picture(workspace, call) -> int:
    """A picture: what it says of itself, the prompt that made it taken apart, and what it looks like."""
    from syntagma.app.existing.reading import reader_of, record_of
    from syntagma.storage.trouble import Trouble

    path, prompt = call.prompt, _of_picture(call.prompt, call.json)
    try:
        from syntagma.app.results.picture_read import see

        seen = see(workspace, Path(path))
    except (Trouble, ImportError) as trouble:
        if not prompt:
            raise
        terminal.note(str(trouble))
        seen = None
    if call.formula and prompt:
        call.prompt = prompt
        return _by_formula(workspace, call)
    reader = reader_of(workspace, call.model)
    if call.json:
        terminal.items([{"source": path, **(record_of(reader.read(prompt)) if prompt else {}), **({"picture": seen.record()} if seen else {})}])
        return 0
    if prompt:
        _view(reader.read(prompt))
    if seen:
        from syntagma.cli.existing import picture_view

        picture_view.picture(path, seen)
    return 0


def _of_picture(path: str, quiet: bool) -> str:
    """The prompt that a picture says it was made by, "" if it says none; what else it says is shown. Raises Trouble."""
    from syntagma.formats.metadata.pictures import BadPicture, said
    from syntagma.storage.files import read_bytes
    from syntagma.storage.trouble import Trouble

    try:
        found = said(read_bytes(path, "a picture", 256 << 20))
    except BadPicture as bad:
        raise Trouble(f"{path} can't be read: {bad}", "name a PNG, JPEG or WebP, or a prompt", 1) from None
    own = found.properties
    shown = {} if own is None else {"description": own.description, "prompt": own.prompt, "written by": own.writer, "system": " ".join(filter(None, (own.system, own.version))), "made by": own.source_type.rpartition("/")[2], "credit": own.credit, **own.others}
    if not quiet:
        for name, text in [*shown.items(), *found.texts.items()]:
            if text:
                terminal.say((f"{name:<12}", terminal.QUIET), terminal.shortened(text, 400), error=False)
    if found.signed and not quiet:
        terminal.note("its provenance is signed; changing its words would break the signature")
    return found.prompt


def _view(reading, number: int = 0) -> None:
    """A reading as a person sees it, below its number if it is one of several."""
    from syntagma.cli.existing import parts_view

    if number:
        terminal.say((f"{number}", "bold"), error=False)
    parts_view.coloured(reading)
    terminal.line()
    parts_view.parts_table(reading)
    if number:
        terminal.line()
    if reading.read_to < len(reading.text):
        terminal.say(("remark", terminal.QUIET), f" only the first {reading.read_to:,} characters are read; the rest is ignored")
    if reading.broken:
        terminal.say(("error", terminal.WRONG), f" this is not complete JSON: {reading.broken}")
        terminal.say(("  this shows what could be read; correct the text and read it again", terminal.QUIET))


def _by_formula(workspace, call) -> int:
    from syntagma.app.existing.reading import one_of
    from syntagma.core.reading.formulas.matching import Matcher
    from syntagma.core.writing.prompt_writer import Writer
    from syntagma.storage.trouble import Trouble

    formula, _ = workspace.formula(call.formula)
    text = one_of(call.prompt, call.column, sys.stdin.buffer)
    match = Matcher(Writer(formula, workspace.model(call.model), workspace.vocabulary)).match(text.strip())
    if match is None or match.score < 0:  # below 0 its words are explained by chance only
        raise Trouble(f"the text was not written with {call.formula}", "leave --formula out to read it without one", 1)
    if call.json:
        terminal.items([{"text": text, "formula": formula.name, "fills": match.fills}])
    else:
        terminal.table(("slot", "fill"), list(match.fills.items()), "fill")
    return 0
