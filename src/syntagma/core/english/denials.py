"""What is kept out of a picture, as people write it: "no text, watermark or signature" names three things."""

import re

from syntagma.core.notation.late_regex import regex

_DENIES = regex(r"\b(?:no|without|not|avoid|never)\b[ \t]*:?[ \t]*", re.I)
_BETWEEN = regex(r"[,/;]|(?<=\s)(?:and|or)(?=\s)")


def undenied(text: str) -> str:
    """Negative text without the words that deny: "no text" is "text"."""
    return _DENIES.sub("", text)


def kept_out(text: str) -> list[str]:
    """The things that negative text names, one by one, without the words that deny them."""
    return [part.strip() for part in _BETWEEN.split(undenied(text)) if part.strip()]
