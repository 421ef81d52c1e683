"""A text in stretches that are read as one: what is between marks of its outer form."""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from syntagma.core.reading.labels import facet_of_label
from syntagma.core.reading.model.features import StretchContext, WordRow
from syntagma.core.reading.model.words import ReadWord, WordKnowledge
from syntagma.core.reading.outer_form import Outside, Region, runs


class WordSpan(NamedTuple):
    """A stretch of words, and the regions of the text that it was made of: text, and the marks of stress in it."""

    stretch: WordRow
    run: list[Region]


def stretches(text: str, outer: Outside, knowledge: WordKnowledge) -> Iterator[WordSpan]:
    """The stretches of words of a text. Marks of stress on words don't part them."""
    first = True
    for run in runs(outer.regions):
        texts = [region for region in run if region.kind == "text"]
        if not texts:
            continue
        words = knowledge.words(text, texts[0].start, texts[0].stop) if len(texts) == 1 else _marked(text, texts, knowledge)
        if any(word.is_word for word in words):
            yield WordSpan(WordRow(knowledge, words, StretchContext(outer.form, _label(texts[0].name), first)), run)
            first = False


def _marked(text: str, texts: Sequence[Region], knowledge: WordKnowledge) -> list[ReadWord]:
    """Words with marks of stress between or within them: read without the marks, put where they stand."""
    plain = "".join(text[r.start : r.stop] for r in texts)
    places = [at for r in texts for at in range(r.start, r.stop)]
    return [w._replace(start=places[w.start], stop=places[w.stop - 1] + 1) for w in knowledge.words(plain, 0, len(plain))]


def _label(name: str) -> str:
    """What a label says, as far as it is known; else its last word."""
    low = name.lower()
    last = low.replace(".", " ").replace("_", " ").replace("-", " ").split()[-1:] or [""]
    return facet_of_label(low) or facet_of_label(last[0]) or last[0]
