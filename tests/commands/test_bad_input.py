"""Bad input: what is said, where, what to type instead, the exit status; nothing half-written, no traceback."""

import pytest

from tests.commands.program import run

FIVE = """+++
media = "picture"
[slots]
vessel = { facet = "subjct", neeed = true }
+++
lead!     [a medium of [a vessel]
place     [vessel as plaec]
light     lit by {soft} [light]]
lead      again
"""
FILES = {
    "five.formula": FIVE.encode(),
    "toml.formula": b'+++\nabout = "x"\nratio = 2:3\n+++\nlead a lamp\n',
    "empty.formula": b"",
    "open.formula": b"+++\nabout = 1\n",
    "latin.formula": b"lead caf\xe9\n",
    "empty.csv": b"",
    "alien.csv": b"colour,size\nred,3\n",
    "broken.csv": b'medium,subject\n"lino"cut,gull\netching,heron\n',
    "bad.json": b"[{]",
    "folder/x.txt": b"",
}

# the call, its exit status, what standard error says
CASES = [
    (["compose", "postr"], 2, ["no formula is called “postr”", "did you mean “poster”?"]),
    (["term", "ligthing"], 2, ["no facet is called “ligthing”", "did you mean “lighting”?"]),
    (["compose", "poster", "subject=x", "medium=y", "--model", "curlew"], 2, ["no model is called “curlew”", "curlew-still"]),
    (["expand", "poster", "subject=x", "--vary", "medium", "--design", "ful"], 2, ["no design is called “ful”", "did you mean “full”?"]),
    (["expand", "poster", "subject=x", "medium=y"], 2, ["nothing varies", "--count 12"]),
    (["expand", "poster", "subject=x", "--vary", "medum=a"], 2, ["no slot “medum”", "did you mean “medium”?"]),
    (["expand", "poster", "subject=x", "--vary", "medium:400"], 2, ["terms to pick from, too few"]),
    (["expand", "poster", "subject=x", "--vary", "medium:x"], 2, ["“x” is not a valid number of picks"]),
    (["expand", "poster", "subject=x", "--vary", "trait"], 2, ["the slot “trait” takes free text"]),
    (["expand", "poster", "subject=x", "--vary", "medium=a", "--vary", "medium=b"], 2, ["“medium” is varied twice"]),
    (["expand", "poster", "--count", "none"], 2, ["“none” is not a valid number of prompts"]),
    (["compose", "poster", "medium"], 2, ["“medium” fills no slot", "subject=medium"]),
    (["compose", "poster", "medium=a", "medium=b"], 2, ["filled twice"]),
    (["compose", "poster", "medim=a", "subject=b"], 2, ["no slot “medim”", "did you mean “medium”?"]),
    (["compose", "poster", "medium=a"], 2, ["subject: this slot must be filled"]),
    (["compose", "poster", "--colour"], 2, ["unknown option --colour"]),
    (["compose"], 2, ["no formula was named"]),
    (["term", "stra", "x"], 2, ["term has no verb “stra”", "did you mean: syntagma term star x"]),
    (["compose", "poster", "--print", "all"], 2, ["“all” is not a value of --print", "write text, negative or request"]),
    (["compse"], 2, ["no command is called “compse”", "did you mean: syntagma compose"]),
    (["compose", "[a medium"], 1, ["the formula:1:1: the bracket is not closed", "^"]),
    (["compose", "five.formula"], 1, [
        "five.formula:2:1: “picture” is not a medium", "five.formula:4:30: a slot has no key “neeed”", "did you mean “need”?",
        "five.formula:6:11: the bracket is not closed", "five.formula:7:22: “plaec” is not a form", "did you mean “place”?",
        "five.formula:8:18: a brace with no slot in it", "five.formula:8:32: “]” closes nothing",
        "five.formula:9:1: the label “lead” is used twice", "    7 | place     [vessel as plaec]\n                             ^^^^^",
    ]),
    (["compose", "toml.formula"], 1, ["toml.formula:3:11:", "it is TOML"]),
    (["compose", "empty.formula"], 1, ["empty.formula: it has no phrases"]),
    (["compose", "open.formula"], 1, ["open.formula:1:1: the head is not closed"]),
    (["compose", "latin.formula"], 1, ["is not UTF-8 text (byte 8)"]),
    (["compose", "./folder"], 3, ["folder is a folder, not a file"]),
    (["compose", "none.formula"], 3, ["none.formula does not exist"]),
    (["compose", "poster", "--rows", "empty.csv"], 1, ["empty.csv is empty", "medium,trait,subject"]),
    (["compose", "poster", "--rows", "alien.csv"], 1, ["no column of alien.csv matches a slot of poster"]),
    (["compose", "poster", "--rows", "broken.csv"], 1, ["broken.csv:2:1: the row can't be read", "1 of 2 rows"]),
    (["compose", "poster", "--rows", "folder"], 3, ["folder is a folder"]),
    (["check", "bad.json"], 1, ["bad.json:1:3: this is not JSON"]),
    (["check", "empty.csv"], 1, ["empty.csv"]),
    (["check", "folder"], 3, ["folder is a folder"]),
    (["compose", "poster", "medium=a", "subject=b", "--out", "p.doc"], 2, ["can't write prompts as .doc"]),
    (["compose", "poster", "medium=a", "subject=b", "--out", "p"], 2, ["p has no ending"]),
    (["compose", "poster", "medium=a", "subject=b", "--out", "none/p.txt"], 3, ["none/p.txt can't be written"]),
    (["compose", "poster", "medium=a", "subject=b", "--out", "folder.txt"], 3, ["folder.txt is a folder"]),
    (["compose", "poster", "medium=a", "subject=b", "--print", "negative", "--model", "curlew-still"], 1, ["has no negative text"]),
]  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    folder = tmp_path_factory.mktemp("bad")
    (folder / "folder.txt").mkdir()
    for name, data in FILES.items():
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_bytes(data)
    return folder


@pytest.mark.parametrize(
    ("call", "status", "said"), CASES, ids=[" ".join(c[0])[:50] for c in CASES]
)
def test_bad_input(folder, call, status, said):
    before = sorted(p.name for p in folder.rglob("*"))
    done = run(folder, *call)
    assert done.returncode == status, done.stderr
    for words in said:
        assert words in done.stderr
    assert "Traceback" not in done.stderr
    assert sorted(p.name for p in folder.rglob("*")) == before


def test_vocabulary_files(tmp_path):
    (tmp_path / "syntagma.toml").write_text("")
    (tmp_path / "vocabulary").mkdir()
    (tmp_path / "vocabulary/sky.csv").write_bytes(
        b"\xef\xbb\xbfterm,gloss,mine\r\nlow cloud,grey,1\r\n,blank,\r\nhigh,a,b,c\r\nblue,clear,2\r\n"
    )
    (tmp_path / "vocabulary/sea.csv").write_text("name,gloss\nflat,calm\n")
    done = run(tmp_path, "term", "sky", "--json")
    assert '"mine": "1"' in done.stdout and '"blue"' in done.stdout and "high" not in done.stdout
    assert "vocabulary/sky.csv:3:1: the term is blank" in done.stderr
    assert "vocabulary/sky.csv:4:1: the row has 4 cells, but the table has 3 columns" in done.stderr
    done = run(tmp_path, "term", "sea")
    assert "vocabulary/sea.csv:1:1: no column is called “term”" in done.stderr


def test_settings_that_nobody_knows(tmp_path):
    (tmp_path / "syntagma.toml").write_text('modle = "curlew-still"\n')
    done = run(tmp_path, "term")
    assert done.returncode == 1 and "did you mean “model”?" in done.stderr
