"""Finished prompts, whoever wrote them: what can be said of them on a model, what is sure to be mended, what fits."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from syntagma.core.checking.prompt_lint import Finished, findings, mended
from syntagma.core.fitting import TooLong, fit_text, thoughts
from syntagma.core.models.measure import enlarging, read_print
from syntagma.core.models.references import KnownReference, Reference
from tests.core.samples import profile

MODEL = profile(
    text={"register": "prose"}, limits={"text": 120, "whole": 140, "reach": 12}, parameters={"at": "after"},
    parameter={
        "ratio": {"write": "/r {value}", "values": ["1:1", "2:3"]}, "seed": {"write": "/s {value}", "type": "integer", "range": [0, 9]},
        "raw": {"write": "/raw", "type": "flag", "excludes": ["seed"]}, "seconds": {"type": "integer", "default": 4, "write": "/t {value}"},
    },
    refused=[{"words": "gun", "instead": "horn", "why": "weapons"}, {"pattern": r"\bcorps\w+"}], sound={"pace": 2}, reference={"style": {"kinds": ["path"]}},
)  # fmt: skip
TAGS = profile(text={"register": "tags"})
SILENT = profile(sound={"makes": False}, media="video")
NESTED = profile(text={"register": "nested"})


@pytest.mark.parametrize(("model", "prompt", "said"), [
    (MODEL, "A lamp on a quay. /r 2:3", []),
    (MODEL, "An lamp, a hour, A 85mm lens", ["“An lamp” has the wrong article", "“a hour” has the wrong article", "“A 85mm” has the wrong article"]),
    (MODEL, "Vitamin A is here; plan A", []),
    (MODEL, "Two lamp, three ropes, six sheep on a quay", ["“Two lamp” does not agree"]),
    (MODEL, "the the lamp", ["“the the” repeats a word"]),
    (MODEL, 'a "lamp', ['a " is left open']),
    (MODEL, "x" * 121, ["the text takes 121 characters, 1 over the 120 of m"]),
    (MODEL, "x" * 119 + " /r 2:3 /t 4 /s 4 /s 4", ["all the pasted text takes 141", "the parameter seed appears 2 times"]),
    (MODEL, "a lamp /r 2:3 in the rain", ["“/r 2:3” reads as the parameter ratio"]),
    (MODEL, "a lamp /r 4:3", ["ratio 4:3 is not one of 1:1, 2:3 (of m)"]),
    (MODEL, "a lamp /rr 2:3 /s 12", ["seed 12 is outside 0 to 9", "m has no parameter written “/rr”"]),
    (MODEL, "a lamp /raw /s 3", ["raw and seed exclude each other"]),
    (MODEL, "a lamp and/or a rope, 3/4 view", []),
    (MODEL, "a gun, corpses, gunmetal", ["m refuses “gun” (weapons)", "m refuses “corpses”"]),
    (MODEL, 'He says "one two three four five six seven eight nine"', ["9 spoken words take about 4.5 s, but the clip has 4: the end will be cut off"]),
    (MODEL, "one lamp two ropes three bells four oars five maps six knots salt fog horn", ["3 of 15 words come after the first 12"]),
    (MODEL, "lamp here, lamp there, a lamp", ["repeated 3 times or more: lamp"]),
    (MODEL, Finished("a lamp /r 2:3", parameters={"ratio": "1:1"}), ["the parameter ratio is 1:1 beside the text but 2:3 in it"]),
    (MODEL, Finished("a lamp", parameters={"sede": 1}), ["m has no parameter “sede”"]),
    (MODEL, Finished("a lamp, no people", "people, rope"), []),
    (MODEL, Finished("a lamp and two people", "people, rope"), ["“people” is in the negative prompt, but the text asks for it"]),
    (MODEL, Finished("a lamp, room for lettering", "lettering"), []),
    (MODEL, Finished("a lamp", references=(Reference("style", "a.png", "path"), Reference("style", "b.png", "path"))), ["m takes 1 for style: b.png is one too many"]),
    (MODEL, "@moth by a lamp", ["m takes no handles: @moth reads as a word"]),
    (TAGS, "lamp, rope, Lamp", ["“lamp” appears 2 times"]),
    (SILENT, 'a pilot says "go"', ["somebody speaks, but m makes no sound"]),
    (NESTED, '{"a": "b"}', []),
    (NESTED, '{"a": "b"', ["m reads JSON, but this is not JSON"]),
])  # fmt: skip
def test_findings(model, prompt, said):
    found = findings(model, prompt if isinstance(prompt, Finished) else Finished(prompt))
    assert len(found) == len(said) and all(
        any(f.message.startswith(one) for f in found) for one in said
    ), found


def test_a_handle_that_nobody_has():
    model = profile(reference={"character": {"kinds": ["handle"], "at": "place"}})
    known = {"moth": KnownReference("moth", "a dog", handles={"": "@moth"})}
    assert [
        f.message for f in findings(model, Finished("@moth and @mouth, x@y.example"), known)
    ] == ["known.toml has nobody called @mouth"]


@pytest.mark.parametrize(("model", "before", "after"), [
    (MODEL, "A old lamp  on the the quay ,, by an 85mm lens", "An old lamp on the quay, by an 85mm lens"),
    (MODEL, "a gun and Guns /r 2:3 /s 4 /r 2:3", "a horn and Guns /r 2:3 /s 4"),
    (MODEL, "that that, very very still /r 2:3 /r 1:1", "that that, very very still /r 2:3 /r 1:1"),  # not sure, so left
    (TAGS, "lamp, rope,Lamp ,a oar", "lamp, rope, an oar"),
    (NESTED, '{"a":  "a old"}', '{"a":  "a old"}'),
    (MODEL, "nothing to mend here.", "nothing to mend here."),
])  # fmt: skip
def test_mending(model, before, after):
    assert mended(model, before) == after
    assert mended(model, after) == after


TEXT = "A signal lamp on a wet quay, lit by sodium lamps, in light drizzle. A pilot waits with a flask. Flat inks, wide margins"


@pytest.mark.parametrize(("most", "left", "lost"), [
    (130, TEXT, []),
    (105, "A signal lamp on a wet quay, lit by sodium lamps, in light drizzle. A pilot waits with a flask. Flat inks", ["wide margins"]),
    (80, "A signal lamp on a wet quay, lit by sodium lamps, in light drizzle. Flat inks", ["A pilot waits with a flask", "wide margins"]),
    (60, "A signal lamp on a wet quay, lit by sodium lamps. Flat inks", ["in light drizzle", "A pilot waits with a flask", "wide margins"]),
    (20, "A signal lamp", ["on a wet quay", "lit by sodium lamps", "in light drizzle", "A pilot waits with a flask", "Flat inks", "wide margins"]),
])  # fmt: skip
def test_plain_text_fits(most, left, lost):
    fit = fit_text(TEXT, profile(limits={"text": most}))
    assert (fit.text, fit.used) == (left, len(left)) and len(left) <= most
    assert fit.lost == lost
    assert "".join(bit.text for bit in fit.bits) == TEXT  # nothing of it is forgotten


def test_parameters_stay_behind_text_that_is_cut():
    fit = fit_text(
        TEXT + " /r 2:3 /s 4",
        profile(
            **{
                "limits": {"text": 60, "whole": 72},
                "parameter": {"ratio": {"write": "/r {value}"}, "seed": {"write": "/s {value}"}},
                "parameters": {"at": "after"},
            }
        ),
    )
    assert fit.text == "A signal lamp on a wet quay, lit by sodium lamps. Flat inks /r 2:3 /s 4"
    with pytest.raises(TooLong, match="the first thought takes 15 characters, 5 over"):
        fit_text("unbreakablyyyyy", profile(limits={"text": 10}))


@pytest.mark.long
@settings(max_examples=150, deadline=None)
@given(st.text(alphabet='ab c,.;!\n"é', max_size=120))
def test_thoughts_are_the_text(text):
    assert "".join(thoughts(text)) == text or not text.strip()


@settings(max_examples=150, deadline=None)
@given(
    st.lists(
        st.sampled_from(
            "a lamp, the wet quay with rope. Fog and bells; /r 2:3 an 85mm lens".split()
        ),
        min_size=1,
        max_size=60,
    ),
    st.integers(5, 80),
)
def test_plain_text_is_never_over(words, most):
    text = " ".join(words)
    try:
        fit = fit_text(text, profile(limits={"text": most}))
    except TooLong:
        return
    assert len(fit.text) <= most and (fit.text == text or not re.search(r",\s*$|\s,", fit.text))


@pytest.mark.parametrize(("words", "dpi", "pixels"), [
    ("50x70cm", 300, (5906, 8268)), ("20 × 30 in", 100, (2000, 3000)), ("A4", 300, (2480, 3508)), ("210x297mm", 300, (2480, 3508)), ("a lot", 300, None),
    ("0x3cm", 300, None),
])  # fmt: skip
def test_prints(words, dpi, pixels):
    read = read_print(words, dpi)
    assert (read and read.pixels) == pixels


def test_enlarging():
    one = enlarging("2:3", (1000, 1500), read_print("20x30in", 100))
    assert (one.times, round(one.cut, 6)) == (2.0, 0.0) and [
        round(side, 1) for side in one.prints
    ] == [25.4, 38.1]
    assert round(enlarging("1:1", (3000, 3000), read_print("20x30in", 100)).cut, 3) == 0.333
