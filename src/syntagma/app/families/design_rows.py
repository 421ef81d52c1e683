"""What a family's design comes down to: rules on its axes, rows of levels, and why nothing is left where nothing is."""

from collections.abc import Iterator, Sequence
from itertools import chain, combinations, islice
from typing import TYPE_CHECKING

from syntagma.app.composing.picks import TRIES
from syntagma.core.designs.axes import Level, Together, terms_of
from syntagma.core.designs.constraints import Named, Rule, cause, read_rules
from syntagma.core.diagnostics.places import Refused
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.vocabulary.terms import normal
from syntagma.storage.trouble import Trouble

if TYPE_CHECKING:
    from syntagma.app.families.family import Family


def rules_of(family: "Family") -> list[Rule]:
    """The person's rules, on the levels of the axes and on what is fixed. Raises Refused."""
    if not family.wish.rules:
        return []
    varied = {family.writer.position[slot] for axis in family.axes for slot in axis.slots}
    fixed = {
        rule.name: _names(fill)
        for i, (rule, fill) in enumerate(zip(family.writer.rules, family.fills, strict=True))
        if fill and i not in varied
    }
    named = Named([a.slot for a in family.axes], [[_names(level) for level in a.levels] for a in family.axes], fixed)
    rules, mistakes = read_rules(family.wish.rules, named)
    if mistakes:
        raise Refused(mistakes)
    return rules


def contradiction(family: "Family") -> Trouble | None:
    """Why no combination at all may stand, by the smallest set of rules and contradictions that causes it."""
    if not family.axes or not family.clashes:
        return None
    if family.design == "single":
        return _broken_baseline(family)
    words = [Rule(said(family, nogood), (nogood,)) for nogood in family.clashes.by_words]
    found = cause([len(a.levels) for a in family.axes], [*family.rules, *words])
    if not found:
        return None
    return Trouble("no combination is left: " + "; ".join(rule.text for rule in found), "take one of these back, or add a level", 1)


def rule_against(family: "Family", combination: Sequence[Level]) -> str:
    """The rule of the person's that a combination breaks, as they wrote it."""
    at = [axis.levels.index(level) for axis, level in zip(family.axes, combination, strict=True)]
    broken = (r.text for r in family.rules if any(all(at[axis] == v for axis, v in nogood) for nogood in r.nogoods))
    return next(broken, "a rule forbids it")


def _broken_baseline(family: "Family") -> Trouble | None:
    """Why the baseline of a single design may not stand, where a rule of the person's forbids it."""
    for rule in family.rules:
        if any(all(level == 0 for _, level in nogood) for nogood in rule.nogoods):
            remedy = "name another choice first in its --vary, or take the rule back"
            return Trouble(f"the baseline breaks a rule: {rule.text}", remedy, 2)
    return None


def said(family: "Family", nogood) -> str:
    return " does not go with ".join(f"“{family.axes[a].label(v)}”" for a, v in sorted(nogood)) + (
        " what is fixed" if len(nogood) == 1 else ""
    )


def rows_of(family: "Family") -> Iterator[Sequence[int]]:
    """The rows of a design that is found or drawn, as level numbers."""
    wish, space = family.wish, family.clashes.space()
    if family.design == "ladder":
        from syntagma.core.designs.random_rows import ladder

        return iter([(v,) for v in ladder(len(family.axes[0].levels), wish.count)])
    from syntagma.core.designs.random_rows import drawn

    if family.design == "random":
        rows = drawn(
            space, [[2.0 ** sum(t.star for t in terms_of(level)) for level in a.levels] for a in family.axes], family.random
        )
        return islice(rows, TRIES * wish.count)
    if family.design == "cover":
        return iter(_whole_again(family, space))
    weights = [[1.0] * levels for levels in space.levels]
    rows = _whole_again(family, space)
    more = islice(drawn(space, weights, family.random), TRIES * wish.count)  # in place of members that are twins or too near
    return chain(rows, _fresh(more, rows))


def _fresh(rows: Iterator[tuple[int, ...]], before: Sequence[Sequence[int]]) -> Iterator[tuple[int, ...]]:
    """Those rows that were not there before."""
    seen = set(map(tuple, before))
    for row in rows:
        if row not in seen:
            seen.add(row)
            yield row


