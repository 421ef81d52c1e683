"""Profiles and how limits are counted."""

import pickle
import re
from copy import deepcopy
from time import process_time
from typing import Annotated, Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from jsonschema import Draft202012Validator, validators

from syntagma.core.diagnostics import Refused, perhaps
from syntagma.core.drafting.surroundings import Around
from syntagma.core.models import Limit
from syntagma.core.models import profile as profile_module
from syntagma.core.models.measure import estimated_tokens, words
from syntagma.core.models.parameters import settle
from syntagma.core.models.patterns import Recogniser, gentler, refusals, written
from syntagma.core.models.prices import bill, cost
from syntagma.core.models.profile import RefusedWords as Refusing
from syntagma.core.models.profile_file import profile_schema, read_profile
from syntagma.core.models.references import read_known, reference_of, taken
from syntagma.core.models.request_shape import built
from syntagma.core.notation.structure import Bounds, Structure, changed, plain
from syntagma.core.notation.validation import MISSING, UNKNOWN, Fault, converted, schema_of
from syntagma.core.realising.request import Requester, request_of
from tests.core.samples import profile


@pytest.mark.parametrize(("text", "tokens"), [
    ("", 0), ("lamp", 1), ("linocut", 2), ("unhurried", 2), ("extraordinarily", 3), ("a lamp, a rope.", 6), ("85mm lens", 4),
    ("f/2.8", 5), ("slack-water", 3), ("灯台", 2), ("étude", 2), ("  ", 0), ("x\ny", 2),
])  # fmt: skip
def test_tokens(text, tokens):
    assert estimated_tokens(text) == tokens


def test_letters_a_token():
    assert estimated_tokens("unhurried", letters=3) == 3
    assert Limit(5, "tokens", 3).used(["unhurried", ", ", "eerie"]) == 6


@given(st.lists(st.text(alphabet="abc dé,.8"), max_size=6))
def test_parts_add_up_to_the_whole(parts):
    spaced = [part + ", " for part in parts]
    for unit in ("characters", "words", "tokens", "bytes"):
        limit = Limit(10, unit)
        assert limit.used(spaced) == limit.used(["".join(spaced)])


def test_words():
    assert words("a wet - quay, 85mm …") == 4
    assert Limit(9).record(4) == {"used": 4, "limit": 9, "unit": "characters"}


def test_a_profile_is_what_its_file_says():
    text = """about = "x"
[text]
register = "tags"
separator = " | "
final_stop = false
[negative]
way = "none"
[limits]
text = { most = 75, unit = "tokens", letters = 5, margin = 0.2 }
negative = 250
"""
    read = read_profile(text, "m")
    assert (read.name, read.makes, read.register, read.text.separator, read.negative.way) == (
        "m",
        "",
        "tags",
        " | ",
        "none",
    )
    assert (read.text_limit, read.negative_limit, read.text_limit.room) == (
        Limit(75, "tokens", 5, 0.2),
        Limit(250),
        60,
    )
    bare = read_profile("", "m")
    assert (bare.register, bare.text.final_stop, bare.text_limit) == ("prose", None, None)


