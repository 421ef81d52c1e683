"""Files in and out: the one door. Only regular files are read, of a bounded size; a file is written
by one call at a time, and is replaced whole or left alone.
"""

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, BinaryIO, TextIO

from syntagma.core.diagnostics import NoFile, Trouble

MOST = 64 << 20  # bytes of a file that is read whole
PATIENCE = 15.0  # seconds until a file that another call is writing is given up
_HANDED = ("/dev/fd/", "/dev/std", "/proc/self/fd/")  # what the shell itself hands over: read <(…)
_SIZES = ((1 << 30, "GB"), (1 << 20, "MB"), (1 << 10, "KB"))


def opened(path: Path | str, what: str = "the file") -> BinaryIO:
    """Open a regular file for reading. A folder, a pipe with a name, a device, or a link to one is
    refused at once, and so is what is not there. Raises Trouble.
    """
    try:
        handle = os.open(
            path,
            os.O_RDONLY
            | getattr(os, "O_NONBLOCK", 0)
            | getattr(os, "O_CLOEXEC", 0)
            | getattr(os, "O_BINARY", 0),
        )
    except FileNotFoundError:
        raise NoFile(path) from None
    except ValueError:
        raise Trouble("a file name can't contain a zero byte", "check the name") from None
    except OSError as error:
        raise Trouble(
            f"{path} can't be read: {why(error)}", "check that it is a file that you may read"
        ) from None
    mode = os.fstat(handle).st_mode
    if stat.S_ISFIFO(mode) and os.fspath(path).startswith(_HANDED):
        os.set_blocking(handle, True)
    elif not stat.S_ISREG(mode):
        os.close(handle)
        if stat.S_ISDIR(mode):
            raise Trouble(f"{path} is a folder, not a file", f"name {what} in it: {path}/NAME")
        kind = (
            "a pipe"
            if stat.S_ISFIFO(mode)
            else "a device"
            if stat.S_ISCHR(mode) or stat.S_ISBLK(mode)
            else "no regular file"
        )
        raise Trouble(f"{path} is {kind}, not a file", "name a file, or - for standard input")
    return os.fdopen(handle, "rb")


def read_bytes(path: Path | str, what: str = "the file", most: int = MOST) -> bytes:
    """The bytes of a file. Raises Trouble if it can't be read or has more than `most`."""
    with opened(path, what) as file:
        return bounded(file, str(path), most)


def read_text(path: Path | str, what: str = "the file") -> str:
    """The text of a UTF-8 file, line ends as they are. Raises Trouble."""
    return decoded(read_bytes(path, what), str(path))


def bounded(file: IO[bytes], source: str, most: int = MOST) -> bytes:
    """All that an open file or a pipe gives. Raises Trouble if that can't be read, or is more than
    `most`.
    """
    try:
        data = file.read(most + 1)
    except OSError as error:
        raise Trouble(
            f"{source} can't be read: {why(error)}", "check that it is a file that you may read"
        ) from None
    if len(data) > most:
        raise Trouble(
            f"{source} is larger than {size_in_words(most)}, the most that Syntagma reads at once",
            "cut it into several",
            1,
        )
    return data


def decoded(data: bytes, source: str) -> str:
    """Bytes as UTF-8 text. Raises Trouble."""
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as error:
        raise Trouble(
            f"{source} is not UTF-8 text (byte {error.start})",
            "save it as UTF-8, or export it as CSV UTF-8",
            1,
        ) from None


def size_in_words(size: float) -> str:
    """A number of bytes as a person says it: "64 MB"."""
    unit, name = next(((n, name) for n, name in _SIZES if size >= n), (1, "bytes"))
    return f"{size / unit:.3g} {name}"


def within(folder: Path, name: str) -> Path:
    """The file that a name means which came in a file of somebody's: below `folder`, and reached
    over no link. It need not be there. Raises Trouble.
    """
    path = Path(name)
    if (
        not name
        or "\0" in name
        or path.is_absolute()
        or ".." in path.parts
        or "\\" in name
        or path.drive
    ):
        raise Trouble(
            f"{name or 'a blank name'} is outside {folder}, so Syntagma does not read it",
            "copy the file into that folder, and name it from there",
        )
    at = folder
    for part in path.parts:
        at = at / part
        if at.is_symlink():
            raise Trouble(
                f"{name} is a link, and Syntagma does not follow it",
                "copy the file itself into that folder",
            )
    return at


