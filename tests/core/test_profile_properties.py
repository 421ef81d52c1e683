"""Whatever the profile and the fills: nothing over a limit, no parameter twice, every pair closed, JSON that parses, and a person's
words come through every register."""

import json
import re

import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from syntagma.core.drafting.fills import BadFills, cleaned
from syntagma.core.fitting import TooLong
from syntagma.core.formula import read_formula
from syntagma.core.models.parameters import found_in
from syntagma.core.models.request_shape import as_json
from syntagma.core.realising.request import request_of
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from tests.core.samples import VOCABULARY, profile

FORMULA = read_formula(
    """+++
[slots]
trait = { facet = "" }
aside = { facet = "" }
props = { facet = "", take = [1, 3] }
[parameters]
ratio = "2:3"
seed = 4
+++
lead!     [a trait subject]
place     [setting as place]
light     lit by [a lighting].
shot1.a   with [props];
shot1.b?  ([aside]).
closing!  flat inks
-         [flaw], border
""",
    "any",
)

registers = st.sampled_from(["prose", "tags", "labelled", "nested", "timed"])
sizes = st.fixed_dictionaries(
    {
        "most": st.integers(20, 400),
        "unit": st.sampled_from(["characters", "words", "tokens", "bytes"]),
    },
    optional={"letters": st.integers(2, 8), "margin": st.sampled_from([0.1, 0.3])},
)
profiles = st.fixed_dictionaries({
    "text": st.fixed_dictionaries({"register": registers}, optional={
        "separator": st.sampled_from([", ", " | ", "; "]), "final_stop": st.booleans(), "order": st.lists(st.sampled_from(["place", "lighting", "closing"]), max_size=2),
        "case": st.sampled_from(["kept", "lower"]), "fixed": st.sampled_from(["stays", "last"]),
    }),
    "limits": st.fixed_dictionaries({}, optional={"text": sizes, "whole": sizes, "request": sizes, "negative": sizes, "reach": st.integers(3, 30)}),
    "negative": st.sampled_from([{}, {"way": "none"}, {"way": "inline", "pattern": "(not {negative})"}, {"way": "parameter"}]),
    "parameters": st.sampled_from([{"at": "after"}, {"at": "both"}, {"at": "field"}]),
    "parameter": st.just({
        "ratio": {"write": "/r {value}", "values": ["1:1", "2:3"]}, "seed": {"write": "/s {value}", "type": "integer", "range": [0, 99]},
        "negative": {"write": "/no {value}"}, "raw": {"write": "/raw", "type": "flag"},
    }),
    "request": st.sampled_from([{}, {"say": "{text}", "more": {"seed": "{seed}", "gone": "{width}"}, "words": "{words}!"}]),
}, optional={
    "stress": st.sampled_from([{"pattern": "<{text} @{weight}>"}, {"pattern": "{text}{marks}", "step": 0.25}, {"pattern": "*{text}*{weight}", "per": "word"}]),
    "sound": st.just({"pace": 2}),
})  # fmt: skip
signs = [
    "a",
    "b",
    " ",
    "c",
    "é",
    "灯",
    '"',
    "\\",
    "\n",
    "\t",
    "{",
    "}",
    "[",
    "]",
    "|",
    ";",
    ",",
    ".",
    "'",
    "/r ",
    "<",
    ">",
    "\u2028",
]
words = st.lists(st.sampled_from(signs), max_size=40).map("".join)
fills = st.fixed_dictionaries({"subject": st.sampled_from(["tea urn", "harbour pilot", "old lamp"])}, optional={"trait": words, "aside": words, "props": words, "setting": st.just("wet quay"), "lighting": words})  # fmt: skip
manners = st.builds(
    Manner, st.dictionaries(st.sampled_from(["lighting", "subject", "place"]), st.sampled_from([0.4, 1.0, 1.3, 9.0]), max_size=2),
    st.dictionaries(st.sampled_from(["ratio", "seed", "raw", "nothing"]), st.sampled_from(["1:1", "7", "true", "x"]), max_size=3),
)  # fmt: skip


@pytest.mark.long
@settings(max_examples=300, deadline=None)
@given(profiles, fills, manners)
@example(
    {
        "text": {"register": "nested"},
        "limits": {},
        "negative": {},
        "parameters": {"at": "after"},
        "parameter": {},
        "request": {},
    },
    {"subject": "tea urn", "aside": 'a "b" \\ {c}\n'},
    Manner(),
)
def test_no_profile_and_no_fill_breaks_a_prompt(tables, given_fills, manner):
    model = profile(**tables)
    writer = Writer(FORMULA, model, VOCABULARY, manner)
    try:
        filled = writer.fills(given_fills)
        prompt = writer.write(filled)
    except BadFills:
        assume(False)
    except TooLong:
        return
    sent = request_of(model, prompt.around, prompt.text, prompt.words)
    for name, text in (
        ("text", prompt.words),
        ("whole", prompt.text),
        ("negative", prompt.negative),
        ("request", as_json(sent)),
    ):
        limit = model.limit(name)
        assert not limit or limit.count(text) <= limit.room, (name, limit, text)
    assert prompt.words in prompt.text and json.loads(as_json(sent)) == sent
    names = [one.name for one in found_in(model, prompt.around.after)]
    assert len(names) == len(set(names)) and set(names) <= set(prompt.around.values)
    body = prompt.words
    if model.register == "nested":
        body = body[: body.rindex("}") + 1]
        assert isinstance(json.loads(body), dict)
        body = " ".join(_strings(json.loads(body)))
    if not prompt.fitted:
        lines = [writer.phrases.line(i, filled) for i in range(len(writer.compiled.plans))]
        for slot in ("look", "aside", "lighting"):
            told = cleaned(given_fills.get(slot, ""))
            shown = {p.slot for line in lines if line for p in getattr(line, "pieces", ())} | (
                {"look", "aside", "lighting"} if model.register in ("tags", "nested") else set()
            )
            if told and slot in shown:
                assert set(re.findall(r"\w+", told.lower())) - {"a"} <= set(
                    re.findall(r"\w+", re.sub(r"@[\d.]+|\*[\d.]+", " ", body.lower()))
                ), (told, body)
    assert all(f.kind and f.message for f in writer.findings(filled, prompt))


def _strings(value: object) -> list[str]:
    if isinstance(value, dict):
        return [s for one in value.values() for s in _strings(one)]
    return [s for one in value for s in _strings(one)] if isinstance(value, list) else [str(value)]


PAIRED = st.sampled_from(["old", "so-called", "brass (worn)", "“new”", "dark [wet]"])


@pytest.mark.long
@settings(max_examples=120, deadline=None)
@given(
    profiles,
    st.fixed_dictionaries(
        {"subject": st.just("tea urn"), "trait": PAIRED},
        optional={"aside": PAIRED, "props": PAIRED, "lighting": PAIRED},
    ),
    manners,
)
def test_pairs_stay_pairs(tables, given_fills, manner):
    writer = Writer(FORMULA, profile(**tables), VOCABULARY, manner)
    try:
        text = writer.write(writer.fills(given_fills)).text
    except TooLong:
        return
    for opening, closing in ("()", "[]", "{}", "“”", "<>"):
        assert text.count(opening) == text.count(closing), text
