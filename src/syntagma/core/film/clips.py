"""Shots in clips: how many seconds each takes, and how they are cut for a model."""

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from math import ceil
from typing import NamedTuple

from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding
from syntagma.core.film.columns import Col
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import Shot
from syntagma.core.film.spoken import SpokenLine, divisions, respelled, seconds_of, sentences

# ──── How long a shot takes: what the list asks for; where it asks for nothing, what is spoken,
# what happens and how the camera moves. Those are estimates, until a clip is there.


DEAD = 1.5  # seconds of a clip behind everything that is wanted, from which on it is dead air
DEAD_SHARE = 0.25
HASTE = 3.0  # times its seconds that what happens may be estimated at


class SpokenSentence(NamedTuple):
    """A sentence of a line: the line it belongs to, its words, the seconds that it takes with the
    pause before it.
    """

    line: int
    text: str
    seconds: float


class Timing(NamedTuple):
    """What a shot takes: its sentences, the seconds that are spoken, of what happens, of the move,
    what the list asks for (0: nothing), and the least of any shot.
    """

    said: tuple[SpokenSentence, ...]
    spoken: float
    deed: float
    move: float
    asked: float
    least: float = 1.0

    @property
    def whole(self) -> float:
        """The seconds of the shot: those of the list, else what it needs."""
        return self.asked or max(self.spoken, self.deed, self.move, self.least)


def timing(
    shot: Shot, pace: float, say: Mapping[str, str], knowledge: FilmKnowledge, shortest: float = 1.0
) -> Timing:
    """How long a shot takes, its lines spoken at a pace of so many words per second."""
    said: list[SpokenSentence] = []
    for number, line in enumerate(shot.lines):
        for i, sentence in enumerate(sentences(line.text)):
            pause = (
                knowledge.pauses["answer"]
                if number and not i and line.speaker != shot.lines[number - 1].speaker
                else 0.0
            )
            pause += knowledge.pauses["."] if said and not pause else 0.0
            said.append(
                SpokenSentence(
                    number,
                    sentence,
                    pause
                    + seconds_of(respelled(sentence, say, keep=True), pace, line.manner, knowledge),
                )
            )
    spoken = sum(one.seconds for one in said)
    for number, line in enumerate(shot.lines):
        if line.dual and number:  # two at once take as long as the longer of them
            spoken -= min(
                sum(one.seconds for one in said if one.line == which)
                for which in (number - 1, number)
            )
    return Timing(
        tuple(said),
        round(spoken, 3),
        knowledge.deed(shot.cells.get(Col.ACTION, "")),
        knowledge.move(shot.cells.get(Col.MOVE, "")),
        shot.seconds,
        shortest,
    )


def findings_of(shot: Shot, time: Timing, longest: float, model: str) -> list[Finding]:
    """The findings on the time of a shot: lines that take longer than it was given, or than any
    clip.
    """
    found = []
    for number, line in enumerate(shot.lines, 1):
        takes = sum(said.seconds for said in time.said if said.line == number - 1)
        if takes > longest:
            message = (
                f"the line “{_begin(line)}” takes about {takes:.1f} s, but a clip of {model} lasts"
                f" {longest:g} s at most"
            )
            found.append(
                Finding(
                    ERROR,
                    message,
                    _where_to_cut(line),
                    f"{shot.name}/{number}",
                    code="line-too-long",
                )
            )
    if shot.seconds and time.spoken > shot.seconds:
        message = (
            f"the lines take about {time.spoken:.1f} s, but the shot has {shot.seconds:g}: they"
            " will be cut off"
        )
        remedy = (
            f"say it in {max(1, int(_words(shot) * shot.seconds / time.spoken))} words, or ask for"
            f" {time.spoken:.1f} seconds"
        )
        found.append(Finding(WARNING, message, remedy, shot.name, code="lines-cut-off"))
    elif shot.seconds and time.deed > HASTE * shot.seconds:
        message = (
            f"what happens takes about {time.deed:.1f} s, but the shot has {shot.seconds:g}: it"
            " will be hasty, or cut off"
        )
        remedy = f"have less happen, or ask for {time.deed:.1f} seconds"
        found.append(Finding(REMARK, message, remedy, shot.name, code="hasty"))
    return found


def dead_air(shot: Shot, time: Timing, seconds: float) -> Finding | None:
    """The findings on a shot that is given more seconds than anything in it takes. One whose
    seconds the list says is cut to them.
    """
    if shot.seconds:
        return None
    wanted = max(time.spoken, time.deed, time.move)
    spare = seconds - wanted
    if spare < DEAD or spare < DEAD_SHARE * seconds:
        return None
    if shot.lines and time.spoken and time.spoken >= time.deed:
        words = int(spare * _words(shot) / max(time.spoken, 0.1))
        remedy = (
            f"about {words} more words would fill it; or have"
            f" {shot.lines[0].speaker.upper() or 'somebody'} do something before the line"
        )
    elif shot.cells.get(Col.ACTION):
        remedy = "have one more thing happen, or add a slow camera move"
    else:
        remedy = "say what happens in it (action), or add a slow camera move"
    message = f"nothing happens for about {spare:.1f} s of its {seconds:g}"
    return Finding(REMARK, message, remedy, shot.name, code="dead-air")


