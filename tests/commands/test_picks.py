"""What compose picks, hears and thinks of: --pick, --theme, --detail, --look, --again, --ideas, --from, --rows."""

import csv
import json
import shlex

import pytest
from openpyxl import Workbook

from tests.commands.program import good, printed, run


def record(folder, *words):
    (made,) = printed(good(folder, "compose", *words, "--json"))
    return made


def call_of(said):
    """The words of the call that was shown last."""
    return shlex.split(
        next(line for line in reversed(said.splitlines()) if line.startswith("syntagma "))
    )[1:]


@pytest.mark.parametrize("words", [
    ["photograph", "--pick"], ["film-shot", "--theme", "sea", "--detail", "rich", "--model", "whimbrel-motion"],
    ["poster", "subject=old ferry", "--theme", "night,uneasy", "--look", "two-inks,title-space"],
    ["[a medium] of [a subject]; [lighting]", "--pick", "--draw", "7"],
    ["cut-outs", "--pick"], ["photograph", "subject=pick", "light="],
])  # fmt: skip
def test_the_call_that_is_shown_pins_down_what_was_picked(tmp_path, words):
    first = run(tmp_path, "compose", *words)
    assert first.returncode == 0 and first.stdout.count("\n") == 1
    call = call_of(first.stderr)
    assert not {"--pick", "--theme", "--detail", "--draw"} & set(call)
    assert good(tmp_path, *call) == first.stdout == good(tmp_path, "compose", *words)


def test_draws_differ_and_records_tell_theirs(tmp_path):
    made = [record(tmp_path, "photograph", "--pick", "--draw", str(n)) for n in range(1, 7)]
    assert len({m["text"] for m in made}) == 6 and [m["draw"] for m in made] == [1, 2, 3, 4, 5, 6]
    assert "draw" not in record(tmp_path, "photograph", "subject=gull")


def test_again_changes_that_slot_only(tmp_path):
    words = ["photograph", "subject=fishmonger", "setting=wet quay", "--pick"]
    first, other, third = (
        record(tmp_path, *words, *["--again", "light"] * n)["fills"] for n in range(3)
    )
    assert len({first["light"], other["light"], third["light"]}) == 3
    assert (
        {k for k in first if first[k] != other.get(k)}
        == {"light"}
        == {k for k in first if first[k] != third.get(k)}
    )
    done = run(tmp_path, "compose", *words, "--again", "subject")
    assert done.returncode == 2 and "“subject” was not picked" in done.stderr


def test_detail(tmp_path):
    bare, usual, rich = (
        record(tmp_path, "photograph", "--detail", d)["fills"] for d in ("bare", "usual", "rich")
    )
    assert set(bare) == {"kind", "subject"} and {"action", "setting"} & set(usual)
    assert set(rich) > set(usual) and "angle" in rich
    assert (
        "did you mean “rich”?" in run(tmp_path, "compose", "photograph", "--detail", "rhich").stderr
    )


def test_where_nothing_else_goes_again_says_so(tmp_path):
    words = ["compose", "photograph", "subject=night gardener", "--pick", *["--again", "light"] * 6]
    assert "no other term of lighting fits the rest" in run(tmp_path, *words).stderr


def test_what_is_asked_for_by_name_comes_or_is_told(tmp_path):
    for draw in range(1, 9):
        done = run(
            tmp_path, "compose", "clip", "--pick", "weather=pick", "--draw", str(draw), "--json"
        )
        found = printed(done.stdout)[0]
        assert found["fills"].get("weather") or any(
            one["code"] == "nothing-goes" for one in found["findings"]
        ), draw
    assert (
        "no term of weather fits the rest"
        in run(
            tmp_path,
            "compose",
            "clip",
            "subject=night nurse",
            "setting=hospital corridor",
            "weather=pick",
        ).stderr
    )


def test_a_theme_that_goes_with_no_term_is_named(tmp_path):
    assert (
        "“nature” assumes the open air"
        in run(tmp_path, "compose", "interior", "--theme", "nature").stderr
    )
    assert (
        "fits street-photograph and the theme “sea”"
        in run(tmp_path, "compose", "street-photograph", "--theme", "sea").stderr
    )


def test_themes_lean_and_leave(tmp_path):
    lights = [
        record(tmp_path, "photograph", "--theme", "night", "--draw", str(n))["fills"].get("light")
        for n in range(1, 6)
    ]
    night = {
        t["term"] for t in printed(good(tmp_path, "term", "lighting", "--tag", "night", "--json"))
    }
    night |= {"hurricane lamp at waist height"} | {
        m["lighting"]
        for one in printed(good(tmp_path, "situation", "--json"))
        for m in one["moments"]
        if any(f"hour: {hour}" in m.get("world", "") for hour in ("night", "dusk", "before-dawn"))
    }
    assert set(lights) - {None} <= night
    assert (
        "weather"
        not in record(tmp_path, "photograph", "--theme", "festive", "--detail", "rich")["fills"]
    )
    assert (
        "did you mean “winter”?"
        in run(tmp_path, "compose", "photograph", "--theme", "wimter").stderr
    )


