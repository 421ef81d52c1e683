"""What became of the phrases of prompts: shown, missing, overpowering; and what that goes with.

Nobody set the place and the length of a phrase, so that what they go with is no effect of theirs. Many phrases are looked at together: chances are corrected
by the false-discovery rate (Y. Benjamini and Y. Hochberg, Journal of the Royal Statistical Society B 57, 1995).
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

SHOWN, MISSING, OVERPOWERING = "shown", "missing", "overpowering"
VERDICTS = (SHOWN, MISSING, OVERPOWERING)


class Verdict(NamedTuple):
    """One verdict on a phrase of a picture: `slot` and `phrase`, where it stands in the prompt (0 to 1), its length in words, how many stand before it, the
    picture's mark (nan where it has none)."""

    slot: str
    phrase: str
    verdict: str
    place: float
    words: int
    mark: float = float("nan")


class PhraseCount(NamedTuple):
    """What became of one phrase."""

    slot: str
    phrase: str
    shown: int
    missing: int
    overpowering: int
    marks: float  # the mean mark where it was shown, less that where it was missing; nan where one of the two never came
    chance: float  # how often so much would come about by chance, corrected for all phrases

    @property
    def seen(self) -> int:
        return self.shown + self.missing + self.overpowering


class GoesWith(NamedTuple):
    """What being missing goes with: the mean place (0 to 1) and length of phrases that were shown, and of those that were missing."""

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
        there = [one.mark for one in own if one.verdict != MISSING and one.mark == one.mark]
        gone = [one.mark for one in own if one.verdict == MISSING and one.mark == one.mark]
        marks = float(np.mean(there) - np.mean(gone)) if there and gone else float("nan")
        found.append(PhraseCount(slot, phrase, number[SHOWN], number[MISSING], number[OVERPOWERING], marks, _by_chance(there, gone)))
    corrected = false_discovery([one.chance for one in found])
    found = [one._replace(chance=chance) for one, chance in zip(found, corrected, strict=True)]
    return sorted(found, key=lambda one: (-one.missing / one.seen, -one.seen, one.slot, one.phrase))


def goes_with(verdicts: Sequence[Verdict]) -> GoesWith | None:
    """What phrases that are missing have in common, next to those that were shown; None where there are not two of each."""
    placed = [one for one in verdicts if one.place == one.place]  # where its words stand is known
    there = [one for one in placed if one.verdict != MISSING]
    gone = [one for one in placed if one.verdict == MISSING]
    if len(there) < 2 or len(gone) < 2:
        return None
    places = [one.place for one in there], [one.place for one in gone]
    words = [float(one.words) for one in there], [float(one.words) for one in gone]
    means = [float(np.mean(part)) for part in (*places, *words)]
    return GoesWith(means[0], means[1], means[2], means[3], _by_chance(*places), _by_chance(*words))


def _by_chance(one: Sequence[float], other: Sequence[float], dealt: int = 2000) -> float:
    """How often two groups dealt by chance differ as much in their means."""
    if not one or not other or len(one) + len(other) < 4:
        return 1.0
    both, random = np.array([*one, *other], dtype=float), np.random.default_rng(1)
    there = abs(np.mean(one) - np.mean(other))
    orders = random.permuted(np.tile(both, (dealt, 1)), axis=1)
    apart = np.abs(orders[:, : len(one)].mean(axis=1) - orders[:, len(one) :].mean(axis=1))
    return float(((apart >= there - 1e-9).sum() + 1) / (dealt + 1))


def false_discovery(chances: Sequence[float]) -> list[float]:
    """Chances, corrected so that of those below a level no more than that share is there by chance."""
    order = sorted(range(len(chances)), key=lambda i: chances[i])
    found, least = [1.0] * len(chances), 1.0
    for rank in range(len(order), 0, -1):
        at = order[rank - 1]
        least = min(least, chances[at] * len(chances) / rank)
        found[at] = least
    return found
