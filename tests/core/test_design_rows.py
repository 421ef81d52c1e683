"""Covers, spreads, draws, mixed designs and rules, each verified by a check of its own."""

from itertools import combinations, product
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from syntagma.core.designs.constraints import Named, cause, read_rules
from syntagma.core.designs.cover import bound, cover
from syntagma.core.designs.cover_algebra import (
    developed,
    field,
    next_order,
    polynomials,
    prime_power,
    starter,
    subset_rows,
    subsets,
)
from syntagma.core.designs.cover_search import searched
from syntagma.core.designs.level_rows import Space, greedy, impossible
from syntagma.core.designs.mixed import DesignModel, mixed
from syntagma.core.designs.plain_rows import drawn, ladder
from syntagma.core.designs.spread import evenness, smallest_distance, spread


def allows(space, row):
    """May a row stand? Gone through one by one, beside the program's own look-up."""
    return not any(all(row[axis] == level for axis, level in nogood) for nogood in space.nogoods)


def covered(rows, levels, strength=2, never=()):
    """Does every choice of levels come up on every few axes, those in `never` apart? Counted tuple by tuple."""
    for axes in combinations(range(len(levels)), strength):
        held = {tuple(int(row[a]) for a in axes) for row in rows}
        for wanted in product(*(range(levels[a]) for a in axes)):
            if wanted not in held and (axes, wanted) not in never:
                return False
    return True


@pytest.mark.long
@pytest.mark.parametrize(
    ("levels", "strength", "most"),
    [([3] * 6, 3, 33), ([2] * 6, 3, 12), ([3, 3, 2, 2], 3, 18), ([4, 3, 3, 2, 2], 3, 36)],
)
def test_covers_of_triples_are_searched_for(levels, strength, most):
    rows = cover(Space(tuple(levels)), strength, 1.0)
    assert covered(rows, levels, strength) and len(rows) <= most
    assert (rows == cover(Space(tuple(levels)), strength, 1.0)).all()


@pytest.mark.long
def test_effort_makes_a_cover_of_triples_smaller():
    little, much = (len(cover(Space((4,) * 6), 3, effort)) for effort in (0.02, 1.0))
    assert much < little


def test_a_search_that_is_too_short_finds_nothing():
    assert (
        searched([3] * 6, 3, 33, 3, 0, Random(1)) is None
        and searched([3] * 6, 3, 20, 1, 50, Random(1)) is None
    )
    found = searched([3] * 4, 3, 27, 1, 4000, Random(2))
    assert found is None or covered(found, [3] * 4, 3)


@pytest.mark.parametrize("order", [2, 3, 4, 5, 7, 8, 9, 13, 16, 25, 27])
def test_fields(order):
    gf = field(order)
    a, b, c = np.array(
        [(x, y, z) for x in range(order) for y in range(0, order, 3) for z in range(0, order, 2)]
    ).T
    assert (gf.multiply[a, gf.add[b, c]] == gf.add[gf.multiply[a, b], gf.multiply[a, c]]).all()
    assert (gf.multiply[gf.multiply[a, b], c] == gf.multiply[a, gf.multiply[b, c]]).all()
    assert all(sorted(gf.multiply[x, 1:]) == list(range(1, order)) for x in range(1, order))


def test_orders_of_fields():
    assert (
        [next_order(n) for n in (2, 6, 10, 12, 14, 15)] == [2, 7, 11, 13, 16, 16]
        and prime_power(12) is None
        and prime_power(81) == (3, 4)
    )


@pytest.mark.parametrize(("levels", "strength", "rows"), [([3] * 4, 2, 9), ([4] * 5, 2, 16), ([5] * 6, 3, 125), ([8] * 9, 2, 64), ([2] * 3, 3, 8)])  # fmt: skip
def test_polynomials(levels, strength, rows):
    array = polynomials(levels, strength)
    assert len(array) == rows and covered(array, levels, strength)


@pytest.mark.parametrize(("axes", "rows"), [(3, 4), (4, 5), (10, 6), (15, 7), (35, 8), (100, 10)])
def test_subsets(axes, rows):
    array = subsets(axes)
    assert subset_rows(axes) == len(array) == rows and covered(array, [2] * axes)


def test_a_starter_developed():
    vector = starter(8, 5, 4000, Random(1))
    assert covered(developed(vector, 5), [5] * 8) and len(developed(vector, 5)) == 33
    assert starter(4, 5, 100, Random(1)) is None


