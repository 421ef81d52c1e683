"""A record: one prompt as files, sheets and the library hold it, with its parts read once and typed
(docs/reference/records.md).

Records come from anybody's files, and a person's keys come back as they were: a record is the
mapping that was read, whole. What the program uses of it is read here and nowhere else; a part that
has not the shape it should have counts as not given.
"""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any, NamedTuple

Fill = str | list[str]  # one thing as it was typed, or several


class RecordDesign(NamedTuple):
    """The design of the family that a record is of: its name, the number of the member, how many
    results each prompt is to have (None if it does not say), and by axis what it was at first and
    what it is here.
    """

    name: str = ""
    number: int | None = None
    takes: int | None = None
    changes: Mapping[str, tuple[Fill, Fill]] = {}


class FilmPlace(NamedTuple):
    """What a record is in a film: the name and kind (clip, still) of it, the results it needs, what
    holds it back, and whether it was sent before and stays.
    """

    name: str = ""
    kind: str = ""
    needs: tuple[Mapping[str, Any], ...] = ()
    held: str = ""
    pinned: bool = False
    values: Mapping[str, Any] = {}


class Cost(NamedTuple):
    """Money: an amount in a currency ("" if it is not named)."""

    amount: float
    currency: str = ""


class Record(Mapping[str, Any]):
    """One record. As a mapping it is what was read; its properties are its parts, typed."""

    def __init__(self, values: Mapping[str, Any]):
        self._values = values._values if isinstance(values, Record) else values

    def __getitem__(self, key: str) -> Any:
        return self._values[key]

    def __iter__(self) -> Iterator[str]:
        return iter(self._values)

    def __len__(self) -> int:
        return len(self._values)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Mapping) and dict(self._values) == dict(other)

    __hash__ = None  # type: ignore[assignment]  # as of any mapping

    def __repr__(self) -> str:
        return f"Record({dict(self._values)!r})"

    def changed(self, **values: Any) -> "Record":
        """The same with other values of some keys."""
        return Record({**self._values, **values})

    def _text(self, key: str) -> str:
        value = self._values.get(key)
        return value if isinstance(value, str) else ""

    def _table(self, key: str) -> dict[str, Any] | None:
        value = self._values.get(key)
        return dict(value) if isinstance(value, Mapping) else None

    def _tables(self, key: str) -> list[dict[str, Any]]:
        return tables(self._values.get(key))

    @property
    def text(self) -> str:
        """The words that are pasted."""
        return self._text("text")

    @property
    def negative(self) -> str:
        """What is to stay out."""
        return self._text("negative")

    @property
    def model(self) -> str:
        """The model it was written for; "" if it names none."""
        return self._text("model")

    @property
    def formula(self) -> str:
        """The formula that wrote it; "" if none did."""
        return self._text("formula")

    @property
    def looks(self) -> list[str]:
        """The looks on it."""
        value = self._values.get("looks")
        return [str(one) for one in value] if isinstance(value, list) else []

    @cached_property
    def fills(self) -> dict[str, Fill] | None:
        """What fills each slot, as it was typed; None for a prompt without slots."""
        found = self._table("fills")
        return (
            None
            if found is None
            else {
                str(slot): [str(one) for one in fill] if isinstance(fill, list) else str(fill)
                for slot, fill in found.items()
            }
        )

    @property
    def stress(self) -> dict[str, float]:
        """Weights by slot or phrase."""
        return {
            str(name): float(weight)
            for name, weight in (self._table("stress") or {}).items()
            if isinstance(weight, int | float)
        }

    @property
    def parameters(self) -> dict[str, Any]:
        """Parameters by name, or as one cell of a table has them: ratio=2:3; seed=4."""
        value = self._values.get("parameters")
        if isinstance(value, str):
            pairs = (part.partition("=") for part in value.split(";"))
            return {name.strip(): said.strip() for name, sign, said in pairs if sign}
        return self._table("parameters") or {}

    @property
    def references(self) -> list[dict[str, Any]]:
        """What it refers to, each as references.record gives it."""
        return self._tables("references")

    @property
    def findings(self) -> list[dict[str, Any]]:
        """The findings on it, each as Finding.record gives it."""
        return self._tables("findings")

    @property
    def request(self) -> dict[str, Any] | None:
        """What its service would be sent, where the record says so."""
        return self._table("request")

    @property
    def row(self) -> dict[str, str]:
        """What a table of rows had besides, by column."""
        return {str(key): str(cell) for key, cell in (self._table("row") or {}).items()}

    @property
    def cost(self) -> Cost | None:
        """What it cost, or would cost."""
        found = self._table("cost") or {}
        amount = found.get("amount")
        return (
            Cost(amount, str(found.get("currency", "")))
            if isinstance(amount, int | float)
            else None
        )

    @cached_property
    def design(self) -> RecordDesign | None:
        """The design of its family; None if it is of none."""
        found = self._table("design")
        if found is None:
            return None
        changes = found.get("changes")
        pairs = changes.items() if isinstance(changes, Mapping) else ()
        number, takes = found.get("index"), found.get("takes")
        return RecordDesign(
            str(found.get("name", "")),
            number if isinstance(number, int) else None,
            takes if isinstance(takes, int) else None,
            {
                str(axis): (pair[0], pair[1])
                for axis, pair in pairs
                if isinstance(pair, list | tuple) and len(pair) == 2
            },
        )

    @cached_property
    def film(self) -> FilmPlace | None:
        """What it is in a film; None if it is of none."""
        found = self._table("film")
        if found is None:
            return None
        needs = tuple(tables(found.get("needs")))
        return FilmPlace(
            str(found.get("name") or ""),
            str(found.get("kind") or ""),
            needs,
            str(found.get("held") or ""),
            bool(found.get("pinned")),
            found,
        )

    @property
    def says_more(self) -> bool:
        """Does it say what is in none of its slots, in words that a person brought? Its fills alone
        would lose that.
        """
        return any(one.get("code") == "wish-without-place" for one in self.findings)


def tables(value: object) -> list[dict[str, Any]]:
    """The tables in a list of a file; whatever else is in it is passed over."""
    return (
        [dict(one) for one in value if isinstance(one, Mapping)]
        if isinstance(value, list | tuple)
        else []
    )


def joined(fill: Fill, mark: str = "; ") -> str:
    """A fill as one text."""
    return fill if isinstance(fill, str) else mark.join(fill)
