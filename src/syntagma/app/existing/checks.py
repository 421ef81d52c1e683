"""Checks of prompts, formulas and vocabularies in files, and what of them can be mended."""

import csv
import io
import json
import re
from collections.abc import Callable, Mapping
from functools import partial
from itertools import accumulate
from pathlib import Path
from typing import NamedTuple

from syntagma.app.prompt_files import (
    COLUMNS,
    Source,
    lines_of,
    prompts_of_text,
    records_layout,
)
from syntagma.app.workspace.workspace import KNOWN, Workspace
from syntagma.core.checking import draft_checks as checks
from syntagma.core.checking.prompt_lint import (
    Finished,
    check_terms,
    findings,
    mended,
    reference_from,
)
from syntagma.core.diagnostics import ERROR, Finding, Mistake, Refused, Trouble
from syntagma.core.drafting.surroundings import Around
from syntagma.core.formula import check_formula, parse_formula, unguarded_words
from syntagma.core.models.measure import Enlarging, Print, enlarging
from syntagma.core.models.parameters import settle
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import read_known, taken
from syntagma.core.notation.late_regex import regex
from syntagma.core.picking.themes import check_theme, read_theme
from syntagma.core.realising.request import request_of, unplaced_finding
from syntagma.core.records import Record
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.formats.table_in import as_it_was, harmless
from syntagma.storage.files import read_text

# ──── Texts of prompts put in place of others in a file, each in its place; every other byte of the
# file stays as it is.


