"""Effects, designs, pairs, agreement, phrases: against values known otherwise, and against simulations with known truth."""

from collections import Counter
from itertools import product
from random import Random

import numpy as np
import pytest
from scipy import stats

from syntagma.core.judging.effects import LEVEL, budget, fit, level_out, paired
from syntagma.core.judging.layout import coded, contrasts, layout
from syntagma.core.judging.observed import FamilyPrompt, JudgedTake, factors_of, table
from syntagma.core.judging.pairs import (
    PairAnswer,
    enough,
    hang_together,
    next_one,
    next_pair,
    pair_list,
    pairs_wanted,
    reliability,
    strengths,
    wanted,
)
from syntagma.core.judging.phrases import Verdict, counts, false_discovery, goes_with
from syntagma.core.judging.planning import narrowed, next_rows, prices, share_between, widths
from syntagma.core.judging.portraits import (
    ALL_ALIKE,
    BY_CHANCE,
    CONTRARY,
    alpha,
    portraits,
    steadiness,
)
from syntagma.core.judging.promising import best_rows, promising_rows
from syntagma.core.judging.wins import fit_wins, largest_t, odds

COVER = ["0000000000", "0000111111", "0111000111", "1011011001", "1101101010", "1110110100"]


def prompts_of(rows, names="abcdefghij"):
    return [FamilyPrompt(str(i), dict(zip(names, row, strict=False))) for i, row in enumerate(rows)]


def full(*sizes):
    return ["".join(map(str, row)) for row in product(*(range(size) for size in sizes))]


def judged(rows, values, draws=1):
    prompts = prompts_of(rows)
    takes = [
        JudgedTake(p.name, {"ada": float(v)})
        for p, v in zip(prompts, values, strict=True)
        for _ in range(draws)
    ]
    return table(prompts, takes)


def test_judges_then_draws_are_averaged_and_a_refusal_counts_as_the_worst():
    prompts = prompts_of(["0", "1"])
    takes = [
        JudgedTake("0", {"a": 5, "b": 3}),
        JudgedTake("0", {"a": 1}),
        JudgedTake("1", {"a": 4}),
        JudgedTake("1", {}, refused=True),
        JudgedTake("1", {}),
    ]
    found = table(prompts, takes)
    assert (
        found.outcome.tolist() == [2.5, 2.0]
        and found.draws.tolist() == [2, 2]
        and found.refused.tolist() == [0, 1]
    )
    assert table(prompts, takes, judges=["b"]).prompts == ("0", "1") and table(
        prompts, takes, judges=["b"]
    ).outcome.tolist() == [3.0, 0.0]
    assert table(
        prompts, [JudgedTake("0", {"a": 1}), JudgedTake("0", {"a": 3}), JudgedTake("1", {"a": 2})]
    ).inner == pytest.approx(2**0.5)


def test_two_choices_are_students_t_over_prompts():
    rows, values = ["0"] * 6 + ["1"] * 6, [2, 3, 2, 4, 3, 2, 4, 5, 4, 3, 5, 4]
    found = fit(
        judged([row + str(i % 2) for i, row in enumerate(rows)], values), permuted=200
    ).effects[0]
    alone = fit(judged(rows, values), permuted=4000).effects[0]
    expected = stats.ttest_ind(values[6:], values[:6])
    bounds = expected.confidence_interval(0.95)
    assert (alone.low, alone.high) == (
        pytest.approx(bounds.low),
        pytest.approx(bounds.high),
    ) and alone.size == pytest.approx(1.5)
    assert (
        alone.chance
        == pytest.approx(
            float(
                stats.permutation_test(
                    (values[6:], values[:6]), lambda x, y: np.mean(x) - np.mean(y), n_resamples=1e6
                ).pvalue
            ),
            abs=0.01,
        )
        and not alone.told
        and found.axis == "a"
    )
    clear = fit(judged(rows, [2, 3, 2, 4, 3, 2, 5, 5, 5, 4, 5, 5])).effects[0]
    assert clear.told and clear.chance <= budget(1)


