"""Terms, facets, clashes, search."""

import pytest

from syntagma.core.checking.prompt_lint import check_terms
from syntagma.core.diagnostics import Refused
from syntagma.core.drafting.fills import BadFills, cleaned, fill_of
from syntagma.core.formula import SlotRule
from syntagma.core.vocabulary.facets import Traits, read_facets
from syntagma.core.vocabulary.terms import (
    BadRow,
    Facet,
    Term,
    Vocabulary,
    brings,
    clash,
    in_order,
    normal,
    search,
    suggestions,
    term_of_row,
    with_below,
)
from tests.core.samples import VOCABULARY


def test_a_row_makes_a_term():
    row = {
        "term": " wet quay ", "number": "", "place": "on a wet quay", "tags": "sea; night ;", "aka": "dock", "clashes": "#dry; noon sun",
        "media": "both", "mine": "7",
    }  # fmt: skip
    term = term_of_row("setting", row, "own")
    assert (term.term, term.number, term.place, term.tags) == (
        "wet quay",
        "one",
        "on a wet quay",
        ("sea", "night"),
    )
    assert (term.aka, term.clashes, term.media, dict(term.extra), term.layer) == (
        ("dock",),
        ("#dry", "noon sun"),
        "",
        {"mine": "7"},
        "own",
    )
    assert term.record() == {
        "facet": "setting", "term": "wet quay", "number": "one", "place": "on a wet quay", "tags": ["sea", "night"], "aka": ["dock"],
        "clashes": ["#dry", "noon sun"], "mine": "7",
    }  # fmt: skip


@pytest.mark.parametrize(("row", "message"), [
    ({"term": " "}, "the term is blank"),
    ({"term": "x", "number": "two"}, "“two” is not a number"),
    ({"term": "x", "media": "film"}, "“film” is not a kind of medium"),
])  # fmt: skip
def test_a_bad_row(row, message):
    with pytest.raises(BadRow, match=message):
        term_of_row("x", row)


def test_a_later_layer_replaces_a_term_where_it_stood():
    facet = Facet(
        "x",
        [
            Term("x", "Low Moon", gloss="1"),
            Term("x", "lamp"),
            Term("x", "low-moon", gloss="2", aka=("moonrise",)),
        ],
    )
    assert [(t.term, t.gloss) for t in facet] == [("low-moon", "2"), ("lamp", "")]
    assert facet.get("LOW  MOON").gloss == "2" and facet.get("moonrise") is None
    assert suggestions(facet, "moon rise") == ["low-moon"] and suggestions(facet, "lmap") == [
        "lamp"
    ]


def test_a_facet_is_read_when_it_is_asked_for():
    asked = []
    vocabulary = Vocabulary(["b", "a"], lambda name: asked.append(name) or [Term(name, "t")])
    assert "a" in vocabulary and not asked
    assert len(vocabulary["a"]) == 1 and vocabulary["a"] and asked == ["a"]
    assert [f.name for f in vocabulary] == ["a", "b"]
    with pytest.raises(KeyError):
        vocabulary["c"]


@pytest.mark.parametrize(("a", "b", "clashes"), [
    (Term("x", "noon", clashes=("#night",)), Term("y", "moon", tags=("night",)), True),
    (Term("y", "moon", tags=("night",)), Term("x", "noon", clashes=("#night",)), True),
    (Term("x", "noon", clashes=("Low-Moon",)), Term("y", "low moon"), True),
    (Term("x", "noon", clashes=("night",)), Term("y", "moon", tags=("night",)), False),
    (Term("x", "noon"), Term("y", "moon"), False),
])  # fmt: skip
def test_clash(a, b, clashes):
    assert clash(a, b) is clashes


def test_normal_form():
    assert (
        normal(" Low–Moon\tbehind  SCUD ")
        == normal("low moon behind scud")
        == "low moon behind scud"
    )


SHELF = [Facet("light", [
    Term("light", "golden hour sunlight", gloss="low and warm", aka=("late afternoon sun",), tags=("warm",)),
    Term("light", "soft window light", gloss="from one side", tags=("soft",)),
    Term("light", "lighthouse beam", gloss="light with a clock in it"),
    Term("light", "hard spotlight", gloss="nothing soft about it"),
])]  # fmt: skip


