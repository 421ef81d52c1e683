"""facets, terms, formulas, models, check, start, tour."""

import json
import re

import pytest

from tests.commands.program import good, printed, run


def test_facets(tmp_path):
    facets = {f["facet"]: f["terms"] for f in printed(good(tmp_path, "term", "--json"))}
    assert len(facets) >= 30 and all(number >= 15 for number in facets.values()), facets
    table = good(tmp_path, "term")
    assert all(name in table for name in facets) and max(map(len, table.splitlines())) <= 80


@pytest.mark.parametrize(("text", "first"), [
    ("magic hour", "golden hour"),  # by another spelling
    ("lihgthouse beam", "sweeping lighthouse beam"),  # a typing error
    ("moonlight", "moonlight"),
    ("worm's eye", "very low angle"),
])  # fmt: skip
def test_find(tmp_path, text, first):
    assert printed(good(tmp_path, "term", "find", text, "--json"))[0]["term"] == first


def test_terms_show_what_each_does(tmp_path):
    table = good(tmp_path, "term", "lens")
    assert "85mm lens" in table and "Flattering faces" in table
    assert run(tmp_path, "term", "find", "qqqqq", "--facet", "lens").stderr.startswith(
        "No term matches “qqqqq”."
    )


def test_formulas(tmp_path):
    assert {"poster", "photograph", "film-shot"} <= {
        f["formula"] for f in printed(good(tmp_path, "formula", "--json"))
    }
    for name in ("poster", "photograph", "film-shot"):
        card = printed(good(tmp_path, "formula", name, "--json"))
        assert card["about"] and card["when"] and len(card["example"]["text"]) > 80
        shown = good(tmp_path, "formula", name)
        assert card["example"]["text"] in shown


def test_models(tmp_path):
    names = [m["model"] for m in printed(good(tmp_path, "model", "--json"))]
    assert {"curlew-still", "dunlin-still"} <= set(names)
    assert "at most 75 tokens" in good(tmp_path, "model", "dunlin-still")


def test_check_prompts(tmp_path):
    (tmp_path / "p.txt").write_text(
        "a lamp, , soft light\na wet quay\n\nA wet quay\n" + "word " * 90 + "\n"
    )
    done = run(tmp_path, "check", "p.txt", "--model", "dunlin-still")
    assert done.returncode == 1
    for said in (
        "p.txt:1  a lamp, , soft light\n  warning two commas in a row",
        "p.txt:4  A wet quay\n  error the same prompt as number 2",
        "15 over the 75",
        "repeats a word",
    ):
        assert said in done.stdout, (said, done.stdout)
    assert (
        run(tmp_path, "check", "-", given="a quiet quay\n").stdout
        == "1 prompt: no errors, no warnings\n"
    )
    found = printed(run(tmp_path, "check", "p.txt", "--json", "--model", "dunlin-still").stdout)
    assert [f["line"] for f in found] == [1, 2, 4, 5] and found[3]["size"]["text"]["used"] == 90


def test_check_reads_what_expand_writes(tmp_path):
    good(
        tmp_path, "expand", "poster", "--count", "5", "--model", "dunlin-still", "--out", "a.jsonl"
    )
    good(tmp_path, "expand", "poster", "--count", "5", "--model", "dunlin-still", "--out", "a.csv")
    for name in ("a.jsonl", "a.csv"):
        assert "5 prompts: no errors" in good(tmp_path, "check", name)
    (tmp_path / "a.jsonl").write_text('{"text": "x"}\n{"text": \n')
    done = run(tmp_path, "check", "a.jsonl")
    assert done.returncode == 1 and "a.jsonl:2:" in done.stderr and "^" in done.stderr


