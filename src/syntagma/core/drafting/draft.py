"""A formula and its fills make a draft: what survives of each phrase, as terms and glue, not yet as
text.
"""

import re
from collections.abc import Mapping
from typing import NamedTuple

from syntagma.core.drafting.fills import Fill
from syntagma.core.english import ends_sentence
from syntagma.core.formula.phrase_body import hanging_word
from syntagma.core.formula.tree import FixedText, Group, Node, Option, Phrase

# ──── A formula and its fills make a draft: what survives of each phrase, as terms and glue, not
# yet as text.
#
# Formulas are planned once (plan_phrase); laying a plan out with fills is what happens for every
# prompt.


_LEAD = r"^(?:\s*[,;:.!?]+)+\s*"
_LEAD_AFTER_LOSS = r"^(?:\s*[,;:.!?–—&/+-]+(?=\s|$)|\s*[,;:.!?]+|\s*\b(?:of|and|or)\b(?=\s|$))+\s*"
PAIRS = {"(": ")", "“": "”", "«": "»", '"': '"'}


class Glue(NamedTuple):
    """Fixed words of the formula."""

    text: str


class PairMark(NamedTuple):
    """A quotation mark or bracket that comes and goes with its partner: it stays while one of
    `slots` is filled.
    """

    text: str
    opening: bool
    slots: frozenset[str]


class Branch(NamedTuple):
    """An optional part: all of it, or nothing."""

    tokens: tuple["Token", ...]
    heads: tuple[str, ...]


Token = Glue | PairMark | Group | Branch


class PhrasePlan(NamedTuple):
    """A phrase made ready: its glue cut at quotation marks, its end mark apart."""

    label: str
    mark: str
    joined: bool
    tokens: tuple[Token, ...]
    end: str  # the mark that the phrase ends in: . ! ? ; : or ""
    slots: tuple[str, ...]
    hanging: bool  # fixed words that lean on the next line


class Noun(NamedTuple):
    """A noun group with what fills it; blank modifiers are left out."""

    group: Group
    fills: Mapping[str, Fill]


class DraftPhrase(NamedTuple):
    """A phrase that survived: glue, marks and nouns in order. `closed`: its last slot was filled
    (or it has none); `whole`: it is written as one, glue and all, in every register.
    """

    plan: PhrasePlan
    parts: tuple[Glue | PairMark | Noun, ...]
    closed: bool
    whole: bool = False


def plan_phrase(phrase: Phrase) -> PhrasePlan:
    """Make a phrase ready for laying out."""
    body, end = _split_end(phrase.body)
    tokens = _tokens(body)
    fixed = not phrase.slots
    text = "".join(t.text for t in tokens if isinstance(t, Glue)) + end if fixed else ""
    return PhrasePlan(
        phrase.label,
        phrase.mark,
        phrase.joined,
        tokens,
        end,
        phrase.slots,
        bool(text and phrase.ending != "," and hanging_word(text)),
    )


def _split_end(body: tuple[Node, ...]) -> tuple[tuple[Node, ...], str]:
    last = body[-1] if body else None
    if not isinstance(last, FixedText):
        return body, ""
    rest = last.raw.rstrip(".!?…")
    if rest == last.raw:
        rest = last.raw[:-1] if last.raw[-1:] in (";", ":", ",") else last.raw
    end = last.raw[len(rest) :]
    if not end or rest.endswith("\\") or (end == "." and rest and not ends_sentence(last.raw)):
        return body, ""
    return (*body[:-1], FixedText(rest, last.span)) if rest else body[:-1], end


class _Char(NamedTuple):
    """One character of glue."""

    sign: str
    escaped: bool


def _tokens(nodes: tuple[Node, ...]) -> tuple[Token, ...]:
    """Cut glue at the quotation marks and brackets that stand round slots."""
    atoms: list[_Char | Group | Branch] = []
    for node in nodes:
        match node:
            case Group():
                atoms.append(node)
            case Option():
                heads = tuple(dict.fromkeys(g.head for g in node.children if isinstance(g, Group)))
                atoms.append(Branch(_tokens(node.children), heads))
            case FixedText():
                atoms += [_Char(m[-1], len(m) > 1) for m in re.findall(r"\\.|.", node.raw, re.S)]
    partners = _partners(atoms)
    tokens: list[Token] = []
    for i, atom in enumerate(atoms):
        if not isinstance(atom, _Char):
            tokens.append(atom)
        elif i in partners:
            tokens.append(
                PairMark(
                    atom.sign, partners[i] > i, _slots_between(atoms, *sorted((i, partners[i])))
                )
            )
        elif tokens and isinstance(tokens[-1], Glue):
            tokens[-1] = Glue(tokens[-1].text + atom.sign)
        else:
            tokens.append(Glue(atom.sign))
    return tuple(tokens)


