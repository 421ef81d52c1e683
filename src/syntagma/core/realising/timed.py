"""Timed segments: the clip cut into parts, each with its times. A label whose first part ends in a
number (shot1.move, beat2) says which part its phrase belongs to; phrases without one come before or
behind; without any number the clip is one part.
"""

from collections.abc import Sequence
from itertools import accumulate

from syntagma.core.drafting.draft import PhrasePlan
from syntagma.core.formula.tree import part_of
from syntagma.core.models.patterns import written
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.realising.house_style import HouseStyle
from syntagma.core.realising.prose import Chain, Prose, ProseLine
from syntagma.core.realising.text_pieces import TextPiece, Whole

_QUOTED = regex(r'"([^"]*)"|“([^”]*)”')
EACH = 4.0  # seconds of a part, if nobody says how long the clip is


class Timed(Prose):
    """The register in which a prompt is segments with times. `seconds` is how long the clip is;
    `lengths`, if they are given, how long each segment is.
    """

    plain_seams = sums_hold = False

    def __init__(self, profile: Profile, style: HouseStyle):
        super().__init__(profile, style)
        self.rule = profile.timed
        self.pace = profile.sound.pace if profile.sound else 2.5
        self.seconds: float | None = None
        self.lengths: Sequence[float] = ()

    def write(self, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]) -> "Segments":
        return Segments(self, lines, plans)

    def times(self, texts: Sequence[str]) -> list[tuple[float, float]]:
        """From when to when each of the texts lasts: as long as was said, else even, but as long as
        what is spoken in it takes.
        """
        if len(self.lengths) == len(texts):
            ends = [*accumulate(self.lengths)]
            return list(zip([0.0, *ends[:-1]], ends, strict=True))
        total = self.seconds or EACH * len(texts)
        spoken = [
            len(" ".join(a or b for a, b in _QUOTED.findall(text)).split()) / self.pace
            for text in texts
        ]
        even = total / len(texts)
        wanted = [max(even, s) for s in spoken]
        ends, at = [], 0.0
        for share in wanted:
            at += share * total / sum(wanted)
            ends.append(round(at / self.rule.step) * self.rule.step)
        ends[-1] = total
        return list(zip([0.0, *ends[:-1]], ends, strict=True))

    def clock(self, seconds: float) -> str:
        """A time as the model writes it: 2.5, or 0:02.5."""
        if self.rule.clock == "seconds":
            return f"{seconds:g}"
        minutes, rest = divmod(seconds, 60)
        return (
            f"{int(minutes)}:{rest:04.1f}"
            if rest != int(rest)
            else f"{int(minutes)}:{int(rest):02}"
        )


class Segments(Whole):
    """Segments one below the other: `parts` is a text for each."""

    def __init__(
        self, register: Timed, lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]
    ):
        groups = _groups(lines, plans)
        chains = [(number, Chain(register, own, plans)) for number, own in groups]
        texts = ["".join(chain.parts) for number, chain in chains if number is not None]
        times = iter(register.times(texts) if texts else ())
        stretches: list[list[TextPiece]] = []
        for number, chain in chains:
            between = register.rule.between if stretches else ""
            if number is None:
                stretches.append([TextPiece(between), *chain.pieces()])
                continue
            start, stop = next(times)
            values = {
                "from": register.clock(start),
                "to": register.clock(stop),
                "number": number,
                "text": "\0",
            }
            before, _, behind = written(register.rule.segment, values).partition("\0")
            stretches.append([TextPiece(between + before), *chain.pieces(), TextPiece(behind)])
        super().__init__(stretches)


def _groups(
    lines: Sequence[ProseLine | None], plans: Sequence[PhrasePlan]
) -> list[tuple[int | None, list[ProseLine | None]]]:
    """The lines of each part, the others None; the first and the last group may have no number."""
    numbers = [
        part_of(plan.label) if line is not None else None
        for line, plan in zip(lines, plans, strict=True)
    ]
    known = list(dict.fromkeys(n for n in numbers if n is not None))
    if not known:
        return [(1, list(lines))] if any(lines) else []
    first = next(i for i, n in enumerate(numbers) if n is not None)
    groups: list[tuple[int | None, list[ProseLine | None]]] = []
    for number in (None, *known, -1):
        keep = {
            None: lambda i, n: n is None and i < first,
            -1: lambda i, n: n is None and i > first,
        }.get(number, lambda i, n, wanted=number: n == wanted)
        own = [
            line if line is not None and keep(i, numbers[i]) else None
            for i, line in enumerate(lines)
        ]
        if any(own):
            groups.append((None if number == -1 else number, own))
    return groups
