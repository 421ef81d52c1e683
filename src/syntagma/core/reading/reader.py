"""A finished prompt taken apart: each piece with its facet, the term that it is or the nearest one,
how sure that is and why.

The outside is read by its grammar (outer_form.py), what is in it by a trained model (model/). The
pieces follow one another without gaps: joined they are the text, byte for byte.
"""

import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.features import ENDS, NOTHING_YET, Item, StretchContext, WordRow
from syntagma.core.reading.lexicon import WORD, Lexicon, bare
from syntagma.core.reading.outer_form import Outside, Region, outside, runs
from syntagma.core.reading.prompt_pieces import (
    CLAUSE,
    DEED,
    GLUE,
    LEFT,
    NEGATIVE,
    NOUN,
    PARAMETER,
    PART,
    REFERENCE,
    PromptPiece,
    Reading,
)
from syntagma.core.reading.weights import FoundPart, PartsModel
from syntagma.core.reading.words import ReadWord, WordKnowledge, is_determiner, is_lead
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.terms import Term

# ──── A text in stretches that are read as one: what is between marks of its outer form.


class WordSpan(NamedTuple):
    """A stretch of words, and the regions of the text that it was made of: text, and the marks of
    stress in it.
    """

    stretch: WordRow
    run: list[Region]


def stretches(text: str, outer: Outside, knowledge: WordKnowledge) -> Iterator[WordSpan]:
    """The stretches of words of a text. Marks of stress on words don't part them."""
    first = True
    for run in runs(outer.regions):
        texts = [region for region in run if region.kind == "text"]
        if not texts:
            continue
        words = (
            knowledge.words(text, texts[0].start, texts[0].stop)
            if len(texts) == 1
            else _marked(text, texts, knowledge)
        )
        if any(word.is_word for word in words):
            yield WordSpan(
                WordRow(knowledge, words, StretchContext(outer.form, _label(texts[0].name), first)),
                run,
            )
            first = False


def _marked(text: str, texts: Sequence[Region], knowledge: WordKnowledge) -> list[ReadWord]:
    """Words with marks of stress between or within them: read without the marks, put where they
    stand.
    """
    plain = "".join(text[r.start : r.stop] for r in texts)
    places = [at for r in texts for at in range(r.start, r.stop)]
    return [
        w._replace(start=places[w.start], stop=places[w.stop - 1] + 1)
        for w in knowledge.words(plain, 0, len(plain))
    ]


def _label(name: str) -> str:
    """What a label says, as far as it is known; else its last word."""
    low = name.lower()
    last = low.replace(".", " ").replace("_", " ").replace("-", " ").split()[-1:] or [""]
    return facets.facet_of_label(low) or facets.facet_of_label(last[0]) or last[0]


# ──── Why a part is taken for what it is: what weighed most for its facet, in words.


MOST = 2


def reason(model: PartsModel, stretch: WordRow, part: FoundPart) -> str:
    """What weighed most for the facet of a part, one or two things."""
    if part.facet not in model.parts.labels:
        return f"words of the vocabulary's {part.facet}"  # the model knows no such facet
    at = model.parts.labels.index(part.facet)
    said: dict[str, int] = {}
    for item, words in _told(stretch, part):
        said[words] = said.get(words, 0) + model.parts.field(
            model.parts.packed((item,), stretch.spell), at
        )
    best = sorted((words for words in said if said[words] > 0), key=lambda words: -said[words])[
        :MOST
    ]
    return ", ".join(best) or "by all its words together"


def _told(stretch: WordRow, part: FoundPart) -> Iterator[tuple[Item, str]]:
    """The features of a part that a person is helped by, and how they are reported."""
    a, b = part.first, part.stop
    words, seen = stretch.words, stretch.seen[a]
    head = min(max(seen.head, a), b - 1)
    yield ("H", words[head].low), f"its main word is “{words[head].low}”"
    if head != a:
        yield ("F", words[a].low), f"begins with “{words[a].low}”"
    if a and words[a - 1].is_word:
        yield f"-={words[a - 1].low}", f"comes after “{words[a - 1].low}”"
    if stretch.setting.label:
        yield f"l={stretch.setting.label} {(True, True)}", f"is under “{stretch.setting.label}”"
    if seen.quoted:
        yield "q", "in quotation marks"
    if seen.lead:
        yield f"p={seen.lead}", f"“{seen.lead}” leads to it"
    for x in range(a, b):
        for kind, spoken, whose in (
            ("v", stretch.named[x], "words of the vocabulary's"),
            ("t", stretch.traded[x], "words of the trade for"),
        ):
            for stop, of in spoken:
                if stop <= b and part.facet in of:
                    yield (
                        (
                            f"{kind}={part.facet}"
                            f" {'all' if stop - x >= b - a else 'half'}{' end' if stop == b else ''}"  # noqa: E501
                        ),
                        f"{whose} {part.facet}",
                    )


