"""Continuity as a state that runs through the story: what people wear and hold, who is there and
who is alive, what became of things, doors, weather and light. Each shot is read against it and
changes it. Only what the tables know is judged: where the text is not sure, nothing is said.
"""

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

from syntagma.core.diagnostics import WARNING, Finding
from syntagma.core.english.noun_groups import head_end
from syntagma.core.film.columns import Col
from syntagma.core.film.happenings import WORDS, Happening, ToldDeed, ToldThing, happenings
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import COMPASS, Shot, ShotList, compass, owned
from syntagma.core.film.wording import Cast
from syntagma.core.vocabulary.terms import normal

_ELSEWHEN = re.compile(r"flash-?back|memory|dream|imagin", re.I)
_MARK = re.compile(
    r"\b(?P<mark>scar|plaster|bandage|patch|tattoo|bruise|wound|earring|sling|mole|cut)\b"
    r"(?:(?! and )[^.;,]){0,30}?\b(?P<side>left|right)\b",
    re.I,
)
_TOWARDS = re.compile(
    r"\b(?:(?:from (?P<from>left|right) to (?P<to>left|right))|"
    r"(?:to the|towards the) (?P<towards>left|right)|(?P<wards>left|right)wards?)\b",
    re.I,
)
_AGED = re.compile(
    r"\b(?:an?|the) (?P<said>[\w ]{0,20}?(?:man|woman|boy|girl|child|person|lady|gentleman))\b",
    re.I,
)
_SLOW, _FAST = "strolls", "hurries"
_SOFT = ("dissolve", "fade", "wipe")
_WITH_HAND = re.compile(r"\bwith (?:his|her) (left|right) hand\b")
_ALONE = re.compile(r"\balone\b", re.I)


class _Said(NamedTuple):
    """Something that is known, and the shot that it is known from."""

    value: str
    shot: str


def story_findings(shots: ShotList, knowledge: FilmKnowledge, cast: Cast) -> list[Finding]:
    """What contradicts what was before, shot by shot."""
    story = _Story(knowledge, cast)
    for scene in shots.scenes():
        story.scene()
        for i, shot in enumerate(scene):
            story.shot(shot, scene[i - 1] if i else None)
    return story.found


def caps(name: str) -> str:
    """A person as a list calls them."""
    return name.upper() if len(name.split()) < 3 else name


def things_of(cell: str) -> list[str]:
    """The things of a cell of props, each by its noun: "a tray of loaves, rope" → tray, rope."""
    parts = [part.strip() for part in re.split(r"[,;&]|\band\b", cell) if part.strip()]
    return [part[: head_end(part)].lower().rpartition(" ")[2] for part in parts]


class _Checker:
    """A part of the state of a film, which shots are read against. It knows the people and adds to
    what was found.
    """

    def __init__(self, found: list[Finding], cast: Cast):
        self.found, self.cast = found, cast
        self.scene()

    def scene(self) -> None:
        """A new scene: what is settled within one is open again."""

    def warn(self, finding: Finding) -> None:
        """A contradiction, once."""
        if finding not in self.found:
            self.found.append(finding)


