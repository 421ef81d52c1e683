"""A table of wishes and fills, a prompt a row: what each column is for, and the prompts of the
rows.
"""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from syntagma.app.asked import Ask, manner_of
from syntagma.app.composing.composer import Composed, Composer, troubles
from syntagma.core.diagnostics import REMARK, Finding, Mistake, Refused, Trouble, nearest, perhaps
from syntagma.core.drafting.fills import BadFills, Given
from syntagma.core.fitting import TooLong
from syntagma.core.models.parameters import own_name
from syntagma.core.notation.ranges import number as in_range
from syntagma.core.vocabulary.terms import normal
from syntagma.formats.table_in import Table

WISH = "wish"  # the column that holds what is wished for in a sentence
ASKED = (
    "model",
    "look",
    "theme",
    "detail",
    "draw",
    "stress",
    "reference",
)  # columns that say what options say
_COMMON = (
    "ratio",
    "seconds",
    "seed",
    "rate",
    "pictures",
)  # parameters that need no model to be meant


class Columns(NamedTuple):
    """What the columns of a table are for: slots (and the wish), parameters, and what else can be
    asked for; all others are kept.
    """

    slots: Mapping[str, str]
    parameters: Mapping[str, str]
    asked: Mapping[str, str]

    @property
    def used(self) -> set[str]:
        return {*self.slots, *self.parameters, *self.asked}


def columns_of(composer: Composer, table: Table, source: str) -> Columns:
    """What each column is for. A slot's goes by its name, in any case, with hyphens or spaces; wish
    holds a sentence; model, look, theme, detail, draw, stress and reference say what the options of
    these names say; parameter.NAME is a parameter, and so is NAME where a model in play has it.
    Raises Trouble if no column is of any use.
    """
    columns, rows, _ = table
    if not columns:
        if table[2] and "empty" not in table[2][0].message:
            raise Trouble(f"{source}: {table[2][0].message}", table[2][0].remedy, 1)
        raise Trouble(
            f"{source} is empty",
            f"its first row has to name slots: {','.join(composer.writer.position)}",
            1,
        )
    known = {normal(name): name for name in (*composer.writer.position, WISH)}
    slots = {
        column: known[normal(column)] for column in columns if column and normal(column) in known
    }
    others = [column for column in columns if column and column not in slots]
    asked = {
        c: name
        for c in others
        if (
            name := {"looks": "look", "themes": "theme", "references": "reference"}.get(
                normal(c), normal(c)
            )
        )
        in ASKED
    }
    models = [c for c, name in asked.items() if name == "model"]
    named = {cells.get(c, "").strip() for _, cells in rows for c in models} - {""}
    profiles = [
        composer.writer.profile,
        *(composer.workspace.model(name) for name in named if name in composer.workspace.models()),
    ]
    head = composer.writer.formula.head.parameters
    parameters = {}
    for column in others:
        name = column.strip().removeprefix("parameter.")
        meant = (
            name != column.strip()
            or name in head
            or any(own_name(profile, name) for profile in profiles)
        )
        if column not in asked and (
            meant or (name in _COMMON and not any(p.parameter for p in profiles))
        ):
            parameters[column] = name
    if not slots:
        near = perhaps(
            columns[0],
            composer.writer.position,
            f"the slots are {', '.join(composer.writer.position)}",
        )
        raise Trouble(
            f"no column of {source} matches a slot of {composer.writer.formula.name}", near, 1
        )
    return Columns(slots, parameters, asked)


def rows_of(composer: Composer, table: Table, source: str, given: Mapping[str, Given]) -> "Rows":
    """A table (columns, rows, mistakes) as prompts, one per row; `given` fills what a row leaves
    open. Raises Trouble.
    """
    return Rows(composer, table, source, given, columns_of(composer, table, source))


