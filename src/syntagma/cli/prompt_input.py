"""Prompts that a call gives: in the words, in files, from a pipe; and a command begun with a kept
result.
"""

from __future__ import annotations

import os
import sys
from argparse import Namespace
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import chain
from typing import TYPE_CHECKING

from syntagma.cli import args, terminal
from syntagma.core.diagnostics import ERROR, Finding

if TYPE_CHECKING:
    from syntagma.app.prompt_files import Source

# ──── compose --kept, expand --kept: a command that goes on from a result of the library.


def without(words: list[str], option: str) -> list[str]:
    """The words of a call without an option and what follows it."""
    found, skip = [], False
    for word in words:
        if skip or word.startswith(f"{option}="):
            skip = False
        elif word == option:
            skip = True
        else:
            found.append(word)
    return found


def go_on(command: str, number: str, words: list[str]) -> int:
    """A command, begun with what a result of the library has; the call is shown. Raises Trouble."""
    from itertools import pairwise
    from shlex import quote

    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.cli import hand_over
    from syntagma.core.records import joined

    with library_of(Workspace.load()) as library:
        kept = library.get(numbers_of([number])[0])
    given = {slot: joined(fill) for slot, fill in (kept.record.fills or {}).items()}
    own = {word.partition("=")[0] for word in words if "=" in word and not word.startswith("-")}
    varied = {
        part
        for flag, word in pairwise(words)
        if flag == "--vary"
        for part in word.partition("=")[0].partition(":")[0].split("+")
    }
    model = (
        ["--model", kept.model]
        if kept.model
        and "--model" not in words
        and not any(word.startswith("--model=") for word in words)
        else []
    )
    if kept.record.get("edited"):
        terminal.note("its words were changed by hand, and those changes will not carry over")
    if kept.formula and given and not kept.record.says_more:
        looks = (
            ["--look", ",".join(kept.record["looks"])]
            if isinstance(kept.record.get("looks"), list) and "--look" not in words
            else []
        )
        taken = varied if command == "expand" else set()
        argv = [
            kept.formula,
            *(f"{slot}={fill}" for slot, fill in given.items() if slot not in own | taken),
            *words,
            *looks,
            *model,
        ]
    elif command == "expand":
        argv = ["--text", kept.text, *words, *model]
    else:
        argv = [*words, "--from", kept.text, *model]
    terminal.note(f"syntagma {command} {' '.join(map(quote, argv))}")
    return hand_over(command, argv)


# ──── What commands on finished prompts begin with: the prompts, on the call, in a file or on a
# pipe. Each is worked on by itself: one that can't be read, or that a command can't do, is reported
# with its line, and the others go on.


def arguments(parser: args.Parser, shape: str) -> None:
    """The prompts, and what is said of them: which column holds them, how they are printed, and the
    shape of that as JSON.
    """
    parser.add_argument(
        "prompt",
        metavar="PROMPT",
        help=(
            "a prompt in quotes, a file of prompts (.txt .csv .xlsx .json .jsonl), or - for"
            " standard input"
        ),
    )
    parser.add_argument("--column", default="")
    parser.json(shape)


def text_of(file: str, what: str) -> str:
    """The text of a file, or of standard input if it is -. Raises Trouble."""
    from syntagma.storage.files import bounded, decoded, read_text

    if file != "-":
        return read_text(file, what)
    return decoded(bounded(sys.stdin.buffer, "standard input"), "standard input")


