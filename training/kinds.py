"""Trains what tells the kind of a picture, from the marked prompts and the wishes that say theirs:
python -m training.kinds [--without HAND …].
"""

import argparse
import json
from pathlib import Path

from syntagma.app.reading import KINDS_FILE, cleaner, kind_words, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.editing.leading import KINDS, features
from syntagma.core.reading.weights import Scorer
from training.marked_prompts import HERE
from training.maxent import fit

WISHES = HERE.parents[1] / "benchmarks" / "own_words"
FILE = HERE.parent / "kinds.txt"
WORD = 0.3  # what a word by itself counts beside a prompt
Row = tuple[list[str], str]


def rows_of(workspace: Workspace) -> dict[str, list[Row]]:
    """By hand: the features of each prompt that says its kind, and the kind."""
    reader = reader_of(workspace)
    found: dict[str, list[Row]] = {}
    for path in sorted(HERE.glob("*.jsonl")):
        records = [
            record
            for line in path.read_text("utf-8").splitlines()
            if "kind" in (record := json.loads(line))
        ]
        if records:
            found[path.stem] = [
                (
                    sorted(set(features(one["text"], reader.read(one["text"]), kind_words()))),
                    one["kind"],
                )
                for one in records
            ]
    lines = [
        line.split(": ", 1)
        for line in FILE.read_text("utf-8").splitlines()
        if not line.startswith("#")
    ]
    asked = {FILE.stem: [(text, kind) for kind, text in lines]}
    for path in sorted(WISHES.glob("*.jsonl")):
        wishes = [json.loads(line) for line in path.read_text("utf-8").splitlines()]
        asked[path.stem] = [(one["wish"], one["kind"]) for one in wishes if "kind" in one]
    for hand, wishes in asked.items():
        if wishes:
            found[hand] = [
                (
                    sorted(
                        set(features(wish, reader.read(cleaner().clean(wish).text), kind_words()))
                    ),
                    kind,
                )
                for wish, kind in wishes
            ]
    return found


def words_of(workspace: Workspace) -> list[Row]:
    """Words that say a kind by themselves, as rows; what holds of every text is not said of
    them.
    """
    reader, known = reader_of(workspace), kind_words()
    return [
        (sorted(set(features(text, reader.read(text), known)) - {"1"}), kind)
        for words, kind in known.kinds.items()
        for text in (" ".join(words),)
    ]


def trained(rows: list[Row], words: list[Row], prior: float) -> Scorer:
    """The weights of features for kinds. Every kind has the same mass, however many prompts are of
    it.
    """
    mass = {
        kind: len(rows) / len(KINDS) / max(1, sum(own == kind for _, own in rows)) for kind in KINDS
    }
    shares = [{kind: mass[kind]} for _, kind in rows] + [{kind: WORD} for _, kind in words]
    return Scorer.of(KINDS, fit([row for row, _ in [*rows, *words]], shares, KINDS, 1, prior, 200))


def best(row: list[str], scorer: Scorer) -> str:
    """The kind that has most for it."""
    steps = scorer.steps(scorer.packed(row))
    return scorer.labels[max(range(len(steps)), key=steps.__getitem__)]


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m training.kinds", description=__doc__)
    parser.add_argument(
        "--without",
        nargs="*",
        default=[],
        metavar="HAND",
        help="hands left out, one at a time: how often is their kind found?",
    )
    parser.add_argument("--prior", type=float, default=1.0)
    parser.add_argument("--out", type=Path, default=KINDS_FILE)
    asked = parser.parse_args()
    workspace = Workspace.load(Path("/"))
    hands = rows_of(workspace)
    words = words_of(workspace)
    for out in asked.without:
        scorer = trained(
            [row for hand, rows in hands.items() if hand != out for row in rows], words, asked.prior
        )
        right = sum(best(row, scorer) == kind for row, kind in hands[out])
        print(f"{out}: {right} of {len(hands[out])} kinds right")
    if not asked.without:
        scorer = trained([row for rows in hands.values() for row in rows], words, asked.prior)
        asked.out.write_bytes(scorer.to_bytes())
        print(
            f"{asked.out.name}: {asked.out.stat().st_size:,} bytes from"
            f" {sum(map(len, hands.values()))} prompts"
        )


if __name__ == "__main__":
    main()
