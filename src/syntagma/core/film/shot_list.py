"""A shot list: its columns, its rows read and checked, and a deed told backwards."""

import re
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from syntagma.core.diagnostics import Mistake, perhaps
from syntagma.core.film.columns import COLUMNS, NONE, REVERSED, SCENE_COLUMNS, Col, column_of
from syntagma.core.film.spoken import ON, SpokenLine, lines_of, voice_of
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.rates import FrameRate, Tempo, seconds_said

# ──── A shot turned round: the same place, light and people from the other side.


_MIRROR = {
    "left": "right",
    "right": "left",
    "low": "high",
    "high": "low",
    "below": "above",
    "above": "below",
}
_OPPOSITE = {"left": "right", "right": "left"}
_TURNED = {**_OPPOSITE, "behind": "front", "front": "behind"}
COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


def mirrored(words: str, pairs: Mapping[str, str] = _MIRROR) -> str:
    """Words with left and right (low and high) changed one for the other."""
    return re.sub(
        r"[A-Za-z]+",
        lambda m: _in_case(pairs[m[0].lower()], m[0]) if m[0].lower() in pairs else m[0],
        words,
    )


def _in_case(word: str, like: str) -> str:
    return (
        word.upper()
        if like.isupper() and len(like) > 1
        else word.capitalize()
        if like[0].isupper()
        else word
    )


def turned(cells: Mapping[str, str], who: Sequence[str]) -> dict[str, str]:
    """What a reverse of a shot has: the other in front, the angle mirrored. People keep their sides
    of the frame and where they look, since the camera stays on its side of the line between them:
    what is said of the foremost alone is the other way round for whoever is so now. A lamp that
    stood at the left is at the right; a compass side stays, and the camera looks the other way.
    """
    found = dict(cells)
    if len(who) > 1:
        found[Col.WHO] = "; ".join((*who[1:], who[0]))
    found[Col.ANGLE] = mirrored(cells.get(Col.ANGLE, ""))
    for column in (Col.EYELINE, Col.SCREEN_SIDE):
        cell = cells.get(column, "")
        alone = cell.strip().lower() in _OPPOSITE
        found[column] = (
            _OPPOSITE[cell.strip().lower()]
            if alone and (len(who) > 1 or column == Col.EYELINE)
            else cell
        )
    if facing := compass(cells.get(Col.FACING, "")):
        found[Col.FACING] = COMPASS[(COMPASS.index(facing) + 4) % 8]
    light = cells.get(Col.LIGHT_FROM, "")
    found[Col.LIGHT_FROM] = light if compass(light) else mirrored(light, _TURNED)
    found[Col.LIGHT] = mirrored(cells.get(Col.LIGHT, ""), _OPPOSITE)
    return found


def compass(words: str) -> str:
    """The compass side that words name: "window north-east" → "north-east"; "" if they name
    none.
    """
    said = re.sub(r"\b(north|south)[ -]?(east|west)\b", r"\1-\2", words.lower())
    found = [
        side for side in COMPASS if re.search(rf"(?<![\w-]){side}(?:ern|erly)?(?![\w-])", said)
    ]
    return max(found, key=len) if found else ""


def frame_side(light_from: str, facing: str) -> str:
    """Where in the frame the light comes from: left, right, behind (against the camera), front
    (from beside the camera); "" if that can't be determined.
    """
    source = compass(light_from)
    if source:
        towards = compass(facing)
        if not towards:
            return ""
        turn = (COMPASS.index(source) - COMPASS.index(towards)) % 8
        return ("behind", "right", "right", "right", "front", "left", "left", "left")[turn]
    words = re.findall(r"[a-z]+", light_from.lower())
    return next((side for side in ("left", "right", "behind", "front") if side in words), "")


# ──── A shot list: rows of a table made into shots, what a blank cell means filled in, every
# mistake reported by row and column.
#
# Scene and shot numbers are text and never changed. Within a scene, what belongs to the scene goes
# on from the shot before where a cell is
# blank; nothing goes on over the end of a scene. `-` means none, `pick` lets the program choose. A
# reverse takes what it leaves blank
# from the shot that it turns round.


