"""Reading formulas: trees with spans, and mistakes with their places."""

import pytest

from syntagma.core.diagnostics import REMARK, Refused
from syntagma.core.formula import (
    FixedText,
    Group,
    Option,
    check_formula,
    parse_formula,
    read_formula,
    read_oneline,
    unguarded_words,
    write_formula,
)
from syntagma.core.vocabulary.terms import Vocabulary
from syntagma.core.vocabulary.world import Dimension, Dimensions

WHOLE = """+++
about = "A night crossing"
media = "image"

[slots]
vessel = { facet = "subject", need = true, only = "vessel; sea" }
light = { facet = "lighting", default = "lamps" }
props = { facet = "object", take = [1, 3], default = ["rope", "brass"] }
crew = { number = true, about = "how many" }

[parameters]
ratio = "2:3"
steps = 30
+++
# a comment
lead!          [a mood "old" vessel] with [props]
camera.move?   ~[move as clause]{, at [hour]}.

-              [flaw], border
"""


def test_the_tree():
    formula = read_formula(WHOLE, "night")
    assert [(p.label, p.mark, p.joined) for p in formula.phrases] == [
        ("lead", "!", False),
        ("camera.move", "?", True),
    ]
    group = next(formula.phrases[0].groups())
    assert (group.article, group.slots, group.head, group.of("quote"), group.form) == (
        "a",
        ("mood", "vessel"),
        "vessel",
        ("old",),
        "",
    )
    move, option, stop = formula.phrases[1].body
    assert isinstance(move, Group) and move.form == "clause"
    assert isinstance(option, Option) and isinstance(stop, FixedText) and stop.raw == "."
    assert [rule.name for rule in formula.slots] == [
        "mood",
        "vessel",
        "props",
        "move",
        "hour",
        "flaw",
    ]


def test_the_head():
    head = read_formula(WHOLE, "night").head
    assert (head.about, head.media, dict(head.parameters)) == (
        "A night crossing",
        "image",
        {"ratio": "2:3", "steps": 30},
    )
    vessel, light, props, crew = head.slots.values()
    assert (vessel.facet, vessel.need, vessel.only) == ("subject", True, ("vessel", "sea"))
    assert light.default == ("lamps",) and not light.need
    assert (props.take, props.default) == ((1, 3), ("rope", "brass"))
    assert crew.number and crew.about == "how many" and crew.facet == "crew"


def test_every_node_knows_where_it_stands():
    formula = read_formula(WHOLE, "night")
    for phrase in (*formula.phrases, *formula.negatives):
        assert WHOLE[phrase.span.start : phrase.span.stop].startswith(phrase.label)
        for node in phrase.body:
            text = WHOLE[node.span.start : node.span.stop]
            if isinstance(node, FixedText):
                assert text == node.raw
            else:
                assert text[0] + text[-1] in ("[]", "{}")
        for group in phrase.groups():
            assert (
                "".join(word.raw for word in group.words)
                == WHOLE[group.span.start + 1 : group.span.stop - 1]
            )


@pytest.mark.parametrize("text", [
    WHOLE,
    WHOLE.replace("\n", "\r\n"),
    "\ufeff" + WHOLE,
    WHOLE.rstrip("\n"),
    "  lead \t [a x]  \n\n\t# note\n-\t[y] \n",
    "+++\n+++\nlead a lamp",
    "lead \\[plain\\] \\{and\\} \\\\ \\~[x]",
    'lead ~ [ a  "very \\"old\\"" x  as place ] and',
])  # fmt: skip
def test_writing_gives_back_the_file(text):
    formula, mistakes = parse_formula(text, "x")
    assert write_formula(formula) == text
    assert not mistakes or "hang" in mistakes[0].message


