"""Settings as people say them among the words of a wish: a ratio, how long, how many, and weights in the notations of other hands."""

import re
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.outer_form import HEAVIER, RATIOS, WEIGHTS

NUMBERS = {word: n for n, word in enumerate("zero one two three four five six seven eight nine ten eleven twelve".split())} | {"fifteen": 15, "twenty": 20, "thirty": 30, "forty": 40, "sixty": 60}
_NUMBER = rf"(?:\d{{1,4}}(?:\.\d+)?|{'|'.join(NUMBERS)})"
RATIO = regex(r"(?<![\w:./])(\d{1,2}(?:\.\d{1,2})?) ?(?::|x|×|by) ?(\d{1,2}(?:\.\d{1,2})?)(?![\w:.]{0,3}\w)(?! ?(?:grid|layout|cm|m\b|in\b|inch|feet|foot|metres?|meters?|tiles?|cubes?))")
_SECONDS = regex(rf"^(?:about |around |for |in |lasting |of |duration:? )?(?!\d{{4}})({_NUMBER})(?:[ -]?(?:sec|secs|seconds?)|(?<![2-9]0) ?s)(?: long| in length| please| total)?$", re.I)  # 80s is no time, but a style
_LASTING = regex(r"^(?:duration|length|lasting):? (\d{1,3}) ?s$", re.I)
_MINUTE = regex(r"^(?:about |around |for )?(half a|a|one) minute(?: long)?$", re.I)
_CLOCK = regex(r"^0?:(\d\d)$")
LONG = regex(rf"(?<![\w-])(?!\d{{4}})({_NUMBER})(?:[- ]?(?:sec|seconds?)|(?<![2-9]0)s)[- ](?:long )?(?=(?:[\w-]{{1,30}} ){{0,2}}(?:clip|video|loop|shot|film|animation|movie|take|scene|footage)\b)", re.I)
COUNT = regex(rf"^(?:in |with |give me |make )?({_NUMBER}) (?:different )?(?:versions?|variations?|variants?|options?|alternatives?|proposals?)(?: please)?$", re.I)
COUNTED = regex(rf"^({_NUMBER}) (?:different )?(?:versions?|variations?|variants?|options?|alternatives?|takes?|images|pictures|photos) of (?=\w)", re.I)
KEYED = regex(r"^(steps|sampler|scheduler|seed|cfg(?: scale)?|guidance(?: scale)?|denoising(?: strength)?|strength|model hash|model|version|hires upscale|size|width|height|quality)\s?[:=] ?([\w.+ /-]{1,40})$", re.I)
_OPTION = regex(r"(?<![\w-])--([a-z][\w-]{0,20})(?: ([^\s,;-][^\s,;]{0,40}))?")
_UNWANTED = regex(r"(?<!\S)-{2}no (.+?)(?=\s-{2}|$)", re.I)
_CALLED = {"ar": "ratio", "aspect": "ratio", "aspect-ratio": "ratio", "duration": "seconds", "length": "seconds", "fps": "rate"}


class Weighed(NamedTuple):
    """A text without the marks of weights, and the weights by their words."""

    text: str
    weights: dict[str, float]


def weighed(text: str) -> Weighed:
    """Take the marks of weights off; a word that parts stretches for a machine becomes a comma."""
    weights: dict[str, float] = {}
    for pattern in WEIGHTS:

        def plain(match: re.Match) -> str:
            words = match[1].strip()
            weights[words] = float(match[2]) if match[2] else HEAVIER
            return words

        text = pattern.sub(plain, text)
    return Weighed(re.sub(r"\bBREAK\b", ",", text), weights)


def unwanted(text: str) -> tuple[str, list[str]]:
    """The text without what "--no" keeps out, and that, one by one."""
    found = [thing.strip(" .") for match in _UNWANTED.finditer(text) for thing in match[1].split(",")]
    return (" ".join(_UNWANTED.sub("", text).split()), found) if found else (text, found)


def options(text: str) -> tuple[str, dict[str, str]]:
    """The text without what two hyphens and a name set, and that by its name."""
    found: dict[str, str] = {}

    def off(match: re.Match) -> str:
        found[_CALLED.get(match[1], match[1])] = match[2] or "true"
        return ""

    out = _OPTION.sub(off, text)
    return (" ".join(out.split()), found) if found else (text, found)


def number(word: str) -> float:
    """A number in digits or letters, whole ones as int. Raises ValueError."""
    found = NUMBERS.get(word.lower())
    value = float(word) if found is None else float(found)
    return int(value) if value == int(value) else value


def ratio(match: re.Match) -> str:
    """What a match of RATIO says, where it is a ratio of pictures; "" where it is a time, a size or a count."""
    said = f"{match[1]}:{match[2]}"
    return said if said in RATIOS else ""


def seconds(words: str) -> float:
    """How long words say that a clip is to be; 0 where they say something else."""
    if match := _SECONDS.match(words) or _LASTING.match(words):
        return number(match[1])
    if match := _MINUTE.match(words):
        return 30 if match[1].lower() == "half a" else 60
    match = _CLOCK.match(words)
    return int(match[1]) if match else 0
