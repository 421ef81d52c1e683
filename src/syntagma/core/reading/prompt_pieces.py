"""What reading gives: a prompt in pieces that follow one another without gaps, each with what it is."""

from typing import NamedTuple

from syntagma.core.vocabulary.terms import Term

LEFT = "quality"  # the facet of praise, and of what is said and not known to be of any
NOUN, PLACE, DEED, CLAUSE, QUALITY, NAMED = "noun", "place", "deed", "clause", "quality", "named"
NO_FACETS = frozenset(f"{LEFT} speech texture time".split())  # what a part can be said to be, and no facet is
GLUE, PART, PARAMETER, REFERENCE, NEGATIVE = "glue", "part", "parameter", "reference", "negative"


class PromptPiece(NamedTuple):
    """A stretch of a prompt. `kind`: part, glue, parameter, reference, negative; `facet` of a part, `quality` where nothing tells it
    (of negative text `negative` if it is in a sentence, and not after a label of its own);
    `name` of a parameter, or the label or key under which it stood; `plain`: its text without marks of stress, where some are in it;
    `build`: how a part is built: NOUN, PLACE (a preposition leads it), DEED (it begins with a verb), CLAUSE (it says what something does),
    QUALITY (no noun is in it), NAMED (it begins with a name); `lead`: the preposition that its noun takes, if it is a place without one."""

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
    build: str = ""
    lead: str = ""

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
    read_to: int = 0  # how many characters were read; what follows is in one piece of glue

    def parts(self) -> list[PromptPiece]:
        """The pieces that say what is seen and heard."""
        return [p for p in self.pieces if p.kind == PART]

    def of(self, kind: str) -> list[PromptPiece]:
        """The pieces of one kind."""
        return [p for p in self.pieces if p.kind == kind]
