"""A profile of one's own: made from answers, and tried on prompts that ask all of it."""

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

from syntagma.app.workspace.own_files import place_for
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.draft_checks import text_findings
from syntagma.core.diagnostics import ERROR, WARNING, Finding, Trouble, perhaps
from syntagma.core.drafting.fills import BadFills, Given
from syntagma.core.fitting import TooLong
from syntagma.core.formula import read_formula
from syntagma.core.models import Profile
from syntagma.core.models.parameters import found_in
from syntagma.core.models.profile_file import read_profile
from syntagma.core.models.references import Reference
from syntagma.core.models.request_shape import as_json
from syntagma.core.notation.toml import value
from syntagma.core.realising import REGISTERS
from syntagma.core.realising.request import request_of
from syntagma.core.writing.prompt import Manner, Prompt
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.files import write_new

# ──── A model profile of a person's own: written with comments, from a few answers.


UNITS = {"c": "characters", "w": "words", "t": "tokens", "b": "bytes"}
WAYS = ("field", "inline", "parameter", "folded", "none")
PER = ("prompt", "picture", "second", "thousand-tokens")


class Question(NamedTuple):
    """One thing that `model new` asks: its key, the question, what it takes, and the default."""

    key: str
    words: str
    takes: str
    default: str = ""


QUESTIONS = (
    Question("about", "What is it, in one line?", "text"),
    Question("media", "What does it make?", "image, video or both", "image"),
    Question("register", "How does it read?", ", ".join(REGISTERS), "prose"),
    Question(
        "limit",
        "How long may the text be?",
        "900 characters, 75 tokens, 120 words, 2000 bytes; blank for no limit",
    ),
    Question("negative", "Where does the negative prompt go?", ", ".join(WAYS), "field"),
    Question(
        "stress", "How is weight written?", "a pattern like ={text} {weight}=; blank for none"
    ),
    Question("ratios", "Which aspect ratios does it have?", "1:1, 2:3, 16:9; blank for any"),
    Question(
        "ratio-written",
        "How is the ratio written after the text?",
        "a pattern like /shape {value}; blank for a field of the request",
    ),
    Question(
        "price",
        "What does one cost?",
        f"a number and {', '.join(PER)}: 4 picture; blank if unknown",
    ),
)


def make_model(
    workspace: Workspace,
    name: str,
    answers: Mapping[str, str],
    base: str = "",
    own: bool = False,
    parameters: Mapping[str, str] = {},
) -> tuple[Path, list[Finding]]:
    """Write a profile from answers to QUESTIONS, and `parameters` with what each takes; return its
    file. Raises Trouble or Refused, and writes nothing then.
    """
    path = place_for(workspace, "models", name, ".toml", own)
    if base and base not in workspace.models():
        raise Trouble(
            f"no model is called “{base}”",
            perhaps(base, workspace.models(), "`syntagma model` lists them"),
            2,
        )
    text = (_based(base, answers) if base else _whole(answers)) + "".join(
        f"\n{line}" for line in _own_parameters(parameters)
    )
    read_profile(text, name, str(path), workspace.model)
    write_new(path, text)
    return path, []


def _based(base: str, answers: Mapping[str, str]) -> str:
    said = [f"{key} = {value(answers[key])}" for key in ("about", "media") if answers.get(key)]
    limit = _limit(answers.get("limit", ""))
    lines = [
        "# Only what differs from the base profile. `syntagma help models` explains every key.",
        f"base = {value(base)}",
        '# without = ["parameter.seed"]   # parts of the base that this one lacks',
        *said,
        *(["", "[limits]", f"text = {limit}"] if limit else ["", "# [limits]", "# text = 400"]),
        *_price(answers.get("price", "")),
        "",
    ]
    return "\n".join(lines)


