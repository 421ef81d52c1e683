"""Sixty prompts as people post them, each with what has to be kept of it: python -m
benchmarks.found [held] [--show] [FORMULA].

The answers (benchmarks/own_words/found.jsonl) were written before any of them was run; with held
the thirty are taken that were not looked at while this was built. Four things are done with each:
shortened to 30 words, rewritten in prose, in tags, and into a formula. What is right keeps
everything that matters, whole (of what is shortened, what is vital; settings and weights of another
notation stay there, and do not count), has its subject among the first fourteen words (a lead of
the kind, the shot or the light may come before), and nothing of another notation; what is shortened
is no longer than asked.
"""

import json
import re
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from syntagma.app.asked import Ask
from syntagma.app.existing.rewriting import RewriteRequest, rewrite
from syntagma.app.existing.shortening import Shortener, target
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.editing.settings import bare
from syntagma.core.models.measure import words as count
from syntagma.core.writing.prompt import PLAINLY

FOUND = Path(__file__).parent / "own_words" / "found.jsonl"
FRONT, SHORT = 14, 30
Gold = dict[str, Any]


def plain(text: str) -> str:
    """A text as it is compared: small letters, no articles, nothing between words but blanks."""
    said = re.sub(r"[^\w#/.°'-]+", " ", text.lower())
    return (
        " "
        + " ".join(
            word.strip(".")
            for word in said.split()
            if word.strip(".") not in ("a", "an", "the", "")
        )
        + " "
    )


def faults(text: str, gold: Gold, short: bool) -> list[str]:
    """What is wrong with what came of a prompt."""
    said = plain(text)
    found = [
        f"lost: {words}"
        for words in gold["vital" if short else "keep"]
        if plain(words).rstrip() not in said
    ]
    words = plain(gold["subject"]).strip()
    at = said.find(f" {words}")
    if at < 0 or len(said[:at].split()) > FRONT:
        found.append(f"not in front: {gold['subject']}")
    if short:
        return [*found, *([f"{long} words"] if (long := count(bare(text).text)) > SHORT else [])]
    found += [f"left in: {sign}" for sign in gold["gone"] if sign in re.sub(r'"[^"]*"', "", text)]
    return found


def ways(workspace: Workspace, formula: str) -> dict[str, Callable[[str], str]]:
    """What is done with a prompt, by name."""
    shortener, fits = Shortener(workspace), target(workspace.model(None), f"{SHORT}w")

    def shortened(text: str) -> str:
        _, found = shortener.shortened(text)
        return next((step.text for step in found.steps if fits(step.text)), found.steps[-1].text)

    def rewritten(model: str) -> Callable[[str], str]:
        return lambda text: rewrite(workspace, text, Ask("", model), RewriteRequest()).text

    return {
        "shortened": shortened,
        "in prose": rewritten("prose"),
        "in tags": rewritten("tags"),
        f"into {formula}": (
            lambda text: (
                rewrite(
                    workspace, text, Ask(formula, None, manner=PLAINLY), RewriteRequest(formula)
                ).text
            )
        ),
    }


def main(words: list[str]) -> None:
    formula = next(
        (word for word in words if not word.startswith("-") and word != "held"), "picture"
    )
    workspace = Workspace.load()
    golds = [json.loads(line) for line in FOUND.read_text("utf-8").splitlines()]
    golds = golds[30:] if "held" in words else golds[:30]
    for name, way in ways(workspace, formula).items():
        wrong = []
        for gold in golds:
            try:
                text = way(gold["prompt"])
            except Exception as trouble:  # whatever is said, nothing came of it
                text = f"({trouble})"
            if found := faults(text, gold, name == "shortened"):
                wrong.append((gold["prompt"], text, found))
        print(f"{name}: {len(golds) - len(wrong)} of {len(golds)} right")
        for prompt, text, found in wrong if "--show" in words else ():
            print(f"\n  {prompt}\n  → {text}\n  {'; '.join(found)}")


if __name__ == "__main__":
    main(sys.argv[1:])
