"""compose: one prompt, or one for each row of a table; what is open can be picked."""

from __future__ import annotations

import re
import sys
from argparse import Namespace
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from syntagma.cli import args, options, prompt_input, terminal
from syntagma.core.diagnostics import ERROR, REMARK

if TYPE_CHECKING:
    from syntagma.app.composing.asking import Filling
    from syntagma.app.composing.composer import Composed, Composer
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.writing.prompt_writer import Writer

# ──── compose --ask: a formula slot by slot, with suggestions, and the growing prompt in view.


HELP = (
    "enter: take the answer shown · tab: the terms · ?: help · pick: choose for me · -: leave blank"
    " · <: step back · ctrl-d: done · ctrl-c: stop, the answers are kept"
)


def ask_slot_by_slot(call: Namespace) -> int:
    from syntagma.app.asked import Ask
    from syntagma.app.composing.asking import Filling
    from syntagma.app.composing.composer import Composer
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if not call.formula:
        raise Trouble(
            "--ask needs a formula",
            "name one (syntagma formula lists them): syntagma compose poster --ask",
            2,
        )
    ask = Ask(
        call.formula,
        call.model,
        args.listed(call.look),
        options.taste(call),
        manner=options.manner(call),
    )
    filling = Filling(
        Composer(Workspace.load(tell=terminal.left_out), ask, remarks=terminal.remarks_seen()),
        args.fills(call.fills),
    )
    if call.wish:
        from syntagma.app.reading import one_of

        heard = filling.hear(one_of(call.wish, piped=sys.stdin.buffer))
        for words in heard:
            terminal.note(f"“{words}” has no slot here")
    try:
        _ask(filling, _prompter(filling) if sys.stdin.isatty() else _line)
    except KeyboardInterrupt:
        terminal.say(f"your answers so far: {filling.call()} --ask", needed=True)
        raise
    composed = filling.composed()
    if call.json:
        terminal.items([composed.record])
    else:
        terminal.line(composed.prompt.text)
    if composed.prompt.negative and terminal.remarks_seen():
        terminal.say(("negative  ", terminal.QUIET), composed.prompt.negative)
    terminal.findings(composed.findings)
    terminal.say((filling.call(), terminal.QUIET))
    return 0


def _ask(filling: Filling, read: Callable[[Filling], str]) -> None:
    """Ask for slot after slot until all have had their turn, or the input ends."""
    while filling.asked:
        try:
            answer = read(filling)
        except EOFError:
            return
        if answer.strip() == "?":
            for name, what in filling.help():
                terminal.hanging((f"{name}  ", terminal.NAME), what)
            continue
        if wrong := filling.answer(answer):
            terminal.say((wrong, terminal.WRONG))


def _line(filling: Filling) -> str:
    """An answer from a line of standard input, when no person sits there."""
    line = sys.stdin.buffer.readline(1 << 20)
    if not line:
        raise EOFError
    return line.decode("utf-8", "replace").rstrip("\r\n")


def _prompter(filling: Filling):
    """What asks a person: the prompt so far with its length, then a line with completion."""
    from prompt_toolkit import PromptSession
    from prompt_toolkit.completion import Completer, Completion
    from prompt_toolkit.output import create_output
    from prompt_toolkit.styles import Style

    class TermCompleter(Completer):
        def get_completions(self, document: Any, event: Any):
            before, semicolon, part = document.text_before_cursor.rpartition(";")
            lead = f"{before}{semicolon} " if semicolon else ""
            for term, against in filling.matching(part):
                star = "★ " if term.star else ""
                meta = f"{against}: {term.gloss}" if against else f"{star}{term.gloss}"
                yield Completion(
                    lead + term.term,
                    -len(document.text_before_cursor),
                    display=term.term,
                    display_meta=meta,
                )

    style = Style.from_dict({"slot": "ansicyan bold", "quiet": "ansibrightblack", "text": ""})
    output = create_output(stdout=sys.stderr)
    output.enable_cpr = False  # type: ignore[attr-defined]  # nothing is drawn at the foot of the window, so nobody need ask where the cursor is
    session = PromptSession(
        completer=TermCompleter(), complete_while_typing=True, style=style, output=output
    )
    terminal.say((HELP, terminal.QUIET))

    def read(filling: Filling) -> str:
        rule, (number, total), standing = filling.asked, filling.place, filling.standing()
        assert rule is not None, "a slot is asked for"
        examples = ", ".join(one.term.term for one in filling.suggestions()[:2])
        asked = filling.question or ("" if rule.facet == rule.name else rule.facet)
        note = " ".join(
            filter(
                None, ("needed:" if rule.need else "", asked, f"({examples})" if examples else "")
            )
        )
        text = filling.text()
        return session.prompt(
            [
                ("class:text", f"\n{terminal.wrapped(text)}\n" if text else "\n"),
                ("class:quiet", f"{filling.size()}\n" if text else ""),
                ("class:quiet", f"{number:>2} of {total}  "),
                ("class:slot", rule.name),
                ("class:quiet", f"  {note}" if note else ""),
                ("", f"  [{standing.shown}] › " if standing else " › "),
            ]
        )

    return read


