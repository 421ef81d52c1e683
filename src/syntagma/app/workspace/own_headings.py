"""Reads the headings of a person's own list of words as columns of a vocabulary: those named on the call first, then the usual names."""

from collections.abc import Mapping, Sequence

from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.vocabulary.terms import COLUMNS, normal
from syntagma.storage.trouble import Trouble

# What else people write over a column of theirs, small and without hyphens.
CALLED = {
    "term": "terms; name; names; word; words; keyword; label; title; entry; item; value; english; tag name",
    "aka": "also; also called; also known as; alias; aliases; synonym; synonyms; other names; other spellings; alternative; alternatives; variants",
    "gloss": "description; meaning; definition; about; what it does; what it does to the picture; effect; explanation; notes; note; comment; comments; remark; remarks; use; when to use",
    "tags": "tag; keywords; labels; mood; themes",
    "facet": "category; kind; type; group; section; class; list; field",
    "broader": "parent; under; parent term; broader term; belongs to; subcategory of",
    "phrase": "in a sentence; in sentence; wording; full; long form; prompt; text",
    "place": "where; location",
    "clashes": "not with; conflicts; excludes; never with; conflicts with",
    "needs": "requires; only with",
    "media": "medium; for; image or video",
}
_OURS = {normal(name): ours for ours, names in CALLED.items() for name in names.split(";")}
KNOWN = (*COLUMNS, "facet")


def headings(columns: Sequence[str], given: Mapping[str, str], source: str) -> dict[str, str]:
    """Which of a table's headings is which column of ours: {theirs: ours}. `given` says it for some, by our names: {"term": "Word"}. Raises Trouble if nothing can be the term, or what is given can't be."""
    theirs = {normal(name): name for name in columns if name}
    found: dict[str, str] = {}
    for ours, name in given.items():
        if ours not in KNOWN:
            raise Trouble(f"“{ours}” is not a vocabulary column", perhaps(ours, KNOWN, f"columns are {', '.join(KNOWN)}"), 2)
        if normal(name) not in theirs:
            raise Trouble(f"{source} has no column “{name}”", perhaps(name, columns, f"its columns are {', '.join(filter(None, columns))}"), 2)
        found[theirs[normal(name)]] = ours
    for name in columns:  # a heading of ours, in any writing
        ours = normal(name).replace(" ", "-")
        if name not in found and ours in KNOWN and ours not in found.values():
            found[name] = ours
    for name in columns:
        if name not in found and (ours := _OURS.get(normal(name), "")) and ours not in found.values():
            found[name] = ours
    if "term" not in found.values() and len(theirs) == 1:
        raise Trouble(f"{source} has one column, and its first line “{columns[0]}” may be a heading or a term", f'write “term” as a line above it; if it is a heading: --column "term={columns[0]}"', 2)
    if "term" not in found.values():
        raise Trouble(f"none of the columns of {source} is clearly the term", f"say which: --column term=…; its columns are {', '.join(filter(None, columns))}", 2)
    return found
