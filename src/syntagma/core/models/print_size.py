"""Pictures on paper: is a model's size enough for a print, and how much must it be enlarged."""

import re
from typing import NamedTuple

CM = {"cm": 1.0, "mm": 0.1, "in": 2.54}
PAPERS = {"a6": (10.5, 14.8), "a5": (14.8, 21.0), "a4": (21.0, 29.7), "a3": (29.7, 42.0), "a2": (42.0, 59.4), "a1": (59.4, 84.1)}


class Print(NamedTuple):
    """A print in centimetres, and how fine it is: dots to an inch."""

    wide: float
    high: float
    dpi: int = 300

    @property
    def pixels(self) -> tuple[int, int]:
        """The pixels that it needs."""
        return round(self.wide / 2.54 * self.dpi), round(self.high / 2.54 * self.dpi)


class Enlarging(NamedTuple):
    """What one size of a model's is for a print: how many times it has to be enlarged to cover it (1 or less is enough), how
    much of it is cut off then, and how large it prints without enlarging (centimetres)."""

    ratio: str
    pixels: tuple[int, int]
    times: float
    cut: float
    prints: tuple[float, float]


def read_print(words: str, dpi: int) -> Print | None:
    """Read a size: 50x70cm, 20x30in, a3; None if it is none."""
    if words.strip().lower() in PAPERS:
        return Print(*PAPERS[words.strip().lower()], dpi)
    match = re.match(r"^\s*(\d+(?:\.\d+)?)\s*[x×*]\s*(\d+(?:\.\d+)?)\s*(cm|mm|in)?\s*$", words.lower())
    if not match or not float(match[1]) or not float(match[2]):
        return None
    unit = CM[match[3] or "cm"]
    return Print(float(match[1]) * unit, float(match[2]) * unit, dpi)


def enlarging(ratio: str, size: tuple[int, int], wanted: Print) -> Enlarging:
    """How a size in pixels does for a print: it covers the paper, and the rest is cropped."""
    need = wanted.pixels
    times = max(need[0] / size[0], need[1] / size[1])
    cut = 1 - (need[0] * need[1]) / (size[0] * times * size[1] * times)
    prints = (size[0] / wanted.dpi * 2.54, size[1] / wanted.dpi * 2.54)
    return Enlarging(ratio, size, times, cut, prints)
