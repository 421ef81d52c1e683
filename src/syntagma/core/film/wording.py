"""A shot in words: the people of a film, what the columns say in a prompt, and deeds as a sentence
tells them.
"""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.sentences import verb_at
from syntagma.core.english.verbs import ADJECTIVES, base_of, in_third
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS, is_person
from syntagma.core.film.columns import BY_FACET, BY_SLOT, COLUMNS, PICK, Col
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shot_list import Shot, frame_side, name_pattern, owned
from syntagma.core.film.spoken import OFF, OVER, SpokenLine, plain
from syntagma.core.formula.tree import Formula, SlotRule
from syntagma.core.models.profile import Profile
from syntagma.core.models.references import (
    KnownReference,
    Reference,
    reference_for,
    written_reference,
)
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formula_rewriting import doing
from syntagma.core.vocabulary.terms import Vocabulary, normal

# ──── The people of a film: always in exactly the same words, in full once a generation and in
# short after that, or by what a model takes instead of words.


_AGES = "one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\\w+teen|twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety|\\d+"  # noqa: E501
_BEHIND = regex(
    rf",| (?:with|in|wearing|who|whose|carrying|holding|aged|of (?:about |some )?(?:{_AGES}))\b"
)
_COUNTS = frozenset("two three four five six seven eight nine ten eleven twelve several".split())
_CLOTHED = regex(r"(?:wearing|in|dressed in)\s+", re.I)


class Cast:
    """Who is known by name, what they wear from which day of the story on, and how names are said.
    `wears` is a person → story day → clothes.
    """

    def __init__(
        self,
        known: Mapping[str, KnownReference],
        wears: Mapping[str, Mapping[str, str]] = {},
        say: Mapping[str, str] = {},
    ):
        self.known = {name.lower(): one for name, one in known.items()}
        self.wears = {name.lower(): days for name, days in wears.items()}
        spoken = {one.name: one.say for one in known.values() if one.say}
        self.say = {
            **{
                name.capitalize() if name.islower() else name: said for name, said in spoken.items()
            },
            **say,
        }

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
        """What somebody wears in a shot if it is not what their words say: from the cell, else from
        the story day on.
        """
        said = shot.of_person(Col.WARDROBE, name)
        if said:
            return said
        found = ""
        for day, clothes in self.wears.get(name.lower(), {}).items():
            if _reached(shot.cells.get(Col.STORY_DAY, ""), day):
                found = clothes
        return found

    def full(self, name: str, shot: Shot) -> str:
        """Somebody's words in full, in what they wear in the shot; a name that is not known as it
        is.
        """
        person = self.person(name)
        clothes = _CLOTHED.sub("", self.clothes(name, shot), count=1)
        words = person.words.strip().rstrip(".,;") if person else _noun(name, "a") or name
        if not clothes:
            return words
        article = (
            english.article(clothes) + " "
            if english.countability(english.split_determiner(clothes)[1]) == "one"
            and not english.split_determiner(clothes)[0]
            else ""
        )
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
            return (
                f"the {determiner} {group}"
                if determiner.isalpha() and determiner.lower() in _COUNTS
                else (
                    f"the {group}"
                    if determiner.lower() in ("a", "an", "")
                    else f"{determiner} {group}"
                )
            )
        short = person.short or _BEHIND.split(person.words, maxsplit=1)[0].strip()
        determiner, rest = english.split_determiner(short)
        return f"the {rest}" if determiner.lower() in ("a", "an") else short

    def reference(self, name: str, profile: Profile) -> Reference | None:
        """By what the model takes somebody beside or in place of their words; None if it takes
        words only.
        """
        person = self.person(name)
        return reference_for(person, profile) if person else None

    def handle(self, name: str, profile: Profile) -> str:
        """What replaces somebody's words on the model; "" if words do."""
        reference = self.reference(name, profile)
        return (
            written_reference(reference, profile)
            if reference and profile.reference[reference.role].at == "place"
            else ""
        )

    def named(self, text: str, names: Sequence[str]) -> str:
        """A text with each name in capitals (or behind @) put in words, in short: "PILOT hands
        PURSER a rope".
        """
        for name in names:
            words = self.short(name)
            text = re.sub(
                rf"(?:@{re.escape(name)}|(?<!\w){re.escape(name.upper())})(?!\w)",
                lambda m, words=words: words,
                text,
            )
        return text

    def refused(self, shot: Shot, model: str, today: str) -> str:
        """Why a shot may not be sent to a model on a day (ISO 8601): somebody real in it has not
        agreed to that; "" if it may.
        """
        speaks = {line.speaker.lower() for line in shot.lines}
        for name in dict.fromkeys((*shot.who, *(line.speaker for line in shot.lines))):
            person = self.person(name)
            if not person:
                continue
            wanted = (["picture"] if name in shot.who else []) + (
                ["voice"] if name.lower() in speaks else []
            )
            if refused := person.refused(wanted, model, today):
                return refused
        return ""


