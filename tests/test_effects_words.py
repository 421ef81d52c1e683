"""What effects say in words: tables of cases, and reports on families that are made here."""

import pytest

from syntagma.app.results.effects import observed, report
from syntagma.app.results.effects_words import (
    between,
    figure,
    headline,
    judge_words,
    legend,
    number,
    pairs_won,
    share,
    verdict,
)
from syntagma.app.results.judged import Judged
from syntagma.core.diagnostics import Trouble
from syntagma.core.judging.effects import Level
from syntagma.core.judging.observed import FamilyPrompt
from syntagma.core.judging.portraits import (
    ALL_ALIKE,
    BY_CHANCE,
    CONTRARY,
    Drift,
    Portrait,
    RaterAgreement,
    Share,
)
from syntagma.storage.library import Judgement, Kept

ADA = Portrait("Ada", 24, 0)


@pytest.mark.parametrize(
    ("value", "outcome", "said"),
    [
        (0.5, "rating", "+0.50"),
        (-0.12, "approved", "-12 points"),
        (0.03, "money", "+3 points"),
        (0.0, "wins", "50% of pairs"),
        (2.2, "wins", "90% of pairs"),
        (float("inf"), "rating", "?"),
    ],
)
def test_numbers(value, outcome, said):
    assert number(value, outcome) == said


def test_intervals_and_shares():
    assert (
        between(-0.5, 0.25, "rating") == "-0.50 to +0.25"
        and between(-0.5, 0.25, "approved") == "-50 to +25"
        and between(-1, 1, "wins") == "27% to 73%"
        and between(0, float("inf"), "rating") == "?"
    )
    assert [share(chance) for chance in (0.12, 0.0132, 0.004, 0.0005, 0.0001)] == [
        "12 of 100",
        "1 of 100",
        "4 of 1,000",
        "1 of 1,000",
        "less than 1 of 1,000",
    ]
    assert pairs_won(2.0, 0.0) > pairs_won(2.0, 3.0) > 0.5


@pytest.mark.parametrize(
    ("portrait", "said"),
    [
        (ADA, ""),
        (
            ADA._replace(level=Level("Ada", 0.8, 0.1)),
            "Ada: rates 0.8 above the mean of all judges, which is corrected for",
        ),
        (ADA._replace(level=Level("Ada", -0.8, 0.5)), ""),
        (
            ADA._replace(level=Level("Ada", -1.2, 0.5)),
            "Ada: rates 1.2 below the mean of all judges, which is corrected for",
        ),
        (
            ADA._replace(stance=CONTRARY, agreement=RaterAgreement(-0.7, -0.9, -0.4, 24)),
            "Ada: disagrees with the others throughout (correlation -0.70)",
        ),
        (
            ADA._replace(stance=CONTRARY, as_others=Share(3, 30)),
            "Ada: disagrees with the others throughout (as they would in 3 of 30 pairs)",
        ),
        (
            ADA._replace(stance=BY_CHANCE, agreement=RaterAgreement(0.05, -0.4, 0.4, 24)),
            "Ada: judges at random (correlation +0.05 over 24 results)",
        ),
        (
            ADA._replace(stance=BY_CHANCE, as_others=Share(16, 30)),
            "Ada: judges at random (16 of 30 pairs as the others)",
        ),
        (
            ADA._replace(stance=BY_CHANCE, twice=Share(3, 7)),
            "Ada: judges at random (3 of 7 that were asked twice)",
        ),
        (ADA._replace(stance=ALL_ALIKE), "Ada: gave all 24 results the same rating"),
        (
            ADA._replace(left=Share(38, 40)),
            "Ada: chose the left side in 38 of 40 pairs, which is corrected for",
        ),
        (
            ADA._replace(left=Share(2, 40)),
            "Ada: chose the right side in 38 of 40 pairs, which is corrected for",
        ),
        (
            ADA._replace(drift=Drift(-1.1, 0.3)),
            "Ada: rated 1.1 lower at the end than at the beginning",
        ),
        (ADA._replace(drift=Drift(0.9, 0.5)), ""),
        (
            ADA._replace(twice=Share(2, 3), agreement=RaterAgreement(0.71, 0.4, 0.9, 24)),
            "Ada: gave the same answer again in 2 of 3 repeats; agrees with the others (+0.71; 1 is full agreement)",
        ),
    ],
)
def test_judges_in_words(portrait, said):
    assert judge_words(portrait, alone=False) == said


