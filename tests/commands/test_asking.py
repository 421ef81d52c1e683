"""compose --ask: slot by slot, from lines and in a terminal."""

import re
import shlex

import pexpect
import pytest

from tests.commands.program import PROGRAM, environment, good, run


@pytest.mark.parametrize(("answers", "text"), [
    ("linocut\n\ncar ferry\n\nslack-water harbour\n", "A linocut of a car ferry, in a slack-water harbour."),
    ("etching\n\ngull\n<\ncar ferry\n", "An etching of a car ferry."),  # a step back
    ("linocut\nold\nferry\n<\n<\n-\n\n", "A linocut of a ferry."),  # back twice: one blanked, one left as it is
    ("linocut\n\n\nferry\n", "A linocut of a ferry."),  # needed: asked again
    ("<\nlinocut\n\nferry", "A linocut of a ferry."),  # no slot before the first
])  # fmt: skip
def test_answers(tmp_path, answers, text):
    done = run(tmp_path, "compose", "poster", "--ask", given=answers)
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith(text)
    call = done.stderr.strip().splitlines()[-1]
    assert good(tmp_path, *shlex.split(call)[1:]) == done.stdout


def test_pick_suits_and_picks_another_each_time(tmp_path):
    once = run(
        tmp_path, "compose", "poster", "--ask", given="linocut\n\nharbour pilot\npick\n\n"
    ).stderr
    twice = run(
        tmp_path, "compose", "poster", "--ask", given="linocut\n\nharbour pilot\npick\npick\n\n"
    ).stderr
    one, other = (re.search(r"action='([^']*)'", said)[1] for said in (once, twice))
    assert one != other


def test_what_is_given_is_not_asked_for(tmp_path):
    done = run(
        tmp_path,
        "compose",
        "poster",
        "medium=linocut",
        "subject=ferry",
        "trait=",
        "--ask",
        given="easing off its berth\n",
    )
    assert done.stdout.startswith("A linocut of a ferry easing off its berth.")


def test_nothing_answered_leaves_what_is_needed_blank(tmp_path):
    done = run(tmp_path, "compose", "poster", "--ask", given="")
    assert (
        done.returncode == 2
        and "subject: this slot must be filled" in done.stderr
        and done.stdout == ""
    )


def test_a_wrong_count_is_asked_again(tmp_path):
    (tmp_path / "f.formula").write_text("lead  [a count subject]\n")
    done = run(tmp_path, "compose", "./f.formula", "--ask", given="some\n3\ngull\n")
    assert "“some” is not a count" in done.stderr and done.stdout == "Three gulls\n"


def test_in_a_terminal(tmp_path):
    env = environment(tmp_path) | {"TERM": "xterm-256color"}
    good(tmp_path, "term", "star", "etching")
    child = pexpect.spawn(
        PROGRAM,
        ["compose", "poster", "--ask"],
        cwd=tmp_path,
        env=env,
        dimensions=(30, 120),
        encoding="utf-8",
        timeout=30,
    )
    child.expect("1 of 10")
    child.expect("medium")
    child.send("etch")
    child.expect("etching")  # the menu, with the star and the gloss
    child.expect("★")
    child.send("ing\r")
    child.expect("2 of 10")
    child.send("\r")
    child.expect("subject")
    child.send("car ferry\r")
    child.expect("An etching of a car ferry")  # the growing prompt, with its length
    child.expect("characters")
    child.sendcontrol("d")
    child.expect("syntagma compose poster medium=etching subject='car ferry'")
    child.expect(pexpect.EOF)
    child.close()
    assert child.exitstatus == 0


def test_stopped(tmp_path):
    child = pexpect.spawn(
        PROGRAM,
        ["compose", "poster", "--ask"],
        cwd=tmp_path,
        env=environment(tmp_path),
        encoding="utf-8",
        timeout=30,
    )
    child.expect("medium")
    child.sendcontrol("c")
    child.expect("stopped")
    child.expect(pexpect.EOF)
    child.close()
    assert child.exitstatus == 130


def test_a_question_mark_says_what_may_stand_there(tmp_path):
    done = run(
        tmp_path,
        "compose",
        "poster",
        "medium=linocut",
        "trait=",
        "subject=tea urn",
        "action=",
        "setting=",
        "weather=",
        "--ask",
        given="?\n",
    )
    assert (
        "tea urn" in done.stdout
        and len([line for line in done.stderr.splitlines() if line.startswith("  ")]) >= 5
    )


def test_what_was_answered_is_kept_when_it_is_stopped(tmp_path, monkeypatch):
    from syntagma.cli.composing import compose

    answers = iter(["linocut", "brave"])

    def read(filling):
        if (answer := next(answers, None)) is None:
            raise KeyboardInterrupt
        return answer

    monkeypatch.setattr(compose, "_line", read)
    done = run(tmp_path, "compose", "poster", "--ask")
    assert (
        done.returncode == 130
        and "your answers so far: syntagma compose poster medium=linocut trait=brave --ask"
        in done.stderr
    )
