"""Continuity, as a script supervisor looks for it: clothes, hands, hours, eyelines, the line
between two people, the side of the light, shots that jump, speech of people who are not there.
Where the list says too little that is said, with the column that would tell.
"""

import re
from collections.abc import Iterator, Sequence
from itertools import pairwise

from syntagma.core.diagnostics import REMARK, WARNING, Finding
from syntagma.core.film.columns import Col
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import Shot, ShotList, compass, frame_side, owned, voices
from syntagma.core.film.story import caps, story_findings, things_of
from syntagma.core.film.wording import Cast
from syntagma.core.film.wording import held as held_things
from syntagma.core.vocabulary.terms import normal

NEAR = 2  # sizes that two shots of the same people lie apart at least, or they jump
HALF_DAY = 720
NIGHT, MORNING = 1200, 600  # minutes: a day of the story may go on from here until there
OPPOSITE = {"left": "right", "right": "left"}
_OWN_HANDS = re.compile(r"\b(?:his|her|their|both|left|right|empty) hands?\b")
_ROUND = ("orbit", "circle", "arc", "half circle", "round")


def continuity(shots: ShotList, knowledge: FilmKnowledge, cast: Cast) -> list[Finding]:
    """The findings on a film, shot by shot. Each finding's place is the shot that it is seen in."""
    found: list[Finding] = []
    found += _clothes(shots)
    for scene in shots.scenes():
        found += _hands(scene, knowledge)
        found += _eyelines(scene)
        found += _line_between(scene, knowledge)
        found += _light_sides(scene)
        found += _jumps(scene, knowledge)
        found += _behind_the_camera(scene)
        found += _not_in_the_picture(scene)
        found += _no_wide_shot(scene, knowledge)
    found += _hours(shots, knowledge)
    found += story_findings(shots, knowledge, cast)
    order = {shot.name: i for i, shot in enumerate(shots.shots)}
    return sorted(found, key=lambda finding: order.get(finding.place, len(order)))


def _clothes(shots: ShotList) -> Iterator[Finding]:
    """The same person in other clothes on the same day of the story."""
    worn: dict[tuple[str, str], tuple[str, Shot]] = {}
    for shot in shots.shots:
        for name, clothes in owned(shot.cells.get(Col.WARDROBE, ""), shot.who).items():
            key = (name, normal(shot.cells.get(Col.STORY_DAY, "")))
            before = worn.get(key)
            if before and _things(before[0]) != _things(clothes) and not _changes(shot, name):
                day = (
                    f"story day {shot.cells[Col.STORY_DAY]}"
                    if shot.cells.get(Col.STORY_DAY)
                    else "the same story day"
                )
                message = (
                    f"{caps(name)} wears {clothes} here and {before[0]} in {before[1].name}, on"
                    f" {day}"
                )
                yield Finding(
                    WARNING,
                    message,
                    "use the same clothes, or give the shot another story day",
                    shot.name,
                    code="other-clothes",
                )
            worn[key] = (clothes, shot)


def _changes(shot: Shot, name: str) -> bool:
    """Does somebody change clothes in the picture?"""
    return (
        re.search(
            r"\b(?:puts? on|putting on|pulls? on|takes? off|taking off|changes? into|changing"
            r" into|shrugs? (?:on|off)|buttons?)\b",
            shot.cells.get(Col.ACTION, ""),
            re.I,
        )
        is not None
    )


def _things(text: str) -> frozenset[str]:
    """What a cell names, whatever the order and the small words."""
    return frozenset(
        re.findall(r"[^\W_]+", re.sub(r"\b(?:an?|the|his|her|their|and|with)\b", " ", text.lower()))
    )


