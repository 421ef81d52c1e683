"""A formula compiled into one table for a form: every term in each form that the formula wants of
it, every phrase as a template for each of its slots being filled or blank. Two small interpreters
(a spreadsheet's formulas, a page's script) put the pieces together, in prose without a model.

The pieces come from the realiser itself, which is given probes in the place of fills: what it does
with them is in the table.
"""

from collections.abc import Mapping, Sequence
from itertools import product
from typing import Any, NamedTuple

from syntagma.core import english
from syntagma.core.diagnostics import SyntagmaError
from syntagma.core.drafting.draft import (
    Branch,
    Glue,
    Noun,
    PairMark,
    PhrasePlan,
    lay_out,
    plan_phrase,
)
from syntagma.core.drafting.fills import Fill, Item, cleaned, free_item, item_of_text, stands
from syntagma.core.english import word_lists
from syntagma.core.formula.tree import Condition, Formula, Group, SlotRule, Word
from syntagma.core.realising.noun_phrases import frame, in_prose
from syntagma.core.realising.prose import prose_pieces
from syntagma.core.realising.text_pieces import joined
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal

COUNT = "¤"  # represents the number in what leads a counted noun
MANY = 1357  # a number that is written in digits, and found again
MOST_HEADS = 6  # in one phrase: its templates are two to the power of them
YOO = (
    "uni",
    "use",
    "usu",
    "uto",
    "eur",
    "euc",
    "ewe",
    "one",
    "onc",
    "ura",
    "uro",
)  # written with a vowel, said without one
PERSONAL = ("my", "your", "his", "her", "our", "their")  # before somebody's: my uncle's
SILENT = ("hour", "hone", "hono", "heir")


class Uncompilable(SyntagmaError, ValueError):
    """A formula that no form can be made of; the message says why."""


class Field(NamedTuple):
    """One thing that is asked: a slot. `names` are all the terms of its facet, the first `offered`
    of them for choosing; `columns` hold for each term what is at its index. `places` is how many it
    may take.
    """

    slot: str
    ask: str
    about: str
    example: tuple[str, ...]
    need: bool
    places: int
    default: tuple[str, ...]
    number: bool
    names: tuple[str, ...]
    glosses: tuple[str, ...]
    offered: int
    columns: dict[str, tuple[str, ...]]


class GroupForm(NamedTuple):
    """A noun group: `columns` says which column of its head's field holds what (alone, mid,
    front-a, front-an, core, core-mid; counted ones begin with one- and many-). `before` are slots
    and quoted words that lead to the head. `fragile`: words of one's own may come out otherwise.
    """

    head: str
    article: str
    form: str
    before: tuple[tuple[str, str], ...]
    after: str
    after_many: str
    after_number: str
    counted: str
    columns: dict[str, str]
    fragile: bool


class Then(NamedTuple):
    """A noun group within a template, and the words after it: as a rule, and where its own words
    end in a stop. `bare`: that stop goes.
    """

    group: int
    words: str
    after_stop: str
    bare: bool


class Template(NamedTuple):
    """A phrase with some of its slots filled: words, then groups. `closed`: its last slot is one of
    them.
    """

    lead: str
    then: tuple[Then, ...]
    closed: bool


class Waits(NamedTuple):
    """When a phrase applies: the slot, the column that says so of a term ("1" if it does), and what
    holds of words of one's own and of a blank.
    """

    slot: str
    column: str
    own: bool
    blank: bool
    every: bool  # it stands unless one of them says no; otherwise it needs one that says yes


class PhraseForm(NamedTuple):
    """One line of the formula. `templates`: by which of `heads` are filled, the first head counting
    1, the second 2, the third 4; none where the line goes. `fixed` is what a line without slots
    says.
    """

    label: str
    heads: tuple[str, ...]
    templates: tuple[Template | None, ...]
    fixed: str
    end: str
    sentence: bool
    joined: bool
    hanging: bool
    soft: bool
    waits: Waits | None


