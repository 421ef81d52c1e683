"""A script and a shot list: each made from the other. Headings give setting and hour, action what
happens, characters who speaks; a shot is a forced action with a note: `!12A CLOSE ON THE TIDE BOARD
[[shot 12A; size: close-up; move: slow push-in]]`, and the note is what counts. What no element
holds is in the note, so a list comes back as it was.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.film.columns import COLUMNS, NONE, Col, column_of
from syntagma.core.film.shot_list import Shot, ShotList, cased
from syntagma.core.film.spoken import ON, OVER, SpokenLine, cell_of, voice_of, written_name
from syntagma.core.notation.late_regex import regex

HEADING, ACTION, CHARACTER, PARENTHETICAL, DIALOGUE, LYRIC = (
    "heading",
    "action",
    "character",
    "parenthetical",
    "dialogue",
    "lyric",
)
TRANSITION, CENTRED, NOTE, BONEYARD, SECTION, SYNOPSIS, PAGE = (
    "transition",
    "centred",
    "note",
    "boneyard",
    "section",
    "synopsis",
    "page",
)
STRUCTURE, WITHIN, CONTINUED = "structure", "structure in", "cont'd"
HEADING_WORDS = "scene heading"
NOWHERE = "SOMEWHERE"  # a heading has to say something
KEPT = (
    SECTION,
    SYNOPSIS,
    BONEYARD,
    CENTRED,
    STRUCTURE,
    WITHIN,
    CONTINUED,
    HEADING_WORDS,
    *(
        f"{name} out"
        for name in (SECTION, SYNOPSIS, BONEYARD, CENTRED, STRUCTURE, TRANSITION, NOTE)
    ),
)  # further columns that a script brings
_PLACE = regex(r"(?P<lead>(?:INT|EXT|EST|INT\./EXT|INT/EXT|I/E)\.?)\s+", re.I)
_SHOT = regex(r"(?P<number>\d+[A-Za-z]{0,3}|[A-Z]{1,2}\d+)\b[.:]?\s*(?P<words>.*)", re.S)
_GOES_ON = regex(r"(?:continuous|moments? later|later|same(?: time)?)", re.I)
_HOURS = regex(
    r"(?:early |late"
    r" )?(?:dawn|sunrise|morning|day|noon|midday|afternoon|sunset|dusk|evening|night|midnight|before"  # noqa: E501
    r" dawn|magic hour)(?: .*)?|\d{1,2}[:.]\d\d.*",
    re.I,
)
_BEGINS = regex(r"(?P<what>MONTAGE|SERIES OF SHOTS|FLASH-?BACK|DREAM|INTERCUT)\b.*")
_ENDS = regex(
    r"(?:END (?:OF )?(?:THE )?(?P<what>MONTAGE|SERIES(?: OF SHOTS)?|FLASH-?BACK|DREAM|INTERCUT)|"
    r"BACK TO (?:PRESENT|SCENE|REALITY)(?: DAY)?)\b.*"
)
_OTHER = regex(
    r"(?:FADE (?:IN|OUT|UP|TO (?:BLACK|WHITE))(?: FROM BLACK| ON)?|CUT TO BLACK|(?:HOLD ON )?BLACK|"
    r"BLACK SCREEN|(?:END|OPENING|MAIN|CLOSING) (?:CREDITS|TITLES?)|THE END|END OF (?:ACT|FILM).*|"
    r"ACT (?:ONE|TWO|THREE|\d)|TITLES?|CONTINUED|\(CONTINUED\)|\(MORE\))[.:]*"
)
_PHONE = regex(
    r"(?:on|over|through) (?:the )?(?:tele)?phone|filtered|(?:on|over) (?:the )?radio", re.I
)
_SIZES = {
    "extreme close": "extreme close-up",
    "close on": "close-up",
    "close-up": "close-up",
    "close": "close-up",
    "medium": "medium shot",
    "wide": "wide shot",
    "insert": "insert shot",
    "pov": "point-of-view shot",
    "establishing": "establishing shot",
    "two-shot": "two-shot",
    "angle on": "medium shot",
}
_SPOKEN = (Col.SPEAKER, Col.LINE, Col.MANNER, Col.VOICE)


class Element(NamedTuple):
    """One element of a script: its kind, its text, the line that it begins on, and what else it
    says (a scene's number; how somebody speaks, with ^ at its end for dual dialogue; ! of a forced
    action; "beside" of a note that comes after the element before).
    """

    kind: str
    text: str
    line: int = 0
    extra: str = ""


class Script(NamedTuple):
    """A script: its title page, and its elements in order."""

    title: Mapping[str, str]
    elements: tuple[Element, ...]

    @property
    def lost(self) -> list[str]:
        """What a shot list can't hold, in words."""
        keys = [key for key in self.title if key.lower() != "title"]
        pages = sum(element.kind == PAGE for element in self.elements)
        return [
            *([f"the title page's {', '.join(keys)}"] if keys else []),
            *([f"{pages} page break{'s' if pages > 1 else ''}"] if pages else []),
        ]


