"""Does a test fail when the code is broken? A seeded script breaks it at one place for each heading of docs/, one after the other.

    python -m tests.mutations [SEED] [PAGE …]

It works on a copy of the tree, runs the tests that belong to the page, then, where none of them fails, all of them, and names what no test
saw; of the pages that are named, or of all. What is broken: a comparison turned round, `and` for `or`, a `not` left out, a number one higher, plus for minus.
"""

import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
# page: (where the code lies that it speaks of, the tests that are run first)
PAGES = {
    "batches": ("core/sheets.py app/batches/*.py storage/ledger.py", "commands/test_batches.py test_formats.py"),
    "campaigns": ("core/campaign.py app/handing_on/campaign*.py", "core/test_campaign.py commands/test_handing_on.py"),
    "families": ("core/designs/*.py app/families/*.py", "core/test_designs.py core/test_design_rows.py commands/test_expand.py"),
    "film": ("core/film/*.py app/film/*.py", "core/test_film.py core/test_cutting.py commands/test_film.py"),
    "formulas": ("core/formula/*.py core/drafting/draft.py core/drafting/fills.py core/realising/prose.py core/english/*.py", "core"),
    "handing-on": (
        "core/form_table.py core/asking.py app/handing_on/*.py",
        "core/test_forms.py core/test_asking.py test_handing_on_parts.py commands/test_handing_on.py",
    ),
    "limits": ("core/fitting.py core/checking/*.py core/models/prices.py", "core commands/test_shelves.py"),
    "models": ("core/models/*.py core/realising/*.py core/drafting/surroundings.py", "core commands/test_model_commands.py"),
    "looks": ("core/formula/looks.py app/workspace/own_files.py", "core/test_looks.py commands/test_making.py"),
    "picking": ("core/picking/*.py core/vocabulary/affinity.py app/picking.py", "core/test_picking.py commands/test_picks.py"),
    "promises": ("storage/*.py formats/*.py cli/harmless.py", "test_formats.py commands/test_promises.py commands/test_at_once.py"),
    "reading": ("core/reading/*.py app/reading.py app/prompt_files.py app/existing/*.py", "core commands/test_reading_commands.py"),
    "records": ("app/composing/records.py formats/prompts_out.py", "test_formats.py commands/test_expand.py commands/test_compose.py"),
    "results": (
        "core/judging/*.py core/seeing/*.py app/results/*.py storage/library.py",
        "core/test_judging.py core/test_seeing.py core/test_metadata.py commands/test_results.py commands/test_pages.py",
    ),
    "services": ("service/*.py app/batches/services.py", "test_stand_ins.py commands/test_batches.py"),
    "themes": ("core/picking/themes.py", "core/test_picking.py commands/test_making.py commands/test_picks.py"),
    "world": ("core/vocabulary/world.py core/designs/axes.py core/picking/scene.py", "core/test_world.py core/test_picking.py commands/test_picks.py"),
    "vocabulary": ("core/vocabulary/*.py formats/table_in.py storage/folders.py app/workspace/own_terms.py", "core/test_vocabulary.py commands/test_term.py"),
}  # fmt: skip
TURNED = {
    ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip


def headings(pages: list[str]) -> list[tuple[str, str]]:
    """(page, heading) of every heading of these pages."""
    found = []
    for page in pages:
        lines = (ROOT / "docs" / "reference" / f"{page}.md").read_text("utf-8").splitlines()
        found += [(page, line[3:]) for line in lines if line.startswith("## ")]
    return found


def places(tree: ast.Module) -> list[ast.AST]:
    """What can be broken within functions."""
    inside = [
        node
        for function in ast.walk(tree)
        if isinstance(function, ast.FunctionDef)
        for one in function.body
        for node in ast.walk(one)
    ]
    return [node for node in inside if _breakable(node)]


def _breakable(node: ast.AST) -> bool:
    if isinstance(node, ast.Compare):
        return type(node.ops[0]) in TURNED
    if isinstance(node, ast.Constant):
        return type(node.value) is int
    return (
        isinstance(node, ast.BoolOp)
        or (isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not))
        or (isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add | ast.Sub))
    )


