"""library, duplicates, judge, effects, read of a picture: run on files in a temporary folder, the results made by the stand-in or drawn here."""

import csv
import json
import sqlite3
import subprocess
import sys
import zipfile
from pathlib import Path
from random import Random

import numpy as np
import pytest
from PIL import Image

from syntagma.formats.metadata.pictures import said
from syntagma.storage.library import VERSION, Judgement, Library, LibraryQuery
from tests.commands.program import environment, good, killed, printed, run
from tests.commands.test_batches import collected, ours

FAMILY = [
    "expand", "poster", "subject=car ferry", "--vary", "light=sodium quay lamps,full moonlight", "--vary", "medium=linocut,gouache painting", "--vary", "palette=storm green and cream,ink blue and lamp orange",
    "--model", "curlew-still", "--design", "effects", "--count", "16", "--takes", "2", "--out", "family.jsonl",
]  # fmt: skip


def picture(path: Path, seed: int = 1, size=(90, 60)) -> Path:
    """Something to keep: soft shapes of its own."""
    random = np.random.default_rng(seed)
    small = Image.fromarray((random.random((5, 6, 3)) * 255).astype("uint8"))
    small.resize(size, Image.Resampling.BICUBIC).save(path)
    return path


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", ".")
    return tmp_path


@pytest.fixture
def family(here):
    """A family of eight prompts, two results each, on the stand-in."""
    good(here, *FAMILY)
    good(here, "sheet", "new", "s", "family.jsonl")
    good(here, "sheet", "approve", "s", "--all")
    with ours() as server:
        good(here, "send", "s", "--yes", "--budget", "100", "--at", server.address)
        collected(here, server.address)
    good(here, "library", "add", "s")
    return here


def kept(folder, *words):
    done = run(folder, "library", *words, "--json")
    return printed(done.stdout) if done.stdout.strip() else []


# Keeping


def test_keep_find_change_and_restore(here):
    (here / "one.txt").write_text("A car ferry in fog at the quay")
    picture(here / "a.png"), picture(here / "b.png", 2)
    good(
        here,
        "library",
        "add",
        "a.png",
        "--prompt",
        "one.txt",
        "--rating",
        "4",
        "--label",
        "night",
        "--note",
        "soft",
        "--model",
        "curlew-still",
    )
    good(here, "library", "add", "b.png", "--prompt", "A linocut of a red fox")
    assert "already in the library" in good(
        here, "library", "add", "a.png", "--prompt", "something else", "--label", "quay"
    )
    first = kept(here, "1")[0]
    assert (first["text"], first["rating"], first["labels"], first["note"], first["model"]) == (
        "A car ferry in fog at the quay",
        4,
        ["night", "quay"],
        "soft",
        "curlew-still",
    )
    assert (
        [one["id"] for one in kept(here, "find", "fog quay")] == [1]
        and [one["id"] for one in kept(here, "find", "lino")] == [2]
        and kept(here, "find", "fog fox") == []
    )
    assert (
        [one["id"] for one in kept(here, "--rating", "3")] == [1]
        and [one["id"] for one in kept(here, "--label", "quay")] == [1]
        and [one["id"] for one in kept(here, "--term", "medium=Linocut")] == [2]
    )
    assert (
        good(here, "library", "rate", "2", "3.5")
        and good(here, "library", "label", "1", "dusk")
        and good(here, "library", "unlabel", "1", "night")
        and good(here, "library", "note", "2", "look again")
    )
    assert (
        kept(here, "2")[0]["rating"] == 3.5
        and kept(here, "1")[0]["labels"] == ["dusk", "quay"]
        and [one["id"] for one in kept(here, "find", "look again")] == [2]
    )
    picture(here / "c.png", 9)  # a picture that the library has never seen
    assert "which prompt made c.png" in run(here, "library", "add", "c.png").stderr
    good(here, "library", "remove", "1")
    assert (
        [one["id"] for one in kept(here)] == [2]
        and [one["id"] for one in kept(here, "--removed")] == [1]
        and (here / first["file"]).is_file()
    )
    good(here, "library", "restore", "1")
    assert len(kept(here)) == 2
    good(here, "library", "backup", "all.zip")
    with zipfile.ZipFile(here / "all.zip") as archive:
        assert (
            sorted(archive.namelist())
            == sorted(["library.sqlite", *(one["file"] for one in kept(here))])
            and archive.testzip() is None
        )
    assert (here / "a.png").read_bytes() == (here / first["file"]).read_bytes()


@pytest.mark.parametrize(
    ("words", "status", "said_"),
    [
        (["library", "add", "a.png"], 2, "which prompt made a.png"),
        (["library", "add", "none.png", "--prompt", "x"], 3, "none.png does not exist"),
        (["library", "add", "none.png"], 3, "none.png does not exist"),
        (
            ["library", "add", "syntagma.toml", "--prompt", "x"],
            2,
            "is not a picture, a clip or a sound",
        ),
        (["library", "add", "."], 2, "--match SHEET"),
        (["library", "add", "a.png", "--prompt", "x", "--rating", "9"], 2, "not a valid rating"),
        (["library", "show", "12"], 2, "has no library yet"),
        (["effects", "s"], 2, "no sheet and no label"),
        (["judge", "s"], 2, "no sheet and no label"),
        (["read", "none.png"], 3, "none.png"),
        (["library", "page", "g.png"], 2, "name it .html"),
        (["duplicates", "a.png", "syntagma.toml"], 2, "either files of prompts or pictures"),
    ],
)
def test_calls_that_are_wrong(here, words, status, said_):
    picture(here / "a.png")
    done = run(here, *words)
    assert (done.returncode, said_ in done.stderr) == (status, True), done.stderr


