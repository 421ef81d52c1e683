"""What a text says, word by word: so that no pick says again what is there already."""

import re
from functools import lru_cache

from syntagma.core.english.idle_words import IN_STATEMENTS
from syntagma.core.vocabulary.terms import Term, normal

# Words that say the same thing: a picture of fog needs no mist.
_SAME = {
    word: said[0]
    for said in (
        "fog mist haze smog".split(),
        "rain drizzle shower downpour puddle".split(),
        "snow snowfall blizzard".split(),
        "dusk sunset twilight nightfall".split(),
        "dawn sunrise daybreak".split(),
        "hush silent quiet silence".split(),
        "calm serene tranquil still".split(),
        "sun sunlight sunlit sunshine".split(),
        "sad melancholy wistful".split(),
        "wood wooden timber".split(),
        "empty deserted".split(),
        "old antique ancient".split(),
        "boat vessel launch".split(),
        "blur blurred".split(),
        "smile grin".split(),
        "gull seagull".split(),
    )
    for word in said
}


@lru_cache(maxsize=8192)
def content_words(text: str) -> frozenset[str]:
    """The words of `text` that say something, without their endings: "wet quays" → {"wet", "quay"}."""
    words = re.findall(r"[^\W\d_]{3,}", normal(text))
    return frozenset(re.sub(r"(?<=\w{3})(?:ies|es|s|ing|ed|ly)$", "", w) for w in words if w not in IN_STATEMENTS)


@lru_cache(maxsize=8192)
def ideas(text: str) -> frozenset[str]:
    """The content words of `text`, those that say the same being one."""
    return frozenset(_SAME.get(word, word) for word in content_words(text))


@lru_cache(maxsize=8192)
def said(term: Term) -> frozenset[str]:
    """The ideas that a term brings into a prompt, in whichever form."""
    return ideas(f"{term.term} {term.phrase} {term.place} {term.clause}")
