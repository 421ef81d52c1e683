"""Designs: how the members of a family are chosen. One module a design; axes.py says what varies."""

from syntagma.core.designs.axes import Axis, Clashes
from syntagma.core.designs.full import full, full_size, sampled
from syntagma.core.designs.single import single, single_size
from syntagma.core.designs.twins import Seen

DESIGNS = ("single", "full")

__all__ = [
    "DESIGNS",
    "Axis",
    "Clashes",
    "Seen",
    "full",
    "full_size",
    "sampled",
    "single",
    "single_size",
]
