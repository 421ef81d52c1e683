"""The table of a form: put together by a third small interpreter, here, it says what the program writes; words of one's own; needs; cut-outs and archives beside it."""

import io
import random
import re
import zipfile

import numpy as np
import pytest

from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.form_table import COUNT, FormTable, Uncompilable, form_table
from syntagma.core.formula import read_formula
from syntagma.core.models import PLAIN
from syntagma.core.seeing.cut_out import cut_out
from syntagma.core.writing.prompt_writer import Writer
from syntagma.formats.archive import apart, safe_name, write_archive

WORKSPACE = Workspace.load()
ODD = """+++
[slots]
count = { number = true }
vessel = { facet = "subject", need = true, take = [1, 3] }
light = { facet = "lighting", default = "sodium quay lamps" }
+++
lead!  a view of
who    [the count mood vessel]{ in "[title]"}, seen
place  ~[setting as place].
light  with [a light "cast"]
deco   [the "cheerful" mood object as plural], of [a palette]
closing!  flat inks
"""


def put_together(table: FormTable, row: dict[str, list[str]]) -> str:
    """The prompt of a row, by the table alone; only terms of the lists are known here."""
    fields = {field.slot: field for field in table.fields}

    def rows(slot: str) -> list[int]:
        said = row.get(slot) or list(fields[slot].default)
        return [
            fields[slot].names.index(words) if words in fields[slot].names else -1 for words in said
        ]

    def words(slot: str) -> list[str]:
        return row.get(slot) or list(fields[slot].default)

    def group(number: int) -> str:
        one = table.groups[number]
        before, sound = "", ""
        for kind, value in one.before:
            if kind == "quote":
                before, sound = before + value + " ", sound or english.article(value)
            elif words(value):
                known = fields[value].names
                texts = (
                    [fields[value].columns["words"][i] for i in rows(value)]
                    if known
                    else words(value)
                )
                before += ", ".join(texts) + " "
                sound = sound or (
                    fields[value].columns["sound"][rows(value)[0]]
                    if known
                    else english.article(texts[0])
                )
        count = int(words(one.counted)[0]) if one.counted and words(one.counted) else 0
        prefix = "one-" if count == 1 else "many-" if count else ""
        out = ""
        for j, at in enumerate(rows(one.head)):
            last = j == len(rows(one.head)) - 1
            if at < 0:  # words of one's own
                out += ("a " if one.article == "a" else "") + before + words(one.head)[j]
                continue
            column = lambda key, at=at: fields[one.head].columns[one.columns[prefix + key]][at]  # noqa: E731
            has = lambda key: prefix + key in one.columns  # noqa: E731
            text = column("mid") if not last and has("mid") else column("alone")
            if before and not j and has("core"):
                text = (
                    column("front-an" if sound == "an" else "front-a")
                    + before
                    + (column("core-mid") if not last and has("core-mid") else column("core"))
                )
            out += (" and " if last else ", ") * bool(j) + text.replace(
                COUNT, english.count_words(count)
            )
        return out

    def line(phrase) -> str:
        waits = phrase.waits
        if waits:
            said = [fields[waits.slot].columns[waits.column][i] == "1" for i in rows(waits.slot)]
            if not (waits.blank if not said else all(said) if waits.every else any(said)):
                return ""
        if not phrase.heads:
            return phrase.fixed
        template = phrase.templates[sum(2**i for i, head in enumerate(phrase.heads) if words(head))]
        return (
            ""
            if template is None
            else template.lead + "".join(group(one.group) + one.words for one in template.then)
        )

    lines = [line(phrase) for phrase in table.phrases]
    for i in range(len(lines) - 1, -1, -1):
        if table.phrases[i].hanging and not (lines[i + 1 : i + 2] or [""])[0]:
            lines[i] = ""
    return chained(
        table,
        lines,
        lambda phrase: (
            not phrase.heads
            or phrase.templates[
                sum(2**i for i, head in enumerate(phrase.heads) if words(head))
            ].closed
        ),
    )


def chained(table: FormTable, lines: list[str], closed) -> str:
    """Lines with their seams."""
    out, before, passed = "", None, False
    for i, (phrase, text) in enumerate(zip(table.phrases, lines, strict=True)):
        if not text:
            passed = passed or phrase.sentence
            continue
        if before is None:
            out = english.capitalised(text)
        elif before[1].sentence:
            out += before[1].end + " " + english.capitalised(text)
        elif passed:
            out += ". " + english.capitalised(text)
        elif before[1].soft or lines[before[0]][-1] in ",;:":
            out += before[1].end + " " + text
        else:
            stutters = lines[before[0]].split()[-1].lower() == text.split()[0].lower()
            out += (
                " "
                if phrase.joined and before[0] == i - 1 and closed(before[1]) and not stutters
                else ", "
            ) + text
        before, passed = (i, phrase), False
    return out + (before[1].end if before[1].sentence else "." if passed else "")


def drawn(table: FormTable, dice: random.Random) -> dict[str, list[str]]:
    row = {}
    for field in table.fields:
        if field.need or dice.random() < 0.6:
            names = [
                name for name in field.names if name[-1] not in ".!?"
            ]  # what is said aloud brings its own stop: words of one's own
            row[field.slot] = (
                dice.sample(names, dice.randint(1, min(field.places, len(names))))
                if names
                else [str(dice.randint(1, 14))]
                if field.number
                else ["quiet sign"]
            )
    return row


