"""How much of a limit a text uses: in characters, words or bytes, or in tokens, counted or by a stated estimate."""

from collections.abc import Callable, Sequence
from functools import lru_cache, partial
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex

LETTERS = 6  # letters of a word that one token is taken to hold, where a profile does not say

_TOKENS = regex(r"[A-Za-z]+|\d|[^\sA-Za-z\d]")


@lru_cache(maxsize=65536)
def estimated_tokens(text: str, letters: int = LETTERS) -> int:
    """Estimate the tokens of `text`: one for each `letters` letters of a word begun, one for each digit, sign, or
    character outside the Latin alphabet. It errs on the high side: common long words are often one token."""
    return sum((len(t) + letters - 1) // letters for t in _TOKENS.findall(text))


@lru_cache(maxsize=65536)
def words(text: str) -> int:
    """The words of `text`: anything between spaces that holds a letter or a digit."""
    return sum(any(c.isalnum() for c in w) for w in text.split())


def size_in_bytes(text: str) -> int:
    """The bytes of `text` in UTF-8."""
    return len(text.encode("utf-8", "surrogatepass"))


class Limit(NamedTuple):
    """The most that a generator takes of one text. `letters` and `margin` serve the estimate of tokens; `counter` counts
    them, if there is a tokenizer."""

    most: int
    unit: str = "characters"
    letters: int = LETTERS
    margin: float = 0.0
    counter: Callable[[str], int] | None = None

    @property
    def room(self) -> int:
        """How much may be used: what is allowed, less the margin that an estimate keeps."""
        return int(self.most * (1 - self.margin))

    @property
    def additive(self) -> bool:
        """Do the sizes of parts that divide no word add up to the size of the whole?"""
        return self.counter is None

    @property
    def count(self) -> Callable[[str], int]:
        """What counts a text in the limit's unit."""
        if self.counter:
            return self.counter
        estimate = partial(estimated_tokens, letters=self.letters)
        return {"characters": len, "words": words, "tokens": estimate, "bytes": size_in_bytes}[self.unit]

    def used(self, parts: Sequence[str]) -> int:
        """How much of it a text takes, given in parts that divide no word."""
        return sum(map(self.count, parts)) if self.additive else self.counter("".join(parts))

    def record(self, used: int) -> dict[str, object]:
        """Use and limit as records give them."""
        return {"used": used, "limit": self.most, "unit": self.unit}
