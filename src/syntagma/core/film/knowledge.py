"""What a film takes for granted, as data: pace of speech, seconds of deeds and moves, sizes, hours
(data/film.toml).
"""

import re
from collections.abc import Mapping
from functools import cached_property

from syntagma.core import english
from syntagma.core.diagnostics import Refused
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.verbs import ADJECTIVES, base_of
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS
from syntagma.core.notation.toml import TomlFile
from syntagma.core.vocabulary.terms import normal

_HALF = re.compile(
    r"(?:at )?(?P<hour>1[0-2]|0?[1-9])(?:[:.](?P<minute>[0-5]\d))?\s*(?P<half>[ap])\.?m\b", re.I
)
SPEEDS = {
    "slow": "slowly",
    "slowly": "slowly",
    "fast": "fast",
    "quick": "fast",
    "gentle": "gently",
    "smooth": "smoothly",
    "very": "very slowly",
    "subtle": "hardly noticeably",
}
LEADS = ("on", "at", "in")
_CLOCK = re.compile(r"(?:at )?(?P<hour>[01]?\d|2[0-3])[:.h](?P<minute>[0-5]\d)\b")


class FilmKnowledge:
    """The figures of data/film.toml, each looked up by a person's words."""

    def __init__(self, values: Mapping[str, Mapping]):
        self.paces: Mapping[str, float] = values["pace"]
        self.pauses: Mapping[str, float] = values["pause"]
        self._deeds: Mapping[str, float] = values["deed"]
        self._moves: Mapping[str, float] = values["move"]
        self._sizes: Mapping[str, int] = {
            normal(name): near for name, near in values["size"].items()
        }
        self._hours: Mapping[str, tuple[str, int]] = {
            normal(name): (said, minutes) for name, (said, minutes) in values["hour"].items()
        }
        self._lights: Mapping[str, str] = values["light"]
        self._move_words = {normal(name): clause for name, clause in values["move-words"].items()}
        self._through = {normal(name): words for name, words in values["through"].items()}
        self._places = {name: said for name, said in values["place"].items() if name not in LEADS}
        self._leads = {
            noun: lead for lead in LEADS for noun in values["place"].get(lead, "").split()
        }
        self.words = {
            name: frozenset(values[name]["words"].split()) for name in ("lets-go", "crosses")
        }

    def light(self, light: str) -> str:
        """A light as a sentence says it: overcast → overcast daylight."""
        said = light.strip()
        before, _, last = said.rpartition(" ")
        if said.lower() in self._lights:
            return self._lights[said.lower()]
        if (
            before
            and len(before.split()) == 1
            and last.lower() in ("overcast", "sun", "moon", "daylight")
            and english.split_determiner(said)[0] == ""
        ):
            return f"{before} {self._lights[last.lower()]}"
        return light

    def through(self, manner: str) -> str:
        """What a voice comes through or goes into, as a script has it: (on phone) → over the
        telephone; "" for any other manner.
        """
        return self._through.get(normal(manner), "")

    def moving(self, move: str) -> str:
        """A move as a clause, as lists call it: "slow dolly in" → the camera pushes in slowly; ""
        if it is not known.
        """
        name = normal(move)
        first, _, rest = name.partition(" ")
        if clause := self._move_words.get(name):
            return clause
        clause = self._move_words.get(rest, "") if first in SPEEDS else ""
        return clause and f"{clause} {SPEEDS[first]}"

    def place(self, place: str) -> str:
        """A place with what leads to it, where its words tell: a rocky islet → on a rocky islet; as
        it is where they don't.
        """
        name = normal(place)
        if name in self._places:
            return self._places[name]
        determiner, group = english.split_determiner(place)
        lead = self._leads.get(group[: head_end(group)].lower().rpartition(" ")[2])
        if not lead or english.starts_with_preposition(place):
            return place
        article = determiner or (
            english.article(group) if english.countability(group) == "one" else ""
        )
        return " ".join(part for part in (lead, article, group) if part)

    @cached_property
    def _hour_words(self) -> list[str]:
        return sorted(self._hours, key=len, reverse=True)

    def pace(self, manner: str) -> float:
        """What a manner of speaking does to the pace: 1 if it does nothing."""
        found = [
            self.paces[word] for word in re.findall(r"[\w-]+", manner.lower()) if word in self.paces
        ]
        return min(found, key=lambda factor: -abs(factor - 1)) if found else 1.0

    def deed(self, action: str) -> float:
        """Seconds that what happens takes at least; 0 if nothing does."""
        words = re.findall(r"[\w-]+", action.lower())
        if not words:
            return 0.0
        known = [
            self._deeds[base]
            for i, word in enumerate(words)
            if (base := base_of(word)) in self._deeds
            and base not in ("deed", "and")
            and _is_verb(words, i, base)
        ]
        more = (
            len(re.findall(r"\b(?:and|then)\b|;", action.lower())) * self._deeds["and"]
            if len(known) < 2
            else 0.0
        )
        return (sum(known) or self._deeds["deed"]) + more

    def move(self, move: str) -> float:
        """Seconds that a move of the camera takes at least; 0 for none."""
        if not move.strip():
            return 0.0
        found = [
            self._moves[word]
            for word in re.findall(r"\w+", move.lower())
            if word in self._moves and word != "move"
        ]
        return (0.0 if 0.0 in found else max(found)) if found else self._moves["move"]

    def size(self, size: str) -> int | None:
        """How near a size is, from 0; None if it is not known."""
        name = normal(size)
        return self._sizes.get(name, self._sizes.get(f"{name} shot"))

    @property
    def wide(self) -> int:
        """The nearest size that still shows a place."""
        return self._sizes[normal("full shot")]

    def hour(self, hour: str) -> tuple[str, int] | None:
        """An hour as a sentence says it, and its minutes after midnight; None if its place in the
        day is not known.
        """
        name = normal(hour)
        if half := _HALF.search(hour):
            at = int(half["hour"]) % 12 + (12 if half["half"].lower() == "p" else 0)
            return f"at {hour.strip().removeprefix('at ')}", at * 60 + int(half["minute"] or 0)
        if clock := _CLOCK.search(hour):
            return f"at {clock['hour']}:{clock['minute']}", int(clock["hour"]) * 60 + int(
                clock["minute"]
            )
        for known in self._hour_words:
            if name == known:
                return self._hours[known][0], self._hours[known][1]
        for known in self._hour_words:
            if re.search(rf"\b{known}\b", name):
                return hour, self._hours[known][1]
        return None


def _is_verb(words: list[str], at: int, base: str) -> bool:
    """Does somebody do what a word names, or is it a noun: "runs", but not "in a young hand"?"""
    before = words[at - 1] if at else ""
    if before in DETERMINERS or before in ADJECTIVES or before in PREPOSITIONS - {"to"}:
        return False
    return words[at] != base or before in ("", "and", "to", "they", "then") or before[-1:] == "s"


def read_knowledge(text: str, source: str) -> FilmKnowledge:
    """Read data/film.toml. Raises Refused."""
    file = TomlFile(text, source)
    values = file.values()
    missing = [
        name
        for name in (
            "pace",
            "pause",
            "deed",
            "move",
            "size",
            "hour",
            "lets-go",
            "crosses",
            "light",
            "place",
            "move-words",
            "through",
        )
        if name not in values
    ]
    for name in missing:
        file.wrong(name, f"[{name}] is missing", "it ships with Syntagma")
    if file.mistakes:
        raise Refused(file.mistakes)
    return FilmKnowledge(values)
