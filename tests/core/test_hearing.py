"""A wish in a sentence, heard slot by slot."""

import pytest

from syntagma.core.formula import read_formula
from syntagma.core.reading.wishes import hear
from syntagma.core.vocabulary.terms import Term, Vocabulary

TERMS = {
    "subject": [
        Term("subject", "harbour pilot", phrase="harbour pilot in an oilskin coat", aka=("pilot of the port",)),
        Term("subject", "herring gull"), Term("subject", "tea urn"),
    ],
    "action": [Term("action", "checking a tide board")],
    "setting": [Term("setting", "wet quay", place="on a wet quay"), Term("setting", "lee of an island", place="in the lee of an island")],
    "lighting": [Term("lighting", "sodium quay lamps", "many"), Term("lighting", "hard light from behind", aka=("backlight",))],
    "lens": [Term("lens", "85mm lens")],
    "mood": [Term("mood", "exhausted", aka=("tired",))],
    "shot-size": [Term("shot-size", "single", tags=("film",)), Term("shot-size", "medium shot", tags=("film",))],
}  # fmt: skip
VOCABULARY = Vocabulary(TERMS, TERMS.__getitem__)
FORMULA = read_formula(
    '+++\n[slots]\nsubject = { need = true, take = [1, 2] }\nlight = { facet = "lighting" }\nlook = { facet = "" }\nline = { facet = "" }\n+++\n'
    "shot  [shot-size].\nlead  a photograph of [a look subject]\ndeed  ~[action]\nplace  [setting as place]\nlight  lit by [a light].\n"
    'camera  shot on [a lens]\nmood  [mood]\nspeech  says "[line]"\n',
    "photograph",
)


@pytest.mark.parametrize(("wish", "fills", "rest"), [
    ("a harbour pilot checking a tide board on a wet quay",
     {"subject": "harbour pilot", "action": "checking a tide board", "setting": "wet quay"}, ()),
    ("Harbour-pilot, backlight", {"subject": "harbour pilot", "light": "hard light from behind"}, ()),
    ("the pilot of the port in the lee of an island", {"subject": "harbour pilot", "setting": "lee of an island"}, ()),
    ("a tired harbour pilot", {"look": "tired", "subject": "harbour pilot"}, ()),  # not the mood: it stands before the subject
    ("a harbour pilot, tired", {"subject": "harbour pilot", "mood": "exhausted"}, ()),
    ("gulls", {"subject": "gulls"}, ()),  # more than the term names
    ("a herring gull and a tea urn", {"subject": "herring gull; tea urn"}, ()),
    ("I want a picture of an old fisherman painting his boat at dusk on the slipway",
     {"subject": "old fisherman", "action": "painting his boat at dusk", "setting": "on the slipway"}, ()),
    ("please make me a photo of a woman of seventy with freckles", {"subject": "woman of seventy with freckles"}, ()),
    ("a bowl of chowder lit by one candle, shot on a 35mm lens, no spoons",
     {"subject": "bowl of chowder", "light": "one candle", "lens": "35mm lens"}, ("no spoons",)),
    ('a tea urn, "Mind the step; it is wet!"', {"subject": "tea urn", "line": "Mind the step; it is wet!"}, ()),
    ("a single tea urn", {"look": "single", "subject": "tea urn"}, ()),  # no camera is spoken of
    ("a single shot of a tea urn", {"shot-size": "single", "subject": "tea urn"}, ()),
    ("two children waving from the rail of the harbour pilot", {"subject": "two children", "action": "waving from the rail of the harbour pilot"}, ()),
    ("a picture of the harbour pilot", {"subject": "harbour pilot"}, ()),
    ("a dog asleep on a coil of rope", {"subject": "dog", "action": "asleep", "setting": "on a coil of rope"}, ()),
    ("something", {}, ()),
    ("", {}, ()),
])  # fmt: skip
def test_what_a_wish_says(wish, fills, rest):
    heard = hear(wish, FORMULA, VOCABULARY)
    assert heard.fills == fills
    assert heard.rest == rest
    for piece in heard.pieces:  # each piece knows its words
        assert heard.wish[piece.span.start : piece.span.stop].strip(' "')


def test_a_slot_that_is_filled_takes_nothing_from_a_wish():
    assert hear("a tea urn on a wet quay", FORMULA, VOCABULARY, ("setting",)).fills == {"subject": "tea urn"}
