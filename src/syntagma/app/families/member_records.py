"""The records of a family's members: each with what differs from the baseline, and its place in the design."""

from syntagma.app.composing.records import Recorder, given
from syntagma.app.families.family import Family, Member


class FamilyRecords:
    """The records of a family's members, one for each model."""

    def __init__(self, family: Family):
        self.family = family
        self._draw = family.wish.taste.draw if family.drawn else None
        self._recorders: dict[int, list[Recorder]] = {}

    def of(self, member: Member) -> list[dict[str, object]]:
        """The records of one member."""
        family = self.family
        variant = family.variants.of(member.combination)
        recorders = self._recorders.get(id(variant))
        if recorders is None:
            recorders = [Recorder(w, variant.fills, family.slots, self._draw) for w in variant.writers]
            self._recorders[id(variant)] = recorders
        changed = dict(zip(family.slots, family.variants.slots_of(member.combination), strict=True))
        design: dict[str, object] = {"name": family.design, "index": member.number}
        if changes := family.changes(member):
            design["changes"] = {slot: [given(there), given(here)] for slot, (there, here) in changes.items()}
        fills = family.fills_of(member)
        records = []
        for writer, recorder, prompt in zip(variant.writers, recorders, member.prompts, strict=True):
            findings = writer.findings(fills, prompt)
            if member.number == 0:
                findings = findings + writer.clashes(fills)
            records.append(recorder.record(prompt, changed, findings, design))
        return records
