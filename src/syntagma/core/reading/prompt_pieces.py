"""What reading gives: a prompt in pieces that follow one another without gaps, each with what it is."""

from typing import NamedTuple

from syntagma.core.vocabulary.terms import Term

GLUE, PART, PARAMETER, REFERENCE, NEGATIVE = "glue", "part", "parameter", "reference", "negative"


class PromptPiece(NamedTuple):
    """A stretch of a prompt. `kind`: part, glue, parameter, reference, negative; `facet` of a part, `detail` where nothing tells it;
    `name` of a parameter, or the label or key under which it stood; `plain`: its text without marks of stress, where some stand in it."""

    start: int
    stop: int
    kind: str
    text: str
    facet: str = ""
    sure: float = 0.0
    why: str = ""
    term: Term | None = None
    near: Term | None = None
    stress: float = 1.0
    name: str = ""
    value: str = ""
    plain: str = ""

    @property
    def words(self) -> str:
        """Its text without marks of stress on words in it."""
        return self.plain or self.text


class Reading(NamedTuple):
    """A prompt read. `broken` says where nested text could not be read on."""

    text: str
    form: str
    pieces: tuple[PromptPiece, ...]
    broken: str = ""

    def parts(self) -> list[PromptPiece]:
        """The pieces that say what is seen and heard."""
        return [p for p in self.pieces if p.kind == PART]

    def of(self, kind: str) -> list[PromptPiece]:
        """The pieces of one kind."""
        return [p for p in self.pieces if p.kind == kind]
