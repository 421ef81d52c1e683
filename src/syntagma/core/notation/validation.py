"""The one validator: values of a file into a structure, with every fault that they have and where it stands.

msgspec does it, by a twin of the structure in its own types; it stops at the first fault and says where it is, so that what is at fault
is taken out and the rest tried again.
"""

import re
from functools import reduce
from operator import or_
from types import UnionType
from typing import Annotated, Any, Literal, NamedTuple, TypeVar, Union, get_args, get_origin, get_type_hints

from msgspec import Meta, Struct, ValidationError, convert, defstruct

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
    """`values` as a `kind`, and their faults; None where nothing is left that could be one. Takes out of `values` what is at fault."""
    twin = twin_of(kind)
    faults: list[Fault] = []
    for _ in range(MOST):
        try:
            return _of_twin(convert(values, twin)), faults
        except ValidationError as error:
            fault = _fault(str(error))
            faults.append(fault)
            if not fault.path or not _without(values, fault.path):
                return None, faults
    return None, faults


def twin_of(kind: type[Structure]) -> type[Struct]:
    """msgspec's twin of a structure: the same fields, defaults and bounds. Made once."""
    if kind in _TWINS:
        return _TWINS[kind]
    hints = get_type_hints(kind, include_extras=True)
    fields = [(name, _twin_type(hints[name]), *([_twin_value(kind.DEFAULTS[name])] if name in kind.DEFAULTS else ())) for name in kind.FIELDS]
    twin = defstruct(
        kind.__name__, fields, frozen=True, kw_only=True, forbid_unknown_fields=not kind.MORE, rename=kind.KEYS or None,
        namespace={"__doc__": kind.__doc__},
    )  # fmt: skip
    _TWINS[kind], _OF_TWIN[twin] = twin, kind
    return twin


_TWINS: dict[type[Structure], type[Struct]] = {}
_OF_TWIN: dict[type[Struct], type[Structure]] = {}


def _twin_type(hint: Any) -> Any:
    if isinstance(hint, type) and issubclass(hint, Structure):
        return twin_of(hint)
    origin, parts = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return Annotated[_twin_type(parts[0]), Meta(**{k: v for k, v in parts[1]._asdict().items() if v is not None})]
    if origin in (UnionType, Union):
        return reduce(or_, map(_twin_type, parts))
    return origin[tuple(map(_twin_type, parts))] if origin not in (None, Literal) else hint


def _twin_value(value: Any) -> Any:
    return twin_of(type(value))(**{name: _twin_value(inner) for name, inner in value}) if isinstance(value, Structure) else value


def _of_twin(value: Any) -> Any:
    """What a twin holds as structures."""
    if isinstance(value, Struct):
        kind = _OF_TWIN[type(value)]
        return kind(**{name: _of_twin(getattr(value, name)) for name in kind.FIELDS})
    if isinstance(value, dict):
        return {key: _of_twin(inner) for key, inner in value.items()}
    return type(value)(map(_of_twin, value)) if isinstance(value, list | tuple) else value


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
    """Take what stands at `path` out of `value`, or the nearest thing above that can go; False where nothing can."""
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
