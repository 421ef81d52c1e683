"""Why a part is taken for what it is: what weighed most for its facet, in words."""

from syntagma.core.reading.model.features import Item, Stretch
from syntagma.core.reading.model.weights import Found, Model

# How features are told, by the letters that they begin with; {} is what stands behind these. Others are not told.
_TOLD = {
    "-": "stands behind “{}”", "+": "stands before “{}”", "t": "words of the trade for {}", "v": "words of the vocabulary's {}",
    "l": "stands under “{}”", "r": "follows {}", "p": "“{}” leads to it",
}  # fmt: skip
_BUNDLES = {"H": "its main word is “{}”", "F": "begins with “{}”"}
MOST = 2


def reason(model: Model, stretch: Stretch, part: Found) -> str:
    """What weighed most for the facet of a part, one or two things."""
    said: dict[str, float] = {}
    at = model.parts.labels.index(part.facet)
    for item in stretch.of_part(part.first, part.stop):
        words = _told(item)
        if words:
            said[words] = said.get(words, 0.0) + model.parts.field(model.parts.packed((item,), stretch.spell), at)
    best = sorted((words for words in said if said[words] > 0), key=lambda words: -said[words])[:MOST]
    return ", ".join(best) or "by all its words together"


def _told(item: Item) -> str:
    """How a feature or a bundle of them is told; "" for those that a person would not be helped by."""
    if not isinstance(item, str):
        told = _BUNDLES.get(item[0])
        return told.format(item[-1]) if told else ""
    kind, equals, value = item.partition("=")
    if kind == "q" and not equals:
        return "in quotation marks"
    told = _TOLD.get(kind)
    value = value.split(" ")[0]
    return told.format(value) if told and value and value[0].isalnum() else ""
