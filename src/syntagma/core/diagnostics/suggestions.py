"""The nearest known name to one that a person typed."""

from collections.abc import Iterable


def nearest(name: str, known: Iterable[str]) -> str:
    """Return the known name that `name` was probably meant to be, or "" where none is near."""
    from rapidfuzz import fuzz, process, utils  # imported late: only a mistake or a search pays for it

    found = process.extractOne(name, sorted(set(known)), scorer=fuzz.ratio, processor=utils.default_process)
    return found[0] if found and found[1] >= 66 and found[0] != name else ""


def perhaps(name: str, known: Iterable[str], otherwise: str) -> str:
    """A remedy: the nearest name as a question, or `otherwise`."""
    known = list(known)
    held = [one for one in known if name and name.lower() in one.lower().replace("_", "-").split("-")]
    if 0 < len(held) <= 4:
        return f"did you mean {' or '.join(f'“{one}”' for one in held)}?"
    found = nearest(name, known)
    return f"did you mean “{found}”?" if found else otherwise
