"""Prompts out of whatever they are kept in: one a line, numbered, blocks between blank lines, a table's column, JSON. Files of any size
are gone through line by line; bytes that are no UTF-8 are read as Windows-1252, and told."""

import json
import re
from collections.abc import Iterable, Iterator
from itertools import chain, pairwise
from pathlib import Path
from typing import NamedTuple

from syntagma.storage.trouble import Trouble

HEAD = 64_000  # bytes by which the layout of a text file is told
COLUMNS = ("text", "prompt", "prompts")
_NUMBER = re.compile(r"^\s*(?:\d{1,4}[.)]|[-*•])\s+(?=\S)")
_MARKED = re.compile(r"^\s*(?:\d{1,2}:\d\d|[\[(]?\d+(?:\.\d+)? ?s?(?:-|–)|[A-Za-z][\w .-]{0,28}\s*[:|]\s|never:|not\b)", re.I)


class Source(NamedTuple):
    """One prompt and where it stood: its line (or row) from 1; `note` where something is to be told of how it was read."""

    line: int
    text: str
    note: str = ""


def prompts_of_file(path: Path | str, column: str = "") -> Iterator[Source]:
    """The prompts of a file, in order. Raises Trouble where it can't be read or holds none."""
    path = Path(path)
    ending = path.suffix.lower()
    if ending == ".xlsx":
        from syntagma.formats.xlsx import read_sheet

        columns, rows, _ = read_sheet(path, str(path))
        yield from _cells(columns, ((row.line, row.cells) for row in rows), column, str(path))
        return
    try:
        with open(path, "rb") as file:
            head = file.read(HEAD)
    except FileNotFoundError:
        raise Trouble(f"there is no file {path}", "check the name, or put the prompt itself in quotes") from None
    except OSError as error:
        raise Trouble(
            f"{path} can't be read: {(error.strerror or str(error)).lower()}", "check that it is a file of yours"
        ) from None
    coding = "utf-16" if head[:2] in (b"\xff\xfe", b"\xfe\xff") else ""
    if not coding and b"\0" in head:
        raise Trouble(
            f"{path} is no text: it holds bytes that no text has", "name a file of prompts (.txt .csv .xlsx .json .jsonl)"
        )
    lines = _lines(path, coding)
    if ending == ".csv":
        from syntagma.formats.table_in import read_rows

        columns, rows, _ = read_rows("".join(text for text, _ in lines), str(path))
        yield from _cells(columns, ((row.line, row.cells) for row in rows), column, str(path))
    elif ending == ".jsonl":
        yield from _json_lines(lines, column, str(path))
    else:
        yield from laid_out(lines, column, str(path), ending == ".json")


def prompts_of_pipe(raw: Iterable[bytes], column: str = "") -> Iterator[Source]:
    """The prompts that come on a pipe, as they come."""
    yield from laid_out(_decoded(raw), column, "what came on the pipe")


def laid_out(lines: Iterable[tuple[str, str]], column: str = "", source: str = "", is_json: bool = False) -> Iterator[Source]:
    """Prompts by the layout that the head of a text shows: JSON, JSON lines, numbered, blocks between blank lines, one of several lines,
    or one a line. Each line comes with a note of how it was read. Raises Trouble where a column is named and there are none."""
    lines = iter(lines)
    first: list[tuple[str, str]] = []
    size = 0
    for line in lines:
        first.append(line)
        size += len(line[0])
        if size >= HEAD:
            break
    head, lines = "".join(line for line, _ in first).removeprefix("\ufeff"), chain(first, lines)
    start = head.lstrip()
    if is_json or re.match(r"\[\s*[{\"]|{\s*[\"}]", start):
        if not is_json and re.match(r"[{\[][^\n]*[}\]]\s*\n\s*[{\[]", start):
            yield from _json_lines(lines, column, source)
        else:
            yield from _json("".join(line for line, _ in lines).removeprefix("\ufeff"), column, source)
        return
    if column:
        raise Trouble(f"{source} has no columns", "leave --column out", 2)
    filled = [line for line in head.splitlines() if line.strip()]
    numbered = sum(bool(_NUMBER.match(line)) for line in filled)
    if numbered >= 2 and numbered * 2 >= len(filled):
        yield from _blocks(lines, lambda line: bool(_NUMBER.match(line)))
    elif (re.search(r"\S[^\n]*\n\s*\n\s*\S", head) and any(a.strip() and b.strip() for a, b in pairwise(head.splitlines()))) or (
        len(filled) > 1 and sum(bool(_MARKED.match(line)) for line in filled) * 3 >= 2 * len(filled)
    ):
        yield from _blocks(lines, None)
    else:
        for number, (line, note) in enumerate(lines, 1):
            if line.strip():
                yield Source(number, line.strip("\r\n"), note)


