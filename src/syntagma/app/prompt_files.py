"""Prompts out of whatever they are kept in: one per line, numbered, blocks between blank lines, a
table's column, JSON. Every row comes, or comes with the reason why it can't be read. Text of any
size is gone through line by line; bytes that are no UTF-8 are read as Windows-1252, and reported.
"""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from copy import deepcopy
from itertools import chain, pairwise
from pathlib import Path
from typing import Annotated, Any, NamedTuple

from syntagma.app.workspace.html_pages import read_table
from syntagma.core.diagnostics import Mistake, Trouble
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.structure import Bounds, Structure, half_character
from syntagma.core.notation.validation import converted
from syntagma.core.records import Record
from syntagma.formats.table_in import Table, TableRow, read_rows
from syntagma.storage.files import MOST, bounded, opened

HEAD = 64_000  # bytes from which the layout of a text file is recognised
LONGEST = 200_000  # characters of one prompt
COLUMNS = ("text", "prompt", "prompts")
NO_PROMPTS = {  # files of ours that hold something else, and what takes them
    ".toml": (
        "a TOML file holds a plan, a model, a theme or settings",
        (
            "to check a whole workspace: syntagma check; to look at a plan: syntagma expand FILE"
            " --dry-run"
        ),
    ),
    ".formula": ("it is a formula", "to check it: syntagma check FILE.formula"),
}
_NUMBER = regex(r"^\s*(?:\d{1,4}[.)]|[-*•])\s+(?=\S)")
_MARKED = regex(
    r"^\s*(?:\d{1,2}:\d\d|[\[(]?\d+(?:\.\d+)? ?s?(?:-|–)|[A-Za-z][\w"
    r" .-]{0,28}\s*[:|]\s|never:|not\b)",
    re.I,
)
_SAYS = {"text", "prompt"}
_NO_TEXT = 'a record is {"text": "…"}, as compose --json writes it'


class Source(NamedTuple):
    """One prompt and where it stood: its line (row, or record) from 1; `note` if there is something
    to report about how it was read; `record` what stood beside it. Where it can't be read `mistake`
    says why.
    """

    line: int
    text: str = ""
    note: str = ""
    record: Record = Record({})
    mistake: Mistake | None = None


def prompts_of_file(path: Path | str, column: str = "", records: bool = False) -> Iterator[Source]:
    """The prompts of a file, in order. `records`: a text file has one per line, and JSON holds
    records with a text; without it, layout and nested prompts are recognised by their look. Raises
    Trouble if the file can't be read or has no such column.
    """
    source, ending = str(path), Path(path).suffix.lower()
    if ending in NO_PROMPTS:
        raise Trouble(
            f"{source} is not a file of prompts: {NO_PROMPTS[ending][0]}", NO_PROMPTS[ending][1], 2
        )
    if ending in (".xlsx", ".csv"):
        yield from _cells(
            (
                read_table(source)
                if ending == ".xlsx"
                else read_rows("".join(t for t, _ in _lines(path)), source)
            ),
            column,
            source,
        )
    elif records and ending == ".json":
        yield from _json("".join(line for line, _ in _lines(path)), column, source, 1, True)
    elif ending == ".jsonl":
        yield from _json_lines(_lines(path), column, source, records)
    else:
        yield from (_plain_lines if records else laid_out)(
            _lines(path), column, source, ending == ".json"
        )


def prompts_of_pipe(
    raw: Iterable[bytes], column: str = "", records: bool = False
) -> Iterator[Source]:
    """The prompts that come on a pipe, as they come."""
    yield from (_plain_lines if records else laid_out)(_decoded(raw), column, "standard input")


def prompts_of_text(text: str, source: str) -> Iterator[Source]:
    """The prompts of a file's text that is at hand, as prompts_of_file gives them with `records`.
    Raises Trouble.
    """
    layout = records_layout(text, source)
    if layout == "csv":
        return _cells(read_rows(text, source), "", source)
    if layout == "json":
        return _json(text, "", source, 1, True)
    lines = ((line, "") for line in lines_of(text.removeprefix("\ufeff")))
    return _json_lines(lines, "", source, True) if layout == "jsonl" else _one_a_line(lines, source)


