"""film, run on the demo film: what it shows and writes, what it asks for, and what it leaves as it was."""

import csv
import json
import os
import re
import shutil
import subprocess

import pytest
import srt
import webvtt
from openpyxl import load_workbook

from syntagma.app.film.outputs import _frame
from syntagma.app.workspace.tour import DEMO
from tests.commands.program import good, printed, run

FILM = "ticket-nine.csv"


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    shutil.copytree(DEMO / "workspace", tmp_path, dirs_exist_ok=True)
    return tmp_path


def records(folder, *words):
    return printed(good(folder, "film", "prompts", FILM, "--json", *words))


def test_the_strip_shows_scenes_to_scale_and_what_they_cost(here):
    out = good(here, "film", "prompts", FILM, "--model", "whimbrel-motion,godwit-motion")
    assert all(
        len(line) <= 80 or line.startswith("  ") for line in out.split("\nmodel ")[0].splitlines()
    )
    assert "1  ticket office, night" in out and "2  wet quay, before dawn, sea smoke" in out
    assert (
        "“Last boat to Skerrow. Mind the step.”" in out
        and "first frame: PURSER bending over the ticket" in out
    )
    assert (
        "1/5: PURSER has a ticket punch in 1/3 but not here" in out
        and "2/4: PILOT and PURSER both look right" in out
    )
    # takes: whimbrel counts on 1.5 for a clip, the others and the stills on one
    bills = [line.split() for line in out.splitlines() if re.match(r"\S+-motion +\d", line)]
    assert [bill[:5] for bill in bills] == [
        ["whimbrel-motion", "9", "3", "16.5", "48"],
        ["godwit-motion", "5", "2", "7", "41"],
    ]
    ruler = next(line for line in out.splitlines() if "━" in line)
    assert ruler.index("3") - ruler.index("2") >= ruler.index("2") - ruler.index("1") - 1


@pytest.mark.parametrize(
    ("ratio", "left", "top", "wide", "tall"),
    [("16:9", 0, 0, 160, 90), ("1:1", 0, -35, 160, 160), ("4:3", 0, -15, 160, 120), ("2:1", -10, 0, 180, 90)],
)  # fmt: skip
def test_a_frame_lies_around_the_middle_of_the_drawing(ratio, left, top, wide, tall):
    frame = _frame(ratio)
    assert [frame[one] for one in ("left", "top", "wide", "tall")] == [left, top, wide, tall]


def test_the_records_say_what_each_prompt_is_in_the_film(here):
    found = {r["film"]["name"]: r for r in records(here, "--model", "whimbrel-motion")}
    assert list(found) == [
        "1/1",
        "1/2",
        "1/3",
        "1/4",
        "1/5 first-frame",
        "1/5",
        "2/1",
        "2/2 first-frame",
        "2/2 last-frame",
        "2/2",
        "2/3",
        "2/4",
    ]
    still, clip, after = found["2/2 last-frame"], found["2/2"], found["2/3"]
    assert (still["model"], still["formula"], still["film"]["kind"]) == (
        "curlew-still",
        "last-frame",
        "still",
    )
    assert [n["of"] for n in clip["film"]["needs"]] == [
        "2/2 first-frame",
        "2/2 last-frame",
    ] and clip["film"]["needs"][1]["id"] == still["id"]
    assert clip["request"]["end"] == [still["film"]["file"]] and clip["formula"] == "between-frames"
    assert after["film"]["needs"][0]["of"] == "2/2 last-frame" and after["request"]["start"] == [
        still["film"]["file"]
    ]
    assert (
        found["1/3"]["parameters"]["seconds"] == 8 and found["1/3"]["film"]["shots"][0]["to"] == 8
    )
    assert "SKAIR-oh" in found["1/2"]["text"] and "Skerrow" not in found["1/2"]["text"]


