"""Colours, palettes, light and likeness of pictures that are drawn here."""

import numpy as np
import pytest

from syntagma.app.results.picture_read import colour_words
from syntagma.core.seeing.likeness import (
    Link,
    groups,
    hash_likeness,
    links_of_pictures,
    picture_hash,
    runs,
    text_likeness,
    twins_of_texts,
)
from syntagma.core.seeing.pictures import (
    as_hex,
    colours_in,
    detail,
    distance,
    look,
    matched,
    nearest_word,
    of_hex,
    oklab,
    palette,
)

WORDS = colour_words()


def test_the_space_is_the_published_one():
    assert oklab(np.array([1.0, 1, 1])) == pytest.approx([1, 0, 0], abs=1e-3)
    assert oklab(np.array([1.0, 0, 0])) == pytest.approx(
        [0.62796, 0.22486, 0.12585], abs=1e-3
    )  # Ottosson's page
    assert as_hex(of_hex("#3a7f11")) == "#3a7f11"


@pytest.mark.parametrize(
    ("code", "word"),
    [
        ("#818181", "grey"),
        ("#fdfdfd", "white"),
        ("#1b2a4b", "navy"),
        ("#f39b3c", "lamp orange"),
        ("#cc2020", "red"),
        ("#3c8a3c", "green"),
        ("#0a0a0a", "black"),
    ],
)
def test_words_for_colours(code, word):
    assert nearest_word(of_hex(code), WORDS) == word


def test_colours_that_a_text_names():
    assert len(colours_in("ink blue and lamp orange", WORDS)) == 2 and np.allclose(
        colours_in("ink blue and lamp orange", WORDS)[0], WORDS["lamp orange"]
    )
    assert colours_in("a wide harbour", WORDS) == []
    seen = [(WORDS["ink blue"], 0.7), (WORDS["lamp orange"], 0.3)]
    right, wrong = (
        matched(colours_in(text, WORDS), seen)
        for text in ("ink blue and lamp orange", "storm green and cream")
    )
    assert right > 0.95 and wrong < 0.3 and matched([], seen) == 0


def test_a_palette_is_read_through_noise():
    random = np.random.default_rng(4)
    colours = [(30, 40, 90), (240, 160, 60), (230, 225, 210)]
    pixels = np.concatenate(
        [np.tile(c, (n, 1)) for c, n in zip(colours, (600, 300, 100), strict=True)]
    ) + random.normal(0, 6, (1000, 3))
    found = palette(oklab(np.clip(pixels, 0, 255) / 255))
    assert [round(one.share, 1) for one in found] == [0.6, 0.3, 0.1]
    assert all(
        float(distance(one.lab, oklab(np.array(c) / 255))) < 0.05
        for one, c in zip(found, colours, strict=True)
    )
    assert len(palette(np.tile([0.5, 0.0, 0.0], (50, 1)))) == 1


def gradient(low, high, tint=(1, 1, 1)):
    return np.clip(
        np.linspace(low, high, 120)[None, :, None] * np.ones((90, 1, 1)) * np.array(tint), 0, 255
    ).astype("uint8")


@pytest.mark.parametrize(
    ("pixels", "words"),
    [
        (gradient(235, 250), ("high key", "little contrast", "neither warm nor cold", "")),
        (gradient(5, 40), ("low key", "little contrast", "neither warm nor cold", "right")),
        (gradient(250, 2, (1.0, 0.9, 0.6)), ("middle key", "strong contrast", "warm", "left")),
        (gradient(120, 130, (0.7, 0.95, 1.2)), ("middle key", "little contrast", "cold", "")),
    ],
)
def test_light(pixels, words):
    light = look(pixels).light
    assert (light.key_word, light.contrast_word, light.warmth_word, light.side) == words