def test_check_finds_contradictions_with_the_reason(tmp_path):
    (tmp_path / "p.txt").write_text(
        "a quay, clear cold night, hard noon sun\na quay, clear cold night, full moonlight\n"
    )
    done = run(tmp_path, "check", "p.txt")
    assert (
        done.stdout.count(
            "a contradiction: “clear cold night” assumes night; “hard noon sun” assumes the middle of the day"
        )
        == 1
    )
    words = [
        "weather=clear cold night",
        "light=hard noon sun",
        "flaw=extra fingers",
        "medium=linocut",
        "subject=herring gull",
    ]
    run(tmp_path, "compose", "poster", *words, "--out", "p.jsonl")
    assert run(tmp_path, "check", "p.jsonl").stdout.count("a contradiction") == 1


def test_check_without_a_file_reads_everything(tmp_path):
    good(tmp_path, "start", "here")
    assert "no mistakes" in good(tmp_path / "here", "check")
    (tmp_path / "here/formulas/mine.formula").write_text("lead [a medium\nlead [x]\n")
    (tmp_path / "here/models/mine.toml").write_text('[text]\nregister = "proze"\n')
    (tmp_path / "here/vocabulary/mood.csv").write_text('term,number\nfine,few\n"open,x\nglad,\n')
    done = run(tmp_path / "here", "check")
    assert done.returncode == 1
    for said in ("mine.formula:1:6: the bracket is not closed", "mine.formula:2:1: the label “lead” is used twice", "mine.toml:2:1",
                 "did you mean “prose”?", "mood.csv:2:1: “few” is not a number", "mood.csv:3:1: the row can't be read"):  # fmt: skip
        assert said in done.stdout, (said, done.stdout)
    assert "glad" in good(tmp_path / "here", "term", "mood")


def test_start(tmp_path):
    out = good(tmp_path, "start", "ws", "--model", "curlew-still")
    assert out.splitlines() == [
        "ws/syntagma.toml",
        *(f"ws/{room}" for room in ("vocabulary", "formulas", "looks", "themes", "models")),
    ]
    assert good(tmp_path / "ws", "compose", "[a medium]", "medium=etching") == "An etching.\n"
    again = run(tmp_path, "start", "ws")
    assert again.returncode == 2 and "already a workspace" in again.stderr
    (tmp_path / "file").write_text("x")
    assert "is a file" in run(tmp_path, "start", "file").stderr


@pytest.mark.long
def test_tour(tmp_path):
    out = good(tmp_path, "tour", "there")
    assert (
        "failed with status" not in out
        and "213 judgements imported" in out
        and re.search(r"sodium quay lamps +\+0\.\d\d .* better", out)
    )
    records = [
        json.loads(line)
        for p in (tmp_path / "there").glob("*.jsonl")
        if p.name != "next.jsonl" and not p.name.startswith("asked-")
        for line in p.read_text("utf-8").splitlines()
    ]
    texts = [r["text"] for r in records if r["model"] in ("curlew-still", "dunlin-still")]
    assert len(texts) >= 40 and len(set(texts)) == len(texts)
    for record in records:
        assert record["size"]["text"]["used"] <= record["size"]["text"]["limit"]
        assert not [
            f
            for f in record.get("findings", ())
            if f["kind"] == "error" or "contradict" in f["message"]
        ]
    assert "is not empty" in run(tmp_path, "tour", "there").stderr


@pytest.mark.long
def test_every_help_has_examples_that_work(tmp_path):
    import shlex

    good(tmp_path, "start", "demo")
    commands = "term formula look theme model compose expand check read rewrite compare shorten brief form dataset"
    for command in commands.split():
        text = good(tmp_path, command, "--help")
        examples = text.split("examples:\n")[1].strip().splitlines()
        assert 1 <= len(examples) <= 3
        for line in examples:
            *_, last = line.strip().split(" | ")
            if " | " in line:
                feed = good(tmp_path / "demo", *shlex.split(line.split(" | ")[0])[1:])
                assert run(tmp_path / "demo", *shlex.split(last)[1:], given=feed).returncode == 0
            else:
                good(tmp_path / "demo", *shlex.split(line)[1:])


def test_alone_it_says_what_to_do_first(tmp_path):
    out = good(tmp_path)
    assert "syntagma tour" in out and "compose" in out
    assert good(tmp_path, "--version").startswith("syntagma 0.")
