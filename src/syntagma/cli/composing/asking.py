"""compose --ask: a formula slot by slot, with suggestions, and the growing prompt in view."""

import sys

from syntagma.cli import args, options, terminal

HELP = "enter: take the answer shown · tab: the terms · ?: help · pick: choose for me · -: leave blank · <: step back · ctrl-d: done · ctrl-c: stop, the answers are kept"


def ask(call) -> int:
    from syntagma.app.composing.asked import Ask
    from syntagma.app.composing.asking import Filling
    from syntagma.app.composing.composer import Composer
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.trouble import Trouble

    if not call.formula:
        raise Trouble("--ask needs a formula", "name one (syntagma formula lists them): syntagma compose poster --ask", 2)
    ask = Ask(call.formula, call.model, args.listed(call.look), options.taste(call), manner=options.manner(call))
    filling = Filling(Composer(Workspace.load(tell=terminal.left_out), ask, remarks=terminal.remarks_seen()), args.fills(call.fills))
    if call.wish:
        from syntagma.app.existing.reading import one_of

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


def _ask(filling, read) -> None:
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


def _line(filling) -> str:
    """An answer from a line of standard input, when no person sits there."""
    line = sys.stdin.buffer.readline(1 << 20)
    if not line:
        raise EOFError
    return line.decode("utf-8", "replace").rstrip("\r\n")


def _prompter(filling):
    """What asks a person: the prompt so far with its length, then a line with completion."""
    from prompt_toolkit import PromptSession
    from prompt_toolkit.completion import Completer, Completion
    from prompt_toolkit.output import create_output
    from prompt_toolkit.styles import Style

    class TermCompleter(Completer):
        def get_completions(self, document, event):
            before, semicolon, part = document.text_before_cursor.rpartition(";")
            lead = f"{before}{semicolon} " if semicolon else ""
            for term, against in filling.matching(part):
                star = "★ " if term.star else ""
                meta = f"{against}: {term.gloss}" if against else f"{star}{term.gloss}"
                yield Completion(lead + term.term, -len(document.text_before_cursor), display=term.term, display_meta=meta)

    style = Style.from_dict({"slot": "ansicyan bold", "quiet": "ansibrightblack", "text": ""})
    output = create_output(stdout=sys.stderr)
    output.enable_cpr = False  # nothing is drawn at the foot of the window, so nobody need ask where the cursor is
    session = PromptSession(completer=TermCompleter(), complete_while_typing=True, style=style, output=output)
    terminal.say((HELP, terminal.QUIET))

    def read(filling) -> str:
        rule, (number, total), standing = filling.asked, filling.place, filling.standing()
        examples = ", ".join(one.term.term for one in filling.suggestions()[:2])
        asked = filling.question or ("" if rule.facet == rule.name else rule.facet)
        note = " ".join(filter(None, ("needed:" if rule.need else "", asked, f"({examples})" if examples else "")))
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