# ──── compose: one prompt, or one for each row of a table; what is open can be picked.


MOST_BESIDE = 4  # lines beside a prompt in a terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "formula",
        metavar="FORMULA",
        nargs="?",
        default="",
        help=(
            "a formula's name, a .formula file, or a formula on one line in quotes; with --from you"
            " may leave it out, and Syntagma takes the one that keeps most"
        ),
    )
    parser.add_argument(
        "fills",
        metavar="slot=text",
        nargs="*",
        help='what fills a slot; "a; b" is a list, slot= leaves it blank, slot=pick picks for you',
    )
    parser.add_argument("--kept", default="")
    parser.add_argument("--model")
    options.form_argument(parser)
    parser.add_argument("--ask", action="store_true")
    parser.add_argument("--pick", action="store_true")
    options.arguments(parser)
    parser.add_argument(
        "--again", metavar="SLOT", action="append", default=[], help="pick again for this slot only"
    )
    parser.add_argument(
        "--from",
        metavar="TEXT",
        dest="wish",
        help=(
            "a plain wish, a story or a page (text, a file, or -): its words fill the slots, one"
            " prompt per scene"
        ),
    )
    parser.add_argument(
        "--like",
        metavar="FILE",
        default="",
        help=(
            "a reference picture, whose palette, ratio and (where it is clear) light fill what you"
            " leave open"
        ),
    )
    parser.add_argument(
        "--ideas", metavar="N", type=args.within("ideas"), help="list N different subjects instead"
    )
    parser.add_argument(
        "--idea", metavar="N", type=args.within("ideas"), help="use idea N of the list"
    )
    parser.add_argument("--rows")
    parser.add_argument(
        "--print",
        choices=("text", "negative", "request"),
        default="text",
        help="what to print (default: text)",
    )
    parser.json("prompts", "ideas")
    parser.add_argument("--out")
    options.plain_argument(parser)
    parser.examples(
        'syntagma compose poster medium=linocut subject="car ferry" setting="slack-water harbour"',
        'syntagma compose photograph --from "a harbour pilot on a wet quay" --theme night --draw 3',
        'syntagma compose --from "product shot of a ceramic coffee grinder on slate, soft box light'
        ' from left"',
    )


def run(call: Namespace) -> int:
    from syntagma.app.asked import Ask
    from syntagma.app.composing.composer import Composer
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    options.as_form(call)
    if call.model and "," in call.model:
        raise Trouble(
            "compose writes for one model at a time", "syntagma expand writes for several", 2
        )
    if call.kept:
        from syntagma.cli import prompt_input

        return prompt_input.go_on("compose", call.kept, prompt_input.without(call.words, "--kept"))
    if call.ask:
        return ask_slot_by_slot(call)
    pick = bool(call.pick or call.theme or call.detail or call.again)
    workspace = Workspace.load(tell=terminal.left_out)
    if call.wish is not None and not (
        call.formula or call.fills or pick or call.ideas or call.idea or call.rows or call.like
    ):
        return _own_words(workspace, call)
    scenes = _wished(workspace, call)
    if scenes and _is_fill(call.formula):
        call.fills, call.formula = (
            [*filter(None, [call.formula]), *call.fills],
            _chosen(workspace, scenes),
        )
    elif not call.formula:
        raise Trouble(
            "no formula was named", 'name one (syntagma formula), or write a wish: --from "…"', 2
        )
    nothing = not (
        call.fills or scenes or call.rows or call.ideas or call.idea or pick or call.like
    )
    pick = pick or nothing
    seen = _seen_first(workspace, call) if call.like else None
    ask = Ask(
        call.formula,
        call.model,
        args.listed(call.look),
        options.taste(call),
        pick,
        call.again,
        options.manner(call),
    )
    recorded = call.json or call.out
    composer = Composer(workspace, ask, remarks=bool(recorded) or terminal.remarks_seen())
    fills = composer.writer.named(args.fills(call.fills))
    if seen:
        fills = _like(composer, fills, seen)
    if call.ideas or call.idea:
        fills = {**composer.hear(scenes[0].text, fills).placed.fills, **fills} if scenes else fills
    if call.ideas:
        return _ideas(composer, fills, call)
    if call.idea:
        from syntagma.app.composing.composer import idea

        fills = {**fills, **idea(composer, fills, call.idea).fills}
    if call.rows:
        return _rows(composer, fills, call)
    if len(scenes) > 1 and not call.idea:
        return _scenes(composer, fills, call, scenes)
    composed = composer.compose(fills, scenes[0].text if scenes else "")
    if nothing and not _seen(call):
        terminal.note(
            'picked for you; to choose a part yourself, name it (light="full moonlight"), --draw'
            f" {composed.ask.taste.draw + 1} picks others, --ask asks for each"
        )
    _write([composed], call, composer.writer)
    if not _seen(call) or terminal.everything():
        terminal.findings(composed.findings)
    return 1 if any(f.kind == ERROR for f in composed.findings) else 0


