"""How things look in a terminal: every table, colour and progress bar. Plain when piped, or with NO_COLOR."""

import os
import sys
from collections.abc import Iterable, Sequence

from syntagma.core.findings import ERROR, REMARK, Finding
from syntagma.core.realising import Piece

# One ink for each thing, on dark and light grounds: names, what differs, what is quiet, what is wrong.
NAME, CHANGED, QUIET, WRONG, GOOD = "bold cyan", "bold yellow", "dim", "bold red", "green"


def on_terminal() -> bool:
    """Does a person see standard output?"""
    return sys.stdout.isatty()


def remarks_seen() -> bool:
    """Does a person see standard error, where remarks go? Nobody else needs them."""
    return sys.stderr.isatty()


def console(error: bool = False):
    """A rich console on standard output or standard error, as wide as the terminal (80 when there is none)."""
    from rich.console import Console

    stream = sys.stderr if error else sys.stdout
    width = None if stream.isatty() or "COLUMNS" in os.environ else 80
    return Console(file=stream, width=width, highlight=False, soft_wrap=False, emoji=False, markup=False)


def table(columns: Sequence[str], rows: Iterable[Sequence[object]], flexible: str = "", cut: bool = False) -> None:
    """Print a table; `flexible` names the column that gives way where the width runs out: it wraps, or is `cut`."""
    from rich.box import SIMPLE_HEAD
    from rich.table import Table
    from rich.text import Text

    rows = [[cell if isinstance(cell, Text) else Text(str(cell)) for cell in row] for row in rows]
    grid = Table(box=SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    for i, name in enumerate(columns):
        widest = max((len(row[i]) for row in rows), default=0)
        right = name in ("terms", "slots", "used", "number")
        grid.add_column(
            name, style=NAME if i == 0 else "", no_wrap=(i == 0 and name != flexible) or (cut and name == flexible),
            justify="right" if right else "left", overflow="ellipsis" if cut else "fold",
            ratio=1 if name == flexible else None, min_width=0 if name == flexible else min(widest, 40),
        )  # fmt: skip
    for row in rows:
        grid.add_row(*row)
    console().print(grid)


def say(*parts: tuple[str, str] | str, error: bool = True) -> None:
    """A line for a person, in parts of text or (text, style); to standard error unless told otherwise."""
    stream = sys.stderr if error else sys.stdout
    sys.stdout.flush()  # what was printed before comes before
    texts = [p if isinstance(p, str) else p[0] for p in parts]
    if not _coloured(stream):
        print("".join(texts), file=stream)
        return
    from rich.text import Text

    text = Text()
    for part in parts:
        text.append(*((part,) if isinstance(part, str) else part))
    console(error).print(text)


def _coloured(stream) -> bool:
    return stream.isatty() and "NO_COLOR" not in os.environ and os.environ.get("TERM") != "dumb"


def findings(found: Sequence[Finding], remarks: bool = True) -> None:
    """Findings, one a line with its remedy below, on standard error; remarks only where a person sees them."""
    for finding in found:
        if finding.kind == REMARK and not (remarks and remarks_seen()):
            continue
        style = WRONG if finding.kind == ERROR else CHANGED if finding.kind != REMARK else QUIET
        place = f"{finding.place}: " if finding.place else ""
        say((finding.kind, style), f" {place}{finding.message}")
        if finding.remedy:
            say((f"  {finding.remedy}", QUIET))


def size(record: dict) -> str:
    """How much of the limit a prompt uses: "212 of 900 characters"."""
    limit = record.get("size", {}).get("text")
    if limit:
        return f"{limit['used']} of {limit['limit']} {limit['unit']}"
    return f"{len(record['text'])} characters"


def marked(pieces: Sequence[Piece], changed: Sequence[str]):
    """A prompt's text with what stands in the `changed` slots marked: coloured, or between ‹ › where there is no colour."""
    from rich.text import Text

    text = Text()
    coloured = _coloured(sys.stdout)
    for piece in pieces:
        if piece.slot in changed:
            text.append(piece.text if coloured else f"‹{piece.text}›", CHANGED if coloured else "")
        else:
            text.append(piece.text)
    return text


def member(number: int, what: str, text, note: str, shown: bool = True) -> None:
    """One member of a family: its number and what differs, the prompt, its size."""
    from rich.padding import Padding
    from rich.text import Text

    out = console()
    head = Text(f"{number:>3}  ", NAME)
    head.append(what, "bold" if number > 1 else "")
    head.append(f"  {note}", QUIET)
    out.print(head)
    out.print(Padding(text, (0, 0, 1, 5)))


class Progress:
    """A progress bar on standard error, for long work that a person watches."""

    def __init__(self, total: int | None, what: str):
        self._bar = None
        if sys.stderr.isatty() and (total is None or total >= 20_000):
            from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

            columns = (TextColumn(what), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn())
            self._bar = Progress(*columns, console=console(error=True), transient=True)
            self._task = self._bar.add_task(what, total=total)

    def __enter__(self):
        if self._bar:
            self._bar.start()
            return lambda done: self._bar.update(self._task, completed=done)
        return None

    def __exit__(self, *error) -> None:
        if self._bar:
            self._bar.stop()


def json(value: object) -> None:
    """Print JSON on standard output."""
    from orjson import OPT_INDENT_2, dumps

    sys.stdout.flush()
    sys.stdout.buffer.write(dumps(value, option=OPT_INDENT_2) + b"\n")
    sys.stdout.buffer.flush()
