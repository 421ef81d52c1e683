"""A film's timeline (OpenTimelineIO) and its subtitles (SRT, WebVTT)."""

from collections.abc import Mapping, Sequence
from importlib.util import find_spec
from typing import Any

from syntagma.core.diagnostics import REMARK, Finding
from syntagma.core.film.cut import DISSOLVE, ClipTake, Cut, CutShot, Subtitle, dissolves
from syntagma.core.notation.rates import FrameRate

# ──── Subtitles out: SRT and WebVTT (W3C). Both are a few lines a cue, so no package is needed.


def write_srt(found: Sequence[Subtitle]) -> str:
    """SubRip: numbered cues, times with a comma, each after a blank line."""
    return "".join(
        f"{number}\n{_time(one.start, ',')} --> {_time(one.stop, ',')}\n{_lines(one)}\n\n"
        for number, one in enumerate(found, 1)
    )


def write_vtt(found: Sequence[Subtitle]) -> str:
    """WebVTT: times with a point, the speaker as a voice span, & and < escaped."""
    return "WEBVTT\n\n" + "".join(
        f"{_time(one.start, '.')} --> {_time(one.stop, '.')}\n{_voiced(one)}\n\n" for one in found
    )


def _time(seconds: float, point: str) -> str:
    whole = round(seconds * 1000)
    hours, rest = divmod(whole, 3_600_000)
    minutes, rest = divmod(rest, 60_000)
    return f"{hours:02}:{minutes:02}:{rest // 1000:02}{point}{rest % 1000:03}"


def _lines(one: Subtitle) -> str:
    return "\n".join(line.replace("-->", "→") for line in one.lines)


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _voiced(one: Subtitle) -> str:
    text = "\n".join(map(_escaped, one.lines))
    return f"<v {_escaped(one.speaker).replace(chr(10), ' ')}>{text}" if one.speaker else text


# ──── Timelines out: OpenTimelineIO (.otio), by its own package: the picture with its takes,
# ambience and music below, lines as markers.


CHOSEN = "DEFAULT_MEDIA"


def can_write() -> bool:
    """Is the package there?"""
    return find_spec("opentimelineio") is not None


def write_timeline(
    cut: Cut,
    title: str,
    rate: FrameRate,
    clips: Sequence[tuple[str, float]],
    takes: Mapping[str, Sequence[ClipTake]],
    stills: Mapping[str, str],
    ids: Mapping[str, str],
    start: str = "",
    findings: Sequence[Finding] = (),
) -> str:
    """A timeline as JSON. `clips` are the name and the seconds of each clip of the plan; `takes`
    its results, the chosen one first; `stills` the picture that a shot begins with, for the time
    before there are clips; `ids` the prompt of each clip; `start` the timecode of the first frame;
    `findings` stand as markers at their shots.
    """
    import opentimelineio as otio

    made = _Timeline(otio, title, rate.number, clips, takes, stills, ids)
    made.findings, made.begins = findings, start.replace(":", ";") if rate.drop else start
    return made.write(cut)


