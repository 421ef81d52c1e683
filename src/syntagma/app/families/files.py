"""Prompts into files: whole, in the form that the ending of the name asks for."""

from collections.abc import Callable, Iterable, Sequence
from contextlib import ExitStack
from importlib.util import find_spec
from pathlib import Path

from syntagma.app.composing.records import Recorder, given
from syntagma.app.families.family import Family, Member
from syntagma.app.families.resuming import begin, finished, interruptible
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.formats.prompts_out import WRITERS, plainly
from syntagma.storage.files import held, whole_file
from syntagma.storage.trouble import Trouble


def writer_for(path: str) -> type:
    """The writer that a file's ending asks for. Raises Trouble."""
    ending = Path(path).suffix.lower()
    if ending not in WRITERS:
        known = ", ".join(WRITERS)
        if not ending:
            raise Trouble(f"{path} has no ending that says what to write", f"name it with one of {known}", 2)
        raise Trouble(f"prompts are not written as {ending}", perhaps(ending, WRITERS, f"the endings are {known}"), 2)
    if ending == ".parquet" and not find_spec("pyarrow"):
        raise Trouble("to write .parquet, pyarrow is wanted", "install it: pip install 'syntagma[parquet]'; or write .csv", 2)
    return WRITERS[ending]


def write_records(
    path: str, records: Iterable[dict[str, object]], columns: Sequence[str], kept: Sequence[str] = (), plain: bool = False,
    note: Callable[[str], None] | None = None,
) -> int:  # fmt: skip
    """Write records to a file; return how many. `kept` are the columns of a table that come back beside the prompts; `plain` leaves the
    cells of a CSV file as they are; `note` hears what was done to them. Raises Trouble."""
    kind = writer_for(path)
    number = 0
    with whole_file(path) as file:
        out = (plainly(kind) if plain else kind)(file, columns, kept)
        for record in records:
            out.add(record if kind.records else record["text"])
            number += 1
        out.close()
    _noted([out], note)
    return number


def _noted(outs: Iterable, note: Callable[[str], None] | None) -> None:
    for said in filter(None, (getattr(out, "note", "") for out in outs)):
        if note:
            note(said)


LINES = (".txt", ".jsonl")  # files in which members follow each other line by line


def write_family(
    family: Family, path: str, tell: Callable[[int], None] | None = None, resume: bool = False, plain: bool = False,
    note: Callable[[str], None] | None = None,
) -> list[str]:  # fmt: skip
    """Write a family to a file; for .txt and several models to a file each. Return the names. `tell` hears now and
    then how many members are written; `resume` goes on where an interruption left NAME.partial; `plain` and `note` as in write_records. Raises Trouble, or Stopped."""
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
            family.window = family.window._replace(low=family.window.low + done, straight=family.window.straight and not done)
        with interruptible(names, each, by_line), ExitStack() as stack:
            files = [stack.enter_context(whole_file(name, resume, by_line)) for name in names]
            outs = [(plainly(kind) if plain else kind)(file, list(family.compiled.writer.position)) for file in files]
            stream_family(family, outs, tell)
        finished(names)
    _noted(outs, note)
    return names


def file_names(family: Family, path: str) -> list[str]:
    """The files that a family goes into: one, or for .txt and several models one for each. Raises Trouble."""
    if writer_for(path).records or len(family.compiled.writers) == 1:
        return [path]
    base = Path(path)
    return [str(base.with_name(f"{base.stem}-{w.profile.name}{base.suffix}")) for w in family.compiled.writers]


def line_trouble(family: Family, path: str) -> tuple[str, str] | None:
    """Why a file does not hold a member a line: what is wrong, and what to do; None where it does."""
    many = [w.profile.name for w in family.compiled.writers if w.profile.register in ("labelled", "timed") or w.profile.nested.indent]
    if Path(path).suffix.lower() not in LINES:
        return "wants a file with a member a line", "write to .jsonl or .txt"
    if many and path.lower().endswith(".txt"):
        return f"can't tell prompts of several lines apart, as those of {many[0]} are", "write to .jsonl"
    return None


def check_lines(family: Family, path: str, option: str) -> None:
    """Raises Trouble where a file does not hold a member a line."""
    if found := line_trouble(family, path):
        raise Trouble(f"{option} {found[0]}", found[1], 2)


def stream_family(family: Family, outs: Sequence, tell: Callable[[int], None] | None = None) -> None:
    """Write a family to writers that are open: one for all models, or one for each."""
    adds = [out.add for out in outs] if len(outs) > 1 else [outs[0].add] * len(family.compiled.writers)
    if outs[0].records:
        rows_of = FamilyRecords(family).of
        for member in family.members():
            for add, row in zip(adds, rows_of(member), strict=True):
                add(row)
            if tell and not member.number % 512:
                tell(member.number)
    else:
        for block in family.blocks():
            if len(adds) == 1:
                outs[0].add_all([p.text for p in block.prompts[0]])
            else:
                for prompts in zip(*block.prompts, strict=True):
                    for add, prompt in zip(adds, prompts, strict=True):
                        add(prompt.text)
            if tell:
                tell(family.tally.written)
    for out in outs:
        out.close()


class FamilyRecords:
    """The records of a family's members, one for each model."""

    def __init__(self, family: Family):
        self.family = family
        self._draw = family.compiled.wish.taste.draw if family.compiled.drawn else None
        self._recorders: dict[int, list[Recorder]] = {}

    def of(self, member: Member) -> list[dict[str, object]]:
        """The records of one member."""
        family = self.family
        variant = family.variants.of(member.combination)
        recorders = self._recorders.get(id(variant))
        if recorders is None:
            recorders = [Recorder(w, variant.fills, family.compiled.slots, self._draw) for w in variant.writers]
            self._recorders[id(variant)] = recorders
        changed = dict(zip(family.compiled.slots, family.variants.slots_of(member.combination), strict=True))
        design: dict[str, object] = {"name": family.compiled.design, "index": member.number}
        if changes := family.changes(member):
            design["changes"] = {slot: [given(there), given(here)] for slot, (there, here) in changes.items()}
        fills = family.fills_of(member)
        records = []
        for writer, recorder, prompt in zip(variant.writers, recorders, member.prompts, strict=True):
            findings = writer.findings(fills, prompt)
            if member.number == 0:
                findings = findings + writer.clashes(fills)
            records.append(recorder.record(prompt, changed, findings, design))
        return records
