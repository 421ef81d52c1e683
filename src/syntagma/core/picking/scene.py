"""The picture so far: what it takes for granted, and how well a term goes with it."""

from collections.abc import Collection, Iterable, Sequence, Set
from enum import Enum
from functools import lru_cache

from syntagma.core.english import is_plural, plural, split_determiner
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import is_person
from syntagma.core.vocabulary.terms import SHIPPED as LAYER
from syntagma.core.vocabulary.terms import Facet, Term, Vocabulary, normal, said
from syntagma.core.vocabulary.world import CLAIM, LEAD, OTHER, Seat, State, Thing, World

# ──── What free text represents: the term that it is nearest to in kind, so picks suit it as they
# would suit the term.


def stands_for(text: str, facet: Facet, but: Term | None = None) -> Term | None:
    """The term of `facet` that free text is most like: one that says its last noun
    ("cream-and-green car ferry" is like "double-ended car ferry"), and of people another word too,
    or no more than that noun (a data scientist is not a polar scientist), other than `but`; else a
    nameless one of its kind, where the words tell a person; else None.
    """
    group = split_determiner(text)[1]
    words = normal(group[: head_end(group)]).split()
    if not words:
        return None
    noun, said = words[-1], set(words)
    singular = (
        [name for name in facet.by_noun if name[0] == noun[0] and plural(name) == noun]
        if is_plural(noun)
        else []
    )
    named = [
        pair
        for name in dict.fromkeys((noun, *singular))
        for pair in facet.by_noun.get(name, ())
        if pair[1] is not but
    ]
    person = is_person(noun)  # whose trade every word of theirs may change
    close = [
        (len(said & spelled), term)
        for spelled, term in named
        if not person or len(spelled) == 1 or len(said) == 1 or len(said & spelled) > 1
    ]
    best = max(close, key=lambda pair: pair[0], default=(0, None))[1]
    if best is None and person:
        return Term(facet.name, noun, tags=("person", "alone"))
    return best


# ──── What is in a picture while its slots are picked: the terms beside, what they take for
# granted, and what belongs to them.


ANYONE = "anyone"  # the tag of deeds that anybody may do, wherever they are
HEARD = ("ambience", "sound-effect")
BROUGHT_ALONG = "situation"  # the layer of deeds that a subject brings along
SHIPPED = (
    "",
    LAYER,
    BROUGHT_ALONG,
)  # layers of terms that say themselves what they take for granted
PLACE = "setting"
_NOWHERE, UNTOLD = Seat("", ""), Seat("", PLACE)


class SceneFit(Enum):
    """How a term goes with a scene: it can't be there, another has said outright what it says, it
    disagrees with a guess, or nothing is against it.
    """

    IMPOSSIBLE = "impossible"
    SAID = "said"
    UNLIKELY = "unlikely"
    FINE = "fine"


