"""Syntagma: prompts for image and video generators, built from formulas and vocabularies.

As a library: `from syntagma import Workspace, Ask, Composer, Family, Wish, Design, Vary, Trouble, Refused, BadFills, TooLong`.
"""

from importlib import import_module

__version__ = "0.1.0"

_WHERE = {
    "Workspace": "app.workspace.workspace", "Ask": "app.composing.asked", "Taste": "app.composing.asked", "Composer": "app.composing.composer",
    "Composed": "app.composing.composer", "Family": "app.families.family", "Wish": "app.families.wish", "Design": "app.families.wish",
    "Vary": "app.families.wish", "Manner": "core.writing.prompt", "Trouble": "storage.trouble", "Refused": "core.diagnostics.places",
    "BadFills": "core.drafting.fills", "TooLong": "core.fitting.limits",
}  # fmt: skip

__all__ = ["__version__", *_WHERE]


def __getattr__(name: str) -> object:
    """The documented names of the library, each imported when it is first asked for, so a command pays for none."""
    if name not in _WHERE:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f"{__name__}.{_WHERE[name]}"), name)