def test_a_choice_of_three_is_set_against_the_mean_of_the_others():
    found = fit(judged(full(3, 2), [1, 2, 3, 4, 8, 9]), permuted=50)
    assert [round(e.size, 6) for e in found.effects] == [-4.5, -1.5, 6.0, 1.0]
    assert [e.against for e in found.effects] == ["", "", "", "0"] and found.mean == pytest.approx(
        4.5
    )


@pytest.mark.parametrize(
    ("rows", "untold", "rank"),
    [
        (full(2, 2, 2), (), 4),
        (COVER, tuple("abcdefghij"), 6),
        (["00", "11", "00", "11"], ("a", "b"), 2),
        (["000", "011", "101", "110"], (), 4),
    ],
)
def test_what_a_design_can_tell(rows, untold, rank):
    found = layout(factors_of(prompts_of(rows)))
    assert (found.untold, found.rank) == (untold, rank)


def test_what_goes_together_is_named():
    found = layout(factors_of(prompts_of(["00", "11", "00", "11", "01"])))
    assert found.aliases[0][:2] == ("a", "b") and 0.3 < found.aliases[0].share < 1
    half = layout(factors_of(prompts_of(["000", "011", "101", "110"])))
    assert (
        not half.aliases
        and half.mistaken[0] == ("a", "b", "c", pytest.approx(1.0))
        and half.freedom == 0
    )


def test_nothing_is_told_where_nothing_is_left_for_the_scatter():
    found = fit(judged(["000", "011", "101", "110"], [1, 2, 3, 5]), permuted=50)
    assert found.freedom == 0 and all(
        not e.told and np.isinf(e.high) and e.chance == 1 for e in found.effects
    )
    same = fit(judged(full(2, 2) * 2, [3] * 8), permuted=50)
    assert all(not e.told and np.isinf(e.high) for e in same.effects)


def test_one_change_at_a_time_speaks_of_its_very_prompts():
    prompts = prompts_of(["00", "10", "01"])
    takes = [
        JudgedTake(p.name, {"a": rating})
        for p, ratings in zip(prompts, ([2, 3, 2], [4, 5, 4], [2, 3, 3]), strict=True)
        for rating in ratings
    ]
    found = fit(table(prompts, takes))
    expected = stats.ttest_ind([4, 5, 4], [2, 3, 2])
    assert (
        found.alone
        and found.effects[0].size == pytest.approx(2.0)
        and not any(e.told or np.isfinite(e.high) for e in found.effects)
    )
    assert (
        found.own[0][1] - found.effects[0].size
        == pytest.approx(stats.t.ppf(0.975, 6) * (2 / 9) ** 0.5, rel=0.01)
        and expected.pvalue < 0.05
    )
    assert found.mean == pytest.approx(
        7 / 3 + 2 / 2 + (1 / 3) / 2
    )  # over the choices of each axis, however often each was tried


@pytest.mark.long
def test_all_looks_share_one_error_budget():
    assert budget(1) == LEVEL / 2 and sum(budget(k) for k in range(1, 5000)) == pytest.approx(
        LEVEL, rel=1e-3
    )
    random = np.random.default_rng(3)
    broken = 0
    for _ in range(200):
        values = random.normal(0, 1, 60)
        broken += any(
            fit(judged([str(i % 2) for i in range(n)], values[:n]), look=k, permuted=400)
            .effects[0]
            .told
            for k, n in enumerate(range(12, 61, 6), 1)
        )
    assert broken <= 0.05 * 200
    values = np.array([2, 3, 2, 4, 3, 2, 4, 5, 4, 3, 5, 4] * 2) + np.repeat([0.0, 0.01], 12)
    first, late = (
        fit(judged(["0"] * 6 + ["1"] * 6 + ["0"] * 6 + ["1"] * 6, values), look=look).effects[0]
        for look in (1, 60)
    )
    assert (
        first.told and not late.told and (first.low, first.high) == (late.low, late.high)
    )  # an interval speaks of its own look


