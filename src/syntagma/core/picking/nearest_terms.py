"""What free text represents: the term that it is nearest to in kind, so picks suit it as they would suit the term."""

from syntagma.core.english import is_plural, plural, split_determiner
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.people import is_person
from syntagma.core.vocabulary.terms import Facet, Term, normal


def stands_for(text: str, facet: Facet, but: Term | None = None) -> Term | None:
    """The term of `facet` that free text is most like: one that says its last noun ("cream-and-green car ferry" is like
    "double-ended car ferry"), and of people another word too, or no more than that noun (a data scientist is not a polar scientist), other than `but`; else a nameless one of its kind, where the words tell a person; else None."""
    group = split_determiner(text)[1]
    words = normal(group[: head_end(group)]).split()
    if not words:
        return None
    noun, said = words[-1], set(words)
    singular = [name for name in facet.by_noun if name[0] == noun[0] and plural(name) == noun] if is_plural(noun) else []
    named = [pair for name in dict.fromkeys((noun, *singular)) for pair in facet.by_noun.get(name, ()) if pair[1] is not but]
    person = is_person(noun)  # whose trade every word of theirs may change
    close = [(len(said & spelled), term) for spelled, term in named if not person or len(spelled) == 1 or len(said) == 1 or len(said & spelled) > 1]
    best = max(close, key=lambda pair: pair[0], default=(0, None))[1]
    if best is None and person:
        return Term(facet.name, noun, tags=("person", "alone"))
    return best
