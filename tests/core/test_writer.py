"""The one path from fills to a prompt: provenance, needs, limits, findings."""

import pytest

from syntagma.core.drafting.fills import BadFills
from syntagma.core.drafting.surroundings import _follow
from syntagma.core.fitting import TooLong, fit_items
from syntagma.core.models.measure import Limit
from tests.core.samples import PROSE, TAGS, profile, write, writer

FORMULA = """+++
[slots]
subject = { need = true }
light = { facet = "lighting", default = "sodium quay lamps" }
+++
lead!     [a mood subject]
place     [setting as place]
light     lit by [light].
extra?    near [thing]
more?     over [other]
late      [a lens]
closing!  flat inks
-         [flaw], lettering, border
"""


def test_every_piece_knows_its_phrase_slot_and_term():
    made = writer(FORMULA)
    fills = made.fills({"mood": "eerie", "subject": "harbour pilot", "setting": "wet quay"})
    pieces = made.pieces(fills)
    told = [
        (p.text, p.label, p.slot, p.item.term.term if p.item and p.item.term else None)
        for p in pieces
    ]
    assert told == [
        ("An ", "lead", "subject", "harbour pilot"),
        ("eerie", "lead", "mood", None),
        (" ", "lead", "", None),
        ("harbour pilot", "lead", "subject", "harbour pilot"),
        (", ", "", "", None),
        ("on a ", "place", "setting", "wet quay"),
        ("wet quay", "place", "setting", "wet quay"),
        (", ", "", "", None),
        ("lit by ", "light", "", None),
        ("sodium quay lamps", "light", "light", "sodium quay lamps"),
        (". ", "", "", None),
        ("Flat inks", "closing", "", None),
    ]
    assert "".join(p.text for p in pieces) == made.write(fills).text


def test_pieces_of_tags_and_of_a_fitted_prompt():
    made = writer(
        FORMULA,
        profile(
            "short", text={"register": "tags"}, limits={"text": {"most": 11, "unit": "tokens"}}
        ),
    )
    fills = made.fills(
        {"subject": "tea urn", "setting": "wet quay", "thing": "lamp", "lens": "lens"}
    )
    prompt = made.write(fills)
    assert prompt.dropped == ("light", "extra")
    assert (
        "".join(p.text for p in made.pieces(fills))
        == prompt.text
        == "tea urn, wet quay, lens, flat inks"
    )


def test_defaults_and_blanks():
    assert write(FORMULA, subject="tea urn") == "A tea urn, lit by sodium quay lamps. Flat inks"
    assert write(FORMULA, subject="tea urn", light="") == "A tea urn. Flat inks"


@pytest.mark.parametrize(("given", "places"), [
    ({}, ["subject"]),
    ({"subject": " , "}, ["subject"]),
    ({"subject": "x", "lihgt": "y", "zzz": "z"}, ["lihgt", "zzz"]),
])  # fmt: skip
def test_what_can_not_be_written(given, places):
    made = writer(FORMULA)
    with pytest.raises(BadFills) as bad:
        made.write(made.fills(given))
    assert [f.place for f in bad.value.findings] == places
    if "lihgt" in given:
        assert bad.value.findings[0].remedy == "did you mean “light”?"


def sized(most, unit="characters", **rest):
    return profile("m", limits={"text": {"most": most, "unit": unit}}, **rest)


FULL = {
    "subject": "tea urn",
    "setting": "wet quay",
    "thing": "a bell",
    "other": "a map",
    "lens": "lens",
}


