"""A longer text cut into scenes, each of which can become a prompt: a paragraph of a story by its sentences, a page by its paragraphs and
the entries of its lists."""

import re
from typing import NamedTuple

from syntagma.core.notation.late_regex import regex
from syntagma.core.reading.formulas.recasting import lowered
from syntagma.core.reading.prose.deeds import participle
from syntagma.core.reading.reader import Reader

LEAST = 4  # words that a scene has at least
_SENTENCE = regex(r"[^.!?\n]+(?:[.!?]+(?=[\s\"”')]|$)[\"”']?|\n|$)|[.!?]+")
_ABBREVIATED = regex(r"\b(?:mr|mrs|ms|dr|st|no|approx|vs|e\.g|i\.e|a\.m|p\.m)\.$", re.I)
_HEADING = regex(r"^\s{0,3}(?:#{1,6}\s.*|[^.!?\n]{1,60}:?\s*\n[=-]{3,}\s*)$")
_ENTRY = regex(r"^\s*(?:[-*•–]|\d{1,3}[.)])\s+")
_CARRIES_ON = regex(
    r"^(?:he|she|it|they|his|her|their|its|this|that|these|there|then|behind|beside|above|below|meanwhile|and|but|around|outside|inside)\b",
    re.I,
)
# Somewhere else there is someone else: "Below, a cat sleeps".
_ELSEWHERE = regex(
    r"^(?:meanwhile|behind|beside|above|below|around|outside|inside|there|then),? (?:an?|two|three|another|his|her|their)\b", re.I
)
_TALK = regex(
    r"^(?:we|you|i|our|open|call|visit|contact|since|find us|book|order|welcome)\b", re.I
)  # a page that speaks of itself
_SHOWS = frozenset("subject action setting weather wardrobe".split())


class Scene(NamedTuple):
    """One scene: its words as a wish on one line, the sentences that it was made of, and each of them as it stands in the wish."""

    text: str
    sentences: tuple[str, ...]
    wished: tuple[str, ...]


def scenes(text: str, reader: Reader) -> list[Scene]:
    """The scenes of a text, in order; a single sentence is one. What shows nothing (a heading, an opening hour) is passed over."""
    found: list[Scene] = []
    for block in _blocks(text):
        held: list[str] = []
        has: set[str] = set()
        for sentence in _sentences(block):
            talk = bool(_TALK.match(sentence))
            shown = set() if talk else {p.facet for p in reader.read(sentence).parts() if p.sure >= 0.6} & _SHOWS
            begins = (
                "subject" in shown
                and (_ELSEWHERE.match(sentence) or not _CARRIES_ON.match(sentence))
                and "subject" in has
                and bool(has & {"action", "setting"})
                and bool(shown - {"subject"})
            )
            if begins and held:
                found.append(_scene(held, reader))
                held, has = [], set()
            held.append(sentence)
            has |= shown
        if has:
            found.append(_scene(held, reader))
    return [scene for scene in found if len(scene.text.split()) >= LEAST] or (
        [_scene([" ".join(text.split())], reader)] if text.strip() else []
    )


def _scene(sentences: list[str], reader: Reader) -> Scene:
    wished = tuple(lowered(_wished(sentence, reader)) for sentence in sentences)
    return Scene(" ".join(wished), tuple(sentences), wished)


def _wished(sentence: str, reader: Reader) -> str:
    """A sentence of a story as a wish: what somebody does becomes what they are shown doing ("a fox trots" → "a fox trotting")."""
    pieces = reader.read(sentence).pieces
    out = ""
    for before, piece in zip((None, *pieces), pieces, strict=False):
        first, space, rest = piece.text.partition(" ")
        doing = piece.facet == "action" and before is not None and before.text == " " and not first.endswith("ing")
        out += participle(first) + space + rest if doing and first.isalpha() and first.islower() else piece.text
    return out


def _blocks(text: str) -> list[str]:
    """Paragraphs and entries of lists; headings apart."""
    found: list[str] = []
    for paragraph in re.split(r"\n\s*\n", text.replace("\r\n", "\n")):
        if _HEADING.match(paragraph.strip("\n")):
            continue
        lines = [line for line in paragraph.split("\n") if line.strip() and not re.match(r"\s{0,3}#{1,6}\s", line)]
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