def test_a_model_of_timed_shots_takes_several_in_a_clip(here):
    found = records(here, "--model", "godwit-motion")
    clip = next(r for r in found if r["film"]["name"] == "2/2-4")
    assert [(s["shot"], s["from"], s["to"]) for s in clip["film"]["shots"]] == [
        ("2/2", 0, 5),
        ("2/3", 5, 10),
        ("2/4", 10, 14),
    ]
    assert (
        "0:00-0:05 | " in clip["text"]
        and "0:05-0:10 | Without a cut, " in clip["text"]
        and "No music." in clip["text"]
    )
    assert sum(r["film"].get("seconds", 0) for r in found) == 41


def test_every_form_of_it(here):
    import opentimelineio as otio

    names = [
        "t.jsonl",
        "t.json",
        "t.csv",
        "t.xlsx",
        "t.md",
        "t.txt",
        "t.otio",
        "t.srt",
        "t.vtt",
        "t.fountain",
        "t.html",
    ]
    good(
        here,
        "film",
        "prompts",
        FILM,
        "--model",
        "whimbrel-motion",
        *(w for name in names for w in ("--out", name)),
    )
    prompts = [json.loads(line)["text"] for line in (here / "t.jsonl").read_text().splitlines()]
    assert (here / "t.txt").read_text().splitlines() == prompts and len(
        printed((here / "t.json").read_text())
    ) == len(prompts) == 12
    sheet = load_workbook(here / "t.xlsx").active
    headings = [cell.value for cell in sheet[1]]
    assert [row[headings.index("text")].value for row in list(sheet)[1:]] == prompts and {
        "clip",
        "scene",
        "shots",
        "seconds",
        "needs",
    } <= set(headings)
    timeline = otio.adapters.read_from_file(str(here / "t.otio"))
    picture = timeline.video_tracks()[0]
    clips = [one for one in picture if isinstance(one, otio.schema.Clip)]
    assert [one.name for one in clips] == [f"1/{n}" for n in range(1, 6)] + [
        f"2/{n}" for n in range(1, 5)
    ]
    assert (
        clips[7].source_range.start_time.value == 1 and clips[6].source_range.start_time.value == 0
    )  # the doubled frame is dropped
    assert timeline.duration().rate == 24 and round(picture.duration().to_seconds(), 3) == round(
        sum(c.duration().to_seconds() for c in clips), 3
    )
    assert [one.name for one in picture if isinstance(one, otio.schema.Transition)] == [
        "slow dissolve"
    ]
    assert (
        clips[4].media_reference.target_url == "frames/1-5-first.png"
        and clips[1].markers[0].name == "Last boat to Skerrow. Mind the step."
    )
    assert [track.name for track in timeline.audio_tracks()] == ["ambience"]
    lines = [one.content.replace("\n", " ") for one in srt.parse((here / "t.srt").read_text())]
    assert (
        lines[0] == "Last boat to Skerrow. Mind the step."
        and len(lines) == len(webvtt.read(str(here / "t.vtt")).captions) == 5
    )
    assert (
        "!2 MEDIUM SHOT [[shot 2; " in (here / "t.fountain").read_text()
        and "PURSER\n(slow and dry)\nLast boat to Skerrow." in (here / "t.fountain").read_text()
    )
    page = (here / "t.html").read_text()
    assert (
        "Ticket Nine" in page
        and "<script" not in page
        and "http" not in page.replace("http-equiv", "")
    )


def test_a_script_and_a_list_are_each_made_of_the_other(here):
    good(
        here,
        "film",
        "prompts",
        FILM,
        "--model",
        "whimbrel-motion",
        "--out",
        "t.fountain",
        "--out",
        "a.jsonl",
    )
    good(here, "film", "prompts", "t.fountain", "--list", "back.csv")
    shutil.copy(here / "ticket-nine.toml", here / "back.toml")
    good(here, "film", "prompts", "back.csv", "--model", "whimbrel-motion", "--out", "b.jsonl")
    first, second = (
        [json.loads(line)["text"] for line in (here / name).read_text().splitlines()]
        for name in ("a.jsonl", "b.jsonl")
    )
    assert first == second
    (here / "plain.fountain").write_text(
        "Title: Slack\nAuthor: nobody\n\nEXT. QUAY - DAWN\n\nThe PILOT waits.\n\nPILOT\nNine.\n"
    )
    done = run(here, "film", "prompts", "plain.fountain", "--model", "whimbrel-motion")
    assert (
        done.returncode == 0
        and "title page's Author" in done.stderr
        and "PILOT: “Nine.”" in done.stdout
    )


