"""Every term that ships, written into a picture, a poster and a clip: python -m benchmarks.terms
[FACET …] [--show N] [--draw N].

Finds what no prompt may say (a doubled article or preposition, "a" before a vowel, an empty place)
and prints N of the prompts, drawn at random, to be read.
"""

import argparse
import random
import re
from pathlib import Path

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composer
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.drafting.fills import BadFills

WRONG = re.compile(
    r"\b(?:a|an|the) (?:a|an|the)\b|\b(in|on|at|of|with|by) \1\b|\b(?:in|on|at)"
    r" (?:in|on|at|under|beside|among) (?:a|the)\b|  |,,|\s,|\.\.|\ba"
    r" (?!one|eu|uni|use|usa)[aeio]\w|\ban"
    r" (?!f/|hour|heir|honest|honour|x-|X-|8|11|18|SLR|LED|FPV|MC|RV|F|HD|EDM|ASM|R|M|L|N|S|H)[^aeiouAEIOUéÉáÁ]"  # noqa: E501
)
FORMULAS = {
    "picture": {"subject": "fox"},
    "poster": {"subject": "fox"},
    "photograph": {"subject": "fox"},
}
WHOLE = frozenset(
    "subject animal object food architecture".split()
)  # a term of these is what the picture is of


def prompts(facets: list[str]):
    """Each term of the facets, in each formula: (facet, term, formula, text)."""
    workspace = Workspace.load(Path("/"))
    composers = {name: Composer(workspace, Ask(name), False) for name in FORMULAS}
    for name in facets or workspace.vocabulary.names:
        for term in workspace.vocabulary[name]:
            for formula, composer in composers.items():
                given = (
                    {"subject": term.term}
                    if name in WHOLE
                    else FORMULAS[formula] | {name: term.term}
                )
                try:
                    yield name, term.term, formula, composer.compose(given).prompt.text
                except BadFills as bad:
                    yield name, term.term, formula, f"REFUSED {bad.findings[0].message}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("facets", nargs="*")
    parser.add_argument("--show", type=int, default=0)
    parser.add_argument("--draw", type=int, default=1)
    call = parser.parse_args()
    every = list(prompts(call.facets))
    wrong = [one for one in every if WRONG.search(one[3]) or one[3].startswith("REFUSED")]
    for one in wrong:
        print(*one, sep=" | ")
    print(f"{len(every):,} prompts, {len(wrong)} with what no prompt may say")
    for one in random.Random(call.draw).sample(every, min(call.show, len(every))):
        print(f"{one[0]:16} {one[1]:32} {one[3]}")


if __name__ == "__main__":
    main()
