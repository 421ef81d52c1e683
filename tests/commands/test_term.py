"""term and what it does to terms; completion in the shell."""

import csv
import subprocess

import pytest
from openpyxl import Workbook, load_workbook

from tests.commands.program import PROGRAM, environment, good, printed, run


def test_a_term_of_ones_own(tmp_path):
    good(tmp_path, "start", "ws")
    ws = tmp_path / "ws"
    good(
        ws,
        "term",
        "new",
        "setting",
        "ticket window",
        "--place",
        "at a ticket window",
        "--tags",
        "indoors; warm",
    )
    assert (
        ws / "vocabulary/setting.csv"
    ).read_text() == "term,place,tags\nticket window,at a ticket window,indoors; warm\n"
    assert (
        good(ws, "compose", "a ferry, [setting as place]", "setting=ticket window")
        == "A ferry, at a ticket window\n"
    )
    again = run(ws, "term", "new", "setting", "Ticket-Window")
    assert again.returncode == 2 and "is in vocabulary/setting.csv already" in again.stderr
    good(ws, "term", "new", "setting", "pier end", "--gloss", "Air, on three sides", "--own")
    assert (
        ws / "own/vocabulary/setting.csv"
    ).read_text() == 'term,gloss\npier end,"Air, on three sides"\n'