def test_a_new_list_has_open_lists_and_is_read_again(here):
    good(here, "film", "new", "crossing", "--shots", "5")
    book = load_workbook(here / "crossing.xlsx")
    sheet = book.active
    assert (
        "within a scene" in sheet["A1"].value
        and [cell.value for cell in sheet[2]][:3] == ["scene", "shot", "seconds"]
        and sheet.max_row == 7
    )
    rules = {rule.formula1 for rule in sheet.data_validations.dataValidation}
    column = [cell.value for cell in book["choices"][1]].index("size") + 1
    assert len(rules) > 12 and book["choices"].cell(2, column).value == "extreme wide shot"
    names = [cell.value for cell in sheet[2]]
    for name, text in (
        ("size", "wide shot"),
        ("setting", "wet quay"),
        ("who", "pilot"),
        ("action", "PILOT waits."),
    ):
        sheet.cell(3, names.index(name) + 1, text)
    book.save(here / "crossing.xlsx")
    done = run(here, "film", "prompts", "crossing.xlsx", "--model", "whimbrel-motion", "--json")
    found = printed(done.stdout)
    assert (
        len(found) == 5
        and "The harbour pilot waits."
        in run(here, "film", "prompts", "crossing.xlsx", "--model", "knot-motion", "--json").stdout
    )
    assert run(here, "film", "new", "crossing").returncode != 0  # it exists already
    good(here, "film", "new", "plain.csv", "--shots", "2")
    empty = run(here, "film", "check", "plain.csv", "--model", "whimbrel-motion")
    assert (
        empty.returncode == 1
        and "1/2: no slot is filled" in empty.stdout
        and "2 errors" in empty.stdout
    )


def test_mistakes_are_told_all_at_once_by_row_and_column(here):
    (here / "bad.csv").write_text(
        "shot,seconds,who,line,reverse of\n1,soon,purser; pilot,Nine.,\n1,2,,,\n2,3,,,9\n,,pilot,,\n"
    )
    done = run(here, "film", "prompts", "bad.csv", "--model", "whimbrel-motion", "--out", "x.jsonl")
    assert done.returncode == 1 and not (here / "x.jsonl").exists()
    for told in (
        "bad.csv:2:2: column “seconds”: “soon”",
        "bad.csv:2:4: column “line”: nobody is named",
        "bad.csv:3:1: ",
        "bad.csv:4:5: ",
        "bad.csv:5:1: ",
    ):
        assert told in done.stderr, done.stderr


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["film", "prompts", FILM], "no film model was named"),
        (["film", "prompts", FILM, "--model", "curlew-still"], "makes pictures"),
        (["film", "prompts", "none.csv", "--model", "whimbrel-motion"], "none.csv"),
        (["film", "prompts", "known.toml"], "is not a shot list"),
        (
            ["film", "prompts", FILM, "--model", "whimbrel-motion", "--set", "1/9/light=x"],
            "the list has no shot 1/9",
        ),
        (
            ["film", "prompts", FILM, "--model", "whimbrel-motion", "--set", "1/2/4=x"],
            "has 1 lines, so no line 4",
        ),
        (
            ["film", "prompts", FILM, "--model", "whimbrel-motion", "--out", "film.mp4"],
            "can't write a film as .mp4",
        ),
        (["film", "new"], "NAME is missing"),
        (["film", "prompts", FILM, "twice"], "one word too many"),
    ],
)
def test_wrong_calls(here, words, told):
    if "--model" not in words:
        (here / "syntagma.toml").write_text('model = "curlew-still"\n')
    done = run(here, *words)
    assert done.returncode in (2, 3) and told in done.stderr, done.stderr


