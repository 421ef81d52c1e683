"""The command line: finds the command, hands over, and turns whatever goes wrong into two lines and an exit status.

Exit status: 0 done, 1 findings of the error kind, 2 wrong call, 3 unreadable or refused input, 4 a defect of the program's own, 130
interrupted.
Only the module of the command that was called is imported.
"""

import atexit
import contextlib
import gc
import io
import os
import sys

# Most calls are short, and what they make is needed to their end: rings of what is not are looked for seldom, and not once more at the end,
# which would be a sixth of such a call.
gc.set_threshold(100_000, 10, 10)
atexit.register(gc.freeze)

STEPS = {  # the commands by the step of the work
    "begin": "tour start",
    "look up": "facets terms formulas models mounts themes",
    "your own": "term formula model mount theme",
    "write": "compose fill",
    "many": "expand",
    "limits": "fit check",
    "what exists": "read recast condense compare learn brief",
    "film": "board",
    "batches": "sheet send collect service",
    "results": "keep kept gallery see near judge effects",
    "hand on": "form bundle pack dataset campaign",
}
ROOMS = {  # where the module of a command lies
    "workspace": "tour start facets terms term formulas formula mounts mount themes theme",
    "composing": "compose fill",
    "families": "expand",
    "existing": "fit check read recast condense compare learn",
    "models": "models model",
    "handing_on": "brief form bundle pack dataset campaign",
    "film": "board",
    "batches": "sheet send collect service",
    "results": "keep kept gallery see near judge effects",
}
COMMANDS = {
    "tour": "the whole job on the demo data, step by step",
    "start": "a new workspace: settings, own vocabulary, formulas and models",
    "facets": "the kinds of choice that there are, and how many terms each has",
    "terms": "browse and search the vocabulary",
    "term": "add a term of your own, star one, note something on one",
    "formulas": "the formulas: when to use each, its parts in order, an example; or one in full",
    "formula": "make a formula of your own, or check one",
    "mounts": "list the mounts, saved looks put round any content; or show one in full",
    "mount": "make a mount of your own",
    "themes": "list the themes, which picks lean towards; or show one in full",
    "theme": "make a theme of your own",
    "models": "list the models, show one in full, or rank them for a piece of work",
    "model": "describe a generator of your own, or try a profile",
    "compose": "one prompt, or one for each row of a table; open slots can be picked",
    "fill": "one prompt, asked slot by slot with suggestions",
    "expand": "a family of prompts out of one",
    "read": "a finished prompt taken apart: its parts, parameters, negative text",
    "recast": "a prompt into another formula, model, order or form; or some words of it changed",
    "learn": "a formula of your own out of four or more examples",
    "condense": "a prompt made shorter, what carries least first; the order of loss and why",
    "compare": "two prompts part by part, and how far apart they are",
    "brief": "the page that teaches an assistant to write in a formula; and its answer taken",
    "board": "a shot list or a script made into prompts that cut together; `board new` begins one, `board check` looks it over",
    "sheet": "tables of prompts that are looked over before paying: made, given out, taken back, approved, struck",
    "send": "the approved rows of a sheet to the services of their models, within a budget",
    "collect": "what was sent: asked for, fetched, written; what is not clear looked up",
    "service": "a stand-in for a generation service on this machine; and which hosts models may speak to",
    "keep": "a result with the prompt that made it; or all of a sheet that is done, or files downloaded by hand",
    "kept": "the library of results: found again, marked, counted in money, gone on from",
    "gallery": "what is kept as one page: filtered, side by side, copied",
    "see": "a reference picture read: palette, light, sharpness; as fills",
    "near": "of many prompts or pictures those that are too much alike",
    "judge": "results marked one at a time, or two side by side, in a browser or here",
    "effects": "what each choice of a family did to what it was judged by, and how sure that is",
    "form": "a formula as a form to fill in, a workbook or a page, for people without this program",
    "bundle": "chosen results, named, brought to size and zipped, with a contact sheet and a list",
    "pack": "formulas, vocabularies, looks and models for another workspace; one looked at, one taken in",
    "dataset": "pairs of an instruction and the prompt that answers it; and a check of such a file",
    "campaign": "the pictures of a whole business: planned, approved, made, with a page for each",
    "fit": "prompts into a model's limits, with the least loss",
    "check": "findings on prompts in a file, on a formula, or on the workspace",
}

WAYS = {  # how a person of the command line comes to what the core tells them to do
    "facets": "`syntagma facets` lists them", "terms": "`syntagma terms {facet}` lists the terms", "mounts": "`syntagma mounts` lists them",
    "models": "`syntagma models` lists them", "stress": "--stress {name}={weight}", "parameter": "--parameter {name}={value}",
}  # fmt: skip

FIRST = """Syntagma writes prompts for image and video generators from formulas and vocabularies.

  syntagma tour            see the whole job on demo data (it leaves a workspace to look at)
  syntagma start DIR       begin a workspace of your own
  syntagma formulas        what there is to write with

"""


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
        _say(FIRST + _list_of_commands(), out=True)
        return 0
    if argv[0] in ("-h", "--help", "help") and len(argv) == 1:
        _say("usage: syntagma COMMAND …\n\n" + _list_of_commands(), out=True)
        return 0
    if argv[0] in ("-V", "--version"):
        from syntagma import __version__

        _say(f"syntagma {__version__}", out=True)
        return 0
    if argv[0] == "help":
        argv = [argv[1], "--help"]
    name = argv[0]
    if name not in COMMANDS:
        from syntagma.core.diagnostics.suggestions import perhaps

        _say(f"syntagma: there is no command “{name}”", perhaps(name, COMMANDS, "`syntagma --help` lists them"))
        return 2
    return _guarded(name, argv[1:])


def module_of(name: str):
    """The module of a command, imported."""
    from importlib import import_module

    room = next(room for room, names in ROOMS.items() if name in names.split())
    return import_module(f"syntagma.cli.{room}.{name}")


def hand_over(name: str, argv: list[str]) -> int:
    """Run another command on behalf of one that runs. What goes wrong is raised."""
    from syntagma.cli.args import Parser

    command, parser = module_of(name), Parser(name, COMMANDS[name])
    command.arguments(parser)
    return command.run(parser.parse_intermixed_args(argv))


def _guarded(name: str, argv: list[str]) -> int:
    from syntagma.cli import terminal
    from syntagma.cli.args import Parser
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
        command = module_of(name)
        parser = Parser(name, COMMANDS[name])
        command.arguments(parser)
        if not {"-h", "--help"} & set(argv):
            parser.usage = ""  # else argparse would make it, to no end: what is wrong is told in our own words
        status = command.run(parser.parse_intermixed_args(argv))
        sys.stdout.flush()
        return status
    except Trouble as trouble:
        terminal.wrong(str(trouble), trouble.remedy)
        return trouble.status
    except Refused as refused:
        terminal.mistakes(refused.mistakes)
        return 3
    except BadFills as bad:
        for finding in bad.findings:
            named = not finding.place or f"“{finding.place}”" in finding.message
            terminal.wrong(("" if named else f"{finding.place}: ") + finding.message, finding.remedy)
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
    for step, names in STEPS.items():
        rows += [f"  {step if not n else '':<12} {name:<10} {COMMANDS[name]}\n" for n, name in enumerate(names.split())]
    return "".join(rows) + "\n`syntagma COMMAND --help` explains one, with examples that work as they stand."
