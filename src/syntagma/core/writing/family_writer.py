"""A family of prompts, one after the other: between two of them only the phrases whose slots
changed are made again, and only their seams.
"""

from collections.abc import Callable, Iterable, Sequence
from itertools import groupby, islice, takewhile
from operator import itemgetter
from typing import Any, NamedTuple, cast

from syntagma.core.checking.rights import CHILD, SEXUAL, care, signs
from syntagma.core.drafting.fills import BadFills, Fill
from syntagma.core.drafting.surroundings import Around
from syntagma.core.fitting import Room, TooLong, fit_items, fit_lines
from syntagma.core.models.measure import Limit
from syntagma.core.models.profile import Profile
from syntagma.core.realising import TextPiece
from syntagma.core.realising.request import text_in_request
from syntagma.core.writing.compiled import Compiled
from syntagma.core.writing.phrase_writer import CACHE, PhraseWriter
from syntagma.core.writing.prompt import Prompt, Prompts

_NO_LIMIT = 1 << 62
_UNKNOWN = object()
_OUTER, _LAST = itemgetter(slice(None, -1)), itemgetter(-1)


class _Limits(NamedTuple):
    """What the text of a model may have. `simple`: only its words are limited, and parts of them
    add up.
    """

    text: Limit | None
    others: tuple[tuple[str, Limit], ...]
    simple: bool
    most: int
    count: Callable[[str], int]

    @classmethod
    def of(cls, profile: Profile) -> "_Limits":
        text = profile.text_limit
        others = tuple(
            (name, limit) for name in ("whole", "request") if (limit := profile.limit(name))
        )
        simple = not others and not (text and not text.additive)
        return cls(
            text, others, simple, text.room if text else _NO_LIMIT, text.count if text else len
        )


class _Dressing(NamedTuple):
    """What surrounds the words of a prompt: `before` and `behind` as they are pasted, `counted`
    what of the limit they use.
    """

    around: Around = Around()
    before: str = ""
    behind: str = ""
    counted: int = 0
    negative_used: int = 0
    negative_dropped: tuple[str, ...] = ()

    @classmethod
    def of(
        cls, compiled: Compiled, values: Sequence[Fill | None], count: Callable[[str], int]
    ) -> "_Dressing":
        profile, named = compiled.profile, compiled.named(values)
        items = compiled.negative.items(named)
        dropped: tuple[str, ...] = ()
        used = 0
        if profile.negative_limit and items:
            kept, dropped, used = fit_items(
                items, profile.negative.separator, profile.negative_limit
            )
            items = list(kept)
        around = compiled.surroundings.around(named, items)
        counted = sum(map(count, filter(None, (around.before, around.behind))))
        return cls(
            around,
            around.front + around.before,
            around.behind + around.after,
            counted,
            used,
            dropped,
        )


class _Frame:
    """The text round the one phrase that changes, kept while nothing else does; and what each fill
    made of that phrase between these neighbours: such a prompt costs a look-up and a concatenation.
    `inner` is the phrase, -1 if no such one exists.
    """

    def __init__(self, inner: int, beside: Sequence[int]):
        self.inner = inner
        self.beside = beside  # the positions of what else the phrase depends on
        self.outer: tuple | None = (
            None  # the fills of all but the last position that the frame is for
        )
        self.head = self.tail = ""
        self.used = 0  # how much of the limit head and tail use
        self.middles: dict[Fill | None, tuple[str, int]] = {}
        self._first: set[str] = set()  # the first words of what is kept in `middles`
        self._kept: dict[tuple, tuple[dict, set]] = {}

    def turn(
        self,
        outer: tuple,
        written: Any,
        values: Sequence[Fill | None],
        dressing: _Dressing,
        count: Callable[[str], int],
    ) -> bool:
        """Be for these fills of all but the last position: the text round the changing phrase and
        its follower. False if that phrase has gone.
        """
        span = written.reach(self.inner)
        if span is None:
            self.outer = None
            return False
        if outer != self.outer:
            self.outer, parts = outer, written.parts
            self.head, self.tail = (
                dressing.before + "".join(parts[: span.start]),
                "".join(parts[span.stop :]) + dressing.behind,
            )
            self.used = (
                dressing.counted
                + sum(map(count, parts[: span.start]))
                + sum(map(count, parts[span.stop :]))
            )
            if len(self._kept) >= CACHE:
                self._kept.clear()
            beside = (span.beside, *(values[p] for p in self.beside))
            self.middles, self._first = self._kept.setdefault(beside, ({}, set()))
            if (
                span.before in self._first
            ):  # a line that begins with that word is parted from it here, and was not there
                self.middles, self._first = self._kept.setdefault(
                    (*beside, span.before), ({}, set())
                )
        return True

    def keep(
        self, inner: Fill | None, written: Any, count: Callable[[str], int]
    ) -> tuple[str, int]:
        """Keep what the changing phrase and its follower are with this fill; return them with their
        size.
        """
        span = written.reach(self.inner)
        middle = written.parts[span.start : span.stop]
        made = "".join(middle), sum(map(count, middle))
        if len(self.middles) < CACHE and (not span.first or span.first != span.before):
            self.middles[inner] = made
            self._first.add(span.first)
        return made


