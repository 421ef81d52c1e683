"""A formula from text: its head (TOML), its phrases, or one line; every mistake with its place."""

import re
from collections.abc import Mapping
from typing import Any

from syntagma.core.diagnostics import (
    REMARK,
    Finding,
    Mistake,
    Refused,
    Span,
    mistake_at,
    nearest,
    perhaps,
    way,
)
from syntagma.core.english import ends_sentence
from syntagma.core.formula.phrase_body import BodyReader, hanging_word
from syntagma.core.formula.tree import (
    CONTENT,
    MEDIA_WORDS,
    NOT_SLOTS,
    Aside,
    Condition,
    FixedText,
    Formula,
    Group,
    Head,
    Phrase,
    SlotRule,
)
from syntagma.core.models.references import reference_of
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.ranges import OutOfRange, number, parameter
from syntagma.core.notation.toml import SAYS, NoToml, read_toml, toml_mistake
from syntagma.core.vocabulary.terms import Vocabulary, split_list
from syntagma.core.vocabulary.world import BadWorld

# ──── The head of a formula: TOML to values, each mistake at its line.


KEYS = (
    "about",
    "when",
    "media",
    "slots",
    "parameters",
    "example",
    "settles",
    "forward",
    "stress",
    "references",
    "world",
    "only-if",
)
SLOT_KEYS = (
    "facet",
    "need",
    "default",
    "take",
    "only",
    "never",
    "number",
    "about",
    "ask",
    "tag",
    "world",
    "skip",
)


def read_head(
    source: str, text: str, at: int, start: int, stop: int, end: int
) -> tuple[Head, list[Mistake]]:
    """Read the TOML that is at `start` to `stop` of `text`; the head with its +++ lines spans `at`
    to `end`.
    """
    return _HeadReader(source, text, at, start, stop, end).read()


