"""expand, as a person calls it."""

import json
import os
import signal
import subprocess
import time

import pytest

from tests.commands.program import PROGRAM, environment, good, heard, killed, printed, run

BASE = ["expand", "poster", "medium=linocut", "subject=car ferry"]


def family(folder, *words):
    return printed(good(folder, *words, "--json"))


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
    assert {(r["fills"]["light"], r["fills"]["palette"]) for r in made} == {
        (a, b) for a in "abc" for b in ("x", "y, z")
    }
    assert {r["model"] for r in made} == {"curlew-still", "dunlin-still"}


def test_terms_and_picks(tmp_path):
    every = family(
        tmp_path, "expand", "[a medium] of [a subject]", "subject=ferry", "--vary", "medium"
    )
    assert len(every) > 90 and len({r["text"] for r in every}) == len(every)
    four = family(tmp_path, *BASE, "--vary", "medium:4")
    assert len(four) == 5 and four[0]["fills"]["medium"] == "linocut"
    assert four == family(tmp_path, *BASE, "--vary", "medium:4", "--draw", "1")
    assert four != family(tmp_path, *BASE, "--vary", "medium:4", "--draw", "2")


def test_a_count_with_no_axis_picks_the_open_slots(tmp_path):
    words = [
        "expand",
        "photograph",
        "--count",
        "12",
        "--model",
        "curlew-still,dunlin-still",
        "--draw",
        "3",
    ]
    made = family(tmp_path, *words)
    assert len(made) == 24
    for model in ("curlew-still", "dunlin-still"):
        mine = [r for r in made if r["model"] == model]
        assert len({r["text"] for r in mine}) == 12
        assert all(r["size"]["text"]["used"] <= r["size"]["text"]["limit"] for r in mine)
        assert (
            len({r["fills"]["subject"] for r in mine}) == 12
        )  # each term once before any comes again
    assert all(r["draw"] == 3 for r in made)
    assert not any("contradiction" in f["message"] for r in made for f in r.get("findings", ()))
    assert made == family(tmp_path, *words)


def test_contradictions_are_left_out_and_named(tmp_path):
    done = run(
        tmp_path,
        *BASE,
        "weather=clear cold night",
        "--vary",
        "light=full moonlight,hard noon sun,sodium quay lamps",
    )
    assert len(done.stdout.splitlines()) == 2
    assert (
        "1 left out: “clear cold night” assumes night; “hard noon sun” assumes the middle of the day"
        in done.stderr
    )
    fixed = [
        "subject=harbour pilot",
        "setting=slack-water harbour",
    ]  # which contradict each other: that leaves nothing out
    done = run(
        tmp_path,
        "expand",
        "poster",
        *fixed,
        "--vary",
        "light=moonlight,candlelight",
        "--vary",
        "palette:2",
        "--design",
        "full",
    )
    assert (
        "2 left out: “slack-water harbour” assumes open water; “candlelight” assumes a room or a studio"
        in done.stderr
    )


def test_twins_are_left_out_and_told(tmp_path):
    done = run(tmp_path, *BASE, "--vary", "light=lamps,Lamps ,lamps.", "--count", "9")
    assert len(done.stdout.splitlines()) == 2, done.stdout
    assert (
        "9 were asked for, but there are only" in done.stderr
        and "the same text as an earlier one" in done.stderr
    )


def test_members_that_can_not_be_written_are_told(tmp_path):
    done = run(tmp_path, "expand", "poster", "medium=linocut", "--vary", "subject=ferry,,gull")
    assert done.stdout.count("\n") == 2 and done.returncode == 1
    assert (
        "subject: this slot must be filled" in done.stderr
        and "1 prompt could not be written" in done.stderr
    )
    done = run(
        tmp_path, "expand", "poster", "medium=linocut", "--vary", "light", "--design", "full"
    )
    assert (done.stdout, done.returncode) == ("", 2) and done.stderr.count(
        "subject: this slot must be filled"
    ) == 1


