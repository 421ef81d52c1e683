"""Where deeds begin in English prose: verbs behind a noun group, participles, and what looks like either and is none."""

import re

from syntagma.core import english
from syntagma.core.english import word_lists as w
from syntagma.core.english.people import SEVERAL_ENDINGS
from syntagma.core.reading.lexicon import Lexicon, bare
from syntagma.core.reading.prose.cues import COLOURS
from syntagma.core.reading.prose.verb_lists import (
    ADJECTIVES,
    AMBIENT_VERBS,
    DESCRIBING,
    NOUNY,
    SOUND_VERBS,
    VERBS,
    base_of,
    in_third,
)


def deed_word(word: str) -> bool:
    """Does a deed begin with this word: a participle, or what can only stand behind a noun?"""
    return (
        (word.endswith("ing") and len(word) > 4 and word not in w.ING_NOUNS)
        or word in w.AFTER_NOUNS
        or word.startswith("mid-")
        or word
        in ("curled", "perched", "stranded", "caught", "poised", "huddled", "seated", "crouched", "sprawled", "slumped", "hunched")
    )


def deed_first(small: list[str]) -> bool:
    """Does a text begin with a deed: "drawing a sword", "wipes her forehead"?"""
    after = small[1] if len(small) > 1 else ""
    if small[0].endswith("ing") and small[0] in w.ING_NOUNS:
        return after in w.DETERMINERS or (
            small[0] in ("sitting", "standing", "resting", "landing", "reading") and after in w.PREPOSITIONS
        )
    if small[0].endswith("s") and small[0] in VERBS:
        return (
            after in w.DETERMINERS
            or after.endswith("ly")
            or (small[0] not in NOUNY and (after in w.PREPOSITIONS or after in _BEHIND_VERBS))
        )
    return deed_word(small[0]) and not _noun_in_ing(small)


def _noun_in_ing(small: list[str]) -> bool:
    """ "leading lines", "falling snow", "glowing windows": a participle before its noun."""
    return (
        len(small) > 1
        and small[0] in DESCRIBING
        and small[1] not in w.DETERMINERS
        and small[1] not in w.PREPOSITIONS
        and not small[1].endswith("ly")
    )


_NO_NOUNS = ADJECTIVES | COLOURS | w.DETERMINERS
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


def verb_at(words: list[re.Match], small: list[str], end: int, number: str = "") -> int:
    """Where a noun group ends before a verb in the present tense; 0 where there is none before `end`. `number` is that of the subject:
    its last noun's, many (the second of two that "and" joins) or either ("a caravan of camels crosses")."""
    determined = small[0] in w.DETERMINERS
    for i in range(1, len(small)):
        word, before = small[i], small[i - 1]
        if words[i].start() > end + 1:
            return 0
        if (
            word in w.PREPOSITIONS
            or before in w.DETERMINERS
            or all(word_ in _NO_NOUNS for word_ in small[:i])
            or (before.endswith(_QUALITIES) and before not in _NO_QUALITIES)
        ):
            continue
        after = small[i + 1] if i + 1 < len(small) else ""
        many = number == "many" or english.is_plural(before) or (before in _COLLECTIVE and not in_third(word))
        agrees = number == "either" or in_third(word) != many
        known = word in VERBS or word in SOUND_VERBS or word in AMBIENT_VERBS
        led = after in w.DETERMINERS or after.endswith("ly") or after in _BEHIND_VERBS
        ended = led or not after or after in w.PREPOSITIONS
        if known and agrees and (i > 1 or not determined):
            if in_third(word) and (word not in NOUNY or led or small[0] in ("a", "an", "one") or before in _AIRY):
                return words[i - 1].end()
            if not in_third(word) and many and (ended or determined or number or before.endswith(SEVERAL_ENDINGS)):
                return words[i - 1].end()
        shaped = determined and word.endswith("s") and not word.endswith(("ss", "us", "is", "'s", "’s")) and i >= 2
        if shaped and not many and ((small[0] in ("a", "an", "one") and ended) or after in w.DETERMINERS):
            return words[i - 1].end()
    return 0


def is_clause(text: str) -> bool:
    """Does a text say what something does ("a storm gathers"), and not only name it?"""
    words = list(re.finditer(r"\S+", text.rstrip(".!?;:,")))
    return bool(words) and verb_at(words, [m.group().lower() for m in words], len(text)) > 0


def acting(words: list[re.Match], small: list[str], end: int, lexicon: Lexicon) -> int:
    """Where a person or an animal ends before what it does: "a girl eating ice cream"."""
    for i in range(1, len(small)):
        if words[i].start() > end + 1:
            return 0
        heads = lexicon.heads.get(bare(small[i - 1]), {})
        who = heads.get("subject", 0) + heads.get("animal", 0) > 0 or small[i - 1].endswith(("er", "ist", "man", "woman"))
        after = small[i + 1] if i + 1 < len(small) else ""
        verbal = small[i].endswith("ing") and base_of(small[i]) != small[i]
        hung = verbal and english.is_plural(small[i - 1]) and after in w.PREPOSITIONS  # "marionettes hanging in a window"
        if hung or (who and ((verbal and small[i] not in w.ING_NOUNS) or small[i].startswith("mid-"))):
            return words[i - 1].end()
    return 0


def participle(verb: str) -> str:
    """The -ing form of a verb in the present tense: trots → trotting, waves → waving, lies → lying."""
    base = verb
    if base.endswith("ies") and len(base) > 4:
        base = base[:-3] + "y"
    elif base.endswith(("sses", "shes", "ches", "xes", "zes", "oes")):
        base = base[:-2]
    elif base.endswith("s") and not base.endswith("ss"):
        base = base[:-1]
    if base.endswith("ie"):
        return base[:-2] + "ying"
    if base.endswith("e") and not base.endswith(("ee", "oe", "ye")):
        return base[:-1] + "ing"
    if re.fullmatch(r"[b-df-hj-np-tv-z]*[aeiou][bdgklmnprt]", base):
        return base + base[-1] + "ing"
    return base + "ing"