class Scene:
    """One picture so far. What is `guessed` (of a person's own words and terms) leans and never
    forbids.
    """

    def __init__(self, vocabulary: Vocabulary, granted: Iterable[Thing] = ()):
        self.vocabulary = vocabulary
        self.beside: list[list[Term]] = []
        self._answers: dict[
            tuple[str, object, str], SceneFit
        ] = {}  # what was asked since the last thing was added
        # is it somewhere of which nobody knows what is heard there, and which lamps it has?
        self.unknown_place = False
        self.lenient = (
            False  # may a term stand without what it needs beside it, where nothing else goes?
        )
        self.open_places: Set[str] = (
            frozenset()
        )  # those that may still be picked, where a place is to be reported
        self._stands: list[tuple[Seat, Term]] = []
        self._firm, self._likely, self._guesses = (
            State(vocabulary.dimensions),
            State(vocabulary.dimensions),
            False,
        )
        self._levels: list[State] = []  # what is firm with each choice of a family that varies
        self.grant(granted)

    def copy(self) -> "Scene":
        """The same scene, to go on from by itself."""
        other = Scene(self.vocabulary)
        other.beside, other._stands, other.open_places, other.unknown_place = (
            self.beside[:],
            self._stands[:],
            self.open_places,
            self.unknown_place,
        )
        other._firm, other._likely, other._guesses = (
            self._firm.copy(),
            self._likely.copy(),
            self._guesses,
        )
        other.lenient = self.lenient
        other._levels = [state.copy() for state in self._levels]
        return other

    def vary(self, common: "Scene", levels: Iterable[Sequence[Thing]]) -> None:
        """Let only stand what goes with each of several choices: `levels` are what they take for
        granted, `common` is the scene without any of them.
        """
        self._answers.clear()
        for worlds in dict.fromkeys(
            tuple((thing.seat, thing.world) for thing in things if thing.world.masks)
            for things in levels
        ):
            state = common._firm.copy()
            for seat, world in worlds:
                state.add(seat, world)
            self._levels.append(state)

    def _stand(self, seat: Seat, world: World) -> None:
        """Let a world be firm."""
        for state in (self._firm, *self._levels):
            state.add(seat, world)

    def add(
        self, seat: Seat | None, terms: Sequence[Term], guessed: bool = False, beside: bool = True
    ) -> None:
        """Let terms stand, those of one slot; with `beside` what comes after them suits
        them too.
        """
        self._answers.clear()
        if beside:
            self.beside.append(list(terms))
        for term in terms:
            self._stands.append((seat or _NOWHERE, term))
            world = self.world(seat or _NOWHERE, term)
            if not guessed:
                self._stand(seat or _NOWHERE, world)
            guess = self._guess(seat or _NOWHERE, term)
            self._guesses |= guessed or guess is not None
            self._likely.add(seat or _NOWHERE, guess or world)
            if when := self._when(term):
                self._likely.add(_NOWHERE, when)
                if not guessed:
                    self._stand(_NOWHERE, when)

    def grant(self, things: Iterable[Thing]) -> None:
        """Let what things take for granted stand."""
        self._answers.clear()
        for thing in things:
            self._stand(thing.seat, thing.world)
            self._likely.add(thing.seat, thing.world)

    def takes(self, seat: Seat, world: World) -> bool:
        """Does the picture so far leave room for a world?"""
        return self._firm.allows(seat, world) and all(
            state.allows(seat, world) for state in self._levels
        )

    def world(self, seat: Seat, term: Term) -> World:
        """What a term takes for granted: as it says, or for a deed of someone's, as its first word
        does.
        """
        if term.world or seat.facet != "action":
            return self.vocabulary.thing(seat, term).world
        return self.vocabulary.dimensions.of_deed(term.term)

    def fit(self, seat: Seat, term: Term) -> SceneFit:
        """How a term, and the hour at which it is there, goes with everything there."""
        itself = term.world or (
            term.term if term.layer in SHIPPED else term
        )  # many terms have one world
        asked = (seat.slot, itself, term.when)
        if (known := self._answers.get(asked)) is None:
            known = self._answers[asked] = self._fit(seat, term)
        return known

    def _fit(self, seat: Seat, term: Term) -> SceneFit:
        world, when, guess = self.world(seat, term), self._when(term), self._guess(seat, term)
        if seat.facet == "lighting" and self.unknown_place and not self._falls_there(seat, world):
            return SceneFit.IMPOSSIBLE
        if not self.takes(seat, world) or (when and not self.takes(_NOWHERE, when)):
            return SceneFit.IMPOSSIBLE
        if self._firm.said and not self._firm.said.isdisjoint(world.says):
            return SceneFit.SAID
        likely = not (self._guesses or guess) or self._likely.allows(seat, guess or world)
        return SceneFit.FINE if likely else SceneFit.UNLIKELY

    def _falls_there(self, seat: Seat, light: World) -> bool:
        """May a light fall at a place of which nobody knows which lamps it has? One that is not an
        other place's, and goes with what is guessed.
        """
        dimensions = self.vocabulary.dimensions
        elsewhere = dimensions.only(light, ("site",)).masks or dimensions.at_odds(
            light, self.vocabulary.world("where: outdoors indoors"), "where"
        )
        return not elsewhere and self._likely.allows(seat, light)

    def _guess(self, seat: Seat, term: Term) -> World | None:
        """What a term of a person's own probably takes for granted, if it says nothing."""
        like = likest(term, self.vocabulary)
        return self.world(seat, like) if like else None

    def alike(self, term: Term) -> Term | None:
        """The term that says where a term is at home and who is there: itself, or for one of a
        person's own that says nothing, the one that it is most like; None if nobody knows.
        """
        if term.layer in SHIPPED or term.world or term.situation[0]:
            return term
        return likest(term, self.vocabulary)

    def _when(self, term: Term) -> World | None:
        return self.vocabulary.world(f"hour: {term.when}") if term.when else None

    def belongs(self, seat: Seat) -> "Home | None":
        """What belongs to those who stand, of the facet of a seat; None if they leave it open."""
        leads = [
            alike for at, term in self._stands if at.role == LEAD and (alike := self.alike(term))
        ]
        places = [
            alike for at, term in self._stands if at.facet == PLACE and (alike := self.alike(term))
        ]
        deeds = [term for at, term in self._stands if at.facet == "action"]
        if seat.facet == "action" and any(lead.does for lead in leads):
            deeds_of = [deed for lead in leads for deed in lead.does]
            if places and not any(_is(place, lead.at) for place in places for lead in leads):
                return Home(())  # far from home: what anybody may do
            return Home(
                [
                    text
                    for text, at in map(_placed, deeds_of)
                    if not at or any(_is(place, at) for place in places)
                ]
            )
        if seat.facet == PLACE and any(lead.at for lead in leads):
            named = [name for lead in leads for name in lead.at]
            wanted = [
                at
                for deed in deeds
                for lead in leads
                for text, at in map(_placed, lead.does)
                if at and _is(deed, [text])
            ]
            return Home([name for at in wanted for name in at] or named)
        if seat.facet in HEARD and (
            heard := [sound for _, term in self._stands for sound in term.sounds]
        ):
            return Home(heard)
        if seat.facet in HEARD and self.unknown_place:
            return Home(())  # nobody knows what is heard there
        if seat.facet == "object" and (seat.role == OTHER or places):
            return Home([name for term in (*leads, *places) for name in term.carries])
        if seat.role != CLAIM and (places or self.open_places or (deeds and seat.role == LEAD)):
            return Home(
                None,
                places,
                deeds if seat.role == LEAD else (),
                frozenset() if places else self.open_places,
            )
        return None

    @property
    def kin(self) -> frozenset[str]:
        """The ideas of those that the picture is of, by their own names."""
        return frozenset().union(*(said(term) for at, term in self._stands if at.role == LEAD))

    @property
    def has_place(self) -> bool:
        """Is it settled if this is?"""
        return any(at.facet == PLACE for at, _ in self._stands)

    def settle(self, place: Term) -> None:
        """Let it be somewhere, though no word says where."""
        self._answers.clear()
        self._stands.append((UNTOLD, place))
        for state in (self._firm, self._likely, *self._levels):
            state.add(UNTOLD, World(self.world(UNTOLD, place).masks))


