"""help NAME: the pages of the documentation, as they are installed with the program. A task or a page of reference is called by its file's name."""

from pathlib import Path

PACKAGE = Path(__file__).parents[2]
ROOMS = ("tasks", "reference")  # the pages that messages point to; the others are on the shelf of the developers


def pages() -> dict[str, Path]:
    """The pages by name, tasks first. They lie in the package, or beside it where it runs out of its own repository."""
    root = next((folder for folder in (PACKAGE / "docs", PACKAGE.parents[1] / "docs") if folder.is_dir()), None)
    return {path.stem: path for room in ROOMS if root for path in sorted((root / room).glob("*.md"))}


def titles() -> dict[str, str]:
    """What each page is about: its first heading."""
    return {name: path.read_text("utf-8").partition("\n")[0].removeprefix("# ") for name, path in pages().items()}


def show(name: str) -> bool:
    """Print a page; False if no page has the name."""
    path = pages().get(name)
    if path is None:
        return False
    from syntagma.cli import terminal

    terminal.page(path.read_text("utf-8"))
    return True
