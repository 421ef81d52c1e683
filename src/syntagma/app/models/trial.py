"""A new profile tried: sample drafts of every awkward kind written for it, and what is wrong with what comes out."""

import json
import re
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.draft_checks import text_findings
from syntagma.core.diagnostics.findings import ERROR, WARNING, Finding
from syntagma.core.drafting.fills import BadFills, Given
from syntagma.core.fitting.limits import TooLong
from syntagma.core.formula import read_formula
from syntagma.core.models import Profile
from syntagma.core.models.parameters import found_in
from syntagma.core.models.references import Reference
from syntagma.core.models.request_shape import as_json
from syntagma.core.realising.request import request_of
from syntagma.core.writing.prompt import Manner, Prompt
from syntagma.core.writing.prompt_writer import Writer

STILL = """+++
[slots]
props = { facet = "", take = [1, 3] }
trait = { facet = "" }
aside = { facet = "" }
+++
lead!     [a medium] of [a trait subject]
deed      ~[action]
place     [setting as place]
props     with [props]
light     lit by [a lighting].
aside?    [aside]
finish!   fine detail, true colour
-         [flaw], lettering, border
"""
MOVING = """+++
[slots]
props = { facet = "", take = [1, 3] }
trait = { facet = "" }
aside = { facet = "" }
line = { facet = "" }
+++
shot      [shot-size];
move      [camera-move as clause].
lead!     [a trait subject]
deed      ~[action]
place     [setting as place]
props     with [props]
light     lit by [a lighting].
speech    {[the subject as short], [voice]: "[line]".}
ambience  ambience: [an ambience as clause].
aside?    [aside]
-         [flaw], captions
"""
USUAL = {"medium": "linocut", "subject": "harbour pilot", "action": "checking a tide board", "setting": "wet quay", "lighting": "sodium quay lamps",
         "shot-size": "medium shot", "camera-move": "slow push-in", "flaw": "waxy skin"}  # fmt: skip
SPOKEN = {"voice": "low and close", "line": "Last boat. Mind the step.", "ambience": "ticking clock"}
LONG = (
    "a long account of the crossing, with the wind backing to the north and the tide board wiped twice before midnight, while the "
    "purser counts his tickets under the lamp and nobody on the quay believes that the boat will go, "
)


class Sample(NamedTuple):
    """One draft to try: what it tries, its fills, and the manner in which it is asked for."""

    name: str
    fills: Mapping[str, Given]
    manner: Manner = Manner()


class ProfileTried(NamedTuple):
    """What came out of one sample, and what is wrong with it."""

    sample: str
    prompt: Prompt | None
    findings: list[Finding]

    def record(self) -> dict[str, Any]:
        row: dict[str, Any] = {"sample": self.sample}
        if self.prompt:
            row |= {"text": self.prompt.text, "negative": self.prompt.negative, "parameters": dict(self.prompt.around.values)}
        return {k: v for k, v in row.items() if v} | {"findings": [f.record() for f in self.findings]}


