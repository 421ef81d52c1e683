"""Trains the reader of prompts from marked ones."""

import random
from collections.abc import Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

from syntagma.core.reading.features import ENDS, LONGEST, Read, WordRow
from syntagma.core.reading.weights import BEGIN, INSIDE, NONE, OUT, PartsModel, Scorer
from syntagma.core.reading.words import is_lead
from training.judging import judged
from training.marked_prompts import Example
from training.maxent import fit

EDGES = [BEGIN, INSIDE, OUT]
Alone = tuple[WordRow, str]  # a text by itself, and its facet
BEST, REST = 0.7, 0.3  # how the mass of a part is shared: the best facet, all other fair ones
NAME, PHRASE = (
    0.3,
    0.6,
)  # what a name of the vocabulary and a part by itself count beside a part of a prompt
# Kinds of features, by the letters before "=".
KINDS = {
    "senses of words": frozenset("c c- c+ hc kc p,c fc 1c -c".split()),
    "names of the vocabulary": frozenset("v v# vd hv".split()),
    "words of the trade": frozenset("t t+ th kt".split()),
    "parts of speech": frozenset("g g- g+ g# g9".split()),
    "the verb of the stretch": frozenset({"va"}),
    "what was read before": frozenset("r r- r1 rs rs1 rs- rh".split()),
    "the words themselves": frozenset(
        "w w- w+ w-- w++ w-w ww+ e3 e2 hy h h1 9 9+ kh 1 - + -1".split()
    ),
    "what leads, and where it stands": frozenset("p k k# k1 k0 ki kj s0 si at".split()),
    "capitals": frozenset({"cap"}),
    "labels and quotation marks": frozenset("l q".split()),
}
WRONG = 6  # wrong rows of words for each right one


def shares(facets: Sequence[str], weight: float = 1.0) -> dict[str, float]:
    """How much of a part each of its fair facets has, `weight` in all."""
    facets = list(dict.fromkeys(facets))
    if len(facets) == 1:
        return {facets[0]: weight}
    return {
        facet: weight * (BEST if i == 0 else REST / (len(facets) - 1))
        for i, facet in enumerate(facets)
    }


def wrong_parts(example: Example, chance: random.Random) -> list[tuple[int, int]]:
    """Rows of words that are no part, but could be one: from and to where parts begin and end, or
    where a word leads on.
    """
    words = example.stretch.words
    edges = {0, len(words)} | {x for part in example.parts for x in part[:2]}
    edges |= {i + 1 for i, w in enumerate(words) if not w.is_word} | {
        i for i, w in enumerate(words) if not w.is_word or is_lead(w.low)
    }
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
    """Features without those that know the name: what is learned from a name is to hold for
    others.
    """
    return [f for f in features if f[0] not in "vt" and not f.startswith(("hv", "kt"))]


def of_part(stretch: WordRow, a: int, b: int, read: Read | None = None) -> list[str]:
    """All features of words as one part."""
    inside = [stretch.of_inside(i) for i in range(a, b)]
    return stretch.spelled(
        [*stretch.of_part(a, b), *inside, *(stretch.of_history(a, read) if read else ())]
    )


class Cases:
    """What is learned from: rows of features with the shares of their labels."""

    def __init__(self, without: str = "") -> None:
        self._left_out = KINDS.get(without, frozenset())
        self.rows: list[Sequence[str]] = []
        self.shares: list[dict[str, float]] = []

    def add(self, row: Sequence[str], shares: dict[str, float]) -> None:
        self.rows.append(
            [feature for feature in row if feature.split("=", 1)[0] not in self._left_out]
            if self._left_out
            else row
        )
        self.shares.append(shares)


Spans = list[tuple[int, int]]


def trained(
    hands: Mapping[str, Sequence[Example]],
    names: Sequence[Alone] = (),
    phrases: Sequence[Alone] = (),
    prior: float = 1.0,
    rounds: int = 60,
) -> PartsModel:
    """A model made from the examples of some hands. `names`: names of the vocabulary and words of
    the trade; `phrases`: parts by themselves; each as a text of its own.

    It is made twice: what a model of one half of the hands reads wrong in the other half is shown
    to the second as what is no part, and how often such a model is right says how sure the second
    may be.
    """
    examples = [example for hand in sorted(hands) for example in hands[hand]]
    half = [n % 2 for n, hand in enumerate(sorted(hands)) for _ in hands[hand]]
    mistakes: dict[int, Spans] = {}
    sure: list[tuple[float, bool]] = []
    for mine in (0, 1):
        model = fitted(
            [e for e, own in zip(examples, half, strict=True) if own == mine],
            names,
            phrases,
            prior,
            rounds // 2,
        )
        others = [n for n, own in enumerate(half) if own != mine]
        mistakes |= {n: misread(model, examples[n]) for n in others}
        sure += judged((examples[n] for n in others if examples[n].weight == 1), model.read).sure
    model = fitted(examples, names, phrases, prior, rounds, mistakes)
    model.sure = calibrated(sure)
    return model


