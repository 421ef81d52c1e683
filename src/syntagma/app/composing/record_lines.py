"""Records of many prompts that differ in some slots only, as lines of JSON."""

import re
from collections.abc import Callable, Mapping, Sequence
from operator import itemgetter
from typing import NamedTuple

from syntagma.app.composing.records import Recorder, given, identity
from syntagma.core.diagnostics.findings import Finding
from syntagma.core.drafting.fills import Fill
from syntagma.core.models.request_shape import shape_places
from syntagma.core.writing.prompt import Prompt
from syntagma.formats.json_out import encoder


class _Template(NamedTuple):
    """A line in parts, every second of which is put there: `order` picks them out of all that there are. How much comes before and after
    a prompt's own words, and what before and after its text in the content of its id."""

    parts: list[bytes]
    order: Callable[[Sequence[bytes]], tuple[bytes, ...]]
    front: int
    after: int
    round_id: tuple[bytes, bytes]
    kept: object


class RecordLines:
    """The records of prompts that differ in some slots only, each as a line of JSON: what does not differ is made and serialised once,
    and what does is put between. The bytes are those of `Recorder.record`, serialised whole."""

    def __init__(self, recorder: Recorder, slots: Sequence[str], design: Mapping[str, object]):
        self._recorder, self._slots, self._design = recorder, list(slots), dict(design)
        self._encode = encoder()
        self._full, self._id = (False,) * len(slots), identity()
        self._made: dict[tuple, _Template] = {}
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
        blank = tuple(fill is None for fill in fills) if None in fills else self._full
        text, around = prompt.text, prompt.around
        key = (id(around), prompt.negative_used, blank, *map(id, findings))
        made = self._made.get(key)
        if made is None:  # what has these identities is kept with the parts, so nothing else gets them
            parts = self._parts(prompt, blank, findings)
            before, behind = (side.encode("utf-8", "surrogatepass") for side in self._recorder.round_id(prompt))
            made = _Template(parts, self._order(parts[1::2]), len(around.front), len(around.after), (before, behind), (around, list(findings)))
            self._made[key] = made
        values = self._values
        made.parts[1::2] = made.order((
            self._encode(text[made.front : len(text) - made.after])[1:-1],
            self._id(text.encode("utf-8", "surrogatepass").join(made.round_id)).encode(),
            b"%d" % prompt.used, b"%d" % index, changes,
            *[(values.get(id(fill)) or self._value(fill))[1] for fill in fills],
        ))  # fmt: skip
        return b"".join(made.parts)

    def _order(self, names: Sequence[bytes]) -> Callable[[Sequence[bytes]], tuple[bytes, ...]]:
        known = [b"words", b"id", b"used", b"index", b"changes", *(slot.encode() + b"=" for slot in self._slots)]
        return itemgetter(*map(known.index, names))

    def _value(self, fill: Fill) -> tuple[Fill, bytes]:
        made = self._values[id(fill)] = (fill, self._encode(given(fill)))
        return made

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
        line = self._encode(record) + b"\n"
        line = line.replace(b',"changes":"\\u0000changes\\u0000"', b"\\u0000changes\\u0000")
        bare = "|".join(["index", "used", *(re.escape(slot) + "=" for slot in places)])  # values that bring their own quotation marks
        line = re.sub(rb'"(\\u0000(?:%s)\\u0000)"' % bare.encode(), rb"\1", line)
        return re.split(rb"\\u0000([^\\]*)\\u0000", line)


_PLACE = "\0{}\0"  # what no text holds