_SIDES = regex(r"\b(?P<side>left|right|centre|center|middle|[lrc])\b", re.I)
_LOOKS = regex(r"\b(?P<side>left|right|[lr]|up|down)\b", re.I)
_TO_CAMERA = regex(r"\b(?:camera|cam|lens)\b", re.I)
_SIDE_WORDS = frozenset(
    """
        look looks looking is on at to the of frame screen camera cam off facing eyes out into in
        with
    """.split()
)
_NAMED = {
    "center": "centre",
    "middle": "centre",
    "lens": "camera",
    "cam": "camera",
    "l": "left",
    "r": "right",
    "c": "centre",
}
_OWNED = regex(r"\s*(?P<who>[^:;|]{1,60}):\s*(?P<what>[^|]+)")
LONGEST = 3600.0  # seconds of a shot


class Shot(NamedTuple):
    """One shot. `row` is the row of the table; `given` its cells by column, as they are; `cells`
    what it really has, blank where nothing is said; `further` the columns that are no column of a
    shot list; `lines` what is spoken.
    """

    row: int
    scene: str
    number: str
    given: Mapping[str, str]
    cells: Mapping[str, str]
    further: Mapping[str, str]
    lines: tuple[SpokenLine, ...] = ()
    who: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """The shot as it is called: 3/12A."""
        return f"{self.scene}/{self.number}"

    @property
    def seconds(self) -> float:
        """The least that it lasts; 0 if nothing is said."""
        return number_of(self.cells.get(Col.SECONDS, "")) or 0.0

    @property
    def takes(self) -> int:
        """How many results are wanted; 1 if nothing is said."""
        return int(number_of(self.cells.get(Col.TAKES, "")) or 1)

    @property
    def continuous(self) -> bool:
        """Does it go on from the shot before without a cut?"""
        return self.cells.get(Col.CONTINUOUS, "").lower() in YES

    def of_person(self, column: str, name: str) -> str:
        """What a cell says of one of several people: "PURSER: flask | PILOT: lamp". What names
        nobody is said of the foremost.
        """
        return owned(self.cells.get(column, ""), self.who).get(name.lower(), "")

    def sides(self, column: str) -> dict[str, str]:
        """Screen sides or eyelines by the name of a person, in small letters: left, right,
        camera …
        """
        found: dict[str, str] = {}
        for part in re.split(r"[,;|/]", self.cells.get(column, "")):
            match = (_SIDES if column == Col.SCREEN_SIDE else _LOOKS).search(part)
            if not match and column == Col.EYELINE:
                match = _TO_CAMERA.search(part)
            if match:
                side = match[0].lower()
                words = part[: match.start()].split()
                while words and words[-1].strip(":–-").lower() in ("", *_SIDE_WORDS):
                    words.pop()
                who = plain_name(" ".join(words).rstrip(":–- ")) or (
                    self.who[0] if self.who else ""
                )
                found.setdefault(who.lower(), _NAMED.get(side, side))
        return found


YES = ("yes", "y", "true", "1", "x", "cont", Col.CONTINUOUS)


def number_of(text: str) -> float | None:
    """A number of seconds or of takes: 4, 4.5, 4,5 s; None if it is none."""
    match = re.fullmatch(
        r"\s*(\d{1,5}(?:[.,]\d{1,3})?)\s*(?:s|sec|secs|seconds)?\.?\s*", text, re.I
    )
    return float(match[1].replace(",", ".")) if match else None


TITLES = (
    "dr|mr|mrs|ms|miss|mx|prof|professor|sir|lady|lord|captain|capt|sgt|sergeant|lt|lieutenant|"
    "inspector|officer|nurse|father|sister|brother|aunt|uncle|grandma|grandpa|madame|monsieur"
)
_TITLE = regex(rf"(?:{TITLES})\b\.?\s+", re.I)
_AGE = regex(r"\s*\((?:aged? )?\d{1,3}(?:\s*s|\s*[-–]\s*\d{1,3}|\s*years?)?\)", re.I)


def plain_name(text: str) -> str:
    """A name without the sign before it, and without an age behind it: @purser → purser, DR. IQBAL
    (45) → DR. IQBAL.
    """
    return _AGE.sub("", text).strip().removeprefix("@").strip()


def known_as(name: str, people: Mapping[str, str]) -> str:
    """The name under which somebody is known, by any form of it: with a title or without, the first
    or the last name alone where only one person has it; "" if nobody is. `people` are names by
    their small letters.
    """
    small = name.lower().strip()
    if small in people:
        return people[small]
    bare = _TITLE.sub("", small, count=1)
    alike = [
        own
        for low, own in people.items()
        if _TITLE.sub("", low, count=1) == bare
        or (" " not in bare and bare in _TITLE.sub("", low, count=1).split() and " " in low)
    ]
    return alike[0] if len(set(alike)) == 1 else ""


