"""The pages say what is so: profiles in them can be read, calls in them are commands that exist, links lead somewhere, tasks work as written."""

import ast
import re
import shlex
import shutil
import threading
import tomllib
from pathlib import Path

import pytest

from syntagma.cli.commands import COMMANDS, module_of, parser_of
from syntagma.core.models.profile import Profile
from syntagma.core.models.profile_file import read_profile
from tests.commands.program import good, run
from tests.source import FILES, facts

DOCS = Path(__file__).parents[1] / "docs"
PAGES = sorted(DOCS.rglob("*.md"))
TASKS = sorted((DOCS / "tasks").glob("*.md"))
PROFILES = [
    m
    for m in re.findall(r"```toml\n(.*?)```", (DOCS / "reference" / "models.md").read_text(), re.S)
]


@pytest.mark.parametrize("number", range(len(PROFILES)))
def test_a_profile_of_the_page(number):
    assert isinstance(read_profile(PROFILES[number], "page"), Profile)


def test_every_table_and_key_of_a_profile_is_on_the_page():
    page = (DOCS / "reference" / "models.md").read_text()
    for name in Profile.FIELDS:
        assert name in ("name", "counters") or re.search(rf"\b{name}\b", page), name
    for kind in ("text", "negative", "labelled", "nested", "timed", "limits", "parameters"):
        for key in type(getattr(Profile(), kind)).FIELDS:
            assert f"`{key}`" in page or f"{key}" in page, (kind, key)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.stem)
def test_the_calls_and_links_of_a_page(page):
    text = page.read_text("utf-8")
    for words in re.findall(r"^ *(?:\$ )?syntagma ([\w-]+)", text, re.M):
        assert words in (*COMMANDS, "help"), words
    for target in re.findall(r"\]\((?!https?:)([^)#]+)", text):
        assert (page.parent / target).exists(), target
    for target in re.findall(r"`(docs/[\w/-]+\.md)`", text):
        assert (DOCS.parent / target).exists(), target


def test_every_finding_has_a_code_that_the_page_lists():
    page = (
        (DOCS / "reference" / "records.md")
        .read_text("utf-8")
        .split("## Codes of findings")[1]
        .split("## ")[0]
    )
    listed, used = set(re.findall(r"`([a-z-]+)`", page)), set()
    for path in FILES:
        for line, codes in facts(path).findings:
            assert codes, f"{path.name}:{line} has none"
            used |= set(codes)
    assert (
        used | {"mistake", "other-request"} == listed
    )  # these are no Finding: a mistake in a file, and what a row of a sheet holds


def test_benchmarks_and_pictures_call_commands_that_there_are():
    root = DOCS.parent
    found = [
        (path.name, word)
        for path in (*root.glob("benchmarks/*.py"), *root.glob("docs/screenshots/*.py"))
        for word in re.findall(r'\[\*(?:program|call), "([a-z]+)"', path.read_text("utf-8"))
    ]
    assert len(found) > 8 and [one for one in found if one[1] not in COMMANDS] == []


def test_options_and_calls_of_the_pages_are_what_the_commands_take():
    options, wrong = set(), []
    for call in [
        [name, *verb]
        for name in COMMANDS
        for verb in ([], *([verb] for verb in getattr(module_of(name), "VERBS", {})))
    ]:
        options |= {
            option
            for action in parser_of(call[0], call[1:])[0]._actions
            for option in action.option_strings
        }
    for page in (*PAGES, DOCS.parent / "README.md"):
        text = re.sub(
            r"`python [^`]*`|with `--locked`", "", page.read_text("utf-8").replace("\\\n", " ")
        )
        wrong += [
            (page.name, option)
            for option in re.findall(r"(?<![\w-])--[a-z][a-z-]*", text)
            if option not in options
        ]
        for line in re.findall(r"^ *(?:\$ )?syntagma ((?!help).*)", text, re.M):
            words = shlex.split(re.split(r" {2,}| [|>] ", line.replace("…", "x"))[0])
            if words and " " not in words[0]:
                parser, _, rest = parser_of(words[0], words[1:])
                parser.error = lambda message, at=(page.name, line), found=wrong: found.append(
                    (*at, message)
                )
                parser.parse_intermixed_args(rest)
    assert wrong == []


