"""Checks of finished prompts, whoever wrote them, against what a model takes; and mending, where
the remedy is sure.
"""

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.checking.draft_checks import (
    against_findings,
    limit_findings,
    refused_findings,
    text_findings,
)
from syntagma.core.checking.rights import care, rights
from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, perhaps
from syntagma.core.drafting.sound import pace_findings, spoken_words
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.models.measure import words as count_words
from syntagma.core.models.parameters import FoundParameter, found_in, own_name, settle, shown
from syntagma.core.models.patterns import gentler
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import KnownReference, Reference, kind_of, taken
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.core.notation.late_regex import regex
from syntagma.core.vocabulary.terms import (
    Facet,
    Term,
    content_words,
    dimension,
    folded,
    normal,
    split_list,
)

# ──── Checks of a vocabulary by itself: what a term is a case of, names that are there twice,
# glosses that say nothing.


_SMALL = frozenset(
    "a an the of in on at with that which who is are it this these some very".split()
)


def check_terms(facet: Facet) -> Iterator[tuple[str, Finding]]:
    """What is wrong with the terms of a facet: each term, and the finding."""
    names: dict[str, Term] = {}
    for term in facet:
        yield from ((term.term, finding) for finding in _of_term(facet, term))
        for name in (term.term, *term.aka):
            other = names.setdefault(normal(name), term)
            if other is not term:
                yield (
                    term.term,
                    Finding(
                        WARNING,
                        f"“{name}” is also a name of “{other.term}”",
                        "leave it with one of them, so that a search finds the right one",
                        facet.name,
                        code="two-terms-of-a-name",
                    ),
                )


def _of_term(facet: Facet, term: Term) -> Iterator[Finding]:
    if term.broader:
        wider = facet.get(term.broader)
        if wider is None:
            yield Finding(
                WARNING,
                f"its broader term “{term.broader}” does not exist",
                perhaps(
                    term.broader,
                    [one.term for one in facet],
                    "name a term of the same facet in the column broader",
                ),
                facet.name,
                code="no-broader-term",
            )
        elif term in (wider, *facet.above(wider)):
            yield Finding(
                WARNING,
                f"it is broader than “{term.broader}”, which is broader than it",
                "leave the column broader blank for one of them",
                facet.name,
                code="broader-in-a-ring",
            )
        else:
            for name, own, theirs in _against(_claims(term.world), _claims(wider.world)):
                yield Finding(
                    WARNING,
                    f"it assumes {name}: {own}, but its broader term “{wider.term}” assumes"
                    f" {theirs}",
                    "change one of the two, or its broader term",
                    facet.name,
                    code="world-against-broader",
                )
    if (
        term.gloss
        and not set(folded(re.sub(r"[^\w\s-]", " ", term.gloss))) - set(folded(term.term)) - _SMALL
    ):
        yield Finding(
            WARNING,
            f"its gloss repeats its name: {term.gloss}",
            "describe what it does to a picture",
            facet.name,
            code="gloss-says-nothing",
        )


def _claims(world: str) -> Mapping[str, str]:
    """What a world says of each dimension."""
    return {dimension(part): part.partition(":")[2].strip() for part in split_list(world)}


def _against(own: Mapping[str, str], wider: Mapping[str, str]) -> Iterator[tuple[str, str, str]]:
    """The dimensions in which nothing that one takes is taken by the other."""
    for name in own.keys() & wider.keys():
        mine, theirs = set(own[name].split()), set(wider[name].split())
        if "not" not in mine | theirs and not mine & theirs:
            yield name, own[name], wider[name]


# ──── Checks of finished prompts, whoever wrote them, against what a model takes; and mending,
# where the remedy is sure.


_ARTICLE = regex(
    rf"\b([Aa]n?)(\s+)(?=[\"'“‘(]?[\w£$€¥])(?!(?:{'|'.join(sorted(PREPOSITIONS | {'and', 'or', 'but', 'a', 'an', 'the'}))})\b)"  # noqa: E501
)
_COUNT = (
    r"(?:two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|several|many|both|few|\d{1,3})"
)
_MANY = regex(
    rf"(?<![\w/:.])({_COUNT})\s+([a-z]+)(?=\s*(?:[,.;!?]|$|\s(?:in|on|at|of|with|under|by|from|and|or)\b))",
    re.I,
)
_HANDLE = regex(r"(?<![\w@/.])@[\w-]+")
_SAID_OFTEN = 3
_WELL_BEYOND = 1.2  # a few words behind the reach are not worth a remark


class Finished(NamedTuple):
    """A finished prompt: its text as it is pasted, negative text, parameters and references that
    stand apart.
    """

    text: str
    negative: str = ""
    parameters: Mapping[str, object] = {}
    references: Sequence[Reference] = ()


