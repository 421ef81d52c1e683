"""The tour: a workspace with the demo data, and the steps that are walked through in it."""

import json
import shlex
import shutil
import tomllib
from pathlib import Path

from syntagma.app.workspace.new_workspace import start
from syntagma.storage.folders import SETTINGS, SHIPPED
from syntagma.storage.trouble import Trouble

DEMO = SHIPPED / "demo"


def prepare(folder: Path) -> Path:
    """Make the demo workspace in `folder`, which must be new or empty. Raises Trouble."""
    if folder.is_dir() and any(folder.iterdir()):
        raise Trouble(f"{folder} is not empty", "name a folder that is not there yet: syntagma tour my-look-round")
    start(folder, "curlew-still")
    for path in sorted((DEMO / "workspace").rglob("*")):
        if path.is_file():
            target = folder / path.relative_to(DEMO / "workspace")
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(path, target)
    return folder


def steps() -> list[dict]:
    """The steps: what is said, the call as it is typed, and its words."""
    with open(DEMO / "tour.toml", "rb") as file:
        return [{**step, "words": shlex.split(step["run"])} for step in tomllib.load(file)["step"]]


def summary(folder: Path, shown: str) -> list[str]:
    """What the tour leaves: how many prompts, for how many models, all different."""
    texts: list[tuple[str, str]] = []
    for path in sorted(folder.glob("*.jsonl")):
        texts += [(r.get("model", ""), r["text"]) for line in path.read_text("utf-8").splitlines() for r in [json.loads(line)]]
    models = sorted({model for model, _ in texts})
    files = sorted(p.name for p in folder.iterdir() if p.is_file() and p.name != SETTINGS)
    return [
        f"{len(texts)} prompts for {len(models)} models ({', '.join(models)}), {len(set(texts))} of them different.",
        f"{shown} holds {', '.join(files)}; go there (cd {shown}) and try a step with words of your own.",
    ]
