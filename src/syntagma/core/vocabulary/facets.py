"""What facets are like: traits that are data (facets.toml), so a facet of a person's own has them
too.
"""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Set
from typing import Any, NamedTuple

from syntagma.core.diagnostics import Refused, perhaps
from syntagma.core.notation.toml import TomlFile

# Where a good writer says what: the standing order of a picture, then of what moves and sounds.
HOMES = (
    "kind",
    "shot",
    "subject",
    "action",
    "setting",
    "weather",
    "light",
    "colour",
    "camera",
    "composition",
    "mood",
    "making",
    "lettering",
    "effect",
    "sound",
)


class Traits(NamedTuple):
    """The traits of one facet. `noun` completes a bare term if it is alone; `holds` are words that
    say as much.
    """

    noun: str = ""
    holds: tuple[str, ...] = ()
    participant: bool = False  # its terms are what a picture is of
    kin: tuple[str, ...] = ()  # facets whose words people use for its own
    ask: str = ""  # what a form asks
    home: str = ""  # one of HOMES: where a guest of it is in a formula that has no slot for it
    labels: tuple[str, ...] = ()  # what people write before it, and what a key of JSON calls it
    lead: str = (
        ""  # how prose leads to a part of it whose words do not say so themselves: "lit by [a {}]"
    )
    weight: float = 0.36  # how much a part of it carries where a prompt has to be shorter, 0 to 1
    colour: str = ""  # where a prompt is shown with its parts
    groups: tuple[str, ...] = ()  # what else it is like: the keys of GROUPS
    said: (
        str
        # how a guest of it is led to where no table of joins has its noun: "in the style of [{}]"
    ) = ""
    stuff: bool = (
        False  # only stuff wants it (oiled oak), and no thing of free text does (a slate table)
    )

    def completed(self, bare: str, fuller: str = "") -> str:
        """A bare term with the noun that it wants if it is alone: by itself, in its fuller form, or
        after it.
        """
        if not self.noun or self.says(bare, self.noun):
            return bare
        return fuller if fuller and self.says(fuller, self.noun) else f"{bare} {self.noun}"

    def says(self, words: str, noun: str) -> bool:
        """Do words say a noun, or one of those that say as much?"""
        return any(
            re.search(rf"\b{re.escape(word)}\b", words, re.I) for word in (noun, *self.holds)
        )


GROUPS = {  # a group, and what is said of a facet by it
    "does-deeds": "a finite verb after it makes a deed of it",
    "moves-by-itself": "what these do is not a deed: fog rolls over the bank",
    "wide-label": "words under its label may be of any facet",
    "shown": "a sentence with it shows something",
    "who": "who or what a scene is of",
    "drawn": 'what "a drawing of" leads to',
    "core": "what a wish is of, or what that does",
    "kind": "says what kind of picture it is",
    "before-core": "may come before what a wish is of",
    "beside-core": "is said of that right after it",
    "placed": "comes with its preposition: in the harbour",
    "quality": "a quality by itself fills it: slowly, oiled",
    "deed": "a deed by itself fills it: running",
    "described": "its nouns say too little without what describes them",
    "tailed": "loses what follows its noun before it goes itself",
    "of-situations": "what a situation for any formula has to give",
    "told-by-light": "the light of a situation tells it, so it stays open",
    "coloured": "stays open where a situation names a colour",
    "unknown-lead": "nobody picks it for one of whom nothing is known",
    "invented": "a campaign leaves it blank rather than invent it",
    "said-with-preposition": "a sentence says it with a preposition",
    "makes-idea": "makes a subject an idea: what it does, and where",
    "of-somebody": "somebody whom the vocabulary knows brings it along",
    "once-a-scene": "is picked once for a scene of a film",
    "kept-apart": "training and test share no terms of it",
    "may-be-subject": "what a person calls the subject may be of it",
    "called-by-nouns": "its other names are nouns that take an article",
}
COLOURS = ("green", "blue", "violet", "teal", "ochre", "crimson")
PLAIN = Traits()


# ──── The facets that apply here, for whoever has no vocabulary at hand


