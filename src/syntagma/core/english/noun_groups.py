"""The parts of a noun group: what leads it (determiner, preposition), where its head ends, whether
it can be counted; its plural, in which the head takes the plural and what comes after it stays.
"""

import re
from functools import lru_cache
from itertools import islice

from syntagma.core.english import word_lists as w
from syntagma.core.english.plurals import in_case_of, is_plural, plural_word
from syntagma.core.notation.late_regex import regex

_WORD = regex(r"[^\s,;:()]+")
_LONG = regex(
    "|".join(rf"{re.escape(d)}\b" for d in sorted(w.LONG_DETERMINERS, key=len, reverse=True)), re.I
)
_SOMEONES = regex(r"(?:my|your|his|her|our|their) [\w-]+(?:['’]s|s['’])(?=\s)", re.I)  # my uncle's
_POSSESSIVE = regex(r"[A-Z][\w-]*(?:['’]s|s['’])(?=\s)")
_LINKS = frozenset("of the at on in and de la von van upon".split())


@lru_cache(maxsize=8192)
def split_determiner(text: str) -> tuple[str, str]:
    """Return (determiner, rest) of a noun group: "the old launch" → ("the", "old launch"); ("",
    text) if it has none.
    """
    long = _LONG.match(text)
    if long and long.end() < len(text) and text[long.end()] == " ":
        return text[: long.end()], text[long.end() :].lstrip()
    possessive = ("'" in text or "’" in text) and (_SOMEONES.match(text) or _POSSESSIVE.match(text))
    if possessive:
        return possessive.group(), text[possessive.end() :].lstrip()
    first, space, rest = text.partition(" ")
    if space and rest.strip() and first.lower() in w.DETERMINERS:
        return first, rest.lstrip()
    number = re.fullmatch(r"\d+", first)
    if space and number and is_plural(text[: head_end(text)].split()[-1]):
        return first, rest.lstrip()  # "3 gulls", but "a 35 mm lens"
    return "", text


def starts_with_preposition(text: str) -> bool:
    """Does `text` begin with a preposition that something follows ("on a wet quay")?"""
    first, space, rest = text.partition(" ")
    return bool(space and rest.strip()) and first.lower() in w.PREPOSITIONS


@lru_cache(maxsize=8192)
def split_place(text: str) -> tuple[str, str]:
    """Return (prepositions, noun group): "out on a wet quay" → ("out on", "a wet quay")."""
    taken = text.split(" ")
    count = 0
    if (
        len(taken) > 2
        and taken[0].lower() in ("just", "right", "deep")
        and taken[1].lower() in w.PREPOSITIONS
    ):
        count = 1  # "just after sunset"
    while count < len(taken) - 1 and taken[count].lower() in w.PREPOSITIONS:
        if taken[count].lower() == "round" and taken[count + 1].lower() not in w.DETERMINERS:
            break  # "round doors in two rows"
        count += 1
    return " ".join(taken[:count]), " ".join(taken[count:])


MOST = 80  # words of a group that are looked at for its head


@lru_cache(maxsize=8192)
def head_end(text: str) -> int:
    """Return where the head noun of the group `text` ends: before a preposition, a clause or a
    participle after it.
    """
    found = list(islice(_WORD.finditer(text), MOST))
    while len(found) > 1 and found[-1].group().lower() in w.TRAILING:
        found.pop()
    for i, match in enumerate(found):
        if not i:
            continue
        before = text[found[i - 1].end() : match.start()]
        if re.search(r"[;:()]", before) or ("," in before and _closes(found, i, text)):
            return found[i - 1].end()
        word = match.group().lower()
        if (
            _preposition(found, i)
            or word in w.RELATIVES
            or word in w.AFTER_NOUNS
            or _participle(found, i)
            or _adverb(found, i)
            or _of_several(found, i, text)
        ):
            return found[i - 1].end()
    return found[-1].end() if found else len(text)


