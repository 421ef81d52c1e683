"""The cut of a film: which stretch of each clip stays, when lines are spoken, what sounds all through, subtitles. Clips are put together by hand, so that every second is known."""

import pytest

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.film.clip_formula import View
from syntagma.core.film.clips import Clip, ClipRules, Packing, ShotPart, SpokenSentence, Timing
from syntagma.core.film.cut import ClipTake, Cue, cut, dissolves, subtitles
from syntagma.core.film.film_plan import Plan, PlannedClip
from syntagma.core.film.shot_list import read_shots
from syntagma.storage.folders import SHIPPED, Layer

WORLD = Workspace(layers=[Layer("shipped", SHIPPED)])
RATE = 10.0  # frames per second: every time below is a whole number of them


def film(rows, clips, said=None, model="whimbrel-motion", takes=None):
    """A cut of shots (dicts of cells) in clips: (seconds, dead, follows, [(shot, seconds of its part) …]). `said` are the seconds of each sentence, by shot."""
    headings = list(dict.fromkeys(key for row in rows for key in row))
    shots = read_shots(headings, [(i, {key: row.get(key, "") for key in headings}) for i, row in enumerate(rows, 2)], "list", ["purser", "pilot"]).shots  # fmt: skip
    timings, made = [], []
    for i, shot in enumerate(shots):
        sentences = tuple(SpokenSentence(n, line.text, seconds) for n, (line, seconds) in enumerate(zip(shot.lines, (said or {}).get(i, []), strict=True)))  # fmt: skip
        timings.append(Timing(sentences, sum(one.seconds for one in sentences), 0.0, 0.0, 1.0))
    for name, (seconds, dead, follows, parts) in clips.items():
        clip = Clip(tuple(ShotPart(i, 0, 1, long) for i, long in parts), seconds, 0.0, 1.0, dead)
        made.append(PlannedClip(name, clip, tuple(View(shots[i], shots[i].lines) for i, _ in parts), follows=follows))  # fmt: skip
    plan = Plan(WORLD.model(model), ClipRules(), tuple(timings), (), Packing((), 0.0, 0, 0.0, None), tuple(made), ())  # fmt: skip
    return cut(plan, shots, RATE, takes or {})


def stretches(made):
    return [(round(one.source, 3), round(one.start, 3), round(one.stop, 3)) for one in made.stretches]  # fmt: skip


SHOT = {"scene": "1", "shot": "1"}


@pytest.mark.parametrize(
    ("seconds", "dead", "take", "stretch"),
    [
        (5.0, 0.0, None, (0.0, 5.0)),
        (5.0, 0.4, None, (0.0, 5.0)),  # less dead air than a handle: all of it
        (5.0, 0.5, None, (0.0, 4.5)),  # a handle is kept
        (5.0, 2.0, None, (0.0, 4.5)),
        (4.0, 0.4, ClipTake("a", 8.0), (0.0, 7.5)),  # twice as long, so is its dead air: 0.8 s
        (4.0, 0.6, ClipTake("a", 2.0), (0.0, 2.0)),  # half as long, so is its dead air: 0.3 s
        (5.0, 0.0, ClipTake("a", 0.0), (0.0, 5.0)),  # nobody measured it
        (5.0, 0.0, ClipTake("a", 5.0, speech_end=3.0), (0.0, 3.5)),
        (5.0, 0.0, ClipTake("a", 5.0, speech_end=4.5), (0.0, 5.0)),  # nothing to gain
        (5.0, 1.0, ClipTake("a", 5.0, speech_end=3.9), (0.0, 4.4)),
    ],
)
def test_how_much_of_a_clip_stays(seconds, dead, take, stretch):
    made = film([SHOT], {"a": (seconds, dead, None, [(0, seconds)])}, takes={"a": take} if take else {})  # fmt: skip
    assert stretches(made) == [(stretch[0], 0.0, stretch[1])] and made.seconds == stretch[1]


def test_shots_of_one_clip_and_of_the_next():
    rows = [{"scene": "1", "shot": str(i)} for i in range(1, 4)]
    clips = {"a": (6.0, 1.0, None, [(0, 2.0), (1, 3.0)]), "b": (4.0, 0.0, 0, [(2, 4.0)])}
    made = film(rows, clips)
    # The last shot of a clip runs to its handle; what continues drops the frame that both have.
    assert stretches(made) == [(0.0, 0.0, 2.0), (2.0, 2.0, 5.5), (0.1, 5.5, 9.4)]
    assert [one.clip for one in made.stretches] == [0, 0, 1] and made.seconds == pytest.approx(9.4)
    assert [one.shot.number for one in made.stretches] == ["1", "2", "3"]
    # A model that takes no first frame has no frame in common with the clip before.
    assert stretches(film(rows, clips, model="turnstone-still"))[-1] == (0.0, 5.5, 9.5)


