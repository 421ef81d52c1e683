"""Picks from the vocabulary: what suits best most often, everything now and then, nothing that contradicts.

Each open slot has a deck: its terms with a weight each. A term's weight is two to the power of its score: how well it suits what stands
beside it (affinity.py), what themes lean to, whether it is a favourite, less what it was picked before. One that contradicts, that takes
for granted what can't be (world.py), that does not belong to who and where it is (scene.py), that needs beside it what is not there, or
that says again what is said already, is not picked.
"""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence, Set
from functools import lru_cache
from types import MappingProxyType
from typing import TYPE_CHECKING, NamedTuple

from syntagma.core.drafting.fills import Fill, fill_of_terms
from syntagma.core.picking.scene import ANYONE, BROUGHT_ALONG, HEARD, PLACE, UNTOLD, Home, Scene
from syntagma.core.vocabulary.affinity import NEVER, suits
from syntagma.core.vocabulary.stated import said
from syntagma.core.vocabulary.terms import Term, explains, normal
from syntagma.core.vocabulary.world import LEAD, OTHER, Seat

if TYPE_CHECKING:
    from random import Random

STAR = 2.0  # a favourite weighs as much as four shared tempers
SLACK = 3.0  # how far below the best a term may be to be picked at all
FLOOR = -3.0  # below this a slot that needs nothing stays open: a poor fit is worse than a blank
USED = 1.0  # what each time that a term was picked takes off, up to MOST_USED times more than the least
MOST_USED = 3
AGAIN = -8.0  # what saying a word twice costs a slot that must be filled
KIN = -1.5  # what it costs a place or a deed to say again a word of the one that it belongs to
UNLIKELY = -4.0  # what it costs to disagree with a guess
ANYONES = -3.5  # what a deed that anybody may do is behind one's own
STRAY = 0.015  # how many pictures leave home: a place where nobody would look for the one who is there

# Facets that say what the picture is of: picked first, so that the rest goes with them.
FIRST = (
    "subject", "animal", "food", "object", "architecture", "setting", "background", "action", "looping-motion", "time-passing", "shot-size", "hour", "weather", "lighting",
)  # fmt: skip
BROUGHT = ("action",)  # what a subject brings along of its own, beside the terms of the facet


class Want(NamedTuple):
    """A slot to pick for: its terms, the least and the most that it takes, whether it has to be filled, and whether it
    stands `apart`, in the negative text, where it contradicts nothing and doubles nothing; `skip` terms are drawn and laid aside first."""

    slot: str
    facet: str
    terms: Sequence[Term]
    take: tuple[int, int] = (1, 1)
    need: bool = False
    apart: bool = False
    seat: Seat = Seat("", "")
    skip: int = 0


class Deck:
    """The terms of one slot, with what they weigh and how often each was picked."""

    def __init__(self, want: Want, random: "Random", lean: Callable[[Term], float] | None = None):
        self.want = want
        self.terms = tuple(want.terms)
        self._random = random
        self._weights = [(lean(term) if lean else 0.0) + STAR * term.star for term in self.terms]
        self._used = [0] * len(self.terms)
        self._suits: dict[Term, list[float]] = {}
        self._said = [said(term) for term in self.terms]
        self._needing = [(i, term) for i, term in enumerate(self.terms) if term.needs]
        self._own: dict[str, int] = {}  # deeds that a subject brings along, by their words

    def draw(
        self, scene: Scene, words: Set[str] = frozenset(), but: Collection[Term] = (), need: bool = True, strays: bool = False
    ) -> Term | None:
        """A term that goes with what stands in the scene (a list of terms in one slot weighs as much as a single one), says none of
        `words` and is none of `but`; with `strays` one that is not at home there. None where there is none, and unless there is a
        `need`, where none suits."""
        beside = scene.beside
        home = None if self.want.apart else scene.belongs(self.want.seat)
        if home and home.names and self.want.facet in BROUGHT:
            self._bring(home.names)
        scores = list(map(sum, zip(self._weights, *map(self._beside, beside), strict=True)))
        if not self.want.apart:
            self._keep_to_the_world(scores, scene, home, need, strays)
        for i, term in self._needing:
            if not any(explains(other, term) for others in beside for other in others):
                scores[i] = NEVER
        there = {*but, *(term for others in beside for term in others)}
        kin = scene.kin if home and home.names else frozenset()
        for i, own in enumerate(self._said):
            if self.terms[i] in there:
                scores[i] = NEVER
            elif not own.isdisjoint(words):
                among_kin = (own & words) <= kin  # a barber in a barber's shop: his own word, and better than another shop
                scores[i] += KIN if among_kin else AGAIN if need else NEVER
        best = max(scores, default=NEVER)
        at_home = home is not None and self.want.facet == PLACE
        if best == NEVER or (best < FLOOR and not need and not at_home):
            return None
        least = min(self._used)
        scores = [s - USED * min(used - least, MOST_USED) for s, used in zip(scores, self._used, strict=True)]
        best = max(scores)
        near = [i for i, score in enumerate(scores) if score >= best - SLACK]
        (found,) = self._random.choices(near, [2.0 ** (scores[i] - best) for i in near])
        self._used[found] += 1
        return self.terms[found]

    def _bring(self, names: Iterable[str]) -> None:
        """Take in what a subject has of its own, beside the terms of the facet."""
        known = {normal(term.term) for term in self.terms}
        more = [_brought_along(self.want.facet, name) for name in names if normal(name) not in known]
        if not more:
            return
        self._own |= {normal(term.term): len(self.terms) + i for i, term in enumerate(more)}
        self.terms += tuple(more)
        self._weights += [0.0] * len(more)
        self._used += [min(self._used, default=0)] * len(more)
        self._said += [said(term) for term in more]
        for other, known_scores in self._suits.items():
            known_scores += [suits(term, other) for term in more]

    def _keep_to_the_world(self, scores: list[float], scene: Scene, home: Home | None, need: bool, strays: bool) -> None:
        """Strike what can't be, and what does not belong."""
        seat = self.want.seat
        for i, term in enumerate(self.terms):
            if scores[i] == NEVER:
                continue
            alike = scene.alike(term)
            belongs = alike is None or (home.has(alike) if home else normal(term.term) not in self._own)
            if not belongs and ANYONE in term.tags and seat.facet == "action":
                scores[i] = min(scores[i], 0.0) + ANYONES
            elif not belongs and not (strays and seat.facet == PLACE):
                scores[i] = NEVER
                continue
            if not scene.allows(seat, term):
                scores[i] = NEVER
            elif scene.says_again(seat, term):
                scores[i] += AGAIN if need else NEVER
            elif not scene.likely(seat, term):
                scores[i] += UNLIKELY

    def _beside(self, others: Sequence[Term]) -> list[float]:
        """How well each term goes with those of another slot, on an average."""
        if len(others) == 1:
            return self._with(others[0])
        return [sum(scores) / len(others) for scores in zip(*map(self._with, others), strict=True)]

    def _with(self, other: Term) -> list[float]:
        """How well each term goes with `other`, looked up after the first time. What is kept out of a picture contradicts
        nothing in it."""
        known = self._suits.get(other)
        if known is None:
            known = [suits(term, other) for term in self.terms]
            if self.want.apart:
                known = [0.0 if score == NEVER else score for score in known]
            self._suits[other] = known
        return known


