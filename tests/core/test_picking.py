"""Picking: how well terms suit each other, what a deck gives, what several slots get together, what free text represents."""

from itertools import product
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from syntagma.core.diagnostics import Refused, way
from syntagma.core.formula import read_formula
from syntagma.core.picking.picker import Deck, Picker, Want
from syntagma.core.picking.scene import Scene, stands_for
from syntagma.core.picking.situated import slots_at, take_at
from syntagma.core.picking.themes import Leaning, check_theme, read_theme
from syntagma.core.vocabulary.affinity import NEVER, suits
from syntagma.core.vocabulary.terms import Facet, Term, Vocabulary, clash, content_words, ideas

NIGHT = Term("hour", "night", tags=("night",))
NOON = Term("light", "noon sun", tags=("day",), clashes=("#night",))
LAMP = Term("light", "lamp")
FERRY = Term("subject", "ferry", tags=("sea", "vessel"))


def tagged(*tags):
    return Term("x", " ".join(tags), tags=tags)


@pytest.mark.parametrize(("better", "worse", "beside"), [
    (tagged("sea"), tagged(), tagged("sea")),
    (tagged(), tagged("city"), tagged("sea")),
    (tagged("country"), tagged("city"), tagged("nature")),  # nature is country
    (tagged("night"), tagged("noon"), tagged("night")),
    (tagged(), tagged("noon"), tagged("night")),
    (tagged("outdoors"), tagged("indoors"), tagged("landscape")),
    (tagged("person"), tagged("animal"), tagged("person")),
    (tagged(), tagged("tense"), tagged("calm")),
    (tagged("calm"), tagged("calm", "moving"), tagged("calm", "still")),
    (tagged("print"), tagged("paint"), tagged("print")),
    (tagged("night", "calm"), tagged("calm"), tagged("night", "calm")),
])  # fmt: skip
def test_what_suits_better(better, worse, beside):
    assert suits(better, beside) > suits(worse, beside)
    assert suits(better, beside) == suits(beside, better) and suits(worse, beside) == suits(
        beside, worse
    )


def test_what_contradicts_never_suits():
    assert suits(NOON, NIGHT) == NEVER == suits(NIGHT, NOON)


def scene(*beside):
    """What stands, of no world that anybody wrote."""
    found = Scene(Vocabulary([], lambda name: []))
    for terms in beside:
        found.add(None, terms)
    return found


def deck(terms, draw=1, lean=None, **want):
    return Deck(Want("slot", "x", terms, **want), Random(draw), lean)


def test_a_deck_takes_everything_in_turn_where_nothing_suits_better():
    terms = [Term("x", f"t{i}") for i in range(8)]
    style = deck(terms)
    drawn = [style.draw(scene()).term for _ in range(400)]
    counts = [drawn.count(t.term) for t in terms]
    assert min(counts) > 40 and max(counts) - min(counts) <= 8
    assert len(set(drawn[:8])) >= 5


def test_a_deck_takes_what_suits_most_often_and_favourites_too():
    plain, sea = [Term("x", f"t{i}") for i in range(8)], Term("x", "quay", tags=("sea",))
    star = Term("x", "moor", star=True)
    firsts = [deck([*plain, sea], draw).draw(scene([FERRY])) for draw in range(200)]
    assert 25 < firsts.count(sea) < 90  # twice as often as each of eight others
    firsts = [deck([*plain, star], draw).draw(scene()) for draw in range(200)]
    assert 45 < firsts.count(star) < 130  # four times as often
    leant = [
        deck([*plain, sea], draw, lambda t: 9.0 * (t is sea)).draw(scene()) for draw in range(50)
    ]
    assert leant == [sea] * 50


