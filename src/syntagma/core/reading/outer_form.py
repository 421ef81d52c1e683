"""The outside of a prompt: its form (prose, tags, labelled lines, nested JSON, timed segments), and
what is not prose in it: parameters, references, negative text, marks of stress, labels and times.
What a model writes is known by the patterns of its profile.
"""

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import NamedTuple

from syntagma.core.models.parameters import found_in
from syntagma.core.models.patterns import Hit, Recogniser, places
from syntagma.core.models.profile import ON, Profile
from syntagma.core.notation.json_in import NoJson, read_json
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.lexicon import GRADES, NEGATIVE_LABELS, PARAMETER_KEYS
from syntagma.core.vocabulary import facets

PROSE, TAGS, LABELLED, NESTED, TIMED = "prose", "tags", "labelled", "nested", "timed"

_ADDRESS = regex(
    r"\bhttps?://[^\s,;\"'<>)\]}]+(?<![.!?])|(?<![\w/.@])@[A-Za-z][\w-]{1,40}|(?<!\S)[\w./~-]{1,120}\.(?:png|jpe?g|webp|gif|mp4|mov|webm)\b",
    re.I,
)
RATIOS = frozenset(
    "1:1 2:3 3:2 3:4 4:3 4:5 5:4 5:7 7:5 9:16 16:9 16:10 10:16 21:9 9:21 2:1 1:2 3:1 1:3 2.39:1"
    " 2.35:1 1.85:1 1.66:1 2.76:1 1.91:1 9:19.5 18:9 9:18".split()
)
WEIGHTS = (  # the words, and the weight if one is said
    regex(r"\( ?([^():]{1,200}?) ?: ?(-?\d{0,2}\.?\d{1,3}) ?\)"),
    regex(r"\({2,5} ?([^()]{1,200}?) ?\){2,5}()"),
    regex(r"\{{2,5} ?([^{}]{1,200}?) ?\}{2,5}()"),
    regex(r"\[{2,5} ?([^\[\]]{1,200}?) ?\]{2,5}()"),
    regex(r"(?<![\w.’'-])([A-Za-z][\w’'-]{0,30}(?: [\w’'-]{1,30}){0,5})::(-?\d{0,2}\.?\d{1,3})"),
    regex(r"(?<![\w+])([A-Za-z][\w’'-]{0,40})\+{2,5}()"),
)
HEAVIER = 1.2  # what marks without a number are worth
_SETTING = regex(  # an item that sets something, in the notations of other hands: 16:9, Steps: 30
    r"(?:^|(?<=[,;\n])) *(?:(?P<name>steps|sampler|scheduler|seed|cfg(?: scale)?|guidance(?:"
    r" scale)?|denoising(?: strength)?|model hash|hires"
    r" upscale|(?:size|width|height|version|strength)(?=\s?[:=] ?[\d.]))\s?[:=] ?(?P<value>[\w.+/"
    r" -]{1,40}?)|(?P<ratio>\d{1,2}(?:\.\d{1,2})?:\d{1,2}))(?= ?(?:[,;\n]|\.?$))",
    re.I,
)
_OPTION = regex(
    r"(?<!\S)(?P<mark>--?|/)(?P<name>[a-z][\w-]{0,30})(?:["
    r" =:](?P<value>(?![-/]{1,2}[a-z])[^\s,;]{1,60}))?",
    re.I,
)
_EQUALS = regex(r"(?<!\S)(?P<name>[a-z][\w-]{1,20})=(?P<value>[^\s,;]{1,40})", re.I)
_NEGATIVE = regex(
    r"(?:^|(?<=[\n.!?]))[ \t]*(?P<lead>(?:negative(?: prompt)?|avoid|exclude|leave"
    r" out|never|unwanted)\s*[:|]\s*)(?P<what>[^\n]*)",
    re.I,
)
_LABEL = regex(r"^[ \t]*(?P<label>[A-Za-z][\w .-]{0,28}?)[ \t]*(?P<sign>[:|])[ \t]+(?=\S)", re.M)
_TIME = r"\d{1,2}(?::\d\d){1,2}(?:\.\d+)?|\d{1,4}(?:\.\d+)? ?s(?:ec(?:onds?)?)?|\d{1,4}(?:\.\d+)?"
_BARE_TIME = regex(
    r"\s*\d+(?:\.\d+)? ?(?:s(?:ec(?:onds?)?)?)? ?(?:-|–|—|to) ?\d+(?:\.\d+)?"
    r" ?s(?:ec(?:onds?)?)?\b|\s*\d+:\d\d ?(?:-|–|—|to) ?\d+:\d\d\b"
)
_CLOCK = regex(_TIME)
_SEGMENT = regex(
    rf"(?:^|(?<=[\s;]))(?P<open>[\[(]?)(?:(?:{_TIME}) ?(?:-|–|—|to) ?(?:{_TIME}))(?P<close>[\])]?)["
    r" \t]*(?P<sign>[|:])?[ \t]+(?=\S)",
    re.M,
)
_NUMBERED = regex(r"^\s*(?:\d{1,3}[.)]|[-*•])\s+")
_SCALAR = regex(r'"(?:[^"\\\n]|\\.)*"?|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?|true|false|null|[{}\[\],:]')


