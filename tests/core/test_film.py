"""Films: shot lists read, seconds, clips packed, continuity, words of people, scripts, subtitles. Lists and scripts of several hands lie in tests/film."""

import re
from itertools import pairwise, product
from math import ceil
from random import Random

import pytest
import srt
import webvtt

from syntagma.app.film.film_prompts import FilmPrompts, film_knowledge, sent_clips
from syntagma.app.film.lists import FilmList
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import REMARK
from syntagma.core.film.clips import ClipRules, Need, packed
from syntagma.core.film.columns import COLUMNS, PHRASES, PLACEMENT, TOLD, Col
from syntagma.core.film.continuity import continuity
from syntagma.core.film.cut import WIDTH, Cue, cut, subtitles
from syntagma.core.film.happenings import happenings
from syntagma.core.film.script import script_of, shot_rows
from syntagma.core.film.shot_list import (
    frame_side,
    known_as,
    name_pattern,
    read_shots,
    turned,
)
from syntagma.core.film.spoken import (
    SpokenLine,
    cell_of,
    divisions,
    lines_of,
    respelled,
    seconds_of,
    sentences,
)
from syntagma.core.film.wording import Cast, how, people_words
from syntagma.core.models.references import Consent, KnownReference
from syntagma.formats.fountain import read_fountain, write_fountain
from syntagma.formats.table_in import read_rows
from syntagma.formats.timeline import write_srt, write_vtt
from tests import film_faults
from tests.film_prompts import FILMS, LISTS, MODELS, board, workspace, written

SCRIPTS = sorted(path.stem for path in FILMS.glob("*.fountain"))
KNOWLEDGE = film_knowledge()
CAST = Cast(workspace().known)


def table(name: str):
    headings, rows, mistakes = read_rows((FILMS / f"{name}.csv").read_text("utf-8"), name)
    assert not mistakes
    return headings, [(row.line, dict(row.cells)) for row in rows]


def shots_of(name: str, changes=()):
    headings, rows = table(name)
    numbered = [
        next(c for h, c in cells.items() if h.lower() in ("shot", "shot no")) for _, cells in rows
    ]
    for number, column, cell in changes:
        if column not in headings:
            headings = [*headings, column]
        rows[numbered.index(number)][1][column] = cell
    return read_shots(headings, rows, name, list(workspace().known))


def shot(**cells: str):
    cells = {"shot": "1", **cells}
    return read_shots(list(cells), [(2, cells)], "list", ["purser", "pilot"]).shots[0]


# Reading


def test_blank_cells_go_on_within_a_scene_and_not_over_its_end():
    headings = ["Scene", "SHOT", "Location", "weather", "action", "Crew call"]
    rows = [
        (2, ["1", "1", "wet quay", "drizzle", "rain falls", "5:00"]),
        (3, ["1", "2", "", "-", "", ""]),
        (4, ["1", "3", "", "", "", ""]),
        (5, ["2", "1", "", "", "", ""]),
    ]
    found = read_shots(
        headings, [(n, dict(zip(headings, cells, strict=True))) for n, cells in rows], "list"
    ).shots
    assert [one.cells.get("setting", "") for one in found] == [
        "wet quay",
        "wet quay",
        "wet quay",
        "",
    ]
    assert [one.cells.get("weather", "") for one in found] == ["drizzle", "", "", ""]
    assert [one.cells.get("action", "") for one in found] == ["rain falls", "", "", ""]
    assert found[0].further == {"Crew call": "5:00"} and [one.name for one in found] == [
        "1/1",
        "1/2",
        "1/3",
        "2/1",
    ]


@pytest.mark.parametrize(
    ("rows", "told"),
    [
        ([{"scene": "1", "size": "wide shot"}], "no column “shot”"),
        ([{"shot": "1"}, {"shot": "1"}], "is in row 2 too"),
        ([{"shot": "", "action": "walks"}], "has no number"),
        ([{"shot": "1", "seconds": "soon"}], "“soon” is not a number of seconds"),
        ([{"shot": "1", "seconds": "0"}], "“0” is not a number of seconds"),
        ([{"shot": "1", "takes": "2.5"}], "“2.5” is not a number of takes"),
        ([{"shot": "1", "reverse of": "7"}], "no shot 7 comes before it"),
        (
            [{"shot": "1", "who": "purser", "screen side": "upstage"}],
            "“upstage” is not a side of the frame: write left, right; or PURSER left, PILOT right",
        ),
        (
            [{"shot": "1", "who": "purser", "eyeline": "upstage"}],
            "“upstage” is not a side of the frame: write left, right or to camera",
        ),
        ([{"shot": "1", "who": "purser", "eyeline": "PILOT left"}], "“pilot” is not in the shot"),
        (
            [{"shot": "1", "who": "purser; pilot", "line": "Mind the step."}],
            "nobody is named as the speaker of",
        ),
        ([{"shot": "1", "voice": "loud"}], "it can't be “loud”"),
        ([{"shot": "1", "continuous": "perhaps"}], "it can't be “perhaps”"),
        ([{"shot": "1", "size": "wide shot", "Shot Size": "close-up"}], "are the same column"),
    ],
)
def test_mistakes_are_told_by_row_and_column(rows, told):
    headings = list(dict.fromkeys(name for row in rows for name in row))
    found = read_shots(
        headings, [(n, row) for n, row in enumerate(rows, 2)], "list.csv", ["purser", "pilot"]
    )
    assert any(
        told in f"{one.message}: {one.remedy}" and one.source == "list.csv" and one.line
        for one in found.mistakes
    ), found.mistakes


