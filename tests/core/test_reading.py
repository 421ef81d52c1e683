"""Reading finished prompts: forms, parameters, negative text, stress, facets; any text comes back byte for byte."""

import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.reading import HERE, facet_of, marked_prompts, reader
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.english.verbs import participle
from syntagma.core.reading.lexicon import Lexicon, key_of
from syntagma.core.reading.outer_form import outside
from syntagma.core.reading.scenes import scenes
from syntagma.storage.folders import SHIPPED, Layer

READER = reader()
VOCABULARY = Workspace(layers=[Layer("shipped", SHIPPED)]).vocabulary
SETS = ("worked", "wider", "held", "unseen")


def parts(text):
    return [
        (p.facet if p.kind == "part" else p.kind, p.text)
        for p in READER.read(text).pieces
        if p.kind != "glue"
    ]


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "least"), [("worked", 0.94), ("wider", 0.91), ("held", 0.94), ("unseen", 0.85)]
)
def test_marked_prompts(name, least):
    """The same figures by a count of its own: a marked piece is right where most of its letters are in pieces of its facet."""
    right = every = outer = outer_right = 0
    for prompt in marked_prompts(HERE / f"{name}.txt"):
        reading = READER.read(prompt.text)
        assert "".join(p.text for p in reading.pieces) == prompt.text
        for start, stop, facets in prompt.marks:
            inside = [p for p in reading.pieces if p.start < stop and p.stop > start]
            good = sum(
                min(stop, p.stop) - max(start, p.start)
                for p in inside
                if (p.facet if p.kind == "part" else p.kind) in facets
            )
            ok = good * 2 > stop - start or facet_of(reading, start, stop) in facets
            beside = bool(facets & {"parameter", "negative"})
            outer, outer_right = outer + beside, outer_right + (beside and ok)
            right, every = right + ok, every + 1
    assert outer_right >= 0.97 * outer
    assert right / every >= least and every > 120


def test_there_are_enough_marked_prompts():
    worked, held = (marked_prompts(HERE / f"{name}.txt") for name in ("worked", "held"))
    assert len(worked) + len(held) >= 120 and len(held) * 3 >= len(worked) + len(held)
    assert len({p.text for p in worked + held}) == len(worked) + len(held)


