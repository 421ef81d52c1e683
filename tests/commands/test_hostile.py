"""Hostile files and texts for every command, a fixed thousand; the long run is `python -m tests.hostile 20000`."""

import pytest

from tests.hostile import complaints


@pytest.mark.long
@pytest.mark.parametrize("seed", range(12))
def test_nothing_raises_hangs_lets_through_or_loses(seed):
    found = list(complaints(50, seed))
    assert not found, "\n".join(
        f"{one.what}: {one.call} (seed {one.seed})\n{one.said}" for one in found
    )
