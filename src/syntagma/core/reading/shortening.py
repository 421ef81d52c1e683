"""A prompt made shorter: what can go, in which order, and what leans on what."""

import re
from collections.abc import Callable, Collection, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.models.measure import words as count_words
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.outer_form import NESTED, TIMED, outside, segments
from syntagma.core.reading.prompt_pieces import NEGATIVE, PART, PromptPiece, Reading
from syntagma.core.reading.weighing import Unit, Weigher

# ──── What stays when a prompt is made shorter: the frame of nested values and timed segments, and
# the fields in it.
#
# Prose, tags and labelled lines are one field without a frame.


_GONE = "\0"
_VALUE = r'"(?:[^"\\]|\\.)*"\s*:\s*'
# A member whose value has gone, with the comma that belongs to it.
_MEMBERS = (
    regex(rf',\s*(?:{_VALUE})?"{_GONE}"'),
    regex(rf'(?:{_VALUE})?"{_GONE}"\s*,\s*'),
    regex(rf'(?:{_VALUE})?"{_GONE}"'),
)
_EMPTY = regex(r"(?<!^)(?:\{\s*\}|\[\s*\])")


class FrameField(NamedTuple):
    """A stretch of a prompt that is shortened by itself: where it begins, the number of its first
    piece, and what was read of it.
    """

    start: int
    first: int
    reading: Reading


class Frame(NamedTuple):
    """A prompt as fields with text between them that stays."""

    text: str
    form: str
    fields: list[FrameField]

    def written(self, texts: Sequence[str]) -> str:
        """The prompt with other texts in its fields; a nested value that is blank goes with its
        key.
        """
        out, at = "", 0
        for field, text in zip(self.fields, texts, strict=True):
            gone = _GONE if self.form == NESTED and not text.strip() else text
            out += self.text[at : field.start] + gone
            at = field.start + len(field.reading.text)
        out += self.text[at:]
        return _pruned(out) if self.form == NESTED else out


def framed(reading: Reading) -> Frame:
    """The fields of a reading that hold something which can go."""
    text = reading.text
    if reading.form == NESTED:
        spans = [(r.start, r.stop) for r in outside(text).regions if r.kind == "text"]
    elif reading.form == TIMED:
        spans = segments(text)
    else:
        return Frame(text, reading.form, [FrameField(0, 0, reading)])
    fields = []
    for start, stop in spans:
        inside = [(i, p) for i, p in enumerate(reading.pieces) if p.start < stop and p.stop > start]
        pieces = []
        for _, piece in inside:
            a, b = max(piece.start, start), min(piece.stop, stop)
            pieces.append(piece._replace(start=a - start, stop=b - start, text=text[a:b]))
        if any(p.kind == "part" for p in pieces):
            fields.append(
                FrameField(start, inside[0][0], Reading(text[start:stop], "prose", tuple(pieces)))
            )
    return Frame(text, reading.form, fields)


def _pruned(text: str) -> str:
    """JSON without the members whose value has gone, and without what that leaves empty, level by
    level.
    """
    while _GONE in text:
        for pattern in _MEMBERS:
            text = pattern.sub("", text)
        text = _EMPTY.sub(f'"{_GONE}"', text)
    return text


# ──── A text without some of its parts: seams, articles, capitals and quotation marks fixed, so it
# is a good sentence still.


_MARK_BEHIND = regex(r"^\s*@?[\d.]*[>*!?+^_\])}]+")  # what closes a mark of stress
_BEHIND = regex(r"^[\"”’)\]}]+")  # what closes quotation marks or brackets
_BEFORE = regex(r"[<*^_+(\[{\"“‘]+$")  # what opens any of them
_ASIDE_GONE = regex(
    r"(?<![\w'’,-])((?:[\w'’-]+ ){0,3}[\w'’-]+), (is|are|was|were|has|have|had)\b"
)  # "Its paint, once white, is flaking"
_LINK = regex(r"^(?:and|of|with|for|showing|then|but)\b\s*", re.I)


