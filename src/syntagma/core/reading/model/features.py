"""What the reader looks at: the features of a word in its stretch, and of a row of words that may be a part.

A feature is a string; its weights are learned (training/). Each kind begins with its own letters (docs/reading.md tells what each kind is worth).
"""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.model.words import ENDS, Knowledge, Word, is_determiner, is_lead

LONGEST = 26  # words of one part
_DIGITS = regex(r"\d+")
EDGE = "|"


class Setting(NamedTuple):
    """Where a stretch stands: the form of the whole text, the facet or words of its label, and whether the text begins with it."""

    form: str
    label: str = ""
    first: bool = False


class Stretch:
    """A row of words, and what is worked out once for all features in it."""

    def __init__(self, knowledge: Knowledge, words: Sequence[Word], setting: Setting):
        self.knowledge, self.words, self.setting = knowledge, words, setting
        n = len(words)
        self.shape = [_shape(w.low) for w in words]
        self.chunk = _chunks(words)  # for each word: where its stretch between signs begins and ends
        self.sentence = _sentences(words)
        self.quoted = _quoted(words)
        self.head = [_head(words, i) for i in range(n)]  # the noun on which the group of a word ends
        self.lead = _leads(words)
        self.names: list[list[tuple[str, str, int]]] = [[] for _ in words]
        self.named: dict[tuple[int, int], Sequence[str]] = {}
        for a, b, facets in knowledge.names(words):
            self.named[a, b] = facets
            for i in range(a, b):
                for facet in facets:
                    self.names[i].append((facet, "B" if i == a else "I", b - a))
        self.trade: list[list[tuple[str, str, int]]] = [[] for _ in words]
        self.traded: dict[tuple[int, int], Sequence[str]] = {}
        for a, b, facets in knowledge.trade(words):
            self.traded[a, b] = facets
            for i in range(a, b):
                self.trade[i] += [(facet, "B" if i == a else "I", b - a) for facet in facets]
        self.chunk_head = {}
        for a, b in set(self.chunk):
            self.chunk_head[a, b] = _head(words, a) if a < b else a

    def of_word(self, i: int) -> list[str]:
        """The features of one word."""
        words, w = self.words, self.words[i]
        n = len(words)
        low, shape = w.low, self.shape[i]
        before = self.shape[i - 1] if i else EDGE
        after = self.shape[i + 1] if i + 1 < n else EDGE
        before2 = self.shape[i - 2] if i > 1 else EDGE
        after2 = self.shape[i + 2] if i + 2 < n else EDGE
        found = [
            "b", f"w={shape}", f"w-={before}", f"w+={after}", f"w--={before2}", f"w++={after2}",
            f"w-w={before} {shape}", f"ww+={shape} {after}", f"f={self.setting.form}",
        ]  # fmt: skip
        if not w.is_word:
            found.append("sign")
        else:
            found += [f"e3={low[-3:]}", f"e2={low[-2:]}"]
            if "-" in low:
                found += [f"hy={part}" for part in low.split("-")]
            found += [f"c={code}" for code in w.senses]
            found += [f"vd={facet} {share}" for facet, share in self.knowledge.facets.get(_bare(low), ())]
        if i:
            found += [f"c-={code}" for code in words[i - 1].senses]
        if i + 1 < n:
            found += [f"c+={code}" for code in words[i + 1].senses]
        h = self.head[i]
        if h != i:
            found += [f"h={self.shape[h]}", *(f"hc={code}" for code in words[h].senses)]
            found += [f"hv={facet} {share}" for facet, share in self.knowledge.facets.get(_bare(words[h].low), ())]
        lead = self.lead[i]
        found.append(f"p={lead}")
        found += [f"p,c={lead} {code}" for code in words[h].senses if "." in code and code[:2] != "n." and code[0] not in "~a"]
        for facet, where, length in self.names[i]:
            found += [f"v={facet}", f"v={facet} {where} {min(length, 3)}"]
        for facet, where, length in self.trade[i]:
            found += [f"t={facet}", f"t={facet} {where} {min(length, 3)}"]
        if h != i:
            found += [f"th={facet}" for facet, *_ in self.trade[h]]
        if i + 1 < n:
            found += [f"t+={facet}" for facet, *_ in self.trade[i + 1]]
        a, b = self.chunk[i]
        found += [f"k#={min(b - a, 7)} {self.setting.form}", f"k0={self.shape[a] if a < n else EDGE}", f"ki={min(i - a, 3)}", f"kj={min(b - i, 3)}"]
        c = self.chunk_head[a, b]
        if b - a < 8 and c < n:
            found += [f"kh={self.shape[c]}", *(f"kc={code}" for code in words[c].senses), *(f"kt={facet}" for facet, *_ in self.trade[c])]
        s = self.sentence[i]
        found += [f"s0={self.shape[s]}", f"si={min(i - s, 6)}"]
        if self.setting.label:
            found.append(f"l={self.setting.label}")
        if self.quoted[i]:
            found += ["q", f"q={self.before_quote(i)}"]
        if self.setting.first:
            found.append(f"at={min(i, 4)}")
        return found

    def before_quote(self, i: int) -> str:
        """The word before the quotation marks in which a word stands."""
        at = self.quoted[i] - 2
        while at >= 0 and not self.words[at].is_word:
            at -= 1
        return self.shape[at] if at >= 0 else EDGE

    def of_part(self, a: int, b: int) -> list[str]:
        """The features of the words from `a` to before `b`, if they were one part."""
        words, n = self.words, len(self.words)
        first, last = self.shape[a], self.shape[b - 1]
        before = self.shape[a - 1] if a else EDGE
        after = self.shape[b] if b < n else EDGE
        length = b - a
        found = [
            "b", f"1={first}", f"9={last}", f"-={before}", f"+={after}", f"-1={before} {first}", f"9+={last} {after}", f"#={min(length, 9)}",
            f"#f={min(length, 5)} {self.setting.form}",
        ]  # fmt: skip
        h = _head(words, a, b)
        found += [f"h={self.shape[h]}", f"h1={first} {self.shape[h]}"]
        codes = words[h].senses
        found += [f"hc={code}" for code in codes]
        found += [f"1c={first} {code}" for code in codes if "." in code and code[0] in "nv" and code[1] != "."] if not words[a].senses else []
        found += [f"fc={code}" for code in words[a].senses]
        found += [f"-c={before} {code}" for code in codes if "." in code and code[0] in "nv" and code[1] != "."]
        found += [f"hv={facet} {share}" for facet, share in self.knowledge.facets.get(_bare(words[h].low), ())]
        if length > 1 and is_lead(first):
            found += [f"2={self.shape[a + 1]}", f"2c={'D' if is_determiner(words[a + 1].low) else 'x'} {first}"]
        seen = set()
        for i in range(a, b):
            shape = self.shape[i]
            if shape not in seen:
                seen.add(shape)
                found.append(f"w={shape}")
                found += [f"vd={facet}" for facet, _ in self.knowledge.facets.get(_bare(words[i].low), ())]
        kinds = {code for i in range(a, b) for code in words[i].senses if "." in code and code[1] != "."}
        found += [f"c={code}" for code in kinds]
        inner = words[a + 1 if first in ("a", "an", "the") or is_lead(first) else a : b]
        covered = 0
        for (x, y), facets in self.named.items():
            if a <= x and y <= b:
                covered += y - x
                share = (y - x) / max(1, len(inner))
                found += [f"v={facet} {'all' if share >= 1 else 'half' if share >= 0.5 else 'some'}{' end' if y == b else ''}" for facet in facets]
        found.append(f"v#={min(covered, 3)}")
        for (x, y), facets in self.traded.items():
            if a <= x and y <= b:
                share = (y - x) / max(1, len(inner))
                found += [f"t={facet} {'all' if share >= 1 else 'half' if share >= 0.5 else 'some'}{' end' if y == b else ''}" for facet in facets]
        found += [f"th={facet}" for facet, *_ in self.trade[h]]
        x, y = self.chunk[a]
        whole = (a == x, b == y)
        found += [f"k={whole}", f"k#={whole} {min(y - x, 7)}", f"k1={whole} {first}"]
        if any(not word.is_word for word in words[a:b]):
            found.append("comma")
        if any(is_lead(word.low) for word in words[a + 1 : b]):
            found.append("leads")
        if self.setting.label:
            found.append(f"l={self.setting.label} {whole}")
        if self.quoted[a]:
            found += ["q", f"q={self.before_quote(a)}"]
        if self.setting.first and a < 4:
            found.append(f"at={a}")
        found.append(f"p={self.lead[a]}")
        return found


