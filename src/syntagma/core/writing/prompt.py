"""A prompt, and the manner in which a person asks for it."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core.drafting.surroundings import Around
from syntagma.core.fitting.limits import Fitted
from syntagma.core.models.references import KnownReference, Reference


class Prompt(NamedTuple):
    """A draft written for one model. `text` is all the pasted text; `around` what surrounds the words in it; `dropped` are
    the labels of phrases left out to fit, `negative_dropped` the items; `fitted` says more of it."""

    text: str
    negative: str
    used: int
    negative_used: int
    dropped: tuple[str, ...]
    negative_dropped: tuple[str, ...]
    around: Around = Around()
    fitted: Fitted | None = None

    @property
    def words(self) -> str:
        """The text without what comes before and after its words: references in front, parameters after."""
        return self.text[len(self.around.front) : len(self.text) - len(self.around.after)]


class Manner(NamedTuple):
    """What a person asks for besides fills: weights, parameters, references; who can be called by name; whether the prompt is
    one of a controlled family; how many seconds each of its segments lasts, if that is to be as it was."""

    stress: Mapping[str, float] = {}
    parameters: Mapping[str, object] = {}
    references: Sequence[Reference] = ()
    known: Mapping[str, KnownReference] = {}
    controlled: bool = False
    lengths: Sequence[float] = ()


PLAINLY = Manner()  # nothing asked for besides fills
