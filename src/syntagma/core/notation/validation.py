"""The one validator: values of a file into a structure, with every fault that they have and its place.

What fits is made at once. Of the rest msgspec tells what is wrong, by a twin of the structure in its own types; it stops at the first fault
and says where it is, so what is at fault is taken out and the rest tried again.
"""

import re
from typing import Any, NamedTuple, TypeVar

from syntagma.core.notation.fitting import Unfit, fitted
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.structure import Structure

SAID = {
    "int": "a whole number", "float": "a number", "str": "text in quotes", "bool": "true or false", "array": "a list in [brackets]",
    "object": "a table", "null": "nothing",
}  # fmt: skip
UNKNOWN = "unknown field"
MOST = 50  # faults that are looked for
_MESSAGE = regex(r"^(?P<what>.*?)(?: - at `\$(?P<path>.*)`)?$", re.S)
_STEP = regex(r"\.([\w-]+)|\[(\d+|\.\.\.)\]")
_UNKNOWN = regex(r"unknown field `(.*)`")

Path = tuple[str | int, ...]
Kind = TypeVar("Kind", bound=Structure)


class Fault(NamedTuple):
    """What is wrong with the value at a path: UNKNOWN, or what was expected there."""

    path: Path
    what: str

    @property
    def where(self) -> str:
        """The path as it is written: fills.subject, references[1]."""
        steps = (f"[{step}]" if isinstance(step, int) or step == "…" else f".{step}" for step in self.path)
        return "".join(steps).lstrip(".")


def converted(values: Any, kind: type[Kind]) -> tuple[Kind | None, list[Fault]]:
    """`values` as a `kind`, and their faults; None if nothing is left that could be one. Takes out of `values` what is at fault."""
    try:
        return fitted(values, kind), []
    except Unfit:
        from syntagma.core.notation.twins import made_by_twin  # heavy: only what does not fit waits for it

    faults: list[Fault] = []
    for _ in range(MOST):
        made = made_by_twin(values, kind)
        if not isinstance(made, str):
            return made, faults
        fault = _fault(made)
        faults.append(fault)
        if not fault.path or not _without(values, fault.path):
            return None, faults
    return None, faults


def wanted(what: str) -> str:
    """What was expected, in words: a whole number, text in quotes."""
    said = re.sub(r"`([^`]*)`", lambda m: _said(m[1]), what.split(", got")[0])
    return said.replace("Expected ", "").replace("length", "of length")


def _said(kind: str) -> str:
    return " or ".join(dict.fromkeys(SAID.get(part.strip(), part.strip()) for part in kind.split("|") if part.strip() != "null"))


def _fault(message: str) -> Fault:
    found = _MESSAGE.match(message)
    path = tuple(m[1] or (int(m[2]) if m[2] != "..." else "…") for m in _STEP.finditer(found["path"] or ""))
    unknown = _UNKNOWN.search(found["what"])
    return Fault((*path, unknown[1]), UNKNOWN) if unknown else Fault(path, found["what"])


def _without(value: Any, path: Path) -> bool:
    """Take what is at `path` out of `value`, or the nearest thing above that can go; False if nothing can."""
    holder, last = value, None
    for step in path:
        if last is not None:
            holder = holder[last]
        if step == "…" or not isinstance(holder, dict | list):
            break
        if isinstance(holder, dict) and step not in holder:
            return _without(value, path[:-1]) if len(path) > 1 else False
        last = step
    if last is None:
        return False
    if isinstance(holder, dict) and last in holder:
        del holder[last]
        return True
    if isinstance(holder, list) and isinstance(last, int) and last < len(holder):
        del holder[last]
        return True
    return _without(value, path[:-1]) if len(path) > 1 else False
