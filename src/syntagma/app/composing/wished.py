"""A wish in the words of the person: cleaned, its kind in front, and nothing in it that was not said."""

import csv
import re
import tomllib
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any, NamedTuple

from syntagma.app.composing.asked import Ask
from syntagma.app.composing.composer import Composed, Composer
from syntagma.app.existing.reading import manageable, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.findings import REMARK, WARNING, Finding
from syntagma.core.editing.cleaning import Cleaned, Cleaner
from syntagma.core.editing.leading import led
from syntagma.core.editing.settings import weighed
from syntagma.core.editing.tagging import tags
from syntagma.core.formula import Formula
from syntagma.core.formula.building import fixed, formula, phrase
from syntagma.core.formula.tree import Phrase
from syntagma.core.models.parameters import own_name
from syntagma.core.models.profile import Profile
from syntagma.core.reading.formulas.rewriting import own_formula
from syntagma.core.reading.prompt_pieces import PARAMETER, Reading
from syntagma.storage.folders import SHIPPED

NAME = "wish"
LONGEST, MOST_SENTENCES = 6_000, 4  # letters of a wish; sentences from which on it may be a story
PROSE = ("", "prose")


class Wished(NamedTuple):
    """A wish made a formula: what was taken off it, its text, and the formula that writes it."""

    cleaned: Cleaned
    text: str
    formula: Formula
    fills: dict[str, str]


def is_one_picture(wish: str) -> bool:
    """Is a wish typed for one picture: a few sentences on one line, and no file, page or story?"""
    return wish != "-" and "\n" not in wish.strip() and not re.fullmatch(r"\S+\.(?:txt|md)", wish) and len(re.findall(r"[.!?](?= \S)", wish)) < MOST_SENTENCES


def formulas_named(workspace: Workspace, wish: str) -> list[str]:
    """The formulas whose names a wish says, every word of them: "a sticker of a sleepy otter"."""
    said = re.sub(r"[^a-z]+", " ", f" {wish.lower()} ")
    return [name for name in workspace.formulas() if name != "photograph" and re.search(rf" {name.replace('-', ' ')}s? ", said)]


@cache
def cleaner() -> Cleaner:
    """What cleans wishes, by the tables that ship."""
    with open(SHIPPED / "spelling.csv", encoding="utf-8", newline="") as file:
        spelling = {row["typed"]: row["meant"] for row in csv.DictReader(file)}
    return Cleaner(own_words(), spelling)


@cache
def own_words() -> dict:
    """The tables of what people write round their wishes."""
    return tomllib.loads((SHIPPED / "own-words.toml").read_text("utf-8"))


def read_wish(workspace: Workspace, wish: str, register: str, model: str | None = None) -> Wished:
    """A wish as a formula of its own words: for prose one text, for another register a phrase for each of its parts; parameters in the writing of `model` are taken off. Raises Trouble."""
    manageable(wish, "for one wish", LONGEST)
    reader = reader_of(workspace, model)
    outside = reader.read(weighed(wish).text) if model else None
    known = {piece.name: {"true": True, "false": False}.get(piece.value, piece.value) for piece in outside.of(PARAMETER)} if outside else {}
    cleaned = cleaner().clean(_without(wish, [piece.text for piece in outside.of(PARAMETER)] if outside else []))
    cleaned = cleaned._replace(parameters={**known, **cleaned.parameters})
    reading: Reading = reader.read(cleaned.text)
    text = led(cleaned.text, reading, own_words(), cleaned.made)
    text = text[:1].upper() + text[1:]
    if register in PROSE:
        made, fills = formula(NAME, [_own(NAME, text, "!")], {}), {}
    elif register == "tags":
        said = [(f"{facet or 'words'}-{n}", words) for n, (words, facet) in enumerate(tags(text, reader.read(text)), 1)]
        stress = {label: weight for weighted, weight in cleaned.weights.items() for label, words in said if weighted.lower() in words.lower()}
        made, fills = formula(NAME, [_own(label, words, "!" if n == 0 else "") for n, (label, words) in enumerate(said)], {}, stress), {}
    else:
        made, fills = own_formula(reading, (), register == "timed", reader.knowledge.preposition)
    if cleaned.negative:
        made = made._replace(lines=(*made.lines, phrase("-", [fixed(", ".join(cleaned.negative))])))
    return Wished(cleaned, text, made._replace(name=NAME), fills)


def _without(text: str, parts: Sequence[str]) -> str:
    """The text without some stretches of it."""
    for part in parts:
        text = text.replace(part, " ", 1)
    return " ".join(text.split())


def _settings(profile: Profile, said: Mapping[str, Any]) -> tuple[dict[str, Any], list[Finding]]:
    """Settings by the names that a model has for them; those that it has not are left out, and told."""
    values, left = {}, []
    for name, value in said.items():
        if known := own_name(profile, name) or ("" if profile.parameter else name):
            values[known] = value
        else:
            left.append(Finding(WARNING, f"{profile.name} has no parameter {name}: “{value}” is left out", "see `syntagma model`", name, code="parameter-left-out"))
    return values, left


def _own(label: str, words: str, mark: str) -> Phrase:
    """A phrase of a person's own words, which wait for no other: "rainy window behind"."""
    return phrase(label, [fixed(words)], mark)._replace(ending=",")


def compose_wish(workspace: Workspace, wish: str, ask: Ask) -> Composed:
    """Compose a wish in its own words. Raises Trouble, Refused, BadFills or TooLong."""
    profile = workspace.model(ask.model)
    found = read_wish(workspace, wish, profile.register, ask.model)
    values, left = _settings(profile, found.cleaned.parameters)
    head = found.formula.head._replace(parameters=values)
    composed = Composer(workspace, ask._replace(formula=NAME), formula=found.formula._replace(head=head)).compose(found.fills)
    composed.findings.extend(left)
    if found.cleaned.weights and not profile.stress:
        words = ", ".join(f"{words} {weight:g}" for words, weight in found.cleaned.weights.items())
        composed.findings.append(Finding(REMARK, f"no weights are written here: {words}", "a model that takes weights writes them: --model", "stress", code="no-stress"))
    composed.findings.extend(Finding(REMARK, remark, "", "wish", code="mended") for remark in found.cleaned.remarks)
    if values:
        said = ", ".join(f"{name} {value}" for name, value in values.items())
        composed.findings.append(Finding(REMARK, f"{said}: {'settings' if len(values) > 1 else 'a setting'}, not part of the text", "", "wish", code="taken-as-setting"))
    if composed.prompt.negative:
        composed.findings.append(Finding(WARNING, f"what to keep out goes beside the text: “{composed.prompt.negative}”", "--json shows both", "negative", code="negative-beside"))
    if found.cleaned.pictures > 1 and not own_name(profile, "pictures"):
        composed.findings.append(Finding(REMARK, f"{found.cleaned.pictures} pictures are asked for: send it so often, or make variations", "syntagma expand --text …", "wish", code="several-pictures"))
    if found.cleaned.negative and profile.negative.way == "none":
        words = ", ".join(found.cleaned.negative)
        composed.findings.append(Finding(WARNING, f"{profile.name} takes no negative text: “{words}” is left out", "say what is there instead", "negative", code="negative-left-out"))
    return composed