def _blocks(lines: Iterable[tuple[str, str]], begins) -> Iterator[Source]:
    """Prompts of several lines: each begins where `begins` says, or behind a blank line."""
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


def _lines(path: Path, coding: str) -> Iterator[tuple[str, str]]:
    if coding:
        with open(path, encoding=coding, errors="replace", newline="") as file:
            yield from ((line, "") for line in file)
        return
    with open(path, "rb") as file:
        yield from _decoded(file)


def _decoded(raw: Iterable[bytes]) -> Iterator[tuple[str, str]]:
    for number, line in enumerate(raw, 1):
        try:
            yield line.decode("utf-8-sig" if number == 1 else "utf-8"), ""
        except UnicodeDecodeError:
            yield line.decode("cp1252", "replace"), f"line {number} is no UTF-8, and was read as Windows-1252"


def _cells(columns: list[str], rows: Iterable, column: str, source: str) -> Iterator[Source]:
    small = {name.lower(): name for name in columns}
    name = (
        small.get(column.lower())
        if column
        else next((small[c] for c in COLUMNS if c in small), columns[0] if len(columns) == 1 else None)
    )
    if name is None:
        which = f"no column “{column}”" if column else "several columns, none of them “text” or “prompt”"
        raise Trouble(f"{source} has {which}", f"name it: --column {columns[0] if columns else 'text'}", 2)
    for line, cells in rows:
        if cells.get(name, "").strip():
            yield Source(line, cells[name])


def _json_lines(lines: Iterable[tuple[str, str]], column: str, source: str) -> Iterator[Source]:
    for number, (line, note) in enumerate(lines, 1):
        if line.strip():
            yield from (Source(number, one.text, note or one.note) for one in _json(line, column, source))


def _json(text: str, column: str, source: str) -> Iterator[Source]:
    """An array of prompts, records with a text (or with what the column names), or one nested prompt; broken text as far as it goes, as
    one."""
    try:
        value = json.loads(text)
    except (ValueError, RecursionError):
        yield Source(1, text.strip())
        return
    many = value if isinstance(value, list) else [value]
    if column and not any(isinstance(one, dict) and isinstance(one.get(column), str) for one in many):
        keys = list(dict.fromkeys(key for one in many if isinstance(one, dict) for key in one))
        raise Trouble(f"{source} has nothing under “{column}”", f"name it: --column {keys[0]}" if keys else "leave --column out", 2)
    if isinstance(value, list) and not column and not all(isinstance(one, str) or _text_of(one) for one in value):
        yield Source(1, text.strip())
        return
    for number, one in enumerate(many, 1):
        said = one if isinstance(one, str) else one.get(column) if column and isinstance(one, dict) else _text_of(one)
        if said and (isinstance(value, list) or isinstance(one, str) or column or "formula" in one or "id" in one or len(one) <= 3):
            yield Source(number, said)
        elif not column:
            yield Source(number, text.strip())


def _text_of(one: object) -> str:
    """The text of a record; "" where it has none."""
    found = (one.get("text") or one.get("prompt")) if isinstance(one, dict) else None
    return found if isinstance(found, str) else ""
