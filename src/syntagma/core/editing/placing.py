"""Somebody's own text put into a formula: items into slots, what has no slot introduced as a guest.

"a tired harbour pilot checking a tide board on a wet quay, low moon, no people" gives a poster its
subject in one piece and its light; nothing is taken apart to be joined again.
"""

import re
import tomllib
from collections.abc import Collection, Iterator, Mapping, Sequence, Set
from itertools import pairwise
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics import Span
from syntagma.core.drafting.draft import plan_phrase
from syntagma.core.drafting.fills import item_of_text
from syntagma.core.editing.edits import items
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.sentences import verb_at
from syntagma.core.english.verbs import VERBS, in_third, is_past
from syntagma.core.english.word_lists import DETERMINERS
from syntagma.core.formula.tree import FixedText, Formula, Group, Option, Phrase, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.picker import FIRST
from syntagma.core.reading.formula_rewriting import (
    doing,
    fill_text,
    lowered,
    slot_for,
    slots_as,
    stands,
)
from syntagma.core.reading.outer_form import NESTED, PROSE, TAGS
from syntagma.core.reading.prompt_pieces import DEED, NAMED, PromptPiece, Reading
from syntagma.core.reading.reader import SAYING
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.facets import HOMES, Traits
from syntagma.core.vocabulary.terms import Vocabulary, normal

# ──── How a guest of a formula is led to in a sentence, by its head noun ("with a shallow depth of
# field"), and where it goes: to its facet's home, before the closing words.


class Join(NamedTuple):
    """What leads to some nouns; the facets whose slots take no others."""

    say: str
    heads: frozenset[tuple[str, ...]]
    facets: frozenset[str]
    also: frozenset[str]  # facets that it leads, too, though their slots take other nouns as well


class Joins:
    """The table of joins (joins.toml)."""

    def __init__(self, text: str):
        tables = tomllib.loads(text).values()
        self.joins = [
            Join(
                one["say"],
                frozenset(
                    tuple(head.split()) for head in " ".join(one["heads"].split()).split("; ")
                ),
                *(frozenset(one.get(key, ())) for key in ("facets", "also")),
            )
            for one in tables
        ]

    def of(self, words: str, facet: str = "") -> Join | None:
        """What leads to a noun group; None if the table has not its head noun, its words lead
        themselves ("on a quay"), or it leads other facets than the one named.
        """
        if english.starts_with_preposition(words):
            return None
        group = english.split_determiner(words)[1].lower()
        whole, head = group.split(), group[: head_end(group)].split()
        tails = [
            tuple(said[-length:]) for said in (whole, head) for length in (3, 2, 1)
        ]  # the longest name is the noun: "depth of field"
        mine = [
            join
            for join in self.joins
            if not (facet and join.facets) or facet in join.facets | join.also
        ]
        return next((join for tail in tails for join in mine if tail in join.heads), None)

    def fits(self, words: str, facet: str) -> bool:
        """May words are in a slot of a facet, behind what a formula writes there?"""
        own = [join for join in self.joins if facet in join.facets]
        return not own or self.of(words) in own


def home_of(formula: Formula, facet: str, traits: Mapping[str, Traits]) -> int:
    """Where in the lines of a formula a guest of a facet goes: after the last phrase whose slots
    have their home no later; never before what it leads with, nor between phrases that hang
    together, nor behind its closing words.
    """
    shown = {
        n: line
        for n, line in enumerate(formula.lines)
        if isinstance(line, Phrase) and not line.negative
    }
    slots = [n for n, line in shown.items() if line.slots]
    if not slots:
        return max(shown) + 1 if shown else len(formula.lines)
    facets = {rule.name: rule.facet for rule in formula.slots}
    order = {name: n for n, name in enumerate(HOMES)}
    home = traits[facet].home if facet in traits else ""
    own = order.get(
        "making" if home == HOMES[0] else home, len(order)
    )  # a kind that does not lead is said late: "…, in the style of cubism"

    def latest(n: int) -> int:
        return max(
            (
                order.get(traits[facets[slot]].home, 0)
                for slot in shown[n].slots
                if facets.get(slot) in traits
            ),
            default=0,
        )

    leading = (
        order[HOMES[1]] if order[HOMES[1]] < own < len(order) else -1
    )  # a shot size that comes after the light draws no action there
    at = next((n for n in reversed(slots) if leading < latest(n) <= own), slots[0])
    at = max(at, slots[0])
    while (after := next((n for n in shown if n > at), None)) is not None and shown[after].joined:
        at = after
    return at + 1


