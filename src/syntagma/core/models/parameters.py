"""Parameters: values as a model takes them, spelled after the text or in fields, with what they
require and exclude.
"""

import re
from collections.abc import Mapping
from functools import lru_cache
from math import isclose
from typing import NamedTuple

from syntagma.core.diagnostics import ERROR, REMARK, WARNING, Finding, perhaps, way
from syntagma.core.models.patterns import Recogniser, written
from syntagma.core.models.profile import Parameter, Profile, Value
from syntagma.core.notation.late_regex import regex
from syntagma.core.notation.structure import no_number

_RATIO = regex(r"^(\d+(?:\.\d+)?)\s*[:x×/]\s*(\d+(?:\.\d+)?)$")
COMMON = {
    "ar": "ratio",
    "aspect": "ratio",
    "aspect-ratio": "ratio",
    "duration": "seconds",
    "length": "seconds",
    "fps": "rate",
    "count": "pictures",
}
_TRUE, _FALSE = ("true", "yes", "on", "1"), ("false", "no", "off", "0")


class Settled(NamedTuple):
    """The parameters of a prompt: values by name, in the profile's order, and the findings
    on them.
    """

    values: dict[str, Value]
    findings: list[Finding]


def value_of(
    parameter: Parameter, given: object, values_too: bool = True
) -> tuple[Value | None, str]:
    """A value of the parameter's type, or None and why it is none; `values_too` asks whether the
    model has it.
    """
    value, wrong = _typed(parameter, given)
    if wrong:
        return None, wrong
    if parameter.range and isinstance(value, int | float) and not isinstance(value, bool):
        low, high = parameter.range
        if not low <= value <= high:
            return None, f"is outside {low:g} to {high:g}"
        if parameter.step and not isclose(
            round((value - low) / parameter.step) * parameter.step, value - low, abs_tol=1e-9
        ):
            return None, f"is not a step of {parameter.step:g} from {low:g}"
    if values_too and parameter.values:
        same = next((v for v in parameter.values if _same(v, value)), None)
        if same is None:
            return None, f"is not one of {', '.join(shown(v) for v in parameter.values)}"
        return same, ""
    return value, ""


def _same(one: object, other: object) -> bool:
    if isinstance(one, bool) or isinstance(other, bool):
        return one is other
    return one == other or str(one).casefold() == str(other).casefold()


def _typed(parameter: Parameter, given: object) -> tuple[Value | None, str]:
    text = shown(given).strip()
    if parameter.type == "flag":
        found = True if text.lower() in _TRUE else False if text.lower() in _FALSE else None
        return found, "" if found is not None else "is neither true nor false"
    if parameter.type in ("integer", "number"):
        try:
            number = int(text) if re.fullmatch(r"[+-]?\d{1,20}", text) else float(text)
        except ValueError:
            return None, "is not a number"
        if wrong := no_number(number):
            return None, (
                f"is not a number: {wrong}" if isinstance(number, int) else "is not a number"
            )
        if parameter.type == "integer" and number != int(number):
            return None, "is not a whole number"
        number = int(number) if number == int(number) else number
        return (None, "has too many digits") if no_number(number) else (number, "")
    return text, ""


def nearest_value(
    parameter: Parameter, given: object, sizes: Mapping[str, tuple[int, int]] = {}
) -> tuple[Value | None, bool]:
    """The value that the model has and that comes nearest to one that it has not, and whether it is
    the same by another name: of ratios the nearest shape (a ratio may have a name, whose size in
    pixels says its shape), of numbers the nearest number, nothing of words.
    """
    wanted = _as_number(given)
    if wanted is None:
        return None, False
    if parameter.values:
        numbers = [
            (abs(number / wanted - 1) if wanted else abs(number), v)
            for v in parameter.values
            if (number := _as_number(v, sizes)) is not None
        ]
        off, value = min(numbers, key=lambda pair: pair[0]) if numbers else (1.0, None)
        return value, off < 0.005
    if parameter.range and parameter.type in ("integer", "number"):
        low, high = parameter.range
        value = min(max(wanted, low), high)
        if parameter.step:
            value = min(low + round((value - low) / parameter.step) * parameter.step, high)
        return (int(value) if parameter.type == "integer" or value == int(value) else value), False
    return None, False


