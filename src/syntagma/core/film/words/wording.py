"""The words of a shot as a prompt has them: deeds behind their people, manners of speech, places and hours, sides of the frame."""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.clauses import verb_at
from syntagma.core.english.verbs import ADJECTIVES, base_of, in_third
from syntagma.core.english.word_lists import DETERMINERS, PREPOSITIONS
from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.film.shots.columns import PICK
from syntagma.core.film.shots.reversing import frame_side
from syntagma.core.film.shots.shot_list import Shot, owned
from syntagma.core.film.shots.spoken import OFF, OVER, SpokenLine, plain
from syntagma.core.film.words.cast import Cast
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formulas.rewriting import doing
from syntagma.core.vocabulary.terms import Vocabulary, normal

_STOP = regex(r"(?<=[.!?])\s+(?=[\"“'A-Z@])")
_VOICES = {OFF: "off screen", OVER: "in voice-over"}
_SIDES = {"left": "on the left of the frame", "right": "on the right of the frame", "centre": "in the middle of the frame"}
_EYES = {"left": "eyes to the left", "right": "eyes to the right", "up": "eyes raised", "down": "eyes lowered", "camera": "eyes on the lens"}
_LOOKS = {"left": "looks to the left", "right": "looks to the right", "up": "looks up", "down": "looks down", "camera": "looks into the lens"}
_LIGHT = {"left": "from the left", "right": "from the right", "behind": "from behind", "front": "from beside the camera"}
_SMALL = DETERMINERS | PREPOSITIONS | frozenset("he she it they we nobody somebody someone both all there then two three four five six".split())
_VOICE_WORDS = frozenset("whisper whispered murmured muttering shouting singing laughing crying".split())


class Deed(NamedTuple):
    """What happens in a shot: `joined` comes after the people ("punching a ticket"), `told` in sentences of its own ("The night purser
    punches a ticket."); one of them is blank."""

    joined: str = ""
    told: str = ""


def deed(text: str, shot: Shot, cast: Cast, handles: Mapping[str, str] = {}) -> Deed:
    """What happens, with everybody who is named in capitals called as they are called in prompts. A deed without its doer comes after the
    people where it begins like one ("checking a tide board"), and gets the foremost as its doer if it says what they do ("checks")."""
    if not text.strip():
        return Deed()
    text = plain(text)
    people = list(dict.fromkeys((*shot.who, *(line.speaker for line in shot.lines if line.speaker), *cast.names)))
    sentences = [one.strip().rstrip(".").strip() for one in _STOP.split(text.strip()) if one.strip(" .")]
    first = sentences[0].split(" ", 1)[0].lower().rstrip(",;:")
    if len(sentences) == 1 and shot.who and not _names(sentences[0], people) and (first.endswith("ing") or english.starts_with_preposition(sentences[0])):
        return Deed(joined=named(sentences[0][:1].lower() + sentences[0][1:], people, cast, handles))
    if len(sentences) == 1 and len(shot.who) == 1:  # PILOT at the door, PILOT looking up
        rest = _behind_name(sentences[0], shot.who[0], cast, handles)
        if rest and (rest.split(" ", 1)[0].lower().rstrip(",").endswith("ing") or english.starts_with_preposition(rest)):
            return Deed(joined=named(rest, people, cast, handles))
    found = []
    for i, sentence in enumerate(sentences):
        said = named(sentence, people, cast, handles)
        if not i and shot.who and _does(sentence):
            said = f"{calls(shot.who[0], cast, handles)} {said[:1].lower()}{said[1:]}"
        found.append(said)
    told = ". ".join(one if one[:1] in "@<[" else one[:1].upper() + one[1:] for one in found)
    return Deed(told=told[:1].lower() + told[1:] if told.split(" ", 1)[0].lower() in _SMALL else told)  # where a sentence begins, it is a capital again


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
    return in_third(small[0]) and (base_of(small[0]) != small[0] or verb_at(["the", "person", *small]) == 2)


def calls(name: str, cast: Cast, handles: Mapping[str, str]) -> str:
    """Somebody as they are called once they were described."""
    return handles.get(name.lower()) or cast.short(name)


def named(text: str, people: Sequence[str], cast: Cast, handles: Mapping[str, str]) -> str:
    """A text with each name in capitals, or behind @, put as they are called."""
    for name in people:
        words = calls(name, cast, handles)
        text = re.sub(rf"(?<!\w)(?:@{re.escape(name)}|{re.escape(name.upper())})(?!\w)", lambda m, words=words: words, text)
    return text


def frame_words(text: str, shot: Shot, cast: Cast, handles: Mapping[str, str], by_name: bool) -> str:
    """What a first or a last picture shows, as it is behind "first" and "at the end", or behind "it ends" where the people stand
    `by_name`: a deed, a place, or "with …"."""
    who = calls(shot.who[0], cast, handles) if shot.who else ""
    said = deed(text, shot, cast, handles)
    if said.joined:
        return f"with {who} {said.joined}" if by_name else said.joined
    if who and (rest := _behind_name(text, shot.who[0], cast, handles)):
        rest = named(doing(rest), [*shot.who, *cast.names], cast, handles)
        return rest if len(shot.who) == 1 and not by_name else f"with {who} {rest}"
    determiner, rest = english.split_determiner(said.told)
    article = "" if determiner or english.countability(rest) != "one" else english.article(said.told) + " "
    return f"with {article}{said.told}"