def test_so_many_themes_or_looks(tmp_path):
    four = family(tmp_path, "expand", "photograph", "--vary", "theme:4", "--detail", "usual")
    assert len(four) == 4 == len({r["fills"]["subject"] for r in four}) and four == family(
        tmp_path, "expand", "photograph", "--vary", "theme:4", "--detail", "usual"
    )
    assert len({r["text"] for r in family(tmp_path, *BASE, "--vary", "look:3")}) == 3
    assert (
        "there are 28 themes" in run(tmp_path, "expand", "photograph", "--vary", "theme:99").stderr
    )
    assert (
        "too few to estimate 4 effects"
        in run(tmp_path, *BASE, "--vary", "light:3", "--vary", "mood:2", "--count", "5").stderr
    )


def test_picks_that_can_never_suit(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/sky.csv").write_text("term,clashes\nlow cloud,#never\n")
    (tmp_path / "vocabulary/sea.csv").write_text("term,tags\nlong swell,never\n")
    (tmp_path / "x.formula").write_text(
        "+++\n[slots]\nsky = { need = true }\n+++\nlead [a sky] over [a sea]\n"
    )
    done = run(tmp_path, "expand", "x.formula", "sea=long swell", "--count", "3")
    assert (
        done.stdout == ""
        and "3 were asked for, but there are only 0" in done.stderr
        and "Traceback" not in done.stderr
    )


@pytest.mark.long
def test_members_differ_in_their_text(tmp_path):
    made = family(
        tmp_path, "expand", "[subject], [mood]\n", "subject=ferry", "--vary", "mood=calm,calm."
    )
    assert [r["text"] for r in made] == ["Ferry, calm", "Ferry, calm."]
    made = family(
        tmp_path, *BASE, "--vary", "flaw=watermark; border\\; watermark", "--model", "dunlin-still"
    )
    assert [r["negative"] for r in made] == [
        "lettering, border, watermark"
    ]  # said once each: the same negative text
    made = family(tmp_path, *BASE, "--vary", "flaw=watermark,waxy skin", "--model", "dunlin-still")
    assert len(made) == 2 and made[0]["text"] == made[1]["text"]
    many = family(tmp_path, "expand", "photograph", "--count", "150", "--draw", "9")
    assert len({r["text"] for r in many}) == 150


def test_a_large_full_design_asks_first(tmp_path):
    axes = [
        w
        for slot in ("light", "palette", "weather", "mood")
        for w in ("--vary", f"{slot}={','.join(f'{slot}{i}' for i in range(12))}")
    ]
    done = run(tmp_path, *BASE, "--design", "full", *axes)
    assert (
        done.returncode == 2
        and "20,736 prompts (12 × 12 × 12 × 12)" in done.stderr
        and "--all" in done.stderr
    )
    some = family(tmp_path, *BASE, "--design", "full", *axes, "--count", "30")
    assert len({r["text"] for r in some}) == 30 and "changes" not in some[0]["design"]
    every = good(tmp_path, *BASE, "--design", "full", *axes, "--all")
    assert len(set(every.splitlines())) == 20736


def test_files(tmp_path):
    words = [*BASE, "--vary", "light=a,b", "--model", "curlew-still,dunlin-still"]
    good(tmp_path, *words, "--out", "family.txt")
    assert sorted(p.name for p in tmp_path.glob("*.txt")) == [
        "family-curlew-still.txt",
        "family-dunlin-still.txt",
    ]
    assert (
        (tmp_path / "family-dunlin-still.txt")
        .read_text()
        .splitlines()[1]
        .startswith("linocut, car ferry, b,")
    )
    good(tmp_path, *words, "--out", "family.jsonl")
    lines = (tmp_path / "family.jsonl").read_text("utf-8").splitlines()
    assert [json.loads(line)["model"] for line in lines] == ["curlew-still", "dunlin-still"] * 2
    assert [json.loads(line) for line in lines] == family(tmp_path, *words)
    good(tmp_path, *words, "--out", "family.md")
    assert "## 3 · curlew-still · light: b" in (tmp_path / "family.md").read_text("utf-8")
    good(tmp_path, *words, "--out", "family.csv")
    assert (tmp_path / "family.csv").read_text("utf-8").splitlines()[3].count("light: b") == 1


def interrupted(folder, *words):
    process = subprocess.Popen(
        [PROGRAM, *words],
        cwd=folder,
        stderr=subprocess.PIPE,
        text=True,
        env=environment(folder),
        preexec_fn=heard,
    )
    partly = folder / "big.txt.partial"
    end = time.monotonic() + 60
    while time.monotonic() < end and not (partly.exists() and partly.stat().st_size > 1_000_000):
        time.sleep(0.01)
    time.sleep(0.3)  # into the midst of the writing
    process.send_signal(signal.SIGINT)
    return process.wait(60), process.stderr.read()


def test_an_interruption_leaves_what_was_there(tmp_path):
    axes = [
        w
        for slot in ("light", "palette", "weather")
        for w in ("--vary", f"{slot}={','.join(f'{slot}{i}' for i in range(300))}")
    ]
    (tmp_path / "big.txt").write_text("before\n")
    status, said = interrupted(
        tmp_path, *BASE, "--design", "full", *axes, "--all", "--out", "big.txt"
    )
    assert (
        status == 130
        and "prompts so far are in big.txt.partial" in said
        and "Traceback" not in said
    )
    assert f": {(tmp_path / 'big.txt.partial').read_bytes().count(bytes([10])):,} prompts" in said
    assert (tmp_path / "big.txt").read_text() == "before\n"


def test_a_reader_that_has_seen_enough(tmp_path):
    command = (
        f"{PROGRAM} expand poster subject=ferry --vary medium --vary light --design full | head -1"
    )
    done = subprocess.run(
        command, shell=True, cwd=tmp_path, capture_output=True, text=True, env=environment(tmp_path)
    )
    assert done.stdout.count("\n") == 1 and done.stderr == ""


@pytest.mark.skipif(not os.path.exists("/dev/full"), reason="no /dev/full here")
def test_a_full_disk(tmp_path):
    os.symlink("/dev/full", tmp_path / "full.txt")
    done = run(tmp_path, *BASE, "--vary", "medium", "--out", "full.txt")
    assert done.returncode == 3 and "no space left" in done.stderr
    with open("/dev/full", "w") as full:
        done = subprocess.run(
            [PROGRAM, *BASE, "--vary", "medium"],
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
            env=environment(tmp_path),
        )
    assert (
        done.returncode == 3 and "no space left" in done.stderr and "Traceback" not in done.stderr
    )


AXES = ["--vary", "light=candlelight,full moonlight,single bare bulb", "--vary", "palette=ink blue and lamp orange,candy pastels,spring greens",
        "--vary", "medium=linocut,woodcut,etching"]  # fmt: skip
PILOT = ["expand", "poster", "subject=harbour pilot", *AXES]


def rows(tmp_path, *words):
    return [record["fills"] for record in printed(good(tmp_path, *words, "--json"))]


def test_a_cover_holds_every_pair(tmp_path):
    found = rows(tmp_path, *PILOT, "--design", "cover")
    pairs = {
        (a, r[a], b, r[b])
        for r in found
        for a in ("light", "palette", "medium")
        for b in ("light", "palette", "medium")
        if a < b
    }
    assert len(found) == 9 and len(pairs) == 27
    assert len(rows(tmp_path, *PILOT, "--design", "cover", "--strength", "3")) == 27


def test_a_spread_is_balanced_and_dropped_members_are_refilled(tmp_path):
    found = rows(tmp_path, *PILOT, "--design", "spread", "--count", "6")
    assert all(
        sorted(sum(r[a] == v for r in found) for v in {r[a] for r in found}) == [2, 2, 2]
        for a in ("light", "palette", "medium")
    )
    left = rows(tmp_path, *PILOT, "--design", "spread", "--count", "6", "--without", "2,5")
    assert left == [r for i, r in enumerate(found, 1) if i not in (2, 5)]
    refilled = rows(
        tmp_path, *PILOT, "--design", "spread", "--count", "6", "--without", "2,5", "--refill"
    )
    assert (
        refilled[:4] == left
        and len(refilled) == 6
        and all(r not in (found[1], found[4]) or r in refilled for r in refilled[4:])
    )


def test_a_cover_and_a_mixed_design_are_made_whole_again(tmp_path):
    found = rows(tmp_path, *PILOT, "--design", "cover")
    refilled = rows(tmp_path, *PILOT, "--design", "cover", "--without", "2,5", "--refill")
    assert refilled[:7] == [r for i, r in enumerate(found, 1) if i not in (2, 5)]
    assert not {json.dumps(r) for r in (found[1], found[4])} & set(map(json.dumps, refilled))
    axes = ("light", "palette", "medium")
    assert len({(a, r[a], b, r[b]) for r in refilled for a in axes for b in axes if a < b}) == 27
    mixed = [*PILOT, "--design", "mixed", "--count", "9"]
    found, refilled = rows(tmp_path, *mixed), rows(tmp_path, *mixed, "--without", "1,9", "--refill")
    assert (
        refilled[:7] == found[1:8]
        and len(refilled) == 9
        and found[0] not in refilled
        and found[8] not in refilled
    )


def test_random_and_mixed_and_ladder(tmp_path):
    assert (
        len({json.dumps(r) for r in rows(tmp_path, *PILOT, "--design", "random", "--count", "20")})
        == 20
    )
    done = run(tmp_path, *PILOT, "--design", "random", "--count", "40", "--json")
    assert (
        len(printed(done.stdout)) == 27
        and "40 were asked for, but at most 27 are possible: the axes have no more combinations"
        in done.stderr
    )
    report = printed(
        good(
            tmp_path,
            *PILOT,
            "--design",
            "mixed",
            "--count",
            "9",
            "--interest",
            "light,palette",
            "--dry-run",
            "--json",
        )
    )
    assert report["efficiency"] == 1.0 and set(report["balance"]["light"].values()) == {3}
    steps = printed(
        good(
            tmp_path,
            "expand",
            "poster",
            "subject=x",
            "light=candlelight",
            "--vary",
            "stress.light=0.8..1.6/0.1",
            "--design",
            "ladder",
            "--count",
            "3",
            "--model",
            "dunlin-still",
            "--json",
        )
    )
    assert [s["text"].split(", ")[1] for s in steps] == [
        "<candlelight @0.8>",
        "<candlelight @1.2>",
        "<candlelight @1.6>",
    ]
    assert [s["design"].get("changes", {}).get("stress.light", ["", "0.8"])[1] for s in steps] == [
        "0.8",
        "1.2",
        "1.6",
    ]


def test_axes_that_are_no_slots(tmp_path):
    words = [
        "expand",
        "poster",
        "medium=linocut",
        "subject=x",
        "--vary",
        "seed=1..2",
        "--vary",
        "look=none,newsprint",
        "--vary",
        "model=curlew-still,dunlin-still",
        "--design",
        "full",
        "--json",
    ]
    records = printed(good(tmp_path, *words))
    assert len(records) == 8 and [r["model"] for r in records[:2]] == [
        "curlew-still",
        "dunlin-still",
    ]
    assert (
        sorted({r["parameters"]["seed"] for r in records}) == [1, 2]
        and sum("newsprint" in r["text"] for r in records) == 4
    )
    assert records[0]["text"].endswith("/seed 1 /verbatim") and records[-1]["design"][
        "changes"
    ] == {
        "seed": ["1", "2"],
        "look": ["none", "newsprint"],
        "model": ["curlew-still", "dunlin-still"],
    }
    for vary, said in (
        ("parameter.", "has no slot"),
        ("stress.lihgt=1.2", "did you mean “light”?"),
        ("model=nobody", "no model is called"),
        ("seed=4..1", "is not a range"),
        ("seed", "has no terms"),
        ("light=#nothing", "no term tagged nothing"),
        ("light=*", "no favourites"),
    ):
        assert said in run(tmp_path, "expand", "poster", "subject=x", "--vary", vary).stderr


def test_favourites_and_tags_as_levels(tmp_path):
    good(tmp_path, "term", "star", "candlelight")
    assert [
        r["light"]
        for r in rows(tmp_path, "expand", "poster", "subject=x", "--vary", "light=*,full moonlight")
    ] == [
        "candlelight",
        "full moonlight",
    ]
    night = {
        r["light"]
        for r in rows(
            tmp_path, "expand", "poster", "subject=x", "--vary", "light=#night", "--design", "full"
        )
    }
    assert "full moonlight" in night and "hard noon sun" not in night


def test_rules(tmp_path):
    (tmp_path / "rules.txt").write_text("# the winter line\nnever candlelight with candy pastels\n")
    found = rows(
        tmp_path,
        *PILOT,
        "--design",
        "full",
        "--rules",
        "rules.txt",
        "--rule",
        "if medium is linocut then palette is ink blue and lamp orange",
    )
    assert len(found) == 27 - 3 - 6 + 1
    cover = printed(
        good(
            tmp_path,
            *PILOT,
            "--design",
            "cover",
            "--rule",
            "never candlelight with candy pastels",
            "--dry-run",
            "--json",
        )
    )
    assert (
        cover["impossible"] == ["candlelight with candy pastels"]
        and cover["covered"] == cover["possible"] == 26
    )
    done = run(
        tmp_path,
        *PILOT,
        "--design",
        "spread",
        "--count",
        "4",
        "--rule",
        "never linocut",
        "--rule",
        "only candlelight with linocut",
        "--rule",
        "if light is not candlelight then medium is linocut",
    )
    assert (
        done.returncode == 1
        and "no combination remains: never linocut; only candlelight with linocut; if light is not candlelight"
        in done.stderr
    )
    done = run(tmp_path, *PILOT, "--rule", "never candelight with etching")
    assert done.returncode == 1 and "did you mean “candlelight”?" in done.stderr


def test_a_plan_makes_the_same_family_again(tmp_path):
    words = [*PILOT, "weather=", "--design", "spread", "--count", "5", "--model", "dunlin-still", "--draw", "3", "--stress", "light=1.2", "--parameter", "seed=4",
             "--rule", "never candlelight with etching", "--look", "newsprint"]  # fmt: skip
    once = good(tmp_path, *words, "--save-plan", "plan.toml", "--json")
    assert good(tmp_path, "expand", "plan.toml", "--json") == once
    assert len(printed(good(tmp_path, "expand", "plan.toml", "--count", "3", "--json"))) == 3
    (tmp_path / "bad.toml").write_text('formula = "poster"\ndesing = "full"\n')
    (tmp_path / "none.toml").write_text("count = 3\n")
    (tmp_path / "kind.toml").write_text('formula = "poster"\ncount = "many"\n')
    for file, said in (
        ("bad.toml", "bad.toml:2:1: a plan has no key “desing”"),
        ("none.toml", "says no formula"),
        ("kind.toml", "kind.toml:2:1: “count” takes a whole number"),
    ):
        assert said in run(tmp_path, "expand", file).stderr


def test_a_text_as_a_base(tmp_path):
    out = good(
        tmp_path,
        "expand",
        "--text",
        "A signal lamp on a quay, two signal lamps in fog [sic].",
        "--vary",
        "signal lamp=oar,ash tray",
        "--vary",
        "quay=island,hour",
    )
    assert out.splitlines() == [
        "A signal lamp on a quay, two signal lamps in fog [sic].", "An oar on a quay, two oars in fog [sic].", "An ash tray on a quay, two ash trays in fog [sic].",
        "A signal lamp on an island, two signal lamps in fog [sic].", "A signal lamp on an hour, two signal lamps in fog [sic].",
    ]  # fmt: skip
    assert (
        "“lighthouse” is not in the text"
        in run(tmp_path, "expand", "--text", "a lamp", "--vary", "lighthouse=x").stderr
    )


def test_a_report_and_a_table(tmp_path):
    said = good(
        tmp_path, *PILOT, "--design", "cover", "--model", "dunlin-still,curlew-still", "--dry-run"
    )
    assert (
        "9 members; the full design has 27" in said
        and "pairs of choices: 27 of 27" in said
        and "in all: 45 credits" in said
        and "candlelight 3" in said
    )
    table = good(tmp_path, *PILOT, "--design", "cover", "--table", "-")
    assert len(table.splitlines()) == 11 and table.splitlines()[-1].startswith("9 ")
    good(tmp_path, *PILOT, "--design", "cover", "--table", "design.png")
    assert (tmp_path / "design.png").read_bytes().startswith(b"\x89PNG")
    assert (
        "a family of picks has no design"
        in run(tmp_path, "expand", "poster", "--count", "3", "--dry-run").stderr
    )


def test_rules_hold_for_the_first_member_too(tmp_path):
    words = [
        "expand",
        "poster",
        "subject=x",
        "--vary",
        "light=moonlight,dawn",
        "--vary",
        "palette=candy pastels,warm sepia tones",
    ]
    words += ["--rule", "never moonlight with candy pastels"]
    made = family(tmp_path, *words, "--design", "full")
    assert [(r["fills"]["light"], r["fills"]["palette"]) for r in made] == [
        ("moonlight", "warm sepia tones"), ("dawn", "candy pastels"), ("dawn", "warm sepia tones"),
    ]  # fmt: skip
    assert (
        "1 left out: never moonlight with candy pastels"
        in run(tmp_path, *words, "--design", "full").stderr
    )
    assert (
        "the baseline breaks a rule: never moonlight with candy pastels"
        in run(tmp_path, *words).stderr
    )


def test_others_are_drawn_in_place_of_what_is_too_near(tmp_path):
    words = [
        "expand",
        "poster",
        "subject=harbour pilot in an oilskin coat",
        "--model",
        "curlew-still",
        "--design",
        "spread",
    ]
    words += [
        "--count",
        "4",
        "--different",
        "0.3",
        "--vary",
        "light=full moonlight,candlelight,sodium quay lamps,hazy white sky",
    ]
    words += [
        "--vary",
        "palette=spring greens,candy pastels,rose madder and fog,burnt orange and plum",
        "--vary",
        "medium=linocut,woodcut,etching,screen print",
    ]
    made, said = family(tmp_path, *words), run(tmp_path, *words).stderr
    assert (
        len(made) == 4 and "drawn again: closer than 0.3" in said and "were asked for" not in said
    )
    sets = [set(r["text"].lower().split()) for r in made]
    assert all(1 - len(a & b) / len(a | b) >= 0.3 for i, a in enumerate(sets) for b in sets[:i])


def test_texts_that_are_far_apart(tmp_path):
    found = good(tmp_path, *PILOT, "--design", "full", "--different", "0.3").splitlines()
    far = [
        1
        - len(set(a.lower().split()) & set(b.lower().split()))
        / len(set(a.lower().split()) | set(b.lower().split()))
        for i, a in enumerate(found)
        for b in found[:i]
    ]
    assert 1 < len(found) < 27 and min(far) >= 0.3


@pytest.mark.parametrize(("words", "said"), [
    (["--table", "x.jpg"], "write --table - for the terminal"), (["--resume"], "write --out FILE"), (["--design", "cover", "--count", "3"], "leave --count out"),
    (["--design", "spread"], "a spread design needs a number"), (["--design", "ladder"], "a ladder design has one axis"), (["--design", "covr"], "did you mean “cover”?"),
    (["--design", "mixed", "--count", "3", "--interest", "lihgt"], "did you mean “light”?"), (["--without", "x"], "“x” is not a valid number of a member"), (["--save-plan", "p.txt"], "is not a name for a plan"),
])  # fmt: skip
def test_wrong_calls_of_designs(tmp_path, words, said):
    assert said in run(tmp_path, *PILOT, *words).stderr


MANY = [
    "expand",
    "poster",
    "subject=x",
    "--vary",
    "light:9",
    "--vary",
    "palette:9",
    "--vary",
    "medium:9",
    "--design",
    "full",
    "--model",
    "dunlin-still,curlew-still",
]


@pytest.mark.long
@pytest.mark.parametrize("ending", ["jsonl", "txt"])
def test_the_parts_joined_are_the_whole(tmp_path, ending):
    good(tmp_path, *MANY, "--out", f"all.{ending}")
    for k in range(1, 6):
        good(tmp_path, *MANY, "--part", f"{k}/5", "--out", f"{k}.{ending}")
    for name in [""] if ending == "jsonl" else ["-dunlin-still", "-curlew-still"]:
        whole = (tmp_path / f"all{name}.{ending}").read_bytes()
        assert (
            b"".join((tmp_path / f"{k}{name}.{ending}").read_bytes() for k in range(1, 6)) == whole
            and whole.count(b"\n") > 300
        )


@pytest.mark.long
@pytest.mark.parametrize(("ending", "cut"), [("jsonl", 12_345), ("jsonl", 0), ("txt", 7_777)])
def test_killed_in_the_middle_it_goes_on(tmp_path, ending, cut):
    good(tmp_path, *MANY, "--out", f"all.{ending}")
    left: dict = {}
    for name in [""] if ending == "jsonl" else ["-dunlin-still", "-curlew-still"]:
        whole = tmp_path / f"all{name}.{ending}"
        left[tmp_path / f"again{name}.{ending}.partial"] = whole.read_bytes()[
            : cut + len(name)
        ]  # as kill -9 leaves it
    killed(tmp_path, "os.rename", f".{ending}.partial'", 1, *MANY, "--out", f"again.{ending}")
    assert all(path.exists() for path in left)
    for path, data in left.items():
        path.write_bytes(data)
    other = run(tmp_path, *MANY, "--different", "0.01", "--out", f"again.{ending}", "--resume")
    assert other.returncode == 3 and "belongs to the call in again" in other.stderr
    assert all(path.read_bytes() == data for path, data in left.items())
    good(tmp_path, *MANY, "--out", f"again.{ending}", "--resume")
    for name in [""] if ending == "jsonl" else ["-dunlin-still", "-curlew-still"]:
        assert (tmp_path / f"again{name}.{ending}").read_bytes() == (
            tmp_path / f"all{name}.{ending}"
        ).read_bytes()
    assert not list(tmp_path.glob("*.partial*"))


@pytest.fixture(scope="module")
def cluster():
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None
    ) as made:
        yield made.scheduler_address


