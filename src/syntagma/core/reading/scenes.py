"""A longer text cut into scenes, each of which can become a prompt: a paragraph of a story by its
sentences, a page by its paragraphs and the entries of its lists. Who was described stays the same
person, and a place holds until another is named.
"""

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.word_lists import is_person
from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formula_rewriting import lowered
from syntagma.core.reading.prompt_pieces import PART, PromptPiece, Reading
from syntagma.core.reading.reader import Reader
from syntagma.core.vocabulary import facets

LEAST = 4  # words that a scene has at least
SURE = 0.2  # what is less sure shows nothing
_SENTENCE = regex(r"[^.!?\n]+(?:[.!?]+(?=[\s\"”')]|$)[\"”']?|\n|$)|[.!?]+")
_ABBREVIATED = regex(r"\b(?:mr|mrs|ms|dr|st|no|approx|vs|e\.g|i\.e|a\.m|p\.m)\.$", re.I)
_HEADING = regex(r"^\s{0,3}(?:#{1,6}\s.*|[^.!?\n]{1,60}:?\s*\n[=-]{3,}\s*)$")
_ENTRY = regex(
    r"^\s*(?:[-*•–]|\d{1,3}[.)]|(?:scene|shot|panel|page|frame|beat|picture|image)\s+\d{1,3}\s*[:.)–-])\s+",
    re.I,
)
_CARRIES_ON = regex(
    r"^(?:he|she|it|they|his|her|their|its|this|that|these|there|then|behind|beside|above|below|meanwhile|and|but|around|outside|inside)\b",
    re.I,
)
# Somewhere else there is someone else: "Below, a cat sleeps".
_ELSEWHERE = regex(
    r"^(?:meanwhile|behind|beside|above|below|around|outside|inside|there|then),?"
    r" (?:an?|two|three|another|his|her|their)\b|^(?:his|her|their|its) [a-z]",
    re.I,
)
_TALK = regex(
    r"^(?:we|you|i|our|open|call|visit|contact|since|find us|book|order|welcome)\b", re.I
)  # a page that speaks of itself
_SHOWS = facets.FacetGroup("shown")
_WHO = facets.FacetGroup("who")
_PRONOUN = regex(r"(?:(?:and|but|then|so|when|while|as)\s+)?(?P<who>he|she|they|it)\b", re.I)
_NAMED = regex(
    r"(?P<name>[A-Z][a-z'’-]+(?: [A-Z][a-z'’-]+)?)(?P<said>,? (?:the |an? |who |in |with |whose"
    r" ).+)?"
)
_TITLED = regex(
    r"(?P<said>(?:the|an?|her|his|my|our) [a-z][\w'’ -]*) (?P<name>[A-Z][a-z'’-]+)", re.A
)


class StoryScene(NamedTuple):
    """One scene: its words as a wish on one line, the sentences that it was made of, each of them
    as it is in the wish, and those who are known by name in it, with the words that they were
    described in.
    """

    text: str
    sentences: tuple[str, ...]
    wished: tuple[str, ...]
    known: dict[str, str] = {}


def scenes(text: str, reader: Reader) -> list[StoryScene]:
    """The scenes of a text, in order; a single sentence is one. What shows nothing (a heading, an
    opening hour) is passed over.
    """
    found: list[StoryScene] = []
    telling = _Telling(reader)
    for block in _blocks(text):
        held: list[_Told] = []
        has: set[str] = set()
        for sentence in _sentences(block):
            reading = reader.read(sentence)
            shown = (
                set()
                if _TALK.match(sentence)
                else {
                    p.facet
                    for p in reading.parts()
                    if p.sure >= SURE and not _PRONOUN.fullmatch(p.words)
                }
                & _SHOWS
            )
            begins = (
                len(sentence.split()) >= LEAST
                and bool(shown & _WHO or (_PRONOUN.match(sentence) and len(sentence.split()) > 3))
                and bool(shown & {"action", "pose"})
                and bool(has & _WHO or (held and held[-1].led))
                and bool(has & {"action", "setting", "pose"})
                and (
                    _ELSEWHERE.match(sentence)
                    or not _CARRIES_ON.match(sentence)
                    or _PRONOUN.match(sentence) is not None
                )
            )
            if begins and held:
                found.append(telling.scene(held))
                held, has = [], set()
            held.append(_Told(sentence, reading, bool(_PRONOUN.match(sentence))))
            has |= shown
        if has:
            found.append(telling.scene(held))
    return [scene for scene in found if len(scene.text.split()) >= LEAST] or (
        [_whole(text)] if text.strip() else []
    )


def _whole(text: str) -> StoryScene:
    wish = " ".join(text.split())
    return StoryScene(wish, (wish,), (wish,))


class _Told(NamedTuple):
    sentence: str
    reading: Reading
    led: bool  # a pronoun says who it is


