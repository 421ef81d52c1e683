"""Prompts made shorter: what is known of one (reach, marks, how common its words are) brought together."""

import re
from collections.abc import Callable, Sequence

from syntagma.app.existing.commonness import frequencies
from syntagma.app.existing.reading import in_few_parts, manageable, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.fitting.plain_text import fit_text
from syntagma.core.models.measure import words as count_words
from syntagma.core.models.profile import Profile
from syntagma.core.reading.formulas.matching import Matcher
from syntagma.core.reading.prompt_pieces import PART, Reading
from syntagma.core.reading.shortening.shortening import Shortened, shorten
from syntagma.core.reading.shortening.weighing import USUAL
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.trouble import Trouble


def _usual(word: str) -> float:
    """Every word as common as any other, if nothing is known of how common they are."""
    return USUAL


class Shortener:
    """Orders what prompts can lose, with one reader for all of them. Raises Trouble."""

    def __init__(self, workspace: Workspace, model: str | None = None, keep: Sequence[str] = (), formula: str = ""):
        self.workspace, self.keep, self.formula = workspace, keep, formula
        self._reader, self._zipf = reader_of(workspace, model), frequencies() or _usual
        self._reach = workspace.model(model).limits.reach or 0
        self._matcher: Matcher | None = None

    @property
    def wanting(self) -> str:
        """What is not installed, and what that changes; "" if nothing is wanting."""
        return "" if frequencies() else "word frequencies are not installed, so they don't count: pip install 'syntagma[words]'"

    def shortened(self, text: str) -> tuple[Reading, Shortened]:
        """Read a prompt and order what it can lose. Raises Trouble if it is broken, or nothing in it could go."""
        manageable(text, "to be made shorter step by step")
        reading = in_few_parts(self._reader.read(text), "to be made shorter step by step")
        if reading.broken:
            raise Trouble(f"this is not complete JSON: {reading.broken}", "correct it, or look at it first: syntagma read PROMPT", 1)
        if not reading.parts():
            raise Trouble("nothing in it could be left out", "give a prompt of several words", 1)
        return reading, shorten(reading, self._zipf, self._reach, self.keep, self._marks(reading) if self.formula else {})

    def _marks(self, reading: Reading) -> dict[int, str]:
        """The marks that the formula's phrases give the pieces of a text which it wrote."""
        if self._matcher is None:
            formula, _ = self.workspace.formula(self.formula)
            self._matcher = Matcher(Writer(formula, self.workspace.model(None), self.workspace.vocabulary))
        match = self._matcher.match(reading.text)
        if match is None:
            raise Trouble(f"the text was not written with {self.formula}", "leave --formula out", 2)
        marks: dict[int, str] = {}
        for i, start, stop in match.phrases:
            for number, piece in enumerate(reading.pieces):
                if piece.kind == PART and piece.start < stop and start < piece.stop:
                    marks[number] = self._matcher.writer.compiled.plans[i].mark or marks.get(number, "")
        return marks


def target(profile: Profile, wanted: str) -> Callable[[str], bool]:
    """What --to asks for, 40w or 300c, or with nothing said the model's limit. Raises Trouble."""
    if not wanted:
        if not profile.text_limit:
            raise Trouble("no length was given", "write --to 40w, --to 300c, --steps 5, or a --model that has a limit", 2)
        return lambda text: fit_text(text, profile).text == text
    found = re.fullmatch(r"(\d{1,6})\s*(w|words?|c|characters?)", wanted.strip())
    if not found:
        raise Trouble(f"“{wanted}” is not a length", "write --to 40w (words) or --to 300c (characters)", 2)
    most = int(found[1])
    return (lambda text: count_words(text) <= most) if found[2][0] == "w" else (lambda text: len(text) <= most)