def shot_rows(
    script: Script, people: Sequence[str]
) -> tuple[list[str], list[tuple[int, dict[str, str]]]]:
    """(Headings, rows) of the shot list of a script. Where nothing says what is a shot, each
    paragraph of action begins one.
    """
    return _Lister(script, people).rows()


class _Speaking(NamedTuple):
    """Who speaks: the name, how, seen or not, at once with the line before; `fresh` where the next
    words begin a line of their own.
    """

    name: str = ""
    manner: str = ""
    voice: str = ON
    dual: bool = False
    fresh: bool = True


class _Passage:
    """Where in a script one is: how many scenes there were, where this one began, whether it is
    within a montage or a flashback, the hour of the last scene that was none, which lines of the
    shot go on.
    """

    def __init__(self) -> None:
        self.scenes = self.scene_line = 0
        self.within = self.hour = ""
        self.continued: list[int] = []


class _Lister:
    """A script while it becomes rows."""

    def __init__(self, script: Script, people: Sequence[str]):
        self.script = script
        speakers = [_name(e.text) for e in script.elements if e.kind == CHARACTER]
        self.names = {name.lower(): name for name in (*map(cased, speakers), *people)}
        self.marked = any(_shot_note(e.text) for e in script.elements if e.kind == NOTE)
        self.found: list[tuple[int, dict[str, str]]] = []
        self.scene: dict[str, str] = {}
        self.row: dict[str, str] | None = None
        self.lines: list[SpokenLine] = []
        self.speaking = _Speaking()
        self.before: dict[str, str] = {}  # what comes before the next shot
        self.at = _Passage()
        self.told = False

    def rows(self) -> tuple[list[str], list[tuple[int, dict[str, str]]]]:
        for element in self.script.elements:
            getattr(self, f"_{element.kind}")(element)
        self._end_scene()
        if self.found:
            self.found[-1][1].update({f"{key} out": cell for key, cell in self.before.items()})
        used = dict.fromkeys(key for _, row in self.found for key in row)
        headings = [name for name in COLUMNS if name in used] + [
            name for name in used if name not in COLUMNS
        ]
        return headings, [
            (line, {heading: row.get(heading, "") for heading in headings})
            for line, row in self.found
        ]

    def _end_scene(self) -> None:
        """A scene in which nothing happens is a shot all the same."""
        if self.scene and not self.told:
            self._open(self.at.scene_line)
        self._close()

    def _heading(self, element: Element) -> None:
        self._end_scene()
        self.at.scene_line = element.line
        self.at.scenes += 1
        lead = _PLACE.match(element.text)
        text = _PLACE.sub("", element.text)
        flash = re.search(r"flash-?back|dream", text, re.I)
        text = re.sub(
            r"(?:(?:[-–—] {1,3})?\(|[-–—] {1,3})?\b(?:FLASH-?BACK|DREAM)\b\)?", "", text, flags=re.I
        )
        if not self.at.within.startswith(("flash", "dream")):
            self.at.hour = self.scene.get(Col.HOUR, self.at.hour) or self.at.hour
        if flash or self.at.within == "flash heading":
            self.at.within = "flash heading" if flash else ""
        parts = [part.strip() for part in re.split(r"(?<!\s)\s+[-–—]\s+", text) if part.strip()]
        hour = ""
        if len(parts) > 1 and (_GOES_ON.fullmatch(parts[-1]) or _HOURS.fullmatch(parts[-1])):
            said = parts.pop()
            hour = self.at.hour if _GOES_ON.fullmatch(said) else said.lower()
        place = ", ".join(
            part.lower() if part == part.upper() else part for part in parts if part != NOWHERE
        )
        self.scene = {
            Col.SCENE: element.extra or str(self.at.scenes),
            Col.INSIDE: COLUMNS[Col.INSIDE].long(lead["lead"]).upper() if lead else "",
            Col.SETTING: place,
            Col.HOUR: hour,
        }
        plain = " - ".join(part.upper() for part in (place, hour) if part) or NOWHERE
        if element.text.upper() != f"{self.scene[Col.INSIDE]} {plain}".strip():
            self.scene[HEADING_WORDS] = element.text
        self.told = False

    def _open(self, line: int, number: str = "") -> dict[str, str]:
        """Begin a shot."""
        self._close()
        inside = sum(1 for _, row in self.found if row[Col.SCENE] == self.scene.get(Col.SCENE, "1"))
        self.row = {Col.SCENE: self.scene.get(Col.SCENE, "1"), Col.SHOT: number or str(inside + 1)}
        if not self.told:
            self.row |= {key: cell for key, cell in self.scene.items() if cell and key != Col.SCENE}
            self.told = True
        self.row |= self.before
        if self.at.within in ("montage", "series"):  # its shots are anywhere, at any hour
            self.row |= {Col.SETTING: NONE, Col.HOUR: NONE}
        if self.at.within.startswith(("flash", "dream")):
            self.row[Col.NOTE] = "flashback" if self.at.within.startswith("flash") else "dream"
        self.before = {}
        self.found.append((line, self.row))
        return self.row

    def _close(self) -> None:
        """End a shot: its lines into their columns, who is in it if nothing says it."""
        row = self.row
        if row is None:
            return
        if len(self.lines) == 1 and not self.lines[0].dual:
            line = self.lines[0]
            row |= {
                key: cell
                for key, cell in zip(
                    _SPOKEN,
                    (line.speaker, line.text, line.manner, line.voice if line.voice != ON else ""),
                    strict=True,
                )
                if cell
            }
        elif self.lines:
            row[Col.LINE] = cell_of(self.lines)
        if Col.WHO not in row:
            seen = [
                name
                for low, name in self.names.items()
                if re.search(rf"(?<!\w){re.escape(name.upper())}(?!\w)", row.get(Col.ACTION, ""))
            ]
            seen.sort(key=lambda name: row.get(Col.ACTION, "").find(name.upper()))
            who = list(
                dict.fromkeys((*seen, *(line.speaker for line in self.lines if line.voice == ON)))
            )
            if who and not row.pop("who none", ""):
                row[Col.WHO] = "; ".join(who)
        row.pop("who none", "")
        if self.at.continued:
            row[CONTINUED] = ",".join(map(str, self.at.continued))
        self.row, self.lines, self.at.continued = None, [], []

    def _action(self, element: Element) -> None:
        text = element.text.strip()
        shot = _SHOT.fullmatch(text) if element.extra == "!" else None
        if shot:
            row = self._open(element.line, shot["number"])
            words = shot["words"].strip()
            size = next(
                (size for lead, size in _SIZES.items() if words.lower().startswith(lead)), ""
            )
            row |= {key: cell for key, cell in ((Col.SIZE, size), ("heading words", words)) if cell}
            return
        if text == text.upper() and self._structure(text):
            return
        row = self.row or {}
        if self.row is None or (not self.marked and row.get(Col.ACTION)):
            row = self._open(element.line)
        before = row.get(Col.ACTION, "")
        row[Col.ACTION] = f"{before}\n{text}" if before else text

    def _structure(self, text: str) -> bool:
        """A line that says how the script is built, and is no shot: FADE OUT, MONTAGE, INTERCUT."""
        begins, ends = _BEGINS.fullmatch(text), _ENDS.fullmatch(text)
        if not (begins or ends or _OTHER.fullmatch(text)):
            return False
        self._close()
        if begins and begins["what"] != "INTERCUT":
            self.at.within = begins["what"].lower().split()[0]
            self.at.hour = self.scene.get(Col.HOUR, "") or self.at.hour
        elif ends:
            self.at.within = ""
        opens = bool(self.scene) and not self.told
        before = self.before.get(WITHIN if opens else STRUCTURE, "")
        self.before[WITHIN if opens else STRUCTURE] = f"{before}\n{text}" if before else text
        return True

    def _note(self, element: Element) -> None:
        cells = _shot_note(element.text)
        if cells is None:
            target = self.row if self.row is not None else self.before
            target[Col.NOTE] = " ".join(
                filter(None, (target.get(Col.NOTE, ""), element.text.strip()))
            )
            return
        row = self._open(element.line, cells.get(Col.SHOT, "")) if self.row is None else self.row
        for stale in (Col.SIZE, "heading words"):
            row.pop(stale, None)
        row |= cells
        if Col.WHO not in cells:
            row["who none"] = "yes"

    def _character(self, element: Element) -> None:
        if self.row is None:
            self._open(element.line)
        how = element.extra.rstrip("^")
        name = _name(element.text)
        said = [voice_of(part) for part in re.findall(r"\(([^()]*)\)", how)]
        manner = ", ".join(
            part
            for part in re.findall(r"\(([^()]*)\)", how)
            if not voice_of(part) and not re.match(r"cont", part, re.I)
        )
        phone = next((part for part in re.findall(r"\(([^()]*)\)", how) if _PHONE.search(part)), "")
        if re.search(r"\(cont['’]?d?\.?\)", how, re.I):
            self.at.continued.append(len(self.lines) + 1)
        if phone:  # the voice is in another place than the picture
            said.append(OVER)
        self.speaking = _Speaking(
            self.names.get(name.lower(), name),
            manner,
            next((voice for voice in said if voice), ON),
            element.extra.endswith("^"),
        )

    def _parenthetical(self, element: Element) -> None:
        self.speaking = self.speaking._replace(manner=element.text, fresh=True)

    def _dialogue(self, element: Element) -> None:
        speaking = self.speaking
        if speaking.fresh or not self.lines:
            self.lines.append(
                SpokenLine(
                    speaking.name, element.text, speaking.manner, speaking.voice, speaking.dual
                )
            )
            self.speaking = speaking._replace(fresh=False)
        else:
            self.lines[-1] = self.lines[-1]._replace(text=f"{self.lines[-1].text} {element.text}")

    def _lyric(self, element: Element) -> None:
        if element.extra != "said":
            self._action(element._replace(text=f"~{element.text}"))
            return
        self.speaking = self.speaking._replace(manner=self.speaking.manner or "singing")
        self._dialogue(element)

    def _transition(self, element: Element) -> None:
        self._close()
        said = element.text.strip().rstrip(":.").strip()
        self.before[Col.TRANSITION] = said.lower() if said == said.upper() else said

    def _centred(self, element: Element) -> None:
        self.before["centred"] = element.text

    def _section(self, element: Element) -> None:
        self._close()
        self.before[SECTION] = f"{'#' * int(element.extra or 1)} {element.text}"

    def _synopsis(self, element: Element) -> None:
        self._close()
        self.before[SYNOPSIS] = element.text

    def _boneyard(self, element: Element) -> None:
        self.before[BONEYARD] = element.text

    def _page(self, element: Element) -> None:
        """A page break is the printer's."""