def findings(
    profile: Profile, prompt: Finished, known: Mapping[str, KnownReference] = {}
) -> list[Finding]:
    """Everything that can be said of a finished prompt on a model, the contradictions of its terms
    apart.
    """
    found = found_in(profile, prompt.text)
    said, body = _parameters(profile, prompt, found)
    every = limit_findings(profile, body, prompt.negative)
    if (whole := profile.limit("whole")) and (used := whole.count(prompt.text)) > whole.room:
        message = (
            f"all the pasted text takes {used} {whole.unit}, {used - whole.most} over the"
            f" {whole.most} of {profile.name}"
        )
        every.append(
            Finding(
                ERROR,
                message,
                "shorten the text, or leave a parameter out",
                "whole",
                code="over-limit",
            )
        )
    every += (
        _nested(profile, body)
        if profile.register == "nested"
        else [*text_findings(body), *_english(body), *_repeats(profile, body)]
    )
    every += filter(None, (care(body),))
    every += rights(body, frozenset(map(str.lower, known)))
    every += said + against_findings(
        body, filter(None, (part.strip() for part in re.split(r"[,;\n]", prompt.negative)))
    )
    every += refused_findings(profile, body) + _handles(profile, body, known)
    every += taken(profile, prompt.references)[1] if prompt.references else []
    every += _sound(profile, body, {**{f.name: f.value for f in found}, **prompt.parameters})
    if (reach := profile.limits.reach) and (length := count_words(body)) > reach * _WELL_BEYOND:
        every.append(
            Finding(
                REMARK,
                f"{length - reach} of {length} words come after the first {reach}, where"
                f" {profile.name} pays less attention",
                "move what matters to the front",
                "reach",
                code="behind-reach",
            )
        )
    return list(dict.fromkeys(every))


def _parameters(
    profile: Profile, prompt: Finished, found: Sequence[FoundParameter]
) -> tuple[list[Finding], str]:
    """The findings on parameters in the text and beside it; and the text without those that come
    after it.
    """
    text, said = prompt.text, []
    tail = len(text)
    for one in reversed(found):
        if text[one.stop : tail].strip():
            said.append(
                Finding(
                    WARNING,
                    f"“{text[one.start : one.stop]}” reads as the parameter {one.name}",
                    "move it after the text, or say it in other words",
                    one.name,
                    code="reads-as-parameter",
                )
            )
        else:
            tail = one.start
    body = text[:tail].rstrip()
    counts = Counter(one.name for one in found)
    said += [
        Finding(
            ERROR,
            f"the parameter {name} appears {count} times",
            "leave one",
            name,
            code="parameter-twice",
        )
        for name, count in counts.items()
        if count > 1
    ]
    written = {one.name: one.value for one in found}
    for name, value in prompt.parameters.items():
        there = written.get(own_name(profile, name) or name)
        if there is not None and there != shown(value):
            message = f"the parameter {name} is {shown(value)} beside the text but {there} in it"
            said.append(
                Finding(ERROR, message, "leave one of them out", name, code="parameters-exclude")
            )
    asked = {**{one.name: one.value for one in found}, **prompt.parameters}
    if profile.parameter and asked:
        said += settle(profile, {}, asked).findings
    known = {(one.start, one.stop) for one in found}
    for mark in _marks(profile):
        for match in re.finditer(rf"(?<!\S){re.escape(mark)}([A-Za-z][\w-]*)", text):
            if not any(start <= match.start() < stop for start, stop in known):
                remedy = perhaps(
                    match[1], profile.parameter, f"it has {', '.join(profile.parameter)}"
                )
                said.append(
                    Finding(
                        ERROR,
                        f"{profile.name} has no parameter written “{match.group()}”",
                        remedy,
                        "parameters",
                        code="no-such-parameter",
                    )
                )
    return said, body


def _marks(profile: Profile) -> set[str]:
    """The signs that mark a parameter for a model: what comes before the first letter of each."""
    found = {
        re.split(r"[\w\s{]", p.write, maxsplit=1)[0] for p in profile.parameter.values() if p.write
    }
    return {mark for mark in found if mark}


def _nested(profile: Profile, text: str) -> list[Finding]:
    try:
        read_json(text)
    except NoJson as error:
        return [
            Finding(
                ERROR,
                f"{profile.name} reads JSON, but this is not JSON: {error}",
                "export it again from Syntagma, or correct it there",
                "text",
                code="broken-json",
            )
        ]
    return []


def _english(text: str) -> list[Finding]:
    """Articles that do not sound, and counts that do not agree."""
    found = []
    for match in _ARTICLE.finditer(text):
        wanted = _article(match, text)
        if wanted != match[1]:
            word = text[match.end() :].split(None, 1)[0].rstrip(",.;:!?")
            found.append(
                Finding(
                    WARNING,
                    f"“{match[1]} {word}” has the wrong article",
                    f"write “{wanted} {word}”",
                    "text",
                    code="article",
                )
            )
    for match in _MANY.finditer(text):
        if (
            not english.is_plural(match[2].lower())
            and english.plural(match[2]) != match[2]
            and english.countability(match[2]) == "one"
        ):
            found.append(
                Finding(
                    WARNING,
                    f"“{match[1]} {match[2]}” does not agree",
                    f"write “{match[1]} {english.plural(match[2])}”",
                    "text",
                    code="number",
                )
            )
    return found


