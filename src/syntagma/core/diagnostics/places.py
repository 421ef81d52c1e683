"""Places in a text, and mistakes that name theirs: file, line, column, the line itself, a caret, the remedy."""

import re
from typing import NamedTuple


class Span(NamedTuple):
    """A half-open range of characters, `start` to `stop`, in one source text."""

    start: int
    stop: int


WIDEST = 200  # characters of a line that a mistake shows


class Mistake(NamedTuple):
    """Something wrong in a person's file: what, where, and what to type instead.

    `line` and `column` count from 1; `width` is how many characters the caret underlines; line 0 means the whole file.
    """

    message: str
    remedy: str
    source: str
    line: int = 0
    column: int = 0
    text: str = ""
    width: int = 1

    def shown(self) -> str:
        """The mistake as a person reads it, over two to four lines."""
        if not self.line:
            return f"{self.source}: {self.message}\n  {self.remedy}"
        head = f"{self.source}:{self.line}:{self.column}: {self.message}"
        if not self.text.strip():
            return f"{head}\n  {self.remedy}"
        number, text, column = f"{self.line:>5} | ", self.text, self.column
        if len(text) > WIDEST:  # only what surrounds the place
            start = max(0, column - 1 - WIDEST // 2)
            text, column = f"{'…' if start else ''}{text[start : start + WIDEST]}…", column - start + (start > 0)
        pad = "".join("\t" if c == "\t" else " " for c in text[: column - 1])
        caret = pad + "^" * max(1, min(self.width, len(text) - column + 1))
        return f"{head}\n{number}{text}\n{' ' * len(number)}{caret}\n  {self.remedy}"

    def record(self) -> dict[str, str]:
        """The mistake as `--json` gives it among the findings: `at` is its place in its file."""
        at = f"{self.source}:{self.line}:{self.column}" if self.line else self.source
        return {"kind": "error", "code": "mistake", "at": at, "message": self.message, **({"remedy": self.remedy} if self.remedy else {})}


def mistake_at(source: str, text: str, span: Span, message: str, remedy: str) -> Mistake:
    """A mistake at `span` of the whole source `text`."""
    start = min(span.start, len(text))
    before = text.rfind("\n", 0, start) + 1
    after = text.find("\n", start)
    line = text[before : len(text) if after < 0 else after].rstrip("\r")
    width = max(1, min(span.stop, before + len(line)) - start)
    return Mistake(message, remedy, source, text.count("\n", 0, start) + 1, start - before + 1, line, width)


def toml_mistake(source: str, text: str, start: int, stop: int, error: str) -> Mistake:
    """The mistake that TOML's reader found in the characters `start` to `stop` of `text`."""
    message = re.sub(r" \(at .*\)$", "", error)
    spot = re.search(r"line (\d+), column (\d+)", error)
    toml = text[start:stop]
    at = max(0, len(toml.rstrip()) - 1)
    if spot:
        lines = toml.splitlines(keepends=True)
        at = sum(len(line) for line in lines[: int(spot[1]) - 1]) + int(spot[2]) - 1
    remedy = 'it is TOML: name = "text", one per line, text in quotes, tables in [brackets]'
    span = Span(start + at, start + at + 1)
    return mistake_at(source, text, span, f"this can't be read: {message[:1].lower()}{message[1:]}", remedy)


class Refused(Exception):
    """Input that can't be used as it is. Carries every mistake found, for a person to fix in one go."""

    def __init__(self, mistakes: list[Mistake]):
        super().__init__("\n".join(m.shown() for m in mistakes[:60]))
        self.mistakes = mistakes
