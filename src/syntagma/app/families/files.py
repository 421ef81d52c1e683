"""A family into files: its records, one file or one for each model; resumed where it was
cut off.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from hashlib import blake2b
from importlib.util import find_spec
from itertools import chain
from pathlib import Path
from typing import Any, NamedTuple

from syntagma import __version__
from syntagma.app.composing.records import Recorder, RecordLines, given
from syntagma.app.families.family import Block, Family, Member
from syntagma.app.families.spec import plan_text
from syntagma.app.families.variants import Variant
from syntagma.core.designs.axes import Combination, Level
from syntagma.core.diagnostics import Finding, Trouble, perhaps
from syntagma.core.drafting.fills import Fill
from syntagma.core.writing.prompt import Prompt
from syntagma.formats.json_out import encoder
from syntagma.formats.prompts_out import WRITERS, plainly
from syntagma.storage.files import (
    drop_lines,
    forget,
    held,
    partial_of,
    read_bytes,
    read_text,
    whole_file,
    whole_lines,
    write_text,
)
from syntagma.storage.folders import SHIPPED

# ──── Long work that is interrupted and gone on with: what lies in NAME.partial is known to belong
# to one call, and is counted as it is on the disk. Beside it lies the plan of that call,
# NAME.partial.toml, until the file is whole.


_MARK = "# belongs to "


class Stopped(KeyboardInterrupt):
    """Long work was interrupted. `said` tells what of it is kept, and where."""

    def __init__(self, said: str):
        super().__init__()
        self.said = said


def begin(family: Family, names: Sequence[str], resume: bool, ending: str) -> int:
    """Make ready to write a family to files, each with a member a line: again, or behind the
    members that are whole already, whose number is returned. The files are held by the caller.
    Raises Trouble if what is there belongs to another call.
    """
    plan, key = _plan(family, ending)
    there = [partial_of(name).is_file() for name in names]
    if resume and any(there):
        _check(names, key)
        each = len(family.compiled.writers) if len(names) == 1 else 1
        lines = [whole_lines(name) for name in names]
        done = min(lines) // each
        for name, number in zip(names, lines, strict=True):
            drop_lines(name, number - done * each)
        return done
    for name in names:
        write_text(_beside(name), f"{_MARK}{key}\n{plan}")
    return 0


def finished(names: Sequence[str]) -> None:
    """The files are whole: nothing is left beside them."""
    for name in names:
        forget(_beside(name))


@contextmanager
def interruptible(names: Sequence[str], each: int, by_line: bool) -> Iterator[None]:
    """Raises Stopped in place of KeyboardInterrupt, with the number of prompts that the partial
    files really hold.
    """
    try:
        yield
    except KeyboardInterrupt:
        where = ", ".join(f"{name}.partial" for name in names)
        if not by_line:
            raise Stopped(
                f": what was written so far is in {where}; this run can't be resumed"
            ) from None
        members = min(whole_lines(name) for name in names) // each
        raise Stopped(
            f": {members:,} prompts so far are in {where}; run the same command with --resume to"
            " continue"
        ) from None


def _beside(name: str) -> Path:
    partial = partial_of(name)
    return partial.with_name(partial.name + ".toml")


def _check(names: Sequence[str], key: str) -> None:
    for name in names:
        beside = _beside(name)
        first = read_text(beside).partition("\n")[0] if beside.is_file() else ""
        if first != f"{_MARK}{key}":
            whose = (
                f"the call in {beside.name}" if first.startswith(_MARK) else "an unknown command"
            )
            raise Trouble(
                f"{name}.partial belongs to {whose}, or its formula or words have changed since",
                f"`syntagma expand {beside.name}` looks at it; leave --resume out to start again,"
                " or name another file",
            )


def _plan(family: Family, ending: str) -> tuple[str, str]:
    """The plan of a family, and the key of everything that its bytes come from: the plan, the part,
    the formula, the person's own files, the version of the program.
    """
    plan = plan_text(family.asked)
    hashed = blake2b(digest_size=16)
    for part in (
        __version__,
        ending,
        plan,
        f"{family.window.low} {family.window.high}",
        family.compiled.formula.text,
    ):
        hashed.update(part.encode("utf-8", "surrogatepass") + b"\0")
    for layer in family.compiled.workspace.layers:
        if layer.path != SHIPPED:
            for path in sorted(
                p
                for p in (*layer.path.glob("*.*"), *layer.path.glob("*/*.*"))
                if p.suffix in (".toml", ".csv", ".formula")
            ):
                if (
                    path.is_file()
                    and not path.name.endswith(".partial.toml")
                    and (
                        path.parent != layer.path
                        or path.suffix == ".toml"
                        or path.name == "marks.csv"
                    )
                ):
                    hashed.update(
                        str(path.relative_to(layer.path)).encode()
                        + b"\0"
                        + read_bytes(path)
                        + b"\0"
                    )
    return plan, hashed.hexdigest()


# ──── Prompts into files: whole, in the form that the ending of the name asks for.


def writer_for(path: str) -> Any:
    """The writer that a file's ending asks for. Raises Trouble."""
    ending = Path(path).suffix.lower()
    if ending not in WRITERS:
        known = ", ".join(WRITERS)
        if not ending:
            raise Trouble(
                f"{path} has no ending, so the format is unknown", f"name it with one of {known}", 2
            )
        raise Trouble(
            f"can't write prompts as {ending}",
            perhaps(ending, WRITERS, f"the endings are {known}"),
            2,
        )
    if ending == ".parquet" and not find_spec("pyarrow"):
        raise Trouble(
            "writing .parquet needs pyarrow",
            "install it: pip install 'syntagma[parquet]'; or write .csv",
            2,
        )
    return WRITERS[ending]


