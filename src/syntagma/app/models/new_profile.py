"""A model profile of a person's own: written with comments, from a few answers."""

import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from syntagma.app.workspace.own_files import place_for
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.findings import Finding
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.models.profile_file import read_profile
from syntagma.core.notation.toml_writer import value
from syntagma.core.realising import REGISTERS
from syntagma.storage.files import write_new
from syntagma.storage.trouble import Trouble

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
    Question("limit", "How long may the text be?", "900 characters, 75 tokens, 120 words, 2000 bytes; blank for no limit"),
    Question("negative", "Where does the negative prompt go?", ", ".join(WAYS), "field"),
    Question("stress", "How is weight written?", "a pattern like ={text} {weight}=; blank for none"),
    Question("ratios", "Which aspect ratios does it have?", "1:1, 2:3, 16:9; blank for any"),
    Question(
        "ratio-written",
        "How is the ratio written after the text?",
        "a pattern like /shape {value}; blank for a field of the request",
    ),
    Question("price", "What does one cost?", f"a number and {', '.join(PER)}: 4 picture; blank if unknown"),
)


def make_model(
    workspace: Workspace, name: str, answers: Mapping[str, str], base: str = "", own: bool = False, parameters: Mapping[str, str] = {}
) -> tuple[Path, list[Finding]]:
    """Write a profile from answers to QUESTIONS, and `parameters` with what each takes; return its file. Raises Trouble or Refused, and
    writes nothing then."""
    path = place_for(workspace, "models", name, ".toml", own)
    if base and base not in workspace.models():
        raise Trouble(f"no model is called “{base}”", perhaps(base, workspace.models(), "`syntagma model` lists them"), 2)
    text = (_based(base, answers) if base else _whole(answers)) + "".join(f"\n{line}" for line in _own_parameters(parameters))
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
    stops = {"prose": "final_stop = true         # the text ends in a full stop", "timed": "final_stop = true"}
    limit = _limit(answers.get("limit", ""))
    lines = [
        "# What one generator takes. Every key is optional; `syntagma help models` explains them.",
        f"about = {value(answers.get('about', ''))}",
        f"media = {value(media)}",
        "",
        "[text]",
        f"register = {value(register)}       # {', '.join(REGISTERS)}",
        stops.get(register, '# separator = ", "       # between tags' if register == "tags" else "# final_stop = true"),
        '# opening = ""           # words before every prompt',
        '# closing = ""           # words behind every prompt',
        '# order = ["camera"]     # phrases by label or facet that come first',
        '# case = "lower"         # or upper',
        '# escape = "()"          # signs that need a backslash before them',
        "",
        "[limits]",
        f"text = {limit}" if limit else '# text = { most = 900, unit = "characters" }   # or words, tokens, bytes',
        "# negative = 250",
        "# reach = 40             # the first words, which carry most of the weight",
        "",
        "[negative]",
        f"way = {value(way)}            # {', '.join(WAYS)}",
        *({"folded": ['pattern = "Without {negative}."'], "inline": ['pattern = "(without {negative})"']}.get(way, [])),
        "",
        *_stress(answers.get("stress", "")),
        *_parameters(answers, way),
        "# [reference.style]      # and character, setting, first-frame, last-frame",
        '# kinds = ["path", "address"]',
        "# most = 1",
        '# at = "field"           # or front, after, place',
        "",
        *(["[sound]", "makes = true", "pace = 2.5               # words spoken in a second", ""] if media == "video" else []),
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
    return ["[stress]", f"pattern = {value(pattern)}", "range = [0.5, 1.5]       # the least and the most weight", "step = 0.1", ""]


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
        [f"write = {value(pattern)}", 'at = "after"              # after the text; "field": in the request; "both"']
        if pattern
        else []
    )
    return [*lines, ""]


def _own_parameters(parameters: Mapping[str, str]) -> list[str]:
    """Parameters as they are said: seconds=4..12, seed=0..4294967295, look=raw,soft, sound=flag, title=text."""
    lines: list[str] = []
    for name, said in parameters.items():
        if not re.fullmatch(r"[A-Za-z][\w-]*", name):
            raise Trouble(f"“{name}” is not a name of a parameter", "letters, digits and hyphens: seconds=4..12", 2)
        span = re.fullmatch(r"(-?\d+(?:\.\d+)?)\s*(?:\.\.|-|to)\s*(-?\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?", said.strip())
        lines.append(f"[parameter.{name}]")
        if span:
            whole = "." not in span[1] + span[2] + (span[3] or "")
            lines += [f'type = "{"integer" if whole else "number"}"', f"range = [{span[1]}, {span[2]}]"]
            lines += [f"step = {span[3]}"] if span[3] else []
        elif said.strip() in ("text", "integer", "number", "flag"):
            lines.append(f'type = "{said.strip()}"')
        else:
            values = [part.strip() for part in said.split(",") if part.strip()]
            numbers = all(re.fullmatch(r"-?\d+(?:\.\d+)?", one) for one in values)
            lines += ['type = "number"'] if numbers else []
            lines.append(f"values = [{', '.join(values)}]" if numbers else f"values = {value(values)}")
        lines.append("")
    return lines


def _price(said: str) -> list[str]:
    if not said:
        return ["# [price]", "# amount = 1", '# per = "prompt"         # picture, second, thousand-tokens', ""]
    match = re.match(r"^\s*(\d+(?:\.\d+)?)\s*(?:an?|per)?\s*([a-z-]*)\s*$", said)
    per = (match and match[2]) or "prompt"
    if not match or per not in PER:
        raise Trouble(f"“{said}” is not a price", f"write a number and one of {', '.join(PER)}: 4 picture", 2)
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
        (u for u in UNITS.values() if match and match[2] and u.startswith(match[2])), "" if match and match[2] else "characters"
    )
    if not match or not unit or int(match[1]) < 1:
        raise Trouble(f"“{said}” is not a limit", "write a number and a unit: 900 characters, 75 tokens, 120 words, 2000 bytes", 2)
    return match[1] if unit == "characters" else f'{{ most = {match[1]}, unit = "{unit}" }}'


def _one_of(value: str, known: Sequence[str], what: str) -> str:
    if value not in known:
        raise Trouble(f"“{value}” is not a valid {what}", perhaps(value, known, f"write {', '.join(known[:-1])} or {known[-1]}"), 2)
    return value
