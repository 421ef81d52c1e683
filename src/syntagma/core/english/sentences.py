"""Sentences and clauses: where they begin and end, counts in words, lists, how a first mention
introduces a thing.
"""

import re
from collections.abc import Sequence

from syntagma.core.english import word_lists as w
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.plurals import is_plural
from syntagma.core.english.verbs import (
    ADJECTIVES,
    AMBIENT_VERBS,
    COLOURS,
    NOUNY,
    SOUND_VERBS,
    VERBS,
    in_third,
)
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS, SEVERAL_ENDINGS
from syntagma.core.notation.late_regex import regex

# ──── Clauses in English prose: where a verb in the present tense follows a noun group.


_NO_NOUNS = ADJECTIVES | COLOURS | DETERMINERS
_AIRY = frozenset(
    "fog mist rain snow smoke steam dust sleet hail drizzle frost haze sand light sunlight"
    " moonlight".split()
)  # no plural hangs on these
_COLLECTIVE = frozenset(
    "couple pair family crew crowd team group band trio quartet choir gang herd flock pack".split()
)  # which take either number
_QUALITIES = ("ible", "able", "ous", "ful", "ive", "less", "ish")  # how adjectives end
_NO_QUALITIES = frozenset(
    "detective native executive operative captive relative archive olive handful spoonful armful"
    " table cable fish dish".split()
)
_BEHIND_VERBS = frozenset(
    "once twice again away up down off overhead open in out back together apart home past by alone"
    " barefoot upstairs downstairs forward forwards backwards aside".split()
)


def verb_at(small: Sequence[str]) -> int:
    """Which of some words, in small letters, is the verb in the present tense after the noun group
    that they begin with; 0 if none is.
    """
    determined = bool(small) and small[0] in DETERMINERS
    named = False  # a noun may have stood there
    for i in range(1, len(small)):
        word, before = small[i], small[i - 1]
        named = named or before not in _NO_NOUNS
        if (
            word in PREPOSITIONS
            or before in DETERMINERS
            or before in ("and", "or")
            or before.endswith(("'s", "’s"))
            or not named
            or (before.endswith(_QUALITIES) and before not in _NO_QUALITIES)
        ):
            continue
        after = small[i + 1] if i + 1 < len(small) else ""
        many = is_plural(before) or (before in _COLLECTIVE and not in_third(word))
        known = word in VERBS or word in SOUND_VERBS or word in AMBIENT_VERBS
        led = after in DETERMINERS or after.endswith("ly") or after in _BEHIND_VERBS
        ended = led or not after or after in PREPOSITIONS
        if known and in_third(word) != many and (i > 1 or not determined):
            if in_third(word) and (
                word not in NOUNY or led or small[0] in ("a", "an", "one") or before in _AIRY
            ):
                return i
            if not in_third(word) and (ended or determined or before.endswith(SEVERAL_ENDINGS)):
                return i
        shaped = (
            determined
            and PREPOSITIONS.isdisjoint(small[:i])
            and word.endswith("s")
            and not word.endswith(("ss", "us", "is", "'s", "’s"))
            and i >= 2
        )
        if (
            shaped
            and not many
            and ((small[0] in ("a", "an", "one") and ended) or after in DETERMINERS)
        ):
            return i
    return 0


def is_clause(text: str) -> bool:
    """Does a text say what something does ("a storm gathers"), and not only name it?"""
    return verb_at(text.rstrip(".!?;:,").lower().split()) > 0


# ──── Where sentences begin and end, what one leaves to the one before it, counts in words, and
# lists.


_CLOSERS = "\"'”’»)]}"
_OPENERS = "\"'“‘«([{¿¡"
_STOPS = ".!?…"
_INITIALS = regex(r"(?:^|[\s(\"“])(?:[A-Z]|(?:[A-Za-z]\.)+[A-Za-z])\.$")
_INDEFINITE = regex(r"\ban? (?=\w)")
_AFTER_A_GROUP = "|".join(
    map(
        re.escape,
        sorted(
            w.PREPOSITIONS
            | w.DETERMINERS
            | w.RELATIVES
            | w.AFTER_NOUNS
            | {"and", "away", "back", "flat", "so", "until"}
        ),
    )
)


