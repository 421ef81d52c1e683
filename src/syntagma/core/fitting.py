"""A prompt into its limit, by dropping whole phrases: `?` first, then the unmarked ones, later ones before earlier."""

from collections.abc import Sequence

from syntagma.core.drafting import PhrasePlan
from syntagma.core.models.measure import Limit


class TooLong(Exception):
    """What must stay is longer than the limit. `what` names it; `used` and `limit` say by how much."""

    def __init__(self, what: str, used: int, limit: Limit):
        super().__init__(f"{what} takes {used} {limit.unit}, {used - limit.most} over the {limit.most} allowed")
        self.what, self.used, self.limit = what, used, limit


def fit_lines(register, lines: Sequence, plans: Sequence[PhrasePlan], limit: Limit):
    """Drop phrases of `lines` until they fit. Return (what `register` wrote, the indices dropped in order, used).

    Raises TooLong where the phrases that stay are too long by themselves.
    """
    left = list(lines)
    dropped: list[int] = []
    written = register.write(left, plans)
    for i in order_of_loss(plans):
        if left[i] is None or sum(line is not None for line in left) == 1:
            continue
        left[i] = None
        dropped.append(i)
        written = register.write(left, plans)
        used = limit.used(written.parts)
        if used <= limit.most:
            return written, tuple(dropped), used
    raise TooLong("what must stay", limit.used(written.parts), limit)


def order_of_loss(plans: Sequence[PhrasePlan]) -> list[int]:
    """The phrases in the order in which they go."""
    last_first = range(len(plans) - 1, -1, -1)
    return [i for i in last_first if plans[i].mark == "?"] + [i for i in last_first if not plans[i].mark]


def fit_items(items: Sequence[str], separator: str, limit: Limit) -> tuple[tuple[str, ...], tuple[str, ...], int]:
    """Negative text into its limit: the last item goes first. Return (kept, dropped, used)."""
    kept = list(items)
    while kept:
        used = limit.used([separator.join(kept)])
        if used <= limit.most:
            return tuple(kept), tuple(items[len(kept) :]), used
        if len(kept) == 1:
            raise TooLong(f"the negative text “{kept[0]}”", used, limit)
        kept.pop()
    return (), tuple(items), 0
