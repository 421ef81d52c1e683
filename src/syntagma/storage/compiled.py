"""What files say, compiled into the person's cache folder, so the next call reads it in a fraction of the time: made again when a file changes, done without if it can't be kept."""

import marshal
import os
import sys
from collections.abc import Callable
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Any

from syntagma import __version__
from syntagma.storage.folders import cache_folder

FORMAT = 1  # of what is kept: a step up for each change to what is compiled


def compiled(path: Path, what: str, make: Callable[[], Any]) -> Any:
    """What `make` makes of a file, from the cache if it is there and the file has not changed since. `what` names what is made of it; it is made of tuples, lists, dicts, strings and numbers. Whatever `make` raises is raised."""
    try:
        state = path.stat()
    except OSError:
        return make()
    name = sha256(f"{path}\0{what}".encode()).hexdigest()[:24]
    kept = cache_folder() / f"{name}.bin"
    sign = (FORMAT, __version__, sys.version_info[:2], marshal.version, str(path), what, state.st_mtime_ns, state.st_size)
    with suppress(OSError, ValueError, EOFError, TypeError):
        signed, made = marshal.loads(kept.read_bytes())
        if signed == sign:
            return made
    made = make()
    with suppress(OSError, ValueError):
        kept.parent.mkdir(parents=True, exist_ok=True)
        beside = kept.with_suffix(f".{os.getpid()}")  # put in place whole: two calls may write at a time
        beside.write_bytes(marshal.dumps((sign, made)))
        beside.replace(kept)
    return made
