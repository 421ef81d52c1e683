"""What is spoken in a shot: lines with speaker, manner and voice; respellings; how long a line
takes, and where it can be divided.
"""

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core.film.knowledge import FilmKnowledge
from syntagma.core.notation.late_regex import regex

ON, OFF, OVER = "on screen", "O.S.", "V.O."
AT_ONCE = "at once"  # said with the line before
_NAMED = regex(
    r"(?P<who>[^\s:|(][^:|(]{0,60}?)\s*(?:\((?P<how>[^()]*)\))?\s*:\s*(?P<words>\S.*)", re.S
)
_NEXT_NAME = regex(
    r"(?<=[.!?…\"”’/])\s+(?P<who>@?[A-Z][\w.’' -]{0,30}?)(?=\s*(?:\([^()]*\))?\s*:\s)"
)
_SENTENCE = regex(r"[^.!?…]+(?:[.!?…]+[\"”’')]*|$)\s*")
_CLAUSE = regex(r"[,;:–—]\s")
_LINK = regex(r" (?=(?:and|but|because|while|when|who|that|so) )")
_VOICES = {
    "os": OFF,
    "oc": OFF,
    "off": OFF,
    "offscreen": OFF,
    "offcamera": OFF,
    "vo": OVER,
    "voiceover": OVER,
    "narration": OVER,
    "onscreen": ON,
    "oncamera": ON,
    "on": ON,
}


class SpokenLine(NamedTuple):
    """One line: who says it (as the list has it), the words as they are written, how they are said,
    whether the speaker is seen, and whether it is said at once with the line before.
    """

    speaker: str
    text: str
    manner: str = ""
    voice: str = ON
    dual: bool = False


def voice_of(text: str) -> str:
    """on screen, O.S. or V.O., as it may be written; "" if it is none of them."""
    return _VOICES.get(re.sub(r"[\W_]+", "", text.lower()), "")


def lines_of(
    cell: str, speaker: str = "", manner: str = "", voice: str = "", people: Sequence[str] = ()
) -> list[SpokenLine]:
    """The lines of a cell: one, said by `speaker`; or several, each behind its speaker's name (in
    capitals, or one of `people`), between them |, a new line or the end of a sentence. Several
    speakers, between ; or |, say one line each, or one together.
    """
    found: list[SpokenLine] = []
    voice = voice_of(voice) or ON
    known = frozenset(name.lower() for name in people)
    parts = [part.strip() for part in _spoken_parts(cell, known)]
    parts = [part for part in parts if part]
    speakers = [one.strip() for one in re.split(r"[;|\n]", speaker) if one.strip()]
    if len(speakers) > 1:
        if len(parts) == len(speakers):
            pairs = zip(speakers, parts, strict=True)
            return [one for who, part in pairs for one in lines_of(part, who, manner, voice)]
        if len(parts) == 1:
            return [
                SpokenLine(who, parts[0], manner, voice, dual=bool(i))
                for i, who in enumerate(speakers)
            ]
    for part in parts:
        named = _NAMED.fullmatch(part)
        if named and (_is_name(named["who"]) or named["who"].strip().lower() in known):
            how, own, dual = _how(named["how"] or "")
            found.append(
                SpokenLine(
                    named["who"].strip().removeprefix("@"),
                    named["words"].strip(),
                    how or (manner if not named["how"] else ""),
                    own or voice,
                    dual,
                )
            )
        else:
            found.append(
                SpokenLine(speaker or (found[-1].speaker if found else ""), part, manner, voice)
            )
    return found


def _spoken_parts(cell: str, known: frozenset[str]) -> list[str]:
    """What a cell has one speaker say after the other."""
    parts: list[str] = []
    for part in re.split(r"\||\n(?=[^:\n]{1,40}:)", cell):
        begin = 0
        for match in _NEXT_NAME.finditer(part):
            who = match["who"]
            if who.strip().lower() in known or (_is_name(who) and len(who.strip()) > 1):
                parts.append(part[begin : match.start()])
                begin = match.start()
        parts.append(part[begin:])
    return parts


def _is_name(text: str) -> bool:
    """Is what comes before a colon a speaker: capitals, or a name behind @?"""
    return text.startswith("@") or (text.upper() == text and any(c.isalpha() for c in text))


