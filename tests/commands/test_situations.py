"""situation: the list, the search, and situations of a person's own, written or taken from a table or a pack."""

import pytest

from tests.commands.program import good, printed, run

KEEPER = [
    "situation",
    "new",
    "subject",
    "lamp-room keeper",
    "--setting",
    "in a lamp room",
    "--action",
    "trimming a wick by the window",
    "--lighting",
    "low sun through salt-stained glass",
    "--telling-detail",
    "a kettle on the lens",
]
TABLE = "subject,setting,action,lighting,world,telling-detail\nbell founder,in a foundry,tapping a rim,one hanging lamp,where: indoors,a tuning fork in a boot\n,,wiping soot off a name,,where: indoors,\n"


@pytest.fixture
def workspace(tmp_path):
    good(tmp_path, "start", ".")
    return tmp_path


def pick(folder, subject):
    (made,) = printed(
        good(folder, "compose", "photograph", f"subject={subject}", "--pick", "--json")
    )
    return made["fills"]


def test_the_list_and_the_search(tmp_path):
    animals = printed(good(tmp_path, "situation", "animal", "--json"))
    assert len(animals) >= 25 and {one["of"] for one in animals} == {"animal"}
    assert (
        printed(good(tmp_path, "situation", "find", "piano tuner", "--json"))[0]["who"]
        == "piano tuner"
    )
    said = good(tmp_path, "situation", "find", "library book")
    assert "any person" in said and "#person" not in said
    missing = run(tmp_path, "situation", "find", "zeppelin hangar")
    assert (
        missing.returncode == 1
        and "No situation matches “zeppelin hangar”" in missing.stdout + missing.stderr
    )


def test_one_of_ones_own_is_picked_and_goes_with_a_pack(workspace, tmp_path_factory):
    good(workspace, *KEEPER)
    fills = pick(workspace, "lamp-room keeper")
    assert (
        fills["action"] == "trimming a wick by the window"
        and fills["telling-detail"] == "a kettle on the lens"
    )
    good(workspace, "pack", "mine", "--out", "mine.syntagma.zip")
    other = tmp_path_factory.mktemp("other")
    good(other, "start", ".")
    taken = good(other, "pack", "import", str(workspace / "mine.syntagma.zip"))
    assert "situation" in taken and pick(other, "lamp-room keeper") == fills
    assert (other / "situations/subject.csv").read_bytes() == (
        workspace / "situations/subject.csv"
    ).read_bytes()


def test_a_table_is_taken_and_what_is_wrong_in_it_is_left(workspace):
    (workspace / "founders.csv").write_text(
        TABLE + "bad one,in a yard,waiting,lamp,hour: teatime,\n", encoding="utf-8"
    )
    done = run(workspace, "situation", "import", "founders.csv")
    assert done.returncode == 0 and all(
        said in done.stdout for said in ("1 situation added", "teatime", "founders.csv:4")
    )
    (founder,) = printed(good(workspace, "situation", "find", "bell founder", "--json"))
    assert len(founder["moments"]) == 2 and founder["moments"][1]["setting"] == "in a foundry"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["situation", "new", "subjct", "keeper", "--action", "waiting"], "did you mean"),
        (
            ["situation", "new", "subject", "keeper", "--action", "waiting", "--seen", "elbow"],
            "“elbow” can't be shown of a person",
        ),
        (
            [
                "situation",
                "new",
                "subject",
                "keeper",
                "--action",
                "waiting",
                "--world",
                "hour: teatime",
            ],
            "teatime",
        ),
        (
            [
                "situation",
                "new",
                "subject",
                "keeper",
                "--action",
                "waiting",
                "--formulas",
                "photgraph",
            ],
            "did you mean “photograph”",
        ),
        (["situation", "animl"], "no situation has a lead from “animl”"),
        (["situation", "import", "none.csv"], "none.csv"),
    ],
)
def test_what_it_refuses(workspace, words, said):
    done = run(workspace, *words)
    assert done.returncode and said in done.stderr and not (workspace / "situations").exists()
