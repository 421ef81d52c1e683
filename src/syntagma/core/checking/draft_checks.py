"""Checks: the findings on a prompt before it is paid for."""

import re
from collections.abc import Iterable, Mapping, Sequence
from itertools import combinations

from syntagma.core import english
from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, way
from syntagma.core.drafting.fills import Fill
from syntagma.core.fitting import Fitted
from syntagma.core.formula.tree import Group, Phrase, SlotRule
from syntagma.core.models.patterns import refusals
from syntagma.core.models.profile import Profile
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import Term, Vocabulary, normal, suggestions, why_clash
from syntagma.core.vocabulary.world import Dimensions, Thing

_DOUBLED = regex(r"\b([^\W\d_]+)\s+\1\b", re.I)
_ALLOWED_TWICE = frozenset("had that very so far no now many".split())
_PLURAL_THEN_SINGULAR = regex(r"^(?:[^\s,.;:!?]+\s+){0,4}?(?:its|itself)\b", re.I)
_NOT_ASKED = regex(
    r"\b(?:no|not|without|for|free\s+of|instead\s+of|never|avoid(?:ing)?)\s+(?:\w+\s+){0,2}$", re.I
)
_PAIRS = (("(", ")"), ("[", "]"), ("{", "}"), ("“", "”"), ("«", "»"))


def fitting_findings(
    profile: Profile, fitted: Fitted | None, negative_dropped: tuple[str, ...]
) -> list[Finding]:
    """What was done to fit: labels of phrases left out, shortened or cut, items of the negative
    text.
    """
    found = []
    if fitted:
        limit = profile.text_limit or profile.limit("whole") or profile.limit("request")
        assert limit is not None, "what was fitted has a limit"
        room = f"to fit {limit.most} {limit.unit} of {profile.name}"
        if fitted.dropped:
            message = f"left out {room}: {', '.join(fitted.dropped)}"
            found.append(
                Finding(
                    WARNING,
                    message,
                    "shorten a fill, or mark with ? what to drop first",
                    "text",
                    code="fitted",
                )
            )
        for label, words in fitted.cut.items():
            found.append(
                Finding(
                    WARNING,
                    f"cut {room}: {label} loses “{words}”",
                    "say it in fewer words",
                    label,
                    code="words-cut",
                )
            )
        if fitted.shortened:
            message = f"shortened {room}: {', '.join(fitted.shortened)}"
            found.append(
                Finding(REMARK, message, "only connecting words are lost", "text", code="shortened")
            )
    if negative_dropped:
        limit = profile.negative_limit
        assert limit is not None
        names = ", ".join(negative_dropped)
        message = f"left out of the negative text to fit {limit.most} {limit.unit}: {names}"
        found.append(
            Finding(
                WARNING, message, "put the important ones first", "negative", code="negative-cut"
            )
        )
    return found


def clash_findings(fills: Mapping[str, Fill | None]) -> list[Finding]:
    """Terms that contradict each other."""
    terms: list[tuple[str, Term]] = [
        (slot, t) for slot, fill in fills.items() if fill for t in fill.terms
    ]
    return [
        Finding(
            WARNING,
            f"a contradiction: {why}",
            f"choose another {slot_b}",
            slot_b,
            code="contradiction",
        )
        for (_, a), (slot_b, b) in combinations(terms, 2)
        if (why := why_clash(a, b))
    ]


def world_findings(dimensions: Dimensions, things: Sequence[Thing]) -> list[Finding]:
    """What takes things for granted that can't all be."""
    return [
        Finding(
            WARNING,
            f"a contradiction: {found.why}",
            f"choose another {found.slot or 'look'}",
            found.slot,
            code="contradiction",
        )
        for found in dimensions.disagreements(things)
    ]


def settled_findings(
    settles: Sequence[str], rules: Sequence[SlotRule], fills: Sequence[Fill | None]
) -> list[Finding]:
    """Slots that are filled though a look's own words have settled their facet."""
    return [
        Finding(
            WARNING,
            f"the look already decides the {rule.facet}, and “{fill.shown}” may contradict it",
            f"leave it blank: {rule.name}=",
            rule.name,
            code="settled-already",
        )
        for rule, fill in zip(rules, fills, strict=True)
        if fill and rule.facet in settles
    ]


