"""Picks from the vocabulary: what suits best most often, everything now and then, nothing that
contradicts.

Each open slot has a deck: its terms with a weight each. A term's weight is two to the power of its
score: how well it suits the rest beside it (affinity.py), what themes lean to, whether it is a
favourite, less what it was picked before. One that contradicts, that takes for granted what can't
be (world.py), that does not belong to who and where this is (scene.py), that needs beside it what
is not there, or that says again what is said already, is not picked.
"""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence, Set
from functools import lru_cache
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

from syntagma.core.drafting.fills import Fill, fill_of_terms
from syntagma.core.picking.scene import (
    ANYONE,
    BROUGHT_ALONG,
    HEARD,
    PLACE,
    UNTOLD,
    Home,
    Scene,
    SceneFit,
)
from syntagma.core.vocabulary.affinity import NEVER, suits
from syntagma.core.vocabulary.terms import Term, explains, normal, said
from syntagma.core.vocabulary.world import LEAD, OTHER, Seat

if TYPE_CHECKING:
    from random import Random

STAR = 3.0  # a favourite weighs as much as six shared tempers
LEAN = 1.75  # what a point of a theme counts for, so a theme is felt among two hundred subjects
SLACK = 3.0  # how far below the best a term may be to be picked at all
FLOOR = -3.0  # below this a slot that needs nothing stays open: a poor fit is worse than a blank
# what each time that a term was picked takes off, up to MOST_USED times more than the least
USED = 1.0
MOST_USED = 3
AGAIN = -8.0  # what saying a word twice costs a slot that must be filled
KIN = -1.5  # what it costs a place or a deed to say again a word of the one that it belongs to
STRANGE = -3.0  # what a place of a person's own costs of which nobody knows who is at home there
EXPLAINS = 6.0  # what it is worth to be what another term needs beside it
UNLIKELY = -4.0  # what it costs to disagree with a guess
ANYONES = -3.5  # what a deed that anybody may do is behind one's own
STRAY = 0.015  # how many pictures leave home: a place if nobody would look for the one who is there

# Facets that say what the picture is of: picked first, so the rest goes with them.
FIRST = (
    "subject",
    "animal",
    "food",
    "object",
    "architecture",
    "setting",
    "action",
    "looping-motion",
    "time-passing",
    "background",
    "shot-size",
    "hour",
    "weather",
    "lighting",
)
SITUATION = FIRST.index("background")  # so many of them make the situation
BROUGHT = ("action",)  # what a subject brings along of its own, beside the terms of the facet


class Want(NamedTuple):
    """A slot to pick for: its terms, the least and the most that it takes, whether it has to be
    filled, and whether it is `apart`, in the negative text, where it contradicts nothing and
    doubles nothing; `skip` terms are drawn and laid aside first.
    """

    slot: str
    facet: str
    terms: Sequence[Term]
    take: tuple[int, int] = (1, 1)
    need: bool = False
    apart: bool = False
    seat: Seat = Seat("", "")
    skip: int = 0


class _Turn(NamedTuple):
    """What one draw has to go with: the scene, what belongs to it, terms that stand already, words
    that are said already, those of them that the one whom the picture is of brought, whether the
    slot has to be filled, whether this picture leaves home, terms that still wait for what they
    need, and whether a term may be without what it needs, since nothing else goes.
    """

    scene: Scene
    home: Home | None
    there: Collection[Term]
    words: Set[str]
    kin: Set[str]
    need: bool
    strays: bool
    waiting: Sequence[Term]
    anywhere: bool = False


