"""Effects, designs, pairs, agreement, phrases: against values known otherwise, and against simulations with known truth."""

from itertools import product
from random import Random

import numpy as np
import pytest
from scipy import stats

from syntagma.core.judging.agreement import alpha, between, steadiness
from syntagma.core.judging.effects import at_large, fit, half_width, paired, prices
from syntagma.core.judging.layout import coded, contrasts, layout
from syntagma.core.judging.observed import Prompt, Take, factors_of, table
from syntagma.core.judging.odds import odds
from syntagma.core.judging.order import next_one, pair_list, pairs_wanted, wanted
from syntagma.core.judging.pairs import Answer, hang_together, next_pair, strengths
from syntagma.core.judging.phrases import Verdict, counts, false_discovery, goes_with
from syntagma.core.judging.planning import narrowed, next_rows, widths

COVER = ["0000000000", "0000111111", "0111000111", "1011011001", "1101101010", "1110110100"]


def prompts_of(rows, names="abcdefghij"):
    return [Prompt(str(i), dict(zip(names, row, strict=False))) for i, row in enumerate(rows)]


def full(*sizes):
    return ["".join(map(str, row)) for row in product(*(range(size) for size in sizes))]


def judged(rows, values, draws=1):
    prompts = prompts_of(rows)
    takes = [Take(p.name, {"ada": float(v)}) for p, v in zip(prompts, values, strict=True) for _ in range(draws)]
    return table(prompts, takes)


def test_judges_then_draws_are_averaged_and_a_refusal_counts_as_the_worst():
    prompts = prompts_of(["0", "1"])
    takes = [Take("0", {"a": 5, "b": 3}), Take("0", {"a": 1}), Take("1", {"a": 4}), Take("1", {}, refused=True), Take("1", {})]
    found = table(prompts, takes)
    assert found.outcome.tolist() == [2.5, 2.0] and found.draws.tolist() == [2, 2] and found.refused.tolist() == [0, 1]
    assert table(prompts, takes, judges=["b"]).prompts == ("0", "1") and table(prompts, takes, judges=["b"]).outcome.tolist() == [3.0, 0.0]
    assert table(prompts, [Take("0", {"a": 1}), Take("0", {"a": 3}), Take("1", {"a": 2})]).inner == pytest.approx(2**0.5)


def test_two_choices_are_students_t_over_prompts():
    rows, values = ["0"] * 6 + ["1"] * 6, [2, 3, 2, 4, 3, 2, 4, 5, 4, 3, 5, 4]
    found = fit(judged([row + str(i % 2) for i, row in enumerate(rows)], values), permuted=200).effects[0]
    alone = fit(judged(rows, values), permuted=4000).effects[0]
    expected = stats.ttest_ind(values[6:], values[:6])
    bounds = expected.confidence_interval(0.95)
    assert (alone.low, alone.high) == (pytest.approx(bounds.low), pytest.approx(bounds.high)) and alone.size == pytest.approx(1.5)
    assert alone.chance == pytest.approx(float(stats.permutation_test((values[6:], values[:6]), lambda x, y: np.mean(x) - np.mean(y), n_resamples=1e6).pvalue), abs=0.01) and alone.told and found.axis == "a"


def test_a_choice_of_three_is_set_against_the_mean_of_the_others():
    found = fit(judged(full(3, 2), [1, 2, 3, 4, 8, 9]), permuted=50)
    assert [round(e.size, 6) for e in found.effects] == [-4.5, -1.5, 6.0, 1.0]
    assert [e.against for e in found.effects] == ["", "", "", "0"] and found.mean == pytest.approx(4.5)


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
    assert not half.aliases and half.mistaken[0] == ("a", "b", "c", pytest.approx(1.0)) and half.freedom == 0


def test_nothing_is_told_where_nothing_is_left_for_the_scatter():
    found = fit(judged(["000", "011", "101", "110"], [1, 2, 3, 5]), permuted=50)
    assert found.freedom == 0 and all(not e.told and np.isinf(e.high) and e.chance == 1 for e in found.effects)
    same = fit(judged(full(2, 2) * 2, [3] * 8), permuted=50)
    assert all(not e.told and np.isinf(e.high) for e in same.effects)


def test_one_change_at_a_time_speaks_of_its_very_prompts():
    prompts = prompts_of(["00", "10", "01"])
    takes = [Take(p.name, {"a": mark}) for p, marks in zip(prompts, ([2, 3, 2], [4, 5, 4], [2, 3, 3]), strict=True) for mark in marks]
    found = fit(table(prompts, takes))
    expected = stats.ttest_ind([4, 5, 4], [2, 3, 2])
    assert found.alone and found.effects[0].size == pytest.approx(2.0) and found.effects[0].told and not found.effects[1].told
    assert found.effects[0].high - found.effects[0].size == pytest.approx(stats.t.ppf(0.975, 6) * (2 / 9) ** 0.5, rel=0.01) and expected.pvalue < 0.05
    assert found.mean == pytest.approx(7 / 3 + 2 / 2 + (1 / 3) / 2)  # over the choices of each axis, however often each was tried


