"""Messages of the program and sentences of the docs, drawn at random to be read aloud: python -m
benchmarks.read_aloud [SEED] [MESSAGES] [SENTENCES].

A message is a string of the source with four words or more that a person may see; what is filled in
stands as ◌.
"""

import ast
import random
import re
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
NO_PROSE = re.compile(
    r"^(select|insert|update|create|delete|alter)\b|\\[bwds]|^\s*\[|[\[\]{}<>|=]{3}", re.I
)
SMALL = frozenset(
    "the a an is are was has have of to for with not no in it by that and or can't don't as from on"
    " at your you this its".split()
)


def messages() -> list[tuple[str, str]]:
    """(Where, message) of all of them."""
    found = []
    for path in sorted((ROOT / "src/syntagma").rglob("*.py")):
        if "/core/english/" in str(path) or path.name in ("features.py", "weights.py", "words.py"):
            continue
        tree = ast.parse(path.read_text("utf-8"))
        docs = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
            and node.body
            and isinstance(node.body[0], ast.Expr)
        }
        inner = {
            id(part)
            for node in ast.walk(tree)
            if isinstance(node, ast.JoinedStr)
            for part in ast.walk(node)
            if part is not node
        }
        for node in ast.walk(tree):
            if id(node) in docs or id(node) in inner:
                continue
            if isinstance(node, ast.JoinedStr):
                text = "".join(
                    str(part.value) if isinstance(part, ast.Constant) else "◌"
                    for part in node.values
                )
            elif isinstance(node, ast.Constant) and isinstance(node.value, str):
                text = node.value
            else:
                continue
            words = text.split()
            if (
                len(words) > 3
                and len(SMALL & {word.lower() for word in words}) > 1
                and len(SMALL & {word.lower() for word in words}) < len(words) * 0.7
                and "\n" not in text.strip()
                and not NO_PROSE.search(text)
            ):
                found.append((f"{path.relative_to(ROOT / 'src/syntagma')}:{node.lineno}", text))
    return found


def sentences() -> list[tuple[str, str]]:
    """(Page, sentence) of the docs: paragraphs, lists and cells, without code."""
    found = []
    for path in (*sorted((ROOT / "docs").rglob("*.md")), ROOT / "README.md"):
        text = re.sub(r"```.*?```", "", path.read_text("utf-8"), flags=re.S)
        for line in text.splitlines():
            if line.startswith(("    ", "#", "|--", "| --", "+++")):
                continue
            for part in (
                line.strip("| ").split(" | ")
                if line.startswith("|")
                else re.split(r"(?<=[.!?])\s+(?=[A-Z*`“])", line.lstrip("-*0123456789. "))
            ):
                if len(part.split()) > 5:
                    found.append((str(path.relative_to(ROOT)), part))
    return found


def main() -> None:
    seed, many, some = (
        int(word) for word in [*sys.argv[1:], *"1 100 50".split()[len(sys.argv) - 1 :]]
    )
    chance = random.Random(seed)
    for name, every, count in (("messages", messages(), many), ("sentences", sentences(), some)):
        print(f"{count} of {len(every)} {name}")
        for where, text in chance.sample(every, min(count, len(every))):
            print(f"  {where}\n      {text}")


if __name__ == "__main__":
    main()
