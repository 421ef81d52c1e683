"""A reading: the pieces of a prompt with their facets; and two readings compared."""

from typing import NamedTuple

from syntagma.core.english.verbs import base_of
from syntagma.core.english.word_lists import IN_PARTS
from syntagma.core.reading.lexicon import WORD, bare
from syntagma.core.vocabulary.terms import Term

# ──── What reading gives: a prompt in pieces that follow one another without gaps, each with what
# it is.


LEFT = "quality"  # the facet of praise, and of what is said and not known to be of any
NOUN, PLACE, DEED, CLAUSE, QUALITY, NAMED = "noun", "place", "deed", "clause", "quality", "named"
NO_FACETS = frozenset(
    f"{LEFT} speech texture time".split()
)  # what a part can be said to be, and no facet is
GLUE, PART, PARAMETER, REFERENCE, NEGATIVE = "glue", "part", "parameter", "reference", "negative"


class PromptPiece(NamedTuple):
    """A stretch of a prompt. `kind`: part, glue, parameter, reference, negative; `facet` of a part,
    `quality` where nothing tells it (of negative text `negative` if it is in a sentence, and not
    after a label of its own); `name` of a parameter, or the label or key under which it stood;
    `plain`: its text without marks of stress, where some are in it; `build`: how a part is built:
    NOUN, PLACE (a preposition leads it), DEED (it begins with a verb), CLAUSE (it says what
    something does), QUALITY (no noun is in it), NAMED (it begins with a name); `lead`: the
    preposition that its noun takes, if it is a place without one.
    """

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


# ──── Two prompts side by side, part by part: what is the same, what is another, what only one of
# them has; and how far apart they are.


SAME, CHANGED, HERE, THERE = "same", "changed", "only in the first", "only in the second"


class PartPair(NamedTuple):
    """One facet's part in both, or in one of them."""

    how: str
    facet: str
    first: PromptPiece | None
    second: PromptPiece | None


class Comparison(NamedTuple):
    """All pairs, and the distance: 0 for the same parts, 1 if nothing is shared. A part that is
    another counts by the words that only one of the two has (Jaccard's distance), one that only one
    prompt has in full.
    """

    pairs: list[PartPair]
    distance: float


def compare(first: Reading, second: Reading) -> Comparison:
    """Pair the parts of two readings, those that agree first."""
    ours, theirs = _parts(first), _parts(second)
    pairs: list[PartPair] = []
    for facet in dict.fromkeys([p.facet for p in ours] + [p.facet for p in theirs]):
        a, b = [p for p in ours if p.facet == facet], [p for p in theirs if p.facet == facet]
        for piece in list(a):
            twin = next(
                (p for p in b if _words(p) == _words(piece) or (p.term and p.term is piece.term)),
                None,
            )
            if twin:
                a.remove(piece)
                b.remove(twin)
                pairs.append(PartPair(SAME, facet, piece, twin))
        while a and b:
            one, other = min(((x, y) for x in a for y in b), key=lambda both: apart(*both))
            a.remove(one)
            b.remove(other)
            pairs.append(PartPair(CHANGED, facet, one, other))
        pairs += [PartPair(HERE, facet, p, None) for p in a] + [
            PartPair(THERE, facet, None, p) for p in b
        ]
    weights = [
        0.0 if p.how == SAME else apart(p.first, p.second) if p.first and p.second else 1.0
        for p in pairs
    ]
    return Comparison(pairs, round(sum(weights) / len(weights), 3) if weights else 0.0)


def apart(one: PromptPiece, other: PromptPiece) -> float:
    """The share of words that only one of two pieces has."""
    a, b = _words(one), _words(other)
    return 1 - len(a & b) / len(a | b) if a | b else 0.0


def said(reading: Reading) -> frozenset[str]:
    """What a prompt says, however it says it: the words of the terms that its parts are, and of the
    others, without their forms ("sleeps", "sleeping"); praise says nothing.
    """
    found: set[str] = set()
    for piece in reading.parts():
        if piece.facet != LEFT:
            words = (
                _words(piece._replace(text=piece.term.term, plain=""))
                if piece.term
                else _words(piece)
            )
            found |= {_SAME.get(word, base_of(word) or word) for word in words}
    return frozenset(found)


_SAME = {
    "asleep": "sleep",
    "photo": "photograph",
    "pic": "photograph",
    "image": "picture",
    "night-time": "night",
    "nighttime": "night",
    "colour": "color",
    "grey": "gray",
    "little": "small",
    "tiny": "small",
    "big": "large",
    "huge": "large",
}


def _words(piece: PromptPiece) -> frozenset[str]:
    return frozenset(
        bare(word) for word in WORD.findall(piece.words.lower()) if word not in IN_PARTS
    )


def _parts(reading: Reading) -> list[PromptPiece]:
    """The parts, and what goes with them, under names of their own."""
    found = []
    for piece in reading.pieces:
        if piece.kind == "part":
            found.append(piece)
        elif piece.kind != "glue":
            found.append(
                piece._replace(facet=(piece.name and f"{piece.kind} {piece.name}") or piece.kind)
            )
    return found
