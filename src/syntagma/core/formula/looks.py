"""A look put round a formula: its phrases before and after, its negative text and
parameters added.
"""

from syntagma.core.diagnostics import REMARK, WARNING, Finding, way
from syntagma.core.formula.tree import Formula, Head, Phrase, SlotRule
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import Vocabulary

MADE = ("making", "finish", "colour", "sharpness")  # the dimensions of how a picture is made
YIELDS = (*MADE, "ground", "where")  # those on which a look replaces the formula
PHOTOGRAPH = regex(
    r"\bphotograph\b"
)  # what says of a kind how it is made; an emblem may be cut of paper
GIVE_WAY = ("finish", "flaws", "catchlight")  # labels of fixed words that say how a formula is made


def yielding(
    formula: Formula, look: Formula, vocabulary: Vocabulary
) -> tuple[Formula, list[Finding]]:
    """A formula as it is under a look: where the look is made otherwise, what the formula takes for
    granted of that goes, and so do its kind by default ("realistic photograph") and its fixed words
    of that; and the messages.
    """
    dimensions = vocabulary.dimensions
    theirs = [vocabulary.world(world) for _, world in look.head.worlds]
    mine = [vocabulary.world(world) for _, world in formula.head.worlds]
    otherwise = {
        name
        for name in YIELDS
        if any(dimensions.at_odds(one, other, name) for one in mine for other in theirs)
    }
    if not otherwise:
        return formula, []
    worlds = tuple(
        (name, dimensions.without(world, otherwise)) for name, world in formula.head.worlds
    )
    slots = {
        name: (
            rule._replace(default=())
            if name == "kind"
            and "making" in otherwise
            and any(map(PHOTOGRAPH.search, rule.default))
            else rule
        )
        for name, rule in formula.head.slots.items()
    }
    gone = (
        [
            line
            for line in formula.lines
            if isinstance(line, Phrase) and line.label in GIVE_WAY and not line.slots
        ]
        if otherwise & set(MADE)
        else []
    )
    told = [
        Finding(
            REMARK,
            f"{line.label} is left out, because the look replaces it",
            "",
            look.name,
            code="look-instead",
        )
        for line in gone
    ]
    return (
        formula._replace(
            head=formula.head._replace(worlds=worlds, slots=slots),
            lines=tuple(line for line in formula.lines if line not in gone),
        ),
        told,
    )


def with_look(formula: Formula, look: Formula) -> tuple[Formula, list[Finding]]:
    """Return `formula` with `look` round it, and the findings on the two.

    A slot that both have is one slot: the formula's rule applies, with the look's default if it has
    none. A slot of what the look settles need not be filled. A label that both have gets the look's
    name before it. A parameter that both have is the look's. What either settles is settled.
    """
    place = next(
        i for i, line in enumerate(look.lines) if isinstance(line, Phrase) and line.holds_content
    )
    taken = {phrase.label for phrase in formula.phrases}
    lines = [
        _renamed(line, taken, look.name) if isinstance(line, Phrase) else line
        for line in look.lines
    ]
    slots = {rule.name: rule for rule in look.slots} | {rule.name: rule for rule in formula.slots}
    slots = {
        name: rule._replace(need=False) if rule.facet in look.head.settles else rule
        for name, rule in slots.items()
    }  # what the look says needs no slot
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
        worlds=tuple(
            (name or source.name, world)
            for source in (formula, look)
            for name, world in source.head.worlds
        ),
        only_if={
            **{_label(label, taken, look.name): when for label, when in look.head.only_if.items()},
            **formula.head.only_if,
        },
    )
    whole = formula._replace(
        head=head,
        lines=(*lines[:place], *formula.lines, *lines[place + 1 :]),
        looks=(*formula.looks, look.name),
    )
    return whole, _findings(formula, look, {rule.name: rule for rule in formula.slots})


def _renamed(line: Phrase, taken: set[str], name: str) -> Phrase:
    return line._replace(label=_label(line.label, taken, name))


def _label(label: str, taken: set[str], name: str) -> str:
    return f"{name}.{label}" if label in taken else label


def _findings(formula: Formula, look: Formula, own: dict[str, SlotRule]) -> list[Finding]:
    found = []
    if formula.head.media and look.head.media and formula.head.media != look.head.media:
        message = f"the look is for {look.head.media}, but the formula is for {formula.head.media}"
        found.append(
            Finding(
                WARNING,
                message,
                f"choose another look: {way('looks')}",
                look.name,
                code="other-medium",
            )
        )
    for rule in look.slots:
        if rule.name in own and own[rule.name].facet != rule.facet:
            message = (
                f"the slot “{rule.name}” takes {own[rule.name].facet or 'free text'}, as the"
                " formula says"
            )
            found.append(
                Finding(
                    REMARK,
                    message,
                    f"the look would have {rule.facet or 'free text'}",
                    look.name,
                    code="slot-of-two",
                )
            )
    for key, value in look.head.parameters.items():
        before = formula.head.parameters.get(key, value)
        if before != value:
            found.append(
                Finding(
                    REMARK,
                    f"{key} is {value}; the formula alone has {before}",
                    "",
                    look.name,
                    code="parameter-of-two",
                )
            )
    return found