def _own_words(workspace: Workspace, call: Namespace) -> int:
    """A wish without a formula: in its own words, a prompt for each of its scenes."""
    from syntagma.app.asked import Ask
    from syntagma.app.composing.wished import compose_wish, formulas_named

    texts = [scene.text for scene in _wished(workspace, call)]
    ask = Ask(
        "", call.model, args.listed(call.look), options.taste(call), False, (), options.manner(call)
    )
    every = [compose_wish(workspace, text, ask) for text in texts]
    if named := formulas_named(workspace, call.wish):
        terminal.note(f"“{named[0]}” is also a formula: syntagma compose {named[0]} --from …")
    _write(every, call, every[0].writer)
    for composed in every if not _seen(call) or terminal.everything() else ():
        terminal.findings(composed.findings)
    return 1 if any(f.kind == ERROR for composed in every for f in composed.findings) else 0


def _is_fill(formula: str) -> bool:
    """Does a fill come where the formula should be?"""
    return not formula or re.fullmatch(r"[\w-]+=[^\[\]]*", formula) is not None


def _chosen(workspace: Workspace, scenes: Any) -> str:
    """The formula that a wish names, else the open one for its kind of picture; a message says
    which.
    """
    from syntagma.app.composing.wished import formula_for

    name = formula_for(workspace, scenes[0].text)
    terminal.say(
        (name, terminal.NAME),
        " suits it",
        ("  (syntagma formula lists the others)", terminal.QUIET),
    )
    return name


def _wished(workspace: Workspace, call: Namespace) -> list:
    """The scenes of what is wished for; none if nothing is. Raises Trouble."""
    if call.wish is None:
        return []
    from syntagma.app.composing.wished import is_one_picture
    from syntagma.app.reading import scenes_of
    from syntagma.core.reading.scenes import StoryScene

    if call.wish.strip() and is_one_picture(call.wish):
        return [StoryScene(call.wish, (call.wish,), (call.wish,))]
    return scenes_of(
        workspace, call.wish, prompt_input.text_of("-", "a wish") if call.wish == "-" else ""
    )


def _seen_first(workspace: Workspace, call: Namespace):
    """What a reference picture looks like; its ratio goes into the call where the model has it and
    the call says none.
    """
    from pathlib import Path

    from syntagma.app.results.picture_read import see

    seen = see(workspace, Path(call.like))
    name = call.model or workspace.settings.get("model", "")
    ratio = workspace.model(name).parameter.get("ratio") if name in workspace.models() else None
    if (
        ratio
        and seen.ratio in map(str, ratio.values)
        and not any(word.startswith("ratio=") for word in call.parameter)
    ):
        call.parameter.append(f"ratio={seen.ratio}")
    return seen


def _like(composer: Composer, fills: dict[str, str], seen: Any) -> dict[str, str]:
    """The fills, with what is seen in the slots that are not given; a message says which."""
    slots = [
        rule
        for rule in composer.writer.rules
        if rule.facet in seen.fills and rule.name not in fills
    ]
    for rule in slots:
        terminal.note(f"{rule.name}: {seen.fills[rule.facet]}, as seen")
    if not slots:
        terminal.note(
            f"{composer.writer.formula.name} has no open slot for what the picture shows"
            f" ({', '.join(seen.fills)})"
        )
    return {**fills, **{rule.name: seen.fills[rule.facet] for rule in slots}}