@pytest.mark.parametrize(("text", "terms"), [
    ("golden hour", ["golden hour sunlight"]),
    ("late afternoon", ["golden hour sunlight"]),
    ("lihgthouse", ["lighthouse beam"]),
    ("warm", ["golden hour sunlight"]),
    ("the of", []),
    ("zzz", []),
])  # fmt: skip
def test_search(text, terms):
    assert [t.term for t in search(SHELF, text)][: len(terms) or None] == terms


def test_search_ranks_names_before_glosses():
    assert [t.term for t in search(SHELF, "soft")] == ["soft window light"]
    assert next(t.term for t in search(SHELF, "light")) == "soft window light"


@pytest.mark.parametrize(("given", "expected"), [
    ("  car ferry,; ", "car ferry"),
    ("line one\r\n  line two", "line one line two"),
    ("a\u2028b\x07c", "a b c"),
    ("two  spaces", "two  spaces"),
    ("…", ""), ("—", ""), ("", ""), ("\u200b", ""),
    ("🌊", "🌊"), ("+1", "+1"),
    ("a \\; b", "a ; b"),
])  # fmt: skip
def test_cleaned(given, expected):
    assert cleaned(given) == expected


def test_what_stands_in_a_slot():
    free, setting = SlotRule("line", ""), SlotRule("setting", "setting")
    many = SlotRule("notes", "", take=(1, 3))
    assert [i.words for i in fill_of(free, "Wait; no", VOCABULARY).items] == ["Wait; no"]
    assert [i.words for i in fill_of(setting, "wet quay; somewhere", VOCABULARY).items] == [
        "wet quay",
        "somewhere",
    ]
    assert [i.words for i in fill_of(many, "a; b", VOCABULARY).items] == ["a", "b"]
    assert [i.words for i in fill_of(setting, ["x; y", ""], VOCABULARY).items] == ["x; y"]
    assert fill_of(setting, "WET-QUAY", VOCABULARY).terms[0].place == "on a wet quay"
    assert fill_of(setting, " ; , ", VOCABULARY) is None
    assert fill_of(SlotRule("n", "n", number=True), " twelve ", VOCABULARY).count == 12
    with pytest.raises(BadFills, match="“dozen” is not a count"):
        fill_of(SlotRule("n", "n", number=True), "dozen", VOCABULARY)


@pytest.mark.parametrize(("bare", "fuller", "whole"), [
    ("plain white", "", "plain white background"), ("plain white", "a plain white wall", "plain white background"), ("plain white", "a white backdrop", "a white backdrop"),
    ("grey Backdrop", "a grey background of paper", "grey Backdrop"), ("backdrops", "", "backdrops background"),
])  # fmt: skip
def test_a_bare_term_is_completed_by_its_noun(bare, fuller, whole):
    assert (
        Traits("background", ("backdrop",)).completed(bare, fuller) == whole
        and Traits().completed(bare, fuller) == bare
    )


@pytest.mark.parametrize(("name", "phrase", "more"), [
    ("trench coat", "belted trench coat", True), ("leading lines", "lines that all run towards the subject", True), ("harbour pilot", "harbour pilot in an oilskin coat", True), ("bowl of soup", "bowl of steaming soup", True), ("side view", "seen from the side", True),
    ("low angle", "seen from a low angle", False), ("pinhole", "pinhole camera", False), ("arms folded", "with folded arms", False), ("soft and wrapping", "soft, wrapping light", False), ("slow and dry", "slowly and drily", False), ("mid-leap", "caught in mid-leap", False),
])  # fmt: skip
def test_what_a_phrase_brings_along(name, phrase, more):
    assert brings(name, phrase) == more


TREE = "term,gloss,world,broader,picked\nfog,Takes the background away,where: outdoors; sky: mist,,no\nthick fog,One plane of subject,air: calm,fog,\nsea fog,Hides the waterline,sky: rain,thick fog,\nwind,Seen in hair,,,\n"


def tree(text=TREE):
    import csv

    return Facet(
        "weather", [term_of_row("weather", row) for row in csv.DictReader(text.splitlines())]
    )