def _noun(name: str, article: str) -> str:
    """Somebody whom nobody described, and whose name is a noun of people: Waiter → a waiter, the
    waiter; "" for a real name.
    """
    small = name.lower()
    if not name.istitle() or not is_person(small.rpartition(" ")[2]):
        return ""
    return f"{english.article(small) if article == 'a' else article} {small}"


def _reached(day: str, first: str) -> bool:
    """Is a day of the story the first that is named, or a later one?"""
    number, first_number = re.search(r"\d+", day), re.search(r"\d+", first)
    if number and first_number:
        return int(number[0]) >= int(first_number[0])
    return day.strip().lower() == first.strip().lower()


# ──── What the slots of a formula are in a shot: which column of a shot list fills each, by its
# facet, else by its name.


_FRAMES = {"start": Col.FIRST, "end": Col.LAST}
_PROPS = ("object",)


def roles_of(formula: Formula, vocabulary: Vocabulary) -> dict[str, str]:
    """Slot → the column that fills it. A slot that no column fills is left out; of several for
    people the first is the foremost's ("who"), the next the second one's ("who 2").
    """
    roles: dict[str, str] = {}
    people = 0
    for rule in formula.slots:
        role = _role(rule, vocabulary)
        if role == Col.WHO:
            people += 1
            role = Col.WHO if people == 1 else f"who {people}"
        if role and (role not in roles.values() or role == Col.LINE):
            roles[rule.name] = role
    return roles


def _role(rule: SlotRule, vocabulary: Vocabulary) -> str:
    if rule.name in _FRAMES and rule.need:
        return _FRAMES[rule.name]
    if rule.facet in BY_FACET:
        return BY_FACET[rule.facet]
    if rule.facet in _PROPS and not rule.need:
        return Col.PROPS
    if rule.facet and vocabulary.participant(rule.facet):
        return Col.WHO
    return "" if rule.facet else BY_SLOT.get(re.sub(r"-?\d+$", "", rule.name), "")


# ──── The words of a shot as a prompt has them: deeds behind their people, manners of speech,
# places and hours, sides of the frame.


_STOP = regex(r"(?<=[.!?])\s+(?=[\"“'A-Z@])")
_VOICES = {OFF: "off screen", OVER: "in voice-over"}
_SIDES = {
    "left": "on the left of the frame",
    "right": "on the right of the frame",
    "centre": "in the middle of the frame",
}
_EYES = {
    "left": "eyes turned left",
    "right": "eyes turned right",
    "up": "eyes raised",
    "down": "eyes lowered",
    "camera": "eyes on the lens",
}
_LOOKS = {
    "left": "looks to the left",
    "right": "looks to the right",
    "up": "looks up",
    "down": "looks down",
    "camera": "looks into the lens",
}
_LIGHT = {
    "left": "from the left",
    "right": "from the right",
    "behind": "from behind",
    "front": "from beside the camera",
}
_SMALL = (
    DETERMINERS
    | PREPOSITIONS
    | frozenset(
        """
            he she it they we nobody somebody someone both all there then two three four five six
        """.split()
    )
)
_VOICE_WORDS = frozenset(
    "whisper whispered murmured muttering shouting singing laughing crying".split()
)


class Deed(NamedTuple):
    """What happens in a shot: `joined` comes after the people ("punching a ticket"), `told` in
    sentences of its own ("The night purser punches a ticket."); one of them is blank.
    """

    joined: str = ""
    told: str = ""


