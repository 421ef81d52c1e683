"""Text to tree: the head, then one line after the other. Every mistake of a file is found in one go."""

import re

from syntagma.core.diagnostics.places import Mistake, Refused, Span, mistake_at
from syntagma.core.formula.head import read_head
from syntagma.core.formula.phrase_body import BodyReader, hanging_word
from syntagma.core.formula.tree import CONTENT, Aside, FixedText, Formula, Group, Head, Phrase
from syntagma.core.notation.late_regex import regex

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
    """Read a formula file as far as it can be read; what can't is kept word for word and named in the mistakes."""
    source = source or f"{name}.formula"
    start = "\ufeff" if text.startswith("\ufeff") else ""
    body_at, head, mistakes = _head(text, len(start), source)
    reader = BodyReader(source, text)
    lines = [_line(reader, m.group(), m.start()) for m in _LINE.finditer(text, body_at)]
    formula = Formula(name, head, tuple(lines), source, text, start)
    mistakes = mistakes + reader.mistakes + _whole(formula)
    if not mistakes and not formula.phrases and not formula.is_look:
        mistakes = [Mistake("it has no phrases", "write one phrase per line: lead  [a medium] of [a vessel]", source)]
    return formula, sorted(mistakes, key=lambda m: (m.line, m.column))


def _head(text: str, at: int, source: str) -> tuple[int, Head, list[Mistake]]:
    opening = _FENCE.match(text, at)
    if not opening:
        return at, Head(), []
    closing = re.compile(r"^\+\+\+[ \t]*\r?$\n?", re.M).search(text, opening.end())
    if not closing:
        remedy = "end the head with a line of +++"
        return len(text), Head(raw=text[at:]), [mistake_at(source, text, Span(at, at + 3), "the head is not closed", remedy)]
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
            word = re.match(r"\S+", bare).group()
            message = "the line has no label" if bare[0] in "[{~" else f"“{word}” is not a label"
            reader.wrong(first, first + len(word), message, "begin the line with a name and a space: lead  [a medium] of …")
            return aside
        label, mark, label_end = match["label"], match["mark"], first + match.end()
        if len(mark) > 1:
            reader.wrong(
                label_end - len(mark), label_end, f"“{mark}” is more than one mark", "write ! to keep it, or ? to drop it first"
            )
    body_at = label_end + len(reader.text[label_end:stop]) - len(reader.text[label_end:stop].lstrip())
    gap = reader.text[label_end:body_at]
    join_raw = re.match(r"(~[ \t]*)?", reader.text[body_at:stop]).group() if label != "-" else ""
    begun = body_at + len(join_raw)
    if begun >= stop and (label, mark) != (CONTENT, ""):
        reader.wrong(first, label_end, f"the phrase “{label}” is empty", "write its words or a slot after the label")
    body = reader.read(begun, stop)
    return Phrase(
        label, mark[:1], body, Span(first, stop), indent, reader.text[first:label_end], gap, join_raw,
        content[len(content.rstrip()) :], ending,
    )  # fmt: skip


def _whole(formula: Formula) -> list[Mistake]:
    """What is wrong between the lines: labels twice, words that would hang."""
    found: list[Mistake] = []

    def wrong(span: Span, message: str, remedy: str) -> None:
        found.append(mistake_at(formula.source, formula.text, span, message, remedy))

    seen: set[str] = set()
    for phrase in (line for line in formula.lines if isinstance(line, Phrase) and not line.negative):
        if phrase.label in seen:
            start = phrase.span.start
            wrong(Span(start, start + len(phrase.label)), f"the label “{phrase.label}” is used twice", "give one another name")
        seen.add(phrase.label)
    for phrase, following in zip(formula.phrases, formula.phrases[1:], strict=False):
        last = phrase.body[-1] if phrase.body else None
        if phrase.slots and following.joined and isinstance(last, FixedText):
            word = hanging_word(last.raw)
            if word:
                end = last.span.stop
                remedy = "begin the next line with it, after the ~"
                wrong(Span(end - len(word), end), f"“{word}” would be left hanging if the next line is dropped", remedy)
    last = next((line for line in reversed(formula.lines) if isinstance(line, Phrase) and not line.negative), None)
    if last and last.body and not last.slots and isinstance(last.body[-1], FixedText):
        word = hanging_word(last.body[-1].raw)
        if word:
            end = last.body[-1].span.stop
            message = f"“{word}” leads nowhere, so this last phrase would never be written"
            wrong(Span(end - len(word), end), message, "end it with another word, or add a line after it")
    for phrase in formula.phrases:
        if phrase.body and not any(isinstance(n, Group) or not isinstance(n, FixedText) or n.raw.strip() for n in phrase.body):
            wrong(phrase.span, f"the phrase “{phrase.label}” is empty", "write its words or a slot after the label")
    return found
