"""A draft into words. One module a register; each makes a line of every phrase, then joins the
lines that survive.
"""

from importlib import import_module

from syntagma.core.models.profile import Profile
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.text_pieces import TextPiece

REGISTERS = ("prose", "tags", "labelled", "nested", "timed")


def register_for(profile: Profile, style: HouseStyle):
    """The register of a model; only its module is imported."""
    name = profile.register
    return getattr(import_module(f"syntagma.core.realising.{name}"), name.capitalize())(
        profile, style
    )


__all__ = ["REGISTERS", "HouseStyle", "TextPiece", "register_for"]
