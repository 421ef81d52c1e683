"""What was read put into other forms: rewritten, compared, made shorter; and prompts read by their formula."""

import json
import re
from pathlib import Path

import pytest

from benchmarks.picks import picks
from benchmarks.reading import HERE, marked_prompts, reader
from benchmarks.roundtrips import fills_back
from syntagma.app.asked import Ask
from syntagma.app.existing.rewriting import RewriteRequest, rewrite, swapped
from syntagma.app.existing.shortening import frequencies
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Trouble
from syntagma.core.english.sentences import is_clause
from syntagma.core.models import PLAIN
from syntagma.core.models.measure import words as count_words
from syntagma.core.reading.formula_matching import Matcher
from syntagma.core.reading.formula_rewriting import lowered, swap_words
from syntagma.core.reading.prompt_pieces import compare
from syntagma.core.reading.shortening import shorten
from syntagma.core.writing.prompt_writer import Writer
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
READER = reader()
FORMULAS = sorted(p.stem for p in (Path(SHIPPED) / "formulas").glob("*.formula"))
PURSER = "A night purser counting tickets, medium shot, slow push-in. Lit by one lamp, in a ticket office."


@pytest.mark.long
@pytest.mark.parametrize("model", [None, "dunlin-still"])
def test_fills_come_back(model, monkeypatch):
    monkeypatch.setattr(
        Workspace, "every_situation", lambda self: []
    )  # terms of the vocabulary come back
    counts = [fills_back(WORLD, name, 2, model) for name in FORMULAS]
    assert (
        sum(good for good, _ in counts) >= 0.95 * sum(every for _, every in counts)
        and len(counts) >= 30
    )


def matcher(line):
    formula, _ = WORLD.formula(line)
    return Matcher(Writer(formula, PLAIN, WORLD.vocabulary))


@pytest.mark.parametrize(("line", "text", "fills"), [
    ("[a medium] of [a subject], [setting as place], lit by [a lighting]", "A linocut of a night purser, on a wet quay, lit by sodium quay lamps.",
     {"medium": "linocut", "subject": "night purser", "setting": "wet quay", "lighting": "sodium quay lamps"}),
    ("[a subject], lit by [a lighting], in [palette]", "An old tin whale, in tar black and signal red", {"subject": "old tin whale", "palette": "tar black and signal red"}),
    ("[a mood subject], [camera-move as clause]", "An eerie night purser, the camera pushes in slowly", {"mood": "eerie", "subject": "night purser", "camera-move": "slow push-in"}),
    ("[subject], [action]", "Night purser, counting coins into a palm", {"subject": "night purser", "action": "counting coins into a palm"}),
])  # fmt: skip
def test_matching(line, text, fills):
    assert matcher(line).match(text).fills == fills


@pytest.mark.parametrize("text", ["something else entirely", "", "x" * 3000])
def test_a_text_of_another_build_does_not_match(text):
    assert matcher("portrait of [a subject], drawn on [a setting]").match(text) is None


def again(text, **wanted):
    ask = {k: wanted.pop(k) for k in ("model", "looks", "pick") if k in wanted}
    return rewrite(
        WORLD, text, Ask(wanted.get("formula", ""), **ask), RewriteRequest(**wanted), READER
    )


@pytest.mark.parametrize(("wanted", "text"), [
    ({"order": ["camera"]}, "Medium shot, slow push-in, a night purser counting tickets. Lit by one lamp, in a ticket office."),
    ({"order": ["lighting", "subject"]}, "Lit by one lamp, a night purser counting tickets, medium shot, slow push-in, in a ticket office."),
    ({"given": {"lighting": "full moonlight"}}, "A night purser counting tickets, medium shot, slow push-in. Lit by full moonlight, in a ticket office."),
    ({"given": {"subject": "old pilot"}}, "An old pilot counting tickets, medium shot, slow push-in. Lit by one lamp, in a ticket office."),
    ({"swaps": ["night purser=umpire"]}, "An umpire counting tickets, medium shot, slow push-in. Lit by one lamp, in a ticket office."),
    ({"model": "dunlin-still"}, "night purser, counting tickets, medium shot, slow push-in, lit by one lamp, in a ticket office"),
    ({"model": "turnstone-still"}, "SUBJECT | a night purser\nACTION | counting tickets\nSHOT SIZE | medium shot\nCAMERA MOVE | slow push-in\nLIGHTING | lit by one lamp\nSETTING | in a ticket office"),
])  # fmt: skip
def test_recast(wanted, text):
    assert again(PURSER, **wanted).text == text


