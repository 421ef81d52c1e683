"""fill: a formula slot by slot, with suggestions, and the growing prompt in view."""

import sys

from syntagma.cli import args, asked, look


def arguments(parser: args.Parser) -> None:
    parser.add_argument("formula", metavar="FORMULA", help="a formula's name, a .formula file, or a formula on one line in quotes")
    parser.add_argument("fills", metavar="slot=text", nargs="*", help="slots that are filled already, and not asked for")
    parser.add_argument("--model", metavar="NAME", help="the generator that the prompt is for")
    asked.arguments(parser)
    parser.add_argument("--json", action="store_true", help="print a record instead of text at the end")
    parser.examples("syntagma fill poster", 'syntagma fill film-shot shot="wide shot" --model whimbrel-motion')


HELP = "enter: take what stands   tab: the terms   pick: choose for me   -: leave blank   <: step back   ctrl-d: done"


def run(call) -> int:
    from syntagma.app.asking import Ask
    from syntagma.app.composing import Composer
    from syntagma.app.filling import Filling
    from syntagma.app.world import World

    ask = Ask(call.formula, call.model, args.listed(call.mount), asked.taste(call))
    filling = Filling(Composer(World.load(), ask, remarks=look.remarks_seen()), args.fills(call.fills))
    if sys.stdin.isatty():
        _ask(filling, _prompter(filling))
    else:
        _ask(filling, _line)
    composed = filling.composed()
    if call.json:
        look.json(composed.record)
    else:
        print(composed.prompt.text)
        sys.stdout.flush()
    if composed.prompt.negative and look.remarks_seen():
        look.say(("negative  ", look.QUIET), composed.prompt.negative)
    look.findings(composed.findings)
    look.say((filling.call(), look.QUIET))
    return 0


def _ask(filling, read) -> None:
    """Ask for slot after slot until all have had their turn, or nobody answers any more."""
    while filling.asked:
        try:
            answer = read(filling)
        except EOFError:
            return
        if wrong := filling.answer(answer):
            look.say((wrong, look.WRONG))


def _line(filling) -> str:
    """An answer from a line of standard input, when no person sits there."""
    line = sys.stdin.readline()
    if not line:
        raise EOFError
    return line.rstrip("\r\n")


def _prompter(filling):
    """What asks a person: a line with completion, the prompt so far below it."""
    from prompt_toolkit import PromptSession
    from prompt_toolkit.completion import Completer, Completion
    from prompt_toolkit.formatted_text import FormattedText
    from prompt_toolkit.output import create_output
    from prompt_toolkit.styles import Style

    class Terms(Completer):
        def get_completions(self, document, event):
            before, semicolon, part = document.text_before_cursor.rpartition(";")
            wanted = part.strip().lower()
            for term, against in filling.suggestions():
                if wanted in term.term.lower() or any(wanted in other.lower() for other in term.aka):
                    star = "★ " if term.star else ""
                    lead = f"{before}{semicolon} " if semicolon else ""
                    meta = f"{against}: {term.gloss}" if against else f"{star}{term.gloss}"
                    yield Completion(lead + term.term, -len(document.text_before_cursor), display=term.term, display_meta=meta)

    def below() -> FormattedText:
        text = filling.text() or "nothing yet"
        return FormattedText([("class:text", f" {text}\n"), ("class:size", f" {filling.size()}   {HELP}")])

    style = Style.from_dict(
        {"bottom-toolbar": "noreverse", "text": "", "size": "ansibrightblack", "slot": "ansicyan bold", "hint": "ansibrightblack"}
    )
    session = PromptSession(
        completer=Terms(), complete_while_typing=True, bottom_toolbar=below, style=style, output=create_output(stdout=sys.stderr)
    )

    def read(filling) -> str:
        rule, (number, total) = filling.asked, filling.place
        standing = filling.standing()
        hint = rule.about or ("" if rule.facet == rule.name else rule.facet)
        note = " needed" if rule.need else ""
        shown = f"[{standing.shown}] " if standing else ""
        message = [
            ("class:hint", f"{number:>2}/{total} "),
            ("class:slot", rule.name),
            ("class:hint", f"{note}  {hint} " if hint or note else " "),
            ("", f"{shown}› "),
        ]
        return session.prompt(message)

    return read