@pytest.mark.long
def test_calls_in_messages_are_what_the_commands_take():
    """Of each call of the program that a string of the source shows: the command is there, and its options belong to it."""
    wrong = []
    for path in FILES:
        tree = ast.parse(path.read_text("utf-8"))
        inner = {
            id(part)
            for node in ast.walk(tree)
            if isinstance(node, ast.JoinedStr)
            for part in node.values
        }
        for node in ast.walk(tree):
            text = (
                "".join(
                    part.value if isinstance(part, ast.Constant) else "X" for part in node.values
                )
                if isinstance(node, ast.JoinedStr)
                else getattr(node, "value", "")
                if isinstance(node, ast.Constant) and id(node) not in inner
                else ""
            )
            for name, rest in (
                re.findall(r"\bsyntagma (?!help|import)([a-z]+)\b([^`\n;)|]*)", text)
                if isinstance(text, str)
                else ()
            ):
                if name not in COMMANDS:
                    wrong.append((path.name, node.lineno, name))
                    continue
                rest = re.split(r",? or (?:sheet|syntagma)", rest)[0]
                parser, _, _ = parser_of(name, rest.split()[:1])
                known = {option for action in parser._actions for option in action.option_strings}
                wrong += [
                    (path.name, node.lineno, name, option)
                    for option in re.findall(r"(?<![\w-])--[a-z][a-z-]*", rest)
                    if option not in known
                ]
    assert wrong == []


@pytest.fixture
def folder(tmp_path):
    """A folder with what the pages of tasks suppose: the demo film, a sheet's records, a local service."""
    from syntagma.service.standin import Standin
    from syntagma.storage.folders import SHIPPED

    good(tmp_path, "start", ".")
    for path in (SHIPPED / "demo" / "workspace").rglob("*"):
        if path.is_file() and path.suffix != ".sqlite":
            target = tmp_path / path.relative_to(SHIPPED / "demo" / "workspace")
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(path.read_bytes())
    (tmp_path / "script.fountain").write_text(
        "INT. TICKET OFFICE - NIGHT\n\nA PILOT waves.\n\nPILOT\nLast boat.\n"
    )
    good(
        tmp_path,
        "expand",
        "poster",
        "subject=car ferry",
        "--vary",
        "light=candlelight,full moonlight",
        "--model",
        "curlew-still",
        "--out",
        "crossings.jsonl",
    )
    server = Standin(0, price=lambda model, body: 4.0, takes=0.05)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield tmp_path, server.address
    server.shutdown()
    server.server_close()


@pytest.mark.long
@pytest.mark.parametrize("task", TASKS, ids=lambda page: page.stem)
def test_a_task_works_as_it_is_written(task, folder):
    """Each call of the page, in order, in a workspace with the demo data; what asks a person or serves a page is called with --help."""
    here, address = folder
    done = 0
    for line in re.findall(r"^ {7}((?:syntagma|cd) .*)", task.read_text("utf-8"), re.M):
        words = shlex.split(re.split(r" {3,}", line)[0])
        if words[0] == "cd":
            here = here / words[1]
            continue
        words = words[1:]
        if words[0] in ("send", "collect"):
            words += ["--at", address, *(["--yes"] if words[0] == "send" else [])]
        if words[0] == "judge" and not {"--page", "--import"} & set(words):
            words = ["judge", "--help"]
        if words[:2] == ["sheet", "import"]:  # the client's copy
            shutil.copy(here / words[3].replace("-client", ""), here / words[3])
        if (words[0] == "judge" and "--import" in words) or (
            words[0] == "effects" and not words[1].endswith(".jsonl")
        ):
            continue  # they wait for ratings of people
        if words[0] == "bundle":
            words += ["--use", "mine"]
            good(here, "library", "rate", "1", "5")
        got = run(here, *words)
        assert got.returncode == 0, (words, got.stdout[-500:], got.stderr)
        done += 1
    assert done >= 4


def test_help_shows_every_page_of_tasks_and_reference(tmp_path):
    names = [page.stem for page in PAGES if page.parent.name in ("tasks", "reference")]
    listed = good(tmp_path, "help")
    assert (
        len(names) > 20 and all(name in listed for name in names) and not set(names) & set(COMMANDS)
    )
    for name in names:
        assert good(tmp_path, "help", name) == next(
            page
            for page in PAGES
            if page.stem == name and page.parent.name in ("tasks", "reference")
        ).read_text("utf-8")
    included = tomllib.loads((DOCS.parent / "pyproject.toml").read_text())["tool"]["hatch"][
        "build"
    ]["targets"]["wheel"]["force-include"]
    assert included == {
        f"docs/{room}": f"syntagma/docs/{room}" for room in ("tasks", "reference")
    }  # so that an installed program has them
    pointed = {
        name
        for path in FILES
        for name in re.findall(r"syntagma help ([a-z-]+)", path.read_text("utf-8"))
    }
    assert pointed - {"words", "json"} <= {*names, *COMMANDS} and pointed & set(names)
