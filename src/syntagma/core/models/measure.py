"""How long a text is in the units of limits, and how large a picture is on paper."""

import re
from collections.abc import Callable, Sequence
from functools import lru_cache, partial
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex

# ──── How much of a limit a text uses: in characters, words or bytes, or in tokens, counted or by a
# stated estimate.


LETTERS = 6  # letters of a word that one token is taken to hold, where a profile does not say

_TOKENS = regex(r"[A-Za-z]+|\d|[^\sA-Za-z\d]")


@lru_cache(maxsize=65536)
def estimated_tokens(text: str, letters: int = LETTERS) -> int:
    """Estimate the tokens of `text`: one for each `letters` letters of a word begun, one for each
    digit, sign, or character outside the Latin alphabet. It errs on the high side: common long
    words are often one token.
    """
    return sum((len(t) + letters - 1) // letters for t in _TOKENS.findall(text))


@lru_cache(maxsize=65536)
def words(text: str) -> int:
    """The words of `text`: what stands between spaces and has a letter or a digit in it."""
    return sum(any(c.isalnum() for c in w) for w in text.split())


def size_in_bytes(text: str) -> int:
    """The bytes of `text` in UTF-8."""
    return len(text.encode("utf-8", "surrogatepass"))


class Limit(NamedTuple):
    """The most that a generator takes of one text. `letters` and `margin` serve the estimate of
    tokens; `counter` counts them, if there is a tokenizer.
    """

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
        counts: dict[str, Callable[[str], int]] = {
            "characters": len,
            "words": words,
            "tokens": estimate,
            "bytes": size_in_bytes,
        }
        return counts[self.unit]

    def used(self, parts: Sequence[str]) -> int:
        """How much of it a text takes, given in parts that divide no word."""
        return sum(map(self.count, parts)) if self.additive else self.counter("".join(parts))

    def record(self, used: int) -> dict[str, object]:
        """Use and limit as records give them."""
        return {"used": used, "limit": self.most, "unit": self.unit}


# ──── Pictures on paper: is a model's size enough for a print, and how much must it be enlarged.


CM = {"cm": 1.0, "mm": 0.1, "in": 2.54}
PAPERS = {
    "a6": (10.5, 14.8),
    "a5": (14.8, 21.0),
    "a4": (21.0, 29.7),
    "a3": (29.7, 42.0),
    "a2": (42.0, 59.4),
    "a1": (59.4, 84.1),
}


class Print(NamedTuple):
    """A print in centimetres, and how fine it is: dots to an inch."""

    wide: float
    high: float
    dpi: int = 300

    @property
    def pixels(self) -> tuple[int, int]:
        """The pixels that it needs."""
        return round(self.wide / 2.54 * self.dpi), round(self.high / 2.54 * self.dpi)


class Enlarging(NamedTuple):
    """What one size of a model's is for a print: how many times it has to be enlarged to cover it
    (1 or less is enough), how much of it is cut off then, and how large it prints without enlarging
    (centimetres).
    """

    ratio: str
    pixels: tuple[int, int]
    times: float
    cut: float
    prints: tuple[float, float]


def read_print(words: str, dpi: int) -> Print | None:
    """Read a size: 50x70cm, 20x30in, a3; None if it is none."""
    if words.strip().lower() in PAPERS:
        return Print(*PAPERS[words.strip().lower()], dpi)
    match = re.match(
        r"^\s*(\d+(?:\.\d+)?)\s*[x×*]\s*(\d+(?:\.\d+)?)\s*(cm|mm|in)?\s*$", words.lower()
    )
    if not match or not float(match[1]) or not float(match[2]):
        return None
    unit = CM[match[3] or "cm"]
    return Print(float(match[1]) * unit, float(match[2]) * unit, dpi)


def enlarging(ratio: str, size: tuple[int, int], wanted: Print) -> Enlarging:
    """How a size in pixels does for a print: it covers the paper, and the rest is cropped."""
    need = wanted.pixels
    times = max(need[0] / size[0], need[1] / size[1])
    cut = 1 - (need[0] * need[1]) / (size[0] * times * size[1] * times)
    prints = (size[0] / wanted.dpi * 2.54, size[1] / wanted.dpi * 2.54)
    return Enlarging(ratio, size, times, cut, prints)