def test_rewrite_into_a_formula_keeps_what_finds_no_place():
    done = again(
        "A harbour pilot on a wet quay, lit by sodium quay lamps, misty, a film of rust. No people. /shape 2x3",
        formula="poster",
    )
    assert done.text.startswith(
        "A harbour pilot on a wet quay, misty, lit by sodium quay lamps. A film of rust"
    )
    assert done.text.endswith(
        "Bold simple shapes, clear space at the top for lettering"
    ) or done.text.endswith("bold simple shapes, clear space at the top for lettering")
    assert (
        "people" in done.made.prompt.negative and done.made.record["parameters"]["ratio"] == "2:3"
    )
    known = again(
        "A linocut of a night purser, on a wet quay. Bold simple shapes, clear space at the top for lettering",
        formula="photograph",
        source="poster",
    )
    assert "a night purser" in known.text and "on a wet quay" in known.text
    with pytest.raises(Trouble, match="was not written with"):
        again("something else", formula="photograph", source="portrait")


@pytest.mark.parametrize("prompt", [p.text for p in marked_prompts(HERE / "worked.txt")[::3]])
def test_to_json_and_back_loses_nothing(prompt):
    reading = READER.read(prompt)
    if len(reading.parts()) < 2:
        return
    nested = again(prompt, model="avocet-still").text
    values = " ".join(
        re.findall(r"\w+", json.dumps(json.loads(nested), ensure_ascii=False).lower())
    )
    back = READER.read(nested)
    prose = " ".join(
        re.findall(
            r"\w+",
            rewrite(
                WORLD, nested, Ask(""), RewriteRequest(order=("subject",)), READER
            ).text.lower(),
        )
    )
    for piece in reading.parts():
        for word in re.findall(r"\w+", piece.text.lower()):
            if word not in ("a", "an"):
                assert word in prose.split(), (word, nested, prose)
                assert word in values.split() or word in ("lit", "by", "shot", "on"), (
                    word,
                    nested,
                )  # "lighting" says it there
    assert len(back.parts()) >= len(reading.parts()) * 0.6


@pytest.mark.parametrize(("tags", "prose"), [
    ("old fisherman, pier, fog, 50mm lens", "An old fisherman, on a pier, in fog, shot on a 50mm lens"), ("night purser, wet quay, candlelight, linocut", "A night purser, on a wet quay, lit by candlelight, a linocut"),
])  # fmt: skip
def test_tags_into_prose(tags, prose):
    made = again(tags, order=["subject"]).text
    assert made.startswith(prose) and "in a pier" not in made


def test_what_can_not_be_changed_is_told():
    with pytest.raises(Trouble, match="“camra” is not a facet"):
        again("A ferry, 85mm lens", order=["camra"])
    with pytest.raises(Trouble, match="no part for lense"):
        again("A ferry, 85mm lens", given={"lense": "50mm lens"})
    with pytest.raises(Trouble, match="not in the text"):
        swapped("A ferry", "tram=bus")


@pytest.mark.parametrize(("words", "out"), [("Lit by one lamp", "lit by one lamp"), ("Candle Holm", "Candle Holm"), ("An SOS lamp", "an SOS lamp"), ("Victorian house", "Victorian house"), ("A ferry", "a ferry"), ("3D render", "3D render"), ("Marionettes", "marionettes")])  # fmt: skip
def test_capitals_of_sentences_go(words, out):
    assert lowered(words) == out


