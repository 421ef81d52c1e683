"""Checks of finished prompts in a file, of a formula, and of everything in a workspace."""

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

from syntagma.app.promptfiles import prompts_in, replaced
from syntagma.app.world import World
from syntagma.core import checks
from syntagma.core.dressing import Wear
from syntagma.core.findings import ERROR, Finding
from syntagma.core.finished import Finished, findings, mended, reference_from
from syntagma.core.formula import check_formula, parse_formula
from syntagma.core.models.parameters import settle
from syntagma.core.models.printing import Enlarging, Print, enlarging
from syntagma.core.models.references import taken
from syntagma.core.models.request import request_of
from syntagma.core.places import Mistake, Refused
from syntagma.core.themes import check_theme
from syntagma.core.vocabulary import Term, normal
from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble


class Checked(NamedTuple):
    """One prompt of a file with its findings. `line` counts lines, rows or records from 1."""

    line: int
    text: str
    negative: str
    model: str
    findings: list[Finding]
    size: dict[str, dict[str, object]]

    def record(self) -> dict[str, object]:
        """The prompt as `--json` gives it."""
        parts = {"line": self.line, "model": self.model, "text": self.text, "negative": self.negative, "size": self.size}
        return {k: v for k, v in parts.items() if v} | {"findings": [f.record() for f in self.findings]}


def check_prompts(world: World, text: str, source: str, model: str | None) -> list[Checked]:
    """Check the prompts of a file against `model`, else against the model that each record names. Raises Trouble."""
    checked: list[Checked] = []
    seen: dict[tuple[str, str], int] = {}
    known = {normal(term.term): term for facet in world.vocabulary for term in facet}
    for line, record in prompts_in(text, source):
        profile = world.model(model or record.get("model") or None)
        prompt = finished_of(record)
        found = findings(profile, prompt, world.known) + checks.contradictions(_terms_in(record, known))
        key = (profile.name, normal(prompt.text))
        if key in seen:
            found.append(Finding(ERROR, f"the same prompt as number {seen[key]}", "delete one of them", "text"))
        seen.setdefault(key, line)
        size = {}
        if profile.text_limit:
            size["text"] = profile.text_limit.record(profile.text_limit.used([prompt.text]))
        checked.append(Checked(line, prompt.text, prompt.negative, profile.name, found, size))
    if not checked:
        raise Trouble(f"there is no prompt in {source}", "one prompt a line, or records with a “text”")
    return checked


def finished_of(record: Mapping) -> Finished:
    """A record of a file as a finished prompt: the parameters and references beside its text are known by their keys, or in a
    table by one cell (ratio=2:3; seed=4)."""
    parameters = record.get("parameters") or {}
    if isinstance(parameters, str):
        pairs = (part.partition("=") for part in parameters.split(";"))
        parameters = {name.strip(): value.strip() for name, sign, value in pairs if sign}
    references = [r for one in record.get("references") or () if isinstance(one, dict) and (r := reference_from(one))]
    written = parameters if isinstance(parameters, dict) else {}
    text = record.get("text", "")
    return Finished(text, record.get("negative") or "", written, references)


def requests(world: World, text: str, source: str, model: str | None) -> Iterator[dict[str, object]]:
    """The request for every prompt of a file, its text taken as it stands."""
    for _, record in prompts_in(text, source):
        profile = world.model(model or record.get("model") or None)
        prompt = finished_of(record)
        values = settle(profile, {}, prompt.parameters).values
        wear = Wear(negative=prompt.negative, values=values, references=tuple(taken(profile, prompt.references)[0]))
        yield request_of(profile, wear, prompt.text, prompt.text)


class Mended(NamedTuple):
    """One prompt of a file before and after mending."""

    line: int
    before: str
    after: str


def mend_prompts(world: World, text: str, source: str, model: str | None) -> tuple[str, list[Mended]]:
    """The file with every prompt mended where the remedy is sure, and those that changed. All else stays byte for byte."""
    changed: list[Mended] = []
    for line, record in prompts_in(text, source):
        before = record["text"]
        after = mended(world.model(model or record.get("model") or None), before)
        if after != before:
            changed.append(Mended(line, before, after))
    return replaced(text, source, {one.before: one.after for one in changed}), changed


def enlargings(world: World, name: str, wanted: Print) -> list[Enlarging]:
    """How every size of a model does for a print, the one that wastes least first. Raises Trouble where it has no sizes."""
    profile = world.model(name)
    if not profile.sizes:
        raise Trouble(f"{name} says no sizes in pixels", 'give it [sizes] in its profile: "2:3" = [832, 1248]')
    found = [enlarging(ratio, size, wanted) for ratio, size in profile.sizes.items()]
    return sorted(found, key=lambda e: (round(e.cut, 2), e.times))


def _terms_in(record: dict, known: dict[str, Term]) -> list[Term]:
    """The terms that a prompt is made of: its fills where the record has them, else what stands between commas and stops;
    only those whose words are in the text (negative text contradicts nothing)."""
    body = normal(record.get("text", ""))
    fills = record.get("fills")
    if isinstance(fills, dict):
        parts = [p for fill in fills.values() for p in (fill if isinstance(fill, list) else str(fill).split(";"))]
    else:
        parts = re.split(r"[,.;]", record.get("text", ""))
    terms = dict.fromkeys(known[normal(part)] for part in parts if normal(part) in known)
    return [t for t in terms if any(form and normal(form) in body for form in (t.term, t.phrase, t.place, t.clause))]


def check_formula_file(world: World, path: Path) -> tuple[list[Mistake], list[Finding]]:
    """Every mistake of a formula file, and remarks on it."""
    formula, mistakes = parse_formula(read_text(path, "a formula"), path.stem, world.shown(path))
    unknown, remarks = check_formula(formula, world.vocabulary.names)
    return sorted(mistakes + unknown, key=lambda m: (m.line, m.column)), remarks


def check_world(world: World) -> tuple[list[Mistake], list[tuple[str, Finding]]]:
    """Everything that can't be read in the layers in force, and remarks with the name of what they are about."""
    mistakes: list[Mistake] = []
    remarks: list[tuple[str, Finding]] = []
    for facet in world.vocabulary.names:
        world.vocabulary[facet]  # reading it collects its mistakes
    mistakes += world.mistakes
    for name, places in (*world.formulas().items(), *world.mounts().items()):
        for _, path in places:
            found, noted = check_formula_file(world, path)
            mistakes += found
            remarks += [(name, finding) for finding in noted]
    for name in world.themes():
        try:
            remarks += [(name, finding) for finding in check_theme(world.theme(name), world.vocabulary)]
        except Refused as refused:
            mistakes += refused.mistakes
    for name, places in world.models().items():
        for _, path in places:
            try:
                world.read_model(name, path)
            except Refused as refused:
                mistakes += refused.mistakes
    return mistakes, remarks