class _Presence(_Checker):
    """Who is there, who left, who died."""

    dead: dict[str, _Said]

    def __init__(self, found: list[Finding], cast: Cast):
        super().__init__(found, cast)
        self.dead = {}

    def scene(self) -> None:
        self.away: dict[str, _Said] = {}

    def read(self, shot: Shot, action: Sequence[Happening]) -> None:
        """Somebody acts who is not in the shot, who left, or who died."""
        who = {name.lower() for name in shot.who}
        doers = {doer for clause in action for doer in clause.doers}
        named = {name for clause in action for name in clause.named}
        if who and doers and not doers & who and not named & who:
            one = sorted(doers)[0]
            self.warn(
                Finding(
                    WARNING,
                    f"{caps(one)} acts here, but who has {', '.join(shot.who)}",
                    f"write {one} in who, or name {shot.who[0].upper()} in the action",
                    shot.name,
                    code="not-in-who",
                )
            )
        speak = {line.speaker.lower() for line in shot.lines if line.voice == "on screen"}
        for name in sorted(who | doers | speak):
            if name in self.dead:
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} is here, but died in {self.dead[name].shot}",
                        "leave them out, or note that it is a flashback",
                        shot.name,
                        code="dead-acts",
                    )
                )
            comes = any(d.kind == "comes" and d.who == name for c in action for d in c.deeds)
            if name in self.away and not comes:
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} is here, but left in {self.away[name].shot}",
                        "have them come back, or leave them out",
                        shot.name,
                        code="left-and-here",
                    )
                )
            self.away.pop(name, None)

    def does(self, shot: Shot, deed: ToldDeed) -> None:
        """Somebody leaves, or dies."""
        if deed.kind == "dies":
            self.dead[deed.who] = _Said("", shot.name)
        elif deed.kind == "goes":
            self.away[deed.who] = _Said("", shot.name)

    def frame(self, shot: Shot, column: str, seen: Sequence[Happening]) -> None:
        """A first or a last frame against who is in the shot."""
        text = shot.cells.get(column, "")
        who = {name.lower() for name in shot.who}
        for clause in seen:
            strange = [name for name in clause.named if who and name not in who]
            missing = sorted(who - set(clause.named)) if _ALONE.search(text) else []
            if strange or (missing and clause.named):
                whose = strange[0] if strange else missing[0]
                has = "shows" if strange else "leaves out"
                not_ = "is not" if strange else "is"
                self.warn(
                    Finding(
                        WARNING,
                        f"the {column} {has} {caps(whose)}, who {not_} in the shot",
                        "have who and the frame say the same",
                        shot.name,
                        code="frame-differs",
                    )
                )


class _Hands(_Checker):
    """What is in whose hands: cells of props and deeds with things."""

    def scene(self) -> None:
        self.holds: dict[str, dict[str, _Said]] = {}
        self.lacks: dict[str, dict[str, _Said]] = {}  # laid down or given away
        self.bare: dict[str, _Said] = {}  # whose hands a cell says are empty
        self.sides: dict[tuple[str, str], _Said] = {}  # the hand, by person and thing

    def props(self, shot: Shot, action: Sequence[Happening]) -> None:
        """What a cell says is in whose hands, against what was."""
        if not shot.given.get(Col.PROPS):
            return
        cells = owned(shot.cells.get(Col.PROPS, ""), shot.who)
        text = " ".join(clause.text for clause in action)
        for who in (name.lower() for name in shot.who):
            things = things_of(cells.get(who, ""))
            for thing in things:
                got = any(d.thing == thing for clause in action for d in clause.deeds)
                if not got:
                    self._holding(shot, who, thing)
                if who in self.bare and not got and thing not in text.split():
                    self.warn(
                        Finding(
                            WARNING,
                            f"{caps(who)} has the {thing} here, but empty hands in"
                            f" {self.bare[who].shot}, and nobody sees it taken",
                            "have it picked up (action), or name it in both",
                            shot.name,
                            code="prop-from-nowhere",
                        )
                    )
                other = next((o for o in self.holds if o != who and thing in self.holds[o]), "")
                if other and other in cells and thing in things_of(cells[other]):
                    self.warn(
                        Finding(
                            WARNING,
                            f"{caps(who)} and {caps(other)} both hold the {thing} here;"
                            f" in {self.holds[other][thing].shot} only {caps(other)} does",
                            "give it to one of them",
                            shot.name,
                            code="prop-twice",
                        )
                    )
            had = self.holds.get(who, {})
            for thing, said in list(had.items()):
                if thing not in things and said.value == "given" and thing not in text.split():
                    self.warn(
                        Finding(
                            WARNING,
                            f"{caps(who)} was given the {thing} in {said.shot}, but does not"
                            " have it here",
                            "name it in props, or have it put down (action)",
                            shot.name,
                            code="hand-empty",
                        )
                    )
                if thing not in things:
                    del had[thing]
            for thing in things:
                self.holds.setdefault(who, {})[thing] = _Said("cell", shot.name)
            if things:
                self.bare.pop(who, None)
            else:
                self.bare[who] = _Said("-", shot.name)

    def _holding(self, shot: Shot, who: str, thing: str) -> None:
        """Somebody holds a thing that they gave away."""
        said = self.lacks.get(who, {}).get(thing)
        if said and thing:
            self.warn(
                Finding(
                    WARNING,
                    f"{caps(who)} has the {thing} here, but {said.value} in {said.shot}",
                    "have it taken back, or leave it out",
                    shot.name,
                    code="given-away",
                )
            )
            del self.lacks[who][thing]

    def frame(self, shot: Shot, seen: Sequence[Happening]) -> None:
        """A first or a last frame in which somebody holds something."""
        for clause in seen:
            for deed in clause.deeds:
                if deed.kind == "takes":
                    self._holding(shot, deed.who, deed.thing)

    def does(self, shot: Shot, deed: ToldDeed) -> None:
        """A thing goes from hand to hand."""
        who, thing, to = deed.who, deed.thing, deed.to
        if not thing:
            return
        held = self.holds.setdefault(who, {})
        if deed.kind == "takes":
            self._holding(shot, who, thing)
            held[thing] = _Said("taken", shot.name)
            self.bare.pop(who, None)
        elif deed.kind == "gives":
            held.pop(thing, None)
            self.lacks.setdefault(who, {})[thing] = _Said(f"gave it to {to.upper()}", shot.name)
            self.holds.setdefault(to, {})[thing] = _Said("given", shot.name)
            self.lacks.get(to, {}).pop(thing, None)
            self.bare.pop(to, None)
        elif deed.kind == "lays":
            held.pop(thing, None)
            self.lacks.setdefault(who, {})[thing] = _Said("put it down", shot.name)

    def hand(self, shot: Shot, clause: Happening, group: ToldThing) -> None:
        """The hand that a thing is in, or that does something to it."""
        if group.noun in ("hand", "hands", "left", "right"):
            return
        key = (group.owner, group.noun)
        before = self.sides.get(key)
        if group.hand:
            if before and before.value != group.hand:
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(group.owner)} has the {group.noun} in the {group.hand} hand here"
                        f" and in the {before.value} in {before.shot}",
                        f"write {before.value} hand, or show the change",
                        shot.name,
                        code="other-hand",
                    )
                )
            self.sides[key] = _Said(group.hand, shot.name)
        elif before is None and (with_ := _WITH_HAND.search(clause.text)):
            self.sides[key] = _Said(with_[1], shot.name)


