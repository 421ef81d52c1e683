"""Facets are data: what a facet is like is said in facets.toml, and a person's own facet is used like any other."""

import ast
import re
from collections import Counter

import pytest

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composer
from syntagma.app.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.cli.existing.read import ink
from syntagma.core.diagnostics import Refused
from syntagma.core.reading.formula_rewriting import phrase_of
from syntagma.core.reading.weighing import Weigher
from syntagma.core.vocabulary import facets
from syntagma.core.vocabulary.facets import read_facets
from syntagma.storage.folders import SHIPPED
from tests.source import FILES

OWN = """
[aroma]
home = "sound"
ask = "What does it smell of?"
labels = ["aroma", "smell"]
lead = "smelling of [{}]"
said = "smelling of [{}]"
weight = 0.9
colour = "teal"
groups = ["described"]
"""


@pytest.fixture
def workspace(tmp_path):
    (tmp_path / "syntagma.toml").touch()
    (tmp_path / "facets.toml").write_text(OWN)
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/aroma.csv").write_text(
        "term,number\nburnt coffee,mass\nwet rope,mass\n"
    )
    return Workspace.load(tmp_path)


def test_a_facet_of_ones_own_needs_no_code(workspace):
    reading = reader_of(workspace).read("a harbour pilot\naroma: burnt coffee")
    (piece,) = [one for one in reading.parts() if one.facet == "aroma"]  # by its label
    assert (
        piece.words == "burnt coffee"
        and piece.term
        and piece.term.term == "burnt coffee"
        and ink(piece) == "teal"
    )
    weigher = Weigher(reading, lambda word: 4.6, 10**6, (), {})
    weights = {unit.text.strip(): unit.carries for unit in weigher.units([])}
    assert weights["burnt coffee"] > 0.8
    assert phrase_of("aroma", "aroma", "burnt coffee", True) == (
        "smelling of [aroma]",
        "burnt coffee",
    )
    assert "aroma" in facets.FacetGroup("described") and facets.traits_of("aroma").home == "sound"
    guest = (
        Composer(workspace, Ask("poster", None))
        .compose({"medium": "linocut", "subject": "tea urn", "aroma": "wet rope"})
        .prompt.text
    )
    assert "smelling of wet rope" in guest.lower()


@pytest.mark.parametrize(("line", "said"), [
    ('groups = ["describd"]', "“describd” can't be in groups"), ('colour = "mauve"', "“mauve” can't be in colour"), ("weight = 2", "outside 0 to 1"),
    ('lead = "smelling"', "does not show where"), ('labels = "a"', "takes a list"), ("weight = 'x'", "takes a number"),
])  # fmt: skip
def test_a_wrong_trait_is_told(line, said):
    with pytest.raises(Refused, match=said):
        read_facets(f"[aroma]\n{line}\n", "facets.toml")


def test_a_table_says_only_what_differs(tmp_path):
    (tmp_path / "syntagma.toml").touch()
    (tmp_path / "facets.toml").write_text('[mood]\nnoun = "air"\n')
    Workspace.load(tmp_path)
    mood = facets.traits_of("mood")
    assert (
        mood.noun == "air"
        and mood.weight == 0.34
        and mood.colour == "violet"
        and "atmosphere" in mood.labels
    )


def test_a_group_that_is_none():
    with pytest.raises(KeyError):
        facets.FacetGroup("describd")


def test_the_groups_that_code_asks_for_are_those_that_are_explained():
    asked = {
        name
        for path in FILES
        for name in facets.GROUPS
        if re.search(rf'FacetGroup\(\s*"{name}"', path.read_text("utf-8"))
    }
    given = {name for traits in facets._known.traits.values() for name in traits.groups}
    assert asked == given == facets.GROUPS.keys()


def test_code_names_few_facets():
    """Outside of films, whose columns have the same names, and of what asks for one facet by itself: a facet that is new needs no code."""
    names = {path.stem for path in (SHIPPED / "vocabulary").glob("*.csv")}
    mentions = [
        (path.name, node.value)
        for path in FILES
        if "film" not in path.parts
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.Constant) and node.value in names
    ]
    assert len(mentions) < 290, Counter(name for name, _ in mentions).most_common(
        5
    )  # to go down only
