"""The command line: finds the command, hands over, and turns whatever goes wrong into two lines and an exit status.

Exit status: 0 done; 1 nothing matched, or errors in what was given; 2 a wrong call; 3 trouble outside (files, network, budget); 4 a defect of the program's own; 130
interrupted.
Only the module of the command that was called is imported.
"""

import atexit
import contextlib
import gc
import io
import os
import sys
from shlex import quote

# Most calls are short, and what they make is needed to their end: rings of what is not are looked for seldom, and not once more at the end,
# which would be a sixth of such a call.
gc.set_threshold(100_000, 10, 10)
atexit.register(gc.freeze)

HEADINGS = {  # the commands by what they are for
    "write": "compose read rewrite shorten compare check",
    "words": "term formula look theme model",
    "many": "expand film sheet send collect service",
    "judge": "library duplicates judge effects",
    "share": "brief form bundle pack dataset campaign",
    "begin": "tour start",
}
ROOMS = {  # where the module of a command lies
    "workspace": "tour start term formula look theme",
    "composing": "compose",
    "families": "expand",
    "existing": "check read rewrite shorten compare",
    "models": "model",
    "handing_on": "brief form bundle pack dataset campaign",
    "film": "film",
    "batches": "sheet send collect service",
    "results": "library duplicates judge effects",
}
COMMANDS = {
    "compose": "write one prompt, or one for each row of a table",
    "read": "take a finished prompt apart; or read a picture",
    "rewrite": "put a prompt into another formula, model or order; or change words in it",
    "shorten": "make prompts shorter, or fit them into a model's limits",
    "compare": "compare two prompts part by part",
    "check": "check prompts, a formula, or the workspace",
    "term": "browse and search the words to pick from; add your own",
    "formula": "list the formulas, show one, make or learn your own",
    "look": "list the looks put round any content; make your own",
    "theme": "list the themes that picks lean towards; make your own",
    "model": "list the generators, rank them, describe your own",
    "expand": "write many prompts from one",
    "film": "turn a shot list or a script into prompts that cut together",
    "sheet": "look prompts over before you pay: edit, approve, remove",
    "send": "send approved rows to their services, within a budget",
    "collect": "check what was sent and download what is finished",
    "service": "say which services models may speak to; run a local one for trials",
    "library": "keep results with the prompts that made them; find and rate them",
    "duplicates": "find near-duplicate prompts or pictures",
    "judge": "rate results one at a time, or choose between two",
    "effects": "see what each choice did, how sure that is, and what to try next",
    "brief": "teach an assistant to write in a formula, and take its answer",
    "form": "make a form for people without this program",
    "bundle": "name, resize and zip chosen results",
    "pack": "share formulas, words, looks and models; take someone else's",
    "dataset": "make pairs of instruction and prompt; check such a file",
    "campaign": "plan and make the pictures of a whole business",
    "tour": "see the whole job on demo data",
    "start": "begin a workspace of your own",
}
OLD = {  # what commands were called
    "facets": "term", "terms": "term", "formulas": "formula", "learn": "formula learn", "mounts": "look", "mount": "look", "themes": "theme", "models": "model", "fill": "compose --ask",
    "recast": "rewrite", "condense": "shorten", "fit": "shorten", "near": "duplicates", "see": "read", "board": "film prompts", "keep": "library add", "kept": "library", "gallery": "library page",
    "term add": "term new", "service bind": "service add", "service unbind": "service remove", "service list": "service", "sheet take": "sheet import", "sheet strike": "sheet remove", "sheet open": "sheet restore",
    "sheet list": "sheet", "kept mark": "library rate", "kept drop": "library remove", "kept restore": "library restore", "kept label": "library label", "kept unlabel": "library unlabel", "kept note": "library note",
    "kept money": "library money", "kept backup": "library backup", "board new": "film new", "board check": "film check", "pack take": "pack import",
}  # fmt: skip

WAYS = {  # how a person of the command line comes to what the core tells them to do
    "facets": "`syntagma term` lists them", "terms": "`syntagma term {facet}` lists the terms", "looks": "`syntagma look` lists them",
    "models": "`syntagma model` lists them", "stress": "--stress {name}={weight}", "parameter": "--parameter {name}={value}",
}  # fmt: skip