def _whole(answers: Mapping[str, str]) -> str:
    register = _one_of(answers.get("register") or "prose", REGISTERS, "register")
    way = _one_of(answers.get("negative") or "field", WAYS, "way of negative text")
    media = _one_of(answers.get("media") or "image", ("image", "video", "both"), "medium")
    stops = {
        "prose": "final_stop = true         # the text ends in a full stop",
        "timed": "final_stop = true",
    }
    limit = _limit(answers.get("limit", ""))
    lines = [
        "# What one generator takes. Every key is optional; `syntagma help models` explains them.",
        f"about = {value(answers.get('about', ''))}",
        f"media = {value(media)}",
        "",
        "[text]",
        f"register = {value(register)}       # {', '.join(REGISTERS)}",
        stops.get(
            register,
            (
                '# separator = ", "       # between tags'
                if register == "tags"
                else "# final_stop = true"
            ),
        ),
        '# opening = ""           # words before every prompt',
        '# closing = ""           # words behind every prompt',
        '# order = ["camera"]     # phrases by label or facet that come first',
        '# case = "lower"         # or upper',
        '# escape = "()"          # signs that need a backslash before them',
        "",
        "[limits]",
        (
            f"text = {limit}"
            if limit
            else '# text = { most = 900, unit = "characters" }   # or words, tokens, bytes'
        ),
        "# negative = 250",
        "# reach = 40             # the first words, which carry most of the weight",
        "",
        "[negative]",
        f"way = {value(way)}            # {', '.join(WAYS)}",
        *(
            {
                "folded": ['pattern = "Without {negative}."'],
                "inline": ['pattern = "(without {negative})"'],
            }.get(way, [])
        ),
        "",
        *_stress(answers.get("stress", "")),
        *_parameters(answers, way),
        "# [reference.style]      # and character, setting, first-frame, last-frame",
        '# kinds = ["path", "address"]',
        "# most = 1",
        '# at = "field"           # or front, after, place',
        "",
        *(
            ["[sound]", "makes = true", "pace = 2.5               # words spoken in a second", ""]
            if media == "video"
            else []
        ),
        "# [rewriting]            # it rewrites prompts by itself",
        '# off = { rewrite = "no" }   # the parameter that switches that off',
        "",
        "# [[refused]]            # words that it refuses",
        '# words = "…"',
        '# instead = "…"',
        "",
        *_price(answers.get("price", "")),
        "# [request]              # the JSON that the service gets, with {places}",
        '# prompt = "{text}"',
        "",
    ]
    return "\n".join(lines)


def _stress(pattern: str) -> list[str]:
    if not pattern:
        return ["# [stress]", '# pattern = "={text} {weight}="', "# range = [0.5, 1.5]", ""]
    return [
        "[stress]",
        f"pattern = {value(pattern)}",
        "range = [0.5, 1.5]       # the least and the most weight",
        "step = 0.1",
        "",
    ]


def _parameters(answers: Mapping[str, str], way: str) -> list[str]:
    ratios = [ratio.strip() for ratio in answers.get("ratios", "").split(",") if ratio.strip()]
    pattern = answers.get("ratio-written", "")
    lines = ["[parameter.negative]", 'type = "text"', ""] if way == "parameter" else []
    if not ratios and not pattern:
        return [
            *lines,
            "# [parameter.ratio]",
            '# values = ["1:1", "2:3"]',
            '# write = "/shape {value}"   # after the text',
            '# at = "after"',
            "",
        ]
    lines.append("[parameter.ratio]")
    lines += [f"values = {value(ratios)}", f"default = {value(ratios[0])}"] if ratios else []
    lines += (
        [
            f"write = {value(pattern)}",
            'at = "after"              # after the text; "field": in the request; "both"',
        ]
        if pattern
        else []
    )
    return [*lines, ""]


def _own_parameters(parameters: Mapping[str, str]) -> list[str]:
    """Parameters as they are said: seconds=4..12, seed=0..4294967295, look=raw,soft, sound=flag,
    title=text.
    """
    lines: list[str] = []
    for name, said in parameters.items():
        if not re.fullmatch(r"[A-Za-z][\w-]*", name):
            raise Trouble(
                f"“{name}” is not a name of a parameter",
                "letters, digits and hyphens: seconds=4..12",
                2,
            )
        span = re.fullmatch(
            r"(-?\d+(?:\.\d+)?)\s*(?:\.\.|-|to)\s*(-?\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?",
            said.strip(),
        )
        lines.append(f"[parameter.{name}]")
        if span:
            whole = "." not in span[1] + span[2] + (span[3] or "")
            lines += [
                f'type = "{"integer" if whole else "number"}"',
                f"range = [{span[1]}, {span[2]}]",
            ]
            lines += [f"step = {span[3]}"] if span[3] else []
        elif said.strip() in ("text", "integer", "number", "flag"):
            lines.append(f'type = "{said.strip()}"')
        else:
            values = [part.strip() for part in said.split(",") if part.strip()]
            numbers = all(re.fullmatch(r"-?\d+(?:\.\d+)?", one) for one in values)
            lines += ['type = "number"'] if numbers else []
            lines.append(
                f"values = [{', '.join(values)}]" if numbers else f"values = {value(values)}"
            )
        lines.append("")
    return lines