@pytest.mark.parametrize(("most", "dropped", "text"), [
    (200, (), "A tea urn, on a wet quay, lit by sodium quay lamps. Near a bell, over a map, a lens, flat inks"),
    (93, (), "A tea urn, on a wet quay, lit by sodium quay lamps. Near a bell, a map, a lens, flat inks"),  # glue goes first
    (81, (), "A tea urn, on a wet quay, sodium quay lamps. A bell, a map, a lens, flat inks"),
    (70, ("more",), "A tea urn, on a wet quay, sodium quay lamps. A bell, a lens, flat inks"),  # then what is marked ?
    (60, ("extra", "more"), "A tea urn, wet quay, sodium quay lamps. A lens, flat inks"),  # the later of two first
    (50, ("extra", "more", "late"), "A tea urn, wet quay, sodium quay lamps. Flat inks"),
    (40, ("light", "extra", "more"), "A tea urn, wet quay. A lens, flat inks"),  # what still fits is kept
    (20, ("place", "light", "extra", "more", "late"), "A tea urn. Flat inks"),
])  # fmt: skip
def test_what_goes_first(most, dropped, text):
    made = writer(FORMULA, sized(most))
    prompt = made.write(made.fills(FULL))
    assert (prompt.dropped, prompt.text) == (dropped, text)
    assert prompt.used == len(prompt.text) <= most


@pytest.mark.parametrize(("most", "text", "gone"), [
    (66, "A tea urn, an old chart, with a tear down the left side of it", None),
    (60, "A tea urn, an old chart, with a tear down the left side", "of it"),
    (45, "A tea urn, an old chart, with a tear", "down the left side of it"),
    (31, "A tea urn, an old chart", "with a tear down the left side of it"),  # not "with a"
    (18, "A tea urn", ...),
])  # fmt: skip
def test_free_text_loses_words_from_its_end(most, text, gone):
    made = writer("lead! [a subject]\nmore [thing]", sized(most))
    prompt = made.write(
        made.fills(
            {"subject": "tea urn", "thing": "an old chart, with a tear down the left side of it"}
        )
    )
    assert prompt.text == text
    assert (prompt.fitted and prompt.fitted.cut.get("more", ...)) == gone


def test_what_must_stay_is_too_long():
    made = writer(FORMULA, sized(10))
    with pytest.raises(TooLong, match=r"takes 20 characters, 10 over the 10 allowed"):
        made.write(made.fills(FULL))
    with pytest.raises(TooLong, match="takes 4 words, 2 over the 2 allowed"):
        only = writer("lead! [x]\nnext [y]", profile(limits={"text": {"most": 2, "unit": "words"}}))
        only.write(only.fills({"x": "one two three four", "y": "five"}))


def test_the_limit_counts_the_final_stop():
    text = "lead! flat inks\nmore [x]"
    assert writer(text, sized(9)).write([None]).text == "Flat inks"
    with pytest.raises(TooLong):
        writer(text, sized(9, text={"final_stop": True})).write([None])


@pytest.mark.parametrize(("final_stop", "given", "text"), [
    (True, "lamp", "Lamp."), (None, "lamp", "Lamp."), (False, "lamp", "Lamp"),
    (True, "lamp!", "Lamp!"), (False, "lamp!", "Lamp!"), (None, "at 9 p.m.", "At 9 p.m."), (True, "“Go.”", "“Go.”"),
])  # fmt: skip
def test_the_final_stop_is_the_models_affair(final_stop, given, text):
    assert write("lead [x].", profile(text={"final_stop": final_stop}), x=given) == text


@pytest.mark.parametrize(("phrase", "text"), [
    ("a bakery.", "A bakery. Rain"), ("it sighs…", "It sighs… Rain"), ("it sighs?", "It sighs? Rain"), ("a bakery;", "A bakery; rain"), ("a bakery", "A bakery, rain"),
    ("a bakery at 5 p.m.", "A bakery at 5 p.m., rain"), ("bread, rolls etc.", "Bread, rolls etc., rain"),  # a stop of an abbreviation ends no sentence
])  # fmt: skip
def test_what_follows_the_end_of_a_phrase(phrase, text):
    assert write(f"lead {phrase}\nnext [x]", x="rain") == text


