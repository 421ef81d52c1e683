"""A hundred wishes in other people's voices, each with the answer of a good writer: python -m
benchmarks.wishes [more] [--show].

The answers (benchmarks/own_words/wishes.jsonl) were written before any of the wishes was run;
`more` are forty that were written after the program had been fixed by what the hundred showed. A
wish passes when all four hold: words (every content word of the answer, and none besides), kind
(photographed, drawn, moving, designed), side channels (what is kept out, ratio, seconds, how many
pictures, spoken lines, lettering), English (the text is the answer's, articles and capitals apart).
Beside it stands the echo: the wish as it was typed, a photograph, and nothing beside it. A text
that differs from the answer may be as good: --show prints each, to be read.
"""

import json
import re
import sys
from collections import Counter
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.composing.wished import read_wish
from syntagma.app.workspace.workspace import Workspace

OWN = Path(__file__).parent / "own_words"
SMALL = frozenset("a an the of in on at by with to for and or is are as it its".split())
BESIDE = ("ratio", "seconds", "pictures")


class Answer(NamedTuple):
    """What comes of a wish: its text, its kind, and what goes beside the text."""

    text: str
    kind: str
    negative: tuple[str, ...] = ()
    ratio: str = ""
    seconds: float = 0
    pictures: int = 0


class Marks(NamedTuple):
    words: bool
    kind: bool
    side: bool
    english: bool


def said(text: str) -> Counter[str]:
    """The content words of a text."""
    return Counter(word for word in re.findall(r"[\w./:-]*\w", text.lower()) if word not in SMALL)


def plain(text: str) -> str:
    """A text without its articles, capitals and end."""
    return " ".join(
        word
        for word in re.findall(r"[\w'’-]+|[^\s\w]", text.lower().rstrip(" .!?"))
        if word not in ("a", "an", "the")
    )


def marks(answer: Answer, gold: dict[str, Any]) -> Marks:
    beside = sorted(answer.negative) == sorted(gold.get("negative", [])) and all(
        getattr(answer, name) == gold.get(name, Answer._field_defaults[name]) for name in BESIDE
    )
    inside = all(
        words in answer.text for words in (*gold.get("spoken", ()), *gold.get("lettering", ()))
    )
    return Marks(
        said(answer.text) == said(gold["text"]),
        answer.kind == gold["kind"],
        beside and inside,
        plain(answer.text) == plain(gold["text"]),
    )


def ours(workspace: Workspace, wish: str) -> Answer:
    found = read_wish(workspace, wish, "prose")
    values = found.cleaned.parameters
    return Answer(
        found.text,
        found.kind,
        found.cleaned.negative,
        str(values.get("ratio", "")),
        float(values.get("seconds", 0)),
        found.cleaned.pictures,
    )


def main(show: bool, file: str = "wishes") -> None:
    workspace = Workspace.load()
    golds = [json.loads(line) for line in (OWN / f"{file}.jsonl").read_text("utf-8").splitlines()]
    for name, answer in (
        ("the echo", lambda wish: Answer(wish, "photographed")),
        ("Syntagma", lambda wish: ours(workspace, wish)),
    ):
        got = [(gold, one := answer(gold["wish"]), marks(one, gold)) for gold in golds]
        counts = ", ".join(
            f"{field} {sum(getattr(mark, field) for _, _, mark in got)}" for field in Marks._fields
        )
        print(f"{name}: {sum(all(mark) for *_, mark in got)} of {len(got)} pass all four; {counts}")
    for gold, one, mark in got if show else ():
        if not all(mark):
            print(
                f"\n{gold['wish']}\n  not:"
                f" {', '.join(field for field in Marks._fields if not getattr(mark, field))}\n  is:"
                f"  {one}\n  was: {gold}"
            )


if __name__ == "__main__":
    main(
        "--show" in sys.argv,
        next((word for word in sys.argv[1:] if not word.startswith("-")), "wishes"),
    )
