"""What a person calls a slot: by its name, by its facet, in either spelling."""

from collections.abc import Sequence

from syntagma.core.formula.tree import SlotRule

SPELT = {"color": "colour", "gray": "grey", "colors": "colours"}  # the other spelling → ours


SUBJECT = "subject"  # what a person calls the one that a picture is of, whatever the formula calls it
OF_SUBJECT = ("animal", "object", "food", "symbol", "visual-idea", "architecture", "close-detail", "setting")  # the facets of which it may be


def plain(name: str) -> str:
    """A name as names are written here: small letters, hyphens, British spelling."""
    words = name.strip().lower().replace("_", "-").replace(" ", "-").split("-")
    return "-".join(SPELT.get(word, word) for word in words)


def slot_named(name: str, rules: Sequence[SlotRule]) -> str:
    """The slot that a name means: its own, or the one slot of a facet of that name; for the subject, if no slot has it, the first that is needed and that a picture
    can be of: the dish of a food still. The name itself if there is none."""
    names = [rule.name for rule in rules]
    if name in names:
        return name
    ours = plain(name)
    of_facet = [rule.name for rule in rules if rule.facet == ours]
    if ours == SUBJECT and not of_facet:
        of_facet = [rule.name for rule in rules if rule.need and rule.facet in OF_SUBJECT][:1]
    return ours if ours in names else of_facet[0] if len(of_facet) == 1 else name
