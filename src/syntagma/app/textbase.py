"""A finished prompt as a base for a family: some of its words become slots, articles and number round them follow what stands there."""

import re
from collections.abc import Sequence
from itertools import pairwise

from syntagma.app.axes import Vary
from syntagma.core import english
from syntagma.core.formula import Formula, read_formula
from syntagma.storage.trouble import Trouble

NAME = "text"


def formula_of_text(text: str, vary: Sequence[Vary]) -> tuple[Formula, list[Vary], dict[str, str]]:
    """The text as a formula of one phrase, with a slot for each axis that names words of it; the axes by their slots, and what
    stands in them. Raises Trouble where the words are not in the text."""
    body, axes, given = " ".join(text.split()), [], {}
    spots: list[tuple[int, int, str]] = []
    for number, one in enumerate(vary, 1):
        words = one.slot
        slot = re.sub(r"\W+", "-", words.lower()).strip("-") or f"words-{number}"
        slot = slot if slot not in ("a", "an", "the", "as") else f"{slot}-{number}"
        found = _found(body, words)
        if not found:
            raise Trouble(f"“{words}” is not in the text", "write words of it before the =, as they stand there", 2)
        for start, stop, many in found:
            article = re.search(r"(?<!\w)(an?|the) $", body[:start], re.I)
            begin = start - len(article.group()) if article and article[1].lower() != "the" else start
            spots.append((begin, stop, f"[{article[1] + ' ' if begin < start else ''}{slot}{' as plural' if many else ''}]"))
        given[slot] = words
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
    slots = "".join(f'{slot} = {{ facet = "" }}\n' for slot in given)
    return read_formula(f"+++\n[slots]\n{slots}+++\ntext!  {''.join(out)}\n", NAME), axes, given


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
