"""The house style of a model: case, escapes, stress, and its negative text."""

import re
from collections.abc import Mapping, Sequence

from syntagma.core import english
from syntagma.core.diagnostics import REMARK, WARNING, Finding, way
from syntagma.core.drafting.draft import Glue, PairMark, lay_out, plan_phrase
from syntagma.core.drafting.fills import Fill
from syntagma.core.formula.tree import FixedText, Phrase
from syntagma.core.models.patterns import gentler, places, written
from syntagma.core.models.profile import Profile, Stress
from syntagma.core.notation.late_regex import regex
from syntagma.core.realising.noun_phrases import in_tags
from syntagma.core.realising.text_pieces import TextPiece, joined

# ──── The house style of a model: its case and escapes, gentler words for refused ones, weight on
# what is stressed.


_WORD = regex(
    r"(?<![^\s,;.:!?])(?<![,;.:!?](?=[,;.:!?]))(?![\"“(]*(?:an?|the)\b)\S*\w[^\s,;.:!?]*", re.I
)  # a word that carries weight


class HouseStyle:
    """Writes the pieces of a phrase as one model takes them. `stresses` are weights by slot or
    label; `findings` says what became of those that it can't write.
    """

    def __init__(self, profile: Profile, stresses: Mapping[str, float] = {}):
        text = profile.text
        self._case = {"kept": None, "lower": str.lower, "upper": str.upper}[text.case]
        self._gentler = [rule for rule in profile.refused if rule.instead is not None]
        self._replace = dict(text.replace)
        self._escape = re.compile(f"[{re.escape(text.escape)}]") if text.escape else None
        self._escape_with = text.escape_with
        self.spells = bool(self._case or self._gentler or self._replace or self._escape)
        self.findings: list[Finding] = []
        self._around = {
            name: pair
            for name, weight in stresses.items()
            if (pair := self._marks(profile, name, weight))
        }
        self._per_word = bool(profile.stress and profile.stress.per == "word")

    def _marks(self, profile: Profile, name: str, weight: float) -> tuple[str, str] | None:
        """What comes before and after words of this weight; None if they are written plainly."""
        rule = profile.stress
        if weight == 1:
            return None
        if rule is None:
            message = (
                f"{profile.name or 'no model'} has no weights, so {name} is written without one"
            )
            self.findings.append(
                Finding(
                    REMARK, message, "move it closer to the front instead", name, code="no-stress"
                )
            )
            return None
        low, high = rule.range
        kept = min(max(weight, low), high)
        if kept != weight:
            off = rule.outside == "off"
            became = "written without weight" if off else f"using {kept:g} instead"
            message = f"the weight {weight:g} of {name} is outside {low:g} to {high:g}: {became}"
            self.findings.append(
                Finding(
                    WARNING,
                    message,
                    f"write {way('stress', name=name, weight=f'{kept:g}')}",
                    name,
                    code="stress-range",
                )
            )
            if off:
                return None
        if not {"weight", "marks"} & set(places(rule.pattern)):  # on or off
            if kept < 1:
                message = f"{profile.name} can only add weight, so {name} is written without one"
                self.findings.append(
                    Finding(
                        WARNING,
                        message,
                        "leave it out, or move it after the rest",
                        name,
                        code="no-less-stress",
                    )
                )
                return None
            before, _, behind = written(rule.pattern, {"text": "\0"}).partition("\0")
            return before, behind
        steps = round((kept - 1) / rule.step)
        if steps == 0:
            return None
        before, _, behind = written(
            rule.pattern,
            {"text": "\0", "weight": _weight(1 + steps * rule.step), "marks": _row(rule, steps)},
        ).partition("\0")
        return before, behind

    def spell(self, text: str) -> str:
        """Words of the formula's or a person's as the model takes them."""
        for rule in [self._gentler] if self._gentler else ():
            text = gentler(rule, text)
        for old, new in self._replace.items():
            text = text.replace(old, new)
        if self._escape:
            text = self._escape.sub(lambda m: self._escape_with + m.group(), text)
        return self._case(text) if self._case else text

    def pieces(
        self, pieces: Sequence[TextPiece], label: str, whole: bool = False
    ) -> list[TextPiece]:
        """The pieces of a phrase (with `whole`, of a tag, which is stressed whole) in this
        style.
        """
        if not self.spells and not self._around:
            return list(pieces)
        out = [p._replace(text=self.spell(p.text)) for p in pieces] if self.spells else list(pieces)
        if not self._around:
            return out
        if label in self._around and not any(
            p.slot == label for p in out
        ):  # a slot of that name is meant by itself
            return self._wrapped(out, self._around[label])
        if whole:
            slot = next((p.slot for p in out if p.slot in self._around), None)
            return self._wrapped(out, self._around[slot]) if slot else out
        wrapped: list[TextPiece] = []
        run: list[TextPiece] = []
        for piece in (*out, TextPiece("")):
            if run and piece.slot != run[0].slot:
                wrapped += self._wrapped(run, self._around[run[0].slot])
                run = []
            if piece.slot in self._around:
                run.append(piece)
            else:
                wrapped.append(piece)
        return wrapped

    def _wrapped(self, pieces: list[TextPiece], around: tuple[str, str]) -> list[TextPiece]:
        before, behind = around
        if self._per_word:
            return [
                p._replace(text=_WORD.sub(lambda m: before + m.group() + behind, p.text))
                for p in pieces
            ]
        last = pieces[-1].text
        bare = last.rstrip()
        out = [TextPiece(before), *pieces[:-1], pieces[-1]._replace(text=bare), TextPiece(behind)]
        return [*out, TextPiece(last[len(bare) :])] if len(bare) < len(last) else out

    def opening(self, pieces: Sequence[TextPiece], label: str) -> str:
        """The text of a phrase as a sentence begins with it."""
        whole = english.capitalised("".join(p.text for p in pieces))
        capital, at = [], 0
        for piece in pieces:
            capital.append(piece._replace(text=whole[at : at + len(piece.text)]))
            at += len(piece.text)
        return "".join(p.text for p in self.pieces(capital, label))