@pytest.mark.parametrize(("text", "old", "new", "out"), [
    ("A signal lamp, low moon", "signal lamp", "oil lantern", "An oil lantern, low moon"), ("an umpire,\tfog ", "umpire", "tram", "a tram,\tfog "),
    ("two signal lamps and a signal lamp", "signal lamp", "urn", "two urns and an urn"), ("A lamp.", "lamp", "sea smoke", "Sea smoke."), ("the lamp", "lamp", "urns", "the urns"),
    ("Lamps burn", "lamp", "urn", "Urns burn"), ("a lamp", "lamp", "the old urn", "the old urn"), ("clamps", "lamp", "urn", None),
])  # fmt: skip
def test_swapped_words(text, old, new, out):
    assert swap_words(text, old, new) == out


def test_compare():
    one = READER.read("A red ferry on a wet quay, full moonlight, 85mm lens /shape 2x3")
    other = READER.read("A red ferry in a harbour, full moonlight, hushed mood /shape 3x2")
    found = compare(one, other)
    hows = {(p.facet, p.how) for p in found.pairs}
    assert {
        ("subject", "same"),
        ("lighting", "same"),
        ("setting", "changed"),
        ("lens", "only in the first"),
        ("mood", "only in the second"),
    } <= hows
    assert ("parameter ratio", "changed") in hows
    assert (
        compare(one, one).distance == 0.0
        and compare(one, READER.read("gold, teal")).distance == 1.0
    )
    assert 0.3 < found.distance < 0.9 and found.distance == compare(other, one).distance


ZIPF = frequencies()
CONDENSED = [p.text for name in ("worked", "wider") for p in marked_prompts(HERE / f"{name}.txt")]
FRAMES = ("nested", "timed")


@pytest.mark.parametrize("text", CONDENSED)
def test_every_step_is_shorter_and_reads(text):
    reading = READER.read(text)
    found = shorten(reading, ZIPF)
    lengths = [len(step.text) for step in found.steps]
    assert lengths == sorted(lengths, reverse=True) and len(set(lengths)) == len(lengths) > 2
    if reading.form in FRAMES:
        frames_stay_whole(text, reading, found.steps)
    else:
        sentences_read(text, found.steps)
        assert (
            all(unit.reasons for unit in found.units)
            and sum(not unit.order for unit in found.units) >= 1
        )


def test_prompts_of_either_kind_are_shortened():
    assert {
        READER.read(text).form for text in CONDENSED if text.lstrip()[0] in "{[0123456789"
    } >= set(FRAMES)


def frames_stay_whole(text, reading, steps):
    """Nested values stay JSON, segments keep their times and something in each; no step says what the prompt does not."""
    words = set(re.findall(r"\w+", text.lower())) | {"a", "an"}
    for step in steps[1:]:
        assert set(re.findall(r"\w+", step.text.lower())) <= words, step.text
        if reading.form == "nested":
            value = json.loads(step.text)
            assert value and not re.search(r'""|\{\}|\[\]', step.text), step.text
        else:
            times = re.findall(r"[\d:.]+s?\s?[-–]\s?[\d:.]+s?", text)
            assert re.findall(r"[\d:.]+s?\s?[-–]\s?[\d:.]+s?", step.text) == times
            assert not re.search(r"[|\]]\s*(?:\n|$)", step.text), step.text


def test_a_value_goes_with_its_key_and_layout_stays():
    text = '{\n  "light": {\n    "key": "hard light",\n    "mood": "8k"\n  },\n  "tags": ["8k", "fine detail"],\n  "seed": 4,\n  "subject": "a heron"\n}'
    shortest = shorten(READER.read(text), ZIPF).steps[-1].text
    assert shortest == '{\n  "seed": 4,\n  "subject": "a heron"\n}'


