"""Settings of a wish: those in notation (options, `Steps: 30`, weights), and those that people say
among the words: a ratio, how long, how many.
"""

import re
from collections.abc import Iterable
from typing import NamedTuple

from syntagma.core.editing.edits import SEAM
from syntagma.core.english.word_lists import NUMBERS as SMALL
from syntagma.core.models.parameters import common_name
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.outer_form import RATIOS, outside

NUMBERS = {word: n for n, word in enumerate(SMALL)} | {
    "fifteen": 15,
    "twenty": 20,
    "thirty": 30,
    "forty": 40,
    "sixty": 60,
}
_NUMBER = rf"(?:\d{{1,4}}(?:\.\d+)?|{'|'.join(NUMBERS)})"
RATIO = regex(
    r"(?<![\w:./])(\d{1,2}(?:\.\d{1,2})?) ?(?::|x|×|by)"
    r" ?(\d{1,2}(?:\.\d{1,2})?)(?![\w:.]{0,3}\w)(?!"
    r" ?(?:grid|layout|cm|m\b|in\b|inch|feet|foot|metres?|meters?|tiles?|cubes?))"
)
_SECONDS = regex(
    rf"^(?:about |around |for |in |lasting |of |duration:? )?(?!\d{{4}})({_NUMBER})(?:["
    r" -]?(?:sec|secs|seconds?)|(?<![2-9]0) ?s)(?: long| in length| please| total)?$",
    re.I,
)  # 80s is not a time, but a style
_LASTING = regex(r"^(?:duration|length|lasting):? (\d{1,3}) ?s$", re.I)
_MINUTE = regex(r"^(?:about |around |for )?(half a|a|one) minute(?: long)?$", re.I)
_CLOCK = regex(r"^0?:(\d\d)$")
LONG = regex(
    rf"(?<![\w-])(?!\d{{4}})({_NUMBER})(?:[- ]?(?:sec|seconds?)|(?<![2-9]0)s)[- ](?:long"
    r" )?(?=(?:[\w-]{1,30}"
    r" ){0,2}(?:clip|video|loop|shot|film|animation|movie|take|scene|footage)\b)",
    re.I,
)
COUNT = regex(
    rf"^(?:in |with |give me |make )?({_NUMBER}) (?:different"
    r" )?(?:versions?|variations?|variants?|options?|alternatives?|proposals?)(?: please)?$",
    re.I,
)
COUNTED = regex(
    rf"^({_NUMBER}) (?:different"
    r" )?(?:versions?|variations?|variants?|options?|alternatives?|takes?|images|pictures|photos)"
    r" of (?=\w)",
    re.I,
)


class Bare(NamedTuple):
    """A text without what is in notation: its words, with a SEAM if something was taken out;
    parameters and weights by name or words, and what it keeps out.
    """

    text: str
    parameters: dict[str, str]
    weights: dict[str, float]
    negative: list[str]


def bare(text: str, profiles: Iterable[Profile] = ()) -> Bare:
    """Take off what is in notation, of the models of `profiles` or of other hands: options,
    settings, weights, what is kept out by a label. A word with one hyphen before it and no number
    after it is none of these.
    """
    kept: list[str] = []
    found = Bare("", {}, {}, [])
    for region in outside(text, profiles).regions:
        words = text[region.start : region.stop]
        if region.kind == "parameter" and not (re.match(r"-\w", words) and region.value == "true"):
            found.parameters[common_name(region.name)] = region.value
            kept.append(SEAM)
        elif region.kind == "negative":
            found.negative.extend(
                part.strip(" .") for part in re.split(r"[,;]", words) if part.strip(" .")
            )
            kept.append(SEAM)
        elif region.kind == "text" and region.stress <= 0:  # a weight of nothing or less keeps out
            found.negative.append(words.strip())
            kept.append(SEAM)
        elif region.kind != "glue" or region.name not in ("stress", "negative"):
            if region.stress != 1:
                found.weights[words.strip()] = region.stress
            kept.append(words)
    return found._replace(text=re.sub(r"\bBREAK\b", ",", "".join(kept)))


def number(word: str) -> float:
    """A number in digits or letters, whole ones as int. Raises ValueError."""
    found = NUMBERS.get(word.lower())
    value = float(word) if found is None else float(found)
    return int(value) if value == int(value) else value


def ratio(match: re.Match) -> str:
    """What a match of RATIO says, if it is a ratio of pictures; "" if it is a time, a size or a
    count.
    """
    said = f"{match[1]}:{match[2]}"
    return said if said in RATIOS else ""


def seconds(words: str) -> float:
    """How long words say that a clip is to be; 0 if they say something else."""
    if match := _SECONDS.match(words) or _LASTING.match(words):
        return number(match[1])
    if match := _MINUTE.match(words):
        return 30 if match[1].lower() == "half a" else 60
    match = _CLOCK.match(words)
    return int(match[1]) if match else 0