# a body or a whole file; line, column, message, remedy
MISTAKES = [
    ("lead [a x", 1, 6, "the bracket is not closed", "write ]"),
    ("lead []", 1, 6, "the bracket is empty", "[vessel]"),
    ("lead [a]", 1, 6, "the bracket holds no slot", "[vessel]"),
    ('lead ["old"]', 1, 6, "the bracket holds no slot", "[vessel]"),
    ("lead [x as plase]", 1, 12, "“plase” is not a form", "did you mean “place”?"),
    ("lead [x as]", 1, 6, "“as” with no form after it", "as place"),
    ("lead [x as place plural]", 1, 18, "“plural” is not a form", ""),
    ("lead [x the y]", 1, 9, "the article “the” is inside the group", "comes first"),
    ("lead [3x]", 1, 7, "“3x” is not a slot name", "beginning with a letter"),
    ("lead [mood x as clause]", 1, 6, "“as clause” can't share a group with other words", "[x as clause]"),
    ('lead [a "old x]', 1, 9, "the quotation mark is not closed", ""),
    ("lead a {[x]", 1, 8, "the brace is not closed", "write }"),
    ("lead a {b {[x]} c}", 1, 11, "a brace inside a brace", "close the first"),
    ("lead a {b}", 1, 8, "a brace with no slot in it", "put a slot"),
    ("lead a]", 1, 7, "“]” closes nothing", "\\]"),
    ("lead a}", 1, 7, "“}” closes nothing", "\\}"),
    ("lead [x]\\", 1, 9, "a backslash with nothing after it", "\\\\"),
    ("lead!? [x]", 1, 5, "“!?” is more than one mark", ""),
    ("[a x] of y", 1, 1, "the line has no label", "begin the line with a name"),
    ("3rd [x]", 1, 1, "“3rd” is not a label", ""),
    ("lead", 1, 1, "the phrase “lead” is empty", ""),
    ("lead ~", 1, 1, "the phrase “lead” is empty", ""),
    ("lead [x]\nlead [y]", 2, 1, "the label “lead” is used twice", "another name"),
    ("lead [x] lit by\nlight ~[y]", 1, 14, "“by” would be left hanging if the next line is dropped", "after the ~"),
    ("# only a note", 0, 0, "it has no phrases", "one phrase per line"),
    ("+++\nabout = 3\n+++\nlead [x]", 2, 1, "“about” takes text", 'about = "…"'),
    ("+++\nabuot = \"x\"\n+++\nlead [x]", 2, 1, "a head has no key “abuot”", "did you mean “about”?"),
    ("+++\nmedia = \"film\"\n+++\nlead [x]", 2, 1, "“film” is not a medium", "image, video or both"),
    ("+++\nslots = 1\n+++\nlead [x]", 2, 1, "“slots” is a table", "[slots]"),
    ("+++\n[slots]\nx = 1\n+++\nlead [x]", 3, 1, "the slot “x” takes a table", "facet"),
    ("+++\n[slots]\nx = { need = 1 }\n+++\nlead [x]", 3, 7, "“need” of “x” takes true or false", ""),
    ("+++\n[slots]\nx = { take = [3, 1] }\n+++\nlead [x]", 3, 7, "“take” of “x” is not a range", "[1, 3]"),
    ("+++\n[slots]\nx = { fcaet = \"y\" }\n+++\nlead [x]", 3, 7, "a slot has no key “fcaet”", "did you mean “facet”?"),
    ("+++\n[slots]\nan = { need = true }\n+++\nlead [x]", 3, 1, "“an” is not a slot name", ""),
    ("+++\nabout = \"x\n+++\nlead [x]", 2, 10, "this can't be read", "TOML"),
    ("+++\nabout = \"x\"\nlead [x]", 1, 1, "the head is not closed", "+++"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "line", "column", "message", "remedy"), MISTAKES, ids=[m[0][:40] for m in MISTAKES]
)
def test_mistake(text, line, column, message, remedy):
    formula, (mistake, *more) = parse_formula(text, "x")
    assert (mistake.line, mistake.column) == (line, column), mistake.shown()
    assert mistake.message.startswith(message) and remedy in mistake.remedy
    assert not more, [m.shown() for m in more]
    assert write_formula(formula) == text
    with pytest.raises(Refused):
        read_formula(text, "x")


def test_a_mistake_is_shown_with_its_line_and_a_caret():
    _, mistakes = parse_formula("lead\t[x as plaec]", "x")
    assert mistakes[0].shown() == (
        "x.formula:1:12: “plaec” is not a form\n    1 | lead\t[x as plaec]\n            \t      ^^^^^\n  did you mean “place”?"
    )