class _Telling:
    """A story as it goes on: who was described, who was spoken of last, and where it plays."""

    def __init__(self, reader: Reader):
        self.reader = reader
        self.known: dict[str, str] = {}
        self.spoken_of: list[str] = []  # who or what was spoken of, the last at the end
        self.place = ""

    def scene(self, held: Sequence[_Told]) -> StoryScene:
        """A scene of sentences, with who and where carried on from those before it."""
        wished = []
        placed = False
        for told in held:
            said = self._named(told, first=not wished)
            wished.append(said)
            places = [p for p in told.reading.parts() if p.facet == "setting" and p.sure >= SURE]
            if places:
                self.place, placed = places[-1].words, True
        if self.place and not placed and held[0].led:
            wished[-1] = f"{wished[-1].rstrip(' .!')}, {self.place}"
        known = {
            name: words
            for name, words in self.known.items()
            if any(re.search(rf"\b{re.escape(name)}\b", one) for one in wished)
        }
        return StoryScene(
            " ".join(wished), tuple(told.sentence for told in held), tuple(wished), known
        )

    def _named(self, told: _Told, first: bool) -> str:
        """A sentence with those who are known in it in full, once a scene: each picture knows
        nothing of the others.
        """
        sentence = told.sentence
        for name, words in _described(told.reading):
            self.known.setdefault(name, words)
        here = [
            p for p in told.reading.parts() if p.facet in _WHO and not _PRONOUN.fullmatch(p.words)
        ]
        pronoun = _PRONOUN.match(sentence)
        meant = self._meant(pronoun["who"].lower()) if first and pronoun else ""
        if meant and pronoun:
            sentence = f"{meant}{sentence[pronoun.end() :]}"
        elif here and not pronoun:
            self.spoken_of.append(here[0].words)
        for name, words in self.known.items():
            if first and words and words not in sentence:
                sentence = re.sub(
                    rf"\b{re.escape(name)}\b(?!['’]s)", f"{name}, {words},", sentence, count=1
                )
        return sentence.replace(",,", ",")

    def _meant(self, pronoun: str) -> str:
        """Whom or what a pronoun means: the last that it can stand for, "they" also the last two
        together; "" if nobody is.
        """
        if pronoun == "they":
            last = list(dict.fromkeys(self.spoken_of))[-2:]
            many = next(
                (
                    words
                    for words in reversed(last)
                    if " and " in words or english.is_plural(_head(words))
                ),
                "",
            )
            return many or (" and ".join([last[0], lowered(last[1])]) if len(last) == 2 else "")
        for words in reversed(self.spoken_of):
            person = (words[:1].isupper() and not english.split_determiner(words)[0]) or is_person(
                _head(words)
            )
            if person == (pronoun != "it"):
                return words
        return ""


def _head(words: str) -> str:
    """The noun that a group of words is about: fox of "the red fox in the snow"."""
    noun = english.split_determiner(words)[1]
    return noun[: head_end(noun)].lower().rpartition(" ")[2]


def _described(reading: Reading) -> Iterator[tuple[str, str]]:
    """Names in a sentence, each with the words that it is described in: "Ada, a baker in her
    sixties", "the old baker Ada".
    """
    pieces = reading.pieces
    for i, piece in enumerate(pieces):
        if piece.kind != PART or piece.facet not in _WHO:
            continue
        match = _NAMED.fullmatch(piece.words) or _TITLED.fullmatch(piece.words)
        if match and match["said"]:
            yield match["name"], match["said"].lstrip(", ")
        elif match and _apposed(pieces, i):
            yield match["name"], pieces[i + 2].words


def _apposed(pieces: Sequence[PromptPiece], i: int) -> bool:
    """Does a description follow a name: "Ada" ", " "a baker in her sixties"?"""
    return (
        i + 2 < len(pieces)
        and pieces[i + 1].text.strip() == ","
        and pieces[i + 2].facet in _WHO
        and pieces[i + 2].words[:2].lower() in ("a ", "an", "th")
    )


def _blocks(text: str) -> list[str]:
    """Paragraphs and entries of lists; headings apart."""
    found: list[str] = []
    for paragraph in re.split(r"\n\s*\n", text.replace("\r\n", "\n")):
        if _HEADING.match(paragraph.strip("\n")):
            continue
        lines = [
            line
            for line in paragraph.split("\n")
            if line.strip() and not re.match(r"\s{0,3}#{1,6}\s", line)
        ]
        entries = [line for line in lines if _ENTRY.match(line)]
        if len(entries) > 1:
            for line in lines:
                found.append(_ENTRY.sub("", line).strip())
        elif lines:
            found.append(" ".join(line.strip() for line in lines))
    return found


def _sentences(block: str) -> list[str]:
    found: list[str] = []
    for match in _SENTENCE.finditer(block):
        part = match.group().strip()
        if not part:
            continue
        if found and (_ABBREVIATED.search(found[-1]) or not re.search(r"\w", part)):
            found[-1] += " " + part
        else:
            found.append(part)
    return found
