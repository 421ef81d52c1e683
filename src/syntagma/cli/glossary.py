"""Words with a meaning of their own, and the pages of the documentation, for `syntagma help`."""

from pathlib import Path

# ──── help words: what the words of the program mean, one line each. docs/reference/glossary.md is
# made of it.


WORDS = {
    "prompt": "what a generator gets: text, negative text, parameters",
    "formula": "the plan of a kind of prompt: fixed words and slots",
    "slot": "a gap in a formula that is filled: subject, light, setting",
    "fill": "what goes into a slot: a term, or words of your own",
    "phrase": "a part of a formula that is kept or left out as a whole",
    "facet": "a kind of choice: lighting, medium, lens",
    "term": "one choice of a facet: sodium quay lamps",
    "tag": "a word that sorts terms: night, sea; #night means all terms with it",
    "look": "opening, closing and negative words around any content",
    "situation": "who does what, where, in which light: a pick begins with one",
    "theme": "what picks lean towards: night, winter, a client's world",
    "pick": "a term that the program chooses, to suit all the others",
    "draw": "the number behind a pick: the same draw gives the same picks",
    "wish": "what you want, in a sentence of your own",
    "model": "the description of one generator",
    "register": "how a model reads: prose, tags, labelled lines, JSON, timed",
    "stress": "weight on a slot or a phrase, for models that take it",
    "workspace": "a folder with your own words, formulas, looks, themes and models",
    "family": "many prompts made of one, each different for a reason",
    "axis": "what varies in a family; its values are levels",
    "design": "how the members of a family are chosen",
    "film": "a shot list or a script, made into prompts that cut together",
    "scene": "a division of a film, made of shots",
    "clip": "what a film model makes at once; it may hold several shots",
    "sheet": "a table of prompts to check and approve before you pay",
    "row": "one prompt of a sheet",
    "take": "one result of a prompt",
    "service": "what a model's requests are sent to",
    "library": "results, each with the prompt that made it",
    "rating": "how good somebody finds a result, 0 to 5",
    "effect": "what one choice did to the ratings of a family",
    "campaign": "the pictures of a whole business, planned together",
    "pack": "formulas, words, looks and models in one file",
}


def glossary() -> str:
    """The words, one per line."""
    width = max(map(len, WORDS))
    return "\n".join(f"  {word:<{width}}  {meaning}" for word, meaning in WORDS.items())


# ──── help NAME: the pages of the documentation, as they are installed with the program. A task or
# a page of reference is called by its file's name.


PACKAGE = Path(__file__).parents[1]
ROOMS = (
    "tasks",
    "reference",
)  # the pages that messages point to; the others are on the shelf of the developers


def pages() -> dict[str, Path]:
    """The pages by name, tasks first. They lie in the package, or beside it where it runs out of
    its own repository.
    """
    root = next(
        (folder for folder in (PACKAGE / "docs", PACKAGE.parents[1] / "docs") if folder.is_dir()),
        None,
    )
    return {
        path.stem: path for room in ROOMS if root for path in sorted((root / room).glob("*.md"))
    }


def show(name: str) -> bool:
    """Print a page; False if no page has the name."""
    path = pages().get(name)
    if path is None:
        return False
    from syntagma.cli import terminal

    terminal.page(path.read_text("utf-8"))
    return True
