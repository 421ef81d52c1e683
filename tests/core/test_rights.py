"""Findings about people who are named, and about pictures of people that could pass as evidence."""

import pytest

from syntagma.core.checking.rights import named_people, rights


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("a portrait of Ada Marsh in a garden", ["Ada Marsh"]),
        ("John Smith and Wei Zhang at a table", ["John Smith", "Wei Zhang"]),
        (
            "a statue of Carlos de Oliveira, Anna van der Berg beside it",
            ["Carlos de Oliveira", "Anna van der Berg"],
        ),
        ("Monument Valley at golden hour, Art Deco hotel, Victoria Falls", []),
        ("Elizabeth Tower in rain", []),  # a place, though a name begins it
        ("A Portrait Of A Woman In Red", []),
        ("Maria at the window", []),  # a given name alone could be anybody's
        ("a rose garden, john smith", []),
    ],
)
def test_named_people(text, names):
    assert named_people(text) == names


@pytest.mark.parametrize(
    ("text", "codes"),
    [
        ("security camera footage of a man leaving a shop", ["could-pass-as-evidence"]),
        ("a mugshot of Ada Marsh, she looks tired", ["named-person", "could-pass-as-evidence"]),
        ("security camera footage of a fox", []),
        ("an x-ray of a seashell", []),
        ("a man in a security guard's uniform", []),
    ],
)
def test_what_it_asks_of_rights(text, codes):
    found = rights(text)
    assert [one.code for one in found] == codes and all(one.remedy for one in found)


def test_a_name_that_is_known_is_not_asked_about():
    assert rights("Ada Marsh on a quay", frozenset({"ada marsh"})) == []
