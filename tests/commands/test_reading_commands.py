"""read, rewrite, compare, learn, shorten and brief, as a person calls them."""

import json
import subprocess

import pytest
from openpyxl import Workbook

from tests.commands.program import PROGRAM, environment, good, printed, run

PILOT = "A linocut of a harbour pilot on a wet quay, lit by sodium quay lamps /shape 2x3"


def facets(record):
    return [p["facet"] for p in record["pieces"] if p["kind"] == "part"]


def test_read(tmp_path):
    shown = good(tmp_path, "read", PILOT)
    for words in (
        PILOT,
        "medium",
        "on a wet quay",
        "wet quay",
        "%",
        "parameter ratio",
        "sure",
        "why",
    ):
        assert words in shown
    (record,) = printed(good(tmp_path, "read", PILOT, "--json"))
    assert "".join(p["text"] for p in record["pieces"]) == PILOT and record["form"] == "prose"
    assert facets(record) == ["medium", "subject", "setting", "lighting"] and record[
        "parameters"
    ] == {"ratio": "2:3"}
    first = record["pieces"][0]
    assert 0.6 < first.pop("sure") <= 1 and first == {
        "kind": "part",
        "text": "A linocut",
        "start": 0,
        "stop": 9,
        "facet": "medium",
        "why": "in the vocabulary",
        "term": "linocut",
    }


@pytest.mark.parametrize(("name", "text", "prompts"), [
    ("lines.txt", "a ferry, fog\n\na quay at dusk\n", ["a ferry, fog", "a quay at dusk"]), ("numbered.txt", "1. a ferry\n2. a quay,\nat dusk\n3) a gull\n", ["a ferry", "a quay,\nat dusk", "a gull"]),
    ("blocks.txt", "a ferry,\nin fog\n\na quay\nat dusk\n", ["a ferry,\nin fog", "a quay\nat dusk"]), ("label.txt", "MAIN | a ferry\nPLACE | a quay\n", ["MAIN | a ferry\nPLACE | a quay"]),
    ("a.csv", "id,Prompt\n1,\"a ferry, fog\"\n2,a quay\n", ["a ferry, fog", "a quay"]), ("a.json", '["a ferry", "a quay"]', ["a ferry", "a quay"]),
    ("b.json", '{"subject": "a ferry", "light": "low moon"}', ['{"subject": "a ferry", "light": "low moon"}']), ("a.jsonl", '{"text": "a ferry"}\n{"text": "a quay"}\n', ["a ferry", "a quay"]),
    ("c.json", '[{"text": "a ferry"}, {"prompt": "a quay"}]', ["a ferry", "a quay"]),
])  # fmt: skip
def test_files_of_prompts(tmp_path, name, text, prompts):
    (tmp_path / name).write_text(text, "utf-8")
    lines = good(tmp_path, "read", name, "--json").strip()
    records = printed(lines)
    assert [r["text"] for r in records] == prompts


def test_tables_pipes_and_columns(tmp_path):
    book = Workbook()
    for row in (["what", "words"], ["x", "a ferry"], ["y", "a quay"]):
        book.active.append(row)
    book.save(tmp_path / "a.xlsx")
    assert (
        "several columns, none of them “text” or “prompt”" in run(tmp_path, "read", "a.xlsx").stderr
    )
    assert [
        one["text"]
        for one in printed(good(tmp_path, "read", "a.xlsx", "--column", "words", "--json"))
    ] == ["a ferry", "a quay"]
    assert [
        one["text"]
        for one in printed(run(tmp_path, "read", "-", "--json", given="a ferry\na quay\n").stdout)
    ] == ["a ferry", "a quay"]


