"""How the kind of a picture leads: "linocut" at the end of a list becomes "A linocut of …" at its beginning, where what follows is a thing that can be of something."""

import re
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

from syntagma.core import english
from syntagma.core.editing.edits import TextItem, items
from syntagma.core.english.clauses import is_clause
from syntagma.core.reading.formulas.rewriting import lowered
from syntagma.core.reading.prompt_pieces import Reading

_DETERMINED = re.compile(r"(?:an?|the|one|two|three|four|five|six|seven|eight|nine|ten|some|many|several|his|her|their|my|our|its|\d+)\b", re.I)
_THINGS = frozenset("subject animal object food architecture".split())
SURE, CERTAIN = 0.6, 0.8


def led(text: str, reading: Reading, words: Mapping[str, Any], made: str = "") -> str:
    """The text with its kind in front; `words`: the tables of own-words.toml; `made`: the kind that who asks said ("drawing" of "draw me"). As it is if that can't be determined."""
    parts = items(text)
    if not parts or any(item.mark not in (",", ";", "") for item in parts[:-1]):
        return _begun(text, parts, reading, words)
    kinds = [n for n, item in enumerate(parts) if _kind(item.text, words)]
    if kinds and kinds[0] and _named(parts[0].text, words):
        return _begun(text, parts, reading, words)  # "a label for cordial, line drawing" has its kind already
    if kinds and re.match(r"(?:an?|the) (?:[\w-]+ )?(?:tour|loop|series|set|sequence|collection|view|shot|close-up|photo|picture|video|clip|page|map|poster|portrait) (?:of|for) ", parts[0].text, re.I):
        return text  # "a tour of a greenhouse" has its kind already
    if kinds:
        lead, rest = parts[kinds[0]].text, [item for n, item in enumerate(parts) if n != kinds[0]]
    elif made and not any(piece.facet in ("medium", "design-style") for piece in reading.parts()) and not _named(parts[0].text, words):
        lead, rest = made, parts
    else:
        return _begun(text, parts, reading, words)
    if not rest or not _thing(rest[0], reading):
        return _begun(text, parts, reading, words)
    ended = text.rstrip()[-1:] if text.rstrip()[-1:] in ".!?" else ""
    whom = next((one.words.lower() for one in reading.parts() if one.start == rest[0].start and one.facet in _THINGS), "")
    core = _with_article(rest[0].text, whom)
    head = lowered(lead)
    plain = any(head.lower() == word or head.lower().endswith(f" {word}") for word in words["leads"]["plain"])
    if not plain and not _DETERMINED.match(head) and not english.is_plural(head.split()[-1]):
        head = f"{english.article(head)} {head}"
    joined = "".join(f"{item.mark or ','} {other.text}" for item, other in pairwise(rest))
    of = ": " if is_clause(rest[0].text) else " of "
    return f"{head[:1].upper()}{head[1:]}{of}{core}{joined}{ended}"


def _begun(text: str, parts: Sequence[TextItem], reading: Reading, words: Mapping[str, Any]) -> str:
    """The text with the article that a bare noun at its beginning needs: the kind of a picture, or a thing that the reader is sure of."""
    if not parts or _DETERMINED.match(text) or parts[0].start:
        return text
    kinds = "|".join(map(re.escape, words["leads"]["counted"]))
    first = parts[0].text
    if match := re.match(rf"((?:[\w'’-]+ ){{0,3}}?(?:{kinds}|close up))(?= (?:of|for|showing|with|from|where)\b)", first, re.I):
        noun = match[1]
    elif len(parts) > 1 or " " in first:
        piece = next((one for one in reading.parts() if one.start == parts[0].start), None)
        if piece is None or piece.facet not in _THINGS or piece.sure < CERTAIN or is_clause(piece.words):
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
    return last in tables["leads"]["counted"] or any(low == word or low.endswith(f" {word}") for word in tables["leads"]["plain"])


def _named(words: str, tables: Mapping[str, Any]) -> bool:
    """Does an item begin with the name of a kind: "a map of an island"?"""
    return bool(re.match(rf"(?:an?|the)?\s*(?:[\w'’-]+ ){{0,3}}?(?:{'|'.join(map(re.escape, (*tables['leads']['counted'], *tables['leads']['plain'])))})\b", words, re.I))


def _thing(item: TextItem, reading: Reading) -> bool:
    """Does an item begin with a thing that a picture can be of?"""
    if _DETERMINED.match(item.text):
        return not re.search(r"\b(?:light|palette|background|lens|style|mood|shadows?|focus)$", item.text, re.I)
    first = next((piece for piece in reading.parts() if item.start <= piece.start < item.stop), None)
    return first is not None and first.start == item.start and first.facet in _THINGS and first.sure >= SURE


def _with_article(words: str, of: str = "") -> str:
    """A thing as it is behind "of": with the article that a bare one needs, in small letters; `of` is the noun group that it begins with, if that is known."""
    low = lowered(words)
    if _DETERMINED.match(low):
        return low
    group = re.match(r"[\w'’-]+(?: [\w'’-]+)*?(?= (?:with|in|on|at|of|from|by|under|over|and|that|who|which|he|she|it|\w+ing|\w+ed)\b|$)", low)
    noun = of or (group[0] if group else low)
    if english.countability(noun) == "one" and not english.is_plural(noun.split()[-1]):
        return f"{english.article(low)} {low}"
    return low