@pytest.mark.long
@pytest.mark.parametrize("ending", ["jsonl", "txt"])
def test_a_cluster_writes_the_same_bytes(tmp_path, cluster, ending):
    good(tmp_path, "start", "w")
    folder = tmp_path / "w"
    (folder / "vocabulary").mkdir(exist_ok=True)
    (folder / "vocabulary" / "palette.csv").write_text(
        "term\nsmoked glass and tar\n", "utf-8"
    )  # a word that only this workspace has
    words = [
        "expand",
        "poster",
        "subject=x",
        "--vary",
        "light:9",
        "--vary",
        "medium:9",
        "--vary",
        "mood:3",
        "--design",
        "full",
    ]
    words += [
        "--vary",
        "palette=smoked glass and tar,candy pastels",
        "--model",
        "dunlin-still,curlew-still",
    ]
    good(folder, *words, "--out", f"here.{ending}")
    said = run(folder, *words, "--out", f"there.{ending}", "--on", cluster).stderr
    for name in [""] if ending == "jsonl" else ["-dunlin-still", "-curlew-still"]:
        whole = (folder / f"here{name}.{ending}").read_bytes()
        assert (folder / f"there{name}.{ending}").read_bytes() == whole
        assert whole.count(b"\n") > 200 and b"smoked glass and tar" in whole
    assert f"there{'' if ending == 'jsonl' else '-dunlin-still'}.{ending}" in said


