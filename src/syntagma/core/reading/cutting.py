"""Prose cut into parts: at stops and commas, and within them where a deed, a place, clothes or a kind of picture begins."""

import re
from collections.abc import Iterator
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english import words as w
from syntagma.core.english.groups import head_end
from syntagma.core.reading.lexicon import LONGEST
from syntagma.core.reading.sorting import Sorted, Sorter, is_kind
from syntagma.core.reading.verbs import AMBIENT_VERBS, DESCRIBING, FROM_WHAT, LOOKING, NOUNY, SOUND_VERBS, VERBS, base_of

_CHUNK = re.compile(r"(?:[^,;:.!?\n—]|[.,:](?=[^\s]))+")
_WORD = re.compile(r"\S+")
_GLUE = re.compile(
    r"^(?:(?:and|of|then|while|as|to show|to reveal|showing|showing us|revealing|depicting|featuring|with|but|for|from|to|who|which|that|use|using"
    r"|add|include|including|plus)\s+)+",
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
# A medium by itself before what is shown in it: "claymation hedgehog".
_MADE = re.compile(
    r"(?:an? |the )?(?:claymation|stop-motion|watercolou?r|gouache|linocut|woodcut|papercut|anime|cartoon|pixel[- ]art|low-poly|voxel|hand-drawn|"
    r"photorealistic|hyperrealistic|black[- ]and[- ]white|isometric)(?=\s\w)",
    re.I,
)
_ERA = re.compile(r"(?:an? )?(?:1[0-9]|20)\d\ds(?=\s+\w)")
_CLAUSE_OF_MOVE = re.compile(
    r"(.*?\b(?:rising|flying|gliding|drifting|sweeping|glides|rises|cranes up|flies|sweeps|drifts|pushes|moves|tracks)"
    r"(?: \w+ly)?(?: up| down| in)? (?:over|across|through|past|along|towards?))\s+(?=(?:an?|the)\s)",
    re.I,
)
_FOLLOWS = re.compile(r"((?:the )?(?:hand-?held )?camera (?:\w+ly )?follows)\s+(?=\S)", re.I)
_NO_OBJECT = frozenset("left right above below side front behind him her them it forward backward backwards wheel".split())
_CUTS_DEED = frozenset(
    "in on at under among behind inside outside beside near aboard from down through beneath by between amid atop underneath beyond above".split()
)
_CLOTHED = re.compile(r"^(?:in|wearing|dressed in|clad in|wrapped in|bundled in|draped in)\b", re.I)
_TIMED = re.compile(r"\s+(?:in (?:extreme |ultra |dreamy )?(?:slow[- ]motion|real time|reverse|one take)|at \d+ (?:frames per second|fps))$", re.I)
_ATTRIBUTE = re.compile(
    r"\s+(of|with|and|for|shaped like|(?:made|carved|built|woven|folded|formed|cut) (?:entirely )?(?:of|from|out of)|(?:covered|coated|dusted|encrusted"
    r"|filled|topped|decorated|studded|overgrown|draped|stuffed|piled|stacked|adorned|crowned|lined|painted) (?:in|with)|full of|in the)\s+(?=\S)",
    re.I,
)
_TRAIL = re.compile(r"\s+(of|and|between|with|above|below|from|to|behind|beside|lined with|covered (?:in|with)|filled with|full of|for)\s+(?=\S)", re.I)
_AGE = re.compile(r"\s+in (?:his|her|their) (?:early |mid |late |mid-|late-|early-)*(?:teens|\w+ties)\b", re.I)
# What can be somewhere or do something: what follows it is cut off.
_HAVES = frozenset("subject animal food object architecture setting close-detail wardrobe material creature-feature".split())
_AIR = frozenset("visual-effect weather lighting light-quality music ambience sound-effect hour".split())  # what fills a clause of its own
_WITH_APART = _HAVES | {"action"}  # what "with" may lead to as a part of the thing before it
_DEED_BY_ITSELF = frozenset("pose expression lighting visual-effect pacing camera-angle looping-motion".split())


class Part(NamedTuple):
    """A stretch of prose: noun (group), behind (a preposition), deed, kind, clause; `found` is what a clause was sorted as."""

    start: int
    stop: int
    role: str
    found: Sorted | None = None


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


def parts(text: str, start: int, stop: int, sorter: Sorter, settled: bool = False) -> list[Part]:
    """The parts of one chunk. `settled`: what the picture is of has been named before."""
    lead = _GLUE.match(text[start:stop])
    if lead and lead.end() < stop - start and not re.match(r"(?:from|with|to)\s", text[start:stop], re.I):
        start += lead.end()
    elif re.match(r"with\s", text[start:stop], re.I) and len(text[start:stop].split()) > 1:
        start += 5
    cutter = _Cutter(text, sorter, settled)
    cutter.cut(start, stop)
    return cutter.found


class _Cutter:
    """Cuts one chunk from left to right; `found` are the parts so far."""

    def __init__(self, text: str, sorter: Sorter, settled: bool):
        self.text, self.sorter, self.settled = text, sorter, settled
        self.found: list[Part] = []

    def _put(self, start: int, stop: int, role: str, found: Sorted | None = None) -> None:
        self.found.append(Part(start, stop, role, found))

    def cut(self, start: int, stop: int) -> None:
        """What begins with a kind of picture, a noun group, a place or a deed."""
        said = self.text[start:stop]
        if not said.strip():
            return
        whole = self.sorter.sort(said)
        timed = _TIMED.search(said)
        era = _ERA.match(said)
        if whole.term:
            self._put(start, stop, "noun")
        elif timed and timed.start() and whole.facet != "exposure":
            self.cut(start, start + timed.start())
            self._put(start + timed.start() + 1, stop, "noun")
        elif era:
            self._put(start, start + era.end(), "kind")
            self.cut(start + era.end() + 1, stop)
        elif not (self._kind_first(start, stop) or self._made_first(start, stop) or self._coordinated(start, stop)):
            self._plain(start, stop, whole)

    def _kind_first(self, start: int, stop: int) -> bool:
        """A kind of picture and what it is of: "a linocut of a ferry"."""
        said = self.text[start:stop]
        kind = _kind(said, self.sorter)
        if not kind:
            return False
        end, onward = kind
        angle = _ANGLED.match(said[:end])
        if angle:
            self._put(start, start + len(angle.group().rstrip()), "kind")
            self._put(start + angle.end(), start + end, "kind")
        else:
            self._put(start, start + end, "kind")
        if re.search(r"\b(?:over|across|through|past|along)$", said[:onward].strip(), re.I):
            self._behind(start + onward, stop)
        else:
            self.cut(start + onward, stop)
        return True

    def _made_first(self, start: int, stop: int) -> bool:
        made = _MADE.match(self.text, start, stop)
        if not made or self.settled:
            return False
        rest = self.text[made.end() + 1 : stop]
        if self.sorter.sort(rest[: head_end(rest)]).facet not in ("", *_HAVES):
            return False
        self._put(start, made.end(), "kind")
        self.cut(made.end() + 1, stop)
        return True

    def _coordinated(self, start: int, stop: int) -> bool:
        """Two things of other facets joined by "and": "loose washes and a soft palette"."""
        said = self.text[start:stop]
        for match in re.finditer(r"\s+(?:and|with)\s+", said, re.I):
            left, right = self.sorter.sort(said[: match.start()]), self.sorter.sort(said[match.end() :])
            apart = left.facet and right.facet and left.facet != right.facet and min(left.sure, right.sure) >= 0.78
            if apart and not {left.facet, right.facet} & (_HAVES | {"negative"}):
                self.cut(start, start + match.start())
                self.cut(start + match.end(), stop)
                return True
        return False

    def _plain(self, start: int, stop: int, whole: Sorted) -> None:
        said = self.text[start:stop]
        words = list(_WORD.finditer(said))
        small = [m.group().lower().strip("'’") for m in words]
        if small[0] in w.PREPOSITIONS and small[0] not in ("like", "with", "for"):
            self._behind(start, stop)
            return
        if _deed_word(small[0]) and not _noun_in_ing(small) and not (len(small) <= 2 and whole.sure >= 0.85):
            self._deed(start, stop)
            return
        verb = _verb_at(words, small, head_end(said))
        bare = not _long_tail(said) and not re.match(r"an?\s.*\s(?:with|in|\w+ing)\s", said, re.I)
        acts = verb and self.sorter.sort(said[:verb]).facet in ("", *_HAVES)
        if whole.facet and whole.sure >= 0.85 and bare and not acts:
            self._put(start, stop, "noun")
            return
        end = verb or head_end(said)
        end = max(self._with_attributes(said, end), self._named(said, words, end))
        if end >= len(said):
            self._put(start, stop, "noun")
            return
        group = self.sorter.sort(said[:end])
        follows = said[end:].split()[0].lower()
        airy = verb or self.settled or not (_deed_word(follows) or group.facet == "visual-effect")
        if group.sure >= 0.7 and group.facet in _AIR and airy:
            self._put(start, stop, "clause", group)  # "firelight flickers on his face", "warm light from a lamp": one part
            return
        if group.sure >= 0.7 and group.facet not in _HAVES and not _deed_word(follows):
            self._put(start, stop, "noun")
            return
        self._put(start, start + end, "noun")
        self._after_noun(start + end + len(said[end:]) - len(said[end:].lstrip()), stop)

    def _after_noun(self, at: int, stop: int) -> None:
        """What follows a noun group: where it is, what it does, what else there is."""
        word = self.text[at:stop].split(" ", 1)[0].lower()
        if word == "to" and any(part.role == "kind" for part in self.found):
            self.cut(at + 3, stop)  # "whip pan from a coach to a swimmer"
        elif word in w.PREPOSITIONS:
            self._behind(at, stop)
        elif word in ("and", "with", "who", "that", "which", "while", "as"):
            self.cut(at + len(word) + 1, stop)
        else:
            self._deed(at, stop)

    def _named(self, said: str, words: list[re.Match], end: int) -> int:
        """Where the longest name of the vocabulary ends with which a text begins, beyond `end`: "a harbour pilot in an oilskin coat"."""
        for match in reversed(words[1 : LONGEST + 2]):
            if match.end() <= end:
                return 0
            if self.sorter.lexicon.exact(said[: match.end()]):
                return match.end()
        return 0

    def _with_attributes(self, said: str, end: int) -> int:
        """A noun group with what belongs to it: "a bowl of soup", "a man with freckles", "a fox and a hare"."""
        while end < len(said):
            age = _AGE.match(said, end)
            if age:
                end = age.end()
                continue
            more = _ATTRIBUTE.match(said, end)
            if not more:
                break
            link, start = more[1].lower(), more.end()
            rest = said[start:]
            words = list(_WORD.finditer(rest))
            small = [m.group().lower() for m in words]
            stop = start + (_verb_at(words, small, head_end(rest), link == "and") or head_end(rest))
            if link == "in the" and not re.match(r"(?:mirror|window|distance)\b", rest):
                break
            if link != "of" and link != "and" and (found := self.sorter.sort(said[start:stop])).facet and found.facet not in _WITH_APART:
                break
            if link.endswith((" in", " with")) and self.sorter.sort(said[start:stop]).facet == "wardrobe":
                break
            if link == "and" and (_deed_word(small[0]) or small[0] in VERBS - NOUNY and small[0].endswith("s")):
                break
            end = stop
        return end

    def _deed(self, start: int, stop: int) -> None:
        """A deed up to the place where it happens."""
        said = self.text[start:stop]
        if re.match(r"(?:wearing|wears|dressed|clad|wrapped in|bundled in|draped in)\b", said, re.I):
            self._put(start, stop, "noun")
            return
        if self.sorter.sort(said, "deed").term or self.sorter.sort(said).facet in _DEED_BY_ITSELF:
            self._put(start, stop, "deed")
            return
        words = list(_WORD.finditer(said))
        verb = base_of(words[0].group().lower())
        for i, match in enumerate(words[1:], 1):
            word = match.group().lower()
            after = words[i + 1].group().lower() if i + 1 < len(words) else ""
            if (word == "in" and after == "front") or (verb in LOOKING and word in ("at", "through", "down", "beyond")):
                continue
            if verb in FROM_WHAT and word in ("from", "through", "over", "into") and i <= 3:
                continue
            if word in _CUTS_DEED and after and (after not in ("one", "his", "her", "its", "their") or i > 2):
                self._put(start, start + match.start() - 1, "deed")
                self._behind(start + match.start(), stop)
                return
        self._put(start, stop, "deed")

    def _behind(self, start: int, stop: int) -> None:
        """What a preposition leads to, up to a deed or the next preposition that begins something of its own."""
        said = self.text[start:stop]
        if self.sorter.sort(said, "behind").term:
            self._put(start, stop, "behind")
            return
        at = english.split_place(said)
        lead = len(at[0]) + 1 if at[0] else 0
        end = lead + head_end(said[lead:])
        words = list(_WORD.finditer(said))
        end = _verb_at(words, [m.group().lower() for m in words], end) or end
        while end < len(said) and (more := _TRAIL.match(said, end)):
            if more[1].lower() == "with":
                follows = self.sorter.sort(said[more.end() :])
                if follows.facet and follows.facet not in _HAVES | {"weather"}:
                    break
            end = more.end() + head_end(said[more.end() :])
        if end < len(said) and self._begins_anew(said, end):
            self._put(start, start + end, "behind")
            at_ = start + end + re.match(r"\s*(?:and|with)?\s*", said[end:]).end()
            word = self.text[at_:stop].split(" ", 1)[0].lower()
            if word in w.PREPOSITIONS and word != "with":
                self._behind(at_, stop)
            elif _deed_word(word) or word in VERBS:
                self._deed(at_, stop)
            else:
                self.cut(at_, stop)
            return
        self._put(start, stop, "behind")

    def _begins_anew(self, said: str, end: int) -> bool:
        """Is what stands behind a place something of its own: an hour, a light, clothes, a deed?"""
        rest = said[end:].lstrip()
        word = rest.split(" ", 1)[0].lower()
        follows = self.sorter.sort(rest, "behind" if word in w.PREPOSITIONS else "noun")
        own = follows.facet in ("hour", "weather", "lighting", "mood", "wardrobe", "focus", "lens") or word in _CUTS_DEED
        return bool(own or _CLOTHED.match(said) or _deed_word(word) or word in VERBS or word in ("and", "with"))


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
                or after[-1].lower() in _NO_OBJECT
            ):
                continue
        return match.start() + (len(link) + 1 if link.startswith("follow") else 0), match.end()
    match = _FOLLOWS.match(said)
    if match and said[match.end() :].split()[0].lower() not in _NO_OBJECT and not said[match.end() :].lower().startswith("from "):
        return match.end(1), match.end()
    match = _CLAUSE_OF_MOVE.match(said)
    if match and sorter.sort(match[1]).facet == "camera-move" and sorter.sort(match[1]).sure >= 0.8:
        return match.end(1), match.end()
    return None