FIRST = """Syntagma writes prompts for image and video generators.

  syntagma "a harbour pilot at night"     a prompt from a wish
  syntagma compose photograph             one that is picked for you
  syntagma tour                           the whole job on demo data

{commands}

  syntagma help            what each command does
  syntagma help words      formula, slot, term, facet, look, …: one line each
  syntagma help COMMAND    a command in full, with examples
  syntagma start DIR       begin a workspace of your own"""


def main(argv: list[str] | None = None) -> int:
    """Run one command; return its exit status."""
    argv = sys.argv[1:] if argv is None else argv
    if "_ARGCOMPLETE" in os.environ:
        from syntagma.cli.completion import complete

        complete({name: module_of(name) for name in COMMANDS})
    _streams()
    try:
        try:
            status = _run(argv)
        except SystemExit as done:  # help was shown, or a wrong call told
            status = done.code if isinstance(done.code, int) else 1
        sys.stdout.flush()
        return status
    except OSError as error:
        if isinstance(error, BrokenPipeError):
            _let_go()
            return 0
        _say(f"syntagma: the output can't be written: {(error.strerror or str(error)).lower()}")
        _let_go()
        return 3
    except KeyboardInterrupt as stop:
        _say(f"stopped{getattr(stop, 'said', '')}")
        return 130


class _Closed(io.TextIOBase):
    """A stream that whoever called us has closed."""

    def write(self, text: str) -> int:
        raise OSError(9, "it is closed")


def _streams() -> None:
    """Standard input, output and messages as they are used here; one that is closed is read as empty, and can't be written."""
    sys.stdin = sys.stdin or open(os.devnull, encoding="utf-8")
    sys.stdout = sys.stdout or _Closed()
    sys.stderr = sys.stderr or open(os.devnull, "w", encoding="utf-8")
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")


def _say(message: str, remedy: str = "", out: bool = False) -> None:
    """A message of the program's own, before any command is known; what it says of the call without what a terminal would obey."""
    if out:
        sys.stdout.write(f"{message}\n")
        return
    from syntagma.cli.harmless import shown

    sys.stderr.write(shown(message + (f"\n  {remedy}" if remedy else "")) + "\n")


