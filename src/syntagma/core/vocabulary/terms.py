"""Terms: the words of the trade in facets and layers, found by any of their names."""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence, Set
from functools import cached_property, lru_cache, partial
from operator import itemgetter
from types import MappingProxyType
from typing import Any, NamedTuple

from syntagma.core.diagnostics import WrongValue, nearest
from syntagma.core.english.word_lists import IN_SEARCH, IN_STATEMENTS
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.facets import PLAIN, Traits
from syntagma.core.vocabulary.world import (
    CLAIM,
    LEAD,
    NOTHING,
    OTHER,
    BadWorld,
    Dimensions,
    Seat,
    Thing,
    World,
)

# ──── Vocabularies: terms in facets, in layers of which the later one wins.


NUMBERS = ("one", "many", "mass", "name")
MEDIA = ("image", "video")
_CONTROL = regex(r"[\x00-\x1f\x7f-\x9f\u2028\u2029]")
_NOTHING: Mapping[str, str] = MappingProxyType({})
SITUATION = (
    "at",
    "does",
    "carries",
    "sounds",
    # what belongs to a term: where it is at home, what it does there, what it has with it, what is
    # heard
)
COLUMNS = (
    "term",
    "number",
    "phrase",
    "place",
    "clause",
    "gloss",
    "tags",
    "aka",
    "clashes",
    "needs",
    "media",
    "world",
    *SITUATION,
    "when",
    "broader",
    "picked",
)
FORMULAS = (  # a column of a person's own: the formulas (;) whose picks alone take the term
    "formulas"
)
_KNOWN = frozenset(COLUMNS)


class Term(NamedTuple):
    """One entry of a facet. The columns are those of docs/reference/vocabulary.md; `extra` carries
    a person's own columns; `star` and `note` are what they set on it.
    """

    facet: str
    term: str
    number: str = "one"
    phrase: str = ""
    place: str = ""
    clause: str = ""
    gloss: str = ""
    tags: tuple[str, ...] = ()
    aka: tuple[str, ...] = ()
    clashes: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    media: str = ""
    world: str = ""
    situation: tuple[str, str, str, str] = ("", "", "", "")  # the cells of SITUATION
    when: str = ""
    broader: str = ""  # the broader term in the same facet
    picked: str = ""  # "no": it is typed, and never picked
    extra: Mapping[str, str] = _NOTHING
    layer: str = ""
    star: bool = False
    note: str = ""
    wider: tuple[
        str, ...
        # in a facet that was read: the names, in normal form, of all that it is a case of, the
        # nearest
        # first
    ] = ()

    __eq__, __hash__ = (
        object.__eq__,
        object.__hash__,
    )  # a term is itself, whatever another layer says

    def is_called(self, word: str) -> bool:
        """Does a word of a rule (a term, or a #tag) mean this term, by its own name or by that of
        what it is a case of?
        """
        return (
            word[1:] in self.tags
            if word.startswith("#")
            else normal(word) == normal(self.term) or normal(word) in self.wider
        )

    @property
    def full(self) -> str:
        """Its name with what it brings along ("harbour pilot in an oilskin coat", "belted trench
        coat"), as it is picked; what is typed by its name alone brings nothing. How a person writes
        their own term is meant.
        """
        return (
            self.phrase
            if self.phrase and self.layer in ("", SHIPPED) and brings(self.term, self.phrase)
            else self.term
        )

    def named_by(self, words: str) -> str:
        """Its name as words call it: with what it brings along where they say that."""
        return (
            self.full
            if self.full != self.term
            and normal(words).endswith(normal(self.full.removeprefix(self.term)))
            else self.term
        )

    @property
    def at(self) -> tuple[str, ...]:
        """The settings where it is at home."""
        return split_list(self.situation[0])

    @property
    def does(self) -> tuple[str, ...]:
        """What it does there; behind @ where alone."""
        return split_list(self.situation[1])

    @property
    def carries(self) -> tuple[str, ...]:
        """What it has with it, or what is there."""
        return split_list(self.situation[2])

    @property
    def sounds(self) -> tuple[str, ...]:
        """What is heard there."""
        return split_list(self.situation[3])

    def meant_for(self, formula: str) -> bool:
        """May a pick for this formula take it? It may, unless it was kept for others."""
        return self.picked != "no" and (
            not self.extra
            or not (named := split_list(self.extra.get(FORMULAS, "")))
            or formula in named
        )

    def record(self) -> dict[str, object]:
        """The term as `--json` gives it, blank columns left out."""
        row: dict[str, object] = {"facet": self.facet}
        row |= {column: getattr(self, column) for column in COLUMNS} | {
            "star": self.star,
            "note": self.note,
        }
        row["broader"] = (self.broader,) if self.broader else ()
        return {
            k: list(v) if isinstance(v, tuple) else v
            for k, v in (row | dict(self.extra)).items()
            if v
        }


