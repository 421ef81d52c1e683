"""Prose cut into parts: at stops and commas, and within them where a deed, a place, clothes or a kind of picture begins."""

import re
from collections.abc import Iterator
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english import words as w
from syntagma.core.english.groups import head_end
from syntagma.core.reading.cues import AMBIENT_VERBS, DESCRIBING, SOUND_VERBS, VERBS
from syntagma.core.reading.lexicon import LONGEST
from syntagma.core.reading.sorting import Sorter, is_kind

_CHUNK = re.compile(r"(?:[^,;:.!?\n—]|[.,:](?=[^\s]))+")
_WORD = re.compile(r"\S+")
_GLUE = re.compile(
    r"^(?:(?:and|of|then|while|as|to show|to reveal|showing|showing us|revealing|depicting|featuring|with|but|for|from|to|who|which|that)\s+)+",
    re.I,
)
_KIND_LINK = re.compile(
    r"\s+(of|for|showing|depicting|featuring|from|over|to|follows|following|across|through|past|to show|to reveal)\s+(?=\S)", re.I
)
# An angle before a shot size: "low-angle medium shot of …".
_ANGLED = re.compile(
    r"(?:an? )?(?:\w+[- ]angle|overhead|aerial|eye[- ]level|ground[- ]level|bird['’]s[- ]eye|worm['’]s[- ]eye)\s+(?=(?:\w+[- ])*(?:shot|close-?up|view)\b)",
    re.I,
)
_NO_OBJECT = frozenset("left right above below side front behind him her them it forward backward backwards wheel".split())
_CUTS_DEED = frozenset(
    "in on at under among behind inside outside beside near aboard from down through beneath by between amid atop underneath beyond".split()
)
_CLOTHED = re.compile(r"^(?:in|wearing|dressed in|clad in)\b", re.I)


class Part(NamedTuple):
    """A stretch of prose: noun (group), behind (a preposition), deed, kind; and whether it is the first of its chunk."""

    start: int
    stop: int
    role: str
    first: bool


def chunks(text: str, start: int, stop: int) -> Iterator[tuple[int, int]]:
    """The stretches between commas and stops."""
    for match in _CHUNK.finditer(text, start, stop):
        a, b = match.span()
        while a < b and text[a] in " \t\r\"'“”‘’()[]":
            a += 1
        while b > a and text[b - 1] in " \t\r\"'“”‘’()[].":
            b -= 1
        if a < b:
            yield a, b


def parts(text: str, start: int, stop: int, sorter: Sorter) -> list[Part]:
    """The parts of one chunk."""
    lead = _GLUE.match(text[start:stop])
    if lead and lead.end() < stop - start and not re.match(r"(?:from|with|to)\s", text[start:stop], re.I):
        start += lead.end()
    elif re.match(r"with\s", text[start:stop], re.I) and len(text[start:stop].split()) > 1:
        start += 5
    found: list[Part] = []
    _cut(text, start, stop, sorter, found, True)
    return found


def _cut(text: str, start: int, stop: int, sorter: Sorter, found: list[Part], first: bool) -> None:
    said = text[start:stop]
    if not said.strip():
        return
    kind = None if sorter.sort(said).term and not first else _kind(said, sorter)
    era = re.match(r"(?:an? )?(?:1[0-9]|20)\d\ds(?=\s+\w)", said)
    if era:
        found.append(Part(start, start + era.end(), "kind", first))
        _cut(text, start + era.end() + 1, stop, sorter, found, first)
        return
    if kind and sorter.sort(said).term:
        kind = None
    if kind:
        end, onward = kind
        angle = _ANGLED.match(said[:end])
        if angle:
            found.append(Part(start, start + len(angle.group().rstrip()), "kind", first))
            found.append(Part(start + angle.end(), start + end, "kind", first))
        else:
            found.append(Part(start, start + end, "kind", first))
        if re.search(r"\b(?:over|across|through|past|along)$", said[:onward].strip(), re.I):
            _behind(text, start + onward, stop, sorter, found, first)
        else:
            _cut(text, start + onward, stop, sorter, found, first)
        return
    words = list(_WORD.finditer(said))
    small = [m.group().lower().strip("'’") for m in words]
    if small[0] in w.PREPOSITIONS and small[0] not in ("like", "with", "for"):
        _behind(text, start, stop, sorter, found, first)
        return
    if _deed_word(small[0]) and not _noun_in_ing(small) and not (len(small) <= 2 and sorter.sort(said).sure >= 0.85):
        _deed(text, start, stop, sorter, found, first)
        return
    whole = sorter.sort(said)
    if whole.term or (
        whole.facet and whole.sure >= 0.85 and not _long_tail(said) and not re.match(r"an?\s.*\s(?:with|in|\w+ing)\s", said, re.I)
    ):
        found.append(Part(start, stop, "noun", first))
        return
    end = head_end(said)
    end = _verb_at(words, small, end) or end
    end = max(_with_attributes(said, end, sorter), _named(said, words, end, sorter))
    if end >= len(said):
        found.append(Part(start, stop, "noun", first))
        return
    group = sorter.sort(said[:end])
    if group.sure >= 0.7 and group.facet not in _HAVES and not _deed_word(said[end:].split()[0].lower()):
        found.append(Part(start, stop, "noun", first))  # "warm light from a lamp", "spray in the air": one part
        return
    found.append(Part(start, start + end, "noun", first))
    at = end + len(said[end:]) - len(said[end:].lstrip())
    rest = said[at:]
    word = rest.split(" ", 1)[0].lower()
    if word in w.PREPOSITIONS:
        _behind(text, start + at, stop, sorter, found, first)
    elif word in ("and", "with", "who", "that", "which", "while", "as"):
        skip = len(word) + 1
        _cut(text, start + at + skip, stop, sorter, found, first)
    else:
        _deed(text, start + at, stop, sorter, found, first)