def records_layout(text: str, source: str) -> str:
    """How finished prompts are in a file, by its ending, else by what it begins with: csv, json,
    jsonl, or lines.
    """
    ending = Path(source).suffix.lower()
    if ending in (".csv", ".json", ".jsonl"):
        return ending[1:]
    start = text[:HEAD].removeprefix("\ufeff").lstrip()
    if not re.match(r"\[\s*[{\"]|{\s*\"", start):
        return "lines"
    return "jsonl" if re.match(r"{[^\n]*}\s*(?:\n|$)", start) else "json"


def lines_of(text: str) -> list[str]:
    """The lines of a text with their ends, a line feed being the only one that counts, as it is in
    files that are read by line.
    """
    return re.findall(r"[^\n]*\n|[^\n]+", text)


def _plain_lines(
    lines: Iterable[tuple[str, str]], column: str, source: str, is_json: bool = False
) -> Iterator[Source]:
    """One prompt a line; records where the first line is one, or begins an array of them."""
    lines = iter(lines)
    first, start = _head(lines)
    lines, layout = chain(first, lines), records_layout(start, "")
    if layout == "json":
        yield from _json(_joined(lines, source), column, source, 1, True)
    elif layout == "jsonl":
        yield from _json_lines(lines, column, source, True)
    else:
        yield from _one_a_line(lines, source)


def _one_a_line(lines: Iterable[tuple[str, str]], source: str) -> Iterator[Source]:
    for number, (line, note) in enumerate(lines, 1):
        if line.strip():
            yield _whole(Source(number, line.strip(), note, Record({"text": line.strip()})), source)


def laid_out(
    lines: Iterable[tuple[str, str]], column: str = "", source: str = "", is_json: bool = False
) -> Iterator[Source]:
    """Prompts by the layout that the head of a text shows: JSON, JSON lines, numbered, blocks
    between blank lines, one of several lines, or one per line. Each line comes with a note of how
    it was read. Raises Trouble if a column is named and there are none.
    """
    lines = iter(lines)
    first, start = _head(lines)
    head, lines = "".join(line for line, _ in first).removeprefix("\ufeff"), chain(first, lines)
    if is_json or re.match(r"\[\s*[{\"]|{\s*[\"}]", start):
        if not is_json and re.match(r"[{\[][^\n]*[}\]]\s*\n\s*[{\[]", start):
            yield from _json_lines(lines, column, source)
        else:
            yield from _json(_joined(lines, source), column, source)
        return
    if column:
        raise Trouble(f"{source} has no columns", "leave --column out", 2)
    filled = [line for line in head.splitlines() if line.strip()]
    numbered = sum(bool(_NUMBER.match(line)) for line in filled)
    if numbered >= 2 and numbered * 2 >= len(filled):
        found = _blocks(lines, lambda line: bool(_NUMBER.match(line)))
    elif (
        not all(line.strip() for line in head.strip().splitlines())
        and any(a.strip() and b.strip() for a, b in pairwise(head.splitlines()))
    ) or (
        len(filled) > 1 and sum(bool(_MARKED.match(line)) for line in filled) * 3 >= 2 * len(filled)
    ):
        found = _blocks(lines, None)
    else:
        found = (
            Source(number, line.strip("\r\n"), note)
            for number, (line, note) in enumerate(lines, 1)
            if line.strip()
        )
    yield from (_whole(one, source) for one in found)


def _head(lines: Iterator[tuple[str, str]]) -> tuple[list[tuple[str, str]], str]:
    """The first lines, as many as tell the layout, and what they begin with."""
    first: list[tuple[str, str]] = []
    size = 0
    for line in lines:
        first.append(line)
        size += len(line[0])
        if size >= HEAD:
            break
    return first, "".join(line for line, _ in first).removeprefix("\ufeff").lstrip()


def _joined(lines: Iterable[tuple[str, str]], source: str) -> str:
    """All lines as one text. Raises Trouble if it is larger than what is read at once."""
    data = "".join(line for line, _ in lines).removeprefix("\ufeff")
    if len(data) > MOST:
        raise Trouble(
            f"{source} is too large for a single JSON value",
            "write it as .jsonl, one record per line",
            1,
        )
    return data