def write_records(
    path: str,
    records: Iterable[dict[str, object]],
    columns: Sequence[str],
    kept: Sequence[str] = (),
    plain: bool = False,
    note: Callable[[str], None] | None = None,
) -> int:
    """Write records to a file; return how many. `kept` are the columns of a table that come back
    beside the prompts; `plain` leaves the cells of a CSV file as they are; `note` hears what was
    done to them. Raises Trouble.
    """
    kind = writer_for(path)
    number = 0
    with whole_file(path) as file:
        out = (plainly(kind) if plain else kind)(file, columns, kept)
        for record in records:
            out.add(record if kind.records else record["text"])
            number += 1
        try:
            out.close()
        except ValueError as wrong:  # a workbook's cell takes so many characters only
            raise Trouble(f"{path} can't be written: {wrong}", "write .csv or .jsonl", 3) from None
    _noted([out], note)
    return number


def _noted(outs: Iterable, note: Callable[[str], None] | None) -> None:
    for said in filter(None, (getattr(out, "note", "") for out in outs)):
        if note:
            note(said)


LINES = (".txt", ".jsonl")  # files in which members follow each other line by line


def write_family(
    family: Family,
    path: str,
    tell: Callable[[int], None] | None = None,
    resume: bool = False,
    plain: bool = False,
    note: Callable[[str], None] | None = None,
) -> list[str]:
    """Write a family to a file; for .txt and several models to a file each. Return the names.
    `tell` hears now and then how many members are written; `resume` goes on where an interruption
    left NAME.partial; `plain` and `note` as in write_records. Raises Trouble, or Stopped.
    """
    kind, names = writer_for(path), file_names(family, path)
    if resume:
        check_lines(family, path, "--resume")
    by_line = not line_trouble(family, path)
    each = len(family.compiled.writers) if len(names) == 1 else 1
    with ExitStack() as held_all:
        for name in names:
            held_all.enter_context(held(name))
        if by_line:
            done = begin(family, names, resume, Path(path).suffix.lower())
            family.window = family.window._replace(
                low=family.window.low + done, straight=family.window.straight and not done
            )
        with interruptible(names, each, by_line), ExitStack() as stack:
            files = [stack.enter_context(whole_file(name, resume, by_line)) for name in names]
            outs = [
                (plainly(kind) if plain else kind)(file, list(family.compiled.writer.position))
                for file in files
            ]
            stream_family(family, outs, tell)
        finished(names)
    _noted(outs, note)
    return names


def file_names(family: Family, path: str) -> list[str]:
    """The files that a family goes into: one, or for .txt and several models one for each. Raises
    Trouble.
    """
    if writer_for(path).records or len(family.compiled.writers) == 1:
        return [path]
    base = Path(path)
    return [
        str(base.with_name(f"{base.stem}-{w.profile.name}{base.suffix}"))
        for w in family.compiled.writers
    ]


def line_trouble(family: Family, path: str) -> tuple[str, str] | None:
    """Why a file does not hold a member a line: what is wrong, and what to do; None if it does."""
    many = [
        w.profile.name
        for w in family.compiled.writers
        if w.profile.register in ("labelled", "timed") or w.profile.nested.indent
    ]
    if Path(path).suffix.lower() not in LINES:
        return "needs a file with one member per line", "write to .jsonl or .txt"
    if many and path.lower().endswith(".txt"):
        return f"can't hold prompts of several lines, which {many[0]} writes", "write to .jsonl"
    return None


def check_lines(family: Family, path: str, option: str) -> None:
    """Raises Trouble if a file does not hold a member a line."""
    if found := line_trouble(family, path):
        raise Trouble(f"{option} {found[0]}", found[1], 2)


def stream_family(
    family: Family, outs: Sequence, tell: Callable[[int], None] | None = None
) -> None:
    """Write a family to writers that are open: one for all models, or one for each."""
    adds = [out.add for out in (outs if len(outs) > 1 else [*outs] * len(family.compiled.writers))]
    if outs[0].records:
        records = FamilyRecords(family)
        if outs[0].lines:
            for block in family.blocks():
                outs[0].add_lines(
                    chain.from_iterable(records.lines_of(block))
                )  # records of all models go into one file
                if tell:
                    tell(family.tally.written)
        else:
            for member in family.members():
                for add, row in zip(adds, records.of(member), strict=True):
                    add(row)
                if tell and not member.number % 512:
                    tell(member.number)
    else:
        for block in family.blocks():
            if len(adds) == 1:
                outs[0].add_all(block.prompts[0].texts)
            else:
                for texts in zip(*(prompts.texts for prompts in block.prompts), strict=True):
                    for add, text in zip(adds, texts, strict=True):
                        add(text)
            if tell:
                tell(family.tally.written)
    for out in outs:
        out.close(finding.record() for finding in family.tally.failures)