def people_words(names: Sequence[str], shot: Shot, cast: Cast, handles: Mapping[str, str], described: set[str]) -> str:
    """Some people of a shot as one group: each in full where they were not described yet, in short after that. They are then. Somebody
    who is picked stays "pick"."""
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
    long = any("," in word for word in words)
    if not long and len(words) == 2:
        return " and ".join(words)
    return f"{', '.join(words[:-1])}, and {words[-1]}" if long else english_list(words)


def english_list(words: Sequence[str]) -> str:
    """Words as a list: a, b and c."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def how(line: SpokenLine, vocabulary: Vocabulary) -> str:
    """How a line is said, as it is behind its speaker: off screen, in a dry voice."""
    manner = line.manner.strip().rstrip(".")
    term = vocabulary["voice"].get(manner) if manner and "voice" in vocabulary else None
    words = re.findall(r"[\w-]+", manner.lower())
    if term:
        manner = term.phrase or term.term
    elif words and words[0] not in _VOICE_WORDS and all(word in ADJECTIVES or word == "and" or _adjective(word) for word in words):
        manner = f"in {english.article(manner)} {manner} voice"
    return ", ".join(part for part in (_VOICES.get(line.voice, ""), "at the same time" if line.dual else "", manner) if part)


def _adjective(word: str) -> bool:
    return not word.endswith(("ly", "ing", "ed")) and len(word) > 2 and word.endswith(("y", "ful", "less", "ous", "ish", "ive", "ant", "ent"))


def hour_words(hour: str, vocabulary: Vocabulary, knowledge: FilmKnowledge) -> str:
    """An hour as a sentence says it: night → at night; a term of the vocabulary by its own form."""
    if "hour" in vocabulary and vocabulary["hour"].get(hour):
        return hour
    known = knowledge.hour(hour)
    return known[0] if known else hour


def trade_term(cell: str, facet: str, vocabulary: Vocabulary) -> str:
    """The term that a cell names in the trade's own short way: EWS, low, over the shoulder; the cell if none is meant. Only for what the
    trade names: places and lights stay in a person's own words."""
    if facet not in vocabulary or not cell:
        return cell
    terms = vocabulary[facet]
    for said in (cell, f"{cell} shot", f"{cell} angle", f"{cell} view", f"{cell} level"):
        if term := terms.get(said):
            return term.term
    return next((term.term for term in terms for other in term.aka if normal(other) == normal(cell)), cell)


def light_side(shot: Shot) -> str:
    """Where the light comes from in this frame, in words; "" if that is said already, or can't be determined."""
    said = set(re.findall(r"[a-z]+", shot.cells.get("light", "").lower()))
    if said & {"left", "right", "behind", "front", "back", "backlight", "above", "below"}:
        return ""
    return _LIGHT.get(frame_side(shot.cells.get("light from", ""), shot.cells.get("facing", "")), "")


def placement(shot: Shot, cast: Cast, handles: Mapping[str, str]) -> str:
    """Who is where in the frame, holds what and looks where: of one person as it is behind them, of several in a sentence."""
    sides, looks = shot.sides("screen side"), shot.sides("eyeline")
    props = owned(shot.cells.get("props", ""), shot.who)
    found = []
    for name in shot.who:
        key = name.lower()
        side, look = _SIDES.get(sides.get(key, ""), ""), looks.get(key, "")
        holds = f"{held(props[key])} in hand" if props.get(key) and not _mentioned(props[key], shot) else ""
        if len(shot.who) == 1:
            return ", ".join(part for part in (holds, side, _EYES.get(look, "")) if part)
        verb = f"is {side}" if side else _LOOKS.get(look, "") or (f"has {held(props[key])} in hand" if holds else "")
        more = [holds if side or look else "", _EYES.get(look, "") if side else ""]
        if verb:
            found.append(", ".join(part for part in (f"{calls(name, cast, handles)} {verb}", *more) if part))
    if not shot.who and shot.cells.get("props"):
        return held(shot.cells["props"])
    return "; ".join(found)


def held(text: str) -> str:
    """Things in a hand with their articles: "flask, ticket punch" → "a flask and a ticket punch"."""
    things = [part.strip() for part in re.split(r"[,;&]|\band\b", text) if part.strip()]
    return english_list([_with_article(thing) for thing in things])


def _with_article(thing: str) -> str:
    determiner, rest = english.split_determiner(thing)
    return thing if determiner or english.countability(rest) != "one" else f"{english.article(thing)} {thing}"


def _mentioned(things: str, shot: Shot) -> bool:
    said = set(re.findall(r"\w+", " ".join(shot.cells.get(column, "") for column in ("action", "first frame", "last frame")).lower()))
    return all(set(re.findall(r"\w+", thing.lower())[-1:]) <= said for thing in re.split(r"[,;&]|\band\b", things) if thing.strip())

