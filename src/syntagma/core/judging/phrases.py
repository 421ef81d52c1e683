"""What became of the phrases of prompts: shown, missing, overpowering; and what that goes with.

Verdicts of several judges on one picture, and pictures of one prompt, are no samples of their own:
what is counted for a test is prompts, and for what place and length go with, phrases. Nobody set
the place and the length of a phrase, so what they go with is not an effect of theirs. Many phrases
are looked at together: chances are corrected by the false-discovery rate (Y. Benjamini and Y.
Hochberg, Journal of the Royal Statistical Society B 57, 1995).
"""

from collections.abc import Hashable, Iterable, Sequence
from typing import NamedTuple

import numpy as np

SHOWN, MISSING, OVERPOWERING = "shown", "missing", "overpowering"
VERDICTS = (SHOWN, MISSING, OVERPOWERING)


class Verdict(NamedTuple):
    """One verdict on a phrase of a picture: `slot` and `phrase`, its place in the prompt (0 to 1),
    its length in words, the picture's rating (nan if it has none), and the prompt that made the
    picture.
    """

    slot: str
    phrase: str
    verdict: str
    place: float
    words: int
    rating: float = float("nan")
    prompt: str = ""


class PhraseCount(NamedTuple):
    """What became of one phrase."""

    slot: str
    phrase: str
    shown: int
    missing: int
    overpowering: int
    # the mean rating if it was shown, less that if it was missing; nan if one of the two never came
    ratings: float
    chance: float  # how often so much would come about by chance, corrected for all phrases

    @property
    def seen(self) -> int:
        return self.shown + self.missing + self.overpowering


class GoesWith(NamedTuple):
    """What being missing goes with: the mean place (0 to 1) and length of phrases that were shown,
    and of those that were missing.
    """

    place_shown: float
    place_missing: float
    words_shown: float
    words_missing: float
    place_chance: float
    words_chance: float


def counts(verdicts: Iterable[Verdict]) -> list[PhraseCount]:
    """Each phrase with what became of it, those missing most often first."""
    of: dict[tuple[str, str], list[Verdict]] = {}
    for verdict in verdicts:
        of.setdefault((verdict.slot, verdict.phrase), []).append(verdict)
    found = []
    for (slot, phrase), own in of.items():
        number = {name: sum(one.verdict == name for one in own) for name in VERDICTS}
        there = [one.rating for one in own if one.verdict != MISSING and one.rating == one.rating]
        gone = [one.rating for one in own if one.verdict == MISSING and one.rating == one.rating]
        ratings = float(np.mean(there) - np.mean(gone)) if there and gone else float("nan")
        by_prompt = _grouped(
            (one.prompt, one.verdict == MISSING, one.rating)
            for one in own
            if one.rating == one.rating
        )
        found.append(
            PhraseCount(
                slot,
                phrase,
                number[SHOWN],
                number[MISSING],
                number[OVERPOWERING],
                ratings,
                _together(by_prompt),
            )
        )
    corrected = false_discovery([one.chance for one in found])
    found = [one._replace(chance=chance) for one, chance in zip(found, corrected, strict=True)]
    return sorted(found, key=lambda one: (-one.missing / one.seen, -one.seen, one.slot, one.phrase))


def goes_with(verdicts: Sequence[Verdict]) -> GoesWith | None:
    """What phrases that are missing have in common, next to those that were shown; None if there
    are not two of each.
    """
    placed = [one for one in verdicts if one.place == one.place]  # where its words stand is known
    there = [one for one in placed if one.verdict != MISSING]
    gone = [one for one in placed if one.verdict == MISSING]
    if len(there) < 2 or len(gone) < 2:
        return None
    means = [
        float(np.mean([getattr(one, of) for one in part]))
        for of in ("place", "words")
        for part in (there, gone)
    ]
    chances = [
        _together(
            _grouped(
                ((one.slot, one.phrase), one.verdict == MISSING, float(getattr(one, of)))
                for one in placed
            )
        )
        for of in ("place", "words")
    ]
    return GoesWith(*means, *chances)


def _grouped(verdicts: Iterable[tuple[Hashable, bool, float]]) -> list[tuple[float, float]]:
    """For each group (a prompt, a phrase) the share that was missing, and the mean of what that may
    go with.
    """
    of: dict[Hashable, list[tuple[bool, float]]] = {}
    for group, missing, value in verdicts:
        of.setdefault(group, []).append((missing, value))
    return [
        (float(np.mean([m for m, _ in own])), float(np.mean([v for _, v in own])))
        for own in of.values()
    ]


def _together(groups: Sequence[tuple[float, float]], dealt: int = 2000) -> float:
    """How often two columns agree at least as closely when one of them is shuffled (a permutation
    test): 1 if there are fewer than five groups, or nothing varies.
    """
    if len(groups) < 5:
        return 1.0
    missing, values = np.array(groups).T
    missing, values = missing - missing.mean(), values - values.mean()
    if not missing.any() or not values.any():
        return 1.0
    orders = np.random.default_rng(1).permuted(np.tile(values, (dealt, 1)), axis=1)
    return float(
        ((np.abs(orders @ missing) >= abs(values @ missing) - 1e-9).sum() + 1) / (dealt + 1)
    )


def false_discovery(chances: Sequence[float]) -> list[float]:
    """Chances, corrected so that of those below a level no more than that share is there by
    chance.
    """
    order = sorted(range(len(chances)), key=lambda i: chances[i])
    found, least = [1.0] * len(chances), 1.0
    for rank in range(len(order), 0, -1):
        at = order[rank - 1]
        least = min(least, chances[at] * len(chances) / rank)
        found[at] = least
    return found
