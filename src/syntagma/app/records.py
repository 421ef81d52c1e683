"""Records: what `--json` prints and files hold of each prompt. The keys and their order are those of docs/records.md."""

from collections.abc import Mapping, Sequence
from functools import cache

from syntagma.core.fills import Fill
from syntagma.core.findings import Finding
from syntagma.core.writer import Prompt, Writer


@cache
def _blake2b():
    from hashlib import blake2b  # imported late: a prompt on a pipe needs no id

    return blake2b


def prompt_id(content: str) -> str:
    """The same content gives the same id: 16 hexadecimal digits."""
    return _blake2b()(content.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()


class Recorder:
    """Makes the records of one writer's prompts: what is the same in all of them is made once."""

    def __init__(self, writer: Writer, fills: Sequence[Fill | None], varied: Sequence[str] = (), draw: int | None = None):
        self.writer = writer
        self.parameters = dict(writer.formula.head.parameters)
        self._tail = "".join(f"\0{k}={v}" for k, v in sorted(self.parameters.items()))
        self._fills = {
            rule.name: given(fill)
            for rule, fill in zip(writer.rules, fills, strict=True)
            if fill is not None or rule.name in varied
        }
        self.draw = draw

    def record(
        self, prompt: Prompt, changed: Mapping[str, Fill | None] | None = None, findings: Sequence[Finding] = (), design=None
    ) -> dict[str, object]:
        """The record of one prompt; `changed` are the fills that differ from those of all."""
        writer = self.writer
        model = writer.profile.name
        fills = dict(self._fills)
        for slot, fill in (changed or {}).items():
            if fill is None:
                fills.pop(slot, None)
            else:
                fills[slot] = given(fill)
        record: dict[str, object] = {
            "id": prompt_id(f"{model}\0{prompt.text}\0{prompt.negative}{self._tail}"),
            "formula": writer.formula.name,
        }
        if writer.formula.mounts:
            record["mounts"] = list(writer.formula.mounts)
        if model:
            record["model"] = model
        record["text"] = prompt.text
        if prompt.negative:
            record["negative"] = prompt.negative
        if self.parameters:
            record["parameters"] = self.parameters
        if fills:
            record["fills"] = fills
        if size := self.size(prompt):
            record["size"] = size
        if findings:
            record["findings"] = [f.record() for f in findings]
        if design:
            record["design"] = design
        if self.draw is not None:
            record["draw"] = self.draw
        return record

    def size(self, prompt: Prompt) -> dict[str, dict[str, object]]:
        """How much of each limit a prompt uses."""
        profile = self.writer.profile
        size = {}
        if profile.text_limit:
            size["text"] = profile.text_limit.record(prompt.used)
        if profile.negative_limit and prompt.negative:
            size["negative"] = profile.negative_limit.record(prompt.negative_used)
        return size


def given(fill: Fill | None) -> str | list[str]:
    """A fill as records hold it: as it was given."""
    if fill is None:
        return ""
    return fill.given if isinstance(fill.given, str) else list(fill.given)