def sentences_read(text, steps):
    for step in steps[1:]:
        assert not re.search(
            r",\s*,|,\s*\.|\s[,.;]|\ba an?\b|\ban? a\b|\s{2}(?!\S*\|)|^[,.;]|\b(?:of|with|a|an|the)\s*[,.]|[,;]\s*$|“\s*”|\"\s*\"|[.!?]\"[.,]|\band\s*[.,]|^[^(]*\)|\([^)]*$|^[^<]*>|<[^>]*$",
            step.text.replace("\n", " / ").replace("  ", " "),
        ), step.text
        assert (
            step.text.lstrip('"“')[0].isupper() == text.lstrip()[0].isupper()
            or not text[0].isalpha()
        ), step.text
        for article, word in re.findall(r"\b([Aa]n?) (\w+)", step.text):
            assert (article.lower() == "an") == (
                word[0].lower() in "aeio"
                or word.lower().startswith(("umb", "unh", "ultra", "ups", "unc", "ush", "hour"))
                or word in ("SOS", "8k", "85mm")
            ), (article, word)


def test_what_is_kept_and_what_weighs():
    text = "A linocut of a tired pilot on a wet quay, with a melancholy mood, fine detail, 8k, a wet quay at night"
    reading = READER.read(text)
    found = shorten(reading, ZIPF, keep=["melancholy mood"])
    assert all("melancholy mood" in step.text for step in found.steps)
    order = {unit.text: unit.order for unit in found.units}
    assert (
        order["8k"] < order["A linocut"]
        and not next(u for u in found.units if "melancholy mood" in u.text).order
    )
    assert any("said before" in unit.reasons for unit in found.units)
    reach = shorten(reading, ZIPF, reach=8)
    assert any("beyond the words that the model heeds" in unit.reasons for unit in reach.units)
    strong = shorten(READER.read("<fog @1.4>, a quay, gulls"), ZIPF)
    assert any("stress 1.4" in unit.reasons for unit in strong.units)
    marked = shorten(
        reading, ZIPF, marks={i: "!" for i, p in enumerate(reading.pieces) if p.text == "8k"}
    )
    assert all("8k" in step.text for step in marked.steps)
    assert (
        found.to(lambda t: count_words(t) <= 12).text.count(" ") <= 12
        and found.to(lambda t: len(t) < 3) is None
    )
    assert [len(s.text) for s in found.some(3)] == sorted(
        (len(s.text) for s in found.some(3)), reverse=True
    ) and len(found.some(3)) == 3


@pytest.mark.parametrize(("text", "most"), [
    ("masterpiece, best quality, (silver hair:1.3), 1girl, standing on a rooftop at night, city lights behind her, wind, long coat, looking at viewer, 16:9", 20),
    ("Product photo of a perfume bottle on wet black stone, single beam of light from above, mist, reflections, dark moody background, macro lens, no text", 18),
    ("Street photography of commuters under umbrellas in heavy rain, reflections on asphalt, yellow taxi lights, motion blur, high contrast black and white, grain", 14),
])  # fmt: skip
def test_a_thought_goes_whole(text, most):
    """What is left of a list are items of it, but for an adjective, and what hung on the end of the first; brackets are closed; a ratio and a denial stay."""
    short = shorten(READER.read(text), ZIPF).to(lambda t: count_words(t) <= most).text
    items = text.split(", ")
    for item in short.split(", ")[1:]:
        assert any(
            set(item.split()) <= set(one.split())
            and (item == one or len(one.split()) - len(item.split()) <= 2)
            for one in items
        ), (item, short)
    assert (
        short.count("(") == short.count(")")
        and ("16:9" in short) == ("16:9" in text)
        and ("no text" in short) == ("no text" in text)
    )


def test_marks_of_the_formula_hold():
    for writer, _, fills, prompt in picks(WORLD, "photograph", 3):
        match = Matcher(writer).match(prompt.text)
        reading = READER.read(prompt.text)
        marks = {
            n: writer.compiled.plans[i].mark
            for i, a, b in match.phrases
            for n, p in enumerate(reading.pieces)
            if p.kind == "part" and p.start < b and a < p.stop
        }
        kept = [
            writer.phrases.line(i, fills).text.strip(".").lower()
            for i, plan in enumerate(writer.compiled.plans)
            if plan.mark == "!"
        ]
        for step in shorten(reading, ZIPF, marks=marks).steps:
            assert all(words in step.text.lower() for words in kept), (step.text, kept)