@pytest.mark.parametrize(("name", "text", "column", "prompts"), [
    ("a.json", '[{"q": "a ferry, fog", "n": 1}, {"q": "a quay", "n": 2}]', "q", ["a ferry, fog", "a quay"]), ("a.jsonl", '{"q": "a ferry"}\n{"q": "a quay"}\n', "q", ["a ferry", "a quay"]),
    ("-", '{"text": "a ferry"}\n{"text": "a quay"}\n', "", ["a ferry", "a quay"]), ("-", '["a ferry",\n"a quay"]', "", ["a ferry", "a quay"]), ("-", "1. a ferry\n2. a quay\n", "", ["a ferry", "a quay"]),
])  # fmt: skip
def test_records_and_pipes(tmp_path, name, text, column, prompts):
    if name != "-":
        (tmp_path / name).write_text(text, "utf-8")
    words = ["read", name, "--json", *(["--column", column] if column else [])]
    assert [
        one["text"] for one in printed(good(tmp_path, *words, given=text if name == "-" else ""))
    ] == prompts


def test_columns_that_are_not_there(tmp_path):
    (tmp_path / "a.json").write_text('[{"q": "a ferry"}]', "utf-8")
    (tmp_path / "a.txt").write_text("a ferry", "utf-8")
    assert (
        "nothing under “z”\n  name it: --column q"
        in run(tmp_path, "read", "a.json", "--column", "z").stderr
    )
    assert "a.txt has no columns" in run(tmp_path, "read", "a.txt", "--column", "z").stderr
    for command in (["read", "-"], ["rewrite", "-", "--swap", "a=b"], ["shorten", "-"]):
        nothing = run(tmp_path, *command, given="\n\n")
        assert nothing.returncode == 2 and "standard input has no prompts" in nothing.stderr