def test_no_cluster_and_no_file_for_it(tmp_path, monkeypatch):
    monkeypatch.setattr("syntagma.app.families.cluster.PATIENCE", 0.3)
    assert (
        "--on writes a whole family to a file" in run(tmp_path, *MANY, "--on", "127.0.0.1:9").stderr
    )
    assert (
        "can't reach a cluster at nowhere"
        in run(tmp_path, *MANY, "--on", "nowhere", "--out", "x.jsonl").stderr
    )


def test_parquet(tmp_path):
    from csv import DictReader

    from pyarrow.parquet import read_table

    for ending in ("csv", "parquet"):
        good(tmp_path, *MANY, "--out", f"all.{ending}")
    rows = read_table(tmp_path / "all.parquet").to_pylist()
    with open(tmp_path / "all.csv", newline="", encoding="utf-8") as file:
        assert [{k: "" if v is None else str(v) for k, v in row.items()} for row in rows] == list(
            DictReader(file)
        )
    assert all(row["used"] <= row["limit"] for row in rows) and len(rows) > 600


def test_what_parts_and_resuming_want(tmp_path):
    for words, said in (
        (["--part", "6/5", "--out", "x.txt"], "“6/5” is not a part"),
        (["--part", "1/5", "--out", "x.csv"], "needs a file with one member per line"),
        (["--resume", "--out", "x.md"], "--resume needs a file"),
    ):
        assert said in run(tmp_path, *MANY, *words).stderr