def deed(text: str, shot: Shot, cast: Cast, handles: Mapping[str, str] = {}) -> Deed:
    """What happens, with everybody who is named in capitals called as they are called in prompts. A
    deed without its doer comes after the people where it begins like one ("checking a tide board"),
    and gets the foremost as its doer if it says what they do ("checks").
    """
    if not text.strip():
        return Deed()
    text = plain(text)
    people = list(
        dict.fromkeys(
            (*shot.who, *(line.speaker for line in shot.lines if line.speaker), *cast.names)
        )
    )
    sentences = [
        one.strip().rstrip(".").strip() for one in _STOP.split(text.strip()) if one.strip(" .")
    ]
    first = sentences[0].split(" ", 1)[0].lower().rstrip(",;:")
    if (
        len(sentences) == 1
        and shot.who
        and not _names(sentences[0], people)
        and (first.endswith("ing") or english.starts_with_preposition(sentences[0]))
    ):
        return Deed(
            joined=named(sentences[0][:1].lower() + sentences[0][1:], people, cast, handles)
        )
    if len(sentences) == 1 and len(shot.who) == 1:  # PILOT at the door, PILOT looking up
        rest = _behind_name(sentences[0], shot.who[0], cast, handles)
        if rest and (
            rest.split(" ", 1)[0].lower().rstrip(",").endswith("ing")
            or english.starts_with_preposition(rest)
        ):
            return Deed(joined=named(rest, people, cast, handles))
    found = []
    for i, sentence in enumerate(sentences):
        said = named(sentence, people, cast, handles)
        if not i and shot.who and _does(sentence):
            said = f"{calls(shot.who[0], cast, handles)} {said[:1].lower()}{said[1:]}"
        found.append(said)
    told = ". ".join(one if one[:1] in "@<[" else one[:1].upper() + one[1:] for one in found)
    return Deed(
        told=told[:1].lower() + told[1:] if told.split(" ", 1)[0].lower() in _SMALL else told
    )  # where a sentence begins, it is a capital again


def _names(text: str, people: Sequence[str]) -> bool:
    return any(re.match(rf"@?{re.escape(name)}(?!\w)", text, re.I) for name in people)


def _behind_name(text: str, name: str, cast: Cast, handles: Mapping[str, str]) -> str:
    """What comes after somebody's name at the front of a sentence; "" if it is not there."""
    for lead in (f"@{name}", name.upper(), calls(name, cast, handles)):
        if text.startswith(lead + " "):
            return text[len(lead) + 1 :]
    return ""


def _does(text: str) -> bool:
    """Does a text begin with what somebody does ("punches a ticket")?"""
    small = text.lower().split()
    return in_third(small[0]) and (
        base_of(small[0]) != small[0] or verb_at(["the", "person", *small]) == 2
    )


def calls(name: str, cast: Cast, handles: Mapping[str, str]) -> str:
    """Somebody as they are called once they were described."""
    return handles.get(name.lower()) or cast.short(name)


def named(text: str, people: Sequence[str], cast: Cast, handles: Mapping[str, str]) -> str:
    """A text with each name put as they are called, and without ages behind names."""
    for name in people:
        words = calls(name, cast, handles)
        text = name_pattern(name).sub(lambda m, words=words: words, text)
        head = re.escape(words.rpartition(" ")[2])
        text = re.sub(rf"\b[Tt]he {head} (?={re.escape(words)})", "", text)  # the dog MOTH
        if english.split_determiner(words)[0] or words[:1] in "@<[":  # The PURSER
            text = re.sub(rf"\b(?:[Tt]he|[Aa]n?) (?={re.escape(words)})", "", text)
    return text


def frame_words(
    text: str, shot: Shot, cast: Cast, handles: Mapping[str, str], by_name: bool
) -> str:
    """What a first or a last picture shows, as it is behind "first" and "at the end", or behind "it
    ends" where the people stand `by_name`: a deed, a place, or "with …".
    """
    who = calls(shot.who[0], cast, handles) if shot.who else ""
    said = deed(text, shot, cast, handles)
    if said.joined:
        return f"with {who} {said.joined}" if by_name else said.joined
    if who and (rest := _behind_name(text, shot.who[0], cast, handles)):
        rest = named(doing(rest), [*shot.who, *cast.names], cast, handles)
        return rest if len(shot.who) == 1 and not by_name else f"with {who} {rest}"
    determiner, rest = english.split_determiner(said.told)
    article = (
        ""
        if determiner or english.countability(rest) != "one"
        else english.article(said.told) + " "
    )
    return f"with {article}{said.told}"


def people_words(
    names: Sequence[str], shot: Shot, cast: Cast, handles: Mapping[str, str], described: set[str]
) -> str:
    """Some people of a shot as one group: each in full where they were not described yet, in short
    after that. They are then. Somebody who is picked stays "pick".
    """
    if list(names) == [PICK]:
        return PICK
    words = []
    for name in names:
        if handles.get(name.lower()):
            words.append(handles[name.lower()])
        else:
            words.append(cast.short(name) if name.lower() in described else cast.full(name, shot))
        described.add(name.lower())
    if len(words) < 2:
        return "".join(words)
    long = any(head_end(word) < len(word) for word in words[:-1])
    return f"{', '.join(words[:-1])}, and {words[-1]}" if long else english_list(words)