@pytest.mark.parametrize(("text", "said"), [
    ("A linocut of a heron in a reed bed", [("medium", "A linocut"), ("subject", "a heron"), ("setting", "in a reed bed")]),
    ("Low-angle close-up of a ferry's bow", [("camera-angle", "Low-angle"), ("shot-size", "close-up"), ("subject", "a ferry's bow")]),
    ("A boy in a yellow raincoat runs toward the water", [("subject", "A boy"), ("wardrobe", "in a yellow raincoat"), ("action", "runs toward the water")]),
    ("a tailor, an 85mm lens, shallow depth of field, f/2.8", [("subject", "a tailor"), ("lens", "an 85mm lens"), ("focus", "shallow depth of field"), ("exposure", "f/2.8")]),
    ("a quay at dusk, no people", [("subject", "a quay"), ("hour", "at dusk"), ("negative", "no people")]),
    ("a clerk, gold, black and teal", [("subject", "a clerk"), ("palette", "gold, black and teal")]),
    ('A purser says "Last boat."', [("subject", "A purser"), ("speech", "Last boat.")]),
    ("a man in his thirties, arms folded", [("subject", "a man in his thirties"), ("pose", "arms folded")]),
    ("Ambience: a foghorn. Snow falls steadily.", [("ambience", "a foghorn"), ("weather", "Snow falls steadily")]),
    ("a watchman, feeding pigeons, falling snow", [("subject", "a watchman"), ("action", "feeding pigeons"), ("weather", "falling snow")]),
    ("A fox. Steam rises from the bread", [("subject", "A fox"), ("visual-effect", "Steam rises from the bread")]),
    ("An old couple share a bag of chips", [("subject", "An old couple"), ("action", "share a bag of chips")]),
    ("Pickers carry baskets", [("subject", "Pickers"), ("action", "carry baskets")]),
    ("A fox. The whistle blows at a boy", [("subject", "A fox"), ("sound-effect", "The whistle blows at a boy")]),
    ("A grandmother and a boy knead dough", [("subject", "A grandmother"), ("subject", "a boy"), ("action", "knead dough")]),
    ("A chef. He wears a torn apron.", [("subject", "A chef"), ("wardrobe", "wears a torn apron")]),
    ("A chef. It is raining.", [("subject", "A chef"), ("weather", "It is raining")]),
    ("A chef. The mood is quiet and warm.", [("subject", "A chef"), ("mood", "The mood is quiet and warm")]),
    ('A clerk says softly: "Next."', [("subject", "A clerk"), ("voice", "softly"), ("speech", "Next.")]),
    ("Clay-animation hedgehog selling umbrellas", [("medium", "Clay-animation"), ("subject", "hedgehog"), ("action", "selling umbrellas")]),
    ("Victorian botanist in a glasshouse", [("era", "Victorian"), ("subject", "botanist"), ("setting", "in a glasshouse")]),
    ("Whip pan from a coach to a swimmer", [("camera-move", "Whip pan"), ("subject", "a coach"), ("subject", "a swimmer")]),
    ("Wide shot of a fjord", [("shot-size", "Wide shot"), ("subject", "a fjord")]),
    ("Slow push-in on the lead rider", [("camera-move", "Slow push-in"), ("subject", "the lead rider")]),
    ("Cinematic medium long shot: a rider crosses a plain", [("shot-size", "Cinematic medium long shot"), ("subject", "a rider"), ("action", "crosses a plain")]),
    ("a fox, loose ink washes and a soft palette", [("subject", "a fox"), ("technique", "loose ink washes"), ("palette", "a soft palette")]),
    ("Close-up of a singer as she holds a note", [("shot-size", "Close-up"), ("subject", "a singer"), ("action", "she holds a note")]),
    ("A dragon, icy blue", [("subject", "A dragon"), ("palette", "icy blue")]),
    ("a boat, string of fairy lights, red lantern", [("subject", "a boat"), ("lighting", "string of fairy lights"), ("lighting", "red lantern")]),
    ("hiking boots on a mossy rock, blue sky", [("subject", "hiking boots"), ("setting", "on a mossy rock"), ("weather", "blue sky")]),
    ("a drummer, lino print look, out-of-focus hills", [("subject", "a drummer"), ("medium", "lino print look"), ("background", "out-of-focus hills")]),
    ("a car, mud spraying from its tyres", [("subject", "a car"), ("visual-effect", "mud spraying from its tyres")]),
    ("An usher points at a seat, sitting on a stool", [("subject", "An usher"), ("action", "points at a seat"), ("pose", "sitting on a stool")]),
    ("A weak *winter*? sun over *the bay*!!", [("lighting", "A weak *winter*? sun over *the bay*!!")]),
    ("a kettle of tin, qwertz asdf", [("subject", "a kettle of tin"), ("quality", "qwertz asdf")]),
])  # fmt: skip
def test_parts(text, said):
    assert parts(text) == said


@pytest.mark.parametrize(("text", "form"), [
    ("A linocut of a ferry, in fog.", "prose"), ("linocut, car ferry, fog, low moon", "tags"), ("SUBJECT: a ferry\nLIGHT: low moon", "labelled"),
    ("MAIN | a ferry\nPLACE | a quay\nNOT | people", "labelled"), ('{"subject": "a ferry"}', "nested"), ("[0s-3s] A ferry. [3s-6s] A quay.", "timed"),
    ("0:00-0:04 | A ferry.\n0:04-0:08 | A quay.", "timed"), ("1-4s A ferry.\n4-6s A quay.", "timed"), ("3-5 ferries at sea, fog", "prose"),
    ("", "prose"), ("   \n ", "prose"), ('["a ferry", "a quay"]', "nested"),
])  # fmt: skip
def test_forms(text, form):
    outer = outside(text)
    assert outer.form == form and "".join(text[r.start : r.stop] for r in outer.regions) == text


