"""Frame rates as films have them: exact fractions, drop-frame timecode, lengths of time as people
write them.
"""

import re
from fractions import Fraction
from typing import NamedTuple

FASTEST, SLOWEST = 120, 8
_TIME = re.compile(
    r"\s*(?:(?P<minutes>\d{1,3})[:’'](?P<seconds>\d{1,2}(?:[.,]\d+)?)|"
    r"(?:(?P<min>\d{1,3})\s*(?:min|m)\.?\s*)?(?:(?P<sec>\d{1,5}(?:[.,]\d+)?)\s*"
    r"(?:s|sec|secs|seconds|″|”|\"|'')?\.?)?)\s*",
    re.I,
)
_BAR = re.compile(r"\s*(?:bar\s*)?(?P<bar>\d{1,4})(?:[.:|]\s*(?P<beat>\d(?:\.\d)?))?\s*", re.I)
_CODE = re.compile(r"\s*(\d{1,2}):(\d{2}):(\d{2})(?:([:;.,])(\d{2,3}))?\s*")


class FrameRate(NamedTuple):
    """Frames a second, exactly (29.97 is 30000/1001); whether timecode drops numbers to keep up
    with the clock (SMPTE ST 12-1); whether somebody said so, or it is the usual one.
    """

    exact: Fraction = Fraction(24)
    drop: bool = False
    given: bool = False

    @property
    def number(self) -> float:
        """Frames a second, as near as a float is."""
        return float(self.exact)

    @property
    def count(self) -> int:
        """The frames that timecode counts in a second: 30 at 29.97."""
        return round(self.exact)


def rate_of(said: object) -> FrameRate | None:
    """A rate as people write it: 25, 23.976, "29.97 drop", "30000/1001"; None if it is none."""
    text = str(said).strip().lower().removesuffix("fps").strip()
    drop = bool(re.search(r"\b(?:df|drop)\b|drop", text)) and "non" not in text
    text = re.sub(
        r"\b(?:non|drop|frame|ndf|df)\b|[a-z]+$", "", text.replace("-d", " d").replace("-f", " f")
    )
    text = " ".join(text.split()).removesuffix("df").strip()
    match = re.fullmatch(r"(\d{1,6})\s*/\s*(\d{1,5})|(\d{1,3}(?:[.,]\d{1,6})?)", text)
    if not match or match[2] == "0":
        return None
    if match[1]:
        exact = Fraction(int(match[1]), int(match[2] or 1))
    else:
        number = Fraction(match[3].replace(",", "."))
        whole = Fraction(-(-number.numerator // number.denominator))
        television = whole * 1000 / 1001
        exact = (
            television
            if number != whole and abs(number - television) < Fraction(1, 100)
            else number
        )
    if not SLOWEST <= exact <= FASTEST or (drop and exact.denominator != 1001):
        return None
    return FrameRate(exact, drop, True)


def seconds_said(text: str, rate: FrameRate | None = None) -> float | None:
    """A length of time in seconds: 4, 4.5 s, 4,5, 0:05, 1'30, 2 min 5 s, a timecode 00:00:05:12 at
    a rate; None if it is none.
    """
    if match := _CODE.fullmatch(text):
        return _timecode(match, rate or FrameRate())
    said = _TIME.fullmatch(text)
    if not said or not re.search(r"\d", text):
        return None
    minutes = said["minutes"] or said["min"] or "0"
    seconds = (said["seconds"] or said["sec"] or "0").replace(",", ".")
    if said["seconds"] and float(seconds) >= 60:
        return None
    return int(minutes) * 60 + float(seconds)


def _timecode(match: re.Match[str], rate: FrameRate) -> float | None:
    """A timecode in seconds: hours, minutes, seconds, and frames, or thousandths after a point."""
    hours, minutes, seconds = (int(match[i]) for i in (1, 2, 3))
    whole = hours * 3600 + minutes * 60 + seconds
    if minutes > 59 or seconds > 59:
        return None
    if match[5] and match[4] in ".,":
        return whole + float(f"0.{match[5]}")
    frames = int(match[5] or 0)
    if frames >= rate.count:
        return None
    counted = whole * rate.count + frames
    if rate.drop:
        counted = _dropped(counted, hours * 60 + minutes)
    return float(counted / rate.exact)


def _dropped(frame: int, minutes: int) -> int:
    """The frame that a drop-frame timecode names: two numbers a minute are left out, save every
    tenth.
    """
    return frame - 2 * (minutes - minutes // 10)


class Tempo(NamedTuple):
    """The beats of a music: so many a minute, so many a bar."""

    beats: float = 0.0
    bar: int = 4

    def at(self, text: str) -> float | None:
        """Where a bar begins, in seconds: "bar 5", "5.3" (the third beat of it); None without a
        tempo, or if it is no bar.
        """
        match = _BAR.fullmatch(text)
        if not match or not self.beats:
            return None
        bar, beat = int(match["bar"]), float(match["beat"] or 1)
        if bar < 1 or not 1 <= beat < self.bar + 1:
            return None
        return ((bar - 1) * self.bar + beat - 1) * 60 / self.beats


class FilmClock(NamedTuple):
    """How a film counts time: its frames, the beats of its music, the timecode of its first
    frame.
    """

    rate: FrameRate = FrameRate()
    tempo: Tempo = Tempo()
    start: str = ""