# What can be somewhere or do something: what follows it is cut off.
_HAVES = frozenset("subject animal food object architecture setting close-detail wardrobe material creature-feature".split())


def _long_tail(said: str) -> bool:
    return len(said.split()) > 5 and bool(re.search(r"\s(?:of|in|on|at|under|from|over)\s(?:an?|the)\s", said))


def _kind(said: str, sorter: Sorter) -> tuple[int, int] | None:
    """Where a kind of picture ends and what it is of begins: "a linocut of a ferry"."""
    if re.match(r"(?:an? )?portrait of ", said, re.I):
        return None
    for match in _KIND_LINK.finditer(said):
        left = said[: match.start()]
        angle = _ANGLED.match(left)
        found = sorter.sort(left[angle.end() :] if angle else left)
        link = match[1].lower()
        if not is_kind(found) or found.sure < 0.6:
            continue
        if link in ("from", "to", "over", "across", "through", "past", "follows", "following"):
            after = said[match.end() :].split()
            if (
                found.facet not in ("camera-move", "transition", "camera-rig")
                or after[0].lower() in _NO_OBJECT
                or (after[-1].lower() in _NO_OBJECT)
            ):
                continue
        return match.start() + (len(link) + 1 if link.startswith("follow") else 0), match.end()
    match = re.match(r"((?:the )?(?:hand-?held )?camera (?:\w+ly )?follows)\s+(?=\S)", said, re.I)
    if match and said[match.end() :].split()[0].lower() not in _NO_OBJECT and not said[match.end() :].lower().startswith("from "):
        return match.end(1), match.end()
    match = re.match(
        r"(.*?\b(?:rising|flying|gliding|drifting|sweeping|glides|rises|cranes up|flies|sweeps|drifts)(?: \w+ly)?(?: up| down)? (?:over|across|through|past|along))\s+(?=(?:an?|the)\s)",
        said,
        re.I,
    )
    if match and sorter.sort(match[1]).facet == "camera-move":
        return match.end(1), match.end()
    return None


def _deed_word(word: str) -> bool:
    return (
        (word.endswith("ing") and len(word) > 4 and word not in w.ING_NOUNS)
        or word in w.AFTER_NOUNS
        or word in ("curled", "perched", "stranded", "mid-leap", "caught")
    )


def _noun_in_ing(small: list[str]) -> bool:
    """ "leading lines", "falling snow", "glowing windows": a participle before its noun."""
    return (
        len(small) > 1
        and small[0] in DESCRIBING
        and small[1] not in w.DETERMINERS
        and small[1] not in w.PREPOSITIONS
        and not small[1].endswith("ly")
    )


def _verb_at(words: list[re.Match], small: list[str], end: int) -> int:
    """Where a noun group ends before a verb in the present tense; 0 where there is none before `end`."""
    determined = small[0] in ("a", "an", "the", "one", "his", "her", "two", "three")
    for i in range(1, len(small)):
        word = small[i]
        if words[i].start() > end + 1:
            return 0
        if word in w.PREPOSITIONS or small[i - 1] in w.DETERMINERS:
            continue
        after = small[i + 1] if i + 1 < len(small) else ""
        known = word in VERBS or word in SOUND_VERBS or word in AMBIENT_VERBS
        shaped = determined and word.endswith("s") and not word.endswith(("ss", "us", "is", "'s", "’s")) and i >= 2
        ended = (
            not after
            or after in w.DETERMINERS
            or after in w.PREPOSITIONS
            or after.endswith("ly")
            or after in ("away", "up", "down", "off", "overhead", "open", "in", "out")
        )
        agrees = word.endswith("s") != english.is_plural(small[i - 1])
        if known and agrees and (ended or word.endswith("s")) and (i > 1 or not determined):
            return words[i - 1].end()
        if shaped and small[0] in ("a", "an", "one") and ended:
            return words[i - 1].end()
        if shaped and after in w.DETERMINERS:
            return words[i - 1].end()
    return 0