def _hands(scene: Sequence[Shot], knowledge: FilmKnowledge) -> Iterator[Finding]:
    """A hand that is full and then empty, or holds something else, and nothing was put down."""
    held: dict[str, tuple[str, Shot]] = {}
    days: dict[str, str] = {}
    since: dict[str, list[str]] = {}
    for shot, earlier in zip(scene, [None, *scene], strict=False):
        props = owned(shot.cells.get(Col.PROPS, ""), shot.who)
        for name in (who.lower() for who in shot.who):
            said = shot.given.get(Col.PROPS, "") != "" or bool(props)
            before = held.get(name)
            since.setdefault(name, []).append(shot.cells.get(Col.ACTION, ""))
            if before and said and days.get(name) == shot.cells.get(Col.STORY_DAY):
                gone = [
                    thing
                    for thing in _props(before[0])
                    if not any(_things(thing) & _things(now) for now in _props(props.get(name, "")))
                ]
                seen = _OWN_HANDS.sub("", " ".join(since[name]).lower())
                next_to_it = earlier is not None and name in (who.lower() for who in earlier.who)
                if props.get(name) and not next_to_it:
                    gone = []  # another thing, some shots later: there was time to lay it down
                missing = [
                    thing
                    for thing in gone
                    if not (
                        {*things_of(thing), thing.lower().split()[-1]}
                        & set(re.findall(r"\w+", seen))
                        and set(re.findall(r"\w+", seen)) & knowledge.words["lets-go"]
                    )
                ]
                if missing:
                    message = (
                        f"{caps(name)} has {held_things(', '.join(missing))} in {before[1].name}"
                        " but not here"
                    )
                    yield Finding(
                        WARNING,
                        message,
                        "name it in props, or have it put down (action)",
                        shot.name,
                        code="hand-empty",
                    )
            if said:
                held[name] = (props.get(name, ""), shot)
                days[name] = shot.cells.get(Col.STORY_DAY, "")
                since[name] = [shot.cells.get(Col.ACTION, "")]


def _props(cell: str) -> list[str]:
    return [part.strip() for part in re.split(r"[,;&]|\band\b", cell) if part.strip()]


def _hours(shots: ShotList, knowledge: FilmKnowledge) -> Iterator[Finding]:
    """The hour that goes back within a day of the story. Later than midnight is the same night."""
    last: dict[str, tuple[int, Shot]] = {}
    for shot in shots.shots:
        hour = knowledge.hour(shot.cells.get(Col.HOUR, ""))
        if hour is None or not shot.given.get(Col.HOUR):
            continue
        day = normal(shot.cells.get(Col.STORY_DAY, ""))
        if day in last and not _elsewhen(shot):
            minutes, before = last[day]
            same_night = (minutes >= NIGHT and hour[1] < MORNING) or minutes >= 1440
            if 0 < minutes - hour[1] < HALF_DAY or (minutes > hour[1] and not same_night):
                message = (
                    f"it is {shot.cells[Col.HOUR]} here but {before.cells[Col.HOUR]} in"
                    f" {before.name}, on the same story day"
                )
                yield Finding(
                    WARNING,
                    message,
                    "give the shot another story day, or a later hour",
                    shot.name,
                    code="hour-back",
                )
        last[day] = (hour[1], shot)


def _elsewhen(shot: Shot) -> bool:
    return (
        re.search(
            r"flash-?back|memory|dream|earlier",
            " ".join((shot.cells.get(Col.NOTE, ""), *shot.further.values())),
            re.I,
        )
        is not None
    )


def _talk(scene: Sequence[Shot]) -> Iterator[tuple[Shot, Shot]]:
    """Pairs of shots between which two people look at each other: a shot and its reverse, or
    neighbours of one person each of whom both speak in the scene or are spoken to in it.
    """
    speak = {line.speaker.lower() for shot in scene for line in shot.lines}
    for i, shot in enumerate(scene[1:], 1):
        turned = shot.cells.get(Col.REVERSE_OF, "")
        if turned:
            before = next(
                (
                    one
                    for one in scene[:i]
                    if turned.lower() in (one.number.lower(), one.name.lower())
                ),
                None,
            )
        else:
            before = scene[i - 1]
            both = len(shot.who) == len(before.who) == 1 and shot.who != before.who
            if not both or not {shot.who[0].lower(), before.who[0].lower()} <= speak:
                continue
        if before and shot.who and before.who and shot.who[0] != before.who[0]:
            yield before, shot


