"""Profiles and how limits are counted."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from syntagma.core.models import Limit, read_profile
from syntagma.core.models.measure import estimated_tokens, words
from syntagma.core.places import Refused


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
    for unit in ("characters", "words", "tokens"):
        limit = Limit(10, unit)
        assert limit.used(spaced) == limit.used(["".join(spaced)])


def test_words():
    assert words("a wet - quay, 85mm …") == 4
    assert Limit(9).record(4) == {"used": 4, "limit": 9, "unit": "characters"}


def test_a_profile():
    profile = read_profile(
        'about = "x"\nmedia = "both"\nregister = "tags"\nseparator = " | "\nfinal_stop = false\nnegative = "none"\n'
        '[limits]\ntext = { most = 75, unit = "tokens", letters = 5 }\nnegative = 250\n', "m",
    )  # fmt: skip
    assert (profile.name, profile.media, profile.register, profile.separator) == ("m", "", "tags", " | ")
    assert (profile.final_stop, profile.negative) == (False, "none")
    assert (profile.text_limit, profile.negative_limit) == (Limit(75, "tokens", 5), Limit(250))
    bare = read_profile("", "m")
    assert (bare.register, bare.final_stop, bare.text_limit) == ("prose", None, None)


MISTAKES = [
    ('register = "proze"', 1, 1, "“proze” is no register of a model", "did you mean “prose”?"),
    ('about = "x"\nmedia = "film"', 2, 1, "“film” is no media of a model", "image or video or both"),
    ("final_stop = 1", 1, 1, "“final_stop” takes true or false", ""),
    ('separater = ", "', 1, 1, "“separater” is nothing that a model profile has", "did you mean “separator”?"),
    ("[limits]\ntxt = 3", 2, 1, "there is no limit for “txt”", "text and negative"),
    ("[limits]\ntext = 0", 2, 1, "the limit for text is no whole number", "most = 900"),
    ('[limits]\ntext = { most = 9, unit = "token" }', 2, 1, "“token” is no unit of a limit", "did you mean “tokens”?"),
    ("[limits]\ntext = { most = 9, letters = 0 }", 2, 1, "“letters” is no whole number", "letters = 6"),
    ("[limits]\ntext = { max = 9, most = 9 }", 2, 1, "“max” is nothing that a limit has", ""),
    ("about = x", 1, 9, "this can't be read", "TOML"),
]


@pytest.mark.parametrize(("text", "line", "column", "message", "remedy"), MISTAKES, ids=[m[0][:40] for m in MISTAKES])
def test_mistakes(text, line, column, message, remedy):
    with pytest.raises(Refused) as refused:
        read_profile(text, "m")
    (mistake,) = refused.value.mistakes
    assert (mistake.line, mistake.column, mistake.source) == (line, column, "m.toml"), mistake.shown()
    assert mistake.message.startswith(message) and remedy in mistake.remedy


def test_all_mistakes_at_once():
    with pytest.raises(Refused) as refused:
        read_profile('media = "film"\nregister = "x"\nfoo = 1\n[limits]\ntext = "long"\n', "m")
    assert len(refused.value.mistakes) == 4
