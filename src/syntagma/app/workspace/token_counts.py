"""Tokens counted as a generator counts them, by a tokenizer.json of the person's."""

from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

from syntagma.storage.files import MOST


def counter_of(path: Path) -> Callable[[str], int]:
    """What counts the tokens of a text, special ones apart. Raises LookupError if the file or the package is not there,
    ValueError where the file is not a tokenizer."""
    if not path.is_file() or path.stat().st_size > MOST:
        raise LookupError("the file does not exist, or is too large")
    try:
        from tokenizers import Tokenizer
    except ImportError:
        raise LookupError("the package tokenizers is not installed: pip install 'syntagma[tokens]'") from None
    try:
        tokenizer = Tokenizer.from_file(str(path))
    except Exception as error:  # the package raises nothing narrower
        raise ValueError(f"it is not a tokenizer ({error})") from None

    @lru_cache(maxsize=65536)
    def count(text: str) -> int:
        return len(tokenizer.encode(text, add_special_tokens=False).ids)

    return count