class _HeadReader:
    def __init__(self, source: str, text: str, at: int, start: int, stop: int, end: int):
        self.source, self.text, self.start, self.stop = source, text, start, stop
        self.raw = text[at:end]
        self.mistakes: list[Mistake] = []

    def read(self) -> tuple[Head, list[Mistake]]:
        toml = self.text[self.start : self.stop]
        try:
            values = read_toml(toml)
        except NoToml as error:
            return Head(raw=self.raw), [
                toml_mistake(self.source, self.text, self.start, self.stop, error)
            ]
        for key in values:
            if key not in KEYS:
                remedy = perhaps(key, KEYS, f"the keys of a head are {', '.join(KEYS)}")
                self._wrong(key, "", f"a head has no key “{key}”", remedy)
        media = values.get("media", "")
        if media not in MEDIA_WORDS:
            self._wrong("media", "", f"“{media}” is not a medium", "write image, video or both")
        texts = {key: self._text(values, key) for key in ("about", "when")}
        example = {k: _strings(v) for k, v in self._table(values, "example").items()}
        slots = {
            name: self._slot(name, rule) for name, rule in self._table(values, "slots").items()
        }
        media = "" if media in ("both", "") or media not in MEDIA_WORDS else media
        parameters = self._parameters(self._table(values, "parameters"))
        lists = {
            key: self._names(values, key, like)
            for key, like in (
                ("settles", "palette"),
                ("forward", "closing"),
                ("references", "style=print.png*0.6"),
            )
        }
        for word in lists["references"]:
            if reference_of(word) is None:
                self._wrong(
                    "references",
                    "",
                    f"“{word}” is not a complete reference",
                    'write references = ["style=print.png*0.6"]',
                )
        stress = self._stress(self._table(values, "stress"))
        world = self._text(values, "world")
        only_if = {
            label: self._condition(label, said)
            for label, said in self._table(values, "only-if").items()
        }
        head = Head(
            self.raw,
            media=media,
            slots=slots,
            parameters=parameters,
            example=example,
            stress=stress,
            about=texts["about"],
            when=texts["when"],
            settles=lists["settles"],
            forward=lists["forward"],
            references=lists["references"],
        )
        return head._replace(worlds=(("", world),) if world else (), only_if=only_if), self.mistakes

    def _condition(self, label: str, said: object) -> Condition:
        """ "subject: #person; #group", "subject: not #group"."""
        slot, colon, words = str(said).partition(":")
        negated = words.strip().startswith("not ")
        names = split_list(words.strip().removeprefix("not "))
        if not isinstance(said, str) or not colon or not names:
            self._wrong(
                label,
                "only-if",
                f"“{said}” does not say when to write the phrase “{label}”",
                f'write {label} = "subject: #person"',
            )
        return Condition(slot.strip(), names, negated)

    def _names(self, values: dict, key: str, like: str) -> tuple[str, ...]:
        names = values.get(key, [])
        if isinstance(names, list) and all(isinstance(name, str) for name in names):
            return tuple(names)
        self._wrong(key, "", f"“{key}” takes a list of names", f'write {key} = ["{like}"]')
        return ()

    def _parameters(self, values: dict) -> dict[str, object]:
        for name, value in values.items():
            if not isinstance(value, str | int | float | bool):
                self._wrong(
                    name,
                    "parameters",
                    f"the parameter “{name}” takes text, a number, or true or false",
                    f'write {name} = "2:3"',
                )
                continue
            try:
                parameter(name, value)
            except OutOfRange as wrong:
                self._wrong(name, "parameters", str(wrong), wrong.remedy)
        return {
            name: value
            for name, value in values.items()
            if isinstance(value, str | int | float | bool)
        }

    def _stress(self, weights: dict) -> dict[str, float]:
        good: dict[str, float] = {}
        for name, weight in weights.items():
            try:
                good[name] = number("weight", weight)
            except OutOfRange as wrong:
                self._wrong(name, "stress", str(wrong), f"{wrong.remedy}: {name} = 1.3")
        return good

    def _text(self, values: dict, key: str) -> str:
        value = values.get(key, "")
        if not isinstance(value, str):
            self._wrong(key, "", f"“{key}” takes text", f'write {key} = "…"')
            return ""
        return value

    def _table(self, values: dict, key: str) -> dict:
        value = values.get(key, {})
        if not isinstance(value, dict):
            self._wrong(
                key,
                "",
                f"“{key}” is a table",
                f"write [{key}] on its own line, with its keys below",
            )
            return {}
        return value

    def _slot(self, name: str, rule: object) -> SlotRule:
        if name in NOT_SLOTS:
            self._wrong(
                name,
                "slots",
                f"“{name}” is not a slot name",
                "a, an, the and as have a meaning of their own",
            )
        if not isinstance(rule, dict):
            self._wrong(
                name,
                "slots",
                f"the slot “{name}” takes a table",
                f'write {name} = {{ facet = "…" }}',
            )
            return SlotRule(name, name, True)
        kinds = {
            "facet": str,
            "need": bool,
            "number": bool,
            "skip": int,
            "only": str,
            "never": str,
            "about": str,
            "ask": str,
            "tag": str,
            "world": str,
        }
        for key, value in rule.items():
            if key not in SLOT_KEYS:
                remedy = perhaps(key, SLOT_KEYS, f"the keys of a slot are {', '.join(SLOT_KEYS)}")
                self._wrong(name, "slots", f"a slot has no key “{key}”", remedy, key)
            elif key in kinds and not isinstance(value, kinds[key]):
                self._wrong(name, "slots", f"“{key}” of “{name}” takes {SAYS[kinds[key]]}", "", key)
        default = rule.get("default", ())
        counts = rule.get("number") is True or name == "count"
        return SlotRule(
            name,
            facet=rule["facet"] if isinstance(rule.get("facet"), str) else name,
            declared="facet" in rule,
            need=rule.get("need") is True,
            default=(values,) if isinstance(values := _strings(default), str) else values,
            take=self._take(name, rule.get("take", 1)),
            number=counts,
            only=_tags(rule, "only"),
            never=_tags(rule, "never"),
            about=_said(rule, "about"),
            ask=_said(rule, "ask"),
            skip=max(0, rule["skip"]) if type(rule.get("skip")) is int else 0,
            world=_said(rule, "world"),
            tag=_said(rule, "tag"),
        )

    def _take(self, name: str, take: object) -> tuple[int, int]:
        pair = [take, take] if isinstance(take, int) else take
        if (
            isinstance(pair, list)
            and len(pair) == 2
            and all(type(n) is int for n in pair)
            and 1 <= pair[0] <= pair[1]
        ):
            return pair[0], pair[1]
        self._wrong(
            name,
            "slots",
            f"“take” of “{name}” is not a range",
            "write take = 2, or take = [1, 3]",
            "take",
        )
        return 1, 1

    def _wrong(self, key: str, table: str, message: str, remedy: str, inside: str = "") -> None:
        """A mistake at the line where `key` is given, in `table` if one is named, at `inside` in
        that line.
        """
        toml = self.text[self.start : self.stop]
        from_ = 0
        if table:
            section = re.search(rf"^[ \t]*\[[ \t]*{table}\b", toml, re.M)
            from_ = section.end() if section else 0
        spot = re.compile(
            rf"^[ \t]*(?:\[\s*(?:{table}\.)?|{table}\.)?[\"']?({re.escape(key)})[\"']?", re.M
        ).search(toml, from_)
        at, width = (spot.start(1), len(key)) if spot else (0, 1)
        if inside and spot:
            deeper = re.search(rf"\b{re.escape(inside)}\b", toml[spot.end() :])
            if deeper:
                at, width = spot.end() + deeper.start(), len(inside)
        span = Span(self.start + at, self.start + at + width)
        self.mistakes.append(
            mistake_at(self.source, self.text, span, message, remedy or way("language"))
        )


