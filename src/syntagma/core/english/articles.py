"""a or an, by the sound of what comes first: words, numbers, letters, initials, signs."""

import re
import unicodedata
from functools import lru_cache

from syntagma.core.english.word_lists import SAID_ACRONYMS, SPELLED_LONG, SPELLED_SMALL
from syntagma.core.notation.late_regex import regex

_LETTERS_WITH_VOWEL_SOUND = frozenset("aefhilmnorsx")  # the name of the letter: an F, an X, but a U
_OPENERS = "\"'“”‘’«»([{<*_~#"
_CLOSERS = frozenset(',;:!?)]}>"”»')

_SILENT_H = regex(r"h(ours?\b|our(ly|glass|-)|onest|onou?r|eir|ors\b|aute\b)")
# Vowels that begin with a consonant's sound: "yoo" and "wun".
_YOO = regex(
    r"eu|ewe|u$|ubiqu|ufo\b|ugand|uk(?!iyo)|unanim|unary|"
    r"uni(?!n(?!omi)|m(?!od)|d(?!ir)|ll|ro|ss|gn|so(?!n))|"
    r"ur(?:a|e|i|o|ug)|us(?:a|e|u|i)|ut(?:a|e(?!r)|i|o|r)|uter|uv\b|uvul"
)
_WUN = regex(r"on(?:e|ce|es|eness|esie|er|ers)(?![a-z])|one(?=-)|oui\b|ouist")
_NUMBER = regex(r"(\d{1,3}(?:,\d{3})+|\d+)(?=([.,:/]?\d)?)")
_FRACTIONS = {
    "½": "a",
    "⅛": "a",
    "¼": "a",
    "¾": "a",
    "⅓": "a",
    "⅔": "a",
    "⅜": "a",
    "⅝": "a",
    "⅞": "a",
}


@lru_cache(maxsize=8192)
def article(text: str) -> str:
    """Return "a" or "an" for what begins with `text` (a word or more, as written)."""
    text = text.lstrip(_OPENERS + " \t£$€¥@")
    if not text:
        return "a"
    if text[0].isdigit():
        return _number(text)
    word = (text.split(maxsplit=1) or [""])[0]
    word = word[: next((i for i, sign in enumerate(word) if sign in _CLOSERS), None)]
    return "an" if _vowel_sound(word) else "a"


def _number(text: str) -> str:
    """8, 11 and 18 are said with a vowel, and so is whatever number begins with them."""
    if text[0] in _FRACTIONS:
        return "a"
    if text[0] == "8":
        return "an"
    whole = _NUMBER.match(text)
    digits = whole.group(1) if whole else text[0]
    if re.match(r"1/8", text):
        return "a"
    first, *groups = digits.split(",")
    if first in ("11", "18"):
        return "an"
    if groups:
        return "a"  # one thousand one hundred, when the comma is written
    # ungrouped: 1850 is a year or eighteen hundred, 11000 eleven thousand
    return "an" if first[:2] in ("11", "18") and len(first) in (4, 5, 8) else "a"


def _vowel_sound(word: str) -> bool:
    plain = "".join(c for c in unicodedata.normalize("NFKD", word) if not unicodedata.combining(c))
    plain = (
        plain.replace("œ", "oe")
        .replace("Œ", "Oe")
        .replace("æ", "ae")
        .replace("Æ", "Ae")
        .replace("ø", "o")
    )
    plain = plain.replace("Ø", "O").replace("’", "'")
    if not plain:
        return False
    stem = re.split(r"[-/'.&+]", plain, maxsplit=1)[0]
    if _spelled(plain, stem):
        return plain[0].lower() in _LETTERS_WITH_VOWEL_SOUND
    small = plain.lower()
    if small[0] == "h":
        return _SILENT_H.match(small) is not None
    if (small[0] in "eu" and _YOO.match(small)) or (small[0] == "o" and _WUN.match(small)):
        return False
    if small[0] == "y":  # an yttrium lamp, an ylang-ylang flower; a yacht
        return len(small) > 1 and small[1] not in "aeiou-'" and small[1].isalpha()
    if small[0] == "m" and small.startswith(("mb", "mp")):  # an mbira
        return True
    return small[0] in "aeiou"


def _spelled(plain: str, stem: str) -> bool:
    """Is the beginning said letter by letter: an X-ray, an f/2.8 aperture, an SOS lamp, a U.S.
    chart, an MP3?
    """
    if len(stem) == 1 and stem.isalpha() and len(plain) > 1 and plain != "o'":
        return not plain.lower().startswith(("o'", "a'"))
    if re.match(r"[A-Za-z]\d", plain):  # f2.8, M4, B52
        return True
    if len(plain) == 1:
        return plain.isalpha()
    core = stem[:-1] if re.fullmatch(r"[A-Z]{2,}s", stem) else stem
    core = re.sub(r"\d+$", "", core)
    if core in SAID_ACRONYMS:
        return False
    if len(core) > 1 and core.isupper() and core.isascii() and core.isalpha():
        return len(core) < 4 or core in SPELLED_LONG or not re.search(r"[AEIOUY]", core)
    small = core.lower()
    return small in SPELLED_SMALL or (
        len(small) > 1 and small.isalpha() and not re.search(r"[aeiouy]", small)
    )
