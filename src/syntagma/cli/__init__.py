"""The command line: finds the command, hands over, and turns whatever goes wrong into two lines and
an exit status.

Exit status: 0 done; 1 nothing matched, or errors in what was given; 2 a wrong call; 3 trouble
outside (files, network, budget); 4 a defect of the program's own; 130 interrupted. Only the module
of the command that was called is imported.
"""

import atexit
import contextlib
import gc
import io
import os
import sys
from collections.abc import Sequence
from shlex import quote
from textwrap import fill

from syntagma.cli.commands import COMMANDS, HEADINGS, OLD, module_of, parser_of, printed_by

# Most calls are short, and what they make is needed to their end: rings of what is not are looked
# for seldom, and not once more at the end,
# which would be a sixth of such a call.
gc.set_threshold(100_000, 10, 10)
atexit.register(gc.freeze)

WAYS = {  # how a person of the command line comes to what the core tells them to do
    "facets": "`syntagma term` lists them",
    "terms": "`syntagma term {facet}` lists the terms",
    "looks": "`syntagma look` lists them",
    "models": "`syntagma model` lists them",
    "stress": "--stress {name}={weight}",
    "parameter": "--parameter {name}={value}",
    "tags": "`syntagma help vocabulary` lists the tags",
    "language": "`syntagma help formulas` explains the language",
}

EXTRAS = {  # by module: the package, and the extra that installs it (pyproject.toml)
    "PIL": ("Pillow", "results"),
    "scipy": ("SciPy", "results"),
    "matplotlib": ("Matplotlib", "plots"),
    "av": ("av", "video"),
    "opentimelineio": ("opentimelineio", "film"),
    "pyarrow": ("pyarrow", "parquet"),
    "distributed": ("distributed", "cluster"),
    "tokenizers": ("tokenizers", "tokens"),
}

FIRST = """Syntagma writes prompts for image and video generators.

  syntagma "a harbour pilot at night"     a prompt from a wish
  syntagma compose photograph             one that is picked for you
  syntagma tour                           the whole job on demo data

{commands}

  syntagma help            what each command does
  syntagma help words      formula, slot, term, facet, look, …: one line each
  syntagma help COMMAND    one command, or a page of the docs, in full
  syntagma start DIR       start a workspace of your own"""


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
    """Standard input, output and messages as they are used here; one that is closed is read as
    empty, and can't be written.
    """
    sys.stdin = sys.stdin or open(os.devnull, encoding="utf-8")
    sys.stdout = sys.stdout or _Closed()
    sys.stderr = sys.stderr or open(os.devnull, "w", encoding="utf-8")
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")


def _say(message: str, remedy: str = "", out: bool = False) -> None:
    """A message of the program's own, before any command is known; what it says of the call without
    what a terminal would obey.
    """
    if out:
        sys.stdout.write(f"{message}\n")
        return
    from syntagma.cli.harmless import shown

    sys.stderr.write(shown(message + (f"\n  {remedy}" if remedy else "")) + "\n")


def _let_go() -> None:
    """Whoever reads has seen enough, or nobody can: what is still waiting to be written must not
    complain at exit.
    """
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _run(argv: list[str]) -> int:
    if not argv:
        _say(
            FIRST.format(
                commands="\n".join(
                    f"  {heading:<8} {names}"
                    for heading, names in HEADINGS.items()
                    if heading != "begin"
                )
            ),
            out=True,
        )
        return 0
    if argv[0] in ("-h", "--help", "help") and len(argv) == 1:
        _say(
            'usage: syntagma COMMAND …, or syntagma "A WISH IN A SENTENCE"\n\n'
            + _list_of_commands(),
            out=True,
        )
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
        if argv[1] not in COMMANDS and len(argv) == 2:
            from syntagma.cli.glossary import show

            if show(argv[1]):
                return 0
        argv = [*argv[1:], "--help"]
    name = argv[0]
    if " " in name.strip() and name not in COMMANDS:
        return _guarded("compose", ["--from", name, *argv[1:]])
    for words in (2, 1):
        if (old := " ".join(argv[:words])) in OLD and len(argv) >= words:
            _say(
                f"syntagma: “{old}” is now “{OLD[old]}”",
                f"write {' '.join(map(quote, ['syntagma', *OLD[old].split(), *argv[words:]]))}",
            )
            return 2
    if name not in COMMANDS:
        _say(
            f"syntagma: no command is called “{name}”",
            f"did you mean: {call}" if (call := _meant(typed)) else "`syntagma help` lists them",
        )
        return 2
    return _guarded(name, argv[1:])