def test_blank_cells_are_shown_filled(here):
    out = good(here, "film", "prompts", FILM, "--filled")
    second = out.split("1/2")[1].split("1/3")[0]
    assert "setting      (ticket office)" in second and "action       PURSER punches" in second
    good(here, "film", "prompts", FILM, "--filled", "--list", "whole.csv")
    rows = (here / "whole.csv").read_text().splitlines()
    heads = rows[0].split(",")
    assert "setting" in heads
    assert (
        sum(",ticket office," in row for row in rows) == 6
    )  # five of the scene, and one that plays there
    shutil.copy(here / "ticket-nine.toml", here / "whole.toml")
    whole = printed(
        run(here, "film", "prompts", "whole.csv", "--model", "whimbrel-motion", "--json").stdout
    )
    assert [r["text"] for r in whole] == [
        r["text"] for r in records(here, "--model", "whimbrel-motion")
    ]


def test_a_filled_list_has_the_columns_that_say_something(here):
    (here / "short.csv").write_text(
        "shot,size,setting,note of mine\n1,wide shot,wet quay,x\n2,close-up,,\n"
    )
    good(here, "film", "prompts", "short.csv", "--filled", "--list", "whole.csv")
    assert list(csv.DictReader((here / "whole.csv").open(encoding="utf-8"))) == [
        {
            "shot": "1",
            "size": "wide shot",
            "setting": "wet quay",
            "note of mine": "x",
            "scene": "1",
        },
        {"shot": "2", "size": "close-up", "setting": "wet quay", "note of mine": "", "scene": "1"},
    ]


def test_a_further_column_is_kept(here):
    rows = (here / FILM).read_text().splitlines()
    (here / "more.csv").write_text(
        "\n".join(row + (",Crew" if not n else f",call {n}") for n, row in enumerate(rows)) + "\n"
    )
    good(
        here,
        "film",
        "prompts",
        "more.csv",
        "--list",
        "out.csv",
        "--set",
        "1/1/light=hurricane lamp at waist height",
    )
    assert (
        "call 3" in (here / "out.csv").read_text()
        and "hurricane lamp at waist height" in (here / "out.csv").read_text()
    )


def test_one_line_changed_makes_one_clip_new(here):
    good(here, "film", "prompts", FILM, "--model", "whimbrel-motion", "--out", "sent.jsonl")
    before = {
        r["film"]["name"]: r["id"]
        for r in map(json.loads, (here / "sent.jsonl").read_text().splitlines())
    }
    change = ["--set", "1/3/1=This is ticket nine. Look at the date on it."]
    done = run(
        here,
        "film",
        "prompts",
        FILM,
        "--model",
        "whimbrel-motion",
        "--sent",
        "sent.jsonl",
        *change,
        "--out",
        "new.jsonl",
    )
    after = {
        r["film"]["name"]: r for r in map(json.loads, (here / "new.jsonl").read_text().splitlines())
    }
    assert [name for name, r in after.items() if r["id"] != before[name]] == ["1/3"]
    assert [
        name
        for name, r in after.items()
        if r["film"]["kind"] == "clip" and not r["film"].get("pinned")
    ] == ["1/3"]
    assert (
        "whimbrel-motion   1       0" in done.stdout
        and "8 clips that were sent stay as they are" in done.stdout
    )
    assert "“This is ticket nine. It was sold in 1947, Tilling to the Ounce.” is now" in done.stderr
    again = run(
        here,
        "film",
        "prompts",
        FILM,
        "--model",
        "whimbrel-motion",
        "--sent",
        "sent.jsonl",
        *change,
        "--repack",
    )
    assert "packed again 9 clips" in again.stderr and "if sent clips stay, 1 clips" in again.stderr


def test_columns_by_other_names_and_what_is_none(here):
    (here / "o.csv").write_text(
        "SCENE,SHOT #,DUR,FRAMING,MOVEMENT,CAST,DESCRIPTION,LOCATION,LENS\n1,1,5,CU,push in,NORA & DEV,Dev holds up the map.,salt marsh causeway,50\n"
    )
    done = run(here, "film", "prompts", "o.csv", "--model", "whimbrel-motion", "--json")
    text = printed(done.stdout)[0]["text"]
    assert (
        text.startswith("Close-up; the camera pushes in. Nora and Dev, on a salt marsh causeway")
        and "Dev holds up the map." in text
    )
    assert (
        "keeps but does not use: LENS" in done.stderr
        and printed(done.stdout)[0]["film"]["seconds"] == 6
    )