def _of_several(found: list[re.Match], i: int, text: str) -> bool:
    """What says how several are: "hands larger than faces", "sticks all at one height", "radishes
    pulled this morning", "brows drawn, mouth open"; but "a sports car".
    """
    if not is_plural(found[i - 1].group()):
        return False
    word, following = (
        found[i].group().lower(),
        (found[i + 1].group().lower() if i + 1 < len(found) else ""),
    )
    stops = not following or "," in text[found[i].end() : found[i + 1].start()]
    goes_on = (
        stops
        or following in w.PREPOSITIONS | w.DETERMINERS | w.PRONOUNS | w.RELATIVES
        or following in ("higher", "lower")
    )
    if word in w.HOW_MANY_ARE:
        return goes_on or word in ("just", "all")
    done = word in w.PARTICIPLES or (
        word.endswith("ed") and len(word) > 3 and word not in w.NOT_PARTICIPLES
    )
    return goes_on and (done or (word.endswith("ing") and following in w.PRONOUNS))


def _adverb(found: list[re.Match], i: int) -> bool:
    """What says more of what follows the noun: "light straight from behind", "fields just
    flooded".
    """
    following = found[i + 1].group().lower() if i + 1 < len(found) else ""
    if following and found[i].group().lower() in ("just", "newly", "half"):
        last = i + 2 == len(found) or found[i + 2].group().lower() in w.PREPOSITIONS
        return last and (
            following.endswith("ed") or following in w.PARTICIPLES
        )  # "rice fields just flooded", but "a half timbered house"
    return found[i].group().lower() == "straight" and (
        following in w.PREPOSITIONS or following in ("up", "down", "out")
    )


def _closes(found: list[re.Match], i: int, text: str) -> bool:
    """A comma between modifiers ("an eerie, fog-bound launch") is not an end of the group; one
    after the head is.
    """
    rest = [m.group().lower() for m in found[i:]]
    return (
        rest[0] in w.DETERMINERS
        or rest[0] in w.PREPOSITIONS
        or rest[0].endswith("ing")
        or len(rest) > 3
    )


def _preposition(found: list[re.Match], i: int) -> bool:
    word = found[i].group().lower()
    if word in w.ALSO_ADJECTIVES:
        return i + 1 < len(found) and found[i + 1].group().lower() in w.DETERMINERS
    return word in w.PREPOSITIONS


def _participle(found: list[re.Match], i: int) -> bool:
    word = found[i].group().lower()
    following = found[i + 1].group().lower() if i + 1 < len(found) else ""
    regular = (
        word.endswith("ed")
        and "-" not in word
        and not word.endswith("eed")
        and word not in w.NOT_PARTICIPLES
    )
    if word == "being":
        return (
            following.endswith("ed") or following in w.PARTICIPLES
        )  # "plates being counted", but "a human being"
    if word in w.PARTICIPLES or (regular and len(word) > 4):
        return (
            not following
            or following in w.PREPOSITIONS
            or following in ("and", "up", "down", "out")
        )
    if not word.endswith("ing") or "-" in word or len(word) < 5:
        return False
    several = is_plural(found[i - 1].group())
    if word in w.ING_NOUNS:
        return following in w.DETERMINERS or (
            several and following in w.PREPOSITIONS
        )  # "a ferry crossing the sound", "patterns hanging in ranks", but "an evening in March"
    if not following:
        return i == 1 or found[i - 1].group().lower() not in w.AFTER_NOUNS
    if (
        following in w.DETERMINERS
        or following in w.PREPOSITIONS
        or following.endswith("ly")
        or (several and (following in _WAYS or following == "and"))
    ):
        return True
    # "a man mending nets" fixes; "an old rowing boat" is a boat
    rest = [m.group() for m in found[i + 1 :]]
    tail = next((k for k, x in enumerate(rest) if x.lower() in w.PREPOSITIONS), len(rest))
    return tail > 0 and (is_plural(rest[tail - 1]) or rest[tail - 1].lower() in w.MASS)