def name_pattern(name: str) -> re.Pattern[str]:
    """A name within a text: in capitals or behind @, with a title or not; as it is usually written
    where it stands like a name: not behind a determiner, and at the front of a sentence only before
    a verb, a comma or "and".
    """
    return _name_pattern(name.lower())


@lru_cache(maxsize=512)
def _name_pattern(name: str) -> re.Pattern[str]:
    title = rf"(?:(?:{TITLES})\b\.?\s+)?"
    if _TITLE.match(name):
        title = ""
    small = " ".join(part[:1].upper() + part[1:] for part in name.split())
    usual = (
        rf"(?<![.!?]\s)(?<!^)(?<!\b[Tt]he\s)(?<!\b[Aa]\s)(?<!\b[Aa]n\s){re.escape(small)}|"
        rf"(?:(?<=[.!?]\s)|^){re.escape(small)}(?=\s*,|\s+(?:and|is|was)\b|['’]s\b|\s+[a-z]+s\b)"
    )
    return re.compile(
        rf"(?<![\w@])(?:@{re.escape(name)}|(?i:{title})(?:{re.escape(name.upper())}|{usual}))(?!\w)"
        r"(?:\s*\(\d{1,3}s?\))?"
    )


def _named_alone(part: str) -> bool:
    """Is it a name, and no description: IRIS, Dr. Iqbal?"""
    words = part.split()
    return len(words) < 4 and all(word[:1].isupper() for word in words)


def cased(name: str) -> str:
    """A name that a list or a script has in capitals, as one writes it: ANNA → Anna."""
    return name.title() if name.isupper() and len(name) > 1 else name


def owned(cell: str, who: Sequence[str]) -> dict[str, str]:
    """What a cell says of each person, by name in small letters: "PURSER: flask | PILOT: lamp"."""
    known = {name.lower() for name in who}
    found: dict[str, str] = {}
    for part in re.split(r"\||;(?=\s*[^;:|]{1,60}:)", cell):
        match = _OWNED.fullmatch(part)
        name = plain_name(match["who"]).lower() if match else ""
        if match and (name in known or match["who"].strip().isupper()):
            found[name] = match["what"].strip(" ;")
        elif part.strip() and who:
            found.setdefault(who[0].lower(), part.strip(" ;"))
    return found


class ShotList(NamedTuple):
    """The shots of a film in their order, the headings of the table as they stood, and what is
    wrong, by row and column.
    """

    shots: tuple[Shot, ...]
    headings: tuple[str, ...]
    mistakes: tuple[Mistake, ...]

    def scenes(self) -> list[list[Shot]]:
        """The shots by scene: neighbours of the same scene together."""
        found: list[list[Shot]] = []
        for shot in self.shots:
            if found and found[-1][0].scene == shot.scene:
                found[-1].append(shot)
            else:
                found.append([shot])
        return found

    def shot(self, name: str) -> Shot | None:
        """A shot by its name, 3/12A, or by its number where only one scene has it."""
        exact = [shot for shot in self.shots if shot.name.lower() == name.lower()]
        return next(iter(exact), None) or next(iter(self._by_number(name)), None)

    def _by_number(self, name: str) -> list[Shot]:
        found = [shot for shot in self.shots if shot.number.lower() == name.lower()]
        return found if len(found) == 1 else []


def read_shots(
    headings: Sequence[str],
    rows: Iterable[tuple[int, Mapping[str, str]]],
    source: str,
    people: Sequence[str] = (),
    slots: Sequence[str] = (),
    rate: FrameRate | None = None,
    tempo: Tempo | None = None,
) -> ShotList:
    """Make shots of the rows of a table (row number, cells by heading). `people` are those who are
    known by name, `slots` the slots of the formula, each of which may be a column; timecodes count
    by the `rate`, bars by the `tempo`. What is wrong with a cell is a mistake; the shot is there
    all the same.
    """
    reader = _ShotTableReader(headings, source, people, slots, rate or FrameRate())
    return reader.on_beats(reader.read(rows), tempo or Tempo())


