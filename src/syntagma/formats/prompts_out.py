"""Prompts out, by the ending of the file: .txt .csv .xlsx .parquet .jsonl .json .md. Each writer
takes records one after the other, and at the end the findings that are no single record's, which
JSON holds.
"""

import csv
import re
from collections.abc import Iterable, Mapping, Sequence
from functools import partial
from typing import Any, TextIO

from syntagma.formats.json_out import ItemsOut, encoder
from syntagma.formats.table_in import HarmlessCells

Record = Mapping[str, Any]


class TextOut:
    """One prompt a line, ready to paste; those of several lines with a blank line after each. Takes
    texts, not records.
    """

    records = lines = False

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        self._write = file.write

    def add(self, text: str) -> None:
        self._write(f"{text}\n\n" if "\n" in text else f"{text}\n")

    def add_all(self, texts: Sequence[str]) -> None:
        if texts:
            gap = "\n\n" if "\n" in texts[0] else "\n"
            self._write(gap.join((*texts, "")))

    def close(self, findings: Iterable[Record] = ()) -> None:
        pass


class JsonLinesOut:
    """One record a line. `lines`: it takes them as bytes, too."""

    records = lines = True

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        self._write, self._encode = file.buffer.write, encoder()

    def add(self, record: Record) -> None:
        self._write(self._encode(record) + b"\n")

    def add_lines(self, lines: Iterable[bytes]) -> None:
        """Records that are lines of JSON already."""
        self._write(b"".join(lines))

    def close(self, findings: Iterable[Record] = ()) -> None:
        pass


class JsonOut:
    """One object: the records as its `items`, and the findings of the whole call, as `--json`
    prints them.
    """

    records, lines = True, False

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        self._out = ItemsOut(file.buffer.write)
        self.add = self._out.add

    def close(self, findings: Iterable[Record] = ()) -> None:
        self._out.close(findings)


class _Columns:
    """The columns of a table: id, formula, model, text and negative text, one for each slot,
    parameters, size and findings, then what a table of rows had besides.
    """

    def __init__(self, slots: Sequence[str], kept: Sequence[str]):
        sizes = ["parameters", "changes", "used", "limit", "unit", "findings"]
        own = ["id", "formula", "model", "text", "negative", *slots, *sizes]
        self._slots, self._kept = (
            list(slots),
            [name for name in kept if name not in own],
        )  # what was written before is written again
        self.names = [*own, *self._kept]

    def cells(self, record: Record, none: object = "") -> list[object]:
        """A record as a row; `none` is used if it has no limit."""
        fills = record.get("fills", {})
        size = record.get("size", {}).get("text", {})
        return (
            [
                record["id"],
                record["formula"],
                record.get("model", ""),
                record["text"],
                record.get("negative", ""),
            ]
            + [cell(fills.get(slot, "")) for slot in self._slots]
            + [
                "; ".join(f"{k}={v}" for k, v in record.get("parameters", {}).items()),
                "; ".join(changes(record)),
            ]
            + [
                size.get("used", len(record["text"])),
                size.get("limit", none),
                size.get("unit", "characters"),
            ]
            + ["; ".join(f["message"] for f in record.get("findings", ()))]
            + [record.get("row", {}).get(name, "") for name in self._kept]
        )


class CsvOut:
    """A table. Cells that a spreadsheet would run are made harmless; `note` says so at the end."""

    records, lines = True, False

    def __init__(
        self,
        file: TextIO,
        columns: Sequence[str] = (),
        kept: Sequence[str] = (),
        plain: bool = False,
    ):
        self._columns, self._safe = _Columns(columns, kept), HarmlessCells(plain)
        self._out = csv.writer(file)
        self._out.writerow(self._safe.row(list(self._columns.names)))

    def add(self, record: Record) -> None:
        self._out.writerow(self._safe.row(self._columns.cells(record)))

    @property
    def note(self) -> str:
        return self._safe.note

    def close(self, findings: Iterable[Record] = ()) -> None:
        pass


