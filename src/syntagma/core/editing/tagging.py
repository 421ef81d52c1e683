"""A text in tags: its items, cut where the reader is sure that one part ends and another begins."""

import re
from itertools import pairwise

from syntagma.core import english
from syntagma.core.editing.edits import TextItem, items
from syntagma.core.reading.prompt_pieces import PromptPiece, Reading

SURE = 0.8
_APART = frozenset(("", "of", ",", "showing"))  # what may be between two parts that are tags of their own


def tags(text: str, reading: Reading) -> list[tuple[str, str]]:
    """The tags of a text, each with the facet of its first part ("" if it has none)."""
    found = []
    for item in items(text):
        found += _cut(item, [piece for piece in reading.parts() if item.start <= piece.start < item.stop], text)
    return [(words, facet) for words, facet in found if words]


def _cut(item: TextItem, parts: list[PromptPiece], text: str) -> list[tuple[str, str]]:
    cuts = [item.start]
    for before, after in pairwise(parts):
        between = text[before.stop : after.start].strip().lower()
        if between in _APART and min(before.sure, after.sure) >= SURE and after.start > cuts[-1]:
            cuts.append(after.start)
    spans = zip(cuts, [*cuts[1:], item.stop], strict=True)
    return [(_bare(text[start:stop]), next((p.facet for p in parts if start <= p.start < stop), "")) for start, stop in spans]


def _bare(words: str) -> str:
    """A stretch as a tag: without its article, what led on to the next, and the capital of a beginning."""
    words = re.sub(r"[\s,]+(?:of|showing|and)?\s*$", "", words.strip(" ,;.!?"))
    determiner, rest = english.split_determiner(words)
    words = rest if determiner.lower() in ("a", "an", "the") and rest else words
    name = re.match(r"[A-Z][\w'’-]+ [A-Z]|[A-Z]{2}", words)
    return words if name or words[1:2] == "-" else words[:1].lower() + words[1:]
