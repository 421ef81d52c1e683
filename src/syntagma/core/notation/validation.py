"""The one validator: values of a file into a structure, with every fault that they have and its
place.

A structure's annotations say what its values are. Each annotation is compiled once into a function
that makes a value of it; what is at fault is left out and noted, so that one reading of a file
finds all of its mistakes. The same annotations give the JSON Schema of a structure, for editors.
"""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, NamedTuple, TypeVar, Union, cast, get_args, get_origin

from syntagma.core.notation.structure import Bounds, Structure, plain

Step = str | int
Path = tuple[Step, ...]
Made = TypeVar("Made", bound=Structure)

UNKNOWN, MISSING, CHOICE, VALUE = "unknown", "missing", "choice", "value"


class Fault(NamedTuple):
    """What is wrong with the value at a path: `code` UNKNOWN (no such key), MISSING (a key that
    must be given), CHOICE (not one of the words that may be there) or VALUE. `expected` says in
    words what would be right, or the key that is missing; `options` are the words of a choice, or
    the keys of a table.
    """

    path: Path
    code: str
    expected: str
    given: object
    options: tuple[str, ...] = ()

    @property
    def where(self) -> str:
        """The path as it is written: fills.subject, references[1]."""
        steps = (f"[{step}]" if isinstance(step, int) else f".{step}" for step in self.path)
        return "".join(steps).lstrip(".")


class _Left:
    """Stands for a value that is at fault."""


LEFT = _Left()
Make = Callable[
    [Any, Path, list[Fault]], Any
]  # (value, its path, faults so far) → the value made, or LEFT


def converted(values: Any, kind: type[Made]) -> tuple[Made | None, list[Fault]]:
    """`values` as a `kind`, without what is at fault in them, and their faults; None if nothing is
    left that could be one.
    """
    faults: list[Fault] = []
    made = _structure(kind)(values, (), faults)
    return (None if made is LEFT else cast(Made, made)), faults


# ──── Functions that make a value of an annotation

_MAKES: dict[type[Structure], Make] = {}


def _structure(kind: type[Structure]) -> Make:
    if kind not in _MAKES:
        _MAKES[kind] = _structure_anew(kind)
    return _MAKES[kind]


def key_of(kind: type[Structure], field: str) -> str:
    """How a file writes a field of a structure."""
    return field.replace("_", "-") if kind.KEYS == "kebab" else field


def _structure_anew(kind: type[Structure]) -> Make:
    makes = {key_of(kind, name): (name, _make(kind.HINTS[name])) for name in kind.FIELDS}
    needed = [name for name in kind.FIELDS if name not in kind.DEFAULTS]
    keys = tuple(makes)

    def make(values: Any, path: Path, faults: list[Fault]) -> Any:
        if type(values) is not dict:
            return _wrong(path, "a table", values, faults)
        fields: dict[str, Any] = {}
        refused = set()
        for key, value in values.items():
            if key in makes:
                name, inner = makes[key]
                made = inner(value, (*path, key), faults)
                if made is LEFT:
                    refused.add(name)
                else:
                    fields[name] = made
            elif not kind.MORE:
                faults.append(Fault((*path, key), UNKNOWN, "", value, keys))
        for name in needed:
            if name not in fields and name not in refused:
                faults.append(Fault(path, MISSING, key_of(kind, name), values))
        return LEFT if not fields.keys() >= set(needed) else kind(**fields)

    return make


def _make(hint: Any) -> Make:
    """What makes a value of a hint."""
    origin, parts = get_origin(hint), get_args(hint)
    if hint is Any:
        return lambda value, path, faults: value
    if hint is float:
        return _number
    if hint in (str, int, bool, NoneType):
        return _exactly(hint)
    if origin is Literal:
        return _one_of(parts)
    if origin is Annotated:
        return _bounded(parts[0], parts[1])
    if origin in (UnionType, Union):
        return _either(parts)
    if origin is list:
        return _listed(_make(parts[0]))
    if origin is tuple:
        return (
            _as_tuple(_listed(_make(parts[0])))
            if parts[1:] == (...,)
            else _of_several([_make(part) for part in parts])
        )
    if origin is dict:
        return _table(_make(parts[1]))
    return _structure(hint)


