"""Why a part is taken for what it is: what weighed most for its facet, in words."""

from collections.abc import Iterator

from syntagma.core.reading.model.features import Item, WordRow
from syntagma.core.reading.model.weights import FoundPart, PartsModel

MOST = 2


def reason(model: PartsModel, stretch: WordRow, part: FoundPart) -> str:
    """What weighed most for the facet of a part, one or two things."""
    if part.facet not in model.parts.labels:
        return f"words of the vocabulary's {part.facet}"  # the model knows no such facet
    at = model.parts.labels.index(part.facet)
    said: dict[str, int] = {}
    for item, words in _told(stretch, part):
        said[words] = said.get(words, 0) + model.parts.field(model.parts.packed((item,), stretch.spell), at)
    best = sorted((words for words in said if said[words] > 0), key=lambda words: -said[words])[:MOST]
    return ", ".join(best) or "by all its words together"


def _told(stretch: WordRow, part: FoundPart) -> Iterator[tuple[Item, str]]:
    """The features of a part that a person is helped by, and how they are reported."""
    a, b = part.first, part.stop
    words, seen = stretch.words, stretch.seen[a]
    head = min(max(seen.head, a), b - 1)
    yield ("H", words[head].low), f"its main word is “{words[head].low}”"
    if head != a:
        yield ("F", words[a].low), f"begins with “{words[a].low}”"
    if a and words[a - 1].is_word:
        yield f"-={words[a - 1].low}", f"comes after “{words[a - 1].low}”"
    if stretch.setting.label:
        yield f"l={stretch.setting.label} {(True, True)}", f"is under “{stretch.setting.label}”"
    if seen.quoted:
        yield "q", "in quotation marks"
    if seen.lead:
        yield f"p={seen.lead}", f"“{seen.lead}” leads to it"
    for x in range(a, b):
        for kind, spoken, whose in (("v", stretch.named[x], "words of the vocabulary's"), ("t", stretch.traded[x], "words of the trade for")):
            for stop, facets in spoken:
                if stop <= b and part.facet in facets:
                    yield f"{kind}={part.facet} {'all' if stop - x >= b - a else 'half'}{' end' if stop == b else ''}", f"{whose} {part.facet}"
