"""The nearest known name to one that a person typed."""

from collections.abc import Iterable

NEAR = 66  # how alike two names are, of 100, from which on one may be meant by the other


def nearest(name: str, known: Iterable[str], least: float = NEAR) -> str:
    """Return the known name that `name` was probably meant to be, or "" if none is near."""
    return next((one for one in near(name, known, 1, least) if one != name), "")


def near(name: str, known: Iterable[str], number: int, least: float = NEAR) -> list[str]:
    """The known names that are most like `name`, the nearest first."""
    from rapidfuzz import fuzz, process, utils  # imported late: only a mistake or a search pays for it

    return [one for one, _, _ in process.extract(name, sorted(set(known)), scorer=fuzz.ratio, processor=utils.default_process, limit=number, score_cutoff=least)]


def perhaps(name: str, known: Iterable[str], otherwise: str) -> str:
    """A remedy: the nearest name as a question, or `otherwise`."""
    known = list(known)
    held = [one for one in known if name and name.lower() in one.lower().replace("_", "-").split("-")]
    if 0 < len(held) <= 4:
        return f"did you mean {' or '.join(f'“{one}”' for one in held)}?"
    found = nearest(name, known)
    return f"did you mean “{found}”?" if found else otherwise