class _ShotTableReader:
    """A table of shots while it is read."""

    def __init__(
        self,
        headings: Sequence[str],
        source: str,
        people: Sequence[str],
        slots: Sequence[str],
        rate: FrameRate,
    ):
        self.headings, self.source, self.rate = tuple(headings), source, rate
        self.people = {name.lower(): name for name in people}
        self.slots = {slot.lower(): slot for slot in slots}
        self.met: dict[str, str] = {}  # people of the list whom nobody described
        self.mistakes: list[Mistake] = []
        self.columns: dict[str, str] = {}
        for heading in headings:
            column = column_of(heading)
            if column and column not in self.columns.values():
                self.columns[heading] = column
            elif column:
                first = next(h for h, c in self.columns.items() if c == column)
                self.wrong(
                    1,
                    heading,
                    f"“{heading}” and “{first}” are the same column",
                    "leave one of them out",
                )
        if headings and Col.SHOT not in self.columns.values():
            there = ", ".join(f"“{heading}”" for heading in self.headings[:12] if heading)
            self.wrong(
                1,
                "",
                "no column “shot” numbers the shots",
                f"call the one that does “shot”; there are {there}",
            )

    def wrong(self, row: int, column: str, message: str, remedy: str) -> None:
        where = f"column “{column}”: " if column and f"“{column}”" not in message else ""
        self.mistakes.append(
            Mistake(
                where + message,
                remedy,
                self.source,
                row,
                list(self.headings).index(column) + 1 if column in self.headings else 1,
            )
        )

    def read(self, rows: Iterable[tuple[int, Mapping[str, str]]]) -> ShotList:
        shots: list[Shot] = []
        seen: dict[str, int] = {}
        before: Shot | None = None
        for row, cells in rows:
            given = {
                self.columns[heading]: cell.strip()
                for heading, cell in cells.items()
                if heading in self.columns
            }
            further = {
                heading: cell for heading, cell in cells.items() if heading not in self.columns
            }
            number = given.get(Col.SHOT, "")
            if not number:
                if any(cell for column, cell in given.items() if column != Col.SCENE):
                    self.wrong(
                        row,
                        self.heading(Col.SHOT),
                        "the shot has no number",
                        "number it: 12, or 12A between 12 and 13",
                    )
                continue
            scene = given.get(Col.SCENE, "") or (before.scene if before else "1")
            shot = self.shot(row, scene, number, given, further, before, shots)
            if shot.name.lower() in seen:
                self.wrong(
                    row,
                    self.heading(Col.SHOT),
                    f"the shot {shot.name} is in row {seen[shot.name.lower()]} too",
                    f"call it {number}A",
                )
                continue
            seen[shot.name.lower()] = row
            shots.append(shot)
            before = shot
        return ShotList(
            tuple(shots),
            self.headings,
            tuple(sorted(self.mistakes, key=lambda m: (m.line, m.column))),
        )

    def on_beats(self, shots: ShotList, tempo: Tempo) -> ShotList:
        """The shots that begin on a bar or a time: the cut falls there, so the shot before lasts as
        long as it takes until then.
        """
        found = list(shots.shots)
        clock, anchored = 0.0, 0  # where the next shot begins; the last that was on a beat
        for i, shot in enumerate(found):
            cell = shot.cells.get(Col.ON, "")
            at = self._moment(shot, cell, tempo) if cell else None
            if at is not None:
                free = [j for j in range(anchored, i) if not found[j].seconds]
                rest = at - clock
                if i and (rest < -0.02 or (free and rest <= 0) or (not free and rest > 0.02)):
                    self.wrong(
                        shot.row,
                        self.heading(Col.ON),
                        f"{shot.name} is on {cell} ({at:.2f} s), but the shots before it end at"
                        f" {clock:.2f} s",
                        "change their seconds, or leave one of them blank",
                    )
                for j in free if rest > 0 else ():
                    cells = {**found[j].cells, Col.SECONDS: f"{rest / len(free):.6g}"}
                    found[j] = found[j]._replace(cells=cells)
                clock, anchored = at, i
            clock += found[i].seconds
        mistakes = tuple(sorted(self.mistakes, key=lambda m: (m.line, m.column)))
        return shots._replace(shots=tuple(found), mistakes=mistakes)

    def _moment(self, shot: Shot, cell: str, tempo: Tempo) -> float | None:
        at = tempo.at(cell)
        if at is None and ":" in cell:
            at = seconds_said(cell, self.rate)
        if at is None:
            self.wrong(
                shot.row,
                self.heading(Col.ON),
                f"“{cell}” is no bar or time"
                + ("" if tempo.beats else ", since the film has no tempo"),
                "write bar 5, 5.3 or 0:12; tempo = 96 in the film's settings",
            )
        return at

    def heading(self, column: str) -> str:
        """A column as this table calls it."""
        return next((heading for heading, name in self.columns.items() if name == column), column)

    def shot(
        self,
        row: int,
        scene: str,
        number: str,
        given: Mapping[str, str],
        further: Mapping[str, str],
        before: Shot | None,
        shots: Sequence[Shot],
    ) -> Shot:
        cells = {
            column: "" if cell == NONE else COLUMNS[column].long(cell)
            for column, cell in given.items()
        }
        turns = self.reversed_of(row, scene, given, shots)
        if turns:
            mirrored = turned(turns.cells, turns.who)
            cells |= {
                column: mirrored[column]
                for column in REVERSED
                if not given.get(column) and mirrored.get(column)
            }
        if before and before.scene == scene:
            for column in SCENE_COLUMNS:
                if not given.get(column) and before.cells.get(column):
                    cells[column] = before.cells[column]
        self.time(row, cells)
        if not given.get(Col.TRANSITION) and cells.get(Col.TRANSITION):
            del cells[Col.TRANSITION]
        who = self.who_of(cells.get(Col.WHO, ""))
        if not given.get(Col.WHO) and not who:
            same = before if before and before.scene == scene else None
            who = self.acting(cells.get(Col.ACTION, ""), same)
        own = {
            key: cell
            for key, cell in further.items()
            if key.strip().lower() in self.slots and cell.strip()
        }
        cells |= {
            f"slot:{self.slots[key.strip().lower()]}": cell.strip() for key, cell in own.items()
        }
        shot = Shot(
            row,
            scene,
            number,
            given,
            {Col.SCENE: scene, Col.SHOT: number, **cells},
            further,
            (),
            who,
        )
        self.look_at(shot)
        return shot._replace(lines=self.lines(shot))

    def time(self, row: int, cells: dict[str, str]) -> None:
        """The seconds of a shot as a number, out of a timecode or of where it begins and ends."""
        cell = cells.get(Col.SECONDS, "")
        said = seconds_said(cell, self.rate) if cell else None
        if said is not None and number_of(cell) is None:
            cells[Col.SECONDS] = f"{said:.6g}"
        first, last = cells.get(Col.IN, ""), cells.get(Col.OUT, "")
        if cell or not (first and last):
            return
        begin, end = seconds_said(first, self.rate), seconds_said(last, self.rate)
        for column, text, at in ((Col.IN, first, begin), (Col.OUT, last, end)):
            if at is None:
                self.wrong(
                    row,
                    self.heading(column),
                    f"“{text}” is no timecode",
                    "write 00:00:05:12, or seconds",
                )
        if begin is not None and end is not None:
            if end <= begin:
                self.wrong(
                    row,
                    self.heading(Col.OUT),
                    "the shot ends before it begins",
                    f"write a time after {first}",
                )
            else:
                cells[Col.SECONDS] = f"{end - begin:.6g}"

    def who_of(self, cell: str) -> tuple[str, ...]:
        """The people of a cell, between ; — between commas or "and" where all of them are known."""
        parts = [part for part in (plain_name(part) for part in re.split(r"[;|]", cell)) if part]
        if len(parts) == 1:
            finer = [
                plain_name(part)
                for part in re.split(r",|&|\+|/|\band\b|\bAND\b", cell)
                if part.strip()
            ]
            if len(finer) > 1 and all(
                part.lower() in self.people or part.isupper() for part in finer
            ):
                parts = finer
        found = []
        for part in parts:
            known = known_as(part, self.people)
            if not known and _named_alone(part):
                known = known_as(part, self.met)
                self.met.setdefault((known or cased(part)).lower(), known or cased(part))
            found.append(known or cased(part))
        return tuple(dict.fromkeys(found))

    def acting(self, action: str, before: Shot | None) -> tuple[str, ...]:
        """Who is in a shot whose cell says nothing: the known people whom the action names; whoever
        was alone in the shot before, if it begins with he or she.
        """
        found = {
            match.start(): name
            for low, name in (self.people | self.met).items()
            if (match := name_pattern(low).search(action))
        }
        if not found and before and len(before.who) == 1 and re.match(r"(?:He|She)\b", action):
            return before.who
        return tuple(found[at] for at in sorted(found))

    def reversed_of(
        self, row: int, scene: str, given: Mapping[str, str], shots: Sequence[Shot]
    ) -> Shot | None:
        """The shot that this one is the reverse of."""
        name = given.get(Col.REVERSE_OF, "")
        if not name or name == NONE:
            return None
        found = next(
            (
                shot
                for shot in reversed(shots)
                if name.lower() in (shot.name.lower(),)
                or (shot.scene == scene and shot.number.lower() == name.lower())
            ),
            None,
        )
        if not found:
            known = [shot.number for shot in shots if shot.scene == scene]
            self.wrong(
                row,
                self.heading(Col.REVERSE_OF),
                f"no shot {name} comes before it in the scene",
                perhaps(name, known, f"there are {', '.join(known) or 'none'}"),
            )
        return found

    def look_at(self, shot: Shot) -> None:
        """What is wrong with the cells of a shot."""
        for column, most, like in ((Col.SECONDS, LONGEST, "4 or 4.5"), (Col.TAKES, 99.0, "3")):
            cell = shot.cells.get(column, "")
            number = number_of(cell)
            if cell and (
                number is None
                or not 0 < number <= most
                or (column == Col.TAKES and number != int(number))
            ):
                self.wrong(
                    shot.row,
                    self.heading(column),
                    f"“{cell}” is not a number of {column}",
                    f"write {like}",
                )
        for column, values in (
            (name, spec.values) for name, spec in COLUMNS.items() if spec.values
        ):
            cell = shot.cells.get(column, "")
            known = (
                voice_of(cell)
                if column == Col.VOICE
                else cell.lower() in (*YES, "no", "n", "false", "0")
            )
            if cell and not known:
                self.wrong(
                    shot.row,
                    self.heading(column),
                    f"it can't be “{cell}”",
                    f"write {', '.join(values[:-1])} or {values[-1]}",
                )
        for column in (Col.SCREEN_SIDE, Col.EYELINE):
            cell = shot.cells.get(column, "")
            sides = shot.sides(column)
            if cell and not sides:
                like = (
                    "left, right; or PURSER left, PILOT right"
                    if column == Col.SCREEN_SIDE
                    else "left, right or to camera"
                )
                self.wrong(
                    shot.row,
                    self.heading(column),
                    f"“{cell}” is not a side of the frame",
                    f"write {like}",
                )
            for name in sides:
                if name and name not in [who.lower() for who in shot.who]:
                    remedy = perhaps(name, shot.who, f"in it are {', '.join(shot.who) or 'none'}")
                    self.wrong(
                        shot.row, self.heading(column), f"“{name}” is not in the shot", remedy
                    )

    def lines(self, shot: Shot) -> tuple[SpokenLine, ...]:
        """What is spoken in a shot, each speaker by the name under which they are known."""
        cells = shot.cells
        only = shot.who[0] if len(shot.who) == 1 else ""
        found = lines_of(
            cells.get(Col.LINE, ""),
            plain_name(cells.get(Col.SPEAKER, "")) or only,
            cells.get(Col.MANNER, ""),
            cells.get(Col.VOICE, ""),
            (*shot.who, *self.people.values()),
        )
        for line in found:
            if not line.speaker:
                among = f"of {', '.join(shot.who)}" if shot.who else "of whom"
                self.wrong(
                    shot.row,
                    self.heading(Col.LINE),
                    f"nobody is named as the speaker of “{line.text[:40]}”",
                    f"name one {among} in the column speaker, or write PURSER: before it",
                )
        names = {**{who.lower(): who for who in shot.who}, **self.met, **self.people}
        for line in found:  # FISHERMAN of whom the list says "an old fisherman with a pipe"
            meant = (
                [
                    who
                    for who in shot.who
                    if re.search(rf"\b{re.escape(line.speaker.lower())}\b", who.lower())
                ]
                if line.speaker
                else []
            )
            if line.speaker.lower() not in names and len(meant) == 1:
                names[line.speaker.lower()] = meant[0]
        return tuple(
            line._replace(
                speaker=known_as(plain_name(line.speaker), names) or cased(plain_name(line.speaker))
            )
            for line in found
        )


def voices(shot: Shot) -> list[str]:
    """The speakers of a shot who are to be seen in it."""
    return [line.speaker for line in shot.lines if line.voice == ON and line.speaker]