def _strings(value: object) -> str | tuple[str, ...]:
    """A value of the head as fills are: text, or a list of texts."""
    return tuple(str(v) for v in value) if isinstance(value, list | tuple) else str(value)


def _said(rule: Mapping[str, Any], key: str) -> str:
    """The text of a key; "" if it has none."""
    value = rule.get(key)
    return value if isinstance(value, str) else ""


def _tags(rule: dict, key: str) -> tuple[str, ...]:
    return split_list(rule[key]) if isinstance(rule.get(key), str) else ()


# ──── A formula against the facets that apply: unknown ones are mistakes, near misses and idle
# slots are remarks.


def check_formula(formula: Formula, vocabulary: Vocabulary) -> tuple[list[Mistake], list[Finding]]:
    """Mistakes for facets that the head names and nobody has, and for a world that can't be read;
    remarks for slots and conditions that look like a slip of the pen.
    """
    facets = vocabulary.names
    mistakes: list[Mistake] = []
    remarks: list[Finding] = []
    for rule in formula.slots:
        if not rule.facet or rule.number or rule.facet in facets:
            continue
        if rule.declared:
            pattern = rf"^\s*[\"']?{re.escape(rule.name)}[\"']?\s*=.*?\bfacet\s*=\s*[\"'](.*?)[\"']"
            spot = re.search(pattern, formula.head.raw, re.M)
            at = len(formula.start) + (spot.start(1) if spot else 0)
            remedy = perhaps(
                rule.facet, facets, f'{way("facets")}; facet = "" makes it a free slot'
            )
            span = Span(at, at + len(rule.facet))
            mistakes.append(
                mistake_at(
                    formula.source, formula.text, span, f"no facet is called “{rule.facet}”", remedy
                )
            )
        elif near := nearest(rule.name, facets):
            message = f"no facet is called “{rule.name}”, so this slot takes free text"
            remarks.append(
                Finding(REMARK, message, f"did you mean “{near}”?", rule.name, code="near-miss")
            )
    for facet in formula.head.settles:
        if facet not in facets:
            remedy = perhaps(facet, facets, way("facets"))
            remarks.append(
                Finding(
                    REMARK,
                    f"no facet is called “{facet}”, so the look can't settle it",
                    remedy,
                    "settles",
                    code="no-such-facet",
                )
            )
    used = {rule.name for rule in formula.slots}
    for name in formula.head.slots:
        if name not in used:
            remedy = perhaps(
                name, used, f"write [{name}] in a phrase, or delete its line from the head"
            )
            remarks.append(
                Finding(REMARK, f"no phrase has the slot “{name}”", remedy, name, code="idle-slot")
            )
    labels = {phrase.label for phrase in (*formula.phrases, *formula.negatives)}
    for label, condition in formula.head.only_if.items():
        if label not in labels:
            remarks.append(
                Finding(
                    REMARK,
                    f"no phrase is labelled “{label}”",
                    perhaps(label, labels, "give the label of a phrase"),
                    label,
                    code="idle-slot",
                )
            )
        elif condition.slot not in used:
            remedy = perhaps(condition.slot, used, "give a slot of the formula")
            remarks.append(
                Finding(
                    REMARK,
                    f"“{label}” depends on the slot “{condition.slot}”, but no phrase has it",
                    remedy,
                    label,
                    code="idle-slot",
                )
            )
    for world in (
        *(world for _, world in formula.head.worlds),
        *(rule.world for rule in formula.slots if rule.world),
    ):
        try:
            vocabulary.dimensions.world(world)
        except BadWorld as bad:
            at = len(formula.start) + max(formula.head.raw.find(world), 0)
            mistakes.append(
                mistake_at(formula.source, formula.text, Span(at, at + 1), str(bad), bad.remedy)
            )
    return mistakes, remarks


