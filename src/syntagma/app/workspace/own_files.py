"""Formulas, looks and themes of a person's own: made from a line, from words, or as a copy of one
that is there.
"""

import re
from collections.abc import Mapping, Sequence
from pathlib import Path

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Finding, Trouble, perhaps
from syntagma.core.formula import Phrase, check_formula, is_oneline, read_formula, read_oneline
from syntagma.core.formula.building import write_body
from syntagma.core.notation.toml import key, pair, scalar, table
from syntagma.core.picking.themes import check_theme, read_theme
from syntagma.storage.files import read_text, write_new
from syntagma.storage.folders import own_folder

_SLOTS_HINT = """# What each slot takes, if not the facet of its own name. All keys are optional:
#   facet = "lighting"   the facet ("" for free text)      need = true       it must be filled
#   default = "…"        what to use when nothing is given  take = [1, 3]     how many a pick may choose
#   only = "night; sea"  tags that picks stay within       never = "…"       tags that picks avoid"""  # noqa: E501


def checked_name(name: str) -> None:
    """Raises Trouble if a file can't have this name."""
    if not re.fullmatch(r"[^\W_][\w-]*", name):
        raise Trouble(
            f"“{name}” is not a name for a file", "letters, digits and hyphens: night-poster", 2
        )


def place_for(workspace: Workspace, room: str, name: str, ending: str, own: bool) -> Path:
    """Where a file of a room goes: the workspace, or the person's own folder. Raises Trouble if the
    name is none, or is taken.
    """
    checked_name(name)
    base = own_folder() if own or not workspace.folder else workspace.folder
    path = base / room / f"{name}{ending}"
    if path.exists():
        raise Trouble(
            f"{workspace.shown(path)} exists already",
            "edit it in any editor, or choose another name",
            2,
        )
    return path


def make_formula(
    workspace: Workspace,
    name: str,
    line: str = "",
    like: str = "",
    about: str = "",
    when: str = "",
    media: str = "",
    own: bool = False,
) -> tuple[Path, list[Finding]]:
    """A formula out of one line with brackets, or as a copy of one; return its file and remarks.
    Raises Trouble or Refused.
    """
    path = place_for(workspace, "formulas", name, ".formula", own)
    if like:
        text = _copied(workspace.formulas(), like, "formula")
    elif is_oneline(line):
        text = _head(about, when, media, [_SLOTS_HINT, *_slot_lines(workspace, line)]) + _lines(
            line
        )
    else:
        message = "give the formula as a line with [slots], or as a copy"
        raise Trouble(
            message,
            f'syntagma formula new {name} "[a medium] of [a subject], [lighting]", or --copy-of'
            " poster",
            2,
        )
    formula = read_formula(text, name, str(path))
    write_new(path, text)
    return path, check_formula(formula, workspace.vocabulary)[1]


def _copied(known: Mapping[str, Sequence[tuple[str, Path]]], like: str, what: str) -> str:
    if like not in known:
        raise Trouble(
            f"no {what} is called “{like}”",
            perhaps(like, known, f"`syntagma {what}` lists them"),
            2,
        )
    return read_text(known[like][-1][1], f"a {what}")


def _head(
    about: str,
    when: str,
    media: str,
    slots: Sequence[str],
    parameters: Mapping[str, str] = {},
    settles: Sequence[str] = (),
) -> str:
    lines = [
        "+++",
        pair("about", about),
        pair("when", when),
        pair("media", media) if media else '# media = "image"',
    ]
    lines += [pair("settles", settles)] if settles else []
    lines += ["", "[slots]", *slots] if slots else []
    lines += table("parameters", {name: scalar(said) for name, said in parameters.items()})
    return "\n".join([*lines, "+++", ""])


def _slot_lines(workspace: Workspace, line: str) -> list[str]:
    """A line for each slot that has no facet of its name, which makes it free text."""
    return [
        pair(rule.name, {"facet": ""})
        for rule in read_oneline(line).slots
        if rule.facet not in workspace.vocabulary
    ]


def _lines(line: str) -> str:
    """The phrases of a formula on one line, a line each."""
    phrases = [p for p in read_oneline(line).phrases if p.body]
    width = max(len(p.label) for p in phrases) + 2
    return "".join(f"{p.label:<{width}}{p.join_raw}{write_body(p)}{_end(p)}\n" for p in phrases)


def _end(phrase: Phrase) -> str:
    mark = phrase.ending.strip()[:1]
    return mark if mark in (".", "!", "?", ";", ":") and mark else ""


def make_look(
    workspace: Workspace,
    name: str,
    opening: str = "",
    closing: str = "",
    negative: str = "",
    parameters: Mapping[str, str] = {},
    like: str = "",
    about: str = "",
    when: str = "",
    media: str = "",
    settles: Sequence[str] = (),
    own: bool = False,
) -> tuple[Path, list[Finding]]:
    """A look out of a prompt's opening, closing and negative text, or as a copy. Raises Trouble or
    Refused.
    """
    path = place_for(workspace, "looks", name, ".formula", own)
    if like:
        text = _copied(workspace.looks(), like, "look")
    elif opening or closing or negative or parameters:
        free = [
            line
            for words in (opening, closing)
            if is_oneline(words)
            for line in _slot_lines(workspace, words)
        ]
        lines = [f"opening    {opening.strip()}"] if opening.strip() else []
        lines.append("content")
        lines += [f"closing    {closing.strip()}"] if closing.strip() else []
        lines += [f"-          {negative.strip()}"] if negative.strip() else []
        text = _head(about, when, media, free, parameters, settles) + "\n".join([*lines, ""])
    else:
        message = "give the words around the content, or a look to copy"
        raise Trouble(
            message,
            f'syntagma look new {name} --opening "…" --closing "…" --negative "…", or --copy-of'
            " newsprint",
            2,
        )
    look = read_formula(text, name, str(path))
    write_new(path, text)
    return path, check_formula(look, workspace.vocabulary)[1]


def make_theme(
    workspace: Workspace,
    name: str,
    lean: Mapping[str, float] = {},
    avoid: Mapping[str, float] = {},
    facets: Mapping[str, Mapping[str, object]] = {},
    like: str = "",
    about: str = "",
    when: str = "",
    own: bool = False,
) -> tuple[Path, list[Finding]]:
    """A theme out of tags with weights and what it says facet by facet, or as a copy. Raises
    Trouble or Refused.
    """
    path = place_for(workspace, "themes", name, ".toml", own)
    if like:
        text = _copied(workspace.themes(), like, "theme")
    elif lean or avoid or facets:
        lines = [pair("about", about), pair("when", when)]
        for part, weights in (("lean", lean), ("avoid", avoid)):
            lines += table(
                part,
                {
                    tag: int(weight) if weight == int(weight) else weight
                    for tag, weight in weights.items()
                },
            )
        for facet, said in facets.items():
            lines += table(f"facets.{key(facet)}", said)
        text = "\n".join([*lines, ""])
    else:
        message = "give tags and terms, or a theme to copy"
        raise Trouble(
            message,
            f"syntagma theme new {name} --lean night:2,sea --avoid day, or --copy-of night",
            2,
        )
    theme = read_theme(text, name, str(path))
    write_new(path, text)
    return path, check_theme(theme, workspace.vocabulary, workspace.situation_tags)