def _as_number(value: object, sizes: Mapping[str, tuple[int, int]] = {}) -> float | None:
    if str(value) in sizes:
        return sizes[str(value)][0] / sizes[str(value)][1]
    ratio = _RATIO.match(str(value))
    if ratio:
        return float(ratio[1]) / float(ratio[2]) if float(ratio[2]) else None
    try:
        return float(str(value))
    except ValueError:
        return None


def shown(value: object) -> str:
    """A value as a person types it."""
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value:g}" if isinstance(value, float) and abs(value) < 1e15 else str(value)


def own_name(profile: Profile, name: str) -> str | None:
    """The profile's name for a parameter, by name or alias; None if it has none."""
    if name in profile.parameter:
        return name
    return next((own for own, p in profile.parameter.items() if name in p.aliases), None)


def common_name(name: str) -> str:
    """What a parameter is called here, by a name that it often has."""
    return COMMON.get(name.lower().replace("_", "-"), name)


def settle(
    profile: Profile,
    wished: Mapping[str, object],
    asked: Mapping[str, object],
    menus: Mapping[str, Value] = {},
) -> Settled:
    """The parameters of a prompt. `wished` come from formula and mount: one that the model has not
    gives way to the nearest, with a warning. `asked` come from the person: one that it has not is
    an error. `menus` are set by terms.
    """
    found: list[Finding] = []
    values: dict[str, Value] = {}
    over = {own_name(profile, name) for name in asked}
    wished = {name: value for name, value in wished.items() if own_name(profile, name) not in over}
    for source, hard in ((wished, False), (asked, True)):
        for name, given in source.items():
            _settle_one(profile, name, given, hard, values, found)
    for name, value in menus.items():
        if name in asked and name in values and values[name] != value:
            message = (
                f"{name} is set to {shown(values[name])}, but the chosen term means {shown(value)}"
            )
            found.append(
                Finding(
                    WARNING,
                    message,
                    f"leave one of them out; your setting wins ({shown(values[name])})",
                    name,
                    code="menu-and-parameter",
                )
            )
        else:
            values[name] = value
    for name, parameter in profile.parameter.items():
        if name not in values and parameter.default is not None:
            values[name] = parameter.default
    _between(profile, values, {*wished, *asked, *menus}, found)
    return Settled({name: values[name] for name in profile.parameter if name in values}, found)


def _settle_one(
    profile: Profile,
    name: str,
    given: object,
    hard: bool,
    values: dict[str, Value],
    found: list[Finding],
) -> None:
    own = own_name(profile, name)
    kind = ERROR if hard else WARNING
    if own is None:
        if not profile.parameter:
            return
        remedy = perhaps(name, profile.parameter, f"it has {', '.join(profile.parameter)}")
        found.append(
            Finding(
                kind if hard else REMARK,
                f"{profile.name} has no parameter “{name}”",
                remedy,
                name,
                code="no-such-parameter",
            )
        )
        return
    parameter = profile.parameter[own]
    value, wrong = value_of(parameter, given)
    if value is not None and not wrong:
        values[own] = value
        return
    near, same = nearest_value(parameter, given, profile.sizes if own == "ratio" else {})
    if same and near is not None:
        values[own] = near
        return
    said = shown(given)
    message = f"{own} {said if len(said) <= 60 else said[:59] + '…'} {wrong} (of {profile.name})"
    if hard or near is None:
        remedy = (
            f"write {own}={shown(near)}" if near is not None else "choose another, or leave it out"
        )
        found.append(Finding(kind, message, remedy, own, code="no-such-value"))
    else:
        values[own] = near
        found.append(
            Finding(
                WARNING,
                f"{message}; using {shown(near)} instead",
                f"or write {way('parameter', name=own, value='…')}",
                own,
                code="nearest-value",
            )
        )


