"""The interface as a whole: one option, one meaning; examples that run; what `syntagma` says alone; old names; verbs; loudness; wishes."""

import re
import shlex
from collections import defaultdict

import pytest

from syntagma.cli.args import Parser
from syntagma.cli.commands import COMMANDS, HEADINGS, OLD, ROOMS, module_of, parser_of
from syntagma.cli.glossary import WORDS
from syntagma.cli.registry import FORMER, SHARED, SHORT
from tests.commands.program import good, printed, run

SERVES = re.compile(
    r"service simulate|^syntagma judge \w+$|^syntagma (tour|send)"
)  # these go on until they are stopped, run already, or want a service
PLACEHOLDER = re.compile(r"\b[A-Z]{2,}\b(?!=)")  # an example that names what only a person has


def parsers():
    """Every parser, of a command by itself and of each of its verbs."""
    for name in COMMANDS:
        command = module_of(name)
        verbs = getattr(command, "VERBS", {})
        own = Parser(name, COMMANDS[name], verbs)
        command.arguments(own)
        yield name, own
        for word, verb in verbs.items():
            parser = Parser(f"{name} {word}", verb.about)
            verb.arguments(parser)
            yield f"{name} {word}", parser


def test_one_option_has_one_meaning():
    meanings = defaultdict(lambda: defaultdict(list))
    for name, parser in parsers():
        for action in parser._actions:
            for option in action.option_strings:
                help_ = re.sub(r" \(default: [^)]*\)$", "", action.help or "")
                meanings[option][action.metavar, help_, action.nargs].append(name)
    assert {option: dict(own) for option, own in meanings.items() if len(own) > 1} == {}
    assert (
        set(SHARED) <= set(meanings)
        and set(SHORT.values()) <= set(meanings)
        and not set(FORMER)
        - {"--draws", "--mount", "--mark", "--dpi", "--dropped", "--dry", "--explain", "--fill"}
        - set(meanings)
        - {"--take", "--for", "--licence"}
    )


def test_every_command_is_in_one_room_and_under_one_heading():
    for table in (HEADINGS, ROOMS):
        assert sorted(" ".join(table.values()).split()) == sorted(COMMANDS)
    assert not set(OLD) & set(COMMANDS) and len(COMMANDS) <= 30


def test_alone_it_fits_a_small_screen_and_each_call_on_it_works(tmp_path):
    lines = good(tmp_path).splitlines()
    assert len(lines) <= 20 and max(map(len, lines)) <= 80
    calls = [
        re.split(r"  +", line.strip())[0] for line in lines if line.strip().startswith("syntagma ")
    ]
    assert len(calls) >= 6
    for call in calls:
        words = shlex.split(call.replace("COMMAND", "compose").replace("DIR", "mine"))[1:]
        if words != ["tour"]:
            assert run(tmp_path, *words).returncode == 0, call
    assert all(command in "".join(lines) for command in COMMANDS)


def test_a_first_argument_with_a_space_is_a_wish(tmp_path):
    wish = "a harbour pilot at night"
    assert good(tmp_path, wish, "--model", "curlew-still") == good(
        tmp_path, "compose", "--from", wish, "--model", "curlew-still"
    )


def test_nothing_given_is_picked(tmp_path):
    done = run(tmp_path, "compose", "photograph")
    assert (
        done.returncode == 0
        and done.stdout == good(tmp_path, "compose", "photograph", "--pick")
        and "--draw 2 picks others" in done.stderr
    )
    assert good(tmp_path, "compose", "photograph", "-d", "2") == good(
        tmp_path, "compose", "photograph", "--pick", "--draw", "2"
    )


@pytest.mark.parametrize(("call", "now"), [
    (["facets"], "syntagma term"), (["terms", "lighting"], "syntagma term lighting"), (["kept", "mark", "12", "4"], "syntagma library rate 12 4"), (["fill", "poster"], "syntagma compose --ask poster"),
    (["sheet", "strike", "s", "r1"], "syntagma sheet remove s r1"), (["condense", "a fox"], "syntagma shorten 'a fox'"), (["board", "new", "x"], "syntagma film new x"), (["board", "x.csv"], "syntagma film prompts x.csv"),
])  # fmt: skip
def test_an_old_name_says_what_it_is_now(tmp_path, call, now):
    done = run(tmp_path, *call)
    assert done.returncode == 2 and done.stderr.splitlines()[-1] == f"  write {now}"