class Home:
    """What belongs: by `names`, or if there are none to tell, as one who is at home in `places` (or
    in one of those still `open_places`) and does `deeds`.
    """

    def __init__(
        self,
        names: Iterable[str] | None,
        places: Collection[Term] = (),
        deeds: Collection[Term] = (),
        open_places: Set[str] = frozenset(),
    ):
        self.names = None if names is None else list(dict.fromkeys(names))
        self._normal = set(map(normal, self.names or ()))
        self._places = {normal(place.term) for place in places}
        self._deeds = {normal(deed.term) for deed in deeds if ANYONE not in deed.tags}
        self._open = open_places

    def has(self, term: Term) -> bool:
        """Does a term belong?"""
        if self.names is not None:
            return normal(term.term) in self._normal
        at, does = _life(term)
        if at and (
            (self._open and self._open.isdisjoint(at))
            or (self._places and self._places.isdisjoint(at))
        ):
            return False
        return not does or self._deeds <= does


@lru_cache(maxsize=4096)
def _life(term: Term) -> tuple[frozenset[str], frozenset[str]]:
    """Where a term is at home, and what it does, in small letters."""
    return frozenset(map(normal, term.at)), frozenset(
        normal(_placed(deed)[0]) for deed in term.does
    )


def likest(term: Term, vocabulary: Vocabulary) -> Term | None:
    """The term whose world and situation a term of a person's own probably shares; None if it says
    them itself.
    """
    if term.layer in SHIPPED or term.world or term.situation[0] or term.facet not in vocabulary:
        return None
    return stands_for(term.term, vocabulary[term.facet], but=term)


def strays(lead: Term, place: Term, vocabulary: Vocabulary) -> bool:
    """Is someone away from home?"""
    like = place if place.layer in SHIPPED else likest(place, vocabulary)
    return bool(lead.at) and like is not None and not _is(like, lead.at)


def _is(term: Term, names: Sequence[str]) -> bool:
    """Is a term one of `names`?"""
    return any(normal(name) == normal(term.term) for name in names)


@lru_cache(maxsize=8192)
def _placed(deed: str) -> tuple[str, tuple[str, ...]]:
    """A deed, and where alone it is done: "sweeping the step @ cobbled back street, village
    square".
    """
    text, _, places = deed.partition("@")
    return text.strip(), tuple(place.strip() for place in places.split(",") if place.strip())
