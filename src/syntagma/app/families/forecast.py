"""The findings on a family before anything of it is written: levels that can't come, and why; fewer
members than were asked for; what would take more time or memory than there is.
"""

from itertools import combinations, islice, product
from math import comb, prod
from typing import Any, NamedTuple

from syntagma.app.families.compiled import CompiledFamily
from syntagma.app.families.variants import Variants, interest
from syntagma.core.designs import full
from syntagma.core.designs.axes import terms_of
from syntagma.core.diagnostics import Trouble
from syntagma.core.vocabulary.terms import why_clash
from syntagma.storage.files import size_in_words

# ──── The findings on a family before anything of it is written: levels that can't come, and why;
# fewer members than were asked for; what would take more time or memory than there is.


COUNTED = 100_000  # combinations up to which those that are possible are counted one by one
MEMORY = 1.5e9  # bytes that a design may take
SECONDS = 900  # that a design may be searched for
BLOCK = 256  # members written to estimate a family
TUPLES = 3_000_000  # pairs (triples …) that a cover may hold


LONG = 200_000  # members of a family whose time and size are estimated in advance


def estimate(family: CompiledFamily, members: int, path: str) -> str:
    """About how long a family takes to write, and how large its file becomes, by its first
    members.
    """
    from time import perf_counter

    first, began = list(islice(full(family.axes), BLOCK)) if family.axes else [], perf_counter()
    prompts = Variants(family).write_all(first)[0] if first else []
    each = (perf_counter() - began) / max(1, len(first))
    size = sum(len(p.text.encode()) + 1 for written in prompts for p in written if p) / max(
        1, len(first)
    )
    if not path.lower().endswith(".txt"):
        each, size = (
            each + 2e-5 * len(prompts),
            size + 500 * len(prompts),
        )  # records: fills, sizes, changes
    seconds = members * each
    took = (
        f"{seconds:,.0f} seconds"
        if seconds < 120
        else f"{seconds / 60:,.0f} minutes"
        if seconds < 7200
        else f"{seconds / 3600:,.0f} hours"
    )
    return (
        f"about {members:,} members, {took} and {size_in_words(members * size)} (estimated); Ctrl-C"
        " stops, --resume continues"
    )


class Foreseen(NamedTuple):
    """What to report in advance, a line each, and how many members there will be at most (None if
    that can't be said).
    """

    lines: list[str]
    most: int | None


def foreseen(family: CompiledFamily) -> Foreseen:
    """Look ahead. Raises Trouble if what is asked for can't be obtained."""
    if not family.axes:
        return Foreseen([], None)
    lines = [*_said_twice(family), *_levels_that_can_not_come(family)]
    most, count = _possible(family), family.wish.design.count
    if family.design == "effects" and count:
        numbers = 1 + sum(len(axis.levels) - 1 for axis in family.axes)
        if count < numbers + 2:
            lines.append(
                f"{count} prompts are too few to estimate {numbers} effects and the scatter: ask"
                f" for {(numbers + 6) * family.wish.design.takes} results (--count), or vary less"
            )
    if family.design == "mixed" and count:
        model = interest(family)
        sizes = [len(axis.levels) for axis in family.axes]
        numbers = (
            1
            + sum(sizes[a] - 1 for a in model.mains)
            + sum((sizes[a] - 1) * (sizes[b] - 1) for a, b in model.pairs)
        )
        if count < numbers:
            lines.append(
                f"{count} prompts are too few for the {numbers} effects in --interest: ask for"
                f" {numbers + 4} (--count), or drop some effects"
            )
    if most is not None and count and count > most and family.design != "single":
        axes = " × ".join(str(len(axis.levels)) for axis in family.axes)
        why = (
            "the axes have no more combinations"
            f" ({axes}{'' if most == prod(len(a.levels) for a in family.axes) else ', less what contradicts'})"  # noqa: E501
        )
        lines.append(
            f"{count:,} were asked for, but at most {most:,} are possible: {why}; vary more, or ask"
            " for fewer"
        )
    _check_cost(family, min(count or most or 1, most or count or 1))
    return Foreseen(lines, most)


def _said_twice(family: CompiledFamily) -> list[str]:
    """Values that were given twice for one axis, and picks that found fewer than were asked for."""
    lines = []
    for vary, axis in zip(family.wish.vary, family.axes, strict=True):
        named = [value for value in vary.values if value != "*" and not value.startswith("#")]
        if twice := list(
            dict.fromkeys(value for i, value in enumerate(named) if value in named[:i])
        ):
            lines.append(f"{axis.slot}: “{'”, “'.join(twice)}” was given twice and counts once")
        if vary.picks and len(axis.levels) < vary.picks:
            lines.append(
                f"{axis.slot}: {vary.picks} were asked for, but only {len(axis.levels)} go with"
                " what is fixed; ask for fewer, or name them"
            )
    return lines


