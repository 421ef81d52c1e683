"""A business and what serves it: reasons out of its owner's words alone, what is missing told, urgency, ids that stay."""

import re
from pathlib import Path

import pytest

from syntagma.core.campaign import planned, read_business, read_kinds
from syntagma.core.diagnostics import Refused
from syntagma.core.english import countability

DATA = Path(__file__).parents[2] / "src/syntagma/data"
KINDS = read_kinds((DATA / "campaign.toml").read_text())
PLACE = '[[place]]\nname = "the wall"\nkind = "poster"\nseen = "by those who wait"\n'
KIND = """[kind.test]
per = {per}
needs = {needs}
at = ["poster"]
formula = {{ default = "poster", food = "food-still" }}
fills = {{ main = {main}, deed = "{{offer.doing}}" }}
priority = 50
why = {why}
vary = ["light"]
"""


def plan(
    business: str,
    per='["offer"]',
    needs="[]",
    main='"{offer.what}"',
    why='["{offer.name}."]',
    kinds: str = "",
):
    kinds = kinds or KIND.format(per=per, needs=needs, main=main, why=why)
    return planned(read_business('name = "x"\n' + business, "x"), read_kinds(kinds))


def offer(name="loaves", **more) -> str:
    lines = {"what": "a loaf", **more}
    return f'[[offer]]\nname = "{name}"\n' + "".join(
        f"{key} = {value if isinstance(value, bool | list) else repr(value)}\n".replace(
            "True", "true"
        ).replace("'", '"')
        for key, value in lines.items()
    )


@pytest.mark.parametrize(
    ("why", "more", "said"),
    [
        ("{offer.Name|are|is} new.", {}, "Loaves are new."),
        ("{offer.Name|are|is} new.", {"name": "the rye loaf"}, "The rye loaf is new."),
        ("{offer.Name|begin|begins} {offer.since}.", {}, ""),  # not said, so it does not stand
        (
            "{offer.Name|begin|begins} {offer.since}.",
            {"since": "on Monday"},
            "Loaves begin on Monday.",
        ),
        (
            "People choose {offer.name} because {offer.because}.",
            {"because": "it keeps"},
            "People choose loaves because it keeps.",
        ),
        ("{place.Name|are|is} seen {place.seen}.", {}, "The wall is seen by those who wait."),
        ("{nobody.name} is nobody.", {}, ""),
        ("{business.name} says so.", {}, "x says so."),
    ],
)
def test_a_reason_is_made_of_what_was_said(why, more, said):
    name = more.pop("name", "loaves")
    (piece,) = plan(offer(name, **more) + PLACE, why=f'["{why}"]').pieces
    assert piece.why == said


def test_lists_are_read_as_prose_and_given_as_lists():
    (piece,) = plan(
        'things = "peel; sack; jug"\n' + offer() + PLACE,
        per='["business"]',
        main='"{business.things}"',
        why='["{business.Things}."]',
    ).pieces
    assert piece.why == "Peel, sack and jug." and piece.fills["main"] == "peel; sack; jug"


@pytest.mark.parametrize(
    ("main", "more", "fills"),
    [
        ('"{offer.what}"', {}, {"main": "a loaf"}), ('["{offer.what} with {offer.detail}", "{offer.what}"]', {}, {"main": "a loaf"}), ('["{offer.what} with {offer.detail}", "{offer.what}"]', {"detail": "a crust"}, {"main": "a loaf with a crust"}),
        ('"{offer.detail}"', {}, {}), ('"{offer.what}"', {"doing": "steaming"}, {"main": "a loaf", "deed": "steaming"}),
    ],
)  # fmt: skip
def test_fills_are_the_first_of_which_all_is_known(main, more, fills):
    (piece,) = plan(offer(**more) + PLACE, main=main).pieces
    assert piece.fills == fills


def test_what_is_missing_is_told():
    assert plan(offer()).missing == {"test": "no place of this kind: poster"}
    assert plan(offer() + PLACE, needs='["offer.detail"]').missing == {
        "test": "the file does not describe offer.detail"
    }
    assert plan(PLACE).missing == {"test": "the file does not describe offer"}
    assert (
        plan(offer(detail="a crust") + offer("rolls") + PLACE, needs='["offer.detail"]')
        .pieces[0]
        .subjects["offer"]
        == "loaves"
    )


def test_an_offer_meets_its_own_seasons_and_audiences():
    business = (
        offer(season=["winter"])
        + offer("rolls")
        + '[[season]]\nname = "winter"\n[[season]]\nname = "May"\n'
        + PLACE
    )
    found = plan(business, per='["offer", "season"]').pieces
    assert [(piece.subjects["offer"], piece.subjects["season"]) for piece in found] == [
        ("loaves", "winter")
    ]
    business = (
        offer(steps=[]).replace(
            "steps = []", 'steps = [ { question = "How?" }, { question = "When?" } ]'
        )
        + PLACE
    )
    found = plan(
        business, per='["offer", "step"]', why='["{step.question} {step.number} of {step.of}."]'
    ).pieces
    assert [piece.why for piece in found] == ["How? 1 of 2.", "When? 2 of 2."]


