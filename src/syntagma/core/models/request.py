"""The request that a model is sent: a shape with {places}, in which a part whose value is blank vanishes.

A string that is one place alone becomes its value, numbers as numbers; a string with places in it is written; a key may end
in ` when NAME` or ` when NAME=VALUE` (the part appears under that condition only) or in ` each ROLE` (a list, its shape once for
each reference of a role, with {value}, {kind} and {strength}).
"""

import json
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from syntagma.core.models.parameters import in_fields, sent, shown
from syntagma.core.models.patterns import places, written
from syntagma.core.models.profile import Profile

if TYPE_CHECKING:
    from syntagma.core.drafting.surroundings import Wear

REQUEST_PLACES = (
    "text", "words", "negative", "model", "parameters", "references", "width", "height", "value", "kind", "strength", "role",
)  # fmt: skip
_WHEN = re.compile(r"^(.+?) when ([\w.-]+)(?:\s*=\s*(.+))?$")
_EACH = re.compile(r"^(.+?) each ([\w-]+)$")
_ALONE = re.compile(r"^\{([A-Za-z_]\w*(?:[.-]\w+)*)\}$")
_GONE = object()


def built(shape: Mapping[str, Any], values: Mapping[str, Any]) -> dict[str, Any]:
    """The request that a shape and values make. `values["references"]` is a list of mappings with role, value, kind, strength."""
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
    return written(shape, {name: shown(v) if v not in (None, "") else "" for name, v in found.items()})


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
            rows = [_built(part, {**values, **one}) for one in values.get("references", ()) if one["role"] == each[2]]
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
    """Nested text as values, so that a request can take some of them; None where it is none."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return None


def shape_places(shape: Any, path: tuple = ()) -> Iterator[tuple[tuple, str]]:
    """Every place of a shape, with the path of the key where it stands; conditions are places too."""
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


def request_values(profile: Profile, wear: "Wear", text: str, words: str) -> dict[str, Any]:
    """What the places of a request stand for: the text as it is pasted, its words alone, negative text, parameters by name and
    as fields, references, and the size in pixels that goes with the ratio."""
    fields = in_fields(profile, wear.values)
    size = profile.sizes.get(str(wear.values.get("ratio", "")), ("", ""))
    references = [
        {"role": r.role, "value": r.value, "kind": r.kind, "strength": "" if r.strength is None else r.strength}
        for r in wear.references
    ]
    parameters = {name: profile.parameter[name].spelled.get(shown(v), v) for name, v in sent(profile, wear.values).items()}
    values: dict[str, Any] = {**parameters, "parameters": fields, "model": profile.name, "text": text, "words": words}
    return values | {"negative": wear.negative, "width": size[0], "height": size[1], "references": references}


def request_of(profile: Profile, wear: "Wear", text: str, words: str) -> dict[str, Any]:
    """The request for one prompt, in the profile's shape; a plain one where it has none."""
    values = request_values(profile, wear, text, words)
    if profile.request:
        return built(profile.request, values)
    roles = dict.fromkeys(r.role for r in wear.references)
    plain = {role: [r.value for r in wear.references if r.role == role] for role in roles}
    return {
        k: v
        for k, v in {"text": text, "negative": wear.negative, **values["parameters"], "references": plain}.items()
        if v not in ("", {})
    }


class Requester:
    """Makes the requests of prompts one after the other: of those that wear the same, only the text is put in anew."""

    def __init__(self, profile: Profile):
        self.profile = profile
        self._by_field = any(place.startswith(("text.", "words.")) for _, place in shape_places(profile.request))
        self._wear: object = None
        self._make: Callable[[str, str], Any] | None = None

    def request(self, wear: "Wear", text: str, words: str) -> dict[str, Any]:
        """The request for one prompt."""
        if self._by_field:
            return request_of(self.profile, wear, text, words)
        if self._wear is not wear:
            self._wear, self._make = wear, _maker(request_of(self.profile, wear, _TEXT, _WORDS))
        return self._make(text, words) if self._make else request_of(self.profile, wear, text, words)


_TEXT, _WORDS = "\0text\0", "\0words\0"  # what no text holds


def _maker(made: Any) -> Callable[[str, str], Any] | None:
    """What puts text and words into a request that was made with stand-ins for them; None where neither is in it."""
    if isinstance(made, str):
        if made == _TEXT:
            return lambda text, words: text
        if _TEXT in made or _WORDS in made:
            return lambda text, words: made.replace(_TEXT, text).replace(_WORDS, words)
        return None
    if isinstance(made, dict | list):
        parts = list(made.items()) if isinstance(made, dict) else list(enumerate(made))
        makers = [(key, maker) for key, part in parts if (maker := _maker(part))]
        if not makers:
            return None

        def make(text: str, words: str) -> Any:
            new = made.copy()
            for key, maker in makers:
                new[key] = maker(text, words)
            return new

        return make
    return None


def as_json(request: Mapping[str, Any]) -> str:
    """A request as it is sent."""
    return json.dumps(request, ensure_ascii=False, separators=(",", ":"))


def text_in_request(profile: Profile, wear: "Wear", before: str, behind: str) -> Callable[[str], str]:
    """What makes the whole request of the words of a prompt, for its limit."""

    def made(words: str) -> str:
        text = before + words + behind
        return as_json(request_of(profile, wear, text, wear.before + words + wear.behind))

    return made
