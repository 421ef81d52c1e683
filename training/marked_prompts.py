"""Prompts marked by hand: one JSON object a line, `text` and `parts`, each `[words, facets]` in the
order of the text (docs/evidence/training.md).
"""

import json
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.core.models.profile import Profile
from syntagma.core.reading.features import NOTHING_YET, Read, StretchContext, WordRow
from syntagma.core.reading.outer_form import outside
from syntagma.core.reading.reader import stretches
from syntagma.core.reading.words import WordKnowledge

HERE = Path(__file__).resolve().parent / "marked"
OUTSIDE = ("parameter",)
OWN = 0.4  # what an example counts of the first hands, which mark fewer facets


class Mark(NamedTuple):
    """A marked part: from where to where, and the facets that are right for it, the best first."""

    start: int
    stop: int
    facets: tuple[str, ...]


class Marked(NamedTuple):
    """A prompt in somebody's hand, with its marks."""

    hand: str
    text: str
    marks: tuple[Mark, ...]


def read_marked(path: Path) -> list[Marked]:
    """The prompts of one file, which is one hand. Raises ValueError if words of a part are not in
    the text.
    """
    return [
        _marked(path.stem, json.loads(line))
        for line in path.read_text("utf-8").splitlines()
        if line.strip()
    ]


def _marked(hand: str, record: dict) -> Marked:
    text, at, marks = record["text"], 0, []
    for words, facets in record["parts"]:
        start = text.find(words, at)
        if start < 0:
            raise ValueError(f"{hand}: “{words}” does not follow in “{text[:60]}”")
        marks.append(Mark(start, start + len(words), tuple(facets.split("|"))))
        at = start + len(words)
    return Marked(hand, text, tuple(marks))


class Example(NamedTuple):
    """A stretch of a marked prompt, with its parts as rows of words: (first, after the last,
    facets); what the stretches before it have; how much it counts.
    """

    stretch: WordRow
    parts: tuple[tuple[int, int, tuple[str, ...]], ...]
    before: Read
    weight: float = 1.0

    def read_before(self, a: int) -> Read:
        """What was read before a word."""
        read = self.before
        for _, stop, facets in self.parts:
            if stop <= a:
                read = read.then(facets[0])
        return read


def examples(
    prompt: Marked, knowledge: WordKnowledge, profiles: Sequence[Profile]
) -> list[Example]:
    """What a prompt teaches, stretch by stretch."""
    found = []
    read = NOTHING_YET
    for stretch, _ in stretches(prompt.text, outside(prompt.text, profiles), knowledge):
        parts = []
        for mark in prompt.marks:
            inside = [
                i
                for i, w in enumerate(stretch.words)
                if w.start < mark.stop and w.stop > mark.start
            ]
            while inside and not stretch.words[inside[-1]].is_word:
                inside.pop()
            while inside and not stretch.words[inside[0]].is_word:
                inside.pop(0)
            if (
                inside
                and mark.facets[0] not in OUTSIDE
                and (not parts or inside[0] >= parts[-1][1])
            ):
                parts.append((inside[0], inside[-1] + 1, mark.facets))
        found.append(
            Example(stretch, tuple(parts), read, OWN if prompt.hand.startswith("own") else 1.0)
        )
        read = found[-1].read_before(len(stretch.words))
    return found


__all__ = ["Example", "Mark", "Marked", "StretchContext", "examples", "read_marked"]
