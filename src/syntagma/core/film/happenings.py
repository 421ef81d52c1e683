"""What the words of a shot say happens, and what they say things are: who does what with which
thing, in which hand, going where. Only what the tables of data/continuity.toml know is read; of
all else nothing is said.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from importlib.resources import files
from typing import Any, NamedTuple

from syntagma.core.english.verbs import NOUNY, VERBS, base_of, in_third, third
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS
from syntagma.core.notation.toml import read_toml

_WORD = re.compile(r"[\w][\w’'-]*|[^\w\s]")
_STOPS = frozenset(".,;:!?()–—|")
_DEFINITE = frozenset("the his her their its this that".split())
_SMALL = frozenset(
    "and then but or as while who which that is are was were has have stands lies hangs".split()
)
REACH = 4  # words before a noun that may describe it


class ToldDeed(NamedTuple):
    """Somebody does something: `who` by name in small letters, `kind` a key of [verbs], `verb` its
    base form, `thing` what it is done to (the noun), `to` a person.
    """

    who: str
    kind: str
    verb: str
    thing: str = ""
    to: str = ""


class ToldThing(NamedTuple):
    """A noun with what is said of it: "the empty flask" is flask, {empty}, definite. `owner` is the
    person whose it is, by name in small letters; `hand` the hand that it is in.
    """

    noun: str
    words: tuple[str, ...]
    definite: bool = False
    owner: str = ""
    hand: str = ""


class ContinuityWords:
    """The tables of data/continuity.toml, each looked up by a word."""

    def __init__(self, tables: Mapping[str, Any]):
        self.tables = tables

    @cached_property
    def kinds(self) -> dict[str, dict[str, str]]:
        """Verb → particle → kind; without a particle ""."""
        found: dict[str, dict[str, str]] = {}
        for kind, verbs in self.tables["verbs"].items():
            for verb in verbs:
                base, _, particle = verb.partition(" ")
                found.setdefault(base, {}).setdefault(particle, kind)
        return found

    @cached_property
    def thirds(self) -> dict[str, str]:
        """The third person of each verb of the tables → its base form."""
        return {third(base): base for base in self.kinds}

    def base(self, word: str) -> str:
        """The base form of a verb; a word that is none as it is."""
        return self.thirds.get(word) or base_of(word)

    def _classes(self, table: str) -> dict[str, str]:
        return {
            word: name
            for name, words in self.tables[table].items()
            if isinstance(words, str)
            for word in words.split()
        }

    @cached_property
    def clothes(self) -> dict[str, str]:
        return self._classes("clothes")

    @cached_property
    def hair(self) -> dict[str, str]:
        return self._classes("hair")

    @cached_property
    def colours(self) -> dict[str, str]:
        return self._classes("colours")

    @cached_property
    def weather(self) -> dict[str, str]:
        return self._classes("weather")

    @cached_property
    def light(self) -> dict[str, str]:
        return self._classes("light")

    @cached_property
    def by_colour(self) -> frozenset[str]:
        return frozenset(self.tables["known-by-colour"]["words"].split())

    @cached_property
    def nouns(self) -> frozenset[str]:
        """The nouns of the tables, behind which a word with -s is a verb."""
        return self.by_colour | self.clothes.keys() | self.hair.keys()

    @cached_property
    def contrary(self) -> dict[str, set[str]]:
        """Kind of a verb → what a thing can't be called after it."""
        return {kind: set(state["not"]) for kind, state in self.tables["states"].items()}

    @cached_property
    def told_states(self) -> frozenset[str]:
        """Every word that says what state a thing is in."""
        states = self.tables["states"].values()
        return frozenset(word for state in states for word in (*state["is"], *state["not"]))

    def age(self, words: Sequence[str]) -> tuple[int, int] | None:
        """The years that words give somebody: "a girl of nine", "in her sixties", "an old man"."""
        small = [word.lower() for word in words]
        for i, word in enumerate(small):
            if word in _TENS and i and small[i - 1] in ("her", "his", "their"):
                return _TENS[word], _TENS[word] + 9
            years = _NUMBERS.get(word) or (int(word) if word.isdigit() and len(word) < 3 else 0)
            if years and i and small[i - 1] in ("of", "aged", "about"):
                return years, years
        for word in small:
            if word in self.tables["ages"]:
                low, high = self.tables["ages"][word]
                return low, high
        return None

    def colour(self, words: Sequence[str]) -> set[str]:
        """The colours among words, each by its family."""
        found = {self.colours[word] for word in words if word in self.colours}
        return {"black", "brown"} if found == {"dark"} else found - {"dark"}