def _eyelines(scene: Sequence[Shot]) -> Iterator[Finding]:
    """Two who speak to each other look past each other."""
    for before, shot in _talk(scene):
        one, other = before.who[0].lower(), shot.who[0].lower()
        looks = before.sides(Col.EYELINE).get(one, ""), shot.sides(Col.EYELINE).get(other, "")
        if "camera" in looks:
            continue
        if not all(looks):
            blank = shot if not looks[1] else before
            message = (
                f"Syntagma can't tell whether {caps(before.who[0])} and {caps(shot.who[0])} look at"
                " each other"
            )
            yield Finding(
                REMARK,
                message,
                f"fill eyeline in {blank.name}: left or right",
                blank.name,
                code="cannot-tell",
            )
        elif looks[0] == looks[1] and looks[0] in OPPOSITE:
            message = (
                f"{caps(before.who[0])} and {caps(shot.who[0])} both look {looks[0]}"
                f" ({before.name}, {shot.name}), so they look past each other"
            )
            yield Finding(
                WARNING,
                message,
                f"have {caps(shot.who[0])} look {OPPOSITE[looks[0]]}",
                shot.name,
                code="eyelines-apart",
            )


def _line_between(scene: Sequence[Shot], knowledge: FilmKnowledge) -> Iterator[Finding]:
    """The camera over the line between two people: they change sides of the frame, and nothing took
    the camera or them across.
    """
    order: dict[frozenset[str], tuple[tuple[str, ...], Shot]] = {}
    placed: dict[str, tuple[str, Shot]] = {}
    for shot in scene:
        sides = {
            name: side for name, side in shot.sides(Col.SCREEN_SIDE).items() if side in OPPOSITE
        }
        moved = _crosses(shot, knowledge)
        if (
            moved
            or (shot.who and not sides and "camera" in shot.sides(Col.EYELINE).values())
            or _on_the_line(shot)
        ):
            order.clear()
            placed.clear()
        if moved:
            continue
        told: set[str] = set()
        for one in sides:
            for other in sides:
                if one < other and sides[one] != sides[other]:
                    pair = frozenset((one, other))
                    now = (one, other) if sides[one] == "left" else (other, one)
                    before = order.get(pair)
                    if before and before[0] != now:
                        message = (
                            f"{caps(now[0])} is on the left and {caps(now[1])} on the right here;"
                            f" in {before[1].name} it is the other way round: the camera has"
                            " crossed the line between them"
                        )
                        yield Finding(
                            WARNING,
                            message,
                            "keep them on their sides, show the crossing, or add a shot from the"
                            " line between the two",
                            shot.name,
                            code="line-crossed",
                        )
                        told |= pair
                    order[pair] = (now, shot)
        for name, side in sides.items():
            earlier = placed.get(name)
            alone = len(shot.who) == 1 or (earlier is not None and len(earlier[1].who) == 1)
            if (
                earlier
                and earlier[0] != side
                and name not in told
                and alone
                and _seen_across(earlier, shot, name)
            ):
                message = (
                    f"{caps(name)} is on the {side} here and on the {earlier[0]} in"
                    f" {earlier[1].name}: the camera may have crossed the line"
                )
                yield Finding(
                    WARNING,
                    message,
                    "keep the side, or fill eyeline if you mean it",
                    shot.name,
                    code="line-crossed",
                )
                told |= {other for other in sides}
            elif (
                earlier
                and name not in told
                and len(shot.who) == 1
                and (turned := _faces(earlier[1], name)) in OPPOSITE
                and _faces(shot, name) == OPPOSITE[turned]
            ):
                message = (
                    f"{caps(name)} looks {_faces(shot, name)} here and {turned} in"
                    f" {earlier[1].name}: the camera has crossed the line"
                )
                yield Finding(
                    WARNING,
                    message,
                    "have them look the same way, or show the turn",
                    shot.name,
                    code="line-crossed",
                )
            placed[name] = (side, shot)