class _Things(_Checker):
    """What became of things, and what colour they have."""

    coloured: dict[str, tuple[set[str], _Said]]

    def __init__(self, found: list[Finding], cast: Cast):
        super().__init__(found, cast)
        self.coloured = {}

    def scene(self) -> None:
        self.state: dict[str, tuple[str, _Said]] = {}

    def does(self, shot: Shot, deed: ToldDeed) -> None:
        """A thing is opened, emptied, broken."""
        state = WORDS.tables["states"].get(deed.kind)
        if state and deed.thing:
            self.state[deed.thing] = (deed.kind, _Said(state["done"], shot.name))

    def read(self, shot: Shot, group: ToldThing) -> None:
        """What is said of a thing against what became of it."""
        words = set(group.words)
        kind, said = self.state.get(group.noun, ("", None))
        wrong = sorted(words & WORDS.contrary.get(kind, set()))
        if wrong and said and group.definite:
            self.warn(
                Finding(
                    WARNING,
                    f"the {group.noun} is {wrong[0]} here, but {said.value} in {said.shot}",
                    f"show what happens to it between, or leave out {wrong[0]}",
                    shot.name,
                    code="state-differs",
                )
            )
        lit = " ".join((shot.cells.get(Col.LIGHT, ""),)).lower()
        if words & {"unlit", "extinguished"} and re.search(rf"\b{re.escape(group.noun)}", lit):
            self.warn(
                Finding(
                    WARNING,
                    f"the {group.noun} is unlit here, but the light is {shot.cells[Col.LIGHT]}",
                    "change one of the two",
                    shot.name,
                    code="light-differs",
                )
            )

    def colour(self, shot: Shot, group: ToldThing) -> None:
        """A vehicle or an animal that has another colour now."""
        colours = WORDS.colour(group.words)
        if not colours:
            return
        for name in self.cast.names:  # one that is known by name
            if name.lower() in (who.lower() for who in shot.who):
                for one in _groups(self.cast.known[name.lower()].words):
                    if one.noun == group.noun and (own := WORDS.colour(one.words[:1])):
                        if not own & colours:
                            self.warn(
                                Finding(
                                    WARNING,
                                    f"the {group.noun} is {' and '.join(sorted(colours))} here;"
                                    f" known.toml describes {caps(name)} as {one.words[0]}",
                                    "use the colour of known.toml, or leave it out",
                                    shot.name,
                                    code="other-look",
                                )
                            )
                        return
        before = self.coloured.get(group.noun)
        if before and group.definite and not before[0] & colours:
            self.warn(
                Finding(
                    WARNING,
                    f"the {group.noun} is {' and '.join(sorted(colours))} here and"
                    f" {' and '.join(sorted(before[0]))} in {before[1].shot}",
                    "use one colour, or make clear that there are two",
                    shot.name,
                    code="other-look",
                )
            )
            return
        self.coloured[group.noun] = (colours, _Said("", shot.name))


