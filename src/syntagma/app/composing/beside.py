"""What goes along beside the text of a prompt, or not at all: settings and what to keep out.
Whoever takes them off a text says so here.
"""

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding
from syntagma.core.editing.cleaning import Cleaned
from syntagma.core.models.parameters import common_name, found_in, own_name
from syntagma.core.models.profile import Profile
from syntagma.core.writing.prompt import Prompt

_FLAGS = {"true": True, "false": False}


class SaidSetting(NamedTuple):
    """A setting that a text says: its name and value, and how it is there."""

    name: str
    value: Any
    shown: str = ""


def cleaned_off(cleaned: Cleaned) -> list[Finding]:
    """The findings on a text that was cleaned: words put right, and what it tells that is not the
    picture.
    """
    mended = [Finding(REMARK, remark, "", "wish", code="mended") for remark in cleaned.remarks]
    return mended + [
        Finding(
            WARNING,
            f"“{told}” is left out: it does not describe the picture",
            "if part of it should be visible, describe that in the prompt",
            "wish",
            code="told-left-out",
        )
        for told in cleaned.told
    ]


def own_settings(
    profile: Profile, said: Iterable[SaidSetting]
) -> tuple[dict[str, Any], list[Finding]]:
    """(Settings by the names that a model has for them, the findings on those that it has not)."""
    values, left = {}, []
    for one in said:
        if own := _taken(profile, one.name):
            values[own] = (
                _FLAGS.get(one.value, one.value) if isinstance(one.value, str) else one.value
            )
        else:
            message = (
                f"{profile.name} has no parameter “{one.name}”, so “{one.shown or one.value}” is"
                " left out"
            )
            left.append(
                Finding(
                    WARNING,
                    message,
                    f"`syntagma model {profile.name}` lists its parameters",
                    one.name,
                    code="parameter-left-out",
                )
            )
    return values, left


def beside(
    profile: Profile,
    prompt: Prompt,
    said: Iterable[SaidSetting],
    negative: Sequence[str],
    told: Iterable[Finding] = (),
) -> list[Finding]:
    """What is not in the text of a prompt, though the text that it was made of said it. `told`:
    what was said already.
    """
    found: list[Finding] = []
    written = {one.name for one in found_in(profile, prompt.text)}
    known = written | {one.place for one in told if one.kind == ERROR}
    for one in said:
        own = _taken(profile, one.name)
        if not own or own in known or (profile.parameter and own not in prompt.around.values):
            continue
        if profile.parameter:
            message = f"{prompt.around.values[own]} is a setting of the request and not in the text"
            found.append(
                Finding(
                    WARNING,
                    message,
                    "if you paste the text, set it by hand; --json shows both",
                    own,
                    code="parameter-in-request",
                )
            )
        else:
            message = (
                f"“{one.shown or one.value}” is kept beside the text, because without a model no"
                " parameter can be written"
            )
            found.append(
                Finding(
                    WARNING,
                    message,
                    "name a --model that takes it; --json shows it",
                    own,
                    code="parameter-beside",
                )
            )
    kept_out = _kept_out(profile, prompt, negative, written) if negative else None
    return [*found, kept_out] if kept_out else found


def _kept_out(
    profile: Profile, prompt: Prompt, negative: Sequence[str], written: Collection[str]
) -> Finding | None:
    """Where what to keep out went, when it is not in the text."""
    way = profile.negative.way
    if way == "none":
        return Finding(
            WARNING,
            f"{profile.name} has no negative prompt, so “{', '.join(negative)}” is left out",
            "say what is there instead",
            "negative",
            code="negative-left-out",
        )
    if way == "parameter" and profile.negative.parameter not in written:
        return Finding(
            WARNING,
            f"the negative prompt is the parameter {profile.negative.parameter} of the request and"
            " not in the text",
            "if you paste the text, set it by hand; --json shows both",
            "negative",
            code="negative-in-request",
        )
    if not prompt.negative:
        return None
    return Finding(
        WARNING,
        f"the negative prompt is kept beside the text: “{prompt.negative}”",
        "if you paste the text, paste it too; --json shows both",
        "negative",
        code="negative-beside",
    )


def no_weights(profile: Profile, weights: Mapping[str, float]) -> list[Finding]:
    """The finding of weights that a text says, where a model writes none."""
    if not weights or profile.stress:
        return []
    words = ", ".join(f"{words} {weight:g}" for words, weight in weights.items())
    return [
        Finding(
            WARNING,
            f"weights need a model, so these are left out: {words}",
            "name a model that takes weights: --model",
            "stress",
            code="no-stress",
        )
    ]


def not_whole(broken: str) -> Finding:
    """The finding of JSON that could not be read to its end."""
    return Finding(
        ERROR,
        f"this is not complete JSON: {broken}",
        "Syntagma uses what it could read",
        "text",
        code="broken-json",
    )


def _taken(profile: Profile, name: str) -> str | None:
    """A model's name for a setting; without a model the name that it has here."""
    known = common_name(name)
    return (
        own_name(profile, name)
        or own_name(profile, known)
        or (None if profile.parameter else known)
    )
