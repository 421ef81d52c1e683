"""Patterns of profiles matched in linear time: marks of parameters, words that a model refuses."""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import islice
from typing import NamedTuple

from syntagma.core.diagnostics import SyntagmaError
from syntagma.core.models.profile import RefusedWords
from syntagma.core.notation.late_regex import regex

# ──── Patterns of a person's own: text with {places}. A place may carry what leads to it: {, how}
# is nothing where `how` is blank.


PLACE = regex(r"\{([^\w{}]*)([A-Za-z_]\w*(?:[.-]\w+)*)([^\w{}]*)\}")


def written(pattern: str, values: Mapping[str, object]) -> str:
    """The pattern with its places filled; one that is blank, or that nobody knows, goes with what
    it carries.
    """

    def place(match: re.Match) -> str:
        value = values.get(match[2])
        return "" if value in (None, "") else f"{match[1]}{value}{match[3]}"

    return PLACE.sub(place, pattern)


def places(pattern: str) -> list[str]:
    """The names of a pattern's places, in order."""
    return [match[2] for match in PLACE.finditer(pattern)]


class Hit(NamedTuple):
    """A place of a text that a pattern wrote: where, and what is in the pattern's own places, by
    name: (text, start, stop).
    """

    start: int
    stop: int
    places: Mapping[str, tuple[str, int, int]]


class Recogniser:
    """Finds what a pattern writes. `shapes` says what each place looks like, as a regular
    expression without look-round or references back; what a place carries is optional with it; a
    place that appears twice has to say the same. `apart`: it is between spaces, or before a comma
    or a stop. Matching takes time in proportion to the text (RE2), whatever the pattern. Raises
    Unsafe.
    """

    def __init__(self, pattern: str, shapes: Mapping[str, str], apart: bool = False):
        out, at, self._names = [], 0, []
        fixed: list[str] = []
        for match in PLACE.finditer(pattern):
            fixed += pattern[at : match.start()].split()
            out.append(_spaced(pattern[at : match.start()]))
            group = f"({shapes.get(match[2], '.+?')})"
            self._names.append(match[2])
            out.append(
                f"(?:{_spaced(match[1])}{group}{_spaced(match[3])})?"
                if match[1] or match[3]
                else group
            )
            at = match.end()
        fixed += pattern[at:].split()
        core = "".join([*out, _spaced(pattern[at:])])
        self._must = max(fixed, key=len, default="")  # the longest piece of it that every hit has
        self._regex = linear(rf"(?:^|\s)({core})(?:[\s,.;]|$)" if apart else f"({core})")

    def hits(self, text: str, accept: Callable[[Hit], bool] = lambda hit: True) -> Iterator[Hit]:
        """Every hit that is accepted, in order, none within another; of many tries at most
        MOST_TRIES.
        """
        at = 0
        for _ in range(MOST_TRIES if self._must in text else 0):
            match = self._regex.search(text, at)
            if match is None:
                return
            start, stop = match.span(1)
            found: dict[str, tuple[str, int, int]] = {}
            same = True
            for number, name in enumerate(self._names, 2):
                if (said := match.group(number)) is not None:
                    same = same and found.get(name, (said,))[0] == said
                    found.setdefault(name, (said, *match.span(number)))
            hit = Hit(start, stop, found)
            good = stop > start and same and accept(hit)
            if good:
                yield hit
            at = stop if good else start + 1


class Unsafe(SyntagmaError, ValueError):
    """A regular expression that can't be matched in time that is bounded."""


@lru_cache(maxsize=1024)
def linear(expression: str, any_case: bool = False):
    """A regular expression of anybody's, by an engine whose time is in proportion to the text.
    Raises Unsafe if it can't be.
    """
    import re2  # imported late: few profiles hold patterns

    options = re2.Options()
    options.case_sensitive, options.log_errors, options.max_mem = not any_case, False, 4 << 20
    try:
        return re2.compile(expression, options)
    except re2.error as error:
        said = error.args[0] if error.args else "it is too large"
        raise Unsafe(said.decode() if isinstance(said, bytes) else str(said)) from None


MOST_HITS, MOST_TRIES = 200, 1000  # of one pattern in one text: more tell nothing new


def _spaced(text: str) -> str:
    """Fixed text as a regular expression, any run of spaces being one."""
    return r"\s+".join(re.escape(part) for part in re.split(r"\s+", text)) if text else ""


# ──── Words that a model refuses: found in a text, or replaced by gentler ones.


class Refusal(NamedTuple):
    """A refused word in a text: what is there, where, and the rule that refuses it."""

    words: str
    start: int
    stop: int
    rule: RefusedWords


@lru_cache(maxsize=4096)
def _compiled(words: str, pattern: str):
    if pattern:
        return linear(pattern, any_case=True)
    inner = r"[\s\-]+".join(re.escape(w) for w in words.split())
    return re.compile(rf"(?<![\w-]){inner}(?![\w-])", re.I)


def refusals(rules: Sequence[RefusedWords], text: str) -> list[Refusal]:
    """Every refused word of a text, in order: whole words and phrases in any case, and patterns."""
    found = [
        Refusal(match.group(), match.start(), match.end(), rule)
        for rule in rules
        for match in islice(_compiled(rule.words, rule.pattern).finditer(text), MOST_HITS)
        if match.group()
    ]
    return sorted(found, key=lambda r: r.start)


def gentler(rules: Sequence[RefusedWords], text: str) -> str:
    """The text with every refused word that has a gentler one replaced by it, in the case of what
    stood there.
    """
    for rule in rules:
        if rule.instead is not None:
            found = [one for one in refusals([rule], text) if one.words]
            for one in reversed(found):
                text = text[: one.start] + _cased(rule.instead, one.words) + text[one.stop :]
    return text


def _cased(word: str, like: str) -> str:
    return word[:1].upper() + word[1:] if like[:1].isupper() and not like.isupper() else word
