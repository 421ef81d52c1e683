"""Worlds: how they are read, what agrees, the smallest sets that disagree; the same for picks, for checks and for families."""

from itertools import combinations, product
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.picks import read_world
from benchmarks.second_marking import shared
from syntagma.core.designs.axes import Agreement, Axis, Clashes
from syntagma.core.diagnostics import Refused
from syntagma.core.drafting.fills import fill_of_term
from syntagma.core.picking.picker import Deck, Picker, Want
from syntagma.core.picking.scene import UNTOLD, Scene, SceneFit
from syntagma.core.vocabulary.facets import Traits
from syntagma.core.vocabulary.terms import Term, Vocabulary
from syntagma.core.vocabulary.world import (
    LEAD,
    OTHER,
    BadWorld,
    Seat,
    State,
    Thing,
    read_deeds,
    read_dimensions,
)

TOML = """
[where.values]
indoors = "a room"
outdoors = "the open"
on-water = "open water"
[where.within]
on-water = "outdoors"
[sky.values]
clear = "a clear sky"
mist = "mist"
rain = "rain"
[hour.values]
dawn = "dawn"
noon = "noon"
dusk = "dusk"
night = "night"
[source]
several = true
[source.values]
sun = "sunlight"
lamp = "lamps"
[being]
scope = "participant"
[being.values]
person = "a person"
animal = "an animal"
[hands]
scope = "participant"
[hands.values]
free = "free hands"
busy = "busy hands"
[extent]
scope = "shot"
[extent.values]
place = "the place in view"
face = "the face in view"
"""
DEEDS = read_deeds('"hands: free" = "waving singing"\n"hands: busy" = ""\n', "deeds.toml")
DIMENSIONS = read_dimensions(TOML, "world.toml", lambda: DEEDS)
HERE = Seat("x", "x")


def world(text):
    return DIMENSIONS.world(text)


@pytest.mark.parametrize(("text", "values"), [
    ("", {}), ("hour: night dusk", {"hour": "dusk night"}), ("hour: not noon; sky: clear", {"hour": "dawn dusk night", "sky": "clear"}),
    ("where: outdoors", {"where": "outdoors on-water"}), ("where: on-water", {"where": "on-water"}), ("where: not outdoors", {"where": "indoors"}),
    ("hour: dawn dusk; hour: dusk night", {"hour": "dusk"}), ("hour!: noon", {"hour": "noon"}),
])  # fmt: skip
def test_a_world_is_read(text, values):
    read = {DIMENSIONS.all[i].name: mask for i, mask in world(text).masks}
    assert read == {
        name: sum(1 << list(d.values).index(v) for v in values[name].split())
        for d in DIMENSIONS.all
        if (name := d.name) in values
    }
    assert world(text).says == (
        {[d.name for d in DIMENSIONS.all].index("hour")} if "!" in text else frozenset()
    )


@pytest.mark.parametrize(("text", "message", "remedy"), [
    ("houer: noon", "“houer” is not a dimension", "did you mean “hour”?"), ("hour: nonn", "hour can't be “nonn”", "did you mean “noon”?"),
    ("noon", "“noon” is not a dimension", ""), ("hour:", "“hour:” leaves hour no value", "write hour: and at least one of"),
    ("hour: dawn; sky: not clear mist rain", "“sky: not clear mist rain” leaves sky no value", ""),
])  # fmt: skip
def test_a_world_that_can_not_be_read(text, message, remedy):
    with pytest.raises(BadWorld, match=message) as bad:
        world(text)
    assert remedy in bad.value.remedy


@pytest.mark.parametrize(("text", "message"), [
    ("hour = 3\n", "“hour” is a table"), ("[hour]\nabout = 'x'\n", "the dimension “hour” has no values"),
    ("[hour]\nscope = 'film'\n[hour.values]\na = 'b'\n", "“film” is not a scope"), ("[h.values]\na = 'b'\n[h.within]\na = 'c'\n", "“c” is not a value of h"),
])  # fmt: skip
def test_mistakes_in_the_dimensions(text, message):
    with pytest.raises(Refused) as refused:
        read_dimensions(text, "world.toml")
    assert [m.message for m in refused.value.mistakes] == [message]


