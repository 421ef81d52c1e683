"""tour: the whole job on the demo data, step by step, in five chapters."""

import io
import os
import sys
from argparse import Namespace
from contextlib import chdir
from pathlib import Path
from typing import Any

from syntagma.cli import args, terminal

MOST = 10  # lines of a step that are shown


def arguments(parser: args.Parser) -> None:
    parser.add_argument(
        "what",
        metavar="CHAPTER or DIR",
        nargs="*",
        help=(
            "a chapter, 1 to 5 (default: all); the folder for the workspace (default:"
            " lantern-reach)"
        ),
    )
    parser.examples("syntagma tour", "syntagma tour 3", "syntagma tour my-look-round")


class _CutStream(io.TextIOBase):
    """A stream that lets so many lines of a step through, and counts the rest."""

    def __init__(self, stream: Any, lines: list[int]):
        self.stream, self.lines = stream, lines

    def write(self, text: str) -> int:
        for line in text.splitlines(keepends=True):
            if self.lines[0] < MOST:
                self.stream.write(line)
            self.lines[0] += line.endswith("\n")
        return len(text)

    def isatty(self) -> bool:
        return self.stream.isatty()

    def flush(self) -> None:
        self.stream.flush()

    def fileno(self) -> int:
        return self.stream.fileno()

    @property
    def buffer(self) -> "_CutStream":
        """Takes bytes, too: lines that were made ready."""
        return _Bytes(self.stream, self.lines)

    @property
    def encoding(self) -> str:  # type: ignore[override]
        return self.stream.encoding


class _Bytes(_CutStream):
    """The same for bytes."""

    def write(self, text: bytes) -> int:  # type: ignore[override]
        return super().write(text.decode("utf-8"))


def run(call: Namespace) -> int:
    from syntagma.app.workspace.tour import CHAPTERS, prepare, service, steps, summary
    from syntagma.core.diagnostics import Trouble

    chapters = [int(word) for word in call.what if word.isdigit()]
    folders = [word for word in call.what if not word.isdigit()] or ["lantern-reach"]
    if len(chapters) > 1 or len(folders) > 1 or any(number not in CHAPTERS for number in chapters):
        raise Trouble(
            "the tour takes one chapter, 1 to 5, and one folder",
            "syntagma tour 3, or syntagma tour 3 my-look-round",
            2,
        )
    only = chapters[0] if chapters else 0
    folder, here, worst, before = prepare(Path(folders[0])), Path.cwd(), 0, 0
    try:
        os.chdir(folder)
        with service(Path.cwd()) as at:
            for number, step in enumerate(steps(at), 1):
                shown = not only or step["chapter"] == only
                if only and step["chapter"] > only:
                    break
                if shown and step["chapter"] != before:
                    before = step["chapter"]
                    terminal.say(
                        (f"\nChapter {before}: {CHAPTERS[before]}", terminal.CHANGED), error=False
                    )
                worst = max(worst, _step(number, step, shown))
                if shown and sys.stdin.isatty() and terminal.on_terminal() and not _goes_on():
                    break
    finally:
        os.chdir(here)
    terminal.say(error=False)
    if not only:
        for line in summary(folder, folders[0]):
            terminal.say(line, error=False)
    return worst


def _goes_on() -> bool:
    sys.stderr.write("Enter continues, q ends the tour ›  ")
    sys.stderr.flush()
    answer = sys.stdin.readline()
    return bool(answer) and answer.strip().lower() != "q"


def _step(number: int, step: dict, shown: bool) -> int:
    """One step, and its status if that is not as it should be; of what it says the first lines are
    shown, or nothing.
    """
    from syntagma.app.workspace.tour import edited
    from syntagma.cli import main

    if shown:
        terminal.say(error=False)
        terminal.say((f"{number}. {step['say']}", "bold"), error=False)
    if "edit" in step:
        for line in edited(step["edit"]):
            if shown:
                terminal.say(line, error=False)
        return 0
    if shown:
        where = f"({step['in']}) " if "in" in step else ""
        terminal.say((f"{where}$ syntagma {step['run']}", terminal.NAME), error=False)
    lines, out, err = [0 if shown else MOST], sys.stdout, sys.stderr
    try:
        sys.stdout, sys.stderr = _CutStream(out, lines), _CutStream(err, lines)
        with chdir(step.get("in", ".")):
            status = main(step["words"])
    finally:
        sys.stdout, sys.stderr = out, err
    terminal.loudness(False, False)
    if shown and lines[0] > MOST:
        terminal.say((f"… and {lines[0] - MOST} more lines", terminal.QUIET), error=False)
    if status in (step.get("statuses") or [step.get("status", 0)]):
        return 0
    terminal.say((f"this step failed with status {status}", terminal.WRONG))
    return status or 1
