"""Fountain, the plain-text form of scripts: read into elements and written from them. Every line
comes: anything else is action.

The syntax is that of fountain.io/syntax: title page, scene headings, action, characters, dialogue,
parentheticals, dual dialogue, lyrics, transitions, centred text, notes, boneyard, sections,
synopses, page breaks, and the forced forms of each.
"""

import re

from syntagma.core.film.script import (
    ACTION,
    BONEYARD,
    CENTRED,
    CHARACTER,
    DIALOGUE,
    HEADING,
    LYRIC,
    NOTE,
    PAGE,
    PARENTHETICAL,
    SECTION,
    SYNOPSIS,
    TRANSITION,
    Element,
    Script,
)
from syntagma.core.notation.late_regex import regex

_HEADING = regex(r"(?:INT|EXT|EST|INT\./EXT|INT/EXT|I/E)[. ]\s*\S.*", re.I)
_NUMBER = regex(r"\s*#([^#\s]+)#\s*$")
_KEY = regex(r"([^\s:][^:]*):\s*(.*)")
_TRANSITION = regex(r"[^a-z]*TO:")
_BONE = regex(r"/\*.*?(?:\*/|\Z)", re.S)
_CUE = regex(r"(?P<name>.*?)\s*(?P<how>(?:\([^()]*\)\s*)*)(?P<dual>\^?)\s*$")


def read_fountain(text: str) -> Script:
    """Read a script. Nothing in it is wrong: anything else is action."""
    text = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    title, body, first = _title_page(text)
    return Script(title, tuple(_ScriptReader(body, first).elements()))


def _title_page(text: str) -> tuple[dict[str, str], str, int]:
    """(Keys and values of the title page, what follows it, the line that begins it)."""
    head, blank, rest = text.partition("\n\n")
    lines = head.split("\n")
    if (
        not _KEY.fullmatch(lines[0])
        or _HEADING.fullmatch(lines[0])
        or lines[0].rstrip().upper().endswith("TO:")
    ):
        return {}, text, 1
    found: dict[str, str] = {}
    key = ""
    for line in lines:
        match = _KEY.fullmatch(line)
        if match and not line[:1].isspace():
            key = match[1].strip()
            found[key] = match[2].strip()
        elif key:
            found[key] = f"{found[key]}\n{line.strip()}".strip()
    return found, rest, len(lines) + 2 if blank else len(lines) + 1


class _ScriptReader:
    """A script's body while it is read: boneyard and notes are taken out first, and stand where
    they stood.
    """

    def __init__(self, text: str, first: int):
        self.first = first
        self.kept: list[tuple[str, str]] = []
        text = _BONE.sub(lambda m: self._keep(BONEYARD, m[0][2:].removesuffix("*/")), text)
        self.lines = self._noted(text).split("\n")

    def _keep(self, kind: str, text: str) -> str:
        """Take a note out; the line ends in it stay, so lines keep their numbers."""
        self.kept.append((kind, text))
        return f"\ue000{len(self.kept) - 1}\ue001" + "\n" * text.count("\n")

    def _noted(self, text: str) -> str:
        """The text without its notes, each kept."""
        out, at = [], 0
        while (start := text.find("[[", at)) >= 0 and (stop := text.find("]]", start + 2)) >= 0:
            start = text.rfind("[[", start, stop)  # the inmost of [[[[
            out += [text[at:start], self._keep(NOTE, text[start + 2 : stop])]
            at = stop + 2
        return "".join((*out, text[at:]))

    def elements(self) -> list[Element]:
        found: list[Element] = []
        at = 0
        while at < len(self.lines):
            raw = self.lines[at]
            line, notes = self._without_notes(raw)
            bare = line.strip()
            number = self.first + at
            if not bare:
                found += [Element(kind, text, number) for kind, text in notes]
                at += 1
                continue
            at = self._one(found, line, bare, notes, number, at)
        return found

    def _without_notes(self, line: str) -> tuple[str, list[tuple[str, str]]]:
        notes = [self.kept[int(n)] for n in re.findall("\ue000(\\d+)\ue001", line)]
        return re.sub("\\s*\ue000\\d+\ue001", "", line), notes

    def _blank(self, at: int) -> bool:
        return at < 0 or at >= len(self.lines) or not self.lines[at].strip()

    def _one(
        self,
        found: list[Element],
        line: str,
        bare: str,
        notes: list[tuple[str, str]],
        number: int,
        at: int,
    ) -> int:
        """Read the element that begins at a line; return the line after it."""
        said = [Element(kind, text, number) for kind, text in notes]
        kind, text, extra = self._kind(line, bare, at)
        if kind == CHARACTER:
            return self._dialogue(found, text, extra, said, number, at)
        if kind == ACTION:
            lines, at = [text], at + 1
            while (
                not self._blank(at)
                and self._kind(self._without_notes(self.lines[at])[0], self.lines[at].strip(), at)[
                    0
                ]
                == ACTION
                and not self.lines[at].startswith("!")
            ):
                more, notes = self._without_notes(self.lines[at])
                lines.append(more.rstrip())
                said += [Element(k, t, self.first + at) for k, t in notes]
                at += 1
            found.append(Element(ACTION, "\n".join(lines), number, extra))
            found += said
            return at
        found.append(Element(kind, text, number, extra))
        found += said
        return at + 1

    def _kind(self, line: str, bare: str, at: int) -> tuple[str, str, str]:
        """(Kind of an element, its text, what else it says: a scene's number, a section's depth, !
        of a forced action).
        """
        if bare.startswith("!"):
            return ACTION, bare[1:], "!"
        if re.fullmatch(r"={3,}", bare):
            return PAGE, "", ""
        if bare.startswith("#"):
            depth = len(bare) - len(bare.lstrip("#"))
            return SECTION, bare.lstrip("#").strip(), str(depth)
        if bare.startswith("="):
            return SYNOPSIS, bare[1:].strip(), ""
        if bare.startswith("~"):
            return LYRIC, bare[1:].strip(), ""
        if bare.startswith(">"):
            return (
                (CENTRED, bare[1:-1].strip(), "")
                if bare.endswith("<")
                else (TRANSITION, bare[1:].strip(), "")
            )
        heading = (
            bare[1:]
            if re.match(r"\.[^.\s]", bare)
            else bare
            if _HEADING.fullmatch(bare) and self._blank(at - 1)
            else ""
        )
        if heading:
            scene = _NUMBER.search(heading)
            return HEADING, _NUMBER.sub("", heading).strip(), scene[1] if scene else ""
        if (
            _TRANSITION.fullmatch(bare)
            and self._blank(at - 1)
            and self._blank(at + 1)
            and bare == bare.upper()
        ):
            return TRANSITION, bare, ""
        match = _CUE.fullmatch(bare.removeprefix("@"))
        if match and (bare.startswith("@") or self._is_cue(bare, at)):
            return (
                CHARACTER,
                match["name"].strip(),
                f"{match['how'].strip()}{'^' if match['dual'] else ''}",
            )
        return ACTION, line.rstrip(), ""

    def _is_cue(self, bare: str, at: int) -> bool:
        """A line in capitals with a blank one before it and none after it, that holds a letter."""
        name = re.sub(r"\([^()]*\)", "", bare).rstrip("^ ")
        return (
            self._blank(at - 1)
            and not self._blank(at + 1)
            and name == name.upper()
            and any(c.isalpha() and c.upper() != c.lower() for c in name)
        )

    def _dialogue(
        self, found: list[Element], name: str, how: str, said: list[Element], number: int, at: int
    ) -> int:
        found.append(Element(CHARACTER, name, number, how))
        found += said
        at += 1
        while at < len(self.lines) and (self.lines[at].strip() or self.lines[at] == "  "):
            line, notes = self._without_notes(self.lines[at])
            bare = line.strip()
            kind = (
                PARENTHETICAL
                if re.fullmatch(r"\(.*\)", bare)
                else LYRIC
                if bare.startswith("~")
                else DIALOGUE
            )
            text = bare[1:-1].strip() if kind == PARENTHETICAL else bare.removeprefix("~").strip()
            if bare:
                found.append(Element(kind, text, self.first + at, "said" if kind == LYRIC else ""))
            found += [Element(k, t, self.first + at) for k, t in notes]
            at += 1
        return at