def not_alone(formula: Formula, at: int, filled: Set[str]) -> int:
    """A guest's place `at` in the lines of a formula, or one before a full stop, where none of the
    `filled` slots follows that stop: "A fox, in the style of cubism", and no sentence of its own.
    """
    shown = {
        n: line
        for n, line in enumerate(formula.lines)
        if isinstance(line, Phrase) and not line.negative
    }
    for n, line in sorted(shown.items(), reverse=True):
        if n >= at:
            continue
        if plan_phrase(line).end == "." and not any(
            m > n and (not other.slots or not filled.isdisjoint(other.slots))
            for m, other in shown.items()
        ):
            at = n
    return at


def with_guests(formula: Formula, guests: Sequence[tuple[int, Phrase]]) -> Formula:
    """The formula with phrases more, each at its place among the lines as they were."""
    lines = list(formula.lines)
    for at, phrase in reversed(
        sorted(guests, key=lambda one: one[0])
    ):  # those of one place keep their order
        lines.insert(at, phrase)
    return formula._replace(lines=tuple(lines))


# ──── A text of somebody's own put into a formula: its core whole, where the formula says what the
# picture is of; an item that is plainly of one facet in its slot; all else, word for word, as
# guests.
#
# "a tired harbour pilot checking a tide board on a wet quay, low moon, no people" gives a poster
# its subject in one piece and its light; nothing is taken apart to be joined again.


SURE = 0.5  # how sure it must be what an item is before it goes into a slot
LISTED = 0.4  # and before it counts as an item of a list in a sentence of its own
WHOLE = 0.8  # how much of an item's letters a part has that is all of it
KINDS = facets.FacetGroup("kind")  # facets that say what kind of picture it is
_LEADING = facets.FacetGroup("before-core")  # what may come before the core
_BESIDE = facets.FacetGroup("beside-core")  # what is said of the core right after it
_GENERIC = frozenset("picture photo photograph image shot video clip".split())
_GOES_ON = regex(
    r"^(?:and|but|then|while|as|so|or|where|which|who|whose|that|until|till|when|after|before|because|with|without|its|though)\b",
    re.I,
)
_ENUMERATES = regex(
    r"\b(?:with|of|in|and|between)\b[^,]*$", re.I
)  # "vats filled with saffron" may go on: ", indigo and chalk-white dye"
_LAST_OF_SEVERAL = regex(r"^(?:[\w'’-]+ ){1,3}(?:and|or) (?:[\w'’-]+ ?){1,4}$", re.I)
_KIND_OF = regex(
    r"^(?P<kind>(?:an? )?[\w'’ -]{2,60}?)(?: (?:of|showing|that shows|depicting)|:)"
    r" (?P<core>\S.*)$",
    re.I | re.S,
)
_AUXILIARY = regex(
    r"\b(?:is|are|was|were|has|have|had|does|do|did|can|will|would|should|must|it's|there's)\b",
    re.I,
)
_RELATIVE = regex(r"\b(?:who|which|that|where|whose|what|there|it|this|as if|while)\b", re.I)
_COUNTED = regex(
    r"^\d+ ?(?:girl|boy|man|men|woman|women|person|people|other|animal|cat|dog)s?\b", re.I
)  # 1girl
_OF_SOMEONE = regex(
    r"^(?!an? |the )[\w'"
    r" -]{0,40}\b(?:hair|eyes?|skin|freckles|beard|lips|ears|wings|horns|tail|scars?|clothes|clothing)$",  # noqa: E501
    re.I,
)
_HANGS = regex(
    r"^(?:some|any|every|no)\w*\b|(?<![\w-])(?:on|off|in|out|up|down|with|of|at|to|for)$", re.I
)  # "somewhere with trams", "lights on": no noun that a sentence could lead to
_SOMEWHERE = regex(
    r"\b(?:in|on|at|under|beside|inside|along|across|through|behind|near|by|over|against|outside|between|among)"
    r" (?:an?|the|his|her|their|its|my|our)\b",
    re.I,
)
_SAYS = regex(r"^(?:he|she|they|it|i|we|you) \w", re.I)  # begins a sentence: "he says: …"
_LEADS = frozenset("a an the in on at of with by from seen lit and its".split())
_NO_GROUP = regex(
    r"^(?:(?:the"
    r" )?(?:camera|lens|shot|frame|view)\b|(?:i|you|he|she|it|we|they|there|this|that|these|those|here|how|what|why|where|when|who|if|as|let|for|including|with|without)\b|[/-])",  # noqa: E501
    re.I,
)  # what can't come after "of"


