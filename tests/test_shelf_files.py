"""What ships on the shelf: every formula, look and theme is read, has an example that works, and gives good picks."""

import re
from collections import Counter
from pathlib import Path

import pytest

from benchmarks.picks import contradicts, doubled, fixed_words, picks
from syntagma.app.composing.wished import OPEN
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.draft_checks import text_findings
from syntagma.core.models import PLAIN
from syntagma.core.picking.themes import check_theme
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
FORMULAS = sorted(p.stem for p in (Path(SHIPPED) / "formulas").glob("*.formula"))


def test_the_size_of_it():
    assert len(FORMULAS) >= 27 and len(WORLD.looks()) >= 8 and len(WORLD.themes()) >= 8


@pytest.mark.parametrize("name", FORMULAS)
def test_formula(name):
    formula, remarks = WORLD.formula(name)
    assert (
        remarks == []
        and formula.head.about
        and formula.head.when
        and formula.head.media
        and formula.negatives
    )
    writer = Writer(formula, PLAIN, WORLD.vocabulary)
    fills = writer.fills(formula.head.example)
    prompt = writer.write(fills)
    assert (
        writer.findings(fills, prompt) == writer.clashes(fills) == []
        and prompt.text
        and (prompt.negative or formula.name in OPEN.values())
    )
    fixed = [p for p in formula.phrases if p.mark == "!" and not p.slots]
    for phrase in fixed:  # what must stay is there, and nothing was swallowed
        words = (
            formula.text[phrase.span.start : phrase.span.stop]
            .removeprefix(phrase.label_raw)
            .strip(" ~.")
        )
        assert words.lower() in prompt.text.lower()
    for rule in formula.slots:  # what its slots keep to leaves enough to choose from
        if rule.facet in WORLD.vocabulary and (rule.only or rule.never):
            left = [
                t
                for t in WORLD.vocabulary[rule.facet]
                if (not rule.only or set(rule.only) & set(t.tags))
                and not set(rule.never) & set(t.tags)
            ]
            assert len(left) >= 3, (rule.name, [t.term for t in left])


@pytest.mark.long
@pytest.mark.parametrize("name", FORMULAS)
def test_its_picks(name):
    for detail in ("usual", "rich"):
        texts = Counter()
        for writer, _, fills, prompt in picks(WORLD, name, 12, detail):
            assert not contradicts(writer, fills) and not doubled(
                prompt.text, fixed_words(writer, fills)
            ), prompt.text
            assert text_findings(prompt.text) == [] and not re.search(
                r"  |[.,;:] [.,;:]|\ba [aeio](?!ne)|^[a-z]", prompt.text
            ), prompt.text
            texts[prompt.text] += 1
        assert len(texts) >= 11


@pytest.mark.parametrize("name", sorted(WORLD.looks()))
def test_look(name):
    look, remarks = WORLD.look(name)
    assert remarks == [] and look.head.about and look.head.when
    for formula in ("photograph", "film-shot"):
        whole, found = WORLD.formula(formula, [name])
        writer = Writer(whole, PLAIN, WORLD.vocabulary)
        text = writer.write(
            writer.fills({k: v for k, v in whole.head.example.items() if k in writer.position})
        ).text
        assert text_findings(text) == [] and all(
            f.kind == "remark" or "the look is for" in f.message for f in found
        )


@pytest.mark.parametrize("name", sorted(WORLD.themes()))
def test_theme(name):
    theme = WORLD.theme(name)
    assert (
        theme.about
        and theme.when
        and theme.lean
        and check_theme(theme, WORLD.vocabulary, WORLD.situation_tags) == []
    )
