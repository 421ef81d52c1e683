"""A prompt read by the formula that it may have been written with: its fixed words found again, and
what is between them in the slots.

Every phrase is tried with every choice of its slots blank, in the words that the writer itself
would write; the way through all phrases that explains the text best wins (dynamic programming over
phrase and place).
"""

import re
from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import Any, NamedTuple

from syntagma.core.drafting.fills import Fill, Item
from syntagma.core.english import (
    countability,
    plural,
    split_determiner,
    split_place,
    starts_with_preposition,
)
from syntagma.core.english.word_lists import kept_out
from syntagma.core.formula.tree import SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import key_of
from syntagma.core.vocabulary.terms import Term
from syntagma.core.writing.prompt_writer import Writer

LONGEST = 2_500  # characters of a text that is matched
WORDS = 40  # words that a clause of the vocabulary may have
# characters that a name may be longer in its place: what leads to it, plurals, what surrounds it
MORE = 60
SLOTS = 5  # slots of one phrase of which every choice is tried
# members of a list with what joins them: a longer one is not a choice, and each stretch of it would
# be looked at
MEMBERS = 31
# stretches that are tried as fills in one text; what comes after that many stays as it is
TRIED = 15_000
CACHE = 200_000  # words that were looked up and are remembered
ENDS = 40  # places at which one free text may end
NEEDED = 6.0  # what a phrase that must stay costs if it is missing
_SEAM = regex(r"[\s,;.:!?\"”]*")
_STOP = regex(r"[,;:.!?](?=\s|$)|$")
_HOLDER = regex(r"Zq([a-z])z(?:e?s)?")
_SENTENCES = regex(r"[.!?][\"”']?\s+[A-Z]")
_LIST = regex(r"(,\s+and\s+|,\s+|(?<!\s)\s+(?:and|or)\s+)")


class FormulaMatch(NamedTuple):
    """What a text says in the slots of a formula. `whole`: it holds nothing else; `score`: how well
    it is explained; `spans`: where each fill is.
    """

    fills: dict[str, str]
    score: float
    spans: dict[str, tuple[int, int]]
    phrases: list[tuple[int, int, int]]  # which phrase of the writer's runs from where to where


class _Variant(NamedTuple):
    """One way in which a phrase can be written: fixed words and slots by turns, fixed words
    first.
    """

    fixed: tuple[str, ...]
    slots: tuple[str, ...]


class _Taking(NamedTuple):
    """What a slot can hold. Slots that take the same find the same in a stretch of text, which is
    then looked at once.
    """

    facet: str  # "": free text
    noun: str  # what the register puts behind a term
    placed: bool
    number: bool
    several: bool