class Without:
    """Writes one text again without some of its units."""

    def __init__(self, reading: Reading):
        self.reading = reading
        self._seams: dict[int, tuple[str, str, str]] = {}
        self._reduced: dict[tuple[int, tuple[tuple[int, int], ...]], str] = {}
        self.upper = reading.text.lstrip()[:1].isupper()

    def written(self, gone: Sequence[Unit]) -> str:
        """The text without some units."""
        holes: dict[int, list[tuple[int, int]]] = {}
        for unit in gone:
            holes.setdefault(unit.part, []).append((unit.start, unit.stop))
        pieces = self.reading.pieces
        texts = [
            self._text_of(n, tuple(sorted(holes[n]))) if n in holes else piece.text
            for n, piece in enumerate(pieces)
        ]
        out, skipped, opening, begun = "", "", "", False
        for n, piece in enumerate(pieces):
            if piece.kind == "glue":
                closing, between, opening = self._seams.get(n) or self._seams.setdefault(
                    n, self._parted(n)
                )
                out += closing if n and texts[n - 1] else ""
                skipped += between
            elif piece.kind != PART:
                out += (
                    self._seam(skipped, begun, bool(out), piece.kind)
                    if "\0" in skipped
                    else skipped + opening
                ) + piece.text
                skipped = opening = ""
            elif texts[n]:
                out += self._seam(skipped, begun, bool(out), piece.facet) + opening + texts[n]
                skipped, opening, begun = "", "", True
            else:
                stop = (
                    "." if piece.facet == "speech" and english.ends_sentence(piece.text) else ""
                )  # its sentence ends with it
                skipped, opening = self._loosened(skipped) + stop, ""
        return self._tidy(out + self._end(skipped))

    def _parted(self, n: int) -> tuple[str, str, str]:
        """A stretch between parts: what closes the part before it, what is between, what opens the
        part after it.
        """
        pieces = self.reading.pieces
        text, before, after = (
            pieces[n].text,
            pieces[n - 1] if n else None,
            pieces[n + 1] if n + 1 < len(pieces) else None,
        )
        closing = (
            (_MARK_BEHIND if before.stress != 1 else _BEHIND).match(text)
            if before and before.kind == PART
            else None
        )
        rest = text[closing.end() :] if closing else text
        opening = _BEFORE.search(rest) if after and after.kind == PART else None
        return (
            closing.group() if closing else "",
            rest[: opening.start()] if opening else rest,
            opening.group() if opening else "",
        )

    def _text_of(self, n: int, holes: tuple[tuple[int, int], ...]) -> str:
        """A part without what has gone of it, its article fixed."""
        known = self._reduced.get((n, holes))
        if known is None:
            known = self._reduced[n, holes] = self._without(self.reading.pieces[n], holes)
        return known

    def _without(self, piece: PromptPiece, holes: tuple[tuple[int, int], ...]) -> str:
        text, at = "", piece.start
        for start, stop in holes:
            text += self.reading.text[at : max(at, start)]
            at = max(at, stop)
        text = re.sub(r"\s{2,}", " ", text + self.reading.text[at : piece.stop]).strip()

        def mended(match: re.Match) -> str:
            wanted = english.article(match[3])
            return (wanted.capitalize() if match[1][0].isupper() else wanted) + match[2] + match[3]

        return re.sub(r"\b([Aa]n?)(\s+)(\w[^\n]*)", mended, text, count=1)

    @staticmethod
    def _loosened(glue: str) -> str:
        """What stood before a part that has gone: marks and line ends stay to be chosen from,
        labels and joining words go.
        """
        return (
            re.sub(
                r"[A-Za-z]+", " ", re.sub(r"(?m)^[ \t]*[A-Za-z][\w .-]{0,28}\s*[|:]\s", "", glue)
            )
            + "\0"
        )

    def _seam(self, glue: str, begun: bool, any_text: bool, beside: str = "") -> str:
        if "\0" not in glue:
            return glue
        if "\n" in glue:
            label = re.search(r"[A-Za-z][\w .-]{0,28}\s*[|:]\s*$", glue)
            stop = re.search(r"[.!?]", glue.partition("\n")[0])
            return (
                (stop.group() if stop and begun else "")
                + ("\n" if begun else "")
                + (label.group() if label else "")
            )
        after = glue.rpartition("\0")[2]
        if not begun:
            return "" if not any_text else " "
        stop = re.search(r"[.!?;]", glue)
        if beside == "speech":  # who says it stays with what is said
            return (stop.group() + " " if stop else ", ") + after.lstrip(" ,.;")
        if beside in (NEGATIVE, "parameter", "reference"):
            return stop.group() + " " if stop else ", " if beside == NEGATIVE else " "
        if stop:
            return stop.group() + " "
        word = _LINK.match(after.strip(" ,"))
        return ", " + (
            word.group().strip() + " "
            if word and word.group().strip().lower() in ("with", "and")
            else ""
        )

    def _end(self, glue: str) -> str:
        return (
            re.sub(r"[\0]", "", glue[glue.rfind("\0") + 1 :] if "\0" in glue else glue)
            if glue.strip("\0 ,;")
            else ""
        )

    def _tidy(self, text: str) -> str:
        text = re.sub(
            r"(?<!\s)\s+([,.;!?])", r"\1", text.replace("\0", "")
        )  # one try for each run of spaces
        text = re.sub(r"([,;])\s*(?=[.!?])", "", text).strip(" ,;")
        if self.upper:
            text = re.sub(r"(^|[.!?]\s+)([a-z])(?![\w-]*=)", lambda m: m[1] + m[2].upper(), text)
        text = re.sub(r"([.!?])([\"”’])[.,;]", r"\1\2", text)
        text = _ASIDE_GONE.sub(
            lambda m: m[0] if m[0] in self.reading.text else f"{m[1]} {m[2]}", text
        )
        if self.reading.text.rstrip().endswith(".") and text.rstrip('"”’')[-1:] not in ".!?":
            text += "."
        return text


