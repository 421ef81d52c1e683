"""A family of prompts, one after the other: between two of them only the phrases whose slots changed are made again, and only
their seams."""

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from syntagma.core.drafting.fills import BadFills, Fill
from syntagma.core.drafting.surroundings import Wear
from syntagma.core.fitting.limits import Room, TooLong, fit_items, fit_lines
from syntagma.core.realising import Piece
from syntagma.core.writing.prompt import CACHE, Prompt

if TYPE_CHECKING:
    from syntagma.core.writing.prompt_writer import Writer

_NO_LIMIT = 1 << 62
_UNKNOWN = object()


class Run:
    """One family: some slots fixed by `fills`, those at `positions` different from prompt to prompt.

    Where only the last of them changes, and in one phrase only, the text round that phrase (the frame) is kept, and so
    is what each fill makes of the phrase between these neighbours: such a prompt costs a look-up and a concatenation.
    """

    def __init__(self, writer: "Writer", fills: Sequence[Fill | None], positions: Sequence[int]):
        self.writer = writer
        self.values = list(fills)
        self.positions = tuple(positions)
        self.lines = [writer.line(i, self.values) for i in range(len(writer.plans))]
        self.written = None  # made by the first prompt: the first fills of a family may be blank
        self._touched = [(writer.phrases_of(p), writer.negative.has(writer.rules[p].name)) for p in self.positions]
        self._last: tuple = tuple(self.values[p] for p in self.positions)
        self._limit = writer.profile.text_limit
        self._others = [(name, limit) for name in ("whole", "request") if (limit := writer.profile.limit(name))]
        self._simple = not self._others and not (self._limit and not self._limit.additive)
        self._most = self._limit.room if self._limit else _NO_LIMIT
        self._count = self._limit.count if self._limit else len
        self.wear = Wear()
        phrases, in_negative = self._touched[-1] if self._touched else ((), True)
        changing = self._touched and writer.rules[self.positions[-1]].name
        framed = self._simple and len(phrases) == 1 and not in_negative and not writer.manner.known
        self._inner = phrases[0] if framed and changing not in writer.dress.menus else -1
        inner_slots = writer.positions_of(self._inner) if self._inner >= 0 else ()
        self._beside = [p for p in inner_slots if p != self.positions[-1]]  # what else the changing phrase depends on
        self._outer: tuple | None = None  # the fills of all but the last position that the frame is for
        self._head = self._tail = ""
        self._round = 0  # how much of the limit head and tail use
        self._middles: dict = {}
        self._frames: dict = {}
        self._varied = bool(writer.dress.menus or writer.manner.known)
        self._dress()

    def _dress(self) -> None:
        """Negative text, and all that stands round the words."""
        profile, named = self.writer.profile, self.writer.named(self.values)
        items = self.writer.negative.items(named)
        limit = profile.negative_limit
        self.negative_dropped: tuple[str, ...] = ()
        self.negative_used = 0
        if limit and items:
            items, self.negative_dropped, self.negative_used = fit_items(items, profile.negative.separator, limit)
        self.wear = self.writer.dress.put_on(named, items)
        self.negative = self.wear.negative
        self._before, self._behind = self.wear.front + self.wear.before, self.wear.behind + self.wear.after
        self._counted = sum(map(self._count, filter(None, (self.wear.before, self.wear.behind))))
        self._outer = None

    def write(self, combination: Sequence[Fill | None]) -> Prompt:
        """Write the prompt with these fills in the slots at `positions`. Raises as Writer.write does."""
        prompts, bad = self.write_all([combination])
        if bad:
            raise bad[0]
        return prompts[0]

    def write_all(self, combinations: Iterable[Sequence[Fill | None]]) -> tuple[list[Prompt | None], dict[int, Exception]]:
        """Write a prompt for each combination, in order. Return them, None where there is none, and for those (by their
        place) the BadFills or TooLong that says why."""
        prompts: list[Prompt | None] = []
        bad: dict[int, Exception] = {}
        add, new = prompts.append, tuple.__new__  # a third of the time of calling Prompt
        outer, most, middles = None, self._most, {}
        head = tail = negative = ""
        wear = self.wear
        around = negative_used = 0
        negative_dropped: tuple[str, ...] = ()
        for combination in combinations:
            if outer is not None and combination[:-1] == outer and (middle := middles.get(combination[-1])):
                text, size = middle
                if around + size <= most:
                    add(new(Prompt, (head + text + tail, negative, around + size, negative_used, (), negative_dropped, wear, None)))
                    continue
            try:
                add(self._write(combination))
            except (BadFills, TooLong) as error:
                bad[len(prompts)] = error
                add(None)
                self.written = self._outer = None
                self._last = (_UNKNOWN,) * len(self.positions)  # whatever was left half done is done again
            outer = self._outer
            if outer is not None:
                head, tail, around, middles = self._head, self._tail, self._round, self._middles
                negative, negative_used, negative_dropped, wear = (
                    self.negative,
                    self.negative_used,
                    self.negative_dropped,
                    self.wear,
                )
        return prompts, bad

    def _write(self, combination: Sequence[Fill | None]) -> Prompt:
        self._change(combination)
        parts = self.written.parts
        fitted = None
        if self._simple:
            used = self._counted + sum(map(self._count, parts))
            over = used > self._most
        else:
            room = self._room()
            over = not room.fits(parts)
            used = room.used(parts)[0] if self._limit else 0
        if over:
            room = self._room()
            forms = [self.writer.forms(i, self.values) for i in range(len(self.writer.plans))]
            fitted = fit_lines(self.writer.register, self.writer.plans, forms, room)
            parts = fitted.written.parts
            used = room.used(parts)[0] if self._limit else 0
        elif self._inner >= 0:
            self._frame(combination, parts)
        text = self._before + "".join(parts) + self._behind
        dropped = fitted.dropped if fitted else ()
        return Prompt(text, self.negative, used, self.negative_used, dropped, self.negative_dropped, self.wear, fitted)

    def _room(self) -> Room:
        """The limits that the words have to fit into, with what stands round them."""
        limits = [(self._limit, self._counted, None)] if self._limit else []
        for name, limit in self._others:
            round_ = [part for part in (self._before, self._behind) if part]
            if name == "whole":
                limits.append((limit, sum(map(limit.count, round_)), None))
            else:
                from syntagma.core.models.request import text_in_request  # imported late: few models limit it

                made = text_in_request(self.writer.profile, self.wear, self._before, self._behind)
                limits.append((limit, 0, made))
        return Room(tuple(limits))

    def _change(self, combination: Sequence[Fill | None]) -> None:
        """Bring lines and seams to this combination."""
        negative_changed = False
        for k, (fill, last) in enumerate(zip(combination, self._last, strict=True)):
            if fill is last:
                continue
            self.values[self.positions[k]] = fill
            if fill is None:
                self.written = None  # is it needed? asked when all is written again
            phrases, in_negative = self._touched[k]
            negative_changed = negative_changed or in_negative or self._varied
            for i in phrases:
                line = self.lines[i] = self.writer.line(i, self.values)
                if self.written is not None and not self.written.change(i, line):
                    self.written = None
        self._last = combination
        if negative_changed:
            self._dress()
        if self.written is None:
            self.writer.need(self.values, self.lines)
            self.written = self.writer.register.write(self.lines, self.writer.plans)

    def _frame(self, combination: Sequence[Fill | None], parts: Sequence[str]) -> None:
        """Keep what the changing phrase and its follower are here, and the text round them."""
        span = self.written.reach(self._inner)
        if span is None:
            self._outer = None
            return
        start, stop, neighbours = span
        if combination[:-1] != self._outer:
            self._outer = combination[:-1]
            self._head, self._tail = self._before + "".join(parts[:start]), "".join(parts[stop:]) + self._behind
            self._round = self._counted + sum(map(self._count, parts[:start])) + sum(map(self._count, parts[stop:]))
            if len(self._frames) >= CACHE:
                self._frames.clear()
            beside = tuple(self.values[p] for p in self._beside)
            self._middles = self._frames.setdefault((neighbours, beside), {})
        if len(self._middles) < CACHE:
            middle = parts[start:stop]
            self._middles[combination[-1]] = "".join(middle), sum(map(self._count, middle))

    def pieces(self) -> list[Piece]:
        """The last prompt's text in pieces."""
        prompt = self.write(self._last)
        written = prompt.fitted.written if prompt.fitted else self.written
        return [p for p in (Piece(self._before), *written.pieces(), Piece(self._behind)) if p.text]
