"""A film into files, by their endings: records, timeline, subtitles, script, shot list, strip."""

import re
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from syntagma.app.families.files import write_records
from syntagma.app.film.costs import FilmBill
from syntagma.app.film.film_prompts import FilmPrompts
from syntagma.app.film.lists import FilmList, table_of
from syntagma.app.film.strip_page import strip_page
from syntagma.core.diagnostics.findings import Finding
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.film.cutting.film_cut import ClipTake, Cut, cut
from syntagma.core.film.cutting.strip import SceneStrip, strip
from syntagma.core.film.cutting.subtitles import subtitles
from syntagma.core.film.shots.script import script_of
from syntagma.formats import timeline
from syntagma.formats.cells import HarmlessCells
from syntagma.formats.fountain import write_fountain
from syntagma.formats.subtitles import write_srt, write_vtt
from syntagma.formats.xlsx import write_sheet
from syntagma.storage.files import whole_file, write_text
from syntagma.storage.trouble import Trouble

FILM_ENDINGS = {".otio": "timeline", ".srt": "subtitles", ".vtt": "subtitles", ".fountain": "script", ".html": "strip"}
RECORD_ENDINGS = (".jsonl", ".json", ".csv", ".xlsx", ".md", ".txt")


class FilmFiles:
    """Writes a film. `takes` are the results of its clips by name; `note` gets the messages."""

    def __init__(self, source: FilmList, by_model: Sequence[FilmPrompts], bills: Sequence[FilmBill], takes: Mapping[str, Sequence[ClipTake]] = {}, note: Callable[[str], None] = lambda _: None):
        self.source, self.by_model, self.bills, self.takes, self.note = source, by_model, bills, takes, note
        self.prompts = by_model[0]
        film = self.prompts.film
        chosen = {clip: found[0] for clip, found in takes.items()}
        self.cut: Cut = cut(self.prompts.plan, film.shots.shots, film.settings.rate, chosen)

    @property
    def subtitle_findings(self) -> list[Finding]:
        """The findings on how fast the subtitles have to be read."""
        return subtitles(self.cut.cues, self.cut.seconds)[1]

    def scenes(self, findings: Sequence[Finding]) -> list[SceneStrip]:
        """The storyboard, with the findings at their shots."""
        film = self.prompts.film
        return strip(film.shots, self.prompts.plan, self.cut, findings, film.knowledge, film.cast.names)

    def write(self, path: str, findings: Sequence[Finding]) -> str:
        """Write what the ending of a path asks for; return what was written, in words. Raises Trouble."""
        ending = Path(path).suffix.lower()
        if ending in RECORD_ENDINGS:
            return self._records(path, ending)
        if ending not in FILM_ENDINGS:
            known = (*RECORD_ENDINGS, *FILM_ENDINGS)
            raise Trouble(f"can't write a film as {ending or path}", perhaps(ending, known, f"the endings are {', '.join(known)}"), 2)
        settings = self.prompts.film.settings
        if ending == ".otio":
            write_text(path, self._timeline())
            return f"the timeline in {path}"
        if ending in (".srt", ".vtt"):
            found, _ = subtitles(self.cut.cues, self.cut.seconds)
            write_text(path, write_srt(found) if ending == ".srt" else write_vtt(found))
            return f"{len(found)} subtitle{'s' if len(found) != 1 else ''} in {path}"
        if ending == ".fountain":
            write_text(path, write_fountain(script_of(self.source.shots, settings.title, self.inside)))
            return f"the script in {path}"
        page = strip_page(settings.title, self.prompts.profile.name, self.scenes(findings), len(self.prompts.plan.clips), self.cut.seconds, self.bills, self.ratio)
        write_text(path, page)
        return f"the storyboard in {path}"

    @property
    def ratio(self) -> str:
        """The ratio of the film: that of its first clip, else of its first still."""
        found = [str(record["parameters"]["ratio"]) for record in self.prompts.records() if "ratio" in record.get("parameters", {})]
        return next((ratio for ratio in found if re.fullmatch(r"[\d.]+:[\d.]+", ratio)), "16:9")

    def inside(self, place: str) -> str:
        """INT. or EXT., as the vocabulary knows a place; "" if it does not."""
        vocabulary = self.prompts.film.workspace.vocabulary
        term = vocabulary["setting"].get(place) if "setting" in vocabulary else None
        tags = term.tags if term else ()
        return "INT." if "indoors" in tags else "EXT." if {"outdoors", "sea", "landscape", "nature"} & set(tags) else ""

    def _records(self, path: str, ending: str) -> str:
        records = [record for prompts in self.by_model for record in prompts.records()]
        rows = [{**record, "row": _columns(record)} for record in records]
        kept = list(dict.fromkeys(name for row in rows for name in row["row"])) if ending in (".csv", ".xlsx") else []
        count = write_records(path, rows if kept else records, [], kept, False, self.note)
        return f"{count} prompt{'s' if count != 1 else ''} in {path}"

    def _timeline(self) -> str:
        if not timeline.can_write():
            raise Trouble("writing .otio needs opentimelineio", "install it: pip install 'syntagma[film]'")
        settings = self.prompts.film.settings
        clips = [(planned.name, planned.clip.seconds) for planned in self.prompts.plan.clips]
        records = {record["film"]["name"]: record for record in self.prompts.records()}
        stills = {str(r["film"]["shots"]): str(r["film"]["file"]) for r in records.values() if r["film"]["kind"] == "still" and str(r["film"]["name"]).endswith("first-frame")}
        ids = {name: str(record["id"]) for name, record in records.items()}
        return timeline.write_timeline(self.cut, settings.title, settings.rate, clips, self.takes, stills, ids)


def _columns(record: Mapping[str, Any]) -> dict[str, str]:
    """What a record is in the film, as columns of a table."""
    film = record["film"]
    shots = film["shots"] if isinstance(film["shots"], str) else ", ".join(s["shot"] for s in film["shots"])
    found = {"clip": film["name"], "kind": film["kind"], "scene": film["scene"], "shots": shots, "seconds": f"{film['seconds']:g}" if "seconds" in film else ""}
    found |= {"takes": f"{film['takes']:g}" if "takes" in film else "", "needs": "; ".join(f"{n['what']} of {n['of']}" for n in film.get("needs", ())), "held": film.get("held", "")}
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
        raise Trouble(f"can't write a shot list as {ending or path}", "name it .csv or .xlsx (a script: --out NAME.fountain)", 2)
    import csv

    safe = HarmlessCells()
    with whole_file(path) as file:
        out = csv.writer(file)
        for row in (headings, *rows):
            out.writerow(safe.row(list(row)))
    if safe.note:
        note(safe.note)
