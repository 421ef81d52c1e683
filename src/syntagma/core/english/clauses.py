"""Clauses in English prose: where a verb in the present tense follows a noun group."""

from collections.abc import Sequence

from syntagma.core.english.people import SEVERAL_ENDINGS
from syntagma.core.english.plurals import is_plural
from syntagma.core.english.verbs import ADJECTIVES, AMBIENT_VERBS, COLOURS, NOUNY, SOUND_VERBS, VERBS, in_third
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS

_NO_NOUNS = ADJECTIVES | COLOURS | DETERMINERS
_AIRY = frozenset(
    "fog mist rain snow smoke steam dust sleet hail drizzle frost haze sand light sunlight moonlight".split()
)  # no plural hangs on these
_COLLECTIVE = frozenset(
    "couple pair family crew crowd team group band trio quartet choir gang herd flock pack".split()
)  # which take either number
_QUALITIES = ("ible", "able", "ous", "ful", "ive", "less", "ish")  # how adjectives end
_NO_QUALITIES = frozenset(
    "detective native executive operative captive relative archive olive handful spoonful armful table cable fish dish".split()
)
_BEHIND_VERBS = frozenset(
    "once twice again away up down off overhead open in out back together apart home past by alone barefoot upstairs downstairs forward forwards backwards aside".split()
)


def verb_at(small: Sequence[str]) -> int:
    """Which of some words, in small letters, is the verb in the present tense after the noun group that they begin with; 0 if none is."""
    determined = bool(small) and small[0] in DETERMINERS
    named = False  # a noun may have stood there
    for i in range(1, len(small)):
        word, before = small[i], small[i - 1]
        named = named or before not in _NO_NOUNS
        if word in PREPOSITIONS or before in DETERMINERS or before in ("and", "or") or before.endswith(("'s", "’s")) or not named or (before.endswith(_QUALITIES) and before not in _NO_QUALITIES):
            continue
        after = small[i + 1] if i + 1 < len(small) else ""
        many = is_plural(before) or (before in _COLLECTIVE and not in_third(word))
        known = word in VERBS or word in SOUND_VERBS or word in AMBIENT_VERBS
        led = after in DETERMINERS or after.endswith("ly") or after in _BEHIND_VERBS
        ended = led or not after or after in PREPOSITIONS
        if known and in_third(word) != many and (i > 1 or not determined):
            if in_third(word) and (word not in NOUNY or led or small[0] in ("a", "an", "one") or before in _AIRY):
                return i
            if not in_third(word) and (ended or determined or before.endswith(SEVERAL_ENDINGS)):
                return i
        shaped = determined and PREPOSITIONS.isdisjoint(small[:i]) and word.endswith("s") and not word.endswith(("ss", "us", "is", "'s", "’s")) and i >= 2
        if shaped and not many and ((small[0] in ("a", "an", "one") and ended) or after in DETERMINERS):
            return i
    return 0


def is_clause(text: str) -> bool:
    """Does a text say what something does ("a storm gathers"), and not only name it?"""
    return verb_at(text.rstrip(".!?;:,").lower().split()) > 0
