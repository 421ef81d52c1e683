"""Ideas: different subjects that suit a formula and its themes, numbered, to go on with one."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, NamedTuple

from syntagma.app.composing.call_line import typed
from syntagma.app.composing.composer import Composer
from syntagma.core.drafting.fills import Fill, Given
from syntagma.core.picking.picker import FIRST
from syntagma.storage.trouble import Trouble

if TYPE_CHECKING:
    from syntagma.app.picking.chooser import Chooser

BESIDE = ("action", "setting")  # what makes a subject an idea: what it does, and where
TRIES = 60  # draws for one idea before there are no more


class Idea(NamedTuple):
    """One idea: fills by slot, the subject first."""

    number: int
    fills: dict[str, str]


def ideas(composer: Composer, given: Mapping[str, Given], count: int) -> list[Idea]:
    """At most `count` ideas, each of another subject. The first n of a longer list are those of a shorter one. Raises
    Trouble where the formula leaves nothing open to have ideas about."""
    chooser, writer = composer.chooser, composer.writer
    fills = writer.fills(given)
    blank = [r for r, fill in zip(writer.rules, fills, strict=True) if fill is None and r.name not in given]
    open_rules = [r for r in blank if r.facet in FIRST and r.facet in composer.workspace.vocabulary and r.name in writer.shown]
    if not open_rules:
        message = "no open slot is left for ideas to fill"
        raise Trouble(message, f"leave one of {', '.join(writer.position)} blank", 2)
    main = min(open_rules, key=lambda r: (not r.need, FIRST.index(r.facet)))
    slots = [main.name, *(r.name for r in open_rules if r.facet in BESIDE and r.name != main.name)]
    found = _situations(chooser, fills, slots, main.name, count)
    picker = chooser.picker(slots, chooser.random("ideas"))
    scene, told = chooser.ground.standing(fills, slots)
    seen: list = [term for one in found if (term := chooser.facet(main.name).get(one.fills[main.name]))]
    for _ in range(TRIES * count):
        if len(found) == count:
            break
        picked = picker.pick(scene, told, {main.name: seen})
        if subject := picked[main.name]:
            seen += subject.terms
            found.append(Idea(len(found) + 1, _typed(picked, slots)))
        else:
            break
    return found


def _situations(chooser: "Chooser", fills: Sequence[Fill | None], slots: list[str], main: str, count: int) -> list[Idea]:
    """Ideas that situations are: as many as there are of different subjects."""
    found: dict[str, dict[str, str]] = {}
    order, situating = chooser.in_order(fills, slots)
    for one, moments in order:
        texts = situating.begun(one, moments, 0).texts
        if main in texts and len(found) < count:
            found.setdefault(texts[main], {slot: texts[slot] for slot in slots if slot in texts})
    return [Idea(number, said) for number, said in enumerate(found.values(), 1)]


def _typed(picked: Mapping[str, Fill | None], slots: list[str]) -> dict[str, str]:
    return {slot: typed(fill) for slot in slots if (fill := picked[slot])}


def idea(composer: Composer, given: Mapping[str, Given], number: int) -> Idea:
    """One idea by its number. Raises Trouble if there are not as many."""
    found = ideas(composer, given, number)
    if len(found) < number:
        raise Trouble(f"the list has no idea {number}", f"there are {len(found)}: --ideas {len(found)} shows them", 2)
    return found[number - 1]