def _let_go() -> None:
    """Whoever reads has seen enough, or nobody can: what is still waiting to be written must not complain at exit."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _run(argv: list[str]) -> int:
    if not argv:
        _say(FIRST.format(commands="\n".join(f"  {heading:<8} {names}" for heading, names in HEADINGS.items() if heading != "begin")), out=True)
        return 0
    if argv[0] in ("-h", "--help", "help") and len(argv) == 1:
        _say('usage: syntagma COMMAND …, or syntagma "A WISH IN A SENTENCE"\n\n' + _list_of_commands(), out=True)
        return 0
    if argv[:2] == ["help", "words"]:
        from syntagma.cli.glossary import glossary

        _say(glossary(), out=True)
        return 0
    if argv[:2] == ["help", "json"]:
        from syntagma.cli.shapes import help_json

        text, wrong = help_json(argv[2:], printed_by())
        _say(text or f"syntagma help: no JSON is called “{argv[2]}”", wrong, out=bool(text))
        return 2 if wrong else 0
    if argv[0] in ("-V", "--version"):
        from syntagma import __version__

        _say(f"syntagma {__version__}", out=True)
        return 0
    typed = argv
    if argv[0] == "help":
        argv = [*argv[1:], "--help"]
    name = argv[0]
    if " " in name.strip() and name not in COMMANDS:
        return _guarded("compose", ["--from", name, *argv[1:]])
    for words in (2, 1):
        if (old := " ".join(argv[:words])) in OLD and len(argv) >= words:
            _say(f"syntagma: “{old}” is now “{OLD[old]}”", f"write {' '.join(map(quote, ['syntagma', *OLD[old].split(), *argv[words:]]))}")
            return 2
    if name not in COMMANDS:
        from syntagma.cli.meant import meant

        _say(f"syntagma: there is no command “{name}”", f"did you mean: {call}" if (call := meant(typed)) else "`syntagma help` lists them")
        return 2
    return _guarded(name, argv[1:])


def module_of(name: str):
    """The module of a command, imported."""
    from importlib import import_module

    room = next(room for room, names in ROOMS.items() if name in names.split())
    return import_module(f"syntagma.cli.{room}.{name}")


def printed_by() -> dict[str, tuple[str, ...]]:
    """Each command or verb that has --json, with the shapes of what it may print."""
    calls = [[name, *verb] for name in COMMANDS for verb in ([], *([verb] for verb in getattr(module_of(name), "VERBS", {})))]
    return {" ".join(call): shapes for call in calls if (shapes := parser_of(call[0], call[1:])[0].shapes)}


def hand_over(name: str, argv: list[str]) -> int:
    """Run another command on behalf of one that runs. What goes wrong is raised."""
    parser, run, rest = parser_of(name, argv)
    call = parser.parse_intermixed_args(rest)
    call.words = rest
    return run(call)


def parser_of(name: str, argv: list[str]):
    """The parser of a call, what runs it, and the words that are left: of a verb of the command where one is named, else of the command by itself."""
    from syntagma.cli.args import Parser

    command = module_of(name)
    verbs = getattr(command, "VERBS", {})
    if argv and argv[0] in verbs:
        verb = verbs[argv[0]]
        parser, run, argv = Parser(f"{name} {argv[0]}", verb.about, words=argv[1:], beside=verbs), verb.run, argv[1:]
        verb.arguments(parser)
    else:
        parser, run = Parser(name, COMMANDS[name], verbs, argv), command.run
        command.arguments(parser)
    return parser, run, argv


def _guarded(name: str, argv: list[str]) -> int:
    from syntagma.cli import args, terminal
    from syntagma.core.diagnostics import ways
    from syntagma.core.diagnostics.places import Refused
    from syntagma.core.drafting.fills import BadFills
    from syntagma.core.fitting.limits import TooLong
    from syntagma.core.notation.sense import half_character
    from syntagma.storage.trouble import Trouble

    ways.use(WAYS)

    try:
        if any(half_character(word) for word in argv):
            raise Trouble("a word of the call is not UTF-8 text", "set the terminal to UTF-8, or give it in a file", 2)
        args.CALLED[:] = [name, *argv]
        parser, run, argv = parser_of(name, argv)
        if not {"-h", "--help"} & set(argv):
            parser.usage = ""  # else argparse would make it, to no end: what is wrong is told in our own words
        call = parser.parse_intermixed_args(argv)
        call.words = argv
        terminal.loudness(call.quiet, call.verbose)
        status = run(call)
        sys.stdout.flush()
        return status
    except Trouble as trouble:
        slip = trouble.status == 2 or str(trouble).startswith("there is no file")
        terminal.wrong(str(trouble), args.answer(str(trouble), trouble.remedy) if slip else trouble.remedy)
        return trouble.status
    except Refused as refused:
        terminal.mistakes(refused.mistakes)
        return 1
    except BadFills as bad:
        for finding in bad.findings:
            named = not finding.place or f"“{finding.place}”" in finding.message
            terminal.wrong(("" if named else f"{finding.place}: ") + finding.message, args.answer(finding.message, finding.remedy))
        return 2
    except TooLong as long:
        from syntagma.app.composing.composer import troubles

        terminal.wrong(str(long), troubles(long)[0].remedy)
        return 1
    except BrokenPipeError:
        raise
    except OSError as error:
        terminal.wrong(f"the output can't be written: {(error.strerror or str(error)).lower()}")
        _let_go()
        return 3
    except Exception as error:
        if "SYNTAGMA_TRACE" in os.environ:
            raise
        terminal.defect(error)
        return 4


def _list_of_commands() -> str:
    rows = []
    for step, names in HEADINGS.items():
        rows += [f"  {step if not n else '':<8} {name:<10} {COMMANDS[name]}\n" for n, name in enumerate(names.split())]
    return "".join(rows) + "\n`syntagma help COMMAND` explains one, with examples that work as they stand; `syntagma help json` says what --json prints."
