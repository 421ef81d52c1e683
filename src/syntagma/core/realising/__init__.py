"""A draft into words. One module a register; each makes a line of every phrase, then joins the lines that survive."""

from syntagma.core.realising.hand import Hand
from syntagma.core.realising.labelled import Labelled
from syntagma.core.realising.nested import Nested
from syntagma.core.realising.pieces import Piece
from syntagma.core.realising.prose import Prose
from syntagma.core.realising.tags import Tags
from syntagma.core.realising.timed import Timed

REGISTERS = {"prose": Prose, "tags": Tags, "labelled": Labelled, "nested": Nested, "timed": Timed}

__all__ = ["REGISTERS", "Hand", "Labelled", "Nested", "Piece", "Prose", "Tags", "Timed"]