def _quoted(words: Sequence[Word]) -> list[int]:
    """For each word within quotation marks where they open, behind the mark; 0 for others."""
    found, opened = [0] * len(words), 0
    for i, word in enumerate(words):
        if word.low in ("“", '"') and not opened:
            opened = i + 1
        elif word.low in ("”", '"') and opened:
            found[opened:i] = [opened] * (i - opened)
            opened = 0
    return found


def _bare(word: str) -> str:
    return word[:-1] if len(word) > 3 and word[-1] == "s" and word[-2] not in "su" else word


def _shape(low: str) -> str:
    """A word with its numbers by their length: "85mm" is "00mm"."""
    return _DIGITS.sub(lambda m: "0" * min(len(m.group()), 4), low) if not low.isalpha() else low


def _chunks(words: Sequence[Word]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    at = 0
    for i, word in enumerate(words):
        if not word.is_word and word.low not in "'\"":
            found += [(at, i)] * (i - at) + [(i, i)]
            at = i + 1
    return found + [(at, len(words))] * (len(words) - at)


def _sentences(words: Sequence[Word]) -> list[int]:
    found, at = [], 0
    for i, word in enumerate(words):
        found.append(min(at, i))
        if word.low in ENDS or word.low[0] == "\n":
            at = i + 1
    return found


def _head(words: Sequence[Word], i: int, stop: int | None = None) -> int:
    """Where the noun stands on which the group ends that begins at or goes through a word."""
    stop = len(words) if stop is None else stop
    begin = i
    while i < stop - 1 and is_lead(words[i].low) and words[i].low not in ("and", "or"):
        i += 1  # what leads to it
    found, noun = min(i, stop - 1), False
    for at in range(i, min(stop, i + 10)):
        word = words[at]
        if at > i and (not word.is_word or is_lead(word.low) or (noun and is_determiner(word.low))):
            break
        kinds = word.senses
        if noun and "V" in kinds and "n" not in kinds:
            break
        if ("N" in kinds or "n" in kinds or not kinds) and not is_determiner(word.low):
            found, noun = at, True
    return max(found, begin)


def _leads(words: Sequence[Word]) -> list[str]:
    """For each word what leads to it: the preposition or the like that stands before it, with no sign between; "" where nothing does."""
    found, lead = [], ""
    for i, word in enumerate(words):
        if not word.is_word:
            lead = ""
        elif is_lead(word.low):
            lead = f"{words[i - 1].low} {word.low}" if i and words[i - 1].is_word and ("V" in words[i - 1].senses or words[i - 1].low in ("lit", "seen", "shot", "set", "made", "taken")) else word.low
        found.append(lead)
    return found
