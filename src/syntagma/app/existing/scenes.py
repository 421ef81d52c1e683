"""A wish, a story or a page in scenes, each of which can become a prompt."""

import re

from syntagma.app.existing.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.reading.scenes import StoryScene, scenes
from syntagma.storage.files import read_text
from syntagma.storage.trouble import Trouble


def scenes_of(workspace: Workspace, what: str, piped: str = "") -> list[StoryScene]:
    """The scenes of a wish: words, a file of them, or what came on a pipe (-). Raises Trouble."""
    if what == "-":
        text = piped
    elif what.lower().endswith((".txt", ".md")) and " " not in what:
        text = read_text(what, "a text")
    else:
        text = what
    if not text.strip():
        raise Trouble(
            "nothing in it could become a prompt", 'write your wish: --from "a harbour pilot on a wet quay"', 2
        )
    if not re.search(r"[.!?]\s+\S|\n", text.strip()):
        return [StoryScene(text, (text,), (text,))]
    return scenes(text, reader_of(workspace))
