"""How well a reader reads prompts that were marked by hand: what docs/evidence/reading.md tells of
it.
"""

from collections import Counter
from collections.abc import Callable, Iterable
from typing import NamedTuple

from syntagma.core.reading.features import NOTHING_YET, Read, WordRow
from syntagma.core.reading.weights import FoundPart
from training.marked_prompts import Example

# Facets between which careful people differ: a part of one is near, not wrong, as another.
KIN = (
    "subject animal food object architecture close-detail creature-feature",
    "lighting light-quality",
    "pose action",
    "ambience sound-effect",
    "setting background",
    "palette colour-grade",
    "medium technique design-style genre",
    "texture material finish",
)
_OTHERS = {facet: frozenset(group.split()) for group in KIN for facet in group.split()}
APART = ("time",)  # read by the grammar of the outside


class Figures(NamedTuple):
    """Counts of parts: all, read right (a fair facet for half of the letters or more), exactly,
    near (of the same kin); of negative text all and right; what was taken for what; (sure, right)
    of each part that was found; parts read wrong, with what was said.
    """

    parts: int
    right: int
    exact: int
    near: int
    negative: int
    negative_right: int
    mistaken: Counter[tuple[str, str]]
    sure: list[tuple[float, bool]]
    wrong: list[tuple[tuple[str, ...], str, str]]


def judged(
    examples: Iterable[Example], read: Callable[[WordRow, Read], list[FoundPart]]
) -> Figures:
    """Read all examples and count."""
    parts = right = exact = near = negative = negative_right = 0
    mistaken: Counter[tuple[str, str]] = Counter()
    sure: list[tuple[float, bool]] = []
    wrong: list[tuple[tuple[str, ...], str, str]] = []
    before = NOTHING_YET
    for example in examples:
        words = example.stretch.words
        before = before if example.before.had else NOTHING_YET
        found = read(example.stretch, before)
        for part in found:
            before = before.then(part.facet)
        label = {i: part.facet for part in found for i in range(part.first, part.stop)}
        whole = {(part.first, part.stop): part.facet for part in found}
        fair_at = {i: fair for a, b, fair in example.parts for i in range(a, b)}
        for part in found:
            inside = range(part.first, part.stop)
            sure.append(
                (
                    part.sure,
                    2 * _letters(words, (i for i in inside if part.facet in fair_at.get(i, ())))
                    >= _letters(words, inside),
                )
            )
        for a, b, fair in example.parts:
            if fair[0] in APART:
                continue
            half = _letters(words, range(a, b)) / 2
            good = _letters(words, (i for i in range(a, b) if label.get(i) in fair)) >= half
            if fair[0] == "negative":
                negative, negative_right = negative + 1, negative_right + good
                continue
            parts, right = parts + 1, right + good
            exact += whole.get((a, b)) in fair
            near += (
                _letters(words, (i for i in range(a, b) if _kin(label.get(i, "-"), fair))) >= half
            )
            if not good:
                said = Counter(label.get(i, "-") for i in range(a, b)).most_common(1)[0][0]
                mistaken[fair[0], said] += 1
                wrong.append((fair, said, " ".join(w.low for w in words[a:b])))
    return Figures(parts, right, exact, near, negative, negative_right, mistaken, sure, wrong)


def _kin(facet: str, fair: Iterable[str]) -> bool:
    return any(facet == one or facet in _OTHERS.get(one, ()) for one in fair)


def _letters(words, places: Iterable[int]) -> int:
    return sum(len(words[i].low) for i in places if words[i].is_word)


def reliability(found: Iterable[tuple[float, bool]]) -> list[tuple[float, int, float]]:
    """Of what is called so and so sure (in tenths), how many parts there are, and which share is
    right.
    """
    bins: dict[int, list[bool]] = {}
    for sure, right in found:
        bins.setdefault(min(9, int(sure * 10)), []).append(right)
    return [(low / 10, len(bins[low]), sum(bins[low]) / len(bins[low])) for low in sorted(bins)]
