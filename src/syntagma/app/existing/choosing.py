"""Which formula keeps most of a wish."""

from collections.abc import Sequence
from typing import NamedTuple

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Refused
from syntagma.core.english.idle_words import IN_WISHES
from syntagma.core.english.noun_groups import head_end
from syntagma.core.formula import Formula
from syntagma.core.formula.tree import FixedText
from syntagma.core.reading.prompt_pieces import Reading
from syntagma.core.reading.shortening.weighing import KINDS, OTHER
from syntagma.core.reading.wishes import Heard, heard
from syntagma.core.vocabulary.terms import normal
from syntagma.storage.trouble import Trouble

UNFILLED, SAID, UNSAID = 1.2, 1.5, 0.6  # what a needed slot that stays empty costs, what a formula is worth that the wish names
OPEN, CLAIMED, STILL = 0.02, 0.05, 0.8  # what an open slot costs, a word that the formula claims unasked, a still where something moves


class Choice(NamedTuple):
    """A formula, how well it suits what is wished for, and what it would do with each scene of that."""

    name: str
    score: float
    heard: list[Heard]
    lacking: bool  # it needs what the wish does not say


def choices(workspace: Workspace, readings: Sequence[Reading]) -> list[Choice]:
    """All formulas, the one that keeps most of the scenes of a wish first, those behind that need what it does not say. Raises Trouble where they say nothing that any could keep."""
    found = []
    for name in workspace.formulas():
        try:
            formula, _ = workspace.formula(name)
        except Refused:
            continue  # one that can't be read is told by `check`
        scores, heard = zip(*(_suits(formula, reading, workspace) for reading in readings), strict=True)
        shown = {slot for phrase in formula.phrases for slot in phrase.slots}
        lacking = any(rule.need and rule.name in shown and rule.name not in one.fills for rule in formula.slots for one in heard)
        found.append(Choice(name, sum(scores), list(heard), lacking))
    found.sort(key=lambda choice: (choice.lacking, -choice.score, choice.name))
    if not any(one.fills for choice in found for one in choice.heard):
        raise Trouble("no formula could keep any of it", "say what is seen, or name a formula: syntagma formula", 1)
    return found


def _suits(formula: Formula, reading: Reading, workspace: Workspace) -> tuple[float, Heard]:
    """How well a formula suits: what its slots keep, by how much such parts carry; what it needs and does not get counts against it."""
    got = heard(reading, formula, workspace.vocabulary)
    rest = {piece.start for piece in got.rest}
    facets = {rule.name: rule.facet for rule in formula.slots}
    slots = {piece.span.start: piece.slot for piece in got.pieces}
    score, named = 0.0, _named(formula, reading)
    participants = {piece.start for piece in reading.parts() if workspace.vocabulary.participant(piece.facet)}
    for piece in reading.parts():
        if piece.start in rest:
            continue
        weight = KINDS.get(piece.facet, OTHER)
        facet = facets.get(slots.get(piece.start, ""), "")
        own = facet in (piece.facet, piece.term.facet if piece.term else piece.facet)
        whole = workspace.vocabulary.participant(piece.facet)
        lent = (facet == "setting" and named < 0.5) or (facet == "animal" and piece.facet == "subject" and not named)
        score += weight * (1.0 if own else 0.3 if whole and lent else 0.75)
    shown = {name for phrase in formula.phrases for name in phrase.slots}
    needed = [rule for rule in formula.slots if rule.name in shown and rule.need and rule.name not in got.fills]
    score -= UNFILLED * len(needed) + OPEN * len(shown - set(got.fills))
    score -= CLAIMED * len(_claimed(formula) - set(normal(reading.text).split()))
    moves = any(piece.facet in _MOVING for piece in reading.parts())
    score -= STILL * (moves != (formula.head.media == "video"))
    placed = any(facets.get(piece.slot) == "setting" and piece.span.start in participants for piece in got.pieces)
    score -= UNFILLED * (placed and not named)  # what a picture is of is no place, unless the wish wants a picture of one
    return score + SAID * named - UNSAID * _special(formula, reading), got


def _special(formula: Formula, reading: Reading) -> bool:
    """Does a formula make something special (a sticker, an aerial photograph) that the wish does not speak of?"""
    said = {_stem(word) for word in normal(reading.text).split()}
    special = {_stem(word) for word in normal(formula.name).split()} - _EVERYDAY
    special |= {_stem(word) for rule in formula.slots for text in rule.default for word in normal(text).split()} - _EVERYDAY
    return bool(special) and not special & said


_EVERYDAY = frozenset("photograph realistic film clip shot three a of in the".split())


_MOVING = frozenset("camera-move pacing transition sound-effect ambience music voice looping-motion time-passing time".split())


def _claimed(formula: Formula) -> set[str]:
    """The words that a formula always writes, and that say something of the picture."""
    said = " ".join(part.raw for phrase in formula.phrases if not phrase.slots for part in phrase.body if isinstance(part, FixedText))
    return {word for word in normal(said).replace(",", " ").split() if word not in IN_WISHES}


def _named(formula: Formula, reading: Reading) -> float:
    """How far a wish names a formula: by the words of its name, or by what the formula makes unless told otherwise."""
    said, other = set(), set()
    for piece in reading.parts():
        (said if piece.facet in _NAMING else other).update(_stem(word) for word in normal(piece.words).split())
    name = [_stem(word) for word in normal(formula.name).split()]
    met = sum(1.0 if word in said else 0.5 if word in other else 0.0 for word in name)
    defaults = {_stem(word) for rule in formula.slots for text in rule.default for word in normal(text[: head_end(text)]).split()[-2:]}
    alone = 1.0 if name[0] in said | other and name[0] not in _COMMON else 0.0
    return max(met / len(name) * (1 + 0.3 * (met - 1)), 0.4 if said & defaults else 0.0, alone)


_COMMON = frozenset("street food film time three first last to product character cover pattern between".split())  # which wishes say of other things, too
_NAMING = frozenset("genre medium shot-size camera-rig camera-angle camera-move time-passing pacing".split())
_SAME = {"photo": "photograph", "photography": "photograph", "shot": "photograph", "still": "photograph", "picture": "photograph", "timelapse": "lapse", "video": "clip", "film": "clip", "drone": "aerial"}


def _stem(word: str) -> str:
    return _SAME.get(word, word.removesuffix("s"))
