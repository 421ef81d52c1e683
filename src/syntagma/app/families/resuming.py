"""Long work that is interrupted and gone on with: what lies in NAME.partial is known to belong to one call, and is counted as it is
on the disk. Beside it lies the plan of that call, NAME.partial.toml, until the file is whole."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from hashlib import blake2b
from pathlib import Path

from syntagma import __version__
from syntagma.app.families.family import Family
from syntagma.app.families.plan_file import plan_text
from syntagma.storage.files import drop_lines, forget, partial_of, read_bytes, read_text, whole_lines, write_text
from syntagma.storage.folders import SHIPPED
from syntagma.storage.trouble import Trouble

_MARK = "# belongs to "


class Stopped(KeyboardInterrupt):
    """Long work was interrupted. `said` tells what of it is kept, and where."""

    def __init__(self, said: str):
        super().__init__()
        self.said = said


def begin(family: Family, names: Sequence[str], resume: bool, ending: str) -> int:
    """Make ready to write a family to files, each with a member a line: again, or behind the members that are whole already, whose number
    is returned. The files are held by the caller. Raises Trouble if what is there belongs to another call."""
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
    """Raises Stopped in place of KeyboardInterrupt, with the number of prompts that the partial files really hold."""
    try:
        yield
    except KeyboardInterrupt:
        where = ", ".join(f"{name}.partial" for name in names)
        if not by_line:
            raise Stopped(f": what was written so far is in {where}; this run can't be resumed") from None
        members = min(whole_lines(name) for name in names) // each
        raise Stopped(f": {members:,} prompts so far are in {where}; run the same command with --resume to continue") from None


def _beside(name: str) -> Path:
    partial = partial_of(name)
    return partial.with_name(partial.name + ".toml")


def _check(names: Sequence[str], key: str) -> None:
    for name in names:
        beside = _beside(name)
        first = read_text(beside).partition("\n")[0] if beside.is_file() else ""
        if first != f"{_MARK}{key}":
            whose = f"the call in {beside.name}" if first.startswith(_MARK) else "an unknown command"
            raise Trouble(
                f"{name}.partial belongs to {whose}, or its formula or words have changed since",
                f"`syntagma expand {beside.name}` looks at it; leave --resume out to start again, or name another file",
            )


def _plan(family: Family, ending: str) -> tuple[str, str]:
    """The plan of a family, and the key of everything that its bytes come from: the plan, the part, the formula, the person's own
    files, the version of the program."""
    plan = plan_text(family.asked)
    hashed = blake2b(digest_size=16)
    for part in (__version__, ending, plan, f"{family.window.low} {family.window.high}", family.compiled.formula.text):
        hashed.update(part.encode("utf-8", "surrogatepass") + b"\0")
    for layer in family.compiled.workspace.layers:
        if layer.path != SHIPPED:
            for path in sorted(p for p in (*layer.path.glob("*.*"), *layer.path.glob("*/*.*")) if p.suffix in (".toml", ".csv", ".formula")):
                if path.is_file() and not path.name.endswith(".partial.toml") and (path.parent != layer.path or path.suffix == ".toml" or path.name == "marks.csv"):
                    hashed.update(str(path.relative_to(layer.path)).encode() + b"\0" + read_bytes(path) + b"\0")
    return plan, hashed.hexdigest()