# ──── A prompt made shorter step by step: what carries least goes first, and every step is a
# sentence (or whole JSON, or whole segments).
#
# How much a part carries is an estimate from the text alone (weighing.py). It is not a look into a
# generator.


_HANGS = re.compile(
    rf"(?:{'|'.join(sorted(PREPOSITIONS))}|while|as|where|until|before|after|\w+ing|\w+ed)\b", re.I
)  # what may go from the end of a thought


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
    """Order what a prompt can lose. `zipf` gives how common a word is (0 never, 8 the commonest);
    `keep` are words that stay; `marks` the marks (! or ?) of pieces by number, where a formula
    wrote them. Nested values and timed segments are shortened each by itself: a value may go with
    its key, a segment keeps its most telling part.
    """
    kept, given = [word.lower() for word in keep], marks or {}
    frame = framed(reading)
    units: list[Unit] = []
    going: list[tuple[float, int]] = []
    owner: list[int] = []  # the field of each unit
    seen: list[frozenset[str]] = []
    mains: list[tuple[float, int]] = []
    for number, field in enumerate(frame.fields):
        own = {
            at: given[field.first + at]
            for at in range(len(field.reading.pieces))
            if field.first + at in given
        }
        weigher = Weigher(field.reading, zipf, reach, kept, own)
        found = weigher.units(seen, count_words(reading.text[: field.start]))
        ordered = _by_thoughts(weigher, found, _ordered(weigher, found))
        base = len(units)
        whole = [
            k
            for k, unit in enumerate(found)
            if unit.stop - unit.start == len(field.reading.pieces[unit.part].text)
        ]
        carried = dict((k, carries) for carries, k in ordered)
        if whole:
            main = max(whole, key=lambda k: carried.get(k, 9.0))  # what carries most
            mains.append((carried.get(main, 9.0), base + main))
        going += [(carries, base + k) for carries, k in ordered]
        units += [
            unit._replace(
                start=unit.start + field.start,
                stop=unit.stop + field.start,
                part=unit.part + field.first,
            )
            for unit in found
        ]
        owner += [number] * len(found)
    last = {k for _, k in mains} if reading.form == TIMED else {max(mains)[1]} if mains else set()
    order = [
        k for _, k in sorted(going, key=lambda one: (one[0], -units[one[1]].start)) if k not in last
    ]
    return _stepped(reading, frame, units, owner, order)


