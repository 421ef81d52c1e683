"""What is on the shelves, described: formulas, looks and themes as cards for a person or a
program.
"""

import shlex
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from syntagma.app.asked import words_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics import Refused, Trouble
from syntagma.core.drafting.fills import BadFills
from syntagma.core.fitting import TooLong
from syntagma.core.formula import Formula, SlotRule, is_oneline
from syntagma.core.formula.tree import Phrase
from syntagma.core.models import PLAIN
from syntagma.core.writing.prompt_writer import Writer

SHOWN_IN = {
    "video": "film-shot",
    "image": "photograph",
    "": "photograph",
}  # the formulas that show what a look or theme does


def formula_rows(workspace: Workspace, media: str = "", words: str = "") -> list[dict[str, Any]]:
    """Every formula that can be read, a row each, with when to use it, its parts in order and an
    example; one that can't be read says so. `media` keeps to one medium, `words` to those whose
    name, about or when say them.
    """
    rows = []
    for name in workspace.formulas():
        try:
            formula, _ = workspace.formula(name)
        except (Refused, Trouble) as bad:
            what = (
                f"can't be read: {len(getattr(bad, 'mistakes', [1]))} mistakes; `syntagma check`"
                " shows them"
            )
            rows.append({"formula": name, "about": what, "slots": [], "parts": []})
            continue
        head = formula.head
        if (media and head.media and head.media != media) or not _says(
            words, name, head.about, head.when
        ):
            continue
        row: dict[str, Any] = {
            "formula": name,
            "about": head.about,
            "when": head.when,
            "media": head.media,
        }
        row = {k: v for k, v in row.items() if v} | {"slots": [rule.name for rule in formula.slots]}
        row["parts"] = [p.label + p.mark for p in formula.phrases]
        if head.example:
            row["example"] = _example(workspace, formula, name)
        rows.append(row)
    return rows


def _says(words: str, *texts: str) -> bool:
    whole = " ".join(texts).casefold()
    return all(word in whole for word in words.casefold().split())


def formula_card(workspace: Workspace, name: str) -> dict[str, Any]:
    """One formula in full: phrases, slots, an example. Raises Trouble or Refused."""
    formula, _ = workspace.formula(name)
    card = _card(workspace, formula)
    if formula.head.example and not is_oneline(name):
        card["example"] = _example(workspace, formula, name)
    return card


def _card(workspace: Workspace, formula: Formula) -> dict[str, Any]:
    card: dict[str, Any] = {"look" if formula.is_look else "formula": formula.name}
    for key in ("about", "when", "media"):
        if value := getattr(formula.head, key):
            card[key] = value
    if formula.head.worlds:
        card["world"] = "; ".join(world for _, world in formula.head.worlds)
    card["phrases"] = [_phrase(formula, line) for line in formula.lines if isinstance(line, Phrase)]
    card["slots"] = [_slot(workspace, rule) for rule in formula.slots]
    if formula.head.settles:
        card["settles"] = list(formula.head.settles)
    if formula.head.parameters:
        card["parameters"] = dict(formula.head.parameters)
    return card


def _phrase(formula: Formula, line: Phrase) -> dict[str, str]:
    words = formula.text[line.span.start : line.span.stop].removeprefix(line.label_raw).strip()
    if when := formula.head.only_if.get(line.label):
        words += f" (if {when.slot} is {'not ' * when.negated}{' or '.join(when.words)})"
    return {
        "label": "negative" if line.negative else line.label,
        "mark": {"!": "stays", "?": "first to go"}.get(line.mark, ""),
        "words": words or "(the formula that it goes around)",
    }


def _slot(workspace: Workspace, rule: SlotRule) -> dict[str, str]:
    takes = (
        rule.facet
        if rule.facet in workspace.vocabulary
        else "a number"
        if rule.number
        else "free text"
    )
    notes = [rule.about] if rule.about else []
    if rule.need:
        notes.append("needed")
    if rule.default:
        notes.append(f"“{'; '.join(rule.default)}” unless given")
    if rule.only:
        notes.append(f"picks stay within {' or '.join(rule.only)}")
    if rule.never:
        notes.append(f"picks avoid {', '.join(rule.never)}")
    if rule.take != (1, 1):
        notes.append(f"{rule.take[0]} to {rule.take[1]} of them")
    return {"slot": rule.name, "facet": takes, "note": ", ".join(notes)}