def test_a_deck_passes_over_what_does_not_go():
    assert {deck([NOON, LAMP], d).draw(scene([NIGHT])).term for d in range(9)} == {"lamp"}
    assert deck([NOON]).draw(scene([NIGHT])) is None
    assert (
        deck([NOON], apart=True).draw(scene([NIGHT])) is NOON
    )  # what is kept out contradicts nothing
    quay, dock = Term("x", "wet quay"), Term("x", "dry dock")
    assert {deck([quay, dock], d).draw(scene(), ideas("two wet quays")).term for d in range(9)} == {
        "dry dock"
    }
    assert (
        deck([quay]).draw(scene(), ideas("quay")) is quay
    )  # needed: a word twice is better than nothing
    assert deck([quay]).draw(scene(), ideas("quay"), need=False) is None
    assert {deck([quay, dock], d).draw(scene(), but=[quay]).term for d in range(9)} == {"dry dock"}
    assert deck([quay]).draw(scene([quay])) is None  # never the same term in two slots
    far = Term("x", "moor", tags=("country", "outdoors"))
    near = Term("y", "hold", tags=("sea", "indoors"))
    assert (
        deck([far]).draw(scene([near]), need=False) is None
        and deck([far]).draw(scene([near])) is far
    )


def test_a_term_that_needs_another_waits_for_it():
    arc = Term("light", "welding arc", needs=("welder", "#craft"))
    assert deck([arc]).draw(scene()) is None and deck([arc]).draw(scene([FERRY])) is None
    assert deck([arc]).draw(scene([FERRY], [Term("subject", "welder")])) is arc
    assert deck([arc]).draw(scene([Term("subject", "potter", tags=("craft",))])) is arc


def test_a_list_weighs_as_much_as_one():
    sea, city = Term("p", "foam", tags=("sea",)), Term("p", "brick", tags=("city",))
    many = [
        [tagged("sea"), Term("x", "rope", tags=("sea",)), Term("x", "oar", tags=("sea",))],
        [tagged("city")],
    ]
    drawn = [deck([sea, city], d).draw(scene(*many)) for d in range(100)]
    assert 25 < drawn.count(sea) < 75


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 9999))
def test_picks_suit_each_other(draw):
    wants = [
        Want("light", "lighting", [NOON, LAMP, Term("light", "moon", clashes=("#day",))]),
        Want("hour", "hour", [NIGHT, Term("hour", "noon", tags=("day",))], need=True),
        Want(
            "props",
            "object",
            [Term("props", w) for w in ("rope", "bell", "urn", "map")],
            take=(2, 3),
        ),
        Want(
            "kept-out", "flaw", [Term("kept-out", "stars", clashes=("#night", "#day"))], apart=True
        ),
    ]
    picker = Picker(wants, Random(draw))
    for _ in range(6):
        picked = picker.pick(scene([Term("y", "wet rope")]), ideas("wet rope"))
        shown = [
            t
            for slot in ("hour", "light", "props")
            for t in (picked[slot].terms if picked[slot] else ())
        ]
        assert not any(clash(a, b) for a, b in product(shown, shown) if a is not b)
        assert 2 <= len(set(picked["props"].terms)) == len(picked["props"].terms) <= 3
        assert "rope" not in picked["props"].given and picked["kept-out"].shown == "stars"


@pytest.mark.parametrize(("text", "words", "said"), [
    ("two wet quays", {"wet", "quay"}, {"wet", "quay"}), ("the sea off a wall", {"sea", "wall"}, {"sea", "wall"}),
    ("f/2.8", set(), set()), ("Low–light", {"low", "light"}, {"low", "light"}), ("sea mist", {"sea", "mist"}, {"sea", "fog"}),
])  # fmt: skip
def test_content_words_and_ideas(text, words, said):
    assert content_words(text) == words and ideas(text) == said


FORMULA = read_formula(
    "+++\n[slots]\nlens = { need = true }\n+++\nlead!  [a medium] of [a mood subject]\nplace  [setting]{, [hour]}\nair?  [weather]\n"
    "camera  shot on [a lens]\n-  [flaw]\n",
    "f",
)


@pytest.mark.parametrize(("detail", "slots"), [
    ("bare", ["medium", "mood", "subject", "lens"]),
    ("usual", ["medium", "mood", "subject", "setting", "lens", "flaw"]),
    ("rich", ["medium", "mood", "subject", "setting", "hour", "weather", "lens", "flaw"]),
])  # fmt: skip
def test_detail(detail, slots):
    assert slots_at(detail, FORMULA) == slots


