"""Checks of finished prompts in a file, of a formula, and of everything in a workspace."""

import re
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import NamedTuple

from syntagma.app.existing.mending import replaced
from syntagma.app.existing.prompt_files import Source, prompts_of_text
from syntagma.app.workspace.workspace import KNOWN, Workspace
from syntagma.core.checking import draft_checks as checks
from syntagma.core.checking.prompt_lint import Finished, findings, mended, reference_from
from syntagma.core.checking.vocabulary_checks import check_terms
from syntagma.core.diagnostics.findings import ERROR, Finding
from syntagma.core.diagnostics.places import Mistake, Refused
from syntagma.core.drafting.surroundings import Around
from syntagma.core.formula import check_formula, parse_formula, unguarded_words
from syntagma.core.models.parameters import settle
from syntagma.core.models.print_size import Enlarging, Print, enlarging
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import read_known, taken
from syntagma.core.picking.themes import check_theme, read_theme
from syntagma.core.realising.request import request_of, unplaced_finding
from syntagma.core.vocabulary.terms import Term, normal
from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble


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
        parts = {"model": self.model, "text": self.text, "negative": self.negative, "size": self.size}
        return {k: v for k, v in parts.items() if v} | {"findings": [f.record() for f in self.findings]}


class Checks:
    """Checks prompts one after the other, against `model`, else against the model that each record names; it remembers those before."""

    def __init__(self, workspace: Workspace, model: str | None):
        self.workspace, self.model = workspace, model
        self._seen: dict[tuple[str, str], int] = {}
        self._known = {normal(term.term): term for facet in workspace.vocabulary for term in facet}

    def check(self, source: Source) -> CheckedPrompt:
        """Check one prompt. Raises Trouble."""
        profile = self.workspace.model(self.model or model_of(source.record))
        prompt = finished_of(source.record)
        found = findings(profile, prompt, self.workspace.known) + checks.contradictions(_terms_in(source.record, self._known), self.workspace.vocabulary)
        key = (profile.name, normal(prompt.text))
        if key in self._seen:
            found.append(Finding(ERROR, f"the same prompt as number {self._seen[key]}", "delete one of them", "text", code="said-before"))
        self._seen.setdefault(key, source.line)
        size = {}
        if profile.text_limit:
            size["text"] = profile.text_limit.record(profile.text_limit.used([prompt.text]))
        return CheckedPrompt(source.line, prompt.text, prompt.negative, profile.name, found, size)


def model_of(record: Mapping) -> str | None:
    """The model that a record names; None if it names none."""
    name = record.get("model")
    return name if isinstance(name, str) and name else None


def finished_of(record: Mapping) -> Finished:
    """A record of a file as a finished prompt: the parameters and references beside its text are known by their keys, or in a
    table by one cell (ratio=2:3; seed=4)."""
    parameters = record.get("parameters") or {}
    if isinstance(parameters, str):
        pairs = (part.partition("=") for part in parameters.split(";"))
        parameters = {name.strip(): value.strip() for name, sign, value in pairs if sign}
    references = [r for one in record.get("references") or () if isinstance(one, dict) and (r := reference_from(one))]
    written = parameters if isinstance(parameters, dict) else {}
    text, negative = record.get("text", ""), record.get("negative")
    return Finished(text, negative if isinstance(negative, str) else "", written, references)


def request_for(workspace: Workspace, source: Source, model: str | None) -> dict[str, object]:
    """The request for a prompt, its text taken as it is. Raises Trouble."""
    profile, prompt, around = _around(workspace, source, model)
    return request_of(profile, around, prompt.text, prompt.text)


def not_sent(workspace: Workspace, source: Source, model: str | None) -> Finding | None:
    """The findings on what of a prompt has no place in the request, and is not sent. Raises Trouble."""
    profile, prompt, around = _around(workspace, source, model)
    return unplaced_finding(profile, around, prompt.text)


def _around(workspace: Workspace, source: Source, model: str | None) -> tuple[Profile, Finished, Around]:
    profile = workspace.model(model or model_of(source.record))
    prompt = finished_of(source.record)
    values = settle(profile, {}, prompt.parameters).values
    return profile, prompt, Around(negative=prompt.negative, values=values, references=tuple(taken(profile, prompt.references)[0]))


class Mended(NamedTuple):
    """One prompt of a file before and after mending."""

    line: int
    before: str
    after: str


def mend_prompts(workspace: Workspace, text: str, source: str, model: str | None) -> tuple[str, list[Mended], list[Mended]]:
    """The file with every prompt fixed where the remedy is sure, those that changed, and those that can't be fixed where they stand.
    All else stays byte for byte."""
    changed: list[Mended] = []
    for line, before, _, record, mistake in prompts_of_text(text, source):
        after = before if mistake else mended(workspace.model(model or model_of(record)), before)
        if after != before:
            changed.append(Mended(line, before, after))
    new, done = replaced(text, source, {one.line: one.after for one in changed})
    return new, [one for one in changed if one.line in done], [one for one in changed if one.line not in done]


def enlargings(workspace: Workspace, name: str, wanted: Print) -> list[Enlarging]:
    """How every size of a model does for a print, the one that wastes least first. Raises Trouble if it has no sizes."""
    profile = workspace.model(name)
    if not profile.sizes:
        raise Trouble(f"{name} has no sizes in pixels", 'give it [sizes] in its profile: "2:3" = [832, 1248]', 1)
    found = [enlarging(ratio, size, wanted) for ratio, size in profile.sizes.items()]
    return sorted(found, key=lambda e: (round(e.cut, 2), e.times))


def _terms_in(record: dict, known: dict[str, Term]) -> list[Term]:
    """The terms that a prompt is made of: its fills where the record has them, else what is between commas and stops;
    only those whose words are in the text (negative text contradicts nothing)."""
    body = normal(record.get("text", ""))
    fills = record.get("fills")
    if isinstance(fills, dict):
        parts = [str(p) for fill in fills.values() for p in (fill if isinstance(fill, list) else str(fill).split(";"))]
    else:
        parts = re.split(r"[,.;]", record.get("text", ""))
    terms = dict.fromkeys(known[normal(part)] for part in parts if normal(part) in known)
    return [t for t in terms if any(form and normal(form) in body for form in (t.term, t.phrase, t.place, t.clause))]


def check_formula_file(workspace: Workspace, path: Path) -> tuple[list[Mistake], list[Finding]]:
    """Every mistake of a formula file, and remarks on it."""
    formula, mistakes = parse_formula(read_text(path, "a formula"), path.stem, workspace.shown(path))
    unknown, remarks = check_formula(formula, workspace.vocabulary)
    remarks += unguarded_words(formula)
    return sorted(mistakes + unknown, key=lambda m: (m.line, m.column)), remarks


def check_world(workspace: Workspace) -> tuple[list[Mistake], list[tuple[str, Finding]]]:
    """Everything that can't be read in the layers that apply, and remarks with the name of what they are about."""
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
        remarks.extend((name, finding) for finding in check_theme(one, workspace.vocabulary, workspace.situation_tags))

    def known(name: str, path: Path) -> None:
        read_known(read_text(path), workspace.shown(path))

    rooms = ((workspace.formulas(), formula), (workspace.looks(), formula), (workspace.themes(), theme), (workspace.models(), workspace.read_model))
    for files, how in rooms:
        for name, places in files.items():
            for _, path in places:
                read(path, partial(how, name, path))
    for layer in workspace.layers:
        if (path := layer.path / KNOWN).exists():
            read(path, partial(known, KNOWN, path))
    return mistakes, remarks
