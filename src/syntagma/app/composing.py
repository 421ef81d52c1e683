"""One prompt of a formula, or one for each row of a table of fills; what is open can be picked."""

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, NamedTuple

from syntagma.app.asking import Ask, check
from syntagma.app.calls import call_of
from syntagma.app.records import Recorder
from syntagma.app.world import World
from syntagma.core import checks
from syntagma.core.fills import BadFills, Fill, Given
from syntagma.core.findings import ERROR, REMARK, WARNING, Finding
from syntagma.core.fitting import TooLong
from syntagma.core.near import nearest, perhaps
from syntagma.core.places import Mistake
from syntagma.core.prompt import Prompt
from syntagma.core.realising import Piece
from syntagma.core.vocabulary import normal
from syntagma.core.writer import Writer
from syntagma.formats.table_in import Row
from syntagma.storage.trouble import Trouble

if TYPE_CHECKING:
    from syntagma.app.choosing import Chooser
    from syntagma.core.formula import Formula
    from syntagma.core.reading import Heard

PICK = "pick"  # in a slot, on the call or in a cell: choose for me
WISH = "wish"  # the column of a table that holds what is wished for in a sentence


class Composed(NamedTuple):
    """A prompt with what there is to say of it. `picked` are the slots that were chosen; `kept` the cells of a table's row
    that fill no slot; `heard` what a wish gave."""

    ask: Ask
    writer: Writer
    fills: list[Fill | None]
    prompt: Prompt
    findings: list[Finding]
    picked: Sequence[str] = ()
    kept: Mapping[str, str] = {}
    heard: "Heard | None" = None

    @property
    def request(self) -> dict[str, object]:
        """What the model is sent."""
        from syntagma.core.models.request import request_of  # imported late: most prompts are pasted

        return request_of(self.writer.profile, self.prompt.wear, self.prompt.text, self.prompt.words)

    @property
    def record(self) -> dict[str, object]:
        draw = self.ask.taste.draw if self.picked else None
        record = Recorder(self.writer, self.fills, draw=draw).record(self.prompt, findings=self.findings)
        return record | {"row": dict(self.kept)} if self.kept else record

    @property
    def pieces(self) -> list[Piece]:
        """The text in pieces that know their phrase, slot and term."""
        return self.writer.pieces(self.fills)

    def wish_of(self, piece) -> str:
        """The words of the wish that gave a piece of it."""
        return self.heard.wish[piece.span.start : piece.span.stop]

    @property
    def call(self) -> str:
        """The call that gives the same prompt, with nothing left to the draw."""
        return call_of(self.ask, self.writer.rules, self.fills)


