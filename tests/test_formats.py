"""Tables in, prompts out, whole files."""

import io
import json

import platformdirs
import pytest

from syntagma.core.checking.draft_checks import text_findings
from syntagma.core.diagnostics import Trouble
from syntagma.formats.prompts_out import WRITERS
from syntagma.formats.table_in import read_rows
from syntagma.formats.xlsx import read_sheet
from syntagma.storage.files import read_text, whole_file, write_text
from syntagma.storage.folders import Layer, own_folder


@pytest.mark.parametrize(("text", "columns", "rows", "mistakes"), [
    ("a,b\n1,2\n", ["a", "b"], [(2, {"a": "1", "b": "2"})], []),
    ("\ufeffa,b\r\n1,2\r\n", ["a", "b"], [(2, {"a": "1", "b": "2"})], []),
    ('a,b\n"1\n1",2\n3,"x ""y"""\n', ["a", "b"], [(2, {"a": "1\n1", "b": "2"}), (4, {"a": "3", "b": 'x "y"'})], []),
    ("a,b\n1\n,\n\n2,3,\n", ["a", "b"], [(2, {"a": "1"}), (5, {"a": "2", "b": "3"})], []),
    ("a,b\n1,2,3\n4,5\n", ["a", "b"], [(3, {"a": "4", "b": "5"})], [(2, "the row has 3 cells, but the table has 2 columns")]),
    ('a\n"x" y\nz\n', ["a"], [(3, {"a": "z"})], [(2, "the row can't be read")]),
    ('a\nb\n"open\nc\nd\n', ["a"], [(2, {"a": "b"}), (4, {"a": "c"}), (5, {"a": "d"})], [(3, "the row can't be read")]),
    ("a,a\n1,2\n", ["a", "a"], [(2, {"a": "2"})], [(1, "the column “a” appears twice")]),
    ("a, ,b\n1,2,3\n", ["a", "", "b"], [(2, {"a": "1", "b": "3"})], []),
    ("", [], [], [(0, "the file is empty")]),
])  # fmt: skip
def test_tables(text, columns, rows, mistakes):
    got = read_rows(text, "t.csv")
    assert got[0] == columns
    assert [(r.line, r.cells) for r in got[1]] == rows
    assert [
        (m.line, m.message[: len(said)]) for m, (_, said) in zip(got[2], mistakes, strict=True)
    ] == mistakes


@pytest.mark.parametrize(("variables", "there"), [
    ({"SYNTAGMA_HOME": "/a/b"}, "/a/b"), ({"XDG_DATA_HOME": "/data"}, "/data/syntagma"), ({}, "/home/ada/.local/share/syntagma"),
    ({"XDG_DATA_HOME": "not/absolute"}, "/home/ada/.local/share/syntagma"), ({"SYNTAGMA_HOME": "", "XDG_DATA_HOME": ""}, "/home/ada/.local/share/syntagma"),
])  # fmt: skip
def test_a_persons_own_folder_is_where_the_system_has_it(variables, there, monkeypatch):
    for name in ("SYNTAGMA_HOME", "XDG_DATA_HOME"):
        monkeypatch.delenv(name, raising=False)
    for name, said in {"HOME": "/home/ada", **variables}.items():
        monkeypatch.setenv(name, said)
    assert str(own_folder()) == there
    if not variables.get("SYNTAGMA_HOME"):
        assert platformdirs.user_data_path("syntagma", appauthor=False) == own_folder()


RECORD = {
    "id": "1f", "formula": "f", "model": "m", "text": 'a "b", ```c', "negative": "d", "parameters": {"ratio": "2:3"},
    "fills": {"x": ["p", "q"], "y": "z, é"}, "size": {"text": {"used": 9, "limit": 75, "unit": "tokens"}},
    "findings": [{"kind": "warning", "message": "w"}], "design": {"name": "single", "index": 1, "changes": {"x": ["o", ["p", "q"]], "y": ["", ""]}},
}  # fmt: skip


def written(ending, *records):
    raw = io.BytesIO()
    file = io.TextIOWrapper(raw, encoding="utf-8", newline="")
    out = WRITERS[ending](file, ["x", "y"])
    for record in records:
        out.add(record if out.records else record["text"])
    out.close()
    file.flush()
    return raw.getvalue().decode()


def test_text_out():
    assert written(".txt", RECORD, RECORD) == 'a "b", ```c\n' * 2