@pytest.mark.long
@pytest.mark.parametrize(("levels", "strength", "most"), [
    ([3] * 4, 2, 9), ([5] * 6, 3, 125), ([2] * 100, 2, 10), ([12, 12, 8, 6, 6, 4], 2, 144), ([9, 7, 5, 3], 2, 63), ([4] * 6 + [3] * 5, 2, 24), ([1, 3, 2], 2, 6),
    ([7], 2, 7), ([3, 3, 2, 2], 3, 20), ([6] * 5, 2, 42),
])  # fmt: skip
def test_covers(levels, strength, most):
    rows = cover(Space(tuple(levels)), strength, 0.05)
    assert bound(levels, strength) <= len(rows) <= most and covered(
        rows, levels, min(strength, len(levels))
    )
    assert all(0 <= v < n for row in rows for v, n in zip(row, levels, strict=True))
    assert (rows == cover(Space(tuple(levels)), strength, 0.05)).all()  # the same on any machine


@pytest.mark.long
@pytest.mark.parametrize(
    ("levels", "effort", "most"),
    [
        ([3] * 13, 0.05, 15),
        ([4] * 15 + [3] * 17 + [2] * 29, 0.3, 34),
        ([4] + [3] * 39 + [2] * 35, 0.3, 23),
        ([10] * 20, 0.05, 181),
    ],
)
def test_covers_of_many_axes(levels, effort, most):
    rows = cover(Space(tuple(levels)), 2, effort)
    assert len(rows) <= most and covered(rows, levels)


def test_groups_of_axes_are_covered_as_far_as_rules_let_them():
    space = Space((2, 2, 3), (frozenset({(0, 0), (1, 1)}),))
    rows = greedy(space, 1, Random(1), more=[(0, 1, 2)])
    assert {tuple(row) for row in rows} == {
        row for row in product(range(2), range(2), range(3)) if row[:2] != (0, 1)
    }
    free = greedy(Space((2, 2, 3)), 1, Random(1), more=[(0, 1)])
    assert {tuple(row[:2]) for row in free} == set(product(range(2), range(2))) and len(free) == 4


NOGOODS = st.lists(
    st.sets(st.tuples(st.integers(0, 3), st.integers(0, 2)), min_size=1, max_size=3).map(frozenset),
    max_size=6,
)


@settings(max_examples=30, deadline=None)
@given(
    st.lists(st.integers(1, 4), min_size=4, max_size=5),
    NOGOODS,
    st.integers(0, 99),
    st.sampled_from([2, 3]),
)
def test_every_cover_obeys_rules_and_covers_what_is_possible(levels, nogoods, draw, strength):
    space = Space(
        tuple(levels),
        tuple(
            n
            for n in nogoods
            if all(v < levels[a] for a, v in n) and len({a for a, _ in n}) == len(n)
        ),
    )
    if space.index().completes({}) is None:
        return
    rows = cover(space, strength, 0.002, Random(draw))
    never = set(impossible(space, strength))
    every = [row for row in product(*map(range, levels)) if allows(space, row)]
    told = {
        (axes, tuple(row[a] for a in axes))
        for row in every
        for axes in combinations(range(len(levels)), strength)
    }
    assert not never & told  # what is called impossible is in no allowed row
    assert all(allows(space, list(map(int, row))) for row in rows) and covered(
        rows, levels, strength, never
    )
    assert covered(greedy(space, strength, Random(draw)), levels, strength, never)


@settings(max_examples=30, deadline=None)
@given(st.lists(st.integers(2, 9), min_size=2, max_size=6), st.integers(1, 30), st.integers(0, 99))
def test_spreads_are_balanced_and_apart(levels, count, draw):
    rows = spread(Space(tuple(levels)), count, Random(draw), 0.1)
    assert rows.shape == (count, len(levels))
    for i, v in enumerate(levels):
        counts = np.bincount(rows[:, i], minlength=v)
        assert counts.max() - counts.min() <= 1
    if 1 < count <= np.prod(levels) / 2:
        assert smallest_distance(rows) >= 1
    assert (rows == spread(Space(tuple(levels)), count, Random(draw), 0.1)).all()