def test_all_mistakes_of_a_list_come_at_once():
    rows = [(2, {"shot": "1", "seconds": "x", "takes": "y"}), (3, {"shot": "1", "voice": "z"})]
    assert len(read_shots(["shot", "seconds", "takes", "voice"], rows, "list").mistakes) == 4


@pytest.mark.parametrize(
    ("cell", "lines"),
    [
        ("Mind the step.", [("ann", "Mind the step.", "dry", "on screen", False)]),
        ("PURSER (dry): Mind the step. | PILOT: I know.", [("PURSER", "Mind the step.", "dry", "on screen", False), ("PILOT", "I know.", "dry", "on screen", False)]),
        ("PILOT (V.O., tired): Nine.", [("PILOT", "Nine.", "tired", "V.O.", False)]),
        ("PILOT: Go. | PURSER (at once): Stay.", [("PILOT", "Go.", "dry", "on screen", False), ("PURSER", "Stay.", "", "on screen", True)]),
        ("Note: this is not a speaker", [("ann", "Note: this is not a speaker", "dry", "on screen", False)]),
        ("ΕΛΕΝΗ: Ήρθε;", [("ΕΛΕΝΗ", "Ήρθε;", "dry", "on screen", False)]),
        ("@van der Berg (os): Low water.", [("van der Berg", "Low water.", "", "O.S.", False)]),
    ],
)  # fmt: skip
def test_lines(cell, lines):
    found = lines_of(cell, "ann", "dry", "")
    assert [tuple(line) for line in found] == lines
    assert [line.text for line in lines_of(cell_of(found))] == [line.text for line in found]


def test_a_reverse_turns_the_shot_round():
    cells = {
        "who": "purser; pilot",
        "angle": "low angle from the left",
        "eyeline": "right",
        "screen side": "left",
        "facing": "east",
        "light from": "window left",
        "light": "lamp from the right",
    }
    found = turned(cells, ("purser", "pilot"))
    assert found == {
        "who": "pilot; purser", "angle": "high angle from the right", "eyeline": "left", "screen side": "right", "facing": "west",
        "light from": "window right", "light": "lamp from the left",
    }  # fmt: skip
    named = turned(
        {
            "eyeline": "PURSER right, PILOT left",
            "screen side": "PURSER left, PILOT right",
            "light from": "north",
        },
        ("purser", "pilot"),
    )
    assert (named["eyeline"], named["screen side"], named["light from"]) == (
        "PURSER right, PILOT left",
        "PURSER left, PILOT right",
        "north",
    )


@pytest.mark.parametrize(
    ("light", "facing", "side"),
    [("north", "north", "behind"), ("north", "south", "front"), ("window east", "north", "right"), ("west", "north", "left"), ("east", "south", "left"),
     ("northeast window", "n/a", ""), ("window left", "", "left"), ("behind the bar", "", "behind"), ("a lamp", "north", "")],
)  # fmt: skip
def test_the_side_of_the_light(light, facing, side):
    assert frame_side(light, facing) == side


@pytest.mark.parametrize(
    ("cell", "column", "sides"),
    [("PURSER left, PILOT right", "screen side", {"purser": "left", "pilot": "right"}), ("frame left", "screen side", {"purser": "left"}), ("PILOT: R", "screen side", {"pilot": "right"}),
     ("centre", "screen side", {"purser": "centre"}), ("off right", "eyeline", {"purser": "right"}), ("camera left", "eyeline", {"purser": "left"}), ("to camera", "eyeline", {"purser": "camera"}),
     ("PILOT looks into the lens", "eyeline", {"pilot": "camera"}), ("down", "eyeline", {"purser": "down"}), ("nowhere", "eyeline", {})],
)  # fmt: skip
def test_sides_as_lists_write_them(cell, column, sides):
    assert shot(who="purser; pilot", **{column: cell}).sides(column) == sides


@pytest.mark.parametrize(
    ("move", "clause"),
    [
        ("push in", "the camera pushes in"),
        ("Slow dolly-in", "the camera pushes in slowly"),
        ("STATIC", "the camera holds still"),
        ("pan L", "the camera pans left"),
        ("a strange wobble", ""),
    ],
)
def test_moves_as_lists_call_them(move, clause):
    assert KNOWLEDGE.moving(move) == clause


@pytest.mark.parametrize(
    ("place", "said"),
    [
        ("rocky islet", "on a rocky islet"),
        ("open sea", "on the open sea"),
        ("country station", "at a country station"),
        ("ticket office", "ticket office"),
        ("on a wet quay", "on a wet quay"),
        ("Salt steps", "Salt steps"),
    ],
)
def test_places_are_led_to(place, said):
    assert KNOWLEDGE.place(place) == said


# Seconds


