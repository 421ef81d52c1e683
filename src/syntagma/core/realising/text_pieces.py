"""Pieces of text that know where they came from."""

from typing import NamedTuple

from syntagma.core.drafting.fills import Item


class TextPiece(NamedTuple):
    """A stretch of a prompt's text: its phrase's label, its slot and its item. Blank for what
    Syntagma itself wrote.
    """

    text: str
    slot: str = ""
    item: Item | None = None
    label: str = ""


class Reach(NamedTuple):
    """What another line in the place of one would change: the parts from and to, and what that
    depends on. Where the last word before it is the line's first, they are parted as they are
    nowhere else.
    """

    start: int
    stop: int
    beside: tuple
    before: str = ""
    first: str = ""


def joined(pieces: list[TextPiece] | tuple[TextPiece, ...]) -> str:
    """The text of pieces one after the other."""
    return "".join(piece.text for piece in pieces)


class Whole:
    """A text that is written as a whole, in stretches of pieces one after the other: nothing of it
    is kept for the next.
    """

    def __init__(self, stretches: list[list[TextPiece]]):
        self._stretches = stretches
        self.parts = [joined(stretch) for stretch in stretches]

    def change(self, i: int, line: object) -> bool:
        """False: another line means another text."""
        return False

    def reach(self, i: int) -> None:
        """None: no part is alone."""

    def pieces(self) -> list[TextPiece]:
        """The whole text as pieces that know their phrase, slot and term."""
        return [p for stretch in self._stretches for p in stretch if p.text]
