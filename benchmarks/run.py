"""Speed and memory as ratios, each against something plain in the same run: python
benchmarks/run.py [--quick].

Time is processor time (user and system) of whole processes, the least of several interleaved runs,
so that a busy machine disturbs it little. Memory is the peak of the process (VmHWM).
"""

import os
import resource
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

PYTHON = sys.executable
PROGRAM = str(Path(PYTHON).with_name("syntagma"))
QUICK = "--quick" in sys.argv
HERE = Path(__file__).resolve().parent


def processor_time(command: Sequence[str]) -> float:
    """Seconds of processor time that a command takes; it must succeed."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def ratio(
    measured: Sequence[str], against: Sequence[str], times: int
) -> tuple[float, float, float]:
    """(ratio, seconds measured, seconds against), the least of `times` runs of each, one after the
    other.
    """
    pairs = [(processor_time(measured), processor_time(against)) for _ in range(times)]
    ours, theirs = min(p[0] for p in pairs), min(p[1] for p in pairs)
    return ours / theirs, ours, theirs


def peak(command: Sequence[str]) -> int:
    """The peak memory of a command, in bytes."""
    script = (
        "import os, subprocess, sys, resource;subprocess.run(sys.argv[1:], check=True,"
        " stdout=subprocess.DEVNULL,"
        " stderr=subprocess.DEVNULL);print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss *"
        " 1024)"
    )
    return int(
        subprocess.run(
            [PYTHON, "-c", script, *command], check=True, capture_output=True, text=True
        ).stdout
    )


def axis(slot: str, number: int) -> str:
    return f"{slot}=" + ",".join(f"{slot} choice {i:03d}" for i in range(number))


EXAMPLE = ["poster", "medium=linocut", "subject=harbour pilot"]
FIXED = [
    "medium=linocut",
    "setting=wet quay",
    "palette=ink blue and lamp orange",
    "--model",
    "curlew-still",
]


def expand(shape: tuple[int, int, int], out: str) -> list[str]:
    vary = [
        w
        for slot, n in zip(("subject", "light", "action"), shape, strict=True)
        for w in ("--vary", axis(slot, n))
    ]
    return [PROGRAM, "expand", "poster", *FIXED, *vary, "--design", "full", "--all", "--out", out]


def report(what: str, got: float, aim: float, note: str) -> None:
    print(
        f"{what:<52} {got:6.2f} times   aim under {aim:<4} {'ok' if got < aim else 'OVER'}   {note}"
    )


LOAD = "from syntagma.app.workspace.workspace import Workspace; workspace = Workspace.load()"
SEARCH = """
import time
from syntagma.core.vocabulary.terms import search
search(workspace.vocabulary, "warm up")
begun = time.process_time()
found = search(workspace.vocabulary, "soft side light late afternoon")
print((time.process_time() - begun) * 1000)
"""


def vocabulary(times: int, plain: Sequence[str]) -> None:
    """What reading every facet costs over reading none, and what a search over all terms takes once
    they are read.
    """
    whole, ours, theirs = ratio(
        [PYTHON, "-c", LOAD + "; list(workspace.vocabulary)"], [PYTHON, "-c", LOAD], times
    )
    bare = min(processor_time(plain) for _ in range(times))
    report(
        "every facet read, over none",
        whole,
        2.5,
        f"{(ours - theirs) * 1000:.0f} ms more (python -c 'import argparse': {bare * 1000:.0f} ms)",
    )
    runs = [
        subprocess.run([PYTHON, "-c", LOAD + SEARCH], check=True, capture_output=True, text=True)
        for _ in range(times)
    ]
    took = min(float(run.stdout) for run in runs)
    report("a search over all terms, once read", took / (bare * 1000), 4, f"{took:.0f} ms")


def main() -> None:
    times = 3 if QUICK else 9
    plain = [PYTHON, "-c", "import argparse"]
    os.chdir(HERE)
    # as pip leaves an installed package: compiled, whatever PYTHONDONTWRITEBYTECODE says
    subprocess.run([PYTHON, "-m", "compileall", "-q", str(HERE.parent / "src")], check=True)
    for what, command, aim in (
        ("start-up: syntagma --version", [PROGRAM, "--version"], 3),
        ("start-up: one compose", [PROGRAM, "compose", *EXAMPLE], 4),
        (
            "start-up: one compose for a model",
            [PROGRAM, "compose", *EXAMPLE, "--model", "curlew-still"],
            5,
        ),
        (
            "start-up: one read",
            [PROGRAM, "read", "a red boat on a wet quay at dusk, 35mm lens, soft light"],
            12,
        ),
    ):
        got, ours, theirs = ratio(command, plain, times)
        report(
            what,
            got,
            aim,
            f"{ours * 1000:.0f} ms against {theirs * 1000:.0f} ms (python -c 'import argparse')",
        )
    vocabulary(times, plain)
    with tempfile.TemporaryDirectory() as folder:
        for ending, aim in (("txt", 6), ("jsonl", 6)):
            ours_out, bare_out = f"{folder}/ours.{ending}", f"{folder}/bare.{ending}"
            bare = [PYTHON, str(HERE / "bare.py"), bare_out]
            got, ours, theirs = ratio(expand((50, 50, 40), ours_out), bare, max(2, times // 2))
            if Path(ours_out).read_bytes() != Path(bare_out).read_bytes():
                raise SystemExit(f"the bare loop does not write the same bytes ({ending})")
            report(
                f"100,000 prompts to .{ending}",
                got,
                aim,
                f"{ours:.2f} s against {theirs:.2f} s (bare loop, same bytes)",
            )
        if not QUICK:
            small, large = (
                peak(expand((10, 10, 10), f"{folder}/small.txt")),
                peak(expand((100, 100, 100), f"{folder}/large.txt")),
            )
            allowed = 20 * 2**20 + 16 * 1_000_000
            verdict = "ok" if large - small <= allowed else "OVER"
            print(
                f"peak memory, 1,000,000 prompts over 1,000: {(large - small) / 2**20:.1f} MiB more"
                f" ({small / 2**20:.1f} → {large / 2**20:.1f}); aim {allowed / 2**20:.1f} "
                f" {verdict}"
            )


if __name__ == "__main__":
    main()