class BadRow(WrongValue):
    """A row that makes no term. The message says what is wrong, `remedy` what to write instead."""


def term_of_row(facet: str, row: Mapping[str, str], layer: str = "") -> Term:
    """Make a term of one row of a vocabulary file (column → cell). Raises BadRow."""
    return RowReader(facet, list(row), layer).term(list(row.values()))


class RowReader:
    """Makes terms of the rows of one table; its columns are found once."""

    def __init__(self, facet: str, columns: Sequence[str], layer: str = ""):
        self.facet, self.layer, self.number = facet, layer, len(columns)
        places = {name: at for at, name in enumerate(columns) if name}
        self.cells = itemgetter(*(places.get(name, self.number) for name in COLUMNS))
        self.extra = [(name, at) for name, at in places.items() if name not in _KNOWN]

    def term(self, row: list[str]) -> Term:
        """The term of a row, whose last cells may be missing. Raises BadRow."""
        row = [*row, *[""] * (self.number + 1 - len(row))]
        (
            name,
            number,
            phrase,
            place,
            clause,
            gloss,
            tags,
            aka,
            clashes,
            needs,
            media,
            world,
            at,
            does,
            carries,
            sounds,
            when,
            broader,
            picked,
        ) = self.cells(row)
        name, phrase, place, clause = name.strip(), phrase.strip(), place.strip(), clause.strip()
        if not name:
            raise BadRow(
                "the term is blank", "write the term in the first column, or delete the row"
            )
        if not (name + phrase + place + clause).isprintable():
            for column, cell in (
                ("term", name),
                ("phrase", phrase),
                ("place", place),
                ("clause", clause),
            ):
                if _CONTROL.search(cell):
                    raise BadRow(
                        f"the {column} contains a line end or a control character",
                        "write it on one line",
                    )
        number = number.strip().lower() or "one"
        if number not in NUMBERS:
            raise BadRow(
                f"“{number}” is not a number", "write one (or leave it blank), many, mass or name"
            )
        if picked.strip().lower() not in ("", "no", "yes"):
            raise BadRow(
                f"“{picked}” does not say whether to pick it", "write no, or leave it blank"
            )
        media = media.strip().lower()
        if media == "both":
            media = ""
        if media and media not in MEDIA:
            raise BadRow(
                f"“{media}” is not a kind of medium",
                "write image or video, or leave it blank for both",
            )
        return Term(
            self.facet,
            name,
            number,
            phrase,
            place,
            clause,
            gloss.strip(),
            split_list(tags),
            split_list(aka),
            split_list(clashes),
            split_list(needs),
            media,
            world.strip(),
            (at, does, carries, sounds),
            when.strip(),
            broader.strip(),
            picked.strip().lower(),
            {name: row[at] for name, at in self.extra} if self.extra else _NOTHING,
            self.layer,
        )


@lru_cache(maxsize=16384)
def split_list(cell: str | None) -> tuple[str, ...]:
    """The members of a `;`-separated cell, trimmed, blank ones left out."""
    return tuple(filter(None, map(str.strip, cell.split(";")))) if cell else ()


SHIPPED = "shipped"  # the layer of what comes with the program
_LEADING = frozenset(
    "a an the and in on at of with by from to into its seen lit caught both look tone light colour"
    " voice backdrop background nineteen as for".split()
)  # these say nothing by themselves
_ENDING = regex(r"(?<=\w{2})(?:ing|ed|es|s|ily|ly|y)$")
_ALIKE = str.maketrans("-‐‑–_’", "     '")


