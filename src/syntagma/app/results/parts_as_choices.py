"""Prompts that no design made: the parts that the reader finds in them are their choices."""

from collections import Counter
from collections.abc import Mapping, Sequence

from syntagma.app.existing.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english

SURE = 0.4
NONE, OTHER = "(none)", "(other)"
LEAST = 2  # prompts that a choice needs to be one
SPARE = 5  # prompts that are left beside the numbers to find


def choices_by_parts(workspace: Workspace, texts: Sequence[str]) -> list[dict[str, str]]:
    """For each text its choice on each axis: the first part of a facet (two that are one term are one, in the words of the first). A part that no other text has counts as `OTHER`, a text without one as
    `NONE`. Of the facets those are axes that part the texts most evenly, as many as so many texts can tell."""
    reader, said = reader_of(workspace), list[dict[str, str]]()
    first: dict[tuple[str, str], str] = {}  # how the first text that has a part says it
    for text in texts:
        found: dict[str, str] = {}
        for piece in reader.read(text).parts():
            if piece.sure >= SURE and piece.facet in workspace.vocabulary.names:
                words = english.split_determiner(piece.words)[1].lower()
                found.setdefault(piece.facet, first.setdefault((piece.facet, piece.term.term if piece.term else words), words))
        said.append(found)
    axes: list[tuple[int, int, str, dict[str, int]]] = []
    for facet in sorted({facet for one in said for facet in one}):
        counts = Counter(one.get(facet, NONE) for one in said)
        levels = Counter(words if number >= LEAST else OTHER for words, number in counts.items() for _ in range(number))
        if len(levels) > 1 and min(levels.values()) >= LEAST:
            axes.append((-min(levels.values()), len(levels), facet, counts))
    chosen: dict[str, dict[str, int]] = {}
    left = max(1, len(texts) - SPARE)
    for _, levels_, facet, said_so in sorted(axes, key=lambda axis: axis[:3]):
        if levels_ - 1 <= left:
            chosen[facet] = said_so
            left -= levels_ - 1
    return [{facet: _level(one.get(facet, NONE), counts) for facet, counts in chosen.items()} for one in said]


def _level(words: str, counts: Mapping[str, int]) -> str:
    return words if counts[words] >= LEAST else OTHER
