"""The trained model: what each feature says for each label, and the search for the reading that has
most for it.
"""

import json
import zlib
from array import array
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import accumulate
from math import exp, log, log1p
from struct import unpack
from typing import NamedTuple

from syntagma.core.reading.features import ENDS, LONGEST, NOTHING_YET, Item, Read, WordRow

OUT, NONE = "-", "no part"
BEGIN, INSIDE = "begin", "inside"
FACETS = 3  # so many facets are tried for a part
BEAM = 2  # so many readings of what comes before a word are carried on
INSIDE_FOR_SURE = (
    -0.02
    # no part ends before a word that is inside of one with a chance of which the logarithm is
    # greater
)
TRIED, FAR = (
    3,
    3.5,
    # so many ends are tried for a part that begins with a word, the likeliest, if they are not much
    # less likely than the first
)
PASTED = 600  # words from which a stretch is not a prompt, but a paste: it is read with less care
UNLIKELY = -4.0  # an edge of which the logarithm of its chance is less is not tried
BY_WORDS, BY_PART = 3, 5  # what words by themselves count beside the part that they make
STEP = 1 / 20  # weights are kept in such steps, from -127 to 127
UNIT = STEP / BY_PART
BY_EDGES, BONUS = 0.8, 0.6  # what the edges of a part count, and what is added for each part
MOST_KEPT = 60_000  # features and bundles of which the weights are kept unpacked
MIDDLE = 1 << 31
ROOM = 128  # features that are counted together, so what one has is found


