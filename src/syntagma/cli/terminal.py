"""How things look in a terminal: every text, table, colour and progress bar. Plain when piped, or
with NO_COLOR. Nothing else in the program writes to the terminal, and nothing that a terminal would
obey goes through here.
"""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterable, Sequence
from functools import cached_property
from itertools import groupby, zip_longest
from typing import TYPE_CHECKING, Any, Literal

from syntagma.cli.harmless import shown
from syntagma.core.diagnostics import ERROR, REMARK, Finding
from syntagma.core.realising import TextPiece

if TYPE_CHECKING:
    from syntagma.core.fitting import Bit

NUMERIC = ("terms", "slots")  # columns of numbers are aligned to the right
NAME, CHANGED, QUIET, WRONG = (
    "name",
    "changed",
    "quiet",
    "wrong",
)  # what is named, differs, matters less, is wrong
# Each ink if there are 256 colours or more, and if there are 16. The first are of middle lightness,
# for light and for dark windows: against
# white and against black each has a contrast of at least 3.8 (WCAG). The 16 are what a person's own
# terminal makes of them.
INKS = {
    NAME: ("color(30)", "cyan"),
    CHANGED: ("bold color(133)", "bold magenta"),
    QUIET: ("dim", "dim"),
    WRONG: ("bold color(160)", "bold red"),
    "green": ("color(64)", "green"),
    "blue": ("color(62)", "bright_blue"),
    "violet": ("color(133)", "magenta"),
    "teal": ("color(30)", "cyan"),
    "ochre": ("color(130)", "yellow"),
    "crimson": ("color(161)", "red"),
}


def on_terminal() -> bool:
    """Does a person see standard output?"""
    return sys.stdout.isatty()


class _Loudness:
    """How much a call says beside what was asked for: -q, -v."""

    quiet = verbose = False


_loud = _Loudness()


def loudness(quiet: bool, verbose: bool) -> None:
    """Say less, or more, from now on."""
    _loud.quiet, _loud.verbose = quiet and not verbose, verbose


def everything() -> bool:
    """Is everything to be said?"""
    return _loud.verbose


def remarks_seen() -> bool:
    """Does a person see standard error, where remarks go? Nobody else needs them, unless
    they ask.
    """
    return (sys.stderr.isatty() or _loud.verbose) and not _loud.quiet


def console(error: bool = False):
    """A rich console on standard output or standard error, as wide as the terminal (80 when there
    is none).
    """
    from rich.console import Console, ConsoleOptions, ConsoleRenderable, RenderHook, RenderResult
    from rich.segment import Segment
    from rich.theme import Theme

    class Harmless:
        """What is printed, without what a terminal would obey."""

        def __init__(self, inner: ConsoleRenderable):
            self.inner = inner

        def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
            for part in console.render(self.inner, options):
                yield part if part.control else Segment(shown(part.text), part.style)

    class Hook(RenderHook):
        def process_renderables(
            self, renderables: list[ConsoleRenderable]
        ) -> list[ConsoleRenderable]:
            return [Harmless(one) for one in renderables]

    class Piped(Console):
        """A console whose reader may have seen enough: the call ends as any other does, and not as
        rich would end it.
        """

        def on_broken_pipe(self) -> None:
            raise BrokenPipeError

    stream = sys.stderr if error else sys.stdout
    width = None if stream.isatty() or "COLUMNS" in os.environ else 80
    colours: Literal["auto"] | None = "auto" if _coloured(stream) else None
    made = Piped(
        file=stream, width=width, color_system=colours, highlight=False, emoji=False, markup=False
    )
    made.push_theme(
        Theme({name: ink[made.color_system == "standard"] for name, ink in INKS.items()})
    )
    made.push_render_hook(Hook())
    return made


def line(text: str = "", end: str = "\n") -> None:
    """Text on standard output, for a program or a file as it is, byte for byte; for a terminal
    without what it would obey.
    """
    sys.stdout.write((shown(text) if sys.stdout.isatty() else text) + end)
    sys.stdout.flush()


