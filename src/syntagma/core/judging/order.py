"""In which order results are judged: a different one for each judge, and some of them twice, so it can be determined how steady a judge is."""

from collections.abc import Sequence
from random import Random

AGAIN_AFTER = 10  # after so many one that was judged before comes again
APART = 4  # but none of the last so many
MOST_PAIRS = 400  # that one judge is asked for, but if there are more things than that


def next_one(ids: Sequence[int], said: Sequence[int], seed: str) -> int | None:
    """The next result to judge, by a judge who has judged `said` in that order; None when all have been, and one in ten twice."""
    order = list(ids)
    Random(seed).shuffle(order)
    count = len(said)
    if count and count % (AGAIN_AFTER + 1) == AGAIN_AFTER:
        once = [number for number in dict.fromkeys(said[:-APART]) if said.count(number) == 1]
        if once:
            return Random(f"{seed} {count}").choice(once)
    done = set(said)
    return next((number for number in order if number not in done), None)


def wanted(ids: Sequence[int]) -> int:
    """How many judgements that comes to."""
    return len(ids) + len(ids) // AGAIN_AFTER


def pairs_wanted(things: int) -> int:
    """How many pairs one judge is asked at most: a third of all of few things, of many as many as tell them apart in an evening."""
    if things < 2:
        return 0
    return max(min(things, things * (things - 1)), min(things * (things - 1) // 6, 2 * things + 44, max(things, MOST_PAIRS)))


def pair_list(things: int, seed: int) -> list[tuple[int, int]]:
    """Pairs for a page, which gets no answers in between: a ring in a random order, then pairs by chance, each once, sides balanced, one in twenty again with its sides
    changed."""
    random = Random(seed)
    order = list(range(things))
    random.shuffle(order)
    ring = [(order[i], order[(i + 1) % things]) for i in range(things)] if things > 2 else [(0, 1)] if things == 2 else []
    seen, whole = {frozenset(pair) for pair in ring}, pairs_wanted(things)
    rest: list[tuple[int, int]] = []
    while len(ring) + len(rest) < min(whole, things * (things - 1) // 2):
        i, j = random.sample(range(things), 2)
        if frozenset((i, j)) not in seen:
            seen.add(frozenset((i, j)))
            rest.append((i, j))
    found, left = [], [0] * things
    for i, j in [*ring, *rest]:
        pair = (i, j) if left[i] <= left[j] else (j, i)
        left[pair[0]] += 1
        left[pair[1]] -= 1
        found.append(pair)
        if len(found) % 20 == 19:
            there = set(found)
            a, b = random.choice([pair for pair in found[:-1] if pair[::-1] not in there])
            found.append((b, a))
    return found