def test_negative_text_and_its_limit():
    made = writer(FORMULA, profile(limits={"negative": 20}))
    prompt = made.write(made.fills({"subject": "x", "flaw": "blur; lettering; haze."}))
    assert (prompt.negative, prompt.negative_dropped, prompt.negative_used) == (
        "blur, lettering",
        ("haze", "border"),
        15,
    )
    with pytest.raises(TooLong, match="the negative text “lettering”"):
        small = writer(FORMULA, profile(limits={"negative": 5}))
        small.write(small.fills({"subject": "x"}))
    assert (
        writer(FORMULA, profile(negative={"way": "none"}))
        .write(made.fills({"subject": "x"}))
        .negative
        == ""
    )


def found(formula, profile=PROSE, **given):
    made = writer(formula, profile)
    fills = made.fills(given)
    return [f.message for f in made.findings(fills, made.write(fills)) + made.clashes(fills)]


def test_findings():
    assert found(FORMULA, subject="tea urn") == []
    assert found(FORMULA, subject="x", flaw="a", mood="old old") == ["“old old” repeats a word"]
    assert found("lead [x]\nnext [a mood y]", x="lamp", mood="old") == [
        "“old” is not in the prompt, because y is blank"
    ]
    assert (
        found("lead [light]\nsun [lighting]", light="sodium quay lamps", lighting="noon sun") == []
    )
    both = '+++\n[slots]\nsun = { facet = "lighting" }\n+++\nlead [x]\nl [sun]\nm [lighting]\n- [b]'
    assert found(both, x="y", sun="sodium quay lamps", lighting="noon sun") == [
        "a contradiction: “noon sun” does not go with “sodium quay lamps” (tagged night)"
    ]
    kept_out = '+++\n[slots]\nsun = { facet = "lighting" }\n+++\nm [lighting]\n- [sun]'
    assert found(kept_out, sun="sodium quay lamps", lighting="noon sun") == []
    assert found("lead [count x]", count="1", x="paper tickets") == [
        "“one paper tickets” does not agree"
    ]
    assert found("lead [x]\ndeed ~[y]", x="ferries", y="leaving its berth") == [
        "“leaving its berth” is singular, but x is plural"
    ]
    assert found("lead [x]\ndeed ~[y]", x="ferry", y="leaving its berth") == []
    assert "left out to fit 9 characters of m: late" in found(
        "lead! [x]\nlate [y]", sized(9), x="tea urn", y="wide"
    )
    video = profile(media="video")
    assert found('+++\nmedia = "image"\n+++\nlead [x]', video, x="a") == [
        "this asks for a still picture, but m makes clips"
    ]
    assert found("lead [x]\n- y", profile(negative={"way": "none"}), x="a") == [
        "m takes no negative prompt: the formula's negative text is left out"
    ]


def test_tags_are_said_once():
    assert (
        write("a [subject]\nb [y]\nc flat inks\nd flat inks.", TAGS, subject="lamp; rope", y="rope")
        == "lamp, rope, flat inks"
    )


def test_names_that_the_vocabulary_writes_small():
    assert (
        write("lead [name].\nnext [name] at rest", name="de Wharf") == "de Wharf. de Wharf at rest"
    )


def test_a_run_goes_on_behind_what_can_not_be_written():
    made = writer("lead [x]\n- [flaw]", profile(limits={"negative": 6}))
    fill = {
        name: made.fills({"x": name, "flaw": name}) for name in ("blur", "far too long", "haze")
    }
    run = made.family(fill["blur"], (0, 1))
    rows = [
        ("blur", "blur"),
        ("blur", "far too long"),
        ("haze", "far too long"),
        ("haze", "haze"),
        ("blur", "haze"),
    ]
    prompts, bad = run.write_all([(fill[x][0], fill[flaw][1]) for x, flaw in rows])
    assert sorted(bad) == [1, 2]  # the second failure is not hidden behind the first
    assert [(p.text, p.negative) for p in prompts if p] == [
        ("Blur", "blur"),
        ("Haze", "haze"),
        ("Blur", "haze"),
    ]