@lru_cache(maxsize=16384)
def normal(text: str) -> str:
    """The form in which two spellings count as the same: small letters, hyphens as spaces, one
    space.
    """
    return " ".join(folded(text))


def brings(name: str, phrase: str) -> bool:
    """Does a phrase say more than a name, or the same in other words? What leads to a noun or
    completes it does not count ("low angle": seen from a low angle).
    """
    if phrase.startswith(f"{name} ") and " " not in phrase.removeprefix(f"{name} "):
        return False  # one word more is its noun: "pinhole camera"
    named, said = set(folded(name)), set(folded(phrase.replace(",", " ")))
    more, less = said - named - _LEADING, named - said - _LEADING
    if more and less:  # "arms folded", "folded arms"; "misty", "mist"
        return {_ENDING.sub("", word) for word in more} != {_ENDING.sub("", word) for word in less}
    return bool(more or less)


def folded(text: str) -> list[str]:
    """The words of that form."""
    text = text.casefold()
    return (
        text.replace("-", " ").replace("_", " ") if text.isascii() else text.translate(_ALIKE)
    ).split()


Index = Mapping[
    str, Sequence[tuple[str, float]]
    # a word → the terms that have it, by their names in normal form, each with what it counts for
    # there
]


class Facet:
    """One kind of choice: its terms in order, found by name or by other spelling."""

    def __init__(
        self,
        name: str,
        terms: Iterable[Term] | Callable[[], Iterable[Term]],
        index: Callable[[], Index] | None = None,
    ):
        """`terms` may be what reads them, when they are first asked for; `index` what gives their
        words without reading them.
        """
        self.name, self._given, self._index = name, terms, index

    @cached_property
    def _read(self) -> dict[str, Term]:
        by_name: dict[str, Term] = {}
        for term in (
            self._given() if callable(self._given) else self._given
        ):  # a later layer replaces a term of the same name where it stood
            by_name[normal(term.term)] = term
        for name, term in by_name.items():
            if term.broader:
                by_name[name] = term._replace(
                    world=_inherited(term, by_name), wider=tuple(_wider(term, by_name))
                )
        return by_name

    @cached_property
    def terms(self) -> tuple[Term, ...]:
        """Its terms, in order."""
        return tuple(self._read.values())

    @cached_property
    def _by_name(self) -> dict[str, Term]:
        return {normal(term.full): term for term in self.terms} | self._read

    @cached_property
    def index(self) -> Index:
        """The words of its terms, for the search."""
        return self._index() if self._index else index_of(self.terms)

    @cached_property
    def by_noun(self) -> Mapping[str, Sequence[tuple[frozenset[str], Term]]]:
        """The words of each name of its terms, with the term, by the last of them: "double-ended
        car ferry" under "ferry".
        """
        found: dict[str, list[tuple[frozenset[str], Term]]] = {}
        for term in self.terms:
            for name in (term.term, *term.aka):
                if words := folded(name):
                    found.setdefault(words[-1], []).append((frozenset(words), term))
        return found

    def get(self, text: str) -> Term | None:
        """The term called `text` (any case, hyphens or spaces), by its name or with what it brings
        along; None if there is none.
        """
        return self._by_name.get(normal(text))

    def above(self, term: Term) -> list[Term]:
        """The terms that a term of the facet is a case of, the nearest first."""
        return [self._read[name] for name in term.wider]

    def below(self, term: Term) -> list[Term]:
        """The terms that are cases of a term, in the order of the file."""
        return [one for one in self.terms if normal(term.term) in one.wider]

    def __len__(self) -> int:
        return len(self.terms)

    def __iter__(self) -> Iterator[Term]:
        return iter(self.terms)


def _wider(term: Term, by_name: Mapping[str, Term]) -> list[str]:
    """The names of what a term is a case of, the nearest first; it ends where they go in a ring or
    one is not there.
    """
    found: list[str] = []
    while (name := normal(term.broader)) and name in by_name and name not in found:
        found.append(name)
        term = by_name[name]
    return found


