"""A prompt made shorter step by step: what carries least goes first, and every step is a sentence (or whole JSON, or whole segments).

How much a part carries is an estimate from the text alone (weighing.py). It is not a look into a generator.
"""

import re
from collections.abc import Callable, Collection, Mapping
from itertools import pairwise
from typing import NamedTuple

from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.models.measure import words as count_words
from syntagma.core.reading.outer_form import TIMED
from syntagma.core.reading.prompt_pieces import Reading
from syntagma.core.reading.shortening.frames import Frame, framed
from syntagma.core.reading.shortening.leaving_out import Without
from syntagma.core.reading.shortening.weighing import Unit, Weigher

_HANGS = re.compile(rf"(?:{'|'.join(sorted(PREPOSITIONS))}|while|as|where|until|before|after|\w+ing|\w+ed)\b", re.I)  # what may go from the end of a thought


class ShorteningStep(NamedTuple):
    """The prompt with some units gone."""

    text: str
    gone: int  # how many units have gone so far


class Shortened(NamedTuple):
    """Every unit with when it goes, and all steps from the whole text to the shortest."""

    units: list[Unit]
    steps: list[ShorteningStep]

    def to(self, fits: Callable[[str], bool]) -> ShorteningStep | None:
        """The longest step that fits."""
        return next((step for step in self.steps if fits(step.text)), None)

    def some(self, number: int) -> list[ShorteningStep]:
        """So many steps, even in length between the first and the last, the whole text apart."""
        rest = self.steps[1:]
        if len(rest) <= number:
            return rest
        longest, shortest = len(self.steps[0].text), len(rest[-1].text)
        found: list[ShorteningStep] = []
        for k in range(1, number + 1):
            wanted = longest - (longest - shortest) * k / number
            best = min(rest, key=lambda step: abs(len(step.text) - wanted))
            if best not in found:
                found.append(best)
        return found


def shorten(
    reading: Reading,
    zipf: Callable[[str], float],
    reach: int = 0,
    keep: Collection[str] = (),
    marks: Mapping[int, str] | None = None,
) -> Shortened:
    """Order what a prompt can lose. `zipf` gives how common a word is (0 never, 8 the commonest); `keep` are words that stay; `marks`
    the marks (! or ?) of pieces by number, where a formula wrote them. Nested values and timed segments are shortened each by itself:
    a value may go with its key, a segment keeps its most telling part."""
    kept, given = [word.lower() for word in keep], marks or {}
    frame = framed(reading)
    units: list[Unit] = []
    going: list[tuple[float, int]] = []
    owner: list[int] = []  # the field of each unit
    seen: list[frozenset[str]] = []
    mains: list[tuple[float, int]] = []
    for number, field in enumerate(frame.fields):
        own = {at: given[field.first + at] for at in range(len(field.reading.pieces)) if field.first + at in given}
        weigher = Weigher(field.reading, zipf, reach, kept, own)
        found = weigher.units(seen, count_words(reading.text[: field.start]))
        ordered = _by_thoughts(weigher, found, _ordered(weigher, found))
        base = len(units)
        whole = [k for k, unit in enumerate(found) if unit.stop - unit.start == len(field.reading.pieces[unit.part].text)]
        carried = dict((k, carries) for carries, k in ordered)
        if whole:
            main = max(whole, key=lambda k: carried.get(k, 9.0))  # what carries most
            mains.append((carried.get(main, 9.0), base + main))
        going += [(carries, base + k) for carries, k in ordered]
        units += [
            unit._replace(start=unit.start + field.start, stop=unit.stop + field.start, part=unit.part + field.first)
            for unit in found
        ]
        owner += [number] * len(found)
    last = {k for _, k in mains} if reading.form == TIMED else {max(mains)[1]} if mains else set()
    order = [k for _, k in sorted(going, key=lambda one: (one[0], -units[one[1]].start)) if k not in last]
    return _stepped(reading, frame, units, owner, order)


STEPS, LONG = 240, 10_000  # texts that are made one after the other, and characters of a prompt for which they are fewer


