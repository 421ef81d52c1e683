"""Into the limits of a model: whole phrases, their shorter forms, and plain text that has no
formula.
"""

import re
from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics import SyntagmaError
from syntagma.core.drafting.draft import (
    DraftPhrase,
    Glue,
    Noun,
    PairMark,
    PhrasePlan,
    lay_out,
    without_hanging,
)
from syntagma.core.drafting.fills import Fill, free_item
from syntagma.core.drafting.surroundings import Around
from syntagma.core.formula.tree import Group
from syntagma.core.models.measure import Limit
from syntagma.core.models.parameters import found_in
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.realising.request import text_in_request

# ──── A prompt into its limits with the least loss: shorter forms first, then whole phrases by mark
# and order, then words of free text.
#
# What is kept is the best that fits, in this sense: of the phrases that may go, unmarked ones
# before those marked `?`, earlier
# ones before later ones, each is kept if there is room for its shortest form beside all that came
# before it; what room is left
# gives them their longer forms back, in the same order; and of free text that found no place as a
# whole, as many words from its
# beginning as there is room for. What is marked `!` is never touched.


LEAST_WORDS = 2  # fewer words of a free text than these are not worth keeping


class TooLong(SyntagmaError):
    """What must stay is longer than the limit. `what` names it; `used` and `limit` say by
    how much.
    """

    def __init__(self, what: str, used: int, limit: Limit):
        super().__init__(
            f"{what} takes {used} {limit.unit}, {used - limit.most} over the {limit.most} allowed"
        )
        self.what, self.used, self.limit = what, used, limit


class Room(NamedTuple):
    """What a text has to fit into: each limit with what is used of it already, by all that
    surrounds the text, and what turns the text into what that limit counts.
    """

    limits: tuple[tuple[Limit, int, Callable[[str], str] | None], ...]

    def used(self, parts: Sequence[str]) -> list[int]:
        """How much of each limit a text takes, with what surrounds it."""
        return [
            around + (limit.used(parts) if made is None else limit.count(made("".join(parts))))
            for limit, around, made in self.limits
        ]

    def fits(self, parts: Sequence[str]) -> bool:
        return all(
            used <= limit.room
            for used, (limit, _, _) in zip(self.used(parts), self.limits, strict=True)
        )

    def over(self, parts: Sequence[str]) -> tuple[int, Limit] | None:
        """The first limit that a text breaks, and how much it takes; None if it fits."""
        return next(
            (
                (used, limit)
                for used, (limit, _, _) in zip(self.used(parts), self.limits, strict=True)
                if used > limit.room
            ),
            None,
        )


class Fitted(NamedTuple):
    """A prompt that was made to fit: what the register wrote, and the labels of what was left out,
    of what has a shorter form or fewer words (with those that went).
    """

    written: Any  # as the register writes it
    lines: tuple
    dropped: tuple[str, ...]
    shortened: tuple[str, ...] = ()
    cut: Mapping[str, str] = {}


class Forms(NamedTuple):
    """The forms of a phrase: lines from the fullest to the shortest; and of free text, in how many
    places it may end, and what gives it with the end at one of them, the earliest being 0 (the
    line, the words that go).
    """

    lines: Sequence[Any]  # each a line of the register
    ends: int = 0
    cut: Callable[[int], tuple[Any, str]] | None = None


def fit_lines(
    register: Any, plans: Sequence[PhrasePlan], forms: Sequence[Forms | None], room: Room
) -> Fitted:
    """The best that fits of phrases, each given in its forms (None if it is blank). Raises TooLong
    if what must stay is too long by itself.
    """
    return _Fit(register, plans, forms, room).best()


