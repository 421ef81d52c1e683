"""What the slots of a formula are in a shot: which column of a shot list fills each, by its facet, else by its name."""

import re
from collections.abc import Sequence

from syntagma.core.formula.tree import Formula, Phrase, SlotRule
from syntagma.core.vocabulary.terms import Vocabulary

FIRST, LAST = "first frame", "last frame"
BY_FACET = {
    "shot-size": "size", "camera-angle": "angle", "camera-move": "move", "camera-rig": "rig", "action": "action", "pose": "action",
    "time-passing": "action", "looping-motion": "action", "setting": "setting", "hour": "hour", "weather": "weather", "lighting": "light",
    "film-look": "look", "background": "background", "sound-effect": "sfx", "ambience": "ambience", "music": "music", "voice": "manner",
    "transition": "transition",
}  # fmt: skip
_BY_NAME = {
    "shot": "size", "size": "size", "angle": "angle", "move": "move", "action": "action", "deed": "action", "setting": "setting",
    "place": "setting", "light": "light", "speaker": "speaker", "line": "line", "words": "line", "effect": "sfx", "sound": "sfx",
    "start": FIRST, "end": LAST, "subject": "who", "hero": "who", "listener": "who", "props": "props",
}  # fmt: skip
_FRAMES = {"start": FIRST, "end": LAST}
_PROPS = ("object",)


def roles_of(formula: Formula, vocabulary: Vocabulary) -> dict[str, str]:
    """Slot → the column that fills it. A slot that no column fills is left out; of several for people the first is the foremost's
    ("who"), the next the second one's ("who 2")."""
    roles: dict[str, str] = {}
    people = 0
    for rule in formula.slots:
        role = _role(rule, vocabulary)
        if role == "who":
            people += 1
            role = "who" if people == 1 else f"who {people}"
        if role and (role not in roles.values() or role == "line"):
            roles[rule.name] = role
    return roles


def _role(rule: SlotRule, vocabulary: Vocabulary) -> str:
    if rule.name in _FRAMES and rule.need:
        return _FRAMES[rule.name]
    if rule.facet in BY_FACET:
        return BY_FACET[rule.facet]
    if rule.facet in _PROPS and not rule.need:
        return "props"
    if rule.facet and vocabulary.participant(rule.facet):
        return "who"
    return "" if rule.facet else _BY_NAME.get(re.sub(r"-?\d+$", "", rule.name), "")


def slots_in(phrases: Sequence[Phrase], roles: dict[str, str], role: str) -> list[str]:
    """The slots of some phrases that a column fills."""
    return [slot for phrase in phrases for slot in phrase.slots if roles.get(slot) == role]
