"""Nouns of people, and the endings by which they are known."""

from syntagma.core.notation.late_regex import regex

PEOPLE = frozenset(
    """man woman boy girl child kid baby person lady gentleman guy friend mother father sister brother daughter son aunt
    uncle grandmother grandfather grandma grandpa queen king prince princess chef nurse clerk cook captain pilot monk nun
    priest soldier guard girlhood toddler teenager pensioner bride groom couple family crew crowd team host hostess
    waitress actress stewardess athlete acrobat clown magician mechanic musician physician librarian astronaut diplomat
    wife husband widow widower neighbour neighbor colleague stranger mum mom dad grandad granny gran cousin niece nephew
    mayor landlord landlady warden mate vicar lawyer butler bridesmaid wizard witch boss
    apprentice sailor tailor doctor author conductor inspector editor translator""".split()
)
_TRADE = regex(
    r"(?:maker|keeper|worker|driver|seller|player|singer|dancer|painter|writer|baker|teacher|farmer|fisher"
    r"|hunter|rider|runner|swimmer|walker|climber|ist|smith|monger|wright|man|woman|men|women|boy|girl|children|people)$"
)
_NOT_PERSONS = frozenset("mist twist list wrist fist moist waist human talisman caiman".split())

# Ends of words for several that do something (animals among them).
SEVERAL_ENDINGS = ("ers", "men", "children", "people", "girls", "boys", "ists", "couples", "friends", "birds", "dogs", "horses")


def is_person(noun: str) -> bool:
    """Does a noun in small letters speak of a person, by what it is or by how it ends?"""
    return noun not in _NOT_PERSONS and (noun in PEOPLE or bool(_TRADE.search(noun)))