# ──── A finished prompt taken apart: each piece with its facet, the term that it is or the nearest
# one, how sure that is and why.
#
# The outside is read by its grammar (outer_form.py), what is in it by a trained model (model/). The
# pieces follow one another without
# gaps: joined they are the text, byte for byte.


_WHY = {
    PARAMETER: "written as a parameter",
    REFERENCE: "an address, a file or a handle",
    NEGATIVE: "says what to keep out",
}
_LEADS = regex(
    r"(?:(?:in|on|at|by|of|with|to|lit|shot|taken|filmed|under|into|aboard|beside|among|against|from|over|as|through|set|seen|drawn|painted|made|wearing|dressed)\s+){1,2}(?=\w)",
    re.I,
)
SPOKEN = ("speech", "lettering")  # what is in quotation marks


MOST_READ = 5_000  # characters; no model takes so long a prompt


def _beginning(text: str) -> str:
    """The part of a text that is read: all of a prompt, of a longer text what comes before the last
    sentence or line that ends soon enough.
    """
    if len(text) <= MOST_READ or text.lstrip()[:1] in ("{", "["):
        return text
    ends = [match.end() for match in re.finditer(r"[.!?,;]\s|\n", text[:MOST_READ])]
    return text[: ends[-1] if ends else MOST_READ]