STEPS, LONG = (
    240,
    10_000,
)  # texts that are made one after the other, and characters of a prompt for which they are fewer


def _stepped(
    reading: Reading, frame: Frame, units: list[Unit], owner: list[int], order: list[int]
) -> Shortened:
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
        gone[number].append(
            unit._replace(start=unit.start - start, stop=unit.stop - start, part=unit.part - first)
        )
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
    return Shortened(
        [unit._replace(order=numbers.get(k, 0)) for k, unit in enumerate(units)], steps
    )


def _thoughts(weigher: Weigher) -> list[list[int]]:
    """The parts of a text by thought: those without a mark between them, by their numbers."""
    found: list[list[int]] = []
    for (i, _), before in zip(weigher.parts, [None, *weigher.parts], strict=False):
        between = (
            "".join(piece.text for piece in weigher.reading.pieces[before[0] + 1 : i])
            if before
            else ","
        )
        if re.search(r"[,;.:!?\n|]", between) or weigher.reading.pieces[i].facet == "speech":
            found.append([])
        found[-1].append(i)
    return found


def _by_thoughts(
    weigher: Weigher, units: list[Unit], order: list[tuple[float, int]]
) -> list[tuple[float, int]]:
    """What goes when, by thoughts: the parts of one go together, when the one that carries most
    does. Of a thought in which something stays only what hangs on its end may go: what begins with
    a preposition or as something is doing.
    """
    whole = {
        unit.part: k
        for k, unit in enumerate(units)
        if unit.stop - unit.start == len(weigher.reading.pieces[unit.part].text)
    }
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
    return sorted(
        ((carries, k) for k, carries in carried.items() if k not in stays),
        key=lambda one: (one[0], -units[one[1]].start),
    )


def _ordered(weigher: Weigher, units: list[Unit]) -> list[tuple[float, int]]:
    """What goes when, with what it carries: never what other words lean on before they have
    gone.
    """
    carries = [unit.carries for unit in units]
    whole = {
        unit.part: k
        for k, unit in enumerate(units)
        if unit.stop - unit.start == len(weigher.reading.pieces[unit.part].text)
    }
    leans: dict[int, list[int]] = {}
    numbers = [i for i, _ in weigher.parts]
    for a, b in pairwise(numbers):
        if weigher.reading.pieces[a].facet == "era":
            leans.setdefault(whole[b], []).append(whole[a])
            continue
        between = "".join(weigher.reading.pieces[k].text for k in range(a + 1, b))
        if weigher.reading.pieces[b].facet == "speech":
            continue  # how it is said may go, and what is said may, too
        if not re.search(r"[,;.:!?\n|]", between) and not re.fullmatch(
            r"\s*(?:of|for|and|showing)\s*", between, re.I
        ):
            leans.setdefault(whole[a], []).append(whole[b])
            tails = [
                k
                for k, unit in enumerate(units)
                if unit.part == a and k != whole[a] and unit.stop == units[whole[a]].stop
            ]
            for k in tails:
                leans.setdefault(k, []).append(whole[b])
    for k, unit in enumerate(units):
        if k not in whole.values():
            leans.setdefault(whole[unit.part], []).append(k)
    for k in sorted(leans, reverse=True):
        carries[k] = max([carries[k], *(carries[c] + 0.001 for c in leans[k])])
    stays = {
        k
        for k in range(len(units))
        if weigher.pinned(units[k].text, units[k].part) or weigher.holds_kept(units[k])
    }
    for k in [*stays]:  # what a word that stays leans on stays, too
        stays |= {parent for parent, children in leans.items() if k in children}
    order = sorted(
        (k for k in range(len(units)) if k not in stays),
        key=lambda k: (carries[k], -units[k].start),
    )
    return [(carries[k], k) for k in order]