def _ideas(composer: Composer, fills: dict[str, str], call: Namespace) -> int:
    """A numbered list of subjects."""
    from syntagma.app.composing.composer import ideas

    found = ideas(composer, fills, call.ideas)
    if call.json:
        terminal.items({"idea": i.number, "fills": i.fills} for i in found)
        return 0
    slots = list(dict.fromkeys(slot for i in found for slot in i.fills))
    terminal.table(
        ("#", *slots),
        [(i.number, *(i.fills.get(slot, "") for slot in slots)) for i in found],
        slots[min(1, len(slots) - 1)],
    )
    if len(found) < call.ideas:
        terminal.say(f"{call.ideas} were asked for, but only {len(found)} terms of {slots[0]} fit")
    if terminal.on_terminal():
        terminal.say(
            (
                (
                    "\nto use one, run the same command with --idea N --pick instead of --ideas"
                    f" {call.ideas}"
                ),
                terminal.QUIET,
            )
        )
    return 0


def _write(every: list, call: Namespace, writer: Writer, wrong: Sequence = ()) -> None:
    """Prompts of a writer to where the call wants them; what is `wrong` of others goes with them as
    findings.
    """
    if call.out:
        from syntagma.app.families.files import write_records

        kept = list(dict.fromkeys(name for c in every for name in c.kept))
        number = write_records(
            call.out,
            (c.record for c in every),
            list(writer.position),
            kept,
            call.plain_csv,
            terminal.note,
        )
        terminal.say(f"{number} prompt{'s' if number != 1 else ''} in {call.out}")
    elif call.json:
        terminal.items((c.record for c in every), wrong)
    else:
        if call.print == "negative" and not any(c.prompt.negative for c in every):
            from syntagma.core.diagnostics import Trouble

            raise Trouble(
                "this prompt has no negative text",
                "it comes from a formula's lines that begin with -, for models that take it",
                1,
            )
        for composed in every:
            if call.print == "request":
                terminal.json(composed.request)
            else:
                terminal.line(getattr(composed.prompt, call.print))
    if len(every) == 1:
        _below(every[0], call)


def _seen(call: Namespace) -> bool:
    """Does a person see the prompt, and what goes with it?"""
    return (
        terminal.on_terminal()
        and sys.stderr.isatty()
        and call.print == "text"
        and not (call.json or call.out)
    )


def _below(composed: Composed, call: Namespace) -> None:
    """What a person sees below a prompt: model and length, negative text, what was heard and
    picked.
    """
    shown = _seen(call)
    if shown and not terminal.everything():
        _beside(composed, MOST_BESIDE - bool(call.wish))
        return
    if shown:
        record = composed.record
        name = composed.writer.profile.name or "no model"
        terminal.say()
        terminal.say(
            (
                " · ".join(
                    filter(
                        None, (composed.kind, name, terminal.size(record), terminal.price(record))
                    )
                ),
                terminal.QUIET,
            )
        )
        if composed.prompt.negative:
            terminal.say(("negative  ", terminal.QUIET), composed.prompt.negative)
        blank = [
            rule.name
            for rule, fill in zip(composed.writer.rules, composed.fills, strict=True)
            if fill is None
        ]
        if blank:
            terminal.say((f"open      {', '.join(blank)}", terminal.QUIET))
    if composed.heard:
        terminal.say()
        for piece in composed.heard.pieces:
            terminal.say(
                (f"{piece.slot:<10}", terminal.NAME),
                f"{piece.text}",
                (f"  heard: {composed.wish_of(piece)}", terminal.QUIET),
            )
    if composed.picked:
        terminal.say()
        named = composed.writer.compiled.named(composed.fills)
        width = max(9, *map(len, composed.picked)) + 1
        for slot in composed.picked:
            fill = named[slot]
            if fill is None:
                continue
            gloss = [term.gloss for term in fill.terms[:1] if term.gloss]
            if who := composed.away(slot):
                gloss.append(f"unusual place: nobody would look for the {who} there")
            terminal.say(
                (f"{slot:<{width}}", terminal.NAME),
                fill.shown,
                (f"  {'; '.join(gloss)}", terminal.QUIET),
            )
    if composed.picked or composed.heard:
        terminal.say((composed.call, terminal.QUIET))


