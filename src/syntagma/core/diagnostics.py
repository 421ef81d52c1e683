"""What is wrong, where, and what to do instead: mistakes with their places, findings, the nearest
known name, and remedies that the command line words.
"""

from collections.abc import Iterable, Mapping
from typing import NamedTuple


class SyntagmaError(Exception):
    """The root of all that the program raises: `except SyntagmaError` catches whatever goes wrong
    in it, and no defect.

    The message says what is wrong; `remedy` says what to do or to type instead. `status` is the
    exit status of a command that meets it: 1 where something that was given holds errors, or
    nothing matched; 2 for a wrong call; 3 for trouble outside (a file that does not exist or can't
    be written, the network, the budget, a package that is not installed).
    """

    def __init__(self, message: object = "", remedy: str = "", status: int = 3):
        super().__init__(message)
        self.remedy, self.status = remedy, status


# ──── How a person comes to something: the core says what to do; its caller names the command for
# it (`use`).


_WAYS = {  # by name: what is said if nobody has a call for it
    "facets": "use an existing facet",
    "terms": "use a term of {facet}",
    "looks": "an existing one",
    "models": "use an existing model",
    "stress": "{name}={weight}",
    "parameter": "{name}={value}",
    "tags": "use a tag of the vocabulary",
    "language": "use the language of formulas",
}
NAMES = frozenset(_WAYS)


def use(ways: Mapping[str, str]) -> None:
    """Say it in these words from now on: by name, each with the same values in {braces}. Raises
    KeyError for a name that there is not.
    """
    for name, said in ways.items():
        if name not in NAMES:
            raise KeyError(name)
        _WAYS[name] = said


def way(name: str, /, **values: object) -> str:
    """How a person comes to something."""
    return _WAYS[name].format(**values)


# ──── The nearest known name to one that a person typed.


NEAR = 66  # how alike two names are, of 100, from which on one may be meant by the other


def nearest(name: str, known: Iterable[str], least: float = NEAR) -> str:
    """Return the known name that `name` was probably meant to be, or "" if none is near."""
    return next((one for one in near(name, known, 1, least) if one != name), "")


def near(name: str, known: Iterable[str], number: int, least: float = NEAR) -> list[str]:
    """The known names that are most like `name`, the nearest first."""
    from rapidfuzz import (
        fuzz,
        process,
        utils,
    )  # imported late: only a mistake or a search pays for it

    return [
        one
        for one, _, _ in process.extract(
            name,
            sorted(set(known)),
            scorer=fuzz.ratio,
            processor=utils.default_process,
            limit=number,
            score_cutoff=least,
        )
    ]


def perhaps(name: str, known: Iterable[str], otherwise: str) -> str:
    """A remedy: the nearest name, or the names with the nearest word in them, as a question; else
    `otherwise`.
    """
    known = list(known)
    words = {one: one.lower().replace("_", "-").split("-") for one in known}

    def holding(word: str) -> list[str]:
        found = [one for one in known if word and word in words[one]]
        return found if len(found) <= 4 else []

    found = holding(name.lower()) or [one for one in (nearest(name, known),) if one]
    found = found or holding(nearest(name, {word for one in known for word in words[one]}))
    return f"did you mean {' or '.join(f'“{one}”' for one in found)}?" if found else otherwise


# ──── What a check has to say: an error, a warning or a remark, with its place and its remedy.


ERROR, WARNING, REMARK = "error", "warning", "remark"


class Finding(NamedTuple):
    """One finding. `place` is what it is about: a slot, a phrase, a limit; blank if it is the whole
    prompt. `code` names what was found, whatever the words (docs/reference/records.md lists them).
    """

    kind: str
    message: str
    remedy: str = ""
    place: str = ""
    code: str = ""

    def record(self) -> dict[str, str]:
        """The finding as `--json` gives it, blank parts left out."""
        parts = {
            "kind": self.kind,
            "code": self.code,
            "at": self.place,
            "message": self.message,
            "remedy": self.remedy,
        }
        return {key: value for key, value in parts.items() if value}


# ──── Places in a text, and mistakes that name theirs: file, line, column, the line itself, a
# caret, the remedy.


class Span(NamedTuple):
    """A half-open range of characters, `start` to `stop`, in one source text."""

    start: int
    stop: int


WIDEST = 200  # characters of a line that a mistake shows


class Mistake(NamedTuple):
    """Something wrong in a person's file: what, where, and what to type instead.

    `line` and `column` count from 1; `width` is how many characters the caret underlines; line 0
    means the whole file.
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
            text, column = (
                f"{'…' if start else ''}{text[start : start + WIDEST]}…",
                column - start + (start > 0),
            )
        pad = "".join("\t" if c == "\t" else " " for c in text[: column - 1])
        caret = pad + "^" * max(1, min(self.width, len(text) - column + 1))
        return f"{head}\n{number}{text}\n{' ' * len(number)}{caret}\n  {self.remedy}"

    def record(self) -> dict[str, str]:
        """The mistake as `--json` gives it among the findings: `at` is its place in its file."""
        at = f"{self.source}:{self.line}:{self.column}" if self.line else self.source
        return {
            "kind": "error",
            "code": "mistake",
            "at": at,
            "message": self.message,
            **({"remedy": self.remedy} if self.remedy else {}),
        }


def mistake_at(source: str, text: str, span: Span, message: str, remedy: str) -> Mistake:
    """A mistake at `span` of the whole source `text`."""
    start = min(span.start, len(text))
    before = text.rfind("\n", 0, start) + 1
    after = text.find("\n", start)
    line = text[before : len(text) if after < 0 else after].rstrip("\r")
    width = max(1, min(span.stop, before + len(line)) - start)
    return Mistake(
        message, remedy, source, text.count("\n", 0, start) + 1, start - before + 1, line, width
    )


class Refused(SyntagmaError):
    """Input that can't be used as it is. Carries every mistake found, for a person to fix in one
    go.
    """

    def __init__(self, mistakes: list[Mistake]):
        super().__init__("\n".join(m.shown() for m in mistakes[:60]))
        self.mistakes = mistakes


class Trouble(SyntagmaError):
    """Trouble that a person can fix: one line that says what is wrong, one that says what to type
    instead.
    """


class WrongValue(Trouble, ValueError):
    """A value, a row or a condition that can't be what it should be; within a call, the call is
    wrong (status 2).
    """

    def __init__(self, message: str, remedy: str):
        super().__init__(message, remedy, 2)


class NoFile(Trouble):
    """A file that was named does not exist; its name may be mistyped."""

    def __init__(self, name: object):
        super().__init__(
            f"{name} does not exist", "check its name, and that you are in the right folder"
        )