def _whole_again(family: "Family", space) -> list[list[int]]:
    """The rows of a design that is searched for; behind them others, in place of members that are struck."""
    wish = family.wish
    rows = _found(family, space, ())
    if wish.refill and wish.without:
        left = [row for number, row in enumerate(rows, 1) if number not in wish.without]
        struck = tuple(frozenset(enumerate(row)) for number, row in enumerate(rows, 1) if number in wish.without)
        again = space._replace(nogoods=(*space.nogoods, *struck))  # what is struck does not come back
        rows += _found(family, again, left)[len(left) :]
    return rows


def _found(family: "Family", space, fixed: Sequence[Sequence[int]]) -> list[list[int]]:
    """The rows of a design that is searched for: those in `fixed`, and others behind them that make it whole again."""
    wish, random = family.wish, family.random
    if family.design == "spread":
        from syntagma.core.designs.spread import spread

        return spread(space, wish.count, random, wish.effort, fixed).tolist()
    if family.design == "mixed":
        from syntagma.core.designs.mixed import mixed

        found = mixed(space, wish.count, interest(family), random, wish.effort, fixed)
        family.efficiency = found.efficiency
        return found.rows.tolist()
    from syntagma.core.designs.cover import cover
    from syntagma.core.designs.level_rows import greedy

    groups = groups_of(family)
    if fixed:
        return greedy(space, min(wish.strength, len(family.axes)), random, fixed, groups)
    return cover(space, wish.strength, wish.effort, random, groups).tolist()


def groups_of(family: "Family") -> list[tuple[int, ...]]:
    """The groups of axes that a cover holds at a strength of their own, written 3:light+medium+lens. Raises Trouble."""
    at = {axis.slot: i for i, axis in enumerate(family.axes)}
    found: list[tuple[int, ...]] = []
    for word in family.wish.groups:
        number, _, names = word.partition(":")
        axes = names.split("+")
        for name in axes:
            if name not in at:
                raise Trouble(f"“{name}” is no axis", perhaps(name, at, f"the axes are {', '.join(at)}"), 2)
        if not number.isdigit() or not 2 <= int(number) <= len(axes):
            raise Trouble(f"“{word}” is no strength of a group", "write 3:light+medium+lens", 2)
        found += combinations(sorted(at[name] for name in axes), int(number))
    return list(dict.fromkeys(found))


def interest(family: "Family"):
    """What a mixed design is to tell about: axes, and pairs of them written light*lens; all axes where nothing is said."""
    from syntagma.core.designs.mixed import Model

    at = {axis.slot: i for i, axis in enumerate(family.axes)}
    mains, pairs = set(), []
    for word in family.wish.interest or at:
        names = [part.strip() for part in word.split("*")]
        for name in names:
            if name not in at:
                raise Trouble(f"“{name}” is no axis", perhaps(name, at, f"the axes are {', '.join(at)}"), 2)
        mains |= {at[name] for name in names}
        if len(names) == 2:
            pairs.append((at[names[0]], at[names[1]]))
    return Model(tuple(sorted(mains)), tuple(dict.fromkeys(pairs)))


def _names(level: Level) -> frozenset[str]:
    """The names by which rules know a level: as it is shown, its terms, their #tags; a blank is called blank."""
    if level is None:
        return frozenset({"blank"})
    names = {normal(level.shown)}
    if isinstance(level, Together):
        names |= {normal(fill.shown) for fill in level.fills if fill}
    for term in terms_of(level):
        names |= {normal(term.term), *(normal(name) for name in term.aka), *(f"#{tag}" for tag in term.tags)}
    return frozenset(names)


class Apart:
    """Keeps texts that are far enough from all before them: the share of words that only one of two has (Jaccard's distance)."""

    def __init__(self, least: float):
        self._least, self._kept, self.near = least, [], 0

    def new(self, text: str) -> bool:
        words = frozenset(text.lower().split())
        far = all(1 - len(words & other) / len(words | other) >= self._least for other in self._kept)
        if far:
            self._kept.append(words)
        self.near += not far
        return far