def test_a_milder_colleague_who_saw_the_first_half_makes_nothing_better():
    """The sheet lies in the order of its first axis, so who saw the first half saw the first choice."""
    random, claims, held = np.random.default_rng(5), 0, []
    rows = full(2, 3, 2) * 2
    rows = [row for choice in "01" for row in rows if row[0] == choice]
    for n in range(120):
        prompts = prompts_of(rows)
        takes = []
        for i, p in enumerate(prompts):
            here = 2.5 + 0.5 * random.normal()
            ratings = {
                "ada": here + 0.4 * random.normal(),
                **({"bo": here + 2 + 0.4 * random.normal()} if i < 12 else {}),
            }
            takes.append(JudgedTake(p.name, ratings))
        made = table(prompts, takes)
        found = fit(made, permuted=200, seed=n)
        claims += any(e.told for e in found.effects)
        held.append(found.effects[0].low <= 0 <= found.effects[0].high)
        if not n:
            levels = {one.judge: one.size for one in found.levels}
            assert (
                levels["bo"] - levels["ada"] == pytest.approx(2, abs=0.4)
                and abs(
                    level_out(made, found.levels)[:12].mean()
                    - level_out(made, found.levels)[12:].mean()
                )
                < 0.6
            )
    assert claims <= 8 and 0.9 <= np.mean(held) <= 0.99


def test_levels_do_not_touch_what_everybody_saw():
    prompts = prompts_of(full(2, 3) * 2)
    ratings = np.random.default_rng(1).integers(0, 6, (12, 2))
    both = fit(
        table(
            prompts,
            [
                JudgedTake(p.name, {"a": float(x), "b": float(y) + 3})
                for p, (x, y) in zip(prompts, ratings, strict=True)
            ],
        )
    )
    mean = fit(judged(full(2, 3) * 2, ratings.mean(axis=1) + 1.5))
    assert [(e.size, e.low, e.chance) for e in both.effects] == [
        (pytest.approx(e.size), pytest.approx(e.low), pytest.approx(e.chance)) for e in mean.effects
    ] and both.freedom == pytest.approx(mean.freedom)
    assert both.levels[1].size - both.levels[0].size == pytest.approx(
        3 + float(np.diff(ratings, axis=1).mean())
    )


def test_a_judge_who_alone_saw_a_choice_hides_it():
    prompts = prompts_of(["0", "1"] * 6)
    takes = [
        JudgedTake(p.name, {"ada" if p.choices["a"] == "0" else "bo": float(int(p.name) % 4)})
        for p in prompts
    ]
    assert np.isinf(fit(table(prompts, takes)).effects[0].high)


def test_what_two_axes_do_together():
    random, rows = np.random.default_rng(8), full(2, 2, 2) * 4
    values = [3 + 1.5 * (row[0] == row[1]) + 0.5 * random.normal() for row in rows]
    found = {(j.first, j.second): j for j in fit(judged(rows, values)).joints}
    assert (
        found["a", "b"].told
        and not found["a", "c"].told
        and not any(e.told for e in fit(judged(rows, values)).effects)
    )
    assert (
        fit(judged(full(2, 2), [1, 2, 3, 5])).joints == ()
        and fit(judged(full(2, 2), [1, 2, 3, 5])).few
    )


def test_with_no_effect_a_claim_is_rare_over_all_axes():
    random = np.random.default_rng(1)
    claims = sum(
        any(
            e.told
            for e in fit(
                judged(full(2, 3, 2) * 2, random.normal(0, 1, 24)), permuted=150, seed=n
            ).effects
        )
        for n in range(240)
    )
    assert claims / 240 <= 0.05 + 3 * (0.05 * 0.95 / 240) ** 0.5


def test_intervals_hold_the_truth_and_effects_are_found():
    random, held, told = np.random.default_rng(2), [], 0
    rows = full(2, 2, 3) * 2
    for n in range(200):
        values = [3 + 1.2 * (row[0] == "1") + 0.6 * random.normal() for row in rows]
        effects = fit(judged(rows, values), permuted=100, seed=n).effects
        held.append(effects[0].low <= 1.2 <= effects[0].high)
        told += effects[0].told
    assert 0.91 <= np.mean(held) <= 0.985 and told > 170