class _Fit:
    def __init__(
        self, register: Any, plans: Sequence[PhrasePlan], forms: Sequence[Forms | None], room: Room
    ):
        self.register, self.plans, self.forms, self.room = register, plans, forms, room
        self.lines: list = [
            f.lines[0] if f and plan.mark == "!" else None
            for f, plan in zip(forms, plans, strict=True)
        ]
        self._sizes: dict[object, list[int]] = {}
        additive = all(limit.additive and made is None for limit, _, made in room.limits)
        self._seams = (
            [_seam(limit) for limit, _, _ in room.limits]
            if additive and register.plain_seams
            else None
        )
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
            i, shortest = next((i, one) for i in order if (one := self.forms[i]))
            self.lines[i] = min(shortest.lines, key=lambda line: len(line.text))
            self._must_fit()
        shortened = tuple(
            self.plans[i].label
            for i in sorted(order)
            if self._is_shorter(i) and self.plans[i].label not in cut
        )
        written = self.register.write(self.lines, self.plans)
        return Fitted(
            written,
            tuple(self.lines),
            tuple(self.plans[i].label for i in sorted(lost)),
            shortened,
            cut,
        )

    def _is_shorter(self, i: int) -> bool:
        forms = self.forms[i]
        return (
            forms is not None and self.lines[i] is not None and self.lines[i] is not forms.lines[0]
        )

    def _must_fit(self) -> None:
        if any(line is not None for line in self.lines):
            over = self.room.over(self.register.write(self.lines, self.plans).parts)
            if over:
                raise TooLong("what must stay", *over)

    def _cut(self, i: int) -> str:
        """Keep the first words of a phrase's free text, as many as fit; return those that went, ""
        if none can stay.
        """
        forms = self.forms[i]
        if forms is None or forms.cut is None:
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

    def _put(self, i: int, line: Any) -> bool:
        """Put a line in place `i` if all still fits."""
        before = self.lines[i]
        self.lines[i] = line
        if self._fits(before, line):
            return True
        self.lines[i] = before
        return False

    def _fits(self, before: Any, line: Any) -> bool:
        """By the sum of the sizes if that is enough to tell, else by writing all."""
        if self._seams is None:
            return self.room.fits(self.register.write(self.lines, self.plans).parts)
        new = [
            s + self._size(line, k) - (self._size(before, k) if before is not None else 0)
            for k, s in enumerate(self._sums)
        ]
        rooms = [limit.room for limit, _, _ in self.room.limits]
        count = sum(one is not None for one in self.lines)
        if self.register.sums_hold and any(s > most for s, most in zip(new, rooms, strict=True)):
            return False
        sure = all(
            s + count * seam <= most for s, seam, most in zip(new, self._seams, rooms, strict=True)
        )
        if sure or self.room.fits(self.register.write(self.lines, self.plans).parts):
            self._sums = new
            return True
        return False

    def _size(self, line: Any, k: int) -> int:
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
    return [i for i, p in enumerate(plans) if not p.mark] + [
        i for i, p in enumerate(plans) if p.mark == "?"
    ]


def fit_items(
    items: Sequence[str], separator: str, limit: Limit
) -> tuple[tuple[str, ...], tuple[str, ...], int]:
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


# ──── The forms of a phrase, from the fullest to the shortest, for fitting: terms for phrases,
# dropped glue, fewer words of free text.


_LEADS = frozenset("and or but that which who whose where while as when until so".split())

Finish = Callable[[DraftPhrase], DraftPhrase]


def forms_of(
    register: Any, plan: PhrasePlan, fills: Mapping[str, Fill | None], finish: Finish, bare: bool
) -> Forms | None:
    """The forms of a phrase with these fills; None if it is blank. `finish` is what happens to a
    draft before it is written; `bare`: the phrase reads without its glue too.
    """
    laid = lay_out(plan, fills)
    full = register.line(finish(laid)) if laid else None
    if laid is None or full is None:
        return None
    lines = [full]
    if plan.mark != "!" and plan.slots:
        drafts = [lay_out(plan, {slot: fill and _in_terms(fill) for slot, fill in fills.items()})]
        drafts += [_bare(drafts[0])] if bare and drafts[0] else []
        for draft in drafts:
            line = register.line(finish(draft)) if draft else None
            if line is not None and line.text and len(line.text) < len(lines[-1].text):
                lines.append(line)
    slot = _longest_free(laid, fills) if plan.mark != "!" else ""
    fill = fills[slot] if slot else None
    if fill is None:
        return Forms(lines)
    words = fill.items[0].words.split()
    cuts = [n for n in range(LEAST_WORDS, len(words)) if may_end(words, n)]

    def cut(at: int) -> tuple[Any, str]:
        kept = without_hanging(" ".join(words[: cuts[at]])) or words[0]
        draft = lay_out(plan, {**fills, slot: _with_words(fill, kept)})
        assert draft is not None, "a slot that is filled leaves a draft"
        return register.line(finish(draft)), " ".join(words[len(kept.split()) :])

    return Forms(lines, len(cuts), cut)