def _seen_across(before: tuple[str, Shot], shot: Shot, name: str) -> bool:
    """Is somebody who changed sides seen from across the line: nothing says where they look, or
    they looked into the frame before and share it with somebody now?
    """
    side, earlier = before
    looks = _faces(earlier, name), _faces(shot, name)
    return looks == ("", "") or (
        len(shot.who) > 1 and looks[0] == OPPOSITE[side] and looks[1] != looks[0]
    )


def _faces(shot: Shot, name: str) -> str:
    return shot.sides(Col.EYELINE).get(name, "")


def _crosses(shot: Shot, knowledge: FilmKnowledge) -> bool:
    """Does the camera go round in a shot, or somebody across?"""
    move = shot.cells.get(Col.MOVE, "").lower()
    deeds = set(re.findall(r"\w+", shot.cells.get(Col.ACTION, "").lower()))
    return any(word in move for word in _ROUND) or bool(deeds & knowledge.words["crosses"])


def _on_the_line(shot: Shot) -> bool:
    """Is it a shot that has no side: of no person, or straight along the line?"""
    return not shot.who


def _light_sides(scene: Sequence[Shot]) -> Iterator[Finding]:
    """Light from the wrong side for where the camera is: as its words have it, against where it
    comes from.
    """
    known: dict[
        bool, tuple[str, Shot]
    ] = {}  # the side of the frame, by whether the camera is turned round
    turned_shots: dict[str, bool] = {}
    for shot in scene:
        turns = shot.cells.get(Col.REVERSE_OF, "")
        behind = turned_shots.get(turns.lower().rpartition("/")[2]) if turns else None
        turned = not behind if behind is not None else False
        turned_shots[shot.number.lower()] = turned
        said = _stated_side(shot.given.get(Col.LIGHT, "")) or (
            _stated_side(shot.given.get(Col.LIGHT_FROM, ""))
            if not compass(shot.given.get(Col.LIGHT_FROM, ""))
            else ""
        )
        source, facing = shot.cells.get(Col.LIGHT_FROM, ""), shot.cells.get(Col.FACING, "")
        if compass(source):
            if side := frame_side(source, facing):
                if said and said != side:
                    message = (
                        f"the light comes from the {said} here; a light in the {compass(source)},"
                        f" with the camera facing {compass(facing)}, comes from {_where(side)}"
                    )
                    yield Finding(
                        WARNING,
                        message,
                        f"write {_where(side)}, or correct facing",
                        shot.name,
                        code="light-side",
                    )
                continue
            if turns and said:
                message = "Syntagma can't tell which side the light comes from"
                yield Finding(
                    REMARK,
                    message,
                    f"fill facing in {shot.name}: the compass direction of the camera",
                    shot.name,
                    code="cannot-tell",
                )
        if not said:
            continue
        before = known.get(turned)
        other = known.get(not turned)
        wanted = before[0] if before else OPPOSITE.get(other[0], "") if other else ""
        earlier = before or other
        if (
            earlier
            and wanted
            and said != wanted
            and said in OPPOSITE
            and wanted in OPPOSITE
            and _same_lamp(shot, earlier[1])
        ):
            seen = earlier[1]
            message = (
                f"the light comes from the {said} here; in {seen.name} it comes from the"
                f" {_stated_side(_light(seen))}"
                + (", and the camera looks the other way" if not before else "")
            )
            yield Finding(
                WARNING, message, f"have it come from the {wanted}", shot.name, code="light-side"
            )
        known.setdefault(turned, (said, shot))


def _light(shot: Shot) -> str:
    return shot.given.get(Col.LIGHT, "") + " " + shot.given.get(Col.LIGHT_FROM, "")


