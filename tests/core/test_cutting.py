"""Prose cut into parts: verbs behind nouns, deeds, kinds of picture, sounds; frames of nested and timed text; forms of learned slots."""

import re
from itertools import pairwise

import pytest

from benchmarks.reading import reader
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.english.noun_groups import head_end
from syntagma.core.models import Profile
from syntagma.core.models.profile import Stress, TextHabits
from syntagma.core.reading.formulas.learned_formula import Column, formula_text, slot_names
from syntagma.core.reading.formulas.slot_forms import formed
from syntagma.core.reading.outer_form import lengths, runs, segments
from syntagma.core.reading.outer_form import outside as outside_of
from syntagma.core.reading.prose.cutting import parts
from syntagma.core.reading.prose.deeds import deed_first, verb_at
from syntagma.core.reading.prose.heard_clauses import heard
from syntagma.core.reading.prose.verb_lists import base_of, third
from syntagma.core.reading.shortening.frames import framed
from syntagma.core.reading.shortening.leaving_out import Without
from syntagma.core.reading.shortening.weighing import Weigher
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
READER = reader()


@pytest.mark.parametrize(("verb", "base"), [("peers", "peer"), ("peering", "peer"), ("carries", "carry"), ("waving", "wave"), ("stopping", "stop"), ("kneel", "kneel"), ("quay", "quay")])  # fmt: skip
def test_base_forms(verb, base):
    assert base_of(verb) == base


@pytest.mark.parametrize(("base", "verb"), [("pass", "passes"), ("carry", "carries"), ("play", "plays"), ("go", "goes"), ("watch", "watches"), ("wade", "wades")])  # fmt: skip
def test_third_persons(base, verb):
    assert third(base) == verb


@pytest.mark.parametrize("text", [
    "A tired baker|pulls a tray", "The boy|nods", "Two fencers|bow to each other", "Pickers|carry baskets", "A caravan|crosses a dune", "An old couple|share a bench",
    "Tyres|hiss on wet stone", "The last passenger|looks up", "Fog|rolls over the bank", "A climber|stamps snow off his boots",
    "the brass lamps on a quay", "a brass ring light", "the garden walls", "low drums", "flat bold shapes", "an old rowing boat", "the harbour lights", "a row of paper lanterns",
])  # fmt: skip
def test_where_a_noun_group_ends_before_its_verb(text):
    whole = text.replace("|", " ")
    words = list(re.finditer(r"\S+", whole))
    end = verb_at(words, [m.group().lower() for m in words], head_end(whole))
    assert end == (text.index("|") if "|" in text else 0)


@pytest.mark.parametrize(("text", "deed"), [("drawing a sword", True), ("wipes her forehead", True), ("falling snow", False), ("leading lines", False), ("drawing", False), ("lights on a wall", False), ("climbs up", True), ("mid-leap", True), ("asleep on a rope", True)])  # fmt: skip
def test_deeds_that_begin_a_stretch(text, deed):
    assert deed_first(text.split()) == deed


@pytest.mark.parametrize(("text", "facet"), [
    ("tyres hiss on wet stone", "sound-effect"), ("ticking grows louder", "sound-effect"), ("a foghorn drones in the distance", "ambience"), ("murmuring drinkers", "ambience"),
    ("espresso machines hiss and talk fills the room", "ambience"), ("a ring light", ""), ("the driver hums to himself", ""), ("a ferry at anchor", ""), ("leaves rustling", "sound-effect"),
])  # fmt: skip
def test_what_is_heard(text, facet):
    found = heard(text)
    assert (found.facet if found else "") == facet


@pytest.mark.parametrize(("text", "roles"), [
    ("a linocut of a heron standing in reeds under a low moon", ["kind", "noun", "deed", "behind", "behind"]), ("slow dolly through a hall towards a cracked fountain", ["kind", "behind", "noun"]),
    ("in the kitchen his daughter lights a stove at dawn", ["behind", "noun", "deed", "behind"]), ("a clerk with a closed-lip smile counting coins", ["noun", "behind", "deed"]),
    ("shot on a 50mm lens at f/2", ["noun", "behind"]), ("a library on mechanical legs", ["noun"]), ("an usher points her torch at a seat", ["noun", "deed"]), ("a clerk waits at a ticket window", ["noun", "deed", "behind"]),
])  # fmt: skip
def test_parts_and_their_roles(text, roles):
    found = parts(text, 0, len(text), READER.sorter)
    assert [part.role for part in found] == roles, [text[p.start : p.stop] for p in found]
    assert all(a.stop <= b.start for a, b in pairwise(found))


