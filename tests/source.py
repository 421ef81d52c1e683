"""The program's own source as the tests look at it: every module read and parsed once, and what they ask of it kept small."""

import ast
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import NamedTuple

SOURCE = Path(__file__).parents[1] / "src" / "syntagma"
FILES = sorted(SOURCE.rglob("*.py"))
CORE = [path for path in FILES if path.relative_to(SOURCE).parts[0] == "core"]


def module_of(path: Path) -> str:
    return ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__")


MODULES = {module_of(path): path for path in FILES}


class Facts(NamedTuple):
    """What is in a module."""

    lines: int
    explained: bool  # its first line says what it is for
    imports: frozenset[str]  # modules, wherever they are imported
    at_start: frozenset[str]  # those at its top
    late: frozenset[str]  # modules of its own that it imports within functions
    needed: frozenset[
        str
    ]  # the same as `imports`, and a module that is imported by name out of its package is meant itself
    fields: dict[str, int]  # class → how many attributes it has
    calls: frozenset[str]  # functions called by their bare name
    compared: tuple[str, ...]
    said: tuple[str, ...]  # texts, those that explain apart
    findings: tuple[
        tuple[int, tuple[str, ...]], ...
    ]  # where a finding is made, and the codes it is given


@cache
def facts(path: Path) -> Facts:
    text = path.read_text("utf-8")
    tree = ast.parse(text)
    nodes = list(ast.walk(tree))
    explaining = {id(node.value) for node in nodes if isinstance(node, ast.Expr)}
    calls = [
        node for node in nodes if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
    ]
    return Facts(
        len(text.splitlines()),
        bool(ast.get_docstring(tree)),
        frozenset(_imports(nodes)),
        frozenset(_imports(tree.body)),
        frozenset(
            name.removeprefix("syntagma.")
            for name in _imports(_within_functions(nodes))
            if name.startswith("syntagma")
        ),
        frozenset(_needed(nodes)),
        {node.name: len(_fields(node)) for node in nodes if isinstance(node, ast.ClassDef)},
        frozenset(node.func.id for node in calls),
        tuple(ast.unparse(node) for node in nodes if isinstance(node, ast.Compare)),
        tuple(
            n.value
            for n in nodes
            if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in explaining
        ),
        tuple(
            (node.lineno, tuple(word.value.value for word in node.keywords if word.arg == "code"))
            for node in calls
            if node.func.id == "Finding"
        ),
    )


def _within_functions(nodes: list[ast.AST]) -> list[ast.AST]:
    return [
        inner for node in nodes if isinstance(node, ast.FunctionDef) for inner in ast.walk(node)
    ]


def _imports(nodes: list[ast.stmt]) -> Iterator[str]:
    for node in nodes:
        if isinstance(node, ast.Import):
            yield from (name.name for name in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module


def _needed(nodes: list[ast.AST]) -> Iterator[str]:
    for node in nodes:
        if isinstance(node, ast.ImportFrom):
            for name in node.names:
                whole = f"{node.module}.{name.name}"
                yield whole if whole in MODULES else node.module
        elif isinstance(node, ast.Import):
            yield from (name.name for name in node.names)


def _fields(node: ast.ClassDef) -> set[str]:
    own = {
        one.target.id
        for one in node.body
        if isinstance(one, ast.AnnAssign) and isinstance(one.target, ast.Name)
    }
    return own | {
        one.attr
        for one in ast.walk(node)
        if isinstance(one, ast.Attribute)
        and isinstance(one.ctx, ast.Store)
        and isinstance(one.value, ast.Name)
        and one.value.id == "self"
    }