def _levels_that_can_not_come(family: CompiledFamily) -> list[str]:
    """A line for each level that no member can have, with the reason and what to do."""
    if not family.clashes:
        return []
    forbidding = family.clashes.space().index()
    lines = []
    for a, axis in enumerate(family.axes):
        for v, level in enumerate(axis.levels):
            if family.design == "single":
                others = {b: 0 for b in range(len(family.axes)) if b != a}
                gone = v > 0 and _forbidden(family, {**others, a: v})
            else:
                gone = not forbidding.possible([(a, v)])
            if gone:
                why, by_words = _reason(family, a, v, level)
                keep = (
                    f'; --allow "{axis.label(v)}" keeps it anyway'
                    if by_words
                    else "; drop the rule, or choose another value"
                )
                lines.append(f"{axis.slot}: “{axis.label(v)}” can't be used, because {why}{keep}")
    return lines


def _forbidden(family: CompiledFamily, row: dict[int, int]) -> bool:
    """May the levels of a row (axis → level) not go together?"""
    return any(all(row.get(a) == v for a, v in nogood) for nogood in family.clashes.nogoods)


def _reason(family: CompiledFamily, a: int, v: int, level: Any) -> tuple[str, bool]:
    """Why a level can't come, in words, and whether it is for what words contradict (or for a
    rule).
    """
    axis, nogoods = family.axes[a], family.clashes.every
    fixed = [term for fill in family.shown_fills for term in terms_of(fill)]
    if family.design == "single":
        fixed += [
            term
            for b, other in enumerate(family.axes)
            if b != a
            for term in terms_of(other.levels[0])
        ]
    for one, other in product(terms_of(level), fixed):
        if why := why_clash(one, other):
            return why, True
    agreement = family.clashes.agreement
    if agreement:
        others = (
            [
                t
                for b, o in enumerate(family.axes)
                if b != a
                for t in agreement.things(o.slots, o.levels[0])
            ]
            if family.design == "single"
            else []
        )
        if why := agreement.why([*others, *agreement.things(axis.slots, level)]):
            return why, True
    for rule in family.rules:
        if any((a, v) in nogood for nogood in rule.nogoods):
            return f"a rule says: {rule.text}", False
    for b, beside in enumerate(family.axes):
        if b != a and all(
            frozenset({(a, v), (b, w)}) in nogoods for w in range(len(beside.levels))
        ):
            return f"it fits no {beside.slot} that you named", True
    return f"nothing on the other axes of {axis.slot} goes with it", True


def _possible(family: CompiledFamily) -> int | None:
    """How many combinations there are that contradict nothing: counted if they are few, else all
    that there are.
    """
    size = prod(len(axis.levels) for axis in family.axes)
    if not family.clashes or size > COUNTED:
        return size
    return sum(
        not family.clashes.has(row) for row in product(*(axis.levels for axis in family.axes))
    )


def _check_cost(family: CompiledFamily, members: int) -> None:
    """Raises Trouble if a design would take more memory or time than there is."""
    axes = len(family.axes)
    if family.design == "spread":
        need = 3.0 * 8 * members**2
        if need > MEMORY:
            most = int((MEMORY / 24) ** 0.5) // 100 * 100
            raise Trouble(
                f"a spread of {members:,} would take {size_in_words(need)} of memory",
                f"ask for up to {most:,}, or take --design random",
                2,
            )
    elif family.design in ("mixed", "effects"):
        effects = 1 + sum(len(axis.levels) - 1 for axis in family.axes)
        seconds = (
            48 * family.wish.design.effort * members * (2e-4 * axes + 4e-9 * members * effects)
        )
        if seconds > SECONDS:
            raise Trouble(
                f"a mixed design of {members:,} would take about {seconds / 3600:,.0f} hours to"
                " search",
                "ask for fewer, or take --design random",
                2,
            )
    elif family.design == "cover":
        levels = [len(axis.levels) for axis in family.axes]
        strength = min(family.wish.design.strength, axes)
        every = (
            sum(prod(chosen) for chosen in combinations(levels, strength))
            if comb(axes, strength) < 100_000
            else TUPLES + 1
        )
        if every > TUPLES:
            what = {2: "pairs", 3: "triples"}.get(strength, f"sets of {strength}")
            raise Trouble(
                f"a cover of so many axes would hold more than {TUPLES:,} {what}",
                "vary less, or take --design spread",
                2,
            )
