"""How common words are in English, from the lists of the package wordfreq (an extra): its file is read as it is, since the package itself
takes half a second to import."""

from collections.abc import Callable
from functools import cache
from gzip import decompress
from importlib.util import find_spec
from math import log10
from pathlib import Path

from syntagma.core.notation.late_regex import regex

_LIST = "data/large_en.msgpack.gz"  # a list of words for each hundredth part of a decade, the commonest first
_PLAIN = regex(r"(?:[a-z]|\d(?!\d))+(?:-(?:[a-z]|\d(?!\d))+)*")  # words that are in the list as they are; all others are the package's own business


@cache
def frequencies() -> Callable[[str], float] | None:
    """What gives the frequency of a word on the Zipf scale (0 to 8, the logarithm of how often it comes among a thousand million words);
    None if the package is not installed. Source of the scale: W. J. B. van Heuven and others, SUBTLEX-UK, Quarterly Journal of
    Experimental Psychology 67 (2014)."""
    found = find_spec("wordfreq")
    if found is None or not found.submodule_search_locations:
        return None
    path = Path(found.submodule_search_locations[0], _LIST)
    if not path.is_file():
        return _by_the_package
    from msgspec import msgpack

    _, *lists = msgpack.decode(decompress(path.read_bytes()))
    hundredths = {word: number for number, words in enumerate(lists) for word in words}

    @cache
    def zipf(word: str) -> float:
        if not _PLAIN.fullmatch(word):
            return _by_the_package(word)
        parts = [hundredths.get(part) for part in word.split("-")]
        if None in parts:
            return 0.0
        return round(9 - log10(sum(10 ** (part / 100) for part in parts)), 2)  # as rare as its parts together: 1/f = 1/f₁ + 1/f₂

    return zipf


def _by_the_package(word: str) -> float:
    from wordfreq import zipf_frequency

    return zipf_frequency(word, "en")