def test_slots_that_move_together(tmp_path):
    words = [
        "expand",
        "poster",
        "subject=x",
        "--vary",
        "light+palette=candlelight/ink blue and lamp orange,full moonlight/,single bare bulb/candy pastels",
        "--vary",
        "medium=linocut,etching",
        "--design",
        "full",
    ]
    found = printed(good(tmp_path, *words, "--json"))
    assert [(r["fills"]["light"], r["fills"].get("palette")) for r in found[::2]] == [
        ("candlelight", "ink blue and lamp orange"),
        ("full moonlight", None),
        ("single bare bulb", "candy pastels"),
    ]
    assert (
        found[2]["design"]["changes"]
        == {"light+palette": ["candlelight / ink blue and lamp orange", "full moonlight / (blank)"]}
        and len(found) == 6
    )
    assert (
        len(printed(good(tmp_path, *words, "--rule", "never candy pastels with etching", "--json")))
        == 5
    )
    for vary, said in (
        ("light+palette=candlelight", "gives 1 values for 2 slots"),
        ("light+palett=a/b", "did you mean “palette”?"),
        ("light+palette=a/b", ""),
    ):
        done = run(
            tmp_path,
            "expand",
            "poster",
            "subject=x",
            "--vary",
            vary,
            *(["--vary", "light=c"] if not said else []),
        )
        assert (said or "“light” is varied twice") in done.stderr


