"""In which form, and with which article, a learned slot is written: that which gives back most of what the examples have there."""

from collections.abc import Mapping, Sequence

from syntagma.core.drafting.fills import BadFills
from syntagma.core.formula import SlotRule, building
from syntagma.core.models import PLAIN
from syntagma.core.reading.formulas.learned_formula import SlotCandidate, slot_names
from syntagma.core.vocabulary.terms import Vocabulary, normal
from syntagma.core.writing.prompt_writer import Writer

FORMS = ("", "short", "place", "clause")


def formed(
    columns: Sequence[SlotCandidate], bodies: Sequence[str], fills: Sequence[Mapping[str, str] | None], vocabulary: Vocabulary
) -> list[SlotCandidate]:
    """The columns, each in the form and with the article that write its fills most often as they are in the examples. `fills` are
    those that each body gave when it was matched, None if it could not be."""
    found = []
    clothed = any(column.facet == "wardrobe" for column in columns)  # then whoever is dressed comes without the clothes that their term has
    for column, slot in zip(columns, slot_names(columns), strict=True):
        cases = [
            (body[span[0] : span[1]], given[slot])
            for body, span, given in zip(bodies, column.spans, fills, strict=True)
            if slot and span and given and slot in given
        ]
        traits = vocabulary.traits.get(column.facet)
        short = clothed and traits is not None and traits.participant
        found.append(_formed(column, cases, vocabulary, short) if cases and column.facet in vocabulary else column)
    return found


def _formed(column: SlotCandidate, cases: list[tuple[str, str]], vocabulary: Vocabulary, short: bool = False) -> SlotCandidate:
    ways = [(column.form, column.article)]
    ways += [(form, article) for form in FORMS for article in ("", "a") if form != "clause" or not article]
    scores = {way: _score(column, *way, cases, vocabulary) for way in dict.fromkeys(ways)}
    form, article = max(scores, key=lambda way: (scores[way], short and way[0] == "short", way == ways[0]))
    return column._replace(form=form, article=article)


def _score(column: SlotCandidate, form: str, article: str, cases: list[tuple[str, str]], vocabulary: Vocabulary) -> int:
    """How many texts of a column come back."""
    rule = SlotRule("x", column.facet, declared=True, take=(1, 9))
    formula = building.formula("column", [building.phrase("x", [building.group("x", article, form)])], {"x": rule})
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
