"""To which facet a few words belong, and why: the vocabulary's names first, then patterns and head nouns, then where the words stand."""

import re
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import HAND, WORD, Lexicon, bare
from syntagma.core.reading.prose.cues import COLOUR_WORDS, COLOURS, COMPILED, KINDS
from syntagma.core.reading.prose.head_nouns import ENDINGS
from syntagma.core.vocabulary.terms import Term

MAIN = frozenset("subject animal food object architecture close-detail creature-feature".split())  # what a picture can be of
# Facets that words behind a preposition belong to, where something says so; else they say where.
BEHIND = frozenset(
    """lighting hour weather mood palette background wardrobe composition finish expression film-look focus camera-angle era medium light-quality
    technique lens exposure pacing voice""".split()
)
LIGHTS_ONLY = frozenset(
    "light lighting sunlight moonlight candlelight lamplight firelight torchlight daylight starlight shade sun glow glare".split()
)
_BY_PATTERN = frozenset(
    "camera-move transition pacing camera-rig".split()
)  # whose nouns by themselves say too little: "harbour cranes"
_ORDER = ("hour", "weather", "lighting", "mood", "medium", "palette", "lens", "setting", "subject", "action")


class Sorted(NamedTuple):
    """What some words are: facet, how sure (0 to 1), why, and the term that they name. `facet` is "" where nothing tells."""

    facet: str
    sure: float = 0.0
    why: str = ""
    term: Term | None = None


NOTHING = Sorted("")
_IN_BACK = regex(r"(.+?)\s+(?:in the (?:background|distance|foreground)|behind|beyond)", re.I)


STRETCH = 600  # characters that are sorted as one thing