def _price(said: str) -> list[str]:
    if not said:
        return [
            "# [price]",
            "# amount = 1",
            '# per = "prompt"         # picture, second, thousand-tokens',
            "",
        ]
    match = re.match(r"^\s*(\d+(?:\.\d+)?)\s*(?:an?|per)?\s*([a-z-]*)\s*$", said)
    per = (match and match[2]) or "prompt"
    if not match or per not in PER:
        raise Trouble(
            f"“{said}” is not a price", f"write a number and one of {', '.join(PER)}: 4 picture", 2
        )
    return [
        "[price]",
        f"amount = {match[1]}",
        f"per = {value(per)}",
        "# free = 10              # prompts a day that cost nothing",
        "",
    ]


def _limit(said: str) -> str:
    """A limit as TOML: "75 tokens", "900c" and "900" are limits; "" is none. Raises Trouble."""
    if not said.strip():
        return ""
    match = re.match(r"^\s*(\d+)\s*([a-z]*)\s*$", said.lower())
    unit = next(
        (u for u in UNITS.values() if match and match[2] and u.startswith(match[2])),
        "" if match and match[2] else "characters",
    )
    if not match or not unit or int(match[1]) < 1:
        raise Trouble(
            f"“{said}” is not a limit",
            "write a number and a unit: 900 characters, 75 tokens, 120 words, 2000 bytes",
            2,
        )
    return match[1] if unit == "characters" else f'{{ most = {match[1]}, unit = "{unit}" }}'


def _one_of(value: str, known: Sequence[str], what: str) -> str:
    if value not in known:
        raise Trouble(
            f"“{value}” is not a valid {what}",
            perhaps(value, known, f"write {', '.join(known[:-1])} or {known[-1]}"),
            2,
        )
    return value


# ──── A new profile tried: sample drafts of every awkward kind written for it, and what is wrong
# with what comes out.


STILL = """+++
[slots]
props = { facet = "", take = [1, 3] }
trait = { facet = "" }
aside = { facet = "" }
+++
lead!     [a medium] of [a trait subject]
deed      ~[action]
place     [setting as place]
props     with [props]
light     lit by [a lighting].
aside?    [aside]
finish!   fine detail, true colour
-         [flaw], lettering, border
"""
MOVING = """+++
[slots]
props = { facet = "", take = [1, 3] }
trait = { facet = "" }
aside = { facet = "" }
line = { facet = "" }
+++
shot      [shot-size];
move      [camera-move as clause].
lead!     [a trait subject]
deed      ~[action]
place     [setting as place]
props     with [props]
light     lit by [a lighting].
speech    {[the subject as short], [voice]: "[line]".}
ambience  ambience: [an ambience as clause].
aside?    [aside]
-         [flaw], captions
"""
USUAL = {
    "medium": "linocut",
    "subject": "harbour pilot",
    "action": "checking a tide board",
    "setting": "wet quay",
    "lighting": "sodium quay lamps",
    "shot-size": "medium shot",
    "camera-move": "slow push-in",
    "flaw": "waxy skin",
}
SPOKEN = {
    "voice": "low and close",
    "line": "Last boat. Mind the step.",
    "ambience": "ticking clock",
}
LONG = (
    "a long account of the crossing, with the wind backing to the north and the tide board wiped"
    " twice before midnight, while the purser counts his tickets under the lamp and nobody on the"
    " quay believes that the boat will go, "
)


class Sample(NamedTuple):
    """One draft to try: what it tries, its fills, and the manner in which it is asked for."""

    name: str
    fills: Mapping[str, Given]
    manner: Manner = Manner()


class ProfileTried(NamedTuple):
    """What came out of one sample, and what is wrong with it."""

    sample: str
    prompt: Prompt | None
    findings: list[Finding]

    def record(self) -> dict[str, Any]:
        row: dict[str, Any] = {"sample": self.sample}
        if self.prompt:
            row |= {
                "text": self.prompt.text,
                "negative": self.prompt.negative,
                "parameters": dict(self.prompt.around.values),
            }
        return {k: v for k, v in row.items() if v} | {
            "findings": [f.record() for f in self.findings]
        }


