"""What free text stands for: the term that it is nearest to in kind, so that picks suit it as they would suit the term."""

import re

from syntagma.core.english import plural, split_determiner
from syntagma.core.english.noun_groups import head_end
from syntagma.core.vocabulary.terms import Facet, Term, normal

_PEOPLE = frozenset(
    """man woman boy girl child kid baby person lady gentleman guy friend mother father sister brother daughter son aunt
    uncle grandmother grandfather grandma grandpa queen king prince princess chef nurse clerk cook captain pilot monk nun
    priest soldier guard girlhood toddler teenager pensioner bride groom couple family crew crowd team host hostess
    waitress actress stewardess athlete acrobat clown magician mechanic musician physician librarian astronaut diplomat
    apprentice sailor tailor doctor author conductor inspector editor translator""".split()
)
_PERSON_ENDING = re.compile(
    r"(?:maker|keeper|worker|driver|seller|player|singer|dancer|painter|writer|baker|teacher|farmer|fisher"
    r"|hunter|rider|runner|swimmer|walker|climber|ist|smith|monger|wright|man|woman|men|women|boy|girl)$"
)
_NOT_PERSONS = frozenset("mist twist list wrist fist moist waist human talisman caiman".split())


def stands_for(text: str, facet: Facet) -> Term | None:
    """The term of `facet` that free text is most like: one that says its last noun ("cream-and-green car ferry" is like
    "double-ended car ferry"); else a nameless one of its kind, where the words tell a person; else None."""
    group = split_determiner(text)[1]
    words = normal(group[: head_end(group)]).split()
    if not words:
        return None
    noun = words[-1]
    best, most = None, 0
    for term in facet:
        for name in (term.term, *term.aka):
            spelled = normal(name).split()
            likeness = 1 + len(set(words) & set(spelled))
            if noun in (spelled[-1], plural(spelled[-1])) and likeness > most:
                best, most = term, likeness
    if best is None and noun not in _NOT_PERSONS and (noun in _PEOPLE or _PERSON_ENDING.search(noun)):
        return Term(facet.name, noun, tags=("person", "alone"))
    return best
