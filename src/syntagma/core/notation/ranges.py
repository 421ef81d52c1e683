"""The values that numbers and names may have, wherever they are given: on the call, in plans, in
records, in tables, in heads of formulas. One table, so what is nonsense in one place is nonsense in
all.
"""

import re
from collections.abc import Iterable
from typing import NamedTuple

from syntagma.core.diagnostics import WrongValue
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.structure import no_number


class Range(NamedTuple):
    """What a value may be: from `low` to `high` (`above`: more than `low`), whole where `whole`."""

    what: str
    low: float
    high: float
    whole: bool = True
    above: bool = False

    @property
    def said(self) -> str:
        """The range in words."""
        kind = "a whole number" if self.whole else "a number"
        low = f"above {self.low:g}, up to" if self.above else f"from {_plain(self.low)} to"
        return f"{kind} {low} {_plain(self.high)}"


RANGES = {
    "count": Range("number of prompts", 1, 10_000_000),
    "different": Range("distance", 0, 1, whole=False),
    "effort": Range("effort", 0, 100, whole=False, above=True),
    "strength": Range("strength", 1, 6),
    "draw": Range("draw", 0, 4_294_967_295),
    "budget": Range("budget", 0, 1e12, whole=False),
    "weight": Range("weight", 0, 10, whole=False, above=True),
    "dpi": Range("number of dots to an inch", 1, 10_000),
    "ideas": Range("number of ideas", 1, 1_000),
    "steps": Range("number of steps", 1, 1_000),
    "without": Range("number of a member", 1, 10_000_000),
    "picks": Range("number of picks", 1, 10_000),
    "prompts": Range("number of prompts", 1, 1_000),
    "shots": Range("number of shots", 1, 2_000),
    "rating": Range("rating", 0, 5, whole=False),
    "next": Range("number of prompts", 1, 500),
    "takes": Range("number of results per prompt", 1, 50),
    "scatter": Range("scatter of marks", 0, 5, whole=False, above=True),
    "port": Range("port", 0, 65_535),
    "likeness": Range("likeness", 0, 1, whole=False),
    "ppi": Range("number of pixels to an inch", 1, 10_000),
    "pixels": Range("number of pixels", 1, 20_000),
    "tolerance": Range("tolerance", 0, 0.5, whole=False, above=True),
    "share": Range("share", 0, 0.9, whole=False),
    "epochs": Range("number of times", 1, 1_000),
    "form-rows": Range("number of rows", 1, 2_000),
    "reference": Range("strength of a reference", 0, 100, whole=False),
}


class OutOfRange(WrongValue):
    """A value that is none. The message says so; `remedy` what to write instead."""


def number(name: str, given: object, like: str = "") -> float:
    """A number within its range, whole ones as int; `like` is an example that the remedy ends with.
    Raises OutOfRange.
    """
    rule = RANGES[name]
    said = str(given).strip()
    wrong = OutOfRange(
        f"“{said[:40]}” is not a valid {rule.what}", f"write {rule.said}{like and f': {like}'}"
    )
    if isinstance(given, bool) or not re.fullmatch(
        r"[+-]?(?:\d{1,20}(?:\.\d{0,20})?|\.\d{1,20})(?:[eE][+-]?\d{1,3})?", said
    ):
        raise wrong
    value: float = int(said) if re.fullmatch(r"[+-]?\d+", said) else float(said)
    if (
        no_number(value)
        or not rule.low <= value <= rule.high
        or (rule.above and value == rule.low)
        or (rule.whole and value != int(value))
    ):
        raise wrong
    return int(value) if rule.whole else float(value)


def unlike(names: Iterable[str], what: str) -> None:
    """Raises OutOfRange if a name appears twice in a list of models, looks, themes."""
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise OutOfRange(f"the {what} “{name}” is given twice", "name it once")
        seen.add(name)


_RATIO = regex(r"(\d+(?:\.\d+)?)\s*[:x×/]\s*(\d+(?:\.\d+)?)")
_COUNTS = ("count", "pictures", "seconds", "rate", "frames", "steps", "width", "height")


def parameter(name: str, given: object) -> None:
    """Raises OutOfRange for a parameter's value that no generator has: a ratio of nothing, a
    negative number of pictures, no number where one is meant. A profile says more of what its model
    takes.
    """
    said = str(given).strip()
    ratio = _RATIO.fullmatch(said)
    if ratio and not (float(ratio[1]) and float(ratio[2])):
        raise OutOfRange(f"the ratio {said} has no shape", f"write {name}=2:3")
    if said.lower().lstrip("+-") in ("nan", "inf", "infinity"):
        raise OutOfRange(f"{name}={said} is not a number", f"write {name}=4")
    if name in _COUNTS and re.fullmatch(r"[+-]?\d+(?:\.\d+)?", said) and not float(said) > 0:
        raise OutOfRange(f"{name}={said} is below the minimum", f"write a number above 0: {name}=4")
    if not said.isprintable() and re.search(r"[\x00-\x08\x0a-\x1f\x7f]", said):
        raise OutOfRange(
            f"the value of {name} contains a line end or a control character",
            "write it on one line",
        )


def _plain(value: float) -> str:
    return f"{int(value):,}" if value == int(value) and abs(value) < 1e15 else f"{value:g}"