def _inherited(term: Term, by_name: Mapping[str, Term]) -> str:
    """What a term takes for granted: what it says itself, and for all else what those say of which
    it is a case.
    """
    parts = list(split_list(term.world))
    for name in _wider(term, by_name):
        said = set(map(dimension, parts))
        parts = [
            *(part for part in split_list(by_name[name].world) if dimension(part) not in said),
            *parts,
        ]
    return "; ".join(parts)


def dimension(part: str) -> str:
    """What a part of a world speaks of: "hour!: night" of the hour."""
    return part.partition(":")[0].strip(" !")


class Vocabulary:
    """All facets that apply. Each is read when it is first asked for.

    `names` are the facets that there are; `load` gives the terms of one, earlier layers first;
    `traits` the facets; `index` what gives the words of a facet without reading it, or None.
    """

    def __init__(
        self,
        names: Iterable[str],
        load: Callable[[str], Iterable[Term]],
        traits: Callable[[], Mapping[str, Traits]] = dict,
        dimensions: Callable[[], Dimensions] = Dimensions,
        index: Callable[[str], Callable[[], Index] | None] = lambda name: None,
    ):
        self.names, self._traits, self._dimensions = tuple(sorted(names)), traits, dimensions
        self._load, self._index = load, index
        self._facets: dict[str, Facet] = {}

    @cached_property
    def traits(self) -> Mapping[str, Traits]:
        """What facets are like, read when it is first asked for."""
        return self._traits()

    def participant(self, facet: str) -> bool:
        """Are a facet's terms what a picture is of?"""
        return self.traits.get(facet, PLAIN).participant

    def kin(self, facet: str) -> frozenset[str]:
        """A facet, and those that the same words may be of."""
        mine = self.traits[facet].kin if facet in self.traits else ()
        return frozenset(
            {facet, *mine, *(other for other, traits in self.traits.items() if facet in traits.kin)}
        )

    @cached_property
    def dimensions(self) -> Dimensions:
        """What pictures take for granted, read when it is first asked for."""
        return self._dimensions()

    def seats(self, slots: Iterable[tuple[str, str, int | None, str]]) -> dict[str, Seat]:
        """The places of what fills slots, by slot. `slots` are (slot, facet, shot, what the words
        round it take for granted), in the order of the text.
        """
        seats, lead = {}, False
        for slot, facet, part, world in slots:
            stands = self.participant(facet)
            seats[slot] = Seat(
                slot, facet, part, CLAIM if not stands else OTHER if lead else LEAD, world
            )
            lead = lead or stands
        return seats

    def thing(self, seat: Seat, term: Term) -> Thing:
        """A term in its seat, with what it takes for granted."""
        return Thing(
            seat, term.term, self.world(f"{term.world}; {seat.world}" if seat.world else term.world)
        )

    def world(self, text: str) -> World:
        """A world as a term has it; one that can't be read takes nothing for granted (`syntagma
        check` tells it).
        """
        try:
            return self.dimensions.world(text)
        except BadWorld:
            return NOTHING

    def __contains__(self, name: str) -> bool:
        return name in self._facets or name in self.names

    def __getitem__(self, name: str) -> Facet:
        """The facet called `name`. Raises KeyError if there is none."""
        if name not in self._facets:
            if name not in self.names:
                raise KeyError(name)
            self._facets[name] = Facet(name, partial(self._load, name), self._index(name))
        return self._facets[name]

    def __iter__(self) -> Iterator[Facet]:
        return (self[name] for name in self.names)


@lru_cache(maxsize=1 << 18)
def clash(a: Term, b: Term) -> bool:
    """Do two terms contradict each other, by either's `clashes` (a term, or a #tag)?"""
    return bool(_against(a, b) or _against(b, a))


def _against(a: Term, b: Term) -> str:
    """What of `b` is in the way of `a`: its name, a #tag, or nothing."""
    return next((c for c in a.clashes if b.is_called(c)), "") if a.clashes else ""


def explains(a: Term, b: Term) -> bool:
    """Is `a` one of those that `b` needs beside it?"""
    return any(a.is_called(word) for word in b.needs)