class FormTable(NamedTuple):
    """All that a form needs to know."""

    fields: tuple[Field, ...]
    groups: tuple[GroupForm, ...]
    phrases: tuple[PhraseForm, ...]

    def field(self, slot: str) -> Field:
        """The field of a slot."""
        return next(one for one in self.fields if one.slot == slot)

    def data(self) -> dict[str, Any]:
        """The table as plain values, for a page's script."""
        phrases = [
            {
                **p._asdict(),
                "waits": p.waits and p.waits._asdict(),
                "templates": [
                    t and {"lead": t.lead, "closed": t.closed, "then": [list(x) for x in t.then]}
                    for t in p.templates
                ],
            }
            for p in self.phrases
        ]
        return {
            "fields": [one._asdict() for one in self.fields],
            "groups": [one._asdict() for one in self.groups],
            "phrases": phrases,
            "words": {
                "determiners": sorted(word_lists.DETERMINERS),
                "prepositions": sorted(word_lists.PREPOSITIONS),
                "yoo": YOO,
                "silent": SILENT,
                "personal": PERSONAL,
                "numbers": word_lists.NUMBERS,
            },
        }


def form_table(
    formula: Formula, vocabulary: Vocabulary, offered: Mapping[str, Sequence[Term]]
) -> FormTable:
    """Compile a formula. `offered` are the terms for choosing, by slot; all others of the facet are
    known too. Raises Uncompilable.
    """
    return _Compiler(formula, vocabulary, offered).table()


