"""What a film is given out as: costs, takes, subtitles, timeline, storyboard."""

import re
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from importlib.util import find_spec
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.families.files import write_records
from syntagma.app.film.film_prompts import FilmPrompts
from syntagma.app.film.lists import FilmList, table_of
from syntagma.app.workspace.html_pages import page, read_table
from syntagma.core.diagnostics import Finding, Mistake, Refused, Trouble, perhaps
from syntagma.core.film.cut import ClipTake, Cut, cut, length_finding, no_handles, subtitles
from syntagma.core.film.script import script_of
from syntagma.core.film.shot_list import YES, number_of
from syntagma.core.film.storyboard import SceneStrip, strip
from syntagma.core.models.prices import cost, priced
from syntagma.core.models.profile import Profile
from syntagma.formats import timeline
from syntagma.formats.fountain import write_fountain
from syntagma.formats.table_in import HarmlessCells
from syntagma.formats.timeline import write_srt, write_vtt
from syntagma.formats.xlsx import write_sheet
from syntagma.storage.files import make_folder, whole_file, write_text

# ──── What a film costs on each model: its clips with the takes that they are likely to need, and
# its stills.


class FilmBill(NamedTuple):
    """What a film comes to on one model: clips and stills that are still to be made, the takes of
    all of them, seconds of film, money by currency (blank where the profile has no price), what the
    next best way to pack it would cost, what exists already, and each clip's name and seconds.
    """

    model: str
    clips: int
    stills: int
    takes: float
    seconds: float
    money: tuple[tuple[float, str], ...]
    next_best: float | None
    kept: int
    priced: bool
    named: tuple[tuple[str, float], ...] = ()

    @property
    def money_shown(self) -> str:
        """The money in words."""
        return (
            " and ".join(priced(round(amount, 4), currency) for amount, currency in self.money)
            if self.money
            else "no price in its profile"
        )

    @property
    def row(self) -> dict[str, str]:
        """The bill as a table has it."""
        takes = f"{self.takes:.3g}"
        return {
            "model": self.model,
            "clips": str(self.clips),
            "stills": str(self.stills),
            "takes": takes,
            "seconds": f"{self.seconds:g}",
            "money": self.money_shown,
        }


def bill_of(prompts: FilmPrompts) -> FilmBill:
    """The bill of a film on one model."""
    sums: dict[str, float] = {}
    profile = prompts.profile
    new = [planned for planned in prompts.plan.clips if not planned.clip.pinned]
    if profile.price:
        sums[profile.price.currency] = sum(one.clip.price * one.clip.takes for one in new)
    stills = [made for made in prompts.made if made.kind != "clip" and not made.planned.clip.pinned]
    each = _still_takes(prompts.stills)
    for made in stills:
        if prompts.stills.price and (
            amount := cost(prompts.stills, made.prompt.around.values, made.prompt.words)
        ):
            sums[prompts.stills.price.currency] = (
                sums.get(prompts.stills.price.currency, 0.0) + amount * each
            )
    best = prompts.plan.packing.next_best
    return FilmBill(
        profile.name or "no model",
        len(new),
        len(stills),
        sum(one.clip.takes for one in new) + each * len(stills),
        prompts.plan.seconds,
        tuple((amount, currency) for currency, amount in sums.items()),
        best if best is None or profile.price is None else round(best, 4),
        len(prompts.plan.clips) - len(new),
        profile.price is not None,
        tuple((one.name, one.clip.seconds) for one in prompts.plan.clips),
    )


def _still_takes(stills: Profile) -> float:
    return stills.price.takes if stills.price else 1.0


# ──── The results of a film's clips, as a table says: clip, file, seconds, speech end, chosen; and
# the last picture of a chosen one.


_NAMES = {
    "clip": "clip",
    "name": "clip",
    "file": "file",
    "seconds": "seconds",
    "speech end": "speech end",
    "chosen": "chosen",
}