def may_end(words: list[str], number: int) -> bool:
    """May a text end behind so many of its words? Where a new thought begins, so no adjective is
    left without its noun.
    """
    following = words[number].lower()
    return (
        words[number - 1].endswith((",", ";", ".", ":"))
        or following in _LEADS
        or following.endswith("ing")
        or english.starts_with_preposition(following + " x")
    )


def _in_terms(fill: Fill) -> Fill:
    """The fill with every term as it is named, not as it reads in a sentence."""
    if not any(item.term and item.words != item.tag for item in fill.items):
        return fill
    return Fill(
        fill.given, tuple(i._replace(words=i.tag) if i.term else i for i in fill.items), fill.count
    )


def _bare(laid: DraftPhrase) -> DraftPhrase | None:
    """A phrase with one noun group as that group alone: no glue, no article, no sentence form. None
    if it has more, or if something is quoted.
    """
    nouns = [part for part in laid.parts if isinstance(part, Noun)]
    if (
        len(nouns) != 1
        or any(isinstance(part, PairMark) for part in laid.parts)
        or laid.plan.joined
    ):
        return None
    group = nouns[0].group
    if group.form not in ("place", "clause") and not any(
        isinstance(part, Glue) for part in laid.parts
    ):
        return None  # nothing would go but the article
    words = tuple(word for word in group.words if word.kind not in ("article", "as", "form"))
    return laid._replace(parts=(Noun(Group(words, group.span), nouns[0].fills),))


def _longest_free(laid: DraftPhrase, fills: Mapping[str, Fill | None]) -> str:
    """The slot of a phrase with the longest free text that can lose words; "" if none can. What is
    spoken loses none.
    """
    if any(isinstance(part, PairMark) for part in laid.parts):
        return ""
    heads = [part.group.head for part in laid.parts if isinstance(part, Noun)]
    free = [slot for slot in heads if _free_words(fills[slot]) > LEAST_WORDS]
    return max(free, key=lambda slot: _free_words(fills[slot]), default="")


def _free_words(fill: Fill | None) -> int:
    return (
        len(fill.items[0].words.split())
        if fill and len(fill.items) == 1 and fill.items[0].term is None
        else 0
    )


def _with_words(fill: Fill, words: str) -> Fill:
    return Fill(fill.given, (free_item(words),))


# ──── Finished text into a model's limits, with no formula to say what matters: what is in front is
# kept, thoughts go from the end, then words; what comes after the text as parameters stays.


_THOUGHT = regex(r"[^\n]*?(?:[,;.!?]+[\"”’)\]]*(?=\s|$)|\n|$)")


class Bit(NamedTuple):
    """A stretch of the text, and whether it is lost."""

    text: str
    lost: bool


class PlainFit(NamedTuple):
    """Text that was made to fit: what is left, and the whole in bits that are kept or lost."""

    text: str
    bits: tuple[Bit, ...]
    used: int

    @property
    def lost(self) -> list[str]:
        """What was lost, each in its words."""
        return [words for bit in self.bits if bit.lost and (words := bit.text.strip(" ,;.\n"))]


def thoughts(text: str) -> list[str]:
    """A text cut behind its commas, stops and line ends; joined they are the text."""
    return [match.group() for match in _THOUGHT.finditer(text) if match.group()] or [text]


