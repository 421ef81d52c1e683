"""shorten: prompts made shorter, what carries least first; to a length, or into the limits of a
model with the least loss.
"""

from __future__ import annotations

from argparse import Namespace
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, prompt_input, terminal
from syntagma.core.diagnostics import ERROR, Finding

if TYPE_CHECKING:
    from syntagma.app.prompt_files import Source
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.reading.prompt_pieces import Reading
    from syntagma.core.reading.shortening import Shortened

_STRENGTHS = (
    "dim",
    "",
    "bold",
)  # from what goes first to what stays, for light and for dark windows
_SMALL = str.maketrans("0123456789", "⁰¹²³⁴⁵⁶⁷⁸⁹")


def arguments(parser: args.Parser) -> None:
    prompt_input.arguments(parser, "shortened")
    parser.add_argument(
        "--to", metavar="LENGTH", default="", help="40w (words) or 300c (characters)"
    )
    parser.add_argument(
        "--steps",
        metavar="N",
        type=args.within("steps"),
        help="this many shorter texts, one after the other",
    )
    parser.add_argument("--model")
    parser.add_argument(
        "--marked",
        action="store_true",
        help="with --model: print the whole text, with what was lost between ‹- and -›",
    )
    parser.add_argument(
        "--keep",
        metavar="WORDS",
        action="append",
        default=[],
        help="words to keep; can be repeated",
    )
    parser.add_argument("--written-with", dest="formula", default="")
    parser.examples(
        'syntagma shorten "A linocut of a tired old harbour pilot on a wet quay, lit by sodium quay'
        ' lamps, with a melancholy mood, fine detail, 8k"',
        'syntagma compose photograph subject="harbour pilot" --pick --detail rich --draw 3 |'
        ' syntagma shorten - --to 20w --keep "harbour pilot"',
        "syntagma expand photograph --count 3 --json | syntagma shorten - --model dunlin-still"
        " --marked",
    )


def run(call: Namespace) -> int:
    from syntagma.app.existing.shortening import Shortener, target
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble
    from syntagma.core.models.measure import words as count_words

    if call.to.isdigit():
        raise Trouble(f"--to {call.to} has no unit", "w is for words, c for characters", 2)
    workspace = Workspace.load(tell=terminal.left_out)
    if call.marked or (call.model and not (call.to or call.steps or call.keep or call.formula)):
        return _into_limits(workspace, call)
    fits = (
        target(workspace.model(call.model), call.to)
        if call.to or (call.model and not call.steps)
        else None
    )
    shortener = Shortener(workspace, call.model, call.keep, call.formula)
    if shortener.wanting:
        terminal.note(shortener.wanting)
    out, missed = terminal.Items(), 0
    prompts = prompt_input.CallPrompts.of(call)

    def one(source: Source) -> None:
        nonlocal missed
        reading, found = shortener.shortened(source.text.strip())
        chosen = found.to(fits) if fits else None
        if fits and chosen is None:
            missed += 1
            last = found.steps[-1].text
            shortest = f"the shortest has {count_words(last)} words, {len(last)} characters"
            terminal.say(
                ("error", terminal.WRONG),
                f" it can't be shortened to {call.to or 'the limit'}: {shortest}",
            )
        if call.json:
            out.add(
                {
                    **prompts.place(source),
                    **_record(
                        reading,
                        found,
                        chosen,
                        call.steps,
                        call.to if fits and chosen is None else "",
                    ),
                }
            )
        elif fits:
            terminal.line((chosen or found.steps[-1]).text)
        elif call.steps:
            terminal.line("\n".join(step.text for step in found.some(call.steps)))
        else:
            _view(reading, found)

    prompts.each(one)
    if call.json:
        out.close(prompts.findings)
    return prompts.close() or (1 if missed else 0)


