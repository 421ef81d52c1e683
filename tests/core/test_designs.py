"""Designs: which members, in which order, and what is passed over."""

from random import Random
from unittest.mock import patch

from hypothesis import given, settings
from hypothesis import strategies as st

from syntagma.core.designs import (
    Axis,
    Clashes,
    KeySet,
    full,
    full_size,
    level_rows,
    sampled,
    single,
    single_size,
)
from syntagma.core.drafting.fills import fill_of_term
from syntagma.core.vocabulary.terms import Term


def axis(name, *levels):
    return Axis(
        name,
        0,
        tuple(
            fill_of_term(Term(name, level)) if isinstance(level, str) else fill_of_term(level)
            for level in levels
        ),
    )


def said(combinations):
    return ["".join(f.shown if f else "_" for f in c) for c in combinations]


A, B, C = axis("a", "1", "2", "3"), axis("b", "x", "y"), axis("c", "p", "q")


def test_single():
    assert said(single([A, B, C])) == ["1xp", "2xp", "3xp", "1yp", "1xq"]
    assert single_size([A, B, C]) == 5


def test_full():
    assert said(full([A, B])) == ["1x", "1y", "2x", "2y", "3x", "3y"]
    assert full_size([A, B, C]) == 12


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.lists(st.integers(1, 5), min_size=1, max_size=4))
def test_a_sample_is_the_whole_once_baseline_first(draw, sizes):
    axes = [axis(str(i), *(f"{i}.{k} " for k in range(n))) for i, n in enumerate(sizes)]
    got = said(sampled(axes, Random(draw)))
    assert sorted(got) == sorted(said(full(axes)))
    assert got[0] == said(full(axes))[0]


def test_a_sample_of_a_huge_design_is_drawn_not_listed():
    axes = [axis(str(i), *map(str, range(9))) for i in range(30)]
    some = sampled(axes, Random(1))
    assert len({tuple(map(id, next(some))) for _ in range(500)}) == 500


NIGHT, NOON, LAMP = (
    Term("h", "night", tags=("night",)),
    Term("l", "noon sun", clashes=("#night",)),
    Term("l", "lamp"),
)


def test_clashes():
    axes = [axis("h", NIGHT, Term("h", "day")), axis("l", LAMP, NOON)]
    clashes = Clashes(axes, [])
    kept = said(c for c in full(axes) if not clashes.has(c))
    assert bool(clashes) and kept == ["nightlamp", "daylamp", "daynoon sun"]
    bad = next(c for c in full(axes) if clashes.has(c))
    assert clashes.why(bad) == "“noon sun” does not go with “night” (tagged night)"
    fixed = Clashes([axis("l", LAMP, NOON)], [fill_of_term(NIGHT)])
    assert [fixed.has(c) for c in full([axis("l", LAMP)])] == [False]
    assert not Clashes([A, B], []) and not Clashes([axes[1]._replace(shown=False), axes[0]], [])


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.integers(-50, 50), max_size=300),
    st.sampled_from([0, 1, 10, 1000]),
    st.sampled_from([0, 7, 60, 1000]),
)
def test_twins_are_told_as_a_set_tells_them(keys, expected, few):
    with patch.object(level_rows, "FEW", few):  # where a set gives way to an array
        seen, known = KeySet(expected), set()
        told = seen.new(keys[:100]) + seen.new(keys[100:110]) + seen.new(keys[110:])
    for key, new in zip(keys, told, strict=True):
        assert new == ((key or 1) not in known)
        known.add(key or 1)


def test_twins_among_many():
    seen = KeySet(10)
    assert all(seen.new(range(1, 400_000))) and not any(seen.new(range(1, 400_000)))
    assert seen.new([-1, 7, -1]) == [True, False, False]