class _RecordMaker(NamedTuple):
    """What makes the records of a variant, for each model; as lines, where these can be put
    together; what gives the findings of each.
    """

    recorders: list[Recorder]
    lines: list[RecordLines] | None
    findings: list[Callable[[Sequence[Fill | None], Prompt], list[Finding]]]


class FamilyRecords:
    """The records of a family's members, one for each model: each with what differs from the
    baseline, and its place in the design.
    """

    def __init__(self, family: Family):
        self.family, self._slots, self._design = (
            family,
            family.compiled.slots,
            family.compiled.design,
        )
        wanted = family.compiled.wish.design
        rules = [rule.text for rule in family.compiled.rules]
        self._beside = {
            **({"takes": wanted.takes} if wanted.takes > 1 else {}),
            **({"rules": rules} if rules else {}),
        }  # what is asked of all members
        self._draw = family.compiled.wish.taste.draw if family.compiled.drawn else None
        self._by_variant: dict[int, _RecordMaker] = {}
        self._changes: dict[tuple[str, int], tuple[object, bytes]] = {}
        self._encode = encoder()

    def of(self, member: Member) -> list[dict[str, object]]:
        """The records of one member."""
        family = self.family
        variant, made = self._variant(member.combination)
        changed = dict(zip(self._slots, family.variants.slots_of(member.combination), strict=True))
        design: dict[str, object] = {"name": self._design, **self._beside, "index": member.number}
        if changes := family.changes(member):
            design["changes"] = {
                slot: [given(there), given(here)] for slot, (there, here) in changes.items()
            }
        found = self._findings(member, variant)
        return [
            recorder.record(prompt, changed, findings, design)
            for recorder, prompt, findings in zip(
                made.recorders, member.prompts, found, strict=True
            )
        ]

    def lines_of(self, block: Block) -> Iterator[list[bytes]]:
        """The same of many members, as lines of JSON."""
        family, variants = self.family, self.family.variants
        names = [axis.slot for axis in family.compiled.axes] or family.compiled.slots
        baseline, changes_of = family.baseline, self._changes.get
        variant: Variant | None = None
        made: _RecordMaker | None = None
        for number, (combination, *prompts) in enumerate(
            zip(block.combinations, *block.prompts, strict=True), block.first
        ):
            if variant is not variants.of(combination):
                variant, made = self._variant(combination)
            if made is None or made.lines is None or not number:
                yield [
                    self._encode(record) + b"\n"
                    for record in self.of(Member(number, combination, prompts))
                ]
                continue
            own = variants.slots_of(combination)
            changes = [
                (changes_of((name, id(here))) or self._change(name, there, here))[1]
                for name, there, here in zip(names, baseline, combination, strict=True)
                if there is not here
            ]
            changed = b',"changes":{' + b",".join(changes) + b"}" if changes else b""
            yield [
                lines.line(prompt, own, findings(own, prompt), number, changed)
                for findings, lines, prompt in zip(made.findings, made.lines, prompts, strict=True)
            ]

    def _variant(self, combination: Combination) -> tuple[Variant, "_RecordMaker"]:
        """The variant of a member, and what makes its records."""
        variant = self.family.variants.of(combination)
        if id(variant) not in self._by_variant:
            made = [Recorder(w, variant.fills, self._slots, self._draw) for w in variant.writers]
            lines = (
                [RecordLines(r, self._slots, {"name": self._design, **self._beside}) for r in made]
                if all(map(RecordLines.fit, made))
                else None
            )
            findings = [
                writer.findings_along(variant.fills, variant.positions)
                for writer in variant.writers
            ]
            self._by_variant[id(variant)] = _RecordMaker(made, lines, findings)
        return variant, self._by_variant[id(variant)]

    def _findings(self, member: Member, variant: Variant) -> list[list[Finding]]:
        fills = self.family.fills_of(member)
        found = [
            writer.findings(fills, prompt)
            for writer, prompt in zip(variant.writers, member.prompts, strict=True)
        ]
        if member.number == 0:
            found = [
                own + writer.clashes(fills)
                for own, writer in zip(found, variant.writers, strict=True)
            ]
        return found

    def _change(self, slot: str, there: Level, here: Level) -> tuple[object, bytes]:
        """What differs on one axis, as JSON; the level is kept with it, so nothing else gets its
        identity.
        """
        made = self._changes[slot, id(here)] = (
            here,
            self._encode(slot) + b":" + self._encode([given(there), given(here)]),
        )
        return made
