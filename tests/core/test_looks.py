"""Looks: a look put round any content."""

import pytest

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composer
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.formula import (
    check_formula,
    parse_formula,
    read_formula,
    with_look,
    write_formula,
)
from syntagma.core.writing.prompt_writer import Writer
from tests.core.samples import PROSE, TAGS, VOCABULARY

SHIPPED = Workspace.load()
CONTENT = read_formula(
    '+++\nmedia = "image"\n[parameters]\nratio = "2:3"\nseed = 4\n+++\nlead!  [a mood subject]\nend  flat inks.\n-  border\n',
    "poster",
)


def look(text, name="look"):
    return read_formula(text, name)


def write(*looks, profile=PROSE, **given):
    formula, found = CONTENT, []
    for each in looks:
        formula, noted = with_look(formula, each)
        found += noted
    writer = Writer(formula, profile, VOCABULARY)
    prompt = writer.write(writer.fills({"subject": "tea urn", **given}))
    return formula, prompt, found


PRINT = look(
    "opening  printed in two inks:\ncontent\nend  rough paper\n-  gloss, border\n", "print"
)
FRAME = look(
    '+++\n[parameters]\nratio = "9:16"\n[slots]\nmood = { default = "hushed" }\n+++\ncontent\nframe!  framed upright, [mood "light"]\n',
    "frame",
)


@pytest.mark.parametrize(("looks", "prose", "tags", "negative"), [
    ([PRINT], "Printed in two inks: a tea urn, flat inks. Rough paper", "tea urn, flat inks, rough paper", "border, gloss"),
    ([FRAME], "A hushed tea urn, flat inks. Framed upright, hushed light", "hushed tea urn, flat inks, hushed light", "border"),
    ([PRINT, FRAME], "Printed in two inks: a hushed tea urn, flat inks. Rough paper, framed upright, hushed light",
     "hushed tea urn, flat inks, rough paper, hushed light", "border, gloss"),
    ([FRAME, PRINT], "Printed in two inks: a hushed tea urn, flat inks. Framed upright, hushed light, rough paper",
     "hushed tea urn, flat inks, hushed light, rough paper", "border, gloss"),
])  # fmt: skip
def test_a_look_goes_round(looks, prose, tags, negative):
    formula, prompt, _ = write(*looks)
    assert (prompt.text, prompt.negative) == (prose, negative)
    assert write(*looks, profile=TAGS)[1].text == tags
    assert formula.looks == tuple(m.name for m in looks) and formula.name == "poster"


def test_what_both_have():
    formula, _, found = write(PRINT, FRAME)
    assert [p.label for p in formula.phrases] == ["opening", "lead", "end", "print.end", "frame"]
    assert formula.head.parameters == {"ratio": "9:16", "seed": 4}
    assert [(f.kind, f.place, f.message) for f in found] == [
        ("remark", "frame", "ratio is 9:16; the formula alone has 2:3")
    ]


def test_what_a_look_settles():
    inks = look('+++\nsettles = ["mood"]\n+++\ncontent\ninks  two inks\n', "inks")
    formula, _, _ = write(inks, FRAME)
    assert formula.head.settles == ("mood",)
    writer = Writer(with_look(CONTENT, inks)[0], PROSE, VOCABULARY)
    for given, places in (({}, []), ({"mood": "hushed"}, ["mood"])):
        fills = writer.fills({"subject": "tea urn", **given})
        assert [f.place for f in writer.findings(fills, writer.write(fills))] == places
    remarks = check_formula(look('+++\nsettles = ["moood"]\n+++\ncontent\n'), VOCABULARY)[1]
    assert [(f.place, f.remedy) for f in remarks] == [("settles", "did you mean “mood”?")]


def test_findings_on_a_look():
    other = look(
        '+++\nmedia = "video"\n[slots]\nsubject = { facet = "flaw", default = "x" }\n+++\ncontent\nz  [subject]\n'
    )
    formula, _, found = write(other, subject="tea urn")
    assert [f.message for f in found] == [
        "the look is for video, but the formula is for image", "the slot “subject” takes subject, as the formula says"
    ]  # fmt: skip
    assert formula.head.slots["subject"].default == ()  # a default of another facet is of no use


@pytest.mark.parametrize(("text", "messages"), [
    ("content\n", []),
    ("a  b\ncontent\n# note\nc  d\n", []),
    ("content\ncontent\n", ["the label “content” is used twice"]),
    ("content  words\n", []),  # an ordinary phrase
    ("content!\n", ["the phrase “content” is empty"]),
    ("content\nframe  quiet space above and below\n", ["“below” leads nowhere, so this last phrase would never be written"]),
])  # fmt: skip
def test_reading_a_look(text, messages):
    formula, mistakes = parse_formula(text, "look")
    assert [m.message for m in mistakes] == messages
    assert write_formula(formula) == text
    assert formula.is_look == (text != "content  words\n" and text != "content!\n")


@pytest.mark.parametrize(
    ("formula", "look", "kept", "gone"),
    [
        ("photograph", "pixel-scene", "Drawn in pixels", "realistic photograph"), ("product-still", "home-tape", "A product photograph", "Crisp edges"),
        ("emblem", "paper-cut-outs", "An emblem", "photograph"), ("product-still", "teal-and-amber", "Crisp edges", "realistic"),
    ],
)  # fmt: skip
def test_a_look_takes_the_place_of_what_it_makes_otherwise(formula, look, kept, gone):
    lead = {"photograph": "subject", "product-still": "product", "emblem": "motif"}[formula]
    made = Composer(SHIPPED, Ask(formula, looks=(look,))).compose({lead: "fox"})
    assert kept in made.prompt.text and gone not in made.prompt.text
    told = [finding.code for finding in made.findings]
    assert ("look-instead" in told) == (gone == "Crisp edges")


def test_what_a_look_contradicts_is_told_once():
    made = Composer(SHIPPED, Ask("product-still", looks=("miniature-world",))).compose(
        {"product": "watch"}
    )
    assert [
        (finding.code, finding.remedy) for finding in made.findings if finding.kind == "warning"
    ] == [("contradiction", "choose another look")]