def test_what_names_a_term_means_what_is_below_it_too():
    facet = tree(
        "term,broader,clashes\nfog,,\nthick fog,fog,\nsea fog,thick fog,\nstars,,fog\nlamp,,thick fog\n"
    )
    stars, lamp, sea, fog = map(facet.get, ("stars", "lamp", "sea fog", "fog"))
    assert (
        sea.wider == ("thick fog", "fog") and sea.is_called("Fog") and not fog.is_called("sea fog")
    )
    assert (
        clash(stars, sea) and clash(sea, lamp) and not clash(fog, lamp) and not clash(stars, lamp)
    )


def test_a_case_keeps_all_that_it_says_of_one_dimension():
    facet = tree(
        "term,world,broader\nsnow,where: outdoors; sky: snow,\nfalling snow,where: outdoors; where: not on-water,snow\n"
    )
    assert facet.get("falling snow").world == "sky: snow; where: outdoors; where: not on-water"


def test_a_case_takes_for_granted_what_the_broader_term_does():
    facet = tree()
    assert facet.get("sea fog").world == "where: outdoors; air: calm; sky: rain" and [
        t.term for t in facet.above(facet.get("sea fog"))
    ] == ["thick fog", "fog"]
    assert [t.term for t in facet.below(facet.get("fog"))] == [
        "thick fog",
        "sea fog",
    ] and facet.below(facet.get("wind")) == []
    assert [t.term for t in in_order(facet)] == ["fog", "thick fog", "sea fog", "wind"] and [
        t.term for t in with_below([facet], [facet.get("fog")], "Fog")
    ] == ["fog", "thick fog", "sea fog"]
    assert (
        facet.get("sea fog").record()["broader"] == ["thick fog"]
        and not facet.get("fog").meant_for("poster")
        and facet.get("wind").meant_for("poster")
    )


@pytest.mark.parametrize(("rows", "codes"), [
    ("a,x y,,nothing,", ["no-broader-term"]), ("a,x y,,b,\nb,x z,,a,", ["broader-in-a-ring", "broader-in-a-ring"]), ("a,x y,sky: rain,b,\nb,x z,sky: snow,,", ["world-against-broader"]),
    ("old mill,Mill that is old,,,", ["gloss-says-nothing"]), ("a,x y,sky: rain snow,b,\nb,x z,sky: snow,,", []), ("a,x y,where: outdoors,b,\nb,x z,sky: snow,,", []),
])  # fmt: skip
def test_a_vocabulary_is_checked(rows, codes):
    assert [
        finding.code for _, finding in check_terms(tree("term,gloss,world,broader,picked\n" + rows))
    ] == codes


def test_a_name_of_two_terms_is_told():
    import csv

    facet = Facet(
        "x",
        [
            term_of_row("x", row)
            for row in csv.DictReader("term,aka\nfog,mist\nhaze,mist\n".splitlines())
        ],
    )
    assert [(term, finding.message) for term, finding in check_terms(facet)] == [
        ("haze", "“mist” is also a name of “fog”")
    ]


def test_a_row_says_whether_it_is_picked():
    with pytest.raises(BadRow, match="whether to pick it"):
        term_of_row("x", {"term": "fog", "picked": "sometimes"})


@pytest.mark.parametrize("said", ["with a ghost", "with [a {}] and {}", ""])
def test_how_a_guest_is_led_to_says_where_the_words_go(said):
    with pytest.raises(Refused) as refused:
        read_facets(f'[ghost]\nsaid = "{said}"\n', "facets.toml")
    assert "does not show where the words go" in str(refused.value.mistakes[0].message)
    assert (
        read_facets('[ghost]\nsaid = "haunted by [a {}]"\n', "facets.toml")["ghost"].said
        == "haunted by [a {}]"
    )


def test_beside_what_is_called_so_nothing_is_found_by_a_slip():
    facet = Facet(
        "food",
        [
            Term("food", "salad"),
            Term("food", "salsa"),
            Term("food", "guacamole", aka=("avocado salsa",)),
        ],
    )
    assert [t.term for t in search([facet], "salsa")] == ["salsa", "guacamole"] and search(
        [facet], "salsda"
    )[0].term in ("salsa", "salad")
