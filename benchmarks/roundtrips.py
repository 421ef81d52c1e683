"""Whether a prompt gives its fills back: python -m benchmarks.roundtrips [DRAWS] [FORMULA …]
composes picks of every formula, in prose and in tags, reads each with its formula, and counts the
fills that are the same.
"""

import sys
from pathlib import Path

from benchmarks.picks import picks
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.reading.formula_matching import Matcher

DRAWS = 20
FORMS = {"prose": None, "tags": "dunlin-still"}


def fills_back(workspace: Workspace, name: str, draws: int, model: str | None) -> tuple[int, int]:
    """How many fills of a formula come back, and how many there are."""
    good = every = 0
    matcher = None
    for writer, _, fills, prompt in picks(workspace, name, draws, model=model):
        matcher = matcher or Matcher(writer)
        match = matcher.match(prompt.text)
        found = {
            **(match.fills if match else {}),
            **(matcher.negatives(prompt.negative) if prompt.negative else {}),
        }
        for rule, fill in zip(writer.rules, fills, strict=True):
            if fill and (rule.name in writer.shown or prompt.negative):
                every += 1
                back = (
                    writer.fills({rule.name: found[rule.name]})[writer.position[rule.name]]
                    if rule.name in found
                    else None
                )
                good += found.get(rule.name) == fill.shown or bool(
                    back and back.terms == fill.terms and len(back.terms) == len(fill.items)
                )
    return good, every


def main() -> None:
    """Count and print."""
    workspace = Workspace.load(Path("/"))
    draws = int(sys.argv[1]) if len(sys.argv) > 1 else DRAWS
    sums = dict.fromkeys(FORMS, (0, 0))
    for name in sys.argv[2:] or workspace.formulas():
        line = f"{name:20}"
        for form, model in FORMS.items():
            good, every = fills_back(workspace, name, draws, model)
            sums[form] = (sums[form][0] + good, sums[form][1] + every)
            line += f"  {form} {good} of {every}"
        print(line, flush=True)
    print(
        "; ".join(
            f"{form}: {good} of {every} ({good / every:.1%})"
            for form, (good, every) in sums.items()
        )
    )


if __name__ == "__main__":
    main()
