"""In which order results are judged: a different one for each judge, and some of them twice, so that it can be told how steady a judge is."""

from collections.abc import Sequence
from random import Random

REPEATED = 10  # after so many one that was judged before comes again
APART = 4  # but none of the last so many


def next_one(ids: Sequence[int], said: Sequence[int], seed: str) -> int | None:
    """The next result to judge, by a judge who has judged `said` in that order; None when all have been, and one in ten twice."""
    order = list(ids)
    Random(seed).shuffle(order)
    count = len(said)
    if count and count % (REPEATED + 1) == REPEATED:
        once = [number for number in dict.fromkeys(said[:-APART]) if said.count(number) == 1]
        if once:
            return Random(f"{seed} {count}").choice(once)
    done = set(said)
    return next((number for number in order if number not in done), None)


def wanted(ids: Sequence[int]) -> int:
    """How many judgements that comes to."""
    return len(ids) + len(ids) // REPEATED


def pairs_wanted(things: int) -> int:
    """How many pairs are enough to begin with: a third of all, at least as many as hang everything together."""
    return max(things, things * (things - 1) // 6) if things > 1 else 0


def pair_list(things: int, seed: int) -> list[tuple[int, int]]:
    """Pairs for a page that nobody answers meanwhile: a ring in a random order, then pairs by chance, each once, sides balanced, one in twenty again with its sides
    changed."""
    random = Random(seed)
    order = list(range(things))
    random.shuffle(order)
    ring = [(order[i], order[(i + 1) % things]) for i in range(things)] if things > 2 else [(0, 1)] if things == 2 else []
    seen = {frozenset(pair) for pair in ring}
    rest = [(i, j) for i in range(things) for j in range(i) if frozenset((i, j)) not in seen]
    random.shuffle(rest)
    found, left = [], [0] * things
    for i, j in [*ring, *rest][: pairs_wanted(things)]:
        pair = (i, j) if left[i] <= left[j] else (j, i)
        left[pair[0]] += 1
        left[pair[1]] -= 1
        found.append(pair)
        if len(found) % 20 == 19:
            a, b = random.choice(found[:-1])
            found.append((b, a))
    return found