def _begin(line: SpokenLine) -> str:
    return line.text if len(line.text) <= 40 else line.text[:39].rsplit(" ", 1)[0] + " …"


def _where_to_cut(line: SpokenLine) -> str:
    places = divisions(line.text)
    if not places:
        return "say it in fewer words: there is no good place to cut"
    return f"cut it after “{'”, or after “'.join(places[:3])}”"


def _words(shot: Shot) -> int:
    return sum(len(line.text.split()) for line in shot.lines)


# ──── Shots packed into clips: exactly, by dynamic programming over the sequence.
#
# A shot is a row of atoms: sentences, or equal stretches of silence, between which a shot that fits
# no clip may be divided. A clip holds
# neighbouring atoms. Of all ways to divide the sequence the one is found that costs least money,
# among those the one with the fewest
# divided shots, among those the one with the least dead air, among those the one of the fewest
# clips; and what the next best would cost.


EPS = 1e-6


class Need(NamedTuple):
    """What a shot needs: its atoms in seconds; whether a cut before it can't be made within a clip
    (`apart`), whether it must begin or end a clip (a first or a last frame), and how many results
    of it are wanted.
    """

    atoms: tuple[float, ...]
    apart: bool = False
    begins: bool = False
    ends: bool = False
    takes: int = 1

    @property
    def seconds(self) -> float:
        return sum(self.atoms)


class ClipRules(NamedTuple):
    """What a model makes: the lengths of its clips, or a range with a step; how many shots a clip
    takes and how short one may be, in steps of `step`; what a clip of so many seconds costs; how
    many takes one shot is likely to need.
    """

    lengths: tuple[float, ...] = ()
    range: tuple[float, float] = (1.0, 60.0)
    step: float = 0.5
    most: int = 1
    shortest: float = 0.0
    price: Callable[[float], float] = lambda seconds: seconds
    takes: float = 1.0

    @property
    def longest(self) -> float:
        return max(self.lengths) if self.lengths else self.range[1]

    def length(self, seconds: float) -> float | None:
        """The shortest allowed length that holds so many seconds; None if none does."""
        if self.lengths:
            return min((length for length in self.lengths if length >= seconds - EPS), default=None)
        low, high = self.range
        wanted = (
            low + max(0, ceil((seconds - low) / self.step - EPS)) * self.step
            if self.step
            else max(low, seconds)
        )
        return round(wanted, 6) if wanted <= high + EPS else None

    def rounded(self, seconds: float) -> float:
        """A part of a clip of several, as its times can be written."""
        least = max(seconds, self.shortest)
        return round(ceil(least / self.step - EPS) * self.step, 6) if self.step else least


class ShotPart(NamedTuple):
    """What of a shot is in a clip: the atoms `start` to `stop`, and the seconds that it gets."""

    shot: int
    start: int
    stop: int
    seconds: float


class Clip(NamedTuple):
    """A clip: its parts, its length, what one take of it costs, the takes that are likely, the
    seconds that nothing fills. `over`: what is spoken in it takes longer than any clip.
    """

    parts: tuple[ShotPart, ...]
    seconds: float
    price: float
    takes: float
    dead: float
    over: bool = False
    pinned: bool = False


class Packing(NamedTuple):
    """All clips, what they are likely to cost, and what the next best way would (None without a
    other).
    """

    clips: tuple[Clip, ...]
    money: float
    splits: int
    dead: float
    next_best: float | None


Cost = tuple[float, int, float, int]


def packed(
    needs: Sequence[Need], rules: ClipRules, pinned: Sequence[tuple[int, int, float]] = ()
) -> Packing:
    """The cheapest clips for a sequence of shots. `pinned` are clips that exist, each by its first
    atom, the atom behind its last (counted over the whole sequence) and its seconds: they stay, and
    cost nothing more.
    """
    return _Packer(needs, rules, pinned).best()


