"""Words that a model refuses: found in a text, or replaced by gentler ones."""

import re
from collections.abc import Sequence
from functools import lru_cache
from itertools import islice
from typing import NamedTuple

from syntagma.core.models.patterns import MOST_HITS, linear
from syntagma.core.models.profile import RefusedWords


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
    """The text with every refused word that has a gentler one replaced by it, in the case of what stood there."""
    for rule in rules:
        if rule.instead is not None:
            found = [one for one in refusals([rule], text) if one.words]
            for one in reversed(found):
                text = text[: one.start] + _cased(rule.instead, one.words) + text[one.stop :]
    return text


def _cased(word: str, like: str) -> str:
    return word[:1].upper() + word[1:] if like[:1].isupper() and not like.isupper() else word
