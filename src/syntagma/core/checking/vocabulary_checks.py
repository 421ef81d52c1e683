"""Checks of a vocabulary by itself: what a term is a case of, names that are there twice, glosses that say nothing."""

import re
from collections.abc import Iterator, Mapping

from syntagma.core.diagnostics.findings import WARNING, Finding
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.vocabulary.terms import Facet, Term, dimension, folded, normal, split_list

_SMALL = frozenset("a an the of in on at with that which who is are it this these some very".split())


def check_terms(facet: Facet) -> Iterator[tuple[str, Finding]]:
    """What is wrong with the terms of a facet: each term, and the finding."""
    names: dict[str, Term] = {}
    for term in facet:
        yield from ((term.term, finding) for finding in _of_term(facet, term))
        for name in (term.term, *term.aka):
            other = names.setdefault(normal(name), term)
            if other is not term:
                yield term.term, Finding(WARNING, f"“{name}” is also a name of “{other.term}”", "leave it with one of them, so that a search finds the right one", facet.name, code="two-terms-of-a-name")


def _of_term(facet: Facet, term: Term) -> Iterator[Finding]:
    if term.broader:
        wider = facet.get(term.broader)
        if wider is None:
            yield Finding(WARNING, f"its broader term “{term.broader}” does not exist", perhaps(term.broader, [one.term for one in facet], "name a term of the same facet in the column broader"), facet.name, code="no-broader-term")
        elif term in (wider, *facet.above(wider)):
            yield Finding(WARNING, f"it is broader than “{term.broader}”, which is broader than it", "leave the column broader blank for one of them", facet.name, code="broader-in-a-ring")
        else:
            for name, own, theirs in _against(_claims(term.world), _claims(wider.world)):
                yield Finding(WARNING, f"it assumes {name}: {own}, but its broader term “{wider.term}” assumes {theirs}", "change one of the two, or its broader term", facet.name, code="world-against-broader")
    if term.gloss and not set(folded(re.sub(r"[^\w\s-]", " ", term.gloss))) - set(folded(term.term)) - _SMALL:
        yield Finding(WARNING, f"its gloss repeats its name: {term.gloss}", "describe what it does to a picture", facet.name, code="gloss-says-nothing")


def _claims(world: str) -> Mapping[str, str]:
    """What a world says of each dimension."""
    return {dimension(part): part.partition(":")[2].strip() for part in split_list(world)}


def _against(own: Mapping[str, str], wider: Mapping[str, str]) -> Iterator[tuple[str, str, str]]:
    """The dimensions in which nothing that one takes is taken by the other."""
    for name in own.keys() & wider.keys():
        mine, theirs = set(own[name].split()), set(wider[name].split())
        if "not" not in mine | theirs and not mine & theirs:
            yield name, own[name], wider[name]
