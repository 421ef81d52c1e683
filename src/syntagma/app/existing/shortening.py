"""Prompts made shorter, step by step or into the limit of a model."""

import re
from collections.abc import Callable, Sequence
from functools import cache
from importlib.util import find_spec
from typing import NamedTuple

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composed, Composer, troubles
from syntagma.app.prompt_files import Source
from syntagma.app.reading import in_few_parts, manageable, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.rights import care
from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, Refused, Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting import Bit, TooLong, fit_text
from syntagma.core.models.measure import words as count_words
from syntagma.core.models.profile import Profile
from syntagma.core.reading.formula_matching import Matcher
from syntagma.core.reading.prompt_pieces import PART, Reading
from syntagma.core.reading.shortening import Shortened, shorten
from syntagma.core.reading.weighing import USUAL
from syntagma.core.records import Record
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer

# ──── How common words are in English, from the lists of the package wordfreq (an extra).


@cache
def frequencies() -> Callable[[str], float] | None:
    """What gives the frequency of a word on the Zipf scale (0 to 8, the logarithm of how often it
    comes among a thousand million words); None if the package is not installed. Source of the
    scale: W. J. B. van Heuven and others, SUBTLEX-UK, Quarterly Journal of Experimental Psychology
    67 (2014).
    """
    if find_spec("wordfreq") is None:
        return None

    @cache
    def zipf(word: str) -> float:
        from wordfreq import zipf_frequency  # imported late: it takes half a second

        return zipf_frequency(word, "en")

    return zipf


# ──── Prompts made shorter: what is known of one (reach, marks, how common its words are) brought
# together.


def _usual(word: str) -> float:
    """Every word as common as any other, if nothing is known of how common they are."""
    return USUAL


class Shortener:
    """Orders what prompts can lose, with one reader for all of them. Raises Trouble."""

    def __init__(
        self,
        workspace: Workspace,
        model: str | None = None,
        keep: Sequence[str] = (),
        formula: str = "",
    ):
        self.workspace, self.keep, self.formula = workspace, keep, formula
        self._reader, self._zipf = reader_of(workspace, model), frequencies() or _usual
        self._reach = workspace.model(model).limits.reach or 0
        self._matcher: Matcher | None = None

    @property
    def wanting(self) -> str:
        """What is not installed, and what that changes; "" if nothing is wanting."""
        return (
            ""
            if frequencies()
            else (
                "word frequencies are not installed, so they don't count: pip install"
                " 'syntagma[words]'"
            )
        )

    def shortened(self, text: str) -> tuple[Reading, Shortened]:
        """Read a prompt and order what it can lose. Raises Trouble if it is broken, or nothing in
        it could go.
        """
        manageable(text, "to be made shorter step by step")
        reading = in_few_parts(self._reader.read(text), "to be made shorter step by step")
        if reading.broken:
            raise Trouble(
                f"this is not complete JSON: {reading.broken}",
                "correct it, or look at it first: syntagma read PROMPT",
                1,
            )
        if not reading.parts():
            raise Trouble("nothing in it could be left out", "give a prompt of several words", 1)
        return reading, shorten(
            reading,
            self._zipf,
            self._reach,
            self.keep,
            self._marks(reading) if self.formula else {},
        )

    def _marks(self, reading: Reading) -> dict[int, str]:
        """The marks that the formula's phrases give the pieces of a text which it wrote."""
        if self._matcher is None:
            formula, _ = self.workspace.formula(self.formula)
            self._matcher = Matcher(
                Writer(formula, self.workspace.model(None), self.workspace.vocabulary)
            )
        match = self._matcher.match(reading.text)
        if match is None:
            raise Trouble(f"the text was not written with {self.formula}", "leave --formula out", 2)
        marks: dict[int, str] = {}
        for i, start, stop in match.phrases:
            for number, piece in enumerate(reading.pieces):
                if piece.kind == PART and piece.start < stop and start < piece.stop:
                    marks[number] = self._matcher.writer.compiled.plans[i].mark or marks.get(
                        number, ""
                    )
        return marks


def target(profile: Profile, wanted: str) -> Callable[[str], bool]:
    """What --to asks for, 40w or 300c, or with nothing said the model's limit. Raises Trouble."""
    if not wanted:
        if not profile.text_limit:
            raise Trouble(
                "no length was given",
                "write --to 40w, --to 300c, --steps 5, or a --model that has a limit",
                2,
            )
        return lambda text: fit_text(text, profile).text == text
    found = re.fullmatch(r"(\d{1,6})\s*(w|words?|c|characters?)", wanted.strip())
    if not found:
        raise Trouble(
            f"“{wanted}” is not a length", "write --to 40w (words) or --to 300c (characters)", 2
        )
    most = int(found[1])
    return (
        (lambda text: count_words(text) <= most)
        if found[2][0] == "w"
        else (lambda text: len(text) <= most)
    )