class Reader:
    """Reads prompts with one vocabulary, one trained model and the profiles that apply."""

    def __init__(
        self,
        knowledge: WordKnowledge,
        model: PartsModel,
        profiles: Iterable[Profile],
        kin: Callable[[str], frozenset[str]],
    ):
        """`kin`: a facet, and those that the same words may be of."""
        self.knowledge, self.model, self.profiles, self.kin = (
            knowledge,
            model,
            tuple(profiles),
            lru_cache(maxsize=128)(kin),
        )

    @property
    def lexicon(self) -> Lexicon:
        """The names of the vocabulary."""
        return self.knowledge.lexicon

    def read(self, text: str) -> Reading:
        """Take a prompt apart. Any text can be read; of one that is far longer than a prompt only
        the beginning is (JSON, which has to be whole, apart).
        """
        whole, text = text, _beginning(text)
        outer = outside(text, self.profiles)
        found = [
            PromptPiece(
                r.start,
                r.stop,
                r.kind,
                text[r.start : r.stop],
                sure=0.95,
                why=_WHY[r.kind],
                name=r.name,
                value=r.value,
            )
            for r in outer.regions
            if r.kind in _WHY
        ]
        before = NOTHING_YET
        for span in stretches(text, outer, self.knowledge):
            parts = _whole(
                span.stretch,
                _quoted(self.model, span.stretch, self.model.read(span.stretch, before)),
            )
            for part in parts:
                before = before.then(part.facet)
            found += self._pieces(text, span, parts)
        return Reading(
            whole, outer.form, tuple(_without_gaps(whole, found)), outer.broken, len(text)
        )

    def _pieces(self, text: str, span: WordSpan, parts: list[FoundPart]) -> Iterator[PromptPiece]:
        stretch, at = span.stretch, 0
        for part in [*parts, None]:
            stop = part.first if part else len(stretch.words)
            for first, last in _left(stretch.words, at, stop):
                facet = "action" if stretch.build(first, last) == DEED else LEFT
                yield self._piece(
                    text,
                    span,
                    FoundPart(first, last, facet, 0.3),
                    "nothing shows what it is" if facet == LEFT else "it begins with a verb",
                )
            if part:
                known = self._known(stretch, part)
                yield self._piece(
                    text,
                    span,
                    part if known else part._replace(facet=LEFT, sure=0.3),
                    "" if known else "none of its words is in the vocabulary",
                )
                at = part.stop

    @staticmethod
    def _known(stretch: WordRow, part: FoundPart) -> bool:
        """Is one of a part's words known, a name, or a number?"""
        seen = stretch.seen[part.first : part.stop]
        return any(
            one.tag not in "UDPCS" or one.names or one.trade or one.quoted for one in seen
        ) or all(one.tag in "DPCS" for one in seen)

    def _piece(self, text: str, span: WordSpan, part: FoundPart, why: str) -> PromptPiece:
        start, stop = _extent(text, span.stretch, part)
        start, stop, plain, stress = _stressed(text, span.run, start, stop)
        if part.facet == "negative":
            return PromptPiece(
                start,
                stop,
                NEGATIVE,
                text[start:stop],
                NEGATIVE,
                part.sure,
                "a denial in the sentence",
            )
        term = self._term(plain, part.facet)
        near = None
        if term:
            own = english.split_determiner(plain)[1].lower() == term.term
            why = "in the vocabulary" if own else f"“{term.term}” of the vocabulary"
        else:
            why = why or reason(self.model, span.stretch, part)
            near = self._near(plain, part.facet)
        said, build = text[start:stop], span.stretch.build(part.first, part.stop)
        return PromptPiece(
            start,
            stop,
            PART,
            said,
            part.facet,
            round(part.sure, 2),
            why,
            term,
            near,
            stress,
            plain="" if said == plain else plain,
            build=build,
            lead=self._lead(span.stretch, part) if build == NOUN else "",
        )

    def _lead(self, stretch: WordRow, part: FoundPart) -> str:
        """The preposition that a place without one takes by its noun."""
        head = stretch.seen[part.first].head
        return (
            self.knowledge.preposition(bare(stretch.words[head].low))
            if part.facet in ("setting", "background") and head < part.stop
            else ""
        )

    def _term(self, words: str, facet: str) -> Term | None:
        """The term of a facet, or one of its kin, that words name, with or without what leads to
        it.
        """
        if facet in ("speech", LEFT):
            return None
        kin = self.kin(facet)
        lead = _LEADS.match(words)
        for text in (words, words[lead.end() :] if lead else "", english.split_place(words)[1]):
            names = (
                [name for name in self.lexicon.exact(text) if name.term.facet in kin]
                if text
                else []
            )
            if names:
                return min(names, key=lambda name: (name.term.facet != facet, not name.own)).term
        return None

    def known_as(self, words: str, facet: str) -> Term | None:
        """The term of a facet, or one of its kin, that words name, or that would do instead."""
        return self._term(words, facet) or self._near(words, facet)

    def _near(self, words: str, facet: str) -> Term | None:
        """A term that would do instead: it has the same noun, and one of the two says nothing that
        the other does not.
        """
        ours = [
            bare(word)
            for word in WORD.findall(words.lower())
            if not is_lead(word) and not is_determiner(word)
        ]
        nearest = (
            self.lexicon.near(facet, words) if ours and self.lexicon.has(facet, ours[-1]) else None
        )
        if not nearest:
            return None
        for name in (nearest.term.term, *nearest.term.aka):
            theirs = [
                bare(word)
                for word in WORD.findall(name.lower())
                if not is_lead(word) and not is_determiner(word)
            ]
            if (
                ours
                and theirs
                and ours[-1] == theirs[-1]
                and (set(theirs) <= set(ours) or set(ours) <= set(theirs))
            ):
                return nearest.term
        return None


def _quoted(model: PartsModel, stretch: WordRow, parts: list[FoundPart]) -> list[FoundPart]:
    """The parts, what is in quotation marks as one: it is said, or written."""
    words = stretch.words
    spans: list[tuple[int, int, int]] = []  # the mark, the first word inside, after the last
    for first in sorted({one.quoted for one in stretch.seen if one.quoted}):
        stop = next(
            i
            for i in range(first, len(words) + 1)
            if i == len(words) or stretch.seen[i].quoted != first
        )
        inside = [i for i in range(first, stop) if words[i].is_word]
        if inside:
            spans.append((first, inside[0], inside[-1] + 1))
    if not spans:
        return parts
    ends = [b for _, _, b in spans]
    kept = []
    for part in parts:
        at = bisect_right(ends, part.first)
        first, a, b = spans[at] if at < len(spans) else (0, len(words) + 1, 0)
        if part.stop <= a:
            kept.append(part)
        elif part.first < first - 1 and part.stop <= b:
            kept.append(part._replace(stop=first - 1))
    return sorted([*kept, *(model.best(stretch, a, b, SPOKEN) for _, a, b in spans)])


