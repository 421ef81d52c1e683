"""A person's own words: cleaned of what surrounds and beside them, the kind in front; what no edit touches stays, character for character."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from syntagma.app.composing.wished import is_one_picture, read_wish
from syntagma.app.reading import cleaner, kinds, own_words, reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.editing.cleaning import Cleaned
from syntagma.core.editing.edits import Edit, edited, items, quotations
from syntagma.core.editing.leading import led, tags

WORLD = Workspace.load()
READER = reader_of(WORLD)


@pytest.mark.parametrize(("wish", "text"), [
    ("can you please make a photo of a red fox in the snow", "a photo of a red fox in the snow"), ("Hi! Could you whip up an image of a barista, rainy window? Thanks!", "A barista, rainy window"),
    ("show jumping at dusk, muddy field", "show jumping at dusk, muddy field"), ("draw bridge over a moat", "draw bridge over a moat"), ("I'm dying for a puppy covered in flour haha!", "A puppy covered in flour"),
    ("could we see two firefighters sharing an orange, tired faces?", "two firefighters sharing an orange, tired faces"), ("What about an astronaut doing laundry?", "An astronaut doing laundry"),
    ("Would a stained glass window of a jazz trio work, with deep reds?", "A stained glass window of a jazz trio, with deep reds"), ("how would a library look underwater? fish between the shelves", "a library underwater, fish between the shelves"),
    ("Show me what a station would look like if it was built by octopuses", "A station built by octopuses"), ("a kitten in a teacup!!! super cozy, please please", "a kitten in a teacup, super cozy"),
    ("sand dunes, don't forget the long shadow", "sand dunes, the long shadow"), ("a beatiful libary, dust in teh sunlight", "a beautiful library, dust in the sunlight"), ('a sign that says "teh end"', 'a sign that says "teh end"'),
    ("a vase w/ soft shadows", "a vase with soft shadows"), ("Teh Forrest sisters", "The Forrest sisters"), ("a poster that reads LOW TIDE, deep blues", 'a poster that reads "LOW TIDE", deep blues'), ("please", "please"), ("a road with no end", "a road with no end"), ("make a video of a dog following a parade", "a dog following a parade"),
    ("an 80s anime scene of a girl", "an 80s anime scene of a girl"), ("nine symbols, 3x3 grid", "nine symbols, 3x3 grid"), ("macro inserts every two seconds, brass gears", "macro inserts every two seconds, brass gears"),
    ("two sisters who are not on speaking terms", "two sisters who are not on speaking terms"), ("a man without a hat in the rain", "a man without a hat in the rain"), ("no longer young, still dancing", "no longer young, still dancing"),
    ("great white shark in clear water", "great white shark in clear water"), ("friends around a table", "friends around a table"), ("cool film noir alley in rain", "cool film noir alley in rain"), ("So thick was the fog that they stopped", "So thick was the fog that they stopped"),
    ("I want see-through jellyfish", "See-through jellyfish"), ("I'd like film noir alley", "Film noir alley"), ("give me paint pots on a shelf", "paint pots on a shelf"), ("can you draw horses", "horses"), ("please draw horses", "horses"), ("Please, film noir alley", "Film noir alley"), ("make me up a fox", "a fox"), ("I'd like you to paint a hare", "A hare"),
    ("generate really old trees", "really old trees"), ("just married couple in a car", "just married couple in a car"), ("ok so imagine a fox", "a fox"), ("Great, can you draw a fox", "A fox"), ("two friends at a bar saying cheers", "two friends at a bar saying cheers"), ("a card that says thank you", "a card that says thank you"),
    ("produce stall at a market, 1910s", "produce stall at a market, 1910s"), ("a smith hammers without stopping, not with her left hand", "a smith hammers without stopping, not with her left hand"), ("grey film, no color anywhere but the cigarette", "grey film, no color anywhere but the cigarette"),
    ("need smth for my group: a bard in a sewer", "a bard in a sewer"), ("I'm writing a cookbook and want a picture of a bowl of soup", "A bowl of soup"), ("Ok here's my idea: two astronauts", "Two astronauts"), ("What would a treehouse look like if it was designed by bees? cutaway", "A treehouse designed by bees, cutaway"),
    ("would you mind making a photo of bagels", "a photo of bagels"), ("could u generate a tavern", "a tavern"), ("a cottage, thank you dear", "a cottage"), ("How would a violin look made of ice, on velvet?", "A violin made of ice, on velvet"), ("Show me what a library on the moon could look like", "A library on the moon"),
    ("bread, soft light — no hands", "bread, soft light"), ("make it look like an instant photo: two friends", "an instant photo: two friends"), ("a wolf in fog, nobody around", "a wolf in fog, nobody around"), ("nothing moves in the heat", "nothing moves in the heat"),
    ("A chair. No people, no lamps. Light from above.", "A chair. Light from above."), ("A nest; with no bird; twigs", "A nest; twigs"), ('could you make an owl saying "who? me" in fog', 'an owl saying "who? me" in fog'), (r'a sign with the words \"NO WAY\", rain', 'a sign with the words "NO WAY", rain'), ("A bowl of soup\nno spoon\nsteam rising", "A bowl of soup, steam rising"),
])  # fmt: skip
def test_what_stands_round_a_wish_goes(wish, text):
    assert cleaner().clean(wish).text == text


@pytest.mark.parametrize(("wish", "said"), [
    ("a fox, no people", {"negative": ("people",)}), ("a fox, no text, no watermark, 4:5", {"negative": ("text", "watermark"), "parameters": {"ratio": "4:5"}}), ("a woman in a coat who is not smiling", {"negative": ("smiling",)}),
    ("a map with tiny ships and no sea monsters", {"negative": ("sea monsters",)}), ("a bridge in fog and without tourists", {"negative": ("tourists",)}), ("a tattoo, skin not shown", {"negative": ("skin",)}),
    ("a beach w/o people", {"negative": ("people",)}), ("a portrait, not smiling", {"negative": ("smiling",)}), ("an empty beach without anyone", {"negative": ("anyone",)}), ("a street with no cars and no people", {"negative": ("cars", "people")}), ("a cat, no music only the sound of rain", {"negative": ("music",)}), ("a lion, not scary at all", {"negative": ("scary",)}), ("Please make me a 16:9 picture of horses", {"parameters": {"ratio": "16:9"}}),
    ("a vase, square, no logo", {"negative": ("logo",), "parameters": {"ratio": "1:1"}}), ("a vertical clip of a baker, 8 seconds please", {"parameters": {"ratio": "9:16", "seconds": 8}, "moving": True}),
    ("a 5 second loop of a candle", {"parameters": {"seconds": 5}}), ("fireworks, ten seconds!", {"parameters": {"seconds": 10}}), ("a tour, half a minute", {"parameters": {"seconds": 30}}), ("a runner, 6s, 2.39:1", {"parameters": {"ratio": "2.39:1", "seconds": 6}}),
    ("I need three versions of a vase", {"pictures": 3}), ("a musician, 4 variations", {"pictures": 4}), ("can you draw me a dragon", {"made": "drawing"}), ("(silver hair:1.3), a girl", {"weights": {"silver hair": 1.3}}), ("((moon)), sea++", {"weights": {"moon": 1.2, "sea": 1.2}}),
    ("a fox, no text no watermark", {"negative": ("text", "watermark")}), ("a jar, do not add text", {"negative": ("text",)}), ("a loft kitchen, nobody in it", {"negative": ("people",)}), ("a hedgehog. Nothing scary please.", {"negative": ("scary",)}), ("phone wallpaper, a soap bubble", {"parameters": {"ratio": "9:16"}}),
    ("a video for stories: a skateboarder", {"parameters": {"ratio": "9:16"}, "moving": True}), ("a fox in snow --aspect 16:9 --seed 4, no people", {"negative": ("people",), "parameters": {"ratio": "16:9", "seed": "4"}}),
    ("a fox, Steps: 30, Sampler: standard", {"parameters": {"steps": "30", "sampler": "standard"}}), ("a bee on clover, no drops | 7 s", {"negative": ("drops",), "parameters": {"seconds": 7}}), ("a lane, no people 16:9", {"negative": ("people",), "parameters": {"ratio": "16:9"}}), ("a bee --aspect 4:5 --no wasps, text", {"negative": ("wasps", "text"), "parameters": {"ratio": "4:5"}}),
    ("cute dragon, (extra limbs:-1)", {"negative": ("extra limbs",)}), ("a duel, two cloaks. Never show the faces. Duration 30s.", {"negative": ("the faces",), "parameters": {"seconds": 30}}), ("{{{red panda}}}, BREAK, fog", {"weights": {"red panda": 1.2}}),
])  # fmt: skip
def test_what_is_said_beside_a_wish(wish, said):
    found = cleaner().clean(wish)
    plain = Cleaned("")
    assert {
        name: getattr(found, name)
        for name in Cleaned._fields
        if name not in ("text", "remarks") and getattr(found, name) != getattr(plain, name)
    } == said
    assert not any(
        word in found.text for word in ("no ", "16:9", "second", "variation", ":1.3", "((")
    )


@pytest.mark.parametrize(("wish", "text"), [
    ("old fisherman, mending net, harbor, close-up", "A close-up of an old fisherman, mending net, harbor"), ("two hedgehogs drinking tea, lantern light, linocut", "A linocut of two hedgehogs drinking tea, lantern light"),
    ("a label for cordial, botanical line drawing", "a label for cordial, botanical line drawing"), ("a haunted bakery, pixel art", "Pixel art of a haunted bakery"), ("two knights share an umbrella, one long dolly shot", "One long dolly shot: two knights share an umbrella"), ("Wild horses crossing a river", "Wild horses crossing a river"),
    ("Wide shot, eye level, ferry deck, commuters", "Wide shot, eye level, ferry deck, commuters"), ("watercolour of a village", "A watercolour of a village"), ("a dog waits. Then it rains, time-lapse", "a dog waits. Then it rains, time-lapse"),
    ("grandmother rolling dough, window light", "A grandmother rolling dough, window light"), ("lighthouse storm waves", "lighthouse storm waves"), ("a tour of a greenhouse, first person view", "a tour of a greenhouse, first person view"),
])  # fmt: skip
def test_the_kind_of_a_picture_leads(wish, text):
    assert led(wish, READER.read(wish), own_words()) == text


@pytest.mark.parametrize(("text", "kind"), [
    ("a fox in the snow", "photographed"), ("a tintype of a blacksmith, soot on his cheeks", "photographed"), ("two old men on a bench, 85mm, soft window light", "photographed"), ("a linocut of a crow on a fence post", "drawn"), ("goblin market at night, lanterns, oil painting", "drawn"),
    ("Could you draw a hedgehog in a woolly hat", "drawn"), ("Slow push in on a boxer taping her hands, she exhales", "moving"), ("a waiter turns and says \"Table nine.\", handheld", "moving"), ("rain on a window, seamless loop", "moving"), ("a logo for a coffee shop, two colours", "designed"),
    ("die-cut sticker of an angry avocado", "designed"), ("map of an island with a swamp, drawn on parchment", "designed"), ("a seamless pattern of figs and wasps", "designed"), ("a shop with \"VIDEO\" over its door, in the rain", "photographed"),
])  # fmt: skip
def test_the_kind_of_a_picture_is_told(text, kind):
    assert kinds(text, READER.read(text))[0].name == kind


def test_what_a_verb_says_leads_where_no_medium_is_named():
    assert (
        led("a map of an island", READER.read("a map of an island"), own_words(), "drawing")
        == "a map of an island"
    )
    assert (
        led("a dragon on a chair", READER.read("a dragon on a chair"), own_words(), "drawing")
        == "A drawing of a dragon on a chair"
    )


def test_items_keep_what_belongs_together():
    text = 'a sign "no, you", 1,000 candles (red, blue), f/1.4; Mr. Fox sings. It rains'
    assert [item.text for item in items(text)] == [
        'a sign "no, you"',
        "1,000 candles (red, blue)",
        "f/1.4",
        "Mr. Fox sings",
        "It rains",
    ]
    assert quotations("the cat's paw says 'go on' and “stop”") == [(19, 26), (31, 37)]


def test_tags_are_cut_where_the_reader_is_sure():
    text = "An ink drawing of a crooked house, rainy window behind"
    assert [words for words, _ in tags(text, READER.read(text))] == [
        "ink drawing",
        "crooked house",
        "rainy window behind",
    ]


@settings(max_examples=400, deadline=None)
@given(
    st.text(max_size=60),
    st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60), st.text(max_size=5)), max_size=6),
)
def test_what_no_edit_touches_stays(text, wanted):
    edits, at = [], 0
    for start, length, new in sorted(wanted):
        start, stop = (
            max(at, min(start, len(text))),
            min(max(at, min(start, len(text))) + length, len(text)),
        )
        edits.append(Edit(start, stop, new))
        at = stop
    out, edits = edited(text, edits), sorted(edits)
    kept, place = [], 0
    for one in edits:
        kept.append(text[place : one.start])
        place = one.stop
    rest = out
    for stretch, one in zip(kept, edits, strict=True):
        assert rest.startswith(stretch + one.new)
        rest = rest[len(stretch) + len(one.new) :]
    assert rest == text[place:]


def test_two_edits_of_one_word_are_refused():
    with pytest.raises(ValueError, match="same words"):
        edited("a fox", [Edit(0, 3), Edit(2, 5)])


@pytest.mark.long
def test_no_word_comes_out_that_did_not_go_in():
    """Over all marked prompts: but for typing errors that were mended, an article and "of", cleaning and leading add nothing."""
    import json
    import re
    from pathlib import Path

    added = {}
    for path in sorted((Path(__file__).parents[2] / "training" / "marked").glob("[a-g].jsonl")):
        for line in path.read_text("utf-8").splitlines()[:60]:
            wish = json.loads(line)["text"]
            if not is_one_picture(wish) or len(wish) > 600:
                continue
            found = read_wish(WORLD, wish, "prose")
            said = set(re.findall(r"\w+", wish.lower()))
            new = [
                word
                for word in re.findall(r"\w+", found.text.lower())
                if word not in said
                and word not in ("a", "an", "of", found.cleaned.made)
                and not found.cleaned.remarks
            ]
            if new:
                added[wish] = new
    assert added == {}
