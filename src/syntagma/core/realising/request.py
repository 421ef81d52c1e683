"""The request of a prompt: what the places of a profile's shape stand for, and the whole put
together.
"""

import json
from collections.abc import Callable, Iterator
from typing import Any

from syntagma.core.diagnostics import WARNING, Finding
from syntagma.core.drafting.surroundings import Around
from syntagma.core.models.parameters import in_fields, sent, shown
from syntagma.core.models.profile import Profile
from syntagma.core.models.request_shape import as_json, built, shape_places


def request_values(profile: Profile, around: Around, text: str, words: str) -> dict[str, Any]:
    """What the places of a request stand for: the text as it is pasted, its words alone, negative
    text, parameters by name and as fields, references, and the size in pixels that goes with the
    ratio.
    """
    fields = in_fields(profile, around.values)
    size = profile.sizes.get(str(around.values.get("ratio", "")), ("", ""))
    references = [
        {
            "role": r.role,
            "value": r.value,
            "kind": r.kind,
            "strength": "" if r.strength is None else r.strength,
        }
        for r in around.references
    ]
    parameters = {
        name: profile.parameter[name].spelled.get(shown(v), v)
        for name, v in sent(profile, around.values).items()
    }
    values: dict[str, Any] = {
        **parameters,
        "parameters": fields,
        "model": profile.name,
        "text": text,
        "words": words,
    }
    return values | {
        "negative": around.negative,
        "width": size[0],
        "height": size[1],
        "references": references,
    }


def request_of(profile: Profile, around: Around, text: str, words: str) -> dict[str, Any]:
    """The request for one prompt, in the profile's shape; a plain one if it has none."""
    values = request_values(profile, around, text, words)
    if profile.request:
        return built(profile.request, values)
    roles = dict.fromkeys(r.role for r in around.references)
    plain = {role: [r.value for r in around.references if r.role == role] for role in roles}
    return {
        k: v
        for k, v in {
            "text": text,
            "negative": around.negative,
            **values["parameters"],
            "references": plain,
        }.items()
        if v not in ("", {})
    }


def unplaced(profile: Profile, around: Around, words: str) -> list[str]:
    """What of a prompt has no place in the profile's request, and is not sent: fields of its nested
    text, parameters, negative text, references. Nothing where the profile gives no shape, since
    then all of it is sent.
    """
    if not profile.request:
        return []
    places = {place for _, place in shape_places(profile.request)}
    found: list[str] = []
    if not places & {"text", "words"}:
        named = {
            place.partition(".")[2] for place in places if place.startswith(("text.", "words."))
        }
        found += list(_fields_without(_nested(words), named)) if named else ["the text"]
    if "parameters" not in places:
        calls = {name.partition("=")[0] for name in places} | {
            name.partition(".")[2] for name in places if name.startswith("parameters.")
        }
        inside = in_fields(profile, around.values)
        found += [
            name
            for name, value in sent(profile, around.values).items()
            if name not in calls
            and (profile.parameter[name].field or name) in inside
            and not _told_by(profile, name, value)
        ]
    if around.negative and "negative" not in places:
        found.append("the negative text")
    roles = {
        key.partition(" each ")[2].strip() for key in _keys(profile.request) if " each " in key
    }
    if around.references and "references" not in places:
        named_roles = roles | {
            place.partition(".")[2] for place in places if place.startswith("references.")
        }
        found += [
            f"the reference for {one.role}"
            for one in around.references
            if one.role not in named_roles
            and profile.reference.get(one.role)
            and profile.reference[one.role].at == "field"
        ]
    return found


def unplaced_finding(profile: Profile, around: Around, words: str) -> Finding | None:
    """The findings on what is not sent; None if all is."""
    lost = unplaced(profile, around, words)
    if not lost:
        return None
    what = f"{', '.join(lost[:-1])} and {lost[-1]} have" if len(lost) > 1 else f"{lost[0]} has"
    message = (
        f"{what} no place in the request of {profile.name}, so"
        f" {'they are' if len(lost) > 1 else 'it is'} not sent"
    )
    return Finding(
        WARNING, message, "add it to [request] in the profile", "request", code="no-place"
    )


def _told_by(profile: Profile, name: str, value: object) -> bool:
    """Do other parameters carry this one: width and height the ratio, or is it a default that need
    not be sent?
    """
    if value == profile.parameter[name].default:
        return True
    return name == "ratio" and {"width", "height"} <= {
        place for _, place in shape_places(profile.request)
    }


def _nested(words: str) -> object:
    try:
        return json.loads(words)
    except (ValueError, RecursionError):
        return {}


def _fields_without(value: object, named: set[str], path: str = "") -> Iterator[str]:
    """The fields of nested text that have no place in the request, neither themselves nor within a
    larger field.
    """
    for key, one in value.items() if isinstance(value, dict) else ():
        at = f"{path}.{key}" if path else key
        if at in named:
            continue
        if isinstance(one, dict) and any(place.startswith(f"{at}.") for place in named):
            yield from _fields_without(one, named, at)
        else:
            yield at


def _keys(shape: object) -> Iterator[str]:
    for key, one in shape.items() if isinstance(shape, dict) else ():
        yield key
        yield from _keys(one)


class Requester:
    """Makes the requests of prompts one after the other: of those with the same round them, only
    the text is put in again.
    """

    def __init__(self, profile: Profile):
        self.profile = profile
        self._by_field = any(
            place.startswith(("text.", "words.")) for _, place in shape_places(profile.request)
        )
        self._around: object = None
        self._make: Callable[[str, str], Any] | None = None

    def request(self, around: Around, text: str, words: str) -> dict[str, Any]:
        """The request for one prompt."""
        if self._by_field:
            return request_of(self.profile, around, text, words)
        if self._around is not around:
            self._around, self._make = (
                around,
                _maker(request_of(self.profile, around, _TEXT, _WORDS)),
            )
        return (
            self._make(text, words) if self._make else request_of(self.profile, around, text, words)
        )


_TEXT, _WORDS = "\0text\0", "\0words\0"  # what no text holds


def _maker(made: Any) -> Callable[[str, str], Any] | None:
    """What puts text and words into a request that was made with stand-ins for them; None if
    neither is in it.
    """
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


def text_in_request(
    profile: Profile, around: Around, before: str, behind: str
) -> Callable[[str], str]:
    """What makes the whole request of the words of a prompt, for its limit."""

    def made(words: str) -> str:
        text = before + words + behind
        return as_json(request_of(profile, around, text, around.before + words + around.behind))

    return made