def test_a_list_goes_into_a_workbook_and_comes_back(here):
    good(here, "film", "prompts", FILM, "--list", "t.xlsx")
    shutil.copy(here / "ticket-nine.toml", here / "t.toml")
    back = printed(
        run(here, "film", "prompts", "t.xlsx", "--model", "godwit-motion", "--json").stdout
    )
    assert [r["id"] for r in back] == [r["id"] for r in records(here, "--model", "godwit-motion")]


def test_takes_make_the_cut_and_the_frames(here):
    import av
    import numpy
    import opentimelineio as otio

    (here / "takes").mkdir()
    with av.open(str(here / "takes" / "a.mp4"), "w") as video:
        stream = video.add_stream("mpeg4", rate=24)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        for shade in range(0, 240, 20):
            frame = av.VideoFrame.from_ndarray(
                numpy.full((48, 64, 3), shade, numpy.uint8), format="rgb24"
            )
            video.mux(stream.encode(frame))
        video.mux(stream.encode(None))
    (here / "long.csv").write_text(
        "shot,seconds,size,who,action,setting\n1,14,full shot,pilot,waiting,wet quay\n"
    )
    (here / "takes.csv").write_text(
        "clip,file,seconds,speech end,chosen\n1/1.1,takes/b.mp4,10,,\n1/1.1,takes/a.mp4,9.5,,yes\n"
    )
    done = run(
        here,
        "film",
        "prompts",
        "long.csv",
        "--model",
        "whimbrel-motion",
        "--results",
        "takes.csv",
        "--out",
        "t.otio",
    )
    assert done.returncode == 0 and (here / "frames" / "1-1.1-end.png").is_file(), done.stderr
    from PIL import Image

    assert (
        abs(Image.open(here / "frames" / "1-1.1-end.png").convert("L").getpixel((30, 20)) - 220)
        < 12
    )  # the last, not the first
    first = otio.adapters.read_from_file(str(here / "t.otio")).video_tracks()[0][0]
    assert (
        first.media_reference.target_url == "takes/a.mp4" and first.duration().to_seconds() == 9.5
    )
    assert {reference.target_url for reference in first.media_references().values()} == {
        "takes/a.mp4",
        "takes/b.mp4",
    }
    (here / "takes.csv").write_text("clip,file\n9/9,x.mp4\n")
    assert (
        "no clip is called “9/9”"
        in run(
            here,
            "film",
            "prompts",
            "long.csv",
            "--model",
            "whimbrel-motion",
            "--results",
            "takes.csv",
        ).stderr
    )


def test_nobody_real_is_sent_without_consent(here):
    known = here / "known.toml"
    known.write_text(
        known.read_text()
        + '\n[nell]\nwords = "Nell Harrow, the line\'s captain"\nperson = "real"\n'
    )
    (here / "real.csv").write_text(
        "shot,size,who,action,setting\n1,wide shot,nell,waiting,wet quay\n2,close-up,pilot,waiting,\n"
    )
    done = run(here, "film", "prompts", "real.csv", "--model", "whimbrel-motion", "--json")
    held = [r["film"].get("held", "") for r in printed(done.stdout)]
    assert done.returncode == 1 and "names no document" in held[0] and not held[1]
    known.write_text(
        known.read_text()
        + 'consent = { for = ["picture"], until = 2099-01-01, file = "nell.pdf" }\n'
    )
    assert (
        run(here, "film", "prompts", "real.csv", "--model", "whimbrel-motion", "--json").returncode
        == 0
    )


def test_what_a_model_can_not_do_is_told(here):
    silent = good(here, "film", "prompts", FILM, "--model", "knot-motion")
    assert (
        "knot-motion makes no sound: 5 lines and 2 sounds are left out, whoever speaks moves their lips"
        in silent
    )
    (here / "models").mkdir(exist_ok=True)
    (here / "models" / "tight.toml").write_text(
        'base = "whimbrel-motion"\nwithout = ["reference.last-frame"]\n[limits]\ntext = { most = 75, unit = "tokens" }\n'
    )
    tight = good(here, "film", "prompts", FILM, "--model", "tight")
    assert "tight takes no last frame, so words describe it" in tight and "fit" in tight
    assert all(
        r["size"]["text"]["used"] <= 75
        for r in records(here, "--model", "tight")
        if r["film"]["kind"] == "clip"
    )