def test_themes_detail_and_order_as_axes(tmp_path):
    found = printed(
        good(
            tmp_path,
            "expand",
            "photograph",
            "subject=harbour pilot",
            "--vary",
            "theme=night,high-summer",
            "--vary",
            "detail=usual,rich",
            "--design",
            "full",
            "--json",
        )
    )
    assert len(found) == 4 and len(found[0]["fills"]) < len(found[1]["fills"])
    assert found[1]["fills"].get("light") != found[3]["fills"].get("light") and found[1]["design"][
        "changes"
    ] == {"detail": ["usual", "rich"]}
    orders = good(
        tmp_path,
        "expand",
        "poster",
        "medium=linocut",
        "subject=x",
        "light=candlelight",
        "palette=candy pastels",
        "--vary",
        "order=formula,palette+light",
        "--model",
        "dunlin-still",
    ).splitlines()
    assert [o.split(", ")[:2] for o in orders] == [
        ["linocut", "x"],
        ["candy pastels", "candlelight"],
    ]
    for vary, said in (
        ("theme=nigth", "did you mean “night”?"),
        ("detail=full", "“full” is not a detail"),
        ("order=camra", "no phrase is called “camra”"),
    ):
        assert said in run(tmp_path, "expand", "photograph", "subject=x", "--vary", vary).stderr