MISTAKES = [
    ('[text]\nregister = "proze"', 2, 1, "“register” can't be “proze”", "did you mean “prose”?"),
    ('about = "x"\nmedia = "film"', 2, 1, "“media” can't be “film”", "image, video or both"),
    ("[text]\nfinal_stop = 1", 2, 1, "“final_stop” takes true or false", ""),
    ('[text]\nseparater = ", "', 2, 1, "[text] has no key “separater”", "did you mean “separator”?"),
    ("[limits]\ntxt = 3", 2, 1, "[limits] has no key “txt”", "did you mean “text”?"),
    ("[limits]\ntext = 0", 2, 1, "“text” takes a whole number >= 1", ""),
    ('[limits]\ntext = { most = 9, unit = "token" }', 2, 20, "“unit” can't be “token”", "did you mean “tokens”?"),
    ("[limits]\ntext = { max = 9, most = 9 }", 2, 10, "[limits.text] has no key “max”", "the keys are most"),
    ("about = x", 1, 9, "this can't be read", "TOML"),
    ('name = "y"', 1, 1, "a profile has no key “name”", "name comes from its file"),
    ('[stress]\npattern = "{text}"', 2, 1, "the pattern for stress marks nothing", "{weight}"),
    ('[stress]\nrange = [1, 2]', 1, 2, "[stress] lacks “pattern”", "pattern = …"),
    ('[negative]\nway = "folded"\npattern = "without"', 3, 1, "the pattern “without” has no {negative}", ""),
    ('[parameter.ratio]\nat = "after"', 1, 2, "“ratio” is written after the text, but the profile does not say how", 'write = "/name {value}"'),
    ('[parameter.seed]\ntype = "integer"\nrange = [9, 1]', 3, 1, "the range is upside down", "range = [1, 9]"),
    ('[parameter.a]\nvalues = ["x"]\ndefault = "y"', 3, 1, "default “y” is not one of x", "match"),
    ('[parameter.a]\nexcludes = ["bb"]\n[parameter.b]\n', 2, 1, "no parameter is called “bb”", ""),
    ('[parameter.a]\naliases = ["b"]\n[parameter.b]\n', 2, 1, "“b” is another parameter's name", ""),
    ('[menu.l]\nfacet = "lighting"\nparameter = "lite"\nterms = { x = "y" }\n[parameter.light]\n', 3, 1, "no parameter is called “lite”", "did you mean “light”?"),
    ('[menu.l]\nfacet = "lighting"\nparameter = "p"\nterms = { x = "z" }\n[parameter.p]\nvalues = ["y"]\n', 4, 11, "“z” is not one of y", "sets the parameter p"),
    ('[[refused]]\nwhy = "x"\n[[refused]]\npattern = "("', 1, 3, "[[refused]] needs words or a pattern", ""),
    ('[price]\namount = 1\nper = "second"', 3, 1, "the price is per second, and no parameter is called “seconds”", "declare it"),
    ('[request]\na = "{txt}"', 2, 1, "no field is called {txt}", "did you mean “text”?"),
    ('base = "nobody"', 1, 1, "no model can serve as the base “nobody”", "model"),
    ('[sizes]\n"1:2" = [5, 10]\n[parameter.ratio]\nvalues = ["1:1"]', 2, 1, "“1:2” is not a ratio of this model", "1:1"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "line", "column", "message", "remedy"), MISTAKES, ids=[m[0][:40] for m in MISTAKES]
)
def test_mistakes(text, line, column, message, remedy):
    with pytest.raises(Refused) as refused:
        read_profile(text, "m")
    mistake = refused.value.mistakes[0]
    assert (mistake.line, mistake.column, mistake.source) == (line, column, "m.toml"), (
        mistake.shown()
    )
    assert mistake.message.startswith(message) and remedy in mistake.remedy, mistake.shown()


def test_all_mistakes_at_once():
    with pytest.raises(Refused) as refused:
        read_profile(
            'media = "film"\nfoo = 1\n[limits]\ntext = "long"\n[parameter.a]\ntype = 3\nspelled = 4\n[reference.r]\nmost = 0\n',
            "m",
        )
    assert [m.line for m in refused.value.mistakes] == [1, 2, 4, 6, 7, 9]


BASE = profile(
    "dear",
    text={"opening": "x"},
    parameter={"seed": {"type": "integer"}, "ratio": {"values": ["1:1"]}},
    limits={"text": 9},
)