@pytest.mark.parametrize(
    ("text", "manner", "least", "most"),
    [
        ("Last boat to Skerrow. Mind the step.", "", 2.9, 3.6),
        ("Last boat to Skerrow. Mind the step.", "slow and dry", 3.5, 4.3),
        ("Last boat to Skerrow. Mind the step.", "quick", 2.4, 3.0),
        ("1947", "", 0.7, 0.9),
        ("Eleven more. (beat) Ten.", "", 2.2, 2.6),
        ("", "", 0.0, 0.0),
    ],
)
def test_how_long_a_line_takes(text, manner, least, most):
    assert least <= seconds_of(text, 2.5, manner, KNOWLEDGE) <= most


def test_respellings_are_spoken_and_counted_and_not_written():
    say = {"RMS": "are em ess", "Skerrow": "SKAIR-oh"}
    assert (
        respelled("The RMS lies off skerrow, not Skerrows.", say)
        == "The are em ess lies off SKAIR-oh, not Skerrows."
    )
    assert seconds_of(respelled("The RMS.", say), 2.5, "", KNOWLEDGE) > seconds_of(
        "The RMS.", 2.5, "", KNOWLEDGE
    )
    assert respelled("It says **nobody** (beat) at all.", {}) == "It says nobody at all."


def test_where_a_line_can_be_cut():
    assert sentences("You don't. It tells you… It sighs!") == [
        "You don't.",
        "It tells you…",
        "It sighs!",
    ]
    assert divisions("One thing. Another thing. A third.") == ["One thing.", "Another thing."]
    assert divisions("It was cold, so we lit the stove") == ["It was cold,"]
    assert divisions("so we lit the stove and slept") == ["lit the stove"]
    assert divisions("lit the stove and slept") == []  # three words are too few to cut off
    assert divisions("we ran down the iron stairs and the wind blew in every keyhole") == [
        "the iron stairs"
    ]


# Clips


def tried(needs, rules):
    """The least (money, divided shots, dead air) of every way to cut the sequence, tried one by one."""
    atoms = [(s, a) for s, need in enumerate(needs) for a in range(len(need.atoms))]
    best = None
    for ends in product((False, True), repeat=len(atoms) - 1):
        cuts = [0, *(i + 1 for i, end in enumerate(ends) if end), len(atoms)]
        costs = [cost_of([atoms[i] for i in range(a, b)], needs, rules) for a, b in pairwise(cuts)]
        if None not in costs:
            whole = (
                round(sum(c[0] for c in costs), 5),
                sum(c[1] for c in costs),
                round(sum(c[2] for c in costs), 4),
            )
            best = whole if best is None else min(best, whole)
    return best


def cost_of(atoms, needs, rules):
    numbers = sorted({s for s, _ in atoms})
    seconds = []
    for s in numbers:
        own = [needs[s].atoms[a] for t, a in atoms if t == s]
        whole = sum(needs[s].atoms)
        fits = whole <= max(rules.lengths or (rules.range[1],)) + 1e-6
        if (
            (len(own) < len(needs[s].atoms) and fits)
            or (s != numbers[0] and (needs[s].apart or needs[s].begins))
            or (s != numbers[-1] and needs[s].ends)
        ):
            return None
        seconds.append(sum(own))
    wanted = (
        seconds[0]
        if len(seconds) == 1
        else sum(ceil(max(x, rules.shortest) / rules.step - 1e-6) * rules.step for x in seconds)
    )
    offered = rules.lengths or [
        rules.range[0] + k * rules.step
        for k in range(200)
        if rules.range[0] + k * rules.step <= rules.range[1] + 1e-6
    ]
    longer = [length for length in offered if length >= wanted - 1e-6]
    if len(numbers) > rules.most or (not longer and len(atoms) > 1):
        return None
    length = min(longer, default=max(offered))
    takes = max([rules.takes ** len(numbers), *(needs[s].takes for s in numbers)])
    return rules.price(length) * takes, int(atoms[0][1] > 0), max(0.0, length - sum(seconds))


def random_film(random: Random):
    needs, count = [], 0
    while count < random.randint(5, 9):
        pieces = random.choice([1, 1, 1, 2, 3])
        atoms = tuple(round(random.uniform(0.5, 5), 2) for _ in range(pieces))
        needs.append(
            Need(
                atoms,
                random.random() < 0.15,
                random.random() < 0.1,
                random.random() < 0.1,
                random.choice([1, 1, 1, 2, 3]),
            )
        )
        count += pieces
    each, whole = random.choice([0, 1, 2]), random.choice([1, 3, 7])
    lengths = random.choice([(), (4.0, 6.0, 8.0, 10.0), (5.0, 10.0)])
    rules = ClipRules(
        lengths,
        (3.0, random.choice([6.0, 9.0, 15.0])),
        0.5,
        random.choice([1, 2, 3, 5]),
        random.choice([0.0, 1.0, 2.0]),
        lambda s: whole + each * s,
        random.choice([1.0, 1.5, 2.0]),
    )
    return needs, rules


@pytest.mark.parametrize("seed", range(60))
def test_the_cost_is_the_least_of_every_way(seed):
    needs, rules = random_film(Random(seed))
    found = packed(needs, rules)
    assert (round(found.money, 5), found.splits, round(found.dead, 4)) == tried(needs, rules)
    assert found.next_best is None or found.next_best >= found.money - 1e-6
    assert all(
        abs(sum(part.seconds for part in clip.parts) - clip.seconds) < 1e-6 for clip in found.clips
    )


