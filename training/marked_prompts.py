"""Prompts marked by hand: one JSON object a line, `text` and `parts`, each `[words, facets]` in the order of the text (docs/marking.md)."""

import json
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.core.models.profile import Profile
from syntagma.core.reading.model.features import Setting, Stretch
from syntagma.core.reading.model.stretching import stretches
from syntagma.core.reading.model.words import Knowledge

HERE = Path(__file__).resolve().parent / "marked"
OUTSIDE = ("parameter",)


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
    """The prompts of one file, which is one hand. Raises ValueError where words of a part are not in the text."""
    return [_marked(path.stem, json.loads(line)) for line in path.read_text("utf-8").splitlines() if line.strip()]


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
    """A stretch of a marked prompt, with its parts as rows of words: (first, behind the last, facets)."""

    stretch: Stretch
    parts: tuple[tuple[int, int, tuple[str, ...]], ...]


def examples(prompt: Marked, knowledge: Knowledge, profiles: Sequence[Profile]) -> list[Example]:
    """What a prompt teaches, stretch by stretch."""
    found = []
    for stretch in stretches(prompt.text, knowledge, profiles)[1]:
        parts = []
        for mark in prompt.marks:
            inside = [i for i, w in enumerate(stretch.words) if w.start < mark.stop and w.stop > mark.start]
            while inside and not stretch.words[inside[-1]].is_word:
                inside.pop()
            while inside and not stretch.words[inside[0]].is_word:
                inside.pop(0)
            if inside and mark.facets[0] not in OUTSIDE and (not parts or inside[0] >= parts[-1][1]):
                parts.append((inside[0], inside[-1] + 1, mark.facets))
        found.append(Example(stretch, tuple(parts)))
    return found


__all__ = ["Example", "Mark", "Marked", "Setting", "examples", "read_marked"]