class TextStretch(NamedTuple):
    """An item, or several that belong together, or a whole sentence: its place, its words, its
    parts; `sentence`: it stays one, with its end; `beside`: it goes on right after the core
    ("crying, in a hat of tin").
    """

    start: int
    stop: int
    text: str
    parts: tuple[PromptPiece, ...]
    sentence: bool = False
    beside: bool = False

    @property
    def whole(self) -> PromptPiece | None:
        """The part that is all of it; None if it has several, or words besides."""
        if not self.parts:
            return None
        largest = max(self.parts, key=lambda piece: piece.stop - piece.start)
        return largest if largest.stop - largest.start >= WHOLE * len(self.text) else None


class WishPiece(NamedTuple):
    """A stretch of the text and the slot that it went to."""

    span: Span
    slot: str
    text: str


class Tables(NamedTuple):
    """What ships of how people write: the names of kinds that lead (own-words.toml), and
    the joins.
    """

    leads: Mapping[str, Any]
    joins: Joins


class Placed(NamedTuple):
    """What a text gives a formula: fills by slot and the stretches that gave them; the slots of
    which its core speaks already, so nothing more is said there; guests in order; what it keeps
    out; its weights by slot or by the words of a guest.
    """

    wish: str
    fills: dict[str, str]
    pieces: tuple[WishPiece, ...]
    said: frozenset[str]
    guests: tuple[TextStretch, ...]
    negative: tuple[str, ...] = ()
    weights: Mapping[str, float] = {}
    typed: str = ""  # the text before it was cleaned


def placed(
    reading: Reading,
    formula: Formula,
    vocabulary: Vocabulary,
    tables: Tables,
    taken: Collection[str] = (),
    negative: Sequence[str] = (),
    weights: Mapping[str, float] = {},
    told: bool = False,
) -> Placed:
    """Put a text that was cleaned and read into the slots of a formula; `taken` are slots that are
    given already; `told`: it is a sentence of a story.
    """
    work = _Placing(reading, formula, vocabulary, tables, taken, told)
    work.place()
    weighed = {}
    for words, weight in weights.items():
        slot = next(
            (piece.slot for piece in work.pieces if words.lower() in piece.text.lower()), ""
        )
        weighed[
            slot
            or next((one.text for one in work.guests if words.lower() in one.text.lower()), words)
        ] = weight
    return Placed(
        reading.text,
        work.fills,
        tuple(sorted(work.pieces)),
        frozenset(work.said),
        tuple(work.guests),
        tuple(negative),
        weighed,
    )


