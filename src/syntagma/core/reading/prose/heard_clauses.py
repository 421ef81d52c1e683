"""Clauses of something that is heard: "tyres hiss on wet stone", "ticking grows louder", "a foghorn drones in the distance"."""

import re

from syntagma.core import english
from syntagma.core.english.people import HEARD_ENDINGS
from syntagma.core.english.word_lists import DETERMINERS
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.prose.classifying import Sorted
from syntagma.core.reading.prose.verb_lists import AMBIENT_VERBS, HEARD, SOUND_VERBS, VERBS, in_third

_ALL_AROUND = regex(
    r"\bfills? (?:the|every)\b|\bin the (?:distance|background)\b|\boutside\b|\bdistant\b|\bfar[- ]off\b|\bfaint(?:ly)?\b|\beverywhere\b|\ball around\b",
    re.I,
)




def heard(said: str) -> Sorted | None:
    """A clause of something that is heard: "tyres hiss on wet stone"."""
    small = said.lower().split()
    if _ALL_AROUND.search(said) and any(word in AMBIENT_VERBS or word in SOUND_VERBS or word in HEARD for word in small):
        return Sorted("ambience", 0.8, "is heard all around")
    if len(small) > 1 and (small[-1] in HEARD or (small[0] in HEARD and small[1] in VERBS)):
        return Sorted("sound-effect", 0.75, f"“{small[-1]}” is heard")
    if len(small) in (2, 3) and small[0] in HEARD and small[-1].endswith(HEARD_ENDINGS):
        return Sorted("ambience", 0.7, f"“{small[0]}” is heard")
    for i, word in enumerate(small[1:5], 1):
        if small[i - 1].endswith(HEARD_ENDINGS):
            return None  # "the driver hums to himself" is seen
        if in_third(word) == english.is_plural(small[i - 1]) or small[i - 1] in DETERMINERS:
            continue  # "a ring light": no verb
        if word in AMBIENT_VERBS and i == len(small) - 1 and word in ("drum", "drums"):
            return None
        if word in SOUND_VERBS:
            return Sorted("sound-effect", 0.8, f"“{word}” is heard")
        if word in AMBIENT_VERBS:
            return Sorted("ambience", 0.8, f"“{word}” is heard")
    return None