def has_stop(text: str) -> bool:
    """Does `text` end in a stop of any kind, looked for through closing quotes and brackets? No
    second one may follow.
    """
    return text.rstrip(_CLOSERS)[-1:] in tuple(_STOPS)


def ends_sentence(text: str) -> bool:
    """Does `text` end a sentence by itself? The stop of "p.m.", "etc." or "J." does not."""
    bare = text.rstrip(_CLOSERS)
    if bare[-1:] not in tuple(_STOPS):
        return False
    if bare[-1] != ".":
        return True
    last = bare.rsplit(None, 1)[-1].lstrip(_OPENERS).lower()
    return last not in w.ABBREVIATIONS and not _INITIALS.search(bare)


def without_stop(text: str) -> str:
    """`text` without its own single full stop; an abbreviation, an ellipsis and a question keep
    theirs.
    """
    if text.endswith(".") and not text.endswith("..") and ends_sentence(text):
        return text[:-1].rstrip(" ,;")
    return text


def without_end(text: str) -> str:
    """`text` without the marks that end it, looked for through closing quotes; an abbreviation
    keeps its stop.
    """
    while ends_sentence(text):
        bare = text.rstrip(_CLOSERS)
        kept = bare.rstrip(_STOPS + ",; ")
        if not kept:
            break
        text = kept + text[len(bare) :]
    return text


def capitalised(text: str) -> str:
    """`text` as a sentence starts, through opening quotes: a word with a digit, a slash or a
    capital of its own stays.
    """
    start = len(text) - len(text.lstrip(_OPENERS + " "))
    word = re.split(r"\s", text[start:], maxsplit=1)[0]
    if not word or not word[0].islower() or re.search(r"[\d/]|[^\W\d_a-z]*[A-Z]", word):
        return text
    upper = word[0].upper()
    return text if len(upper) != 1 else text[:start] + upper + text[start + 1 :]


def listed(parts: list[str]) -> list[str]:
    """The joins of a list of `parts`: what to write before each ("", then ", ", at last "
    and ").
    """
    return ["" if i == 0 else " and " if i == len(parts) - 1 else ", " for i in range(len(parts))]


def count_words(number: int) -> str:
    """A whole number as prose writes it: in words to twelve, in digits above."""
    return w.NUMBERS[number] if 0 <= number < len(w.NUMBERS) else str(number)


def read_count(text: str) -> int | None:
    """Read a whole number, at least 1, in digits or in words up to twelve; None if `text` is not
    one.
    """
    small = text.strip().lower()
    if small in w.NUMBERS[1:]:
        return w.NUMBERS.index(small)
    return int(small) if re.fullmatch(r"[1-9][0-9]{0,8}", small) else None


def first_mention(text: str, earlier: str) -> str:
    """`text` without the sentence before it: each "the pike" that `earlier` introduced becomes "a
    stuffed pike", as it was introduced.

    Only the first mention changes, and only where the noun ends its group: "the ticket man" stays,
    though `earlier` has "a ticket".
    """
    for found in _INDEFINITE.finditer(earlier):
        rest = earlier[found.end() :]
        group = rest[: head_end(rest)]
        noun = group.rpartition(" ")[2]
        if rest[len(group) :].startswith(" of "):
            of = rest[len(group) + 4 :]
            group += " of " + of[: head_end(of)]
        whole = found.group() + group
        text = re.sub(
            rf"\bthe {re.escape(noun)}(?=$|[,;.]| (?:{_AFTER_A_GROUP})\b)",
            lambda _, whole=whole: whole,
            text,
            count=1,
        )
    return text
