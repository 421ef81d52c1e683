"""Compiles the lexicon of senses that ships from WordNet's data files (Debian: wordnet-base).

    python -m training.senses /usr/share/wordnet

For each common English word it says what kinds of thing, act or quality it names: the
lexicographer's file of its first senses, and those of the classes above them that are large enough
to tell something (`LEAST` words or more). Words of the same classes share a line, so that the table
stays small. Adjectives take the classes of the nouns that they are derived from.
"""

import re
import sys
import zlib
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import NamedTuple

OUT = Path(__file__).resolve().parent.parent / "src" / "syntagma" / "data" / "reader" / "senses.txt"
LEAST = {"n": 60, "v": 25}  # so many words below it make a class
MOST = 40_000  # and no more
WIDE = 400  # what an adjective takes of the noun that it is derived from has so many
FEWEST = 12  # a class that fewer of the words have tells nothing
NEAR = 2  # of how many senses, the most usual first
RARE = 1.6  # words rarer than this (Zipf scale: log10 of uses in a billion words) stay out
# Words that are names of products, too, by their CRC-32: they stay out.
NAMES = frozenset(
    (
        420133149,
        473531260,
        513987006,
        542412568,
        549533360,
        675628797,
        1039123412,
        1087542889,
        1673663823,
        1934372718,
        2043680268,
        2479903972,
        2511198869,
        2590915014,
        2819423002,
        2982243469,
        3140828354,
        3322867005,
        3527551002,
        3784903182,
        3904268666,
        3905250080,
    )
)
FILES = {"n": "noun", "v": "verb", "a": "adj", "r": "adv"}
LEXNAMES = (
    "adj.all adj.pert adv.all noun.Tops noun.act noun.animal noun.artifact noun.attribute noun.body"
    " noun.cognition noun.communication noun.event noun.feeling noun.food noun.group noun.location"
    " noun.motive noun.object noun.person noun.phenomenon noun.plant noun.possession noun.process"
    " noun.quantity noun.relation noun.shape noun.state noun.substance noun.time verb.body"
    " verb.change verb.cognition verb.communication verb.competition verb.consumption verb.contact"
    " verb.creation verb.emotion verb.motion verb.perception verb.possession verb.social"
    " verb.stative verb.weather adj.ppl"
).split()  # lexnames(5WN), in the order of their numbers
NOTICE = """# What English words name, compiled by training/senses.py from WordNet 3.0 (Princeton University), which is free to use, copy, modify and
# distribute; its licence stands in senses-licence.txt beside this file. First the classes, each with the numbers of those right above it; then
# the words in the order of their letters, each with its classes.
"""  # noqa: E501


class Synset(NamedTuple):
    """One sense: the number of its lexicographer's file, its words (as they are written), and what
    it points to: (symbol, part of speech, offset).
    """

    file: int
    words: tuple[str, ...]
    points: tuple[tuple[str, str, int], ...]


def synsets(folder: Path) -> dict[tuple[str, int], Synset]:
    """All senses, by part of speech and offset (wndb(5WN))."""
    found = {}
    for pos, name in FILES.items():
        for line in (folder / f"data.{name}").read_text("utf-8").splitlines():
            if line.startswith("  "):
                continue
            cells = line.split(" | ")[0].split()
            count = int(cells[3], 16)
            words = tuple(re.sub(r"\(\w+\)$", "", w) for w in cells[4 : 4 + 2 * count : 2])
            at = 4 + 2 * count
            points = tuple(
                (cells[i], cells[i + 2].replace("s", "a"), int(cells[i + 1]))
                for i in range(at + 1, at + 1 + 4 * int(cells[at]), 4)
            )
            found[pos, int(cells[0])] = Synset(int(cells[1]), words, points)
    return found


def index(folder: Path) -> Iterator[tuple[str, str, list[int]]]:
    """Words with their part of speech and the offsets of their senses, the most usual first."""
    for pos, name in FILES.items():
        for line in (folder / f"index.{name}").read_text("utf-8").splitlines():
            if not line.startswith("  "):
                cells = line.split()
                yield cells[0], pos, [int(cell) for cell in cells[-int(cells[2]) :]]


def uses(folder: Path) -> Counter[tuple[str, str]]:
    """How often a word was met in each part of speech (cntlist(5WN))."""
    counts: Counter[tuple[str, str]] = Counter()
    for line in (folder / "cntlist.rev").read_text("utf-8").splitlines():
        key, _, number = line.split()
        word, sense = key.split("%")
        counts[word, "nvara"[int(sense[0]) - 1]] += int(number)
    return counts