class Composer:
    """Composes prompts of one formula for one model. Raises Trouble or Refused."""

    def __init__(self, world: World, ask: Ask, remarks: bool = True, formula: "Formula | None" = None):
        check(ask.manner, mounts=ask.mounts, themes=ask.taste.themes)
        self.world, self.ask = world, ask
        self.with_remarks = remarks  # they cost a search for the nearest terms
        read, self.remarks = world.put_round(formula, ask.mounts) if formula else world.formula(ask.formula, ask.mounts)
        self.writer = Writer(read, world.model(ask.model), world.vocabulary, world.manner(ask.manner))

    @cached_property
    def chooser(self) -> "Chooser":
        """What picks terms for this formula."""
        from syntagma.app.choosing import Chooser  # imported late: most prompts have nothing to pick

        return Chooser(self.world, self.writer, self.ask.taste)

    @cached_property
    def reader(self):
        """What takes a wish apart."""
        from syntagma.app.readwork import reader_of

        return reader_of(self.world)

    def compose(self, given: Mapping[str, Given], wish: str = "", kept: Mapping[str, str] = {}, number: int = 0) -> Composed:
        """Compose one prompt; what `given` leaves open comes from `wish`, then from picks where they are asked for.
        `number` tells the rows of a table apart. Raises BadFills, TooLong or Trouble."""
        heard = None
        if wish:
            from syntagma.core.reading import hear  # only a wish pays for it

            heard = hear(wish, self.writer.formula, self.world.vocabulary, tuple(given), self.reader)
            given = {**heard.fills, **given}
        asked = [slot for slot, text in given.items() if isinstance(text, str) and normal(text) == PICK and self._has_terms(slot)]
        fills = self.writer.fills({slot: "" if slot in asked else text for slot, text in given.items()})
        picked: list[str] = []
        if asked or self.ask.pick:
            picked = [*asked, *(s for s in self.chooser.open(fills, given) if self.ask.pick and s not in asked)]
            random = self.chooser.random(*((number,) if number else ()))
            fills = self.chooser.pick(fills, picked, random)
            fills = self._again(fills, picked, number)
            picked = [slot for slot in picked if fills[self.writer.position[slot]]]
        prompt = self.writer.write(fills)
        findings = self.remarks + self._findings(fills, prompt)
        for words in heard.rest if heard else ():
            remedy = f"give it a slot: {', '.join(r.name for r, f in zip(self.writer.rules, fills, strict=True) if f is None)}"
            findings.append(Finding(WARNING, f"“{words}” of the wish found no place", remedy, "wish"))
        return Composed(self.ask, self.writer, fills, prompt, findings, picked, kept, heard)

    def _has_terms(self, slot: str) -> bool:
        position = self.writer.position.get(slot)
        return position is not None and self.writer.rules[position].facet in self.world.vocabulary

    def _again(self, fills: list[Fill | None], picked: Sequence[str], number: int) -> list[Fill | None]:
        """Other choices for the slots named, everything else as it was."""
        passed: dict[str, list] = {}
        for turn, slot in enumerate(self.ask.again):
            if slot not in picked:
                known = perhaps(slot, picked, f"what is picked: {', '.join(picked) or 'nothing'}")
                raise Trouble(f"“{slot}” is not picked, so there is no other choice to make", known, 2)
            position = self.writer.position[slot]
            passed.setdefault(slot, []).extend(fills[position].terms if fills[position] else ())
            fills = self.chooser.pick(fills, [slot], self.chooser.random(number, "again", slot, turn), passed)
        return fills

    def _findings(self, fills: Sequence[Fill | None], prompt: Prompt) -> list[Finding]:
        writer = self.writer
        found = writer.findings(fills, prompt) + writer.clashes(fills)
        if prompt.negative:
            found = found + checks.against_findings(prompt.words, prompt.negative.split(writer.profile.negative.separator))
        if not self.with_remarks:
            return found
        return found + checks.vocabulary_remarks(writer.rules, writer.named(fills), self.world.vocabulary)

    def rows(self, table: tuple[list[str], list[Row], list[Mistake]], source: str, given: Mapping[str, Given]) -> "Rows":
        """A table of fills (columns, rows, mistakes), one prompt a row; `given` fills what a row leaves open. Raises Trouble.

        A column is a slot's by its name, in any case, with hyphens or spaces; one called wish holds a wish in a sentence;
        all others are kept as they are.
        """
        columns, rows, mistakes = table
        slots = {normal(name): name for name in (*self.writer.position, WISH)}
        if not columns:
            raise Trouble(f"{source} is empty", f"its first row names slots: {','.join(self.writer.position)}")
        slot_of = {column: slots[normal(column)] for column in columns if column and normal(column) in slots}
        if not slot_of:
            near = perhaps(columns[0], self.writer.position, f"the slots are {', '.join(self.writer.position)}")
            raise Trouble(f"no column of {source} is a slot of {self.writer.formula.name}", near)
        free = [slot for slot in self.writer.position if slot not in slot_of.values()]
        remarks = [
            Finding(REMARK, f"the column “{name}” fills no slot, and is kept as it is", f"did you mean “{near}”?", name)
            for name in columns
            if name and name not in slot_of and (near := nearest(name, free))
        ]
        return Rows(self, source, rows, mistakes, remarks, given, slot_of)


class Rows:
    """A table of fills. `mistakes` are the rows that could not be read; running through it adds those that could not
    be composed."""

    def __init__(
        self, composer: Composer, source: str, rows: list[Row], mistakes: list[Mistake], remarks: list[Finding],
        given: Mapping[str, Given], slot_of: Mapping[str, str],
    ):  # fmt: skip
        self.composer, self.source, self.rows, self.given, self.slot_of = composer, source, rows, given, slot_of
        self.mistakes, self.remarks = mistakes, remarks

    def __iter__(self) -> Iterator[tuple[int, Composed]]:
        """(line of the table, what was composed of it)."""
        for number, (line, cells) in enumerate(self.rows, 1):
            filled = {self.slot_of[name]: cell for name, cell in cells.items() if name in self.slot_of and cell.strip()}
            kept = {name: cell for name, cell in cells.items() if name not in self.slot_of}
            wish = filled.pop(WISH, "")
            try:
                yield line, self.composer.compose({**self.given, **filled}, wish, kept, number)
            except (BadFills, TooLong) as bad:
                for finding in troubles(bad):
                    where = f"{finding.place}: " if finding.place else ""
                    self.mistakes.append(Mistake(where + finding.message, finding.remedy, self.source, line, 1))
            except Trouble as trouble:
                self.mistakes.append(Mistake(str(trouble), trouble.remedy, self.source, line, 1))


def troubles(bad: BadFills | TooLong) -> list[Finding]:
    """Why there is no prompt, as findings."""
    if isinstance(bad, BadFills):
        return bad.findings
    remedy = (
        f"shorten what fills it, or take the ! off a phrase, or choose a model with more than {bad.limit.most} {bad.limit.unit}"
    )
    return [Finding(ERROR, str(bad), remedy, "text")]
