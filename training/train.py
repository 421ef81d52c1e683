"""Trains the reader of prompts from marked ones."""

import random
from collections.abc import Iterable, Sequence

from syntagma.core.reading.model.features import ENDS, LONGEST, Stretch
from syntagma.core.reading.model.weights import BEGIN, INSIDE, NONE, OUT, Model, Scorer
from syntagma.core.reading.model.words import is_lead
from training.marked_prompts import Example
from training.maxent import fit

BEST, REST = 0.7, 0.3  # how the mass of a part is shared: the best facet, all other fair ones
WRONG = 6  # wrong rows of words for each right one


def shares(facets: Sequence[str]) -> dict[str, float]:
    """How much of a part each of its fair facets has."""
    facets = list(dict.fromkeys(facets))
    if len(facets) == 1:
        return {facets[0]: 1.0}
    return {facet: BEST if i == 0 else REST / (len(facets) - 1) for i, facet in enumerate(facets)}


def wrong_parts(example: Example, chance: random.Random) -> list[tuple[int, int]]:
    """Rows of words that are no part, but could be one: from and to where parts begin and end, or where a word leads on."""
    words = example.stretch.words
    edges = {0, len(words)} | {x for part in example.parts for x in part[:2]}
    edges |= {i + 1 for i, w in enumerate(words) if not w.is_word} | {i for i, w in enumerate(words) if not w.is_word or is_lead(w.low)}
    edges |= set(chance.sample(range(len(words) + 1), min(len(words) // 4, len(words))))
    ordered = sorted(edges)
    right = {part[:2] for part in example.parts}
    found = []
    for n, a in enumerate(ordered):
        if a >= len(words) or not words[a].is_word:
            continue
        for b in ordered[n + 1 :]:
            if b - a > LONGEST // 2 or any(w.low in ENDS for w in words[a:b]):
                break
            if words[b - 1].is_word and (a, b) not in right:
                found.append((a, b))
    most = WRONG * max(1, len(example.parts))
    return chance.sample(found, most) if len(found) > most else found


def _unnamed(features: list[str]) -> list[str]:
    """Features without those that know the name: what is learned from a name is to hold for others."""
    return [f for f in features if f[0] not in "vt" and not f.startswith(("hv", "kt"))]


def trained(examples: Iterable[Example], vocabulary: Iterable[tuple[Stretch, str]] = (), prior: float = 1.0, rounds: int = 80, weight: float = 0.3) -> Model:
    """A model made from examples. `vocabulary`: names with their facets, each as a text of its own."""
    chance = random.Random(1)
    rows, facets, edges = [], [], []
    spans, kinds = [], []
    for example in examples:
        stretch = example.stretch
        target = [{OUT: 1.0}] * len(stretch.words)
        edge = [OUT] * len(stretch.words)
        for a, b, fair in example.parts:
            target[a:b] = [shares(fair)] * (b - a)
            edge[a:b] = [BEGIN] + [INSIDE] * (b - a - 1)
            spans.append(stretch.of_part(a, b))
            kinds.append(shares(fair))
        for a, b in wrong_parts(example, chance):
            spans.append(stretch.of_part(a, b))
            kinds.append({NONE: 1.0})
        rows += [stretch.of_word(i) for i in range(len(stretch.words))]
        facets += target
        edges += [{one: 1.0} for one in edge]
    every = sorted({facet for target in facets for facet in target})
    for stretch, facet in vocabulary:
        if facet in every:
            n = len(stretch.words)
            spans.append(_unnamed(stretch.of_part(0, n)))
            kinds.append({facet: weight})
            rows += [_unnamed(stretch.of_word(i)) for i in range(n)]
            facets += [{facet: weight}] * n
            edges += [{BEGIN if i == 0 else INSIDE: weight / 3} for i in range(n)]
    labels = [NONE, *(facet for facet in every if facet != OUT)]
    return Model(
        Scorer(every, fit(rows, facets, every, prior=prior, rounds=rounds)),
        Scorer([BEGIN, INSIDE, OUT], fit(rows, edges, [BEGIN, INSIDE, OUT], prior=prior, rounds=rounds)),
        Scorer(labels, fit(spans, kinds, labels, prior=prior, rounds=rounds)),
    )
