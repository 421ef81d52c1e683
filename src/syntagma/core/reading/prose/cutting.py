"""Prose cut into parts: at stops and commas, and within them where a deed, a place, clothes or a kind of picture begins."""

import re
from collections.abc import Iterator
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english import word_lists as w
from syntagma.core.english.noun_groups import head_end
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import HAND, LONGEST, bare, first_word, last_word
from syntagma.core.reading.prose.classifying import Sorted, Sorter
from syntagma.core.reading.prose.cues import COLOURS
from syntagma.core.reading.prose.deeds import acting, deed_first, deed_word, verb_at
from syntagma.core.reading.prose.head_nouns import LAMPS
from syntagma.core.reading.prose.kind_of_picture import ANGLED, ERA, MADE, kind_at
from syntagma.core.reading.prose.verb_lists import ADJECTIVES, DESCRIBING, FROM_WHAT, LOOKING, NOUNY, VERBS, WAITING, base_of

# The words and marks at which prose is cut into parts, or kept together.
CHUNK = regex(r"(?:[^,;:.!?\n—]|[.,:](?=[^\s]))+")
WORD = regex(r"\S+")
GLUE = regex(
    r"^(?:(?:and|of|then|while|as|to show|to reveal|showing|showing us|revealing|depicting|featuring|with|but|for|from|to|who|which|that|use|using"
    r"|add|include|including|plus)\s+)+",
    re.I,
)
MEANWHILE = regex(r"(?<!\s)\s+(?:as|while|when)\s+(?=(?:an?|the|his|her|two|three|he|she|they|it)\s)", re.I)
PARTS_OF_BODIES = frozenset(
    "leg foot feet paw hoof wheel stilt shoulder head face arm hand knee back finger wing tail lap hip toe cheek nose forehead chin brow neck chest fur side tiptoe horseback".split()
)
CUTS_DEED = frozenset(
    "in on at under among behind inside outside beside near aboard from down through beneath by between amid atop underneath beyond above".split()
)
ANOTHER = regex(r"(?<=\w)\s+(?=(?:an?|the|his|her|their|two|three|four|some)\s)", re.I)
ADVERB = regex(r"(?<=\w)\s+(?:just|still|already|barely|almost|now|\w+ly)$")
PRONOUNS = frozenset("he she they it".split())
CLOTHED = regex(r"^(?:in|wearing|dressed in|clad in|wrapped in|bundled in|draped in)\b", re.I)
TIMED = regex(
    r"(?<!\s)\s+(?:in (?:extreme |ultra |dreamy )?(?:slow[- ]motion|real time|reverse|one take)|at \d+ (?:frames per second|fps)|(?:seen|viewed|photographed) (?:from|through)\b.*|frozen mid-\w+)$",
    re.I,
)
ATTRIBUTE = regex(
    r"(?<!\s)\s+(of|with|and|for|shaped like|(?:made|carved|built|woven|folded|formed|cut) (?:entirely )?(?:of|from|out of)|(?:covered|coated|dusted|encrusted"
    r"|filled|topped|decorated|studded|overgrown|draped|stuffed|piled|stacked|adorned|crowned|lined|painted) (?:in|with)|full of|in the)\s+(?=\S)",
    re.I,
)
TRAIL = regex(
    r"(?<!\s)\s+(of|and|between|with|above|below|from|to|behind|beside|lined with|covered (?:in|with)|filled with|full of|for)\s+(?=\S)",
    re.I,
)
AGE = regex(r"(?<!\s)\s+in (?:his|her|their) (?:early |mid |late |mid-|late-|early-)*(?:teens|\w+ties)\b", re.I)
# What can be somewhere or do something: what follows it is cut off.
HAVES = frozenset("subject animal food object architecture setting close-detail wardrobe material creature-feature".split())
AIR = frozenset(
    "visual-effect weather lighting light-quality music ambience sound-effect hour".split()
)  # what fills a clause of its own
WITH_APART = HAVES | {"action"}  # what "with" may lead to as a part of the thing before it
DEED_BY_ITSELF = frozenset("pose expression lighting visual-effect pacing camera-angle looping-motion".split())

STRETCH = 500  # characters without a comma that are looked at together


class Part(NamedTuple):
    """A stretch of prose: noun (group), behind (a preposition), deed, kind, clause; `found` is what a clause was sorted as."""

    start: int
    stop: int
    role: str
    found: Sorted | None = None


def chunks(text: str, start: int, stop: int) -> Iterator[tuple[int, int]]:
    """The stretches between commas and stops; a very long one in several."""
    for match in CHUNK.finditer(text, start, stop):
        a, b = match.span()
        while a < b and text[a] in " \t\r\"'“”‘’()[]":
            a += 1
        while b > a and text[b - 1] in " \t\r\"'“”‘’()[].":
            b -= 1
        while b - a > STRETCH:  # a run-on: what is further apart than this does not belong together
            cut = text.rfind(" ", a + 1, a + STRETCH)
            cut = cut if cut > a else a + STRETCH
            yield a, cut
            a = cut + len(text[cut:b]) - len(text[cut:b].lstrip())
        if a < b:
            yield a, b