@pytest.mark.parametrize(("call", "meant"), [
    (["expand", "poster", "subject=x", "--vary", "light:2", "--draws", "2"], "syntagma expand poster subject=x --vary light:2 --takes 2"), (["compose", "poster", "--mount=two-inks"], "syntagma compose poster --look two-inks"),
    (["compose", "poster", "subject", "=", "car ferry"], "syntagma compose poster 'subject=car ferry'"), (["compose", "poster", "subject=car", "ferry"], "syntagma compose poster 'subject=car ferry'"),
    (["compose", "poster", "subject:ferry"], "syntagma compose poster subject=ferry"), (["compose", "poster", "--subject", "ferry"], "syntagma compose poster subject=ferry"), (["compose", "poster", "subject=", "car ferry"], "syntagma compose poster 'subject=car ferry'"),
    (["compose", "postr", "subject=x"], "syntagma compose poster subject=x"), (["compose", "poster", "sujbect=x"], "syntagma compose poster subject=x"), (["compose", "poster", "subject=x", "--ratio", "2:3"], "syntagma compose poster subject=x --parameter ratio=2:3"),
    (["compose", "poster", "subject=x", "ratio=2:3"], "syntagma compose poster subject=x --parameter ratio=2:3"), (["compose", "poster", "subject=x", "--model", "dunlin"], "syntagma compose poster subject=x --model dunlin-still"),
    (["compose", "poster", "subject=x", "--model", "curlew-still,dunlin-still"], "syntagma compose poster subject=x --model curlew-still"), (["compose", "poster", "a red fox"], "syntagma compose poster --from 'a red fox'"),
    (["compose", "poster", "subject=x", "--theme", "nihgt"], "syntagma compose poster subject=x --theme night"), (["expand", "poster", "subject=x", "--vary", "light:2", "medium"], "syntagma expand poster subject=x --vary light:2 --vary medium"),
    (["expand", "poster", "light=candlelight,bonfire"], "syntagma expand poster --vary light=candlelight,bonfire"), (["expand", "poster", "subject=x", "--vary", "lihgt:4"], "syntagma expand poster subject=x --vary light:4"),
    (["expand", "poster", "--vary", "light=candlelight", "--vary", "light=bonfire"], "syntagma expand poster --vary light=candlelight,bonfire"), (["read", "a", "red", "fox"], "syntagma read 'a red fox'"), (["shorten", "a red fox", "5w"], "syntagma shorten 'a red fox' --to 5w"),
    (["shorten", "a red fox", "--to", "5"], "syntagma shorten 'a red fox' --to 5w"), (["rewrite", "a red fox", "poster"], "syntagma rewrite 'a red fox' --formula poster"), (["rewrite", "a red fox", "--lighting", "dusk"], "syntagma rewrite 'a red fox' --set lighting=dusk"),
    (["formula", "show", "poster"], "syntagma formula poster"), (["term", "lightning"], "syntagma term lighting"), (["look", "two-ink"], "syntagma look two-inks"), (["film", "x.csv"], "syntagma film prompts x.csv"), (["library", "lights"], "syntagma library find lights"),
    (["sheets"], "syntagma sheet"), (["compsoe", "poster"], "syntagma compose poster"), (["a", "fox", "in", "the", "snow"], "syntagma 'a fox in the snow'"),
    (["expand", "poster", "--vary", "subject=a fox, asleep"], "syntagma expand poster --vary 'subject=a fox; asleep'"), (["formula", "nwe", "x"], "syntagma formula new x"), (["library", "rat", "12", "4"], "syntagma library rate 12 4"), (["model", "new", "x", "--probe"], "syntagma model try x --probe"),
])  # fmt: skip
def test_a_slip_is_answered_with_the_call_that_was_meant(tmp_path, call, meant):
    done = run(tmp_path, *call)
    assert done.returncode == 2 and meant in done.stderr, done.stderr


def test_a_formula_is_checked_by_its_name(tmp_path):
    assert "poster" in good(tmp_path, "check", "poster") and "no mistake" in good(
        tmp_path, "check", "poster"
    )


def test_quiet_and_verbose(tmp_path):
    call = ["compose", "poster", "subject=tea urn", "medium=linocut"]
    assert (
        run(tmp_path, *call, "-q").stderr == ""
        and "is not in subject" in run(tmp_path, *call, "-v").stderr
    )
    assert (
        "is missing" in run(tmp_path, "compare", "a", "-q").stderr
    )  # an error is said all the same


def test_help_words_and_of_a_verb(tmp_path):
    out = good(tmp_path, "help", "words")
    assert all(f"  {word} " in out for word in WORDS) and max(map(len, out.splitlines())) <= 80
    assert "usage: syntagma term new" in good(
        tmp_path, "help", "term", "new"
    ) and "add a term of your own" in good(tmp_path, "help", "term")


@pytest.mark.long
def test_every_example_of_every_help_runs(tmp_path):
    """In an empty folder, or in the tour's, one after the other."""
    good(tmp_path, "tour", "there")
    wrong, count, seen = [], 0, set()
    for name, parser in parsers():
        assert parser.likes, name
        for line in parser.likes:
            if SERVES.search(line) or PLACEHOLDER.search(line) or line in seen:
                continue
            seen.add(line)
            count += 1
            (tmp_path / "empty").mkdir(exist_ok=True)
            if (there := _runs(tmp_path / "there", line)) and _runs(tmp_path / "empty", line):
                wrong.append((name, line, there))
    assert not wrong and count > 100


def _runs(folder, line):
    """What is wrong with a line of calls; "" where nothing is."""
    given = ""
    for call in line.split(" | "):
        done = run(folder, *shlex.split(call)[1:], given=given)
        if done.returncode:
            return done.stderr or done.stdout
        given = done.stdout
    return ""


