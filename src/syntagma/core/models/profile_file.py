"""A profile file read: TOML, its base below it, every key validated, keys that disagree; and its
JSON Schema.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from syntagma.core.diagnostics import Mistake, Refused, mistake_at, perhaps, way
from syntagma.core.models.parameters import value_of
from syntagma.core.models.patterns import Unsafe, linear, places
from syntagma.core.models.profile import Menu, Parameter, Profile, ReferenceRole
from syntagma.core.models.request_shape import REQUEST_PLACES, shape_places
from syntagma.core.notation import ranges
from syntagma.core.notation.structure import changed, plain
from syntagma.core.notation.toml import TomlFile, place_in_toml
from syntagma.core.notation.validation import (
    CHOICE,
    MISSING,
    UNKNOWN,
    Fault,
    Path,
    converted,
    schema_of,
)

# ──── What the parts of a profile say of each other: names that nobody declares, patterns without
# their place, values that are none.


LONGEST, MOST_PLACES, MOST_MARKS = 400, 8, 40  # signs and places of a pattern, marks of weight
Disagreement = tuple[tuple[str | int, ...], str, str]


def disagreements(profile: Profile) -> Iterator[Disagreement]:
    """Every disagreement: (path of the key, what is wrong, what to write instead)."""
    yield from _patterns(profile)
    yield from _parameters(profile)
    yield from _names(profile)
    yield from _others(profile)
    yield from _service(profile)


def _patterns(profile: Profile) -> Iterator[Disagreement]:
    wanted: list[tuple[tuple, str, str]] = []
    for old, new in profile.text.replace.items():
        if not old or len(new) > LONGEST:
            yield (
                ("text", "replace", old),
                "nothing can't be replaced, nor anything by so much",
                'write "…" = "…"',
            )
    if profile.stress:
        low, high = profile.stress.range
        if not 0 <= low <= 1 <= high:
            yield (
                ("stress", "range"),
                "the range of weights does not include 1, which means no weight",
                "write range = [0.5, 1.5]",
            )
        elif (
            "marks" in places(profile.stress.pattern)
            and (high - low) / profile.stress.step > MOST_MARKS
        ):
            yield (
                ("stress", "step"),
                "such a small step writes endless marks",
                f"a step of {(high - low) / 10:.2g} makes ten marks",
            )
        wanted.append((("stress", "pattern"), profile.stress.pattern, "text"))
        if profile.stress.pattern.strip() == "{text}":
            yield (
                ("stress", "pattern"),
                "the pattern for stress marks nothing",
                "it needs {weight}, {marks}, or signs around {text}",
            )
    if profile.negative.way in ("inline", "folded"):
        wanted.append((("negative", "pattern"), profile.negative.pattern, "negative"))
    wanted.append((("labelled", "line"), profile.labelled.line, "text"))
    wanted.append((("timed", "segment"), profile.timed.segment, "text"))
    for name, parameter in profile.parameter.items():
        if parameter.write and parameter.type != "flag":
            wanted.append((("parameter", name, "write"), parameter.write, "value"))
    for role, reference in profile.reference.items():
        wanted.append((("reference", role, "write"), reference.write, "value"))
    for path, pattern, place in wanted:
        if len(pattern) > LONGEST or len(places(pattern)) > MOST_PLACES:
            yield (
                path,
                "the pattern is too long",
                f"at most {LONGEST} signs and {MOST_PLACES} places",
            )
        elif place not in places(pattern):
            yield (
                path,
                f"the pattern “{pattern}” has no {{{place}}}",
                f"put {{{place}}} where it belongs",
            )


def _parameters(profile: Profile) -> Iterator[Disagreement]:
    names = set(profile.parameter)
    aliases: dict[str, str] = {}
    for name, parameter in profile.parameter.items():
        at = ("parameter", name)
        for alias in parameter.aliases:
            if alias in names or alias in aliases:
                yield (
                    (*at, "aliases"),
                    f"“{alias}” is another parameter's name",
                    "an alias names one parameter only",
                )
            aliases[alias] = name
        for key in ("requires", "excludes"):
            for other in getattr(parameter, key):
                if other.partition("=")[0] not in names:
                    yield (
                        (*at, key),
                        f"no parameter is called “{other}”",
                        perhaps(other, names, "name one of this profile's"),
                    )
        if parameter.range and parameter.range[0] > parameter.range[1]:
            yield (
                (*at, "range"),
                "the range is upside down",
                f"write range = [{parameter.range[1]:g}, {parameter.range[0]:g}]",
            )
        for key, values in (
            ("values", parameter.values),
            ("default", [parameter.default] if parameter.default is not None else []),
        ):
            for value in values:
                try:
                    ranges.parameter(name, value)
                except ranges.OutOfRange as wrong:
                    yield (*at, key), str(wrong), wrong.remedy
                bare = parameter if key == "default" else None
                _, wrong = value_of(parameter, value, values_too=bare is not None)
                if wrong:
                    yield (
                        (*at, key),
                        f"{key} “{value}” {wrong}",
                        "the type, the values and the range have to match",
                    )
        where = parameter.at or profile.parameters.at
        if where != "field" and not parameter.write:
            yield (
                (*at, "write") if "write" in at else at,
                f"“{name}” is written after the text, but the profile does not say how",
                'write write = "/name {value}", or at = "field"',
            )


def _names(profile: Profile) -> Iterator[Disagreement]:
    names = list(profile.parameter)
    asked: list[tuple[tuple, str]] = [
        (("menu", menu, "parameter"), one.parameter) for menu, one in profile.menu.items()
    ]
    if profile.negative.way == "parameter":
        asked.append((("negative", "parameter"), profile.negative.parameter))
    if profile.sound and profile.sound.parameter:
        asked.append((("sound", "parameter"), profile.sound.parameter))
    if profile.rewriting:
        asked += [(("rewriting", "off", name), name) for name in profile.rewriting.off]
    if profile.price:
        asked += [
            (("price", "factors", i, "parameter"), factor.parameter)
            for i, factor in enumerate(profile.price.factors)
        ]
    for path, name in asked:
        if name not in names:
            yield (
                path,
                f"no parameter is called “{name}”",
                perhaps(name, names, f"declare it: [parameter.{name}]"),
            )
    for menu, one in profile.menu.items():
        parameter = profile.parameter.get(one.parameter)
        for term, value in one.terms.items() if parameter else ():
            assert parameter is not None
            _, wrong = value_of(parameter, value)
            if wrong:
                yield (
                    ("menu", menu, "terms", term),
                    f"“{value}” {wrong}",
                    f"it sets the parameter {one.parameter}",
                )
    if "ratio" in profile.parameter and (
        known := [str(v) for v in profile.parameter["ratio"].values]
    ):
        for ratio in profile.sizes:
            if ratio not in known:
                yield (
                    ("sizes", ratio),
                    f"“{ratio}” is not a ratio of this model",
                    f"its ratios are {', '.join(known)}",
                )


def _others(profile: Profile) -> Iterator[Disagreement]:
    for i, refused in enumerate(profile.refused):
        if bool(refused.words) == bool(refused.pattern):
            yield (
                ("refused", i),
                "[[refused]] needs words or a pattern",
                'write words = "…", or pattern = "…"',
            )
        try:
            if refused.pattern:
                linear(refused.pattern, any_case=True)
        except Unsafe as error:
            remedy = "write a regular expression without look-around or back-references (RE2)"
            yield ("refused", i, "pattern"), f"the pattern can't be matched safely: {error}", remedy
    if profile.text.escape and not profile.text.escape_with:
        yield (
            ("text", "escape_with"),
            "it says which characters to escape, but not what to put before them",
            'write escape_with = "\\\\"',
        )
    for key in ("text", "negative", "whole", "request"):
        size = getattr(profile.limits, key)
        if getattr(size, "tokenizer", "") and size.unit != "tokens":
            yield ("limits", key, "unit"), "a tokenizer counts tokens", 'write unit = "tokens"'
    if (
        profile.price
        and profile.price.per == "second"
        and profile.price.seconds not in profile.parameter
    ):
        yield (
            ("price", "per"),
            f"the price is per second, and no parameter is called “{profile.price.seconds}”",
            "declare it, or name another in seconds = ",
        )
    for path, place in shape_places(profile.request):
        head, _, field = place.partition(".")
        if head in ("text", "words") and field and profile.register != "nested":
            yield (
                ("request", *path),
                f"{{{place}}} is a field of nested text, but this text is {profile.register}",
                f"write {{{head}}}",
            )
        known = (
            *REQUEST_PLACES,
            *profile.parameter,
            *(name.partition(".")[2] for name in profile.without),
        )
        if head not in known:
            yield (
                ("request", *path),
                f"no field is called {{{place}}}",
                perhaps(head, known, f"the fields are {', '.join(known)}"),
            )


# Headers that say to whom a request goes, or how long it is: they are not a profile's to set.
_NOT_ITS_OWN = (
    "host",
    "content-length",
    "transfer-encoding",
    "connection",
    "upgrade",
    "te",
    "trailer",
    "forwarded",
    "proxy-authorization",
    "x-forwarded-host",
    "x-forwarded-for",
)


def _service(profile: Profile) -> Iterator[Disagreement]:
    """What a service's calls and answers lack, so a task would be taken for lost, or a secret would
    go astray.
    """
    service = profile.service
    if service is None:
        return
    answer = service.answer
    if not re.match(r"https?://[^/?#\s]+", service.address):
        yield (
            ("service", "address"),
            f"“{service.address}” is not an address of a service",
            'write address = "https://api.example/v2"',
        )
    named = [(("service", "headers", name), name, value) for name, value in service.headers.items()]
    secret, _, value = service.secret.partition(":")
    if service.key:
        named.append((("service", "key", "header"), service.key.header, ""))
    for path, name, text in [*named, (("service", "secret"), secret.strip(), value)]:
        if name.strip().lower() in _NOT_ITS_OWN:
            yield (
                path,
                f"“{name}” controls where or how a request is sent, which a profile may not change",
                "take it out",
            )
        elif (
            not re.fullmatch(r"[!#$%&'*+.^_`|~0-9A-Za-z-]+", name)
            or not text.isascii()
            or any(ord(sign) < 32 for sign in text)
        ):
            yield (
                path,
                f"“{name}: {text}” can't be part of a header",
                "a header is plain letters, digits and signs (RFC 9110)",
            )
    if service.secret and "{secret}" not in service.secret:
        yield (
            ("service", "secret"),
            "the profile does not say where the secret goes",
            'write secret = "Authorization: Bearer {secret}"',
        )
    if (service.find or service.listed) and not (service.reference or answer.reference):
        call = "find" if service.find else "listed"
        yield (
            ("service", call),
            (
                "a task that is found can't be recognised as ours: no reference says where our"
                " number is"
            ),
            'write reference = "/reference" in [service], and its place in [service.answer]',
        )
    if (service.find or service.listed or service.state) and not answer.task and not answer.results:
        yield (
            ("service", "answer"),
            "the profile does not say where the task number is",
            'write task = "/id" in [service.answer]',
        )
    for name, place in (("state", "{task}"), ("find", "{reference}"), ("cancel", "{task}")):
        call = getattr(service, name)
        if call and place not in call.path:
            yield (
                ("service", name),
                f"the path of {name} has no {place}, so it asks for no particular task",
                f'write {name} = {{ path = "/tasks/{place}" }}',
            )
    if not answer.results and not (answer.address or answer.data):
        yield (
            ("service", "answer"),
            "nothing says where results stand",
            'write results = "/results" and address = "/url" in [service.answer]',
        )
    words = [
        (name, word.lower())
        for name in ("waiting", "done", "failed", "refused", "cancelled")
        for word in getattr(answer, name)
    ]
    for name, word in words:
        if other := next((one for one, same in words if same == word and one != name), ""):
            yield (
                ("service", "answer", name),
                f"“{word}” means both {name} and {other}",
                "each word for a state means one of them",
            )
            break


# ──── A profile file read: TOML, its base below it, every key validated, each mistake at its line.


NAMED = {
    "parameter": Parameter,
    "menu": Menu,
    "reference": ReferenceRole,
}  # tables of tables, each under a name of its own
HIDDEN = ("name", "counters")  # fields that no file has

Base = Callable[[str], "Profile"]


def read_profile(
    text: str,
    name: str,
    source: str = "",
    base: Base | None = None,
    counter: Callable[[str], Any] | None = None,
) -> Profile:
    """Read a profile file. `base` gives the profile of a name that this one builds on; `counter`
    what counts the tokens of a tokenizer file. Raises Refused with all its mistakes.
    """
    return _ProfileReader(text, name, source or f"{name}.toml", base, counter).read()


class _ProfileReader:
    def __init__(
        self, text: str, name: str, source: str, base: Base | None, counter: Callable | None
    ):
        self.file = TomlFile(text, source)
        self.name, self.base, self.counter = name, base, counter
        self.mistakes: list[Mistake] = []

    def read(self) -> Profile:
        own = self.file.values()
        for key in HIDDEN:
            if key in own:
                self.wrong(
                    (key,), f"a profile has no key “{key}”", "a profile's name comes from its file"
                )
                del own[key]
        values = _merged(self._below(own), own)
        profile = self._valid(values)
        if profile is not None:
            for path, message, remedy in disagreements(profile):
                self.wrong(path, message, remedy)
            counters = self._counters(profile)
        if self.mistakes:
            raise Refused(sorted(self.mistakes, key=lambda m: (m.line, m.column)))
        assert profile is not None, "a profile that can't be made has mistakes"
        return changed(profile, name=self.name, counters=counters)

    def wrong(self, path: Path, message: str, remedy: str) -> None:
        span = place_in_toml(self.file.text, path)
        self.mistakes.append(mistake_at(self.file.source, self.file.text, span, message, remedy))

    def _below(self, own: dict) -> dict:
        """The values of the profile that this one builds on."""
        name, without = own.get("base"), own.get("without", [])
        if not isinstance(name, str) or not name:
            if without:
                self.wrong(
                    ("without",),
                    "“without” removes keys of a base, but this profile has none",
                    'write base = "…" too',
                )
            return {}
        try:
            if self.base is None or name == self.name:
                raise LookupError
            below = plain(self.base(name))
        except LookupError:
            self.wrong(
                ("base",),
                f"no model can serve as the base “{name}”: it does not exist, builds on this one,"
                " or builds on too many others",
                way("models"),
            )
            return {}
        for key in (*HIDDEN, "base", "without"):
            below.pop(key, None)
        for dotted in without if isinstance(without, list) else ():
            *path, last = str(dotted).split(".", 1)
            table = below.get(path[0]) if path else below
            if not isinstance(table, dict) or last not in table:
                self.wrong(
                    ("without",),
                    f"{name} has no “{dotted}” to remove",
                    "write the key as in the base: parameter.seed",
                )
            else:
                del table[last]
        return below

    def _valid(self, values: dict) -> Profile | None:
        """The values as a profile, each mistake noted and taken out."""
        named: dict[str, dict] = {}
        for key, kind in NAMED.items():
            table = values.pop(key, {})
            if not isinstance(table, dict):
                self.wrong(
                    (key,),
                    f"“{key}” is a table of tables",
                    f"write [{key}.NAME] on its own line, with its keys below",
                )
                continue
            named[key] = {
                name: found
                for name, one in table.items()
                if (found := self._convert(one, kind, (key, name))) is not None
            }
        profile = self._convert(values, Profile, ())
        return profile and changed(profile, **named)

    def _convert(self, value: Any, kind: type, at: Path):
        made, faults = converted(value, kind)
        for fault in faults:
            self._note((*at, *fault.path), fault)
        return made

    def _note(self, path: Path, fault: Fault) -> None:
        key = next((step for step in reversed(path) if isinstance(step, str)), "")
        if fault.code == UNKNOWN:
            known = [name for name in fault.options if name not in HIDDEN]
            self.wrong(
                path,
                f"{_place(path[:-1])} has no key “{key}”",
                perhaps(key, known, f"the keys are {', '.join(known)}"),
            )
        elif fault.code == MISSING:
            self.wrong(
                path,
                f"{_place(path)} lacks “{fault.expected}”",
                f"write {fault.expected} = … there",
            )
        elif fault.code == CHOICE:
            given = fault.given if isinstance(fault.given, str) else ""
            self.wrong(
                path,
                f"“{key}” can't be {f'“{given}”' if given else 'that'}",
                perhaps(given, fault.options, f"write {fault.expected}"),
            )
        else:
            self.wrong(path, f"“{key}” takes {fault.expected}", f"correct the value of {key} =")

    def _counters(self, profile: Profile) -> dict[str, Any]:
        """What counts the tokens of each limit that names a tokenizer file."""
        counters: dict[str, Any] = {}
        for name in ("text", "negative", "whole", "request"):
            size = getattr(profile.limits, name)
            file = getattr(size, "tokenizer", "")
            if file and file not in counters:
                try:
                    counters[file] = self.counter(file) if self.counter else None
                except (LookupError, ValueError) as error:
                    self.wrong(
                        ("limits", name, "tokenizer"),
                        f"{file} can't be used: {error}",
                        "name a tokenizer.json beside the profile",
                    )
        return counters


def _merged(below: Mapping, own: Mapping) -> dict:
    """`own` over `below`: tables are merged, everything else is replaced."""
    both = dict(below)
    for key, value in own.items():
        both[key] = (
            _merged(below[key], value)
            if isinstance(value, dict) and isinstance(below.get(key), dict)
            else value
        )
    return both


def _place(path: Path) -> str:
    return f"[{'.'.join(str(p) for p in path)}]" if path else "a profile"


# ──── The JSON Schema of profiles (draft 2020-12), for editors: made from the structures that files
# are validated against.


def profile_schema() -> dict[str, Any]:
    """The schema of a profile file."""
    made = schema_of(Profile)
    for name, definition in made["$defs"].items():
        definition.pop("default", None)
        properties = definition.get("properties", {})
        for hidden in HIDDEN if name == "Profile" else ():
            properties.pop(hidden, None)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A model profile of Syntagma",
        **made,
    }