def write_fountain(script: Script) -> str:
    """Write a script, each element in the form in which it is read again as what it is."""
    out: list[str] = []
    if script.title:
        out.append(
            "\n".join(
                (
                    f"{key}: {value}"
                    if "\n" not in value
                    else f"{key}:\n" + "\n".join(f"    {v}" for v in value.split("\n"))
                )
                for key, value in script.title.items()
            )
        )
    block: list[str] = []
    for element in script.elements:
        if block and (
            element.kind in (PARENTHETICAL, DIALOGUE) or (element.kind == LYRIC and element.extra)
        ):
            block.append(
                {
                    PARENTHETICAL: f"({element.text})",
                    LYRIC: f"~{element.text}",
                    DIALOGUE: element.text,
                }[element.kind]
            )
            continue
        if element.kind == NOTE and element.extra == "beside" and (block or out):
            target = block or out
            target[-1] += f" [[{element.text}]]"
            continue
        if block:
            out.append("\n".join(block))
            block = []
        if element.kind == CHARACTER:
            block = [_cue(element)]
        else:
            out.append(_line(element))
    if block:
        out.append("\n".join(block))
    return "\n\n".join(out) + "\n"


def _cue(element: Element) -> str:
    name, dual = element.text, " ^" if element.extra.endswith("^") else ""
    how = element.extra.rstrip("^").strip()
    plain = (
        name == name.upper()
        and any(c.isalpha() and c.upper() != c.lower() for c in name)
        and not _HEADING.fullmatch(name)
    )
    return f"{'' if plain else '@'}{name}{f' {how}' if how else ''}{dual}"


def _line(element: Element) -> str:
    text = element.text
    match element.kind:
        case "heading":
            number = f" #{element.extra}#" if element.extra else ""
            return f"{'' if _HEADING.fullmatch(text) else '.'}{text}{number}"
        case "transition":
            return text if _TRANSITION.fullmatch(text) and text == text.upper() else f"> {text}"
        case "centred":
            return f"> {text} <"
        case "section":
            return f"{'#' * int(element.extra or 1)} {text}"
        case "synopsis":
            return f"= {text}"
        case "lyric":
            return f"~{text}"
        case "page":
            return "==="
        case "note":
            return f"[[{text}]]"
        case "boneyard":
            return f"/*{text}*/"
    forced = (
        element.extra == "!"
        or text[:1] in "!.@>~#="
        or _HEADING.fullmatch(text)
        or (text == text.upper() and any(c.isalpha() for c in text))
    )
    return f"!{text}" if forced else text