def test_a_verb_has_a_parser_of_its_own():
    parser, _, rest = parser_of("term", ["new", "lighting", "x"])
    assert (
        parser.prog == "syntagma term new"
        and rest == ["lighting", "x"]
        and parser_of("term", ["lighting"])[0].prog == "syntagma term"
    )


def test_a_dry_run_writes_nothing(tmp_path):
    good(tmp_path, "start", ".")
    before = sorted(path.name for path in tmp_path.iterdir())
    out = good(
        tmp_path,
        "expand",
        "poster",
        "subject=ferry",
        "--vary",
        "light:3",
        "--out",
        "x.jsonl",
        "--dry-run",
    )
    assert out and sorted(path.name for path in tmp_path.iterdir()) == before
    assert printed(good(tmp_path, "service", "--json")) == []


@pytest.mark.long
def test_the_tour_has_five_chapters_and_shows_ten_lines_a_step(tmp_path):
    out = good(tmp_path, "tour", "3", "film")
    assert (
        "Chapter 3: a film" in out
        and "Chapter 1" not in out
        and "Chapter 4" not in out
        and "film prompts ticket-nine.csv" in out
    )
    for step in re.split(r"(?m)^\$ syntagma .*$", out)[1:]:
        said = (
            step.split("\n\n")[0].strip().splitlines()
            if "… and" not in step
            else step.split("… and")[0].strip().splitlines()
        )
        assert len(said) <= 10
    assert (
        "… and" in out
        and (tmp_path / "film" / "ticket-nine.html").is_file()
        and (tmp_path / "film" / "crossings.jsonl").is_file()
    )
    assert (
        run(tmp_path, "tour", "9").returncode == 2
        and run(tmp_path, "tour", "1", "2").returncode == 2
    )
    from syntagma.app.workspace.tour import CHAPTERS, steps

    every = [step["chapter"] for step in steps("there")]
    assert (
        every == sorted(every)
        and set(every) == set(CHAPTERS)
        and steps("there")[0]["run"].startswith("compose ")
    )


def test_docs_say_the_words(tmp_path):
    """docs/reference/glossary.md has each word of `help words` as it is said there, and every command by its one name."""
    from pathlib import Path

    text = (Path(__file__).parents[2] / "docs" / "reference" / "glossary.md").read_text("utf-8")
    assert all(f"| {word} | {meaning} |" in text for word, meaning in WORDS.items())
    assert all(f"| `{name}` | {about} |" in text for name, about in COMMANDS.items()) and not [
        name for name in OLD if f"| `{name}` |" in text
    ]
    assert all(f"| `{option}`" in text for option in SHARED)


@pytest.mark.parametrize(("call", "text"), [
    (["compose", "poster", "subject=fox", "lighting=candlelight"], "lit by candlelight"), (["compose", "photograph", "subject=fox", "light=candlelight", "Camera_Angle=low angle"], "low angle"),
    (["expand", "poster", "subject=fox", "--vary", "lighting=candlelight,bonfire"], "bonfire"),
])  # fmt: skip
def test_a_slot_answers_to_its_facets_name(tmp_path, call, text):
    assert text in good(tmp_path, *call)


def test_a_facet_is_found_by_a_slots_name_and_in_either_spelling(tmp_path):
    assert good(tmp_path, "term", "light") == good(tmp_path, "term", "lighting") and good(
        tmp_path, "term", "color-grade"
    ) == good(tmp_path, "term", "colour-grade")
    assert (
        "filled twice"
        in run(
            tmp_path, "compose", "poster", "subject=fox", "light=candlelight", "lighting=bonfire"
        ).stderr
    )


def test_a_semicolon_parts_values_that_vary(tmp_path):
    both = [
        good(
            tmp_path, "expand", "poster", "subject=fox", "--vary", f"light=candlelight{mark}bonfire"
        )
        for mark in (",", "; ")
    ]
    assert both[0] == both[1] and len(both[0].splitlines()) == 2
    assert (
        good(tmp_path, "expand", "poster", "--vary", "subject=fox, asleep; cat")
        .splitlines()[0]
        .startswith("A fox, asleep")
    )
    assert both[0] == good(
        tmp_path, "expand", "poster", "subject=fox", "--vary", "light=candlelight, bonfire"
    )  # terms, both of them


def test_the_page_for_a_generator_of_ones_own_works_as_it_stands(tmp_path):
    from pathlib import Path

    page = (Path(__file__).parents[2] / "docs" / "tasks" / "your-generator.md").read_text("utf-8")
    calls = [
        shlex.split(line.strip())
        for line in page.splitlines()
        if line.startswith("       syntagma ")
    ]
    assert [call[1] for call in calls] == [
        "start",
        "model",
        "model",
        "compose",
        "a harbour pilot at night",
    ]
    good(tmp_path, *calls[0][1:])
    for call in calls[1:]:
        out = good(tmp_path / "mine", *call[1:])
    assert "(without " in out or "harbour pilot" in out