def test_looking_again_widens_and_holds_at_every_look():
    unit = np.array([4 / 24])
    once, later = half_width(20, unit, 1)[0], half_width(20, unit, 2)[0]
    assert once == pytest.approx(stats.t.ppf(0.975, 20)) and 1.25 * once < later < 2 * once
    random = np.random.default_rng(3)
    broken = 0
    for _ in range(300):
        values = random.normal(0, 1, 60)
        for n in range(12, 61, 8):
            found = fit(judged([str(i % 2) for i in range(n)], values[:n]), looks=2, permuted=1).effects[0]
            if not found.low <= 0 <= found.high:
                broken += 1
                break
    assert broken <= 0.05 * 300 + 3 * (300 * 0.05 * 0.95) ** 0.5


def test_with_no_effect_a_claim_is_rare_over_all_axes():
    random = np.random.default_rng(1)
    claims = sum(any(e.told for e in fit(judged(full(2, 3, 2) * 2, random.normal(0, 1, 24)), permuted=150, seed=n).effects) for n in range(240))
    assert claims / 240 <= 0.05 + 3 * (0.05 * 0.95 / 240) ** 0.5


def test_intervals_hold_the_truth_and_effects_are_found():
    random, held, told = np.random.default_rng(2), [], 0
    rows = full(2, 2, 3) * 2
    for n in range(200):
        values = [3 + 1.2 * (row[0] == "1") + 0.6 * random.normal() for row in rows]
        effects = fit(judged(rows, values), permuted=100, seed=n).effects
        held.append(effects[0].low <= 1.2 <= effects[0].high)
        told += effects[0].told
    assert 0.91 <= np.mean(held) <= 0.985 and told > 180


def test_judges_at_large_take_five():
    rows = full(2, 2)
    prompts = prompts_of(rows)

    def of(judge, shift):
        return table(prompts, [Take(p.name, {judge: 2 + shift * (p.choices["a"] == "1")}) for p in prompts])

    shifts = [0.5, 0.9, 1.1, 1.5, 1.0]
    found = at_large([of(f"j{i}", s) for i, s in enumerate(shifts)])
    bounds = stats.ttest_1samp(shifts, 0).confidence_interval(0.95)
    assert found[0].size == pytest.approx(1.0) and found[0].low == pytest.approx(bounds.low) and at_large([of("a", 1.0)] * 4) == []


