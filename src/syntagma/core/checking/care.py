"""What no command writes: a prompt that shows a child in a sexual way, or undressed. It is refused, and never reworded."""

import re
from functools import lru_cache

from syntagma.core.diagnostics.findings import ERROR, Finding
from syntagma.core.notation.late_regex import regex

_AGE = r"(?:1[0-7]|[1-9])[ -](?:years?|yrs?|yo)(?:[ -]olds?)?|(?:aged?|age of) (?:1[0-7]|[1-9])\b|(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|thirteen|fourteen|fifteen|sixteen|seventeen)[ -]years?[ -]olds?"
_CHILD = regex(
    rf"\b(?:child|children|childs|kid|kids|boys?|girls?|toddlers?|bab(?:y|ies)|infants?|newborns?|minors?|underage|under-age|pre-?teens?|tweens?|teens?|teenagers?|teenaged?|adolescents?|school ?(?:boys?|girls?|child|children|kids?)|daughters?|pupils?|loli\w*|shota\w*|{_AGE})\b",
    re.I,
)
_WORDS = (
    r"nudes?|nudity|nudist|naked|topless|bottomless|undress(?:ed|ing)?|unclothed|bare[- ](?:breast(?:s|ed)?|bottom)|without (?:any )?clothes|no clothes on|sex|sexual\w*|sexy|sexi(?:er|est)|erotic\w*|porn\w*|nsfw|hentai|ecchi|lewd|lingerie"
    r"|fetish\w*|seductive\w*|sensual\w*|provocative (?:poses?|looks?|outfits?|clothes|dress)|sultry (?:looks?|gaze|poses?|eyes|smile|expression)|lustful|aroused|orgasm\w*|genitals?|breasts|nipples?|cleavage|striptease|boudoir|pin-?ups?|bedroom eyes|g-string"
)
_SEXUAL = regex(rf"\b(?:{_WORDS})\b", re.I)
_HARMLESS = regex(
    r"\b(?:naked (?:eyes?|branch(?:es)?|trees?|twigs?|bulbs?|flames?|light|rock|hills?|blades?|mole rats?)|(?:naked|unclothed) (?:baby |newborn )?(?:birds?|mice|mouse|chicks?|kittens?|animals?)|nude (?:colou?rs?|tones?|shades?|palettes?|lips?|lipstick|heels?|nails?|make-?up|pink|beige)"
    r"|(?:chicken|turkey|duck|goose) breasts|bottomless (?:pit|well|sea|lake|bag|cup)|baby (?:blue|pink|grand)|(?:same|single|opposite|mixed)[- ]sex|sex of the (?:baby|child)|minor (?:key|chord|role|character|planet|scale|damage|detail)s?|boys? band|girls? band|pin-?up girls?)\b",
    re.I,
)
_DENIED = regex(rf"\b(?:(?:no|not|without|never|nobody(?: is)?|no one(?: is)?|avoid(?:ing)?|excluding|free of) (?:any |a |full |explicit )?(?:\w+ (?:or|and) )?|non-)(?:{_WORDS})\b", re.I)  # "no nudity", "without violence or nudity"; but "without clothes" is what it says
_BARE = regex(r"\b(?:without (?:any )?clothes|no clothes on)\b", re.I)

MESSAGE = "Syntagma writes no prompt that sexualises or undresses a child, for any model"
REMEDY = "remove that; Syntagma will not reword it"
CHILD, SEXUAL = 1, 2


@lru_cache(maxsize=8192)
def signs(text: str) -> int:
    """Which of the two a piece of text may say, CHILD and SEXUAL added up: cheap, for pieces that many prompts share."""
    return (CHILD if _CHILD.search(text) else 0) + (SEXUAL if _SEXUAL.search(text) else 0)


def against_children(text: str) -> bool:
    """Does a prompt show a child in a sexual way, or undressed? What it keeps out ("no nudity") does not count, nor what only sounds so ("naked trees")."""
    if not _SEXUAL.search(text):
        return False
    plain = _HARMLESS.sub(" ", text)
    said = _DENIED.sub(" ", _BARE.sub(" naked ", plain))  # only the word that is denied goes
    return bool(_SEXUAL.search(said) and _CHILD.search(plain))


def care(text: str) -> Finding | None:
    """The error that such a prompt is refused with; None for any other."""
    return Finding(ERROR, MESSAGE, REMEDY, "text", code="child") if against_children(text) else None
