"""How well prompts are read: python benchmarks/reading.py [FILE …] reads prompts marked by hand
(tests/reading) and counts.

A marked piece is right where most of its letters have the facet that was marked. `--show` lists
those that are wrong; `--speed` measures how fast 10,000 prompts and a long paste are read.
"""

import re
import sys
from functools import cache
from pathlib import Path
from time import process_time
from typing import NamedTuple

from benchmarks.picks import picks
from syntagma.app.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.reading.prompt_pieces import Reading
from syntagma.core.reading.reader import Reader

HERE = Path(__file__).resolve().parent.parent / "tests" / "reading"
MARK = re.compile(r"‹([^:›]+): ([^›]*)›")


class Marked(NamedTuple):
    """A prompt, and the stretches of it with the facets that are right for each."""

    text: str
    marks: list[tuple[int, int, frozenset[str]]]


def marked_prompts(path: Path) -> list[Marked]:
    """The prompts of a file of marked ones."""
    source = re.sub(r"\A(?:#[^\n]*\n)+", "", path.read_text("utf-8"))
    return [_marked(block.strip("\n")) for block in re.split(r"\n==\n", source)]


def _marked(block: str) -> Marked:
    text, at, marks = "", 0, []
    for match in MARK.finditer(block):
        text += block[at : match.start()]
        marks.append((len(text), len(text) + len(match[2]), frozenset(match[1].split("/"))))
        text += match[2]
        at = match.end()
    return Marked(text + block[at:], marks)


def facet_of(reading: Reading, start: int, stop: int) -> str:
    """The facet of most of the letters between two places."""
    counts: dict[str, int] = {}
    for piece in reading.pieces:
        shared = (
            len(re.sub(r"\W", "", reading.text[max(start, piece.start) : min(stop, piece.stop)]))
            if piece.start < stop and piece.stop > start
            else 0
        )
        name = piece.facet if piece.kind == "part" else piece.kind
        counts[name] = counts.get(name, 0) + shared
    return max(counts, key=lambda name: counts[name], default="")


@cache
def reader() -> Reader:
    """A reader with all that ships, made once."""
    workspace = Workspace.load(Path("/"))
    return reader_of(workspace)


def speed(number: int = 10_000) -> None:
    """Read as many different prompts of all formulas; the time of each as a ratio to one pass of a
    compiled pattern over it.
    """
    workspace, with_all, texts = Workspace.load(Path("/")), reader(), []
    names = list(workspace.formulas())
    for name in names:
        texts += [
            prompt.text
            for *_, prompt in picks(workspace, name, number // len(names) + 1, detail="rich")
        ]
    texts = list(dict.fromkeys(texts))[:number]
    times = {}
    for name, pass_over in (("pattern", re.compile(r"\w+").findall), ("reading", with_all.read)):
        start = process_time()
        for text in texts:
            pass_over(text)
        times[name] = process_time() - start
    each = times["reading"] / len(texts) * 1000
    print(
        f"{len(texts):,} prompts read: {times['reading'] / times['pattern']:.0f} times one pass of"
        f" a pattern; {each:.2f} ms each"
    )
    paste = ", ".join(texts)[:100_000]
    start = process_time()
    with_all.read(paste)
    print(f"a paste of 100,000 characters: {process_time() - start:.2f} s")


def main() -> None:
    """Count and print."""
    if "--speed" in sys.argv:
        speed()
        return
    show = "--show" in sys.argv
    paths = [Path(word) for word in sys.argv[1:] if not word.startswith("--")] or [
        HERE / f"{name}.txt" for name in ("worked", "wider", "held", "unseen")
    ]
    with_all = reader()
    for path in paths:
        right = every = outer_right = outer = lost = 0
        for prompt in marked_prompts(path):
            reading = with_all.read(prompt.text)
            lost += "".join(piece.text for piece in reading.pieces) != prompt.text
            for start, stop, facets in prompt.marks:
                found = facet_of(reading, start, stop)
                is_outer = bool(facets & {"parameter", "negative"})
                good = found in facets
                outer, outer_right = outer + is_outer, outer_right + (is_outer and good)
                every, right = every + (not is_outer), right + (not is_outer and good)
                if show and not good:
                    print(
                        f"{'/'.join(sorted(facets)):24} read as {found:14}"
                        f" {prompt.text[start:stop]!r} in {prompt.text[:70]!r}"
                    )
        print(
            f"{path.name}: facets {right} of {every} ({right / every:.1%}); parameters and negative"
            f" text {outer_right} of {outer}; texts lost {lost}"
        )


if __name__ == "__main__":
    main()