def test_models_are_compared_on_prompts_that_both_had():
    prompts = [Prompt(str(i), {"light": str(i // 2), "model": "mn"[i % 2]}) for i in range(8)] + [Prompt("8", {"light": "9", "model": "m"})]
    found = table(prompts, [Take(p.name, {"a": i % 2 + (i // 2) * 0.1 + (0.4 if i == 3 else 0)}) for i, p in enumerate(prompts)])
    assert (paired(found, "model")[0].first, paired(found, "model")[0].prompts, paired(found, "model")[0].size) == ("m", 4, pytest.approx(1.1)) and paired(found, "lens") == []


def test_money_for_one_that_is_kept():
    found = prices(judged(["0", "0", "1", "1"], [1, 0, 0, 0], draws=4), np.array([4.0, 4.0, 2.0, 2.0]))
    kept, none = found[0], found[1]
    assert kept.size == 8 and kept.low < 8 < kept.most < np.inf and none.kept == 0 and np.isinf(none.most) and none.size == none.low > 2


def test_marks_as_an_order_say_the_same():
    rows = full(2, 2) * 6
    factors = factors_of(prompts_of(rows))
    marks = [(4 if row[0] == "1" else 2) + i % 2 for i, row in enumerate(rows)]
    sizes = odds(factors, range(len(rows)), marks)
    assert sizes[0] > 1.5 and abs(sizes[1]) < abs(sizes[0]) and len(sizes) == len(contrasts(factors))
    with pytest.raises(ValueError):
        odds(factors, range(4), [3, 3, 3, 3])


def test_what_to_expect_and_what_more_would_bring():
    factors = factors_of(prompts_of(full(2, 2) * 3))
    one = widths(factors, 1, 1.0, 1.0)[0].half
    assert one == pytest.approx(stats.t.ppf(0.975, 9) * 2**0.5 * (1 / 3) ** 0.5) and widths(factors, 4, 1.0, 1.0)[0].half < one
    assert np.isinf(widths(factors_of(prompts_of(COVER)), 2)[0].half)
    found = fit(judged(full(2, 2) * 3, np.arange(12) % 5), permuted=1)
    now = found.effects[0].high - found.effects[0].size
    assert now * 0.5 < narrowed(factors, found, 12) < now * 1.1


def test_the_next_prompts_fill_what_is_missing_and_keep_off_what_may_not_stand():
    rows = ["00", "00", "00", "10", "10", "20"]
    factors = factors_of([*prompts_of(rows), Prompt("x", {"a": "2", "b": "1"})])
    found = next_rows(factors, 2)
    assert all(row[1] == 1 for row in found) and (2, 1) not in found
    assert next_rows(factors, 3, lambda row: row[1] == 0 or row[0] == 1) and all(row[1] == 0 or row[0] == 1 for row in next_rows(factors, 3, lambda row: row[1] == 0 or row[0] == 1))
    before = np.linalg.slogdet(coded(factors).T @ coded(factors))[1]
    more = factors._replace(rows=np.vstack([factors.rows, found]))
    assert np.linalg.slogdet(coded(more).T @ coded(more))[1] > before
    assert len(next_rows(factors, 20)) == 20 and next_rows(factors, 2, lambda _: False) == []


def test_strengths_out_of_pairs():
    found = strengths(3, [Answer(0, 1, 1.0)] * 3 + [Answer(1, 2, 1.0)] * 3 + [Answer(0, 1, 0.0)])
    assert found.values[0] > found.values[1] > found.values[2] and found.values.sum() == pytest.approx(0)
    tie = strengths(2, [Answer(0, 1, 0.5)] * 4)
    assert tie.values.tolist() == pytest.approx([0, 0]) and (strengths(2, []).errors > tie.errors).all()
    assert abs(strengths(2, [Answer(0, 1, 1.0)] * 50).values[0]) < 6


def test_pairs_hang_together_balance_and_repeat():
    answers, random = [], Random(1)
    for n in range(120):
        i, j = next_pair(12, answers, seed=5)
        assert i != j
        answers.append(Answer(i, j, float(random.random() < 1 / (1 + np.exp((j - i) / 3)))))
        if n == 11:
            assert hang_together(12, answers)
    left = [sum(a.first == i for a in answers) - sum(a.second == i for a in answers) for i in range(12)]
    assert max(map(abs, left)) <= 6
    assert any((b.first, b.second) == (a.second, a.first) for n, a in enumerate(answers) for b in answers[n + 1 :])
    assert next_pair(1, []) is None and not hang_together(3, [Answer(0, 1, 1.0)])
    assert strengths(12, answers).values.argmax() >= 6


def test_the_order_of_judging():
    ids = list(range(100, 124))
    said: list[int] = []
    while (one := next_one(ids, said, "lights Ada")) is not None:
        said.append(one)
    assert set(said) == set(ids) and len(said) == wanted(ids) == 26 and next_one(ids, [], "lights Bo") != said[0]
    twice = [n for n in ids if said.count(n) == 2]
    assert len(twice) == 2 and all(abs(said.index(n) - (len(said) - 1 - said[::-1].index(n))) > 4 for n in twice)
    pairs = pair_list(9, 1)
    assert len(pairs) == pairs_wanted(9) and {i for pair in pairs for i in pair} == set(range(9)) and pair_list(2, 1) == [(0, 1)] and pair_list(1, 1) == []


def test_agreement():
    assert alpha([{"a": 1, "b": 1}, {"a": 4, "b": 4}, {"a": 2, "b": 2}]) == 1.0
    assert alpha([{"a": 1, "b": 5}, {"a": 5, "b": 1}]) < 0 and np.isnan(alpha([{"a": 1}]))
    # Krippendorff's own example with the interval metric: alpha 0.849
    rows = [[1, 1, None, 1], [2, 2, 3, 2], [3, 3, 3, 3], [3, 3, 3, 3], [2, 2, 2, 2], [1, 2, 3, 4], [4, 4, 4, 4], [1, 1, 2, 1], [2, 2, 2, 2], [None, 5, 5, 5], [None, None, 1, 1], [None, None, 3, None]]
    assert alpha([{str(i): v for i, v in enumerate(row) if v is not None} for row in rows]) == pytest.approx(0.849, abs=0.001)
    assert steadiness([(1, 1), (3, 4)]) == 0.5 and steadiness([(3, 4)], 1) == 1 and np.isnan(steadiness([]))
    assert between([{"a": i, "b": 5 - i} for i in range(5)])["a", "b"] == pytest.approx(-1)


def test_phrases():
    said = [Verdict("light", "scud", "missing", 0.8, 4, 1.0)] * 4 + [Verdict("light", "scud", "shown", 0.8, 4, 4.0)] * 4 + [Verdict("medium", "linocut", "shown", 0.1, 1, 3.0)] * 8
    found = counts(said)
    assert (found[0].phrase, found[0].shown, found[0].missing, found[0].marks) == ("scud", 4, 4, 3.0) and found[0].chance < 0.1 and found[1].chance == 1.0
    both = goes_with(said)
    assert both.place_missing == pytest.approx(0.8) and both.place_shown < 0.5 and goes_with(said[:4]) is None
    assert false_discovery([0.01, 0.04, 0.03, 0.5]) == pytest.approx([0.04, 0.16 / 3, 0.16 / 3, 0.5]) and false_discovery([]) == []