def unguarded_words(formula: Formula) -> list[Finding]:
    """Remarks on fixed words after the slots that no condition represents: picks may go against
    them.
    """
    if formula.head.worlds or formula.is_look:
        return []
    last = max((i for i, phrase in enumerate(formula.phrases) if phrase.slots), default=-1)
    fixed = [
        phrase
        for phrase in formula.phrases[last + 1 :]
        if len(formula.text[phrase.span.start : phrase.span.stop].split()) > 3
    ]  # its label, and three words
    return [
        Finding(
            REMARK,
            "the head does not say what these words require, so a pick may contradict them",
            'add a line such as world = "top: empty; finish: clean" to the head',
            phrase.label,
            code="closing-words",
        )
        for phrase in fixed
    ]


# ──── A formula given on one line: its phrases are what stands between commas and stops.


_OPEN, _CLOSE = "[{(“«", "]})”»"


def is_oneline(text: str) -> bool:
    """Is `text`, given where a formula's name is expected, a formula itself?"""
    return "[" in text


def read_oneline(text: str) -> Formula:
    """Read a formula given on one line; its name is the line. Raises Refused with all its
    mistakes.
    """
    reader = BodyReader("the formula", text)
    phrases: list[Phrase] = []
    labels: dict[str, int] = {}
    for start, stop, ending in _parts(text):
        begun = start + len(text[start:stop]) - len(text[start:stop].lstrip())
        join_raw = _leaning(text[begun:stop])
        body_at = begun + len(join_raw)
        end = max(body_at, start + len(text[start:stop].rstrip()))
        body = reader.read(body_at, end)
        phrase = Phrase(
            "",
            "",
            body,
            Span(begun, end),
            gap=text[start:begun],
            join_raw=join_raw,
            tail=text[end:stop],
            ending=ending,
        )
        label = phrase.slots[0] if phrase.slots else "part"
        labels[label] = labels.get(label, 0) + 1
        label += f"-{labels[label]}" if labels[label] > 1 else ""
        phrases.append(
            Phrase(label, "", body, phrase.span, "", "", phrase.gap, join_raw, phrase.tail, ending)
        )
    if not any(p.body for p in phrases):
        reader.wrong(
            0, len(text), "it has no phrases", 'write one: "[a medium] of [a vessel], [light]"'
        )
    if reader.mistakes:
        raise Refused(reader.mistakes)
    return Formula(
        text, Head(), tuple(p for p in phrases if p.body or p.ending or p.gap), "the formula", text
    )