def _blocks(
    lines: Iterable[tuple[str, str]], begins: Callable[[str], Any] | None
) -> Iterator[Source]:
    """Prompts of several lines: each begins where `begins` says, or after a blank line."""
    held: list[str] = []
    first, noted = 1, ""
    for number, (line, note) in enumerate(lines, 1):
        new = begins(line) if begins else not line.strip()
        if new and "".join(held).strip():
            yield Source(first, "".join(held).strip("\r\n"), noted)
            held, noted = [], ""
        if not held:
            first = number
        if line.strip() or held:
            held.append(_NUMBER.sub("", line, count=1) if new and begins else line)
            noted = noted or note
    if "".join(held).strip():
        yield Source(first, "".join(held).strip("\r\n"), noted)


def _whole(one: Source, source: str) -> Source:
    """A prompt as it is, or with the reason why it can't be one."""
    if len(one.text) > LONGEST:
        return _unread(
            source,
            one.line,
            f"the prompt has {len(one.text):,} characters",
            "no generator takes that many: shorten it",
        )
    if wrong := half_character(one.text):
        return _unread(source, one.line, wrong, "save it as UTF-8")
    return one


def _unread(
    source: str, line: int, message: str, remedy: str, column: int = 1, shown: str = ""
) -> Source:
    return Source(line, mistake=Mistake(message, remedy, source, line, column, shown[:200]))


def _lines(path: Path | str) -> Iterator[tuple[str, str]]:
    """The lines of a text file, each with a note of how it was read. Raises Trouble if it is not
    text.
    """
    with opened(path, "a file of prompts") as file:
        try:
            head = file.peek(HEAD)[:HEAD] if hasattr(file, "peek") else b""
            if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
                text = bounded(file, str(path)).decode("utf-16", "replace")
                yield from ((line, "") for line in text.splitlines(keepends=True))
                return
            if b"\0" in head:
                raise Trouble(
                    f"{path} is not text: it contains bytes that are not text",
                    "name a file of prompts (.txt .csv .xlsx .json .jsonl)",
                    1,
                )
            yield from _decoded(file)
        except OSError as error:
            raise Trouble(
                f"{path} can't be read: {(error.strerror or str(error)).lower()}",
                "check that you may read it",
            ) from None


def _decoded(raw: Iterable[bytes]) -> Iterator[tuple[str, str]]:
    pieces = (
        iter(lambda: raw.readline(MOST), b"") if hasattr(raw, "readline") else raw
    )  # a line has an end, or is none
    for number, line in enumerate(pieces, 1):
        if b"\0" in line[:HEAD] or len(line) >= MOST:
            what = (
                "it contains bytes that are not text"
                if b"\0" in line[:HEAD]
                else f"line {number} never ends"
            )
            raise Trouble(
                f"the input is not text: {what}",
                "name a file of prompts (.txt .csv .xlsx .json .jsonl)",
                1,
            )
        try:
            yield line.decode("utf-8-sig" if number == 1 else "utf-8"), ""
        except UnicodeDecodeError:
            yield (
                line.decode("cp1252", "replace"),
                f"line {number} is not UTF-8, so it was read as Windows-1252",
            )


def _cells(table: Table, column: str, source: str) -> Iterator[Source]:
    """The cells of one column, and the rows that can't be read or have nothing there, in the order
    of the file. Raises Trouble.
    """
    columns, rows, mistakes = table
    small = {name.lower(): name for name in reversed(columns)}
    alone = columns[0] if len(columns) == 1 else None
    name = (
        small.get(column.lower())
        if column
        else next((small[c] for c in COLUMNS if c in small), alone)
    )
    if not columns and mistakes:
        raise Trouble(f"{source}: {mistakes[0].message}", mistakes[0].remedy, 1)
    if name is None:
        which = (
            f"no column “{column}”"
            if column
            else "several columns, none of them “text” or “prompt”"
        )
        raise Trouble(
            f"{source} has {which}", f"name it: --column {columns[0] if columns else 'text'}", 2
        )
    found: list[TableRow | Mistake] = sorted([*rows, *mistakes], key=lambda one: one.line)
    for one in found:
        if isinstance(one, Mistake):
            yield Source(one.line, mistake=one)
        elif not one.cells.get(name, "").strip():
            yield _unread(
                source,
                one.line,
                f"the column {name} is blank in this row",
                "write the prompt there, or delete the row",
            )
        else:
            yield _whole(
                Source(
                    one.line, one.cells[name], "", Record({**one.cells, "text": one.cells[name]})
                ),
                source,
            )