def _deed_word(word: str) -> bool:
    return (
        (word.endswith("ing") and len(word) > 4 and word not in w.ING_NOUNS)
        or word in w.AFTER_NOUNS
        or word.startswith("mid-")
        or word in ("curled", "perched", "stranded", "caught", "poised", "huddled", "seated", "crouched", "sprawled", "slumped", "hunched")
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


_BEHIND_VERBS = frozenset("away up down off overhead open in out back together apart home past by".split())


def _verb_at(words: list[re.Match], small: list[str], end: int, joined: bool = False) -> int:
    """Where a noun group ends before a verb in the present tense; 0 where there is none before `end`. `joined`: it is the second of two
    that "and" joins."""
    determined = small[0] in w.DETERMINERS
    for i in range(1, len(small)):
        word, before = small[i], small[i - 1]
        if words[i].start() > end + 1:
            return 0
        if word in w.PREPOSITIONS or before in w.DETERMINERS:
            continue
        after = small[i + 1] if i + 1 < len(small) else ""
        many = joined or english.is_plural(before)
        known = word in VERBS or word in SOUND_VERBS or word in AMBIENT_VERBS
        led = after in w.DETERMINERS or after.endswith("ly") or after in _BEHIND_VERBS
        ended = led or not after or after in w.PREPOSITIONS
        if known and word.endswith("s") != many and (i > 1 or not determined):
            if word.endswith("s") and (word not in NOUNY or led or (small[0] in ("a", "an", "one") and ended)):
                return words[i - 1].end()
            if not word.endswith("s") and (ended or determined or joined):
                return words[i - 1].end()
        shaped = determined and word.endswith("s") and not word.endswith(("ss", "us", "is", "'s", "’s")) and i >= 2
        if shaped and not many and ((small[0] in ("a", "an", "one") and ended) or after in w.DETERMINERS):
            return words[i - 1].end()
    return 0