def test_what_is_pinned_stays_and_costs_nothing():
    rules = ClipRules((4.0, 8.0), price=lambda s: s, most=2)
    needs = [Need((2.0,)), Need((2.0,)), Need((2.0,)), Need((2.0,))]
    found = packed(needs, rules, [(1, 2, 4.0)])
    assert [(clip.parts[0].shot, clip.parts[-1].shot, clip.pinned) for clip in found.clips] == [
        (0, 0, False),
        (1, 1, True),
        (2, 3, False),
    ]
    assert found.money == 8


# Continuity


@pytest.mark.parametrize("name", LISTS)
def test_a_good_list_has_no_fault(name):
    assert [f for f in continuity(shots_of(name), KNOWLEDGE, CAST) if f.kind != REMARK] == []


FAULTS = [
    ("bakery", [("2", "wardrobe", "ADA: a floury apron"), ("4", "wardrobe", "a silk blouse")], "other-clothes", "1/4"),
    ("bakery", [("3", "wardrobe", "striped jumper"), ("6", "wardrobe", "ADA: apron | TOM: a raincoat")], "other-clothes", "1/6"),
    ("lobby", [("1", "wardrobe", "maroon waistcoat"), ("3", "wardrobe", "a dinner jacket")], "other-clothes", "1/3"),
    ("station", [("1", "wardrobe", "MIRA: school coat"), ("5", "wardrobe", "MIRA: red anorak")], "other-clothes", "1/5"),
    ("rescue", [("6", "action", "RELIEF laughs."), ("5", "action", "RELIEF hauls KEEPER over the side.")], "hand-empty", "7/6"),
    ("kitchen", [("16", "action", "COOK unties his apron.")], "hand-empty", "4/16"),
    ("kitchen", [("14", "props", "SOUS: cloth")], "hand-empty", "4/14"),
    ("bakery", [("2", "props", "ADA: rolling pin"), ("4", "props", "-")], "hand-empty", "1/4"),
    ("station", [("1", "props", "MIRA: a doll"), ("2", "props", "MIRA: an apple")], "hand-empty", "1/2"),
    ("lobby", [("2", "hour", "22:10")], "hour-back", "1/2"),
    ("station", [("5", "hour", "11:30")], "hour-back", "1/5"),
    ("lesson", [("1B", "hour", "afternoon"), ("3", "hour", "noon"), ("3", "story day", "1")], "hour-back", "2/3"),
    ("bakery", [("1", "hour", "afternoon"), ("6", "hour", "morning")], "hour-back", "1/6"),
    ("bakery", [("4", "eyeline", "left")], "eyelines-apart", "1/4"),
    ("lobby", [("4", "eyeline", "left")], "eyelines-apart", "1/4"),
    ("station", [("3", "eyeline", "right")], "eyelines-apart", "1/3"),
    ("kitchen", [("14", "eyeline", "right")], "eyelines-apart", "4/14"),
    ("station", [("4", "action", "They wait."), ("4", "screen side", "TEACHER left, MIRA right")], "line-crossed", "1/4"),
    ("bakery", [("5", "who", "tom"), ("6", "screen side", "TOM left, ADA right")], "line-crossed", "1/6"),
    ("kitchen", [("13", "screen side", "SOUS left, COOK right")], "line-crossed", "4/13"),
    ("rescue", [("4", "who", "relief; keeper"), ("5", "screen side", "KEEPER left, RELIEF right")], "line-crossed", "7/5"),
    ("bakery", [("4", "light", "window light from the left")], "light-side", "1/4"),
    ("kitchen", [("12", "light", "strip lights from the right")], "light-side", "4/12"),
    ("bakery", [("3", "reverse of", ""), ("4", "reverse of", ""), ("4", "light", "window light from the right")], "light-side", "1/4"),
    ("dance", [("4", "size", "close-up"), ("4", "angle", "side view")], "jump", "1/4"),
    ("market", [("4", "who", "hands with a short knife"), ("4", "size", "close-up")], "jump", "1/4"),
    ("rescue", [("3", "who", "relief"), ("3", "size", "medium shot"), ("3", "screen side", "left"), ("3", "eyeline", "right")], "jump", "7/3"),
    ("station", [("3", "line", "MIRA: Or not?")], "not-in-picture", "1/3"),
    ("kitchen", [("15", "line", "COOK: Look at it.")], "not-in-picture", "4/15"),
    ("lighthouse", [("3", "Dialogue", "KEEPER: Leave it! | RELIEF: I carried it.")], "not-in-picture", "1/3"),
    ("station", [("1", "size", "medium shot")], "no-wide-shot", "1/1"),
    ("bakery", [("4", "eyeline", ""), ("4", "reverse of", "")], "cannot-tell", "1/4"),
    ("rescue", [("2", "size", ""), ("3", "who", "relief"), ("3", "screen side", "left"), ("3", "eyeline", "right")], "cannot-tell", "7/2"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "changes", "code", "place"), FAULTS)
def test_a_fault_is_found_where_the_list_says_enough(name, changes, code, place):
    found = continuity(shots_of(name, changes), KNOWLEDGE, CAST)
    assert (code, place) in [(f.code, f.place) for f in found], found


# Words


