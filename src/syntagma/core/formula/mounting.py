"""A mount put round a formula: its phrases before and after, its negative text and parameters added."""

from syntagma.core.diagnostics.findings import REMARK, WARNING, Finding
from syntagma.core.diagnostics.ways import way
from syntagma.core.formula.tree import Formula, Head, Phrase, SlotRule


def mounted(formula: Formula, mount: Formula) -> tuple[Formula, list[Finding]]:
    """Return `formula` with `mount` round it, and what there is to say of the two.

    A slot that both have is one slot: the formula's rule stands, with the mount's default where it has none. A label that
    both have gets the mount's name before it. A parameter that both have is the mount's. What either settles is settled.
    """
    place = next(i for i, line in enumerate(mount.lines) if isinstance(line, Phrase) and line.holds_content)
    taken = {phrase.label for phrase in formula.phrases}
    lines = [_renamed(line, taken, mount.name) if isinstance(line, Phrase) else line for line in mount.lines]
    slots = {rule.name: rule for rule in mount.slots} | {rule.name: rule for rule in formula.slots}
    for rule in mount.slots:
        own = slots[rule.name]
        if rule.default and not own.default and rule.facet == own.facet:
            slots[rule.name] = own._replace(default=rule.default)
    head = Head(
        about=formula.head.about,
        when=formula.head.when,
        media=formula.head.media or mount.head.media,
        slots=slots,
        parameters=dict(formula.head.parameters) | dict(mount.head.parameters),
        example=dict(mount.head.example) | dict(formula.head.example),
        settles=(*formula.head.settles, *mount.head.settles),
        forward=(*formula.head.forward, *mount.head.forward),
        references=tuple(dict.fromkeys((*formula.head.references, *mount.head.references))),
        stress={**mount.head.stress, **formula.head.stress},
        worlds=tuple((name or source.name, world) for source in (formula, mount) for name, world in source.head.worlds),
        only_if={**{_label(label, taken, mount.name): when for label, when in mount.head.only_if.items()}, **formula.head.only_if},
    )
    whole = formula._replace(
        head=head, lines=(*lines[:place], *formula.lines, *lines[place + 1 :]), mounts=(*formula.mounts, mount.name)
    )
    return whole, _findings(formula, mount, {rule.name: rule for rule in formula.slots})


def _renamed(line: Phrase, taken: set[str], name: str) -> Phrase:
    return line._replace(label=_label(line.label, taken, name))


def _label(label: str, taken: set[str], name: str) -> str:
    return f"{name}.{label}" if label in taken else label


def _findings(formula: Formula, mount: Formula, own: dict[str, SlotRule]) -> list[Finding]:
    found = []
    if formula.head.media and mount.head.media and formula.head.media != mount.head.media:
        message = f"the mount is for {mount.head.media}, and the formula for {formula.head.media}"
        found.append(Finding(WARNING, message, f"choose another mount: {way('mounts')}", mount.name, code="other-medium"))
    for rule in mount.slots:
        if rule.name in own and own[rule.name].facet != rule.facet:
            message = f"the slot “{rule.name}” takes {own[rule.name].facet or 'free text'}, as the formula says"
            found.append(Finding(REMARK, message, f"the mount would have {rule.facet or 'free text'}", mount.name, code="slot-of-two"))
    for key, value in mount.head.parameters.items():
        before = formula.head.parameters.get(key, value)
        if before != value:
            found.append(Finding(REMARK, f"{key} is {value}; the formula alone has {before}", "", mount.name, code="parameter-of-two"))
    return found
