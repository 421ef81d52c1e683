"""What kind of picture a text asks for: photographed, drawn or made by hand, moving, or a designed thing. Learned from prompts whose kind was marked (training/kinds.py)."""

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise
from math import exp
from typing import NamedTuple

from syntagma.core.editing.edits import quotations
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.model.weights import MIDDLE, STEP, Scorer, logs
from syntagma.core.reading.prompt_pieces import Reading

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
    """Words that name a kind by themselves ("linocut", "tracking shot", "logo"), from lines of `kind: words; words`."""

    def __init__(self, text: str):
        lines = (line.split(": ", 1) for line in text.splitlines() if line and not line.startswith("#"))
        self.kinds = {tuple(_stems(words)): kind for kind, said in lines for words in said.split("; ")}
        self._longest = max(map(len, self.kinds), default=0)

    def named(self, words: Sequence[str]) -> Iterator[tuple[int, str]]:
        """Where such words are in a row of stems, and the kind that they name; the longest that begin with a word."""
        at = 0
        while at < len(words):
            length = next((n for n in range(self._longest, 0, -1) if tuple(words[at : at + n]) in self.kinds), 0)
            if length:
                yield at, self.kinds[tuple(words[at : at + length])]
            at += length or 1


def features(text: str, reading: Reading, known: KindWords) -> Iterator[str]:
    """What tells the kind of a text: its words, those that name a kind, the last word of each item, and what the parts of its reading are (how a term is made, too)."""
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
    return sorted((PictureKind(name, exp(chance)) for name, chance in zip(scorer.labels, chances, strict=True)), key=lambda kind: -kind.sure)


def _unquoted(text: str) -> str:
    """A text without what is quoted in it."""
    return " ".join(text[a:b] for (_, a), (b, _) in pairwise([(0, 0), *quotations(text), (len(text), 0)]))


def _stems(text: str) -> list[str]:
    """The words of a text without the s of a plural; all numbers are one."""
    return [_stem(match[0]) for match in _WORD.finditer(text.lower())]


def _stem(word: str) -> str:
    if word.isdigit():
        return "9"
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word
