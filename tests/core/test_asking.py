"""Instructions as people give them: every manner, every formula, read for what no person would write; slips of typing; nothing that the prompt does not hold."""

import re
from pathlib import Path
from random import Random

import pytest

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.asking import HOW_MUCH, Asker, read_asking, slipped
from syntagma.core.drafting.fills import fill_of
from syntagma.core.models import PLAIN
from syntagma.core.writing.prompt_writer import Writer

WORKSPACE = Workspace.load()
ASKING = read_asking((Path(__file__).parents[2] / "src/syntagma/data/asking.toml").read_text())
LINES = {"line": "Mind the step, it is wet.", "answer": "Then we wait."}


def example(name: str):
    """A formula's asker, and the fills of its example."""
    formula = WORKSPACE.formula(name)[0]
    writer = Writer(formula, PLAIN, WORKSPACE.vocabulary)
    given = {
        **formula.head.example,
        **{slot: words for slot, words in LINES.items() if slot in writer.position},
    }
    fills = {
        rule.name: fill
        for rule in writer.rules
        if rule.name in given and (fill := fill_of(rule, given[rule.name], WORKSPACE.vocabulary))
    }
    return Asker(ASKING, name, writer.rules, WORKSPACE.vocabulary.traits), fills


@pytest.mark.parametrize("name", list(WORKSPACE.formulas()))
def test_every_manner_reads_as_a_person_would_write(name):
    asker, fills = example(name)
    assert name in ASKING.formulas and len(ASKING.formulas[name]) >= 1
    seen = set()
    for number, way in enumerate(list(ASKING.ways) * 6):
        asked = asker.instruction(fills, way, HOW_MUCH[number % 4], Random(number))
        text = asked.text
        seen.add(text)
        assert (
            "{" not in text
            and "  " not in text
            and " ," not in text
            and not re.search(r"[.!?][.,]|,,|, *[.?!]", re.sub(r"\.\.\.", "", text))
        ), text
        assert (
            not re.search(
                r"\b(?:a|an) (?:a|an|the|some|my)\b|\ba [aeio]\w*|\bof of\b|\bwith with\b|\bin in\b",
                text,
                re.I,
            )
            or "a unit" in text
            or "one" in text
        ), text
        assert asked.slots[0] == asker.main(fills) and set(asked.slots) <= set(fills)
        assert text == text.strip() and len(text) > 3
    assert len(seen) > 40


@pytest.mark.parametrize(
    ("much", "least", "most"), [("none", 0, 0), ("one", 1, 1), ("some", 2, 3), ("all", 5, 8)]
)
def test_how_much_is_said(much, least, most):
    asker, fills = example("poster")
    for number in range(20):
        asked = asker.instruction(fills, "plain", much, Random(number))
        assert least <= len(asked.slots) - 1 <= most, asked


@pytest.mark.parametrize(
    ("formula", "main"),
    [("poster", "subject"), ("storybook", "hero"), ("landscape", "place"), ("interior", "room"), ("food-still", "dish"), ("emblem", "motif"), ("time-lapse", "setting"), ("three-shots", "hero"), ("cut-outs", "things"), ("creature", "beast")],
)  # fmt: skip
def test_the_main_thing_of_a_formula(formula, main):
    asker, fills = example(formula)
    assert asker.main(fills) == main


def test_what_somebody_does_follows_them():
    asker, fills = example("poster")
    texts = [asker.instruction(fills, "plain", "all", Random(n)).text.lower() for n in range(30)]
    assert all(
        re.search(r"ferry easing off|ferry, easing|ferry eas|easing", text)
        for text in texts
        if "easing" in text
    )
    assert sum("ferry easing off its berth" in text for text in texts) > 20


def test_what_is_said_aloud_is_said_word_for_word():
    asker, fills = example("dialogue-shot")
    for number in range(12):
        text = asker.instruction(fills, "need", "all", Random(number)).text
        assert '"Mind the step, it is wet."' in text and '"Then we wait."' in text, text


@pytest.mark.parametrize("seed", range(8))
def test_a_slip_is_one_slip(seed):
    text = 'a poster of a lighthouse keeper saying "Mind the ladder there"'
    slip = slipped(text, Random(seed))
    assert slip != text or "lighthouse" in slip
    assert slip.endswith('saying "Mind the ladder there"') or abs(len(slip) - len(text)) <= 1
    words = [(a, b) for a, b in zip(text.split(), slip.split(), strict=True) if a != b]
    assert len(words) <= 1 and all(
        sorted(set(a)) >= sorted(set(b)) or len(b) in (len(a), len(a) + 1, len(a) - 1)
        for a, b in words
    )
    assert slipped("a cat", Random(seed)) == "a cat"  # no word is long enough


def test_the_same_dice_ask_the_same():
    asker, fills = example("photograph")
    assert asker.instruction(fills, "casual", "some", Random(4)) == asker.instruction(
        fills, "casual", "some", Random(4)
    )


def test_every_facet_that_a_formula_shows_can_be_said():
    slots = {
        (name, rule.name, rule.facet)
        for name in WORKSPACE.formulas()
        for rule in WORKSPACE.formula(name)[0].slots
        if rule.facet
    }
    unsaid = {
        facet
        for name, slot, facet in slots
        if facet not in ASKING.facets and slot not in ASKING.slots.get(name, {})
    }
    assert unsaid <= {"visual-idea", "close-detail", "flaw"}  # main things, and what is kept out
