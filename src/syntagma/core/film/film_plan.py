"""A film planned for one model: seconds, clips, which frames are stills of their own, what goes on
from what, what stays as it was sent.
"""

from collections.abc import Callable, Collection, Sequence
from hashlib import blake2b
from itertools import pairwise
from math import gcd
from typing import NamedTuple

from syntagma.core.diagnostics import REMARK, WARNING, Finding
from syntagma.core.film.clip_formula import View
from syntagma.core.film.clips import (
    Clip,
    ClipRules,
    Need,
    Packing,
    Timing,
    dead_air,
    findings_of,
    packed,
    timing,
)
from syntagma.core.film.columns import Col
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import Shot, ShotList
from syntagma.core.film.spoken import SpokenLine, respelled
from syntagma.core.film.wording import Cast
from syntagma.core.formula.tree import Formula, part_of
from syntagma.core.models.prices import cost
from syntagma.core.models.profile import Profile
from syntagma.core.vocabulary.terms import normal

FIRST_ROLE, LAST_ROLE = "first-frame", "last-frame"
ANY_LENGTH = (1.0, 60.0)  # seconds of a clip of a model that says nothing of them
PLAIN_CUTS = (
    "",
    "cut",
    "cut to",
    "straight cut",
    "hard cut",
    "smash cut",
    "jump cut",
    "match cut on shape",
    "match cut on movement",
)
_NOT_SEEN = (
    Col.NOTE,
    Col.TAKES,
    Col.TRANSITION,
    Col.LINE,
    Col.SPEAKER,
    Col.MANNER,
    Col.VOICE,
    Col.SCENE,
    Col.SHOT,
)


class PlannedClip(NamedTuple):
    """A clip as it is to be made: its name, what is in it, the still that it begins with (a shot)
    or ends on, and the clip from whose last picture it goes on (its place in the plan, or None).
    """

    name: str
    clip: Clip
    views: tuple[View, ...]
    first: Shot | None = None
    last: Shot | None = None
    follows: int | None = None

    @property
    def shots(self) -> tuple[Shot, ...]:
        return tuple(view.shot for view in self.views)


class Plan(NamedTuple):
    """A film on one model. `timings` a shot each; `clips` in their order; `findings` by shot."""

    profile: Profile
    rules: ClipRules
    timings: tuple[Timing, ...]
    needs: tuple[Need, ...]
    packing: Packing
    clips: tuple[PlannedClip, ...]
    findings: tuple[Finding, ...]

    @property
    def priced(self) -> bool:
        return self.profile.price is not None

    @property
    def seconds(self) -> float:
        """How long all clips are together."""
        return sum(clip.clip.seconds for clip in self.clips)


class Sent(NamedTuple):
    """A clip that was sent or has results, as its record says: its seconds, and of each part the
    shot, the key of what is seen in it, the sentences spoken in it, and which of the parts of its
    shot it is.
    """

    seconds: float
    parts: tuple[tuple[str, str, tuple[str, ...], tuple[int, int]], ...]


def rules_of(profile: Profile) -> ClipRules:
    """What a model makes of clips, as its profile says."""
    parameter = profile.parameter.get("seconds")
    lengths: tuple[float, ...] = ()
    bounds, step = ANY_LENGTH, 0.5
    if parameter and parameter.values:
        lengths = tuple(
            sorted(float(value) for value in parameter.values if isinstance(value, int | float))
        )
    elif parameter and parameter.range:
        bounds, step = (
            parameter.range,
            parameter.step or (1.0 if parameter.type == "integer" else 0.5),
        )
    timed = profile.register == "timed"
    defaults = {
        name: one.default for name, one in profile.parameter.items() if one.default is not None
    }

    def price(seconds: float) -> float:
        return (
            (cost(profile, {**defaults, "seconds": seconds}, "") or 0.0)
            if profile.price
            else seconds
        )

    return ClipRules(
        lengths,
        (float(bounds[0]), float(bounds[1])),
        float(profile.timed.step if timed else step),
        profile.timed.most if timed else 1,
        profile.timed.shortest if timed else 0.0,
        price,
        profile.price.takes if profile.price else 1.0,
    )


