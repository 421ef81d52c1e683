"""What a person sees in a terminal: the program run on a pseudo-terminal."""

import os
import pty
import re
import select
import subprocess

import pytest

from tests.commands.program import PROGRAM, environment


def seen(folder, *words, width=80, colour=False):
    """Everything that the program shows in a terminal `width` columns wide."""
    ours, theirs = pty.openpty()
    env = environment(folder) | {"COLUMNS": str(width), "TERM": "xterm-256color"}
    if colour:
        env.pop("NO_COLOR")
    process = subprocess.Popen(
        [PROGRAM, *words], cwd=folder, stdin=theirs, stdout=theirs, stderr=theirs, env=env
    )
    os.close(theirs)
    data = b""
    while select.select([ours], [], [], 30)[0]:
        try:
            chunk = os.read(ours, 65536)
        except OSError:  # the other end is closed
            break
        if not chunk:
            break
        data += chunk
    process.wait(30)
    os.close(ours)
    return re.sub(r" *\r\n", "\n", data.decode())


POSTER = ["poster", "medium=linocut", "subject=tea urn"]


def test_below_a_prompt_stand_its_model_length_and_negative_text(tmp_path):
    assert (
        len(seen(tmp_path, "compose", *POSTER, "--model", "dunlin-still").splitlines()) <= 5
    )  # the prompt, and four lines beside it
    text = seen(tmp_path, "compose", *POSTER, "--model", "dunlin-still", "-v")
    assert text.startswith(
        "linocut, tea urn, bold simple shapes, clear space at the top for lettering\n"
    )
    assert "dunlin-still · 18 of 75 tokens" in text and "negative  lettering, border" in text
    assert "open      trait, action, setting" in text
    assert "remark subject: “tea urn” is not in subject, so it is used as typed" in text


@pytest.mark.parametrize("width", [80, 126])
def test_a_family_shows_what_differs(tmp_path, width):
    text = seen(
        tmp_path,
        "expand",
        *POSTER,
        "--vary",
        "light=candlelight,single bare bulb",
        "--model",
        "curlew-still",
        width=width,
    )
    assert "  1  baseline\n" in text and "  2  light: single bare bulb\n" in text
    assert "‹a single bare bulb›" in re.sub(r"\s+", " ", text)
    assert "of 900 characters" in text
    assert max(map(len, text.splitlines())) <= width


def test_colour_marks_it_where_there_is_colour(tmp_path):
    text = seen(tmp_path, "expand", *POSTER, "--vary", "light=lamps,single bare bulb", colour=True)
    assert "\x1b[1;38;5;133ma single bare bulb\x1b[0m" in text and "‹" not in text
    assert "\x1b[" not in seen(
        tmp_path, "expand", *POSTER, "--vary", "light=lamps,single bare bulb"
    )


@pytest.mark.long
@pytest.mark.parametrize("words", [
    ["term"], ["term", "lighting"], ["term", "find", "light"], ["formula"], ["formula", "film-shot"], ["look"], ["look", "two-inks"], ["theme"], ["theme", "night"], ["formula", "--short"],
    ["compose", "photograph", "--ideas", "8"], ["model"], ["model", "dunlin-still"],
])  # fmt: skip
def test_tables_fit_the_width_they_have(tmp_path, words):
    for width in (80, 126):
        text = seen(tmp_path, *words, width=width)
        assert max(map(len, text.splitlines())) <= width and len(text) > 200


def test_a_single_prompt_is_not_wrapped_by_us(tmp_path):
    text = seen(tmp_path, "compose", *POSTER, "light=" + "long " * 30 + "light")
    assert len(text.splitlines()[0]) > 200


def test_inks_are_read_on_light_and_on_dark():
    from rich.style import Style

    from syntagma.cli.terminal import INKS

    def light(colour):
        red, green, blue = [
            part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in colour
        ]
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    for name, (many, _) in INKS.items():
        if colour := Style.parse(many).color:
            found = light(colour.get_truecolor().normalized)
            assert 1.05 / (found + 0.05) > 3.8 and (found + 0.05) / 0.05 > 3.8, name


TABLES = [["term"], ["formula"], ["formula", "photograph"], ["look"], ["theme"], ["model"], ["model", "curlew-still"], ["model", "rank", "poster"], ["situation", "animal"], ["term", "find", "lamp"],
    ["read", "A linocut of a tired harbour pilot on a wet quay, lit by sodium quay lamps /shape 2x3"], ["shorten", "A linocut of a tired old harbour pilot on a wet quay, lit by lamps"],
    ["compare", "A red ferry on a wet quay, full moonlight", "A red ferry in a slack-water harbour, hard noon sun, 85mm lens"]]  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("width", [40, 60, 80, 120, 200])
def test_a_table_never_breaks_a_word(tmp_path, width):
    """Each word of a narrow table is one of the widest table's, or the beginning of one before …; nothing runs over the side."""
    for call in TABLES:
        whole = set(seen(tmp_path, *call, width=400).split())
        text = seen(tmp_path, *call, width=width)
        assert max(map(len, text.splitlines())) <= width, call
        for word in set(text.split()):
            cut = word.rstrip("…:")
            assert (
                word in whole
                or cut in whole
                or (word.endswith("…") and any(one.startswith(cut) for one in whole))
                or word.endswith(":")
                or set(word) <= {"─"}
            ), (call, word)
