"""A small vocabulary and short ways to write, for tests of the core by itself."""

from syntagma.core.formula import read_formula
from syntagma.core.models import Profile
from syntagma.core.notation.validation import converted
from syntagma.core.vocabulary.terms import Term, Vocabulary
from syntagma.core.writing.prompt_writer import Writer

TERMS = {
    "setting": [
        Term("setting", "wet quay", place="on a wet quay"),
        Term("setting", "car deck", place="on a car deck"),
    ],
    "camera-move": [Term("camera-move", "slow push-in", clause="the camera pushes in slowly")],
    "lighting": [
        Term("lighting", "sodium quay lamps", "many", tags=("night",)),
        Term("lighting", "noon sun", clashes=("#night",)),
    ],
    "subject": [
        Term("subject", "tea urn"),
        Term("subject", "harbour pilot", phrase="harbour pilot in an oilskin coat"),
    ],
    "mood": [Term("mood", "hushed")],
    "flaw": [Term("flaw", "waxy skin", "mass")],
    "name": [Term("name", "de Wharf", "name")],
}
VOCABULARY = Vocabulary(TERMS, TERMS.__getitem__)


def profile(name: str = "m", **tables) -> Profile:
    """A profile from its tables as a file would give them."""
    made, faults = converted({"name": name, **tables}, Profile)
    assert made is not None and not faults, faults
    return made


PROSE, TAGS = profile("prose"), profile("tags", text={"register": "tags"})


def writer(text: str, profile: Profile = PROSE) -> Writer:
    return Writer(read_formula(text, "test"), profile, VOCABULARY)


def write(text: str, profile: Profile = PROSE, **given: str) -> str:
    made = writer(text, profile)
    return made.write(made.fills(given)).text