def _beside(composed: Composed, most: int) -> None:
    """The lines beside a prompt that matter now, at most so many: what is wrong, its model, what is
    kept out, what was heard and picked, what is open.
    """
    lines: list[tuple] = []
    for finding in composed.findings:
        if (
            finding.kind != REMARK and finding.code != "negative-beside"
        ):  # what is kept out has a line of its own
            place = f"{finding.place}: " if finding.place else ""
            lines.append(
                (
                    (finding.kind, terminal.WRONG if finding.kind == ERROR else terminal.CHANGED),
                    f" {place}{finding.message}; {finding.remedy}".rstrip("; "),
                )
            )
    wrong = len(lines)
    record, profile = composed.record, composed.writer.profile
    lines.append(
        (
            (
                " · ".join(
                    filter(
                        None,
                        (
                            composed.kind,
                            profile.name or "no model",
                            terminal.size(record),
                            terminal.price(record),
                        ),
                    )
                ),
                terminal.QUIET,
            ),
        )
    )
    if composed.prompt.negative:
        lines.append((("negative  ", terminal.QUIET), composed.prompt.negative))
    named = composed.writer.compiled.named(composed.fills)
    if composed.heard:
        lines.append(
            (
                ("heard     ", terminal.QUIET),
                "; ".join(f"{piece.slot}: {piece.text}" for piece in composed.heard.pieces),
            )
        )
    if composed.picked:
        lines.append(
            (
                ("picked    ", terminal.QUIET),
                "; ".join(
                    f"{slot}: {fill.shown}" for slot in composed.picked if (fill := named[slot])
                ),
                (f"  (--again SLOT, --draw {composed.ask.taste.draw + 1})", terminal.QUIET),
            )
        )
    blank = [
        rule.name
        for rule, fill in zip(composed.writer.rules, composed.fills, strict=True)
        if fill is None
    ]
    if blank:
        lines.append(((f"open      {', '.join(blank)}", terminal.QUIET),))
    kept = lines[: max(most, wrong)]
    more = (
        len(lines) > len(kept)
        or any(finding.kind == REMARK for finding in composed.findings)
        or bool(composed.picked or composed.heard)
    )
    for number, parts in enumerate(kept, 1):
        terminal.say(
            *parts,
            *([("  -v says more", terminal.QUIET)] if more and number == len(kept) else []),
            needed=number <= wrong,
        )


def _scenes(composer: Composer, fills: dict[str, str], call: Namespace, scenes: Any) -> int:
    """A prompt for each scene of a longer text, and which sentence gave what."""
    every = [
        composer.compose(fills, scene.text, number=n, told=True)
        for n, scene in enumerate(scenes, 1)
    ]
    _write(every, call, composer.writer)
    if not (call.json or call.out):
        for number, (composed, scene) in enumerate(zip(every, scenes, strict=True), 1):
            terminal.say()
            for sentence, wished in zip(scene.sentences, scene.wished, strict=True):
                gave = [
                    p.slot
                    for p in (composed.heard.pieces if composed.heard else ())
                    if composed.wish_of(p) in wished
                ]
                terminal.say(
                    (f"{number}  ", terminal.NAME),
                    sentence,
                    (
                        f"  gave {', '.join(dict.fromkeys(gave))}" if gave else "  gave nothing",
                        terminal.QUIET,
                    ),
                )
        for number, composed in enumerate(every, 1):
            worth = [
                f
                for f in composed.findings
                if f not in composer.remarks and f.code == "wish-without-place"
            ]
            for finding in worth:
                terminal.say(
                    (f"{number}  ", terminal.NAME),
                    finding.message,
                    (f"  {finding.remedy}", terminal.QUIET),
                )
        known = {name: words for scene in scenes for name, words in scene.known.items() if words}
        for name, words in known.items():
            entry = f'[{name.lower()}]  words = "{name}, {words}"'
            terminal.say(
                (name, terminal.NAME),
                " is described in full once per scene",
                (f"  to call by @{name.lower()}, in known.toml: {entry}", terminal.QUIET),
            )
        terminal.findings(composer.remarks)
    return 1 if any(f.kind == ERROR for composed in every for f in composed.findings) else 0


def _rows(composer: Composer, fills: dict[str, str], call: Namespace) -> int:
    from syntagma.app.composing.table_rows import rows_of
    from syntagma.app.workspace.html_pages import read_table
    from syntagma.formats.table_in import read_rows

    source = "standard input" if call.rows == "-" else call.rows
    table = (
        read_rows(prompt_input.text_of("-", "a table"), source)
        if call.rows == "-"
        else read_table(call.rows)
    )
    rows = rows_of(composer, table, source, fills)
    done = list(rows)
    if done or call.json:
        _write([c for _, c in done], call, composer.writer, rows.mistakes)
    for line, composed in done:
        worth = [f for f in composed.findings if f not in composer.remarks]
        if any(f.kind != "remark" for f in worth):
            terminal.say((f"{source}:{line}", terminal.NAME))
        terminal.findings(worth, remarks=False)
    terminal.findings(composer.remarks + rows.remarks)
    for mistake in rows.mistakes:
        terminal.say(mistake.shown())
    if rows.mistakes:
        terminal.say(f"{len(done)} of {len(done) + len(rows.mistakes)} rows made a prompt")
    errors = rows.mistakes or any(f.kind == ERROR for _, c in done for f in c.findings)
    return 1 if errors else 0