def chromium() -> str:
    return next(
        (path for name in ("chromium", "chromium-browser") if (path := shutil.which(name))), ""
    )


@pytest.mark.skipif(not chromium(), reason="not run: chromium is not installed (Debian: chromium)")
def test_the_strip_in_a_browser(here):
    good(here, "film", "prompts", FILM, "--model", "godwit-motion", "--out", "t.html")
    call = [
        chromium(),
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--window-size=1280,800",
        f"--user-data-dir={here / 'profile'}",
    ]
    done = subprocess.run(
        [*call, "--dump-dom", f"file://{here / 't.html'}"],
        capture_output=True,
        text=True,
        timeout=120,
        env={**os.environ, "HOME": str(here)},
    )
    assert (
        done.stdout.count('<svg viewBox="') == 9
        and "NaN" not in done.stdout
        and done.stdout.count("<circle") > 6
    )


PICKED = """shot,scene,setting,who,size,action,light,seconds
1,A,pick,two old friends,pick,pick,pick,4
2,A,,two old friends,pick,pick,pick,4
3,B,pick,pick,pick,pick,pick,5
4,B,,pick,pick,pick,pick,5
"""


@pytest.mark.parametrize("model", ["whimbrel-motion", "godwit-motion"])
def test_what_is_picked_for_a_scene_is_picked_once(here, model):
    (here / "picked.csv").write_text(PICKED)
    for draw in ("1", "2", "3"):
        done = run(
            here, "film", "prompts", "picked.csv", "--model", model, "--draw", draw, "--json"
        )
        fills = [r["fills"] for r in printed(done.stdout)]
        both = (
            [
                {**one, **{f"{slot}-2": text for slot, text in other.items()}}
                for one, other in zip(fills[::2], fills[1::2], strict=True)
            ]
            if model == "whimbrel-motion"
            else fills
        )
        assert len(both) == 2 and both[0]["setting"] != both[1]["setting"]
        for scene in both:
            assert scene.get("setting-2", scene["setting"]) == scene["setting"] and scene.get(
                "light-2", scene.get("light")
            ) == scene.get("light")
            assert scene["action"] != scene["action-2"]
        assert (
            both[1].get("subject-2", both[1]["subject"]) == both[1]["subject"]
        )  # somebody picked for a place stays there


def test_a_clip_that_can_not_be_written_is_told_beside_the_file(here):
    (here / "blank.csv").write_text(
        "shot,scene,setting,who,size,action\n1,A,on a quay,a pilot,wide shot,waving\n2,A,-,-,-,-\n"
    )
    done = run(here, "film", "prompts", "blank.csv", "--model", "whimbrel-motion", "-o", "out.md")
    assert done.returncode == 1 and "1 prompt in out.md" in done.stderr and "A/2" in done.stderr


# Lengths, rates, ratios

ADVERT = "scene,shot,seconds,size,who,action,setting,transition\n" + "".join(
    f"1,{n},{seconds},close-up,purser,PURSER turns a page.,ticket office,{change}\n"
    for n, (seconds, change) in enumerate(
        [("2.5", ""), ("0:03", ""), ("2", ""), ("2.5", "slow dissolve"), ("3", ""), ("2", "match cut on shape")], 1
    )
)  # fmt: skip


def advert(folder, settings, text=ADVERT):
    (folder / "ad.csv").write_text(text)
    (folder / "ad.toml").write_text(settings)