def plan(
    shots: ShotList,
    profile: Profile,
    cast: Cast,
    knowledge: FilmKnowledge,
    formula_of: Callable[[Shot], Formula],
    sent: Sequence[Sent] = (),
    in_clips: Collection[str] = (),
) -> Plan:
    """Plan a film on a model. `sent` are clips that exist: those whose shots are as they were stay
    as they are; `in_clips` what of ambience and music the prompts ask for.
    """
    rules = rules_of(profile)
    pace = profile.sound.pace if profile.sound else 2.5
    timings = tuple(timing(shot, pace, cast.say, knowledge) for shot in shots.shots)
    needs = _needs(shots.shots, timings, profile, rules, formula_of)
    packing = packed(needs, rules, _pinned(shots.shots, needs, timings, sent, cast))
    clips = _planned(shots.shots, timings, packing, profile)
    return Plan(
        profile,
        rules,
        timings,
        needs,
        packing,
        clips,
        tuple(_findings(shots.shots, timings, rules, clips, profile, in_clips)),
    )


def _needs(
    shots: Sequence[Shot],
    timings: Sequence[Timing],
    profile: Profile,
    rules: ClipRules,
    formula_of: Callable[[Shot], Formula],
) -> tuple[Need, ...]:
    found = []
    for i, (shot, time) in enumerate(zip(shots, timings, strict=True)):
        before = shots[i - 1] if i else None
        numbered = any(part_of(one.label) is not None for one in formula_of(shot).phrases)
        apart = (
            before is None
            or before.scene != shot.scene
            or normal(shot.cells.get(Col.TRANSITION, "")) not in PLAIN_CUTS
        )
        apart = (
            apart or before is None or numbered or formula_of(before).name != formula_of(shot).name
        )
        apart = (
            apart
            or before is None
            or any(part_of(one.label) is not None for one in formula_of(before).phrases)
        )
        found.append(
            Need(
                _atoms(time, rules),
                apart,
                takes_frame(profile, FIRST_ROLE) and bool(shot.cells.get(Col.FIRST)),
                takes_frame(profile, LAST_ROLE) and bool(shot.cells.get(Col.LAST)),
                shot.takes,
            )
        )
    return tuple(found)


def takes_frame(profile: Profile, role: str) -> bool:
    """Does the model begin (or end) a clip with a still of its own?"""
    return role in profile.reference


def _atoms(time: Timing, rules: ClipRules) -> tuple[float, ...]:
    """A shot in the pieces between which it may be divided: one, where a clip holds it; else its
    sentences, and the silence behind them in pieces as long as the lengths of clips differ by.
    """
    whole = time.whole
    if rules.length(whole) is not None:
        return (whole,)
    atoms = [said.seconds for said in time.said]
    if sum(atoms) > whole:  # the list gives less than the lines take
        atoms = [atom * whole / sum(atoms) for atom in atoms]
    rest = whole - sum(atoms)
    grid = [round(length * 1000) for length in rules.lengths] or [round(rules.step * 1000)]
    piece = max(gcd(*grid) / 1000, 0.5)
    while rest > 1e-6:
        atoms.append(min(piece, rest))
        rest -= atoms[-1]
    return tuple(round(atom, 6) for atom in atoms)


def key_of(shot: Shot, cast: Cast) -> str:
    """What is seen of a shot, in 12 hexadecimal digits: it changes where a picture of it would."""
    seen = sorted(
        (column, cell) for column, cell in shot.cells.items() if column not in _NOT_SEEN and cell
    )
    people = [(name, cast.full(name, shot)) for name in shot.who]
    return blake2b(repr((seen, people)).encode(), digest_size=6).hexdigest()


