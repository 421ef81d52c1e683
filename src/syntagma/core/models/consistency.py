"""What the parts of a profile say of each other: names that nobody declares, patterns without their place, values that are none."""

import re
from collections.abc import Iterator

from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.models.parameters import value_of
from syntagma.core.models.patterns import Unsafe, linear, places
from syntagma.core.models.profile import Profile
from syntagma.core.models.request_shape import REQUEST_PLACES, shape_places
from syntagma.core.notation import ranges

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
            yield ("text", "replace", old), "nothing can't be replaced, nor anything by so much", 'write "…" = "…"'
    if profile.stress:
        low, high = profile.stress.range
        if not 0 <= low <= 1 <= high:
            yield ("stress", "range"), "the range of weights does not include 1, which means no weight", "write range = [0.5, 1.5]"
        elif "marks" in places(profile.stress.pattern) and (high - low) / profile.stress.step > MOST_MARKS:
            yield ("stress", "step"), "such a small step writes endless marks", f"a step of {(high - low) / 10:.2g} makes ten marks"
        wanted.append((("stress", "pattern"), profile.stress.pattern, "text"))
        if profile.stress.pattern.strip() == "{text}":
            yield ("stress", "pattern"), "the pattern for stress marks nothing", "it needs {weight}, {marks}, or signs around {text}"
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
            yield path, "the pattern is too long", f"at most {LONGEST} signs and {MOST_PLACES} places"
        elif place not in places(pattern):
            yield path, f"the pattern “{pattern}” has no {{{place}}}", f"put {{{place}}} where it belongs"


def _parameters(profile: Profile) -> Iterator[Disagreement]:
    names = set(profile.parameter)
    aliases: dict[str, str] = {}
    for name, parameter in profile.parameter.items():
        at = ("parameter", name)
        for alias in parameter.aliases:
            if alias in names or alias in aliases:
                yield (*at, "aliases"), f"“{alias}” is another parameter's name", "an alias names one parameter only"
            aliases[alias] = name
        for key in ("requires", "excludes"):
            for other in getattr(parameter, key):
                if other.partition("=")[0] not in names:
                    yield (*at, key), f"no parameter is called “{other}”", perhaps(other, names, "name one of this profile's")
        if parameter.range and parameter.range[0] > parameter.range[1]:
            yield (*at, "range"), "the range is upside down", f"write range = [{parameter.range[1]:g}, {parameter.range[0]:g}]"
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
                    yield (*at, key), f"{key} “{value}” {wrong}", "the type, the values and the range have to match"
        where = parameter.at or profile.parameters.at
        if where != "field" and not parameter.write:
            yield (
                (*at, "write") if "write" in at else at,
                f"“{name}” is written after the text, but the profile does not say how",
                'write write = "/name {value}", or at = "field"',
            )


def _names(profile: Profile) -> Iterator[Disagreement]:
    names = list(profile.parameter)
    asked: list[tuple[tuple, str]] = [(("menu", menu, "parameter"), one.parameter) for menu, one in profile.menu.items()]
    if profile.negative.way == "parameter":
        asked.append((("negative", "parameter"), profile.negative.parameter))
    if profile.sound and profile.sound.parameter:
        asked.append((("sound", "parameter"), profile.sound.parameter))
    if profile.rewriting:
        asked += [(("rewriting", "off", name), name) for name in profile.rewriting.off]
    if profile.price:
        asked += [(("price", "factors", i, "parameter"), factor.parameter) for i, factor in enumerate(profile.price.factors)]
    for path, name in asked:
        if name not in names:
            yield path, f"no parameter is called “{name}”", perhaps(name, names, f"declare it: [parameter.{name}]")
    for menu, one in profile.menu.items():
        parameter = profile.parameter.get(one.parameter)
        for term, value in one.terms.items() if parameter else ():
            _, wrong = value_of(parameter, value)
            if wrong:
                yield ("menu", menu, "terms", term), f"“{value}” {wrong}", f"it sets the parameter {one.parameter}"
    if "ratio" in profile.parameter and (known := [str(v) for v in profile.parameter["ratio"].values]):
        for ratio in profile.sizes:
            if ratio not in known:
                yield ("sizes", ratio), f"“{ratio}” is not a ratio of this model", f"its ratios are {', '.join(known)}"


