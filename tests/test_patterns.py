"""Patterns of the program's own, each on long awkward texts: none may take time that grows with the square of a stranger's text."""

import ast
import re
from collections.abc import Iterator
from functools import cache
from importlib import import_module
from time import process_time

import pytest

from tests.source import FILES, module_of

SEARCHING = (
    "search",
    "sub",
    "findall",
    "finditer",
    "split",
)  # from every place of the text; match and fullmatch begin at one
UNITS = [
    " ", "\n", "\t", "a", "a ", "A", "Aa ", "1", "1 ", "-", "--", ".", ",", ", ", '"', "'", "(", "[", "{", "\\", ":", "|", "/", "=", "`", "*", "#", "_", "<", "‘",
    " and ", "of ", "the ", "a-", "a,", "a. ", "a, ", "camera ", "camera (", "in the ", "very ", "a\n", "1.", "1s ", "x=", "lit by ", "no ", "to ", "(a) ", "made of ",
]  # fmt: skip
LONG, SLOW, GROWS = (
    4000,
    0.08,
    2.6,
)  # characters; seconds; how much longer than for half the text (a square gives 4)


@cache
def searched() -> tuple[tuple[str, re.Pattern], ...]:
    return tuple(_searched())


def _searched() -> Iterator[tuple[str, re.Pattern]]:
    """(where, the pattern) of what is searched for: literals at the place, and names of the module that are compiled."""
    for path in FILES:
        tree = ast.parse(path.read_text("utf-8"))
        names = set()
        for node in ast.walk(tree):
            if not (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and isinstance(node.func.value, ast.Name)
            ):
                continue
            if node.func.attr not in SEARCHING:
                continue
            if (
                node.func.value.id == "re"
                and isinstance(node.args[0], ast.Constant)
                and isinstance(node.args[0].value, str)
            ):
                told = "".join(
                    ast.unparse(word.value) for word in node.keywords if word.arg == "flags"
                )
                yield (
                    f"{path.stem}:{node.lineno}",
                    re.compile(node.args[0].value, re.I if "re.I" in told else 0),
                )
            elif node.func.value.id.isupper():
                names.add(node.func.value.id)
        if names:
            module = import_module(module_of(path))
            for name in sorted(names):
                found = getattr(module, name, None)
                if isinstance(
                    getattr(found, "pattern", None), str
                ):  # compiled already, or when it is used
                    yield (
                        f"{path.stem}:{name}",
                        re.compile(found.pattern, found.flags & ~re.UNICODE),
                    )


def took(pattern: re.Pattern, text: str) -> float:
    began = process_time()
    for _ in pattern.finditer(text):
        pass
    return process_time() - began


def square(pattern: re.Pattern) -> str:
    """The text on which a pattern's time grows with the square of its length; "" where there is none."""
    for unit in UNITS:
        text = unit * LONG
        if took(pattern, text[: LONG // 4]) > SLOW:
            return unit
        whole = took(pattern, text[:LONG])
        if whole > SLOW and min(whole, took(pattern, text[:LONG])) > GROWS * took(
            pattern, text[: LONG // 2]
        ):
            return unit
    return ""


@pytest.mark.long
def test_a_pattern_is_as_quick_as_its_text_is_long():
    slow = [
        f"{where}: {pattern.pattern!r} on {unit!r} again and again"
        for where, pattern in searched()
        if (unit := square(pattern))
    ]
    assert not slow, "\n".join(slow)


def test_patterns_are_found():
    found = searched()
    assert len(found) > 150 and {where.partition(":")[2].isdigit() for where, _ in found} == {
        True,
        False,
    }


def test_the_measure_finds_one():
    assert square(re.compile(r"\s*[|:]"))
