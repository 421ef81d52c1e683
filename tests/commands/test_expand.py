"""expand, as a person calls it."""

import json
import os
import signal
import subprocess
import time

import pytest

from tests.commands.program import PROGRAM, environment, good, run

BASE = ["expand", "poster", "medium=linocut", "subject=car ferry"]


def family(folder, *words):
    return json.loads(good(folder, *words, "--json"))


def test_single_changes_one_thing_at_a_time(tmp_path):
    made = family(
        tmp_path,
        *BASE,
        "--vary",
        "light=full moonlight,candlelight,single bare bulb",
        "--vary",
        "palette=warm sepia tones,candy pastels",
    )
    assert len(made) == 4
    assert "changes" not in made[0]["design"]
    assert [list(r["design"]["changes"]) for r in made[1:]] == [["light"], ["light"], ["palette"]]
    assert made[3]["design"]["changes"] == {"palette": ["warm sepia tones", "candy pastels"]}
    assert len({r["text"] for r in made}) == 4
    assert [r["design"]["index"] for r in made] == [0, 1, 2, 3]


def test_what_was_given_is_the_baseline(tmp_path):
    made = family(tmp_path, *BASE, "light=full moonlight", "--vary", "light=candlelight")
    assert [r["fills"]["light"] for r in made] == ["full moonlight", "candlelight"]


def test_full_is_every_combination(tmp_path):
    made = family(
        tmp_path,
        *BASE,
        "--design",
        "full",
        "--vary",
        "light=a,b,c",
        "--vary",
        "palette=x,y\\, z",
        "--model",
        "curlew-still,dunlin-still",
    )
    assert len(made) == 12
    assert {(r["fills"]["light"], r["fills"]["palette"]) for r in made} == {(a, b) for a in "abc" for b in ("x", "y, z")}
    assert {r["model"] for r in made} == {"curlew-still", "dunlin-still"}


def test_terms_and_picks(tmp_path):
    every = family(tmp_path, "expand", "[a medium] of [a subject]", "subject=ferry", "--vary", "medium")
    assert len(every) > 100 and len({r["text"] for r in every}) == len(every)
    four = family(tmp_path, *BASE, "--vary", "medium:4")
    assert len(four) == 5 and four[0]["fills"]["medium"] == "linocut"
    assert four == family(tmp_path, *BASE, "--vary", "medium:4", "--draw", "1")
    assert four != family(tmp_path, *BASE, "--vary", "medium:4", "--draw", "2")


def test_a_count_with_no_axis_picks_the_open_slots(tmp_path):
    words = ["expand", "photograph", "--count", "12", "--model", "curlew-still,dunlin-still", "--draw", "3"]
    made = family(tmp_path, *words)
    assert len(made) == 24
    for model in ("curlew-still", "dunlin-still"):
        mine = [r for r in made if r["model"] == model]
        assert len({r["text"] for r in mine}) == 12
        assert all(r["size"]["text"]["used"] <= r["size"]["text"]["limit"] for r in mine)
        assert len({r["fills"]["subject"] for r in mine}) == 12  # each term once before any comes again
    assert all(r["draw"] == 3 for r in made)
    assert not any("contradiction" in f["message"] for r in made for f in r.get("findings", ()))
    assert made == family(tmp_path, *words)


def test_contradictions_are_left_out_and_named(tmp_path):
    done = run(tmp_path, *BASE, "weather=clear cold night", "--vary", "light=full moonlight,hard noon sun,sodium quay lamps")
    assert len(done.stdout.splitlines()) == 2
    assert "1 left out: “clear cold night” does not go with “hard noon sun” (tagged day)" in done.stderr


def test_twins_are_left_out_and_told(tmp_path):
    done = run(tmp_path, *BASE, "--vary", "light=lamps,Lamps ,lamps.", "--count", "9")
    assert len(done.stdout.splitlines()) == 2, done.stdout
    assert "9 were asked for, and there are" in done.stderr and "the same text as one before" in done.stderr


def test_members_that_can_not_be_written_are_told(tmp_path):
    done = run(tmp_path, "expand", "poster", "medium=linocut", "--vary", "subject=ferry,,gull")
    assert done.stdout.count("\n") == 2 and done.returncode == 1
    assert "subject: the slot is needed" in done.stderr and "1 prompt could not be written" in done.stderr
    done = run(tmp_path, "expand", "poster", "medium=linocut", "--vary", "light", "--design", "full")
    assert (done.stdout, done.returncode) == ("", 2) and done.stderr.count("subject: the slot is needed") == 1