@pytest.mark.parametrize(("text", "kind", "found"), [
    ("A ferry /shape 2x3 /seed 12", "parameter", [("ratio", "2:3"), ("seed", "12")]), ("A ferry [[wd]]", "parameter", [("ratio", "wide")]),
    ("A ferry ratio=16:9 seconds=8", "parameter", [("ratio", "16:9"), ("seconds", "8")]), ("A ferry --frames 24 --still", "parameter", [("frames", "24"), ("still", "true")]),
    ("a 1/2000 s shutter, and/or a lens", "parameter", []), ('{"a": "x", "seed": 7, "aspect": "4:3"}', "parameter", [("seed", "7"), ("aspect", "4:3")]),
    ("https://a.example/x.png a quay with @moth, like print.png", "reference", [("", "https://a.example/x.png"), ("", "@moth"), ("", "print.png")]),
    ("A quay. Negative prompt: people, text", "negative", [("", "people, text")]), ("A quay. No people, no text.", "negative", [("", "No people"), ("", "no text")]),
    ("MAIN | a quay\nNOT | people / text", "negative", [("", "people / text")]), ('{"subject": "x", "negative_prompt": "text"}', "negative", [("negative_prompt", "text")]),
    ("A quay without people, at noon", "negative", [("", "without people")]),
])  # fmt: skip
def test_what_stands_beside_the_prose(text, kind, found):
    pieces = READER.read(text).of(kind)
    assert [(p.name, p.value if kind != "negative" else p.text) for p in pieces] == found


@pytest.mark.parametrize(("text", "word", "weight"), [
    ("<signal lamp @1.3>, quay", "signal lamp", 1.3), ("*the ferry*!! at sea", "the ferry", 1.4), ("MAIN | ^^a ferry\nPLACE | quay", "a ferry", 1.5),
])  # fmt: skip
def test_stress(text, word, weight):
    piece = next(p for p in READER.read(text).parts() if p.text == word)
    assert piece.stress == pytest.approx(weight)


def test_marks_within_a_part_leave_it_whole():
    piece = READER.read("a quay, a weak *winter*? sun, noon").parts()[1]
    assert (piece.text, piece.words, piece.facet) == (
        "a weak *winter*? sun",
        "a weak winter sun",
        "lighting",
    ) and piece.stress < 1
    first, second = READER.read("<a quay, low moon @1.3>").parts()
    assert first.stress == second.stress == 1.3 and second.text == "low moon" and not second.plain


def test_terms_are_named_or_the_nearest_is():
    by = {
        p.text: p
        for p in READER.read(
            "A mezzotint of a tired harbour pilot, lit by a strip of sodium lamps on a quay"
        ).parts()
    }
    assert by["A mezzotint"].term.term == "mezzotint" and by["A mezzotint"].sure > 0.6
    assert (
        by["a tired harbour pilot"].term is None
        and by["a tired harbour pilot"].near.term == "harbour pilot"
    )
    assert all(p.why for p in by.values())


@pytest.mark.parametrize(
    "text",
    [
        '{"subject": "a ferry", "light": "low',
        '{"a": {"b": ["c"',
        "{]",
        '{"a": }',
        '["x", {"subject": "a ferry"',
    ],
)
def test_broken_json_is_read_as_far_as_it_goes(text):
    reading = READER.read(text)
    assert reading.broken and "".join(p.text for p in reading.pieces) == text
    assert "ferry" not in text or any(
        p.facet == "subject" and "ferry" in p.text for p in reading.parts()
    )


PIECES = st.sampled_from(["A linocut", " of ", "a ferry", ", ", ". ", "lit by ", "low moon", "\n", "{", '"', ":", "<", " @1.2>", "*", "!!", "/shape 2x3", "no people", "0:00-0:04 | ", "MAIN | ", "=", "é", "\x1b[31m", "\0", "“", "”", "85mm", "https://", "--"])  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(st.one_of(st.lists(PIECES, max_size=24).map("".join), st.text(max_size=120)))
def test_any_text_comes_back(text):
    reading = READER.read(text)
    assert "".join(p.text for p in reading.pieces) == text
    assert all(p.start == q.stop for q, p in zip(reading.pieces, reading.pieces[1:], strict=False))


