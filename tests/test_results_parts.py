"""Parts of what is done with results: which row a downloaded file answers, and where a phrase applies that something was said of."""

from math import isnan
from pathlib import Path

import pytest

from syntagma.app.results.downloads import USUAL, OpenTake, SeenFile, matched
from syntagma.app.results.judged import Judged, verdicts_of
from syntagma.core.judging.phrases import Verdict
from syntagma.storage.library import Judgement, Kept

FOX, HEN = (
    "A linocut of a red fox in fog, bold simple shapes",
    "A gouache of a speckled hen on a gate at dawn",
)


def wanted(take, text=FOX, sent=0.0, size=None, tasks=()):
    return OpenTake(take.partition(".")[0], take, text, tasks=tasks, sent=sent, size=size)


def seen(name, time=0.0, prompt="", size=None):
    return SeenFile(Path(name), prompt, size, time)


@pytest.mark.parametrize(("file", "takes", "take", "sure"), [
    (seen("r2.1.png"), [wanted("r1.1"), wanted("r2.1")], "r2.1", True),
    (seen("xr2.1.png"), [wanted("r1.1"), wanted("r2.1")], "r1.1", False),  # no id by itself: by its order only
    (seen("a r2 b.png"), [wanted("r1.1"), wanted("r2.1"), wanted("r2.2")], "r2.1", True),
    (seen("out-task77.png"), [wanted("r1.1"), wanted("r2.1", tasks=("task77",))], "r2.1", True),
    (seen("x.png", prompt=HEN.upper()), [wanted("r1.1"), wanted("r2.1", HEN)], "r2.1", True),
    (seen("speckled_hen_on_a_gate_at.png"), [wanted("r1.1"), wanted("r2.1", HEN)], "r2.1", True),
    (seen("speckled_hen_on_a.png"), [wanted("r1.1"), wanted("r2.1", HEN)], "r2.1", False),
    # of two rows with the same words, the one that was sent last before the file came
    (seen("x.png", 15, FOX), [wanted("r1.1", sent=20), wanted("r2.1", sent=10)], "r2.1", False),
    (seen("x.png", 25, FOX), [wanted("r1.1", sent=10), wanted("r2.1", sent=20), wanted("r3.1", sent=30)], "r2.1", False),
    (seen("x.png", 5, FOX), [wanted("r1.1", sent=10), wanted("r2.1", sent=20)], "r1.1", False),
    (seen("x.png", 25, FOX), [wanted("r1.1", sent=10), wanted("r1.2", sent=20)], "r1.1", True),  # takes of one row, in their order
    # by order: a ratio that fits, and the first that was sent not long ago
    (seen("x.png", size=(200, 300)), [wanted("r1.1", size=(300, 200)), wanted("r2.1", size=(400, 600))], "r2.1", False),
    (seen("x.png", USUAL + 50), [wanted("r1.1", sent=10), wanted("r2.1", sent=60), wanted("r3.1", sent=70)], "r2.1", False),
    (seen("x.png", 5), [wanted("r1.1", sent=10)], "r1.1", False),
    (seen("x.png", size=(10, 30)), [wanted("r1.1", size=(30, 10))], None, False),
])  # fmt: skip
def test_which_row_a_file_answers(file, takes, take, sure):
    (found,) = matched([file], takes)
    assert (found.take and found.take.take, found.sure) == (take, sure), found.why


def test_a_take_is_answered_once():
    first, second, third = matched(
        [seen("a.png", 1), seen("r1.1.png", 2), seen("b.png", 3)], [wanted("r1.1"), wanted("r2.1")]
    )
    assert (first.take.take, second.take.take, third.take) == (
        "r2.1",
        "r1.1",
        None,
    ) and third.why == "no row is left for it"


def test_a_guess_between_rows_says_how_many_there_were():
    rows = [wanted("r1.1", sent=10), wanted("r2.1", sent=20), wanted("r3.1", sent=30)]
    (found,) = matched([seen("x.png", 25, FOX)], rows)
    assert found.why == "the picture carries the same prompt, as do 3 rows"
    (found,) = matched([seen("x.png", 25, FOX)], rows[:1])
    assert found.why == "the picture carries the same prompt"


def kept(number, text, rating=None):
    return Kept(
        number,
        "f",
        ".png",
        1,
        "",
        "",
        text,
        "",
        "m",
        "",
        "s",
        "",
        None,
        "",
        rating,
        "",
        "",
        "",
        "",
        {},
    )


def test_where_a_phrase_stands_that_something_was_said_of():
    said = [
        Judgement("ada", "s", "phrase", 1, "shown", slot="a", phrase="A linocut"), Judgement("ada", "s", "phrase", 1, "missing", slot="b", phrase="in fog"),
        Judgement("ada", "s", "phrase", 2, "shown", slot="c", phrase="no such words"), Judgement("ada", "s", "rating", 2, "3"), Judgement("ada", "s", "phrase", 9, "shown", phrase="x"),
    ]  # fmt: skip
    found = verdicts_of(Judged("s", (), (kept(1, FOX, 4.0), kept(2, HEN)), {}, {}, tuple(said)))
    assert found[:2] == [
        Verdict("a", "A linocut", "shown", 0.0, 2, 4.0),
        Verdict("b", "in fog", "missing", FOX.find("in fog") / len(FOX), 2, 4.0),
    ]
    assert len(found) == 3 and isnan(found[2].place) and found[2].rating == 3.0
