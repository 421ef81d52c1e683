"""A family in parts on other machines: a Dask cluster writes them, this machine joins them in
order.
"""

import io
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, NamedTuple

from syntagma.app.families.family import Family, Window, counted
from syntagma.app.families.files import check_lines, file_names, stream_family, writer_for
from syntagma.app.families.spec import FamilySpec
from syntagma.app.workspace.workspace import KNOWN, Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.storage.files import read_bytes, whole_file
from syntagma.storage.folders import ROOMS, SETTINGS, SHIPPED, Layer

SIZE = 20_000  # members of a part, at most
AHEAD = (
    3  # parts under way for each thread of the cluster: what waits here to be written stays small
)
PATIENCE = 20  # seconds until a scheduler that does not answer is given up


class WorkerFiles(NamedTuple):
    """The person's own files and those of the workspace, to be laid out on another machine: name of
    the layer → path → bytes.
    """

    layers: dict[str, dict[str, bytes]]


def bundle(workspace: Workspace) -> WorkerFiles:
    """Everything of a workspace that does not ship with the program."""
    found: dict[str, dict[str, bytes]] = {}
    for layer in workspace.layers:
        if layer.path != SHIPPED:
            files = [
                p for room in ROOMS for p in sorted((layer.path / room).glob("*")) if p.is_file()
            ]
            files += [p for name in (SETTINGS, KNOWN) if (p := layer.path / name).is_file()]
            found[layer.name] = {str(p.relative_to(layer.path)): read_bytes(p) for p in files}
    return WorkerFiles(found)


def write_on(
    address: str,
    workspace: Workspace,
    wish: FamilySpec,
    path: str,
    tell: Callable[[int], None] | None = None,
) -> tuple[list[str], Family]:
    """Write a family with the help of the cluster at `address` (host:port of its scheduler), the
    same bytes as without it. Return the names of the files, and the family as it was counted.
    Raises Trouble.
    """
    family = Family(workspace, wish)
    if wish.formula.endswith(".formula"):
        raise Trouble(
            "a cluster has only the workspace's formulas",
            f"put {wish.formula} into the formulas folder, and call it by name",
            2,
        )
    check_lines(family, path, "--on")
    names = file_names(family, path)
    with _client(address) as client:
        threads = sum(
            worker["nthreads"] for worker in client.scheduler_info(n_workers=-1)["workers"].values()
        )
        if not threads:
            raise Trouble(
                f"the cluster at {address} has no workers", "start some: dask worker ADDRESS"
            )
        whole = counted(workspace, wish)
        parts = max(1, min(whole.members, max(threads, -(-whole.members // SIZE))))
        windows = (whole.part(number, parts) for number in range(1, parts + 1))
        with ExitStack() as stack:
            outs = [stack.enter_context(whole_file(name)) for name in names]
            for done, texts in enumerate(
                _in_order(
                    client, bundle(workspace), wish, Path(path).suffix, windows, threads * AHEAD
                ),
                1,
            ):
                for out, text in zip(outs, texts, strict=True):
                    out.buffer.write(text)
                if tell:
                    tell(whole.members * done // parts)
    return names, whole.family


def _client(address: str):
    """A connection to the scheduler. Raises Trouble."""
    try:
        from distributed import Client
    except ImportError:
        raise Trouble(
            "the cluster's package is not installed", "install it: pip install 'syntagma[cluster]'"
        ) from None
    try:
        return Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError) as error:
        said = str(error).splitlines()[0] if str(error) else "no answer"
        raise Trouble(
            f"can't reach a cluster at {address}: {said}",
            "name its scheduler as HOST:PORT, as `dask scheduler` shows it",
        ) from None


def _in_order(
    client: Any,
    files: WorkerFiles,
    wish: FamilySpec,
    ending: str,
    windows: Iterator[Window],
    ahead: int,
) -> Iterator[list[bytes]]:
    """The parts in their order, a few under way at a time."""
    sent = client.scatter(files, broadcast=True)
    waiting: list = []
    for window in windows:
        waiting.append(client.submit(part, sent, wish, ending, window, pure=False))
        if len(waiting) >= ahead:
            yield waiting.pop(0).result()
    while waiting:
        yield waiting.pop(0).result()


def part(files: WorkerFiles, wish: FamilySpec, ending: str, window: Window) -> list[bytes]:
    """Write one part, on a worker: the bytes of each file."""
    with TemporaryDirectory() as room:
        layers = [Layer("shipped", SHIPPED)]
        for name, contents in files.layers.items():
            layers.append(Layer(name, Path(room, name)))
            for path, data in contents.items():
                target = Path(room, name, path)
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(data)
        workspace = Path(room, "workspace") if "workspace" in files.layers else None
        family = Family(Workspace(workspace, layers), wish)
        family.window = window
        kind = writer_for(f"part{ending}")
        held = [io.BytesIO() for _ in file_names(family, f"part{ending}")]
        outs = [
            io.TextIOWrapper(one, encoding="utf-8", newline="", write_through=False) for one in held
        ]
        stream_family(family, [kind(out, list(family.compiled.writer.position)) for out in outs])
        for out in outs:
            out.flush()
        return [one.getvalue() for one in held]