def read_takes(source: str, known: Sequence[str]) -> dict[str, list[ClipTake]]:
    """The takes of each clip, the chosen one first (the first, if none is). Raises Refused with
    every mistake.
    """
    headings, rows, mistakes = read_table(source)
    names = {heading: _NAMES.get(heading.strip().lower(), "") for heading in headings}
    missing = {"clip", "file"} - set(names.values())
    if missing:
        mistakes = [
            *mistakes,
            Mistake(
                f"the column {' and the column '.join(sorted(missing))} is missing",
                "its columns are clip, file, seconds, speech end, chosen",
                source,
                1,
                1,
            ),
        ]
    found: dict[str, list[ClipTake]] = {}
    for line, cells in rows if not missing else ():
        row = {
            names[heading]: cell.strip() for heading, cell in cells.items() if names.get(heading)
        }
        wrong = [
            key for key in ("seconds", "speech end") if row.get(key) and number_of(row[key]) is None
        ]
        mistakes += [
            Mistake(f"“{row[key]}” is not a number of seconds", "write 5.8", source, line, 1)
            for key in wrong
        ]
        if row.get("clip", "") not in known:
            mistakes.append(
                Mistake(
                    f"no clip is called “{row.get('clip', '')}”",
                    f"the clips are {', '.join(known[:12])}{' …' if len(known) > 12 else ''}",
                    source,
                    line,
                    1,
                )
            )
        elif not row.get("file"):
            mistakes.append(
                Mistake(
                    f"the take of {row['clip']} has no file",
                    "name the file of the result",
                    source,
                    line,
                    1,
                )
            )
        elif not wrong:
            take = ClipTake(
                row["file"],
                number_of(row.get("seconds", "")) or 0.0,
                number_of(row.get("speech end", "")) or 0.0,
                row.get("chosen", "").lower() in YES,
            )
            found.setdefault(row["clip"], []).append(take)
    if mistakes:
        raise Refused(list(mistakes))
    return {clip: sorted(takes, key=lambda take: not take.chosen) for clip, takes in found.items()}


def frames_wanted(prompts: FilmPrompts) -> list[tuple[str, str]]:
    """(clip, file) of each last picture that the next clip begins with."""
    found = []
    for made in prompts.made:
        found += [
            (need["of"], need["file"]) for need in made.needs if need["what"] == "last picture"
        ]
    return found


def save_frames(
    prompts: FilmPrompts, takes: Mapping[str, Sequence[ClipTake]], folder: Path
) -> list[str]:
    """Save the last picture of each chosen take that a continuation begins with, where the package
    for video is installed; return what there is to say of each.
    """
    said = []
    for clip, file in frames_wanted(prompts):
        chosen = next((take for take in takes.get(clip, ()) if take.chosen), None)
        if chosen is None:
            continue
        source = folder / chosen.file
        if not find_spec("av"):
            said.append(
                f"save the last frame of {chosen.file} as {file}: the clip after {clip} begins with"
                " it (pip install 'syntagma[video]' does this for you)"
            )
        elif not source.is_file():
            said.append(
                f"{chosen.file} does not exist, so the last frame of {clip} can't be saved as"
                f" {file}"
            )
        else:
            last_picture(source, folder / file)
            said.append(f"{file} is the last frame of {chosen.file}")
    return said


def last_picture(source: Path, target: Path) -> None:
    """Write the last picture of a video as PNG. Raises Trouble if the file has none that can be
    read.
    """
    import av

    try:
        with av.open(str(source)) as video:
            kept = deque(video.decode(video=0), maxlen=1)
    except (av.error.FFmpegError, IndexError, ValueError) as error:
        raise Trouble(
            f"{source} can't be read as a video ({error})", "save its last frame by hand", 1
        ) from None
    if not kept:
        raise Trouble(f"{source} has no frame in it", "choose another take", 1)
    make_folder(target.parent)
    with whole_file(target) as file:
        kept[0].to_image().save(file.buffer, "PNG")