@pytest.mark.parametrize(
    ("line", "said", "clip", "cues"),
    [
        # One line begins a little into its shot, if there is room.
        ("PURSER: One.", [2.0], 5.0, [(0.3, 2.3)]),
        ("PURSER: One.", [2.0], 2.1, [(0.1, 2.1)]),
        ("PURSER: One. | PILOT: Two.", [1.0, 2.0], 5.0, [(0.3, 1.3), (1.3, 3.3)]),
        # Too long: pressed together, and never past the end of the shot.
        ("PURSER: One. | PILOT: Two.", [2.0, 4.0], 3.0, [(0.0, 1.0), (1.0, 3.0)]),
        # Two at once begin together; who speaks third waits for the first of them.
        ("PURSER: One. | PILOT (at once): Two.", [2.0, 1.0], 5.0, [(0.3, 2.3), (0.3, 1.3)]),
        ("PURSER: One. | PILOT (at once): Two. | PURSER: Three.", [2.0, 1.0, 1.0], 5.0, [(0.3, 2.3), (0.3, 1.3), (2.3, 3.3)]),
        ("PURSER: One. | PILOT (at once): Two.", [2.0, 9.0], 5.0, [(0.3, 2.3), (0.3, 5.0)]),
    ],
)  # fmt: skip
def test_when_lines_are_spoken(line, said, clip, cues):
    row = {**SHOT, "who": "PURSER; PILOT", "line": line}
    made = film([row], {"a": (clip, 0.0, None, [(0, clip)])}, {0: said})
    assert [(cue.start, cue.stop) for cue in made.cues] == cues
    assert all(cue.shot == "1/1" for cue in made.cues)
    assert [cue.speaker.lower() for cue in made.cues] == [part.split(":")[0].partition("(")[0].strip().lower() for part in line.split("|")]  # fmt: skip


def test_a_line_of_the_second_shot_begins_in_it():
    rows = [SHOT, {"scene": "1", "shot": "2", "who": "PILOT", "line": "Two."}]
    made = film(rows, {"a": (6.0, 0.0, None, [(0, 2.0), (1, 4.0)])}, {1: [1.5]})
    assert [(cue.start, cue.stop, cue.shot, cue.text) for cue in made.cues] == [(2.3, 3.8, "1/2", "Two.")]  # fmt: skip


@pytest.mark.parametrize(
    ("rows", "sounds"),
    [
        ([("1", "rain", ""), ("1", "rain", "")], [("ambience", "rain", 0, 4)]),
        ([("1", "rain", ""), ("1", "wind", "")], [("ambience", "rain", 0, 2), ("ambience", "wind", 2, 4)]),
        ([("1", "rain", ""), ("2", "rain", "")], [("ambience", "rain", 0, 2), ("ambience", "rain", 2, 4)]),
        ([("1", "rain", ""), ("1", "-", ""), ("1", "rain", "")], [("ambience", "rain", 0, 2), ("ambience", "rain", 4, 6)]),
        ([("1", "", "rain"), ("1", "rain", "")], [("ambience", "rain", 2, 4), ("music", "rain", 0, 4)]),
        ([("1", "", ""), ("1", "", "piano")], [("music", "piano", 2, 4)]),
    ],
)  # fmt: skip
def test_what_sounds_all_through(rows, sounds):
    cells = [{"scene": scene, "shot": str(i), "ambience": ambience, "music": music} for i, (scene, ambience, music) in enumerate(rows, 1)]  # fmt: skip
    made = film(cells, {str(i): (2.0, 0.0, None, [(i, 2.0)]) for i in range(len(rows))})
    assert [tuple(one) for one in made.sounds] == sounds


@pytest.mark.parametrize(
    ("cell", "said"),
    [("dissolve", True), ("Slow dissolve to", True), ("fade from black", True), ("cut", False), ("", False)],
)  # fmt: skip
def test_dissolves(cell, said):
    shot = read_shots(["shot", "transition"], [(2, {"shot": "1", "transition": cell})], "list", []).shots[0]  # fmt: skip
    assert dissolves(shot) is said


@pytest.mark.parametrize(
    ("start", "stop", "following", "end", "stops"),
    [
        (0.0, 0.4, None, 10.0, 1.0),  # short: it stays for a second
        (0.0, 0.4, 0.7, 10.0, 0.7),  # no longer than to the next
        (0.0, 1.4, None, 10.0, 1.4),
        (9.5, 9.9, None, 10.0, 10.0),  # nor past the end of the film
        (0.0, 0.4, 0.0, 10.0, 1.0),  # two at once do not end one another
    ],
)
def test_how_long_a_subtitle_stays(start, stop, following, end, stops):
    cues = [Cue(start, stop, "purser", "Yes.", "on screen", "1/1")]
    if following is not None:
        cues.append(Cue(following, following + 2, "pilot", "No.", "on screen", "1/1"))
    assert subtitles(cues, end)[0][0].stop == stops


@pytest.mark.parametrize(("letters", "told"), [(34, []), (35, ["reads-fast"])])
def test_a_subtitle_faster_than_seventeen_characters_a_second(letters, told):
    cue = Cue(0.0, 2.0, "purser", "x" * letters, "on screen", "1/1")
    findings = subtitles([cue], 9.0)[1]
    assert [one.code for one in findings] == told
    if told:
        assert findings[0].remedy == "give the shot 2.1 seconds for it, or say less"


def test_a_long_line_is_divided_and_its_time_shared_by_letters():
    text = "The night it went out, I heard the ship. " + "She sang to nobody, as ships without a light do at times."  # fmt: skip
    found, _ = subtitles([Cue(0.0, 10.0, "pilot", text, "V.O.", "1/1")], 12.0)
    assert [one.lines for one in found] == [("The night it went out, I heard the ship.",), ("She sang to nobody, as ships", "without a light do at times.")]  # fmt: skip
    assert found[0].stop == found[1].start == pytest.approx(10 * 40 / 97, abs=0.001) and found[1].stop == 10.0  # fmt: skip
