"""What kind of being somebody given is, for the situations that are anybody's: "#person",
"#vehicle".
"""

from collections.abc import Collection, Iterator

from syntagma.core import english
from syntagma.core.drafting.fills import Fill, Item, is_someone
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import is_person
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.scene import stands_for
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal

ANYBODY = "#"  # with which a situation's lead begins that is any being of a kind
_BEING = regex(r"\bbeing!?: *(?!not )([\w-]+)")
_WATER = regex(r"\bwhere!?: *(?:on|under)-water")
_CALLED = regex(r" (?:called|named) ")
_NOUNS = {  # what the vocabulary has no being for
    "group": frozenset(
        "army audience band battalion brigade choir chorus class committee congregation couple crew"
        " crowd ensemble family gang group mob orchestra parade platoon posse procession quartet"
        " quintet regiment squad team trio troupe".split()
    ),
    "aircraft": frozenset(
        "aeroplane airplane aircraft airliner airship balloon biplane blimp drone glider helicopter"
        " jet paraglider plane rocket seaplane spacecraft spaceship starship".split()
    ),
    "baby": frozenset("baby infant newborn".split()),
    "train": frozenset("locomotive railcar subway train tram tramcar underground".split()),
    "insect": frozenset("cicada cricket glow-worm glowworm mantis midge mosquito wasp".split()),
    "vessel": frozenset("submarine hovercraft lifeboat".split()),
    "building": frozenset(
        "barn bungalow cabin castle chalet chapel church cottage farmhouse hotel house hut inn"
        " lighthouse mansion mill palace school shed station temple tower villa windmill".split()
    ),
}
_NAMED_IN = ("subject", "animal", "object", "food")  # facets whose terms are beings, by their nouns
_AS = {"child": "person", "food": "thing"}  # kinds that share the situations of another
_SEVERAL = {
    "person": "group",
    "group": "group",
    "animal": "animals",
    "bird": "birds",
}  # what several of a kind are; several of others have no situation
_OF_MANY = regex(
    r"\b(?:brood|bunch|circle|class|colony|couple|crew|crowd|flock|gaggle|gang|group|herd|litter|mob|murmuration|pack|pair|pod|pride|queue|row|skein|string|swarm|team|troop)"
    r" of (?:[\w'-]+ )*?([\w'-]+)$"
)  # of what there are several
_AND = regex(r" and (?:an?|the|his|her|its|their|my|your) ")  # which joins two
_AT = regex(
    r"\w ((?:on|at|under|inside|behind|beside|near|above|below)"
    r" (?:a|an|the|my|your|his|her|its|their)\b.*)"
)  # where somebody is
_DOING = regex(r",? (?!wearing\b|including\b|being\b)\w{2,}ing\b")
_IN = regex(r"\w (in (?:an?|the) (.+))")  # where somebody is, or what they wear
_NO_PLACES = frozenset(
    "hurry rush mood rage panic trance daze way style row line circle group pair shirt tie dress"
    " suit uniform costume veil mask".split()
)
_FIRST = (
    "aircraft",
    "baby",
    "train",
    "vessel",
)  # nouns that tell more than the vocabulary's being does
_TAGGED = ("group", "person", "bird", "vehicle")  # tags that tell a being


_BEINGS = {
    "aircraft": "vehicle",
    "baby": "child",
    "train": "vehicle",
    "animals": "animal",
    "birds": "bird",
}  # kinds that are no value of the world → the one that they are


def being_of(kind: str) -> str:
    """What a kind takes for granted: "being: vehicle" for "#train"."""
    kind = kind.removeprefix(ANYBODY)
    return f"being: {_BEINGS.get(kind, kind)}"


def kind_of(fill: Fill, vocabulary: Vocabulary) -> str:
    """ "#person", "#animal" …, as a fill's one item is; blank where nothing tells, or it is several
    of what has no word for that.
    """
    if len(fill.items) != 1:
        return ""
    item = fill.items[0]
    kind = next(_kinds(item, vocabulary), "")
    kind = _AS.get(kind, kind)
    if _several(item):
        kind = _SEVERAL.get(kind, "")
    return ANYBODY + kind if kind else ""


def at_home(fill: Fill, facet: str, vocabulary: Vocabulary, places: Collection[str] = ()) -> bool:
    """Does the vocabulary know where somebody is at home, by its term or the one that its words are
    most like: a baker in a bakery? Where they are elsewhere, in one of `places` (in normal form),
    they are not.
    """
    homes = {
        normal(name)
        for item in fill.items
        if (term := known(item, facet, vocabulary))
        for name in term.at
    }
    return bool(homes) and (not places or not homes.isdisjoint(places))


def known(item: Item, facet: str, vocabulary: Vocabulary) -> Term | None:
    """The term of a facet that somebody is: by its words, with an article or without, or the one
    that they are most like.
    """
    if item.term or facet not in vocabulary or _OF_MANY.search(_bare(item)):
        return item.term
    bare = _bare(item)
    return vocabulary[facet].get(bare) or (
        None if _named(bare, vocabulary) else stands_for(item.words, vocabulary[facet])
    )


