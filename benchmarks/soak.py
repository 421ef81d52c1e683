"""The soak of sending: python -m benchmarks.soak [ROWS [KILLS [SEED]]].

ROWS (2000) rows on two models are sent to the stand-in under every fault at once; the sender is
killed (kill -9) and started again at KILLS (100) random moments. Then everything is collected and
reconciled, and the service's own books are the witness: every approved take is done, refused or
failed with its reason, or unclear; none is charged twice; every charge without a result is in the
ledger.
"""

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import httpx

PROGRAM = [sys.executable, "-m", "syntagma"]


def soak(
    rows: int,
    kills: int,
    seed: int,
    keys: bool = True,
    folder: Path | None = None,
    faults: str = "all",
) -> dict[str, object]:
    """Run it; return what was counted."""
    folder = folder or Path(tempfile.mkdtemp())
    environment = {
        **os.environ,
        "SYNTAGMA_HOME": str(folder / "own"),
        "NO_COLOR": "1",
        "PYTHONUNBUFFERED": "1",
    }
    chance = random.Random(seed)

    def run(*words: str, wait: float | None = None) -> subprocess.CompletedProcess | None:
        process = subprocess.Popen(
            [*PROGRAM, *words],
            cwd=folder,
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        try:
            out, err = process.communicate(timeout=wait)
        except subprocess.TimeoutExpired:
            process.send_signal(signal.SIGKILL)
            process.communicate()
            return None
        return subprocess.CompletedProcess(words, process.returncode, out, err)

    run("start", ".")
    with open(folder / "rows.jsonl", "w") as file:
        for n in range(rows):
            model = ("curlew-still", "whimbrel-motion")[n % 2]
            file.write(
                json.dumps(
                    {
                        "text": f"A car ferry number {n} on a wet quay, warm lamps, night.",
                        "model": model,
                        "parameters": {"seconds": 4} if n % 2 else {},
                    }
                )
                + "\n"
            )
    service = [
        *PROGRAM,
        "service",
        "--port",
        "0",
        "--faults",
        faults,
        "--seed",
        str(seed),
        "--takes",
        "0.2",
        *([] if keys else ["--no-keys"]),
    ]
    server = subprocess.Popen(
        service, cwd=folder, env=environment, stderr=subprocess.PIPE, text=True
    )
    assert server.stderr
    address = next(
        word for word in server.stderr.readline().split() if word.startswith("http")
    ).rstrip(";")
    began = time.time()
    try:
        for words in (
            ("sheet", "new", "soak", "rows.jsonl"),
            ("sheet", "approve", "soak", "--all"),
        ):
            done = run(*words)
            assert done and done.returncode == 0, done
        killed = 0
        send, collect = (
            ("send", "soak", "--yes", "--budget", "1e9", "--at", address),
            (
                "collect",
                "soak",
                "--at",
                address,
            ),
        )
        while killed < kills:
            killed += (
                run(
                    *(send if chance.random() < 0.7 else collect),
                    wait=chance.uniform(0.3, 1.0 + rows / kills / 40),
                )
                is None
            )
            if killed and not chance.randrange(4) and _left(folder) == 0:
                break
        for _ in range(60):
            run(*send)
            run(*collect)
            if not _left(folder):
                break
            time.sleep(0.5)
        run(*collect, "--reconcile")
        for _ in range(10):
            run(*send)
            run(*collect, "--wait")
            if not _left(folder):
                break
        books = httpx.get(f"{address}/books", timeout=30).json()
    finally:
        server.terminate()
        server.wait()
    return {
        **_judged(folder, books, rows),
        "kills": killed,
        "seconds": round(time.time() - began, 1),
    }


def _base(folder: Path):
    import sqlite3

    return sqlite3.connect(folder / "ledger.sqlite", timeout=30)


def _left(folder: Path) -> int:
    """Takes that are not ended."""
    with _base(folder) as base:
        rows = base.execute("select count(*) from rows").fetchone()[0]
        ended = base.execute(
            "select count(*) from takes where state in ('done', 'refused', 'failed', 'expired',"
            " 'cancelled')"
        ).fetchone()[0]
    return rows - ended


def _judged(folder: Path, books: dict, rows: int) -> dict[str, object]:
    """The ledger against the service's books."""
    charges = Counter(
        one["reference"].split(":", 1)[1].partition("/")[0] for one in books["charges"]
    )
    with _base(folder) as base:
        takes = {
            f"{sheet}:{row}.{number}": (state, why, charged, file)
            for sheet, row, number, state, why, charged, file in base.execute(
                "select sheet, row, number, state, why, charged, file from takes"
            )
        }
    states = Counter(state for state, *_ in takes.values())
    unknown = [name for name in charges if name not in takes]
    unpaid = [
        name
        for name, count in charges.items()
        if count
        and takes.get(name, ("",))[0] in ("failed", "refused", "expired")
        and not takes[name][2]
    ]
    lost = [
        name
        for name, count in charges.items()
        if count
        and takes.get(name, ("",))[0]
        not in ("done", "refused", "failed", "expired", "unclear", "sent", "queued")
    ]
    return {
        "rows": rows,
        "takes": len(takes),
        "states": dict(states),
        "charged": sum(charges.values()),
        "charged twice": sum(count > 1 for count in charges.values()),
        "charges that the ledger does not know": len(unknown),
        "charged, ended, and not in the ledger as charged": len(unpaid),
        "charged and in no state": len(lost),
        "ended without a reason": sum(
            state in ("failed", "refused", "expired") and not why
            for state, why, *_ in takes.values()
        ),
        "done without a file": sum(
            state == "done" and not all((folder / one).is_file() for one in file.split("; "))
            for state, _, _, file in takes.values()
        ),
        "books": round(books["sum"], 2),
        "ledger": round(sum(charged or 0 for _, _, charged, _ in takes.values()), 2),
    }


def main() -> None:
    rows, kills, seed = (
        int(word) for word in (*sys.argv[1:], *("2000", "100", "1")[len(sys.argv) - 1 :])
    )
    for keys in (True, False):
        print("with keys and look-up" if keys else "with look-up alone")
        for name, value in soak(rows, kills, seed, keys).items():
            print(f"  {name}: {value}")


if __name__ == "__main__":
    main()
