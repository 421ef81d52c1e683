"""What a family is to be, as a person asks for it: what is fixed, what varies, by which design."""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.app.composing.asked import USUAL, Taste
from syntagma.core.drafting.fills import Given
from syntagma.core.notation.ranges import OutOfRange, number
from syntagma.core.writing.prompt import PLAINLY, Manner
from syntagma.storage.trouble import Trouble


class Vary(NamedTuple):
    """An axis as asked for: a name with its values as text, or a number of picks, or neither for all its terms."""

    slot: str
    values: tuple[str, ...] = ()
    picks: int = 0

    @property
    def typed(self) -> str:
        """The axis as it is typed behind --vary."""
        if self.values:
            return f"{self.slot}={','.join(value.replace(',', chr(92) + ',') for value in self.values)}"
        return f"{self.slot}:{self.picks}" if self.picks else self.slot


class Design(NamedTuple):
    """How members are chosen out of what varies; without a name, as what is asked for makes it best. `groups` are strengths of groups of axes, 3:light+medium+lens; `without` the numbers of
    members that are left out; `anyway` levels that come in spite of what they contradict; `draws` how many results each is to have."""

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
    anyway: Sequence[str] = ()
    draws: int = 1


class Wish(NamedTuple):
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
    """Read one axis: SLOT, SLOT=a,b,c (a comma of its own behind a backslash) or SLOT=a; b; c, SLOT:4, stress.SLOT=0.8..1.4/0.2, parameter.NAME=1,2,
    seed=1..4, model=A,B, look=none,A. Raises Trouble."""
    slot, equals, rest = word.partition("=")
    if equals:
        parts = re.split(r"(?<!\\),", rest)
        if len(parts) == 1 and ";" in rest:  # one value would not vary: these are several
            parts = rest.split(";")
        return Vary(slot, tuple(part.replace("\\,", ",").strip() for part in parts))
    slot, colon, picks = word.partition(":")
    if not colon:
        return Vary(slot)
    try:
        return Vary(slot, picks=int(number("picks", picks)))
    except OutOfRange as wrong:
        raise Trouble(str(wrong), f"{wrong.remedy}: --vary {slot}:4", 2) from None