class _Timeline:
    findings: Sequence[Finding] = ()
    begins: str = ""

    def __init__(
        self, otio: Any, title: str, rate: float, clips: Any, takes: Any, stills: Any, ids: Any
    ):
        self.otio, self.title, self.rate = otio, title, rate
        self.clips, self.takes, self.stills, self.ids = clips, takes, stills, ids

    def at(self, seconds: float):
        """A time at the film's rate, on a whole frame."""
        return self.otio.opentime.RationalTime(round(seconds * self.rate), self.rate)

    def range(self, start: float, stop: float):
        begin = self.at(start)
        return self.otio.opentime.TimeRange(begin, self.at(stop) - begin)

    def write(self, cut: Cut) -> str:
        schema = self.otio.schema
        start = self.at(0)
        if self.begins:
            code = self.begins if len(self.begins) > 8 else f"{self.begins}:00"
            if ";" in code:  # drop-frame: only the last sign says so
                code = code.replace(";", ":", 2)
            start = self.otio.opentime.from_timecode(code, self.rate)
        timeline = schema.Timeline(self.title or "film", global_start_time=start)
        picture = schema.Track("picture", kind=schema.TrackKind.Video)
        for number, stretch in enumerate(cut.stretches):
            if number and dissolves(stretch.shot):
                before = cut.stretches[number - 1]
                half = DISSOLVE / 2
                behind = min(half, before.tail, stretch.seconds)
                ahead = min(half, stretch.head, before.seconds)
                if behind or ahead:
                    picture.append(
                        schema.Transition(
                            stretch.shot.cells["transition"],
                            schema.TransitionTypes.SMPTE_Dissolve,
                            self.at(ahead),
                            self.at(behind),
                        )
                    )
            picture.append(self.clip(stretch, cut))
        timeline.tracks.append(picture)
        for kind in ("ambience", "music"):
            if sounds := [sound for sound in cut.sounds if sound.kind == kind]:
                timeline.tracks.append(self.track(kind, sounds))
        return timeline.to_json_string(indent=2) + "\n"

    def clip(self, stretch: CutShot, cut: Cut):
        """A shot, with the media of its clip, the other takes as alternates, its lines as
        markers.
        """
        schema, (name, seconds) = self.otio.schema, self.clips[stretch.clip]
        takes = self.takes.get(name, ())
        told = {
            "scene": stretch.shot.scene,
            "shot": stretch.shot.number,
            "clip": name,
            "prompt": self.ids.get(name, ""),
        }
        begin = self.at(stretch.source)
        source = self.otio.opentime.TimeRange(begin, self.at(stretch.stop) - self.at(stretch.start))
        made = schema.Clip(
            stretch.name or stretch.shot.name,
            source_range=source,
            metadata={"syntagma": {key: value for key, value in told.items() if value}},
        )
        if takes:
            media = {CHOSEN: self.media(takes[0], seconds)}
            media |= {
                f"take {number}": self.media(take, seconds)
                for number, take in enumerate(takes[1:], 2)
            }
            made.set_media_references(media, CHOSEN)
        elif still := self.stills.get(stretch.shot.name):
            made.media_reference = schema.ExternalReference(still, self.range(0, seconds))
        else:
            made.media_reference = schema.MissingReference(
                name=name, available_range=self.range(0, seconds)
            )
        for cue in cut.cues:
            if cue.shot == stretch.shot.name and stretch.start <= cue.start < stretch.stop:
                offset = stretch.source - stretch.start
                spoken = self.range(cue.start + offset, cue.stop + offset)
                made.markers.append(
                    schema.Marker(
                        cue.text,
                        spoken,
                        color=schema.MarkerColor.GREEN,
                        metadata={"syntagma": {"speaker": cue.speaker, "voice": cue.voice}},
                    )
                )
        made.markers.extend(self.notes(stretch))
        return made

    def notes(self, stretch: CutShot) -> list:
        """Markers at the first frame of a shot: a match cut, and what was found."""
        colour = self.otio.schema.MarkerColor
        found = [
            (f"{one.kind}: {one.message}", colour.YELLOW if one.kind == REMARK else colour.RED)
            for one in self.findings
            if one.place in (stretch.name, stretch.shot.name)
        ]
        transition = stretch.shot.cells.get("transition", "")
        if "match cut" in transition.lower():
            found.insert(0, (transition, colour.CYAN))
        here = self.range(stretch.source, stretch.source + 1 / self.rate)
        return [self.otio.schema.Marker(name, here, color=shade) for name, shade in found]

    def media(self, take: ClipTake, seconds: float):
        return self.otio.schema.ExternalReference(take.file, self.range(0, take.seconds or seconds))

    def track(self, kind: str, sounds: Any):
        """Ambience or music: what is heard, and gaps between."""
        schema = self.otio.schema
        track = schema.Track(kind, kind=schema.TrackKind.Audio)
        at = self.at(0)
        for sound in sounds:
            start = self.at(sound.start)
            if start > at:
                track.append(
                    schema.Gap(source_range=self.otio.opentime.TimeRange(self.at(0), start - at))
                )
            length = self.at(sound.stop) - start
            source = self.otio.opentime.TimeRange(self.at(0), length)
            track.append(
                schema.Clip(
                    sound.text,
                    media_reference=schema.MissingReference(name=sound.text),
                    source_range=source,
                )
            )
            at = start + length
        return track