class Scorer:
    """One classifier: labels, and the weights of features for them.

    The weights of a feature are one large number with 32 bits a label, so one addition adds them
    for all labels.
    """

    def __init__(
        self, labels: Sequence[str], keys: "array[int]", counts: bytes, places: bytes, steps: bytes
    ):
        """`keys`: the features by their CRC-32, in order. Most have something for few labels:
        `counts` says for how many, `places` for which, one feature after the other, and `steps`
        what, 128 more than it is; each a byte.
        """
        self.labels = list(labels)
        self._keys, self._counts, self._places, self._steps = keys, counts, places, steps
        self._begin = [
            0,
            *accumulate(sum(counts[at : at + ROOM]) for at in range(0, len(counts), ROOM)),
        ]  # where each roomful of features begins
        self._packed: dict[Item, int] = {}
        self._zero = b"\x80\0\0\0" * len(labels)
        self._middle = sum(MIDDLE << (32 * i) for i in range(len(labels)))

    @classmethod
    def of(cls, labels: Sequence[str], weights: Mapping[str, Sequence[float]]) -> "Scorer":
        """Make one of weights as they were learned; what would be all nothing is left out."""
        rows = {}
        for feature, row in weights.items():
            steps = [max(-127, min(127, round(float(w) / STEP))) for w in row]
            if any(steps):
                rows[zlib.crc32(feature.encode())] = {
                    place: s + 128 for place, s in enumerate(steps) if s
                }
        keys = array("I", sorted(rows))
        places, said = (
            b"".join(bytes(part(rows[key])) for key in keys) for part in (dict.keys, dict.values)
        )
        return cls(labels, keys, bytes(len(rows[key]) for key in keys), places, said)

    def _number(self, feature: str) -> int:
        key = zlib.crc32(feature.encode())
        at = bisect_left(self._keys, key)
        if at < len(self._keys) and self._keys[at] == key:
            room = at - at % ROOM
            begin = self._begin[at // ROOM] + sum(self._counts[room:at])
            stop = begin + self._counts[at]
            wide = bytearray(self._zero)
            for place, step in zip(self._places[begin:stop], self._steps[begin:stop], strict=True):
                wide[4 * place] = step
            return int.from_bytes(wide, "little") - int.from_bytes(self._zero, "little")
        return 0

    def packed(
        self,
        items: Iterable[Item],
        spell: Callable[[tuple[str, ...]], Iterable[str]] = lambda _: (),
    ) -> int:
        """What features have for all labels, as one number; `spell` gives those of a bundle."""
        items = list(items)
        try:
            return sum(map(self._packed.__getitem__, items))
        except KeyError:
            if len(self._packed) > MOST_KEPT:
                self._packed.clear()
            for item in items:
                if item not in self._packed:
                    self._packed[item] = (
                        self._number(item)
                        if isinstance(item, str)
                        else sum(map(self._number, spell(item)))
                    )
            return sum(map(self._packed.__getitem__, items))

    def steps(self, total: int) -> tuple[int, ...]:
        """What such a number has for each label, in steps, each `MIDDLE` more than it is."""
        n = len(self.labels)
        return unpack(f"<{n}I", (total + self._middle).to_bytes(4 * n, "little"))

    def field(self, total: int, at: int) -> int:
        """What such a number has for one label (from the last where `at` is negative), in steps."""
        return (((total + self._middle) >> (32 * (at % len(self.labels)))) & 0xFFFFFFFF) - MIDDLE

    def blob(self) -> tuple[dict, bytes]:
        """What is kept of it: a head, and bytes."""
        return {
            "labels": self.labels,
            "features": len(self._keys),
        }, self._keys.tobytes() + self._counts + self._places + self._steps

    def to_bytes(self) -> bytes:
        """One classifier as it ships: one line of JSON that says what follows, then the weights
        (zlib).
        """
        head, blob = self.blob()
        return json.dumps(head).encode() + b"\n" + zlib.compress(blob, 9)

    @classmethod
    def from_bytes(cls, data: bytes) -> "Scorer":
        """Read what `to_bytes` wrote."""
        head, _, rest = data.partition(b"\n")
        return cls.from_blob(json.loads(head), zlib.decompress(rest))

    @classmethod
    def from_blob(cls, head: Mapping, blob: bytes) -> "Scorer":
        n = head["features"]
        keys = array("I")
        keys.frombytes(blob[: 4 * n])
        counts, rest = blob[4 * n : 5 * n], blob[5 * n :]
        return cls(head["labels"], keys, counts, rest[: len(rest) // 2], rest[len(rest) // 2 :])


def logs(sums: Sequence[float]) -> list[float]:
    """The logarithm of each label's chance."""
    top = max(sums)
    total = top + log(sum(exp(s - top) for s in sums))
    return [s - total for s in sums]


class FoundPart(NamedTuple):
    """A part that was found: its words, from which to before which, its facet, and how sure that
    is.
    """

    first: int
    stop: int
    facet: str
    sure: float


class PartsModel:
    """Two classifiers (what a word belongs to, and whether it begins a part; what a row of words is
    as a part) and the search over them.
    """

    def __init__(
        self,
        words: Scorer,
        parts: Scorer,
        sure: Sequence[Sequence[float]] = ((0.0, 0.0), (1.0, 1.0)),
    ):
        """`words`: the labels are `OUT`, facets, and then `BEGIN`, `INSIDE`, `OUT` for edges;
        `parts`: `NONE`, then the same facets; `sure`: how often a part is right by the chance that
        the model gives it, as points of a line.
        """
        self.words, self.parts, self.sure = words, parts, sure

    @classmethod
    def from_bytes(cls, data: bytes) -> "PartsModel":
        """Read what `to_bytes` wrote."""
        head, _, rest = data.partition(b"\n")
        about = json.loads(head)
        blob = zlib.decompress(rest)
        cut = about["cut"]
        return cls(
            Scorer.from_blob(about["words"], blob[:cut]),
            Scorer.from_blob(about["parts"], blob[cut:]),
            about["sure"],
        )

    def to_bytes(self) -> bytes:
        """The model as it ships: one line of JSON that says what follows, then the weights
        (zlib).
        """
        (words, a), (parts, b) = self.words.blob(), self.parts.blob()
        about = {"words": words, "parts": parts, "cut": len(a), "sure": self.sure}
        return json.dumps(about).encode() + b"\n" + zlib.compress(a + b, 9)

    def read(self, stretch: WordRow, before: Read = NOTHING_YET) -> list[FoundPart]:
        """The parts of a stretch that together have most for them (a semi-Markov search: every row
        of words that may be a part, behind the best `BEAM` readings of what comes before it).
        `before`: what was read in the stretches before.

        What words and parts say is added up packed: `BY_WORDS` times the one, `BY_PART` times the
        other, for all facets at once; what is the same for every reading of a word is not taken
        off.
        """
        words, spell = stretch.words, stretch.spell
        n, labels = len(words), self.parts.labels
        facets = range(1, len(labels))
        tried, carried = (TRIED, BEAM) if n < PASTED else (1, 1)
        edges, along_words, inside = [], [0], [0]
        for i in range(n):
            packed = self.words.packed(stretch.of_word(i), spell)
            along_words.append(along_words[-1] + BY_WORDS * packed)
            edges.append(
                (
                    self.words.field(packed, 0),
                    *logs([self.words.field(packed, at) * STEP for at in range(-3, 0)]),
                )
            )
            inside.append(inside[-1] + self.parts.packed((stretch.of_inside(i),), spell))
        beams = [_Beam() for _ in range(n + 1)]
        beams[0].add(_Way(0.0, None, before))
        for i in range(n):
            ways = beams[i].best()[:carried]
            none, begin, _, outside = edges[i]
            more = none * BY_WORDS * UNIT + BY_EDGES * outside
            for way in ways:
                beams[i + 1].add(_Way(way.score + more, way.found, way.read, way.behind))
            if not words[i].is_word or begin < UNLIKELY:
                continue
            read_so_far = [self.parts.packed(stretch.of_history(i, way.read)) for way in ways]
            histories = [self.parts.steps(packed) for packed in read_so_far]
            for _, j, along in self._stops(stretch, edges, i)[:tried]:
                packed = self.parts.packed(stretch.of_part(i, j), spell) + inside[j] - inside[i]
                steps = self.words.steps(BY_PART * packed + along_words[j] - along_words[i])
                sure = BY_EDGES * along + BONUS - BY_PART * UNIT * (self.parts.field(packed, 0))
                beam = beams[j]
                for k in sorted(facets, key=steps.__getitem__)[-FACETS:]:
                    here = sure + UNIT * (steps[k] - MIDDLE)
                    for way, history, packed_history in zip(
                        ways, histories, read_so_far, strict=True
                    ):
                        score = way.score + here + BY_PART * UNIT * (history[k] - history[0])
                        if score > beam.least:
                            beam.add(
                                _Way(
                                    score,
                                    (i, j, k, packed + packed_history),
                                    way.read.then(labels[k]),
                                    way,
                                )
                            )
        parts = []
        way = beams[n].best()[0]
        while way.found:
            i, j, k, packed = way.found
            chance = exp(logs([(s - MIDDLE) * STEP for s in self.parts.steps(packed)])[k])
            parts.append(FoundPart(i, j, labels[k], self._surely(chance)))
            assert way.behind is not None, "a way that found something goes on from another"
            way = way.behind
        return parts[::-1]

    def best(self, stretch: WordRow, a: int, b: int, among: Sequence[str]) -> FoundPart:
        """Words as a part of that of some facets that has most for it."""
        inside = [stretch.of_inside(i) for i in range(a, b)]
        steps = self.parts.steps(
            self.parts.packed([*stretch.of_part(a, b), *inside], stretch.spell)
        )
        facet = max(among, key=lambda one: steps[self.parts.labels.index(one)])
        chosen = logs([(steps[self.parts.labels.index(one)] - MIDDLE) * STEP for one in among])
        return FoundPart(a, b, facet, self._surely(exp(max(chosen))))

    def _surely(self, chance: float) -> float:
        """How often what has such a chance is right."""
        at = bisect_left([point[0] for point in self.sure], chance)
        if at == 0 or at == len(self.sure):
            return self.sure[min(at, len(self.sure) - 1)][1]
        (a, low), (b, high) = self.sure[at - 1], self.sure[at]
        return low + (high - low) * (chance - a) / (b - a)

    @staticmethod
    def _stops(
        stretch: WordRow, edges: Sequence[Sequence[float]], i: int
    ) -> list[tuple[float, int, float]]:
        """Where a part that begins with a word may end, the likeliest places: how likely that is,
        the place, and how likely its words are to be inside of it.
        """
        words, n = stretch.words, len(stretch.words)
        along = edges[i][1]
        found = []
        for j in range(i + 1, min(n, i + LONGEST) + 1):
            if j > i + 1:
                if edges[j - 1][2] < UNLIKELY or (
                    words[j - 1].low in ENDS and not stretch.seen[j - 1].quoted
                ):
                    break
                along += edges[j - 1][2]
            if stretch.may_end(j) and (j == n or edges[j][2] <= INSIDE_FOR_SURE):
                found.append((along + (log1p(-exp(edges[j][2])) if j < n else 0.0), j, along))
        found.sort(reverse=True)
        return [one for one in found[:TRIED] if one[0] > found[0][0] - FAR]


class _Way(NamedTuple):
    """A reading up to a word: how good it is, its last part (its words, the number of its facet,
    its packed weights), what it has read, and the reading before that part.
    """

    score: float
    found: tuple[int, int, int, int] | None
    read: Read
    behind: "_Way | None" = None


class _Beam:
    """The best ways to read up to a word, one for each that has read the same; `least`: what a way
    must have more than.
    """

    def __init__(self) -> None:
        self.least = float("-inf")
        self._ways: dict[Read, _Way] = {}

    def add(self, way: _Way) -> None:
        """Take a way in, unless better ones are there."""
        other = self._ways.get(way.read)
        if other is None or way.score > other.score:
            self._ways[way.read] = way
            if len(self._ways) > 2 * BEAM:
                self._ways = {way.read: way for way in self.best()}
                self.least = min(way.score for way in self._ways.values())

    def best(self) -> list[_Way]:
        """The ways that are carried on, the best first."""
        return sorted(self._ways.values(), key=lambda way: -way.score)[:BEAM]
