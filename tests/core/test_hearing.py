"""A wish in a sentence, heard slot by slot."""

import pytest

from syntagma.app.existing.choosing import choices
from syntagma.app.existing.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.formula import read_formula
from syntagma.core.reading.wishes import hear
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
READER = reader_of(WORLD)
FORMULA = read_formula(
    '+++\n[slots]\nsubject = { need = true, take = [1, 2] }\nlight = { facet = "lighting" }\nlook = { facet = "" }\nline = { facet = "" }\n+++\n'
    "shot  [shot-size].\nlead  a photograph of [a look subject]\ndeed  ~[action]\nplace  [setting as place]\nlight  lit by [a light].\n"
    'camera  shot on [a lens]\nmood  [mood]\nspeech  says "[line]"\n',
    "photograph",
)


@pytest.mark.parametrize(("wish", "fills", "rest"), [
    ("a harbour pilot checking a tide board on a wet quay",
     {"subject": "harbour pilot", "action": "checking a tide board", "setting": "wet quay"}, []),
    ("a tired harbour pilot", {"look": "tired", "subject": "harbour pilot"}, []),  # not the mood: it stands before the subject
    ("an old fisherman painting his boat on the slipway", {"look": "old", "subject": "fisherman", "action": "painting his boat", "setting": "on the slipway"}, []),
    ("a woman in a red coat, on a bridge", {"subject": "woman in a red coat", "setting": "on a bridge"}, []),  # no slot for clothes: it stays with her
    ("a bowl of chowder, lit by one candle, shot on a 35mm lens", {"subject": "bowl of chowder", "light": "one candle", "lens": "35mm lens"}, []),
    ('a beekeeper says "Mind the step; it is wet!"', {"subject": "beekeeper", "line": "Mind the step; it is wet!"}, []),
    ("a picture of the harbour pilot", {"subject": "harbour pilot"}, []),
    ("a dog, watercolour", {"subject": "dog"}, ["watercolour"]),  # what it is made in is no photograph
    ("a dog, a slow waltz", {"subject": "dog"}, ["a slow waltz"]),
    ("", {}, []),
])  # fmt: skip
def test_what_a_wish_says(wish, fills, rest):
    heard = hear(wish, FORMULA, WORLD.vocabulary, READER)
    assert heard.fills == fills
    assert [piece.words for piece in heard.rest] == rest
    for piece in heard.pieces:  # each piece knows its words
        assert heard.wish[piece.span.start : piece.span.stop].strip(' "')


def test_a_slot_that_is_filled_takes_nothing_from_a_wish():
    heard = hear("a tea urn on a wet quay", FORMULA, WORLD.vocabulary, READER, ("setting",))
    assert list(heard.fills) == ["subject"] and not heard.rest


def test_what_a_wish_keeps_out():
    assert hear("a tea urn, no people", FORMULA, WORLD.vocabulary, READER).negative == ("no people",)


@pytest.mark.parametrize(("wish", "name"), [
    ("product shot of a ceramic coffee grinder on slate, soft box light from left", "product-still"),
    ("moody portrait of my grandmother baking bread, warm window light", "portrait"),
    ("a poster of a car ferry at dusk, linocut", "poster"),
    ("a landscape with a frozen lake at dawn, long exposure", "landscape"),
    ("a storybook fox mending a kite in a hollow oak, gouache", "storybook"),
])  # fmt: skip
def test_the_formula_that_keeps_most(wish, name):
    found = choices(WORLD, [READER.read(wish)])
    assert found[0].name == name, [(c.name, round(c.score, 2)) for c in found[:4]]