@pytest.mark.parametrize("model", MODELS)
def test_every_prompt_is_the_one_that_was_read(model):
    """What changed is shown a list at a time; `python -m tests.film_prompts` takes it over."""
    kept = (FILMS / "prompts" / f"{model}.txt").read_text("utf-8")
    kept_lists = dict(zip(LISTS, re.split(r"(?m)^\n(?=# )", kept), strict=True))
    for name in LISTS:
        assert written(name, model) == kept_lists[name]


@pytest.mark.parametrize("name", LISTS)
@pytest.mark.parametrize("model", MODELS)
def test_the_words_of_a_person_are_the_same_in_every_prompt(name, model):
    made = board(name, model)
    assert not made.wrong and made.made
    for one in made.made:
        shown = one.needs and len(one.planned.views) == 1  # a still shows who it is
        for who in {name for view in one.planned.views for name in view.shot.who}:
            person, view = (
                workspace().known.get(who),
                next(v for v in one.planned.views if who in v.shot.who),
            )
            if person and not shown and not one.prompt.dropped:
                words = made.film.cast.full(who, view.shot)
                assert words.lower() in one.prompt.text.lower(), (one.name, words, one.prompt.text)
                assert one.prompt.text.lower().count(words.lower()) == 1
        for said in (
            "as before",
            "same as",
            "previous",
            "earlier shot",
            " ,",
            ",,",
            "..",
            "a the ",
            "the a ",
            "  ",
        ):
            assert said not in one.prompt.text, (one.name, said, one.prompt.text)


@pytest.mark.parametrize("name", LISTS)
def test_what_the_list_asks_for_comes_into_the_prompts(name):
    made = board(name)
    text = " ".join(one.prompt.text for one in made.made).lower()
    for shot_ in made.film.shots.shots:
        for line in shot_.lines:
            assert line.text.lower() in text
        for column in ("action", "background"):
            said = [
                word
                for word in shot_.cells.get(column, "").lower().rstrip(".").split()
                if word.isalpha() and word not in workspace().known
            ]
            assert all(word in text for word in said), (shot_.name, said)


@pytest.mark.parametrize(("names", "said"), [
    (["ada"], "Ada"), (["ada", "bo"], "Ada and Bo"), (["ada", "bo", "pilot"], "Ada, Bo and the pilot, in an oilskin coat"),
    (["ada", "pilot"], "Ada and the pilot, in an oilskin coat"), (["pilot", "ada"], "the pilot, in an oilskin coat, and Ada"),
    (["dot", "ada"], "a girl in a coat, and Ada"), (["ada", "dot"], "Ada and a girl in a coat"),
])  # fmt: skip
def test_people_as_one_group(names, said):
    known = {name: KnownReference(name, words) for name, words in (("ada", "Ada"), ("bo", "Bo"), ("dot", "a girl in a coat"), ("pilot", "the pilot, in an oilskin coat"))}  # fmt: skip
    assert people_words(names, shot(who="; ".join(names)), Cast(known, {}), {}, set()) == said


def test_clothes_from_a_story_day_on_and_for_one_shot():
    known = {
        "pilot": KnownReference(
            "pilot", "the pilot, in an oilskin coat, with a plait", wears="in an oilskin coat"
        )
    }
    cast = Cast(known, {"pilot": {"2": "a duffel coat"}})
    assert (
        cast.full("PILOT", shot(who="pilot", **{"story day": "1"}))
        == "the pilot, in an oilskin coat, with a plait"
    )
    assert (
        cast.full("pilot", shot(who="pilot", **{"story day": "3"}))
        == "the pilot, in a duffel coat, with a plait"
    )
    assert (
        cast.full("pilot", shot(who="pilot", wardrobe="PILOT: overalls", **{"story day": "3"}))
        == "the pilot, in overalls, with a plait"
    )
    assert (
        cast.short("pilot") == "the pilot"
        and Cast({}).short("a tall man in a hat") == "the tall man"
    )


@pytest.mark.parametrize(
    ("consent", "told"),
    [
        (None, "names no document"),
        (Consent(("picture",), (), "", "a.pdf"), "not agreed to voice"),
        (Consent(("picture", "voice"), ("other",), "", "a.pdf"), "but not to whimbrel"),
        (
            Consent(("picture", "voice"), ("whimbrel",), "2026-01-01", "a.pdf"),
            "ended on 2026-01-01",
        ),
        (Consent(("picture", "voice"), ("whimbrel",), "2027-01-01", "a.pdf"), ""),
    ],
)
def test_nobody_real_is_sent_without_consent(consent, told):
    cast = Cast({"ada": KnownReference("ada", "Ada, a baker", real=True, consent=consent)})
    found = cast.refused(
        read_shots(
            ["shot", "who", "line"],
            [(2, {"shot": "1", "who": "ada", "line": "Yes."})],
            "l",
            ["ada"],
        ).shots[0],
        "whimbrel",
        "2026-11-26",
    )
    assert told in found if told else not found


OWN = """+++
about = "A letter read over one picture"
media = "video"

[slots]
what = { facet = "object", need = true }
surface = { facet = "material", tag = "surface" }
reader = { facet = "" }
words = { facet = "", need = true }
paper = { facet = "" }

[parameters]
seconds = 6
+++
lead!      close on [a paper what]
rest       lying on [a surface].
voice!     [the reader] reads: "[words]".
-          subtitles
"""


