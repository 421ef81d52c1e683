"""A prompt into its limits with the least loss: shorter forms first, then whole phrases by mark and order, then words of free text.

What is kept is the best that fits, in this sense: of the phrases that may go, unmarked ones before those marked `?`, earlier
ones before later ones, each is kept if there is room for its shortest form beside all that came before it; what room is left
gives them their longer forms back, in the same order; and of free text that found no place as a whole, as many words from its
beginning as there is room for. What is marked `!` is never touched.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.draft import PhrasePlan
from syntagma.core.models.measure import Limit

LEAST_WORDS = 2  # fewer words of a free text than these are not worth keeping


class TooLong(Exception):
    """What must stay is longer than the limit. `what` names it; `used` and `limit` say by how much."""

    def __init__(self, what: str, used: int, limit: Limit):
        super().__init__(f"{what} takes {used} {limit.unit}, {used - limit.most} over the {limit.most} allowed")
        self.what, self.used, self.limit = what, used, limit


class Room(NamedTuple):
    """What a text has to fit into: each limit with what is used of it already, by all that surrounds the text, and what
    turns the text into what that limit counts."""

    limits: tuple[tuple[Limit, int, Callable[[str], str] | None], ...]

    def used(self, parts: Sequence[str]) -> list[int]:
        """How much of each limit a text takes, with what surrounds it."""
        return [
            around + (limit.used(parts) if made is None else limit.count(made("".join(parts))))
            for limit, around, made in self.limits
        ]

    def fits(self, parts: Sequence[str]) -> bool:
        return all(used <= limit.room for used, (limit, _, _) in zip(self.used(parts), self.limits, strict=True))

    def over(self, parts: Sequence[str]) -> tuple[int, Limit] | None:
        """The first limit that a text breaks, and how much it takes; None if it fits."""
        return next(
            ((used, limit) for used, (limit, _, _) in zip(self.used(parts), self.limits, strict=True) if used > limit.room), None
        )


class Fitted(NamedTuple):
    """A prompt that was made to fit: what the register wrote, and the labels of what was left out, of what has a shorter form
    or fewer words (with those that went)."""

    written: object
    lines: tuple
    dropped: tuple[str, ...]
    shortened: tuple[str, ...] = ()
    cut: Mapping[str, str] = {}


class Forms(NamedTuple):
    """The forms of a phrase: lines from the fullest to the shortest; and of free text, in how many places it may end, and what
    gives it with the end at one of them, the earliest being 0 (the line, the words that go)."""

    lines: Sequence[object]
    ends: int = 0
    cut: Callable[[int], tuple[object, str]] | None = None


def fit_lines(register, plans: Sequence[PhrasePlan], forms: Sequence[Forms | None], room: Room) -> Fitted:
    """The best that fits of phrases, each given in its forms (None if it is blank). Raises TooLong if what must stay is
    too long by itself."""
    return _Fit(register, plans, forms, room).best()


class _Fit:
    def __init__(self, register, plans: Sequence[PhrasePlan], forms: Sequence[Forms | None], room: Room):
        self.register, self.plans, self.forms, self.room = register, plans, forms, room
        self.lines: list = [f.lines[0] if f and plan.mark == "!" else None for f, plan in zip(forms, plans, strict=True)]
        self._sizes: dict[object, list[int]] = {}
        additive = all(limit.additive and made is None for limit, _, made in room.limits)
        self._seams = [_seam(limit) for limit, _, _ in room.limits] if additive and register.plain_seams else None
        self._sums = self._summed() if self._seams else []

    def best(self) -> Fitted:
        self._must_fit()
        order = by_importance(self.plans)
        lost = []
        for i in order:
            forms = self.forms[i]
            if forms is None:
                continue
            if not self._put(i, min(forms.lines, key=lambda line: len(line.text))):
                lost.append(i)
        for i in order:
            forms = self.forms[i]
            if forms is None or self.lines[i] is None:
                continue
            for line in forms.lines:
                if line is self.lines[i] or self._put(i, line):
                    break
        cut = {}
        for i in list(lost):
            if words := self._cut(i):
                cut[self.plans[i].label] = words
                lost.remove(i)
        if not any(line is not None for line in self.lines):
            i = next(i for i in order if self.forms[i])
            self.lines[i] = min(self.forms[i].lines, key=lambda line: len(line.text))
            self._must_fit()
        shortened = tuple(self.plans[i].label for i in sorted(order) if self._is_shorter(i) and self.plans[i].label not in cut)
        written = self.register.write(self.lines, self.plans)
        return Fitted(written, tuple(self.lines), tuple(self.plans[i].label for i in sorted(lost)), shortened, cut)

    def _is_shorter(self, i: int) -> bool:
        return self.lines[i] is not None and self.lines[i] is not self.forms[i].lines[0]

    def _must_fit(self) -> None:
        if any(line is not None for line in self.lines):
            over = self.room.over(self.register.write(self.lines, self.plans).parts)
            if over:
                raise TooLong("what must stay", *over)

    def _cut(self, i: int) -> str:
        """Keep the first words of a phrase's free text, as many as fit; return those that went, "" if none can stay."""
        forms = self.forms[i]
        if not forms.cut:
            return ""
        low, high, kept = 0, forms.ends - 1, ""
        while low <= high:
            middle = (low + high) // 2
            line, gone = forms.cut(middle)
            if self._put(i, line):
                low, kept = middle + 1, gone
            else:
                high = middle - 1
        return kept

    def _put(self, i: int, line) -> bool:
        """Put a line in place `i` if all still fits."""
        before = self.lines[i]
        self.lines[i] = line
        if self._fits(before, line):
            return True
        self.lines[i] = before
        return False

    def _fits(self, before, line) -> bool:
        """By the sum of the sizes if that is enough to tell, else by writing all."""
        if self._seams is None:
            return self.room.fits(self.register.write(self.lines, self.plans).parts)
        new = [s + self._size(line, k) - (self._size(before, k) if before is not None else 0) for k, s in enumerate(self._sums)]
        rooms = [limit.room for limit, _, _ in self.room.limits]
        count = sum(one is not None for one in self.lines)
        if self.register.sums_hold and any(s > most for s, most in zip(new, rooms, strict=True)):
            return False
        sure = all(s + count * seam <= most for s, seam, most in zip(new, self._seams, rooms, strict=True))
        if sure or self.room.fits(self.register.write(self.lines, self.plans).parts):
            self._sums = new
            return True
        return False

    def _size(self, line, k: int) -> int:
        sizes = self._sizes.get(line)
        if sizes is None:
            sizes = self._sizes[line] = [limit.count(line.text) for limit, _, _ in self.room.limits]
        return sizes[k]

    def _summed(self) -> list[int]:
        return [
            around + sum(self._size(line, k) for line in self.lines if line is not None)
            for k, (_, around, _) in enumerate(self.room.limits)
        ]


def _seam(limit: Limit) -> int:
    """The most that stands between two lines, or after the last, in a limit's unit."""
    return {"characters": 3, "bytes": 3, "words": 0, "tokens": 2}[limit.unit]


def by_importance(plans: Sequence[PhrasePlan]) -> list[int]:
    """The phrases that may go, in the order in which they are kept."""
    return [i for i, p in enumerate(plans) if not p.mark] + [i for i, p in enumerate(plans) if p.mark == "?"]


def fit_items(items: Sequence[str], separator: str, limit: Limit) -> tuple[tuple[str, ...], tuple[str, ...], int]:
    """Negative text into its limit: the last item goes first. Return (kept, dropped, used)."""
    kept = list(items)
    while kept:
        used = limit.used([separator.join(kept)])
        if used <= limit.room:
            return tuple(kept), tuple(items[len(kept) :]), used
        if len(kept) == 1:
            raise TooLong(f"the negative text “{kept[0]}”", used, limit)
        kept.pop()
    return (), tuple(items), 0