class _Looks(_Checker):
    """How people look and what they wear."""

    marks: dict[tuple[str, str], _Said]

    def __init__(self, found: list[Finding], cast: Cast):
        super().__init__(found, cast)
        self.marks = {}

    def scene(self) -> None:
        self.off: dict[str, dict[str, _Said]] = {}  # clothes that somebody took off
        self.on: dict[str, dict[str, _Said]] = {}  # and put on

    def does(self, shot: Shot, deed: ToldDeed) -> None:
        """Clothes are put on and taken off."""
        said = _Said("", shot.name)
        if deed.kind == "sheds" and deed.thing:
            self.off.setdefault(deed.who, {})[deed.thing] = said
        elif deed.kind == "wears" and deed.thing:
            self.off.get(deed.who, {}).pop(deed.thing, None)
            self.on.setdefault(deed.who, {})[deed.thing] = said

    def read(self, shot: Shot, clause: Happening) -> None:
        """What a clause says of how somebody looks, against known.toml and the cells."""
        who = [name for name in clause.named if self.cast.person(name)]
        who = who or [name.lower() for name in shot.who[:1] if self.cast.person(name)]
        if not who or (len(set(who)) != 1 and not clause.doers):
            return
        name = clause.doers[0] if clause.doers and clause.doers[0] in who else who[0]
        person = self.cast.person(name)
        if person is None:
            return
        own = _groups(person.words)
        self._hair(shot, clause, name, own, person.words)
        self._clothes(shot, clause, name)
        text = clause.text
        for match in _MARK.finditer(text):
            key = (name, match["mark"].lower())
            at = _MARK.search(person.words)
            before = self.marks.get(key) or (
                _Said(at["side"].lower(), "known.toml")
                if at and at["mark"].lower() == key[1]
                else None
            )
            if before and before.value != match["side"].lower():
                self.warn(
                    Finding(
                        WARNING,
                        f"the {key[1]} of {caps(name)} is on the {match['side'].lower()} here"
                        f" and on the {before.value} in {before.shot}",
                        f"write {before.value}",
                        shot.name,
                        code="other-look",
                    )
                )
            self.marks.setdefault(key, _Said(match["side"].lower(), shot.name))
        aged = _AGED.search(text)
        if aged and re.match(rf"{re.escape(name)} , (?:an?|the) ", text):
            said, has = WORDS.age(aged["said"].split()), WORDS.age(re.findall(r"\w+", person.words))
            if said and has and (said[0] > has[1] or has[0] > said[1]):
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} is {aged[0]} here; known.toml says {person.words}",
                        "leave the age to known.toml",
                        shot.name,
                        code="other-look",
                    )
                )

    def _hair(
        self, shot: Shot, clause: Happening, name: str, own: Iterable[ToldThing], words: str
    ) -> None:
        """Hair and beard: another colour, or none."""
        known: dict[str, set[str]] = {}
        for group in own:
            if kind := WORDS.hair.get(group.noun):
                known.setdefault(kind, set()).update(WORDS.colour(group.words))
        small = set(re.findall(r"[\w-]+", words.lower()))
        said: list[tuple[str, set[str], str]] = [
            (kind, WORDS.colour(group.words), " ".join((*group.words, group.noun)))
            for group in clause.groups
            if (kind := WORDS.hair.get(group.noun)) in ("hair", "beard")
        ]
        said += [
            (kind.removeprefix("no-"), set(), word)
            for word, kind in WORDS.hair.items()
            if kind.startswith("no-") and word in clause.text.replace(" - ", "-").split()
        ]
        for kind, colours, text in said:
            other = colours and known.get(kind) and not colours & known[kind]
            gone = not colours and kind in known and WORDS.hair.get(text, "").startswith("no-")
            grown = colours and kind == "hair" and {"shaved", "bald", "shaven-headed"} & small
            if other or gone or (grown and kind not in known):
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} has {text} here; known.toml says {words}"
                        if not gone
                        else f"{caps(name)} is {text} here; known.toml says {words}",
                        "leave the hair to known.toml, or change it there",
                        shot.name,
                        code="other-look",
                    )
                )

    def _clothes(self, shot: Shot, clause: Happening, name: str) -> None:
        """Clothes named behind a name or as somebody's own, against what they wear."""
        worn_words = self.cast.clothes(name, shot)
        person = self.cast.person(name)
        worn_words = worn_words or (person.wears or person.words if person else "")
        worn = [(w, WORDS.clothes[w]) for w in _words(worn_words) if w in WORDS.clothes]
        changed = {d.thing for d in clause.deeds if d.kind in ("wears", "sheds")}
        for group in clause.groups:
            kind = WORDS.clothes.get(group.noun)
            lead = rf"\b{re.escape(name)} ,?(?: \w+)? ?(?:in|wearing) "
            inside = re.search(rf"{lead}(?:[\w-]+ ){{0,4}}{group.noun}\b", clause.text)
            if not kind or not inside or group.noun in changed or not worn:
                continue
            same = [w for w, _ in worn if w == group.noun]
            colours = WORDS.colour(group.words)
            has = WORDS.colour(_words(worn_words))
            if (same and colours and has and not colours & has) or (
                not same and group.noun not in self.on.get(name, {})
            ):
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} wears {' '.join((*group.words, group.noun))} here;"
                        f" otherwise it is {worn_words}",
                        "use the same clothes, fill wardrobe, or have them change in the picture",
                        shot.name,
                        code="other-clothes",
                    )
                )
        cell = shot.of_person(Col.WARDROBE, name) if shot.given.get(Col.WARDROBE) else ""
        for noun, said in list(self.off.get(name, {}).items()):
            if noun in _words(cell) and noun not in changed:
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(name)} wears the {noun} here, but took it off in {said.shot}",
                        "have it put on again, or fill wardrobe without it",
                        shot.name,
                        code="other-clothes",
                    )
                )
                del self.off[name][noun]