def test_marks_and_words_between_them_are_one_run():
    text = "MAIN | a *weak*! sun\nPLACE | a quay"
    found = runs(outside_of(text, READER.profiles).regions)
    assert [[r.kind for r in run] for run in found] == [["glue"], ["text", "glue", "text", "glue", "text"], ["glue"], ["text"]]


@pytest.mark.parametrize(("text", "spans", "seconds"), [
    ("0:00-0:03 | A quay.\n0:03-0:08 | A gull.", ["A quay.", "A gull."], [3, 5]), ("[0s-2.5s] A quay. [2.5s-4s] A gull.", ["A quay.", "A gull."], [2.5, 1.5]),
    ("1-4s A quay.\n4-6s A gull.", ["A quay.", "A gull."], [3, 2]), ("1:00-1:30 | A quay.", ["A quay."], [30]), ("A quay.", [], []),
])  # fmt: skip
def test_segments(text, spans, seconds):
    assert [text[a:b] for a, b in segments(text)] == spans and lengths(text) == pytest.approx(seconds)


def test_frames_write_their_fields_again():
    text = '{"a": "fox", "b": {"c": "low moon"}, "d": ["noon", "8k"], "seed": 3}'
    frame = framed(READER.read(text))
    assert [field.reading.text for field in frame.fields] == ["fox", "low moon", "noon", "8k"]
    assert frame.written(["fox", "low moon", "noon", "8k"]) == text
    assert frame.written(["fox", "", "noon", ""]) == '{"a": "fox", "d": ["noon"], "seed": 3}'
    assert frame.written(["", "", "", "8k"]) == '{"d": ["8k"], "seed": 3}'
    assert framed(READER.read("A fox, low moon")).fields[0].start == 0


@pytest.mark.parametrize(("text", "gone", "left"), [
    ('A purser says "Last boat." Low moon.', ["Last boat."], "A purser. Low moon."), ('A purser says "Last boat." Low moon.', ["Low moon"], 'A purser says "Last boat."'),
    ("(glass vase), a quay, 8k", ["a quay", "8k"], "(glass vase)"), ("<fox @1.3>, <stillness @1.2>, a quay", ["fox"], "<stillness @1.2>, a quay"), ("a fox, <stillness @1.2>, a quay", ["a fox", "a quay"], "<stillness @1.2>"),
])  # fmt: skip
def test_a_text_without_some_parts(text, gone, left):
    reading = READER.read(text)
    units = Weigher(reading, lambda word: 4.0, 0, [], {}).units([])
    assert Without(reading).written([u for u in units if u.text in gone]) == left


def test_a_slot_takes_the_form_that_gives_most_back():
    bodies = ["A glassblower, footsteps pass on wet cobbles", "A roofer, a clock ticks", "A boxer, a diesel idles under everything"]
    spans = [[(0, b.index(",")) for b in bodies], [(b.index(",") + 2, len(b)) for b in bodies]]
    columns = [
        Column(facet, at, [b[x:y] for b, (x, y) in zip(bodies, at, strict=True)], article="a", own=[facet] * 3)
        for facet, at in zip(("subject", "ambience"), spans, strict=True)
    ]
    fills = [
        {"subject": s, "ambience": a}
        for s, a in (("glassblower", "footsteps on wet cobbles"), ("roofer", "ticking clock"), ("boxer", "diesel idle"))
    ]
    found = formed(columns, bodies, fills, WORLD.vocabulary)
    assert [(c.form, c.article) for c in found] == [("short", "a"), ("clause", "")]
    assert slot_names([*columns, columns[0], columns[0]._replace(facet="")]) == ["subject", "ambience", "subject-2", ""]
    assert "ambience  [ambience as clause]" in formula_text(found, 3, {}, []) and "subject!  [a subject as short]" in formula_text(
        found, 3, {}, []
    )


@pytest.mark.parametrize(("text", "written"), [("the old ferry", "The *old*! *ferry*!"), ("85mm lens", "An *85mm*! *lens*!"), ("old, red ferry", "An *old*!, *red*! *ferry*!")])  # fmt: skip
def test_weight_on_each_word(text, written):
    profile = Profile(
        name="each",
        text=TextHabits(),
        stress=Stress(pattern="*{text}*{marks}", more="!", less="?", per="word", range=[0.5, 2.0], step=0.2),
    )
    formula, _ = WORLD.formula("[a subject]")
    writer = Writer(formula, profile, WORLD.vocabulary, manner=Manner(stress={"subject": 1.2}))
    assert writer.write(writer.fills({"subject": text})).text == written