def _partners(atoms: list) -> dict[int, int]:
    """Which mark belongs to which, both ways, for the pairs with a slot between them."""
    partners: dict[int, int] = {}
    open_: list[int] = []
    for i, atom in enumerate(atoms):
        if not isinstance(atom, _Char) or atom.escaped:
            continue
        char = atom.sign
        if open_ and PAIRS[atoms[open_[-1]].sign] == char:
            start = open_.pop()
            if _slots_between(atoms, start, i):
                partners |= {start: i, i: start}
        elif char in PAIRS:
            open_.append(i)
    return partners


def _slots_between(atoms: list, start: int, stop: int) -> frozenset[str]:
    inside = [a for a in atoms[start:stop] if isinstance(a, Group | Branch)]
    return frozenset(
        name for a in inside for name in ((a.head,) if isinstance(a, Group) else a.heads)
    )


def lay_out(plan: PhrasePlan, fills: Mapping[str, Fill | None]) -> DraftPhrase | None:
    """What survives of a phrase with these fills; None if every slot of it is blank."""
    if not plan.slots:
        return DraftPhrase(
            plan, tuple(t for t in plan.tokens if isinstance(t, Glue | PairMark)), True
        )
    layout = _Layout(fills)
    layout.run(plan.tokens)
    if not layout.survived:
        return None
    return DraftPhrase(plan, tuple(layout.parts), layout.kept)


class _Layout:
    """Glue waits until what it leads to is known to survive: a blank slot takes the glue before it
    away.
    """

    def __init__(self, fills: Mapping[str, Fill | None]):
        self.fills = fills
        self.parts: list[Glue | PairMark | Noun] = []
        self.waiting: list[Glue | PairMark] = []
        self.survived = False
        self.lost = False  # something has gone before the first survivor
        self.kept = True  # the last slot so far was filled
        self.cut = False  # a branch went behind glue that waits

    def run(self, tokens: tuple[Token, ...]) -> None:
        for token in tokens:
            match token:
                case Glue():
                    self.waiting.append(self._after_loss(token))
                case PairMark():
                    if any(self.fills.get(name) for name in token.slots):
                        self.waiting.append(token)
                case Group():
                    self._group(token)
                case Branch():
                    if all(self.fills.get(name) for name in token.heads):
                        self._take(self._branch(token))
                    elif self.survived:
                        self.cut = True
                    else:
                        self.lost = True
        self._trail()

    def _group(self, group: Group) -> None:
        filled = {name: fill for name in group.slots if (fill := self.fills.get(name))}
        if group.head in filled:
            self._take([Noun(group, filled)])
        else:
            marks = [i for i, w in enumerate(self.waiting) if isinstance(w, PairMark)]
            self.waiting = (
                self.waiting[: marks[-1] + 1] if marks else []
            )  # what leads to a pair that stays, stays
            if self.parts and isinstance(self.parts[-1], Glue):  # a branch that led here
                self.parts[-1] = Glue(without_hanging(self.parts[-1].text))
            self.kept = self.cut = False
            self.lost = True

    def _after_loss(self, glue: Glue) -> Glue:
        """Glue behind an opening mark and something that went: it leads now, and drops what a first
        survivor drops.
        """
        inside = (
            self.waiting and isinstance(self.waiting[-1], PairMark) and self.waiting[-1].opening
        )
        return (
            Glue(re.sub(_LEAD_AFTER_LOSS, "", glue.text, flags=re.I).lstrip())
            if inside and self.lost
            else glue
        )

    def _branch(self, branch: Branch) -> list:
        inner = _Layout(self.fills)
        inner.survived = True  # what it begins with is judged by what comes before the brace
        inner.run(branch.tokens)
        return inner.parts

    def _take(self, parts: list) -> None:
        self.parts += self.waiting
        self.parts += parts
        if not self.survived and self.parts:
            self.parts = _without_lead(self.parts, self.lost)
        self.waiting = []
        self.survived = self.kept = True
        self.cut = False

    def _trail(self) -> None:
        """Text that follows the last slot belongs to it."""
        if not self.kept:
            self.waiting = [w for w in self.waiting if isinstance(w, PairMark)]
        elif self.cut:
            self.waiting = [
                Glue(without_hanging(w.text)) if isinstance(w, Glue) else w for w in self.waiting
            ]
        self.parts += self.waiting


def _without_lead(parts: list, lost: bool) -> list:
    """The first survivor drops punctuation that leads it, and "of", "and", "or" when something went
    before it.
    """
    first = parts[0]
    if not isinstance(first, Glue):
        return parts
    text = re.sub(_LEAD_AFTER_LOSS if lost else _LEAD, "", first.text, flags=re.I).lstrip()
    return [Glue(text), *parts[1:]] if text else parts[1:]


def without_hanging(text: str) -> str:
    """Text without the words at its end that lead on: "a lamp on the" is "a lamp"."""
    while True:
        text = text.rstrip().rstrip(",;:–—").rstrip()
        word = hanging_word(text)
        if not word:
            return text
        text = text[: -len(word)]
