"""Negative text: the lines labelled `-`, as items in order, each said once."""

from collections.abc import Mapping, Sequence

from syntagma.core import english
from syntagma.core.drafting.draft import Glue, PairMark, lay_out, plan_phrase
from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import FixedText, Phrase
from syntagma.core.models.profile import Profile
from syntagma.core.realising.noun_phrases import in_tags
from syntagma.core.realising.text_pieces import joined


class NegativeWriter:
    """Collects the negative text of a formula, for a model that takes such text."""

    def __init__(self, phrases: Sequence[Phrase], profile: Profile):
        self.wanted = profile.negative.way != "none"
        self.plans = [plan_phrase(part) for phrase in phrases for part in _at_commas(phrase)]

    def has(self, slot: str) -> bool:
        """Is the slot in the negative text?"""
        return any(slot in plan.slots for plan in self.plans)

    def items(self, fills: Mapping[str, Fill | None]) -> list[str]:
        """The items in order; none for a model that takes no such text."""
        if not self.wanted:
            return []
        items: list[str] = []
        for plan in self.plans:
            laid = lay_out(plan, fills)
            if laid is None:
                continue
            if plan.slots:
                items += [joined(tag) for part in laid.parts if not isinstance(part, Glue | PairMark) for tag in in_tags(part)]
            else:
                items.append("".join(p.text for p in laid.parts).strip())
        return list(dict.fromkeys(english.without_end(i) for i in items if i))


def _at_commas(phrase: Phrase) -> list[Phrase]:
    """A negative line in parts, cut at the commas between its brackets."""
    parts: list[list] = [[]]
    for node in phrase.body:
        if not isinstance(node, FixedText):
            parts[-1].append(node)
            continue
        begun = 0
        for at, char in enumerate(node.raw):
            if char == "," and (at == 0 or node.raw[at - 1] != "\\"):
                parts[-1].append(FixedText(node.raw[begun:at].strip(), node.span))
                parts.append([])
                begun = at + 1
        parts[-1].append(FixedText(node.raw[begun:].strip(), node.span))
    kept = [[n for n in part if not isinstance(n, FixedText) or n.raw] for part in parts]
    return [Phrase("-", "", tuple(part), phrase.span) for part in kept if part]
