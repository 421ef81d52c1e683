"""Formulas learned from examples, and answers of assistants taken."""

import pytest

from benchmarks.learning import FORMULAS, reader, score
from syntagma.app.existing.learning import learned, save
from syntagma.app.handing_on.brief import brief, prompts_in_answer, take
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.models import PLAIN
from syntagma.core.reading.formula_matching import Matcher
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
READER = reader()
INKED = [
    "A brass signal lamp on a wet quay at dusk, heavy ink outlines, flat colour /shape 2x3 /seed 7 https://a.example/x.png",
    "A tarred rope fender in a boathouse at noon, heavy ink outlines, flat colour /shape 2x3 /seed 8",
    "An old ferry ticket on a kitchen table at dawn, heavy ink outlines, flat colour /shape 2x3 /shape 2x3. No people.",
    "A purser's cap on a bollard at midnight, heavy ink outlines, flat colour /shape 2x3. No people, no text.",
    "A tide board on a harbour wall at sunset, heavy ink outlines, flat colour /shape 2x3. No people, no text.",
    "A bell buoy in a lock at noon, heavy ink outlines, flat colour /shape 2x3. No people.",
]


@pytest.mark.long
def test_ten_formulas_are_learned_back(monkeypatch):
    monkeypatch.setattr(Workspace, "every_situation", lambda self: [])  # examples of terms
    every = [score(WORLD, name, READER) for name in FORMULAS]
    assert len(every) == 10 and all(one.fixed == one.of_fixed for one in every)
    assert sum(one.slots for one in every) >= 0.93 * sum(one.of_slots for one in every)
    assert sum(one.exact for one in every) >= 77


def test_what_a_formula_of_examples_holds():
    found = learned(WORLD, INKED, "inked", reader=READER)
    assert (
        "heavy ink outlines, flat colour" in found.learned.formula
        and "[a subject]" in found.learned.formula
    )
    assert set(found.learned.facets.values()) == {"inked-subject", "setting", "hour"}
    assert (
        "brass signal lamp" in found.learned.terms["subject"]
        and "on a wet quay" in found.learned.terms["setting"]
    )
    assert found.learned.parameters == {"ratio": "2:3"} and found.learned.negative == ["people"]
    assert found.learned.foreign == ["https://a.example/x.png", "/shape 2x3 (a second time)"]
    assert found.exact + len(found.missed()) == len(INKED) and found.exact >= 4


@pytest.mark.parametrize("shape", ["MAIN | a {0}\nPLACE | on a {1}\nFINISH | heavy ink outlines, flat colour\nNOT | people", '{{"subject": "a {0}", "setting": "on a {1}", "technique": "heavy ink outlines, flat colour", "negative": "people"}}'])  # fmt: skip
def test_examples_in_other_forms(shape):
    things = [
        ("tin whale", "wet quay"),
        ("clay owl", "kitchen table"),
        ("paper moon", "harbour wall"),
        ("brass lamp", "workbench"),
    ]
    found = learned(WORLD, [shape.format(*pair) for pair in things], "x", reader=READER)
    assert (
        "heavy ink outlines, flat colour" in found.learned.formula
        and "[a subject]" in found.learned.formula
    )
    assert found.learned.negative == ["people"] and found.exact >= 3