class Region(NamedTuple):
    """A stretch of the text of one kind: text, negative, parameter, reference or glue. `name`: of a
    parameter, of a label or key; `value`: of a parameter; `stress`: the weight of what is in it.
    """

    start: int
    stop: int
    kind: str
    name: str = ""
    value: str = ""
    stress: float = 1.0


class Outside(NamedTuple):
    """A text by its form and regions, which follow one another without gaps. `broken` says where
    nested text can't be read on.
    """

    form: str
    regions: tuple[Region, ...]
    broken: str = ""


def outside(text: str, profiles: Iterable[Profile] = ()) -> Outside:
    """Take the outside of a text off. Nothing of it is lost: the regions joined are the text."""
    profiles = tuple(profiles)
    start = len(text) - len(text.lstrip("\ufeff \t\r\n"))
    if (
        text[start : start + 1] in ("{", "[")
        and re.match(r"[{\[]\s*(?:[\"{\[}\]]|$)", text[start : start + 400])
        and not re.match(r"[{\[]{2,6}[A-Za-z]", text[start:])
    ):
        stop = _value_end(text)
        if not text[stop:].strip():
            return _nested(text)
        behind = outside(text[stop:], profiles)  # prose behind the value belongs to the prompt
        value = _nested(text[:stop])
        rest = (
            region._replace(start=region.start + stop, stop=region.stop + stop)
            for region in behind.regions
        )
        return Outside(NESTED, (*value.regions, *rest), value.broken or behind.broken)
    taken = _taken(text, profiles)
    form, marks = _form(text, taken)
    taken = _sorted([*taken, *marks])
    taken = _sorted([*taken, *_negatives(text, taken, form)])
    return Outside(form, tuple(_filled(text, _stressed(text, taken, profiles))))


def _taken(text: str, profiles: tuple[Profile, ...]) -> list[Region]:
    """Parameters, addresses and handles."""
    found = [
        Region(m.start(), m.end(), "reference", value=m.group()) for m in _ADDRESS.finditer(text)
    ]
    for profile in profiles:
        found += [
            Region(f.start, f.stop, "parameter", f.name, f.value) for f in found_in(profile, text)
        ]
    for m in _SETTING.finditer(text):
        start = m.start() + len(m.group()) - len(m.group().lstrip())
        if m["ratio"] in RATIOS or m["name"]:
            found.append(
                Region(
                    start,
                    m.end(),
                    "parameter",
                    "ratio" if m["ratio"] else m["name"].lower().replace(" ", "-"),
                    m["ratio"] or m["value"],
                )
            )
    tail = len(text)
    options = [*_OPTION.finditer(text), *_EQUALS.finditer(text)]
    if options:
        spans = sorted([(r.start, r.stop) for r in found] + [m.span() for m in options])
        for start, stop in reversed(spans):  # options come after the text, one after the other
            if text[min(stop, tail) : tail].strip(" \t\r\n,;") == "":
                tail = min(tail, start)
        found += [
            Region(m.start(), m.end(), "parameter", m["name"], m["value"] or "true")
            for m in options
            if m.start() >= tail or "=" in m.group() or m.groupdict().get("mark") == "--"
        ]
    return _sorted(region for one in found for region in _kept_out(text, one, found))