def test_a_formula_of_a_persons_own_with_columns_for_its_slots(tmp_path):
    (tmp_path / "letter.formula").write_text(OWN, "utf-8")
    words = (
        "We ran down the iron stairs and the wind " + "blew in every keyhole and " * 8 + "stopped."
    )
    (tmp_path / "own.csv").write_text(
        f"shot,who,surface,Paper,speaker,line,formula\n1,letter,oiled oak,water-stained,keeper,The lamp was out.,{tmp_path}/letter.formula\n2,keeper,,,,{words},\n",
        "utf-8",
    )
    made = FilmPrompts(
        FilmList(workspace(), str(tmp_path / "own.csv")).film(),
        workspace().model("whimbrel-motion"),
        workspace().model("curlew-still"),
    )
    assert (
        made.made[0].prompt.text
        == 'Close on a water-stained letter, lying on oiled oak. The lighthouse keeper says "The lamp was out."'
    )
    too_long = next(f for f in made.plan.findings if f.code == "line-too-long")
    assert (
        too_long.kind == "error"
        and "cut it after “the iron stairs”" in too_long.remedy
        and made.plan.clips[1].clip.over
    )


# Clips that were sent


@pytest.mark.parametrize("seed", range(12))
def test_one_line_made_longer_makes_anew_only_what_holds_it(seed):
    random = Random(seed)
    name = random.choice(
        [one for one in LISTS if any(shot_.lines for shot_ in shots_of(one).shots)]
    )
    model = random.choice(["whimbrel-motion", "godwit-motion"])
    before = board(name, model)
    sent = sent_clips(before.records())
    source = FilmList(workspace(), str(FILMS / f"{name}.csv"))
    spoken = random.choice([shot_ for shot_ in source.shots.shots if shot_.lines])
    source.change(
        f"{spoken.name}/1",
        spoken.lines[0].text + " And then we will see what the tide has left of it, and who stays.",
    )
    after = FilmPrompts(
        source.film(), workspace().model(model), workspace().model("curlew-still"), sent
    )
    ids = {record["film"]["name"]: record["id"] for record in before.records()}
    held = {
        one.name
        for one in before.made
        if one.kind == "clip" and spoken.name in [shot_.name for shot_ in one.planned.shots]
    }
    kept = {one.name for one in after.made if one.planned.clip.pinned and one.kind == "clip"}
    assert kept == {one.name for one in before.made if one.kind == "clip"} - held
    assert all(
        record["id"] == ids[record["film"]["name"]]
        for record in after.records()
        if record["film"]["name"] in kept
    )


# Scripts


def signature(found):
    spoken = ("speaker", "line", "manner", "voice", "scene")
    return [
        (s.scene, s.number, {k: v for k, v in s.given.items() if v and k not in spoken}, {k: v for k, v in s.further.items() if v and k != "heading words"}, s.lines, s.who)
        for s in found.shots
    ]  # fmt: skip


def there_and_back(found):
    people = list(workspace().known)
    headings, rows = shot_rows(read_fountain(write_fountain(script_of(found, "A film"))), people)
    return read_shots(headings, rows, "script", people)


@pytest.mark.parametrize("name", LISTS)
def test_a_list_comes_back_from_a_script(name):
    found = shots_of(name)
    assert signature(there_and_back(found)) == signature(found)


@pytest.mark.parametrize("name", SCRIPTS)
def test_a_script_gives_the_same_list_again(name):
    people = list(workspace().known)
    headings, rows = shot_rows(
        read_fountain((FILMS / f"{name}.fountain").read_text("utf-8")), people
    )
    found = read_shots(headings, rows, name, people)
    assert found.shots and not found.mistakes
    assert signature(there_and_back(found)) == signature(found)


def test_what_a_script_says():
    headings, rows = shot_rows(
        read_fountain((FILMS / "window.fountain").read_text("utf-8")), ["purser", "pilot"]
    )
    first, second, third = read_shots(headings, rows, "window", ["purser", "pilot"]).shots
    assert (first.cells["setting"], first.cells["hour"], first.who) == (
        "ticket office",
        "night",
        ("purser",),
    )
    assert first.lines[1] == SpokenLine(
        "pilot", "You are never closed.", "through the hatch", "O.S."
    )
    assert (third.scene, third.cells["hour"], third.given["transition"]) == (
        "2",
        "night",
        "cut to",
    )  # CONTINUOUS
    assert third.lines[1].dual and second.cells["action"].startswith("He lifts the hatch.")


def test_a_note_goes_with_the_shot_that_it_stands_in():
    said = "[[all in one night]]\n\nINT. HUT - NIGHT\n\nMOTH sleeps.\n\n[[mind the lamp]]\n\nCUT TO:\n\nEXT. QUAY - DAY\n\nMOTH wakes.\n"
    headings, rows = shot_rows(read_fountain(said), ["moth"])
    assert [cells["note"] for _, cells in rows] == [
        "all in one night mind the lamp",
        "",
    ] and "note" in headings


# Subtitles


CUES = [
    Cue(0.0, 1.2, "purser", "Mind the step.", "on screen", "1/1"),
    Cue(
        2.0,
        8.0,
        "pilot",
        "The night that it went out, I heard the ship before I saw her. Not the engine: the singing & <nothing> else --> at all.",
        "V.O.",
        "1/2",
    ),
    Cue(9.0, 9.4, "purser", "Yes.", "on screen", "1/3"),
]


