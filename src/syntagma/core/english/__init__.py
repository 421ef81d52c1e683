"""English for prompts: articles, plurals, the parts of a noun group, lists, and where sentences
begin and end.

Rules first, lists of exceptions beside them (word_lists.py); tests/core/test_english.py holds the
tables of cases. Nothing here knows a formula or a vocabulary: every function takes and gives plain
text.
"""

from syntagma.core.english.articles import article
from syntagma.core.english.noun_groups import (
    countability,
    plural,
    split_determiner,
    split_place,
    starts_with_preposition,
)
from syntagma.core.english.plurals import is_plural
from syntagma.core.english.sentences import (
    capitalised,
    count_words,
    ends_sentence,
    has_stop,
    listed,
    read_count,
    without_end,
    without_stop,
)

__all__ = [
    "article",
    "capitalised",
    "count_words",
    "countability",
    "ends_sentence",
    "has_stop",
    "is_plural",
    "listed",
    "plural",
    "read_count",
    "split_determiner",
    "split_place",
    "starts_with_preposition",
    "without_end",
    "without_stop",
]
