"""Pieces of text that know where they came from."""

from typing import NamedTuple

from syntagma.core.fills import Item


class Piece(NamedTuple):
    """A stretch of a prompt's text: its phrase's label, its slot and its item. Blank for what Syntagma itself wrote."""

    text: str
    slot: str = ""
    item: Item | None = None
    label: str = ""


def joined(pieces: list[Piece] | tuple[Piece, ...]) -> str:
    """The text of pieces one behind the other."""
    return "".join(piece.text for piece in pieces)
