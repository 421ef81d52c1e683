"""The people of a film: always in exactly the same words, in full once a generation and in short after that, or by what a model takes
instead of words."""

import re
from collections.abc import Mapping, Sequence

from syntagma.core import english
from syntagma.core.english.people import is_person
from syntagma.core.film.shots.shot_list import Shot
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import KnownReference, Reference, reference_for, written_reference
from syntagma.core.notation.late_regex import regex

_AGES = "one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\\w+teen|twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety|\\d+"
_BEHIND = regex(rf",| (?:with|in|wearing|who|whose|carrying|holding|aged|of (?:about |some )?(?:{_AGES}))\b")
_COUNTS = frozenset("two three four five six seven eight nine ten eleven twelve several".split())
_CLOTHED = regex(r"(?:wearing|in|dressed in)\s+", re.I)


class Cast:
    """Who is known by name, what they wear from which day of the story on, and how names are said. `wears` is a person → story day →
    clothes."""

    def __init__(self, known: Mapping[str, KnownReference], wears: Mapping[str, Mapping[str, str]] = {}, say: Mapping[str, str] = {}):
        self.known = {name.lower(): one for name, one in known.items()}
        self.wears = {name.lower(): days for name, days in wears.items()}
        spoken = {one.name: one.say for one in known.values() if one.say}
        self.say = {**{name.capitalize() if name.islower() else name: said for name, said in spoken.items()}, **say}

    @property
    def names(self) -> list[str]:
        return [one.name for one in self.known.values()]

    def person(self, name: str) -> KnownReference | None:
        """Somebody by their name, in any case; None if nobody is known by it."""
        return self.known.get(name.lower())

    @staticmethod
    def is_noun(name: str) -> bool:
        """Is somebody called by what they are (Waiter), and not by a name?"""
        return bool(_noun(name, "a"))

    def clothes(self, name: str, shot: Shot) -> str:
        """What somebody wears in a shot if it is not what their words say: from the cell, else from the story day on."""
        said = shot.of_person("wardrobe", name)
        if said:
            return said
        found = ""
        for day, clothes in self.wears.get(name.lower(), {}).items():
            if _reached(shot.cells.get("story day", ""), day):
                found = clothes
        return found

    def full(self, name: str, shot: Shot) -> str:
        """Somebody's words in full, in what they wear in the shot; a name that is not known as it is."""
        person = self.person(name)
        clothes = _CLOTHED.sub("", self.clothes(name, shot), count=1)
        words = person.words.strip().rstrip(".,;") if person else _noun(name, "a") or name
        if not clothes:
            return words
        article = english.article(clothes) + " " if english.countability(english.split_determiner(clothes)[1]) == "one" and not english.split_determiner(clothes)[0] else ""
        worn = article + clothes
        if person and person.wears:
            lead = _CLOTHED.match(person.wears)
            return words.replace(person.wears, (lead[0] if lead else "") + worn, 1)
        return f"{words}, in {worn}" if "," in words else f"{words} in {worn}"

    def short(self, name: str) -> str:
        """Somebody in short, as one speaks of them once they were described: the harbour pilot."""
        person = self.person(name)
        if not person:
            name = _noun(name, "the") or name
            determiner, rest = english.split_determiner(name)
            if name[:1].isupper():
                return name
            group = _BEHIND.split(rest, maxsplit=1)[0].strip()
            return f"the {determiner} {group}" if determiner.isalpha() and determiner.lower() in _COUNTS else f"the {group}" if determiner.lower() in ("a", "an", "") else f"{determiner} {group}"
        short = person.short or _BEHIND.split(person.words, maxsplit=1)[0].strip()
        determiner, rest = english.split_determiner(short)
        return f"the {rest}" if determiner.lower() in ("a", "an") else short

    def reference(self, name: str, profile: Profile) -> Reference | None:
        """By what the model takes somebody beside or in place of their words; None if it takes words only."""
        person = self.person(name)
        return reference_for(person, profile) if person else None

    def handle(self, name: str, profile: Profile) -> str:
        """What replaces somebody's words on the model; "" if words do."""
        reference = self.reference(name, profile)
        return written_reference(reference, profile) if reference and profile.reference[reference.role].at == "place" else ""

    def named(self, text: str, names: Sequence[str]) -> str:
        """A text with each name in capitals (or behind @) put in words, in short: "PILOT hands PURSER a rope"."""
        for name in names:
            words = self.short(name)
            text = re.sub(rf"(?:@{re.escape(name)}|(?<!\w){re.escape(name.upper())})(?!\w)", lambda m, words=words: words, text)
        return text

    def refused(self, shot: Shot, model: str, today: str) -> str:
        """Why a shot may not be sent to a model on a day (ISO 8601): somebody real in it has not agreed to that; "" if it may."""
        speaks = {line.speaker.lower() for line in shot.lines}
        for name in dict.fromkeys((*shot.who, *(line.speaker for line in shot.lines))):
            person = self.person(name)
            if not person:
                continue
            wanted = (["picture"] if name in shot.who else []) + (["voice"] if name.lower() in speaks else [])
            if refused := person.refused(wanted, model, today):
                return refused
        return ""


def _noun(name: str, article: str) -> str:
    """Somebody whom nobody described, and whose name is a noun of people: Waiter → a waiter, the waiter; "" for a real name."""
    small = name.lower()
    if not name.istitle() or not is_person(small.rpartition(" ")[2]):
        return ""
    return f"{english.article(small) if article == 'a' else article} {small}"


def _reached(day: str, first: str) -> bool:
    """Is a day of the story the first that is named, or a later one?"""
    numbers = re.search(r"\d+", day), re.search(r"\d+", first)
    if all(numbers):
        return int(numbers[0][0]) >= int(numbers[1][0])
    return day.strip().lower() == first.strip().lower()