def _name(text: str) -> str:
    return re.sub(r"\s*\([^()]*\)", "", text).strip()


def _shot_note(text: str) -> dict[str, str] | None:
    """The cells of a note that says what a shot is; None for any other note."""
    match = re.match(r"\s*shot\s+(\S+?)\s*(?:;|$)", text)
    if not match:
        return None
    cells = {Col.SHOT: _plain(match[1])}
    for part in re.split(r"(?<!\\);", text[match.end() :]):
        name, colon, cell = part.partition(":")
        if colon and name.strip():
            cells[column_of(name) or name.strip()] = _plain(cell.strip())
    return cells


def _plain(text: str) -> str:
    return re.sub(r"\\(.)", lambda m: {"n": "\n", "(": "[[", ")": "]]"}.get(m[1], m[1]), text)


def _escaped(text: str) -> str:
    return (
        text.replace("\\", "\\\\")
        .replace(";", "\\;")
        .replace("\n", "\\n")
        .replace("[[", "\\(")
        .replace("]]", "\\)")
    )


def script_of(
    shots: ShotList, title: str, inside: Callable[[str], str] = lambda place: ""
) -> Script:
    """The script of a shot list. `inside` says INT. or EXT. of a place, or nothing."""
    elements: list[Element] = []
    for scene in shots.scenes():
        first = scene[0]
        elements += _before(first.further, first.given.get(TRANSITION, ""))
        place, hour = first.cells.get(Col.SETTING, ""), first.cells.get(Col.HOUR, "")
        lead = first.cells.get(Col.INSIDE, "") or inside(place)
        words = " - ".join(part.upper() for part in (place, hour) if part) or NOWHERE
        heading = f"{lead} {words}".strip()
        kept = first.further.get(HEADING_WORDS, "")
        if place and place.lower() in kept.lower():  # as it stood, if it is still there
            heading = kept
        elements.append(Element(HEADING, heading, 0, first.scene))
        elements += [
            Element(ACTION, one) for one in first.further.get(WITHIN, "").split("\n") if one
        ]
        for number, shot in enumerate(scene):
            elements += _before(shot.further, shot.given.get(TRANSITION, "")) if number else []
            elements += _shot(shot, first if not number else None)
    out: list[Element] = []
    for shot in shots.shots[-1:]:
        behind = {
            name.removesuffix(" out"): cell
            for name, cell in shot.further.items()
            if name.endswith(" out") and cell
        }
        out = _before(behind, behind.get(TRANSITION, ""))
        out += [Element(NOTE, behind[NOTE])] if behind.get(NOTE) else []
    return Script({"Title": title} if title else {}, (*elements, *out))