def wrong(message: str, remedy: str = "", who: str = "syntagma") -> None:
    """What is wrong, and what to type instead, on standard error."""
    say(f"{who}: {message}" + (f"\n  {remedy}" if remedy else ""), needed=True)


def note(message: str) -> None:
    """Something that is worth knowing of what was done."""
    say((message, QUIET))


def left_out(message: str) -> None:
    """Something of the workspace's can't be read, and is left out."""
    say((f"{message}", QUIET))


def defect(error: Exception) -> None:
    """Something went wrong that no person caused."""
    told = f"{type(error).__name__}: {error}".splitlines()[0][:200]
    wrong(
        f"a bug in Syntagma ({told})",
        "run it again with SYNTAGMA_TRACE=1 to see where, and please report it",
    )


MOST_MISTAKES = 60  # that are shown of one file


def mistakes(found: Sequence, error: bool = True) -> None:
    """Mistakes in a file, each with its place, a blank line between them; of very many the
    first.
    """
    shown_ = "\n\n".join(one.shown() for one in found[:MOST_MISTAKES])
    say(
        shown_
        + (f"\n\nand {len(found) - MOST_MISTAKES:,} more" if len(found) > MOST_MISTAKES else ""),
        error=error,
        needed=True,
    )


def mistake(found: Any, error: bool = True) -> None:
    """A mistake in a file, with its place."""
    say(found.shown(), error=error, needed=True)


