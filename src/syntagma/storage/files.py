"""Files in and out. Reading says what is wrong in plain words; writing replaces a file whole or leaves it alone."""

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TextIO

from syntagma.storage.trouble import Trouble


def read_text(path: Path | str, what: str = "the file") -> str:
    """The text of a UTF-8 file, line ends as they are. Raises Trouble."""
    try:
        with open(path, encoding="utf-8", newline="") as file:
            return file.read()
    except FileNotFoundError:
        raise Trouble(f"there is no file {path}", "check the name, and the folder you are in") from None
    except IsADirectoryError:
        raise Trouble(f"{path} is a folder, not a file", f"name {what} in it: {path}/NAME") from None
    except UnicodeDecodeError as error:
        raise Trouble(f"{path} is not UTF-8 text (byte {error.start})", "save it as UTF-8, or export it as CSV UTF-8") from None
    except OSError as error:
        raise Trouble(f"{path} can't be read: {_why(error)}", "check that it is yours to read") from None


def whole_lines(path: Path | str) -> int:
    """Cut PATH.partial, which an interruption left, behind its last whole line; return how many lines it has, 0 where there is none.
    Raises Trouble."""
    partial = Path(os.path.realpath(path) + ".partial")
    try:
        if not partial.is_file():
            return 0
        lines = end = at = 0
        with open(partial, "r+b") as file:
            for block in iter(lambda: file.read(1 << 20), b""):
                lines += block.count(b"\n")
                if b"\n" in block:
                    end = at + block.rindex(b"\n") + 1
                at += len(block)
            file.truncate(end)
        return lines
    except OSError as error:
        raise _refusal(partial, error) from None


def drop_lines(path: Path | str, number: int) -> None:
    """Cut the last `number` lines off PATH.partial."""
    partial = Path(os.path.realpath(path) + ".partial")
    for _ in range(number):
        data = partial.read_bytes()
        partial.write_bytes(data[: data.rindex(b"\n", 0, -1) + 1 if b"\n" in data[:-1] else 0])


@contextmanager
def whole_file(path: Path | str, goes_on: bool = False) -> Iterator[TextIO]:
    """Open `path` for writing. It grows in PATH.partial and takes the name when it is complete; a failure leaves what
    was there, and an interruption leaves PATH.partial too, to which `goes_on` adds. A device is written directly. Raises Trouble."""
    target = Path(os.path.realpath(path))
    try:
        special = target.exists() and not stat.S_ISREG(target.stat().st_mode)
        if target.is_dir():
            raise Trouble(f"{path} is a folder, not a file", f"name a file in it: {path}/prompts.txt")
        grows = target if special else target.with_name(target.name + ".partial")
        file = open(grows, "a" if goes_on else "w", encoding="utf-8", newline="", buffering=1 << 18)
    except OSError as error:
        raise _refusal(path, error) from None
    try:
        with file:
            yield file
        if not special:
            os.replace(grows, target)
    except OSError as error:
        if not special:
            grows.unlink(missing_ok=True)
        raise _refusal(path, error) from None
    except KeyboardInterrupt:
        raise
    except BaseException:
        if not special:
            grows.unlink(missing_ok=True)
        raise


def write_text(path: Path | str, text: str) -> None:
    """Write a whole file. Raises Trouble."""
    with whole_file(path) as file:
        file.write(text)


def _refusal(path: Path | str, error: OSError) -> Trouble:
    remedy = "make room, or choose another disk" if error.errno == 28 else "choose a folder that is there and yours to write to"
    return Trouble(f"{path} can't be written: {_why(error)}", remedy)


def _why(error: OSError) -> str:
    return (error.strerror or str(error)).lower()