def test_a_sheet_is_kept_with_all_that_led_to_it(family):
    found = kept(family)
    assert (
        len(found) == 16
        and {one["sheet"] for one in found} == {"s"}
        and all(
            one["cost"] == {"amount": 4, "currency": "credits"}
            and one["record"]["fills"]["subject"] == "car ferry"
            and one["made"]
            for one in found
        )
    )
    assert "0 added, 16 already there" in good(family, "library", "add", "s") and {
        one["id"] for one in kept(family, "--term", "light=full moonlight")
    } == {one["id"] for one in found if "full moonlight" in one["text"]}
    assert "64 credits" in good(family, "library", "money", "model")
    one = kept(family, "3")[0]
    done = run(family, "compose", "--kept", "3", "subject=lighthouse keeper")
    assert (
        "lighthouse keeper" in done.stdout
        and one["record"]["fills"]["light"].split()[-1] in done.stdout
    )
    assert (
        len(
            good(
                family, "expand", "--kept", "3", "--vary", "light=single bare bulb,bonfire"
            ).splitlines()
        )
        == 2
    )
    assert (
        "syntagma compose poster"
        in run(family, "compose", "--kept", "3", "--ask", given="\n" * 9).stderr
    )
    (family / one["file"]).unlink()
    assert "the file is missing" in good(family, "library", "show", "3")


def test_the_prompt_travels_in_a_copy(here):
    picture(here / "a.png")
    before = (here / "a.png").read_bytes()
    good(
        here,
        "library",
        "add",
        "a.png",
        "--prompt",
        "A red fox",
        "--model",
        "curlew-still",
        "--sign",
        "signed",
        "--bare",
        "bare",
        "--credit",
        "Island line",
        "--writer",
        "Ada",
    )
    properties = said((here / "signed" / "1.png").read_bytes()).properties
    assert (properties.prompt, properties.system, properties.writer, properties.credit) == (
        "A red fox",
        "curlew-still",
        "Ada",
        "Island line",
    )
    bare = said((here / "bare" / "1.png").read_bytes())
    assert (
        bare.prompt == ""
        and bare.properties.credit == "Island line"
        and (here / "a.png").read_bytes() == before
    )
    out = good(here, "read", "signed/1.png")
    assert (
        "curlew-still" in out
        and "red fox" in out
        and "bare/1.png" in good(here, "read", "bare/1.png")
    )
    (here / "signed" / "1.png").replace(here / "from elsewhere.png")
    assert (
        "carries the prompt “A red fox”" in run(here, "library", "add", "from elsewhere.png").stderr
    )


@pytest.mark.long
def test_ten_processes_keep_one_file_once_and_a_killed_one_loses_nothing(here):
    picture(here / "a.png", size=(700, 500))
    calls = [
        subprocess.Popen(
            [sys.executable, "-m", "syntagma", "library", "add", "a.png", "--prompt", f"A fox {n}"],
            cwd=here,
            env=environment(here),
            stdout=subprocess.DEVNULL,
        )
        for n in range(10)
    ]
    assert [call.wait() for call in calls] == [0] * 10 and len(kept(here)) == 1
    for n, (event, part) in enumerate(
        [
            ("sqlite3.connect", "library.sqlite"),
            ("open", ".part"),
            ("os.rename", ".part"),
            ("os.remove", ".part"),
        ]
    ):
        picture(here / f"k{n}.png", 10 + n, (900, 700))
        add = ["library", "add", f"k{n}.png", "--prompt", f"number {n}"]
        killed(here, event, part, 1, *add)
        good(here, *add)
    found = kept(here)
    assert (
        len(found) == 5
        and all((here / one["file"]).stat().st_size > 0 for one in found)
        and len({one["file"] for one in found}) == 5
    )


