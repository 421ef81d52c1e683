"""A text of somebody's own put into a formula: its core whole, items in their slots, all else as guests; what is typed for a facet that has no slot, at its home."""

import json
import re
from pathlib import Path

import pytest

from syntagma.app.asked import Ask
from syntagma.app.composing.composer import Composer
from syntagma.app.composing.wished import formula_for
from syntagma.app.reading import tables
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.english.verbs import base_of
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
CLOSING = "bold simple shapes, clear space at the top for lettering"


def put(formula, text, given=None, **more):
    return Composer(WORLD, Ask(formula)).compose(given or {}, text, **more)


@pytest.mark.parametrize(("formula", "text", "out"), [
    ("photograph", "a tired harbour pilot checking a tide board on a wet quay, at dusk", "A realistic photograph of a tired harbour pilot checking a tide board on a wet quay, at dusk"),
    ("photograph", "cinematic still of a lighthouse keeper at dusk. Dust motes, film grain", "A cinematic still of a lighthouse keeper at dusk. Dust motes, film grain"),
    ("photograph", "A trucker stirs his coffee. Rain streaks the window behind him.", "A realistic photograph of a trucker stirring his coffee. Rain streaks the window behind him."),
    ("picture", "Extreme close-up, the eye of a chameleon rotating, scales shifting from green to turquoise, macro lens", "The eye of a chameleon rotating, extreme close-up, shot on a macro lens, scales shifting from green to turquoise"),
    ("poster", "watercolour of vats filled with saffron, indigo and chalk-white dye, workers knee-deep", f"A watercolour of vats filled with saffron, indigo and chalk-white dye, workers knee-deep. {CLOSING[0].upper()}{CLOSING[1:]}"),
    ("photograph", "a harbour pilot on a quay, crying, in a hat of tin. Film grain", "A realistic photograph of a harbour pilot on a quay crying, in a hat of tin. Film grain"),
    ("poster", "The camera glides over a frozen lake, smoke", f"The camera glides over a frozen lake. Smoke, {CLOSING}"), ("poster", "a poster of a car ferry, linocut", f"A linocut of a car ferry. {CLOSING[0].upper()}{CLOSING[1:]}"),
    ("poster", "In a ballroom, chandeliers sway over a diver. Its floor is wet.", f"In a ballroom, chandeliers sway over a diver. Its floor is wet. {CLOSING[0].upper()}{CLOSING[1:]}"), ("picture", "a sign that reads 'SOUP', oxblood and cream", "A sign that reads 'SOUP', in oxblood and cream"),
    ("poster", "a pilot checking a tide board, on a wet quay in light drizzle, sodium lamps, hushed mood", f"A pilot checking a tide board, on a wet quay in light drizzle, lit by sodium lamps. With a hushed mood, {CLOSING}"), ("photograph", "ballet shoes, worn satin", "A realistic photograph of ballet shoes, worn satin"), ("photograph", "an owl, oil on canvas", "A realistic photograph of an owl. Oil on canvas"), ("picture", "Subject: an old clockmaker\nAction: sets a clock\nLighting: low sun", "An old clockmaker setting a clock, lit by low sun."),
    ("photograph", 'a baker, he says: "Late."', 'A realistic photograph of a baker. He says: "Late."'), ("landscape", "a frozen lake at dawn, no people", "A landscape photograph of a frozen lake at dawn. Fine detail from the foreground to the skyline, natural colour"),
    ("picture", "pixel art of a haunted bakery", "Pixel art of a haunted bakery"), ("picture", "silver hair, a girl in a red coat, fog", "A girl in a red coat, in fog, silver hair"), ("picture", "For the cover of my novel I see a boat, tied to nothing", "A boat, tied to nothing"), ("picture", "On the far bank a boat lies, tied to nothing", "On the far bank a boat lies, tied to nothing."), ("picture", "lit from behind, a dancer", "A dancer, lit from behind"), ("photograph", "a scene of two boys who were late", "A realistic photograph of two boys who were late"), ("picture", "two boys were lighting a fire", "Two boys lighting a fire"),
])  # fmt: skip
def test_a_text_in_a_formula(formula, text, out):
    assert put(formula, text).prompt.text.rstrip(".") == out.rstrip(".")


@pytest.mark.parametrize(("text", "out"), [
    ("Ada, a baker in her sixties, unlocked the shop.", "Ada, a baker in her sixties, unlocking the shop"), ("A fox watched from the yard.", "a fox watching from the yard"), ("Snow is falling over the tramlines.", "snow falling over the tramlines"),
    ("Her grandson Ilyas was already asleep.", "her grandson Ilyas already asleep"), ("A child waited by the gate.", "a child waiting by the gate"),
])  # fmt: skip
def test_a_sentence_of_a_story(text, out):
    assert (
        put("photograph", text, told=True).prompt.text.rstrip(".")
        == f"A realistic photograph of {out}"
    )