def test_a_group_has_a_strength_of_its_own(tmp_path):
    more = ["--vary", "trait=old,rain-dark,small"]
    found = rows(
        tmp_path, *PILOT, *more, "--design", "cover", "--strength", "3:light+palette+medium"
    )
    assert len({(r["light"], r["palette"], r["medium"]) for r in found}) == 27 == len(found)
    assert len({(r["trait"], r["medium"]) for r in found}) == 9
    for group, said in (
        ("3:light+palete+medium", "did you mean “palette”?"),
        ("3:light+palette", "is not a strength of a group"),
        ("x", "“x” is not a valid strength"),
    ):
        assert said in run(tmp_path, *PILOT, "--design", "cover", "--strength", group).stderr


def test_a_plan_tells_all_its_mistakes(tmp_path):
    (tmp_path / "bad.toml").write_text(
        'formula = "poster"\ncuont = 3\nstrength = "x"\n[fills]\nsubject = 3.5\n'
    )
    said = run(tmp_path, "expand", "bad.toml").stderr
    for words in (
        "did you mean “count”?",
        "“strength” takes a whole number",
        "each value of “fills” takes text in quotes or a list",
    ):
        assert words in said


def test_a_rule_that_names_a_broader_term_holds_for_its_cases(tmp_path):
    varied = ["--vary", "animal=tiger,golden retriever", "--vary", "weather=thick fog,driving rain"]
    texts = [
        good(
            tmp_path,
            "expand",
            "[a animal]{, [weather as place]}",
            *varied,
            "--rule",
            f"never dog with {what}",
        ).splitlines()
        for what in ("fog", "rain")
    ]
    assert (
        [len(one) for one in texts] == [2, 3]
        and not any("retriever" in text for text in texts[0])
        and any("retriever" in text for text in texts[1])
    )
