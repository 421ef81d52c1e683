"""How much of a formula is filled: bare, usual or rich."""

from collections.abc import Iterator

from syntagma.core.formula.tree import Formula, Option, Phrase

DETAILS = ("bare", "usual", "rich")


def slots_at(detail: str, formula: Formula) -> list[str]:
    """The slots that a pick fills, in their order. bare: those needed, and those of the phrases marked `!` (of the first,
    if none is), outside braces; usual: those of all phrases but the ones marked `?`, outside braces, and of the
    negative text; rich: every slot."""
    if detail == "rich":
        return [rule.name for rule in formula.slots]
    if detail == "bare":
        kept = [p for p in formula.phrases if p.mark == "!" and p.slots]
        phrases = kept or [p for p in formula.phrases if p.slots][:1]
    else:
        phrases = [p for p in formula.phrases if p.mark != "?"] + list(formula.negatives)
    chosen = {name for phrase in phrases for name in _outside_braces(phrase)}
    return [rule.name for rule in formula.slots if rule.need or rule.name in chosen]


def take_at(detail: str, take: tuple[int, int]) -> tuple[int, int]:
    """How many terms a slot takes: the least for bare, the most for rich, any number between otherwise."""
    least, most = take
    return {"bare": (least, least), "rich": (most, most)}.get(detail, take)


def _outside_braces(phrase: Phrase) -> Iterator[str]:
    for node in phrase.body:
        if not isinstance(node, Option):
            yield from getattr(node, "slots", ())
