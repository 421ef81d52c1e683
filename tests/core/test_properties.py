"""What holds whatever is blank and whatever text fills the slots."""

import itertools

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from syntagma.core import english
from syntagma.core.drafting.fills import BadFills, cleaned
from syntagma.core.fitting import TooLong
from syntagma.core.formula import parse_formula, write_formula
from syntagma.core.formula.phrase_body import hanging_word
from tests.core.samples import PROSE, TAGS, profile, writer

FORMULAS = [
    "lead [a medium] of [a vessel]\ndeed ~[action]\nplace [setting as place]\nlight lit by [a light]{, with [haze] in the air}.\n"
    "lens shot on [a lens], [angle]\nend flat inks, wide margins",
    'who [the who] says: "[line]" [manner].\nplace ~under [a sky]\nsound over it, ([sound] and [music]);\nend? [palette "palette"]',
    "by? seen from\nplace ~[setting]\nlead! a street\nmood [mood]! \nhour at [hour].\nlast {in [weather] and }[a season]{ near [place]} at last",
    "+++\n[slots]\nvessel = { need = true }\n+++\nlead! [a medium] of [a vessel]\nlight lit by [light].",
    "list [a things]\nmove ~[a move as clause].\nplural many [items as plural], [a x]\ntail [y]: [z]",
]
SLOTS = [list(writer(f).position) for f in FORMULAS]
ODD = st.text(st.sampled_from(list("ab Ae,;.!?…\"'“”()[]{}«»\\/-–~&#8é漢🌊\n\t")), max_size=12)
FILL = st.one_of(st.just(""), ODD, st.text(max_size=30), st.sampled_from(
    ["pilot launch", "the old ferry", "two men", "9 p.m.", "sea smoke", "“Last boat.”", "a; b; c", "85mm lens.", "and", "x" * 3000]
))  # fmt: skip


@st.composite
def calls(draw):
    i = draw(st.integers(0, len(FORMULAS) - 1))
    return FORMULAS[i], {slot: draw(FILL) for slot in SLOTS[i]}


@pytest.mark.long
@settings(max_examples=600, deadline=None)
@given(calls())
@example((FORMULAS[0], {"light": "lamps.", "lens": "lens!"}))
def test_seams_of_prose(call):
    made = writer(call[0])
    fills = made.fills(call[1])
    try:
        prompt = made.write(fills)
    except BadFills:
        return
    text = prompt.text
    pieces = made.pieces(fills)
    assert "".join(p.text for p in pieces) == text
    at = 0
    for before, after in itertools.pairwise(pieces):
        at += len(before.text)
        pair = text[at - 1 : at + 1]
        assert pair not in ("  ", ",,", " ,"), text
        assert not (text[at] == "," and english.ends_sentence(text[:at])), text
        if (
            not after.slot
            and not after.label
            and english.ends_sentence(text[:at])
            and after.text == " "
        ):
            rest = text[at + 1 :]
            assert english.capitalised(rest) == rest, text
    if not pieces[-1].slot:
        assert not hanging_word(pieces[-1].text.rstrip(".")), text
    assert not text.startswith((" ", ",")) and not text.endswith((" ", ",", ";"))
    assert "\n" not in text
    for slot, fill in zip(made.position, fills, strict=True):
        for item in fill.items if fill else ():
            said = english.without_stop(english.split_determiner(item.words)[1])
            plural = english.plural(said) if slot == "items" else said
            assert said.casefold() in text.casefold() or plural.casefold() in text.casefold(), (
                slot,
                said,
                text,
            )


@settings(max_examples=300, deadline=None)
@given(calls())
def test_seams_of_tags(call):
    made = writer(call[0], TAGS)
    fills = made.fills(call[1])
    try:
        text = made.write(fills).text
    except BadFills:
        return
    assert "".join(p.text for p in made.pieces(fills)) == text
    at = 0
    for before in made.pieces(fills)[:-1]:
        at += len(before.text)
        assert text[at - 1 : at + 1] not in ("  ", ",,", " ,"), text
        quoted = text[at - 1] in '"”»'  # what is spoken stays word for word, its stop too
        assert not (text[at] == "," and english.ends_sentence(text[:at]) and not quoted), text


@pytest.mark.long
@settings(max_examples=150, deadline=None)
@given(
    st.data(),
    st.sampled_from(
        [
            PROSE,
            TAGS,
            profile(
                "short", text={"register": "tags"}, limits={"text": {"most": 9, "unit": "tokens"}}
            ),
        ]
    ),
)
def test_a_run_writes_what_a_fresh_writer_writes(data, profile):
    i = data.draw(st.integers(0, len(FORMULAS) - 1))
    made = writer(FORMULAS[i], profile)
    base = made.fills({slot: data.draw(FILL) for slot in SLOTS[i]})
    positions = data.draw(
        st.lists(st.sampled_from(range(len(SLOTS[i]))), min_size=1, max_size=3, unique=True)
    )
    levels = [[made.fills({SLOTS[i][p]: data.draw(FILL)})[p] for _ in range(3)] for p in positions]
    combinations = data.draw(
        st.lists(st.tuples(*map(st.sampled_from, levels)), min_size=2, max_size=12)
    )
    run = made.family(base, positions)
    prompts, bad = run.write_all(combinations)
    for at, combination in enumerate(combinations):
        fresh = list(base)
        for position, fill in zip(positions, combination, strict=True):
            fresh[position] = fill
        try:
            expected = writer(FORMULAS[i], profile).write(fresh)
        except (BadFills, TooLong) as error:
            assert str(bad[at]) == str(error)
        else:
            assert prompts[at]._replace(fitted=None) == expected._replace(fitted=None)


SCRAPS = st.lists(st.sampled_from(
    ["+++\n", "about = \"x\"\n", "[slots]\n", "lead", "!", "?", "  ", "~", "[a ", "the ", "x", "]", "{", "}", ", ", ".", "\n", "\r\n",
     "# note", "-  ", '"', "as place", "\\", "\\[", "é", "\t", "\ufeff", "a.b"]
), max_size=40).map("".join)  # fmt: skip


@settings(max_examples=400, deadline=None)
@given(st.one_of(SCRAPS, st.text(max_size=80)))
def test_reading_and_writing_give_back_the_file(text):
    formula, _ = parse_formula(text, "scraps")
    assert write_formula(formula) == text


@settings(max_examples=200, deadline=None)
@given(st.text())
def test_cleaning_is_done_once(text):
    assert cleaned(cleaned(text)) == cleaned(text)
