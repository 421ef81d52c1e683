"""Reading: what a person's words say, put into the slots of a formula."""

from syntagma.core.reading.hearing import Heard, hear

__all__ = ["Heard", "hear"]