class _Surroundings(_Checker):
    """Weather and light."""

    def scene(self) -> None:
        self.sky: _Said | None = None
        self.lamp: _Said | None = None

    def read(self, shot: Shot, action: Sequence[Happening], knowledge: FilmKnowledge) -> None:
        """Weather and light against the shots before, and against the hour."""
        text = " ".join(clause.text for clause in action)
        changes = set(WORDS.tables["changes"]["weather"].split()) & set(text.split())
        light = shot.given.get(Col.LIGHT, "")
        for source, said in (
            (shot.given.get(Col.WEATHER, ""), "weather"),
            (light, "light"),
            (text, "action"),
        ):
            sky = next((WORDS.weather[w] for w in _words(source) if w in WORDS.weather), "")
            if not sky:
                continue
            pairs = [set(pair) for pair in WORDS.tables["weather"]["exclude"]]
            if self.sky and {self.sky.value, sky} in pairs and not changes:
                self.warn(
                    Finding(
                        WARNING,
                        f"the {said} says {source} here, which does not go with the weather of"
                        f" {self.sky.shot}",
                        "use one weather in the scene, or have it change (action)",
                        shot.name,
                        code="weather-changed",
                    )
                )
            self.sky = _Said(sky, shot.name)
        self._light(shot, light, text, knowledge)

    def _light(self, shot: Shot, light: str, text: str, knowledge: FilmKnowledge) -> None:
        hour = knowledge.hour(shot.cells.get(Col.HOUR, ""))
        kinds = [WORDS.light[w] for w in (*_words(light), *_words(text)) if w in WORDS.light]
        table = WORDS.tables["light"]
        if hour:
            minutes = hour[1] % 1440
            by_night = minutes >= table["night"][0] or minutes < table["night"][1]
            by_day = table["day"][0] <= minutes <= table["day"][1]
            wrong = "moon" if by_day and "moon" in kinds else ""
            wrong = "sun" if by_night and "sun" in kinds else wrong
            if wrong:
                self.warn(
                    Finding(
                        WARNING,
                        f"there is {wrong}light here, but it is {shot.cells[Col.HOUR]}",
                        "change the light or the hour",
                        shot.name,
                        code="light-hour",
                    )
                )
        own = [WORDS.light[w] for w in _words(light) if w in WORDS.light]
        switches = set(WORDS.tables["changes"]["light"].split()) & set(text.split())
        pairs = [set(pair) for pair in table["exclude"]]
        if own and len(set(own)) == 1:
            if self.lamp and {self.lamp.value, own[0]} in pairs and not switches:
                self.warn(
                    Finding(
                        WARNING,
                        f"the light is {light} here, which is another source than in"
                        f" {self.lamp.shot}",
                        "use the light of the scene, or show it change",
                        shot.name,
                        code="light-differs",
                    )
                )
            self.lamp = _Said(own[0], shot.name)


