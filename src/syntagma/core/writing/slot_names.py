"""What a person calls a slot: by its name, by its facet, in either spelling."""

from collections.abc import Sequence

from syntagma.core.formula.tree import SlotRule

SPELT = {"color": "colour", "gray": "grey", "colors": "colours"}  # the other spelling → ours


def plain(name: str) -> str:
    """A name as names are written here: small letters, hyphens, British spelling."""
    words = name.strip().lower().replace("_", "-").replace(" ", "-").split("-")
    return "-".join(SPELT.get(word, word) for word in words)


def slot_named(name: str, rules: Sequence[SlotRule]) -> str:
    """The slot that a name means: its own, or the one slot of a facet of that name. The name itself where there is none."""
    names = [rule.name for rule in rules]
    if name in names:
        return name
    ours = plain(name)
    of_facet = [rule.name for rule in rules if rule.facet == ours]
    return ours if ours in names else of_facet[0] if len(of_facet) == 1 else name
