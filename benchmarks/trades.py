"""How many of the words that ten trades type are known, as a term or another name of one: python -m
benchmarks.trades [--show].
"""

import argparse
from pathlib import Path

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.vocabulary.terms import normal

LISTS = Path(__file__).with_name("trades.txt")


def lists() -> dict[str, list[str]]:
    """The words of each trade."""
    lines = [
        line
        for line in LISTS.read_text("utf-8").splitlines()
        if ": " in line and not line.startswith("#")
    ]
    return {
        trade: [word.strip() for word in words.split(";")]
        for trade, words in (line.split(": ", 1) for line in lines)
    }


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--show", action="store_true", help="the words that are not known")
    show = parser.parse_args().show
    known = {
        normal(name)
        for facet in Workspace.load(Path("/")).vocabulary
        for term in facet
        for name in (term.term, *term.aka)
    }
    total = right = 0
    for trade, words in lists().items():
        unknown = [
            word
            for word in words
            if not {normal(word), normal(word).removesuffix("s"), f"{normal(word)}s"} & known
        ]
        total, right = total + len(words), right + len(words) - len(unknown)
        print(
            f"{len(words) - len(unknown):3} of {len(words):3}  {trade}"
            + (f": {'; '.join(unknown)}" if show and unknown else "")
        )
    print(f"{right} of {total} ({100 * right / total:.1f} %)")


if __name__ == "__main__":
    main()
