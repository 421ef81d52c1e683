"""The reader's model: the lexicon of senses, features, the search, what is learned from marked prompts, and how sure it is."""

import json
from itertools import pairwise

import pytest

from benchmarks.reading import reader
from syntagma.core.reading.features import (
    CLAUSE,
    DEED,
    NOUN,
    PLACE,
    QUALITY,
    StretchContext,
    WordRow,
)
from syntagma.core.reading.weights import BEGIN, INSIDE, NONE, OUT, PartsModel, Scorer
from syntagma.core.reading.words import Senses
from training.judging import judged, reliability
from training.marked_prompts import HERE, examples, read_marked
from training.train import calibrated, fitted

READER = reader()
KNOWLEDGE = READER.knowledge


@pytest.mark.parametrize(("word", "code"), [
    ("fisherman", "n.person"), ("fishermen", "n.person"), ("harbours", "n.location"), ("violin", "noun.artifact"), ("sparrows", "noun.animal"), ("trotting", "V"),
    ("half-timbered", "a"), ("misty", "a.wet"),
])  # fmt: skip
def test_what_words_name(word, code):
    assert code in KNOWLEDGE.senses.of(word)


def test_what_the_lexicon_has_not():
    assert not KNOWLEDGE.senses.of("qwertz") and not KNOWLEDGE.senses.of("")
    small = Senses(b"# notice\nN\nn.person 0\n\nbaker 1\nking 1\n")
    assert (
        small.of("bakers") == {"N", "n.person"}
        and not small.of("baking")
        and small.known("kings") == "king"
    )


def stretch(text):
    return WordRow(KNOWLEDGE, KNOWLEDGE.words(text, 0, len(text)), StretchContext("prose"))


@pytest.mark.parametrize(("text", "build"), [
    ("a wet quay", NOUN), ("on a wet quay", PLACE), ("mending a net", DEED), ("a storm gathers over the bay", CLAUSE), ("misty", QUALITY), ("quiet and tired", QUALITY), ("85mm", NOUN),
])  # fmt: skip
def test_how_parts_are_built(text, build):
    one = stretch(text)
    assert one.build(0, len(one.words)) == build


def test_weights_are_added_for_all_labels_at_once():
    scorer = Scorer.of(
        ["a", "b", "c"], {"x": [1.0, -2.0, 0.25], "y": [0.5, 3.0, -6.0], "z": [0.0, 0.001, 0.0]}
    )
    packed = scorer.packed(["x", "y", "x", "unknown", "z"])
    assert [scorer.field(packed, at) for at in range(3)] == [50, -20, -110]  # in steps of 1/20
    again = Scorer.from_blob(*scorer.blob())
    assert again.steps(packed) == scorer.steps(packed) and again.packed(["x"]) == scorer.packed(
        ["x"]
    )


def hand(name, most):
    return [
        e
        for prompt in read_marked(HERE / f"{name}.jsonl")[:most]
        for e in examples(prompt, KNOWLEDGE, READER.profiles)
    ]


@pytest.mark.long
def test_what_is_learned_is_read_and_the_same_each_time():
    learned = hand("h-camera", 30)
    model = fitted(learned, [], [], 1.0, 12)
    got = judged(learned, model.read)
    assert got.right > 0.8 * got.parts
    assert fitted(learned, [], [], 1.0, 12).to_bytes() == model.to_bytes()
    kept = PartsModel.from_bytes(model.to_bytes())
    assert [kept.read(e.stretch) for e in learned] == [model.read(e.stretch) for e in learned]
    assert (
        model.parts.labels[0] == NONE
        and model.words.labels[0] == OUT
        and model.words.labels[-3:] == [BEGIN, INSIDE, OUT]
    )


def test_how_sure_is_how_often_it_is_right():
    found = [(x / 1000, x % 10 < x / 100) for x in range(1000)]
    points = calibrated(found)
    assert all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(points))
    assert all(abs(raw - share) < 0.1 for raw, share in points)
    model = PartsModel(READER.model.words, READER.model.parts, points)
    assert (
        model._surely(0.0) == points[0][1]
        and model._surely(1.0) == points[-1][1]
        and 0.4 < model._surely(0.5) < 0.6
    )
    assert reliability([(0.95, True), (0.91, False), (0.15, False), (1.0, True)]) == [
        (0.1, 1, 0.0),
        (0.9, 3, 2 / 3),
    ]


def test_marked_prompts_are_whole():
    facets = (
        set(READER.kin("subject"))
        | {name for name in READER.model.parts.labels}
        | {"parameter", "badge-shape", "flaw"}
    )
    number = 0
    for path in sorted(HERE.glob("*.jsonl")):
        texts = [json.loads(line)["text"] for line in path.read_text("utf-8").splitlines()]
        assert len(texts) == len(set(texts)), path.name
        for prompt in read_marked(
            path
        ):  # parts stand in the text, in its order, and none within another
            assert all(
                a.stop <= b.start for a, b in zip(prompt.marks, prompt.marks[1:], strict=False)
            ), prompt.text
            assert {facet for mark in prompt.marks for facet in mark.facets} <= facets, prompt.text
            number += 1
    assert number > 1_400


def test_a_kind_of_features_is_left_out():
    from training.train import KINDS, Cases

    cases = Cases("labels and quotation marks")
    cases.add(["l=lens", "q", "w=lens", "q=says"], {"lens": 1.0})
    assert cases.rows == [["w=lens"]]
    kinds = [kind for kinds in KINDS.values() for kind in kinds]
    assert len(kinds) == len(set(kinds))
    one = stretch("A fox, lit by a lantern")
    met = {
        feature.split("=")[0]
        for i in range(len(one.words))
        for feature in one.spelled(one.of_word(i))
    }
    met |= {
        feature.split("=")[0] for feature in one.spelled([*one.of_part(0, 2), one.of_inside(1)])
    }
    assert met - set(kinds) <= {
        "b",
        "f",
        "sign",
        "hy",
        "#",
        "#f",
        "comma",
        "leads",
        "2",
        "2c",
        "p,c",
        "v#",
    }