class Classes:
    """The senses that stand above enough words to be a class, each with a short code."""

    def __init__(self, senses: dict[tuple[str, int], Synset]):
        self.senses = senses
        below: Counter[tuple[str, int]] = Counter()
        for (pos, at), synset in senses.items():
            if pos in LEAST:
                for above in self.above(pos, at):
                    below[above] += len(synset.words)
        self.codes = {}
        for key in sorted(below, key=lambda k: (-below[k], k)):
            if LEAST[key[0]] <= below[key] < MOST:
                self.codes[key] = f"{key[0]}.{self.senses[key].words[0].lower()}"
        self.higher: dict[str, set[str]] = {}
        for key, code in self.codes.items():  # two senses may share a name: what stands above both
            higher = {self.codes[one] for one in self.above(*key) if one in self.codes}
            self.higher[code] = self.higher.get(code, higher) & higher
        self.wide = {code for key, code in self.codes.items() if below[key] >= WIDE}

    def above(self, pos: str, at: int) -> set[tuple[str, int]]:
        """A sense and all above it."""
        found, wait = set(), [(pos, at)]
        while wait:
            key = wait.pop()
            if key not in found:
                found.add(key)
                wait += [
                    (p, o) for symbol, p, o in self.senses[key].points if symbol in ("@", "@i")
                ]
        return found

    def of(self, pos: str, at: int) -> set[str]:
        """The classes of a sense, and its lexicographer's file."""
        synset = self.senses[pos, at]
        found = {LEXNAMES[synset.file]}
        if pos in LEAST:
            return found | {self.codes[key] for key in self.above(pos, at) if key in self.codes}
        for symbol, p, o in synset.points:
            if (
                symbol in ("+", "=", "\\") and p in ("n", "a") and (p, o) in self.senses
            ):  # derived from, an attribute of, pertains to
                found |= self.kin(p, o) if p == "n" else self.of(p, o) if pos == "r" else set()
            if symbol == "&":  # near in meaning: the head of its cluster
                found.add(f"a.{self.senses[p, o].words[0].lower()}")
                found |= {
                    code
                    for s, q, r in self.senses[p, o].points
                    if s in ("=", "+") and q == "n"
                    for code in self.kin(q, r)
                }
        return found

    def kin(self, pos: str, at: int) -> set[str]:
        """What an adjective has of the noun that it is derived from: the wide classes, marked."""
        return {
            f"~{code}"
            for code in self.of(pos, at)
            if code in self.wide or ("." in code and code.split(".")[0] == "noun")
        }

    def common(self, word: str, pos: str, at: int) -> bool:
        """Is it a common word in this sense, and no name?"""
        synset = self.senses[pos, at]
        named = any(symbol == "@i" for symbol, *_ in synset.points)
        return not named and (
            pos != "n" or LEXNAMES[synset.file] == "noun.time" or word in synset.words
        )


def compiled(folder: Path) -> str:
    """The table, as it ships."""
    from wordfreq import zipf_frequency

    senses, met = synsets(folder), uses(folder)
    classes = Classes(senses)
    words: dict[str, set[str]] = defaultdict(set)
    for word, pos, offsets in index(folder):
        offsets = [at for at in offsets if classes.common(word, pos, at)]
        if (
            not offsets
            or not re.fullmatch(r"[a-z][a-z'’-]+", word)
            or zipf_frequency(word, "en") < RARE
            or zlib.crc32(word.encode()) in NAMES
        ):
            continue
        share = met[word, pos] / (1 + sum(met[word, p] for p in "nvar"))
        words[word].add(pos.upper() if share > 0.6 else pos)
        for offset in offsets[:NEAR]:
            words[word] |= classes.of(pos, offset)
    spread = Counter(code for codes in words.values() for code in codes)
    kept = {code for code, number in spread.items() if number >= FEWEST}
    above = {code: frozenset(higher & kept) - {code} for code, higher in classes.higher.items()}
    names = sorted(kept, key=lambda code: (-spread[code], code))
    number = {code: i for i, code in enumerate(names)}
    lines = [
        " ".join(
            (code, *map(str, sorted(number[one] for one in _lowest(above.get(code, ()), above))))
        )
        for code in names
    ]
    lines.append("")
    for word in sorted(words, key=str.encode):
        if codes := _lowest(words[word] & kept, above):
            lines.append(
                f"{word}"
                f" {','.join(str(number[code]) for code in sorted(codes, key=number.__getitem__))}"
            )
    return NOTICE + "\n".join(lines) + "\n"


def _lowest(codes: Iterable[str], above: dict[str, frozenset[str]]) -> set[str]:
    """Codes without those that stand above another of them."""
    codes = set(codes)
    return codes - {higher for code in codes for higher in above.get(code, ())}


if __name__ == "__main__":
    OUT.parent.mkdir(exist_ok=True)
    OUT.write_text(compiled(Path(sys.argv[1])), "utf-8")
    print(f"{OUT.name}: {OUT.stat().st_size:,} bytes")