def english_list(words: Sequence[str]) -> str:
    """Words as a list: a, b and c."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def how(line: SpokenLine, vocabulary: Vocabulary, knowledge: FilmKnowledge) -> str:
    """How a line is said, as it is behind its speaker: off screen, in a dry voice, over the
    telephone.
    """
    manner = line.manner.strip().rstrip(".")
    if through := knowledge.through(manner):
        return through
    voice = COLUMNS[Col.MANNER].facet
    term = vocabulary[voice].get(manner) if manner and voice in vocabulary else None
    words = re.findall(r"[\w-]+", manner.lower())
    if term:
        manner = term.phrase or term.term
    elif (
        words
        and words[0] not in _VOICE_WORDS
        and all(word in ADJECTIVES or word == "and" or _adjective(word) for word in words)
    ):
        manner = f"in {english.article(manner)} {manner} voice"
    return ", ".join(
        part
        for part in (_VOICES.get(line.voice, ""), "at the same time" if line.dual else "", manner)
        if part
    )


def _adjective(word: str) -> bool:
    return (
        not word.endswith(("ly", "ing", "ed"))
        and len(word) > 2
        and word.endswith(("y", "ful", "less", "ous", "ish", "ive", "ant", "ent"))
    )


def hour_words(hour: str, vocabulary: Vocabulary, knowledge: FilmKnowledge) -> str:
    """An hour as a sentence says it: night → at night; a term of the vocabulary by its own form."""
    facet = COLUMNS[Col.HOUR].facet
    if facet in vocabulary and vocabulary[facet].get(hour):
        return hour
    known = knowledge.hour(hour)
    return known[0] if known else hour


def trade_term(cell: str, facet: str, vocabulary: Vocabulary) -> str:
    """The term that a cell names in the trade's own short way: EWS, low, over the shoulder; the
    cell if none is meant. Only for what the trade names: places and lights stay in a person's own
    words.
    """
    if facet not in vocabulary or not cell:
        return cell
    terms = vocabulary[facet]
    for said in (cell, f"{cell} shot", f"{cell} angle", f"{cell} view", f"{cell} level"):
        if term := terms.get(said):
            return term.term
    return next(
        (term.term for term in terms for other in term.aka if normal(other) == normal(cell)), cell
    )


def light_side(shot: Shot) -> str:
    """Where the light comes from in this frame, in words; "" if that is said already, or can't be
    determined.
    """
    said = set(re.findall(r"[a-z]+", shot.cells.get(Col.LIGHT, "").lower()))
    if said & {"left", "right", "behind", "front", "back", "backlight", "above", "below"}:
        return ""
    return _LIGHT.get(
        frame_side(shot.cells.get(Col.LIGHT_FROM, ""), shot.cells.get(Col.FACING, "")), ""
    )


def placement(shot: Shot, cast: Cast, handles: Mapping[str, str]) -> str:
    """Who is where in the frame, holds what and looks where: of one person as it is behind them, of
    several in a sentence.
    """
    sides, looks = shot.sides(Col.SCREEN_SIDE), shot.sides(Col.EYELINE)
    props = owned(shot.cells.get(Col.PROPS, ""), shot.who)
    found = []
    for name in shot.who:
        key = name.lower()
        side, look = _SIDES.get(sides.get(key, ""), ""), looks.get(key, "")
        holds = (
            f"{held(props[key])} in hand"
            if props.get(key) and not _mentioned(props[key], shot)
            else ""
        )
        if len(shot.who) == 1:
            return ", ".join(part for part in (holds, side, _EYES.get(look, "")) if part)
        verb = (
            f"is {side}"
            if side
            else _LOOKS.get(look, "") or (f"has {held(props[key])} in hand" if holds else "")
        )
        more = [holds if side or look else "", _EYES.get(look, "") if side else ""]
        if verb:
            found.append(
                ", ".join(part for part in (f"{calls(name, cast, handles)} {verb}", *more) if part)
            )
    if not shot.who and shot.cells.get(Col.PROPS):
        return held(shot.cells[Col.PROPS])
    return "; ".join(found)


def held(text: str) -> str:
    """Things in a hand with their articles: "flask, ticket punch" → "a flask and a ticket
    punch".
    """
    things = [part.strip() for part in re.split(r"[,;&]|\band\b", text) if part.strip()]
    return english_list([_with_article(thing) for thing in things])


def _with_article(thing: str) -> str:
    determiner, rest = english.split_determiner(thing)
    return (
        thing
        if determiner or english.countability(rest) != "one"
        else f"{english.article(thing)} {thing}"
    )


def _mentioned(things: str, shot: Shot) -> bool:
    said = set(
        re.findall(
            r"\w+",
            " ".join(
                shot.cells.get(column, "") for column in (Col.ACTION, Col.FIRST, Col.LAST)
            ).lower(),
        )
    )
    return all(
        set(re.findall(r"\w+", thing.lower())[-1:]) <= said
        for thing in re.split(r"[,;&]|\band\b", things)
        if thing.strip()
    )