class Rows:
    """The rows of a table. `mistakes` are those that could not be read; running through it adds
    those that could not be composed.
    """

    def __init__(
        self,
        composer: Composer,
        table: Table,
        source: str,
        given: Mapping[str, Given],
        columns: Columns,
    ):
        names, self.rows, self.mistakes = table
        self.composer, self.source, self.given, self.columns = composer, source, given, columns
        self._composers: dict[str, Composer] = {}
        free = [slot for slot in composer.writer.position if slot not in columns.slots.values()]
        self.remarks = [
            Finding(
                REMARK,
                f"the column “{name}” fills no slot and is passed through unchanged",
                f"did you mean “{near}”?",
                name,
                code="column-without-slot",
            )
            for name in names
            if name and name not in columns.used and (near := nearest(name, free))
        ]

    def __iter__(self) -> Iterator[tuple[int, Composed]]:
        """(line of the table, what was composed of it)."""
        slots = self.columns.slots
        for number, (line, cells) in enumerate(self.rows, 1):
            filled = {
                slots[name]: cell for name, cell in cells.items() if name in slots and cell.strip()
            }
            kept = {name: cell for name, cell in cells.items() if name not in self.columns.used}
            wish = filled.pop(WISH, "")
            try:
                yield line, self._for(cells).compose({**self.given, **filled}, wish, kept, number)
            except (BadFills, TooLong) as bad:
                for finding in troubles(bad):
                    where = f"{finding.place}: " if finding.place else ""
                    self.mistakes.append(
                        Mistake(where + finding.message, finding.remedy, self.source, line, 1)
                    )
            except Refused as refused:
                self.mistakes += refused.mistakes
            except Trouble as trouble:
                self.mistakes.append(Mistake(str(trouble), trouble.remedy, self.source, line, 1))

    def _for(self, cells: Mapping[str, str]) -> Composer:
        """What composes a row: with what its cells ask for, over what the call says. Raises Trouble
        or Refused.
        """
        said = {
            name: cells[c].strip()
            for c, name in self.columns.asked.items()
            if cells.get(c, "").strip()
        }
        parameters = {
            name: cells[c].strip()
            for c, name in self.columns.parameters.items()
            if cells.get(c, "").strip()
        }
        if not said and not parameters:
            return self.composer
        key = repr((said, parameters))
        if key not in self._composers:
            if len(self._composers) > 256:
                self._composers.clear()
            ask = self._asked(said, parameters)
            self._composers[key] = Composer(
                self.composer.workspace, ask, self.composer.with_remarks, self.composer.formula
            )
        return self._composers[key]

    def _asked(self, said: Mapping[str, str], parameters: Mapping[str, str]) -> Ask:
        ask, own = (
            self.composer.ask,
            manner_of(
                parameters, _listed(said.get("reference", ""), ";"), _pairs(said.get("stress", ""))
            ),
        )
        manner = ask.manner._replace(
            parameters={**ask.manner.parameters, **own.parameters},
            stress={**ask.manner.stress, **own.stress},
            references=[*ask.manner.references, *own.references],
        )
        taste = ask.taste
        if "theme" in said:
            taste = taste._replace(themes=_listed(said["theme"]))
        if "detail" in said:
            taste = taste._replace(detail=said["detail"])
        if "draw" in said:
            taste = taste._replace(draw=_whole(said["draw"]))
        looks = _listed(said["look"]) if "look" in said else ask.looks
        pick = ask.pick or "theme" in said or "detail" in said
        return ask._replace(
            model=said.get("model", ask.model), looks=looks, taste=taste, pick=pick, manner=manner
        )


def _listed(text: str, signs: str = ",;") -> list[str]:
    for sign in signs[1:]:
        text = text.replace(sign, signs[0])
    return [part.strip() for part in text.split(signs[0]) if part.strip()]


def _pairs(text: str) -> dict[str, str]:
    """light=1.3; subject=0.8. Raises Trouble."""
    found = {}
    for part in _listed(text):
        name, sign, value = part.partition("=")
        if not sign or not name.strip() or not value.strip():
            raise Trouble(f"“{part}” is incomplete", "write light=1.3; subject=0.8", 2)
        found[name.strip()] = value.strip()
    return found


def _whole(text: str) -> int:
    return int(in_range("draw", text))