class _Placing:
    """The slots that are open, and what has gone into them."""

    def __init__(
        self,
        reading: Reading,
        formula: Formula,
        vocabulary: Vocabulary,
        tables: Tables,
        taken: Collection[str],
        told: bool,
    ):
        self.reading, self.formula, self.vocabulary, self.tables, self.taken, self.told = (
            reading,
            formula,
            vocabulary,
            tables,
            set(taken),
            told,
        )
        shown = {name for phrase in formula.phrases for name in phrase.slots}
        self.rules = {
            rule.name: rule for rule in formula.slots if rule.name in shown and not rule.number
        }
        self.spoken = quoted_slots(formula)
        self.several: dict[str, list[str]] = {}
        self.pieces: list[WishPiece] = []
        self.said: set[str] = set()
        self.guests: list[TextStretch] = []

    @property
    def fills(self) -> dict[str, str]:
        return {slot: "; ".join(texts) for slot, texts in self.several.items()}

    def place(self) -> None:
        """Go over the text, the core first."""
        stretches = list(_stretches(self.reading, self.told))
        at = next(
            (n for n, one in enumerate(stretches) if not one.sentence and self._is_core(one)), None
        )
        if at is None:
            at = next(
                (
                    n
                    for n, one in enumerate(stretches)
                    if one.sentence
                    or (
                        (one.whole is None or one.whole.facet not in _LEADING)
                        and not _participle(one.text)
                    )
                ),
                None,
            )
            at = None if at is None or stretches[at].sentence else at
        if at is not None and _OF_SOMEONE.search(
            stretches[at].text
        ):  # "silver hair, a girl in a red coat"
            at = next(
                (
                    n
                    for n, one in enumerate(stretches)
                    if n > at
                    and not one.sentence
                    and self._is_core(one)
                    and not _OF_SOMEONE.search(one.text)
                ),
                at,
            )
        core = stretches.pop(at) if at is not None else None
        left = self._core(core) if core else None
        near = core is not None and not left
        for one in stretches:
            near = (
                near
                and core is not None
                and not one.sentence
                and (
                    one.start < core.start
                    or _participle(one.text)
                    or (bool(one.parts) and all(piece.facet in _BESIDE for piece in one.parts))
                )
            )
            if one.sentence or not self._item(one):
                self.guests.append(
                    one._replace(
                        sentence=one.sentence or bool(_SAYS.match(one.text)),
                        beside=near
                        and core is not None
                        and (one.start > core.start or _participle(one.text)),
                    )
                )
        self.guests = sorted([*self.guests, *([left._replace(sentence=True)] if left else [])])

    # The core

    def _is_core(self, one: TextStretch) -> bool:
        if _COUNTED.match(one.text) or (
            not _NO_GROUP.match(one.text)
            and (match := _KIND_OF.match(one.text))
            and self._names_kind(english.split_determiner(match["kind"])[1])
        ):
            return True
        if (
            _NO_GROUP.match(one.text)
            or english.starts_with_preposition(one.text)
            or _participle(one.text)
        ):
            return False
        first = next((piece for piece in one.parts if piece.facet not in _LEADING), None)
        return (
            first is not None
            and self.vocabulary.participant(first.facet)
            and (one.whole is None or self.vocabulary.participant(one.whole.facet))
        )

    def _main(self) -> SlotRule | None:
        """The slot of what the picture is of: of a participant, else the place, else what is
        needed.
        """
        order = {facet: n for n, facet in enumerate(FIRST)}
        open_ = [rule for rule in self.rules.values() if rule.facet in self.vocabulary]
        of = (
            [
                rule
                for rule in open_
                if self.vocabulary.participant(rule.facet) and rule.facet in order
            ]
            or [rule for rule in open_ if rule.need and rule.facet == "setting"]
            or [rule for rule in open_ if rule.need]
        )
        return min(
            of, key=lambda rule: (not rule.need, order.get(rule.facet, len(order))), default=None
        )

    def _core(self, core: TextStretch) -> TextStretch | None:
        """Put the core into the main slot, its kind before "of" where the formula says the kind;
        what can't stand there comes back.
        """
        text, start = core.text, core.start
        if (
            (match := _KIND_OF.match(text))
            and not _NO_GROUP.match(match["core"])
            and not _NO_GROUP.match(text)
        ):
            kind = english.split_determiner(match["kind"])[1]
            if self._names_kind(kind) and self._kind(kind, start):
                start += match.start("core")
                text = match["core"]
        main = self._main()
        if main is None:
            return core._replace(start=start, text=text)
        if main.name in self.taken:
            self._apart(core)
            return None
        words = self._without_taken(core, text, start)
        group = self._as_group(words, core)
        if group is None:
            return core._replace(start=start, text=text)
        determiner, bare = english.split_determiner(group)
        bare = (
            bare
            if determiner.lower() in ("a", "an") and english.countability(bare) == "one"
            else group
        )  # the article that would not come by itself stays
        self._take(main.name, start, core.stop, bare.replace(";", ","))
        facets = {piece.facet for piece in core.parts if piece.start > start} | (
            {"action"} if re.search(r"\b\w+ing\b", words) else set()
        )
        if _SOMEWHERE.search(words):
            facets.add("setting")  # "sleeping in the snow"
        kin = facets.union(*(self.vocabulary.kin(facet) for facet in facets)) if facets else facets
        self.said |= {
            rule.name
            for rule in self.rules.values()
            if rule.name != main.name
            and rule.facet in kin
            and not self.vocabulary.participant(rule.facet)
            and rule.name not in self.taken
        }
        return None

    def _names_kind(self, words: str) -> bool:
        """Do words before "of" name a kind of picture: "a matte painting", "pixel art", "cinematic
        still"?
        """
        low = words.lower()
        last = low.split()[-1]
        leads = self.tables.leads
        return (
            last in leads["counted"]
            or last in _GENERIC
            or any(low == one or low.endswith(f" {one}") for one in leads["plain"])
            or low in ("interior", "exterior")
        )

    def _kind(self, words: str, start: int) -> bool:
        """What kind of picture it is, in the slot for that, or said by the formula's name; False if
        it stays with what it is of.
        """
        if self._says(words):
            return True
        slot = next(
            (
                rule.name
                for rule in self.rules.values()
                if rule.name not in self.several
                and rule.name not in self.taken
                and (rule.name == "kind" or rule.facet in KINDS)
            ),
            None,
        )
        if slot:
            self._take(slot, start, start + len(words), lowered(words))
        return bool(slot)

    def _as_group(self, words: str, core: TextStretch) -> str | None:
        """The core as it is behind "of": "a trucker stirs his coffee" as "a trucker stirring his
        coffee"; None if it can't be determined how.
        """
        words = words if core.parts and core.parts[0].build == NAMED else lowered(words)
        if _NO_GROUP.match(words):
            return None
        small = words.rstrip(".!?").lower().split()
        at = verb_at([word.strip(",;:") for word in small])
        if (at == len(small) - 1 and small[0] not in DETERMINERS) or (
            at and _RELATIVE.search(" ".join(small[:at]))
        ):
            at = 0  # "ballet shoes", "a sign that reads"
        if (
            english.starts_with_preposition(words)
            or (len(small) > 1 and small[0] in VERBS and small[1] in DETERMINERS)
            or re.search(r"\b(?:has|have|had)$", " ".join(small[:at]))
        ):
            return None
        if not at:
            before = next(
                (
                    (one, other)
                    for one, other in pairwise(core.parts)
                    if self.vocabulary.participant(one.facet)
                    and other.build == DEED
                    and in_third(other.words.split()[0].lower())
                ),
                None,
            )
            at = (
                len(words[: max(0, before[1].start - core.start)].split())
                if before
                and len(words) == len(core.text)
                and not _RELATIVE.search(words[: before[1].start - core.start])
                else 0
            )
        if (
            (
                being := next(
                    (
                        n
                        for n, word in enumerate(small[1:], 1)
                        if word in ("is", "are", "was", "were")
                    ),
                    0,
                )
            )
            and not _RELATIVE.search(" ".join(small[:being]))
            and (not at or being <= at)
        ):
            return " ".join(
                words.split(" ")[:being] + words.split(" ")[being + 1 :]
            )  # "two boys were lighting a fire"
        if not at and self.told:
            at = _told_at(small)
        if not at:
            return words
        if _AUXILIARY.match(small[at]):
            return None
        parts = words.split(" ")
        return f"{' '.join(parts[:at])} {doing(' '.join(parts[at:]))}" if at < len(parts) else words

    def _without_taken(self, core: TextStretch, text: str, start: int) -> str:
        """The words of the core without the parts for which something else is given."""
        away = {rule.facet for rule in self.rules.values() if rule.name in self.taken}
        for piece in sorted(core.parts, key=lambda one: -one.start):
            if piece.facet in away and piece.start > start:
                a, b = piece.start - start, piece.stop - start
                text = (
                    re.sub(r"(?:\s*,)?(?:\s+(?:of|with|and|in|on|at))?\s*$", "", text[:a])
                    + text[b:]
                )
        return text

    def _apart(self, core: TextStretch) -> None:
        """The core where its subject is given already: each of its other parts in its slot."""
        for piece in core.parts:
            if not self.vocabulary.participant(piece.facet):
                self._item(TextStretch(piece.start, piece.stop, piece.words, (piece,)))

    # Items

    def _item(self, one: TextStretch) -> bool:
        """Put an item into the slot that takes it; whether there is one."""
        if self._spoken(one):
            return True
        piece = one.whole
        if piece is None:
            return False
        if piece.facet in KINDS and self._says(one.text):
            return True
        takes = (
            self.rules
            if piece.facet == "action" or not verb_at(one.text.lower().split())
            else {
                name: rule
                for name, rule in self.rules.items()
                if name in slots_as(self.formula, "clause")
            }
        )
        takes = {
            name: rule
            for name, rule in takes.items()
            if name not in self.taken and name not in self.said and not self._full(rule)
        }
        slot = slot_for(piece, takes, {}, (), self.vocabulary)
        if slot is None or piece.sure < SURE or not self._joins(piece, self.rules[slot]):
            return self._is_given(piece)
        rule = self.rules[slot]
        if (rule.name == "kind" or rule.facet in KINDS) and not (
            piece.term or self._names_kind(one.text)
        ):
            return False  # "oil on canvas" leads to nothing: an oil on canvas of
        said = (
            piece.words if ":" in one.text[: piece.start - one.start] else one.text
        )  # without its label
        words = fill_text(
            piece._replace(text=said, plain=""),
            rule.facet,
            self.vocabulary,
            slot in slots_as(self.formula, "place"),
        )
        term = self.vocabulary[rule.facet].get(words) if rule.facet in self.vocabulary else None
        if term and not {*normal(item_of_text(words, term).words).split()} <= {
            *re.findall(r"\w+", normal(self.reading.text)),
            *_LEADS,
        }:
            return False  # the term would say it in words that are not the person's own
        self._take(slot, one.start, one.stop, words)
        return True

    def _full(self, rule: SlotRule) -> bool:
        return len(self.several.get(rule.name, ())) >= max(rule.take[1], 1)

    def _joins(self, piece: PromptPiece, rule: SlotRule) -> bool:
        """Does a part read well behind what a formula writes round the slot? It has the head noun
        that the lead wants.
        """
        if (
            not stands(piece, rule)
            or (
                rule.facet == "action"
                and not (
                    re.match(r"\w+ing\b", piece.words) or in_third(piece.words.split()[0].lower())
                )
            )
            or (rule.facet == "setting" and re.match(r"\w+ing\b", piece.words))
            or _HANGS.search(piece.words)
        ):
            return False
        if rule.facet in self.vocabulary and self.vocabulary.participant(rule.facet):
            return self.vocabulary.participant(piece.facet) and rule.name not in self.several
        return self.tables.joins.fits(piece.words, rule.facet)

    def _is_given(self, piece: PromptPiece) -> bool:
        """Is something else given for what an item says?"""
        wanted = {piece.facet} | self.vocabulary.kin(piece.facet)
        return piece.sure >= SURE and any(
            rule.facet in wanted and rule.name in self.taken for rule in self.rules.values()
        )

    def _says(self, words: str) -> bool:
        """Does the formula say a kind of picture itself, by its name?"""
        return set(normal(english.split_determiner(words)[1]).split()) <= set(
            self.formula.name.split("-")
        )

    def _spoken(self, one: TextStretch) -> bool:
        """A line that is said, in the slot that is in quotation marks; who says it stays if it has
        words of its own.
        """
        piece = next((piece for piece in one.parts if piece.facet == "speech"), None)
        slot = next(
            (
                name
                for name in self.spoken
                if name in self.rules and name not in self.several and name not in self.taken
            ),
            None,
        )
        before = one.text[: max(0, piece.start - one.start)] if piece else ""
        rest = [
            word
            for word in re.findall(r"\w+", before.lower())
            if word not in SAYING and word not in ("he", "she", "they", "it", "and")
        ]
        if piece is None or slot is None or (rest and "speaker" not in self.rules):
            return False
        if rest:
            self._take(
                "speaker",
                one.start,
                piece.start,
                re.sub(rf"[\s,]*(?:\b(?:{'|'.join(SAYING)})\b)?[\s,:\"“]*$", "", before),
            )
        self._take(slot, piece.start, piece.stop, piece.words)
        return True

    def _take(self, slot: str, start: int, stop: int, text: str) -> None:
        self.several.setdefault(slot, []).append(text)
        self.pieces.append(WishPiece(Span(start, stop), slot, text))