def refused_findings(profile: Profile, text: str) -> list[Finding]:
    """Words that the model refuses and that have no gentler one."""
    found = []
    for refusal in refusals(profile.refused, text):
        why = f" ({refusal.rule.why})" if refusal.rule.why else ""
        remedy = (
            f"write “{refusal.rule.instead}”" if refusal.rule.instead else "say it in another way"
        )
        found.append(
            Finding(
                ERROR,
                f"{profile.name} refuses “{refusal.words}”{why}",
                remedy,
                "text",
                code="refused-words",
            )
        )
    return found


def gentler_findings(profile: Profile, said: Iterable[str]) -> list[Finding]:
    """Words of a person's that the model refuses and for which a gentler one was written."""
    found = {
        (r.words, r.rule.instead)
        for text in said
        for r in refusals(profile.refused, text)
        if r.rule.instead is not None
    }
    return [
        Finding(
            REMARK,
            f"{profile.name} refuses “{words}”, so “{instead}” replaces it",
            "or say it in words of your own",
            "text",
            code="gentler-word",
        )
        for words, instead in sorted(found)
    ]


def against_findings(text: str, negative: Iterable[str]) -> list[Finding]:
    """What is to be kept out and the text asks for; "no people", "without people" and "room for
    lettering" ask for none.
    """
    found = []
    folded = text.casefold()
    for item in negative:
        words = item.split()
        if (
            not words or words[0].casefold() not in folded
        ):  # most are not there, and a pattern costs
            continue
        pattern = r"\W+".join(map(re.escape, words))
        for match in re.finditer(rf"(?<!\w){pattern}(?!\w)", text, re.I):
            if not _NOT_ASKED.search(text[: match.start()]):
                found.append(
                    Finding(
                        WARNING,
                        f"“{item}” is in the negative prompt, but the text asks for it",
                        "remove it from one of the two",
                        "negative",
                        code="kept-out-and-asked-for",
                    )
                )
                break
    return found


def reach_findings(profile: Profile, labels: Sequence[str]) -> list[Finding]:
    """What must stay, in a place that the model hardly heeds."""
    if not labels:
        return []
    message = (
        f"after the first {profile.limits.reach} words, where {profile.name} pays less attention:"
        f" {', '.join(labels)}"
    )
    return [
        Finding(
            WARNING,
            message,
            'shorten what comes before, or let it move: forward = ["…"] in the head of the formula',
            "reach",
            code="behind-reach",
        )
    ]


def contradictions(terms: Sequence[Term], vocabulary: Vocabulary) -> list[Finding]:
    """Terms of a finished prompt that do not go together, each facet's in a seat of its own."""
    found = ((b, why_clash(a, b)) for a, b in combinations(terms, 2))
    seats = vocabulary.seats((term.facet, term.facet, None, "") for term in terms)
    world = world_findings(
        vocabulary.dimensions, [vocabulary.thing(seats[term.facet], term) for term in terms]
    )
    return world + [
        Finding(
            WARNING,
            f"a contradiction: {why}",
            f"choose another {b.facet}",
            b.facet,
            code="contradiction",
        )
        for b, why in found
        if why
    ]


def phrase_findings(
    phrase: Phrase, following: Phrase | None, fills: Mapping[str, Fill | None], text: str
) -> list[Finding]:
    """The findings on one phrase, written as `text`: `following` is the line joined to it with ~,
    if one is.
    """
    found = text_findings(text)
    groups = list(phrase.groups())
    for name in phrase.slots:
        fill = fills.get(name)
        heads = [g.head for g in groups if name in g.slots]
        if fill and not any(fills.get(head) for head in heads):
            message = f"“{fill.shown}” is not in the prompt, because {heads[0]} is blank"
            found.append(
                Finding(WARNING, message, f"give {heads[0]}=… too", name, code="leans-on-blank")
            )
    for group in groups:
        if fill := fills.get(group.head):
            found += _agreement(group, fill, following, fills)
    return found


def _agreement(
    group: Group, fill: Fill, following: Phrase | None, fills: Mapping[str, Fill | None]
) -> list[Finding]:
    """Counts of what can't be counted, and a plural that the next line takes for a single thing."""
    count = next(
        (f.count for n in group.slots if n != group.head and (f := fills.get(n)) and f.count), 0
    )
    numbers = {item.number for item in fill.items}
    found = []
    if count and "mass" in numbers:
        found.append(
            Finding(
                ERROR,
                f"“{fill.shown}” can't be counted",
                "leave the count blank",
                group.head,
                code="not-counted",
            )
        )
    elif count == 1 and "many" in numbers:
        found.append(
            Finding(
                WARNING,
                f"“one {fill.shown}” does not agree",
                "give the thing in the singular",
                group.head,
                code="number",
            )
        )
    several = count > 1 or group.form == "plural" or "many" in numbers or len(fill.items) > 1
    its = _singular_fill(following.slots, fills) if several and following else None
    if its and following:
        message = f"“{its.shown}” is singular, but {group.head} is plural"
        found.append(
            Finding(
                WARNING,
                message,
                "write “their”, or choose another",
                following.slots[0],
                code="their-of-one",
            )
        )
    return found