def _leaning(text: str) -> str:
    """The ~ that a text begins with, and the spaces after it; "" without one."""
    return text[: len(text) - len(text[1:].lstrip(" \t"))] if text.startswith("~") else ""


def _parts(text: str) -> list[tuple[int, int, str]]:
    """(start, stop, ending) of each phrase: the comma is the ending; a stop stays with its
    phrase.
    """
    parts: list[tuple[int, int, str]] = []
    depth, quoted, begun, at = 0, False, 0, 0
    while at < len(text):
        char = text[at]
        if char == "\\":
            at += 1
        elif char == '"':
            quoted = not quoted
        elif char in _OPEN:
            depth += 1
        elif char in _CLOSE:
            depth = max(0, depth - 1)
        elif depth == 0 and not quoted:
            follows = text[at + 1 : at + 2]
            if char == "," and not follows.isdigit():
                parts.append((begun, at, ","))
                begun = at + 1
            elif (
                char in ".!?;"
                and not follows.strip()
                and (char == ";" or ends_sentence(text[begun : at + 1]))
            ):
                parts.append((begun, at + 1, ""))
                begun = at + 1
        at += 1
    if begun < len(text):
        parts.append((begun, len(text), ""))
    return parts


# ──── Text to tree: the head, then one line after the other. Every mistake of a file is found in
# one go.


_LINE = regex(r"[^\n]*\n|[^\n]+")
_LABEL = regex(r"(?P<label>[^\W\d_][\w-]*(?:\.[^\W\d_][\w-]*)*)(?P<mark>[!?]*)(?=\s|$)")
_FENCE = regex(r"\+\+\+[ \t]*\r?\n?")


def read_formula(text: str, name: str, source: str = "") -> Formula:
    """Read a formula file. Raises Refused with all its mistakes."""
    formula, mistakes = parse_formula(text, name, source)
    if mistakes:
        raise Refused(mistakes)
    return formula


def parse_formula(text: str, name: str, source: str = "") -> tuple[Formula, list[Mistake]]:
    """Read a formula file as far as it can be read; what can't is kept word for word and named in
    the mistakes.
    """
    source = source or f"{name}.formula"
    start = "\ufeff" if text.startswith("\ufeff") else ""
    body_at, head, mistakes = _head(text, len(start), source)
    reader = BodyReader(source, text)
    lines = [_line(reader, m.group(), m.start()) for m in _LINE.finditer(text, body_at)]
    formula = Formula(name, head, tuple(lines), source, text, start)
    mistakes = mistakes + reader.mistakes + _whole(formula)
    if not mistakes and not formula.phrases and not formula.is_look:
        mistakes = [
            Mistake(
                "it has no phrases",
                "write one phrase per line: lead  [a medium] of [a vessel]",
                source,
            )
        ]
    return formula, sorted(mistakes, key=lambda m: (m.line, m.column))


def _head(text: str, at: int, source: str) -> tuple[int, Head, list[Mistake]]:
    opening = _FENCE.match(text, at)
    if not opening:
        return at, Head(), []
    closing = re.compile(r"^\+\+\+[ \t]*\r?$\n?", re.M).search(text, opening.end())
    if not closing:
        remedy = "end the head with a line of +++"
        return (
            len(text),
            Head(raw=text[at:]),
            [mistake_at(source, text, Span(at, at + 3), "the head is not closed", remedy)],
        )
    head, mistakes = read_head(source, text, at, opening.end(), closing.start(), closing.end())
    return closing.end(), head, mistakes


