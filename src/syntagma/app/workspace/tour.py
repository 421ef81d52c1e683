"""A new workspace, and the tour through the whole work on the demo data."""

import json
import shlex
import shutil
import subprocess
import sys
import tomllib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.storage.files import make_folder, write_new
from syntagma.storage.folders import ROOMS, SETTINGS, SHIPPED

# ──── A new workspace: its settings, and rooms for one's own vocabulary, formulas, looks, themes
# and models.


_SETTINGS = """# A Syntagma workspace. Everything in its folders applies here and in folders below, before your own folder and what ships.
#
#   vocabulary/FACET.csv     terms of your own: a spreadsheet whose first column is term
#   formulas/NAME.formula    formulas of your own
#   looks/NAME.formula       looks to put around any content
#   themes/NAME.toml         leanings for what is picked
#   models/NAME.toml         the generators that you use
#   known.toml               the people and things that you describe once: subject=@moth

# The model to use when you name none:
{model}
"""  # noqa: E501


def start(folder: Path, model: str | None = None) -> list[Path]:
    """Make a workspace; return what was made. Nothing that is there is touched. Raises Trouble."""
    if folder.exists() and not folder.is_dir():
        raise Trouble(f"{folder} is a file, but a workspace is a folder", "choose another name", 2)
    if (folder / SETTINGS).exists():
        here = folder.resolve() == Path.cwd()
        raise Trouble(
            f"{folder if not here else 'this folder'} is already a workspace",
            (
                "write `syntagma formula`, or choose another name"
                if here
                else f"use it (cd {folder}), or choose another name"
            ),
            2,
        )
    if model:
        Workspace.load().model(model)
    made = [folder / room for room in ROOMS if not (folder / room).is_dir()]
    for room in ROOMS:
        make_folder(folder / room)
    line = f'model = "{model}"' if model else '# model = "curlew-still"'
    write_new(folder / SETTINGS, _SETTINGS.format(model=line))
    return [folder / SETTINGS, *made]


# ──── The tour: a workspace with the demo data, and the steps that are walked through in it.


DEMO = SHIPPED / "demo"
CHAPTERS = {
    1: "one prompt",
    2: "many prompts, and what exists already",
    3: "a film",
    4: "paying, and judging what comes back",
    5: "sharing",
}


def prepare(folder: Path) -> Path:
    """Make the demo workspace in `folder`, which must be new or empty. Raises Trouble."""
    if folder.is_dir() and any(folder.iterdir()):
        raise Trouble(
            f"{folder} is not empty",
            "name a folder that is not there yet: syntagma tour my-look-round",
            2,
        )
    start(folder, "curlew-still")
    for path in sorted((DEMO / "workspace").rglob("*")):
        if path.is_file():
            target = folder / path.relative_to(DEMO / "workspace")
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(path, target)
    return folder


def steps(at: str = "") -> list[dict]:
    """The steps: their chapter, what is said, and the call as it is typed with its words, or what a
    colleague changes in a workbook. `at` is where the stand-in for a service is; without one the
    steps that need it are left out.
    """
    with open(DEMO / "tour.toml", "rb") as file:
        found = tomllib.load(file)["step"]
    chapter, calls = 1, []
    for step in found:
        chapter = step.get("chapter", chapter)
        if at or not step.get("service"):
            run = step.get("run", "").replace("{at}", at)
            calls.append({**step, "chapter": chapter, "run": run, "words": shlex.split(run)})
    return calls


@contextmanager
def service(folder: Path) -> Iterator[str]:
    """The stand-in for a service while the tour lasts, faults and all; its address, "" if it can't
    be obtained.
    """
    if not find_spec("PIL"):
        yield ""
        return
    call = [
        sys.executable,
        "-m",
        "syntagma",
        "service",
        "simulate",
        "--port",
        "0",
        "--faults",
        "429,drop,garbled,slow",
        "--seed",
        "4",
        "--seconds",
        "0.2",
    ]
    process = subprocess.Popen(call, cwd=folder, stderr=subprocess.PIPE, text=True)
    try:
        said = process.stderr.readline() if process.stderr else ""
        yield next((word.rstrip(";") for word in said.split() if word.startswith("http")), "")
    finally:
        process.terminate()
        process.communicate()


def edited(change: Mapping[str, Any]) -> list[str]:
    """Change a workbook as a colleague does who has no Syntagma: cells of some rows, by column.
    Return what was changed, in words.
    """
    from openpyxl import load_workbook

    path = str(change["file"])
    book = load_workbook(path)
    sheet = book.active
    names = [cell.value for cell in sheet[1]]
    said = []
    for row, column, old, new in change["cells"]:
        cell = sheet.cell(int(row) + 1, names.index(column) + 1)
        if old and old not in str(cell.value):
            raise Trouble(
                f"{path}: row {row} has no “{old}” in {column}",
                "the tour's own data is out of date: start it in a new folder",
            )
        cell.value = str(cell.value).replace(old, new) if old else new
        said.append(f"row {row}, {column}: {new}")
    for row in range(2, sheet.max_row + 1):
        cell = sheet.cell(row, names.index("status") + 1)
        cell.value = change["rest"] if cell.value == "open" else cell.value
    book.save(path)
    return [*said, f"every other row: {change['rest']}"]


def summary(folder: Path, shown: str) -> list[str]:
    """What the tour leaves: how many prompts, for how many models, all different."""
    texts: list[tuple[str, str]] = []
    for path in sorted(folder.glob("*.jsonl")):
        texts += [
            (r.get("model", ""), r["text"])
            for line in path.read_text("utf-8").splitlines()
            for r in [json.loads(line)]
            if "text" in r
        ]
    models = sorted({model for model, _ in texts})
    files = sorted(p.name for p in folder.iterdir() if p.is_file() and p.name != SETTINGS)
    return [
        (
            f"{len(texts)} prompts for {len(models)} models ({', '.join(models)}),"
            f" {len(set(texts))} of them different."
        ),
        (
            f"{shown} holds {', '.join(files)}; go there (cd {shown}) and try a step with words of"
            " your own."
        ),
    ]