def _told_at(small: Sequence[str]) -> int:
    """Which word of a sentence of a story says in the past what somebody did; 0 if none does: "a
    fox watched from the yard", "Ada, a baker, unlocked the shop".
    """
    words = [word.strip(",;:") for word in small]
    return next(
        (
            n
            for n in range(1, len(words))
            if is_past(words[n])
            and words[n - 1] not in DETERMINERS
            and words[n - 1] not in ("and", "or")
        ),
        0,
    )


def _participle(words: str) -> bool:
    """Does an item begin with a participle, so it says something of another: "tied to nothing",
    "crossing a square"?
    """
    first = words.split()[0].lower()
    return first.endswith("ing") or (
        is_past(first)
        and len(words.split()) > 1
        and english.starts_with_preposition(words.split(" ", 1)[1])
    )


def _inverted(words: str) -> bool:
    """Does a sentence begin with where or when something happens: "In a ballroom chandeliers sway",
    "On the far bank a boat lies"?
    """
    small = words.lower().split()
    return english.starts_with_preposition(words) and any(
        word in DETERMINERS and verb_at(small[n:]) for n, word in enumerate(small) if n > 1
    )


def _stretches(reading: Reading, told: bool = False) -> Iterator[TextStretch]:
    """The stretches of a text: of sentences and lists their items, those together that belong
    together; of labels, times and JSON what each says.
    """
    parts = reading.parts()
    if reading.form not in (PROSE, TAGS):
        yield from _laid_out(reading, parts)
        return
    sentence: list[TextStretch] = []
    for item in items(reading.text):
        own = tuple(piece for piece in parts if item.start <= piece.start < item.stop)
        last = sentence[-1] if sentence else None
        named = (
            told
            and last is not None
            and not last.start
            and (
                re.match(r"(?:an?|the|in|with|whose) ", item.text)
                or is_past(item.text.split()[0].lower())
            )
            and last.parts
            and last.parts[0].build == NAMED
        )
        if last and (
            named
            or _GOES_ON.match(item.text)
            or (_LAST_OF_SEVERAL.match(item.text) and _ENUMERATES.search(last.text))
        ):
            sentence[-1] = TextStretch(
                last.start, item.stop, reading.text[last.start : item.stop], (*last.parts, *own)
            )
        else:
            sentence.append(TextStretch(item.start, item.stop, item.text, own))
        if re.search(r"[.!?…]", item.mark):
            yield from _sentence(reading.text, sentence, item.stop + len(item.mark))
            sentence = []
    yield from _sentence(reading.text, sentence, len(reading.text)) if sentence else ()