def broken(node: ast.AST) -> ast.AST:
    """The node with something else in its place."""
    if isinstance(node, ast.Compare):
        return ast.Compare(
            node.left, [TURNED[type(node.ops[0])](), *node.ops[1:]], node.comparators
        )
    if isinstance(node, ast.Constant):
        return ast.Constant(node.value + 1)
    if isinstance(node, ast.BoolOp):
        return ast.BoolOp(ast.And() if isinstance(node.op, ast.Or) else ast.Or(), node.values)
    if isinstance(node, ast.UnaryOp):
        return node.operand
    return ast.BinOp(
        node.left, ast.Sub() if isinstance(node.op, ast.Add) else ast.Add(), node.right
    )


def mutants(seed: int, pages: list[str]) -> Iterator[tuple[str, str, Path, int, str, str, str]]:
    """(page, heading, file, line, before, after, the whole text) for every heading."""
    rnd = random.Random(seed)
    for page, heading in headings(pages):
        files = sorted(
            path for glob in PAGES[page][0].split() for path in (ROOT / "src/syntagma").glob(glob)
        )
        while True:
            path = rnd.choice(files)
            text = path.read_text("utf-8")
            if found := places(ast.parse(text)):
                break
        node = rnd.choice(found)
        lines = text.encode().splitlines(keepends=True)
        start = sum(map(len, lines[: node.lineno - 1])) + node.col_offset
        stop = sum(map(len, lines[: node.end_lineno - 1])) + node.end_col_offset
        whole = text.encode()
        before, after = whole[start:stop].decode(), f"({ast.unparse(broken(node))})"
        yield (
            page,
            heading,
            path,
            node.lineno,
            before,
            after,
            (whole[:start] + after.encode() + whole[stop:]).decode(),
        )


def failing(copy: Path, tests: list[str]) -> str:
    """The test that fails, or "time" where they don't end; "" where all pass."""
    command = [sys.executable, "-m", "pytest", "-q", "-x", "--no-header", *tests]
    try:
        done = subprocess.run(
            command,
            cwd=copy,
            capture_output=True,
            text=True,
            timeout=400,
            env={**os.environ, "PYTHONPATH": str(copy / "src")},
        )
    except subprocess.TimeoutExpired:
        return "time"
    if not done.returncode:
        return ""
    found = re.search(r"^(?:FAILED|ERROR) (\S+?)(?:\[| - |$)", done.stdout, re.M)
    return found[1] if found else "collection"


def sees(copy: Path, place: Path, broken_: str, whole: str, tests: list[str]) -> str:
    """The test that fails while the code is broken, and passes when it is whole."""
    place.write_text(broken_, "utf-8")
    name = failing(copy, tests)
    place.write_text(whole, "utf-8")
    return "" if "::" in name and failing(copy, [name]) else name


def main() -> None:
    seed, *pages = sys.argv[1:] or ["1"]
    seen = unseen = 0
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder, "tree")
        shutil.copytree(
            ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "build", "__pycache__")
        )
        for page, heading, path, line, before, after, text in mutants(
            int(seed), pages or list(PAGES)
        ):
            place, whole = copy / path.relative_to(ROOT), path.read_text("utf-8")
            own = [f"tests/{one}" for one in PAGES[page][1].split()]
            by = sees(copy, place, text, whole, own) or sees(copy, place, text, whole, ["tests"])
            seen, unseen = seen + bool(by), unseen + (not by)
            change = f"{' '.join(before.split())[:60]}  →  {' '.join(after.split())[:60]}"
            print(
                f"{'seen' if by else 'NOT SEEN'}  {page}: {heading}  {path.name}:{line}  {change}  {by}",
                flush=True,
            )
    print(f"{seen} of {seen + unseen} were seen by a test")


if __name__ == "__main__":
    main()
