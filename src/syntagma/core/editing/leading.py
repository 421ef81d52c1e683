"""How somebody's words begin and are ordered: the kind of picture found and put in front, the order
of a model, the same words cut into tags.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from math import exp
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.editing.edits import SEAM, Edit, TextItem, edited, items, quotations, sewn
from syntagma.core.english.sentences import is_clause
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formula_rewriting import lowered
from syntagma.core.reading.prompt_pieces import NAMED, PromptPiece, Reading
from syntagma.core.reading.weights import MIDDLE, STEP, Scorer, logs
from syntagma.core.vocabulary import facets

# ──── What kind of picture a text asks for: photographed, drawn or made by hand, moving, or a
# designed thing. Learned from prompts whose kind was marked (training/kinds.py).


PHOTOGRAPHED, DRAWN, MOVING, DESIGNED = KINDS = ("photographed", "drawn", "moving", "designed")
MEDIA = {MOVING: "video"}  # the media of a kind; all others are images
BEGUN = 45  # words of a text from its beginning that tell its kind by themselves
_WORD = regex(r"[^\W\d_]{2,30}|\d+")
_TOLD = frozenset("was were had said did went came stood took".split())
_MAKING = regex(r"\bmaking: ([\w -]{1,80})")


class PictureKind(NamedTuple):
    """A kind of picture, and how sure it is that a text asks for it."""

    name: str
    sure: float


class KindWords:
    """Words that name a kind by themselves ("linocut", "tracking shot", "logo"), from lines of
    `kind: words; words`.
    """

    def __init__(self, text: str):
        lines = (
            line.split(": ", 1) for line in text.splitlines() if line and not line.startswith("#")
        )
        self.kinds = {
            tuple(_stems(words)): kind for kind, said in lines for words in said.split("; ")
        }
        self._longest = max(map(len, self.kinds), default=0)

    def named(self, words: Sequence[str]) -> Iterator[tuple[int, str]]:
        """Where such words are in a row of stems, and the kind that they name; the longest that
        begin with a word.
        """
        at = 0
        while at < len(words):
            length = next(
                (n for n in range(self._longest, 0, -1) if tuple(words[at : at + n]) in self.kinds),
                0,
            )
            if length:
                yield at, self.kinds[tuple(words[at : at + length])]
            at += length or 1


def features(text: str, reading: Reading, known: KindWords) -> Iterator[str]:
    """What tells the kind of a text: its words, those that name a kind, the last word of each item,
    and what the parts of its reading are (how a term is made, too).
    """
    words = _stems(unquoted := _unquoted(text))
    yield from (f"w={word}" for word in words[:BEGUN])
    if sum(word in _TOLD or word.endswith("ed") for word in words) > 1:
        yield "told"  # a story is reported; a clip happens
    begun = _stems(re.split(r"[,;.:!?]", _unquoted(reading.text), maxsplit=1)[0])
    for at, kind in known.named(begun):
        yield f"h={kind}"
        if at < 4:
            yield f"hh={kind}"
    named = list(known.named(words))
    for at, kind in named:
        yield f"k={kind}"
        if at < 4:
            yield f"k0={kind}"
    yield from (f"k1={kind}" for _, kind in named[:1])
    for kind in KINDS:
        if sum(one == kind for _, one in named) > 1:
            yield f"k2={kind}"
    for piece in reading.parts():
        yield f"f={piece.facet}"
        term = piece.term or piece.near
        if term and (made := _MAKING.search(term.world)):
            yield from (f"m={way}" for way in made[1].split())
    if unquoted != text:
        yield "q"
    yield "1"


def kinds_of(text: str, reading: Reading, known: KindWords, scorer: Scorer) -> list[PictureKind]:
    """The kinds of a text, the likeliest first."""
    steps = scorer.steps(scorer.packed(sorted(set(features(text, reading, known)))))
    chances = logs([(one - MIDDLE) * STEP for one in steps])
    return sorted(
        (
            PictureKind(name, exp(chance))
            for name, chance in zip(scorer.labels, chances, strict=True)
        ),
        key=lambda kind: -kind.sure,
    )


def _unquoted(text: str) -> str:
    """A text without what is quoted in it."""
    return " ".join(
        text[a:b] for (_, a), (b, _) in pairwise([(0, 0), *quotations(text), (len(text), 0)])
    )


def _stems(text: str) -> list[str]:
    """The words of a text without the s of a plural; all numbers are one."""
    return [_stem(match[0]) for match in _WORD.finditer(text.lower())]


def _stem(word: str) -> str:
    if word.isdigit():
        return "9"
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


# ──── How the kind of a picture leads: "linocut" at the end of a list becomes "A linocut of …" at
# its beginning, where what follows is a thing that can be of something.


_DETERMINED = re.compile(
    r"(?:an?|the|one|two|three|four|five|six|seven|eight|nine|ten|some|many|several|his|her|their|my|our|its|\d+)\b",
    re.I,
)
_THINGS = facets.FacetGroup("drawn")
SURE, CERTAIN = 0.6, 0.8


def led(text: str, reading: Reading, words: Mapping[str, Any], made: str = "") -> str:
    """The text with its kind in front; `words`: the tables of own-words.toml; `made`: the kind that
    who asks said ("drawing" of "draw me"). As it is if that can't be determined.
    """
    parts = items(text)
    if not parts or any(item.mark not in (",", ";", "") for item in parts[:-1]):
        return _begun(text, parts, reading, words)
    kinds = [n for n, item in enumerate(parts) if _kind(item.text, words)]
    if kinds and kinds[0] and _named(parts[0].text, words):
        return _begun(
            text, parts, reading, words
        )  # "a label for cordial, line drawing" has its kind already
    if kinds and re.match(
        r"(?:an?|the) (?:[\w-]+"
        r" )?(?:tour|loop|series|set|sequence|collection|view|shot|close-up|photo|picture|video|clip|page|map|poster|portrait)"  # noqa: E501
        r" (?:of|for) ",
        parts[0].text,
        re.I,
    ):
        return text  # "a tour of a greenhouse" has its kind already
    if kinds:
        lead, rest = parts[kinds[0]].text, [item for n, item in enumerate(parts) if n != kinds[0]]
    elif (
        made
        and not any(piece.facet in ("medium", "design-style") for piece in reading.parts())
        and not _named(parts[0].text, words)
    ):
        lead, rest = made, parts
    else:
        return _begun(text, parts, reading, words)
    if not rest or not _thing(rest[0], reading):
        return _begun(text, parts, reading, words)
    ended = text.rstrip()[-1:] if text.rstrip()[-1:] in ".!?" else ""
    whom = next(
        (
            one.words.lower()
            for one in reading.parts()
            if one.start == rest[0].start and one.facet in _THINGS
        ),
        "",
    )
    core = _with_article(rest[0].text, whom)
    head = lowered(lead)
    plain = any(
        head.lower() == word or head.lower().endswith(f" {word}")
        for word in words["leads"]["plain"]
    )
    if not plain and not _DETERMINED.match(head) and not english.is_plural(head.split()[-1]):
        head = f"{english.article(head)} {head}"
    joined = "".join(f"{item.mark or ','} {other.text}" for item, other in pairwise(rest))
    of = ": " if is_clause(rest[0].text) else " of "
    return f"{head[:1].upper()}{head[1:]}{of}{core}{joined}{ended}"


def _begun(text: str, parts: Sequence[TextItem], reading: Reading, words: Mapping[str, Any]) -> str:
    """The text with the article that a bare noun at its beginning needs: the kind of a picture, or
    a thing that the reader is sure of.
    """
    if not parts or _DETERMINED.match(text) or parts[0].start:
        return text
    kinds = "|".join(map(re.escape, words["leads"]["counted"]))
    first = parts[0].text
    if match := re.match(
        rf"((?:[\w'’-]+ ){{0,3}}?(?:{kinds}|close up))(?= (?:of|for|showing|with|from|where)\b)",
        first,
        re.I,
    ):
        noun = match[1]
    elif len(parts) > 1 or " " in first:
        piece = next((one for one in reading.parts() if one.start == parts[0].start), None)
        if (
            piece is None
            or piece.facet not in _THINGS
            or piece.sure < CERTAIN
            or is_clause(piece.words)
        ):
            return text
        with_it = _with_article(text, piece.words.lower())
        return with_it[:1].upper() + with_it[1:]
    else:
        return text
    low = lowered(text)
    return f"{english.article(noun).capitalize()} {low}"


def _kind(words: str, tables: Mapping[str, Any]) -> bool:
    """Is an item as a whole the name of a kind of picture that can be of something?"""
    low = re.sub(r"^(?:an?|the|in|as)\s+", "", words.lower())
    low = re.sub(r"^(?:black and white|pen and ink|ink and wash|head and shoulders) ", "", low)
    if len(low.split()) > 5 or re.search(r"\b(?:with|in|on|at|from|by|and|for|style)\b", low):
        return False
    last = low.split()[-1] if low.split() else ""
    return last in tables["leads"]["counted"] or any(
        low == word or low.endswith(f" {word}") for word in tables["leads"]["plain"]
    )


def _named(words: str, tables: Mapping[str, Any]) -> bool:
    """Does an item begin with the name of a kind: "a map of an island"?"""
    return bool(
        re.match(
            r"(?:an?|the)?\s*(?:[\w'’-]+"
            rf" ){{0,3}}?(?:{'|'.join(map(re.escape, (*tables['leads']['counted'], *tables['leads']['plain'])))})\b",  # noqa: E501
            words,
            re.I,
        )
    )


def _thing(item: TextItem, reading: Reading) -> bool:
    """Does an item begin with a thing that a picture can be of?"""
    if _DETERMINED.match(item.text):
        return not re.search(
            r"\b(?:light|palette|background|lens|style|mood|shadows?|focus)$", item.text, re.I
        )
    first = next(
        (piece for piece in reading.parts() if item.start <= piece.start < item.stop), None
    )
    return (
        first is not None
        and first.start == item.start
        and first.facet in _THINGS
        and first.sure >= SURE
    )


def _with_article(words: str, of: str = "") -> str:
    """A thing as it is behind "of": with the article that a bare one needs, in small letters; `of`
    is the noun group that it begins with, if that is known.
    """
    low = lowered(words)
    if _DETERMINED.match(low):
        return low
    group = re.match(
        r"[\w'’-]+(?: [\w'’-]+)*?(?="
        r" (?:with|in|on|at|of|from|by|under|over|and|that|who|which|he|she|it|\w+ing|\w+ed)\b|$)",
        low,
    )
    noun = of or (group[0] if group else low)
    if english.countability(noun) == "one" and not english.is_plural(noun.split()[-1]):
        return f"{english.article(low)} {low}"
    return low


# ──── A text with what it says of some facets in front: items and sentences are moved whole, and
# nothing is taken apart for it.


_CORE = facets.FacetGroup("core")
MOSTLY = 0.6  # how much of an item's letters a part has that it is moved for


def ordered(text: str, reading: Reading, first: Sequence[str]) -> str:
    """The text with the items of the facets `first` in front, in that order; as it is if no item is
    plainly of one of them.
    """
    ranked = [
        (rank, item) for item in items(text) if (rank := _rank(item, reading, first)) is not None
    ]
    if not ranked:
        return text
    moved = [item for _, item in sorted(ranked, key=lambda pair: pair[0])]
    rest = sewn(edited(text, [_off(text, item) for item in moved])).strip()
    named = any(piece.build == NAMED and rest.startswith(piece.words) for piece in reading.parts())
    lead = ""
    for item in moved:
        begins = not lead or lead.endswith(". ")
        words = (
            item.text[:1].upper() + item.text[1:]
            if begins and text[:1].isupper()
            else item.text
            if begins
            else lowered(item.text)
        )
        lead += words + (". " if is_clause(item.text) else ", ")
    if not english.has_stop(rest) and text.rstrip()[-1:] in ".!?":
        rest += text.rstrip()[-1]
    if not rest.strip(" .!?,;"):
        return lead.rstrip(" ,") + rest.strip(" ,;")
    return lead + (
        rest[:1].upper() + rest[1:] if lead.endswith(". ") else rest if named else lowered(rest)
    )


def _off(text: str, item: TextItem) -> Edit:
    """An item taken out; what it began goes on after a comma."""
    before = text[: item.start].rstrip()
    if before.endswith((".", "!", "?")) and item.mark in (",", ";"):
        return Edit(len(before) - 1, item.stop + len(item.mark), ",")
    return Edit(item.start, item.stop, SEAM)


def _rank(item: TextItem, reading: Reading, first: Sequence[str]) -> int | None:
    """Which of some facets an item is plainly of; None for none."""
    own = [piece for piece in reading.parts() if item.start <= piece.start < item.stop]
    ranks = [(first.index(piece.facet), len(piece.words)) for piece in own if piece.facet in first]
    mostly = bool(ranks) and sum(length for _, length in ranks) >= MOSTLY * len(item.text)
    begins = (
        bool(own)
        and own[0].facet in first
        and own[0].start == item.start
        and not any(piece.facet in _CORE for piece in own[1:])
    )  # "low sun behind her"
    return min(rank for rank, _ in ranks) if mostly or begins else None


# ──── A text in tags: its items, cut where the reader is sure that one part ends and another
# begins.


SURE_TO_CUT = 0.8
_APART = frozenset(
    ("", "of", ",", "showing")
)  # what may be between two parts that are tags of their own


def tags(text: str, reading: Reading) -> list[tuple[str, str]]:
    """The tags of a text, each with the facet of its first part ("" if it has none)."""
    found = []
    for item in items(text):
        found += _cut(
            item,
            [piece for piece in reading.parts() if item.start <= piece.start < item.stop],
            text,
        )
    return [(words, facet) for words, facet in found if words]


def _cut(item: TextItem, parts: list[PromptPiece], text: str) -> list[tuple[str, str]]:
    cuts = [item.start]
    for before, after in pairwise(parts):
        between = text[before.stop : after.start].strip().lower()
        if (
            between in _APART
            and min(before.sure, after.sure) >= SURE_TO_CUT
            and after.start > cuts[-1]
        ):
            cuts.append(after.start)
    spans = zip(cuts, [*cuts[1:], item.stop], strict=True)
    return [
        (_bare(text[start:stop]), next((p.facet for p in parts if start <= p.start < stop), ""))
        for start, stop in spans
    ]


def _bare(words: str) -> str:
    """A stretch as a tag: without its article, what led on to the next, and the capital of a
    beginning.
    """
    words = re.sub(r"[\s,]+(?:of|showing|and)?\s*$", "", words.strip(" ,;.!?"))
    determiner, rest = english.split_determiner(words)
    words = rest if determiner.lower() in ("a", "an", "the") and rest else words
    name = re.match(r"[A-Z][\w'’-]+ [A-Z]|[A-Z]{2}", words)
    return words if name or words[1:2] == "-" else words[:1].lower() + words[1:]
