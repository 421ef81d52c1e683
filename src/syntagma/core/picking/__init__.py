"""Picking: terms for open slots that suit each other. suiting.py says how well two terms go together, picker.py draws."""

from syntagma.core.picking.detail import DETAILS, slots_at, take_at
from syntagma.core.picking.nearest_terms import stands_for
from syntagma.core.picking.picker import FIRST, Deck, Picker, Want
from syntagma.core.vocabulary.stated import content_words, ideas

__all__ = ["DETAILS", "FIRST", "Deck", "Picker", "Want", "content_words", "ideas", "slots_at", "stands_for", "take_at"]