def why_clash(a: Term, b: Term) -> str:
    """Why two terms contradict each other, in words; "" if they don't."""
    for one, other in ((a, b), (b, a)):
        if found := _against(one, other):
            because = f" (tagged {found[1:]})" if found.startswith("#") else ""
            return f"“{one.term}” does not go with “{other.term}”{because}"
    return ""


def search(facets: Iterable[Facet], text: str) -> list[Term]:
    """The terms that answer `text`, best first: by their name, other spellings, tags and gloss;
    typing errors forgiven.
    """
    from rapidfuzz import fuzz, utils

    wanted = [w for w in utils.default_process(text[:LONGEST]).split() if w not in IN_SEARCH][
        :MOST_WORDS
    ]
    shelf = list(facets)
    if not wanted:
        return []
    every = set().union(*(facet.index for facet in shelf))
    answers = [
        {word: how for word in every if (how := _likeness(want, word, fuzz))} for want in wanted
    ]
    answering = set().union(*answers)
    scored = [
        (score, facet, name, words)
        for facet in shelf
        for name, words in _having(facet.index, answering).items()
        if (score := _score(answers, words)) >= 0.3
    ]
    best, said = max((score for score, *_ in scored), default=0), normal(text)
    plain = [
        {word: how for word, how in answer.items() if how > 0} for answer in answers
    ]  # without slips
    least = (0.75 if len(wanted) > 1 else 0.5) * best
    order = {facet.name: n for n, facet in enumerate(shelf)}
    found: list[tuple[bool, float, int, int, Term, bool]] = []
    for score, facet, name, words in scored:
        if score >= 0.5 * best and (term := facet.get(name)):  # only what is found is read
            exact = said in map(normal, (term.term, *term.aka))
            found.append(
                (
                    not exact,
                    -score,
                    order[facet.name],
                    facet.terms.index(term),
                    term,
                    exact or _score(plain, words) >= least,
                )
            )
    named = any(
        not far
        for far, *_ in found
        # what is called just so comes first, and beside it only what has nearly all of the words,
        # and
        # none by a slip
    )
    return [term for *_, term, near in sorted(found, key=lambda one: one[:-2]) if near or not named]


def _having(index: Index, words: Set[str]) -> dict[str, dict[str, float]]:
    """The terms that have some of the words, by name, with what each word counts for there."""
    found: dict[str, dict[str, float]] = {}
    for word in index.keys() & words:
        for name, weight in index[word]:
            found.setdefault(name, {})[word] = weight
    return found


def in_order(facet: Facet) -> list[Term]:
    """The terms of a facet in the order of the file, each with those that are cases of it after it;
    what has cases comes first.
    """
    under: dict[str, list[Term]] = {}
    for term in facet:
        wider = facet.above(term)
        under.setdefault(normal(wider[0].term) if wider and term not in wider else "", []).append(
            term
        )

    def all_of(name: str) -> Iterator[Term]:
        for term in under.get(name, ()):
            yield term
            yield from all_of(normal(term.term))

    under[""] = sorted(
        under.get("", ()), key=lambda term: (not term.star, normal(term.term) not in under)
    )  # favourites, then those that others are cases of
    found = list(all_of(""))
    return found if len(found) == len(facet) else list(facet)


def widest(facet: Facet) -> list[Term]:
    """The terms that are a case of no other, those with the most cases first; favourites before
    all.
    """
    cases = Counter(normal(term.broader) for term in facet if term.broader)
    return sorted(
        (term for term in facet if not term.broader),
        key=lambda term: (not term.star, -cases[normal(term.term)]),
    )


def with_below(facets: Iterable[Facet], found: Sequence[Term], text: str) -> list[Term]:
    """What a search found, and behind a term that is called just so those that are cases of it."""
    by_name = {facet.name: facet for facet in facets}
    terms: list[Term] = []
    for term in found:
        terms.append(term)
        if normal(text) in map(normal, (term.term, *term.aka)):
            terms += by_name[term.facet].below(term)
    return list(dict.fromkeys(terms))


