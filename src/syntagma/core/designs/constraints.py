"""Rules of a person's for what may go together, in a notation that reads as English:

    never candlelight with #day
    never linocut or woodcut with candy pastels with noon sun
    if medium is linocut and light is #night then palette is ink blue or tar black
    if weather is #rough then light is not hard noon sun
    only sodium quay lamps with wet quay or slack-water harbour

A choice is a level of an axis (or what is fixed), by its name or by a #tag of its term; in
quotation marks where its name holds a word of the notation. Rules become sets of (axis, level) that
no row may hold together.
"""

from collections.abc import Iterator, Mapping, Sequence
from itertools import product
from typing import NamedTuple

from syntagma.core.designs.level_rows import Literal, Space
from syntagma.core.diagnostics import Mistake, WrongValue, perhaps
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import normal

FIXED = -1  # the axis of what is the same in all rows
_WORDS = regex(r'"[^"]*"|\S+')
_HOW = "write “never A with B”, “if AXIS is A then AXIS is B or C”, or “only A with B or C”"


class Named(NamedTuple):
    """What rules can speak of: for each axis its name and for each level its names and #tags; and
    the same for what is fixed.
    """

    axes: Sequence[str]
    levels: Sequence[Sequence[frozenset[str]]]
    fixed: Mapping[str, frozenset[str]] = {}


class Rule(NamedTuple):
    """One rule: its words, and what no row may hold together because of it."""

    text: str
    nogoods: tuple[frozenset[Literal], ...]


def read_rules(lines: Sequence[str], named: Named, source: str) -> tuple[list[Rule], list[Mistake]]:
    """Read rules, one per line; blank lines and those that begin with # and a space say nothing."""
    rules, mistakes = [], []
    for number, line in enumerate(lines, 1):
        text = line.strip()
        if not text or text == "#" or text.startswith("# "):
            continue
        try:
            rules.append(Rule(text, tuple(dict.fromkeys(_RuleReader(text, named).read()))))
        except _Wrong as wrong:
            mistakes.append(Mistake(str(wrong), wrong.remedy, source, number, 1, text, len(text)))
    return rules, mistakes


class _Wrong(WrongValue):
    """A rule that can't be read."""


