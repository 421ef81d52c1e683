"""Every stand-in writes every formula: within its limits by a count of our own, in its form, JSON that parses."""

import json
import re

import pytest

from syntagma.app.asked import Ask, Taste
from syntagma.app.composing.composer import Composer
from syntagma.app.models.new_profile import try_model
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.checking.draft_checks import text_findings
from syntagma.core.writing.prompt import Manner
from syntagma.storage import folders

WORLD = Workspace(None, folders.layers(None)[:1])
STILL = [
    "photograph",
    "portrait",
    "product-still",
    "food-still",
    "interior",
    "landscape",
    "macro",
    "poster",
    "cover",
    "emblem",
    "storybook",
    "pattern",
    "character-sheet",
]
MOVING = [
    "film-shot",
    "dialogue-shot",
    "to-camera",
    "product-clip",
    "time-lapse",
    "looping-background",
    "between-frames",
    "three-shots",
    *STILL[:5],
]


def count(text: str, unit: str, letters: int) -> int:
    """The same by another way: letter by letter, without the program's own patterns."""
    if unit == "bytes":
        return sum(
            1 if ord(c) < 128 else 2 if ord(c) < 2048 else 3 if ord(c) < 65536 else 4 for c in text
        )
    if unit == "words":
        return len([w for w in text.split() if any(c.isalpha() or c.isdigit() for c in w)])
    if unit == "characters":
        return sum(1 for _ in text)
    tokens = run = 0
    for char in [*text, " "]:
        if char.isascii() and char.isalpha():
            run += 1
            continue
        tokens += -(-run // letters)
        run = 0
        tokens += not char.isspace()
    return tokens


def prompts(model: str, formula: str):
    for draw in (1, 2, 3):
        composer = Composer(
            WORLD,
            Ask(formula, model, taste=Taste(detail="rich", draw=draw), pick=True),
            remarks=False,
        )
        example = composer.writer.formula.head.example
        free = {
            s: example[s]
            for s in example
            if s in composer.writer.position
            and not composer.writer.rules[composer.writer.position[s]].facet
        }
        yield composer.compose(free if draw > 1 else example)


@pytest.mark.long
@pytest.mark.parametrize("model", sorted(WORLD.models()))
def test_a_stand_in(model):
    profile = WORLD.model(model)
    for formula in MOVING if profile.makes == "video" else STILL:
        for made in prompts(model, formula):
            prompt, where = made.prompt, (model, formula, made.prompt.text)
            for name, text in (
                ("text", prompt.words),
                ("whole", prompt.text),
                ("negative", prompt.negative),
                ("request", json.dumps(made.request, ensure_ascii=False, separators=(",", ":"))),
            ):
                limit = profile.limit(name)
                assert not limit or count(text, limit.unit, limit.letters) <= limit.most, (
                    name,
                    *where,
                )
            if profile.limit("text"):
                assert prompt.used == count(
                    prompt.words, profile.text_limit.unit, profile.text_limit.letters
                ), where
            if profile.register == "nested":
                assert isinstance(json.loads(prompt.text), dict), where
            else:
                assert text_findings(prompt.text) == [], where
            assert (
                "  " not in prompt.text
                and "{" not in prompt.text.replace("{", "", prompt.text.startswith("{"))
            ) or profile.register == "nested", where
            assert not [f for f in made.findings if f.kind == "error"], where
            json.loads(json.dumps(made.record))


@pytest.mark.parametrize(("model", "formula", "text"), [
    ("curlew-still", "photograph", "A realistic photograph of a harbour pilot checking a tide board, on a wet quay, in light drizzle, lit by sodium quay lamps. "
     "Shot on an 85mm lens, seen from a low angle. /shape 3x2"),
    ("dunlin-still", "photograph", "realistic photograph, harbour pilot, checking a tide board, wet quay, light drizzle, sodium quay lamps, 85mm lens, low angle"),
    ("sanderling-still", "photograph", "Make one picture. A realistic photograph of a harbour pilot checking a tide board, on a wet quay, in light drizzle. "
     "Shot on an 85mm lens, seen from a low angle. Without illustration or heavy retouching. [[wd]] [[light=lamp]]"),
    ("turnstone-still", "photograph", "MAIN | a realistic photograph of a harbour pilot\nDEED | checking a tide board\nPLACE | on a wet quay\nWEATHER | in light drizzle\n"
     "LIGHT | lit by sodium quay lamps\nCAMERA | shot on an 85mm lens, seen from a low angle\nNOT | illustration / heavy retouching"),
    ("whimbrel-motion", "dialogue-shot", 'Two-shot; the camera holds still. In a ticket office, lit by a single bare bulb, a night purser and a harbour pilot face to face. The night purser, '
     'slowly and drily, says "You are early." The harbour pilot, in a low, close voice, says "The tide is earlier." Ambience: a clock ticks.'),
    ("knot-motion", "dialogue-shot", "Two-shot; the camera holds still. In a ticket office, lit by a single bare bulb, a night purser and a harbour pilot face to face."),
    ("godwit-motion", "three-shots", "0:00-0:03 | Wide shot of a ticket office, lit by a single bare bulb.\n0:03-0:06 | Medium shot of a night purser punching a paper ticket; the camera pushes "
     "in slowly.\n0:06-0:09 | Close-up of the night purser, with a slight smile.\n(Around: a clock ticks).\nOne continuous look throughout.\n"
     "Never: subtitles, captions, lettering, morphing between the shots."),
])  # fmt: skip
def test_its_form(model, formula, text):
    composer = Composer(WORLD, Ask(formula, model), remarks=False)
    assert composer.compose(composer.writer.formula.head.example).prompt.text == text


def test_nested_form():
    composer = Composer(WORLD, Ask("photograph", "avocet-still"), remarks=False)
    made = composer.compose(composer.writer.formula.head.example)
    assert json.loads(made.prompt.text)["camera"] == {"lens": "85mm lens", "angle": "low angle"}
    assert (
        made.request["scene"] == made.prompt.text
        and made.request["leave_out"] == "illustration, heavy retouching"
    )


@pytest.mark.parametrize("model", sorted(WORLD.models()))
def test_the_trial_finds_no_error(model):
    tried = try_model(WORLD, model)
    assert len(tried) >= 10 and not [
        (t.sample, f) for t in tried for f in t.findings if f.kind == "error"
    ]


HABITS = {
    "registers": lambda p: p.register, "negative": lambda p: p.negative.way, "price": lambda p: p.price.per,
    "unit": lambda p: p.text_limit.unit, "reference": lambda p: next((r.at for r in p.reference.values()), ""),
}  # fmt: skip
WANTED = {
    "registers": {"prose", "tags", "labelled", "nested", "timed"}, "negative": {"field", "inline", "parameter", "folded", "none"},
    "price": {"prompt", "picture", "second", "thousand-tokens"}, "unit": {"characters", "words", "tokens", "bytes"},
}  # fmt: skip


def test_between_them_they_have_every_habit():
    profiles = [WORLD.model(name) for name in WORLD.models()]
    assert len(profiles) == 8
    for habit, wanted in WANTED.items():
        assert {HABITS[habit](p) for p in profiles} == wanted
    assert {r.at for p in profiles for r in p.reference.values()} == {
        "front",
        "after",
        "place",
        "field",
    }
    assert {p.stress.per for p in profiles if p.stress} == {"phrase", "word"} and any(
        "{marks}" in p.stress.pattern for p in profiles if p.stress
    )
    assert {m.text for p in profiles for m in p.menu.values()} == {"leaves", "stays"} and any(
        p.base for p in profiles
    )
    assert (
        any(p.limits.reach for p in profiles)
        and any(p.limit("request") for p in profiles)
        and any(p.limit("whole") for p in profiles)
    )
    assert {bool(p.rewriting.off) for p in profiles if p.rewriting} == {True, False} and any(
        p.silent for p in profiles
    )
    patterns = [p.write for profile in profiles for p in profile.parameter.values() if p.write]
    assert all(not re.match(r"--\w", pattern) for pattern in patterns)


def test_a_handle_a_picture_or_words(tmp_path):
    (tmp_path / "known.toml").write_text(
        '[moth]\nwords = "the lamp-room keeper\'s dog"\npicture = "moth.png"\nhandle = { avocet-still = "@moth9" }\n'
    )
    workspace = Workspace(None, [*folders.layers(None)[:1], folders.Layer("workspace", tmp_path)])
    said = {}
    for model in ("avocet-still", "sanderling-still", "dunlin-still", "whimbrel-motion"):
        made = Composer(
            workspace, Ask("[a subject] on [a place]", model, manner=Manner()), remarks=False
        ).compose({"subject": "@moth", "place": "quay"})
        said[model] = (made.prompt.text, [r.value for r in made.prompt.around.references])
    assert (
        said["avocet-still"][1] == ["@moth9"]
        and json.loads(said["avocet-still"][0])[
            "picture" if "picture" in said["avocet-still"][0] else "subject"
        ]
    )
    assert said["sanderling-still"] == (
        "(see moth.png) Make one picture. The lamp-room keeper's dog on a quay. [[sq]]",
        ["moth.png"],
    )
    assert (
        said["dunlin-still"][1] == []
        and "dog" in said["dunlin-still"][0]
        and said["whimbrel-motion"][1] == []
    )
