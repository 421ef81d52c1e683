"""compose --kept, expand --kept: a command that goes on from a result of the library."""

from syntagma.cli import terminal


def without(words: list[str], option: str) -> list[str]:
    """The words of a call without an option and what follows it."""
    found, skip = [], False
    for word in words:
        if skip or word.startswith(f"{option}="):
            skip = False
        elif word == option:
            skip = True
        else:
            found.append(word)
    return found


def go_on(command: str, number: str, words: list[str]) -> int:
    """A command, begun with what a result of the library has; the call is shown. Raises Trouble."""
    from itertools import pairwise
    from shlex import quote

    from syntagma.app.composing.records import says_more
    from syntagma.app.results.adding import library_of, numbers_of
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.cli import hand_over

    with library_of(Workspace.load()) as library:
        kept = library.get(numbers_of([number])[0])
    fills = kept.record.get("fills")
    given = {slot: "; ".join(fill) if isinstance(fill, list) else str(fill) for slot, fill in fills.items()} if isinstance(fills, dict) else {}
    own = {word.partition("=")[0] for word in words if "=" in word and not word.startswith("-")}
    varied = {part for flag, word in pairwise(words) if flag == "--vary" for part in word.partition("=")[0].partition(":")[0].split("+")}
    model = ["--model", kept.model] if kept.model and "--model" not in words and not any(word.startswith("--model=") for word in words) else []
    if kept.record.get("edited"):
        terminal.note("its words were changed by hand, and those changes will not carry over")
    if kept.formula and given and not says_more(kept.record):
        looks = ["--look", ",".join(kept.record["looks"])] if isinstance(kept.record.get("looks"), list) and "--look" not in words else []
        taken = varied if command == "expand" else set()
        argv = [kept.formula, *(f"{slot}={fill}" for slot, fill in given.items() if slot not in own | taken), *words, *looks, *model]
    elif command == "expand":
        argv = ["--text", kept.text, *words, *model]
    else:
        argv = [*words, "--from", kept.text, *model]
    terminal.note(f"syntagma {command} {' '.join(map(quote, argv))}")
    return hand_over(command, argv)