def _whole(stretch: WordRow, parts: list[FoundPart]) -> list[FoundPart]:
    """The parts, those as one that a name of the vocabulary holds together ("stable hand" "in muddy
    boots"), and of the facet that a word before a colon announces ("Ambience: hooves shift on
    stone"); what fog does is weather.
    """
    found: list[FoundPart] = []
    for part in _named_whole(stretch, parts):
        said = stretch.words[part.first : part.stop]
        leads = (len(said) == 1 and said[0].low in SAYING) or (
            len(said) == 1
            and said[0].low in _ELSEWHERE
            and stretch.words[part.stop : part.stop + 1]
            and not stretch.words[part.stop].is_word
        )
        if (
            _announced(stretch.words, part.first, part.stop)
            or leads
            or (part.facet in _THINGS and all(map(_idle, said)))
        ):
            continue
        if (
            stretch.words[part.first].low in SAYING
            and part.stop - part.first > 1
            and part.facet not in SPOKEN
        ):
            part = part._replace(
                first=part.first + 1,
                facet="subject" if part.facet in ("voice", "speech", "action") else part.facet,
            )
        if part.facet in (*_THINGS, "lighting") and found and stretch.finite(part.first, part.stop):
            part = part._replace(facet="action")  # what somebody did
        verb = stretch.past_verb(part.first, part.stop) if part.facet in _THINGS else 0
        if verb:
            found.append(part._replace(stop=verb))
            part = part._replace(first=verb, facet="action")
        told = _announced(stretch.words, part.first - 2, part.first - 1) if part.first > 1 else ""
        if told and told not in _WIDE and part.facet not in SPOKEN:
            part = part._replace(facet=told, sure=max(part.sure, 0.85))
        last = found[-1] if found else None
        if last and all(word.is_word for word in stretch.words[last.stop : part.first]):
            timed = (
                last.facet == "hour" and stretch.build(part.first, part.stop) == CLAUSE
            )  # "the morning" "the snow came"
            if timed or (
                last.facet in _MOVING and part.facet in ("action", "pose")
            ):  # "fog" "rolls over the bank"
                found[-1] = FoundPart(last.first, part.stop, last.facet, min(last.sure, part.sure))
                continue
        found.append(part)
    return found


def _named_whole(stretch: WordRow, parts: list[FoundPart]) -> Iterator[FoundPart]:
    """The parts, those as one that lie in one name of the vocabulary."""
    at = 0
    while at < len(parts):
        part, ahead = parts[at], at + 1
        before = parts[at - 1].stop if at else 0
        led = [
            (x, facets)
            for x in range(before, part.first)
            for stop, facets in stretch.named[x]
            if stop == part.stop
        ]
        if led:  # a name that begins if no part was found
            part = FoundPart(
                led[0][0],
                part.stop,
                part.facet if part.facet in led[0][1] else led[0][1][0],
                part.sure,
            )
        names = {
            stop: facets
            for x in range(part.first, part.stop)
            for stop, facets in stretch.named[x]
            if stop > part.stop
        }
        for n in range(at + 1, len(parts) if names else 0):
            if parts[n].stop > max(names):
                break
            if parts[n].stop in names:
                facets = names[parts[n].stop]
                facet = next(
                    (one.facet for one in parts[at : n + 1] if one.facet in facets), facets[0]
                )
                part, ahead = (
                    FoundPart(
                        part.first, parts[n].stop, facet, max(one.sure for one in parts[at : n + 1])
                    ),
                    n + 1,
                )
        yield part
        at = ahead


