"""How well formulas are learned back: python benchmarks/learning.py makes eight examples of each of
ten formulas, learns from them alone, and counts: fixed words found, slots cut where they were,
examples given back exactly.
"""

import re
import sys
from itertools import groupby
from pathlib import Path
from typing import NamedTuple

from benchmarks.picks import picks
from benchmarks.reading import reader
from syntagma.app.existing.learning import learned
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.realising import TextPiece

FORMULAS = (
    "photograph",
    "poster",
    "portrait",
    "film-shot",
    "landscape",
    "product-still",
    "street-photograph",
    "food-still",
    "sticker",
    "editorial",
)
EXAMPLES = 8


class Score(NamedTuple):
    """Of one formula: fixed words kept of those that all examples share, slots cut where they were,
    examples given back.
    """

    fixed: int
    of_fixed: int
    slots: int
    of_slots: int
    exact: int
    formula: str


def score(workspace: Workspace, name: str, with_reader) -> Score:
    """Learn one formula back."""
    made = [
        (prompt, writer.pieces(fills))
        for writer, _, fills, prompt in picks(workspace, name, EXAMPLES)
    ]
    found = learned(workspace, [prompt.text for prompt, _ in made], "again", reader=with_reader)
    fixed = _shared_fixed([pieces for _, pieces in made])
    words = re.sub(r"\[[^]]*\]", " ", found.learned.formula.rpartition("+++")[2]).lower()
    kept = sum(phrase.lower().strip(" .,") in words for phrase in fixed)
    hits: dict[str, list[bool]] = {}
    texts: dict[str, set[str]] = {}
    for (prompt, pieces), match in zip(made, found.matches, strict=True):
        cut = [prompt.text[a:b].lower() for a, b in match.spans.values()] if match else []
        for slot, text in _fills(pieces):
            hits.setdefault(slot, []).append(any(_same(text, one) for one in cut))
            texts.setdefault(slot, set()).add(text)
    hits = {
        slot: each for slot, each in hits.items() if len(texts[slot]) > 1
    }  # what is the same in all is fixed
    good = sum(sum(each) * 2 > len(each) for each in hits.values())
    return Score(kept, len(fixed), good, len(hits), found.exact, found.learned.formula)


def _fills(pieces: list[TextPiece]) -> list[tuple[str, str]]:
    """What is in each slot, its article with it; a list as one."""
    runs = [
        (slot, "".join(piece.text for piece in group))
        for slot, group in groupby(pieces, key=lambda p: p.slot)
    ]
    fills: list[tuple[str, str]] = []
    for k, (slot, text) in enumerate(runs):
        listed = (
            k > 1
            and slot
            and runs[k - 2][0] == slot
            and runs[k - 1][1].strip() in ("and", ",", ", and")
        )
        if listed:  # one fill of several terms
            fills[-1] = (slot, fills[-1][1] + runs[k - 1][1] + text)
        elif slot:
            fills.append((slot, text))
    return fills


def _same(one: str, other: str) -> bool:
    """Are these the same words, articles, a leading preposition and the case apart?"""
    bare = [
        re.sub(r"^(?:(?:an?|the|in|on|at|with|by|of) )+", "", text.lower().strip(" .,;"))
        for text in (one, other)
    ]
    return bare[0] == bare[1]


def _shared_fixed(prompts: list[list[TextPiece]]) -> list[str]:
    """The fixed phrases that every example has."""
    sets = [
        {
            piece.text.strip(" .,;")
            for piece in pieces
            if not piece.slot and len(piece.text.split()) > 1
        }
        for pieces in prompts
    ]
    return sorted(set.intersection(*sets))


def main() -> None:
    """Count and print."""
    workspace, with_reader = Workspace.load(Path("/")), reader()
    names = sys.argv[1:] or FORMULAS
    print(f"{'formula':20}{'fixed words':>14}{'slots cut':>14}{'given back':>14}")
    every = []
    for name in names:
        one = score(workspace, name, with_reader)
        every.append(one)
        print(
            f"{name:20}{f'{one.fixed} of {one.of_fixed}':>14}{f'{one.slots} of {one.of_slots}':>14}{f'{one.exact} of {EXAMPLES}':>14}"  # noqa: E501
        )
        if len(names) == 1:
            print(one.formula)
    slots, of_slots = sum(s.slots for s in every), sum(s.of_slots for s in every)
    print(
        f"fixed words {sum(s.fixed for s in every)} of {sum(s.of_fixed for s in every)}; slots"
        f" {slots} of {of_slots} ({slots / of_slots:.0%})"
    )


if __name__ == "__main__":
    main()