@pytest.mark.parametrize("name", [*WORKSPACE.formulas(), "odd"])
def test_a_form_says_what_the_program_writes(name):
    formula = read_formula(ODD, "odd") if name == "odd" else WORKSPACE.formula(name)[0]
    table = form_table(formula, WORKSPACE.vocabulary, {})
    writer, dice = Writer(formula, PLAIN, WORKSPACE.vocabulary), random.Random(name)
    for _ in range(25):
        row = drawn(table, dice)
        assert (
            put_together(table, row)
            == writer.write(
                writer.fills({slot: "; ".join(cells) for slot, cells in row.items()})
            ).text
        ), row


@pytest.mark.long
def test_a_form_asks_in_the_words_of_those_who_fill_it_in():
    table = form_table(
        read_formula(
            '+++\n[slots]\nboat = { facet = "subject", ask = "Which boat?", need = true }\n+++\nlead  [a boat], [light-quality], [whim]\n',
            "f",
        ),
        WORKSPACE.vocabulary,
        {},
    )
    assert [field.ask for field in table.fields] == [
        "Which boat?",
        "What is the light like?",
        "Whim",
    ]
    assert [field.need for field in table.fields] == [True, False, False]
    for name in WORKSPACE.formulas():  # no shipped form asks by the name of a slot
        for field in form_table(WORKSPACE.formula(name)[0], WORKSPACE.vocabulary, {}).fields:
            assert field.ask.endswith("?"), (name, field)


def test_a_line_that_must_stay_makes_its_first_noun_needed():
    table = form_table(WORKSPACE.formula("between-frames")[0], WORKSPACE.vocabulary, {})
    assert {field.slot for field in table.fields if field.need} == {
        "move",
        "subject",
        "start",
        "end",
    }


def test_more_nouns_in_a_line_than_a_form_can_hold():
    body = ", ".join(f"[s{n}]" for n in range(8))
    with pytest.raises(Uncompilable, match="8 nouns"):
        form_table(read_formula(f"+++\n+++\nlead  {body}\n", "f"), WORKSPACE.vocabulary, {})


def scene(ground=(0.9, 0.9, 0.88), grain=0.01, split=False) -> np.ndarray:
    rng = np.random.default_rng(1)
    picture = np.ones((80, 120, 3)) * np.array(ground)
    if split:
        picture[:40] *= 0.4
    y, x = np.mgrid[0:80, 0:120]
    share = np.clip(20 - np.hypot(x - 60, y - 40) + 0.5, 0, 1)[..., None]  # a disc with a soft edge
    return np.clip(
        picture * (1 - share)
        + np.array([0.55, 0.2, 0.15]) * share
        + rng.normal(0, grain, picture.shape),
        0,
        1,
    )


def test_cut_out_takes_the_ground_and_leaves_the_thing():
    found = cut_out(scene())
    inside = np.hypot(*np.mgrid[-40:40, -60:60][::1]) < 17
    outside = np.hypot(*np.mgrid[-40:40, -60:60]) > 23
    assert found.pixels[inside][:, 3].min() == 1 and found.pixels[outside][:, 3].max() == 0
    assert abs(found.gone - (1 - np.pi * 400 / 9600)) < 0.02
    edge = found.pixels[(found.pixels[..., 3] > 0.2) & (found.pixels[..., 3] < 0.8)]
    assert (
        len(edge) > 20 and np.abs(edge[:, :3] - [0.55, 0.2, 0.15]).max() < 0.1
    )  # freed of the ground's colour


def test_no_cut_out_where_the_ground_is_not_plain():
    assert cut_out(scene(split=True)) is None


def test_archives_are_the_same_bytes_and_refuse_a_name_twice():
    entries = [("a.txt", b"one"), ("b/c.png", b"two")]
    first, second = io.BytesIO(), io.BytesIO()
    assert write_archive(first, entries) == 2
    write_archive(second, iter(entries))
    assert first.getvalue() == second.getvalue()
    assert zipfile.ZipFile(first).read("b/c.png") == b"two"
    with pytest.raises(ValueError, match=r"a\.TXT"):
        write_archive(io.BytesIO(), [*entries, ("a.TXT", b"")])


@pytest.mark.parametrize(
    ("said", "name"),
    [("cream-and-green car ferry", "cream-and-green-car-ferry"), ("../../etc/passwd", "etc-passwd"), ("CON", "CON-picture"), ("a:b*c?", "a-b-c"), ("", "picture"), ("Fähre & Fisch", "Fähre-Fisch"), ("x" * 200, "x" * 80), (" . ", "picture")],
)  # fmt: skip
def test_names_that_every_system_takes(said, name):
    assert safe_name(said) == name
    assert not re.search(r'[\\/:*?"<>|]', safe_name(said))


def test_a_name_that_is_taken_gets_a_number():
    taken: set[str] = set()
    assert [apart(name, taken) for name in ("a.png", "A.png", "a.png", "b")] == [
        "a.png",
        "A-2.png",
        "a-3.png",
        "b",
    ]
