"""compose, as a person calls it."""

import json

import pytest

from tests.commands.program import good, printed, run

POSTER = [
    "compose",
    "poster",
    "medium=linocut",
    "subject=double-ended car ferry",
    "action=easing off its berth",
]
POSTER += ["setting=slack-water harbour", "light=sodium quay lamps"]
PROSE = (
    "A linocut of a double-ended car ferry easing off its berth, in a slack-water harbour, lit by sodium quay lamps. "
    "Bold simple shapes, clear space at the top for lettering"
)


def test_a_prompt_on_a_pipe_is_the_prompt_and_nothing_else(tmp_path):
    done = run(tmp_path, *POSTER)
    assert (done.stdout, done.stderr, done.returncode) == (PROSE + "\n", "", 0)


def test_each_model_has_its_form(tmp_path):
    assert good(tmp_path, *POSTER, "--model", "curlew-still") == PROSE + ". /shape 2x3\n"
    assert good(tmp_path, *POSTER, "--model", "dunlin-still") == (
        "linocut, double-ended car ferry, easing off its berth, slack-water harbour, sodium quay lamps, bold simple shapes, "
        "clear space at the top for lettering\n"
    )
    assert (
        good(tmp_path, *POSTER, "--model", "dunlin-still", "--print", "negative")
        == "lettering, border\n"
    )


def test_a_formula_on_one_line(tmp_path):
    line = "[a medium] of [a subject], [a lighting]. with a [mood] air"
    out = good(
        tmp_path,
        "compose",
        line,
        "medium=etching",
        "subject=tea urn",
        "lighting=single bare bulb",
        "mood=snug",
    )
    assert out == "An etching of a tea urn, a single bare bulb. With a snug air\n"


def test_records(tmp_path):
    (record,) = printed(good(tmp_path, *POSTER, "--model", "dunlin-still", "--json"))
    assert list(record) == [
        "id",
        "formula",
        "model",
        "text",
        "negative",
        "parameters",
        "request",
        "fills",
        "size",
        "cost",
    ]
    assert record["parameters"] == {"ratio": "2:3", "care": "plain"} and record["cost"] == {
        "amount": 1,
        "currency": "credits",
    }
    assert record["request"]["positive"] == record["text"] and record["request"]["wide"] == 800
    assert record["fills"]["light"] == "sodium quay lamps"
    assert record["size"]["text"] == {"used": 36, "limit": 75, "unit": "tokens"}
    (again,) = printed(good(tmp_path, *POSTER, "--model", "dunlin-still", "--json"))
    assert again["id"] == record["id"]


LONG = [
    "compose",
    "photograph",
    "trait=rain-dark, salt-stained, wind-bitten, sleepless, stubborn, hollow-eyed, lamplit, slow to answer, grey at the temples",
    "subject=harbour pilot; lighthouse keeper",
]
LONG += [
    "action=looking back over one shoulder",
    "setting=wet quay",
    "weather=driving rain",
    "light=sweeping lighthouse beam",
]
LONG += [
    "lens=58mm portrait lens wide open",
    "angle=three-quarter view",
    "mood=expectant",
    "--model",
    "dunlin-still",
]


def test_what_is_too_long_loses_phrases_and_says_so(tmp_path):
    done = run(tmp_path, *LONG, "--json")
    (record,) = printed(done.stdout)
    assert record["size"]["text"]["used"] <= 75
    assert "portrait lens" not in record["text"] and "lighthouse keeper" in record["text"]
    assert "left out to fit 75 tokens of dunlin-still: camera" in done.stderr


def test_what_must_stay_and_is_too_long_is_an_error(tmp_path):
    done = run(
        tmp_path,
        "compose",
        "photograph",
        "subject=" + "harbour pilot " * 60,
        "--model",
        "dunlin-still",
    )
    assert (done.returncode, done.stdout) == (1, "")
    assert "over the 75 allowed" in done.stderr


