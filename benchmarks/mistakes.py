"""How mistaken calls are answered: python -m benchmarks.mistakes [--show] runs the calls of
tests/mistakes in the tour's folder.

Each line there is a call as somebody types it, and the call that was meant, written before the
answers were looked at. An answer counts where it shows that call whole, or where the program did
what was meant; a mistake that is taken in silence is counted apart. `--show` prints the others.
"""

import re
import shlex
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from syntagma.cli.registry import SHORT
from tests.commands.program import good, run

MISTAKES = Path(__file__).parents[1] / "tests" / "mistakes"


class Mistaken(NamedTuple):
    """A call with a mistake in it, and the call that was meant; both without the program's name."""

    kind: str
    typed: str
    meant: str


def mistakes() -> Iterator[Mistaken]:
    """Every mistaken call of the files, by kind."""
    for path in sorted(MISTAKES.glob("*.txt")):
        for line in path.read_text("utf-8").splitlines():
            typed, arrow, meant = line.rpartition(" => ")
            if arrow and not line.startswith("#"):
                yield Mistaken(path.stem, typed.strip(), meant.strip())


def calls_in(answer: str) -> list[list[str]]:
    """The calls of the program that an answer shows, each as its words."""
    found = []
    for line in answer.splitlines():
        for at in re.finditer(r"\bsyntagma (?=\S)", line):
            try:
                found.append(shlex.split(line[at.end() :].rstrip("`")))
            except ValueError:
                continue
    return found


def answered(folder: Path, one: Mistaken) -> tuple[str, str]:
    """How a mistaken call is answered: `meant` where the answer shows the call that was meant,
    `another` where it shows another call, `none` where it shows none; without an error `understood`
    if it did what the call that was meant does, else `silence`. And what was said.
    """
    done = run(folder, *shlex.split(one.typed))
    if done.returncode == 0:
        return (
            "understood"
            if done.stdout == run(folder, *shlex.split(one.meant)).stdout
            else "silence"
        ), done.stderr
    calls = calls_in(done.stderr)
    return (
        "meant"
        if sorted(long(shlex.split(one.meant))) in map(sorted, map(long, calls))
        else "another"
        if calls
        else "none"
    ), done.stderr


def long(words: list[str]) -> list[str]:
    """The words with options in their long form, their values apart."""
    parted = [
        part for word in words for part in (word.split("=", 1) if word.startswith("--") else [word])
    ]
    return [
        next((option for option, short in SHORT.items() if short == word), word) for word in parted
    ]


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        good(folder, "tour", ".")
        counts: dict[str, Counter[str]] = {}
        for one in mistakes():
            how, said = answered(folder, one)
            counts.setdefault(one.kind, Counter())[how] += 1
            if "--show" in sys.argv and how not in ("meant", "understood"):
                print(
                    f"{one.kind}: {one.typed}\n  meant  {one.meant}\n  {how}:"
                    f" {said.strip()[:400]}\n"
                )
    for kind, count in counts.items():
        print(
            f"{kind:<10} {count.total():>4} mistakes: "
            + ", ".join(
                f"{count[how]} {how}"
                for how in ("meant", "understood", "another", "none", "silence")
            )
        )


if __name__ == "__main__":
    main()