def spoken_in(shot: Shot, time: Timing, start: int, stop: int, cast: Cast) -> tuple[str, ...]:
    """The sentences of some atoms of a shot as they are said, each with who says it and how."""
    chosen = time.said if (start, stop) == (0, 1) and len(time.said) != 1 else time.said[start:stop]
    lines = shot.lines
    return tuple(
        f"{lines[said.line].speaker}|{lines[said.line].voice}|{lines[said.line].manner}|{respelled(said.text, cast.say)}"  # noqa: E501
        for said in chosen
    )


def _pinned(
    shots: Sequence[Shot],
    needs: Sequence[Need],
    timings: Sequence[Timing],
    sent: Sequence[Sent],
    cast: Cast,
) -> list[tuple[int, int, float]]:
    """Where the clips that exist lie in the sequence of atoms: those all of whose parts are there
    as they were, one after the other.
    """
    begins, at = {}, 0
    for i, need in enumerate(needs):
        begins[shots[i].name] = (i, at)
        at += len(need.atoms)
    keys = {shot.name: key_of(shot, cast) for shot in shots}
    found: list[tuple[int, int, float]] = []
    for one in sent:
        spans = []
        for name, key, said, (start, stop) in one.parts:
            if name not in begins or keys[name] != key:
                break
            i, first = begins[name]
            if (
                stop > len(needs[i].atoms)
                or spoken_in(shots[i], timings[i], start, stop, cast) != said
            ):
                break
            spans.append((first + start, first + stop))
        else:
            whole = all(one[1] == other[0] for one, other in pairwise(spans))
            taken = (
                any(start < spans[-1][1] and spans[0][0] < stop for start, stop, _ in found)
                if spans
                else True
            )
            if spans and whole and not taken:
                found.append((spans[0][0], spans[-1][1], one.seconds))
    return sorted(found)


def _planned(
    shots: Sequence[Shot], timings: Sequence[Timing], packing: Packing, profile: Profile
) -> tuple[PlannedClip, ...]:
    found: list[PlannedClip] = []
    counts: dict[int, int] = {}
    for clip in packing.clips:
        for part in clip.parts:
            counts[part.shot] = counts.get(part.shot, 0) + 1
    seen: dict[int, int] = {}
    for number, clip in enumerate(packing.clips):
        views = []
        for part in clip.parts:
            seen[part.shot] = seen.get(part.shot, 0) + 1
            shot, time = shots[part.shot], timings[part.shot]
            only = counts[part.shot] == 1
            views.append(
                View(
                    shot,
                    shot.lines if only else _lines(shot, time, part.start, part.stop),
                    seen[part.shot] == 1,
                    seen[part.shot] == counts[part.shot],
                )
            )
        first, last = views[0], views[-1]
        goes_on = not first.first or (
            first.shot.continuous
            and number > 0
            and found[-1].views[-1].shot.scene == first.shot.scene
        )
        still = (
            first.shot
            if first.first and first.shot.cells.get(Col.FIRST) and takes_frame(profile, FIRST_ROLE)
            else None
        )
        found.append(
            PlannedClip(
                _name(views, [(seen[p.shot], counts[p.shot]) for p in clip.parts]),
                clip,
                tuple(views),
                still,
                (
                    last.shot
                    if last.last
                    and last.shot.cells.get(Col.LAST)
                    and takes_frame(profile, LAST_ROLE)
                    else None
                ),
                number - 1 if goes_on and not still and number else None,
            )
        )
    return tuple(found)


def _lines(shot: Shot, time: Timing, start: int, stop: int) -> tuple[SpokenLine, ...]:
    """What is spoken in some atoms of a divided shot."""
    said: dict[int, list[str]] = {}
    for one in time.said[start:stop]:
        said.setdefault(one.line, []).append(one.text)
    return tuple(
        shot.lines[number]._replace(text=" ".join(texts)) for number, texts in said.items()
    )


