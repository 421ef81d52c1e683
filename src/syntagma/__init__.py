"""Syntagma: prompts for image and video generators, built from formulas and vocabularies.

As a library: `from syntagma import Workspace, Ask, Composer, Family, Wish, Design, Vary, Trouble,
Refused, BadFills, TooLong`.
"""

from importlib import import_module

__version__ = "0.1.0"

_WHERE = {  # a documented name: its module, and the class there
    "Ask": "app.asked:Ask",
    "BadFills": "core.drafting.fills:BadFills",
    "Composed": "app.composing.composer:Composed",
    "Composer": "app.composing.composer:Composer",
    "Design": "app.families.spec:Design",
    "Family": "app.families.family:Family",
    "FamilySpec": "app.families.spec:FamilySpec",
    "Manner": "core.writing.prompt:Manner",
    "Refused": "core.diagnostics:Refused",
    "SyntagmaError": "core.diagnostics:SyntagmaError",
    "Taste": "app.asked:Taste",
    "TooLong": "core.fitting:TooLong",
    "Trouble": "core.diagnostics:Trouble",
    "Vary": "app.families.spec:Vary",
    "Wish": "app.families.spec:FamilySpec",  # its former name
    "Workspace": "app.workspace.workspace:Workspace",
}

__all__ = ["__version__", *_WHERE]


def __getattr__(name: str) -> object:
    """The documented names of the library, each imported when it is first asked for, so a command
    pays for none.
    """
    if name not in _WHERE:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    module, _, found = _WHERE[name].partition(":")
    return getattr(import_module(f"{__name__}.{module}"), found)