class _Compiler:
    """Compiles one formula: groups as they are met, and for each field the columns that
    they want.
    """

    def __init__(
        self, formula: Formula, vocabulary: Vocabulary, offered: Mapping[str, Sequence[Term]]
    ):
        self.formula, self.vocabulary = formula, vocabulary
        self.rules = {rule.name: rule for rule in formula.slots}
        self.items = {
            name: self._items(rule, offered.get(name, ())) for name, rule in self.rules.items()
        }
        self.columns: dict[str, dict[str, tuple[str, ...]]] = {name: {} for name in self.rules}
        self.offered = {name: len(offered.get(name, ())) for name in self.rules}
        self.groups: list[GroupForm] = []
        self.needed = self._needed()

    def _needed(self) -> set[str]:
        """The slots that have to be filled: those that say so, and the first noun of a line that
        must stay (!) where nothing else holds it.
        """
        found = {name for name, rule in self.rules.items() if rule.need}
        for phrase in self.formula.phrases:
            heads = [group.head for group in phrase.groups()]
            if (
                phrase.mark == "!"
                and heads
                and not any(head in found or self.rules[head].default for head in heads)
            ):
                found.add(heads[0])
        return {name for name in found if not self.rules[name].default}

    def table(self) -> FormTable:
        """The whole table."""
        phrases = tuple(self._phrase(plan_phrase(phrase)) for phrase in self.formula.phrases)
        return FormTable(
            tuple(self._field(rule) for rule in self.rules.values()), tuple(self.groups), phrases
        )

    def _items(self, rule: SlotRule, offered: Sequence[Term]) -> list[Item]:
        """What is known for a slot: the terms of its facet, those that are offered before the rest,
        and its default and example in words of their own.
        """
        if rule.number:
            return []
        first = {normal(term.term) for term in offered}
        terms = (
            [*offered, *(t for t in self.vocabulary[rule.facet] if normal(t.term) not in first)]
            if rule.facet in self.vocabulary
            else []
        )
        known = {normal(term.term) for term in terms}
        words = {
            normal(word): word
            for word in (*rule.default, *_listed(self.formula.head.example.get(rule.name, ())))
            if cleaned(word)
        }
        return [
            *(item_of_text(term.term, term) for term in terms),
            *(free_item(cleaned(word)) for key, word in words.items() if key not in known),
        ]

    def _field(self, rule: SlotRule) -> Field:
        items, listed = self.items[rule.name], _listed(self.formula.head.example.get(rule.name, ()))
        traits = self.vocabulary.traits.get(rule.facet)
        ask = (
            rule.ask
            or (traits.ask if traits else "")
            or (rule.about[:1].upper() + rule.about[1:])
            or _spaced(rule.name)
        )
        about, _, instance = rule.about.partition(": ")
        if rule.ask:  # the question says it; what is left is what might stand there
            about, listed = (
                ("" if instance or rule.default else about),
                listed or tuple(filter(None, [instance])),
            )
        else:
            about = rule.about if ask != rule.about[:1].upper() + rule.about[1:] else ""
        return Field(
            rule.name,
            ask,
            about,
            listed,
            rule.name in self.needed,
            rule.take[1],
            rule.default,
            rule.number,
            tuple(_name(item) for item in items),
            tuple(item.term.gloss if item.term else "" for item in items),
            self.offered[rule.name],
            self.columns[rule.name],
        )

    def _column(self, slot: str, values: Sequence[str]) -> str:
        """The name of the column with these values: one that is there, or a new one."""
        held, wanted = self.columns[slot], tuple(values)
        for name, there in held.items():
            if there == wanted:
                return name
        held[f"{len(held)}"] = wanted
        return f"{len(held) - 1}"

    def _phrase(self, plan: PhrasePlan) -> PhraseForm:
        groups = _groups_of(plan)
        heads = tuple(dict.fromkeys(group.head for group in groups))
        if len(heads) > MOST_HEADS:
            raise Uncompilable(
                f"the phrase “{plan.label}” has {len(heads)} nouns, but a form takes at most"
                f" {MOST_HEADS} in one phrase"
            )
        numbers = {id(group): self._group(group) for group in groups}
        patterns = product((False, True), repeat=len(heads))
        filled = [dict(zip(reversed(heads), pattern, strict=True)) for pattern in patterns]
        templates = (
            tuple(
                self._template(plan, {head for head, there in which.items() if there}, numbers)
                for which in filled
            )
            if heads
            else ()
        )
        fixed = joined(prose_pieces(laid)) if not heads and (laid := lay_out(plan, {})) else ""
        sentence = plan.end[-1:] in tuple(".!?…") and plan.end != ""
        soft = plan.end in (";", ":", ",") or plan.hanging
        return PhraseForm(
            plan.label,
            heads,
            templates,
            fixed,
            plan.end,
            sentence,
            plan.joined,
            plan.hanging,
            soft,
            self._waits(plan),
        )

    def _waits(self, plan: PhrasePlan) -> Waits | None:
        when: Condition | None = self.formula.head.only_if.get(plan.label)
        if not when or when.slot not in self.rules:
            return None
        alone = when._replace(negated=False)
        said = [
            "1" if stands(alone, Fill(item.tag, (item,))) != when.negated else ""
            for item in self.items[when.slot]
        ]
        own = stands(when, Fill("x", (Item("x", "x", "one"),)))
        return Waits(when.slot, self._column(when.slot, said), own, when.negated, when.negated)

    def _template(
        self, plan: PhrasePlan, filled: set[str], numbers: Mapping[int, int]
    ) -> Template | None:
        """What the realiser makes of a phrase with probes in these slots."""
        fills = {head: Fill("", (Item("x", "x", "one"),)) for head in filled}
        laid = lay_out(plan, fills)
        if laid is None:
            return None
        order = [numbers[id(part.group)] for part in laid.parts if isinstance(part, Noun)]
        plain = self._stretches(laid.parts, len(order), -1)
        then = []
        for i, group in enumerate(order):
            stopped = self._stretches(laid.parts, len(order), i)
            words, bare = stopped[i + 1], not stopped[i + 1].startswith(".")
            then.append(Then(group, plain[i + 1], words if bare else words[1:], bare))
        return Template(plain[0], tuple(then), laid.closed)

    @staticmethod
    def _stretches(parts: Sequence[Glue | PairMark | Noun], number: int, stopped: int) -> list[str]:
        """The words between the probes, and before and after them; the probe `stopped` ends in a
        stop of its own.
        """
        at = 0
        probed: list[Glue | PairMark | Noun] = []
        for part in parts:
            if isinstance(part, Noun):
                words = f"x{chr(0xE000 + at)}" + ("." if at == stopped else "")
                only = Group(
                    tuple(
                        word
                        for word in part.group.words
                        if word.kind == "slot" and word.value == part.group.head
                    )[:1],
                    part.group.span,
                )
                probed.append(
                    Noun(only, {part.group.head: Fill(words, (Item(words, words, "name"),))})
                )
                at += 1
            else:
                probed.append(part)
        text = joined(prose_pieces(_Probed(tuple(probed))))  # type: ignore[arg-type]
        for i in range(number):
            text = text.replace(f"x{chr(0xE000 + i)}", "\0")
        return text.split("\0")

    def _group(self, group: Group) -> int:
        """Compile a noun group: the columns that it wants of its head and of its modifiers."""
        words = [word for word in group.words if word.kind in ("slot", "quote")]
        at = max(i for i, word in enumerate(words) if word.kind == "slot")
        before = tuple((word.kind, word.value) for word in words[:at])
        after = " ".join(word.value for word in words[at + 1 :])
        rules = [self.rules[name] for kind, name in before if kind == "slot"]
        count = next((rule.name for rule in rules if rule.number), "")
        for rule in rules:
            if not rule.number:
                self._modifier(rule.name)
        columns = self._forms(group, "", None, bool(rules))
        if count:
            columns |= self._forms(group, "one-", Fill("1", (_number(1),), 1), True) | self._forms(
                group, "many-", Fill("", (_number(MANY),), MANY), True
            )
        held = [(kind, value) for kind, value in before if value != count]
        fragile = bool(group.article or group.form in ("place", "clause", "plural") or count)
        made = GroupForm(
            group.head,
            group.article,
            group.form,
            tuple(held),
            after,
            english.plural(after) if after else "",
            english.countability(after) if after else _led_by(words, at),
            count,
            columns,
            fragile,
        )
        self.groups.append(made)
        return len(self.groups) - 1

    def _forms(
        self, group: Group, prefix: str, count: Fill | None, modified: bool
    ) -> dict[str, str]:
        """The columns of a head: what its terms read like alone, in a list, and round modifiers."""
        items, several = self.items[group.head], self.rules[group.head].take[1] > 1
        if not items:
            return {}
        counted = next((name for name in group.slots if self.rules[name].number), "")
        nouns = [
            Noun(
                group, {group.head: Fill(item.tag, (item,)), **({counted: count} if count else {})}
            )
            for item in items
        ]
        found: dict[str, list[str]] = {}
        if not prefix:
            found["alone"] = [joined(in_prose(noun)) for noun in nouns]
            if several:
                found["mid"] = [english.without_stop(words) for words in found["alone"]]
        if modified:
            for key, sound in (("front-a", "bare "), ("front-an", "odd ")):
                found[key] = [
                    frame(noun, item, True, sound)[0].replace(str(MANY), COUNT)
                    for noun, item in zip(nouns, items, strict=True)
                ]
            found["core"] = [
                frame(noun, item, True, "bare ")[1] for noun, item in zip(nouns, items, strict=True)
            ]
            if (
                prefix
                # without modifiers the article goes by the head itself, which a count makes
                # needless
            ):
                found["alone"] = [
                    f"{front}{core}"
                    for front, core in zip(found["front-a"], found["core"], strict=True)
                ]
            if several:
                found["core-mid"] = [english.without_stop(words) for words in found["core"]]
        return {prefix + key: self._column(group.head, values) for key, values in found.items()}

    def _modifier(self, slot: str) -> None:
        """The columns of a slot that leads to a noun: its words, and the article that they take."""
        words = []
        for item in self.items[slot]:
            determiner, rest = english.split_determiner(item.words)
            words.append(
                english.without_stop(
                    rest if determiner.lower() in ("a", "an", "the") else item.words
                )
            )
        self.columns[slot]["words"] = tuple(words)
        self.columns[slot]["sound"] = tuple(english.article(word) for word in words)


