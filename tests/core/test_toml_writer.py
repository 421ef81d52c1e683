"""TOML out comes back as it was, whatever is in it."""

import tomllib

import pytest
import tomlkit
from hypothesis import given
from hypothesis import strategies as st

from syntagma.core.notation.toml import pair, scalar, table, value

TEXT = st.text(st.characters(exclude_categories=("Cs",)), max_size=40)


@pytest.mark.long
@given(
    st.dictionaries(
        TEXT.filter(bool),
        st.one_of(
            TEXT, st.integers(-(2**62), 2**62), st.booleans(), st.floats(-1e9, 1e9), st.lists(TEXT)
        ),
    )
)
def test_what_is_written_is_read_again(said):
    assert tomllib.loads("\n".join(pair(name, one) for name, one in said.items())) == said
    assert tomllib.loads("\n".join(table("of", said))) == ({"of": said} if said else {})


@given(st.one_of(TEXT, st.text("ab\"\\'\n\té\u2028\x7f", max_size=9), st.integers(), st.booleans()))
def test_single_values_are_quoted_as_tomlkit_has_them(said):
    assert (
        tomllib.loads(f"x = {value(said)}")
        == tomllib.loads(f"x = {tomlkit.item(said).as_string()}")
        == {"x": said}
    )


def test_a_table_on_one_line_and_a_long_list():
    assert value({"facet": "", "need": True}) == '{ facet = "", need = true }'
    assert value(["x" * 30] * 4).count("\n") == 5 and value(2.0) == "2.0" and value(1.25) == "1.25"


@pytest.mark.parametrize(
    ("typed", "wanted"),
    [("12", 12), ("-1.5", -1.5), ("true", True), ("2:3", "2:3"), ('a"b', 'a"b'), ("", "")],
)
def test_what_a_person_types(typed, wanted):
    assert scalar(typed) == wanted and type(scalar(typed)) is type(wanted)
