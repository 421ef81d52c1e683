"""The prompts of every list in tests/film on three models, kept in tests/film/prompts to be compared and read. `python -m tests.film_prompts` writes them anew: read the difference aloud before you commit it."""

from functools import cache
from pathlib import Path
from tempfile import mkdtemp

from syntagma.app.film.film_prompts import FilmPrompts
from syntagma.app.film.lists import FilmList
from syntagma.app.workspace.tour import start
from syntagma.app.workspace.workspace import Workspace

FILMS = Path(__file__).parent / "film"
LISTS = sorted(path.stem for path in FILMS.glob("*.csv"))
MODELS = ("whimbrel-motion", "godwit-motion", "knot-motion")


@cache
def workspace() -> Workspace:
    """A workspace with the people of the lists."""
    folder = Path(mkdtemp())
    start(folder, None)
    (folder / "known.toml").write_text((FILMS / "known.toml").read_text("utf-8"), "utf-8")
    return Workspace.load(folder)


@cache
def board(name: str, model: str = "whimbrel-motion") -> FilmPrompts:
    """A list made into prompts for a model, its stills for curlew-still."""
    source = FilmList(workspace(), str(FILMS / f"{name}.csv"))
    return FilmPrompts(source.film(), workspace().model(model), workspace().model("curlew-still"))


def written(name: str, model: str) -> str:
    """What a list gives on a model: each prompt below its name, and the findings."""
    made = board(name, model)
    parts = [f"## {one.name}\n{one.prompt.text}\n" for one in made.made]
    findings = [f"{one.place}: {one.code}: {one.message} ({one.remedy})" for one in made.findings]
    return "\n".join([f"# {name}\n", *parts, *findings]) + "\n"


def whole(model: str) -> str:
    """All lists on a model."""
    return "\n".join(written(name, model) for name in LISTS)


if __name__ == "__main__":
    (FILMS / "prompts").mkdir(exist_ok=True)
    for model in MODELS:
        (FILMS / "prompts" / f"{model}.txt").write_text(whole(model), "utf-8")