def test_a_profile_builds_on_another():
    read = read_profile(
        'base = "dear"\nwithout = ["parameter.seed", "limits"]\n[parameter.ratio]\ndefault = "1:1"\n',
        "cheap",
        base={"dear": BASE}.__getitem__,
    )
    assert (read.name, read.base, read.text.opening, list(read.parameter), read.text_limit) == (
        "cheap",
        "dear",
        "x",
        ["ratio"],
        None,
    )
    assert (read.parameter["ratio"].values, read.parameter["ratio"].default) == (["1:1"], "1:1")
    with pytest.raises(Refused, match="dear has no “parameter"):
        read_profile(
            'base = "dear"\nwithout = ["parameter.sede"]\n',
            "cheap",
            base={"dear": BASE}.__getitem__,
        )
    with pytest.raises(Refused, match="can serve as the base “cheap”"):
        read_profile('base = "cheap"\n', "cheap", base={"cheap": BASE}.__getitem__)


def test_the_schema_knows_every_key():
    schema = profile_schema()
    definitions = schema["$defs"]
    assert {"text", "parameter", "request", "base"} <= set(
        definitions["Profile"]["properties"]
    ) and "counters" not in definitions["Profile"]["properties"]
    assert (
        definitions["TextHabits"]["additionalProperties"] is False
        and definitions["TextHabits"]["properties"]["register"]["enum"]
    )


PARAMETERS = profile(
    parameter={
        "ratio": {"values": ["1:1", "2:3", "16:9"], "default": "1:1", "omit_default": True, "write": "/r {value}", "spelled": {"2:3": "tall"}},
        "seed": {"type": "integer", "range": [0, 99], "write": "/s {value}", "aliases": ["start"]},
        "grain": {"type": "number", "range": [0, 1], "step": 0.25, "field": "film_grain", "at": "field"},
        "raw": {"type": "flag", "write": "/raw", "excludes": ["polish"]},
        "polish": {"type": "flag", "at": "field", "default": True},
        "print": {"type": "flag", "requires": ["ratio=2:3"], "write": "/print", "at": "both"},
    },
    parameters={"at": "after"},
)  # fmt: skip


@pytest.mark.parametrize(("wished", "asked", "values", "said"), [
    ({}, {}, {"ratio": "1:1", "polish": True}, []),
    ({"ratio": "2:3"}, {}, {"ratio": "2:3", "polish": True}, []),
    ({"ratio": "3:5"}, {}, {"ratio": "2:3", "polish": True}, ["warning ratio 3:5 is not one of 1:1, 2:3, 16:9 (of m); using 2:3 instead"]),
    ({}, {"ratio": "3:5"}, {"ratio": "1:1", "polish": True}, ["error ratio 3:5 is not one of 1:1, 2:3, 16:9 (of m)"]),
    ({"ratio": "9:9"}, {"ratio": "16:9"}, {"ratio": "16:9", "polish": True}, []),  # what is asked stands over what is wished
    ({}, {"start": "7"}, {"ratio": "1:1", "seed": 7, "polish": True}, []),  # an alias
    ({}, {"seed": "7.5"}, {"ratio": "1:1", "polish": True}, ["error seed 7.5 is not a whole number (of m)"]),
    ({}, {"grain": "0.3"}, {"ratio": "1:1", "polish": True}, ["error grain 0.3 is not a step of 0.25 from 0 (of m)"]),
    ({"grain": 7}, {}, {"ratio": "1:1", "grain": 1, "polish": True}, ["warning grain 7 is outside 0 to 1 (of m); using 1 instead"]),
    ({}, {"raw": "yes"}, {"ratio": "1:1", "raw": True}, []),  # a default gives way to what excludes it
    ({}, {"raw": "yes", "polish": "on"}, {"ratio": "1:1", "raw": True}, ["error raw and polish exclude each other"]),
    ({}, {"print": "true"}, {"ratio": "1:1", "polish": True}, ["error print requires ratio=2:3"]),
    ({}, {"print": "true", "ratio": "2:3"}, {"ratio": "2:3", "polish": True, "print": True}, []),
    ({"loop": True}, {}, {"ratio": "1:1", "polish": True}, ["remark m has no parameter “loop”"]),
    ({}, {"sede": 4}, {"ratio": "1:1", "polish": True}, ["error m has no parameter “sede”"]),
])  # fmt: skip
def test_parameters_are_settled(wished, asked, values, said):
    settled = settle(PARAMETERS, wished, asked)
    assert settled.values == values
    assert [f"{f.kind} {f.message}" for f in settled.findings] == said


