"""Structures in msgspec's own types, with which it validates and describes them."""

from functools import reduce
from operator import or_
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from msgspec import Meta, Struct, ValidationError, convert, defstruct

from syntagma.core.notation.structure import Structure


def made_by_twin(values: Any, kind: type[Structure]) -> Any:
    """`values` as a `kind`, or, as text, what msgspec says of the first fault that it finds."""
    try:
        return _of_twin(convert(values, twin_of(kind)))
    except ValidationError as error:
        return str(error)


def twin_of(kind: type[Structure]) -> type[Struct]:
    """msgspec's twin of a structure: the same fields, defaults and bounds. Made once."""
    if kind in _TWINS:
        return _TWINS[kind]
    fields = [(name, _twin_type(kind.HINTS[name]), *([_twin_value(kind.DEFAULTS[name])] if name in kind.DEFAULTS else ())) for name in kind.FIELDS]
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
