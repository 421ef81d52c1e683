"""What a machine can hold of the shipped vocabulary: columns, duplicates, tags, clashes, articles, forms in a sentence."""

import csv
import re
from collections import Counter
from pathlib import Path

import pytest

from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.drafting.fills import fill_of_term
from syntagma.core.vocabulary.terms import COLUMNS, NUMBERS, Vocabulary, normal, term_of_row
from syntagma.core.vocabulary.world import BadWorld
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.table_in import read_terms
from syntagma.storage.folders import Layer
from tests.core.samples import PROSE, TAGS, read_formula

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "src/syntagma/data/vocabulary"
FILES = sorted(FOLDER.glob("*.csv"))
ROWS = [
    (path.stem, row)
    for path in FILES
    for row in csv.DictReader(path.read_text("utf-8").splitlines())
]
TERMS = [term_of_row(facet, row) for facet, row in ROWS]
NAMES = {normal(t.term) for t in TERMS}
PAGE = (ROOT / "docs/reference/vocabulary.md").read_text("utf-8").split("## Tags")[1]
KNOWN_TAGS = {
    re.sub(r"\s*\(.*?\)", "", tag).strip()
    for line in PAGE.splitlines()
    if line.startswith("| ") and "---" not in line
    for tag in line.split("|")[2].split(",")
}
LOWER = {word for t in TERMS for word in t.term.split() if word[0].islower()}
NAMES_TOO = "Art Amazon Earth Bedouin Black Cobra Day First French Gothic Great Industrial Jack Krautrock Middle Milky New North Polish Second Silk South Venetian Viking West Wild".split()  # capitals of names whose words are ordinary ones, too
MOVES = (
    "camera-move",
    "action",
    "transition",
    "ambience",
    "sound-effect",
    "music",
    "voice",
    "pose",
    "pacing",
)


def test_the_size_of_it():
    sizes = Counter(t.facet for t in TERMS)
    assert len(sizes) >= 48 and len(TERMS) >= 1450
    assert {f: n for f, n in sizes.items() if n < 15} == {}
    assert sizes["medium"] >= 100 and sizes["lighting"] >= 80 and sizes["camera-move"] >= 50
    assert sizes["shot-size"] >= 30 and sizes["camera-angle"] >= 30
    assert sum(len(t.aka) for t in TERMS) >= 800
    pairs = {
        frozenset((normal(t.term), normal(c)))
        for t in TERMS
        for c in t.clashes
        if not c.startswith("#")
    }
    assert len(pairs) >= 200


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.stem)
def test_file(path):
    text = path.read_text("utf-8")
    columns = text.splitlines()[0].split(",")
    assert (
        columns == [c for c in COLUMNS if c in columns]
        and columns[:11] == list(COLUMNS[:11])
        and "\r" not in text
        and "\ufeff" not in text
    )
    terms, mistakes = read_terms(path.stem, text, path.name, "shipped")
    assert mistakes == []
    told = Counter(normal(name) for t in terms for name in (t.term, *t.aka))
    assert [name for name, n in told.items() if n > 1] == []


def test_no_term_stands_in_two_facets():
    assert [name for name, n in Counter(normal(t.term) for t in TERMS).items() if n > 1] == []


def test_each_term_by_machine():
    wrong = []
    for t in TERMS:
        cells = (
            t.term,
            t.phrase,
            t.place,
            t.clause,
            t.gloss,
            *t.aka,
            *t.tags,
            *t.clashes,
            *t.needs,
        )
        checks = {
            "spaces": any(c != c.strip() or "  " in c for c in cells),
            "article": re.match(r"(a|an|the) ", t.term, re.I)
            or re.match(
                r"(a|an) (?!slight|perfectly)", t.phrase if t.facet != "expression" else ""
            ),
            "stop": any(c.endswith(".") for c in (t.term, t.phrase, t.place, t.clause, t.gloss)),
            "capital": t.term[0].isupper()
            and t.term.split()[0].lower() in LOWER
            and t.term.split()[0] not in NAMES_TOO,
            "number": t.number not in NUMBERS,
            "a cell of another column": any(
                mark in cell for cell in (t.gloss, *t.aka) for mark in ("=", "|")
            ),
            "length": len(t.term) > 50 or not 8 <= len(t.gloss) <= 110,
            "tags": (len(t.tags) < 3 and t.picked != "no")
            or not set(t.tags) <= KNOWN_TAGS
            or len(set(t.tags)) < len(t.tags),
            "clash": any(
                c[1:] not in KNOWN_TAGS if c[0] == "#" else normal(c) not in NAMES
                for c in (*t.clashes, *t.needs)
            ),
            "needs what it clashes with": set(t.clashes) & set(t.needs),
            "itself": normal(t.term) in map(normal, t.clashes)
            or any(c[1:] in t.tags for c in t.clashes if c[0] == "#"),
            "clause": t.facet in MOVES and not t.clause and t.picked != "no",
            "place": t.facet in ("setting", "weather", "hour", "background")
            and not english.starts_with_preposition(t.place)
            and t.place.split()[0] != "backstage",
        }
        wrong += [(t.facet, t.term, what) for what, bad in checks.items() if bad]
    assert wrong == []