def test_a_spread_beats_chance_and_keeps_what_is_fixed():
    levels, random = (5, 6, 7, 8, 9, 5), Random(3)
    ours, chance = (
        spread(Space(levels), 24, random),
        np.array([[random.randrange(v) for v in levels] for _ in range(24)]),
    )
    assert evenness(ours, levels) > evenness(chance, levels) and smallest_distance(
        ours
    ) > smallest_distance(chance)
    again = spread(Space(levels), 24, Random(4), 1.0, [list(row) for row in ours[:20]])
    assert (again[:20] == ours[:20]).all()
    assert all(np.ptp(np.bincount(again[:, i], minlength=v)) <= 1 for i, v in enumerate(levels))
    ruled = Space(levels, (frozenset({(0, 0), (1, 1)}), frozenset({(2, 3)})))
    assert all(allows(ruled, list(row)) for row in spread(ruled, 24, Random(1)).tolist())


def test_mixed_designs():
    found = mixed(Space((3, 3, 3, 3)), 9, DesignModel((0, 1, 2, 3)), Random(1))
    assert found.efficiency == pytest.approx(1.0)  # there is an orthogonal array, and it is found
    pairs = mixed(Space((2, 3, 3)), 18, DesignModel((0, 1, 2), ((1, 2),)), Random(1))
    counts = {
        (a, b): sum(1 for row in pairs.rows.tolist() if row[1:] == [a, b])
        for a in range(3)
        for b in range(3)
    }
    assert set(counts.values()) == {2} and pairs.efficiency == pytest.approx(1.0)
    ruled = Space((3, 3), (frozenset({(0, 0), (1, 0)}),))
    assert all(
        allows(ruled, row) for row in mixed(ruled, 8, DesignModel((0, 1)), Random(1)).rows.tolist()
    )


def test_draws_and_ladders():
    space = Space((3, 2), (frozenset({(0, 2), (1, 1)}),))
    rows = drawn(space, [[1, 1, 8], [1, 1]], Random(1))
    some = [next(rows) for _ in range(300)]
    assert all(allows(space, row) for row in some) and sum(row[0] == 2 for row in some) > 150
    assert list(drawn(Space((1,), (frozenset({(0, 0)}),)), [[1]], Random(1))) == []
    assert (
        ladder(11, 3) == [0, 5, 10]
        and ladder(4, None) == [0, 1, 2, 3]
        and ladder(9, 1) == [0]
        and ladder(3, 9) == [0, 1, 2]
    )


def names(*levels):
    return [frozenset(level.split("|")) for level in levels]


NAMED = Named(["light", "medium", "palette"], [names("candlelight|#night", "noon sun|#day"), names("linocut|#print", "gouache"), names("ink blue", "pastels", "tar and red")],
              {"setting": frozenset({"wet quay", "#sea"})})  # fmt: skip


@pytest.mark.parametrize(("rule", "nogoods"), [
    ("never candlelight with pastels", [{(0, 0), (2, 1)}]),
    ("never #day with linocut or gouache", [{(0, 1), (1, 0)}, {(0, 1), (1, 1)}]),
    ("never candlelight with linocut with pastels", [{(0, 0), (1, 0), (2, 1)}]),
    ("never linocut", [{(1, 0)}]),
    ('if medium is linocut and light is #day then palette is ink blue or "tar and red"', [{(1, 0), (0, 1), (2, 1)}]),
    ("if light is not candlelight then medium is not gouache", [{(0, 1), (1, 1)}]),
    ("if setting is wet quay then light is candlelight", [{(0, 1)}]),
    ("if setting is dry land then light is candlelight", None),
    ("only candlelight with ink blue or pastels", [{(0, 0), (2, 2)}]),
    ("never #sea with noon sun", [{(0, 1)}]),
    ("never #desert with noon sun", []),
    ("perhaps linocut", None), ("never", None), ("if medium is linocut", None), ("if meduim is linocut then light is candlelight", None), ("never linocutt with pastels", None),
    ("# a note", []),
])  # fmt: skip
def test_rules(rule, nogoods):
    rules, mistakes = read_rules([rule], NAMED, "--rule")
    if nogoods is None:
        assert not rules and len(mistakes) == 1 and mistakes[0].remedy
    else:
        assert not mistakes and [n for r in rules for n in r.nogoods] == [
            frozenset(n) for n in nogoods
        ]


def test_a_contradiction_is_explained_by_its_smallest_cause():
    lines = [
        "never pastels with linocut",
        "never #sea with noon sun",
        "if light is candlelight then medium is gouache",
        "never gouache with candlelight",
        "never ink blue with gouache",
    ]
    rules, _ = read_rules(lines, NAMED, "rules")
    assert [rule.text for rule in cause((2, 2, 3), rules)] == lines[1:4]
    assert cause((2, 2, 3), rules[:2]) == []
