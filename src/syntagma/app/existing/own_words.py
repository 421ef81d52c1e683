"""What ships of how people write: what surrounds their wishes, mistyped words, how kinds lead, what joins a guest."""

import csv
import tomllib
from functools import cache

from syntagma.app.existing.reading import FRAME_WORDS, FRAMES_FILE
from syntagma.core.editing.cleaning import Cleaner
from syntagma.core.editing.frame_words import Frames
from syntagma.core.editing.joins import Joins
from syntagma.core.editing.placing import Tables
from syntagma.core.reading.model.weights import Scorer
from syntagma.storage.folders import SHIPPED

LONGEST_WISH = 6_000  # letters of a wish


@cache
def cleaner() -> Cleaner:
    """What cleans wishes, by the tables that ship."""
    with open(SHIPPED / "spelling.csv", encoding="utf-8", newline="") as file:
        spelling = {row["typed"]: row["meant"] for row in csv.DictReader(file)}
    return Cleaner(own_words(), spelling, frames())


@cache
def frames() -> Frames:
    """What finds the words round a wish."""
    return Frames(Scorer.from_bytes(FRAMES_FILE.read_bytes()), frozenset(FRAME_WORDS.read_text("utf-8").split()))


@cache
def tables() -> Tables:
    """The tables for putting somebody's own text into a formula."""
    return Tables(own_words()["leads"], Joins((SHIPPED / "joins.toml").read_text("utf-8")))


@cache
def own_words() -> dict:
    """The tables of what people write round their wishes."""
    return tomllib.loads((SHIPPED / "own-words.toml").read_text("utf-8"))