def _article(match: re.Match, text: str) -> str:
    following, before = text[match.end() :], text[: match.start()].rstrip()
    if (
        match[1] == "A"
        and before
        and not before.endswith((".", "!", "?", ":", ",", "\n", '"', "“"))
    ):
        return match[1]  # the letter: vitamin A
    wanted = english.article(following)
    return wanted.capitalize() if match[1][0] == "A" else wanted


def _repeats(profile: Profile, text: str) -> list[Finding]:
    """Tags that stand twice, and words that are said again and again."""
    found = []
    tags = [normal(tag) for tag in text.split((profile.text.separator or ",").strip() or ",")]
    if profile.register == "tags":
        found += [
            Finding(
                WARNING, f"“{tag}” appears {count} times", "delete one", "text", code="tag-twice"
            )
            for tag, count in Counter(tags).items()
            if tag and count > 1
        ]
    counts: Counter[str] = Counter()
    first: dict[str, str] = {}
    for word in re.findall(r"[^\W\d_][\w'’-]*", text):
        for stem in content_words(word):
            counts[stem] += 1
            first.setdefault(stem, word.lower())
    often = [first[stem] for stem, count in counts.items() if count >= _SAID_OFTEN]
    if often and len(counts) < 400:
        found.append(
            Finding(
                REMARK,
                f"repeated {_SAID_OFTEN} times or more: {', '.join(often)}",
                "say it once, where it matters most",
                "text",
                code="said-often",
            )
        )
    return found


def _handles(profile: Profile, text: str, known: Mapping[str, KnownReference]) -> list[Finding]:
    """Handles in a text: those that a model does not take, and those that nobody has."""
    takes = any("handle" in rule.kinds for rule in profile.reference.values())
    found = []
    for handle in dict.fromkeys(_HANDLE.findall(text)):
        if not takes:
            if not profile.stress or "@" not in profile.stress.pattern:
                found.append(
                    Finding(
                        WARNING,
                        f"{profile.name or 'this model'} takes no handles: {handle} reads as a"
                        " word",
                        "say in words who it is",
                        "text",
                        code="no-handles",
                    )
                )
        elif known:
            handles = {value for one in known.values() for value in one.handles.values()}
            if handle not in handles:
                found.append(
                    Finding(
                        WARNING,
                        f"known.toml has nobody called {handle}",
                        perhaps(handle, handles, "name them in known.toml"),
                        "text",
                        code="unknown-handle",
                    )
                )
    return found


def _sound(profile: Profile, text: str, parameters: Mapping[str, object]) -> list[Finding]:
    spoken = spoken_words(text) if profile.makes != "image" else 0
    if not spoken:
        return []
    if profile.silent:
        return [
            Finding(
                WARNING,
                f"somebody speaks, but {profile.name} makes no sound",
                "choose a model with sound",
                "sound",
                code="no-sound",
            )
        ]
    seconds = parameters.get("seconds", getattr(profile.parameter.get("seconds"), "default", None))
    try:
        return (
            pace_findings(spoken, float(str(seconds)), profile.sound.pace) if profile.sound else []
        )
    except ValueError:
        return []


def mended(profile: Profile, text: str) -> str:
    """The text with everything fixed whose remedy is sure: articles, doubled words, commas and
    spaces that stumble, a tag or a parameter that appears twice in the same words, refused words
    that have a gentler one.
    """
    if profile.register == "nested":
        return text
    text = gentler(profile.refused, text)
    text = _once(profile, text)
    text = re.sub(r"[ \t]{2,}", " ", text)
    text = re.sub(r"[ \t]([,;])", r"\1", text)
    text = re.sub(r"([,;])(?:\s*[,;])+", r"\1", text)
    text = re.sub(
        r"\b(the|a|an|of|in|on|at|with|and|to|by|for|from)(\s+\1)+\b", r"\1", text, flags=re.I
    )
    if profile.register == "tags":
        text = _tags_once(profile, text)
    return _ARTICLE.sub(lambda m: _article(m, m.string) + m[2], text).strip()


def _once(profile: Profile, text: str) -> str:
    """The text without the second of two parameters that say the same."""
    seen: set[tuple[str, str]] = set()
    gone = []
    for one in found_in(profile, text):
        if (one.name, one.value) in seen:
            gone.append(one)
        seen.add((one.name, one.value))
    for one in reversed(gone):
        text = text[: one.start].rstrip() + text[one.stop :]
    return text


def _tags_once(profile: Profile, text: str) -> str:
    separator = profile.text.separator or ", "
    kept, seen = [], set()
    for tag in text.split(separator.strip() or ","):
        if normal(tag) and normal(tag) not in seen:
            seen.add(normal(tag))
            kept.append(tag.strip())
    return separator.join(kept)


def reference_from(record: Mapping[str, object]) -> Reference | None:
    """A reference out of a record; None if it is none."""
    role, value, strength = record.get("role"), record.get("value"), record.get("strength")
    if not isinstance(role, str) or not isinstance(value, str) or not value:
        return None
    return Reference(
        role,
        value,
        kind_of(value),
        float(strength) if isinstance(strength, int | float) else None,
        str(record.get("who", "")),
    )