@pytest.mark.parametrize("model", ["whimbrel-motion", "godwit-motion", "five-or-ten"])
def test_a_film_lasts_as_long_as_it_is_to(here, model):
    (here / "models").mkdir(exist_ok=True)
    (here / "models" / "five-or-ten.toml").write_text(
        'base = "whimbrel-motion"\n[parameter.seconds]\nvalues = [5, 10]\ndefault = 5\n'
    )
    advert(here, "length = 15\n")
    done = run(here, "film", "check", "ad.csv", "--model", model)
    assert "film lasts" not in done.stdout + done.stderr
    advert(here, 'length = "0:12"\n')
    out = good(here, "film", "check", "ad.csv", "--model", model)
    assert "the film lasts 15.0 s, not 12; the seconds of the list add up to 15: take away 3.0" in (
        " ".join(out.split())
    )
    advert(here, "length = 25\n", ADVERT.replace(",2,close", ",,close"))
    out = " ".join(good(here, "film", "check", "ad.csv", "--model", model).split())
    assert "give 1/3, 1/6 seconds: 7.0 each would make 25" in out


def test_ratio_and_rate_reach_the_model_or_it_says_why_not(here):
    advert(here, 'ratio = "9:16"\nrate = 30\n')
    found = printed(good(here, "film", "prompts", "ad.csv", "--model", "whimbrel-motion", "--json"))
    assert {(r["parameters"]["ratio"], r["parameters"]["rate"]) for r in found} == {("9:16", 30)}
    advert(here, 'ratio = "5:4"\nrate = 29.97\n')
    out = good(here, "film", "check", "ad.csv", "--model", "whimbrel-motion")
    assert "does not make the film's ratio 5:4: it makes 16:9, 9:16, 1:1, 21:9" in out
    advert(here, "rate = 48\n")
    out = good(here, "film", "check", "ad.csv", "--model", "whimbrel-motion")
    assert "does not make 48 frames a second" in out
    for settings, wrong in (
        ('rate = "fast"', "“fast” is not a frame rate"),
        ('ratio = "tall"', "is not a ratio"),
        ('length = "long"', "is not a length"),
        ('start = "noon"', "is no timecode"),
        ('in_clips = ["wind"]', "is not heard all through"),
        ("lenghts = 3", "did you mean “length”?"),
    ):
        advert(here, settings)
        done = run(here, "film", "check", "ad.csv", "--model", "whimbrel-motion")
        assert done.returncode == 1 and wrong in done.stderr, done.stderr


@pytest.mark.parametrize(
    ("rate", "start", "code"),
    [
        ("23.976", "01:00:00:00", "01:00:00:00"),
        ("24", "00:59:50:00", "00:59:50:00"),
        ("25", "10:00:00", "10:00:00:00"),
        ('"29.97 drop"', "01:00:00;00", "01:00:00;00"),
        ("30", "01:00:00:00", "01:00:00:00"),
    ],
)
def test_a_timeline_at_its_rate(here, rate, start, code):
    import opentimelineio as otio

    advert(here, f'rate = {rate}\nstart = "{start}"\n')
    good(here, "film", "prompts", "ad.csv", "--model", "whimbrel-motion", "--out", "f.otio")
    film = otio.adapters.read_from_file(str(here / "f.otio"))
    begins = film.global_start_time
    assert otio.opentime.to_timecode(begins, begins.rate) == code
    assert film.duration().to_seconds() == pytest.approx(15, abs=0.05 * 6)
    clips = list(film.find_clips())
    for clip in clips:  # whole frames, within what there is
        used, there = clip.source_range, clip.available_range()
        assert used.start_time.value == round(used.start_time.value)
        assert there.start_time <= used.start_time
        assert used.end_time_exclusive() <= there.end_time_exclusive()
    picture = film.tracks[0]
    ((number, dissolve),) = [
        (n, one) for n, one in enumerate(picture) if isinstance(one, otio.schema.Transition)
    ]
    before, after = picture[number - 1], picture[number + 1]
    assert after.name == "1/4" and dissolve.in_offset.value > 0 and dissolve.out_offset.value > 0
    behind = (
        before.available_range().end_time_exclusive() - before.source_range.end_time_exclusive()
    )
    assert behind >= dissolve.out_offset
    assert after.source_range.start_time >= dissolve.in_offset
    assert "match cut on shape" in [marker.name for marker in clips[5].markers]