_NUMBERS = {
    word: number
    for number, word in enumerate(
        "one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen"
        " sixteen seventeen eighteen nineteen twenty".split(),
        1,
    )
} | {"thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80}
_TENS = {
    "teens": 13,
    "twenties": 20,
    "thirties": 30,
    "forties": 40,
    "fifties": 50,
    "sixties": 60,
    "seventies": 70,
    "eighties": 80,
    "nineties": 90,
}
WORDS = ContinuityWords(
    read_toml(files("syntagma.data").joinpath("continuity.toml").read_text("utf-8"))
)


class Happening(NamedTuple):
    """What a clause says: the people named in it, those it is about, the noun groups, the deeds."""

    named: tuple[str, ...]
    doers: tuple[str, ...]
    groups: tuple[ToldThing, ...]
    deeds: tuple[ToldDeed, ...]
    text: str


def happenings(text: str, people: Sequence[str], who: Sequence[str] = ()) -> list[Happening]:
    """Read a text clause by clause. `people` are names; `who` are those in the picture: the first
    is whom he, she and a deed without a doer mean until somebody is named.
    """
    reader = _Reader(people, [name.lower() for name in who])
    return [reader.clause(words) for words in _clauses(_WORD.findall(text))]


class _Reader:
    """A text while it is read: who did something last, and to what."""

    def __init__(self, people: Sequence[str], who: Sequence[str]):
        self.people = {name.lower(): name for name in people}
        self.who = who
        self.last = who[0] if who else ""
        self.thing = ""

    def clause(self, words: list[str]) -> Happening:
        small = [word.lower() for word in words]
        doers = self._doers(words)
        if doers:
            self.last = doers[0]
        many = len(doers) > 1
        at = next((i for i in range(len(words)) if self._verb(small, i, many)), -1)
        groups = tuple(group for _, group in self._noun_groups(words, small))
        deeds: list[ToldDeed] = []
        if at >= 0:
            deeds = self._deeds(words, small, at, doers or ([self.last] if self.last else [""]))
        return Happening(
            tuple(self._person(word) for word in words if self._is_name(word)),
            tuple(doers),
            groups,
            tuple(deeds),
            " ".join(small),
        )

    def _is_name(self, word: str) -> bool:
        plain = word.removesuffix("’s").removesuffix("'s")
        return plain.lower() in self.people and plain[:1].isupper()

    def _person(self, word: str) -> str:
        plain = word.removesuffix("’s").removesuffix("'s").lower()
        if self._is_name(word):
            return plain
        return self.last if plain in ("he", "she", "his", "her") else ""

    def _doers(self, words: Sequence[str]) -> list[str]:
        """Who a clause is about: the names that it begins with."""
        found: list[str] = []
        for word in words:
            if word.lower() in ("and", "&", ",", "both"):
                continue
            who = self._person(word)
            if not who or word.lower() in ("his", "her") or word.endswith(("’s", "'s")):
                break
            found.append(who)
        return found

    def _verb(self, small: Sequence[str], at: int, many: bool) -> tuple[str, str, int] | None:
        """(Kind, verb, words that it takes) of a verb of the tables at a place, if one is there: in
        the third person or with -ing; of several people as it is.
        """
        word = small[at]
        base = WORDS.base(word)
        ways = WORDS.kinds.get(base)
        if not ways or (at and small[at - 1] in DETERMINERS) or (word == base and not many):
            return None
        for particle, kind in sorted(ways.items(), key=lambda way: -len(way[0])):
            parts = particle.split()
            if parts and list(small[at + 1 : at + 1 + len(parts)]) == parts:
                return kind, f"{base} {particle}", 1 + len(parts)
        for particle, kind in ways.items():  # take the coat off
            if particle and " " not in particle and particle in small[at + 1 : at + 6]:
                end = small.index(particle, at + 1) + 1
                if end == len(small) or small[end] in _STOPS or small[end] in _SMALL:
                    return kind, f"{base} {particle}", 1
        return (ways[""], base, 1) if "" in ways else None

    def _deeds(
        self, words: list[str], small: list[str], at: int, doers: Sequence[str]
    ) -> list[ToldDeed]:
        """The deed whose verb is at a place, and those that "and" joins to it."""
        kind, verb, taken = self._verb(small, at, True) or ("", "", 1)
        first = at + taken
        rest, low = words[first:], small[first:]
        after_to = (i for i, word in enumerate(low) if word == "to" and i + 1 < len(low))
        to = next((self._person(rest[i + 1]) for i in after_to if self._is_name(rest[i + 1])), "")
        if rest and self._is_name(rest[0]):
            to, rest, low = self._person(rest[0]), rest[1:], low[1:]
        elif low[:1] in (["him"], ["her"]) and low[1:2] and low[1] in DETERMINERS:
            others = [name for name in self.who if name not in doers]
            to, rest, low = others[0] if len(others) == 1 else "", rest[1:], low[1:]
        thing = next((group.noun for at_, group in self._noun_groups(rest, low) if not at_), "")
        if low[:1] in (["it"], ["them"]):
            thing = self.thing
        elif not thing and kind in WORDS.contrary:  # it breaks; the door opens
            before = next(
                (g.noun for i, g in self._noun_groups(words[:at], small[:at]) if not i), ""
            )
            thing = self.thing if small[:1] == ["it"] else before
        self.thing = thing or self.thing
        if kind == "gives" and not to:
            kind = "lays"
        found = [ToldDeed(who, kind, verb, thing, to) for who in doers]
        for i in range(first, len(words) - 1):  # … and hangs it on a hook
            if small[i] in ("and", "then", ",") and self._verb(small, i + 1, len(doers) > 1):
                return found + self._deeds(words, small, i + 1, doers)
        return found

    def _noun_groups(
        self, words: Sequence[str], small: Sequence[str]
    ) -> Iterator[tuple[int, ToldThing]]:
        """The noun groups of a clause, each with where it begins: from a determiner or a colour to
        the noun, with what is said of it behind "is".
        """
        i = 0
        while i < len(words):
            led = small[i] in DETERMINERS
            end = i + led
            if led or small[i] in WORDS.colours:
                while end < len(words) and not self._ends(words, small, end, i + led):
                    end += 1
            if end > i + led:
                said = list(small[i + led : end - 1])
                if small[end : end + 1] in (["is"], ["are"], ["stands"], ["lies"], ["hangs"]):
                    said += [word for word in small[end + 1 : end + 3] if word in WORDS.told_states]
                yield (
                    i,
                    ToldThing(
                        small[end - 1],
                        tuple(said),
                        small[i] in _DEFINITE,
                        self.last,
                        _hand(small, i),
                    ),
                )
            i = max(end, i + 1)

    def _ends(self, words: Sequence[str], small: Sequence[str], at: int, first: int) -> bool:
        """Is a word behind the end of the noun group whose first word behind its determiner is
        `first`?
        """
        word = small[at]
        return (
            word in _STOPS
            or word in _SMALL
            or word in PREPOSITIONS
            or word in DETERMINERS
            or self._is_name(words[at])
            or at - first > REACH
            or (at > first and small[at - 1] not in WORDS.told_states and word in WORDS.told_states)
            or (at > first and word in VERBS and in_third(word) and word not in NOUNY)
            or (at > first and word.endswith("s") and bool(self._verb(small, at, False)))
            or (at > first and word.endswith("s") and small[at - 1] in WORDS.nouns)
            or (at > first and word in VERBS and small[at - 1] in WORDS.hair)
        )


def _hand(small: Sequence[str], start: int) -> str:
    """The hand that the words behind a noun group name: a lantern in her left hand."""
    behind = " ".join(small[start : start + 9])
    match = re.search(r"\b(?:in|with) (?:his|her|the) (left|right) hand\b", behind)
    return match[1] if match else ""


def _clauses(words: Sequence[str]) -> Iterator[list[str]]:
    """Words between full stops and semicolons."""
    clause: list[str] = []
    for word in words:
        if word in (".", ";", "!", "?", "|"):
            if clause:
                yield clause
            clause = []
        else:
            clause.append(word)
    if clause:
        yield clause
