"""What free text stands for: the term that it is nearest to in kind, so that picks suit it as they would suit the term."""

from syntagma.core.english import plural, split_determiner
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.people import is_person
from syntagma.core.vocabulary.terms import Facet, Term, normal


def stands_for(text: str, facet: Facet, but: Term | None = None) -> Term | None:
    """The term of `facet` that free text is most like: one that says its last noun ("cream-and-green car ferry" is like
    "double-ended car ferry"), other than `but`; else a nameless one of its kind, where the words tell a person; else None."""
    group = split_determiner(text)[1]
    words = normal(group[: head_end(group)]).split()
    if not words:
        return None
    noun = words[-1]
    best, most = None, 0
    for term in facet:
        if term is but:
            continue
        for name in (term.term, *term.aka):
            spelled = normal(name).split()
            likeness = 1 + len(set(words) & set(spelled))
            if noun in (spelled[-1], plural(spelled[-1])) and likeness > most:
                best, most = term, likeness
    if best is None and is_person(noun):
        return Term(facet.name, noun, tags=("person", "alone"))
    return best