def test_looks(tmp_path):
    made = record(tmp_path, "photograph", "subject=gull", "--look", "silver-print,wide-screen")
    assert made["text"].endswith(
        "silvery greys, fine grain, framed very wide, the subject off centre, empty space on one side"
    )
    assert made["parameters"] == {"ratio": "21:9"} and made["looks"] == [
        "silver-print",
        "wide-screen",
    ]
    assert "tint" in made["negative"]
    done = run(tmp_path, "compose", "photograph", "subject=gull", "--look", "poster")
    assert done.returncode == 2 and "no look is called “poster”" in done.stderr
    (tmp_path / "m.formula").write_text("content\nend  rough paper\n")
    assert (
        good(tmp_path, "compose", "[a subject]", "subject=gull", "--look", "./m.formula")
        == "A gull, rough paper\n"
    )
    assert "is a look" in run(tmp_path, "compose", "./m.formula").stderr


def test_ideas(tmp_path):
    words = ["photograph", "--theme", "sea", "--draw", "3"]
    eight = printed(good(tmp_path, "compose", *words, "--ideas", "8", "--json"))
    assert [i["idea"] for i in eight] == list(range(1, 9)) and len(
        {i["fills"]["subject"] for i in eight}
    ) == 8
    assert printed(good(tmp_path, "compose", *words, "--ideas", "3", "--json")) == eight[:3]
    gone_on = record(tmp_path, *words, "--idea", "3", "--pick")["fills"]
    assert eight[2]["fills"].items() <= gone_on.items() and "lens" in gone_on
    table = good(tmp_path, "compose", *words, "--ideas", "8")
    assert (
        any(line.startswith("8 ") for line in table.splitlines())
        and eight[7]["fills"]["subject"].split()[0] in table
    )
    assert "the list has no idea 900" in run(tmp_path, "compose", *words, "--idea", "900").stderr
    few = run(tmp_path, "compose", *words, "--ideas", "900")
    assert "900 were asked for, but only" in few.stderr
    full = run(tmp_path, "compose", "[a subject]", "subject=gull", "--ideas", "2")
    assert full.returncode == 2 and "no open slot is left" in full.stderr


def test_a_wish(tmp_path):
    done = run(
        tmp_path,
        "compose",
        "photograph",
        "lens=pick",
        "--from",
        "a tired harbour pilot on a wet quay, crying, in a hat of tin",
    )
    assert done.stdout.startswith(
        "A realistic photograph of a tired harbour pilot on a wet quay crying, in a hat of tin"
    )
    assert "heard: a tired harbour pilot on a wet quay" in done.stderr
    assert good(tmp_path, *call_of(done.stderr)) == done.stdout
    given = record(
        tmp_path, "photograph", "subject=gull", "--from", "a harbour pilot on a wet quay"
    )["fills"]
    assert given["subject"] == "gull" and given["setting"] == "wet quay"  # what is given stands


ROWS = [
    ["Subject", "camera angle", "Light", "status", "wish", "Lens"],
    ["gull", "low angle", "pick", "new", "", ""],
    ["", "", "", "", "a harbour pilot on a wet quay", "PICK"],
    ["", "", "", "waiting", "", ""],
    ["tea urn", "", "candlelight", "done, paid", "", "85mm lens"],
]


@pytest.mark.parametrize("name", ["rows.csv", "rows.xlsx"])
def test_rows_as_people_have_them(tmp_path, name):
    if name.endswith("xlsx"):
        book = Workbook()
        for row in ROWS:
            book.active.append([cell or None for cell in row])
        book.save(tmp_path / name)
    else:
        with (tmp_path / name).open("w", newline="", encoding="utf-8-sig") as file:
            csv.writer(file).writerows(ROWS)
    done = run(tmp_path, "compose", "photograph", "--rows", name, "--out", "out.jsonl")
    assert (
        done.returncode == 1
        and "3 of 4 rows made a prompt" in done.stderr
        and f"{name}:4" in done.stderr
    )
    first, second, third = (
        json.loads(line) for line in (tmp_path / "out.jsonl").read_text("utf-8").splitlines()
    )
    assert (
        first["fills"]["light"]
        and "lens" not in first["fills"]
        and first["row"] == {"camera angle": "low angle", "status": "new"}
    )
    assert second["fills"]["subject"] == "harbour pilot on a wet quay" and second["fills"][
        "lens"
    ].endswith(("lens", "dioptre", "end", "pinhole", "open"))
    assert third["row"]["status"] == "done, paid" and "draw" not in third
    good(tmp_path, "compose", "photograph", "--rows", name, "--pick", "--out", "out.csv")
    rows = list(csv.DictReader((tmp_path / "out.csv").open(encoding="utf-8")))
    assert [r["status"] for r in rows] == ["new", "", "waiting", "done, paid"] and all(
        r["subject"] and r["light"] for r in rows
    )