def written_name(name: str) -> str:
    """A speaker as a list and a script write one: capitals; a name with capitals of its own behind
    @.
    """
    return name.upper() if name in (name.lower(), name.upper(), name.title()) else f"@{name}"


def _how(text: str) -> tuple[str, str, bool]:
    """What is in brackets behind a speaker: the manner, O.S. or V.O., and whether it is said at
    once with the line before.
    """
    manner, voice, dual = [], "", False
    for part in re.split(r"[,;]", text):
        if found := voice_of(part):
            voice = found
        elif part.strip() == AT_ONCE:
            dual = True
        elif part.strip():
            manner.append(part.strip())
    return ", ".join(manner), voice, dual


def cell_of(lines: Sequence[SpokenLine]) -> str:
    """Lines as a cell of a shot list has them."""
    said = []
    for line in lines:
        how = ", ".join(
            part
            for part in (
                line.voice if line.voice != ON else "",
                AT_ONCE if line.dual else "",
                line.manner,
            )
            if part
        )
        said.append(f"{written_name(line.speaker)}{f' ({how})' if how else ''}: {line.text}")
    return " | ".join(said)


_BEAT = regex(
    r"\s*\((?:an? )?(?:long )?(?:beat|pause|silence|breath|sighs?|laughs?|coughs?|sniffs?)\)", re.I
)


def plain(text: str) -> str:
    """A text without the marks that make words bold, italic or underlined in a script, and without
    what is not spoken of a line: (beat).
    """
    text = _BEAT.sub("", text) if "(" in text else text
    return (
        re.sub(
            r"\\([*_])",
            r"\1",
            re.sub(r"(?<!\\)(?:\*{1,3}|_)(?=\S)(.+?)(?<=[^\s\\])(?:\*{1,3}|_)(?!\w)", r"\1", text),
        )
        if "*" in text or "_" in text
        else text
    )


def respelled(text: str, say: Mapping[str, str], keep: bool = False) -> str:
    """A text as it is to be spoken: each word that has a respelling put as it sounds; `keep` leaves
    marks and beats in it.
    """
    text = text if keep else plain(text)
    if not say:
        return text
    pattern = "|".join(re.escape(word) for word in sorted(say, key=len, reverse=True))
    by_case = {word.lower(): spelled for word, spelled in say.items()}
    return re.sub(
        rf"(?<!\w)(?:{pattern})(?!\w)", lambda match: by_case[match[0].lower()], text, flags=re.I
    )


def sentences(text: str) -> list[str]:
    """The sentences of a line, each with its end mark; a text without one is one."""
    return [
        match[0].strip() for match in _SENTENCE.finditer(text) if re.search(r"\w", match[0])
    ] or ([text.strip()] if text.strip() else [])


def seconds_of(text: str, pace: float, manner: str, knowledge: FilmKnowledge) -> float:
    """How long a text takes to say, in seconds: its words by the pace of the model and of the
    manner, and the pauses of its signs. A number counts as the words that it is read in, two
    figures a word.
    """
    words, beats = 0.0, len(_BEAT.findall(text))
    text = plain(text)
    for word in re.findall(r"\S+", text):
        figures = len(re.findall(r"\d", word))
        words += max(1.0, figures / 2) if figures else float(bool(re.search(r"\w", word)))
    body = text.rstrip(" .!?…\"”’'")
    pauses = sum(
        knowledge.pauses.get(sign, 0.0)
        for sign in re.findall(r"[,;:.!?…–—](?=\s|$|[\"”’'])", body + " ")
    )
    return words / (pace * knowledge.pace(manner)) + pauses + beats * knowledge.pauses["…"]


def divisions(text: str) -> list[str]:
    """Where a line may be cut, judged by its last words before the cut: after a sentence, else
    after a clause, else before a word that links.
    """
    whole = sentences(text)
    if len(whole) > 1:
        return [" ".join(one.split()[-3:]) for one in whole[:-1]]
    clauses = [" ".join(text[: match.start() + 1].split()[-3:]) for match in _CLAUSE.finditer(text)]
    return clauses or [
        " ".join(text[: match.start()].split()[-3:])
        for match in _LINK.finditer(text)
        if len(text[: match.start()].split()) > 3
    ]