def _between(
    profile: Profile, values: dict[str, Value], given: set[str], found: list[Finding]
) -> None:
    """What parameters require of each other, and what they exclude. A default gives way silently;
    of two that were given, the later one goes, and that is reported.
    """
    for name in list(values):
        if name not in values or (isinstance(values[name], bool) and not values[name]):
            continue
        parameter = profile.parameter[name]
        for rule in parameter.excludes:
            other, _, wanted = rule.partition("=")
            if (
                other in values
                and values[other] is not False
                and (not wanted or shown(values[other]) == wanted)
            ):
                loser = (
                    other
                    if name in given and other not in given
                    else name
                    if other in given and name not in given
                    else other
                )
                if loser in given:
                    winner = name if loser == other else other
                    found.append(
                        Finding(
                            ERROR,
                            f"{winner} and {loser} exclude each other",
                            f"leave {loser} out",
                            loser,
                            code="parameters-exclude",
                        )
                    )
                values.pop(loser, None)
                if loser == name:
                    break
        if name not in values:
            continue
        for rule in parameter.requires:
            other, _, wanted = rule.partition("=")
            there = (
                other in values
                and values[other] is not False
                and (not wanted or shown(values[other]) == wanted)
            )
            if not there:
                if name in given:
                    found.append(
                        Finding(
                            ERROR,
                            f"{name} requires {rule}",
                            f"give {rule} too, or leave {name} out",
                            name,
                            code="parameter-requires",
                        )
                    )
                values.pop(name, None)
                break


def sent(profile: Profile, values: Mapping[str, Value]) -> dict[str, Value]:
    """The values that are written at all: a default that the profile leaves out is not."""
    return {
        n: v
        for n, v in values.items()
        if not (profile.parameter[n].omit_default and v == profile.parameter[n].default)
    }


def spelled(profile: Profile, values: Mapping[str, Value]) -> str:
    """The parameters that stand after the text, each in its own spelling, with what leads to them;
    "" if there are none.
    """
    out: list[str] = []
    for name, value in sent(profile, values).items():
        parameter = profile.parameter[name]
        if (parameter.at or profile.parameters.at) == "field":
            continue
        if parameter.type == "flag" and "{value}" not in parameter.write:
            out += [parameter.write] if value else []
        else:
            out.append(
                written(
                    parameter.write, {"value": parameter.spelled.get(shown(value), shown(value))}
                )
            )
    return profile.parameters.before + profile.parameters.separator.join(out) if out else ""


def in_fields(profile: Profile, values: Mapping[str, Value]) -> dict[str, Value]:
    """The parameters that are in fields of the request, as the model calls and spells them."""
    fields = {}
    for name, value in sent(profile, values).items():
        parameter = profile.parameter[name]
        if (parameter.at or profile.parameters.at) != "after":
            fields[parameter.field or name] = parameter.spelled.get(shown(value), value)
    return fields


class FoundParameter(NamedTuple):
    """A parameter in a text: its name, what is written as its value, and where."""

    name: str
    value: str
    start: int
    stop: int


def found_in(profile: Profile, text: str) -> list[FoundParameter]:
    """The parameters that are in a text, by the model's own spellings, in order."""
    found: list[FoundParameter] = []
    for name, parameter in profile.parameter.items():
        if not parameter.write:
            continue
        back = {spelling: value for value, spelling in parameter.spelled.items()}
        for hit in _written(parameter.write, _shape(parameter)).hits(text):
            value = hit.places["value"][0] if "value" in hit.places else "true"
            found.append(FoundParameter(name, back.get(value, value), hit.start, hit.stop))
    return sorted(found, key=lambda f: (f.start, -f.stop))


def without_parameters(profile: Profile, text: str) -> str:
    """A text without the parameters that come after it, in the model's own spellings."""
    end = len(text)
    for one in sorted(found_in(profile, text), key=lambda one: -one.stop):
        if not text[one.stop : end].strip():
            end = min(end, one.start)
    return text[:end].rstrip() if end < len(text) else text


@lru_cache(maxsize=512)
def _written(write: str, shape: str) -> Recogniser:
    return Recogniser(write, {"value": shape}, apart=True)


def _shape(parameter: Parameter) -> str:
    """What a value looks like when it is written: one of those that the model has, a number, or any
    word.
    """
    named = re.search(r"[A-Za-z]", re.sub(r"\{[^{}]*\}", "", parameter.write))
    if parameter.values and named:
        return r"\S+?"  # by the name alone: a value that the model has not is seen, too
    if parameter.values:
        return "|".join(
            re.escape(parameter.spelled.get(shown(v), shown(v))) for v in parameter.values
        )
    if parameter.type in ("integer", "number"):
        return r"-?\d+(?:\.\d+)?"
    return r".+?" if parameter.write.endswith(('"', "]", ")", "}", ">")) else r"\S+"