def _name(views: Sequence[View], parts: Sequence[tuple[int, int]]) -> str:
    """A clip as it is called: 3/12A, 3/12A-14, 3/12A.2 for the second part of a divided shot."""
    ends = []
    for view, (part, of) in ((views[0], parts[0]), (views[-1], parts[-1])):
        ends.append(view.shot.number + (f".{part}" if of > 1 else ""))
    return f"{views[0].shot.scene}/{ends[0]}" + (f"-{ends[1]}" if len(views) > 1 else "")


def _findings(
    shots: Sequence[Shot],
    timings: Sequence[Timing],
    rules: ClipRules,
    clips: Sequence[PlannedClip],
    profile: Profile,
    in_clips: Collection[str],
) -> list[Finding]:
    found: list[Finding] = []
    model = profile.name or "no model"
    given: dict[str, float] = {}
    for planned in clips:
        for part, view in zip(planned.clip.parts, planned.views, strict=True):
            given[view.shot.name] = given.get(view.shot.name, 0.0) + part.seconds
    for shot, time in zip(shots, timings, strict=True):
        if profile.silent:
            time = time._replace(spoken=0.0)
        found += findings_of(shot, time, rules.longest, model) if not profile.silent else []
        if spare := dead_air(shot, time, given.get(shot.name, 0.0)):
            found.append(spare)
        for column, role in ((Col.FIRST, FIRST_ROLE), (Col.LAST, LAST_ROLE)):
            if shot.cells.get(column) and not takes_frame(profile, role):
                message = f"{model} takes no {column}, so words describe it and no still is made"
                found.append(
                    Finding(
                        WARNING, message, "choose a model that does", shot.name, code="no-frame"
                    )
                )
    if profile.silent and (heard := _heard(shots, in_clips)):
        found.append(
            Finding(
                WARNING,
                f"{model} makes no sound: {heard} left out"
                + (", whoever speaks moves their lips" if any(s.lines for s in shots) else ""),
                "choose a model with sound, or add the sound in the edit",
                shots[0].name,
                code="no-sound",
            )
        )
    for planned in clips:
        if planned.follows is not None and not takes_frame(profile, FIRST_ROLE):
            message = (
                f"{planned.name} continues from {clips[planned.follows].name}, but {model} takes no"
                " first frame, so the two may not match"
            )
            found.append(
                Finding(
                    WARNING,
                    message,
                    "choose a model that does, or put a cut between them",
                    planned.views[0].shot.name,
                    code="no-frame",
                )
            )
        if not planned.views[0].first:
            first = planned.views[0].shot
            message = (
                f"{first.name} is longer than the {rules.longest:g} s of {model}, so it is divided:"
                f" {planned.name} continues from the last frame of the clip before"
            )
            found.append(
                Finding(
                    REMARK,
                    message,
                    "your own cut may be better: split it into two shots",
                    first.name,
                    code="shot-divided",
                )
            )
    return found


def _heard(shots: Sequence[Shot], in_clips: Collection[str]) -> str:
    """What is to be heard in a film, in words; "" if nothing is."""
    lines = sum(len(shot.lines) for shot in shots)
    sounds = sum(bool(shot.cells.get(Col.SFX)) for shot in shots)
    parts = [f"{lines} line{'s' if lines > 1 else ''}"] if lines else []
    parts += [f"{sounds} sound{'s' if sounds > 1 else ''}"] if sounds else []
    parts += [kind for kind in in_clips if any(shot.cells.get(kind) for shot in shots)]
    many = len(parts) > 1 or parts[:1] not in (
        [],
        ["1 line"],
        ["1 sound"],
        [Col.AMBIENCE],
        [Col.MUSIC],
    )
    said = ", ".join(parts[:-1]) + " and " + parts[-1] if len(parts) > 1 else "".join(parts)
    return said and f"{said} {'are' if many else 'is'}"
