"""Prompts into the limits of a model: those that a formula made are written again by it, all others by their own text."""

from collections.abc import Mapping
from typing import NamedTuple

from syntagma.app.composing.asked import Ask
from syntagma.app.composing.composer import Composed, Composer, troubles
from syntagma.app.composing.records import says_more
from syntagma.app.existing.checks import model_of
from syntagma.app.existing.prompt_files import Source
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.care import care
from syntagma.core.diagnostics.findings import ERROR, REMARK, WARNING, Finding
from syntagma.core.diagnostics.places import Refused
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting.limits import TooLong
from syntagma.core.fitting.plain_text import Bit, fit_text
from syntagma.core.writing.prompt import Manner
from syntagma.storage.trouble import Trouble


class FittedPrompt(NamedTuple):
    """One prompt made to fit: what is left, in bits kept and lost, with the findings on it. `text` is blank where it
    can't fit."""

    line: int
    text: str
    negative: str
    bits: tuple[Bit, ...]
    findings: list[Finding]
    used: int = 0
    limit: int = 0
    unit: str = ""

    @property
    def changed(self) -> bool:
        return any(bit.lost for bit in self.bits) or any(f.kind == REMARK for f in self.findings)

    def record(self) -> dict[str, object]:
        row: dict[str, object] = {"text": self.text, "negative": self.negative}
        if self.limit:
            row["size"] = {"text": {"used": self.used, "limit": self.limit, "unit": self.unit}}
        row["marked"] = [{"text": bit.text, "lost": bit.lost} for bit in self.bits]
        row["findings"] = [f.record() for f in self.findings]
        return {k: v for k, v in row.items() if v or k == "text"}


def fit_prompt(workspace: Workspace, prompt: Source, model: str | None) -> FittedPrompt:
    """A prompt into the limits of a model, else of the one that its record names. Raises Trouble if no model is named."""
    line, record = prompt.line, prompt.record
    name = model or model_of(record)
    if not name and not workspace.settings.get("model"):
        raise Trouble("no model was named, so no limit is known", "write --model dunlin-still; `syntagma model` lists them", 2)
    try:
        if refused := care(record["text"]):
            raise BadFills([refused])
        made = _again(workspace, record, name)
        return _of_formula(line, made) if made else _of_text(workspace, line, record, name)
    except (BadFills, TooLong) as bad:
        return FittedPrompt(line, "", "", (Bit(record["text"], True),), troubles(bad))


def _again(workspace: Workspace, record: Mapping, model: str | None) -> Composed | None:
    """The prompt of a record written again by its formula; None if it was not made by one that is there."""
    formula, fills = record.get("formula"), record.get("fills")
    if not isinstance(formula, str) or not isinstance(fills, dict) or says_more(record):
        return None
    try:
        ask = Ask(formula, model, record.get("looks") or (), manner=Manner(stress=record.get("stress") or {}))
        given = {slot: fill if isinstance(fill, list) else str(fill) for slot, fill in fills.items() if fill}
        return Composer(workspace, ask, remarks=False).compose(given)
    except (Trouble, Refused):
        return None


def _of_formula(line: int, made: Composed) -> FittedPrompt:
    limit = made.writer.profile.text_limit
    said = [f for f in made.findings if f.kind in (ERROR, WARNING) or "shortly" in f.message]
    prompt = made.prompt
    size = (prompt.used, limit.most, limit.unit) if limit else (0, 0, "")
    return FittedPrompt(line, prompt.text, prompt.negative, marked(made), said, *size)


def marked(made: Composed) -> tuple[Bit, ...]:
    """The prompt as it would be without limits, in bits that were kept and that were lost."""
    fitted = made.prompt.fitted
    if not fitted:
        return (Bit(made.prompt.text, False),)
    bits: list[Bit] = []
    for i, (plan, line) in enumerate(zip(made.writer.compiled.plans, fitted.lines, strict=True)):
        full = made.writer.phrases.line(i, made.fills)
        if full is None:
            continue
        bits += [Bit(", ", False)] if bits else []
        if line is None:
            bits.append(Bit(full.text, True))
        elif gone := fitted.cut.get(plan.label):
            bits += [Bit(line.text + " ", False), Bit(gone, True)]
        else:
            bits.append(Bit(line.text, False))
    return tuple(bits)


def _of_text(workspace: Workspace, line: int, record: Mapping, model: str | None) -> FittedPrompt:
    profile = workspace.model(model)
    found = fit_text(record["text"], profile)
    limit = profile.text_limit or profile.limit("whole")
    said = []
    if lost := found.lost:
        room = f"to fit {limit.most} {limit.unit} of {profile.name}"
        said.append(Finding(WARNING, f"lost {room}: {'; '.join(lost)}", "move what matters closer to the front", "text", code="fitted"))
    size = (found.used, limit.most, limit.unit) if limit else (0, 0, "")
    return FittedPrompt(line, found.text, record.get("negative", "") or "", found.bits, said, *size)