SEGMENTS = '0:00-0:03 | Wide shot of a market square at dawn. Stallholders unfold their awnings.\n0:03-0:08 | Close-up: a thumb pressing a fig. She says: "Ripe."\nNever: captions'


def test_segments_keep_their_times_and_what_is_said_its_speaker():
    rewrite_, said = (
        rewrite(WORLD, SEGMENTS, Ask("", "godwit-motion"), RewriteRequest(), READER),
        "A purser counts tickets and whispers: ",
    )
    assert (
        rewrite_.text.splitlines()[:2] == SEGMENTS.splitlines()[:2]
        and "Never: captions" in rewrite_.text
    )
    assert rewrite_.made.record["parameters"]["seconds"] == 8
    plain = rewrite(
        WORLD, "A fox, a hare, a wolf, low moon", Ask("", "godwit-motion"), RewriteRequest(), READER
    ).text
    assert plain.startswith("0:00-0:08 | A fox, a hare, a wolf, low moon.")
    moved = rewrite(
        WORLD, said + '"Last boat." Medium shot.', Ask(""), RewriteRequest(order=["camera"]), READER
    ).text
    assert moved == 'Medium shot, a purser counts tickets and whispers: "Last boat."'
    silent = rewrite(
        WORLD, said + '"Last boat." Medium shot.', Ask("", "knot-motion"), RewriteRequest(), READER
    ).text
    assert silent == "Medium shot. A purser counts tickets."
    nested = json.loads(
        rewrite(
            WORLD, "Wide shot of a quay", Ask("", "avocet-still"), RewriteRequest(), READER
        ).text
    )
    assert nested == {"shot-size": "wide shot", "subject": "quay"}


def test_weights_go_along():
    text = "*the old ferry*!!, a weak *winter*? sun, <full moonlight @1.4>"
    assert (
        "<old ferry @1.4>"
        in rewrite(WORLD, text, Ask("", "dunlin-still"), RewriteRequest(), READER).text
    )
    posted = rewrite(
        WORLD,
        "linocut, " + text,
        Ask("poster", "dunlin-still"),
        RewriteRequest("poster", given={"light": "low moon"}),
        READER,
    )
    assert "<old ferry @1.4>" in posted.text


@pytest.mark.parametrize(("text", "formula", "said"), [
    ("A weary lamplighter climbs a ladder, on a steep lane", "photograph", "a weary lamplighter climbing a ladder, on a steep lane"),
    ("A lamplighter climbs a ladder on a steep lane, fog rolls over the bank, low moon", "landscape", "A landscape photograph of a lamplighter climbing a ladder on a steep lane"),
    ("A lamplighter climbs a ladder on a steep lane, fog rolls over the bank, low moon", "landscape", "fog rolls over the bank, lit by a low moon. Fine detail"),
])  # fmt: skip
def test_parts_stand_in_slots_as_sentences_need_them(text, formula, said):
    assert said in rewrite(WORLD, text, Ask(formula), RewriteRequest(formula), READER).text


def test_what_found_no_place_is_written_as_the_model_reads_it():
    text, wanted = (
        'A harbour pilot, low moon, shot on an 85mm lens. He says: "Late."',
        RewriteRequest("poster", given={"medium": "linocut"}),
    )
    tags = rewrite(WORLD, text, Ask("poster", "dunlin-still"), wanted, READER).text
    assert (
        tags
        == 'linocut, harbour pilot, low moon, shot on an 85mm lens, "Late.", bold simple shapes, clear space at the top for lettering'
    )
    assert 'shot on an 85mm lens. He says: "Late."' in rewrite(
        WORLD, text, Ask("poster"), wanted, READER
    ).text.replace("Shot", "shot")


def test_clauses_are_told_from_names():
    clauses = [
        "fog rolls over the bank",
        "a storm gathers",
        "two gulls cry",
        "the old bell rings twice",
        "steam rises",
    ]
    names = [
        "low moon",
        "shafts of light",
        "rain on the roof",
        "brass lamps on a quay",
        "glass plates",
        "lights",
    ]
    assert all(map(is_clause, clauses)) and not any(map(is_clause, names))
