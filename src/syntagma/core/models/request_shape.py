"""The shape of a request: values with {places}, in which a part whose value is blank vanishes.

A string that is one place alone becomes its value, numbers as numbers; a string with places in it
is written; a key may end in ` when NAME` or ` when NAME=VALUE` (the part appears under that
condition only) or in ` each ROLE` (a list, its shape once for each reference of a role, with
{value}, {kind} and {strength}).
"""

import json
from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache
from typing import Any

from syntagma.core.models.parameters import shown
from syntagma.core.models.patterns import places, written
from syntagma.core.notation.late_regex import regex

REQUEST_PLACES = (
    "text",
    "words",
    "negative",
    "model",
    "parameters",
    "references",
    "width",
    "height",
    "value",
    "kind",
    "strength",
    "role",
)
_WHEN = regex(r"^(.+?) when ([\w.-]+)(?:\s*=\s*(.+))?$")
_EACH = regex(r"^(.+?) each ([\w-]+)$")
_ALONE = regex(r"^\{([A-Za-z_]\w*(?:[.-]\w+)*)\}$")
_GONE = object()


def built(shape: Mapping[str, Any], values: Mapping[str, Any]) -> dict[str, Any]:
    """The request that a shape and values make. `values["references"]` is a list of mappings with
    role, value, kind, strength.
    """
    made = _built(shape, values)
    return {} if made is _GONE else made


def _built(shape: Any, values: Mapping[str, Any]) -> Any:
    if isinstance(shape, Mapping):
        return _table(shape, values)
    if isinstance(shape, list | tuple):
        parts = [part for one in shape if (part := _built(one, values)) is not _GONE]
        return parts if parts or not shape else _GONE
    if not isinstance(shape, str):
        return shape
    alone = _ALONE.match(shape)
    if alone:
        value = _value(values, alone[1])
        return _GONE if value in (None, "", [], {}) else value
    names = places(shape)
    found = {name: _value(values, name) for name in names}
    if names and all(value in (None, "") for value in found.values()):
        return _GONE
    return written(
        shape, {name: shown(v) if v not in (None, "") else "" for name, v in found.items()}
    )


def _table(shape: Mapping[str, Any], values: Mapping[str, Any]) -> Any:
    made: dict[str, Any] = {}
    for key, part in shape.items():
        when, each = _WHEN.match(key), _EACH.match(key)
        if when:
            if not _holds(values, when[2], when[3]):
                continue
            key = when[1]
            each = _EACH.match(key)
        if each:
            rows = [
                _built(part, {**values, **one})
                for one in values.get("references", ())
                if one["role"] == each[2]
            ]
            value: Any = [row for row in rows if row is not _GONE] or _GONE
            key = each[1]
        else:
            value = _built(part, values)
        if value is not _GONE:
            made[key] = value
    return made if made or not shape else _GONE


def _holds(values: Mapping[str, Any], name: str, wanted: str | None) -> bool:
    value = _value(values, name)
    if wanted is None:
        return value not in (None, "", False, [], {})
    return value is not None and shown(value) == wanted.strip()


def _value(values: Mapping[str, Any], dotted: str) -> Any:
    head, _, rest = dotted.partition(".")
    value = values.get(head)
    if head == "references" and rest:
        return [one["value"] for one in values.get("references", ()) if one["role"] == rest]
    if head in ("text", "words") and rest and isinstance(value, str):
        value = _fields(value)
    for step in filter(None, rest.split(".")):
        value = value.get(step) if isinstance(value, Mapping) else None
    return value


@lru_cache(maxsize=256)
def _fields(text: str) -> Any:
    """Nested text as values, so a request can take some of them; None if it is none."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return None


def shape_places(shape: Any, path: tuple = ()) -> Iterator[tuple[tuple, str]]:
    """Every place of a shape, with the path of its key; conditions are places too."""
    if isinstance(shape, Mapping):
        for key, part in shape.items():
            if when := _WHEN.match(key):
                yield (*path, key), when[2]
            yield from shape_places(part, (*path, key))
    elif isinstance(shape, Sequence) and not isinstance(shape, str):
        for one in shape:
            yield from shape_places(one, path)
    elif isinstance(shape, str):
        for name in places(shape):
            yield path, name


def as_json(request: Mapping[str, Any]) -> str:
    """A request as it is sent."""
    return json.dumps(request, ensure_ascii=False, separators=(",", ":"))