@lru_cache(maxsize=8192)
def plural(text: str) -> str:
    """Return the noun group `text` in the plural: "pilot launch moored at the quay" → "pilot
    launches moored at the quay".

    A group that is plural already comes back as it is.
    """
    end = head_end(text)
    head, rest = text[:end], text[end:]
    for phrase, many in w.IRREGULAR.items():
        if " " in phrase and re.search(rf"\b{phrase}$", head, re.I):
            return head[: -len(phrase)] + in_case_of(head[-len(phrase) :], many) + rest
    cut = re.search(r"\S+$", head)
    if not cut or not cut.group()[-1].isalnum() or is_plural(cut.group()):
        return text
    return head[: cut.start()] + plural_word(cut.group()) + rest


# What follows "light" and makes a lamp of it: where it hangs.
_A_LAMP = re.compile(
    r" (?:in|on|at|above|over|behind|beside|by|under|near|with)"
    r" (?:the|an?|each|its|his|her|their|one|two)\b"
)
# Words before "light" that make a lamp of it.
_WAYS = frozenset(
    "overhead left right home past together apart away up down out back round".split()
)  # "strip lights passing overhead"
_SUNS = frozenset(
    "low high late early winter summer autumn spring morning evening afternoon midday thin weak"
    " hard hot pale first last cold warm broken bright golden white raking hazy low-angle".split()
)  # as light
_LAMPS = frozenset(
    """
        key fill rim hair strip ring spot box softbox head tail street traffic flood edge kicker
        work bicycle signal brake pilot night flash warning port stage fairy christmas single lone
        red green distant one small tiny faint bright flickering blinking flashing overhead ceiling
        wall desk
    """.split()
)


@lru_cache(maxsize=8192)
def countability(text: str) -> str:
    """Return how free text takes an article: "one", "many", "mass" or "name" (one, if nothing says
    otherwise).
    """
    head = text[: head_end(text)]
    parts = head.split()
    if not parts:
        return "one"
    called = (
        parts[1:] if parts[0] in ("little", "big", "poor", "dear") else parts
    )  # "little Tom", but "an old Morrow"
    if (
        called
        and _is_name(called, called)
        and (called is parts or not called[-1].lower().endswith(("an", "ese", "ish", "ite")))
    ):
        return "name"
    last = parts[-1].strip("\"'“”’.,!?").lower()
    if last in (
        "nobody",
        "somebody",
        "everybody",
        "anybody",
        "someone",
        "everyone",
        "anyone",
        "nothing",
        "something",
        "everything",
    ):
        return "name"
    if is_plural(parts[-1].strip("\"'“”.,!?")):
        return "many"
    if last in w.MASS or last.split("-")[-1] in w.MASS:
        return "mass"
    if " ".join(parts[-2:]).lower() in (
        "stained glass",
        "needle felt",
        "stop motion",
        "slow motion",
        "cut paper",
    ):
        return "mass"
    if last == "wind" and len(parts) == 1:
        return "mass"  # "wind in dry grass", but "a cold wind"
    if last == "light" and len(parts) > 1 and parts[-2].lower() not in _LAMPS:
        return "mass"  # "soft window light", but "a ring light"
    if last == "light" and (rest := text[len(head) :]) and not _A_LAMP.match(rest):
        return "mass"  # "light from below", "light bounced off a wall", but "a light in the window"
    if last == "sun" and text[len(head) :].startswith(
        (" through ", " off ", " along ", " between ", " in every ")
    ):
        return "mass"  # "sun through smoke"
    if last == "sun" and len(parts) > 1 and parts[-2].lower() in _SUNS:
        return "mass"  # "low winter sun", but "a smiling sun"
    if last in ("news", "physics", "mathematics", "gymnastics", "debris", "tennis", "chaos"):
        return "mass"
    return "one"


def _is_name(head: list[str], every: list[str]) -> bool:
    """Capitals throughout, but no bare initials: Candle Holm, Moth, Far Tilling."""
    big = [p for p in every if p.lower() not in _LINKS]
    if not head[0][:1].isupper():
        return False
    return all(p[:1].isupper() and len(p) > 1 and p[1:2].islower() and "-" not in p for p in big)