class _Packer:
    """Finds clips. A position is an atom of the whole sequence."""

    def __init__(
        self, needs: Sequence[Need], rules: ClipRules, pinned: Sequence[tuple[int, int, float]]
    ):
        self.needs, self.rules = needs, rules
        self.at = [
            (shot, atom) for shot, need in enumerate(needs) for atom in range(len(need.atoms))
        ]
        self.stops = {stop: (start, seconds) for start, stop, seconds in pinned}
        self.held = {atom for start, stop, _ in pinned for atom in range(start, stop)}
        self.long = [rules.length(need.seconds) is None for need in needs]
        self.price = lru_cache(maxsize=None)(rules.price)

    def best(self) -> Packing:
        """Dynamic programming over the positions, the two cheapest ways to each kept: (cost,
        position before, which of its ways, clip).
        """
        ways: list[list[tuple[Cost, int, int, Clip | None]]] = [[((0.0, 0, 0.0, 0), 0, 0, None)]]
        for stop in range(1, len(self.at) + 1):
            found: list[tuple[Cost, int, int, Clip | None]] = []
            for start, clip in self.clips_to(stop):
                own = self.cost(clip)
                for which, (cost, *_) in enumerate(ways[start]):
                    total = (
                        round(cost[0] + own[0], 6),
                        cost[1] + own[1],
                        round(cost[2] + own[2], 6),
                        cost[3] + own[3],
                    )
                    found.append((total, start, which, clip))
            found.sort(key=lambda way: way[0])
            ways.append(found[:2])
        if not ways[-1]:
            raise ValueError("the pinned clips leave no way to pack the rest")
        clips: list[Clip] = []
        stop, which = len(self.at), 0
        while stop:
            _, start, before, last = ways[stop][which]
            assert last is not None, "only the beginning has no clip before it"
            clips.append(last)
            stop, which = start, before
        money, splits, dead, _ = ways[-1][0][0]
        return Packing(
            tuple(reversed(clips)),
            money,
            splits,
            dead,
            ways[-1][1][0][0] if len(ways[-1]) > 1 else None,
        )

    def cost(self, clip: Clip) -> Cost:
        """Money, divided shots, dead air, clips; of a pinned clip nothing."""
        split = int(clip.parts[0].start > 0)
        if clip.pinned:
            return 0.0, 0, 0.0, 0
        return clip.price * clip.takes, split, clip.dead, 1

    def clips_to(self, stop: int) -> list[tuple[int, Clip]]:
        """Every clip that ends before the atom `stop`, with the atom that it begins with."""
        if stop in self.stops:
            start, seconds = self.stops[stop]
            pinned = self.clip(start, stop, seconds)
            assert pinned is not None, "a pinned clip was made already"
            return [(start, pinned)]
        found: list[tuple[int, Clip]] = []
        for start in range(stop - 1, -1, -1):
            if start in self.held:
                break
            last_shot, last_atom = self.at[stop - 1]
            first_shot, first_atom = self.at[start]
            if last_shot - first_shot + 1 > self.rules.most:
                break
            if not self.whole(first_shot, first_atom, last_shot, last_atom):
                continue
            if any(
                self.needs[shot].apart or self.needs[shot].begins or self.needs[shot - 1].ends
                for shot in range(first_shot + 1, last_shot + 1)
            ):
                break
            clip = self.clip(start, stop)
            if clip is None:
                break  # longer ones fit even less
            found.append((start, clip))
        return found

    def whole(self, first_shot: int, first_atom: int, last_shot: int, last_atom: int) -> bool:
        """Are only those shots divided that fit no clip?"""
        begun = first_atom == 0 or self.long[first_shot]
        return begun and (last_atom == len(self.needs[last_shot].atoms) - 1 or self.long[last_shot])

    def clip(self, start: int, stop: int, pinned: float | None = None) -> Clip | None:
        """The clip of some atoms; None if no length holds them, unless it is one atom that nothing
        holds.
        """
        parts: list[ShotPart] = []
        at = start
        while at < stop:
            shot, atom = self.at[at]
            last = min(stop - at, len(self.needs[shot].atoms) - atom)
            parts.append(
                ShotPart(shot, atom, atom + last, sum(self.needs[shot].atoms[atom : atom + last]))
            )
            at += last
        raw = sum(part.seconds for part in parts)
        several = len(parts) > 1
        needed = [self.rules.rounded(part.seconds) if several else part.seconds for part in parts]
        length = pinned or self.rules.length(sum(needed))
        over = length is None
        if over and stop - start > 1:
            return None
        length = length or self.rules.longest
        takes = max(
            [self.rules.takes ** len(parts), *(self.needs[part.shot].takes for part in parts)]
        )
        shared = self.shared(needed, length)
        final = tuple(
            part._replace(seconds=seconds) for part, seconds in zip(parts, shared, strict=True)
        )
        return Clip(
            final,
            length,
            self.price(length),
            takes,
            max(0.0, round(length - raw, 6)),
            over,
            pinned is not None,
        )

    def shared(self, needed: Sequence[float], length: float) -> list[float]:
        """The seconds of a clip shared out: what each part needs, and of what is over a step each
        in turn, the last first.
        """
        if len(needed) == 1:
            return [length]
        found = list(needed)
        spare, at = length - sum(found), len(found) - 1
        step = self.rules.step or 0.5
        while spare > EPS:
            more = min(step, spare)
            found[at] = round(found[at] + more, 6)
            spare, at = spare - more, (at - 1) % len(found)
        if spare < -EPS:
            found[-1] = round(found[-1] + spare, 6)
        return found