def samples(profile: Profile) -> Iterator[Sample]:
    """The samples for a profile: what it can do is tried as well as what any person types."""
    yield Sample("as usual", USUAL)
    yield Sample("next to nothing filled", {"subject": "tea urn"})
    yield Sample("a list", USUAL | {"props": "rope; brass whistle; flask"})
    yield Sample("weight on two things", USUAL, Manner(stress={"lighting": 1.3, "subject": 0.8}))
    yield Sample("much to keep out", USUAL | {"flaw": "waxy skin; extra fingers; crossed eyes; stray lettering; watermark"})
    yield Sample("a long text", USUAL | {"aside": (LONG * 8).strip(", ")})
    yield Sample(
        "quotes and signs",
        USUAL | {"trait": 'so-called "old"', "aside": r"a sign that says 50% off {now} [here] (mind \ the | step)"},
    )
    yield Sample("other alphabets", USUAL | {"trait": "naïve", "aside": "灯台, маяк, φάρος and a ☂"})
    if profile.makes != "image":
        yield Sample("someone speaks", USUAL | SPOKEN)
    for role, rule in profile.reference.items():
        value = {"path": "pictures/print.png", "address": "https://pictures.example/print.png", "handle": "@pilot"}
        if rule.at == "place":
            yield Sample(f"a {role} by handle", USUAL | {"subject": value[rule.kinds[0]]})
            continue
        given = tuple(Reference(role, value[kind], kind) for kind in rule.kinds[:1])
        yield Sample(f"a reference for {role}", USUAL, Manner(references=given))
    for name, parameter in profile.parameter.items():
        for value in {str(v): v for v in [*parameter.values[:1], *parameter.values[-1:], *(parameter.range or ())]}.values():
            number = int(value) if isinstance(value, float) and value == int(value) else value
            asked = {name: number} | {rule.partition("=")[0]: rule.partition("=")[2] or "true" for rule in parameter.requires}
            asked = {n: _some(profile, n) if v == "true" and profile.parameter[n].type != "flag" else v for n, v in asked.items()}
            yield Sample(f"{name} {number}", USUAL, Manner(parameters=asked))
        if parameter.type == "flag":
            yield Sample(f"{name} on", USUAL, Manner(parameters={name: True}))


def _some(profile: Profile, name: str) -> object:
    parameter = profile.parameter[name]
    return parameter.default if parameter.default is not None else next(iter(parameter.values), 1)


def try_model(workspace: Workspace, name: str) -> list[ProfileTried]:
    """Try every sample on a model. Raises Trouble or Refused if its profile can't be read."""
    profile = workspace.model_or_file(name)
    formula = read_formula(MOVING if profile.makes == "video" else STILL, "trial")
    tried = []
    for sample in samples(profile):
        writer = Writer(formula, profile, workspace.vocabulary, sample.manner)
        fills = {slot: text for slot, text in sample.fills.items() if slot in writer.position}
        try:
            filled = writer.fills(fills)
            prompt = writer.write(filled)
        except (BadFills, TooLong) as bad:
            tried.append(ProfileTried(sample.name, None, [Finding(ERROR, str(bad), "check the limit and the register", "text", code="no-prompt")]))
            continue
        told = [f for f in writer.findings(filled, prompt) if f.kind in (ERROR, WARNING)]
        tried.append(ProfileTried(sample.name, prompt, list(dict.fromkeys([*told, *wrong_with(profile, prompt)]))))
    return tried


def wrong_with(profile: Profile, prompt: Prompt) -> list[Finding]:
    """What no prompt of any profile may have: a limit broken, a place left open, a parameter twice, JSON that does not parse."""
    found = [] if profile.register == "nested" else text_findings(prompt.text)
    if profile.register == "nested":
        try:
            json.loads(prompt.words[len(profile.text.opening) :] if not profile.text.closing else prompt.words)
        except ValueError as error:
            found.append(Finding(ERROR, f"the text is not JSON: {error}", "opening and closing words break nested values", "text", code="broken-json"))
    for name in ("text", "whole", "request"):
        limit = profile.limit(name)
        if limit is None:
            continue
        used = prompt.used if name == "text" else limit.count(prompt.text if name == "whole" else _sent(profile, prompt))
        if used > limit.most:
            found.append(
                Finding(ERROR, f"{name} takes {used} {limit.unit} of {limit.most}", "are the words around it too long?", name, code="over-limit")
            )
    names = [one.name for one in found_in(profile, prompt.around.after)]
    for name in {n for n in names if names.count(n) > 1}:
        found.append(Finding(ERROR, f"{name} comes twice after the text", "two parameters are spelled alike", name, code="parameter-twice"))
    for place in re.findall(r"\{[a-z_.]+\}", prompt.around.after + prompt.around.before + prompt.around.behind):
        found.append(Finding(WARNING, f"a pattern leaves {place} open", "syntagma help models lists the places", "text", code="place-left-open"))
    return found


def _sent(profile: Profile, prompt: Prompt) -> str:
    return as_json(request_of(profile, prompt.around, prompt.text, prompt.words))