@pytest.mark.long
def test_a_pipe_is_read_as_it_comes(tmp_path):
    """What has come is shown before the pipe is closed."""
    line = "a ferry in fog, low moon, " * 40 + "a quay\n"
    program = subprocess.Popen(
        [PROGRAM, "read", "-", "--json"],
        cwd=tmp_path,
        env=environment(tmp_path),
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
    program.stdin.write(line.encode() * 70)
    program.stdin.flush()
    came = b"".join(iter(program.stdout.readline, b'  "line": 1,\n')) + program.stdout.readline()
    assert came.startswith(b'{\n"items": [\n') and b'"source": "standard input"' in came
    program.stdin.close()
    assert (
        len(
            printed(
                (came + b'"line": 1, ' + program.stdout.read())
                .decode()
                .replace(came.decode(), '{"items": [{', 1)
            )
        )
        == 70
        and program.wait() == 0
    )


def test_bad_input(tmp_path):
    (tmp_path / "a.txt").write_bytes(b"a ferry\0\1\2")
    assert (
        "is not text" in run(tmp_path, "read", "a.txt").stderr
        and "no.txt does not exist" in run(tmp_path, "read", "no.txt").stderr
    )
    (tmp_path / "b.txt").write_bytes("a café, fog\n".encode() + "a café, mist\n".encode("cp1252"))
    done = run(tmp_path, "read", "b.txt", "--json")
    assert [one["text"] for one in printed(done.stdout)] == [
        "a café, fog",
        "a café, mist",
    ] and "line 2 is not UTF-8" in done.stderr
    (tmp_path / "c.txt").write_bytes("a café, fog".encode("utf-16"))
    assert printed(good(tmp_path, "read", "c.txt", "--json"))[0]["text"] == "a café, fog"
    done = run(tmp_path, "read", '{"subject": "a ferry", "light": "low')
    assert (
        done.returncode == 1
        and "a ferry" in done.stdout
        and "not complete JSON" in done.stderr
        and "line 1, column" in done.stderr
    )
    assert "nothing to read" in run(tmp_path, "read", " ").stderr
    shown = good(tmp_path, "read", "a \x1b[31mferry\x07, fog")
    assert "\x1b" not in shown and "\x07" not in shown and "␛[31mferry␇" in shown


@pytest.mark.long
def test_a_long_file_streams(tmp_path):
    (tmp_path / "many.txt").write_text("a ferry, fog\n" * 800, "utf-8")
    assert len(printed(good(tmp_path, "read", "many.txt", "--json"))) == 800


def test_read_by_formula(tmp_path):
    text = good(
        tmp_path, "compose", "poster", "medium=linocut", "subject=night purser", "light=candlelight"
    ).strip()
    assert printed(good(tmp_path, "read", text, "--written-with", "poster", "--json"))[0][
        "fills"
    ] == {
        "medium": "linocut",
        "subject": "night purser",
        "light": "candlelight",
    }
    assert (
        "was not written with portrait"
        in run(
            tmp_path, "read", "Something else entirely, friend", "--written-with", "portrait"
        ).stderr
    )


@pytest.mark.long
def test_recast(tmp_path):
    made = good(tmp_path, "rewrite", PILOT, "--formula", "photograph", "--model", "curlew-still")
    assert (
        made == "A linocut of a harbour pilot on a wet quay, lit by sodium quay lamps. /shape 2x3\n"
    )
    assert good(tmp_path, "rewrite", PILOT, "--swap", "harbour pilot=umpire").startswith(
        "A linocut of an umpire on a wet quay"
    )
    assert (
        good(tmp_path, "rewrite", PILOT, "--set", "lighting=candlelight")
        == "A linocut of a harbour pilot on a wet quay, lit by candlelight /shape 2x3\n"
    )
    assert (
        printed(good(tmp_path, "rewrite", PILOT, "--model", "avocet-still"))["setting"]
        == "on a wet quay"
    )
    (record,) = printed(
        good(tmp_path, "rewrite", PILOT, "--formula", "poster", "--pick", "--draw", "2", "--json")
    )
    assert (
        record["fills"]["subject"] == "harbour pilot on a wet quay"
        and record["fills"]["palette"]
        and "setting" not in record["fills"]
        and record["before"]["pieces"][0]["text"] == "A linocut"
    )
    several = good(
        tmp_path, "rewrite", "-", "--swap", "ferry=tram", given="a ferry, fog\nan old ferry, mist\n"
    )
    assert several == "a tram, fog\nan old tram, mist\n"
    assert (
        "a formula has its own order"
        in run(tmp_path, "rewrite", PILOT, "--formula", "poster", "--order", "camera").stderr
    )
    mounted = good(tmp_path, "rewrite", PILOT, "--formula", "photograph", "--look", "two-inks")
    assert (
        mounted != good(tmp_path, "rewrite", PILOT, "--formula", "photograph")
        and "harbour pilot" in mounted
    )
    assert "no change was asked for" in run(tmp_path, "rewrite", PILOT).stderr
    assert "--pick needs a formula" in run(tmp_path, "rewrite", PILOT, "--pick").stderr


def test_nothing_given_is_told_by_each_command(tmp_path):
    for call in (
        ["read", ""],
        ["compare", "a fox", ""],
        ["shorten", ""],
        ["compose", "poster", "--from", ""],
    ):
        done = run(tmp_path, *call)
        assert (
            done.returncode == 2
            and ("nothing in it" in done.stderr or "nothing to read" in done.stderr)
            and len(done.stderr.splitlines()) == 2
        ), (
            call,
            done.stderr,
        )


def test_compare(tmp_path):
    found = printed(
        good(
            tmp_path,
            "compare",
            "A red ferry, full moonlight",
            "A red ferry, hard noon sun",
            "--json",
        )
    )
    assert [p["how"] for p in found["parts"]] == ["same", "changed"] and 0 < found["distance"] < 1
    assert "1 same, 1 changed" in good(
        tmp_path, "compare", "A red ferry, full moonlight", "A red ferry, hard noon sun"
    )


def test_learn(tmp_path):
    good(tmp_path, "start", "w")
    folder = tmp_path / "w"
    things = ("brass lamp", "tarred rope", "tin whale", "paper moon", "clay owl")
    (folder / "ex.txt").write_text(
        "".join(
            f"A {thing} on a workbench, heavy ink outlines, lit by one candle /shape 2x3\n"
            for thing in things
        ),
        "utf-8",
    )
    done = run(folder, "formula", "learn", "inked", "ex.txt", "--save")
    assert (
        done.returncode == 0
        and "[a subject]" in done.stdout
        and "it reproduces 5 of 5 examples exactly" in done.stderr
        and "formulas/inked.formula" in done.stderr
    )
    assert (
        "a new facet, inked-subject" in done.stderr
        and 'syntagma term new inked-subject "…"' in done.stderr
    )
    assert "tin whale" in (folder / "vocabulary" / "inked-subject.csv").read_text(
        "utf-8"
    ) and "content" in (folder / "looks" / "inked.formula").read_text("utf-8")
    made = good(folder, "compose", "inked", "subject=oil can", "--model", "curlew-still")
    assert made == "An oil can on a workbench, heavy ink outlines, lit by one candle. /shape 2x3\n"
    picked = {
        good(folder, "compose", "inked", "--pick", "--draw", str(n), "--model", "curlew-still")
        for n in range(1, 9)
    }
    assert len(picked) > 2 and all(
        any(f" {thing} on a workbench" in text for thing in things) for text in picked
    )  # it stays of their kind
    assert "exists already" in run(folder, "formula", "learn", "inked", "ex.txt", "--save").stderr
    assert (
        "too few to tell what is fixed"
        in run(folder, "formula", "learn", "other", "-", given="a\nb\n").stderr
    )


@pytest.mark.long
def test_condense(tmp_path):
    long = "A linocut of a tired harbour pilot on a wet quay, lit by sodium quay lamps, with a melancholy mood, fine detail, 8k"
    shown = good(tmp_path, "shorten", long)
    assert "goes" in shown and "stays" in shown and "says nothing that can be placed" in shown
    short = good(tmp_path, "shorten", long, "--to", "12w").strip()
    assert len(short.split()) <= 12 and "pilot" in short and "8k" not in short
    steps = good(tmp_path, "shorten", long, "--steps", "4", "--keep", "8k").splitlines()
    assert (
        len(steps) == 4
        and all("8k" in step for step in steps)
        and [len(s) for s in steps] == sorted(map(len, steps), reverse=True)
    )
    assert "an estimate from the text" in run(tmp_path, "shorten", long).stderr
    assert (
        len(
            good(
                tmp_path, "shorten", "-", "--to", "9w", given=f"{long}\n{long}, foggy\n"
            ).splitlines()
        )
        == 2
    )
    made = good(
        tmp_path, "compose", "poster", "subject=heron", "setting=wet quay", "light=candlelight"
    ).strip()
    (record,) = printed(good(tmp_path, "shorten", made, "--written-with", "poster", "--json"))
    assert (
        all(
            "bold simple shapes, clear space at the top for lettering" in step.lower()
            for step in record["steps"]
        )
        and len(record["steps"]) > 2
    )
    fitted = good(tmp_path, "shorten", ", ".join([long] * 6), "--model", "dunlin-still")
    assert len(fitted) < 400
    assert (
        run(tmp_path, "shorten", "A ferry", "--to", "1c").returncode == 1
        and "--to 12w" in run(tmp_path, "shorten", long, "--to", "12").stderr
    )
    nested = '{"subject": "a ferry in fog", "mood": {"extra": "fine detail, 8k"}, "seed": 7}'
    assert (
        good(tmp_path, "shorten", nested, "--to", "50c").strip()
        == '{"subject": "a ferry in fog", "seed": 7}'
    )
    broken = run(tmp_path, "shorten", '{"subject": "a ferry')
    assert (
        broken.returncode == 1
        and "not complete JSON" in broken.stderr
        and "Traceback" not in broken.stderr
    )


def test_brief(tmp_path):
    assert "Give 4 prompts" in good(tmp_path, "brief", "poster", "--count", "4")
    staged = printed(good(tmp_path, "brief", "poster", "--staged", "--json"))
    assert len(staged) == 3 and all(one["message"] and one["expect"] for one in staged)
    one = good(tmp_path, "compose", "poster", "medium=linocut", "subject=heron").strip()
    (tmp_path / "answer.txt").write_text(
        f"Sure!\n\n1. {one}\n2. An etching of a tin crab. Bold simple shapes, clear space at the top for lettering\n\nEnjoy!",
        "utf-8",
    )
    done = run(
        tmp_path, "brief", "poster", "--import", "answer.txt", "--count", "7", "--out", "f.jsonl"
    )
    assert (
        done.returncode == 1
        and "7 asked, 2 came" in done.stderr
        and "Give 5 more, numbered 3 to 7" in done.stderr
    )
    family = [json.loads(line) for line in (tmp_path / "f.jsonl").read_text("utf-8").splitlines()]
    assert (
        [r["fills"]["subject"] for r in family] == ["heron", "crab"]
        and family[1]["fills"]["trait"] == "tin"
        and family[0]["text"] == one
    )
    assert (
        run(tmp_path, "brief", "poster", "--import", "answer.txt", "--count", "2").returncode == 0
    )
    assert "--out belongs to --import" in run(tmp_path, "brief", "poster", "--out", "x.txt").stderr


def test_a_prompt_for_each_scene(tmp_path):
    story = "The night purser counts tickets under a bare bulb. Two children wave from the rail of the last boat. A fox trots along the empty quay. A woman unlocks the shop. A dog sleeps on the steps."
    done = run(tmp_path, "compose", "photograph", "--from", story)
    assert (
        len(done.stdout.splitlines()) == 5
        and "a fox trotting along the empty quay" in done.stdout
        and "gave subject" in done.stderr
    )
    (tmp_path / "page.md").write_text(
        "# Bakery\n\nWe bake.\n\n- A dark rye loaf on a floured board\n- Almond croissants in a bag\n",
        "utf-8",
    )
    assert [
        r["fills"]["dish"]
        for r in printed(good(tmp_path, "compose", "food-still", "--from", "page.md", "--json"))
    ] == [
        "dark rye loaf on a floured board",
        "almond croissants in a bag",
    ]


def test_one_prompt_becomes_a_formula(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    text = (
        "A night-shift baker shaping rye loaves on a floured bench, lit by one bare bulb, 35mm lens"
    )
    learned = printed(good(tmp_path, "formula", "learn", "night-shift", "--text", text, "--json"))
    assert (
        learned["exact"] == 1
        and learned["facets"]["lighting"] == "lighting"
        and learned["terms"]["lens"] == ["35mm lens"]
    )
    good(tmp_path, "formula", "learn", "night-shift", "--text", text, "--save")
    again = good(tmp_path, "compose", "night-shift")
    assert again.strip() == text
    assert "lit by a lantern" in good(tmp_path, "compose", "night-shift", "lighting=a lantern")
    for call in (["formula", "learn", "x"], ["formula", "learn", "x", "p.txt", "--text", text]):
        assert "files of examples, or one prompt" in run(tmp_path, *call).stderr


@pytest.mark.parametrize(("wish", "formula", "said"), [
    ("product shot of a ceramic coffee grinder on slate, soft box light from left", "", "A product shot of a ceramic coffee grinder on slate, soft box light from left\n"),
    ("Could you make a moody portrait of my grandmother baking bread, warm window light?", "portrait", "A moody portrait of my grandmother baking bread, warm window light\n"),
    ("the morning the snow came, Ada found the bakery door frozen shut", "", "The morning the snow came, Ada found the bakery door frozen shut\n"),
    ("a sticker of a sleepy otter hugging a cup of cocoa", "sticker", "A sticker of a sleepy otter hugging a cup of cocoa\n"),
    ("A bride has lost her shoe. Her father kneels to pull it out.", "", "A bride has lost her shoe. Her father kneels to pull it out.\n"),
])  # fmt: skip
def test_a_wish_without_a_formula_keeps_its_words(tmp_path, wish, formula, said):
    done = run(tmp_path, "compose", "--from", wish)
    assert (done.returncode, done.stdout) == (0, said) and (
        f"“{formula}” is also a formula" in done.stderr
    ) == bool(formula)


def test_what_a_wish_says_beside_its_words_goes_where_it_belongs(tmp_path):
    wish = "please make a 16:9 clip of a fox in the snow, ten seconds, no people"
    (record,) = printed(
        good(tmp_path, "compose", "--from", wish, "--model", "whimbrel-motion", "--json")
    )
    assert (
        record["text"].startswith("A fox in the snow")
        and record["negative"].endswith("people")
        and record["parameters"]["ratio"] == "16:9"
    )
    assert {"parameter-in-request", "negative-beside"} <= {
        one["code"] for one in record["findings"]
    }
    tagged = printed(
        good(
            tmp_path,
            "compose",
            "--from",
            "an ink drawing of a crooked house, rainy window behind, no text",
            "--model",
            "dunlin-still",
            "--json",
        )
    )[0]
    assert (
        tagged["text"] == "ink drawing, crooked house, rainy window behind"
        and tagged["negative"] == "text"
    )
    assert "“libary” is read as “library”" in run(tmp_path, "an old libary at night", "-v").stderr


@pytest.mark.parametrize(("call", "text"), [
    (["compose", "--from", "an old fisherman mending a net, harbour at dawn, no people", "--form", "tags"], "old fisherman, mending a net, harbour at dawn"), (["a fox in the snow, dawn", "--form", "prose"], "A fox in the snow, dawn"),
    (["compose", "poster", "subject=car ferry", "--form", "tags"], "car ferry, bold simple shapes, clear space at the top for lettering"), (["rewrite", "1girl, silver hair, forest", "--form", "tags"], "1girl, silver hair, forest"),
])  # fmt: skip
def test_a_form_without_a_model(tmp_path, call, text):
    assert good(tmp_path, *call).strip() == text


@pytest.mark.parametrize(("wish", "model", "said"), [
    ('{"subject": "a red fox", "light": "dusk", "exclude": ["text"]}', "", {"text": "A red fox, at dusk", "negative": "text"}), ("a moor at dusk /shape 4x5 /seed 12", "", {"text": "A moor at dusk", "parameters": {"ratio": "4:5", "seed": "12"}}),
    ("a moor, no ships, Steps: 30, Size: 512x512", "", {"text": "A moor", "negative": "ships", "parameters": {"steps": "30", "size": "512x512"}}), ("<silver hair @1.3>, girl", "dunlin-still", {"text": "<silver hair @1.3>, girl"}),
    ("three versions of a fox", "curlew-still", {"text": "A fox. /sheets 3"}), ("a fox --aspect 16:9", "curlew-still", {"text": "A fox. /shape 16x9"}), ("a beach -sunny", "curlew-still", {"text": "A beach -sunny."}),
])  # fmt: skip
def test_what_stands_in_notation_is_read_with_and_without_a_model(tmp_path, wish, model, said):
    (record,) = printed(
        good(tmp_path, "compose", "--from", wish, *(["--model", model] if model else []), "--json")
    )
    assert {name: record[name] for name in said} == said


def test_the_model_decides_what_moves(tmp_path):
    """A wish for a clip is not a prompt for a model of stills, which says so; a model of clips makes anything move."""
    wish, still = "slow push in on a boxer taping her hands, she exhales", "a fox in the snow"
    told = run(tmp_path, "compose", "--from", wish, "--model", "curlew-still")
    assert (
        "this asks for a clip, but curlew-still makes still pictures" in told.stderr
        and "asks for"
        not in run(tmp_path, "compose", "--from", still, "--model", "knot-motion").stderr
    )
    kind = {
        model: json.loads(
            run(
                tmp_path,
                "compose",
                "--from",
                still,
                "--json",
                *(["--model", model] if model else []),
            ).stdout
        )["items"][0]["kind"]
        for model in ("", "knot-motion")
    }
    assert kind == {"": "photographed", "knot-motion": "moving"}


@pytest.mark.parametrize(("wish", "told"), [
    ("My niece loves trucks and mud. Could you make a fox in a van?", "“My niece loves trucks and mud” is left out"), ("could you please", "does not say what to show"), ("a fox, 16:9", "“16:9” is kept beside the text"), ("(fox:1.3) in snow", "weights need a model, so these are left out: fox 1.3"), ("three versions of a fox", "3 pictures are asked for"), ('{"subject": "a fox", "light": "du', "this is not complete JSON"),
])  # fmt: skip
def test_nothing_of_a_wish_is_lost_in_silence(tmp_path, wish, told):
    assert told in run(tmp_path, wish).stderr


@pytest.mark.parametrize(("call", "text"), [
    (["wardrobe=trench coat", "object=umbrella"], "A seal, in a trench coat, with an umbrella"), (["expression=slight smile"], "A seal, with a slight smile"), (["composition=leading lines"], "A seal, with leading lines"), (["angle=low angle"], "A seal, seen from a low angle"), (["pose=looking down"], "A seal, looking down"),
])  # fmt: skip
def test_typed_words_are_exact(tmp_path, call, text):
    assert good(tmp_path, "compose", "picture", "subject=seal", *call).strip(" .\n") == text


@pytest.mark.parametrize(("text", "order", "out", "told"), [
    ("A fox crosses a square, shot on an 85mm lens. No people. Muted blues. 16:9", "camera", "Shot on an 85mm lens, a fox crosses a square. Muted blues.", ["“people”", "“16:9”"]),
    ("A fox crosses a square", "mood", "A fox crosses a square", ["no complete item or sentence is clearly mood"]), ("A fox in fog. @moth 85mm lens.", "camera", "85mm lens, a fox in fog.", ["@moth is left out"]),
])  # fmt: skip
def test_an_order_loses_nothing(tmp_path, text, order, out, told):
    done = run(tmp_path, "rewrite", text, "--order", order)
    assert done.stdout.strip() == out and all(one in done.stderr for one in told)


def test_no_slip_is_answered_with_the_same_call(tmp_path):
    assert (
        "did you mean"
        not in run(
            tmp_path, "rewrite", "A ferry, 85mm lens", "--order", "camera", "--formula", "poster"
        ).stderr
    )


def test_a_label_that_nobody_knows_is_one_beside_others(tmp_path):
    wish = "Main: an old clockmaker\nBackground: shelves of clocks\nCam: from slightly above\nVibe: calm"
    assert (
        good(tmp_path, wish)
        == "An old clockmaker, shelves of clocks, from slightly above, with a calm mood\n"
    )


def test_a_form_and_a_model_are_one_too_many(tmp_path):
    done = run(tmp_path, "expand", "poster", "--form", "tags", "--model", "curlew-still")
    assert done.returncode == 2 and "curlew-still has a form of its own" in done.stderr
    assert (
        "did you mean"
        not in run(tmp_path, "a fox in snow", "--form", "tags", "--model", "curlew-still").stderr
    )  # the same call again would be no help
    assert (
        "it takes prose or tags" in run(tmp_path, "a fox in snow", "--form", "poem").stderr
        and "it is now --layout" in run(tmp_path, "dataset", "poster", "--form", "chat").stderr
    )


def test_a_wish_loses_nothing(tmp_path):
    done = run(
        tmp_path,
        "compose",
        "photograph",
        "--from",
        "a heron on a jetty, a slow waltz, watercolour, no people",
        "--json",
    )
    record = printed(done.stdout)[0]
    assert (
        record["text"] == "A watercolour of a heron on a jetty. A slow waltz"
        and "people" in record["negative"]
    )
    poster = run(
        tmp_path, "compose", "poster", "--from", "a heron on a jetty, a slow waltz", "--json"
    )
    assert (
        "poster has no slot for these, so they come before its closing words: a slow waltz"
        in poster.stdout
        and printed(poster.stdout)[0]["text"].endswith(
            "A slow waltz, bold simple shapes, clear space at the top for lettering"
        )
    )
    assert good(tmp_path, "compose", "photograph", "--from", "an owl, oil on canvas").startswith(
        "A realistic photograph of an owl. Oil on canvas"
    )
    assert good(tmp_path, "compose", "--from", "a heron on a jetty", "light=dusk").startswith(
        "A realistic photograph of a heron on a jetty, lit by"
    )


def test_a_weight_that_no_model_writes_is_told_in_a_formula_too(tmp_path):
    done = run(
        tmp_path,
        "rewrite",
        "a girl in a red coat, (silver hair:1.3), fog",
        "--formula",
        "photograph",
    )
    assert (
        "1.3" not in done.stdout
        and "silver hair" in done.stdout.lower()
        and "weights need a model, so these are left out: silver hair 1.3" in done.stderr
    )


def test_guests_of_a_record_are_not_lost(tmp_path):
    good(
        tmp_path,
        "compose",
        "poster",
        "--from",
        "a heron on a jetty, film grain, a slow waltz",
        "--out",
        "r.jsonl",
    )
    assert "slow waltz" in good(
        tmp_path, "shorten", "r.jsonl", "--model", "dunlin-still"
    ) and "film grain" in good(tmp_path, "rewrite", "r.jsonl", "--model", "dunlin-still")


def test_a_story_keeps_its_people(tmp_path):
    story = "Ada, a baker in her sixties, unlocked the shop before dawn. She lit the oven and swept the floor. A fox watched from the yard. Snow fell on the street. A child waited by the gate."
    done = run(tmp_path, "compose", "photograph", "--from", story)
    first, second, third = done.stdout.splitlines()[:3]
    assert "Ada, a baker in her sixties" in first and "unlocking the shop" in first
    assert (
        "Ada, a baker in her sixties" in second
        and "lighting the oven and sweeping the floor" in second
        and "Ada" not in third
    )
    assert '[ada]  words = "Ada, a baker in her sixties"' in done.stderr


@pytest.mark.parametrize(("call", "text", "said"), [
    (["compose", "photograph", "subject=heron", "setting=jetty", "focus=shallow depth of field"], "A realistic photograph of a heron, on a jetty, with shallow depth of field.\n", ""),
    (["compose", "poster", "subject=heron", "focus=shallow depth of field", "--model", "dunlin-still"], "heron, shallow depth of field, bold simple shapes, clear space at the top for lettering\n", ""),
    (["compose", "photograph", "--from", "a heron on a jetty, film grain"], "A realistic photograph of a heron on a jetty. Film grain\n", ""),
    (["compose", "poster", "--from", "fog over the sea"], "Fog over the sea. Bold simple shapes, clear space at the top for lettering\n", ""), (["compose", "poster", "--from", "The camera glides over a frozen lake"], "The camera glides over a frozen lake. Bold simple shapes, clear space at the top for lettering\n", "nothing in the wish fills subject"),
    (["rewrite", "the camera glides over a frozen lake, low moon", "--formula", "poster"], "Lit by a low moon. The camera glides over a frozen lake. Bold simple shapes, clear space at the top for lettering\n", "nothing in the wish fills subject"),
])  # fmt: skip
def test_a_formula_takes_guests_and_refuses_no_wish(tmp_path, call, text, said):
    done = run(tmp_path, *call)
    assert (done.returncode, done.stdout) == (0, text) and said in done.stderr
    assert (
        run(tmp_path, "compose", "poster", "light=candlelight").returncode == 2
    )  # a person who fills slots is reported what is missing
