"""docs/reference/formulas.md, run: every example in it says what comes out."""

import re
import shlex
from pathlib import Path

import pytest

from syntagma.core.drafting.fills import BadFills
from tests.core.samples import PROSE, TAGS, writer

PAGE = Path(__file__).parents[2] / "docs" / "reference" / "formulas.md"


def examples():
    for block in re.findall(r"^```formula\n(.*?)^```", PAGE.read_text("utf-8"), re.M | re.S):
        formula, *runs = re.split(r"^>>", block, flags=re.M)
        for run in runs:
            call, *expected = run.split("\n")
            given = dict(word.split("=", 1) for word in shlex.split(call.strip()))
            for line in filter(None, expected):
                what, _, text = line.partition(": ")
                yield pytest.param(
                    formula,
                    given,
                    what,
                    text,
                    id=f"{formula.split()[0]} {call.strip()} {what}"[:60],
                )


@pytest.mark.parametrize(("formula", "given", "what", "text"), list(examples()))
def test_example(formula, given, what, text):
    made = writer(formula, TAGS if what == "tags" else PROSE)
    if what == "error":
        with pytest.raises(BadFills) as error:
            made.write(made.fills(given))
        assert str(error.value).removeprefix(": ") == text
        return
    fills = made.fills(given)
    prompt = made.write(fills)
    got = {
        "prose": [prompt.text], "tags": [prompt.text], "negative": [prompt.negative],
        "finding": [f.message for f in made.findings(fills, prompt)],
    }[what]  # fmt: skip
    assert text in got


def test_every_rule_has_an_example():
    assert len(list(examples())) >= 75