def _same_lamp(shot: Shot, before: Shot) -> bool:
    """Is it the same light in both: the same source, as far as it is named?"""
    here, there = (
        _things(_light(shot)) - {"left", "right", "from", "frame"},
        _things(_light(before)) - {"left", "right", "from", "frame"},
    )
    return not here or not there or bool(here & there)


def _stated_side(text: str) -> str:
    match = re.search(r"\b(left|right)\b", text.lower())
    return match[1] if match else ""


def _where(side: str) -> str:
    return {
        "left": "the left",
        "right": "the right",
        "behind": "behind them",
        "front": "the camera's side",
    }[side]


def _jumps(scene: Sequence[Shot], knowledge: FilmKnowledge) -> Iterator[Finding]:
    """Neighbours of the same people with hardly another size or angle."""
    for before, shot in pairwise(scene):
        if (
            shot.continuous
            or not shot.who
            or set(shot.who) != set(before.who)
            or shot.cells.get(Col.REVERSE_OF)
            or _smooth(shot)
        ):
            continue
        if (
            normal(shot.cells.get(Col.ANGLE, "")) != normal(before.cells.get(Col.ANGLE, ""))
            or shot.who[0] != before.who[0]
        ):
            continue
        size, next_size = (
            knowledge.size(before.cells.get(Col.SIZE, "")),
            knowledge.size(shot.cells.get(Col.SIZE, "")),
        )
        if size is None or next_size is None:
            if not (shot.cells.get(Col.SIZE) and before.cells.get(Col.SIZE)):
                blank = shot if not shot.cells.get(Col.SIZE) else before
                yield Finding(
                    REMARK,
                    f"Syntagma can't tell whether the cut from {before.name} to {shot.name} jumps",
                    f"fill size in {blank.name}",
                    blank.name,
                    code="cannot-tell",
                )
            continue
        if abs(size - next_size) < NEAR:
            message = (
                f"{before.name} and {shot.name} show the same thing at nearly the same size and"
                " angle: the cut jumps"
            )
            yield Finding(
                WARNING,
                message,
                "go two sizes closer or wider, or move the camera at least 30 degrees",
                shot.name,
                code="jump",
            )


def _smooth(shot: Shot) -> bool:
    """Does a transition say that the cut is not a plain one?"""
    return normal(shot.cells.get(Col.TRANSITION, "")) not in ("", "cut", "cut to", "straight cut")


def _behind_the_camera(scene: Sequence[Shot]) -> Iterator[Finding]:
    """A reverse that shows what stood behind the camera, and nothing says what that is."""
    for shot in scene:
        if shot.cells.get(Col.REVERSE_OF) and not shot.cells.get(Col.BACKGROUND):
            message = (
                "this reverse shot shows what was behind the camera of"
                f" {shot.cells[Col.REVERSE_OF]}, and no cell describes it"
            )
            yield Finding(
                REMARK, message, f"fill background in {shot.name}", shot.name, code="cannot-tell"
            )


def _not_in_the_picture(scene: Sequence[Shot]) -> Iterator[Finding]:
    """Speech on screen of somebody who is not in the picture."""
    for shot in scene:
        there = {who.lower() for who in shot.who}
        for speaker in dict.fromkeys(voices(shot)):
            if speaker.lower() not in there:
                message = f"{caps(speaker)} speaks on screen but is not in the shot"
                yield Finding(
                    WARNING,
                    message,
                    f"add them to who, or write O.S.: {speaker.upper()} (O.S.): …",
                    shot.name,
                    code="not-in-picture",
                )


def _no_wide_shot(scene: Sequence[Shot], knowledge: FilmKnowledge) -> Iterator[Finding]:
    """A scene that never shows its place."""
    sizes = [knowledge.size(shot.cells.get(Col.SIZE, "")) for shot in scene]
    if len(scene) > 2 and all(size is not None and size > knowledge.wide for size in sizes):
        yield Finding(
            REMARK,
            f"scene {scene[0].scene} has no wide shot, so nobody sees where it is",
            "open or close it with a wide shot",
            scene[0].name,
            code="no-wide-shot",
        )