Span = tuple[int, int]
_CELL = regex(r'"(?:[^"]|"")*"|[^,\r\n]*')
_TOKEN = regex(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+', re.S)


def replaced(text: str, source: str, new: Mapping[int, str]) -> tuple[str, list[int]]:
    """The file with new texts for the prompts at some lines (rows, or records, as promptfiles
    counts them), and which of them were put in: what can't be found again by its place is left
    alone.
    """
    layout = records_layout(text, source)
    spots = {"csv": _in_table, "json": _in_json, "jsonl": _in_json_lines, "lines": _in_lines}[
        layout
    ](text)
    spell = {"csv": _cell, "json": _string, "jsonl": _string, "lines": lambda _, words: words}[
        layout
    ]
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
    """Where the cell with the prompt of each row is, including its quotation marks; rows by the
    line on which they begin.
    """
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
            if cell is None:
                break
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
    """A cell in place of another: in quotes if it was, or needs them; harmless where the other was
    made so.
    """
    bare = old[1:-1].replace('""', '"') if old.startswith('"') else old
    words = harmless(words) if as_it_was(bare) != bare else words
    quoted = old.startswith('"') or any(sign in words for sign in ',"\n\r')
    return '"' + words.replace('"', '""') + '"' if quoted else words


def _string(old: str, words: str) -> str:
    """A string of JSON in place of another, in its way of escaping."""
    return json.dumps(words, ensure_ascii="\\u" in old)


# ──── Checks of finished prompts in a file, of a formula, and of everything in a workspace.


class CheckedPrompt(NamedTuple):
    """One prompt of a file with its findings. `line` counts lines, rows or records from 1."""

    line: int
    text: str
    negative: str
    model: str
    findings: list[Finding]
    size: dict[str, dict[str, object]]

    def record(self) -> dict[str, object]:
        """The prompt as `--json` gives it."""
        parts = {
            "model": self.model,
            "text": self.text,
            "negative": self.negative,
            "size": self.size,
        }
        return {k: v for k, v in parts.items() if v} | {
            "findings": [f.record() for f in self.findings]
        }


class Checks:
    """Checks prompts one after the other, against `model`, else against the model that each record
    names; it remembers those before.
    """

    def __init__(self, workspace: Workspace, model: str | None):
        self.workspace, self.model = workspace, model
        self._seen: dict[tuple[str, str], int] = {}
        self._known = {normal(term.term): term for facet in workspace.vocabulary for term in facet}

    def check(self, source: Source) -> CheckedPrompt:
        """Check one prompt. Raises Trouble."""
        profile = self.workspace.model(self.model or source.record.model or None)
        prompt = finished_of(source.record)
        found = findings(profile, prompt, self.workspace.known) + checks.contradictions(
            _terms_in(source.record, self._known), self.workspace.vocabulary
        )
        key = (profile.name, normal(prompt.text))
        if key in self._seen:
            found.append(
                Finding(
                    ERROR,
                    f"the same prompt as number {self._seen[key]}",
                    "delete one of them",
                    "text",
                    code="said-before",
                )
            )
        self._seen.setdefault(key, source.line)
        size = {}
        if profile.text_limit:
            size["text"] = profile.text_limit.record(profile.text_limit.used([prompt.text]))
        return CheckedPrompt(source.line, prompt.text, prompt.negative, profile.name, found, size)


def finished_of(record: Record) -> Finished:
    """A record of a file as a finished prompt: the parameters and references beside its text are
    known by their keys, or in a table by one cell (ratio=2:3; seed=4).
    """
    references = [found for one in record.references if (found := reference_from(one))]
    return Finished(record.text, record.negative, record.parameters, references)


def request_for(workspace: Workspace, source: Source, model: str | None) -> dict[str, object]:
    """The request for a prompt, its text taken as it is. Raises Trouble."""
    profile, prompt, around = _around(workspace, source, model)
    return request_of(profile, around, prompt.text, prompt.text)


def not_sent(workspace: Workspace, source: Source, model: str | None) -> Finding | None:
    """The findings on what of a prompt has no place in the request, and is not sent. Raises
    Trouble.
    """
    profile, prompt, around = _around(workspace, source, model)
    return unplaced_finding(profile, around, prompt.text)


def _around(
    workspace: Workspace, source: Source, model: str | None
) -> tuple[Profile, Finished, Around]:
    profile = workspace.model(model or source.record.model or None)
    prompt = finished_of(source.record)
    values = settle(profile, {}, prompt.parameters).values
    return (
        profile,
        prompt,
        Around(
            negative=prompt.negative,
            values=values,
            references=tuple(taken(profile, prompt.references)[0]),
        ),
    )


class Mended(NamedTuple):
    """One prompt of a file before and after mending."""

    line: int
    before: str
    after: str


def mend_prompts(
    workspace: Workspace, text: str, source: str, model: str | None
) -> tuple[str, list[Mended], list[Mended]]:
    """The file with every prompt fixed where the remedy is sure, those that changed, and those that
    can't be fixed where they stand. All else stays byte for byte.
    """
    changed: list[Mended] = []
    for line, before, _, record, mistake in prompts_of_text(text, source):
        after = (
            before if mistake else mended(workspace.model(model or record.model or None), before)
        )
        if after != before:
            changed.append(Mended(line, before, after))
    new, done = replaced(text, source, {one.line: one.after for one in changed})
    return (
        new,
        [one for one in changed if one.line in done],
        [one for one in changed if one.line not in done],
    )


def enlargings(workspace: Workspace, name: str, wanted: Print) -> list[Enlarging]:
    """How every size of a model does for a print, the one that wastes least first. Raises Trouble
    if it has no sizes.
    """
    profile = workspace.model(name)
    if not profile.sizes:
        raise Trouble(
            f"{name} has no sizes in pixels",
            'give it [sizes] in its profile: "2:3" = [832, 1248]',
            1,
        )
    found = [enlarging(ratio, size, wanted) for ratio, size in profile.sizes.items()]
    return sorted(found, key=lambda e: (round(e.cut, 2), e.times))


def _terms_in(record: Record, known: dict[str, Term]) -> list[Term]:
    """The terms that a prompt is made of: its fills where the record has them, else what is between
    commas and stops; only those whose words are in the text (negative text contradicts nothing).
    """
    body = normal(record.text)
    if record.fills is not None:
        parts = [
            part
            for fill in record.fills.values()
            for part in (fill if isinstance(fill, list) else fill.split(";"))
        ]
    else:
        parts = re.split(r"[,.;]", record.text)
    terms = dict.fromkeys(known[normal(part)] for part in parts if normal(part) in known)
    return [
        t
        for t in terms
        if any(form and normal(form) in body for form in (t.term, t.phrase, t.place, t.clause))
    ]


def check_formula_file(workspace: Workspace, path: Path) -> tuple[list[Mistake], list[Finding]]:
    """Every mistake of a formula file, and remarks on it."""
    formula, mistakes = parse_formula(
        read_text(path, "a formula"), path.stem, workspace.shown(path)
    )
    unknown, remarks = check_formula(formula, workspace.vocabulary)
    remarks += unguarded_words(formula)
    return sorted(mistakes + unknown, key=lambda m: (m.line, m.column)), remarks


def check_world(workspace: Workspace) -> tuple[list[Mistake], list[tuple[str, Finding]]]:
    """Everything that can't be read in the layers that apply, and remarks with the name of what
    they are about.
    """
    mistakes: list[Mistake] = []
    remarks: list[tuple[str, Finding]] = []
    for facet in workspace.vocabulary.names:
        remarks.extend(check_terms(workspace.vocabulary[facet]))  # reading it collects its mistakes
    mistakes += workspace.mistakes

    def read(path: Path, how: Callable[[], object]) -> None:
        try:
            how()
        except Refused as refused:
            mistakes.extend(refused.mistakes)
        except Trouble as trouble:
            mistakes.append(Mistake(str(trouble), trouble.remedy, workspace.shown(path)))

    def formula(name: str, path: Path) -> None:
        found, noted = check_formula_file(workspace, path)
        mistakes.extend(found)
        remarks.extend((name, finding) for finding in noted)

    def theme(name: str, path: Path) -> None:
        one = read_theme(read_text(path, "a theme"), name, workspace.shown(path))
        remarks.extend(
            (name, finding)
            for finding in check_theme(one, workspace.vocabulary, workspace.situation_tags)
        )

    def known(name: str, path: Path) -> None:
        read_known(read_text(path), workspace.shown(path))

    rooms = (
        (workspace.formulas(), formula),
        (workspace.looks(), formula),
        (workspace.themes(), theme),
        (workspace.models(), workspace.read_model),
    )
    for files, how in rooms:
        for name, places in files.items():
            for _, path in places:
                read(path, partial(how, name, path))
    for layer in workspace.layers:
        if (path := layer.path / KNOWN).exists():
            read(path, partial(known, KNOWN, path))
    return mistakes, remarks
