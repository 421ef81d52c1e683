"""A formula and a model compiled: everything that stays while prompts are written. Made once, and
only read from then on.
"""

from collections.abc import Callable, Mapping, Sequence
from operator import itemgetter
from typing import Any, NamedTuple

from syntagma.core.diagnostics import ERROR, Finding
from syntagma.core.drafting.draft import PhrasePlan, plan_phrase
from syntagma.core.drafting.fills import BadFills, Fill
from syntagma.core.drafting.phrase_order import arranged
from syntagma.core.drafting.sound import sound_of
from syntagma.core.drafting.surroundings import Surroundings
from syntagma.core.formula.tree import Condition, Formula, Phrase, SlotRule, part_of
from syntagma.core.models.profile import Profile
from syntagma.core.realising import HouseStyle, register_for
from syntagma.core.realising.house_style import NegativeWriter
from syntagma.core.vocabulary.facets import PLAIN, Traits
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.vocabulary.world import LEAD, Seat, Thing
from syntagma.core.writing.prompt import Manner

Key = (
    Callable[[Sequence[Fill | None]], object] | None
)  # picks out of all fills those that something depends on; None: on none


class CompiledPhrase(NamedTuple):
    """A phrase made ready: its plan, what is heard in it, the positions of the slots that it
    depends on, the phrase that is joined to it; `key` picks the fills that its text depends on,
    `findings_key` those of the findings on it; `waits` says when it applies.
    """

    phrase: Phrase
    plan: PhrasePlan
    sound: str
    positions: tuple[int, ...]
    follower: Phrase | None
    key: Key
    findings_key: Key
    waits: Condition | None = None


class Compiled(NamedTuple):
    """One formula for one model. `position`: slot → its place in `rules`; `silent`: phrases left
    out, since the model makes no sound.
    """

    formula: Formula
    profile: Profile
    vocabulary: Vocabulary
    manner: Manner
    rules: tuple[SlotRule, ...]
    position: Mapping[str, int]
    phrases: tuple[CompiledPhrase, ...]
    silent: tuple[PhrasePlan, ...]
    style: HouseStyle
    register: Any  # one of realising: prose, tags …
    surroundings: Surroundings
    negative: NegativeWriter

    @property
    def plans(self) -> tuple[PhrasePlan, ...]:
        """The plans of the phrases in their order."""
        return tuple(phrase.plan for phrase in self.phrases)

    @property
    def shown(self) -> frozenset[str]:
        """The slots of the text, not those of the negative text."""
        return frozenset(name for phrase in self.phrases for name in phrase.plan.slots)

    @property
    def seats(self) -> dict[str, Seat]:
        """The places of what fills the slots of the text, by slot."""
        parts = {
            name: part_of(phrase.phrase.label)
            for phrase in reversed(self.phrases)
            for name in phrase.plan.slots
        }
        slots = dict.fromkeys(name for phrase in self.phrases for name in phrase.plan.slots)
        rules = {name: self.rules[self.position[name]] for name in slots}
        return self.vocabulary.seats(
            (name, rule.facet, parts[name], rule.world) for name, rule in rules.items()
        )

    @property
    def granted(self) -> tuple[Thing, ...]:
        """What the formula's own words, and its looks', take for granted."""
        worlds = self.formula.head.worlds
        return tuple(
            Thing(
                Seat("", "", None, LEAD),
                name or self.formula.name,
                self.vocabulary.dimensions.world(world),
            )
            for name, world in worlds
        )

    @property
    def slots_said(self) -> str:
        """The slots that there are, in words."""
        return f"its slots are {', '.join(self.position)}" if self.position else "it has no slots"

    def named(self, fills: Sequence[Fill | None]) -> dict[str, Fill | None]:
        """Fills by the name of their slot."""
        return dict(zip(self.position, fills, strict=True))

    def phrases_of(self, position: int) -> tuple[int, ...]:
        """The phrases with the slot at `position`."""
        return tuple(i for i, phrase in enumerate(self.phrases) if position in phrase.positions)

    def need(self, fills: Sequence[Fill | None], lines: Sequence) -> None:
        """Raise BadFills if a needed slot or a `!` phrase is blank, or everything is."""
        wrong = [
            Finding(
                ERROR,
                "this slot must be filled",
                f"give {rule.name}=…",
                rule.name,
                code="slot-needed",
            )
            for rule, fill in zip(self.rules, fills, strict=True)
            if rule.need and fill is None
        ]
        told = {f.place for f in wrong}
        for phrase, line in zip(self.phrases, lines, strict=True):
            plan = phrase.plan
            if (
                plan.mark != "!"
                or line is not None
                or not plan.slots
                or not told.isdisjoint(plan.slots)
            ):
                continue
            if any(fills[p] is not None for p in phrase.positions) and self.surroundings.menus:
                continue  # a setting of the model's says it
            remedy = (
                f"give {' or '.join(f'{name}=…' for name in plan.slots)}, or remove the ! from its"
                " label"
            )
            wrong.append(
                Finding(
                    ERROR,
                    f"the phrase “{plan.label}” is required (!) but blank",
                    remedy,
                    plan.label,
                    code="phrase-needed",
                )
            )
        if not wrong and all(line is None for line in lines):
            wrong.append(
                Finding(
                    ERROR,
                    "no slot is filled, so the prompt would be empty",
                    self.slots_said,
                    code="nothing-filled",
                )
            )
        if wrong:
            raise BadFills(wrong)


