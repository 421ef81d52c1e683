"""Records: what `--json` prints and files hold of each prompt. The keys and their order are those of docs/records.md."""

import re
from collections.abc import Mapping, Sequence
from functools import cache, cached_property
from typing import TYPE_CHECKING, Any

from msgspec import json

from syntagma.core.diagnostics.findings import Finding
from syntagma.core.drafting.fills import Fill
from syntagma.core.models.request_shape import shape_places
from syntagma.core.writing.prompt import Prompt
from syntagma.core.writing.prompt_writer import Writer

if TYPE_CHECKING:
    from syntagma.core.designs.axes import Level


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
        self.draw = draw
        self._sent = self._cost = None
        if writer.profile.request or writer.profile.limit("request"):
            from syntagma.core.models.request_shape import as_json
            from syntagma.core.realising.request import Requester

            self._sent, self._as_json = Requester(writer.profile).request, as_json
        if writer.profile.price:
            from syntagma.core.models.prices import cost

            self._cost = cost
        self._worn: tuple[object, dict[str, Any], str] | None = None
        self._stress = {**writer.formula.head.stress, **writer.compiled.manner.stress}
        self._limits = {name: limit for name in ("text", "negative", "whole", "request") if (limit := writer.profile.limit(name))}
        self._fills = {
            rule.name: given(fill)
            for rule, fill in zip(writer.rules, fills, strict=True)
            if fill is not None or rule.name in varied
        }

    def _parameters(self, prompt: Prompt) -> tuple[dict[str, Any], str]:
        """The parameters of a prompt, and what they add to its id: kept while prompts wear the same."""
        if self._worn is None or self._worn[0] is not prompt.around:
            known = self.writer.profile.parameter
            parameters = (
                dict(prompt.around.values)
                if known
                else dict(self.writer.formula.head.parameters) | dict(self.writer.compiled.manner.parameters)
            )
            more = [f"\0{k}={v}" for k, v in sorted(parameters.items())] + [f"\0{r.typed}" for r in prompt.around.references]
            self._worn = (prompt.around, parameters, "".join(more))
        return self._worn[1:]

    def id_of(self, prompt: Prompt) -> str:
        """The same prompt for the same model gives the same id."""
        return prompt_id(f"{self.writer.profile.name}\0{prompt.text}\0{prompt.negative}{self._parameters(prompt)[1]}")

    def record(
        self, prompt: Prompt, changed: Mapping[str, Fill | None] | None = None, findings: Sequence[Finding] = (), design=None
    ) -> dict[str, Any]:
        """The record of one prompt; `changed` are the fills that differ from those of all."""
        writer = self.writer
        model = writer.profile.name
        parameters, _ = self._parameters(prompt)
        fills = dict(self._fills)
        for slot, fill in (changed or {}).items():
            if fill is None:
                fills.pop(slot, None)
            else:
                fills[slot] = given(fill)
        record: dict[str, Any] = {
            "id": self.id_of(prompt),
            "formula": writer.formula.name,
        }
        if writer.formula.mounts:
            record["mounts"] = list(writer.formula.mounts)
        if model:
            record["model"] = model
        record["text"] = prompt.text
        if prompt.negative:
            record["negative"] = prompt.negative
        if parameters:
            record["parameters"] = parameters
        if prompt.around.references:
            record["references"] = [r.record() for r in prompt.around.references]
        if writer.profile.request:
            record["request"] = self._sent(prompt.around, prompt.text, prompt.words)
        if fills:
            record["fills"] = fills
        if self._stress:
            record["stress"] = self._stress
        if self._limits and (size := self.size(prompt, record.get("request"))):
            record["size"] = size
        if self._cost:
            record["cost"] = round(self._cost(writer.profile, prompt.around.values, prompt.words), 6)
        if findings:
            record["findings"] = [f.record() for f in findings]
        if design:
            record["design"] = design
        if self.draw is not None:
            record["draw"] = self.draw
        return record

    def size(self, prompt: Prompt, request: object = None) -> dict[str, dict[str, Any]]:
        """How much of each limit a prompt uses."""
        used = {"text": lambda limit: prompt.used, "negative": lambda limit: prompt.negative_used}
        used |= {"whole": lambda limit: limit.count(prompt.text), "request": lambda limit: limit.count(self._as_json(request))}
        return {
            name: limit.record(used[name](limit))
            for name, limit in self._limits.items()
            if (name != "negative" or prompt.negative) and (name != "request" or request)
        }


