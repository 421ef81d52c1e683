"""A text with what it says of some facets in front: items and sentences are moved whole, and nothing is taken apart for it."""

from collections.abc import Sequence

from syntagma.core import english
from syntagma.core.editing.edits import SEAM, Edit, TextItem, edited, items, sewn
from syntagma.core.english.clauses import is_clause
from syntagma.core.reading.formulas.rewriting import lowered
from syntagma.core.reading.prompt_pieces import NAMED, Reading

_CORE = frozenset("subject action pose animal object food".split())
MOSTLY = 0.6  # how much of an item's letters a part has that it is moved for


def ordered(text: str, reading: Reading, first: Sequence[str]) -> str:
    """The text with the items of the facets `first` in front, in that order; as it is if no item is plainly of one of them."""
    ranked = [(rank, item) for item in items(text) if (rank := _rank(item, reading, first)) is not None]
    if not ranked:
        return text
    moved = [item for _, item in sorted(ranked, key=lambda pair: pair[0])]
    rest = sewn(edited(text, [_off(text, item) for item in moved])).strip()
    named = any(piece.build == NAMED and rest.startswith(piece.words) for piece in reading.parts())
    lead = ""
    for item in moved:
        begins = not lead or lead.endswith(". ")
        words = item.text[:1].upper() + item.text[1:] if begins and text[:1].isupper() else item.text if begins else lowered(item.text)
        lead += words + (". " if is_clause(item.text) else ", ")
    if not english.has_stop(rest) and text.rstrip()[-1:] in ".!?":
        rest += text.rstrip()[-1]
    if not rest.strip(" .!?,;"):
        return lead.rstrip(" ,") + rest.strip(" ,;")
    return lead + (rest[:1].upper() + rest[1:] if lead.endswith(". ") else rest if named else lowered(rest))


def _off(text: str, item: TextItem) -> Edit:
    """An item taken out; what it began goes on after a comma."""
    before = text[: item.start].rstrip()
    if before.endswith((".", "!", "?")) and item.mark in (",", ";"):
        return Edit(len(before) - 1, item.stop + len(item.mark), ",")
    return Edit(item.start, item.stop, SEAM)


def _rank(item: TextItem, reading: Reading, first: Sequence[str]) -> int | None:
    """Which of some facets an item is plainly of; None for none."""
    own = [piece for piece in reading.parts() if item.start <= piece.start < item.stop]
    ranks = [(first.index(piece.facet), len(piece.words)) for piece in own if piece.facet in first]
    mostly = bool(ranks) and sum(length for _, length in ranks) >= MOSTLY * len(item.text)
    begins = bool(own) and own[0].facet in first and own[0].start == item.start and not any(piece.facet in _CORE for piece in own[1:])  # "low sun behind her"
    return min(rank for rank, _ in ranks) if mostly or begins else None
