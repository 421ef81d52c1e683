"""Frame rates and lengths of time as people write them."""

from fractions import Fraction

import pytest

from syntagma.core.notation.rates import FrameRate, rate_of, seconds_said


@pytest.mark.parametrize(("said", "exact", "drop"), [
    (24, "24", False), ("25 fps", "25", False), (23.976, "24000/1001", False), ("23.98", "24000/1001", False), (29.97, "30000/1001", False),
    ("29.97 drop", "30000/1001", True), ("29,97 df", "30000/1001", True), ("29.97 non-drop", "30000/1001", False), ("30000/1001", "30000/1001", False),
    (59.94, "60000/1001", False), (12.5, "25/2", False),
])  # fmt: skip
def test_a_rate_is_exact(said, exact, drop):
    assert rate_of(said) == FrameRate(Fraction(exact), drop, True)


@pytest.mark.parametrize("said", ["", "film", 7, 121, "24 drop", "30/0", True, "-25"])
def test_what_is_no_rate(said):
    assert rate_of(said) is None


@pytest.mark.parametrize(("said", "rate", "seconds"), [
    ("4", 24, 4), ("4.5 s", 24, 4.5), ("4,5 sec.", 24, 4.5), ("0:05", 24, 5), ("1'30", 24, 90), ("2 min 5 s", 24, 125), ('5"', 24, 5), ("5''", 24, 5),
    ("00:00:05:12", 24, 5.5), ("00:00:05:12", 25, 5.48), ("00:00:01.250", 24, 1.25), ("01:00:00", 24, 3600),
    # drop-frame: two numbers are left out in each minute but every tenth, so an hour of it is an hour of the clock to a frame
    ("00:01:00;02", "29.97 drop", 60.06), ("01:00:00;00", "29.97 drop", 3599.9964), ("01:00:00:00", "29.97", 3603.6),
    ("1:75", 24, None), ("00:00:05:24", 24, None), ("00:61:00:00", 24, None), ("soon", 24, None), ("", 24, None), ("s", 24, None),
])  # fmt: skip
def test_a_length_of_time(said, rate, seconds):
    found = seconds_said(said, rate_of(rate))
    assert found == (None if seconds is None else pytest.approx(seconds, abs=1e-4))