class Matcher:
    """Reads texts by one formula, as one model writes it."""

    def __init__(self, writer: Writer):
        self.writer = writer
        self._plans = writer.compiled.plans
        self._needed = {rule.name for rule in writer.rules if rule.need}
        self._variants = [self._ways(i) for i in range(len(self._plans))]
        self._known: dict[tuple[str, str], Term | None] = {}
        places = {
            g.head
            for phrase in writer.formula.phrases
            for g in phrase.groups()
            if g.form == "place"
        }
        self._takes = {rule.name: self._taking(rule, rule.name in places) for rule in writer.rules}
        self._moved: Matcher | None = (
            None  # by the order that brings what must stay within the model's reach
        )
        self._names: dict[str, tuple[dict[tuple[str, ...], Term], int]] = {}

    def match(self, text: str) -> FormulaMatch | None:
        """The fills that give this text, the outside of it apart; None if the formula can't have
        written it.
        """
        if len(text) > LONGEST or not text.strip() or not self._plans:
            return None
        own, forward = self._match(text), None
        if self.writer.profile.limits.reach and self.writer.forward is not self.writer:
            self._moved = self._moved or Matcher(self.writer.forward)
            forward = self._moved._match(text)
        return max((m for m in (own, forward) if m), key=lambda m: m.score, default=None)

    def _match(self, text: str) -> FormulaMatch | None:
        self._text, self._small = text, text.lower()
        self._held: dict[tuple[_Taking, int, int], tuple[str, float]] = {}
        self._memo: dict[tuple[int, int], tuple[float, tuple | None]] = {}
        score, way = self._best(0, 0)
        if way is None:
            return None
        fills: dict[str, str] = {}
        spans: dict[str, tuple[int, int]] = {}
        phrases: list[tuple[int, int, int]] = []
        while way:
            place, found, way = way
            phrases.append(place)
            for slot, start, stop, given in found:
                if slot not in fills:
                    fills[slot], spans[slot] = given, (start, stop)
        needed = [name for name in self._needed if name in self.writer.shown]
        if needed and not any(name in fills for name in needed):
            return None
        return FormulaMatch(fills, score, spans, phrases)

    def negatives(self, text: str) -> dict[str, str]:
        """What negative text says beside the formula's own words, in the slots of its negative
        lines.
        """
        slots = [name for phrase in self.writer.formula.negatives for name in phrase.slots]
        fixed = {
            key_of(part)
            for phrase in self.writer.formula.negatives
            for part in (
                self.writer.formula.text[phrase.span.start : phrase.span.stop]
                .lstrip("- ")
                .split(",")
            )
        }
        given: dict[str, list[str]] = {}
        for part in kept_out(text.strip(" .")):
            if key_of(part) in fixed:
                continue
            slot = next(
                (s for s in slots if self._term(self._takes[s].facet, part)),
                slots[0] if slots else "",
            )
            if slot:
                term = self._term(self._takes[slot].facet, part)
                given.setdefault(slot, []).append(term.named_by(part) if term else part)
        return {slot: "; ".join(parts) for slot, parts in given.items()}

    # How a phrase is written.

    def _ways(self, i: int) -> list[_Variant]:
        plan = self._plans[i]
        slots = list(plan.slots)[:SLOTS]
        found = []
        for number in range(len(slots), -1, -1):
            for kept in combinations(slots, number):
                way = self._way(i, kept)
                if way and way not in found:
                    found.append(way)
        return found

    def _way(self, i: int, kept: Sequence[str]) -> _Variant | None:
        holders = {slot: chr(97 + n) for n, slot in enumerate(kept)}
        fills: list[Fill | None] = []
        for rule in self.writer.rules:
            word = f"Zq{holders[rule.name]}z" if rule.name in holders else ""
            fills.append(Fill(word, (Item(word, word, "name", word, word),)) if word else None)
        waits = self.writer.compiled.phrases[i].waits
        if waits and not waits.negated and fills[self.writer.position[waits.slot]] is None:
            fills[self.writer.position[waits.slot]] = Fill(
                "x", (Item("x", "x", "name", "x", "x"),)
            )  # so that the phrase applies
        register, traits = self.writer.compiled.register, self._traits()
        if traits:
            register.traits = {}  # what completes a term is taken off what is found
        line = self.writer.phrases.line(i, fills)
        if traits:
            register.traits = traits
        if line is None:
            return None
        pieces = _HOLDER.split(line.text)
        names = {letter: slot for slot, letter in holders.items()}
        fixed = tuple(re.sub(r"\s+", " ", part.lower()) for part in pieces[::2])
        if not any(fixed) and not pieces[1:]:
            return None
        return _Variant(fixed, tuple(names[letter] for letter in pieces[1::2]))

    # The best way through the phrases.

    def _best(self, i: int, at: int) -> tuple[float, tuple | None]:
        at = begun.end() if (begun := _SEAM.match(self._text, at)) else at
        if i == len(self._variants):
            return (0.0, ()) if at >= len(self._text) else (float("-inf"), None)
        known = self._memo.get((i, at))
        if known:
            return known
        plan = self._plans[i]
        best, way = self._best(i + 1, at)
        best -= (
            NEEDED
            if plan.slots and (plan.mark == "!" or any(s in self._needed for s in plan.slots))
            else 2.0
            if not plan.slots
            else 0.0
        )
        seam = self._seam_costs(plan.joined, at)
        for variant in self._variants[i]:
            lacks = any(s in self._needed and s not in variant.slots for s in plan.slots)
            for stop, score, found in self._ends(variant, at, i):
                rest, onward = self._best(i + 1, stop)
                rest -= NEEDED if lacks else 0.0
                if onward is not None and score + rest - seam > best:
                    best, way = score + rest - seam, ((i, at, stop), found, onward)
        self._memo[i, at] = best, way
        return best, way

    def _seam_costs(self, joined: bool, at: int) -> float:
        """What it costs that a phrase does not follow the one before it as the writer would write
        it: with a comma or without.
        """
        before = self._text[:at].rstrip()[-1:]
        marked = before in ',;.:!?"”'
        return 0.0 if not before else 1.0 if joined and marked else 0.0 if joined or marked else 3.0

    def _ends(self, variant: _Variant, at: int, i: int) -> Iterator[tuple[int, float, tuple]]:
        """Where a phrase written so may end, how well it explains what it takes, and what its slots
        hold.
        """
        lead = variant.fixed[0].lstrip(
            ' "“'
        )  # a quotation mark that opens it was taken with the seam
        if not self._small.startswith(lead, at):
            return
        begin = at + len(lead)
        yield from self._slots(variant, 0, begin, 0.08 * len(lead), (), i)

    def _slots(
        self, variant: _Variant, n: int, at: int, score: float, found: tuple, i: int
    ) -> Iterator[tuple[int, float, tuple]]:
        if n == len(variant.slots):
            yield at, score, found
            return
        slot, after = variant.slots[n], variant.fixed[n + 1]
        takes = self._takes[slot]
        for stop in self._stops(after, at, n + 1 == len(variant.slots), i):
            held = self._held.get((takes, at, stop))
            if held is None:
                if len(self._held) >= TRIED:
                    return
                held = self._held[takes, at, stop] = self._given(takes, at, stop)
            given, worth = held
            if not given:
                continue
            entry = (slot, at, stop, given)
            yield from self._slots(
                variant,
                n + 1,
                stop + len(after),
                score + worth + 0.08 * len(after),
                (*found, entry),
                i,
            )

    def _stops(self, after: str, at: int, last: bool, i: int) -> list[int]:
        """Where what is in a slot may end."""
        if after.strip():
            found, stop = [], self._small.find(after, at + 1)
            while stop > 0 and len(found) < ENDS:
                found.append(stop)
                stop = self._small.find(after, stop + 1)
            return found
        if after:  # another slot of the same group follows: this one is a word or two before it
            end = ended.start() if (ended := _STOP.search(self._text, at)) else len(self._text)
            return [
                m.start() for m in re.finditer(re.escape(after), self._text[:end]) if m.start() > at
            ]
        found = [m.start() for m in _STOP.finditer(self._text, at + 1)][:ENDS] if last else []
        joined = any(plan.joined for plan in self._plans[i + 1 : i + 4])
        if joined:
            found += [
                at + m.start() for m in re.finditer(r" ", self._text[at : at + 160]) if m.start()
            ]
        return found

    # What a slot holds.

    def _traits(self) -> dict[str, Any]:
        """What the register knows of slots, of one that completes bare terms."""
        return getattr(self.writer.compiled.register, "traits", {})

    def _taking(self, rule: SlotRule, placed: bool) -> _Taking:
        traits = self._traits()
        noun = traits[rule.name].noun if rule.name in traits else ""
        facet = rule.facet if rule.facet in self.writer.compiled.vocabulary else ""
        return _Taking(facet, noun, placed, bool(rule.number), rule.take[1] > 1)

    def _given(self, takes: _Taking, at: int, stop: int) -> tuple[str, float]:
        said = self._text[at:stop].strip()
        if not said or said.lower() in ("a", "an", "the"):
            return "", 0.0
        if takes.number:
            return (said, 2.0) if re.fullmatch(r"\w+", said) else ("", 0.0)
        term = self._term(takes.facet, said)
        if not term and takes.noun and said.lower().endswith(f" {takes.noun}"):
            said = said[: -len(takes.noun) - 1]
            term = self._term(takes.facet, said)
        if term:
            return term.named_by(said), (
                4.0 if term.named_by(said) == term.full else 3.5
            ) + 0.02 * len(said)
        parts = self._listed(takes.facet, said) if takes.facet else []
        named = [term.named_by(part) for part, term in parts if term]
        if len(parts) > 1 and len(named) == len(parts):
            return "; ".join(named), 4.0 + 0.02 * len(said)
        if len(parts) > 1 and named and takes.several:
            return (
                "; ".join(term.named_by(part) if term else _plain(part) for part, term in parts),
                1.0,
            )
        if takes.facet and _SENTENCES.search(said):
            return "", 0.0  # no choice goes on behind the end of a sentence
        words = (
            said.count(" ") + 1 + 4 * (said.count(", ") + said.count(",\n"))
        )  # a comma is rather a seam than part of a fill
        if (
            starts_with_preposition(said[0].lower() + said[1:]) != takes.placed
        ):  # free text in a place has its preposition, elsewhere none
            words += 15
        if said[0].isupper() and self._begins(at, said) and countability(said) != "name":
            said = said[0].lower() + said[1:]
        return _plain(said), -0.5 - 0.2 * words if takes.facet else -0.15 * words

    def _begins(self, at: int, said: str) -> bool:
        """Does this stand at the beginning of a sentence, so its capital is the sentence's?"""
        return self._text[:at].rstrip()[-1:] in ("", ".", "!", "?", "\n") and not re.match(
            r"[A-Z]{2}|\w+ [A-Z]", said
        )

    def _listed(self, facet: str, said: str) -> list[tuple[str, Term | None]]:
        """What is between commas and "and", as many members as are terms taken together: "an open,
        unguarded laugh" is one.
        """
        if "," not in said and "and" not in said and "or" not in said:  # most stretches, quickly
            return []
        pieces = _LIST.split(said)
        if len(pieces) > MEMBERS:
            return [(said, None)]
        found, at = [], 0
        while at < len(pieces):
            for stop in range(min(len(pieces), at + 5), at, -2):
                part = "".join(pieces[at:stop])
                term = self._term(facet, part)
                if term or stop == at + 1:
                    found.append((part, term))
                    at = stop + 1
                    break
        return found

    def _term(self, facet: str, said: str) -> Term | None:
        if not facet:
            return None
        if facet not in self._names:
            self._names[facet] = self._index(facet)
        names, longest = self._names[facet]
        if len(said) > longest:
            return None
        known = self._known.get((facet, said))
        if known is None and (facet, said) not in self._known:
            if len(self._known) > CACHE:
                self._known.clear()
            known = names.get(key_of(said, WORDS)) or names.get(key_of(split_place(said)[1], WORDS))
            self._known[facet, said] = known
        return known

    def _index(self, facet: str) -> tuple[dict[tuple[str, ...], Term], int]:
        """The terms of a facet by every way in which they are written, and of how many characters
        the longest can be.
        """
        found: dict[tuple[str, ...], Term] = {}
        longest = 0
        terms = list(self.writer.compiled.vocabulary[facet])
        for forms in (
            lambda t: (t.term,),
            lambda t: (t.phrase, t.clause, t.place),
            lambda t: (split_place(t.place)[1], plural(t.phrase or t.term)),
        ):
            for term in terms:
                for name in forms(term):
                    if name and (key := key_of(name, WORDS)):
                        found.setdefault(key, term)
                        longest = max(longest, len(name))
        return found, longest + MORE


def _plain(said: str) -> str:
    """Free text as it is given for a slot: without an article of the formula's."""
    determiner, rest = split_determiner(said)
    return rest if determiner.lower() in ("a", "an") else said