# ──── The storyboard of a film as one HTML page: no script, no request to anywhere; on paper three
# frames per line.


ROOM = 1120  # pixels that the longest scene may take without scrolling
LEAST, MOST = 30.0, 62.0  # pixels a second
WIDEST, HIGHEST = 148, 190  # pixels of a frame on the screen
TRACKS = ("voice", "sfx", "ambience", "music")


def strip_page(
    title: str,
    model: str,
    scenes: Sequence[SceneStrip],
    clips: int,
    seconds: float,
    bills: Sequence[FilmBill],
    ratio: str = "16:9",
) -> str:
    """The page, its frames in the film's `ratio`."""
    longest = max((scene.seconds for scene in scenes), default=1.0)
    scale = min(max(ROOM / longest, LEAST), MOST)
    return page(
        "strip.html.j2",
        title=title,
        model=model,
        shots=sum(len({box.shot.name for box in scene.boxes}) for scene in scenes),
        clips=clips,
        length=length(seconds),
        scenes=[_scene(number, scene, scale) for number, scene in enumerate(scenes)],
        bills=[bill.row for bill in bills],
        frame=_frame(ratio),
    )


def _frame(ratio: str) -> dict[str, float]:
    """The part of the drawing plane (160 × 90, more of it around) that a frame of this ratio shows,
    and its width in pixels.
    """
    wide, _, high = ratio.partition(":")
    shape = float(wide) / float(high)
    if shape >= 16 / 9:
        return {
            "left": round(80 - 45 * shape, 1),
            "top": 0,
            "wide": round(90 * shape, 1),
            "tall": 90,
            "pixels": WIDEST,
        }
    tall = 160 / shape
    return {
        "left": 0,
        "top": round(45 - tall / 2, 1),
        "wide": 160,
        "tall": round(tall, 1),
        "pixels": round(min(WIDEST, HIGHEST * shape)),
    }


def length(seconds: float) -> str:
    """A length of time: 48 s, 2 min 5 s."""
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest} s" if minutes else f"{rest} s"


def _scene(number: int, scene: SceneStrip, scale: float) -> dict[str, object]:
    boxes = []
    clips: list[dict[str, object]] = []
    for i, box in enumerate(scene.boxes):
        shot, drawn = box.shot, box.drawing
        size = shot.cells.get("size", "")
        said = [f"{line.speaker.upper()}: “{line.text}”" for line in shot.lines]
        what = shot.cells.get("action", "") or ", ".join(shot.who) or shot.cells.get("setting", "")
        boxes.append(
            {
                "key": f"{number}-{i}",
                "number": shot.number,
                "wide": round(box.seconds * scale, 1),
                "seconds": f"{box.seconds:.3g}",
                "flag": any(f.kind != "remark" for f in box.findings),
                "size": ", ".join(part for part in (size, shot.cells.get("angle", "")) if part),
                "move_words": shot.cells.get("move", ""),
                "what": what,
                "said": said,
                "title": ". ".join(
                    part for part in (f"{shot.name} {size}".strip(), what, *said) if part
                ),
                "figures": drawn.figures,
                "horizon": drawn.horizon,
                "tilt": drawn.tilt,
                "detail": drawn.detail,
                "move": drawn.move,
                "light": drawn.light,
                "stills": box.stills,
            }
        )
        left, wide = round(box.start * scale, 1), round(box.seconds * scale, 1)
        if clips and clips[-1]["name"] == box.clip:
            clips[-1]["wide"] = round(left + wide - 4 - float(str(clips[-1]["left"])), 1)
        else:
            clips.append({"name": box.clip, "left": left, "wide": wide - 4})
    tracks = []
    for track in TRACKS:
        bars = [bar for bar in scene.bars if bar.track == track]
        if bars:
            said = [
                {
                    "left": round(bar.start * scale, 1),
                    "wide": max(18, round((bar.stop - bar.start) * scale - 3, 1)),
                    "text": f"{bar.who.upper()}: {bar.text}" if bar.who else bar.text,
                }
                for bar in bars
            ]
            tracks.append({"name": track, "bars": said})
    findings = [finding for box in scene.boxes for finding in box.findings]
    return {
        "number": scene.number,
        "place": scene.place,
        "at": length(scene.start) + " in",
        "seconds": f"{scene.seconds:.3g}",
        "wide": round(scene.seconds * scale + 4),
        "boxes": boxes,
        "clips": clips,
        "tracks": tracks,
        "findings": findings,
    }


