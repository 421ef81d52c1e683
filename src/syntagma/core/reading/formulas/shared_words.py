"""What examples have in common: the words that all of them share in the same order, as runs of fixed words.

The longest common subsequence, word by word, content words counting more; D. S. Hirschberg, Algorithms for the longest common
subsequence problem, JACM 24 (1977).
"""

import re
from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formulas.rewriting import LEADS
from syntagma.core.reading.prompt_pieces import PromptPiece
from syntagma.core.vocabulary.terms import normal

TOKEN = regex(r"[^\W_](?:[\w'’/.-]*\w)?|[^\w\s]")
IDLE = frozenset('a an the of and or in on at with by to for from , . ; : ! ? " ( )'.split())


class Token(NamedTuple):
    """A word or a mark: as it is compared, and its place."""

    word: str
    start: int
    stop: int


class ProseExample(NamedTuple):
    """The prose of one example, without what goes with it."""

    text: str
    tokens: list[Token]
    pieces: list[PromptPiece]


def norm(word: str) -> str:
    small = word.lower()
    return "a" if small == "an" else small


def words_in(text: str) -> list[str]:
    return [norm(m.group()) for m in TOKEN.finditer(text)]


class SharedRun(NamedTuple):
    """Fixed words: the tokens from and to, in each example."""

    spans: list[tuple[int, int]]


def anchors(examples: list[ProseExample], fixed: set[str], opened: set[str]) -> list[SharedRun]:
    core = [t.word for t in examples[0].tokens]
    for example in examples[1:]:
        core = _common(core, [t.word for t in example.tokens], fixed)
    core = [word for word in core if word not in opened or word in IDLE]
    places = [_placed(core, [t.word for t in example.tokens], fixed) for example in examples]
    runs: list[SharedRun] = []
    at = 0
    while at < len(core):
        stop = at + 1
        while stop < len(core) and all(p[stop] == p[stop - 1] + 1 for p in places):
            stop += 1
        words = core[at:stop]
        content = [w for w in words if w not in IDLE]
        if content or len([w for w in words if w in PREPOSITIONS]) > 1 or fixed & set(words):
            first, last = at, stop
            while first < last and not re.match(r"\w", core[first]):
                first += 1
            while first < last and _in_name(examples, [p[first] for p in places], before=True):
                first += 1
            while first < last - 1 and not re.match(r"\w", core[first]):
                first += 1
            while last > first and _in_name(examples, [p[last - 1] for p in places], before=False):
                last -= 1
            while last - 1 > first and (core[last - 1] == "a" or not re.match(r"\w", core[last - 1])):
                last -= 1  # the article belongs to what follows it, the marks to the seams
            if first < last and any(w not in IDLE or w in PREPOSITIONS for w in core[first:last]):
                runs.append(SharedRun([(p[first], p[last - 1] + 1) for p in places]))
        at = max(stop, at + 1)
    return runs


def _in_name(examples: list[ProseExample], places: Sequence[int], before: bool) -> bool:
    """Does a shared word belong, in most examples, to the name of a term that has other words too, `before` it or after it?"""
    inside = 0
    for example, place in zip(examples, places, strict=True):
        token = example.tokens[place]
        for piece in example.pieces:
            if piece.term and piece.start <= token.start and token.stop <= piece.stop:
                start = piece.start + _led_by(piece)
                inside += start < token.start if before else (start <= token.start and token.stop < piece.stop)
    return inside * 2 > len(examples)


def _led_by(piece: PromptPiece) -> int:
    """How many letters of a part lead to its name: "lit by a"; none where all of it is the name ("seen from behind")."""
    text, ways = piece.text, (piece.term.term, piece.term.phrase, piece.term.place)
    if normal(text) in map(normal, filter(None, ways)):
        return 0
    lead = LEADS.match(text)
    at = lead.end() if lead else 0
    determiner, rest = english.split_determiner(text[at:])
    return at + len(text[at:]) - len(rest) if determiner else at


def _weight(word: str, fixed: set[str]) -> float:
    return 8.0 if word in fixed else 0.4 if word in IDLE else 3.0


def _table(a: list[str], b: list[str], fixed: set[str]) -> list[list[float]]:
    best = [[0.0] * (len(b) + 1) for _ in range(len(a) + 1)]
    for i in range(len(a) - 1, -1, -1):
        row, below = best[i], best[i + 1]
        for j in range(len(b) - 1, -1, -1):
            row[j] = max(below[j], row[j + 1])
            if a[i] == b[j]:
                joined = 0.3 if i + 1 < len(a) and j + 1 < len(b) and a[i + 1] == b[j + 1] else 0.0
                row[j] = max(row[j], below[j + 1] + _weight(a[i], fixed) + joined)
    return best


def _common(a: list[str], b: list[str], fixed: set[str]) -> list[str]:
    """The words that two have in the same order, as heavy as can be."""
    return [a[i] for i, _ in pairs(a, b, fixed)]


def _placed(core: list[str], words: list[str], fixed: set[str]) -> list[int]:
    """Where the core's words are in an example."""
    places = dict(pairs(core, words, fixed))
    return [places.get(i, -1 - 2 * i) for i in range(len(core))]


def pairs(a: list[str], b: list[str], fixed: set[str]) -> list[tuple[int, int]]:
    best, found, i, j = _table(a, b, fixed), [], 0, 0
    while i < len(a) and j < len(b):
        if a[i] == b[j] and best[i][j] > max(best[i + 1][j], best[i][j + 1]):
            found.append((i, j))
            i, j = i + 1, j + 1
        elif best[i + 1][j] >= best[i][j + 1]:
            i += 1
        else:
            j += 1
    return found
