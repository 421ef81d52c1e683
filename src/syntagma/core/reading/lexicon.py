"""What the vocabulary knows, made ready for reading: its names by their words, and labels that lead
to other things.
"""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from functools import lru_cache
from math import log
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import IN_NAMES
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import Term, folded

# ──── Labels and keys in other people's prompts, and what they say of the text under them.


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


NEGATIVE_LABELS = _set(
    "not never negative avoid exclude without unwanted leave_out leave-out negative_prompt"
    " negativeprompt dont"
)
PARAMETER_KEYS = _set(
    """
        seed aspect aspect_ratio ratio duration seconds length fps rate frames steps width height
        size_px quality count pictures resolution format cfg closeness strength model version loop
    """
)
GRADES = _set(
    "low medium high standard normal draft plain fine best max hd auto"
)  # of a quality that is a parameter: other words say what is to be seen


# ──── What the vocabulary knows, made ready for reading: its names by their words, and which facet
# a word speaks for.


LONGEST = 8  # words that one name may have
WORD = regex(r"[^\W_](?:[\w/'’.-]*\w)?")
_WORD_OR_COMMA = regex(r"[^\W_](?:[\w/'’.-]*\w)?|,")


def last_word(text: str) -> str:
    """The last word of a text, in small letters; "" if it has none."""
    return (text.rsplit(None, 1) or [""])[-1].lower()


class Name(NamedTuple):
    """A name that a term goes by. `own`: it is the term itself, or a form of it; else another
    spelling.
    """

    term: Term
    own: bool


class NearTerm(NamedTuple):
    """The term that comes nearest to some words, and the share of what they say that it says, too
    (0 to 1).
    """

    term: Term
    share: float


@lru_cache(maxsize=65_536)
def bare(word: str) -> str:
    """A word without the ending of a plural, as far as that is sure enough for telling
    names apart.
    """
    if len(word) > 3 and word.endswith("s") and not word.endswith(("ss", "us", "is")):
        return (
            word[:-3] + "y"
            if word.endswith("ies")
            else word[:-2]
            if word.endswith(("ches", "shes", "xes"))
            else word[:-1]
        )
    return word


def key_of(text: str, most: int = LONGEST) -> tuple[str, ...]:
    """The words that find a name: small, singular, without an article before them; none if there
    are more than `most`.
    """
    said = folded(text)
    return _key(said if "".join(said).isalnum() else WORD.findall(" ".join(said)), most)


def key_with_commas(text: str, most: int = LONGEST) -> tuple[str, ...]:
    """The same with commas as words of their own, as they are in a text that is read."""
    return _key(_WORD_OR_COMMA.findall(" ".join(folded(text))), most)


def _key(words: Sequence[str], most: int) -> tuple[str, ...]:
    words = [bare(word) if word[-1] == "s" else word for word in words]
    while words and words[0] in ("a", "an", "the"):
        words.pop(0)
    return tuple(words) if len(words) <= most else ()


class Lexicon:
    """All names of a vocabulary. Made once for many readings."""

    def __init__(self, vocabulary: Mapping[str, Sequence[Term]]):
        """`vocabulary`: the terms of each facet."""
        self.names: dict[tuple[str, ...], list[Name]] = {}
        self._having: dict[str, dict[str, list[Term]]] = {}  # facet → word → its terms that have it
        for facet, terms in vocabulary.items():
            having = self._having[facet] = defaultdict(list)
            for term in terms:
                group = english.split_place(term.place)[1] if term.place else ""
                words = set(self._named(term, term.term, True))
                for name in (term.phrase, term.place, group, term.clause):
                    if name and name != term.term:
                        self._named(term, name, True)
                for name in term.aka:
                    words.update(self._named(term, name, False))
                for word in words - IN_NAMES:
                    having[word].append(term)
        self.places = self._prepositions(vocabulary.get("setting", ()))
        self.first = frozenset(key[0] for key in self.names)

    def _named(self, term: Term, name: str, own: bool) -> tuple[str, ...]:
        """Keep a name of a term; return its key."""
        key = key_of(name)
        for way in (key, key_with_commas(name)) if "," in name else (key,):
            found = self.names.get(way)
            if found is None:
                if way:
                    self.names[way] = [Name(term, own)]
            elif found[-1].term is not term:
                found.append(Name(term, own))
        return key

    @staticmethod
    def _prepositions(settings: Sequence[Term]) -> dict[str, str]:
        """The preposition of a place, by its noun."""
        leads: dict[str, Counter[str]] = defaultdict(Counter)
        for term in settings:
            lead, group = english.split_place(term.place)
            if lead and (head := key_of(group[: head_end(group)])):
                leads[head[-1]][lead] += 1
        return {head: found.most_common(1)[0][0] for head, found in leads.items()}

    def _weight(self, word: str) -> float:
        """What a word weighs: the more terms have it, the less; 1 if none has."""
        number = sum(len(words[word]) for words in self._having.values() if word in words)
        return 1 / log(2 + number) if number else 1.0

    def facets(self, word: str) -> dict[str, int]:
        """The facets that have a bare word in their names, and in how many terms."""
        return {facet: len(words[word]) for facet, words in self._having.items() if word in words}

    def has(self, facet: str, word: str) -> bool:
        """Has a facet a bare word in one of its names?"""
        return facet in self._having and word in self._having[facet]

    def exact(self, text: str) -> list[Name]:
        """The terms that a whole text names."""
        return self.names.get(key_of(text), [])

    def within(self, words: Sequence[str]) -> list[tuple[int, int, list[Name]]]:
        """Names that are in a row of bare words: where each begins and ends, the longest first
        where they overlap.
        """
        found = []
        at = 0
        while at < len(words):
            if words[at] in self.first:
                for length in range(min(LONGEST, len(words) - at), 0, -1):
                    names = self.names.get(tuple(words[at : at + length]))
                    if names:
                        found.append((at, at + length, names))
                        at += length - 1
                        break
            at += 1
        return found

    def near(self, facet: str, text: str) -> NearTerm | None:
        """The term of a facet that has most of the text's words, rare ones counting more; None if
        it has none.
        """
        having = self._having.get(facet)
        words = [w for w in key_of(" ".join(WORD.findall(text)[:LONGEST])) if w not in IN_NAMES]
        if not having or not words:
            return None
        scores: dict[int, float] = defaultdict(float)
        terms: dict[int, Term] = {}
        weights = {word: self._weight(word) for word in words}
        for word in words:
            for term in having.get(word, ()):
                scores[id(term)] += weights[word]
                terms[id(term)] = term
        if not scores:
            return None
        whole = sum(weights[word] for word in words)

        def likeness(at: int) -> tuple[float, int]:
            return scores[at] / (whole + 0.2 * len(key_of(terms[at].term))), -len(terms[at].term)

        best = max(scores, key=likeness)
        return NearTerm(terms[best], min(0.9, scores[best] / whole))
