"""The arrows of the house: what may import what, how long a file may be, what stays out of the core."""

import ast
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src" / "syntagma"
FILES = sorted(SOURCE.rglob("*.py"))
ALLOWED = {
    "core": {"core"},
    "formats": {"core", "formats"},
    "storage": {"core", "storage"},
    "app": {"core", "formats", "storage", "app"},
    "cli": {"core", "formats", "storage", "app", "cli"},
}
NUMERIC = {"cover.py", "spread.py", "mixed.py", "algebra.py", "search.py", "fields.py"}  # designs, imported where they are used
HEAVY = {"rich", "rapidfuzz", "orjson", "platformdirs", "numpy", "pandas", "matplotlib", "scipy", "openpyxl"}


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
    heavy = HEAVY - {"numpy"} if path.name in NUMERIC else HEAVY
    assert not heavy & {name.split(".")[0] for name in imports(path, top_only=True)}, "imported at start-up"
    if path.name not in NUMERIC:
        assert not {f"{name[:-3]}" for name in NUMERIC} & {
            name.split(".")[-1] for name in imports(path, top_only=True) if "designs" in name
        }
    assert len(path.read_text("utf-8").splitlines()) <= 600


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