@pytest.mark.parametrize(("given", "text", "out"), [
    ({"subject": "gull"}, "a harbour pilot on a wet quay", "A realistic photograph of a gull, on a wet quay"), ({"light": "candlelight"}, "a fox in a barn, low moon", "A realistic photograph of a fox in a barn, lit by candlelight"),
    ({"setting": "jetty"}, "a heron on a quay", "A realistic photograph of a heron, on a jetty"),
])  # fmt: skip
def test_what_is_given_stands_in_place_of_what_a_text_says(given, text, out):
    assert put("photograph", text, given).prompt.text.rstrip(".") == out


def test_nothing_is_picked_where_the_core_speaks():
    made = Composer(WORLD, Ask("photograph", pick=True)).compose({}, "a fox sleeping in the snow")
    assert (
        made.prompt.text.startswith("A realistic photograph of a fox sleeping in the snow")
        and {"action", "setting", "telling-detail"}.isdisjoint(made.record["fills"])
        and made.record["fills"]["lens"]
    )


@pytest.mark.parametrize(("facet", "words", "out"), [
    ("focus", "shallow depth of field", "A heron. With shallow depth of field"), ("lens", "85mm lens", "A heron. Shot on an 85mm lens"), ("hour", "dusk", "A heron, at dusk"), ("composition", "wide gap", "A heron. With a wide gap"), ("expression", "wry smile", "A heron, with a wry smile"),
    ("colour-grade", "muted teal tones", "A heron. In muted teal tones"), ("technique", "wet-in-wet washes", "A heron. With wet-in-wet washes"), ("wardrobe", "in a red scarf", "A heron, in a red scarf"), ("music", "slow waltz", "A heron. With a slow waltz"), ("background", "pale wall", "A heron, against a pale wall"),
])  # fmt: skip
def test_a_guest_stands_at_its_home_and_is_led_to_by_its_noun(facet, words, out):
    made = Composer(WORLD, Ask("poster")).compose({"subject": "heron", facet: words})
    assert (
        made.prompt.text == f"{out}, {CLOSING}"
        or made.prompt.text == f"{out}. {CLOSING[0].upper()}{CLOSING[1:]}"
    )
    assert (
        "guest" in [one.code for one in made.findings if one.place == facet]
        and made.record["fills"][facet] == words
    )


def test_every_facet_has_a_home_and_every_join_a_slot():
    assert all(WORLD.vocabulary.traits[facet].home for facet in WORLD.vocabulary.names)
    assert len(tables().joins.joins) >= 20 and all(
        re.fullmatch(r"[a-z ]+\[(?:a |the )?\{\}\]", join.say) for join in tables().joins.joins
    )


@pytest.mark.parametrize(
    ("subject", "out"),
    [
        ("harbour pilot", "harbour pilot"),
        ("harbour pilot in an oilskin coat", "harbour pilot in an oilskin coat"),
    ],
)
def test_typed_words_are_exact(subject, out):
    assert Composer(WORLD, Ask("picture")).compose({"subject": subject}).prompt.text == f"A {out}"
    picked = Composer(WORLD, Ask("picture", pick=True)).compose({"medium": "", "trait": ""})
    assert (
        Composer(WORLD, Ask("picture")).compose(picked.record["fills"]).prompt.text
        == picked.prompt.text
    )  # what was picked comes back by its fills


@pytest.mark.parametrize(
    ("wish", "name"),
    [
        ("a sticker of a sleepy otter", "sticker"),
        ("a fox in the snow", "photograph"),
        ("slow push in on a boxer, she exhales", "clip"),
        ("a linocut of a crow", "picture"),
    ],
)
def test_the_formula_for_a_wish(wish, name):
    assert formula_for(WORLD, wish) == name


LEADS = frozenset(
    "a an the in on at of with by lit shot seen from under against and to as is are was were it his her their he she they".split()
)


def stems(text):
    """The words of a text by their beginnings, whatever form a verb has."""
    return {
        re.sub(r"(?:ing|ed|es|s|e)$", "", base_of(word) or word)[:5]
        for word in re.findall(r"[^\W_]+", text.lower())
        if word not in LEADS
    }


@pytest.mark.long
def test_no_word_is_invented_in_a_formula():
    """Every sixth of the marked prompts of other people: what comes out in a formula without words of its own was in the text."""
    counted = invented = 0
    for path in sorted((Path(__file__).parents[2] / "training" / "marked").glob("[a-g].jsonl")):
        for line in path.read_text("utf-8").splitlines()[::6]:
            text = json.loads(line)["text"]
            more = stems(put("picture", text).prompt.text) - stems(text)
            counted, invented = counted + 1, invented + (len(more) > 0)
    assert counted > 130 and invented <= 0.05 * counted
