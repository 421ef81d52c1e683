"""How a guest of a formula is led to in a sentence, by its head noun ("with a shallow depth of field"), and where it goes: to its facet's home, before the closing words."""

import tomllib
from collections.abc import Mapping, Sequence, Set
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.draft import plan_phrase
from syntagma.core.english.noun_groups import head_end
from syntagma.core.formula.tree import Formula, Phrase
from syntagma.core.vocabulary.facets import HOMES, Traits


class Join(NamedTuple):
    """What leads to some nouns; the facets whose slots take no others."""

    say: str
    heads: frozenset[tuple[str, ...]]
    facets: frozenset[str]
    also: frozenset[str]  # facets that it leads, too, though their slots take other nouns as well


class Joins:
    """The table of joins (joins.toml)."""

    def __init__(self, text: str):
        tables = tomllib.loads(text).values()
        self.joins = [Join(one["say"], frozenset(tuple(head.split()) for head in " ".join(one["heads"].split()).split("; ")), *(frozenset(one.get(key, ())) for key in ("facets", "also"))) for one in tables]

    def of(self, words: str, facet: str = "") -> Join | None:
        """What leads to a noun group; None if the table has not its head noun, its words lead themselves ("on a quay"), or it leads other facets than the one named."""
        if english.starts_with_preposition(words):
            return None
        group = english.split_determiner(words)[1].lower()
        whole, head = group.split(), group[: head_end(group)].split()
        tails = [tuple(said[-length:]) for said in (whole, head) for length in (3, 2, 1)]  # the longest name is the noun: "depth of field"
        mine = [join for join in self.joins if not (facet and join.facets) or facet in join.facets | join.also]
        return next((join for tail in tails for join in mine if tail in join.heads), None)

    def fits(self, words: str, facet: str) -> bool:
        """May words are in a slot of a facet, behind what a formula writes there?"""
        own = [join for join in self.joins if facet in join.facets]
        return not own or self.of(words) in own


def home_of(formula: Formula, facet: str, traits: Mapping[str, Traits]) -> int:
    """Where in the lines of a formula a guest of a facet goes: after the last phrase whose slots have their home no later; never before what it leads with, nor between
    phrases that hang together, nor behind its closing words."""
    shown = {n: line for n, line in enumerate(formula.lines) if isinstance(line, Phrase) and not line.negative}
    slots = [n for n, line in shown.items() if line.slots]
    if not slots:
        return max(shown) + 1 if shown else len(formula.lines)
    facets = {rule.name: rule.facet for rule in formula.slots}
    order = {name: n for n, name in enumerate(HOMES)}
    home = traits[facet].home if facet in traits else ""
    own = order.get("making" if home == HOMES[0] else home, len(order))  # a kind that does not lead is said late: "…, in the style of cubism"

    def latest(n: int) -> int:
        return max((order.get(traits[facets[slot]].home, 0) for slot in shown[n].slots if facets.get(slot) in traits), default=0)

    leading = order[HOMES[1]] if order[HOMES[1]] < own < len(order) else -1  # a shot size that comes after the light draws no action there
    at = next((n for n in reversed(slots) if leading < latest(n) <= own), slots[0])
    at = max(at, slots[0])
    while (after := next((n for n in shown if n > at), None)) is not None and shown[after].joined:
        at = after
    return at + 1


def not_alone(formula: Formula, at: int, filled: Set[str]) -> int:
    """A guest's place `at` in the lines of a formula, or one before a full stop, where none of the `filled` slots follows that stop: "A fox, in the style of cubism", and no sentence of its own."""
    shown = {n: line for n, line in enumerate(formula.lines) if isinstance(line, Phrase) and not line.negative}
    for n, line in sorted(shown.items(), reverse=True):
        if n >= at:
            continue
        if plan_phrase(line).end == "." and not any(m > n and (not other.slots or not filled.isdisjoint(other.slots)) for m, other in shown.items()):
            at = n
    return at


def with_guests(formula: Formula, guests: Sequence[tuple[int, Phrase]]) -> Formula:
    """The formula with phrases more, each at its place among the lines as they were."""
    lines = list(formula.lines)
    for at, phrase in reversed(sorted(guests, key=lambda one: one[0])):  # those of one place keep their order
        lines.insert(at, phrase)
    return formula._replace(lines=tuple(lines))
