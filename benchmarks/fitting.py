"""Fitting 10,000 prompts of 40 to 400 words into 75 tokens: none may be over, every phrase marked !
stays whole, and the limit is well used; its time per prompt against composing one without a limit.
`python benchmarks/fitting.py [NUMBER]`.
"""

import random
import sys
import time

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.formula import read_formula
from syntagma.core.models.measure import estimated_tokens, words
from syntagma.core.models.profile import Profile
from syntagma.core.notation.validation import converted
from syntagma.core.writing.prompt_writer import Writer

NUMBER = 10_000
MOST = 75
FORMULA = """+++
[slots]
scene = { facet = "" }
memory = { facet = "" }
detail = { facet = "" }
aside = { facet = "" }
+++
lead!     [a medium] of [a subject]
deed      ~[action]
place     [setting as place]
scene     where [scene].
weather   [weather as place]
light     lit by [a lighting]
memory    with [memory].
camera?   shot on [a lens], [camera-angle]
detail    showing [detail]
palette   in [palette]
mood      with [a mood "mood"].
aside?    [aside]
closing!  flat inks, generous margins
"""
TALK = (
    "the wind backs to the north and the tide board is wiped twice before midnight, while a purser"
    " counts his tickets under the lamp and nobody on the quay believes that the boat will go, with"
    " ropes coiled wet on the deck, an urn that steams beside the gangway, two bells out of time"
    " with each other, and a dog that watches the door of the lamp room as if it were open"
).split()


def fills_at_random(workspace: Workspace, writer: Writer, rng: random.Random) -> dict[str, str]:
    """Fills for a prompt of some 40 to 400 words: terms for facets, talk for free slots."""
    given = {}
    for rule in writer.rules:
        if rule.facet in workspace.vocabulary:
            given[rule.name] = rng.choice(list(workspace.vocabulary[rule.facet])).term
    length = rng.randint(0, 85)
    for slot in ("scene", "memory", "detail", "aside"):
        start = rng.randrange(len(TALK))
        given[slot] = " ".join((TALK * 3)[start : start + rng.randint(length // 2, length)])
    return given


def profile(register: str, most: int | None) -> Profile:
    limits = {"text": {"most": most, "unit": "tokens"}} if most else {}
    return converted({"name": "short", "text": {"register": register}, "limits": limits}, Profile)[
        0
    ]


def main() -> None:
    number = int(sys.argv[1]) if len(sys.argv) > 1 else NUMBER
    workspace = Workspace.load()
    formula = read_formula(FORMULA, "long")
    for register in ("prose", "tags"):
        fitting, free = (
            Writer(formula, profile(register, most), workspace.vocabulary) for most in (MOST, None)
        )
        rng = random.Random(7)
        every = [fitting.fills(fills_at_random(workspace, fitting, rng)) for _ in range(number)]
        begun = time.process_time()
        full = [free.write(fills) for fills in every]
        composing = time.process_time() - begun
        begun = time.process_time()
        fitted = [fitting.write(fills) for fills in every]
        taken = time.process_time() - begun
        lengths = [words(p.text) for p in full]
        over = sum(estimated_tokens(p.text) > MOST for p in fitted)
        broken = 0
        for fills, prompt in zip(every, fitted, strict=True):
            kept = [
                fitting.line(i, fills).text
                for i, plan in enumerate(fitting.plans)
                if plan.mark == "!"
            ]
            broken += not all(text.lower() in prompt.text.lower() for text in kept)
        used = sum(estimated_tokens(p.text) for p in fitted) / len(fitted) / MOST
        print(
            f"{register}: {number:,} prompts of {min(lengths)} to {max(lengths)} words into {MOST}"
            " tokens"
        )
        print(
            f"  over {over}, with a broken ! phrase {broken}, used on average {used:.1%} (aim 80%)"
        )
        ratio = taken / composing
        print(
            f"  fitting takes {ratio:.1f} times composing ({taken / number * 1e6:.0f} µs against"
            f" {composing / number * 1e6:.0f} µs a prompt); aim 10 "
            f" {'ok' if ratio < 10 else 'OVER'}"
        )


if __name__ == "__main__":
    main()