def test_subtitles_parse_in_two_packages():
    found, told = subtitles(CUES, 12.0)
    assert all(len(line) <= WIDTH for one in found for line in one.lines) and all(
        len(one.lines) <= 2 for one in found
    )
    read = list(srt.parse(write_srt(found)))
    assert [one.start.total_seconds() for one in read] == [one.start for one in found] and read[
        -1
    ].end.total_seconds() == 10.0
    captions = webvtt.from_string(write_vtt(found)).captions
    assert [(one.start_in_seconds, one.voice) for one in captions] == [
        (int(one.start), one.speaker) for one in found
    ]
    assert " ".join(line for one in found for line in one.lines) == " ".join(
        cue.text for cue in CUES
    )
    assert [f.place for f in told] == ["1/2"] and told[0].code == "reads-fast"


def test_lines_lie_where_their_shots_do():
    made = board("kitchen")
    film = cut(made.plan, made.film.shots.shots, 24)
    assert film.seconds == sum(one.seconds for one in film.stretches)
    for cue in film.cues:
        stretch = next(one for one in film.stretches if one.shot.name == cue.shot)
        assert stretch.start <= cue.start < cue.stop <= stretch.stop + 1e-3


def test_the_columns_hang_together():
    """Names in data/shot-list.toml that nothing has would be lost in silence."""
    own = {value for name, value in vars(Col).items() if name.isupper()}
    assert own == set(COLUMNS)
    vocabulary = workspace().vocabulary
    assert all(facet in vocabulary for column in COLUMNS.values() for facet in column.facets)
    names = [name for column in COLUMNS.values() for name in column.also]
    assert len(names) == len(set(names)) and not set(names) & set(COLUMNS)
    said = set(PHRASES)
    assert {name for one in PHRASES.values() for name in one.behind} <= said
    assert said - set(COLUMNS) == {PLACEMENT, TOLD}


# Planted faults, and clauses


@pytest.mark.parametrize(("folder", "least"), [("planted", 53), ("unseen", 49)])
def test_planted_faults_are_found_and_clean_lists_are_left_alone(folder, least):
    found, missed, false = film_faults.looked_for(FILMS / folder)
    assert len(found) + len(missed) == 60
    assert len(found) >= least and false == [], (missed, false)


@pytest.mark.parametrize(
    ("text", "deeds"),
    [
        ("ADA hands TOM a tray of loaves.", [("ada", "gives", "tray", "tom")]),
        ("Ada gives the loaf to Tom.", [("ada", "gives", "loaf", "tom")]),
        ("She takes off her apron and hangs it on a hook.", [("ada", "sheds", "apron", ""), ("ada", "lays", "apron", "")]),
        ("ADA takes the wet coat off.", [("ada", "sheds", "coat", "")]),
        ("TOM drinks the glass empty. He puts it down.", [("tom", "empties", "glass", ""), ("tom", "lays", "glass", "")]),
        ("ADA drops the cup. It breaks.", [("ada", "lays", "cup", ""), ("ada", "breaks", "cup", "")]),
        ("ADA and TOM leave.", [("ada", "goes", "", ""), ("tom", "goes", "", "")]),
        ("TOM hands her the key.", [("tom", "gives", "key", "ada")]),
        ("The open door. Empty shelves.", []),  # nouns and adjectives that look like verbs
        ("A hand on the door handle.", []),
    ],
)  # fmt: skip
def test_who_does_what_with_which_thing(text, deeds):
    who = ["Tom", "Ada"] if text.startswith("TOM hands her") else ["Ada"]
    read = happenings(text, ["Ada", "Tom"], who)
    assert [
        (deed.who, deed.kind, deed.thing, deed.to) for clause in read for deed in clause.deeds
    ] == deeds


@pytest.mark.parametrize(
    ("text", "noun", "words"),
    [
        ("The empty flask lies there.", "flask", ("empty",)),
        ("The car door is open already.", "door", ("car", "open")),
        ("The brown donkey pricks up his ears.", "donkey", ("brown",)),
        ("A red wooden boat on the beach", "boat", ("red", "wooden")),
    ],
)
def test_what_is_said_of_a_thing(text, noun, words):
    (thing,) = [one for c in happenings(text, []) for one in c.groups if one.noun == noun]
    assert thing.words == words


# Names


@pytest.mark.parametrize(("said", "known", "found"), [
    ("DR. IQBAL", ["dr. iqbal"], "dr. iqbal"), ("Iqbal", ["dr. iqbal"], "dr. iqbal"), ("Dr Iqbal", ["iqbal"], "iqbal"), ("VERA", ["vera lind"], "vera lind"),
    ("Lind", ["vera lind", "tom lind"], ""), ("Tom Lind", ["vera lind", "tom lind"], "tom lind"), ("Nurse Vera", ["vera"], "vera"), ("Veronica", ["vera"], ""),
])  # fmt: skip
def test_somebody_by_any_form_of_their_name(said, known, found):
    assert known_as(said, {name: name for name in known}) == found


@pytest.mark.parametrize(("text", "named"), [
    ("Vera looks out.", True), ("She sees Vera and waits.", True), ("VERA (45) sits.", True), ("Nurse Vera, tired, sits.", True), ("@vera sits.", True),
    ("Vera's hand", True), ("They wait for Vera", True), ("A Vera poster", False), ("The Vera boat", False), ("vera in small letters", False), ("Vera Lynn songs", False),
])  # fmt: skip
def test_a_name_in_a_text(text, named):
    found = name_pattern("vera").search(text)
    assert bool(found) == named and (not named or "(" not in name_pattern("vera").sub("X", text))