class _Ways(_Checker):
    """Which way and how fast people go, where they look, how a shot joins the one before."""

    def scene(self) -> None:
        self.heads: dict[str, _Said] = {}  # where somebody goes in the frame
        self.speeds: dict[str, _Said] = {}
        self.faces: dict[str, tuple[str, str, str]] = {}
        self.spoke: list[str] = []  # who spoke last, not more than a shot ago
        self.silent = False

    def does(self, shot: Shot, deed: ToldDeed, clause: Happening) -> None:
        """Somebody goes somewhere, or turns."""
        if deed.kind in ("turns", "comes", "goes"):
            self.heads.pop(deed.who, None)
        if deed.kind in (_FAST, _SLOW, "moves", "goes"):
            self._goes(shot, deed.who, deed.kind, clause)

    def _goes(self, shot: Shot, who: str, kind: str, clause: Happening) -> None:
        """Which way and how fast somebody goes, against the shots before."""
        match = _TOWARDS.search(clause.text)
        if match:
            way = (match["to"] or match["towards"] or match["wards"]).lower()
            before = self.heads.get(who)
            if before and before.value != way:
                self.warn(
                    Finding(
                        WARNING,
                        f"{caps(who)} goes to the {way} here and to the {before.value} in"
                        f" {before.shot}",
                        "keep the direction, or show the turn",
                        shot.name,
                        code="direction-turned",
                    )
                )
            self.heads[who] = _Said(way, shot.name)
        before = self.speeds.get(who)
        goes_on = re.search(r"\b\w+s on\b", clause.text)
        if before and goes_on and {before.value, kind} == {_FAST, _SLOW}:
            self.warn(
                Finding(
                    WARNING,
                    f"{caps(who)} goes on at another speed than in {before.shot}",
                    "keep the speed, or show the change",
                    shot.name,
                    code="speed-changed",
                )
            )
        if kind in (_FAST, _SLOW):
            self.speeds[who] = _Said(kind, shot.name)

    def edges(self, shot: Shot, before: Shot | None) -> None:
        """How a shot joins the one before."""
        if before is None:
            self.spoke = [line.speaker for line in shot.lines]
            return
        if shot.continuous and shot.who and before.who and not set(shot.who) & set(before.who):
            self.warn(
                Finding(
                    WARNING,
                    f"it continues from {before.name} without a cut, but shows other people",
                    "have the camera find them (move), or put a cut there",
                    shot.name,
                    code="continuous-differs",
                )
            )
        transition = normal(shot.cells.get(Col.TRANSITION, ""))
        speaks = [line.speaker for line in shot.lines]
        talk = bool(self.spoke and speaks)
        self.spoke = speaks or ([] if self.silent else self.spoke)
        self.silent = not speaks
        if any(word in transition for word in _SOFT) and talk:
            self.warn(
                Finding(
                    WARNING,
                    f"{transition} between {before.name} and this shot falls into a conversation:"
                    " it reads as time gone by",
                    "cut, or begin a new scene",
                    shot.name,
                    code="dissolve-in-talk",
                )
            )
        turns = shot.cells.get(Col.REVERSE_OF, "")
        background = normal(shot.cells.get(Col.BACKGROUND, ""))
        same = background and normal(before.cells.get(Col.BACKGROUND, "")) == background
        if same and turns in (before.number, before.name):
            self.warn(
                Finding(
                    WARNING,
                    f"the reverse shot has the same background as {before.name}",
                    f"say what was behind the camera of {before.name}",
                    shot.name,
                    code="same-background",
                )
            )

    def side(self, shot: Shot) -> None:
        """The camera looks the other way, and somebody still looks to the same side."""
        facing = compass(shot.given.get(Col.FACING, ""))
        if not facing or shot.cells.get(Col.REVERSE_OF):
            return
        for name, look in shot.sides(Col.EYELINE).items():
            before = self.faces.get(name)
            if before and before[1] == look and look in ("left", "right"):
                turn = (COMPASS.index(facing) - COMPASS.index(before[0])) % 8
                if turn == 4:
                    self.warn(
                        Finding(
                            WARNING,
                            f"the camera faces {facing} here and {before[0]} in {before[2]}, yet"
                            f" {caps(name)} looks {look} in both",
                            "turn the eyeline round, or correct facing",
                            shot.name,
                            code="line-crossed",
                        )
                    )
            self.faces[name] = (facing, look, shot.name)