@pytest.mark.parametrize(("line", "labels"), [
    ("[a medium] of [a vessel], [light]", ["medium", "light"]),
    ("a lamp. [light], [light]; flat inks", ["part", "light", "light-2", "part-2"]),
    ("an f/2.8 lens, at 9 p.m. [x]", ["part", "x"]),
    ('"one, two" [x], ([y], [z])', ["x", "y"]),
    ("[a], {with [b], softly}, 1,200 gulls", None),
    ("[x]{, [y]}, 1,200 gulls", ["x", "part"]),
    ("~[x], ~ [y]", ["x", "y"]),
])  # fmt: skip
def test_one_line(line, labels):
    if labels is None:
        with pytest.raises(Refused):
            read_oneline(line)
        return
    formula = read_oneline(line)
    assert [p.label for p in formula.phrases] == labels
    assert write_formula(formula) == line


def test_against_the_facets_in_force():
    formula = read_formula(
        '+++\n[slots]\nx = { facet = "ligthing" }\nidle = {}\n+++\nlead [x] [lihgting] [mine]\n',
        "x",
    )
    mistakes, remarks = check_formula(formula, Vocabulary(["lighting", "mood"], lambda name: []))
    assert [(m.line, m.column, m.message, m.remedy) for m in mistakes] == [
        (3, 16, "no facet is called “ligthing”", "did you mean “lighting”?")
    ]
    assert [(r.kind, r.place, r.remedy) for r in remarks] == [
        (REMARK, "lihgting", "did you mean “lighting”?"),
        (REMARK, "idle", "write [idle] in a phrase, or delete its line from the head"),
    ]


@pytest.mark.parametrize(("head", "at", "message"), [
    ('[only-if]\nskin = "subject #person"\n', (3, 1), "“subject #person” does not say when to write the phrase “skin”"),
    ("[only-if]\nskin = 3\n", (3, 1), "“3” does not say when to write the phrase “skin”"),
    ('[slots]\nx = { skip = "two" }\n', (3, 7), "“skip” of “x” takes a whole number"),
    ("world = 3\n", (2, 1), "“world” takes text"),
])  # fmt: skip
def test_mistakes_in_conditions_and_worlds(head, at, message):
    with pytest.raises(Refused) as refused:
        read_formula(f"+++\n{head}+++\nskin  [a x]\n", "f")
    mistake = refused.value.mistakes[0]
    assert (mistake.line, mistake.column) == at and mistake.message == message


def test_a_world_that_can_not_be_read_is_a_mistake_at_its_place():
    vocabulary = Vocabulary(
        ["x"],
        lambda name: [],
        dimensions=lambda: Dimensions([Dimension("hour", "", {"noon": "noon", "night": "night"})]),
    )
    text = (
        '+++\nworld = "hour: nite"\n[only-if]\nghost = "x: #a"\nlead = "y: #a"\n+++\nlead  [a x]\n'
    )
    mistakes, remarks = check_formula(read_formula(text, "f"), vocabulary)
    assert [(m.line, m.column, m.message, m.remedy) for m in mistakes] == [
        (2, 10, "hour can't be “nite”", "did you mean “night”?")
    ]
    assert [r.message for r in remarks] == [
        "no phrase is labelled “ghost”",
        "“lead” depends on the slot “y”, but no phrase has it",
    ]


@pytest.mark.parametrize(
    ("head", "body", "labels"),
    [
        ("", "lead [a subject]\nclosing calm space in the upper third", ["closing"]),
        ('world = "top: empty"', "lead [a subject]\nclosing calm space in the upper third", []),
        ("", "lead a quiet sketch of [a subject]", []), ("", "lead [a subject]\nend on paper", []),
    ],
)  # fmt: skip
def test_closing_words_that_no_condition_stands_for(head, body, labels):
    formula = read_formula(f"+++\n{head}\n+++\n{body}\n", "x")
    assert [finding.place for finding in unguarded_words(formula)] == labels