class Deck:
    """The terms of one slot, with what they weigh and how often each was picked."""

    def __init__(self, want: Want, random: "Random", lean: Callable[[Term], float] | None = None):
        self.want = want
        self.terms = tuple(want.terms)
        self._random = random
        self._weights = [
            (LEAN * lean(term) if lean else 0.0) + STAR * term.star for term in self.terms
        ]
        self._used = [0] * len(self.terms)
        self._own: set[str] = set()  # deeds that a subject brings along, by their words

    def draw(
        self,
        scene: Scene,
        words: Set[str] = frozenset(),
        but: Collection[Term] = (),
        need: bool = True,
        strays: bool = False,
    ) -> Term | None:
        """A term that goes with what is in the scene (a list of terms in one slot weighs as much as
        a single one), says none of `words` and is none of `but`; with `strays` one that is not at
        home there. None if there is none, and unless there is a `need`, where none suits.
        """
        home = None if self.want.apart else scene.belongs(self.want.seat)
        if home and home.names and self.want.facet in BROUGHT:
            self._bring(home.names)
        stand = [term for others in scene.beside for term in others]
        waiting = (
            []
            if self.want.apart
            else [t for t in stand if t.needs and not any(explains(other, t) for other in stand)]
        )
        turn = _Turn(
            scene,
            home,
            {*but, *stand},
            words,
            scene.kin if home and home.names else frozenset(),
            need,
            strays,
            waiting,
        )
        scores = {
            i: score
            for i, term in enumerate(self.terms)
            if (score := self._score(i, term, turn)) != NEVER
        }
        if (
            not scores and need and (home or scene.lenient)
            # nobody is at home there, no light is known to fall there: then whatever nothing else
            # rules
            # out
        ):
            turn = turn._replace(home=Home(None) if home else None, anywhere=scene.lenient)
            scores = {
                i: score
                for i, term in enumerate(self.terms)
                if (score := self._score(i, term, turn)) != NEVER
            }
        at_home = home is not None and self.want.facet == PLACE
        if at_home:
            self._behind_homes(scores, scene)
        if not scores or (max(scores.values()) < FLOOR and not need and not at_home):
            return None
        least = min(self._used)
        scores = {
            i: score - USED * min(self._used[i] - least, MOST_USED) for i, score in scores.items()
        }
        best = max(scores.values())
        near = [i for i, score in scores.items() if score >= best - SLACK]
        (found,) = self._random.choices(near, [2.0 ** (scores[i] - best) for i in near])
        self._used[found] += 1
        return self.terms[found]

    def _score(self, i: int, term: Term, turn: _Turn) -> float:
        """What a term weighs in this turn; what strikes most, and costs least to ask, comes
        first.
        """
        if term in turn.there:
            return NEVER
        score = self._weights[i]
        if not self.want.apart:
            score += self._at_home(term, turn)
            if score == NEVER or (score := score + self._in_the_world(term, turn)) == NEVER:
                return NEVER
        if (
            term.needs
            and not turn.anywhere
            and not any(explains(other, term) for others in turn.scene.beside for other in others)
        ):
            return NEVER
        awaited = sum(explains(term, other) for other in turn.waiting) if turn.waiting else 0
        own = said(term)
        if not awaited and not own.isdisjoint(turn.words):
            among_kin = (
                own & turn.words
            ) <= turn.kin  # a barber in a barber's shop: his own word, and better than another shop
            score += KIN if among_kin else AGAIN if turn.need else NEVER
        if score == NEVER:
            return NEVER
        score += EXPLAINS * awaited
        for others in turn.scene.beside:
            if len(others) == 1 and not self.want.apart:
                score += suits(term, others[0])
                continue
            scores = [suits(term, other) for other in others]
            if self.want.apart:  # what is kept out of a picture contradicts nothing in it
                scores = [0.0 if one == NEVER else one for one in scores]
            score += sum(scores) / len(scores) if scores else 0.0
        return (
            min(score, ANYONES)
            if ANYONE in term.tags and turn.home and turn.home.names and not turn.home.has(term)
            else score
        )

    def _at_home(self, term: Term, turn: _Turn) -> float:
        """NEVER for what does not belong to who and where this is."""
        alike = turn.scene.alike(term)
        if (
            alike is None or turn.home.has(alike)
            if turn.home
            else not self._own or normal(term.term) not in self._own
        ):
            return 0.0
        facet = self.want.seat.facet
        return (
            0.0
            if (ANYONE in term.tags and facet == "action") or (turn.strays and facet == PLACE)
            else NEVER
        )

    def _behind_homes(self, scores: dict[int, float], scene: Scene) -> None:
        """Let places of which nobody knows who is at home there come behind those that are home,
        whatever a theme leans to; a star helps.
        """
        unknown = [i for i in scores if scene.alike(self.terms[i]) is None]
        if len(unknown) < len(scores):
            most = max(score for i, score in scores.items() if i not in unknown) + STRANGE
            scores.update(
                {i: min(scores[i], most + STAR / 2 * self.terms[i].star) for i in unknown}
            )

    def _in_the_world(self, term: Term, turn: _Turn) -> float:
        """What it costs to take for granted what can't be, or to say it again."""
        fit = turn.scene.fit(self.want.seat, term)
        if fit is SceneFit.FINE:
            return 0.0
        return (
            UNLIKELY
            if fit is SceneFit.UNLIKELY
            else AGAIN
            if fit is SceneFit.SAID and turn.need
            else NEVER
        )

    def _bring(self, names: Iterable[str]) -> None:
        """Take in what a subject has of its own, beside the terms of the facet."""
        known = {normal(term.term) for term in self.terms}
        more = [
            _brought_along(self.want.facet, name) for name in names if normal(name) not in known
        ]
        self._own |= {normal(term.term) for term in more}
        self._weights += [0.0] * len(more)
        self._used += [min(self._used, default=0)] * len(more)
        self.terms += tuple(more)


