"""Prompts made shorter: what is known of one (reach, marks, how common its words are) brought together."""

import re
from collections.abc import Callable, Sequence

from syntagma.app.readwork import reader_of
from syntagma.app.world import World
from syntagma.core.models.measure import words as count_words
from syntagma.core.models.profile import Profile
from syntagma.core.plainfit import fit_text
from syntagma.core.reading.condensing import Condensed, condense
from syntagma.core.reading.matching import Matcher
from syntagma.core.reading.outer import NESTED, TIMED
from syntagma.core.reading.reader import PART, Reading
from syntagma.core.writer import Writer
from syntagma.storage.trouble import Trouble


def commonness() -> Callable[[str], float]:
    """How common a word is in English, on the Zipf scale (0 to 8), by the package wordfreq."""
    from wordfreq import zipf_frequency

    return lambda word: zipf_frequency(word, "en")


def condensed(
    world: World, text: str, model: str | None = None, keep: Sequence[str] = (), formula: str = ""
) -> tuple[Reading, Condensed]:
    """Read a prompt and order what it can lose. Raises Trouble where it is of a form that is not made shorter."""
    reading = reader_of(world, model).read(text)
    if reading.form in (NESTED, TIMED):
        what = "nested values are" if reading.form == NESTED else "segments with times are"
        raise Trouble(f"{what} not condensed as they stand", "make prose of it first: syntagma recast PROMPT --order camera", 2)
    if not reading.parts():
        raise Trouble("there is nothing in it that could go", "give a prompt of several words", 2)
    profile = world.model(model)
    return reading, condense(
        reading, commonness(), profile.limits.reach or 0, keep, _marks(world, reading, formula) if formula else {}
    )


def _marks(world: World, reading: Reading, name: str) -> dict[int, str]:
    """The marks that the formula's phrases give the pieces of a text which it wrote."""
    formula, _ = world.formula(name)
    writer = Writer(formula, world.model(None), world.vocabulary)
    match = Matcher(writer).match(reading.text)
    if match is None:
        raise Trouble(f"the text was not written with {name}", "leave --formula out", 2)
    marks: dict[int, str] = {}
    for i, start, stop in match.phrases:
        for number, piece in enumerate(reading.pieces):
            if piece.kind == PART and piece.start < stop and start < piece.stop:
                marks[number] = writer.plans[i].mark or marks.get(number, "")
    return marks


def target(profile: Profile, wanted: str) -> Callable[[str], bool]:
    """What --to asks for, 40w or 300c, or with nothing said the model's limit. Raises Trouble."""
    if not wanted:
        if not profile.text_limit:
            raise Trouble("no length is named", "write --to 40w, --to 300c, --steps 5, or a --model that has a limit", 2)
        return lambda text: fit_text(text, profile).text == text
    found = re.fullmatch(r"(\d{1,6})\s*(w|words?|c|characters?)", wanted.strip())
    if not found:
        raise Trouble(f"“{wanted}” is no length", "write --to 40w (words) or --to 300c (characters)", 2)
    most = int(found[1])
    return (lambda text: count_words(text) <= most) if found[2][0] == "w" else (lambda text: len(text) <= most)
