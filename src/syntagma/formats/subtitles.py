"""Subtitles out: SRT and WebVTT (W3C). Both are a few lines a cue, so no package is needed."""

from collections.abc import Sequence

from syntagma.core.film.cutting.subtitles import Subtitle


def write_srt(found: Sequence[Subtitle]) -> str:
    """SubRip: numbered cues, times with a comma, each behind a blank line."""
    return "".join(f"{number}\n{_time(one.start, ',')} --> {_time(one.stop, ',')}\n{_lines(one)}\n\n" for number, one in enumerate(found, 1))


def write_vtt(found: Sequence[Subtitle]) -> str:
    """WebVTT: times with a point, the speaker as a voice span, & and < escaped."""
    return "WEBVTT\n\n" + "".join(f"{_time(one.start, '.')} --> {_time(one.stop, '.')}\n{_voiced(one)}\n\n" for one in found)


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