class Sorter:
    """Sorts words by one lexicon; what it has sorted it knows."""

    def __init__(self, lexicon: Lexicon):
        self.lexicon = lexicon
        self._known: dict[tuple[str, str], Sorted] = {}

    def sort(self, words: str, role: str = "noun") -> Sorted:
        """Sort words by themselves. `role` is how they stand: noun, behind (a preposition), deed."""
        if len(words) > STRETCH:
            return NOTHING  # no name and no clause is as long
        key = (words, role)
        found = self._known.get(key)
        if found is None:
            if len(self._known) > 50_000:
                self._known.clear()
            found = self._known[key] = self._sorted(words, role)
        return found

    def _sorted(self, words: str, role: str) -> Sorted:
        small = words.strip().lower()
        far = _IN_BACK.fullmatch(words.strip())
        if far and (inner := self.sort(far[1])).facet in ("lighting", "weather", "ambience", "music"):
            return inner._replace(term=None)
        if far and len(small.split()) <= 5 and far[1].lower() not in ("from", "seen from", "shot from"):
            return Sorted("background", 0.85, "stands behind")
        pattern = self._pattern(small)
        if pattern.facet == "negative":
            return pattern
        if small.startswith("on ") and all_colours(small[3:]):
            return Sorted("background", 0.85, "a colour to stand on")
        if all_colours(small):
            return Sorted("palette", 0.85, "names colours")
        exact = self._exact(words.strip(), role, pattern.facet)
        if exact.facet:
            return exact
        if pattern.facet:
            return pattern
        if (manner := _manner_of(words.strip())) and (inner := self.sort(manner)).facet in _MANNERS:
            return inner._replace(term=None, sure=min(inner.sure, 0.85))
        return self._head(small, role) if role != "deed" else NOTHING

    def _pattern(self, small: str) -> Sorted:
        for facet, pattern, why in COMPILED:
            if pattern.search(small):
                return Sorted(facet, 0.85, f"reads as {why}" if why != "lit by" else "“lit by” and its like")
        return NOTHING

    def _exact(self, words: str, role: str, hint: str) -> Sorted:
        """The term that the words name, with or without what leads to it."""
        for text, less, ending in self._bared(words):
            names = self.lexicon.exact(text)
            if ending:
                names = [n for n in names if n.term.facet in _ENDINGS[ending]]
            if not names:
                continue
            if role == "behind" and less:
                names = [n for n in names if n.term.facet in BEHIND | {"setting"} or n.term.place] or []
            if role == "deed":
                names = [
                    n
                    for n in names
                    if n.term.facet in ("action", "pose", "expression", "looping-motion", "visual-effect", "time-passing")
                ]
            names = [n for n in names if not (len(text.split()) == 1 and self._doubtful(n.term, text))]
            if not names:
                continue
            name = min(names, key=lambda n: (n.term.facet != hint, not n.own, self._rank(n.term.facet)))
            if hint and name.term.facet != hint and hint not in ("palette", "detail") and not name.own:
                continue
            why = "in the vocabulary" if name.own else f"another name of “{name.term.term}”"
            return Sorted(name.term.facet, 0.98 if name.own else 0.92, why, name.term)
        return NOTHING

    @staticmethod
    def _doubtful(term: Term, word: str) -> bool:
        """A single everyday word that names a shot or a deed ("roll", "single", "dive") says too little by itself."""
        return term.facet in ("camera-move", "transition", "pacing", "shot-size", "camera-rig", "looping-motion") and not (
            "-" in word or word == term.term
        )

    @staticmethod
    def _rank(facet: str) -> int:
        return _ORDER.index(facet) if facet in _ORDER else len(_ORDER)

    @staticmethod
    def _bared(words: str) -> list[tuple[str, int, str]]:
        """The words as they are, then without what leads to a name ("shot on an 85mm lens", "85mm lens") or ends it ("eerie mood");
        with how many words were taken off, and the ending."""
        found = [(words, 0, "")]
        at = 0
        parts = words.split(" ")
        while at < min(len(parts) - 1, 4) and parts[at].lower() in _LEADING:
            at += 1
            found.append((" ".join(parts[at:]), at, ""))
        last = parts[-1].lower()
        if len(parts) > 1 and last in _ENDINGS:
            found += [(text.rpartition(" ")[0], less, last) for text, less, _ in found if " " in text]
        return found

    @staticmethod
    def _ending(words: list[str], role: str) -> Sorted:
        """By how the noun ends: "housecoat", "schoolyard"."""
        for facet, endings in ENDINGS:
            found = next((e for e in endings if words[-1].endswith(e) and len(words[-1]) > len(e) + 2), "")
            if found and (role != "behind" or facet in BEHIND):
                return Sorted(facet, 0.7, f"its noun ends on “{found}”")
        return NOTHING

    def _head(self, small: str, role: str) -> Sorted:
        """By the noun that the words end on, before any preposition."""
        start = small
        if role == "behind":
            start = english.split_place(small)[1]
        _, group = english.split_determiner(start)
        if many := _MANY_OF.match(group):
            group = group[many.end() :]  # "a string of fairy lights"
        words = WORD.findall(group)
        if (
            len(words) > 5
            or _BROKEN.search(group)
            or words[-1:] == words[:1]
            or max(self.lexicon.heads.get(bare(words[-1]), {0: 0}).values()) < HAND
        ):
            words = (
                WORD.findall(group if _JOINED.fullmatch(group) else group[: head_end(group)]) or words
            )  # else short words end on a listed noun: "fine stippling"
        while len(words) > 1 and words[-1] in _AROUND:
            words.pop()
        while len(words) > 1 and words[-1] in _FULL:
            words.pop()
        if not words:
            return NOTHING
        counts = self.lexicon.heads.get(bare(words[-1]))
        if not counts:
            return self._ending(words, role)
        whole = sum(counts.values())
        facet, most = max(counts.items(), key=lambda one: one[1])
        if most / whole < 0.4 or (most < 2 and facet not in MAIN | {"setting"}):
            return self._ending(words, role)
        if facet in _BY_PATTERN:
            return NOTHING
        if facet == "palette" and most < HAND:
            return NOTHING
        if role == "behind" and (facet not in BEHIND or most < HAND):
            return NOTHING
        if role == "behind" and facet == "lighting" and words[-1] not in LIGHTS_ONLY:
            return NOTHING
        if facet == "finish" and role == "noun" and most < 12:
            return NOTHING
        sure = round((0.5 if most >= HAND else 0.3) + 0.3 * most / whole, 2)
        return Sorted(facet, sure, f"its noun is “{words[-1]}”")