def _sentence(text: str, stretches: list[TextStretch], stop: int) -> Iterator[TextStretch]:
    """The stretches of a sentence: its items if it is a list of them, each one thing; else one,
    unless the text begins with it.
    """
    listed = all(
        (
            one.whole
            and one.whole.sure >= LISTED
            and not _AUXILIARY.search(one.text)
            and not verb_at(one.text.lower().split())
        )
        or len(one.text.split()) < 3
        for one in stretches
    )
    told = (
        stretches[0].start
        or _inverted(stretches[0].text)
        or (
            english.starts_with_preposition(stretches[0].text)
            and verb_at(" ".join(one.text for one in stretches[1:2]).lower().split())
        )
    )  # "In a ballroom, chandeliers sway"
    if (not listed or (len(stretches) == 1 and len(stretches[0].text.split()) > 5)) and told:
        start = stretches[0].start
        yield TextStretch(
            start,
            stop,
            text[start:stop],
            tuple(piece for one in stretches for piece in one.parts),
            True,
        )
    else:
        yield from stretches


def _laid_out(reading: Reading, parts: Sequence[PromptPiece]) -> Iterator[TextStretch]:
    """What labels, keys and times lead to: parts with nothing but blanks or small words between
    them are one.
    """
    held: list[PromptPiece] = []
    for piece in parts:
        if held and not re.fullmatch(
            r" (?:[a-z]+ ){0,3}", reading.text[held[-1].stop : piece.start]
        ):
            yield _of(reading, held)
            held = []
        held.append(piece)
    if held:
        yield _of(reading, held)


def _of(reading: Reading, held: Sequence[PromptPiece]) -> TextStretch:
    start, stop = held[0].start, held[-1].stop
    if (
        held[0].facet == "speech"
        and reading.text[start - 1 : start] in ('"', "“")
        and reading.form != NESTED
    ):
        start, stop = start - 1, stop + 1  # with its quotation marks
    return TextStretch(start, stop, reading.text[start:stop], tuple(held))


def quoted_slots(formula: Formula) -> list[str]:
    """The slots that are in quotation marks, in order."""
    found = []
    for phrase in formula.phrases:
        before = ""
        for node in phrase.body:
            for part in node.children if isinstance(node, Option) else (node,):
                if isinstance(part, FixedText):
                    before += part.raw
                elif isinstance(part, Group) and before.count('"') % 2:
                    found.append(part.head)
    return list(dict.fromkeys(found))
