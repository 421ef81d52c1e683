"""A formula learned from examples, as text, and the forms in which its slots take terms."""

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from syntagma.core import english
from syntagma.core.drafting.fills import BadFills
from syntagma.core.english.word_lists import PREPOSITIONS
from syntagma.core.formula import SlotRule, building
from syntagma.core.models import PLAIN
from syntagma.core.notation.toml import pair, table
from syntagma.core.reading.prompt_pieces import LEFT, NO_FACETS
from syntagma.core.vocabulary.terms import Vocabulary, normal
from syntagma.core.writing.prompt_writer import Writer

# ──── The text of a formula that was learned: its columns as phrases, slots and fixed words.


STOPS = ".;!?"


class SlotCandidate(NamedTuple):
    """What becomes a slot (or, without a facet, fixed words): its place in each example, or None if
    it has none, and its text there. `lead` and `tail` are words that all share; `seam`: how it
    follows what comes before it; `ends`: the mark after it; `own`: the facet that each text was
    read as; `apart`: the facet of the formula's own that its texts are terms of, where `facet` has
    nothing like them.
    """

    facet: str
    spans: Sequence[tuple[int, int] | None]
    texts: list[str | None]
    lead: str = ""
    tail: str = ""
    article: str = ""
    form: str = ""
    seam: str = ", "
    ends: str = ""
    own: Sequence[str | None] = ()
    apart: str = ""

    @property
    def said(self) -> list[str]:
        """What the examples have there, each once."""
        return list(dict.fromkeys(text for text in self.texts if text))


def slot_names(columns: Sequence[SlotCandidate]) -> list[str]:
    """The slot of each column, named by its facet, `words` if it is of no facet; "" for fixed
    words.
    """
    counts: Counter[str] = Counter()
    names = []
    for column in columns:
        counts[column.facet] += 1
        number = f"-{counts[column.facet]}" if counts[column.facet] > 1 else ""
        names.append(
            f"{'words' if column.facet == LEFT else column.facet}{number}" if column.facet else ""
        )
    return names


class _Line(NamedTuple):
    """A phrase as it grows: `fixed` while it has no slot."""

    label: str
    fixed: bool
    needed: bool
    joined: bool
    body: str


def formula_text(
    columns: Sequence[SlotCandidate], number: int, parameters: dict[str, str], negative: list[str]
) -> str:
    """The formula's text; `number` is that of the examples. Of one example, its words are the
    default of each slot, and the formula's example.
    """
    alone = {
        slot: column.texts[0]
        for slot, column in zip(slot_names(columns), columns, strict=True)
        if slot and number == 1
    }
    lines: list[_Line] = []
    heads: list[str] = []
    for k, (column, slot) in enumerate(zip(columns, slot_names(columns), strict=True)):
        joined = bool(lines) and column.seam.startswith(" ")
        link = column.seam.strip(" ,")
        if not slot:
            _add(
                lines,
                _Line(
                    f"words-{k}" if k else "opening",
                    True,
                    False,
                    joined,
                    _plain(column.texts[0] or ""),
                ),
                link,
                column.ends,
            )
            continue
        needed = slot == "subject" and all(column.texts)
        facet = column.apart or ("" if column.facet in NO_FACETS else column.facet)
        told: dict[str, object] = {"facet": facet} | (
            {"need": True} if needed and not alone else {}
        )
        heads.append(pair(slot, told | ({"default": alone[slot]} if alone else {})))
        _add(lines, _Line(slot, False, needed, joined, _group(column, slot)), link, column.ends)
    if lines and lines[-1].fixed and len(lines) > 1:
        leads = (
            lines[-1].body.rpartition(" ")[2].lower() in PREPOSITIONS
        )  # it would lead to nothing
        lines[-1] = lines[-1]._replace(
            label="closing", body=lines[-1].body + ("." if leads else "")
        )
    about = f"Learned from {number} examples" if number > 1 else "Learned from one prompt"
    head = [
        pair("about", about),
        "",
        "[slots]",
        *heads,
        *table("parameters", parameters),
        *table("example", alone),
    ]
    body = [
        f"{ln.label}{'!' if ln.fixed or ln.needed else ''}  {'~' if ln.joined else ''}{ln.body}"
        for ln in lines
    ]
    body += [f"-  {', '.join(map(_plain, negative))}"] if negative else []
    return "+++\n" + "\n".join(head) + "\n+++\n" + "\n".join(body) + "\n"