def test_rows(tmp_path):
    table = tmp_path / "fills.csv"
    table.write_bytes(
        '\ufeffmedium,subject,note\r\nlinocut,"tea urn, dented",x\r\netching,,y\r\n,,\r\nwoodcut,heron,z\r\n'.encode()
    )
    done = run(tmp_path, "compose", "[a medium] of [a subject]!", "--rows", "fills.csv")
    assert done.stdout.splitlines() == [
        "A linocut of a tea urn, dented!",
        "An etching!",
        "A woodcut of a heron!",
    ]
    assert done.returncode == 0
    done = run(
        tmp_path,
        "compose",
        "poster",
        "--rows",
        "-",
        given="medium,subject\nlinocut,heron\nlinocut,\nwoodcut,gull\n",
    )
    assert done.stdout.count("\n") == 2
    assert "standard input:3:1: subject: this slot must be filled" in done.stderr
    assert "2 of 3 rows made a prompt" in done.stderr and done.returncode == 1


@pytest.mark.parametrize("ending", ["txt", "csv", "jsonl", "json", "md"])
def test_out(tmp_path, ending):
    out = tmp_path / f"prompt.{ending}"
    done = run(tmp_path, *POSTER, "--out", out.name)
    assert done.returncode == 0 and done.stdout == ""
    assert PROSE in out.read_text("utf-8")
    if ending.startswith("json"):
        assert json.loads(out.read_text("utf-8"))
    assert [p.name for p in tmp_path.iterdir() if "partial" in p.name] == []


def test_a_persons_own_layers_win(tmp_path):
    for folder, gloss in ((tmp_path / "own", "own"), (tmp_path, "workspace")):
        (folder / "vocabulary").mkdir(parents=True)
        (folder / "vocabulary" / "medium.csv").write_text(
            f"term,phrase,gloss\nlinocut,{gloss} linocut,{gloss}\n{gloss} cut,,\n"
        )
    (tmp_path / "syntagma.toml").write_text('model = "curlew-still"\n')
    below = tmp_path / "deep" / "er"
    below.mkdir(parents=True)
    assert good(below, "compose", "[a medium]", "medium=Linocut") == "A workspace linocut.\n"
    terms = {
        t["term"]: t["gloss"]
        for t in printed(good(tmp_path, "term", "medium", "--json"))
        if "gloss" in t
    }
    assert terms["linocut"] == "workspace" and "woodcut" in terms


def test_a_word_that_no_vocabulary_has_is_taken_with_a_remark(tmp_path):
    (record,) = printed(
        good(
            tmp_path,
            "compose",
            "poster",
            "medium=lino print",
            "subject=pilot boat",
            "light=moon light",
            "--json",
        )
    )
    assert record["text"].startswith("A lino print of a pilot boat, lit by moon light.")
    remarks = {f["at"]: f["remedy"] for f in record["findings"] if f["kind"] == "remark"}
    assert (
        remarks["medium"] == "the vocabulary has “linocut”"
        and remarks["subject"] == "the vocabulary has “wooden pilot launch”"
    )
    assert "“moonlight”" in remarks["light"]


def test_findings_have_codes(tmp_path):
    (record,) = printed(
        good(
            tmp_path,
            "compose",
            "poster",
            "medium=linocut",
            "subject=tea urn",
            "--model",
            "curlew-still",
            "--json",
        )
    )
    assert [f["code"] for f in record["findings"]] == [
        "rewrites",
        "no-negative",
        "no-such-term",
    ] and list(record["findings"][0])[:2] == ["kind", "code"]


@pytest.mark.parametrize("call", [
    ["compose", "picture", "subject=child", "trait=naked"], ["a naked child on a beach"], ["rewrite", "a naked child on a beach", "--model", "curlew-still"],
    ["shorten", "a naked child on a beach, soft light, at dusk", "--to", "5w"], ["shorten", "a naked child on a beach", "--model", "dunlin-still"],
    ["expand", "[a trait subject]", "trait=naked", "--vary", "subject=fox,child"],
])  # fmt: skip
def test_no_command_writes_a_child_undressed(tmp_path, call):
    done = run(tmp_path, *call)
    assert (
        done.returncode
        and "writes no prompt that sexualises or undresses a child" in done.stderr
        and "naked child" not in done.stdout
    ), (done.stdout, done.stderr)