def test_what_stands_in_a_persons_file_stays_as_it_is(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    path = tmp_path / "vocabulary/sky.csv"
    path.write_bytes(b'term,mine\r\n"low ""grey"" cloud", 7 \r\nblue,')
    good(tmp_path, "term", "new", "sky", "mackerel sky", "--gloss", "Ribs of cloud")
    assert (
        path.read_bytes()
        == b'term,mine,gloss\r\n"low ""grey"" cloud", 7 \r\nblue,\r\nmackerel sky,,Ribs of cloud\r\n'
    )
    assert [t["term"] for t in printed(good(tmp_path, "term", "sky", "--json"))] == [
        'low "grey" cloud',
        "blue",
        "mackerel sky",
    ]


def test_stars_and_notes(tmp_path):
    first = printed(good(tmp_path, "term", "lens", "--json"))[0]["term"]
    assert first != "85mm lens"
    assert "starred" in good(tmp_path, "term", "star", "85MM lens")
    good(tmp_path, "term", "note", "85mm lens", "for the winter portraits")
    terms = printed(good(tmp_path, "term", "lens", "--json"))
    assert (
        terms[0]["term"] == "85mm lens"
        and terms[0]["star"] is True
        and terms[0]["note"] == "for the winter portraits"
    )
    assert [t["term"] for t in printed(good(tmp_path, "term", "--starred", "--json"))] == [
        "85mm lens"
    ]
    assert good(tmp_path, "term", "lens").splitlines()[2].startswith("★ 85mm lens")
    good(tmp_path, "term", "unstar", "85mm lens")
    assert printed(good(tmp_path, "term", "lens", "--json"))[0]["term"] == first
    assert "no term is called “85m lens”" in run(tmp_path, "term", "star", "85m lens").stderr


def test_favourites_come_first_in_a_family(tmp_path):
    def lenses():
        made = printed(
            good(tmp_path, "expand", "photograph", "subject=ferry", "--vary", "lens", "--json")
        )
        return [r["fills"]["lens"] for r in made]

    before = lenses()
    good(tmp_path, "term", "star", "pinhole")
    assert before[0] != "pinhole" and lenses() == [
        "pinhole",
        *[name for name in before if name != "pinhole"],
    ]


TABLE = [
    ["facet", "term", "gloss", "mine"],
    ["sky", "low cloud", "a grey lid", 7],
    ["sky", "", "nothing", None],
    ["sky", "Low-Cloud", "again", None],
    ["lens", "85mm lens", None, None],
    ["Bad Name", "x", None, None],
    ["lens", "33mm lens", "nearly normal", None],
]


@pytest.mark.parametrize("ending", ["csv", "xlsx"])
def test_terms_from_a_table(tmp_path, ending):
    path = tmp_path / f"mine.{ending}"
    if ending == "csv":
        with open(path, "w", newline="") as file:
            csv.writer(file).writerows(TABLE)
    else:
        book = Workbook()
        for row in TABLE:
            book.active.append(row)
        book.save(path)
    out = good(tmp_path, "term", "import", path.name)
    assert "2 imported, 4 left out" in out
    for said in (
        "3:1: the term is blank",
        "4:1: “Low-Cloud” is in the table twice",
        "5:1: “85mm lens” exists already",
        "6:1: “Bad Name” is not a name",
    ):
        assert f"left: mine.{ending}:{said}" in out
    (term,) = printed(good(tmp_path, "term", "sky", "--json"))
    assert term == {
        "facet": "sky",
        "term": "low cloud",
        "number": "one",
        "gloss": "a grey lid",
        "mine": "7",
    }
    assert "33mm lens" in good(tmp_path, "term", "lens")


def test_terms_out(tmp_path):
    good(tmp_path, "term", "lens", "--out", "lens.csv")
    good(tmp_path, "term", "lens", "--out", "lens.xlsx")
    rows = list(csv.reader((tmp_path / "lens.csv").read_text("utf-8").splitlines()))
    sheet = [
        [cell or "" for cell in row]
        for row in load_workbook(tmp_path / "lens.xlsx").active.iter_rows(values_only=True)
    ]
    assert rows == sheet and rows[0][:2] == ["term", "number"] and len(rows) > 25
    good(tmp_path, "term", "import", "lens.xlsx", "--facet", "glass")
    assert len(printed(good(tmp_path, "term", "glass", "--json"))) == len(rows) - 1
    good(tmp_path, "term", "--tag", "night", "--tag", "sea", "--out", "both.csv")
    found = list(csv.DictReader((tmp_path / "both.csv").read_text("utf-8").splitlines()))
    assert (
        found
        and all({"night", "sea"} <= set(r["tags"].split("; ")) for r in found)
        and len({r["facet"] for r in found}) > 1
    )
    assert "camera-move" not in {
        t["facet"]
        for t in printed(good(tmp_path, "term", "--tag", "film", "--media", "image", "--json"))
    }


@pytest.mark.parametrize(("call", "status", "said"), [
    (["term", "new", "sky"], 2, "TERM is missing"),
    (["term", "new", "Sky", "x"], 2, "“Sky” is not a name for a facet"),
    (["term", "new", "sky", "x", "--number", "few"], 2, "“few” is not a number"),
    (["term", "star", "lamps", "--facet", "lightning"], 2, "did you mean “lighting”?"),
    (["term", "import", "none.xlsx", "--facet", "sky"], 3, "none.xlsx does not exist"),
    (["term", "import", "fake.xlsx", "--facet", "sky"], 1, "this is not a workbook"),
    (["term", "import", "bare.csv"], 2, "which facet are the terms of bare.csv of?"),
    (["term", "import", "noterm.csv", "--facet", "sky"], 2, "may be a heading or a term"),
    (["term", "--tag", "nigth"], 2, "did you mean “night”?"),
    (["term", "lens", "--out", "lens.doc"], 2, "can't write terms as .doc"),
])  # fmt: skip
def test_bad_input(tmp_path, call, status, said):
    (tmp_path / "fake.xlsx").write_text("no")
    (tmp_path / "bare.csv").write_text("term\nx\n")
    (tmp_path / "noterm.csv").write_text("nom\nx\n")
    done = run(tmp_path, *call)
    assert done.returncode == status and said in done.stderr and "Traceback" not in done.stderr
    assert not (tmp_path / "own").exists()


def completed(folder, line):
    """What the shell is offered behind `line`."""
    answer = folder / "answer"
    env = environment(folder) | {
        "_ARGCOMPLETE": "1", "COMP_LINE": line, "COMP_POINT": str(len(line)), "COMP_TYPE": "9", "_ARGCOMPLETE_IFS": "\n",
        "_ARGCOMPLETE_STDOUT_FILENAME": str(answer), "_ARGCOMPLETE_COMP_WORDBREAKS": " \t\n",
    }  # fmt: skip
    subprocess.run([PROGRAM], cwd=folder, env=env, check=True, capture_output=True)
    return [word.replace("\\", "").strip() for word in answer.read_text().split("\n")]


@pytest.mark.long
@pytest.mark.parametrize(("line", "offered"), [
    ("syntagma comp", "compose"),
    ("syntagma compose post", "poster"),
    ("syntagma compose poster sub", "subject="),
    ("syntagma compose poster subject=harb", "subject=harbour pilot"),
    ("syntagma expand poster --vary lig", "light="),
    ("syntagma compose poster --model dun", "dunlin-still"),
    ("syntagma term ligh", "lighting"),
    ("syntagma formula film", "film-shot"),
    ("syntagma compose poster --mo", "--model"),
])  # fmt: skip
def test_completion(tmp_path, line, offered):
    assert offered in completed(tmp_path, line)


def test_a_term_below_another(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    wrong = run(tmp_path, "term", "new", "weather", "quay fog", "--broader", "fogg")
    assert (
        wrong.returncode == 2
        and "weather has no term “fogg” that “quay fog” could be a kind of" in wrong.stderr
        and "did you mean “fog”?" in wrong.stderr
        and not (tmp_path / "vocabulary").exists()
    )
    made = run(tmp_path, "term", "new", "weather", "quay fog", "--broader", "fog")
    assert made.returncode == 0 and "picks guess" not in made.stderr
    shown = [
        t["term"]
        for t in printed(good(tmp_path, "term", "find", "fog", "--facet", "weather", "--json"))
    ]
    assert shown[0] == "fog" and set(shown[1:3]) == {"thick fog", "quay fog"}
    lines = good(tmp_path, "term", "weather").splitlines()
    at = next(n for n, line in enumerate(lines) if line.startswith("fog "))
    assert any(line.startswith("  quay fog") for line in lines[at : at + 8])
    assert "The nearest: fog" in run(tmp_path, "term", "find", "zzfogg").stderr


def test_what_is_never_picked(tmp_path):
    picked = {
        r["fills"].get("subject")
        for draw in range(1, 4)
        for r in printed(
            good(tmp_path, "expand", "photograph", "--count", "12", "--draw", str(draw), "--json")
        )
    }
    plain = {
        t["term"]
        for t in printed(good(tmp_path, "term", "subject", "--json"))
        if t.get("picked") == "no"
    } - {one["who"] for one in printed(good(tmp_path, "situation", "--json"))}
    assert len(plain) > 50 and len(picked) > 20 and not picked & plain


@pytest.mark.parametrize(("table", "call", "read", "terms"), [
    ("Word,Notes,Category,Also known as\ngoose-neck lamp,Light where the hand is,Light,swan lamp\n", [], "read “Word” as term, “Notes” as gloss, “Category” as facet, “Also known as” as aka", {"goose-neck lamp"}),
    ("Lumière,Usage\nlampe bleue,le soir\n", ["--facet", "lighting", "--column", "term=Lumière"], "read “Lumière” as term", {"lampe bleue"}),
    ("TERM,Gloss\nfoyer lamp,Warm and high\n", ["--facet", "lighting"], "read “TERM” as term, “Gloss” as gloss", {"foyer lamp"}),
    ("Name\nporch lamp\n", ["--facet", "lighting"], "read “Name” as term", {"porch lamp"}),
])  # fmt: skip
def test_a_list_comes_in_under_its_own_headings(tmp_path, table, call, read, terms):
    good(tmp_path, "start", "ws")
    (tmp_path / "ws/list.csv").write_text(table, "utf-8")
    done = run(tmp_path / "ws", "term", "import", "list.csv", *call)
    assert done.stdout.splitlines()[0] == read and "1 imported, 0 left out" in done.stdout, (
        done.stdout + done.stderr
    )
    assert terms <= {
        t["term"] for t in printed(good(tmp_path / "ws", "term", "lighting", "--json"))
    }


@pytest.mark.parametrize(("table", "call", "said"), [
    ("Lumière,Usage\nx,y\n", [], "none of the columns of list.csv is clearly the term"),
    ("blue lamp\nred lamp\n", [], "its first line “blue lamp” may be a heading or a term"),
    ("Word,Notes\nx,y\n", ["--column", "term=Wrod"], "did you mean “Word”?"),
    ("Word,Notes\nx,y\n", ["--column", "terms=Word"], "“terms” is not a vocabulary column"),
    ("Word,Notes\nx,y\n", ["--column", "Word"], "write --column term=Word"),
])  # fmt: skip
def test_a_list_whose_headings_say_too_little_is_not_guessed(tmp_path, table, call, said):
    good(tmp_path, "start", "ws")
    (tmp_path / "ws/list.csv").write_text(table, "utf-8")
    done = run(tmp_path / "ws", "term", "import", "list.csv", "--facet", "lighting", *call)
    assert done.returncode == 2 and said in done.stderr, done.stderr


def test_facets_are_listed_by_what_they_say(tmp_path):
    facets = {f["facet"]: f["home"] for f in printed(good(tmp_path, "term", "--json"))}
    assert (
        facets["genre"] == "kind" and facets["colour"] == "colour" and facets["ambience"] == "sound"
    )
    table = good(tmp_path, "term")
    assert (
        table.index("what kind of picture")
        < table.index("who or what")
        < table.index("what is heard")
    )
    assert "person" in next(
        line for line in table.splitlines() if " subject " in line
    )  # what has most cases represents the rest


@pytest.mark.long
def test_what_is_compiled_follows_the_file(tmp_path):
    """The cache holds what ships; a term of one's own counts at once, and a cache that can't be read or written is done without."""
    env = environment(tmp_path) | {"XDG_CACHE_HOME": str(tmp_path / "kept")}

    def found(text):
        done = subprocess.run(
            [PROGRAM, "term", "find", text, "--json"],
            cwd=tmp_path,
            env=env,
            capture_output=True,
            text=True,
            check=True,
        )
        return printed(done.stdout)[0]["term"]

    assert found("fog") == "fog"
    kept = list((tmp_path / "kept/syntagma").glob("*.bin"))
    assert kept
    for file in kept:
        file.write_bytes(b"broken")
    good(
        tmp_path,
        "term",
        "new",
        "weather",
        "fogbound lane light",
        "--place",
        "in the light of a fogbound lane",
        "--own",
    )
    assert found("fogbound") == "fogbound lane light" and found("mist") == "mist"
    assert any(file.read_bytes() != b"broken" for file in kept)
    env["XDG_CACHE_HOME"] = "/dev/null/none"
    assert found("fog") == "fog"


@pytest.mark.parametrize(("word", "term"), [("flute", "flute"), ("toadstool", "mushroom")])
def test_a_term_in_place_of_a_facet_is_searched(tmp_path, word, term):
    done = run(tmp_path, "term", word)
    assert (
        done.returncode == 0
        and f"“{word}” is a term, not a facet" in done.stderr
        and f"\n{term} " in done.stdout
    )
