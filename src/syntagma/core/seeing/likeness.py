"""Which of many are too much alike: pictures by a perceptual hash, prompts by the words that they share; and groups of those that hang together.

Source of the hash: the signs of the lowest frequencies of a small grey picture's cosine transform (C. Zauner, Implementation and benchmarking of perceptual image
hash functions, 2010); of the likeness of texts: shared runs of letters (A. Z. Broder, On the resemblance and containment of documents, 1997).
"""

from collections.abc import Hashable, Sequence
from typing import NamedTuple

import numpy as np

SIDE, LOW = 32, 8
PICTURES, PROMPTS = 0.86, 0.82  # likeness from which two are too much alike
RUN = 5  # letters of a run


class Twins(NamedTuple):
    """Things that are too much alike: their places, the one to keep first; and how alike the least alike two neighbours are."""

    places: tuple[int, ...]
    likeness: float


def picture_hash(grey: np.ndarray) -> np.ndarray:
    """The hash of a grey picture of 32 × 32 (0 to 255): 63 signs, and what the picture is like on the whole behind them."""
    n = np.arange(SIDE)
    basis = np.cos(np.pi * (2 * n[None, :] + 1) * n[:, None] / (2 * SIDE))
    low = (basis @ grey.astype(float) @ basis.T)[:LOW, :LOW].ravel()[1:]
    return low > np.median(low)


def hash_likeness(a: np.ndarray, b: np.ndarray) -> float:
    """0 to 1; two pictures that have nothing to do with each other are about 0.5 alike."""
    return float((a == b).mean())


def runs(text: str) -> frozenset[Hashable]:
    """The runs of letters of a text."""
    plain = " ".join("".join(letter.lower() if letter.isalnum() else " " for letter in text).split())
    return frozenset(plain[i : i + RUN] for i in range(max(1, len(plain) - RUN + 1)))


def text_likeness(a: frozenset, b: frozenset) -> float:
    """0 to 1: the share of runs that two texts have in common."""
    return len(a & b) / len(a | b) if a or b else 1.0


def twins_of_texts(texts: Sequence[str], least: float = PROMPTS) -> list[Twins]:
    """Groups of prompts that are too much alike."""
    sets = [runs(text) for text in texts]
    by_run: dict[Hashable, list[int]] = {}
    order = sorted(range(len(sets)), key=lambda i: len(sets[i]))
    counts: dict[Hashable, int] = {}
    for one in sets:
        for run in one:
            counts[run] = counts.get(run, 0) + 1
    links: list[tuple[int, int, float]] = []
    for i in order:  # two that are alike share a rare run among the first of each: only those are compared
        rare = sorted(sets[i], key=lambda run: (counts[run], run))
        first = rare[: len(rare) - int(least * len(rare)) + 1]
        near = {j for run in first for j in by_run.get(run, ())}
        for j in near:
            if (likeness := text_likeness(sets[i], sets[j])) >= least:
                links.append((i, j, likeness))
        for run in first:
            by_run.setdefault(run, []).append(i)
    return _groups(len(texts), links)


def twins_of_pictures(hashes: Sequence[np.ndarray], least: float = PICTURES) -> list[Twins]:
    """Groups of pictures that are too much alike."""
    if not hashes:
        return []
    table = np.array(hashes, dtype=np.int16) * 2 - 1
    links = []
    for i in range(1, len(table)):
        alike = (table[:i] @ table[i] / table.shape[1] + 1) / 2
        links += [(i, int(j), float(alike[j])) for j in np.flatnonzero(alike >= least)]
    return _groups(len(table), links)


def _groups(count: int, links: Sequence[tuple[int, int, float]]) -> list[Twins]:
    group = list(range(count))

    def head(i: int) -> int:
        while group[i] != i:
            group[i] = group[group[i]]
            i = group[i]
        return i

    for i, j, _ in links:
        group[max(head(i), head(j))] = min(head(i), head(j))
    members: dict[int, list[int]] = {}
    for i in range(count):
        members.setdefault(head(i), []).append(i)
    least: dict[int, float] = {}
    for i, _, likeness in links:
        least[head(i)] = min(least.get(head(i), 1.0), likeness)
    return [Twins(tuple(own), least[key]) for key, own in members.items() if len(own) > 1]
