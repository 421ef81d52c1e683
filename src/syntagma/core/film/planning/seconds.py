"""How long a shot takes at least: what is spoken, what happens, how the camera moves, what the list asks for. Estimates, until a clip is
there."""

from collections.abc import Mapping
from typing import NamedTuple

from syntagma.core.diagnostics.findings import ERROR, REMARK, Finding
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shots.shot_list import Shot
from syntagma.core.film.shots.spoken import SpokenLine, divisions, respelled, seconds_of, sentences

DEAD = 1.5  # seconds of a clip behind everything that is wanted, from which on it is dead air
DEAD_SHARE = 0.25


class SpokenSentence(NamedTuple):
    """A sentence of a line: the line it belongs to, its words, the seconds that it takes with the pause before it."""

    line: int
    text: str
    seconds: float


class Timing(NamedTuple):
    """What a shot takes: its sentences, the seconds that are spoken, of what happens, of the move, and of the whole."""

    said: tuple[SpokenSentence, ...]
    spoken: float
    deed: float
    move: float
    least: float

    @property
    def whole(self) -> float:
        """The seconds that the shot needs."""
        return max(self.spoken, self.deed, self.move, self.least)


def timing(shot: Shot, pace: float, say: Mapping[str, str], knowledge: FilmKnowledge, shortest: float = 1.0) -> Timing:
    """How long a shot takes, its lines spoken at a pace of so many words per second."""
    said: list[SpokenSentence] = []
    for number, line in enumerate(shot.lines):
        for i, sentence in enumerate(sentences(line.text)):
            pause = knowledge.pauses["answer"] if number and not i and line.speaker != shot.lines[number - 1].speaker else 0.0
            pause += knowledge.pauses["."] if said and not pause else 0.0
            said.append(SpokenSentence(number, sentence, pause + seconds_of(respelled(sentence, say, keep=True), pace, line.manner, knowledge)))
    spoken = sum(one.seconds for one in said)
    for number, line in enumerate(shot.lines):
        if line.dual and number:  # two at once take as long as the longer of them
            spoken -= min(sum(one.seconds for one in said if one.line == which) for which in (number - 1, number))
    return Timing(
        tuple(said), round(spoken, 3), knowledge.deed(shot.cells.get("action", "")), knowledge.move(shot.cells.get("move", "")), max(shot.seconds, shortest)
    )


def findings_of(shot: Shot, time: Timing, longest: float, model: str) -> list[Finding]:
    """The findings on the time of a shot: lines that take longer than it was given, or than any clip."""
    found = []
    for number, line in enumerate(shot.lines, 1):
        takes = sum(said.seconds for said in time.said if said.line == number - 1)
        if takes > longest:
            message = f"the line “{_begin(line)}” takes about {takes:.1f} s, but a clip of {model} lasts {longest:g} s at most"
            found.append(Finding(ERROR, message, _where_to_cut(line), f"{shot.name}/{number}", code="line-too-long"))
    if shot.seconds and time.spoken > shot.seconds:
        message = f"the lines take about {time.spoken:.1f} s, but the shot has {shot.seconds:g}: it becomes longer"
        remedy = f"say it in {max(1, int(_words(shot) * shot.seconds / time.spoken))} words, or ask for {time.spoken:.1f} seconds"
        found.append(Finding(REMARK, message, remedy, shot.name, code="shot-longer"))
    return found


def dead_air(shot: Shot, time: Timing, seconds: float) -> Finding | None:
    """The findings on a shot that is given more seconds than anything in it takes."""
    wanted = max(time.spoken, time.deed, time.move, shot.seconds)
    spare = seconds - wanted
    if spare < DEAD or spare < DEAD_SHARE * seconds:
        return None
    if shot.lines and time.spoken and time.spoken >= max(time.deed, shot.seconds):
        words = int(spare * _words(shot) / max(time.spoken, 0.1))
        remedy = f"about {words} more words would fill it; or have {shot.lines[0].speaker.upper() or 'somebody'} do something before the line"
    elif shot.cells.get("action"):
        remedy = "have one more thing happen, or add a slow camera move"
    else:
        remedy = "say what happens in it (action), or add a slow camera move"
    message = f"nothing happens for about {spare:.1f} s of its {seconds:g}"
    return Finding(REMARK, message, remedy, shot.name, code="dead-air")


def _begin(line: SpokenLine) -> str:
    return line.text if len(line.text) <= 40 else line.text[:39].rsplit(" ", 1)[0] + " …"


def _where_to_cut(line: SpokenLine) -> str:
    places = divisions(line.text)
    if not places:
        return "say it in fewer words: there is no good place to cut"
    return f"cut it after “{'”, or after “'.join(places[:3])}”"


def _words(shot: Shot) -> int:
    return sum(len(line.text.split()) for line in shot.lines)