def compiled(
    formula: Formula,
    profile: Profile,
    vocabulary: Vocabulary,
    manner: Manner,
    forward: bool = False,
) -> Compiled:
    """Compile a formula for a model. `forward` brings what must stay to the front, as far as the
    formula allows it.
    """
    rules = formula.slots
    position = {rule.name: i for i, rule in enumerate(rules)}
    phrases, silent = arranged(formula, profile, forward)
    style = HouseStyle(profile, {**formula.head.stress, **manner.stress})
    surroundings = Surroundings(
        formula, profile, manner.parameters, manner.references, manner.known, manner.controlled
    )
    register = register_for(profile, style)
    if profile.register == "tags":
        register.traits = _traits(rules, vocabulary)
    if profile.register == "timed":
        register.seconds, register.lengths = _seconds(surroundings, formula, manner), manner.lengths
    ready = _phrases(phrases, rules, position, formula.head.only_if)
    silent_plans = tuple(plan_phrase(p) for p in silent)
    negative = NegativeWriter(formula.negatives, profile)
    return Compiled(
        formula,
        profile,
        vocabulary,
        manner,
        rules,
        position,
        ready,
        silent_plans,
        style,
        register,
        surroundings,
        negative,
    )


def _phrases(
    phrases: Sequence[Phrase],
    rules: Sequence[SlotRule],
    position: Mapping[str, int],
    only_if: Mapping[str, Condition],
) -> tuple[CompiledPhrase, ...]:
    named = {rule.name: rule for rule in rules}
    plans = [plan_phrase(p) for p in phrases]
    waits = [
        when if (when := only_if.get(p.label)) and when.slot in position else None for p in phrases
    ]
    slots = [
        dict.fromkeys((*plan.slots, *((when.slot,) if when else ())))
        for plan, when in zip(plans, waits, strict=True)
    ]
    positions = [tuple(position[name] for name in names) for names in slots]
    found = []
    for i, (phrase, plan, own) in enumerate(zip(phrases, plans, positions, strict=True)):
        follower = phrases[i + 1] if i + 1 < len(phrases) and phrases[i + 1].joined else None
        with_next = own + (positions[i + 1] if follower else ())
        found.append(
            CompiledPhrase(
                phrase,
                plan,
                sound_of(phrase, named),
                own,
                follower,
                _key(own),
                _key(with_next),
                waits[i],
            )
        )
    return tuple(found)


def _key(positions: Sequence[int]) -> Key:
    return itemgetter(*positions) if positions else None


def _traits(rules: Sequence[SlotRule], vocabulary: Vocabulary) -> dict[str, Traits]:
    """What completes a bare term, by slot."""
    own = {
        rule.name: (
            Traits(rule.tag, stuff=True) if rule.tag else vocabulary.traits.get(rule.facet, PLAIN)
        )
        for rule in rules
    }
    return {slot: one for slot, one in own.items() if one.noun}


def _seconds(surroundings: Surroundings, formula: Formula, manner: Manner) -> float | None:
    """How long the clip is, if that is a number, as the model will have it."""
    settled = surroundings.around({}, ()).values
    value = settled.get(
        "seconds", manner.parameters.get("seconds", formula.head.parameters.get("seconds"))
    )
    try:
        return float(value) if isinstance(value, int | float | str) else None
    except ValueError:
        return None
