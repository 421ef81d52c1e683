"""What the reader looks at: the features of a word in its stretch, and of a row of words that may
be a part.

A feature is a string; its weights are learned (training/). Each kind begins with its own letters
(docs/reference/reading.md tells what each kind is worth). What a word brings in any place is a
bundle, so its weights are added up once.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from syntagma.core.english.sentences import verb_at
from syntagma.core.english.verbs import VERBS, base_of, is_past
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import bare
from syntagma.core.reading.prompt_pieces import CLAUSE, DEED, NAMED, NOUN, PLACE, QUALITY
from syntagma.core.reading.words import ENDS, STOPS, ReadWord, WordKnowledge, is_determiner, is_lead

LONGEST = 26  # words of one part
LEADING_ON = frozenset(
    "a an the and or my his her their its our your".split()
)  # no part ends on these
_DIGITS = regex(r"\d+")
EDGE = "|"


class StretchContext(NamedTuple):
    """Where a stretch is: the form of the whole text, the facet or words of its label, and whether
    the text begins with it.
    """

    form: str
    label: str = ""
    first: bool = False


class Read(NamedTuple):
    """What was read before: the facet of the last part, and of all."""

    last: str = ""
    had: frozenset[str] = frozenset()

    def then(self, facet: str) -> "Read":
        """With one part more."""
        return Read(facet, self.had | {facet})


NOTHING_YET = Read()


class SeenWord(NamedTuple):
    """A word with what is worked out once for all features: its shape, its tag (what part of speech
    it may be), the stretch between signs and the sentence that it is in, the verb of that stretch
    (-1: none), where quotation marks were opened (0: nowhere), the noun on which its group ends,
    what leads to it, and the facets of names and of words of the trade that cover it, with whether
    they begin there and how many words they have.
    """

    shape: str
    tag: str
    chunk: tuple[int, int]
    verb: int
    sentence: int
    quoted: int
    head: int
    lead: str
    names: list[tuple[str, str, int]]
    trade: list[tuple[str, str, int]]


Spoken = list[
    tuple[int, Sequence[str]]
]  # names that begin with a word: where each ends, its facets
Item = (
    str | tuple[str, ...]
)  # a feature, or a bundle of them that a word brings: what kind of bundle, and words


class WordRow:
    """A row of words, and what is worked out once for all features in it."""

    def __init__(
        self, knowledge: WordKnowledge, words: Sequence[ReadWord], setting: StretchContext
    ):
        self.knowledge, self.words, self.setting = knowledge, words, setting
        self.named: list[Spoken] = [[] for _ in words]
        self.traded: list[Spoken] = [[] for _ in words]
        covered: tuple[list, list] = ([[] for _ in words], [[] for _ in words])
        for spans, begin, over in (
            (knowledge.names(words), self.named, covered[0]),
            (knowledge.trade(words), self.traded, covered[1]),
        ):
            for a, b, facets in spans:
                begin[a].append((b, facets))
                for i in range(a, b):
                    over[i] += [(facet, "B" if i == a else "I", b - a) for facet in facets]
        heads = [_head(words, i) for i in range(len(words))]
        chunks = _chunks(words)
        facts = zip(
            map(_tag, words),
            chunks,
            _verbs(words, chunks),
            _sentences(words),
            _quoted(words),
            heads,
            _leads(words),
            *covered,
            strict=True,
        )
        self.seen = [SeenWord(_shape(w.low), *fact) for w, fact in zip(words, facts, strict=True)]

    def spelled(self, items: Iterable[Item]) -> list[str]:
        """Features, those of bundles one by one."""
        return [
            feature
            for item in items
            for feature in ((item,) if isinstance(item, str) else self.spell(item))
        ]

    def spell(self, bundle: tuple[str, ...]) -> list[str]:
        """The features of a bundle: what is known of a word by itself, for a word that is there."""
        kind, word = bundle[0], bundle[-1]
        senses, shape = self.knowledge.senses.of(word), _shape(word)
        facets = self.knowledge.facets(bare(word)) if kind in ("o", "h", "H", "W") else ()
        if kind == "o":  # the word itself
            found = [
                f"w={shape}",
                f"e3={word[-3:]}",
                f"e2={word[-2:]}",
                *(f"c={code}" for code in senses),
            ]
            found += [f"vd={facet} {share}" for facet, share in facets]
            return found + ([f"hy={part}" for part in word.split("-")] if "-" in word else [])
        if kind in "-+":  # a neighbour
            return [f"w{kind}={shape}", *(f"c{kind}={code}" for code in senses)]
        if kind in "hH":  # the noun of its group, of a word or of a part
            return [
                f"h={shape}",
                *(f"hc={code}" for code in senses),
                *(f"hv={facet} {share}" for facet, share in facets),
            ]
        if kind == "k":  # the noun of its stretch
            return [f"kh={shape}", *(f"kc={code}" for code in senses)]
        if kind == "p":  # what leads to it, with what its noun is
            return [
                f"p,c={bundle[1]} {code}"
                for code in senses
                if "." in code and code[:2] != "n." and code[0] not in "~a"
            ]
        if kind == "F":  # the first word of a part
            return [f"1={shape}", *(f"fc={code}" for code in senses)]
        if kind in ("1c", "-c"):  # a word before, with what the noun of a part is
            return [
                f"{kind}={bundle[1]} {code}"
                for code in senses
                if "." in code and code[0] in "nv" and code[1] != "."
            ]
        return [
            f"w={shape}",
            *(f"vd={facet}" for facet, _ in facets),
            *(f"c={code}" for code in senses if "." in code and code[1] != "."),
        ]

    def of_word(self, i: int) -> list[Item]:
        """The features of one word."""
        words, w = self.words, self.words[i]
        n = len(words)
        seen = self.seen[i]
        shape = seen.shape
        last = self.seen[i - 1] if i else None
        following = self.seen[i + 1] if i + 1 < n else None
        before, after = last.shape if last else EDGE, following.shape if following else EDGE
        tags = (last.tag if last else EDGE, seen.tag, following.tag if following else EDGE)
        found: list[Item] = [
            "b",
            f"w--={self.seen[i - 2].shape if i > 1 else EDGE}",
            f"w++={self.seen[i + 2].shape if i + 2 < n else EDGE}",
            f"w-w={before} {shape}",
            f"ww+={shape} {after}",
            f"f={self.setting.form}",
            f"g={tags[0]}{tags[1]}{tags[2]}",
            f"g-={tags[0]}{tags[1]}",
            f"g+={tags[1]}{tags[2]}{self.seen[i + 2].tag if i + 2 < n else EDGE}",
        ]
        found += [("o", w.low)] if w.is_word else [f"w={shape}", "sign"]
        if w.capital:
            found += [
                f"cap={seen.sentence < i}",
                f"cap={seen.sentence < i} {'N' in w.senses or 'n' in w.senses}",
            ]
        found.append(("-", words[i - 1].low) if last else f"w-={EDGE}")
        found.append(("+", words[i + 1].low) if following else f"w+={EDGE}")
        h = seen.head
        if h != i:
            found.append(("h", words[h].low))
            found += [f"th={facet}" for facet, *_ in self.seen[h].trade]
        found += [f"p={seen.lead}", ("p", seen.lead, words[h].low)]
        for facet, where, length in seen.names:
            found += [f"v={facet}", f"v={facet} {where} {min(length, 3)}"]
        for facet, where, length in seen.trade:
            found += [f"t={facet}", f"t={facet} {where} {min(length, 3)}"]
        if following:
            found += [f"t+={facet}" for facet, *_ in following.trade]
        a, b = seen.chunk
        found += [
            f"k#={min(b - a, 7)} {self.setting.form}",
            f"k0={self.seen[a].shape if a < n else EDGE}",
            f"ki={min(i - a, 3)}",
            f"kj={min(b - i, 3)}",
        ]
        c = self.seen[a].head if a < b else a
        if b - a < 8 and c < n:
            found += [("k", words[c].low), *(f"kt={facet}" for facet, *_ in self.seen[c].trade)]
        if seen.verb >= 0:
            found.append(f"va={_side(seen.verb, i, i + 1)}{min(abs(seen.verb - i), 3)}")
        s = seen.sentence
        found += [f"s0={self.seen[s].shape}", f"si={min(i - s, 6)}"]
        if self.setting.label:
            found.append(f"l={self.setting.label}")
        if seen.quoted:
            found += ["q", f"q={self.before_quote(i)}"]
        if self.setting.first:
            found.append(f"at={min(i, 4)}")
        return found

    def of_inside(self, i: int) -> Item:
        """The features that a word brings to each part that it is in."""
        return ("W", self.words[i].low)

    def before_quote(self, i: int) -> str:
        """The word before the quotation marks around a word."""
        at = self.seen[i].quoted - 2
        while at >= 0 and not self.words[at].is_word:
            at -= 1
        return self.seen[at].shape if at >= 0 else EDGE

    def of_part(self, a: int, b: int) -> list[Item]:
        """The features of the words from `a` to before `b`, if they were one part, beside those
        that each word brings.
        """
        words, n = self.words, len(self.words)
        seen = self.seen[a]
        first, last = seen.shape, self.seen[b - 1].shape
        before = self.seen[a - 1].shape if a else EDGE
        after = self.seen[b].shape if b < n else EDGE
        length = b - a
        h = _head(words, a, b)
        head = words[h].low
        tags = "".join(one.tag for one in self.seen[a : min(b, a + 3)])
        found: list[Item] = [
            "b",
            f"9={last}",
            f"-={before}",
            f"+={after}",
            f"-1={before} {first}",
            f"9+={last} {after}",
            f"#={min(length, 9)}",
            f"#f={min(length, 5)} {self.setting.form}",
            f"g={tags}",
            f"g#={tags} {min(length, 4)}",
            f"g9={self.seen[b - 1].tag}{self.seen[b].tag if b < n else EDGE}",
            f"g-={self.seen[a - 1].tag if a else EDGE}{tags[:2]}",
            ("H", head),
            f"h1={first} {self.seen[h].shape}",
            ("F", words[a].low),
            ("-c", before, head),
        ]
        if not words[a].senses:
            found.append(("1c", first, head))
        if length > 1 and is_lead(first):
            found += [
                f"2={self.seen[a + 1].shape}",
                f"2c={'D' if is_determiner(words[a + 1].low) else 'x'} {first}",
            ]
        inner = length - (first in ("a", "an", "the") or is_lead(first))
        covered = 0
        for x in range(a, b):
            for kind, spoken in (("v", self.named[x]), ("t", self.traded[x])):
                for y, facets in spoken:
                    if y <= b:
                        covered += (y - x) * (kind == "v")
                        share = (y - x) / max(1, inner)
                        how = f"{'all' if share >= 1 else 'half' if share >= 0.5 else 'some'}{' end' if y == b else ''}"  # noqa: E501
                        found += [f"{kind}={facet} {how}" for facet in facets]
        found.append(f"v#={min(covered, 3)}")
        found += [f"th={facet}" for facet, *_ in self.seen[h].trade]
        if words[h].capital:
            found += [
                f"cap={self.seen[h].sentence < h} {min(length, 3)}",
                f"cap={bool(words[h].senses)}",
            ]
        x, y = seen.chunk
        whole = (a == x, b == y)
        found += [f"k={whole}", f"k#={whole} {min(y - x, 7)}", f"k1={whole} {first}"]
        if "S" in (tags if length < 4 else [one.tag for one in self.seen[a:b]]):
            found.append("comma")
        if any(is_lead(word.low) for word in words[a + 1 : b]):
            found.append("leads")
        if self.setting.label:
            found.append(f"l={self.setting.label} {whole}")
        if seen.quoted:
            found += ["q", f"q={self.before_quote(a)}"]
        if self.setting.first and a < 4:
            found.append(f"at={a}")
        if seen.verb >= 0:
            found += [f"va={_side(seen.verb, a, b)}", f"va={_side(seen.verb, a, b)} {tags}"]
        found.append(f"p={seen.lead}")
        return found

    def build(self, a: int, b: int) -> str:
        """How the words from `a` to before `b` are built, by what parts of speech they may be."""
        word = self.words[a]
        if self.finite(a, b):
            return DEED
        if (
            word.capital
            and (not word.senses or self.seen[a].sentence < a)
            and not is_lead(word.low)
            and not is_determiner(word.low)
        ):
            return NAMED
        tags = [one.tag for one in self.seen[a:b]]
        at = next((n for n, tag in enumerate(tags) if tag not in "DS"), 0)
        first = tags[at]
        if a < self.seen[a].verb < b or self.past_verb(a, b):
            return CLAUSE
        if first in "PC" and b - a > 1:
            return PLACE
        if (
            first == "G"
            or (first == "E" and b - a > 1)
            or (first in "ZV" and self.words[a + at].low in VERBS)
        ):
            return DEED
        if b - a == 1 and word.low.endswith("lit"):
            return QUALITY  # backlit, rim-lit
        return NOUN if any(tag in "NnUX#Z" for tag in tags) else QUALITY

    def past_verb(self, a: int, b: int) -> int:
        """Where a verb in the past comes after a noun group: "a cat slept on the sacks"; 0 if none
        does.
        """
        return next(
            (i for i in range(a + 1, b) if self.seen[i - 1].tag in "NnXU" and self.finite(i, b)), 0
        )

    def finite(self, i: int, b: int) -> bool:
        """Does a word say what somebody did, by its form and what follows it before `b`: "found a
        boat", "slept on the sacks"?
        """
        low = self.words[i].low
        after = self.seen[i + 1] if i + 1 < b else None
        if not is_past(low) or (after and after.shape in _OF_WHAT):
            return False
        taken = after is not None and (after.tag == "D" or after.shape in _WHOM)
        return taken or (not low.endswith("ed") and (after is None or after.tag in "PCRr"))

    def may_end(self, b: int) -> bool:
        """Can a part end before a place: not on a word that leads on to another."""
        return self.words[b - 1].is_word and self.words[b - 1].low not in LEADING_ON

    def of_history(self, a: int, read: Read) -> list[str]:
        """The features of what was read before a part that begins with a word."""
        before = self.seen[a - 1].shape if a else EDGE
        subject = "subject" in read.had
        first = (
            self.seen[a].shape
            if is_lead(self.words[a].low) or is_determiner(self.words[a].low)
            else "-"
        )
        found = [
            f"r={read.last}",
            f"r-={read.last} {before if a and not self.words[a - 1].is_word else '-'}",
            f"r1={read.last} {first}",
        ]
        found += [f"rs={subject}", f"rs1={subject} {first}", f"rs-={subject} {before}"]
        return found + [f"rh={facet}" for facet in read.had]


def _quoted(words: Sequence[ReadWord]) -> list[int]:
    """For each word within quotation marks where they open, behind the mark; 0 for others."""
    found, opened = [0] * len(words), 0
    for i, word in enumerate(words):
        if word.low in ("“", '"') and not opened:
            opened = i + 1
        elif word.low in ("”", '"') and opened:
            found[opened:i] = [opened] * (i - opened)
            opened = 0
    return found


_OF_WHAT = frozenset(
    "of with by from in".split()
)  # "a castle built of sugar", "a bowl filled with plums": no verb in the past
_WHOM = frozenset("it him her them us me you".split())


def _tag(word: ReadWord) -> str:
    """What part of speech a word may be: S a sign, # a number, D a determiner, P and C what leads
    on, G and E verbs on -ing and -ed, Z on -s, N V A R what it mostly is, n what it may be, X an
    unknown word with a capital, U another.
    """
    low, senses = word.low, word.senses
    if not word.is_word:
        return "S"
    if low[0].isdigit():
        return "#"
    if is_determiner(low):
        return "D"
    if is_lead(low):
        return "C" if low in STOPS else "P"
    if low.endswith("ing") and base_of(low) != low:
        return "G"
    if "v" in senses or "V" in senses:
        for ending, tag in (("ing", "G"), ("ed", "E")):
            if low.endswith(ending):
                return tag
        if is_past(low):
            return "E"
        if "V" in senses and low.endswith("s"):
            return "Z"
    for tag in "NVARnvar":
        if tag in senses:
            return tag
    return "X" if word.capital else "U"


def _shape(low: str) -> str:
    """A word with its numbers by their length: "85mm" is "00mm"."""
    return _DIGITS.sub(lambda m: "0" * min(len(m.group()), 4), low) if not low.isalpha() else low


def _chunks(words: Sequence[ReadWord]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    at = 0
    for i, word in enumerate(words):
        if not word.is_word and word.low not in "'\"":
            found += [(at, i)] * (i - at) + [(i, i)]
            at = i + 1
    return found + [(at, len(words))] * (len(words) - at)


def _verbs(words: Sequence[ReadWord], chunks: Sequence[tuple[int, int]]) -> list[int]:
    """For each word the verb in the present tense of its stretch between signs; -1 if it
    has none.
    """
    found = [-1] * len(words)
    for a, b in set(chunks):
        at = verb_at([w.low for w in words[a : min(b, a + LONGEST)]]) if b - a > 1 else 0
        if at:
            found[a:b] = [a + at] * (b - a)
    return found


def _side(verb: int, a: int, b: int) -> str:
    """Where a verb goes with some words."""
    return (
        "before"
        if verb < a
        else "behind"
        if verb > b
        else "next"
        if verb == b
        else "first"
        if verb == a
        else "in"
    )


def _sentences(words: Sequence[ReadWord]) -> list[int]:
    found, at = [], 0
    for i, word in enumerate(words):
        found.append(min(at, i))
        if word.low in ENDS or word.low[0] == "\n":
            at = i + 1
    return found


def _head(words: Sequence[ReadWord], i: int, stop: int | None = None) -> int:
    """Where the noun is on which the group ends that begins at or goes through a word."""
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


def _leads(words: Sequence[ReadWord]) -> list[str]:
    """For each word what leads to it: the preposition or the like that comes before it, with no
    sign between; "" if nothing does.
    """
    found, lead = [], ""
    for i, word in enumerate(words):
        if not word.is_word:
            lead = ""
        elif is_lead(word.low):
            lead = (
                f"{words[i - 1].low} {word.low}"
                if i
                and words[i - 1].is_word
                and (
                    "V" in words[i - 1].senses
                    or words[i - 1].low in ("lit", "seen", "shot", "set", "made", "taken")
                )
                else word.low
            )
        found.append(lead)
    return found