def _line(reader: BodyReader, raw: str, at: int) -> Phrase | Aside:
    content = raw.rstrip("\r\n")
    ending = raw[len(content) :]
    bare = content.strip()
    aside = Aside(raw, Span(at, at + len(raw)))
    if not bare or bare.startswith("#"):
        return aside
    indent = content[: len(content) - len(content.lstrip())]
    first = at + len(indent)
    stop = at + len(content.rstrip())
    if re.match(r"-(?=\s|$)", bare):
        label, mark, label_end = "-", "", first + 1
    else:
        match = _LABEL.match(bare)
        if not match:
            word = bare.split()[0]
            message = "the line has no label" if bare[0] in "[{~" else f"“{word}” is not a label"
            reader.wrong(
                first,
                first + len(word),
                message,
                "begin the line with a name and a space: lead  [a medium] of …",
            )
            return aside
        label, mark, label_end = match["label"], match["mark"], first + match.end()
        if len(mark) > 1:
            reader.wrong(
                label_end - len(mark),
                label_end,
                f"“{mark}” is more than one mark",
                "write ! to keep it, or ? to drop it first",
            )
    body_at = (
        label_end + len(reader.text[label_end:stop]) - len(reader.text[label_end:stop].lstrip())
    )
    gap = reader.text[label_end:body_at]
    join_raw = _leaning(reader.text[body_at:stop]) if label != "-" else ""
    begun = body_at + len(join_raw)
    if begun >= stop and (label, mark) != (CONTENT, ""):
        reader.wrong(
            first,
            label_end,
            f"the phrase “{label}” is empty",
            "write its words or a slot after the label",
        )
    body = reader.read(begun, stop)
    return Phrase(
        label,
        mark[:1],
        body,
        Span(first, stop),
        indent,
        reader.text[first:label_end],
        gap,
        join_raw,
        content[len(content.rstrip()) :],
        ending,
    )


def _whole(formula: Formula) -> list[Mistake]:
    """What is wrong between the lines: labels twice, words that would hang."""
    found: list[Mistake] = []

    def wrong(span: Span, message: str, remedy: str) -> None:
        found.append(mistake_at(formula.source, formula.text, span, message, remedy))

    seen: set[str] = set()
    for phrase in (
        line for line in formula.lines if isinstance(line, Phrase) and not line.negative
    ):
        if phrase.label in seen:
            start = phrase.span.start
            wrong(
                Span(start, start + len(phrase.label)),
                f"the label “{phrase.label}” is used twice",
                "give one another name",
            )
        seen.add(phrase.label)
    for phrase, following in zip(formula.phrases, formula.phrases[1:], strict=False):
        last = phrase.body[-1] if phrase.body else None
        if phrase.slots and following.joined and isinstance(last, FixedText):
            word = hanging_word(last.raw)
            if word:
                end = last.span.stop
                remedy = "begin the next line with it, after the ~"
                wrong(
                    Span(end - len(word), end),
                    f"“{word}” would be left hanging if the next line is dropped",
                    remedy,
                )
    final = next(
        (
            line
            for line in reversed(formula.lines)
            if isinstance(line, Phrase) and not line.negative
        ),
        None,
    )
    end_text = final.body[-1] if final and final.body and not final.slots else None
    if isinstance(end_text, FixedText):
        word = hanging_word(end_text.raw)
        if word:
            end = end_text.span.stop
            message = f"“{word}” leads nowhere, so this last phrase would never be written"
            wrong(
                Span(end - len(word), end),
                message,
                "end it with another word, or add a line after it",
            )
    for phrase in formula.phrases:
        if phrase.body and not any(
            isinstance(n, Group) or not isinstance(n, FixedText) or n.raw.strip()
            for n in phrase.body
        ):
            wrong(
                phrase.span,
                f"the phrase “{phrase.label}” is empty",
                "write its words or a slot after the label",
            )
    return found
