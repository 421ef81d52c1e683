"""A finished prompt as a base for a family: some of its words become slots, articles and number
round them follow what is there.
"""

import re
from collections.abc import Sequence
from itertools import pairwise

from syntagma.app.reading import reader_of
from syntagma.app.workspace.workspace import Workspace
from syntagma.core import english
from syntagma.core.diagnostics import Trouble, perhaps
from syntagma.core.formula.building import fixed, formula, group, phrase
from syntagma.core.formula.tree import NOT_SLOTS, FixedText, Formula, Group, Option, SlotRule
from syntagma.core.reading.formula_rewriting import LEADS
from syntagma.core.reading.prompt_pieces import Reading

NAME = "text"


def formula_of_text(
    workspace: Workspace, text: str, named: Sequence[str]
) -> tuple[Formula, list[str], dict[str, str]]:
    """The text as a formula of one phrase, with a slot for each that is named: words of the text,
    or a facet, for the part of the text that is of it. Return the formula, the slots in the order
    of `named`, and what is in them. Raises Trouble if the text has no such words and no such part.
    """
    body, slots, given = " ".join(text.split()), [], {}
    spots: list[tuple[int, int, Group]] = []
    rules: dict[str, SlotRule] = {}
    for number, words in enumerate(named, 1):
        slot = re.sub(r"\W+", "-", words.lower()).strip("-_0123456789") or f"words-{number}"
        slot = slot if slot not in NOT_SLOTS and slot not in given else f"{slot}-{number}"
        facet, found = "", _found(body, words)
        if found:
            given[slot] = words
        elif words in workspace.vocabulary.names:
            facet = words
            spot, given[slot] = _part(reader_of(workspace).read(body), words, slot)
            spots.append(spot)
        else:
            raise Trouble(
                f"“{words}” is not in the text",
                "before the =, write words exactly as they are in the text, or a facet",
                2,
            )
        for start, stop, many in found:
            article = re.search(r"(?<!\w)(an?) $", body[:start], re.I)
            begin = start - len(article.group()) if article else start
            spots.append(
                (begin, stop, group(slot, article[1] if article else "", "plural" if many else ""))
            )
        rules[slot] = SlotRule(slot, facet, declared=True)
        slots.append(slot)
    spots.sort(key=lambda spot: spot[:2])
    for (_, stop, _), (start, _, _) in pairwise(spots):
        if start < stop:
            raise Trouble(
                "two axes name the same words of the text", "give each axis its own words", 2
            )
    nodes: list[FixedText | Group | Option] = []
    at = 0
    for start, stop, one in spots:
        nodes += [fixed(body[at:start]), one]
        at = stop
    return formula(NAME, [phrase(NAME, [*nodes, fixed(body[at:])], "!")], rules), slots, given


def _part(reading: Reading, facet: str, slot: str) -> tuple[tuple[int, int, Group], str]:
    """The first part of a text that is of a facet: its place and the slot that takes its place; and
    its words. Raises Trouble.
    """
    pieces = [piece for piece in reading.parts() if piece.facet == facet]
    if not pieces:
        there = list(dict.fromkeys(piece.facet for piece in reading.parts()))
        raise Trouble(
            f"the text has no part for {facet}",
            perhaps(facet, there, f"it has {', '.join(there)}"),
            2,
        )
    piece = pieces[0]
    if english.starts_with_preposition(piece.text):
        return (piece.start, piece.stop, group(slot, form="place")), piece.text
    lead = LEADS.match(piece.text)
    start = piece.start + (lead.end() if lead else 0)
    words = piece.text[start - piece.start :]
    determiner, bare = english.split_determiner(words)
    article = "a" if determiner.lower() in ("a", "an") else ""
    return (start, piece.stop, group(slot, article)), bare if article else words


def _found(text: str, words: str) -> list[tuple[int, int, bool]]:
    """Where words are in a text, whole and in any case: (start, stop, in the plural)."""
    many = english.plural(words)
    forms = [(words, False)] + ([(many, True)] if many != words else [])
    return [
        (m.start(), m.end(), plural)
        for form, plural in forms
        for m in re.finditer(rf"(?<!\w){re.escape(form)}(?!\w)", text, re.I)
    ]
