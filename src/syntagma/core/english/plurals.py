"""Plurals of single nouns: is a word one, and what is it."""

import re

from syntagma.core.english import word_lists as w
from syntagma.core.notation.late_regex import regex

_SHORT_S = regex(r"[0-9]s$|[A-Z]s$")


def is_plural(word: str) -> bool:
    """Is the single noun `word` a plural by its form (ferries, men, scissors; not lens, glass,
    atlas)?
    """
    small = word.lower().replace("’", "'").strip('"”»)')
    last = re.split(r"[-–]", small)[-1]
    if small in w.PLURAL_ONLY or last in w.PLURAL_ONLY or last in _MANY or small in _MANY:
        return True
    if _SHORT_S.search(word):
        return True
    if last.endswith(w.MANY_TAILS) and last not in w.NOT_MANY:
        return True  # fishermen, penknives
    if (
        not last.endswith("s")
        or len(last) < 3
        or last.endswith(("ss", "'s"))
        or last in w.SINGULAR_S
    ):
        return (
            small in w.UNCHANGED
            and small.endswith("s")
            and small in ("barracks", "gallows", "headquarters")
        )
    if last in w.UNCHANGED:
        return last in (
            "headquarters",
            "barracks",
            "gallows",
            "crossroads",
            "waterworks",
            "gasworks",
        )
    if last.endswith("us"):
        return last in w.PLURAL_US
    if last.endswith("is"):
        return last in w.PLURAL_IS
    if last.endswith("os"):
        return last not in w.SINGULAR_OS
    if last.endswith("as"):
        return last not in w.SINGULAR_AS and not last.endswith("nvas")
    return last not in w.SINGULAR_OS


def plural_word(word: str) -> str:
    """One word, which may be a compound with hyphens, in the plural."""
    small = word.lower()
    if small in w.UNCHANGED:
        return word
    if small in w.IRREGULAR:
        return in_case_of(word, w.IRREGULAR[small])
    if "-" in word:
        return _hyphened(word, small)
    if w.NOT_MEN.isdisjoint((small,)):
        for tail in w.COMPOUND_TAILS:
            if (
                small.endswith(tail)
                and len(small) > len(tail) + 1
                and small not in ("mongoose", "behalf")
            ):
                return word[: -len(tail)] + plural_word(word[-len(tail) :])
    return word + _ending(word, small) if not _changes_y(word, small) else word[:-1] + "ies"


def _hyphened(word: str, small: str) -> str:
    parts = word.split("-")
    if small in w.WHOLE_COMPOUNDS:
        return word + _ending(word, small)
    middle = [p.lower() in w.PREPOSITIONS | {"de", "la", "the"} for p in parts]
    if len(parts) > 2 and any(middle[1:-1]):
        return "-".join([plural_word(parts[0]), *parts[1:]])
    if len(parts) == 2 and middle[1] and parts[0].lower().endswith(("er", "or")):
        return f"{plural_word(parts[0])}-{parts[1]}"  # passers-by, runners-up; but close-ups
    if re.fullmatch(r"in|up|on|off|out|by|down|over|through", parts[-1].lower()):
        return word + "s"
    return "-".join([*parts[:-1], plural_word(parts[-1])])


def _changes_y(word: str, small: str) -> bool:
    if not small.endswith("y") or len(small) < 2 or not word[-1].islower():
        return False
    if word[0].isupper() and not word.isupper():
        return False  # the Henrys
    return small[-2] not in "aeiou" or small.endswith("quy")


def _ending(word: str, small: str) -> str:
    if word[-1].isupper() or word[-1].isdigit():
        return "s"  # MRIs, 1950s
    if small.endswith("ch") and (
        small in w.HARD_CH or (small.endswith(("arch", "och")) and small not in _SOFT_ARCH)
    ):
        return "s"
    if small.endswith(("s", "x", "z", "sh", "ch")):
        return "zes" if small in ("quiz", "fez") else "es"
    return "s"


_SOFT_ARCH = frozenset("arch march larch starch search research brooch".split())
_MANY = frozenset(w.IRREGULAR.values())


def in_case_of(word: str, many: str) -> str:
    """`many` with the capitals of `word`."""
    if word.isupper() and len(word) > 1:
        return many.upper()
    return many[0].upper() + many[1:] if word[0].isupper() else many