def _weight(weight: float) -> str:
    return f"{round(weight, 4):g}"


def _row(rule: Stress, steps: int) -> str:
    return (rule.more if steps > 0 else rule.less) * abs(steps)


# ──── Negative text: the lines labelled `-`, as items in order, each said once.


class NegativeWriter:
    """Collects the negative text of a formula, for a model that takes such text."""

    def __init__(self, phrases: Sequence[Phrase], profile: Profile):
        self.wanted = profile.negative.way != "none"
        self.plans = [plan_phrase(part) for phrase in phrases for part in _at_commas(phrase)]

    def has(self, slot: str) -> bool:
        """Is the slot in the negative text?"""
        return any(slot in plan.slots for plan in self.plans)

    def items(self, fills: Mapping[str, Fill | None]) -> list[str]:
        """The items in order; none for a model that takes no such text."""
        if not self.wanted:
            return []
        items: list[str] = []
        for plan in self.plans:
            laid = lay_out(plan, fills)
            if laid is None:
                continue
            if plan.slots:
                items += [
                    joined(tag)
                    for part in laid.parts
                    if not isinstance(part, Glue | PairMark)
                    for tag in in_tags(part)
                ]
            else:
                items.append(
                    "".join(p.text for p in laid.parts if isinstance(p, Glue | PairMark)).strip()
                )
        return list(dict.fromkeys(english.without_end(i) for i in items if i))


def _at_commas(phrase: Phrase) -> list[Phrase]:
    """A negative line in parts, cut at the commas between its brackets."""
    parts: list[list] = [[]]
    for node in phrase.body:
        if not isinstance(node, FixedText):
            parts[-1].append(node)
            continue
        begun = 0
        for at, char in enumerate(node.raw):
            if char == "," and (at == 0 or node.raw[at - 1] != "\\"):
                parts[-1].append(FixedText(node.raw[begun:at].strip(), node.span))
                parts.append([])
                begun = at + 1
        parts[-1].append(FixedText(node.raw[begun:].strip(), node.span))
    kept = [[n for n in part if not isinstance(n, FixedText) or n.raw] for part in parts]
    return [Phrase("-", "", tuple(part), phrase.span) for part in kept if part]
