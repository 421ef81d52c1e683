"""Which of many are too much alike: pictures by a perceptual hash, prompts by the runs of letters
or the words that they share; and groups, each round the one to keep.

Source of the hash: the signs of the lowest frequencies of a small grey picture's cosine transform
(C. Zauner, Implementation and benchmarking of perceptual image hash functions, 2010); of the
likeness of texts: shared runs of letters (A. Z. Broder, On the resemblance and containment of
documents, 1997).
"""

from collections.abc import Callable, Hashable, Sequence
from typing import Any, NamedTuple

import numpy as np

SIDE, LOW = 32, 8
PICTURES, PROMPTS = 0.86, 0.82  # likeness from which two are too much alike
RUN = 5  # letters of a run
_SMALL = frozenset(
    "a an the of in on at by with and or to from under over into as for is are was its his her"
    " their this that against behind beside near through".split()
)


class Twins(NamedTuple):
    """Things that are too much like the first of them, the one to keep: their places; and how like
    it the least alike is.
    """

    places: tuple[int, ...]
    likeness: float


class Link(NamedTuple):
    """Two places whose things are too much alike."""

    one: int
    other: int
    likeness: float


def picture_hash(grey: np.ndarray) -> np.ndarray:
    """The hash of a grey picture of 32 × 32 (0 to 255): 63 signs, and what the picture is like on
    the whole behind them.
    """
    n = np.arange(SIDE)
    basis = np.cos(np.pi * (2 * n[None, :] + 1) * n[:, None] / (2 * SIDE))
    low = (basis @ grey.astype(float) @ basis.T)[:LOW, :LOW].ravel()[1:]
    return low > np.median(low)


def hash_likeness(a: np.ndarray, b: np.ndarray) -> float:
    """0 to 1; two pictures that have nothing to do with each other are about 0.5 alike."""
    return float((a == b).mean())


def runs(text: str) -> frozenset[Hashable]:
    """The runs of letters of a text."""
    plain = " ".join(
        "".join(letter.lower() if letter.isalnum() else " " for letter in text).split()
    )
    return frozenset(plain[i : i + RUN] for i in range(max(1, len(plain) - RUN + 1)))


def words(text: str) -> frozenset[Hashable]:
    """The words of a text that say something, in whatever order they stand."""
    return (
        frozenset("".join(letter.lower() if letter.isalnum() else " " for letter in text).split())
        - _SMALL
    )


def text_likeness(a: frozenset, b: frozenset) -> float:
    """0 to 1: the share of runs that two texts have in common."""
    return len(a & b) / len(a | b) if a or b else 1.0


def links_of_texts(
    texts: Sequence[str], least: float = PROMPTS, parts: Sequence[frozenset[Hashable]] = ()
) -> list[Link]:
    """Which prompts are too much alike: by their runs of letters, as the same words in another
    order, or by what their `parts` say, if that was read.
    """
    found: dict[tuple[int, int], float] = {}
    for sets in ([runs(text) for text in texts], [words(text) for text in texts], parts):
        for one, other, likeness in links_of_sets(sets, least):
            pair = (min(one, other), max(one, other))
            found[pair] = max(likeness, found.get(pair, 0.0))
    return [Link(*pair, likeness) for pair, likeness in found.items()]


def links_of_sets(sets: Sequence[frozenset], least: float) -> list[Link]:
    """Which of many sets share at least `least` of what they hold."""
    by_run: dict[Hashable, list[int]] = {}
    order = sorted(range(len(sets)), key=lambda i: len(sets[i]))
    counts: dict[Hashable, int] = {}
    for one in sets:
        for run in one:
            counts[run] = counts.get(run, 0) + 1
    links: list[Link] = []
    for i in (
        order
    ):  # two that are alike share a rare run among the first of each: only those are compared
        rare = sorted(sets[i], key=lambda run: (counts[run], run))
        first = rare[: len(rare) - int(least * len(rare)) + 1]
        near = {j for run in first for j in by_run.get(run, ())}
        for j in near:
            if (likeness := text_likeness(sets[i], sets[j])) >= least:
                links.append(Link(i, j, likeness))
        for run in first:
            by_run.setdefault(run, []).append(i)
    return links


def twins_of_texts(
    texts: Sequence[str], least: float = PROMPTS, parts: Sequence[frozenset[Hashable]] = ()
) -> list[Twins]:
    """Groups of prompts that are too much alike; the first of each is kept."""
    return groups(links_of_texts(texts, least, parts))


def links_of_pictures(hashes: Sequence[np.ndarray], least: float = PICTURES) -> list[Link]:
    """Which pictures are too much alike."""
    if not hashes:
        return []
    table = np.array(hashes, dtype=np.int16) * 2 - 1
    links = []
    for i in range(1, len(table)):
        alike = (table[:i] @ table[i] / table.shape[1] + 1) / 2
        links += [Link(i, int(j), float(alike[j])) for j in np.flatnonzero(alike >= least)]
    return links


def groups(
    links: Sequence[Link], better: Callable[[int], Any] = lambda place: -place
) -> list[Twins]:
    """Groups round those to keep: the best that is in no group yet keeps what is too much like it.
    So nothing is removed for being like something that goes too.
    """
    near: dict[int, dict[int, float]] = {}
    for i, j, likeness in links:
        near.setdefault(i, {})[j] = near.setdefault(j, {})[i] = likeness
    found, gone = [], set()
    for keep in sorted(near, key=better, reverse=True):
        if keep not in gone and (
            like := {j: likeness for j, likeness in near[keep].items() if j not in gone}
        ):
            gone |= {keep, *like}
            found.append(Twins((keep, *sorted(like)), min(like.values())))
    return sorted(found, key=lambda one: min(one.places))