def fit_text(text: str, profile: Profile) -> PlainFit:
    """The best of a text that fits a profile's limits of the text, of all the pasted text and of
    the request. Raises TooLong if not even the first words fit.
    """
    found = found_in(profile, text)
    tail = text[found[0].start :] if found and _ends(text, found) else ""
    body = text[: len(text) - len(tail)]
    gap = body[len(body.rstrip()) :]
    body = body.rstrip()
    limits = [
        (limit, "" if name == "text" else gap + tail)
        for name in ("text", "whole")
        if (limit := profile.limit(name))
    ]
    sent, request = text_in_request(profile, Around(), "", gap + tail), profile.limit("request")

    def fits(one: str) -> bool:
        return all(limit.count(one + after) <= limit.room for limit, after in limits) and (
            not request or request.count(sent(one)) <= request.room
        )

    if fits(body):
        return PlainFit(text, (Bit(text, False),), _used(limits, body))
    kept: list[tuple[str, str]] = []  # (what is kept of a thought, what is lost of it)
    full = 0  # thoughts since the last one of which anything was kept
    for thought in thoughts(body):
        before = [k for k, _ in kept if k]
        if full > MISSES:
            kept.append(("", thought))
        elif fits(_joined([*before, thought])):
            kept.append((thought, ""))
            full = 0
        else:
            part = _part(thought, lambda p, before=before: fits(_joined([*before, p])))
            kept.append((part, thought[len(part) :]))
            full = 0 if part else full + 1
    left = _joined([k for k, _ in kept])
    if not left.strip():
        if not limits:
            assert request is not None, "something was too long"
            raise TooLong("the first thought", request.count(sent(thoughts(body)[0])), request)
        limit, after = next(
            (one for one in limits if one[0].count(thoughts(body)[0] + one[1]) > one[0].room),
            limits[0],
        )
        raise TooLong("the first thought", limit.count(thoughts(body)[0] + after), limit)
    bits = [
        Bit(part, bool(lost))
        for k, gone in kept
        for part, lost in ((k, False), (gone, True))
        if part
    ]
    return PlainFit(
        left + gap + tail, (*bits, *([Bit(gap + tail, False)] if tail else [])), _used(limits, left)
    )


def _ends(text: str, found: Sequence) -> bool:
    """Do the parameters stand at the end, with nothing but them after the first?"""
    at = found[0].start
    for one in found:
        if text[at : one.start].strip():
            return False
        at = one.stop
    return not text[at:].strip()


def _used(limits: Sequence, text: str) -> int:
    return limits[0][0].count(text) if limits else len(text)


MISSES = 40  # thoughts without any room, behind which nothing more is tried


def _part(thought: str, fits: Callable[[str], bool]) -> str:
    """The first words of a thought, as many as fit, to where it may end; "" if none."""
    lead = thought[: len(thought) - len(thought.lstrip())]
    words, ends = thought.split(), [match.end() for match in re.finditer(r"\S+", thought.lstrip())]

    def first(number: int) -> str:
        return lead + thought.lstrip()[: ends[number - 1]].rstrip(",;")

    most = bisect_left(range(2, len(words)), True, key=lambda number: not fits(first(number))) + 2
    for number in range(min(most + 3, len(words) - 1), 1, -1):
        if may_end(words, number) and fits(part := first(number)):
            return part
    return ""


def _joined(parts: Sequence[str]) -> str:
    """Kept thoughts one after the other: a sentence that lost its end is closed before the next
    begins, and no comma ends.
    """
    out = ""
    for part in parts:
        if not part:
            continue
        begins = part.lstrip()[:1]
        if (
            out
            and begins.isupper()
            and not english.ends_sentence(out.rstrip())
            and out.rstrip().endswith((",", ";"))
        ):
            out = out.rstrip().rstrip(",;") + "."
        out += part if out else part.lstrip()
    out = out.rstrip()
    return out.rstrip(",;") if out.endswith((",", ";")) else out
