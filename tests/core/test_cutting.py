"""Verbs and clauses; frames of nested and timed text; texts without some parts; forms of learned slots."""

import pytest

from benchmarks.reading import reader
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.english.sentences import verb_at
from syntagma.core.english.verbs import base_of, is_past, third
from syntagma.core.models import Profile
from syntagma.core.models.profile import Stress, TextHabits
from syntagma.core.reading.learned_formula import SlotCandidate, formed, formula_text, slot_names
from syntagma.core.reading.outer_form import lengths, runs, segments
from syntagma.core.reading.outer_form import outside as outside_of
from syntagma.core.reading.shortening import Without, framed
from syntagma.core.reading.weighing import Weigher
from syntagma.core.writing.prompt import Manner
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
READER = reader()


@pytest.mark.parametrize(("verb", "base"), [("peers", "peer"), ("peering", "peer"), ("carries", "carry"), ("waving", "wave"), ("stopping", "stop"), ("kneel", "kneel"), ("quay", "quay"), ("found", "find"), ("came", "come"), ("stopped", "stop"), ("carried", "carry"), ("baked", "bake")])  # fmt: skip
def test_base_forms(verb, base):
    assert base_of(verb) == base


@pytest.mark.parametrize(("word", "past"), [("found", True), ("walked", True), ("shut", False), ("red", False), ("walks", False), ("bread", False)])  # fmt: skip
def test_pasts(word, past):
    assert is_past(word) == past


@pytest.mark.parametrize(("base", "verb"), [("pass", "passes"), ("carry", "carries"), ("play", "plays"), ("go", "goes"), ("watch", "watches"), ("wade", "wades")])  # fmt: skip
def test_third_persons(base, verb):
    assert third(base) == verb


@pytest.mark.parametrize("text", [
    "A tired baker|pulls a tray", "The boy|nods", "Two fencers|bow to each other", "Pickers|carry baskets", "A caravan|crosses a dune", "An old couple|share a bench",
    "Tyres|hiss on wet stone", "The last passenger|looks up", "Fog|rolls over the bank", "A climber|stamps snow off his boots",
    "the brass lamps on a quay", "a brass ring light", "the garden walls", "low drums", "flat bold shapes", "an old rowing boat", "the harbour lights", "a row of paper lanterns",
])  # fmt: skip
def test_where_a_noun_group_ends_before_its_verb(text):
    before, bar, _ = text.partition("|")
    assert verb_at(text.replace("|", " ").lower().split()) == (len(before.split()) if bar else 0)


def test_marks_and_words_between_them_are_one_run():
    text = "MAIN | a *weak*! sun\nPLACE | a quay"
    found = runs(outside_of(text, READER.profiles).regions)
    assert [[r.kind for r in run] for run in found] == [
        ["glue"],
        ["text", "glue", "text", "glue", "text"],
        ["glue"],
        ["text"],
    ]


@pytest.mark.parametrize(("text", "spans", "seconds"), [
    ("0:00-0:03 | A quay.\n0:03-0:08 | A gull.", ["A quay.", "A gull."], [3, 5]), ("[0s-2.5s] A quay. [2.5s-4s] A gull.", ["A quay.", "A gull."], [2.5, 1.5]),
    ("1-4s A quay.\n4-6s A gull.", ["A quay.", "A gull."], [3, 2]), ("1:00-1:30 | A quay.", ["A quay."], [30]), ("A quay.", [], []),
])  # fmt: skip
def test_segments(text, spans, seconds):
    assert [text[a:b] for a, b in segments(text)] == spans and lengths(text) == pytest.approx(
        seconds
    )


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
    bodies = [
        "A glassblower, footsteps pass on wet cobbles",
        "A roofer, a clock ticks",
        "A boxer, a diesel idles under everything",
    ]
    spans = [[(0, b.index(",")) for b in bodies], [(b.index(",") + 2, len(b)) for b in bodies]]
    columns = [
        SlotCandidate(
            facet,
            at,
            [b[x:y] for b, (x, y) in zip(bodies, at, strict=True)],
            article="a",
            own=[facet] * 3,
        )
        for facet, at in zip(("subject", "ambience"), spans, strict=True)
    ]
    fills = [
        {"subject": s, "ambience": a}
        for s, a in (
            ("glassblower", "footsteps on wet cobbles"),
            ("roofer", "ticking clock"),
            ("boxer", "diesel idle"),
        )
    ]
    found = formed(columns, bodies, fills, WORLD.vocabulary)
    assert [(c.form, c.article) for c in found] == [("", "a"), ("clause", "")]
    assert slot_names([*columns, columns[0], columns[0]._replace(facet="")]) == [
        "subject",
        "ambience",
        "subject-2",
        "",
    ]
    assert "ambience  [ambience as clause]" in formula_text(
        found, 3, {}, []
    ) and "subject!  [a subject]" in formula_text(found, 3, {}, [])


@pytest.mark.parametrize(("text", "written"), [("the old ferry", "The *old*! *ferry*!"), ("85mm lens", "An *85mm*! *lens*!"), ("old, red ferry", "An *old*!, *red*! *ferry*!")])  # fmt: skip
def test_weight_on_each_word(text, written):
    profile = Profile(
        name="each",
        text=TextHabits(),
        stress=Stress(
            pattern="*{text}*{marks}", more="!", less="?", per="word", range=[0.5, 2.0], step=0.2
        ),
    )
    formula, _ = WORLD.formula("[a subject]")
    writer = Writer(formula, profile, WORLD.vocabulary, manner=Manner(stress={"subject": 1.2}))
    assert writer.write(writer.fills({"subject": text})).text == written