class CallPrompts:
    """The prompts of a call, as they come. `several`: more than one was given; `status` is the exit
    status when all are done.
    """

    def __init__(self, sources: Iterator, name: str, typed: bool = False):
        first = next(sources, None)
        if first is None:
            from syntagma.core.diagnostics import Trouble

            raise Trouble(
                f"{name} has no prompts",
                "it needs one prompt per line, or records with a “text”",
                2,
            )
        second = next(sources, None)
        self.name, self.typed, self.several = name, typed, second is not None
        self._sources = chain(filter(None, (first, second)), sources)
        self.unread = self.failed = self.good = 0
        self.findings: list = []  # of those that can't be read, or that a command can't do

    @classmethod
    def of(cls, call: Namespace) -> CallPrompts:
        """Those that a call names in its PROMPT. Raises Trouble if there is none."""
        from syntagma.app.reading import names_file, sources_of

        name, typed = (
            ("standard input", False)
            if call.prompt == "-"
            else (call.prompt, not names_file(call.prompt))
        )
        return cls(iter(sources_of(call.prompt, call.column, sys.stdin.buffer)), name, typed)

    @classmethod
    def with_records(cls, call: Namespace) -> CallPrompts:
        """Those that a call names in its PROMPT, each with the record that it stood in. Raises
        Trouble if there is none.
        """
        from syntagma.app.prompt_files import Source
        from syntagma.app.reading import names_file
        from syntagma.core.records import Record

        if call.prompt == "-" or names_file(call.prompt):
            return cls.in_file(call.prompt)
        return cls(
            iter(
                [Source(1, call.prompt, record=Record({"text": call.prompt}))]
                if call.prompt.strip()
                else []
            ),
            "it",
            True,
        )

    @classmethod
    def in_file(cls, file: str) -> CallPrompts:
        """Those of a file of finished prompts, or of standard input if it is -. Raises Trouble if
        there is none.
        """
        from syntagma.app.prompt_files import prompts_of_file, prompts_of_pipe

        if file == "-":
            return cls(prompts_of_pipe(sys.stdin.buffer, records=True), "standard input")
        return cls(prompts_of_file(file, records=True), file)

    def __iter__(self) -> Iterator:
        """Those that can be read; of the others it is said why not."""
        for source in self._sources:
            if source.mistake:
                self.unread += 1
                self.findings.append(source.mistake)
                terminal.mistake(source.mistake)
                continue
            if source.note:
                terminal.say((f"remark: {source.note}", terminal.QUIET))
            yield source

    def each(self, work: Callable) -> None:
        """Do some work on each."""
        for source in self:
            with self.alone(source):
                work(source)

    @contextmanager
    def alone(self, source: Source) -> Iterator[None]:
        """Work on one of several; report what can't be done with its line. Where one prompt alone
        was given the reason is the command's own.
        """
        from syntagma.core.diagnostics import Refused, Trouble
        from syntagma.core.drafting.fills import BadFills
        from syntagma.core.fitting import TooLong

        try:
            yield
            self.good += 1
        except (Trouble, Refused, BadFills, TooLong) as error:
            if not self.several or (isinstance(error, Trouble) and error.status == 2):
                raise
            self._told(source)
            if isinstance(error, Refused):
                self.findings += error.mistakes
                for found in error.mistakes:
                    terminal.mistake(found)
                return
            if isinstance(error, Trouble):
                told = [Finding(ERROR, str(error), error.remedy, code="not-done")]
                terminal.wrong(str(error), error.remedy, "error")
            else:
                from syntagma.app.composing.composer import troubles

                told = troubles(error)
                terminal.findings(told)
            self.findings += [one._replace(place=f"{self.name}:{source.line}") for one in told]
        except Exception as error:
            if not self.several or isinstance(error, OSError) or "SYNTAGMA_TRACE" in os.environ:
                raise
            self._told(source)
            terminal.defect(error)

    def place(self, source: Source) -> dict[str, object]:
        """Where a prompt was read, as JSON has it: its file and line; nothing of one that was
        typed.
        """
        return {} if self.typed else {"source": self.name, "line": source.line}

    def _told(self, source: Source) -> None:
        self.failed += 1
        terminal.say((f"{self.name}:{source.line}", terminal.NAME))

    @property
    def status(self) -> int:
        """1 if something could not be read, or made nothing, else 0."""
        return 1 if self.unread or self.failed else 0

    def close(self) -> int:
        """Say how many of how many came where not all did; return the exit status."""
        if self.unread or self.failed:
            terminal.say(
                f"{self.good:,} of {self.good + self.unread + self.failed:,} prompts worked"
            )
        return self.status