def test_a_ratio_by_another_name():
    named = profile(
        parameter={"ratio": {"values": ["tall", "wide"]}},
        sizes={"tall": [800, 1200], "wide": [1600, 900]},
    )
    assert settle(named, {"ratio": "2:3"}, {}) == ({"ratio": "tall"}, [])
    assert settle(named, {}, {"ratio": "16:9"}) == ({"ratio": "wide"}, [])


@pytest.mark.parametrize(("pattern", "values", "text"), [
    ("/r {value}", {"value": "2:3"}, "/r 2:3"),
    ("{who}{, how}: {words}", {"who": "the pilot", "how": "slowly", "words": "x"}, "the pilot, slowly: x"),
    ("{who}{, how}: {words}", {"who": "the pilot", "words": "x"}, "the pilot: x"),
    ("{a}{ (b)}", {"a": 0, "b": ""}, "0"),
    ("{nobody} and {{x}}", {"x": 1}, " and {1}"),
])  # fmt: skip
def test_patterns(pattern, values, text):
    assert written(pattern, values) == text


def test_a_pattern_is_recognised():
    known = Recogniser(
        "/r {value}{ *strength}", {"value": r"\S+?", "strength": r"[\d.]+"}, apart=True
    )
    (hit,) = known.hits("a lamp /r  2:3 *0.5, x/r 3:4")
    assert {name: said for name, (said, *_) in hit.places.items()} == {
        "value": "2:3",
        "strength": "0.5",
    }
    assert [(hit.start, hit.stop) for hit in known.hits("/r 1 /r 2")] == [(0, 4), (5, 9)]
    twice = Recogniser("<{a}>{b}</{a}>", {"a": r"\w+", "b": r"[^<]*"})
    assert [hit.places["b"][0] for hit in twice.hits("<i>one</i> <i>two</b> <b>é</b>")] == [
        "one",
        "é",
    ]


