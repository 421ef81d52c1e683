"""What stands round a wish: found by what was learned, never within a quotation, nor a sentence in which nobody speaks; and how it is learned."""

import random

import pytest

from syntagma.app.reading import cleaner, frames
from syntagma.core.editing.frame_words import choices, places, words_of
from training.frames import FILE, all_picture, groups_of, often, right, trained, unbraced, wishes

FRAMES = frames()


@pytest.mark.parametrize("line", [
    "{Hi! Could you please make} a heron on a pier, fog{, thank you}", "{I'm a teacher and I need} a diagram of a volcano", "{My grandson loves dinosaurs and trucks. Could you please make} a monster truck in a swamp{?}",
    "{would it be too much to ask for} a fox in a tailcoat{?}", "{for my blog,} a bowl of soup, side light", "a lighthouse in a storm{, cheers}", "a card that says thank you", "three sailors shouting cheers", "great white shark under a boat",
    "my old dog asleep by the stove", "a fox, snow, dusk, 85mm", 'a parrot says "could you make tea, please"', "an empty classroom, the chalk writes by itself: I WILL NOT DREAM", "Long ago the desert was an ocean. A whale's bones in the sand",
])  # fmt: skip
def test_the_frame_of_a_wish(line):
    assert right(unbraced(line), FRAMES)


@pytest.mark.parametrize("wish", ["", "please", "Thank you!", "can you", "a fox", "please " * 200])
def test_something_is_always_left(wish):
    found = FRAMES.found(wish)
    assert all(0 <= start < stop <= len(wish) for start, stop in found) and (
        not wish.strip() or cleaner().clean(wish).text
    )


def test_what_a_frame_told_is_said():
    done = cleaner().clean(
        "My grandson loves dinosaurs and trucks. Could you please make a monster truck in a swamp?"
    )
    assert (done.text, done.told) == (
        "A monster truck in a swamp",
        ("My grandson loves dinosaurs and trucks",),
    )
    assert cleaner().clean("Could you please make a fox?").told == ()


def test_each_place_has_its_choices():
    words = words_of("please, a fox, thanks")
    assert [place.begin for place in places(words)] == [0, 2, 6] and places(words)[-1].closing
    assert all(
        len(list(choices(words, place, frozenset({"please", "thanks"})))) <= place.most + 1
        for place in places(words)
    )


def test_a_frame_is_learned():
    """Trained on a tenth of the lines, it finds the frame of most of that tenth, and of few others none is wrong; nothing is learned from a wish in which the frame is marked elsewhere."""
    lines = [
        line for line in FILE.read_text("utf-8").splitlines() if line and not line.startswith("#")
    ][::10]
    prompts = all_picture(lines)[::20]
    known = often(lines)
    learned = trained(wishes(lines, prompts, random.Random(1)), known)
    own = [unbraced(line) for line in lines if line[0] not in "><+@"]
    assert sum(right(one, learned) for one in own) >= 0.6 * len(own) and sum(
        not learned.found(text) for text in prompts
    ) >= 0.9 * len(prompts)
    assert unbraced("{Can you} draw a fox{, please}") == (
        "Can you draw a fox, please",
        [(0, 7), (18, 26)],
    )
    (rows, best), *_ = groups_of(unbraced("{Can you draw} a fox"), known)
    assert best == 3 and all(rows)
