"""formula new, look new, theme new: what a person makes of their own; and the shelves that show it."""

import pytest

from tests.commands.program import good, printed, run


@pytest.fixture
def here(tmp_path):
    good(tmp_path, "start", "ws")
    return tmp_path / "ws"


def test_a_formula_from_a_line(here):
    line = "[a medium] of [a subject], [setting as place]. lit by [lighting], for [whom]!"
    assert "formulas/crossing.formula" in good(
        here, "formula", "new", "crossing", line, "--about", 'a "night" boat', "--media", "image"
    )
    assert good(here, "formula", "check", "crossing") == "crossing: no mistakes\n"
    words = [
        "medium=linocut",
        "subject=tea urn",
        "setting=wet quay",
        "lighting=candlelight",
        "whom=Moth",
    ]
    assert good(here, "compose", "crossing", *words) == good(here, "compose", line, *words)
    card = printed(good(here, "formula", "crossing", "--json"))
    assert card["about"] == 'a "night" boat' and [p["label"] for p in card["phrases"]] == [
        "medium",
        "setting",
        "lighting",
        "whom",
    ]
    assert {s["slot"]: s["facet"] for s in card["slots"]}["whom"] == "free text"
    assert good(here, "compose", "crossing", "--pick")


def test_a_copy_is_the_same_byte_for_byte(here):
    for what, name, file in (("formula", "poster", "formulas/mine.formula"), ("look", "newsprint", "looks/mine.formula"),
                             ("theme", "night", "themes/mine.toml")):  # fmt: skip
        good(here, what, "new", "mine", "--copy-of", name)
        assert (here / file).read_bytes()
        (here / file).write_text((here / file).read_text() + "# mine\n")
        done = run(here, what, "new", "mine", "--copy-of", name)
        assert (
            done.returncode == 2
            and "exists already" in done.stderr
            and (here / file).read_text().endswith("# mine\n")
        )
        assert (
            f"no {what} is called" in run(here, what, "new", "other", "--copy-of", "nobody").stderr
        )


def test_a_look_from_words(here):
    good(here, "look", "new", "winter-line", "--opening", "printed for [whom]:", "--closing", "cream and dark green", "--negative", "summer sky, people", "--parameter", "ratio=2:3", "--parameter", "seconds=6", "--settles", "palette")  # fmt: skip
    (made,) = printed(
        good(
            here,
            "compose",
            "[a subject]",
            "subject=ferry",
            "whom=Moth",
            "--look",
            "winter-line",
            "--json",
        )
    )
    assert (
        made["text"] == "Printed for Moth: a ferry, cream and dark green"
        and made["negative"] == "summer sky, people"
    )
    assert made["parameters"] == {"ratio": "2:3", "seconds": 6}
    call = [
        "compose",
        "[a subject], [a palette], [a lighting]",
        "subject=ferry",
        "whom=Moth",
        "--look",
        "winter-line",
        "--pick",
        "--json",
    ]
    (made,) = printed(good(here, *call))
    assert "lighting" in made["fills"] and "palette" not in made["fills"]
    (made,) = printed(good(here, *call, "palette=ink blue and lamp orange"))
    assert made["fills"]["palette"] and [
        f["at"] for f in made["findings"] if f["kind"] == "warning"
    ] == ["palette"]
    assert "winter-line" in good(here, "look") and "ratio" in good(here, "look", "winter-line")


def test_a_theme_from_tags(here):
    good(here, "theme", "new", "crossing", "--lean", "sea:2,night", "--avoid", "day:3", "--prefer",
         "lighting=sodium quay lamps; low moon behind scud", "--exclude", "weather=hail", "--leave", "flaw")  # fmt: skip
    card = printed(good(here, "theme", "crossing", "--json"))
    assert card["lean"] == {"sea": 2, "night": 1} and card["avoid"] == {"day": 3}
    assert card["facets"]["lighting"] == {
        "prefer": ["sodium quay lamps", "low moon behind scud"]
    } and card["facets"]["flaw"] == {"leave": True}
    (made,) = printed(good(here, "compose", "photograph", "--theme", "crossing", "--json"))
    assert "flaw" not in made["fills"]
    assert "crossing" in good(here, "theme")


@pytest.mark.parametrize(("call", "status", "said"), [
    (["formula", "new", "mine"], 2, "give the formula as a line with [slots]"),
    (["formula", "new", "a/b", "[a medium]"], 2, "“a/b” is not a name for a file"),
    (["formula", "new", "mine", "[a medium"], 1, "the bracket is not closed"),
    (["formula", "check", "psoter"], 2, "did you mean “poster”?"),
    (["look", "new", "mine"], 2, "give the words around the content"),
    (["look", "new", "mine", "--closing", "space above and below"], 1, "“below” leads nowhere"),
    (["look", "new", "mine", "--parameter", "ratio"], 2, "“ratio” is incomplete"),
    (["theme", "new", "mine"], 2, "give tags and terms, or a theme to copy"),
    (["theme", "new", "mine", "--lean", "sea:much"], 2, "“much” is not a valid weight"),
    (["theme", "new", "mine", "--lean", "sea:99"], 2, "“99” is not a valid weight"),
    (["theme", "make", "mine"], 2, "theme has no verb “make”"),
    (["look", "newsprnt"], 2, "did you mean “newsprint”?"),
    (["theme", "nigth"], 2, "did you mean “night”?"),
])  # fmt: skip
def test_what_can_not_be_made(here, call, status, said):
    done = run(here, *call)
    assert done.returncode == status and said in done.stderr, done.stderr
    assert [p for room in ("formulas", "looks", "themes") for p in (here / room).iterdir()] == []


def test_the_shelf_of_formulas(here):
    rows = printed(good(here, "formula", "--json"))
    assert len(rows) >= 27 and all(
        r["when"] and r["parts"] and len(r["example"]["text"]) > 60 for r in rows
    )
    shown = " ".join(good(here, "formula").split())
    for row in rows:
        for words in (row["when"], " › ".join(row["parts"]), row["example"]["text"]):
            assert " ".join(words.split()) in shown
    films = {r["formula"] for r in printed(good(here, "formula", "--media", "video", "--json"))}
    assert "film-shot" in films and "poster" not in films
    assert [
        r["formula"] for r in printed(good(here, "formula", "--find", "two people", "--json"))
    ] == ["dialogue-shot"]
    assert (
        len(printed(good(here, "look", "--json"))) >= 8
        and len(printed(good(here, "theme", "--json"))) >= 8
    )


def test_check_reads_looks_and_themes_too(here):
    (here / "looks").mkdir(exist_ok=True)
    (here / "looks/bad.formula").write_text("content\nlead [x\n")
    (here / "themes/bad.toml").write_text("lean = 3\n")
    done = run(here, "check")
    assert done.returncode == 1 and "bad.formula:2" in done.stdout and "bad.toml:1" in done.stdout
