"""One prompt of a formula, or one for each row of a table of fills."""

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from syntagma.app.records import Recorder
from syntagma.app.world import World
from syntagma.core import checks
from syntagma.core.fills import BadFills, Fill, Given
from syntagma.core.findings import ERROR, REMARK, Finding
from syntagma.core.fitting import TooLong
from syntagma.core.near import perhaps
from syntagma.core.places import Mistake
from syntagma.core.realising import Piece
from syntagma.core.writer import Prompt, Writer
from syntagma.formats.table_in import Row, read_rows
from syntagma.storage.trouble import Trouble


class Composed(NamedTuple):
    """A prompt with what there is to say of it."""

    writer: Writer
    fills: list[Fill | None]
    prompt: Prompt
    findings: list[Finding]

    @property
    def record(self) -> dict[str, object]:
        return Recorder(self.writer, self.fills).record(self.prompt, findings=self.findings)

    @property
    def pieces(self) -> list[Piece]:
        """The text in pieces that know their phrase, slot and term."""
        return self.writer.pieces(self.fills)


class Composer:
    """Composes prompts of one formula for one model."""

    def __init__(self, world: World, formula: str, model: str | None = None, remarks: bool = True):
        self.world = world
        self.with_remarks = remarks  # they cost a search for the nearest terms
        read, self.remarks = world.formula(formula)
        self.writer = Writer(read, world.model(model), world.vocabulary)

    def compose(self, given: Mapping[str, Given]) -> Composed:
        """Compose one prompt. Raises BadFills or TooLong."""
        fills = self.writer.fills(given)
        prompt = self.writer.write(fills)
        return Composed(self.writer, fills, prompt, self.remarks + self._findings(fills, prompt))

    def _findings(self, fills: Sequence[Fill | None], prompt: Prompt) -> list[Finding]:
        writer = self.writer
        found = writer.findings(fills, prompt) + writer.clashes(fills)
        if not self.with_remarks:
            return found
        return found + checks.vocabulary_remarks(writer.rules, writer.named(fills), self.world.vocabulary)

    def rows(self, text: str, source: str, given: Mapping[str, Given]) -> "Rows":
        """Read a table of fills, one prompt a row; `given` fills what a row leaves open. Raises Trouble."""
        columns, rows, mistakes = read_rows(text, source)
        slots = self.writer.position
        if not columns:
            raise Trouble(f"{source} is empty", f"its first row names slots: {','.join(slots)}")
        if not any(name in slots for name in columns):
            near = perhaps(columns[0], slots, f"the slots are {', '.join(slots)}")
            raise Trouble(f"no column of {source} is a slot of {self.writer.formula.name}", near)
        remarks = [
            Finding(REMARK, f"the column “{name}” is no slot, and is left alone", perhaps(name, slots, ""), name)
            for name in columns
            if name and name not in slots
        ]
        return Rows(self, source, rows, mistakes, remarks, given)


class Rows:
    """A table of fills. `mistakes` are the rows that could not be read; running through it adds those that could not
    be composed."""

    def __init__(
        self, composer: Composer, source: str, rows: list[Row], mistakes: list[Mistake], remarks: list[Finding],
        given: Mapping[str, Given],
    ):  # fmt: skip
        self.composer, self.source, self.rows, self.given = composer, source, rows, given
        self.mistakes, self.remarks = mistakes, remarks

    def __iter__(self) -> Iterator[tuple[int, Composed]]:
        """(line of the table, what was composed of it)."""
        slots = self.composer.writer.position
        for line, cells in self.rows:
            filled = {name: cell for name, cell in cells.items() if name in slots and cell.strip()}
            try:
                yield line, self.composer.compose({**self.given, **filled})
            except (BadFills, TooLong) as bad:
                for finding in troubles(bad):
                    where = f"{finding.place}: " if finding.place else ""
                    self.mistakes.append(Mistake(where + finding.message, finding.remedy, self.source, line, 1))


def troubles(bad: BadFills | TooLong) -> list[Finding]:
    """Why there is no prompt, as findings."""
    if isinstance(bad, BadFills):
        return bad.findings
    remedy = (
        f"shorten what fills it, or take the ! off a phrase, or choose a model with more than {bad.limit.most} {bad.limit.unit}"
    )
    return [Finding(ERROR, str(bad), remedy, "text")]
