"""What a family is to be, as a person asks for it: what is fixed, what varies, and the design."""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.app.composing.asked import USUAL, Taste
from syntagma.core.drafting.fills import Given
from syntagma.core.notation.ranges import OutOfRange, number
from syntagma.core.writing.prompt import PLAINLY, Manner
from syntagma.storage.trouble import Trouble


class Vary(NamedTuple):
    """An axis as asked for: a name with its values as text, or a number of picks, or neither for all its terms. `doubtful`: a comma with a blank after it parts
    the values, as it may within one value too."""

    slot: str
    values: tuple[str, ...] = ()
    picks: int = 0
    doubtful: bool = False

    @property
    def typed(self) -> str:
        """The axis as it is typed behind --vary."""
        if self.values:
            mark = "; " if any(set(",;") & set(value) for value in self.values) else ","
            return f"{self.slot}={mark.join(value.replace(';', chr(92) + ';') for value in self.values)}"
        return f"{self.slot}:{self.picks}" if self.picks else self.slot


class Design(NamedTuple):
    """How members are chosen out of what varies; without a name, as what is asked for makes it best. `groups` are strengths of groups of axes, 3:light+medium+lens; `without` the numbers of
    members that are left out; `allow` levels that come in spite of what they contradict; `takes` how many results each is to have."""

    name: str = ""
    count: int | None = None
    everything: bool = False
    rules: Sequence[str] = ()
    strength: int = 2
    groups: Sequence[str] = ()
    effort: float = 1.0
    interest: Sequence[str] = ()
    different: float = 0.0
    without: tuple[int, ...] = ()
    refill: bool = False
    allow: Sequence[str] = ()
    takes: int = 1


class FamilySpec(NamedTuple):
    """What a family is to be. `text`: a finished prompt in place of a formula; `pick`: what is open, and not varied, is picked for all
    members alike."""

    formula: str
    given: Mapping[str, Given] = {}
    vary: Sequence[Vary] = ()
    design: Design = Design()
    models: Sequence[str | None] = (None,)
    taste: Taste = USUAL
    looks: Sequence[str] = ()
    manner: Manner = PLAINLY
    text: str = ""
    pick: bool = False


def read_vary(word: str) -> Vary:
    """Read one axis: SLOT, SLOT=a; b; c (a value that is a list of its own has \\; in it) or, where no ; is in it, SLOT=a,b,c; SLOT:4, stress.SLOT=0.8..1.4/0.2,
    parameter.NAME=1,2, seed=1..4, model=A,B, look=none,A. Raises Trouble."""
    slot, equals, rest = word.partition("=")
    if equals:
        mark = ";" if re.search(r"(?<!\\);", rest) else ","
        parts = re.split(rf"(?<!\\){mark}", rest)
        values = tuple(re.sub(r"\\([,;])", r"\1", part).strip() for part in parts)
        if not any(values):
            raise Trouble(f"--vary {word} names no value", f"write --vary {slot}=one,two or --vary {slot}:4", 2)
        return Vary(slot, values[:-1] if mark == ";" and len(values) > 1 and not values[-1] else values, doubtful=mark == "," and bool(re.search(r"(?<!\\), ", rest)))
    slot, colon, picks = word.partition(":")
    if not colon:
        return Vary(slot)
    try:
        return Vary(slot, picks=int(number("picks", picks)))
    except OutOfRange as wrong:
        raise Trouble(str(wrong), f"{wrong.remedy}: --vary {slot}:4", 2) from None
