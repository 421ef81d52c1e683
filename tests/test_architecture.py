"""The house as docs/architecture.md draws it: what may import what, no circle, rooms that one can look over, what stays out of the core."""

import ast
import re
import subprocess
import sys
from pathlib import Path

import pytest

from syntagma import cli
from syntagma.core.diagnostics import ways

SOURCE = Path(__file__).parents[1] / "src" / "syntagma"
FILES = sorted(SOURCE.rglob("*.py"))
ALLOWED = {
    "core": {"core"},
    "formats": {"core", "formats"},
    "storage": {"core", "storage"},
    "service": {"core", "storage", "service"},
    "app": {"core", "formats", "storage", "service", "app"},
    "cli": {"core", "formats", "storage", "service", "app", "cli"},
}
ROOMS = "diagnostics notation english vocabulary models formula drafting realising fitting checking writing picking designs reading film batches judging seeing forms asking campaign".split()  # each knows those before
NUMERIC = {"cover.py", "spread.py", "mixed.py", "algebra.py", "search.py", "fields.py"}  # designs, imported where they are used
ROOMS_OF_NUMBERS = {"judging", "seeing"}  # NumPy at the top: only app/results and cli/results come by them
HEAVY = {"rich", "rapidfuzz", "platformdirs", "numpy", "pandas", "matplotlib", "scipy", "openpyxl"}


def imports(path: Path, top_only: bool = False):
    tree = ast.parse(path.read_text("utf-8"))
    nodes = tree.body if top_only else ast.walk(tree)
    for node in nodes:
        if isinstance(node, ast.Import):
            yield from (name.name for name in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_arrows(path):
    room = path.relative_to(SOURCE).parts[0]
    for name in imports(path):
        parts = name.split(".")
        if parts[0] == "syntagma" and len(parts) > 1 and room in ALLOWED:
            assert parts[1] in ALLOWED[room], f"{room} imports {name}"
    numeric = path.name in NUMERIC or (room == "core" and path.parent.name in ROOMS_OF_NUMBERS)
    heavy = HEAVY - {"numpy"} if numeric or (room == "app" and path.parent.name == "results") else HEAVY
    assert not heavy & {name.split(".")[0] for name in imports(path, top_only=True)}, "imported at start-up"
    if path.name not in NUMERIC:
        assert not {f"{name[:-3]}" for name in NUMERIC} & {
            name.split(".")[-1] for name in imports(path, top_only=True) if "designs" in name
        }
    assert len(path.read_text("utf-8").splitlines()) <= 600


@pytest.mark.parametrize("path", [p for p in FILES if p.relative_to(SOURCE).parts[0] == "core" and p.parent.name != "core"], ids=lambda p: p.stem)
def test_a_room_of_core_knows_only_those_before_it(path):
    own = ROOMS.index(path.relative_to(SOURCE).parts[1])
    for name in needed(path):
        if name.startswith("syntagma.core."):
            assert ROOMS.index(name.split(".")[2]) <= own, f"{path.stem} imports {name}"


def needed(path: Path) -> set[str]:
    """The modules that a module imports, wherever it does: at its top, within a function, for types only."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom):
            for name in node.names:
                whole = f"{node.module}.{name.name}"
                found.add(whole if whole in MODULES else node.module)
        elif isinstance(node, ast.Import):
            found |= {name.name for name in node.names}
    return found


def module_of(path: Path) -> str:
    return ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__")


MODULES = {module_of(path): path for path in FILES}


def circle(arrows: dict[str, set[str]]) -> list[str]:
    """Modules that import each other round in a ring; nothing where there is no ring."""
    done: set[str] = set()

    def walk(name: str, above: list[str]) -> list[str]:
        if name in above:
            return [*above[above.index(name) :], name]
        if name in done:
            return []
        for other in sorted(arrows.get(name, ())):
            if ring := walk(other, [*above, name]):
                return ring
        done.add(name)
        return []

    return next((ring for name in arrows if (ring := walk(name, []))), [])


def test_no_circle():
    arrows = {name: {other for other in needed(path) if other in MODULES and other != name} for name, path in MODULES.items()}
    assert circle(arrows) == []


def test_the_measure_finds_a_circle():
    assert circle({"a": {"b"}, "b": {"c", "d"}, "c": set(), "d": {"a"}}) == ["a", "b", "d", "a"]


def test_a_room_can_be_looked_over():
    rooms = {path.parent for path in FILES}
    for room in rooms:
        flat = [path for path in room.glob("*.py") if path.name != "__init__.py"]
        assert len(flat) <= 12, f"{room.relative_to(SOURCE)} holds {len(flat)}"


# Records whose attributes are the columns or keys of a file that people write: a vocabulary, a profile, a plan, a reading, a report.
FILE_FORMATS = {"Term", "Head", "SlotRule", "Profile", "Parameter", "_Plan", "PromptPiece", "Report", "SheetRow", "Answer", "Service", "Design", "Kept", "Business", "Offer"}


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_no_class_knows_everything(path):
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ClassDef) and node.name not in FILE_FORMATS:
            fields = {one.target.id for one in node.body if isinstance(one, ast.AnnAssign) and isinstance(one.target, ast.Name)}
            fields |= {
                one.attr for one in ast.walk(node)
                if isinstance(one, ast.Attribute) and isinstance(one.ctx, ast.Store) and isinstance(one.value, ast.Name) and one.value.id == "self"
            }  # fmt: skip
            assert len(fields) <= 12, f"{node.name} has {len(fields)}"


@pytest.mark.parametrize("path", [p for p in FILES if "core" in p.parts], ids=lambda p: p.stem)
def test_core_computes_only(path):
    names = {
        n.func.id for n in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)
    }
    assert not names & {"print", "open", "input"}
    assert not {"argparse", "sys", "os", "pathlib", "socket", "time", "datetime"} & set(imports(path))


@pytest.mark.parametrize("path", FILES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_a_first_line_says_what_the_module_is_for(path):
    assert ast.get_docstring(ast.parse(path.read_text("utf-8")))


def test_no_model_is_named_in_the_code():
    names = [p.stem for p in (SOURCE / "data" / "models").glob("*.toml")]
    for path in FILES:
        text = path.read_text("utf-8")
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.Compare):
                assert not any(name in ast.unparse(node) for name in names), path


def said_in(path: Path) -> list[str]:
    """The texts in a module's code, those that explain it apart."""
    tree = ast.parse(path.read_text("utf-8"))
    explained = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    return [node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in explained]


@pytest.mark.parametrize("path", [p for p in FILES if p.relative_to(SOURCE).parts[0] == "core"], ids=lambda p: p.stem)
def test_the_core_knows_no_command(path):
    assert not [said for said in said_in(path) if re.search(r"`syntagma |(?<![\w-])--[a-z]{2,}\b", said)]


def test_the_command_line_says_how_whatever_the_core_asks_for():
    assert cli.WAYS.keys() == ways.NAMES
    told = subprocess.run([sys.executable, "-c", NEUTRAL], capture_output=True, text=True, check=True).stdout.splitlines()
    assert told == ["take a facet that there is", "write light=1.5", "`syntagma facets` lists them", "write --stress light=1.5", "KeyError"]


NEUTRAL = """
from syntagma.core.diagnostics import ways
from syntagma import cli
said = lambda: print(ways.way("facets"), "write " + ways.way("stress", name="light", weight="1.5"), sep="\\n")
said()
ways.use(cli.WAYS)
said()
try:
    ways.use({"facet": "x"})
except KeyError:
    print("KeyError")
"""
