"""Values that are as a structure's annotations say, made into it. Whatever is not plainly so is left to the validator, which says why: most
files are right, and a call that reads them waits for none."""

import re
from collections.abc import Callable
from types import NoneType, UnionType
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin

from syntagma.core.notation.structure import Bounds, Structure

Kind = TypeVar("Kind", bound=Structure)
Make = Callable[[Any], Any]


class Unfit(Exception):
    """A value is not plainly what its annotation says."""


def fitted(values: Any, kind: type[Kind]) -> Kind:
    """`values` as a `kind`; whole numbers where a number is wanted are numbers, lists where a tuple is wanted are tuples. Raises Unfit."""
    return _structure(kind)(values)


_MAKES: dict[type[Structure], Make] = {}


def _structure(kind: type[Structure]) -> Make:
    if kind not in _MAKES:
        _MAKES[kind] = _structure_anew(kind)
    return _MAKES[kind]


def _structure_anew(kind: type[Structure]) -> Make:
    makes = {name.replace("_", "-") if kind.KEYS == "kebab" else name: (name, _make(kind.HINTS[name])) for name in kind.FIELDS}
    needed = set(kind.FIELDS) - kind.DEFAULTS.keys()

    def make(values: Any) -> Structure:
        if type(values) is not dict:
            raise Unfit
        made = {}
        for key, value in values.items():
            if key in makes:
                name, inner = makes[key]
                made[name] = inner(value)
            elif not kind.MORE:
                raise Unfit
        if not needed <= made.keys():
            raise Unfit
        return kind(**made)

    return make


def _make(hint: Any) -> Make:
    """What makes a value of a hint."""
    origin, parts = get_origin(hint), get_args(hint)
    if hint is Any:
        return lambda value: value
    if hint is float:
        return _number
    if hint in (str, int, bool, NoneType):
        return _exactly(hint)
    if origin is Literal:
        return _one_of(frozenset(parts))
    if origin is Annotated:
        return _bounded(_make(parts[0]), parts[1])
    if origin in (UnionType, Union):
        return _either([_make(part) for part in sorted(parts, key=lambda part: float in (part, *get_args(part)))])  # what is whole stays so
    if origin is list:
        return _listed(_make(parts[0]))
    if origin is tuple:
        return _as_tuple(_listed(_make(parts[0]))) if parts[1:] == (...,) else _of_several([_make(part) for part in parts])
    if origin is dict:
        return _table(_make(parts[1]))
    return _structure(hint)


def _exactly(kind: type) -> Make:
    def make(value: Any) -> Any:
        if type(value) is not kind:
            raise Unfit
        return value

    return make


def _number(value: Any) -> float:
    if type(value) is float:
        return value
    if type(value) is not int or abs(value) > 2**53:
        raise Unfit
    return float(value)


def _one_of(options: frozenset[str]) -> Make:
    def make(value: Any) -> Any:
        if type(value) is not str or value not in options:
            raise Unfit
        return value

    return make


def _bounded(make: Make, bounds: Bounds) -> Make:
    least = max((bound for bound in (bounds.ge, bounds.gt) if bound is not None), default=None)
    most = min((bound for bound in (bounds.le, bounds.lt) if bound is not None), default=None)
    pattern = re.compile(bounds.pattern) if bounds.pattern else None

    def made(value: Any) -> Any:
        value = make(value)
        within = (least is None or value >= least) and (most is None or value <= most) and value not in (bounds.gt, bounds.lt)
        if not within or (pattern and not pattern.search(value)):
            raise Unfit
        return value

    return made


def _either(makes: list[Make]) -> Make:
    def made(value: Any) -> Any:
        for make in makes:
            try:
                return make(value)
            except Unfit:
                continue
        raise Unfit

    return made


def _listed(make: Make) -> Make:
    def made(value: Any) -> list:
        if type(value) is not list:
            raise Unfit
        return [make(one) for one in value]

    return made


def _as_tuple(make: Make) -> Make:
    return lambda value: tuple(make(value))


def _of_several(makes: list[Make]) -> Make:
    def made(value: Any) -> tuple:
        if type(value) is not list or len(value) != len(makes):
            raise Unfit
        return tuple(make(one) for make, one in zip(makes, value, strict=True))

    return made


def _table(make: Make) -> Make:
    def made(value: Any) -> dict:
        if type(value) is not dict or not all(type(key) is str for key in value):
            raise Unfit
        return {key: make(one) for key, one in value.items()}

    return made
