"""Mistaken calls, written down before their answers were looked at (tests/mistakes): the answer shows the call that was meant, and none is taken in silence."""

import pytest

from benchmarks.mistakes import answered, mistakes
from tests.commands.program import good


@pytest.mark.long
def test_mistakes_are_answered_by_the_call_that_was_meant(tmp_path):
    good(tmp_path, "tour", ".")
    found = [(one, *answered(tmp_path, one)) for one in mistakes()]
    assert len(found) > 250 and [one for one, how, _ in found if how == "silence"] == []
    right = sum(how in ("meant", "understood") for _, how, _ in found)
    assert right >= 0.95 * len(found), [
        (one.typed, said) for one, how, said in found if how in ("another", "none")
    ]