class _Probed(NamedTuple):
    """A phrase of probes, as far as the realiser looks at one."""

    parts: tuple[Glue | PairMark | Noun, ...]


def _groups_of(plan: PhrasePlan) -> list[Group]:
    """The noun groups of a plan in order, those of optional parts too."""
    found: list[Group] = []
    todo = list(plan.tokens)
    while todo:
        token = todo.pop(0)
        if isinstance(token, Group):
            found.append(token)
        elif isinstance(token, Branch):
            todo = [*token.tokens, *todo]
    return found


def _number(count: int) -> Item:
    words = english.count_words(count)
    return Item(words, words, "many")


def _led_by(words: Sequence[Word], at: int) -> str:
    """The number of a quoted noun that leads to the head with "of"; "" if there is none."""
    lead = words[at - 1] if at else None
    return (
        english.countability(lead.value)
        if lead and lead.kind == "quote" and lead.value.split()[-1:] == ["of"]
        else ""
    )


def _name(item: Item) -> str:
    return item.term.term if item.term else item.words


def _listed(words: str | Sequence[str]) -> tuple[str, ...]:
    return (
        tuple(part.strip() for part in words.split(";") if part.strip())
        if isinstance(words, str)
        else tuple(words)
    )


def _spaced(name: str) -> str:
    words = name.replace("-", " ").replace("_", " ")
    return words[:1].upper() + words[1:]
