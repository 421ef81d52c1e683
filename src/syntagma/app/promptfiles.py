"""Files of finished prompts: plain lines, tables, records."""

import json
import re
from collections.abc import Iterator, Mapping
from pathlib import Path

from syntagma.core.places import Mistake, Refused
from syntagma.formats.table_in import read_rows
from syntagma.storage.trouble import Trouble


def prompts_in(text: str, source: str) -> Iterator[tuple[int, dict]]:
    """The prompts of a file: (line, row or record from 1, what it holds). Raises Refused or Trouble."""
    ending = Path(source).suffix.lower()
    text = text.removeprefix("\ufeff")
    if not ending and text.lstrip().startswith(("[{", "[\n", '["')):  # records on a pipe
        ending = ".json"
    if ending == ".csv":
        columns, rows, mistakes = read_rows(text, source)
        if mistakes:
            raise Refused(mistakes)
        if "text" not in columns:
            raise Trouble(f"{source} has no column “text”", "name the column that holds the prompts text")
        yield from ((row.line, row.cells) for row in rows)
    elif ending in (".json", ".jsonl"):
        yield from _json(text, source, ending)
    else:
        for number, line in enumerate(text.splitlines(), 1):
            if line.strip():
                yield number, {"text": line.strip()}


def _json(text: str, source: str, ending: str) -> Iterator[tuple[int, dict[str, str]]]:
    parts = [(1, text)] if ending == ".json" else list(enumerate(text.splitlines(), 1))
    for number, part in parts:
        if not part.strip():
            continue
        try:
            value = json.loads(part)
        except json.JSONDecodeError as error:
            line = number if ending == ".jsonl" else error.lineno
            shown = part.splitlines()[error.lineno - 1] if part.splitlines() else ""
            message = f"this is no JSON: {error.msg[:1].lower()}{error.msg[1:]}"
            raise Refused(
                [Mistake(message, "write it again from syntagma, or mend the line", source, line, error.colno, shown)]
            ) from None
        for at, record in enumerate(value if isinstance(value, list) else [value], number):
            record = {"text": record} if isinstance(record, str) else record
            if not isinstance(record, dict) or not isinstance(record.get("text"), str):
                raise Trouble(f"{source}: record {at} has no “text”", 'a record is {"text": "…"}, as compose --json writes it')
            yield at, record


def replaced(text: str, source: str, new: Mapping[str, str]) -> str:
    """The file with the texts of some prompts (old → new) replaced; everything else stays as it is."""
    ending = Path(source).suffix.lower()
    if not new:
        return text
    if ending == ".csv":
        spell = _csv_cell
    elif ending in (".json", ".jsonl"):
        return _in_strings(text, new)
    else:
        lines = text.splitlines(keepends=True)
        return "".join(line.replace(line.strip(), new[line.strip()]) if line.strip() in new else line for line in lines)
    for old, after in new.items():
        text = text.replace(spell(old), spell(after))
    return text


def _csv_cell(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(sign in text for sign in ',"\n\r') else text


def _in_strings(text: str, new: Mapping[str, str]) -> str:
    """JSON text with whole strings replaced, in either way of escaping."""

    def string(match: re.Match) -> str:
        value = json.loads(match.group())
        return json.dumps(new[value], ensure_ascii="\\u" in match.group()) if value in new else match.group()

    return re.sub(r'"(?:[^"\\]|\\.)*"', string, text)