def _wrong(path: Path, expected: str, given: object, faults: list[Fault]) -> _Left:
    faults.append(Fault(path, VALUE, expected, given))
    return LEFT


_NAMES: dict[type, str] = {
    int: "a whole number",
    float: "a number",
    str: "text in quotes",
    bool: "true or false",
    NoneType: "nothing",
}


def _exactly(kind: type) -> Make:
    def make(value: Any, path: Path, faults: list[Fault]) -> Any:
        return value if type(value) is kind else _wrong(path, _NAMES[kind], value, faults)

    return make


def _number(value: Any, path: Path, faults: list[Fault]) -> Any:
    if type(value) is float:
        return value
    if (
        type(value) is not int or abs(value) > 2**53
    ):  # beyond which a float leaves out whole numbers
        return _wrong(path, _NAMES[float], value, faults)
    return float(value)


def _one_of(options: Sequence[str]) -> Make:
    def make(value: Any, path: Path, faults: list[Fault]) -> Any:
        if type(value) is str and value in options:
            return value
        faults.append(Fault(path, CHOICE, _listed_words(options), value, tuple(options)))
        return LEFT

    return make


def _listed_words(words: Sequence[str]) -> str:
    return f"{', '.join(words[:-1])} or {words[-1]}" if len(words) > 1 else words[0]


def _bounded(hint: Any, bounds: Bounds) -> Make:
    make, name = _make(hint), _NAMES[hint]
    pattern = re.compile(bounds.pattern) if bounds.pattern else None
    checks: list[tuple[Callable[[Any], bool], str]] = [
        (lambda value, bound=bound, holds=holds: holds(value, bound), f"{name} {sign} {bound:g}")
        for bound, sign, holds in (
            (bounds.ge, ">=", lambda value, bound: value >= bound),
            (bounds.gt, ">", lambda value, bound: value > bound),
            (bounds.le, "<=", lambda value, bound: value <= bound),
            (bounds.lt, "<", lambda value, bound: value < bound),
        )
        if bound is not None
    ]

    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        found = make(value, path, faults)
        if found is LEFT:
            return LEFT
        for holds, expected in checks:
            if not holds(found):
                return _wrong(path, expected, value, faults)
        if pattern and not pattern.search(found):
            return _wrong(path, f"{name} matching {bounds.pattern}", value, faults)
        return found

    return made


def _either(parts: Sequence[Any]) -> Make:
    """The first alternative that a value is of. A table that fits none is judged as the structure
    that there is among them, so that the fault is told where it is.
    """
    ordered = [
        (part, _make(part))
        for part in sorted(parts, key=lambda part: float in (part, *get_args(part)))
    ]  # what is whole stays so
    expected = " or ".join(
        dict.fromkeys(name for part in parts if part is not NoneType for name in [_named(part)])
    )

    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        of_its_kind: list[list[Fault]] = []
        for part, make in ordered:
            found: list[Fault] = []
            result = make(value, path, found)
            if result is not LEFT and not found:
                return result
            if type(value) in _TAKEN.get(_shape(part), ()):
                of_its_kind.append(found)
        if len(of_its_kind) == 1:
            faults += of_its_kind[0]
            return LEFT
        return _wrong(path, expected, value, faults)

    return made


_TAKEN: dict[type, tuple[type, ...]] = {
    int: (int,),
    float: (int, float),
    str: (str,),
    bool: (bool,),
    list: (list,),
    dict: (dict,),
}


def _shape(hint: Any) -> type:
    """What a value of a hint is in a file: dict for a structure, list for a tuple, the type itself
    for a single value.
    """
    origin, parts = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return _shape(parts[0])
    if origin is Literal:
        return str
    if origin in (list, tuple):
        return list
    if origin is dict or (isinstance(hint, type) and issubclass(hint, Structure)):
        return dict
    return hint


def _named(hint: Any) -> str:
    names: dict[type, str] = {**_NAMES, list: "a list in [brackets]", dict: "a table"}
    return names[_shape(hint)]