def _into_limits(workspace: Workspace, call: Namespace) -> int:
    """Prompts into a model's limits: those that a formula made are written again by it, all others
    by their own text.
    """
    from syntagma.app.existing.shortening import fit_prompt

    prompts, out, errors = prompt_input.CallPrompts.with_records(call), terminal.Items(), 0

    def one(source: Source) -> None:
        nonlocal errors
        fit = fit_prompt(workspace, source, call.model)
        if call.json:
            errors += any(f.kind == ERROR for f in fit.findings)
            out.add({**prompts.place(source), "before": source.text, **fit.record()})
            return
        errors += any(f.kind == ERROR for f in fit.findings)
        if call.marked or (terminal.on_terminal() and fit.changed):
            terminal.lost(fit.bits, coloured=not call.marked)
        if not call.marked and fit.text:
            terminal.line(fit.text)
        if terminal.remarks_seen() and fit.limit:
            terminal.say(
                (
                    f"{prompts.name}:{fit.line} · {fit.used} of {fit.limit} {fit.unit}",
                    terminal.QUIET,
                )
            )
        terminal.findings(fit.findings)

    prompts.each(one)
    if call.json:
        out.close(prompts.findings)
    return prompts.close() or (1 if errors else 0)


def _record(
    reading: Reading, found: Shortened, chosen: Any, steps: int | None, too_long_for: str
) -> dict[str, object]:
    """A shortened prompt: its text, what it was made of, each part of that with what it carries,
    and every shorter text on the way.
    """
    units = [
        {
            "words": u.text,
            "start": u.start,
            "stop": u.stop,
            "carries": u.carries,
            "order": u.order or None,
            "why": list(u.reasons),
        }
        for u in found.units
    ]
    texts = [step.text for step in (found.some(steps) if steps else found.steps)]
    wrong = (
        [
            Finding(
                ERROR,
                f"it can't be shortened to {too_long_for}",
                "keep fewer words, or allow a longer text",
                "text",
                code="too-long",
            ).record()
        ]
        if too_long_for
        else []
    )
    text = chosen.text if chosen else found.steps[-1].text if too_long_for else reading.text
    return {"text": text, "before": reading.text, "units": units, "steps": texts, "findings": wrong}


def _view(reading: Reading, found: Shortened) -> None:
    """The prompt as one block: what goes first is faint, what stays is strong, the order of loss
    above the line; the reasons below.
    """
    from rich.text import Text

    from syntagma.cli.harmless import shown

    last = max((u.order for u in found.units), default=1) or 1
    order = [last + 1] * len(reading.text)
    marks: dict[int, int] = {}
    for unit in sorted(
        found.units, key=lambda u: u.start - u.stop
    ):  # words within a part lie over it
        for at in range(unit.start, unit.stop):
            order[at] = min(order[at], unit.order or last + 1) if unit.order else order[at]
        if unit.order:
            marks[
                (
                    unit.stop
                    if not reading.text[unit.stop - 1 : unit.stop].isspace()
                    else unit.stop - 1
                )
            ] = unit.order
    parts: list[tuple[str, str]] = []
    glue = [True] * len(reading.text)
    for unit in found.units:
        glue[unit.start : unit.stop] = [False] * (unit.stop - unit.start)
    for at, letter in enumerate(reading.text):
        if at in marks:
            parts.append((str(marks[at]).translate(_SMALL), terminal.NAME))
        strength = (
            0
            if glue[at]
            else (
                len(_STRENGTHS) - 1
                if order[at] > last
                else (order[at] - 1) * (len(_STRENGTHS) - 1) // last
            )
        )
        parts.append((shown(letter), _STRENGTHS[strength]))
    if len(reading.text) in marks:
        parts.append((str(marks[len(reading.text)]).translate(_SMALL), terminal.NAME))
    terminal.say(*parts, error=False)
    terminal.line()
    units = sorted(found.units, key=lambda u: (not u.order, u.order, u.start))
    rows = [
        (
            str(unit.order or "stays"),
            unit.text,
            f"{unit.carries:.2f}",
            Text(", ".join(unit.reasons), style=terminal.QUIET),
        )
        for unit in units
    ]
    terminal.table(("goes", "words", "carries", "why"), rows, share=("words", "why"))
    terminal.say(("an estimate from the text alone, not from a generator", terminal.QUIET))