LONG = ["a", " ", "(", '"', '{"a":', "and ", "a print of ", "lit by ", "a. ", "http://", "a=", "a: ", "<a @1.2", "*a", "a, ", "the camera ", "in a ", "1:", "| ", "--a ", "0:00-", "Never: ", "no ", "/"]  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("unit", LONG)
def test_no_text_makes_a_pattern_run_away(unit):
    """Four times the text takes about four times the time: a pattern that runs away would take sixteen times as long or more."""

    def took(size):
        text = (unit * size)[:size]
        start = time.process_time()
        assert "".join(p.text for p in READER.read(text).pieces) == text
        return time.process_time() - start

    tries = (
        9 * took(5_000) + 0.1 - took(20_000) for _ in range(3)
    )  # again where something else took the time
    assert any(room > 0 for room in tries)


def test_keys():
    assert key_of("The 85mm Lenses") == ("85mm", "lens") or key_of("The 85mm Lenses")[0] == "85mm"
    lexicon = READER.lexicon
    assert (
        isinstance(lexicon, Lexicon) and lexicon.exact("on a wet quay")[0].term.term == "wet quay"
    )
    assert lexicon.near("lighting", "old sodium lamps by the quay").term.facet == "lighting"


@pytest.mark.parametrize(("verb", "doing"), [("trots", "trotting"), ("waves", "waving"), ("lies", "lying"), ("carries", "carrying"), ("watches", "watching"), ("wave", "waving"), ("sees", "seeing"), ("counts", "counting"), ("runs", "running"), ("paints", "painting")])  # fmt: skip
def test_participles(verb, doing):
    assert participle(verb) == doing


STORY = "The night purser counts tickets under a bare bulb. Rain drums on the roof. Two children wave from the rail. A fox trots along the quay. It stops."


def test_they_are_more_than_one_and_no_short_sentence_is_lost():
    told = "A fox sleeps in a wood. Rain falls on it.\n{} to a gate. A cat waits.\nThey run off together."
    assert [s.text for s in scenes(told.format("Two boys come"), READER)][1:] == [
        "Two boys come to a gate. A cat waits.",
        "Two boys run off together.",
    ]
    assert [s.text for s in scenes(told.format("A dog comes"), READER)][1:] == [
        "A dog comes to a gate. A cat waits.",
        "A dog and a cat run off together.",
    ]


@pytest.mark.parametrize("label", ["Scene {}:", "shot {} -", "{}.", "Panel {}."])
def test_scenes_that_are_labelled(label):
    told = [
        "An old sailor finds a letter in a bottle.",
        "He reads it on the quay at dusk.",
        "He rows out to sea.",
    ]
    found = scenes("\n".join(f"{label.format(n)} {text}" for n, text in enumerate(told, 1)), READER)
    assert [scene.sentences for scene in found] == [(text,) for text in told] and "sailor" in found[
        2
    ].text


def test_scenes():
    found = scenes(STORY, READER)
    assert [s.sentences[0] for s in found] == [
        STORY.split(". ")[0] + ".",
        "Two children wave from the rail.",
        "A fox trots along the quay.",
    ]
    assert (
        found[2].sentences[1:] == ("It stops.",)
        and found[2].wished[0] == "A fox trots along the quay."
    )
    page = "# Bakery\n\nWe bake for you.\n\n- A dark rye loaf on a board\n- Almond croissants in a bag\n\nOpen from seven."
    assert [s.text for s in scenes(page, READER)] == [
        "A dark rye loaf on a board",
        "Almond croissants in a bag",
    ]
    assert [s.text for s in scenes("a harbour pilot", READER)] == ["a harbour pilot"]
    house = "An old keeper polishes the lamp. He hums. Below, a cat sleeps on the stairs. In the kitchen his daughter lights a stove."
    assert [len(s.sentences) for s in scenes(house, READER)] == [2, 1, 1]


def test_the_marks_are_facets():
    marked = {
        f
        for name in SETS
        for p in marked_prompts(HERE / f"{name}.txt")
        for _, _, marks in p.marks
        for f in marks
    }
    assert marked - set(VOCABULARY.names) == {"quality", "negative", "parameter", "speech"}


def test_a_facet_that_the_model_never_met():
    """The names of the vocabulary are read whole, also of facets that no prompt was marked with."""
    piece = next(
        p
        for p in READER.read("Badge, fox looking back, flat colour").parts()
        if p.facet == "symbol"
    )
    assert (
        "fox looking back" in piece.text
        and piece.why == "in the vocabulary"
        and "symbol" not in READER.model.parts.labels
    )