def thing(name, text, seat=HERE):
    return Thing(seat._replace(slot=name), name, world(text))


HERO, FRIEND = Seat("who", "subject", None, LEAD), Seat("friend", "subject", None, OTHER)
START, END = Seat("start", "action"), Seat("end", "action")
FIRST, SECOND = Seat("one", "shot", 1), Seat("two", "shot", 2)


@pytest.mark.parametrize(("things", "why"), [
    ([("fog", "sky: mist"), ("sun", "sky: clear"), ("pen", "")], ["“fog” assumes mist; “sun” assumes a clear sky"]),
    ([("a", "hour: dusk night"), ("b", "hour: night dawn"), ("c", "hour: dawn dusk")],
     ["“a” assumes dusk or night; “b” assumes dawn or night; “c” assumes dawn or dusk"]),
    ([("quay", "where: outdoors"), ("boat", "where: on-water")], []),
    ([("sun", "source: sun"), ("lamp", "source: lamp")], []),  # a picture has several lights
    ([("a", "hour: not noon"), ("b", "hour: noon")], ["“a” assumes anything but noon; “b” assumes noon"]),
    ([("a", "sky: clear; hour: noon"), ("b", "sky: rain; hour: night")], 1),  # one reason for two things, though two dimensions disagree
])  # fmt: skip
def test_what_disagrees_and_why(things, why):
    found = [d.why for d in DIMENSIONS.disagreements([thing(*one) for one in things])]
    assert len(found) == why if isinstance(why, int) else found == why


@pytest.mark.parametrize(("seated", "disagree"), [
    ([(HERO, "being: person"), (START, "being: animal")], True), ([(HERO, "being: person"), (FRIEND, "being: animal")], False),
    ([(START, "hands: busy"), (END, "hands: free")], False),  # two deeds, two moments
    ([(START, "hands: busy"), (Seat("pose", "pose"), "hands: free")], True), ([(FRIEND, "hands: free"), (START, "hands: busy")], False),
    ([(FIRST, "extent: place"), (SECOND, "extent: face")], False), ([(FIRST, "extent: place"), (HERE, "extent: face")], True),
])  # fmt: skip
def test_whose_a_dimension_is(seated, disagree):
    things = [Thing(seat, str(i), world(text)) for i, (seat, text) in enumerate(seated)]
    assert bool(DIMENSIONS.disagreements(things)) == disagree
    for order in (
        things,
        things[::-1],
    ):  # a state that is built up says the same, in whatever order
        state = State(DIMENSIONS)
        allowed = []
        for one in order:
            allowed.append(state.allows(one.seat, one.world))
            state.add(one.seat, one.world)
        assert all(allowed) != disagree


MASKS = st.dictionaries(
    st.sampled_from(["sky", "hour", "where"]),
    st.sets(st.integers(0, 2), min_size=1, max_size=3),
    max_size=3,
)


@settings(max_examples=80, deadline=None)
@given(st.lists(MASKS, min_size=2, max_size=5))
def test_the_smallest_sets_are_smallest(worlds):
    text = [
        "; ".join(
            f"{name}: {' '.join(list(DIMENSIONS.all[['where', 'sky', 'hour'].index(name)].values)[v] for v in values)}"
            for name, values in w.items()
        )
        for w in worlds
    ]
    things = [thing(str(i), one) for i, one in enumerate(text)]

    def agree(some):
        masks = {}
        for one in some:
            for i, mask in one.world.masks:
                masks[i] = masks.get(i, -1) & mask
        return all(masks.values())

    found = DIMENSIONS.disagreements(things)
    assert bool(found) != agree(things)
    for disagreement in found:
        assert not agree(disagreement.things) and all(
            agree(rest) for rest in combinations(disagreement.things, len(disagreement.things) - 1)
        )


