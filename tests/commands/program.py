"""Runs the built program on files in a temporary folder."""

import os
import subprocess
import sys
from pathlib import Path

PROGRAM = str(Path(sys.executable).with_name("syntagma"))


def environment(folder: Path) -> dict[str, str]:
    return {**os.environ, "SYNTAGMA_HOME": str(folder / "own"), "NO_COLOR": "1"}


def run(folder: Path, *words: str, given: str = "", **options) -> subprocess.CompletedProcess:
    """Run `syntagma words…` in a folder."""
    return subprocess.run(
        [PROGRAM, *words], cwd=folder, input=given, capture_output=True, text=True, encoding="utf-8",
        env=environment(folder), timeout=120, **options,
    )  # fmt: skip


def good(folder: Path, *words: str, **options) -> str:
    """The output of a call that must succeed."""
    done = run(folder, *words, **options)
    assert done.returncode == 0, done.stderr
    return done.stdout