WORKSPACE = Workspace(None, layers=[Layer("shipped", ROOT / "src/syntagma/data")])
NAMED = {
    facet: {normal(t.term) for t in TERMS if t.facet == facet} for facet in {t.facet for t in TERMS}
}
HEARD = NAMED["ambience"] | NAMED["sound-effect"]


def places(deed):
    return [normal(place.strip()) for place in deed.partition("@")[2].split(",") if place.strip()]


def test_worlds_and_situations_by_machine():
    wrong = []
    for t in TERMS:
        for world in filter(None, (t.world, t.when and f"hour: {t.when}")):
            try:
                WORKSPACE.vocabulary.dimensions.world(world)
            except BadWorld as bad:
                wrong.append((t.term, str(bad)))
        at = set(map(normal, t.at))
        wrong += [(t.term, name) for name in at - NAMED["setting"]]
        wrong += [
            (t.term, deed)
            for deed in t.does
            if not set(places(deed)) <= at or not deed.split()[0].isalpha()
        ]
        wrong += [
            (t.term, name)
            for name in t.carries
            if normal(name) not in NAMED["object"] | NAMED["food"]
        ]
        wrong += [(t.term, name) for name in t.sounds if normal(name) not in HEARD]
        wrong += [
            (t.term, place, "nothing to do there")
            for place in at
            if t.does and not any(place in (places(d) or at) for d in t.does)
        ]
    assert wrong == []


def test_situations_are_many():
    whole = [t for t in TERMS if len(t.does) >= 5 and len(t.at) >= 3]
    assert len(whole) >= 150 and len({deed for t in whole for deed in t.does}) >= 800
    homes = {normal(place) for t in TERMS for place in t.at}
    assert {
        normal(t.term) for t in TERMS if t.facet == "setting" and t.picked != "no"
    } - homes == set()  # a place where nobody is at home is never picked with anyone
    assert all(
        t.does and t.at for t in TERMS if t.facet in ("subject", "animal") and t.picked != "no"
    )


ADJUNCTS = (
    "action",
    "mood",
    "pose",
    "voice",
    "camera-angle",
)  # not nouns: they take no article and no count
FRAMES = [
    "lead beside [a x] this time",
    "lead [x as place]\nlast flat inks",
    "next [x as clause].\nlast flat inks",
    "lead [a mood x]",
    "lead [count x] together",
]


@pytest.mark.long
def test_every_form_in_a_sentence():
    """Each term in frames of each form: no doubled article, space or comma, the phrase and the forms whole."""
    vocabulary = Vocabulary([], lambda name: [])
    writers = [
        Writer(read_formula(f, "frame"), p, vocabulary) for f in FRAMES for p in (PROSE, TAGS)
    ]
    for term in TERMS:
        for writer in writers:
            fills = writer.fills(
                {k: v for k, v in {"mood": "eerie", "count": "6"}.items() if k in writer.position}
            )
            fills[writer.position["x"]] = fill_of_term(term)
            if "as place" in writer.formula.text and not term.place:
                continue
            if term.facet in ADJUNCTS and writer.formula.text not in FRAMES[1:3]:
                continue
            if term.number == "mass" and "count" in writer.position:
                continue
            text = writer.write(fills).text
            assert not re.search(
                r"\b(a|an|the) (a|an|the)\b|  |,,|\s,|\.\.|\b(in|on|at) (in|on|at)\b", text, re.I
            ), text
            assert not re.search(
                r"\ba [aeio]\w", re.sub(r"\ba (one|eu|uni|oner)\w*", "", text, flags=re.I), re.I
            ), text
