"""How much of a limit a text uses: in characters, in words, or in tokens by a stated estimate."""

import re
from collections.abc import Callable, Sequence
from functools import lru_cache, partial
from typing import NamedTuple

UNITS = ("characters", "words", "tokens")
LETTERS = 6  # letters of a word that one token is taken to hold, where a profile does not say

_TOKENS = re.compile(r"[A-Za-z]+|\d|[^\sA-Za-z\d]")


@lru_cache(maxsize=65536)
def estimated_tokens(text: str, letters: int = LETTERS) -> int:
    """Estimate the tokens of `text`: one for each `letters` letters of a word begun, one for each digit, sign, or
    character outside the Latin alphabet. It errs on the high side: common long words are often one token."""
    return sum((len(t) + letters - 1) // letters for t in _TOKENS.findall(text))


@lru_cache(maxsize=65536)
def words(text: str) -> int:
    """The words of `text`: what stands between spaces and holds a letter or a digit."""
    return sum(any(c.isalnum() for c in w) for w in text.split())


class Limit(NamedTuple):
    """The most that a generator takes of one text. `letters` serves the estimate of tokens."""

    most: int
    unit: str = "characters"
    letters: int = LETTERS

    @property
    def count(self) -> Callable[[str], int]:
        """What counts a text in the limit's unit."""
        return {"characters": len, "words": words, "tokens": partial(estimated_tokens, letters=self.letters)}[self.unit]

    def used(self, parts: Sequence[str]) -> int:
        """How much of it a text takes, given in parts that divide no word."""
        return sum(map(self.count, parts))

    def record(self, used: int) -> dict[str, object]:
        """Use and limit as records give them."""
        return {"used": used, "limit": self.most, "unit": self.unit}
