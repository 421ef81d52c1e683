"""Runs the program on files in a temporary folder: its main() in this process, for tests that start one, PROGRAM and its environment."""

import io
import json
import os
import signal
import subprocess
import sys
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import NamedTuple

PROGRAM = str(Path(sys.executable).with_name("syntagma"))


def environment(folder: Path) -> dict[str, str]:
    return {
        **os.environ,
        "SYNTAGMA_HOME": str(folder / "own"),
        "NO_COLOR": "1",
        "SYNTAGMA_TRACE": "1",
    }


def heard() -> None:
    """Before a program starts that is to be interrupted: the shell of a job in the background has interruptions ignored."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


_KILLED = """
import os, signal, sys
event, part, times, *words = sys.argv[1:]
left = int(times)

def hook(name, args):
    global left
    if name == event and part in str(args):
        left -= 1
        if not left:
            os.kill(os.getpid(), signal.SIGKILL)

sys.addaudithook(hook)
from syntagma.cli import main
sys.exit(main(words))
"""


def killed(folder: Path, event: str, part: str, times: int, *words: str) -> None:
    """Run the program in a process that kills itself at an audit event of Python, the n-th whose arguments name `part`: the place
    decides where it ends, not the clock. It must get there."""
    call = [sys.executable, "-c", _KILLED, event, part, str(times), *words]
    done = subprocess.run(call, cwd=folder, env=environment(folder), capture_output=True, text=True)
    assert done.returncode == -signal.SIGKILL, f"{event} {part} {times}: {done.stderr}"


class Called(NamedTuple):
    """What a call in this process gave."""

    returncode: int
    stdout: str
    stderr: str
    screen: str = ""  # what a terminal on standard output would have had


class _Screen(io.TextIOWrapper):
    """A stream that says it is a terminal."""

    def isatty(self) -> bool:
        return True


def run(folder: Path, *words: str, given: str | bytes = b"", screen: bool = False) -> Called:
    """Run main() on the words in a folder, in this process: no start-up is paid for, and a defect is raised. `screen`: standard output
    is a terminal. JSON that it prints is held against the schemas that ship."""
    from syntagma.cli import main

    streams = [
        io.TextIOWrapper(
            io.BytesIO(given.encode() if isinstance(given, str) else given), encoding="utf-8"
        )
    ]
    kinds = (_Screen if screen else io.TextIOWrapper, io.TextIOWrapper)
    streams += [kind(io.BytesIO(), encoding="utf-8", write_through=True) for kind in kinds]
    with _within(folder, streams):
        try:
            status = main(list(words))
        except SystemExit as done:
            status = int(done.code or 0)
        out, err = (stream.buffer.getvalue().decode() for stream in streams[1:])
        if "--json" in words and status in (0, 1) and out:
            fits(words, json.loads(out))
    return Called(status, out, err, out if screen else "")


def fits(words: tuple[str, ...], value: object) -> str:
    """The shape of what a call with --json printed; raises AssertionError where it is not one of those that its help promises."""
    from syntagma.cli.commands import parser_of

    parser, _, _ = (
        parser_of(words[0], list(words[1:])) if " " not in words[0] else parser_of("compose", [])
    )
    wrong = []
    for shape in parser.shapes:
        error = next(_validator(shape).iter_errors(value), None)
        if error is None:
            return shape
        wrong.append(f"{shape}: {error.json_path}: {error.message[:300]}")
    raise AssertionError(f"{words}: {wrong}")


@cache
def _validator(shape: str):
    from jsonschema import Draft202012Validator

    from syntagma.cli.shapes import schema_of

    return Draft202012Validator(schema_of(shape))


def good(folder: Path, *words: str, **options) -> str:
    """The output of a call that must succeed."""
    done = run(folder, *words, **options)
    assert done.returncode == 0, done.stderr
    return done.stdout


def printed(out: str):
    """What a call printed as JSON: a record, or of what may be many the items."""
    value = json.loads(out)
    return value["items"] if isinstance(value, dict) and "items" in value else value


@contextmanager
def _within(folder: Path, streams):
    here, before, environ = Path.cwd(), (sys.stdin, sys.stdout, sys.stderr), dict(os.environ)
    os.environ.update(environment(folder))
    try:
        os.chdir(folder)
        sys.stdin, sys.stdout, sys.stderr = streams
        yield
    finally:
        sys.stdin, sys.stdout, sys.stderr = before
        os.chdir(here)
        os.environ.clear()
        os.environ.update(environ)