def samples(profile: Profile) -> Iterator[Sample]:
    """The samples for a profile: what it can do is tried as well as what any person types."""
    yield Sample("as usual", USUAL)
    yield Sample("next to nothing filled", {"subject": "tea urn"})
    yield Sample("a list", USUAL | {"props": "rope; brass whistle; flask"})
    yield Sample("weight on two things", USUAL, Manner(stress={"lighting": 1.3, "subject": 0.8}))
    yield Sample(
        "much to keep out",
        USUAL | {"flaw": "waxy skin; extra fingers; crossed eyes; stray lettering; watermark"},
    )
    yield Sample("a long text", USUAL | {"aside": (LONG * 8).strip(", ")})
    yield Sample(
        "quotes and signs",
        USUAL
        | {
            "trait": 'so-called "old"',
            "aside": r"a sign that says 50% off {now} [here] (mind \ the | step)",
        },
    )
    yield Sample(
        "other alphabets", USUAL | {"trait": "naïve", "aside": "灯台, маяк, φάρος and a ☂"}
    )
    if profile.makes != "image":
        yield Sample("someone speaks", USUAL | SPOKEN)
    for role, rule in profile.reference.items():
        value = {
            "path": "pictures/print.png",
            "address": "https://pictures.example/print.png",
            "handle": "@pilot",
        }
        if rule.at == "place":
            yield Sample(f"a {role} by handle", USUAL | {"subject": value[rule.kinds[0]]})
            continue
        given = tuple(Reference(role, value[kind], kind) for kind in rule.kinds[:1])
        yield Sample(f"a reference for {role}", USUAL, Manner(references=given))
    for name, parameter in profile.parameter.items():
        for value in {
            str(v): v
            for v in [*parameter.values[:1], *parameter.values[-1:], *(parameter.range or ())]
        }.values():
            number = int(value) if isinstance(value, float) and value == int(value) else value
            asked = {name: number} | {
                rule.partition("=")[0]: rule.partition("=")[2] or "true"
                for rule in parameter.requires
            }
            asked = {
                n: _some(profile, n) if v == "true" and profile.parameter[n].type != "flag" else v
                for n, v in asked.items()
            }
            yield Sample(f"{name} {number}", USUAL, Manner(parameters=asked))
        if parameter.type == "flag":
            yield Sample(f"{name} on", USUAL, Manner(parameters={name: True}))


def _some(profile: Profile, name: str) -> object:
    parameter = profile.parameter[name]
    return parameter.default if parameter.default is not None else next(iter(parameter.values), 1)


def try_model(workspace: Workspace, name: str) -> list[ProfileTried]:
    """Try every sample on a model. Raises Trouble or Refused if its profile can't be read."""
    profile = workspace.model_or_file(name)
    formula = read_formula(MOVING if profile.makes == "video" else STILL, "trial")
    tried = []
    for sample in samples(profile):
        writer = Writer(formula, profile, workspace.vocabulary, sample.manner)
        fills = {slot: text for slot, text in sample.fills.items() if slot in writer.position}
        try:
            filled = writer.fills(fills)
            prompt = writer.write(filled)
        except (BadFills, TooLong) as bad:
            tried.append(
                ProfileTried(
                    sample.name,
                    None,
                    [
                        Finding(
                            ERROR,
                            str(bad),
                            "check the limit and the register",
                            "text",
                            code="no-prompt",
                        )
                    ],
                )
            )
            continue
        told = [f for f in writer.findings(filled, prompt) if f.kind in (ERROR, WARNING)]
        tried.append(
            ProfileTried(
                sample.name, prompt, list(dict.fromkeys([*told, *wrong_with(profile, prompt)]))
            )
        )
    return tried


def wrong_with(profile: Profile, prompt: Prompt) -> list[Finding]:
    """What no prompt of any profile may have: a limit broken, a place left open, a parameter twice,
    JSON that does not parse.
    """
    found = [] if profile.register == "nested" else text_findings(prompt.text)
    if profile.register == "nested":
        try:
            json.loads(
                prompt.words[len(profile.text.opening) :]
                if not profile.text.closing
                else prompt.words
            )
        except ValueError as error:
            found.append(
                Finding(
                    ERROR,
                    f"the text is not JSON: {error}",
                    "opening and closing words break nested values",
                    "text",
                    code="broken-json",
                )
            )
    for name in ("text", "whole", "request"):
        limit = profile.limit(name)
        if limit is None:
            continue
        used = (
            prompt.used
            if name == "text"
            else limit.count(prompt.text if name == "whole" else _sent(profile, prompt))
        )
        if used > limit.most:
            found.append(
                Finding(
                    ERROR,
                    f"{name} takes {used} {limit.unit} of {limit.most}",
                    "are the words around it too long?",
                    name,
                    code="over-limit",
                )
            )
    names = [one.name for one in found_in(profile, prompt.around.after)]
    for name in {n for n in names if names.count(n) > 1}:
        found.append(
            Finding(
                ERROR,
                f"{name} comes twice after the text",
                "two parameters are spelled alike",
                name,
                code="parameter-twice",
            )
        )
    for place in re.findall(
        r"\{[a-z_.]+\}", prompt.around.after + prompt.around.before + prompt.around.behind
    ):
        found.append(
            Finding(
                WARNING,
                f"a pattern leaves {place} open",
                "syntagma help models lists the places",
                "text",
                code="place-left-open",
            )
        )
    return found


def _sent(profile: Profile, prompt: Prompt) -> str:
    return as_json(request_of(profile, prompt.around, prompt.text, prompt.words))
