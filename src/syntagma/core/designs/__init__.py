"""Designs: how the members of a family are chosen. One module a design; axes.py says what varies,
constraints.py what may not go together.

What needs NumPy (cover, spread, mixed) is imported if it is used.
"""

from syntagma.core.designs.axes import Axis, Clashes, Setting
from syntagma.core.designs.level_rows import KeySet
from syntagma.core.designs.plain_rows import full, full_size, sampled, single, single_size

DESIGNS = ("single", "ladder", "full", "cover", "spread", "random", "mixed", "effects")

__all__ = [
    "DESIGNS",
    "Axis",
    "Clashes",
    "KeySet",
    "Setting",
    "full",
    "full_size",
    "sampled",
    "single",
    "single_size",
]
