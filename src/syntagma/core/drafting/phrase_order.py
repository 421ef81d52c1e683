"""A formula's phrases in the order in which one model wants them: what it can't make left out,
fixed words where they stand.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from syntagma.core.drafting.sound import sound_of
from syntagma.core.formula.tree import Formula, Phrase, part_of
from syntagma.core.models.profile import Profile

if TYPE_CHECKING:
    from syntagma.core.formula.tree import SlotRule

FREE_ORDER = (
    "tags",
    "labelled",
    "nested",
)  # registers in which a phrase reads as well in another place


def arranged(
    formula: Formula, profile: Profile, forward: bool = False
) -> tuple[tuple[Phrase, ...], tuple[Phrase, ...]]:
    """(The phrases as they are on this model, those left out since it makes no sound). `forward`
    brings what must stay to the front, where the formula allows it.
    """
    rules = {rule.name: rule for rule in formula.slots}
    silent = tuple(p for p in formula.phrases if profile.silent and sound_of(p, rules))
    phrases = [p for p in formula.phrases if p not in silent]
    if profile.text.fixed == "goes":
        phrases = [p for p in phrases if p.slots] or phrases
    units = _units(phrases)
    if profile.text.fixed == "last":
        units.sort(key=lambda unit: all(not p.slots for p in unit))
    if profile.text.order and not any(
        part_of(p.label) for p in phrases
    ):  # parts of a clip keep their order
        names = {name: i for i, name in enumerate(profile.text.order)}
        units.sort(
            key=lambda unit: min(
                (rank for p in unit for rank in _ranks(p, rules, names)), default=len(names)
            )
        )
    if forward:
        units = _forward(
            units, formula.head.forward if profile.register not in FREE_ORDER else None
        )
    return tuple(p for unit in units for p in unit), silent


def _units(phrases: Sequence[Phrase]) -> list[list[Phrase]]:
    """Phrases with those that are joined to them: they move together."""
    units: list[list[Phrase]] = []
    for phrase in phrases:
        if units and phrase.joined:
            units[-1].append(phrase)
        else:
            units.append([phrase])
    return units


def _ranks(phrase: Phrase, rules: Mapping[str, SlotRule], names: dict[str, int]) -> list[int]:
    """The ranks that an order gives a phrase: by its label, by the first part of it, by the facet
    of its first head.
    """
    heads = [rules[group.head].facet for group in phrase.groups()]
    known = [phrase.label, phrase.label.partition(".")[0], *heads[:1]]
    return [names[name] for name in known if name in names]


def _forward(units: list[list[Phrase]], labels: Sequence[str] | None) -> list[list[Phrase]]:
    """What must stay (!) after the first unit, the rest after it; `labels` are those that may move,
    None being all.
    """
    may = [
        unit
        for unit in units[1:]
        if any(p.mark == "!" for p in unit) and (labels is None or unit[0].label in labels)
    ]
    return [*units[:1], *may, *(unit for unit in units[1:] if unit not in may)]