def family(ratings, pairs=(), kinds=(".png",), kept=(), cost=None, currencies=("credits",)):
    """A family of three lights by two palettes, two prompts each that differ by a lens; ratings by (light, palette, lens)."""
    rows = [
        (light, palette, lens)
        for light in ("dawn", "dusk", "noon")
        for palette in ("ink", "sand")
        for lens in ("near", "far")
    ]
    prompts = [
        FamilyPrompt(" ".join(row), dict(zip(("light", "palette", "lens"), row, strict=True)))
        for row in rows
    ]
    found = tuple(
        Kept(
            n,
            "",
            kinds[n % len(kinds)],
            0,
            "",
            "",
            "",
            "",
            "",
            "",
            "s",
            "",
            cost,
            currencies[n % len(currencies)] if cost else "",
            None,
            "",
            "",
            "",
            "",
            {},
        )
        for n in range(1, 13)
    )
    said = [Judgement("Ada", "s", "rating", n, str(ratings(*row))) for n, row in enumerate(rows, 1)]
    said += (
        [Judgement("Ada", "s", "approve", n, str(int(kept(*row)))) for n, row in enumerate(rows, 1)]
        if kept
        else []
    )
    said += [Judgement("Ada", "s", "pair", a, value, b) for a, value, b in pairs]
    return Judged(
        "s",
        tuple(prompts),
        found,
        {n: prompt.name for n, prompt in enumerate(prompts, 1)},
        {},
        tuple(said),
    )


def looked_at(judged, outcome="rating", look=1, claims=()):
    return report(judged, outcome, observed(judged, outcome), look, claims)


def noisy(light, palette, lens):
    return {"dawn": 4, "dusk": 3, "noon": 3}[light] + (palette == "ink") * (lens == "near")


def test_what_helped_stands_in_one_sentence():
    found = looked_at(family(noisy))
    assert (
        headline(found)
        == "In these 12 pictures dawn helped; the rest made no difference that could be seen."
    )
    words = {e.choice: verdict(e, found) for e in found.fit.effects}
    assert (
        words["dawn"] == "better"
        and words["far"] == words["dusk"] == "not sure yet: 19 of 100 by chance"
    )
    assert "2 of 100" in legend(found)[1] and "points of rating" in legend(found)[0]
    late = looked_at(
        family(noisy), look=40, claims=[("light", "dawn", True), ("light", "dusk", True)]
    )
    assert (
        not late.claims
        and late.earlier == (("light", "dawn", True),)
        and verdict(late.fit.effects[0], late) == "better, as an earlier analysis found"
    )
    assert "dawn helped" in headline(late) and "dusk" not in headline(late)


@pytest.mark.parametrize(
    ("ratings", "begins"),
    [
        (lambda *_: 3, "These 12 pictures were all judged alike"),
        (
            lambda light, *_: {"dawn": 4, "dusk": 2, "noon": 0}[light],
            "These 12 pictures follow exactly from",
        ),
        (
            lambda light, palette, lens: (len(light) + len(palette) * 3 + len(lens)) % 4,
            "In these 12 pictures no choice made a difference that could be seen (only one of",
        ),
        (
            lambda light, palette, lens: (
                4 * (palette == "sand") + (light == "noon") * (lens == "far")
            ),
            "In these 12 pictures sand did better than ink; the rest",
        ),
    ],
)
def test_headlines(ratings, begins):
    assert headline(looked_at(family(ratings))).startswith(begins)


def test_results_are_called_what_they_are():
    assert "In these 12 clips" in headline(
        looked_at(family(noisy, kinds=(".mp4",)))
    ) and "In these 12 results" in headline(looked_at(family(noisy, kinds=(".mp4", ".png"))))


def test_money_needs_one_currency(tmp_path):
    keep = lambda light, *_: light == "dawn"  # noqa: E731
    found = looked_at(family(noisy, kept=keep, cost=2.0), "money")
    assert (
        found.currency == "credits"
        and {p.choice: p.kept for p in found.prices if p.axis == "light"}
        == {"dawn": 4, "dusk": 0, "noon": 0}
        and "share approved" in legend(found)[0]
    )
    with pytest.raises(Trouble, match="credits and euros"):
        looked_at(family(noisy, kept=keep, cost=2.0, currencies=("credits", "euros")), "money")
    with pytest.raises(Trouble, match="nobody knows what"):
        looked_at(family(noisy, kept=keep), "money")
    figure(found, str(tmp_path / "f.svg"))
    assert "percentage points" in (tmp_path / "f.svg").read_text()


def test_wins_as_shares_of_pairs(tmp_path):
    ring = [(n, n % 12 + 1) for n in range(1, 13)] + [(n, (n + 5) % 12 + 1) for n in range(1, 13)]
    dawn = lambda n: n <= 4  # noqa: E731
    found = looked_at(
        family(
            noisy,
            [
                (a, "tie" if dawn(a) == dawn(b) else "left" if dawn(a) else "right", b)
                for a, b in ring
            ],
        ),
        "wins",
    )
    assert (
        number(found.fit.effects[0].size, "wins", found.fit.scatter).endswith("% of pairs")
        and "50 %" in legend(found)[0]
        and not found.prices
    )
    figure(found, str(tmp_path / "f.svg"))
    assert "pairs won" in (tmp_path / "f.svg").read_text()
    with pytest.raises(Trouble, match="can't be written"):
        figure(found, str(tmp_path / "f.nothing"))


def test_a_look_by_somebody_who_did_not_judge():
    with pytest.raises(Trouble, match="nobody called Zed"):
        observed(family(noisy), "rating", ["Zed"])
    with pytest.raises(Trouble, match="as approved or not"):
        observed(family(noisy), "approved")
