"""read: a finished prompt taken apart; or a picture: what it says of itself, and what it looks
like.
"""

from __future__ import annotations

import sys
from argparse import Namespace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, prompt_input, terminal
from syntagma.cli.harmless import shown
from syntagma.core.vocabulary import facets

if TYPE_CHECKING:
    from syntagma.app.prompt_files import Source
    from syntagma.app.results.picture_read import SeenPicture
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.reading.prompt_pieces import PromptPiece, Reading

# ──── How a reference picture that was read is shown: palette, light, edges, and as fills.


def picture(file: str, seen: SeenPicture) -> None:
    """Show what a picture looks like."""
    light = seen.look.light
    wide, high = seen.look.size
    terminal.say((file, terminal.NAME), f"  {wide} × {high}, {seen.ratio}", error=False)
    swatches = [
        (
            ("  ███  ", one.code),
            f"{one.share:4.0%}  {one.word:<16}",
            (f" {one.code}", terminal.QUIET),
        )
        for one in seen.palette
    ]
    for parts in swatches:
        terminal.say(*parts, error=False)
    side = (
        f", brighter {light.side if light.side in ('above', 'below') else f'on the {light.side}'}"
        if light.side
        else ""
    )
    sharp = (
        "crisp"
        if seen.look.sharpness > 0.6
        else "soft"
        if seen.look.sharpness < 0.25
        else "neither crisp nor soft"
    )
    terminal.say(
        ("light     ", terminal.QUIET),
        f"{light.key_word}, {light.contrast_word}, {light.warmth_word}{side}",
        error=False,
    )
    terminal.say(("edges     ", terminal.QUIET), sharp, error=False)
    for term, sure in seen.terms:
        how = "says just that" if sure >= 0.72 else "may suit" if sure >= 0.5 else "not quite"
        terminal.say(
            (f"{term.facet:<10}", terminal.QUIET),
            f"{term.term}",
            (f"  {how} ({sure:.0%})", terminal.QUIET),
            error=False,
        )
    fills = " ".join(f'{facet}="{words}"' for facet, words in seen.fills.items())
    terminal.say(("fills     ", terminal.QUIET), fills, error=False)


# ──── How prompts that were taken apart look in a terminal: the text with its parts coloured,
# tables of parts, what differs.


def ink(piece: PromptPiece) -> str:
    """The colour of a piece."""
    if piece.kind == "glue":
        return terminal.QUIET
    if piece.kind != "part":
        return "dim italic"
    return facets.traits_of(piece.facet).colour


def coloured(reading: Reading) -> None:
    """The prompt, each part in the colour of its kind."""
    terminal.say(*((shown(piece.text), ink(piece)) for piece in reading.pieces), error=False)


MOST_SEEN = 400  # parts that a terminal shows


def parts_table(reading: Reading) -> None:
    """Every piece but glue: its words, what it is, the term that it is or is nearest to, how sure
    that is and why.
    """
    from rich.text import Text

    rows = []
    said = [piece for piece in reading.pieces if piece.kind != "glue"]
    most = MOST_SEEN if terminal.on_terminal() else len(said)
    for piece in said[:most]:
        words = shown(" ".join(piece.text.split()))
        facet = piece.facet if piece.kind == "part" else piece.kind
        weight = f" ×{piece.stress:g}" if piece.stress != 1 else ""
        term = (
            piece.term.term
            if piece.term
            else (
                f"near {piece.near.term}"
                if piece.near
                else piece.value
                if piece.kind == "parameter"
                else ""
            )
        )
        name = f" {piece.name}" if piece.kind == "parameter" else ""
        sure = f"{piece.sure:.0%}" if piece.sure else ""
        rows.append(
            (
                Text(facet + name, style=ink(piece)),
                words + weight,
                term,
                sure,
                Text(piece.why, style=terminal.QUIET),
            )
        )
    terminal.table(("part", "words", "term", "sure", "why"), rows, share=("words", "term", "why"))
    if len(said) > most:
        terminal.note(f"and {len(said) - most:,} more parts: --json has them all")


def comparison(found: Any) -> None:
    """Two prompts part by part."""
    marks = {
        "same": ("=", terminal.QUIET),
        "changed": ("≠", terminal.CHANGED),
        "only in the first": ("‹", terminal.NAME),
        "only in the second": ("›", terminal.NAME),
    }
    from rich.text import Text

    rows = []
    for pair in found.pairs:
        sign, style = marks[pair.how]
        sides = [
            Text(
                shown(" ".join(p.text.split())) if p else "–",
                style=style if pair.how != "same" else terminal.QUIET,
            )
            for p in (pair.first, pair.second)
        ]
        rows.append((Text(sign, style=style), pair.facet, *sides))
    terminal.table(("", "part", "first", "second"), rows, share=("first", "second"))
    counts = {how: sum(p.how == how for p in found.pairs) for how in marks}
    terminal.line()
    terminal.say(", ".join(f"{n} {how}" for how, n in counts.items() if n), error=False)
    terminal.say(f"distance {found.distance:.2f} (0: the same, 1: nothing in common)", error=False)


