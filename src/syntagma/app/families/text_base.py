"""A finished prompt as a base for a family: some of its words become slots, articles and number round them follow what stands there."""

import re
from collections.abc import Callable, Collection, Sequence
from itertools import pairwise

from syntagma.app.families.axis_reader import Vary
from syntagma.core import english
from syntagma.core.diagnostics.suggestions import perhaps
from syntagma.core.formula import Formula, read_formula
from syntagma.core.reading.formulas.recasting import LEADS
from syntagma.core.reading.prompt_pieces import Reading
from syntagma.storage.trouble import Trouble

NAME = "text"


def formula_of_text(
    text: str, vary: Sequence[Vary], facets: Collection[str] = (), read: Callable[[str], Reading] | None = None
) -> tuple[Formula, list[Vary], dict[str, str]]:
    """The text as a formula of one phrase, with a slot for each axis: words of the text that it names, or the part of the text that is of
    the facet it names, as `read` finds it. Return the formula, the axes by their slots, and what stands in them. Raises Trouble where the
    text has no such words and no such part."""
    body, axes, given = " ".join(text.split()), [], {}
    spots: list[tuple[int, int, str]] = []
    takes: dict[str, str] = {}
    for number, one in enumerate(vary, 1):
        words = one.slot
        slot = re.sub(r"\W+", "-", words.lower()).strip("-_0123456789") or f"words-{number}"
        slot = slot if slot not in ("a", "an", "the", "as") and slot not in given else f"{slot}-{number}"
        found = _found(body, words)
        if not found and words in facets and read:
            spot, given[slot] = _part(read(body), words, slot)
            spots.append(spot)
            takes[slot] = words
        elif not found:
            raise Trouble(f"“{words}” is not in the text", "write words of it before the =, as they stand there, or a facet", 2)
        else:
            given[slot] = words
        for start, stop, many in found:
            article = re.search(r"(?<!\w)(an?|the) $", body[:start], re.I)
            begin = start - len(article.group()) if article and article[1].lower() != "the" else start
            spots.append((begin, stop, f"[{article[1] + ' ' if begin < start else ''}{slot}{' as plural' if many else ''}]"))
        axes.append(one._replace(slot=slot))
    spots.sort()
    for (_, stop, _), (start, _, _) in pairwise(spots):
        if start < stop:
            raise Trouble("two axes name the same words of the text", "let each name words of its own", 2)
    out, at = [], 0
    for start, stop, slot in spots:
        out += [_plain(body[at:start]), slot]
        at = stop
    out.append(_plain(body[at:]))
    slots = "".join(f'{slot} = {{ facet = "{takes.get(slot, "")}" }}\n' for slot in given)
    return read_formula(f"+++\n[slots]\n{slots}+++\ntext!  {''.join(out)}\n", NAME), axes, given


def _part(reading: Reading, facet: str, slot: str) -> tuple[tuple[int, int, str], str]:
    """The first part of a text that is of a facet: where it stands and the slot that takes its place; and its words. Raises Trouble."""
    pieces = [piece for piece in reading.parts() if piece.facet == facet]
    if not pieces:
        there = list(dict.fromkeys(piece.facet for piece in reading.parts()))
        raise Trouble(f"the text has no part that is {facet}", perhaps(facet, there, f"it has {', '.join(there)}"), 2)
    piece = pieces[0]
    if english.starts_with_preposition(piece.text):
        return (piece.start, piece.stop, f"[{slot} as place]"), piece.text
    lead = LEADS.match(piece.text)
    start = piece.start + (lead.end() if lead else 0)
    words = piece.text[start - piece.start :]
    determiner, bare = english.split_determiner(words)
    article = "a " if determiner.lower() in ("a", "an") else ""
    return (start, piece.stop, f"[{article}{slot}]"), bare if article else words


def _found(text: str, words: str) -> list[tuple[int, int, bool]]:
    """Where words stand in a text, whole and in any case: (start, stop, in the plural)."""
    many = english.plural(words)
    forms = [(words, False)] + ([(many, True)] if many != words else [])
    return [
        (m.start(), m.end(), plural) for form, plural in forms for m in re.finditer(rf"(?<!\w){re.escape(form)}(?!\w)", text, re.I)
    ]


def _plain(glue: str) -> str:
    """Text as a formula's glue: the signs of the notation made plain."""
    return re.sub(r"([\\\[\]{}])", r"\\\1", glue)