@pytest.mark.parametrize(("first", "second", "share"), [
    ("hour: night", "hour: night", 1), ("hour: night dusk", "hour: night", 0.5), ("hour: night", "hour: noon", 0), ("hour: night", "", 1 / 7),
    ("sky: clear", "sky: rain", None),
])  # fmt: skip
def test_how_much_two_markings_share(first, second, share):
    assert shared(read_world(first), read_world(second), "hour") == share


FACETS = {
    "subject": [
        Term("subject", "baker", world="being: person", situation=("bakery", "sliding loaves into the oven @ bakery; waving; yawning", "", "crackle"), when="night dawn"),
        Term("subject", "sailor", world="being: person", situation=("quay", "coiling a rope; waving", "bell", "")),
    ],
    "setting": [Term("setting", "bakery", world="where: indoors"), Term("setting", "quay", world="where: outdoors")],
    "action": [Term("action", "waving", world="hands: free"), Term("action", "reading", tags=("anyone",)), Term("action", "barking", world="being: animal")],
    "lighting": [Term("lighting", "noon sun", world="hour: noon; where: outdoors"), Term("lighting", "lamp", world="hour: night"), Term("lighting", "dawn", world="hour!: dawn")],
    "ambience": [Term("ambience", "crackle"), Term("ambience", "gulls")],
    "object": [Term("object", "bell"), Term("object", "pen")],
    "hour": [Term("hour", "at dawn", world="hour!: dawn"), Term("hour", "autumn")],
}  # fmt: skip
VOCABULARY = Vocabulary(
    FACETS,
    FACETS.__getitem__,
    lambda: {f: Traits(participant=True) for f in ("subject", "object")},
    lambda: DIMENSIONS,
)
SEATS = VOCABULARY.seats(
    (facet, facet, None, "")
    for facet in ("subject", "action", "setting", "lighting", "ambience", "object", "hour")
)


def picked(draw, *facets, given=(), need=("subject",)):
    """What a picker takes for these facets, by facet; `given` are terms that stand."""
    wants = [
        Want(facet, facet, FACETS[facet], need=facet in need, seat=SEATS[facet]) for facet in facets
    ]
    scene = Scene(VOCABULARY)
    for name in given:
        term = next(t for terms in FACETS.values() for t in terms if t.term == name)
        scene.add(SEATS[term.facet], [term])
    return {
        slot: fill.shown if fill else ""
        for slot, fill in Picker(wants, Random(draw)).pick(scene).items()
    }


def test_picks_take_the_situation_first():
    seen = set()
    for draw in range(60):
        found = picked(draw, "subject", "setting", "action", "lighting", "ambience")
        home = {"baker": "bakery", "sailor": "quay"}[found["subject"]]
        if found["setting"] == home:  # else it strays, once in a while
            deeds = {
                "baker": {"sliding loaves into the oven", "waving", "yawning"},
                "sailor": {"coiling a rope", "waving"},
            }
            assert found["action"] in deeds[found["subject"]]
        assert found["lighting"] not in {"baker": {"noon sun"}, "sailor": set()}[found["subject"]]
        assert (
            found["ambience"]
            in ({"baker": {"crackle"}, "sailor": {"crackle", "gulls"}})[found["subject"]]
        )
        seen.add(tuple(found.values()))
    assert len(seen) > 12


@pytest.mark.parametrize(("given_", "facet", "may"), [
    (["quay"], "subject", {"sailor"}), (["bakery"], "subject", {"baker"}), (["barking"], "subject", {""}), (["noon sun"], "subject", {"sailor"}),
    (["sailor"], "object", {"bell"}), (["baker"], "object", {""}), (["baker", "quay"], "action", {"reading"}),  # not at home there: what anybody may do
    (["at dawn"], "lighting", {""}),  # said already, and the others are of other hours
    (["baker"], "setting", {"bakery"}),
])  # fmt: skip
def test_what_may_be_picked_beside(given_, facet, may):
    assert {
        picked(draw, facet, given=given_, need=())[facet] for draw in range(100, 130)
    } <= may | {"bakery", "quay"} & ({"quay"} if facet == "setting" else set())


