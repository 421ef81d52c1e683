"""A draft into words. One module a register; each makes a line of every phrase, then joins the lines that survive."""

from syntagma.core.realising.pieces import Piece
from syntagma.core.realising.prose import Prose
from syntagma.core.realising.tags import Tags

REGISTERS = {"prose": Prose, "tags": Tags}

__all__ = ["REGISTERS", "Piece", "Prose", "Tags"]