def _others(profile: Profile) -> Iterator[Disagreement]:
    for i, refused in enumerate(profile.refused):
        if bool(refused.words) == bool(refused.pattern):
            yield ("refused", i), "[[refused]] needs words or a pattern", 'write words = "…", or pattern = "…"'
        try:
            if refused.pattern:
                linear(refused.pattern, any_case=True)
        except Unsafe as error:
            remedy = "write a regular expression without look-around or back-references (RE2)"
            yield ("refused", i, "pattern"), f"the pattern can't be matched safely: {error}", remedy
    if profile.text.escape and not profile.text.escape_with:
        yield ("text", "escape_with"), "it says which characters to escape, but not what to put before them", 'write escape_with = "\\\\"'
    for key in ("text", "negative", "whole", "request"):
        size = getattr(profile.limits, key)
        if getattr(size, "tokenizer", "") and size.unit != "tokens":
            yield ("limits", key, "unit"), "a tokenizer counts tokens", 'write unit = "tokens"'
    if profile.price and profile.price.per == "second" and profile.price.seconds not in profile.parameter:
        yield (
            ("price", "per"),
            f"the price is per second, and no parameter is called “{profile.price.seconds}”",
            "declare it, or name another in seconds = ",
        )
    for path, place in shape_places(profile.request):
        head, _, field = place.partition(".")
        if head in ("text", "words") and field and profile.register != "nested":
            yield ("request", *path), f"{{{place}}} is a field of nested text, but this text is {profile.register}", f"write {{{head}}}"
        known = (*REQUEST_PLACES, *profile.parameter, *(name.partition(".")[2] for name in profile.without))
        if head not in known:
            yield ("request", *path), f"no field is called {{{place}}}", perhaps(head, known, f"the fields are {', '.join(known)}")


# Headers that say to whom a request goes, or how long it is: they are not a profile's to set.
_NOT_ITS_OWN = ("host", "content-length", "transfer-encoding", "connection", "upgrade", "te", "trailer", "forwarded", "proxy-authorization", "x-forwarded-host", "x-forwarded-for")


def _service(profile: Profile) -> Iterator[Disagreement]:
    """What a service's calls and answers lack, so a task would be taken for lost, or a secret would go astray."""
    service = profile.service
    if service is None:
        return
    answer = service.answer
    if not re.match(r"https?://[^/?#\s]+", service.address):
        yield ("service", "address"), f"“{service.address}” is not an address of a service", 'write address = "https://api.example/v2"'
    named = [(("service", "headers", name), name, value) for name, value in service.headers.items()]
    secret, _, value = service.secret.partition(":")
    if service.key:
        named.append((("service", "key", "header"), service.key.header, ""))
    for path, name, text in [*named, (("service", "secret"), secret.strip(), value)]:
        if name.strip().lower() in _NOT_ITS_OWN:
            yield path, f"“{name}” controls where or how a request is sent, which a profile may not change", "take it out"
        elif not re.fullmatch(r"[!#$%&'*+.^_`|~0-9A-Za-z-]+", name) or not text.isascii() or any(ord(sign) < 32 for sign in text):
            yield path, f"“{name}: {text}” can't be part of a header", "a header is plain letters, digits and signs (RFC 9110)"
    if service.secret and "{secret}" not in service.secret:
        yield ("service", "secret"), "the profile does not say where the secret goes", 'write secret = "Authorization: Bearer {secret}"'
    if (service.find or service.listed) and not (service.reference or answer.reference):
        call = "find" if service.find else "listed"
        yield ("service", call), "a task that is found can't be recognised as ours: no reference says where our number is", 'write reference = "/reference" in [service], and its place in [service.answer]'
    if (service.find or service.listed or service.state) and not answer.task and not answer.results:
        yield ("service", "answer"), "the profile does not say where the task number is", 'write task = "/id" in [service.answer]'
    for name, place in (("state", "{task}"), ("find", "{reference}"), ("cancel", "{task}")):
        call = getattr(service, name)
        if call and place not in call.path:
            yield ("service", name), f"the path of {name} has no {place}, so it asks for no particular task", f'write {name} = {{ path = "/tasks/{place}" }}'
    if not answer.results and not (answer.address or answer.data):
        yield ("service", "answer"), "nothing says where results stand", 'write results = "/results" and address = "/url" in [service.answer]'
    words = [(name, word.lower()) for name in ("waiting", "done", "failed", "refused", "cancelled") for word in getattr(answer, name)]
    for name, word in words:
        if other := next((one for one, same in words if same == word and one != name), ""):
            yield ("service", "answer", name), f"“{word}” means both {name} and {other}", "each word for a state means one of them"
            break