# ──── A film into files, by their endings: records, timeline, subtitles, script, shot list, strip.


FILM_ENDINGS = {
    ".otio": "timeline",
    ".srt": "subtitles",
    ".vtt": "subtitles",
    ".fountain": "script",
    ".html": "strip",
}
RECORD_ENDINGS = (".jsonl", ".json", ".csv", ".xlsx", ".md", ".txt")


class FilmFiles:
    """Writes a film. `takes` are the results of its clips by name; `note` gets the messages."""

    def __init__(
        self,
        source: FilmList,
        by_model: Sequence[FilmPrompts],
        bills: Sequence[FilmBill],
        takes: Mapping[str, Sequence[ClipTake]] = {},
        note: Callable[[str], None] = lambda _: None,
    ):
        self.source, self.by_model, self.bills, self.takes, self.note = (
            source,
            by_model,
            bills,
            takes,
            note,
        )
        self.prompts = by_model[0]
        film = self.prompts.film
        chosen = {clip: found[0] for clip, found in takes.items()}
        self.cut: Cut = cut(
            self.prompts.plan, film.shots.shots, film.settings.clock.rate.number, chosen
        )

    @property
    def cut_findings(self) -> list[Finding]:
        """The findings on the film as it is cut: its length, dissolves without handles, subtitles
        that are too fast to read.
        """
        film = self.prompts.film
        length = length_finding(
            self.cut, film.shots.shots, film.settings.length, self.prompts.profile.name
        )
        return [
            *([length] if length else []),
            *no_handles(self.cut.stretches),
            *subtitles(self.cut.cues, self.cut.seconds)[1],
        ]

    def scenes(self, findings: Sequence[Finding]) -> list[SceneStrip]:
        """The storyboard, with the findings at their shots."""
        film = self.prompts.film
        return strip(
            film.shots, self.prompts.plan, self.cut, findings, film.knowledge, film.cast.names
        )

    def write(self, path: str, findings: Sequence[Finding]) -> str:
        """Write what the ending of a path asks for; return what was written, in words. Raises
        Trouble.
        """
        ending = Path(path).suffix.lower()
        if ending in RECORD_ENDINGS:
            return self._records(path, ending)
        if ending not in FILM_ENDINGS:
            known = (*RECORD_ENDINGS, *FILM_ENDINGS)
            raise Trouble(
                f"can't write a film as {ending or path}",
                perhaps(ending, known, f"the endings are {', '.join(known)}"),
                2,
            )
        settings = self.prompts.film.settings
        if ending == ".otio":
            write_text(path, self._timeline(findings))
            return f"the timeline in {path}"
        if ending in (".srt", ".vtt"):
            found, _ = subtitles(self.cut.cues, self.cut.seconds)
            write_text(path, write_srt(found) if ending == ".srt" else write_vtt(found))
            return f"{len(found)} subtitle{'s' if len(found) != 1 else ''} in {path}"
        if ending == ".fountain":
            write_text(
                path, write_fountain(script_of(self.source.shots, settings.title, self.inside))
            )
            return f"the script in {path}"
        page = strip_page(
            settings.title,
            self.prompts.profile.name,
            self.scenes(findings),
            len(self.prompts.plan.clips),
            self.cut.seconds,
            self.bills,
            self.ratio,
        )
        write_text(path, page)
        return f"the storyboard in {path}"

    @property
    def ratio(self) -> str:
        """The ratio of the film: that of its first clip, else of its first still."""
        found = [
            str(record["parameters"]["ratio"])
            for record in self.prompts.records()
            if "ratio" in record.get("parameters", {})
        ]
        return next((ratio for ratio in found if re.fullmatch(r"[\d.]+:[\d.]+", ratio)), "16:9")

    def inside(self, place: str) -> str:
        """INT. or EXT., as the vocabulary knows a place; "" if it does not."""
        vocabulary = self.prompts.film.workspace.vocabulary
        term = vocabulary["setting"].get(place) if "setting" in vocabulary else None
        tags = term.tags if term else ()
        return (
            "INT."
            if "indoors" in tags
            else "EXT."
            if {"outdoors", "sea", "landscape", "nature"} & set(tags)
            else ""
        )

    def _records(self, path: str, ending: str) -> str:
        records = [record for prompts in self.by_model for record in prompts.records()]
        rows = [{**record, "row": _columns(record)} for record in records]
        kept = (
            list(dict.fromkeys(name for row in rows for name in row["row"]))
            if ending in (".csv", ".xlsx")
            else []
        )
        count = write_records(path, rows if kept else records, [], kept, False, self.note)
        return f"{count} prompt{'s' if count != 1 else ''} in {path}"

    def _timeline(self, findings: Sequence[Finding]) -> str:
        if not timeline.can_write():
            raise Trouble(
                "writing .otio needs opentimelineio", "install it: pip install 'syntagma[film]'"
            )
        settings = self.prompts.film.settings
        clips = [(planned.name, planned.clip.seconds) for planned in self.prompts.plan.clips]
        records = {record["film"]["name"]: record for record in self.prompts.records()}
        stills = {
            str(r["film"]["shots"]): str(r["film"]["file"])
            for r in records.values()
            if r["film"]["kind"] == "still" and str(r["film"]["name"]).endswith("first-frame")
        }
        ids = {name: str(record["id"]) for name, record in records.items()}
        return timeline.write_timeline(
            self.cut,
            settings.title,
            settings.clock.rate,
            clips,
            self.takes,
            stills,
            ids,
            settings.clock.start,
            findings,
        )