def test_people_of_an_office_list():
    rows = [
        {"shot": "1", "who": "DR. IQBAL (45)", "line": "DR. IQBAL (45): Sit down."},
        {"shot": "2", "who": "Iqbal", "action": "He waits."},
        {"shot": "3", "who": "", "action": "Ada hands TOM a loaf."},
        {"shot": "4", "who": "", "action": "A loaf on a table."},
        {"shot": "5", "who": "", "action": "Tom eats."},
        {"shot": "6", "who": "", "action": "He smiles."},
        {"shot": "7", "who": "-", "action": "ADA's hands."},
    ]
    columns = ["shot", "who", "action", "line"]
    cells = [(n, {c: row.get(c, "") for c in columns}) for n, row in enumerate(rows, 2)]
    found = read_shots(columns, cells, "list", ["ada", "tom"])
    assert not found.mistakes
    assert [one.who for one in found.shots] == [
        ("Dr. Iqbal",),
        ("Dr. Iqbal",),
        ("ada", "tom"),
        (),
        ("tom",),
        ("tom",),
        (),
    ]
    assert found.shots[0].lines[0].speaker == "Dr. Iqbal"


def elements_of(script):
    """What a script says, without the lines and the notes of shots."""
    return [
        (e.kind, e.text, e.extra.strip("!"))
        for e in script.elements
        if not (e.kind == "note" and e.text.startswith("shot "))
        and not re.match(r"\d+ SHOT", e.text)
    ]


def test_a_script_with_structure_comes_back():
    script = read_fountain((FILMS / "bell.fountain").read_text("utf-8"))
    headings, rows = shot_rows(script, [])
    shots = read_shots(headings, rows, "bell", [])
    assert not shots.mistakes
    back = read_fountain(write_fountain(script_of(shots, "The Bell")))
    said = [(k, t, "" if k == "heading" else x) for k, t, x in elements_of(back)]
    wanted = elements_of(script)
    at = wanted.index(("character", "ANTON", "(ON PHONE)"))  # a voice-over, said over the phone
    wanted[at : at + 1] = [("character", "ANTON", "(V.O.)"), ("parenthetical", "ON PHONE", "")]
    assert said == wanted


def test_what_is_built_into_a_script_is_no_shot():
    script = read_fountain((FILMS / "bell.fountain").read_text("utf-8"))
    headings, rows = shot_rows(script, [])
    shots = read_shots(headings, rows, "bell", []).shots
    assert [one.name for one in shots] == ["1/1", "1/2", "1/3", "1/4", "2/1", "3/1"]
    tower, _, montage, _, flashback, after = shots
    assert (tower.cells["int/ext"], flashback.cells["int/ext"]) == ("INT.", "EXT.")
    assert montage.cells["setting"] == montage.cells["hour"] == ""  # not where the scene is
    assert flashback.cells["note"] == "flashback" and flashback.cells["setting"] == "square"
    assert after.cells["hour"] == "night"  # it goes on from before the flashback
    assert [line.voice for line in after.lines] == ["on screen", "V.O."]
    assert after.who == ("Vera",)  # who is on the phone is not in the room


@pytest.mark.parametrize(
    ("manner", "voice", "said"),
    [
        ("on phone", "V.O.", "over the telephone"),
        ("INTO PHONE", "on screen", "into the telephone"),
        ("dry", "on screen", "in a dry voice"),
        ("whispering", "O.S.", "off screen, whispering"),
    ],
)
def test_how_a_line_is_said(manner, voice, said):
    line = SpokenLine("ada", "Yes.", manner, voice)
    assert how(line, workspace().vocabulary, KNOWLEDGE) == said


@pytest.mark.parametrize(
    ("action", "who", "model", "text"),
    [
        ("A brass bell swings.", "", "whimbrel-motion", "Close-up; a brass bell swings, on a quay."),
        ("Drops fall from an oar.", "", "whimbrel-motion", "Close-up; on a quay. Drops fall from an oar."),
        ("The dog REX sleeps.", "rex", "whimbrel-motion", "Close-up; a small dog, on a quay. The dog sleeps."),
        ("The REX sleeps.", "rex", "whimbrel-motion", "Close-up; a small dog, on a quay. The dog sleeps."),
    ],
)  # fmt: skip
def test_a_shot_in_words(action, who, model, text, tmp_path):
    (tmp_path / "known.toml").write_text('[rex]\nwords = "a small dog"\nshort = "the dog"\n')
    (tmp_path / "syntagma.toml").write_text("")
    row = {"scene": "1", "shot": "1", "size": "close-up", "who": who, "action": action, "setting": "quay"}  # fmt: skip
    with open(tmp_path / "l.csv", "w") as file:
        file.write(",".join(row) + "\n" + ",".join(row.values()) + "\n")
    there = Workspace.load(tmp_path)
    film = FilmList(there, str(tmp_path / "l.csv")).film()
    (made,) = FilmPrompts(film, there.model(model), there.model("curlew-still")).made
    assert made.prompt.text == text