def _left(words: Sequence[ReadWord], first: int, stop: int) -> Iterator[tuple[int, int]]:
    """What is said between parts, sign by sign, without what only leads on."""
    at = first
    for i in range(first, stop + 1):
        if i == stop or not words[i].is_word:
            a, b = at, i
            while a < b and _idle(words[a]):
                a += 1
            while b > a and _idle(words[b - 1]):
                b -= 1
            if b > a and not _announced(words, a, b):
                yield a, b
            at = i + 1


def _announced(words: Sequence[ReadWord], a: int, b: int) -> str:
    """The facet that one word before a colon announces at the beginning of a sentence; "" if it
    does not.
    """
    begins = a == 0 or words[a - 1].low in ENDS
    return (
        facets.facet_of_label(words[a].low)
        if begins and b - a == 1 and b < len(words) and words[b].low == ":"
        else ""
    )


_THINGS = facets.FacetGroup("does-deeds")
SAYING = frozenset(
    "says said whispers whispered asks asked shouts shouted answers answered replies replied"
    " mutters muttered murmurs murmured".split()
)
_ELSEWHERE = frozenset(
    "below above outside inside behind meanwhile".split()
)  # which begin a sentence, and leave the place open
_MOVING = facets.FacetGroup("moves-by-itself")  # what these do is not a deed
_WIDE = facets.FacetGroup("wide-label")  # what words under such a label are is read of them
_IDLE = frozenset(
    """
        please make create generate draw show give film render imagine need want like would i me we
        us you can could picture image photo photograph video clip scene illustration shot it its
        there here this that these those he she they him her them his their and or also just now
        really very meanwhile so then while as says said say asks asked whispers whispered shouts
        shouted answers wears wearing reads reading is are was were be been being has have had do
        does did will should must not about only too
    """.split()
)


def _idle(word: ReadWord) -> bool:
    """Does a word say nothing by itself?"""
    return (
        word.low in _IDLE
        or is_lead(word.low)
        or is_determiner(word.low)
        or not word.low[0].isalnum()
    )


def _extent(text: str, stretch: WordRow, part: FoundPart) -> tuple[int, int]:
    """Where a part begins and ends; all that is in quotation marks if it is nothing but that."""
    words = stretch.words
    start, stop = words[part.first].start, words[part.stop - 1].stop
    opened = stretch.seen[part.first].quoted
    if part.facet in SPOKEN and opened:
        closed = next(
            (i for i in range(opened, len(words)) if words[i].low in ("”", '"')), len(words)
        )
        rest = [*range(opened, part.first), *range(part.stop, closed)]
        if part.stop <= closed and not any(words[i].is_word for i in rest):
            start, stop = (
                words[opened - 1].stop,
                (words[closed].start if closed < len(words) else stop),
            )
            said = text[start:stop]
            return start + len(said) - len(said.lstrip()), start + len(
                said.rstrip().removesuffix(",")
            )
    return start, stop


def _stressed(text: str, run: list[Region], start: int, stop: int) -> tuple[int, int, str, float]:
    """A piece with marks of stress in it: where it begins and ends, its words without the marks,
    and the weight on it.
    """
    if len(run) == 1:
        return start, stop, text[start:stop], run[0].stress
    weights = {
        r.stress
        for r in run
        if r.kind == "text"
        and r.start < stop
        and start < r.stop
        and any(c.isalnum() for c in text[max(start, r.start) : min(stop, r.stop)])
    }
    plain = "".join(
        text[max(start, r.start) : min(stop, r.stop)]
        for r in run
        if r.kind == "text" and r.start < stop and start < r.stop
    )
    if len(weights) > 1:  # marks within it belong to it
        start = next(
            (a.start for a, b in pairwise(run) if a.kind == GLUE and b.start == start), start
        )
        stop = next((b.stop for a, b in pairwise(run) if b.kind == GLUE and a.stop == stop), stop)
    return start, stop, plain, max(weights, key=lambda weight: abs(weight - 1), default=1.0)


def _without_gaps(text: str, found: Iterable[PromptPiece]) -> Iterator[PromptPiece]:
    at = 0
    for piece in sorted(found):
        if piece.start < at:
            continue
        if piece.start > at:
            yield PromptPiece(at, piece.start, GLUE, text[at : piece.start])
        yield piece
        at = piece.stop
    if at < len(text):
        yield PromptPiece(at, len(text), GLUE, text[at:])