def _before(further: Mapping[str, str], transition: str) -> list[Element]:
    """What comes before a shot: a section, a synopsis, what lies in the boneyard, how it comes
    after the shot before.
    """
    found = []
    if section := further.get(SECTION):
        found.append(
            Element(
                SECTION,
                section.lstrip("#").strip(),
                0,
                str(len(section) - len(section.lstrip("#"))),
            )
        )
    found += [
        Element(kind, further[kind]) for kind in (SYNOPSIS, BONEYARD, CENTRED) if further.get(kind)
    ]
    found += [Element(ACTION, line) for line in further.get(STRUCTURE, "").split("\n") if line]
    if transition:
        found.append(Element(TRANSITION, f"{transition.upper()}:"))
    return found


def _shot(shot: Shot, opens: Shot | None) -> list[Element]:
    """A shot: its line with its note, what happens, what is said."""
    cells = {
        column: cell
        for column, cell in (*shot.given.items(), *shot.further.items())
        if cell and column not in (Col.SCENE, Col.SHOT, *KEPT, *_SPOKEN, "heading words")
    }
    found: list[Element] = []
    action = cells.get(Col.ACTION, "")
    plain = (
        action
        and "\n\n" not in action
        and action == action.strip()
        and not _SHOT.match(action)
        and not re.match(r"[!@.>~#=]", action)
        and "[[" not in action
        and "/*" not in action
        and not any(not line.strip() for line in action.split("\n"))
    )
    plain = plain and action != action.upper()
    if plain:
        cells.pop(Col.ACTION)
    if opens:
        cells.pop(Col.INSIDE, None)
        for column in (Col.SETTING, Col.HOUR):
            cell = cells.get(column, "")
            if (
                cell
                and cell == cell.lower()
                and not re.search(r"\s[-–—]\s|#", cell)
                and (column == Col.SETTING or _HOURS.fullmatch(cell))
                and shot.cells.get(Col.SETTING)
            ):
                cells.pop(column)
    transition = cells.get(Col.TRANSITION, "")
    if transition and transition == transition.lower() and transition == transition.strip(" :.<>"):
        cells.pop(Col.TRANSITION)
    name = _escaped(shot.number)
    note = "; ".join(
        (f"shot {name}", *(f"{column}: {_escaped(cell)}" for column, cell in cells.items()))
    )
    words = shot.further.get("heading words") or (shot.cells.get(Col.SIZE) or "shot").upper()
    found.append(Element(ACTION, f"{shot.number} {words}", 0, "!"))
    found.append(Element(NOTE, note, 0, "beside"))
    if plain:
        found.append(Element(ACTION, action))
    continued = shot.further.get(CONTINUED, "").split(",")
    for number, line in enumerate(shot.lines, 1):
        how = f"({line.voice})" if line.voice != ON else ""
        how += " (CONT'D)" if str(number) in continued else ""
        found.append(
            Element(
                CHARACTER,
                written_name(line.speaker).removeprefix("@") or "SOMEBODY",
                0,
                how + ("^" if line.dual else ""),
            )
        )
        if line.manner:
            found.append(Element(PARENTHETICAL, line.manner))
        found.append(Element(DIALOGUE, line.text))
    return found