def _meant(words: Sequence[str]) -> str:
    """The call that was probably meant; only a mistake pays for finding it."""
    from syntagma.cli.meant import meant

    return meant(words)


def hand_over(name: str, argv: list[str]) -> int:
    """Run another command on behalf of one that runs. What goes wrong is raised."""
    parser, run, rest = parser_of(name, argv)
    call = parser.parse_intermixed_args(rest)
    call.words = rest
    return run(call)


def _guarded(name: str, argv: list[str]) -> int:
    from syntagma.cli import args, terminal
    from syntagma.core import diagnostics
    from syntagma.core.diagnostics import NoFile, Refused, SyntagmaError, Trouble
    from syntagma.core.drafting.fills import BadFills
    from syntagma.core.fitting import TooLong
    from syntagma.core.notation.structure import half_character

    diagnostics.use(WAYS)
    args.calls_are_mended_by(_meant)
    try:
        if any(half_character(word) for word in argv):
            raise Trouble(
                "part of the command is not UTF-8 text",
                "set the terminal to UTF-8, or give it in a file",
                2,
            )
        args.CALLED[:] = [name, *argv]
        parser, run, argv = parser_of(name, argv)
        if not {"-h", "--help"} & set(argv):
            # else argparse would make it, to no end: what is wrong is reported in our own words
            parser.usage = ""
        call = parser.parse_intermixed_args(argv)
        call.words = argv
        terminal.loudness(call.quiet, call.verbose)
        status = run(call)
        sys.stdout.flush()
        return status
    except Refused as refused:
        terminal.mistakes(refused.mistakes)
        return 1
    except BadFills as bad:
        for finding in bad.findings:
            named = not finding.place or f"“{finding.place}”" in finding.message
            terminal.wrong(
                ("" if named else f"{finding.place}: ") + finding.message,
                args.answer(finding.message, finding.remedy),
            )
        return 2
    except TooLong as long:
        from syntagma.app.composing.composer import troubles

        terminal.wrong(str(long), troubles(long)[0].remedy)
        return 1
    except SyntagmaError as error:
        slip = error.status == 2 or isinstance(error, NoFile)
        terminal.wrong(str(error), args.answer(str(error), error.remedy) if slip else error.remedy)
        return error.status
    except BrokenPipeError:
        raise
    except OSError as error:
        terminal.wrong(f"the output can't be written: {(error.strerror or str(error)).lower()}")
        _let_go()
        return 3
    except ModuleNotFoundError as missing:
        package = str(missing.name).partition(".")[0]
        if package not in EXTRAS:
            if "SYNTAGMA_TRACE" in os.environ:
                raise
            terminal.defect(missing)
            return 4
        terminal.wrong(
            f"this needs the package {EXTRAS[package][0]}, which is not installed",
            f"install it: pip install 'syntagma[{EXTRAS[package][1]}]'",
        )
        return 3
    except Exception as error:
        if "SYNTAGMA_TRACE" in os.environ:
            raise
        terminal.defect(error)
        return 4


def _list_of_commands() -> str:
    rows = []
    for step, names in HEADINGS.items():
        rows += [
            f"  {step if not n else '':<8} {name:<10} {COMMANDS[name]}\n"
            for n, name in enumerate(names.split())
        ]
    from syntagma.cli.glossary import ROOMS, pages

    by_room = [
        [name for name, path in pages().items() if path.parent.name == room] for room in ROOMS
    ]
    for room, shown_pages in zip(ROOMS, by_room, strict=True):
        rows.append(
            "\n"
            + fill(
                ", ".join(shown_pages),
                78,
                initial_indent=f"  {room + ':':<11}",
                subsequent_indent=" " * 13,
                break_on_hyphens=False,
            )
        )
    return (
        "".join(rows)
        + "\n\n`syntagma help NAME` explains a command, with examples that work, or shows a page;"
        " `syntagma help json` lists what --json prints."
    )
