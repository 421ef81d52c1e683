"""A look put round a formula: its phrases before and after, its negative text and parameters added."""

from syntagma.core.diagnostics.findings import REMARK, WARNING, Finding
from syntagma.core.diagnostics.ways import way
from syntagma.core.formula.tree import Formula, Head, Phrase, SlotRule


def with_look(formula: Formula, look: Formula) -> tuple[Formula, list[Finding]]:
    """Return `formula` with `look` round it, and what there is to say of the two.

    A slot that both have is one slot: the formula's rule stands, with the look's default where it has none. A label that
    both have gets the look's name before it. A parameter that both have is the look's. What either settles is settled.
    """
    place = next(i for i, line in enumerate(look.lines) if isinstance(line, Phrase) and line.holds_content)
    taken = {phrase.label for phrase in formula.phrases}
    lines = [_renamed(line, taken, look.name) if isinstance(line, Phrase) else line for line in look.lines]
    slots = {rule.name: rule for rule in look.slots} | {rule.name: rule for rule in formula.slots}
    for rule in look.slots:
        own = slots[rule.name]
        if rule.default and not own.default and rule.facet == own.facet:
            slots[rule.name] = own._replace(default=rule.default)
    head = Head(
        about=formula.head.about,
        when=formula.head.when,
        media=formula.head.media or look.head.media,
        slots=slots,
        parameters=dict(formula.head.parameters) | dict(look.head.parameters),
        example=dict(look.head.example) | dict(formula.head.example),
        settles=(*formula.head.settles, *look.head.settles),
        forward=(*formula.head.forward, *look.head.forward),
        references=tuple(dict.fromkeys((*formula.head.references, *look.head.references))),
        stress={**look.head.stress, **formula.head.stress},
        worlds=tuple((name or source.name, world) for source in (formula, look) for name, world in source.head.worlds),
        only_if={**{_label(label, taken, look.name): when for label, when in look.head.only_if.items()}, **formula.head.only_if},
    )
    whole = formula._replace(
        head=head, lines=(*lines[:place], *formula.lines, *lines[place + 1 :]), looks=(*formula.looks, look.name)
    )
    return whole, _findings(formula, look, {rule.name: rule for rule in formula.slots})


def _renamed(line: Phrase, taken: set[str], name: str) -> Phrase:
    return line._replace(label=_label(line.label, taken, name))


def _label(label: str, taken: set[str], name: str) -> str:
    return f"{name}.{label}" if label in taken else label


def _findings(formula: Formula, look: Formula, own: dict[str, SlotRule]) -> list[Finding]:
    found = []
    if formula.head.media and look.head.media and formula.head.media != look.head.media:
        message = f"the look is for {look.head.media}, and the formula for {formula.head.media}"
        found.append(Finding(WARNING, message, f"choose another look: {way('looks')}", look.name, code="other-medium"))
    for rule in look.slots:
        if rule.name in own and own[rule.name].facet != rule.facet:
            message = f"the slot “{rule.name}” takes {own[rule.name].facet or 'free text'}, as the formula says"
            found.append(Finding(REMARK, message, f"the look would have {rule.facet or 'free text'}", look.name, code="slot-of-two"))
    for key, value in look.head.parameters.items():
        before = formula.head.parameters.get(key, value)
        if before != value:
            found.append(Finding(REMARK, f"{key} is {value}; the formula alone has {before}", "", look.name, code="parameter-of-two"))
    return found