def table(
    columns: Sequence[str],
    rows: Iterable[Sequence[object]],
    flexible: str = "",
    cut: bool = False,
    share: Sequence[str] = (),
) -> None:
    """Print a table; `flexible` names the column that gives way first where the width runs out: it
    wraps, or is `cut`; the columns that `share` give way evenly. No word is ever broken: one that
    is longer than its column ends with …, and where not even that leaves room the rows are stacked.
    """
    from rich.box import SIMPLE_HEAD
    from rich.table import Table
    from rich.text import Text

    texts = [
        [cell if isinstance(cell, Text) else Text(shown(str(cell))) for cell in row] for row in rows
    ]
    kept = [
        i
        for i in range(len(columns))
        if not i or not texts or any(row[i].plain.strip() for row in texts)
    ]  # a column without anything in it takes no room
    columns, texts = [columns[i] for i in kept], [[row[i] for i in kept] for row in texts]
    out = console()
    widths = _widths(
        columns, [[cell.plain for cell in row] for row in texts], flexible, out.width, share
    )
    if not widths:
        _stacked(columns, texts, out)
        return
    grid = Table(box=SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    for i, (name, width) in enumerate(zip(columns, widths, strict=True)):
        grid.add_column(
            _fitting(Text(name), width),
            style=NAME if i == 0 else "",
            width=width,
            no_wrap=cut and name == flexible,
            justify="right" if name in NUMERIC else "left",
            overflow="ellipsis",
        )
    for row in texts:
        grid.add_row(
            *(
                _cut(cell, width) if cut and name == flexible else _fitting(cell, width)
                for name, cell, width in zip(columns, row, widths, strict=True)
            )
        )
    out.print(grid)


def _stacked(columns: Sequence[str], rows: Iterable[Sequence], out: Any) -> None:
    """The rows of a table one below the other, for a terminal that is too narrow for its
    columns.
    """
    from rich.padding import Padding
    from rich.text import Text

    for row in rows:
        out.print(Text.assemble((row[0].plain, NAME)))
        for name, cell in zip(columns[1:], row[1:], strict=True):
            if cell.plain.strip():
                out.print(Padding(Text.assemble((f"{name}: ", QUIET), cell), (0, 0, 0, 2)))


def _fitting(cell: Any, width: int):
    """A cell whose words fit a width: a longer one ends with …"""
    from rich.cells import cell_len

    if all(cell_len(word) <= width for word in cell.plain.split()):
        return cell
    fit = cell.copy()
    for match in reversed(list(re.finditer(r"\S+", cell.plain))):
        if cell_len(match.group()) > width:
            fit = fit[: match.start() + width - 1] + "…" + fit[match.end() :]
    return fit


def _cut(cell: Any, width: int):
    """A cell on one line: cut before a word, with …"""
    if len(cell.plain) <= width:
        return cell
    at = cell.plain.rfind(" ", 0, width - 1)
    return cell[: at if at > width // 2 else width - 1] + "…"


LONGEST_WORD = 24  # a column gives way to the length of its longest word, and at most to this


def _widths(
    columns: Sequence[str],
    rows: Sequence[Sequence[str]],
    flexible: str,
    whole: int,
    share: Sequence[str] = (),
) -> list[int]:
    """How wide each column is: as wide as its cells. If that is too much, those that share give way
    evenly and the flexible one first, then the widest, none further than its longest word; if that
    is not enough there are no widths, and the table is to be stacked.
    """
    from rich.cells import cell_len

    cells = [[name, *(row[i] for row in rows)] for i, name in enumerate(columns)]
    widths = [max(map(cell_len, own)) for own in cells]
    least = [
        min(
            width,
            LONGEST_WORD,
            max((cell_len(word) for cell in own for word in cell.split()), default=0),
        )
        for width, own in zip(widths, cells, strict=True)
    ]
    if flexible in columns:
        at = list(columns).index(flexible)
        least[at] = min(widths[at], 20)
    over = sum(widths) + 3 * (len(columns) - 1) - whole
    sharing = [i for i, name in enumerate(columns) if name in share]
    while over > 0 and (able := [i for i in sharing if widths[i] > least[i]]):
        widths[max(able, key=lambda i: widths[i])] -= 1
        over -= 1
    for i in sorted(range(len(columns)), key=lambda i: (columns[i] != flexible, -widths[i])):
        given = max(0, min(over, widths[i] - least[i]))
        widths[i] -= given
        over -= given
    return widths if over <= 0 or len(columns) < 2 else []


def shortened(text: str, most: int = 110) -> str:
    """Text on one line, of so many characters at most: cut before a word, with …"""
    from textwrap import shorten

    text = " ".join(text.split())
    short = shorten(text, most, placeholder=" …")
    return short if short != " …" and short != "…" else text[: most - 1] + "…"


def page(text: str) -> None:
    """A page in Markdown: laid out in a terminal, as it is elsewhere."""
    if not on_terminal():
        line(text, end="")
        return
    from rich.markdown import Markdown

    out = console()
    out.print(Markdown(text, hyperlinks=False), width=min(out.width, 100))


def say(*parts: tuple[str, str] | str, error: bool = True, needed: bool = False) -> None:
    """A line for a person, in parts of text or (text, style); to standard error unless told
    otherwise. Where a call is to be quiet, only what is `needed` goes there.
    """
    if error and _loud.quiet and not needed:
        return
    stream = sys.stderr if error else sys.stdout
    sys.stdout.flush()  # what was printed before comes before
    texts = [p if isinstance(p, str) else p[0] for p in parts]
    if not stream.isatty():
        stream.write(shown("".join(texts)) + "\n")
        return
    from rich.text import Text

    text = Text()
    for part in parts:
        text.append(*((part,) if isinstance(part, str) else part))
    console(error).print(text)


def hanging(*parts: tuple[str, str] | str, error: bool = True) -> None:
    """A line for a person as `say` prints one, indented, and where it wraps too."""
    stream = sys.stderr if error else sys.stdout
    if not stream.isatty():
        say("  ", *parts, error=error)
        return
    from rich.padding import Padding
    from rich.text import Text

    text = Text()
    for part in parts:
        text.append(*((part,) if isinstance(part, str) else part))
    console(error).print(Padding(text, (0, 0, 0, 2)))


def room() -> int:
    """How many rows of a table a person sees at once, most of them of one or two lines."""
    return max(8, (console().height - 6) * 2 // 3)


def wrapped(text: str) -> str:
    """Text in lines that fit the terminal."""
    from textwrap import fill

    return fill(text, console(error=True).width, break_on_hyphens=False)


def _coloured(stream: Any) -> bool:
    return stream.isatty() and "NO_COLOR" not in os.environ and os.environ.get("TERM") != "dumb"


def findings(found: Sequence[Finding], remarks: bool = True) -> None:
    """Findings, one per line with its remedy below (the same remedy once, below the last), on
    standard error; remarks only where a person sees them.
    """
    seen = [finding for finding in found if finding.kind != REMARK or (remarks and remarks_seen())]
    for finding, following in zip_longest(seen, seen[1:]):
        style = WRONG if finding.kind == ERROR else CHANGED if finding.kind != REMARK else QUIET
        place = f"{finding.place}: " if finding.place else ""
        needed = finding.kind == ERROR
        say((finding.kind, style), f" {place}{finding.message}", needed=needed)
        if finding.remedy and not (
            following and (following.kind, following.remedy) == (finding.kind, finding.remedy)
        ):
            say((f"  {finding.remedy}", QUIET), needed=needed)


def told(found: Sequence[Finding]) -> None:
    """Findings below what they are about, on standard output: kind, message and remedy on a
    line.
    """
    for finding in found:
        style = WRONG if finding.kind == ERROR else CHANGED
        say(
            "  ",
            (finding.kind, style),
            f" {finding.message}",
            (f"; {finding.remedy}", QUIET),
            error=False,
        )


def size(record: dict) -> str:
    """How much of the limit a prompt uses: "212 of 900 characters"."""
    limit = record.get("size", {}).get("text")
    if limit:
        return f"{limit['used']} of {limit['limit']} {limit['unit']}"
    return f"{len(record['text'])} characters"


def price(record: dict) -> str:
    """What a prompt costs: "4 credits"; nothing where the model has no price."""
    if "cost" not in record:
        return ""
    from syntagma.core.models.prices import priced

    return priced(record["cost"]["amount"], record["cost"]["currency"])


def marked(pieces: Sequence[TextPiece], changed: Sequence[str]):
    """A prompt's text with what is in the `changed` slots marked: coloured, or between ‹ › without
    a colour.
    """
    from rich.text import Text

    text = Text()
    coloured = _coloured(sys.stdout)
    for differs, run in groupby(pieces, key=lambda piece: piece.slot in changed):
        said = "".join(piece.text for piece in run)
        if differs:
            text.append(said if coloured else f"‹{said}›", CHANGED if coloured else "")
        else:
            text.append(said)
    return text


def lost(bits: Iterable[Bit], coloured: bool) -> None:
    """A text on standard output with what was lost of it: faint and struck through, or between ‹-
    and -›.
    """
    if coloured and _coloured(sys.stdout):
        say(*((bit.text, "strike bright_black" if bit.lost else "") for bit in bits), error=False)
    else:
        line("".join(f"‹-{bit.text}-›" if bit.lost else bit.text for bit in bits))


LONG_DIFFERENCE = 250_000  # words before times words after


def difference(before: str, after: str) -> None:
    """Two texts as one, what went struck through and what came marked; between ‹- -› and ‹+ +›
    without a colour.
    """
    from difflib import SequenceMatcher
    from re import findall

    a, b = findall(r"\s+|[^\s]+", before), findall(r"\s+|[^\s]+", after)
    if len(a) * len(b) > LONG_DIFFERENCE:
        say(
            "  ",
            (
                (
                    f"{len(before):,} characters before, {len(after):,} after: too long to show"
                    " word by word"
                ),
                QUIET,
            ),
        )
        return
    coloured = _coloured(sys.stderr)
    parts: list = []
    for what, i, j, k, m in SequenceMatcher(None, a, b, autojunk=False).get_opcodes():
        if what == "equal":
            parts.append("".join(a[i:j]))
            continue
        if gone := "".join(a[i:j]):
            parts.append((gone, "strike bright_black") if coloured else f"‹-{gone}-›")
        if come := "".join(b[k:m]):
            parts.append((come, CHANGED) if coloured else f"‹+{come}+›")
    say("  ", *parts)


def member(number: int, what: str, written: Sequence[tuple[Any, str]]) -> None:
    """One member of a family: its number and what it is, then for each model its prompt with a note
    below.
    """
    from rich.padding import Padding
    from rich.text import Text

    out = console()
    head = Text()
    head.append(f"{number:>3}  ", NAME)
    head.append(what, "bold")
    out.print(head)
    for text, note in written:
        out.print(Padding(text, (0, 0, 0, 5)))
        out.print(Padding(Text(note, QUIET), (0, 0, 1, 5)))


def block(name: str, note: str, lines: Sequence[str]) -> None:
    """A name with a note, and lines below it, indented and wrapped."""
    from rich.padding import Padding
    from rich.text import Text

    out = console()
    head = Text()
    head.append(name, NAME)
    head.append(f"  {note}" if note else "", QUIET)
    out.print(head)
    for i, line in enumerate(lines):
        if line:
            out.print(Padding(Text(line, "" if i != 1 else QUIET), (0, 0, 0, 4)))
    out.print()


def formula_card(card: dict) -> None:
    """A formula or a look in full."""
    say((card.get("formula") or card["look"], NAME), f"  {card.get('about', '')}", error=False)
    if card.get("when"):
        say((card["when"], QUIET), error=False)
    line()
    table(
        ("phrase", "mark", "words"),
        [(p["label"], p["mark"], p["words"]) for p in card["phrases"]],
        "words",
    )
    if card["slots"]:
        line()
        table(
            ("slot", "takes", "note"),
            [(s["slot"], s["facet"], s["note"]) for s in card["slots"]],
            "note",
        )
    if card.get("settles"):
        line()
        say(
            ("settles", QUIET),
            f"  {', '.join(card['settles'])}: picks leave these blank",
            error=False,
        )
    if card.get("parameters"):
        line()
        table(("parameter", "value"), list(card["parameters"].items()))
    example(card)


def model_card(card: dict) -> None:
    """A model in full: its habits, its parameters, one prompt in its form."""
    say((card["model"], NAME), f"  {card.get('about', '')}", error=False)
    if card.get("base"):
        say((f"builds on {card['base']}", QUIET), error=False)
    line()
    table(("habit", "what it is"), list(card["habits"].items()), "what it is")
    if card.get("parameters"):
        line()
        columns = ("parameter", "written", "takes", "note")
        table(columns, [[p.get(c, "") for c in columns] for p in card["parameters"]], "note")
    example(card)


def design_table(axes: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
    """Prompts by axes: each column as wide as it needs, or its share of the width, cut with an
    ellipsis.
    """
    widths = [
        max(len(name) for name in (axis, *(row[i] for row in rows))) for i, axis in enumerate(axes)
    ]
    number = len(str(len(rows)))
    room = console().width - number - 3 * len(axes)
    share = max(6, room // max(1, len(axes)))
    spare = sum(max(0, share - width) for width in widths)
    wide = [i for i, width in enumerate(widths) if width > share]
    for i in wide:
        widths[i] = min(widths[i], share + spare // len(wide))
    cells = [
        [
            cell if len(cell) <= w else cell[: w - 1] + "…"
            for cell, w in zip(row, widths, strict=True)
        ]
        for row in (axes, *rows)
    ]
    table(("#", *cells[0]), [(n, *row) for n, row in enumerate(cells[1:], 1)])


def report(found: Any) -> None:
    """A family looked over: how many of how many, balance, pairs, distances, lengths, cost."""
    from syntagma.core.models.prices import in_all

    what = {2: "pairs", 3: "triples"}.get(found.strength, f"sets of {found.strength}") + (
        ", and groups," if found.grouped else ""
    )
    say(f"{len(found.rows):,} members; the full design has {found.full:,}", error=False)
    say(f"{what} of choices: {found.covered:,} of {found.possible:,} possible ones", error=False)
    if found.impossible:
        say(
            (
                (
                    f"{len(found.impossible):,} are not:"
                    f" {'; '.join(found.impossible[:5])}{' …' if len(found.impossible) > 5 else ''}"
                ),
                QUIET,
            ),
            error=False,
        )
    if found.efficiency is not None:
        say(f"D-efficiency {found.efficiency:.1%}", error=False)
    if found.distances:
        nearest = min(found.distances)
        say(
            f"two members differ in {nearest} to {max(found.distances)} of {len(found.axes)} axes",
            error=False,
        )
    line()
    rows = [
        (axis, ", ".join(f"{name} {count}" for name, count in levels))
        for axis, levels in found.balance()
    ]
    table(("axis", "how often each choice comes up"), rows, "how often each choice comes up")
    line()
    table(
        ("model", "least", "mean", "most", "of its text"),
        [(m, a, f"{b:.0f}", c, unit) for m, (a, b, c, unit) in found.lengths.items()],
    )
    for bill in found.bills:
        if bill.amount is not None:
            say((bill.shown(), QUIET), error=False)
    if sum(bill.amount is not None for bill in found.bills) > 1:
        say((f"in all: {in_all(found.bills)}", QUIET), error=False)


def example(card: dict) -> None:
    """What a card's example makes, and the call that makes it."""
    if card.get("example"):
        line()
        say(("for instance", QUIET), error=False)
        say(card["example"]["text"], error=False)
        if card["example"].get("negative"):
            say(("negative  ", QUIET), card["example"]["negative"], error=False)
        line()
        say((card["example"]["call"], QUIET), error=False)


class Progress:
    """A progress bar on standard error, for long work that a person watches."""

    def __init__(self, total: int | None, what: str):
        self._bar = None
        if sys.stderr.isatty() and (total is None or total >= 20_000):
            from rich.progress import (
                BarColumn,
                MofNCompleteColumn,
                Progress,
                TextColumn,
                TimeRemainingColumn,
            )

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


class Counting:
    """A line on standard error that says how far work is, for work whose steps take a while;
    nothing where nobody looks.
    """

    def __init__(self, total: int, what: str):
        self._bar, self.total, self.what = None, total, what

    def __enter__(self):
        if not sys.stderr.isatty():
            return lambda *said: None
        from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn

        self._bar = Progress(
            TextColumn(self.what),
            BarColumn(),
            MofNCompleteColumn(),
            TextColumn("{task.description}"),
            console=console(error=True),
            transient=True,
        )
        task = self._bar.add_task("", total=self.total)
        self._bar.start()
        return lambda *said: self._bar.update(task, advance=1, description="  ".join(said))

    def __exit__(self, *error) -> None:
        if self._bar:
            self._bar.stop()


class Items:
    """What may be many, printed as JSON while it comes; at the end the findings of the whole call
    (of the program, or of a file) and what is said of all of it.
    """

    @cached_property
    def _out(self):
        from syntagma.formats.json_out import ItemsOut

        sys.stdout.flush()
        return ItemsOut(_printed)

    def add(self, item: object) -> None:
        self._out.add(item)
        sys.stdout.flush()

    def close(self, findings: Iterable = (), **beside: object) -> None:
        self._out.close([one.record() for one in findings], **beside)
        sys.stdout.flush()


def items(found: Iterable, findings: Iterable = (), **beside: object) -> None:
    """Print what may be many as JSON, all of it at once."""
    out = Items()
    for one in found:
        out.add(one)
    out.close(findings, **beside)


def json(value: object, one_line: bool = False) -> None:
    """Print a record as JSON on standard output."""
    from syntagma.formats.json_out import encoder, indented

    sys.stdout.flush()
    made = encoder()(value)
    _printed((made if one_line else indented(made)) + b"\n")
    sys.stdout.flush()


def _printed(made: bytes) -> None:
    """Bytes of JSON on standard output; for a terminal with every control character escaped."""
    if sys.stdout.isatty():
        made = re.sub(
            "[\x7f-\x9f\u202a-\u202e\u2066-\u2069]", lambda m: f"\\u{ord(m[0]):04x}", made.decode()
        ).encode()
    sys.stdout.buffer.write(made)