def _manner_of(words: str) -> str:
    """What a look, a style or an effect is of: "lino-cut look"."""
    match = _MANNER.fullmatch(words)
    return match[1] if match else ""


_MANY_OF = regex(
    r"(?:[\w-]+ )?(?:strings?|rows?|pairs?|stacks?|piles?|bunch|set|handful|swarm|lines?|cluster|heap|wisps?|plumes?|trails?|ribbons?|shafts?|pools?|patch|bands?|clouds?|curls?|specks?) of "
    r"(?:an? |the )?(?=\w)",
    re.I,
)
_BROKEN = regex(
    rf".\s(?:{'|'.join(sorted((PREPOSITIONS | DETERMINERS) - {'overhead'}))}|\w{{3,}}ing)\s", re.I
)  # by what ends a noun group
_JOINED = regex(r"(?:[\w'’-]+ ){1,3}and(?: [\w'’-]+){1,3}")
_MANNER = regex(
    r"(?:an? |with an? |in an? |in the )?(.+?)[ -](?:look|feel|effect|texture|style|styling|aesthetic|inspired|like)", re.I
)
_MANNERS = frozenset("medium technique film-look design-style genre colour-grade".split())


def all_colours(small: str) -> bool:
    """Do words name colours and nothing else?"""
    words = re.findall(r"[a-zé-]+", small)
    named = [word for word in words if word in COLOURS]
    if words and words[-1] in _LIT:
        return False
    if len(words) == 2 and words[1] in COLOURS - _THINGS_TOO and words[0].endswith("y"):
        return True  # "icy blue"
    if words and words[0] in COLOURS and _ON_CLOTH.search(small):
        return True  # "indigo on natural linen"
    return (
        bool(named)
        and all(word in COLOURS or word in COLOUR_WORDS or word.rpartition("-")[2] in COLOURS for word in words)
        and (len(named) > 1 or named[0] not in _THINGS_TOO)
    )


_ON_CLOTH = regex(
    r"^[\w-]+ on (?:(?:natural|raw|unbleached|white|off-white|cream|ivory|black|grey|pale|dark) )+(?:linen|paper|cotton|card|ground|cloth)?$"
)
_LIT = frozenset("light sky sea lamp storm steel smoke forest".split())  # which have a colour, and are none
_THINGS_TOO = frozenset(
    "rose chalk terracotta ruby sapphire tobacco moss walnut honey chestnut mahogany caramel chocolate coffee biscuit oatmeal wheat sand plum slate ink brick bottle bone charcoal copper silver gold peach orange lemon jade emerald buff".split()
)
_FULL = frozenset("full filled packed crowded strewn littered lined covered piled stacked crammed".split())
_AROUND = frozenset("outside inside overhead behind below above beyond around everywhere".split())
_ENDINGS: dict[str, frozenset[str]] = {
    "mood": frozenset({"mood"}), "atmosphere": frozenset({"mood"}), "light": frozenset({"lighting", "light-quality"}), "lighting": frozenset({"lighting", "light-quality"}),
    "background": frozenset({"background"}), "style": frozenset({"design-style", "medium", "genre", "era"}), "palette": frozenset({"palette"}),
    "lens": frozenset({"lens"}), "expression": frozenset({"expression"}),
}  # fmt: skip
_LEADING = frozenset(
    """a an the in on at by of with to lit shot taken filmed under into aboard beside among against from over as through set seen against
    drawn painted made some""".split()
)


def is_kind(found: Sorted) -> bool:
    """Is it a kind of picture, which may be "of" something?"""
    return found.facet in KINDS