def test_bare_without_a_mark_takes_the_first_phrase_with_slots():
    assert slots_at("bare", read_formula("a  fixed words\nb  [medium]\nc  [subject]\n", "f")) == [
        "medium"
    ]


@pytest.mark.parametrize(
    ("detail", "take"), [("bare", (1, 1)), ("usual", (1, 3)), ("rich", (3, 3))]
)
def test_how_many_a_slot_takes(detail, take):
    assert take_at(detail, (1, 3)) == take


SUBJECTS = Facet("subject", [
    Term("subject", "double-ended car ferry", tags=("vessel",), aka=("ro-ro ferry",)),
    Term("subject", "wooden pilot launch", tags=("vessel",)), Term("subject", "herring gull", tags=("animal",)),
])  # fmt: skip


@pytest.mark.parametrize(("text", "term", "tags"), [
    ("cream-and-green car ferry", "double-ended car ferry", ("vessel",)),
    ("the old launch in the fog", "wooden pilot launch", ("vessel",)),
    ("gulls", "herring gull", ("animal",)),
    ("a woman of seventy", "woman", ("person", "alone")),
    ("lace maker", "maker", ("person", "alone")),
    ("morning mist", None, None), ("a teapot", None, None),
])  # fmt: skip
def test_what_free_text_stands_for(text, term, tags):
    found = stands_for(text, SUBJECTS)
    assert (found and found.term) == term and (found is None or found.tags == tags)


THEME = """about = "After dark"
[lean]
night = 2
[avoid]
day = 3
[facets.light]
prefer = ["lamp"]
exclude = ["Moon-Light"]
only = "night"
[facets.weather]
leave = true
[facets.palette]
fill = "ink"
"""
MOON, TORCH = (
    Term("light", "moonlight", tags=("night",), aka=()),
    Term("light", "torch", tags=("night", "day")),
)


def test_a_theme():
    leaning = Leaning(
        [
            read_theme(THEME, "dark"),
            read_theme("[lean]\nnight = 1\n[facets.palette]\nfill = 'chalk'\n", "more"),
        ]
    )
    assert [leaning.of(t) for t in (LAMP, TORCH, NIGHT, FERRY)] == [2.0, 0.0, 3.0, 0.0]
    assert [leaning.allows(t) for t in (LAMP, TORCH, NOON, FERRY)] == [
        True,
        True,
        False,
        True,
    ]  # preferred stands outside only
    assert not leaning.allows(Term("light", "moon light", tags=("night",)))
    assert leaning.leaves("weather") and not leaning.leaves("light")
    assert leaning.fill("palette") == "chalk" and leaning.fill("light") == ""


@pytest.mark.parametrize(("text", "line", "message"), [
    ("[lean]\nnight = 12\n", 2, "“12” is not a valid weight"),
    ("[avoid]\nday = 'much'\n", 2, "“much” is not a valid weight"),
    ("abuot = 'x'\n", 1, "a theme has no key “abuot”"),
    ("[facets.light]\nprefer = 'lamp'\n", 2, "“prefer” takes a list in square brackets"),
    ("[facets.light]\nlike = ['lamp']\n", 2, "a theme's facet has no key “like”"),
    ("[facets]\nlight = 'lamp'\n", 2, "what a theme says of “light” is a table"),
    ("[lean\n", 1, "this can't be read"),
])  # fmt: skip
def test_mistakes_in_a_theme(text, line, message):
    with pytest.raises(Refused) as refused:
        read_theme(text, "dark")
    (mistake,) = refused.value.mistakes
    assert mistake.line == line and mistake.message.startswith(message)


def test_remarks_on_a_theme():
    theme = read_theme(
        '[lean]\nnigth = 1\n[facets.light]\nprefer = ["lmap"]\n[facets.sound]\nleave = true\n',
        "dark",
    )
    vocabulary = Vocabulary(["light", "hour"], {"light": [LAMP, NOON], "hour": [NIGHT]}.__getitem__)
    said = [f"{f.message}; {f.remedy}" for f in check_theme(theme, vocabulary)]
    assert said == [
        "no term and no situation is tagged “nigth”; did you mean “night”?",
        "light has no term “lmap”; did you mean “lamp”?",
        f"no facet is called “sound”; {way('facets')}",
    ]