def test_a_family_takes_the_same_options(tmp_path):
    words = [
        "expand",
        "photograph",
        "--count",
        "6",
        "--theme",
        "sea",
        "--detail",
        "bare",
        "--look",
        "upright",
        "--json",
    ]
    made = printed(good(tmp_path, *words))
    assert len(made) == 6 and all(set(m["fills"]) == {"kind", "subject"} for m in made)
    assert all(
        "framed upright" in m["text"].lower() and m["parameters"]["ratio"] == "9:16" for m in made
    )
    sea = [t["term"] for t in printed(good(tmp_path, "term", "subject", "--tag", "sea", "--json"))]
    assert all(
        any(str(m["fills"]["subject"]).startswith(term) for term in sea)
        for m in made
        if isinstance(m["fills"]["subject"], str)
    )


@pytest.mark.long
@pytest.mark.parametrize("subject", ["night-shift baker", "weary night baker"])
def test_whoever_is_given_is_at_home(tmp_path, subject):
    for draw in range(1, 9):
        fills = record(tmp_path, "photograph", f"subject={subject}", "--pick", "--draw", str(draw))[
            "fills"
        ]
        assert "bakery" in fills["setting"] and fills["action"] not in (
            "coiling a wet rope",
            "tuning an instrument",
        )


def test_who_is_away_from_home_is_told(tmp_path):
    said = run(
        tmp_path,
        "compose",
        "photograph",
        "subject=potter",
        "action=wedging clay",
        "setting=pick",
        "--draw",
        "1",
    ).stderr
    assert "away from home" not in said
    for draw in range(1, 400):
        made = run(
            tmp_path,
            "compose",
            "photograph",
            "subject=potter",
            "setting=pick",
            "--draw",
            str(draw),
            screen=True,
        )
        place = next(
            line
            for line in made.stdout.splitlines() + made.stderr.splitlines()
            if line.startswith("setting")
        )
        at_home = any(
            home in place
            for home in (
                "pottery with drying shelves",
                "courtyard with a lemon tree",
                "covered market",
            )
        )
        assert at_home != ("unusual place: nobody would look for the potter there" in place)
        if not at_home:
            return
    raise AssertionError("nobody ever leaves home")


def test_terms_of_ones_own_guess_what_they_take_for_granted(tmp_path):
    good(tmp_path, "start", ".")
    told = good(tmp_path, "term", "new", "subject", "village baker")
    assert "picks assume the same of it as of “baker” (being: person" in told
    assert "guess" not in good(
        tmp_path, "term", "new", "subject", "tram conductor", "--world", "being: person"
    )
    wrong = run(tmp_path, "term", "new", "setting", "pier", "--world", "hour: nihgt")
    assert (
        wrong.returncode == 2
        and "hour can't be “nihgt”" in wrong.stderr
        and "did you mean “night”?" in wrong.stderr
    )
    mine = [
        record(tmp_path, "photograph", "--pick", "--mine", "--draw", str(draw))["fills"]["subject"]
        for draw in range(1, 7)
    ]
    assert set(mine) <= {"village baker", "tram conductor"}
    (tmp_path / "vocabulary" / "setting.csv").write_text(
        "term,world,when\nold pier,where: outdoors,noonish\n"
    )
    checked = run(tmp_path, "check")
    assert "“old pier”: hour can't be “noonish”" in checked.stdout + checked.stderr


def test_first_and_last_frame_of_one_draw_share_all_but_the_deed(tmp_path):
    for draw in map(str, range(31, 37)):
        first, last = (
            record(tmp_path, name, "--pick", "--draw", draw)["fills"]
            for name in ("first-frame", "last-frame")
        )
        assert (first["subject"], first.get("setting")) == (
            last["subject"],
            last.get("setting"),
        ) and first["start"] != last["end"]


def test_a_contradiction_is_told_in_the_words_of_the_world(tmp_path):
    said = run(
        tmp_path,
        "compose",
        "landscape",
        "place=heather moor",
        "weather=thick fog",
        "light=hard noon sun",
    ).stderr
    assert (
        "a contradiction: “thick fog” assumes mist or fog; “hard noon sun” assumes a clear sky"
        in said
    )
    found = record(tmp_path, "photograph", "subject=potter", "action=breaking into a gallop")[
        "findings"
    ]
    assert [f["message"] for f in found if f["code"] == "contradiction"] == [
        "a contradiction: “potter” assumes a person; “breaking into a gallop” assumes an animal"
    ]