def _stepped(reading: Reading, frame: Frame, units: list[Unit], owner: list[int], order: list[int]) -> Shortened:
    steps = [ShorteningStep(reading.text, 0)]
    writers = [Without(field.reading) for field in frame.fields]
    texts = [field.reading.text for field in frame.fields]
    gone: list[list[Unit]] = [[] for _ in frame.fields]
    touched: set[int] = set()
    numbers: dict[int, int] = {}
    most = STEPS if len(reading.text) < LONG else STEPS // 3
    each = max(1, -(-len(order) // most))  # of a very long prompt several words go at a time
    for n, at in enumerate(order):
        number, start = owner[at], frame.fields[owner[at]].start
        unit = units[at]
        first = frame.fields[number].first
        gone[number].append(unit._replace(start=unit.start - start, stop=unit.stop - start, part=unit.part - first))
        numbers[at] = len(numbers) + 1
        touched.add(number)
        if (n + 1) % each and n + 1 < len(order):
            continue
        for number in touched:
            texts[number] = writers[number].written(gone[number])
        touched.clear()
        text = frame.written(texts)
        if len(text) < len(steps[-1].text) and count_words(text):
            steps.append(ShorteningStep(text, len(numbers)))
    return Shortened([unit._replace(order=numbers.get(k, 0)) for k, unit in enumerate(units)], steps)


def _thoughts(weigher: Weigher) -> list[list[int]]:
    """The parts of a text by thought: those without a mark between them, by their numbers."""
    found: list[list[int]] = []
    for (i, _), before in zip(weigher.parts, [None, *weigher.parts], strict=False):
        between = "".join(piece.text for piece in weigher.reading.pieces[before[0] + 1 : i]) if before else ","
        if re.search(r"[,;.:!?\n|]", between) or weigher.reading.pieces[i].facet == "speech":
            found.append([])
        found[-1].append(i)
    return found


def _by_thoughts(weigher: Weigher, units: list[Unit], order: list[tuple[float, int]]) -> list[tuple[float, int]]:
    """What goes when, by thoughts: the parts of one go together, when the one that carries most does. Of a thought in which something stays only what hangs on its end may go: what begins with
    a preposition or as something is doing."""
    whole = {unit.part: k for k, unit in enumerate(units) if unit.stop - unit.start == len(weigher.reading.pieces[unit.part].text)}
    carried = {k: carries for carries, k in order}
    stays: set[int] = set()
    for thought in _thoughts(weigher):
        members = [whole[i] for i in thought]
        if all(k in carried for k in members):
            most = max(carried[k] for k in members)
            carried.update(dict.fromkeys(members, most))
            continue
        for k in reversed(members):
            if k not in carried or not _HANGS.match(units[k].text):
                stays |= set(members[: members.index(k) + 1])
                break
    return sorted(((carries, k) for k, carries in carried.items() if k not in stays), key=lambda one: (one[0], -units[one[1]].start))


def _ordered(weigher: Weigher, units: list[Unit]) -> list[tuple[float, int]]:
    """What goes when, with what it carries: never what other words lean on before they have gone."""
    carries = [unit.carries for unit in units]
    whole = {unit.part: k for k, unit in enumerate(units) if unit.stop - unit.start == len(weigher.reading.pieces[unit.part].text)}
    leans: dict[int, list[int]] = {}
    numbers = [i for i, _ in weigher.parts]
    for a, b in pairwise(numbers):
        if weigher.reading.pieces[a].facet == "era":
            leans.setdefault(whole[b], []).append(whole[a])
            continue
        between = "".join(weigher.reading.pieces[k].text for k in range(a + 1, b))
        if weigher.reading.pieces[b].facet == "speech":
            continue  # how it is said may go, and what is said may, too
        if not re.search(r"[,;.:!?\n|]", between) and not re.fullmatch(r"\s*(?:of|for|and|showing)\s*", between, re.I):
            leans.setdefault(whole[a], []).append(whole[b])
            tails = [k for k, unit in enumerate(units) if unit.part == a and k != whole[a] and unit.stop == units[whole[a]].stop]
            for k in tails:
                leans.setdefault(k, []).append(whole[b])
    for k, unit in enumerate(units):
        if k not in whole.values():
            leans.setdefault(whole[unit.part], []).append(k)
    for k in sorted(leans, reverse=True):
        carries[k] = max([carries[k], *(carries[c] + 0.001 for c in leans[k])])
    stays = {k for k in range(len(units)) if weigher.pinned(units[k].text, units[k].part) or weigher.holds_kept(units[k])}
    for k in [*stays]:  # what a word that stays leans on stays, too
        stays |= {parent for parent, children in leans.items() if k in children}
    order = sorted((k for k in range(len(units)) if k not in stays), key=lambda k: (carries[k], -units[k].start))
    return [(carries[k], k) for k in order]