def _kept_out(text: str, one: Region, found: list[Region]) -> list[Region]:
    """An option that says what to keep out has all that follows it, up to the next option or the
    end of the line; any other region is what it is.
    """
    if one.kind != "parameter" or not (one.name.lower() == "no" or _keeps_out(one.name)):
        return [one]
    begin = re.match(r"\S+?(?:[ =:]\s*|$)", text[one.start : one.stop] + " ")
    start = one.start + (begin.end() if begin else 0)
    stop = min((r.start for r in found if r.start >= one.stop), default=len(text))
    line = text.find("\n", one.start, stop)
    said = text[start : line if line >= 0 else stop].rstrip(" \t\r\n,;")
    if not said.strip():
        return [one]
    return [
        Region(one.start, start, "glue", "negative"),
        Region(start, start + len(said), "negative"),
    ]


def _form(text: str, taken: list[Region]) -> tuple[str, list[Region]]:
    """What form a text has, and the labels or times in it."""
    times = _times(text)
    if times:
        return TIMED, [Region(m.start(), m.end(), "glue", "time") for m in times]
    lines = sum(1 for line in text.splitlines() if line.strip())
    led = list(_LABEL.finditer(text))
    labels = [
        m
        for m in led
        if m["sign"] == "|" or m["label"].isupper() or _label(m["label"]) or _keeps_out(m["label"])
    ]
    if len(led) == lines > 2 and len(labels) > 1 and all(len(m["label"].split()) < 4 for m in led):
        labels = led  # where every line has a label, one that nobody knows is one, too
    if len(labels) >= max(2, lines * 0.6):
        return LABELLED, [Region(m.start(), m.end(), "glue", m["label"]) for m in labels]
    numbered = _NUMBERED.match(text)
    marks = [Region(numbered.start(), numbered.end(), "glue", "number")] if numbered else []
    body = text[
        : min((r.start for r in taken if r.start > 0 and r.kind == "parameter"), default=len(text))
    ]
    parts = [part for part in re.split(r",\s", body) if part.strip()]
    stops = len(re.findall(r"[.!?](?:\s|$)", body.strip().rstrip(".")))
    lengths = sorted(len(part.split()) for part in parts)
    short = (
        len(parts) >= 3
        and not stops
        and lengths[len(lengths) // 2] <= 4
        and not re.search(
            r"^\s*(?:an?|the|this|one|two)\s|\b(?:of|on|in|with|under|by|behind) (?:an?|the)\s",
            body,
            re.I,
        )
    )
    return (TAGS if short else PROSE), marks


def _times(text: str) -> list[re.Match]:
    """The times of segments: in brackets, before a sign, or with their unit at the beginning of a
    line.
    """
    found = list(_SEGMENT.finditer(text))
    return [
        m
        for m in found
        if (m["open"] and m["close"])
        or m["sign"]
        or (_BARE_TIME.match(m.group()) and text[: m.start()].rpartition("\n")[2].strip() == "")
    ]


def segments(text: str) -> list[tuple[int, int]]:
    """Where what comes after each time begins and ends."""
    times = _times(text)
    stops = [m.start() for m in times[1:]] + [len(text)] * bool(times)
    return [
        (m.end(), m.end() + len(text[m.end() : stop].rstrip(" \t\r\n;")))
        for m, stop in zip(times, stops, strict=True)
    ]


def lengths(text: str) -> list[float]:
    """How many seconds each segment lasts, by its times."""
    found = []
    for match in _times(text):
        start, stop = (
            sum(float(n) * 60**k for k, n in enumerate(reversed(re.findall(r"[\d.]+", t))))
            for t in _CLOCK.findall(match.group())[:2]
        )
        found.append(max(stop - start, 0.0))
    return found


def _keeps_out(label: str) -> bool:
    """Does a label or a key say what to keep out?"""
    return label.lower().strip() in NEGATIVE_LABELS or label.lower().startswith("negative")


def _label(label: str) -> str:
    words = re.split(r"[ ._-]", label.lower())
    return facets.facet_of_label(label.lower()) or facets.facet_of_label(words[-1])


def _negatives(text: str, taken: list[Region], form: str) -> Iterator[Region]:
    """Text that says what to keep out, after a label of that kind."""
    if form == LABELLED:
        marks = [r for r in taken if r.kind == "glue" and r.name != "number"]
        for mark in marks:
            if _keeps_out(mark.name):
                end = text.find("\n", mark.stop)
                yield Region(mark.stop, end if end >= 0 else len(text), "negative")
        return
    for match in _NEGATIVE.finditer(text):
        start, stop = match.span("what")
        for region in taken:
            if start <= region.start < stop:
                stop = region.start
        said = text[start:stop].rstrip()
        if said:
            yield Region(match.start("lead"), start, "glue", "negative")
            yield Region(start, start + len(said), "negative")


@lru_cache(maxsize=64)
def _stress_pattern(pattern: str, more: str, less: str) -> Recogniser:
    shapes = {
        "weight": r"[0-9](?:\.\d+)?",
        "marks": rf"[{re.escape(more + less)}]{{1,6}}",
        "text": r"[^<>\n]{1,120}?",
    }
    if places(pattern)[:1] == ["marks"]:
        shapes["text"] = r"[^,;.\n]{1,120}"
    return Recogniser(pattern, shapes)


def _stressed(text: str, taken: list[Region], profiles: tuple[Profile, ...]) -> list[Region]:
    """Weight on words: the marks become glue, and what is in them has a weight."""
    found = list(taken)
    for m in (m for pattern in WEIGHTS for m in pattern.finditer(text)):
        if all(r.stop <= m.start() or m.end() <= r.start for r in found):
            found += [
                Region(m.start(), m.start(1), "glue", "stress"),
                Region(m.start(1), m.end(1), "text", stress=float(m[2]) if m[2] else HEAVIER),
                Region(m.end(1), m.end(), "glue", "stress"),
            ]
    for profile in profiles:
        stress = profile.stress
        if (
            not stress
            or stress.pattern == "{text}"
            or (stress.more not in text and "{marks}" in stress.pattern and stress.less not in text)
        ):
            continue
        for hit in _stress_pattern(stress.pattern, stress.more, stress.less).hits(
            text, lambda hit: _stands_apart(text, hit)
        ):
            if "text" not in hit.places or any(
                not (r.stop <= hit.start or hit.stop <= r.start) for r in found
            ):
                continue
            _, start, stop = hit.places["text"]
            marks = hit.places["marks"][0] if "marks" in hit.places else ""
            weight = (
                float(hit.places["weight"][0])
                if "weight" in hit.places
                else (
                    min(ON, stress.range[1])
                    if "marks" not in hit.places
                    else 1 + stress.step * (marks.count(stress.more) - marks.count(stress.less))
                )
            )
            found += [
                Region(hit.start, start, "glue", "stress"),
                Region(start, stop, "text", stress=round(weight, 3)),
            ]
            found += [Region(stop, hit.stop, "glue", "stress")]
    return _sorted(found)


def _stands_apart(text: str, hit: Hit) -> bool:
    """Do marks of weight stand apart from the words beside them? A hyphen between two words is not
    a mark.
    """
    return not (
        text[hit.start - 1 : hit.start].isalnum() or text[hit.stop : hit.stop + 1].isalnum()
    )


def _sorted(found: Iterable[Region]) -> list[Region]:
    """In order, without those that begin inside another; of two that begin together the longer."""
    kept: list[Region] = []
    for region in sorted((r for r in found if r.stop > r.start), key=lambda r: (r.start, -r.stop)):
        if not kept or region.start >= kept[-1].stop:
            kept.append(region)
    return kept


def _filled(text: str, taken: list[Region]) -> Iterator[Region]:
    """The regions, and text between them; a label's name goes with the text after it."""
    at, name = 0, ""
    for region in [*taken, Region(len(text), len(text), "end")]:
        if region.start > at:
            yield Region(at, region.start, "text", name)
        if region.kind == "end":
            return
        if region.kind == "glue" and region.name not in ("stress", "number"):
            name = "" if region.name in ("time", "negative") else region.name
        yield region._replace(name=name) if region.kind == "text" else region
        at = region.stop


def _value_end(text: str) -> int:
    """Where the value of JSON with which a text begins is closed; the text's end where it
    never is.
    """
    open_ = 0
    for match in _SCALAR.finditer(text):
        word = match.group()
        open_ += (word in "{[") - (word in "}]")
        if not open_:
            return match.end()
    return len(text)


def _nested(text: str) -> Outside:
    """JSON, read by its marks, so broken text gives what can be had: strings as text under their
    key, numbers as parameters.
    """
    regions: list[Region] = []
    path: list[str] = []
    key, at, expects_key = "", 0, []
    for match in _SCALAR.finditer(text):
        word, start, stop = match.group(), match.start(), match.end()
        if start > at:
            regions.append(Region(at, start, "glue"))
        at = stop
        if word in "{[":
            path.append(key)
            expects_key.append(word == "{")
            key = key if word == "[" else ""
        elif word in "}]":
            key = path.pop() if path else ""
            if expects_key:
                expects_key.pop()
        elif word == ",":
            key = "" if expects_key and expects_key[-1] else key
        elif (
            word[0] == '"'
            and expects_key
            and expects_key[-1]
            and not key
            and re.match(r"\s*:", text[stop : stop + 20])
        ):
            key = word.strip('"')
        elif word[0] == '"':
            end = stop - 1 if word.endswith('"') and len(word) > 1 else stop
            name = ".".join(
                [*(p for p in path if p), *([key] if key and key not in path[-1:] else [])]
            )
            regions.append(Region(start, start + 1, "glue"))
            if end > start + 1:
                regions.append(_value(text, start + 1, end, name))
            if end < stop:
                regions.append(Region(end, stop, "glue"))
            continue
        elif word not in ":":
            regions.append(
                Region(start, stop, "parameter", key, word)
                if word != "null"
                else Region(start, stop, "glue")
            )
            continue
        regions.append(Region(start, stop, "glue"))
    if at < len(text):
        regions.append(Region(at, len(text), "glue"))
    broken = ""
    try:
        read_json(text)
    except NoJson as error:
        broken = f"{error} (line {error.line}, column {error.column})"
    return Outside(NESTED, tuple(regions), broken)


def _value(text: str, start: int, stop: int, name: str) -> Region:
    last = name.rpartition(".")[2].lower()
    said = text[start:stop]
    if _keeps_out(last):
        return Region(start, stop, "negative", name)
    if last == "quality" and said.lower() not in GRADES and not said.replace(".", "").isdigit():
        return Region(start, stop, "text", name)
    if last in PARAMETER_KEYS or re.fullmatch(r"\d+[:x]\d+", said):
        return Region(start, stop, "parameter", last, said)
    if _ADDRESS.fullmatch(said):
        return Region(start, stop, "reference", name, said)
    return Region(start, stop, "text", name)


def runs(regions: Iterable[Region]) -> list[list[Region]]:
    """Regions by themselves, but text and the marks of stress in it together."""
    found: list[list[Region]] = []
    for region in regions:
        running = (
            found
            and found[-1][-1].kind in ("text", "glue")
            and (_mark(region) or _mark(found[-1][-1]))
        )
        same = (
            running
            and (region.kind == "text" or _mark(region))
            and (found[-1][0].kind == "text" or _mark(found[-1][0]))
        )
        if same:
            found[-1].append(region)
        else:
            found.append([region])
    return [run for run in found if len(run) == 1 or any(region.kind == "text" for region in run)]


def _mark(region: Region) -> bool:
    return region.kind == "glue" and region.name == "stress"