@pytest.mark.parametrize("pattern", [
    "{a}{b}{c}{d}{e}{f}{g} {value}", "{value}{value}{value} {value}", "{a value}{ b value} ! {value}", "x {value}" * 20,
])  # fmt: skip
def test_no_pattern_runs_away(pattern):
    """Twice the text, about twice the time: four times as long may take at most eight times as long."""
    known = Recogniser(pattern, {"value": ".+?"}, apart=True)
    times = []
    for letters in (4_000, 16_000):
        text = "x " + "a b " * (letters // 4)
        began = process_time()
        for _ in range(3):
            list(known.hits(text))
        times.append(process_time() - began)
    assert times[1] < 12 * times[0] + 0.2


@pytest.mark.parametrize("pattern", ["(a)\\1", "(?<=a)b", "((a{500}){500}){500}", "(a"])
def test_a_pattern_that_can_not_be_matched_safely_is_refused(pattern):
    with pytest.raises(Refused, match="can't be matched safely"):
        read_profile(f"[[refused]]\npattern = '{pattern}'\n", "x")


def test_a_pattern_that_hangs_others():
    (rule,) = read_profile("[[refused]]\npattern = '(a+)+$'\n", "x").refused
    assert not refusals([rule], "a" * 40_000 + "b") and refusals([rule], "b" + "a" * 40)


SHAPE = {
    "a": "{text}", "b": "{seed}", "c": "n{seed}-{ratio}", "d": {"e": "{nothing}"}, "f": [], "g when raw": 1, "h when ratio=2:3": "tall",
    "i each style": {"at": "{value}", "by": "{strength}"}, "j": ["{seed}", "{nothing}"], "k": True, "l": "{references.style}",
}  # fmt: skip


def test_a_request_and_what_vanishes():
    values = {
        "text": 'say "x"',
        "seed": 0,
        "ratio": "2:3",
        "references": [{"role": "style", "value": "p.png", "kind": "path", "strength": ""}],
    }
    assert built(SHAPE, values) == {
        "a": 'say "x"', "b": 0, "c": "n0-2:3", "f": [], "h": "tall", "i": [{"at": "p.png"}], "j": [0], "k": True, "l": ["p.png"],
    }  # fmt: skip
    assert built({"a": {"b": "{nothing}"}}, values) == {}


def test_requests_one_after_the_other_are_those_made_alone():
    made = profile(
        request={"a": "{text}", "b": ["{words}!", {"c": 1}], "d": "{seed}"},
        parameter={"seed": {"type": "integer"}},
    )
    one, other = Around(values={"seed": 3}), Around(values={"seed": 4})
    requester = Requester(made)
    for around, text in ((one, "x"), (one, "y {z}"), (other, "x")):
        assert (
            requester.request(around, text, "w")
            == request_of(made, around, text, "w")
            == {"a": text, "b": ["w!", {"c": 1}], "d": around.values["seed"]}
        )


REFERENCES = profile(
    reference={
        "style": {"most": 1, "kinds": ["path"], "strength": {"range": [0, 1], "default": 0.5}},
        "setting": {"kinds": ["address"]},
    }
)


@pytest.mark.parametrize(("words", "kept", "said"), [
    (["style=a.png"], ["style=a.png*0.5"], []),
    (["style=a.png*0.25", "setting=https://x.example/a"], ["style=a.png*0.25", "setting=https://x.example/a"], []),
    (["style=a.png*3"], ["style=a.png*1"], ["warning the strength 3 of style is outside 0 to 1: using 1 instead"]),
    (["style=a.png", "style=b.png"], ["style=a.png*0.5"], ["error m takes 1 for style: b.png is one too many"]),
    (["style=@x"], [], ["error m takes path for style, but @x is a handle"]),
    (["first-frame=a.png"], [], ["warning m takes no reference for first-frame: a.png is left out"]),
    (["setting=https://x*0.5"], ["setting=https://x"], ["remark m has no strength for setting"]),
])  # fmt: skip
def test_references(words, kept, said):
    references, found = taken(REFERENCES, [reference_of(word) for word in words])
    assert [r.typed for r in references] == kept and [
        f"{f.kind} {f.message}" for f in found
    ] == said


@pytest.mark.parametrize("word", ["style", "style=", "=a.png", ""])
def test_a_reference_that_says_too_little(word):
    assert reference_of(word) is None


def test_known_by_name():
    known = read_known(
        '[pilot]\nwords = "a pilot"\npicture = "p.png"\nhandle = { knot = "@p" }\n[dog]\nwords = "a dog"\nhandle = "@moth"\n',
        "known.toml",
    )
    assert (
        known["pilot"].by("handle", "knot") == "@p"
        and known["pilot"].by("handle", "other") == ""
        and known["dog"].by("handle", "x") == "@moth"
    )
    assert known["pilot"].by("path", "x") == "p.png"
    with pytest.raises(Refused) as refused:
        read_known('[a]\nword = "x"\n[b]\nwords = "y"\npictures = 3\n', "known.toml")
    assert [(m.line, m.message) for m in refused.value.mistakes] == [
        (1, "a has no words"),
        (5, "b has no key “pictures”"),
    ]


def test_refused_words():
    rules = [
        Refusing(words="gun dog", instead="retriever"),
        Refusing(pattern=r"\bnud\w*"),
        Refusing(words="blood", instead=""),
    ]
    text = "Gun-dog and gun  dog, nudes, bloodless Blood"
    assert [r.words for r in refusals(rules, text)] == ["Gun-dog", "gun  dog", "nudes", "Blood"]
    assert gentler(rules, text) == "Retriever and retriever, nudes, bloodless "


@pytest.mark.parametrize(("price", "values", "amount"), [
    ({"amount": 2}, {}, 2),
    ({"amount": 2, "per": "picture"}, {"pictures": 3}, 6),
    ({"amount": 2, "per": "second", "factors": [{"parameter": "sound", "value": False, "times": 0.5}]}, {"seconds": 8, "sound": False}, 8),
    ({"amount": 2, "per": "second", "factors": [{"parameter": "sound", "value": False, "times": 0.5}]}, {"seconds": 8, "sound": True}, 16),
    ({"amount": 1, "factors": [{"parameter": "q", "value": "fine", "times": 3, "plus": 1}]}, {"q": "fine"}, 4),
    ({"amount": 100, "per": "thousand-tokens"}, {}, 0.5),
])  # fmt: skip
def test_prices(price, values, amount):
    priced = profile(price=price)
    assert cost(priced, values, "one lamp, two ropes") == amount
    assert cost(profile(), values, "x") is None


def test_a_bill():
    assert (
        bill(profile(price={"amount": 2, "free": 10}), 25, 50.0).shown()
        == "m: 25 prompts, 50 credits, or 3 days of its 10 free a day"
    )
    assert bill(profile(), 1, None).shown() == "m: 1 prompts, no price in its profile"


def test_the_validator_gives_every_fault_with_its_path():
    made, faults = converted(
        {"name": "x", "nmae": 1, "inner": {"size": "big", "more": 1}, "parts": [1, "two", 3]}, Outer
    )
    assert {f.path for f in faults} == {
        ("nmae",),
        ("inner", "size"),
        ("inner", "more"),
        ("parts", 1),
    }
    assert [f.code for f in faults].count(UNKNOWN) == 2 and made == Outer(
        name="x", inner=Inner(), parts=[1, 3]
    )
    assert converted({}, Outer) == (None, [Fault((), MISSING, "name", {})])


class Inner(Structure):
    size: Annotated[int, Bounds(ge=1)] = 1


class Outer(Structure):
    name: str
    inner: Inner = Inner()
    parts: list[int] = []
    by_name: dict[str, Inner | None] = {}


class Wider(Outer, keys="kebab", more=True):
    as_written: tuple[Literal["yes", "no"], ...] = ("no",)
    amount: float | int = 0


@pytest.mark.parametrize(("values", "kind", "made", "wrong"), [
    ({"name": "x", "by_name": {"a": {"size": 3}, "b": None}}, Outer, Outer(name="x", by_name={"a": Inner(size=3), "b": None}), ()),
    ({"name": "x", "inner": {"size": 0}}, Outer, Outer(name="x"), (("inner", "size"),)),
    ({"name": "x", "as-written": ["yes"], "more": 1, "by-name": {}}, Wider, Wider(name="x", as_written=("yes",)), ()),
    ({"name": "x", "as-written": ["yes", "maybe"]}, Wider, Wider(name="x", as_written=("yes",)), (("as-written", 1),)),
])  # fmt: skip
def test_structures_are_made_of_values(values, kind, made, wrong):
    found, faults = converted(values, kind)
    assert found == made and type(found) is kind and tuple(f.path for f in faults) == wrong


def test_a_structure_keeps_its_values():
    one, other = Outer(name="x"), Outer(name="x")
    one.parts.append(1)
    assert (
        other.parts == [] == Outer(name="x").parts
        and one != other
        and changed(one, name="y") == Outer(name="y", parts=[1])
    )
    assert plain(changed(other, by_name={"a": Inner(size=2)})) == {
        "name": "x", "inner": {"size": 1}, "parts": [], "by_name": {"a": {"size": 2}}
    }  # fmt: skip
    assert pickle.loads(pickle.dumps(one)) == one and Outer.FIELDS == (
        "name",
        "inner",
        "parts",
        "by_name",
    )
    for wrong in (lambda: Outer(), lambda: Outer(name="x", nmae="y")):
        with pytest.raises(TypeError, match=r"Outer: (name|nmae)"):
            wrong()
    with pytest.raises(AttributeError, match=r"Outer\.name"):
        one.name = "z"


def test_a_plain_request_keeps_references_by_their_role():
    around = Around(
        references=tuple(
            reference_of(word) for word in ("style=a.png", "character=b.png", "style=c.png")
        )
    )
    sent = request_of(read_profile("", "plain"), around, "a ferry", "a ferry")
    assert sent == {
        "text": "a ferry",
        "references": {"style": ["a.png", "c.png"], "character": ["b.png"]},
    }


KINDS = [
    one
    for one in vars(profile_module).values()
    if isinstance(one, type) and issubclass(one, Structure) and one.FIELDS
]
# TOML tells 1 from 1.0, JSON does not.
IN_TOML = validators.extend(
    Draft202012Validator,
    type_checker=Draft202012Validator.TYPE_CHECKER.redefine(
        "integer", lambda _, value: type(value) is int
    ),
)
NEEDED = {
    "pattern": "a",
    "most": 1,
    "facet": "light",
    "parameter": "p",
    "terms": {},
    "amount": 1.0,
    "address": "x",
    "value": 1,
}
ODD = [
    None, True, 0, 1, 2, 8, 9, 100, 3601, -1, 2**40, 0.0, 0.5, 1.0, 1.5, 9.5, 20.5, -0.5, 1e9, "", "a", "/a", "a/",
    "\n", [], [1], [1, 2], [2, 1], [1.5, 2], [1, 2, 3], ["a"], ["a", 1], [["a"]], ["path"], ["path", "handle"], [{"parameter": "p", "value": 2}],
    [{"words": "a"}], {}, {"a": 1}, {"a": 1.5}, {"a": "b"}, {"a": [1, 2]}, {"a": [0, 2]}, {"a": None}, {"most": 5}, {"most": 5, "unit": "words"},
    {"most": 5, "unit": "x"}, {"method": "GET"}, {"method": "get"}, {"at": "after"}, {"hours": 0}, {"hours": 1}, {"a": {"facet": "b"}}, {"of": 3},
]  # fmt: skip


@pytest.mark.parametrize("kind", [*KINDS, Outer, Wider], ids=lambda kind: kind.__name__)
def test_the_validator_and_the_schema_agree(kind):
    """Every field with every odd value, and with each that its annotation names: what the JSON Schema allows is made, nothing else."""
    schema = IN_TOML(schema_of(kind))
    base = {name: NEEDED.get(name, "x") for name in kind.FIELDS if name not in kind.DEFAULTS}
    fits = 0
    for name in kind.FIELDS:
        for value in [
            *ODD,
            *re.findall(r"'([^']*)'", str(kind.HINTS[name])),
            *map(float, re.findall(r"[gl][te]=([\d.e-]+)", str(kind.HINTS[name]))),
        ]:
            values = base | {name.replace("_", "-") if kind.KEYS else name: value}
            _, faults = converted(deepcopy(values), kind)
            assert (not faults) == schema.is_valid(values), (values, faults)
            fits += not faults
    assert fits >= len(kind.FIELDS)
    for wrong in (
        [],
        {**base, "unheard-of": 1} if not kind.MORE else 1,
        dict(list(base.items())[1:]) if base else "x",
    ):
        assert converted(wrong, kind)[1]


@pytest.mark.parametrize(("name", "remedy"), [
    ("curlew-stil", "did you mean “curlew-still”?"), ("curlew", "did you mean “curlew-still”?"), ("curlw", "did you mean “curlew-still”?"),
    ("motion", "did you mean “knot-motion” or “godwit-motion”?"), ("xyz", "see the list"), ("", "see the list"),
])  # fmt: skip
def test_the_name_that_was_meant(name, remedy):
    assert perhaps(name, ["knot-motion", "godwit-motion", "curlew-still"], "see the list") == remedy