def test_models_are_compared_on_prompts_that_both_had():
    prompts = [
        FamilyPrompt(str(i), {"light": str(i // 2), "model": "mn"[i % 2]}) for i in range(8)
    ] + [FamilyPrompt("8", {"light": "9", "model": "m"})]
    found = table(
        prompts,
        [
            JudgedTake(p.name, {"a": i % 2 + (i // 2) * 0.1 + (0.4 if i == 3 else 0)})
            for i, p in enumerate(prompts)
        ],
    )
    assert (
        paired(found, "model")[0].first,
        paired(found, "model")[0].prompts,
        paired(found, "model")[0].size,
    ) == ("m", 4, pytest.approx(1.1)) and paired(found, "lens") == []


def test_money_for_one_that_is_kept():
    """Takes of one prompt that are alike are no samples of their own: the interval is over prompts."""
    alike, apart = (
        share_between(np.array([1.0, 1.0, 0.0, 0.0]), np.array([4] * 4)),
        share_between(np.array([0.5] * 4), np.array([4] * 4)),
    )
    assert alike[0] < 0.1 and alike[1] > 0.9 and apart[0] > 0.1 and apart[1] < 0.9
    assert share_between(np.zeros(4), np.array([9] * 4))[1] == pytest.approx(
        1 - 0.025**0.25
    )  # four prompts, of which none was kept
    found = prices(
        judged(["0", "0", "1", "1"], [1, 0, 0, 0], draws=4), np.array([4.0, 4.0, 2.0, 2.0])
    )
    kept, none = found[0], found[1]
    assert (
        kept.size == 8
        and kept.low < 8 < kept.most
        and none.kept == 0
        and np.isinf(none.most)
        and none.size == none.low > 2
    )


def test_marks_as_an_order_say_the_same():
    rows = full(2, 2) * 6
    factors = factors_of(prompts_of(rows))
    ratings = [(4 if row[0] == "1" else 2) + i % 2 for i, row in enumerate(rows)]
    sizes = odds(factors, range(len(rows)), ratings)
    assert (
        sizes[0] > 1.5 and abs(sizes[1]) < abs(sizes[0]) and len(sizes) == len(contrasts(factors))
    )
    with pytest.raises(ValueError):
        odds(factors, range(4), [3, 3, 3, 3])


def test_what_to_expect_and_what_more_would_bring():
    factors = factors_of(prompts_of(full(2, 2) * 3))
    one = widths(factors, 1, 1.0, 1.0)[0].half
    assert (
        one == pytest.approx(stats.t.ppf(0.975, 9) * 2**0.5 * (1 / 3) ** 0.5)
        and widths(factors, 4, 1.0, 1.0)[0].half < one
    )
    assert np.isinf(widths(factors_of(prompts_of(COVER)), 2)[0].half)
    found = fit(judged(full(2, 2) * 3, np.arange(12) % 5), permuted=1)
    now = found.effects[0].high - found.effects[0].size
    assert now * 0.5 < narrowed(factors, found, next_rows(factors, 12)) < now * 0.8 and np.isinf(
        narrowed(factors, found, [])
    )


def test_a_promise_of_narrowing_holds():
    """What six more are said to bring is what they bring, where prompts scatter as before."""
    random, rows = np.random.default_rng(4), full(3, 3, 2)[::2] + full(3, 3, 2)[1::6]
    shares = []
    for n in range(60):
        values = 2.5 + random.normal(0, 0.6, len(rows))
        factors = factors_of(prompts_of(rows))
        before = fit(judged(rows, values), permuted=1, seed=n)
        more = next_rows(factors, 6)
        said = narrowed(factors, before, more)
        names = ["".join(factors.levels[a][v] for a, v in enumerate(row)) for row in more]
        after = fit(
            judged([*rows, *names], [*values, *(2.5 + random.normal(0, 0.6, 6))]), permuted=1
        )
        shares.append(max(e.high - e.size for e in after.effects) / said)
    assert 0.9 < np.median(shares) < 1.1 and np.quantile(shares, 0.9) < 1.3


def test_the_next_prompts_fill_what_is_missing_and_keep_off_what_may_not_stand():
    rows = ["00", "00", "00", "10", "10", "20"]
    factors = factors_of([*prompts_of(rows), FamilyPrompt("x", {"a": "2", "b": "1"})])
    found = next_rows(factors, 2)
    assert all(row[1] == 1 for row in found) and (2, 1) not in found
    assert next_rows(factors, 3, lambda row: row[1] == 0 or row[0] == 1) and all(
        row[1] == 0 or row[0] == 1
        for row in next_rows(factors, 3, lambda row: row[1] == 0 or row[0] == 1)
    )
    before = np.linalg.slogdet(coded(factors).T @ coded(factors))[1]
    more = factors._replace(rows=np.vstack([factors.rows, found]))
    assert np.linalg.slogdet(coded(more).T @ coded(more))[1] > before
    assert len(next_rows(factors, 20)) == 20 and next_rows(factors, 2, lambda _: False) == []


def test_strengths_out_of_pairs():
    found = strengths(
        3, [PairAnswer(0, 1, 1.0)] * 3 + [PairAnswer(1, 2, 1.0)] * 3 + [PairAnswer(0, 1, 0.0)]
    )
    assert found.values[0] > found.values[1] > found.values[
        2
    ] and found.values.sum() == pytest.approx(0)
    tie = strengths(2, [PairAnswer(0, 1, 0.5)] * 4)
    assert (
        tie.values.tolist() == pytest.approx([0, 0])
        and (strengths(2, []).errors > tie.errors).all()
    )
    assert abs(strengths(2, [PairAnswer(0, 1, 1.0)] * 50).values[0]) < 6


def test_pairs_hang_together_balance_and_repeat():
    answers, random = [], Random(1)
    for n in range(120):
        i, j = next_pair(12, answers, seed=5)
        assert i != j
        answers.append(PairAnswer(i, j, float(random.random() < 1 / (1 + np.exp((j - i) / 3)))))
        if n == 11:
            assert hang_together(12, answers)
    assert (
        max(Counter((a.first, a.second) for a in answers).values()) == 1
    )  # nobody is asked the same twice, but with the sides changed
    left = [
        sum(a.first == i for a in answers) - sum(a.second == i for a in answers) for i in range(12)
    ]
    assert max(map(abs, left)) <= 6
    assert any(
        (b.first, b.second) == (a.second, a.first)
        for n, a in enumerate(answers)
        for b in answers[n + 1 :]
    )
    assert next_pair(1, []) is None and not hang_together(3, [PairAnswer(0, 1, 1.0)])
    assert strengths(12, answers).values.argmax() >= 6


def test_when_pairs_are_enough():
    random, answers = Random(2), []
    while not enough(24, answers) and len(answers) < 200:
        i, j = next_pair(24, answers, seed=3)
        answers.append(PairAnswer(i, j, float(random.random() < 1 / (1 + np.exp((j - i) / 3)))))
    assert 60 <= len(answers) < 120 and reliability(strengths(24, answers)) >= 0.7
    coin = [
        PairAnswer(i, j, float(n % 2))
        for n, (i, j) in enumerate((i, j) for i in range(10) for j in range(i))
    ]
    assert not enough(10, coin) and not enough(24, answers[:40])
    assert (
        next_pair(2, [PairAnswer(0, 1, 1.0)]) == (1, 0)
        and next_pair(2, [PairAnswer(0, 1, 1.0), PairAnswer(1, 0, 0.0)]) is None
    )
    many = [PairAnswer(i, (i + 1) % 400, float(i % 3 > 0)) for i in range(400)]
    assert next_pair(400, many) not in {(a.first, a.second) for a in many}


def test_pairs_as_effects_of_choices():
    """Effects out of few pairs come in their true size, not drawn to nothing; a judge who leans to a side does not make one."""
    random, rows = np.random.default_rng(6), full(2, 3, 2) * 2
    slopes = []
    for n in range(12):
        true = np.array([1.5 * (row[0] == "1") for row in rows]) + random.normal(0, 0.5, len(rows))
        order = random.permutation(24)
        pairs = [(order[i], order[(i + 1) % 24]) for i in range(24)] + [
            tuple(random.choice(24, 2, replace=False)) for _ in range(26)
        ]
        answers = [
            PairAnswer(
                int(i),
                int(j),
                float(random.random() < 1 / (1 + np.exp(true[j] - true[i] - 1.0))),
                "left-leaning",
            )
            for i, j in pairs
        ]
        found = fit_wins(judged(rows, [0.0] * 24), range(24), answers, seed=n)
        slopes.append(found.effects[0].size / 1.5)
    assert 0.8 < np.mean(slopes) < 1.5 and found.effects[0].axis == "a" and found.mean == 0
    few = fit_wins(judged(rows, [0.0] * 24), range(24), answers[:24])
    assert not any(e.told for e in few.effects)


def test_the_largest_of_several_t():
    sizes, covariance = np.array([2.5, 0.1]), np.eye(2)
    found = largest_t(sizes, covariance, np.array([True, True]), 20.0, 1)
    one = 2 * stats.t.sf(2.5, 20)
    assert (
        one < found[0] < 2 * one + 0.003
        and found[1] > 0.9
        and largest_t(np.array([9.0]), np.eye(1), np.array([True]), 20.0, 1)[0]
        == pytest.approx(2 * stats.t.sf(9, 20))
    )
    assert (largest_t(sizes, covariance, np.array([False, False]), 20.0, 1) == 1).all()


def test_the_best_combinations_and_what_to_try_next():
    rows = full(3, 3)
    made = judged(rows[:7] * 2, [1 + 2 * (row == "11") + (row[0] == "1") for row in rows[:7] * 2])
    best = best_rows(made, 9)
    assert (
        best[0].row == (1, 1)
        and best[0].chance > 0.5
        and best[0].low < best[0].mean < best[0].high
        and best[0].tried == 2
    )
    assert abs(sum(one.chance for one in best) - 1) < 1e-6 and {one.tried for one in best} == {0, 2}
    assert promising_rows(made, 2)[0] == (1, 1) or (1, 1) in promising_rows(made, 3)
    assert (
        all(row[0] == 0 for row in promising_rows(made, 3, lambda row: row[0] == 0))
        and promising_rows(made, 3, lambda _: False) == []
    )
    assert len(promising_rows(made, 12)) == 12 and best_rows(judged(["0"], [1]), 3) == []


def test_what_judges_are_like():
    random = np.random.default_rng(2)
    true = random.normal(2.5, 1, 30)
    prompts = prompts_of([str(i % 2) for i in range(30)])

    def seen(**judges):
        ratings = {i: {name: float(of(i)) for name, of in judges.items()} for i in range(30)}
        levels = fit(
            table(prompts, [JudgedTake(str(i), own) for i, own in ratings.items()]), permuted=1
        ).levels
        said = {name: [(i, own[name]) for i, own in ratings.items()] for name in judges}
        return {
            one.judge: one
            for one in portraits(ratings, levels, said, [("ada", 1, 1), ("ada", 1, 2)], [], 30)
        }

    near = lambda i: true[i] + random.normal(0, 0.3)  # noqa: E731
    found = seen(ada=near, bo=lambda i: near(i) + 1, cy=lambda i: 5 - true[i], fay=near, gil=near)
    assert (
        found["cy"].stance == CONTRARY
        and {found[name].stance for name in ("ada", "bo", "fay", "gil")} == {""}
        and found["ada"].twice == (1, 2)
    )
    assert (
        found["bo"].level.size - found["ada"].level.size == pytest.approx(1, abs=0.2)
        and found["ada"].agreement.low > 0
        and abs(found["ada"].drift.size) < 3 * found["ada"].drift.error
    )
    odd = seen(
        ada=near,
        bo=near,
        di=lambda i: random.integers(0, 6),
        eve=lambda _: 3,
        fay=lambda i: near(i) - i / 10,
    )
    assert (odd["di"].stance, odd["eve"].stance, odd["ada"].stance) == (
        BY_CHANCE,
        ALL_ALIKE,
        "",
    ) and odd["fay"].drift.size == pytest.approx(-3, abs=0.8)
    pairs = [
        PairAnswer(i, j, float(true[i] > true[j]), "ada") for i in range(10) for j in range(i)
    ] + [PairAnswer(i, j, float(true[i] < true[j]), "zed") for i in range(10) for j in range(i)]
    sides = [PairAnswer(i, j, 1.0, "left") for i in range(10) for j in range(i)]
    second = [a._replace(judge="bo") for a in pairs[:45]]
    own = {one.judge: one for one in portraits({}, (), {}, [], [*pairs, *second, *sides], 10)}
    assert (
        own["left"].sided
        and not own["ada"].sided
        and own["zed"].stance == CONTRARY
        and own["ada"].stance == ""
    )


def test_the_order_of_judging():
    ids = list(range(100, 124))
    said: list[int] = []
    while (one := next_one(ids, said, "lights Ada")) is not None:
        said.append(one)
    assert (
        set(said) == set(ids)
        and len(said) == wanted(ids) == 26
        and next_one(ids, [], "lights Bo") != said[0]
    )
    twice = [n for n in ids if said.count(n) == 2]
    assert len(twice) == 2 and all(
        abs(said.index(n) - (len(said) - 1 - said[::-1].index(n))) > 4 for n in twice
    )
    pairs = pair_list(9, 1)
    assert (
        len(pairs) == pairs_wanted(9)
        and {i for pair in pairs for i in pair} == set(range(9))
        and pair_list(2, 1) == [(0, 1)]
        and pair_list(1, 1) == []
    )
    many = pair_list(40, 2)
    again = [n for n, pair in enumerate(many) if pair[::-1] in many[:n]]
    assert again == list(range(19, len(many), 20)) and len(set(many)) == len(many)


def test_agreement():
    assert alpha([{"a": 1, "b": 1}, {"a": 4, "b": 4}, {"a": 2, "b": 2}]) == 1.0
    assert alpha([{"a": 1, "b": 5}, {"a": 5, "b": 1}]) < 0 and np.isnan(alpha([{"a": 1}]))
    # Krippendorff's own example with the interval metric: alpha 0.849
    rows = [
        [1, 1, None, 1],
        [2, 2, 3, 2],
        [3, 3, 3, 3],
        [3, 3, 3, 3],
        [2, 2, 2, 2],
        [1, 2, 3, 4],
        [4, 4, 4, 4],
        [1, 1, 2, 1],
        [2, 2, 2, 2],
        [None, 5, 5, 5],
        [None, None, 1, 1],
        [None, None, 3, None],
    ]
    assert alpha(
        [{str(i): v for i, v in enumerate(row) if v is not None} for row in rows]
    ) == pytest.approx(0.849, abs=0.001)
    assert (
        steadiness([(1, 1), (3, 4)]) == 0.5
        and steadiness([(3, 4)], 1) == 1
        and np.isnan(steadiness([]))
    )


def test_verdicts_on_one_picture_are_no_samples_of_their_own():
    """Five judges who say the same of four prompts say it of four prompts: no chance of theirs is small."""
    said = [
        Verdict(
            "light", "scud", "missing" if n < 2 else "shown", 0.8, 4, 1.0 if n < 2 else 4.0, f"p{n}"
        )
        for n in range(4)
        for _ in range(5)
    ]
    assert counts(said)[0].chance == 1.0
    random, told, placed = np.random.default_rng(1), 0, 0
    for _ in range(60):
        said = []
        for n in range(12):
            rating, gone = random.normal(2.5, 1), random.random() < 0.4
            said += [
                Verdict(
                    "light",
                    f"phrase {n % 6}",
                    "missing" if gone else "shown",
                    (n % 6) / 6,
                    2 + n % 3,
                    rating,
                    f"p{n}",
                )
            ] * 4
        found = counts(said)
        told += any(one.chance <= 0.05 for one in found)
        placed += bool((both := goes_with(said)) and both.place_chance <= 0.05)
    assert told <= 6 and placed <= 8


def test_phrases():
    said = [
        Verdict(
            "light", "scud", "missing" if n % 2 else "shown", 0.8, 4, 1.0 if n % 2 else 4.0, f"p{n}"
        )
        for n in range(8)
    ] + [Verdict("medium", "linocut", "shown", 0.1, 1, 3.0, f"p{n}") for n in range(8)]
    found = counts(said)
    assert (
        (found[0].phrase, found[0].shown, found[0].missing, found[0].ratings) == ("scud", 4, 4, 3.0)
        and found[0].chance < 0.1
        and found[1].chance == 1.0
    )
    both = goes_with(said)
    assert (
        both.place_missing == pytest.approx(0.8)
        and both.place_shown < 0.5
        and goes_with(said[:2]) is None
    )
    assert (
        false_discovery([0.01, 0.04, 0.03, 0.5]) == pytest.approx([0.04, 0.16 / 3, 0.16 / 3, 0.5])
        and false_discovery([]) == []
    )