def test_without_a_place_to_tell_deeds_come_from_one_all_the_same():
    wants = [
        Want(s, f, FACETS[f], need=True, seat=SEATS[f]._replace(slot=s))
        for s, f in (("subject", "subject"), ("start", "action"), ("end", "action"))
    ]
    shown = [
        tuple(fill.shown for fill in Picker(wants, Random(d)).pick(Scene(VOCABULARY)).values())
        for d in range(40)
    ]
    assert any("sliding loaves into the oven" in one for one in shown) and all(
        start != end for _, start, end in shown
    )
    scene = Scene(VOCABULARY)
    scene.settle(FACETS["setting"][0])
    assert (
        scene.has_place
        and scene.fit(SEATS["lighting"], FACETS["lighting"][0]) is SceneFit.IMPOSSIBLE
        and UNTOLD.facet == "setting"
    )


def test_skip_takes_what_comes_after_and_shares_the_rest():
    def wants(skip):
        action = Want(
            "action", "action", FACETS["action"], need=True, seat=SEATS["action"], skip=skip
        )
        return [
            *(
                Want(f, f, FACETS[f], need=True, seat=SEATS[f])
                for f in ("subject", "setting", "lighting")
            ),
            action,
        ]

    for draw in range(20):
        first, last = (Picker(wants(skip), Random(draw)).pick(Scene(VOCABULARY)) for skip in (0, 1))
        assert first["action"].shown != last["action"].shown
        assert all(first[f].shown == last[f].shown for f in ("subject", "setting", "lighting"))


def test_a_guess_leans_and_never_forbids():
    scene = Scene(VOCABULARY)
    scene.add(SEATS["setting"], [FACETS["setting"][0]], guessed=True)
    deck = [
        Deck(
            Want("lighting", "lighting", FACETS["lighting"][:2], seat=SEATS["lighting"]), Random(d)
        )
        for d in range(40)
    ]
    assert {one.draw(scene).term for one in deck} == {"lamp"}
    alone = Deck(
        Want("lighting", "lighting", FACETS["lighting"][:1], seat=SEATS["lighting"]), Random(1)
    )
    assert alone.draw(scene).term == "noon sun"


def test_families_get_the_smallest_sets_of_any_size():
    levels = {
        "a": ["hour: dusk night", "hour: noon"],
        "b": ["hour: night dawn", ""],
        "c": ["hour: dawn dusk", "sky: clear"],
    }
    terms = {
        slot: [Term(slot, f"{slot}{i}", world=w) for i, w in enumerate(worlds)]
        for slot, worlds in levels.items()
    }
    axes = [Axis(slot, i, tuple(map(fill_of_term, terms[slot]))) for i, slot in enumerate(levels)]
    agreement = Agreement(VOCABULARY, {slot: Seat(slot, slot) for slot in levels})
    clashes = Clashes(axes, [], agreement=agreement)
    assert sorted(map(sorted, clashes.nogoods)) == sorted(
        [[(0, 0), (1, 0), (2, 0)], [(0, 1), (1, 0)], [(0, 1), (2, 0)]]
    )
    for row in product(*(axis.levels for axis in axes)):
        things = [
            VOCABULARY.thing(Seat(axis.slot, axis.slot), level.terms[0])
            for axis, level in zip(axes, row, strict=True)
        ]
        assert clashes.has(row) == bool(DIMENSIONS.disagreements(things)) and bool(
            clashes.why(row)
        ) == clashes.has(row)
    fixed = Agreement(
        VOCABULARY, {"a": Seat("a", "a"), "b": Seat("b", "b")}, [thing("winter", "hour: night")]
    )
    assert set(Clashes(axes[:2], [], agreement=fixed).nogoods) == {frozenset({(0, 1)})}
