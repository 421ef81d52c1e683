"""Promises about records: what a copy, a library, a vocabulary, a family said is what is so."""

import json
import sqlite3
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from tests.commands.copies import edited
from tests.commands.odd_services import shown
from tests.commands.program import environment, good, printed, run


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    rows = [
        {"text": f"A car ferry number {n} on a wet quay.", "model": "curlew-still"}
        for n in range(4)
    ]
    (tmp_path / "rows.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    return tmp_path


# A copy of a sheet


def test_a_row_that_was_deleted_in_a_copy_is_told(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    names = [row["id"] for row in shown(here)]
    edited(here, "c.csv", lambda rows: rows[:1] + rows[2:])
    done = run(here, "sheet", "import", "s", "c.csv")
    assert f"missing from it, so unchanged: {names[1]}" in done.stderr and len(shown(here)) == 4
    edited(here, "d.csv", lambda rows: None)
    assert "not in it" not in run(here, "sheet", "import", "s", "d.csv").stderr


def test_a_new_row_that_says_approved_is_open_and_that_is_told(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    edited(
        here,
        "c.csv",
        lambda rows: [
            *rows,
            dict.fromkeys(rows[0], "")
            | {"text": "A hen.", "model": "curlew-still", "status": "approved"},
        ],
    )
    done = run(here, "sheet", "import", "s", "c.csv")
    assert "it is open, not approved" in done.stderr and shown(here)[-1]["status"] == "open"


def test_what_could_not_be_approved_is_not_counted_as_approved(here):
    (here / "rows.jsonl").write_text(
        (here / "rows.jsonl").read_text()
        + json.dumps(
            {"text": "A hen hen hen", "model": "curlew-still", "parameters": {"seed": "x"}}
        )
        + "\n"
    )
    good(here, "sheet", "new", "s", "rows.jsonl")
    edited(
        here,
        "c.csv",
        lambda rows: rows[4].update(text=rows[4]["text"] + ", " * 300 + "word " * 400),
    )
    run(here, "sheet", "import", "s", "c.csv")
    assert "error" in {one["kind"] for one in shown(here)[4]["findings"]}
    edited(here, "d.csv", lambda rows: [row.update(status="Approved ") for row in rows] and None)
    done = run(here, "sheet", "import", "s", "d.csv")
    assert (
        "4 cells changed" in done.stderr
        and "stays open" in done.stderr
        and [row["status"] for row in shown(here)] == ["approved"] * 4 + ["open"]
    )
    again = run(here, "sheet", "import", "s", "d.csv")
    assert "changed on both sides" not in again.stderr and "0 conflicts" in again.stderr


@pytest.mark.parametrize(
    ("model", "behind"),
    [("turnstone-still", ""), ("dunlin-still", ""), ("curlew-still", " /shape 3x2")],
)
def test_a_row_that_is_moved_to_another_model_leaves_the_parameters_of_the_first(
    here, model, behind
):
    record = {
        "text": "A hen on a gate, /shape in hand /shape 2x3 /verbatim",
        "model": "curlew-still",
        "parameters": {"ratio": "2:3", "as-written": True},
    }
    (here / "rows.jsonl").write_text(json.dumps(record) + "\n")
    good(here, "sheet", "new", "s", "rows.jsonl")
    edited(here, "c.csv", lambda rows: rows[0].update({"model": model, "ratio": "3:2"}))
    done = run(here, "sheet", "import", "s", "c.csv")
    row = shown(here)[0]
    assert (
        row["text"].startswith("A hen on a gate, /shape in hand")
        and "/shape 2x3" not in row["text"]
        and behind in row["text"]
        and row["parameters"]["ratio"] == "3:2"
    ), row
    assert row["model"] == model and ("/verbatim" in row["text"]) == (model == "curlew-still")
    assert model == "curlew-still" or "as-written" in done.stderr


@pytest.mark.parametrize(
    ("where", "found"),
    [
        ('text~"salt and pepper"', 1),
        ("text~salt and pepper", 1),
        ("text~salt and cost>3", 1),
        ('text~"salt and pepper" and cost>3', 1),
        ('text~"salt and pepper" and cost>30', 0),
        ("cost>3 and status=open", 2),
    ],
)
def test_a_condition_may_hold_the_word_and(here, where, found):
    (here / "rows.jsonl").write_text(
        "".join(
            json.dumps({"text": text, "model": "curlew-still"}) + "\n"
            for text in ("A salt and pepper beard.", "A hen.")
        )
    )
    good(here, "sheet", "new", "s", "rows.jsonl")
    done = run(here, "sheet", "show", "s", "--where", where, "--json")
    assert done.returncode == (not found) and len(printed(done.stdout)) == found, done.stderr


# The library


def picture(path, colour=(200, 40, 40)):
    from PIL import Image

    path.parent.mkdir(exist_ok=True)
    Image.new("RGB", (60, 40), colour).save(path)


def test_terms_of_use_come_along_with_what_was_downloaded_by_hand(here):
    good(here, "sheet", "new", "s", "rows.jsonl")
    row = shown(here)[0]["id"]
    picture(here / "Downloads" / f"{row}.png")
    good(here, "library", "add", "Downloads", "--match", "s", "--yes")
    assert "commercial use: yes" in printed(good(here, "library", "show", "1", "--json"))[0]["use"]
    good(here, "bundle", "1", "--out", "b.zip")


@pytest.mark.parametrize("words", [[], ["--prompts"]])
def test_whose_the_pictures_are_stands_in_each_with_prompts_or_without(here, words):
    from syntagma.formats.metadata.pictures import said

    picture(here / "a.png")
    good(here, "library", "add", "a.png", "--prompt", "A very secret prompt")
    good(
        here,
        "bundle",
        "1",
        "--out",
        "b.zip",
        "--use",
        "ours",
        "--credit",
        "Lantern Reach Ferries",
        *words,
    )
    with zipfile.ZipFile(here / "b.zip") as archive:
        data = archive.read(
            next(
                name
                for name in archive.namelist()
                if name.endswith(".png") and "contact" not in name
            )
        )
    found = said(data)
    assert (
        found.properties.credit == "Lantern Reach Ferries"
        and bool(found.prompt) == bool(words)
        and (b"secret" in data) == bool(words)
    )


def test_a_folder_of_the_name_of_a_sheet_does_not_hide_it(here):
    good(here, "sheet", "new", "laundry", "rows.jsonl")
    picture(here / "laundry" / "a.png")
    base = sqlite3.connect(here / "ledger.sqlite")
    row = base.execute("select id from rows limit 1").fetchone()[0]
    base.execute(
        "insert into takes (sheet, row, number, state, file) values ('laundry', ?, 1, 'done', 'laundry/a.png')",
        (row,),
    )
    base.commit()
    good(here, "library", "add", "laundry")
    assert printed(good(here, "library", "show", "1", "--json"))[0]["sheet"] == "laundry"
    (here / "other").mkdir()
    assert "other is a folder" in run(here, "library", "add", "other").stderr


# The vocabulary


@pytest.mark.parametrize("term", ["A lit aquarium", "the quay", "lit aquarium.", "lit aquarium!"])
def test_a_table_takes_no_term_that_add_refuses(here, term):
    (here / "t.csv").write_text(f"term\n{term}\nferry lamp\n")
    alone, table = (
        run(here, "term", "new", "subject", term),
        run(here, "term", "import", "t.csv", "--facet", "subject"),
    )
    assert (
        alone.returncode == 2
        and "1 imported, 1 left out" in table.stdout
        and alone.stderr.splitlines()[0].partition(": ")[2] in table.stdout
    )
    good(here, "term", "new", "setting", "The Ounce", "--number", "name")


def test_a_term_that_hides_one_of_ours_says_so_and_is_taken_out_again(here):
    ours = printed(good(here, "term", "lens", "--json"))[0]["term"]
    assert (
        "replaces the built-in term"
        in run(here, "term", "new", "lens", ours, "--gloss", "mine").stderr
    )
    (here / "t.csv").write_text(f'term,gloss\n"{ours}",again\nmy lens,"two\nlines, of it"\n')
    good(here, "term", "remove", ours)
    assert (
        "replaces the built-in term"
        in run(here, "term", "import", "t.csv", "--facet", "lens").stderr
    )
    before = (here / "vocabulary/lens.csv").read_bytes()
    good(here, "term", "new", "lens", "third lens")
    good(here, "term", "remove", "third lens")
    assert (here / "vocabulary/lens.csv").read_bytes() == before
    good(here, "term", "remove", ours)
    done = run(here, "term", "remove", ours)
    assert (
        done.returncode == 2
        and "ships with Syntagma" in done.stderr
        and "no term is called" in run(here, "term", "remove", "xyzzyq").stderr
    )


def test_several_terms_are_starred_in_one_call(here):
    done = good(here, "term", "star", "85mm lens", "50mm lens")
    assert done.count("starred") == 2
    assert (
        run(here, "term", "star", "85mm lens", "xyzzyq").returncode == 2
        and good(here, "term", "unstar", "85mm lens", "50mm lens").count("not starred") == 2
    )


# Families, and prompts that exist


def test_a_theme_that_varies_picks_for_itself(here):
    made = good(
        here,
        "expand",
        "poster",
        "medium=linocut",
        "subject=fox",
        "--vary",
        "theme=night,festive,city",
        "--detail",
        "usual",
    ).splitlines()
    assert len(made) == len(set(made)) == 3


def test_a_draw_of_the_call_goes_over_that_of_a_plan(here):
    good(here, "expand", "poster", "--count", "3", "--draw", "7", "--save-plan", "p.toml")
    texts = {
        draw: good(here, "expand", "p.toml", *words)
        for draw, words in {"plan": [], "1": ["--draw", "1"], "7": ["--draw", "7"]}.items()
    }
    assert (
        texts["plan"] == texts["7"] != texts["1"] == good(here, "expand", "poster", "--count", "3")
    )


def test_what_is_no_file_of_prompts_is_not_read_as_one(here):
    (here / "p.toml").write_text('formula = "poster"\n')
    for call in (["check", "p.toml"], ["read", "p.toml"], ["sheet", "new", "s", "p.toml"]):
        assert "is not a file of prompts" in run(here, *call).stderr


@pytest.mark.parametrize(("text", "kept_out"), [
    ("a red fox --no people, text", "people, text"), ("a red fox --no people, text --seed 4", "people, text"), ("a red fox --no people", "people"), ("a fox --no=red ink, blur /shape 2x3", "red ink, blur"),
    ("a fox --no people, text\nand a hen", "people, text"), ("a fox --negative blur", "blur"),
])  # fmt: skip
def test_a_list_of_what_to_keep_out_is_kept_whole(here, text, kept_out):
    assert printed(good(here, "read", text, "--json"))[0]["negative"] == kept_out


def test_nothing_is_called_left_out_where_all_came(here):
    done = run(here, "expand", "poster", "--count", "3", "--draw", "2")
    assert len(done.stdout.splitlines()) == 3 and "left out" not in done.stderr


def test_a_learned_formula_with_clothes_leaves_those_of_the_subject(here):
    people = ("young woman with red hair", "baker", "boy with a kite", "nurse")
    clothes = ("white coat", "floury apron", "yellow raincoat", "blue dress")
    (here / "e.txt").write_text(
        "".join(
            f"A portrait of a {who} in a {what}, soft window light, muted colours.\n"
            for who, what in zip(people, clothes, strict=True)
        )
    )
    good(here, "formula", "learn", "worn", "e.txt", "--save")
    made = good(
        here,
        "expand",
        "worn",
        "subject=harbour pilot",
        "--vary",
        "wardrobe=tweed suit,red raincoat",
    ).splitlines()
    assert made == [
        f"A portrait of a harbour pilot in a {what}, soft window light, muted colours"
        for what in ("tweed suit", "red raincoat")
    ]


def test_hundreds_of_prompts_go_to_a_screen_only_when_asked(here):
    words = [
        "expand",
        "poster",
        "subject=fox",
        "--design",
        "full",
        "--vary",
        "medium:15",
        "--vary",
        "light:21",
        "--model",
        "curlew-still",
    ]
    done = run(here, *words, screen=True)
    assert done.returncode == 2 and "the family has 315 prompts" in done.stderr and not done.stdout
    assert (
        run(here, *words, "--count", "3", screen=True).returncode == 0
        and len(good(here, *words).splitlines()) > 300
    )


NESTED = 'media = "video"\n[text]\nregister = "nested"\n[nested]\nvalues = "prose"\n[parameter.seed]\ntype = "integer"\n[request]\nwho = "{text.pair}"\nplace = { at = "{text.place}" }\n'


def test_what_has_no_place_in_a_request_is_told(here):
    (here / "models/fieldy.toml").write_text(NESTED)
    words = [
        "compose",
        "dialogue-shot",
        "--pick",
        "line=Last boat",
        "answer=Mind the step",
        "--model",
        "fieldy",
        "--parameter",
        "seed=4",
        "--json",
    ]
    (record,) = printed(good(here, *words))
    (said,) = [one["message"] for one in record["findings"] if one["code"] == "no-place"]
    assert (
        all(name in said for name in ("first", "second", "ambience", "seed", "negative"))
        and "pair" not in said
        and "place," not in said.partition(" have no")[0]
    )
    (here / "models/fieldy.toml").write_text(
        NESTED.replace(
            "[request]", '[request]\nall = "{text}"\nseed = "{seed}"\nnot = "{negative}"'
        )
    )
    (record,) = printed(good(here, *words))
    assert not [one for one in record["findings"] if one["code"] == "no-place"]
    (here / "bare.jsonl").write_text(
        json.dumps({"text": '{"pair": "two", "hour": "dusk"}', "model": "fieldy"}) + "\n"
    )
    (here / "models/fieldy.toml").write_text(NESTED)
    good(here, "sheet", "new", "n", "bare.jsonl")
    assert "hour has no place in the request" in shown(here, "n")[0]["findings"][0]["message"]


def test_a_campaign_over_its_budget_says_so(tmp_path):
    source = Path(__file__).parents[2] / "src/syntagma/data/demo/workspace/ferries.campaign.toml"
    text = source.read_text()
    assert "budget" in text
    import re

    (tmp_path / "ferries.campaign.toml").write_text(
        re.sub(r"(?m)^budget = .*$", "budget = 10", text)
    )
    good(tmp_path, "start", ".")
    pieces = [
        piece["piece"] for piece in printed(good(tmp_path, "campaign", "plan", "ferries", "--json"))
    ]
    good(tmp_path, "campaign", "approve", "ferries", *pieces[:12])
    done = run(tmp_path, "campaign", "plan", "ferries")
    assert done.returncode == 1 and "more than the budget of 10" in done.stderr
    assert "more than the budget of 10" in run(tmp_path, "campaign", "make", "ferries").stderr


@pytest.mark.parametrize(
    ("module", "call"),
    [
        ("PIL", ["read", "a.png"]),
        ("PIL", ["duplicates", "a.png"]),
        ("scipy", ["effects", "f.jsonl"]),
        ("PIL", ["bundle", "1", "--out", "b.zip", "--use", "mine"]),
    ],
)
def test_a_package_that_is_not_installed_is_named_with_what_installs_it(tmp_path, module, call):
    """Without the package, in a process of its own: two lines and status 3, no defect."""
    good(tmp_path, "start", ".")
    picture(tmp_path / "a.png")
    good(tmp_path, "library", "add", "a.png", "--prompt", "A hen.")
    good(
        tmp_path,
        "expand",
        "poster",
        "subject=fox",
        "--vary",
        "light:4",
        "--out",
        "f.jsonl",
        "--model",
        "curlew-still",
    )
    code = f"import sys; sys.modules[{module!r}] = None; from syntagma.cli import main; sys.exit(main({call!r}))"
    done = subprocess.run(
        [sys.executable, "-c", code],
        cwd=tmp_path,
        env=environment(tmp_path),
        capture_output=True,
        text=True,
    )
    assert (
        done.returncode == 3
        and "which is not installed" in done.stderr
        and "pip install 'syntagma[results]'" in done.stderr
        and "bug" not in done.stderr
    ), done.stderr