def names(fill: Fill, facet: str, vocabulary: Vocabulary) -> frozenset[str]:
    """All that one item is called, in normal form: its words, those of its term, and of the cases
    of that: a baker may be the night-shift baker. Nothing for several.
    """
    if len(fill.items) != 1:
        return frozenset()
    item = fill.items[0]
    term = known(item, facet, vocabulary) or _named(_bare(item), vocabulary)
    cases = (
        [term, *vocabulary[term.facet].below(term)]
        if not _several(item) and term and term.facet in vocabulary
        else []
    )
    return frozenset(
        normal(text)
        for text in (item.words, item.place, _bare(item), *(one.term for one in cases))
        if text
    )


def stranger(fill: Fill, facet: str, vocabulary: Vocabulary) -> bool:
    """Does nothing tell what somebody is, so nobody can say what they would do?"""
    return (
        any(item.term is None for item in fill.items)
        and len(fill.items) == 1
        and not kind_of(fill, vocabulary)
        and not at_home(fill, facet, vocabulary)
    )


def own_place(fill: Fill, vocabulary: Vocabulary) -> str:
    """Where the words of somebody say that they are: "in a bowl" of a goldfish, "on a hill" of a
    castle; blank where they don't, or tell what they wear.
    """
    for item in fill.items:
        if item.term is None and (at := _AT.search(item.words)):
            return at[1]
        if (
            item.term is None
            and (within := _IN.search(item.words))
            and not _worn(within[2], vocabulary)
        ):
            return within[1]
    return ""


def own_deed(fill: Fill) -> bool:
    """Do the words of somebody say what they do: "an old sailor finding a letter"?"""
    return any(
        _DOING.match(item.words, head_end(item.words)) for item in fill.items if item.term is None
    )


def _worn(words: str, vocabulary: Vocabulary) -> bool:
    """Are words clothes, a mood or a hurry, and no place?"""
    noun = words[: head_end(words)].split()[-1:]
    return "wardrobe" in vocabulary and any(
        word.lower() in vocabulary["wardrobe"].by_noun or word.lower() in _NO_PLACES
        for word in noun
    )


def _several(item: Item) -> bool:
    return item.number == "many" or bool(_OF_MANY.search(_bare(item)) or _AND.search(item.words))


def _bare(item: Item) -> str:
    return english.split_determiner(item.words)[1].lower()


def _kinds(item: Item, vocabulary: Vocabulary) -> Iterator[str]:
    """The kinds that its term, its being somebody, or its noun tell, the surest first."""
    last = _bare(item).split(" ")[-1]
    yield from (kind for kind in _FIRST if last in _NOUNS[kind])
    if last.endswith("fly"):
        yield "insect"
    if item.term:
        yield from _of_term(item.term, vocabulary)
    elif item.number == "name" and not english.split_determiner(item.words)[0]:
        yield "person"  # Mara Quill is not a quill
    words = _CALLED.split(english.split_determiner(item.words)[1])[0]
    if of := _OF_MANY.search(words):
        words = of[1]
    head = words[: head_end(words)].split()
    for length in range(len(head), 0, -1):
        name = " ".join(head[-length:]).lower()
        if term := _named(name, vocabulary) or _named(name.removesuffix("s"), vocabulary):
            yield from _of_term(term, vocabulary)
    yield from (kind for kind, nouns in _NOUNS.items() if head[-1:] and head[-1].lower() in nouns)
    if is_someone(item) or any(
        is_person(one)
        for word in (*head[-1:], *(head[:-1] if head[-1:] and head[-1][:1].isupper() else ()))
        for one in _singulars(word)
    ):
        yield "person"  # "my aunt Vera" as well


def _singulars(word: str) -> tuple[str, ...]:
    """A word in small letters, and what it may be the plural of: thieves, thief; spies, spy."""
    word = word.lower()
    ends = (("ves", "f"), ("ies", "y"), ("men", "man"), ("es", ""), ("s", ""))
    return (word, *(word.removesuffix(many) + one for many, one in ends if word.endswith(many)))


def _named(name: str, vocabulary: Vocabulary) -> Term | None:
    """The being of that name: "hippo" as "hippopotamus", too."""
    for facet in (vocabulary[one] for one in _NAMED_IN if one in vocabulary):
        if term := facet.get(name):
            return term
        for other, _ in facet.index.get(name, ()):
            if (term := facet.get(other)) and normal(name) in map(normal, term.aka):
                return term
    return None


def _of_term(term: Term, vocabulary: Vocabulary) -> Iterator[str]:
    """The being that a term says, or the broader one that it is a case of; a beast of the water is
    with the fish.
    """
    seen: set[str] = set()
    one: Term | None = term
    while one and one.term not in seen:
        seen.add(one.term)
        if found := _BEING.search(one.world):
            yield (
                "fish"
                if found[1] == "animal" and _WATER.search(one.world)
                else "group"
                if "group" in one.tags and found[1] == "person"
                else found[1]
            )
            return
        if tagged := next((tag for tag in _TAGGED if tag in one.tags), ""):
            yield tagged
            return
        one = _named(one.broader, vocabulary) if one.broader else None