def test_music_and_ambience_are_in_the_prompts_only_where_the_film_says_so(here):
    import opentimelineio as otio

    settings = (here / "ticket-nine.toml").read_text()
    sounds = ["rope creak", "gulls far off"]
    call = (
        "film",
        "prompts",
        FILM,
        "--model",
        "whimbrel-motion",
        "--out",
        "f.otio",
        "--out",
        "c.jsonl",
    )
    done = run(here, *call)
    assert 'write in_clips = ["ambience"] in ticket-nine.toml' in done.stderr
    text = (here / "c.jsonl").read_text()
    assert not any(sound in text for sound in sounds)
    film = otio.adapters.read_from_file(str(here / "f.otio"))
    assert {track.name for track in film.tracks} >= {"picture", "ambience"}
    (here / "ticket-nine.toml").write_text('in_clips = ["ambience", "music"]\n' + settings)
    good(here, *call)
    assert all(sound in (here / "c.jsonl").read_text() for sound in sounds)


def test_whose_shoulder_and_whose_lips(here):
    (here / "two.csv").write_text(
        "scene,shot,size,who,action,setting,speaker,line\n1,1,OTS,purser; pilot,PURSER waits.,quay,purser,Late.\n"
    )
    for model, lips in (("knot-motion", True), ("whimbrel-motion", False)):
        (one,) = printed(good(here, "film", "prompts", "two.csv", "--model", model, "--json"))
        whose = "@pilot" if model == "whimbrel-motion" else "the harbour pilot"  # by its handle
        assert one["text"].startswith(f"Shot over {whose}'s shoulder; ")
        assert ("is speaking." in one["text"]) == lips and ("Late." in one["text"]) != lips


# The films of the demo


@pytest.mark.parametrize("model", ["whimbrel-motion", "godwit-motion", "five-or-ten"])
@pytest.mark.parametrize(
    ("name", "shots", "seconds"),
    [("ferry-advert.csv", 6, 15.0), ("bell-song.csv", 24, 27.0), ("night-boat.fountain", 14, None)],
)
def test_a_film_of_the_demo_from_end_to_end(here, name, shots, seconds, model):
    import opentimelineio as otio

    (here / "models").mkdir(exist_ok=True)
    (here / "models" / "five-or-ten.toml").write_text(
        'base = "whimbrel-motion"\n[parameter.seconds]\nvalues = [5, 10]\ndefault = 5\n'
    )
    done = run(here, "film", "check", name, "--model", model)
    assert done.returncode == 0, done.stderr
    assert "film lasts" not in done.stdout and "error" not in done.stdout, done.stdout
    outs = [word for end in ("jsonl", "otio", "srt", "vtt", "html", "fountain") for word in ("--out", f"f.{end}")]  # fmt: skip
    done = run(here, "film", "prompts", name, "--model", model, *outs)
    assert done.returncode == 0, done.stderr
    film = otio.adapters.read_from_file(str(here / "f.otio"))
    names = {clip.name.partition(".")[0] for clip in film.tracks[0].find_clips()}
    assert len(names) == shots
    if seconds:
        assert film.duration().to_seconds() == pytest.approx(seconds, abs=0.5)
    srt.parse((here / "f.srt").read_text())
    records = [json.loads(line) for line in (here / "f.jsonl").read_text().splitlines()]
    clips = [record for record in records if record["film"]["kind"] == "clip"]
    assert {shot["shot"] for clip in clips for shot in clip["film"]["shots"]} == names


def test_cuts_fall_on_the_beat(here):
    import opentimelineio as otio

    good(here, "film", "prompts", "bell-song.csv", "--model", "whimbrel-motion", "--out", "f.otio")
    film = otio.adapters.read_from_file(str(here / "f.otio"))
    (picture,) = [track for track in film.tracks if track.name == "picture"]
    beat, frame = 60 / 80, 1001 / 24000
    for clip in picture.find_clips():
        at = clip.transformed_time(clip.source_range.start_time, picture).to_seconds()
        assert abs(at / beat - round(at / beat)) * beat <= 24 * frame / 2, (clip.name, at)
    (here / "bell-song.toml").write_text('title = "x"\n')
    done = run(here, "film", "check", "bell-song.csv", "--model", "whimbrel-motion")
    assert done.returncode == 1 and "since the film has no tempo" in done.stderr