@lru_cache(maxsize=8192)
def _brought_along(facet: str, name: str) -> Term:
    """A deed of a subject's own as a term: the same one in every deck, so no two slots say it."""
    return Term(facet, name, layer=BROUGHT_ALONG)


def _turn(want: Want) -> tuple[float, bool, int]:
    """When a slot has its turn: the situation first, in it the one that the picture is of, and
    behind the place others and things that may be there or not; then what is needed; then the rest.
    """
    place = FIRST.index(want.facet) if want.facet in FIRST else len(FIRST)
    if place >= SITUATION:
        return SITUATION, not want.need, place
    beside = want.seat.role == OTHER or (want.seat.role == LEAD and not want.need)
    return FIRST.index(PLACE) + 0.5 if beside else place, False, place


class Picker:
    """Picks fills for several slots at once, so they suit each other and say nothing twice."""

    def __init__(
        self, wants: Iterable[Want], random: "Random", lean: Callable[[Term], float] | None = None
    ):
        order = sorted(wants, key=lambda w: (w.apart, *_turn(w)))
        self._seed, self._lean, self._dice = random.random(), lean, {}
        self._decks = [Deck(want, self._random(want.facet), lean) for want in order]
        self._told = [term for want in order if want.facet == PLACE for term in want.terms]

    def _random(self, what: str) -> "Random":
        """The chance of one facet, which no other slot moves on: pictures of one draw share what
        their formulas share.
        """
        from random import Random  # imported late: a prompt with nothing to pick draws nothing

        return self._dice.setdefault(what, Random(f"{self._seed} {what}"))

    def pick(
        self,
        scene: Scene,
        words: Iterable[str] = (),
        but: Mapping[str, Collection[Term]] = MappingProxyType({}),
    ) -> dict[str, Fill | None]:
        """A fill for every slot that goes with what is in the scene, says none of the ideas
        `words`, and takes none of `but` (slot → terms); None for a slot that is left open.
        """
        told, told_apart = set(words), set()
        scene, strays = scene.copy(), self._random("strays").random() < STRAY
        facets = [deck.want.facet for deck in self._decks]
        settles = (facets.count("action") > 1 or not set(HEARD).isdisjoint(facets)) and set(
            facets
        ).isdisjoint((PLACE, "background"))
        if not scene.has_place:
            alike = [scene.alike(term) for term in self._told if said(term).isdisjoint(told)]
            scene.open_places = (
                frozenset(normal(term.term) for term in alike if term)
                if all(alike)
                else frozenset()
            )
        picked: dict[str, Fill | None] = {}
        for deck in self._decks:
            want = deck.want
            if settles and want.facet in (*HEARD, "action"):
                self._settle(scene, strays)
            heard = told_apart if want.apart else told
            chosen: list[Term] = []
            passed = list(but.get(want.slot, ()))
            for number in range(
                self._random(want.facet).randint(*want.take)
                if want.take[0] < want.take[1]
                else want.take[0]
            ):
                passed += [*self._laid_aside(deck, scene, heard, passed, strays), *chosen]
                with_chosen = scene.copy() if chosen else scene
                if chosen:
                    with_chosen.add(want.seat, chosen)
                term = deck.draw(with_chosen, heard, passed, want.need and not number, strays)
                if term is None:
                    break
                chosen.append(term)
                heard |= said(term)
            if chosen and not want.apart:
                scene.add(want.seat, chosen, beside=not want.skip)
            picked[want.slot] = fill_of_terms(chosen)
        return picked

    def _laid_aside(
        self, deck: Deck, scene: Scene, heard: Set[str], but: Collection[Term], strays: bool
    ) -> list[Term]:
        """The terms that a slot with `skip` draws first. The rest goes with them, so it is as in
        the picture that takes them: the last frame of a clip has the light and the lens of the
        first.
        """
        laid: list[Term] = []
        for _ in range(deck.want.skip):
            if term := deck.draw(scene, heard, [*but, *laid], deck.want.need, strays):
                laid.append(term)
        if laid:
            scene.add(deck.want.seat._replace(slot=""), laid)
        return laid

    def _settle(self, scene: Scene, strays: bool) -> None:
        """Where no place is reported, and none will be, let the one that the picture is of be
        somewhere all the same: deeds and sounds then come from one place.
        """
        if PLACE in scene.vocabulary and not scene.has_place:
            home = Deck(
                Want("", PLACE, scene.vocabulary[PLACE].terms, seat=UNTOLD),
                self._random(PLACE),
                self._lean,
            )
            if scene.belongs(UNTOLD) and (place := home.draw(scene, need=False, strays=strays)):
                scene.settle(place)