@pytest.mark.parametrize("order", [1, -1])
@pytest.mark.parametrize(("formula", "profile"), [
    ("lead [a x]\ndeed ~[y]", PROSE), ("lead [a x]\ndeed ~[y]\nend ~in fog", PROSE), ("lead [a x].\ndeed ~[y]", PROSE), ("lead [a x]\ndeed [y]\nend on air", PROSE),
    ("lead [a x]\ndeed ~[y]", sized(14)), ("lead! [a x]\ndeed ~[y]", PROSE), ("lead [a x]\ndeed ~[y]", TAGS), ("deed [y]\nlead ~[a x]\nend ~on the air", PROSE),
])  # fmt: skip
def test_what_is_kept_of_a_phrase_stands_only_where_it_reads_so(formula, profile, order):
    """A word that would stand twice over a seam parts the phrases there, and nowhere else."""
    made = writer(formula, profile)
    fill = {
        (slot, words): made.fills({slot: words})[made.position[slot]]
        for slot in "xy"
        for words in (
            "lamp on",
            "lamp on!",
            "lamp off",
            "on the wall",
            "off duty",
            "duty",
            "lamp. On",
            "",
        )
    }
    first = made.fills({"x": "lamp", "y": "on"})
    rows = [
        (fill["x", x], fill["y", y])
        for x in ("lamp on", "lamp off", "lamp on!", "lamp. On", "", "duty", "lamp on")
        for y in ("on the wall", "off duty", "duty", "", "on the wall")
    ][::order]
    for slots in ("xy", "yx"):  # either phrase is the one that changes most
        found, bad = made.family(first, [made.position[slot] for slot in slots]).write_all(
            [row if slots == "xy" else row[::-1] for row in rows]
        )
        for n, row in enumerate(rows):
            fills = [row["xy".index(rule.name)] for rule in made.rules]
            try:
                expected = writer(formula, profile).write(fills)
            except (BadFills, TooLong) as error:
                assert str(bad[n]) == str(error)
            else:
                assert (
                    found[n]._replace(fitted=None) == expected._replace(fitted=None)
                    and found.texts[n] == expected.text
                )
        assert (
            len(list(found)) == len(found) == len(rows)
            and list(found[3:7]) == list(found)[3:7]
            and list(found.only([True] * 4)) == list(found)[:4]
        )


@pytest.mark.parametrize(("items", "most", "kept", "dropped", "used"), [
    ([], 5, (), (), 0), (["fog"], 5, ("fog",), (), 3), (["fog", "hail"], 9, ("fog", "hail"), (), 9), (["fog", "hail"], 8, ("fog",), ("hail",), 3),
])  # fmt: skip
def test_negative_text_into_its_limit(items, most, kept, dropped, used):
    assert fit_items(items, ", ", Limit(most)) == (kept, dropped, used)


@pytest.mark.parametrize(
    ("closing", "follows"),
    [("", ""), (" x", " x"), (", x", ", x"), (".", "."), ("x, y", " x, y"), ("x", " x")],
)
def test_closing_words_with_what_leads_to_them(closing, follows):
    assert _follow(closing, PROSE) == follows


CONDITIONS = '+++\n[only-if]\nwax = "subject: #waxy; tea urn"\nfree = "subject: not tea urn"\n+++\nlead!  [a subject]\nwax  waxed\nfree  unwaxed\n'


@pytest.mark.parametrize(("subject", "text"), [
    ("tea urn", "A tea urn, waxed"), ("harbour pilot", "A harbour pilot, unwaxed"), ("harbour pilot in an oilskin coat", "A harbour pilot in an oilskin coat, unwaxed"),
    ("my aunt", "My aunt, waxed, unwaxed"),  # words of a person's own may be anything
])  # fmt: skip
def test_a_phrase_stands_under_a_condition(subject, text):
    assert write(CONDITIONS, subject=subject) == text
    made = writer(CONDITIONS)  # and in a family it goes and comes with the slot that it waits for
    position = made.position["subject"]
    subjects = [
        made.fills({"subject": one})[position]
        for one in ("harbour pilot", subject, "harbour pilot", subject)
    ]
    family = made.family(made.fills({"subject": "harbour pilot"}), [position])
    assert [family.write((one,)).text for one in subjects][1::2] == [text, text]
