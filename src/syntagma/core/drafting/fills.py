"""What is in a slot: terms, free text, lists, counts. Text given becomes a Fill once, and is used
many times.
"""

import re
import unicodedata
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics import ERROR, Finding, SyntagmaError, perhaps
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import is_person
from syntagma.core.formula.tree import Condition, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import Term, Vocabulary, brings, normal

if TYPE_CHECKING:
    from syntagma.core.models.profile import Profile
    from syntagma.core.models.references import KnownReference

Given = str | Sequence[str]


class BadFills(SyntagmaError):
    """Fills that can't be used. Carries a finding for each, its place being the slot."""

    def __init__(self, findings: list[Finding]):
        super().__init__("; ".join(f"{f.place}: {f.message}" for f in findings))
        self.findings = findings


class Item(NamedTuple):
    """One thing in a slot. `words` is how it reads in a sentence, `tag` how it is named; both
    without an article of ours.
    """

    words: str
    tag: str
    number: str  # one, many, mass or name
    place: str = ""
    clause: str = ""
    term: Term | None = None

    __eq__, __hash__ = object.__eq__, object.__hash__  # caches go by identity


class Fill(NamedTuple):
    """What is in one slot: the text as given, and its items. `count` where the slot counts."""

    given: str | tuple[str, ...]
    items: tuple[Item, ...]
    count: int = 0  # type: ignore[assignment]  # a field of this name hides tuple.count, which nobody asks a fill for

    __eq__, __hash__ = object.__eq__, object.__hash__  # caches go by identity

    @property
    def terms(self) -> tuple[Term, ...]:
        return tuple(item.term for item in self.items if item.term)

    @property
    def shown(self) -> str:
        """The fill on one line, as a person would type it."""
        return self.given if isinstance(self.given, str) else "; ".join(self.given)


def stands(condition: Condition, fill: Fill | None) -> bool:
    """Does this fill switch a conditional phrase on? What a person writes in their own words may be
    anything: it counts, but that people are known by their nouns.
    """
    if fill is None:
        return condition.negated
    if len(fill.terms) < len(fill.items):
        return (
            not _PEOPLE.issuperset(condition.words)
            or condition.negated
            or any(is_someone(item) for item in fill.items)
        )
    return (
        any(term.is_called(word) for word in condition.words for term in fill.terms)
        != condition.negated
    )


_PEOPLE = frozenset({"#person", "#group"})


def is_someone(item: Item) -> bool:
    """Does an item speak of a person: a term that does, a name, or a noun of people?"""
    if item.term:
        return not _PEOPLE.isdisjoint(f"#{tag}" for tag in item.term.tags)
    words = english.split_determiner(item.words)[1]
    nouns = words[: head_end(words)].lower().split()
    return item.number == "name" or any(
        is_person(one)
        for noun in nouns[-1:]
        for one in (noun, noun.removesuffix("s"), noun.removesuffix("'s"))
    )


def item_of_term(term: Term) -> Item:
    """The item that a vocabulary term makes."""
    return Item(term.phrase or term.term, term.term, term.number, term.place, term.clause, term)


def item_of_text(text: str, term: Term | None) -> Item:
    """The item that typed words make: as the term of that name is said in a sentence, if that has
    the same words ("low angle": seen from a low angle); else as they are.
    """
    if term is None:
        return free_item(text)
    if normal(text) == normal(term.full) or not brings(text, term.phrase or term.term):
        return item_of_term(term)
    article, _ = english.split_determiner(term.phrase)
    own = free_item(text)
    if article in ("a", "an") and own.words == own.tag and own.number != "many":
        own = own._replace(
            words=f"{english.article(text)} {text}"
        )  # "a slight smile", where the formula writes no article
    return own._replace(number=own.number if own.number == "many" else term.number, term=term)


def fill_of_term(term: Term) -> Fill:
    """The fill that a vocabulary term makes by itself."""
    return Fill(term.full, (item_of_term(term),))