def test_check_finds_it(tmp_path):
    (tmp_path / "p.txt").write_text("a naked child on a beach\n")
    done = run(tmp_path, "check", "p.txt")
    assert (
        done.returncode == 1
        and "writes no prompt that sexualises or undresses a child" in done.stdout
    )


@pytest.mark.parametrize(("given", "text"), [
    (["design-style=cubism"], "A fox, in the style of cubism"),
    (["design-style=tarot card"], "A tarot card of a fox"),  # a thing leads
    (["design-style=tarot card", "medium=linocut"], "A linocut of a fox, as a tarot card"),
    (["genre=western"], "A fox, in the style of a western"),
    (["design-style=cubism", "light=candlelight"], "A fox, lit by candlelight, in the style of cubism"),
    (["design-style=cubism", "shot=close-up"], "A fox, close-up, in the style of cubism"),
    (["pattern=plaid"], "A fox, in plaid"),
    (["finish=glossy"], "A fox, with a glossy finish"),
    (["finish=deckled edge"], "A fox, with a deckled edge"),
    (["era=fifties"], "A fox, in the nineteen-fifties"),
    (["technique=cross-hatching"], "A fox, with cross-hatching"),
    (["colour=red"], "A fox, in red"),
    (["composition=rule of thirds"], "A fox, composed by the rule of thirds"),
    (["ambience=birdsong"], "A fox, with the sound of birdsong"),
    (["film-look=8mm film"], "A fox, shot on 8mm film"),
    (["light-quality=hazy"], "A fox, in a hazy light"),
    (["camera-move=dolly in"], "A fox, the camera dollies in"),
])  # fmt: skip
def test_what_has_no_slot_is_led_to_as_its_facet_is(tmp_path, given, text):
    assert good(tmp_path, "compose", "picture", "subject=fox", *given).strip() == text


def test_a_thing_leads_where_the_formula_has_a_kind_of_its_own(tmp_path):
    assert (
        good(tmp_path, "compose", "photograph", "subject=dog", "genre=wedding photograph").strip()
        == "A wedding photograph of a dog."
    )


def test_somebody_real_is_shown_with_consent_only(tmp_path):
    """A name typed is asked about; somebody called by @name is held to the paper that known.toml names."""
    assert (
        "“Ada Marsh” reads like a person's name"
        in run(tmp_path, "compose", "picture", "subject=Ada Marsh").stderr
    )
    good(tmp_path, "start", "ws")
    known = tmp_path / "ws" / "known.toml"
    said = '[ada]\nwords = "a tall woman"\nperson = "real"\n'
    known.write_text(said)
    assert (
        "ada is a real person, and known.toml names no document"
        in run(tmp_path / "ws", "compose", "picture", "subject=@ada").stderr
    )
    known.write_text(
        said + 'consent = { for = ["picture"], until = 2020-01-01, file = "ada.pdf" }\n'
    )
    assert (
        "the consent of ada ended on 2020-01-01 (ada.pdf)"
        in run(tmp_path / "ws", "compose", "picture", "subject=@ada").stderr
    )
    known.write_text(said + 'consent = { for = ["picture"], file = "ada.pdf" }\n')
    assert run(tmp_path / "ws", "compose", "picture", "subject=@ada").stderr == ""


@pytest.mark.parametrize(
    ("formula", "subject", "slot"),
    [
        ("sticker", "a capybara", "figure"),
        ("landscape", "a canyon", "place"),
        ("food-still", "a pizza", "dish"),
        ("emblem", "a bear", "motif"),
        ("isometric-scene", "a dentist's office", "place"),
        ("macro", "an eyelash", "detail"),
    ],
)
def test_the_subject_is_what_the_formula_is_of(tmp_path, formula, subject, slot):
    found = printed(good(tmp_path, "compose", formula, f"subject={subject}", "--json"))[0]
    assert found["fills"][slot] == subject and subject in found["text"]
    assert family_of(tmp_path, formula, slot) == family_of(tmp_path, formula, "subject")


def family_of(folder, formula, axis):
    return good(folder, "expand", formula, "--vary", f"{axis}=one,two", "-q")