def _json_lines(
    lines: Iterable[tuple[str, str]], column: str, source: str, records: bool = False
) -> Iterator[Source]:
    for number, (line, note) in enumerate(lines, 1):
        if line.strip():
            for one in _json(line, column, source, number, records, True):
                yield one._replace(line=number, note=note or one.note)


def _json(
    text: str,
    column: str,
    source: str,
    line: int = 1,
    records: bool = False,
    whole_line: bool = False,
) -> Iterator[Source]:
    """An array of prompts, records with a text (or with what the column names), or one nested
    prompt; broken text as far as it goes, as one, or, where `records` are wanted, as what can't be
    read. Records that have no text come with the reason.
    """
    try:
        value = read_json(text)
    except NoJson as error:
        if records or column:
            lines = text.splitlines() or [""]
            shown = lines[min(error.line, len(lines)) - 1]
            at = line if len(lines) == 1 else line + error.line - 1
            yield _unread(
                source,
                at,
                f"this is not JSON: {error}",
                "export it again from Syntagma, or correct the line",
                error.column,
                shown,
            )
        else:
            yield _whole(Source(line, text.strip()), source)
        return
    if (
        isinstance(value, dict) and isinstance(value.get("items"), list) and "findings" in value
    ):  # as --json prints them
        value = value["items"]
    many = value if isinstance(value, list) else [value]
    if (
        column
        and not whole_line
        and not any(isinstance(one, dict) and isinstance(one.get(column), str) for one in many)
    ):
        keys = list(dict.fromkeys(key for one in many if isinstance(one, dict) for key in one))
        raise Trouble(
            f"{source} has nothing under “{column}”",
            f"name it: --column {keys[0]}" if keys else "leave --column out",
            2,
        )
    nested = not column and not records
    if isinstance(value, list) and not any(isinstance(one, str | dict | list) for one in value):
        yield _unread(source, line, "the list holds no prompt", _NO_TEXT)
        return
    if (
        nested
        and isinstance(value, list)
        and not any(isinstance(one, str) or _text_of(one) for one in value)
    ):
        yield _whole(Source(line, text.strip()), source)
        return
    for number, one in enumerate(many, line):
        said = (
            one
            if isinstance(one, str)
            else one.get(column)
            if column and isinstance(one, dict)
            else _text_of(one, records)
        )
        own = isinstance(value, list) or isinstance(one, str) or column or records
        if records and isinstance(one, dict) and said and (wrong := _misshapen(one)):
            yield _unread(
                source, number, wrong, "export it again from Syntagma, or correct that part"
            )
        elif (
            isinstance(said, str)
            and said.strip()
            and (own or "formula" in one or "id" in one or len(one) <= 3)
        ):
            yield _whole(
                Source(number, said, "", Record(one if isinstance(one, dict) else {"text": said})),
                source,
            )
        elif (
            nested
            and not isinstance(value, list)
            and not (isinstance(one, dict) and _SAYS & one.keys())
        ):
            yield _whole(Source(number, text.strip()), source)
        else:
            yield _unread(source, number, f"record {number} has no “{column or 'text'}”", _NO_TEXT)


class _Shape(Structure, more=True):
    """The types of those parts of a record that the program uses; it passes all others on
    unread.
    """

    negative: str | None = None
    model: str | None = None
    formula: str | None = None
    looks: list[str] | None = None
    fills: dict[str, str | int | float | list[str]] | None = None
    stress: dict[str, Annotated[float, Bounds(gt=0, lt=100)]] | None = None
    parameters: dict[str, str | int | float | bool] | str | None = None
    references: list[dict[str, Any]] | str | None = None


def _misshapen(record: Mapping) -> str:
    """Which part of a record can't be used; "" if all can."""
    _, faults = converted(deepcopy(record), _Shape)
    if not faults:
        return ""
    return f"“{faults[0].where}” can't be used: it takes {faults[0].expected}"


def _text_of(one: object, records: bool = False) -> str:
    """The text of a record; "" if it has none."""
    found = (
        (one.get("text") or (one.get("prompt") if not records else ""))
        if isinstance(one, dict)
        else None
    )
    return found if isinstance(found, str) else ""