@lru_cache(maxsize=8192)
def _brought_along(facet: str, name: str) -> Term:
    """A deed of a subject's own as a term: the same one in every deck, so that no two slots say it."""
    return Term(facet, name, layer=BROUGHT_ALONG)


def _turn(want: Want) -> float:
    """When a slot has its turn: others than the one that the picture is of, and things that may be there or not, come behind the place."""
    if want.facet not in FIRST:
        return len(FIRST)
    beside = want.seat.role == OTHER or (want.seat.role == LEAD and not want.need)
    return FIRST.index("background") + 0.5 if beside else FIRST.index(want.facet)


class Picker:
    """Picks fills for several slots at once, so that they suit each other and say nothing twice."""

    def __init__(self, wants: Iterable[Want], random: "Random", lean: Callable[[Term], float] | None = None):
        order = sorted(wants, key=lambda w: (w.apart, _turn(w), not w.need))
        self._seed, self._lean, self._dice = random.random(), lean, {}
        self._decks = [Deck(want, self._random(want.facet), lean) for want in order]
        self._told = [term for want in order if want.facet == PLACE for term in want.terms]

    def _random(self, what: str) -> "Random":
        """The chance of one facet, which no other slot moves on: pictures of one draw share what their formulas share."""
        from random import Random  # imported late: a prompt with nothing to pick draws nothing

        return self._dice.setdefault(what, Random(f"{self._seed} {what}"))

    def pick(
        self, scene: Scene, words: Iterable[str] = (), but: Mapping[str, Collection[Term]] = MappingProxyType({})
    ) -> dict[str, Fill | None]:
        """A fill for every slot that goes with what stands in the scene, says none of the ideas `words`, and takes none of `but`
        (slot → terms); None for a slot that is left open."""
        told, told_apart = set(words), set()
        scene, strays = scene.copy(), self._random("strays").random() < STRAY
        facets = [deck.want.facet for deck in self._decks]
        settles = (facets.count("action") > 1 or not set(HEARD).isdisjoint(facets)) and set(facets).isdisjoint(
            (PLACE, "background")
        )
        if not scene.has_place:
            alike = [scene.alike(term) for term in self._told if said(term).isdisjoint(told)]
            scene.open_places = frozenset(normal(term.term) for term in alike if term) if all(alike) else frozenset()
        picked: dict[str, Fill | None] = {}
        for deck in self._decks:
            want = deck.want
            if settles and want.facet in (*HEARD, "action"):
                self._settle(scene, strays)
            heard = told_apart if want.apart else told
            chosen: list[Term] = []
            passed = list(but.get(want.slot, ()))
            for number in range(self._random(want.facet).randint(*want.take) if want.take[0] < want.take[1] else want.take[0]):
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

    def _laid_aside(self, deck: Deck, scene: Scene, heard: Set[str], but: Collection[Term], strays: bool) -> list[Term]:
        """The terms that a slot with `skip` draws first. The rest goes with them, so that it is as in the picture that takes them: the last
        frame of a clip has the light and the lens of the first."""
        laid: list[Term] = []
        for _ in range(deck.want.skip):
            if term := deck.draw(scene, heard, [*but, *laid], deck.want.need, strays):
                laid.append(term)
        if laid:
            scene.add(deck.want.seat._replace(slot=""), laid)
        return laid

    def _settle(self, scene: Scene, strays: bool) -> None:
        """Where no place is told, and none will be, let the one that the picture is of be somewhere all the same: deeds and sounds then come
        from one place, the one that a formula which tells it would have."""
        if PLACE in scene.vocabulary and not scene.has_place:
            home = Deck(Want("", PLACE, scene.vocabulary[PLACE].terms, seat=UNTOLD), self._random(PLACE), self._lean)
            if scene.belongs(UNTOLD) and (place := home.draw(scene, need=False, strays=strays)):
                scene.settle(place)