def test_json_out():
    assert [json.loads(line) for line in written(".jsonl", RECORD, RECORD).splitlines()] == [
        RECORD,
        RECORD,
    ]
    assert json.loads(written(".json", RECORD, RECORD)) == {
        "items": [RECORD, RECORD],
        "findings": [],
    }
    assert json.loads(written(".json")) == {"items": [], "findings": []}


def test_csv_out():
    _, (row,), _ = read_rows(written(".csv", RECORD), "t")
    assert row.cells == {
        "id": "1f", "formula": "f", "model": "m", "text": 'a "b", ```c', "negative": "d", "x": "p; q", "y": "z, é",
        "parameters": "ratio=2:3", "changes": "x: p; q; y: blank", "used": "9", "limit": "75", "unit": "tokens", "findings": "w",
    }  # fmt: skip


def test_markdown_out():
    page = written(".md", RECORD, {"id": "2", "formula": "f", "text": "t"})
    assert page.startswith('# f\n\n## 1 · m · x: p; q, y: blank\n\n````text\na "b", ```c\n````\n')
    assert (
        "Negative: d" in page
        and "9 of 75 tokens" in page
        and "- warning: w" in page
        and "## 2 · 2" in page
    )


def test_a_failure_leaves_the_old_file(tmp_path):
    path = tmp_path / "a.txt"
    write_text(path, "old\r\n")
    with pytest.raises(ValueError), whole_file(path) as file:
        file.write("half")
        raise ValueError
    assert read_text(path) == "old\r\n" and [p.name for p in tmp_path.iterdir()] == ["a.txt"]
    with pytest.raises(KeyboardInterrupt), whole_file(path) as file:
        file.write("half")
        raise KeyboardInterrupt
    assert read_text(path) == "old\r\n" and (tmp_path / "a.txt.partial").read_text() == "half"
    write_text(path, "new")
    assert read_text(path) == "new" and [p.name for p in tmp_path.iterdir()] == ["a.txt"]


def test_a_link_stays_a_link(tmp_path):
    (tmp_path / "real.txt").write_text("old")
    (tmp_path / "link.txt").symlink_to("real.txt")
    write_text(tmp_path / "link.txt", "new")
    assert (tmp_path / "link.txt").is_symlink() and (tmp_path / "real.txt").read_text() == "new"


@pytest.mark.parametrize(
    ("name", "said"),
    [("none", "does not exist"), ("", "is a folder"), ("latin", "is not UTF-8 text")],
)
def test_reading_says_what_is_wrong(tmp_path, name, said):
    (tmp_path / "latin").write_bytes(b"caf\xe9")
    with pytest.raises(Trouble, match=said):
        read_text(tmp_path / name if name else tmp_path)


@pytest.mark.parametrize(("text", "messages"), [
    ("A lamp on a wet quay, lit from below.", []),
    ("a the the lamp", ["“the the” repeats a word"]),
    ("very very old; had had enough", []),
    ("a lamp (lit", ["( and ) do not pair"]),
    ('she says "now', ['a " is left open']),
    ("a lamp,, lit", ["two commas in a row: “a lamp,, lit”"]),
    ("a lamp , lit", ["a space before a comma: “a lamp , lit”"]),
    ("a lamp., lit", ["a comma after a full stop: “a lamp., lit”"]),
    ("at 9 p.m., lit", []),
    ("an f/2.8 lens, 1,200 gulls", []),
])  # fmt: skip
def test_what_the_text_alone_shows(text, messages):
    assert [f.message for f in text_findings(text)] == messages


def test_a_formula_that_was_never_worked_out_is_told():
    from openpyxl import Workbook

    book, file = Workbook(), io.BytesIO()
    for row in (["term", "gloss"], ["wet slate", "=A1&A2"], ["paper moons", "many"]):
        book.active.append(row)
    book.save(file)
    _, rows, mistakes = read_sheet(file.getvalue(), "terms.xlsx")
    assert [(m.line, m.message) for m in mistakes] == [
        (2, "the cell of column gloss is a formula without a result")
    ]
    assert [row.cells["gloss"] for row in rows] == ["", "many"]


def test_the_files_of_a_room(tmp_path):
    (tmp_path / "themes").mkdir()
    for name in ("night.toml", ".hidden.toml", "notes.txt", "sea.toml.bak"):
        (tmp_path / "themes" / name).write_text("")
    assert (
        set(Layer("own", tmp_path).files("themes", ".toml")) == {"night"}
        and Layer("own", tmp_path).files("looks", ".formula") == {}
    )