def _singular_fill(slots: Iterable[str], fills: Mapping[str, Fill | None]) -> Fill | None:
    for slot in slots:
        fill = fills.get(slot)
        if fill and any(_PLURAL_THEN_SINGULAR.match(item.words) for item in fill.items):
            return fill
    return None


def text_findings(text: str) -> list[Finding]:
    """What the text alone shows: a word doubled, a pair left open, spaces and commas that
    stumble.
    """
    found = []
    for match in _DOUBLED.finditer(text):
        if match.group(1).lower() not in _ALLOWED_TWICE:
            found.append(
                Finding(
                    WARNING,
                    f"“{match.group()}” repeats a word",
                    "delete one of them",
                    "text",
                    code="word-twice",
                )
            )
    for opening, closing in _PAIRS:
        if text.count(opening) != text.count(closing):
            found.append(
                Finding(
                    WARNING,
                    f"{opening} and {closing} do not pair",
                    "close what is open",
                    "text",
                    code="unpaired",
                )
            )
    if text.count('"') % 2:
        found.append(
            Finding(WARNING, 'a " is left open', "close what is open", "text", code="unpaired")
        )
    for pattern, what in (
        (r",\s*,", "two commas in a row"),
        (r"(?<![,\s])\s+,", "a space before a comma"),
        (r"[.!?]\s*,(?!\d)", "a comma after a full stop"),
    ):
        spot = re.search(pattern, text)
        if spot and not (
            what.startswith("a comma") and not english.ends_sentence(text[: spot.start() + 1])
        ):
            found.append(
                Finding(
                    WARNING,
                    f"{what}: “{_around(text, spot.start(), spot.end())}”",
                    "delete the extra sign",
                    "text",
                    code="punctuation",
                )
            )
    return found


def _around(text: str, start: int, stop: int) -> str:
    return text[max(0, start - 12) : stop + 12].strip()


def limit_findings(profile: Profile, text: str, negative: str = "") -> list[Finding]:
    """Finished text against a model's limits."""
    found = []
    for limit, what, name in (
        (profile.text_limit, text, "text"),
        (profile.negative_limit, negative, "negative"),
    ):
        if limit and what and (used := limit.used([what])) > limit.room:
            message = (
                f"the {name} takes {used} {limit.unit}, {used - limit.most} over the {limit.most}"
                f" of {profile.name}"
            )
            found.append(
                Finding(
                    ERROR,
                    message,
                    "shorten it, or compose it from a formula, which drops what can go",
                    name,
                    code="over-limit",
                )
            )
    if negative and profile.negative.way == "none":
        found.append(
            Finding(
                WARNING,
                f"{profile.name} takes no negative prompt",
                "leave it out",
                "negative",
                code="no-negative",
            )
        )
    return found


def vocabulary_remarks(
    rules: Iterable[SlotRule], fills: Mapping[str, Fill | None], vocabulary: Vocabulary
) -> list[Finding]:
    """Fills that no facet has: taken as they are, with the nearest term. What a term that is filled
    in does is known with it.
    """
    found = []
    deeds = {
        normal(deed.partition("@")[0])
        for fill in fills.values()
        if fill
        for term in fill.terms
        for deed in term.does
    }
    for rule in rules:
        fill = fills.get(rule.name)
        if not fill or fill.count or rule.facet not in vocabulary or fill.shown.startswith("@"):
            continue
        facet = vocabulary[rule.facet]
        for item in fill.items:
            if item.term is None and normal(item.tag) not in deeds:
                near = suggestions(facet, item.tag)
                names = ", ".join(f"“{name}”" for name in near)
                remedy = f"the vocabulary has {names}" if near else way("terms", facet=rule.facet)
                message = f"“{item.tag}” is not in {rule.facet}, so it is used as typed"
                found.append(Finding(REMARK, message, remedy, rule.name, code="no-such-term"))
    return found
