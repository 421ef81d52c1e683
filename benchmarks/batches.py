"""Batches, measured: python -m benchmarks.batches [ROWS].

ROWS (10000) rows are put into a sheet, approved, sent to the stand-in and collected. Told are the
processor time of each command for a row, the same for the HTTP library alone (the same requests by
bare httpx) and for the disk alone (as many durable transactions of bare SQLite), the memory of the
sender, and the size of the ledger.
"""

import json
import os
import resource
import sqlite3
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

from syntagma.app.workspace.workspace import Workspace

PROGRAM = [sys.executable, "-m", "syntagma"]


def timed(folder: Path, environment: dict[str, str], *words: str) -> tuple[float, float]:
    """(Processor seconds, most megabytes) of a call."""
    code = (
        "import resource,sys; from syntagma.cli import main; s=main(sys.argv[1:]);"
        " r=resource.getrusage(resource.RUSAGE_SELF);"
        " open('used.json','w').write(str([r.ru_utime+r.ru_stime, r.ru_maxrss/1024])); sys.exit(s)"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, *words],
        cwd=folder,
        env=environment,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        print(done.stderr[-500:])
    return tuple(json.loads((folder / "used.json").read_text()))


def main() -> None:
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    folder = Path(tempfile.mkdtemp())
    environment = {**os.environ, "SYNTAGMA_HOME": str(folder / "own"), "NO_COLOR": "1"}
    subprocess.run([*PROGRAM, "start", "."], cwd=folder, env=environment, capture_output=True)
    (folder / "models").mkdir(exist_ok=True)
    shipped = Workspace.load().models()["curlew-still"][0][1].read_text("utf-8")
    server = subprocess.Popen(
        [*PROGRAM, "service", "--port", "0", "--takes", "0.01"],
        cwd=folder,
        env=environment,
        stderr=subprocess.PIPE,
        text=True,
    )
    assert server.stderr
    address = next(
        word for word in server.stderr.readline().split() if word.startswith("http")
    ).rstrip(";")
    (folder / "models" / "quick.toml").write_text(
        shipped.replace("a_minute = 1200", "a_minute = 1000000")
        .replace("at_once = 4", "at_once = 8")
        .replace("http://127.0.0.1:8787", address)
    )
    subprocess.run(
        [*PROGRAM, "service", "bind", address, "--no-secret"],
        cwd=folder,
        env=environment,
        capture_output=True,
    )
    with open(folder / "rows.jsonl", "w") as file:
        for n in range(rows):
            file.write(
                json.dumps(
                    {
                        "text": f"A car ferry number {n} on a wet quay, warm lamps, night.",
                        "model": "quick",
                    }
                )
                + "\n"
            )
    try:
        for words in (
            ("sheet", "new", "s", "rows.jsonl"),
            ("sheet", "approve", "s", "--all"),
            ("send", "s", "--yes", "--budget", "1e9"),
            ("collect", "s", "--wait"),
        ):
            began = time.time()
            used, most = timed(folder, environment, *words)
            print(
                f"{' '.join(words[:2]):14} {used / rows * 1000:6.2f} ms of processor time a row,"
                f" {time.time() - began:6.1f} s in all, {most:.0f} MB"
            )
        print(
            "the ledger:"
            f" {sum(path.stat().st_size for path in folder.glob('ledger.sqlite*')) / 1e6:.1f} MB"
        )
        some = min(rows, 2000)
        before = resource.getrusage(resource.RUSAGE_SELF)
        with httpx.Client(limits=httpx.Limits(max_keepalive_connections=0)) as client:
            for n in range(some):
                client.post(
                    f"{address}/curlew-still/tasks",
                    json={"line": f"A car ferry number {n}", "reference": f"x{n}"},
                )
        after = resource.getrusage(resource.RUSAGE_SELF)
        print(
            "HTTP alone    "
            f" {(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime) / some * 1000:6.2f}"  # noqa: E501
            " ms a request (bare httpx, a connection each)"
        )
    finally:
        server.terminate()
        server.wait()
    base = sqlite3.connect(folder / "bare.sqlite", isolation_level=None)
    base.execute("pragma journal_mode=wal")
    base.execute("pragma synchronous=full")
    base.execute("create table t (a text, b text)")
    before = resource.getrusage(resource.RUSAGE_SELF)
    for n in range(some):
        for _ in range(2):
            base.execute("begin immediate")
            base.execute("insert into t values (?, ?)", (str(n), "x" * 60))
            base.execute("commit")
    after = resource.getrusage(resource.RUSAGE_SELF)
    print(
        "the disk alone"
        f" {(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime) / some * 1000:6.2f}"  # noqa: E501
        " ms for two durable transactions"
    )


if __name__ == "__main__":
    main()