def _listed(make: Make) -> Make:
    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        if type(value) is not list:
            return _wrong(path, "a list in [brackets]", value, faults)
        return [
            found
            for n, one in enumerate(value)
            if (found := make(one, (*path, n), faults)) is not LEFT
        ]

    return made


def _as_tuple(make: Make) -> Make:
    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        found = make(value, path, faults)
        return LEFT if found is LEFT else tuple(found)

    return made


def _of_several(makes: list[Make]) -> Make:
    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        if type(value) is not list:
            return _wrong(path, "a list in [brackets]", value, faults)
        if len(value) != len(makes):
            return _wrong(path, f"a list in [brackets] of length {len(makes)}", value, faults)
        found = [
            make(one, (*path, n), faults)
            for n, (make, one) in enumerate(zip(makes, value, strict=True))
        ]
        return LEFT if LEFT in found else tuple(found)

    return made


def _table(make: Make) -> Make:
    def made(value: Any, path: Path, faults: list[Fault]) -> Any:
        if type(value) is not dict:
            return _wrong(path, "a table", value, faults)
        return {
            key: found
            for key, one in value.items()
            if (
                found := (
                    make(one, (*path, key), faults)
                    if type(key) is str
                    else _wrong((*path, str(key)), "a key that is text", key, faults)
                )
            )
            is not LEFT
        }

    return made


# ──── The JSON Schema of a structure (draft 2020-12)


def schema_of(kind: type[Structure]) -> dict[str, Any]:
    """A reference to the structure, and the definitions of all that it holds."""
    definitions = {one.__name__: _definition(one) for one in _held(kind, {})}
    return {"$ref": f"#/$defs/{kind.__name__}", "$defs": definitions}


def _held(
    kind: type[Structure], seen: dict[type[Structure], None]
) -> Mapping[type[Structure], None]:
    """A structure and those in its fields, each once, in the order in which they are met."""
    if kind not in seen:
        seen[kind] = None
        for hint in kind.HINTS.values():
            for inner in _structures_in(hint):
                _held(inner, seen)
    return seen


def _structures_in(hint: Any) -> Iterator[type[Structure]]:
    if isinstance(hint, type) and issubclass(hint, Structure):
        yield hint
    for part in get_args(hint):
        yield from _structures_in(part)


def _definition(kind: type[Structure]) -> dict[str, Any]:
    properties = {}
    for name in kind.FIELDS:
        default = {"default": plain(kind.DEFAULTS[name])} if name in kind.DEFAULTS else {}
        properties[key_of(kind, name)] = {**_schema(kind.HINTS[name]), **default}
    made: dict[str, Any] = {"title": kind.__name__}
    if kind.__doc__:
        made["description"] = kind.__doc__
    return made | {
        "type": "object",
        "properties": properties,
        "required": [key_of(kind, name) for name in kind.FIELDS if name not in kind.DEFAULTS],
        **({} if kind.MORE else {"additionalProperties": False}),
    }


_TYPES = {int: "integer", float: "number", str: "string", bool: "boolean", NoneType: "null"}
_LIMITS = {
    "ge": "minimum",
    "gt": "exclusiveMinimum",
    "le": "maximum",
    "lt": "exclusiveMaximum",
    "pattern": "pattern",
}


def _schema(hint: Any) -> dict[str, Any]:
    origin, parts = get_origin(hint), get_args(hint)
    if hint is Any:
        return {}
    if hint in _TYPES:
        return {"type": _TYPES[hint]}
    if origin is Literal:
        return {"enum": sorted(parts)}
    if origin is Annotated:
        return _schema(parts[0]) | {
            _LIMITS[name]: value for name, value in parts[1]._asdict().items() if value is not None
        }
    if origin in (UnionType, Union):
        return {"anyOf": [_schema(part) for part in parts]}
    if origin is list or parts[1:] == (...,):
        return {"type": "array", "items": _schema(parts[0])}
    if origin is tuple:
        return {
            "type": "array",
            "minItems": len(parts),
            "maxItems": len(parts),
            "items": False,
            "prefixItems": [_schema(part) for part in parts],
        }
    if origin is dict:
        values = _schema(parts[1])
        return {"type": "object", **({"additionalProperties": values} if values else {})}
    return {"$ref": f"#/$defs/{hint.__name__}"}
