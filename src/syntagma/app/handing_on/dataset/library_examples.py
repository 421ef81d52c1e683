"""Kept results as examples for a data set: those that were good, and whose terms of use allow training."""

import re

from syntagma.app.results.adding import library_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.storage.library import LibraryQuery


def kept_fills(workspace: Workspace, formula: str, rating: float) -> tuple[list[dict[str, str]], int]:
    """The fills of kept results of a formula with at least this rating, and how many stay out since their terms forbid training or say nothing of it."""
    found, out = [], 0
    with library_of(workspace) as library:
        for kept in library.find(LibraryQuery(rating=rating, formula=formula)):
            fills = kept.record.get("fills")
            said = re.search(r"training: (\w+)", kept.use)
            if not isinstance(fills, dict):
                continue
            if not said or said[1] != "yes":
                out += 1
                continue
            found.append({slot: given if isinstance(given, str) else "; ".join(map(str, given)) for slot, given in fills.items()})
    return found, out