def test_a_library_of_the_schema_before_is_migrated(here):
    base = sqlite3.connect(here / "library.sqlite")
    base.executescript(
        """create table meta (name text primary key, value text not null); insert into meta values ('version', '1'), ('id', 'x');
        create table kept (id integer primary key, file text not null unique, ending text not null, bytes integer not null, at text not null, dropped text not null default '', text text not null,
        negative text not null default '', model text not null default '', formula text not null default '', sheet text not null default '', take text not null default '', cost real,
        currency text not null default '', mark real, note text not null default '', source text not null default '', record text not null default '{}');
        create table labels (kept integer not null, label text not null, primary key (label, kept)) without rowid;
        create table terms (kept integer not null, facet text not null, term text not null collate nocase, primary key (term, facet, kept)) without rowid;
        create virtual table said using fts5 (words);
        create table judgements (id text primary key, at text not null, judge text not null, sheet text not null, kind text not null, kept integer not null, other integer not null default 0, value text not null,
        slot text not null default '', phrase text not null default '', undone text not null default '');
        insert into kept (id, file, ending, bytes, at, text, mark) values (7, 'abababababababababababababababab', '.png', 3, '2026-01-01', 'An old fox', 4); insert into said (rowid, words) values (7, 'An old fox');"""
    )
    base.close()
    assert kept(here, "find", "old fox")[0]["id"] == 7
    assert sqlite3.connect(here / "library.sqlite").execute(
        "select value from meta where name = 'version'"
    ).fetchone() == (str(VERSION),)
    picture(here / "a.png")
    good(here, "library", "add", "a.png", "--prompt", "A new one")
    assert [one["id"] for one in kept(here)] == [8, 7]
    sqlite3.connect(here / "library.sqlite", isolation_level=None).execute(
        "update meta set value = '99' where name = 'version'"
    )
    assert "newer version" in run(here, "library").stderr


