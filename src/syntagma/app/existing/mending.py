"""Texts of prompts put in place of others in a file, each in its place; every other byte of the file stays as it is."""

import csv
import io
import json
import re
from collections.abc import Mapping
from itertools import accumulate

from syntagma.app.existing.prompt_files import COLUMNS, lines_of, records_layout
from syntagma.core.notation.late_regex import regex
from syntagma.formats.cells import as_it_was, harmless

Span = tuple[int, int]
_CELL = regex(r'"(?:[^"]|"")*"|[^,\r\n]*')
_TOKEN = regex(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+', re.S)


def replaced(text: str, source: str, new: Mapping[int, str]) -> tuple[str, list[int]]:
    """The file with new texts for the prompts at some lines (rows, or records, as promptfiles counts them), and which of them were put
    in: what can't be found again by its place is left alone."""
    layout = records_layout(text, source)
    spots = {"csv": _in_table, "json": _in_json, "jsonl": _in_json_lines, "lines": _in_lines}[layout](text)
    spell = {"csv": _cell, "json": _string, "jsonl": _string, "lines": lambda _, words: words}[layout]
    done = [number for number in new if number in spots]
    for number in sorted(done, key=lambda n: spots[n], reverse=True):
        start, stop = spots[number]
        text = text[:start] + spell(text[start:stop], new[number]) + text[stop:]
    return text, done


def _in_lines(text: str) -> dict[int, Span]:
    """Where the prompt of each line is, without the spaces around it."""
    start = len(text) - len(text.removeprefix("\ufeff"))
    spots = {}
    for number, line in enumerate(lines_of(text[start:]), 1):
        at = start + len(line) - len(line.lstrip())
        spots[number] = (at, at + len(line.strip()))
        start += len(line)
    return spots


def _in_table(text: str) -> dict[int, Span]:
    """Where the cell with the prompt of each row is, including its quotation marks; rows by the line on which they begin."""
    start = len(text) - len(text.removeprefix("\ufeff"))
    lines = io.StringIO(text[start:], newline="").readlines()
    starts = [start, *accumulate(map(len, lines), initial=start)][1:]
    header = next(csv.reader(lines[:1]), [])
    names = [name.strip().lower() for name in header]
    column = next((names.index(name) for name in COLUMNS if name in names), 0)
    spots: dict[int, Span] = {}
    for number, begin in enumerate(starts[1:-1], 2):
        at = begin
        for place in range(column + 1):
            cell = _CELL.match(text, at)
            if place == column:
                spots[number] = cell.span()
            elif text[cell.end() : cell.end() + 1] != ",":
                break
            at = cell.end() + 1
    return spots


def _in_json(text: str, first: int = 1) -> dict[int, Span]:
    """Where the text of each record is, including its quotation marks; records by their number."""
    spots: dict[int, Span] = {}
    path: list[list] = []  # [what is open, its key or number, does a key come next?]
    for token in _TOKEN.finditer(text):
        word = token.group()
        top = path[-1] if path else None
        if word in "{[":
            path.append([word, "" if word == "{" else 0, word == "{"])
        elif word in "}]":
            if path:
                path.pop()
        elif word == "," and top:
            top[1], top[2] = ("", True) if top[0] == "{" else (top[1] + 1, False)
        elif word[0] == '"' and top and top[2]:
            top[1], top[2] = _value(word), False
        elif word[0] == '"':
            at = [key for _, key, _ in path]
            at = at[1:] if at[:1] == ["items"] and len(at) > 1 else at  # as --json prints them
            if not at or at == ["text"]:
                spots[first] = token.span()
            elif isinstance(at[0], int) and at[1:] in ([], ["text"]):
                spots[first + at[0]] = token.span()
    return spots


def _in_json_lines(text: str) -> dict[int, Span]:
    spots: dict[int, Span] = {}
    at = 0
    for number, line in enumerate(lines_of(text), 1):
        found = _in_json(line, number)
        if set(found) == {number}:  # one record a line
            spots[number] = (at + found[number][0], at + found[number][1])
        at += len(line)
    return spots


def _value(word: str) -> str:
    try:
        return json.loads(word, strict=False)
    except ValueError:
        return ""


def _cell(old: str, words: str) -> str:
    """A cell in place of another: in quotes if it was, or needs them; harmless where the other was made so."""
    bare = old[1:-1].replace('""', '"') if old.startswith('"') else old
    words = harmless(words) if as_it_was(bare) != bare else words
    quoted = old.startswith('"') or any(sign in words for sign in ',"\n\r')
    return '"' + words.replace('"', '""') + '"' if quoted else words


def _string(old: str, words: str) -> str:
    """A string of JSON in place of another, in its way of escaping."""
    return json.dumps(words, ensure_ascii="\\u" in old)