@contextmanager
def held(path: Path | str, patience: float = PATIENCE) -> Iterator[None]:
    """Hold a file for this call alone, from reading it to writing it again. Another call that wants
    it waits some seconds. Raises Trouble if it is held for longer. The locks lie in a folder of the
    person's own, so nothing is left beside the file.
    """
    from hashlib import blake2b

    from filelock import FileLock, Timeout

    target = os.path.realpath(path)
    name = blake2b(target.encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()
    lock = FileLock(
        _locks() / name, timeout=patience, is_singleton=True
    )  # so that a call may hold again what it holds
    try:
        lock.acquire()
    except Timeout:
        raise Trouble(
            f"another command is writing {path}", "wait until it finishes, or name another file"
        ) from None
    except OSError as error:
        raise Trouble(
            f"{path} can't be locked: {why(error)}", "set TMPDIR to a folder that you can write to"
        ) from None
    try:
        yield
    finally:
        lock.release()


def _locks() -> Path:
    """The folder of locks: one a person, in the system's folder for what is passing."""
    from tempfile import gettempdir

    whose = os.getuid() if hasattr(os, "getuid") else "own"
    folder = Path(gettempdir(), f"syntagma-locks-{whose}")
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
        if folder.is_symlink() or (hasattr(os, "getuid") and folder.stat().st_uid != os.getuid()):
            raise OSError(0, f"{folder} belongs to somebody else")
    except OSError as error:
        raise Trouble(
            f"no file can be locked: {why(error)}", "set TMPDIR to a folder that you can write to"
        ) from None
    return folder


def make_folder(folder: Path) -> None:
    """Make a folder, with those above it. Raises Trouble."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Trouble(
            f"{folder} can't be made: {why(error)}", "choose a folder that you can write to"
        ) from None


def partial_of(path: Path | str) -> Path:
    """Where a file grows until it is whole."""
    return Path(os.path.realpath(path) + ".partial")


@contextmanager
def whole_file(path: Path | str, goes_on: bool = False, keeps: bool = False) -> Iterator[TextIO]:
    """Open `path` for writing, held for this call. It grows in PATH.partial and takes the name when
    it is complete; a failure leaves what was there. An interruption leaves PATH.partial too, to
    which `goes_on` adds; where the file `keeps` what is finished, so does a failure of the disk. A
    device or a pipe that somebody reads is written directly. Raises Trouble.
    """
    with held(path):
        target = Path(path if os.fspath(path).startswith(_HANDED) else os.path.realpath(path))
        try:
            direct = _written_directly(target, path)
            grows = target if direct else partial_of(path)
            flags = (
                os.O_WRONLY
                | os.O_CREAT
                | (os.O_APPEND if goes_on else 0 if direct else os.O_TRUNC)
                | getattr(os, "O_NONBLOCK", 0)
            )
            if not direct and grows.exists() and not grows.is_file():
                raise Trouble(
                    f"{grows} is in the way",
                    "move it: Syntagma writes the file there until it is complete",
                )
            handle = os.open(grows, flags, 0o666)
            os.set_blocking(handle, True)
        except ValueError:
            raise Trouble("a file name can't contain a zero byte", "check the name") from None
        except OSError as error:
            raise _refusal(path, error) from None
        try:
            with open(handle, "w", encoding="utf-8", newline="", buffering=1 << 18) as file:
                yield file
            if not direct:
                if target.exists():
                    os.chmod(grows, stat.S_IMODE(target.stat().st_mode))
                os.replace(grows, target)
        except OSError as error:
            if not direct and not keeps:
                grows.unlink(missing_ok=True)
            raise _refusal(path, error, grows if keeps and not direct else None) from None
        except KeyboardInterrupt:
            raise
        except BaseException:
            if not direct and not (keeps and goes_on):
                grows.unlink(missing_ok=True)
            raise


def _written_directly(target: Path, path: Path | str) -> bool:
    """Is it a device or a pipe? Raises Trouble if it can't be written, as a folder or a disk."""
    if os.fspath(path).startswith(_HANDED):
        return True
    if not target.exists():
        return False
    mode = target.stat().st_mode
    if stat.S_ISDIR(mode):
        raise Trouble(f"{path} is a folder, not a file", f"name a file in it: {path}/prompts.txt")
    if stat.S_ISBLK(mode) or stat.S_ISSOCK(mode):
        raise Trouble(f"{path} is not a file to write to", "name a file")
    if not os.access(target, os.W_OK):
        raise Trouble(
            f"you may not write to {path}", "change its permissions, or choose another name"
        )
    return not stat.S_ISREG(mode)


def write_text(path: Path | str, text: str) -> None:
    """Write a whole file. Raises Trouble."""
    with whole_file(path) as file:
        file.write(text)


def write_new(path: Path, text: str) -> None:
    """Write a file that must not be there yet, with the folders that it needs. Raises Trouble."""
    make_folder(path.parent)
    with held(path):
        if path.exists():
            raise Trouble(
                f"{path} exists already", "edit it in any editor, or choose another name", 2
            )
        write_text(path, text)


def whole_lines(path: Path | str) -> int:
    """Cut PATH.partial, which an interruption left, after its last whole line; return how many
    lines it has, 0 if there is none. Raises Trouble.
    """
    partial = partial_of(path)
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
    """Cut the last `number` lines off PATH.partial, which ends with a whole line."""
    if not number:
        return
    with open(partial_of(path), "r+b") as file:
        at, left = file.seek(0, os.SEEK_END) - 1, number
        while at > 0 and left:  # the line end at `at` closes the line that goes
            start = max(0, at - (1 << 16))
            file.seek(start)
            block = file.read(at - start)
            found = block.rfind(b"\n")
            at = start + found if found >= 0 else start
            left -= found >= 0
        file.truncate(at + 1 if not left else 0)


def _refusal(path: Path | str, error: OSError, kept: Path | None = None) -> Trouble:
    full = error.errno in (28, 122)
    remedy = (
        "free some space, or choose another disk"
        if full
        else "choose an existing folder that you can write to"
    )
    if error.errno == 6:
        return Trouble(f"nothing reads the pipe {path}", "start its reader first, or name a file")
    if kept is not None:
        remedy = (
            f"what is finished is in {kept.name}: {'free some space' if full else 'correct that'},"
            " then run the same command with --resume"
        )
    return Trouble(f"{path} can't be written: {why(error)}", remedy)


def why(error: OSError) -> str:
    """What the system said, in small letters."""
    return (error.strerror or str(error)).lower()


def forget(path: Path) -> None:
    """Delete a file that may be there."""
    with suppress(OSError):
        path.unlink(missing_ok=True)


def is_locked(error: Exception) -> bool:
    """Did SQLite give up waiting for another process?"""
    return getattr(error, "sqlite_errorname", "") in ("SQLITE_BUSY", "SQLITE_LOCKED")