def test_files_downloaded_by_hand(here):
    rows = [
        {"text": f"A {what} on a wet quay, warm lamps, number {n}", "model": "curlew-still"}
        for n, what in enumerate(
            ["red fox", "car ferry", "grey heron", "brass bell", "iron crane", "rowing boat"]
        )
    ]
    (here / "rows.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    good(here, "sheet", "new", "s", "rows.jsonl")
    ids = [row["id"] for row in printed(good(here, "sheet", "show", "s", "--json"))]
    folder = here / "Downloads"
    folder.mkdir()
    picture(folder / f"{ids[0]}.1.png", 1)
    picture(folder / "a_car_ferry_on_a_wet_quay_warm_lam.png", 2)
    picture(folder / "IMG_0001.png", 3)
    good(
        here,
        "library",
        "add",
        "Downloads/IMG_0001.png",
        "--prompt",
        rows[2]["text"],
        "--sign",
        "signed",
    )
    good(here, "library", "remove", "1")
    (here / "signed" / "1.png").replace(folder / "IMG_0001.png")
    picture(folder / "on a wet quay warm lamps.png", 4)
    (folder / "notes.txt").write_text("a picture")
    done = run(here, "library", "add", "Downloads", "--match", "s")
    assert (
        done.returncode == 1
        and "3 sure, 1 guessed, 0 without a match" in done.stdout
        and kept(here) == []
    )
    assert "3 added" in good(here, "library", "add", "Downloads", "--match", "s", "--yes")
    assert {one["text"] for one in kept(here)} == {row["text"] for row in rows[:3]} and all(
        "sure" in one["source"] for one in kept(here)
    )
    assert (
        len(
            printed(
                good(here, "library", "add", "Downloads", "--match", "s", "--guesses", "--json")
            )
        )
        == 4
    )


# Judging and effects


def judged_file(folder, effect=1.5, judges=("Ada", "Bo"), name="said.csv"):
    """Judgements of a family, one choice of light better by `effect`."""
    random = Random(1)
    rows = [["judge", "kind", "picture", "other", "value", "slot", "phrase", "at", "id"]]
    for judge in judges:
        for one in kept(folder):
            rating = min(
                5, max(0, round(2 + effect * ("sodium" in one["text"]) + random.gauss(0, 0.5)))
            )
            rows.append([judge, "rating", one["id"], "", rating, "", "", "", f"{judge}{one['id']}"])
            rows.append(
                [
                    judge,
                    "approve",
                    one["id"],
                    "",
                    int(rating >= 4),
                    "",
                    "",
                    "",
                    f"k{judge}{one['id']}",
                ]
            )
            rows.append(
                [
                    judge,
                    "phrase",
                    one["take"],
                    "",
                    "missing" if "moonlight" in one["text"] else "shown",
                    "light",
                    one["record"]["fills"]["light"],
                    "",
                    f"p{judge}{one['id']}",
                ]
            )
    with open(folder / name, "w", newline="") as file:
        csv.writer(file).writerows(rows)


@pytest.mark.long
def test_effects_of_a_family_that_was_judged(family):
    before = printed(run(family, "effects", "family.jsonl", "--json").stdout)
    assert (before["prompts"], before["rank"], before["freedom"], before["confounded"]) == (
        8,
        4,
        4,
        [],
    )
    judged_file(family)
    assert "96 judgements imported" in good(
        family, "judge", "s", "--import", "said.csv"
    ) and "96 there already" in good(family, "judge", "s", "--import", "said.csv")
    found = printed(good(family, "effects", "s", "--json"))
    light = next(e for e in found["effects"] if e["axis"] == "light")
    sign = 1 if light["choice"] == "sodium quay lamps" else -1
    assert (
        light["clear"]
        and 1.0 < sign * light["size"] < 2.0
        and [one["judge"] for one in found["judges"]] == ["Ada", "Bo"]
        and found["prompts"] == 8
        and found["results"] == 16
    )
    assert (
        not any(e["clear"] for e in found["effects"] if e["axis"] != "light")
        and found["look"] == 1
        and found["agreement"] > 0.3
    )
    shown = good(family, "effects", "s", "--figure", "f.png")
    assert shown.startswith(
        "In these 16 pictures sodium quay lamps did better than full moonlight; the rest made no difference"
    ) or shown.startswith("In these 16 pictures full moonlight did worse than sodium")
    assert (
        "no clear effect yet" in shown
        and "percentage" not in shown
        and Image.open(family / "f.png").width > 600
    )
    assert printed(good(family, "effects", "s", "--json"))["look"] == 1
    (family / "more.csv").write_text(
        "judge,kind,picture,value\nCy,rating,99,3\nCy,rating,1,7\nCy,rating,1,3\n"
    )
    done = run(family, "judge", "s", "--import", "more.csv")
    assert (
        done.returncode == 1
        and "1 judgements imported, 2 left out" in done.stdout
        and "not one of these" in done.stderr
        and "“7” is not a valid rating" in done.stderr
    )
    assert "you asked for rating first" in run(family, "effects", "s", "--outcome", "money").stderr
    money = good(family, "effects", "s", "--outcome", "money")
    assert "percentage points" in money and "credits" in money and " points" in money
    good(family, "effects", "s", "--next", "5", "--out", "next.jsonl")
    more = [json.loads(line) for line in (family / "next.jsonl").read_text().splitlines()]
    assert len(more) == 5 and all(
        one["fills"]["subject"] == "car ferry" and one["design"]["name"] == "effects"
        for one in more
    )
    assert good(family, "sheet", "new", "more", "next.jsonl") == ""
    good(family, "judge", "s", "--out", "out.csv")
    assert len(list(csv.DictReader((family / "out.csv").open()))) == 97


def test_every_look_spends_of_one_budget(family):
    judged_file(family)
    whole = (family / "said.csv").read_text().splitlines()
    (family / "said.csv").write_text(
        "\n".join(
            [
                whole[0],
                *(
                    line
                    for line in whole
                    if line.startswith("Ada,rating") and int(line.split(",")[2]) <= 12
                ),
            ]
        )
    )
    good(family, "judge", "s", "--import", "said.csv")
    first = printed(good(family, "effects", "s", "--json"))
    (family / "said.csv").write_text("\n".join(whole))
    good(family, "judge", "s", "--import", "said.csv")
    again = printed(good(family, "effects", "s", "--json"))
    assert (first["look"], again["look"], first["prompts"], again["prompts"]) == (
        1,
        2,
        6,
        8,
    ) and first["claims_up_to"] > 2 * again["claims_up_to"]
    look = lambda *words: printed(good(family, "effects", "s", "--json", *words))["look"]  # noqa: E731
    assert [
        look(),
        look("--outcome", "approved"),
        look("--outcome", "money"),
        look("--judge", "Ada"),
        look("--judge", "Ada", "--judge", "Bo"),
        look(),
    ] == [2, 3, 3, 4, 2, 2]
    (family / "one.csv").write_text("judge,kind,picture,value\nAda,rating,1,0\n")
    good(family, "judge", "s", "--import", "one.csv")
    assert look() == 5 and "Dee" in run(family, "effects", "s", "--judge", "Dee").stderr


def test_pairs_and_wins(family):
    ids = sorted(one["id"] for one in kept(family))
    strong = {one["id"] for one in kept(family) if "sodium" in one["text"]}
    rows = [["judge", "kind", "picture", "other", "value"]]
    for n, a in enumerate(ids):
        for b in (ids[(n + 1) % 16], ids[(n + 5) % 16]):
            rows.append(
                [
                    "Ada",
                    "pair",
                    a,
                    b,
                    "tie" if (a in strong) == (b in strong) else "left" if a in strong else "right",
                ]
            )
    with open(family / "pairs.csv", "w", newline="") as file:
        csv.writer(file).writerows(rows[:8])
    good(family, "judge", "s", "--import", "pairs.csv")
    assert (
        "the comparisons so far don't connect"
        in run(family, "effects", "s", "--outcome", "wins").stderr
    )
    with open(family / "pairs.csv", "w", newline="") as file:
        csv.writer(file).writerows([rows[0], *rows[8:]])
    good(family, "judge", "s", "--import", "pairs.csv")
    light = next(
        e
        for e in printed(good(family, "effects", "s", "--outcome", "wins", "--json"))["effects"]
        if e["axis"] == "light"
    )
    assert light["size"] * (1 if light["choice"] == "sodium quay lamps" else -1) > 1


def test_wins_of_some_judges(family):
    ids = sorted(one["id"] for one in kept(family))
    strong = {one["id"] for one in kept(family) if "sodium" in one["text"]}
    rows = ["judge,kind,picture,other,value"]
    for judge, better in (("Ada", strong), ("Bo", set(ids) - strong)):
        rows += [
            f"{judge},pair,{a},{b},{'tie' if (a in better) == (b in better) else 'left' if a in better else 'right'}"
            for n, a in enumerate(ids)
            for b in (ids[(n + 1) % 16], ids[(n + 5) % 16])
        ]
    (family / "pairs.csv").write_text("\n".join(rows))
    assert "64 judgements imported" in good(
        family, "judge", "s", "--import", "pairs.csv"
    ) and "0 judgements imported, 64 there already" in good(
        family, "judge", "s", "--import", "pairs.csv"
    )
    sizes = []
    for judge in ("Ada", "Bo"):
        found = printed(
            good(family, "effects", "s", "--outcome", "wins", "--judge", judge, "--json")
        )
        light = next(e for e in found["effects"] if e["axis"] == "light")
        sizes.append(light["size"] * (1 if light["choice"] == "sodium quay lamps" else -1))
        assert [one["judge"] for one in found["judges"]] == [judge] and found["judges"][0][
            "pairs"
        ] == 32
    assert (
        sizes[0] > 1
        and sizes[1] < -1
        and "% of pairs" in good(family, "effects", "s", "--outcome", "wins", "--judge", "Ada")
    )


def test_what_never_came_is_missing_and_what_was_refused_counts(family):
    judged_file(family)
    good(family, "judge", "s", "--import", "said.csv")
    whole = printed(good(family, "effects", "s", "--json"))
    best = max(kept(family), key=lambda one: ("sodium" in one["text"], one["id"]))
    good(family, "library", "remove", str(best["id"]))
    base = sqlite3.connect(family / "ledger.sqlite", isolation_level=None)
    means = {}
    for state in ("failed", "expired", "refused"):
        base.execute(
            "update takes set state = ? where row || '.' || number = ?", (state, best["take"])
        )
        found = printed(good(family, "effects", "s", "--json"))
        means[state] = found["mean"]
        assert (found["refused"], found["missing"]) == ((1, 0) if state == "refused" else (0, 1))
    assert (
        means["failed"] == means["expired"]
        and abs(means["failed"] - whole["mean"]) < 0.15 < means["failed"] - means["refused"]
    )
    assert "1 of the results refused" in good(family, "effects", "s")


def test_the_last_word_of_a_judge_holds(family):
    long = "Ada, who draws all of the posters for the night crossings of this winter"
    library = Library(family)

    def take(*rows):
        (family / "said.csv").write_text(
            "\n".join(["judge,kind,picture,other,value,slot,phrase,at,id,again", *rows])
        )
        return good(family, "judge", "s", "--import", "said.csv")

    def stands(kind="rating"):
        return [(one.kept, one.value) for one in library.judgements() if one.kind == kind]

    take("Bo,rating,1,,3,,,,same,", "Bo,pair,1,2,left,,,,same,")
    assert stands() == [(1, "3")] and stands("pair") == [(1, "left")]
    for value in "434":
        take(f"Bo,rating,1,,{value},,,,,")
        assert stands() == [(1, value)]
    good(family, "judge", "s", "--undo", "--judge", "Bo")
    assert stands() == [(1, "3")]  # what stood before holds again
    for _ in range(5):
        run(family, "judge", "s", "--undo", "--judge", "Bo")
    assert stands() == [] and stands("pair") == []
    assert "1 judgements imported" in take("Bo,rating,1,,3,,,,same,") and stands() == [(1, "3")]
    take(*(f'"{long}",rating,{n},,{n},,,,,' for n in (1, 2, 3)))
    assert [value for _, value in stands()] == ["3", "1", "2", "3"]
    take("Cy,rating,1,,5,,,2026-05-01T10:00:00Z,,", "Cy,rating,1,,2,,,2026-05-01T11:00:00Z,,1")
    assert "0 judgements imported, 1 there already" in take(
        "Cy,rating,1,,4,,,2026-04-01T10:00:00Z,,"
    )  # older than what stands
    assert [(one.value, one.again) for one in library.judgements() if one.judge == "Cy"] == [
        ("5", 0),
        ("2", 1),
    ]
    good(family, "sheet", "show", "s", "--out", "s.csv")
    cells = list(csv.DictReader((family / "s.csv").open()))
    for rating in "343":
        with open(family / "s.csv", "w", newline="") as file:
            out = csv.DictWriter(file, [*cells[0], "rating"])
            out.writeheader()
            out.writerow({**cells[0], "rating": rating})
        good(family, "judge", "s", "--import", "s.csv", "--judge", long)
    own = next(one["id"] for one in kept(family) if one["take"].startswith(cells[0]["id"]))
    assert [one.value for one in library.judgements() if one.judge == long and one.kept == own] == [
        "3"
    ]


def test_judgements_of_the_schema_before_are_migrated(here):
    base = Library(here).base
    base.executescript(
        """drop table judgements; drop table looks; alter table kept rename column rating to mark; update meta set value = '2' where name = 'version';
        create table judgements (id text primary key, at text not null, judge text not null, sheet text not null, kind text not null, kept integer not null, other integer not null default 0, value text not null,
        slot text not null default '', phrase text not null default '', undone text not null default '');
        create table looks (sheet text not null, at text not null, answers integer not null, outcome text not null); insert into looks values ('s', '', 3, 'mark');
        insert into judgements (id, at, judge, sheet, kind, kept, value, undone) values ('a', '', 'Ada', 's', 'mark', 1, '3', ''), ('b', '', 'Ada', 's', 'mark', 2, '1', 'x'), ('c', '', 'Ada', 's', 'mark', 1, '4', ''),
        ('d', '', 'Ada', 's', 'keep', 1, '0', ''), ('e', '', 'Ada', 's', 'keep', 1, '1', ''), ('f', '', 'Ada', 's', 'mark', 1, '5', '');"""
    )
    library = Library(here)
    assert [(one.kind, one.value, one.again) for one in library.judgements()] == [
        ("rating", "3", 0),
        ("approve", "1", 0),
        ("rating", "5", 1),
    ]
    assert library.look("s", "kept", 1, "x").number == 2 and library.first_outcome("s") == "rating"


def test_a_judge_who_marks_at_random_or_the_other_way_is_named(family):
    rows = ["judge,kind,picture,value"]
    random = Random(4)
    for one in kept(family):
        good_one = 3.4 * ("sodium" in one["text"]) + 1 + random.random()
        for judge, rating in (
            ("Ada", good_one),
            ("Bo", good_one - 1),
            ("Cy", 5 - good_one),
            ("Di", good_one),
            ("Eve", 3),
        ):
            rows.append(f"{judge},rating,{one['id']},{min(5, max(0, round(rating)))}")
    (family / "said.csv").write_text("\n".join(rows))
    good(family, "judge", "s", "--import", "said.csv")
    shown = good(family, "effects", "s")
    assert (
        "Cy: disagrees with the others throughout" in shown
        and "Eve: gave all 16 results the same rating" in shown
        and "Ada: says" not in shown
    )
    assert "--judge Ada --judge Bo --judge Di" in shown and "judges at large" not in shown


@pytest.mark.parametrize(
    ("ratings", "said_"),
    [
        (
            {n: 3 for n in range(1, 17)},
            "These 16 pictures were all judged alike, so nothing can be learned from them.",
        ),
        (
            {1: 3, 3: 1, 5: 4, 7: 2, 9: 5},
            "5 pictures of 5 prompts are too few to show what any choice does.",
        ),
    ],
)
def test_what_says_nothing_is_said_in_one_sentence(family, ratings, said_):
    names = {}
    for one in reversed(kept(family)):
        names.setdefault(one["record"]["id"], []).append(one["id"])
    order = [own[0] for own in names.values()] + [own[1] for own in names.values()]
    (family / "said.csv").write_text(
        "\n".join(
            [
                "judge,kind,picture,value",
                *(
                    f"Ada,rating,{order[n // 2 if len(ratings) < 16 else n - 1]},{rating}"
                    for n, rating in ratings.items()
                ),
            ]
        )
    )
    good(family, "judge", "s", "--import", "said.csv")
    shown = good(family, "effects", "s")
    assert shown.startswith(said_), shown
    assert printed(good(family, "effects", "s", "--json"))["look"] == 1 and "better" not in shown
    if len(ratings) == 16:
        assert shown.strip() == said_


def test_the_next_prompts_obey_the_rules_of_the_family(here):
    rule = "never sodium quay lamps with gouache painting"
    good(
        here,
        "expand",
        "poster",
        "subject=car ferry",
        "--vary",
        "light=sodium quay lamps,full moonlight,candlelight",
        "--vary",
        "medium=linocut,gouache painting,woodcut",
        "--vary",
        "palette=storm green and cream,ink blue and lamp orange",
        "--rule",
        rule,
        "--count",
        "10",
        "--model",
        "curlew-still",
        "--out",
        "family.jsonl",
    )
    records = [json.loads(line) for line in (here / "family.jsonl").read_text().splitlines()]
    assert all(
        record["design"]["rules"] == [rule] and record["design"]["name"] == "effects"
        for record in records
    )
    rows = ["judge,kind,picture,value"]
    for n, record in enumerate(records, 1):
        picture(here / f"{n}.png", n)
        (here / "one.jsonl").write_text(json.dumps(record))
        good(here, "library", "add", f"{n}.png", "--prompt", "one.jsonl", "--label", "night")
        rows.append(f"Ada,rating,{n},{2 + ('sodium' in record['text']) + n % 2}")
    (here / "said.csv").write_text("\n".join(rows))
    good(here, "judge", "night", "--import", "said.csv")
    for words in ([], ["--best"]):
        more = printed(good(here, "effects", "night", "--next", "8", "--json", *words))
        assert len(more) == 8 and not any(
            one["fills"]["light"] == "sodium quay lamps"
            and one["fills"]["medium"] == "gouache painting"
            for one in more
        )
        assert all(one["design"]["rules"] == [rule] for one in more)
    best = printed(good(here, "effects", "night", "--json"))["best"]
    assert best[0]["choices"]["light"] == "sodium quay lamps" and all(
        one["choices"] != {"light": "sodium quay lamps", "medium": "gouache painting"}
        for one in best
    )
    assert "expected: from all judgements" in good(here, "effects", "night", "--best")


def test_effects_of_prompts_that_no_design_made(here):
    """Twelve prompts of anybody: the parts that they share are the choices, in their words; with too few nothing is said."""
    things = "a red fox;an old fisherman;a barn owl;a lighthouse;a tram driver;a heron;a beekeeper;a black cat;a ferry;a tailor;a juggler;a goat".split(
        ";"
    )
    for n, thing in enumerate(things):
        text = f"a {'watercolour' if n % 3 else 'linocut'} of {thing}, {'soft window light' if n % 2 else 'full moonlight'}"
        good(
            here,
            "library",
            "add",
            str(picture(here / f"{n}.png", n)),
            "--prompt",
            text,
            "--rating",
            str((4 if n % 2 else 2) + (n % 5 == 0)),
            "--label",
            "ten",
        )
    done = run(here, "effects", "ten")
    assert (
        done.stdout.startswith(
            "In these 12 pictures soft window light did better than full moonlight; the rest made no difference"
        )
        and "these prompts come from no design" in done.stderr
    )
    effects = {
        (e["axis"], e["choice"]): e
        for e in printed(good(here, "effects", "ten", "--json"))["effects"]
    }
    assert {axis for axis, _ in effects} == {"lighting", "medium"} and abs(
        effects["lighting", "soft window light"]["size"] - 1.83
    ) < 0.01
    for n in range(5):
        good(here, "library", "label", str(n + 1), "few")
    assert "too few to show" in good(here, "effects", "few")


def test_what_a_design_can_tell_is_said_before_it_is_paid_for(here):
    axes = [
        "--vary",
        "light=sodium quay lamps,full moonlight,candlelight",
        "--vary",
        "medium=linocut,gouache painting,woodcut",
        "--vary",
        "palette=storm green and cream,ink blue and lamp orange",
    ]

    def name(*words):
        return {
            one["design"]["name"]
            for one in printed(
                good(here, "expand", "poster", "subject=car ferry", *axes, "--json", *words)
            )
        }

    assert [
        name(),
        name("--count", "5"),
        name("--count", "12"),
        name("--takes", "2"),
        name("--design", "single", "--takes", "2"),
    ] == [{"single"}, {"single"}, {"effects"}, {"effects"}, {"single"}]
    good(here, "expand", "poster", "subject=car ferry", *axes, "--out", "single.jsonl")
    done = run(here, "effects", "single.jsonl", "--takes", "3")
    assert (
        "can't separate the effect of a choice" in done.stdout
        and "--design effects --count 12" in done.stdout
        and "18 prompts with one result each cost the same" in done.stdout
    )
    good(
        here,
        "expand",
        "poster",
        "subject=car ferry",
        *axes,
        "--takes",
        "2",
        "--count",
        "18",
        "--out",
        "two.jsonl",
    )
    found = printed(good(here, "effects", "two.jsonl", "--json"))
    assert (found["prompts"], found["takes"]) == (9, 2) and found["one_result_each"] < max(
        found["widths"].values()
    )
    assert "one change at a time" in run(here, "sheet", "new", "s", "single.jsonl").stderr


def test_a_cover_can_not_tell_main_effects(here):
    names = ["light", "palette", "mood", "setting", "medium", "weather"]
    rows = ["000000", "001111", "110011", "111100", "010101", "101010"][:5]
    with open(here / "cover.jsonl", "w") as file:
        for n, row in enumerate(rows):
            file.write(
                json.dumps(
                    {
                        "text": f"prompt {n}",
                        "design": {
                            "name": "cover",
                            "index": n,
                            "changes": {
                                a: ["no", "yes"]
                                for a, v in zip(names, row, strict=True)
                                if v == "1"
                            },
                        },
                    }
                )
                + "\n"
            )
    done = run(here, "effects", "cover.jsonl")
    assert (
        done.returncode == 1
        and "can't be told" in done.stdout
        and "--design effects" in done.stdout
    )


def test_judging_in_the_terminal_and_from_a_sheet(family):
    out = run(family, "judge", "s", "--here", "--judge", "Ada", given="4\na\n9\n2\nu\n1\nq\n")
    assert out.returncode == 0 and "“9” is not a rating" in out.stderr and "undone" in out.stdout
    said_ = Library(family).judgements("s")
    assert [(one.judge, one.kind, one.value) for one in said_] == [
        ("Ada", "rating", "4"),
        ("Ada", "approve", "1"),
        ("Ada", "rating", "1"),
    ]
    assert "undone: rating 1" in good(family, "judge", "s", "--undo", "--judge", "Ada")
    out = run(family, "judge", "s", "--here", "--pairs", "--judge", "Bo", given="l\nt\nq\n")
    assert [one.value for one in Library(family).judgements("s") if one.kind == "pair"] == [
        "left",
        "tie",
    ]
    good(family, "sheet", "show", "s", "--out", "s.csv")
    cells = list(csv.DictReader((family / "s.csv").open()))
    with open(family / "s.csv", "w", newline="") as file:
        out = csv.DictWriter(file, [*cells[0], "rating", "better"])
        out.writeheader()
        for n, one in enumerate(cells):
            out.writerow(
                {**one, "rating": "5" if n == 0 else "", "better": cells[1]["id"] if n == 2 else ""}
            )
    assert "3 judgements imported" in good(
        family, "judge", "s", "--import", "s.csv", "--judge", "Cy"
    )


# Pages (what a browser does with them is in test_pages.py)


def test_pages_hold_what_they_show_and_nothing_from_elsewhere(family):
    good(family, "library", "page", "g.html", "--title", "</script><b>x")
    good(family, "judge", "s", "--page", "j.html")
    good(family, "judge", "s", "--pairs", "--page", "p.html")
    good(
        family,
        "term",
        "picture",
        "lighting",
        "full moonlight",
        str(next((family / "results" / "s").glob("*.png"))),
    )
    assert "2 with a picture" in good(family, "term", "lighting", "--page", "t.html")
    for name in ("g.html", "j.html", "p.html", "t.html"):
        text = (family / name).read_text()
        assert "http://" not in text and "https://" not in text and "<b>x" not in text, name
    data = json.loads(
        (family / "g.html")
        .read_text()
        .split('type="application/json" id="data">')[1]
        .split("</script>")[0]
    )
    assert len(data) == 16 and all(
        one["thumb"].startswith("data:image/jpeg") and len(one["thumb"]) < 12_000 for one in data
    )
    assert (
        "curlew" not in (family / "p.html").read_text()
    )  # who judges pairs does not learn who made them
    assert len(list((family / "library" / "thumbs").glob("*-256.jpg"))) >= 16


def test_a_gallery_of_nothing_and_of_what_is_gone(here):
    good(here, "library", "page", "g.html")
    assert "syntagma library add SHEET" in (here / "g.html").read_text()
    picture(here / "a.png")
    good(here, "library", "add", "a.png", "--prompt", "A fox")
    (here / kept(here, "1")[0]["file"]).unlink()
    assert "the files of 1 are missing" in good(here, "library", "page", "g.html")


# Seeing


def test_see_like_and_near(here):
    pixels = np.zeros((120, 180, 3), "uint8")
    pixels[:] = (31, 47, 88)
    pixels[70:, :60] = (243, 154, 58)
    Image.fromarray(pixels).save(here / "ref.jpg", quality=80)
    seen = printed(good(here, "read", "ref.jpg", "--json"))[0]["picture"]
    assert (
        [c["word"] for c in seen["palette"]] == ["ink blue", "lamp orange"]
        and seen["ratio"] == "3:2"
        and seen["fills"]["palette"] == "ink blue and lamp orange"
    )
    done = run(
        here,
        "compose",
        "poster",
        "subject=car ferry",
        "--like",
        "ref.jpg",
        "--model",
        "curlew-still",
    )
    assert (
        "In ink blue and lamp orange" in done.stdout
        and "/shape 3x2" in done.stdout
        and "as seen" in done.stderr
    )
    assert "In storm green" in good(
        here,
        "compose",
        "poster",
        "subject=car ferry",
        "palette=storm green and cream",
        "--like",
        "ref.jpg",
        "--model",
        "curlew-still",
    )
    Image.fromarray(pixels).resize((90, 60)).save(here / "small.png")
    picture(here / "other.png", 8)
    groups = printed(good(here, "duplicates", "ref.jpg", "small.png", "other.png", "--json"))
    assert [(one["keep"], one["remove"]) for one in groups] == [("ref.jpg", ["small.png"])]
    (here / "p.txt").write_text(
        "A red fox asleep in the snow at dawn, soft light\nA red fox asleep in the snow at dawn, soft lights\nA brass bell on a quay in the rain\n"
    )
    out = good(here, "duplicates", "p.txt")
    assert "3 prompts: 1 group of near-duplicates, 1 to leave out" in out and "--without 2" in out
    said = [
        "A red fox asleep in the snow at dawn, soft light",
        "A red fox running in the snow at dawn, soft light",
        "photo of a red fox sleeping in snow, dawn, soft light, masterpiece, 8k",
        "A grey heron standing on a jetty in fog, 85mm lens",
        "a gray heron stands on the jetty, fog, 85mm lens",
    ]
    (here / "said.txt").write_text("\n".join(said))
    assert [
        (one["keep"], one["remove"])
        for one in printed(good(here, "duplicates", "said.txt", "--json"))
    ] == [("1", ["3"]), ("4", ["5"])]  # in other words


def test_fill_from_a_prompt_of_anybody(here):
    done = run(
        here,
        "compose",
        "poster",
        "--from",
        '{"subject": "a red fox", "medium": "linocut", "light": "full moonlight"}',
        "--ask",
        given="\n" * 12,
    )
    assert (
        "linocut" in done.stdout.lower()
        and "red fox" in done.stdout
        and "full moonlight" in done.stdout
    )


def test_the_library_is_searched_in_time(here):
    library = Library(here)
    with library.step():
        for n in range(3000):
            library.base.execute(
                "insert into kept (id, file, ending, bytes, at, text) values (?, ?, '.png', 1, '', ?)",
                (n + 1, f"{n:032x}", f"a ferry {n} in fog"),
            )
            library.base.execute(
                "insert into said (rowid, words) values (?, ?)", (n + 1, f"a ferry {n} in fog")
            )
    assert (
        library.find(LibraryQuery("ferry 17"), 1)[0].text == "a ferry 1799 in fog"
        and library.find(LibraryQuery('"; drop -- fog*'), 1) == []
        and len(library.find(LibraryQuery("fog"), 5)) == 5
    )
    library.judge(Judgement("a", "s", "rating", 1, "3", id="x"))
    library.judge(Judgement("a", "s", "rating", 1, "3", id="x"))
    assert (
        len(library.judgements("s")) == 1
        and library.undo("a", "s").value == "3"
        and library.judgements("s") == []
        and library.undo("a", "s") is None
    )