def parts(text: str, start: int, stop: int, sorter: Sorter, settled: bool = False) -> list[Part]:
    """The parts of one chunk. `settled`: what the picture is of has been named before."""
    lead = GLUE.match(text[start:stop])
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
        timed = TIMED.search(said)
        era = ERA.match(said)
        if whole.term:
            self._put(start, stop, "behind" if english.starts_with_preposition(said) else "noun")
        elif timed and timed.start() and whole.facet != "exposure":
            self.cut(start, start + timed.start())
            self._put(start + timed.start() + 1, stop, "noun")
        elif (meanwhile := MEANWHILE.search(said)) and meanwhile.start():
            self.cut(start, start + meanwhile.start())
            self.cut(start + meanwhile.end(), stop)
        elif era and not self.settled:
            self._put(start, start + era.end(), "kind")
            self.cut(start + era.end() + 1, stop)
        elif not (self._kind_first(start, stop) or self._made_first(start, stop) or self._coordinated(start, stop)):
            self._plain(start, stop, whole)

    def _kind_first(self, start: int, stop: int) -> bool:
        """A kind of picture and what it is of: "a linocut of a ferry"."""
        said = self.text[start:stop]
        kind = kind_at(said, self.sorter)
        if not kind:
            return False
        end, onward = kind
        angle = ANGLED.match(said[:end])
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
        made = MADE.match(self.text, start, stop)
        if not made or self.settled:
            return False
        rest = self.text[made.end() + 1 : stop]
        if self.sorter.sort(rest[: head_end(rest)]).facet not in ("", *HAVES):
            return False
        self._put(start, made.end(), "kind")
        self.cut(made.end() + 1, stop)
        return True

    def _coordinated(self, start: int, stop: int) -> bool:
        """Two things of other facets joined by "and": "loose washes and a soft palette"."""
        said = self.text[start:stop]
        for match in re.finditer(r"(?<!\s)\s+(?:and|with)\s+", said, re.I):
            left, right = self.sorter.sort(said[: match.start()]), self.sorter.sort(said[match.end() :])
            apart = left.facet and right.facet and left.facet != right.facet and min(left.sure, right.sure) >= 0.78
            both = {left.facet, right.facet}
            tinted = (
                left.facet == "palette" and first_word(self.text[start + match.end() :]) in COLOURS
            )  # "magenta and cyan light"
            if apart and not tinted and not both & (HAVES | {"negative"}) and not both <= {"medium", "technique", "finish"}:
                self.cut(start, start + match.start())
                self.cut(start + match.end(), stop)
                return True
        return False

    def _plain(self, start: int, stop: int, whole: Sorted) -> None:
        said = self.text[start:stop]
        words = list(WORD.finditer(said))
        small = [m.group().lower().strip("'’") for m in words]
        if small[0] in w.PREPOSITIONS and small[0] not in ("like", "with", "for"):
            self._behind(start, stop)
            return
        known = whole.facet not in HAVES and whole.sure >= (0.75 if len(small) <= 2 else 0.85) and len(small) <= 4
        if self._taken_with(start, stop, said):
            return
        if small[0] in PRONOUNS or (deed_first(small) and not known and not self._worn_first(small)):
            self._deed(start, stop)
            return
        verb = verb_at(words, small, head_end(said)) or acting(words, small, head_end(said), self.sorter.lexicon)
        if (
            len(small) <= (3 if any(word.endswith("ing") or word in w.DETERMINERS for word in small[1:]) else 5)
            and not verb
            and whole.sure >= 0.75
            and not any(word in w.PREPOSITIONS - {"overhead"} for word in small)
            and not (deed_word(small[-1]) and whole.facet in HAVES)
        ):
            self._put(start, stop, "noun")
            return
        bare_noun = not _long_tail(said) and not re.match(r"an?\s.*\s(?:with|in|\w+ing)\s", said, re.I)
        done_by = self.sorter.sort(said[:verb]).facet if verb else "none"
        acts = done_by in ("", *HAVES) and whole.facet not in AIR and not re.search(r"\bcamera\b", said[:verb], re.I)
        if whole.facet and whole.sure >= 0.85 and bare_noun and not acts:
            self._put(start, stop, "noun")
            return
        end = verb or self._described(words, small, head_end(said)) or head_end(said)
        end = max(self._with_attributes(said, end), self._named(said, words, end))
        if end >= len(said):
            self._put(start, stop, "noun")
            return
        if adverb := ADVERB.search(said, 0, end):
            end = adverb.start()  # "string lights just coming on"
        group = self.sorter.sort(said[:end])
        after = [word.lower() for word in said[end:].split()]
        follows = after[1] if adverb and len(after) > 1 else after[0] if after else ""
        if (
            self.settled
            and not verb
            and group.facet in ("wardrobe", "expression")
            and group.sure >= 0.7
            and follows.endswith(("ed", "en"))
        ):
            self._put(start, stop, "clause", group)  # "goggles pushed up on her forehead"
            return
        if follows in w.ING_NOUNS and base_of(follows) != follows and len(after) > 1 and after[1] in w.PREPOSITIONS:
            follows = "doing"  # "dust hanging in the air": no noun there
        if (
            self.settled
            and group.facet not in AIR
            and small[0] not in w.DETERMINERS
            and small[len(said[:end].split()) - 1] in w.MASS
            and deed_word(follows)
        ):
            self._put(start, stop, "clause", Sorted("visual-effect", 0.55, "matter that moves"))  # "mud spraying from its tyres"
            return
        placed = group.facet == "medium" and follows in ("in", "under", "beside", "behind", "near")
        thing = not self.settled and (group.facet == "visual-effect" or last_word(said[:end]) in LAMPS)
        splits = group.facet in HAVES or placed or thing
        airy = verb or self.settled or not (deed_word(follows) or thing)
        if group.sure >= 0.7 and group.facet in AIR and airy:
            self._put(start, stop, "clause", group)  # "firelight flickers on his face", "warm light from a lamp": one part
            return
        if group.sure >= 0.7 and not splits and not deed_word(follows):
            self._put(start, stop, "noun", None if whole.facet else group._replace(term=None))
            return
        self._put(start, start + end, "noun")
        self._after_noun(start + end + len(said[end:]) - len(said[end:].lstrip()), stop)

    def _after_noun(self, at: int, stop: int) -> None:
        """What follows a noun group: where it is, what it does, what else there is."""
        word = self.text[at:stop].split(" ", 1)[0].lower()
        if self.found and self._of_body(at, stop):
            self.found[-1] = self.found[-1]._replace(stop=stop)  # "a library on mechanical legs"
        elif word == "to" and any(part.role == "kind" for part in self.found):
            self.cut(at + 3, stop)  # "whip pan from a coach to a swimmer"
        elif word in w.PREPOSITIONS:
            self._behind(at, stop)
        elif word in ("and", "with", "who", "that", "which", "while", "as"):
            self.cut(at + len(word) + 1, stop)
        else:
            self._deed(at, stop)

    def _taken_with(self, start: int, stop: int, said: str) -> bool:
        """What a picture was taken with, and what follows: "shot on a 35mm lens at f/2"."""
        taken = re.match(r"(?:shot|taken|filmed|photographed|captured) (?:on|with|through|using) ", said, re.I)
        if not taken:
            return False
        end = taken.end() + head_end(said[taken.end() :])
        self._put(start, start + end, "noun")
        if end < len(said):
            self._after_noun(start + end + 1, stop)
        return True

    def _worn_first(self, small: list[str]) -> bool:
        """ "hiking boots", "parking garage": what a noun is for, not a deed."""
        heads = self.sorter.lexicon.heads.get(bare(small[1]), {}) if len(small) > 1 else {}
        ends = len(small) < 3 or small[2] in w.PREPOSITIONS or small[2] in ("and", "with")
        return ends and max((heads.get(facet, 0) for facet in ("wardrobe", "setting", "lighting", "technique")), default=0) >= HAND

    def _of_body(self, at: int, stop: int) -> bool:
        """ "on mechanical legs", "around his neck": where something is worn or has its place."""
        words = re.findall(r"[a-z]+", self.text[at:stop].lower())
        own = (
            len(words) > 2
            and words[1] in ("his", "her", "their", "its")
            and words[0] in ("around", "over", "in", "under", "across")
        )
        return 2 <= len(words) <= 4 and (own or words[0] in ("on", "with")) and bare(words[-1]) in PARTS_OF_BODIES

    @staticmethod
    def _described(words: list[re.Match], small: list[str], end: int) -> int:
        """Where a noun group ends that would end before a participle although nothing but adjectives stands there: "tiny glowing windows"."""
        before = [word for word, match in zip(small, words, strict=True) if match.end() <= end]
        n = len(before)
        if (
            n == len(small)
            or small[n] not in DESCRIBING
            or not all(word in ADJECTIVES | COLOURS | w.DETERMINERS for word in before)
        ):
            return 0
        rest = words[0].string[words[n].end() + 1 :]
        return words[n].end() + 1 + head_end(rest) if rest else 0

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
            age = AGE.match(said, end)
            if age:
                end = age.end()
                continue
            more = ATTRIBUTE.match(said, end)
            if not more:
                break
            link, start = more[1].lower(), more.end()
            rest = said[start:]
            words = list(WORD.finditer(rest))
            small = [m.group().lower() for m in words]
            number = "many" if link == "and" else "either"
            stop = start + (verb_at(words, small, head_end(rest), number) or head_end(rest))
            if link == "in the" and not re.match(r"(?:mirror|window|distance)\b", rest):
                break
            if link in ("with", "for") and (found := self.sorter.sort(said[start:stop])).facet and found.facet not in WITH_APART:
                break
            if link.endswith((" in", " with")) and self.sorter.sort(said[start:stop]).facet == "wardrobe":
                break
            if link == "and" and (deed_word(small[0]) or (small[0] in VERBS - NOUNY and small[0].endswith("s"))):
                break
            end = stop
        return end

    def _deed(self, start: int, stop: int) -> None:
        """A deed up to the place where it happens."""
        said = self.text[start:stop]
        if re.match(r"(?:wearing|wears|dressed|clad|wrapped in|bundled in|draped in)\b", said, re.I):
            self._put(start, stop, "noun")
            return
        whole = self.sorter.sort(said).facet
        if self.sorter.sort(said, "deed").term or (whole in DEED_BY_ITSELF and (whole != "pose" or len(said.split()) <= 4)):
            self._put(start, stop, "deed")
            return
        words = list(WORD.finditer(said))
        if not words:
            self._put(start, stop, "noun")
            return
        verb = base_of(words[0].group().lower())
        for i, match in enumerate(words[1:], 1):
            word = match.group().lower()
            after = words[i + 1].group().lower() if i + 1 < len(words) else ""
            if (word == "in" and after == "front") or (verb in LOOKING and word in ("at", "through", "down", "beyond")):
                continue
            if word == "at" and i == 1 and verb not in WAITING and not self._place_known(said[match.start() :]):
                continue
            if word in ("down", "through") and not self._place_known(said[match.start() :]):
                continue
            if verb in FROM_WHAT and word in ("from", "through", "over", "into") and i <= 3:
                continue
            if word in CUTS_DEED and after and (after not in ("one", "his", "her", "its", "their") or i > 2):
                self._put(start, start + match.start() - 1, "deed")
                self._behind(start + match.start(), stop)
                return
        self._put(start, stop, "deed")

    def _place_known(self, said: str) -> bool:
        """Does a known place, or a known hour, follow a preposition?"""
        _, group = english.split_place(said)
        return self.sorter.sort(group[: head_end(group)]).facet in ("setting", "hour")

    def _behind(self, start: int, stop: int) -> None:
        """What a preposition leads to, up to a deed or the next preposition that begins something of its own."""
        said = self.text[start:stop]
        whole = self.sorter.sort(said, "behind")
        if whole.term or (whole.facet == "hour" and whole.sure >= 0.85):
            self._put(start, stop, "behind")
            return
        at = english.split_place(said)
        lead = len(at[0]) + 1 if at[0] else 0
        end = lead + head_end(said[lead:])
        if another := ANOTHER.search(said, lead + 4, end):
            end = another.start()  # "in the kitchen his daughter lights a stove"
        words = list(WORD.finditer(said))
        end = verb_at(words, [m.group().lower() for m in words], end, "either") or end  # it may agree with what stands before
        while end < len(said) and (more := TRAIL.match(said, end)):
            if more[1].lower() == "with":
                follows = self.sorter.sort(said[more.end() :])
                if follows.facet and follows.facet not in HAVES | {"weather"}:
                    break
            end = more.end() + head_end(said[more.end() :])
        onward = re.match(r"\s*(?:towards?|to|onto|on)\s+", said[end:]) if any(part.role == "kind" for part in self.found) else None
        if onward and end + onward.end() < len(said):
            self._put(start, start + end, "behind")
            self.cut(start + end + onward.end(), stop)  # "dolly through a greenhouse towards a fountain"
            return
        if end < len(said) and self._begins_anew(said, end):
            self._put(start, start + end, "behind")
            at_ = start + end + re.match(r"\s*(?:and|with)?\s*", said[end:]).end()
            word = self.text[at_:stop].split(" ", 1)[0].lower()
            if word in w.PREPOSITIONS and word != "with":
                self._behind(at_, stop)
            elif deed_word(word) or word in VERBS:
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
        own = follows.facet in ("hour", "weather", "lighting", "mood", "wardrobe", "focus", "lens") or word in CUTS_DEED
        return bool(
            own or word in w.DETERMINERS or CLOTHED.match(said) or deed_word(word) or word in VERBS or word in ("and", "with")
        )


def _long_tail(said: str) -> bool:
    return len(said.split()) > 5 and bool(re.search(r"\s(?:of|in|on|at|under|from|over)\s(?:an?|the)\s", said))
