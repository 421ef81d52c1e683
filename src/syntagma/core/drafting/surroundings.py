"""What surrounds the text of a prompt on one model: opening and closing words, references, negative
text, parameters.

Surroundings are made once for a writer; `around` gives, for the fills of one prompt, what comes
before and after its text, its parameters, its references, and the negative text that has a field of
its own.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, way
from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import Formula, SlotRule
from syntagma.core.models.parameters import settle, shown, spelled
from syntagma.core.models.patterns import written
from syntagma.core.models.profile import Menu, Profile, Value
from syntagma.core.models.references import (
    KnownReference,
    Reference,
    reference_for,
    reference_of,
    standing,
    taken,
)


class Around(NamedTuple):
    """What surrounds one prompt. `before` and `behind` belong to the words of the text; `after` is
    what follows them and is not part of them (parameters, references); `front` comes before
    everything.
    """

    front: str = ""
    before: str = ""
    behind: str = ""
    after: str = ""
    negative: str = ""
    values: Mapping[str, Value] = {}
    references: tuple[Reference, ...] = ()
    findings: tuple[Finding, ...] = ()


class Surroundings:
    """Finds what surrounds the prompts of one formula for one model. `asked` are the person's
    parameters, `references` theirs too; `known` those who can be called by name; `controlled`: the
    prompt belongs to a family in which nothing else may change.
    """

    def __init__(
        self,
        formula: Formula,
        profile: Profile,
        asked: Mapping[str, object] = {},
        references: Sequence[Reference] = (),
        known: Mapping[str, KnownReference] = {},
        controlled: bool = False,
    ):
        self.formula, self.profile, self.asked = formula, profile, dict(asked)
        own = (reference for word in formula.head.references if (reference := reference_of(word)))
        self.references, self.known = (*own, *references), known
        self.rules: tuple[SlotRule, ...] = formula.slots
        self.menus = {rule.name: found for rule in self.rules if (found := self._menus(rule.facet))}
        self.standing: list[Finding] = []  # the messages whatever is filled
        if profile.rewriting and profile.rewriting.happens:
            self._rewriting(controlled)
        if profile.silent and (asked.get("sound") in (True, "true", "on")):
            self.standing.append(
                Finding(
                    ERROR,
                    f"{profile.name} makes no sound",
                    "leave sound out, or choose another model",
                    "sound",
                    code="no-sound",
                )
            )
        self._varies = bool(self.menus or profile.negative.way != "field" or known)
        self._same: dict[tuple, Around] = {}

    def _menus(self, facet: str) -> list[Menu]:
        return [menu for menu in self.profile.menu.values() if facet and menu.facet == facet]

    def _rewriting(self, controlled: bool) -> None:
        off = self.profile.rewriting.off if self.profile.rewriting else {}
        if controlled and off:
            for name, value in off.items():
                self.asked.setdefault(name, value)
        elif controlled or not off:
            message = (
                f"{self.profile.name} rewrites prompts by itself; no parameter switches that off"
            )
            kind = WARNING if controlled else REMARK
            self.standing.append(
                Finding(
                    kind,
                    message,
                    "compare results with care: more may differ than you varied",
                    "rewriting",
                    code="rewrites",
                )
            )
        elif not set(off) & set(self.asked):
            settings = " ".join(
                way("parameter", name=name, value=shown(value)) for name, value in off.items()
            )
            message = f"{self.profile.name} rewrites prompts by itself"
            self.standing.append(
                Finding(
                    REMARK,
                    message,
                    f"write {settings} to keep yours unchanged",
                    "rewriting",
                    code="rewrites",
                )
            )

    def hidden(self, slot: str, fill: Fill | None) -> bool:
        """Does this fill set a menu of the model's and leave the text?"""
        menus = self.menus.get(slot)
        if not menus or fill is None or len(fill.items) != 1:
            return False
        return any(menu.text == "leaves" and self._choice(menu, fill) is not None for menu in menus)

    @staticmethod
    def _choice(menu: Menu, fill: Fill) -> Value | None:
        """What a menu has for a fill: by its term, or by one of the term's tags (#night)."""
        term = fill.items[0].term
        name = term.term if term else fill.items[0].tag
        if name in menu.terms:
            return menu.terms[name]
        tags = term.tags if term else ()
        return next((menu.terms[f"#{tag}"] for tag in tags if f"#{tag}" in menu.terms), None)

    def around(self, fills: Mapping[str, Fill | None], negative: Sequence[str]) -> Around:
        """What surrounds the prompt with these fills, kept while they are the same."""
        key = (
            tuple(negative),
            tuple(fills.get(slot) for slot in self.menus),
            tuple(f for f in fills.values() if f and self._called(f)),
        )
        if key not in self._same:
            if len(self._same) >= 4096:
                self._same.clear()
            self._same[key] = self._around(fills, negative)
        return self._same[key]

    def _called(self, fill: Fill) -> str:
        """The name of someone known, where a fill calls one."""
        return (
            fill.given[1:]
            if isinstance(fill.given, str)
            and fill.given.startswith("@")
            and fill.given[1:] in self.known
            else ""
        )

    def _around(self, fills: Mapping[str, Fill | None], negative: Sequence[str]) -> Around:
        profile, found = self.profile, list(self.standing)
        chosen: dict[str, Value] = {}
        for slot, menus in self.menus.items():
            fill = fills.get(slot)
            if not fill or len(fill.items) != 1:
                continue
            for menu in menus:
                if (value := self._choice(menu, fill)) is not None:
                    chosen[menu.parameter] = value
        asked = dict(self.asked)
        way = profile.negative
        line = way.separator.join(negative)
        if way.way == "parameter" and line:
            asked[way.parameter] = line
        settled = settle(
            profile, {} if not profile.parameter else self.formula.head.parameters, asked, chosen
        )
        found += settled.findings
        references, noted = taken(
            profile, [*self._known_references(fills, found), *self.references]
        )
        found += noted
        after = " ".join(
            filter(
                None,
                (
                    standing(references, profile, "after"),
                    spelled(profile, settled.values).strip(" "),
                ),
            )
        )
        spaced = (
            profile.parameters.before
            if spelled(profile, settled.values) and not standing(references, profile, "after")
            else " "
        )
        front = standing(references, profile, "front")
        return Around(
            front + " " if front else "",
            _lead(profile.text.opening),
            _follow(profile.text.closing, profile) + self._folded(line, negative),
            (spaced if after else "") + after,
            line if way.way == "field" else "",
            settled.values,
            tuple(references),
            tuple(found),
        )

    def _known_references(
        self, fills: Mapping[str, Fill | None], found: list[Finding]
    ) -> list[Reference]:
        references = []
        for slot, fill in fills.items():
            name = self._called(fill) if fill else ""
            if not name:
                continue
            known = self.known[name]
            rule = self.profile.reference.get(known.role)
            reference = reference_for(known, self.profile)
            if reference:
                references.append(reference)
            elif rule:
                message = (
                    f"{known.name} has no {' and no '.join(rule.kinds)} for {self.profile.name}, so"
                    " words describe it"
                )
                found.append(
                    Finding(
                        REMARK,
                        message,
                        f"give it one in known.toml: [{name}]",
                        slot,
                        code="known-in-words",
                    )
                )
        return references

    def _folded(self, line: str, negative: Sequence[str]) -> str:
        """Negative text within the text: inline by a pattern, or as a sentence of its own."""
        way = self.profile.negative
        if way.way == "inline" and line:
            return _follow(written(way.pattern, {"negative": line}), self.profile)
        if way.way == "folded" and line:
            listed = (
                negative[0]
                if len(negative) == 1
                else f"{', '.join(negative[:-1])} or {negative[-1]}"
            )
            pattern = way.pattern if way.pattern != "{negative}" else "Without {negative}."
            return _follow(written(pattern, {"negative": listed}), self.profile)
        return ""


def _lead(opening: str) -> str:
    return opening if not opening or opening[-1].isspace() else opening + " "


def _follow(closing: str, profile: Profile) -> str:
    """Closing words with what leads to them: the separator of tags, a space of everything else."""
    if not closing or closing[0].isspace() or closing[0] in ",;.":
        return closing
    return (
        profile.text.separator or ", "
        if profile.register == "tags"
        else "\n"
        if profile.register in ("labelled", "timed")
        else " "
    ) + closing