def fill_of_terms(terms: Sequence[Term]) -> Fill | None:
    """The fill that several terms make as a list; None for none."""
    if len(terms) == 1:
        return fill_of_term(terms[0])
    return Fill(tuple(t.full for t in terms), tuple(map(item_of_term, terms))) if terms else None


def fill_of(rule: SlotRule, given: Given, vocabulary: Vocabulary) -> Fill | None:
    """Resolve what a person gave for a slot; None if it is blank. Raises BadFills for a count that
    is none.

    A list is given as a list, or as text with ";" between its members where the slot has a facet or
    takes several ("\\;" is a semicolon of the text itself).
    """
    if rule.number:
        return _count(rule, given)
    parts = [given] if isinstance(given, str) else list(given)
    if isinstance(given, str) and ((rule.facet and rule.facet in vocabulary) or rule.take[1] > 1):
        parts = re.split(r"(?<!\\);", given)
    facet = vocabulary[rule.facet] if rule.facet in vocabulary else None
    items = []
    for part in parts:
        text = cleaned(part)
        if text:
            term = facet.get(text) if facet else None
            items.append(item_of_text(text, term))
    if not items:
        return None
    return Fill(given if isinstance(given, str) else tuple(given), tuple(items))


def known_fill(
    rule: SlotRule, given: str, known: "Mapping[str, KnownReference]", profile: "Profile"
) -> Fill:
    """The fill that calls someone known by @name: in the model's own writing where a reference
    replaces words, else in words. Raises BadFills if nobody is known by it.
    """
    from syntagma.core.models.references import reference_for, written_reference

    name = given[1:]
    if name not in known:
        remedy = perhaps(name, known, f"it has {', '.join(known)}")
        raise BadFills(
            [
                Finding(
                    ERROR,
                    f"known.toml has nobody called “{name}”",
                    remedy,
                    rule.name,
                    code="unknown-handle",
                )
            ]
        )
    someone = known[name]
    reference = reference_for(someone, profile)
    if reference and profile.reference[reference.role].at == "place":
        handle = written_reference(reference, profile)
        return Fill(given, (Item(handle, handle, "name"),))
    return Fill(given, (free_item(someone.words),))


def _count(rule: SlotRule, given: Given) -> Fill | None:
    text = given if isinstance(given, str) else "; ".join(given)
    if not text.strip():
        return None
    number = english.read_count(text)
    if number is None:
        raise BadFills(
            [
                Finding(
                    ERROR,
                    f"“{text}” is not a count",
                    "write a whole number from 1: 6, or six",
                    rule.name,
                    code="no-count",
                )
            ]
        )
    return Fill(
        text, (Item(english.count_words(number), english.count_words(number), "many"),), number
    )


_EDGES = " \t\u00a0,;\u3000\ufeff" + "".join(
    map(chr, range(0x2002, 0x200C))
)  # spaces of all widths, commas
_CONTROL = regex(r"[\x00-\x08\x0a-\x1f\x7f-\x9f\u2028\u2029]")
_BLANK = regex(r"[\s\x00-\x1f\x7f-\x9f\u2028\u2029]+")


def cleaned(text: str) -> str:
    """Free text as a prompt can take it: on one line, without the commas and spaces around it; ""
    if nothing is said.
    """
    text = text.replace("\\;", ";")
    if not text.isprintable():
        text = _BLANK.sub(lambda m: " " if _CONTROL.search(m[0]) else m[0], text)
    text = text.strip(_EDGES).strip()
    text = text.strip(",; ")
    return text if any(unicodedata.category(c)[0] in "LNS" for c in text) else ""


@lru_cache(maxsize=4096)
def free_item(text: str) -> Item:
    """The item that free text makes: number and place by its own words."""
    determiner, rest = english.split_determiner(text)
    tag = rest if determiner.lower() in ("a", "an", "the") else text
    place = text if english.starts_with_preposition(text) else ""
    return Item(text, tag, english.countability(rest), place)