class _RuleReader:
    """Reads one rule. Raises _Wrong."""

    def __init__(self, text: str, named: Named):
        self.named = named
        self.words = _WORDS.findall(text)
        self.at = 0

    def read(self) -> Iterator[frozenset[Literal]]:
        kind = self._next().lower()
        if kind == "never":
            return self._never()
        if kind == "if":
            return self._if()
        if kind == "only":
            return self._only()
        raise _Wrong(f"a rule can't begin with “{kind}”", _HOW)

    def _next(self) -> str:
        if self.at >= len(self.words):
            raise _Wrong("the rule ends too soon", _HOW)
        self.at += 1
        return self.words[self.at - 1]

    def _phrase(self, stops: Sequence[str]) -> tuple[str, str]:
        """Words up to one of the stops, and the stop; quoted words are never a stop."""
        found: list[str] = []
        while self.at < len(self.words):
            word = self._next()
            if word.lower() in stops:
                if not found:
                    raise _Wrong(f"nothing comes before “{word}”", _HOW)
                return " ".join(found), word.lower()
            found.append(word.strip('"') if word.startswith('"') else word)
        if not found:
            raise _Wrong("the rule ends too soon", _HOW)
        return " ".join(found), ""

    def _choices(self, stops: Sequence[str]) -> tuple[list[Literal], str]:
        """Several choices with “or” between, and the stop behind them."""
        found: list[Literal] = []
        while True:
            name, stop = self._phrase(("or", *stops))
            found += self._named(name)
            if stop != "or":
                return found, stop

    def _named(self, name: str, axis: str = "") -> list[Literal]:
        """The levels that a name or #tag means, on one axis or on any."""
        wanted = normal(name)
        found: list[Literal] = []
        for i, (label, levels) in enumerate(zip(self.named.axes, self.named.levels, strict=True)):
            if not axis or normal(label) == normal(axis):
                found += [(i, j) for j, names in enumerate(levels) if wanted in names]
        for label, names in self.named.fixed.items():
            if (not axis or normal(label) == normal(axis)) and wanted in names:
                found.append((FIXED, 0))
        if not found and not wanted.startswith("#"):
            known = {n for levels in self.named.levels for names in levels for n in names} | {
                n for names in self.named.fixed.values() for n in names
            }
            raise _Wrong(
                f"no varied or fixed choice is called “{name}”",
                perhaps(wanted, known, "name a level of an axis, or a #tag"),
            )
        return found

    def _never(self) -> Iterator[frozenset[Literal]]:
        sides = []
        stop = "with"
        while stop == "with":
            side, stop = self._choices(("with",))
            sides.append(side)
        yield from _nogoods(sides)

    def _only(self) -> Iterator[frozenset[Literal]]:
        """The first goes with nothing on the others' axes but the others."""
        first, stop = self._choices(("with",))
        if stop != "with":
            raise _Wrong("“only” needs a “with”", _HOW)
        allowed, _ = self._choices(())
        for axis in sorted({a for a, _ in allowed}):
            others = self._others(axis, {v for a, v in allowed if a == axis})
            yield from _nogoods([[f for f in first if f[0] != axis], others])

    def _if(self) -> Iterator[frozenset[Literal]]:
        sides = []
        stop = "and"
        while stop == "and":
            yes, _, stop = self._condition(("and", "then"))
            sides.append(yes)
        if stop != "then":
            raise _Wrong("“if” says what follows", _HOW)
        _, no, _ = self._condition(())
        yield from _nogoods([*sides, no])

    def _condition(self, stops: Sequence[str]) -> tuple[list[Literal], list[Literal], str]:
        """AXIS is A or B: the levels for which it holds, those for which it does not, and
        the stop.
        """
        axis, _ = self._phrase(("is",))
        labels = [normal(label) for label in (*self.named.axes, *self.named.fixed)]
        if normal(axis) not in labels:
            raise _Wrong(
                f"no axis is called “{axis}”",
                perhaps(
                    axis,
                    [*self.named.axes, *self.named.fixed],
                    f"the axes are {', '.join(self.named.axes)}",
                ),
            )
        negated = self.at < len(self.words) and self.words[self.at].lower() == "not"
        self.at += negated
        found: list[Literal] = []
        stop = "or"
        while stop == "or":
            name, stop = self._phrase(("or", *stops))
            found += self._named(name, axis)
        at = labels.index(normal(axis))
        if at >= len(self.named.axes):  # what is fixed is so, or not
            every = [(FIXED, 0)]
            holds, fails = (every, []) if found else ([], every)
        else:
            holds = [f for f in found if f[0] == at]
            fails = self._others(at, {v for _, v in holds})
        return (fails, holds, stop) if negated else (holds, fails, stop)

    def _others(self, axis: int, levels: set[int]) -> list[Literal]:
        if axis == FIXED:
            return []
        return [(axis, v) for v in range(len(self.named.levels[axis])) if v not in levels]


def _nogoods(sides: Sequence[Sequence[Literal]]) -> Iterator[frozenset[Literal]]:
    """One of each side together, where they stand on different axes; what is fixed is
    always there.
    """
    for together in product(*sides):
        literals = frozenset(literal for literal in together if literal[0] != FIXED)
        if len({axis for axis, _ in literals}) == len(literals):
            yield literals


def cause(levels: Sequence[int], rules: Sequence[Rule]) -> list[Rule]:
    """The smallest set of rules found that together leave no row; nothing where some row is left.
    Rule after rule is left out for good where the contradiction exists without it.
    """
    if _has_row(levels, rules):
        return []
    kept = list(rules)
    for rule in rules:
        without = [r for r in kept if r is not rule]
        if not _has_row(levels, without):
            kept = without
    return kept


def _has_row(levels: Sequence[int], rules: Sequence[Rule]) -> bool:
    nogoods = tuple(n for rule in rules for n in rule.nogoods)
    return (
        frozenset() not in nogoods
        and Space(tuple(levels), nogoods).index().completes({}) is not None
    )