class _Story:
    """The state of a film while its shots are read."""

    def __init__(self, knowledge: FilmKnowledge, cast: Cast):
        self.cast, self.knowledge = cast, knowledge
        self.found: list[Finding] = []
        self.presence = _Presence(self.found, cast)
        self.hands = _Hands(self.found, cast)
        self.things = _Things(self.found, cast)
        self.looks = _Looks(self.found, cast)
        self.surroundings = _Surroundings(self.found, cast)
        self.ways = _Ways(self.found, cast)

    def scene(self) -> None:
        """A new scene."""
        every = (self.presence, self.hands, self.things, self.looks, self.surroundings, self.ways)
        for part in every:
            part.scene()

    def shot(self, shot: Shot, before: Shot | None) -> None:
        """Read a shot against the state, and let it change that."""
        if _ELSEWHEN.search(" ".join((shot.cells.get(Col.NOTE, ""), *shot.further.values()))):
            return
        people = list(dict.fromkeys((*self.cast.names, *shot.who)))
        action = happenings(shot.cells.get(Col.ACTION, ""), people, shot.who)
        first, last = (happenings(shot.cells.get(c, ""), people) for c in (Col.FIRST, Col.LAST))
        self.presence.frame(shot, Col.FIRST, first)
        self.presence.frame(shot, Col.LAST, last)
        self.hands.frame(shot, first)
        self.hands.props(shot, action)
        self.presence.read(shot, action)
        for clause in action:
            self._clause(shot, clause)
        self.hands.frame(shot, last)
        self.surroundings.read(shot, action, self.knowledge)
        for group in _groups(f"the {shot.given.get(Col.SETTING, '')}"):
            self.things.colour(shot, group)
        self.ways.edges(shot, before)
        self.ways.side(shot)

    def _clause(self, shot: Shot, clause: Happening) -> None:
        for group in clause.groups:
            self.things.read(shot, group)
            self.things.colour(shot, group)
            self.hands.hand(shot, clause, group)
        self.looks.read(shot, clause)
        for deed in clause.deeds:
            if deed.verb == "leave" and deed.thing in self.hands.holds.get(deed.who, {}):
                deed = deed._replace(kind="lays")
            for part in (self.presence, self.hands, self.things, self.looks):
                part.does(shot, deed)
            self.ways.does(shot, deed, clause)


@lru_cache(maxsize=256)
def _groups(text: str) -> tuple[ToldThing, ...]:
    """The things that a text names, as the words of a person: read once, asked at each shot."""
    return tuple(group for clause in happenings(text, []) for group in clause.groups)


def _words(text: str) -> list[str]:
    return re.findall(r"[\w-]+", text.lower())