class _Facets:
    """The traits of all facets: `load` gives them when they are first asked for."""

    def __init__(self) -> None:
        self.load: Callable[[], Mapping[str, Traits]] = dict
        self.clear()

    def clear(self) -> None:
        self._traits: Mapping[str, Traits] | None = None
        self.groups: dict[str, frozenset[str]] = {}
        self._labels: dict[str, str] = {}

    @property
    def traits(self) -> Mapping[str, Traits]:
        if self._traits is None:
            self._traits = self.load()
            self._labels = {
                label: facet for facet, traits in self._traits.items() for label in traits.labels
            }
        return self._traits

    def labelled(self, name: str) -> str:
        return self._labels.get(name, "") if self.traits else ""


_known = _Facets()


def use(load: Callable[[], Mapping[str, Traits]]) -> None:
    """The facets that apply from now on; `load` is called when they are first needed."""
    _known.load = load
    _known.clear()


def traits_of(facet: str) -> Traits:
    """The traits of a facet; those of a plain one for a name that is no facet."""
    return _known.traits.get(facet, PLAIN)


def facet_of_label(name: str) -> str:
    """What a label or a key in small letters says of the text under it, one or several; "" if it
    says nothing.
    """
    return _known.labelled(name) or _known.labelled(name.removesuffix("s"))


class FacetGroup:
    """The facets of one group of GROUPS, whichever apply when it is asked."""

    def __init__(self, name: str):
        if name not in GROUPS:
            raise KeyError(name)
        self.name = name

    def _facets(self) -> frozenset[str]:
        if self.name not in _known.groups:
            _known.groups[self.name] = frozenset(
                facet for facet, traits in _known.traits.items() if self.name in traits.groups
            )
        return _known.groups[self.name]

    def __contains__(self, facet: object) -> bool:
        return facet in self._facets()

    def __iter__(self) -> Iterator[str]:
        return iter(sorted(self._facets()))

    def __rand__(self, others: Set[str]) -> frozenset[str]:
        return self._facets() & others

    __and__ = __rand__


_KINDS = {
    "noun": str, "holds": list, "participant": bool, "kin": list, "ask": str, "home": str,
    "said": str, "labels": list, "lead": str, "weight": float, "colour": str, "groups": list,
}  # fmt: skip


def read_facets(text: str, source: str, below: Mapping[str, Traits] = {}) -> dict[str, Traits]:
    """Read facets.toml: a table for each facet, over the traits that it has in the layers `below`.
    Raises Refused with all its mistakes.
    """
    file = TomlFile(text, source)
    found: dict[str, Traits] = {}
    for facet, table in file.values().items():
        if not isinstance(table, dict):
            what, how = "is a table of traits", "on its own line, with its keys below"
            file.wrong(facet, f"“{facet}” {what}", f"write [{facet}] {how}")
            continue
        given: dict[str, Any] = {
            key: tuple(map(str, value)) if isinstance(value, list) else value
            for key, value in file.good(table, _KINDS, "a facet", facet).items()
        }
        found[facet] = below.get(facet, PLAIN)._replace(**given)
        for key, message, remedy in _wrong(given):
            file.wrong(f"{facet}.{key}", message, remedy)
    if file.mistakes:
        raise Refused(file.mistakes)
    return found


def _wrong(given: Mapping[str, Any]) -> Iterator[tuple[str, str, str]]:
    """(key, message, remedy) of every trait that can't be."""
    for key, like in (("said", "with [a {}]"), ("lead", "lit by [a {}]")):
        if key in given and given[key].count("{}") != 1:
            message = f"“{given[key]}” does not show where the words go"
            yield key, message, f'write {{}} once, in the notation of formulas: "{like}"'
    if (home := given.get("home", "")) and home not in HOMES:
        yield "home", f"“{home}” is not a home", f"homes are {', '.join(HOMES)}"
    several: Iterable[tuple[str, Iterable[str], Iterable[str]]] = (
        ("groups", GROUPS, given.get("groups", ())),
        ("colour", COLOURS, filter(None, [given.get("colour", "")])),
    )
    for key, known, names in several:
        for name in names:
            if name not in known:
                remedy = perhaps(name, known, f"write {', '.join(known)}")
                yield key, f"“{name}” can't be in {key}", remedy
    if not 0 <= given.get("weight", 0) <= 1:
        message = f"a weight of {given['weight']:g} is outside 0 to 1"
        yield "weight", message, "write a number from 0 to 1"
