"""Records: what is known of a prompt, as files and `--json` give it; of many prompts that differ in
some slots only, as lines of JSON.
"""

import re
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from operator import itemgetter
from typing import TYPE_CHECKING, Any, NamedTuple

from syntagma.core.diagnostics import Finding
from syntagma.core.drafting.fills import Fill
from syntagma.core.models.request_shape import shape_places
from syntagma.core.writing.prompt import Prompt
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.json_out import encoder

# ──── Records: what `--json` prints and files hold of each prompt. The keys and their order are
# those of docs/reference/records.md.


if TYPE_CHECKING:
    from syntagma.core.designs.axes import Level


@cache
def identity() -> Callable[[bytes], str]:
    """What gives the same content the same id: 16 hexadecimal digits."""
    from hashlib import blake2b  # imported late: a prompt on a pipe needs no id

    return lambda content: blake2b(content, digest_size=8).hexdigest()


def prompt_id(content: str) -> str:
    """The id of some content."""
    return identity()(content.encode("utf-8", "surrogatepass"))


class Recorder:
    """Makes the records of one writer's prompts: what is the same in all prompts is made once."""

    def __init__(
        self,
        writer: Writer,
        fills: Sequence[Fill | None],
        varied: Sequence[str] = (),
        draw: int | None = None,
    ):
        self.writer = writer
        self.draw = draw
        self._sent = self._cost = None
        if writer.profile.request or writer.profile.limit("request"):
            from syntagma.core.models.request_shape import as_json
            from syntagma.core.realising.request import Requester

            self._sent, self._as_json = Requester(writer.profile).request, as_json
        if writer.profile.price:
            self._currency = writer.profile.price.currency
            from syntagma.core.models.prices import cost

            self._cost = cost
        self._worn: tuple[object, dict[str, Any], str] | None = None
        self._stress = {**writer.formula.head.stress, **writer.compiled.manner.stress}
        self._limits = {
            name: limit
            for name in ("text", "negative", "whole", "request")
            if (limit := writer.profile.limit(name))
        }
        self._fills = {
            rule.name: given(fill)
            for rule, fill in zip(writer.rules, fills, strict=True)
            if fill is not None or rule.name in varied
        }

    def _parameters(self, prompt: Prompt) -> tuple[dict[str, Any], str]:
        """The parameters of a prompt, and what they add to its id: kept while prompts wear the
        same.
        """
        if self._worn is None or self._worn[0] is not prompt.around:
            known = self.writer.profile.parameter
            parameters = (
                dict(prompt.around.values)
                if known
                else dict(self.writer.formula.head.parameters)
                | dict(self.writer.compiled.manner.parameters)
            )
            more = [f"\0{k}={v}" for k, v in sorted(parameters.items())] + [
                f"\0{r.typed}" for r in prompt.around.references
            ]
            self._worn = (prompt.around, parameters, "".join(more))
        return self._worn[1:]

    def id_of(self, prompt: Prompt) -> str:
        """The same prompt for the same model gives the same id."""
        return prompt_id(prompt.text.join(self.round_id(prompt)))

    def round_id(self, prompt: Prompt) -> tuple[str, str]:
        """What comes before and after the text in the content that an id is of."""
        return f"{self.writer.profile.name}\0", f"\0{prompt.negative}{self._parameters(prompt)[1]}"

    def record(
        self,
        prompt: Prompt,
        changed: Mapping[str, Fill | None] | None = None,
        findings: Sequence[Finding] = (),
        design: Mapping[str, Any] | None = None,
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
        if writer.formula.looks:
            record["looks"] = list(writer.formula.looks)
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
            record["cost"] = {
                "amount": round(
                    self._cost(writer.profile, prompt.around.values, prompt.words) or 0.0, 6
                ),
                "currency": self._currency,
            }
        if findings:
            record["findings"] = [f.record() for f in findings]
        if design:
            record["design"] = design
        if self.draw is not None:
            record["draw"] = self.draw
        return record

    def size(self, prompt: Prompt, request: Any = None) -> dict[str, dict[str, Any]]:
        """How much of each limit a prompt uses."""
        used = {"text": lambda limit: prompt.used, "negative": lambda limit: prompt.negative_used}
        used |= {
            "whole": lambda limit: limit.count(prompt.text),
            "request": lambda limit: limit.count(self._as_json(request)),
        }
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


# ──── Records of many prompts that differ in some slots only, as lines of JSON.


class _Template(NamedTuple):
    """A line in parts, every second of which is put there: `order` picks them out of all that there
    are. How much comes before and after a prompt's own words, and what before and after its text in
    the content of its id.
    """

    parts: list[bytes]
    order: Callable[[Sequence[bytes]], tuple[bytes, ...]]
    front: int
    after: int
    round_id: tuple[bytes, bytes]
    kept: object


class RecordLines:
    """The records of prompts that differ in some slots only, each as a line of JSON: what does not
    differ is made and serialised once, and what does is put between. The bytes are those of
    `Recorder.record`, serialised whole.
    """

    def __init__(self, recorder: Recorder, slots: Sequence[str], design: Mapping[str, object]):
        self._recorder, self._slots, self._design = recorder, list(slots), dict(design)
        self._encode = encoder()
        self._full, self._id = (False,) * len(slots), identity()
        self._made: dict[tuple, _Template] = {}
        self._values: dict[
            int, tuple[object, bytes]
        ] = {}  # by the identity of a fill: the fill, and what it is in JSON

    @staticmethod
    def fit(recorder: Recorder) -> bool:
        """Do the records differ in nothing but what can be put between? Not so where a cost or a
        size hangs on the text by itself.
        """
        profile = recorder.writer.profile
        by_field = any(
            place.startswith(("text.", "words.")) for _, place in shape_places(profile.request)
        )
        return (
            not by_field
            and not {"whole", "request"} & set(recorder._limits)
            and not (profile.price and profile.price.per == "thousand-tokens")
        )

    def line(
        self,
        prompt: Prompt,
        fills: Sequence[Fill | None],
        findings: Sequence[Finding],
        index: int,
        changes: bytes,
    ) -> bytes:
        """The record of one prompt: its fills in the slots that differ, its number, and what
        differs from the baseline, as JSON.
        """
        blank = tuple(fill is None for fill in fills) if None in fills else self._full
        text, around = prompt.text, prompt.around
        key = (id(around), prompt.negative_used, blank, *map(id, findings))
        made = self._made.get(key)
        if (
            made is None
        ):  # what has these identities is kept with the parts, so nothing else gets them
            parts = self._parts(prompt, blank, findings)
            before, behind = (
                side.encode("utf-8", "surrogatepass") for side in self._recorder.round_id(prompt)
            )
            made = _Template(
                parts,
                self._order(parts[1::2]),
                len(around.front),
                len(around.after),
                (before, behind),
                (around, list(findings)),
            )
            self._made[key] = made
        values = self._values
        made.parts[1::2] = made.order(
            (
                self._encode(text[made.front : len(text) - made.after])[1:-1],
                self._id(text.encode("utf-8", "surrogatepass").join(made.round_id)).encode(),
                b"%d" % prompt.used,
                b"%d" % index,
                changes,
                *[(values.get(id(fill)) or self._value(fill))[1] for fill in fills],
            )
        )
        return b"".join(made.parts)

    def _order(self, names: Sequence[bytes]) -> Callable[[Sequence[bytes]], tuple[bytes, ...]]:
        known = [
            b"words",
            b"id",
            b"used",
            b"index",
            b"changes",
            *(slot.encode() + b"=" for slot in self._slots),
        ]
        return itemgetter(*map(known.index, names))

    def _value(self, fill: Fill | None) -> tuple[Fill | None, bytes]:
        made = self._values[id(fill)] = (fill, self._encode(given(fill)))
        return made

    def _parts(
        self, prompt: Prompt, blank: Sequence[bool], findings: Sequence[Finding]
    ) -> list[bytes]:
        """The line in parts: what stays, and between two such parts the name of what is put
        there.
        """
        words = prompt.around.front + _PLACE.format("words") + prompt.around.after
        changed = dict.fromkeys(slot for slot, none in zip(self._slots, blank, strict=True) if none)
        places = [slot for slot in self._slots if slot not in changed]
        design = {
            **self._design,
            "index": _PLACE.format("index"),
            "changes": _PLACE.format("changes"),
        }
        record = self._recorder.record(prompt._replace(text=words), changed, findings, design)
        record["id"] = _PLACE.format("id")
        if "fills" in record or places:
            own = {rule.name for rule in self._recorder.writer.rules}
            record["fills"] = {
                s: _PLACE.format(f"{s}=") if s in places else v
                for s, v in record.get("fills", {}).items()
                if s in own
            }
        if text := record.get("size", {}).get("text"):
            text["used"] = _PLACE.format("used")
        line = self._encode(record) + b"\n"
        line = line.replace(b',"changes":"\\u0000changes\\u0000"', b"\\u0000changes\\u0000")
        bare = "|".join(
            ["index", "used", *(re.escape(slot) + "=" for slot in places)]
        )  # values that bring their own quotation marks
        line = re.sub(rb'"(\\u0000(?:%s)\\u0000)"' % bare.encode(), rb"\1", line)
        return re.split(rb"\\u0000([^\\]*)\\u0000", line)


_PLACE = "\0{}\0"  # what no text holds