def _columns(record: Mapping[str, Any]) -> dict[str, str]:
    """What a record is in the film, as columns of a table."""
    film = record["film"]
    shots = (
        film["shots"]
        if isinstance(film["shots"], str)
        else ", ".join(s["shot"] for s in film["shots"])
    )
    found = {
        "clip": film["name"],
        "kind": film["kind"],
        "scene": film["scene"],
        "shots": shots,
        "seconds": f"{film['seconds']:g}" if "seconds" in film else "",
    }
    found |= {
        "takes": f"{film['takes']:g}" if "takes" in film else "",
        "needs": "; ".join(f"{n['what']} of {n['of']}" for n in film.get("needs", ())),
        "held": film.get("held", ""),
    }
    return found


def write_list(source: FilmList, path: str, filled: bool, note: Callable[[str], None]) -> None:
    """Write the shot list: as it is, or with what each shot really has. Raises Trouble."""
    ending = Path(path).suffix.lower()
    headings, rows = table_of(source.shots, filled)
    if ending == ".xlsx":
        with whole_file(path) as file:
            write_sheet(file.buffer, "shot list", headings, rows)
        return
    if ending != ".csv":
        raise Trouble(
            f"can't write a shot list as {ending or path}",
            "name it .csv or .xlsx (a script: --out NAME.fountain)",
            2,
        )
    import csv

    safe = HarmlessCells()
    with whole_file(path) as file:
        out = csv.writer(file)
        for row in (headings, *rows):
            out.writerow(safe.row(list(row)))
    if safe.note:
        note(safe.note)