def _named(said: str, words: list[re.Match], end: int, sorter: Sorter) -> int:
    """Where the longest name of the vocabulary ends with which a text begins, beyond `end`: "a harbour pilot in an oilskin coat"."""
    for match in reversed(words[1 : LONGEST + 2]):
        if match.end() <= end:
            return 0
        if sorter.lexicon.exact(said[: match.end()]):
            return match.end()
    return 0


def _with_attributes(said: str, end: int, sorter: Sorter) -> int:
    """A noun group with what belongs to it: "a bowl of soup", "a man with freckles", "a fox and a hare"."""
    while end < len(said):
        age = re.match(r"\s+in (?:his|her|their) (?:early |mid|late |-)*(?:teens|\w+ties)\b", said[end:], re.I)
        if age:
            end += age.end()
            continue
        more = re.match(r"\s+(of|with|and|for|shaped like|made of|carved from|in the)\s+(?=\S)", said[end:], re.I)
        if not more:
            break
        link = more[1].lower()
        start = end + more.end()
        stop = start + head_end(said[start:])
        if link == "in the" and not re.match(r"(?:mirror|window|background|distance)\b", said[start:]):
            break
        if link == "with":
            found = sorter.sort(said[start:stop])
            if found.facet and found.facet not in (
                "subject",
                "animal",
                "food",
                "object",
                "creature-feature",
                "material",
                "close-detail",
                "architecture",
                "action",
                "setting",
            ):
                break
        if link == "and" and _deed_word(said[start:].split()[0].lower()):
            break
        end = stop
    return end


def _deed(text: str, start: int, stop: int, sorter: Sorter, found: list[Part], first: bool) -> None:
    """A deed up to the place where it happens."""
    said = text[start:stop]
    if re.match(r"(?:wearing|dressed|clad)\b", said, re.I):
        found.append(Part(start, stop, "noun", first))
        return
    if sorter.sort(said, "deed").term or sorter.sort(said).facet in (
        "pose",
        "expression",
        "lighting",
        "visual-effect",
        "pacing",
        "camera-angle",
        "looping-motion",
    ):
        found.append(Part(start, stop, "deed", first))
        return
    words = list(_WORD.finditer(said))
    for i, match in enumerate(words[1:], 1):
        word = match.group().lower()
        after = words[i + 1].group().lower() if i + 1 < len(words) else ""
        if word == "in" and after == "front":
            continue
        if word in _CUTS_DEED and after and (after not in ("one", "his", "her", "its", "their") or i > 2):
            found.append(Part(start, start + match.start() - 1, "deed", first))
            _behind(text, start + match.start(), stop, sorter, found, first)
            return
    found.append(Part(start, stop, "deed", first))


def _behind(text: str, start: int, stop: int, sorter: Sorter, found: list[Part], first: bool) -> None:
    """What a preposition leads to, up to a deed or the next preposition that begins something of its own."""
    said = text[start:stop]
    words = list(_WORD.finditer(said))
    at = english.split_place(said)
    lead = len(at[0]) + 1 if at[0] else 0
    whole = sorter.sort(said, "behind")
    if whole.term:
        found.append(Part(start, stop, "behind", first))
        return
    end = lead + head_end(said[lead:]) if lead else head_end(said)
    end = _verb_at(words, [m.group().lower() for m in words], end) or end
    while end < len(said):
        more = re.match(
            r"\s+(of|and|between|with|above|below|from|to|behind|beside|lined with|covered in|for)\s+(?=\S)", said[end:], re.I
        )
        if not more:
            break
        if more[1].lower() == "with":
            follows = sorter.sort(said[end + more.end() :])
            if follows.facet and follows.facet not in (
                "subject",
                "object",
                "setting",
                "animal",
                "food",
                "architecture",
                "close-detail",
                "material",
                "weather",
            ):
                break
        end += more.end() + head_end(said[end + more.end() :])
    if end < len(said):
        rest = said[end:].lstrip()
        word = rest.split(" ", 1)[0].lower()
        follows = sorter.sort(rest, "behind" if word in w.PREPOSITIONS else "noun")
        own = (
            follows.facet in ("hour", "weather", "lighting", "mood", "wardrobe", "focus", "lens")
            or word in _CUTS_DEED
            or _CLOTHED.match(said)
        )
        if own or _deed_word(word) or word in VERBS or word in ("and", "with"):
            found.append(Part(start, start + end, "behind", first))
            skip = re.match(r"\s*(?:and|with)?\s*", said[end:]).end()
            at_ = start + end + skip
            if word in w.PREPOSITIONS and word != "with":
                _behind(text, at_, stop, sorter, found, False)
            elif _deed_word(word) or word in VERBS:
                _deed(text, at_, stop, sorter, found, False)
            else:
                _cut(text, at_, stop, sorter, found, False)
            return
    if len(words) >= 1:
        found.append(Part(start, stop, "behind", first))