def calibrated(found: Sequence[tuple[float, bool]], bins: int = 20) -> list[tuple[float, float]]:
    """How often parts are right by what their model has for them: points of a line that never
    falls. Bins of as many parts each, those that fall joined with the one before (pool adjacent
    violators; Ayer et al. 1955).
    """
    ordered = sorted(found)
    size = max(1, len(ordered) // bins)
    pools: list[list[tuple[float, bool]]] = []
    for at in range(0, len(ordered), size):
        pools.append(ordered[at : at + size])
        while len(pools) > 1 and _share(pools[-2]) >= _share(pools[-1]):
            pools[-2:] = [pools[-2] + pools[-1]]
    return [
        (round(sum(raw for raw, _ in pool) / len(pool), 4), round(_share(pool), 3))
        for pool in pools
    ]


def _share(pool: Sequence[tuple[float, bool]]) -> float:
    return sum(right for _, right in pool) / len(pool)


def misread(model: PartsModel, example: Example) -> Spans:
    """The rows of words that a model takes for parts, and that are none."""
    right = {part[:2] for part in example.parts}
    return [
        (p.first, p.stop)
        for p in model.read(example.stretch, example.before)
        if (p.first, p.stop) not in right
    ]


def fitted(
    examples: Sequence[Example],
    names: Sequence[Alone],
    phrases: Sequence[Alone],
    prior: float,
    rounds: int,
    mistakes: Mapping[int, Spans] = {},
    without: str = "",
) -> PartsModel:
    """A model made once. `mistakes`: by example, rows of words that are no parts; `without`: a kind
    of features (`KINDS`) that is left out.
    """
    chance = random.Random(1)
    words, edges, parts = Cases(without), Cases(without), Cases(without)
    for number, example in enumerate(examples):
        stretch, weight = example.stretch, example.weight
        target = [{OUT: weight}] * len(stretch.words)
        edge = [OUT] * len(stretch.words)
        for a, b, fair in example.parts:
            target[a:b] = [shares(fair, weight)] * (b - a)
            edge[a:b] = [BEGIN] + [INSIDE] * (b - a - 1)
            parts.add(of_part(stretch, a, b, example.read_before(a)), shares(fair, weight))
        for a, b in dict.fromkeys([*wrong_parts(example, chance), *mistakes.get(number, ())]):
            parts.add(of_part(stretch, a, b, example.read_before(a)), {NONE: weight})
        for i in range(len(stretch.words)):
            row = stretch.spelled(stretch.of_word(i))
            words.add(row, target[i])
            edges.add(row, {edge[i]: weight})
    facets = sorted({facet for target in words.shares for facet in target} - {OUT})
    for alone, weight, seen in ((names, NAME, _unnamed), (phrases, PHRASE, list)):
        for stretch, facet in alone:
            if facet in facets:
                n = len(stretch.words)
                parts.add(seen(of_part(stretch, 0, n)), {facet: weight})
                for i in range(n):
                    row = seen(stretch.spelled(stretch.of_word(i)))
                    words.add(row, {facet: weight})
                    edges.add(row, {BEGIN if i == 0 else INSIDE: weight / 3})
    kinds = [NONE, *facets]
    tasks = ((words, [OUT, *facets]), (edges, EDGES), (parts, kinds))
    with ProcessPoolExecutor(2, get_context("fork")) as pool:
        by_facet, by_edge, by_part = [
            future.result()
            for future in [
                pool.submit(fit, cases.rows, cases.shares, labels, 2, prior, rounds)
                for cases, labels in tasks
            ]
        ]
    both = {feature: (*row, *by_edge[feature]) for feature, row in by_facet.items()}
    return PartsModel(Scorer.of([OUT, *facets, *EDGES], both), Scorer.of(kinds, by_part))