def suggestions(facet: Facet, text: str, number: int = 3) -> list[str]:
    """The terms of a facet that `text` was probably meant to be: one that is also called so, give
    or take a space, else the nearest by letters and by what the search finds.
    """
    squashed = normal(text).replace(" ", "")
    same = [
        t.term
        for t in facet
        if squashed in {normal(name).replace(" ", "") for name in (t.term, *t.aka)}
    ]
    if same:
        return same[:number]
    by_letters = nearest(text, [t.term for t in facet])
    found = [by_letters] if by_letters else []
    return list(dict.fromkeys(found + [t.term for t in search([facet], text)]))[:number]


LONGEST, MOST_WORDS = 200, 12  # of what is searched for
_WEIGHTS = (("gloss", 0.45), ("tags", 0.6), ("aka", 0.9), ("term", 1.0))


def index_of(terms: Iterable[Term]) -> dict[str, list[tuple[str, float]]]:
    """The words of terms, each with the terms that have it and the most that it counts for
    there.
    """
    index: dict[str, list[tuple[str, float]]] = {}
    for term in terms:
        words: dict[str, float] = {}
        for column, weight in _WEIGHTS:
            value = getattr(term, column)
            said = normal(" ".join(value) if isinstance(value, tuple) else value)
            words.update(dict.fromkeys(re.findall(r"[\w/']+", said), weight))
        name = normal(term.term)
        for word, weight in words.items():
            index.setdefault(word, []).append((name, weight))
    return index


def _likeness(want: str, word: str, fuzz: Any) -> float:
    """How well `word` matches `want`: 1 itself, 0.85 its beginning, 0.75 (as a negative number) but
    for a slip, else 0.
    """
    if want == word:
        return 1.0
    stem = re.sub(r"(?:ings?|ed|es|s|ly|y)$", "", want)
    if len(stem) > 3 and word.startswith(stem):
        return 0.85
    return -0.75 if len(want) > 3 and fuzz.ratio(want, word) >= 80 else 0.0


def _score(answers: list[dict[str, float]], words: Mapping[str, float]) -> float:
    """0 to 1: the share of the wanted words found, each where it counts most; a slip counts in
    names and tags only.
    """
    total = 0.0
    for answer in answers:
        found = answer.keys() & words.keys()
        total += max(
            (abs(answer[w]) * words[w] for w in found if answer[w] > 0 or words[w] > 0.5),
            default=0.0,
        )
    return total / len(answers)


# ──── What a text says, word by word: so that no pick says again what is there already.


# Words that say the same thing: a picture of fog needs no mist.
_SAME = {
    word: said[0]
    for said in (
        "fog mist haze smog".split(),
        "rain drizzle shower downpour puddle".split(),
        "snow snowfall blizzard".split(),
        "dusk sunset twilight nightfall".split(),
        "dawn sunrise daybreak".split(),
        "hush silent quiet silence".split(),
        "calm serene tranquil still".split(),
        "sun sunlight sunlit sunshine".split(),
        "sad melancholy wistful".split(),
        "wood wooden timber".split(),
        "empty deserted".split(),
        "old antique ancient".split(),
        "boat vessel launch".split(),
        "blur blurred".split(),
        "smile grin".split(),
        "gull seagull".split(),
    )
    for word in said
}


@lru_cache(maxsize=8192)
def content_words(text: str) -> frozenset[str]:
    """The words of `text` that say something, without their endings: "wet quays" → {"wet",
    "quay"}.
    """
    words = re.findall(r"[^\W\d_]{3,}", normal(text))
    return frozenset(
        re.sub(r"(?<=\w{3})(?:ies|es|s|ing|ed|ly)$", "", w) for w in words if w not in IN_STATEMENTS
    )


@lru_cache(maxsize=8192)
def ideas(text: str) -> frozenset[str]:
    """The content words of `text`, those that say the same being one."""
    return frozenset(_SAME.get(word, word) for word in content_words(text))


@lru_cache(maxsize=8192)
def said(term: Term) -> frozenset[str]:
    """The ideas that a term brings into a prompt, in whichever form."""
    return ideas(f"{term.term} {term.phrase} {term.place} {term.clause}")