def _example(workspace: Workspace, formula: Formula, name: str, more: str = "") -> dict[str, str]:
    writer = Writer(formula, PLAIN, workspace.vocabulary)
    fills = formula.head.example
    words = words_of(
        {slot: "; ".join(v) if isinstance(v, tuple) else v for slot, v in fills.items()}
    )
    call = " ".join(["syntagma compose", shlex.quote(name), *words]) + more
    try:
        return {"text": writer.write(writer.fills(fills)).text, "call": call}
    except (BadFills, TooLong) as bad:
        return {"text": f"(the example can't be written: {bad})", "call": call}


def look_rows(workspace: Workspace) -> list[dict[str, Any]]:
    """Every look, a row each; one that can't be read says so."""
    return [row for name in workspace.looks() for row in [_row(workspace.look, "look", name)]]


def theme_rows(workspace: Workspace) -> list[dict[str, Any]]:
    """Every theme, a row each; one that can't be read says so."""
    return [
        row
        for name in workspace.themes()
        for row in [_row(lambda n: (workspace.theme(n), None), "theme", name)]
    ]


def _row(read: Callable[[str], Any], what: str, name: str) -> dict[str, Any]:
    try:
        found, _ = read(name)
    except (Refused, Trouble) as bad:
        return {what: name, "about": f"can't be read: {str(bad).splitlines()[0]}"}
    head = getattr(found, "head", found)
    row = {what: name, "about": head.about, "when": head.when, "media": getattr(head, "media", "")}
    return {k: v for k, v in row.items() if v}


def look_card(workspace: Workspace, name: str) -> dict[str, Any]:
    """One look in full, and round the example of a formula. Raises Trouble or Refused."""
    look, _ = workspace.look(name)
    card = _card(workspace, look)
    shown = SHOWN_IN[look.head.media]
    if shown in workspace.formulas():
        whole, _ = workspace.formula(shown, [name])
        example = {
            k: v for k, v in whole.head.example.items() if k in {rule.name for rule in whole.slots}
        }
        whole = whole._replace(head=whole.head._replace(example=example))
        card["example"] = _example(workspace, whole, shown, f" --look {shlex.quote(name)}")
    return card


def theme_card(workspace: Workspace, name: str) -> dict[str, Any]:
    """One theme in full, with remarks on what nobody has, and a prompt that was picked with it.
    Raises Trouble or Refused.
    """
    from syntagma.app.asked import Ask, Taste
    from syntagma.app.composing.composer import Composer
    from syntagma.core.picking.themes import check_theme

    theme = workspace.theme(name)
    card: dict[str, Any] = {
        "theme": theme.name,
        "about": theme.about,
        "when": theme.when,
        "world": theme.world,
    }
    card |= {"lean": dict(theme.lean), "avoid": dict(theme.avoid)}
    card["facets"] = {facet: _said(said._asdict()) for facet, said in theme.facets.items()}
    card["findings"] = [
        finding.record()
        for finding in check_theme(theme, workspace.vocabulary, workspace.situation_tags)
    ]
    shown = SHOWN_IN[""]
    if shown in workspace.formulas():
        ask = Ask(shown, taste=Taste([name]), pick=True)
        text = Composer(workspace, ask, remarks=False).compose({}).prompt.text
        card["example"] = {
            "text": text,
            "call": f"syntagma compose {shown} --theme {shlex.quote(name)}",
        }
    return {k: v for k, v in card.items() if v}


def _said(said: Mapping[str, object]) -> dict[str, Any]:
    return {
        k: list(v) if isinstance(v, Iterable) and not isinstance(v, str) else v
        for k, v in said.items()
        if v
    }