class XlsxOut:
    """The same table as a spreadsheet."""

    records, lines = True, False

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        self._columns, self._file = _Columns(columns, kept), file
        self._rows: list[list[str]] = []

    def add(self, record: Record) -> None:
        self._rows.append([str(cell) for cell in self._columns.cells(record)])

    def close(self, findings: Iterable[Record] = ()) -> None:
        from syntagma.formats.xlsx import write_sheet

        write_sheet(self._file.buffer, "prompts", self._columns.names, self._rows)


class ParquetOut:
    """The same table as Parquet (pyarrow, an optional extra), some thousand rows at a time: `used`
    and `limit` are whole numbers, all other columns text.
    """

    records, lines = True, False
    GROUP = 20_000

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        import pyarrow as pa
        from pyarrow.parquet import ParquetWriter

        self._columns, self._pa = _Columns(columns, kept), pa
        kinds = {"used": pa.int64(), "limit": pa.int64()}
        self._schema = pa.schema(
            [(name, kinds.get(name, pa.string())) for name in self._columns.names]
        )
        self._out = ParquetWriter(file.buffer, self._schema, compression="zstd")
        self._rows: list[list[object]] = []

    def add(self, record: Record) -> None:
        self._rows.append(self._columns.cells(record, None))
        if len(self._rows) == self.GROUP:
            self._flush()

    def _flush(self) -> None:
        columns = [
            list(map(str, c)) if f.type == "string" else list(c)
            for c, f in zip(zip(*self._rows), self._schema)
        ]
        self._out.write_table(self._pa.table(columns, schema=self._schema))
        self._rows = []

    def close(self, findings: Iterable[Record] = ()) -> None:
        if self._rows:
            self._flush()
        self._out.close()


class MarkdownOut:
    """A page to read and to copy from: each prompt under a heading that says what differs."""

    records, lines = True, False

    def __init__(self, file: TextIO, columns: Sequence[str] = (), kept: Sequence[str] = ()):
        self._write = file.write
        self._number = 0

    def add(self, record: Record) -> None:
        self._number += 1
        if self._number == 1:
            self._write(f"# {record['formula']}\n")
        differs = ", ".join(changes(record)) or ("baseline" if "design" in record else record["id"])
        title = " · ".join(p for p in (str(self._number), record.get("model", ""), differs) if p)
        fence = "`" * max(3, 1 + max((len(run) for run in _ticks(record["text"])), default=0))
        self._write(f"\n## {title}\n\n{fence}text\n{record['text']}\n{fence}\n")
        if negative := record.get("negative"):
            self._write(f"\nNegative: {negative}\n")
        size = record.get("size", {}).get("text")
        if size:
            self._write(f"\n{size['used']} of {size['limit']} {size['unit']}\n")
        for finding in record.get("findings", ()):
            self._write(f"\n- {finding['kind']}: {finding['message']}\n")

    def close(self, findings: Iterable[Record] = ()) -> None:
        pass


def plainly(writer: Any) -> Any:
    """A writer that leaves the cells of a table as they are, for programs that read them."""
    return partial(writer, plain=True) if writer is CsvOut else writer


WRITERS = {
    ".txt": TextOut,
    ".csv": CsvOut,
    ".xlsx": XlsxOut,
    ".parquet": ParquetOut,
    ".jsonl": JsonLinesOut,
    ".json": JsonOut,
    ".md": MarkdownOut,
}


def changes(record: Record) -> list[str]:
    """What differs from the baseline, a phrase each."""
    said = []
    for slot, (_, here) in record.get("design", {}).get("changes", {}).items():
        said.append(f"{slot}: {cell(here) or 'blank'}")
    return said


def cell(value: object) -> str:
    """A fill in one cell."""
    return "; ".join(value) if isinstance(value, list | tuple) else str(value)


def _ticks(text: str) -> list[str]:
    return re.findall(r"`+", text)