def test_picks_that_can_never_suit(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/sky.csv").write_text("term,clashes\nlow cloud,#never\n")
    (tmp_path / "vocabulary/sea.csv").write_text("term,tags\nlong swell,never\n")
    (tmp_path / "x.formula").write_text("+++\n[slots]\nsky = { need = true }\n+++\nlead [a sky] over [a sea]\n")
    done = run(tmp_path, "expand", "x.formula", "sea=long swell", "--count", "3")
    assert done.stdout == "" and "3 were asked for, and there are 0" in done.stderr and "Traceback" not in done.stderr


def test_members_differ_in_their_text(tmp_path):
    made = family(tmp_path, "expand", "[subject], [mood]\n", "subject=ferry", "--vary", "mood=calm,calm.")
    assert [r["text"] for r in made] == ["Ferry, calm", "Ferry, calm."]
    made = family(tmp_path, *BASE, "--vary", "flaw=watermark,border; watermark", "--model", "dunlin-still")
    assert [r["negative"] for r in made] == ["lettering, border, watermark"]  # said once each: the same negative text
    made = family(tmp_path, *BASE, "--vary", "flaw=watermark,waxy skin", "--model", "dunlin-still")
    assert len(made) == 2 and made[0]["text"] == made[1]["text"]
    many = family(tmp_path, "expand", "photograph", "--count", "400", "--draw", "9")
    assert len({r["text"] for r in many}) == 400


def test_a_large_full_design_asks_first(tmp_path):
    axes = [
        w
        for slot in ("light", "palette", "weather", "mood")
        for w in ("--vary", f"{slot}={','.join(f'{slot}{i}' for i in range(12))}")
    ]
    done = run(tmp_path, *BASE, "--design", "full", *axes)
    assert done.returncode == 2 and "20,736 prompts (12 × 12 × 12 × 12)" in done.stderr and "--all" in done.stderr
    some = family(tmp_path, *BASE, "--design", "full", *axes, "--count", "30")
    assert len({r["text"] for r in some}) == 30 and "changes" not in some[0]["design"]
    every = good(tmp_path, *BASE, "--design", "full", *axes, "--all")
    assert len(set(every.splitlines())) == 20736


def test_files(tmp_path):
    words = [*BASE, "--vary", "light=a,b", "--model", "curlew-still,dunlin-still"]
    good(tmp_path, *words, "--out", "family.txt")
    assert sorted(p.name for p in tmp_path.glob("*.txt")) == ["family-curlew-still.txt", "family-dunlin-still.txt"]
    assert (tmp_path / "family-dunlin-still.txt").read_text().splitlines()[1].startswith("linocut, car ferry, b,")
    good(tmp_path, *words, "--out", "family.jsonl")
    lines = (tmp_path / "family.jsonl").read_text("utf-8").splitlines()
    assert [json.loads(line)["model"] for line in lines] == ["curlew-still", "dunlin-still"] * 2
    assert [json.loads(line) for line in lines] == family(tmp_path, *words)
    good(tmp_path, *words, "--out", "family.md")
    assert "## 3 · curlew-still · light: b" in (tmp_path / "family.md").read_text("utf-8")
    good(tmp_path, *words, "--out", "family.csv")
    assert (tmp_path / "family.csv").read_text("utf-8").splitlines()[3].count("light: b") == 1


def interrupted(folder, *words):
    process = subprocess.Popen([PROGRAM, *words], cwd=folder, stderr=subprocess.PIPE, text=True, env=environment(folder))
    partial = folder / "big.txt.partial"
    end = time.monotonic() + 60
    while time.monotonic() < end and not (partial.exists() and partial.stat().st_size > 1_000_000):
        time.sleep(0.01)
    process.send_signal(signal.SIGINT)
    return process.wait(60), process.stderr.read()


def test_an_interruption_leaves_what_was_there(tmp_path):
    axes = [
        w for slot in ("light", "palette", "weather") for w in ("--vary", f"{slot}={','.join(f'{slot}{i}' for i in range(300))}")
    ]
    (tmp_path / "big.txt").write_text("before\n")
    status, said = interrupted(tmp_path, *BASE, "--design", "full", *axes, "--all", "--out", "big.txt")
    assert status == 130 and "prompts so far are in big.txt.partial" in said and "Traceback" not in said
    assert (tmp_path / "big.txt").read_text() == "before\n"


def test_a_reader_that_has_seen_enough(tmp_path):
    command = f"{PROGRAM} expand poster subject=ferry --vary medium --vary light --design full | head -1"
    done = subprocess.run(command, shell=True, cwd=tmp_path, capture_output=True, text=True, env=environment(tmp_path))
    assert done.stdout.count("\n") == 1 and done.stderr == ""


@pytest.mark.skipif(not os.path.exists("/dev/full"), reason="no /dev/full here")
def test_a_full_disk(tmp_path):
    os.symlink("/dev/full", tmp_path / "full.txt")
    done = run(tmp_path, *BASE, "--vary", "medium", "--out", "full.txt")
    assert done.returncode == 3 and "no space left" in done.stderr
    with open("/dev/full", "w") as full:
        done = subprocess.run(
            [PROGRAM, *BASE, "--vary", "medium"], stdout=full, stderr=subprocess.PIPE, text=True, env=environment(tmp_path)
        )
    assert done.returncode == 3 and "no space left" in done.stderr and "Traceback" not in done.stderr