SETS = {
    "cutaway": (
        "Isometric cutaway of {}, {}, tiny furniture, pastel palette of {}, white background",
        [("a clock repair shop at night", "glowing windows", "mint and peach"), ("a beekeeper's cottage at dawn", "smoking chimney", "lemon and sage"), ("a submarine galley", "steaming pots", "coral and grey"),
         ("a wizard's attic at dusk", "floating books", "lilac and gold"), ("a night market stall in the rain", "hanging lanterns", "rust and cream")],
        ["  isometric cutaway of [a subject]", "words  [words]", "palette of [palette]", "closing!  white background"],
    ),
    "talk": (
        'Slow dolly in on {}, {}, 35mm film grain. {} says: "{}" Ambient sound of {}.',
        [("a violinist tuning up in an empty theatre", "warm footlights", "She", "One more time.", "creaking boards"), ("a sailor rolling a cigarette on a bench", "low evening sun", "He", "The tide won't wait.", "gulls"),
         ("a mechanic wiping her hands in a cold garage", "buzzing strip light", "She", "That'll be fifty.", "a distant radio"), ("a guard doing a crossword in a museum hall", "one green desk lamp", "He", "Seven letters.", "a ticking clock")],
        ["slow dolly in on [a subject]", "setting  ~[setting as place]", '[words] says: "[speech]"', "ambience  ambient sound of [an ambience]"],
    ),
    "travel": (
        'A travel poster of {}, {}, bold flat shapes, "VISIT {}" lettering',
        [("Lisbon with trams", "warm sunset", "LISBON"), ("Iceland with geysers", "northern lights", "ICELAND"), ("Kyoto with a red bridge", "spring morning", "KYOTO"), ("Mars with a dome", "dust storm", "MARS")],
        ["opening!  a travel poster of [subject]", '"VISIT [speech]" lettering'],
    ),
    "tags": (
        "masterpiece, {}, {}, {}, cinematic",
        [("knight", "dented armour", "battlefield"), ("witch", "pointed hat", "swamp hut"), ("monk", "grey robe", "mountain temple"), ("diver", "brass helmet", "seabed")],
        ["opening!  masterpiece", "wardrobe  [wardrobe]", "closing!  cinematic"],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", SETS)
def test_examples_of_other_hands_come_back(name):
    shape, rows, lines = SETS[name]
    found = learned(WORLD, [shape.format(*row) for row in rows], name, reader=READER)
    assert found.exact == len(rows), found.missed()
    assert all(line in found.learned.formula for line in lines), found.learned.formula


def test_what_is_kept(tmp_path, monkeypatch):
    monkeypatch.setenv("SYNTAGMA_HOME", str(tmp_path))
    shape, rows, _ = SETS["tags"]
    found = learned(
        WORLD,
        [shape.format(*row) for row in [*rows, ("knights", "torn cloaks", "ruins")]],
        "x",
        reader=READER,
    )
    saved = {path.rpartition("/")[2] for path in save(WORLD, found, "x", True)}
    assert {"x.formula", "x-wardrobe.csv"} <= saved
    kept = next(tmp_path.rglob("x-wardrobe.csv")).read_text("utf-8").splitlines()
    assert kept[0] == "term,number" and "torn cloaks,many" in kept and "pointed hat," in kept
    with pytest.raises(Trouble, match="is not a name"):
        learned(WORLD, [shape.format(*row) for row in rows], "bad name", reader=READER)


OWN = [  # examples that differ in something; which slots have a facet of the formula's own, and what is in it
    ("{}, pressed ink on cream paper, no shadow", ["A single tulip in a green bottle", "Three poppies in a chipped jug", "A branch of quince in a tall vase", "Two irises in a tin can"],
     {"subject": ["single tulip", "three poppies", "branch of quince", "two irises"], "setting": ["green bottle", "chipped jug", "tall vase", "tin can"]}),
    ("Sound of {}, recorded close", ["the wheel humming", "iron on oak", "a diamond on glass", "hissing steam"],
     {"sound-effect": ["the wheel humming", "iron on oak", "diamond on glass", "hissing steam"]}),
    ("A poster of {}, bold flat shapes", ["Lisbon with trams", "Kyoto with a red bridge", "Mars with a dome", "Iceland with geysers"],
     {"subject": ["Lisbon with trams", "Kyoto with a red bridge", "Mars with a dome", "Iceland with geysers"]}),
    ("A photograph of a harbour pilot {}, 35mm lens", ["on a wet quay", "on a car deck", "in a ticket office", "on a harbour wall"], {}),
    ("A linocut of {}, ink blue", ["a harbour pilot punching a paper ticket", "a night purser counting coins", "a lighthouse keeper trimming a wick", "a fisherman mending a net"], {}),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "choices", "own"), OWN, ids=[shape[:24] for shape, *_ in OWN])
def test_choices_that_no_facet_has_become_a_facet_of_the_formulas_own(
    shape, choices, own, tmp_path, monkeypatch
):
    monkeypatch.setenv("SYNTAGMA_HOME", str(tmp_path))
    (tmp_path / "facets.toml").write_text("# mine\n[ghost]\nask = 'Which ghost?'")
    found = learned(WORLD, [shape.format(choice) for choice in choices], "x", reader=READER)
    assert {
        slot: facet for slot, facet in found.learned.facets.items() if facet.startswith("x-")
    } == {slot: f"x-{slot}" for slot in own}
    assert found.exact == len(choices), found.missed()
    save(WORLD, found, "x", True)
    there = Workspace.load()
    assert {
        slot: [term.term for term in there.vocabulary[f"x-{slot}"]] for slot in own
    } == own and not there.mistakes
    formula, _ = there.formula("x")
    writer = Writer(formula, PLAIN, there.vocabulary)
    for text in found.learned.bodies:  # and each example comes back from what was kept
        again = writer.write(writer.fills(Matcher(writer).match(text).fills)).text
        assert again.rstrip(".") == text.rstrip(".")
    told = (tmp_path / "facets.toml").read_text()
    assert told.startswith(
        "# mine\n[ghost]\nask = 'Which ghost?'"
    ) and there.vocabulary.participant("x-subject") == ("subject" in own)


def test_options_correct_it():
    lines = [
        f"A {thing}, by the old pier, in {colour}"
        for thing, colour in (
            ("lamp", "teal"),
            ("cap", "rust"),
            ("boat", "cream"),
            ("gull", "gold"),
        )
    ]
    assert "old pier" in learned(WORLD, lines, "x", reader=READER).learned.formula
    opened = learned(WORLD, lines, "x", opened=["by the old pier"], reader=READER)
    assert "old pier" not in opened.learned.formula.partition("+++\n")[2].rpartition("+++")[2]


def test_three_examples_are_too_few():
    with pytest.raises(Trouble, match="3 examples are too few"):
        learned(WORLD, INKED[:3], "x", reader=READER)


ONE = "A linocut of a night purser, on a wet quay. Bold simple shapes, clear space at the top for lettering"
TWO = "A woodcut of a heron, in a walled kitchen garden. Bold simple shapes, clear space at the top for lettering"


@pytest.mark.parametrize("answer", [
    f"1. {ONE}\n2. {TWO}", f"Sure! Here are two:\n\n1) {ONE}\n2) {TWO}\n\nLet me know if you want more.", f"```\n{ONE}\n{TWO}\n```",
    f"```text\n1. {ONE}\n2. {TWO}\n```\nEnjoy!", f"- {ONE}\n- {TWO}", f"**Prompt 1:** {ONE}\n\n**Prompt 2:** {TWO}", f'["{ONE}", "{TWO}"]',
    f'[{{"prompt": "{ONE}"}}, {{"prompt": "{TWO}"}}]', f"Here you are:\n\n{ONE}\n\n{TWO}\n\nI hope these help!", f'1. "{ONE}"\n2. “{TWO}”', f"### Prompt 1\n{ONE}\n\n### Prompt 2\n{TWO}\n",
    f"1. **{ONE}**\n\n2. `{TWO}`", f"```\n{ONE}\n```\n\n```\n{TWO}\n```", f"1. {ONE}\r\n2. {TWO}\r\n", f"{ONE}\n{TWO}",
])  # fmt: skip
def test_answers(answer):
    assert prompts_in_answer(answer) == [ONE, TWO]


def test_taking_an_answer():
    found = take(
        WORLD,
        f"Of course!\n\n1. {ONE}\n2. An linocut of a heron, in fog\n3. {ONE}\n4. Nothing of that kind",
        "poster",
        None,
        7,
    )
    assert [one.good for one in found.prompts] == [True, True, False, False]
    assert (
        found.prompts[0].fills
        == {"medium": "linocut", "subject": "night purser", "setting": "wet quay"}
        and found.prompts[0].text == ONE
    )
    assert (
        found.prompts[1].text.startswith("A linocut of a heron")
        and "clear space at the top for lettering" in found.prompts[1].text
    )
    assert (
        "You gave 4 of 7 prompts. Give 3 more, numbered 5 to 7" in found.reply
        and "Write number 3 and 4 again" in found.reply
    )
    assert take(WORLD, f"1. {ONE}\n2. {TWO}", "poster", None, 2).reply == ""


def test_the_page():
    page = brief(WORLD, "poster", "dunlin-still", 5, wish="six crossings")
    for words in (
        "a [medium] of a [trait] [subject]",
        "[setting, with its preposition: ",
        "bold simple shapes, clear space at the top for lettering",
        "subject; always there",
        "at most 75 tokens",
        "Give 5 prompts for this: six crossings",
        "Number them 1 to 5",
    ):
        assert words in page
    assert page.count("\n1. ") == 2 and "{{" not in page and "\n\n\n" not in page
    stages = [brief(WORLD, "poster", None, 5, stage=n) for n in (1, 2, 3)]
    assert (
        'say only "ready"' in stages[0]
        and "Terms to choose from" in stages[1]
        and "Give 5 prompts" in stages[2]
    )


def test_a_template_of_ones_own(tmp_path):
    (tmp_path / "mine.j2").write_text("{{ formula }}: {{ count }} of {{ fixed|length }}", "utf-8")
    assert brief(WORLD, "poster", None, 5, str(tmp_path / "mine.j2")) == "poster: 5 of 1\n"
    (tmp_path / "bad.j2").write_text("{% for x in %}", "utf-8")
    with pytest.raises(Trouble, match="line 1"):
        brief(WORLD, "poster", None, 5, str(tmp_path / "bad.j2"))
    (tmp_path / "odd.j2").write_text("{{ colour }}", "utf-8")
    with pytest.raises(Trouble, match="colour"):
        brief(WORLD, "poster", None, 5, str(tmp_path / "odd.j2"))