class FamilyWriter:
    """One family: some slots fixed by `fills`, those at `positions` different from prompt to
    prompt.
    """

    def __init__(
        self, phrases: PhraseWriter, fills: Sequence[Fill | None], positions: Sequence[int]
    ):
        self.phrases, self.compiled = phrases, phrases.compiled
        self.values = list(fills)
        self.positions = tuple(positions)
        self.lines = phrases.lines(self.values)
        self.written: Any = (
            None  # made by the first prompt: the first fills of a family may be blank
        )
        self._last: tuple = tuple(self.values[p] for p in self.positions)
        self._limits = _Limits.of(self.compiled.profile)
        self._touched = [self._hangs_on(p) for p in self.positions]
        self._frame = self._framed()
        self._dressing = _Dressing.of(self.compiled, self.values, self._limits.count)

    def _hangs_on(self, position: int) -> tuple[tuple[int, ...], bool]:
        """The phrases that a slot is in, and whether what surrounds them hangs on it too."""
        compiled = self.compiled
        varied = (
            compiled.surroundings.menus
            or compiled.manner.known
            or compiled.negative.has(compiled.rules[position].name)
        )
        return compiled.phrases_of(position), bool(varied)

    def _framed(self) -> _Frame:
        compiled = self.compiled
        if self.positions and self._limits.simple and not compiled.manner.known:
            last, (found, _) = self.positions[-1], self._touched[-1]
            slot = compiled.rules[last].name
            if (
                len(found) == 1
                and not compiled.negative.has(slot)
                and slot not in compiled.surroundings.menus
            ):
                return _Frame(
                    found[0], [p for p in compiled.phrases[found[0]].positions if p != last]
                )
        return _Frame(-1, ())

    def write(self, combination: Sequence[Fill | None]) -> Prompt:
        """Write the prompt with these fills in the slots at `positions`. Raises as Writer.write
        does.
        """
        prompts, bad = self.write_all([combination])
        if bad:
            raise bad[0]
        made = prompts[0]
        assert made is not None, "what can't be written is among the bad"
        return made

    def write_all(
        self, combinations: Iterable[Sequence[Fill | None]]
    ) -> tuple[Prompts, dict[int, Exception]]:
        """Write a prompt for each combination, in order. Return them, None if there is none, and
        for those (by their place) the BadFills or TooLong that says why.
        """
        prompts, bad = Prompts(), dict[int, Exception]()
        for outer, alike in groupby(combinations, _OUTER):
            run, at = list(alike), 0
            while at < len(run):
                if self._turned(outer) and (ready := self._ready(islice(run, at, None), prompts)):
                    at += ready
                    continue
                try:
                    prompts.add(self._write(run[at]))
                except (BadFills, TooLong) as error:
                    bad[len(prompts)] = error
                    prompts.add(None)
                    self._begin_anew()
                at += 1
        return prompts, bad

    def _begin_anew(self) -> None:
        """Whatever was left half done is done again."""
        self.written = self._frame.outer = None
        self._last = (_UNKNOWN,) * len(self.positions)

    def _turned(self, outer: tuple) -> bool:
        """Is the frame for these fills of all but the last position? It is made so where that costs
        little: all else stays as it is.
        """
        frame = self._frame
        if frame.inner < 0 or frame.outer == outer:
            return frame.inner >= 0
        try:
            self._change((*outer, self._last[-1]))
        except BadFills:
            self._begin_anew()
            return False
        return frame.turn(outer, self.written, self.values, self._dressing, self._limits.count)

    def _ready(self, run: Iterable[Sequence[Fill | None]], prompts: Prompts) -> int:
        """Add those at the beginning of a run of which the frame knows the phrase, and which have
        room; return how many.
        """
        frame, worn, room = self._frame, self._dressing, self._limits.most - self._frame.used
        known = takewhile(
            lambda middle: middle is not None, map(frame.middles.get, map(_LAST, run))
        )
        found = cast("list[tuple[str, int]]", list(known))
        if found and max(map(_LAST, found)) > room:
            found = list(takewhile(lambda middle: middle[1] <= room, found))
        like = Prompt(
            "",
            worn.around.negative,
            0,
            worn.negative_used,
            (),
            worn.negative_dropped,
            worn.around,
            None,
        )
        head, tail, used = frame.head, frame.tail, frame.used
        round_it = signs(head) | signs(tail)
        found = list(
            takewhile(lambda middle: round_it | signs(middle[0]) != CHILD | SEXUAL, found)
        )  # `_write` looks at any other as a whole
        prompts.add_alike(
            [f"{head}{text}{tail}" for text, _ in found], [used + size for _, size in found], like
        )
        return len(found)

    def _write(self, combination: Sequence[Fill | None]) -> Prompt:
        made = self._made(combination)
        if refused := care(made.text.removesuffix(self._dressing.behind)):
            raise BadFills([refused])
        return made

    def _made(self, combination: Sequence[Fill | None]) -> Prompt:
        self._change(combination)
        limits, dressing, parts, fitted, around = (
            self._limits,
            self._dressing,
            self.written.parts,
            None,
            self._dressing.around,
        )
        if (frame := self._frame).inner >= 0 and frame.turn(
            tuple(combination[:-1]), self.written, self.values, dressing, limits.count
        ):
            middle, size = frame.keep(combination[-1], self.written, limits.count)
            if frame.used + size <= limits.most:
                text, used = frame.head + middle + frame.tail, frame.used + size
                return Prompt(
                    text,
                    around.negative,
                    used,
                    dressing.negative_used,
                    (),
                    dressing.negative_dropped,
                    around,
                    None,
                )
        if limits.simple:
            used = dressing.counted + sum(map(limits.count, parts))
            over = used > limits.most
        else:
            room = self._room()
            over = not room.fits(parts)
            used = room.used(parts)[0] if limits.text else 0
        if over:
            room = self._room()
            forms = [self.phrases.forms(i, self.values) for i in range(len(self.lines))]
            fitted = fit_lines(self.compiled.register, self.compiled.plans, forms, room)
            parts = fitted.written.parts
            used = room.used(parts)[0] if limits.text else 0
        text = dressing.before + "".join(parts) + dressing.behind
        dropped = fitted.dropped if fitted else ()
        return Prompt(
            text,
            around.negative,
            used,
            dressing.negative_used,
            dropped,
            dressing.negative_dropped,
            around,
            fitted,
        )

    def _room(self) -> Room:
        """The limits that the words have to fit into, with what surrounds them."""
        limits, dressing = self._limits, self._dressing
        found: list[tuple[Limit, int, Callable[[str], str] | None]] = (
            [(limits.text, dressing.counted, None)] if limits.text else []
        )
        for name, limit in limits.others:
            if name == "whole":
                round_ = [part for part in (dressing.before, dressing.behind) if part]
                found.append((limit, sum(map(limit.count, round_)), None))
            else:
                made = text_in_request(
                    self.compiled.profile, dressing.around, dressing.before, dressing.behind
                )
                found.append((limit, 0, made))
        return Room(tuple(found))

    def _change(self, combination: Sequence[Fill | None]) -> None:
        """Bring lines and seams to this combination."""
        compiled, dressed_anew = self.compiled, False
        for k, (fill, last) in enumerate(zip(combination, self._last, strict=True)):
            if fill is last:
                continue
            self.values[self.positions[k]] = fill
            if fill is None:
                self.written = None  # is it needed? asked when all is written again
            touched, dressed = self._touched[k]
            dressed_anew = dressed_anew or dressed
            for i in touched:
                line = self.lines[i] = self.phrases.line(i, self.values)
                if self.written is not None and not self.written.change(i, line):
                    self.written = None
        self._last = tuple(combination)
        if dressed_anew:
            self._dressing = _Dressing.of(compiled, self.values, self._limits.count)
            self._frame.outer = None
        if self.written is None:
            compiled.need(self.values, self.lines)
            self.written = compiled.register.write(self.lines, compiled.plans)

    def pieces(self) -> list[TextPiece]:
        """The last prompt's text in pieces."""
        prompt = self.write(self._last)
        written = prompt.fitted.written if prompt.fitted else self.written
        whole = (
            TextPiece(self._dressing.before),
            *written.pieces(),
            TextPiece(self._dressing.behind),
        )
        return [p for p in whole if p.text]
