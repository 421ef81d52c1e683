"""Several calls at once on one file: nothing is lost, nothing is mixed, and what can't be had is reported."""

import csv
import io
import subprocess

import pytest

from tests.commands.program import PROGRAM, environment, good, printed, run


def at_once(folder, calls):
    """Start all calls before any has ended; their exit statuses and what they said."""
    started = [
        subprocess.Popen(
            [PROGRAM, *call],
            cwd=folder,
            env=environment(folder),
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        for call in calls
    ]
    return [(process.wait(90), process.communicate()) for process in started]


TERMS = ["candlelight", "full moonlight", "sodium quay lamps", "hard noon sun", "fireplace embers", "northern lights", "welding arc", "candle window",
         "open oven door", "brake lights in rain", "television flicker", "single bare bulb"]  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("number", [2, 6, 12])
def test_stars(tmp_path, number):
    known = {term["term"] for term in printed(good(tmp_path, "term", "lighting", "--json"))}
    terms = [term for term in [*TERMS, *sorted(known)] if term in known][:number]
    done = at_once(tmp_path, [["term", "star", term, "--facet", "lighting"] for term in terms])
    assert all(status == 0 for status, _ in done)
    kept = (tmp_path / "own" / "marks.csv").read_text("utf-8")
    assert sorted(row["term"] for row in csv.DictReader(io.StringIO(kept))) == sorted(terms)


@pytest.mark.long
@pytest.mark.parametrize("number", [2, 6, 12])
def test_own_terms(tmp_path, number):
    good(tmp_path, "start", ".")
    done = at_once(tmp_path, [["term", "new", "sky", f"low cloud {n}"] for n in range(number)])
    assert all(status == 0 for status, _ in done)
    assert len((tmp_path / "vocabulary/sky.csv").read_text("utf-8").splitlines()) == number + 1
    again = at_once(tmp_path, [["term", "new", "sky", "high cloud"]] * 3)
    assert sorted(status for status, _ in again) == [0, 2, 2]


@pytest.mark.long
@pytest.mark.parametrize("ending", ["csv", "jsonl", "txt", "json", "md"])
def test_one_file_for_two_families(tmp_path, ending):
    calls = [
        [
            "expand",
            "poster",
            f"subject={name}",
            "medium=linocut",
            "--vary",
            f"light={','.join(f'light{n}' for n in range(600))}",
            "--out",
            f"a.{ending}",
        ]
        for name in ("car ferry", "tea urn")
    ]
    alone = []
    for call in calls:
        good(tmp_path, *call)
        alone.append((tmp_path / f"a.{ending}").read_bytes())
    done = at_once(tmp_path, calls)
    assert (tmp_path / f"a.{ending}").read_bytes() in alone and not list(
        tmp_path.glob("*.partial*")
    )
    assert all(status == 0 or "another call is writing" in said[1] for status, said in done)


@pytest.mark.long
@pytest.mark.parametrize("call", [
    ["formula", "new", "mine", "[a medium] of [a subject]"], ["look", "new", "mine", "--closing", "two inks"], ["theme", "new", "mine", "--lean", "night"],
    ["model", "new", "mine", "--limit", "75 tokens"],
], ids=lambda call: call[0])  # fmt: skip
def test_a_name_is_given_once(tmp_path, call):
    good(tmp_path, "start", ".")
    done = at_once(tmp_path, [call] * 4)
    assert sorted(status for status, _ in done) == [0, 2, 2, 2]
    assert all("exists already" in said[1] for status, said in done if status)


def test_mending_at_once(tmp_path):
    (tmp_path / "p.txt").write_text("a old ferry\nan lamp, , fog\n")
    done = at_once(tmp_path, [["check", "p.txt", "--mend", "--model", "curlew-still"]] * 4)
    assert (tmp_path / "p.txt").read_text() == "an old ferry\na lamp, fog\n"
    assert sorted(said[1].splitlines()[-1] for _, said in done) == ["0 mended"] * 3 + [
        "2 mended, written to p.txt"
    ]


def test_what_is_written_keeps_its_permissions(tmp_path):
    (tmp_path / "own").mkdir()
    (tmp_path / "own/marks.csv").write_text("facet,term,star,note\n")
    (tmp_path / "own/marks.csv").chmod(0o600)
    good(tmp_path, "term", "star", "candlelight")
    assert (tmp_path / "own/marks.csv").stat().st_mode & 0o777 == 0o600


def test_a_pipe_that_nobody_reads(tmp_path):
    import os

    os.mkfifo(tmp_path / "out.txt")
    done = run(tmp_path, "compose", "poster", "medium=a", "subject=b", "--out", "out.txt")
    assert done.returncode == 3 and "nothing reads the pipe out.txt" in done.stderr