# ──── Prompts into the limits of a model: those that a formula made are written again by it, all
# others by their own text.


class FittedPrompt(NamedTuple):
    """One prompt made to fit: what is left, in bits kept and lost, with the findings on it. `text`
    is blank where it can't fit.
    """

    line: int
    text: str
    negative: str
    bits: tuple[Bit, ...]
    findings: list[Finding]
    used: int = 0
    limit: int = 0
    unit: str = ""

    @property
    def changed(self) -> bool:
        return any(bit.lost for bit in self.bits) or any(f.kind == REMARK for f in self.findings)

    def record(self) -> dict[str, object]:
        row: dict[str, object] = {"text": self.text, "negative": self.negative}
        if self.limit:
            row["size"] = {"text": {"used": self.used, "limit": self.limit, "unit": self.unit}}
        row["marked"] = [{"text": bit.text, "lost": bit.lost} for bit in self.bits]
        row["findings"] = [f.record() for f in self.findings]
        return {k: v for k, v in row.items() if v or k == "text"}


def fit_prompt(workspace: Workspace, prompt: Source, model: str | None) -> FittedPrompt:
    """A prompt into the limits of a model, else of the one that its record names. Raises Trouble if
    no model is named.
    """
    line, record = prompt.line, prompt.record
    name = model or record.model or None
    if not name and not workspace.settings.get("model"):
        raise Trouble(
            "no model was named, so no limit is known",
            "write --model dunlin-still; `syntagma model` lists them",
            2,
        )
    try:
        if refused := care(record.text):
            raise BadFills([refused])
        made = _again(workspace, record, name)
        return _of_formula(line, made) if made else _of_text(workspace, line, record, name)
    except (BadFills, TooLong) as bad:
        return FittedPrompt(line, "", "", (Bit(record.text, True),), troubles(bad))


def _again(workspace: Workspace, record: Record, model: str | None) -> Composed | None:
    """The prompt of a record written again by its formula; None if it was not made by one that is
    there.
    """
    if not record.formula or record.fills is None or record.says_more:
        return None
    try:
        ask = Ask(record.formula, model, record.looks, manner=Manner(stress=record.stress))
        given = {slot: fill for slot, fill in record.fills.items() if fill}
        return Composer(workspace, ask, remarks=False).compose(given)
    except (Trouble, Refused):
        return None


def _of_formula(line: int, made: Composed) -> FittedPrompt:
    limit = made.writer.profile.text_limit
    said = [f for f in made.findings if f.kind in (ERROR, WARNING) or "shortly" in f.message]
    prompt = made.prompt
    size = (prompt.used, limit.most, limit.unit) if limit else (0, 0, "")
    return FittedPrompt(line, prompt.text, prompt.negative, marked(made), said, *size)


def marked(made: Composed) -> tuple[Bit, ...]:
    """The prompt as it would be without limits, in bits that were kept and that were lost."""
    fitted = made.prompt.fitted
    if not fitted:
        return (Bit(made.prompt.text, False),)
    bits: list[Bit] = []
    for i, (plan, line) in enumerate(zip(made.writer.compiled.plans, fitted.lines, strict=True)):
        full = made.writer.phrases.line(i, made.fills)
        if full is None:
            continue
        bits += [Bit(", ", False)] if bits else []
        if line is None:
            bits.append(Bit(full.text, True))
        elif gone := fitted.cut.get(plan.label):
            bits += [Bit(line.text + " ", False), Bit(gone, True)]
        else:
            bits.append(Bit(line.text, False))
    return tuple(bits)


def _of_text(workspace: Workspace, line: int, record: Record, model: str | None) -> FittedPrompt:
    profile = workspace.model(model)
    found = fit_text(record["text"], profile)
    limit = profile.text_limit or profile.limit("whole")
    said = []
    if lost := found.lost:
        assert limit is not None, "what was shortened has a limit"
        room = f"to fit {limit.most} {limit.unit} of {profile.name}"
        said.append(
            Finding(
                WARNING,
                f"lost {room}: {'; '.join(lost)}",
                "move what matters closer to the front",
                "text",
                code="fitted",
            )
        )
    size = (found.used, limit.most, limit.unit) if limit else (0, 0, "")
    return FittedPrompt(line, found.text, record.get("negative", "") or "", found.bits, said, *size)
