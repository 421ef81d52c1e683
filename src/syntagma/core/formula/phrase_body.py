"""The body of one phrase: glue, noun groups in brackets, optional parts in braces."""

import re

from syntagma.core.diagnostics import Mistake, Span, mistake_at, perhaps
from syntagma.core.english.word_lists import JOINERS
from syntagma.core.formula.tree import (
    ARTICLES,
    FORMS,
    NOT_SLOTS,
    FixedText,
    Group,
    Node,
    Option,
    Word,
)
from syntagma.core.notation.late_regex import regex

_WORD = regex(r"\s+|\"(?:\\.|[^\"\\])*\"?|[^\s\"]+")
_SLOT = regex(r"[^\W\d_]\w*(?:-\w+)*")


class BodyReader:
    """Reads bodies out of one source text; goes on behind a mistake and collects them all in
    `mistakes`.
    """

    def __init__(self, source: str, text: str):
        self.source = source
        self.text = text
        self.mistakes: list[Mistake] = []

    def wrong(self, start: int, stop: int, message: str, remedy: str) -> None:
        """Note a mistake at a range of the source text."""
        self.mistakes.append(mistake_at(self.source, self.text, Span(start, stop), message, remedy))

    def read(self, start: int, stop: int) -> tuple[Node, ...]:
        """Read the characters `start` to `stop` of the text as a body."""
        nodes: list[Node] = []
        at = begun = start
        while at < stop:
            char = self.text[at]
            if char == "\\":
                if at + 1 >= stop:
                    self.wrong(
                        at,
                        at + 1,
                        "a backslash with nothing after it",
                        "write \\\\ for a backslash itself",
                    )
                at += 2
            elif char in "[{":
                self._glue(nodes, begun, at)
                at, node = self._group(at, stop) if char == "[" else self._option(at, stop, nodes)
                nodes.append(node)
                begun = at
            else:
                if char in "]}":
                    self.wrong(
                        at,
                        at + 1,
                        f"“{char}” closes nothing",
                        f"delete it, or write \\{char} for the sign itself",
                    )
                at += 1
        self._glue(nodes, begun, stop)
        return tuple(nodes)

    def _glue(self, nodes: list, start: int, stop: int) -> None:
        if stop > start:
            nodes.append(FixedText(self.text[start:stop], Span(start, stop)))

    def _option(self, start: int, stop: int, before: list[Node]) -> tuple[int, Node]:
        end = self._closing(start, stop, "}")
        if end < 0:
            self.wrong(
                start,
                start + 1,
                "the brace is not closed",
                "write } after what can be left out, or \\{ for the sign itself",
            )
            return stop, FixedText(self.text[start:stop], Span(start, stop))
        inside = re.search(r"(?<!\\)\{", self.text[start + 1 : end])
        if inside:
            at = start + 1 + inside.start()
            self.wrong(
                at, at + 1, "a brace inside a brace", "close the first one before this one begins"
            )
            outer = self._closing(end, stop, "}")  # go on behind the outer one, if there is one
            end = outer if outer >= 0 else end
            return end + 1, FixedText(self.text[start : end + 1], Span(start, end + 1))
        found = len(self.mistakes)
        children = self.read(start + 1, end)
        option = Option(
            tuple(c for c in children if not isinstance(c, Option)), Span(start, end + 1)
        )
        if not any(isinstance(c, Group) for c in children) and found == len(self.mistakes):
            self.wrong(
                start,
                end + 1,
                "a brace with no slot in it",
                "put a slot in brackets into it, or remove the braces",
            )
        return end + 1, option

    def _closing(self, start: int, stop: int, sign: str) -> int:
        """Where the bracket or brace opened at `start` closes, or -1. Quoted words in a bracket are
        passed over.
        """
        at, quoted = start + 1, False
        while at < stop:
            char = self.text[at]
            if char == "\\":
                at += 1
            elif char == '"' and sign == "]":
                quoted = not quoted
            elif char == sign and not quoted:
                return at
            elif char == "[" and sign == "]" and not quoted:
                return -1
            at += 1
        return -1

    def _group(self, start: int, stop: int) -> tuple[int, Node]:
        end = self._closing(start, stop, "]")
        if end < 0:
            quote = re.search(r'^[^"\]]*"(?=[^"]*$)', self.text[start:stop])
            if quote and "]" in self.text[start:stop]:
                at = start + quote.end() - 1
                self.wrong(
                    at, at + 1, "the quotation mark is not closed", 'write " after the quoted words'
                )
            else:
                self.wrong(
                    start,
                    start + 1,
                    "the bracket is not closed",
                    "write ] after its last slot, or \\[ for the sign itself",
                )
            nearest_next = self.text.find("[", start + 1, stop)
            end = stop if nearest_next < 0 else nearest_next
            return end, FixedText(self.text[start:end], Span(start, end))
        words: list[Word] = []
        found = len(self.mistakes)
        for match in _WORD.finditer(self.text, start + 1, end):
            at, to = match.span()
            words.append(self._word(match.group(), at, to, words))
        group = Group(tuple(words), Span(start, end + 1))
        if found == len(self.mistakes):
            self._whole(group, start, end)
        if not group.slots:
            return end + 1, FixedText(self.text[start : end + 1], Span(start, end + 1))
        return end + 1, group

    def _word(self, raw: str, at: int, to: int, before: list[Word]) -> Word:
        span = Span(at, to)
        said = [w for w in before if w.kind != "space"]
        if raw.isspace():
            return Word("space", raw, raw, span)
        if raw.startswith('"'):
            return Word("quote", raw, re.sub(r"\\(.)", r"\1", raw.strip('"')), span)
        if any(w.kind == "as" for w in said):
            if raw not in FORMS or any(w.kind == "form" for w in said):
                self.wrong(
                    at,
                    to,
                    f"“{raw}” is not a form",
                    perhaps(raw, FORMS, "the forms are place, clause and plural"),
                )
            return Word("form", raw, raw, span)
        if raw.lower() in ARTICLES and raw not in ("AN", "THE"):
            if said:
                self.wrong(
                    at,
                    to,
                    f"the article “{raw}” is inside the group",
                    "an article comes first: [a mood vessel]",
                )
            return Word("article", raw, "the" if raw.lower() == "the" else "a", span)
        if raw == "as":
            return Word("as", raw, raw, span)
        if not _SLOT.fullmatch(raw):
            self.wrong(
                at,
                to,
                f"“{raw}” is not a slot name",
                "a name is letters, digits, - and _, beginning with a letter",
            )
        return Word("slot", raw, raw, span)

    def _whole(self, group: Group, start: int, end: int) -> None:
        """What can be wrong with a group whose words are all right."""
        kinds = [w.kind for w in group.words]
        if not group.slots:
            what = "the bracket holds no slot" if group.words else "the bracket is empty"
            self.wrong(start, end + 1, what, "write a slot name: [vessel]")
        elif "as" in kinds and "form" not in kinds:
            self.wrong(
                start,
                end + 1,
                "“as” with no form after it",
                "write as place, as clause or as plural",
            )
        elif group.form == "clause" and (len(group.slots) > 1 or group.of("quote")):
            self.wrong(
                start,
                end + 1,
                "“as clause” can't share a group with other words",
                f"write [{group.head} as clause]",
            )
        elif any(name in NOT_SLOTS for name in group.slots):
            self.wrong(
                start,
                end + 1,
                "an article is not a slot name",
                "name the slots after it: [a vessel]",
            )


_ADVERB = regex(
    r"\b(?:far|down|up|way|deep|high|close|all)"
    r" (?:below|above|behind|beyond|around|inside|down|over|along|through|on)$",
    re.I,
)


def hanging_word(text: str) -> str:
    """The joining word that `text` ends in ("lit by" → "by"), or a colon; "" if it ends in
    neither.
    """
    bare = text.rstrip()
    if bare.endswith(":"):
        return ":"
    last = re.search(r"[^\W\d_]+$", bare)
    if not last or last.group().lower() not in JOINERS or _ADVERB.search(bare):
        return ""  # "black rocks far below" leads nowhere
    return last.group()