def test_the_formula_goes_by_the_kind_of_offer():
    assert [
        piece.formula
        for piece in plan(offer(kind="food") + offer("talks", kind="event") + PLACE).pieces
    ] == ["food-still", "poster"]


def test_what_is_new_comes_first_and_one_more_place_later():
    business = offer() + offer("rolls", new=True) + PLACE + PLACE.replace("the wall", "the door")
    found = plan(business).pieces
    assert [(piece.subjects["offer"], piece.place) for piece in found][:2] == [
        ("loaves", "the wall"),
        ("rolls", "the wall"),
    ] or found[0].subjects["offer"] == "rolls"
    by_place = {(piece.subjects["offer"], piece.place): piece.priority for piece in found}
    assert (
        by_place["loaves", "the wall"] > by_place["loaves", "the door"]
        and by_place["rolls", "the wall"] > by_place["rolls", "the door"]
    )


def test_an_id_hangs_on_what_a_piece_is_for_alone():
    before = {piece.id: piece.title for piece in plan(offer() + offer("rolls") + PLACE).pieces}
    after = {
        piece.id: piece.title
        for piece in plan(
            offer(what="a brown loaf", because="it keeps")
            + offer("rolls")
            + PLACE.replace("by those who wait", "by all")
        ).pieces
    }
    assert before == after and len(before) == 2
    assert not set(before) & {piece.id for piece in plan(offer("buns") + PLACE).pieces}


def test_there_are_enough_kinds_and_each_is_thought_through():
    assert len(KINDS) >= 16
    for kind in KINDS.values():
        assert (
            kind.about
            and kind.why
            and kind.vary
            and 0 < kind.priority <= 100
            and 1 <= kind.pictures <= 6
        )
        assert all(
            (DATA / "formulas" / f"{formula}.formula").is_file()
            for formula in kind.formula.values()
        ), kind.name
        fields = set(
            re.findall(
                r"\{(\w+)\.",
                " ".join([*kind.why, *(text for texts in kind.fills.values() for text in texts)]),
            )
        )
        assert fields <= {"business", "place", *kind.per}, (kind.name, fields)
        for subject in {need.partition(".")[0] for need in kind.needs}:
            assert subject == "business" or subject in kind.per, kind.name


@pytest.mark.parametrize(
    "path",
    [
        *sorted(Path(__file__).parents[2].glob("benchmarks/businesses/*.toml")),
        DATA / "demo/workspace/ferries.campaign.toml",
    ],
    ids=lambda p: p.stem,
)
def test_shipped_businesses_get_sentences_that_a_person_would_write(path):
    found = planned(read_business(path.read_text(), path.name), KINDS)
    assert len(found.pieces) >= 8 and len({piece.kind for piece in found.pieces}) >= 5
    for piece in found.pieces:
        assert (
            piece.why and "{" not in piece.why and ".." not in piece.why and "  " not in piece.why
        ), piece
        assert re.search(r"[.?]”?$|[.]$", piece.why), piece.why
        for many, one in (("are", "is"), ("want", "wants"), ("begin", "begins")):
            for name in re.findall(rf"^([A-Z][\w' -]+?) {one}\b", piece.why):
                assert countability(name.lower()) != "many" or "People" in name, piece.why
            assert many


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "lacks “name”"), ('name = "x"\n[[offer]]\nname = "a"\n', "offer[0] lacks “what”"), ('name = "x"\n[[place]]\nname = "a"\nkind = "wall"\n', "not a kind of place"), ('name = "x"\nlook = "blue"\n', "look takes"), ('name = "x"\nnmae = "y"\n', "a business has no key"),
        ('name = "x"\n[[offer]]\nname = "a"\nwhat = "b"\nwaht = "c"\n', "“offer” has no key"), ('name = "x"\n[[offer]]\nname = "a"\nwhat = "b"\naudience = ["all"]\n', "no audience is called"),
    ],
)  # fmt: skip
def test_wrong_businesses_are_told_with_their_place(text, said):
    with pytest.raises(Refused) as caught:
        read_business(text, "x.campaign.toml")
    assert said in " ".join(mistake.message for mistake in caught.value.mistakes)
    assert all(mistake.remedy for mistake in caught.value.mistakes)


@pytest.mark.parametrize(
    "text",
    [
        "[kind.a]\nper = []\n",
        '[kind.a]\nper = ["offer"]\nat = ["feed"]\n',
        "kind = 3\n",
        "[kind]\na = 1\n",
    ],
)
def test_a_kind_that_says_too_little(text):
    with pytest.raises((KeyError, TypeError, ValueError, AttributeError)):
        read_kinds(text)