# ──── read: a finished prompt taken apart; or a picture: what it says of itself, and what it looks
# like.


def arguments(parser: args.Parser) -> None:
    prompt_input.arguments(parser, "readings")
    parser.add_argument("--written-with", dest="formula")
    parser.add_argument("--model")
    parser.examples(
        'syntagma read "A linocut of a tired harbour pilot on a wet quay, lit by sodium quay lamps'
        ' /shape 2x3" --model curlew-still',
        "syntagma expand photograph --count 3 | syntagma read - --json",
    )


PICTURES = (".png", ".jpg", ".jpeg", ".webp")


def run(call: Namespace) -> int:
    from syntagma.app.reading import reader_of, record_of
    from syntagma.app.workspace.workspace import Workspace

    workspace = Workspace.load(tell=terminal.left_out)
    if call.prompt and call.prompt.lower().endswith(PICTURES):
        return _picture(workspace, call)
    if call.formula:
        return _by_formula(workspace, call)
    reader = reader_of(workspace, call.model)
    prompts = prompt_input.CallPrompts.of(call)
    broken, out = 0, terminal.Items()

    def one(source: Source) -> None:
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


def _picture(workspace: Workspace, call: Namespace) -> int:
    """A picture: what it says of itself, the prompt that made it taken apart, and what it looks
    like.
    """
    from syntagma.app.reading import reader_of, record_of
    from syntagma.core.diagnostics import Trouble

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
        terminal.items(
            [
                {
                    "source": path,
                    **(record_of(reader.read(prompt)) if prompt else {}),
                    **({"picture": seen.record()} if seen else {}),
                }
            ]
        )
        return 0
    if prompt:
        _view(reader.read(prompt))
    if seen:
        picture(path, seen)
    return 0


def _of_picture(path: str, quiet: bool) -> str:
    """The prompt that a picture says it was made by, "" if it says none; what else it says is
    shown. Raises Trouble.
    """
    from syntagma.core.diagnostics import Trouble
    from syntagma.formats.metadata.pictures import BadPicture, said
    from syntagma.storage.files import read_bytes

    try:
        found = said(read_bytes(path, "a picture", 256 << 20))
    except BadPicture as bad:
        raise Trouble(
            f"{path} can't be read: {bad}", "name a PNG, JPEG or WebP, or a prompt", 1
        ) from None
    own = found.properties
    shown = (
        {}
        if own is None
        else {
            "description": own.description,
            "prompt": own.prompt,
            "written by": own.writer,
            "system": " ".join(filter(None, (own.system, own.version))),
            "made by": own.source_type.rpartition("/")[2],
            "credit": own.credit,
            **own.others,
        }
    )
    if not quiet:
        for name, text in [*shown.items(), *found.texts.items()]:
            if text:
                terminal.say(
                    (f"{name:<12}", terminal.QUIET), terminal.shortened(text, 400), error=False
                )
    if found.signed and not quiet:
        terminal.note("its provenance is signed; changing its words would break the signature")
    return found.prompt


def _view(reading: Reading, number: int = 0) -> None:
    """A reading as a person sees it, below its number if it is one of several."""

    if number:
        terminal.say((f"{number}", "bold"), error=False)
    coloured(reading)
    terminal.line()
    parts_table(reading)
    if number:
        terminal.line()
    if reading.read_to < len(reading.text):
        terminal.say(
            ("remark", terminal.QUIET),
            f" only the first {reading.read_to:,} characters are read; the rest is ignored",
        )
    if reading.broken:
        terminal.say(("error", terminal.WRONG), f" this is not complete JSON: {reading.broken}")
        terminal.say(
            ("  this shows what could be read; correct the text and read it again", terminal.QUIET)
        )


def _by_formula(workspace: Workspace, call: Namespace) -> int:
    from syntagma.app.reading import one_of
    from syntagma.core.diagnostics import Trouble
    from syntagma.core.reading.formula_matching import Matcher
    from syntagma.core.writing.prompt_writer import Writer

    formula, _ = workspace.formula(call.formula)
    text = one_of(call.prompt, call.column, sys.stdin.buffer)
    match = Matcher(Writer(formula, workspace.model(call.model), workspace.vocabulary)).match(
        text.strip()
    )
    if match is None or match.score < 0:  # below 0 its words are explained by chance only
        raise Trouble(
            f"the text was not written with {call.formula}",
            "leave --formula out to read it without one",
            1,
        )
    if call.json:
        terminal.items([{"text": text, "formula": formula.name, "fills": match.fills}])
    else:
        terminal.table(("slot", "fill"), list(match.fills.items()), "fill")
    return 0