def _group(column: SlotCandidate, slot: str) -> str:
    """A column's noun group, with the words that all of its texts begin with and end on."""
    article = f"{english.article(slot)} " if column.article else ""
    tail = f' "{column.tail}"' if column.tail and '"' not in column.tail else ""
    form = f" as {column.form}" if column.form else ""
    quote = '"' if column.facet == "speech" else ""
    return f"{quote}{_plain(column.lead) + ' ' if column.lead else ''}[{article}{slot}{tail}{form}]{quote}"  # noqa: E501


def _add(lines: list[_Line], line: _Line, link: str, ends: str) -> None:
    """A phrase more; what leans on the one before it (of, with) goes into its line, which is named
    by its slot.
    """
    text = f"{link + ' ' if link else ''}{line.body}{ends}"
    last = lines[-1] if lines else None
    open_before = last is not None and last.body[-1:] not in STOPS
    leans = last and (
        link or last.body.endswith("]") != line.body.startswith("[") or "[" not in line.body
    )
    if last is not None and open_before and (last.body.endswith(":") or (line.joined and leans)):
        label = (
            line.label if last.fixed and not line.fixed and last.label != "opening" else last.label
        )
        needed = last.needed or line.needed
        lines[-1] = _Line(
            label, last.fixed and line.fixed, needed, last.joined, f"{last.body} {text}"
        )
        return
    lines.append(line._replace(joined=line.joined and open_before, body=text))


def _plain(text: str) -> str:
    return re.sub(r"([\\\[\]{}~])", r"\\\1", text)


# ──── In which form, and with which article, a learned slot is written: that which gives back most
# of what the examples have there.


FORMS = ("", "short", "place", "clause")


def formed(
    columns: Sequence[SlotCandidate],
    bodies: Sequence[str],
    fills: Sequence[Mapping[str, str] | None],
    vocabulary: Vocabulary,
) -> list[SlotCandidate]:
    """The columns, each in the form and with the article that write its fills most often as they
    are in the examples. `fills` are those that each body gave when it was matched, None if it could
    not be.
    """
    found = []
    clothed = any(
        column.facet == "wardrobe" for column in columns
    )  # then whoever is dressed comes without the clothes that their term has
    for column, slot in zip(columns, slot_names(columns), strict=True):
        cases = [
            (body[span[0] : span[1]], given[slot])
            for body, span, given in zip(bodies, column.spans, fills, strict=True)
            if slot and span and given and slot in given
        ]
        traits = vocabulary.traits.get(column.facet)
        short = clothed and traits is not None and traits.participant
        found.append(
            _formed(column, cases, vocabulary, short)
            if cases and column.facet in vocabulary
            else column
        )
    return found


def _formed(
    column: SlotCandidate, cases: list[tuple[str, str]], vocabulary: Vocabulary, short: bool = False
) -> SlotCandidate:
    ways = [(column.form, column.article)]
    ways += [
        (form, article)
        for form in FORMS
        for article in ("", "a")
        if form != "clause" or not article
    ]
    scores = {way: _score(column, *way, cases, vocabulary) for way in dict.fromkeys(ways)}
    form, article = max(
        scores, key=lambda way: (scores[way], short and way[0] == "short", way == ways[0])
    )
    return column._replace(form=form, article=article)


def _score(
    column: SlotCandidate,
    form: str,
    article: str,
    cases: list[tuple[str, str]],
    vocabulary: Vocabulary,
) -> int:
    """How many texts of a column come back."""
    rule = SlotRule("x", column.facet, declared=True, take=(1, 9))
    formula = building.formula(
        "column", [building.phrase("x", [building.group("x", article, form)])], {"x": rule}
    )
    writer = Writer(formula, PLAIN, vocabulary)
    good = 0
    for text, fill in cases:
        try:
            said = writer.sketch(writer.fills({"x": fill}))
        except BadFills:
            continue
        whole = " ".join(part for part in (column.lead, said, column.tail) if part)
        good += normal(whole) == normal(text)
    return good