def test_sharpness():
    crisp = np.zeros((100, 100, 3), "uint8")
    crisp[30:70, 30:70] = 255
    soft = crisp.astype(float)
    for _ in range(40):
        soft = (
            soft
            + np.roll(soft, 1, 0)
            + np.roll(soft, -1, 0)
            + np.roll(soft, 1, 1)
            + np.roll(soft, -1, 1)
        ) / 5
    assert (
        look(crisp).sharpness > 0.9
        and look(soft).sharpness < 0.2
        and look(np.full((50, 50, 3), 90)).sharpness == 0
    )


def test_pictures_that_are_alike():
    random = np.random.default_rng(2)
    one = np.cumsum(np.cumsum(random.normal(0, 1, (32, 32)), 0), 1)
    one = (one - one.min()) / (np.ptp(one)) * 255
    again = np.clip(one * 0.8 + 20 + random.normal(0, 4, one.shape), 0, 255)
    other = one[::-1, ::-1].T
    hashes = [picture_hash(p) for p in (one, other, again)]
    assert hash_likeness(hashes[0], hashes[2]) > 0.9 > 0.7 > hash_likeness(hashes[0], hashes[1])
    links = links_of_pictures(hashes)
    assert (
        [t.places for t in groups(links)] == [(0, 2)]
        and [t.places for t in groups(links, lambda place: place)] == [(2, 0)]
        and links_of_pictures([]) == []
    )


def test_nothing_goes_for_being_like_something_that_goes():
    chain = [Link(i, i + 1, 0.9) for i in range(5)]
    assert [t.places for t in groups(chain)] == [(0, 1), (2, 3), (4, 5)]
    assert [t.places for t in groups(chain, lambda place: place == 1)] == [(1, 0, 2), (3, 4)]


def test_the_same_words_in_another_order_are_alike():
    texts = [
        "A linocut of a red fox asleep in deep snow, dawn light, pale blue",
        "Asleep in the deep snow, a red fox; pale blue dawn light, linocut",
        "A linocut of a grey heron awake in deep water, noon light, pale blue",
    ]
    assert [one.places for one in twins_of_texts(texts)] == [(0, 1)]


def test_detail_tells_a_sharp_picture_from_a_soft_one():
    sharp = np.random.default_rng(3).integers(0, 255, (64, 64))
    soft = (
        sharp + np.roll(sharp, 1, 0) + np.roll(sharp, 1, 1) + np.roll(sharp, (1, 1), (0, 1))
    ) / 4
    assert detail(sharp) > 4 * detail(soft) > 0 == detail(np.zeros((2, 2)))


def test_a_grey_picture_has_grey_colours():
    greys = [(of_hex(code), 0.25) for code in ("#1c1c1c", "#5a5a5a", "#b3b3b3", "#d3d3d3")]
    tinted, plain = (
        matched(
            colours_in(
                text,
                WORDS
                | {
                    "ice blue": of_hex("#c9dbe6"),
                    "graphite": of_hex("#4a4d52"),
                    "silver grey": of_hex("#b9bcc0"),
                    "black": of_hex("#141414"),
                },
            ),
            greys,
        )
        for text in ("ice blue and graphite", "silver grey and black")
    )
    assert tinted < 0.5 < plain


def test_texts_that_are_alike():
    base = "A linocut of a car ferry in a slack-water harbour, lit by sodium quay lamps, ink blue and lamp orange, clear space at the top"
    texts = [
        base,
        base.replace("linocut", "linocut print"),
        "A watercolour of a red fox asleep in a snowy wood at dawn, soft and quiet, pale blue",
        base.upper(),
    ]
    found = twins_of_texts(texts)
    assert [one.places for one in found] == [(0, 1, 3)] and found[0].likeness > 0.82
    assert text_likeness(runs(texts[0]), runs(texts[2])) < 0.2 and twins_of_texts(["", "a"]) == []
    many = [f"{base} number {n}" for n in range(3)] + [
        f"word{n} other{n * 7} thing{n * 13} place{n * 29}" for n in range(300)
    ]
    assert [one.places for one in twins_of_texts(many)] == [(0, 1, 2)]
