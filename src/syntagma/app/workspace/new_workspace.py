"""A new workspace: its settings, and rooms for one's own vocabulary, formulas, looks, themes and models."""

from pathlib import Path

from syntagma.app.workspace.workspace import Workspace
from syntagma.storage.files import make_folder, write_new
from syntagma.storage.folders import ROOMS, SETTINGS
from syntagma.storage.trouble import Trouble

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
"""

def start(folder: Path, model: str | None = None) -> list[Path]:
    """Make a workspace; return what was made. Nothing that is there is touched. Raises Trouble."""
    if folder.exists() and not folder.is_dir():
        raise Trouble(f"{folder} is a file, but a workspace is a folder", "choose another name", 2)
    if (folder / SETTINGS).exists():
        here = folder.resolve() == Path.cwd()
        raise Trouble(f"{folder if not here else 'this folder'} is already a workspace", "write `syntagma formula`, or choose another name" if here else f"use it (cd {folder}), or choose another name", 2)
    if model:
        Workspace.load().model(model)
    made = [folder / room for room in ROOMS if not (folder / room).is_dir()]
    for room in ROOMS:
        make_folder(folder / room)
    line = f'model = "{model}"' if model else '# model = "curlew-still"'
    write_new(folder / SETTINGS, _SETTINGS.format(model=line))
    return [folder / SETTINGS, *made]
