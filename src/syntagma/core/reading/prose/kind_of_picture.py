"""Where a kind of picture ends and what it is of begins: "a linocut of a ferry", "whip pan to a swimmer", "stop-motion hedgehog"."""

import re

from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import first_word
from syntagma.core.reading.prose.classifying import Sorter, is_kind

_KIND_LINK = regex(
    r"(?<!\s)\s+(of|for|showing|depicting|featuring|from|over|to|on|onto|into|towards?|around|along|follows|following|across|through|past|to show|to reveal)\s+(?=\S)",
    re.I,
)
# An angle before a shot size: "low-angle medium shot of …".
ANGLED = regex(
    r"(?:an? )?(?:\w+[- ]angle|overhead|aerial|eye[- ]level|ground[- ]level|bird['’]s[- ]eye|worm['’]s[- ]eye)\s+(?=(?:\w+[- ])+(?:shot|view)\b|(?:\w+[- ])*close-?up\b)",
    re.I,
)
# A medium by itself before what is shown in it: "stop-motion hedgehog".
MADE = regex(
    r"(?:an? |the )?(?:clay[- ]animation|stop-motion|watercolou?r|gouache|linocut|woodcut|papercut|anime|cartoon|pixel[- ]art|low-poly|voxel|hand-drawn|"
    r"photorealistic|hyperrealistic|black[- ]and[- ]white|isometric)(?=\s\w)",
    re.I,
)
ERA = regex(
    r"(?:an? |the )?(?:(?:early |late |mid-)?(?:1[0-9]|20)\d\ds|victorian|edwardian|georgian|medieval|renaissance|regency|baroque|prehistoric|tudor)(?=\s+\w)",
    re.I,
)
_CLAUSE_OF_MOVE = regex(
    r"(.*?\b(?:rising|flying|gliding|drifting|sweeping|glides|rises|cranes up|flies|sweeps|drifts|pushes|moves|tracks)"
    r"(?: \w+ly)?(?: up| down| in)? (?:over|across|through|past|along|towards?))\s+(?=(?:an?|the)\s)",
    re.I,
)
_FOLLOWS = regex(
    r"((?:an? |the )?(?:[\w-]+ ){0,3}camera (?:\w+ly )?(?:follows|orbits|circles|tracks|trails|approaches|finds|reveals))\s+(?=\S)",
    re.I,
)
_NO_OBJECT = frozenset("left right above below side front behind him her them it forward backward backwards wheel".split())


def kind_at(said: str, sorter: Sorter) -> tuple[int, int] | None:
    """Where a kind of picture ends and what it is of begins: "a linocut of a ferry"."""
    if re.match(r"(?:an? )?portrait of ", said, re.I):
        return None
    match = _FOLLOWS.match(said)
    if match and first_word(said[match.end() :]) not in _NO_OBJECT and not said[match.end() :].lower().startswith("from "):
        return match.end(1), match.end()
    for match in _KIND_LINK.finditer(said):
        left = said[: match.start()]
        angle = ANGLED.match(left)
        found = sorter.sort(left[angle.end() :] if angle else left)
        link = match[1].lower()
        if not is_kind(found) or found.sure < 0.6:
            continue
        if link == "on" and found.facet == "shot-size" and left.strip().lower() != "shot":
            return match.start(), match.end()  # "close-up on her hands"
        if link not in ("of", "for", "showing", "depicting", "featuring", "to show", "to reveal"):
            after = said[match.end() :].split()
            if (
                found.facet not in ("camera-move", "transition", "camera-rig", "camera-angle")
                or after[0].lower() in _NO_OBJECT
                or after[-1].lower() in _NO_OBJECT
            ):
                continue
        return match.start() + (len(link) + 1 if link.startswith("follow") else 0), match.end()
    match = _CLAUSE_OF_MOVE.match(said)
    if match and sorter.sort(match[1]).facet == "camera-move" and sorter.sort(match[1]).sure >= 0.8:
        return match.end(1), match.end()
    return None
