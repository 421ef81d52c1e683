"""How well two terms go together, by what they are tagged: sea with sea, night with night, and not
calm with tense.
"""

from functools import lru_cache
from typing import NamedTuple

from syntagma.core.vocabulary.terms import Term, clash

NEVER = float("-inf")

# Tags of which a picture has one: two terms that each have some of a row and none in common stand
# against each other.
_ROWS: tuple[tuple[float, dict[str, str]], ...] = (
    (
        2.5,
        {
            "sea": "sea",
            "offshore": "sea",
            "city": "city",
            "country": "country",
            "nature": "country",
            "studio": "studio",
            "house": "house",
            "public": "public",
        },
    ),
    (
        3.0,
        {"indoors": "in", "studio": "in", "outdoors": "out", "landscape": "out", "offshore": "out"},
    ),
    (2.0, {"summer": "summer", "winter": "winter", "cold": "winter"}),
    (
        3.0,
        {
            "person": "person",
            "animal": "animal",
            "vessel": "vessel",
            "vehicle": "vehicle",
            "building": "building",
        },
    ),
    (3.0, {"alone": "alone", "group": "group"}),
    (
        2.0,
        {
            "print": "print",
            "paint": "paint",
            "drawing": "drawing",
            "digital": "digital",
            "three-d": "three-d",
        },
    ),
    (1.5, {"dry": "dry", "rough": "wet"}),
)
_HOURS = {"dawn": 0, "day": 1, "noon": 1, "dusk": 2, "night": 3}
_NEXT, _FAR = 2.5, 6.0  # hours that follow one another, and hours that do not
_AGAINST = 0.75  # tempers that pull two ways
_ONE_WAY = {
    "calm": "tense bold rough moving",
    "gentle": "bold tense bleak hard rough",
    "playful": "solemn bleak tense",
    "warm": "cold bleak",
    "soft": "hard",
    "muted": "vivid",
    "monochrome": "vivid",
    "still": "moving",
    "historic": "modern",
    "close": "wide landscape long",
}
_OPPOSED: dict[str, set[str]] = {}  # a tag → what pulls the other way
for _one, _others in _ONE_WAY.items():
    for _other in _others.split():
        _OPPOSED.setdefault(_one, set()).add(_other)
        _OPPOSED.setdefault(_other, set()).add(_one)
# What a tag in common is worth: much if it says where or when, nothing where half a facet has it.
_SHARED = {
    **dict.fromkeys(
        (
            "sea",
            "offshore",
            "city",
            "country",
            "studio",
            "nature",
            "dawn",
            "day",
            "noon",
            "dusk",
            "night",
        ),
        1.0,
    ),
    **dict.fromkeys(
        ("person", "animal", "vessel", "vehicle", "building", "food", "summer", "winter"), 1.5
    ),
    **dict.fromkeys(("film", "optics", "outdoors", "film-look"), 0.0),
    **dict.fromkeys(
        ("portrait", "product", "documentary", "fashion", "aerial", "surface", "table", "wall"),
        0.25,
    ),
    **dict.fromkeys(
        (
            "calm",
            "tense",
            "warm",
            "bold",
            "bleak",
            "gentle",
            "playful",
            "solemn",
            "still",
            "moving",
        ),
        0.5,
    ),
    **dict.fromkeys(
        (
            "soft",
            "hard",
            "muted",
            "vivid",
            "wide",
            "long",
            "close",
            "historic",
            "modern",
            "indoors",
        ),
        0.5,
    ),
}


class _Stand(NamedTuple):
    """Where the tags of a term stand: all of them, its place in each row that it has one in (by the
    row's number), its hours, those that something pulls against.
    """

    tags: frozenset[str]
    rows: tuple[tuple[int, frozenset[str]], ...]
    hours: frozenset[int]
    opposed: tuple[str, ...]


@lru_cache(maxsize=1 << 14)
def _stand(tags: tuple[str, ...]) -> _Stand:
    rows = tuple(
        (i, frozenset(row[t] for t in tags if t in row)) for i, (_, row) in enumerate(_ROWS)
    )
    hours = frozenset(_HOURS[t] for t in tags if t in _HOURS)
    return _Stand(
        frozenset(tags),
        tuple(one for one in rows if one[1]),
        hours,
        tuple(t for t in tags if t in _OPPOSED),
    )


@lru_cache(maxsize=1 << 18)
def suits(a: Term, b: Term) -> float:
    """How well `a` and `b` go together: above 0 what they share, below 0 what separates them, NEVER
    where they contradict each other. It is the same both ways.
    """
    if clash(a, b):
        return NEVER
    ours, theirs = _stand(a.tags), _stand(b.tags)
    score = sum([_SHARED.get(tag, 1.0) for tag in ours.tags & theirs.tags])
    there = dict(theirs.rows)
    for i, here in ours.rows:
        if i in there and here.isdisjoint(there[i]):
            score -= _ROWS[i][0]
    score -= _hours_apart(ours.hours, theirs.hours)
    if ours.opposed and theirs.opposed:
        score -= _AGAINST * sum(
            [
                len(_OPPOSED[tag] & (theirs.tags - ours.tags))
                for tag in ours.opposed
                if tag not in theirs.tags
            ]
        )
    return score


def _hours_apart(here: frozenset[int], there: frozenset[int]) -> float:
    """What separates two hours: nothing where they share one or either has none, little where one
    follows the other.
    """
    if not here or not there or here & there:
        return 0.0
    return _NEXT if any((a - b) % 4 in (1, 3) for a in here for b in there) else _FAR