def given(fill: "Level") -> str | list[str]:
    """A fill as records hold it: as it was given."""
    if fill is None:
        return ""
    if not isinstance(fill, Fill):
        return fill.shown
    return fill.given if isinstance(fill.given, str) else list(fill.given)


class RecordLines:
    """The records of prompts that differ in some slots only, each as a line of JSON: what does not differ is made and serialised once,
    and what does is put between. The bytes are those of `Recorder.record`, serialised whole."""

    def __init__(self, recorder: Recorder, slots: Sequence[str], design: Mapping[str, object]):
        self._recorder, self._slots, self._design = recorder, list(slots), dict(design)
        self._encode = json.Encoder().encode
        self._made: dict[tuple, tuple[object, list[bytes], list[bytes]]] = {}
        self._values: dict[int, tuple[object, bytes]] = {}  # by the identity of a fill: the fill, and what it is in JSON

    @staticmethod
    def fit(recorder: Recorder) -> bool:
        """Do the records differ in nothing but what can be put between? Not so where a cost or a size hangs on the text by itself."""
        profile = recorder.writer.profile
        by_field = any(place.startswith(("text.", "words.")) for _, place in shape_places(profile.request))
        return not by_field and not {"whole", "request"} & set(recorder._limits) and not (profile.price and profile.price.per == "thousand-tokens")

    def line(
        self, prompt: Prompt, fills: Sequence[Fill | None], findings: Sequence[Finding], index: int, changes: bytes
    ) -> bytes:
        """The record of one prompt: its fills in the slots that differ, its number, and what differs from the baseline, as JSON."""
        blank = tuple(fill is None for fill in fills)
        key = (id(prompt.around), prompt.negative_used, blank, tuple(map(id, findings)))
        if key not in self._made:  # what has these identities is kept with the parts, so that nothing else gets them
            parts = self._parts(prompt, blank, findings)
            self._made[key] = ((prompt.around, list(findings)), parts, parts[1::2])
        _, parts, names = self._made[key]
        front, after = len(prompt.around.front), len(prompt.around.after)
        own = {
            b"words": self._encode(prompt.text[front : len(prompt.text) - after])[1:-1],
            b"id": self._recorder.id_of(prompt).encode(), b"used": b"%d" % prompt.used, b"index": b"%d" % index, b"changes": changes,
        }  # fmt: skip
        for slot, fill in zip(self._keys, fills, strict=True):
            if fill is not None:
                own[slot] = self._value(fill)
        parts[1::2] = [own[name] for name in names]
        return b"".join(parts)

    @cached_property
    def _keys(self) -> list[bytes]:
        return [slot.encode() + b"=" for slot in self._slots]

    def _value(self, fill: Fill) -> bytes:
        known = self._values.get(id(fill))
        if known is None:
            known = self._values[id(fill)] = (fill, json.encode(given(fill)))
        return known[1]

    def _parts(self, prompt: Prompt, blank: Sequence[bool], findings: Sequence[Finding]) -> list[bytes]:
        """The line in parts: what stays, and between two such parts the name of what is put there."""
        words = prompt.around.front + _PLACE.format("words") + prompt.around.after
        changed = dict.fromkeys(slot for slot, none in zip(self._slots, blank, strict=True) if none)
        places = [slot for slot in self._slots if slot not in changed]
        design = {**self._design, "index": _PLACE.format("index"), "changes": _PLACE.format("changes")}
        record = self._recorder.record(prompt._replace(text=words), changed, findings, design)
        record["id"] = _PLACE.format("id")
        if "fills" in record or places:
            own = {rule.name for rule in self._recorder.writer.rules}
            record["fills"] = {s: _PLACE.format(f"{s}=") if s in places else v for s, v in record.get("fills", {}).items() if s in own}
        if text := record.get("size", {}).get("text"):
            text["used"] = _PLACE.format("used")
        line = json.encode(record) + b"\n"
        line = line.replace(b',"changes":"\\u0000changes\\u0000"', b"\\u0000changes\\u0000")
        bare = "|".join(["index", "used", *(re.escape(slot) + "=" for slot in places)])  # values that bring their own quotation marks
        line = re.sub(rb'"(\\u0000(?:%s)\\u0000)"' % bare.encode(), rb"\1", line)
        return re.split(rb"\\u0000([^\\]*)\\u0000", line)


_PLACE = "\0{}\0"  # what no text holds
